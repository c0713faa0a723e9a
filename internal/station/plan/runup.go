package plan

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/work"
)

// Lane is a row of the picture: somebody, or a thing that is short.
type Lane struct {
	ID   string `json:"id"`
	Kind string `json:"kind" enum:"person,mould,oven,rack"`
}

// Bar is a step on a lane.
type Bar struct {
	Lane   string    `json:"lane"`
	Step   string    `json:"step"`
	Piece  string    `json:"piece"`
	Family string    `json:"family"`
	Text   string    `json:"text"`
	From   time.Time `json:"from"`
	To     time.Time `json:"to"`
	Wait   bool      `json:"wait" doc:"nobody's hands"`
	Binds  bool      `json:"binds" doc:"it is on the chain that makes a day late"`
	Over   bool      `json:"overtime"`
}

// Stretch is a time in which nobody is in.
type Stretch struct {
	From time.Time `json:"from"`
	To   time.Time `json:"to"`
}

// DueDay is a shooting day on the picture.
type DueDay struct {
	ID      uint64    `json:"id"`
	Place   string    `json:"place"`
	Out     time.Time `json:"out" doc:"by when its kits leave"`
	LateMin int       `json:"late_min" doc:"of the latest of its pieces"`
	Slack   int       `json:"slack_min" doc:"of the tightest; below 0 when it is late"`
	// Met is how often the day was met with lengths drawn as far off as ours usually are, Low and High its band of nine in ten.
	Met  float64 `json:"met"`
	Low  float64 `json:"met_low"`
	High float64 `json:"met_high"`
	N    int     `json:"n"`
}

// LateDay is a late piece for a day, with why.
type LateDay struct {
	runup.Told
	DayID uint64    `json:"day_id"`
	Place string    `json:"place"`
	Out   time.Time `json:"out"`
	Ends  time.Time `json:"ends"`
}

// Move is a step that the plan in force has elsewhere.
type Move struct {
	Step string    `json:"step"`
	Text string    `json:"text"`
	Who  string    `json:"who"`
	Was  time.Time `json:"was"`
	Is   time.Time `json:"is"`
	Had  string    `json:"had" doc:"who was to do it"`
}

// RunUp is the plan of what is to be done before the shooting days.
type RunUp struct {
	Origin    time.Time      `json:"origin"`
	Now       time.Time      `json:"now"`
	Ends      time.Time      `json:"ends" doc:"of the picture"`
	Lanes     []Lane         `json:"lanes"`
	Bars      []Bar          `json:"bars"`
	Nights    []Stretch      `json:"nights"`
	Days      []DueDay       `json:"days"`
	Late      []LateDay      `json:"late"`
	Moved     []Move         `json:"moved"`
	Unplanned []Unplanned    `json:"unplanned"`
	Enough    []Enough       `json:"enough" doc:"how many to begin, so that enough are good"`
	Sure      float64        `json:"sure" doc:"how sure the plan makes it that enough are good; 0: it takes each copy for good"`
	Changes   []HourChange   `json:"changes"`
	Air       AirAhead       `json:"air" doc:"in which what is not begun yet dries, cures and sets"`
	Lacking   []Lacking      `json:"lacking" doc:"what sessions wait for, or should"`
	Pins      []Pinned       `json:"pins" doc:"steps that stay where somebody put them"`
	Weeks     []Week         `json:"weeks" doc:"who is in when, week by week"`
	Other     []OtherWork    `json:"other" doc:"work that no piece asks for"`
	Moulds    []FurtherMould `json:"moulds" doc:"that the shop decided to build beside those that there are"`
	Steps     int            `json:"steps"`
	LateMin   int            `json:"late_min" doc:"of all days together"`
	OverMin   int            `json:"overtime_min"`
	Proven    bool           `json:"proven" doc:"no plan with what there is is less late"`
	LeastMin  int            `json:"least_late_min" doc:"that no plan is less late than"`
	TakenAt   *time.Time     `json:"taken_at,omitempty"`
	TakenBy   string         `json:"taken_by"`
	Bar       string         `json:"bar" doc:"why there is no plan"`
	Seed      uint64         `json:"seed"`
	Tried     int            `json:"tried" doc:"plans"`
}

// tries is how many plans are tried for the screen, and for a change of it: by number and not by time, so that everybody sees the
// same plan.
const tries, triesAgain = 1500, 500

const seed = 1

// worked is a run-up with what it was worked out from.
type worked struct {
	f      facts
	in     *plan.Instance
	labels map[string]runup.Label
	p      *plan.Plan
	dries  time.Duration // a mould that is not built yet
	view   RunUp
}

