package build_test

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestAWarmerRoomIsSooner(t *testing.T) {
	left := map[float64]float64{}
	for _, c := range []float64{17, 23, 29} {
		b := shoptest.New(t, shoptest.SteadyRoom(c))
		b.Stocked()
		copies := b.Poured(b.Begun())
		b.Clock.Set(shoptest.Monday.Add(30 * time.Minute))
		left[c] = b.Pot(copies[0]).LeftS
	}
	assert.Less(t, left[29], left[23])
	assert.Less(t, left[23], left[17])
	assert.InDelta(t, 9000-1800, left[23], 1, "at the sheet's own temperature the sheet holds")
}

func TestDemouldingIsHeldBackUntilItIsTime(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copies := b.Poured(code)
	assert.Equal(t, code+"-a", copies[0])
	b.Clock.Set(shoptest.Monday.Add(time.Hour))
	p := b.Pot(copies[0])
	assert.NotEmpty(t, p.HeldBack)
	assert.Equal(t, "firming", p.Words)
	path := fmt.Sprintf("/api/pots/%d/out", p.ID)
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", path, map[string]any{}).Code)
	assert.Equal(t, "held_back", b.As["pip"].No("POST", path, map[string]any{"reason": "in a hurry"}).Code, "an apprentice cannot overrule it")
	// Somebody felt it tack-free late: the estimate learns.
	observe := fmt.Sprintf("/api/pots/%d/observe", p.ID)
	var slower build.Pot
	b.As["pip"].Yes("POST", observe, map[string]any{"stage": "gel"}, &slower)
	assert.Greater(t, slower.LeftS, p.LeftS)
	assert.NotEmpty(t, b.As["pip"].No("POST", observe, map[string]any{"stage": "demould"}).Detail)
	b.Clock.Set(shoptest.Monday.Add(4 * time.Hour))
	assert.Equal(t, "ready", b.Pot(copies[0]).State)
	b.As["pip"].Yes("POST", path, map[string]any{}, nil)
	b.As["ivo"].Yes("POST", path, map[string]any{}, nil)
	var n int
	require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE code = ? AND act = 'demoulded'`, copies[0]))
	assert.Equal(t, 1, n, "two people, one fact")
}

func TestADraftIsDroppedAndAStageObserved(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	path := "/api/pieces/" + code + "/section"
	changed := shoptest.Plain()
	changed.Layers[2].CentreMM = 3
	b.As["ivo"].Yes("PUT", path, m{"doc": changed, "base": 1, "step": 0}, nil)
	var view piece.SectionView
	b.As["ivo"].Yes("DELETE", path+"/draft", nil, &view)
	assert.InDelta(t, 6, view.Doc.Layers[2].CentreMM, 1e-9, "back to what was agreed")
	assert.False(t, view.State.Drafted)

	pot := b.Pot(b.Poured(code)[0])
	b.Clock.Set(shoptest.Monday.Add(4 * time.Minute))
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/pots/%d/observe", pot.ID), m{"stage": "pot"}, &pot)
	assert.Equal(t, "pot", pot.Observed)
	var copies []build.Copy
	b.As["pip"].Yes("GET", "/api/copies", nil, &copies)
	assert.Equal(t, pot.ID, *copies[0].PotID)
	before := b.Pot(copies[0].Code).LeftS
	b.Clock.Set(shoptest.Monday.Add(8 * time.Minute))
	assert.Less(t, b.Pot(copies[0].Code).LeftS, before)
}

func TestTheRoomsOldLogIsThinnedButNotUnderAStandingPot(t *testing.T) {
	b := shoptest.New(t, nil)
	count := func(day time.Time) (n int) {
		require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM room_reading WHERE at >= ? AND at < ?`, day, day.Add(time.Hour)))
		return n
	}
	for m := range 60 {
		for _, day := range []time.Time{shoptest.Monday.AddDate(0, 0, -100), shoptest.Monday.AddDate(0, 0, -5)} {
			_, err := b.S.DB.Exec(`INSERT IGNORE INTO room_reading (at, temp_c, rh) VALUES (?, 20, 0.5)`, day.Add(time.Duration(m)*time.Minute))
			require.NoError(t, err)
		}
	}
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	_, err = b.S.DB.Exec(`INSERT INTO pot (piece_id, label, kind, family, model, started_at) VALUES (?, 'old', 'cure', 'silicone_addition', '{}', ?)`, p.ID, shoptest.Monday.AddDate(0, 0, -101))
	require.NoError(t, err)
	require.NoError(t, b.S.Build.Air.Thin(t.Context()))
	assert.Equal(t, 60, count(shoptest.Monday.AddDate(0, 0, -100)), "a pot still stands on it")
	_, err = b.S.DB.Exec(`UPDATE pot SET ended_at = ?`, shoptest.Monday)
	require.NoError(t, err)
	require.NoError(t, b.S.Build.Air.Thin(t.Context()))
	assert.Equal(t, 6, count(shoptest.Monday.AddDate(0, 0, -100)))
	assert.Equal(t, 60, count(shoptest.Monday.AddDate(0, 0, -5)))
}

// A room that nobody measured is said to be so; a database that does not answer
// is not taken for such a room.
func TestARoomWithoutAReadingIsNotARoomThatCouldNotBeRead(t *testing.T) {
	b := shoptest.New(t, nil)
	undo := errors.New("undo")
	err := b.S.DB.InTx(t.Context(), func(tx database.Tx) error {
		_, err := tx.ExecContext(t.Context(), `DELETE FROM room_reading`)
		require.NoError(t, err)
		room, measured, err := b.S.Build.Air.Now(t.Context(), tx)
		require.NoError(t, err)
		assert.False(t, measured)
		assert.Equal(t, build.Reference, room)
		_, err = tx.ExecContext(t.Context(), `INSERT INTO room_reading (at, temp_c, rh) VALUES (?, 17, 0.7)`, shoptest.Monday.Add(-time.Hour))
		require.NoError(t, err)
		room, measured, err = b.S.Build.Air.Now(t.Context(), tx)
		require.NoError(t, err)
		assert.True(t, measured)
		assert.Equal(t, 17.0, room.TempC)
		return undo
	})
	require.ErrorIs(t, err, undo)
	gone, stop := context.WithCancel(t.Context())
	stop()
	_, measured, err := b.S.Build.Air.Now(gone, b.S.DB)
	require.Error(t, err)
	assert.False(t, measured)
}

func TestOnePotIsTakenOutOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	pot := b.Pot(b.Poured(b.Begun())[0])
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	got := shoptest.Together(12, func(i int) (int, shoptest.Refused) {
		return b.Post(shoptest.Three[i%3], fmt.Sprintf("/api/pots/%d/out", pot.ID), m{})
	})
	assert.Equal(t, 12, got["yes"], "each sees it taken out: %v", got)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'demoulded'`))
}
