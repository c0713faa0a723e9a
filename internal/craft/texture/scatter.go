package texture

import (
	"math"
)

// packing scatters places that keep their distance: candidates drawn evenly
// over the outline's box, taken in order when they stand far enough from all
// that were taken before (random sequential packing).
type packing struct {
	spacing  Span
	grade    float64 // direction along which the spacing grows, degrees
	stretch  float64
	dir      float64 // of the stretch
	tries    float64
	cell     float64
	grid     cells
	u, v     []float64
	r        []float64
	ratio    float64
	accepted []P
}

func (g *ground) packing(m *Marks, r *read) packing {
	l := &m.layer
	p := packing{spacing: or(l.Spacing, Span{1.2, 2.5}), grade: or(l.GradeDir, 90), stretch: or(l.Stretch, 1), dir: l.StretchDir, tries: or(l.Tries, 20)}
	r.span("spacing", p.spacing, 1000)
	r.num("stretch", p.stretch, 1, 20)
	r.num("tries", p.tries, 1, 1000)
	r.num("grade_dir", p.grade, -3600, 3600)
	r.num("stretch_dir", p.dir, -3600, 3600)
	return p
}

// place runs the packing on its stream.
func (g *ground) place(m *Marks, p *packing, draw *Stream) error {
	w, h := g.flat.Size()
	mean := p.spacing.mean()
	total := math.Ceil(float64(p.tries*w*h) / float64(p.stretch*mean*mean))
	if total > maxCandidates {
		return bad(m.field()+".spacing", "This would try %.0f places; %d are the most. Take a wider spacing or a smaller region.", total, maxCandidates)
	}
	m.Candidates = int(total)
	sin, cos := math.Sincos(p.dir * math.Pi / 180)
	gsin, gcos := math.Sincos(p.grade * math.Pi / 180)
	along := P{gcos, gsin}
	t0, t1 := g.flat.extent(along)
	p.cell = math.Max(p.spacing[0], p.spacing[1])
	p.grid = newCells(g.flat, p, cos, sin)
	p.ratio = math.Inf(1)
	for n := range m.Candidates {
		if n%4096 == 0 && g.ctx.Err() != nil {
			return g.ctx.Err()
		}
		x := g.flat.X0 + float64(draw.U()*w)
		y := g.flat.Y0 + float64(draw.U()*h)
		at := P{x, y}
		if !g.flat.shape.holds(at) {
			continue
		}
		r := p.spacing[0]
		if p.spacing[1] != p.spacing[0] {
			share := math.Max(0, math.Min(1, (float64(x*along[0])+float64(y*along[1])-t0)/(t1-t0)))
			r += float64((p.spacing[1] - p.spacing[0]) * share)
		}
		u := (float64(x*cos) + float64(y*sin)) / p.stretch
		v := float64(y*cos) - float64(x*sin)
		if !p.clears(u, v, r) {
			continue
		}
		if len(p.accepted) >= MaxPieces {
			return bad(m.field()+".spacing", "These are more than %d. Take a wider spacing.", MaxPieces)
		}
		p.grid.put(u, v, int32(len(p.u)))
		p.u, p.v, p.r = append(p.u, u), append(p.v, v), append(p.r, r)
		p.accepted = append(p.accepted, at)
	}
	p.measure()
	return nil
}

// cells index what was taken: squares as wide as the widest spacing, so that
// whatever stands too near lies in the nine round a place. Each cell is a chain.
type cells struct {
	u0, v0, side float64
	nu, nv       int
	first, next  []int32
}

func newCells(f *Flat, p *packing, cos, sin float64) cells {
	c := cells{u0: math.Inf(1), v0: math.Inf(1), side: p.cell}
	u1, v1 := math.Inf(-1), math.Inf(-1)
	for _, x := range []float64{f.X0, f.X1} {
		for _, y := range []float64{f.Y0, f.Y1} {
			u, v := (float64(x*cos)+float64(y*sin))/p.stretch, float64(y*cos)-float64(x*sin)
			c.u0, c.v0, u1, v1 = min(c.u0, u), min(c.v0, v), max(u1, u), max(v1, v)
		}
	}
	// A small spacing on a long thin region would need more cells than places:
	// wider cells stay right and only take longer.
	c.side = max(c.side, math.Sqrt((u1-c.u0)*(v1-c.v0)/maxCandidates), (u1-c.u0)/1e6, (v1-c.v0)/1e6)
	c.nu, c.nv = int((u1-c.u0)/c.side)+3, int((v1-c.v0)/c.side)+3
	c.first = make([]int32, c.nu*c.nv)
	return c
}

func (c *cells) of(u, v float64) (int, int) {
	return int((u-c.u0)/c.side) + 1, int((v-c.v0)/c.side) + 1
}

