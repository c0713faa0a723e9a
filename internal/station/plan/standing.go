package plan

import (
	"context"
	"time"
)

// Standing is how a shooting day stands by the plan, in brief.
type Standing struct {
	ID      uint64      `json:"id"`
	LateMin int         `json:"late_min" doc:"of the latest of its pieces"`
	Slack   *int        `json:"slack_min,omitempty" doc:"of the tightest; none where nothing of it is planned"`
	Met     *float64    `json:"met,omitempty" doc:"how often it was met with lengths drawn"`
	Late    []LatePiece `json:"late"`
	Out     []Unplanned `json:"unplanned"`
	Beyond  bool        `json:"beyond" doc:"it is further off than the plan looks"`
}

// LatePiece is a piece that is late for a day.
type LatePiece struct {
	Piece   string `json:"piece"`
	LateMin int    `json:"late_min"`
}

// Standing tells of every day from today on how it stands by the plan. Days of which nothing is left to be done are on time.
func (s *Service) Standing(ctx context.Context) ([]Standing, error) {
	days, err := s.Days(ctx)
	if err != nil {
		return nil, err
	}
	r, err := s.RunUp(ctx)
	if err != nil {
		return nil, err
	}
	reaches := r.Now.AddDate(0, 0, mostDays)
	out := []Standing{}
	for _, d := range days {
		st := Standing{ID: d.ID, Late: []LatePiece{}, Out: []Unplanned{}, Beyond: d.Day.After(reaches.Truncate(24 * time.Hour))}
		for _, x := range r.Days {
			if x.ID == d.ID {
				st.LateMin, st.Slack, st.Met = x.LateMin, &x.Slack, &x.Met
			}
		}
		for _, l := range r.Late {
			if l.DayID == d.ID {
				st.Late = append(st.Late, LatePiece{l.Piece, l.LateMin})
			}
		}
		for _, u := range r.Unplanned {
			if u.DayID == d.ID {
				st.Out = append(st.Out, u)
			}
		}
		if r.Bar != "" && len(d.Needs) > 0 { // there is no plan at all
			st.Out = append(st.Out, Unplanned{DayID: d.ID, Why: r.Bar, Link: "/plan"})
		}
		out = append(out, st)
	}
	return out, nil
}
