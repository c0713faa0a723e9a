package plan

import (
	"cmp"
	"fmt"
	"slices"
)

// none is no slot, no step, no family.
const none = -1

// table says of every slot where a hands-on step that begins there ends, how many overtime person-slots it takes, and the first
// slot from there on at which it may begin at all. It is shared by steps of one length, crew hours, overtime and splitting.
type table struct{ end, ot, next []int32 }

type mode struct {
	crew int
	ot   bool
	tab  *table // nil: waited for
}

type crewSet struct {
	people []int
	skills int
}

type mstep struct {
	id               string
	job              int
	passive, split   bool
	length           int
	crews            []crewSet
	modes            []mode
	release          int
	deadline         int // the latest end, the horizon at most
	family           int
	oven             bool
	begins, finishes []int // holds
	in, out          []int // links
	es, ee, lf       int
	weight           int
	fixed            bool
	fs, fe           int
	fpeople          []int
	block            int
}

type mlink struct {
	from, to int // steps
	fe, te   int // 0 start, 1 end
	min      int
	max      int
	bounded  bool
}

type mhold struct {
	id       string
	from, to int
	fe, te   int
	choices  []int
	qty      int
	least    int // slots that it lasts at least
	counted  bool
	given    int // resource of a hold that begins at a fixed step
}

type mres struct {
	id           string
	unit, oven   bool
	capacity     int
	turn, change int
	left         int // casts that it stands; -1 for no end
	down         []Interval
}

type mjob struct {
	due          int
	has          bool
	weight       int
	risk, buffer int
	steps        []int
}

type block struct {
	steps []int // open ones, in the order in which they are placed
	preds []int
	first bool // tied to a fixed step: placed before the others
}

type baseline struct {
	step, start int
	people      []int
	holds, res  []int
}

// model is an instance with its names turned into numbers and what the search needs worked out once.
type model struct {
	in     *Instance
	h, now int
	steps  []mstep
	people []mperson
	res    []mres
	holds  []mhold
	links  []mlink
	jobs   []mjob
	blocks []block
	soon   []baseline
	stepNo map[string]int
	tables map[string]*table
	shifts map[string]*crewHours
	hours  [][2][]bool
	ovens  []int // steps that are baked
	rank   []int // of each step in an order in which nothing comes before what it waits for
}

type mperson struct {
	id  string
	cal int
	n   int // skills
}

const far = 1 << 29

