// Package edge says what of an edge or a seam will be seen, which ways lose it on a
// material, and what stippling it costs: section 2 of the handbook chapter "Finish
// and fit". mm, m, degrees; visibility is in thresholds: 1 is just seen.
package edge

import "math"

const (
	contrastLeast = 0.03 // C₀ (0.015–0.05)
	fineness      = 0.25 // Q, arcmin (0.1–0.5)
	blendArcmin   = 30.0 // (15–60)
	cameraLeast   = 0.03 // (0.02–0.06)
	blendPixels   = 30.0
	perDE         = 0.03 // of contrast for a ΔE00 (0.02–0.05)
)

// Classes of what is seen, by visibility.
const (
	Gone    = "gone"
	Faint   = "faint"
	Seen    = "seen"
	Glaring = "glaring"
)

// Class is the class of a visibility.
func Class(v float64) string {
	switch {
	case v < 0.5:
		return Gone
	case v < 1:
		return Faint
	case v < 3:
		return Seen
	}
	return Glaring
}

// Camera is a picture: its width at the face in mm, and in pixels.
type Camera struct{ FieldMM, Pixels float64 }

// Look is an edge in its light, and who looks at it.
type Look struct {
	StepMM         float64 // height of the step
	RampMM         float64 // it runs out over; 0 is a cliff
	DistanceM      float64
	LightDeg       float64 // above the surface, across the edge
	Fill           float64 // share of the light that is soft
	ColourContrast float64 // ΔY/Y across the rim
	BlendMM        float64 // over which that colour runs out
	DE00           float64 // what the contrast does not hold
	Camera         *Camera
}

// Usual is a look with the chapter's defaults for a step.
func Usual(stepMM, distanceM float64) Look {
	return Look{StepMM: stepMM, DistanceM: distanceM, LightDeg: 30, Fill: 0.3}
}

// Visible is what is seen of it.
type Visible struct {
	Slope      float64  `json:"slope_deg"`
	Shadow     float64  `json:"shadow_mm" doc:"breadth of the side away from the light"`
	Contrast   float64  `json:"contrast" doc:"of the side that shows more"`
	Arcmin     float64  `json:"arcmin" doc:"its breadth as the eye meets it"`
	Shade      float64  `json:"shade_visibility"`
	Colour     float64  `json:"colour_visibility"`
	Visibility float64  `json:"visibility" doc:"in thresholds: from 1 on it is seen"`
	Class      string   `json:"class" enum:"gone,faint,seen,glaring"`
	Vanish     float64  `json:"shade_vanish_m" doc:"from here on its shade is not seen"`
	Camera     *float64 `json:"camera_visibility"`
}

// side is one flank of the step in the light: contrast and breadth in mm.
type side struct{ contrast, breadth float64 }

func (s side) arcmin(distanceMM float64) float64 {
	return 2 * math.Atan(s.breadth/(2*distanceMM)) * 180 / math.Pi * 60
}

func (s side) visibility(distanceMM float64) float64 {
	if s.contrast == 0 || s.breadth == 0 {
		return 0
	}
	return s.contrast / (contrastLeast + fineness/s.arcmin(distanceMM))
}

// vanish is how far away it is just not seen any more, in mm.
func (s side) vanish() float64 {
	if s.contrast <= contrastLeast {
		return 0
	}
	arcmin := fineness / (s.contrast - contrastLeast)
	return s.breadth / (2 * math.Tan(arcmin/60*math.Pi/180/2))
}

func (l Look) sides() (slope float64, away, facing side) {
	alpha := l.LightDeg * math.Pi / 180
	slope = math.Atan2(l.StepMM, l.RampMM)
	if l.StepMM == 0 {
		return 0, side{}, side{}
	}
	light := func(phi float64) float64 { return l.Fill + (1-l.Fill)*math.Max(0, math.Sin(phi)) }
	flat := light(alpha)
	away = side{(flat - light(alpha-slope)) / flat, l.RampMM}
	if slope > alpha {
		away.breadth = math.Max(l.RampMM, l.StepMM/math.Tan(alpha))
	}
	return slope, away, side{math.Abs(light(alpha+slope)-flat) / flat, l.RampMM}
}

// See works out what is seen.
func See(l Look) Visible {
	d := l.DistanceM * 1000
	slope, away, facing := l.sides()
	most := away
	if facing.visibility(d) > away.visibility(d) {
		most = facing
	}
	k := l.ColourContrast + perDE*l.DE00
	blend := side{0, l.BlendMM}.arcmin(d)
	out := Visible{Slope: slope * 180 / math.Pi, Shadow: away.breadth, Contrast: most.contrast, Shade: most.visibility(d),
		Colour: k / (contrastLeast * (1 + blend/blendArcmin)), Vanish: math.Max(away.vanish(), facing.vanish()) / 1000}
	if out.Shade > 0 {
		out.Arcmin = most.arcmin(d)
	}
	out.Visibility = math.Max(out.Shade, out.Colour)
	out.Class = Class(out.Visibility)
	if c := l.Camera; c != nil {
		p := c.FieldMM / c.Pixels
		v := k / (cameraLeast * (1 + l.BlendMM/(blendPixels*p)))
		for _, s := range []side{away, facing} {
			v = math.Max(v, s.contrast*math.Min(1, s.breadth/p)/cameraLeast)
		}
		out.Camera = &v
	}
	return out
}
