package texture

import (
	"math"
	"slices"
)

// ring is a closed polygon.
type ring []P

func (r ring) area() float64 {
	var sum float64
	for i, p := range r {
		q := r[(i+1)%len(r)]
		sum += float64(p[0]*q[1]) - float64(q[0]*p[1])
	}
	return math.Abs(sum) / 2
}

func (r ring) perimeter() float64 {
	var sum float64
	for i, p := range r {
		sum += apart(p, r[(i+1)%len(r)])
	}
	return sum
}

func apart(a, b P) float64 {
	dx, dy := a[0]-b[0], a[1]-b[1]
	return math.Sqrt(float64(dx*dx) + float64(dy*dy))
}

// edges turns rings into an indexed set of edges.
type edge struct{ a, b P }

// shape is a set of rings under the even-odd rule.
type shape struct {
	edges  []edge
	y0, dy float64
	slabs  [][]int32
	x0, x1 float64
	y1     float64
}

const slabCount = 64

func newShape(rings []ring) shape {
	s := shape{y0: math.Inf(1), y1: math.Inf(-1), x0: math.Inf(1), x1: math.Inf(-1)}
	for _, r := range rings {
		for i, p := range r {
			s.edges = append(s.edges, edge{p, r[(i+1)%len(r)]})
			s.y0, s.y1 = math.Min(s.y0, p[1]), math.Max(s.y1, p[1])
			s.x0, s.x1 = math.Min(s.x0, p[0]), math.Max(s.x1, p[0])
		}
	}
	s.dy = math.Max((s.y1-s.y0)/slabCount, 1e-12)
	s.slabs = make([][]int32, slabCount)
	for i, e := range s.edges {
		lo, hi := s.slab(math.Min(e.a[1], e.b[1])), s.slab(math.Max(e.a[1], e.b[1]))
		for k := lo; k <= hi; k++ {
			s.slabs[k] = append(s.slabs[k], int32(i))
		}
	}
	return s
}

func (s *shape) slab(y float64) int {
	return max(0, min(slabCount-1, int((y-s.y0)/s.dy)))
}

// holds is the even-odd rule.
func (s *shape) holds(p P) bool {
	if p[1] < s.y0 || p[1] > s.y1 || p[0] < s.x0 || p[0] > s.x1 {
		return false
	}
	in := false
	for _, i := range s.slabs[s.slab(p[1])] {
		e := &s.edges[i]
		if (e.a[1] > p[1]) != (e.b[1] > p[1]) && p[0] < float64((e.b[0]-e.a[0])*(p[1]-e.a[1]))/(e.b[1]-e.a[1])+e.a[0] {
			in = !in
		}
	}
	return in
}

// distance is how far a place is from the nearest edge.
func (s *shape) distance(p P) float64 {
	least := math.Inf(1)
	for i := range s.edges {
		least = math.Min(least, toSegment2(p, s.edges[i].a, s.edges[i].b))
	}
	return math.Sqrt(least)
}

// toSegment2 is the square of the distance to a segment.
func toSegment2(p, a, b P) float64 {
	dx, dy := b[0]-a[0], b[1]-a[1]
	px, py := p[0]-a[0], p[1]-a[1]
	if l := float64(dx*dx) + float64(dy*dy); l > 0 {
		t := math.Max(0, math.Min(1, (float64(px*dx)+float64(py*dy))/l))
		px, py = px-float64(t*dx), py-float64(t*dy)
	}
	return float64(px*px) + float64(py*py)
}

// clip cuts a line at the edges and returns its unbroken pieces within the
// shape, or outside it when within is false.
func (s *shape) clip(line []P, within bool) [][]P {
	var out [][]P
	var piece []P
	var cuts []float64
	end := func() {
		if len(piece) > 1 {
			out = append(out, piece)
		}
		piece = nil
	}
	for i := 0; i+1 < len(line); i++ {
		a, b := line[i], line[i+1]
		cuts = append(s.crossings(cuts[:0], a, b), 1)
		from := 0.0
		for _, to := range cuts {
			if to-from < 1e-12 {
				continue
			}
			mid := (from + to) / 2
			if s.holds(between(a, b, mid)) == within {
				if piece == nil {
					piece = append(piece, between(a, b, from))
				}
				piece = append(piece, between(a, b, to))
			} else {
				end()
			}
			from = to
		}
	}
	end()
	return out
}

func between(a, b P, t float64) P {
	switch t {
	case 0:
		return a
	case 1:
		return b
	}
	return P{a[0] + float64(t*(b[0]-a[0])), a[1] + float64(t*(b[1]-a[1]))}
}

// crossings are the shares of a segment at which it meets edges, in order.
func (s *shape) crossings(out []float64, a, b P) []float64 {
	lo, hi := math.Min(a[1], b[1]), math.Max(a[1], b[1])
	if hi < s.y0 || lo > s.y1 {
		return out
	}
	left, right := math.Min(a[0], b[0]), math.Max(a[0], b[0])
	dx, dy := b[0]-a[0], b[1]-a[1]
	for k := s.slab(lo); k <= s.slab(hi); k++ {
		for _, i := range s.slabs[k] {
			e := &s.edges[i]
			if e.a[0] > right && e.b[0] > right || e.a[0] < left && e.b[0] < left || e.a[1] > hi && e.b[1] > hi || e.a[1] < lo && e.b[1] < lo {
				continue
			}
			ex, ey := e.b[0]-e.a[0], e.b[1]-e.a[1]
			det := float64(dx*ey) - float64(dy*ex)
			if det == 0 {
				continue
			}
			qx, qy := e.a[0]-a[0], e.a[1]-a[1]
			t := (float64(qx*ey) - float64(qy*ex)) / det
			u := (float64(qx*dy) - float64(qy*dx)) / det
			if u >= 0 && u <= 1 && t > 0 && t < 1 {
				out = append(out, t)
			}
		}
	}
	slices.Sort(out)
	return out
}
