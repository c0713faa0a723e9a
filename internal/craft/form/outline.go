package form

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Point is a place on a sheet of the wearer's map.
type Point struct {
	U float64 `json:"u"`
	V float64 `json:"v"`
}

// stepsPerStretch is how finely the curve between two drawn points is
// followed. The interface follows it as finely.
const stepsPerStretch = 12

// Curve follows the smooth line through the points (Catmull and Rom's cubic,
// uniform). A closed one returns to its first point without repeating it.
func Curve(points []Point, closed bool) []Point {
	n := len(points)
	if n < 2 || closed && n < 3 {
		return append([]Point(nil), points...)
	}
	at := func(i int) Point {
		if closed {
			return points[((i%n)+n)%n]
		}
		return points[max(0, min(n-1, i))]
	}
	stretches := n - 1
	if closed {
		stretches = n
	}
	out := make([]Point, 0, stretches*stepsPerStretch+1)
	for i := range stretches {
		a, b, c, d := at(i-1), at(i), at(i+1), at(i+2)
		for k := range stepsPerStretch {
			t := float64(k) / stepsPerStretch
			out = append(out, Point{cubic(a.U, b.U, c.U, d.U, t), cubic(a.V, b.V, c.V, d.V, t)})
		}
	}
	if !closed {
		out = append(out, points[n-1])
	}
	return out
}

func cubic(a, b, c, d, t float64) float64 {
	return b + t/2*(c-a+t*(2*a-5*b+4*c-d+t*(3*(b-c)+d-a)))
}

// Mirror reflects points to the other side of the same sheet.
func Mirror(points []Point) []Point {
	out := make([]Point, len(points))
	for i, p := range points {
		out[i] = Point{-p.U, p.V}
	}
	return out
}

// MaxPoints is the most that one outline or line may have.
const MaxPoints = 200

// CheckPoints refuses outlines that cannot be one: too few points, numbers
// that are none, far off the sheet, or crossing themselves. field names them.
func (s *Sheet) CheckPoints(points []Point, closed bool, field string) error {
	least := 2
	if closed {
		least = 3
	}
	if len(points) < least || len(points) > MaxPoints {
		return refusal.New(refusal.OutOfRange, field, "It needs %d to %d points; there are %d.", least, MaxPoints, len(points))
	}
	reach := s.u1 - s.u0
	for _, p := range points {
		if math.IsNaN(p.U) || math.IsNaN(p.V) || p.U < s.u0-reach || p.U > s.u1+reach || p.V < s.v0-5 || p.V > s.v1+5 {
			return refusal.New(refusal.OutOfRange, field, "A point lies off the map.")
		}
	}
	if closed && crosses(Curve(points, true)) {
		return refusal.New(refusal.Contradiction, field, "The outline crosses itself. Move the point that went over its own line.")
	}
	return nil
}

func crosses(outline []Point) bool {
	n := len(outline)
	// Where two lines meet just in their points, no test of signs sees it: a
	// nudge far below what can be drawn decides.
	c := make([]Point, n)
	for i, p := range outline {
		c[i] = Point{p.U + 1e-7*math.Sin(float64(13*i)), p.V + 1e-7*math.Cos(float64(7*i))}
	}
	side := func(a, b, p Point) float64 { return (b.U-a.U)*(p.V-a.V) - (b.V-a.V)*(p.U-a.U) }
	for i := range n {
		a, b := c[i], c[(i+1)%n]
		for k := i + 2; k < n; k++ {
			if i == 0 && k == n-1 {
				continue
			}
			p, q := c[k], c[(k+1)%n]
			if side(a, b, p)*side(a, b, q) < 0 && side(p, q, a)*side(p, q, b) < 0 {
				return true
			}
		}
	}
	return false
}

// Patch is a closed outline, followed, that can be asked what lies in it.
type Patch struct {
	curve          []Point
	u0, u1, v0, v1 float64
}

// Follow makes a patch of drawn points.
func Follow(points []Point) Patch {
	p := Patch{Curve(points, true), math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)}
	for _, c := range p.curve {
		p.u0, p.u1, p.v0, p.v1 = math.Min(p.u0, c.U), math.Max(p.u1, c.U), math.Min(p.v0, c.V), math.Max(p.v1, c.V)
	}
	return p
}

// once is one turn round the sheets that go round. On the others nothing lies
// a turn away.
const once = 200

// Holds tells whether a place lies in the patch (even-odd rule), whichever
// turn round the sheet it was drawn in.
func (a Patch) Holds(p Point) bool {
	if p.V < a.v0 || p.V > a.v1 {
		return false
	}
	for _, turn := range [3]float64{0, once, -once} {
		if u := p.U + turn; u >= a.u0 && u <= a.u1 && within(a.curve, Point{u, p.V}) {
			return true
		}
	}
	return false
}

// Apart tells, at a glance, that two patches cannot meet. False proves nothing.
func (a Patch) Apart(b Patch) bool {
	if a.v1 < b.v0 || b.v1 < a.v0 {
		return true
	}
	for _, turn := range [3]float64{0, once, -once} {
		if a.u1+turn >= b.u0 && b.u1 >= a.u0+turn {
			return false
		}
	}
	return true
}

func within(outline []Point, p Point) bool {
	in := false
	for i, j := 0, len(outline)-1; i < len(outline); j, i = i, i+1 {
		a, b := outline[i], outline[j]
		if (a.V > p.V) != (b.V > p.V) && p.U < (b.U-a.U)*(p.V-a.V)/(b.V-a.V)+a.U {
			in = !in
		}
	}
	return in
}
