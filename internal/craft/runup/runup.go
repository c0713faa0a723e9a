// Package runup makes a planner's instance of what a shop has to do before its shooting days — sessions that are open or still to
// begin, copies that are half finished, what is only to be packed — and puts a plan of it into the words of the shop.
package runup

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/plan"
)

// Skills that a step asks for: any pair of hands; those of a craft, for who has them; and one that may judge, pack and sign.
const (
	Hands     = "hands"
	Sculpting = "sculpt"
	Moulding  = "mould"
	Making    = "make"   // from the first coat to the demould
	Finishing = "finish" // seams, edges, colour, hair
	Judge     = "judge"
)

// Crafts are those that somebody may have, or not.
var Crafts = []string{Sculpting, Moulding, Making, Finishing}

// Person is somebody with their hours, in slots.
type Person struct {
	ID       string
	Judges   bool
	Crafts   []string // those that they have; none set: all of them
	Regular  []plan.Interval
	Overtime []plan.Interval
}

// Mould is one that stands in the shop; it is dry from a slot on, and stands so many casts more, none for no end.
type Mould struct {
	Code  string
	Ready int
	Left  *int
}

// NewMould is one that is still to be built: hands, then it sets and dries.
type NewMould struct {
	Code     string
	Piece    string
	Job      string // the first that needs it
	HandsMin float64
	DryMin   float64
	ShapeMin float64 // hands that the shape of its sculpt still takes, before all else
	ClayMin  float64 // hands that the sculpt's texture still takes before it
}

// Oven is one that bakes; all of a batch go in together.
type Oven struct {
	Code  string
	Takes int             // so many moulds at once
	Down  []plan.Interval // hours with nobody in, where it may not be hot alone
}

// Stage is a stage of a session: hands, then a wait.
type Stage struct {
	Act      string
	HandsMin float64 // for all copies of the session
	WaitMin  float64
	MostMin  float64 // the wait may last no longer; 0 for no end
	Oven     string  // programme; empty where it waits anywhere
	With     string  // what it takes, in words
}

// Session makes copies of a piece, or what is left of it to do.
type Session struct {
	Code   string // of the open run, else what it is called until it has one
	Name   string // in words, where that is not its code
	Piece  string
	Copies int
	Open   bool     // it was begun: its mould is held
	From   int      // no earlier
	Lacks  string   // what is not here before that; empty where it is the session itself that is not ready
	Stages []Stage  // those that are not done
	Moulds []string // one of them; none where it is built without
	Job    string
}

// Copy is one that was made and is not done yet.
type Copy struct {
	Code      string
	Piece     string
	FinishMin float64 // hands that its list still takes; 0 when it waits for its verdict
	Good      bool    // accepted: it is only packed
	Job       string
}

// Job is what a day takes of a piece.
type Job struct {
	ID     string
	Piece  string
	Due    int
	Weight int
	Buffer int
	From   int      // it is packed no earlier: its copies are worn until then
	After  []string // sessions and copies of other jobs that it shares, by code
}

// Besides is something else that somebody does: a meeting, a repair, a further mould of a piece.
type Besides struct {
	ID       string
	Text     string
	Mould    string // the piece that it is a mould of; empty for what is no mould
	Minutes  float64
	Release  int
	Deadline *int
	Person   string // who does it; empty for anybody
}

// Pin is a step that stays where somebody put it.
type Pin struct {
	Start, End int
	Person     string
}

// Shop is all of it.
type Shop struct {
	Name        string
	SlotMinutes int
	Now         int
	Horizon     int
	People      []Person
	Moulds      []Mould
	NewMoulds   []NewMould
	Ovens       []Oven
	Racks       int // so many copies that dry stand on the racks at once; 0 where nobody said
	Jobs        []Job
	Sessions    []Session
	Copies      []Copy
	FinishMin   map[string]float64 // of a piece: hands that finishing one copy takes
	FinishWait  map[string]float64 // and how long its colours and seals dry meanwhile, minutes
	CheckMin    map[string]float64 // of a piece: hands that judging one copy takes; ours where none is known
	PackMin     map[string]float64 // and packing what a day takes
	Besides     []Besides
	Pins        map[string]Pin // by step
	Baseline    []plan.Base
	SoonWindow  int
}