// found is what a search came to.
type found struct {
	p       *plan.Plan
	no      *plan.Error
	chances []plan.Chance // of each day, by its id
}

// How lengths are drawn: hands as what was noted here spreads (0.35 before anything was), waits as drying and cure usually are off.
const (
	waitsSpread = 0.2
	drawn       = 200
)

// spread is of a step's length, by what was noted here of such work.
func (w worked) spread(labels map[string]runup.Label, step string) float64 {
	l := labels[step]
	if l.Wait {
		return waitsSpread
	}
	return w.f.learned.Of(w.f.family[l.Piece], l.Act, 1).Sigma
}

// spreads are those of all kinds of steps: what a chance depends on beside its plan.
func (w worked) spreads() map[string]float64 {
	out := map[string]float64{}
	for id, l := range w.labels {
		if key := w.f.family[l.Piece] + " " + work.Act(l.Act); !l.Wait {
			if _, known := out[key]; !known {
				out[key] = w.spread(w.labels, id)
			}
		}
	}
	return out
}

func (w worked) chances(in *plan.Instance, labels map[string]runup.Label, p *plan.Plan) ([]plan.Chance, error) {
	return plan.Chances(in, p, plan.Draw{Step: func(step string) float64 { return w.spread(labels, step) },
		Waits: waitsSpread, Group: func(job string) string { return fmt.Sprint(w.f.days[job].ID) }, N: drawn, Seed: seed})
}

// RunUp plans what is to be done.
func (s *Service) RunUp(ctx context.Context) (RunUp, error) {
	return s.viewed.Get(ctx, s.key(), func(ctx context.Context) (RunUp, error) {
		w, err := s.work(ctx)
		if err != nil {
			return RunUp{}, err
		}
		// In how many mixes is asked for the view only: Today has no use for it.
		r := w.view
		r.Enough = slices.Clone(r.Enough)
		for i := range r.Enough {
			if err := s.mixes(ctx, &r.Enough[i], w.f.made[r.Enough[i].Piece].way); err != nil {
				return r, err
			}
		}
		return r, nil
	})
}

// Warm works the run-up out once after a start, so that the first who asks need not wait. What goes wrong with it is told to
// whoever asks.
func (s *Service) Warm(ctx context.Context) {
	if _, err := s.work(ctx); err != nil && ctx.Err() == nil {
		slog.Warn("planning ahead", "error", err)
	}
}

// work is worked out once for whoever asks within a minute and before anything changed.
func (s *Service) work(ctx context.Context) (worked, error) {
	return s.shared.Get(ctx, s.key(), s.workOut)
}

// key is what the run-up depends on: what was written, and the minute.
func (s *Service) key() [2]int64 {
	state := s.Live.State(s.Clock.Now())
	return [2]int64{state[0], state[1] / 60}
}

func (s *Service) workOut(ctx context.Context) (worked, error) {
	w, err := s.workOutFrom(ctx, nil, ahead{})
	if err == nil {
		list := w.begin()
		s.begins.Store(&list)
	}
	return w, err
}

// workOutFrom plans with changes that are not written down yet, from a plan that the answer is never worse than; nil for the one in
// force.
func (s *Service) workOutFrom(ctx context.Context, from *plan.Plan, a ahead) (worked, error) {
	f, err := s.facts(ctx, a)
	if err != nil {
		return worked{}, err
	}
	w := worked{f: f, dries: s.MouldDries}
	w.in, w.labels = f.shop.Instance()
	w.view = RunUp{
		Origin:    f.origin,
		Now:       f.now,
		Lanes:     []Lane{},
		Bars:      []Bar{},
		Days:      []DueDay{},
		Late:      []LateDay{},
		Moved:     []Move{},
		Unplanned: f.unplanned,
		Enough:    f.enough,
		Sure:      f.sure,
		Air:       f.air,
		Lacking:   f.lacking,
		Pins:      f.pins,
		Other:     f.besides,
		Moulds:    f.moulded,
		Weeks:     f.weeks.list(f.shop.People),
		Seed:      seed,
	}
	if w.view.Changes, err = s.changes(ctx, s.DB, f.now); err != nil {
		return w, err
	}
	if f.force != nil {
		w.view.TakenAt, w.view.TakenBy = &f.force.At, f.force.By
	}
	if len(w.in.Jobs) == 0 {
		w.view.Ends = f.now.AddDate(0, 0, 7)
		return w, nil
	}
	// A plan follows from its instance alone: it is searched for once.
	found, err := s.found.Get([]any{w.in, w.spreads(), from}, func() (found, error) {
		done, err := s.Turns.Take(ctx)
		if err != nil {
			return found{}, err
		}
		defer done()
		opt := plan.Options{Seed: seed, Iterations: tries}
		if f.force != nil && f.force.MadeOf == madeOf(w.in) {
			opt.Iterations = 1 // nothing changed since it was taken: it stays
		}
		switch {
		case from != nil:
			opt.From = from
		case f.force != nil:
			opt.From = f.force.rebased(f)
		}
		p, err := plan.Solve(w.in, opt)
		var no *plan.Error
		if errors.As(err, &no) {
			return found{no: no}, nil
		}
		if err != nil {
			return found{}, err
		}
		p = plan.Earlier(w.in, p)
		chances, err := w.chances(w.in, w.labels, p)
		return found{p: p, chances: chances}, err
	})
	if err != nil {
		return w, err
	}
	if found.no != nil {
		w.view.Bar = w.inWords(found.no.Message)
		w.view.Ends = f.now.AddDate(0, 0, 7)
		return w, nil
	}
	w.p = found.p
	if _, broken := plan.Check(w.in, w.p); len(broken) > 0 {
		return w, fmt.Errorf("the planner's plan breaks %s: %s", broken[0].Code, broken[0].Detail)
	}
	if err := w.draw(); err != nil {
		return w, err
	}
	for i := range w.view.Days {
		d := &w.view.Days[i]
		for _, c := range found.chances {
			if c.Of == fmt.Sprint(d.ID) {
				d.Met, d.Low, d.High, d.N = c.Met, c.Low, c.High, c.N
			}
		}
	}
	return w, nil
}

