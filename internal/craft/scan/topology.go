package scan

import (
	"math"
	"slices"
)

// Mesh is a surface whose equal places were made one.
type Mesh struct {
	V []Vec
	F [][3]int32
	// Degenerate triangles had a place twice and were left out.
	Degenerate int
	Box        Box
}

// Weld makes places of exactly equal coordinates one (−0 is 0), and drops
// triangles that name a place twice.
func (r *Raw) Weld() *Mesh {
	m := &Mesh{Box: emptyBox()}
	at := newPlaces(len(r.Points))
	index := make([]int32, len(r.Points))
	for i, p := range r.Points {
		for k := range 3 {
			p[k] += 0 // −0 becomes 0
		}
		n, isNew := at.find(p, m.V)
		if isNew {
			m.V = append(m.V, p)
		}
		index[i] = n
	}
	n := r.Triangles()
	m.F = make([][3]int32, 0, n)
	for i := range n {
		var f [3]int32
		for k := range 3 {
			if r.Faces == nil {
				f[k] = index[3*i+k]
			} else {
				f[k] = index[r.Faces[i][k]]
			}
		}
		if f[0] == f[1] || f[1] == f[2] || f[0] == f[2] {
			m.Degenerate++
			continue
		}
		m.F = append(m.F, f)
	}
	m.drop()
	for _, p := range m.V {
		m.Box.take(p)
	}
	return m
}

// drop leaves out places that no triangle names.
func (m *Mesh) drop() {
	used := make([]int32, len(m.V))
	for _, f := range m.F {
		for _, i := range f {
			used[i] = 1
		}
	}
	n := int32(0)
	for i := range used {
		if used[i] == 1 {
			m.V[n] = m.V[i]
			used[i] = n
			n++
		}
	}
	m.V = m.V[:n]
	for i := range m.F {
		for k := range 3 {
			m.F[i][k] = used[m.F[i][k]]
		}
	}
}

// places finds equal places: open addressing on the coordinates' bits.
type places struct {
	slots []int32
	mask  uint64
}

func newPlaces(n int) places {
	size := 16
	for size < 2*n {
		size *= 2
	}
	return places{make([]int32, size), uint64(size - 1)}
}

func (p *places) find(v Vec, all []Vec) (n int32, isNew bool) {
	h := uint64(0x9E3779B97F4A7C15)
	for _, x := range v {
		h = (h ^ math.Float64bits(x)) * 0xBF58476D1CE4E5B9
		h ^= h >> 29
	}
	for at := h & p.mask; ; at = (at + 1) & p.mask {
		s := p.slots[at]
		if s == 0 {
			p.slots[at] = int32(len(all)) + 1
			return int32(len(all)), true
		}
		if all[s-1] == v {
			return s - 1, false
		}
	}
}

// edge of a mesh: its lesser place, its greater, which face, and whether the
// face runs from the lesser to the greater.
type edgeUse struct {
	key  uint64
	face int32
	up   bool
}

// edgeUses are all edges of all faces, equal ones together.
func (m *Mesh) edgeUses() []edgeUse {
	uses := make([]edgeUse, 0, 3*len(m.F))
	for i, f := range m.F {
		for k := range 3 {
			a, b := f[k], f[(k+1)%3]
			u := edgeUse{face: int32(i), up: a < b}
			if a > b {
				a, b = b, a
			}
			u.key = uint64(a)<<32 | uint64(b)
			uses = append(uses, u)
		}
	}
	slices.SortFunc(uses, func(a, b edgeUse) int {
		switch {
		case a.key < b.key:
			return -1
		case a.key > b.key:
			return 1
		}
		return int(a.face - b.face)
	})
	return uses
}

func (e edgeUse) ends() (int32, int32) { return int32(e.key >> 32), int32(e.key & 0xFFFFFFFF) }

// Topology is how a surface hangs together.
type Topology struct {
	Triangles   int  `json:"triangles"`
	Vertices    int  `json:"vertices"`
	Edges       int  `json:"edges"`
	Euler       int  `json:"euler"`
	Components  int  `json:"components"`
	Boundary    int  `json:"boundary_edges"`
	Holes       int  `json:"holes"`
	NonManifold int  `json:"nonmanifold_edges"`
	Inconsist   int  `json:"inconsistent_edges"`
	Flipped     int  `json:"flipped_faces"`
	OneSided    bool `json:"one_sided" doc:"no orientation fits everywhere"`
	Duplicates  int  `json:"duplicate_faces"`
	Degenerate  int  `json:"degenerate"`
	ZeroArea    int  `json:"zero_area"`
	Watertight  bool `json:"watertight"`
	// boundaryLoops are the boundary's components as directed edges, each along
	// its face after re-orientation.
	loops [][][2]int32
	flip  []bool
}

