// Package scan measures surfaces: it reads scans, finds what is wrong with
// them, and works out volume and area, the thickness of an appliance over its
// core, draft and undercut of a mould, and how far left and right differ. It
// follows the handbook's chapter on scans and moulds rule by rule.
//
// Lengths are mm unless a name says otherwise, areas mm², volumes mm³; file
// units become mm only by an explicit scale.
package scan

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Refusals of the mesh engine (handbook, section 1 and on).
const (
	EmptyFile           = "EMPTY_FILE"
	TooFar              = "TOO_FAR"
	UnknownFormat       = "UNKNOWN_FORMAT"
	Truncated           = "TRUNCATED"
	BadSyntax           = "BAD_SYNTAX"
	BadIndex            = "BAD_INDEX"
	BadNumber           = "BAD_NUMBER"
	BadHeader           = "BAD_HEADER"
	UnsupportedEncoding = "UNSUPPORTED_ENCODING"
	NoTriangles         = "NO_TRIANGLES"
	TooManyTriangles    = "TOO_MANY_TRIANGLES"
	BadDirection        = "BAD_DIRECTION"
	PlaneMissesMesh     = "PLANE_MISSES_MESH"
	NoOverlap           = "NO_OVERLAP"
	BadParameter        = "BAD_PARAMETER"
)

// Vec is a place or a direction.
type Vec [3]float64

func (a Vec) add(b Vec) Vec       { return Vec{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a Vec) sub(b Vec) Vec       { return Vec{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a Vec) times(k float64) Vec { return Vec{k * a[0], k * a[1], k * a[2]} }
func (a Vec) dot(b Vec) float64   { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a Vec) length() float64     { return math.Sqrt(a.dot(a)) }
func (a Vec) cross(b Vec) Vec {
	return Vec{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// unit is the direction of a; zero stays zero.
func (a Vec) unit() Vec {
	if l := a.length(); l > 0 {
		return a.times(1 / l)
	}
	return a
}

func (a Vec) finite() bool {
	return !math.IsNaN(a[0]+a[1]+a[2]) && !math.IsInf(a[0], 0) && !math.IsInf(a[1], 0) && !math.IsInf(a[2], 0)
}

// Raw is a surface as a file gives it: places, and triangles over them. A
// surface without indices has its triangles in threes.
type Raw struct {
	Format string
	Points []Vec
	Faces  [][3]int32 // nil: points in threes
	// Trailing is true where bytes follow what the file announces.
	Trailing bool
	// welded is true where equal places were made one while reading.
	welded bool
}

// Triangles is how many there are.
func (r *Raw) Triangles() int {
	if r.Faces == nil {
		return len(r.Points) / 3
	}
	return len(r.Faces)
}

func (r *Raw) corners(i int) (a, b, c Vec) {
	if r.Faces == nil {
		return r.Points[3*i], r.Points[3*i+1], r.Points[3*i+2]
	}
	f := r.Faces[i]
	return r.Points[f[0]], r.Points[f[1]], r.Points[f[2]]
}

// Box is the least box round a surface.
type Box struct{ Min, Max Vec }

func emptyBox() Box {
	inf := math.Inf(1)
	return Box{Vec{inf, inf, inf}, Vec{-inf, -inf, -inf}}
}

func (b *Box) take(p Vec) {
	for k := range 3 {
		b.Min[k], b.Max[k] = min(b.Min[k], p[k]), max(b.Max[k], p[k])
	}
}

// Diagonal of the box.
func (b Box) Diagonal() float64 { return b.Max.sub(b.Min).length() }

// Centre of the box.
func (b Box) Centre() Vec { return b.Min.add(b.Max).times(0.5) }

// Sum is what follows from the triangles alone.
type Sum struct {
	Box       Box
	AreaMM2   float64
	VolumeMM3 float64 // signed, about the box's centre
}

// Measure sums area and signed volume of a raw surface about the centre of its
// box, so that a scan far from the origin loses no digits. Triangles are summed
// in fixed runs, so that any number of processors gives the same.
func (r *Raw) Measure() Sum {
	n := r.Triangles()
	boxes := make([]Box, runs(n))
	eachRun(n, func(k, from, to int) {
		b := emptyBox()
		for i := from; i < to; i++ {
			p, q, s := r.corners(i)
			b.take(p)
			b.take(q)
			b.take(s)
		}
		boxes[k] = b
	})
	out := Sum{Box: emptyBox()}
	for _, b := range boxes {
		out.Box.take(b.Min)
		out.Box.take(b.Max)
	}
	c := out.Box.Centre()
	sums := make([][2]float64, runs(n))
	eachRun(n, func(k, from, to int) {
		var area, volume float64
		for i := from; i < to; i++ {
			p, q, s := r.corners(i)
			area += q.sub(p).cross(s.sub(p)).length() / 2
			volume += p.sub(c).dot(q.sub(c).cross(s.sub(c))) / 6
		}
		sums[k] = [2]float64{area, volume}
	})
	for _, s := range sums {
		out.AreaMM2 += s[0]
		out.VolumeMM3 += s[1]
	}
	return out
}

// Scaled is the surface in other units, as a new one.
func (r *Raw) Scaled(by float64) *Raw {
	out := *r
	out.welded = false // two places may fall together
	out.Points = make([]Vec, len(r.Points))
	for i, p := range r.Points {
		out.Points[i] = p.times(by)
	}
	return &out
}

func bad(code, field, format string, args ...any) error {
	return refusal.New(code, field, format, args...)
}
