package live

import (
	"context"
	"net/url"
	"strings"
	"sync"
)

type hearingKey struct{}

// Heard is what one act told of, in order and without repeats.
type Heard struct {
	mu    sync.Mutex
	hints []Hint
}

// Hearing lets a caller learn afterwards what was told of under this context:
// whoever asked for the act is answered with it, and needs no list of its own.
func Hearing(ctx context.Context) (context.Context, *Heard) {
	h := &Heard{}
	return context.WithValue(ctx, hearingKey{}, h), h
}

func (h *Heard) note(hint Hint) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, had := range h.hints {
		if had == hint {
			return
		}
	}
	h.hints = append(h.hints, hint)
}

// String is "section/BF-03,pieces": topics, with the code of the thing where
// there is one, escaped as in a path.
func (h *Heard) String() string {
	h.mu.Lock()
	defer h.mu.Unlock()
	words := make([]string, len(h.hints))
	for i, hint := range h.hints {
		words[i] = hint.Topic
		if hint.Code != "" {
			words[i] += "/" + url.PathEscape(hint.Code)
		}
	}
	return strings.Join(words, ",")
}
