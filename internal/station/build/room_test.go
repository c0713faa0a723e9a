package build_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/device"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/mould"
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

// The section said gypsum, or nothing, of its mould, and the registered one was
// of condensation silicone: the rules kept silent, and the copy stayed sticky.
func TestTheRulesLookAtTheMouldThatIsUsed(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	register := func(material, release string) string {
		var list []mould.Mould
		b.As["ivo"].Because("no texture on this one").Yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": mouldmath.Block, "material": material, "release_agent": release, "state": "dry", "made_on": "2026-01-12"}, &list)
		return list[len(list)-1].Code
	}
	tin, stone := register(mouldmath.SiliconeTin, "silicone release, sprayed"), register(mouldmath.HardStone, "")
	v := b.Weighed(code)
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.IsIn(&v)
	}
	no := b.As["ivo"].No("POST", "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{tin}})
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "INH-1")
	assert.Contains(t, no.Detail, "condensation silicone")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM run`))
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{stone}}, nil)
}
