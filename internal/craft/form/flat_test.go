package form

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Unrolled, an area is as large as on the skin, and as wide and tall as a tape
// measures it through its middle.
func TestAnAreaIsLaidFlat(t *testing.T) {
	for _, c := range []struct {
		sheet  string
		points []Point
		bulge  float64 // how far from 1 the scale may be
	}{
		{"forearm_L", []Point{{-20, 30}, {20, 30}, {20, 60}, {-20, 60}}, 0.03},
		{"head", []Point{{20, 45}, {34, 46}, {36, 60}, {22, 62}}, 0.12},
		{"belly", []Point{{-20, 30}, {20, 32}, {18, 60}, {-22, 58}}, 0.1},
	} {
		s, err := Fit(c.sheet, nil)
		require.NoError(t, err)
		flat, scale := s.Flatten(c.points)
		assert.InDelta(t, 1, scale, c.bulge, c.sheet)
		var area, right, top float64
		for i, p := range flat {
			q := flat[(i+1)%len(flat)]
			area += (p[0]*q[1] - q[0]*p[1]) / 2
			right, top = math.Max(right, p[0]), math.Max(top, p[1])
			require.GreaterOrEqual(t, math.Min(p[0], p[1]), 0.0)
		}
		assert.InDelta(t, s.Area(c.points), math.Abs(area), 0.005*s.Area(c.points), "%s: its true area", c.sheet)
		var u0, u1, v0, v1 = math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
		for _, p := range Curve(c.points, true) {
			u0, u1, v0, v1 = math.Min(u0, p.U), math.Max(u1, p.U), math.Min(v0, p.V), math.Max(v1, p.V)
		}
		tall := 0.0
		for i := range 100 {
			v := v0 + (v1-v0)*float64(i)/100
			tall += s.At(Point{(u0 + u1) / 2, v}).Distance(s.At(Point{(u0 + u1) / 2, v + (v1-v0)/100}))
		}
		assert.InDelta(t, tall*scale, top, 0.02*tall, "%s: down its middle", c.sheet)
		assert.Positive(t, right)
	}
}
