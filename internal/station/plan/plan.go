// Package plan is the run-up to the shooting days: what each day needs, what is there, and who does what until then.
package plan

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/copies"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/turns"
	"yewmoor/internal/platform/web"
)

// Service does the use cases of the plan.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Pieces *piece.Service
	Work   Work
	Turns  *turns.Turns
	Money  Money // none where nobody may know
	// Shooting moves a shooting day; the production does.
	Shooting Shooting
	Jobs     *jobs.Service
	// Weather is the forecast; none, or one that knows nothing, where nobody tells it.
	Weather device.Forecast
	// MouldDries is how long a mould that is not built yet will dry; the room for moulds says so.
	MouldDries time.Duration

	begins atomic.Pointer[[]Begins]
	shared web.Shared[worked]
	viewed web.Shared[RunUp]
	found  kept.Answers[found] // by the instance
	mended kept.Answers[[]tried]
	kept   kept.Answers[tried] // of changes that somebody keeps
}

// Remember sets how many plans are kept; before anything is asked.
func (s *Service) Remember(plans int) {
	s.found.Most, s.mended.Most, s.kept.Most = plans, plans, 4*plans
}

// Need is what a day needs of one piece.
type Need struct {
	Piece   string `json:"piece"`
	Name    string `json:"name"`
	Family  string `json:"family"`
	Wanted  int    `json:"wanted"`
	Good    int    `json:"good" doc:"in its kits, or accepted and free for it"`
	Coming  int    `json:"coming" doc:"being made, finished or planned as a mix"`
	Again   int    `json:"again" doc:"of copies that are worn on an earlier day too"`
	Missing int    `json:"missing"`
	Words   string `json:"words"`
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
	Kits     int       `db:"kits" json:"kits"`
	Received int       `db:"received" json:"received"`
}

