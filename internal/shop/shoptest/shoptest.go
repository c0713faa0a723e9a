// Package shoptest is the bench that the rooms' tests stand at: a whole shop on a
// database of its own, reached over HTTP as people reach it, with the acts that
// tests begin with.
package shoptest

import (
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/color"
	"image/png"
	"io"
	"maps"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"testing"
	"testing/fstest"
	"time"

	"yewmoor/internal/craft/advise"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shop"
	"yewmoor/internal/station/stores"

	"github.com/alexedwards/argon2id"
	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
)

// Monday is when every test of this package begins.
var Monday = time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)

// Bench is a shop with three people, a clock that stands until it is set, and
// instruments that do what the test says.
type Bench struct {
	T     *testing.T
	S     *shop.Shop
	Clock *clock.Fixed
	Scale *device.SimulatedScale
	Real  time.Time // of scale and links
	URL   string
	API   huma.API
	As    map[string]*Person
	Who   map[string]context.Context
}

// Person is a browser that somebody is signed in with, or nobody.
type Person struct {
	b      *Bench
	Client *http.Client
	// Headers go with every request: the word of a proxy, the key of an act.
	Headers map[string]string
}

// New is a bench on a schema of its own; without a sensor the room is steady at
// 23 °C.
func New(t *testing.T, sensor device.RoomSensor) *Bench {
	t.Helper()
	return NewOn(t, dbtest.New(t), sensor)
}

// NewOn is a bench on a database.
func NewOn(t *testing.T, db *database.DB, sensor device.RoomSensor) *Bench {
	t.Helper()
	b := &Bench{T: t, Clock: clock.NewFixed(Monday), Real: time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), As: map[string]*Person{}, Who: map[string]context.Context{}}
	b.Scale = device.NewSimulatedScale(1, func() time.Time { return b.Real })
	b.Scale.NoiseG, b.Scale.DriftGH = 0, 0
	if sensor == nil {
		sensor = SteadyRoom(23)
	}
	ctx := context.Background()
	var err error
	b.S, err = shop.New(ctx, shop.Config{PublicURL: "https://yewmoor.test", FilesDir: t.TempDir()}, db, b.Clock, b.Scale, sensor)
	require.NoError(t, err)
	b.S.Brief.Forecast, b.S.Brief.Reader = device.SimulatedForecast{Seed: 1}, &device.SimulatedReader{Seed: 1}
	b.S.Accounts.Cost = &argon2id.Params{Memory: 1024, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	b.S.Handover.Real = func() time.Time { return b.Real }
	for _, name := range advise.Equipment {
		_, err := b.S.DB.Exec(`INSERT IGNORE INTO equipment (name, has, note, version) VALUES (?, TRUE, '', 0)`, name)
		require.NoError(t, err)
	}
	handler, api, err := b.S.Handler(fstest.MapFS{})
	require.NoError(t, err)
	b.API = api
	server := httptest.NewServer(handler)
	t.Cleanup(server.Close)
	b.URL = server.URL
	for login, role := range map[string]accounts.Role{"maud": accounts.Lead, "ivo": accounts.Fabricator, "pip": accounts.Apprentice} {
		p, err := b.S.Accounts.Add(ctx, login, login, role, "a long enough word", Monday)
		require.NoError(t, err)
		b.Who[login] = accounts.With(ctx, p)
		b.As[login] = b.Person()
		require.Equal(t, 200, b.As[login].Send("POST", "/api/sign-in", map[string]string{"login": login, "password": "a long enough word"}, nil))
	}
	b.As["nobody"] = b.Person()
	return b
}

func (b *Bench) Person() *Person {
	jar, err := cookiejar.New(nil)
	require.NoError(b.T, err)
	return &Person{b, &http.Client{Jar: jar}, map[string]string{}}
}

// quiet are acts that name no change: signing in and out changes everything,
// and a comparison of scans and a morning that is tried are read by asking for them.
var quiet = regexp.MustCompile(`^/api/(sign-in|sign-out|scans/\d+/change|mixes/sheet|lists/read|stock/can-make|kits/[^/]+/chair/try|plan/try)$`)

// Send makes a request and decodes the answer, a problem's included.
func (p *Person) Send(method, path string, body, into any) int {
	p.b.T.Helper()
	var raw io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		require.NoError(p.b.T, err)
		raw = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, p.b.URL+path, raw)
	require.NoError(p.b.T, err)
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	for name, value := range p.Headers {
		req.Header.Set(name, value)
	}
	res, err := p.Client.Do(req)
	require.NoError(p.b.T, err)
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	require.NoError(p.b.T, err)
	if into != nil {
		require.NoError(p.b.T, json.Unmarshal(answer, into), string(answer))
	}
	if _, names := res.Header[web.ChangesHeader]; method != http.MethodGet && !quiet.MatchString(path) && res.StatusCode == http.StatusOK && !names {
		p.b.T.Errorf("%s %s recorded something and told nobody of it", method, path)
	}
	return res.StatusCode
}

