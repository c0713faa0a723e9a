package journal

import (
	"database/sql"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var nine = time.Date(2026, 1, 12, 9, 0, 0, 0, time.UTC)

func row(id uint64, after time.Duration, words string, completes ...int64) Row {
	r := Row{ID: id, At: nine.Add(after), Words: words}
	if len(completes) > 0 {
		r.Completes = sql.NullInt64{Int64: completes[0], Valid: true}
	}
	return r
}

func TestWhatWasAddedLaterStandsWithItsStep(t *testing.T) {
	got := fold([]Row{row(1, 0, "coat on"), row(2, time.Hour, "powdered"), row(3, 90*time.Minute, "with a sponge", 1), row(4, 2*time.Hour, "and dried", 1)})
	require.Len(t, got, 2)
	assert.Equal(t, []string{"with a sponge", "and dried"}, got[0].Completed)
	assert.Empty(t, got[1].Completed)
	assert.NotNil(t, got[1].Completed)
}

func TestAnAdditionWhoseStepIsNotShownStandsAlone(t *testing.T) {
	got := fold([]Row{row(5, 0, "with a sponge", 1)})
	require.Len(t, got, 1)
	assert.Equal(t, "with a sponge", got[0].Words)
}

func TestAGapIsShownWithinADayOnly(t *testing.T) {
	for after, gap := range map[time.Duration]bool{
		time.Hour:      false,
		2 * time.Hour:  true,
		5 * time.Hour:  true,
		20 * time.Hour: false, // the night is no gap
		24 * time.Hour: false,
	} {
		got := fold([]Row{row(1, 0, "a"), row(2, after, "b")})
		assert.Equal(t, gap, got[1].GapS > 0, after)
		if gap {
			assert.Equal(t, after.Seconds(), got[1].GapS)
		}
	}
}
