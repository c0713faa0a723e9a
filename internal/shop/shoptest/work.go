package shoptest

import (
	"io"
	"net/http"
	"strings"
	"time"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/mix"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func CopyTo(w io.Writer, res *http.Response) (int64, error) {
	defer res.Body.Close()
	return io.Copy(w, res.Body)
}

// Weighed plans a mix and puts it on the scale with the cup zeroed.
func (b *Bench) Weighed(code string) mix.View {
	var v mix.View
	b.As["ivo"].Yes("POST", "/api/mixes", Order(code, nil), &v)
	b.Scale.Put(30)
	b.Settle()
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/begin", nil, nil)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/tare", nil, &v)
	return v
}

func (b *Bench) Settle() { b.Real = b.Real.Add(2 * time.Second) }

func (b *Bench) PourG(g float64) {
	b.Scale.Put(g)
	b.Settle()
}

func (b *Bench) IsIn(v *mix.View) {
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", map[string]any{"seq": v.Current, "key": Key()}, v)
}

func (b *Bench) OnHand(code, part string) float64 {
	var g float64
	require.NoError(b.T, b.S.DB.Get(&g, `SELECT SUM(m.grams) FROM movement m JOIN lot l ON l.id = m.lot_id WHERE l.code = ? AND l.part = ?`, code, part))
	return g
}

// Poured carries a mix to its copies.
func (b *Bench) Poured(code string, moulds ...string) []string {
	v := b.Weighed(code)
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.IsIn(&v)
	}
	var out mix.Poured
	if len(moulds) == 0 {
		moulds = []string{""}
	}
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/pour", map[string]any{"moulds": moulds}, &out)
	b.Scale.Clear()
	return out.Copies
}

func (b *Bench) Pot(copyCode string) build.Pot {
	var shelf build.Shelf
	b.As["pip"].Yes("GET", "/api/pots", nil, &shelf)
	for _, p := range shelf.Pots {
		if p.Copy == copyCode {
			return p
		}
	}
	b.T.Fatalf("no pot for %s", copyCode)
	return build.Pot{}
}

// Link goes through the life of an artist's link.
func (b *Bench) Link(copyCode string) {
	t := b.T
	var made struct{ URL, Token string }
	b.As["maud"].Yes("POST", "/api/kits/K-001/links", map[string]any{"days": 2}, &made)
	assert.Equal(t, "https://yewmoor.test/artist/"+made.Token, made.URL)
	var n int
	require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM artist_link WHERE HEX(token_hash) = HEX(?) OR token_hash = UNHEX(SHA2(?, 256))`, made.Token, made.Token))
	assert.Equal(t, 1, n, "only the hash is stored")
	page := "/api/artist/" + made.Token
	assert.Equal(t, "name", b.As["nobody"].No("POST", page+"/receipt", map[string]any{"name": " "}).Field)
	b.As["nobody"].Yes("POST", page+"/receipt", map[string]any{"name": "Jun Abbot"}, nil)
	b.As["nobody"].Yes("POST", page+"/receipt", map[string]any{"name": "Somebody Else"}, nil)
	report := map[string]any{"key": Key(), "edge": 5, "colour": 4, "hold": 5, "worn_h": 5, "words": "held"}
	var view struct {
		SignedName string `json:"signed_name"`
		Reports    []any
		Cautions   []string
		Copies     []struct{ Code string }
	}
	for range 2 {
		b.As["nobody"].Yes("POST", page+"/reports", report, &view)
	}
	assert.Equal(t, "Jun Abbot", view.SignedName, "the first signature stands")
	assert.Len(t, view.Reports, 1, "sent twice, kept once")
	assert.Equal(t, copyCode, view.Copies[0].Code)
	for _, path := range []string{"/api/kits/K-001/sheet.pdf", "/api/kits/K-001/label.pdf?link=" + made.Token} {
		res, err := b.As["pip"].Client.Get(b.URL + path)
		require.NoError(t, err)
		var body strings.Builder
		_, err = CopyTo(&body, res)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(body.String(), "%PDF-"), path)
	}
	b.Real = b.Real.Add(49 * time.Hour)
	assert.Equal(t, "link_ended", b.As["nobody"].No("GET", page, nil).Code, "it runs out on real time")
}

// Photograph uploads a picture; what is no picture is refused.
func (b *Bench) Photograph(copyCode string) {
	for content, want := range map[string]int{"<script>alert(1)</script>": 422, "\x89PNG\r\n\x1a\n0000": 422, Picture(b.T, 90, 60): 200} {
		body, kind := UploadForm(b.T, content)
		req, err := http.NewRequest("POST", b.URL+"/api/copies/"+copyCode+"/photograph", body)
		require.NoError(b.T, err)
		req.Header.Set("Content-Type", kind)
		res, err := b.As["pip"].Client.Do(req)
		require.NoError(b.T, err)
		res.Body.Close()
		assert.Equal(b.T, want, res.StatusCode)
	}
}
