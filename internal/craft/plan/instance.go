// Package plan is the workshop planner of the handbook chapter on planning: who does what, where and when, so that every day is
// met if it can be. It takes an instance document and gives a plan document with its proven bounds, checks plans, says why a job is
// late and what would mend it, and plans again after a disturbance. Time is counted in slots from an origin; a slot is an elapsed time.
package plan

import (
	"fmt"
	"strings"
)

// InstanceFormat and Format name the documents.
const (
	InstanceFormat = "planner-instance/1"
	Format         = "plan/1"
)

// Interval is half open: [from, to), in slots.
type Interval [2]int

// Calendar is when somebody works. The two lists are sorted and share no slot.
type Calendar struct {
	ID       string     `json:"id"`
	Regular  []Interval `json:"regular"`
	Overtime []Interval `json:"overtime,omitempty"`
}

// Person has skills and one calendar.
type Person struct {
	ID       string   `json:"id"`
	Skills   []string `json:"skills"`
	Calendar string   `json:"calendar"`
}

// Resource types.
const (
	Mould   = "mould"
	Station = "station"
	Rack    = "rack"
	Oven    = "oven"
)

// Resource is a mould, a station, a rack or an oven.
type Resource struct {
	ID         string     `json:"id"`
	Type       string     `json:"type"`
	Capacity   int        `json:"capacity"`
	Turnaround int        `json:"turnaround,omitempty"`
	Changeover int        `json:"changeover,omitempty"`
	Life       *int       `json:"life,omitempty"`
	Used       int        `json:"used,omitempty"`
	Down       []Interval `json:"down,omitempty"`
}

// Job is complete when all its steps are.
type Job struct {
	ID     string `json:"id"`
	Due    *int   `json:"due,omitempty"`
	Weight *int   `json:"weight,omitempty"`
	Risk   int    `json:"risk,omitempty"`
	Buffer int    `json:"buffer,omitempty"`
}

// Use holds a resource from a step's start to its end.
type Use struct {
	Resource string   `json:"resource,omitempty"`
	AnyOf    []string `json:"any_of,omitempty"`
	Qty      int      `json:"qty,omitempty"`
}

// Step is hands-on (Work and Crew) or passive (Duration).
type Step struct {
	ID       string   `json:"id"`
	Job      string   `json:"job"`
	Kind     string   `json:"kind,omitempty"`
	Work     *int     `json:"work,omitempty"`
	Duration *int     `json:"duration,omitempty"`
	Crew     []string `json:"crew,omitempty"`
	People   []string `json:"people,omitempty"`
	Split    bool     `json:"split,omitempty"`
	Release  *int     `json:"release,omitempty"`
	Deadline *int     `json:"deadline,omitempty"`
	Family   string   `json:"family,omitempty"`
	Uses     []Use    `json:"uses,omitempty"`
}

// Link bounds the lag from an event of one step to an event of another.
type Link struct {
	From string `json:"from"`
	To   string `json:"to"`
	Type string `json:"type"`
	Min  int    `json:"min"`
	Max  *int   `json:"max,omitempty"`
}

// Hold keeps a resource from an event of one step to an event of another.
type Hold struct {
	ID        string   `json:"id"`
	Resource  string   `json:"resource,omitempty"`
	AnyOf     []string `json:"any_of,omitempty"`
	From      string   `json:"from"`
	FromEvent string   `json:"from_event"`
	To        string   `json:"to"`
	ToEvent   string   `json:"to_event"`
	Qty       int      `json:"qty,omitempty"`
}

// Fixed is a started or finished step.
type Fixed struct {
	Start     int               `json:"start"`
	End       int               `json:"end"`
	People    []string          `json:"people,omitempty"`
	Resources map[string]string `json:"resources,omitempty"`
	Counted   bool              `json:"counted,omitempty"`
}

// Base is a step as the plan in force has it.
type Base struct {
	ID        string            `json:"id"`
	Start     int               `json:"start"`
	People    []string          `json:"people,omitempty"`
	Resources map[string]string `json:"resources,omitempty"`
}

