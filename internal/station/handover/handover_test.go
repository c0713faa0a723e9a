package handover_test

import (
	"fmt"
	"strings"
	"testing"
	"time"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/production"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestFinishCheckAndHandOver(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	first := b.Poured(code)[0]
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/pots/%d/out", b.Pot(first).ID), map[string]any{}, nil)
	accept := map[string]any{"verdict": "accept"}
	assert.Equal(t, "not_finished", b.As["ivo"].No("POST", "/api/copies/"+first+"/verdict", accept).Code)
	assert.Equal(t, "reading", b.As["pip"].No("POST", "/api/copies/"+first+"/ticks", map[string]any{"item": "colour_reading"}).Field)
	b.Finished(first)
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", accept, nil)

	second := b.Poured(code)[0]
	no := b.As["ivo"].No("POST", "/api/copies/"+second+"/verdict", map[string]any{"verdict": "scrap"})
	assert.Equal(t, "reason", no.Field)
	var out struct {
		NeedsRun bool `json:"needs_run"`
	}
	b.As["ivo"].Yes("POST", "/api/copies/"+second+"/verdict", map[string]any{"verdict": "scrap", "reason": "bubbles"}, &out)
	assert.True(t, out.NeedsRun, "two are wanted, one is good")

	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), map[string]any{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	assert.Equal(t, "copies[0]", b.As["maud"].No("POST", "/api/kits", map[string]any{"day_id": days[0].ID, "artist": "Jun", "copies": []string{second}}).Field)
	b.As["maud"].Yes("POST", "/api/kits", map[string]any{"day_id": days[0].ID, "artist": "Jun", "copies": []string{first}}, nil)

	var reached map[string][]string
	b.As["pip"].Yes("GET", "/api/trace/lot/K-old", nil, &reached)
	assert.Equal(t, []string{"K-001"}, reached["kit"])
	assert.Equal(t, []string{first, second}, reached["copy"])
	b.As["pip"].Yes("GET", "/api/trace/kit/K-001?direction=backward", nil, &reached)
	assert.Equal(t, []string{"K-old", "S-1"}, reached["lot"])
	b.Link(first)
}

// Links show one kit, and none after they were withdrawn.
func TestALinkOpensItsOwnKitOnly(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	codes := append(b.Poured(code), b.Poured(code)...)
	tokens := []string{}
	_, err := b.S.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), map[string]any{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	for i, copyCode := range codes {
		b.As["maud"].Yes("POST", "/api/kits", map[string]any{"day_id": days[0].ID, "artist": fmt.Sprintf("Artist %d", i), "copies": []string{copyCode}}, nil)
		var made struct{ Token string }
		b.As["maud"].Yes("POST", fmt.Sprintf("/api/kits/K-00%d/links", i+1), map[string]any{"days": 2}, &made)
		tokens = append(tokens, made.Token)
	}
	var view struct {
		Kit    string
		Copies []struct{ Code string }
	}
	b.As["nobody"].Yes("GET", "/api/artist/"+tokens[0], nil, &view)
	assert.Equal(t, "K-001", view.Kit)
	assert.Len(t, view.Copies, 1)
	assert.Equal(t, codes[0], view.Copies[0].Code)
	// Another's link signs its own kit and nothing else.
	b.As["nobody"].Yes("POST", "/api/artist/"+tokens[1]+"/receipt", map[string]any{"name": "Artist 1"}, nil)
	var signed []string
	require.NoError(t, b.S.DB.Select(&signed, `SELECT code FROM kit WHERE received_at IS NOT NULL`))
	assert.Equal(t, []string{"K-002"}, signed)
	for _, path := range []string{"/api/kits/K-001", "/api/kits", "/api/pieces"} {
		assert.Equal(t, "sign_in", b.As["nobody"].No("GET", path, nil).Code, "a link is no session: "+path)
	}
	var link uint64
	require.NoError(t, b.S.DB.Get(&link, `SELECT l.id FROM artist_link l JOIN kit k ON k.id = l.kit_id WHERE k.code = 'K-001'`))
	b.As["maud"].Yes("DELETE", fmt.Sprintf("/api/kits/K-001/links/%d", link), nil, nil)
	for _, try := range []struct {
		method, path string
		body         any
	}{
		{"GET", "", nil},
		{"GET", "/sheet.pdf", nil},
		{"POST", "/receipt", map[string]any{"name": "Jun"}},
		{"POST", "/reports", map[string]any{"key": shoptest.Key(), "edge": 5, "colour": 5, "hold": 5, "worn_h": 1, "words": ""}},
	} {
		assert.Equal(t, "link_ended", b.As["nobody"].No(try.method, "/api/artist/"+tokens[0]+try.path, try.body).Code, try.method+try.path)
	}
}

func TestOneCopyIsPackedIntoOneKit(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	_, err := b.S.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.DayOf(code, "2026-01-23")
	got := shoptest.Together(8, func(i int) (int, shoptest.Refused) {
		return b.Post(shoptest.Three[i%2], "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}})
	})
	assert.Equal(t, 1, got["yes"], got)
	assert.Equal(t, []int{1, 1}, []int{b.Count(`SELECT COUNT(*) FROM kit`), b.Count(`SELECT COUNT(*) FROM kit_copy`)}, "and no empty kit is left")
}

func TestOneKitIsSignedForByTheFirst(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	_, err := b.S.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.DayOf(code, "2026-01-23")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}}, nil)
	var made struct{ Token string }
	b.As["maud"].Yes("POST", "/api/kits/K-001/links", m{"days": 2}, &made)
	shoptest.Together(6, func(i int) (int, shoptest.Refused) {
		return b.Post("nobody", "/api/artist/"+made.Token+"/receipt", m{"name": fmt.Sprintf("Hand %d", i)})
	})
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'kit' AND act = 'received'`))
}

// A report of the longest words answered 500, since the record holds the marks
// beside them; and nothing bounded how many came.
func TestReportsAreAsLongAsTheyMayBeAndBounded(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	_, err := b.S.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.DayOf(code, "2026-01-23")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}}, nil)
	var made struct{ Token string }
	b.As["maud"].Yes("POST", "/api/kits/K-001/links", m{"days": 2}, &made)
	reports := "/api/artist/" + made.Token + "/reports"
	report := func(words string) m {
		return m{"key": shoptest.Key(), "edge": 5, "colour": 5, "hold": 5, "worn_h": 48, "words": words}
	}
	first := report(strings.Repeat("ä", 1000))
	b.As["nobody"].Yes("POST", reports, first, nil)
	assert.Equal(t, "words", b.As["nobody"].No("POST", reports, report(strings.Repeat("ä", 1001))).Field)
	for range 29 { // thirty an hour
		b.As["nobody"].Yes("POST", reports, report("held"), nil)
	}
	no := b.As["nobody"].No("POST", reports, report("one more"))
	assert.Equal(t, []any{429, "slow_down"}, []any{no.Status, no.Code})
	b.As["nobody"].Yes("POST", reports, first, nil)
	assert.Equal(t, 30, b.Count(`SELECT COUNT(*) FROM artist_report`), "one that came before is not counted again")
	b.Clock.Set(shoptest.Monday.Add(61 * time.Minute))
	b.As["nobody"].Yes("POST", reports, report("an hour later"), nil)
}
