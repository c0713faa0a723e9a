package plan

import (
	"cmp"
	"slices"
)

// Options say how long is searched. Iterations 0 is until Stop says so, or every level is proven.
type Options struct {
	Seed       uint64
	Iterations int
	// Stop is asked again and again; nil never stops. The result is what was found so far.
	Stop func() bool
	// From is a plan of the same steps from which the search begins; the result is never worse, if it is legal still.
	From *Plan
}

// Solve plans an instance. The same instance, seed and iterations give the same plan on any machine. A *Error says that there is
// none, and why.
func Solve(in *Instance, opt Options) (*Plan, error) {
	m, bad := compile(in)
	if bad != nil {
		return nil, bad
	}
	s := newSearch(m, opt)
	s.run()
	if !s.found {
		return nil, s.infeasible()
	}
	p := &Plan{Format: Format, Instance: in.Name, Steps: s.bestPlan, Objective: s.best, Bounds: s.bounds, Status: "ok", Seed: opt.Seed, Iterations: s.iterations}
	if opt.From != nil {
		if o, broken := Check(in, opt.From); len(broken) == 0 && !p.Objective.Less(o) { // equal: the older plan is kept
			p.Steps, p.Objective = opt.From.Steps, o
		}
	}
	return p, nil
}

type search struct {
	m          *model
	opt        Options
	b          *builder
	rng        draws
	cur, tryG  *genes
	bestG      *genes
	curV, best Objective
	bestPlan   []Placed
	found      bool
	curFound   bool
	starts     []*genes
	iterations int
	idle       int
	version    uint64
	bounds     Bounds
	bounded    bool
	closure    [][]int32 // of a job: the blocks it depends on, itself with them
	late       []int
	mark       []bool
	spare      []int32
}

func newSearch(m *model, opt Options) *search {
	s := &search{m: m, opt: opt, b: newBuilder(m), rng: draws{opt.Seed}, mark: make([]bool, len(m.blocks))}
	s.cur, s.tryG, s.bestG = m.plain(), m.plain(), m.plain()
	s.closure = make([][]int32, len(m.jobs))
	for j := range m.jobs {
		s.closure[j] = s.behind(m.jobs[j].steps)
	}
	return s
}

// behind are the blocks of steps with everything that they depend on, in no order that matters.
func (s *search) behind(steps []int) []int32 {
	seen := make([]bool, len(s.m.blocks))
	var out []int32
	add := func(k int) {
		if k != none && !seen[k] {
			seen[k] = true
			out = append(out, int32(k))
		}
	}
	for _, i := range steps {
		add(s.m.steps[i].block)
	}
	for n := 0; n < len(out); n++ {
		for _, p := range s.m.blocks[out[n]].preds {
			add(p)
		}
	}
	slices.Sort(out)
	return out
}

// bound works the bounds out, once there is a first plan to show.
func (s *search) bound() {
	if !s.bounded {
		s.bounded, s.bounds = true, s.m.bounds()
	}
}

func (s *search) over() bool {
	if s.opt.Iterations > 0 && s.iterations >= s.opt.Iterations {
		return true
	}
	if s.found && s.bounded && s.proven() {
		return true
	}
	return s.opt.Stop != nil && (s.found || s.iterations >= mostBlind) && s.opt.Stop()
}

// mostBlind is how many plans are tried for a first one before Stop is heard.
const mostBlind = 200

// proven tells whether every level is at its bound; a level counts when those before it are.
func (s *search) proven() bool {
	if s.best.Late > s.bounds.Late || s.best.Moved > 0 || s.best.Risk > 0 {
		return false
	}
	return s.best.Overtime == 0 || s.best.Late == 0 && s.bounds.Overtime != nil && s.best.Overtime <= *s.bounds.Overtime
}

// eval builds genes and says what comes of them.
func (s *search) eval(g *genes) (Objective, bool) {
	s.iterations++
	if !s.b.build(g) {
		return Objective{}, false
	}
	v := s.b.value()
	if !s.found || v.Less(s.best) {
		s.found, s.best, s.bestPlan = true, v, s.b.plan()
		s.bestG.copy(g)
	}
	return v, true
}

// fresh marks what was changed in a block.
func (s *search) fresh(g *genes, k int) {
	if k != none {
		s.version++
		g.ver[k] = s.version
	}
}

