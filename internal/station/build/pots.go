package build

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"time"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/platform/database"
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
	Run       string    `json:"run,omitempty" doc:"the session that it belongs to"`
	Kind      string    `json:"kind" enum:"cure,dry,mould,set"`
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
	HeldBack string `json:"held_back,omitempty"`
	// Goes is true in the middle of a build: it is not taken out, Then follows.
	Goes     bool    `json:"goes_on"`
	Then     string  `json:"then,omitempty" doc:"the stage of its run that follows"`
	RecoatS  float64 `json:"recoat_s,omitempty" doc:"until the next coat may go on"`
	Observed string  `json:"observed,omitempty" doc:"stage that somebody saw"`
	Bakes    bool    `json:"bakes,omitempty" doc:"it is in an oven, and has a curve"`
	// Place is where it stands, by its code; empty for the room.
	Place     string `json:"place,omitempty"`
	PlaceName string `json:"place_name,omitempty"`
	// ReadyAt is when it was ready, or will be.
	ReadyAt *time.Time `json:"ready_at,omitempty"`
	// TooLateAt is when its window shuts, and TooLate what happens then.
	TooLateAt *time.Time `json:"too_late_at,omitempty"`
	TooLate   string     `json:"too_late,omitempty"`
	Past      bool       `json:"past,omitempty" doc:"its window is shut"`
	// RecoatAt is when it was ready for the next coat, where that is what it waits for.
	RecoatAt *time.Time `json:"recoat_at,omitempty"`
	// RangAt is since when it wants a hand; nothing while it does not. Rings is true until
	// somebody has answered that.
	RangAt *time.Time `json:"rang_at,omitempty"`
	Rings  bool       `json:"rings"`
	// AnsweredAt is when somebody took it in hand after it rang.
	AnsweredAt *time.Time `json:"answered_at,omitempty"`
	AnsweredBy string     `json:"answered_by,omitempty"`
	Warnings   []string   `json:"warnings"`
	Why        []string   `json:"why" doc:"what the figures were worked out from"`
}

// potModel is what a pot is computed from: a cure sheet, the coats that dry, or
// the time that the section gives.
type potModel struct {
	*material.CureSheet
	// Stack are the coats of a build with the pot's own on top; Layers the pot's own
	// alone, of pots from before stacks were kept.
	Stack  []coat         `json:"stack,omitempty"`
	Layers []drying.Layer `json:"layers,omitempty"`
	Air    []airChange    `json:"air,omitempty"` // what was blown over them since
	Preset string         `json:"preset,omitempty"`
	Side   string         `json:"side,omitempty"`
	WaitS  float64        `json:"wait_s,omitempty"`
	// What sets by an engine of its own.
	Gel   *gelTime       `json:"gel,omitempty"`
	Bake  *foam.Bake     `json:"bake,omitempty"`
	Wash  *drying.Washed `json:"wash,omitempty"`
	Chill *chill         `json:"chill,omitempty"`
}

