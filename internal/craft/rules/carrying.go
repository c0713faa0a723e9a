package rules

import (
	"fmt"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Rules of carrying what is heavy.

func rots(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if !p.Rots || l.Kind != section.Weight && l.Kind != section.Insert {
			return nil
		}
		reason := p.Name + " is plant or food: with sweat it rots, sprouts or smells."
		if h := rotsAfter(c); c.WearHours > 0 {
			reason = fmt.Sprintf("%s is plant or food: damp with sweat it smells and rots after about %.0f h of wear; it is worn %g h a day.", p.Name, h, c.WearHours)
		}
		return &Finding{Above: l.ID, Reason: reason, Remedy: "Take inert beads or foam; seal what must stay.", Instead: c.available("filling-beads", "found-sponge")}
	})
}

// rotsAfter is about how many hours of wear plant or food stands before it smells:
// ours (docs/decisions/0022).
func rotsAfter(c Case) float64 {
	hottest, _ := c.worst()
	median, _ := life{20, 2, 2, [3]float64{0.5, 1, 2}}.hours(hottest, c.Exertion)
	return median
}

// unheldG is what adhesive alone carries, g.
const unheldG = 400

func unanchored(c Case) []Finding {
	if c.Result.WornG <= unheldG || len(c.Section.Support.Anchors) > 0 {
		return nil
	}
	return []Finding{{AtEdge: true, Reason: fmt.Sprintf("It weighs %.0f g and nothing but glue carries it.", c.Result.WornG), Remedy: "Anchor it: straps, a harness, a cap, loops in the costume.", Settles: "Worn for half an hour, walking."}}
}

func swingsEmpty(c Case) []Finding {
	has := false
	c.Section.All(func(_ section.Cut, _ int, l section.Layer) { has = has || l.Kind == section.Weight })
	if c.Section.Support.Movement != "swings" || has {
		return nil
	}
	return []Finding{{AtEdge: true, Reason: "It should swing, and nothing in it has weight.", Remedy: "Bags of inert beads, sewn where it hangs.", Instead: c.available("filling-beads")}}
}
