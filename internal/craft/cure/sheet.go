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
	// Day in s.
	Day = 86400.0
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
	HasStart                 bool // a part of another temperature than the air
}

// At is the equivalent time at which a stage is reached, in s.
func (s Sheet) At(stage string) float64 {
	return map[string]float64{StagePot: s.PotS, StageGel: s.GelS, StageDemould: s.DemouldS, StageFull: s.FullS}[stage]
}

// System is what the handbook says of a chemistry of silicone.
type System struct {
	Energy         float64      // activation energy, J/mol
	Full           float64      // full cure, times the demould time
	HardLo, HardHi float64      // °C in which it cures at all
	Cold, Hot      float64      // °C beyond which a warning stands
	Humidity       [][2]float64 // factor on the times by relative humidity
	Accelerator    [][2]float64 // factor on the times by dose
	Retarder       [][2]float64
}

// The chemistries that the models know.
const (
	Addition     = "addition"
	Condensation = "condensation"
)

// What may be stirred in to move a cure.
const (
	Accelerator = "accelerator"
	Retarder    = "retarder"
)

// Shift is the factor on the times by dose of what moves a cure, rising in the
// dose: a mass fraction of the mix, of condensation the share of the quick
// catalyst. nil for what the chemistry has not.
func (s System) Shift(kind string) [][2]float64 {
	return map[string][][2]float64{Accelerator: s.Accelerator, Retarder: s.Retarder}[kind]
}

// Systems are what the handbook says of each chemistry.
var Systems = map[string]System{
	Addition: {
		Energy: 52e3, Full: 4, HardLo: -5, HardHi: 150, Cold: 10, Hot: 80,
		Humidity:    [][2]float64{{0, 1}, {1, 1}},
		Accelerator: [][2]float64{{0, 1}, {0.005, 0.70}, {0.01, 0.50}, {0.02, 0.30}},
		Retarder:    [][2]float64{{0, 1}, {0.005, 1.6}, {0.01, 2.3}, {0.02, 4.0}},
	},
	Condensation: {
		Energy: 45e3, Full: 5, HardLo: -5, HardHi: 80, Cold: 15, Hot: 40,
		Humidity:    [][2]float64{{0.20, 1.50}, {0.35, 1.20}, {0.50, 1}, {0.65, 0.92}, {0.80, 0.85}},
		Accelerator: [][2]float64{{0, 1}, {0.25, 0.60}, {0.5, 0.35}, {1, 0.15}},
	},
}

// InterpLog is ln y linear in x between the points, held constant outside.
func InterpLog(table [][2]float64, x float64) float64 {
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

// UsualRefC is the temperature of a data sheet that names none, °C.
const UsualRefC = 23.0

// UsualGel is the handbook's gel time for a sheet that names none.
func UsualGel(potS, demouldS float64) float64 { return math.Pow(potS, 0.6) * math.Pow(demouldS, 0.4) }

// Contradiction is what of a sheet's times cannot be, with its field.
func (s Sheet) Contradiction() (field, text string) {
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
