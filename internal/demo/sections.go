package demo

import "yewmoor/internal/craft/section"

// encapsulated is the shop's usual silicone piece: film all round, softened
// gel between, colour carried on to the skin.
func encapsulated(areaCM2, centreMM float64) section.Section {
	s := section.Start(areaCM2)
	s.Layers = append(s.Layers,
		section.Layer{ID: "barrier", Kind: section.Barrier, Material: "barrier-film", Coats: 1, CoatMM: 0.01},
		section.Layer{ID: "glue", Kind: section.Adhesive, Material: "adhesive-acrylic", Coats: 2, CoatMM: 0.04},
		section.Layer{ID: "inner", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.02},
		section.Layer{ID: "body", Kind: section.Silicone, Material: "silicone-gel", CentreMM: centreMM},
		section.Layer{ID: "outer", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 3, CoatMM: 0.02},
		section.Layer{ID: "colour", Kind: section.Paint, Material: "paint-alcohol", Coats: 5, CoatMM: 0.006, Extent: section.PastEdge, StopMM: 12},
		section.Layer{ID: "powder", Kind: section.Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01},
	)
	return s
}

// stippled is stretch-stipple straight on the back of a hand.
func stippled() section.Section {
	s := section.Start(90)
	s.Layers = append(s.Layers,
		section.Layer{ID: "barrier", Kind: section.Barrier, Material: "barrier-film", Coats: 1, CoatMM: 0.01},
		section.Layer{ID: "stipple", Kind: section.Latex, Material: "latex-balloon", Coats: 3, CoatMM: 0.1},
		section.Layer{ID: "colour", Kind: section.Paint, Material: "paint-cream", Coats: 2, CoatMM: 0.02, Extent: section.PastEdge, StopMM: 15},
		section.Layer{ID: "powder", Kind: section.Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01},
	)
	return s
}

// slush is a slush-cast latex nose with a reinforced bridge.
func slush() section.Section {
	s := section.Start(32)
	s.Layers = append(s.Layers,
		section.Layer{ID: "glue", Kind: section.Adhesive, Material: "adhesive-acrylic", Coats: 1, CoatMM: 0.04},
		section.Layer{ID: "slush", Kind: section.Latex, Material: "latex-slush", Coats: 4, CoatMM: 0.3},
		section.Layer{ID: "bridge", Kind: section.Latex, Material: "latex-slush", Coats: 1, CoatMM: 0.2, Fibre: "fibre-gauze", Extent: section.CentreOnly, StopMM: 14},
		section.Layer{ID: "powder", Kind: section.Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01},
		section.Layer{ID: "colour", Kind: section.Paint, Material: "paint-cream", Coats: 3, CoatMM: 0.02, Extent: section.PastEdge, StopMM: 10},
	)
	return s
}
