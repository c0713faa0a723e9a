package rules

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
)

// kindly is what somebody has to know of a family that they take in place of
// another one: what it does differently on a wearer and at the bench.
var kindly = map[material.Family]string{
	material.Latex:                "builds in thin coats that dry one by one",
	material.LatexPaste:           "shrinks by its water and cracks where it is thick",
	material.FoamLatex:            "light, baked, and drinks glue and colour until it is sealed",
	material.SiliconeAddition:     "heavy, mixed from two parts, and takes silicone colour only unless it lies in a film",
	material.SiliconeCondensation: "shrinks a little, and gives off alcohol while it cures",
	material.Gelatin:              "softens with heat and sweat, and serves once",
	material.FoamPolyurethane:     "isocyanates while it is mixed: trained people and a respirator only",
	material.Wax:                  "stands neither heat nor movement",
	material.HouseholdPaste:       "dries brittle, and washes off",
	material.AdhesiveAcrylic:      "lifts in water; ready when it is clear",
	material.AdhesiveGum:          "brittle with movement, hard on sensitive skin, not for silicone",
	material.AdhesiveSilicone:     "flammable while wet, and comes off with its own remover only",
	material.AdhesiveLash:         "for hair and brows in thin coats",
	material.PaintAlcohol:         "thin and translucent, stings broken skin, and attacks a film that alcohol dissolves",
	material.PaintCream:           "wants powder to set, and wears off sooner",
	material.PaintWater:           "runs in sweat and rain, and is poor on rubber",
	material.PaintSilicone:        "holds to silicone only",
	material.PaintAdhesive:        "for foam and latex",
	material.PaintAcrylic:         "for pieces off the skin",
	material.Sealer:               "a thinner film: it neither melts at its edge nor glues as well",
	material.Encapsulator:         "a film of its own solvent: its edge melts with that one only",
	material.HairFibre:            "takes colour and curl in its own way: try a strand",
	material.Filling:              "another weight and fall: weigh a bag of it",
}

// Changes says what is different when a product is taken in place of another: the
// gravest first, at most three; empty where nothing that is known is.
func Changes(from, to material.Product, shelf material.Shelf) string {
	var say []string
	if from.Family != to.Family && kindly[to.Family] != "" {
		say = append(say, kindly[to.Family])
	}
	if from.Animal != to.Animal {
		say = append(say, map[bool]string{true: "of animals", false: "holds nothing of animals"}[to.Animal])
	}
	if to.Remover != from.Remover && to.Remover != "" {
		say = append(say, "comes off with "+strings.ToLower(shelf[to.Remover].Name))
	}
	if to.Solvent != from.Solvent && to.Solvent != "" && from.Family == to.Family {
		say = append(say, "dissolves in "+to.Solvent+", not in "+map[bool]string{true: from.Solvent, false: "what the other does"}[from.Solvent != ""])
	}
	if from.Firmness != to.Firmness && to.Firmness != "" && from.Firmness != "" {
		say = append(say, to.Firmness+" where the other is "+from.Firmness)
	}
	if k := ratioOf(to.Density, from.Density); k != "" {
		say = append(say, "weighs "+k)
	}
	if k := ratioOf(float64(to.PriceMinorKg), float64(from.PriceMinorKg)); k != "" {
		say = append(say, "costs "+k)
	}
	if to.Cure != nil && from.Cure != nil && to.Cure.PotS != from.Cure.PotS {
		say = append(say, fmt.Sprintf("works for %.0f min instead of %.0f", to.Cure.PotS/60, from.Cure.PotS/60))
	}
	return strings.Join(say[:min(3, len(say))], "; ")
}

// ratioOf is how many times a figure of the one is that of the other, from a
// quarter more or less.
func ratioOf(to, from float64) string {
	if to <= 0 || from <= 0 {
		return ""
	}
	switch k := to / from; {
	case k >= 1.25:
		return fmt.Sprintf("%.1f times as much", k)
	case k <= 0.8:
		return fmt.Sprintf("%.0f %% of it", math.Round(100*k))
	}
	return ""
}

// changes fills in what each alternative of a finding changes.
func (c Case) changes(f *Finding) {
	from, known := c.Shelf[f.Product]
	if !known {
		for _, cut := range c.Section.Cuts() {
			for _, l := range cut.Layers {
				if l.ID == f.Above && f.Above != "" {
					from, known = c.Shelf[l.Material], true
				}
			}
		}
	}
	f.Changes = make([]string, len(f.Instead))
	for i, slug := range f.Instead {
		if known {
			f.Changes[i] = Changes(from, c.Shelf[slug], c.Shelf)
		}
	}
	if !slices.ContainsFunc(f.Changes, func(s string) bool { return s != "" }) {
		f.Changes = nil
	}
}
