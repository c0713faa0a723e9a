package handover

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/outing"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Comfort is how the wearer said that it is.
type Comfort struct {
	Score int       `db:"score" json:"score" doc:"0 bad, 10 good"`
	Words string    `db:"words" json:"words"`
	At    time.Time `db:"at" json:"at"`
}

// Learned is how long a kind of step really takes against what was planned.
type Learned struct {
	Kind   string  `json:"kind"`
	Factor float64 `json:"factor"`
	N      int     `json:"n" doc:"steps that were timed"`
}

// ChairView is the run of a kit's morning, how far it is, and the day after it.
type ChairView struct {
	Doc      outing.Choices `json:"doc"`
	Version  int            `json:"version" doc:"0 where nobody chose yet"`
	Run      outing.Run     `json:"run"`
	Live     outing.Live    `json:"live"`
	NowMin   float64        `json:"now_min" doc:"minute of the kit's day; below 0 before it"`
	Today    bool           `json:"today" doc:"the morning is today's: its steps can be ticked"`
	Told     []outing.Told  `json:"told" doc:"for the wearer"`
	Wearer   string         `json:"wearer"`
	AskMin   int            `json:"ask_min" doc:"how often the wearer is asked how it is"`
	Comfort  []Comfort      `json:"comfort"`
	Wear     outing.Lasting `json:"wear"`
	Off      outing.Evening `json:"off"`
	Learned  []Learned      `json:"learned"`
	Mornings int            `json:"mornings" doc:"that were timed"`
	// Price is how many minutes dearer it is than what stands; of a trial only.
	Price *float64 `json:"price_min,omitempty"`
	// Alone is when one artist would have to begin; none where one is there already, or where it cannot be done.
	Alone *float64 `json:"alone_min,omitempty"`
	// Bar says why there is no plan; the rest is then as far as it can be.
	Bar string `json:"bar"`
}

// Routines are the ways of hiding hair.
func (s *Service) Routines() []outing.Routine { return outing.Routines }

// Chair reads the run of a kit's morning.
func (s *Service) Chair(ctx context.Context, code string) (ChairView, error) {
	k, err := s.Kit(ctx, code)
	if err != nil {
		return ChairView{}, err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return ChairView{}, err
	}
	return s.chair(ctx, s.DB, d)
}

// Try works out a morning that nobody chose yet, with its price against the one that stands.
func (s *Service) Try(ctx context.Context, code string, doc outing.Choices) (ChairView, error) {
	if err := known(doc); err != nil {
		return ChairView{}, err
	}
	k, err := s.Kit(ctx, code)
	if err != nil {
		return ChairView{}, err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return ChairView{}, err
	}
	stands, err := s.chair(ctx, s.DB, d)
	if err != nil {
		return ChairView{}, err
	}
	tried := d
	tried.choices, tried.pieces = doc, nil
	tried.air = outing.Day{}
	if err := s.fillDay(ctx, s.DB, &tried); err != nil {
		return ChairView{}, err
	}
	v, err := s.chair(ctx, s.DB, tried)
	if err == nil && v.Bar == "" && stands.Bar == "" {
		price := v.Run.Chair.MakespanMin - stands.Run.Chair.MakespanMin
		v.Price = &price
	}
	return v, err
}

