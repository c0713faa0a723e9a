// Package jobs does long work behind the requests: a row for each, taken by
// lease. A job is known by its kind and its input, so that what was worked out
// once is not worked out again, by this server or another one beside it. A
// server that is killed loses its lease, and the job is begun again; after three
// servers it is given up.
package jobs

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"time"

	"github.com/google/uuid"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

const (
	lease = 15 * time.Second
	renew = 3 * time.Second
	look  = 700 * time.Millisecond
	// maxTries is how many servers may end over one job.
	maxTries = 3
)

// Job is how far a piece of work is.
type Job struct {
	ID     uint64          `db:"id" json:"id"`
	Kind   string          `db:"kind" json:"kind"`
	State  string          `db:"state" json:"state" enum:"waiting,running,done,failed,stopped"`
	Share  float64         `db:"share" json:"share" doc:"how much is done, 0 to 1"`
	Words  string          `db:"words" json:"words" doc:"what is being done"`
	Code   string          `db:"code" json:"code,omitempty"`
	Field  string          `db:"field" json:"field,omitempty"`
	Detail string          `db:"detail" json:"detail,omitempty" doc:"why it failed"`
	Result json.RawMessage `db:"-" json:"-"`
	Raw    sql.NullString  `db:"result" json:"-"`
	Input  string          `db:"input" json:"-"`
}

// Say reports how far the work is.
type Say func(share float64, words string)

// Work does one kind of job. What it answers is kept as JSON. A refusal of the
// craft or a problem is an end, not a fault.
type Work func(ctx context.Context, input json.RawMessage, say Say) (any, error)

// Service asks for work and does it.
type Service struct {
	DB    *database.DB
	Live  *live.Hub
	kinds map[string]Work
	wake  chan struct{}
}

// New makes the service; kinds of work are added with Does.
func New(db *database.DB, hub *live.Hub) *Service {
	return &Service{DB: db, Live: hub, kinds: map[string]Work{}, wake: make(chan struct{}, 1)}
}

// Does says who does a kind of work; before Run.
func (s *Service) Does(kind string, work Work) { s.kinds[kind] = work }

// mostWaiting is how much work may wait: a morning of scans, not a flood.
const mostWaiting = 200

// Ask asks for work inside an act and gives the job's number. The same question
// is the same job; one that failed or was stopped is begun anew.
func (s *Service) Ask(ctx context.Context, tx database.Tx, kind string, input any) (uint64, error) {
	var waiting int
	if err := tx.GetContext(ctx, &waiting, `SELECT COUNT(*) FROM job WHERE state = 'waiting'`); err != nil {
		return 0, err
	}
	if waiting >= mostWaiting {
		return 0, problem.New(http.StatusServiceUnavailable, "busy", "", "%d pieces of work wait already. Nothing was recorded; try again when some are done.", waiting)
	}
	raw, err := json.Marshal(input)
	if err != nil {
		return 0, err
	}
	sum := sha256.Sum256(raw)
	who, _ := accounts.From(ctx)
	res, err := tx.ExecContext(ctx, `INSERT INTO job (kind, input_sum, input, asked_at, asked_by) VALUES (?,?,?,UTC_TIMESTAMP(6),NULLIF(?,0)) ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id)`, kind, hex.EncodeToString(sum[:]), string(raw), who.ID)
	if err != nil {
		return 0, fmt.Errorf("asking for %s: %w", kind, err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE job SET state = 'waiting', share = 0, words = '', tries = 0, code = '', field = '', detail = '', ended_at = NULL WHERE id = ? AND state IN ('failed','stopped')`, id)
	s.Hurry()
	return uint64(id), err
}

// Hurry lets a worker look now.
func (s *Service) Hurry() {
	select {
	case s.wake <- struct{}{}:
	default:
	}
}

const columns = `id, kind, state, share, words, code, field, detail, result, input`

// Read reads jobs by their numbers, by number. Primary key.
func (s *Service) Read(ctx context.Context, db database.Reader, ids ...uint64) (map[uint64]Job, error) {
	out := map[uint64]Job{}
	for _, id := range ids {
		if _, known := out[id]; known || id == 0 {
			continue
		}
		var j Job
		if err := db.GetContext(ctx, &j, `SELECT `+columns+` FROM job WHERE id = ?`, id); err != nil {
			if errors.Is(err, sql.ErrNoRows) {
				return nil, problem.NotFound("job", fmt.Sprint(id))
			}
			return nil, err
		}
		j.Result = json.RawMessage(j.Raw.String)
		out[id] = j
	}
	return out, nil
}

// Stop ends a job that waits or runs; whoever does it notices within seconds.
func (s *Service) Stop(ctx context.Context, id uint64) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE job SET state = 'stopped', holder = NULL, lease_until = NULL, ended_at = UTC_TIMESTAMP(6) WHERE id = ? AND state IN ('waiting','running')`, id)
		return err
	})
	s.Live.Tell(ctx, "jobs", fmt.Sprint(id))
	return err
}

// Run does work until ctx ends, one job at a time.
func (s *Service) Run(ctx context.Context) {
	tick := time.NewTicker(look)
	defer tick.Stop()
	for {
		if did, err := s.one(ctx); err != nil && ctx.Err() == nil {
			slog.Error("doing a job", "error", err)
		} else if did {
			continue
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		case <-s.wake:
		}
	}
}

// Settle does the work that waits and returns; for the demo and for tests.
func (s *Service) Settle(ctx context.Context) error {
	for {
		if did, err := s.one(ctx); err != nil || !did {
			return err
		}
	}
}

