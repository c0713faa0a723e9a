package texture

import (
	"encoding/xml"
	"io"
	"math"
	"strconv"
	"strings"
	"unicode"

	"yewmoor/internal/craft/refusal"
)

// BadDrawing is a drawing from which no outline can be read.
const BadDrawing = "BAD_DRAWING"

// units of length in mm; a bare number is a CSS pixel unless a view box says
// otherwise.
var units = map[string]float64{"mm": 1, "cm": 10, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "px": 25.4 / 96, "": 25.4 / 96}

// drawing is an SVG as far as it was read.
type drawing struct {
	scale [2]float64 // mm of a user unit
}

// OutlineFromSVG reads the outline with the largest area from an SVG drawing:
// paths, polygons, polylines, rectangles, circles and ellipses. Lengths follow
// the drawing's width, height and view box. Groups' transformations other than
// moving and scaling are refused rather than read wrong. y is turned to point
// up.
func OutlineFromSVG(r io.Reader) (Region, error) {
	d := drawing{scale: [2]float64{units["px"], units["px"]}}
	dec := xml.NewDecoder(r)
	dec.Strict = true
	type frame struct{ sx, sy, tx, ty float64 }
	stack := []frame{{1, 1, 0, 0}}
	var best []P
	bestArea := 0.0
	saw := false
	for {
		tok, err := dec.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			return Region{}, refusal.New(BadDrawing, "file", "This is no SVG that can be read: %s.", strings.TrimSuffix(err.Error(), "."))
		}
		switch t := tok.(type) {
		case xml.StartElement:
			at := stack[len(stack)-1]
			attr := map[string]string{}
			for _, a := range t.Attr {
				attr[a.Name.Local] = a.Value
			}
			if t.Name.Local == "svg" && !saw {
				saw = true
				if err := d.size(attr); err != nil {
					return Region{}, err
				}
			}
			if tr := strings.TrimSpace(attr["transform"]); tr != "" {
				sx, sy, tx, ty, ok := plainTransform(tr)
				if !ok {
					return Region{}, refusal.New(BadDrawing, "file", "The drawing turns or skews a group (“%.40s”). Flatten it first.", tr)
				}
				at = frame{at.sx * sx, at.sy * sy, at.tx + at.sx*tx, at.ty + at.sy*ty}
			}
			if len(stack) > 200 {
				return Region{}, refusal.New(BadDrawing, "file", "The drawing's groups are nested too deeply.")
			}
			stack = append(stack, at)
			shapes, err := shapeOf(t.Name.Local, attr)
			if err != nil {
				return Region{}, err
			}
			for _, s := range shapes {
				for i := range s {
					s[i] = P{(at.tx + at.sx*s[i][0]) * d.scale[0], (at.ty + at.sy*s[i][1]) * d.scale[1]}
				}
				if a := ring(s).area(); len(s) >= 3 && a > bestArea && finite(a) {
					best, bestArea = s, a
				}
			}
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		}
	}
	if !saw || best == nil {
		return Region{}, refusal.New(BadDrawing, "file", "There is no closed outline in this file.")
	}
	low := math.Inf(1)
	left := math.Inf(1)
	for _, p := range best {
		low, left = math.Min(low, -p[1]), math.Min(left, p[0])
	}
	out := make([]P, len(best))
	for i, p := range best {
		out[i] = P{math.Round(1000*(p[0]-left)) / 1000, math.Round(1000*(-p[1]-low)) / 1000}
	}
	reg := Region{Polygon: thinned(out, 0.05), From: "drawing"}
	_, err := reg.Lay()
	return reg, err
}

