package plan

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// OtherWork is something that somebody does which no piece asks for.
type OtherWork struct {
	ID      uint64     `db:"id" json:"id"`
	Text    string     `db:"text" json:"text"`
	Person  string     `db:"person" json:"person" doc:"empty for anybody"`
	Minutes int        `db:"minutes" json:"minutes"`
	From    *time.Time `db:"from_at" json:"from_at,omitempty"`
	By      *time.Time `db:"by_at" json:"by_at,omitempty"`
	Who     string     `db:"by_name" json:"by"`
}

// NewOtherWork is one as it is written down.
type NewOtherWork struct {
	Text    string     `json:"text" minLength:"1" maxLength:"120"`
	Person  string     `json:"person,omitempty" maxLength:"120"`
	Minutes int        `json:"minutes" minimum:"5" maximum:"2400"`
	From    *time.Time `json:"from_at,omitempty"`
	By      *time.Time `json:"by_at,omitempty"`
}

// besides reads the other work that is open. Index other_work_open.
func (s *Service) besides(ctx context.Context, f *facts) error {
	f.besides = []OtherWork{}
	if err := s.DB.SelectContext(ctx, &f.besides, `SELECT o.id, o.text, COALESCE(p.name, '') AS person, o.minutes, o.from_at, o.by_at, b.name AS by_name FROM other_work o
		LEFT JOIN person p ON p.id = o.person_id JOIN person b ON b.id = o.by_id WHERE o.done_at IS NULL AND o.back_at IS NULL ORDER BY o.id`); err != nil {
		return fmt.Errorf("reading the other work: %w", err)
	}
	for _, o := range f.besides {
		b := runup.Besides{ID: otherID(o.ID), Text: o.Text, Minutes: float64(o.Minutes), Person: o.Person}
		if !slices.ContainsFunc(f.shop.People, func(p runup.Person) bool { return p.ID == o.Person }) {
			b.Person = "" // whoever was to do it works here no longer
		}
		if o.From != nil && o.From.After(f.now) {
			b.Release = f.slot(*o.From)
		}
		if o.By != nil {
			by := f.slot(*o.By)
			if by > f.shop.Now { // what is past its time is done as soon as may be
				b.Deadline = &by
			}
		}
		f.shop.Besides = append(f.shop.Besides, b)
	}
	return nil
}

func otherID(id uint64) string { return fmt.Sprintf("other %d", id) }

// AddOther writes other work down, and takes it in again where with it nothing could be planned.
func (s *Service) AddOther(ctx context.Context, in NewOtherWork) (RunUp, error) {
	text := strings.TrimSpace(in.Text)
	now := s.Clock.Now()
	switch {
	case text == "":
		return RunUp{}, problem.Invalid("missing", "text", "What is to be done?")
	case in.By != nil && !in.By.After(now):
		return RunUp{}, problem.Invalid("out_of_range", "by_at", "That is over.")
	case in.By != nil && in.From != nil && !in.By.After(*in.From):
		return RunUp{}, problem.Invalid("bad_order", "by_at", "It is to be done before it may be begun.")
	}
	who, _ := accounts.From(ctx)
	var id int64
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		person, err := personOf(ctx, tx, in.Person)
		if err != nil {
			return err
		}
		res, err := tx.ExecContext(
			ctx,
			`INSERT INTO other_work (text, person_id, minutes, from_at, by_at, by_id, at) VALUES (?,?,?,?,?,?,?)`,
			text,
			person,
			in.Minutes,
			in.From,
			in.By,
			who.ID,
			now,
		)
		if err != nil {
			return fmt.Errorf("writing the other work down: %w", err)
		}
		if id, err = res.LastInsertId(); err != nil {
			return err
		}
		_, err = journal.Add(
			ctx,
			tx,
			journal.Entry{At: now, Kind: "plan", Code: otherID(uint64(id)), Act: "other work", Words: text},
		)
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	r, err := s.RunUp(ctx)
	if err == nil && r.Bar != "" {
		if err := s.endOther(ctx, uint64(id), "back_at", "taken back"); err != nil {
			return RunUp{}, err
		}
		return RunUp{}, problem.Invalid("no_plan", "by_at", "With it there is no plan: %s It was taken back again.", r.Bar)
	}
	return r, err
}

