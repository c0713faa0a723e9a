// Package plan is the run-up to the shooting days: what each day needs and
// what is there. The planner that orders the work is not here yet.
package plan

import (
	"context"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/web"
)

// Service does the use cases of the plan.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
}

// Need is what a day needs of one piece.
type Need struct {
	Piece  string `db:"piece" json:"piece"`
	Name   string `db:"name" json:"name"`
	Family string `db:"family" json:"family"`
	Wanted int    `db:"wanted" json:"wanted"`
	Good   int    `db:"good" json:"good"`
	Coming int    `db:"coming" json:"coming" doc:"curing, being finished, or under a coat that dries"`
	AtRisk bool   `db:"-" json:"at_risk"`
	Words  string `db:"-" json:"words"`
}

// Day is one shooting day with what it needs.
type Day struct {
	ID       uint64    `db:"id" json:"id"`
	Day      time.Time `db:"day" json:"day"`
	Place    string    `db:"place" json:"place"`
	TempC    float64   `db:"temp_c" json:"temp_c"`
	RH       float64   `db:"rh" json:"rh"`
	Light    string    `db:"light" json:"light"`
	Working  int       `db:"-" json:"working_days" doc:"working days until then, today included"`
	Needs    []Need    `db:"-" json:"needs"`
	AtRisk   bool      `db:"-" json:"at_risk"`
	Kits     int       `db:"kits" json:"kits"`
	Received int       `db:"received" json:"received"`
}

// soon is how many working days before a day a missing copy counts as a risk.
const soon = 10

// Days reads the days from today on with what each needs.
func (s *Service) Days(ctx context.Context) ([]Day, error) {
	days := []Day{}
	today := s.Clock.Now()
	err := s.DB.SelectContext(ctx, &days, `SELECT d.id, d.day, d.place, d.temp_c, d.rh, d.light, (SELECT COUNT(*) FROM kit k WHERE k.day_id = d.id) AS kits,
		(SELECT COUNT(*) FROM kit k WHERE k.day_id = d.id AND k.received_at IS NOT NULL) AS received FROM shooting_day d WHERE d.day >= ? ORDER BY d.day, d.place`, today.Format(time.DateOnly))
	if err != nil {
		return nil, fmt.Errorf("reading the days: %w", err)
	}
	for i := range days {
		d := &days[i]
		d.Working = WorkingDays(today, d.Day)
		d.Needs = []Need{}
		if err := s.DB.SelectContext(ctx, &d.Needs, `SELECT q.code AS piece, q.name, q.family, q.copies_wanted AS wanted,
			(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND c.state IN ('accepted','packed','handed_over')) AS good,
			(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND c.state IN ('curing','demoulded','repair')) + EXISTS (SELECT 1 FROM pot p WHERE p.piece_id = q.id AND p.copy_id IS NULL AND p.ended_at IS NULL) AS coming
			FROM piece_day pd JOIN piece q ON q.id = pd.piece_id WHERE pd.day_id = ? ORDER BY q.code`, d.ID); err != nil {
			return nil, err
		}
		for j := range d.Needs {
			n := &d.Needs[j]
			missing := n.Wanted - n.Good - n.Coming
			switch {
			case n.Good >= n.Wanted:
				n.Words = "all there"
			case missing <= 0:
				n.Words = "coming"
			default:
				n.Words = fmt.Sprintf("%d not begun", missing)
				n.AtRisk = d.Working <= soon
			}
			d.AtRisk = d.AtRisk || n.AtRisk
		}
	}
	return days, nil
}

// WorkingDays counts Mondays to Fridays from the day of from up to, but not
// including, the day of to.
func WorkingDays(from, to time.Time) int {
	n := 0
	day := from.Truncate(24 * time.Hour)
	for ; day.Before(to.Truncate(24 * time.Hour)); day = day.AddDate(0, 0, 1) {
		if w := day.Weekday(); w != time.Saturday && w != time.Sunday {
			n++
		}
	}
	return n
}

// Register puts the plan's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/plan", "The shooting days and what each needs", web.Makers, func(ctx context.Context, _ *struct{}) ([]Day, error) { return s.Days(ctx) })
}