// compile checks an instance and prepares it (section 7.1).
func compile(in *Instance) (*model, *Error) {
	if err := in.format(); err != nil {
		return nil, err
	}
	if err := in.refs(); err != nil {
		return nil, err
	}
	m := &model{in: in, h: in.Horizon, now: in.Now, stepNo: map[string]int{}, tables: map[string]*table{}, shifts: map[string]*crewHours{}}
	calNo := map[string]int{}
	for i, c := range in.Calendars {
		calNo[c.ID] = i
		m.hours = append(m.hours, [2][]bool{filled(c.Regular, m.h), filled(c.Overtime, m.h)})
	}
	personNo := map[string]int{}
	for i, p := range in.People {
		personNo[p.ID] = i
		m.people = append(m.people, mperson{p.ID, calNo[p.Calendar], len(p.Skills)})
	}
	resNo := map[string]int{}
	for i, r := range in.Resources {
		resNo[r.ID] = i
		left := none
		if r.Life != nil {
			left = *r.Life - r.Used
		}
		m.res = append(m.res, mres{r.ID, r.Capacity == 1 && r.Type != Oven, r.Type == Oven, r.Capacity, r.Turnaround, r.Changeover, left, r.Down})
	}
	jobNo := map[string]int{}
	for i, j := range in.Jobs {
		jobNo[j.ID] = i
		mj := mjob{weight: j.weight(), risk: j.Risk, buffer: j.Buffer}
		if j.Due != nil {
			mj.due, mj.has = *j.Due, true
		}
		m.jobs = append(m.jobs, mj)
	}
	families := map[string]int{}
	for i, s := range in.Steps {
		m.stepNo[s.ID] = i
		ms := mstep{id: s.ID, job: jobNo[s.Job], passive: s.Duration != nil, split: s.Split, release: m.now, deadline: m.h, family: none}
		if ms.passive {
			ms.length = *s.Duration
		} else {
			ms.length = *s.Work
		}
		if s.Release != nil {
			ms.release = max(ms.release, *s.Release)
		}
		if s.Deadline != nil {
			ms.deadline = min(ms.deadline, *s.Deadline)
		}
		if s.Family != "" {
			n, known := families[s.Family]
			if !known {
				n = len(families)
				families[s.Family] = n
			}
			ms.family = n
		}
		if f, ok := in.Fixed[s.ID]; ok {
			ms.fixed, ms.fs, ms.fe = true, f.Start, f.End
			for _, p := range f.People {
				ms.fpeople = append(ms.fpeople, personNo[p])
			}
		}
		m.jobs[ms.job].steps = append(m.jobs[ms.job].steps, i)
		m.steps = append(m.steps, ms)
	}
	event := map[string]int{"start": 0, "end": 1}
	for _, l := range in.Links {
		from, to := events(l.Type)
		ml := mlink{from: m.stepNo[l.From], to: m.stepNo[l.To], fe: event[from], te: event[to], min: l.Min}
		if l.Max != nil {
			ml.max, ml.bounded = *l.Max, true
		}
		if m.steps[ml.from].fixed && m.steps[ml.to].fixed {
			continue
		}
		m.steps[ml.from].out = append(m.steps[ml.from].out, len(m.links))
		m.steps[ml.to].in = append(m.steps[ml.to].in, len(m.links))
		m.links = append(m.links, ml)
	}
	holdNo := map[string]int{}
	for i, h := range in.allHolds() {
		mh := mhold{id: h.ID, from: m.stepNo[h.From], to: m.stepNo[h.To], fe: event[h.FromEvent], te: event[h.ToEvent], qty: h.Qty, given: none}
		for _, r := range h.choices() {
			mh.choices = append(mh.choices, resNo[r])
		}
		if f, ok := in.Fixed[h.From]; ok {
			mh.counted = f.Counted
			mh.given = mh.choices[0]
			if r, ok := f.Resources[h.ID]; ok {
				mh.given = resNo[r]
			}
		}
		holdNo[h.ID] = i
		m.steps[mh.from].begins = append(m.steps[mh.from].begins, i)
		m.steps[mh.to].finishes = append(m.steps[mh.to].finishes, i)
		m.holds = append(m.holds, mh)
	}
	for _, check := range []func() *Error{m.capacity, m.families, m.crews, m.windows, m.lives, m.cycles, m.earliest} {
		if err := check(); err != nil {
			return nil, err
		}
	}
	for _, b := range in.Baseline {
		i := m.stepNo[b.ID]
		if b.Start >= m.now+in.SoonWindow || m.steps[i].fixed {
			continue
		}
		mb := baseline{step: i, start: b.Start}
		for _, p := range b.People {
			mb.people = append(mb.people, personNo[p])
		}
		slices.Sort(mb.people)
		for _, h := range sortedKeys(b.Resources) {
			mb.holds, mb.res = append(mb.holds, holdNo[h]), append(mb.res, resNo[b.Resources[h]])
		}
		m.soon = append(m.soon, mb)
	}
	m.urgency()
	m.divide()
	return m, nil
}

func (m *model) capacity() *Error {
	for _, h := range m.holds {
		for _, r := range h.choices {
			if h.qty > m.res[r].capacity {
				return invalid(ECapacity, []string{h.id, m.res[r].id}, "%s asks for %d of %s, and there are %d.", h.id, h.qty, m.res[r].id, m.res[r].capacity)
			}
			if len(h.choices) > 1 && !m.res[r].unit && !m.res[r].oven {
				return invalid(EFormat, []string{h.id, m.res[r].id}, "%s may choose among things of which there is one each, and ovens; of %s there are several.", h.id, m.res[r].id)
			}
		}
	}
	return nil
}

