package scan

import (
	"context"
	"math"
	"slices"
)

// Draft tolerances (handbook, section 7), degrees.
const (
	draftTolerance = 0.5
	lowDraft       = 3.0
)

// Pull is how a surface leaves a mould in a direction.
type Pull struct {
	Direction  Vec     `json:"direction"`
	Mode       string  `json:"mode" enum:"one,two"`
	Facing     float64 `json:"facing_away_area"`
	Shadowed   float64 `json:"shadowed_area"`
	Undercut   float64 `json:"undercut_area"`
	Fraction   float64 `json:"undercut_fraction"`
	LowDraft   float64 `json:"low_draft_area"`
	Walls      float64 `json:"vertical_wall_area"`
	P5         float64 `json:"draft_p5"`
	P50        float64 `json:"draft_p50"`
	Mean       float64 `json:"draft_mean"`
	Projected  float64 `json:"projected_area"`
	Score      float64 `json:"score"`
	PartLength float64 `json:"parting_length"`
	PartLoops  int     `json:"parting_loops"`
	// Locked says of each face whether it is undercut.
	Locked []bool   `json:"-"`
	Line   [][2]Vec `json:"-"`
}

// pulling is a mesh made ready to be pulled: faces with normals and areas.
type pulling struct {
	m     *Mesh
	n     []Vec
	a     []float64
	mid   []Vec
	total float64
	tree  *tree
	diag  float64
}

func newPulling(ctx context.Context, m *Mesh) (*pulling, error) {
	p := &pulling{m: m, n: make([]Vec, len(m.F)), a: make([]float64, len(m.F)), mid: make([]Vec, len(m.F)), diag: m.Box.Diagonal()}
	for i, f := range m.F {
		c := m.V[f[1]].sub(m.V[f[0]]).cross(m.V[f[2]].sub(m.V[f[0]]))
		p.a[i], p.n[i] = c.length()/2, c.unit()
		p.mid[i] = m.V[f[0]].add(m.V[f[1]]).add(m.V[f[2]]).times(1. / 3)
		p.total += p.a[i]
	}
	var err error
	p.tree, err = newTree(ctx, m)
	return p, err
}

// shadowed tells whether something stands in a face's way along d.
func (p *pulling) shadowed(i int, d Vec, stack []int32) bool {
	from := p.mid[i].add(p.n[i].times(1e-5 * p.diag))
	return p.tree.meets(from, d, 1e-6*p.diag, int32(i), stack)
}

// pull judges a direction with all its figures.
func (p *pulling) pull(ctx context.Context, d Vec, mode string) (*Pull, error) {
	out, err := p.areas(ctx, d, mode, 1)
	if err != nil {
		return nil, err
	}
	drafts := make([]weighed, 0, len(p.n))
	for i, n := range p.n {
		if p.a[i] == 0 {
			continue
		}
		angle := math.Asin(max(-1, min(1, n.dot(d)))) * 180 / math.Pi
		if mode == "two" {
			angle = math.Abs(angle)
		}
		drafts = append(drafts, weighed{angle, p.a[i]})
	}
	out.Mean, out.P5, out.P50 = spreadOf(drafts)
	return out, nil
}

// areas judges a direction by what locks and what is steep, which is all that
// its score needs; every k-th face has a ray, none when k is 0.
func (p *pulling) areas(ctx context.Context, d Vec, mode string, every int) (*Pull, error) {
	out := &Pull{Direction: d, Mode: mode, Locked: make([]bool, len(p.m.F))}
	sin, steep := math.Sin(draftTolerance*math.Pi/180), math.Sin(lowDraft*math.Pi/180)
	shadow := make([]bool, len(p.m.F))
	if every > 0 {
		if err := eachRunCtx(ctx, len(p.m.F), 1024, func(_, from, to int) {
			stack := make([]int32, 0, 128)
			for i := from; i < to; i++ {
				g := p.n[i].dot(d)
				switch {
				case p.a[i] == 0 || i%every != 0:
				case mode == "two" && g < 0:
					shadow[i] = p.shadowed(i, d.times(-1), stack)
				case mode == "two" || g >= -sin:
					shadow[i] = p.shadowed(i, d, stack)
				}
			}
		}); err != nil {
			return nil, err
		}
	}
	// With a ray for every k-th face, it stands for its k.
	part := float64(max(1, every))
	for i := range p.m.F {
		g, a := p.n[i].dot(d), p.a[i]
		if a == 0 {
			continue
		}
		facing := mode == "one" && g < -sin
		if facing {
			out.Facing += a
		}
		if shadow[i] {
			out.Shadowed += a * part
		}
		out.Locked[i] = facing || shadow[i]
		draft := g
		if mode == "two" {
			draft = math.Abs(g)
		}
		if !out.Locked[i] && draft < steep {
			out.LowDraft += a
		}
		if math.Abs(g) <= sin {
			out.Walls += a
		}
		out.Projected += a * math.Max(g, 0)
	}
	out.Undercut = out.Facing + out.Shadowed
	if p.total > 0 {
		out.Fraction = out.Undercut / p.total
		out.Score = out.Fraction + 0.1*out.LowDraft/p.total
	}
	return out, nil
}

