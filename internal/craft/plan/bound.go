package plan

import (
	"fmt"
	"slices"
)

func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// demand is work that must lie in a window: from its earliest start to its job's day less what follows it.
type demand struct {
	from, until, size int
	job               int
}

// supply is what a set of people or moulds can give from the window's begin on: given[t] slots before t.
type supply struct {
	all, regular []int // running sums over slots
	items        []demand
	extra        int  // beyond the window, once
	people       bool // B4 counts their overtime
}

// mostStarts bounds the windows of large instances; a bound of fewer windows holds as well.
const mostStarts = 48

// bounds are what no plan can do better than: critical path, hands, moulds (section 8).
func (m *model) bounds() Bounds {
	b1 := make([]int, len(m.jobs))
	sum := 0
	for j := range m.jobs {
		job := &m.jobs[j]
		if !job.has {
			continue
		}
		last := 0
		for _, i := range job.steps {
			last = max(last, m.steps[i].ee)
		}
		b1[j] = job.weight * max(0, last-job.due)
		sum += b1[j]
	}
	late, overtime := sum, 0
	tails := m.tails()
	for _, s := range append(m.hands(tails), m.tools(tails)...) {
		l, o := m.energy(s, b1, sum)
		late, overtime = max(late, l), max(overtime, o)
	}
	out := Bounds{Late: late}
	if late == 0 {
		out.Overtime = &overtime
	}
	return out
}

// tail is how long it takes at least from a step's end until its job, or one that waits for it, is complete: for every step the
// tightest job with its latest end, if there is one.
type tail struct {
	job, until int
}

// tails works back from the jobs that are due. Longest ways are relaxed along forward lags and lengths only, so that they end.
func (m *model) tails() []tail {
	n := 2 * len(m.steps)
	into := make([][]arc, n)
	for _, a := range m.arcs(false) {
		into[a.to] = append(into[a.to], a)
	}
	out := make([]tail, len(m.steps))
	latest := make([]int, n) // latest time of an event with every job on its day
	by := make([]int, n)
	for e := range latest {
		latest[e], by[e] = far, none
	}
	var queue []int
	for j := range m.jobs {
		job := &m.jobs[j]
		if !job.has || job.weight == 0 {
			continue
		}
		for _, i := range job.steps {
			if e := ev(i, 1); job.due < latest[e] {
				latest[e], by[e] = job.due, j
				queue = append(queue, e)
			}
		}
	}
	for n, most := 0, 60*len(latest)+1000; n < len(queue) && n < most; n++ {
		e := queue[n]
		for _, a := range into[e] {
			if v := latest[e] - a.lag; v < latest[a.from] {
				latest[a.from], by[a.from] = v, by[e]
				queue = append(queue, a.from)
			}
		}
		// Passive and unsplit steps end a fixed time after they begin; an end that must come early binds no start, a start that must
		// come early binds the end.
		if s := &m.steps[e/2]; e%2 == 0 && (s.passive || !s.split) && !s.fixed {
			if v := latest[e] + s.length; v < latest[e+1] {
				latest[e+1], by[e+1] = v, by[e]
				queue = append(queue, e+1)
			}
		}
	}
	for i := range out {
		out[i] = tail{by[ev(i, 1)], latest[ev(i, 1)]}
	}
	return out
}

