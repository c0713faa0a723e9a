package scan

import (
	"context"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// Sides is how far left and right differ about a plane.
type Sides struct {
	MeanAbs    float64 `json:"mean_abs"`
	MeanSigned float64 `json:"mean_signed" doc:"above 0 where the mirrored side stands proud"`
	RMS        float64 `json:"rms"`
	P95        float64 `json:"p95"`
	Max        float64 `json:"max"`
	// At is the difference at each place of the side that was compared; NaN
	// elsewhere.
	At []float64 `json:"-"`
}

func planeOf(point, normal Vec) (Vec, error) {
	if !point.finite() {
		return normal, bad(BadParameter, "point", "The plane's point is not a number.")
	}
	n, err := direction(normal)
	if err != nil {
		return n, bad(BadDirection, "normal", "The plane's normal must not be zero.")
	}
	return n, nil
}

// Symmetry compares the side that a plane's normal points to, mirrored, with
// the whole (handbook, section 8).
func (m *Mesh) Symmetry(ctx context.Context, point, normal Vec) (*Sides, error) {
	n, err := planeOf(point, normal)
	if err != nil {
		return nil, err
	}
	tree, err := newTree(ctx, m)
	if err != nil {
		return nil, err
	}
	edge := newRim(m, m.Topology())
	areas := m.thirds()
	out := &Sides{At: make([]float64, len(m.V))}
	seen := make([]int, len(m.V)) // 0 other side, 1 skipped, 2 compared
	if err := eachRunCtx(ctx, len(m.V), 1024, func(_, from, to int) {
		stack := make([]int32, 0, 128)
		for i := from; i < to; i++ {
			out.At[i] = math.NaN()
			h := m.V[i].sub(point).dot(n)
			if h <= 0 {
				continue
			}
			seen[i] = 1
			b := m.V[i].sub(n.times(2 * h))
			c, ok := tree.nearestPlace(b, math.Inf(1), stack)
			if !ok || edge.has(m, c) {
				continue
			}
			f := m.F[c.face]
			fn := m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]]))
			seen[i], out.At[i] = 2, math.Copysign(math.Sqrt(c.d2), b.sub(c.q).dot(fn))
			if c.d2 == 0 {
				out.At[i] = 0
			}
		}
	}); err != nil {
		return nil, err
	}
	var list []weighed
	var abs, signed, squares, weight float64
	any := false
	for i, s := range seen {
		any = any || s > 0
		if s != 2 {
			continue
		}
		d, w := out.At[i], areas[i]
		abs, signed, squares, weight = abs+math.Abs(d)*w, signed+d*w, squares+d*d*w, weight+w
		out.Max = math.Max(out.Max, math.Abs(d))
		list = append(list, weighed{math.Abs(d), w})
	}
	if !any {
		return nil, bad(PlaneMissesMesh, "point", "Nothing lies on that side of the plane.")
	}
	if weight == 0 {
		return nil, bad(NoOverlap, "normal", "Mirrored, that side meets only the edge of the scan.")
	}
	out.MeanAbs, out.MeanSigned, out.RMS = abs/weight, signed/weight, math.Sqrt(squares/weight)
	_, out.P95 = summary(list)
	return out, nil
}

// worst is the share of places that a plane fit leaves out.
const worst = 0.2

// FitPlane finds the plane about which a surface is most alike, from a start
// within 20° of it: closest places of the mirrored surface, the worst fifth
// left out, and a Gauss–Newton step on normal and offset.
func (m *Mesh) FitPlane(ctx context.Context, point, normal Vec) (n Vec, offset float64, err error) {
	if n, err = planeOf(point, normal); err != nil {
		return n, 0, err
	}
	offset = n.dot(point)
	tree, err := newTree(ctx, m)
	if err != nil {
		return n, 0, err
	}
	edge := newRim(m, m.Topology())
	type pair struct {
		v, fn Vec
		r, d  float64
		ok    bool
	}
	pairs := make([]pair, len(m.V))
	last := math.Inf(1)
	for range 40 {
		if err := eachRunCtx(ctx, len(m.V), 1024, func(_, from, to int) {
			stack := make([]int32, 0, 128)
			for i := from; i < to; i++ {
				pairs[i] = pair{}
				b := m.V[i].sub(n.times(2 * (n.dot(m.V[i]) - offset)))
				c, ok := tree.nearestPlace(b, math.Inf(1), stack)
				if !ok || edge.has(m, c) {
					continue
				}
				f := m.F[c.face]
				fn := m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).unit()
				pairs[i] = pair{m.V[i], fn, b.sub(c.q).dot(fn), c.d2, true}
			}
		}); err != nil {
			return n, 0, err
		}
		var used []pair
		for _, p := range pairs {
			if p.ok {
				used = append(used, p)
			}
		}
		if len(used) < 10 {
			return n, 0, bad(NoOverlap, "normal", "Mirrored, the scan does not meet itself.")
		}
		slices.SortFunc(used, func(a, b pair) int {
			switch {
			case a.d < b.d:
				return -1
			case a.d > b.d:
				return 1
			}
			return 0
		})
		used = used[:len(used)-int(worst*float64(len(used)))]
		axis := Vec{1, 0, 0}
		if math.Abs(n[0]) >= 0.9 {
			axis = Vec{0, 1, 0}
		}
		t1 := n.cross(axis).unit()
		t2 := n.cross(t1)
		var ata [9]float64
		var atb [3]float64
		var sum float64
		for _, p := range used {
			// B = v − 2(n·v − o)n; its change with n along t, and with o.
			h := n.dot(p.v) - offset
			along := func(t Vec) float64 { return n.times(-2 * t.dot(p.v)).add(t.times(-2 * h)).dot(p.fn) }
			j := [3]float64{along(t1), along(t2), 2 * n.dot(p.fn)}
			for a := range 3 {
				for b := range 3 {
					ata[3*a+b] += j[a] * j[b]
				}
				atb[a] -= j[a] * p.r
			}
			sum += p.r * p.r
		}
		rms := math.Sqrt(sum / float64(len(used)))
		var step mat.VecDense
		if err := step.SolveVec(mat.NewDense(3, 3, ata[:]), mat.NewVecDense(3, atb[:])); err != nil {
			break // nothing tells one plane from another, as on a sphere
		}
		n = n.add(t1.times(step.AtVec(0))).add(t2.times(step.AtVec(1))).unit()
		offset += step.AtVec(2)
		moved := math.Abs(step.AtVec(0)) + math.Abs(step.AtVec(1)) + math.Abs(step.AtVec(2))
		if math.Abs(last-rms) < 1e-9 && moved < 1e-9 {
			break
		}
		last = rms
	}
	return n, offset, nil
}
