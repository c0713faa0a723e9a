package plan

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/platform/accounts"
)

// Mend is something that could be changed, and what the plan would be then.
type Mend struct {
	ID      uint64    `json:"id" doc:"of one that somebody keeps; 0 of what is proposed"`
	By      string    `json:"by"`
	Text    string    `json:"text"`
	Bar     string    `json:"bar" doc:"why with it there is no plan"`
	LateMin int       `json:"late_min" doc:"of all days together"`
	Gains   int       `json:"gains_min" doc:"below 0 where it makes things worse"`
	OverMin int       `json:"overtime_min"`
	Hands   int       `json:"hands_min" doc:"of everybody, from now to the last day"`
	More    int       `json:"more_hands_min" doc:"beside today's plan; below 0 less"`
	Late    []string  `json:"late" doc:"pieces that are late all the same"`
	Days    []MendDay `json:"days"`
	Met     float64   `json:"met" doc:"how many of the days are met on average, with lengths drawn"`
	MetMore float64   `json:"met_more" doc:"beside today's plan"`
	Most    bool      `json:"most" doc:"of all that were tried it raises that the most"`
	Moves   int       `json:"moves" doc:"steps that are elsewhere then"`
	// Money is what it costs beside today's plan, in hundredths; for leads only.
	Money *int64 `json:"money_minor,omitempty"`
	// Carry is what carrying it out writes down; Link is where the shop begins it. Neither for what others decide.
	Carry *Change `json:"carry,omitempty"`
	Link  string  `json:"link,omitempty"`
}

// MendDay is a shooting day under a change.
type MendDay struct {
	ID      uint64    `json:"id"`
	Place   string    `json:"place"`
	Out     time.Time `json:"out"`
	LateMin int       `json:"late_min"`
	Met     float64   `json:"met"`
}

// Money tells what time costs; wired to the money.
type Money interface {
	// Hour is what an hour costs in hundredths, and by how much more an hour of overtime.
	Hour(ctx context.Context) (minor, more float64, err error)
	// MouldOf is what a mould of a piece costs in material.
	MouldOf(ctx context.Context, piece string) (int64, error)
}

// try is a change with how it is planned: a relaxation, from the plan as it stands, or another shop, planned anew.
type try struct {
	Mend
	change *plan.Change
	shop   *runup.Shop
	mould  string // the piece of a mould that is built for it
	stuff  int64  // what its material costs more, in hundredths
}

// mostMends bounds how many changes are tried.
const mostMends = 8

// surer is by how many days more that are met a change is worth a word.
const surer = 0.05

// sureEnough is from when on nothing is proposed for a day.
const sureEnough = 0.95

// Mends tries what would touch a cause of lateness, the causes of the latest days first; where no day is late, what would make the
// least sure one surer.
func (s *Service) Mends(ctx context.Context) ([]Mend, error) {
	w, err := s.work(ctx)
	if err != nil {
		return nil, err
	}
	if w.in == nil || w.p == nil {
		return []Mend{}, nil
	}
	list, err := s.mended.Get([]any{w.in, w.spreads()}, func() ([]tried, error) {
		binding, err := w.binding()
		if err != nil {
			return nil, err
		}
		return s.tryAll(ctx, w, w.tryable(binding))
	})
	if err != nil {
		return nil, err
	}
	return s.priced(ctx, w, list, true)
}

// binding are the chains that are asked for a change: of what is late, else of the least sure day.
func (w worked) binding() ([]plan.LateJob, error) {
	late, err := plan.Explain(w.in, w.p)
	if err != nil || len(late) > 0 {
		return late, err
	}
	least := slices.Clone(w.view.Days)
	slices.SortStableFunc(
		least,
		func(a, b DueDay) int { return cmp.Or(cmp.Compare(a.Met, b.Met), cmp.Compare(a.Slack, b.Slack)) },
	)
	if len(least) == 0 || least[0].Met >= sureEnough {
		return nil, nil
	}
	var jobs []string
	for job, d := range w.f.days {
		if d.ID == least[0].ID {
			jobs = append(jobs, job)
		}
	}
	all, err := plan.ExplainJobs(w.in, w.p, jobs)
	return all[:min(1, len(all))], err // the tightest of them
}

// tried is a change with what it came to.
type tried struct {
	Mend
	mould string
	stuff int64
}

