package section

import (
	"slices"
	"strings"
)

// Worn is one piece of a character as the order of fitting sees it.
type Worn struct {
	Code     string
	Region   string
	LiesOver []string
	Stretch  bool // stretch-stipple on skin
}

// Fitting is a piece's place in the order of fitting.
type Fitting struct {
	Code  string `json:"code"`
	Place int    `json:"place" doc:"1 goes on first; 0 when two pieces each lie over the other"`
	Why   string `json:"why"`
}

// outward is how far from the middle of the face a region lies: centre first,
// then outward; the eyes last and held shut.
var outward = map[string]int{"nose": 1, "lip": 2, "mouth_corner": 2, "chin": 3, "cheek": 4, "jaw": 5, "brow": 6, "forehead": 6, "temple": 7, "ear": 8, "face": 1, "neck": 9, "scalp": 9, "eye_hollow": 20}

func rank(region string) int {
	if n, known := outward[region]; known {
		return n
	}
	return 12
}

// Order is the order in which pieces of one character go on: stretching first,
// what lies below before what lies over it, and of what is left the middle of
// the face first.
func Order(pieces []Worn) []Fitting {
	left := slices.Clone(pieces)
	slices.SortStableFunc(left, func(a, b Worn) int {
		if a.Stretch != b.Stretch {
			if a.Stretch {
				return -1
			}
			return 1
		}
		return rank(a.Region) - rank(b.Region)
	})
	codes := map[string]bool{}
	for _, p := range pieces {
		codes[p.Code] = true
	}
	out := []Fitting{}
	done := map[string]bool{}
	for len(left) > 0 {
		i := slices.IndexFunc(left, func(p Worn) bool {
			return !slices.ContainsFunc(p.LiesOver, func(code string) bool { return codes[code] && !done[code] && code != p.Code })
		})
		if i < 0 { // each waits for another
			for _, p := range left {
				out = append(out, Fitting{Code: p.Code, Why: "lies over a piece that lies over it"})
			}
			return out
		}
		p := left[i]
		left = slices.Delete(left, i, i+1)
		done[p.Code] = true
		out = append(out, Fitting{Code: p.Code, Place: len(out) + 1, Why: reason(p, codes)})
	}
	return out
}

func reason(p Worn, codes map[string]bool) string {
	var over []string
	for _, code := range p.LiesOver {
		if codes[code] {
			over = append(over, code)
		}
	}
	switch {
	case len(over) > 0:
		return "its edge lies over " + strings.Join(over, ", ")
	case p.Stretch:
		return "stretching comes before anything is glued"
	case p.Region == "eye_hollow":
		return "eyes last, and held shut"
	case rank(p.Region) <= 3:
		return "the middle of the face first"
	}
	return "from the centre outward"
}
