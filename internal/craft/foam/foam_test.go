package foam

import (
	"testing"
	"yewmoor/internal/craft/refusal"

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

// A hotter oven, thinner walls and a fan are never slower; what goes off too early is not
// cured, and says so; on the bench the mould may be opened sooner.
func TestABakeIsFollowedToItsOpening(t *testing.T) {
	bake := func(change func(*Bake)) Baked {
		b := UsualBake(0.03, 0.03, 0.008)
		change(&b)
		out, err := b.Cure()
		require.NoError(t, err)
		return out
	}
	usual := bake(func(*Bake) {})
	require.NotNil(t, usual.OpenS)
	assert.InDelta(t, 1, usual.IndexOff, 1e-9)
	assert.Greater(t, usual.IndexEnd, usual.IndexOff, "it goes on curing as it cools")
	assert.InDelta(t, *usual.CureS, *usual.OffS, 1e-6)
	for name, change := range map[string]func(*Bake){"hotter": func(b *Bake) { b.OvenC = 100 },
		"thinner": func(b *Bake) { b.WallAM, b.WallBM = 0.02, 0.02 }, "fan": func(b *Bake) { b.H = 22 }} {
		assert.Less(t, *bake(change).CureS, *usual.CureS, name)
	}
	wet := bake(func(b *Bake) { b.Damp = 0.2 })
	assert.Greater(t, *wet.CureS, *usual.CureS)
	assert.Contains(t, wet.Warnings, "wet_mould")
	early := bake(func(b *Bake) { b.OffS = 7200 })
	assert.InDelta(t, 7200, *early.OffS, 1e-6)
	assert.Less(t, early.IndexOff, 1.0)
	assert.Contains(t, early.Warnings, "under_cured")
	assert.Less(t, *bake(func(b *Bake) { b.OnBench = true }).OpenS, *usual.OpenS)
	assert.Contains(t, bake(func(b *Bake) { b.OvenC = 110 }).Warnings, "gypsum_calcines")
	assert.Contains(t, bake(func(b *Bake) { b.OffS = 8 * 3600 }).Warnings, "over_cured")
	b := UsualBake(0.03, 0.03, 0.008)
	b.ReachC = 95
	_, err := b.Cure()
	var no *refusal.Error
	require.ErrorAs(t, err, &no)
	assert.Equal(t, "reach_c", no.Field)
}

// A probe that shows a steady oven tells what the steady oven does, read now or later;
// what it shows decides, not what was set.
func TestABakeFollowsItsProbe(t *testing.T) {
	b := UsualBake(0.03, 0.03, 0.008)
	steady, err := b.Cure()
	require.NoError(t, err)
	minutes := func(n int, c func(s float64) float64) (log [][2]float64) {
		for i := range n + 1 {
			log = append(log, [2]float64{60 * float64(i), c(60 * float64(i))})
		}
		return log
	}
	at := func(c float64) func(float64) float64 { return func(float64) float64 { return c } }
	for _, n := range []int{0, 30, 120} {
		out, far, err := b.Along(minutes(n, at(95)), nil)
		require.NoError(t, err)
		assert.InDelta(t, *steady.CureS, *out.CureS, 2, "%d minutes on", n)
		assert.InDelta(t, *steady.OpenS, *out.OpenS, 10, "%d minutes on", n)
		require.NotNil(t, far.OverS)
		assert.Greater(t, *far.OverS, *out.CureS)
	}
	before := -1.0
	for _, n := range []int{10, 60, 180} {
		_, far, err := b.Along(minutes(n, at(95)), nil)
		require.NoError(t, err)
		assert.Greater(t, far.Index, before, "it never goes back")
		before = far.Index
	}
	cool, _, err := b.Along(minutes(60, at(88)), nil)
	require.NoError(t, err)
	assert.Greater(t, *cool.CureS, *steady.CureS)
	cold, _, err := b.Along(minutes(60, at(22)), nil)
	require.NoError(t, err)
	assert.Nil(t, cold.CureS, "an oven that is cold cures nothing")
	assert.Contains(t, cold.Warnings, "under_cured")
	// Off after two hours, and the probe shows how it cools.
	off := 7200.0
	falling := minutes(240, func(s float64) float64 {
		if s <= off {
			return 95
		}
		return b.cooling(s-off, 95)
	})
	early, far, err := b.Along(falling, &off)
	require.NoError(t, err)
	assert.Contains(t, early.Warnings, "under_cured")
	assert.InDelta(t, off, *early.OffS, 1)
	assert.Nil(t, far.OverS)
	b.OffS = off
	told, err := b.Cure()
	require.NoError(t, err)
	assert.InDelta(t, told.IndexEnd, early.IndexEnd, 0.01, "a second way to the same course")
	require.NotNil(t, early.OpenS)
	assert.InDelta(t, *told.OpenS, *early.OpenS, 60)
	_, _, err = b.Along(nil, nil)
	assert.Error(t, err)
}
