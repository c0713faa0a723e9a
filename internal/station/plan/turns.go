package plan

import (
	"cmp"
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/work"
)

// Turn is a step that the plan has for somebody, as their day shows it.
type Turn struct {
	Step, Act, Code, Piece, Title string // Act is what kind of work, as minutes are learned by it
	From, To                      time.Time
	Minutes, Copies               int    // hands
	With, Frees, Then, Why, Link  string // what it takes and is done in; a mould that is free after it; what follows; why it stands where it stands
	Bar                           string // what forbids it now
	Other                         uint64 // other work, by its id
	Binds                         bool
}

// PersonDay is somebody's day by the plan.
type PersonDay struct {
	Pieces map[string]bool // that the plan has
	Turns  []Turn
	Moved  []Move // of theirs, since the plan in force was taken
	Past   []Turn // what the plan in force had for before today and is not done
}

// DayOf is what the plan has for somebody on the day of now, and what it had for days before that is open still.
func (s *Service) DayOf(ctx context.Context, person string, lead bool) (PersonDay, error) {
	var out PersonDay
	w, err := s.work(ctx)
	if err != nil {
		return out, err
	}
	midnight := w.f.origin.AddDate(0, 0, 1)
	if w.p == nil {
		return out, nil
	}
	out.Pieces = map[string]bool{}
	for _, l := range w.labels {
		out.Pieces[l.Piece] = true
	}
	forbidden := map[string]string{}
	for i, st := range w.p.Steps {
		l := w.labels[st.ID]
		from := w.f.at(st.Start)
		if l.Wait || !slices.Contains(st.People, person) || !from.Before(midnight) {
			continue
		}
		t := w.turn(i)
		if l.Piece != "" && l.Act != work.Check { // looking at it harms nobody
			bar, asked := forbidden[l.Piece]
			if !asked {
				if bar, err = s.Work.Forbidden(ctx, l.Piece, lead); err != nil {
					return out, err
				}
				forbidden[l.Piece] = bar
			}
			t.Bar = bar
		}
		if i := slices.IndexFunc(w.f.shop.Sessions, func(x runup.Session) bool { return x.Lacks != "" && strings.HasPrefix(st.ID, x.Code+".") }); i >= 0 &&
			t.Bar == "" &&
			l.Kind == runup.OfSession {
			t.Bar = w.f.shop.Sessions[i].Lacks + ": not in the stores."
		}
		out.Turns = append(out.Turns, t)
	}
	slices.SortStableFunc(
		out.Turns,
		func(a, b Turn) int { return cmp.Or(a.From.Compare(b.From), strings.Compare(a.Step, b.Step)) },
	)
	for _, m := range w.view.Moved {
		if m.Who == person || m.Had == person {
			out.Moved = append(out.Moved, m)
		}
	}
	if w.f.force != nil {
		out.Past = w.past(person)
	}
	return out, nil
}

// past are the steps that the plan in force had for somebody before today, and that are open still.
func (w worked) past(person string) []Turn {
	at := map[string]int{}
	for i, st := range w.p.Steps {
		at[st.ID] = i
	}
	back := int(w.f.origin.Sub(w.f.force.Origin) / (slotMin * time.Minute))
	var out []Turn
	for _, st := range w.f.force.Plan.Steps {
		i, open := at[st.ID]
		if !open || st.End-back > 0 || w.labels[st.ID].Wait || !slices.Contains(st.People, person) {
			continue
		}
		t := w.turn(i)
		t.From, t.To = w.f.at(st.Start-back), w.f.at(st.End-back)
		out = append(out, t)
	}
	return out
}

