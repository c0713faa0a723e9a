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
	p.tree, err = treeOf(ctx, m, rayLeaf)
	return p, err
}

// shadowed tells whether something stands in a face's way along d.
func (p *pulling) shadowed(i int, along *ray, stack []int32) bool {
	from := p.mid[i].add(p.n[i].times(1e-5 * p.diag))
	return p.tree.meets(from, along, 1e-6*p.diag, int32(i), stack)
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
// its score needs; every k-th face has a ray, none when k is 0. It is summed in
// fixed runs, so that any number of processors gives the same.
func (p *pulling) areas(ctx context.Context, d Vec, mode string, every int) (*Pull, error) {
	out := &Pull{Direction: d, Mode: mode, Locked: make([]bool, len(p.m.F))}
	sin, steep := math.Sin(draftTolerance*math.Pi/180), math.Sin(lowDraft*math.Pi/180)
	up, down := newRay(d), newRay(d.times(-1))
	// With a ray for every k-th face, it stands for its k.
	part := float64(max(1, every))
	const length = 1024
	sums := make([]Pull, (len(p.m.F)+length-1)/length)
	err := eachRunCtx(ctx, len(p.m.F), length, func(run, from, to int) {
		stack := make([]int32, 0, 128)
		s := &sums[run]
		for i := from; i < to; i++ {
			g, a := p.n[i].dot(d), p.a[i]
			if a == 0 {
				continue
			}
			shadow := false
			switch {
			case every == 0 || i%every != 0:
			case mode == "two" && g < 0:
				shadow = p.shadowed(i, &down, stack)
			case mode == "two" || g >= -sin:
				shadow = p.shadowed(i, &up, stack)
			}
			facing := mode == "one" && g < -sin
			if facing {
				s.Facing += a
			}
			if shadow {
				s.Shadowed += a * part
			}
			locked := facing || shadow
			out.Locked[i] = locked
			draft := g
			if mode == "two" {
				draft = math.Abs(g)
			}
			if !locked && draft < steep {
				s.LowDraft += a
			}
			if math.Abs(g) <= sin {
				s.Walls += a
			}
			s.Projected += a * math.Max(g, 0)
		}
	})
	if err != nil {
		return nil, err
	}
	for _, s := range sums {
		out.Facing, out.Shadowed, out.LowDraft = out.Facing+s.Facing, out.Shadowed+s.Shadowed, out.LowDraft+s.LowDraft
		out.Walls, out.Projected = out.Walls+s.Walls, out.Projected+s.Projected
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

// From manyFaces on the search takes every k-th face only, so that searchRays
// are left; a quarter of them is enough to tell which of the first directions are
// worth it.
const manyFaces, searchRays = 20_000, 12_000

// worth is how many of the first directions of a large surface are looked at
// again with all the rays of the search.
const worth = 8

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
	ctx, told := whole(ctx)
	p, err := newPulling(ctx, m)
	if err != nil {
		return nil, err
	}
	told.share(0.05)
	every := 0
	if mode == "two" {
		every = 1
		if len(m.F) > 2*manyFaces {
			every = len(m.F) / searchRays
		}
	}
	score := func(d Vec) (float64, error) {
		out, err := p.areas(ctx, d, mode, every)
		if err != nil {
			return 0, err
		}
		return out.Score, nil
	}
	rough := score
	if every > 1 { // a large surface: an estimate by a part of its faces
		score, rough = p.thinned(ctx, every), p.thinned(ctx, 4*every)
	}
	best, least, err := p.spiral(ctx, n, mode, every, score, func(x float64) { told.share(0.05 + 0.5*x) })
	if err != nil {
		return nil, err
	}
	first, look, close := math.Sqrt(4*math.Pi/float64(n)), rough, every <= 1
	for step := first; step >= quarter; {
		if closer := step < 2*math.Pi/180; !close && (step == first || closer) {
			if closer {
				look, close = score, true
			}
			// The best so far, as the next ones are judged.
			if least, err = look(best); err != nil {
				return nil, err
			}
		}
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
			s, err := look(d)
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
			told.share(0.55 + 0.4*math.Log(first/step)/math.Log(first/quarter))
		}
	}
	out, err := p.pull(ctx, best, mode)
	if err != nil {
		return nil, err
	}
	m.parting(out)
	told.share(1)
	return out, nil
}

// quarter of a degree: the search looks no closer.
const quarter = 0.25 * math.Pi / 180

// thinned scores a direction in two parts by every k-th face alone, each for its
// k: an estimate that tells directions apart, no more.
func (p *pulling) thinned(ctx context.Context, k int) func(Vec) (float64, error) {
	steep := math.Sin(lowDraft * math.Pi / 180)
	n := (len(p.m.F) + k - 1) / k
	const length = 256
	return func(d Vec) (float64, error) {
		up, down := newRay(d), newRay(d.times(-1))
		sums := make([][3]float64, (n+length-1)/length) // all, shadowed, steep
		err := eachRunCtx(ctx, n, length, func(run, from, to int) {
			stack := make([]int32, 0, 128)
			for j := from; j < to; j++ {
				i := j * k
				g, a := p.n[i].dot(d), p.a[i]
				along := &up
				if g < 0 {
					along = &down
				}
				sums[run][0] += a
				if a > 0 && p.shadowed(i, along, stack) {
					sums[run][1] += a
				} else if math.Abs(g) < steep {
					sums[run][2] += a
				}
			}
		})
		var all, shadowed, low float64
		for _, s := range sums {
			all, shadowed, low = all+s[0], shadowed+s[1], low+s[2]
		}
		if all == 0 {
			return 0, err
		}
		return shadowed/all + 0.1*low/all, err
	}
}

// spiral scores n directions all round (half of them for two parts, which pull
// both ways) and gives the best. On a large surface a quarter of the rays tells
// which of them are worth all.
func (p *pulling) spiral(ctx context.Context, n int, mode string, every int, score func(Vec) (float64, error), told func(float64)) (best Vec, least float64, err error) {
	count := n
	if mode == "two" {
		count = n / 2
	}
	type scored struct {
		d Vec
		s float64
	}
	full, coarse := score, every
	if every > 1 {
		coarse = 4 * every
		score = p.thinned(ctx, coarse)
	}
	list := make([]scored, count)
	for i := range list {
		z := 1 - (2*float64(i)+1)/float64(n)
		r := math.Sqrt(1 - z*z)
		sin, cos := math.Sincos(float64(i) * math.Pi * (3 - math.Sqrt(5)))
		d := Vec{r * cos, r * sin, z}
		s, err := score(d)
		if err != nil {
			return Vec{}, 0, err
		}
		list[i] = scored{d, s}
		told(float64(i+1) / float64(count))
	}
	if coarse > every {
		score = full
		slices.SortStableFunc(list, func(a, b scored) int {
			switch {
			case a.s < b.s:
				return -1
			case a.s > b.s:
				return 1
			}
			return 0
		})
		list = list[:min(worth, len(list))]
		for i := range list {
			if list[i].s, err = score(list[i].d); err != nil {
				return Vec{}, 0, err
			}
		}
	}
	best, least = Vec{0, 0, 1}, math.Inf(1)
	for _, x := range list {
		if x.s < least-1e-9 {
			best, least = x.d, x.s
		}
	}
	return best, least, nil
}
