package colour

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestKnownColours(t *testing.T) {
	for _, c := range []struct {
		l, a, b float64
		rgb     [3]int
	}{
		{100, 0, 0, [3]int{255, 255, 255}}, {0, 0, 0, [3]int{0, 0, 0}},
		{53.2408, 80.0925, 67.2032, [3]int{255, 0, 0}},   // sRGB red, published Lab
		{87.7347, -86.1827, 83.1793, [3]int{0, 255, 0}},  // sRGB green
		{32.2970, 79.1875, -107.8602, [3]int{0, 0, 255}}, // sRGB blue
	} {
		r, g, b := SRGB(c.l, c.a, c.b)
		assert.InDelta(t, c.rgb[0], r, 1)
		assert.InDelta(t, c.rgb[1], g, 1)
		assert.InDelta(t, c.rgb[2], b, 1)
	}
}