// turn puts a step of the plan into words.
func (w worked) turn(i int) Turn {
	st, l := w.p.Steps[i], w.labels[w.p.Steps[i].ID]
	doc := w.in.Steps[slices.IndexFunc(w.in.Steps, func(s plan.Step) bool { return s.ID == st.ID })]
	t := Turn{
		Step:    st.ID,
		Act:     cmp.Or(work.Act(l.Act), work.Other),
		Code:    l.Code,
		Piece:   l.Piece,
		Title:   l.Text(),
		From:    w.f.at(st.Start),
		To:      w.f.at(st.End),
		Minutes: (st.End - st.Start) * slotMin,
		Copies:  max(1, l.Copies),
		With:    l.With,
	}
	if doc.Work != nil {
		t.Minutes = *doc.Work * slotMin
	}
	placed := map[string]plan.Placed{}
	for _, p := range w.p.Steps {
		placed[p.ID] = p
	}
	for _, h := range w.in.Holds {
		session, is := strings.CutSuffix(h.ID, ".mould")
		if !is || !strings.HasPrefix(st.ID, session+".") {
			continue
		}
		mould := placed[h.From].Resources[h.ID]
		if mould == "" && len(h.AnyOf) == 1 {
			mould = h.AnyOf[0]
		}
		if f, fixed := w.in.Fixed[h.From]; fixed {
			mould = f.Resources[h.ID]
		}
		if mould == "" {
			continue
		}
		t.With = strings.TrimPrefix(t.With+", in "+mould, ", ")
		if h.To == st.ID {
			t.Frees = mould
		}
	}
	for _, k := range w.in.Links {
		if k.From != st.ID {
			continue
		}
		next := w.labels[k.To]
		switch {
		case next.Wait:
			t.Then = fmt.Sprintf("then %s until %s", next.Act, w.clock(placed[k.To].End))
		case k.Min > 0 && next.Act != "":
			t.Then = fmt.Sprintf("then it waits until %s, and %s follows", w.clock(st.End+k.Min), next.Act)
		case next.Act != "":
			t.Then = "then " + next.Act
		}
		break
	}
	bound := slices.ContainsFunc(w.view.Late, func(d LateDay) bool { return slices.Contains(d.Steps, st.ID) })
	d := w.f.days[doc.Job]
	switch {
	case bound:
		t.Binds = true
		t.Why = fmt.Sprintf("%s is late for the %s, and this is on the way to it: every hour counts.", l.Piece, d.Place)
	case d.ID != 0:
		t.Why = fmt.Sprintf("For the %s, out by %s.", d.Place, d.Due.Format("Mon 2 Jan 15:04"))
		for _, day := range w.view.Days {
			if day.ID == d.ID && day.Slack > 0 {
				t.Why = fmt.Sprintf(
					"For the %s, out by %s; %s to spare.",
					d.Place,
					d.Due.Format("Mon 2 Jan 15:04"),
					spare(day.Slack),
				)
			}
		}
	}
	switch l.Kind {
	case runup.OfRun:
		t.Link = "/build?run=" + url.QueryEscape(l.Code)
	case runup.OfSession:
		t.Link = "/build?piece=" + url.QueryEscape(l.Piece)
	case runup.OfClay:
		t.Link = "/sculpt/" + url.PathEscape(l.Piece)
	case runup.OfMould:
		t.Link = "/mould?piece=" + url.QueryEscape(l.Piece)
	case runup.OfDay:
		t.Link = "/handover"
	case runup.OfCopy:
		t.Link = "/finish/" + url.PathEscape(l.Code)
		if l.Act == work.Check {
			t.Link = "/check/" + url.PathEscape(l.Code)
		}
	case runup.OfOther:
		t.Act = work.Other
		_, _ = fmt.Sscanf(doc.Job, "other %d", &t.Other)
		t.Why = "It was written down as other work."
	}
	return t
}

// clock is a slot as people say it: only the time where it is of today.
func (w worked) clock(slot int) string {
	at := w.f.at(slot)
	if at.Before(w.f.origin.AddDate(0, 0, 1)) {
		return at.Format("15:04")
	}
	return at.Format("Mon 15:04")
}

// spare is a length as people say it.
func spare(minutes int) string {
	if minutes >= 48*60 {
		return fmt.Sprintf("%d days", minutes/(24*60))
	}
	return fmt.Sprintf("%d h", minutes/60)
}
