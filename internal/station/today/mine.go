package today

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/work"
)

// Turn is a step that the plan has for somebody today.
type Turn struct {
	Step, Act, Code, Piece, Title string
	From, To                      time.Time
	Minutes, Copies               int
	With, Frees, Then, Why, Link  string
	Bar                           string // what forbids it now
	Other                         uint64
	Binds                         bool
}

// Planner tells what the run-up has for somebody; wired to the plan.
type Planner interface {
	// TurnsOf are today's, the first first, and those of days before that are open still; planned are the pieces that the
	// plan has, moved what is elsewhere than in the plan in force.
	TurnsOf(ctx context.Context, person string, lead bool) (today, past []Turn, planned map[string]bool, moved []Moved, err error)
	// InOn are the hours in which they were or are in on a day.
	InOn(ctx context.Context, person string, day time.Time) ([][2]time.Time, error)
}

// Moved is a step that is elsewhere than in the plan in force.
type Moved struct {
	Text string    `json:"text"`
	Who  string    `json:"who" doc:"does it now"`
	Had  string    `json:"had" doc:"was to do it"`
	Was  time.Time `json:"was"`
	Is   time.Time `json:"is"`
}

// Gap is working time in which somebody noted nothing.
type Gap struct {
	From time.Time `json:"from"`
	To   time.Time `json:"to"`
	// Did is what the record has of them in it.
	Did []string `json:"did"`
}

// Mine is somebody's day.
type Mine struct {
	Person string      `json:"person"`
	People []string    `json:"people" doc:"whose days may be looked at"`
	Doing  *work.Span  `json:"doing,omitempty" doc:"what they are at"`
	Open   bool        `json:"open" doc:"it was begun on a day before: when did it end?"`
	Now    *Task       `json:"now,omitempty"`
	Soon   []Task      `json:"soon" doc:"what spoils or waits for somebody now, before the plan"`
	Then   []Task      `json:"then" doc:"by the plan, in its order"`
	Beside []Task      `json:"beside" doc:"what the plan does not know of, the most pressing first"`
	Left   []Task      `json:"left" doc:"what the plan had for days before and nobody did"`
	Moved  []Moved     `json:"moved" doc:"what is elsewhere than in the plan in force, for them"`
	Gaps   []Gap       `json:"gaps"`
	Did    []work.Span `json:"did" doc:"what they were at today"`
}

// shortGap is from when on working time without a word is a gap.
const shortGap = 45 * time.Minute

// mostOfAKind is how many tasks of one kind stand each by itself; the others are one line.
const mostOfAKind = 2

// MineOf is the day of whoever asks, or, for a lead, of anybody.
func (s *Service) MineOf(ctx context.Context, person string) (Mine, error) {
	who, _ := accounts.From(ctx)
	m := Mine{
		Person: cmp.Or(person, who.Name),
		People: []string{},
		Soon:   []Task{},
		Then:   []Task{},
		Beside: []Task{},
		Left:   []Task{},
		Moved:  []Moved{},
		Gaps:   []Gap{},
	}
	lead := who.Role == accounts.Lead
	if m.Person != who.Name && !lead {
		return m, problem.New(http.StatusForbidden, "not_yours", "person", "Somebody else's day is for a lead.")
	}
	if lead {
		if err := s.DB.SelectContext(ctx, &m.People, `SELECT name FROM person WHERE active ORDER BY id`); err != nil {
			return m, fmt.Errorf("reading who works here: %w", err)
		}
		if !slices.Contains(m.People, m.Person) {
			return m, problem.NotFound("person", m.Person)
		}
	}
	now := s.Clock.Now()
	midnight := now.Truncate(24 * time.Hour)
	var err error
	if m.Did, err = work.Of(ctx, s.DB, m.Person, midnight, midnight.AddDate(0, 0, 1)); err != nil {
		return m, err
	}
	for i := range m.Did {
		if m.Did[i].Ended == nil {
			m.Doing, m.Open = &m.Did[i], m.Did[i].Began.Before(midnight)
		}
	}
	// What a lead may sign is for the day of a lead, whoever looks at it.
	theirs := who.Role
	if m.Person != who.Name {
		if err := s.DB.GetContext(ctx, &theirs, `SELECT role FROM person WHERE name = ? AND active LIMIT 1`, m.Person); err != nil {
			return m, fmt.Errorf("reading whose day it is: %w", err)
		}
	}
	turns, past, pieces, moved, err := s.Planner.TurnsOf(ctx, m.Person, theirs == accounts.Lead)
	if err != nil {
		return m, fmt.Errorf("reading the plan: %w", err)
	}
	m.Moved = append(m.Moved, moved...)
	fromMix, err := s.Pots.FromMix(ctx)
	if err != nil {
		return m, err
	}
	about, err := s.words(ctx)
	if err != nil {
		return m, err
	}
	for _, t := range turns {
		m.Then = append(m.Then, t.task(now, about, fromMix))
	}
	for _, t := range past {
		m.Left = append(m.Left, t.task(now, about, fromMix))
	}
	all, err := s.tasks(ctx)
	if err != nil {
		return m, err
	}
	m.first(all, pieces)
	return m, s.gaps(ctx, &m, now)
}

// aSlot is how fine the plan is.
const aSlot = 15 * time.Minute