// put adds place n; places are numbered as they come.
func (c *cells) put(u, v float64, n int32) {
	i, j := c.of(u, v)
	c.next = append(c.next, c.first[j*c.nu+i])
	c.first[j*c.nu+i] = n + 1
}

// near calls f for the places round one until f says stop.
func (c *cells) near(u, v float64, f func(n int32) bool) {
	i, j := c.of(u, v)
	for y := max(0, j-1); y <= min(c.nv-1, j+1); y++ {
		for x := max(0, i-1); x <= min(c.nu-1, i+1); x++ {
			for n := c.first[y*c.nu+x]; n > 0; n = c.next[n-1] {
				if !f(n - 1) {
					return
				}
			}
		}
	}
}

// clears tells whether a place keeps its distance to all that were taken.
func (p *packing) clears(u, v, r float64) bool {
	free := true
	p.grid.near(u, v, func(n int32) bool {
		du, dv := u-p.u[n], v-p.v[n]
		least := (r + p.r[n]) / 2
		free = float64(du*du)+float64(dv*dv) >= float64(least*least)
		return free
	})
	return free
}

// measure finds the least distance over the distance that is to be kept.
func (p *packing) measure() {
	for n := range p.u {
		p.grid.near(p.u[n], p.v[n], func(o int32) bool {
			if int(o) > n {
				du, dv := p.u[n]-p.u[o], p.v[n]-p.v[o]
				p.ratio = min(p.ratio, math.Sqrt(float64(du*du)+float64(dv*dv))/((p.r[n]+p.r[o])/2))
			}
			return true
		})
	}
}

// scatter places pores, droplets, barnacles and holes.
func (g *ground) scatter(m *Marks, draw *Stream) error {
	l := &m.layer
	r := read{at: m.field()}
	p := g.packing(m, &r)
	size := NewStream(g.seed(m), m.label("size"))
	diameter, drawn := g.diameters(m, &r)
	if r.err != nil {
		return r.err
	}
	from, fall, err := g.falling(m)
	if err != nil {
		return err
	}
	if err := g.place(m, &p, draw); err != nil {
		return err
	}
	m.MinRatio = p.ratio
	if m.Kind == "droplets" {
		m.Candidates = len(p.accepted)
	}
	for i, at := range p.accepted {
		s := Spot{At: at, spacing: p.r[i]}
		keep := true
		if m.Kind == "droplets" {
			keep = size.U() < expo(-from(at)/fall)
		}
		s.Diameter = logU(diameter[0], diameter[1], size.U())
		for n := range drawn {
			s.Phase[n] = 2 * math.Pi * size.U()
		}
		if m.Kind == "pores" {
			depth := or(l.Depth, Span{0.1, 0.3})
			s.Depth = depth[0] + float64((depth[1]-depth[0])*size.U())
		}
		if keep && g.takes(at, m) {
			m.Spots = append(m.Spots, s)
		}
	}
	return nil
}

// defaults of what is scattered: diameters, then how many phases each draws.
func (g *ground) diameters(m *Marks, r *read) (Span, int) {
	l := &m.layer
	def, phases := Span{0.3, 0.6}, 0
	switch m.Kind {
	case "droplets":
		def = Span{0.6, 1.4}
		r.num("height_ratio", or(l.HeightRatio, 0.3), 0.01, 1)
	case "barnacles":
		def, phases = Span{4, 8}, 1
		r.num("height_ratio", or(l.HeightRatio, 0.5), 0.01, 2)
		r.num("rim", or(l.Rim, 0.45), 0.05, 0.95)
		r.num("crater", or(l.Crater, 0.6), 0, 1)
		r.num("ridge", or(l.Ridge, 0.25), 0, 1)
	case "rot":
		def, phases = Span{3, 6}, 5
		r.pos("depth", or(l.Depth, Span{1, 1})[0], 50)
		r.num("fray", or(l.Fray, 0.25), 0, 0.9)
		r.num("lip", l.Lip, 0, 20)
	case "pores":
		r.rising("depth", or(l.Depth, Span{0.1, 0.3}), 50)
		r.num("elongation", or(l.Elongation, or(l.Stretch, 1)), 0.05, 20)
	}
	r.num("soften", or(l.Soften, 0), 0, 20)
	d := or(l.Diameter, def)
	r.rising("diameter", d, 500)
	return d, phases
}

// falling is where droplets thin out from, and how fast.
func (g *ground) falling(m *Marks) (func(P) float64, float64, error) {
	l := &m.layer
	if m.Kind != "droplets" {
		return nil, 1, nil
	}
	fall := or(l.Falloff, 8)
	if !(fall > 0 && fall < 10_000) {
		return nil, 0, bad(m.field()+".falloff", "Falloff must be above 0.")
	}
	from := or(l.From, Boundary)
	if from == Boundary {
		return g.flat.shape.distance, fall, nil
	}
	guide, err := g.guide(int(from), m.field()+".from")
	if err != nil {
		return nil, 0, err
	}
	return guide.distance, fall, nil
}

