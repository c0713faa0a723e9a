package hair

import (
	"context"
	"math"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
)

// Guide is an arrow that the hair near it follows, in degrees.
type Guide struct {
	At  texture.P `json:"at"`
	Deg float64   `json:"deg" minimum:"-360" maximum:"360"`
}

// Field is an outline that hair is punched into, one by one.
type Field struct {
	Seed      uint64
	Outline   []texture.P
	Density   float64 // hairs per cm² away from the fading edges
	Edge      float64 // at a fading edge
	FadeMM    float64
	FadeEdges []int // edge i runs from point i to i+1; none fades at all of them
	Guides    []Guide
	JitterDeg float64
}

// Punched is where each hair goes, and which way it leans.
type Punched struct {
	Count   int         `json:"count"`
	AreaCM2 float64     `json:"area_cm2"`
	Points  []texture.P `json:"points"`
	Deg     []float64   `json:"deg"`
	GapMin  *float64    `json:"gap_min" doc:"least distance of two, in units of what their density would space evenly"`
	GapMean *float64    `json:"gap_mean"`
	MeanDeg *float64    `json:"mean_deg"`
}

const (
	cellMM    = 0.5
	mostCells = 1 << 24
	mostHairs = 20000
	tries     = 10
)

// ground is a field with its outline checked.
type ground struct {
	Field
	flat *texture.Flat
	fade [][2]texture.P
}

func (f Field) ground() (ground, error) {
	g := ground{Field: f}
	n := len(f.Outline)
	for i, p := range f.Outline {
		if p == f.Outline[(i+1)%n] {
			return g, refusal.New(refusal.Contradiction, "outline", "A point of the outline stands twice running.")
		}
	}
	var err error
	if g.flat, err = (texture.Region{Polygon: f.Outline}).Lay(); err != nil {
		return g, refusal.New(refusal.Contradiction, "outline", "The outline crosses itself or encloses nothing.")
	}
	edges := f.FadeEdges
	if len(edges) == 0 {
		for i := range n {
			edges = append(edges, i)
		}
	}
	for _, i := range edges {
		if i < 0 || i >= n {
			return g, refusal.New(refusal.OutOfRange, "fade_edges", "The outline has no edge %d.", i)
		}
		g.fade = append(g.fade, [2]texture.P{f.Outline[i], f.Outline[(i+1)%n]})
	}
	return g, nil
}

// Check refuses what cannot be punched: contradiction at outline, out_of_range at
// fade_edges.
func (f Field) Check() error {
	_, err := f.ground()
	return err
}

// density at a place, hairs per cm².
func (g ground) density(p texture.P) float64 {
	if g.FadeMM == 0 {
		return g.Density
	}
	least := math.Inf(1)
	for _, e := range g.fade {
		least = math.Min(least, texture.ToSegment(p, e[0], e[1]))
	}
	return g.Edge + (g.Density-g.Edge)*math.Min(1, least/g.FadeMM)
}

// expected is the sum of the density over the field.
func (g ground) expected(ctx context.Context) (float64, error) {
	w, h := g.flat.Size()
	nx, ny := upTo(w/cellMM), upTo(h/cellMM)
	if float64(nx)*float64(ny) > mostCells {
		return 0, refusal.New(refusal.OutOfRange, "outline", "The outline is too large to be punched hair by hair.")
	}
	sum := 0.0
	for j := range ny {
		if ctx.Err() != nil {
			return 0, ctx.Err()
		}
		for i := range nx {
			p := texture.P{g.flat.X0 + (float64(i)+0.5)*cellMM, g.flat.Y0 + (float64(j)+0.5)*cellMM}
			if g.flat.Holds(p) {
				sum += g.density(p)
			}
		}
	}
	return sum * cellMM * cellMM / 100, nil
}

// kept are the hairs that stand already, in buckets so that the nearest is found
// among few.
type kept struct {
	points  []texture.P
	density []float64
	x0, y0  float64
	size    float64
	nx, ny  int
	cells   [][]int32
	least   float64 // no density is below
}

func newKept(g ground, n int) *kept {
	w, h := g.flat.Size()
	k := &kept{x0: g.flat.X0, y0: g.flat.Y0, least: math.Min(g.Density, g.Edge)}
	if g.FadeMM == 0 {
		k.least = g.Density
	}
	k.size = math.Max(0.2, math.Sqrt(w*h/float64(max(1, n))))
	k.nx, k.ny = int(w/k.size)+1, int(h/k.size)+1
	k.cells = make([][]int32, k.nx*k.ny)
	return k
}

func (k *kept) cell(p texture.P) (int, int) {
	return min(k.nx-1, int((p[0]-k.x0)/k.size)), min(k.ny-1, int((p[1]-k.y0)/k.size))
}

func (k *kept) add(p texture.P, density float64) {
	i, j := k.cell(p)
	k.cells[j*k.nx+i] = append(k.cells[j*k.nx+i], int32(len(k.points)))
	k.points, k.density = append(k.points, p), append(k.density, density)
}