// Figures of ours, minutes, until the shop's own are learned.
const (
	CheckMin = 10
	PackMin  = 15
	LeastMin = 5 // of any stage
)

// Label says what a step is.
type Label struct {
	Piece  string `json:"piece"`
	Code   string `json:"code" doc:"the run or the copy"`
	Act    string `json:"act"`
	Copies int    `json:"copies"`
	Wait   bool   `json:"wait" doc:"nobody's hands"`
	Kind   string `json:"kind" doc:"what it is a step of: run, session, copy, day, mould, clay, other"`
	With   string `json:"with" doc:"what it takes"`
}

// Kinds of what a step is a step of: a run that is open, a session that nobody began, a copy, what a day takes, a mould that is built,
// its
// sculpt, other work.
const (
	OfRun     = "run"
	OfSession = "session"
	OfCopy    = "copy"
	OfDay     = "day"
	OfMould   = "mould"
	OfClay    = "clay"
	OfOther   = "other"
)

// Text is a label in a few words.
func (l Label) Text() string {
	if l.Kind == OfMould {
		return "build a mould for " + l.Piece
	}
	if l.Copies > 1 {
		return fmt.Sprintf("%s %s, %d", l.Code, l.Act, l.Copies)
	}
	return strings.TrimSpace(l.Code + " " + l.Act)
}

// longWork is from how many minutes on a piece of work may pause overnight.
const longWork = 120

// ovenSlack is how long what is gelled may stand before it is in the oven, minutes.
const ovenSlack = 30