// draw makes the picture of a plan.
func (w *worked) draw() error {
	v, f := &w.view, w.f
	late, err := plan.Explain(w.in, w.p)
	if err != nil {
		return err
	}
	v.Steps, v.Tried = len(w.in.Steps), w.p.Iterations
	v.OverMin = w.p.Objective.Overtime * slotMin
	v.LateMin, v.LeastMin = w.p.Objective.Late*slotMin, w.p.Bounds.Late*slotMin
	v.Proven = w.p.Objective.Late == w.p.Bounds.Late
	binds := map[string]bool{}
	for _, t := range f.shop.Tell(late, w.labels, func(n int) string { return f.at(n).Format("Mon 2 Jan 15:04") }) {
		d := f.days[t.Job]
		v.Late = append(
			v.Late,
			LateDay{Told: t, DayID: d.ID, Place: d.Place, Out: d.Due, Ends: d.Due.Add(time.Duration(t.LateMin) * time.Minute)},
		)
		for _, id := range t.Steps {
			binds[id] = true
		}
	}
	done := map[string]int{}
	steps := map[string]plan.Placed{}
	for i, st := range w.p.Steps {
		steps[st.ID] = st
		done[w.in.Steps[i].Job] = max(done[w.in.Steps[i].Job], st.End)
	}
	v.days(f, done)
	add := func(lane, id string, from, to int) {
		l := w.labels[id]
		v.Bars = append(
			v.Bars,
			Bar{
				Lane:   lane,
				Step:   id,
				Piece:  l.Piece,
				Family: f.family[l.Piece],
				Text:   l.Text(),
				From:   f.at(from),
				To:     f.at(to),
				Wait:   l.Wait,
				Binds:  binds[id],
				Over:   steps[id].Overtime,
			},
		)
	}
	last := f.shop.Now
	for _, p := range f.shop.People {
		v.Lanes = append(v.Lanes, Lane{p.ID, "person"})
		for _, st := range w.p.Steps {
			if slices.Contains(st.People, p.ID) {
				add(p.ID, st.ID, st.Start, st.End)
			}
			last = max(last, st.End)
		}
	}
	// Of things those that are held, the longest first; a mould that binds comes before one that does not.
	held := map[string]int{}
	type on struct {
		lane, step string
		from, to   int
	}
	var all []on
	for _, h := range w.in.Holds {
		if h.Resource == runup.Racks {
			continue // many stand there at once: how many is drawn
		}
		st := steps[h.From]
		r := st.Resources[h.ID]
		begin, end := st.Start, steps[h.To].End
		all = append(all, on{r, h.From, begin, end})
		held[r] += end - begin
		if binds[h.From] || binds[h.To] {
			held[r] += f.shop.Horizon
		}
	}
	for _, st := range w.in.Steps {
		for n, u := range st.Uses {
			p := steps[st.ID]
			r := cmp.Or(p.Resources[fmt.Sprintf("%s#%d", st.ID, n+1)], u.Resource)
			all = append(all, on{r, st.ID, p.Start, p.End})
			held[r] += p.End - p.Start
		}
	}
	full := w.racksFull(steps)
	for _, b := range full {
		held[runup.Racks] += int(b.To.Sub(b.From) / (slotMin * time.Minute))
	}
	var things []string
	for r := range held {
		things = append(things, r)
	}
	slices.SortFunc(things, func(a, b string) int { return cmp.Or(cmp.Compare(held[b], held[a]), strings.Compare(a, b)) })
	for _, r := range things {
		kind := "mould"
		switch {
		case f.shop.IsOven(r):
			kind = "oven"
		case r == runup.Racks:
			kind = "rack"
		}
		v.Lanes = append(v.Lanes, Lane{r, kind})
	}
	for _, m := range f.shop.Moulds {
		if held[m.Code] > 0 && m.Ready > f.shop.Now {
			v.Bars = append(
				v.Bars,
				Bar{
					Lane: m.Code,
					Step: m.Code + ".dries",
					Text: m.Code + " dries",
					From: f.now,
					To:   f.at(m.Ready),
					Wait: true,
					Binds: slices.ContainsFunc(late, func(l plan.LateJob) bool {
						return slices.ContainsFunc(l.Chain, func(c plan.Cause) bool { return c.Cause == "down:"+m.Code })
					}),
				},
			)
		}
	}
	for _, o := range all {
		add(o.lane, o.step, o.from, o.to)
	}
	v.Bars = append(v.Bars, full...)
	for _, d := range v.Days {
		last = max(last, f.slot(d.Out))
	}
	v.Ends = f.at((last/daySlots + 1) * daySlots)
	for _, n := range f.nights {
		if f.at(n[0]).Before(v.Ends) {
			v.Nights = append(v.Nights, Stretch{f.at(n[0]), f.at(min(n[1], (last/daySlots+1)*daySlots))})
		}
	}
	v.moves(f, w.in.Baseline, steps, w.labels)
	return nil
}