// DoneOther says that other work is done, or takes it back.
func (s *Service) DoneOther(ctx context.Context, id uint64, done bool) (RunUp, error) {
	column, act := "back_at", "taken back"
	if done {
		column, act = "done_at", "done"
	}
	if err := s.endOther(ctx, id, column, act); err != nil {
		return RunUp{}, err
	}
	return s.RunUp(ctx)
}

func (s *Service) endOther(ctx context.Context, id uint64, column, act string) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		done, err := database.Changed(
			tx.ExecContext(
				ctx,
				`UPDATE other_work SET `+column+` = ? WHERE id = ? AND done_at IS NULL AND back_at IS NULL`,
				s.Clock.Now(),
				id,
			),
		)
		if err != nil {
			return err
		}
		if !done {
			return problem.NotFound("other work", fmt.Sprint(id))
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: otherID(id), Act: act})
		return err
	})
	if err == nil {
		s.Live.Tell(ctx, "plan", "")
	}
	return err
}

// personOf is the id of somebody who works here; none for nobody in particular.
func personOf(ctx context.Context, tx database.Tx, name string) (*uint64, error) {
	if name = strings.TrimSpace(name); name == "" {
		return nil, nil
	}
	var ids []uint64
	if err := tx.SelectContext(ctx, &ids, `SELECT id FROM person WHERE name = ? AND active`, name); err != nil {
		return nil, err
	}
	if len(ids) != 1 {
		return nil, problem.Invalid("unknown_value", "person", "Nobody of this name works here.")
	}
	return &ids[0], nil
}

// Pinned is a step that stays where somebody put it.
type Pinned struct {
	ID     uint64    `db:"id" json:"id"`
	Step   string    `db:"step" json:"step"`
	Text   string    `db:"text" json:"text"`
	Person string    `db:"person" json:"person"`
	Start  time.Time `db:"start_at" json:"start_at"`
	End    time.Time `db:"end_at" json:"end_at"`
	Who    string    `db:"by_name" json:"by"`
}

// pins reads those that are still to come.
func (s *Service) pins(ctx context.Context, f *facts) error {
	f.pins = []Pinned{}
	if err := s.DB.SelectContext(ctx, &f.pins, `SELECT i.id, i.step, i.text, p.name AS person, i.start_at, i.end_at, b.name AS by_name FROM plan_pin i
		JOIN person p ON p.id = i.person_id AND p.active JOIN person b ON b.id = i.by_id WHERE i.of_step IS NOT NULL AND i.start_at >= ? ORDER BY i.start_at, i.id`, f.at(f.shop.Now)); err != nil {
		return fmt.Errorf("reading what stays where it is: %w", err)
	}
	for _, p := range f.pins {
		f.shop.Pins[p.Step] = runup.Pin{Start: f.slot(p.Start), End: f.slot(p.End), Person: p.Person}
	}
	return nil
}

// Put is where somebody wants a step.
type Put struct {
	Step   string    `json:"step" minLength:"1" maxLength:"160"`
	Person string    `json:"person" minLength:"1" maxLength:"120"`
	Start  time.Time `json:"start_at"`
}

// Breaks is what a move would break, as the checker says it, and what becomes of it when the rest makes way.
type Breaks struct {
	Start  time.Time `json:"start_at"`
	End    time.Time `json:"end_at"`
	Broken []string  `json:"broken" doc:"with everything else where it is"`
	Fits   bool      `json:"fits" doc:"there is a plan with it: the rest makes way"`
	Why    string    `json:"why" doc:"why there is none"`
	Late   int       `json:"late_min" doc:"of that plan"`
	Was    int       `json:"was_late_min"`
	Moved  int       `json:"moved" doc:"steps that make way"`
}

// askedFor is the step of a move in the plan as it stands, and the instance with it pinned.
type askedFor struct {
	w     worked
	at    int // of the plan's steps
	start int
	end   int
	over  bool // it lies in hours that are not their regular ones
}

