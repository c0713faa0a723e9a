package scan

import (
	"context"
	"math"
	"slices"
)

// Thickness parameters (handbook, section 5). Zero values take the defaults.
type Fit struct {
	Eps       float64 `json:"eps,omitempty" doc:"0.15 mm; 0.05 structured light to 0.5 phone scan"`
	Back      float64 `json:"d_back,omitempty" doc:"5 mm"`
	Max       float64 `json:"d_max,omitempty" doc:"60 mm"`
	EdgeBand  float64 `json:"edge_band,omitempty" doc:"8 mm"`
	Thick     float64 `json:"thick,omitempty" doc:"limit of the material; 0 for none"`
	EdgeLimit float64 `json:"edge_limit,omitempty" doc:"0.1 mm"`
	// Outside is "none" for a sculpt that covers the whole core.
	Outside string `json:"outside,omitempty"`
}

func (f Fit) filled() (Fit, error) {
	def := func(v *float64, d float64) {
		if *v == 0 {
			*v = d
		}
	}
	def(&f.Eps, 0.15)
	def(&f.Back, 5)
	def(&f.Max, 60)
	def(&f.EdgeBand, 8)
	def(&f.EdgeLimit, 0.1)
	for name, v := range map[string]float64{"eps": f.Eps, "d_back": f.Back, "d_max": f.Max, "edge_band": f.EdgeBand, "edge_limit": f.EdgeLimit} {
		if !(v > 0 && v < 1e6) {
			return f, bad(BadParameter, name, "%s must be above 0.", name)
		}
	}
	if !(f.Thick >= 0 && f.Thick < 1e6) {
		return f, bad(BadParameter, "thick", "thick must be 0 or more.")
	}
	return f, nil
}

// Field is the thickness over every place of a core.
type Field struct {
	Core *Mesh
	// T is the thickness in mm; NaN where nothing lies over the core.
	T []float64
	// Normal is the core's, unit length.
	Normal   []Vec
	Fit      Fit
	Multi    int
	Closest  int
	covered  []bool
	multi    []bool    // something hangs over it
	outside  []bool    // bare core beside the appliance, once Work was asked
	areas    []float64 // a third of the adjoining faces
	sculpt   *Mesh
	coreTop  *Topology
	sculptIs *Topology
}

// Spot is a place where the sculpt comes down to the core.
type Spot struct {
	AreaMM2 float64 `json:"area_mm2"`
	DepthMM float64 `json:"depth_mm"`
	At      Vec     `json:"at"`
}

// Thickness is what is known of an appliance over its core.
type Thickness struct {
	CavityMM3     float64  `json:"cavity_volume"`
	AreaXMean     float64  `json:"area_x_mean"`
	DifferenceMM3 *float64 `json:"difference_volume,omitempty"`
	AreaMM2       float64  `json:"appliance_area"`
	Min           float64  `json:"min"`
	Max           float64  `json:"max"`
	Mean          float64  `json:"mean"`
	P5            float64  `json:"p5"`
	P25           float64  `json:"p25"`
	P50           float64  `json:"p50"`
	P75           float64  `json:"p75"`
	P95           float64  `json:"p95"`
	InteriorMin   float64  `json:"interior_min"`
	InteriorAt    Vec      `json:"interior_min_at"`
	ThickArea     float64  `json:"thick_area"`
	Contacts      []Spot   `json:"core_contacts"`
	ContactArea   float64  `json:"core_contact_area"`
	ContactDepth  float64  `json:"core_contact_depth"`
	Uncovered     int      `json:"uncovered" doc:"places within the appliance that the sculpt does not cover"`
	ScanHoleArea  float64  `json:"scan_hole_area"`
	Multi         int      `json:"multi"`
	Hanging       float64  `json:"hanging_area" doc:"of the appliance: what lies under an overhang there is not in the thickness"`
	Closest       int      `json:"closest"`
	EdgeMode      string   `json:"edge_mode" enum:"contour,boundary"`
	EdgeLength    float64  `json:"edge_length"`
	EdgeSlope     float64  `json:"edge_slope_mean"`
	EdgeSlopeP95  float64  `json:"edge_slope_p95"`
	EdgeTo1MM     float64  `json:"edge_width_to_1mm"`
	EdgeMean      float64  `json:"edge_thickness_mean"`
	EdgeP95       float64  `json:"edge_thickness_p95"`
	EdgeMax       float64  `json:"edge_thickness_max"`
	EdgeOver      float64  `json:"edge_over_limit"`
	Warnings      []string `json:"warnings"`
	// EdgeLine are segments of the edge on the core, for the picture.
	EdgeLine [][2]Vec `json:"-"`
}