// Days reads the days from today on with what each needs.
func (s *Service) Days(ctx context.Context) ([]Day, error) {
	days := []Day{}
	today := s.Clock.Now()
	err := s.DB.SelectContext(
		ctx,
		&days,
		`SELECT d.id, d.day, d.place, d.temp_c, d.rh, d.light, (SELECT COUNT(*) FROM kit k WHERE k.day_id = d.id) AS kits,
		(SELECT COUNT(*) FROM kit k WHERE k.day_id = d.id AND k.received_at IS NOT NULL) AS received FROM shooting_day d WHERE d.day >= ? ORDER BY d.day, d.place`,
		today.Format(time.DateOnly),
	)
	if err != nil {
		return nil, fmt.Errorf("reading the days: %w", err)
	}
	needs, err := copies.Needs(ctx, s.DB, today)
	if err != nil {
		return nil, err
	}
	for i := range days {
		d := &days[i]
		d.Working = WorkingDays(today, d.Day)
		d.Needs = []Need{}
		for _, n := range needs {
			if n.DayID != d.ID {
				continue
			}
			need := Need{
				Piece:   n.Piece,
				Name:    n.Name,
				Family:  n.Family,
				Wanted:  n.Wanted,
				Good:    n.Good,
				Coming:  n.Coming,
				Again:   n.Again,
				Missing: n.Missing,
			}
			switch {
			case n.Missing > 0:
				need.Words = fmt.Sprintf("%d not begun", n.Missing)
			case n.Coming > 0:
				need.Words = "coming"
			case n.Again > 0:
				need.Words = "worn again"
			default:
				need.Words = "all there"
			}
			d.Needs = append(d.Needs, need)
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
	web.Get(
		api,
		"/api/plan",
		"The shooting days and what each needs",
		web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Day, error) { return s.Days(ctx) },
	)
	web.Get(
		api,
		"/api/plan/run-up",
		"Who does what until the shooting days, and what is late",
		web.Makers,
		func(ctx context.Context, _ *struct{}) (RunUp, error) { return s.RunUp(ctx) },
	)
	web.Get(
		api,
		"/api/plan/standing",
		"How each shooting day stands by the plan: what is late, how sure it is, what is not in the plan",
		web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Standing, error) { return s.Standing(ctx) },
	)
	web.Get(
		api,
		"/api/plan/mends",
		"What would mend a late run-up, each with what it gains",
		web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Mend, error) { return s.Mends(ctx) },
	)
	registerAsked(api, s)
	web.Post(
		api,
		"/api/plan/take",
		"Put the run-up in force as it is shown",
		web.Skilled,
		func(ctx context.Context, _ *struct{}) (RunUp, error) { return s.Take(ctx) },
	)
	web.Post(
		api,
		"/api/plan/hours",
		"Somebody is away, or the shop is open beside its hours",
		web.Skilled,
		func(ctx context.Context, in *struct{ Body NewHourChange }) (RunUp, error) {
			return s.ChangeHours(ctx, in.Body)
		},
	)
	web.Put(
		api,
		"/api/plan/week",
		"Say when somebody is in, week by week",
		web.Makers,
		func(ctx context.Context, in *struct{ Body Week }) (RunUp, error) { return s.SetWeek(ctx, in.Body) },
	)
	web.Delete(
		api,
		"/api/plan/hours/{id}",
		"Take a change of the hours back",
		web.Skilled,
		func(ctx context.Context, in *web.ByID) (RunUp, error) { return s.TakeBackHours(ctx, in.ID) },
	)
	web.Get(
		api,
		"/api/plan/tries",
		"The changes that are kept beside the plan, each planned",
		web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Mend, error) { return s.Tries(ctx) },
	)
	web.Post(
		api,
		"/api/plan/tries",
		"Keep a change beside the plan",
		web.Makers,
		func(ctx context.Context, in *struct{ Body NewTry }) ([]Mend, error) { return s.KeepTry(ctx, in.Body) },
	)
	web.Delete(
		api,
		"/api/plan/tries/{id}",
		"Drop a change that was kept beside the plan",
		web.Makers,
		func(ctx context.Context, in *web.ByID) ([]Mend, error) { return s.DropTry(ctx, in.ID) },
	)
	web.Post(
		api,
		"/api/plan/carry",
		"Carry a change out: it is written down, and the plan with it put in force",
		web.Skilled,
		func(ctx context.Context, in *struct{ Body Change }) (Carried, error) {
			return s.Carry(ctx, in.Body)
		},
	)
	web.Post(
		api,
		"/api/plan/other",
		"Write down work that no piece asks for",
		web.Skilled,
		func(ctx context.Context, in *struct{ Body NewOtherWork }) (RunUp, error) {
			return s.AddOther(ctx, in.Body)
		},
	)
	web.Post(
		api,
		"/api/plan/other/{id}/done",
		"Other work is done",
		web.Makers,
		func(ctx context.Context, in *web.ByID) (RunUp, error) { return s.DoneOther(ctx, in.ID, true) },
	)
	web.Delete(
		api,
		"/api/plan/other/{id}",
		"Take other work back",
		web.Skilled,
		func(ctx context.Context, in *web.ByID) (RunUp, error) { return s.DoneOther(ctx, in.ID, false) },
	)
	web.Delete(api, "/api/plan/moulds/{id}", "Take back that a further mould is built", web.Skilled, func(ctx context.Context, in *web.ByID) (RunUp, error) {
		return s.DropFurther(ctx, in.ID)
	})
	web.Post(
		api,
		"/api/plan/try",
		"What a move by hand breaks, and whether the rest can make way; nothing is written",
		web.Skilled,
		func(ctx context.Context, in *struct{ Body Put }) (Breaks, error) { return s.Try(ctx, in.Body) },
	)
	web.Post(
		api,
		"/api/plan/pins",
		"Put a step where it is to stay",
		web.Skilled,
		func(ctx context.Context, in *struct{ Body Put }) (RunUp, error) { return s.Pin(ctx, in.Body) },
	)
	web.Delete(
		api,
		"/api/plan/pins/{id}",
		"Let a step go again",
		web.Skilled,
		func(ctx context.Context, in *web.ByID) (RunUp, error) { return s.Unpin(ctx, in.ID) },
	)
}

// Serve puts what is printed and saved of the run-up on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/plan/run-up.ics", "The run-up as iCalendar; person=NAME for one", web.Makers, func(c *gin.Context) error {
		return web.Saved(c, "run-up.ics", web.Calendar, func(w io.Writer) error {
			return s.WriteCalendar(c.Request.Context(), w, c.Query("person"))
		})
	})
	e.Handle(http.MethodGet, "/api/plan/week.pdf", "The week by the plan, to print: who does what on which day", web.Makers, func(c *gin.Context) error {
		return web.PDF(c, "week.pdf", func(w io.Writer) error { return s.WriteWeek(c.Request.Context(), w) })
	})
	e.Handle(http.MethodGet, "/api/plan/run-up.json", "The run-up as the planner's documents: instance and plan", web.Makers, func(c *gin.Context) error {
		f, err := s.FileOf(c.Request.Context())
		if err != nil {
			return err
		}
		return web.Saved(c, "run-up.json", "application/json", func(w io.Writer) error { return json.NewEncoder(w).Encode(f) })
	})
	e.Handle(http.MethodGet, "/api/plan/run-up.csv", "The run-up as a table", web.Makers, func(c *gin.Context) error {
		return web.Saved(c, "run-up.csv", web.CSV, func(w io.Writer) error { return s.WriteCSV(c.Request.Context(), w) })
	})
}