// Instance makes the planner's document, and says of every step what it is.
func (s Shop) Instance() (*plan.Instance, map[string]Label) {
	in := &plan.Instance{
		Format:      plan.InstanceFormat,
		Name:        s.Name,
		SlotMinutes: s.SlotMinutes,
		Horizon:     s.Horizon,
		Now:         s.Now,
		SoonWindow:  s.SoonWindow,
		Calendars:   []plan.Calendar{},
		People:      []plan.Person{},
		Resources:   []plan.Resource{},
		Jobs:        []plan.Job{},
		Steps:       []plan.Step{},
		Links:       []plan.Link{},
		Holds:       []plan.Hold{},
	}
	labels := map[string]Label{}
	for _, p := range s.People {
		in.Calendars = append(in.Calendars, plan.Calendar{ID: p.ID, Regular: p.Regular, Overtime: p.Overtime})
		skills := []string{Hands}
		for _, c := range Crafts {
			if len(p.Crafts) == 0 || slices.Contains(p.Crafts, c) {
				skills = append(skills, c)
			}
		}
		if p.Judges {
			skills = append(skills, Judge)
		}
		in.People = append(in.People, plan.Person{ID: p.ID, Skills: skills, Calendar: p.ID})
	}
	known := map[string]bool{}
	for _, m := range s.Moulds {
		r := plan.Resource{ID: m.Code, Type: plan.Mould, Capacity: 1, Life: m.Left}
		if m.Ready > 0 {
			r.Down = []plan.Interval{{0, min(m.Ready, s.Horizon)}}
		}
		in.Resources = append(in.Resources, r)
		known[m.Code] = true
	}
	for _, o := range s.Ovens {
		in.Resources = append(
			in.Resources,
			plan.Resource{ID: o.Code, Type: plan.Oven, Capacity: max(1, o.Takes), Turnaround: s.slots(30), Down: o.Down},
		)
	}
	if s.Racks > 0 {
		in.Resources = append(in.Resources, plan.Resource{ID: Racks, Type: plan.Rack, Capacity: s.Racks})
	}
	fresh := map[string]NewMould{}
	for _, m := range s.NewMoulds {
		in.Resources = append(in.Resources, plan.Resource{ID: m.Code, Type: plan.Mould, Capacity: 1})
		known[m.Code], fresh[m.Code] = true, m
		st := s.hands(m.Code+".build", m.Job, m.HandsMin, Moulding, 0)
		in.Steps = append(in.Steps, st)
		labels[st.ID] = Label{Piece: m.Piece, Code: m.Code, Act: BuildMould, Kind: OfMould}
		next := st.ID
		for _, clay := range []struct {
			id, act string
			minutes float64
		}{{"texture", TextureClay, m.ClayMin}, {"shape", ShapeClay, m.ShapeMin}} { // from the mould backwards
			if clay.minutes > 0 {
				id := m.Code + "." + clay.id
				in.Steps = append(in.Steps, s.hands(id, m.Job, clay.minutes, Sculpting, 0))
				labels[id] = Label{Piece: m.Piece, Code: m.Piece, Act: clay.act, Kind: OfClay}
				s.after(in, id, next, 0, 0)
				next = id
			}
		}
	}
	last := map[string]string{} // of a session or a copy: its last step
	for _, x := range s.Sessions {
		last[x.Code] = s.session(in, labels, x, known)
		for _, m := range x.Moulds {
			if f, is := fresh[m]; is && len(x.Stages) > 0 {
				s.after(in, m+".build", x.Code+".1", s.slots(f.DryMin), 0)
			}
		}
	}
	for _, c := range s.Copies {
		if c.Good {
			continue // it is only packed
		}
		m := made{
			code:    c.Code,
			name:    c.Code,
			piece:   c.Piece,
			job:     c.Job,
			minutes: c.FinishMin,
			copies:  1,
			kind:    OfCopy,
			racks:   min(1, s.Racks),
		}
		s.onRack(in, labels, &m)
		last[c.Code] = s.finish(in, labels, m)
	}
	for _, j := range s.Jobs {
		due, weight := j.Due, max(1, j.Weight)
		id := j.ID + ".pack"
		in.Jobs = append(in.Jobs, plan.Job{ID: j.ID, Due: &due, Weight: &weight, Risk: 1, Buffer: j.Buffer})
		in.Steps = append(in.Steps, s.hands(id, j.ID, orOurs(s.PackMin[j.Piece], PackMin), Judge, j.From))
		labels[id] = Label{Piece: j.Piece, Code: j.Piece, Act: "pack", Kind: OfDay}
		for _, before := range s.before(j) {
			if last[before] != "" {
				in.Links = append(in.Links, plan.Link{From: last[before], To: id, Type: "FS"})
			}
		}
	}
	for _, b := range s.Besides {
		in.Jobs = append(in.Jobs, plan.Job{ID: b.ID})
		l, skill := Label{Code: b.Text, Kind: OfOther}, Hands
		if b.Mould != "" {
			l, skill = Label{Piece: b.Mould, Code: b.Text, Act: BuildMould, Kind: OfMould}, Moulding
		}
		st := s.hands(b.ID+".do", b.ID, b.Minutes, skill, b.Release)
		st.Deadline = b.Deadline
		if b.Person != "" {
			st.People = []string{b.Person}
		}
		in.Steps = append(in.Steps, st)
		labels[st.ID] = l
	}
	for i := range in.Steps {
		if pin, is := s.Pins[in.Steps[i].ID]; is && pin.Start >= s.Now {
			st := &in.Steps[i]
			st.Release, st.Deadline, st.People = &pin.Start, &pin.End, []string{pin.Person}
		}
	}
	in.Baseline = s.still(in)
	return in, labels
}

