package device

import (
	"hash/fnv"
	"math"
	"sync"
)

// ColourReader is the instrument that is held to skin and reads CIELAB under
// D65.
type ColourReader interface {
	Read(subject, region string) (l, a, b float64, err error)
	// ReadChip reads a chip or a swatch. A stand-in is told what lies before it; an
	// instrument looks for itself.
	ReadChip(l, a, b float64) (rl, ra, rb float64, err error)
}

// SimulatedReader is a stand-in: each subject has a skin of its own, each
// region its usual shift, each reading some noise; now and then it is held
// askew, which lets light in.
type SimulatedReader struct {
	Seed uint64

	mu sync.Mutex
	n  int64
}

// How regions differ from the forehead, roughly: redder cheeks, nose and ears,
// lips much more so, hollow eyes bluer, a paler palm.
var regionShift = map[string][3]float64{
	"cheek": {-1, 2.5, 0.3}, "nose": {-1.5, 3, 0.2}, "ear": {-1, 3.2, -0.4}, "lip": {-7, 9, -3}, "eye_hollow": {-3, 0.5, -2.5},
	"knuckle": {-4, 1.5, 1}, "palm": {4, 1, -1}, "neck": {-0.5, -1, 0.8}, "hand_back": {-1.5, 0.5, 0.8},
}

// Read implements ColourReader.
func (r *SimulatedReader) Read(subject, region string) (l, a, b float64, err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	h := fnv.New64a()
	_, _ = h.Write([]byte(subject))
	own := float64(h.Sum64()%1000) / 1000
	l = 70 - 38*own
	a = 9.5 + 4*math.Sin(math.Pi*own)
	b = 15.5 + 5*math.Sin(math.Pi*own) - 4*own
	shift := regionShift[region]
	r.n++
	noise := SimulatedRoom{Seed: r.Seed}
	jitter := func(k int64) float64 { return 0.35 * noise.hash(r.n*7+k) }
	l, a, b = l+shift[0]+jitter(1), a+shift[1]+jitter(2), b+shift[2]+jitter(3)
	if r.n%9 == 5 {
		l, a, b = l+5, a-4, b-3.5
	}
	return l, a, b, nil
}

// ReadChip implements ColourReader.
func (r *SimulatedReader) ReadChip(l, a, b float64) (rl, ra, rb float64, err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.n++
	noise := SimulatedRoom{Seed: r.Seed}
	jitter := func(k int64) float64 { return 0.2 * noise.hash(r.n*11+k) }
	return l + jitter(1), a + jitter(2), b + jitter(3), nil
}
