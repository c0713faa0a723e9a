package calc

import (
	"context"
	"encoding/json"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"
	"yewmoor/internal/craft/refusal"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The reference cases of the handbook chapter, run through the same door as
// the command and the API. Models that the product does not have yet must be
// refused as the chapter says, never answered.
func TestTheHandbookCasesHold(t *testing.T) {
	raw, err := os.ReadFile("testdata/drying-and-cure.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID, Model string
			Input     json.RawMessage
			Expect    map[string]json.RawMessage
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	held := 0
	for _, c := range file.Cases {
		t.Run(c.ID, func(t *testing.T) {
			answer := plain(t, Answer(t.Context(), nil, "drying-and-cure", must(t, map[string]any{"model": c.Model, "input": c.Input})))
			if engines["drying-and-cure"].solvers[c.Model] == nil {
				assert.Equal(t, "unknown_value", answer.(map[string]any)["error"])
				assert.Equal(t, "model", answer.(map[string]any)["field"])
				return
			}
			held++
			for path, want := range c.Expect {
				checkAt(t, answer, path, want)
			}
		})
	}
	assert.Equal(t, 38, held, "cases of the models we have")
}

func checkAt(t *testing.T, answer any, path string, want json.RawMessage) {
	t.Helper()
	got := answer
	for _, step := range strings.Split(path, ".") {
		switch at := got.(type) {
		case map[string]any:
			got = at[step]
		case []any:
			i, err := strconv.Atoi(step)
			require.NoError(t, err)
			got = at[i]
		default:
			t.Fatalf("%s: nothing at %s", path, step)
		}
	}
	var number struct {
		Value    *float64
		Rel, Abs float64
	}
	if json.Unmarshal(want, &number) == nil && number.Value != nil {
		have, isNumber := got.(float64)
		require.True(t, isNumber, "%s is %v", path, got)
		assert.LessOrEqual(t, math.Abs(have-*number.Value), math.Max(number.Abs, number.Rel*math.Abs(*number.Value)), "%s: %v, want %v", path, have, *number.Value)
		return
	}
	var exact any
	require.NoError(t, json.Unmarshal(want, &exact))
	assert.Equal(t, exact, got, path)
}

func plain(t *testing.T, v any) any {
	t.Helper()
	var out any
	require.NoError(t, json.Unmarshal(must(t, v), &out))
	return out
}

func must(t *testing.T, v any) json.RawMessage {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	return raw
}

func TestAmountFromClayWaterAndArea(t *testing.T) {
	// scan-and-mould.md, case routes-agree without its scan: clay 26.5 g at
	// 1.55 and 16.8 g of water at 20 °C.
	answer := plain(t, Answer(t.Context(), nil, "mix", json.RawMessage(`{"op":"amount","args":{
		"clay":{"before_g":412,"after_g":385.5,"density":1.55},"water":{"full_g":1240,"empty_g":1223.2,"temp_c":20},
		"copies":3,"spare":1,"waste":0.15,"density":1.07}}`)))
	clay, water := 26.5/1.55, 16.8/0.998207
	wc, ww := 1/math.Pow(clay*0.05, 2), 1/math.Pow(water*0.02, 2)
	mean := (clay*wc + water*ww) / (wc + ww)
	got := answer.(map[string]any)
	assert.InDelta(t, mean*1.07*4*1.15, got["grams"], 0.001)
	assert.Empty(t, got["volume"].(map[string]any)["disagree"])
}

func TestRoutesThatDisagreeAreNamed(t *testing.T) {
	answer := plain(t, Answer(t.Context(), nil, "mix", json.RawMessage(`{"op":"amount","args":{
		"clay":{"before_g":412,"after_g":380,"density":1.55},"water":{"full_g":16.5,"empty_g":0},
		"copies":1,"spare":0,"waste":0,"density":1}}`)))
	assert.Equal(t, []any{"clay"}, answer.(map[string]any)["volume"].(map[string]any)["disagree"])
}

func TestBadCasesAreRefusedWithAField(t *testing.T) {
	for body, want := range map[string][2]string{
		`[]`:                                  {"not_an_object", ""},
		`{}`:                                  {"missing", "op"},
		`{"op":"bake"}`:                       {"unknown_value", "op"},
		`{"op":"amount","args":{"copies":1}}`: {"missing", "routes"},
		`{"op":"amount","args":{"clay":{"before_g":"many"}}}`:                                             {"not_a_number", "clay.before_g"},
		`{"op":"amount","args":{"clay":{"before_g":10,"after_g":12},"copies":1}}`:                         {"out_of_range", "clay.after_g"},
		`{"op":"amount","args":{"area":{"area_cm2":10,"mean_mm":2},"copies":0,"density":1}}`:              {"out_of_range", "copies"},
		`{"op":"parts","args":{"total_g":-1,"recipe":{"parts":[{"id":"A","parts":1}]}}}`:                  {"out_of_range", "total_g"},
		`{"op":"parts","args":{"total_g":10,"recipe":{"parts":[]}}}`:                                      {"missing", "parts"},
		`{"op":"parts","args":{"total_g":10,"recipe":{"by_volume":true,"parts":[{"id":"A","parts":1}]}}}`: {"missing", "parts[0].density"},
	} {
		got := plain(t, Answer(t.Context(), nil, "mix", json.RawMessage(body))).(map[string]any)
		assert.Equal(t, want[0], got["error"], body)
		assert.Equal(t, want[1], got["field"], body)
	}
	assert.Equal(t, "name", plain(t, Answer(t.Context(), nil, "tea", json.RawMessage(`{}`))).(map[string]any)["field"])
}

// What an afternoon of attacking the calculations broke.
func TestHostileCasesAreRefusedAtTheirField(t *testing.T) {
	for name, c := range map[string]struct{ engine, body, field string }{
		"a product of sizes that wraps round": {"texture", `{"op":"clark_evans","args":{"lattice":"sq","pitch":1,"rows":4,"cols":4611686018427387929,"area":100,"perimeter":40}}`, "rows"},
		"a subnormal size":                    {"texture", `{"op":"effective","args":{"width":1e-320,"depth":1,"sigma":0.1}}`, "width"},
		"more layers than a texture may have": {"texture", `{"op":"plan","args":{"layers":[` + strings.Repeat(`{},`, 2999) + `{}]}}`, "layers"},
		"an empty log":                        {"drying-and-cure", `{"model":"cure","input":{"system":"addition","pot_s":600,"demould_s":7200,"log":[]}}`, "log"},
	} {
		_, err := Run(t.Context(), nil, c.engine, json.RawMessage(c.body))
		var refused *refusal.Error
		if assert.ErrorAs(t, err, &refused, name) {
			assert.Equal(t, c.field, refused.Field, "%s: %s", name, refused.Detail)
		}
	}
}

func TestAnAnswerThatIsNoNumberIsARefusal(t *testing.T) {
	engines["test"] = engine{"op", "args", map[string]solver{"divide": quick(func(json.RawMessage) (any, error) { return map[string]float64{"share": math.NaN()}, nil })}}
	defer delete(engines, "test")
	_, err := Run(t.Context(), nil, "test", json.RawMessage(`{"op":"divide","args":{}}`))
	var refused *refusal.Error
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, "args", refused.Field)
}

func TestACalculationEndsWhenNobodyWaitsForIt(t *testing.T) {
	ctx, leave := context.WithCancel(t.Context())
	leave()
	_, err := Run(ctx, nil, "texture", json.RawMessage(`{"op":"autocorr","args":{"form":"noise","n":2048,"h":0.1,"period":4,"seed":1}}`))
	require.ErrorIs(t, err, context.Canceled)
}
