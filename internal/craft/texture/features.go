package texture

import (
	"fmt"
	"math"
	"slices"
)

// Feature is the finest thing of a layer: its width at half depth, its depth,
// and the gap that is left between it and the next.
type Feature struct {
	Layer int     `json:"layer" doc:"index in the recipe"`
	Text  string  `json:"text"`
	Width float64 `json:"width_mm"`
	Depth float64 `json:"depth_mm"`
	Gap   float64 `json:"gap_mm" doc:"0 when there is none to speak of"`
	// merges is true where the gap is none.
	merges bool
}

// Effective is the full width at half depth and the depth of a groove of base
// width and depth after softening by σ (within 5 and 10 % of a direct blur).
func Effective(width, depth, sigma float64) (w, d float64) { return soft(width/2, depth, sigma) }

func soft(half, depth, sigma float64) (w, d float64) {
	if sigma <= 0 {
		return half, depth
	}
	w = math.Sqrt(half*half + (2.3548*sigma)*(2.3548*sigma))
	return w, depth * half / w
}

// features are the finest things of every layer (handbook, section 5).
func (s *Sheet) features() []Feature {
	var out []Feature
	add := func(m *Marks, text string, width, depth, sigma, gap float64, hasGap bool) {
		f := Feature{Layer: m.From, Text: text}
		f.Width, f.Depth = soft(width/2, depth, sigma)
		if hasGap {
			f.Gap, f.merges = math.Max(0, gap), gap <= 0
		}
		out = append(out, f)
	}
	for _, m := range s.Layers {
		l := &m.layer
		soften := or(l.Soften, 0)
		spacing := or(l.Spacing, Span{1.2, 2.5})
		switch m.Kind {
		case "hatch":
			for i, f := range l.Families {
				add(m, fmt.Sprintf("line, family %d", i+1), f.Width, f.Depth, math.Hypot(l.Buff, soften), f.Spacing.least()-f.Width, true)
			}
			if l.Rescore != nil {
				add(m, "line scored again", l.Rescore.Width, l.Rescore.Depth, soften, 0, false)
			}
		case "scales":
			groove, gap := or(l.Groove, 0.8), math.Inf(1)
			for _, st := range l.Stamps {
				_, b := st.axes('A')
				gap = math.Min(gap, 2*b-groove)
			}
			add(m, "groove round a scale", groove, or(l.Depth, Span{0.5, 0.5})[0], soften, gap, true)
		case "pores":
			d := or(l.Diameter, Span{0.3, 0.6})
			el := math.Sqrt(or(l.Elongation, or(l.Stretch, 1)))
			add(m, "pore", d[0]/math.Max(el, 1/el), or(l.Depth, Span{0.1, 0.3})[0], soften, spacing.least()-d[1], true)
		case "wrinkles":
			add(m, "wrinkle", 2*or(l.Width, 1.5), or(l.Depth, Span{0.8, 0.8})[0], soften, 0, false)
		case "lines":
			add(m, "line along a guide", 2*or(l.Width, 1.2), or(l.Depth, Span{0.4, 0.4})[0], soften, 0, false)
		case "cracks":
			width := or(l.Width, 0.8)
			add(m, "crack", width, or(l.Depth, Span{0.7, 0.7})[0], soften, or(l.Pitch, 6)-width, true)
		case "droplets":
			d := or(l.Diameter, Span{0.6, 1.4})
			add(m, "drop", 2*d[0], or(l.HeightRatio, 0.3)*d[0], soften, spacing.least()-d[1], true)
		case "barnacles":
			d := or(l.Diameter, Span{4, 8})
			add(m, "barnacle's rim", 2*or(l.Rim, 0.45)*d[0], or(l.HeightRatio, 0.5)*d[0], soften, spacing.least()-d[1], true)
		case "rot":
			d := or(l.Diameter, Span{3, 6})
			add(m, "hole", 2*d[0]*(1-or(l.Fray, 0.25)), or(l.Depth, Span{1, 1})[0], soften, spacing.least()-d[1], true)
		}
	}
	return out
}

// Hold is what a mould or a cast keeps of a detail, in mm.
type Hold struct {
	Name string  `json:"name"`
	MM   float64 `json:"mm"`
}

