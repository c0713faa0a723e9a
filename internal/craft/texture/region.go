package texture

import (
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/region"
)

// Region is a flat outline: a preset with its sizes, or a polygon with holes.
type Region struct {
	Preset string             `json:"preset,omitempty" maxLength:"24"`
	Params map[string]float64 `json:"params,omitempty"`
	// Polygon runs either way round; holes lie within it.
	Polygon []P   `json:"polygon,omitempty" maxItems:"4000"`
	Holes   [][]P `json:"holes,omitempty" maxItems:"20"`
	// From tells people where the outline came from.
	From string `json:"from,omitempty" maxLength:"120"`
}

// maxOutline is the most points of all rings together.
const maxOutline = 4000

// presets are those names of the handbook that are not the region's own.
var presets = map[string]string{"back_of_hand": "hand_back", "shoulder_cap": "shoulder", "face_oval": "face"}

// Flat is a region that was checked: rings, extents, and an index of its edges
// by height so that questions about a place look at few of them.
type Flat struct {
	rings          []ring // the outline first
	X0, Y0, X1, Y1 float64
	shape          shape
}

// Lay checks a region and makes it ready for questions.
func (r Region) Lay() (*Flat, error) {
	rings, err := r.rings()
	if err != nil {
		return nil, err
	}
	f := &Flat{rings: rings, shape: newShape(rings)}
	f.X0, f.X1, f.Y0, f.Y1 = f.shape.x0, f.shape.x1, f.shape.y0, f.shape.y1
	// The outline's own box: holes lie within it.
	outline := newShape(rings[:1])
	f.X0, f.X1, f.Y0, f.Y1 = outline.x0, outline.x1, outline.y0, outline.y1
	return f, nil
}

// Area is that of the outline without its holes, in mm².
func (f *Flat) Area() float64 {
	a := f.rings[0].area()
	for _, h := range f.rings[1:] {
		a -= h.area()
	}
	return a
}

// Perimeter is that of the outline and of every hole.
func (f *Flat) Perimeter() float64 {
	var sum float64
	for _, r := range f.rings {
		sum += r.perimeter()
	}
	return sum
}

// Outline are the points of the outline, then those of each hole.
func (f *Flat) Outline() [][]P {
	out := make([][]P, len(f.rings))
	for i, r := range f.rings {
		out[i] = r
	}
	return out
}

// Size is the width and height of the outline's box.
func (f *Flat) Size() (w, h float64) { return f.X1 - f.X0, f.Y1 - f.Y0 }

// extent is how far the outline reaches along a direction.
func (f *Flat) extent(d P) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, p := range f.rings[0] {
		v := float64(p[0]*d[0]) + float64(p[1]*d[1])
		lo, hi = math.Min(lo, v), math.Max(hi, v)
	}
	return lo, hi
}

func (r Region) rings() ([]ring, error) {
	if r.Preset == "" {
		return checkRings(r.Polygon, r.Holes)
	}
	for name, v := range r.Params {
		if !finite(v) {
			return nil, refusal.New(BadNumber, "region.params."+name, "%s is not a number.", name)
		}
	}
	given := func(name string, def float64) float64 {
		if v, ok := r.Params[name]; ok {
			return v
		}
		return def
	}
	if r.Preset == "tile" {
		w, h := given("w", 100), given("h", 100)
		if !(w > 0 && h > 0) {
			return nil, refusal.New(BadRegion, "region.params", "Width and height of a tile must be above 0.")
		}
		return checkRings([]P{{0, 0}, {w, 0}, {w, h}, {0, h}}, nil)
	}
	name := r.Preset
	if own, ok := presets[name]; ok {
		name = own
	}
	place, known := region.Find(name)
	if !known {
		return nil, refusal.New(UnknownPreset, "region.preset", "There is no outline called “%.24s”.", r.Preset)
	}
	o := place.Outline()
	if o.Form == region.Sleeve {
		p, err := sleeve(given("g_top", o.GirthTop), given("g_bottom", o.GirthBottom), given("length", o.Length))
		if err != nil {
			return nil, err
		}
		return checkRings(p, nil)
	}
	w, h, n := given("w", o.W), given("h", o.H), given("n", o.N)
	if !(w > 0 && h > 0 && n > 0.2 && n < 50) {
		return nil, refusal.New(BadRegion, "region.params", "Width and height must be above 0, the exponent between 0.2 and 50.")
	}
	var holes [][]P
	if o.Form == region.FaceOval {
		holes = [][]P{ellipse(-0.21*w, 0.10*h, 0.113*w, 0.038*h), ellipse(0.21*w, 0.10*h, 0.113*w, 0.038*h), ellipse(0, -0.22*h, 0.173*w, 0.043*h)}
	}
	return checkRings(superellipse(w, h, n), holes)
}

