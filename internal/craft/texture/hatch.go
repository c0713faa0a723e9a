package texture

import (
	"math"
)

// stepMM is how finely a line is followed.
const stepMM = 0.5

// hatch draws families of lines (handbook, section 4).
func (g *ground) hatch(m *Marks, draw *Stream) error {
	l := &m.layer
	r := read{at: m.field()}
	r.num("buff", l.Buff, 0, 20)
	if len(l.Families) == 0 {
		return bad(m.field()+".families", "Lines need at least one family.")
	}
	every := 0
	if l.Rescore != nil {
		r.num("rescore.every", float64(l.Rescore.Every), 1, 1000)
		r.pos("rescore.depth", l.Rescore.Depth, 50)
		r.pos("rescore.width", l.Rescore.Width, 50)
		every = l.Rescore.Every
	}
	for fi := range l.Families {
		f := &l.Families[fi]
		fr := read{at: m.field() + ".families[" + digits(fi) + "]", err: r.err}
		fr.span("spacing", f.Spacing, 1000)
		fr.pos("depth", f.Depth, 50)
		fr.pos("width", f.Width, 100)
		fr.num("jitter", f.Jitter, 0, 4)
		fr.num("angle", f.Angle, -3600, 3600)
		fr.num("bow", f.Bow, -1000, 1000)
		fr.word("profile", f.Profile, "round", "v")
		wiggle := or(f.Wiggle, Span{0, 20})
		fr.num("wiggle", wiggle[0], 0, 100)
		fr.pos("wiggle", wiggle[1], 10_000)
		if r.err = fr.err; r.err != nil {
			return r.err
		}
		lay := straight(g.flat, f.Angle)
		if l.Flow != nil {
			guide, err := g.guide(*l.Flow, m.field()+".flow")
			if err != nil {
				return err
			}
			lay = along(g.flat, guide)
		}
		if err := g.family(m, draw, fi, lay, wiggle, every); err != nil {
			return err
		}
	}
	if r.err != nil {
		return r.err
	}
	return g.lumps(m)
}

func (g *ground) family(m *Marks, draw *Stream, fi int, lay frame, wiggle Span, every int) error {
	f := m.layer.Families[fi]
	reach, waves := wiggle[0], wiggle[1]
	steps := max(1, int(math.Ceil((lay.s1-lay.s0)/stepMM)))
	c := lay.c0 - (reach + math.Max(0, f.Bow)) + f.Spacing[0]/2
	end := lay.c1 + reach + math.Max(0, -f.Bow)
	for k := 0; c < end; k++ {
		if err := g.ctx.Err(); err != nil {
			return err
		}
		if k*(steps+1) > maxCandidates {
			return bad(m.field()+".families["+digits(fi)+"].spacing", "These lines are %d m long together. Set them further apart, or take a smaller region.", k*steps/2000)
		}
		if k >= maxLines {
			return bad(m.field()+".families["+digits(fi)+"].spacing", "These lines are more than %d. Set them further apart.", maxLines)
		}
		share := math.Max(0, math.Min(1, (c-lay.c0)/(lay.c1-lay.c0)))
		p := f.Spacing[0] + float64((f.Spacing[1]-f.Spacing[0])*share)
		phase := 2 * math.Pi * draw.U()
		shift := float64(f.Jitter * p * (draw.U() - 0.5))
		line := make([]P, 0, steps+1)
		var pieces [][]P
		for i := range steps + 1 {
			s := lay.s0 + float64((lay.s1-lay.s0)*float64(i)/float64(steps))
			q := (2*s - lay.s0 - lay.s1) / (lay.s1 - lay.s0)
			at, _, ok := lay.at(s, c+shift+float64(reach*math.Sin(2*math.Pi*s/waves+phase))+float64(f.Bow*(1-q*q)))
			if !ok {
				pieces = append(pieces, line)
				line = nil
				continue
			}
			line = append(line, at)
		}
		for _, whole := range append(pieces, line) {
			if len(whole) < 2 {
				continue
			}
			for _, in := range g.clip(whole, m) {
				s := Stroke{Line: in, Width: f.Width, Depth: f.Depth, V: f.Profile == "v", Family: fi, Number: k}
				m.Strokes = append(m.Strokes, s)
				if every > 0 && k%every == 0 {
					s.Width, s.Depth = m.layer.Rescore.Width, m.layer.Rescore.Depth
					m.Rescored = append(m.Rescored, s)
				}
			}
		}
		c += p
	}
	return nil
}

// lumps stand in the cells between the lines of the first two families: where
// lines half-way between neighbours cross. Wiggle is left out of account.
func (g *ground) lumps(m *Marks) error {
	l := m.layer
	if l.Lumps == nil {
		return nil
	}
	r := read{at: m.field() + ".lumps"}
	height := r.pos("height", l.Lumps.Height, 20)
	share := r.num("share", l.Lumps.Share, 0, 1)
	fill := l.Lumps.Fill
	if fill == 0 {
		fill = 0.7
	}
	r.num("fill", fill, 0.05, 1.5)
	if r.err != nil {
		return r.err
	}
	if len(l.Families) < 2 || l.Flow != nil {
		return bad(m.field()+".lumps", "Lumps stand between two straight families that cross.")
	}
	a, b := straight(g.flat, l.Families[0].Angle), straight(g.flat, l.Families[1].Angle)
	det := float64(a.n[0]*b.n[1]) - float64(a.n[1]*b.n[0])
	if math.Abs(det) < 0.05 {
		return bad(m.field()+".lumps", "The two families run alike; lumps need cells between lines that cross.")
	}
	draw := NewStream(g.seed(m), m.label("lumps"))
	for _, ca := range middles(l.Families[0], a) {
		for _, cb := range middles(l.Families[1], b) {
			u := draw.U()
			at := P{(float64(ca.c*b.n[1]) - float64(cb.c*a.n[1])) / det, (float64(cb.c*a.n[0]) - float64(ca.c*b.n[0])) / det}
			if u >= share || !g.takes(at, m) {
				continue
			}
			if len(m.Lumps) >= MaxPieces {
				return bad(m.field()+".lumps", "These cells are more than %d.", MaxPieces)
			}
			m.Lumps = append(m.Lumps, Spot{At: at, Diameter: fill * math.Min(ca.p, cb.p), Depth: height})
		}
	}
	return nil
}

type middle struct{ c, p float64 }

// middles are half-way between neighbouring lines of a family, with their
// spacing there.
func middles(f Family, lay frame) []middle {
	var out []middle
	for c := lay.c0 + f.Spacing[0]/2; c < lay.c1; {
		share := math.Max(0, math.Min(1, (c-lay.c0)/(lay.c1-lay.c0)))
		p := f.Spacing[0] + float64((f.Spacing[1]-f.Spacing[0])*share)
		if c+p < lay.c1 {
			out = append(out, middle{c + p/2, p})
		}
		c += p
	}
	return out
}
