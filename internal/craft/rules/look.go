package rules

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Rules of look.

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
