package shop_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"mime/multipart"
	"net"
	"net/http"
	"net/url"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/form"
)

// What an afternoon of attacking it broke, each with the request that did.

func TestOneRequestDoesNotEndTheServer(t *testing.T) {
	b := shoptest.New(t, nil)
	no := b.As["pip"].No("POST", "/api/calc/texture", m{"op": "clark_evans", "args": m{"lattice": "sq", "pitch": 1, "rows": 4, "cols": 4611686018427387929, "area": 100, "perimeter": 40}})
	assert.Equal(t, "rows", no.Field)
	no = b.As["pip"].No("POST", "/api/calc/texture", m{"op": "plan", "args": m{"layers": make([]m, 3000)}})
	assert.Equal(t, 422, no.Status)
	no = b.As["pip"].No("POST", "/api/calc/drying-and-cure", m{"model": "cure", "input": m{"system": "addition", "pot_s": 600, "demould_s": 7200, "log": []int{}}})
	assert.Equal(t, "log", no.Field)
}

func TestMadeUpMethodsMakeNoFigures(t *testing.T) {
	b := shoptest.New(t, nil)
	for i := range 40 {
		req, err := http.NewRequest(fmt.Sprintf("MADEUP%d", i), b.URL+"/api/pieces", nil)
		require.NoError(t, err)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		res.Body.Close()
	}
	res, err := http.Get(b.URL + "/metrics")
	require.NoError(t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.NotContains(t, string(raw), "MADEUP")
	assert.Contains(t, string(raw), `method="other"`)
}

// Numbers that end in none were answered with half a sentence, and one was
// agreed into a texture that then broke for everybody.
func TestNumbersAndTextsThatNothingCanHoldAreRefusedAtTheirField(t *testing.T) {
	b := shoptest.New(t, nil)
	code, v := b.Planned()
	raw, err := json.Marshal(m{"doc": v.Doc, "base": v.State.Base, "step": v.State.Step})
	require.NoError(t, err)
	text := strings.Replace(string(raw), `"layers":[{`, `"layers":[{"diameter":[1e-320,6],`, 1)
	require.Contains(t, text, "1e-320")
	no := b.As["ivo"].No("PUT", "/api/pieces/"+code+"/texture", json.RawMessage(text))
	assert.Equal(t, "doc.layers[0].diameter[0]", no.Field)
	no = b.As["maud"].No("POST", "/api/people", m{"login": "\u0000", "name": "x", "role": "lead", "password": "a long enough word"})
	assert.Equal(t, "login", no.Field)
	for _, by := range []string{"NaN", "Inf", "1e-320", "1e300"} {
		assert.Equal(t, "by", b.As["ivo"].No("GET", "/api/patterns/1?by="+by, nil).Field, by)
	}
	no = b.As["ivo"].No("GET", "/api/quantity?kind=mass&text="+url.QueryEscape("12\x1b[2J g"), nil)
	assert.Equal(t, "text", no.Field)
}

func TestWhatIsNotThereIsSaidAndNot500(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	day := m{"day": "2026-01-23", "place": "quayside", "temp_c": 8, "rh": 0.8, "light": "day", "sun": false, "rain": true}
	assert.Equal(t, 404, b.As["ivo"].No("POST", "/api/productions/999/days", day).Status)
	assert.Equal(t, 404, b.As["ivo"].No("GET", "/api/pieces/"+code+"/brief?look=nobody", nil).Status)
	res, err := b.As["ivo"].Client.Get(b.URL + "/api/pieces/" + code + "/map.svg?look=nobody")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 404, res.StatusCode, "an unknown look prints nothing rather than everything")
	for _, sha := range []string{strings.Repeat("A", 64), "x", strings.Repeat("a", 64)} {
		assert.Equal(t, 404, b.As["ivo"].No("GET", "/api/files/"+sha+"?width=480", nil).Status, sha)
	}
	long := strings.Repeat("x", 4000)
	assert.Equal(t, 422, b.As["ivo"].No("PUT", "/api/equipment", m{"name": long, "note": long}).Status)
}

