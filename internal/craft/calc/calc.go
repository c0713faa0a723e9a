// Package calc makes the engines of the craft reachable by name, one JSON case
// in and one JSON answer out. The HTTP operations POST /api/calc/NAME and the
// command `yewmoor calc NAME` both come here, so that both give the same
// answer and the same refusals.
package calc

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// A solver answers one payload. It ends early when ctx does.
type solver func(ctx context.Context, raw json.RawMessage) (any, error)

// quick is a solver whose work is bounded by its input's own limits.
func quick(do func(json.RawMessage) (any, error)) solver {
	return func(_ context.Context, raw json.RawMessage) (any, error) { return do(raw) }
}

type engine struct {
	selector, payload string // the keys of a case: {"model", "input"} or {"op", "args"}
	solvers           map[string]solver
}

// enginesOf are the engines; files reads what a case names, nil for none.
func enginesOf(files Files) map[string]engine {
	all := maps.Clone(engines)
	all["scan-and-mould"] = engine{"op", "args", map[string]solver{
		"info":      files.infoOf,
		"thickness": files.thicknessOf,
		"draft":     files.draftOf,
		"best":      files.bestOf,
		"symmetry":  files.symmetryOf,
		"fit_plane": files.fitPlaneOf,
		"unit":      quick(unitOf),
		"mould":     quick(func(raw json.RawMessage) (any, error) { return mouldOf(files, raw) }),
		"plaster":   quick(plasterOf),
		"laminate":  quick(laminateOf),
		"shrink":    quick(shrinkOf),
		"water":     quick(waterOf),
		"routes":    quick(routesOf),
	}}
	return all
}

var engines = map[string]engine{
	"drying-and-cure": {"model", "input", map[string]solver{
		"latex_stack":       quick(latexStack),
		"latex_estimate":    quick(latexEstimate),
		"film_dry":          quick(filmDry),
		"foam_wash_dry":     quick(foamWashDry),
		"cure":              quick(cureOf),
		"cure_remaining":    quick(cureLeft),
		"heat_stack":        quick(heatStack),
		"gelatin_cooling":   quick(gelatinCooling),
		"gelatin_shrinkage": quick(gelatinShrinkage),
		"foam_cure":         quick(foamCure),
		"gelatin_softening": quick(gelatinSoftening),
		"wax":               quick(waxHolds),
		"gypsum_mix":        quick(gypsumMix),
		"gypsum_set":        quick(gypsumSet),
		"gypsum_dry":        quick(gypsumDry),
		"mould_opening":     quick(mouldOpening),
		"gelatin_batch":     quick(gelatinBatch),
		"foam_density":      quick(foamDensity),
		"foam_gel":          quick(foamGel),
	}},
	"planning": planning,
	"colour":   {"op", "", colourOps()},
	"finish":   {"op", "args", both(finishOps, fitOps)},
	"texture": {"op", "args", map[string]solver{
		"plan":        texturePlan,
		"rng":         quick(textureDraws),
		"region":      quick(regionOf),
		"tube":        quick(tubeOf),
		"tiles":       quick(tilesOf),
		"effective":   quick(effectiveOf),
		"clark_evans": quick(clarkEvansOf),
		"autocorr":    autocorrOf,
		"shade":       quick(shadeOf),
	}},
	"mix": {"op", "args", map[string]solver{
		"parts":     quick(parts),
		"rebalance": quick(rebalance),
		"amount":    quick(amount),
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

// Run answers one case of the named engine; files reads what it names, nil for
// none. A refusal comes back as a *refusal.Error, and so does an answer with a
// number in it that is none: it would be no JSON.
func Run(ctx context.Context, files Files, name string, raw json.RawMessage) (json.RawMessage, error) {
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
	if e.payload == "" { // the case is its own payload
		payload = raw
	}
	if len(payload) == 0 {
		return nil, refusal.New(refusal.Missing, e.payload, "%s is missing.", e.payload)
	}
	if err := refusal.Unclean(payload); err != nil {
		return nil, err
	}
	out, err := e.solvers[which](ctx, payload)
	if err != nil {
		return nil, err
	}
	answer, err := json.Marshal(out)
	var unsupported *json.UnsupportedValueError
	if errors.As(err, &unsupported) {
		return nil, refusal.New(refusal.OutOfRange, e.payload, "With these values there is no answer: a number in it would be %s.", unsupported.Str)
	}
	return answer, err
}

// Answer is Run for a command line: a refusal becomes the answer.
func Answer(ctx context.Context, files Files, name string, raw json.RawMessage) any {
	out, err := Run(ctx, files, name, raw)
	var refused *refusal.Error
	if errors.As(err, &refused) {
		return map[string]string{"error": refused.Code, "field": refused.Field, "detail": refused.Detail}
	}
	if err != nil {
		return map[string]string{"error": "failed", "field": "", "detail": err.Error()}
	}
	return out
}

// decode reads a payload into a Go value and holds it to the limits that its
// fields state, the same as a typed operation would.
func decode(raw json.RawMessage, into any) error {
	if err := json.Unmarshal(raw, into); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			return refusal.New(refusal.NotANumber, kind.Field, "%s has the wrong kind of value.", kind.Field)
		}
		var refused *refusal.Error
		if errors.As(err, &refused) {
			return refused
		}
		return refusal.New(refusal.NotAnObject, "", "The input is not a JSON object: %s.", err)
	}
	return refusal.TooMany(into)
}

// answer keeps a refusal from hiding behind a value.
func answer[T any](out T, err error) (any, error) {
	if err != nil {
		return nil, err
	}
	return out, nil
}
