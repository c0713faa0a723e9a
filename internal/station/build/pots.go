package build

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/refusal"
)

// Mark is a stage on a pot's glass.
type Mark struct {
	Stage   string  `json:"stage"`
	Text    string  `json:"text"`
	Level   float64 `json:"level" doc:"height on the glass, 0 to 1"`
	Reached bool    `json:"reached"`
}

// Pot is one thing that is curing or drying, as the shelf shows it.
type Pot struct {
	ID        uint64    `json:"id"`
	Label     string    `json:"label"`
	Piece     string    `json:"piece"`
	Copy      string    `json:"copy,omitempty"`
	Kind      string    `json:"kind" enum:"cure,dry,mould"`
	Family    string    `json:"family"`
	StartedAt time.Time `json:"started_at"`
	Fill      float64   `json:"fill" doc:"computed degree, 0 to 1"`
	Marks     []Mark    `json:"marks"`
	State     string    `json:"state" enum:"running,ready"`
	Words     string    `json:"words" doc:"what it is at now"`
	Left      string    `json:"left" doc:"time left with its band, in words"`
	LeftS     float64   `json:"left_s"`
	LowS      float64   `json:"low_s"`
	HighS     float64   `json:"high_s"`
	// HeldBack says why it may not be taken out yet; empty when it may.
	HeldBack string   `json:"held_back,omitempty"`
	Observed string   `json:"observed,omitempty" doc:"stage that somebody saw"`
	Warnings []string `json:"warnings"`
	Why      []string `json:"why" doc:"what the figures were worked out from"`
}

type potRow struct {
	ID        uint64     `db:"id"`
	PieceID   uint64     `db:"piece_id"`
	CopyID    *uint64    `db:"copy_id"`
	Label     string     `db:"label"`
	Kind      string     `db:"kind"`
	Family    string     `db:"family"`
	Model     string     `db:"model"`
	Observed  *string    `db:"observed"`
	StartedAt time.Time  `db:"started_at"`
	EndedAt   *time.Time `db:"ended_at"`
	Piece     string     `db:"piece"`
	Copy      *string    `db:"copy_code"`
	MouldID   *uint64    `db:"mould_id"`
}

// Moulds says how far a mould is that sets or dries; wired to the mould room.
type Moulds interface {
	PotOf(ctx context.Context, mould uint64) (MouldPot, error)
}

// MouldPot is how a mould stands on the shelf.
type MouldPot struct {
	Fill        float64
	Set, Dry    float64 // heights of the marks
	IsSet, Done bool
	Words, Left string
	LeftS       float64
	LowS, HighS float64
	HeldBack    string
	Why         []string
}

func (s *Service) workMould(ctx context.Context, p Pot, row potRow) (Pot, error) {
	m, err := s.Moulds.PotOf(ctx, *row.MouldID)
	if err != nil {
		return p, err
	}
	p.Fill, p.Words, p.Left, p.LeftS, p.LowS, p.HighS, p.HeldBack, p.Why = m.Fill, m.Words, m.Left, m.LeftS, m.LowS, m.HighS, m.HeldBack, m.Why
	p.Marks = []Mark{{"set", "set", m.Set, m.IsSet}, {"dry", "dry", m.Dry, m.Done}}
	if m.Done {
		p.State = "ready"
	}
	return p, nil
}

var stageWords = map[string]string{cure.StagePot: "still pourable", cure.StageGel: "tacky", cure.StageDemould: "firming", cure.StageFull: "ready to come out"}

// work computes a pot from its model and the room's log.
func (s *Service) work(ctx context.Context, row potRow) (Pot, error) {
	log, err := s.Air.between(ctx, row.StartedAt)
	if err != nil {
		return Pot{}, err
	}
	return s.workOn(ctx, row, log)
}

// workOn computes a pot from a log that reaches back to the minute before it.
func (s *Service) workOn(ctx context.Context, row potRow, log []reading) (Pot, error) {
	p := Pot{ID: row.ID, Label: row.Label, Piece: row.Piece, Kind: row.Kind, Family: row.Family, StartedAt: row.StartedAt, State: "running", Warnings: []string{}, Marks: []Mark{}}
	if row.Copy != nil {
		p.Copy = *row.Copy
	}
	if row.MouldID != nil {
		return s.workMould(ctx, p, row)
	}
	if row.Kind == "dry" {
		return s.workDry(p, row, log)
	}
	return s.workCure(p, row, log)
}

