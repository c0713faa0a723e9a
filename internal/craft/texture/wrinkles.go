package texture

import (
	"context"
	"math"
)

// wrinkles run between two guides, as along lines of tension.
func (g *ground) wrinkles(m *Marks, draw *Stream) error {
	l := &m.layer
	r := read{at: m.field()}
	count := or(l.Count, 6)
	r.num("count", float64(count), 1, maxLines)
	jitter := r.num("jitter", or(l.Jitter, 0), 0, 2)
	depth := r.pos("depth", or(l.Depth, Span{0.8, 0.8})[0], 50)
	width := r.pos("width", or(l.Width, 1.5), 100)
	r.num("shoulder", or(l.Shoulder, 0.25), 0, 2)
	r.num("taper", or(l.Taper, 0.15), 0.001, 0.5)
	if r.err != nil {
		return r.err
	}
	pair := or(l.Between, [2]int{0, 1})
	var ends [2][]P
	for i, k := range pair {
		guide, err := g.guide(k, m.field()+".between")
		if err != nil {
			return err
		}
		ends[i] = guide.resampled(64)
	}
	for i := 1; i <= count; i++ {
		f := (float64(i) + float64(jitter*(draw.U()-0.5))) / float64(count+1)
		line := make([]P, 64)
		for k := range line {
			line[k] = P{float64((1-f)*ends[0][k][0]) + float64(f*ends[1][k][0]), float64((1-f)*ends[0][k][1]) + float64(f*ends[1][k][1])}
		}
		g.whole(m, line, width, depth, i-1)
	}
	return nil
}

// lines follow guides: veins that stand up, or single lines that are scored.
func (g *ground) lines(m *Marks) error {
	l := &m.layer
	r := read{at: m.field()}
	depth := r.pos("depth", or(l.Depth, Span{0.4, 0.4})[0], 50)
	width := r.pos("width", or(l.Width, 1.2), 100)
	r.num("taper", or(l.Taper, 0.15), 0.001, 0.5)
	r.num("shoulder", or(l.Shoulder, 0), 0, 2)
	if r.err != nil {
		return r.err
	}
	if len(l.Along) == 0 {
		return bad(m.field()+".along", "Say along which guides the lines run.")
	}
	for i, k := range l.Along {
		guide, err := g.guide(k, m.field()+".along")
		if err != nil {
			return err
		}
		g.whole(m, guide.p, width, depth, i)
	}
	return nil
}

func (g *ground) whole(m *Marks, line []P, width, depth float64, number int) {
	drawn := false
	for _, in := range g.clip(line, m) {
		m.Strokes = append(m.Strokes, Stroke{Line: in, Width: width, Depth: depth, Number: number})
		drawn = true
	}
	if drawn {
		m.wholes = append(m.wholes, line)
	}
}

// folds draws wrinkles: each line adds its groove and shoulders by the distance
// to the nearest place of its whole length.
func (c canvas) folds(ctx context.Context, m *Marks, up float64) error {
	l := &m.layer
	depth, width := m.Strokes[0].Depth, m.Strokes[0].Width
	shoulder, taper := or(l.Shoulder, 0.25), or(l.Taper, 0.15)
	if m.Kind == "lines" {
		shoulder = or(l.Shoulder, 0)
	}
	reach := 2.5 * width
	bell := func(x float64) float64 { x /= width; return expo(-4 * math.Ln2 * x * x) }
	lengths := make([][]float64, len(m.wholes))
	for i, line := range m.wholes {
		lengths[i] = make([]float64, len(line))
		for k := 1; k < len(line); k++ {
			lengths[i][k] = lengths[i][k-1] + apart(line[k-1], line[k])
		}
	}
	return byRows(ctx, c.NY, func(b band) {
		nearest := make([]float64, (b.to-b.from)*c.NX)
		share := make([]float64, len(nearest))
		for n, line := range m.wholes {
			box := newShape([]ring{line})
			j0, j1 := c.rows(box.y0-reach, box.y1+reach, b)
			i0, i1 := c.columns(box.x0-reach, box.x1+reach)
			if j0 > j1 || i0 > i1 {
				continue
			}
			for j := j0; j <= j1; j++ {
				for i := i0; i <= i1; i++ {
					nearest[(j-b.from)*c.NX+i] = reach * reach
				}
			}
			whole := lengths[n][len(line)-1]
			for k := 0; k+1 < len(line); k++ {
				c.nearOn(b, line[k], line[k+1], reach, lengths[n][k]/whole, lengths[n][k+1]/whole, nearest, share)
			}
			for j := j0; j <= j1; j++ {
				for i := i0; i <= i1; i++ {
					at := (j-b.from)*c.NX + i
					if d2 := nearest[at]; d2 < reach*reach {
						d, t := math.Sqrt(d2), share[at]
						env := smooth(math.Min(t, 1-t) / taper)
						c.z[j*c.NX+i] += up * depth * env * (-bell(d) + shoulder*bell(d-width))
					}
				}
			}
		}
	})
}

func (c canvas) nearOn(b band, p, q P, reach, t0, t1 float64, nearest, share []float64) {
	j0, j1 := c.rows(math.Min(p[1], q[1])-reach, math.Max(p[1], q[1])+reach, b)
	i0, i1 := c.columns(math.Min(p[0], q[0])-reach, math.Max(p[0], q[0])+reach)
	dx, dy := q[0]-p[0], q[1]-p[1]
	l := float64(dx*dx) + float64(dy*dy)
	for j := j0; j <= j1; j++ {
		for i := i0; i <= i1; i++ {
			x, y, t := c.x(i)-p[0], c.y(j)-p[1], 0.0
			if l > 0 {
				t = math.Max(0, math.Min(1, (float64(x*dx)+float64(y*dy))/l))
				x, y = x-float64(t*dx), y-float64(t*dy)
			}
			if at := (j-b.from)*c.NX + i; float64(x*x)+float64(y*y) < nearest[at] {
				nearest[at] = float64(x*x) + float64(y*y)
				share[at] = t0 + (t1-t0)*t
			}
		}
	}
}
