// Package fault ranks why something on a piece went wrong, from what the record says
// and what was looked at, and says which look would tell most: section 3 of the
// handbook chapter "Finish and fit". Its shares and ratios are estimates, within a
// factor of two; the person says what it was, and that is the prior next time.
package fault

import (
	_ "embed"
	"encoding/json"
	"slices"
)

// Other is the cause that is none of the others.
const Other = "C-OTHER"

// Mend is what may be done with the copy now, each with when.
type Mend struct {
	Repair string `json:"repair"`
	Reuse  string `json:"reuse"`
	Scrap  string `json:"scrap"`
}

// Fault is something that can be seen on a piece.
type Fault struct {
	ID        string             `json:"id"`
	Name      string             `json:"name"`
	Room      string             `json:"room"`
	Moment    string             `json:"moment"`
	Materials []string           `json:"materials"`
	Causes    map[string]float64 `json:"causes" doc:"base share of each before anything is known"`
	Mend      Mend               `json:"mend"`
}

// Cause is what a fault may come from, and where it is changed next time.
type Cause struct {
	ID        string                        `json:"id"`
	Name      string                        `json:"name"`
	Materials []string                      `json:"materials"`
	ChangeIn  string                        `json:"change_in"`
	Prevent   string                        `json:"prevent"`
	Defining  []string                      `json:"defining,omitempty"`
	Ratios    map[string]map[string]float64 `json:"ratios"`
}

// State is one answer that evidence can have; a number's is the first whose limit it
// does not exceed.
type State struct {
	State string   `json:"state"`
	UpTo  *float64 `json:"upto,omitempty"`
	P0    float64  `json:"p0" doc:"its usual share over all pieces"`
}

// Evidence is one thing that the record or a look can say.
type Evidence struct {
	ID        string   `json:"id"`
	Group     string   `json:"group"`
	Materials []string `json:"materials"`
	Kind      string   `json:"kind" enum:"number,word"`
	Unit      string   `json:"unit,omitempty"`
	States    []State  `json:"states"`
	Ask       string   `json:"ask"`
	Where     string   `json:"where"`
	Minutes   float64  `json:"minutes"`
}

// Of is the state of a number.
func (e Evidence) Of(x float64) string {
	for _, s := range e.States {
		if s.UpTo == nil || x <= *s.UpTo+1e-9 {
			return s.State
		}
	}
	return e.States[len(e.States)-1].State
}

// Knows says whether a word is one of its states.
func (e Evidence) Knows(state string) bool {
	return slices.ContainsFunc(e.States, func(s State) bool { return s.State == state })
}

//go:embed faults.json
var rawFaults []byte

//go:embed causes.json
var rawCauses []byte

var faults = func() (t struct{ Faults []Fault }) {
	if err := json.Unmarshal(rawFaults, &t); err != nil {
		panic(err) // part of the program
	}
	return t
}().Faults

var causes = func() (t struct {
	Constants struct {
		Alpha        float64
		Cap          float64
		CapDefining  float64 `json:"cap_defining"`
		DecidedP     float64 `json:"decided_p"`
		DecidedRatio float64 `json:"decided_ratio"`
	}
	Evidence []Evidence
	Causes   []Cause
}) {
	if err := json.Unmarshal(rawCauses, &t); err != nil {
		panic(err) // part of the program
	}
	return t
}()

func index[T any](list []T, id func(T) string) map[string]T {
	out := make(map[string]T, len(list))
	for _, e := range list {
		out[id(e)] = e
	}
	return out
}

var (
	faultByID    = index(faults, func(f Fault) string { return f.ID })
	causeByID    = index(causes.Causes, func(c Cause) string { return c.ID })
	evidenceByID = index(causes.Evidence, func(e Evidence) string { return e.ID })
)

// Faults, Causes and AllEvidence are the chapter's tables.
func Faults() []Fault         { return faults }
func Causes() []Cause         { return causes.Causes }
func AllEvidence() []Evidence { return causes.Evidence }

// FaultOf, CauseOf and EvidenceOf find an entry by its id.
func FaultOf(id string) (Fault, bool)       { f, ok := faultByID[id]; return f, ok }
func CauseOf(id string) (Cause, bool)       { c, ok := causeByID[id]; return c, ok }
func EvidenceOf(id string) (Evidence, bool) { e, ok := evidenceByID[id]; return e, ok }

// Fits says whether a list of materials holds this one; "any" fits all.
func Fits(materials []string, material string) bool {
	return slices.Contains(materials, "any") || slices.Contains(materials, material)
}
