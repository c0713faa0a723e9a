// Package fit is what happens to a piece once it leaves the shop: which adhesive holds it and
// when it grips, the run of the morning in the chair, how long a rim lasts, how it comes off, how
// many copies a run of days takes and how they travel: sections 7 to 10 of the handbook chapter
// "Finish and fit". mm, cm², ml, g; minutes and hours as the fields say.
package fit

import (
	_ "embed"
	"encoding/json"
	"slices"
)

// Adhesive is a kind of skin adhesive by its properties, of no maker.
type Adhesive struct {
	ID           string              `json:"id"`
	Name         string              `json:"name"`
	OnSkin       bool                `json:"on_skin"`
	States       []string            `json:"states"` // in which it is fitted, its usual one first
	Law          string              `json:"law"`    // water, solvent, none
	CoatMM       float64             `json:"coat_mm"`
	Density      float64             `json:"density"`
	EarlyS       float64             `json:"early_s"`
	EarlyBand    [2]float64          `json:"early_band"`
	Close        string              `json:"close"` // plus: counted from early; dry: it dries too
	CloseS       float64             `json:"close_s"`
	CloseBand    [2]float64          `json:"close_band"`
	MoveS        float64             `json:"move_s"`
	PressS       float64             `json:"press_s"`
	Strength     int                 `json:"strength"`
	StrainMax    float64             `json:"strain_max"`
	Strain2      float64             `json:"strain2"`
	T50H         float64             `json:"t50_h"`
	T50Band      [2]float64          `json:"t50_band"`
	K            float64             `json:"k"`
	Q10          float64             `json:"q10"`
	Sweat        [3]float64          `json:"sweat"` // none, light, heavy
	HoursMax     float64             `json:"hours_max"`
	Families     []string            `json:"families"`
	NotZones     []string            `json:"not_zones"`
	ZoneFamilies map[string][]string `json:"zone_families"`
	Allergens    []string            `json:"allergens"`
	Skin         string              `json:"skin"`
	Removers     []string            `json:"removers"`
	Flammable    bool                `json:"flammable"`
}

// Remover is what takes something off.
type Remover struct {
	ID        string `json:"id"`
	Skin      string `json:"skin"` // mild, normal, harsh
	Flammable bool   `json:"flammable"`
	Eye       string `json:"eye"` // no, shut
}

type pair struct {
	What    string     `json:"what"`
	Remover string     `json:"remover"`
	D       float64    `json:"d_mm2_min"`
	Band    [2]float64 `json:"band"`
}

// Packing is how a material travels and lies.
type Packing struct {
	ID          string  `json:"id"`
	Support     string  `json:"support"`
	Powder      string  `json:"powder"`
	Wrap        string  `json:"wrap"`
	MinC        float64 `json:"min_c"`
	MaxC        float64 `json:"max_c"`
	MinRH       float64 `json:"min_rh"`
	MaxRH       float64 `json:"max_rh"`
	MaxDays     float64 `json:"max_days"`
	Stack       bool    `json:"stack"`
	Orientation string  `json:"orientation"`
}

//go:embed adhesives.json
var adhesivesJSON []byte

//go:embed removers.json
var removersJSON []byte

//go:embed packing.json
var packingJSON []byte

type adhesiveTable struct {
	LatexFamilies []string   `json:"latex_families"`
	Adhesives     []Adhesive `json:"adhesives"`
}

type removerTable struct {
	FrontMM  float64   `json:"front_mm"`
	FoamD    float64   `json:"foam_d"`
	Removers []Remover `json:"removers"`
	Pairs    []pair    `json:"pairs"`
}

type packingTable struct {
	Materials []Packing `json:"materials"`
}

var (
	glues    = decoded[adhesiveTable](adhesivesJSON)
	solvents = decoded[removerTable](removersJSON)
	packings = decoded[packingTable](packingJSON)
)

// decoded reads a shipped table; one that does not read is a fault of the build.
func decoded[T any](raw []byte) T {
	var out T
	if err := json.Unmarshal(raw, &out); err != nil {
		panic("fit: a shipped table does not read: " + err.Error())
	}
	return out
}

// Adhesives are the kinds that are known, in the order of the table.
func Adhesives() []Adhesive { return slices.Clone(glues.Adhesives) }

// AdhesiveOf is the kind of that id.
func AdhesiveOf(id string) (Adhesive, bool) {
	return find(glues.Adhesives, func(a Adhesive) bool { return a.ID == id })
}

// Removers are what takes things off, in the order of the table.
func Removers() []Remover { return slices.Clone(solvents.Removers) }

// RemoverOf is the remover of that id.
func RemoverOf(id string) (Remover, bool) {
	return find(solvents.Removers, func(r Remover) bool { return r.ID == id })
}

// Whats are the kinds of things that removers take off, each once, in the order of the table.
func Whats() []string {
	var out []string
	for _, p := range solvents.Pairs {
		if !slices.Contains(out, p.What) {
			out = append(out, p.What)
		}
	}
	return out
}

// TakesOff are the removers that take a thing off, quickest of the table's order first.
func TakesOff(what string) []string {
	var out []string
	for _, p := range solvents.Pairs {
		if p.What == what {
			out = append(out, p.Remover)
		}
	}
	return out
}

// Packings are the materials whose way of travelling is known.
func Packings() []Packing { return slices.Clone(packings.Materials) }

func find[T any](list []T, is func(T) bool) (T, bool) {
	if i := slices.IndexFunc(list, is); i >= 0 {
		return list[i], true
	}
	var none T
	return none, false
}
