package mix

import (
	"fmt"
	"slices"
)

// Ways in which the area of a piece is told; RouteSection and RouteScan tell it too.
const RouteMap = "map" // outlined on the wearer's map

// Area is one way in which the area of skin under a piece is known, cm².
type Area struct {
	Name  string  `json:"name"`
	CM2   float64 `json:"cm2"`
	SdCM2 float64 `json:"sd_cm2"`
}

// What each may be off by, as a share: the scan by its mesh, the map by the hand that
// draws on it and the form that is fitted, the section by the round patch it takes.
var areaOff = map[string]float64{RouteScan: 0.03, RouteMap: 0.05, RouteSection: 0.05}

// AreaOf is an area as it is told in this way.
func AreaOf(name string, cm2 float64) Area { return Area{name, cm2, areaOff[name] * cm2} }

// Areas are all that tells one piece's area, side by side.
type Areas struct {
	Areas    []Area  `json:"areas"`
	Believed string  `json:"believed"`
	CM2      float64 `json:"cm2"`
	SdCM2    float64 `json:"sd_cm2"`
	Chosen   bool    `json:"chosen"`
	// Disagree are those whose bands lie wholly apart from the believed one's.
	Disagree []string `json:"disagree"`
}

// BelieveAreas sets areas beside each other as Believe does volumes.
func BelieveAreas(list []Area, chosen string) Areas {
	out := Areas{Areas: list, Disagree: []string{}}
	at, said := pick(len(list), func(i int) string { return list[i].Name }, chosen, []string{RouteScan, RouteMap, RouteSection})
	if at < 0 {
		return out
	}
	b := list[at]
	out.Chosen, out.Believed, out.CM2, out.SdCM2 = said, b.Name, b.CM2, b.SdCM2
	for _, a := range list {
		if apart(a.CM2, a.SdCM2, b.CM2, b.SdCM2) {
			out.Disagree = append(out.Disagree, a.Name)
		}
	}
	return out
}

var areaWords = map[string]string{RouteScan: "the scan shows", RouteMap: "the map has", RouteSection: "the section draws"}

// Words say what the areas are, the believed one first.
func (a Areas) Words() string {
	text := ""
	list := slices.Clone(a.Areas)
	slices.SortStableFunc(list, func(x, y Area) int {
		switch a.Believed {
		case x.Name:
			return -1
		case y.Name:
			return 1
		}
		return 0
	})
	for _, x := range list {
		if text != "" {
			text += "; "
		}
		text += fmt.Sprintf("%s %.1f cm²", areaWords[x.Name], x.CM2)
	}
	return text
}
