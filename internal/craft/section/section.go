// Package section is the build-up of an appliance: layers from skin to air,
// from the centre of the piece on the left to its feather edge on the right.
// Everything else about a piece follows from it: thickness, mass, materials,
// drying and what the rules have to say. Lengths in mm, areas in cm².
package section

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
)

// Kind is what a layer is for.
type Kind string

// The kinds of layer, in the order in which they usually lie.
const (
	Skin         Kind = "skin"
	Barrier      Kind = "barrier"
	Adhesive     Kind = "adhesive"
	Encapsulator Kind = "encapsulator"
	Silicone     Kind = "silicone"
	Latex        Kind = "latex"
	Paint        Kind = "paint"
	Powder       Kind = "powder"
)

var familiesOf = map[Kind][]material.Family{
	Skin:         nil,
	Barrier:      {material.Barrier},
	Adhesive:     {material.AdhesiveAcrylic, material.AdhesiveGum, material.AdhesiveSilicone},
	Encapsulator: {material.Encapsulator},
	Silicone:     {material.SiliconeAddition, material.SiliconeCondensation},
	Latex:        {material.Latex, material.LatexPaste},
	Paint:        {material.PaintSilicone, material.PaintAlcohol, material.PaintWater, material.PaintCream},
	Powder:       {material.Powder},
}

// Fits says whether a product may be used for a kind of layer.
func (k Kind) Fits(p material.Product) bool { return slices.Contains(familiesOf[k], p.Family) }

// IsAppliance is true for the layers that make the piece itself, as against
// what holds it on and what lies on top. The edge that a camera sees is theirs.
func (k Kind) IsAppliance() bool { return k == Encapsulator || k == Silicone || k == Latex }

// Extents of a layer towards the edge.
const (
	ToEdge     = "to_edge"     // thins out and ends at the edge
	CentreOnly = "centre_only" // stops at StopMM
	PastEdge   = "past_edge"   // runs on over the skin by StopMM
)

// Layer is one band. A body (silicone) has CentreMM and EdgeMM; films and
// latex have Coats of CoatMM each (dry for films, wet for latex).
type Layer struct {
	ID       string  `json:"id"`
	Kind     Kind    `json:"kind"`
	Material string  `json:"material,omitempty" doc:"slug of the product; none for skin"`
	CentreMM float64 `json:"centre_mm,omitempty"`
	EdgeMM   float64 `json:"edge_mm,omitempty"`
	Coats    int     `json:"coats,omitempty"`
	CoatMM   float64 `json:"coat_mm,omitempty" doc:"one coat: dry for films, wet for latex"`
	Extent   string  `json:"extent,omitempty" enum:"to_edge,centre_only,past_edge"`
	StopMM   float64 `json:"stop_mm,omitempty" doc:"where a centre-only layer stops, or how far it runs on to skin"`
	Fibre    string  `json:"fibre,omitempty" doc:"slug of the reinforcement in each coat of latex"`
	// BetweenS is the wait planned between coats of latex in s; absent means
	// that each coat is dried first.
	BetweenS *float64 `json:"between_s,omitempty"`
	Note     string   `json:"note,omitempty"`
}

// Section is the whole build-up. Layers run from skin to air.
type Section struct {
	HalfWidthMM float64 `json:"half_width_mm" doc:"from the centre to the edge"`
	AreaCM2     float64 `json:"area_cm2" doc:"true area of skin that the piece covers"`
	Layers      []Layer `json:"layers"`
}

// Start is what a new section looks like: skin, nothing else yet.
func Start(areaCM2 float64) Section {
	if areaCM2 <= 0 {
		areaCM2 = 30
	}
	return Section{
		HalfWidthMM: math.Round(math.Sqrt(areaCM2*100/math.Pi)*10) / 10,
		AreaCM2:     areaCM2,
		Layers:      []Layer{{ID: "skin", Kind: Skin}},
	}
}

