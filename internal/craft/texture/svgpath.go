package texture

import (
	"math"
	"strconv"
	"unicode"

	"yewmoor/internal/craft/refusal"
)

// numbers reads a list of numbers as SVG writes them, such as "1-2.5e1,3".
func numbers(s string) ([]float64, error) {
	var out []float64
	for i := 0; i < len(s); {
		if c := s[i]; c == ',' || unicode.IsSpace(rune(c)) {
			i++
			continue
		}
		j := numberEnd(s, i)
		v, err := strconv.ParseFloat(s[i:j], 64)
		if err != nil || j == i || !finite(v) {
			return nil, refusal.New(BadDrawing, "file", "A number of the drawing cannot be read.")
		}
		if out = append(out, v); len(out) > 200_000 {
			return nil, refusal.New(BadDrawing, "file", "The drawing has too many points.")
		}
		i = j
	}
	return out, nil
}

func numberEnd(s string, i int) int {
	j := i
	if j < len(s) && (s[j] == '+' || s[j] == '-') {
		j++
	}
	dot, exp := false, false
	for ; j < len(s); j++ {
		c := s[j]
		switch {
		case c >= '0' && c <= '9':
		case c == '.' && !dot && !exp:
			dot = true
		case (c == 'e' || c == 'E') && !exp && j > i:
			exp = true
			if j+1 < len(s) && (s[j+1] == '+' || s[j+1] == '-') {
				j++
			}
		default:
			return j
		}
	}
	return j
}

// pathOf follows the data of a path; each closed or open part is a ring.
func pathOf(d string) ([][]P, error) {
	var out [][]P
	var part []P
	var at, start, ctrl P
	var last byte
	end := func() {
		if len(part) >= 3 {
			out = append(out, part)
		}
		part = nil
	}
	for i := 0; i < len(d); {
		c := d[i]
		if c == ',' || unicode.IsSpace(rune(c)) {
			i++
			continue
		}
		j := i + 1
		for j < len(d) && !(unicode.IsLetter(rune(d[j])) && d[j] != 'e' && d[j] != 'E') {
			j++
		}
		v, err := numbers(d[i+1 : j])
		if err != nil {
			return nil, err
		}
		i = j
		rel := c >= 'a'
		up := byte(unicode.ToUpper(rune(c)))
		if up == 'Z' {
			at = start
			end()
			last = up
			continue
		}
		n, known := map[byte]int{'M': 2, 'L': 2, 'H': 1, 'V': 1, 'C': 6, 'S': 4, 'Q': 4, 'T': 2, 'A': 7}[up]
		if !known || len(v) == 0 || len(v)%n != 0 {
			return nil, refusal.New(BadDrawing, "file", "A path of the drawing cannot be read at “%c”.", c)
		}
		for k := 0; k < len(v); k += n {
			a := v[k : k+n]
			pt := func(i int) P {
				p := P{a[i], a[i+1]}
				if rel {
					p[0], p[1] = p[0]+at[0], p[1]+at[1]
				}
				return p
			}
			switch up {
			case 'M':
				to := pt(0)
				if k == 0 {
					end()
					start = to
				}
				part = append(part, to)
				at = to
			case 'L':
				at = pt(0)
				part = append(part, at)
			case 'H':
				x := a[0]
				if rel {
					x += at[0]
				}
				at = P{x, at[1]}
				part = append(part, at)
			case 'V':
				y := a[0]
				if rel {
					y += at[1]
				}
				at = P{at[0], y}
				part = append(part, at)
			case 'C', 'S', 'Q', 'T':
				if part == nil {
					part = append(part, at)
				}
				var c1, c2, to P
				mirrored := P{2*at[0] - ctrl[0], 2*at[1] - ctrl[1]}
				switch up {
				case 'C':
					c1, c2, to = pt(0), pt(2), pt(4)
					ctrl = c2
				case 'S':
					c1, c2, to = at, pt(0), pt(2)
					if last == 'C' || last == 'S' {
						c1 = mirrored
					}
					ctrl = c2
				case 'Q', 'T':
					q := at
					if up == 'Q' {
						q, to = pt(0), pt(2)
					} else {
						to = pt(0)
						if last == 'Q' || last == 'T' {
							q = mirrored
						}
					}
					ctrl = q
					c1 = P{at[0] + 2*(q[0]-at[0])/3, at[1] + 2*(q[1]-at[1])/3}
					c2 = P{to[0] + 2*(q[0]-to[0])/3, to[1] + 2*(q[1]-to[1])/3}
				}
				for s := 1; s <= 24; s++ {
					t := float64(s) / 24
					u := 1 - t
					part = append(part, P{
						u*u*u*at[0] + 3*u*u*t*c1[0] + 3*u*t*t*c2[0] + t*t*t*to[0],
						u*u*u*at[1] + 3*u*u*t*c1[1] + 3*u*t*t*c2[1] + t*t*t*to[1],
					})
				}
				at = to
			case 'A':
				to := P{a[5], a[6]}
				if rel {
					to[0], to[1] = to[0]+at[0], to[1]+at[1]
				}
				if part == nil {
					part = append(part, at)
				}
				part = append(part, arc(at, to, a[0], a[1], a[2], a[3] != 0, a[4] != 0)...)
				at = to
			}
			last = up
		}
	}
	end()
	return out, nil
}

// arc follows an elliptic arc by its ends (SVG 2, appendix B.2).
func arc(from, to P, rx, ry, turn float64, large, sweep bool) []P {
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx == 0 || ry == 0 || from == to {
		return []P{to}
	}
	sin, cos := math.Sincos(turn * math.Pi / 180)
	dx, dy := (from[0]-to[0])/2, (from[1]-to[1])/2
	x, y := cos*dx+sin*dy, cos*dy-sin*dx
	if l := x*x/(rx*rx) + y*y/(ry*ry); l > 1 {
		rx, ry = rx*math.Sqrt(l), ry*math.Sqrt(l)
	}
	f := math.Sqrt(math.Max(0, (rx*rx*ry*ry-rx*rx*y*y-ry*ry*x*x)/(rx*rx*y*y+ry*ry*x*x)))
	if large == sweep {
		f = -f
	}
	cx, cy := f*rx*y/ry, -f*ry*x/rx
	mx, my := (from[0]+to[0])/2+cos*cx-sin*cy, (from[1]+to[1])/2+sin*cx+cos*cy
	a0 := math.Atan2((y-cy)/ry, (x-cx)/rx)
	da := math.Atan2((-y-cy)/ry, (-x-cx)/rx) - a0
	if sweep && da < 0 {
		da += 2 * math.Pi
	} else if !sweep && da > 0 {
		da -= 2 * math.Pi
	}
	var out []P
	for s := 1; s <= 32; s++ {
		sa, ca := math.Sincos(a0 + da*float64(s)/32)
		out = append(out, P{mx + cos*rx*ca - sin*ry*sa, my + sin*rx*ca + cos*ry*sa})
	}
	out[len(out)-1] = to
	return out
}
