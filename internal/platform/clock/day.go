package clock

import (
	"time"

	"yewmoor/internal/platform/problem"
)

// DayNumber counts calendar days from a common origin, for the craft.
func DayNumber(t time.Time) int {
	return int(time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// ParseDay reads a calendar day, 2026-01-23; field is where it was entered.
func ParseDay(text, field string) (time.Time, error) {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return time.Time{}, problem.Invalid("not_a_date", field, "“%.20s” is not a day. Write it as 2026-01-23.", text)
	}
	return t, nil
}
