// Package turns bounds heavy work: so many at once, so many that wait, and
// whoever comes after that is told to come again. Without the second bound
// people who press again pile up, each with its memory.
package turns

import (
	"context"
	"net/http"
	"sync/atomic"

	"yewmoor/internal/platform/problem"
)

// Turns is a queue for one kind of work.
type Turns struct {
	what    string
	at      chan struct{}
	waiting atomic.Int64
	most    int64
}

// New lets this many work at once, and this many more wait.
func New(what string, atOnce, waiting int) *Turns {
	return &Turns{what: what, at: make(chan struct{}, atOnce), most: int64(waiting)}
}

// Take waits for a turn and says how to give it back. Whoever goes away gives
// the place in the queue up; a queue that is full refuses with 503.
func (t *Turns) Take(ctx context.Context) (done func(), err error) {
	done = func() { <-t.at }
	select {
	case t.at <- struct{}{}:
		return done, nil
	default:
	}
	if t.waiting.Add(1) > t.most {
		t.waiting.Add(-1)
		return nil, problem.New(http.StatusServiceUnavailable, "busy", "", "Too many wait for %s just now. Nothing was lost; try again in a moment.", t.what)
	}
	defer t.waiting.Add(-1)
	select {
	case t.at <- struct{}{}:
		return done, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}
