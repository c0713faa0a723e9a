package demo

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/device"
	"yewmoor/internal/piece"
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

// All seven characters have briefs that are agreed, and maps that say what they
// are meant to show.
func TestEveryCharacterHasABriefAndAMap(t *testing.T) {
	s, _, _ := told(t)
	pieces, err := piece.All(t.Context(), s.DB)
	require.NoError(t, err)
	drawn, looks := map[string]float64{}, 0
	for _, p := range pieces {
		assert.Positive(t, p.BriefNumber, p.Code)
		v, err := s.Brief.View(t.Context(), p.Code, "")
		require.NoError(t, err)
		assert.Positive(t, v.Map.CM2, "%s draws an area", p.Code)
		assert.NotEmpty(t, v.Wear.Grades, p.Code)
		for _, f := range append(v.Map.Findings, v.Wear.Findings...) {
			assert.NotEqual(t, "never", f.Severity, "%s: %s", p.Code, f.Reason)
		}
		drawn[p.CharacterCode] += v.Map.CM2
		body, err := s.Brief.Body(t.Context(), *p.PerformerID)
		require.NoError(t, err)
		assert.NotEmpty(t, body.Skin, p.Code)
	}
	assert.Len(t, drawn, 7)
	for _, code := range []string{"BF", "AL", "PK"} {
		c, err := s.Brief.Character(t.Context(), code)
		require.NoError(t, err)
		assert.Empty(t, c.Wanted, code)
		looks += len(c.Looks)
	}
	assert.Equal(t, 6, looks)
	bark, err := s.Brief.View(t.Context(), "AL-01", "grown")
	require.NoError(t, err)
	assert.Equal(t, 3.0, bark.Wear.MaxHours, "her own limit")
	assert.NotEmpty(t, bark.WearerMarks, "her folds")
	nose, err := s.Brief.View(t.Context(), "GC-01", "")
	require.NoError(t, err)
	assert.Equal(t, "nose and mouth", nose.Map.Breath, "the holes keep the nostrils free")
	cheek, err := s.Brief.View(t.Context(), "BF-03", "grown")
	require.NoError(t, err)
	assert.Len(t, cheek.Others, 2)
	assert.Len(t, cheek.Map.Edges, 2)
}
