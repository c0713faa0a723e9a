package plan

import (
	"cmp"
	"math"
	"slices"
	"sort"
)

// Chance is how often all jobs of a group were complete on their day, of so many draws, with the band of nine in ten (Wilson 1927).
type Chance struct {
	Of   string  `json:"of"`
	Met  float64 `json:"met"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
	N    int     `json:"n"`
}

// Draw is how lengths are drawn: spreads are standard deviations of their logarithms, 0.35 is two fifths more or a third less.
type Draw struct {
	Step  func(step string) float64 // of a step's length
	Waits float64                   // of the least lags between steps: drying, curing, setting
	Group func(job string) string   // which jobs count as one; nil: each by itself
	N     int
	Seed  uint64
}

// Chances draws the length of every open step of a sound plan anew, keeps who does what, and lets each step begin as soon as those
// before it are over and its people are in. What the plan has first comes first; where it has to wait, what comes later and is done by
// then is done meanwhile. Longest waits may break: it is what happens when nobody plans again. The same seed draws the same.
func Chances(in *Instance, p *Plan, draw Draw) ([]Chance, error) {
	m, bad := compile(in)
	if bad != nil {
		return nil, bad
	}
	r := newRetimer(m, p)
	r.fills = true
	var groups []string
	of := make([]int, len(m.jobs)) // group of a job
	for j := range m.jobs {
		of[j] = none
		if !m.jobs[j].has {
			continue
		}
		g := in.Jobs[j].ID
		if draw.Group != nil {
			g = draw.Group(g)
		}
		if of[j] = slices.Index(groups, g); of[j] == none {
			of[j] = len(groups)
			groups = append(groups, g)
		}
	}
	met, missed := make([]int, len(groups)), make([]bool, len(groups))
	d := draws{draw.Seed}
	for range draw.N {
		for i := range m.steps {
			s := &m.steps[i]
			r.length[i] = s.length
			if sigma := draw.Step(s.id); sigma > 0 && !s.fixed {
				r.length[i] = max(1, int(math.Ceil(float64(s.length)*math.Exp(sigma*d.normal())-0.5)))
			}
		}
		for l := range m.links {
			r.lags[l] = m.links[l].min
			if draw.Waits > 0 && m.links[l].min > 0 {
				r.lags[l] = int(math.Ceil(float64(m.links[l].min)*math.Exp(draw.Waits*d.normal()) - 0.5))
			}
		}
		r.retime()
		clear(missed)
		for j := range m.jobs {
			if of[j] != none && r.completion(j) > m.jobs[j].due {
				missed[of[j]] = true
			}
		}
		for g := range groups {
			if !missed[g] {
				met[g]++
			}
		}
	}
	out := []Chance{}
	for g, name := range groups {
		low, high := wilson(met[g], draw.N)
		out = append(out, Chance{name, float64(met[g]) / float64(max(1, draw.N)), low, high, draw.N})
	}
	return out, nil
}

// wilson is the band of nine in ten of a share.
func wilson(k, n int) (low, high float64) {
	if n == 0 {
		return 0, 1
	}
	const z = 1.6448536269514722
	p, f := float64(k)/float64(n), float64(n)
	mid := (p + z*z/(2*f)) / (1 + z*z/f)
	half := z / (1 + z*z/f) * math.Sqrt(p*(1-p)/f+z*z/(4*f*f))
	return max(0, mid-half), min(1, mid+half)
}

// normal draws from the standard normal distribution (Box and Muller 1958).
func (d *draws) normal() float64 {
	u := (float64(d.next()>>11) + 1) / (1 << 53)
	v := float64(d.next()>>11) / (1 << 53)
	return math.Sqrt(-2*math.Log(u)) * math.Cos(2*math.Pi*v)
}

// before is another step that must be over, at one of its events and so many slots.
type before struct{ step, event, lag, link int } // the lag is drawn where it is a link's

// retimer holds a plan's order and lays it anew.
type retimer struct {
	m          *model
	order      []int
	crew       []*crewHours // nil: waited for
	length     []int
	lags       []int // of links
	start, end []int
	after      [][]before // of a step's start
	ends       [][]before // of its end
	queue      [][]before // of its start: the step that its people, or its oven, had before it
	closed     [][]Interval
	batch      []int // the first step of its oven batch
	// Where gaps are filled, people and ovens are taken as they are free and not one after the other.
	fills bool
	who   [][]int  // people of a step
	oven  []int    // that it is in; none for most
	taken [][]busy // of people, then of what there is: when they are
}

func newRetimer(m *model, p *Plan) *retimer {
	n := len(m.steps)
	r := &retimer{m: m, crew: make([]*crewHours, n), length: make([]int, n), lags: make([]int, len(m.links)), start: make([]int, n), end: make([]int, n), after: make([][]before, n), ends: make([][]before, n), queue: make([][]before, n), closed: make([][]Interval, n), batch: make([]int, n), who: make([][]int, n), oven: make([]int, n), taken: make([][]busy, len(m.people)+len(m.res))}
	at := make([]Placed, n)
	person := map[string]int{}
	for k, q := range m.people {
		person[q.id] = k
	}
	for _, row := range p.Steps {
		i := m.stepNo[row.ID]
		at[i] = row
		if s := &m.steps[i]; !s.passive && !s.fixed {
			var cals []int
			for _, q := range row.People {
				cals = append(cals, m.people[person[q]].cal)
				r.who[i] = append(r.who[i], person[q])
			}
			slices.Sort(cals)
			r.crew[i] = m.crewHours(cals, row.Overtime)
		}
	}
	for i := range n {
		r.order, r.batch[i], r.oven[i] = append(r.order, i), i, none
	}
	slices.SortStableFunc(r.order, func(a, b int) int {
		return cmp.Or(cmp.Compare(at[a].Start, at[b].Start), cmp.Compare(at[a].End, at[b].End), cmp.Compare(m.steps[a].es, m.steps[b].es))
	})
	for k, l := range m.links {
		list := &r.after
		if l.te == 1 {
			list = &r.ends
		}
		(*list)[l.to] = append((*list)[l.to], before{l.from, l.fe, l.min, k})
	}
	last := map[string]int{}
	for _, i := range r.order {
		for _, q := range at[i].People {
			if k, has := last[q]; has {
				r.queue[i] = append(r.queue[i], before{k, 1, 0, none})
			}
			last[q] = i
		}
	}
	r.resources(at)
	return r
}

// resources keeps the order in which single things and ovens are held.
func (r *retimer) resources(at []Placed) {
	m := r.m
	name := map[string]int{}
	for k := range m.res {
		name[m.res[k].id] = k
	}
	type held struct{ hold, begin, end int }
	on := make([][]held, len(m.res))
	for h := range m.holds {
		hold := &m.holds[h]
		k := hold.choices[0]
		if id, ok := at[hold.from].Resources[hold.id]; ok {
			k = name[id]
		}
		event := func(i, e int) int {
			if e == 0 {
				return at[i].Start
			}
			return at[i].End
		}
		if m.res[k].oven && hold.from == hold.to {
			r.oven[hold.from] = k
		}
		if res := &m.res[k]; res.unit || res.oven {
			on[k] = append(on[k], held{h, event(hold.from, hold.fe), event(hold.to, hold.te)})
			if len(res.down) > 0 {
				r.closed[hold.from] = append(r.closed[hold.from], res.down...)
			}
		}
	}
	for k, list := range on {
		res := &m.res[k]
		slices.SortStableFunc(list, func(a, b held) int { return cmp.Or(cmp.Compare(a.begin, b.begin), cmp.Compare(a.end, b.end)) })
		for n := 1; n < len(list); n++ {
			a, b := &m.holds[list[n-1].hold], &m.holds[list[n].hold]
			if res.oven && list[n].begin == list[n-1].begin {
				r.batch[b.from] = r.batch[a.from]
				continue
			}
			gap := res.turn
			if res.oven && m.steps[a.from].family != m.steps[b.from].family {
				gap += res.change
			}
			// Whatever of the batch before ends last is over.
			for q := n - 1; q >= 0 && (q == n-1 || res.oven && list[q].begin == list[n-1].begin); q-- {
				prev := &m.holds[list[q].hold]
				lag := before{prev.to, prev.te, gap, none}
				if r.oven[b.from] != none {
					r.queue[b.from] = append(r.queue[b.from], lag)
				} else if b.fe == 0 {
					r.after[b.from] = append(r.after[b.from], lag)
				} else {
					r.ends[b.from] = append(r.ends[b.from], lag)
				}
			}
		}
	}
}

func (r *retimer) event(b before) int {
	lag := b.lag
	if b.link != none {
		lag = r.lags[b.link]
	}
	if b.event == 0 {
		return r.start[b.step] + lag
	}
	return r.end[b.step] + lag
}

// retime lays every step as early as its order allows, with the lengths that were drawn.
func (r *retimer) retime() {
	for k := range r.taken {
		r.taken[k] = r.taken[k][:0]
	}
	for _, i := range r.order {
		s := &r.m.steps[i]
		if s.fixed {
			r.start[i], r.end[i] = s.fs, s.fe
			for _, q := range s.fpeople {
				r.taken[q] = insert(r.taken[q], busy{int32(s.fs), int32(s.fe), int32(i)})
			}
			continue
		}
		ready, until := s.release, 0
		for _, b := range r.after[i] {
			ready = max(ready, r.event(b))
		}
		for _, b := range r.ends[i] {
			until = max(until, r.event(b))
		}
		if k := r.batch[i]; k != i { // those of its batch that are laid already wait for it no longer: it joins them, or they are late with it
			ready = max(ready, r.start[k])
		}
		if r.fills {
			r.start[i], r.end[i] = r.fill(i, ready, until)
			continue
		}
		for _, b := range r.queue[i] {
			ready = max(ready, r.event(b))
		}
		r.start[i], r.end[i] = r.lay(i, ready, until)
	}
}

// fill finds the first place of a step's drawn length in which its people, and the oven that it heats, have nothing else.
func (r *retimer) fill(i, ready, until int) (start, end int) {
	alone := r.oven[i] != none && r.batch[i] == i
	for {
		start, end = r.lay(i, ready, until)
		if end >= far {
			return far, far
		}
		next := start
		for _, q := range r.who[i] {
			if list := r.taken[q]; len(list) > 0 {
				if k := after(list, int32(end-1)); k > 0 && int(list[k-1].end) > start {
					next = max(next, int(list[k-1].end))
				}
			}
		}
		if alone {
			list, gap := r.taken[len(r.m.people)+r.oven[i]], r.m.res[r.oven[i]].turn
			if k := after(list, int32(end+gap-1)); k > 0 && int(list[k-1].end) > start {
				next = max(next, int(list[k-1].end))
			}
		}
		if next == start {
			break
		}
		ready = next
	}
	for _, q := range r.who[i] {
		r.taken[q] = insert(r.taken[q], busy{int32(start), int32(end), int32(i)})
	}
	if alone {
		k := len(r.m.people) + r.oven[i]
		r.taken[k] = insert(r.taken[k], busy{int32(start), int32(end + r.m.res[r.oven[i]].turn), int32(i)})
	}
	return start, end
}

// lay finds the first place of a step's drawn length.
func (r *retimer) lay(i, ready, until int) (start, end int) {
	n := r.length[i]
	if c := r.crew[i]; c != nil {
		k := sort.Search(len(c.slots), func(k int) bool { return int(c.slots[k]) >= ready })
		if !r.m.steps[i].split {
			for k < len(c.slots) && int(c.run[c.slots[k]]) < n {
				if next := k + int(c.run[c.slots[k]]); n > r.most(c) || next >= len(c.slots) {
					break // longer than any stretch: it is broken off, and gone on with
				} else {
					k = next
				}
			}
		}
		if k+n > len(c.slots) {
			return far, far // not within the horizon
		}
		start, end = int(c.slots[k]), int(c.slots[k+n-1])+1
	} else {
		start = max(ready, until-n)
		end = start + n
		for moved := true; moved; { // not while what holds it is out of service
			moved = false
			for _, d := range r.closed[i] {
				if start < d[1] && d[0] < end && n <= r.gap(i) {
					start, moved = d[1], true
					end = start + n
				}
			}
		}
		return start, max(end, until)
	}
	for _, d := range r.closed[i] {
		if start < d[1] && d[0] < end {
			return r.lay(i, d[1], until)
		}
	}
	return start, max(end, until)
}

// most is the longest stretch of a crew.
func (r *retimer) most(c *crewHours) int {
	most := int32(0)
	for k := 0; k < len(c.slots); k += int(c.run[c.slots[k]]) {
		most = max(most, c.run[c.slots[k]])
	}
	return int(most)
}

// gap is the longest stretch between times out of service.
func (r *retimer) gap(i int) int {
	last, most := 0, 0
	for _, d := range r.closed[i] {
		most, last = max(most, d[0]-last), d[1]
	}
	return max(most, r.m.h-last)
}

func (r *retimer) completion(j int) int {
	done := 0
	for _, i := range r.m.jobs[j].steps {
		done = max(done, r.end[i])
	}
	return done
}

// Earlier is a sound plan in which each step begins as soon as those before it are over, with who does what in which order on what as
// it is: what was left to begin later without gain hides why something is late. The plan itself where that breaks anything or makes it
// worse.
func Earlier(in *Instance, p *Plan) *Plan {
	m, bad := compile(in)
	if bad != nil {
		return p
	}
	r := newRetimer(m, p)
	for i := range m.steps {
		r.length[i] = m.steps[i].length
	}
	for l := range m.links {
		r.lags[l] = m.links[l].min
	}
	r.retime()
	out := *p
	out.Steps = slices.Clone(p.Steps)
	for k, row := range out.Steps {
		if i := m.stepNo[row.ID]; !m.steps[i].fixed {
			out.Steps[k].Start, out.Steps[k].End = r.start[i], r.end[i]
		}
	}
	o, broken := Check(in, &out)
	if len(broken) > 0 || p.Objective.Less(o) {
		return p
	}
	out.Objective = o
	return &out
}
