package scan

import (
	"context"
	"math"
	"runtime"
	"sync"
)

// tree is a bounding-box tree over the faces of a mesh: rays in both directions
// in one descent, and closest places. Boxes are float32, rounded outward.
type tree struct {
	m     *Mesh
	nodes []node
	faces []int32
}

// node holds a box; a leaf has count faces from first on, another its children
// at first and first+1.
type node struct {
	min, max [3]float32
	first    int32
	count    int32
}

// The most faces of a leaf: for lines that are asked in both directions, and for
// rays that end at the first face.
const leafFaces, rayLeaf = 4, 2

func down(x float64) float32 {
	f := float32(x)
	if float64(f) > x {
		f = math.Nextafter32(f, float32(math.Inf(-1)))
	}
	return f
}

func up(x float64) float32 {
	f := float32(x)
	if float64(f) < x {
		f = math.Nextafter32(f, float32(math.Inf(1)))
	}
	return f
}

// newTree builds the tree by splitting at the middle of the longest side of
// the faces' centres, the larger halves side by side.
func newTree(ctx context.Context, m *Mesh) (*tree, error) { return treeOf(ctx, m, leafFaces) }

func treeOf(ctx context.Context, m *Mesh, leaf int) (*tree, error) {
	n := len(m.F)
	t := &tree{m: m, faces: make([]int32, n), nodes: make([]node, max(1, 2*n))}
	centres := make([][3]float32, n)
	if err := eachRunCtx(ctx, n, runLength, func(_, from, to int) {
		for i := from; i < to; i++ {
			f := m.F[i]
			for k := range 3 {
				centres[i][k] = float32((m.V[f[0]][k] + m.V[f[1]][k] + m.V[f[2]][k]) / 3)
			}
			t.faces[i] = int32(i)
		}
	}); err != nil {
		return nil, err
	}
	// A node's children lie in the part of the list that belongs to its faces,
	// so that workers never share it: 2k nodes are enough for k faces.
	b := builder{t: t, leaf: leaf, centres: centres, gate: make(chan struct{}, runtime.GOMAXPROCS(0))}
	if n > 0 {
		b.build(0, 1, 0, n)
		b.wait.Wait()
	}
	return t, ctx.Err()
}

type builder struct {
	t       *tree
	leaf    int
	centres [][3]float32
	gate    chan struct{}
	wait    sync.WaitGroup
}

// build fills node at with the faces [from, to); free is the first node that
// its children may take, of 2·(to−from) that are theirs.
func (b *builder) build(at, free int32, from, to int) {
	t := b.t
	nd := &t.nodes[at]
	inf := float32(math.Inf(1))
	nd.min, nd.max = [3]float32{inf, inf, inf}, [3]float32{-inf, -inf, -inf}
	lo, hi := nd.min, nd.max
	for _, i := range t.faces[from:to] {
		for _, v := range t.m.F[i] {
			p := &t.m.V[v]
			for k := range 3 {
				if d := down(p[k]); d < nd.min[k] {
					nd.min[k] = d
				}
				if u := up(p[k]); u > nd.max[k] {
					nd.max[k] = u
				}
			}
		}
		c := &b.centres[i]
		for k := range 3 {
			lo[k], hi[k] = min(lo[k], c[k]), max(hi[k], c[k])
		}
	}
	if to-from <= b.leaf {
		nd.first, nd.count = int32(from), int32(to-from)
		return
	}
	axis := 0
	for k := 1; k < 3; k++ {
		if hi[k]-lo[k] > hi[axis]-lo[axis] {
			axis = k
		}
	}
	mid := b.part(from, to, axis, (lo[axis]+hi[axis])/2)
	nd.first = free
	left, right := free, free+1
	rest := free + 2
	rightFree := rest + 2*int32(mid-from) - 2
	if to-from > 20_000 {
		select {
		case b.gate <- struct{}{}:
			b.wait.Go(func() {
				b.build(left, rest, from, mid)
				<-b.gate
			})
			b.build(right, rightFree, mid, to)
			return
		default:
		}
	}
	b.build(left, rest, from, mid)
	b.build(right, rightFree, mid, to)
}

// part puts the faces below a middle first; where all lie on one side, half
// and half.
func (b *builder) part(from, to, axis int, middle float32) int {
	f := b.t.faces
	i, j := from, to-1
	for i <= j {
		if b.centres[f[i]][axis] < middle {
			i++
		} else {
			f[i], f[j] = f[j], f[i]
			j--
		}
	}
	if i == from || i == to {
		return (from + to) / 2
	}
	return i
}

