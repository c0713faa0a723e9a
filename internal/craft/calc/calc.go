// Package calc makes the engines of the craft reachable by name, one JSON case
// in and one JSON answer out. The HTTP operations POST /api/calc/NAME and the
// command `yewmoor calc NAME` both come here, so that both give the same
// answer and the same refusals.
package calc

import (
	"encoding/json"
	"errors"
	"maps"
	"slices"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/scan"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/craft/wax"
)

type solver func(json.RawMessage) (any, error)

type engine struct {
	selector, payload string // the keys of a case: {"model", "input"} or {"op", "args"}
	solvers           map[string]solver
}

// enginesOf are the engines; files reads what a case names, nil for none.
func enginesOf(files scan.Files) map[string]engine {
	all := maps.Clone(engines)
	all["scan-and-mould"] = engine{"op", "args", map[string]solver{
		"info":      files.InfoOf,
		"thickness": files.ThicknessOf,
		"draft":     files.DraftOf,
		"best":      files.BestOf,
		"symmetry":  files.SymmetryOf,
		"fit_plane": files.FitPlaneOf,
		"unit":      scan.UnitOf,
		"mould":     func(raw json.RawMessage) (any, error) { return mouldmath.MouldOf(files, raw) },
		"plaster":   mouldmath.PlasterOf,
		"laminate":  mouldmath.LaminateOf,
		"shrink":    mouldmath.ShrinkOf,
		"water":     mouldmath.WaterOf,
		"routes":    mouldmath.RoutesOf,
	}}
	return all
}

var engines = map[string]engine{
	"drying-and-cure": {"model", "input", map[string]solver{
		"latex_estimate":    drying.LatexEstimate,
		"film_dry":          drying.FilmDry,
		"cure":              cure.Cure,
		"cure_remaining":    cure.Left,
		"gelatin_softening": gelatin.Soften,
		"wax":               wax.Hold,
		"gypsum_mix":        gypsum.MixOf,
		"gypsum_set":        gypsum.SetOf,
		"gypsum_dry":        gypsum.DryOf,
		"mould_opening":     gypsum.OpeningOf,
	}},
	"texture": {"op", "args", map[string]solver{
		"plan":        texture.Plan,
		"rng":         texture.RNG,
		"region":      texture.RegionOf,
		"tube":        texture.Tube,
		"tiles":       texture.Tiles,
		"effective":   texture.EffectiveOf,
		"clark_evans": texture.ClarkEvansOf,
		"autocorr":    texture.AutocorrOf,
		"shade":       texture.ShadeOf,
	}},
	"mix": {"op", "args", map[string]solver{
		"parts":     parts,
		"rebalance": rebalance,
		"amount":    amount,
	}},
}

// Names lists the engines.
func Names() []string {
	var names []string
	for name := range enginesOf(nil) {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// Run answers one case of the named engine, without files. A refusal comes back
// as a *refusal.Error.
func Run(name string, raw json.RawMessage) (any, error) { return RunWith(nil, name, raw) }

// RunWith answers one case; files reads what it names.
func RunWith(files scan.Files, name string, raw json.RawMessage) (any, error) {
	e, ok := enginesOf(files)[name]
	if !ok {
		return nil, refusal.New(refusal.UnknownValue, "name", "There is no calculation of this name; there are %v.", Names())
	}
	var c map[string]json.RawMessage
	if err := json.Unmarshal(raw, &c); err != nil || c == nil {
		return nil, refusal.New(refusal.NotAnObject, "", "The case is not a JSON object.")
	}
	var which string
	if len(c[e.selector]) == 0 {
		return nil, refusal.New(refusal.Missing, e.selector, "%s is missing.", e.selector)
	}
	if err := json.Unmarshal(c[e.selector], &which); err != nil || e.solvers[which] == nil {
		return nil, refusal.New(refusal.UnknownValue, e.selector, "This %s is not known here.", e.selector)
	}
	payload := c[e.payload]
	if len(payload) == 0 {
		return nil, refusal.New(refusal.Missing, e.payload, "%s is missing.", e.payload)
	}
	return e.solvers[which](payload)
}

// Answer is Run for a command line: a refusal becomes the answer.
func Answer(name string, raw json.RawMessage) any { return AnswerWith(nil, name, raw) }

// AnswerWith is RunWith for a command line.
func AnswerWith(files scan.Files, name string, raw json.RawMessage) any {
	out, err := RunWith(files, name, raw)
	var refused *refusal.Error
	if errors.As(err, &refused) {
		return map[string]string{"error": refused.Code, "field": refused.Field, "detail": refused.Detail}
	}
	if err != nil {
		return map[string]string{"error": "failed", "field": "", "detail": err.Error()}
	}
	return out
}

func decode(raw json.RawMessage, into any) error {
	if err := json.Unmarshal(raw, into); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			return refusal.New(refusal.NotANumber, kind.Field, "%s has the wrong kind of value.", kind.Field)
		}
		return refusal.New(refusal.NotAnObject, "", "The input is not a JSON object.")
	}
	return nil
}

