package web

import (
	"context"
	"errors"
	"reflect"
	"sync"
	"time"
)

// Shared is an answer that is the same for everybody. When something changes,
// every open screen asks for it at the same moment: it is then worked out
// once, and kept for a second at most. A key of what it depends on makes sure
// that whoever asks after a change gets an answer from after it. The zero
// value is ready.
type Shared[O any] struct {
	mu  sync.Mutex
	now *working[O]
}

type working[O any] struct {
	key  any
	at   time.Time
	done chan struct{}
	out  O
	err  error
}

const keptFor = time.Second

// Get returns the answer for key, from do or from whoever asked just before.
func (s *Shared[O]) Get(ctx context.Context, key any, do func(context.Context) (O, error)) (O, error) {
	s.mu.Lock()
	w := s.now
	if w == nil || w.key != key || time.Since(w.at) > keptFor || w.failed() {
		w = &working[O]{key: key, at: time.Now(), done: make(chan struct{})}
		s.now = w
		s.mu.Unlock()
		w.work(ctx, do)
		return w.out, w.err
	}
	s.mu.Unlock()
	select {
	case <-w.done:
		return w.out, w.err
	case <-ctx.Done():
		var none O
		return none, ctx.Err()
	}
}

func (w *working[O]) work(ctx context.Context, do func(context.Context) (O, error)) {
	defer close(w.done)
	w.err = errUnfinished // stays only if do panics
	// Whoever goes away meanwhile must not take the answer from the others.
	out, err := do(context.WithoutCancel(ctx))
	noNilLists(reflect.ValueOf(&out).Elem())
	w.out, w.err = out, err
}

var errUnfinished = errors.New("the answer was not finished")

// failed says whether it is finished without an answer.
func (w *working[O]) failed() bool {
	select {
	case <-w.done:
		return w.err != nil
	default:
		return false
	}
}
