package shop_test

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/mariadb"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheDatabaseGoneForAWhile(t *testing.T) {
	dsn, line := shoptest.Through(t, dbtest.DSN(t))
	db, err := database.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	require.NoError(t, db.Migrate(t.Context()))
	b := shoptest.NewOn(t, db, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	before := b.OnHand("K-old", "A")
	line.Cut()
	body := map[string]any{"seq": v.Current, "key": shoptest.Key(), "typed": "9 g"}
	for _, login := range []string{"ivo", "nobody"} {
		no := b.As[login].No("POST", "/api/mixes/"+v.Code+"/weigh", body)
		if login == "ivo" {
			assert.Equal(t, "away", no.Code)
			assert.Equal(t, http.StatusServiceUnavailable, no.Status)
			assert.Contains(t, no.Detail, "Nothing of this was recorded")
		}
	}
	assert.Equal(t, http.StatusServiceUnavailable, b.As["nobody"].Send("GET", "/readyz", nil, nil))
	assert.Equal(t, 200, b.As["nobody"].Send("GET", "/healthz", nil, nil), "the server itself is well")
	line.Mend()
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", body, nil)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", body, nil)
	assert.InDelta(t, before-9, b.OnHand("K-old", "A"), 1e-9, "sent three times, drawn once")
}

// The line is cut at random moments while people write; what was answered
// with yes is there once, what was shoptest.Refused as away is not there.
func TestALineThatBreaksMidwayLosesNothingAnswered(t *testing.T) {
	dsn, line := shoptest.Through(t, dbtest.DSN(t))
	db, err := database.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	require.NoError(t, db.Migrate(t.Context()))
	b := shoptest.NewOn(t, db, nil)
	code := b.Begun()
	stop := make(chan struct{})
	var breaker sync.WaitGroup
	breaker.Add(1)
	go func() {
		defer breaker.Done()
		// Mostly in the middle of an act; now and then a machine that is slow just
		// then gets one through.
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			case <-time.After([]time.Duration{3, 7, 15, 7, 120}[i%5] * time.Millisecond):
				line.Cut()
				time.Sleep(2 * time.Millisecond)
				line.Mend()
			}
		}
	}()
	said := map[string]string{}
	for i := range 120 {
		words := fmt.Sprintf("step %d", i)
		var r shoptest.Refused
		status := b.As["pip"].Send("POST", "/api/pieces/"+code+"/notes", map[string]any{"words": words, "key": shoptest.Key()}, &r)
		if said[words] = r.Code; status == 200 {
			said[words] = "yes"
		}
	}
	close(stop)
	breaker.Wait()
	line.Mend()
	yes := 0
	for words, answer := range said {
		var n int
		require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE words = ?`, words))
		switch answer {
		case "yes":
			yes++
			assert.Equal(t, 1, n, words)
		case "kept":
			assert.Equal(t, 1, n, words)
		case "away":
			assert.Zero(t, n, words)
		case "unsure":
			assert.LessOrEqual(t, n, 1, words)
		default:
			assert.Fail(t, "an answer nobody understands", "%s: %s", words, answer)
		}
	}
	assert.Positive(t, yes)
}

func TestAFullDatabaseKeepsWhatItHasAndSaysSo(t *testing.T) {
	dir := t.TempDir()
	ctx := context.Background()
	server, err := mariadb.Start(ctx, dir, append(mariadb.Throwaway, "--innodb-file-per-table=0", "--innodb-data-file-path=ibdata1:12M:autoextend:max:32M")...)
	require.NoError(t, err)
	defer func() { assert.NoError(t, server.Stop()) }()
	dsn, err := server.Create(ctx, "yewmoor_full")
	require.NoError(t, err)
	db, err := database.Open(ctx, dsn)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.Migrate(ctx))
	b := shoptest.NewOn(t, db, nil)
	code := b.Begun()
	kept := 0
	var no shoptest.Refused
	for i := range 20_000 {
		body := piece.NewNote{Words: strings.Repeat("a long story ", 75) + fmt.Sprint(i), Key: shoptest.Key()}
		if err := b.S.Pieces.Note(b.Who["pip"], code, body); err != nil {
			no = b.As["pip"].No("POST", "/api/pieces/"+code+"/notes", body)
			break
		}
		kept++
	}
	assert.Equal(t, "full", no.Code)
	assert.Equal(t, http.StatusInsufficientStorage, no.Status)
	assert.Contains(t, no.Detail, "what was recorded before is kept")
	var n int
	require.NoError(t, db.Get(&n, `SELECT COUNT(*) FROM journal WHERE words LIKE 'a long story %'`))
	assert.Equal(t, kept, n)
	assert.Greater(t, kept, 100)
}