func parts(raw json.RawMessage) (any, error) {
	var in struct {
		TotalG float64    `json:"total_g"`
		Recipe mix.Recipe `json:"recipe"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	targets, err := mix.PourSheet(in.Recipe, in.TotalG)
	if err != nil {
		return nil, err
	}
	return map[string]any{"targets": targets}, nil
}

func rebalance(raw json.RawMessage) (any, error) {
	var in struct {
		Recipe mix.Recipe   `json:"recipe"`
		Poured []mix.Poured `json:"poured"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	out, err := mix.Rebalance(in.Recipe, in.Poured)
	if err != nil {
		return nil, err
	}
	return out, nil
}

func amount(raw json.RawMessage) (any, error) {
	var in Amount
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return in.Work()
}

// Amount is the question "how many grams?" as the amount form asks it.
type Amount struct {
	Clay *struct {
		BeforeG    float64 `json:"before_g"`
		AfterG     float64 `json:"after_g"`
		ReclaimedG float64 `json:"reclaimed_g,omitempty"`
		Density    float64 `json:"density,omitempty" doc:"g/cm³; 1.6 when left out"`
	} `json:"clay,omitempty"`
	Water *struct {
		FullG  float64 `json:"full_g"`
		EmptyG float64 `json:"empty_g"`
		CoreML float64 `json:"core_ml,omitempty"`
		TempC  float64 `json:"temp_c,omitempty" doc:"20 when left out"`
	} `json:"water,omitempty"`
	Area *struct {
		AreaCM2 float64 `json:"area_cm2"`
		MeanMM  float64 `json:"mean_mm"`
	} `json:"area,omitempty"`
	// Scan is the volume between two scans, or of a body that was put under
	// water: what is known in ml already.
	Scan *struct {
		VolumeML float64 `json:"volume_ml"`
	} `json:"scan,omitempty"`
	Copies  int     `json:"copies"`
	Spare   int     `json:"spare"`
	Waste   float64 `json:"waste" doc:"share on top, 0.15 is usual"`
	Density float64 `json:"density" doc:"of the finished material, g/ml"`
}

// AmountAnswer is the amount with what it was worked out from.
type AmountAnswer struct {
	mix.Amount
	Volume mix.Volume `json:"volume"`
}

// Work answers the question.
func (a Amount) Work() (AmountAnswer, error) {
	var routes []mix.Route
	add := func(r mix.Route, err error) error {
		if err == nil {
			routes = append(routes, r)
		}
		return err
	}
	if c := a.Clay; c != nil {
		density := c.Density
		if density == 0 {
			density = mix.ClayDensity
		}
		if err := add(mix.Clay(c.BeforeG, c.AfterG, c.ReclaimedG, density)); err != nil {
			return AmountAnswer{}, err
		}
	}
	if w := a.Water; w != nil {
		temp := w.TempC
		if temp == 0 {
			temp = 20
		}
		if err := add(mix.WaterFill(w.FullG, w.EmptyG, w.CoreML, temp)); err != nil {
			return AmountAnswer{}, err
		}
	}
	if r := a.Area; r != nil {
		if err := add(mix.AreaThickness(r.AreaCM2, r.MeanMM)); err != nil {
			return AmountAnswer{}, err
		}
	}
	if s := a.Scan; s != nil {
		if err := add(mix.Scanned(s.VolumeML)); err != nil {
			return AmountAnswer{}, err
		}
	}
	volume, err := mix.Combine(routes)
	if err != nil {
		return AmountAnswer{}, err
	}
	out, err := mix.HowMuch(mix.Need{VolumeML: volume.MeanML, Copies: a.Copies, Spare: a.Spare, Waste: a.Waste, Density: a.Density})
	return AmountAnswer{out, volume}, err
}