func (m *model) families() *Error {
	for i := range m.holds {
		h := &m.holds[i]
		for _, r := range h.choices {
			s := &m.steps[h.from]
			if m.res[r].oven {
				if h.from != h.to || h.fe != 0 || h.te != 1 || !s.passive || s.family == none {
					return invalid(EOvenStep, []string{h.id, m.res[r].id}, "%s is no bake: only what is waited for at a programme goes into %s.", h.id, m.res[r].id)
				}
				s.oven = true
			}
		}
	}
	lasts := map[int]int{}
	for i, s := range m.steps {
		if s.family == none {
			continue
		}
		if was, seen := lasts[s.family]; seen && m.steps[was].length != s.length {
			return invalid(EFamily, []string{m.steps[was].id, s.id}, "%s and %s are one programme, and last %d and %d slots.", m.steps[was].id, s.id, m.steps[was].length, s.length)
		}
		lasts[s.family] = i
		if s.oven && !s.fixed {
			m.ovens = append(m.ovens, i)
		}
	}
	return nil
}

// crews lists every set of people that can fill a step's crew.
func (m *model) crews() *Error {
	for i := range m.steps {
		s, doc := &m.steps[i], m.in.Steps[i]
		if s.passive || s.fixed {
			if s.passive {
				s.modes = []mode{{crew: none}}
			}
			continue
		}
		able := make([][]int, len(doc.Crew))
		for k, skill := range doc.Crew {
			for n, p := range m.in.People {
				if slices.Contains(p.Skills, skill) && (len(doc.People) == 0 || slices.Contains(doc.People, p.ID)) {
					able[k] = append(able[k], n)
				}
			}
		}
		seen := map[string]bool{}
		var pick func(k int, have []int)
		pick = func(k int, have []int) {
			if len(s.crews) >= mostCrews {
				return
			}
			if k == len(able) {
				set := slices.Clone(have)
				slices.Sort(set)
				key := ""
				n := 0
				for _, p := range set {
					key += string(rune(p + 1))
					n += m.people[p].n
				}
				if !seen[key] {
					seen[key] = true
					s.crews = append(s.crews, crewSet{set, n})
				}
				return
			}
			for _, p := range able[k] {
				if !slices.Contains(have, p) {
					pick(k+1, append(have, p))
				}
			}
		}
		pick(0, nil)
		if len(s.crews) == 0 {
			return invalid(ENoSkill, []string{s.id}, "Nobody can do %s: it takes %s at once, each by another person.", s.id, listed(doc.Crew))
		}
		slices.SortStableFunc(s.crews, func(a, b crewSet) int { return slices.Compare(a.people, b.people) })
	}
	return nil
}

// mostCrews is how many sets of people are tried for a step.
const mostCrews = 300

// windows makes the tables of the modes of every step, and leaves out overtime where it is no other than regular hours.
func (m *model) windows() *Error {
	for i := range m.steps {
		s := &m.steps[i]
		if s.passive || s.fixed {
			continue
		}
		for c := range s.crews {
			cals := make([]int, len(s.crews[c].people))
			for k, p := range s.crews[c].people {
				cals[k] = m.people[p].cal
			}
			slices.Sort(cals)
			plain, over := m.table(cals, false, s.length, s.split), m.table(cals, true, s.length, s.split)
			if plain != nil {
				s.modes = append(s.modes, mode{c, false, plain})
			}
			if over != nil && (plain == nil || m.longer(cals)) {
				s.modes = append(s.modes, mode{c, true, over})
			}
		}
		if len(s.modes) == 0 {
			return invalid(EWindow, []string{s.id}, "There is no stretch of work long enough for %s: it takes %d slots%s.", s.id, s.length, map[bool]string{true: "", false: " in one go"}[s.split])
		}
	}
	return nil
}

// longer tells whether a crew has overtime at all.
func (m *model) longer(cals []int) bool {
	return len(m.crewHours(cals, true).slots) > len(m.crewHours(cals, false).slots)
}

// crewHours are the hours of a crew: its usable slots in order, the overtime person-slots before each, the number of each slot among them, and
// how many follow each other from it on.
type crewHours struct {
	slots, over, index, run []int32
}

