package scan

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What takes long says how far it is: forward only, to the end, and often enough
// that a bar moves.
func TestLongWorkSaysHowFarItIs(t *testing.T) {
	core := grid(40, 80, func(float64, float64) float64 { return 100 }).Weld()
	sculpt := grid(60, 120, func(t, p float64) float64 { return 101 + 2*math.Sin(5*t)*math.Cos(3*p) }).Weld()
	for name, work := range map[string]func(context.Context) error{
		"thickness":    func(ctx context.Context) error { _, err := Measure(ctx, core, sculpt, Fit{}); return err },
		"pull, whole":  func(ctx context.Context) error { _, err := sculpt.Best(ctx, "one", 0); return err },
		"pull, halves": func(ctx context.Context) error { _, err := sculpt.Best(ctx, "two", 0); return err },
	} {
		var said []float64
		require.NoError(t, work(WithProgress(t.Context(), func(x float64) { said = append(said, x) })), name)
		require.NotEmpty(t, said, name)
		assert.IsNonDecreasing(t, said, name)
		assert.InDelta(t, 1, said[len(said)-1], 1e-9, name)
		if name != "thickness" {
			assert.Greater(t, len(said), 10, name)
		}
	}
}

// A large surface is searched by a part of its faces; what it finds is as good as
// what all of them find.
func TestTheSearchOfALargeSurfaceFindsAsGoodAPull(t *testing.T) {
	// A flat dome leans by 25° out of the axes.
	lean := Vec{math.Sin(25 * math.Pi / 180), 0, math.Cos(25 * math.Pi / 180)}
	m := grid(160, 320, func(t, p float64) float64 {
		d := Vec{math.Sin(t) * math.Cos(p), math.Sin(t) * math.Sin(p), math.Cos(t)}
		return 40 / math.Sqrt(1+8*math.Pow(d.dot(lean), 2))
	}).Weld()
	require.Greater(t, len(m.F), 4*manyFaces)
	found, err := m.Best(t.Context(), "two", 0)
	require.NoError(t, err)
	best, err := m.Draft(t.Context(), lean, "two")
	require.NoError(t, err)
	assert.Less(t, found.Score, best.Score+0.01)
}

// Places that stand several times in a file are one, −0 and 0 too, and a triangle
// that names one twice is left out; the file's own places stay.
func TestReadingMakesEqualPlacesOne(t *testing.T) {
	raw := grid(12, 24, func(float64, float64) float64 { return 10 })
	loose := &Raw{Format: "made"}
	for i := range raw.Triangles() {
		a, b, c := raw.corners(i)
		loose.Points = append(loose.Points, a, b, c)
	}
	one, three := raw.Weld(), loose.Weld()
	assert.Equal(t, len(one.V), len(three.V))
	assert.Equal(t, *one.Topology(), *three.Topology())
	bytes := binarySTL(raw)
	read := readBytes(t, bytes)
	assert.Len(t, read.Points, len(raw.Points))
	before := append([]Vec{}, read.Points...)
	read.Weld()
	assert.Equal(t, before, read.Points)
	assert.InDelta(t, raw.Measure().VolumeMM3, read.Measure().VolumeMM3, 0.01)
}
