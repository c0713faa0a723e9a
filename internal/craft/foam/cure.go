package foam

import (
	"math"
	"slices"

	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/heat"
	"yewmoor/internal/craft/refusal"
)

// Bake is a foam in its mould in the oven: walls and foam in m, plaster or stone, the room
// and the oven in °C, how the oven's air gives heat, W/(m² K), and the damp of the mould,
// kg/kg. OffS is when the oven goes off; 0 for when the foam is cured.
type Bake struct {
	WallAM, WallBM, FoamM float64
	Mould                 string
	RoomC, OvenC, H, Damp float64
	ReachC, OffS          float64
	OnBench               bool    // it cools on the bench, not in the oven
	TauS                  float64 // how the oven itself cools, s
	OpeningH, Safety      float64 // what the mould meets when it is opened
	CureRefS, EnergyJMol  float64
	HorizonS              float64
}

// UsualBake is a bake as it usually is: 95 °C in a calm oven, cured in an hour and a half
// at 90 °C, cooled in the closed oven, opened in still air.
func UsualBake(wallAM, wallBM, foamM float64) Bake {
	return Bake{WallAM: wallAM, WallBM: wallBM, FoamM: foamM, Mould: "plaster", RoomC: 21, OvenC: 95, H: 12, Damp: 0.03, ReachC: 90,
		TauS:     3600,
		OpeningH: gypsum.Airs["still"], Safety: 3.5, CureRefS: 5400, EnergyJMol: 85e3, HorizonS: 3 * 86400}
}

// Baked is how it goes. Times in s from the oven's door being closed; nil for what did not
// happen. Index 1 is cured.
type Baked struct {
	ReachS     *float64 `json:"reach_s"`
	CureS      *float64 `json:"cure_s"`
	OffS       *float64 `json:"off_s"`
	IndexOff   float64  `json:"index_off"`
	ColdestOff float64  `json:"coldest_off_c"`
	IndexEnd   float64  `json:"index_end"`
	Allowed    float64  `json:"allowed_dt_k"`
	OpenBelow  float64  `json:"open_below_c"`
	OpenS      *float64 `json:"open_s"`
	Warnings   []string `json:"warnings"`
}

const cureRefC = 90.0

// Cure follows a bake to where the mould may be opened. Refuses contradiction at reach_c
// where the oven never brings it there.
func (b Bake) Cure() (Baked, error) {
	out := Baked{Warnings: []string{}}
	if b.ReachC >= b.OvenC {
		return out, refusal.New(refusal.Contradiction, "reach_c", "The oven is not that warm.")
	}
	thick := math.Max(b.WallAM, b.WallBM)
	open := gypsum.Open(b.Mould, thick, b.RoomC, b.OpeningH, b.Safety)
	out.Allowed, out.OpenBelow = open.Allowed, open.BelowC
	wall := heat.Stuffs[b.Mould].Wet(b.Damp)
	run := heat.New([]heat.Slab{{Stuff: wall, ThicknessM: b.WallAM, InitC: b.RoomC},
		{Stuff: heat.Stuffs["wet_foam"], ThicknessM: b.FoamM, InitC: b.RoomC}, {Stuff: wall, ThicknessM: b.WallBM, InitC: b.RoomC}},
		heat.Steady(b.H, b.OvenC), heat.Steady(b.H, b.OvenC))
	index := 0.0
	off := b.OffS
	stop := b.HorizonS
	if off > 0 {
		stop = math.Min(stop, off)
	}
	grow := func(s heat.Step) (before float64) {
		from, _, to, _ := s.Slab(1)
		before = index
		index += (s.ToS - s.FromS) / b.CureRefS * (b.rate(from) + 4*b.rate((from+to)/2) + b.rate(to)) / 6
		if at, passed := s.Crossing(from, to, b.ReachC); passed && out.ReachS == nil {
			out.ReachS = &at
		}
		if index >= 1 && out.CureS == nil {
			at := s.FromS + (s.ToS-s.FromS)*(1-before)/(index-before)
			out.CureS = &at
		}
		return before
	}
	for run.T < stop && (off > 0 || out.CureS == nil) {
		s := run.Advance(stop)
		before := grow(s)
		if off == 0 && out.CureS != nil && s.ToS > *out.CureS {
			// The oven goes off within this step: it is taken back and ends there.
			run.T, run.C, index = s.FromS, s.Before, before
			for run.T < *out.CureS {
				run.Advance(*out.CureS)
			}
			index = 1
		}
	}
	if off > 0 || out.CureS != nil {
		at := run.T
		out.OffS = &at
	}
	out.IndexOff = index
	out.ColdestOff, _, _ = run.Slab(1)
	if out.OffS != nil {
		b.cool(run, &out, grow)
	}
	out.IndexEnd = index
	b.warn(&out)
	return out, nil
}

// cool follows it from the oven's being off to where the mould may be opened.
func (b Bake) cool(run *heat.Run, out *Baked, grow func(heat.Step) float64) {
	at := run.T
	face := heat.Face{H: b.H, Air: func(t float64) float64 { return b.RoomC + (b.OvenC-b.RoomC)*math.Exp(-(t-at)/b.TauS) }}
	if b.OnBench {
		face = heat.Steady(10, b.RoomC)
	}
	run.Change(face, face)
	hottest := func() float64 {
		_, a, _ := run.Slab(0)
		_, c, _ := run.Slab(2)
		return math.Max(a, c)
	}
	for before := hottest(); run.T < at+b.HorizonS; {
		if before <= out.OpenBelow {
			now := run.T
			out.OpenS = &now
			return
		}
		s := run.Advance(at + b.HorizonS)
		grow(s)
		after := hottest()
		if opens, passed := s.Crossing(before, after, out.OpenBelow); passed {
			out.OpenS = &opens
			return
		}
		before = after
	}
}

// rate is how fast it cures at a temperature, to that at the reference.
func (b Bake) rate(c float64) float64 {
	return math.Exp(-b.EnergyJMol / 8.314462618 * (1/(c+273.15) - 1/(cureRefC+273.15)))
}

func (b Bake) warn(out *Baked) {
	if b.OvenC > 105 {
		out.Warnings = append(out.Warnings, "gypsum_calcines")
	}
	if b.Damp > 0.10 {
		out.Warnings = append(out.Warnings, "wet_mould")
	}
	if out.CureS == nil || out.OffS != nil && *out.CureS > *out.OffS+1 {
		out.Warnings = append(out.Warnings, "under_cured")
	}
	if out.IndexEnd > 2.5 {
		out.Warnings = append(out.Warnings, "over_cured")
	}
	slices.Sort(out.Warnings)
}