func (s *search) run() {
	s.firsts()
	s.bound()
	if !s.found {
		// No list gave a plan; chance may.
		s.cur.copy(s.m.plain())
	} else {
		s.cur.copy(s.bestG)
		s.curV, s.curFound = s.best, true
		s.overtimeWhereLate()
		s.trim()
		s.cur.copy(s.bestG)
		s.curV = s.best
	}
	for !s.over() {
		s.step()
	}
	if s.found && s.best.Late > 0 {
		s.bounds.Overtime = nil // it holds for plans without lateness only, and none is known
	}
}

// rules are the orders of the first lists.
func (s *search) rules() []func(k int) [2]float64 {
	key := func(of func(i *mstep) float64) func(k int) float64 {
		return func(k int) float64 {
			least := 1e18
			for _, i := range s.m.blocks[k].steps {
				least = min(least, of(&s.m.steps[i]))
			}
			return least
		}
	}
	lf := key(func(i *mstep) float64 { return float64(i.lf) })
	es := key(func(i *mstep) float64 { return float64(i.es) })
	slack := key(func(i *mstep) float64 { return float64(i.lf - i.es) })
	heavy := key(func(i *mstep) float64 { return float64(i.lf-i.es) / (float64(i.weight) + 0.1) })
	return []func(k int) [2]float64{
		func(k int) [2]float64 { return [2]float64{lf(k), es(k)} },
		func(k int) [2]float64 { return [2]float64{es(k), lf(k)} },
		func(k int) [2]float64 { return [2]float64{slack(k), lf(k)} },
		func(k int) [2]float64 { return [2]float64{heavy(k), lf(k)} },
	}
}

// firsts tries the priority rules, with and without overtime and oven groups, and the plan in force.
func (s *search) firsts() {
	try := func(g *genes) {
		if _, ok := s.eval(g); ok {
			s.starts = append(s.starts, g)
			s.bound()
		}
	}
	if s.opt.From != nil {
		try(s.as(s.opt.From))
	}
	if len(s.m.soon) > 0 {
		for _, ot := range []bool{false, true} {
			if s.over() {
				return
			}
			try(s.asBefore(ot))
		}
	}
	groups := []bool{false}
	if len(s.m.ovens) > 1 {
		groups = append(groups, true)
	}
	for _, grouped := range groups {
		for _, ot := range []bool{false, true} {
			for _, rule := range s.rules() {
				if s.over() {
					return
				}
				g := s.m.plain()
				keys := make([][2]float64, len(s.m.blocks))
				for k := range keys {
					keys[k] = rule(k)
				}
				slices.SortStableFunc(g.order, func(a, b int32) int {
					return cmp.Or(cmp.Compare(keys[a][0], keys[b][0]), cmp.Compare(keys[a][1], keys[b][1]))
				})
				for i := range g.ot {
					g.ot[i] = ot
				}
				if grouped {
					s.group(g)
				}
				for k := range g.ver {
					s.fresh(g, k)
				}
				try(g)
			}
		}
	}
}

// group fills ovens: by programme, the most urgent first.
func (s *search) group(g *genes) {
	list := slices.Clone(s.m.ovens)
	slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(s.m.steps[a].lf, s.m.steps[b].lf) })
	type open struct{ group, room int }
	by := map[int]*open{}
	next := 0
	for _, i := range list {
		qty, room := s.bakes(i)
		o := by[s.m.steps[i].family]
		if o == nil || o.room < qty {
			next++
			if next >= len(s.b.groups) {
				return
			}
			o = &open{next, room}
			by[s.m.steps[i].family] = o
		}
		g.group[i] = int16(o.group)
		o.room -= qty
	}
}

// bakes is how much room a bake takes, and the least room of the ovens that it may go into.
func (s *search) bakes(i int) (qty, room int) {
	room = far
	for _, h := range s.m.steps[i].begins {
		for _, r := range s.m.holds[h].choices {
			if s.m.res[r].oven {
				qty, room = s.m.holds[h].qty, min(room, s.m.res[r].capacity)
			}
		}
	}
	return qty, room
}

