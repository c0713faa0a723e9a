package paper

import (
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"strconv"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"yewmoor/internal/craft/scan"
)

// Surface is a flat picture of a surface, seen from one side.
type Surface struct {
	Shown scan.Shown
	Layer int // thickness to colour by; below 0 for none
	View  string
	Title string
	Eps   float64 // no thicker than this is bare core, mm
	Thin  float64 // thinner than this is told, mm
	Marks []SurfaceMark
}

// SurfaceMark is a place that is pointed at; marks are numbered as they come.
type SurfaceMark struct {
	At   scan.Vec
	Core bool // a core contact; else a thin spot
}

// views turn a surface so that the wanted side looks at us: which axes run to
// the right, up, and towards us. The wearer looks along +z, up is +y.
var views = map[string][3]scan.Vec{
	"front": {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}, "back": {{-1, 0, 0}, {0, 1, 0}, {0, 0, -1}},
	"left": {{0, 0, -1}, {0, 1, 0}, {1, 0, 0}}, "right": {{0, 0, 1}, {0, 1, 0}, {-1, 0, 0}},
	"top": {{1, 0, 0}, {0, 0, -1}, {0, 1, 0}}, "under": {{1, 0, 0}, {0, 0, 1}, {0, -1, 0}},
}

// ramp are the colours of thickness: bare core heather, thin gorse, then from
// plaster to a deep green. Bands are told apart in grey, too.
func ramp(t, eps, thin, most float64) color.NRGBA {
	switch {
	case math.IsNaN(t):
		return color.NRGBA{214, 206, 192, 255}
	case t <= eps:
		return color.NRGBA{122, 70, 128, 255}
	case t < thin:
		return color.NRGBA{222, 172, 34, 255}
	}
	// Steps rather than a slope: a band is read off, a slope is guessed.
	share := math.Min(1, (t-thin)/math.Max(1e-6, most-thin))
	share = math.Floor(share*8) / 8
	mix := func(a, b float64) uint8 { return uint8(a + (b-a)*share) }
	return color.NRGBA{mix(226, 22), mix(228, 74), mix(206, 58), 255}
}

const flatWide, flatHigh = 1200, 1000

// Render draws the surface with a light from the upper left.
func (s Surface) Render() *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, flatWide, flatHigh))
	for i := range img.Pix {
		img.Pix[i] = 255
	}
	axes, known := views[s.View]
	if !known {
		axes = views["front"]
	}
	n := len(s.Shown.V) / 3
	if n == 0 {
		return img
	}
	at := func(i int) scan.Vec {
		return scan.Vec{float64(s.Shown.V[3*i]), float64(s.Shown.V[3*i+1]), float64(s.Shown.V[3*i+2])}
	}
	turned := make([]scan.Vec, n)
	lo, hi := scan.Vec{math.Inf(1), math.Inf(1), math.Inf(1)}, scan.Vec{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	along := func(p scan.Vec) (q scan.Vec) {
		for k := range 3 {
			q[k] = p[0]*axes[k][0] + p[1]*axes[k][1] + p[2]*axes[k][2]
		}
		return q
	}
	most := 0.0
	for i := range n {
		turned[i] = along(at(i))
		for k := range 3 {
			lo[k], hi[k] = math.Min(lo[k], turned[i][k]), math.Max(hi[k], turned[i][k])
		}
		if s.Layer >= 0 {
			if t := float64(s.Shown.Layers[s.Layer][i]); t == t {
				most = math.Max(most, t)
			}
		}
	}
	scale := 0.92 * math.Min(flatWide/math.Max(1e-9, hi[0]-lo[0]), flatHigh/math.Max(1e-9, hi[1]-lo[1]))
	onto := func(p scan.Vec) (x, y float64) {
		return flatWide/2 + scale*(p[0]-(lo[0]+hi[0])/2), flatHigh/2 - scale*(p[1]-(lo[1]+hi[1])/2)
	}
	depth := make([]float64, flatWide*flatHigh)
	for i := range depth {
		depth[i] = math.Inf(-1)
	}
	for f := 0; f+2 < len(s.Shown.F); f += 3 {
		s.face(img, depth, turned, onto, [3]int{int(s.Shown.F[f]), int(s.Shown.F[f+1]), int(s.Shown.F[f+2])}, most)
	}
	for i, m := range s.Marks {
		p := along(m.At)
		x, y := onto(p)
		// What lies behind the form is marked in a view that shows it.
		if at := image.Pt(int(x), int(y)); at.In(img.Rect) && depth[at.Y*flatWide+at.X] < p[2]+seen {
			number(img, at, i+1, m.Core)
		}
	}
	return img
}