func (m *model) crewHours(cals []int, overtime bool) *crewHours {
	key := fmt.Sprint(overtime, cals)
	if c, ok := m.shifts[key]; ok {
		return c
	}
	c := &crewHours{index: make([]int32, m.h), run: make([]int32, m.h+1)}
	sum := int32(0)
	for at := range m.h {
		c.index[at] = none
		ot, there := int32(0), true
		for _, k := range cals {
			switch {
			case m.hours[k][0][at]:
			case overtime && m.hours[k][1][at]:
				ot++
			default:
				there = false
			}
		}
		if there {
			c.index[at] = int32(len(c.slots))
			c.slots, c.over = append(c.slots, int32(at)), append(c.over, sum)
			sum += ot
		}
	}
	c.over = append(c.over, sum)
	for at := m.h - 1; at >= 0; at-- {
		if c.index[at] != none {
			c.run[at] = c.run[at+1] + 1
		}
	}
	m.shifts[key] = c
	return c
}

// table is that of a crew's hours; nil when no start is legal.
func (m *model) table(cals []int, overtime bool, work int, split bool) *table {
	key := fmt.Sprint(work, overtime, split, cals)
	if t, ok := m.tables[key]; ok {
		return t
	}
	c := m.crewHours(cals, overtime)
	t := &table{make([]int32, m.h+2), make([]int32, m.h+2), make([]int32, m.h+2)}
	nothing := true
	next := int32(m.h + 1)
	t.end[m.h], t.end[m.h+1], t.next[m.h], t.next[m.h+1] = none, none, next, next
	for at := m.h - 1; at >= 0; at-- {
		t.end[at] = none
		if k := int(c.index[at]); k != none && k+work <= len(c.slots) && (split || int(c.run[at]) >= work) {
			t.end[at] = c.slots[k+work-1] + 1
			t.ot[at] = c.over[k+work] - c.over[k]
			next, nothing = int32(at), false
		}
		t.next[at] = next
	}
	if nothing {
		t = nil
	}
	m.tables[key] = t
	return t
}

// start is the first legal start of a mode from a slot on; past the horizon for none.
func (m *model) start(md *mode, from int) int {
	if from > m.h {
		return m.h + 1
	}
	if md.tab == nil {
		return from
	}
	return int(md.tab.next[max(from, 0)])
}

// endAt is where a mode that begins at a legal start ends.
func (m *model) endAt(s *mstep, md *mode, at int) int {
	if md.tab == nil {
		return at + s.length
	}
	return int(md.tab.end[at])
}

// startFor is the first legal start from a slot on that ends at the wanted slot or after: ends grow with starts.
func (m *model) startFor(s *mstep, md *mode, from, end int) int {
	if md.tab == nil {
		return max(from, end-s.length)
	}
	at := m.start(md, from)
	if at > m.h || int(md.tab.end[at]) >= end {
		return at
	}
	lo, hi := at, m.h+1
	for lo < hi {
		mid := (lo + hi) / 2
		if k := m.start(md, mid); k > m.h || int(md.tab.end[k]) >= end {
			hi = mid
		} else {
			lo = k + 1
		}
	}
	return m.start(md, lo)
}

// lives matches the casts to what the moulds still stand: choices differ, so a count would not do (augmenting paths).
func (m *model) lives() *Error {
	took := make([][]int, len(m.res)) // holds on a mould
	room := func(r int) bool { return m.res[r].left == none || len(took[r]) < m.res[r].left }
	var place func(h int, seen []bool) bool
	place = func(h int, seen []bool) bool {
		choices := m.holds[h].choices
		if g := m.holds[h].given; g != none {
			choices = []int{g}
		}
		for _, r := range choices {
			if seen[r] {
				continue
			}
			seen[r] = true
			if room(r) {
				took[r] = append(took[r], h)
				return true
			}
			for k, other := range took[r] {
				if place(other, seen) {
					took[r][k] = h
					return true
				}
			}
		}
		return false
	}
	for h, hold := range m.holds {
		if hold.given != none && hold.counted {
			continue
		}
		if !slices.ContainsFunc(hold.choices, func(r int) bool { return m.res[r].left != none }) {
			continue
		}
		if !place(h, make([]bool, len(m.res))) {
			var ids []string
			for _, r := range hold.choices {
				ids = append(ids, m.res[r].id)
			}
			return invalid(ELife, append([]string{hold.id}, ids...), "The casts that %s still stands are not enough for what is planned: %s finds none.", listed(ids), hold.id)
		}
	}
	return nil
}

// arc says that one event comes at least so many slots after another.
type arc struct{ from, to, lag int }

func ev(step, event int) int { return 2*step + event }

