package shoptest

import (
	"bytes"
	"fmt"
	"net/http"
	"os"
	"testing"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/station/form"

	"github.com/stretchr/testify/require"
)

// Mesh reads one of the handbook's meshes.
func Mesh(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile("../../craft/scan/testdata/meshes/" + name)
	require.NoError(t, err)
	return raw
}

// Upload sends a file in pieces of a size and gives the upload's number.
func (b *Bench) Upload(who, name string, raw []byte, piece int) string {
	b.T.Helper()
	var up files.Upload
	b.As[who].Yes("POST", "/api/uploads", m{"name": name, "size": len(raw), "mark": fmt.Sprintf("%s-%d", name, len(raw))}, &up)
	for at := int(up.Received); at < len(raw); at += piece {
		code, body := b.Piece(who, up.ID, at, raw[at:min(len(raw), at+piece)])
		require.Equal(b.T, http.StatusOK, code, string(body))
	}
	return up.ID
}

func (b *Bench) Piece(who, id string, at int, raw []byte) (int, []byte) {
	b.T.Helper()
	req, err := http.NewRequest("PUT", fmt.Sprintf("%s/api/uploads/%s?at=%d", b.URL, id, at), bytes.NewReader(raw))
	require.NoError(b.T, err)
	return b.Got(who, req)
}

// Scanned puts a scan of a form and one of a piece over it, and has both
// computed.
func (b *Bench) Scanned(code string, core, sculpt string) form.Scans {
	b.T.Helper()
	var f form.Form
	b.As["ivo"].Yes("POST", "/api/forms", m{"region": "face", "material": "hard stone", "place": "rack 1", "made_on": "2026-01-05"}, &f)
	var cores, out form.Scans
	b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", core, Mesh(b.T, core), 1<<20), "form": f.Code}, &cores)
	b.As["ivo"].Yes("PUT", fmt.Sprintf("/api/scans/%d", cores.Scans[0].ID), m{"unit": "mm", "version": cores.Scans[0].Version}, &cores)
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": f.Code, "fit": "general form", "note": "", "wrong": ""}, nil)
	b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", sculpt, Mesh(b.T, sculpt), 1<<20), "piece": code, "stage": "finished"}, &out)
	b.As["ivo"].Yes("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "core": cores.Scans[0].ID, "version": out.Scans[0].Version}, &out)
	require.NoError(b.T, b.S.Jobs.Settle(b.T.Context()))
	b.As["ivo"].Yes("GET", "/api/scans?piece="+code, nil, &out)
	return out
}