type potRow struct {
	ID        uint64     `db:"id"`
	PieceID   uint64     `db:"piece_id"`
	CopyID    *uint64    `db:"copy_id"`
	StageID   *uint64    `db:"stage_id"`
	RunID     *uint64    `db:"run_id"`
	Run       *string    `db:"run_code"`
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
	Next      *string    `db:"next_plan"`
	Section   int        `db:"section_number"` // that its session is made on; 0 where none is known
	Product   string     `db:"product"`        // slug of what its stage takes; "" where it takes nothing

	AnsweredAt *time.Time `db:"answered_at"`
	AnsweredBy *string    `db:"answered_name"`
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

// work computes a pot from its model and the log of where it stood.
func (s *Service) work(ctx context.Context, db database.Reader, row potRow) (Pot, error) {
	room, err := s.Air.between(ctx, db, row.StartedAt)
	if err != nil {
		return Pot{}, err
	}
	stood, err := s.moves(ctx, db, row.ID)
	if err != nil {
		return Pot{}, err
	}
	return s.workOn(ctx, db, row, room, stood[row.ID])
}

// workOn computes a pot from the room's log, which reaches back to the minute before it,
// and from where it stood.
func (s *Service) workOn(ctx context.Context, db database.Reader, row potRow, room []reading, stood []move) (Pot, error) {
	p := Pot{ID: row.ID, Label: row.Label, Piece: row.Piece, Kind: row.Kind, Family: row.Family, StartedAt: row.StartedAt, State: "running", Warnings: []string{}, Marks: []Mark{}}
	if row.Copy != nil {
		p.Copy = *row.Copy
	}
	if row.Run != nil {
		p.Run = *row.Run
	}
	if row.AnsweredBy != nil {
		p.AnsweredAt, p.AnsweredBy = row.AnsweredAt, *row.AnsweredBy
	}
	if row.MouldID != nil {
		p, err := s.workMould(ctx, p, row)
		p.Rings = p.State == "ready" && p.AnsweredAt == nil
		return p, err
	}
	if in := standsIn(stood); in != nil {
		p.Place, p.PlaceName = *in.Code, *in.Name
	}
	log, err := s.along(ctx, db, stood, room, row.StartedAt)
	if err != nil {
		return p, err
	}
	var next making.Stage
	if row.Next != nil {
		if err := json.Unmarshal([]byte(*row.Next), &next); err != nil {
			return p, fmt.Errorf("reading the next stage: %w", err)
		}
		p.Then = next.Text
	}
	var model potModel
	if err := json.Unmarshal([]byte(row.Model), &model); err != nil {
		return p, fmt.Errorf("reading the pot's model: %w", err)
	}
	elapsed := math.Max(0, s.Clock.Now().Sub(row.StartedAt).Seconds())
	switch making.Wait(row.Kind) {
	case making.Dry:
		p, err = s.dries(ctx, db, p, row, model, elapsed, log, stood, next)
	case making.Set:
		p, err = s.sets(p, row, model, elapsed, log, stood)
	default:
		if model.CureSheet == nil {
			return p, fmt.Errorf("the pot %s has no cure sheet", row.Label)
		}
		p, err = cures(p, *model.CureSheet, row, elapsed, log)
	}
	if next.Text != "" && !lifts(next.Act) {
		p.Goes = true
	}
	p.wantsAHand(s.Clock.Now())
	return p, err
}

// wantsAHand says since when a pot wants one, and whether anybody has answered that: it is
// ready, or its window is shut.
func (p *Pot) wantsAHand(now time.Time) {
	p.Past = p.TooLateAt != nil && now.After(*p.TooLateAt)
	if p.ReadyAt == nil {
		at := now.Add(time.Duration(p.LeftS * float64(time.Second)))
		p.ReadyAt = &at
	}
	if p.State == "ready" && p.RangAt == nil {
		p.RangAt = p.ReadyAt
	}
	if p.Past {
		p.RangAt = p.TooLateAt
	}
	if p.RangAt != nil && p.RangAt.After(now) {
		p.RangAt = &now
	}
	p.Rings = p.RangAt != nil && (p.AnsweredAt == nil || p.AnsweredAt.Before(*p.RangAt))
}

// temperatures are a log from the start of something up to now, in s and °C: the
// reading of the minute before holds at the start, the newest up to now. Without
// any reading it is the reference room.
func temperatures(log []reading, start time.Time, elapsed float64) [][2]float64 {
	var pairs [][2]float64
	for _, r := range log {
		at := math.Max(0, r.At.Sub(start).Seconds())
		if n := len(pairs); n > 0 && at <= pairs[n-1][0] {
			pairs[n-1][1] = r.around()
			continue
		}
		if at <= elapsed {
			pairs = append(pairs, [2]float64{at, r.around()})
		}
	}
	if len(pairs) == 0 {
		pairs = append(pairs, [2]float64{0, Reference.TempC})
	}
	if last := pairs[len(pairs)-1]; elapsed > last[0] {
		pairs = append(pairs, [2]float64{elapsed, last[1]})
	}
	return pairs
}

func cures(p Pot, data material.CureSheet, row potRow, elapsed float64, log []reading) (Pot, error) {
	sheet, err := data.Facts().Sheet()
	if err != nil {
		return p, err
	}
	temps := temperatures(log, row.StartedAt, elapsed)
	course, err := sheet.Along(temps)
	if err != nil {
		return p, err
	}
	var seen *cure.Seen
	if row.Observed != nil {
		seen = &cure.Seen{}
		if err := json.Unmarshal([]byte(*row.Observed), seen); err != nil {
			return p, err
		}
		p.Observed = seen.Stage
	}
	// A room that nobody has looked at for hours may be another one by now.
	old, now := age(log, row.StartedAt.Add(time.Duration(elapsed*float64(time.Second)))), temps[len(temps)-1][1]
	spread := cure.UsualSpread
	spread.TempK = math.Hypot(spread.TempK, drift(old))
	left, err := sheet.LeftIn(cure.StageDemould, temps, cure.Ahead{ForecastC: now, CurrentC: now, Spread: spread}, seen)
	if err != nil {
		return p, err
	}
	p.Fill, p.Warnings = math.Min(1, course.Degree), course.Warnings
	p.LeftS, p.LowS, p.HighS = left.RemainingS, left.LowS, left.HighS
	p.Words = cure.Text(cure.StageFull)
	for _, st := range []struct{ stage, text string }{{cure.StageDemould, "demould"}, {cure.StageGel, "no longer tacky"}, {cure.StagePot, "no longer pourable"}} {
		index := sheet.At(st.stage) / sheet.DemouldS
		reached := course.Index >= index*left.Scale
		if !reached {
			p.Words = cure.Text(st.stage)
		}
		p.Marks = append(p.Marks, Mark{st.stage, st.text, cure.Degree(index), reached})
	}
	slices.Reverse(p.Marks)
	p.Why = []string{
		fmt.Sprintf("Equivalent time by Arrhenius, %s cure: pot life %s, demould %s at %v °C. These are the library's defaults; the supplier's data sheet wins.", sheet.System, duration(sheet.PotS), duration(sheet.DemouldS), sheet.RefC),
		fmt.Sprintf("%d readings of the room since A met B, now %.1f °C.", len(log), temps[len(temps)-1][1]),
		fmt.Sprintf("Activation energy %.0f kJ/mol (default), band 90 %%.", course.Energy/1000),
	}
	if words := aged(log, old); words != "" {
		p.Why = append(p.Why, words)
	}
	if seen != nil {
		p.Why = append(p.Why, fmt.Sprintf("Somebody saw it %s; the sheet's times are stretched by %.2f.", cure.NextText(seen.Stage), left.Scale))
	}
	if left.State == cure.Reached {
		reached := course.DemouldS
		if left.Scale != 1 { // what was seen stretches the sheet
			seen := sheet
			seen.FullS = left.Scale * sheet.DemouldS
			if stretched, err := seen.Along(temps); err == nil {
				reached = stretched.FullS
			}
		}
		at := p.StartedAt.Add(time.Duration(reached * float64(time.Second)))
		p.ReadyAt = &at
		p.State, p.Left = "ready", "demould now"
		return p, nil
	}
	p.Left = "demould in " + withBand(p.LeftS, p.LowS, p.HighS)
	p.HeldBack = fmt.Sprintf("It is %s: cured %.0f %%, ready in about %s. Taken out now it tears and stays tacky.", p.Words, 100*p.Fill, duration(p.LeftS))
	return p, nil
}

// dries computes a pot of coats from the whole stack under and with its own: a coat that
// went on too early holds the water of the ones below.
func (s *Service) dries(ctx context.Context, db database.Reader, p Pot, row potRow, model potModel, elapsed float64,
	log []reading, stood []move, next making.Stage) (Pot, error) {
	started := row.StartedAt
	coats := model.coats()
	if len(coats) == 0 {
		return p, fmt.Errorf("the pot %s has no coat", p.Label)
	}
	own := coats[len(coats)-1]
	begun := started.Add(-time.Duration(own.AtS * float64(time.Second)))
	if own.AtS > 0 { // the coats below have stood in it for longer
		var err error
		if log, err = s.Air.between(ctx, db, begun); err != nil {
			return p, err
		}
		if log, err = s.along(ctx, db, stood, log, begun); err != nil {
			return p, err
		}
	}
	room := spells(log, begun, s.Clock.Now())
	last := room[len(room)-1]
	where := airWords[own.Preset]
	if n := len(model.Air); n > 0 && model.Air[n-1].AtS >= own.AtS {
		where = airWords[model.Air[n-1].Preset] + " since, " + where + " before"
	}
	if own.Side == "skin" && model.air() == "warm_dryer" {
		where += ", held to what skin bears"
	}
	shop, err := s.pace(ctx, db, placeOf(model.air(), coats[0].Side, standsIn(stood)), row.Product)
	if err != nil {
		return p, err
	}
	sign, err := signOf(row)
	if err != nil {
		return p, err
	}
	d, err := s.dried(course{Coats: coats, Air: model.Air, Rooms: room, Times: ownTimes(shop, sign)})
	if err != nil {
		return p, err
	}
	e := onPot(d, len(coats)-1, coats[len(coats)-1].AtS)
	low, high := bandOfDrying(shop, sign)
	if sign != nil {
		p.Observed = sign.Stage
		e = sign.as(e)
	}
	p.Fill = math.Min(1, 0.9*elapsed/e.DryS)
	p.LeftS, p.RecoatS = math.Max(0, e.DryS-elapsed), math.Max(0, e.RecoatS-elapsed)
	dry := started.Add(time.Duration(e.DryS * float64(time.Second)))
	p.ReadyAt = &dry
	// Some seven percent of a drying time a degree, on top of the model's own band.
	old := age(log, started.Add(time.Duration(elapsed*float64(time.Second))))
	low, high = low-0.07*drift(old), high+0.07*drift(old)
	p.LowS, p.HighS = math.Max(0, low*e.DryS-elapsed), math.Max(0, high*e.DryS-elapsed)
	coat := next.Coat > 0
	for _, m := range []struct {
		stage, text string
		at          float64
	}{{"touch", "touch-dry", e.TouchS}, {"recoat", "next coat", e.RecoatS}, {"dry", "dry through", e.DryS}} {
		p.Marks = append(p.Marks, Mark{m.stage, m.text, 0.9 * m.at / e.DryS, elapsed >= m.at})
	}
	switch {
	case elapsed >= e.DryS:
		p.State, p.Words, p.Left = "ready", "dry through", onceDry(next)
	case elapsed >= e.RecoatS:
		p.Words = "ready for the next coat"
	case elapsed >= e.TouchS:
		p.Words = "touch-dry"
	default:
		p.Words = "wet"
	}
	if own.FillerRatio > 0 { // paste: texture is pulled up while it is half dry
		p = halfDry(p, e, elapsed)
	}
	if coat && elapsed >= e.RecoatS { // in the middle of a build dry enough is ready
		p.State, p.Left = "ready", "next coat"
		at := p.StartedAt.Add(time.Duration(e.RecoatS * float64(time.Second)))
		p.RangAt, p.RecoatAt = &at, &at
	}
	if p.State == "running" {
		p.Left = "dry in " + withBand(p.LeftS, p.LowS, p.HighS)
		if coat {
			p.Left = "next coat in " + withBand(p.RecoatS, low*p.RecoatS, high*p.RecoatS)
		}
		p.HeldBack = fmt.Sprintf("It is %s; dry through in about %s.", p.Words, duration(p.LeftS))
	}
	p.Why = []string{fmt.Sprintf("Water followed through %s along the room's log, now %.1f °C and %.0f %% RH, %s.",
		coatsText(len(coats)), last.TempC, 100*last.RH, where)}
	switch {
	case sign != nil && sign.Stage == weighed:
		p.Why = append(p.Why, fmt.Sprintf("By what it lost on the scale it takes %.2f of the book's time: its times follow, band −15/+25 %%.", sign.AtS/sign.BookS))
	case sign != nil:
		p.Why = append(p.Why, fmt.Sprintf("Somebody found it %s after %s, where the book has %s: its times follow, band −15/+25 %%.",
			signWords[sign.Stage], duration(sign.AtS), duration(sign.BookS)))
	case shop.N > 0:
		p.Why = append(p.Why, fmt.Sprintf("By %d signs of this shop it takes %.2f of the book's time %s (%.2f to %.2f).", shop.N,
			shop.Times, shop.Words, shop.Low, shop.High))
	default:
		p.Why = append(p.Why, "Band −30/+50 % until this place is learned: say when it is touch-dry or dry.")
	}
	if words := trapped(d, len(coats)); words != "" {
		p.Why = append(p.Why, words)
	}
	if words := aged(log, old); words != "" {
		p.Why = append(p.Why, words)
	}
	return p, nil
}

// onceDry is what is done with a coat that is dry through: what follows, never the lift
// in the middle of a build.
func onceDry(next making.Stage) string {
	switch {
	case next.Text == "":
		return "it is made"
	case lifts(next.Act):
		return "powder and lift"
	}
	return "go on"
}

// halfDry tells of paste when it may be roughened and pulled up, and when that is over:
// between touch-dry and ready for the next coat.
func halfDry(p Pot, e drying.Estimate, elapsed float64) Pot {
	shut := p.StartedAt.Add(time.Duration(e.RecoatS * float64(time.Second)))
	p.TooLateAt, p.TooLate = &shut, "it is too dry to pull texture up"
	switch {
	case elapsed < e.TouchS:
		p.Words = "wet; half dry in " + duration(e.TouchS-elapsed)
	case elapsed < e.RecoatS:
		p.Words = "half dry: pull its texture up now"
	}
	return p
}

func coatsText(n int) string {
	if n == 1 {
		return "one coat"
	}
	return fmt.Sprintf("%d coats", n)
}

// aged says that the band is wider since nobody has read the room for long.
func aged(log []reading, old time.Duration) string {
	switch {
	case len(log) == 0:
		return fmt.Sprintf("Nobody has read the room: %g °C and %g %% RH are reckoned with, and the band is wider for it.", Reference.TempC, 100*Reference.RH)
	case old > 0:
		return fmt.Sprintf("The room was last read %s ago: the band is wider for it. Type what the thermometer shows now.", duration(old.Seconds()))
	}
	return ""
}

// meanOf is the air of a log from the start of something for a time, each
// reading for as long as it held.
func meanOf(log []reading, started time.Time, elapsed float64) (tempC, rh, inC float64) {
	whole := 0.0
	end := started.Add(time.Duration(elapsed * float64(time.Second)))
	for i, r := range log {
		from, to := r.At, end
		if from.Before(started) || i == 0 {
			from = started
		}
		if i+1 < len(log) {
			to = log[i+1].At
		}
		held := math.Max(to.Sub(from).Seconds(), 0)
		if i == len(log)-1 {
			held = math.Max(held, 1e-3)
		}
		tempC, rh, inC, whole = tempC+held*r.TempC, rh+held*r.RH, inC+held*r.InC, whole+held
	}
	return tempC / whole, rh / whole, inC / whole
}

func duration(s float64) string { return quantity.FormatDuration(s) }

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

// WorkingTime computes the pot life of a cure sheet from first contact along
// the room's log; before contact, what it would be now. A sheet without usable
// times has nothing to count down.
func (s *Service) WorkingTime(ctx context.Context, db database.Reader, data material.CureSheet, contact *time.Time) (cure.WorkingTime, error) {
	room, measured, err := s.Air.Now(ctx, db)
	if err != nil {
		return cure.WorkingTime{}, err
	}
	temps := [][2]float64{{0, room.TempC}}
	if contact != nil {
		log, err := s.Air.between(ctx, db, *contact)
		if err != nil {
			return cure.WorkingTime{}, err
		}
		temps = temperatures(log, *contact, math.Max(1e-3, s.Clock.Now().Sub(*contact).Seconds()))
	}
	out := cure.Working(data.Facts(), temps, contact != nil)
	out.Measured = measured
	return out, nil
}