// racksFull are the stretches in which no more goes on the racks.
func (w worked) racksFull(steps map[string]plan.Placed) []Bar {
	changes := map[int]int{}
	event := func(step, event string) int {
		if event == "start" {
			return steps[step].Start
		}
		return steps[step].End
	}
	for _, h := range w.in.Holds {
		if h.Resource == runup.Racks {
			changes[max(w.f.shop.Now, event(h.From, h.FromEvent))] += h.Qty
			changes[max(w.f.shop.Now, event(h.To, h.ToEvent))] -= h.Qty
		}
	}
	at := slices.Sorted(maps.Keys(changes))
	var out []Bar
	stand := 0
	for i, t := range at {
		if stand += changes[t]; stand < w.f.shop.Racks || i+1 == len(at) {
			continue
		}
		out = append(
			out,
			Bar{
				Lane: runup.Racks,
				Step: fmt.Sprintf("%s.%d", runup.Racks, t),
				Text: fmt.Sprintf("%d of %d", stand, w.f.shop.Racks),
				From: w.f.at(t),
				To:   w.f.at(at[i+1]),
				Wait: true,
			},
		)
	}
	return out
}

// days says how each shooting day stands.
func (v *RunUp) days(f facts, done map[string]int) {
	for _, j := range f.shop.Jobs {
		d := f.days[j.ID]
		i := slices.IndexFunc(v.Days, func(o DueDay) bool { return o.ID == d.ID })
		if i < 0 {
			i = len(v.Days)
			v.Days = append(v.Days, DueDay{ID: d.ID, Place: d.Place, Out: d.Due, Slack: f.shop.Horizon * slotMin})
		}
		slack := (j.Due - done[j.ID]) * slotMin
		v.Days[i].Slack = min(v.Days[i].Slack, slack)
		v.Days[i].LateMin = max(v.Days[i].LateMin, -slack)
	}
	slices.SortFunc(v.Days, func(a, b DueDay) int { return cmp.Or(a.Out.Compare(b.Out), cmp.Compare(a.ID, b.ID)) })
}

// moves are what the plan has elsewhere than the one in force.
func (v *RunUp) moves(f facts, had []plan.Base, steps map[string]plan.Placed, labels map[string]runup.Label) {
	for _, b := range had {
		st, there := steps[b.ID]
		if !there {
			continue
		}
		who, had := strings.Join(st.People, ", "), strings.Join(b.People, ", ")
		if st.Start == b.Start && who == had {
			continue
		}
		if labels[b.ID].Wait {
			continue
		}
		v.Moved = append(v.Moved, Move{b.ID, labels[b.ID].Text(), who, f.at(b.Start), f.at(st.Start), had})
	}
	slices.SortFunc(v.Moved, func(a, b Move) int {
		return cmp.Or(strings.Compare(a.Who, b.Who), a.Is.Compare(b.Is), strings.Compare(a.Step, b.Step))
	})
}
