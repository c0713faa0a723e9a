package shop_test

import (
	"bufio"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shop/shoptest"
)

const word = "a long enough word"

// outside is a browser somewhere else, by the word of the proxy in front.
func outside(b *shoptest.Bench, address string) *shoptest.Person {
	p := b.Person()
	p.Headers["X-Forwarded-For"] = address
	return p
}

// Three hundred wrong tries at once met no limit: all were let through before
// the first had failed.
func TestTriesThatComeAtOnceAreCounted(t *testing.T) {
	b := shoptest.New(t, nil)
	var mu sync.Mutex
	codes := map[string]int{}
	var all sync.WaitGroup
	for range 60 {
		all.Go(func() {
			r, _ := signIn(outside(b, "203.0.113.9"), "maud", "guess")
			mu.Lock()
			defer mu.Unlock()
			codes[r.Code]++
		})
	}
	all.Wait()
	assert.Equal(t, map[string]int{"wrong_sign_in": 5, "slow_down": 55}, codes)
}

func TestStrangersNeverShutTheShopOut(t *testing.T) {
	b := shoptest.New(t, nil)
	own := outside(b, "198.51.100.4")
	_, status := signIn(own, "ivo", word)
	require.Equal(t, 200, status)
	own.Yes("POST", "/api/sign-out", nil, nil)
	for range 12 {
		signIn(outside(b, "203.0.113.9"), "ivo", "guess")
	}
	r, _ := signIn(outside(b, "192.0.2.8"), "ivo", word)
	assert.Equal(t, "slow_down", r.Code, "somebody new waits")
	b.As["ivo"].Yes("GET", "/api/pieces", nil, nil)
	_, status = signIn(own, "ivo", word)
	assert.Equal(t, 200, status, "the browser that signed in before gets in")
	// It counts its own wrong tries.
	for range 5 {
		signIn(own, "ivo", "guess")
	}
	r, _ = signIn(own, "ivo", word)
	assert.Equal(t, "slow_down", r.Code)
	// And it is known for this name only.
	r, _ = signIn(own, "maud", "guess")
	assert.Equal(t, "wrong_sign_in", r.Code)
}

// The README's own set-up has a proxy on the same machine.
func TestTheProxyOfThisMachineIsBelieved(t *testing.T) {
	b := shoptest.New(t, nil)
	p := outside(b, "198.51.100.4")
	_, status := signIn(p, "ivo", word)
	require.Equal(t, 200, status)
	var open []accounts.SignedIn
	p.Yes("GET", "/api/sign-ins", nil, &open)
	assert.Equal(t, "198.51.100.4", open[0].Address)
	// A proxy that says nothing makes everybody this machine: no address is shut then.
	for i := range 40 {
		signIn(b.Person(), strings.Repeat("x", i+1), "guess")
	}
	_, status = signIn(b.Person(), "pip", word)
	assert.Equal(t, 200, status)
}

func TestAnOpenSessionCannotGuessItsPassword(t *testing.T) {
	b := shoptest.New(t, nil)
	guess := map[string]string{"old": "guess", "password": "another long word"}
	for range 5 {
		assert.Equal(t, "wrong_password", b.As["ivo"].No("PUT", "/api/me/password", guess).Code)
	}
	assert.Equal(t, "slow_down", b.As["ivo"].No("PUT", "/api/me/password", map[string]string{"old": word, "password": "another long word"}).Code)
}

// A stream of hints outlived its sign-in.
func TestAStreamEndsWithItsSignIn(t *testing.T) {
	b := shoptest.New(t, nil)
	for name, end := range map[string]func(p *shoptest.Person, id uint64){
		"signed out":      func(p *shoptest.Person, _ uint64) { p.Yes("POST", "/api/sign-out", nil, nil) },
		"ended by a lead": func(_ *shoptest.Person, id uint64) { b.As["maud"].Yes("DELETE", "/api/sign-ins/"+itoa(id), nil, nil) },
	} {
		p := b.Person()
		_, status := signIn(p, "ivo", word)
		require.Equal(t, 200, status)
		var open []accounts.SignedIn
		p.Yes("GET", "/api/sign-ins", nil, &open)
		var this uint64
		for _, o := range open {
			if o.This {
				this = o.ID
			}
		}
		res, err := p.Client.Get(b.URL + "/api/events")
		require.NoError(t, err)
		defer res.Body.Close()
		lines := bufio.NewReader(res.Body)
		_, err = lines.ReadString('\n')
		require.NoError(t, err)
		ended := make(chan error, 1)
		go func() { _, err := io.Copy(io.Discard, lines); ended <- err }()
		end(p, this)
		select {
		case <-ended:
		case <-time.After(10 * time.Second):
			t.Errorf("%s: the stream goes on", name)
		}
	}
}

// Sent again because no answer came, it must bring its cookie again.
func TestSigningInAgainWithItsKeySignsIn(t *testing.T) {
	b := shoptest.New(t, nil)
	for range 2 {
		p := b.Person()
		p.Headers[web.KeyHeader] = "3d3f2f0e-6f5e-4c7e-9d39-0d2a7a5f8b01"
		_, status := signIn(p, "ivo", word)
		require.Equal(t, 200, status)
		delete(p.Headers, web.KeyHeader)
		p.Yes("GET", "/api/pieces", nil, nil)
	}
}

func TestAClosedLoginIsOpenedAgain(t *testing.T) {
	b := shoptest.New(t, nil)
	var people []accounts.Person
	b.As["maud"].Yes("GET", "/api/people", nil, &people)
	for _, p := range people {
		if p.Login == "ivo" {
			b.As["maud"].Yes("DELETE", "/api/people/"+itoa(p.ID), nil, nil)
		}
	}
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", "/api/people", map[string]string{"login": "ivo", "name": "Ivo", "role": "fabricator", "password": "quite another word"}).Code)
	assert.Equal(t, "password", b.As["maud"].No("POST", "/api/people", map[string]string{"login": "ivo", "name": "Ivo", "role": "fabricator", "password": "short"}).Field)
	b.As["maud"].Yes("POST", "/api/people", map[string]string{"login": "ivo", "name": "Ivo", "role": "fabricator", "password": "quite another word"}, &people)
	assert.Equal(t, "sign_in", b.As["ivo"].No("GET", "/api/pieces", nil).Code, "what was open stays ended")
	_, status := signIn(b.As["ivo"], "ivo", word)
	assert.Equal(t, http.StatusUnauthorized, status, "the old word is gone")
	_, status = signIn(b.As["ivo"], "ivo", "quite another word")
	assert.Equal(t, 200, status)
	assert.Equal(t, "taken", b.As["maud"].No("POST", "/api/people", map[string]string{"login": "ivo", "name": "Ivo", "role": "fabricator", "password": "quite another word"}).Code, "an open one stays as it is")
	b.As["maud"].Yes("POST", "/api/people", map[string]string{"login": "newhand", "name": "A new hand", "role": "apprentice", "password": "a word of my own"}, &people)
	_, status = signIn(b.Person(), "newhand", "a word of my own")
	assert.Equal(t, 200, status, "and a colleague is made the same way")
}

func itoa(n uint64) string { return strconv.FormatUint(n, 10) }
