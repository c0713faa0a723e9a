package colour

import (
	"encoding/json"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
)

type triple = [3]float64

func lab(v triple) Lab { return Lab{v[0], v[1], v[2]} }

// The handbook's cases that need no spectrum.
func TestTheHandbookCasesHold(t *testing.T) {
	raw, err := os.ReadFile("testdata/colour.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID      string
			Request struct {
				Op         string
				Lab        triple
				Lab1, Lab2 triple
				SRGB       triple
				Labs       []triple
			}
			Expect struct {
				Equal map[string]struct {
					Value json.RawMessage
					Tol   float64
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 14)
	compared := 0
	for _, c := range file.Cases {
		got := map[string]any{}
		switch q := c.Request; q.Op {
		case "colour":
			p := lab(q.Lab)
			rgb, ok := p.SRGB()
			ita, class, valid := p.ITA()
			h := math.Atan2(p.B, p.A) * 180 / math.Pi
			got = map[string]any{"srgb": rgb, "srgb_in_gamut": ok, "ita": ita, "ita_class": class, "ita_valid": valid, "lch_D65": triple{p.L, math.Hypot(p.A, p.B), math.Mod(h+360, 360)}}
		case "de00":
			got["de00"] = DE00(lab(q.Lab1), lab(q.Lab2))
		case "srgb_to_lab":
			p := FromSRGB(q.SRGB[0], q.SRGB[1], q.SRGB[2])
			got["lab_D65"] = triple{p.L, p.A, p.B}
		case "readings":
			var labs []Lab
			for _, v := range q.Labs {
				labs = append(labs, lab(v))
			}
			r, err := Readings(labs)
			require.NoError(t, err)
			got = map[string]any{"kept": r.Kept, "rejected": r.Rejected, "mean_lab": triple{r.Mean.L, r.Mean.A, r.Mean.B}, "sd_lab": triple{r.SD.L, r.SD.A, r.SD.B}, "mcdm": r.MCDM, "max_de00": r.Max, "cut": r.Cut, "uncertain": r.Uncertain}
		}
		for path, want := range c.Expect.Equal {
			value, ok := got[path]
			if !ok {
				continue // of a spectrum
			}
			compared++
			var a, b any
			mine, err := json.Marshal(value)
			require.NoError(t, err)
			require.NoError(t, json.Unmarshal(mine, &a))
			require.NoError(t, json.Unmarshal(want.Value, &b))
			same(t, c.ID+" "+path, b, a, want.Tol)
		}
	}
	assert.Greater(t, compared, 20)
}

func same(t *testing.T, what string, want, got any, tol float64) {
	switch w := want.(type) {
	case float64:
		assert.InDelta(t, w, got, tol+1e-12, what)
	case []any:
		require.Len(t, got, len(w), what)
		for i := range w {
			same(t, what, w[i], got.([]any)[i], tol)
		}
	default:
		assert.Equal(t, want, got, what)
	}
}

func TestKnownColours(t *testing.T) {
	for _, c := range []struct {
		lab Lab
		rgb [3]int
	}{
		{Lab{100, 0, 0}, [3]int{255, 255, 255}}, {Lab{0, 0, 0}, [3]int{0, 0, 0}},
		{Lab{53.2408, 80.0925, 67.2032}, [3]int{255, 0, 0}},   // sRGB red, published Lab
		{Lab{87.7347, -86.1827, 83.1793}, [3]int{0, 255, 0}},  // sRGB green
		{Lab{32.2970, 79.1875, -107.8602}, [3]int{0, 0, 255}}, // sRGB blue
	} {
		got := FromSRGB(float64(c.rgb[0]), float64(c.rgb[1]), float64(c.rgb[2]))
		assert.Less(t, DE00(c.lab, got), 0.02, "%v", c.rgb)
	}
}

func TestThereAndBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		code := rapid.IntRange(0, 255)
		rgb := [3]int{code.Draw(t, "r"), code.Draw(t, "g"), code.Draw(t, "b")}
		back, ok := FromSRGB(float64(rgb[0]), float64(rgb[1]), float64(rgb[2])).SRGB()
		assert.Equal(t, rgb, back)
		_ = ok // on the gamut's faces rounding may say no; the colour is the same
	})
}

func TestDifferenceIsADistance(t *testing.T) {
	draw := func(t *rapid.T, name string) Lab {
		return Lab{rapid.Float64Range(0, 100).Draw(t, name+" L"), rapid.Float64Range(-80, 80).Draw(t, name+" a"), rapid.Float64Range(-80, 80).Draw(t, name+" b")}
	}
	rapid.Check(t, func(t *rapid.T) {
		p, q := draw(t, "p"), draw(t, "q")
		assert.Zero(t, DE00(p, p))
		assert.InDelta(t, DE00(p, q), DE00(q, p), 1e-9)
		assert.False(t, math.IsNaN(DE00(p, q)))
	})
}

func TestReadingsThatCannotBe(t *testing.T) {
	for code, labs := range map[string][]Lab{"E_READINGS": nil, "E_RANGE": {{L: 120}}, "E_NOT_FINITE": {{L: math.NaN()}}} {
		_, err := Readings(labs)
		var no *refusal.Error
		require.ErrorAs(t, err, &no)
		assert.Equal(t, code, no.Code)
	}
	one, err := Readings([]Lab{{50, 10, 12}})
	require.NoError(t, err)
	assert.True(t, one.Uncertain, "one reading is a guess")
	two, err := Readings([]Lab{{50, 10, 12}, {80, 0, 0}})
	require.NoError(t, err)
	assert.Empty(t, two.Rejected, "of two nobody knows which is off")
	assert.True(t, two.Uncertain)
}