// tryAll plans each change, one after the other, in the queue of heavy work.
func (s *Service) tryAll(ctx context.Context, w worked, list []try) ([]tried, error) {
	done, err := s.Turns.Take(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	out := []tried{}
	for _, t := range list {
		if err := ctx.Err(); err != nil {
			return nil, err // whoever asked is gone
		}
		m, err := w.planned(t)
		if err != nil {
			return nil, err
		}
		out = append(out, tried{m, t.mould, t.stuff})
	}
	return out, nil
}

// planned plans a change and tells it beside today's plan.
func (w worked) planned(t try) (Mend, error) {
	m := t.Mend
	m.Late, m.Days = []string{}, []MendDay{}
	opt := plan.Options{Seed: seed, Iterations: triesAgain, From: w.p}
	labels := w.labels
	var changed *plan.Instance
	var p *plan.Plan
	var err error
	if t.change != nil {
		changed, p, err = plan.WhatIf(w.in, w.p, *t.change, opt)
	} else {
		changed, labels = t.shop.Instance()
		p, err = plan.Solve(changed, opt)
	}
	var no *plan.Error
	if errors.As(err, &no) {
		m.Bar = w.inWords(no.Message)
		return m, nil
	}
	if err != nil {
		return m, err
	}
	m.LateMin, m.OverMin = p.Objective.Late*slotMin, p.Objective.Overtime*slotMin
	m.Gains = w.p.Objective.Late*slotMin - m.LateMin
	m.Hands = handsOf(changed, labels)
	m.More = m.Hands - handsOf(w.in, w.labels)
	was := map[string]plan.Placed{}
	for _, st := range w.p.Steps {
		was[st.ID] = st
	}
	done := map[string]int{}
	for i, st := range p.Steps {
		done[changed.Steps[i].Job] = max(done[changed.Steps[i].Job], st.End)
		if o, known := was[st.ID]; known && !labels[st.ID].Wait && (o.Start != st.Start || !slices.Equal(o.People, st.People)) {
			m.Moves++
		}
	}
	chances, err := w.chances(changed, labels, p)
	if err != nil {
		return m, err
	}
	for _, d := range w.view.Days {
		row := MendDay{ID: d.ID, Place: d.Place, Out: d.Out}
		for _, j := range changed.Jobs {
			if w.f.days[j.ID].ID == d.ID && j.Due != nil {
				row.LateMin = max(row.LateMin, (done[j.ID]-*j.Due)*slotMin)
			}
		}
		for _, c := range chances {
			if c.Of == fmt.Sprint(d.ID) {
				row.Met = c.Met
			}
		}
		m.Days = append(m.Days, row)
	}
	m.Met = daysMet(m.Days)
	m.MetMore = m.Met - w.daysMet()
	still, err := plan.Explain(changed, p)
	for _, l := range still {
		if piece := w.pieceOf(l.Job); !slices.Contains(m.Late, piece) {
			m.Late = append(m.Late, piece)
		}
	}
	return m, err
}

// daysMet is how many of the days are met on average.
func daysMet(days []MendDay) float64 {
	sum := 0.0
	for _, d := range days {
		sum += d.Met
	}
	return sum
}

func (w worked) daysMet() float64 {
	sum := 0.0
	for _, d := range w.view.Days {
		sum += d.Met
	}
	return sum
}

// handsOf is how long hands are at all of it, minutes.
func handsOf(in *plan.Instance, labels map[string]runup.Label) int {
	sum := 0
	for _, st := range in.Steps {
		if st.Work != nil && !labels[st.ID].Wait {
			sum += *st.Work * slotMin
		}
	}
	return sum
}

// priced sorts what was tried, says what raises the chance most, and, to a lead, what each costs.
func (s *Service) priced(ctx context.Context, w worked, list []tried, proposed bool) ([]Mend, error) {
	out := make([]Mend, len(list))
	most := -1
	for i, t := range list {
		out[i] = t.Mend
		if t.MetMore > surer && (most < 0 || t.MetMore > out[most].MetMore) {
			most = i
		}
	}
	if most >= 0 {
		out[most].Most = true
	}
	who, _ := accounts.From(ctx)
	if who.Role == accounts.Lead && s.Money != nil {
		hour, more, err := s.Money.Hour(ctx)
		if err != nil {
			return nil, err
		}
		for i, t := range list {
			if t.Bar != "" {
				continue
			}
			stuff := t.stuff
			if t.mould != "" {
				m, err := s.Money.MouldOf(ctx, t.mould)
				if err != nil {
					return nil, err
				}
				stuff += m
			}
			minor := int64(float64(t.More)/60*hour+float64(t.OverMin-w.view.OverMin)/60*more) + stuff
			out[i].Money = &minor
		}
	}
	if proposed {
		// What gives no plan is no way. What makes nothing better is worth a word where a day is late: it is not that.
		out = slices.DeleteFunc(out, func(m Mend) bool { return m.Bar != "" || w.view.LateMin == 0 && m.MetMore <= surer })
		slices.SortStableFunc(out, func(a, b Mend) int {
			return cmp.Or(cmp.Compare(a.LateMin, b.LateMin), cmp.Compare(b.Met, a.Met), cmp.Compare(a.OverMin, b.OverMin))
		})
	}
	return out, nil
}

// tryable are the changes that touch a cause on a binding chain.
func (w worked) tryable(late []plan.LateJob) []try {
	var out []try
	seen := map[string]bool{}
	add := func(key string, t func() try) {
		if !seen[key] && len(out) < mostMends {
			seen[key] = true
			out = append(out, t())
		}
	}
	for _, l := range late {
		for _, c := range l.Chain {
			kind, id, _ := strings.Cut(c.Cause, ":")
			switch {
			case kind == "person":
				add("person", func() try {
					return try{Mend: Mend{Text: "one more pair of hands"}, change: &plan.Change{Type: "add_person", Like: id}}
				})
			case id == runup.Racks:
				add("racks", w.biggerRacks)
			case (kind == "resource" || kind == "down") && !w.f.shop.IsOven(id):
				add("mould "+id, func() try { return w.secondMould(id) })
			}
			if w.f.shop.OvensDown() && (w.labels[c.Step].Wait || w.f.shop.IsOven(id)) {
				add("night", w.nightOven)
			}
		}
		// A chain may end where a step could begin earlier without gain: what the piece itself takes is tried all the same.
		for _, x := range w.f.shop.Sessions {
			if x.Job == l.Job && !x.Open && len(x.Moulds) > 0 {
				add("mould "+x.Moulds[0], func() try { return w.secondMould(x.Moulds[0]) })
			}
		}
		if n := len(w.f.shop.People); n > 0 {
			add("person", func() try {
				return try{
					Mend:   Mend{Text: "one more pair of hands"},
					change: &plan.Change{Type: "add_person", Like: w.f.shop.People[n-1].ID},
				}
			})
		}
		first := l.Chain[len(l.Chain)-1].Start
		if from, to, ok := w.freeDay(first); ok {
			at := w.f.at(from)
			add("free "+at.Format(time.DateOnly), func() try {
				return try{
					Mend: Mend{
						Text: "everybody in on " + at.Format("Monday 2 January"),
						Carry: &Change{
							Hours: &NewHourChange{
								Kind:  "extra",
								Day:   at.Truncate(24 * time.Hour),
								From:  openFrom,
								To:    openTo,
								Words: "for " + w.pieceOf(l.Job),
							},
						},
					},
					change: &plan.Change{Type: "overtime", From: from, To: to},
				}
			})
		}
		d := w.f.days[l.Job]
		add("due "+l.Job, func() try {
			return try{
				Mend:   Mend{Text: fmt.Sprintf("%s is worn a day later at the %s", w.pieceOf(l.Job), d.Place)},
				change: &plan.Change{Type: "due", Job: l.Job, Add: daySlots},
			}
		})
	}
	return out
}

// openFrom and openTo are the hours of a day on which the shop is open beside its week.
const openFrom, openTo = weekFrom, weekTo

// secondMould is another shop: a mould like one is built by tomorrow evening, or the first after it on which that goes, and dries as a
// new one does.
func (w worked) secondMould(like string) try {
	piece, _, _ := strings.Cut(like, "/")
	shop := w.f.shop
	shop.Moulds, shop.Besides, shop.Sessions = slices.Clone(shop.Moulds), slices.Clone(shop.Besides), slices.Clone(shop.Sessions)
	by, ready := w.f.further(&shop, piece, w.f.shop.Now, w.dries)
	which, when := "a second mould", "tomorrow evening"
	if w.f.at(by).Sub(w.f.origin) >= 48*time.Hour {
		when = w.f.at(by).Format("Monday 2 January")
	}
	if n := len(slices.DeleteFunc(slices.Clone(shop.Moulds), func(m runup.Mould) bool { return !strings.HasPrefix(m.Code, piece+"/") })); n > 2 {
		which = "a further mould"
	}
	return try{
		Mend: Mend{
			Text: fmt.Sprintf("%s of %s, built by %s and dry on %s", which, piece, when, w.f.at(ready).Format("Monday 2 January")),
			Link: "/mould?piece=" + piece, Carry: &Change{Mould: piece},
		},
		shop: &shop, mould: piece,
	}
}

// nightOven is another shop: the oven runs while nobody is in.
func (w worked) nightOven() try {
	shop := w.f.shop
	shop.Ovens = shop.Alone()
	return try{
		Mend: Mend{
			Text:  "the oven runs at night, allowed by a lead",
			Carry: &Change{Hours: &NewHourChange{Kind: "night", Day: w.f.origin, To: 24 * 60}},
		},
		shop: &shop,
	}
}

// biggerRacks is room for some more copies on the racks.
func (w worked) biggerRacks() try {
	return try{Mend: Mend{Text: fmt.Sprintf("room for %d more copies on the racks", moreRacks), Link: "/build"},
		change: &plan.Change{Type: "capacity", Resource: runup.Racks, Add: moreRacks}}
}

// moreRacks is how many places are tried: a shelf more.
const moreRacks = 6

func (w worked) pieceOf(job string) string {
	for _, j := range w.f.shop.Jobs {
		if j.ID == job {
			return j.Piece
		}
	}
	return job
}

func firstName(name string) string {
	first, _, _ := strings.Cut(name, " ")
	return first
}

// freeDay is the first day after a slot on which nobody is in.
func (w worked) freeDay(after int) (from, to int, ok bool) {
	for d := max(after, w.f.shop.Now)/daySlots + 1; d < w.f.shop.Horizon/daySlots; d++ {
		begin := d * daySlots
		if slices.ContainsFunc(w.f.nights, func(n plan.Interval) bool { return n[0] <= begin && n[1] >= begin+daySlots }) {
			return begin + openFrom/slotMin, begin + openTo/slotMin, true
		}
	}
	return 0, 0, false
}