// planned are the kinds of tasks that the plan has itself, each with its time and its hands.
var planned = []int{rankBench, rankFinish, rankCheck, rankPack, rankRun}

// first says what is done now: what spoils or waits for an answer before the plan, then the plan's own next step, then the rest.
func (m *Mine) first(all []Task, pieces map[string]bool) {
	i := slices.IndexFunc(all, func(t Task) bool { return t.rank <= rankReady })
	if i >= 0 {
		m.Now = &all[i]
	}
	for k := range m.Then {
		if m.Now == nil && m.Then[k].Bar == "" && m.Then[k].InS == 0 {
			now := m.Then[k]
			m.Now = &now
			m.Then = slices.Delete(m.Then, k, k+1)
			break
		}
	}
	beside := slices.DeleteFunc(slices.Clone(all), func(t Task) bool {
		return m.Now != nil && t.Title == m.Now.Title && t.Link == m.Now.Link ||
			pieces[t.Piece] && slices.Contains(planned, t.rank)
	})
	if m.Now == nil && len(beside) > 0 && beside[0].rank != rankWait {
		m.Now, beside = &beside[0], beside[1:]
	}
	for _, t := range limited(beside) {
		if t.rank <= rankAsked {
			m.Soon = append(m.Soon, t)
		} else if len(m.Beside) < 12 {
			m.Beside = append(m.Beside, t)
		}
	}
}

// limited lets a few tasks of a kind stand each by itself and makes one line of the others, so that no kind hides the rest.
func limited(tasks []Task) []Task {
	out := []Task{}
	n, at := map[int]int{}, map[int]int{}
	for _, t := range tasks {
		n[t.rank]++
		if n[t.rank] <= mostOfAKind+1 {
			at[t.rank] = len(out) // of the last one that has a line
			out = append(out, t)
			continue
		}
		room, _, _ := strings.Cut(strings.TrimPrefix(t.Link, "/"), "?")
		room, _, _ = strings.Cut(room, "/")
		verb, _, _ := strings.Cut(t.Title, " ")
		out[at[t.rank]] = Task{
			Title: fmt.Sprintf("%s: %d more", verb, n[t.rank]-mostOfAKind),
			Why:   "They stand in their room.",
			Link:  "/" + room,
			rank:  t.rank,
		}
	}
	return out
}

// task is a turn as Today shows it.
func (t Turn) task(now time.Time, about map[string]string, fromMix map[string]bool) Task {
	out := Task{
		Piece:   t.Piece,
		Title:   t.Title,
		About:   about[t.Piece],
		Why:     t.Why,
		Link:    t.Link,
		Step:    t.Step,
		Act:     t.Act,
		Code:    t.Code,
		Copies:  t.Copies,
		Minutes: t.Minutes,
		With:    t.With,
		Frees:   t.Frees,
		Follows: t.Then,
		Bar:     t.Bar,
		Other:   t.Other,
		Binds:   t.Binds,
	}
	if out.Link == "/build?piece="+t.Piece && fromMix[t.Piece] {
		out.Link = "/mix?piece=" + t.Piece
	}
	if t.From.Sub(now) >= aSlot { // what the plan has in its next slot may be begun now
		out.InS = t.From.Sub(now).Seconds()
	}
	out.At = &t.From
	return out
}

// gaps finds the working time of the last working day and of today in which nothing was noted.
func (s *Service) gaps(ctx context.Context, m *Mine, now time.Time) error {
	day := now.Truncate(24 * time.Hour)
	for d, seen := day, false; !seen && d.After(day.AddDate(0, 0, -7)); d = d.AddDate(0, 0, -1) {
		in, err := s.Planner.InOn(ctx, m.Person, d)
		if err != nil {
			return err
		}
		if len(in) == 0 {
			continue
		}
		seen = d.Before(day)
		spans, err := work.Of(ctx, s.DB, m.Person, d, d.AddDate(0, 0, 1))
		if err != nil {
			return err
		}
		for _, v := range in {
			for _, g := range free(v, spans, now) {
				if g.To.Sub(g.From) < shortGap {
					continue
				}
				rows, err := journal.By(ctx, s.DB, m.Person, g.From, g.To)
				if err != nil {
					return err
				}
				for _, r := range rows {
					g.Did = append(g.Did, fmt.Sprintf("%s %s %s", r.At.Format("15:04"), r.Code, r.Act))
				}
				g.Did = g.Did[:min(len(g.Did), 6)]
				m.Gaps = append(m.Gaps, g)
			}
		}
	}
	slices.SortFunc(m.Gaps, func(a, b Gap) int { return a.From.Compare(b.From) })
	return nil
}

// free is what is left of some hours until now without what was noted; spans come in their order.
func free(in [2]time.Time, spans []work.Span, now time.Time) []Gap {
	end := in[1]
	if now.Before(end) {
		end = now
	}
	var out []Gap
	from := in[0]
	for _, w := range spans {
		to := now
		if w.Ended != nil {
			to = *w.Ended
		}
		if w.Began.After(from) {
			if stop := earlier(w.Began, end); stop.After(from) {
				out = append(out, Gap{From: from, To: stop, Did: []string{}})
			}
		}
		if to.After(from) {
			from = to
		}
	}
	if end.After(from) {
		out = append(out, Gap{From: from, To: end, Did: []string{}})
	}
	return out
}

func earlier(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}
