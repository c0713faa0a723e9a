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

// A shop without a sensor types its air; the older that is, the less the pots
// claim to know.
func TestAShopWithoutASensorTypesItsRoom(t *testing.T) {
	b := shoptest.New(t, device.NoRoom{})
	b.Stocked()
	shelf := func() (out build.Shelf) {
		b.As["pip"].Yes("GET", "/api/pots", nil, &out)
		return out
	}
	assert.False(t, shelf().Measured, "nothing made up passes for a reading")
	assert.Equal(t, "temp_c", b.As["pip"].No("POST", "/api/room", m{"temp_c": 80, "rh": 0.5}).Field)
	b.As["pip"].Yes("POST", "/api/room", m{"temp_c": 16, "rh": 0.6}, nil)
	now := shelf()
	assert.True(t, now.Measured && now.RoomTyped)
	assert.InDelta(t, 16, now.Room.TempC, 1e-9)
	require.NotNil(t, now.RoomAt)

	// What was typed before the pour holds for it.
	b.Clock.Set(shoptest.Monday.Add(10 * time.Minute))
	b.Poured(b.Begun())
	cool := shelf().Pots[0]
	assert.Contains(t, cool.Why[1], "16.0 °C")
	band := func(p build.Pot) float64 { return (p.HighS - p.LowS) / p.LeftS }
	fresh := band(cool)
	b.Clock.Set(shoptest.Monday.Add(3 * time.Hour))
	old := shelf().Pots[0]
	assert.Greater(t, band(old), 1.3*fresh, "nobody has looked for three hours")
	assert.Contains(t, old.Why[len(old.Why)-1], "band is wider")
	b.As["ivo"].Yes("POST", "/api/room", m{"temp_c": 16, "rh": 0.6}, nil)
	assert.Less(t, band(shelf().Pots[0]), band(old))
	// After a day it says nothing any more.
	b.Clock.Set(shoptest.Monday.Add(30 * time.Hour))
	assert.False(t, shelf().Measured)
}

func TestARoomThatASensorReadsIsNotTyped(t *testing.T) {
	b := shoptest.New(t, nil)
	assert.Equal(t, "sensor", b.As["ivo"].No("POST", "/api/room", m{"temp_c": 16, "rh": 0.6}).Code)
}
