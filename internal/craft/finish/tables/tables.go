// Package tables holds the small tables of the handbook chapter "Finish and fit":
// fibres, strokes, fixings, motions, fillers and the limits by finish grade, each
// with its band and what it rests on.
package tables

import (
	_ "embed"
	"encoding/json"
)

// Fibre is what hair is made of.
type Fibre struct {
	ID       string     `json:"id"`
	Diameter float64    `json:"diameter_um"`
	Band     [2]float64 `json:"band"`
	Density  float64    `json:"g_cm3"`
	Basis    string     `json:"basis"`
}

// Stroke is one movement of a needle, in seconds.
type Stroke struct {
	ID      string     `json:"id"`
	Seconds float64    `json:"seconds"`
	Band    [2]float64 `json:"band"`
	Basis   string     `json:"basis"`
}

// Fixing is how an insert is held: by an area (MPa) or at points (N each).
type Fixing struct {
	ID       string     `json:"id"`
	Kind     string     `json:"kind" enum:"area,point"`
	Strength float64    `json:"strength"`
	Unit     string     `json:"unit"`
	Band     [2]float64 `json:"band"`
	Basis    string     `json:"basis"`
}

// Motion is what the wearer does, in multiples of g.
type Motion struct {
	ID   string     `json:"id"`
	G    float64    `json:"g"`
	Band [2]float64 `json:"band"`
}

// Filler is what a weight bag holds.
type Filler struct {
	ID      string     `json:"id"`
	GPerML  float64    `json:"g_ml"`
	Band    [2]float64 `json:"band"`
	Organic bool       `json:"organic"`
}

// Grade is what a finish grade allows; nil is no limit. Edge is a visibility at
// DistanceM; seam, pinholes and hair are for the person who checks.
type Grade struct {
	ID        string   `json:"id" enum:"full,good,plain,hidden"`
	Edge      *float64 `json:"edge"`
	RMS       *float64 `json:"rms_mm"`
	Max       *float64 `json:"max_mm"`
	DEMean    *float64 `json:"de_mean"`
	DEMax     *float64 `json:"de_max"`
	Seam      *float64 `json:"seam_mm"`
	Pinholes  *float64 `json:"pinholes_100cm2"`
	Hair      *float64 `json:"hair_share"`
	DistanceM *float64 `json:"distance_m"`
}

//go:embed tables.json
var raw []byte

var all = func() (t struct {
	Fibres  []Fibre
	Strokes []Stroke
	Fixings []Fixing
	Motions []Motion
	Fillers []Filler
	Grades  []Grade
}) {
	if err := json.Unmarshal(raw, &t); err != nil {
		panic(err) // part of the program
	}
	return t
}()

// Fibres, Strokes, Fixings, Motions, Fillers and Grades are the tables, grades from
// the strictest on.
func Fibres() []Fibre   { return all.Fibres }
func Strokes() []Stroke { return all.Strokes }
func Fixings() []Fixing { return all.Fixings }
func Motions() []Motion { return all.Motions }
func Fillers() []Filler { return all.Fillers }
func Grades() []Grade   { return all.Grades }

// Find is the entry of a table with this id.
func Find[T any](list []T, id func(T) string, want string) (T, bool) {
	for _, e := range list {
		if id(e) == want {
			return e, true
		}
	}
	var none T
	return none, false
}

// StrokeSeconds is how long one stroke of this way takes, usually.
func StrokeSeconds(way string) float64 {
	s, _ := Find(all.Strokes, func(e Stroke) string { return e.ID }, way)
	return s.Seconds
}

// FibreOf, FixingOf, MotionOf, FillerOf and GradeOf find an entry by its id.
func FibreOf(id string) (Fibre, bool) {
	return Find(all.Fibres, func(e Fibre) string { return e.ID }, id)
}
func FixingOf(id string) (Fixing, bool) {
	return Find(all.Fixings, func(e Fixing) string { return e.ID }, id)
}
func MotionOf(id string) (Motion, bool) {
	return Find(all.Motions, func(e Motion) string { return e.ID }, id)
}
func FillerOf(id string) (Filler, bool) {
	return Find(all.Fillers, func(e Filler) string { return e.ID }, id)
}
func GradeOf(id string) (Grade, bool) {
	return Find(all.Grades, func(e Grade) string { return e.ID }, id)
}
