package edge

import (
	_ "embed"
	"encoding/json"
	"slices"
)

// Method is a way to lose an edge.
type Method struct {
	ID     string     `json:"id"`
	How    string     `json:"how"`
	StepMM float64    `json:"step_mm" doc:"the largest step that it hides"`
	Band   [2]float64 `json:"band_mm"`
	Eye    string     `json:"eye" enum:"no,shut,yes" doc:"within 10 mm of the lid margin: not at all, with eyes shut until dry, yes"`
	Latex  bool       `json:"latex" doc:"contains latex"`
	Moving bool       `json:"moving" doc:"holds where skin moves"`
	Note   string     `json:"note"`
}

// Material is what an edge is made of, with its ways in the usual order of choice.
type Material struct {
	ID    string   `json:"id"`
	Latex bool     `json:"latex"`
	Ways  []string `json:"ways"`
}

//go:embed edges.json
var rawEdges []byte

var table = func() (t struct {
	Methods   []Method
	Materials []Material
}) {
	if err := json.Unmarshal(rawEdges, &t); err != nil {
		panic(err) // part of the program
	}
	return t
}()

// Methods and Materials are the chapter's table.
func Methods() []Method     { return table.Methods }
func Materials() []Material { return table.Materials }

// MethodOf finds a way by its id.
func MethodOf(id string) (Method, bool) {
	i := slices.IndexFunc(table.Methods, func(m Method) bool { return m.ID == id })
	if i < 0 {
		return Method{}, false
	}
	return table.Methods[i], true
}

// MaterialOf finds an edge's material by its id.
func MaterialOf(id string) (Material, bool) {
	i := slices.IndexFunc(table.Materials, func(m Material) bool { return m.ID == id })
	if i < 0 {
		return Material{}, false
	}
	return table.Materials[i], true
}

// Rim is a stretch of edge as the choice of a way asks about it.
type Rim struct {
	Material string // id of Materials
	StepMM   float64
	NearEye  bool // within 10 mm of the lid margin
	LatexOK  bool // the wearer takes latex
	Moving   bool // the place moves or stretches
}

// Ways are those that lose a rim, in the order of the table, and why the others do
// not: latex, eye, moving or step.
type Ways struct {
	Ways     []string          `json:"ways"`
	Refused  map[string]string `json:"refused" doc:"why: latex, eye, moving, step"`
	EyesShut []string          `json:"eyes_shut" doc:"those that may only be used with eyes shut until dry"`
}

// WaysOf chooses. The material must be one of Materials.
func WaysOf(r Rim) Ways {
	out := Ways{Ways: []string{}, Refused: map[string]string{}, EyesShut: []string{}}
	of, _ := MaterialOf(r.Material)
	for _, id := range of.Ways {
		m, _ := MethodOf(id)
		switch {
		case of.Latex && !r.LatexOK:
			out.Refused[id] = "latex"
		case r.NearEye && m.Eye == "no":
			out.Refused[id] = "eye"
		case m.Latex && !r.LatexOK:
			out.Refused[id] = "latex"
		case r.Moving && !m.Moving:
			out.Refused[id] = "moving"
		case r.StepMM > m.StepMM+1e-9:
			out.Refused[id] = "step"
		default:
			out.Ways = append(out.Ways, id)
			if r.NearEye && m.Eye == "shut" {
				out.EyesShut = append(out.EyesShut, id)
			}
		}
	}
	return out
}
