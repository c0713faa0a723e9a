package scan

import (
	"context"
	"math"
	"slices"
)

// edge measures the feather edge: along the sculpt's own boundary where that
// lies on the core, else along the line where the thickness comes to nothing.
func (f *Field) edge(out *Thickness, regions []region, outside func(int32) bool) {
	tree, err := newTree(context.Background(), f.Core)
	if err != nil {
		return
	}
	if f.onBoundary(tree, outside) {
		f.boundaryEdge(out, tree)
	} else {
		f.contourEdge(out, outside)
	}
	f.interior(out)
}

// onBoundary tells whether more than half of the sculpt's boundary projects to
// the inside of the core, while at least half of what lies outside is
// uncovered.
func (f *Field) onBoundary(tree *tree, outside func(int32) bool) bool {
	edge := newRim(f.Core, f.coreTop)
	var inside, all float64
	stack := make([]int32, 0, 128)
	for _, loop := range f.sculptIs.loops {
		for _, e := range loop {
			a, b := f.sculpt.V[e[0]], f.sculpt.V[e[1]]
			l := a.sub(b).length()
			all += l
			if c, ok := tree.nearestPlace(a.add(b).times(0.5), math.Inf(1), stack); ok && !edge.has(f.Core, c) {
				inside += l
			}
		}
	}
	if all == 0 || inside <= all/2 {
		return false
	}
	var gaps, total float64
	for i := range f.T {
		if outside(int32(i)) {
			total += f.areas[i]
			if !f.covered[i] {
				gaps += f.areas[i]
			}
		}
	}
	return total > 0 && gaps >= total/2
}

type weighed struct{ v, w float64 }

// summary is the weighted mean and the 95th percentile.
func summary(list []weighed) (mean, p95 float64) {
	var sum, weight float64
	for _, x := range list {
		sum, weight = sum+x.v*x.w, weight+x.w
	}
	if weight == 0 {
		return 0, 0
	}
	slices.SortFunc(list, func(a, b weighed) int {
		switch {
		case a.v < b.v:
			return -1
		case a.v > b.v:
			return 1
		}
		return 0
	})
	run := 0.0
	for _, x := range list {
		if run += x.w; run >= 0.95*weight {
			return sum / weight, x.v
		}
	}
	return sum / weight, list[len(list)-1].v
}

// boundaryEdge measures how thick the sculpt's own boundary stands on the core.
func (f *Field) boundaryEdge(out *Thickness, tree *tree) {
	out.EdgeMode = "boundary"
	stack := make([]int32, 0, 128)
	thick := map[int32]float64{}
	var list []weighed
	over := 0.0
	for _, loop := range f.sculptIs.loops {
		for _, e := range loop {
			var t float64
			for _, v := range e {
				d, known := thick[v]
				if !known {
					if c, ok := tree.nearestPlace(f.sculpt.V[v], math.Inf(1), stack); ok {
						d = math.Sqrt(c.d2)
					}
					thick[v] = d
					out.EdgeMax = math.Max(out.EdgeMax, d)
				}
				t += d / 2
			}
			a, b := f.sculpt.V[e[0]], f.sculpt.V[e[1]]
			l := a.sub(b).length()
			out.EdgeLength += l
			list = append(list, weighed{t, l})
			if t > f.Fit.EdgeLimit {
				over += l
			}
			out.EdgeLine = append(out.EdgeLine, [2]Vec{a, b})
		}
	}
	out.EdgeMean, out.EdgeP95 = summary(list)
	if out.EdgeLength > 0 {
		out.EdgeOver = over / out.EdgeLength
	}
}

// crossing is where a linear value comes to a limit between two places.
func crossing(a, b Vec, ta, tb, limit float64) Vec {
	return a.add(b.sub(a).times((limit - ta) / (tb - ta)))
}

// contourEdge follows the line t = ε between the appliance and what lies
// outside it, and how steeply the thickness rises behind it.
func (f *Field) contourEdge(out *Thickness, outside func(int32) bool) {
	out.EdgeMode = "contour"
	m := f.Core
	onLine := make([]bool, len(m.V))
	for i, c := range m.F {
		low, touches := 0, false
		for _, v := range c {
			if f.low(v) {
				low++
				touches = touches || outside(v)
			}
		}
		if low == 0 || low == 3 || !touches {
			continue
		}
		_, t := f.face(i)
		var ends []Vec
		for k := range 3 {
			a, b := c[k], c[(k+1)%3]
			if f.low(a) != f.low(b) {
				ta, tb := t[k], t[(k+1)%3]
				if ta == tb {
					continue
				}
				ends = append(ends, crossing(m.V[a], m.V[b], ta, tb, f.Fit.Eps))
			}
		}
		if len(ends) == 2 {
			out.EdgeLine = append(out.EdgeLine, [2]Vec{ends[0], ends[1]})
			out.EdgeLength += ends[0].sub(ends[1]).length()
		}
		for _, v := range c {
			if !f.low(v) {
				onLine[v] = true
			}
		}
	}
	var slopes []weighed
	for i, c := range m.F {
		near := false
		whole := true
		for _, v := range c {
			whole = whole && !f.low(v)
			near = near || onLine[v]
		}
		if !whole || !near {
			continue
		}
		area, t := f.face(i)
		a, b, d := m.V[c[0]], m.V[c[1]], m.V[c[2]]
		n := b.sub(a).cross(d.sub(a))
		if l2 := n.dot(n); l2 > 0 {
			// The gradient of a linear value over a triangle.
			g := n.cross(d.sub(b)).times(t[0]).add(n.cross(a.sub(d)).times(t[1])).add(n.cross(b.sub(a)).times(t[2])).times(1 / l2)
			slopes = append(slopes, weighed{g.length(), area})
		}
	}
	out.EdgeSlope, out.EdgeSlopeP95 = summary(slopes)
	if out.EdgeSlope > 0 {
		out.EdgeTo1MM = 1 / out.EdgeSlope
	}
}

// edgeTree finds the closest place of an edge line; none for an empty one.
func edgeTree(edge [][2]Vec) (*tree, bool) {
	line := &Mesh{Box: emptyBox()}
	for _, s := range edge {
		n := int32(len(line.V))
		line.V = append(line.V, s[0], s[1])
		// A segment as a triangle without area: the tree finds it all the same.
		line.F = append(line.F, [3]int32{n, n + 1, n + 1})
	}
	tree, err := newTree(context.Background(), line)
	return tree, err == nil && len(edge) > 0
}

// interior is the least thickness further than the edge band from the edge.
func (f *Field) interior(out *Thickness) {
	out.InteriorMin = math.Inf(1)
	tree, has := edgeTree(out.EdgeLine)
	stack := make([]int32, 0, 128)
	band2 := f.Fit.EdgeBand * f.Fit.EdgeBand
	for i := range f.T {
		if f.low(int32(i)) || f.T[i] >= out.InteriorMin {
			continue
		}
		if has {
			if _, near := tree.nearestPlace(f.Core.V[i], band2*(1-1e-12), stack); near {
				continue
			}
		}
		out.InteriorMin, out.InteriorAt = f.T[i], f.Core.V[i]
	}
	if math.IsInf(out.InteriorMin, 0) {
		out.InteriorMin = 0
	}
}