// seen is how far before a mark the surface may lie and still show it, mm: the
// appliance, which is not drawn raised.
const seen = 10

// face fills one triangle, nearest to us wins.
func (s Surface) face(img *image.NRGBA, depth []float64, turned []scan.Vec, onto func(scan.Vec) (float64, float64), f [3]int, most float64) {
	var x, y, z, t [3]float64
	for k := range 3 {
		x[k], y[k] = onto(turned[f[k]])
		z[k] = turned[f[k]][2]
		t[k] = math.NaN()
		if s.Layer >= 0 {
			t[k] = float64(s.Shown.Layers[s.Layer][f[k]])
		}
	}
	area := (x[1]-x[0])*(y[2]-y[0]) - (x[2]-x[0])*(y[1]-y[0])
	if area == 0 || math.IsNaN(area) {
		return
	}
	a, b, c := turned[f[0]], turned[f[1]], turned[f[2]]
	n := normal(a, b, c)
	light := 0.62 + 0.38*math.Max(0, -0.45*n[0]+0.5*n[1]+0.74*n[2])
	for py := max(0, int(math.Floor(min(y[0], y[1], y[2])))); py <= min(flatHigh-1, int(math.Ceil(max(y[0], y[1], y[2])))); py++ {
		for px := max(0, int(math.Floor(min(x[0], x[1], x[2])))); px <= min(flatWide-1, int(math.Ceil(max(x[0], x[1], x[2])))); px++ {
			cx, cy := float64(px)+0.5, float64(py)+0.5
			w1 := ((cx-x[0])*(y[2]-y[0]) - (x[2]-x[0])*(cy-y[0])) / area
			w2 := ((x[1]-x[0])*(cy-y[0]) - (cx-x[0])*(y[1]-y[0])) / area
			w0 := 1 - w1 - w2
			if w0 < -1e-9 || w1 < -1e-9 || w2 < -1e-9 {
				continue
			}
			at := py*flatWide + px
			if d := w0*z[0] + w1*z[1] + w2*z[2]; d > depth[at] {
				depth[at] = d
				p := ramp(w0*t[0]+w1*t[1]+w2*t[2], s.Eps, s.Thin, most)
				shade := func(v uint8) uint8 { return uint8(math.Min(255, float64(v)*light)) }
				img.SetNRGBA(px, py, color.NRGBA{shade(p.R), shade(p.G), shade(p.B), 255})
			}
		}
	}
}

func normal(a, b, c scan.Vec) scan.Vec {
	u := scan.Vec{b[0] - a[0], b[1] - a[1], b[2] - a[2]}
	v := scan.Vec{c[0] - a[0], c[1] - a[1], c[2] - a[2]}
	n := scan.Vec{u[1]*v[2] - u[2]*v[1], u[2]*v[0] - u[0]*v[2], u[0]*v[1] - u[1]*v[0]}
	l := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
	if l == 0 {
		return scan.Vec{0, 0, 1}
	}
	return scan.Vec{n[0] / l, n[1] / l, n[2] / l}
}

var numerals = sync.OnceValues(func() (font.Face, error) {
	f, err := opentype.Parse(bold)
	if err != nil {
		return nil, err
	}
	return opentype.NewFace(f, &opentype.FaceOptions{Size: 24, DPI: 72})
})

// number marks a place with a numbered spot, as the view that turns does.
func number(img *image.NRGBA, at image.Point, n int, core bool) {
	const r = 19
	paper, spot := color.NRGBA{255, 253, 248, 255}, color.NRGBA{176, 120, 10, 255}
	if core {
		spot = color.NRGBA{122, 70, 128, 255}
	}
	for y := -r; y <= r; y++ {
		for x := -r; x <= r; x++ {
			switch d := x*x + y*y; {
			case d <= (r-3)*(r-3):
				img.SetNRGBA(at.X+x, at.Y+y, spot)
			case d <= r*r:
				img.SetNRGBA(at.X+x, at.Y+y, paper)
			}
		}
	}
	face, err := numerals()
	if err != nil {
		return // the shipped font is read by its test
	}
	text := strconv.Itoa(n)
	d := font.Drawer{Dst: img, Src: image.NewUniform(paper), Face: face}
	d.Dot = fixed.P(at.X, at.Y+8)
	d.Dot.X -= d.MeasureString(text) / 2
	d.DrawString(text)
}

// WriteSurfacePNG writes the flat picture.
func WriteSurfacePNG(w io.Writer, s Surface) error { return png.Encode(w, s.Render()) }