// forest joins things into components.
type forest []int32

func newForest(n int) forest {
	f := make(forest, n)
	for i := range f {
		f[i] = int32(i)
	}
	return f
}

func (f forest) root(i int32) int32 {
	for f[i] != i {
		f[i] = f[f[i]]
		i = f[i]
	}
	return i
}

func (f forest) join(a, b int32) {
	a, b = f.root(a), f.root(b)
	if a < b {
		f[b] = a
	} else {
		f[a] = b
	}
}

// Topology looks at how the faces hang together (handbook, section 2).
func (m *Mesh) Topology() *Topology {
	uses := m.edgeUses()
	t := &Topology{Triangles: len(m.F), Vertices: len(m.V), Degenerate: m.Degenerate, flip: make([]bool, len(m.F))}
	parts := newForest(len(m.F))
	type pair struct{ a, b edgeUse }
	var manifold []pair
	var rim []edgeUse
	for i := 0; i < len(uses); {
		j := i
		for j < len(uses) && uses[j].key == uses[i].key {
			parts.join(uses[i].face, uses[j].face)
			j++
		}
		t.Edges++
		switch j - i {
		case 1:
			rim = append(rim, uses[i])
		case 2:
			manifold = append(manifold, pair{uses[i], uses[i+1]})
			if uses[i].up == uses[i+1].up {
				t.Inconsist++
			}
		default:
			t.NonManifold++
		}
		i = j
	}
	t.Boundary = len(rim)
	t.Euler = t.Vertices - t.Edges + t.Triangles
	for i := range m.F {
		if parts.root(int32(i)) == int32(i) {
			t.Components++
		}
	}
	// Neighbours over manifold edges, and whether they run against each other.
	heads := make([]int32, len(m.F)+1)
	for _, p := range manifold {
		heads[p.a.face+1]++
		heads[p.b.face+1]++
	}
	for i := range m.F {
		heads[i+1] += heads[i]
	}
	type link struct {
		face  int32
		turns bool
	}
	links := make([]link, 2*len(manifold))
	fill := slices.Clone(heads)
	for _, p := range manifold {
		turns := p.a.up == p.b.up
		links[fill[p.a.face]] = link{p.b.face, turns}
		fill[p.a.face]++
		links[fill[p.b.face]] = link{p.a.face, turns}
		fill[p.b.face]++
	}
	seen := make([]bool, len(m.F))
	var queue []int32
	for first := range m.F {
		if seen[first] {
			continue
		}
		queue = append(queue[:0], int32(first))
		seen[first] = true
		turned := 0
		for at := 0; at < len(queue); at++ {
			i := queue[at]
			if t.flip[i] {
				turned++
			}
			for _, l := range links[heads[i]:heads[i+1]] {
				want := t.flip[i] != l.turns
				if !seen[l.face] {
					seen[l.face], t.flip[l.face] = true, want
					queue = append(queue, l.face)
				} else if t.flip[l.face] != want {
					t.OneSided = true
				}
			}
		}
		// The majority is right.
		if 2*turned > len(queue) {
			for _, i := range queue {
				t.flip[i] = !t.flip[i]
			}
			turned = len(queue) - turned
		}
		t.Flipped += turned
	}
	t.findLoops(m, rim)
	t.count(m)
	t.Watertight = t.Boundary == 0 && t.NonManifold == 0 && t.Inconsist == 0
	return t
}

// findLoops parts the boundary into its components.
func (t *Topology) findLoops(m *Mesh, rim []edgeUse) {
	at := map[int32]int32{}
	index := func(v int32) int32 {
		n, ok := at[v]
		if !ok {
			n = int32(len(at))
			at[v] = n
		}
		return n
	}
	for _, e := range rim {
		a, b := e.ends()
		index(a)
		index(b)
	}
	parts := newForest(len(at))
	for _, e := range rim {
		a, b := e.ends()
		parts.join(at[a], at[b])
	}
	by := map[int32]int{}
	for _, e := range rim {
		a, b := e.ends()
		if e.up == t.flip[e.face] { // as its face runs, once oriented
			a, b = b, a
		}
		root := parts.root(at[a])
		n, ok := by[root]
		if !ok {
			n = len(t.loops)
			by[root] = n
			t.loops = append(t.loops, nil)
		}
		t.loops[n] = append(t.loops[n], [2]int32{a, b})
	}
	t.Holes = len(t.loops)
}