// span is where a line p + s·n runs through a box, as an interval of s.
func (nd *node) span(p, inv *Vec) (lo, hi float64) {
	lo, hi = math.Inf(-1), math.Inf(1)
	for k := range 3 {
		a, b := (float64(nd.min[k])-p[k])*inv[k], (float64(nd.max[k])-p[k])*inv[k]
		if a > b {
			a, b = b, a
		}
		// A line within a face of the box gives NaN: it counts as inside.
		if a > lo {
			lo = a
		}
		if b < hi {
			hi = b
		}
	}
	return lo, hi
}

// slack lets a line through an edge hit one of its faces for sure.
const slack = 1e-9

// hit is where a line meets a face: at p + s·n; outward says whether the face
// looks the way n does.
func (t *tree) hit(face int32, p, n *Vec) (s float64, outward, ok bool) {
	f := &t.m.F[face]
	a, b, c := &t.m.V[f[0]], &t.m.V[f[1]], &t.m.V[f[2]]
	e1, e2 := b.sub(*a), c.sub(*a)
	q := n.cross(e2)
	det := e1.dot(q)
	if det == 0 {
		return 0, false, false
	}
	inv := 1 / det
	w := p.sub(*a)
	u := w.dot(q) * inv
	if u < -slack || u > 1+slack {
		return 0, false, false
	}
	r := w.cross(e1)
	v := n.dot(r) * inv
	if v < -slack || u+v > 1+slack {
		return 0, false, false
	}
	// det is −n·(e1 × e2): below 0 where the face looks along n.
	return e2.dot(r) * inv, det < 0, true
}

// nearest finds the outward crossing with the least |s| in [lo, hi], and
// whether another outward one lies further than apart from it.
func (t *tree) nearest(p, n Vec, lo, hi, apart float64, stack []int32) (s float64, found, multi bool) {
	inv := Vec{1 / n[0], 1 / n[1], 1 / n[2]}
	best := math.Inf(1)
	// The least and greatest crossing say whether there is another.
	least, most := math.Inf(1), math.Inf(-1)
	stack = append(stack[:0], 0)
	for len(stack) > 0 {
		nd := &t.nodes[stack[len(stack)-1]]
		stack = stack[:len(stack)-1]
		a, b := nd.span(&p, &inv)
		if a > b || b < lo || a > hi {
			continue
		}
		if nd.count > 0 {
			for _, i := range t.faces[nd.first : nd.first+nd.count] {
				x, outward, ok := t.hit(i, &p, &n)
				if !ok || !outward || x < lo || x > hi {
					continue
				}
				least, most = math.Min(least, x), math.Max(most, x)
				if math.Abs(x) < math.Abs(best) || math.Abs(x) == math.Abs(best) && x > best {
					best = x
				}
			}
			continue
		}
		stack = append(stack, nd.first, nd.first+1)
	}
	if math.IsInf(best, 0) {
		return 0, false, false
	}
	return best, true, most-best > apart || best-least > apart
}

// ray is a direction made ready: many rays run the same way.
type ray struct {
	n, inv Vec
	back   [3]bool // runs against the axis
}

func newRay(n Vec) ray {
	return ray{n, Vec{1 / n[0], 1 / n[1], 1 / n[2]}, [3]bool{n[0] < 0 || math.Signbit(n[0]), n[1] < 0 || math.Signbit(n[1]), n[2] < 0 || math.Signbit(n[2])}}
}

// passes tells whether a ray from p runs through the box further than after. Each
// side is asked by its near and its far plane, so that nothing has to be turned.
func (nd *node) passes(p *Vec, r *ray, after float64) bool {
	// One side after the other, written out: half of a search is spent here. A
	// line within a face of the box gives NaN, which compares as inside.
	near, far := nd.min[0], nd.max[0]
	if r.back[0] {
		near, far = far, near
	}
	lo, hi := (float64(near)-p[0])*r.inv[0], (float64(far)-p[0])*r.inv[0]
	if !(lo > after) {
		lo = after
	}
	if hi < lo {
		return false
	}
	if near, far = nd.min[1], nd.max[1]; r.back[1] {
		near, far = far, near
	}
	if a := (float64(near) - p[1]) * r.inv[1]; a > lo {
		lo = a
	}
	if b := (float64(far) - p[1]) * r.inv[1]; b < hi || hi != hi {
		hi = b
	}
	if hi < lo {
		return false
	}
	if near, far = nd.min[2], nd.max[2]; r.back[2] {
		near, far = far, near
	}
	if a := (float64(near) - p[2]) * r.inv[2]; a > lo {
		lo = a
	}
	if b := (float64(far) - p[2]) * r.inv[2]; b < hi || hi != hi {
		hi = b
	}
	return !(hi < lo)
}

