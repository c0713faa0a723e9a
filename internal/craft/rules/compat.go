package rules

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
)

// Rules between neighbouring layers, or a material and what it is made in.

const cureTest = "A patch test of the two together, cured through."

func latexHands(c Case) []Finding {
	var out []Finding
	for _, slug := range c.Section.Touching {
		p := c.Shelf[slug]
		if !p.IsLatex() {
			continue
		}
		c.Section.All(func(_ section.Cut, _ int, l section.Layer) {
			if len(out) == 0 && c.Shelf[l.Material].Family == material.SiliconeAddition {
				out = append(out, Finding{Above: l.ID, Product: slug, Reason: fmt.Sprintf("%s touch it, and latex keeps addition silicone sticky.", p.Name), Remedy: "Nitrile or vinyl at the bench and on the day.", Instead: c.insteadOf(p)})
			}
		})
	}
	return out
}

func inhibition(c Case) []Finding {
	var out []Finding
	for i := 1; i < len(c.Cut.Layers); i++ {
		below := c.under(i, func(l section.Layer) bool { return l.Kind == section.Paint || l.Kind == section.Powder })
		above := c.Cut.Layers[i]
		a, b := c.product(below), c.product(above)
		if a.Family != material.SiliconeAddition {
			a, b = b, a
		}
		if a.Family != material.SiliconeAddition {
			continue
		}
		f := Finding{Below: below.ID, Above: above.ID, Settles: cureTest, Instead: c.available("encapsulator-acetone")}
		switch {
		case b.IsLatex():
			f.Reason, f.Remedy = a.Name+" does not cure against natural rubber: the surface stays sticky.", "Put an encapsulating film between them, or build one of the two from something else."
		case b.Family == material.SiliconeCondensation:
			f.Reason, f.Remedy, f.Instead = a.Name+" stays sticky against condensation silicone that is not fully cured.", "Seal between them, or take one system throughout.", nil
		case b.Family == material.FoamPolyurethane:
			f.Reason, f.Remedy = a.Name+" stays sticky on bare polyurethane foam: its amines stop the cure.", "Seal the foam first, and let the seal dry through."
		default:
			continue
		}
		out = append(out, f)
	}
	return append(out, mouldInhibits(c)...)
}

func mouldInhibits(c Case) []Finding {
	m := c.Section.Made
	what := map[string]string{"sulphur_clay": "sulphur clay", "epoxy": "amine epoxy", "print": "uncured print resin", "silicone_condensation": "fresh condensation silicone"}[m.Of]
	if what == "" || m.Sealed {
		return nil
	}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if p.Family != material.SiliconeAddition || l.Method == "direct" {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " stays sticky where it meets " + what + ".", Remedy: "Seal what it is cast in and patch-test, or make it of something else.", Settles: cureTest}
	})
}

func postCuredMould(c Case) []Finding {
	if c.Section.Made.Of != "silicone_condensation" || !c.Section.Made.Sealed {
		return nil
	}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if p.Family != material.SiliconeAddition {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " is cast in condensation silicone, sealed and cured through: usually it cures.", Remedy: "Patch-test in a corner of the mould first.", Settles: cureTest}
	})
}

func latexOnCopper(c Case) []Finding {
	if c.Section.Made.Of != "copper" {
		return nil
	}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if !p.IsLatex() {
			return nil
		}
		return &Finding{Above: l.ID, Reason: "Copper and brass stain " + p.Name + " and perish it.", Remedy: "Take another tool or mould, or seal the metal wholly."}
	})
}

func mineralOil(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if p.Oil != "mineral" || !slices.ContainsFunc(c.Cut.Layers, func(x section.Layer) bool { return c.product(x).IsLatex() }) {
			return nil
		}
		f := &Finding{Above: l.ID, Reason: p.Name + " holds mineral oil, which makes latex swell and perish.", Remedy: "Take a water-based cream, or keep it off what must last.", Settles: "A day under it on a scrap."}
		if l.Purpose != "" {
			f.Severity, f.Reason, f.Remedy = Tip, p.Name+" is here on purpose: "+l.Purpose+". It still shortens the life of latex.", "Wipe off what is not needed."
		}
		return f
	})
}

