package shoptest

import (
	"bytes"
	"encoding/json"
	"io"
	"math"
	"mime/multipart"
	"net/http"
	"testing"
	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/piece"
	"yewmoor/internal/station/brief"

	"github.com/stretchr/testify/require"
)

// Drawn is a region of the glossary as an area of a piece.
func Drawn(t *testing.T, region, side string) wearmap.Mark {
	sheet := form.SheetFor(region, side)
	f, err := form.Fit(sheet, nil)
	require.NoError(t, err)
	points, ok := f.Region(region, side)
	require.True(t, ok)
	return wearmap.Mark{ID: region + side, Kind: "region", Sheet: sheet, Points: points}
}

// Round is an area round a landmark of the head, in mm.
func Round(t *testing.T, landmark string, across, up float64) wearmap.Mark {
	f, err := form.Fit("head", nil)
	require.NoError(t, err)
	p, ok := f.Landmark(landmark)
	require.True(t, ok)
	return wearmap.Mark{ID: landmark, Kind: "region", Sheet: "head", Points: f.Disc(p, across, up, 9)}
}

func (b *Bench) Brief(code string) brief.View {
	var v brief.View
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/brief", nil, &v)
	return v
}

// Put saves a draft of the brief on top of what stands.
func (b *Bench) Put(who, code string, change func(*piece.Brief)) brief.View {
	var v, out brief.View
	b.As[who].Yes("GET", "/api/pieces/"+code+"/brief", nil, &v)
	change(&v.Doc)
	b.As[who].Yes("PUT", "/api/pieces/"+code+"/brief", m{"doc": v.Doc, "base": v.State.Base, "step": v.State.Step}, &out)
	return out
}

func (b *Bench) NewPiece(name, region, side string) string {
	p, err := b.S.Pieces.Create(b.Who["maud"], piece.NewPiece{Production: "The Tallow Court", CharacterCode: "AL", CharacterName: "the alder-warden", Performer: "Siv Marrow", Name: name, Region: region, Side: side, CopiesWanted: 1})
	require.NoError(b.T, err)
	return p.Code
}

func (b *Bench) Wearer(code string) uint64 {
	p, err := piece.Find(b.T.Context(), b.S.DB, code)
	require.NoError(b.T, err)
	return *p.PerformerID
}

// On is a place on a thinned sheet, as the interface finds it.
func On(s brief.Sheet, p form.Point) form.Vec {
	x, y := (p.U-s.U0)/(s.U1-s.U0)*float64(s.Columns-1), (p.V-s.V0)/(s.V1-s.V0)*float64(s.Rows-1)
	x = math.Mod(x+2*float64(s.Columns-1), float64(s.Columns-1))
	y = math.Max(0, math.Min(y, float64(s.Rows-1)))
	i, j := min(int(x), s.Columns-2), min(int(y), s.Rows-2)
	at := func(i, j int) form.Vec {
		k := 3 * (j*s.Columns + i)
		return form.Vec{X: float64(s.Net[k]) / 10, Y: float64(s.Net[k+1]) / 10, Z: float64(s.Net[k+2]) / 10}
	}
	mix := func(a, b form.Vec, t float64) form.Vec {
		return form.Vec{X: a.X + (b.X-a.X)*t, Y: a.Y + (b.Y-a.Y)*t, Z: a.Z + (b.Z-a.Z)*t}
	}
	fx, fy := x-float64(i), y-float64(j)
	return mix(mix(at(i, j), at(i+1, j), fx), mix(at(i, j+1), at(i+1, j+1), fx), fy)
}

func (b *Bench) Pin(code, content string, fields map[string]string) (int, piece.Reference, Refused) {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	part, err := w.CreateFormFile("file", "p.png")
	require.NoError(b.T, err)
	_, err = io.WriteString(part, content)
	require.NoError(b.T, err)
	for k, v := range fields {
		require.NoError(b.T, w.WriteField(k, v))
	}
	require.NoError(b.T, w.Close())
	req, err := http.NewRequest("POST", b.URL+"/api/pieces/"+code+"/references", &body)
	require.NoError(b.T, err)
	req.Header.Set("Content-Type", w.FormDataContentType())
	res, err := b.As["pip"].Client.Do(req)
	require.NoError(b.T, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(b.T, err)
	var r piece.Reference
	var no Refused
	_ = json.Unmarshal(raw, &r)
	_ = json.Unmarshal(raw, &no)
	return res.StatusCode, r, no
}
