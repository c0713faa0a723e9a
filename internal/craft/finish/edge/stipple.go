package edge

import (
	"math"
	"slices"
)

// Stippled is a step that is to be lost under thin coats, widest first.
type Stippled struct {
	StepMM, LengthMM, WidthMM float64
	TargetMM                  float64 // what may stay
	CoatMM                    float64 // dry (0.04–0.09)
	Solids                    float64 // by volume
	DryS                      float64 // a coat
	WorkSCM, PowderSCM        float64 // hands, seconds a cm
}

// UsualStipple is one with the chapter's defaults.
func UsualStipple(stepMM, lengthMM float64) Stippled {
	return Stippled{StepMM: stepMM, LengthMM: lengthMM, WidthMM: 10, TargetMM: 0.05, CoatMM: 0.05, Solids: 0.62, DryS: 120, WorkSCM: 2, PowderSCM: 0.5}
}

// Coats are what it takes.
type Coats struct {
	Coats    int       `json:"coats"`
	Residual float64   `json:"residual_mm"`
	Stair    float64   `json:"stair_mm" doc:"every stair is one coat thick"`
	Reach    []float64 `json:"reach_mm" doc:"past the rim, by coat"`
	Slope    float64   `json:"slope_deg"`
	WetML    float64   `json:"wet_ml"`
	Minutes  float64   `json:"minutes"`
	Warnings []string  `json:"warnings" doc:"stair_shows, steep, many_coats"`
}

// Stipple works out the coats.
func Stipple(s Stippled) Coats {
	n := max(0, int(math.Ceil((s.StepMM-s.TargetMM)/s.CoatMM-1e-9)))
	out := Coats{Coats: n, Residual: math.Max(0, s.StepMM-float64(n)*s.CoatMM), Reach: []float64{}, Warnings: []string{},
		Slope: math.Atan2(s.StepMM, s.WidthMM) * 180 / math.Pi}
	sum := 0.0
	for i := range n {
		r := s.WidthMM * float64(n-i) / float64(n)
		out.Reach = append(out.Reach, r)
		sum += r
	}
	out.WetML = sum * s.LengthMM * s.CoatMM / s.Solids / 1000
	cm := s.LengthMM / 10
	if n > 0 {
		out.Stair = s.CoatMM
		out.Minutes = (float64(n)*(cm*s.WorkSCM+s.DryS) + cm*s.PowderSCM) / 60
		if s.CoatMM > s.TargetMM+1e-9 {
			out.Warnings = append(out.Warnings, "stair_shows")
		}
	}
	if out.Slope > 6+1e-9 {
		out.Warnings = append(out.Warnings, "steep")
	}
	if n > 8 {
		out.Warnings = append(out.Warnings, "many_coats")
	}
	slices.Sort(out.Warnings)
	return out
}