// Check refuses a section that cannot be, with the field at fault.
func (s Section) Check(shelf material.Shelf) error {
	if s.HalfWidthMM < 1 || s.HalfWidthMM > 1000 {
		return refusal.New(refusal.OutOfRange, "half_width_mm", "From centre to edge must be 1 to 1000 mm.")
	}
	if s.AreaCM2 < 0.1 || s.AreaCM2 > 20000 {
		return refusal.New(refusal.OutOfRange, "area_cm2", "The area must lie between 0.1 and 20 000 cm².")
	}
	if len(s.Layers) == 0 || s.Layers[0].Kind != Skin {
		return refusal.New(refusal.BadOrder, "layers", "The lowest layer is always the wearer's skin.")
	}
	if len(s.Layers) > 60 {
		return refusal.New(refusal.OutOfRange, "layers", "A section holds at most 60 layers.")
	}
	ids := map[string]bool{}
	for i, l := range s.Layers {
		path := func(name string) string { return fmt.Sprintf("layers[%d].%s", i, name) }
		if l.ID == "" || ids[l.ID] {
			return refusal.New(refusal.Contradiction, path("id"), "Every layer needs an id of its own.")
		}
		ids[l.ID] = true
		if _, known := familiesOf[l.Kind]; !known {
			return refusal.New(refusal.UnknownValue, path("kind"), "“%s” is not a kind of layer.", l.Kind)
		}
		if l.Kind == Skin {
			if i > 0 {
				return refusal.New(refusal.BadOrder, path("kind"), "There is one skin, and it lies lowest.")
			}
			continue
		}
		if err := l.check(s, shelf, path); err != nil {
			return err
		}
	}
	return nil
}

func (l Layer) check(s Section, shelf material.Shelf, path func(string) string) error {
	p, known := shelf[l.Material]
	if !known {
		return refusal.New(refusal.UnknownValue, path("material"), "Choose a material for this layer.")
	}
	if !l.Kind.Fits(p) {
		return refusal.New(refusal.Contradiction, path("material"), "%s cannot be used as %s.", p.Name, l.Kind)
	}
	if l.Extent != "" && !slices.Contains([]string{ToEdge, CentreOnly, PastEdge}, l.Extent) {
		return refusal.New(refusal.UnknownValue, path("extent"), "A layer goes to the edge, stops before it or runs past it.")
	}
	if l.StopMM < 0 || (l.Extent == CentreOnly && l.StopMM > s.HalfWidthMM) || l.StopMM > 500 {
		return refusal.New(refusal.OutOfRange, path("stop_mm"), "The layer must stop between the centre and the edge.")
	}
	if l.Kind == Silicone {
		switch {
		case l.CentreMM < 0.05 || l.CentreMM > 80:
			return refusal.New(refusal.OutOfRange, path("centre_mm"), "At the centre between 0.05 and 80 mm.")
		case l.EdgeMM < 0 || l.EdgeMM > 20:
			return refusal.New(refusal.OutOfRange, path("edge_mm"), "At the edge between 0 and 20 mm.")
		}
		return nil
	}
	if l.Coats < 1 || l.Coats > 40 {
		return refusal.New(refusal.OutOfRange, path("coats"), "Between 1 and 40 coats.")
	}
	if l.CoatMM < 0.001 || l.CoatMM > 8 {
		return refusal.New(refusal.OutOfRange, path("coat_mm"), "A coat is between 0.001 and 8 mm.")
	}
	if l.Fibre != "" {
		if f, ok := shelf[l.Fibre]; !ok || f.Fibre == nil {
			return refusal.New(refusal.UnknownValue, path("fibre"), "Choose tissue, cotton or gauze, or none.")
		}
		if l.Kind != Latex {
			return refusal.New(refusal.Contradiction, path("fibre"), "Only latex coats take fibre.")
		}
	}
	if l.BetweenS != nil && (*l.BetweenS < 0 || *l.BetweenS > 30*86400) {
		return refusal.New(refusal.OutOfRange, path("between_s"), "The wait between coats is at most 30 days.")
	}
	return nil
}

// Wet is one coat of this latex layer as the drying model takes it.
func (l Layer) Wet(shelf material.Shelf) drying.Layer {
	p := shelf[l.Material]
	wet := drying.Layer{WetM: math.Max(2e-5, l.CoatMM/1000), Solids: p.Solids, FibreUptake: 8}
	if wet.Solids == 0 {
		wet.Solids = 0.60
	}
	if p.Family == material.LatexPaste {
		wet.FillerRatio = 0.4
	}
	if f := shelf[l.Fibre].Fibre; f != nil {
		wet.FibreKgM2, wet.FibreUptake = f.KgM2, f.Uptake
	}
	return wet
}

// Thickness is the built height of a layer at the centre and at the edge.
func (l Layer) Thickness(shelf material.Shelf) (centre, edge float64) {
	switch l.Kind {
	case Skin:
		return 0, 0
	case Silicone:
		centre, edge = l.CentreMM, l.EdgeMM
	case Latex:
		loft := 1.0
		if f := shelf[l.Fibre].Fibre; f != nil {
			loft = f.Loft
		}
		centre = l.Wet(shelf).DryThicknessM() * 1000 * loft * float64(l.Coats)
		edge = centre
	default:
		centre = l.CoatMM * float64(l.Coats)
		edge = centre
	}
	if l.Extent == CentreOnly {
		edge = 0
	}
	return centre, edge
}
