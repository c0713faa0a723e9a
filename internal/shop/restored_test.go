package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/device"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop"
	"yewmoor/internal/shop/shoptest"
)

// After a restore nothing is recorded before somebody said what came after the
// backup: an allergy of the last week is not in it.
func TestARestoredShopIsAskedBeforeTheFirstAct(t *testing.T) {
	db := dbtest.New(t)
	_, err := db.Exec(`INSERT INTO restored (made_at, restored_at, missing) VALUES ('2026-01-10 22:00:00', '2026-01-12 08:00:00', 'aa bb')`)
	require.NoError(t, err)
	b := shoptest.NewOn(t, db, nil)
	var r shop.Restored
	b.As["pip"].Yes("GET", "/api/restored", nil, &r)
	assert.True(t, r.Asked)
	assert.Equal(t, 2, r.Missing)
	no := b.As["ivo"].No("POST", "/api/uploads", m{"name": "a.stl", "size": 10, "mark": "a"})
	assert.Equal(t, "restored", no.Code)
	assert.Contains(t, no.Detail, "10 Jan 2026")
	b.As["ivo"].Yes("GET", "/api/pieces", nil, nil)

	said := m{"allergies": "none", "recalls": "24-090", "erasures": ""}
	assert.Equal(t, "not_yours", b.As["ivo"].No("POST", "/api/restored", said).Code)
	assert.Equal(t, "erasures", b.As["maud"].No("POST", "/api/restored", said).Field)
	said["erasures"] = "none"
	b.As["maud"].Yes("POST", "/api/restored", said, &r)
	assert.False(t, r.Asked)
	b.As["ivo"].Yes("POST", "/api/uploads", m{"name": "a.stl", "size": 10, "mark": "a"}, nil)
	var n int
	require.NoError(t, db.Get(&n, `SELECT COUNT(*) FROM journal WHERE code = 'restored'`))
	assert.Equal(t, 3, n)

	// And it is asked again after a start, until it was answered.
	_, err = db.Exec(`INSERT INTO restored (made_at, restored_at, missing) VALUES ('2026-01-10 22:00:00', '2026-01-12 08:00:00', '')`)
	require.NoError(t, err)
	_, err = shop.New(t.Context(), b.S.Config, db, clock.NewFixed(shoptest.Monday), device.NewSimulatedScale(1, time.Now), shoptest.SteadyRoom(21))
	require.NoError(t, err)
	assert.Equal(t, "restored", b.As["ivo"].No("POST", "/api/uploads", m{"name": "b.stl", "size": 10, "mark": "b"}).Code)
}