func slushMould(c Case) []Finding {
	m := c.Section.Made
	if m.Of == "" || m.Of == "gypsum" && !m.Sealed {
		return nil
	}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Latex || l.Method != "slush" {
			return nil
		}
		return &Finding{Above: l.ID, Reason: "Slush casting needs a mould that drinks water; this one does not, so hardly any wall builds.", Remedy: "Cast in dry, unsealed plaster, or brush the latex in coats.", Settles: "A wall gauge after ten minutes of dwell."}
	})
}

func latexOnHair(c Case) []Finding {
	if c.Section.MadeOn() != section.OnSkin {
		return nil
	}
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Latex || !c.onSkin(i) {
			return nil
		}
		for _, h := range c.Place.Hair {
			if h.By == "" && h.How != "shaved" && h.How != "keep free" {
				return &Finding{Below: "skin", Above: l.ID, Reason: fmt.Sprintf("%s would go straight on %.1f cm² of %s, and nothing protects it.", p.Name, h.CM2, orHair(h.Text)), Remedy: "Protect it with grease, glue stick, a film or a cap, and say so on the map.", Settles: "The map says what protects it."}
			}
		}
		return nil
	})
}

func orHair(text string) string {
	if text == "" {
		return "hair"
	}
	return text
}

func adhesiveHolds(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Adhesive {
			return nil
		}
		for _, body := range c.Cut.Layers[i+1:] {
			if !body.Kind.IsAppliance() {
				continue
			}
			f := &Finding{Below: l.ID, Above: body.ID, Settles: "A pull test on a spare."}
			switch {
			case p.Family == material.AdhesiveLash:
				f.Reason, f.Remedy, f.Instead = p.Name+" holds hair and trims, not a piece.", "Take an adhesive for pieces.", c.available("adhesive-acrylic", "adhesive-silicone")
			case c.product(body).IsSilicone() && (p.Family == material.AdhesiveAcrylic || p.Family == material.AdhesiveGum):
				f.Reason, f.Remedy, f.Instead = p.Name+" does not hold bare silicone.", "Bring the encapsulating film round the back, or take a silicone adhesive.", c.available("adhesive-silicone")
			default:
				return nil
			}
			return f
		}
		return nil
	})
}

func noBarrier(c Case) []Finding {
	sensitive := slices.ContainsFunc(c.Wearer.Facts, func(f substance.Fact) bool { return f.Speaks() && f.Status != substance.Excludes })
	done := false
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if done || c.beneath(i, section.Barrier) {
			return nil
		}
		stipple := l.Kind == section.Latex && c.Section.MadeOn() == section.OnSkin && c.onSkin(i)
		if !(l.Kind == section.Adhesive && sensitive) && !stipple {
			return nil
		}
		done = true
		reason := "Nothing lies between the skin and " + p.Name + "."
		if sensitive {
			reason = "The wearer's skin is recorded as sensitive and nothing lies between it and " + p.Name + "."
		}
		return &Finding{Below: "skin", Above: l.ID, Reason: reason, Remedy: "Put a barrier film under it.", Instead: c.available("barrier-film")}
	})
}

func waterGlueOnGelatin(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		next, ok := c.above(i)
		if l.Kind != section.Adhesive || p.Solvent != "water" || !ok || next.Kind != section.Gelatin {
			return nil
		}
		return &Finding{Below: l.ID, Above: next.ID, Reason: p.Name + " is water-based: it bites into unsealed gelatin and lets go with sweat.", Remedy: "Seal the back of the gelatin, or take a solvent adhesive.", Settles: "An hour of walking in it.", Instead: c.available("sealer-plastic", "adhesive-silicone")}
	})
}

// paint asks about every colour with the ground that it lies on.
func (c Case) paint(f func(l section.Layer, p material.Product, ground section.Layer) *Finding) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Paint {
			return nil
		}
		return f(l, p, c.ground(i))
	})
}

func waterPaintOnRubber(c Case) []Finding {
	return append(waterOnGrease(c), c.paint(func(l section.Layer, p material.Product, g section.Layer) *Finding {
		if p.Family != material.PaintWater || g.Kind != section.Latex && g.Kind != section.Foam && g.Kind != section.Wax {
			return nil
		}
		return &Finding{Below: g.ID, Above: l.ID, Reason: p.Name + " slides on " + c.product(g).Name + " and does not blend.", Remedy: "Take cream or alcohol-activated colour; keep water colour for flicks and runs.", Instead: c.available("paint-cream", "paint-alcohol")}
	})...)
}

