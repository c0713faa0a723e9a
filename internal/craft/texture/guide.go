package texture

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// guide is a drawn curve, smoothed, with its length measured along.
type guide struct {
	p []P
	s []float64 // length up to each point
}

// maxGuide is the most points of one guide as drawn.
const maxGuide = 400

func newGuide(points []P, smoothing int, field string) (guide, error) {
	if len(points) < 2 || len(points) > maxGuide {
		return guide{}, refusal.New(BadGuide, field, "A guide needs 2 to %d points.", maxGuide)
	}
	for _, p := range points {
		if !finite(p[0]) || !finite(p[1]) {
			return guide{}, refusal.New(BadNumber, field, "A point of the guide is not a number.")
		}
		if math.Abs(p[0]) > maxReach || math.Abs(p[1]) > maxReach {
			return guide{}, refusal.New(BadGuide, field, "The guide reaches further than ten metres.")
		}
	}
	g := guide{p: points}
	for range smoothing {
		g.p = cutCorners(g.p)
	}
	g.s = make([]float64, len(g.p))
	for i := 1; i < len(g.p); i++ {
		g.s[i] = g.s[i-1] + apart(g.p[i-1], g.p[i])
	}
	if g.length() <= 0 {
		return guide{}, refusal.New(BadGuide, field, "The guide has no length.")
	}
	return g, nil
}

// cutCorners is Chaikin's scheme; the ends stay.
func cutCorners(p []P) []P {
	out := append(make([]P, 0, 2*len(p)), p[0])
	for i := 0; i+1 < len(p); i++ {
		out = append(out, between(p[i], p[i+1], 0.25), between(p[i], p[i+1], 0.75))
	}
	return append(out, p[len(p)-1])
}

func (g guide) length() float64 { return g.s[len(g.s)-1] }

// at is the place a way along, and the direction there; beyond its ends the
// guide goes straight on.
func (g guide) at(s float64) (P, P) {
	n := len(g.p)
	i := 0
	for i < n-2 && g.s[i+1] < s {
		i++
	}
	l := g.s[i+1] - g.s[i]
	for l == 0 && i+2 < n { // a doubled point
		i++
		l = g.s[i+1] - g.s[i]
	}
	if l == 0 {
		return g.p[n-1], P{1, 0}
	}
	d := P{(g.p[i+1][0] - g.p[i][0]) / l, (g.p[i+1][1] - g.p[i][1]) / l}
	t := s - g.s[i]
	return P{g.p[i][0] + float64(d[0]*t), g.p[i][1] + float64(d[1]*t)}, d
}

// resampled is the guide as n points equally far along.
func (g guide) resampled(n int) []P {
	out := make([]P, n)
	for i := range out {
		out[i], _ = g.at(g.length() * float64(i) / float64(n-1))
	}
	out[0], out[n-1] = g.p[0], g.p[len(g.p)-1]
	return out
}

// distance is how far a place is from the guide.
func (g guide) distance(p P) float64 {
	least := math.Inf(1)
	for i := 0; i+1 < len(g.p); i++ {
		least = math.Min(least, toSegment2(p, g.p[i], g.p[i+1]))
	}
	return math.Sqrt(least)
}

// frame lays lines and rows: c counts across, s along.
type frame struct {
	e, n           P      // straight
	g              *guide // or along a guide
	s0, s1, c0, c1 float64
}

func straight(f *Flat, angle float64) frame {
	sin, cos := math.Sincos(angle * math.Pi / 180)
	fr := frame{e: P{cos, sin}, n: P{-sin, cos}}
	fr.s0, fr.s1 = f.extent(fr.e)
	fr.c0, fr.c1 = f.extent(fr.n)
	return fr
}

// along follows a guide: rows are its parallels. It reaches as far as the
// outline does.
func along(f *Flat, g *guide) frame {
	fr := frame{g: g, c0: math.Inf(1), c1: math.Inf(-1), s0: math.Inf(1), s1: math.Inf(-1)}
	for _, p := range f.rings[0] {
		s, c := fr.of(p)
		fr.s0, fr.s1, fr.c0, fr.c1 = math.Min(fr.s0, s), math.Max(fr.s1, s), math.Min(fr.c0, c), math.Max(fr.c1, c)
	}
	return fr
}

// of tells where a place lies in the frame of a guide.
func (fr frame) of(p P) (s, c float64) {
	g := fr.g
	least := math.Inf(1)
	last := len(g.p) - 2
	for i := 0; i <= last; i++ {
		a, b := g.p[i], g.p[i+1]
		l := g.s[i+1] - g.s[i]
		if l == 0 {
			continue
		}
		d := P{(b[0] - a[0]) / l, (b[1] - a[1]) / l}
		t := float64((p[0]-a[0])*d[0]) + float64((p[1]-a[1])*d[1])
		if i > 0 {
			t = math.Max(0, t)
		}
		if i < last {
			t = math.Min(l, t)
		}
		q := P{a[0] + float64(d[0]*t), a[1] + float64(d[1]*t)}
		if away := apart(p, q); away < least {
			least, s = away, g.s[i]+t
			c = float64(d[0]*(p[1]-q[1])) - float64(d[1]*(p[0]-q[0]))
			c = math.Copysign(away, c)
		}
	}
	return s, c
}

// at is the place of (s, c), and the direction along there in radians. ok is
// false where parallels of a guide run into each other.
func (fr frame) at(s, c float64) (p P, turn float64, ok bool) {
	if fr.g == nil {
		return P{float64(s*fr.e[0]) + float64(c*fr.n[0]), float64(s*fr.e[1]) + float64(c*fr.n[1])}, math.Atan2(fr.e[1], fr.e[0]), true
	}
	q, d := fr.g.at(s)
	p = P{q[0] - float64(c*d[1]), q[1] + float64(c*d[0])}
	_, c2 := fr.of(p)
	return p, math.Atan2(d[1], d[0]), math.Abs(c2-c) < 0.02*math.Abs(c)+0.05
}
