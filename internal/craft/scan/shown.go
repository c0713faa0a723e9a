package scan

import (
	"context"
	"encoding/binary"
	"math"
	"slices"
)

// Shown is a surface as a picture needs it: places, faces, and layers of one
// number a place (NaN where nothing is known).
type Shown struct {
	V      []float32 // x, y, z of each place, mm
	F      []uint32  // three places of each face
	Layers [][]float32
}

// Show prepares a surface and layers of values for looking at. More than max
// faces are thinned by joining places that lie in one cell of a grid; a joined
// place keeps the value furthest from 0 of those that are known, so that a spot
// never vanishes in the picture.
func (m *Mesh) Show(max int, layers ...[]float64) Shown {
	index := make([]int32, len(m.V))
	kept := m.thin(max, index)
	out := Shown{V: make([]float32, 0, 3*len(kept)), Layers: make([][]float32, len(layers))}
	for _, p := range kept {
		out.V = append(out.V, float32(p[0]), float32(p[1]), float32(p[2]))
	}
	for k, layer := range layers {
		values := make([]float32, len(kept))
		for i := range values {
			values[i] = float32(math.NaN())
		}
		for i, x := range layer {
			at := &values[index[i]]
			if v := float32(x); v == v && (*at != *at || math.Abs(x) > math.Abs(float64(*at))) {
				*at = v
			}
		}
		out.Layers[k] = values
	}
	for _, f := range m.F {
		a, b, c := uint32(index[f[0]]), uint32(index[f[1]]), uint32(index[f[2]])
		if a != b && b != c && a != c {
			out.F = append(out.F, a, b, c)
		}
	}
	return out
}

// thin fills index with which kept place stands for each, and returns those.
func (m *Mesh) thin(max int, index []int32) []Vec {
	if len(m.F) <= max || max <= 0 {
		for i := range index {
			index[i] = int32(i)
		}
		return m.V
	}
	area := 0.0
	for _, a := range m.thirds() {
		area += a
	}
	// A grid of this cell leaves about max faces on a smooth surface.
	cell := math.Sqrt(2 * area / float64(max))
	at := map[[3]int32]int32{}
	var sums []Vec
	var counts []float64
	for i, p := range m.V {
		var key [3]int32
		for k := range 3 {
			key[k] = int32(math.Floor((p[k] - m.Box.Min[k]) / cell))
		}
		n, known := at[key]
		if !known {
			n = int32(len(sums))
			at[key] = n
			sums, counts = append(sums, Vec{}), append(counts, 0)
		}
		index[i] = n
		sums[n] = sums[n].add(p)
		counts[n]++
	}
	for i := range sums {
		sums[i] = sums[i].times(1 / counts[i])
	}
	return sums
}

// Encode writes a shown surface as little-endian words: "YWM1", the numbers of
// places, faces and layers (uint32), the places (float32), the faces (uint32),
// and each layer (float32).
func (s Shown) Encode() []byte {
	out := make([]byte, 0, 16+4*(len(s.V)+len(s.F)+len(s.Layers)*len(s.V)/3))
	out = append(out, "YWM1"...)
	for _, n := range []int{len(s.V) / 3, len(s.F) / 3, len(s.Layers)} {
		out = binary.LittleEndian.AppendUint32(out, uint32(n))
	}
	for _, x := range s.V {
		out = binary.LittleEndian.AppendUint32(out, math.Float32bits(x))
	}
	for _, i := range s.F {
		out = binary.LittleEndian.AppendUint32(out, i)
	}
	for _, l := range s.Layers {
		for _, x := range l {
			out = binary.LittleEndian.AppendUint32(out, math.Float32bits(x))
		}
	}
	return out
}

// Angles are the draft angles at the places of a mesh for a pull, degrees: the
// least of the faces round each. Locked places get −90.
func (m *Mesh) Angles(p *Pull) []float64 {
	out := make([]float64, len(m.V))
	for i := range out {
		out[i] = math.NaN()
	}
	for i, f := range m.F {
		n := m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).unit()
		g := n.dot(p.Direction)
		if p.Mode == "two" {
			g = math.Abs(g)
		}
		angle := math.Asin(max(-1, min(1, g))) * 180 / math.Pi
		if p.Locked[i] {
			angle = -90
		}
		for _, v := range f {
			if math.IsNaN(out[v]) || angle < out[v] {
				out[v] = angle
			}
		}
	}
	return out
}

// Place is a place worth pointing at.
type Place struct {
	At    Vec     `json:"at"`
	Value float64 `json:"value"`
}

