package calc

import (
	"encoding/json"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Quantities, stock, tracing and durations: the cases of the planning chapter,
// at the tolerance that it states.
func TestThePlanningCasesHold(t *testing.T) {
	raw, err := os.ReadFile("testdata/planning.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID, Op, Error string
			Input, Expect json.RawMessage
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 42)
	for _, c := range file.Cases {
		t.Run(c.ID, func(t *testing.T) {
			got := plain(t, Answer(t.Context(), nil, "planning", must(t, map[string]any{"op": c.Op, "input": c.Input})))
			if c.Error != "" {
				assert.Equal(t, c.Error, got.(map[string]any)["error"])
				return
			}
			var want any
			require.NoError(t, json.Unmarshal(c.Expect, &want))
			within(t, "", want, got)
		})
	}
}

// within holds everything that want names against got; floats to 1e-9 of their size.
func within(t *testing.T, path string, want, got any) {
	t.Helper()
	switch w := want.(type) {
	case float64:
		g, ok := got.(float64)
		require.True(t, ok, "%s is %v", path, got)
		assert.InDelta(t, w, g, 1e-9*math.Max(1, math.Abs(w)), path)
	case map[string]any:
		g, ok := got.(map[string]any)
		require.True(t, ok, "%s is %v", path, got)
		for k := range w {
			within(t, path+"."+k, w[k], g[k])
		}
	case []any:
		g, ok := got.([]any)
		require.True(t, ok, "%s is %v", path, got)
		require.Len(t, g, len(w), path)
		for i := range w {
			within(t, path+"[]", w[i], g[i])
		}
	default:
		assert.Equal(t, want, got, path)
	}
}

// Edges, faults, hair, inserts, comparisons, stage blood, cards, and what happens on the day: all
// cases of the finish chapter.
func TestTheFinishCasesHold(t *testing.T) {
	raw, err := os.ReadFile("testdata/finish.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID, Op string
			Args   json.RawMessage
			Expect map[string]json.RawMessage
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 156)
	for _, c := range file.Cases {
		t.Run(c.ID, func(t *testing.T) {
			got := plain(t, Answer(t.Context(), nil, "finish", must(t, map[string]any{"op": c.Op, "args": c.Args})))
			for path, raw := range c.Expect {
				at := got
				for _, step := range strings.Split(path, ".") {
					if list, is := at.([]any); is {
						n, err := strconv.Atoi(step)
						require.NoError(t, err)
						at = list[n]
						continue
					}
					at = at.(map[string]any)[step]
				}
				var want struct {
					Value any
					Tol   *struct{ Abs, Rel float64 }
				}
				if json.Unmarshal(raw, &want) != nil { // a refusal's code or field
					var text string
					require.NoError(t, json.Unmarshal(raw, &text))
					assert.Equal(t, text, at, path)
					continue
				}
				if want.Tol == nil {
					assert.Equal(t, want.Value, at, path)
					continue
				}
				near(t, path, want.Value, at, want.Tol.Abs, want.Tol.Rel)
			}
		})
	}
}
