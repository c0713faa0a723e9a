package material_test

import (
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
)

// The factors are the handbook's table (drying and cure, section 4), between its
// points on a straight line of the logarithm.
func TestWhatIsStirredInMovesEveryTimeOfTheSheet(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	plain := *shelf["silicone-gel"].Cure
	for dose, by := range map[float64]float64{0: 1, 0.005: 0.7, 0.01: 0.5, 0.0075: math.Sqrt(0.7 * 0.5), 0.02: 0.3} {
		moved, err := shelf.CureWith("silicone-gel", map[string]float64{"silicone-gel": 1 - dose, "silicone-fast": dose})
		require.NoError(t, err)
		assert.InEpsilon(t, plain.PotS*by, moved.PotS, 1e-9, "%g", dose)
		assert.InEpsilon(t, plain.DemouldS*by, moved.DemouldS, 1e-9, "%g", dose)
	}
	slow, err := shelf.CureWith("silicone-gel", map[string]float64{"silicone-slow": 0.01})
	require.NoError(t, err)
	assert.InEpsilon(t, plain.DemouldS*2.3, slow.DemouldS, 1e-9)
	both, err := shelf.CureWith("silicone-gel", map[string]float64{"silicone-slow": 0.005, "silicone-fast": 0.005, "softener": 0.4})
	require.NoError(t, err)
	assert.InEpsilon(t, plain.DemouldS*1.6*0.7, both.DemouldS, 1e-9, "softener moves nothing")
	assert.Equal(t, plain, *shelf["silicone-gel"].Cure, "the shelf keeps its own sheet")
}

func TestMoreThanIsKnownOfAnAcceleratorIsRefused(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	most, err := shelf.CureWith("silicone-gel", map[string]float64{"silicone-fast": 0.03})
	var no *refusal.Error
	require.True(t, errors.As(err, &no))
	assert.Equal(t, refusal.OutOfRange, no.Code)
	assert.InEpsilon(t, shelf["silicone-gel"].Cure.DemouldS*0.3, most.DemouldS, 1e-9,
		"what is in the cup all the same runs at the most that is known")

	_, err = shelf.CureWith("mould-silicone-tin", map[string]float64{"silicone-slow": 0.01})
	require.True(t, errors.As(err, &no))
	assert.Equal(t, refusal.UnknownValue, no.Code, "tin cure has no retarder")

	// Of 100:5 a third as much of the quick catalyst beside the slow one.
	tin, err := shelf.CureWith("mould-silicone-tin", map[string]float64{"silicone-fast": 5.0 / 105 / 3})
	require.NoError(t, err)
	assert.InEpsilon(t, shelf["mould-silicone-tin"].Cure.DemouldS*0.6, tin.DemouldS, 1e-9, "a share of a quarter of the catalyst")

	none, err := shelf.CureWith("latex", map[string]float64{"silicone-fast": 0.01})
	assert.NoError(t, err)
	assert.Nil(t, none)
}