// as are the genes of a plan: its starts, its people, its overtime.
func (s *search) as(p *Plan) *genes {
	g := s.m.plain()
	starts := make([]int, len(s.m.blocks))
	for k := range starts {
		starts[k] = far
	}
	for _, row := range p.Steps {
		i, known := s.m.stepNo[row.ID]
		if !known || s.m.steps[i].fixed {
			continue
		}
		st := &s.m.steps[i]
		g.after[i], g.ot[i] = int32(row.Start), row.Overtime
		g.force[i] = s.crewOf(st, row.People)
		starts[st.block] = min(starts[st.block], row.Start)
	}
	slices.SortStableFunc(g.order, func(a, b int32) int { return cmp.Compare(starts[a], starts[b]) })
	for k := range g.ver {
		s.fresh(g, k)
	}
	return g
}

func (s *search) crewOf(st *mstep, people []string) int16 {
	for c := range st.crews {
		names := make([]string, len(st.crews[c].people))
		for k, n := range st.crews[c].people {
			names[k] = s.m.people[n].id
		}
		if same(names, people) {
			return int16(c)
		}
	}
	return none
}

// asBefore are the genes of the plan in force for what is soon; the rest is by its latest finish.
func (s *search) asBefore(ot bool) *genes {
	g := s.m.plain()
	starts := make([]int, len(s.m.blocks))
	for k := range starts {
		for _, i := range s.m.blocks[k].steps {
			starts[k] = far/2 + s.m.steps[i].lf
		}
	}
	for i := range g.ot {
		g.ot[i] = ot
	}
	for _, b := range s.m.soon {
		st := &s.m.steps[b.step]
		s.stay(g, &b)
		starts[st.block] = min(starts[st.block], b.start)
	}
	slices.SortStableFunc(g.order, func(a, b int32) int { return cmp.Compare(starts[a], starts[b]) })
	for k := range g.ver {
		s.fresh(g, k)
	}
	return g
}

// overtimeWhereLate allows overtime for everything that a late job depends on, round by round.
func (s *search) overtimeWhereLate() {
	for range 8 {
		if s.best.Late == 0 || s.over() {
			return
		}
		g := s.tryG
		g.copy(s.bestG)
		changed := false
		s.b.build(s.bestG)
		for j := range s.m.jobs {
			if job := &s.m.jobs[j]; job.has && job.weight > 0 && s.b.completion(j) > job.due {
				changed = s.allow(g, s.closure[j], true) || changed
			}
		}
		if !changed {
			return
		}
		if _, ok := s.eval(g); !ok {
			return
		}
	}
}

// allow sets overtime for the steps of blocks, and tells whether anything changed.
func (s *search) allow(g *genes, blocks []int32, ot bool) bool {
	changed := false
	for _, k := range blocks {
		here := false
		for _, i := range s.m.blocks[k].steps {
			if g.ot[i] != ot {
				g.ot[i], here = ot, true
			}
		}
		if here {
			s.fresh(g, int(k))
			changed = true
		}
	}
	return changed
}

// trim takes overtime away from where it is not needed: jobs with the most slack first, with all that they depend on, else with
// their own steps only.
func (s *search) trim() {
	if s.best.Overtime == 0 {
		return
	}
	s.b.build(s.bestG)
	slack := make([]int, len(s.m.jobs))
	list := make([]int, len(s.m.jobs))
	for j := range s.m.jobs {
		list[j], slack[j] = j, far
		if s.m.jobs[j].has {
			slack[j] = s.m.jobs[j].due - s.b.completion(j)
		}
	}
	slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(slack[b], slack[a]) })
	own := make([]int32, 0, 16)
	for _, j := range list {
		own = own[:0]
		for _, i := range s.m.jobs[j].steps {
			if k := s.m.steps[i].block; k != none && !slices.Contains(own, int32(k)) {
				own = append(own, int32(k))
			}
		}
		for _, blocks := range [][]int32{s.closure[j], own} {
			if s.over() || s.best.Overtime == 0 {
				return
			}
			s.tryG.copy(s.bestG)
			if !s.allow(s.tryG, blocks, false) {
				continue
			}
			was := s.best
			if v, ok := s.eval(s.tryG); ok && v.Less(was) {
				break
			}
		}
	}
}

