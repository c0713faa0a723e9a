package device

import (
	"math"
	"sync"
	"time"
)

// RoomReading is the air of the shop at one minute.
type RoomReading struct {
	At    time.Time `json:"at"`
	TempC float64   `json:"temp_c"`
	RH    float64   `json:"rh"`
}

// RoomSensor is a logger on the wall that keeps its own readings by the
// minute, so that a server that was down can catch up.
type RoomSensor interface {
	Between(from, to time.Time) []RoomReading
}

// SimulatedRoom is a stand-in whose air is a function of the minute alone: a
// daily swing, a heating that comes on in the morning, and seeded weather.
type SimulatedRoom struct {
	Seed   uint64
	MeanC  float64
	SwingC float64
	MeanRH float64

	mu   sync.Mutex
	away []away
}

// away is a time in which the stand-in was unplugged; to is zero while it is.
type away struct{ from, to time.Time }

// Unplug takes the stand-in off the wall from a time on, or puts it back: it has no
// readings of the time between.
func (r *SimulatedRoom) Unplug(at time.Time, off bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	n := len(r.away)
	open := n > 0 && r.away[n-1].to.IsZero()
	switch {
	case off && !open:
		r.away = append(r.away, away{from: at})
	case !off && open:
		r.away[n-1].to = at
	}
}

func (r *SimulatedRoom) isAway(at time.Time) bool {
	for _, a := range r.away {
		if !at.Before(a.from) && (a.to.IsZero() || at.Before(a.to)) {
			return true
		}
	}
	return false
}

// NewSimulatedRoom makes the air of a cool workshop in winter.
func NewSimulatedRoom(seed uint64) *SimulatedRoom {
	return &SimulatedRoom{Seed: seed, MeanC: 19.2, SwingC: 1.4, MeanRH: 0.54}
}

// Between implements RoomSensor: one reading a minute, from the first whole
// minute at or after from, up to to.
func (r *SimulatedRoom) Between(from, to time.Time) []RoomReading {
	var out []RoomReading
	at := from.UTC().Truncate(time.Minute)
	if at.Before(from) {
		at = at.Add(time.Minute)
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	for ; !at.After(to); at = at.Add(time.Minute) {
		if !r.isAway(at) {
			out = append(out, r.At(at))
		}
	}
	return out
}

// At is the reading of one minute.
func (r *SimulatedRoom) At(at time.Time) RoomReading {
	minute := at.Unix() / 60
	hour := float64(at.Unix()%86400) / 3600
	slow := r.noise(minute, 180)
	quick := r.noise(minute, 11)
	temp := r.MeanC + r.SwingC*math.Sin((hour-9)/24*2*math.Pi) + 0.6*slow + 0.15*quick
	rh := r.MeanRH - 0.012*(temp-r.MeanC) + 0.05*r.noise(minute+5_000_000, 240) + 0.008*quick
	return RoomReading{At: at, TempC: math.Round(temp*100) / 100, RH: math.Round(math.Min(0.95, math.Max(0.2, rh))*1000) / 1000}
}

// noise is smooth value noise in -1…1 with the given period in minutes.
func (r *SimulatedRoom) noise(minute, period int64) float64 {
	cell := minute / period
	u := float64(minute%period) / float64(period)
	u = u * u * (3 - 2*u)
	return r.hash(cell)*(1-u) + r.hash(cell+1)*u
}

func (r *SimulatedRoom) hash(n int64) float64 {
	x := uint64(n)*0x9e3779b97f4a7c15 + r.Seed
	x ^= x >> 30
	x *= 0xbf58476d1ce4e5b9
	x ^= x >> 27
	x *= 0x94d049bb133111eb
	x ^= x >> 31
	return float64(x>>11)/float64(1<<52) - 1
}
