// Package device holds the shop's instruments behind small interfaces, with
// simulated stand-ins that are seeded, deterministic and able to misbehave. A
// real driver would sit beside them.
package device

import (
	"errors"
	"math"
	"math/rand/v2"
	"sync"
	"time"
)

// Units a scale may show. Only grams can be captured.
const (
	Grams  = "g"
	Ounces = "oz"
)

// ScaleReading is what a bench scale shows at one moment.
type ScaleReading struct {
	At        time.Time `json:"at" doc:"real time of the reading"`
	Value     float64   `json:"value" doc:"in the unit shown"`
	Unit      string    `json:"unit" enum:"g,oz"`
	Stable    bool      `json:"stable"`
	Connected bool      `json:"connected"`
	Tared     bool      `json:"tared" doc:"true when a tare is in force"`
}

// ErrUnplugged is returned by a scale that does not answer.
var ErrUnplugged = errors.New("the scale does not answer")

// Scale is a bench scale.
type Scale interface {
	Read() ScaleReading
	Tare() error
	// Simulated says whether this is a stand-in, so that screens can say so.
	Simulated() bool
	// DivisionG is the least that it tells apart, g; 0 where there is none.
	DivisionG() float64
}

// SimulatedScale is a stand-in bench scale. It shows 0.1 g, wanders by a
// little noise and a slow drift, settles for a while after a change, and can
// be unplugged, stuck or switched to ounces. What lies on it is set by Put,
// Pour and Stop.
type SimulatedScale struct {
	mu        sync.Mutex
	now       func() time.Time
	rng       *rand.Rand
	loadG     float64
	pourGS    float64 // grams a second while pouring
	since     time.Time
	changed   time.Time
	started   time.Time
	tareG     float64
	unit      string
	unplugged bool
	stuck     *ScaleReading
	NoiseG    float64 // standard deviation while settled
	DriftGH   float64 // grams an hour
	Settle    time.Duration
}

// NewSimulatedScale makes a stand-in whose noise follows seed.
func NewSimulatedScale(seed uint64, now func() time.Time) *SimulatedScale {
	at := now()
	return &SimulatedScale{now: now, rng: rand.New(rand.NewPCG(seed, 0x5ca1e)), since: at, started: at, changed: at.Add(-time.Hour),
		unit: Grams, NoiseG: 0.02, DriftGH: 0.15, Settle: 900 * time.Millisecond}
}

// Simulated implements Scale.
func (s *SimulatedScale) Simulated() bool { return true }

// advance brings a running pour up to now.
func (s *SimulatedScale) advance() time.Time {
	at := s.now()
	if dt := at.Sub(s.since).Seconds(); dt > 0 && s.pourGS != 0 {
		s.loadG = math.Max(0, s.loadG+s.pourGS*dt)
		s.changed = at
	}
	s.since = at
	return at
}

// Read implements Scale.
func (s *SimulatedScale) Read() ScaleReading {
	s.mu.Lock()
	defer s.mu.Unlock()
	at := s.advance()
	if s.unplugged {
		return ScaleReading{At: at, Unit: s.unit}
	}
	if s.stuck != nil {
		r := *s.stuck
		r.At = at
		return r
	}
	settled := at.Sub(s.changed) >= s.Settle
	noise := s.NoiseG
	if !settled {
		noise *= 6
	}
	shown := s.loadG - s.tareG + s.DriftGH*at.Sub(s.started).Hours() + s.rng.NormFloat64()*noise
	if s.unit == Ounces {
		shown = math.Round(shown/28.349523125*1000) / 1000
	} else {
		shown = math.Round(shown*10) / 10
	}
	return ScaleReading{At: at, Value: shown + 0, Unit: s.unit, Stable: settled, Connected: true, Tared: s.tareG != 0}
}

// Tare implements Scale.
func (s *SimulatedScale) Tare() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	at := s.advance()
	if s.unplugged {
		return ErrUnplugged
	}
	s.tareG = s.loadG
	s.started = at // a tare starts the drift from zero again
	return nil
}

// Put adds grams at once; taking away is a negative amount.
func (s *SimulatedScale) Put(grams float64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	at := s.advance()
	s.loadG = math.Max(0, s.loadG+grams)
	s.changed = at
}

// Pour starts pouring at gramsPerSecond; 0 stops.
func (s *SimulatedScale) Pour(gramsPerSecond float64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	at := s.advance()
	s.pourGS = gramsPerSecond
	s.changed = at
}

// Clear takes everything off and forgets the tare.
func (s *SimulatedScale) Clear() {
	s.mu.Lock()
	defer s.mu.Unlock()
	at := s.advance()
	s.loadG, s.tareG, s.pourGS, s.changed = 0, 0, 0, at
}

// Misbehave unplugs the scale, sticks its display or switches its unit.
func (s *SimulatedScale) Misbehave(unplugged, stuck bool, unit string) {
	last := s.Read()
	s.mu.Lock()
	defer s.mu.Unlock()
	s.unplugged, s.stuck = unplugged, nil
	if stuck {
		last.Stable = true
		s.stuck = &last
	}
	if unit == Grams || unit == Ounces {
		s.unit = unit
	}
}

// DivisionG is 0.1 g, as it shows.
func (s *SimulatedScale) DivisionG() float64 { return 0.1 }