// still is what of the plan in force there still is to be done, by people and on things that there are.
func (s Shop) still(in *plan.Instance) []plan.Base {
	known := func(list []string, id string) bool { return slices.Contains(list, id) }
	var steps, people, things []string
	holds := map[string]bool{}
	for _, st := range in.Steps {
		if _, fixed := in.Fixed[st.ID]; !fixed {
			steps = append(steps, st.ID)
		}
	}
	for _, p := range in.People {
		people = append(people, p.ID)
	}
	for _, r := range in.Resources {
		things = append(things, r.ID)
	}
	for _, h := range in.Holds {
		holds[h.ID] = true
	}
	slices.Sort(steps)
	var out []plan.Base
	for _, b := range s.Baseline {
		if _, open := slices.BinarySearch(steps, b.ID); !open || slices.ContainsFunc(b.People, func(n string) bool { return !known(people, n) }) {
			continue
		}
		on := map[string]string{}
		for h, r := range b.Resources {
			if holds[h] && known(things, r) {
				on[h] = r
			}
		}
		if b.Resources = on; len(on) == 0 {
			b.Resources = nil
		}
		out = append(out, b)
	}
	return out
}

// What hands do before there is anything to fill.
const (
	ShapeClay   = "shape the sculpt"
	TextureClay = "texture the sculpt"
	BuildMould  = "build the mould"
)

// Racks are those of the shop together, on which copies stand while they dry.
const Racks = "the racks"

// IsOven says whether a thing of the plan is an oven.
func (s Shop) IsOven(id string) bool {
	return slices.ContainsFunc(s.Ovens, func(o Oven) bool { return o.Code == id })
}

// OvensDown says whether an oven stands still while nobody is in.
func (s Shop) OvensDown() bool {
	return slices.ContainsFunc(s.Ovens, func(o Oven) bool { return len(o.Down) > 0 })
}

// Alone are the ovens with nobody beside them.
func (s Shop) Alone() []Oven {
	out := slices.Clone(s.Ovens)
	for i := range out {
		out[i].Down = nil
	}
	return out
}

// use is a place in one of the ovens.
func (s Shop) use() plan.Use {
	if len(s.Ovens) == 1 {
		return plan.Use{Resource: s.Ovens[0].Code, Qty: 1}
	}
	u := plan.Use{Qty: 1}
	for _, o := range s.Ovens {
		u.AnyOf = append(u.AnyOf, o.Code)
	}
	return u
}

func (s Shop) slots(minutes float64) int {
	return int(math.Ceil(minutes/float64(s.SlotMinutes) - 1e-9))
}

// before are the codes that a job waits for.
func (s Shop) before(j Job) []string {
	out := slices.Clone(j.After)
	for _, x := range s.Sessions {
		if x.Job == j.ID {
			out = append(out, x.Code)
		}
	}
	for _, c := range s.Copies {
		if c.Job == j.ID {
			out = append(out, c.Code)
		}
	}
	return out
}

func (s Shop) hands(id, job string, minutes float64, skill string, from int) plan.Step {
	work := max(1, s.slots(max(minutes, LeastMin)))
	st := plan.Step{ID: id, Job: job, Kind: skill, Work: &work, Crew: []string{skill}, Split: minutes > longWork}
	if from > s.Now {
		st.Release = &from
	}
	return st
}