// normals are the angle-weighted means of the faces' (Thürmer and Wüthrich
// 1998).
func (m *Mesh) normals() []Vec {
	out := make([]Vec, len(m.V))
	for _, f := range m.F {
		n := m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).unit()
		for k := range 3 {
			a, b, c := m.V[f[k]], m.V[f[(k+1)%3]], m.V[f[(k+2)%3]]
			u, v := b.sub(a).unit(), c.sub(a).unit()
			out[f[k]] = out[f[k]].add(n.times(math.Acos(max(-1, min(1, u.dot(v))))))
		}
	}
	for i := range out {
		out[i] = out[i].unit()
	}
	return out
}

// thirds are each place's share of its faces' areas.
func (m *Mesh) thirds() []float64 {
	out := make([]float64, len(m.V))
	for _, f := range m.F {
		a := m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]])).length() / 6
		for _, i := range f {
			out[i] += a
		}
	}
	return out
}

// rim tells which places and edges lie on a mesh's boundary.
type rim struct {
	place []bool
	edge  map[uint64]bool
}

func newRim(m *Mesh, t *Topology) rim {
	r := rim{make([]bool, len(m.V)), map[uint64]bool{}}
	for _, loop := range t.loops {
		for _, e := range loop {
			a, b := e[0], e[1]
			r.place[a], r.place[b] = true, true
			if a > b {
				a, b = b, a
			}
			r.edge[uint64(a)<<32|uint64(b)] = true
		}
	}
	return r
}

// has tells whether a closest place lies on the boundary.
func (r rim) has(m *Mesh, c closest) bool {
	f := m.F[c.face]
	switch c.on {
	case onCorner:
		return r.place[f[c.at]]
	case onEdge:
		a, b := f[c.at], f[(c.at+1)%3]
		if a > b {
			a, b = b, a
		}
		return r.edge[uint64(a)<<32|uint64(b)]
	}
	return false
}

// Measure finds the thickness at every place of the core: along its normal to
// the nearest outward crossing of the sculpt, else to the closest place.
func Measure(ctx context.Context, core, sculpt *Mesh, fit Fit) (*Field, error) {
	fit, err := fit.filled()
	if err != nil {
		return nil, err
	}
	top := sculpt.Topology()
	return measure(ctx, core, core.Topology(), sculpt, top, fit)
}

func measure(ctx context.Context, core *Mesh, coreTop *Topology, sculpt *Mesh, sculptTop *Topology, fit Fit) (*Field, error) {
	tree, err := newTree(ctx, sculpt)
	if err != nil {
		return nil, err
	}
	f := &Field{Core: core, T: make([]float64, len(core.V)), Normal: core.normals(), Fit: fit, covered: make([]bool, len(core.V)), multi: make([]bool, len(core.V)), areas: core.thirds(), sculpt: sculpt, coreTop: coreTop, sculptIs: sculptTop}
	edge := newRim(sculpt, sculptTop)
	apart := math.Max(1e-4, 1e-6*sculpt.Box.Diagonal())
	const length = 512
	counts := make([][2]int, (len(core.V)+length-1)/length)
	err = eachRunCtx(ctx, len(core.V), length, func(run, from, to int) {
		stack := make([]int32, 0, 128)
		for i := from; i < to; i++ {
			p, n := core.V[i], f.Normal[i]
			f.T[i] = math.NaN()
			if n != (Vec{}) {
				if s, found, multi := tree.nearest(p, n, -fit.Back, fit.Max, apart, stack); found {
					f.T[i], f.covered[i] = s, true
					if multi {
						f.multi[i] = true
						counts[run][0]++
					}
					continue
				}
			}
			c, ok := tree.nearestPlace(p, fit.Max*fit.Max*(1+1e-12), stack)
			if !ok {
				continue
			}
			d, a := math.Sqrt(c.d2), c.q.sub(p).dot(n)
			if d <= fit.Eps || !edge.has(sculpt, c) && d <= fit.Max && math.Abs(a) >= d/2 {
				f.T[i], f.covered[i] = math.Copysign(d, a), true
				counts[run][1]++
			}
		}
	})
	for _, c := range counts {
		f.Multi += c[0]
		f.Closest += c[1]
	}
	return f, err
}

// low tells whether a place has nothing, or next to nothing, over it.
func (f *Field) low(i int32) bool { return !f.covered[i] || f.T[i] <= f.Fit.Eps }