func (s *Service) workCure(p Pot, row potRow, log []reading) (Pot, error) {
	input := map[string]any{}
	if err := json.Unmarshal([]byte(row.Model), &input); err != nil {
		return p, fmt.Errorf("reading the pot's model: %w", err)
	}
	elapsed := math.Max(0, s.Clock.Now().Sub(row.StartedAt).Seconds())
	pairs := [][2]float64{}
	for _, r := range log {
		// The reading of the minute before holds at the start.
		at := math.Max(0, r.At.Sub(row.StartedAt).Seconds())
		if n := len(pairs); n > 0 && at <= pairs[n-1][0] {
			pairs[n-1][1] = r.TempC
			continue
		}
		if at <= elapsed {
			pairs = append(pairs, [2]float64{at, r.TempC})
		}
	}
	room := 21.0
	if n := len(pairs); n > 0 {
		room = pairs[n-1][1]
		if elapsed > pairs[n-1][0] {
			pairs = append(pairs, [2]float64{elapsed, room})
		}
		input["log"] = pairs
	} else {
		input["temp_c"] = room
	}
	course, err := run[cure.Course](cure.Cure, input)
	if err != nil {
		return p, err
	}
	if row.Observed != nil {
		var seen map[string]any
		if err := json.Unmarshal([]byte(*row.Observed), &seen); err != nil {
			return p, err
		}
		input["observed"] = seen
		p.Observed, _ = seen["stage"].(string)
	}
	left, err := run[cure.Remaining](cure.Left, input)
	if err != nil {
		return p, err
	}
	p.Fill, p.Warnings = course.Degree, course.Warnings
	p.LeftS, p.LowS, p.HighS = left.RemainingS, left.LowS, left.HighS
	total := course.Equivalent / math.Max(1e-9, course.Index) // demould time at the reference
	if course.Index == 0 {
		total = input["demould_s"].(float64)
	}
	stages := []struct{ stage, text string }{{cure.StagePot, "no longer pourable"}, {cure.StageGel, "no longer tacky"}, {cure.StageDemould, "demould"}}
	p.Words = stageWords[cure.StageFull]
	for i := len(stages) - 1; i >= 0; i-- {
		st := stages[i]
		index := stageIndex(input, st.stage, total)
		reached := course.Index >= index*left.Scale
		if !reached {
			p.Words = stageWords[st.stage]
		}
		p.Marks = append(p.Marks, Mark{st.stage, st.text, cure.Degree(index), reached})
	}
	slices.Reverse(p.Marks)
	p.Why = []string{
		fmt.Sprintf("Equivalent time by Arrhenius, %s cure: pot life %s, demould %s at %v °C. These are the library's defaults; the supplier's data sheet wins.", input["system"], quantity.FormatDuration(input["pot_s"].(float64)), quantity.FormatDuration(input["demould_s"].(float64)), input["ref_c"]),
		fmt.Sprintf("%d readings of the room since A met B, now %.1f °C.", len(log), room),
		fmt.Sprintf("Activation energy %.0f kJ/mol (default), band 90 %%.", course.Energy/1000),
	}
	if p.Observed != "" {
		p.Why = append(p.Why, fmt.Sprintf("Somebody saw it %s; the sheet's times are stretched by %.2f.", stageWords[nextStage(p.Observed)], left.Scale))
	}
	if left.State == cure.Reached {
		p.State, p.Left = "ready", "demould now"
		return p, nil
	}
	p.Left = "demould in " + withBand(p.LeftS, p.LowS, p.HighS)
	p.HeldBack = fmt.Sprintf("It is %s: cured %.0f %%, ready in about %s. Taken out now it tears and stays tacky.", p.Words, 100*p.Fill, quantity.FormatDuration(p.LeftS))
	return p, nil
}

func nextStage(seen string) string {
	return map[string]string{cure.StagePot: cure.StageGel, cure.StageGel: cure.StageDemould, cure.StageDemould: cure.StageFull}[seen]
}

// stageIndex is a stage as a share of the demould time, with the handbook's
// default for the gel time.
func stageIndex(input map[string]any, stage string, demould float64) float64 {
	pot, _ := input["pot_s"].(float64)
	switch stage {
	case cure.StagePot:
		return pot / demould
	case cure.StageGel:
		if gel, ok := input["gel_s"].(float64); ok {
			return gel / demould
		}
		return math.Pow(pot, 0.6) * math.Pow(demould, 0.4) / demould
	}
	return 1
}

