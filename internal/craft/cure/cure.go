package cure

import (
	"encoding/json"
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

type request struct {
	f         *refusal.Fields
	sheet     Sheet
	log       [][2]float64
	forecastC float64
}

func read(raw json.RawMessage) (request, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return request{}, err
	}
	r := request{f: f, sheet: readSheet(f)}
	facts, known := systems[r.sheet.System]
	if !known {
		return request{}, f.Err()
	}
	r.log = f.Pairs("log", facts.hardLo, facts.hardHi)
	if r.log == nil {
		r.log = [][2]float64{{0, f.Required("temp_c", facts.hardLo, facts.hardHi)}}
	} else if r.log[0][0] < 0 {
		f.Fail(refusal.OutOfRange, "log[0]", "The log starts before mixing.")
	}
	if f.Err() != nil {
		return request{}, f.Err()
	}
	r.forecastC = f.Number("forecast_c", r.log[len(r.log)-1][1], facts.hardLo, facts.hardHi)
	if f.Err() != nil {
		return request{}, f.Err()
	}
	return r, nil
}

// Cure answers the model cure for a JSON input.
func Cure(raw json.RawMessage) (any, error) {
	r, err := read(raw)
	if err != nil {
		return nil, err
	}
	s := r.sheet
	tr := follow(s, r.log, r.forecastC)
	index := tr.atLogEnd.x / s.DemouldS
	return Course{
		Energy: s.Energy, Multiplier: s.Multiplier, LogEndS: tr.logEnd, Equivalent: tr.atLogEnd.x,
		Index: index, Degree: Degree(index),
		PotS: tr.when(s.PotS), GelS: tr.when(s.GelS), DemouldS: tr.when(s.DemouldS), FullS: tr.when(s.FullS),
		Warnings: tr.warnings(s.System),
	}, nil
}

// Left answers the model cure_remaining for a JSON input.
func Left(raw json.RawMessage) (any, error) {
	r, err := read(raw)
	if err != nil {
		return nil, err
	}
	f, s := r.f, r.sheet
	facts := systems[s.System]
	stage := s.At(f.Word("stage", StageDemould, StagePot, StageGel, StageDemould, StageFull))
	currentC := f.Number("current_c", r.log[len(r.log)-1][1], facts.hardLo, facts.hardHi)
	sigmaC := f.Number("sigma_sheet", 0.15, 0.01, 0.6)
	sigmaE := f.Number("sigma_ea_j_mol", 8000, 0, 40e3)
	sigmaT := f.Number("sigma_temp_k", 1.0, 0, 15)
	if f.Err() != nil {
		return nil, f.Err()
	}
	tr := follow(s, r.log, r.forecastC)
	scale := 1.0
	if o := f.Child("observed"); o != nil {
		seen := s.At(o.Word("stage", "", StagePot, StageGel, StageDemould, StageFull))
		at := o.Required("at_s", 0, tr.logEnd)
		sigmaO := o.Number("sigma", 0.20, 0.02, 0.6)
		if o.Err() == nil {
			ratio := tr.at(at) / seen
			if ratio < 0.2 || ratio > 5 {
				o.Fail(refusal.Contradiction, "at_s", "What was seen and the data sheet differ by more than a factor 5: check both.")
			}
			weight := 1/(sigmaC*sigmaC) + 1/(sigmaO*sigmaO)
			scale = (1/(sigmaC*sigmaC) + ratio/(sigmaO*sigmaO)) / weight
			sigmaC = 1 / math.Sqrt(weight)
		}
		f.Adopt(o)
		if f.Err() != nil {
			return nil, f.Err()
		}
	}
	phi := s.Multiplier / drying.Arrhenius(s.Energy, currentC, s.RefC)
	k := drying.Kelvin(currentC)
	gamma := 1/k - 1/drying.Kelvin(s.RefC)
	t := (scale*stage - tr.atLogEnd.x) * phi
	sheetPart := stage * sigmaC * phi
	energyPart := (-tr.atLogEnd.dxdE*phi + t*gamma/gasConstant) * sigmaE
	tempPart := t * s.Energy / (gasConstant * k * k) * sigmaT
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