func (d *drawing) size(attr map[string]string) error {
	length := func(s string) (float64, bool) {
		s = strings.TrimSpace(s)
		i := len(s)
		for i > 0 && (unicode.IsLetter(rune(s[i-1])) || s[i-1] == '%') {
			i--
		}
		v, err := strconv.ParseFloat(s[:i], 64)
		u, known := units[s[i:]]
		return v * u, err == nil && known && v > 0 && finite(v)
	}
	w, okW := length(attr["width"])
	h, okH := length(attr["height"])
	box := strings.FieldsFunc(attr["viewBox"], func(r rune) bool { return r == ',' || unicode.IsSpace(r) })
	if len(box) == 4 {
		bw, err1 := strconv.ParseFloat(box[2], 64)
		bh, err2 := strconv.ParseFloat(box[3], 64)
		if err1 != nil || err2 != nil || !(bw > 0 && bh > 0) || !finite(bw) || !finite(bh) {
			return refusal.New(BadDrawing, "file", "The drawing's view box is broken.")
		}
		if okW {
			d.scale[0] = w / bw
			d.scale[1] = w / bw
		}
		if okH {
			d.scale[1] = h / bh
			if !okW {
				d.scale[0] = h / bh
			}
		}
	}
	return nil
}

func plainTransform(s string) (sx, sy, tx, ty float64, ok bool) {
	sx, sy = 1, 1
	for s = strings.TrimSpace(s); s != ""; s = strings.TrimLeft(s, " ,\t\n") {
		open, end := strings.IndexByte(s, '('), strings.IndexByte(s, ')')
		if open < 0 || end < open {
			return 0, 0, 0, 0, false
		}
		name := strings.TrimSpace(s[:open])
		v, err := numbers(s[open+1 : end])
		if err != nil {
			return 0, 0, 0, 0, false
		}
		s = s[end+1:]
		switch {
		case name == "translate" && len(v) == 1:
			tx += sx * v[0]
		case name == "translate" && len(v) == 2:
			tx, ty = tx+sx*v[0], ty+sy*v[1]
		case name == "scale" && len(v) == 1:
			sx, sy = sx*v[0], sy*v[0]
		case name == "scale" && len(v) == 2:
			sx, sy = sx*v[0], sy*v[1]
		case name == "matrix" && len(v) == 6 && v[1] == 0 && v[2] == 0:
			tx, ty = tx+sx*v[4], ty+sy*v[5]
			sx, sy = sx*v[0], sy*v[3]
		default:
			return 0, 0, 0, 0, false
		}
	}
	return sx, sy, tx, ty, true
}

func shapeOf(name string, attr map[string]string) ([][]P, error) {
	num := func(key string) float64 {
		v, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(attr[key], "px")), 64)
		if err != nil {
			return 0
		}
		return v
	}
	switch name {
	case "polygon", "polyline":
		v, err := numbers(attr["points"])
		var s []P
		for i := 0; i+1 < len(v); i += 2 {
			s = append(s, P{v[i], v[i+1]})
		}
		return [][]P{s}, err
	case "rect":
		x, y, w, h := num("x"), num("y"), num("width"), num("height")
		return [][]P{{{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}}}, nil
	case "circle":
		return [][]P{ellipse(num("cx"), num("cy"), num("r"), num("r"))}, nil
	case "ellipse":
		return [][]P{ellipse(num("cx"), num("cy"), num("rx"), num("ry"))}, nil
	case "path":
		return pathOf(attr["d"])
	}
	return nil, nil
}

// thinned leaves out points that lie within tol of the line between their
// neighbours, so that what was followed finely stays light.
func thinned(p []P, tol float64) []P {
	if len(p) < 8 {
		return p
	}
	out := []P{p[0]}
	for i := 1; i < len(p); i++ {
		next := p[(i+1)%len(p)]
		last := out[len(out)-1]
		keep := apart(last, p[i]) > 8
		for k := indexOf(p, last, i); !keep && k <= i; k++ {
			keep = toSegment2(p[k], last, next) > tol*tol
		}
		if keep {
			out = append(out, p[i])
		}
	}
	if len(out) < 3 {
		return p
	}
	return out
}

// indexOf is where q stands among the points before i.
func indexOf(p []P, q P, i int) int {
	for k := i - 1; k >= 0; k-- {
		if p[k] == q {
			return k
		}
	}
	return i
}
