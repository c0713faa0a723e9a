package plan_test

import (
	"testing"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/plan"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

func TestTheRunUpCountsWhatEachDayNeeds(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun() // two copies wanted
	asks := func() int {
		var o struct{ Days int }
		b.As["pip"].Yes("GET", "/api/pieces/"+code+"/outlook", nil, &o)
		return o.Days
	}
	assert.Zero(t, asks(), "it is said before anybody begins")
	var r plan.RunUp
	b.As["pip"].Yes("GET", "/api/plan/run-up", nil, &r)
	require.Len(t, r.Unplanned, 1)
	assert.Equal(t, "no shooting day asks for it", r.Unplanned[0].Why)
	b.DayOf(code, "2026-01-23")
	assert.Equal(t, 1, asks())
	read := func() plan.Day {
		var days []plan.Day
		b.As["pip"].Yes("GET", "/api/plan", nil, &days)
		require.Len(t, days, 1)
		return days[0]
	}
	d := read()
	assert.Equal(t, 9, d.Working)
	assert.Equal(t, "2 not begun", d.Needs[0].Words)
	b.Poured(code)
	assert.Equal(t, "1 not begun", read().Needs[0].Words)
	b.Poured(code)
	d = read()
	assert.Equal(t, "coming", d.Needs[0].Words)
	b.Clock.Set(shoptest.Monday.AddDate(0, 0, 20))
	var days []plan.Day
	b.As["pip"].Yes("GET", "/api/plan", nil, &days)
	assert.Empty(t, days, "what is past needs nothing")
}
