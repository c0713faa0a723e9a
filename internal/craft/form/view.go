package form

import (
	"math"
	"slices"
	"strconv"
	"strings"
)

// View is a sheet seen from one side, as lines to draw. Lengths are true mm in
// the plane of the picture; x grows to the right, y downward. Paths are SVG's.
type View struct {
	Yaw   int `json:"yaw" doc:"degrees; 0 is face to face, 90 looks at the wearer's left side"`
	Pitch int `json:"pitch" doc:"degrees; 45 looks from above, −45 from below"`
	// Left, Top, Width and Height are the box of what is seen.
	Left   float64 `json:"left"`
	Top    float64 `json:"top"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	// Outline is the rim of what is seen; Ridges are rims inside it, where one
	// part stands before another.
	Outline string `json:"outline"`
	Ridges  string `json:"ridges"`
	// Contours are the lines of equal distance from the eye, every StepMM;
	// Heavy is every fifth of them.
	Contours string  `json:"contours"`
	Heavy    string  `json:"heavy"`
	StepMM   float64 `json:"step_mm"`
}

// contourStep is the distance of the contour lines in mm.
func contourStep(part string) float64 {
	switch part {
	case "hand":
		return 2
	case "belly":
		return 8
	default:
		return 3
	}
}

// Camera turns places into places of the picture.
type Camera struct{ right, up, toward Vec }

// Look makes a camera for a yaw and a pitch in degrees.
func Look(yaw, pitch int) Camera {
	s, c := math.Sincos(float64(yaw) * math.Pi / 180)
	sp, cp := math.Sincos(float64(pitch) * math.Pi / 180)
	return Camera{Vec{c, 0, -s}, Vec{-s * sp, cp, -c * sp}, Vec{s * cp, sp, c * cp}}
}

// See is where a place stands in the picture, and how near it is to the eye.
func (c Camera) See(p Vec) (x, y, near float64) { return c.right.dot(p), -c.up.dot(p), c.toward.dot(p) }

const (
	pixel = 1.0 // mm of the depth picture
	cliff = 7.0 // a step in depth from pixel to pixel that is a rim, in mm
)

var nothing = math.Inf(-1)

// depths is a picture of how near the skin is, with a margin of empty pixels.
type depths struct {
	left, top float64
	w, h      int
	near      []float64
}

func (s *Sheet) picture(c Camera) depths {
	type seen struct{ x, y, near float64 }
	at := make([]seen, len(s.p))
	lox, hix, loy, hiy := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for i, p := range s.p {
		x, y, near := c.See(p)
		at[i] = seen{x, y, near}
		if s.skin == nil || s.skin[i] > 0 {
			lox, hix, loy, hiy = math.Min(lox, x), math.Max(hix, x), math.Min(loy, y), math.Max(hiy, y)
		}
	}
	d := depths{left: math.Floor(lox) - 2, top: math.Floor(loy) - 2}
	d.w, d.h = int((hix-d.left)/pixel)+4, int((hiy-d.top)/pixel)+4
	d.near = make([]float64, d.w*d.h)
	for i := range d.near {
		d.near[i] = nothing
	}
	triangle := func(a, b, e seen) {
		x0, x1 := max(0, int(math.Min(a.x, math.Min(b.x, e.x))-d.left)), min(d.w-1, int(math.Max(a.x, math.Max(b.x, e.x))-d.left)+1)
		y0, y1 := max(0, int(math.Min(a.y, math.Min(b.y, e.y))-d.top)), min(d.h-1, int(math.Max(a.y, math.Max(b.y, e.y))-d.top)+1)
		det := (b.x-a.x)*(e.y-a.y) - (b.y-a.y)*(e.x-a.x)
		if det == 0 {
			return
		}
		for y := y0; y <= y1; y++ {
			for x := x0; x <= x1; x++ {
				px, py := d.left+float64(x)-a.x, d.top+float64(y)-a.y
				f := (px*(e.y-a.y) - py*(e.x-a.x)) / det
				g := (py*(b.x-a.x) - px*(b.y-a.y)) / det
				if f < -1e-9 || g < -1e-9 || f+g > 1+1e-9 {
					continue
				}
				if near := a.near + f*(b.near-a.near) + g*(e.near-a.near); near > d.near[y*d.w+x] {
					d.near[y*d.w+x] = near
				}
			}
		}
	}
	for j := range s.nv - 1 {
		for i := range s.nu - 1 {
			k := j*s.nu + i
			if s.skin != nil && (s.skin[k] <= 0 || s.skin[k+1] <= 0 || s.skin[k+s.nu] <= 0 || s.skin[k+s.nu+1] <= 0) {
				continue
			}
			triangle(at[k], at[k+1], at[k+s.nu])
			triangle(at[k+1], at[k+s.nu+1], at[k+s.nu])
		}
	}
	return d
}

// View draws the sheet from one side.
func (s *Sheet) View(yaw, pitch int) View {
	d := s.picture(Look(yaw, pitch))
	v := View{Yaw: yaw, Pitch: pitch, Left: d.left, Top: d.top, Width: float64(d.w), Height: float64(d.h), StepMM: contourStep(s.part)}
	lo, hi := math.Inf(1), math.Inf(-1)
	covered := make([]float64, len(d.near))
	for i, near := range d.near {
		if near > nothing {
			covered[i] = 1
			lo, hi = math.Min(lo, near), math.Max(hi, near)
		}
	}
	v.Outline = path(d, smooth(march(d, covered, 0.5, func(int) bool { return true }), 3), 0.1, 20)
	v.Ridges = path(d, smooth(d.rims(), 3), 0.15, 10)
	calm := func(k int) bool {
		a, b, e, f := d.near[k], d.near[k+1], d.near[k+d.w], d.near[k+d.w+1]
		least := math.Min(math.Min(a, b), math.Min(e, f))
		return least > nothing && math.Max(math.Max(a, b), math.Max(e, f))-least < cliff
	}
	var light, heavy strings.Builder
	for n := math.Ceil(lo / v.StepMM); n*v.StepMM < hi; n++ {
		to := &light
		if math.Mod(n, 5) == 0 {
			to = &heavy
		}
		to.WriteString(path(d, smooth(march(d, d.near, n*v.StepMM, calm), 1), 0.12, 3))
	}
	v.Contours, v.Heavy = light.String(), heavy.String()
	return v
}

type dot struct{ x, y float64 }

// march follows the lines of one level through a picture (marching squares),
// through the cells that may be entered.
func march(d depths, field []float64, level float64, enter func(k int) bool) [][]dot {
	links := map[int][]int{} // edge to the edges it is joined with; an edge is 2·pixel, +1 for the upright one
	where := func(edge int) dot {
		k := edge / 2
		other := k + 1
		if edge%2 == 1 {
			other = k + d.w
		}
		t := (level - field[k]) / (field[other] - field[k])
		x, y := float64(k%d.w), float64(k/d.w)
		if edge%2 == 1 {
			return dot{x, y + t}
		}
		return dot{x + t, y}
	}
	for y := range d.h - 1 {
		for x := range d.w - 1 {
			k := y*d.w + x
			var cell int
			for bit, at := range [4]int{k, k + 1, k + d.w + 1, k + d.w} {
				if field[at] > level {
					cell |= 1 << bit
				}
			}
			if cell == 0 || cell == 15 || !enter(k) {
				continue
			}
			top, right, bottom, left := 2*k, 2*(k+1)+1, 2*(k+d.w), 2*k+1
			join := func(a, b int) { links[a], links[b] = append(links[a], b), append(links[b], a) }
			switch cell {
			case 1, 14:
				join(left, top)
			case 2, 13:
				join(top, right)
			case 3, 12:
				join(left, right)
			case 4, 11:
				join(right, bottom)
			case 6, 9:
				join(top, bottom)
			case 7, 8:
				join(left, bottom)
			case 5:
				join(left, top)
				join(right, bottom)
			case 10:
				join(top, right)
				join(left, bottom)
			}
		}
	}
	return follow(links, where)
}

// rims are the lines along which the depth jumps.
func (d depths) rims() [][]dot {
	links := map[int][]int{} // corners between pixels, named by the pixel to their upper left
	join := func(a, b int) { links[a], links[b] = append(links[a], b), append(links[b], a) }
	jump := func(a, b int) bool { return math.Abs(d.near[a]-d.near[b]) > cliff }
	// Along the outline every form falls off steeply; that is no rim.
	const margin = 4
	inner := func(k int) bool {
		for _, at := range [8]int{k - margin, k + margin, k - margin*d.w, k + margin*d.w, k - 3*d.w - 3, k - 3*d.w + 3, k + 3*d.w - 3, k + 3*d.w + 3} {
			if d.near[at] == nothing {
				return false
			}
		}
		return true
	}
	for y := margin; y < d.h-margin; y++ {
		for x := margin; x < d.w-margin; x++ {
			k := y*d.w + x
			if d.near[k] == nothing || !inner(k) {
				continue
			}
			if jump(k, k+1) {
				join(k-d.w, k)
			}
			if jump(k, k+d.w) {
				join(k-1, k)
			}
		}
	}
	return follow(links, func(k int) dot { return dot{float64(k%d.w) + 0.5, float64(k/d.w) + 0.5} })
}

// follow makes lines of links, beginning with those that have an end.
func follow(links map[int][]int, where func(int) dot) [][]dot {
	var lines [][]dot
	keys := make([]int, 0, len(links))
	for k := range links {
		keys = append(keys, k)
	}
	// The order of a map is not an order; the drawing shall be the same always.
	slices.Sort(keys)
	used := map[[2]int]bool{}
	walk := func(from int) {
		line := []dot{where(from)}
		for at := from; ; {
			next := -1
			for _, to := range links[at] {
				if !used[[2]int{at, to}] {
					next = to
					break
				}
			}
			if next < 0 {
				break
			}
			used[[2]int{at, next}], used[[2]int{next, at}] = true, true
			line = append(line, where(next))
			at = next
		}
		if len(line) > 1 {
			lines = append(lines, line)
		}
	}
	for _, k := range keys {
		if len(links[k])%2 == 1 {
			walk(k)
		}
	}
	for _, k := range keys {
		walk(k)
	}
	return lines
}

// smooth evens out the steps of the picture, some passes of a weighted mean.
func smooth(lines [][]dot, passes int) [][]dot {
	for n, line := range lines {
		closed := len(line) > 3 && line[0] == line[len(line)-1]
		for range passes {
			next := make([]dot, len(line))
			for i := range line {
				a, b := max(i-1, 0), min(i+1, len(line)-1)
				if closed && i == 0 {
					a = len(line) - 2
				}
				if closed && i == len(line)-1 {
					b = 1
				}
				next[i] = dot{(line[a].x + 2*line[i].x + line[b].x) / 4, (line[a].y + 2*line[i].y + line[b].y) / 4}
				if !closed && (i == 0 || i == len(line)-1) {
					next[i] = line[i]
				}
			}
			line = next
		}
		lines[n] = line
	}
	return lines
}

// path writes lines as one SVG path in mm, without the points that lie within
// tolerance of the line and without lines that are shorter than least.
func path(d depths, lines [][]dot, tolerance, least float64) string {
	var b strings.Builder
	for _, line := range lines {
		var length float64
		for i := 1; i < len(line); i++ {
			length += math.Hypot(line[i].x-line[i-1].x, line[i].y-line[i-1].y)
		}
		if length < least {
			continue
		}
		closed := line[0] == line[len(line)-1]
		for i, p := range thin(line, tolerance) {
			if i == 0 {
				b.WriteByte('M')
			} else {
				b.WriteByte('L')
			}
			b.WriteString(strconv.FormatFloat(d.left+p.x*pixel, 'f', 1, 64))
			b.WriteByte(' ')
			b.WriteString(strconv.FormatFloat(d.top+p.y*pixel, 'f', 1, 64))
		}
		if closed {
			b.WriteByte('Z')
		}
	}
	return b.String()
}

// thin is Douglas and Peucker's simplification.
func thin(line []dot, tolerance float64) []dot {
	if len(line) < 3 {
		return line
	}
	a, b := line[0], line[len(line)-1]
	n := math.Hypot(b.x-a.x, b.y-a.y)
	worst, at := 0.0, 0
	for i := 1; i < len(line)-1; i++ {
		p := line[i]
		off := math.Hypot(p.x-a.x, p.y-a.y)
		if n > 0 {
			off = math.Abs((b.x-a.x)*(p.y-a.y)-(b.y-a.y)*(p.x-a.x)) / n
		}
		if off > worst {
			worst, at = off, i
		}
	}
	if worst <= tolerance {
		return []dot{a, b}
	}
	left := thin(line[:at+1], tolerance)
	return append(left[:len(left)-1:len(left)-1], thin(line[at:], tolerance)...)
}
