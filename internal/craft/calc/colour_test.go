package calc

import (
	"encoding/json"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every reference case of the colour chapter: figures within their tolerance, refusals by
// their code, and recipes judged by working them out again.
func TestTheColourCasesHold(t *testing.T) {
	raw, err := os.ReadFile("testdata/colour.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID      string
			Request json.RawMessage
			Expect  struct {
				Equal map[string]struct {
					Value any
					Tol   float64
					RTol  float64
				}
				Error      string
				Match      *bestKnown
				Correction *bestKnown
			}
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 58)
	for _, c := range file.Cases {
		t.Run(c.ID, func(t *testing.T) {
			got := plain(t, Answer(t.Context(), nil, "colour", c.Request))
			if c.Expect.Error != "" {
				assert.Equal(t, c.Expect.Error, got.(map[string]any)["error"], "%v", got)
				return
			}
			require.NotContains(t, got, "error", "%v", got)
			for path, want := range c.Expect.Equal {
				near(t, path, want.Value, at(got, path), want.Tol, want.RTol)
			}
			if c.Expect.Match != nil {
				c.Expect.Match.holds(t, c.Request, got.(map[string]any))
			}
			if c.Expect.Correction != nil {
				c.Expect.Correction.corrects(t, got.(map[string]any))
			}
		})
	}
}

// bestKnown is what a long search found.
type bestKnown struct {
	Score     float64 `json:"best_score"`
	Tol       float64
	Least     int     `json:"min_alternatives"`
	MaxD65    float64 `json:"max_de00_D65"`
	Before    float64 `json:"before_D65"`
	BeforeTol float64 `json:"before_tol"`
	Verdict   string
}

func (b *bestKnown) holds(t *testing.T, request json.RawMessage, got map[string]any) {
	list := got["alternatives"].([]any)
	assert.GreaterOrEqual(t, len(list), b.Least)
	last := -1.0
	for i, alt := range list {
		a := alt.(map[string]any)
		assert.GreaterOrEqual(t, a["score"].(float64), last, "the best first")
		last = a["score"].(float64)
		if i > 0 {
			continue
		}
		// Worked out again from its recipe.
		var ask map[string]any
		require.NoError(t, json.Unmarshal(request, &ask))
		ask["op"], ask["recipe"] = "evaluate", a["recipe"]
		again := plain(t, Answer(t.Context(), nil, "colour", must(t, ask))).(map[string]any)
		assert.InDelta(t, a["score"].(float64), again["score"].(float64), 1e-9)
		assert.LessOrEqual(t, again["score"].(float64), b.Score+b.Tol)
		assert.LessOrEqual(t, again["de00"].(map[string]any)["D65"].(float64), b.MaxD65)
		if least, asked := ask["opacity_min"].(float64); asked {
			assert.GreaterOrEqual(t, again["contrast_ratio"].(float64), least-0.002)
		}
	}
}

func (b *bestKnown) corrects(t *testing.T, got map[string]any) {
	tol := b.BeforeTol
	if tol == 0 {
		tol = 1e-4
	}
	assert.InDelta(t, b.Before, got["before"].(map[string]any)["de00"].(map[string]any)["D65"].(float64), tol)
	assert.LessOrEqual(t, got["score"].(float64), b.Score+b.Tol)
	assert.Equal(t, b.Verdict, got["verdict"])
}

// at is what stands at a dotted path.
func at(v any, path string) any {
	for _, part := range strings.Split(path, ".") {
		switch x := v.(type) {
		case map[string]any:
			v = x[part]
		case []any:
			i, err := strconv.Atoi(part)
			if err != nil || i >= len(x) {
				return nil
			}
			v = x[i]
		default:
			return nil
		}
	}
	return v
}

// near holds figures and lists to a tolerance, words to themselves.
func near(t *testing.T, path string, want, got any, tol, rtol float64) {
	t.Helper()
	switch w := want.(type) {
	case float64:
		g, ok := got.(float64)
		require.True(t, ok, "%s is %v", path, got)
		assert.InDelta(t, w, g, tol+rtol*max(w, -w), path)
	case []any:
		g, ok := got.([]any)
		require.True(t, ok, "%s is %v", path, got)
		require.Len(t, g, len(w), path)
		for i := range w {
			near(t, path+"."+strconv.Itoa(i), w[i], g[i], tol, rtol)
		}
	default:
		assert.Equal(t, want, got, path)
	}
}