// step makes one to three moves, and keeps what comes of them when it is no worse.
func (s *search) step() {
	g := s.tryG
	g.copy(s.cur)
	for n := 1 + s.rng.below(3); n > 0; n-- {
		s.move(g)
	}
	s.idle++
	if v, ok := s.eval(g); ok && (!s.curFound || !s.curV.Less(v)) {
		if !s.curFound || v.Less(s.curV) {
			s.idle = 0
		}
		s.cur, s.tryG = g, s.cur
		s.curV, s.curFound = v, true
	}
	if s.idle < restart || !s.found {
		return
	}
	s.idle = 0
	if s.rng.chance(60) || len(s.starts) == 0 {
		s.cur.copy(s.bestG)
		s.curV = s.best
		return
	}
	s.cur.copy(s.starts[s.rng.below(len(s.starts))])
	s.curV, s.curFound = s.eval(s.cur)
}

// restart is after how many moves without gain the search goes back.
const restart = 400

// job draws one: a late one rather than any.
func (s *search) job() int {
	s.late = s.late[:0]
	for j := range s.m.jobs {
		if job := &s.m.jobs[j]; job.has && job.weight > 0 && s.b.completion(j) > job.due {
			s.late = append(s.late, j)
		}
	}
	if len(s.late) > 0 && s.rng.chance(60) {
		return s.late[s.rng.below(len(s.late))]
	}
	return s.rng.below(len(s.m.jobs))
}

// open draws a step that is not fixed.
func (s *search) open() int {
	k := s.rng.below(len(s.m.blocks))
	list := s.m.blocks[k].steps
	return list[s.rng.below(len(list))]
}

// move changes genes in one way.
func (s *search) move(g *genes) {
	if len(s.m.blocks) == 0 {
		return
	}
	if len(s.m.soon) > 0 && s.rng.chance(15) {
		s.restore(g)
		return
	}
	switch r := s.rng.below(100); {
	case r < 26:
		s.pull(g)
	case r < 44:
		at := s.rng.below(len(g.order))
		to := min(max(at+s.rng.below(17)-8, 0), len(g.order)-1)
		k := g.order[at]
		if to > at {
			copy(g.order[at:to], g.order[at+1:to+1])
		} else {
			copy(g.order[to+1:at+1], g.order[to:at])
		}
		g.order[to] = k
	case r < 56:
		a, b := s.rng.below(len(g.order)), s.rng.below(len(g.order))
		g.order[a], g.order[b] = g.order[b], g.order[a]
	case r < 68:
		i := s.open()
		g.ot[i] = !g.ot[i]
		s.fresh(g, s.m.steps[i].block)
	case r < 73:
		s.flipJob(g)
	case r < 82:
		i := s.open()
		if n := len(s.m.steps[i].crews); n > 1 {
			g.force[i] = int16(s.rng.below(n+1) - 1)
			s.fresh(g, s.m.steps[i].block)
		}
	case r < 92 || len(s.m.ovens) < 2:
		s.delay(g)
	default:
		s.bake(g)
	}
}

// pull puts a job with everything it depends on to the front or anywhere, with or without overtime for all of it.
func (s *search) pull(g *genes) {
	blocks := s.closure[s.job()]
	if len(blocks) == 0 {
		return
	}
	to := 0
	if s.rng.chance(50) {
		to = s.rng.below(len(g.order))
	}
	for _, k := range blocks {
		s.mark[k] = true
	}
	s.spare = s.spare[:0]
	rest := g.order[:0]
	for _, k := range g.order {
		if s.mark[k] {
			s.spare = append(s.spare, k)
		} else {
			rest = append(rest, k)
		}
	}
	to = min(to, len(rest))
	n := len(s.spare)
	g.order = g.order[:len(rest)+n]
	copy(g.order[to+n:], g.order[to:len(rest)])
	copy(g.order[to:], s.spare)
	for _, k := range blocks {
		s.mark[k] = false
	}
	switch s.rng.below(3) {
	case 0:
		s.allow(g, blocks, true)
	case 1:
		s.allow(g, blocks, false)
	}
}

// restore puts a soon step, or all of its job, back to where the plan in force has it.
func (s *search) restore(g *genes) {
	one := s.rng.below(len(s.m.soon))
	whole := s.rng.chance(50)
	for n := range s.m.soon {
		b := &s.m.soon[n]
		if n == one || whole && s.m.steps[b.step].job == s.m.steps[s.m.soon[one].step].job {
			s.stay(g, b)
		}
	}
}

