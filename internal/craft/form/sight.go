package form

import "math"

// Sight tells which places of a sheet face the eye. In each row of the net they
// form one stretch round the place that faces it most; what lies beyond its
// ends is drawn at the rim, so that an area that goes round the wearer ends
// where they turn away.
type Sight struct {
	sheet  *Sheet
	camera Camera
	rows   []stretch
}

type stretch struct{ middle, lo, hi float64 }

// Sight looks at the sheet from a yaw and a pitch in degrees.
func (s *Sheet) Sight(yaw, pitch int) *Sight {
	out := &Sight{sheet: s, camera: Look(yaw, pitch), rows: make([]stretch, s.nv)}
	step := (s.u1 - s.u0) / float64(s.nu-1)
	for j := range s.nv {
		v := s.vAt(j)
		facing := func(u float64) float64 {
			byU, byV := s.slopes(u, v)
			n := byV.cross(byU)
			return n.dot(out.camera.toward) / math.Max(n.length(), 1e-9)
		}
		best := stretch{}
		most := math.Inf(-1)
		for i := 0; i < s.nu; i += 4 {
			if f := facing(s.uAt(i)); f > most {
				most, best.middle = f, s.uAt(i)
			}
		}
		best.lo, best.hi = best.middle, best.middle
		if most > 0 {
			reach := (s.u1 - s.u0) / 2
			if !s.wraps {
				reach = s.u1 - s.u0
			}
			for best.hi-best.middle < reach && facing(best.hi+step) > 0 && (s.wraps || best.hi+step <= s.u1) {
				best.hi += step
			}
			for best.middle-best.lo < reach && facing(best.lo-step) > 0 && (s.wraps || best.lo-step >= s.u0) {
				best.lo -= step
			}
		}
		out.rows[j] = best
	}
	return out
}

// See projects a followed line. Places that turn away are held at the rim;
// seen is false when all of them do.
func (t *Sight) See(curve []Point) (line [][2]float64, seen bool) {
	s := t.sheet
	for _, p := range curve {
		j := (p.V - s.v0) / (s.v1 - s.v0) * float64(s.nv-1)
		row := t.rows[max(0, min(s.nv-1, int(math.Round(j))))]
		u := p.U
		if s.wraps {
			turn := s.u1 - s.u0
			u -= turn * math.Round((u-row.middle)/turn)
		}
		held := math.Max(row.lo, math.Min(row.hi, u))
		seen = seen || held == u
		x, y, _ := t.camera.See(s.at(held, math.Max(s.v0, math.Min(s.v1, p.V))))
		line = append(line, [2]float64{x, y})
	}
	return line, seen
}
