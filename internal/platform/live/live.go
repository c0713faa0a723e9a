// Package live tells open screens that something changed. Events are hints:
// a screen re-reads what it shows, so that a missed event is never a missed
// fact.
package live

import "sync"

// Hint says what to re-read: a topic such as "pots" or "piece", and the code
// of the thing when there is one.
type Hint struct {
	Topic string `json:"topic"`
	Code  string `json:"code,omitempty"`
}

// Hub hands hints to everyone who listens. The zero value is ready.
type Hub struct {
	mu        sync.Mutex
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

// Tell sends a hint to everyone who listens.
func (h *Hub) Tell(topic, code string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for ch := range h.listeners {
		select {
		case ch <- Hint{topic, code}:
		default:
		}
	}
}
