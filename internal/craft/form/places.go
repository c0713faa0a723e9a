package form

import (
	"math"
	"slices"
	"strings"
	"sync"

	"yewmoor/internal/craft/region"
)

// Zone is an area of the wearer that stands on the map before any piece does.
type Zone struct {
	Name    string  `json:"name"`
	Text    string  `json:"text"`
	Outline []Point `json:"outline"`
}

// How far the keep-out reaches from the pupil: lid margin, lashes, tear duct
// and the eye itself, in mm, for a pupil distance of 64.
const keepOutAcross, keepOutUp = 19.0, 12.0

// KeepOut are the areas round the eyes where no liquid may go.
func (s *Sheet) KeepOut() []Zone {
	if s.part != "head" {
		return nil
	}
	k := s.At(s.place["pupil_L"]).Distance(s.At(s.place["pupil_R"])) / 64
	return []Zone{
		{"left eye", "keep-out, left eye", s.Disc(s.place["pupil_L"], keepOutAcross*k, keepOutUp*k, 10)},
		{"right eye", "keep-out, right eye", s.Disc(s.place["pupil_R"], keepOutAcross*k, keepOutUp*k, 10)},
	}
}

// Openings are where the wearer breathes, speaks, drinks, hears and sees.
func (s *Sheet) Openings() []Zone {
	if s.part != "head" {
		return nil
	}
	mouth := s.At(s.place["mouth_L"]).Distance(s.At(s.place["mouth_R"])) / 2
	wing := s.At(s.place["wing_L"]).Distance(s.At(s.place["wing_R"]))
	return []Zone{
		{"left nostril", "left nostril", s.Disc(s.place["nostril_L"], wing/9, wing/11, 8)},
		{"right nostril", "right nostril", s.Disc(s.place["nostril_R"], wing/9, wing/11, 8)},
		{"mouth", "mouth", s.Disc(s.place["lips"], mouth, 6, 10)},
		{"straw", "gap for a straw", s.Disc(s.place["lips"], 4, 4, 8)},
		{"left ear", "left ear canal", s.Disc(s.place["ear_canal_L"], 5, 6, 8)},
		{"right ear", "right ear canal", s.Disc(s.place["ear_canal_R"], 5, 6, 8)},
		{"left eye", "sight of the left eye", s.Disc(s.place["pupil_L"], 12, 6, 10)},
		{"right eye", "sight of the right eye", s.Disc(s.place["pupil_R"], 12, 6, 10)},
	}
}

// drawn are the outlines of the regions on the head: degrees round it from the
// front, height on the template in mm; the wearer's left where there are two.
var drawn = map[string][][2]float64{
	"forehead":     {{-46, 62}, {-24, 80}, {0, 84}, {24, 80}, {46, 62}, {42, 38}, {20, 37}, {0, 31}, {-20, 37}, {-42, 38}},
	"brow":         {{5, 30}, {18, 36}, {36, 33}, {39, 22}, {20, 17}, {7, 15}},
	"temple":       {{44, 58}, {62, 58}, {74, 36}, {70, 8}, {52, 6}, {43, 24}},
	"eye_hollow":   {{7, 11}, {20, 16}, {36, 15}, {41, 2}, {30, -14}, {16, -14}, {8, -6}},
	"cheek":        {{13, -15}, {28, -17}, {48, -8}, {67, -18}, {66, -46}, {44, -70}, {26, -62}, {17, -46}, {13, -30}},
	"nose":         {{0, 14}, {5, 8}, {7, -12}, {11, -28}, {11, -38}, {6, -43}, {0, -44}, {-6, -43}, {-11, -38}, {-11, -28}, {-7, -12}, {-5, 8}},
	"ear":          {{80, 0}, {84, 22}, {94, 28}, {104, 20}, {106, -8}, {98, -30}, {88, -38}, {82, -22}},
	"lip":          {{-15, -63}, {-6, -55}, {0, -57}, {6, -55}, {15, -63}, {7, -73}, {0, -75}, {-7, -73}},
	"mouth_corner": {{14, -52}, {21, -55}, {23, -66}, {17, -75}, {14, -65}},
	"jaw":          {{60, -40}, {84, -38}, {86, -62}, {66, -86}, {30, -101}, {22, -92}, {24, -78}, {44, -68}},
	"chin":         {{0, -79}, {13, -81}, {20, -92}, {13, -102}, {0, -105}, {-13, -102}, {-20, -92}, {-13, -81}},
	"face":         {{0, 84}, {30, 80}, {56, 56}, {72, 20}, {76, -30}, {66, -76}, {30, -98}, {0, -105}, {-30, -98}, {-66, -76}, {-76, -30}, {-72, 20}, {-56, 56}, {-30, 80}},
}

