package rules

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Rules about the person who wears it.

// OnSkin names the materials of a section that touch the wearer's skin, by
// their slugs: each time it is worn is an exposure to them.
func OnSkin(s section.Section) []string {
	var out []string
	s.All(func(c section.Cut, i int, l section.Layer) {
		if l.Kind != section.Skin && (touchesSkin(c, i) || l.Kind == section.Barrier) && !slices.Contains(out, l.Material) {
			out = append(out, l.Material)
		}
	})
	return out
}

// touchesSkin says which layers need a patch test: adhesives lie on skin,
// latex and direct silicone may, and colour does where it runs past the edge or
// is the lowest.
func touchesSkin(c section.Cut, i int) bool {
	l := c.Layers[i]
	switch l.Kind {
	case section.Adhesive:
		return true
	case section.Latex:
		return liesOnSkin(c, i)
	case section.Silicone:
		return l.Method == "direct" && liesOnSkin(c, i)
	case section.Paint:
		return l.Extent == section.PastEdge || i == 1 || c.Layers[i-1].Kind == section.Barrier && i == 2
	}
	return false
}

func patchTests(c Case) []Finding {
	if !c.Wearer.Known {
		return nil
	}
	asked := map[string]bool{}
	out := c.reactions(asked)
	ask := func(at string, p material.Product) {
		if p.Slug == "" || asked[p.Slug] {
			return
		}
		asked[p.Slug] = true
		if state := c.patch(p); state != "" {
			out = append(out, Finding{Below: "skin", Above: at, Reason: state, Remedy: "Patch-test it 24 to 48 hours ahead, or take one that is clear.", Settles: "A clear patch test."})
		}
	}
	for i, l := range c.Cut.Layers {
		if l.Kind == section.Skin || !touchesSkin(c.Cut, i) {
			continue
		}
		p := c.product(l)
		ask(l.ID, p)
		if l.Kind == section.Adhesive {
			ask(l.ID, c.Shelf[p.Remover])
		}
	}
	return out
}

// reactions are the products under which this wearer's skin reacted before, wherever they lie in the piece; each is noted as
// asked about.
func (c Case) reactions(asked map[string]bool) []Finding {
	var out []Finding
	look := func(at string, p material.Product) {
		i := slices.IndexFunc(c.Wearer.Reactions, func(r Reaction) bool { return r.Material == p.Slug })
		if i < 0 || asked[p.Slug] {
			return
		}
		asked[p.Slug] = true
		out = append(out, Finding{Below: "skin", Above: at, Product: p.Slug, Reason: "Skin reacted where " + p.Name + " lay, on " + c.Wearer.Reactions[i].On + ".",
			Remedy: "It does not go on again without licensed advice: take something else.", Settles: "Licensed medical advice, never a test of ours."})
	}
	c.Section.All(func(_ section.Cut, _ int, l section.Layer) {
		look(l.ID, c.Shelf[l.Material])
		if l.Kind == section.Adhesive {
			look(l.ID, c.Shelf[c.Shelf[l.Material].Remover])
		}
	})
	return out
}

// patch says what is wrong with the patch tests of a product; empty when clear.
func (c Case) patch(p material.Product) string {
	state, clear := "There is no patch test of "+p.Name+" on this wearer.", false
	for _, t := range c.Wearer.PatchTests {
		if t.Material != p.Slug {
			continue
		}
		switch {
		case t.Result == PatchPositive: // whatever others said
			return "The patch test of " + p.Name + " was positive."
		case t.Result == PatchOpen:
			state = "The patch test of " + p.Name + " is still open."
		case t.ExpiresDay < c.Wearer.Today:
			state = "The patch test of " + p.Name + " has run out."
		default:
			clear = true
		}
	}
	if clear {
		return ""
	}
	return state
}

// liquid is what must never be inside a keep-out: wet glue, wet latex, solvent
// and hot mass. Why is empty for what may lie there.
func (c Case) liquid(i int, l section.Layer, p material.Product) (why string) {
	switch {
	case l.Kind == section.Adhesive:
		return "goes on wet"
	case l.Kind == section.Latex && c.Section.MadeOn() == section.OnSkin:
		return "is liquid latex on the skin"
	case l.Kind == section.Encapsulator && (p.Solvent == "acetone" || p.Solvent == "alcohol"):
		return "is melted down at its edge with " + p.Solvent
	case l.Kind == section.Silicone && l.Method == "direct":
		return "is spread wet"
	case l.Kind == section.Gelatin && l.Method == "dropped":
		return "goes on hot"
	case l.Kind == section.Paint && p.Solvent == "alcohol":
		return "carries alcohol"
	}
	return ""
}

func inKeepOut(c Case) []Finding {
	if len(c.Place.KeepOut) == 0 {
		return nil
	}
	zone := c.Place.KeepOut[0]
	seen := map[string]bool{}
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		why := c.liquid(i, l, p)
		if why == "" || !c.atEdge(l) || seen[l.Material] {
			return nil
		}
		seen[l.Material] = true
		return &Finding{Above: l.ID, Reason: fmt.Sprintf("%.1f cm² of the piece reach into the keep-out of the %s, and %s %s.", zone.CM2, zone.Zone, p.Name, why), Remedy: "Draw the edge clear of it in the brief, or end this layer before the edge.", Settles: "The map shows no part of it inside."}
	})
}

