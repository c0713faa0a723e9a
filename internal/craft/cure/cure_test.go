package cure_test

import (
	"context"
	"encoding/json"
	"math"
	"testing"
	"yewmoor/internal/craft/calc"
	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/refusal"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// ask asks a model by the way of the calculation.
func ask[T any](t require.TestingT, model string, input map[string]any) T {
	raw, err := json.Marshal(map[string]any{"model": model, "input": input})
	require.NoError(t, err)
	answer, err := calc.Run(context.Background(), nil, "drying-and-cure", raw)
	require.NoError(t, err)
	var out T
	require.NoError(t, json.Unmarshal(answer, &out))
	return out
}

func sheet(extra map[string]any) map[string]any {
	in := map[string]any{"system": "addition", "pot_s": 1200, "demould_s": 14400}
	for k, v := range extra {
		in[k] = v
	}
	return in
}

func TestAtTheReferenceTemperatureTheSheetHolds(t *testing.T) {
	c := ask[cure.Course](t, "cure", sheet(map[string]any{"temp_c": 23}))
	assert.InDelta(t, 1200, c.PotS, 1e-6)
	assert.InDelta(t, 14400, c.DemouldS, 1e-6)
	assert.InDelta(t, 4*14400, c.FullS, 1e-6)
}

func TestAWarmerRoomIsSooner(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cool := rapid.Float64Range(5, 40).Draw(t, "cool")
		warm := cool + rapid.Float64Range(0.5, 30).Draw(t, "warmer")
		a := ask[cure.Course](t, "cure", sheet(map[string]any{"temp_c": cool}))
		b := ask[cure.Course](t, "cure", sheet(map[string]any{"temp_c": warm}))
		assert.Greater(t, a.DemouldS, b.DemouldS)
		assert.Greater(t, a.PotS, b.PotS)
	})
}

func TestCureOnlyEverGrows(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		log, last := [][2]float64{}, -1.0
		for at := 0.0; at < 20000; at += rapid.Float64Range(60, 3000).Draw(t, "step") {
			log = append(log, [2]float64{at, math.Round(rapid.Float64Range(0, 45).Draw(t, "c")*100) / 100})
			if len(log) < 2 {
				continue
			}
			c := ask[cure.Course](t, "cure", sheet(map[string]any{"log": log, "lag_s": 600}))
			require.Greater(t, c.Index, last)
			require.True(t, c.PotS < c.GelS && c.GelS < c.DemouldS && c.DemouldS < c.FullS)
			last = c.Index
		}
	})
}

// A second method: the equivalent time along a ramp by a fine midpoint sum.
func TestARampAgreesWithPlainQuadrature(t *testing.T) {
	c := ask[cure.Course](t, "cure", sheet(map[string]any{"log": [][2]float64{{0, 15}, {7200, 35}}}))
	sum, n := 0.0, 200_000
	for i := range n {
		k := 273.15 + 15 + 20*(float64(i)+0.5)/float64(n)
		sum += math.Exp(-52e3/8.314462618*(1/k-1/296.15)) * 7200 / float64(n)
	}
	assert.InDelta(t, sum, c.Equivalent, 1e-5*sum)
}

func TestTheEstimateAgreesWithTheCourse(t *testing.T) {
	in := sheet(map[string]any{"log": [][2]float64{{0, 19}, {3600, 21}, {7200, 22}}})
	course, left := ask[cure.Course](t, "cure", in), ask[cure.Remaining](t, "cure_remaining", in)
	assert.InDelta(t, course.DemouldS-7200, left.RemainingS, 1e-6*left.RemainingS)
	assert.Less(t, left.LowS, left.RemainingS)
	assert.Greater(t, left.HighS, left.RemainingS)
}

func TestOnceReachedNothingIsLeft(t *testing.T) {
	left := ask[cure.Remaining](t, "cure_remaining", sheet(map[string]any{"log": [][2]float64{{0, 23}, {20000, 23}}}))
	assert.Equal(t, cure.Reached, left.State)
	assert.Zero(t, left.RemainingS)
}

func TestColdAndHotAreSaid(t *testing.T) {
	assert.Equal(t, []string{"cold"}, ask[cure.Course](t, "cure", sheet(map[string]any{"temp_c": 5})).Warnings)
	assert.Equal(t, []string{"hot"}, ask[cure.Course](t, "cure", sheet(map[string]any{"temp_c": 90})).Warnings)
}

func BenchmarkCureOfAWorkingDayByTheMinute(b *testing.B) {
	log := make([][2]float64, 600)
	for i := range log {
		log[i] = [2]float64{float64(i) * 60, 20 + 2*math.Sin(float64(i)/90)}
	}
	sheet, err := cure.Facts{System: "addition", PotS: 1200, DemouldS: 14400}.Sheet()
	require.NoError(b, err)
	for b.Loop() {
		if _, err := sheet.Left(cure.StageDemould, log, nil); err != nil {
			b.Fatal(err)
		}
	}
}

func TestALogThatTakesTooManyStepsIsRefused(t *testing.T) {
	// A lag of a millisecond over a year would take some 6e11 steps.
	raw := []byte(`{"model":"cure","input":{"system":"addition","pot_s":1200,"demould_s":14400,"lag_s":0.001,"log":[[0,20],[31536000,25]]}}`)
	_, err := calc.Run(t.Context(), nil, "drying-and-cure", raw)
	var refused *refusal.Error
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, "log", refused.Field)
}

func TestAnEmptyLogIsRefused(t *testing.T) {
	_, err := calc.Run(t.Context(), nil, "drying-and-cure", []byte(`{"model":"cure","input":{"system":"addition","pot_s":1200,"demould_s":14400,"log":[]}}`))
	var refused *refusal.Error
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, "log", refused.Field)
}