// stay asks of a step to begin no earlier than in the plan in force, by the same people.
func (s *search) stay(g *genes, b *baseline) {
	st := &s.m.steps[b.step]
	g.after[b.step], g.ot[b.step], g.force[b.step] = int32(b.start), true, none
	for c := range st.crews {
		if slices.Equal(st.crews[c].people, b.people) {
			g.force[b.step] = int16(c)
		}
	}
	s.fresh(g, st.block)
}

func (s *search) flipJob(g *genes) {
	j := s.job()
	ot := s.rng.chance(50)
	for _, i := range s.m.jobs[j].steps {
		if k := s.m.steps[i].block; k != none && g.ot[i] != ot {
			g.ot[i] = ot
			s.fresh(g, k)
		}
	}
}

// delay lets a step begin later, by some slots, four hours or a day, or no longer.
func (s *search) delay(g *genes) {
	i := s.open()
	s.fresh(g, s.m.steps[i].block)
	if g.after[i] > 0 && s.rng.chance(50) || !s.b.at[i].on {
		g.after[i] = 0
		return
	}
	hour := max(1, 60/s.m.in.SlotMinutes)
	by := 1 + s.rng.below(4)
	switch s.rng.below(4) {
	case 0:
		by = 4 * hour
	case 1:
		by = 24 * hour
	}
	g.after[i] = s.b.at[i].start + int32(by)
}

// bake puts an oven step into a batch of its programme, within its room, or out of it.
func (s *search) bake(g *genes) {
	i := s.m.ovens[s.rng.below(len(s.m.ovens))]
	st := &s.m.steps[i]
	if g.group[i] > 0 && s.rng.chance(40) {
		g.group[i] = 0
		s.fresh(g, st.block)
		return
	}
	j := s.m.ovens[s.rng.below(len(s.m.ovens))]
	if j == i || s.m.steps[j].family != st.family {
		return
	}
	to := g.group[j]
	if to == 0 {
		taken := make([]bool, len(s.b.groups))
		for _, k := range s.m.ovens {
			taken[g.group[k]] = true
		}
		for n := 1; n < len(taken); n++ {
			if !taken[n] {
				to = int16(n)
				break
			}
		}
		if to == 0 {
			return
		}
	}
	qty, room := s.bakes(i)
	for _, k := range s.m.ovens {
		if k != i && (k == j || g.group[k] == to) {
			n, _ := s.bakes(k)
			room -= n
		}
	}
	if room < qty {
		return
	}
	g.group[i], g.group[j] = to, to
	s.fresh(g, st.block)
	s.fresh(g, s.m.steps[j].block)
	for _, k := range s.m.ovens {
		if g.group[k] == to {
			s.fresh(g, s.m.steps[k].block)
		}
	}
}

// infeasible says which deadlines cannot be met together, and by how much they would have to move.
func (s *search) infeasible() *Error {
	out := &Error{Status: "no_plan", Code: EInfeasible}
	for i := range s.m.steps {
		if s.m.in.Steps[i].Deadline != nil {
			out.IDs = append(out.IDs, s.m.steps[i].id)
		}
	}
	out.Message = "No plan was found that ends before the horizon."
	if len(out.IDs) == 0 {
		return out
	}
	works := func(by int) bool {
		later := *s.m.in
		later.Steps = slices.Clone(later.Steps)
		for i := range later.Steps {
			if d := later.Steps[i].Deadline; d != nil {
				n := *d + by
				later.Steps[i].Deadline = &n
			}
		}
		m, bad := compile(&later)
		if bad != nil {
			return false
		}
		tries := 300
		if len(m.steps) > 100 {
			tries = 20
		}
		t := newSearch(m, Options{Seed: s.opt.Seed, Iterations: tries})
		t.firsts()
		for !t.found && t.iterations < tries {
			t.step()
		}
		return t.found
	}
	lo, hi := 0, 1
	for ; hi < s.m.h && !works(hi); hi *= 2 {
		lo = hi
	}
	if hi >= s.m.h {
		out.Message = "No plan was found that meets these deadlines, nor one without them: " + listed(out.IDs) + "."
		return out
	}
	for lo+1 < hi {
		if mid := (lo + hi) / 2; works(mid) {
			hi = mid
		} else {
			lo = mid
		}
	}
	out.Later = hi
	out.Message = "No plan was found that meets every one of these deadlines together: " + listed(out.IDs) + ". With each of them " + plural(hi, "slot") + " later there is one."
	return out
}