// Choose keeps what the people of a morning decided. Somebody who saw an older state is told so.
func (s *Service) Choose(ctx context.Context, code string, doc outing.Choices, version int) (ChairView, error) {
	if err := known(doc); err != nil {
		return ChairView{}, err
	}
	var artists []string
	for i, a := range doc.Artists {
		if a = strings.TrimSpace(a); a == "" {
			return ChairView{}, problem.Invalid("missing", fmt.Sprintf("doc.artists[%d]", i), "Who is it?")
		}
		artists = append(artists, a)
	}
	doc.Artists = artists
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM kit WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		k, err := s.find(ctx, tx, `k.code = ?`, code)
		if err != nil {
			return err
		}
		d, err := s.dayOf(ctx, tx, k)
		if err != nil {
			return err
		}
		if d.version != version {
			return problem.Conflict("changed", "Somebody changed this morning a moment ago. Look again; nothing was overwritten.")
		}
		d.choices, d.pieces = doc, nil
		if err := s.fillDay(ctx, tx, &d); err != nil {
			return err
		}
		if err := s.askHiding(ctx, tx, d); err != nil {
			return err
		}
		if v, err := s.chair(ctx, tx, d); err != nil {
			return err
		} else if v.Bar != "" {
			return problem.Invalid("contradiction", "doc", "%s Nothing was changed.", v.Bar)
		}
		raw, err := json.Marshal(doc)
		if err != nil {
			return err
		}
		who, _ := accounts.From(ctx)
		if _, err := tx.ExecContext(ctx, `INSERT INTO kit_chair (kit_id, doc, at, person_id) VALUES (?,?,?,NULLIF(?,0)) ON DUPLICATE KEY UPDATE doc = VALUES(doc), at = VALUES(at), person_id = VALUES(person_id), version = version + 1`, k.ID, string(raw), s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the morning: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: code, Act: "morning chosen", Words: "ready " + outing.Clock(doc.ReadyMin) + ", " + strings.Join(doc.Artists, ", ")})
		return err
	})
	if err != nil {
		return ChairView{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Chair(ctx, code)
}

// known refuses a way of hiding hair that there is none of.
func known(c outing.Choices) error {
	if _, is := outing.RoutineOf(c.Brow); c.Brow != "" && !is {
		return problem.Invalid("unknown_value", "doc.brow", "There is no such way of hiding hair.")
	}
	return nil
}

// askHiding asks the rule book about what hiding the hair puts on the wearer.
func (s *Service) askHiding(ctx context.Context, tx database.Tx, d day) error {
	r, chosen := outing.RoutineOf(d.choices.Brow)
	if !chosen {
		return nil
	}
	for _, kc := range d.kit.Copies {
		p := d.of[kc.Piece]
		about := journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "kit", Code: d.kit.Code}
		if err := s.Pieces.AskLeaving(ctx, tx, p, kc.Section, about); err != nil { // of what the section has too
			return err
		}
		if err := s.Pieces.AskStuff(ctx, tx, p, kc.Section, about, r.Takes...); err != nil {
			return err
		}
	}
	return nil
}

// chair works out a morning and its day.
func (s *Service) chair(ctx context.Context, db database.Reader, d day) (ChairView, error) {
	v := ChairView{Doc: d.choices, Version: d.version, Wearer: d.wearer(), Comfort: []Comfort{}, Told: []outing.Told{}, AskMin: 60}
	var err error
	if v.Learned, v.Mornings, err = s.learned(ctx, db); err != nil {
		return v, err
	}
	pace := map[string]float64{}
	for _, l := range v.Learned {
		pace[l.Kind] = l.Factor
	}
	v.Wear = outing.Wear(d.pieces, d.air, d.shelf)
	if v.Off, err = outing.TakeOff(d.pieces, d.air, len(d.choices.Artists), d.choices.Sensitive, 0, d.shelf); err != nil {
		return v, err
	}
	for _, a := range d.around {
		if a.AskMin > 0 {
			v.AskMin = min(v.AskMin, a.AskMin)
		}
	}
	base := d.kit.morning(s.Clock.Now())
	v.NowMin = s.Clock.Now().Sub(base).Minutes()
	v.Today = math.Abs(v.NowMin-720) < 1440
	v.Run, err = outing.Plan(ctx, d.pieces, d.air, d.choices, pace, d.shelf)
	var no *refusal.Error
	if errors.As(err, &no) {
		v.Bar = no.Detail
		v.Run = outing.Run{Steps: []outing.Step{}, After: map[string][]string{}}
		return v, nil
	}
	if err != nil {
		return v, err
	}
	v.Told = v.Run.Tell()
	ticks, err := s.ticks(ctx, db, d.kit, base)
	if err != nil {
		return v, err
	}
	now := v.NowMin
	if !v.Today { // what has not begun stands as it is planned
		now = v.Run.Begin
	}
	v.Live = outing.Follow(v.Run, ticks, now)
	if len(d.choices.Artists) > 1 {
		one := d.choices
		one.Artists = one.Artists[:1]
		if alone, err := outing.Plan(ctx, d.pieces, d.air, one, pace, d.shelf); err == nil {
			v.Alone = &alone.Begin
		}
	}
	return v, db.SelectContext(ctx, &v.Comfort, `SELECT COALESCE(score, 0) AS score, words, at FROM chair_tick WHERE kit_id = ? AND act = 'comfort' ORDER BY id DESC LIMIT 20`, d.kit.ID)
}

