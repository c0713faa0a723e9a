package scan

import "math"

// UnitGuess is in which units a file seems to be.
type UnitGuess struct {
	Name       string   `json:"unit_name" enum:"mm,cm,in,m,unknown"`
	Scale      float64  `json:"unit_scale" doc:"to mm; 1 when unknown"`
	Candidates []string `json:"candidates"`
	Ambiguous  bool     `json:"ambiguous" doc:"ask before it is believed"`
}

// parts are plausible diagonals of a scan, mm: least, typical, most (handbook,
// section 3).
var parts = map[string][3]float64{
	"ear": {40, 70, 120}, "nose": {30, 60, 120}, "hand": {120, 220, 400}, "foot": {150, 300, 420}, "face": {150, 300, 500},
	"head": {250, 420, 650}, "limb": {200, 500, 1200}, "torso": {400, 900, 1600}, "body": {1000, 2000, 2800}, "tile": {20, 150, 1000},
}

// Parts are what a scan can be said to be.
var Parts = []string{"ear", "nose", "hand", "foot", "face", "head", "limb", "torso", "body", "tile"}

var units = []struct {
	name  string
	scale float64
}{{"mm", 1}, {"cm", 10}, {"in", 25.4}, {"m", 1000}}

// GuessUnit guesses the units of a file from the diagonal of its box and what
// part it shows. Nothing is scaled by it: it is shown, and asked about.
func GuessUnit(diagonal float64, part string) (UnitGuess, error) {
	size, ok := parts[part]
	if !ok {
		return UnitGuess{}, bad(BadParameter, "part", "There is no part called “%.20s”; there are %v.", part, Parts)
	}
	if !(diagonal > 0) || math.IsInf(diagonal, 0) {
		return UnitGuess{}, bad(BadParameter, "diag", "The size must be above 0.")
	}
	g := UnitGuess{Name: "unknown", Scale: 1, Candidates: []string{}}
	best, nearest := math.Inf(1), ""
	for _, u := range units {
		d := diagonal * u.scale
		if d < size[0] || d > size[2] {
			continue
		}
		g.Candidates = append(g.Candidates, u.name)
		if off := math.Abs(math.Log(d / size[1])); off < best {
			best, nearest = off, u.name
			if g.Name != "mm" {
				g.Name, g.Scale = u.name, u.scale
			}
		}
	}
	switch {
	case len(g.Candidates) == 0:
		g.Ambiguous = true
	case g.Candidates[0] == "mm":
		g.Name, g.Scale = "mm", 1
		g.Ambiguous = nearest != "mm"
	default:
		g.Ambiguous = len(g.Candidates) > 1
	}
	return g, nil
}
