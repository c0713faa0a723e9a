package shop

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"image/png"
	"math"
	"net/http"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/station/form"
)

// mesh reads one of the handbook's meshes.
func mesh(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile("../craft/scan/testdata/meshes/" + name)
	require.NoError(t, err)
	return raw
}

// upload sends a file in pieces of a size and gives the upload's number.
func (b *bench) upload(who, name string, raw []byte, piece int) string {
	b.t.Helper()
	var up files.Upload
	b.as[who].yes("POST", "/api/uploads", m{"name": name, "size": len(raw), "mark": fmt.Sprintf("%s-%d", name, len(raw))}, &up)
	for at := int(up.Received); at < len(raw); at += piece {
		code, body := b.piece(who, up.ID, at, raw[at:min(len(raw), at+piece)])
		require.Equal(b.t, http.StatusOK, code, string(body))
	}
	return up.ID
}

func (b *bench) piece(who, id string, at int, raw []byte) (int, []byte) {
	b.t.Helper()
	req, err := http.NewRequest("PUT", fmt.Sprintf("%s/api/uploads/%s?at=%d", b.url, id, at), bytes.NewReader(raw))
	require.NoError(b.t, err)
	return b.got(who, req)
}

// scanned puts a scan of a form and one of a piece over it, and has both
// computed.
func (b *bench) scanned(code string, core, sculpt string) form.Scans {
	b.t.Helper()
	var f form.Form
	b.as["ivo"].yes("POST", "/api/forms", m{"region": "face", "material": "hard stone", "place": "rack 1", "made_on": "2026-01-05"}, &f)
	var cores, out form.Scans
	b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", core, mesh(b.t, core), 1<<20), "form": f.Code}, &cores)
	b.as["ivo"].yes("PUT", fmt.Sprintf("/api/scans/%d", cores.Scans[0].ID), m{"unit": "mm", "version": cores.Scans[0].Version}, &cores)
	b.as["ivo"].yes("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": f.Code, "fit": "general form", "note": "", "wrong": ""}, nil)
	b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", sculpt, mesh(b.t, sculpt), 1<<20), "piece": code, "stage": "finished"}, &out)
	b.as["ivo"].yes("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "core": cores.Scans[0].ID, "version": out.Scans[0].Version}, &out)
	require.NoError(b.t, b.s.Jobs.Settle(b.t.Context()))
	b.as["ivo"].yes("GET", "/api/scans?piece="+code, nil, &out)
	return out
}

