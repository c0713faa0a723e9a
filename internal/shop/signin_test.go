package shop

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/production"
)

func signIn(p *person, login, password string) (refused, int) {
	var r refused
	return r, p.send("POST", "/api/sign-in", map[string]string{"login": login, "password": password}, &r)
}

func TestSignInsAreListedAndEndAtOnce(t *testing.T) {
	b := newBench(t, nil)
	second := b.person()
	_, status := signIn(second, "ivo", "a long enough word")
	require.Equal(t, 200, status)
	var own, all []accounts.SignedIn
	second.yes("GET", "/api/sign-ins", nil, &own)
	require.Len(t, own, 2, "a fabricator sees their own")
	b.as["maud"].yes("GET", "/api/sign-ins", nil, &all)
	assert.Len(t, all, 4, "a lead sees everybody's")
	other := own[0]
	if other.This {
		other = own[1]
	}
	assert.NotEmpty(t, other.Device)
	assert.Equal(t, "127.0.0.1", other.Address)

	assert.Equal(t, "not_found", b.as["pip"].no("DELETE", fmt.Sprintf("/api/sign-ins/%d", other.ID), nil).Code, "not another's")
	second.yes("DELETE", fmt.Sprintf("/api/sign-ins/%d", other.ID), nil, &own)
	assert.Len(t, own, 1)
	assert.Equal(t, "sign_in", b.as["ivo"].no("GET", "/api/pieces", nil).Code, "the ended one is nobody")
	second.yes("GET", "/api/pieces", nil, nil)

	b.s.Accounts.Real = func() time.Time { return time.Now().Add(73 * time.Hour) }
	assert.Equal(t, "sign_in", second.no("GET", "/api/pieces", nil).Code, "three days unseen")
}

func TestWrongTriesSlowTheNext(t *testing.T) {
	b := newBench(t, nil)
	now := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	b.s.Accounts.Real = func() time.Time { return now }
	guess := func(login string) string {
		r, _ := signIn(b.as["nobody"], login, "guess")
		return r.Code
	}
	for range 5 {
		assert.Equal(t, "wrong_sign_in", guess("maud"))
	}
	r, status := signIn(b.as["nobody"], "maud", "a long enough word")
	assert.Equal(t, http.StatusTooManyRequests, status, "the right word must wait too")
	assert.Contains(t, r.Detail, "5 seconds")
	now = now.Add(6 * time.Second)
	assert.Equal(t, "wrong_sign_in", guess("maud"))
	now = now.Add(6 * time.Second)
	assert.Equal(t, "slow_down", guess("maud"), "the wait doubles")
	_, status = signIn(b.person(), "ivo", "a long enough word")
	assert.Equal(t, 200, status, "another account is not slowed yet")
	for i := range 14 {
		guess(fmt.Sprintf("made-up-%d", i))
	}
	assert.Equal(t, "slow_down", guess("pip"), "the address is slowed in the end")
	now = now.Add(16 * time.Minute)
	_, status = signIn(b.person(), "maud", "a long enough word")
	assert.Equal(t, 200, status, "it is forgotten after a while")
}

func TestAPasswordIsChangedAndAnAccountClosed(t *testing.T) {
	b := newBench(t, nil)
	second := b.person()
	_, status := signIn(second, "ivo", "a long enough word")
	require.Equal(t, 200, status)
	assert.Equal(t, "old", second.no("PUT", "/api/me/password", map[string]string{"old": "guess", "password": "another long word"}).Field)
	assert.Equal(t, "password", second.no("PUT", "/api/me/password", map[string]string{"old": "a long enough word", "password": "short"}).Field)
	second.yes("PUT", "/api/me/password", map[string]string{"old": "a long enough word", "password": "another long word"}, nil)
	second.yes("GET", "/api/pieces", nil, nil)
	assert.Equal(t, "sign_in", b.as["ivo"].no("GET", "/api/pieces", nil).Code, "the other sign-ins end")

	var people []accounts.Person
	b.as["maud"].yes("GET", "/api/people", nil, &people)
	id := map[string]uint64{}
	for _, p := range people {
		id[p.Login] = p.ID
	}
	assert.Equal(t, "yourself", b.as["maud"].no("DELETE", fmt.Sprintf("/api/people/%d", id["maud"]), nil).Code)
	b.as["maud"].yes("DELETE", fmt.Sprintf("/api/people/%d", id["ivo"]), nil, nil)
	assert.Equal(t, "sign_in", second.no("GET", "/api/pieces", nil).Code)
	_, status = signIn(b.person(), "ivo", "another long word")
	assert.Equal(t, http.StatusUnauthorized, status)
	var acts []string
	require.NoError(t, b.s.DB.Select(&acts, `SELECT act FROM journal WHERE kind = 'account' AND code = 'ivo' ORDER BY id`))
	assert.Equal(t, []string{"account made", "signed in", "signed in", "password changed", "account closed"}, acts)
}

