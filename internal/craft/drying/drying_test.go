package drying

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestVapourPressureMatchesPublishedValues(t *testing.T) {
	// Steam tables: 2.339 kPa at 20 °C, 12.35 kPa at 50 °C; one atmosphere at the boiling point.
	assert.InDelta(t, 2339, SaturationPressure(20), 3)
	assert.InDelta(t, 12352, SaturationPressure(50), 15)
	assert.InDelta(t, 101325, SaturationPressure(100), 101)
	slope := (SaturationPressure(20.001) - SaturationPressure(19.999)) / 0.002
	assert.InDelta(t, slope, saturationSlope(20), 1e-3)
}

func TestThickerDriesLaterAndStagesComeInOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := StillRoom(rapid.Float64Range(15, 30).Draw(t, "room"), rapid.Float64Range(0.2, 0.6).Draw(t, "rh"))
		thin := rapid.Float64Range(5e-5, 1e-3).Draw(t, "wet")
		a, err := p.Latex([]Layer{{WetM: thin, Solids: 0.6, FibreUptake: 8}}, EachDried)
		require.NoError(t, err)
		b, err := p.Latex([]Layer{{WetM: thin * 1.5, Solids: 0.6, FibreUptake: 8}}, EachDried)
		require.NoError(t, err)
		assert.Less(t, a.DryS, b.DryS)
		assert.True(t, a.TouchS < a.RecoatS && a.RecoatS < a.DryS)
	})
}

func TestStackingWetCostsTime(t *testing.T) {
	stack := make([]Layer, 6)
	for i := range stack {
		stack[i] = Layer{WetM: 2e-4, Solids: 0.6, FibreUptake: 8}
	}
	p := StillRoom(21, 0.5)
	dried, err := p.Latex(stack, EachDried)
	require.NoError(t, err)
	wet, err := p.Latex(stack, WetOnWet)
	require.NoError(t, err)
	// Handbook 11: 5.4 h each dried, 15 h wet on wet, closed form within 20 %.
	assert.InDelta(t, 5.4*3600, dried.DryS, 0.2*5.4*3600)
	assert.InDelta(t, 15*3600, wet.DryS, 0.2*15*3600)
}

func TestLayersHoldTheirMass(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := Layer{WetM: rapid.Float64Range(2e-5, 8e-3).Draw(t, "wet"), Solids: rapid.Float64Range(0.3, 0.7).Draw(t, "solids"),
			FillerRatio: rapid.Float64Range(0, 1.5).Draw(t, "filler"), FibreKgM2: rapid.Float64Range(0, 0.2).Draw(t, "fibre"), FibreUptake: 8}
		f := l.hold()
		s, r := l.Solids, l.FillerRatio
		volume := s/rhoRubber + (1-s)/rhoWater
		rho := (1 + r) / (volume + r*(1-moistureFiller)/rhoFiller + r*moistureFiller/rhoWater)
		assert.InDelta(t, l.WetM*rho+(1+l.FibreUptake)*l.FibreKgM2, f.solids+f.water, 1e-9, "what is put on is solids and water")
		assert.Greater(t, f.dry, 0.0)
	})
}
