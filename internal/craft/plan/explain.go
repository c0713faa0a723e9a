package plan

import (
	"cmp"
	"slices"
	"strings"
)

// Cause is a link of a binding chain: a step, where it lies, and what keeps it from beginning earlier.
type Cause struct {
	Step  string `json:"step"`
	Start int    `json:"start"`
	End   int    `json:"end"`
	Cause string `json:"cause"` // link, max_lag, person:ID, resource:ID, down:ID, release, start_of_plan, fixed, choice
	By    string `json:"by,omitempty"`
	Ready int    `json:"ready"`
}

// LateJob is a job that is not complete on its day, with the chain that binds it, the last step first.
type LateJob struct {
	Job      string  `json:"job"`
	Lateness int     `json:"lateness"`
	Chain    []Cause `json:"chain"`
}

// Explain says of every late job of a sound plan why it is late (section 9), the latest first.
func Explain(in *Instance, p *Plan) ([]LateJob, error) {
	return explain(in, p, func(_ string, late int) bool { return late > 0 })
}

// ExplainJobs says of jobs, late or not, what keeps them from being done earlier, the tightest first; before its day a lateness is
// below 0.
func ExplainJobs(in *Instance, p *Plan, jobs []string) ([]LateJob, error) {
	return explain(in, p, func(job string, _ int) bool { return slices.Contains(jobs, job) })
}

func explain(in *Instance, p *Plan, asked func(job string, late int) bool) ([]LateJob, error) {
	m, bad := compile(in)
	if bad != nil {
		return nil, bad
	}
	e := explainer{m: m, at: make([]Placed, len(m.steps)), res: make([]int, len(m.holds))}
	for _, row := range p.Steps {
		e.at[m.stepNo[row.ID]] = row
	}
	names := map[string]int{}
	for r := range m.res {
		names[m.res[r].id] = r
	}
	for h := range m.holds {
		hold := &m.holds[h]
		e.res[h] = hold.choices[0]
		if r, ok := e.at[hold.from].Resources[hold.id]; ok {
			e.res[h] = names[r]
		}
	}
	out := []LateJob{}
	for j := range m.jobs {
		job := &m.jobs[j]
		if !job.has {
			continue
		}
		last := job.steps[0]
		for _, i := range job.steps {
			if e.at[i].End > e.at[last].End {
				last = i
			}
		}
		if late := e.at[last].End - job.due; asked(in.Jobs[j].ID, late) {
			out = append(out, LateJob{in.Jobs[j].ID, late, e.chain(last)})
		}
	}
	slices.SortStableFunc(out, func(a, b LateJob) int { return cmp.Compare(b.Lateness, a.Lateness) })
	return out, nil
}

type explainer struct {
	m   *model
	at  []Placed
	res []int // of every hold
}

func (e *explainer) chain(i int) []Cause {
	var out []Cause
	seen := map[int]bool{}
	for i != none && !seen[i] {
		seen[i] = true
		c, next := e.cause(i)
		out = append(out, c)
		i = next
	}
	return out
}

func (e *explainer) event(i, event int) int {
	if event == 0 {
		return e.at[i].Start
	}
	return e.at[i].End
}

// cause is what fixes the start of a step, and the step that is to be asked next.
func (e *explainer) cause(i int) (Cause, int) {
	s, row := &e.m.steps[i], e.at[i]
	is := Cause{Step: s.id, Start: row.Start, End: row.End, Ready: row.Start}
	if s.fixed {
		is.Cause = "fixed"
		return is, none
	}
	type candidate struct {
		cause string
		ready int
		by    int
	}
	var all []candidate
	add := func(cause string, ready, by int) { all = append(all, candidate{cause, ready, by}) }
	length := row.End - row.Start
	for _, l := range s.in {
		ml := &e.m.links[l]
		if ml.from == i {
			continue
		}
		ready := e.event(ml.from, ml.fe) + ml.min
		if ml.te == 1 {
			ready -= length
		}
		add("link", ready, ml.from)
	}
	for _, l := range s.out {
		if ml := &e.m.links[l]; ml.bounded && ml.to != i {
			ready := e.event(ml.to, ml.te) - ml.max
			if ml.fe == 1 {
				ready -= length
			}
			add("max_lag", ready, ml.to)
		}
	}
	for _, n := range row.People {
		for k, o := range e.at {
			if k != i && o.End <= row.Start && slices.Contains(o.People, n) {
				add("person:"+n, o.End, k)
			}
		}
	}
	for _, h := range s.begins {
		hold := &e.m.holds[h]
		res := &e.m.res[e.res[h]]
		begin := e.event(i, hold.fe)
		off := begin - row.Start // from the start to the hold's begin
		for o := range e.m.holds {
			other := &e.m.holds[o]
			if o == h || e.res[o] != e.res[h] {
				continue
			}
			end := e.event(other.to, other.te)
			if !res.unit && !res.oven && e.load(e.res[h], end+res.turn-1, h)+hold.qty <= res.capacity {
				continue // there was room beside it
			}
			if ready := end + res.turn + e.changeover(res, i, other.from); end <= begin && other.to != i {
				add("resource:"+res.id, ready-off, other.to)
			}
		}
		for _, d := range res.down {
			if d[1] <= begin {
				add("down:"+res.id, d[1]-off, none)
			}
		}
	}
	if s.release > e.m.now {
		add("release", s.release, none)
	} else {
		add("start_of_plan", e.m.now, none)
	}
	// Tight is what leaves no earlier legal start to this crew.
	next := func(ready int) int { return ready }
	if !s.passive {
		for k := range s.modes {
			if md := &s.modes[k]; md.ot == row.Overtime && same(e.names(s.crews[md.crew].people), row.People) {
				next = func(ready int) int { return e.m.start(md, ready) }
			}
		}
	}
	tight := slices.DeleteFunc(all, func(c candidate) bool { return c.ready > row.Start || next(c.ready) != row.Start })
	if forward := slices.DeleteFunc(slices.Clone(tight), func(c candidate) bool { return c.cause == "max_lag" }); len(forward) > 0 {
		tight = forward
	}
	if len(tight) == 0 {
		is.Cause = "choice"
		return is, none
	}
	bare := func(c candidate) int {
		if c.cause == "release" || c.cause == "start_of_plan" {
			return 1
		}
		return 0
	}
	best := slices.MinFunc(tight, func(a, b candidate) int {
		return cmp.Or(cmp.Compare(b.ready, a.ready), cmp.Compare(bare(a), bare(b)), strings.Compare(a.cause, b.cause), strings.Compare(e.name(a.by), e.name(b.by)))
	})
	is.Cause, is.Ready, is.By = best.cause, best.ready, e.name(best.by)
	return is, best.by
}

// load is how much of a resource is taken in a slot by other holds than one.
func (e *explainer) load(r, slot, but int) int {
	sum := 0
	for o := range e.m.holds {
		hold := &e.m.holds[o]
		begin, end := e.event(hold.from, hold.fe), e.event(hold.to, hold.te)
		if o != but && e.res[o] == r && begin < end && begin <= slot && slot < end+e.m.res[r].turn {
			sum += hold.qty
		}
	}
	return sum
}

func (e *explainer) changeover(res *mres, a, b int) int {
	if res.oven && e.m.steps[a].family != e.m.steps[b].family {
		return res.change
	}
	return 0
}

func (e *explainer) name(i int) string {
	if i == none {
		return ""
	}
	return e.m.steps[i].id
}

func (e *explainer) names(people []int) []string {
	out := make([]string, len(people))
	for k, p := range people {
		out[k] = e.m.people[p].id
	}
	return out
}