// left counts what lies in the folders of files, in passing and for good.
func left(t *testing.T, dir string) (names []string) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			names = append(names, p)
		}
		return err
	}))
	return names
}

// A photograph for a copy that does not exist was decoded and kept; a form of
// more than 32 MB left its file in the temporary folder.
func TestAPictureForNothingLeavesNothing(t *testing.T) {
	temp := t.TempDir()
	t.Setenv("TMPDIR", temp)
	b := shoptest.New(t, nil)
	big := append([]byte(shoptest.Picture(t, 60, 40)), make([]byte, 33<<20)...)
	for path, fields := range map[string]map[string]string{
		"/api/copies/NO-99-a/photograph":  {"note": ""},
		"/api/pieces/NO-99/references":    {"caption": "c", "credit": "c", "view": "front", "standing": "direct"},
		"/api/pieces/NO-99/sculpt-photos": {"caption": "c"},
		"/api/moulds/photographs":         {"code": "NO-99/M1", "caption": "c"},
		"/api/kept-files":                 {"of": "lot", "code": "NO-99", "what": "label"},
	} {
		var form bytes.Buffer
		w := multipart.NewWriter(&form)
		for name, value := range fields {
			require.NoError(t, w.WriteField(name, value))
		}
		part, err := w.CreateFormFile("file", "x.png")
		require.NoError(t, err)
		_, err = part.Write(big)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		res, err := b.As["ivo"].Client.Post(b.URL+path, w.FormDataContentType(), &form)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, 404, res.StatusCode, path)
	}
	assert.Empty(t, left(t, b.S.Config.FilesDir), "nothing was taken in")
	for _, p := range left(t, temp) {
		assert.NotContains(t, p, "multipart-")
	}
}

// A half-sent piece held its upload for ever.
func TestANewerConnectionTakesAHalfSentUploadOver(t *testing.T) {
	b := shoptest.New(t, nil)
	var up files.Upload
	b.As["ivo"].Yes("POST", "/api/uploads", m{"name": "a.stl", "size": 100, "mark": "a"}, &up)
	at, err := url.Parse(b.URL)
	require.NoError(t, err)
	line, err := net.Dial("tcp", at.Host)
	require.NoError(t, err)
	defer line.Close()
	var cookies []string
	for _, c := range b.As["ivo"].Client.Jar.Cookies(at) {
		cookies = append(cookies, c.Name+"="+c.Value)
	}
	_, err = fmt.Fprintf(line, "PUT /api/uploads/%s?at=0 HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nContent-Type: application/octet-stream\r\nContent-Length: 100\r\n\r\n0123456789", up.ID, at.Host, strings.Join(cookies, "; "))
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		b.As["ivo"].Yes("GET", "/api/uploads/"+up.ID, nil, &up)
		return up.Received == 10
	}, 5*time.Second, 10*time.Millisecond)
	done := make(chan int, 1)
	go func() {
		status, _ := b.Piece("ivo", up.ID, 10, make([]byte, 90))
		done <- status
	}()
	select {
	case status := <-done:
		assert.Equal(t, 200, status)
	case <-time.After(20 * time.Second):
		t.Fatal("the upload is held")
	}
	b.As["ivo"].Yes("GET", "/api/uploads/"+up.ID, nil, &up)
	assert.Equal(t, int64(100), up.Received)
}