// Instance is what is to be planned.
type Instance struct {
	Format      string           `json:"format"`
	Name        string           `json:"name"`
	SlotMinutes int              `json:"slot_minutes"`
	Horizon     int              `json:"horizon"`
	Now         int              `json:"now"`
	Calendars   []Calendar       `json:"calendars"`
	People      []Person         `json:"people"`
	Resources   []Resource       `json:"resources"`
	Jobs        []Job            `json:"jobs"`
	Steps       []Step           `json:"steps"`
	Links       []Link           `json:"links"`
	Holds       []Hold           `json:"holds"`
	Fixed       map[string]Fixed `json:"fixed,omitempty"`
	Baseline    []Base           `json:"baseline,omitempty"`
	SoonWindow  int              `json:"soon_window,omitempty"`
}

// Placed is a step of a plan.
type Placed struct {
	ID        string            `json:"id"`
	Start     int               `json:"start"`
	End       int               `json:"end"`
	People    []string          `json:"people,omitempty"`
	Overtime  bool              `json:"overtime,omitempty"`
	Resources map[string]string `json:"resources,omitempty"`
}

// Objective is compared level by level; smaller is better. Slots, person-slots, steps, slots.
type Objective struct {
	Late     int `json:"late"`
	Overtime int `json:"overtime"`
	Moved    int `json:"moved"`
	Risk     int `json:"risk"`
}

// Less tells whether one is better than another.
func (o Objective) Less(p Objective) bool {
	switch {
	case o.Late != p.Late:
		return o.Late < p.Late
	case o.Overtime != p.Overtime:
		return o.Overtime < p.Overtime
	case o.Moved != p.Moved:
		return o.Moved < p.Moved
	}
	return o.Risk < p.Risk
}

// Bounds are below every plan of the instance. That of overtime holds for plans without lateness only, and is none where such a
// plan is not known.
type Bounds struct {
	Late     int  `json:"late"`
	Overtime *int `json:"overtime"`
}

// Plan is a plan document.
type Plan struct {
	Format     string    `json:"format"`
	Instance   string    `json:"instance"`
	Steps      []Placed  `json:"steps"`
	Objective  Objective `json:"objective"`
	Bounds     Bounds    `json:"bounds"`
	Status     string    `json:"status"`
	Seed       uint64    `json:"seed"`
	Iterations int       `json:"iterations"`
	Seconds    *float64  `json:"seconds,omitempty"`
}

// Error is why there is no plan: a code, the ids concerned and a sentence for the shop.
type Error struct {
	Status  string   `json:"status"` // invalid, or no_plan
	Code    string   `json:"error"`
	IDs     []string `json:"ids,omitempty"`
	Message string   `json:"message"`
	Proven  bool     `json:"proven,omitempty"`
	// Later is by how many slots the deadlines of IDs must move for the shortest extension with which a plan was found; of
	// E_INFEASIBLE only.
	Later int `json:"later,omitempty"`
}

func (e *Error) Error() string { return e.Message }

// Codes of an instance that cannot be planned.
const (
	EFormat     = "E_FORMAT"
	EDupID      = "E_DUP_ID"
	ERef        = "E_REF"
	EEmptyJob   = "E_EMPTY_JOB"
	ENoSkill    = "E_NO_SKILL"
	EWindow     = "E_WINDOW"
	ECapacity   = "E_CAPACITY"
	EFamily     = "E_FAMILY"
	EOvenStep   = "E_OVEN_STEP"
	ELife       = "E_LIFE"
	ECycle      = "E_CYCLE"
	ELag        = "E_LAG"
	EDeadline   = "E_DEADLINE"
	EInfeasible = "E_INFEASIBLE"
)

func invalid(code string, ids []string, format string, args ...any) *Error {
	return &Error{Status: "invalid", Code: code, IDs: ids, Message: fmt.Sprintf(format, args...)}
}

// weight is a job's lateness weight.
func (j Job) weight() int {
	if j.Weight == nil {
		return 1
	}
	return *j.Weight
}

