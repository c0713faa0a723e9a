package form

import "math"

// Sight tells which places of a sheet face the eye. What turns away is drawn
// where its row of the net last faces it, so that an area that goes round the
// wearer ends at the rim.
type Sight struct {
	sheet  *Sheet
	camera Camera
	// front is, for every point of the net, the column nearest to it in its row
	// that faces the eye: its own when it does, −1 when none of the row does.
	front []int
}

// Sight looks at the sheet from a yaw and a pitch in degrees.
func (s *Sheet) Sight(yaw, pitch int) *Sight {
	t := &Sight{sheet: s, camera: Look(yaw, pitch), front: make([]int, s.nu*s.nv)}
	faces := make([]bool, s.nu)
	before := s.picture(t.camera)
	for j := range s.nv {
		middle, most := 0, math.Inf(-1)
		for i := range s.nu {
			byU, byV := s.slopes(s.uAt(i), s.vAt(j))
			x, y, near := t.camera.See(s.p[j*s.nu+i])
			if near > most {
				middle, most = i, near
			}
			faces[i] = byV.cross(byU).dot(t.camera.toward) > 0 && near > before.at(x, y)-behind
		}
		// Toward the eye's side of the row, and no farther than to where the skin
		// is nearest to the eye: beyond it, an ear may face the eye as well.
		for i := range s.nu {
			t.front[j*s.nu+i] = s.towards(faces, i, middle)
		}
	}
	return t
}

func (s *Sheet) towards(faces []bool, i, middle int) int {
	way := middle - i
	if s.wraps {
		turn := s.nu - 1
		way -= turn * int(math.Round(float64(way)/float64(turn)))
	}
	step := 1
	if way < 0 {
		step = -1
	}
	for d := 0; d <= way*step; d++ {
		if k := s.column(i + d*step); k >= 0 && faces[k] {
			return k
		}
	}
	return -1
}

// behind is how far behind the skin that is seen a place may lie and still be
// seen itself, in mm.
const behind = 7.0

// at is how near the skin is at a place of the picture.
func (d depths) at(x, y float64) float64 {
	i, j := int(math.Round((x-d.left)/pixel)), int(math.Round((y-d.top)/pixel))
	return d.near[max(0, min(d.h-1, j))*d.w+max(0, min(d.w-1, i))]
}

// column is a column's place on a sheet that goes round; −1 beyond the ends of
// one that does not.
func (s *Sheet) column(i int) int {
	if s.wraps {
		return ((i % (s.nu - 1)) + s.nu - 1) % (s.nu - 1)
	}
	if i < 0 || i >= s.nu {
		return -1
	}
	return i
}

// See projects a followed line. seen is false when all of it turns away.
func (t *Sight) See(curve []Point) (line [][2]float64, seen bool) {
	s := t.sheet
	for _, p := range curve {
		p.V = math.Max(s.v0, math.Min(s.v1, p.V))
		j := int(math.Round((p.V - s.v0) / (s.v1 - s.v0) * float64(s.nv-1)))
		i := s.column(int(math.Round((p.U - s.u0) / (s.u1 - s.u0) * float64(s.nu-1))))
		if i < 0 {
			i = map[bool]int{true: 0, false: s.nu - 1}[p.U < s.u0]
		}
		front := t.front[j*s.nu+i]
		if front < 0 {
			continue
		}
		if front == i {
			seen = true
		} else {
			p.U = s.uAt(front)
		}
		x, y, _ := t.camera.See(s.at(p.U, p.V))
		line = append(line, [2]float64{x, y})
	}
	return line, seen
}
