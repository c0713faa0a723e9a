package build

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A log becomes spells that begin with the build, rise, are never more than are followed,
// and are close to every reading where there are few changes.
func TestALogBecomesSpells(t *testing.T) {
	begun := time.Date(2026, 1, 12, 8, 0, 0, 0, time.UTC)
	assert.Equal(t, []spell{{0, Reference.TempC, Reference.RH, 0}}, spells(nil, begun, begun.Add(time.Hour)))
	steady := []reading{}
	for i := range 300 {
		steady = append(steady, reading{At: begun.Add(time.Duration(i-1) * time.Minute), TempC: 20 + 0.1*float64(i%3), RH: 0.5})
	}
	one := spells(steady, begun, begun.Add(5*time.Hour))
	require.Len(t, one, 1, "a sensor's own flutter is no change")
	assert.InDelta(t, 20.1, one[0].TempC, 0.06)

	// A night with the heating off: the day's spell, the night's course, and the day again.
	var night []reading
	for i := range 24 * 60 {
		temp := 21.0
		if i > 600 && i < 1000 {
			temp = 16
		}
		night = append(night, reading{At: begun.Add(time.Duration(i) * time.Minute), TempC: temp, RH: 0.5})
	}
	three := spells(night, begun, begun.Add(24*time.Hour))
	require.Len(t, three, 3)
	assert.Equal(t, []float64{21, 16, 21}, []float64{three[0].TempC, three[1].TempC, three[2].TempC})
	assert.InDelta(t, 601*60, three[1].FromS, 1)

	rapid.Check(t, func(t *rapid.T) {
		var log []reading
		temp, rh := 20.0, 0.5
		for i := range rapid.IntRange(1, 400).Draw(t, "n") {
			temp += rapid.Float64Range(-1, 1).Draw(t, "dt")
			rh = min(0.9, max(0.2, rh+rapid.Float64Range(-0.05, 0.05).Draw(t, "drh")))
			log = append(log, reading{At: begun.Add(time.Duration(i*5-7) * time.Minute), TempC: temp, RH: rh})
		}
		out := spells(log, begun, begun.Add(48*time.Hour))
		assert.NotEmpty(t, out)
		assert.LessOrEqual(t, len(out), mostSpells)
		assert.Zero(t, out[0].FromS)
		for i := 1; i < len(out); i++ {
			assert.Greater(t, out[i].FromS, out[i-1].FromS)
		}
	})
}
