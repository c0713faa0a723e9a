package plan

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
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
		e := cal.AddEvent(fmt.Sprintf("%s.%s@yewmoor", strings.ReplaceAll(b.Step, " ", "-"), strings.ReplaceAll(b.Lane, " ", "-")))
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
