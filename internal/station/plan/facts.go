package plan

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/yield"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
	"yewmoor/internal/work"
)

// Slots of the run-up are quarter hours from the midnight before now.
const slotMin = 15

const daySlots = 24 * 60 / slotMin

// mostDays is how far the run-up looks.
const mostDays = 42

// OpenRun is a session in work, as the room for building tells of it.
type OpenRun struct {
	Code    string
	Piece   string
	Section int
	Copies  []string // those that are being made
	Mould   string   // of the first, where they are in moulds
	Left    []making.Stage
	From    time.Time // when the next stage may be done
}

// Work tells of what is begun; wired to the rooms for building and moulds.
type Work interface {
	OpenRuns(ctx context.Context) ([]OpenRun, error)
	Moulds(ctx context.Context) ([]Mould, error)
	// Short is what so many copies of a piece take that is neither on the shelf nor made of what is, and when it could be here.
	Short(ctx context.Context, piece string, copies int) (Short, error)
	// Clay is how long hands still are at the texture of a sculpt that is not moulded.
	Clay(ctx context.Context, p piece.Piece) (time.Duration, error)
	// Ovens are those that the shop has.
	Ovens(ctx context.Context) ([]OvenAt, error)
	// LetAlone lets every oven run with nobody beside it; a lead said so.
	LetAlone(ctx context.Context, tx database.Tx) error
	// Forbidden is what forbids making a piece now by the rule book, in words; who leads may sign a stop, nobody a never.
	Forbidden(ctx context.Context, piece string, lead bool) (string, error)
}

// OvenAt is an oven, and whether a lead allowed it to be hot with nobody beside it.
type OvenAt struct {
	Code  string
	Alone bool
}

// Lacking is what a piece's copies are made of and the stores have not got.
type Lacking struct {
	Piece  string     `json:"piece"`
	What   string     `json:"what"`
	Enough int        `json:"enough" doc:"copies that there is enough for"`
	By     *time.Time `json:"by,omitempty" doc:"when it could be here, ordered now: the plan waits for it; none where nobody wrote down how long it takes"`
}

// Short is material that is missing.
type Short struct {
	What string     // none where everything is here
	By   *time.Time // when it could be here, ordered now; none: nobody wrote down how long it takes
}

// Mould is one that is not retired.
type Mould struct {
	Code, Piece string
	Ready       *time.Time // when it may be filled; none: nobody can say
	Left        *int
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
	force     *inForce
	learned   work.Minutes
	pins      []Pinned
	besides   []OtherWork
	lacking   []Lacking
	weeks     weeks
	air       AirAhead
	moulds    map[string]float64 // hands at the moulds of a piece, minutes
	clay      map[string]float64 // and at the texture of its sculpt
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
		f.unplanned = append(f.unplanned, Unplanned{code, "no shooting day asks for it", "/brief/" + code})
	}
	return nil
}

// outBy is by when a kit leaves for its day, minutes after midnight of that day: our own figure. A plan ends with the work of the
// day before.
const outBy = 5 * 60