// arcs are the event graph; strict ones only hold forward lags and lengths.
func (m *model) arcs(backward bool) []arc {
	var out []arc
	for i, s := range m.steps {
		n := s.length
		if s.fixed {
			n = s.fe - s.fs
		}
		out = append(out, arc{ev(i, 0), ev(i, 1), n})
		if backward && (s.fixed || s.passive || !s.split) {
			out = append(out, arc{ev(i, 1), ev(i, 0), -n})
		}
	}
	for _, l := range m.links {
		out = append(out, arc{ev(l.from, l.fe), ev(l.to, l.te), l.min})
		if backward && l.bounded {
			out = append(out, arc{ev(l.to, l.te), ev(l.from, l.fe), -l.max})
		}
	}
	for _, h := range m.holds {
		if h.from != h.to {
			out = append(out, arc{ev(h.from, h.fe), ev(h.to, h.te), 0})
		}
	}
	return out
}

// cycles finds lags that contradict each other whatever the calendars.
func (m *model) cycles() *Error {
	arcs := m.arcs(true)
	n := 2 * len(m.steps)
	at, by := make([]int, n), make([]int, n)
	for i := range by {
		by[i] = none
	}
	last := none
	for range n + 1 {
		last = none
		for _, a := range arcs {
			if v := at[a.from] + a.lag; v > at[a.to] {
				at[a.to], by[a.to], last = v, a.from, a.to
			}
		}
		if last == none {
			return nil
		}
	}
	for range n { // into the ring
		last = by[last]
	}
	var ids []string
	for e := last; ; {
		if id := m.steps[e/2].id; !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
		if e = by[e]; e == last {
			break
		}
	}
	slices.Reverse(ids)
	return invalid(ECycle, ids, "These wait for each other in a ring, or are bound closer than they take: %s.", listed(ids))
}

// earliest works out the earliest start and end of every step with its calendars.
func (m *model) earliest() *Error {
	n := 2 * len(m.steps)
	at := make([]int, n)
	out := make([][]arc, n)
	for _, a := range m.arcs(true) {
		if s := &m.steps[a.from/2]; a.from/2 == a.to/2 && !s.fixed {
			continue // lengths go by the calendar
		}
		out[a.from] = append(out[a.from], a)
	}
	for i, s := range m.steps {
		at[ev(i, 0)], at[ev(i, 1)] = s.release, 0
		if s.fixed {
			at[ev(i, 0)], at[ev(i, 1)] = s.fs, s.fe
		}
	}
	queue, queued := make([]int, 0, n), make([]bool, len(m.steps))
	for i := range m.steps {
		queue, queued[i] = append(queue, i), true
	}
	for len(queue) > 0 {
		i := queue[0]
		queue, queued[i] = queue[1:], false
		s := &m.steps[i]
		if !s.fixed {
			first, end := far, far
			for k := range s.modes {
				md := &s.modes[k]
				if b := m.startFor(s, md, at[ev(i, 0)], at[ev(i, 1)]); b <= m.h {
					first, end = min(first, b), min(end, m.endAt(s, md, b))
				}
			}
			if end > m.h {
				return invalid(ELag, []string{s.id}, "With these hours %s finds no time at all: it would end after the horizon. Mostly a longest wait is shorter than every night or weekend.", s.id)
			}
			at[ev(i, 0)], at[ev(i, 1)] = max(at[ev(i, 0)], first), max(at[ev(i, 1)], end)
			if at[ev(i, 1)] > s.deadline {
				return invalid(EDeadline, []string{s.id}, "%s cannot end before %d, whatever else is done, and must by %d.", s.id, at[ev(i, 1)], s.deadline)
			}
		}
		for e := range 2 {
			for _, a := range out[ev(i, e)] {
				to := a.to / 2
				v := at[a.from] + a.lag
				if v <= at[a.to] {
					continue
				}
				if m.steps[to].fixed {
					if !s.fixed {
						return invalid(ELag, []string{s.id, m.steps[to].id}, "%s must be over before %s, which was begun already.", s.id, m.steps[to].id)
					}
					continue
				}
				at[a.to] = v
				if !queued[to] {
					queue, queued[to] = append(queue, to), true
				}
			}
		}
	}
	for i := range m.steps {
		m.steps[i].es, m.steps[i].ee = at[ev(i, 0)], at[ev(i, 1)]
	}
	return nil
}

