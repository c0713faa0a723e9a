package scan

import "math"

// turns are in how many steps a frame is turned through a quarter to find its
// smallest box.
const turns = 30

// BoxAlong is the box of a mesh whose third edge lies along a direction: its
// height along it last, and across it the edges of the smallest frame, the longer
// first. All in the mesh's unit. Without a direction it is the box of the axes.
func (m *Mesh) BoxAlong(dir Vec) Vec {
	length := math.Sqrt(dir[0]*dir[0] + dir[1]*dir[1] + dir[2]*dir[2])
	if length == 0 {
		return Vec{m.Box.Max[0] - m.Box.Min[0], m.Box.Max[1] - m.Box.Min[1], m.Box.Max[2] - m.Box.Min[2]}
	}
	w := Vec{dir[0] / length, dir[1] / length, dir[2] / length}
	// Any direction across it to begin with.
	u := Vec{1, 0, 0}
	if math.Abs(w[0]) > 0.9 {
		u = Vec{0, 1, 0}
	}
	d := u[0]*w[0] + u[1]*w[1] + u[2]*w[2]
	for k := range 3 {
		u[k] -= d * w[k]
	}
	l := math.Sqrt(u[0]*u[0] + u[1]*u[1] + u[2]*u[2])
	for k := range 3 {
		u[k] /= l
	}
	v := Vec{w[1]*u[2] - w[2]*u[1], w[2]*u[0] - w[0]*u[2], w[0]*u[1] - w[1]*u[0]}
	span := func(a Vec) float64 {
		low, high := math.Inf(1), math.Inf(-1)
		for _, p := range m.V {
			x := p[0]*a[0] + p[1]*a[1] + p[2]*a[2]
			low, high = math.Min(low, x), math.Max(high, x)
		}
		return high - low
	}
	best := Vec{math.Inf(1), math.Inf(1), span(w)}
	for i := range turns {
		c, s := math.Cos(float64(i)*math.Pi/2/turns), math.Sin(float64(i)*math.Pi/2/turns)
		var a, b Vec
		for k := range 3 {
			a[k], b[k] = c*u[k]+s*v[k], c*v[k]-s*u[k]
		}
		x, y := span(a), span(b)
		if x*y < best[0]*best[1] {
			best[0], best[1] = math.Max(x, y), math.Min(x, y)
		}
	}
	return best
}