// session writes the stages of a session down, each after the one before and its wait, and then the finishing of its copies.
func (s Shop) session(in *plan.Instance, labels map[string]Label, x Session, known map[string]bool) string {
	prev, wait, most := "", 0, 0 // the step before, and how long its wait lasts
	first := ""
	for n, st := range x.Stages {
		id := fmt.Sprintf("%s.%d", x.Code, n+1)
		from := 0
		if n == 0 {
			from = x.From
		}
		in.Steps = append(in.Steps, s.hands(id, x.Job, st.HandsMin, Making, from))
		labels[id] = Label{Piece: x.Piece, Code: x.name(), Act: st.Act, Copies: x.Copies, Kind: x.kind(), With: st.With}
		s.after(in, prev, id, wait, most)
		if first == "" {
			first = id
		}
		prev, wait, most = id, s.slots(st.WaitMin), 0
		if st.MostMin > 0 && st.MostMin >= st.WaitMin {
			most = max(wait, int(st.MostMin/float64(s.SlotMinutes)))
		}
		if st.Oven != "" && wait > 0 && len(s.Ovens) > 0 {
			bake := id + ".oven"
			duration := s.together(st.Oven, wait)
			in.Steps = append(
				in.Steps,
				plan.Step{
					ID:       bake,
					Job:      x.Job,
					Kind:     "oven",
					Duration: &duration,
					Family:   fmt.Sprintf("%s, %d", st.Oven, duration),
					Uses:     []plan.Use{s.use()},
				},
			)
			labels[bake] = Label{Piece: x.Piece, Code: x.name(), Act: st.Act, Copies: x.Copies, Wait: true, Kind: x.kind()}
			s.after(in, id, bake, 0, s.slots(ovenSlack))
			prev, wait, most = bake, 0, 0
		}
	}
	to := made{
		code:    x.Code,
		name:    x.name(),
		piece:   x.Piece,
		job:     x.Job,
		minutes: s.FinishMin[x.Piece] * float64(x.Copies),
		copies:  x.Copies,
		kind:    x.kind(),
		after:   prev,
		wait:    wait,
		stands:  prev,
		event:   "end",
		racks:   min(x.Copies, s.Racks),
	}
	if len(x.Moulds) == 0 { // what is in no mould stands on a rack from its first coat on, the others from when they are out
		to.stands = first
	}
	if x.Open && first != "" && len(x.Moulds) > 0 && known[x.Moulds[0]] {
		hold := x.Code + ".mould"
		id := s.begun(in, labels, to, map[string]string{hold: x.Moulds[0]})
		in.Holds = append(
			in.Holds,
			plan.Hold{ID: hold, AnyOf: x.Moulds[:1], From: id, FromEvent: "start", To: prev, ToEvent: "end"},
		)
	} else if moulds := slices.DeleteFunc(slices.Clone(x.Moulds), func(m string) bool { return !known[m] }); len(moulds) > 0 && first != "" {
		in.Holds = append(in.Holds, plan.Hold{ID: x.Code + ".mould", AnyOf: moulds, From: first, FromEvent: "start", To: prev, ToEvent: "end"})
	}
	if x.Open && len(x.Moulds) == 0 {
		s.onRack(in, labels, &to)
	}
	return s.finish(in, labels, to)
}

func (x Session) name() string { return cmp.Or(x.Name, x.Code) }

func (x Session) kind() string {
	if x.Open {
		return OfRun
	}
	return OfSession
}

// orOurs is a figure, or ours where it is not known.
func orOurs(x, ours float64) float64 {
	if x > 0 {
		return x
	}
	return ours
}

// together is how long a bake lasts when it shares the oven with those of its programme that last about as long: as long as the
// longest of them.
func (s Shop) together(programme string, slots int) int {
	var all []int
	for _, x := range s.Sessions {
		for _, st := range x.Stages {
			if st.Oven == programme {
				all = append(all, s.slots(st.WaitMin))
			}
		}
	}
	slices.Sort(all)
	for i := 0; i < len(all); { // from the shortest on, those that are not much longer
		k := i
		for k < len(all) && float64(all[k]) <= likeAs*float64(all[i]) {
			k++
		}
		if slots <= all[k-1] {
			return all[k-1]
		}
		i = k
	}
	return slots
}

// likeAs is how much longer a bake may last than the shortest of its batch: our own figure.
const likeAs = 1.2

// begun is a step that is over: what it holds, it held since before now, so that nobody else takes it.
func (s Shop) begun(in *plan.Instance, labels map[string]Label, of made, holds map[string]string) string {
	id := of.code + ".begun"
	one := 1
	in.Steps = append(in.Steps, plan.Step{ID: id, Job: of.job, Kind: "begun", Duration: &one})
	labels[id] = Label{Piece: of.piece, Code: of.code, Act: "begun", Copies: of.copies, Wait: true, Kind: of.kind}
	if in.Fixed == nil {
		in.Fixed = map[string]plan.Fixed{}
	}
	in.Fixed[id] = plan.Fixed{Start: max(0, s.Now-1), End: max(0, s.Now-1) + 1, Resources: holds, Counted: true}
	return id
}

