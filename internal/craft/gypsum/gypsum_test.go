package gypsum

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
)

// What goes in as powder and water is the wet piece; what leaves is the rest.
func TestWaterIsKeptCountOf(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := Batch{VolumeM3: rapid.Float64Range(1e-5, 0.5).Draw(t, "volume"), Consistency: rapid.Float64Range(0.2, 1.2).Draw(t, "water"), Waste: rapid.Float64Range(0, 0.5).Draw(t, "waste"), PowderRho: 2630, Purity: rapid.Float64Range(0.6, 1).Draw(t, "purity")}
		m, err := Mixed(b)
		require.NoError(t, err)
		assert.InEpsilon(t, (m.PowderKG+m.WaterKG)/(1+b.Waste), m.PieceWetKG, 1e-9)
		assert.InEpsilon(t, m.PieceWetKG-m.FreeWaterKG, m.PieceDryKG, 1e-9)
		assert.Less(t, m.Porosity, 1.0)
	})
}

// A curve that was drawn from the law is found again, and the dry date with it.
func TestADrawnCurveIsFoundAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		dry := rapid.Float64Range(0.5, 30).Draw(t, "dry")
		wet := dry * rapid.Float64Range(0.08, 0.5).Draw(t, "water")
		tau := rapid.Float64Range(0.4, 8).Draw(t, "tau") * day
		var w []Weighing
		for i := range 7 {
			at := float64(i) * tau / 2
			w = append(w, Weighing{at, dry + wet*math.Exp(-at/tau)})
		}
		c, err := Dry(w, 0, 0.001)
		require.NoError(t, err)
		assert.InEpsilon(t, dry, c.InfKG, 0.002)
		assert.InEpsilon(t, tau, c.TauS, 0.02)
		// Dry is when both hold: within 1 % of the end, and under 0.1 % a day.
		at := c.DryAtS
		assert.LessOrEqual(t, (c.At(at)-c.InfKG)/c.InfKG, dryShare*1.0001)
		assert.LessOrEqual(t, (c.At(at)-c.At(at+1))*day/c.At(at), dryRate*1.001)
		assert.LessOrEqual(t, c.LowAtS, at)
		assert.GreaterOrEqual(t, c.HighAtS, at)
	})
}

func TestMoreWeighingsNarrowTheDate(t *testing.T) {
	var w []Weighing
	width := math.Inf(1)
	for i := range 9 {
		at := float64(i) * 0.7 * day
		w = append(w, Weighing{at, 5 + 1.4*math.Exp(-at/(3*day))})
		if len(w) < 4 {
			continue
		}
		c, err := Dry(w, 5, 0.002)
		require.NoError(t, err)
		assert.Less(t, c.HighAtS-c.LowAtS, width*1.05)
		width = c.HighAtS - c.LowAtS
	}
}

func TestWeighingsThatSayNothing(t *testing.T) {
	code := func(err error) string {
		var r *refusal.Error
		require.ErrorAs(t, err, &r)
		return r.Code
	}
	for why, c := range map[string]struct {
		w    []Weighing
		dry  float64
		code string
	}{
		"one":                  {[]Weighing{{0, 5}}, 4, NotEnough},
		"two, no dry mass":     {[]Weighing{{0, 5}, {day, 4.9}}, 0, NotEnough},
		"heavier":              {[]Weighing{{0, 5}, {day, 5.2}, {2 * day, 5.1}}, 0, NotDrying},
		"a dry mass too large": {[]Weighing{{0, 5}, {day, 4.9}, {2 * day, 4.8}}, 6, refusal.Contradiction},
	} {
		_, err := Dry(c.w, c.dry, 0.001)
		assert.Equal(t, c.code, code(err), why)
	}
	c, err := Dry([]Weighing{{0, 5}, {day, 4.9}}, 4.4, 0.001)
	require.NoError(t, err, "two do with the dry mass")
	assert.Equal(t, "drying", c.State)
}

func TestDryIsSaidWhenItIs(t *testing.T) {
	var w []Weighing
	for i := range 12 {
		at := float64(i) * day
		w = append(w, Weighing{at, 4 + 0.9*math.Exp(-at/(1.2*day))})
	}
	c, err := Dry(w, 0, 0.001)
	require.NoError(t, err)
	assert.Equal(t, "dry", c.State)
	assert.Less(t, c.Rate, dryRate)
}

// Warm water quickens to 37 °C and slows beyond; a thick wall in wet air cracks
// first.
func TestSettingAndOpening(t *testing.T) {
	last := math.Inf(1)
	for _, c := range []float64{5, 12, 20, 28, 37} {
		s := Setting(c, 1, 1, 780, 1680)
		assert.Less(t, s.InitialS, last)
		last = s.InitialS
	}
	assert.Greater(t, Setting(50, 1, 1, 780, 1680).InitialS, last)
	assert.Contains(t, Setting(50, 1, 1, 780, 1680).Warnings, "hot_water")
	assert.Equal(t, 1.0, Setting(20, 1, 1, 780, 1680).Factor)

	rapid.Check(t, func(t *rapid.T) {
		wall := rapid.Float64Range(0.005, 0.1).Draw(t, "wall")
		h := rapid.Float64Range(5, 200).Draw(t, "h")
		assert.Less(t, Open("plaster", wall*1.2, 21, h, 3.5).Allowed, Open("plaster", wall, 21, h, 3.5).Allowed)
		assert.Less(t, Open("plaster", wall, 21, h*1.2, 3.5).Allowed, Open("plaster", wall, 21, h, 3.5).Allowed)
	})
}
