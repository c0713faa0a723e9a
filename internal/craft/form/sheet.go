// Package form is the parametric form of a wearer: head with face and neck,
// hands, forearms and waist as smooth surfaces that are fitted to a few
// measurements. It draws the wearer's map, gives true lengths and areas of
// skin on it, and makes the demo's scans. A place on it is named by a sheet of
// the map and two map coordinates that stay with the anatomy whatever the
// measurements are: the pupil of one wearer has the coordinates of everybody's.
//
// It is a form, not a portrait: where a piece must fit to a millimetre, a life
// cast or a scan does.
package form

import (
	"maps"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/refusal"
)

// Sheets of the wearer's map, in the order in which they are shown.
var Sheets = []string{"head", "hand_back_L", "hand_back_R", "palm_L", "palm_R", "forearm_L", "forearm_R", "belly"}

// Sheet is one surface of one wearer, fitted.
type Sheet struct {
	grid
	Name string
	// part is what its measurements belong to: head, hand, forearm, belly.
	part  string
	place map[string]Point // landmarks
	da    []float64        // mm² of skin per square unit of the map, by cell of the net
	// mirrored sheets are seen and drawn with x turned over.
	mirrored bool
}

// PartOf says which part's measurements a sheet belongs to; "" is no sheet.
func PartOf(sheet string) string {
	if !slices.Contains(Sheets, sheet) {
		return ""
	}
	switch part, _, _ := strings.Cut(sheet, "_"); part {
	case "palm":
		return "hand"
	default:
		return part
	}
}

func template(part string) grid {
	switch part {
	case "hand":
		return handTemplate()
	case "forearm":
		return forearmTemplate()
	case "belly":
		return bellyTemplate()
	default:
		return headTemplate()
	}
}

// Fit makes a sheet for the measurements given, in mm by the names of
// Measures; what is not given follows the rest in proportion. A measurement is
// met within 0.1 mm. Refused are unknown sheets, measurements beyond a human
// size, and sets that no head or hand can have together.
func Fit(sheet string, given map[string]float64) (*Sheet, error) {
	part := PartOf(sheet)
	if part == "" {
		return nil, refusal.New(refusal.UnknownValue, "sheet", "The map has no sheet “%.30s”.", sheet)
	}
	base := template(part)
	w, err := fit(&base, part, given)
	if err != nil {
		return nil, err
	}
	s := &Sheet{grid: base, Name: sheet, part: part, place: landmarks(part)}
	s.p = make([]Vec, len(base.p))
	// The thumb of a left hand stands to the right on its back.
	s.mirrored = sheet == "hand_back_R" || sheet == "palm_L" || sheet == "forearm_R"
	for i, p := range base.p {
		s.p[i] = w.move(p)
		if s.mirrored {
			s.p[i].X = -s.p[i].X
		}
	}
	if s.mirrored {
		// Turned over, columns run the other way, so that u still grows to the
		// right of the picture.
		for j := range s.nv {
			slices.Reverse(s.p[j*s.nu : (j+1)*s.nu])
		}
		if s.skin != nil {
			s.skin = slices.Clone(s.skin)
			for j := range s.nv {
				slices.Reverse(s.skin[j*s.nu : (j+1)*s.nu])
			}
		}
		turned := map[string]Point{}
		for name, p := range s.place {
			turned[name] = Point{-p.U, p.V}
		}
		s.place = turned
	}
	s.da = s.weights()
	if part == "head" && s.folded() {
		return nil, refusal.New(refusal.Contradiction, "measures", "These measurements do not go together on one head. Take the last one again.")
	}
	return s, nil
}

// weights are how much skin lies under a square unit of the map, by the cell
// at its upper left point: the cell's four quarters in space, each as two
// triangles, over its size.
func (s *Sheet) weights() []float64 {
	da := make([]float64, len(s.p))
	size := (s.u1 - s.u0) / float64(s.nu-1) * (s.v1 - s.v0) / float64(s.nv-1)
	for j := range s.nv - 1 {
		for i := range s.nu - 1 {
			k := j*s.nu + i
			a, b, c, d := s.p[k], s.p[k+1], s.p[k+s.nu], s.p[k+s.nu+1]
			ab, ac, bd, cd := a.lerp(b, 0.5), a.lerp(c, 0.5), b.lerp(d, 0.5), c.lerp(d, 0.5)
			mid := ab.lerp(cd, 0.5)
			da[k] = (patch(a, ab, ac, mid) + patch(ab, b, mid, bd) + patch(ac, mid, c, cd) + patch(mid, bd, cd, d)) / size
		}
	}
	return da
}

func patch(a, b, c, d Vec) float64 {
	return (b.sub(a).cross(c.sub(a)).length() + b.sub(d).cross(c.sub(d)).length()) / 2
}

// folded tells whether the fit turned part of the head inside out. The ears are
// left out: their rims stand over the side of the head, and a larger ear turns
// a little of its back toward the ray without harm.
func (s *Sheet) folded() bool {
	base := headTemplate()
	for j := s.nv / 6; j < s.nv-s.nv/8; j += 2 {
		for i := 2; i < s.nu-2; i += 2 {
			if p := base.p[j*s.nu+i]; math.Abs(p.X) > 50 && math.Abs(p.Y+6) < 46 && math.Abs(p.Z+14) < 36 {
				continue
			}
			u, v := s.uAt(i), s.vAt(j)
			byU, byV := s.slopes(u, v)
			_, out := headRay(u, v)
			if byV.cross(byU).dot(out) < 0 {
				return true
			}
		}
	}
	return false
}

// At is the place in space of a place on the map, in mm.
func (s *Sheet) At(p Point) Vec { return s.at(p.U, p.V) }

