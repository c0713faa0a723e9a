package plan

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
)

// Violation is a rule that a plan breaks: its code, what it concerns and a sentence.
type Violation struct {
	Code   string   `json:"code"`
	IDs    []string `json:"ids"`
	Detail string   `json:"detail"`
}

func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// checker reads the instance as it is written, and shares nothing with the search: it is the second method.
type checker struct {
	in     *Instance
	steps  map[string]*Step
	people map[string]*Person
	res    map[string]*Resource
	hours  map[string][2][]bool // of a calendar: regular, overtime
	holds  []Hold
	at     map[string]Placed
	chosen map[string]string // of a hold
	out    []Violation
}

func (c *checker) say(code string, ids []string, format string, args ...any) {
	c.out = append(c.out, Violation{code, ids, fmt.Sprintf(format, args...)})
}

func filled(list []Interval, n int) []bool {
	out := make([]bool, n)
	for _, v := range list {
		for t := v[0]; t < min(v[1], n); t++ {
			out[t] = true
		}
	}
	return out
}

// Check holds a plan of an instance that is sound against every rule of section 3, and works its objective out anew.
func Check(in *Instance, p *Plan) (Objective, []Violation) {
	c := &checker{in: in, steps: map[string]*Step{}, people: map[string]*Person{}, res: map[string]*Resource{}, hours: map[string][2][]bool{}, holds: in.allHolds(), at: map[string]Placed{}, chosen: map[string]string{}}
	for i := range in.Steps {
		c.steps[in.Steps[i].ID] = &in.Steps[i]
	}
	for i := range in.People {
		c.people[in.People[i].ID] = &in.People[i]
	}
	for i := range in.Resources {
		c.res[in.Resources[i].ID] = &in.Resources[i]
	}
	for _, k := range in.Calendars {
		c.hours[k.ID] = [2][]bool{filled(k.Regular, in.Horizon), filled(k.Overtime, in.Horizon)}
	}
	c.rows(p)
	if len(c.out) > 0 { // there is nothing to hold against anything
		return Objective{}, c.out
	}
	for _, s := range in.Steps {
		c.step(&s)
	}
	c.links()
	c.persons()
	c.resources()
	return c.objective(), c.out
}

func (c *checker) rows(p *Plan) {
	of := map[string]string{}
	for _, h := range c.holds {
		begin := h.From
		of[h.ID] = begin
		if list := h.choices(); len(list) == 1 {
			c.chosen[h.ID] = list[0]
		}
	}
	for _, s := range p.Steps {
		switch {
		case c.steps[s.ID] == nil:
			c.say("V_UNKNOWN", []string{s.ID}, "%s is no step of this work.", s.ID)
			continue
		case func() bool { _, twice := c.at[s.ID]; return twice }():
			c.say("V_DUP", []string{s.ID}, "%s is planned twice.", s.ID)
			continue
		}
		c.at[s.ID] = s
		for _, n := range s.People {
			if c.people[n] == nil {
				c.say("V_UNKNOWN", []string{s.ID, n}, "%s is done by %s, whom nobody knows.", s.ID, n)
			}
		}
		for _, h := range sortedKeys(s.Resources) {
			if of[h] != s.ID {
				c.say("V_RESOURCE", []string{s.ID, h}, "%s does not begin with %s.", h, s.ID)
				continue
			}
			c.chosen[h] = s.Resources[h]
		}
	}
	for _, s := range c.in.Steps {
		if _, ok := c.at[s.ID]; !ok {
			c.say("V_MISSING", []string{s.ID}, "%s is not planned.", s.ID)
		}
	}
	for _, h := range c.holds {
		if r := c.chosen[h.ID]; !slices.Contains(h.choices(), r) {
			c.say("V_RESOURCE", []string{h.ID, r}, "%s takes %q, which is not among %s.", h.ID, r, listed(h.choices()))
		}
	}
}

func same(a, b []string) bool {
	return slices.Equal(slices.Sorted(slices.Values(a)), slices.Sorted(slices.Values(b)))
}