// facts reads what the run-up is made of. Nothing is typed for it: needs, sections, runs, copies, moulds and hours stand there.
func (s *Service) facts(ctx context.Context, beside ...HourChange) (facts, error) {
	now := s.Clock.Now()
	f := facts{now: now, origin: now.Truncate(24 * time.Hour), days: map[string]dayOf{}, family: map[string]string{}, worn: map[string]int{}, moulds: map[string]float64{}, clay: map[string]float64{}, lacking: []Lacking{}}
	f.shop = runup.Shop{Name: "the run-up", SlotMinutes: slotMin, Now: f.slot(now), FinishMin: map[string]float64{}, FinishWait: map[string]float64{}, CheckMin: map[string]float64{}, PackMin: map[string]float64{}, Pins: map[string]runup.Pin{}, OvenSlots: ovenTakes}
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
	if err := s.hours(ctx, &f, beside); err != nil {
		return f, err
	}
	moulds, err := s.Work.Moulds(ctx)
	if err != nil {
		return f, err
	}
	ready := map[string][]string{}
	for _, m := range moulds {
		if m.Ready == nil {
			f.unplanned = append(f.unplanned, Unplanned{m.Piece, "nobody can say when " + m.Code + " is dry", "/mould?mould=" + m.Code})
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
	if err := s.begun(ctx, &f, needs, known); err != nil {
		return f, err
	}
	if f.enough, err = s.enough(ctx, needs); err != nil {
		return f, err
	}
	for i := range f.enough {
		e, w := &f.enough[i], known[f.enough[i].Piece]
		per := atOnce
		if w.way.InMould() {
			per = max(1, len(ready[e.Piece]))
		}
		e.Runs, e.FromMix = (e.Begin+per-1)/per, w.way.FromMix()
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

// ovenTakes is how many moulds the oven takes at once: our own figure, until the shop says its own.
const ovenTakes = 4

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
		f.unplanned = append(f.unplanned, Unplanned{n.Piece, fmt.Sprintf("%d for %s: %s", n.Missing, d.Place, of.bar), of.link})
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
		f.unplanned = append(f.unplanned, Unplanned{n.Piece, fmt.Sprintf("%d for %s: %s", n.Missing, d.Place, of.bar), of.link})
		return
	case of.way.InMould() && len(moulds) == 0:
		moulds = []string{f.newMould(n.Piece, id, of.mould, dries)}
	}
	per := 1
	if !of.way.InMould() {
		per = atOnce
	}
	for made, k := 0, 1; made < n.Missing; k++ {
		c := min(per, n.Missing-made)
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
		f.shop.Sessions = append(f.shop.Sessions, runup.Session{From: from, Lacks: what, Code: fmt.Sprintf("%s.%d.%d", n.Piece, n.DayID, k), Name: fmt.Sprintf("%s no. %d", n.Piece, f.turn(n.Piece)), Piece: n.Piece, Copies: c, Stages: of.session(of.stages, c), Moulds: moulds, Job: id})
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
		f.shop.NewMoulds = append(f.shop.NewMoulds, runup.NewMould{Code: code, Piece: piece, Job: job, HandsMin: minutes, ClayMin: f.clay[piece], DryMin: dries.Minutes()})
	}
	return code
}

// usualMouldMin is how long hands are at a mould of two halves, minutes: our own figure, where there is no build sheet.
const usualMouldMin = 240

// atOnce is how many copies are built beside each other where no mould is taken.
const atOnce = 3

// pieceWork is how a piece is made, by its agreed section.
type pieceWork struct {
	family  string
	learned work.Minutes
	names   material.Shelf
	way     making.Way
	stages  []making.Stage
	result  section.Result
	mould   float64 // hands at what it is made in, minutes
	bar     string  // why it cannot be planned
	link    string
}

// sections reads how the pieces that are wanted are made.
func (s *Service) sections(ctx context.Context, f *facts, needs []copies.Need) (map[string]pieceWork, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	room, ahead, err := s.air(ctx)
	if err != nil {
		return nil, err
	}
	f.air = ahead
	out := map[string]pieceWork{}
	for _, n := range needs {
		if _, done := out[n.Piece]; done {
			continue
		}
		f.family[n.Piece] = n.Family
		p, err := piece.Find(ctx, s.DB, n.Piece)
		if err != nil {
			return nil, err
		}
		doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
		if err != nil {
			return nil, err
		}
		if number == 0 {
			out[n.Piece] = pieceWork{bar: "its section is not agreed", link: "/piece/" + n.Piece}
			continue
		}
		r, err := s.Pieces.ResultIn(ctx, s.DB, p, doc, materials, room)
		if err != nil {
			return nil, err
		}
		w := pieceWork{family: n.Family, learned: f.learned, names: materials, way: making.Of(doc, materials), stages: making.Stages(doc, materials, r), result: r}
		if w.mould, err = s.mouldMin(ctx, p, doc, w); err != nil {
			return nil, err
		}
		hands, waits := finishing(r)
		f.shop.FinishMin[n.Piece], f.shop.FinishWait[n.Piece] = f.learned.Of(n.Family, work.Finish, hands).Median, waits
		f.shop.CheckMin[n.Piece] = f.learned.Of(n.Family, work.Check, runup.CheckMin).Median
		f.shop.PackMin[n.Piece] = f.learned.Of(n.Family, work.Pack, runup.PackMin).Median
		out[n.Piece] = w
		f.moulds[n.Piece] = w.mould
		if w.way.InMould() {
			left, err := s.Work.Clay(ctx, p)
			if err != nil {
				return nil, err
			}
			f.clay[n.Piece] = left.Minutes()
		}
	}
	return out, nil
}

// handsMin is how long hands are at a stage for one copy, minutes: the section's figure, moved by what was noted here.
func (w pieceWork) handsMin(st making.Stage) float64 {
	return w.learned.Of(w.family, st.Act, w.usualMin(st)).Median
}

// usualMin is the section's own: its layer's, shared among the stages that make it.
func (w pieceWork) usualMin(st making.Stage) float64 {
	n := 0
	for _, o := range w.stages {
		if o.Layer == st.Layer {
			n++
		}
	}
	if st.Layer == "" || n == 0 {
		return liftMin
	}
	return w.result.Of(st.Layer).HandsS / 60 / float64(n)
}

// waitMin is how long a stage waits, minutes. Cures and drying coats have pots of their own that tell it once they stand there; until
// then the section's closed form does.
func (w pieceWork) waitMin(st making.Stage) float64 {
	of := w.result.Of(st.Layer)
	switch {
	case st.WaitS > 0 || st.Waits == making.NoWait:
		return st.WaitS / 60
	case st.Coat > 0 && st.Coat < st.Of:
		return of.RecoatS / 60
	case st.Coat > 0:
		return max(of.RecoatS, of.DryS-float64(st.Of-1)*of.RecoatS) / 60
	}
	return of.WaitS / 60
}

// mouldMin is how long hands are at the moulds of a piece, minutes: by their build sheets, moved by what was noted here.
func (s *Service) mouldMin(ctx context.Context, p piece.Piece, doc section.Section, w pieceWork) (float64, error) {
	if !w.way.InMould() {
		return 0, nil
	}
	sheet := float64(usualMouldMin)
	if s.Pieces.Moulds != nil && w.result.Body.AreaCM2 > 0 {
		t, err := s.Pieces.Moulds.Needed(ctx, s.DB, p, doc, w.result.Body)
		if err != nil {
			return 0, err
		}
		if t.Known && t.HandsS > 0 {
			sheet = t.HandsS / 60
		}
	}
	return w.learned.Of(w.family, work.Mould, sheet).Median, nil
}

// made are the acts by which a piece comes to be; what else is done at the bench finishes it.
var made = []string{"release", "film", "body", "insert in the mould", "bake", "demould", "wash"}

// finishing is how long hands are at one copy after it was made, and how long what they put on dries, minutes.
func finishing(r section.Result) (hands, waits float64) {
	for _, st := range r.Steps {
		if st.Where == "bench" && !slices.Contains(made, st.Act) {
			hands, waits = hands+st.HandsS/60, waits+st.WaitS/60
		}
	}
	return max(hands, leastFinish), waits
}

// leastFinish is how long seams and edges take at least, minutes; liftMin is how long it takes to get a copy out.
const leastFinish, liftMin = 20, 15

// bakeMost is how long gelled foam may stand before it is baked at most, minutes: the handbook's window of gelling.
const bakeMost = 90

// session are stages of a session of so many copies.
func (w pieceWork) session(stages []making.Stage, n int) []runup.Stage {
	var out []runup.Stage
	for i, st := range stages {
		row := runup.Stage{Act: st.Act, HandsMin: w.handsMin(st) * float64(n), WaitMin: w.waitMin(st), With: w.takes(st, n)}
		if st.Coat > 0 && st.Of > 1 {
			row.Act = fmt.Sprintf("%s %d", st.Act, st.Coat)
		}
		switch st.Act {
		case "bake":
			row.Oven = "foam"
		case "whip": // what is whipped gels: its clock is how long there is, not how long it waits
			row.WaitMin, row.MostMin = 0, st.WaitS/60
		}
		if i+1 < len(stages) && stages[i+1].Act == "bake" {
			row.MostMin = bakeMost
		}
		out = append(out, row)
	}
	return out
}

// takes is what a stage of so many copies takes, in words.
func (w pieceWork) takes(st making.Stage, n int) string {
	var list []string
	for _, t := range st.Takes() {
		if name := w.names[t.Material].Name; name != "" && t.Grams > 0 {
			list = append(list, fmt.Sprintf("%s of %s", quantity.FormatMass(t.Grams*float64(n)), name))
		}
	}
	return strings.Join(list, ", ")
}

// begun reads runs in work and copies that wait for hands, and hands them to the days as the counts do: the earliest first.
func (s *Service) begun(ctx context.Context, f *facts, needs []copies.Need, known map[string]pieceWork) error {
	runs, err := s.Work.OpenRuns(ctx)
	if err != nil {
		return err
	}
	rows, err := copies.InHandOf(ctx, s.DB)
	if err != nil {
		return err
	}
	// How many more each day takes of each piece, of what is there or coming.
	open := map[string]int{}
	jobs := map[string][]string{}
	for _, n := range needs {
		id := jobID(n)
		jobs[n.Piece] = append(jobs[n.Piece], id)
		open[id] = n.Good - n.There + n.Coming
	}
	next := func(piece string, count int) (string, []string) {
		first := ""
		var others []string
		for _, id := range jobs[piece] {
			k := min(open[id], count)
			if k <= 0 {
				continue
			}
			open[id] -= k
			count -= k
			if first == "" {
				first = id
			} else {
				others = append(others, id)
			}
		}
		return first, others
	}
	share := func(code string, others []string) {
		for _, id := range others {
			i := slices.IndexFunc(f.shop.Jobs, func(j runup.Job) bool { return j.ID == id })
			if i < 0 {
				i = len(f.shop.Jobs)
				p := id
				for piece, list := range jobs {
					if slices.Contains(list, id) {
						p = piece
					}
				}
				f.shop.Jobs = append(f.shop.Jobs, runup.Job{ID: id, Piece: p})
			}
			f.shop.Jobs[i].After = append(f.shop.Jobs[i].After, code)
		}
	}
	slices.SortStableFunc(rows, func(a, b copies.InHand) int { // good ones serve the earliest day
		good := func(c copies.InHand) int {
			if c.State == copies.Accepted {
				return 0
			}
			return 1
		}
		return good(a) - good(b)
	})
	for _, r := range rows {
		job, _ := next(r.Piece, 1)
		if job == "" {
			continue // nobody waits for it
		}
		c := runup.Copy{Code: r.Code, Piece: r.Piece, Good: r.State == copies.Accepted, Job: job}
		if left := r.Items - r.Ticks; left > 0 {
			c.FinishMin = f.shop.FinishMin[r.Piece] * float64(left) / float64(r.Items)
		}
		f.shop.Copies = append(f.shop.Copies, c)
	}
	for _, r := range runs {
		job, others := next(r.Piece, len(r.Copies))
		if job == "" || len(r.Copies) == 0 {
			continue
		}
		x := runup.Session{Code: r.Code, Piece: r.Piece, Copies: len(r.Copies), Open: true, Stages: known[r.Piece].session(r.Left, len(r.Copies)), Job: job}
		if r.From.After(f.now) {
			x.From = f.slot(r.From)
		}
		if r.Mould != "" {
			x.Moulds = []string{r.Mould}
		}
		f.shop.Sessions = append(f.shop.Sessions, x)
		share(r.Code, others)
	}
	return nil
}

// Enough is how many to begin so that as many are good as are missing.
type Enough struct {
	Piece   string  `json:"piece"`
	Missing int     `json:"missing"`
	Begin   int     `json:"begin"`
	Chance  float64 `json:"chance" doc:"that at least so many of them are good, 0..1"`
	Runs    int     `json:"runs" doc:"sessions that that takes, with the moulds that may be filled; the mix room divides what each pours by bowl and pot life"`
	FromMix bool    `json:"from_mix"`
	Test    bool    `json:"test" doc:"so little is known that one is made as a test first"`
	Judged  int     `json:"judged" doc:"copies of its material that a verdict was given on"`
	Good    int     `json:"good"`
}

// mostSpares is from how many times as many on the number says only that nothing is known.
const mostSpares = 4

// sure is how certain it is to be that enough are good.
const sure = 0.9

// enough works it out for every piece that misses copies, from how copies of its material came out here.
func (s *Service) enough(ctx context.Context, needs []copies.Need) ([]Enough, error) {
	var rows []struct {
		Family       string
		Judged, Good float64
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.family, COUNT(*) AS judged, SUM(`+copies.GoodSQL("c")+`) AS good FROM copy c JOIN piece q ON q.id = c.piece_id WHERE `+copies.JudgedSQL("c")+` GROUP BY q.family`); err != nil {
		return nil, fmt.Errorf("reading how copies came out: %w", err)
	}
	out := []Enough{}
	for _, n := range needs {
		if i := slices.IndexFunc(out, func(e Enough) bool { return e.Piece == n.Piece }); i >= 0 {
			out[i].Missing += n.Missing
		} else if n.Missing > 0 {
			out = append(out, Enough{Piece: n.Piece, Missing: n.Missing})
		}
	}
	for i := range out {
		e := &out[i]
		family := needs[slices.IndexFunc(needs, func(n copies.Need) bool { return n.Piece == e.Piece })].Family
		var seen []yield.Casts
		for _, r := range rows {
			if yield.Material(r.Family) == yield.Material(family) {
				seen = append(seen, yield.Casts{Casts: r.Judged, Good: r.Good})
				e.Judged, e.Good = e.Judged+int(r.Judged), e.Good+int(r.Good)
			}
		}
		belief, err := yield.Prior(yield.Material(family)).After(seen, 0)
		if err != nil {
			return nil, err
		}
		p, err := yield.ToRun(e.Missing, 1, sure, belief)
		if err != nil {
			continue // with so little known no number can be promised: none is said
		}
		e.Begin, e.Chance = p.Pieces, p.Probability
		e.Test = e.Begin > mostSpares*e.Missing
	}
	return out, nil
}

// hours reads who is in when.
func (s *Service) hours(ctx context.Context, f *facts, beside []HourChange) error {
	changes, err := s.changes(ctx, s.DB, f.now)
	if err != nil {
		return err
	}
	changes = append(changes, beside...)
	weeks, err := s.weeks(ctx)
	if err != nil {
		return err
	}
	f.weeks = weeks
	var people []struct {
		ID         uint64
		Name, Role string
	}
	if err := s.DB.SelectContext(ctx, &people, `SELECT id, name, role FROM person WHERE active ORDER BY id`); err != nil {
		return fmt.Errorf("reading who works here: %w", err)
	}
	days := f.shop.Horizon / daySlots
	somebody := make([]bool, f.shop.Horizon)
	for _, p := range people {
		row := runup.Person{ID: p.Name, Judges: p.Role != "apprentice", Crafts: weeks.of(p.Name).Crafts}
		regular, over := make([]bool, f.shop.Horizon), make([]bool, f.shop.Horizon)
		fill := func(in []bool, d, from, to int, is bool) {
			for t := d*daySlots + from/slotMin; t < d*daySlots+(to+slotMin-1)/slotMin && t < len(in); t++ {
				in[t] = is
			}
		}
		for d := range days {
			date := f.origin.AddDate(0, 0, d)
			if w := weeks.of(p.Name); w.in(date) {
				fill(regular, d, w.From, w.To, true)
				fill(over, d, w.To, w.Late, true)
			}
			for _, c := range changes {
				if !c.Day.Equal(date) || c.Person != "" && c.Person != p.Name {
					continue
				}
				switch c.Kind {
				case "extra":
					fill(over, d, c.From, c.To, true)
				case "away":
					fill(regular, d, c.From, c.To, false)
					fill(over, d, c.From, c.To, false)
				}
			}
		}
		for t := range over {
			over[t] = over[t] && !regular[t]
			somebody[t] = somebody[t] || regular[t] || over[t]
		}
		row.Regular, row.Overtime = runs(regular), runs(over)
		f.shop.People = append(f.shop.People, row)
	}
	for t := range somebody {
		somebody[t] = !somebody[t]
	}
	f.nights = runs(somebody)
	ovens, err := s.Work.Ovens(ctx)
	if err != nil {
		return err
	}
	f.shop.OvenSlots = ovenTakes * max(1, len(ovens))
	if len(ovens) == 0 || slices.ContainsFunc(ovens, func(o OvenAt) bool { return !o.Alone }) {
		f.shop.OvenDown = f.nights
	}
	return nil
}

// runs are the stretches of a row of slots.
func runs(in []bool) []plan.Interval {
	out := []plan.Interval{}
	for t := 0; t < len(in); t++ {
		if !in[t] {
			continue
		}
		begin := t
		for t < len(in) && in[t] {
			t++
		}
		out = append(out, plan.Interval{begin, t})
	}
	return out
}

// inForce is the plan that the shop took.
type inForce struct {
	At     time.Time
	By     string
	Origin time.Time
	MadeOf string
	Plan   plan.Plan
}

// inForce reads the newest; none where the shop took none yet.
func (s *Service) inForce(ctx context.Context) (*inForce, error) {
	var rows []struct {
		At     time.Time
		Name   string
		Origin time.Time
		Doc    string
		MadeOf string `db:"made_of"`
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT r.at, p.name, r.origin, r.doc, r.made_of FROM run_up_plan r JOIN person p ON p.id = r.person_id ORDER BY r.id DESC LIMIT 1`); err != nil {
		return nil, fmt.Errorf("reading the plan in force: %w", err)
	}
	if len(rows) == 0 {
		return nil, nil
	}
	out := &inForce{At: rows[0].At, By: rows[0].Name, Origin: rows[0].Origin, MadeOf: rows[0].MadeOf}
	return out, json.Unmarshal([]byte(rows[0].Doc), &out.Plan)
}

// baseline is the plan in force in the slots of today, for what is still open.
func (p *inForce) baseline(f facts) []plan.Base {
	in, _ := f.shop.Instance()
	open := map[string]bool{}
	for _, st := range in.Steps {
		_, fixed := in.Fixed[st.ID]
		open[st.ID] = !fixed
	}
	people := map[string]bool{}
	for _, n := range f.shop.People {
		people[n.ID] = true
	}
	things := map[string]bool{}
	for _, r := range in.Resources {
		things[r.ID] = true
	}
	holds := map[string]bool{}
	for _, h := range in.Holds {
		holds[h.ID] = true
	}
	back := int(f.origin.Sub(p.Origin) / (slotMin * time.Minute))
	var out []plan.Base
	for _, st := range p.Plan.Steps {
		if !open[st.ID] || st.Start-back < f.shop.Now || slices.ContainsFunc(st.People, func(n string) bool { return !people[n] }) {
			continue
		}
		b := plan.Base{ID: st.ID, Start: st.Start - back, People: st.People}
		for h, r := range st.Resources {
			if holds[h] && things[r] {
				if b.Resources == nil {
					b.Resources = map[string]string{}
				}
				b.Resources[h] = r
			}
		}
		out = append(out, b)
	}
	return out
}

// rebased is the plan in force in the slots of today: where nothing was done and nothing changed it is legal still, and kept.
func (p *inForce) rebased(f facts) *plan.Plan {
	back := int(f.origin.Sub(p.Origin) / (slotMin * time.Minute))
	out := &plan.Plan{Format: plan.Format}
	for _, st := range p.Plan.Steps {
		st.Start, st.End = st.Start-back, st.End-back
		out.Steps = append(out.Steps, st)
	}
	return out
}

// The week of the shop, minutes after midnight: our own, Monday to Friday, with overtime until weekLate.
const weekFrom, weekTo, weekLate = 9 * 60, 17 * 60, 19 * 60
