package rules

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/section"
)

func latexForAllergic(c Case) []Finding {
	var out []Finding
	status := c.Wearer.Sensitivities["latex"]
	if status != Allergic && status != Sensitive {
		return nil
	}
	for _, l := range c.Section.Layers {
		p := c.product(l)
		if !p.IsLatex() {
			continue
		}
		f := Finding{Above: l.ID, Reason: "The wearer is recorded as latex-allergic, and " + p.Name + " is latex.",
			Remedy:  "Take silicone, gelatin or wax instead.",
			Settles: "Only licensed medical advice changes this record; no test of ours does.",
			Instead: c.available("silicone-gel", "gelatin-animal", "gelatin-plant", "wax-soft")}
		if status == Sensitive {
			f.Severity = Stop
			f.Reason = "The wearer is recorded as sensitive to latex, cause unclear, and " + p.Name + " is latex."
		}
		out = append(out, f)
	}
	return out
}

// touchesSkin says which layers need a patch test: adhesives and barriers lie
// on skin, latex may, and colour does where it runs past the edge.
// OnSkin names the materials of a section that touch the wearer's skin, by
// their slugs: each time it is worn is an exposure to them.
func OnSkin(s section.Section) []string {
	var out []string
	for i, l := range s.Layers {
		if (touchesSkin(s, i) || l.Kind == section.Barrier) && !slices.Contains(out, l.Material) {
			out = append(out, l.Material)
		}
	}
	return out
}

func touchesSkin(s section.Section, i int) bool {
	l := s.Layers[i]
	switch l.Kind {
	case section.Adhesive:
		return true
	case section.Latex:
		return i == 1 || s.Layers[i-1].Kind == section.Barrier
	case section.Paint:
		return l.Extent == section.PastEdge
	}
	return false
}

func patchTests(c Case) []Finding {
	if !c.Wearer.Known {
		return nil
	}
	var out []Finding
	for i, l := range c.Section.Layers {
		if !touchesSkin(c.Section, i) {
			continue
		}
		p := c.product(l)
		tests := slices.DeleteFunc(slices.Clone(c.Wearer.PatchTests), func(t PatchTest) bool { return t.Material != l.Material })
		state := "There is no patch test of " + p.Name + " on this wearer."
		for _, t := range tests {
			switch {
			case t.Result == PatchPositive:
				state = "The patch test of " + p.Name + " was positive."
			case t.Result == PatchOpen:
				state = "The patch test of " + p.Name + " is still open."
			case t.ExpiresDay < c.Wearer.Today:
				state = "The patch test of " + p.Name + " has run out."
			default:
				state = ""
			}
			if t.Result == PatchPositive || state == "" {
				break
			}
		}
		if state != "" {
			out = append(out, Finding{Below: "skin", Above: l.ID, Reason: state, Remedy: "Patch-test it 24 to 48 hours ahead, or take one that is clear.", Settles: "A clear patch test."})
		}
	}
	return out
}

func animalExcluded(c Case) []Finding {
	if !slices.Contains(c.Wearer.Excludes, "animal") {
		return nil
	}
	var out []Finding
	for _, l := range c.Section.Layers {
		if p := c.product(l); p.Animal {
			out = append(out, Finding{Above: l.ID, Reason: "The wearer excludes animal-derived material, and " + p.Name + " is.", Remedy: "Take a plant gelling base; it sets and melts a little differently.", Instead: c.available("gelatin-plant")})
		}
	}
	return out
}

func inhibition(c Case) []Finding {
	var out []Finding
	c.pairs(func(below, above section.Layer) {
		a, b := c.product(below), c.product(above)
		if a.Family != material.SiliconeAddition {
			a, b = b, a
		}
		if a.Family != material.SiliconeAddition {
			return
		}
		switch {
		case b.IsLatex():
			out = append(out, Finding{Below: below.ID, Above: above.ID, Reason: a.Name + " does not cure against natural rubber: the surface stays sticky.",
				Remedy: "Put an encapsulating film between them, or build one of the two from something else.", Settles: "A patch test of the two together, cured through.", Instead: c.available("encapsulator-acetone")})
		case b.Family == material.SiliconeCondensation:
			out = append(out, Finding{Below: below.ID, Above: above.ID, Reason: a.Name + " stays sticky against condensation silicone that is not fully cured.",
				Remedy: "Seal between them, or take one system throughout.", Settles: "A patch test of the two together."})
		}
	})
	return out
}

func adhesiveOnSilicone(c Case) []Finding {
	var out []Finding
	c.pairs(func(below, above section.Layer) {
		glue, body := c.product(below), above
		if below.Kind != section.Adhesive || body.Kind != section.Silicone {
			return
		}
		if glue.Family == material.AdhesiveAcrylic || glue.Family == material.AdhesiveGum {
			out = append(out, Finding{Below: below.ID, Above: above.ID, Reason: glue.Name + " does not hold bare silicone.",
				Remedy: "Bring the encapsulating film round the back, or take a silicone adhesive.", Settles: "A pull test on a spare.", Instead: c.available("adhesive-silicone")})
		}
	})
	return out
}

// below finds the first layer under position i that is not colour or powder.
func (c Case) below(i int) section.Layer {
	for j := i - 1; j >= 0; j-- {
		if l := c.Section.Layers[j]; l.Kind != section.Paint && l.Kind != section.Powder {
			return l
		}
	}
	return section.Layer{}
}