// take wins the oldest job that waits or whose holder is gone. Index job_next.
func (s *Service) take(ctx context.Context, holder string) (Job, bool, error) {
	var ids []uint64
	if err := s.DB.SelectContext(ctx, &ids, `SELECT id FROM job WHERE state = 'waiting' OR (state = 'running' AND lease_until < UTC_TIMESTAMP(6)) ORDER BY id LIMIT 8`); err != nil {
		return Job{}, false, err
	}
	for _, id := range ids {
		changed, err := database.Changed(s.DB.ExecContext(ctx, `UPDATE job SET state = 'running', holder = ?, tries = tries + 1, share = 0, lease_until = UTC_TIMESTAMP(6) + INTERVAL ? SECOND WHERE id = ? AND (state = 'waiting' OR (state = 'running' AND lease_until < UTC_TIMESTAMP(6)))`, holder, int(lease/time.Second), id))
		if err != nil {
			return Job{}, false, err
		}
		if !changed {
			continue // another one was first
		}
		var row struct {
			Job
			Tries int `db:"tries"`
		}
		if err := s.DB.GetContext(ctx, &row, `SELECT `+columns+`, tries FROM job WHERE id = ?`, id); err != nil {
			return Job{}, false, err
		}
		if row.Tries > maxTries {
			err := s.end(ctx, id, holder, nil, problem.Conflict("given_up", "It was begun %d times and the server ended each time. Try a smaller file, or look at the server's log.", maxTries))
			return Job{}, false, err
		}
		return row.Job, true, nil
	}
	return Job{}, false, nil
}

// one takes a job and does it.
func (s *Service) one(ctx context.Context) (did bool, err error) {
	holder := uuid.NewString()
	j, got, err := s.take(ctx, holder)
	if err != nil || !got {
		return false, err
	}
	work, known := s.kinds[j.Kind]
	if !known {
		return true, s.end(ctx, j.ID, holder, nil, problem.Conflict("unknown_work", "This version of the program does not know how to do this."))
	}
	doing, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	say := s.keep(doing, j.ID, holder, stop)
	result, err := guarded(work, doing, json.RawMessage(j.Input), say)
	if cause := context.Cause(doing); ctx.Err() == nil && errors.Is(cause, errLost) {
		return true, nil // stopped, or taken by another one
	}
	if ctx.Err() != nil {
		// The server ends in good order: the next one begins at once.
		back, cancel := context.WithTimeout(context.WithoutCancel(ctx), 2*time.Second)
		defer cancel()
		_, err := s.DB.ExecContext(back, `UPDATE job SET state = 'waiting', holder = NULL, lease_until = NULL, tries = tries - 1 WHERE id = ? AND holder = ?`, j.ID, holder)
		return false, err
	}
	return true, s.end(ctx, j.ID, holder, result, err)
}

// guarded does the work; a fault in it must not take the shop with it.
func guarded(work Work, ctx context.Context, input json.RawMessage, say Say) (result any, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("a job fell over", "what", r)
			result, err = nil, problem.New(500, "fell_over", "", "The computation fell over this file. The file is kept as it came; export it again from where it was made.")
		}
	}()
	return work(ctx, input, say)
}

var errLost = errors.New("the job is no longer ours")

// keep renews the lease until ctx ends, and gives the way to report.
func (s *Service) keep(ctx context.Context, id uint64, holder string, stop context.CancelCauseFunc) Say {
	said := make(chan struct {
		share float64
		words string
	}, 8)
	go func() {
		tick := time.NewTicker(renew)
		defer tick.Stop()
		share, words := 0.0, ""
		for {
			select {
			case <-ctx.Done():
				return
			case x := <-said:
				share, words = x.share, x.words
			case <-tick.C:
			}
			changed, err := database.Changed(s.DB.ExecContext(ctx, `UPDATE job SET lease_until = UTC_TIMESTAMP(6) + INTERVAL ? SECOND, share = ?, words = ? WHERE id = ? AND holder = ?`, int(lease/time.Second), share, words, id, holder))
			if err != nil {
				continue // the lease still holds for a while
			}
			if !changed {
				stop(errLost)
				return
			}
			s.Live.Tell(ctx, "jobs", fmt.Sprint(id))
		}
	}()
	return func(share float64, words string) {
		select {
		case said <- struct {
			share float64
			words string
		}{max(0, min(1, share)), words}:
		case <-ctx.Done():
		}
	}
}

// end writes what came out of it, if it is still ours.
func (s *Service) end(ctx context.Context, id uint64, holder string, result any, failed error) error {
	state, code, field, detail := "done", "", "", ""
	var raw any
	if failed != nil {
		state = "failed"
		code, detail = "failed", "It could not be worked out; the file is kept. The server's log says more."
		var r *refusal.Error
		var p *problem.Problem
		switch {
		case errors.As(failed, &r):
			code, field, detail = r.Code, r.Field, r.Detail
		case errors.As(failed, &p):
			code, field, detail = p.Code, p.Field, p.Detail
		default:
			slog.Error("a job failed", "job", id, "error", failed)
		}
	} else {
		text, err := json.Marshal(result)
		if err != nil {
			return err
		}
		raw = string(text)
	}
	if len(detail) > 500 {
		detail = detail[:500]
	}
	_, err := s.DB.ExecContext(ctx, `UPDATE job SET state = ?, holder = NULL, lease_until = NULL, share = IF(? = 'done', 1, share), words = '', result = ?, code = ?, field = ?, detail = ?, ended_at = UTC_TIMESTAMP(6) WHERE id = ? AND holder = ?`, state, state, raw, code, field, detail, id, holder)
	s.Live.Tell(ctx, "jobs", fmt.Sprint(id))
	return err
}
