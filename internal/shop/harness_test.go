package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/color"
	"image/png"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"testing"
	"testing/fstest"
	"time"

	"github.com/alexedwards/argon2id"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/station/stores"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// monday is when every test of this package begins.
var monday = time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)

// bench is a shop with three people, a clock that stands until it is set, and
// instruments that do what the test says.
type bench struct {
	t     *testing.T
	s     *Shop
	clock *clock.Fixed
	scale *device.SimulatedScale
	real  time.Time // of scale and links
	url   string
	api   huma.API
	as    map[string]*person
	who   map[string]context.Context
}

type person struct {
	b      *bench
	client *http.Client
}

func newBench(t *testing.T, sensor device.RoomSensor) *bench {
	t.Helper()
	return newBenchOn(t, dbtest.New(t), sensor)
}

func newBenchOn(t *testing.T, db *database.DB, sensor device.RoomSensor) *bench {
	t.Helper()
	b := &bench{t: t, clock: clock.NewFixed(monday), real: time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), as: map[string]*person{}, who: map[string]context.Context{}}
	b.scale = device.NewSimulatedScale(1, func() time.Time { return b.real })
	b.scale.NoiseG, b.scale.DriftGH = 0, 0
	if sensor == nil {
		sensor = steadyRoom(23)
	}
	ctx := context.Background()
	var err error
	b.s, err = New(ctx, Config{PublicURL: "https://yewmoor.test", FilesDir: t.TempDir()}, db, b.clock, b.scale, sensor)
	require.NoError(t, err)
	b.s.Accounts.Cost = &argon2id.Params{Memory: 1024, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	b.s.Handover.Real = func() time.Time { return b.real }
	handler, api, err := b.s.Handler(fstest.MapFS{})
	require.NoError(t, err)
	b.api = api
	server := httptest.NewServer(handler)
	t.Cleanup(server.Close)
	b.url = server.URL
	for login, role := range map[string]accounts.Role{"maud": accounts.Lead, "ivo": accounts.Fabricator, "pip": accounts.Apprentice} {
		p, err := b.s.Accounts.Add(ctx, login, login, role, "a long enough word", monday)
		require.NoError(t, err)
		b.who[login] = accounts.With(ctx, p)
		b.as[login] = b.person()
		require.Equal(t, 200, b.as[login].send("POST", "/api/sign-in", map[string]string{"login": login, "password": "a long enough word"}, nil))
	}
	b.as["nobody"] = b.person()
	return b
}

func (b *bench) person() *person {
	jar, err := cookiejar.New(nil)
	require.NoError(b.t, err)
	return &person{b, &http.Client{Jar: jar}}
}

// send makes a request and decodes the answer, a problem's included.
func (p *person) send(method, path string, body, into any) int {
	p.b.t.Helper()
	var raw io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		require.NoError(p.b.t, err)
		raw = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, p.b.url+path, raw)
	require.NoError(p.b.t, err)
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := p.client.Do(req)
	require.NoError(p.b.t, err)
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	require.NoError(p.b.t, err)
	if into != nil {
		require.NoError(p.b.t, json.Unmarshal(answer, into), string(answer))
	}
	return res.StatusCode
}

type refused struct {
	Code, Field, Detail string
	Status              int
	Data                json.RawMessage
}

// no sends what must be refused and returns the problem.
func (p *person) no(method, path string, body any) refused {
	p.b.t.Helper()
	var r refused
	status := p.send(method, path, body, &r)
	require.GreaterOrEqual(p.b.t, status, 400, r.Detail)
	require.Equal(p.b.t, status, r.Status)
	require.NotEmpty(p.b.t, r.Detail)
	return r
}

// yes sends what must be done.
func (p *person) yes(method, path string, body, into any) {
	p.b.t.Helper()
	var raw json.RawMessage
	status := p.send(method, path, body, &raw)
	require.Equal(p.b.t, 200, status, string(raw))
	if into != nil {
		require.NoError(p.b.t, json.Unmarshal(raw, into))
	}
}

// steadyRoom is air that never changes.
type steadyRoom float64

func (c steadyRoom) Between(from, to time.Time) []device.RoomReading {
	var out []device.RoomReading
	for at := from.Truncate(time.Minute); !at.After(to); at = at.Add(time.Minute) {
		if !at.Before(from) {
			out = append(out, device.RoomReading{At: at, TempC: float64(c), RH: 0.5})
		}
	}
	return out
}

// stocked takes in what a silicone mix needs.
func (b *bench) stocked() {
	for _, l := range []stores.NewLot{
		{Material: "silicone-gel", Code: "K-old", AmountA: "400 g", AmountB: "400 g", ExpiresOn: "2026-02-01"},
		{Material: "silicone-gel", Code: "K-new", AmountA: "2 kg", AmountB: "2 kg", ExpiresOn: "2026-09-01"},
		{Material: "softener", Code: "S-1", Amount: "1 kg", ExpiresOn: "2026-09-01"},
	} {
		_, err := b.s.Stores.Receive(b.who["maud"], l)
		require.NoError(b.t, err)
	}
}

// begun is a piece with an agreed brief and an encapsulated silicone section.
func (b *bench) begun() string {
	ctx := b.who["maud"]
	p, err := b.s.Pieces.Create(ctx, piece.NewPiece{Production: "The Tallow Court", CharacterCode: "BF", CharacterName: "the bell-founder", Performer: "Oren Thale", Name: "Cheek", Region: "cheek", CopiesWanted: 2})
	require.NoError(b.t, err)
	err = b.s.Pieces.SaveBrief(ctx, p.Code, piece.Brief{Camera: "medium", AreaCM2: 34, KeepFree: []string{}, Features: []piece.Feature{}}, 0, 0)
	require.NoError(b.t, err)
	err = b.s.Pieces.AgreeBrief(ctx, p.Code, nil)
	require.NoError(b.t, err)
	_, err = b.s.Pieces.SaveSection(ctx, p.Code, plain(), 0, 0)
	require.NoError(b.t, err)
	_, err = b.s.Pieces.AgreeSection(ctx, p.Code, nil)
	require.NoError(b.t, err)
	return p.Code
}

func plain() section.Section {
	s := section.Start(34)
	s.Layers = append(s.Layers,
		section.Layer{ID: "in", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.02},
		section.Layer{ID: "body", Kind: section.Silicone, Material: "silicone-gel", CentreMM: 6},
		section.Layer{ID: "out", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.02})
	return s
}

func order(code string, more map[string]any) map[string]any {
	o := map[string]any{"piece": code, "material": "silicone-gel", "additions": []map[string]any{{"material": "softener", "percent": 50}},
		"amount": map[string]any{"area": map[string]any{"area_cm2": 34, "mean_mm": 2}, "copies": 1, "spare": 0, "waste": 0.15, "density": 0}}
	for k, v := range more {
		o[k] = v
	}
	return o
}

func key() string { return uuid.NewString() }

// aPicture is a PNG whose left half is dark and whose right half is light.
func aPicture(t *testing.T, w, h int) string {
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

// uploadForm is an upload as a browser sends it.
func uploadForm(t *testing.T, content string) (io.Reader, string) {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	part, err := w.CreateFormFile("file", "photograph.png")
	require.NoError(t, err)
	_, err = part.Write([]byte(content))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return &body, w.FormDataContentType()
}