func (s *Service) workDry(p Pot, row potRow, log []reading) (Pot, error) {
	input := map[string]any{}
	if err := json.Unmarshal([]byte(row.Model), &input); err != nil {
		return p, fmt.Errorf("reading the pot's model: %w", err)
	}
	temp, rh := 0.0, 0.0
	for _, r := range log {
		temp += r.TempC / float64(len(log))
		rh += r.RH / float64(len(log))
	}
	if len(log) > 0 {
		input["room_c"], input["rh"] = math.Round(temp*100)/100, math.Round(rh*1000)/1000
	}
	e, err := run[drying.Estimate](drying.LatexEstimate, input)
	if err != nil {
		return p, err
	}
	elapsed := s.Clock.Now().Sub(row.StartedAt).Seconds()
	p.Fill = math.Min(1, 0.9*elapsed/e.DryS)
	p.LeftS = math.Max(0, e.DryS-elapsed)
	p.LowS, p.HighS = math.Max(0, 0.7*e.DryS-elapsed), math.Max(0, 1.5*e.DryS-elapsed)
	for _, m := range []struct {
		stage, text string
		at          float64
	}{{"touch", "touch-dry", e.TouchS}, {"recoat", "next coat", e.RecoatS}, {"dry", "dry through", e.DryS}} {
		p.Marks = append(p.Marks, Mark{m.stage, m.text, 0.9 * m.at / e.DryS, elapsed >= m.at})
	}
	switch {
	case elapsed >= e.DryS:
		p.State, p.Words, p.Left = "ready", "dry through", "powder and lift"
	case elapsed >= e.RecoatS:
		p.Words = "ready for the next coat"
	case elapsed >= e.TouchS:
		p.Words = "touch-dry"
	default:
		p.Words = "wet"
	}
	if p.State == "running" {
		p.Left = "dry in " + withBand(p.LeftS, p.LowS, p.HighS)
		p.HeldBack = fmt.Sprintf("It is %s; dry through in about %s.", p.Words, quantity.FormatDuration(p.LeftS))
	}
	p.Why = []string{fmt.Sprintf("Closed-form drying estimate at the mean of the room, %.1f °C and %.0f %% RH, still air; band −30/+50 %% until this place is learned.", temp, 100*rh)}
	return p, nil
}

// run puts an input through a model of the craft.
func run[T any](model func(json.RawMessage) (any, error), input map[string]any) (T, error) {
	var none T
	raw, err := json.Marshal(input)
	if err != nil {
		return none, err
	}
	out, err := model(raw)
	if err != nil {
		return none, err
	}
	answer, ok := out.(T)
	if !ok {
		return none, errors.New("the model gave another answer than asked for")
	}
	return answer, nil
}

// withBand writes a time left: 42 min ± 6.
func withBand(t, low, high float64) string {
	half := (high - low) / 2
	switch {
	case t < 90:
		return quantity.FormatDuration(t)
	case t < 3600:
		return fmt.Sprintf("%s ± %.0f", quantity.FormatDuration(t), math.Max(1, half/60))
	default:
		return fmt.Sprintf("%s ± %s", quantity.FormatDuration(t), quantity.FormatDuration(half))
	}
}

// WorkingTime is how long a mix may still be poured.
type WorkingTime struct {
	Started bool    `json:"started"`
	LeftS   float64 `json:"left_s"`
	LowS    float64 `json:"low_s"`
	HighS   float64 `json:"high_s"`
	Over    bool    `json:"over"`
	TempC   float64 `json:"temp_c"`
	SheetS  float64 `json:"sheet_s"`
	RefC    float64 `json:"ref_c"`
}

// WorkingTime computes the pot life of a cure sheet from first contact along
// the room's log; before contact, what it would be now.
func (s *Service) WorkingTime(ctx context.Context, sheet material.CureSheet, contact *time.Time) (WorkingTime, error) {
	room := s.Air.Now(ctx)
	out := WorkingTime{TempC: room.TempC, SheetS: sheet.PotS, RefC: sheet.RefC}
	input := sheetInput(sheet)
	input["stage"] = cure.StagePot
	if contact == nil {
		input["temp_c"] = room.TempC
	} else {
		out.Started = true
		log, err := s.Air.between(ctx, *contact)
		if err != nil {
			return out, err
		}
		elapsed := math.Max(1e-3, s.Clock.Now().Sub(*contact).Seconds())
		pairs := [][2]float64{{0, room.TempC}}
		if len(log) > 0 {
			pairs[0][1] = log[0].TempC
		}
		for _, r := range log {
			if at := r.At.Sub(*contact).Seconds(); at > pairs[len(pairs)-1][0] && at < elapsed {
				pairs = append(pairs, [2]float64{at, r.TempC})
			}
		}
		input["log"] = append(pairs, [2]float64{elapsed, room.TempC})
	}
	left, err := run[cure.Remaining](cure.Left, input)
	var refused *refusal.Error
	if errors.As(err, &refused) {
		return out, nil // a sheet without usable times: nothing to count down
	}
	if err != nil {
		return out, err
	}
	out.LeftS, out.LowS, out.HighS, out.Over = left.RemainingS, left.LowS, left.HighS, left.State == cure.Reached
	return out, nil
}
