package plan

import (
	"context"
	"encoding/json"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/calc"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Somebody's own instance is planned as a job: it is asked for, looked after, and stopped.

// planJob is the kind of job.
const planJob = "plan"

// asked is the input of a job.
type asked struct {
	Instance   json.RawMessage `json:"instance"`
	Seed       uint64          `json:"seed"`
	Iterations int             `json:"iterations"`
	BudgetMS   int             `json:"budget_ms"`
}

// Asked is how far a plan is that was asked for.
type Asked struct {
	ID     uint64          `json:"id"`
	State  string          `json:"state" enum:"waiting,running,done,failed,stopped"`
	Share  float64         `json:"share" doc:"how much is done, 0 to 1"`
	Words  string          `json:"words"`
	Detail string          `json:"detail,omitempty" doc:"why it failed"`
	Answer json.RawMessage `json:"answer,omitempty" doc:"the plan document, or status, error and message of why there is none"`
}

// DoJobs lets the jobs plan what is asked for; before they run.
func (s *Service) DoJobs(j *jobs.Service) {
	s.Jobs = j
	j.Does(planJob, func(ctx context.Context, raw json.RawMessage, say jobs.Say) (any, error) {
		var in asked
		if err := json.Unmarshal(raw, &in); err != nil {
			return nil, err
		}
		done, err := s.Turns.Take(ctx)
		if err != nil {
			return nil, err
		}
		defer done()
		until := ctx
		if in.Iterations == 0 {
			var stop context.CancelFunc
			until, stop = context.WithTimeout(ctx, time.Duration(in.BudgetMS)*time.Millisecond)
			defer stop()
		}
		say(0.05, "searching for a plan")
		answer := calc.Plan(until, in.Instance, in.Seed, in.Iterations)
		return answer, ctx.Err() // who stopped it wants no half answer
	})
}

// Ask asks for a plan of an instance.
func (s *Service) Ask(ctx context.Context, in asked) (Asked, error) {
	if !calc.IsInstance(in.Instance) {
		return Asked{}, problem.Invalid("E_FORMAT", "body", "This is no instance of the planner.")
	}
	if in.Iterations == 0 && in.BudgetMS == 0 {
		in.BudgetMS = usualBudget
	}
	var id uint64
	err := s.DB.InTx(ctx, func(tx database.Tx) (err error) {
		id, err = s.Jobs.Ask(ctx, tx, planJob, in)
		return err
	})
	if err != nil {
		return Asked{}, err
	}
	s.Live.Tell(ctx, "jobs", "")
	return s.AskedFor(ctx, id)
}

// usualBudget is how long a plan is searched for where nobody says, ms.
const usualBudget = 2000

// AskedFor is how far it is.
func (s *Service) AskedFor(ctx context.Context, id uint64) (Asked, error) {
	known, err := s.Jobs.Read(ctx, s.DB, id)
	if err != nil {
		return Asked{}, err
	}
	j := known[id]
	if j.Kind != planJob {
		return Asked{}, problem.NotFound("plan that was asked for", "of this number")
	}
	return Asked{j.ID, j.State, j.Share, j.Words, j.Detail, j.Result}, nil
}

func registerAsked(api huma.API, s *Service) {
	web.Post(api, "/api/plan/asked", "Plan an instance document as a job", web.Makers, func(ctx context.Context, in *struct {
		Seed       uint64 `query:"seed"`
		Iterations int    `query:"iterations" minimum:"0" maximum:"200000" doc:"0 searches by time"`
		BudgetMS   int    `query:"budget_ms" minimum:"0" maximum:"30000"`
		Body       json.RawMessage
	}) (Asked, error) {
		return s.Ask(ctx, asked{in.Body, in.Seed, in.Iterations, in.BudgetMS})
	})
	web.Get(
		api,
		"/api/plan/asked/{id}",
		"How far a plan is that was asked for, and the plan",
		web.Makers,
		func(ctx context.Context, in *web.ByID) (Asked, error) { return s.AskedFor(ctx, in.ID) },
	)
	web.Delete(
		api,
		"/api/plan/asked/{id}",
		"Stop a plan that was asked for",
		web.Makers,
		func(ctx context.Context, in *web.ByID) (Asked, error) {
			if _, err := s.AskedFor(ctx, in.ID); err != nil {
				return Asked{}, err
			}
			if err := s.Jobs.Stop(ctx, in.ID); err != nil {
				return Asked{}, err
			}
			return s.AskedFor(ctx, in.ID)
		},
	)
}
