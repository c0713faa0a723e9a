package rules

import (
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// topID is the layer that Top lays on.
const topID = "on-top"

// topKinds says what a family is on top of a piece.
func topKind(p material.Product) section.Kind {
	switch {
	case p.IsAdhesive():
		return section.Adhesive
	case p.Family == material.Powder:
		return section.Powder
	case p.Family == material.Sealer:
		return section.Seal
	}
	return section.Paint
}

// Top says what speaks against putting a product on top of a piece as it is
// built: the findings that a last layer of it brings, in each of its cuts.
func Top(c Case, slug string) []Finding {
	had := map[string]bool{}
	for _, f := range Check(c) {
		had[f.Key()] = true
	}
	p := c.Shelf[slug]
	on := c
	lay := func(cut section.Cut) section.Cut {
		cut.Layers = append(slices.Clone(cut.Layers), section.Layer{ID: topID, Kind: topKind(p), Material: slug, Coats: 1, CoatMM: 0.02, Extent: section.CentreOnly, StopMM: cut.HalfWidthMM})
		return cut
	}
	on.Section.Cut = lay(c.Section.Cut)
	on.Section.More = nil
	for _, cut := range c.Section.More {
		on.Section.More = append(on.Section.More, lay(cut))
	}
	on.Result = on.Section.WorkBy(c.Shelf, c.Room, c.Believed())
	var out []Finding
	for _, f := range Check(on) {
		if !had[f.Key()] && (f.Above == topID || f.Below == topID) {
			out = append(out, f)
		}
	}
	return out
}
