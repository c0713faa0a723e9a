package drying

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The run through the slabs gives 20 465 s from the oven to the opening for 8 mm of
// foam between walls of 30 mm (reference case foam-cure of the handbook); ours are
// of 25 mm, and gel first.
func TestFoamBakesAboutAsLongAsTheRunThroughItsSlabs(t *testing.T) {
	assert.InEpsilon(t, 20465.5+foamGelS, BakeS(0.008, 21), 0.2)
}

func TestThickerFoamNeverTakesLess(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		thin := rapid.Float64Range(0.001, 0.08).Draw(t, "thickness")
		thick := thin * rapid.Float64Range(1.01, 2).Draw(t, "times")
		room, rh := rapid.Float64Range(8, 34).Draw(t, "room"), rapid.Float64Range(0.1, 0.85).Draw(t, "rh")
		assert.Greater(t, BakeS(thick, room), BakeS(thin, room))
		place := StillRoom(room, rh)
		a, err := place.Foam(UsualWash(thin))
		require.NoError(t, err)
		b, err := place.Foam(UsualWash(thick))
		require.NoError(t, err)
		assert.Greater(t, b.DryS, a.DryS)
		// Where the surface alone rules, twice the water takes twice as long.
		assert.InEpsilon(t, a.WetS*thick/thin, b.WetS, 1e-9)
		one := UsualWash(thin)
		one.Faces = oneFaced
		c, err := place.Foam(one)
		require.NoError(t, err)
		assert.Greater(t, c.DryS, 2*a.DryS, "from one face it dries more than twice as long")
	})
}

// Half of its time in each of two places is the whole of it, and no place takes it back.
func TestWashedFoamDriesAlongItsPlaces(t *testing.T) {
	w := UsualWash(0.008)
	still, fan := StillRoom(20, 0.55), PlaceIn("fan", "form", 20, 0.55)
	a, err := still.Foam(w)
	require.NoError(t, err)
	b, err := fan.Foam(w)
	require.NoError(t, err)
	far, left, err := WashedAlong(w, []Stay{{still, a.DryS / 2}, {fan, b.DryS / 4}})
	require.NoError(t, err)
	assert.InDelta(t, 0.75, far, 1e-9)
	assert.InDelta(t, b.DryS/4, left, 1e-6)
	far, left, err = WashedAlong(w, []Stay{{fan, 2 * b.DryS}})
	require.NoError(t, err)
	assert.InDelta(t, 2, far, 1e-9)
	assert.Zero(t, left)
	damp := StillRoom(20, 0.55)
	damp.RH = 1.2
	_, _, err = WashedAlong(w, []Stay{{damp, 60}})
	assert.Error(t, err)
}
