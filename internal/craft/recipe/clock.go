package recipe

import (
	"math"

	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/material"
)

// Around is what a clock runs in: the room, the water that went in, and how much of
// what sets it off there is, relative to the recipe's.
type Around struct {
	RoomC, RH float64
	WaterC    float64 // of gypsum and alginate, 20 where nobody measured
	Dose      float64 // of what sets it off, to the recipe's
	Thin      float64 // of water, to the recipe's
	Before    []foam.Gelled
}

// Pot is how long something may be poured from the first contact, in s, with its
// band, and when it has set, where that is known.
type Pot struct {
	PotS  float64 `json:"pot_s"`
	LowS  float64 `json:"low_s"`
	HighS float64 `json:"high_s"`
	SetS  float64 `json:"set_s,omitempty"`
	// Learned is how many batches of before it was told from.
	Learned int `json:"learned,omitempty"`
}

// rough is how far a figure that nobody measured may be off, as a factor.
const rough = 1.4

// Poured is how long what this recipe makes may be poured. Cure times of two-part
// products are told along the room's log instead (cure.Working). What has no clock
// gives false.
func (r Recipe) Poured(shelf material.Shelf, a Around) (Pot, bool) {
	if a.Dose <= 0 {
		a.Dose = 1
	}
	if a.Thin <= 0 {
		a.Thin = 1
	}
	switch r.Clock {
	case GelTime:
		g, err := foam.When(foam.Gelled{RoomC: a.RoomC, RH: a.RH, Dose: math.Min(3, math.Max(0.3, a.Dose))}, a.Before)
		if err != nil {
			return Pot{}, false
		}
		// It is in the mould before the earliest gel.
		return Pot{PotS: g.LowS, LowS: g.LowS * g.LowS / g.GelS, HighS: g.GelS, SetS: g.GelS, Learned: g.References}, true
	case SetTime:
		if a.WaterC == 0 {
			a.WaterC = 20
		}
		// Initial set is when it no longer flows; it is poured well before.
		set := gypsum.Setting(a.WaterC, a.Thin, 1, r.PotS, r.SetS)
		return Pot{PotS: set.InitialS, LowS: set.InitialS / rough, HighS: set.InitialS * rough, SetS: set.FinalS}, true
	case Plain, Cooling:
		if r.PotS <= 0 {
			return Pot{}, false
		}
		pot := r.PotS
		if r.Clock == Plain { // twice as fast for ten degrees more
			pot *= math.Pow(2, (r.RefC-a.RoomC)/10)
		}
		return Pot{PotS: pot, LowS: pot / rough, HighS: pot * rough, SetS: r.SetS * pot / r.PotS}, true
	}
	return Pot{}, false
}