// Because is the same person saying why they go on, as the interface asks them to.
func (p *Person) Because(why string) *Person {
	with := *p
	with.Headers = maps.Clone(p.Headers)
	with.Headers[web.BecauseHeader] = url.PathEscape(why)
	return &with
}

type Refused struct {
	Code, Field, Detail string
	Status              int
	Data                json.RawMessage
}

// No sends what must be Refused and returns the problem.
func (p *Person) No(method, path string, body any) Refused {
	p.b.T.Helper()
	var r Refused
	status := p.Send(method, path, body, &r)
	require.GreaterOrEqual(p.b.T, status, 400, r.Detail)
	require.Equal(p.b.T, status, r.Status)
	require.NotEmpty(p.b.T, r.Detail)
	return r
}

// Yes sends what must be done.
func (p *Person) Yes(method, path string, body, into any) {
	p.b.T.Helper()
	var raw json.RawMessage
	status := p.Send(method, path, body, &raw)
	require.Equal(p.b.T, 200, status, string(raw))
	if into != nil {
		require.NoError(p.b.T, json.Unmarshal(raw, into))
	}
}

// SteadyRoom is air that never changes.
type SteadyRoom float64

func (c SteadyRoom) Between(from, to time.Time) []device.RoomReading {
	var out []device.RoomReading
	for at := from.Truncate(time.Minute); !at.After(to); at = at.Add(time.Minute) {
		if !at.Before(from) {
			out = append(out, device.RoomReading{At: at, TempC: float64(c), RH: 0.5})
		}
	}
	return out
}

// Stocked takes in what a silicone mix needs.
func (b *Bench) Stocked() {
	for _, l := range []stores.NewLot{
		{Material: "silicone-gel", Code: "K-old", AmountA: "400 g", AmountB: "400 g", ExpiresOn: "2026-02-01"},
		{Material: "silicone-gel", Code: "K-new", AmountA: "2 kg", AmountB: "2 kg", ExpiresOn: "2026-09-01"},
		{Material: "softener", Code: "S-1", Amount: "1 kg", ExpiresOn: "2026-09-01"},
	} {
		_, err := b.S.Stores.Receive(b.Who["maud"], l)
		require.NoError(b.T, err)
	}
}

// Begun is a piece with an agreed brief and an encapsulated silicone section.
func (b *Bench) Begun() string {
	ctx := b.Who["maud"]
	p, err := b.S.Pieces.Create(ctx, piece.NewPiece{Production: "The Tallow Court", CharacterCode: "BF", CharacterName: "the bell-founder", Performer: "Oren Thale", Name: "Cheek", Region: "cheek", CopiesWanted: 2})
	require.NoError(b.T, err)
	err = b.S.Pieces.SaveBrief(ctx, p.Code, piece.Brief{Camera: "medium", AreaCM2: 34, KeepFree: []string{}, Features: []piece.Feature{}}, 0, 0)
	require.NoError(b.T, err)
	err = b.S.Pieces.AgreeBrief(ctx, p.Code, nil)
	require.NoError(b.T, err)
	_, err = b.S.Pieces.SaveSection(ctx, p.Code, Plain(), 0, 0)
	require.NoError(b.T, err)
	_, err = b.S.Pieces.AgreeSection(ctx, p.Code, nil)
	require.NoError(b.T, err)
	return p.Code
}

func Plain() section.Section {
	s := section.Start(34)
	s.Layers = append(s.Layers,
		section.Layer{ID: "in", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.02},
		section.Layer{ID: "body", Kind: section.Silicone, Material: "silicone-gel", CentreMM: 6},
		section.Layer{ID: "out", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.02})
	return s
}

func Order(code string, more map[string]any) map[string]any {
	o := map[string]any{"piece": code, "recipe": "sheet-silicone-gel", "additions": []map[string]any{{"material": "softener", "percent": 50}}, "lots": []any{}, "split": map[string]any{},
		"amount": map[string]any{"area": map[string]any{"area_cm2": 34, "mean_mm": 2}, "copies": 1, "spare": 0, "waste": 0.15, "density": 0}}
	for k, v := range more {
		o[k] = v
	}
	return o
}

func Key() string { return uuid.NewString() }

// Picture is a PNG whose left half is dark and whose right half is light.
func Picture(t *testing.T, w, h int) string {
	img := image.NewGray(image.Rect(0, 0, w, h))
	for y := range h {
		for x := w / 2; x < w; x++ {
			img.SetGray(x, y, color.Gray{200})
		}
	}
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, img))
	return out.String()
}

// UploadForm is an upload as a browser sends it.
func UploadForm(t *testing.T, content string) (io.Reader, string) {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	part, err := w.CreateFormFile("file", "photograph.png")
	require.NoError(t, err)
	_, err = part.Write([]byte(content))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return &body, w.FormDataContentType()
}