// Undercuts are the centres of the largest locked areas of a pull, with their
// areas in mm², at most limit.
func (m *Mesh) Undercuts(p *Pull, limit int) []Place {
	f := newForest(len(m.F))
	byEdge := map[uint64]int32{}
	for i, t := range m.F {
		if !p.Locked[i] {
			continue
		}
		for k := range 3 {
			a, b := t[k], t[(k+1)%3]
			if a > b {
				a, b = b, a
			}
			key := uint64(a)<<32 | uint64(b)
			if other, met := byEdge[key]; met {
				f.join(other, int32(i))
			} else {
				byEdge[key] = int32(i)
			}
		}
	}
	at := map[int32]int{}
	var list []Place
	for i, t := range m.F {
		if !p.Locked[i] {
			continue
		}
		root := f.root(int32(i))
		n, known := at[root]
		if !known {
			n = len(list)
			at[root] = n
			list = append(list, Place{})
		}
		area := m.V[t[1]].sub(m.V[t[0]]).cross(m.V[t[2]].sub(m.V[t[0]])).length() / 2
		mid := m.V[t[0]].add(m.V[t[1]]).add(m.V[t[2]]).times(1. / 3)
		list[n].At = list[n].At.add(mid.times(area))
		list[n].Value += area
	}
	for i := range list {
		if list[i].Value > 0 {
			list[i].At = list[i].At.times(1 / list[i].Value)
		}
	}
	return largest(list, limit)
}

// largest are the places of the greatest values; ties by place, so that the
// order is the same for any order of triangles.
func largest(list []Place, limit int) []Place {
	slices.SortFunc(list, func(a, b Place) int {
		switch {
		case a.Value != b.Value:
			return cmp(b.Value, a.Value)
		case a.At[0] != b.At[0]:
			return cmp(a.At[0], b.At[0])
		case a.At[1] != b.At[1]:
			return cmp(a.At[1], b.At[1])
		}
		return cmp(a.At[2], b.At[2])
	})
	if len(list) > limit {
		list = list[:limit]
	}
	return list
}

func cmp(a, b float64) int {
	if a < b {
		return -1
	}
	return 1
}

// Vents are the local high points of an appliance along the way up in which it
// is poured: where air is caught. Only where something is cast (t > ε), at least
// apart mm from each other, highest first (handbook, section 12).
func (f *Field) Vents(up Vec, apart float64, limit int) ([]Place, error) {
	up, err := direction(up)
	if err != nil {
		return nil, err
	}
	height := make([]float64, len(f.Core.V))
	top := make([]bool, len(f.Core.V))
	for i := range height {
		height[i] = f.Core.V[i].add(f.Normal[i].times(math.Max(0, f.value(int32(i))))).dot(up)
		top[i] = !f.low(int32(i))
	}
	for _, t := range f.Core.F {
		for k := range 3 {
			a, b := t[k], t[(k+1)%3]
			if height[a] < height[b] {
				top[a] = false
			} else if height[b] < height[a] {
				top[b] = false
			}
		}
	}
	var list []Place
	for i, is := range top {
		if is {
			list = append(list, Place{f.Core.V[i].add(f.Normal[i].times(f.value(int32(i)))), height[i]})
		}
	}
	out := []Place{}
	for _, p := range largest(list, len(list)) {
		if len(out) < limit && !slices.ContainsFunc(out, func(q Place) bool { return p.At.sub(q.At).length() < apart }) {
			out = append(out, p)
		}
	}
	return out, nil
}