// rough is about how many slots a step lasts with its nights.
func (s *mstep) rough() int {
	switch {
	case s.passive:
		return s.length
	case s.split:
		return 3 * s.length
	}
	return 2 * s.length
}

// urgency works back from the days that are due: the latest finish of each step, and the weight of what hangs on it.
func (m *model) urgency() {
	for i := range m.steps {
		s := &m.steps[i]
		s.lf = m.h
		if j := m.jobs[s.job]; j.has {
			s.lf = min(s.lf, j.due)
			s.weight = j.weight
		}
		s.lf = min(s.lf, s.deadline) // a list in which it comes late gives no plan at all
	}
	for round := 0; round < len(m.steps)+1; round++ {
		moved := false
		for _, l := range m.links {
			a, b := &m.steps[l.from], &m.steps[l.to]
			lf := b.lf - max(l.min, 0)
			if l.te == 1 || l.fe == 0 {
				lf = b.lf
			} else {
				lf -= b.rough()
			}
			if lf < a.lf && lf > -far {
				a.lf, moved = lf, true
			}
			if b.weight > a.weight {
				a.weight, moved = b.weight, true
			}
		}
		if !moved {
			break
		}
	}
}

// divide makes the blocks: what is tied by a longest wait or a hold is placed as a whole or not at all (section 7.2).
func (m *model) divide() {
	n := len(m.steps)
	root := make([]int, n)
	for i := range root {
		root[i] = i
	}
	find := func(i int) int {
		for root[i] != i {
			root[i] = root[root[i]]
			i = root[i]
		}
		return i
	}
	open := func(a, b int) bool { return !m.steps[a].fixed && !m.steps[b].fixed }
	join := func(a, b int) {
		if a, b = find(a), find(b); a != b {
			root[max(a, b)] = min(a, b)
		}
	}
	for _, l := range m.links {
		if l.bounded && open(l.from, l.to) {
			join(l.from, l.to)
		}
	}
	for _, h := range m.holds {
		if h.from != h.to && open(h.from, h.to) {
			join(h.from, h.to)
		}
	}
	// Blocks that wait for each other are one.
	for {
		next := map[int][]int{}
		for _, l := range m.links {
			if a, b := find(l.from), find(l.to); a != b && open(l.from, l.to) {
				next[a] = append(next[a], b)
			}
		}
		var roots []int
		for i := range n {
			if find(i) == i && !m.steps[i].fixed {
				roots = append(roots, i)
			}
		}
		merged := false
		for _, ring := range rings(roots, next) {
			for _, i := range ring[1:] {
				join(ring[0], i)
				merged = true
			}
		}
		if !merged {
			break
		}
	}
	number := map[int]int{}
	for i := range n {
		if m.steps[i].fixed {
			m.steps[i].block = none
			continue
		}
		r := find(i)
		b, known := number[r]
		if !known {
			b = len(m.blocks)
			number[r] = b
			m.blocks = append(m.blocks, block{})
		}
		m.steps[i].block = b
		m.blocks[b].steps = append(m.blocks[b].steps, i)
	}
	for _, l := range m.links {
		a, b := &m.steps[l.from], &m.steps[l.to]
		switch {
		case a.fixed && l.bounded:
			m.blocks[b.block].first = true
		case b.fixed:
			m.blocks[a.block].first = true
		case !a.fixed && a.block != b.block && !slices.Contains(m.blocks[b.block].preds, a.block):
			m.blocks[b.block].preds = append(m.blocks[b.block].preds, a.block)
		}
	}
	for i := range m.holds {
		h := &m.holds[i]
		if h.from != h.to && m.steps[h.from].fixed != m.steps[h.to].fixed {
			m.blocks[max(m.steps[h.from].block, m.steps[h.to].block)].first = true
		}
	}
	for b := range m.blocks {
		m.blocks[b].steps = m.order(m.blocks[b].steps)
	}
	var every []int
	for i := range m.steps {
		if !m.steps[i].fixed {
			every = append(every, i)
		}
	}
	m.rank = make([]int, n)
	for k, i := range m.order(every) {
		m.rank[i] = k
	}
	m.least()
}

