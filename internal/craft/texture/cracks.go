package texture

import (
	"math"
	"slices"
)

// cracks are the edges between the cells of a lattice whose sites were moved
// by chance.
func (g *ground) cracks(m *Marks, draw *Stream) error {
	l := &m.layer
	r := read{at: m.field()}
	lattice := r.word("lattice", l.Lattice, "hex", "square")
	pitch := r.pos("pitch", or(l.Pitch, 6), 1000)
	jitter := r.num("jitter", or(l.Jitter, 0.8), 0, 1)
	stretch := r.num("stretch", or(l.Stretch, 1), 0.05, 20)
	width := r.pos("width", or(l.Width, 0.8), 100)
	depth := r.pos("depth", or(l.Depth, Span{0.7, 0.7})[0], 50)
	skip := r.num("skip", or(l.Skip, 0), 0, 1)
	profile := r.word("profile", l.Profile, "v", "round")
	r.num("soften", or(l.Soften, 0), 0, 20)
	if r.err != nil {
		return r.err
	}
	sin, cos := math.Sincos(l.StretchDir * math.Pi / 180)
	e, n := P{cos, sin}, P{-sin, cos}
	u0, u1 := g.flat.extent(e)
	v0, v1 := g.flat.extent(n)
	u0, u1 = u0/stretch, u1/stretch
	lat := lattice2{pitch: pitch, hex: lattice == "hex", u0: u0 - 2*pitch, v0: v0 - 2*pitch, u1: u1 + 2*pitch, v1: v1 + 2*pitch}
	if cells := (lat.u1 - lat.u0) * (lat.v1 - lat.v0) / (pitch * pitch); cells > MaxPieces {
		return bad(m.field()+".pitch", "These are about %.0f cells; %d are the most. Take a wider pitch.", cells, MaxPieces)
	}
	lat.sites(draw, jitter)
	back := func(p P) P {
		u := p[0] * stretch
		return P{float64(u*e[0]) + float64(p[1]*n[0]), float64(u*e[1]) + float64(p[1]*n[1])}
	}
	m.Sites = []P{}
	for _, s := range lat.at {
		if p := back(s); g.takes(p, m) {
			m.Sites = append(m.Sites, p)
		}
	}
	seed := g.seed(m)
	if err := g.ctx.Err(); err != nil {
		return err
	}
	lat.edges(func(i, j int, a, b P) {
		if skip > 0 && Unit(mix(seed^uint64(i)*gamma^uint64(j)*other)) < skip {
			return
		}
		for _, in := range g.clip([]P{back(a), back(b)}, m) {
			if lengthOf(in) > 1e-9 {
				m.Strokes = append(m.Strokes, Stroke{Line: in, Width: width, Depth: depth, V: profile == "v", Number: i})
			}
		}
	})
	return nil
}

// lattice2 is a lattice of sites and the cells that are nearest to each.
type lattice2 struct {
	pitch          float64
	hex            bool
	u0, v0, u1, v1 float64
	at             []P
	rowStart       []int // index of each row's first site, and the end
}

func (l *lattice2) sites(draw *Stream, jitter float64) {
	dv := l.pitch
	if l.hex {
		dv = l.pitch * math.Sqrt(3) / 2
	}
	for row := 0; ; row++ {
		v := l.v0 + float64(float64(row)*dv)
		if v > l.v1+1e-9 {
			break
		}
		l.rowStart = append(l.rowStart, len(l.at))
		from := l.u0
		if l.hex && row%2 == 1 {
			from += l.pitch / 2
		}
		for k := 0; ; k++ {
			u := from + float64(float64(k)*l.pitch)
			if u > l.u1+1e-9 {
				break
			}
			du := float64(jitter * l.pitch * (draw.U() - 0.5))
			dv := float64(jitter * l.pitch * (draw.U() - 0.5))
			l.at = append(l.at, P{u + du, v + dv})
		}
	}
	l.rowStart = append(l.rowStart, len(l.at))
}