// onRack lets what was made already stand on the racks since before now, as far as there is room: what is beyond it stands elsewhere.
func (s Shop) onRack(in *plan.Instance, labels map[string]Label, of *made) {
	taken := 0
	for _, h := range in.Holds {
		if _, since := in.Fixed[h.From]; since && h.Resource == Racks {
			taken += h.Qty
		}
	}
	if of.racks = min(of.racks, s.Racks-taken); of.racks > 0 {
		of.stands, of.event = s.begun(in, labels, *of, nil), "start"
	}
}

// after links a step to the one before it.
func (s Shop) after(in *plan.Instance, prev, id string, min, most int) {
	if prev == "" {
		return
	}
	l := plan.Link{From: prev, To: id, Type: "FS", Min: min}
	if most > 0 {
		l.Max = &most
	}
	in.Links = append(in.Links, l)
}

// made is what was made, or will be, as it goes on to be finished and judged.
type made struct {
	code, name, piece, job, kind string
	minutes                      float64 // hands that finishing it takes
	copies                       int
	after                        string // the step before; none where it is there
	wait                         int    // slots from that step on
	stands, event                string // from when on it keeps its places on the racks
	racks                        int    // so many; 0 where it keeps none
}

// finish writes down what comes after copies were made: their list, their verdict. The last step is given back.
func (s Shop) finish(in *plan.Instance, labels map[string]Label, m made) string {
	wait, prev := m.wait, m.after
	stand := func(from, event, to string) {
		if m.racks > 0 && from != "" {
			in.Holds = append(
				in.Holds,
				plan.Hold{
					ID:        to + ".rack",
					Resource:  Racks,
					From:      from,
					FromEvent: event,
					To:        to,
					ToEvent:   "start",
					Qty:       m.racks,
				},
			)
		}
	}
	if m.minutes > 0 {
		id := m.code + ".finish"
		in.Steps = append(in.Steps, s.hands(id, m.job, m.minutes, Finishing, 0))
		labels[id] = Label{Piece: m.piece, Code: m.name, Act: "finish", Copies: m.copies, Kind: m.kind}
		s.after(in, prev, id, wait, 0)
		stand(m.stands, m.event, id)
		prev, wait, m.stands, m.event = id, s.slots(s.FinishWait[m.piece]), id, "end"
	}
	id := m.code + ".check"
	in.Steps = append(in.Steps, s.hands(id, m.job, orOurs(s.CheckMin[m.piece], CheckMin)*float64(m.copies), Judge, 0))
	labels[id] = Label{Piece: m.piece, Code: m.name, Act: "check", Copies: m.copies, Kind: m.kind}
	s.after(in, prev, id, wait, 0)
	if wait > 0 || m.minutes == 0 {
		stand(m.stands, m.event, id)
	}
	return id
}

// Told is a late job in the words of the shop.
type Told struct {
	Job     string   `json:"job"`
	Piece   string   `json:"piece"`
	LateMin int      `json:"late_min"`
	Words   string   `json:"words"`
	Steps   []string `json:"steps" doc:"the chain that binds it, first to last"`
	// Where the time of the chain goes, minutes.
	HandsMin  int    `json:"hands_min"`
	WaitsMin  int    `json:"waits_min" doc:"drying, curing, setting, baking"`
	NightsMin int    `json:"nights_min" doc:"nobody is in"`
	By        []Hold `json:"by" doc:"who or what is waited for, the longest first"`
}

// Hold is how long a chain waits for somebody or something.
type Hold struct {
	ID      string `json:"id"`
	Minutes int    `json:"minutes"`
}

// Tell puts late jobs into words; at names a slot as people say it.
func (s Shop) Tell(late []plan.LateJob, labels map[string]Label, at func(slot int) string) []Told {
	out := []Told{}
	for _, l := range late {
		i := slices.IndexFunc(s.Jobs, func(j Job) bool { return j.ID == l.Job })
		if i < 0 {
			continue
		}
		out = append(out, s.tell(s.Jobs[i], l, labels, at))
	}
	return out
}

