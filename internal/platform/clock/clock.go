// Package clock gives the time. The bench clock is what the work runs on; in
// the demo it starts in January, goes on where it was after a restart and
// never goes back. Sign-in sessions and links use the real time.
package clock

import (
	"sync"
	"time"
)

// Clock tells the bench time, in UTC.
type Clock interface {
	Now() time.Time
}

// System is the bench clock of a real installation: the machine's own.
type System struct{}

// Now implements Clock.
func (System) Now() time.Time { return time.Now().UTC() }

// Bench is a clock that runs with real time from a settable start.
type Bench struct {
	mu     sync.Mutex
	offset time.Duration
	last   time.Time
	real   func() time.Time
}

// NewBench makes a bench clock that shows start now.
func NewBench(start time.Time) *Bench {
	b := &Bench{real: time.Now}
	b.offset = start.Sub(b.real())
	return b
}

// Now implements Clock. It never goes back, even when the machine's clock does.
func (b *Bench) Now() time.Time {
	b.mu.Lock()
	defer b.mu.Unlock()
	if t := b.real().Add(b.offset).UTC(); t.After(b.last) {
		b.last = t
	}
	return b.last
}

// Forward moves the clock on by d, which must not be negative, and returns the
// new time.
func (b *Bench) Forward(d time.Duration) time.Time {
	if d > 0 {
		b.mu.Lock()
		b.offset += d
		b.mu.Unlock()
	}
	return b.Now()
}

// Fixed is a clock that stands still until it is set: for tests and for
// writing the demo's history.
type Fixed struct {
	mu sync.Mutex
	at time.Time
}

// NewFixed makes a clock that shows at.
func NewFixed(at time.Time) *Fixed { return &Fixed{at: at.UTC()} }

// Now implements Clock.
func (f *Fixed) Now() time.Time {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.at
}

// Set moves the clock.
func (f *Fixed) Set(at time.Time) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.at = at.UTC()
}
