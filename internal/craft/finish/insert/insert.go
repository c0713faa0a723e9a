// Package insert plans what is set into or hung on a piece: how many teeth, crumbs or
// pins to make so that enough are good, whether a fixing holds them, and the bags that
// weigh a piece down: section 5 of the handbook chapter "Finish and fit". mm, g, N, MPa.
package insert

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mathext"

	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/yield"
)

const gravity = 9.80665

// Batch is what is to be made: by a yield, or by what came of an earlier batch.
type Batch struct {
	Need        int
	Yield       float64 // 0 where Made and Good say it
	Made, Good  float64
	Confidence  float64
	MinutesEach float64
}

// Made is how many to make.
type Made struct {
	Make         int     `json:"make"`
	Spares       int     `json:"spares"`
	P            float64 `json:"p" doc:"chance that enough are good"`
	OneLess      float64 `json:"p_one_less"`
	MeanYield    float64 `json:"mean_yield"`
	ExpectedGood float64 `json:"expected_good"`
	Minutes      float64 `json:"minutes"`
}

// atLeast is the chance that of n at least need are good.
func (b Batch) atLeast(n int) float64 {
	switch {
	case b.Need <= 0:
		return 1
	case n < b.Need:
		return 0
	case b.Yield == 0:
		return yield.BetaAtLeast(b.Need, n, b.belief())
	case b.Yield >= 1:
		return 1
	}
	return mathext.RegIncBeta(float64(b.Need), float64(n-b.Need+1), b.Yield)
}

func (b Batch) belief() yield.Belief { return yield.Belief{A: b.Good + 0.5, B: b.Made - b.Good + 0.5} }

// Plan is the least number that is enough. Refusal: contradiction at confidence.
func Plan(b Batch) (Made, error) {
	most := 50*b.Need + 200
	enough := func(n int) bool { return b.atLeast(n) >= b.Confidence-1e-9 }
	if !enough(most) {
		return Made{}, refusal.New(refusal.Contradiction, "confidence", "With so few good ones no number can be promised: make a test batch first.")
	}
	// More are never less likely to be enough.
	lo, hi := b.Need, most
	for lo < hi {
		if mid := (lo + hi) / 2; enough(mid) {
			hi = mid
		} else {
			lo = mid + 1
		}
	}
	out := Made{Make: lo, Spares: lo - b.Need, P: b.atLeast(lo), MeanYield: b.Yield, Minutes: float64(lo) * b.MinutesEach}
	if lo > 0 {
		out.OneLess = b.atLeast(lo - 1)
	}
	if b.Yield == 0 {
		out.MeanYield = b.belief().Mean()
	}
	out.ExpectedGood = float64(lo) * out.MeanYield
	return out, nil
}

// Load is an insert on its fixing.
type Load struct {
	MassG    float64
	ArmMM    float64 // from the seat to its centre of mass
	Fixing   tables.Fixing
	Motion   tables.Motion
	BaseMM   float64 // seat along the lever
	Safety   float64
	AreaMM2  float64 // of a fixing by area
	Count    int     // of a fixing at points
	Strength float64
}

// Held is whether it holds.
type Held struct {
	ForceN float64 `json:"force_n"`
	Moment float64 `json:"moment_nmm"`
	Load   float64 `json:"load" doc:"MPa, or N a point"`
	Use    float64 `json:"use" doc:"of what it bears, with the safety in it"`
	Holds  bool    `json:"holds"`
}

// Hold works it out.
func Hold(l Load) Held {
	f := l.MassG / 1000 * gravity * l.Motion.G
	out := Held{ForceN: f, Moment: f * l.ArmMM}
	if l.Fixing.Kind == "area" {
		out.Load = f/l.AreaMM2 + 6*out.Moment/(l.AreaMM2*l.BaseMM)
	} else {
		out.Load = f/float64(l.Count) + 2*out.Moment/(float64(l.Count)*l.BaseMM)
	}
	out.Use = out.Load * l.Safety / l.Strength
	out.Holds = out.Use <= 1+1e-9
	return out
}

// Weight is what a piece is to be weighed down with.
type Weight struct {
	TargetG float64
	Filler  tables.Filler
	BagML   float64
	Fill    float64 // of a bag; 0.7 swings
	WornH   float64
	Sweat   bool
}

// Bags are what it takes.
type Bags struct {
	Bags     int      `json:"bags"`
	PerBagG  float64  `json:"per_bag_g"`
	VolumeML float64  `json:"volume_ml"`
	WetGainG float64  `json:"wet_gain_g" doc:"sweat that it takes up, roughly"`
	Warnings []string `json:"warnings" doc:"heavy, long_wear, rots, stiff"`
}

// Weigh works them out.
func Weigh(w Weight) Bags {
	n := int(math.Ceil(w.TargetG/(w.BagML*w.Fill*w.Filler.GPerML) - 1e-9))
	out := Bags{Bags: n, PerBagG: w.TargetG / float64(n), VolumeML: w.TargetG / w.Filler.GPerML, Warnings: []string{}}
	warn := func(when bool, word string) {
		if when {
			out.Warnings = append(out.Warnings, word)
		}
	}
	if w.Filler.Organic && w.Sweat {
		out.WetGainG = 0.12 * w.TargetG
		warn(w.WornH > 0, "rots")
	}
	warn(w.Fill > 0.85+1e-9, "stiff")
	warn(w.TargetG > 20000, "heavy")
	warn(w.WornH > 14, "long_wear")
	slices.Sort(out.Warnings)
	return out
}
