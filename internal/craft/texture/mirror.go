package texture

import "math"

// mirrored repeats a layer on the other side of an upright line: what stands on
// the right of it stays, the left is its likeness, moved by chance as far as
// the chosen difference says. Marks never come nearer to each other than the
// spacing they were laid with.
func (g *ground) mirrored(m *Marks) error {
	mr := m.layer.Mirror
	if mr == nil {
		return nil
	}
	if !finite(mr.X) || !(mr.Difference >= 0 && mr.Difference <= 1) {
		return bad(m.field()+".mirror", "Say where the middle line stands and how unlike the sides are, 0 to 1.")
	}
	draw := NewStream(g.seed(m), m.label("mirror"))
	turned := func(p P) P { return P{2*mr.X - p[0], p[1]} }
	step := func(far float64) P {
		return P{float64(mr.Difference * far * (draw.U() - 0.5)), float64(mr.Difference * far * (draw.U() - 0.5))}
	}
	m.Strokes = g.mirrorStrokes(m, m.Strokes, turned, step)
	m.Rescored = g.mirrorStrokes(m, m.Rescored, turned, step)
	m.Spots = g.mirrorSpots(m, m.Spots, turned, step)
	m.Lumps = g.mirrorSpots(m, m.Lumps, turned, step)
	var pressed []Impression
	for _, s := range m.Impressions {
		if s.At[0] >= mr.X+s.A {
			pressed = append(pressed, s)
		}
	}
	for _, s := range pressed {
		move := step(s.B)
		turn := float64(mr.Difference * 20 * (draw.U() - 0.5))
		at := turned(s.At)
		s.Turn = 180 - s.Turn + turn
		for _, s.At = range []P{{at[0] + move[0], at[1] + move[1]}, at} {
			if g.takes(s.At, m) {
				pressed = append(pressed, s)
				break
			}
		}
	}
	if m.Impressions != nil {
		m.Impressions = pressed
	}
	if m.Sites != nil {
		right := keep(m.Sites, func(p P) bool { return p[0] >= mr.X })
		for _, p := range right {
			if q := turned(p); g.takes(q, m) {
				right = append(right, q)
			}
		}
		m.Sites = right
	}
	return nil
}

// mirrorStrokes keeps what lies right of the line and adds its likeness. Whole
// lines, such as wrinkles, count by their middle.
func (g *ground) mirrorStrokes(m *Marks, strokes []Stroke, turned func(P) P, step func(float64) P) []Stroke {
	if strokes == nil {
		return nil
	}
	x := m.layer.Mirror.X
	half := newShape([]ring{{{x, -2 * maxReach}, {4 * maxReach, -2 * maxReach}, {4 * maxReach, 2 * maxReach}, {x, 2 * maxReach}}})
	var out []Stroke
	if m.wholes != nil {
		wholes := keep(m.wholes, func(l []P) bool { return l[len(l)/2][0] >= x })
		n := len(wholes)
		for _, line := range wholes[:n] {
			wholes = append(wholes, moved(line, turned, step(m.Strokes[0].Width)))
		}
		first := strokes[0]
		m.wholes = nil
		for i, line := range wholes {
			drawn := false
			for _, in := range g.clip(line, m) {
				s := first
				s.Line, s.Number, drawn = in, i, true
				out = append(out, s)
			}
			if drawn {
				m.wholes = append(m.wholes, line)
			}
		}
		return out
	}
	for _, s := range strokes {
		for _, in := range half.clip(s.Line, true) {
			s.Line = in
			out = append(out, s)
		}
	}
	n := len(out)
	for _, s := range out[:n] {
		line := moved(s.Line, turned, step(2*s.Width))
		for _, in := range g.clip(line, m) {
			s.Line = in
			out = append(out, s)
		}
	}
	return out
}

func moved(line []P, turned func(P) P, by P) []P {
	out := make([]P, len(line))
	for i, p := range line {
		p = turned(p)
		out[i] = P{p[0] + by[0], p[1] + by[1]}
	}
	return out
}

// mirrorSpots keeps spots that stand at least half their spacing right of the
// line, adds their likeness, and then moves each likeness where it still keeps
// its distance from all the others.
func (g *ground) mirrorSpots(m *Marks, spots []Spot, turned func(P) P, step func(float64) P) []Spot {
	if spots == nil {
		return nil
	}
	x := m.layer.Mirror.X
	out := keep(spots, func(s Spot) bool { return s.At[0] >= x+math.Max(s.spacing, s.Diameter)/2 })
	for _, s := range out[:len(out):len(out)] {
		s.At = turned(s.At)
		if g.takes(s.At, m) {
			for n := range s.Phase {
				s.Phase[n] = math.Pi - s.Phase[n]
			}
			out = append(out, s)
		}
	}
	if m.layer.Mirror.Difference == 0 {
		return out
	}
	cell := 1e-6
	for _, s := range out {
		cell = math.Max(cell, math.Max(s.spacing, s.Diameter))
	}
	key := func(p P) [2]int32 { return [2]int32{int32(math.Floor(p[0] / cell)), int32(math.Floor(p[1] / cell))} }
	at := map[[2]int32][]int{}
	for i, s := range out {
		at[key(s.At)] = append(at[key(s.At)], i)
	}
	for i := range out {
		if out[i].At[0] >= x {
			continue
		}
		by := step(out[i].spacing)
		p := P{out[i].At[0] + by[0], out[i].At[1] + by[1]}
		if !g.takes(p, m) || !roomAt(out, at, key(p), i, p) {
			continue
		}
		k := key(out[i].At)
		at[k] = keep(at[k], func(n int) bool { return n != i })
		out[i].At = p
		at[key(p)] = append(at[key(p)], i)
	}
	return out
}

func roomAt(spots []Spot, at map[[2]int32][]int, k [2]int32, self int, p P) bool {
	for i := k[0] - 1; i <= k[0]+1; i++ {
		for j := k[1] - 1; j <= k[1]+1; j++ {
			for _, n := range at[[2]int32{i, j}] {
				if n != self && apart(p, spots[n].At) < (spots[self].spacing+spots[n].spacing)/2 {
					return false
				}
			}
		}
	}
	return true
}
