package texture

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/refusal"
)

// refusedOrRight makes a region and checks that it is refused in words, or that
// its area is the one that counting pixels gives.
func refusedOrRight(t *testing.T, r Region) {
	f, err := r.Lay()
	var no *refusal.Error
	if err != nil {
		require.True(t, errors.As(err, &no), "%v", err)
		require.NotEmpty(t, no.Detail)
		require.Contains(t, []string{BadRegion, BadNumber, UnknownPreset}, no.Code)
		return
	}
	w, h := f.Size()
	pitch := math.Max(w, h) / 200
	field, err := newField(f, pitch)
	require.NoError(t, err)
	require.NoError(t, field.fillMask(context.Background(), &f.shape, nil))
	n := 0
	for _, in := range field.In {
		if in {
			n++
		}
	}
	// A pixel's worth along the whole rim may fall either way.
	require.InDelta(t, f.Area(), float64(n)*pitch*pitch, f.Perimeter()*pitch*0.75+4*pitch*pitch)
}

func points(raw []byte) []P {
	var out []P
	for i := 0; i+3 < len(raw) && len(out) < 60; i += 4 {
		x, y := int16(binary.LittleEndian.Uint16(raw[i:])), int16(binary.LittleEndian.Uint16(raw[i+2:]))
		out = append(out, P{float64(x) / 64, float64(y) / 64})
	}
	return out
}