// putOf finds the step, and when it would end for this person.
func (s *Service) putOf(ctx context.Context, in Put) (askedFor, error) {
	w, err := s.work(ctx)
	if err != nil {
		return askedFor{}, err
	}
	if w.p == nil {
		return askedFor{}, problem.Conflict("no_plan", "There is no plan.")
	}
	a := askedFor{w: w, at: slices.IndexFunc(w.p.Steps, func(st plan.Placed) bool { return st.ID == in.Step })}
	if a.at < 0 || w.labels[in.Step].Wait {
		return a, problem.NotFound("step", in.Step)
	}
	if !slices.ContainsFunc(w.f.shop.People, func(p runup.Person) bool { return p.ID == in.Person }) {
		return a, problem.Invalid("unknown_value", "person", "Nobody of this name works here.")
	}
	if in.Start.Before(w.f.now.Add(-slotMin * time.Minute)) {
		return a, problem.Invalid("out_of_range", "start_at", "That is over.")
	}
	a.start = max(w.f.slot(in.Start), w.f.shop.Now)
	st := w.in.Steps[slices.IndexFunc(w.in.Steps, func(st plan.Step) bool { return st.ID == in.Step })]
	if st.Work == nil {
		return a, problem.NotFound("step", in.Step)
	}
	a.end = w.f.ends(in.Person, a.start, *st.Work, st.Split)
	regular := w.f.shop.People[slices.IndexFunc(w.f.shop.People, func(p runup.Person) bool { return p.ID == in.Person })].Regular
	for t := a.start; t < a.end && !st.Split; t++ {
		a.over = a.over || !slices.ContainsFunc(regular, func(v plan.Interval) bool { return v[0] <= t && t < v[1] })
	}
	return a, nil
}

// ends is when so much work of somebody ends which begins at a slot: in one go, or with the pauses of their hours.
func (f facts) ends(person string, start, slots int, split bool) int {
	if !split {
		return start + slots
	}
	i := slices.IndexFunc(f.shop.People, func(p runup.Person) bool { return p.ID == person })
	for t := start; t < f.shop.Horizon; t++ {
		if slices.ContainsFunc(f.shop.People[i].Regular, func(v plan.Interval) bool { return v[0] <= t && t < v[1] }) {
			if slots--; slots == 0 {
				return t + 1
			}
		}
	}
	return f.shop.Horizon
}

// Try asks the checker what a move breaks, and the planner whether there is a plan with it.
func (s *Service) Try(ctx context.Context, in Put) (Breaks, error) {
	a, err := s.putOf(ctx, in)
	if err != nil {
		return Breaks{}, err
	}
	w := a.w
	out := Breaks{Start: w.f.at(a.start), End: w.f.at(a.end), Broken: []string{}, Was: w.view.LateMin}
	moved := *w.p
	moved.Steps = slices.Clone(w.p.Steps)
	st := &moved.Steps[a.at]
	st.Start, st.End, st.People, st.Overtime = a.start, a.end, []string{in.Person}, a.over
	_, broken := plan.Check(w.in, &moved)
	for _, b := range broken {
		out.Broken = append(out.Broken, w.inWords(b.Detail))
		if b.Code == "V_CALENDAR" && slices.Contains(b.IDs, in.Step) { // a pause may lie in it, its beginning may not
			out.Why = w.inWords(b.Detail)
		}
	}
	if out.Why != "" {
		return out, nil
	}
	out.Broken = slices.Compact(out.Broken)
	done, err := s.Turns.Take(ctx)
	if err != nil {
		return out, err
	}
	defer done()
	p, err := w.pinned(in, a)
	var no *plan.Error
	if errors.As(err, &no) {
		out.Why = w.inWords(no.Message)
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Fits, out.Late = true, p.Objective.Late*slotMin
	for i, st := range p.Steps {
		if o := w.p.Steps[i]; st.ID != in.Step && !w.labels[st.ID].Wait &&
			(st.Start != o.Start || !slices.Equal(st.People, o.People)) {
			out.Moved++
		}
	}
	return out, nil
}

// pinned plans with a step where somebody wants it, the rest near where it is.
func (w worked) pinned(in Put, a askedFor) (*plan.Plan, error) {
	shop := w.f.shop
	shop.Pins = map[string]runup.Pin{}
	for k, v := range w.f.shop.Pins {
		shop.Pins[k] = v
	}
	shop.Pins[in.Step] = runup.Pin{Start: a.start, End: a.end, Person: in.Person}
	shop.Baseline, shop.SoonWindow = w.asBaseline(), shop.Horizon
	changed, _ := shop.Instance()
	return plan.Solve(changed, plan.Options{Seed: seed, Iterations: triesAgain})
}

// asBaseline is the plan as it is shown, as one to stay near.
func (w worked) asBaseline() []plan.Base {
	var out []plan.Base
	for _, st := range w.p.Steps {
		if _, fixed := w.in.Fixed[st.ID]; !fixed {
			out = append(out, plan.Base{ID: st.ID, Start: st.Start, People: st.People, Resources: st.Resources})
		}
	}
	return out
}

// inWords puts the names that a sentence has for steps into those of the shop, the longest first.
func (w worked) inWords(text string) string {
	var ids []string
	for id := range w.labels {
		if strings.Contains(text, id) {
			ids = append(ids, id)
		}
	}
	slices.SortFunc(ids, func(a, b string) int { return len(b) - len(a) })
	var pairs []string
	for _, id := range ids {
		pairs = append(pairs, id, w.labels[id].Text())
	}
	return strings.NewReplacer(pairs...).Replace(text)
}

// Pin puts a step where somebody wants it, to stay there; the rest makes way.
func (s *Service) Pin(ctx context.Context, in Put) (RunUp, error) {
	t, err := s.Try(ctx, in)
	if err != nil {
		return RunUp{}, err
	}
	if !t.Fits {
		return RunUp{}, problem.Invalid("no_plan", "start_at", "There is no plan with it: %s Nothing was recorded.", t.Why)
	}
	a, err := s.putOf(ctx, in)
	if err != nil {
		return RunUp{}, err
	}
	text := a.w.labels[in.Step].Text()
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := oneAtATime(ctx, tx); err != nil {
			return err
		}
		person, err := personOf(ctx, tx, in.Person)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plan_pin SET of_step = NULL, back_at = ? WHERE of_step = ?`, s.Clock.Now(), in.Step); err != nil {
			return fmt.Errorf("putting the step: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO plan_pin (step, text, person_id, start_at, end_at, by_id, at, of_step) VALUES (?,?,?,?,?,?,?,?)`, in.Step, text, person, t.Start, t.End, who.ID, s.Clock.Now(), in.Step); err != nil {
			return fmt.Errorf("putting the step: %w", err)
		}
		_, err = journal.Add(
			ctx,
			tx,
			journal.Entry{
				At:    s.Clock.Now(),
				Kind:  "plan",
				Code:  in.Step,
				Act:   "put",
				Words: fmt.Sprintf("%s: %s, %s", text, in.Person, t.Start.Format("Mon 2 Jan 15:04")),
			},
		)
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}

