package texture_test

import (
	"encoding/json"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/calc"
)

type expected struct {
	Value       any
	Tol         *struct{ Rel, Abs float64 }
	Range       []float64
	Analytic    any
	AnalyticTol *struct{ Rel, Abs float64 } `json:"analytic_tol"`
}

// The handbook's reference cases, by the same way as POST /api/calc/texture and
// `yewmoor calc texture`.
func TestTheHandbooksCases(t *testing.T) {
	raw, err := os.ReadFile("testdata/texture.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID     string
			Op     string
			Args   json.RawMessage
			Expect map[string]json.RawMessage
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 59)
	for _, c := range file.Cases {
		t.Run(c.ID, func(t *testing.T) {
			one, err := json.Marshal(map[string]any{"op": c.Op, "args": c.Args})
			require.NoError(t, err)
			answer, err := json.Marshal(calc.Answer(t.Context(), nil, "texture", one))
			require.NoError(t, err)
			var got map[string]any
			require.NoError(t, json.Unmarshal(answer, &got))
			for key, want := range c.Expect {
				var e expected
				require.NoError(t, json.Unmarshal(want, &e))
				if !assert.Contains(t, got, key, "%v", got) {
					continue
				}
				var whole map[string]any
				require.NoError(t, json.Unmarshal(want, &whole))
				if _, has := whole["value"]; has {
					if e.Tol == nil {
						if len(e.Range) == 0 {
							assert.Equal(t, e.Value, got[key], key)
						}
					} else {
						near(t, key, e.Value, got[key], e.Tol.Rel, e.Tol.Abs)
					}
				}
				if len(e.Range) == 2 {
					assert.GreaterOrEqual(t, got[key], e.Range[0], key)
					assert.LessOrEqual(t, got[key], e.Range[1], key)
				}
				if e.Analytic != nil && e.AnalyticTol != nil {
					near(t, key, e.Analytic, got[key], e.AnalyticTol.Rel, e.AnalyticTol.Abs)
				}
			}
		})
	}
}

func near(t *testing.T, key string, want, got any, rel, abs float64) {
	t.Helper()
	if list, ok := want.([]any); ok {
		other, ok := got.([]any)
		require.True(t, ok && len(other) == len(list), key)
		for i := range list {
			near(t, key, list[i], other[i], rel, abs)
		}
		return
	}
	w, okW := want.(float64)
	g, okG := got.(float64)
	if !okW || !okG {
		assert.Equal(t, want, got, key)
		return
	}
	assert.LessOrEqual(t, math.Abs(g-w), math.Max(abs, rel*math.Abs(w)), "%s: want %v, got %v", key, w, g)
}
