// Package cure holds the silicone cure models of the handbook chapter "Drying,
// cure and thermal models", section 4: equivalent time along the temperature
// that a part has really had, stages from the data sheet, and a live estimate
// of the time left with its band. Inhibition is not here: that is a matter of
// the compatibility rules.
package cure

import (
	"math"
	"sort"
)

const (
	gasConstant = 8.314462618
	day         = 86400.0
)

// Stages in their order, as the glass of a pot is marked.
const (
	StagePot     = "pot"     // still pourable until here
	StageGel     = "gel"     // tack-free
	StageDemould = "demould" // strong enough to take out
	StageFull    = "full"    // full strength
)

// Sheet is what the data sheet says, at RefC and with the multiplier of
// humidity and additives already worked out. Times in s.
type Sheet struct {
	System                   string
	PotS, GelS, DemouldS     float64
	FullS, RefC, Energy      float64
	Multiplier, LagS, StartC float64
	hasStart                 bool
}

// At is the equivalent time at which a stage is reached, in s.
func (s Sheet) At(stage string) float64 {
	return map[string]float64{StagePot: s.PotS, StageGel: s.GelS, StageDemould: s.DemouldS, StageFull: s.FullS}[stage]
}

type systemFacts struct {
	energy, full   float64
	hardLo, hardHi float64
	cold, hot      float64
	humidity       [][2]float64
	accelerator    [][2]float64
	retarder       [][2]float64
}

var systems = map[string]systemFacts{
	"addition": {
		energy: 52e3, full: 4, hardLo: -5, hardHi: 150, cold: 10, hot: 80,
		humidity:    [][2]float64{{0, 1}, {1, 1}},
		accelerator: [][2]float64{{0, 1}, {0.005, 0.70}, {0.01, 0.50}, {0.02, 0.30}},
		retarder:    [][2]float64{{0, 1}, {0.005, 1.6}, {0.01, 2.3}, {0.02, 4.0}},
	},
	"condensation": {
		energy: 45e3, full: 5, hardLo: -5, hardHi: 80, cold: 15, hot: 40,
		humidity:    [][2]float64{{0.20, 1.50}, {0.35, 1.20}, {0.50, 1}, {0.65, 0.92}, {0.80, 0.85}},
		accelerator: [][2]float64{{0, 1}, {0.25, 0.60}, {0.5, 0.35}, {1, 0.15}},
	},
}

// interpLog is ln y linear in x between the points, held constant outside.
func interpLog(table [][2]float64, x float64) float64 {
	n := len(table)
	if x <= table[0][0] {
		return table[0][1]
	}
	if x >= table[n-1][0] {
		return table[n-1][1]
	}
	i := sort.Search(n, func(i int) bool { return table[i][0] >= x })
	a, b := table[i-1], table[i]
	w := (x - a[0]) / (b[0] - a[0])
	return math.Exp(math.Log(a[1])*(1-w) + math.Log(b[1])*w)
}

// usualRefC is the temperature of a data sheet that names none, °C.
const usualRefC = 23.0

// usualGel is the handbook's gel time for a sheet that names none.
func usualGel(potS, demouldS float64) float64 { return math.Pow(potS, 0.6) * math.Pow(demouldS, 0.4) }

// contradiction is what of a sheet's times cannot be, with its field.
func (s Sheet) contradiction() (field, text string) {
	switch {
	case s.PotS >= s.DemouldS:
		return "demould_s", "The demould time must be longer than the pot life."
	case s.GelS < s.PotS || s.GelS > s.DemouldS:
		return "gel_s", "The gel time must lie between pot life and demould time."
	case s.FullS < s.DemouldS:
		return "full_s", "Full cure cannot come before demoulding."
	}
	return "", ""
}
