package plan

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/work"
)

// Slots of the run-up are quarter hours from the midnight before now.
const slotMin = 15

const daySlots = 24 * 60 / slotMin

// mostDays is how far the run-up looks.
const mostDays = 42

// Lacking is what a piece's copies are made of and the stores have not got.
type Lacking struct {
	Piece  string     `json:"piece"`
	What   string     `json:"what"`
	Enough int        `json:"enough" doc:"copies that there is enough for"`
	By     *time.Time `json:"by,omitempty" doc:"when it could be here, ordered now: the plan waits for it; none where nobody wrote down how long it takes"`
}

// facts are the run-up as it was read, with what a slot is in time and what could not be planned.
type facts struct {
	shop      runup.Shop
	origin    time.Time
	now       time.Time
	days      map[string]dayOf // by job
	family    map[string]string
	unplanned []Unplanned
	nights    []plan.Interval // nobody is in
	worn      map[string]int  // until when copies of a piece are out, of the days so far
	enough    []Enough
	sure      float64        // how sure it is to be that enough are good; 0 takes each copy for good
	spare     map[string]int // by job: begun beyond what is missing
	missing   map[string]int // by job
	made      map[string]pieceWork
	force     *inForce
	learned   work.Minutes
	pins      []Pinned
	besides   []OtherWork
	lacking   []Lacking
	weeks     weeks
	air       AirAhead
	moulds    map[string]float64 // hands at the moulds of a piece, minutes
	moulded   []FurtherMould
	shape     map[string]float64 // and at the shape of its sculpt
	clay      map[string]float64 // and at its texture
}

type dayOf struct {
	ID    uint64
	Day   time.Time
	Place string
	Due   time.Time
}

// Unplanned is what the plan knows too little of.
type Unplanned struct {
	Piece string `json:"piece"`
	DayID uint64 `json:"day_id" doc:"the shooting day that it is for; 0 for none"`
	Why   string `json:"why"`
	Link  string `json:"link"`
}

func (f facts) at(slot int) time.Time {
	return f.origin.Add(time.Duration(slot) * slotMin * time.Minute)
}

// slot is that of a time, the next one for what lies within one.
func (f facts) slot(t time.Time) int {
	d := t.Sub(f.origin)
	n := int(d / (slotMin * time.Minute))
	if d > time.Duration(n)*slotMin*time.Minute {
		n++
	}
	return max(0, n)
}

// undated names the pieces in work that no day asks for: the plan knows nothing of them.
func (s *Service) undated(ctx context.Context, f *facts) error {
	var codes []string
	if err := s.DB.SelectContext(ctx, &codes, `SELECT q.code FROM piece q WHERE q.put_away_at IS NULL AND q.copies_wanted > 0 AND NOT EXISTS (SELECT 1 FROM piece_day pd WHERE pd.piece_id = q.id) ORDER BY q.code`); err != nil {
		return fmt.Errorf("reading what no day asks for: %w", err)
	}
	for _, code := range codes {
		f.unplanned = append(f.unplanned, Unplanned{code, 0, "no shooting day asks for it", "/brief/" + code})
	}
	return nil
}

// outBy is by when a kit leaves for its day, minutes after midnight of that day: our own figure. A plan ends with the work of the
// day before.
const outBy = 5 * 60

// ahead are changes that are not written down yet.
type ahead struct {
	hours []HourChange
	alone bool   // every oven may be hot with nobody beside it
	mould string // the piece that gets a further one
	later *Later
	sure  *float64
}

