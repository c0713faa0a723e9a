package cure

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func ask[T any](t require.TestingT, model func(json.RawMessage) (any, error), input map[string]any) T {
	raw, err := json.Marshal(input)
	require.NoError(t, err)
	out, err := model(raw)
	require.NoError(t, err)
	return out.(T)
}

func sheet(extra map[string]any) map[string]any {
	in := map[string]any{"system": "addition", "pot_s": 1200, "demould_s": 14400}
	for k, v := range extra {
		in[k] = v
	}
	return in
}

func TestAtTheReferenceTemperatureTheSheetHolds(t *testing.T) {
	c := ask[Course](t, Cure, sheet(map[string]any{"temp_c": 23}))
	assert.InDelta(t, 1200, c.PotS, 1e-6)
	assert.InDelta(t, 14400, c.DemouldS, 1e-6)
	assert.InDelta(t, 4*14400, c.FullS, 1e-6)
}

func TestAWarmerRoomIsSooner(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cool := rapid.Float64Range(5, 40).Draw(t, "cool")
		warm := cool + rapid.Float64Range(0.5, 30).Draw(t, "warmer")
		a := ask[Course](t, Cure, sheet(map[string]any{"temp_c": cool}))
		b := ask[Course](t, Cure, sheet(map[string]any{"temp_c": warm}))
		assert.Greater(t, a.DemouldS, b.DemouldS)
		assert.Greater(t, a.PotS, b.PotS)
	})
}

func TestCureOnlyEverGrows(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		log, last := [][2]float64{}, -1.0
		for at := 0.0; at < 20000; at += rapid.Float64Range(60, 3000).Draw(t, "step") {
			log = append(log, [2]float64{at, rapid.Float64Range(0, 45).Draw(t, "c")})
			if len(log) < 2 {
				continue
			}
			c := ask[Course](t, Cure, sheet(map[string]any{"log": log, "lag_s": 600}))
			require.Greater(t, c.Index, last)
			require.True(t, c.PotS < c.GelS && c.GelS < c.DemouldS && c.DemouldS < c.FullS)
			last = c.Index
		}
	})
}

// A second method: the equivalent time along a ramp by a fine midpoint sum.
func TestARampAgreesWithPlainQuadrature(t *testing.T) {
	c := ask[Course](t, Cure, sheet(map[string]any{"log": [][2]float64{{0, 15}, {7200, 35}}}))
	sum, n := 0.0, 200_000
	for i := range n {
		k := 273.15 + 15 + 20*(float64(i)+0.5)/float64(n)
		sum += math.Exp(-52e3/8.314462618*(1/k-1/296.15)) * 7200 / float64(n)
	}
	assert.InDelta(t, sum, c.Equivalent, 1e-5*sum)
}

func TestTheEstimateAgreesWithTheCourse(t *testing.T) {
	in := sheet(map[string]any{"log": [][2]float64{{0, 19}, {3600, 21}, {7200, 22}}})
	course, left := ask[Course](t, Cure, in), ask[Remaining](t, Left, in)
	assert.InDelta(t, course.DemouldS-7200, left.RemainingS, 1e-6*left.RemainingS)
	assert.Less(t, left.LowS, left.RemainingS)
	assert.Greater(t, left.HighS, left.RemainingS)
}

func TestOnceReachedNothingIsLeft(t *testing.T) {
	left := ask[Remaining](t, Left, sheet(map[string]any{"log": [][2]float64{{0, 23}, {20000, 23}}}))
	assert.Equal(t, Reached, left.State)
	assert.Zero(t, left.RemainingS)
}

func TestColdAndHotAreSaid(t *testing.T) {
	assert.Equal(t, []string{"cold"}, ask[Course](t, Cure, sheet(map[string]any{"temp_c": 5})).Warnings)
	assert.Equal(t, []string{"hot"}, ask[Course](t, Cure, sheet(map[string]any{"temp_c": 90})).Warnings)
}

func BenchmarkCureOfAWorkingDayByTheMinute(b *testing.B) {
	log := make([][2]float64, 600)
	for i := range log {
		log[i] = [2]float64{float64(i) * 60, 20 + 2*math.Sin(float64(i)/90)}
	}
	raw, _ := json.Marshal(sheet(map[string]any{"log": log}))
	for b.Loop() {
		if _, err := Left(raw); err != nil {
			b.Fatal(err)
		}
	}
}