func spreadOf(list []weighed) (mean, p5, p50 float64) {
	var weight float64
	for _, x := range list {
		mean += x.v * x.w
		weight += x.w
	}
	if weight == 0 {
		return 0, 0, 0
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
	run, first := 0.0, true
	for _, x := range list {
		run += x.w
		if first && run >= 0.05*weight {
			p5, first = x.v, false
		}
		if run >= 0.5*weight {
			return mean / weight, p5, x.v
		}
	}
	return mean / weight, p5, list[len(list)-1].v
}

func direction(d Vec) (Vec, error) {
	if l := d.length(); !d.finite() || !(l > 1e-12) || math.IsInf(l, 0) {
		return d, bad(BadDirection, "dir", "The direction of pull must not be zero.")
	}
	return d.unit(), nil
}

func modeOf(mode string) error {
	if mode != "one" && mode != "two" {
		return bad(BadParameter, "mode", "A mould has one piece or two parts.")
	}
	return nil
}

// Draft judges how a surface leaves its mould along d.
func (m *Mesh) Draft(ctx context.Context, d Vec, mode string) (*Pull, error) {
	d, err := direction(d)
	if err != nil {
		return nil, err
	}
	if err := modeOf(mode); err != nil {
		return nil, err
	}
	p, err := newPulling(ctx, m)
	if err != nil {
		return nil, err
	}
	out, err := p.pull(ctx, d, mode)
	if err != nil {
		return nil, err
	}
	m.parting(out)
	return out, nil
}

// parting is the line where the surface turns from one half to the other.
func (m *Mesh) parting(out *Pull) {
	normals := m.normals()
	g := make([]float64, len(m.V))
	for i, n := range normals {
		g[i] = n.dot(out.Direction)
	}
	// Segments meet in the edges that they cross.
	at := map[uint64]int32{}
	var ends [][2]int32
	for _, f := range m.F {
		var crossed []int32
		var places []Vec
		for k := range 3 {
			a, b := f[k], f[(k+1)%3]
			if (g[a] >= 0) == (g[b] >= 0) {
				continue
			}
			lo, hi := a, b
			if lo > hi {
				lo, hi = hi, lo
			}
			key := uint64(lo)<<32 | uint64(hi)
			n, ok := at[key]
			if !ok {
				n = int32(len(at))
				at[key] = n
			}
			crossed = append(crossed, n)
			places = append(places, m.V[lo].add(m.V[hi].sub(m.V[lo]).times(g[lo]/(g[lo]-g[hi]))))
		}
		if len(crossed) == 2 {
			ends = append(ends, [2]int32{crossed[0], crossed[1]})
			out.Line = append(out.Line, [2]Vec{places[0], places[1]})
			out.PartLength += places[0].sub(places[1]).length()
		}
	}
	parts := newForest(len(at))
	for _, e := range ends {
		parts.join(e[0], e[1])
	}
	for n := range int32(len(at)) {
		if parts.root(n) == n {
			out.PartLoops++
		}
	}
}

// manyFaces is from how many faces on the search takes every k-th face only.
const manyFaces = 20_000

// Best searches the direction of pull with the least score: a spiral of n
// directions, then six round the best at a step that halves down to a quarter
// of a degree.
func (m *Mesh) Best(ctx context.Context, mode string, n int) (*Pull, error) {
	if err := modeOf(mode); err != nil {
		return nil, err
	}
	if n <= 0 {
		n = 200
	}
	if n > 20_000 {
		return nil, bad(BadParameter, "n", "Up to 20 000 directions.")
	}
	p, err := newPulling(ctx, m)
	if err != nil {
		return nil, err
	}
	every := 0
	if mode == "two" {
		every = max(1, len(m.F)/manyFaces)
	}
	score := func(d Vec) (float64, error) {
		out, err := p.areas(ctx, d, mode, every)
		if err != nil {
			return 0, err
		}
		return out.Score, nil
	}
	count := n
	if mode == "two" {
		count = n / 2
	}
	best, least := Vec{0, 0, 1}, math.Inf(1)
	for i := range count {
		z := 1 - (2*float64(i)+1)/float64(n)
		r := math.Sqrt(1 - z*z)
		sin, cos := math.Sincos(float64(i) * math.Pi * (3 - math.Sqrt(5)))
		d := Vec{r * cos, r * sin, z}
		s, err := score(d)
		if err != nil {
			return nil, err
		}
		if s < least-1e-9 {
			best, least = d, s
		}
	}
	for step := math.Sqrt(4 * math.Pi / float64(n)); step >= 0.25*math.Pi/180; {
		axis := Vec{1, 0, 0}
		if math.Abs(best[0]) >= 0.9 {
			axis = Vec{0, 1, 0}
		}
		u := best.cross(axis).unit()
		v := best.cross(u)
		next, better := best, least
		for k := range 6 {
			sin, cos := math.Sincos(float64(k) * math.Pi / 3)
			d := best.times(math.Cos(step)).add(u.times(cos * math.Sin(step))).add(v.times(sin * math.Sin(step))).unit()
			s, err := score(d)
			if err != nil {
				return nil, err
			}
			if s < better-1e-9 {
				next, better = d, s
			}
		}
		if better < least {
			best, least = next, better
		} else {
			step /= 2
		}
	}
	out, err := p.pull(ctx, best, mode)
	if err != nil {
		return nil, err
	}
	m.parting(out)
	return out, nil
}
