// Package kept keeps answers that follow from their question alone, so that
// what is asked again with every keystroke is worked out once. It holds a fixed
// number and forgets what was not asked for the longest; nothing in it outlives the process.
package kept

import (
	"container/list"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sync"
)

// usual is how many are kept when nobody says; an answer takes a few kB.
const usual = 128

// Answers keeps up to Most answers of one kind, 128 when Most is not set.
type Answers[T any] struct {
	Most  int
	mu    sync.Mutex
	kept  map[[32]byte]*list.Element // of order, with an answer each
	order list.List                  // asked longest ago first
}

type answer[T any] struct {
	of [32]byte
	is T
}

// Get is the answer to a question, worked out when it is not kept. Errors are
// not kept. Answers are shared: callers do not change them.
func (a *Answers[T]) Get(question any, work func() (T, error)) (T, error) {
	raw, err := json.Marshal(question)
	if err != nil {
		var none T
		return none, fmt.Errorf("naming the question: %w", err)
	}
	key := sha256.Sum256(raw)
	a.mu.Lock()
	if at, known := a.kept[key]; known {
		a.order.MoveToBack(at)
		a.mu.Unlock()
		return at.Value.(answer[T]).is, nil
	}
	a.mu.Unlock()
	t, err := work()
	if err != nil {
		return t, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.kept == nil {
		a.kept = map[[32]byte]*list.Element{}
	}
	if at, known := a.kept[key]; known { // somebody worked it out meanwhile
		a.order.MoveToBack(at)
		return t, nil
	}
	a.kept[key] = a.order.PushBack(answer[T]{key, t})
	most := a.Most
	if most == 0 {
		most = usual
	}
	if a.order.Len() > most {
		delete(a.kept, a.order.Remove(a.order.Front()).(answer[T]).of)
	}
	return t, nil
}