// A sculpt over its core: what the handbook's case says of the cap, by the way
// of upload, jobs and answer.
func TestAScanIsMeasuredOverItsCore(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	out := b.scanned(code, "cap_core.ply", "cap_sculpt.stl")
	require.Len(t, out.Scans, 1)
	require.Len(t, out.Cores, 1, "the core of the form that it is built on")
	s := out.Scans[0]
	require.Equal(t, "done", s.Look.State, s.Look.Detail)
	require.NotNil(t, s.Measured, "%+v", s.Measuring)
	k := s.Measured
	assert.InEpsilon(t, 16484.4, k.Thickness.CavityMM3, 0.002)
	assert.InDelta(t, 4.121, k.Thickness.Mean, 0.01)
	assert.InDelta(t, 205, k.Thickness.EdgeLength, 2)
	assert.Empty(t, k.Thickness.Contacts)
	assert.True(t, k.Best)
	assert.NotEmpty(t, k.Masses)

	// The pictures that the 3-D view draws, and the flat one.
	status, raw := b.file("ivo", "/api/surfaces/"+k.OverCore)
	require.Equal(t, http.StatusOK, status)
	require.Equal(t, "YWM1", string(raw[:4]))
	n := binary.LittleEndian.Uint32(raw[4:])
	most := float32(0)
	for i := range n {
		if v := math.Float32frombits(binary.LittleEndian.Uint32(raw[len(raw)-4*int(n-i):])); v > most {
			most = v
		}
	}
	assert.InDelta(t, 8, most, 0.01, "the thickest place is on the picture")
	status, raw = b.file("ivo", fmt.Sprintf("/api/scans/%d/map.png?view=top", s.ID))
	require.Equal(t, http.StatusOK, status)
	img, err := png.Decode(bytes.NewReader(raw))
	require.NoError(t, err)
	seen := map[[3]uint32]bool{}
	for x := range img.Bounds().Dx() {
		r, g, bl, _ := img.At(x, img.Bounds().Dy()/2).RGBA()
		seen[[3]uint32{r >> 11, g >> 11, bl >> 11}] = true
	}
	assert.Greater(t, len(seen), 6, "bands of thickness are drawn")
	status, _ = b.file("ivo", "/api/surfaces/"+s.SHA256)
	assert.Equal(t, http.StatusNotFound, status, "an original is no picture")
	status, raw = b.file("ivo", fmt.Sprintf("/api/scans/%d/file", s.ID))
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, mesh(t, "cap_sculpt.stl"), raw, "the original is kept as it came")

	// Another pull is another question; the old answer is not asked for again.
	var again form.Scans
	b.as["ivo"].yes("POST", fmt.Sprintf("/api/scans/%d/measure", s.ID), m{"mode": "one", "dir": []float64{0, 0, 1}}, &again)
	assert.Equal(t, "waiting", again.Scans[0].Measuring.State)
	require.NoError(t, b.s.Jobs.Settle(t.Context()))
	b.as["ivo"].yes("GET", "/api/scans?piece="+code, nil, &again)
	assert.Equal(t, [3]float64{0, 0, 1}, [3]float64(again.Scans[0].Measured.Pull.Direction))
	assert.False(t, again.Scans[0].Measured.Best)
	require.Len(t, again.Scans[0].Measured.Vents, 1, "poured face up it has one top")
	assert.InDelta(t, 58, again.Scans[0].Measured.Vents[0].Value, 0.1)
	b.as["ivo"].yes("POST", fmt.Sprintf("/api/scans/%d/measure", s.ID), m{}, &again)
	assert.Equal(t, "done", again.Scans[0].Measuring.State, "it was worked out before")
	assert.Equal(t, "BAD_DIRECTION", b.as["ivo"].no("POST", fmt.Sprintf("/api/scans/%d/measure", s.ID), m{"mode": "one", "dir": []float64{0, 0, 0}}).Code)
}

func TestTheCoreContactIsFound(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	out := b.scanned(code, "sphere.ply", "dimple_sculpt.ply")
	k := out.Scans[0].Measured
	require.NotNil(t, k, "%+v", out.Scans[0].Measuring)
	require.Len(t, k.Thickness.Contacts, 1)
	assert.InEpsilon(t, 537.6, k.Thickness.Contacts[0].AreaMM2, 0.005)
	assert.NotEmpty(t, k.Thin)
	var found form.Found
	b.as["pip"].yes("GET", "/api/pieces/"+code+"/measured", nil, &found)
	assert.Equal(t, "core_contact", found.Places[0].Kind, "where copies are checked it is told first")
	assert.InDelta(t, 5.4, found.Places[0].AreaCM2, 0.1)
	assert.Empty(t, found.ProfileMM, "what covers all of its core has no edge to run out to")
}

// Two scans of one piece at different stages are compared.
// What a scan found goes on: into the section as a measured thickness, to where
// copies are checked, and on to paper.
func TestFindingsGoToTheSectionAndToPaper(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	var found form.Found
	b.as["maud"].yes("GET", "/api/pieces/"+code+"/measured", nil, &found)
	assert.Zero(t, found.Scan)
	assert.Empty(t, found.Places)

	out := b.scanned(code, "cap_core.ply", "cap_sculpt.stl")
	b.as["maud"].yes("GET", "/api/pieces/"+code+"/measured", nil, &found)
	require.Equal(t, out.Scans[0].ID, found.Scan)
	assert.Empty(t, found.Places)
	require.Len(t, found.ProfileMM, 17)

	var view piece.SectionView
	b.as["maud"].yes("GET", "/api/pieces/"+code+"/section", nil, &view)
	doc := view.Doc
	at := slices.IndexFunc(doc.Layers, func(l section.Layer) bool { return l.Kind == section.Silicone })
	doc.AreaCM2 = found.AreaCM2
	body := &doc.Layers[at]
	body.Measured = &section.Measured{Scan: found.Scan, Name: found.Name, ProfileMM: found.ProfileMM}
	put := m{"doc": doc, "base": view.State.Base, "step": view.State.Step}
	no := b.as["maud"].no("PUT", "/api/pieces/"+code+"/section", put)
	assert.Equal(t, fmt.Sprintf("layers[%d].measured", at), no.Field, "centre and edge are not the measured ones")
	body.CentreMM, body.EdgeMM = found.ProfileMM[0], found.ProfileMM[16]
	put["doc"] = doc
	b.as["maud"].yes("PUT", "/api/pieces/"+code+"/section", put, &view)
	r := view.Result.Layers[at]
	assert.InDelta(t, found.MeanMM, r.MeanMM, 0.006, "the mean is the measured one")
	assert.InEpsilon(t, found.VolumeML, r.MassG/1.07, 0.1, "area × mean is lower on a round core, by the tenth that it is here")
	assert.Contains(t, view.Result.Words[at], "as measured")

	status, raw := b.file("ivo", fmt.Sprintf("/api/scans/%d/thickness.pdf", found.Scan))
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "%PDF", string(raw[:4]))
	status, _ = b.file("ivo", fmt.Sprintf("/api/scans/%d/thickness.pdf", out.Cores[0].ID))
	assert.Equal(t, http.StatusConflict, status, "a core is over nothing")
}

