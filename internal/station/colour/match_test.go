package colour_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	craft "yewmoor/internal/craft/colour"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/colour"
)

// A body is matched to what was read of its wearer, at its own thickness and over their
// skin; without a reading, or of what the library does not know, nothing is made up.
func TestABodyIsMatchedToItsWearer(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	at := "/api/pieces/" + code + "/match"
	assert.Equal(t, "no_reading", b.As["pip"].No("GET", at, nil).Code)
	read := func(region string, l, a, bb float64) {
		b.As["ivo"].Yes("POST", fmt.Sprintf("/api/performers/%d/skin", b.Wearer(code)),
			m{"region": region, "side": "", "source": "lab", "lab": m{"l": l, "a": a, "b": bb}}, nil)
	}
	for i := range 3 {
		read("forehead", 61+0.1*float64(i), 10.2, 17.9)
		read("nose", 57, 14, 17)
	}
	var room colour.Room
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/colour-target",
		m{"kind": "skin", "region": "forehead", "tan_steps": 0, "version": 0}, &room)
	assert.Len(t, room.Skins, 2)
	var v colour.Matched
	b.As["pip"].Yes("GET", at+"?batch_g=400", nil, &v)
	assert.Equal(t, "silicone", v.Base)
	assert.Equal(t, "forehead", v.Aim.Region)
	assert.Equal(t, 3, v.Aim.Readings)
	assert.Greater(t, v.CentreMM, v.EdgeMM)
	require.NotEmpty(t, v.Proposals)
	last := -1.0
	for _, p := range v.Proposals {
		j := p.Lights[0].DE00 + 0.25/3*(p.Lights[1].DE00+p.Lights[2].DE00+p.Lights[3].DE00) + 0.05*float64(len(p.Parts))
		assert.InDelta(t, j, p.Score, 1e-9)
		assert.GreaterOrEqual(t, j, last-1e-9, "the best first")
		last = j
		assert.NotEmpty(t, p.Merit)
		assert.GreaterOrEqual(t, p.Opacity, v.Opacity-0.003)
		load := 0.0
		for _, x := range p.Parts {
			load += x.Per100
			assert.InDelta(t, x.Per100*400/100, x.Grams, 0.021, "as it can be weighed")
			assert.InDelta(t, math.Round(x.Grams*100), x.Grams*100, 1e-6)
		}
		assert.InDelta(t, load, p.Load, 1e-9)
		for _, l := range p.Lights {
			assert.Equal(t, l.DE00 > v.Aim.Allowed, l.Fails)
		}
	}
	best := v.Proposals[0]
	assert.Less(t, best.Lights[0].DE00, 1.0)
	assert.InDelta(t, best.Lights[0].DE00, craft.DE00(v.Aim.Lab, best.Centre), 0.05, "what is shown is what is told")
	assert.Equal(t, "region", b.As["ivo"].No("PUT", "/api/pieces/"+code+"/colour-target",
		m{"kind": "skin", "region": "palm", "tan_steps": 0, "version": 1}).Field)
	assert.NotEmpty(t, b.As["pip"].No("GET", at+"?batch_g=0", nil).Field)
}

// Every family that the library has a base for is matched; what lies over another body has
// to hide it; of what it has none for, nothing is made up.
func TestEveryFamilyIsMatched(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	for i, c := range []struct{ method, base, over string }{{"foam_latex", "foam", ""}, {"gelatin_animal", "gelatin", ""},
		{"latex_slush", "latex", ""},
		{"latex_paste", "latex", ""}, {"wax", "wax", ""}, {"silicone_over_foam", "silicone", "foam"}} {
		code := b.By(c.method, fmt.Sprintf("N%c", 'A'+i), "cheek", 5)
		b.As["ivo"].Yes("POST", fmt.Sprintf("/api/performers/%d/skin", b.Wearer(code)),
			m{"region": "cheek", "side": "", "source": "lab", "lab": m{"l": 60, "a": 11, "b": 17}}, nil)
		var v colour.Matched
		b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match", nil, &v)
		assert.Equal(t, c.base, v.Base, c.method)
		assert.NotEmpty(t, v.Proposals, c.method)
		assert.Equal(t, c.over != "", v.Over != "", c.method)
		if c.over != "" {
			assert.InDelta(t, 0.95, v.Opacity, 1e-9)
		}
	}
}