// Moulds, Casts and Paints are the handbook's (section 5): what is kept, and
// what a coat fills.
var (
	Moulds = []Hold{{"silicone mould", 0.05}, {"gypsum stone mould", 0.05}, {"fibreglass mould", 0.10}, {"plaster mould", 0.15}, {"alginate mould", 0.20}}
	Casts  = []Hold{{"silicone cast", 0.05}, {"gelatin cast", 0.10}, {"slip latex cast", 0.15}, {"foam latex cast", 0.30}}
	Paints = []Hold{{"silicone wash", 0.02}, {"adhesive-based acrylic", 0.03}, {"rubber-mask grease", 0.04}, {"latex-based paint", 0.05}}
)

func holds(list []Hold, name, field string) (float64, error) {
	if name == "" {
		return 0, nil
	}
	if name == "stone mould" {
		name = "gypsum stone mould"
	}
	i := slices.IndexFunc(list, func(h Hold) bool { return h.Name == name })
	if i < 0 {
		return 0, bad("materials."+field, "There is no “%.40s” here.", name)
	}
	return list[i].MM, nil
}

// Warnings of the handbook.
const (
	FeaturesMerge  = "FEATURES_MERGE"
	DetailLost     = "DETAIL_LOST_IN_MATERIAL"
	PaintFills     = "PAINT_FILLS"
	GridTooCoarse  = "GRID_TOO_COARSE"
	Patterned      = "PATTERNED"
	edgeStepMM     = 0.05 // a step that a light from the side shows
	leastUnderLine = 0.3  // mm of appliance under a scored line when nobody says
)

// Fine is the finest of a texture against what has to carry it.
type Fine struct {
	Width    float64   `json:"smallest_width_mm"`
	Depth    float64   `json:"smallest_depth_mm"`
	HoldMM   float64   `json:"hold_mm" doc:"what mould and cast keep; 0 when neither is known"`
	PaintMM  float64   `json:"paint_mm" doc:"what all coats together lay on"`
	Features []Feature `json:"features"`
	Warnings []string  `json:"warnings"`
}

func (s *Sheet) fine() (Fine, error) { return s.fineOf(s.planPitch()) }

// planPitch is the pitch that the plan is meant for.
func (s *Sheet) planPitch() float64 {
	if s.PlanPitchMM > 0 {
		return s.PlanPitchMM
	}
	return s.Field.H
}

// fineOf judges the finest features against materials and a pitch.
func (s *Sheet) fineOf(pitch float64) (Fine, error) {
	f := Fine{Features: s.features(), Width: math.Inf(1), Depth: math.Inf(1), Warnings: []string{}}
	if f.Features == nil {
		f.Features = []Feature{}
	}
	mats := or(s.Recipe.Materials, Materials{})
	mould, err := holds(Moulds, mats.Mould, "mould")
	if err != nil {
		return f, err
	}
	cast, err := holds(Casts, mats.Cast, "cast")
	if err != nil {
		return f, err
	}
	coat, err := holds(Paints, mats.Paint, "paint")
	if err != nil {
		return f, err
	}
	f.HoldMM, f.PaintMM = math.Max(mould, cast), mats.Coats*coat
	merges, coarse := false, false
	for _, x := range f.Features {
		merges = merges || x.merges
		coarse = coarse || x.Width < 3*pitch-1e-9
		f.Width, f.Depth = math.Min(f.Width, x.Width), math.Min(f.Depth, x.Depth)
		if x.Gap > 0 {
			f.Width = math.Min(f.Width, x.Gap)
		}
	}
	if len(f.Features) == 0 {
		f.Width, f.Depth = 0, 0
		return f, nil
	}
	for _, w := range []struct {
		is   bool
		name string
	}{
		{f.HoldMM > 0 && (f.Width < f.HoldMM || f.Depth < f.HoldMM), DetailLost},
		{merges, FeaturesMerge},
		{coarse, GridTooCoarse},
		{f.PaintMM > 0 && (f.Width <= 2*f.PaintMM || f.Depth <= f.PaintMM), PaintFills},
	} {
		if w.is {
			f.Warnings = append(f.Warnings, w.name)
		}
	}
	return f, nil
}