// corner is a corner of a cell, and the neighbour beyond the edge that leaves
// from it.
type corner struct {
	p      P
	beyond int
}

type nearSite struct {
	i  int
	d2 float64
}

// edges calls f for the edge between every two neighbouring cells once, with
// the lesser site first. Each cell is cut from a box by the middle lines to
// other sites, nearest first, until none can reach it.
func (l *lattice2) edges(f func(i, j int, a, b P)) {
	var near []nearSite
	var cell, cut []corner
	rows := len(l.rowStart) - 1
	for row := range rows {
		for i := l.rowStart[row]; i < l.rowStart[row+1]; i++ {
			c := l.at[i]
			for rings := 3; ; rings += 3 {
				near = l.around(near[:0], row, i, rings)
				box := 4 * float64(rings) * l.pitch
				cell = append(cell[:0], corner{P{c[0] - box, c[1] - box}, -1}, corner{P{c[0] + box, c[1] - box}, -1}, corner{P{c[0] + box, c[1] + box}, -1}, corner{P{c[0] - box, c[1] + box}, -1})
				reach := math.Inf(1)
				for _, n := range near {
					if n.d2 > 4*reach {
						break
					}
					cell, cut = halve(cell, cut[:0], c, l.at[n.i], n.i)
					reach = 0
					for _, k := range cell {
						du, dv := k.p[0]-c[0], k.p[1]-c[1]
						reach = math.Max(reach, float64(du*du)+float64(dv*dv))
					}
				}
				// What was not looked at is further than the ring it lies beyond.
				beyond := (float64(rings)*0.86 - 1) * l.pitch
				if 4*reach <= beyond*beyond || rings >= 9 {
					break
				}
			}
			for k := range cell {
				if j := cell[k].beyond; j > i {
					f(i, j, cell[k].p, cell[(k+1)%len(cell)].p)
				}
			}
		}
	}
}

// around are the sites within some rings of the lattice, nearest first.
func (l *lattice2) around(out []nearSite, row, i, rings int) []nearSite {
	k := i - l.rowStart[row]
	for r := max(0, row-rings); r <= min(len(l.rowStart)-2, row+rings); r++ {
		lo, hi := l.rowStart[r], l.rowStart[r+1]
		for j := max(lo, lo+k-rings-1); j < min(hi, lo+k+rings+2); j++ {
			if j != i {
				du, dv := l.at[j][0]-l.at[i][0], l.at[j][1]-l.at[i][1]
				out = append(out, nearSite{j, float64(du*du) + float64(dv*dv)})
			}
		}
	}
	slices.SortFunc(out, func(a, b nearSite) int {
		switch {
		case a.d2 < b.d2:
			return -1
		case a.d2 > b.d2:
			return 1
		}
		return a.i - b.i
	})
	return out
}

// halve keeps what of a cell is nearer to c than to o. The corners run
// counter-clockwise; an edge that the cut makes has o beyond it.
func halve(cell, out []corner, c, o P, beyond int) ([]corner, []corner) {
	nx, ny := o[0]-c[0], o[1]-c[1]
	mx, my := (o[0]+c[0])/2, (o[1]+c[1])/2
	far := func(p P) float64 { return float64((p[0]-mx)*nx) + float64((p[1]-my)*ny) }
	reaches := false
	for _, k := range cell {
		if far(k.p) > 0 {
			reaches = true
			break
		}
	}
	if !reaches {
		return cell, out
	}
	for k := range cell {
		p, q := cell[k], cell[(k+1)%len(cell)]
		fp, fq := far(p.p), far(q.p)
		if fp <= 0 {
			out = append(out, p)
		}
		if (fp <= 0) != (fq <= 0) {
			x := corner{between(p.p, q.p, fp/(fp-fq)), p.beyond}
			if fp <= 0 {
				x.beyond = beyond
			}
			out = append(out, x)
		}
	}
	return out, cell
}
