package build_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/device"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
)

// In a night with the sensor off the wall a cure goes on by what was known: the morning
// says what it came to, how long nothing was read, and the band of what still runs is
// wider than that of a night that was read.
func TestTheMorningTellsOfTheNight(t *testing.T) {
	morning := func(away bool) (build.Night, build.Pot) {
		room := device.NewSimulatedRoom(3)
		b := shoptest.New(t, room)
		b.Everything()
		b.Stocked()
		b.Clock.Set(shoptest.Monday.Add(8 * time.Hour)) // ten past five
		b.Poured(b.Begun())
		r := b.Begin(b.By("latex_slush", "NZ", "nose", 3), 1)
		b.Done("ivo", r.Code, 1, m{})
		if away {
			room.Unplug(b.Clock.Now().Add(2*time.Hour), true)
		}
		b.Clock.Set(shoptest.Monday.Add(22*time.Hour + 30*time.Minute))
		if away {
			room.Unplug(b.Clock.Now().Add(-2*time.Hour), false)
		}
		var night build.Night
		b.As["pip"].Yes("GET", "/api/night", nil, &night)
		require.NotNil(t, night.From)
		assert.Equal(t, 7, night.To.UTC().Hour())
		var left build.Pot
		for _, p := range shelf(b).Pots {
			if p.Kind == "cure" {
				left = p
			}
		}
		return night, left
	}
	read, cured := morning(false)
	assert.Zero(t, read.SilentS)
	assert.Less(t, read.LowC, read.TopC)
	rang := map[string]bool{}
	for _, r := range read.Rang {
		rang[r.Label] = true
		assert.True(t, r.At.After(*read.From) && !r.At.After(*read.To))
	}
	assert.True(t, rang[cured.Label], "the cure was ready in the night")
	assert.True(t, cured.Rings)
	assert.WithinDuration(t, *read.From, *cured.RangAt, 12*time.Hour)

	silent, _ := morning(true)
	assert.InDelta(t, 10.4*3600, silent.SilentS, 1800)
}

// A sensor that has been silent for hours makes a pot less sure of itself, and never a
// reading up.
func TestASilentSensorWidensTheBand(t *testing.T) {
	room := device.NewSimulatedRoom(3)
	b := shoptest.New(t, room)
	b.Stocked()
	b.Poured(b.Begun())
	after(b, 30*time.Minute)
	before := shelf(b).Pots[0]
	n := b.Count(`SELECT COUNT(*) FROM room_reading`)
	room.Unplug(b.Clock.Now(), true)
	after(b, 150*time.Minute)
	silent := shelf(b).Pots[0]
	assert.LessOrEqual(t, b.Count(`SELECT COUNT(*) FROM room_reading`), n+1)
	assert.Greater(t, (silent.HighS-silent.LowS)/silent.LeftS, (before.HighS-before.LowS)/before.LeftS)
	assert.Contains(t, silent.Why[len(silent.Why)-1], "band is wider")
}
