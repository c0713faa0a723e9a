package rules

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/section"
)

// Rules about the order of work.

func coatsTooSoon(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, _ material.Product) *Finding {
		if l.Kind != section.Latex || l.BetweenS == nil || l.MostCoats() < 2 {
			return nil
		}
		r := c.Result.Of(l.ID)
		if *l.BetweenS >= r.RecoatS || r.RecoatS == 0 {
			return nil
		}
		reason := fmt.Sprintf("A coat is ready for the next after about %s here; %s is planned.", quantity.FormatDuration(r.RecoatS), quantity.FormatDuration(*l.BetweenS))
		if extra := r.WetS - r.DryS; extra > 0 {
			reason += fmt.Sprintf(" Stacked wet it dries through in about %s instead of %s: %s more.", quantity.FormatDuration(r.WetS), quantity.FormatDuration(r.DryS), quantity.FormatDuration(extra))
		}
		return &Finding{Above: l.ID, Reason: reason, Remedy: fmt.Sprintf("Leave %s between coats, or dry each one with moving air.", quantity.FormatDuration(r.RecoatS)), Settles: "A touch on a hidden spot: clear, and not tacky."}
	})
}

// isStipple is latex put straight on skin and not yet powdered by itself.
func (c Case) isStipple(i int, l section.Layer) bool {
	return l.Kind == section.Latex && c.Section.MadeOn() == section.OnSkin && !l.Stretched
}

func overStipple(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		next, ok := c.above(i)
		if !ok || !c.isStipple(i, l) || next.Kind == section.Powder || next.Kind == section.Latex && next.Material == l.Material {
			return nil
		}
		return &Finding{Below: l.ID, Above: next.ID, Reason: c.product(next).Name + " goes over " + p.Name + " that is not powdered yet: it rolls and sticks.", Remedy: "Powder it first, or put on only a further coat of the same.", Settles: "A finger slides over it.", Instead: c.available("powder-translucent")}
	})
}

func latexUnpowdered(c Case) []Finding {
	layers := c.Cut.Layers
	last := slices.IndexFunc(layers, func(l section.Layer) bool { return l.Kind == section.Latex && !l.Stretched })
	if last < 0 || c.over(last, section.Powder) {
		return nil
	}
	return []Finding{{Above: layers[last].ID, Reason: "Nothing here powders the latex, and bare latex sticks to itself for good.", Remedy: "Add a powder layer, and powder before anything is lifted or folded.", Instead: c.available("powder-translucent")}}
}

func stretchAfterGlue(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if !l.Stretched {
			return nil
		}
		if c.beneath(i, section.Adhesive) {
			return &Finding{Above: l.ID, Reason: "The skin is stretched for " + p.Name + " after something was glued here: stretching lifts it.", Remedy: "Stretch and stipple first, glue after."}
		}
		for _, n := range c.Neighbours {
			if n.Glued && slices.Contains(c.Section.LiesOver, n.Code) {
				return &Finding{Above: l.ID, Reason: "It goes on after " + n.Code + " is glued beside it: stretching lifts that.", Remedy: "Stretch and stipple before " + n.Code + " is fitted."}
			}
		}
		return nil
	})
}

func colourUnder(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Paint || !l.ShowsThrough || c.over(i, section.Latex, section.Gelatin, section.Silicone, section.Encapsulator) {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " is meant to show through, and nothing lies over it.", Remedy: "Put it under the stipple."}
	})
}

func sharpAtTheFace(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Insert || !l.Sharp || l.Fitted != "on the face" {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " has points and would be fitted when the piece is on the face.", Remedy: "Set pins, points and wires at the bench, capped on the inside."}
	})
}

func pieceOrder(c Case) []Finding {
	var out []Finding
	for _, n := range c.Neighbours {
		if n.OverlapCM2 < 0.5 {
			continue
		}
		mine, theirs := slices.Contains(c.Section.LiesOver, n.Code), slices.Contains(n.LiesOver, c.Code)
		switch {
		case mine && theirs:
			out = append(out, Finding{AtEdge: true, Reason: fmt.Sprintf("%s and %s each say that they lie over the other.", c.Code, n.Code), Remedy: "Decide which edge lies on top; the other piece goes on first."})
		case !mine && !theirs:
			out = append(out, Finding{AtEdge: true, Severity: Tip, Reason: fmt.Sprintf("%.1f cm² of skin lie under both %s and %s, and nothing says which goes on first.", n.OverlapCM2, c.Code, n.Code), Remedy: "Say over which pieces it lies; centre first, then outward."})
		}
	}
	return out
}

func orderOfFinish(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		switch {
		case l.Kind == section.Hair && c.over(i, section.Paint):
			return &Finding{Above: l.ID, Reason: "Hair is laid before the colour over it: colour clots in it and cannot reach the skin.", Remedy: "Colour first, then hair."}
		case p.Family == material.Glitter && c.under(i, func(section.Layer) bool { return false }).Kind == section.Powder:
			return &Finding{Above: l.ID, Reason: "Powder takes the tack away that glitter needs.", Remedy: "Glitter first, powder round it."}
		case l.Kind == section.WetLook && c.over(i, section.Powder):
			return &Finding{Above: l.ID, Reason: "Powder over wet look dulls it.", Remedy: "Set first, wet look last."}
		}
		return nil
	})
}

func lineUnderBase(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Paint || l.Role != "line" {
			return nil
		}
		for _, over := range c.Cut.Layers[i+1:] {
			if over.Kind == section.Paint && over.Role == "base" {
				return &Finding{Below: l.ID, Above: over.ID, Reason: "The base goes over the lines and loses them.", Remedy: "Remake the lines after it."}
			}
		}
		return nil
	})
}
