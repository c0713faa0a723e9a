package cure

// The models as JSON, as craft/calc hands them out: reading and checking in the
// chapter's field names. Rooms use the functions on Go types.

import (
	"encoding/json"
	"math"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

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
	} else if len(r.log) == 0 {
		f.Fail(refusal.Missing, "log", "The log is empty.")
		return request{}, f.Err()
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
	return r.sheet.course(follow(r.sheet, r.log, r.forecastC)), nil
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
	spread := Spread{f.Number("sigma_sheet", usualSpread.Sheet, 0.01, 0.6), f.Number("sigma_ea_j_mol", usualSpread.EnergyJ, 0, 40e3), f.Number("sigma_temp_k", usualSpread.TempK, 0, 15)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	tr := follow(s, r.log, r.forecastC)
	var seen *Seen
	if o := f.Child("observed"); o != nil {
		seen = &Seen{o.Word("stage", "", StagePot, StageGel, StageDemould, StageFull), o.Required("at_s", 0, tr.logEnd), o.Number("sigma", 0.20, 0.02, 0.6)}
		f.Adopt(o)
		if f.Err() != nil {
			return nil, f.Err()
		}
	}
	return s.left(stage, tr, currentC, spread, seen)
}

func readSheet(f *refusal.Fields) Sheet {
	s := Sheet{System: f.Word("system", "", "addition", "condensation")}
	facts, ok := systems[s.System]
	if !ok {
		return s
	}
	s.PotS = f.Required("pot_s", 10, 2*day)
	s.DemouldS = f.Required("demould_s", 30, 7*day)
	s.GelS = f.Number("gel_s", usualGel(s.PotS, s.DemouldS), 10, 7*day)
	s.FullS = f.Number("full_s", facts.full*s.DemouldS, 30, 60*day)
	if field, text := s.contradiction(); field != "" {
		f.Fail(refusal.Contradiction, field, "%s", text)
	}
	s.RefC = f.Number("ref_c", usualRefC, 0, 60)
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