// facts reads what the run-up is made of. Nothing is typed for it: needs, sections, runs, copies, moulds and hours stand there.
func (s *Service) facts(ctx context.Context, a ahead) (facts, error) {
	// It is everybody's plan: what stands only in somebody's own draft, or in their own times, does not count.
	ctx = accounts.With(ctx, accounts.Person{})
	now := s.Clock.Now()
	f := facts{
		now:     now,
		origin:  now.Truncate(24 * time.Hour),
		days:    map[string]dayOf{},
		family:  map[string]string{},
		worn:    map[string]int{},
		spare:   map[string]int{},
		missing: map[string]int{},
		moulds:  map[string]float64{},
		shape:   map[string]float64{},
		clay:    map[string]float64{},
		lacking: []Lacking{},
	}
	f.shop = runup.Shop{
		Name:        "the run-up",
		SlotMinutes: slotMin,
		Now:         f.slot(now),
		FinishMin:   map[string]float64{},
		FinishWait:  map[string]float64{},
		CheckMin:    map[string]float64{},
		PackMin:     map[string]float64{},
		Pins:        map[string]runup.Pin{},
	}
	var err error
	if f.learned, err = work.Learned(ctx, s.DB); err != nil {
		return f, err
	}
	var places []dayRow
	if err := s.DB.SelectContext(ctx, &places, `SELECT id, day, place FROM shooting_day WHERE day > ? AND day <= ? ORDER BY day, id`, now.Format(time.DateOnly), now.AddDate(0, 0, mostDays).Format(time.DateOnly)); err != nil {
		return f, fmt.Errorf("reading the days: %w", err)
	}
	last := now
	byID := map[uint64]dayRow{}
	for _, d := range places {
		byID[d.ID] = d
		last = d.Day
	}
	f.shop.Horizon = f.slot(last) + 14*daySlots
	if err := s.hours(ctx, &f, a); err != nil {
		return f, err
	}
	moulds, err := s.Work.Moulds(ctx)
	if err != nil {
		return f, err
	}
	ready := map[string][]string{}
	for _, m := range moulds {
		if m.Ready == nil {
			f.unplanned = append(
				f.unplanned,
				Unplanned{m.Piece, 0, "nobody can say when " + m.Code + " is dry", "/mould?mould=" + m.Code},
			)
			continue
		}
		at := 0
		if m.Ready.After(now) {
			at = f.slot(*m.Ready)
		}
		f.shop.Moulds = append(f.shop.Moulds, runup.Mould{Code: m.Code, Ready: at, Left: m.Left})
		if m.Left == nil || *m.Left > 0 { // what is worn out is held by what is in it, and filled no more
			ready[m.Piece] = append(ready[m.Piece], m.Code)
		}
	}
	needs, err := copies.Needs(ctx, s.DB, now)
	if err != nil {
		return f, err
	}
	needs = slices.DeleteFunc(needs, func(n copies.Need) bool { _, known := byID[n.DayID]; return !known })
	known, err := s.sections(ctx, &f, needs)
	if err != nil {
		return f, err
	}
	f.made = known
	if err := s.begun(ctx, &f, needs, known); err != nil {
		return f, err
	}
	if f.sure, err = s.sure(ctx, a); err != nil {
		return f, err
	}
	if err := s.spares(ctx, &f, needs); err != nil {
		return f, err
	}
	for i := range f.enough {
		e, w := &f.enough[i], known[f.enough[i].Piece]
		per := f.atOnce()
		if w.way.InMould() {
			per = max(1, len(ready[e.Piece]))
		}
		if w.bar != "" {
			continue // nobody knows yet how it is made
		}
		e.Runs, e.moulds = (e.Begin+per-1)/per, per
	}
	if err := s.besides(ctx, &f); err != nil {
		return f, err
	}
	if err := s.pins(ctx, &f); err != nil {
		return f, err
	}
	short, err := s.short(ctx, needs, known)
	if err != nil {
		return f, err
	}
	for piece, l := range short {
		f.lacking = append(f.lacking, Lacking{piece, l.What, l.enough, l.By})
	}
	slices.SortFunc(f.lacking, func(a, b Lacking) int { return strings.Compare(a.Piece, b.Piece) })
	for _, n := range needs {
		f.need(n, byID[n.DayID], known[n.Piece], ready[n.Piece], s.MouldDries, short[n.Piece])
		f.worn[n.Piece] = f.slot(byID[n.DayID].Day.AddDate(0, 0, 1)) // back the day after
	}
	if err := s.furtherMoulds(ctx, &f, a); err != nil {
		return f, err
	}
	if a.later != nil {
		f.shift(*a.later)
	}
	if err := s.undated(ctx, &f); err != nil {
		return f, err
	}
	f.shop.Jobs = slices.DeleteFunc(f.shop.Jobs, func(j runup.Job) bool { return f.days[j.ID].ID == 0 })
	if f.force, err = s.inForce(ctx); err != nil {
		return f, err
	}
	if f.force != nil {
		// All of it is to stay where it is, and not only what is soon: a plan that reshuffles itself is not believed.
		f.shop.Baseline, f.shop.SoonWindow = f.force.baseline(f), f.shop.Horizon
	}
	return f, nil
}

// ovenTakes is how many moulds an oven takes at once: our own figure, until the shop says its own.
const ovenTakes = 4

// usualOven is the one that is reckoned with where no oven is written down.
const usualOven = "oven"

