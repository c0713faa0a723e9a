// Package hands is what keeps stuff off fingers and tools, with what that leaves
// behind, and how tools and cloth are cleaned by what was on them: where practitioners
// disagree, every school stands there with its price (D01, D02).
package hands

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
)

// KeepOff is one way of keeping a material from sticking to fingers or itself.
type KeepOff struct {
	Material string `json:"material"`
	School   string `json:"school"`
	With     string `json:"with"`
	How      string `json:"how"`
	Leaves   string `json:"leaves" doc:"what stays on the work"`
	Wipe     string `json:"wipe" doc:"what is to be done before glue, film or colour"`
	Greasy   bool   `json:"greasy" doc:"wipe before anything is to hold on it"`
	Holds    string `json:"holds"`
}

// Cleaning is how what was on a tool comes off again.
type Cleaning struct {
	Medium   string   `json:"medium"`
	Families []string `json:"families"`
	With     string   `json:"with"`
	Tool     string   `json:"tool"`
	Cloth    string   `json:"cloth"`
	Minutes  float64  `json:"minutes"`
	Ruins    string   `json:"ruins" doc:"what it spoils for good"`
}

// Guide is both tables.
type Guide struct {
	KeepOff  []KeepOff  `json:"keep_off"`
	Cleaning []Cleaning `json:"cleaning"`
}

//go:embed hands.json
var raw []byte

var guide = func() Guide {
	var g Guide
	if err := json.Unmarshal(raw, &g); err != nil {
		panic(fmt.Errorf("reading what keeps hands clean: %w", err))
	}
	return g
}()

// After is what there is to clean once stuff of these families was handled, in the
// order of the table.
func After(families ...string) []Cleaning {
	out := []Cleaning{}
	for _, c := range guide.Cleaning {
		if slices.ContainsFunc(families, func(f string) bool { return slices.Contains(c.Families, f) }) {
			out = append(out, c)
		}
	}
	return out
}

// Usual are the tables; nobody changes them.
func Usual() Guide { return guide }