// learnedFrom is how many planned minutes the usual figure weighs as much as.
const learnedFrom = 30.0

// learned is how long kinds of steps took on timed mornings against what was planned. Steps that took more than
// three times their minutes were interrupted and are left out.
func (s *Service) learned(ctx context.Context, db database.Reader) ([]Learned, int, error) {
	var rows []struct {
		Kind    string
		Planned float64
		Took    float64
		N       int
	}
	if err := db.SelectContext(ctx, &rows, `SELECT d.kind, SUM(d.planned_min) AS planned, SUM(TIMESTAMPDIFF(SECOND, b.at, d.at)) / 60 AS took, COUNT(*) AS n
		FROM chair_tick d JOIN chair_tick b ON b.kit_id = d.kit_id AND b.step = d.step AND b.act = 'begin' AND b.id < d.id
		WHERE d.act = 'done' AND d.kind <> '' AND d.planned_min > 0 AND TIMESTAMPDIFF(SECOND, b.at, d.at) BETWEEN 15 AND 180 * d.planned_min GROUP BY d.kind ORDER BY d.kind`); err != nil {
		return nil, 0, fmt.Errorf("reading timed mornings: %w", err)
	}
	out := []Learned{}
	for _, r := range rows {
		out = append(out, Learned{r.Kind, (r.Took + learnedFrom) / (r.Planned + learnedFrom), r.N})
	}
	var mornings int
	err := db.GetContext(ctx, &mornings, `SELECT COUNT(DISTINCT kit_id) FROM chair_tick WHERE act = 'done'`)
	return out, mornings, err
}

// morning is which of a kit's days a moment belongs to: today's, or else the first.
func (k Kit) morning(now time.Time) time.Time {
	for _, d := range k.Days {
		if math.Abs(now.Sub(d.Day).Hours()-12) < 24 {
			return d.Day
		}
	}
	return k.Day
}

// ticks are what stands noted of one morning's steps: the last word of each counts.
func (s *Service) ticks(ctx context.Context, db database.Reader, k Kit, morning time.Time) (map[string]outing.Ticked, error) {
	var rows []struct {
		Step, Act string
		At        time.Time
	}
	if err := db.SelectContext(ctx, &rows, `SELECT step, act, at FROM chair_tick WHERE kit_id = ? AND act <> 'comfort' AND at BETWEEN ? AND ? ORDER BY id`, k.ID, morning.Add(-12*time.Hour), morning.Add(36*time.Hour)); err != nil {
		return nil, fmt.Errorf("reading the ticks of the morning: %w", err)
	}
	out := map[string]outing.Ticked{}
	for _, r := range rows {
		at := r.At.Sub(morning).Minutes()
		t := out[r.Step]
		switch r.Act {
		case "begin":
			t.Begun = &at
		case "done":
			t.Done = &at
		case "missed", "undo": // a piece that was missed waits for its new coat
			t = outing.Ticked{}
		}
		out[r.Step] = t
	}
	return out, nil
}

// Tick is what somebody notes of a step.
type Tick struct {
	Key   string `json:"key" format:"uuid"`
	Step  string `json:"step,omitempty" maxLength:"60"`
	Act   string `json:"act" enum:"begin,done,missed,undo,comfort"`
	Score *int   `json:"score,omitempty" minimum:"0" maximum:"10"`
	Words string `json:"words,omitempty" maxLength:"200"`
	// SaidAt is the device's own time; the record goes by the server's where the two differ by more than a moment, but for
	// what waited for a connection.
	SaidAt *time.Time `json:"said_at,omitempty"`
	AgoS   float64    `json:"ago_s,omitempty" minimum:"0" maximum:"172800" doc:"how long it waited on the device"`
}

