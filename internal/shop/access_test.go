package shop_test

import (
	"net/http"
	"strings"
	"testing"
	"testing/fstest"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

// Every operation of the API, read from its own document, is shoptest.Refused without
// a session and with a role that may not. Operations without a rule fail.
func TestEveryOperationAsksWhoCalls(t *testing.T) {
	b := shoptest.New(t, nil)
	writes, openOnes := 0, []string{}
	for path, item := range b.API.OpenAPI().Paths {
		for method, op := range map[string]any{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "DELETE": item.Delete} {
			access, url := accessOf(t, b, path, method)
			if access == nil {
				continue
			}
			_ = op
			if access[0] == "everyone" {
				openOnes = append(openOnes, method+" "+path)
				continue
			}
			if method != "GET" {
				writes++
			}
			assert.Equal(t, "sign_in", b.As["nobody"].No(method, url, map[string]any{}).Code, method+" "+path)
			for login, role := range map[string]accounts.Role{"ivo": accounts.Fabricator, "pip": accounts.Apprentice} {
				if !contains(access, role) {
					assert.Equal(t, "not_yours", b.As[login].No(method, url, map[string]any{}).Code, "%s %s as %s", method, path, role)
				}
			}
		}
	}
	assert.Greater(t, writes, 35)
	assert.ElementsMatch(t, []string{"GET /api/me", "GET /api/sign-in/people", "POST /api/sign-in", "POST /api/sign-out", "GET /api/clock",
		"GET /api/artist/{token}", "POST /api/artist/{token}/receipt", "POST /api/artist/{token}/reports", "POST /api/artist/{token}/ticks",
		"POST /api/artist/{token}/recalls/{recall}", "GET /api/artist/{token}/heard"}, openOnes, "open to everyone, on purpose")
}

func TestPlainHandlersAskToo(t *testing.T) {
	b := shoptest.New(t, nil)
	h, _, err := b.S.Handler(fstest.MapFS{})
	require.NoError(t, err)
	e, isEngine := h.(*web.Engine)
	require.True(t, isEngine)
	asked, opened := 0, []string{}
	for _, p := range e.Plains {
		if p.Access[0] == "everyone" {
			opened = append(opened, strings.TrimPrefix(p.Path, "/api/artist/:token/"))
			continue
		}
		asked++
		path := strings.NewReplacer(":code", "BF-01", ":sha", "abc", ":id", "1", ":of", "BF-01").Replace(p.Path)
		assert.Equal(t, http.StatusUnauthorized, b.As["nobody"].Send(p.Method, path, nil, nil), path)
	}
	assert.Equal(t, 52, asked)
	assert.ElementsMatch(t, []string{"sheet.pdf", "packing.pdf", "run.pdf", "performer.pdf", "removal.pdf", "day.ics", "app.webmanifest", "maps/:piece", "pictures/:sha",
		"reports/:key/pictures"}, opened, "open to everyone, on purpose: by an artist's link")
}

func TestPasswordsAreAskedAndKeptAsHashes(t *testing.T) {
	b := shoptest.New(t, nil)
	assert.Equal(t, "wrong_sign_in", b.As["nobody"].No("POST", "/api/sign-in", map[string]string{"login": "maud", "password": "guess"}).Code)
	assert.Equal(t, "wrong_sign_in", b.As["nobody"].No("POST", "/api/sign-in", map[string]string{"login": "maud"}).Code, "no password opens no door")
	assert.Equal(t, "wrong_sign_in", b.As["nobody"].No("POST", "/api/sign-in", map[string]string{"login": "noone", "password": "guess"}).Code)
	var hash string
	require.NoError(t, b.S.DB.Get(&hash, `SELECT password_hash FROM person WHERE login = 'maud'`))
	assert.True(t, strings.HasPrefix(hash, "$argon2id$"), hash)
	_, err := b.S.Accounts.Add(t.Context(), "x", "X", accounts.Lead, "short", shoptest.Monday)
	assert.Error(t, err)
	var people []any
	b.As["nobody"].Yes("GET", "/api/sign-in/people", nil, &people)
	assert.Empty(t, people, "a real installation offers nobody")

	b.As["ivo"].Yes("POST", "/api/sign-out", map[string]any{}, nil)
	assert.Equal(t, "sign_in", b.As["ivo"].No("GET", "/api/pieces", nil).Code)
}

func TestAnotherSitesPageCannotWrite(t *testing.T) {
	b := shoptest.New(t, nil)
	req, err := http.NewRequest("POST", b.URL+"/api/pieces", strings.NewReader(`{}`))
	require.NoError(t, err)
	req.Header.Set("Origin", "https://elsewhere.test")
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	res, err := b.As["maud"].Client.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, http.StatusForbidden, res.StatusCode)
}

func TestTheMachinesQuestionsAreAnswered(t *testing.T) {
	b := shoptest.New(t, nil)
	for path, want := range map[string]string{"/healthz": "ok", "/readyz": "ready", "/metrics": "yewmoor_request_seconds"} {
		res, err := http.Get(b.URL + path)
		require.NoError(t, err)
		var body strings.Builder
		_, err = shoptest.CopyTo(&body, res)
		require.NoError(t, err)
		assert.Equal(t, http.StatusOK, res.StatusCode)
		assert.Contains(t, body.String(), want)
	}
}

func accessOf(t *testing.T, b *shoptest.Bench, path, method string) (web.Access, string) {
	item := b.API.OpenAPI().Paths[path]
	op := map[string]any{}
	meta := func(m map[string]any) { op = m }
	switch {
	case method == "GET" && item.Get != nil:
		meta(item.Get.Metadata)
	case method == "POST" && item.Post != nil:
		meta(item.Post.Metadata)
	case method == "PUT" && item.Put != nil:
		meta(item.Put.Metadata)
	case method == "DELETE" && item.Delete != nil:
		meta(item.Delete.Metadata)
	default:
		return nil, ""
	}
	access, ok := op["access"].(web.Access)
	require.True(t, ok, "%s %s has no rule who may call it", method, path)
	return access, strings.NewReplacer("{code}", "BF-01", "{id}", "1", "{fact}", "1", "{n}", "1", "{name}", "x", "{kind}", "lot", "{token}", "x", "{feature}", "f1", "{sheet}", "head").Replace(path)
}

func contains(a web.Access, r accounts.Role) bool {
	for _, x := range a {
		if x == r {
			return true
		}
	}
	return false
}
