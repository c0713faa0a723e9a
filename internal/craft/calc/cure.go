package calc

// Cure as JSON: reading and checking in the chapter's field names.

import (
	"encoding/json"
	"math"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

type cureCase struct {
	f         *refusal.Fields
	sheet     cure.Sheet
	log       [][2]float64
	forecastC float64
}

func readCure(raw json.RawMessage) (cureCase, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return cureCase{}, err
	}
	r := cureCase{f: f, sheet: readSheet(f)}
	facts, known := cure.Systems[r.sheet.System]
	if !known {
		return cureCase{}, f.Err()
	}
	r.log = f.Pairs("log", facts.HardLo, facts.HardHi)
	if f.Err() != nil {
		return cureCase{}, f.Err()
	}
	if len(r.log) == 0 {
		r.log = [][2]float64{{0, f.Required("temp_c", facts.HardLo, facts.HardHi)}}
	} else if r.log[0][0] < 0 {
		f.Fail(refusal.OutOfRange, "log[0]", "The log starts before mixing.")
	}
	if f.Err() != nil {
		return cureCase{}, f.Err()
	}
	r.forecastC = f.Number("forecast_c", r.log[len(r.log)-1][1], facts.HardLo, facts.HardHi)
	if f.Err() != nil {
		return cureCase{}, f.Err()
	}
	return r, nil
}

// cureOf answers the model cure for a JSON input.
func cureOf(raw json.RawMessage) (any, error) {
	r, err := readCure(raw)
	if err != nil {
		return nil, err
	}
	return answer(r.sheet.AlongTo(r.log, r.forecastC))
}

// cureLeft answers the model cure_remaining for a JSON input.
func cureLeft(raw json.RawMessage) (any, error) {
	r, err := readCure(raw)
	if err != nil {
		return nil, err
	}
	f, s := r.f, r.sheet
	facts := cure.Systems[s.System]
	stage := f.Word("stage", cure.StageDemould, cure.StagePot, cure.StageGel, cure.StageDemould, cure.StageFull)
	currentC := f.Number("current_c", r.log[len(r.log)-1][1], facts.HardLo, facts.HardHi)
	spread := cure.Spread{Sheet: f.Number("sigma_sheet", cure.UsualSpread.Sheet, 0.01, 0.6), EnergyJ: f.Number("sigma_ea_j_mol", cure.UsualSpread.EnergyJ, 0, 40e3), TempK: f.Number("sigma_temp_k", cure.UsualSpread.TempK, 0, 15)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	var seen *cure.Seen
	if o := f.Child("observed"); o != nil {
		seen = &cure.Seen{Stage: o.Word("stage", "", cure.StagePot, cure.StageGel, cure.StageDemould, cure.StageFull), AtS: o.Required("at_s", 0, r.log[len(r.log)-1][0]), Sigma: o.Number("sigma", 0.20, 0.02, 0.6)}
		f.Adopt(o)
		if f.Err() != nil {
			return nil, f.Err()
		}
	}
	return answer(s.LeftIn(stage, r.log, cure.Ahead{ForecastC: r.forecastC, CurrentC: currentC, Spread: spread}, seen))
}

func readSheet(f *refusal.Fields) cure.Sheet {
	s := cure.Sheet{System: f.Word("system", "", "addition", "condensation")}
	facts, ok := cure.Systems[s.System]
	if !ok {
		return s
	}
	s.PotS = f.Required("pot_s", 10, 2*cure.Day)
	s.DemouldS = f.Required("demould_s", 30, 7*cure.Day)
	s.GelS = f.Number("gel_s", cure.UsualGel(s.PotS, s.DemouldS), 10, 7*cure.Day)
	s.FullS = f.Number("full_s", facts.Full*s.DemouldS, 30, 60*cure.Day)
	if field, text := s.Contradiction(); field != "" {
		f.Fail(refusal.Contradiction, field, "%s", text)
	}
	s.RefC = f.Number("ref_c", cure.UsualRefC, 0, 60)
	s.Energy = f.Number("ea_j_mol", facts.Energy, 20e3, 120e3)
	readSecondPoint(f, &s)
	humidity := cure.InterpLog(facts.Humidity, f.Number("rh", 0.50, 0.05, 0.95))
	s.Multiplier = humidity * readAdditive(f, facts)
	s.LagS = f.Number("lag_s", 0, 0, cure.Day/2)
	s.HasStart = f.Has("start_c")
	s.StartC = f.Number("start_c", 0, facts.HardLo, facts.HardHi)
	return s
}

func readSecondPoint(f *refusal.Fields, s *cure.Sheet) {
	p := f.Child("second_point")
	if p == nil || f.Has("ea_j_mol") {
		return
	}
	t2, c2 := p.Required("demould_s", 30, 7*cure.Day), p.Required("temp_c", -5, 150)
	if math.Abs(c2-s.RefC) < 3 {
		p.Fail(refusal.Contradiction, "temp_c", "The second point is too close to the first: at least 3 K apart.")
	}
	f.Adopt(p)
	if f.Err() != nil {
		return
	}
	s.Energy = drying.GasConstant * math.Log(s.DemouldS/t2) / (1/drying.Kelvin(s.RefC) - 1/drying.Kelvin(c2))
	if s.Energy < 20e3 || s.Energy > 120e3 {
		f.Fail(refusal.OutOfRange, "second_point", "The two points give an activation energy of %.0f kJ/mol; 20 to 120 is credible.", s.Energy/1000)
	}
}

func readAdditive(f *refusal.Fields, facts cure.System) float64 {
	a := f.Child("additive")
	if a == nil {
		return 1
	}
	defer f.Adopt(a)
	table := facts.Shift(a.Word("kind", "", cure.Accelerator, cure.Retarder))
	if own := a.Pairs("table", 1e-3, 100); own != nil {
		table = own
	}
	if table == nil {
		a.Fail(refusal.UnknownValue, "kind", "This system has no such additive.")
		return 1
	}
	return cure.InterpLog(table, a.Required("dose", table[0][0], table[len(table)-1][0]))
}
