package scan_test

import (
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/calc"
)

type tolerance struct {
	Rel, Abs float64
	Deg      *float64
	DegAxis  *float64 `json:"deg_axis"`
}

func meshes(name string) ([]byte, error) {
	return os.ReadFile(filepath.Join("testdata/meshes", filepath.Base(name)))
}

// The handbook's reference cases, by the way of `yewmoor calc scan-and-mould
// --files DIR`; the mould's quantities, gypsum and routes stand in the same
// file.
func TestTheHandbooksCases(t *testing.T) {
	raw, err := os.ReadFile("testdata/scan-and-mould.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID     string
			Op     string
			Args   json.RawMessage
			Expect map[string]struct {
				Value       any
				Tol         *tolerance
				Analytic    any
				AnalyticTol *tolerance `json:"analytic_tol"`
			}
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 78)
	for _, c := range file.Cases {
		t.Run(c.ID, func(t *testing.T) {
			one, err := json.Marshal(map[string]any{"op": c.Op, "args": c.Args})
			require.NoError(t, err)
			answer, err := json.Marshal(calc.Answer(t.Context(), meshes, "scan-and-mould", one))
			require.NoError(t, err)
			var got map[string]any
			require.NoError(t, json.Unmarshal(answer, &got))
			for key, want := range c.Expect {
				if !assert.Contains(t, got, key, "%.300v", got) {
					continue
				}
				if want.Tol == nil {
					assert.Equal(t, want.Value, got[key], key)
				} else {
					near(t, key, want.Value, got[key], *want.Tol)
				}
				if want.Analytic != nil && want.AnalyticTol != nil {
					near(t, key+" (smooth)", want.Analytic, got[key], *want.AnalyticTol)
				}
			}
		})
	}
}

func near(t *testing.T, key string, want, got any, tol tolerance) {
	t.Helper()
	if list, ok := want.([]any); ok && (tol.Deg != nil || tol.DegAxis != nil) {
		other := got.([]any)
		var dot, a2, b2 float64
		for i := range list {
			a, b := list[i].(float64), other[i].(float64)
			dot, a2, b2 = dot+a*b, a2+a*a, b2+b*b
		}
		angle := math.Acos(max(-1, min(1, dot/math.Sqrt(a2*b2)))) * 180 / math.Pi
		if tol.DegAxis != nil {
			assert.LessOrEqual(t, min(angle, 180-angle), *tol.DegAxis, key)
			return
		}
		assert.LessOrEqual(t, angle, *tol.Deg, key)
		return
	}
	w, okW := want.(float64)
	g, okG := got.(float64)
	if !okW || !okG {
		assert.Equal(t, want, got, key)
		return
	}
	assert.LessOrEqual(t, math.Abs(g-w), tol.Abs+tol.Rel*math.Abs(w), "%s: want %v, got %v", key, w, g)
}