// A scan that was registered again because no answer came stood there twice.
func TestAnActThatIsSentAgainCountsOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	upload := b.Upload("ivo", "a.stl", []byte(tetrahedron), 1<<20)
	ivo := b.As["ivo"]
	ivo.Headers[web.KeyHeader] = uuid.NewString()
	var first, again form.Scans
	body := m{"upload": upload, "piece": code, "stage": "core"}
	ivo.Yes("POST", "/api/scans", body, &first)
	ivo.Yes("POST", "/api/scans", body, &again)
	assert.Equal(t, first, again, "the same answer")
	delete(ivo.Headers, web.KeyHeader)
	var all form.Scans
	ivo.Yes("GET", "/api/scans?piece="+code, nil, &all)
	assert.Len(t, all.Scans, 1)

	// Sent at once, by a hand that pressed twice.
	key := uuid.NewString()
	b.As["maud"].Headers[web.KeyHeader] = key
	counts := shoptest.Together(8, func(int) (int, shoptest.Refused) {
		return b.Post("maud", "/api/pieces", m{"production": "The Tallow Court", "character_code": "AL", "character_name": "the alder-warden", "performer": "Siv Marrow", "name": "Pressed twice", "region": "brow", "side": "L", "copies_wanted": 1})
	})
	delete(b.As["maud"].Headers, web.KeyHeader)
	assert.Equal(t, 8, counts["yes"]+counts["done_already"], "%v", counts)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM piece WHERE name = 'Pressed twice'`))

	// A key opens nothing for anybody else, and nothing else.
	b.As["pip"].Headers[web.KeyHeader] = key
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", "/api/people", m{"login": "x", "name": "x", "role": "lead", "password": "a long enough word"}).Code)
	delete(b.As["pip"].Headers, web.KeyHeader)
	b.As["maud"].Headers[web.KeyHeader] = "no key"
	assert.Equal(t, 422, b.As["maud"].No("POST", "/api/people", m{}).Status)
	delete(b.As["maud"].Headers, web.KeyHeader)
}

// tetrahedron is the least that is a body, 60 mm wide.
const tetrahedron = `solid t
facet normal 0 0 -1
outer loop
vertex 0 0 0
vertex 0 60 0
vertex 60 0 0
endloop
endfacet
facet normal 0 -1 0
outer loop
vertex 0 0 0
vertex 60 0 0
vertex 0 0 60
endloop
endfacet
facet normal -1 0 0
outer loop
vertex 0 0 0
vertex 0 0 60
vertex 0 60 0
endloop
endfacet
facet normal 1 1 1
outer loop
vertex 60 0 0
vertex 0 60 0
vertex 0 0 60
endloop
endfacet
endsolid t
`

// An erased fact must not live on in an answer that is kept for whoever asks again.
func TestAnErasedFactIsInNoKeptAnswer(t *testing.T) {
	b := shoptest.New(t, nil)
	id := b.Wearer(b.Begun())
	maud := b.As["maud"]
	maud.Headers[web.KeyHeader] = uuid.NewString()
	var p struct {
		Health []struct {
			ID uint64 `json:"id"`
		} `json:"health"`
	}
	maud.Yes("POST", fmt.Sprintf("/api/performers/%d/health", id), m{"substance": "latex", "status": "allergic", "note": "told at the fitting"}, &p)
	delete(maud.Headers, web.KeyHeader)
	var kept int
	require.NoError(t, b.S.DB.Get(&kept, `SELECT COUNT(*) FROM act_key WHERE answer LIKE '%told at the fitting%'`))
	require.Equal(t, 1, kept)
	maud.Yes("DELETE", fmt.Sprintf("/api/performers/%d/health/%d", id, p.Health[len(p.Health)-1].ID), nil, nil)
	require.NoError(t, b.S.DB.Get(&kept, `SELECT COUNT(*) FROM act_key WHERE answer IS NOT NULL`))
	assert.Zero(t, kept)
}

// What was seen on a shared bench left a copy in the browser.
func TestPicturesLeaveNoCopyInTheBrowser(t *testing.T) {
	b := shoptest.New(t, nil)
	_, ref, _ := b.Pin(b.Begun(), shoptest.Picture(t, 60, 40), map[string]string{"caption": "c", "credit": "c", "view": "front", "standing": "direct"})
	res, err := b.As["ivo"].Client.Get(b.URL + "/api/files/" + ref.SHA256)
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	assert.Equal(t, "no-store", res.Header.Get("Cache-Control"))
}
