package demo

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/device"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// told is a shop in which the scenario was told, and the address of its
// database.
func told(t *testing.T) (*shop.Shop, *clock.Fixed, string) {
	dsn := dbtest.DSN(t)
	db, err := database.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	require.NoError(t, db.Migrate(t.Context()))
	past := clock.NewFixed(Start)
	config := shop.Config{PublicURL: "http://yewmoor.test", FilesDir: filepath.Join(t.TempDir(), "files"), Demo: true}
	s, err := shop.New(t.Context(), config, db, past, device.NewSimulatedScale(7, time.Now), device.NewSimulatedRoom(3))
	require.NoError(t, err)
	require.NoError(t, Load(t.Context(), s, past))
	return s, past, dsn
}

func TestTheScenarioIsToldOnce(t *testing.T) {
	s, past, _ := told(t)
	count := func() (n int) {
		require.NoError(t, s.DB.Get(&n, `SELECT COUNT(*) FROM journal`))
		return n
	}
	before := count()
	assert.Greater(t, before, 50)
	require.NoError(t, Load(t.Context(), s, past))
	assert.Equal(t, before, count(), "a second start adds nothing")
}
