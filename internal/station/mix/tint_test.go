package mix_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"
)

// acting does something inside an act of the fabricator.
func acting(b *shoptest.Bench, do func(tx database.Tx) error) error {
	return b.S.DB.InTx(b.Who["ivo"], do)
}

// A coloured body is so much base as it is weighed, whatever its recipe is: the pigments are
// counted of all of it, what the section stirs in comes in, and a house recipe's own colour
// makes way.
func TestATintIsCountedOfTheBaseAsItIsWeighed(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	for _, c := range []struct {
		method, material, pigment, gone string
		base                            int // lines of base
	}{{"silicone_encapsulated", "silicone-gel", "pigment-red", "", 3}, {"latex_slush", "latex-slush", "pigment-water-red", "pigment-latex-flesh", 1}, {"wax", "wax-soft", "pigment-wax-red", "", 4}} {
		t.Run(c.method, func(t *testing.T) {
			code := b.By(c.method, "T"+c.material[:1], "cheek", 5)
			p, err := piece.Find(t.Context(), b.S.DB, code)
			require.NoError(t, err)
			doc, _, _, err := piece.AgreedSection(t.Context(), b.S.DB, p)
			require.NoError(t, err)
			layer := ""
			for _, l := range doc.Layers {
				if l.Material == c.material {
					layer = l.ID
				}
			}
			require.NotEmpty(t, layer)
			var x string
			require.NoError(t, acting(b, func(tx database.Tx) error {
				x, err = b.S.Mix.Tinted(b.Who["ivo"], tx, mix.Tint{Piece: code, Layer: layer, Material: c.material, BaseG: 200, Pigments: []mix.TintPart{{Material: c.pigment, Per100G: 0.5}}})
				return err
			}))
			var v mix.View
			b.As["ivo"].Yes("GET", "/api/mixes/"+x, nil, &v)
			base, colour, lines := 0.0, 0.0, 0
			for _, l := range v.Lines {
				assert.NotEqual(t, c.gone, l.Material)
				if l.Material == c.pigment {
					colour += l.PlannedG
				} else {
					base += l.PlannedG
					lines++
				}
			}
			assert.Equal(t, c.base, lines)
			assert.InDelta(t, 200, base, 0.05)
			assert.InDelta(t, 1.0, colour, 0.011)
		})
	}
}

// More comes into a finished cup only: from a lot that may be taken, asked about like the
// sheet, and weighed like the sheet's lines; the cup is not ready until it is in.
func TestMoreComesIntoACup(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	v := b.Weighed(code)
	more := func(slug string, g float64) *problem.Problem {
		err := acting(b, func(tx database.Tx) error {
			return b.S.Mix.PutInto(b.Who["ivo"], tx, v.Code, []mix.Weighed{{Material: slug, Grams: g}}, "colour put right")
		})
		if err == nil {
			return nil
		}
		p, is := problem.From(err).(*problem.Problem)
		require.True(t, is, "%v", err)
		return p
	}
	require.NotNil(t, more("softener", 1), "it is not finished")
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.IsIn(&v)
	}
	assert.Equal(t, "short", more("softener", 1e6).Code)
	before := len(v.Lines)
	require.Nil(t, more("softener", 2))
	b.As["ivo"].Yes("GET", "/api/mixes/"+v.Code, nil, &v)
	require.Len(t, v.Lines, before+1)
	assert.False(t, v.Ready)
	last := v.Lines[before]
	assert.Equal(t, []any{last.Seq, true}, []any{v.Current, last.TopUp})
	assert.InDelta(t, 2, last.AddG, 1e-9)
	had := b.OnHand("S-1", "")
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": v.Current, "key": shoptest.Key(), "typed": "2 g"}, &v)
	assert.True(t, v.Ready)
	assert.InDelta(t, had-2, b.OnHand("S-1", ""), 1e-6)
	// The ratio of the parts is what it was.
	for i, l := range v.Lines[:before] {
		assert.InDelta(t, l.TargetG, l.InCupG, l.TolG+1e-6, "line %d", i+1)
	}

	cup, err := b.S.Mix.InCupOf(t.Context(), b.S.DB, v.Code)
	require.NoError(t, err)
	assert.True(t, cup.Done)
	assert.False(t, cup.Ended)
	total := 0.0
	for _, l := range v.Lines {
		total += l.InCupG
	}
	assert.InDelta(t, total, cup.BaseG, 1e-6, "softener is base, no colour")
}