// waterOnGrease is water-activated colour over cream, set or not: it beads.
func waterOnGrease(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Paint || p.Family != material.PaintWater {
			return nil
		}
		for j := i - 1; j > 0; j-- {
			below := c.Cut.Layers[j]
			switch {
			case below.Kind == section.Powder:
				continue
			case c.product(below).Family == material.PaintCream:
				return &Finding{Below: below.ID, Above: l.ID, Reason: p.Name + " beads and streaks on " + c.product(below).Name + ", powdered or not.", Remedy: "Take cream on cream, or alcohol-activated colour under the cream.", Settles: "A stroke on a scrap with the same base.", Instead: c.available("paint-cream", "powder-tinted")}
			}
			return nil
		}
		return nil
	})
}

func alcoholOnFoam(c Case) []Finding {
	return c.paint(func(l section.Layer, p material.Product, g section.Layer) *Finding {
		if p.Family != material.PaintAlcohol || g.Kind != section.Foam && g.Kind != section.SoftFoam {
			return nil
		}
		return &Finding{Below: g.ID, Above: l.ID, Reason: p.Name + " soaks into bare foam and dries patchy.", Remedy: "Seal the foam, or take adhesive-bound acrylic or cream.", Instead: c.available("sealer-acrylic", "paint-adhesive", "paint-cream")}
	})
}

func paintOnSilicone(c Case) []Finding {
	return c.paint(func(l section.Layer, p material.Product, g section.Layer) *Finding {
		if g.Kind != section.Silicone || p.Family == material.PaintSilicone {
			return nil
		}
		return &Finding{Below: g.ID, Above: l.ID, Reason: p.Name + " does not hold on bare silicone and peels.",
			Remedy: "Take a silicone-bound colour, or close the silicone with an encapsulating film first.", Settles: "A tape test on a cured scrap.", Instead: c.available("paint-silicone", "encapsulator-acetone")}
	})
}

func unsetCream(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		next, ok := c.above(i)
		if p.Family != material.PaintCream || !ok || next.Kind == section.Powder || c.product(next).Family == material.PaintCream {
			return nil
		}
		return &Finding{Below: l.ID, Above: next.ID, Reason: c.product(next).Name + " lies on cream that is not set: it lifts and goes muddy.", Remedy: "Powder the cream first.", Instead: c.available("powder-translucent")}
	})
}

func waterPaintOnGelatin(c Case) []Finding {
	return c.paint(func(l section.Layer, p material.Product, g section.Layer) *Finding {
		if p.Family != material.PaintWater || g.Kind != section.Gelatin {
			return nil
		}
		return &Finding{Below: g.ID, Above: l.ID, Reason: p.Name + " dissolves the surface of unsealed gelatin.", Remedy: "Seal the gelatin, or take another colour.", Instead: c.available("sealer-plastic", "paint-alcohol")}
	})
}

func longWear(c Case) []Finding {
	if c.WearHours < 5 {
		return nil
	}
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Paint || l.Role != "shadow" && l.Role != "line" || c.over(i, section.Powder) {
			return nil
		}
		return &Finding{Above: l.ID, Reason: fmt.Sprintf("The darkest marks in %s fade first over %g hours.", p.Name, c.WearHours), Remedy: "Set them with powder or shadow of the same tone."}
	})
}

func dissolvesFilm(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Paint && l.Kind != section.Seal || p.Solvent == "" {
			return nil
		}
		g := c.ground(i)
		film := c.product(g)
		if g.Kind != section.Encapsulator || p.Solvent != film.Solvent || p.Family == material.Encapsulator {
			return nil
		}
		return &Finding{Below: g.ID, Above: l.ID, Reason: p.Name + " carries " + p.Solvent + ", which dissolves " + film.Name + ".",
			Remedy: "Take an encapsulator with another solvent, or seal it before colour.", Settles: "A brush test on a spare edge.", Instead: c.available("encapsulator-acetone", "paint-silicone")}
	})
}

func noRelease(c Case) []Finding {
	m := c.Section.Made
	if m.Of == "" || m.Release != "" || c.Section.MadeOn() != section.InMould {
		return nil
	}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		cast := l.Kind == section.Silicone && l.Method != "direct" || l.Kind == section.Foam || l.Kind == section.SoftFoam || l.Kind == section.Gelatin && l.Method != "dropped"
		if !cast {
			return nil
		}
		return &Finding{Above: l.ID, Reason: "Nothing parts " + p.Name + " from what it is cast in: it bonds or tears.", Remedy: "Say which release goes on mould and core.", Instead: c.available("release-wax")}
	})
}

