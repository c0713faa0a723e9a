package texture

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/refusal"
)

// HalfAxes are those of a tube of outside diameter od squashed to q = lesser
// over greater axis; it keeps its perimeter (Ramanujan's second approximation).
func HalfAxes(od, q float64) (a, b float64) {
	h := (1 - q) / (1 + q)
	h *= h
	a = od / ((1 + q) * (1 + 3*h/(10+math.Sqrt(4-3*h))))
	return a, q * a
}

// squashB is the squash of the other end.
func (s Stamp) squashB() float64 { return or(s.SquashB, s.Squash) }

// EndsDiffer tells whether the two ends press differently.
func (s Stamp) EndsDiffer() bool { return s.SquashB != nil && *s.SquashB != s.Squash }

func (s Stamp) axes(end byte) (a, b float64) {
	if end == 'B' {
		return HalfAxes(s.OD, s.squashB())
	}
	return HalfAxes(s.OD, s.Squash)
}

// Width is that of end A, along the row.
func (s Stamp) Width() float64 { a, _ := s.axes('A'); return 2 * a }

// Check refuses a stamp that cannot be made.
func (s Stamp) Check(field string) error {
	r := read{at: field}
	r.pos("od", s.OD, 200)
	r.num("squash", s.Squash, 0.05, 1)
	r.num("squash_b", s.squashB(), 0.05, 1)
	return r.err
}

// nearest is the stamp whose width is closest to w by ratio.
func nearest(stamps []Stamp, w float64) int {
	best, least := 0, math.Inf(1)
	for i, s := range stamps {
		if d := math.Abs(math.Log(s.Width() / w)); d < least {
			best, least = i, d
		}
	}
	return best
}

// scales presses rows of stamps that shrink along the rows' order.
func (g *ground) scales(m *Marks, draw *Stream) error {
	l := &m.layer
	r := read{at: m.field()}
	size := or(l.Size, Span{9, 4})
	r.span("size", size, 500)
	rowPitch, gap, offset := or(l.RowPitch, 0.85), or(l.Gap, 0.05), or(l.Offset, 0.5)
	r.num("row_pitch", rowPitch, 0.2, 5)
	r.num("gap", gap, -0.5, 5)
	r.num("offset", offset, 0, 1)
	r.num("rot_jitter", l.RotJitter, 0, 180)
	r.num("pos_jitter", l.PosJitter, 0, 2)
	r.pos("depth", or(l.Depth, Span{0.5, 0.5})[0], 50)
	r.pos("groove", or(l.Groove, 0.8), 50)
	r.num("dome", l.Dome, 0, 20)
	ends := r.word("ends", l.Ends, "alternate", "random")
	if r.err != nil {
		return r.err
	}
	if len(l.Stamps) == 0 {
		return bad(m.field()+".stamps", "Scales need at least one stamp.")
	}
	ids := map[string]bool{}
	for i, s := range l.Stamps {
		at := fmt.Sprintf("%s.stamps[%d]", m.field(), i)
		if err := s.Check(at); err != nil {
			return err
		}
		if ids[s.ID] || s.ID == "" {
			return bad(at+".id", "Every stamp needs a name of its own.")
		}
		ids[s.ID] = true
	}
	m.Stamps = l.Stamps
	lay := straight(g.flat, l.Angle)
	if l.Flow != nil {
		guide, err := g.guide(*l.Flow, m.field()+".flow")
		if err != nil {
			return err
		}
		lay = along(g.flat, guide)
	}
	wanted := func(v float64) int {
		share := math.Max(0, math.Min(1, (v-lay.c0)/(lay.c1-lay.c0)))
		return nearest(l.Stamps, size[0]*math.Pow(size[1]/size[0], share))
	}
	j := wanted(lay.c0)
	_, b := l.Stamps[j].axes('A')
	v := lay.c0 + b
	pressed := 0
	for row := 0; v <= lay.c1+1e-9; row++ {
		if err := g.ctx.Err(); err != nil {
			return err
		}
		n, err := g.row(m, draw, lay, row, j, v, gap, offset, ends, &pressed)
		if err != nil {
			return err
		}
		if n > 0 {
			m.Rows++
		}
		next := wanted(v + float64(2*rowPitch*b))
		_, bNext := l.Stamps[next].axes('A')
		v += float64(rowPitch * (b + bNext))
		j, b = next, bNext
	}
	return nil
}

// row presses one row and says how many stayed.
func (g *ground) row(m *Marks, draw *Stream, lay frame, row, stamp int, v, gap, offset float64, ends string, pressed *int) (int, error) {
	l := &m.layer
	s := l.Stamps[stamp]
	width := s.Width()
	step := float64(width * (1 + gap))
	if step < 0.01 {
		return 0, bad(m.field()+".gap", "With this gap the impressions of a row lie on one place.")
	}
	u := lay.s0
	if row%2 == 1 {
		u += float64(offset * step)
	}
	kept, before, before2 := 0, byte(0), byte(0)
	for k := 0; u <= lay.s1+1e-9; k++ {
		if *pressed++; *pressed > MaxPieces {
			return 0, refusal.New(BadParameter, m.field()+".size", "These scales are more than %d.", MaxPieces)
		}
		r0, r1, r2, r3 := draw.U(), draw.U(), draw.U(), draw.U()
		at, turn, ok := lay.at(u+float64(l.PosJitter*width*(r0-0.5)), v+float64(l.PosJitter*width*(r1-0.5)))
		end := byte('A')
		if ends == "alternate" {
			if (k+row)%2 == 1 {
				end = 'B'
			}
		} else {
			if r3 >= 0.5 {
				end = 'B'
			}
			if k >= 2 && before == end && before2 == end {
				end = 'A' + 'B' - end
			}
		}
		before2, before = before, end
		a, b := s.axes(end)
		if ok && g.takes(at, m) {
			m.Impressions = append(m.Impressions, Impression{At: at, A: a, B: b, Turn: turn*180/math.Pi + float64(l.RotJitter*(2*r2-1)), Stamp: stamp, End: end, Row: row, Col: k})
			kept++
		}
		u += step
	}
	return kept, nil
}