func (c *checker) step(s *Step) {
	p := c.at[s.ID]
	ids := []string{s.ID}
	if p.Start < 0 || p.End < p.Start {
		c.say("V_TIME", ids, "%s ends before it begins.", s.ID)
		return
	}
	if f, fixed := c.in.Fixed[s.ID]; fixed {
		moved := p.Start != f.Start || p.End != f.End || !same(p.People, f.People)
		for _, h := range sortedKeys(f.Resources) {
			moved = moved || c.chosen[h] != f.Resources[h]
		}
		if moved {
			c.say("V_FIXED", ids, "%s was begun or done already, and does not move.", s.ID)
		}
		return
	}
	from := c.in.Now
	if s.Release != nil {
		from = max(from, *s.Release)
	}
	if p.Start < from {
		c.say("V_RELEASE", ids, "%s begins before it may.", s.ID)
	}
	if p.End > c.in.Horizon {
		c.say("V_HORIZON", ids, "%s ends after the horizon.", s.ID)
	}
	if s.Deadline != nil && p.End > *s.Deadline {
		c.say("V_DEADLINE", ids, "%s ends after its deadline.", s.ID)
	}
	if s.Duration != nil {
		if p.End != p.Start+*s.Duration {
			c.say("V_DURATION", ids, "%s lasts %d slots, not %d.", s.ID, *s.Duration, p.End-p.Start)
		}
		if len(p.People) > 0 {
			c.say("V_CREW", ids, "Nobody works at %s.", s.ID)
		}
		return
	}
	if !c.crew(s, p.People) {
		c.say("V_CREW", ids, "%s cannot be done by %s: it takes %s.", s.ID, listed(p.People), listed(s.Crew))
		return
	}
	usable := c.usable(p)
	if p.Start >= c.in.Horizon || !usable(p.Start) {
		c.say("V_CALENDAR", ids, "%s begins when %s is not there.", s.ID, listed(p.People))
		return
	}
	t, left := p.Start, *s.Work
	for ; left > 0 && t < c.in.Horizon; t++ {
		if usable(t) {
			left--
		} else if !s.Split {
			c.say("V_CALENDAR", ids, "%s is done in one go, and %s leaves before.", s.ID, listed(p.People))
			return
		}
	}
	if left > 0 || t != p.End {
		c.say("V_DURATION", ids, "%s must end at %d, not %d.", s.ID, t, p.End)
	}
}

// usable tells of a slot whether all of a crew are there.
func (c *checker) usable(p Placed) func(t int) bool {
	return func(t int) bool {
		for _, n := range p.People {
			h := c.hours[c.people[n].Calendar]
			if t < 0 || t >= c.in.Horizon || !h[0][t] && (!p.Overtime || !h[1][t]) {
				return false
			}
		}
		return true
	}
}

// crew tells whether people fill a step's crew, one each.
func (c *checker) crew(s *Step, people []string) bool {
	if len(people) != len(s.Crew) || len(slices.Compact(slices.Sorted(slices.Values(people)))) != len(people) {
		return false
	}
	for _, n := range people {
		if len(s.People) > 0 && !slices.Contains(s.People, n) {
			return false
		}
	}
	var fill func(i int, used []bool) bool
	fill = func(i int, used []bool) bool {
		if i == len(s.Crew) {
			return true
		}
		for k, n := range people {
			if !used[k] && slices.Contains(c.people[n].Skills, s.Crew[i]) {
				used[k] = true
				if fill(i+1, used) {
					return true
				}
				used[k] = false
			}
		}
		return false
	}
	return fill(0, make([]bool, len(people)))
}

func (c *checker) event(step, event string) int {
	if event == "start" {
		return c.at[step].Start
	}
	return c.at[step].End
}

func (c *checker) fixed(step string) bool { _, is := c.in.Fixed[step]; return is }

// events are the events of a link's type.
func events(kind string) (from, to string) {
	name := map[byte]string{'F': "end", 'S': "start"}
	return name[kind[0]], name[kind[1]]
}

func (c *checker) links() {
	for _, l := range c.in.Links {
		if c.fixed(l.From) && c.fixed(l.To) {
			continue
		}
		from, to := events(l.Type)
		lag := c.event(l.To, to) - c.event(l.From, from)
		ids := []string{l.From, l.To}
		if lag < l.Min {
			c.say("V_MINLAG", ids, "From %s of %s to %s of %s are %d slots, and it takes %d.", from, l.From, to, l.To, lag, l.Min)
		}
		if l.Max != nil && lag > *l.Max {
			c.say("V_MAXLAG", ids, "From %s of %s to %s of %s are %d slots, and it may be %d.", from, l.From, to, l.To, lag, *l.Max)
		}
	}
}

func (c *checker) persons() {
	spans := map[string][]Placed{}
	for _, s := range c.in.Steps {
		for _, n := range c.at[s.ID].People {
			spans[n] = append(spans[n], c.at[s.ID])
		}
	}
	for _, n := range sortedKeys(spans) {
		list := spans[n]
		slices.SortFunc(list, func(a, b Placed) int { return cmp.Or(cmp.Compare(a.Start, b.Start), cmp.Compare(a.End, b.End)) })
		for i := 1; i < len(list); i++ {
			a, b := list[i-1], list[i]
			if b.Start < a.End && (!c.fixed(a.ID) || !c.fixed(b.ID)) {
				c.say("V_PERSON", []string{n, a.ID, b.ID}, "%s is at %s and at %s at once.", n, a.ID, b.ID)
			}
		}
	}
}

// span is a hold as it lies.
type span struct {
	hold       Hold
	begin, end int
	family     string
	fixed      bool // both its events are
}