func FuzzRegion(f *testing.F) {
	f.Add([]byte{0, 0, 0, 0, 255, 10, 0, 0, 255, 10, 255, 10, 0, 0, 255, 10}, []byte{}, 1.0)
	f.Add([]byte("a wobbly outline of a cheek"), []byte("and a hole in it"), 1e-9)
	f.Add([]byte{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, []byte{4, 0, 4, 0, 8, 0, 4, 0, 6, 0, 9, 0}, math.NaN())
	f.Add([]byte("another one that is huge"), []byte{}, 1e300)
	f.Fuzz(func(t *testing.T, outline, hole []byte, scale float64) {
		r := Region{Polygon: points(outline)}
		for i := range r.Polygon {
			r.Polygon[i][0] *= scale
			r.Polygon[i][1] *= scale
		}
		if len(hole) >= 12 {
			h := points(hole)
			for i := range h {
				h[i][0] *= scale
				h[i][1] *= scale
			}
			r.Holes = [][]P{h}
		}
		refusedOrRight(t, r)
	})
}

func TestOddRegionsAreRefusedInWords(t *testing.T) {
	square := []P{{0, 0}, {10, 0}, {10, 10}, {0, 10}}
	for name, c := range map[string]struct {
		r    Region
		code string
	}{
		"crossing itself":  {Region{Polygon: []P{{0, 0}, {10, 10}, {10, 0}, {0, 10}}}, BadRegion},
		"back on itself":   {Region{Polygon: []P{{0, 0}, {10, 0}, {5, 0}, {5, 8}}}, BadRegion},
		"touching itself":  {Region{Polygon: []P{{0, 0}, {10, 0}, {10, 10}, {5, 0}, {0, 10}}}, BadRegion},
		"not a number":     {Region{Polygon: []P{{0, 0}, {math.NaN(), 0}, {5, 8}}}, BadNumber},
		"endless":          {Region{Polygon: []P{{0, 0}, {math.Inf(1), 0}, {5, 8}}}, BadNumber},
		"huge":             {Region{Polygon: []P{{0, 0}, {1e5, 0}, {5, 8}}}, BadRegion},
		"tiny":             {Region{Polygon: []P{{0, 0}, {1e-5, 0}, {0, 1e-5}}}, BadRegion},
		"hole outside":     {Region{Polygon: square, Holes: [][]P{{{20, 20}, {22, 20}, {22, 22}}}}, BadRegion},
		"hole crossing":    {Region{Polygon: square, Holes: [][]P{{{5, 5}, {15, 5}, {5, 7}}}}, BadRegion},
		"hole, two points": {Region{Polygon: square, Holes: [][]P{{{5, 5}, {6, 5}}}}, BadRegion},
		"odd size":         {Region{Preset: "cheek", Params: map[string]float64{"w": math.Inf(1)}}, BadNumber},
		"flat sleeve":      {Region{Preset: "neck", Params: map[string]float64{"length": 0}}, BadRegion},
		"steep sleeve":     {Region{Preset: "neck", Params: map[string]float64{"g_top": 400, "g_bottom": 10, "length": 20}}, BadRegion},
	} {
		_, err := c.r.Lay()
		var no *refusal.Error
		if assert.ErrorAs(t, err, &no, name) {
			assert.Equal(t, c.code, no.Code, name)
			assert.True(t, strings.HasPrefix(no.Field, "region."), no.Field)
		}
	}
	for _, fine := range []Region{
		{Polygon: append(square, P{0, 0})},                                   // closed by hand
		{Polygon: []P{{0, 0}, {0, 0}, {10, 0}, {10, 10}, {10, 10}, {0, 10}}}, // doubled points
		{Polygon: []P{{0, 10}, {10, 10}, {10, 0}, {0, 0}}},                   // the other way round
	} {
		f, err := fine.Lay()
		require.NoError(t, err)
		assert.InDelta(t, 100, f.Area(), 1e-9)
	}
}

// Whatever is sent as a recipe is refused in words or made.
func FuzzRecipe(f *testing.F) {
	for _, s := range []string{
		`{"seed":1,"region":{"preset":"tile","params":{"w":20,"h":20}},"pitch_mm":0.5,"layers":[{"kind":"scales","stamps":[{"id":"a","od":5,"squash":0.8}],"size":[5,3]}]}`,
		`{"seed":9,"region":{"preset":"nose"},"pitch_mm":0.5,"layers":[{"kind":"wrinkles"}],"guides":[[[0,0],[1,1]],[[0,5],[9,9]]]}`,
		`{"seed":2,"region":{"preset":"chin"},"pitch_mm":1,"layers":[{"kind":"bark","plate":3},{"kind":"rot","diameter":[1,2]},{"kind":"lines","along":[0]}]}`,
		`{"layers":[{"kind":"hatch","families":[{"angle":1e9,"spacing":0,"depth":-1,"width":null}]}]}`,
		`{"seed":3,"region":{"preset":"lip"},"pitch_mm":0.7,"layers":[{"kind":"droplets","spacing":[2,2],"from":7}],"fade":[{"guide":1,"over_mm":2}]}`,
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, raw string) {
		var r Recipe
		if json.Unmarshal([]byte(raw), &r) != nil {
			return
		}
		// What takes long is tried elsewhere; here many recipes are.
		if flat, err := r.Region.Lay(); err == nil {
			if w, h := flat.Size(); len(r.Layers) > 3 || w*h > 4000 {
				return
			}
		}
		for _, l := range r.Layers {
			if or(l.Tries, 20) > 100 || or(l.Spacing, Span{1, 1}).least() < 0.3 {
				return
			}
		}
		s, err := MakeWithin(context.Background(), r, 10_000)
		var no *refusal.Error
		if err != nil {
			require.True(t, errors.As(err, &no), "%v", err)
			return
		}
		j, err := s.Judge(context.Background())
		if err != nil {
			require.True(t, errors.As(err, &no), "%v", err)
			return
		}
		for _, z := range s.Field.Z {
			require.False(t, math.IsNaN(z) || math.IsInf(z, 0))
		}
		_, err = json.Marshal(j)
		require.NoError(t, err, "every figure can be sent")
	})
}

func FuzzOutlineFromSVG(f *testing.F) {
	for _, s := range []string{
		`<svg width="40mm" height="20mm" viewBox="0 0 40 20"><path d="M0 0h40v20H0z"/></svg>`,
		`<svg><g transform="translate(3 4) scale(2)"><circle r="9"/></g></svg>`,
		`<svg viewBox="0 0 9 9"><path d="M1,1 C2 3 4 5 6 7 S8 8 9 9 Q1 2 3 4 T5 6 A3 4 30 1 0 8 2 Z"/></svg>`,
		`<svg><polygon points="0,0 10,0 5,8.5"/>`, `<!DOCTYPE x [<!ENTITY a "b">]><svg>&a;</svg>`,
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, svg string) {
		r, err := OutlineFromSVG(strings.NewReader(svg))
		var no *refusal.Error
		if err != nil {
			require.True(t, errors.As(err, &no), "%v", err)
			return
		}
		_, err = r.Lay()
		require.NoError(t, err)
	})
}