// Thin are the places off the edge where less than limit mm would be cast, one
// for each area that hangs together, with the least thickness there, largest
// first. Fewer than three core places say nothing and are left out.
func (f *Field) Thin(edge [][2]Vec, limit float64, most int) []Spot {
	near := f.nearEdge(edge)
	thin := func(i int32) bool {
		return !near[i] && f.covered[i] && f.T[i] > f.Fit.Eps && f.T[i] < limit
	}
	joined := newForest(len(f.T))
	for _, t := range f.Core.F {
		for k := range 3 {
			if a, b := t[k], t[(k+1)%3]; thin(a) && thin(b) {
				joined.join(a, b)
			}
		}
	}
	at, count := map[int32]int{}, map[int32]int{}
	var list []Spot
	for i := range f.T {
		if !thin(int32(i)) {
			continue
		}
		root := joined.root(int32(i))
		n, known := at[root]
		if !known {
			n = len(list)
			at[root] = n
			list = append(list, Spot{DepthMM: math.Inf(1)})
		}
		count[int32(n)]++
		list[n].AreaMM2 += f.areas[i]
		if f.T[i] < list[n].DepthMM {
			list[n].DepthMM, list[n].At = f.T[i], f.Core.V[i]
		}
	}
	out := []Spot{}
	for n, s := range list {
		if count[int32(n)] >= 3 {
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, func(a, b Spot) int { return cmp(b.AreaMM2, a.AreaMM2) })
	if len(out) > most {
		out = out[:most]
	}
	return out
}

// nearEdge tells which core places lie within the edge band of the edge line.
func (f *Field) nearEdge(edge [][2]Vec) []bool {
	out := make([]bool, len(f.T))
	tree, ok := edgeTree(edge)
	if !ok {
		return out
	}
	stack := make([]int32, 0, 128)
	band2 := f.Fit.EdgeBand * f.Fit.EdgeBand
	for i := range out {
		if !f.low(int32(i)) {
			_, out[i] = tree.nearestPlace(f.Core.V[i], band2*(1-1e-12), stack)
		}
	}
	return out
}

// Change is how one surface differs from another of the same thing.
type Change struct {
	MeanAbs    float64 `json:"mean_abs"`
	MeanSigned float64 `json:"mean_signed" doc:"above 0 where the later one stands proud"`
	P95        float64 `json:"p95"`
	Max        float64 `json:"max"`
	// Far is the share of the surface that the other one does not reach.
	Far float64   `json:"far"`
	At  []float64 `json:"-"`
}

// maxChange is how far a surface may have moved and still be compared, mm.
const maxChange = 30

// Change measures from every place of the later surface m to the nearest of the
// earlier one, signed by its face.
func (m *Mesh) Change(ctx context.Context, earlier *Mesh) (*Change, error) {
	tree, err := newTree(ctx, earlier)
	if err != nil {
		return nil, err
	}
	edge := newRim(earlier, earlier.Topology())
	areas := m.thirds()
	out := &Change{At: make([]float64, len(m.V))}
	if err := eachRunCtx(ctx, len(m.V), 1024, func(_, from, to int) {
		stack := make([]int32, 0, 128)
		for i := from; i < to; i++ {
			out.At[i] = math.NaN()
			c, ok := tree.nearestPlace(m.V[i], maxChange*maxChange, stack)
			if !ok || edge.has(earlier, c) {
				continue
			}
			g := earlier.F[c.face]
			n := earlier.V[g[1]].sub(earlier.V[g[0]]).cross(earlier.V[g[2]].sub(earlier.V[g[0]]))
			out.At[i] = math.Copysign(math.Sqrt(c.d2), m.V[i].sub(c.q).dot(n))
			if c.d2 == 0 {
				out.At[i] = 0
			}
		}
	}); err != nil {
		return nil, err
	}
	var list []weighed
	var total, far, signed float64
	for i, d := range out.At {
		total += areas[i]
		if math.IsNaN(d) {
			far += areas[i]
			continue
		}
		list = append(list, weighed{math.Abs(d), areas[i]})
		signed += d * areas[i]
		out.Max = math.Max(out.Max, math.Abs(d))
	}
	if len(list) == 0 || total == 0 {
		return nil, bad(NoOverlap, "earlier", "The two surfaces lie apart everywhere. Were they scanned in the same position?")
	}
	out.MeanAbs, out.P95 = summary(list)
	out.MeanSigned = signed / (total - far)
	out.Far = far / total
	return out, nil
}

// Decode reads what Encode wrote.
func Decode(raw []byte) (Shown, error) {
	wrong := bad(BadHeader, "surface", "This is no picture of a surface.")
	if len(raw) < 16 || string(raw[:4]) != "YWM1" {
		return Shown{}, wrong
	}
	word := func(at int) uint32 { return binary.LittleEndian.Uint32(raw[4*at:]) }
	v, f, layers := int(word(1)), int(word(2)), int(word(3))
	if v < 0 || f < 0 || layers < 0 || layers > 64 || len(raw) != 4*(4+3*v+3*f+layers*v) {
		return Shown{}, wrong
	}
	out := Shown{V: make([]float32, 3*v), F: make([]uint32, 3*f), Layers: make([][]float32, layers)}
	at := 4
	for i := range out.V {
		out.V[i] = math.Float32frombits(word(at))
		at++
	}
	for i := range out.F {
		if out.F[i] = word(at); int(out.F[i]) >= v {
			return Shown{}, wrong
		}
		at++
	}
	for k := range out.Layers {
		out.Layers[k] = make([]float32, v)
		for i := range out.Layers[k] {
			out.Layers[k][i] = math.Float32frombits(word(at))
			at++
		}
	}
	return out, nil
}

// Facing is the way in which an appliance looks on the whole: the mean of the
// core's normals under it, by area.
func (f *Field) Facing() Vec {
	var sum Vec
	for i, n := range f.Normal {
		if !f.low(int32(i)) {
			sum = sum.add(n.times(f.areas[i]))
		}
	}
	return sum.unit()
}

// Toward is d or its opposite, whichever looks more like n.
func Toward(d, n Vec) Vec {
	if d.dot(n) < 0 {
		return d.times(-1)
	}
	return d
}