func onTheLids(c Case) []Finding {
	if len(c.Place.KeepOut) > 0 || c.Place.share("eye_hollow") < 0.2 {
		return nil
	}
	done := false
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		if done || l.Kind != section.Adhesive && !(l.Kind == section.Latex && c.Section.MadeOn() == section.OnSkin) {
			return nil
		}
		done = true
		return &Finding{Severity: Warn, Below: "skin", Above: l.ID, Reason: p.Name + " goes on the lids or beside them.", Remedy: "Eyes shut until it is powdered or set, a clean small applicator, rinse ready."}
	})
}

func aroundTheEyes(c Case) []Finding { return append(inKeepOut(c), onTheLids(c)...) }

func tooHeavy(c Case) []Finding {
	total := c.Result.WornG + c.OthersG
	if c.Wearer.LimitG == 0 || total <= c.Wearer.LimitG {
		return nil
	}
	return []Finding{{AtEdge: true, Reason: fmt.Sprintf("All pieces together weigh %.0f g; at most %.0f g are to be worn.", total, c.Wearer.LimitG), Remedy: "Make it thinner or hollow, carry it on a harness, or plan minutes on and minutes off with the closures in reach."}}
}

func notForMouths(c Case) []Finding {
	lips := c.Place.share("lip")
	if lips < 0.3 {
		return nil
	}
	seen := map[string]bool{}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		at := []section.Kind{section.Adhesive, section.Paint, section.Powder, section.WetLook, section.Blood, section.Paste, section.Latex, section.Wax}
		if p.MouthSafe || !slices.Contains(at, l.Kind) || seen[p.Slug] {
			return nil
		}
		seen[p.Slug] = true
		return &Finding{Above: l.ID, Reason: fmt.Sprintf("%s is not mouth-safe, and %.1f cm² of it lie on the lips.", p.Name, lips), Remedy: "End it before the lip line, or take what is sold for lips and mouths.", Settles: "The data sheet says that it may be swallowed."}
	})
}

func stains(c Case) []Finding {
	seen := map[string]bool{}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if p.Stains == "" || seen[p.Slug] {
			return nil
		}
		seen[p.Slug] = true
		what, after := "stains "+p.Stains, "Old brushes, a cape over the costume; soap and oil after."
		if p.Stains == "strong" {
			what, after = "stains skin, cloth and grouting", "Try it on the costume's own cloth; plan several washes and two days on the skin."
		}
		return &Finding{Above: l.ID, Reason: p.Name + " " + what + ".", Remedy: after}
	})
}

func glueNotForSkin(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		switch {
		case p.Family == material.AdhesiveContact && !slices.ContainsFunc(c.Cut.Layers[:i], func(x section.Layer) bool { return x.Kind.IsAppliance() }):
			return &Finding{Below: "skin", Above: l.ID, Reason: p.Name + " never goes on skin.", Remedy: "Take an adhesive sold for skin.", Settles: "Nothing: the facts would have to change.", Instead: c.available("adhesive-acrylic", "adhesive-silicone")}
		case p.Family == material.HouseholdPaste && c.Section.MadeOn() == section.OnSkin:
			return &Finding{Severity: Warn, Above: l.ID, Reason: p.Name + " is not made for skin: it dries, pulls and falls off.", Remedy: "A barrier under it, short wear, rinse it off with water.", Instead: c.available("wax-soft", "silicone-direct")}
		}
		return nil
	})
}

// hotC is the warmest that may touch skin, °C.
const hotC = 40

func tooHot(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		hot := l.Kind == section.Gelatin && l.Method == "dropped" || p.Family == material.Thermoplastic && l.Fitted == "on the face"
		switch {
		case !hot || l.AppliedC != nil && *l.AppliedC <= hotC:
			return nil
		case l.AppliedC == nil:
			return &Finding{Below: "skin", Above: l.ID, Reason: p.Name + " goes on the skin warm, and nothing says how warm.", Remedy: fmt.Sprintf("Let it cool to %d °C or less, measure it, and write it down here.", hotC), Settles: "A thermometer in the pot."}
		}
		return &Finding{Below: "skin", Above: l.ID, Reason: fmt.Sprintf("%s at %.0f °C burns: skin takes at most %d °C.", p.Name, *l.AppliedC, hotC), Remedy: "Let it cool first; test on the inside of your own wrist.", Settles: "A thermometer in the pot."}
	})
}

func notSoldForSkin(c Case) []Finding {
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		direct := l.Kind == section.Silicone && l.Method == "direct" || l.Kind == section.SoftFoam && c.Section.MadeOn() == section.OnSkin || l.Kind == section.Adhesive && p.Family != material.AdhesiveContact
		if !direct || p.ForSkin || !c.onSkin(i) && l.Kind != section.Adhesive {
			return nil
		}
		return &Finding{Below: "skin", Above: l.ID, Reason: p.Name + " is not sold for skin.", Remedy: "Take a product whose sheet says that it is.", Settles: "The supplier's data sheet.", Instead: c.available("silicone-direct")}
	})
}