func paintOnSilicone(c Case) []Finding {
	var out []Finding
	for i, l := range c.Section.Layers {
		if l.Kind != section.Paint || c.product(l).Family == material.PaintSilicone {
			continue
		}
		if under := c.below(i); under.Kind == section.Silicone {
			out = append(out, Finding{Below: under.ID, Above: l.ID, Reason: c.product(l).Name + " does not hold on bare silicone and peels.",
				Remedy: "Take a silicone-bound colour, or close the silicone with an encapsulating film first.", Settles: "A tape test on a cured scrap.", Instead: c.available("paint-silicone", "encapsulator-acetone")})
		}
	}
	return out
}

func paintDissolvesFilm(c Case) []Finding {
	var out []Finding
	for i, l := range c.Section.Layers {
		if l.Kind != section.Paint {
			continue
		}
		under, paint := c.below(i), c.product(l)
		film := c.product(under)
		if under.Kind == section.Encapsulator && paint.Solvent != "" && paint.Solvent == film.Solvent {
			out = append(out, Finding{Below: under.ID, Above: l.ID, Reason: paint.Name + " carries " + paint.Solvent + ", which dissolves " + film.Name + ".",
				Remedy: "Take an encapsulator with another solvent, or seal it before colour.", Settles: "A brush test on a spare edge.", Instead: c.available("encapsulator-acetone", "paint-silicone")})
		}
	}
	return out
}

func coatsTooSoon(c Case) []Finding {
	var out []Finding
	for i, l := range c.Section.Layers {
		if l.Kind != section.Latex || l.BetweenS == nil || l.Coats < 2 {
			continue
		}
		r := c.Result.Layers[i]
		if *l.BetweenS >= r.RecoatS || r.RecoatS == 0 {
			continue
		}
		reason := fmt.Sprintf("A coat is ready for the next after about %s here; %s is planned.", quantity.FormatDuration(r.RecoatS), quantity.FormatDuration(*l.BetweenS))
		if extra := r.WetS - r.DryS; extra > 0 {
			reason += fmt.Sprintf(" Stacked wet it dries through in about %s instead of %s: %s more.", quantity.FormatDuration(r.WetS), quantity.FormatDuration(r.DryS), quantity.FormatDuration(extra))
		}
		out = append(out, Finding{Above: l.ID, Reason: reason, Remedy: fmt.Sprintf("Leave %s between coats, or dry each one with moving air.", quantity.FormatDuration(r.RecoatS)), Settles: "A touch on a hidden spot: clear, and not tacky."})
	}
	return out
}

func latexUnpowdered(c Case) []Finding {
	layers := c.Section.Layers
	last := slices.IndexFunc(layers, func(l section.Layer) bool { return l.Kind == section.Latex })
	if last < 0 || slices.ContainsFunc(layers[last:], func(l section.Layer) bool { return l.Kind == section.Powder }) {
		return nil
	}
	return []Finding{{Above: layers[last].ID, Reason: "Nothing here powders the latex, and bare latex sticks to itself for good.", Remedy: "Add a powder layer, and powder before anything is lifted or folded."}}
}

func noBarrier(c Case) []Finding {
	sensitive := false
	for _, status := range c.Wearer.Sensitivities {
		sensitive = sensitive || status == Allergic || status == Sensitive
	}
	layers := c.Section.Layers
	glue := slices.IndexFunc(layers, func(l section.Layer) bool { return l.Kind == section.Adhesive })
	if !sensitive || glue < 0 || slices.ContainsFunc(layers[:glue], func(l section.Layer) bool { return l.Kind == section.Barrier }) {
		return nil
	}
	return []Finding{{Below: "skin", Above: layers[glue].ID, Reason: "The wearer's skin is recorded as sensitive and nothing lies between it and the adhesive.", Remedy: "Put a barrier film under the adhesive.", Instead: c.available("barrier-film")}}
}

func waterPaintOnLatex(c Case) []Finding {
	var out []Finding
	for i, l := range c.Section.Layers {
		if l.Kind != section.Paint || c.product(l).Family != material.PaintWater {
			continue
		}
		if under := c.below(i); under.Kind == section.Latex {
			out = append(out, Finding{Below: under.ID, Above: l.ID, Reason: c.product(l).Name + " slides on latex and does not blend.", Remedy: "Take cream or alcohol-activated colour; keep water colour for flicks and runs.", Instead: c.available("paint-cream", "paint-alcohol")})
		}
	}
	return out
}

func tooMuchFibre(c Case) []Finding {
	count, at := 0, ""
	for _, l := range c.Section.Layers {
		if l.Kind == section.Latex && l.Fibre != "" {
			count, at = count+l.Coats, l.ID
		}
	}
	if !c.MovesMuch || count <= 4 {
		return nil
	}
	return []Finding{{Above: at, Reason: fmt.Sprintf("%d reinforced layers on a moving area will not fold with the skin.", count), Remedy: "Four at most here; carry the rest with plain coats."}}
}

func edgeShows(c Case) []Finding {
	if c.Result.Family == "" {
		return nil
	}
	limit := material.EdgeLimit(material.Family(c.Result.Family), c.CloseCamera)
	if c.Result.EdgeMM <= limit+1e-9 {
		return nil
	}
	camera := ""
	if c.CloseCamera {
		camera = "; a close camera wants"
	} else {
		camera = "; it should be"
	}
	return []Finding{{AtEdge: true, Reason: fmt.Sprintf("The edge is %.2f mm%s %.2f or less.", c.Result.EdgeMM, camera, limit), Remedy: "Take coats off the edge, or let the body end before it.", Settles: "A gauge on three places of the edge."}}
}