func TestTheRecordSaysWhoWhenAndFromWhichDevice(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	for i := range 70 {
		b.clock.Set(monday.Add(time.Duration(i) * time.Minute))
		b.as["pip"].yes("POST", "/api/pieces/"+code+"/notes", map[string]any{"words": fmt.Sprintf("coat %d on", i), "key": key()}, nil)
	}
	var page journal.Page
	b.as["maud"].yes("GET", "/api/record?words=coat", nil, &page)
	require.Len(t, page.Entries, 60)
	assert.True(t, page.More)
	first := page.Entries[0]
	assert.Equal(t, []any{"coat 69 on", "pip", code, "Go-http-client"}, []any{first.Words, first.Who, first.Code, first.Device})
	b.as["maud"].yes("GET", fmt.Sprintf("/api/record?words=coat&before=%d", page.Entries[59].ID), nil, &page)
	assert.Len(t, page.Entries, 10)
	assert.False(t, page.More)
	b.as["maud"].yes("GET", "/api/record?day=2026-01-13", nil, &page)
	assert.Empty(t, page.Entries)
	b.as["maud"].yes("GET", "/api/record?words=100%25", nil, &page)
	assert.Empty(t, page.Entries, "a percent sign is a percent sign")
	assert.Equal(t, "day", b.as["maud"].no("GET", "/api/record?day=soon", nil).Field)
	assert.Equal(t, "not_yours", b.as["ivo"].no("GET", "/api/record", nil).Code)
}

func TestHealthFactsAreSeenByFewAndEveryLookIsRecorded(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	at := fmt.Sprintf("/api/performers/%d", *p.PerformerID)
	b.as["ivo"].yes("POST", at+"/health", map[string]any{"substance": "latex", "status": "allergic", "note": "hives within the hour"}, nil)
	looks := func() (n int) {
		require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE act = 'health facts seen'`))
		return n
	}
	assert.Equal(t, "not_yours", b.as["pip"].no("GET", at, nil).Code, "an apprentice works by what follows from them")
	assert.Zero(t, looks())
	for range 3 {
		b.as["ivo"].yes("GET", at, nil, nil)
	}
	assert.Equal(t, 1, looks(), "a screen that reads again is one look")
	b.as["maud"].yes("GET", at, nil, nil)
	b.clock.Set(monday.Add(11 * time.Minute))
	b.as["ivo"].yes("GET", at, nil, nil)
	assert.Equal(t, 3, looks())
	var leaked int
	require.NoError(t, b.s.DB.Get(&leaked, `SELECT COUNT(*) FROM journal WHERE words LIKE '%hives%' OR data LIKE '%hives%' OR words LIKE '%latex%'`))
	assert.Zero(t, leaked, "the record says that, never what")
	var fact uint64
	require.NoError(t, b.s.DB.Get(&fact, `SELECT id FROM health_fact`))
	b.as["maud"].yes("DELETE", fmt.Sprintf("%s/health/%d", at, fact), nil, nil)
	var left int
	require.NoError(t, b.s.DB.Get(&left, `SELECT COUNT(*) FROM health_fact`))
	assert.Zero(t, left)
	b.as["pip"].yes("GET", "/api/pieces/"+code, nil, nil)
}

// Links show one kit, and none after they were withdrawn.
func TestALinkOpensItsOwnKitOnly(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	codes := append(b.poured(code), b.poured(code)...)
	tokens := []string{}
	_, err := b.s.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.as["maud"].yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), map[string]any{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	for i, copyCode := range codes {
		b.as["maud"].yes("POST", "/api/kits", map[string]any{"day_id": days[0].ID, "artist": fmt.Sprintf("Artist %d", i), "copies": []string{copyCode}}, nil)
		var made struct{ Token string }
		b.as["maud"].yes("POST", fmt.Sprintf("/api/kits/K-00%d/links", i+1), map[string]any{"days": 2}, &made)
		tokens = append(tokens, made.Token)
	}
	var view struct {
		Kit    string
		Copies []struct{ Code string }
	}
	b.as["nobody"].yes("GET", "/api/artist/"+tokens[0], nil, &view)
	assert.Equal(t, "K-001", view.Kit)
	assert.Len(t, view.Copies, 1)
	assert.Equal(t, codes[0], view.Copies[0].Code)
	// Another's link signs its own kit and nothing else.
	b.as["nobody"].yes("POST", "/api/artist/"+tokens[1]+"/receipt", map[string]any{"name": "Artist 1"}, nil)
	var signed []string
	require.NoError(t, b.s.DB.Select(&signed, `SELECT code FROM kit WHERE received_at IS NOT NULL`))
	assert.Equal(t, []string{"K-002"}, signed)
	for _, path := range []string{"/api/kits/K-001", "/api/kits", "/api/pieces"} {
		assert.Equal(t, "sign_in", b.as["nobody"].no("GET", path, nil).Code, "a link is no session: "+path)
	}
	var link uint64
	require.NoError(t, b.s.DB.Get(&link, `SELECT l.id FROM artist_link l JOIN kit k ON k.id = l.kit_id WHERE k.code = 'K-001'`))
	b.as["maud"].yes("DELETE", fmt.Sprintf("/api/kits/K-001/links/%d", link), nil, nil)
	for _, try := range []struct {
		method, path string
		body         any
	}{
		{"GET", "", nil},
		{"GET", "/sheet.pdf", nil},
		{"POST", "/receipt", map[string]any{"name": "Jun"}},
		{"POST", "/reports", map[string]any{"key": key(), "edge": 5, "colour": 5, "hold": 5, "worn_h": 1, "words": ""}},
	} {
		assert.Equal(t, "link_ended", b.as["nobody"].no(try.method, "/api/artist/"+tokens[0]+try.path, try.body).Code, try.method+try.path)
	}
}