// value is the thickness for sums: 0 where nothing is known.
func (f *Field) value(i int32) float64 {
	if !f.covered[i] {
		return 0
	}
	return f.T[i]
}

// areaBelow is the part of a triangle where a linear value is at most limit.
func areaBelow(area float64, t [3]float64, limit float64) float64 {
	slices.Sort(t[:])
	switch {
	case t[2] <= limit:
		return area
	case t[0] >= limit:
		return 0
	case t[1] <= limit:
		// All but the corner of the greatest.
		return area * (1 - (t[2]-limit)/(t[2]-t[0])*(t[2]-limit)/(t[2]-t[1]))
	}
	return area * (limit - t[0]) / (t[1] - t[0]) * (limit - t[0]) / (t[2] - t[0])
}

func (f *Field) face(i int) (area float64, t [3]float64) {
	m := f.Core
	c := m.F[i]
	area = m.V[c[1]].sub(m.V[c[0]]).cross(m.V[c[2]].sub(m.V[c[0]])).length() / 2
	for k := range 3 {
		t[k] = f.value(c[k])
	}
	return area, t
}

// region of low places that hang together.
type region struct {
	area, hole, least, weight float64
	rim, uncovered, outside   bool
	n, gaps                   int
	mid                       Vec
}

// Work finds everything that follows from the thickness.
func (f *Field) Work() *Thickness {
	out := &Thickness{Contacts: []Spot{}, Warnings: []string{}, Multi: f.Multi, Closest: f.Closest}
	regions, of := f.regions()
	f.classify(out, regions)
	outside := func(i int32) bool { return of[i] >= 0 && regions[of[i]].outside }
	f.outside = make([]bool, len(f.T))
	for i := range f.outside {
		f.outside[i] = outside(int32(i))
		if f.multi[i] && !f.low(int32(i)) {
			out.Hanging += f.areas[i]
		}
	}
	f.volumes(out, outside)
	if f.statistics(out) {
		f.edge(out, regions, outside)
	}
	for _, w := range []struct {
		is   bool
		name string
	}{
		{f.Multi > 0, "OVERHANG"}, {out.ScanHoleArea > 0, "SCAN_HOLE"}, {len(out.Contacts) > 0, "CORE_CONTACT"}, {out.ThickArea > 0, "THICK_SPOTS"}, {out.AreaMM2 == 0, "NOTHING_ABOVE_CORE"},
	} {
		if w.is {
			out.Warnings = append(out.Warnings, w.name)
		}
	}
	return out
}

// speck is the share of the largest part of an appliance under which another
// part is no more than a fold of the core that meets itself.
const speck = 0.01

// Layer is the thickness for a picture: NaN where nothing lies over the core,
// where bare core lies beside the appliance, and in specks. After Work.
func (f *Field) Layer() []float64 {
	parts := newForest(len(f.T))
	for _, c := range f.Core.F {
		for k := range 3 {
			if a, b := c[k], c[(k+1)%3]; !f.outside[a] && !f.outside[b] {
				parts.join(a, b)
			}
		}
	}
	area := make([]float64, len(f.T))
	largest := 0.0
	for i := range f.T {
		if !f.outside[i] {
			root := parts.root(int32(i))
			area[root] += f.areas[i]
			largest = math.Max(largest, area[root])
		}
	}
	out := slices.Clone(f.T)
	for i, is := range f.outside {
		if is || area[parts.root(int32(i))] < speck*largest {
			out[i] = math.NaN()
		}
	}
	return out
}

// regions are the components of low places over the core's edges.
func (f *Field) regions() ([]region, []int32) {
	m := f.Core
	parts := newForest(len(m.V))
	for _, c := range m.F {
		for k := range 3 {
			if a, b := c[k], c[(k+1)%3]; f.low(a) && f.low(b) {
				parts.join(a, b)
			}
		}
	}
	of := make([]int32, len(m.V))
	number := map[int32]int32{}
	var list []region
	edge := newRim(m, f.coreTop)
	for i := range m.V {
		of[i] = -1
		if !f.low(int32(i)) {
			continue
		}
		root := parts.root(int32(i))
		n, ok := number[root]
		if !ok {
			n = int32(len(list))
			number[root] = n
			list = append(list, region{least: math.Inf(1)})
		}
		of[i] = n
		r := &list[n]
		r.n++
		r.rim = r.rim || edge.place[i]
		w := f.areas[i]
		r.weight += w
		r.mid = r.mid.add(m.V[i].times(w))
		if !f.covered[i] {
			r.uncovered = true
			r.gaps++
			r.hole += w
		} else {
			r.least = math.Min(r.least, f.T[i])
		}
	}
	for i, c := range m.F {
		area, t := f.face(i)
		// A face's part below the limit belongs to the region of its low corner.
		for k := range 3 {
			if n := of[c[k]]; n >= 0 {
				list[n].area += areaBelow(area, t, f.Fit.Eps)
				break
			}
		}
	}
	return list, of
}

