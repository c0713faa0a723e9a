package cure

import (
	"math"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

// Course is the answer of the model cure: when each stage is reached from
// mixing (s), and where the part is at the end of the log.
type Course struct {
	Energy     float64  `json:"ea_j_mol"`
	Multiplier float64  `json:"multiplier"`
	LogEndS    float64  `json:"log_end_s"`
	Equivalent float64  `json:"equivalent_s"`
	Index      float64  `json:"index"`
	Degree     float64  `json:"degree"`
	PotS       float64  `json:"pot_s"`
	GelS       float64  `json:"gel_s"`
	DemouldS   float64  `json:"demould_s"`
	FullS      float64  `json:"full_s"`
	Warnings   []string `json:"warnings"`
}

// Remaining is the answer of the model cure_remaining: time left to a stage
// with its 90 % band, in s.
type Remaining struct {
	RemainingS float64  `json:"remaining_s"`
	LowS       float64  `json:"low_s"`
	HighS      float64  `json:"high_s"`
	Index      float64  `json:"index"`
	Scale      float64  `json:"scale"`
	State      string   `json:"state"`
	Warnings   []string `json:"warnings"`
}

// States of Remaining.
const (
	Running = "running"
	Reached = "reached"
)

// Degree is the degree of cure shown to people: 0.9 at demoulding.
func Degree(index float64) float64 { return 1 - math.Pow(10, -index) }

// Facts are what a data sheet says, times in s at RefC. 0 takes the handbook's
// default where there is one: gel, full cure, 23 °C.
type Facts struct {
	System                      string // addition or condensation
	PotS, GelS, DemouldS, FullS float64
	RefC                        float64
}

// Sheet completes the facts with the defaults of their system. Facts that cannot
// be are refused with the field's name as the chapter has it.
func (f Facts) Sheet() (Sheet, error) {
	facts, known := Systems[f.System]
	if !known {
		return Sheet{}, refusal.New(refusal.UnknownValue, "system", "system must be one of [addition condensation].")
	}
	s := Sheet{System: f.System, PotS: f.PotS, GelS: f.GelS, DemouldS: f.DemouldS, FullS: f.FullS, RefC: f.RefC, Energy: facts.Energy, Multiplier: 1}
	for _, need := range []struct {
		name      string
		v, lo, hi float64
	}{{"pot_s", s.PotS, 10, 2 * Day}, {"demould_s", s.DemouldS, 30, 7 * Day}} {
		if need.v == 0 {
			return Sheet{}, refusal.New(refusal.Missing, need.name, "%s is missing.", need.name)
		}
		if need.v < need.lo || need.v > need.hi {
			return Sheet{}, refusal.New(refusal.OutOfRange, need.name, "%s must lie between %g and %g.", need.name, need.lo, need.hi)
		}
	}
	if s.RefC == 0 {
		s.RefC = UsualRefC
	}
	if s.GelS == 0 {
		s.GelS = UsualGel(s.PotS, s.DemouldS)
	}
	if s.FullS == 0 {
		s.FullS = facts.Full * s.DemouldS
	}
	if field, text := s.Contradiction(); field != "" {
		return Sheet{}, refusal.New(refusal.Contradiction, field, "%s", text)
	}
	return s, nil
}

// Along follows a part along the air temperatures log, [[s since mixing, °C], …]
// with rising times, and on at the last of them.
func (s Sheet) Along(log [][2]float64) (Course, error) {
	return s.AlongTo(log, log[len(log)-1][1])
}

// AlongTo is Along with another temperature to come, °C.
func (s Sheet) AlongTo(log [][2]float64, forecastC float64) (Course, error) {
	tr, err := follow(s, log, forecastC)
	if err != nil {
		return Course{}, err
	}
	index := tr.atLogEnd.x / s.DemouldS
	return Course{
		Energy: s.Energy, Multiplier: s.Multiplier, LogEndS: tr.logEnd, Equivalent: tr.atLogEnd.x,
		Index: index, Degree: Degree(index),
		PotS: tr.when(s.PotS), GelS: tr.when(s.GelS), DemouldS: tr.when(s.DemouldS), FullS: tr.when(s.FullS),
		Warnings: tr.warnings(s.System),
	}, nil
}

// Seen is a stage that somebody saw or felt, AtS seconds after mixing.
type Seen struct {
	Stage string  `json:"stage"`
	AtS   float64 `json:"at_s"`
	Sigma float64 `json:"sigma,omitempty"` // of its logarithm; 0 for 0.20
}

// Spread is how far the sheet, the activation energy and the temperature may be
// off: one standard deviation each.
type Spread struct {
	Sheet   float64 // relative
	EnergyJ float64 // J/mol
	TempK   float64
}

// UsualSpread is the handbook's.
var UsualSpread = Spread{0.15, 8000, 1.0}

// Left is how long it is until a stage, along the log and on at its last
// temperature, with the 90 % band. What was seen stretches the sheet's times;
// more than a factor 5 is refused. at_s beyond the log is too.
func (s Sheet) Left(stage string, log [][2]float64, seen *Seen) (Remaining, error) {
	current := log[len(log)-1][1]
	if seen != nil && (seen.AtS < 0 || seen.AtS > log[len(log)-1][0]) {
		return Remaining{}, refusal.New(refusal.OutOfRange, "observed.at_s", "at_s must lie between 0 and %g.", log[len(log)-1][0])
	}
	return s.LeftIn(stage, log, Ahead{current, current, UsualSpread}, seen)
}

// Ahead is what is reckoned with from the end of the log on: the forecast, the
// temperature that the rate is taken at, °C, and how far all may be off.
type Ahead struct {
	ForecastC, CurrentC float64
	Spread
}

// LeftIn is Left under another outlook.
func (s Sheet) LeftIn(at string, log [][2]float64, ahead Ahead, seen *Seen) (Remaining, error) {
	tr, err := follow(s, log, ahead.ForecastC)
	if err != nil {
		return Remaining{}, err
	}
	stage, currentC, spread := s.At(at), ahead.CurrentC, ahead.Spread
	scale, sigmaC := 1.0, spread.Sheet
	if seen != nil {
		sigmaO := seen.Sigma
		if sigmaO == 0 {
			sigmaO = 0.20
		}
		ratio := tr.at(seen.AtS) / s.At(seen.Stage)
		if ratio < 0.2 || ratio > 5 {
			return Remaining{}, refusal.New(refusal.Contradiction, "observed.at_s", "What was seen and the data sheet differ by more than a factor 5: check both.")
		}
		weight := 1/(sigmaC*sigmaC) + 1/(sigmaO*sigmaO)
		scale = (1/(sigmaC*sigmaC) + ratio/(sigmaO*sigmaO)) / weight
		sigmaC = 1 / math.Sqrt(weight)
	}
	phi := s.Multiplier / drying.Arrhenius(s.Energy, currentC, s.RefC)
	k := drying.Kelvin(currentC)
	gamma := 1/k - 1/drying.Kelvin(s.RefC)
	t := (scale*stage - tr.atLogEnd.x) * phi
	sheetPart := stage * sigmaC * phi
	energyPart := (-tr.atLogEnd.dxdE*phi + t*gamma/gasConstant) * spread.EnergyJ
	tempPart := t * s.Energy / (gasConstant * k * k) * spread.TempK
	sigma := math.Sqrt(sheetPart*sheetPart + energyPart*energyPart + tempPart*tempPart)
	tr.see(currentC)
	out := Remaining{Index: tr.atLogEnd.x / s.DemouldS, Scale: scale, State: Running, Warnings: tr.warnings(s.System)}
	if t <= 0 {
		out.State, out.HighS = Reached, math.Max(0, t+1.645*sheetPart)
		return out, nil
	}
	out.RemainingS, out.LowS, out.HighS = t, math.Max(0, t-1.645*sigma), t+1.645*sigma
	return out, nil
}
