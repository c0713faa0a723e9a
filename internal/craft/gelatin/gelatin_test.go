package gelatin

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var base = Recipe{Gelatin: 0.1, Glycerin: 0.2, Sorbitol: 0.14, Water: 0.12}

// The handbook's case gelatin-cooling: what the closed form gives of it.
func TestMeltingAndTheQuickDemould(t *testing.T) {
	assert.InDelta(t, 45.7448, base.MeltC(), 0.05)
	s, ok := base.DemouldS(0.008, 60, 21)
	require.True(t, ok)
	assert.InEpsilon(t, 4803.75, s, 0.005)
	_, ok = base.DemouldS(0.008, 60, 30)
	assert.False(t, ok, "in a room this warm it never comes out")
	_, ok = base.DemouldS(0.008, 40, 21)
	assert.False(t, ok, "it is not melted at 40 °C")
}

func TestHeatSweatAndHoursOnlyEverSoften(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := AsWorn(rapid.Float64Range(-5, 40).Draw(t, "air"))
		was := base.Softening(w)
		more := w
		switch rapid.IntRange(0, 2).Draw(t, "what") {
		case 0:
			more.AirC += rapid.Float64Range(0, 10).Draw(t, "warmer")
		case 1:
			more.Hours += rapid.Float64Range(0, 10).Draw(t, "longer")
		default:
			more.SweatKgM2H += rapid.Float64Range(0, 1).Draw(t, "wetter")
		}
		assert.LessOrEqual(t, base.Softening(more).MarginK, was.MarginK+1e-9)
	})
}

func TestABaseThatCannotBe(t *testing.T) {
	assert.NoError(t, base.Check("recipe"))
	assert.Error(t, Recipe{Gelatin: 1}.Check("recipe"), "no water")
	assert.Error(t, Recipe{Gelatin: 0.01, Water: 1}.Check("recipe"), "too weak to set")
	assert.Error(t, Recipe{}.Check("recipe"))
}
