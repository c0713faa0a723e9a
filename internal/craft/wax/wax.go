// Package wax says whether a wax holds its shape on a wearer: section 10 of
// the handbook chapter "Drying, cure and thermal models". Temperatures in °C,
// lengths in m, pressures in Pa.
package wax

import (
	"math"
)

// Kind is how firm a wax is.
type Kind struct {
	Yield20Pa float64 // within a factor of two
	PerDecade float64 // K in which the yield stress falls tenfold
	OnsetC    float64 // where it begins to melt
}

// Kinds of wax by name.
var Kinds = map[string]Kind{"soft": {15e3, 14, 48}, "medium": {60e3, 14, 52}, "hard": {250e3, 15, 58}}

const (
	density, conductivity, heat = 920.0, 0.22, 2400.0
	gravity                     = 9.80665
)

// Worn is how it is worn.
type Worn struct {
	ThicknessM, OverhangM, SkinC, AirC, H, RadiantWM2, StartC, Safety float64
}

// AsWorn is a wax of this thickness on skin in calm air.
func AsWorn(thicknessM, airC float64) Worn {
	return Worn{ThicknessM: thicknessM, OverhangM: thicknessM, SkinC: 33, AirC: airC, H: 10, StartC: 21, Safety: 10}
}

// Holding is what follows.
type Holding struct {
	ServiceC  float64 `json:"service_c"`
	OuterC    float64 `json:"outer_c"`
	YieldPa   float64 `json:"yield_pa"`
	Firmness  float64 `json:"firmness" doc:"yield stress worn over that at 20 °C"`
	SagC      float64 `json:"sag_c"`
	LimitC    float64 `json:"limit_c"`
	MarginK   float64 `json:"margin_k"`
	OverhangM float64 `json:"max_overhang_m"`
	WarmS     float64 `json:"warm_s" doc:"until it has taken the warmth of the skin"`
	Class     string  `json:"class" enum:"holds,soft,sags"`
}

// Holding works it out.
func (k Kind) Holding(w Worn) Holding {
	side := conductivity / w.ThicknessM
	out := Holding{OuterC: (side*w.SkinC + w.H*w.AirC + w.RadiantWM2) / (side + w.H)}
	out.ServiceC = math.Max(w.SkinC, out.OuterC)
	out.Firmness = math.Pow(10, -(out.ServiceC-20)/k.PerDecade)
	out.YieldPa = k.Yield20Pa * out.Firmness
	out.SagC = 20 + k.PerDecade*math.Log10(k.Yield20Pa/(density*gravity*w.OverhangM*w.Safety))
	out.LimitC = math.Min(out.SagC, k.OnsetC-8)
	out.MarginK = out.LimitC - out.ServiceC
	out.OverhangM = out.YieldPa / (density * gravity * w.Safety)
	tau := density * heat * w.ThicknessM / (side + w.H)
	out.WarmS = tau * math.Log(math.Max(1, math.Abs(w.StartC-(w.SkinC+out.OuterC)/2)))
	switch {
	case out.MarginK >= 5:
		out.Class = "holds"
	case out.MarginK >= 0:
		out.Class = "soft"
	default:
		out.Class = "sags"
	}
	return out
}
