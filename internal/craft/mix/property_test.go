package mix

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Whatever the ratio, the parts of a sheet add up to its total in tenths, and
// none is further than a tenth from its exact share.
func TestSplitLosesNoTenth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		total := rapid.Float64Range(0.1, 5000).Draw(t, "total")
		weights := rapid.SliceOfN(rapid.Float64Range(0.01, 100), 1, 6).Draw(t, "weights")
		sum, all := 0.0, 0.0
		for _, w := range weights {
			all += w
		}
		for i, tenths := range Split(total, weights, UsualResolutionG) {
			sum += tenths
			assert.InDelta(t, math.Floor(total*10+0.5)/10*weights[i]/all, tenths, 0.1+1e-6)
			assert.GreaterOrEqual(t, tenths, 0.0)
		}
		assert.InDelta(t, total, sum, 0.05+1e-6)
	})
}

// Ways of telling a volume weighed by their error: the mean lies between them,
// is surer than the surest, and does not mind their order or their unit.
func TestCombiningWaysOfTelling(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 4).Draw(t, "n")
		routes := make([]Route, n)
		low, high, surest := math.Inf(1), math.Inf(-1), math.Inf(1)
		for i := range routes {
			v := rapid.Float64Range(1, 1000).Draw(t, "ml")
			routes[i] = Route{Name: string(rune('a' + i)), VolumeML: v, SdML: v * rapid.Float64Range(0.01, 0.3).Draw(t, "sd")}
			low, high, surest = min(low, v), max(high, v), min(surest, routes[i].SdML)
		}
		got, err := Combine(routes)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, got.MeanML, low-1e-9)
		assert.LessOrEqual(t, got.MeanML, high+1e-9)
		assert.LessOrEqual(t, got.SdML, surest+1e-9)
		turned := make([]Route, n)
		for i, r := range routes {
			turned[n-1-i] = Route{Name: r.Name, VolumeML: r.VolumeML * 1000, SdML: r.SdML * 1000}
		}
		other, err := Combine(turned)
		require.NoError(t, err)
		assert.InEpsilon(t, got.MeanML*1000, other.MeanML, 1e-9)
	})
	_, err := Combine(nil)
	assert.Error(t, err)
}

// A sheet's targets follow the recipe: A to B as the data sheet says, every
// addition at its percentage of the parts.
func TestASheetHoldsItsRecipe(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.Float64Range(0.1, 10).Draw(t, "a"), rapid.Float64Range(0.1, 10).Draw(t, "b")
		percent := rapid.Float64Range(0, 150).Draw(t, "percent")
		total := rapid.Float64Range(20, 5000).Draw(t, "total")
		sheet, err := PourSheet(Recipe{Parts: []Part{{ID: "A", Parts: a}, {ID: "B", Parts: b}}, Additions: []Addition{{ID: "softener", Percent: percent}}}, total, UsualResolutionG)
		require.NoError(t, err)
		got := map[string]float64{}
		sum := 0.0
		for _, l := range sheet {
			got[l.ID] = l.Grams
			sum += l.Grams
		}
		// Tenths of a gram are what a scale shows: ratios hold to them.
		assert.InDelta(t, got["B"]*a/b, got["A"], 0.11*(1+a/b))
		assert.InDelta(t, (got["A"]+got["B"])*percent/100, got["softener"], 0.11*(1+percent/100))
		assert.InDelta(t, total, sum, 0.21)
	})
}
