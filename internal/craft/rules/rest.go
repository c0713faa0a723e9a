package rules

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Cautions for the maker, rules of look, and of carrying what is heavy.

// caution raises one finding for the first layer that asks for it.
func caution(asks func(c Case, l section.Layer, p material.Product) bool, reason, remedy string) func(Case) []Finding {
	return func(c Case) []Finding {
		for _, cut := range c.Section.Cuts() {
			for _, l := range cut.Layers {
				if p := c.product(l); l.Kind != section.Skin && asks(c, l, p) {
					return []Finding{{Above: l.ID, Reason: p.Name + " " + reason, Remedy: remedy + " Its safety data sheet and local codes have the last word."}}
				}
			}
		}
		return nil
	}
}

var (
	vapours = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return p.IsLatex() || p.Solvent == "acetone" || p.Solvent == "alcohol" || p.Family == material.AdhesiveSilicone || p.Family == material.PaintSilicone
	}, "gives off ammonia or solvent.", "Air the room, keep eyes shut near a face.")
	dust = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return l.Kind == section.Powder || p.Family == material.Flock || p.Family == material.Glitter
	}, "makes dust.", "Extraction, and a respirator of the right class for those who do it all day.")
	uncured = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return p.IsSilicone() && l.Method != "direct" || p.Family == material.FoamPolyurethane
	}, "is uncured when it is mixed.", "Nitrile gloves, which do not stop it curing; for isocyanates trained people and a respirator only.")
	hotTools = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return l.Kind == section.Foam || p.Family == material.Thermoplastic || l.Kind == section.Gelatin
	}, "is baked, melted or poured hot.", "Heat gloves, a clear way from oven or plate to bench.")
	spraying  = caution(func(_ Case, l section.Layer, _ material.Product) bool { return l.Method == "sprayed" }, "is sprayed.", "In a booth or outdoors, with a respirator for vapour.")
	microwave = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return p.Family == material.LatexPaste || l.Kind == section.Gelatin && l.Method != "dropped"
	}, "is often warmed in a microwave.", "Short bursts only, never sealed, never with metal in it.")
	blades = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return l.Sharp || p.Family == material.Thermoplastic
	}, "is cut and trimmed with blades.", "Cut away from the hand; a sharp blade slips less.")
)

// meetsSkin says whether the piece ends on skin. What hangs on a harness and
// is not glued has no edge to lose.
func (c Case) meetsSkin() bool {
	return c.Section.MadeOn() == section.OnSkin || slices.ContainsFunc(c.Cut.Layers, func(l section.Layer) bool { return l.Kind == section.Adhesive })
}

func edgeShows(c Case) []Finding {
	if c.cut.Family == "" || !c.meetsSkin() {
		return nil
	}
	limit := material.EdgeLimit(material.Family(c.cut.Family), c.CloseCamera)
	if c.cut.EdgeMM <= limit+1e-9 {
		return nil
	}
	camera := "; it should be"
	if c.CloseCamera {
		camera = "; a close camera wants"
	}
	f := Finding{AtEdge: true, Reason: fmt.Sprintf("The edge is %.2f mm%s %.2f or less.", c.cut.EdgeMM, camera, limit), Remedy: "Take coats off the edge, or let the body end before it.", Settles: "A gauge on three places of the edge."}
	if !c.Place.VisibleEdge {
		f.Severity, f.Remedy = Tip, "The brief lets its edge be seen or hides it: check that all of it is."
	}
	return []Finding{f}
}

// darkL is the lightness below which white powder shows.
const darkL = 45

func whitePowder(c Case) []Finding {
	if c.Wearer.SkinL == 0 || c.Wearer.SkinL >= darkL {
		return nil
	}
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if l.Kind != section.Powder || !p.White {
			return nil
		}
		return &Finding{Above: l.ID, Reason: fmt.Sprintf("%s shows white on skin of lightness %.0f.", p.Name, c.Wearer.SkinL), Remedy: "Take a tinted powder, or wipe the surplus off with a damp sponge.", Instead: c.available("powder-tinted")}
	})
}

func detailUnderCostume(c Case) []Finding {
	for _, s := range c.Place.Shares {
		if s.CM2 > 1 && s.CoveredCM2 > 0.2*s.CM2 {
			return []Finding{{AtEdge: true, Reason: fmt.Sprintf("Costume, hair or a prop hides %.0f cm² of it on the %s.", s.CoveredCM2, s.Text), Remedy: "Keep texture, colour and hair off there: nobody sees them."}}
		}
	}
	return nil
}

func rots(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if !p.Rots || l.Kind != section.Weight && l.Kind != section.Insert {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " is plant or food: with sweat it rots, sprouts or smells.", Remedy: "Take inert beads or foam; seal what must stay.", Instead: c.available("filling-beads", "found-sponge")}
	})
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

// Swapped says which findings a section gains when two neighbouring layers of
// a cut change places: what goes wrong if the order is turned round.
func Swapped(c Case, cut, i int) []Finding {
	cuts := c.Section.Cuts()
	if cut < 0 || cut >= len(cuts) || i < 1 || i+1 >= len(cuts[cut].Layers) {
		return nil
	}
	had := map[string]bool{}
	for _, f := range Check(c) {
		had[f.ID] = true
	}
	turned := c
	layers := slices.Clone(cuts[cut].Layers)
	layers[i], layers[i+1] = layers[i+1], layers[i]
	if cut == 0 {
		turned.Section.Layers = layers
	} else {
		turned.Section.More = slices.Clone(c.Section.More)
		turned.Section.More[cut-1].Layers = layers
	}
	turned.Result = turned.Section.Work(c.Shelf, c.Room)
	var out []Finding
	for _, f := range Check(turned) {
		if !had[f.ID] {
			out = append(out, f)
		}
	}
	return out
}
