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
	index := r.one(m)
	n := r.Triangles()
	m.F = make([][3]int32, 0, n)
	for i := range n {
		f := [3]int32{int32(3 * i), int32(3*i + 1), int32(3*i + 2)}
		if r.Faces != nil {
			f = r.Faces[i]
		}
		if index != nil {
			f = [3]int32{index[f[0]], index[f[1]], index[f[2]]}
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

// one gives the mesh its places, equal ones as one, and which place of the mesh
// each of the file's became; nil where they are the same.
func (r *Raw) one(m *Mesh) []int32 {
	if r.welded {
		m.V = r.Points
		return nil
	}
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
	return index
}

// drop leaves out places that no triangle names. The file's own places stay as
// they are.
func (m *Mesh) drop() {
	used := make([]int32, len(m.V))
	for _, f := range m.F {
		for _, i := range f {
			used[i] = 1
		}
	}
	n := int32(0)
	for _, u := range used {
		n += u
	}
	if int(n) == len(m.V) {
		return
	}
	kept := make([]Vec, 0, n)
	for i := range used {
		if used[i] == 1 {
			used[i] = int32(len(kept))
			kept = append(kept, m.V[i])
		}
	}
	m.V = kept
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

// half is a face's side of an edge: the edge's greater place, and the face with
// whether it runs from the lesser to the greater.
type half struct {
	other int32
	face  uint32 // twice its number, odd where it runs up
}

func (h half) of() int32 { return int32(h.face >> 1) }
func (h half) up() bool  { return h.face&1 == 1 }

// edges are all edges of all faces, by their lesser place: those of place a are
// halves[heads[a]:heads[a+1]], by their greater place and then by face.
type edges struct {
	heads  []int32
	halves []half
}

// edges sorts the faces' sides by counting: places have few edges each, so that
// it takes a time that grows with the faces alone.
func (m *Mesh) edges() edges {
	e := edges{make([]int32, len(m.V)+1), make([]half, 3*len(m.F))}
	for _, f := range m.F {
		for k := range 3 {
			e.heads[min(f[k], f[(k+1)%3])+1]++
		}
	}
	for i := range m.V {
		e.heads[i+1] += e.heads[i]
	}
	fill := slices.Clone(e.heads[:len(m.V)])
	for i, f := range m.F {
		for k := range 3 {
			a, b := f[k], f[(k+1)%3]
			h := half{b, uint32(i) << 1}
			if a < b {
				h.face |= 1
			} else {
				a, h.other = b, a
			}
			e.halves[fill[a]] = h
			fill[a]++
		}
	}
	eachRun(len(m.V), func(_, from, to int) {
		for a := from; a < to; a++ {
			own := e.halves[e.heads[a]:e.heads[a+1]]
			if len(own) > 64 {
				slices.SortFunc(own, func(x, y half) int {
					if x.other != y.other {
						return int(x.other) - int(y.other)
					}
					return int(x.face) - int(y.face)
				})
				continue
			}
			for i := 1; i < len(own); i++ {
				h, k := own[i], i
				for ; k > 0 && (own[k-1].other > h.other || own[k-1].other == h.other && own[k-1].face > h.face); k-- {
					own[k] = own[k-1]
				}
				own[k] = h
			}
		}
	})
	return e
}

// each hands out every edge, from its lesser place to its greater, with the faces
// that have it, lesser number first.
func (e edges) each(do func(a, b int32, faces []half)) {
	for a := range len(e.heads) - 1 {
		own := e.halves[e.heads[a]:e.heads[a+1]]
		for i := 0; i < len(own); {
			j := i + 1
			for j < len(own) && own[j].other == own[i].other {
				j++
			}
			do(int32(a), own[i].other, own[i:j])
			i = j
		}
	}
}

// rimEdge is an edge that one face only has.
type rimEdge struct {
	a, b int32 // lesser and greater place
	side half
}

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
	t := &Topology{Triangles: len(m.F), Vertices: len(m.V), Degenerate: m.Degenerate, flip: make([]bool, len(m.F))}
	parts := newForest(len(m.F))
	var rim []rimEdge
	all := m.edges()
	// Neighbours over manifold edges: how many a face has, up to three, and who,
	// with whether they run against each other in the lowest bit.
	links := make([][3]int32, len(m.F))
	have := make([]uint8, len(m.F))
	all.each(func(a, b int32, faces []half) {
		t.Edges++
		switch len(faces) {
		case 1:
			rim = append(rim, rimEdge{a, b, faces[0]})
		case 2:
			x, y := faces[0], faces[1]
			parts.join(x.of(), y.of())
			turns := int32(0)
			if x.up() == y.up() {
				t.Inconsist++
				turns = 1
			}
			links[x.of()][have[x.of()]] = y.of()<<1 | turns
			have[x.of()]++
			links[y.of()][have[y.of()]] = x.of()<<1 | turns
			have[y.of()]++
		default:
			t.NonManifold++
			for _, h := range faces[1:] {
				parts.join(faces[0].of(), h.of())
			}
		}
	})
	t.Boundary = len(rim)
	t.Euler = t.Vertices - t.Edges + t.Triangles
	for i := range m.F {
		if parts.root(int32(i)) == int32(i) {
			t.Components++
		}
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
			for _, l := range links[i][:have[i]] {
				face, want := l>>1, t.flip[i] != (l&1 == 1)
				if !seen[face] {
					seen[face], t.flip[face] = true, want
					queue = append(queue, face)
				} else if t.flip[face] != want {
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
	t.findLoops(rim)
	t.count(m)
	t.Watertight = t.Boundary == 0 && t.NonManifold == 0 && t.Inconsist == 0
	return t
}

// findLoops parts the boundary into its components.
func (t *Topology) findLoops(rim []rimEdge) {
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
		index(e.a)
		index(e.b)
	}
	parts := newForest(len(at))
	for _, e := range rim {
		parts.join(at[e.a], at[e.b])
	}
	by := map[int32]int{}
	for _, e := range rim {
		a, b := e.a, e.b
		if e.side.up() == t.flip[e.side.of()] { // as its face runs, once oriented
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
	t.Duplicates = m.duplicates()
	least := 1e-12 * m.Box.Diagonal() * m.Box.Diagonal()
	sums := make([]int, runs(len(m.F)))
	eachRun(len(m.F), func(k, from, to int) {
		for _, f := range m.F[from:to] {
			if m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).length()/2 <= least {
				sums[k]++
			}
		}
	})
	for _, n := range sums {
		t.ZeroArea += n
	}
}

// duplicates counts the faces that lie on another of the same three places: of
// those with the same least place the few others are compared.
func (m *Mesh) duplicates() int {
	heads := make([]int32, len(m.V)+1)
	for _, f := range m.F {
		heads[min(f[0], f[1], f[2])+1]++
	}
	for i := range m.V {
		heads[i+1] += heads[i]
	}
	fill := slices.Clone(heads[:len(m.V)])
	rest := make([]uint64, len(m.F))
	for _, f := range m.F {
		low, high := min(f[0], f[1], f[2]), max(f[0], f[1], f[2])
		middle := f[0] + f[1] + f[2] - low - high
		rest[fill[low]] = uint64(middle)<<32 | uint64(high)
		fill[low]++
	}
	sums := make([]int, runs(len(m.V)))
	eachRun(len(m.V), func(k, from, to int) {
		for i := from; i < to; i++ {
			own := rest[heads[i]:heads[i+1]]
			slices.Sort(own)
			for j := 1; j < len(own); j++ {
				if own[j] == own[j-1] {
					sums[k]++
				}
			}
		}
	})
	n := 0
	for _, s := range sums {
		n += s
	}
	return n
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
	normal := func(i int32) Vec {
		f := m.F[i]
		return m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).unit()
	}
	sum := 0.0
	m.edges().each(func(a, b int32, faces []half) {
		if len(faces) != 2 || faces[0].up() == faces[1].up() {
			return
		}
		first, second := faces[0], faces[1]
		if !first.up() {
			first, second = second, first
		}
		e := m.V[b].sub(m.V[a])
		n1, n2 := normal(first.of()), normal(second.of())
		// The first face runs along e: on a convex edge its normal turns about e
		// into the second's.
		sum += e.length() * math.Atan2(n1.cross(n2).dot(e.unit()), n1.dot(n2)) / 2
	})
	return sum
}