// rings are the strongly connected parts of more than one node (Tarjan, without recursion that could run deep).
func rings(nodes []int, next map[int][]int) [][]int {
	index, low, on := map[int]int{}, map[int]int{}, map[int]bool{}
	var stack []int
	var out [][]int
	type frame struct{ node, child int }
	for _, start := range nodes {
		if _, seen := index[start]; seen {
			continue
		}
		work := []frame{{start, 0}}
		for len(work) > 0 {
			f := &work[len(work)-1]
			if f.child == 0 {
				index[f.node] = len(index)
				low[f.node] = index[f.node]
				stack, on[f.node] = append(stack, f.node), true
			}
			if f.child < len(next[f.node]) {
				to := next[f.node][f.child]
				f.child++
				if _, seen := index[to]; !seen {
					work = append(work, frame{to, 0})
				} else if on[to] {
					low[f.node] = min(low[f.node], index[to])
				}
				continue
			}
			if low[f.node] == index[f.node] {
				var ring []int
				for {
					k := stack[len(stack)-1]
					stack = stack[:len(stack)-1]
					on[k] = false
					ring = append(ring, k)
					if k == f.node {
						break
					}
				}
				if len(ring) > 1 {
					slices.Sort(ring)
					out = append(out, ring)
				}
			}
			done := f.node
			work = work[:len(work)-1]
			if len(work) > 0 {
				p := work[len(work)-1].node
				low[p] = min(low[p], low[done])
			}
		}
	}
	return out
}

// order puts the steps of a block in the order of the links, one chain after the other where it can.
func (m *model) order(steps []int) []int {
	inside := map[int]int{} // step to links that come before it
	for _, i := range steps {
		inside[i] = 0
	}
	for _, i := range steps {
		for _, l := range m.steps[i].out {
			if to := m.links[l].to; to != i {
				if _, in := inside[to]; in {
					inside[to]++
				}
			}
		}
	}
	var out, ready []int
	left := slices.Clone(steps)
	slices.SortFunc(left, func(a, b int) int { return cmp.Or(cmp.Compare(m.steps[a].es, m.steps[b].es), cmp.Compare(a, b)) })
	done := map[int]bool{}
	for len(out) < len(steps) {
		if len(ready) == 0 {
			for _, i := range left {
				if !done[i] && inside[i] == 0 {
					ready = append(ready, i)
					break
				}
			}
			if len(ready) == 0 { // a ring of lags without length: any first
				for _, i := range left {
					if !done[i] {
						ready = append(ready, i)
						break
					}
				}
			}
		}
		i := ready[len(ready)-1]
		ready = ready[:len(ready)-1]
		if done[i] {
			continue
		}
		done[i] = true
		out = append(out, i)
		for _, l := range m.steps[i].out {
			to := m.links[l].to
			if _, in := inside[to]; in && !done[to] && to != i {
				if inside[to]--; inside[to] == 0 {
					ready = append(ready, to)
				}
			}
		}
	}
	return out
}

// least works out how long each hold lasts at least: the longest way between its events within its block.
func (m *model) least() {
	for i := range m.holds {
		h := &m.holds[i]
		if h.from == h.to {
			if h.fe == 0 && h.te == 1 {
				h.least = m.steps[h.from].length
			}
			continue
		}
		at := map[int]int{ev(h.from, h.fe): 0}
		queue := []int{h.from}
		for n := 0; len(queue) > 0 && n < 400; n++ {
			k := queue[0]
			queue = queue[1:]
			s := &m.steps[k]
			if v, ok := at[ev(k, 0)]; ok {
				if e, ok := at[ev(k, 1)]; !ok || v+s.length > e {
					at[ev(k, 1)] = v + s.length
				}
			}
			for _, l := range s.out {
				ml := m.links[l]
				if v, ok := at[ev(k, ml.fe)]; ok && m.steps[ml.to].block == s.block {
					if w, ok := at[ev(ml.to, ml.te)]; !ok || v+ml.min > w {
						at[ev(ml.to, ml.te)] = v + ml.min
						queue = append(queue, ml.to)
					}
				}
			}
		}
		h.least = max(0, at[ev(h.to, h.te)])
	}
}
