package rules

import (
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/material"
)

// Hotter, wetter and harder never lasts longer; half of all rims lift at the median
// that the handbook gives, at 22 °C, acting, in light sweat.
func TestWhatIsWornNeverLastsLongerWhenItIsHarderOnIt(t *testing.T) {
	all := maps.Clone(surfaces)
	glued := map[material.Family]float64{material.AdhesiveAcrylic: 14, material.AdhesiveSilicone: 18, material.AdhesiveGum: 7, material.AdhesiveLash: 8}
	for family := range glued {
		l, known := glueLife(family)
		assert.True(t, known)
		all[family] = l
	}
	families := slices.Sorted(maps.Keys(all))
	harder := []string{"still", "acting", "walking", "running"}
	rapid.Check(t, func(t *rapid.T) {
		l := all[rapid.SampledFrom(families).Draw(t, "family")]
		cold := rapid.Float64Range(-5, 40).Draw(t, "cold")
		warm := cold + rapid.Float64Range(0, 15).Draw(t, "more")
		n := rapid.IntRange(0, 2).Draw(t, "exertion")
		a, first := l.hours(cold, harder[n])
		b, second := l.hours(warm, harder[n+1])
		assert.LessOrEqual(t, b, a)
		assert.LessOrEqual(t, second, first)
		assert.Less(t, first, a, "one in ten goes before half of them")
	})
	for family, hours := range glued {
		median, _ := all[family].hours(22, "acting")
		assert.InDelta(t, hours, median, 1e-9)
	}
}
