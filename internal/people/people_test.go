package people_test

import (
	"fmt"
	"testing"
	"time"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

func TestHealthFactsAreSeenByFewAndEveryLookIsRecorded(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	at := fmt.Sprintf("/api/performers/%d", *p.PerformerID)
	b.As["ivo"].Yes("POST", at+"/health", map[string]any{"substance": "latex", "status": "allergic", "note": "hives within the hour"}, nil)
	looks := func() (n int) {
		require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE act = 'health facts seen'`))
		return n
	}
	assert.Equal(t, "not_yours", b.As["pip"].No("GET", at, nil).Code, "an apprentice works by what follows from them")
	assert.Zero(t, looks())
	for range 3 {
		b.As["ivo"].Yes("GET", at, nil, nil)
	}
	assert.Equal(t, 1, looks(), "a screen that reads again is one look")
	b.As["maud"].Yes("GET", at, nil, nil)
	b.Clock.Set(shoptest.Monday.Add(11 * time.Minute))
	b.As["ivo"].Yes("GET", at, nil, nil)
	assert.Equal(t, 3, looks())
	var leaked int
	require.NoError(t, b.S.DB.Get(&leaked, `SELECT COUNT(*) FROM journal WHERE words LIKE '%hives%' OR data LIKE '%hives%' OR words LIKE '%latex%'`))
	assert.Zero(t, leaked, "the record says that, never what")
	var fact uint64
	require.NoError(t, b.S.DB.Get(&fact, `SELECT id FROM health_fact`))
	b.As["maud"].Yes("DELETE", fmt.Sprintf("%s/health/%d", at, fact), nil, nil)
	var left int
	require.NoError(t, b.S.DB.Get(&left, `SELECT COUNT(*) FROM health_fact`))
	assert.Zero(t, left)
	b.As["pip"].Yes("GET", "/api/pieces/"+code, nil, nil)
}
