package scan

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const ballRadius = 100.0

// lensOn is a ball of 100 mm with a lens of half angle edge and height high
// about each of the poles that are given; elsewhere it is half a millimetre in.
func lensOn(high float64, edges ...float64) *Mesh {
	return grid(240, 240, func(theta, _ float64) float64 {
		t := -0.5
		for pole, edge := range edges {
			at := theta
			if pole == 1 {
				at = math.Pi - theta
			}
			t = math.Max(t, high*(1-at*at/(edge*edge)))
		}
		return ballRadius + t
	}).Weld()
}

func ball() *Mesh { return grid(240, 240, func(_, _ float64) float64 { return ballRadius }).Weld() }

// capArea is that of a ball's cap of half angle theta, mm².
func capArea(theta float64) float64 {
	return 2 * math.Pi * ballRadius * ballRadius * (1 - math.Cos(theta))
}

func TestAMouldGoesRoundTheClayAndItsLand(t *testing.T) {
	const edge, land = 0.4, 15
	// The rest of the ball lies half a millimetre in: no clay.
	laid, err := Laid(context.Background(), ball(), lensOn(6, edge), 0.15, land)
	require.NoError(t, err)
	off := edge * math.Sqrt(1-0.15/6) // where the lens is higher than the noise
	step := math.Pi / 240             // a row of faces either way
	area := 0.0
	for _, f := range laid.F {
		area += laid.V[f[1]].sub(laid.V[f[0]]).cross(laid.V[f[2]].sub(laid.V[f[0]])).length() / 2
	}
	assert.Greater(t, area, capArea(off+land/ballRadius-2*step))
	assert.Less(t, area, 1.03*capArea(off+land/ballRadius+2*step))
	assert.True(t, laid.Open())
	assert.False(t, ball().Open())
	for _, v := range laid.V {
		assert.Positive(t, v[2], "nothing of the other half")
	}
	assert.Greater(t, laid.Box.Max[2], ballRadius+5.9)
}

func TestWithoutClayTheWholeIsTaken(t *testing.T) {
	same, err := Laid(context.Background(), ball(), lensOn(0.1, 0.4), 0.15, 15)
	require.NoError(t, err)
	assert.Len(t, same.F, len(ball().F))
	stopped, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = Laid(stopped, ball(), lensOn(6, 0.4), 0.15, 15)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestThePictureLeavesSpecksAndBareCoreOut(t *testing.T) {
	core := ball()
	for name, c := range map[string]struct {
		other float64
		shown bool
	}{"a fold": {0.03, false}, "an appliance of its own": {0.15, true}} {
		f, err := Measure(context.Background(), core, lensOn(6, 0.4, c.other), Fit{})
		require.NoError(t, err)
		f.Work()
		layer := f.Layer()
		most := map[bool]float64{}
		for i, v := range core.V {
			if north := v[2] > 0; !math.IsNaN(layer[i]) {
				most[north] = math.Max(most[north], layer[i])
			}
		}
		assert.InDelta(t, 6, most[true], 0.05, name)
		if c.shown {
			assert.InDelta(t, 6, most[false], 0.05, name)
		} else {
			assert.NotContains(t, most, false, name)
		}
	}
}

func TestAnApplianceLooksTheWayItLies(t *testing.T) {
	f, err := Measure(context.Background(), ball(), lensOn(6, 0.4), Fit{})
	require.NoError(t, err)
	f.Work()
	facing := f.Facing()
	assert.InDelta(t, 1, facing[2], 1e-3)
	assert.Equal(t, Vec{0, 0, 1}, Toward(Vec{0, 0, -1}, facing))
	assert.Equal(t, Vec{1, 0, 0.1}, Toward(Vec{1, 0, 0.1}, facing))
}

// A cap pulled along its axis leaves its mould; a ball's lower half locks.
func TestTheBestPullOfALensIsItsAxis(t *testing.T) {
	laid, err := Laid(context.Background(), ball(), lensOn(6, 0.4), 0.15, 15)
	require.NoError(t, err)
	best, err := laid.Best(context.Background(), "one", 0)
	require.NoError(t, err)
	assert.InDelta(t, 0, best.Undercut, 1e-9)
	assert.Greater(t, best.Direction[2], 0.8)
	whole, err := ball().Draft(context.Background(), Vec{0, 0, 1}, "one")
	require.NoError(t, err)
	assert.InEpsilon(t, 0.5, whole.Fraction, 0.02)
	assert.InEpsilon(t, 2*math.Pi*ballRadius, whole.PartLength, 1e-3)
	assert.Equal(t, 1, whole.PartLoops)
}