type dayRow struct {
	ID    uint64    `db:"id"`
	Day   time.Time `db:"day"`
	Place string    `db:"place"`
}

// jobID is that of what a day takes of a piece.
func jobID(n copies.Need) string { return fmt.Sprintf("%s for %d", n.Piece, n.DayID) }

// need makes the job of a need, with the sessions of what nobody has begun.
func (f *facts) need(n copies.Need, d dayRow, of pieceWork, moulds []string, dries time.Duration, lacks *lack) {
	if n.There >= n.Wanted {
		return // in its kit already
	}
	// What nobody can plan is not packed either, and what is worn before is packed when it is back.
	if left := n.Wanted - n.There; n.Missing == left && of.bar != "" {
		f.unplanned = append(
			f.unplanned,
			Unplanned{n.Piece, n.DayID, fmt.Sprintf("%d for %s: %s", n.Missing, d.Place, of.bar), of.link},
		)
		return
	}
	from := 0
	if n.Again > 0 {
		from = f.worn[n.Piece]
	}
	id := jobID(n)
	due := d.Day.Add(outBy * time.Minute)
	var i int
	if i = slices.IndexFunc(f.shop.Jobs, func(j runup.Job) bool { return j.ID == id }); i < 0 {
		i = len(f.shop.Jobs)
		f.shop.Jobs = append(f.shop.Jobs, runup.Job{ID: id, Piece: n.Piece})
	}
	f.days[id] = dayOf{d.ID, d.Day, d.Place, due}
	f.shop.Jobs[i].Due, f.shop.Jobs[i].Weight, f.shop.Jobs[i].Buffer, f.shop.Jobs[i].From = f.slot(due), 1, daySlots, from
	switch {
	case n.Missing == 0:
		return
	case of.bar != "":
		f.unplanned = append(
			f.unplanned,
			Unplanned{n.Piece, n.DayID, fmt.Sprintf("%d for %s: %s", n.Missing, d.Place, of.bar), of.link},
		)
		return
	case of.way.InMould() && len(moulds) == 0:
		moulds = []string{f.newMould(n.Piece, id, of.mould, dries)}
	}
	per := 1
	if !of.way.InMould() {
		per = f.atOnce()
	}
	f.missing[id] = n.Missing
	begin := n.Missing + f.spare[id]
	for made, k := 0, 1; made < begin; k++ {
		c := min(per, begin-made)
		made += c
		what, from := "", 0
		if lacks != nil {
			if lacks.enough -= c; lacks.enough < 0 {
				// Where nobody wrote down how long it takes to come, the plan cannot wait for it; it says so.
				if what = lacks.What; lacks.By != nil {
					from = f.slot(*lacks.By)
				}
			}
		}
		f.shop.Sessions = append(
			f.shop.Sessions,
			runup.Session{
				From:   from,
				Lacks:  what,
				Code:   fmt.Sprintf("%s.%d.%d", n.Piece, n.DayID, k),
				Name:   fmt.Sprintf("%s no. %d", n.Piece, f.turn(n.Piece)),
				Piece:  n.Piece,
				Copies: c,
				Stages: of.session(of.stages, c),
				Moulds: moulds,
				Job:    id,
			},
		)
	}
}

// turn numbers the sessions of a piece that nobody began, in the order of their days.
func (f *facts) turn(piece string) int {
	n := 1
	for _, x := range f.shop.Sessions {
		if x.Piece == piece && !x.Open {
			n++
		}
	}
	return n
}

// newMould is the mould that a piece has not got yet: built once, for all that needs it.
func (f *facts) newMould(piece, job string, minutes float64, dries time.Duration) string {
	code := piece + "/new"
	if !slices.ContainsFunc(f.shop.NewMoulds, func(m runup.NewMould) bool { return m.Code == code }) {
		f.shop.NewMoulds = append(
			f.shop.NewMoulds,
			runup.NewMould{
				Code:     code,
				Piece:    piece,
				Job:      job,
				HandsMin: minutes,
				ShapeMin: f.shape[piece],
				ClayMin:  f.clay[piece],
				DryMin:   dries.Minutes(),
			},
		)
	}
	return code
}

// mostAtOnce is how many copies are built beside each other where no mould is taken.
const mostAtOnce = 3

// atOnce is how many of them the racks take.
func (f facts) atOnce() int {
	if f.shop.Racks > 0 {
		return min(mostAtOnce, f.shop.Racks)
	}
	return mostAtOnce
}
