package shop_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Streams: the scale's readings are numbered, hints come after every act.
func TestOpenScreensHearOfEveryAct(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	ctx, stop := context.WithTimeout(t.Context(), 20*time.Second)
	defer stop()
	go b.S.Mix.Watch(ctx)
	read := func(path, want string, lines int) []string {
		req, err := http.NewRequestWithContext(ctx, "GET", b.URL+path, nil)
		require.NoError(t, err)
		res, err := b.As["pip"].Client.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		assert.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
		if path == "/api/events" {
			go b.As["pip"].Send("POST", "/api/pieces/"+code+"/notes", m{"words": "clay checked", "key": shoptest.Key()}, nil)
		}
		var got []string
		for in := bufio.NewScanner(res.Body); in.Scan() && len(got) < lines; {
			if data, ok := strings.CutPrefix(in.Text(), "data: "); ok {
				assert.Contains(t, data, want)
				got = append(got, data)
			}
		}
		return got
	}
	assert.Len(t, read("/api/events", `"topic":"journal"`, 1), 1)
	var last mix.Relayed
	for i, data := range read("/api/scale/stream", `"seq":`, 5) {
		var r mix.Relayed
		require.NoError(t, json.Unmarshal([]byte(data), &r))
		if i > 0 {
			assert.Equal(t, last.Seq+1, r.Seq, "none is left out")
		}
		last = r
	}
}

func TestThePageAndItsHeaders(t *testing.T) {
	b := shoptest.New(t, nil)
	dist := fstest.MapFS{"index.html": {Data: []byte(`<meta name="csp-nonce" content="__NONCE__">`)}, "assets/index-1.js": {Data: []byte("1")}}
	b.S.Config.Secure = true
	handler, _, err := b.S.Handler(dist)
	require.NoError(t, err)
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, httptest.NewRequest("GET", path, nil))
		return w
	}
	nonces := map[string]bool{}
	for _, path := range []string{"/", "/piece/BF-01", "/artist/xyz"} {
		w := get(path)
		policy := w.Header().Get("Content-Security-Policy")
		_, rest, _ := strings.Cut(w.Body.String(), `content="`)
		nonce, _, _ := strings.Cut(rest, `"`)
		assert.Contains(t, policy, "'nonce-"+nonce+"'")
		assert.NotContains(t, policy, "unsafe")
		nonces[nonce] = true
		assert.Equal(t, []string{"nosniff", "DENY", "no-referrer", "max-age=31536000"},
			[]string{w.Header().Get("X-Content-Type-Options"), w.Header().Get("X-Frame-Options"), w.Header().Get("Referrer-Policy"), w.Header().Get("Strict-Transport-Security")})
	}
	assert.Len(t, nonces, 3, "a nonce is used once")
	assert.Contains(t, get("/assets/index-1.js").Header().Get("Cache-Control"), "immutable")
	api := get("/api/me")
	assert.Equal(t, "no-store", api.Header().Get("Cache-Control"))
	assert.Contains(t, api.Header().Get("Content-Security-Policy"), "sandbox")
	assert.Equal(t, http.StatusNotFound, get("/api/nothing").Code)
	w := httptest.NewRecorder()
	handler.ServeHTTP(w, httptest.NewRequest("DELETE", "/", nil))
	assert.Equal(t, http.StatusNotFound, w.Code)
}

// The table in the documentation is the rule in the code.
func TestTheTableOfWhoMayIsWhatIsAsked(t *testing.T) {
	table, err := shop.AccessTable()
	require.NoError(t, err)
	doc, err := shop.Document()
	require.NoError(t, err)
	var paths struct {
		Paths map[string]map[string]json.RawMessage
	}
	require.NoError(t, json.Unmarshal(doc, &paths))
	n := 0
	for path, methods := range paths.Paths {
		for method := range methods {
			n++
			assert.Contains(t, string(table), fmt.Sprintf("| `%s %s` |", strings.ToUpper(method), path))
		}
	}
	assert.Greater(t, n, 70)
	assert.Equal(t, n+62, bytes.Count(table, []byte("\n| `")), "the operations and the plain handlers")
	assert.Contains(t, string(table), "| `DELETE /api/performers/{id}/health/{fact}` | Erase a sensitivity for good | yes |  |  |  |")
	assert.Contains(t, string(table), "| `GET /api/performers/{id}` | A performer with what is known of their skin; that it was seen is recorded | yes | yes |  |  |")
}

// Run keeps the room's log and the demo's clock without anybody asking.
func TestTheShopKeepsItself(t *testing.T) {
	b := shoptest.New(t, nil)
	ctx, stop := context.WithTimeout(t.Context(), 700*time.Millisecond)
	defer stop()
	b.S.Run(ctx)
	var n int
	require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM room_reading`))
	assert.Positive(t, n)
}

func TestSmallChangesStandInTheRecordToo(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	b.DayOf(code, "2026-01-23")
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	b.As["ivo"].Yes("PUT", fmt.Sprintf("/api/performers/%d", *p.PerformerID), m{"excludes_animal": true, "keeps": "the beard"}, nil)
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/touch-ups", m{"name": "rust", "material": "paint-alcohol", "place": "rims", "l": 42, "a": 24, "b": 19}, nil)
	b.As["ivo"].Yes("DELETE", "/api/pieces/"+code+"/touch-ups/rust", nil, nil)
	for _, act := range []string{"day added", "days chosen", "limits changed", "touch-up colour", "touch-up colour removed"} {
		assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = ? AND person_id IS NOT NULL AND device <> ''`, act), act)
	}
	assert.Equal(t, "not_found", b.As["ivo"].No("DELETE", "/api/pieces/ZZ-09/touch-ups/rust", nil).Code)
}