// allHolds are the holds with the uses of steps written out as holds.
func (in *Instance) allHolds() []Hold {
	var out []Hold
	for _, h := range in.Holds {
		h.Qty = max(h.Qty, 1)
		out = append(out, h)
	}
	for _, s := range in.Steps {
		for n, u := range s.Uses {
			out = append(out, Hold{ID: fmt.Sprintf("%s#%d", s.ID, n+1), Resource: u.Resource, AnyOf: u.AnyOf, From: s.ID, FromEvent: "start", To: s.ID, ToEvent: "end", Qty: max(u.Qty, 1)})
		}
	}
	return out
}

// choices are the resources that a hold may take.
func (h Hold) choices() []string {
	if h.Resource != "" {
		return []string{h.Resource}
	}
	return h.AnyOf
}

func intervals(list []Interval) bool {
	last := 0
	for i, v := range list {
		if v[0] < 0 || v[1] <= v[0] || i > 0 && v[0] < last {
			return false
		}
		last = v[1]
	}
	return true
}

// format checks what can be said of the document without working anything out.
func (in *Instance) format() *Error {
	bad := func(id, format string, args ...any) *Error { return invalid(EFormat, []string{id}, format, args...) }
	switch in.SlotMinutes {
	case 5, 10, 15, 20, 30, 60:
	default:
		return bad("slot_minutes", "A slot is 5, 10, 15, 20, 30 or 60 minutes.")
	}
	switch {
	case in.Format != InstanceFormat:
		return bad("format", "The document is not a %s.", InstanceFormat)
	case in.Horizon < 1 || in.Horizon > 200_000:
		return bad("horizon", "The horizon is a number of slots from 1 to 200 000.")
	case in.Now < 0 || in.SoonWindow < 0:
		return bad("now", "Now and the window of what is soon cannot lie before the origin.")
	}
	for _, c := range in.Calendars {
		if !intervals(c.Regular) || !intervals(c.Overtime) {
			return bad(c.ID, "The hours of calendar %s are not sorted, or overlap.", c.ID)
		}
		for _, r := range c.Regular {
			for _, o := range c.Overtime {
				if r[0] < o[1] && o[0] < r[1] {
					return bad(c.ID, "Calendar %s has the same hours as regular and as overtime.", c.ID)
				}
			}
		}
	}
	for _, r := range in.Resources {
		switch r.Type {
		case Mould, Station, Rack, Oven:
		default:
			return bad(r.ID, "%s is a mould, a station, a rack or an oven; %q is none.", r.ID, r.Type)
		}
		switch {
		case r.Capacity < 1, r.Turnaround < 0, r.Changeover < 0, r.Used < 0, r.Life != nil && *r.Life < 0:
			return bad(r.ID, "The figures of %s contradict each other.", r.ID)
		case r.Type == Mould && r.Capacity != 1:
			return bad(r.ID, "A mould is filled once at a time: the capacity of %s is 1.", r.ID)
		case r.Type != Oven && r.Changeover != 0:
			return bad(r.ID, "Only an oven changes over; %s is none.", r.ID)
		case !intervals(r.Down):
			return bad(r.ID, "The times out of service of %s are not sorted, or overlap.", r.ID)
		}
	}
	for _, j := range in.Jobs {
		if j.weight() < 0 || j.Risk < 0 || j.Buffer < 0 {
			return bad(j.ID, "Weight, risk and buffer of %s are not below 0.", j.ID)
		}
	}
	for _, s := range in.Steps {
		switch {
		case (s.Work == nil) == (s.Duration == nil):
			return bad(s.ID, "%s is either worked at or waited for: it has work or a duration.", s.ID)
		case s.Work != nil && (*s.Work < 1 || len(s.Crew) == 0):
			return bad(s.ID, "%s is worked at: it needs at least a slot of work and a crew.", s.ID)
		case s.Duration != nil && (*s.Duration < 1 || len(s.Crew) > 0 || s.Split || len(s.People) > 0):
			return bad(s.ID, "%s is waited for: it lasts at least a slot, and nobody works at it.", s.ID)
		}
	}
	for _, l := range in.Links {
		switch l.Type {
		case "FS", "SS", "FF", "SF":
		default:
			return bad(l.From, "The link from %s to %s is FS, SS, FF or SF.", l.From, l.To)
		}
		if l.Max != nil && *l.Max < l.Min {
			return bad(l.From, "From %s to %s may pass %d slots at most and %d at least.", l.From, l.To, *l.Max, l.Min)
		}
	}
	event := func(e string) bool { return e == "start" || e == "end" }
	for _, h := range in.allHolds() {
		if (h.Resource == "") == (len(h.AnyOf) == 0) || h.Qty < 1 || !event(h.FromEvent) || !event(h.ToEvent) {
			return bad(h.ID, "%s holds one resource or one of a choice, from an event to an event.", h.ID)
		}
	}
	for id, f := range in.Fixed {
		if f.Start < 0 || f.End < f.Start {
			return bad(id, "%s was started after it ended.", id)
		}
	}
	return nil
}