// Landmark is a named place, such as pupil_L; see Landmarks.
func (s *Sheet) Landmark(name string) (Point, bool) { p, ok := s.place[name]; return p, ok }

// stripsPerArea is about how many strips an area is cut into.
const stripsPerArea = 120.0

// Area is the skin within a closed outline of drawn points, in mm².
func (s *Sheet) Area(points []Point) float64 { return s.AreaOf(Follow(points), nil) }

// AreaOf is the skin within a patch where also tells true, everywhere when it
// is nil; in mm². It sums strips of the map, each weighted with how much skin
// lies under it.
func (s *Sheet) AreaOf(patch Patch, also func(Point) bool) float64 {
	outline := patch.curve
	if len(outline) < 3 {
		return 0
	}
	lo, hi := patch.v0, patch.v1
	lo, hi = math.Max(lo, s.v0), math.Min(hi, s.v1)
	if hi <= lo {
		return 0
	}
	// Strips keep to the rows of the net, and pieces of a strip to its columns:
	// where the skin is steep, one row of the net can hold ten times another's.
	wide, high := (s.u1-s.u0)/float64(s.nu-1), (s.v1-s.v0)/float64(s.nv-1)
	each := 2 + int(stripsPerArea*high/(hi-lo))
	var sum float64
	var cuts []float64
	for row := int((lo - s.v0) / high); s.v0+float64(row)*high < hi; row++ {
		from, to := math.Max(lo, s.v0+float64(row)*high), math.Min(hi, s.v0+float64(row+1)*high)
		dv := (to - from) / float64(each)
		for strip := range each {
			v := from + (float64(strip)+0.5)*dv
			cuts = crossings(cuts[:0], outline, v)
			for i := 0; i+1 < len(cuts); i += 2 {
				sum += s.strip(cuts[i], cuts[i+1], v, wide, also) * dv
			}
		}
	}
	return sum
}

// crossings are the places in order at which an outline crosses a row.
func crossings(cuts []float64, outline []Point, v float64) []float64 {
	for i, j := 0, len(outline)-1; i < len(outline); j, i = i, i+1 {
		a, b := outline[i], outline[j]
		if (a.V > v) != (b.V > v) {
			cuts = append(cuts, a.U+(b.U-a.U)*(v-a.V)/(b.V-a.V))
		}
	}
	slices.Sort(cuts)
	return cuts
}

// strip is the skin along a row between two places, per unit of v.
func (s *Sheet) strip(from, to, v, wide float64, also func(Point) bool) float64 {
	if !s.wraps {
		from, to = math.Max(from, s.u0), math.Min(to, s.u1)
	}
	var sum float64
	for u := from; u < to-1e-12; {
		next := math.Min(to, s.u0+(math.Floor((u-s.u0)/wide+1e-9)+1)*wide)
		if mid := (u + next) / 2; s.isSkin(mid, v) && (also == nil || also(Point{mid, v})) {
			k, _, _ := s.cell(mid, v)
			sum += s.da[k] * (next - u)
		}
		u = next
	}
	return sum
}

// Landmarks are the named places of the sheet.
func (s *Sheet) Landmarks() map[string]Point { return maps.Clone(s.place) }

// Bounds are the ends of the map's coordinates, and whether u goes on beyond
// its ends round the body.
func (s *Sheet) Bounds() (u0, u1, v0, v1 float64, wraps bool) {
	return s.u0, s.u1, s.v0, s.v1, s.wraps
}

// thinTo is about how many columns and rows a thinned net has. Half of a head's
// lie on the face, about 2.5 mm apart.
const thinTo = 81

// Thinned is the net with about every third point, row by row: enough to see
// where a place stands to some tenths of a mm.
func (s *Sheet) Thinned() (columns, rows int, points []Vec) {
	every := func(n int) int { return max(1, (n-1)/(thinTo-1)) }
	du, dv := every(s.nu), every(s.nv)
	columns, rows = (s.nu-1)/du+1, (s.nv-1)/dv+1
	for j := range rows {
		for i := range columns {
			u := s.u0 + (s.u1-s.u0)*float64(i)/float64(columns-1)
			v := s.v0 + (s.v1-s.v0)*float64(j)/float64(rows-1)
			points = append(points, s.at(u, v))
		}
	}
	return columns, rows, points
}

// Length is the length on the skin of a line through drawn points, in mm.
func (s *Sheet) Length(points []Point, closed bool) float64 {
	c := Curve(points, closed)
	if closed && len(c) > 0 {
		c = append(c, c[0])
	}
	var sum float64
	for i := 1; i < len(c); i++ {
		sum += s.At(c[i-1]).Distance(s.At(c[i]))
	}
	return sum
}

// Gap is the shortest way through the air between the rims of two patches, in
// mm: between two pieces it is what stays open when nothing moves.
func (s *Sheet) Gap(a, b Patch) float64 {
	least := math.Inf(1)
	places := make([]Vec, len(b.curve))
	for i, q := range b.curve {
		places[i] = s.At(q)
	}
	for _, p := range a.curve {
		at := s.At(p)
		for _, q := range places {
			least = math.Min(least, at.Distance(q))
		}
	}
	return least
}

// Disc is an outline round a place: the points that lie the given ways from it
// across and up on the skin, in mm. Eyes and openings are drawn with it.
func (s *Sheet) Disc(at Point, across, up float64, points int) []Point {
	byU, byV := s.slopes(at.U, at.V)
	out := make([]Point, points)
	for i := range out {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(points))
		out[i] = Point{at.U + across*cos/byU.length(), at.V + up*sin/byV.length()}
	}
	return out
}
