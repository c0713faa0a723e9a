package mix

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestWhoIsBelievedAndWhoDisagrees(t *testing.T) {
	scan, clay := Route{RouteScan, 17.7, 0.9}, Route{RouteClay, 17.5, 1.4}
	v := Believe([]Route{Drawn(7.3), scan, clay}, "")
	assert.Equal(t, RouteScan, v.Believed, "measured before drawn")
	assert.Equal(t, []string{RouteSection}, v.Disagree)
	assert.False(t, v.Chosen)
	v = Believe([]Route{Drawn(7.3), scan, clay}, RouteSection)
	assert.True(t, v.Chosen)
	assert.ElementsMatch(t, []string{RouteScan, RouteClay}, v.Disagree, "chosen or not, they still disagree, and it is said")
	assert.Contains(t, v.Words(), "the section draws 7.3 ml")
	assert.Equal(t, RouteScan, Believe([]Route{scan, clay}, RouteWater).Believed, "what is gone is not believed")
	assert.Empty(t, Believe([]Route{Drawn(16), scan}, "").Disagree, "inside both bands they agree")
	assert.InDelta(t, 50, Took(212, 1.07, 4, 0).VolumeML, 0.5)
	assert.Zero(t, Believe(nil, "scan").VolumeML)
}

func TestBelievingIsOneOfTheVoices(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var voices []Route
		for _, name := range surest {
			if rapid.Bool().Draw(t, name) {
				voices = append(voices, Route{name, rapid.Float64Range(1, 500).Draw(t, name+" ml"), rapid.Float64Range(0.1, 50).Draw(t, name+" sd")})
			}
		}
		v := Believe(voices, rapid.SampledFrom(append(surest, "")).Draw(t, "chosen"))
		if len(voices) == 0 {
			return
		}
		assert.Contains(t, voices, Route{v.Believed, v.VolumeML, v.SdML})
		assert.NotContains(t, v.Disagree, v.Believed)
		assert.Less(t, len(v.Disagree), len(voices))
	})
}