// meets tells whether a ray from p meets any face further than after.
func (t *tree) meets(p Vec, r *ray, after float64, self int32, stack []int32) bool {
	if !t.nodes[0].passes(&p, r, after) {
		return false
	}
	stack = append(stack[:0], 0)
	for len(stack) > 0 {
		nd := &t.nodes[stack[len(stack)-1]]
		stack = stack[:len(stack)-1]
		if nd.count > 0 {
			for _, i := range t.faces[nd.first : nd.first+nd.count] {
				if i == self {
					continue
				}
				if s, _, ok := t.hit(i, &p, &r.n); ok && s > after {
					return true
				}
			}
			continue
		}
		for c := nd.first; c < nd.first+2; c++ {
			if t.nodes[c].passes(&p, r, after) {
				stack = append(stack, c)
			}
		}
	}
	return false
}

// Feature is on what of a face a closest place lies.
type feature uint8

const (
	inFace feature = iota
	onEdge
	onCorner
)

// closest is the place of the mesh nearest to p.
type closest struct {
	q    Vec
	d2   float64
	face int32
	on   feature
	at   int // which corner, or the edge from that corner
	u, v float64
}

func (nd *node) away2(p *Vec) float64 {
	var d2 float64
	for k := range 3 {
		if d := float64(nd.min[k]) - p[k]; d > 0 {
			d2 += d * d
		} else if d := p[k] - float64(nd.max[k]); d > 0 {
			d2 += d * d
		}
	}
	return d2
}

// nearestPlace finds the closest place to p within √within2.
func (t *tree) nearestPlace(p Vec, within2 float64, stack []int32) (closest, bool) {
	best := closest{d2: within2, face: -1}
	stack = append(stack[:0], 0)
	for len(stack) > 0 {
		nd := &t.nodes[stack[len(stack)-1]]
		stack = stack[:len(stack)-1]
		if nd.away2(&p) > best.d2 {
			continue
		}
		if nd.count > 0 {
			for _, i := range t.faces[nd.first : nd.first+nd.count] {
				f := t.m.F[i]
				c := onTriangle(p, t.m.V[f[0]], t.m.V[f[1]], t.m.V[f[2]])
				if c.d2 < best.d2 || c.d2 == best.d2 && best.face < 0 {
					c.face = i
					best = c
				}
			}
			continue
		}
		// The nearer child last, so that it is looked at first.
		a, b := nd.first, nd.first+1
		if t.nodes[a].away2(&p) < t.nodes[b].away2(&p) {
			a, b = b, a
		}
		stack = append(stack, a, b)
	}
	return best, best.face >= 0
}

// onTriangle is the closest place of a triangle (Ericson 2005, section 5.1.5).
func onTriangle(p, a, b, c Vec) closest {
	ab, ac, ap := b.sub(a), c.sub(a), p.sub(a)
	d1, d2 := ab.dot(ap), ac.dot(ap)
	at := func(q Vec, on feature, k int, u, v float64) closest {
		w := p.sub(q)
		return closest{q: q, d2: w.dot(w), on: on, at: k, u: u, v: v}
	}
	if d1 <= 0 && d2 <= 0 {
		return at(a, onCorner, 0, 0, 0)
	}
	bp := p.sub(b)
	d3, d4 := ab.dot(bp), ac.dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return at(b, onCorner, 1, 1, 0)
	}
	vc := d1*d4 - d3*d2
	if vc <= 0 && d1 >= 0 && d3 <= 0 {
		v := d1 / (d1 - d3)
		return at(a.add(ab.times(v)), onEdge, 0, v, 0)
	}
	cp := p.sub(c)
	d5, d6 := ab.dot(cp), ac.dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return at(c, onCorner, 2, 0, 1)
	}
	vb := d5*d2 - d1*d6
	if vb <= 0 && d2 >= 0 && d6 <= 0 {
		w := d2 / (d2 - d6)
		return at(a.add(ac.times(w)), onEdge, 2, 0, w)
	}
	va := d3*d6 - d5*d4
	if va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 {
		w := (d4 - d3) / ((d4 - d3) + (d5 - d6))
		return at(b.add(c.sub(b).times(w)), onEdge, 1, 1-w, w)
	}
	denom := 1 / (va + vb + vc)
	v, w := vb*denom, vc*denom
	return at(a.add(ab.times(v)).add(ac.times(w)), inFace, 0, v, w)
}