// count finds faces that lie twice, and those without area.
func (t *Topology) count(m *Mesh) {
	keys := make([][3]int32, len(m.F))
	for i, f := range m.F {
		slices.Sort(f[:])
		keys[i] = f
	}
	slices.SortFunc(keys, func(a, b [3]int32) int { return slices.Compare(a[:], b[:]) })
	for i := 1; i < len(keys); i++ {
		if keys[i] == keys[i-1] {
			t.Duplicates++
		}
	}
	least := 1e-12 * m.Box.Diagonal() * m.Box.Diagonal()
	for _, f := range m.F {
		if m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).length()/2 <= least {
			t.ZeroArea++
		}
	}
}

// Volumes are those of a surface: as read, re-oriented, and closed with flat
// fans over its holes.
type Volumes struct {
	Raw      float64 `json:"volume_raw"`
	Oriented float64 `json:"volume_oriented"`
	MM3      float64 `json:"volume" doc:"exact when watertight; else closed with flat fans, ± hole area × depth"`
	Area     float64 `json:"area"`
}

// Volumes sums area and volume (handbook, section 4).
func (m *Mesh) Volumes(t *Topology) Volumes {
	c := m.Box.Centre()
	sums := make([][3]float64, runs(len(m.F)))
	eachRun(len(m.F), func(k, from, to int) {
		var s [3]float64
		for i := from; i < to; i++ {
			f := m.F[i]
			a, b, d := m.V[f[0]].sub(c), m.V[f[1]].sub(c), m.V[f[2]].sub(c)
			v := a.dot(b.cross(d)) / 6
			s[0] += v
			if t.flip[i] {
				v = -v
			}
			s[1] += v
			s[2] += b.sub(a).cross(d.sub(a)).length() / 2
		}
		sums[k] = s
	})
	var out Volumes
	for _, s := range sums {
		out.Raw, out.Oriented, out.Area = out.Raw+s[0], out.Oriented+s[1], out.Area+s[2]
	}
	caps := 0.0
	for _, loop := range t.loops {
		var mid Vec
		seen := map[int32]bool{}
		for _, e := range loop {
			for _, v := range e {
				if !seen[v] {
					seen[v] = true
					mid = mid.add(m.V[v].sub(c))
				}
			}
		}
		mid = mid.times(1 / float64(len(seen)))
		for _, e := range loop {
			a, b := m.V[e[0]].sub(c), m.V[e[1]].sub(c)
			caps += b.dot(a.cross(mid)) / 6
		}
	}
	out.MM3 = math.Abs(out.Oriented + caps)
	return out
}

// Warnings in the handbook's order.
func (t *Topology) Warnings(trailing bool, v Volumes, unit UnitGuess) []string {
	out := []string{}
	for _, w := range []struct {
		is   bool
		name string
	}{
		{trailing, "TRAILING_BYTES"}, {t.Degenerate > 0, "DEGENERATE_TRIANGLES"}, {t.Duplicates > 0, "DUPLICATE_TRIANGLES"}, {t.Holes > 0, "HOLES"},
		{t.NonManifold > 0, "NON_MANIFOLD_EDGES"}, {t.Inconsist > 0, "INCONSISTENT_WINDING"}, {t.Inconsist == 0 && t.Watertight && v.Raw < 0, "INSIDE_OUT"},
		{!t.Watertight, "NOT_WATERTIGHT"}, {unit.Name != "" && unit.Name != "mm" || unit.Ambiguous && unit.Name == "unknown", "UNITS_GUESS"},
	} {
		if w.is {
			out = append(out, w.name)
		}
	}
	return out
}

// Bend is half the sum of length times signed outside dihedral angle over the
// manifold edges, in mm: the integral of the mean curvature, which an offset
// surface grows by. Convex edges count above 0.
func (m *Mesh) Bend() float64 {
	uses := m.edgeUses()
	normal := func(i int32) Vec {
		f := m.F[i]
		return m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).unit()
	}
	sum := 0.0
	for i := 0; i < len(uses); {
		j := i
		for j < len(uses) && uses[j].key == uses[i].key {
			j++
		}
		if j-i == 2 && uses[i].up != uses[i+1].up {
			first, second := uses[i], uses[i+1]
			if !first.up {
				first, second = second, first
			}
			a, b := first.ends()
			e := m.V[b].sub(m.V[a])
			n1, n2 := normal(first.face), normal(second.face)
			// The first face runs along e: on a convex edge its normal turns
			// about e into the second's.
			sum += e.length() * math.Atan2(n1.cross(n2).dot(e.unit()), n1.dot(n2)) / 2
		}
		i = j
	}
	return sum
}