// refs checks that ids are written once and every name is known.
func (in *Instance) refs() *Error {
	kinds := map[string]map[string]bool{}
	add := func(kind, id string) *Error {
		if kinds[kind] == nil {
			kinds[kind] = map[string]bool{}
		}
		if id == "" {
			return invalid(EFormat, nil, "A %s has no name.", kind)
		}
		if kinds[kind][id] {
			return invalid(EDupID, []string{id}, "There are two of %s %s.", kind, id)
		}
		kinds[kind][id] = true
		return nil
	}
	var err *Error
	try := func(e *Error) {
		if err == nil {
			err = e
		}
	}
	for _, c := range in.Calendars {
		try(add("calendar", c.ID))
	}
	for _, p := range in.People {
		try(add("person", p.ID))
	}
	for _, r := range in.Resources {
		try(add("resource", r.ID))
	}
	for _, j := range in.Jobs {
		try(add("job", j.ID))
	}
	for _, s := range in.Steps {
		try(add("step", s.ID))
	}
	for _, h := range in.allHolds() {
		try(add("hold", h.ID))
	}
	for _, b := range in.Baseline {
		try(add("step of the plan in force", b.ID))
	}
	need := func(kind, id, of string) {
		if !kinds[kind][id] {
			try(invalid(ERef, []string{of, id}, "%s names the %s %q, and there is none.", of, kind, id))
		}
	}
	for _, p := range in.People {
		need("calendar", p.Calendar, p.ID)
	}
	for _, s := range in.Steps {
		need("job", s.Job, s.ID)
		for _, p := range s.People {
			need("person", p, s.ID)
		}
	}
	for _, l := range in.Links {
		need("step", l.From, "a link")
		need("step", l.To, "a link")
	}
	holds := map[string]Hold{}
	for _, h := range in.allHolds() {
		holds[h.ID] = h
		need("step", h.From, h.ID)
		need("step", h.To, h.ID)
		for _, r := range h.choices() {
			need("resource", r, h.ID)
		}
	}
	rows := func(of string, people []string, resources map[string]string) {
		need("step", of, "what is fixed or in force")
		for _, p := range people {
			need("person", p, of)
		}
		for _, h := range sortedKeys(resources) {
			need("hold", h, of)
			need("resource", resources[h], of)
		}
	}
	for _, id := range sortedKeys(in.Fixed) {
		rows(id, in.Fixed[id].People, in.Fixed[id].Resources)
	}
	for _, b := range in.Baseline {
		rows(b.ID, b.People, b.Resources)
	}
	if err != nil {
		return err
	}
	has := map[string]bool{}
	for _, s := range in.Steps {
		has[s.Job] = true
	}
	for _, j := range in.Jobs {
		if !has[j.ID] {
			return invalid(EEmptyJob, []string{j.ID}, "%s has no step: nothing would be made.", j.ID)
		}
	}
	return nil
}

func listed(ids []string) string {
	const most = 6
	if len(ids) > most {
		return strings.Join(ids[:most], ", ") + fmt.Sprintf(" and %d more", len(ids)-most)
	}
	return strings.Join(ids, ", ")
}