// nearest is the least distance to one that stands, weighed by the densities of both;
// it need not be told right above most. but is left out.
func (k *kept) nearest(p texture.P, density, most float64, but int) float64 {
	ci, cj := k.cell(p)
	for ring := 0; ring <= max(k.nx, k.ny); ring++ {
		// Nothing in this ring is nearer than (ring−1) cells.
		if float64(ring-1)*k.size*math.Sqrt((density+k.least)/200) >= most {
			break
		}
		for j := cj - ring; j <= cj+ring; j++ {
			if j < 0 || j >= k.ny {
				continue
			}
			step := 1
			if j != cj-ring && j != cj+ring {
				step = max(1, 2*ring)
			}
			for i := ci - ring; i <= ci+ring; i += step {
				if i < 0 || i >= k.nx {
					continue
				}
				for _, at := range k.cells[j*k.nx+i] {
					if int(at) == but {
						continue
					}
					q := k.points[at]
					d := math.Hypot(p[0]-q[0], p[1]-q[1]) * math.Sqrt((density+k.density[at])/200)
					most = math.Min(most, d)
				}
			}
		}
	}
	return most
}

// Punch places every hair: ten candidates each, of which the one is kept that stands
// freest. Refusals: contradiction and out_of_range at outline, out_of_range at
// fade_edges and density. It ends early with ctx.
func Punch(ctx context.Context, f Field) (Punched, error) {
	g, err := f.ground()
	if err != nil {
		return Punched{}, err
	}
	sum, err := g.expected(ctx)
	if err != nil {
		return Punched{}, err
	}
	n := roundUp(sum)
	if n > mostHairs {
		return Punched{}, refusal.New(refusal.OutOfRange, "density", "That makes %d hairs; %d are the most at once.", n, mostHairs)
	}
	out := Punched{Count: n, AreaCM2: g.flat.Area() / 100, Points: []texture.P{}, Deg: []float64{}}
	k := newKept(g, n)
	draw, lean := texture.NewStream(f.Seed, "punch"), texture.NewStream(f.Seed, "punch:angle")
	w, h := g.flat.Size()
	top := math.Max(f.Density, f.Edge)
	for range n {
		best, at, density := -1.0, texture.P{}, 0.0
		for range tries {
			p, rho, err := g.candidate(ctx, draw, w, h, top)
			if err != nil {
				return Punched{}, err
			}
			free := 3 * g.flat.Distance(p) * math.Sqrt(rho/100)
			if free > best {
				free = k.nearest(p, rho, free, -1)
			}
			if free > best {
				best, at, density = free, p, rho
			}
		}
		k.add(at, density)
	}
	out.Points = append(out.Points, k.points...)
	out.lean(g, lean)
	out.gaps(k)
	return out, nil
}

func (g ground) candidate(ctx context.Context, draw *texture.Stream, w, h, top float64) (texture.P, float64, error) {
	for turn := 0; ; turn++ {
		if turn%4096 == 0 && ctx.Err() != nil {
			return texture.P{}, 0, ctx.Err()
		}
		x, y, u := draw.U(), draw.U(), draw.U()
		p := texture.P{g.flat.X0 + x*w, g.flat.Y0 + y*h}
		if !g.flat.Holds(p) {
			continue
		}
		if rho := g.density(p); u*top < rho {
			return p, rho, nil
		}
	}
}

// lean turns each hair with the arrows near it.
func (o *Punched) lean(g ground, draw *texture.Stream) {
	sx, sy := 0.0, 0.0
	for _, p := range o.Points {
		var cx, cy float64
		for _, a := range g.Guides {
			d := math.Hypot(p[0]-a.At[0], p[1]-a.At[1])
			sin, cos := math.Sincos(a.Deg * math.Pi / 180)
			cx, cy = cx+cos/(d*d+1), cy+sin/(d*d+1)
		}
		deg := round360(math.Atan2(cy, cx)*180/math.Pi + g.JitterDeg*(2*draw.U()-1))
		o.Deg = append(o.Deg, deg)
		sin, cos := math.Sincos(deg * math.Pi / 180)
		sx, sy = sx+cos, sy+sin
	}
	if len(o.Points) > 0 {
		mean := round360(math.Atan2(sy, sx) * 180 / math.Pi)
		o.MeanDeg = &mean
	}
}

func (o *Punched) gaps(k *kept) {
	if len(o.Points) < 2 {
		return
	}
	least, sum := math.Inf(1), 0.0
	for i, p := range o.Points {
		d := k.nearest(p, k.density[i], math.Inf(1), i)
		least, sum = math.Min(least, d), sum+d
	}
	mean := sum / float64(len(o.Points))
	o.GapMin, o.GapMean = &least, &mean
}

func round360(deg float64) float64 {
	if deg = math.Mod(deg, 360); deg < 0 {
		deg += 360
	}
	return deg
}
