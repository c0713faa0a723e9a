package texture

import (
	"context"
	"math"
)

// Stroke is one unbroken line that a hand draws.
type Stroke struct {
	Line  []P
	Width float64
	Depth float64
	// V is a groove cut to a point; round otherwise.
	V bool
	// Family and Number tell which line of which family it is part of.
	Family, Number int
}

// Length is how long the stroke is, in mm.
func (s Stroke) Length() float64 { return lengthOf(s.Line) }

func lengthOf(line []P) float64 {
	var sum float64
	for i := 1; i < len(line); i++ {
		sum += apart(line[i-1], line[i])
	}
	return sum
}

// Impression is one press of a stamp.
type Impression struct {
	At       P
	A, B     float64 // half axes
	Turn     float64 // degrees
	Stamp    int     // index in the layer's list
	End      byte    // 'A' or 'B'
	Row, Col int
}

// Spot is a pore, a drop, a barnacle or a hole.
type Spot struct {
	At       P
	Diameter float64
	Depth    float64 // of a pore
	Phase    [5]float64
	spacing  float64
}

// Marks are what a layer asks a hand to make, in order of making.
type Marks struct {
	Index       int // after the macros were written out
	From        int // the layer of the recipe that it came from
	Kind        string
	Strokes     []Stroke
	Rescored    []Stroke
	Impressions []Impression
	Spots       []Spot
	Lumps       []Spot
	Stamps      []Stamp
	Rows        int
	Candidates  int
	MinRatio    float64
	// Sites are what regularity is measured on, where it is not the marks.
	Sites []P
	layer Layer
	// wholes are the unclipped lines of wrinkles.
	wholes [][]P
}

// places are what regularity is measured on.
func (m *Marks) places() []P {
	switch {
	case m.Sites != nil:
		return m.Sites
	case m.Impressions != nil:
		out := make([]P, len(m.Impressions))
		for i, s := range m.Impressions {
			out[i] = s.At
		}
		return out
	}
	out := make([]P, len(m.Spots))
	for i, s := range m.Spots {
		out[i] = s.At
	}
	return out
}

// canvas is where a layer is drawn: a height for every pixel, kept deeper or
// higher as the mark says.
type canvas struct {
	*Field
	z []float64
}

// round2 is cos²(πδ/w) for x = (2δ/w)²: the cosine's own series in x, which
// spares root and cosine for every pixel. Within 1e-10 for x in [0, 1].
func round2(x float64) float64 {
	return 1 + x*(-2.4674011002723395+x*(2.029356063208384+x*(-0.6676313844272946+x*(0.11766531517944656+x*(-0.012903445695007025+x*(0.000964787154701961+x*(-5.2319052462422825e-05+x*(2.151534793516472e-06+x*(-6.93947623110688e-08+x*(1.8023653987312491e-09+x*-3.850353565300673e-11))))))))))
}

// profile is the depth of a groove at a distance from its line, as a share.
func profile(delta, width float64, v bool) float64 {
	if v {
		return 1 - 2*delta/width
	}
	x := 2 * delta / width
	return round2(x * x)
}

// grooves draws strokes as capsules round their segments, the deeper kept.
func (c canvas) grooves(ctx context.Context, strokes []Stroke) error {
	return byRows(ctx, c.NY, func(b band) {
		for k := range strokes {
			if ctx.Err() != nil {
				return
			}
			s := &strokes[k]
			for i := 0; i+1 < len(s.Line); i++ {
				c.capsule(b, s, s.Line[i], s.Line[i+1])
			}
		}
	})
}

func (c canvas) capsule(b band, s *Stroke, p, q P) {
	half := s.Width / 2
	j0, j1 := c.rows(min(p[1], q[1])-half, max(p[1], q[1])+half, b)
	if j0 > j1 {
		return
	}
	i0, i1 := c.columns(min(p[0], q[0])-half, max(p[0], q[0])+half)
	dx, dy := q[0]-p[0], q[1]-p[1]
	l := float64(dx*dx) + float64(dy*dy)
	if l > 0 {
		dx, dy = dx/l, dy/l // so that a product with them is a share of the way
	}
	half2, within := half*half, 1/(half*half)
	for j := j0; j <= j1; j++ {
		py := c.y(j) - p[1]
		row := c.z[j*c.NX : (j+1)*c.NX]
		for i := i0; i <= i1; i++ {
			x, y := c.x(i)-p[0], py
			t := float64(x*dx) + float64(y*dy)
			if t > 1 {
				x, y = c.x(i)-q[0], c.y(j)-q[1]
			} else if t > 0 {
				t *= l
				x, y = x-float64(t*dx), y-float64(t*dy)
			}
			d2 := float64(x*x) + float64(y*y)
			if d2 >= half2 {
				continue
			}
			var z float64
			if s.V {
				z = -s.Depth * (1 - math.Sqrt(d2)/half)
			} else {
				z = -s.Depth * round2(d2*within)
			}
			if z < row[i] {
				row[i] = z
			}
		}
	}
}

// window calls f for the pixels of a band round a place, with the way from it.
func (c canvas) window(b band, at P, reach float64, f func(k int, x, y float64)) {
	j0, j1 := c.rows(at[1]-reach, at[1]+reach, b)
	if j0 > j1 {
		return
	}
	i0, i1 := c.columns(at[0]-reach, at[0]+reach)
	for j := j0; j <= j1; j++ {
		y := c.y(j) - at[1]
		for i := i0; i <= i1; i++ {
			f(j*c.NX+i, c.x(i)-at[0], y)
		}
	}
}

// scales presses impressions row by row; rows that lie over each other share
// the ground as first come.
func (c canvas) scales(ctx context.Context, m *Marks, depth, groove, dome float64) error {
	owner := make([]int32, c.NX*c.NY)
	return byRows(ctx, c.NY, func(b band) {
		for k := range m.Impressions {
			s := &m.Impressions[k]
			sin, cos := math.Sincos(s.Turn * math.Pi / 180)
			row := int32(s.Row + 1)
			c.window(b, s.At, s.A+groove, func(k int, x, y float64) {
				if owner[k] != 0 && owner[k] != row {
					return
				}
				u, v := float64(x*cos)+float64(y*sin), float64(y*cos)-float64(x*sin)
				f := math.Sqrt(float64(u*u)/(s.A*s.A) + float64(v*v)/(s.B*s.B))
				if f < 1 {
					owner[k] = row
				}
				if f > 0 {
					gx, gy := u/(s.A*s.A), v/(s.B*s.B)
					delta := math.Abs(f-1) * f / math.Sqrt(float64(gx*gx)+float64(gy*gy))
					if delta < groove/2 {
						c.z[k] = math.Min(c.z[k], -depth*profile(delta, groove, false))
					}
				}
				if c.z[k] >= 0 && f < 1 {
					c.z[k] = math.Max(c.z[k], dome*(1-f*f))
				}
			})
		}
	})
}

// spots draws each spot with its own rule.
func (c canvas) spots(ctx context.Context, spots []Spot, reach func(s *Spot) float64, height func(s *Spot, x, y, before float64) float64) error {
	return byRows(ctx, c.NY, func(b band) {
		for i := range spots {
			if i%256 == 0 && ctx.Err() != nil {
				return
			}
			s := &spots[i]
			c.window(b, s.At, reach(s), func(k int, x, y float64) { c.z[k] = height(s, x, y, c.z[k]) })
		}
	})
}
