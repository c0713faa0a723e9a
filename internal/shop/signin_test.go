package shop_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSignInsAreListedAndEndAtOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	second := b.Person()
	_, status := signIn(second, "ivo", "a long enough word")
	require.Equal(t, 200, status)
	var own, all []accounts.SignedIn
	second.Yes("GET", "/api/sign-ins", nil, &own)
	require.Len(t, own, 2, "a fabricator sees their own")
	b.As["maud"].Yes("GET", "/api/sign-ins", nil, &all)
	assert.Len(t, all, 4, "a lead sees everybody's")
	other := own[0]
	if other.This {
		other = own[1]
	}
	assert.NotEmpty(t, other.Device)
	assert.Equal(t, "127.0.0.1", other.Address)

	assert.Equal(t, "not_found", b.As["pip"].No("DELETE", fmt.Sprintf("/api/sign-ins/%d", other.ID), nil).Code, "not another's")
	second.Yes("DELETE", fmt.Sprintf("/api/sign-ins/%d", other.ID), nil, &own)
	assert.Len(t, own, 1)
	assert.Equal(t, "sign_in", b.As["ivo"].No("GET", "/api/pieces", nil).Code, "the ended one is nobody")
	second.Yes("GET", "/api/pieces", nil, nil)

	b.S.Accounts.Real = func() time.Time { return time.Now().Add(73 * time.Hour) }
	assert.Equal(t, "sign_in", second.No("GET", "/api/pieces", nil).Code, "three days unseen")
}

func TestWrongTriesSlowTheNext(t *testing.T) {
	b := shoptest.New(t, nil)
	now := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	b.S.Accounts.Real = func() time.Time { return now }
	// Somebody outside, by the word of the proxy in front.
	b.As["nobody"].Headers["X-Forwarded-For"] = "203.0.113.7"
	guess := func(login string) string {
		r, _ := signIn(b.As["nobody"], login, "guess")
		return r.Code
	}
	for range 5 {
		assert.Equal(t, "wrong_sign_in", guess("maud"))
	}
	r, status := signIn(b.As["nobody"], "maud", "a long enough word")
	assert.Equal(t, http.StatusTooManyRequests, status, "the right word must wait too")
	assert.Contains(t, r.Detail, "5 seconds")
	now = now.Add(6 * time.Second)
	assert.Equal(t, "wrong_sign_in", guess("maud"))
	now = now.Add(6 * time.Second)
	assert.Equal(t, "slow_down", guess("maud"), "the wait doubles")
	_, status = signIn(b.Person(), "ivo", "a long enough word")
	assert.Equal(t, 200, status, "another account is not slowed yet")
	for i := range 14 {
		guess(fmt.Sprintf("made-up-%d", i))
	}
	assert.Equal(t, "slow_down", guess("pip"), "the address is slowed in the end")
	now = now.Add(16 * time.Minute)
	_, status = signIn(b.Person(), "maud", "a long enough word")
	assert.Equal(t, 200, status, "it is forgotten after a while")
}

func TestAPasswordIsChangedAndAnAccountClosed(t *testing.T) {
	b := shoptest.New(t, nil)
	second := b.Person()
	_, status := signIn(second, "ivo", "a long enough word")
	require.Equal(t, 200, status)
	assert.Equal(t, "old", second.No("PUT", "/api/me/password", map[string]string{"old": "guess", "password": "another long word"}).Field)
	assert.Equal(t, "password", second.No("PUT", "/api/me/password", map[string]string{"old": "a long enough word", "password": "short"}).Field)
	second.Yes("PUT", "/api/me/password", map[string]string{"old": "a long enough word", "password": "another long word"}, nil)
	second.Yes("GET", "/api/pieces", nil, nil)
	assert.Equal(t, "sign_in", b.As["ivo"].No("GET", "/api/pieces", nil).Code, "the other sign-ins end")

	var people []accounts.Person
	b.As["maud"].Yes("GET", "/api/people", nil, &people)
	id := map[string]uint64{}
	for _, p := range people {
		id[p.Login] = p.ID
	}
	assert.Equal(t, "yourself", b.As["maud"].No("DELETE", fmt.Sprintf("/api/people/%d", id["maud"]), nil).Code)
	b.As["maud"].Yes("DELETE", fmt.Sprintf("/api/people/%d", id["ivo"]), nil, nil)
	assert.Equal(t, "sign_in", second.No("GET", "/api/pieces", nil).Code)
	_, status = signIn(b.Person(), "ivo", "another long word")
	assert.Equal(t, http.StatusUnauthorized, status)
	var acts []string
	require.NoError(t, b.S.DB.Select(&acts, `SELECT act FROM journal WHERE kind = 'account' AND code = 'ivo' ORDER BY id`))
	assert.Equal(t, []string{"account made", "signed in", "signed in", "password changed", "account closed"}, acts)
}

func TestTheRecordSaysWhoWhenAndFromWhichDevice(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	for i := range 70 {
		b.Clock.Set(shoptest.Monday.Add(time.Duration(i) * time.Minute))
		b.As["pip"].Yes("POST", "/api/pieces/"+code+"/notes", map[string]any{"words": fmt.Sprintf("coat %d on", i), "key": shoptest.Key()}, nil)
	}
	var page journal.Page
	b.As["maud"].Yes("GET", "/api/record?words=coat", nil, &page)
	require.Len(t, page.Entries, 60)
	assert.True(t, page.More)
	first := page.Entries[0]
	assert.Equal(t, []any{"coat 69 on", "pip", code, "Go-http-client"}, []any{first.Words, first.Who, first.Code, first.Device})
	b.As["maud"].Yes("GET", fmt.Sprintf("/api/record?words=coat&before=%d", page.Entries[59].ID), nil, &page)
	assert.Len(t, page.Entries, 10)
	assert.False(t, page.More)
	b.As["maud"].Yes("GET", "/api/record?day=2026-01-13", nil, &page)
	assert.Empty(t, page.Entries)
	b.As["maud"].Yes("GET", "/api/record?words=100%25", nil, &page)
	assert.Empty(t, page.Entries, "a percent sign is a percent sign")
	assert.Equal(t, "day", b.As["maud"].No("GET", "/api/record?day=soon", nil).Field)
	assert.Equal(t, "not_yours", b.As["ivo"].No("GET", "/api/record", nil).Code)
}

func signIn(p *shoptest.Person, login, password string) (shoptest.Refused, int) {
	var r shoptest.Refused
	return r, p.Send("POST", "/api/sign-in", map[string]string{"login": login, "password": password}, &r)
}
