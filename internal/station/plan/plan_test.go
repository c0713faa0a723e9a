package plan

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestNineWorkingDaysToTheFirstShootingDay(t *testing.T) {
	monday := time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)
	assert.Equal(t, 9, WorkingDays(monday, time.Date(2026, 1, 23, 0, 0, 0, 0, time.UTC)))
	assert.Equal(t, 0, WorkingDays(monday, monday))
	assert.Equal(t, 5, WorkingDays(monday, time.Date(2026, 1, 18, 0, 0, 0, 0, time.UTC)), "a weekend adds nothing")
}
