// Package live tells open screens that something changed. Events are hints:
// a screen re-reads what it shows, so that a missed event is never a missed
// fact.
package live

import (
	"context"
	"sync"
	"time"
)

// Hint says what to re-read: a topic such as "pots" or "piece", and the code
// of the thing when there is one.
type Hint struct {
	Topic string `json:"topic"`
	Code  string `json:"code,omitempty"`
}

// Hub hands hints to everyone who listens. The zero value is ready.
type Hub struct {
	mu        sync.Mutex
	changes   uint64
	listeners map[chan Hint]struct{}
}

// Listen returns a channel of hints and how to stop. A listener that does not
// keep up loses hints, never blocks the sender.
func (h *Hub) Listen() (<-chan Hint, func()) {
	ch := make(chan Hint, 32)
	h.mu.Lock()
	if h.listeners == nil {
		h.listeners = map[chan Hint]struct{}{}
	}
	h.listeners[ch] = struct{}{}
	h.mu.Unlock()
	return ch, func() {
		h.mu.Lock()
		delete(h.listeners, ch)
		h.mu.Unlock()
	}
}

// State is a key for answers that are the same for everybody: it is another one
// after every hint, and in every second of the clock now.
func (h *Hub) State(now time.Time) [2]int64 {
	h.mu.Lock()
	defer h.mu.Unlock()
	return [2]int64{int64(h.changes), now.Unix()}
}

// Tell sends a hint to everyone who listens, and notes it for whoever hears
// this context.
func (h *Hub) Tell(ctx context.Context, topic, code string) {
	if heard, ok := ctx.Value(hearingKey{}).(*Heard); ok {
		heard.note(Hint{topic, code})
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	h.changes++
	for ch := range h.listeners {
		select {
		case ch <- Hint{topic, code}:
		default:
		}
	}
}
