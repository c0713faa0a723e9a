package form

import "math"

// Flatten lays a closed outline of drawn points flat, in mm, x to the right of
// the map and y up, with its lower left at (0, 0). It is unrolled row by row
// from its middle column: lengths along every row are true, and those down the
// middle column; then it is scaled to its true area. scale is what that took: 1
// for a limb, further from 1 the more the skin bulges.
func (s *Sheet) Flatten(points []Point) (flat [][2]float64, scale float64) {
	curve := Curve(points, true)
	var lo, hi, low, high = math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for _, p := range curve {
		lo, hi, low, high = math.Min(lo, p.U), math.Max(hi, p.U), math.Min(low, p.V), math.Max(high, p.V)
	}
	mid := Point{(lo + hi) / 2, (low + high) / 2}
	// The way along a straight line of the map, in mm, with its sign.
	way := func(from, to Point) float64 {
		const steps = 24
		sum, last := 0.0, s.At(from)
		for i := 1; i <= steps; i++ {
			t := float64(i) / steps
			next := s.At(Point{from.U + t*(to.U-from.U), from.V + t*(to.V-from.V)})
			sum += last.Distance(next)
			last = next
		}
		return sum
	}
	flat = make([][2]float64, len(curve))
	for i, p := range curve {
		x := math.Copysign(way(Point{mid.U, p.V}, p), p.U-mid.U)
		y := math.Copysign(way(mid, Point{mid.U, p.V}), mid.V-p.V)
		flat[i] = [2]float64{x, y}
	}
	var area float64
	for i, p := range flat {
		q := flat[(i+1)%len(flat)]
		area += (p[0]*q[1] - q[0]*p[1]) / 2
	}
	scale = 1
	if skin := s.Area(points); area != 0 && skin > 0 {
		scale = math.Sqrt(skin / math.Abs(area))
	}
	left, bottom := math.Inf(1), math.Inf(1)
	for _, p := range flat {
		left, bottom = math.Min(left, p[0]), math.Min(bottom, p[1])
	}
	for i := range flat {
		flat[i] = [2]float64{math.Round(1000*scale*(flat[i][0]-left)) / 1000, math.Round(1000*scale*(flat[i][1]-bottom)) / 1000}
	}
	return flat, scale
}
