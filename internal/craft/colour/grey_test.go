package colour_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/colour"
)

// A card of greys under a warm lamp, its code values rounded as a camera rounds them: gains
// put a colour right that the card does not have; a matrix fitted to the rounding would not.
func TestACardOfGreysIsPutRightByGains(t *testing.T) {
	gain := [3]float64{1, 0.9, 0.7}
	var patches []colour.Patch
	for _, g := range []float64{52, 85, 118, 160, 200} {
		p := colour.Patch{Is: [3]float64{g, g, g}}
		for c := range 3 {
			lin := colour.Decode(g) * gain[c]
			p.Seen[c] = float64(int(255*(1.055*math.Pow(lin, 1/2.4)-0.055) + 0.5))
		}
		patches = append(patches, p)
	}
	k, err := colour.CardOf(patches, "auto")
	require.NoError(t, err)
	assert.Equal(t, "gain", k.Model)
	for c := range 3 {
		assert.InDelta(t, 1/gain[c], k.Matrix[c][c], 0.02)
	}
	// A red that lies far off the greys.
	is := [3]float64{colour.Decode(170), colour.Decode(70), colour.Decode(60)}
	got := k.Linear([3]float64{is[0] * gain[0], is[1] * gain[1], is[2] * gain[2]})
	assert.Less(t, colour.DE00(colour.FromLinear(got), colour.FromLinear(is)), 1.0)
}
