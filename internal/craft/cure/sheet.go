// Package cure holds the silicone cure models of the handbook chapter "Drying,
// cure and thermal models", section 4: equivalent time along the temperature
// that a part has really had, stages from the data sheet, and a live estimate
// of the time left with its band. Inhibition is not here: that is a matter of
// the compatibility rules.
package cure

import (
	"math"
	"sort"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
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

func readSheet(f *refusal.Fields) Sheet {
	s := Sheet{System: f.Word("system", "", "addition", "condensation")}
	facts, ok := systems[s.System]
	if !ok {
		return s
	}
	s.PotS = f.Required("pot_s", 10, 2*day)
	s.DemouldS = f.Required("demould_s", 30, 7*day)
	s.GelS = f.Number("gel_s", math.Pow(s.PotS, 0.6)*math.Pow(s.DemouldS, 0.4), 10, 7*day)
	s.FullS = f.Number("full_s", facts.full*s.DemouldS, 30, 60*day)
	switch {
	case s.PotS >= s.DemouldS:
		f.Fail(refusal.Contradiction, "demould_s", "The demould time must be longer than the pot life.")
	case s.GelS < s.PotS || s.GelS > s.DemouldS:
		f.Fail(refusal.Contradiction, "gel_s", "The gel time must lie between pot life and demould time.")
	case s.FullS < s.DemouldS:
		f.Fail(refusal.Contradiction, "full_s", "Full cure cannot come before demoulding.")
	}
	s.RefC = f.Number("ref_c", 23, 0, 60)
	s.Energy = f.Number("ea_j_mol", facts.energy, 20e3, 120e3)
	readSecondPoint(f, &s)
	humidity := interpLog(facts.humidity, f.Number("rh", 0.50, 0.05, 0.95))
	s.Multiplier = humidity * readAdditive(f, facts)
	s.LagS = f.Number("lag_s", 0, 0, day/2)
	s.hasStart = f.Has("start_c")
	s.StartC = f.Number("start_c", 0, facts.hardLo, facts.hardHi)
	return s
}

func readSecondPoint(f *refusal.Fields, s *Sheet) {
	p := f.Child("second_point")
	if p == nil || f.Has("ea_j_mol") {
		return
	}
	t2, c2 := p.Required("demould_s", 30, 7*day), p.Required("temp_c", -5, 150)
	if math.Abs(c2-s.RefC) < 3 {
		p.Fail(refusal.Contradiction, "temp_c", "The second point is too close to the first: at least 3 K apart.")
	}
	f.Adopt(p)
	if f.Err() != nil {
		return
	}
	s.Energy = gasConstant * math.Log(s.DemouldS/t2) / (1/drying.Kelvin(s.RefC) - 1/drying.Kelvin(c2))
	if s.Energy < 20e3 || s.Energy > 120e3 {
		f.Fail(refusal.OutOfRange, "second_point", "The two points give an activation energy of %.0f kJ/mol; 20 to 120 is credible.", s.Energy/1000)
	}
}

func readAdditive(f *refusal.Fields, facts systemFacts) float64 {
	a := f.Child("additive")
	if a == nil {
		return 1
	}
	defer f.Adopt(a)
	table := map[string][][2]float64{"accelerator": facts.accelerator, "retarder": facts.retarder}[a.Word("kind", "", "accelerator", "retarder")]
	if own := a.Pairs("table", 1e-3, 100); own != nil {
		table = own
	}
	if table == nil {
		a.Fail(refusal.UnknownValue, "kind", "This system has no such additive.")
		return 1
	}
	return interpLog(table, a.Required("dose", table[0][0], table[len(table)-1][0]))
}
