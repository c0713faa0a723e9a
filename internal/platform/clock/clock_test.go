package clock

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestTheBenchClockRunsAndNeverGoesBack(t *testing.T) {
	real := time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC)
	start := time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)
	b := &Bench{real: func() time.Time { return real }}
	b.offset = start.Sub(real)
	assert.Equal(t, start, b.Now())
	real = real.Add(5 * time.Minute)
	assert.Equal(t, start.Add(5*time.Minute), b.Now())
	real = real.Add(-time.Hour)
	assert.Equal(t, start.Add(5*time.Minute), b.Now(), "the machine's clock was put back")
	assert.Equal(t, start.Add(5*time.Minute), b.Forward(-time.Hour))
	real = real.Add(time.Hour)
	assert.Equal(t, start.Add(35*time.Minute), b.Forward(30*time.Minute))
}

func TestAJumpIsToldFromACorrection(t *testing.T) {
	for _, c := range []struct {
		wall, passed time.Duration
		jumped       bool
	}{
		{5 * time.Second, 5 * time.Second, false},
		{6 * time.Second, 5 * time.Second, false},
		{-time.Hour, 5 * time.Second, true},
		{24 * time.Hour, 5 * time.Second, true},
	} {
		by, jumped := Jump(c.wall, c.passed)
		assert.Equal(t, c.jumped, jumped, c.wall)
		assert.Equal(t, c.wall-c.passed, by)
	}
}
