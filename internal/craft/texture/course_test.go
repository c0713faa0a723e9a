package texture

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// On a round outline with a cone on it the course is the cone's own fall; on a square
// whose heights lie in bands round it, it is the same bands by their shares of area.
func TestTheCourseOfAReliefIsThatOfARoundPatch(t *testing.T) {
	var ring []P
	for i := range 180 {
		a := float64(i) * math.Pi / 90
		ring = append(ring, P{20 + 20*math.Cos(a), 20 + 20*math.Sin(a)})
	}
	cone := drawn(t, ring, func(x, y float64) float64 { return 3 * (1 - math.Hypot(x-20, y-20)/20) })
	got, err := cone.Course(t.Context(), 9)
	require.NoError(t, err)
	for i, mm := range got[1:8] {
		assert.InDelta(t, 3*(1-float64(i+1)/8), mm, 0.03)
	}
	square := drawn(t, []P{{0, 0}, {40, 0}, {40, 40}, {0, 40}}, func(x, y float64) float64 {
		if math.Max(math.Abs(x-20), math.Abs(y-20)) < 10 { // a quarter of the area: u below a half
			return 2
		}
		return 0.5
	})
	got, err = square.Course(t.Context(), 9)
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{2, 2, 2, 2}, got[:4], 0.01)
	assert.InDeltaSlice(t, []float64{0.5, 0.5, 0.5, 0.5}, got[5:], 0.01)
}

func drawn(t *testing.T, outline []P, z func(x, y float64) float64) *Sheet {
	t.Helper()
	s, err := Make(t.Context(), Recipe{Region: Region{Polygon: outline}, PitchMM: Ptr(0.2), Layers: []Layer{{Kind: "pores"}}})
	require.NoError(t, err)
	for k := range s.Field.Z {
		if s.Field.In[k] {
			s.Field.Z[k] = z(s.Field.x(k%s.Field.NX), s.Field.y(k/s.Field.NX))
		}
	}
	return s
}
