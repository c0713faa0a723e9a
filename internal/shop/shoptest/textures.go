package shoptest

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"mime/multipart"
	"net/http"
	"testing"
	"yewmoor/internal/piece"
	"yewmoor/internal/station/sculpt"

	"github.com/stretchr/testify/require"
)

// Scales are a plan that can be pressed: five rows of two stamps.
func Scales(seed int) m {
	return m{"seed": seed, "region": m{"preset": "tile", "params": m{"w": 60, "h": 40}}, "feather_mm": 4, "pitch_mm": 0.3, "layers": []m{
		{"kind": "scales", "id": "s", "size": []float64{8, 5}, "stamps": []m{{"id": "S1", "od": 7.5, "squash": 0.8}, {"id": "S2", "od": 5, "squash": 0.8, "squash_b": 0.65}}}}}
}

func (b *Bench) Texture(who, code string) sculpt.View {
	b.T.Helper()
	var v sculpt.View
	b.As[who].Yes("GET", "/api/pieces/"+code+"/texture", nil, &v)
	return v
}

func (b *Bench) SaveTexture(who, code string, doc m) sculpt.View {
	b.T.Helper()
	var v sculpt.View
	st := b.Texture(who, code).State
	b.As[who].Yes("PUT", "/api/pieces/"+code+"/texture", m{"doc": doc, "base": st.Base, "step": st.Step}, &v)
	return v
}

// Planned is a piece with an agreed plan of scales.
func (b *Bench) Planned() (string, sculpt.View) {
	b.T.Helper()
	code := b.Begun()
	b.SaveTexture("ivo", code, Scales(3))
	var v sculpt.View
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/texture/agree", nil, &v)
	return code, v
}

func Itoa(n uint64) string { raw, _ := json.Marshal(n); return string(raw) }

// Sent uploads a file as a form.
func (b *Bench) Sent(who, path string, fields map[string]string, file []byte) (int, []byte) {
	b.T.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for k, v := range fields {
		require.NoError(b.T, form.WriteField(k, v))
	}
	if file != nil {
		part, err := form.CreateFormFile("file", "a.png")
		require.NoError(b.T, err)
		_, err = part.Write(file)
		require.NoError(b.T, err)
	}
	require.NoError(b.T, form.Close())
	req, err := http.NewRequest("POST", b.URL+path, &body)
	require.NoError(b.T, err)
	req.Header.Set("Content-Type", form.FormDataContentType())
	return b.Got(who, req)
}

func (b *Bench) Got(who string, req *http.Request) (int, []byte) {
	b.T.Helper()
	res, err := b.As[who].Client.Do(req)
	require.NoError(b.T, err)
	defer res.Body.Close()
	var out bytes.Buffer
	_, err = out.ReadFrom(res.Body)
	require.NoError(b.T, err)
	return res.StatusCode, out.Bytes()
}

func (b *Bench) File(who, path string) (int, []byte) {
	req, err := http.NewRequest("GET", b.URL+path, nil)
	require.NoError(b.T, err)
	return b.Got(who, req)
}

func PNG(t *testing.T, img image.Image) []byte {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, img))
	return out.Bytes()
}

func (b *Bench) SculptPhoto(code, caption string) []sculpt.Photo {
	b.T.Helper()
	status, raw := b.Sent("pip", "/api/pieces/"+code+"/sculpt-photos", map[string]string{"caption": caption, "painted": "yes"}, PNG(b.T, image.NewRGBA(image.Rect(0, 0, 60, 40))))
	require.Equal(b.T, 200, status, string(raw))
	var list []sculpt.Photo
	require.NoError(b.T, json.Unmarshal(raw, &list))
	return list
}

// BegunAs is a second piece of the same character.
func (b *Bench) BegunAs(code string) string {
	b.T.Helper()
	p, err := piece.Find(b.T.Context(), b.S.DB, code)
	require.NoError(b.T, err)
	other, err := b.S.Pieces.Create(b.Who["maud"], piece.NewPiece{Production: p.Production, CharacterCode: p.CharacterCode, Name: "Another", Region: "chin", CopiesWanted: 1})
	require.NoError(b.T, err)
	return other.Code
}