// classify tells outside, holes of the scan, and core contact apart.
func (f *Field) classify(out *Thickness, regions []region) {
	total := 0.0
	for _, a := range f.areas {
		total += a
	}
	largest := -1
	for i := range regions {
		if largest < 0 || regions[i].area > regions[largest].area {
			largest = i
		}
	}
	for i := range regions {
		r := &regions[i]
		r.outside = f.Fit.Outside != "none" && (r.rim || i == largest && r.area >= 0.2*total)
		switch {
		case r.outside:
		case r.uncovered:
			out.ScanHoleArea += r.hole
			out.Uncovered += r.gaps
		default:
			out.Contacts = append(out.Contacts, Spot{r.area, math.Max(0, -r.least), r.mid.times(1 / math.Max(r.weight, 1e-300))})
		}
	}
	slices.SortStableFunc(out.Contacts, func(a, b Spot) int {
		switch {
		case a.AreaMM2 > b.AreaMM2:
			return -1
		case a.AreaMM2 < b.AreaMM2:
			return 1
		}
		return 0
	})
	for _, c := range out.Contacts {
		out.ContactArea += c.AreaMM2
		out.ContactDepth = math.Max(out.ContactDepth, c.DepthMM)
	}
}

// volumes sums the cavity between every triangle and its offset with straight
// rulings, and the areas above the limits.
func (f *Field) volumes(out *Thickness, outside func(int32) bool) {
	m := f.Core
	for i, c := range m.F {
		area, t := f.face(i)
		out.AreaMM2 += area - areaBelow(area, t, f.Fit.Eps)
		if f.Fit.Thick > 0 {
			out.ThickArea += area - areaBelow(area, t, f.Fit.Thick)
		}
		if outside(c[0]) && outside(c[1]) && outside(c[2]) {
			continue
		}
		var d [3]Vec
		for k := range 3 {
			d[k] = f.Normal[c[k]].times(math.Max(t[k], 0))
		}
		e1, e2 := m.V[c[1]].sub(m.V[c[0]]), m.V[c[2]].sub(m.V[c[0]])
		f1, f2 := d[1].sub(d[0]), d[2].sub(d[0])
		mean := d[0].add(d[1]).add(d[2]).times(1. / 3)
		w := e1.cross(e2).add(e1.cross(f2).add(f1.cross(e2)).times(0.5)).add(f1.cross(f2).times(1. / 3))
		out.CavityMM3 += mean.dot(w) / 2
	}
	if f.coreTop.Watertight && f.sculptIs.Watertight {
		v := f.sculpt.Volumes(f.sculptIs).MM3 - m.Volumes(f.coreTop).MM3
		out.DifferenceMM3 = &v
	}
}

// statistics over the places above the limit; false when there are none.
func (f *Field) statistics(out *Thickness) bool {
	type place struct{ t, w float64 }
	var list []place
	var sum, weight float64
	for i := range f.T {
		if !f.low(int32(i)) {
			list = append(list, place{f.T[i], f.areas[i]})
			sum += f.T[i] * f.areas[i]
			weight += f.areas[i]
		}
	}
	if len(list) == 0 || weight <= 0 {
		return false
	}
	slices.SortFunc(list, func(a, b place) int {
		switch {
		case a.t < b.t:
			return -1
		case a.t > b.t:
			return 1
		}
		return 0
	})
	out.Min, out.Max, out.Mean = list[0].t, list[len(list)-1].t, sum/weight
	out.AreaXMean = out.AreaMM2 * out.Mean
	into := []*float64{&out.P5, &out.P25, &out.P50, &out.P75, &out.P95}
	shares := []float64{0.05, 0.25, 0.5, 0.75, 0.95}
	run, k := 0.0, 0
	for _, p := range list {
		run += p.w
		for k < len(shares) && run >= shares[k]*weight {
			*into[k] = p.t
			k++
		}
	}
	for ; k < len(shares); k++ {
		*into[k] = out.Max
	}
	return true
}