// Tick notes a step of the morning, once by its key. A piece whose glue let go is glued anew: its glue is open again.
func (s *Service) Tick(ctx context.Context, code string, in Tick) (ChairView, error) {
	if err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.find(ctx, tx, `k.code = ?`, code)
		if err != nil {
			return err
		}
		return s.tick(ctx, tx, k, in)
	}); err != nil {
		return ChairView{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Chair(ctx, code)
}

func (s *Service) tick(ctx context.Context, tx database.Tx, k Kit, in Tick) error {
	if in.Act == "comfort" {
		if in.Score == nil {
			return problem.Invalid("missing", "score", "How is it, 0 to 10?")
		}
		in.Step = ""
	} else if in.Step == "" {
		return problem.Invalid("missing", "step", "Which step?")
	}
	var sent int
	if err := tx.GetContext(ctx, &sent, `SELECT COUNT(*) FROM chair_tick WHERE idem_key = ?`, in.Key); err != nil || sent > 0 {
		return err
	}
	who, _ := accounts.From(ctx)
	actor := k.Artist
	if who.Name != "" {
		actor = who.Name
	}
	at := s.Clock.Now().Add(-time.Duration(in.AgoS * float64(time.Second)))
	put := func(step, kind string, planned float64, act, key string) error {
		_, err := tx.ExecContext(ctx, `INSERT INTO chair_tick (kit_id, step, kind, planned_min, act, score, words, at, said_at, actor, person_id, idem_key) VALUES (?,?,?,?,?,?,?,?,?,?,NULLIF(?,0),?)`,
			k.ID, step, kind, planned, act, in.Score, in.Words, at, in.SaidAt, actor, who.ID, key)
		if err != nil {
			return fmt.Errorf("noting the step: %w", err)
		}
		return nil
	}
	if in.Act == "comfort" {
		return put("", "", 0, "comfort", in.Key)
	}
	d, err := s.dayOf(ctx, tx, k)
	if err != nil {
		return err
	}
	v, err := s.chair(ctx, tx, d)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(v.Run.Steps, func(x outing.Step) bool { return x.ID == in.Step })
	if i < 0 {
		return problem.Invalid("unknown_value", "step", "This morning has no step %s.", in.Step)
	}
	if !v.Today {
		return problem.Conflict("not_today", "This morning is on %s. Its steps are noted then; nothing was recorded.", k.Day.Format("Monday 2 January"))
	}
	step, stands := v.Run.Steps[i], v.Live.Steps[i]
	minute := at.Sub(k.morning(s.Clock.Now())).Minutes()
	if in.Act == "done" && step.Glue != "" {
		if stands.State == "missed" || stands.Until != nil && minute > *stands.Until+0.05 {
			return problem.Conflict("missed", "The glue of %s let go at %s. Clean it and lay a new coat; a second pressing does not hold. Nothing was recorded.", step.Piece, outing.Clock(*stands.Until))
		}
		if stands.From != nil && minute < *stands.From-0.05 {
			return problem.Conflict("too_early", "The glue of %s grips from %s on. Nothing was recorded.", step.Piece, outing.Clock(*stands.From))
		}
	}
	if in.Act == "done" && stands.State == "done" {
		return nil // two phones: the first stands
	}
	if err := put(in.Step, step.Kind, step.Minutes, in.Act, in.Key); err != nil {
		return err
	}
	if in.Act == "missed" && step.Glue != "" { // a new coat
		if _, err := tx.ExecContext(ctx, `INSERT INTO chair_tick (kit_id, step, kind, act, words, at, actor, person_id, idem_key) VALUES (?,?,?,'undo','a new coat',?,?,NULLIF(?,0),UUID())`, k.ID, step.Glue, "glue", at, actor, who.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: k.Code, Act: "window missed", Words: step.Text + ": a new coat", Actor: actor})
		return err
	}
	return nil
}