var headRegions = sync.OnceValue(func() map[string][]Point {
	g := headTemplate()
	place := func(degrees, y float64) Point {
		u, lo, hi := uOf(degrees*math.Pi/180), 2.0, 80.0
		for range 40 {
			if mid := (lo + hi) / 2; g.at(u, mid).Y > y {
				lo = mid
			} else {
				hi = mid
			}
		}
		return Point{u, (lo + hi) / 2}
	}
	out := map[string][]Point{}
	for name, outline := range drawn {
		for _, p := range outline {
			out[name] = append(out[name], place(p[0], p[1]))
		}
	}
	// Scalp and neck go all the way round.
	hairline := [][2]float64{{-180, -30}, {-140, -28}, {-112, -10}, {-82, 34}, {-58, 62}, {-30, 82}, {0, 86}, {30, 82}, {58, 62}, {82, 34}, {112, -10}, {140, -28}, {180, -30}}
	for _, p := range hairline {
		out["scalp"] = append(out["scalp"], place(p[0], p[1]))
	}
	out["scalp"] = append(out["scalp"], Point{100, 0}, Point{50, 0}, Point{0, 0}, Point{-50, 0}, Point{-100, 0})
	for _, p := range [][2]float64{{-180, -40}, {-130, -44}, {-95, -50}, {-75, -84}, {-40, -106}} {
		out["neck"] = append(out["neck"], place(p[0], p[1]))
	}
	under := headPlaces()["chin"].V + 2
	out["neck"] = append(out["neck"], Point{0, under})
	for i := 4; i >= 0; i-- {
		out["neck"] = append(out["neck"], Point{-out["neck"][i].U, out["neck"][i].V})
	}
	out["neck"] = append(out["neck"], Point{100, 93}, Point{50, 93}, Point{0, 93}, Point{-50, 93}, Point{-100, 93})
	return out
})

// Region is the outline of a region of the glossary on this sheet, for sided
// ones that of a side, L or R; false where the sheet does not show it.
func (s *Sheet) Region(name, side string) ([]Point, bool) {
	switch s.part {
	case "head":
		outline, ok := headRegions()[name]
		if r, _ := region.Find(name); ok && r.Sided && side == "R" {
			outline = Mirror(outline)
		}
		return slices.Clone(outline), ok // what is drawn from it is the caller's own
	case "forearm":
		if name == "forearm" {
			return []Point{{-99, 4}, {-50, 4}, {0, 4}, {50, 4}, {99, 4}, {99, 96}, {50, 96}, {0, 96}, {-50, 96}, {-99, 96}}, s.sideIs(side)
		}
	case "belly":
		if name == "belly" {
			return []Point{{-44, 12}, {0, 6}, {44, 12}, {50, 55}, {40, 92}, {0, 97}, {-40, 92}, {-50, 55}}, true
		}
	case "hand":
		if !s.sideIs(side) {
			return nil, false
		}
		back := strings.HasPrefix(s.Name, "hand_back")
		switch {
		case name == "hand_back" && back, name == "palm" && !back:
			return s.turn([]Point{{-17, 92}, {-21, 70}, {-24, 54}, {-10, 47}, {6, 46}, {20, 50}, {24, 66}, {17, 92}}), true
		case name == "knuckle" && back:
			return s.turn([]Point{{-22, 55}, {-22, 48}, {-8, 42}, {6, 41}, {19, 44}, {19, 51}, {6, 49}, {-8, 50}}), true
		case name == "finger":
			return s.turn([]Point{{0.5, 44}, {0.5, 8}, {4, 4}, {7.5, 8}, {7.5, 44}, {4, 46}}), true
		}
	}
	return nil, false
}

func (s *Sheet) sideIs(side string) bool { return side == "" || strings.HasSuffix(s.Name, "_"+side) }

// turn brings points that were drawn for the unmirrored sheet on to this one.
func (s *Sheet) turn(points []Point) []Point {
	if s.mirrored {
		return Mirror(points)
	}
	return points
}

// RegionAt names the smallest region of the glossary that a place lies in, and
// its side; empty when it lies in none.
func (s *Sheet) RegionAt(p Point) (name, side string) {
	least := math.Inf(1)
	for _, r := range region.All {
		sides := []string{""}
		if r.Sided {
			sides = []string{"L", "R"}
		}
		for _, sd := range sides {
			outline, ok := s.Region(r.Name, sd)
			if !ok || r.AreaCM2 >= least || !Follow(outline).Holds(p) {
				continue
			}
			name, side, least = r.Name, sd, r.AreaCM2
		}
	}
	return name, side
}

// SheetFor is the sheet on which a piece for a region is drawn first.
func SheetFor(regionName, side string) string {
	if side == "" {
		side = "L"
	}
	switch regionName {
	case "hand_back", "knuckle", "finger":
		return "hand_back_" + side
	case "palm":
		return "palm_" + side
	case "forearm", "upper_arm":
		return "forearm_" + side
	case "belly", "chest", "back":
		return "belly"
	default:
		return "head"
	}
}

// OtherSide is the sheet of the wearer's other side; sheets that show both
// sides are their own.
func OtherSide(sheet string) string {
	if s, ok := strings.CutSuffix(sheet, "_L"); ok {
		return s + "_R"
	}
	if s, ok := strings.CutSuffix(sheet, "_R"); ok {
		return s + "_L"
	}
	return sheet
}