func gelatinInHeat(c Case) []Finding {
	sweat := map[string]float64{"still": 0.03, "acting": 0.05, "walking": 0.15, "running": 0.3}[c.Exertion]
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Gelatin || p.Base == nil {
			return nil
		}
		worst, at := 1e9, Day{}
		var softens, gets float64
		for _, d := range c.Days {
			w := worn(l, d, c.WearHours, sweat)
			if !c.beneath(i, section.Barrier) {
				w.Barrier = 0.3
			}
			if s := p.Base.Softening(w); s.MarginK < worst {
				worst, at, softens, gets = s.MarginK, d, s.SoftenC, s.ServiceC
			}
		}
		if worst >= 5 {
			return nil
		}
		return &Finding{Above: l.ID, Reason: fmt.Sprintf("%s: the piece gets %.0f °C warm and softens at %.0f °C after %g hours of wear.", at.Name, gets, softens, c.WearHours), Remedy: "Cool it between takes, change it at the break, or take silicone for that day.", Settles: "A melt test of this batch in a pot.", Instead: c.available("silicone-gel")}
	})
}

func waxUnsealed(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		next, ok := c.above(i)
		covered := false
		for _, s := range c.Place.Shares {
			covered = covered || s.CoveredCM2 > 0.5
		}
		if l.Kind != section.Wax || ok && (next.Kind == section.Seal || next.Kind == section.Latex || next.Kind == section.Encapsulator) || !covered && !c.over(i, section.Paint) {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " lies unsealed under colour or costume: it dents and takes colour unevenly.", Remedy: "Seal it thin, and powder.", Instead: c.available("sealer-plastic", "latex-balloon")}
	})
}

func waxFingers(c Case) []Finding {
	return c.each(func(i int, l section.Layer, _ material.Product) *Finding {
		if l.Kind != section.Wax {
			return nil
		}
		with := "a little oil or petroleum jelly"
		for _, over := range c.Cut.Layers[i+1:] {
			if p := c.product(over); over.Kind == section.Adhesive || over.Kind == section.Seal || over.Kind == section.Latex || p.Solvent == "water" {
				with = "water or lotion, never oil: " + p.Name + " goes over it and would not hold"
				break
			}
		}
		return &Finding{Above: l.ID, Reason: "Wax sticks to warm fingers.", Remedy: "Keep them off it with " + with + "."}
	})
}

func waxInHeat(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Wax {
			return nil
		}
		reason := ""
		for _, d := range c.Days {
			if h := held(p.Firmness, l, d); h.Class == "sags" || h.Class == "soft" {
				reason = fmt.Sprintf("%s: %s gets %.0f °C and holds to %.0f °C: it goes soft.", d.Name, p.Name, h.ServiceC, h.LimitC)
				if h.Class == "sags" {
					break
				}
			}
		}
		if c.MovesMuch {
			if reason != "" {
				reason += " "
			}
			reason += "It lies where the wearer moves and cracks away."
		}
		if reason == "" {
			return nil
		}
		return &Finding{Above: l.ID, Reason: reason, Remedy: "Take silicone or gelatin there, or keep it small and touch it up.", Instead: c.available("silicone-direct", "gelatin-animal", "gelatin-plant")}
	})
}

func openFibre(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, _ material.Product) *Finding {
		f := c.Shelf[l.Fibre]
		if f.Fibre == nil || f.Fibre.Loft < 3 {
			return nil
		}
		return &Finding{Above: l.ID, Reason: f.Name + " goes on lumpy as it comes.", Remedy: "Open it to a veil; two thin ones lie better than one thick."}
	})
}

func tooMuchFibre(c Case) []Finding {
	count, at := 0, ""
	for _, l := range c.Cut.Layers {
		if l.Kind == section.Latex && l.Fibre != "" {
			count, at = count+l.MostCoats(), l.ID
		}
	}
	if !c.MovesMuch || count <= 4 {
		return nil
	}
	return []Finding{{Above: at, Reason: fmt.Sprintf("%d reinforced layers on a moving area will not fold with the skin.", count), Remedy: "Four at most here; carry the rest with plain coats."}}
}
