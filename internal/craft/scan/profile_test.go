package scan

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A lens on a ball, t = H (1 − θ²/θ₀²), has its profile in closed form: the
// share of the area within θ is (1 − cos θ)/(1 − cos θ₀).
func TestProfileOfALensOnABall(t *testing.T) {
	const radius, high, edge = 100.0, 6.0, 0.4
	lens := func(theta float64) float64 { return high * (1 - theta*theta/(edge*edge)) }
	core := grid(300, 300, func(_, _ float64) float64 { return radius }).Weld()
	sculpt := grid(300, 300, func(theta, _ float64) float64 { return radius + math.Max(-0.5, lens(theta)) }).Weld()
	f, err := Measure(context.Background(), core, sculpt, Fit{})
	require.NoError(t, err)
	out := f.Work()
	require.Equal(t, "contour", out.EdgeMode)

	profile := f.Profile(out, 16)
	require.Len(t, profile, 17)
	assert.InDelta(t, out.Mean, RoundMean(profile), 1e-9, "the mean is the measured one")
	assert.Zero(t, profile[16], "it runs out on to the core")
	rim := edge * math.Sqrt(1-0.15/high) // the noise of the scan cuts the rest off
	for k, is := range profile[:15] {
		u := float64(k) / 16
		want := lens(math.Acos(1 - u*u*(1-math.Cos(rim))))
		assert.InDelta(t, want, is, 0.12, "at %g of the way", u)
	}
}

func TestProfileEndsAtAMeasuredRim(t *testing.T) {
	core := grid(200, 200, func(_, _ float64) float64 { return 100 }).Weld()
	// A shell that is cut off: three millimetres up to its very edge.
	shell := grid(200, 200, func(_, _ float64) float64 { return 103 })
	kept := shell.Faces[:0]
	for _, f := range shell.Faces {
		if shell.Points[f[0]][2] > 60 && shell.Points[f[1]][2] > 60 && shell.Points[f[2]][2] > 60 {
			kept = append(kept, f)
		}
	}
	shell.Faces = kept
	f, err := Measure(context.Background(), core, shell.Weld(), Fit{})
	require.NoError(t, err)
	out := f.Work()
	require.Equal(t, "boundary", out.EdgeMode)
	for _, mm := range f.Profile(out, 8) {
		assert.InDelta(t, 3, mm, 0.05)
	}
}

func TestNoProfileWithoutAnAppliance(t *testing.T) {
	ball := grid(40, 40, func(_, _ float64) float64 { return 100 })
	f, err := Measure(context.Background(), ball.Weld(), ball.Weld(), Fit{})
	require.NoError(t, err)
	assert.Nil(t, f.Profile(f.Work(), 16))
}