func (s Shop) tell(j Job, l plan.LateJob, labels map[string]Label, at func(int) string) Told {
	t := Told{Job: j.ID, Piece: j.Piece, LateMin: l.Lateness * s.SlotMinutes, Steps: []string{}, By: []Hold{}}
	chain := slices.Clone(l.Chain)
	slices.Reverse(chain)
	by := map[string]int{}
	hands, waits, nights := 0, 0, 0
	for n, c := range chain {
		t.Steps = append(t.Steps, c.Step)
		if labels[c.Step].Wait {
			waits += c.End - c.Start
		} else {
			hands += c.End - c.Start
		}
		nights += max(0, c.Start-c.Ready)
		if n > 0 && (c.Cause == "link" || c.Cause == "max_lag") {
			waits += max(0, c.Ready-chain[n-1].End)
		}
		if who, is := cut(c.Cause, "person:"); is {
			by[who] += c.End - c.Start
		}
		if what, is := cut(c.Cause, "resource:"); is {
			by[what] += c.End - c.Start
		}
	}
	t.HandsMin, t.WaitsMin, t.NightsMin = hands*s.SlotMinutes, waits*s.SlotMinutes, nights*s.SlotMinutes
	for id, n := range by {
		t.By = append(t.By, Hold{id, n * s.SlotMinutes})
	}
	slices.SortFunc(t.By, func(a, b Hold) int { return cmp.Or(cmp.Compare(b.Minutes, a.Minutes), cmp.Compare(a.ID, b.ID)) })
	t.Words = "because " + s.because(chain, labels, at)
	return t
}

func cut(cause, prefix string) (string, bool) {
	if len(cause) > len(prefix) && cause[:len(prefix)] == prefix {
		return cause[len(prefix):], true
	}
	return "", false
}

// because tells the chain from its first link to its last, leaving out what follows at once.
func (s Shop) because(chain []plan.Cause, labels map[string]Label, at func(int) string) string {
	words := ""
	then := func(text string) {
		if words != "" {
			words += ", then "
		}
		words += text
	}
	for n, c := range chain {
		l := labels[c.Step]
		last := n == len(chain)-1
		who, person := cut(c.Cause, "person:")
		thing, resource := cut(c.Cause, "resource:")
		down, dry := cut(c.Cause, "down:")
		switch {
		case dry && s.IsOven(down):
			then(fmt.Sprintf("%s waits until somebody is in, %s", l.Text(), at(c.Ready)))
		case dry:
			then(fmt.Sprintf("%s dries until %s", down, at(c.Ready)))
		case resource:
			then(fmt.Sprintf("%s waits for %s until %s", l.Text(), thing, at(c.Ready)))
		case person:
			then(fmt.Sprintf("%s waits for %s until %s", l.Text(), who, at(c.Ready)))
		case c.Cause == "release" && s.lacks(c.Step) != "":
			then(fmt.Sprintf("%s waits for %s, here %s", l.Text(), s.lacks(c.Step), at(c.Ready)))
		case c.Cause == "release":
			then(fmt.Sprintf("%s is not ready before %s", l.Code, at(c.Ready)))
		case n > 0 && c.Cause == "link" && labels[chain[n-1].Step].Act == BuildMould:
			then(fmt.Sprintf("%s dries until %s", labels[chain[n-1].Step].Code, at(c.Ready)))
		case n > 0 && c.Cause == "link" && c.Ready-chain[n-1].End >= s.slots(longWait):
			then(fmt.Sprintf("%s waits until %s", l.Text(), at(c.Ready)))
		case labels[c.Step].Wait:
			then(fmt.Sprintf("%s lasts until %s", l.Text(), at(c.End)))
		}
		if last {
			then(fmt.Sprintf("%s ends %s", l.Text(), at(c.End)))
		}
	}
	return words
}

// lacks is what a session waits for to be delivered, by its first step.
func (s Shop) lacks(step string) string {
	for _, x := range s.Sessions {
		if x.Lacks != "" && step == x.Code+".1" {
			return x.Lacks
		}
	}
	return ""
}

// longWait is from how many minutes on a wait is worth a word.
const longWait = 120