// oneAtATime lets who changes the plan by hand come one after the other: what is not there yet cannot be locked itself, the first who
// works here can.
func oneAtATime(ctx context.Context, tx database.Tx) error {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM person ORDER BY id LIMIT 1 FOR UPDATE`); err != nil {
		return fmt.Errorf("waiting for whoever changes the plan: %w", err)
	}
	return nil
}

// Unpin lets a step go again.
func (s *Service) Unpin(ctx context.Context, id uint64) (RunUp, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var step string
		err := tx.GetContext(ctx, &step, `SELECT step FROM plan_pin WHERE id = ? AND of_step IS NOT NULL FOR UPDATE`, id)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("pinned step", fmt.Sprint(id))
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plan_pin SET of_step = NULL, back_at = ? WHERE id = ?`, s.Clock.Now(), id); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: step, Act: "let go"})
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}

// lack is what a piece's sessions are short of, and for how many copies there is enough.
type lack struct {
	Short
	enough int
}

// short asks the stores of every piece that misses copies, each by itself.
func (s *Service) short(ctx context.Context, needs []copies.Need, known map[string]pieceWork) (map[string]*lack, error) {
	missing := map[string]int{}
	for _, n := range needs {
		if known[n.Piece].bar == "" {
			missing[n.Piece] += n.Missing
		}
	}
	out := map[string]*lack{}
	for piece, n := range missing {
		if n == 0 {
			continue
		}
		all, err := s.Work.Short(ctx, piece, n)
		if err != nil {
			return nil, err
		}
		if all.What == "" {
			continue
		}
		low, high := 0, n // enough for low, not for high
		for high-low > 1 {
			mid := (low + high) / 2
			one, err := s.Work.Short(ctx, piece, mid)
			if err != nil {
				return nil, err
			}
			if one.What == "" {
				low = mid
			} else {
				high = mid
			}
		}
		out[piece] = &lack{all, low}
	}
	return out, nil
}