func (c *checker) resources() {
	on := map[string][]span{}
	for _, h := range c.holds {
		s := span{h, c.event(h.From, h.FromEvent), c.event(h.To, h.ToEvent), c.steps[h.From].Family, c.fixed(h.From) && c.fixed(h.To)}
		if s.begin > s.end {
			c.say("V_HOLD", []string{h.ID}, "%s would end before it begins.", h.ID)
			continue
		}
		on[c.chosen[h.ID]] = append(on[c.chosen[h.ID]], s)
	}
	for _, r := range c.in.Resources {
		list := on[r.ID]
		slices.SortFunc(list, func(a, b span) int {
			return cmp.Or(cmp.Compare(a.begin, b.begin), cmp.Compare(a.end, b.end), cmp.Compare(a.hold.ID, b.hold.ID))
		})
		for _, s := range list {
			for _, d := range r.Down {
				if s.begin < d[1] && d[0] < s.end && !s.fixed {
					c.say("V_DOWN", []string{r.ID, s.hold.ID}, "%s is out of service while %s wants it.", r.ID, s.hold.ID)
				}
			}
		}
		switch {
		case r.Type == Oven:
			c.oven(r, list)
		case r.Capacity == 1:
			for i := 1; i < len(list); i++ {
				a, b := list[i-1], list[i]
				if b.begin < a.end+r.Turnaround && (!a.fixed || !b.fixed) {
					c.say("V_CAPACITY", []string{r.ID, a.hold.ID, b.hold.ID}, "%s is wanted by %s before it is free from %s.", r.ID, b.hold.ID, a.hold.ID)
				}
			}
		default:
			c.peak(r, list)
		}
		if r.Life != nil {
			n := 0
			for _, s := range list {
				if !c.in.Fixed[s.hold.From].Counted {
					n++
				}
			}
			if n > *r.Life-r.Used {
				c.say("V_LIFE", []string{r.ID}, "%s stands %d casts more, and %d are planned.", r.ID, *r.Life-r.Used, n)
			}
		}
	}
}

// peak walks over the changes of what is held.
func (c *checker) peak(r Resource, list []span) {
	type change struct{ at, by int }
	var all []change
	for _, s := range list {
		if s.begin < s.end {
			all = append(all, change{s.begin, s.hold.Qty}, change{s.end + r.Turnaround, -s.hold.Qty})
		}
	}
	slices.SortFunc(all, func(a, b change) int { return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(a.by, b.by)) })
	held := 0
	for _, ch := range all {
		if held += ch.by; held > r.Capacity {
			c.say("V_CAPACITY", []string{r.ID}, "%s is full at %d: %d of %d.", r.ID, ch.at, held, r.Capacity)
			return
		}
	}
}

func (c *checker) oven(r Resource, list []span) {
	load := map[int]int{}
	for i, a := range list {
		load[a.begin] += a.hold.Qty
		for _, b := range list[i+1:] {
			if a.fixed && b.fixed || a.begin == b.begin && a.end == b.end && a.family == b.family {
				continue
			}
			gap := r.Turnaround
			if a.family != b.family {
				gap += r.Changeover
			}
			if b.begin < a.end+gap {
				c.say("V_BATCH", []string{r.ID, a.hold.ID, b.hold.ID}, "In %s, %s and %s are neither one batch nor %d slots apart.", r.ID, a.hold.ID, b.hold.ID, gap)
			}
		}
	}
	for _, t := range slices.Sorted(maps.Keys(load)) {
		if load[t] > r.Capacity {
			c.say("V_CAPACITY", []string{r.ID}, "%s would hold %d at %d, and holds %d.", r.ID, load[t], t, r.Capacity)
		}
	}
}

// objective works out the four levels of what is planned.
func (c *checker) objective() Objective {
	var o Objective
	done := map[string]int{}
	for _, s := range c.in.Steps {
		p := c.at[s.ID]
		done[s.Job] = max(done[s.Job], p.End)
		if c.fixed(s.ID) || s.Duration != nil {
			continue
		}
		usable := c.usable(p)
		for t := p.Start; t < min(p.End, c.in.Horizon); t++ {
			if !usable(t) {
				continue
			}
			for _, n := range p.People {
				if c.hours[c.people[n].Calendar][1][t] {
					o.Overtime++
				}
			}
		}
	}
	for _, j := range c.in.Jobs {
		if j.Due != nil {
			o.Late += j.weight() * max(0, done[j.ID]-*j.Due)
			o.Risk += j.Risk * max(0, done[j.ID]-(*j.Due-j.Buffer))
		}
	}
	for _, b := range c.in.Baseline {
		if b.Start < c.in.Now+c.in.SoonWindow && !c.fixed(b.ID) {
			p := c.at[b.ID]
			moved := p.Start != b.Start || !same(p.People, b.People)
			for _, h := range sortedKeys(b.Resources) {
				moved = moved || c.chosen[h] != b.Resources[h]
			}
			if moved {
				o.Moved++
			}
		}
	}
	return o
}
