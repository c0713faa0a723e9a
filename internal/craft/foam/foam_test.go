package foam

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What a hollow takes is what is left of the solids when the water has gone: a second
// way to the same mass.
func TestTheSolidsOfTheLiquidAreTheFoam(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := Rise{VolumeRise: rapid.Float64Range(2, 10).Draw(t, "rise"), MixKg: 1, Solids: rapid.Float64Range(0.4, 0.75).Draw(t, "solids"), Shrink: rapid.Float64Range(0, 0.2).Draw(t, "shrink"), Overfill: 1, CavityM3: 0.001}
		d := Of(r)
		shrunk := r.CavityM3 * (1 - r.Shrink) * (1 - r.Shrink) * (1 - r.Shrink)
		assert.InEpsilon(t, d.NeededKg*r.Solids, d.Dry*shrunk, 1e-9)
		assert.InEpsilon(t, d.FoamM3, d.Fills*r.CavityM3, 1e-9)
	})
}

// Batches that were seen narrow the band and pull the guess towards them.
func TestBatchesOfBeforeTellTheNext(t *testing.T) {
	now := Gelled{RoomC: 21, RH: 0.5, Dose: 1}
	first, err := When(now, nil)
	require.NoError(t, err)
	var seen []Gelled
	for range 5 {
		seen = append(seen, Gelled{RoomC: 21, RH: 0.5, Dose: 1, GelS: 400})
	}
	then, err := When(now, seen)
	require.NoError(t, err)
	assert.InDelta(t, 400, then.GelS, 25)
	assert.Less(t, then.HighS/then.LowS, first.HighS/first.LowS)
	assert.Equal(t, 5, then.References)
	warm, err := When(Gelled{RoomC: 26, RH: 0.5, Dose: 1}, seen)
	require.NoError(t, err)
	assert.Less(t, warm.GelS, then.GelS)
}