// hands are the sets of people with the work that only they can do.
func (m *model) hands(tails []tail) []supply {
	type entry struct {
		step int
		who  []int
	}
	var entries []entry
	var sets [][]int
	add := func(set []int) {
		if len(set) > 0 && len(sets) < 64 && !slices.ContainsFunc(sets, func(o []int) bool { return slices.Equal(o, set) }) {
			sets = append(sets, set)
		}
	}
	for i, s := range m.in.Steps {
		if m.steps[i].passive || m.steps[i].fixed {
			continue
		}
		for _, skill := range s.Crew {
			var who []int
			for n, p := range m.in.People {
				if slices.Contains(p.Skills, skill) && (len(s.People) == 0 || slices.Contains(s.People, p.ID)) {
					who = append(who, n)
				}
			}
			entries = append(entries, entry{i, who})
			add(who)
		}
	}
	for _, a := range slices.Clone(sets) {
		for _, b := range slices.Clone(sets) {
			add(slices.Compact(slices.Sorted(slices.Values(append(slices.Clone(a), b...)))))
		}
	}
	var out []supply
	for _, set := range sets {
		s := supply{all: make([]int, m.h+1), regular: make([]int, m.h+1), people: true}
		for c := range m.hours {
			n := 0 // of the set keep these hours
			for _, p := range set {
				if m.people[p].cal == c {
					n++
				}
			}
			if n == 0 {
				continue
			}
			regular, all := 0, 0
			for t := range m.h {
				if m.hours[c][0][t] {
					regular, all = regular+n, all+n
				} else if m.hours[c][1][t] {
					all += n
				}
				s.regular[t+1] += regular
				s.all[t+1] += all
			}
		}
		for _, e := range entries {
			if tl := tails[e.step]; tl.job != none && !slices.ContainsFunc(e.who, func(p int) bool { return !slices.Contains(set, p) }) {
				st := &m.steps[e.step]
				s.items = append(s.items, demand{st.es, tl.until, st.length, tl.job})
			}
		}
		if len(s.items) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// tools are the sets of moulds and other single things with what only they can hold.
func (m *model) tools(tails []tail) []supply {
	var sets [][]int
	for i := range m.holds {
		h := &m.holds[i]
		if slices.ContainsFunc(h.choices, func(r int) bool { return !m.res[r].unit }) {
			continue
		}
		set := slices.Sorted(slices.Values(h.choices))
		if len(sets) < 64 && !slices.ContainsFunc(sets, func(o []int) bool { return slices.Equal(o, set) }) {
			sets = append(sets, set)
		}
	}
	var out []supply
	for _, set := range sets {
		s := supply{all: make([]int, m.h+1)}
		for _, r := range set {
			down := make([]bool, m.h)
			for _, d := range m.res[r].down { // its turnaround may run while it is out of service
				for t := d[0] + m.res[r].turn; t < min(d[1], m.h); t++ {
					down[t] = true
				}
			}
			n := 0
			for t := range m.h {
				if !down[t] {
					n++
				}
				s.all[t+1] += n
			}
			s.extra += m.res[r].turn
		}
		for i := range m.holds {
			h := &m.holds[i]
			st := &m.steps[h.from]
			if st.fixed || m.steps[h.to].fixed || slices.ContainsFunc(h.choices, func(r int) bool { return !slices.Contains(set, r) }) {
				continue
			}
			turn := far
			for _, r := range h.choices {
				turn = min(turn, m.res[r].turn)
			}
			from, until := st.es, tails[h.to].until
			if h.fe == 1 {
				from = st.ee
			}
			if h.te == 0 {
				until -= m.steps[h.to].length
			}
			if tails[h.to].job != none && h.least > 0 {
				s.items = append(s.items, demand{from, until, h.least + turn, tails[h.to].job})
			}
		}
		if len(s.items) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// energy holds the work of windows against what there is in them (B2, B3; B4 for the overtime of people).
func (m *model) energy(s supply, b1 []int, sum int) (late, overtime int) {
	slices.SortStableFunc(s.items, func(a, b demand) int { return a.until - b.until })
	var starts []int
	for _, it := range s.items {
		starts = append(starts, it.from)
	}
	slices.Sort(starts)
	starts = slices.Compact(starts)
	if len(starts) > mostStarts {
		thin := make([]int, 0, mostStarts)
		for k := range mostStarts {
			thin = append(thin, starts[k*len(starts)/mostStarts])
		}
		starts = thin
	}
	at := func(list []int, t int) int { return list[min(max(t, 0), m.h)] }
	in := make([]bool, len(m.jobs))
	for _, r := range starts {
		work, weight, own := 0, far, 0
		clear(in)
		for k, it := range s.items {
			if it.from < r {
				continue
			}
			work += it.size
			if !in[it.job] {
				in[it.job] = true
				weight = min(weight, m.jobs[it.job].weight)
				own += b1[it.job]
			}
			if k+1 < len(s.items) && s.items[k+1].until == it.until {
				continue
			}
			d := it.until
			if s.people {
				overtime = max(overtime, work-(at(s.regular, max(d, r))-at(s.regular, r)))
			}
			have := func(d int) int { return at(s.all, max(d, r)) - at(s.all, r) + s.extra }
			if have(d) >= work {
				continue
			}
			lo, hi := d, max(d, m.h)
			for lo+1 < hi { // have(hi) may be short even at the horizon: then hi it is
				if mid := (lo + hi) / 2; have(mid) >= work {
					hi = mid
				} else {
					lo = mid
				}
			}
			late = max(late, sum-own+max(own, weight*(hi-d)))
		}
	}
	return late, overtime
}
