package mix

import (
	"fmt"
	"math"
	"slices"
)

// More routes that tell of a piece's body than those of the bench.
const (
	RouteSection = "section" // what is drawn
	RoutePoured  = "poured"  // what was really poured, a copy
)

// Drawn is the volume that a section draws: a plan, good to a quarter.
func Drawn(volumeML float64) Route { return Route{RouteSection, volumeML, 0.25 * volumeML} }

// Took is what went into one copy when it was poured, with the flash and what
// stayed in the cup still in it: good to a tenth once the usual waste is off.
func Took(grams, density float64, copies int, waste float64) Route {
	ml := grams / density / float64(max(1, copies)) / (1 + waste)
	return Route{RoutePoured, ml, 0.10 * ml}
}

// surest is how far a route is believed when nobody said, the surest first: what
// was measured on the mould itself, then the space between scans, then the clay.
var surest = []string{RouteWater, RouteDisplacement, RouteScan, RouteClay, RoutePoured, RouteArea, RouteSection}

// Voices are all that tells of one body's volume, side by side.
type Voices struct {
	Voices []Route `json:"voices"`
	// Believed is the route that amounts, mass and cost go by; Chosen says that
	// somebody said so.
	Believed string  `json:"believed"`
	VolumeML float64 `json:"volume_ml"`
	SdML     float64 `json:"sd_ml"`
	Chosen   bool    `json:"chosen"`
	// Disagree are the routes whose bands lie wholly apart from the believed one's.
	Disagree []string `json:"disagree"`
}

// two standard deviations are a route's band.
const bandSd = 2

// apart says whether two figures contradict each other beyond both their bands.
func apart(a, sdA, b, sdB float64) bool { return math.Abs(a-b) > bandSd*(sdA+sdB) }

// pick is where the chosen one of n stands, else the surest that is there; -1 of none.
// said is whether somebody chose it. What is gone is not believed any more.
func pick(n int, name func(int) string, chosen string, surest []string) (at int, said bool) {
	find := func(want string) int {
		for i := range n {
			if name(i) == want {
				return i
			}
		}
		return -1
	}
	if at = find(chosen); at >= 0 {
		return at, true
	}
	for _, want := range surest {
		if at = find(want); at >= 0 {
			return at, false
		}
	}
	return min(0, n-1), false
}

// Believe sets voices beside each other and takes the chosen one, or the surest
// that is there. A route that is gone is not believed any more.
func Believe(voices []Route, chosen string) Voices {
	out := Voices{Voices: voices, Disagree: []string{}}
	at, said := pick(len(voices), func(i int) string { return voices[i].Name }, chosen, surest)
	if at < 0 {
		return out
	}
	b := voices[at]
	out.Chosen = said
	out.Believed, out.VolumeML, out.SdML = b.Name, b.VolumeML, b.SdML
	for _, v := range voices {
		if apart(v.VolumeML, v.SdML, b.VolumeML, b.SdML) {
			out.Disagree = append(out.Disagree, v.Name)
		}
	}
	return out
}

// routeWords are the routes as people say them.
var routeWords = map[string]string{RouteSection: "the section draws", RouteScan: "the scan shows", RouteClay: "the clay says", RouteWater: "the water in the mould says", RouteArea: "area and thickness say", RouteDisplacement: "under water it has", RoutePoured: "a copy took"}

// Words say what the voices tell, the believed one first.
func (v Voices) Words() string {
	text := ""
	for _, r := range append(slices.Clone(v.of(v.Believed)), v.but(v.Believed)...) {
		if text != "" {
			text += "; "
		}
		text += fmt.Sprintf("%s %.1f ml", routeWords[r.Name], r.VolumeML)
	}
	return text
}

func (v Voices) of(name string) []Route {
	return slices.DeleteFunc(slices.Clone(v.Voices), func(r Route) bool { return r.Name != name })
}

func (v Voices) but(name string) []Route {
	return slices.DeleteFunc(slices.Clone(v.Voices), func(r Route) bool { return r.Name == name })
}