// Rounded is a region as a rounded shape of a width and height, where nothing
// but those is known.
func (r Region) Rounded(w, h float64) Region {
	r.Preset, r.Params, r.Holes = "", nil, nil
	r.Polygon = superellipse(w, h, 2.4)
	return r
}

func superellipse(w, h, n float64) []P {
	out := make([]P, 128)
	for k := range out {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / 128)
		out[k] = P{math.Copysign(math.Pow(math.Abs(cos), 2/n), cos) * w / 2, math.Copysign(math.Pow(math.Abs(sin), 2/n), sin) * h / 2}
	}
	return out
}

func ellipse(x, y, a, b float64) []P {
	out := make([]P, 48)
	for k := range out {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / 48)
		out[k] = P{x + a*cos, y + b*sin}
	}
	return out
}

// sleeve unrolls a limb: a ring sector, wide end up, or a rectangle.
func sleeve(top, bottom, length float64) ([]P, error) {
	if !(top > 0 && bottom > 0 && length > 0) {
		return nil, refusal.New(BadRegion, "region.params", "Girths and length of a sleeve must be above 0.")
	}
	if top == bottom {
		return []P{{0, 0}, {top, 0}, {top, length}, {0, length}}, nil
	}
	phi := math.Abs(top-bottom) / length
	if phi > 1.9*math.Pi {
		return nil, refusal.New(BadRegion, "region.params", "The girths differ too much for this length: the sleeve cannot be unrolled.")
	}
	inner := math.Min(top, bottom) / phi
	outer := inner + length
	out := make([]P, 0, 98)
	arc := func(r float64, k int) P {
		sin, cos := math.Sincos(-phi/2 + phi*float64(k)/48)
		return P{r * sin, r * cos}
	}
	for k := range 49 {
		out = append(out, arc(outer, k))
	}
	for k := range 49 {
		out = append(out, arc(inner, 48-k))
	}
	up := 1.0
	if bottom > top {
		up = -1
	}
	least := math.Inf(1)
	for i := range out {
		out[i][1] *= up
		least = math.Min(least, out[i][1])
	}
	for i := range out {
		out[i][1] -= least
	}
	return out, nil
}

// maxReach is the largest coordinate of an outline, in mm: ten metres.
const maxReach = 10_000

// checkRings refuses what can be no region.
func checkRings(outline []P, holes [][]P) ([]ring, error) {
	rings := []ring{outline}
	total := len(outline)
	for _, h := range holes {
		rings = append(rings, h)
		total += len(h)
	}
	if total > maxOutline {
		return nil, refusal.New(BadRegion, "region.polygon", "The outline has %d points; %d are the most.", total, maxOutline)
	}
	for i, r := range rings {
		field := "region.polygon"
		if i > 0 {
			field = "region.holes"
		}
		for _, p := range r {
			if !finite(p[0]) || !finite(p[1]) {
				return nil, refusal.New(BadNumber, field, "A point of the outline is not a number.")
			}
			if math.Abs(p[0]) > maxReach || math.Abs(p[1]) > maxReach {
				return nil, refusal.New(BadRegion, field, "The outline reaches further than ten metres.")
			}
		}
		rings[i] = slices.Compact(slices.Clone(r))
		if n := len(rings[i]); n > 1 && rings[i][0] == rings[i][n-1] {
			rings[i] = rings[i][:n-1]
		}
		if len(rings[i]) < 3 {
			return nil, refusal.New(BadRegion, field, "An outline needs three points or more.")
		}
		if rings[i].area() < 1e-6 {
			return nil, refusal.New(BadRegion, field, "The outline encloses no area.")
		}
	}
	if crossing(rings) {
		return nil, refusal.New(BadRegion, "region.polygon", "The outline crosses itself. Move the point that went over its own line.")
	}
	whole := newShape(rings[:1])
	for _, h := range rings[1:] {
		if !whole.holds(h[0]) {
			return nil, refusal.New(BadRegion, "region.holes", "A hole lies outside the outline.")
		}
	}
	return rings, nil
}

// Holds says whether a place lies within the region.
func (f *Flat) Holds(p P) bool { return f.shape.holds(p) }

// Distance is how far a place is from the nearest edge, of the outline or a hole.
func (f *Flat) Distance(p P) float64 { return f.shape.distance(p) }

// ToSegment is how far a place is from a straight line between two others.
func ToSegment(p, a, b P) float64 { return math.Sqrt(toSegment2(p, a, b)) }
