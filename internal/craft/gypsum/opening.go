package gypsum

import (
	"math"
)

// kind is what a gypsum wall stands: conductivity W/(m K), strength and
// stiffness Pa.
type kind struct{ k, strength, stiffness float64 }

var kinds = map[string]kind{"plaster": {0.45, 1.5e6, 6e9}, "stone": {0.60, 4e6, 12e9}}

// Opening is how hot a mould may be opened without the risk that it cracks.
type Opening struct {
	Biot     float64  `json:"biot"`
	Allowed  float64  `json:"allowed_dt_k"`
	BelowC   float64  `json:"open_below_c"`
	Ratio    *float64 `json:"ratio,omitempty"`
	RiskWord string   `json:"risk,omitempty" enum:"low,raised,high"`
}

// Airs are the heat that moving air or water takes, W/(m² K).
var Airs = map[string]float64{"still": 10, "fan": 30, "wet": 300}

// Open works the risk out for a wall; both faces free, suddenly in the air.
func Open(gypsum string, wallM, airC, h, safety float64) Opening {
	g := kinds[gypsum]
	const poisson, expansion = 0.2, 1.7e-5
	out := Opening{Biot: h * (wallM / 2) / g.k}
	s := 1 / (1.5 + 3.25/out.Biot - 0.5*math.Exp(-16/out.Biot))
	out.Allowed = g.strength * (1 - poisson) / (safety * g.stiffness * expansion * s)
	out.BelowC = airC + out.Allowed
	return out
}

// At says how near a mould of a temperature is to cracking.
func (o Opening) At(mouldC, airC float64) Opening {
	ratio := math.Max(0, mouldC-airC) / o.Allowed
	o.Ratio = &ratio
	switch {
	case ratio <= 1:
		o.RiskWord = "low"
	case ratio <= 2:
		o.RiskWord = "raised"
	default:
		o.RiskWord = "high"
	}
	return o
}