func TestTwoStagesAreCompared(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	var out form.Scans
	for _, name := range []string{"sphere.ply", "dimple_sculpt.ply"} {
		b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", name, mesh(t, name), 1<<20), "piece": code, "stage": name}, &out)
		b.as["ivo"].yes("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "stage": name, "version": 1}, &out)
	}
	path := fmt.Sprintf("/api/scans/%d/change", out.Scans[0].ID)
	var c form.Compared
	b.as["ivo"].yes("POST", path, m{"earlier": out.Scans[1].ID}, &c)
	assert.Nil(t, c.Change)
	require.NoError(t, b.s.Jobs.Settle(t.Context()))
	b.as["ivo"].yes("POST", path, m{"earlier": out.Scans[1].ID}, &c)
	require.NotNil(t, c.Change, c.Job.Detail)
	assert.InDelta(t, 6, c.Change.MeanSigned, 4, "the dimple stands up to 6 mm above the ball")
	assert.Equal(t, "unknown_value", b.as["ivo"].no("POST", path, m{"earlier": out.Scans[0].ID}).Code)
	b.as["ivo"].yes("DELETE", fmt.Sprintf("/api/scans/%d", out.Scans[1].ID), nil, &out)
	assert.Len(t, out.Scans, 1)
}

// A line that breaks costs one piece; nothing is taken twice, nobody goes on
// with somebody else's.
func TestAnUploadGoesOnWhereItWas(t *testing.T) {
	b := newBench(t, nil)
	raw := mesh(t, "cap_sculpt.stl")
	begin := m{"name": "cap.stl", "size": len(raw), "mark": "cap 1"}
	var up files.Upload
	b.as["ivo"].yes("POST", "/api/uploads", begin, &up)
	code, _ := b.piece("ivo", up.ID, 0, raw[:1000])
	require.Equal(t, http.StatusOK, code)
	code, body := b.piece("ivo", up.ID, 0, raw[:1000])
	assert.Equal(t, http.StatusConflict, code, "the answer was lost and it is sent again")
	assert.Contains(t, string(body), "1000 bytes of it are there")
	var again files.Upload
	b.as["ivo"].yes("POST", "/api/uploads", begin, &again)
	assert.Equal(t, up.ID, again.ID)
	assert.EqualValues(t, 1000, again.Received)
	assert.Equal(t, "not_whole", b.as["ivo"].no("POST", "/api/scans", m{"upload": up.ID, "piece": b.begun()}).Code)
	code, _ = b.piece("maud", up.ID, 1000, raw[1000:])
	assert.Equal(t, http.StatusNotFound, code)
	assert.Equal(t, "EMPTY_FILE", b.as["ivo"].no("POST", "/api/uploads", m{"name": "x.stl", "size": 0, "mark": "x"}).Code)
	assert.Equal(t, "too_large", b.as["ivo"].no("POST", "/api/uploads", m{"name": "x.stl", "size": 1 << 40, "mark": "y"}).Code)
	b.as["ivo"].yes("DELETE", "/api/uploads/"+up.ID, nil, nil)
	assert.Equal(t, "not_found", b.as["ivo"].no("GET", "/api/uploads/"+up.ID, nil).Code)

	// What nobody went on with is swept up.
	b.as["ivo"].yes("POST", "/api/uploads", begin, &up)
	b.s.Form.Uploads.Now = func() time.Time { return time.Now().Add(100 * time.Hour) }
	require.NoError(t, b.s.Form.Uploads.Tidy(t.Context()))
	assert.Equal(t, "not_found", b.as["ivo"].no("GET", "/api/uploads/"+up.ID, nil).Code)
}

// What is wrong with a file is said in words, at the scan; the file is kept.
func TestABrokenScanSaysWhatIsWrong(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	for name, want := range map[string]string{"bad_truncated.stl": "TRUNCATED", "bad_nan.stl": "BAD_NUMBER", "bad_point_cloud.ply": "NO_TRIANGLES", "bad_unknown.bin": "UNKNOWN_FORMAT"} {
		var out form.Scans
		b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", name, mesh(t, name), 1<<20), "piece": code}, &out)
		require.NoError(t, b.s.Jobs.Settle(t.Context()))
		b.as["ivo"].yes("GET", "/api/scans?piece="+code, nil, &out)
		assert.Equal(t, "failed", out.Scans[0].Look.State, name)
		assert.Equal(t, want, out.Scans[0].Look.Code, name)
		assert.NotEmpty(t, out.Scans[0].Look.Detail)
	}
}

// A unit that is no plain millimetre is asked about, never scaled silently.
func TestACoreIsTheScanOfAForm(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", "box.obj", mesh(t, "box.obj"), 1<<20), "piece": code}, nil)
	for _, core := range []int{1, 99} {
		no := b.as["ivo"].no("POST", "/api/scans", m{"upload": b.upload("ivo", fmt.Sprintf("dome-%d.ply", core), mesh(t, "dome_tilted.ply"), 1<<20), "piece": code, "core": core})
		assert.Equal(t, "core", no.Field, "%+v", no)
	}
}

func TestAUnitIsAskedFor(t *testing.T) {
	b := newBench(t, nil)
	code := b.newPiece("Whole head", "scalp", "")
	var f form.Form
	b.as["ivo"].yes("POST", "/api/forms", m{"region": "scalp", "material": "hard stone", "place": "rack 1", "made_on": "2026-01-05"}, &f)
	var cores, out form.Scans
	b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", "head_in_metres.stl", mesh(t, "head_in_metres.stl"), 1<<20), "form": f.Code}, &cores)
	require.NoError(t, b.s.Jobs.Settle(t.Context()))
	b.as["ivo"].yes("GET", "/api/scans?form="+f.Code, nil, &cores)
	require.NotNil(t, cores.Scans[0].Looked)
	assert.Equal(t, "m", cores.Scans[0].Looked.UnitGuess.Name)
	b.as["ivo"].yes("POST", "/api/scans", m{"upload": b.upload("ivo", "head_sculpt.ply", mesh(t, "head_sculpt.ply"), 1<<20), "piece": code, "core": cores.Scans[0].ID}, &out)
	require.NoError(t, b.s.Jobs.Settle(t.Context()))
	b.as["ivo"].yes("GET", "/api/scans?piece="+code, nil, &out)
	assert.Equal(t, "UNITS_GUESS", out.Scans[0].Measuring.Code)
	assert.Contains(t, out.Scans[0].Measuring.Detail, "Say which unit it is in")
	assert.Equal(t, "moved_on", b.as["ivo"].no("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "version": 7}).Code)
	assert.Equal(t, "out_of_range", b.as["ivo"].no("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "noise_mm": 9, "version": 1}).Code)
}

// A server that is killed loses its lease and the next one goes on; two beside
// each other never do the same; three that end over one give it up.
func TestAJobOutlivesItsServer(t *testing.T) {
	b := newBench(t, nil)
	ctx := t.Context()
	other := jobs.New(b.s.DB, b.s.Live)
	did := make(chan string, 8)
	work := func(name string, wait time.Duration) jobs.Work {
		return func(ctx context.Context, input json.RawMessage, say jobs.Say) (any, error) {
			say(0.5, "half way")
			select {
			case <-time.After(wait):
				did <- name
				return m{"by": name}, nil
			case <-ctx.Done():
				return nil, ctx.Err()
			}
		}
	}
	b.s.Jobs.Does("test", work("first", 0))
	other.Does("test", work("other", 0))
	ask := func(n int) (id uint64) {
		require.NoError(t, b.s.DB.InTx(ctx, func(tx database.Tx) (err error) {
			id, err = b.s.Jobs.Ask(ctx, tx, "test", m{"n": n})
			return err
		}))
		return id
	}
	state := func(id uint64) jobs.Job {
		all, err := b.s.Jobs.Read(ctx, b.s.DB, id)
		require.NoError(t, err)
		return all[id]
	}
	id := ask(1)
	assert.Equal(t, id, ask(1), "the same question is the same job")
	require.NoError(t, other.Settle(ctx))
	require.NoError(t, b.s.Jobs.Settle(ctx))
	assert.Len(t, did, 1, "once")
	assert.Equal(t, "done", state(id).State)

	// Held by a server that is gone.
	id = ask(2)
	_, err := b.s.DB.Exec(`UPDATE job SET state = 'running', holder = UUID(), lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND, tries = 1 WHERE id = ?`, id)
	require.NoError(t, err)
	require.NoError(t, other.Settle(ctx))
	assert.JSONEq(t, `{"by":"other"}`, string(state(id).Result))

	// Held by one that lives: nobody else takes it.
	id = ask(3)
	_, err = b.s.DB.Exec(`UPDATE job SET state = 'running', holder = UUID(), lease_until = UTC_TIMESTAMP(6) + INTERVAL 60 SECOND, tries = 1 WHERE id = ?`, id)
	require.NoError(t, err)
	require.NoError(t, other.Settle(ctx))
	assert.Equal(t, "running", state(id).State)
	require.NoError(t, b.s.Jobs.Stop(ctx, id))
	assert.Equal(t, "stopped", state(id).State)
	assert.Equal(t, id, ask(3))
	assert.Equal(t, "waiting", state(id).State, "asked again it is begun anew")

	// Three servers ended over it.
	_, err = b.s.DB.Exec(`UPDATE job SET tries = 3 WHERE id = ?`, id)
	require.NoError(t, err)
	require.NoError(t, other.Settle(ctx))
	assert.Equal(t, "given_up", state(id).Code)

	// A fault in the work ends the job, not the server.
	b.s.Jobs.Does("falls over", func(context.Context, json.RawMessage, jobs.Say) (any, error) { panic("oh") })
	require.NoError(t, b.s.DB.InTx(ctx, func(tx database.Tx) (err error) { id, err = b.s.Jobs.Ask(ctx, tx, "falls over", 1); return err }))
	require.NoError(t, b.s.Jobs.Settle(ctx))
	assert.Equal(t, "fell_over", state(id).Code)
}

// A job that is stopped while it runs ends within seconds; one that runs when
// the server ends waits for the next.
func TestAJobIsStoppedWhileItRuns(t *testing.T) {
	b := newBench(t, nil)
	began := make(chan struct{}, 2)
	b.s.Jobs.Does("long", func(ctx context.Context, _ json.RawMessage, say jobs.Say) (any, error) {
		say(0.2, "under way")
		began <- struct{}{}
		<-ctx.Done()
		return nil, ctx.Err()
	})
	ask := func(n int) (id uint64) {
		require.NoError(t, b.s.DB.InTx(t.Context(), func(tx database.Tx) (err error) {
			id, err = b.s.Jobs.Ask(t.Context(), tx, "long", n)
			return err
		}))
		return id
	}
	state := func(id uint64) string {
		all, err := b.s.Jobs.Read(t.Context(), b.s.DB, id)
		require.NoError(t, err)
		return all[id].State
	}
	ctx, end := context.WithCancel(t.Context())
	ended := make(chan struct{})
	go func() { b.s.Jobs.Run(ctx); close(ended) }()
	id := ask(1)
	<-began
	require.NoError(t, b.s.Jobs.Stop(t.Context(), id))
	next := ask(2)
	<-began // it let go of the first and took the second
	assert.Equal(t, "stopped", state(id))
	end()
	<-ended
	assert.Equal(t, "waiting", state(next), "a server that ends in good order hands it back")
}

func TestFormsAreChosenAndDescribed(t *testing.T) {
	b := newBench(t, nil)
	code := b.newPiece("Nose", "nose", "")
	var on form.BuiltOn
	b.as["ivo"].yes("GET", "/api/pieces/"+code+"/form", nil, &on)
	assert.Equal(t, "own cast", on.Fit, "nostrils must line up")
	assert.NotEmpty(t, on.Wrong)
	var f form.Form
	b.as["ivo"].yes("POST", "/api/forms", m{"region": "face", "kind": "general form", "material": "hard stone", "place": "rack 1", "made_on": "2026-01-05", "taken_how": "poured from a stand"}, &f)
	b.as["ivo"].yes("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": f.Code, "fit": "own cast", "note": "sits high", "wrong": ""}, &on)
	assert.Contains(t, on.Wrong, "not the wearer's own cast")
	b.as["ivo"].yes("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": f.Code, "fit": "anything of that shape", "note": "", "wrong": ""}, &on)
	assert.Empty(t, on.Wrong)
	assert.Equal(t, "unknown_value", b.as["ivo"].no("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": "F-999", "fit": "own cast", "note": "", "wrong": ""}).Code)
	b.as["ivo"].yes("PUT", "/api/forms/"+f.Code, m{"place": "bench", "state": "chipped brow", "taken_how": "poured", "version": 1}, &f)
	assert.Equal(t, "chipped brow", f.State)
	assert.Equal(t, "moved_on", b.as["maud"].no("PUT", "/api/forms/"+f.Code, m{"place": "x", "state": "", "taken_how": "", "version": 1}).Code)
	require.NotNil(t, f.Pieces)
	assert.Equal(t, code, *f.Pieces)
	status, tag := b.file("ivo", "/api/forms/F-001/label.pdf")
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "%PDF", string(tag[:4]))
	status, _ = b.file("ivo", "/api/forms/F-999/label.pdf")
	assert.Equal(t, http.StatusNotFound, status)
}

// The clock of a life cast starts only when everything on the list was seen;
// then it is written down, and a form comes of it.
func TestALifeCastFromPlanToForm(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	var who string
	require.NoError(t, b.s.DB.Get(&who, `SELECT w.name FROM performer w JOIN `+"`character`"+` c ON c.performer_id = w.id JOIN piece q ON q.character_id = c.id WHERE q.code = ?`, code))
	assert.Equal(t, "out_of_range", b.as["ivo"].no("POST", "/api/life-casts", m{"performer": who, "region": "face", "plan": m{"way": "alginate", "area_cm2": 350, "face": true, "water_c": 70}}).Code)
	var l form.LifeCast
	b.as["ivo"].yes("POST", "/api/life-casts", m{"performer": who, "region": "face", "plan": m{"way": "alginate", "area_cm2": 0, "face": false}}, &l)
	assert.True(t, l.Plan.Face, "a face is a face, whatever was sent")
	assert.Equal(t, 350.0, l.Plan.AreaCM2)
	path := fmt.Sprintf("/api/life-casts/%d", l.ID)
	assert.Equal(t, "held_back", b.as["ivo"].no("POST", path+"/begin", m{}).Code)
	assert.Equal(t, "not_begun", b.as["ivo"].no("POST", path+"/events", m{"kind": "mixed", "key": uuid.NewString()}).Code)
	assert.Equal(t, "unknown_value", b.as["ivo"].no("POST", path+"/ticks", m{"item": "luck"}).Code)
	for i, c := range l.Plan.Checks {
		if i == len(l.Plan.Checks)-1 {
			assert.Equal(t, "held_back", b.as["ivo"].no("POST", path+"/begin", m{}).Code, "one is left")
		}
		b.as["ivo"].yes("POST", path+"/ticks", m{"item": c.Key}, nil)
	}
	b.as["ivo"].yes("POST", path+"/begin", m{}, &l)
	require.NotNil(t, l.BeganAt)
	key := uuid.NewString()
	for range 2 {
		b.as["ivo"].yes("POST", path+"/events", m{"kind": "sagged", "words": "left cheek", "key": key}, &l)
	}
	assert.Len(t, l.Events, 1, "sent again it is written once")
	b.as["ivo"].yes("POST", path+"/end", m{"verdict": "good, cheek filled", "register": true, "material": "hard stone", "place": "rack 3"}, &l)
	require.NotNil(t, l.Form)
	assert.Equal(t, "over", b.as["ivo"].no("POST", path+"/events", m{"kind": "note", "key": uuid.NewString()}).Code)
	assert.Equal(t, "over", b.as["ivo"].no("POST", path+"/end", m{"verdict": "", "register": false}).Code)
}