// pit is a pore: an elliptical pit that keeps the deeper.
func pit(l *Layer) func(s *Spot, x, y, before float64) float64 {
	el := math.Sqrt(or(l.Elongation, or(l.Stretch, 1)))
	sin, cos := math.Sincos(l.StretchDir * math.Pi / 180)
	return func(s *Spot, x, y, before float64) float64 {
		u, v := float64(x*cos)+float64(y*sin), float64(y*cos)-float64(x*sin)
		a, b := s.Diameter/2*el, s.Diameter/2/el
		f := math.Sqrt(u*u/(a*a) + v*v/(b*b))
		if f >= 1 {
			return before
		}
		c := math.Cos(math.Pi * f / 2)
		return math.Min(before, -s.Depth*c*c)
	}
}

// cap is a drop: part of a ball, as high as a share of its width.
func drop(ratio float64) func(s *Spot, x, y, before float64) float64 {
	return func(s *Spot, x, y, before float64) float64 {
		base, high := s.Diameter/2, ratio*s.Diameter
		d2 := x*x + y*y
		if d2 >= base*base {
			return before
		}
		ball := (base*base + high*high) / (2 * high)
		return math.Max(before, math.Sqrt(ball*ball-d2)-(ball-high))
	}
}

// dome is a lump in a cell.
func dome(s *Spot, x, y, before float64) float64 {
	r := s.Diameter / 2
	f2 := (x*x + y*y) / (r * r)
	if f2 >= 1 {
		return before
	}
	return math.Max(before, s.Depth*(1-f2)*(1-f2))
}

// barnacle is a ridged cone with a crater.
func barnacle(l *Layer, sag sagging) func(s *Spot, x, y, before float64) float64 {
	ratio, rim, crater, ridge := or(l.HeightRatio, 0.5), or(l.Rim, 0.45), or(l.Crater, 0.6), or(l.Ridge, 0.25)
	return func(s *Spot, x, y, before float64) float64 {
		f := math.Sqrt(x*x+y*y) / (s.Diameter / 2)
		if f >= 1 {
			return before
		}
		high := ratio * s.Diameter * sag.times(x, y)
		if f < rim {
			return math.Max(before, high*(1-crater*(1-f/rim*f/rim)))
		}
		c := math.Abs(math.Cos(3*math.Atan2(y, x) + s.Phase[0]))
		c *= c
		c *= c
		return math.Max(before, high*(1-f)/(1-rim)*(1-ridge*c*c))
	}
}

// frayed is the radius of a hole in a direction.
func (s *Spot) frayed(x, y, fray float64) float64 {
	theta := math.Atan2(y, x)
	var sum float64
	for m := 2; m <= 6; m++ {
		sum += math.Cos(float64(m)*theta+s.Phase[m-2]) / float64(m)
	}
	return s.Diameter / 2 * (1 + fray*sum/1.45)
}

// hole and lip draw rot.
func hole(depth, fray float64) func(s *Spot, x, y, before float64) float64 {
	return func(s *Spot, x, y, before float64) float64 {
		rho := math.Sqrt(x*x + y*y)
		q := rho / s.frayed(x, y, fray)
		if q >= 1 {
			return before
		}
		q *= q
		return math.Min(before, -depth*(1-q*q))
	}
}

func lipOf(high, fray float64, sag sagging) func(s *Spot, x, y, before float64) float64 {
	return func(s *Spot, x, y, before float64) float64 {
		if before < 0 {
			return before
		}
		rho, r, whole := math.Sqrt(x*x+y*y), s.frayed(x, y, fray), s.Diameter/2
		if rho < r || rho > r+0.6*whole {
			return before
		}
		return math.Max(before, high*sag.times(x, y)*expo(-(rho-r)/(0.15*whole)))
	}
}

// sagging makes lower rims hang.
type sagging struct{ dx, dy, sag float64 }

func (g *ground) sagging() sagging {
	if g.recipe.Gravity == nil {
		return sagging{}
	}
	sin, cos := math.Sincos(g.recipe.Gravity.Down * math.Pi / 180)
	return sagging{cos, sin, g.recipe.Gravity.Sag}
}

// times is how much thicker the rim is in a direction from its middle.
func (s sagging) times(x, y float64) float64 {
	if s.sag == 0 {
		return 1
	}
	d := math.Sqrt(x*x + y*y)
	if d == 0 {
		return 1
	}
	return 1 + s.sag*math.Max(0, (x*s.dx+y*s.dy)/d)
}
