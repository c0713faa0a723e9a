package plan

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"yewmoor/internal/craft/plan"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/problem"
)

// File is the run-up in the planner's own documents, to be planned elsewhere or looked at.
type File struct {
	Instance *plan.Instance `json:"instance"`
	Plan     *plan.Plan     `json:"plan,omitempty"`
}

// FileOf is the run-up as documents.
func (s *Service) FileOf(ctx context.Context) (File, error) {
	w, err := s.work(ctx)
	return File{w.in, w.p}, err
}

// WriteCalendar writes what somebody does, or everybody, as iCalendar.
func (s *Service) WriteCalendar(ctx context.Context, out io.Writer, person string) error {
	w, err := s.work(ctx)
	if err != nil {
		return err
	}
	cal := ics.NewCalendarFor("Yewmoor")
	cal.SetMethod(ics.MethodPublish)
	known := person == ""
	for _, l := range w.view.Lanes {
		known = known || l.Kind == "person" && l.ID == person
	}
	if !known {
		return problem.NotFound("person", person)
	}
	for _, b := range w.bars(person) {
		e := cal.AddEvent(
			fmt.Sprintf("%s.%s@yewmoor", strings.ReplaceAll(b.Step, " ", "-"), strings.ReplaceAll(b.Lane, " ", "-")),
		)
		e.SetDtStampTime(w.f.now)
		e.SetStartAt(b.From)
		e.SetEndAt(b.To)
		text := b.Text
		if person == "" {
			text = firstName(b.Lane) + ": " + text
		}
		e.SetSummary(text)
	}
	_, err = io.WriteString(out, cal.Serialize())
	return err
}

// WriteCSV writes the run-up as a table: who, what, from, to.
func (s *Service) WriteCSV(ctx context.Context, out io.Writer) error {
	w, err := s.work(ctx)
	if err != nil {
		return err
	}
	c := csv.NewWriter(out)
	if err := c.Write([]string{"who", "piece", "what", "from", "to"}); err != nil {
		return err
	}
	for _, b := range w.bars("") {
		if err := c.Write([]string{paper.SafeCell(b.Lane), b.Piece, paper.SafeCell(b.Text), b.From.Format(time.RFC3339), b.To.Format(time.RFC3339)}); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}

// bars are what people do, one of them or all.
func (w worked) bars(person string) []Bar {
	lanes := map[string]bool{}
	for _, l := range w.view.Lanes {
		if l.Kind == "person" && (person == "" || l.ID == person) {
			lanes[l.ID] = true
		}
	}
	out := []Bar{}
	for _, b := range w.view.Bars {
		if lanes[b.Lane] {
			out = append(out, b)
		}
	}
	return out
}

// WriteWeek draws the next seven days as a page: for each person, day by day, what they do; what is done without a pause is one line.
func (s *Service) WriteWeek(ctx context.Context, out io.Writer) error {
	w, err := s.work(ctx)
	if err != nil {
		return err
	}
	until := w.f.origin.AddDate(0, 0, 7)
	leaf := paper.Leaf{
		Code:    w.f.origin.Format(time.DateOnly),
		Title:   "The week",
		About:   "until " + until.AddDate(0, 0, -1).Format("Monday 2 January"),
		Printed: w.f.now.Format("2 Jan 2006 15:04"),
		Foot:    "What is not in it is not planned; Today has what changed since.",
	}
	if len(w.view.Late) > 0 {
		l := w.view.Late[0]
		leaf.Big = fmt.Sprintf("%s late for the %s", l.Piece, l.Place)
	}
	for _, lane := range w.view.Lanes {
		if lane.Kind != "person" {
			continue
		}
		bars := w.bars(lane.ID)
		slices.SortFunc(bars, func(a, b Bar) int { return a.From.Compare(b.From) })
		part := paper.LeafPart{Heading: lane.ID, Columns: []float64{0.13, 0.15, 0.72}}
		for i := 0; i < len(bars); {
			b := bars[i]
			if !b.From.Before(until) {
				break
			}
			words, end := []string{b.Text}, b.To
			for i++; i < len(bars) && bars[i].Piece == b.Piece && bars[i].From.Equal(end); i++ {
				words, end = append(words, strings.TrimPrefix(bars[i].Text, b.Piece+" ")), bars[i].To
			}
			part.Rows = append(
				part.Rows,
				[]string{
					b.From.Format("Mon 2 Jan"),
					b.From.Format("15:04") + "–" + end.Format("15:04"),
					strings.Join(words, "; "),
				},
			)
		}
		if len(part.Rows) == 0 {
			part.Lines, part.Columns = []string{"nothing this week"}, nil
		}
		leaf.Parts = append(leaf.Parts, part)
	}
	var days [][]string
	for _, d := range w.view.Days {
		if d.Out.Before(until.AddDate(0, 0, 7)) {
			days = append(days, []string{d.Out.Format("Mon 2 Jan 15:04"), d.Place})
		}
	}
	if len(days) > 0 {
		leaf.Parts = append(leaf.Parts, paper.LeafPart{Heading: "Out by", Columns: []float64{0.3, 0.7}, Rows: days})
	}
	return paper.WriteLeaf(out, leaf)
}
