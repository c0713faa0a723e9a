package form_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"image/png"
	"math"
	"net/http"
	"slices"
	"testing"
	"time"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/form"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

// A sculpt over its core: what the handbook's case says of the cap, by the way
// of upload, jobs and answer.
func TestAScanIsMeasuredOverItsCore(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	out := b.Scanned(code, "cap_core.ply", "cap_sculpt.stl")
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
	status, raw := b.File("ivo", "/api/surfaces/"+k.OverCore)
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
	status, raw = b.File("ivo", fmt.Sprintf("/api/scans/%d/map.png?view=top", s.ID))
	require.Equal(t, http.StatusOK, status)
	img, err := png.Decode(bytes.NewReader(raw))
	require.NoError(t, err)
	seen := map[[3]uint32]bool{}
	for x := range img.Bounds().Dx() {
		r, g, bl, _ := img.At(x, img.Bounds().Dy()/2).RGBA()
		seen[[3]uint32{r >> 11, g >> 11, bl >> 11}] = true
	}
	assert.Greater(t, len(seen), 6, "bands of thickness are drawn")
	status, _ = b.File("ivo", "/api/surfaces/"+s.SHA256)
	assert.Equal(t, http.StatusNotFound, status, "an original is no picture")
	status, raw = b.File("ivo", fmt.Sprintf("/api/scans/%d/file", s.ID))
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, shoptest.Mesh(t, "cap_sculpt.stl"), raw, "the original is kept as it came")

	// Another pull is another question; the old answer is not asked for again.
	var again form.Scans
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/scans/%d/measure", s.ID), m{"mode": "one", "dir": []float64{0, 0, 1}}, &again)
	assert.Equal(t, "waiting", again.Scans[0].Measuring.State)
	require.NoError(t, b.S.Jobs.Settle(t.Context()))
	b.As["ivo"].Yes("GET", "/api/scans?piece="+code, nil, &again)
	assert.Equal(t, [3]float64{0, 0, 1}, [3]float64(again.Scans[0].Measured.Pull.Direction))
	assert.False(t, again.Scans[0].Measured.Best)
	require.Len(t, again.Scans[0].Measured.Vents, 1, "poured face up it has one top")
	assert.InDelta(t, 58, again.Scans[0].Measured.Vents[0].Value, 0.1)
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/scans/%d/measure", s.ID), m{}, &again)
	assert.Equal(t, "done", again.Scans[0].Measuring.State, "it was worked out before")
	assert.Equal(t, "BAD_DIRECTION", b.As["ivo"].No("POST", fmt.Sprintf("/api/scans/%d/measure", s.ID), m{"mode": "one", "dir": []float64{0, 0, 0}}).Code)
}

func TestTheCoreContactIsFound(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	out := b.Scanned(code, "sphere.ply", "dimple_sculpt.ply")
	k := out.Scans[0].Measured
	require.NotNil(t, k, "%+v", out.Scans[0].Measuring)
	require.Len(t, k.Thickness.Contacts, 1)
	assert.InEpsilon(t, 537.6, k.Thickness.Contacts[0].AreaMM2, 0.005)
	assert.NotEmpty(t, k.Thin)
	var found form.Found
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/measured", nil, &found)
	assert.Equal(t, "core_contact", found.Places[0].Kind, "where copies are checked it is told first")
	assert.InDelta(t, 5.4, found.Places[0].AreaCM2, 0.1)
	assert.Empty(t, found.ProfileMM, "what covers all of its core has no edge to run out to")
}

// Two scans of one piece at different stages are compared.
// What a scan found goes on: into the section as a measured thickness, to where
// copies are checked, and on to paper.
func TestFindingsGoToTheSectionAndToPaper(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var found form.Found
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/measured", nil, &found)
	assert.Zero(t, found.Scan)
	assert.Empty(t, found.Places)

	out := b.Scanned(code, "cap_core.ply", "cap_sculpt.stl")
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/measured", nil, &found)
	require.Equal(t, out.Scans[0].ID, found.Scan)
	assert.Empty(t, found.Places)
	require.Len(t, found.ProfileMM, 17)

	var view piece.SectionView
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/section", nil, &view)
	doc := view.Doc
	at := slices.IndexFunc(doc.Layers, func(l section.Layer) bool { return l.Kind == section.Silicone })
	doc.AreaCM2 = found.AreaCM2
	body := &doc.Layers[at]
	body.Measured = &section.Measured{Scan: found.Scan, Name: found.Name, ProfileMM: found.ProfileMM}
	put := m{"doc": doc, "base": view.State.Base, "step": view.State.Step}
	no := b.As["maud"].No("PUT", "/api/pieces/"+code+"/section", put)
	assert.Equal(t, fmt.Sprintf("layers[%d].measured", at), no.Field, "centre and edge are not the measured ones")
	body.CentreMM, body.EdgeMM = found.ProfileMM[0], found.ProfileMM[16]
	put["doc"] = doc
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", put, &view)
	r := view.Result.Layers[at]
	assert.InEpsilon(t, found.MeanMM, doc.DrawnML(material.NewShelf(library(t)))/doc.AreaCM2*10, 0.002, "what is drawn has the mean that was measured")
	assert.InEpsilon(t, found.VolumeML, r.MassG/1.07, 1e-3, "what is believed is the scanned volume: on a round core a tenth more than area × mean")
	assert.InEpsilon(t, found.VolumeML, r.MeanMM*found.AreaCM2/10, 1e-3)
	assert.Contains(t, view.Result.Words[at], "as measured")

	status, raw := b.File("ivo", fmt.Sprintf("/api/scans/%d/thickness.pdf", found.Scan))
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "%PDF", string(raw[:4]))
	status, _ = b.File("ivo", fmt.Sprintf("/api/scans/%d/thickness.pdf", out.Cores[0].ID))
	assert.Equal(t, http.StatusConflict, status, "a core is over nothing")
}

func TestTwoStagesAreCompared(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var out form.Scans
	for _, name := range []string{"sphere.ply", "dimple_sculpt.ply"} {
		b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", name, shoptest.Mesh(t, name), 1<<20), "piece": code, "stage": name}, &out)
		b.As["ivo"].Yes("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "stage": name, "version": 1}, &out)
	}
	path := fmt.Sprintf("/api/scans/%d/change", out.Scans[0].ID)
	var c form.Compared
	b.As["ivo"].Yes("POST", path, m{"earlier": out.Scans[1].ID}, &c)
	assert.Nil(t, c.Change)
	require.NoError(t, b.S.Jobs.Settle(t.Context()))
	b.As["ivo"].Yes("POST", path, m{"earlier": out.Scans[1].ID}, &c)
	require.NotNil(t, c.Change, c.Job.Detail)
	assert.InDelta(t, 6, c.Change.MeanSigned, 4, "the dimple stands up to 6 mm above the ball")
	assert.Equal(t, "unknown_value", b.As["ivo"].No("POST", path, m{"earlier": out.Scans[0].ID}).Code)
	b.As["ivo"].Yes("DELETE", fmt.Sprintf("/api/scans/%d", out.Scans[1].ID), nil, &out)
	assert.Len(t, out.Scans, 1)
}

// A line that breaks costs one piece; nothing is taken twice, nobody goes on
// with somebody else's.
func TestAnUploadGoesOnWhereItWas(t *testing.T) {
	b := shoptest.New(t, nil)
	raw := shoptest.Mesh(t, "cap_sculpt.stl")
	begin := m{"name": "cap.stl", "size": len(raw), "mark": "cap 1"}
	var up files.Upload
	b.As["ivo"].Yes("POST", "/api/uploads", begin, &up)
	code, _ := b.Piece("ivo", up.ID, 0, raw[:1000])
	require.Equal(t, http.StatusOK, code)
	code, body := b.Piece("ivo", up.ID, 0, raw[:1000])
	assert.Equal(t, http.StatusConflict, code, "the answer was lost and it is sent again")
	assert.Contains(t, string(body), "1000 bytes of it are there")
	var again files.Upload
	b.As["ivo"].Yes("POST", "/api/uploads", begin, &again)
	assert.Equal(t, up.ID, again.ID)
	assert.EqualValues(t, 1000, again.Received)
	assert.Equal(t, "not_whole", b.As["ivo"].No("POST", "/api/scans", m{"upload": up.ID, "piece": b.Begun()}).Code)
	code, _ = b.Piece("maud", up.ID, 1000, raw[1000:])
	assert.Equal(t, http.StatusNotFound, code)
	assert.Equal(t, "EMPTY_FILE", b.As["ivo"].No("POST", "/api/uploads", m{"name": "x.stl", "size": 0, "mark": "x"}).Code)
	assert.Equal(t, "too_large", b.As["ivo"].No("POST", "/api/uploads", m{"name": "x.stl", "size": 1 << 40, "mark": "y"}).Code)
	b.As["ivo"].Yes("DELETE", "/api/uploads/"+up.ID, nil, nil)
	assert.Equal(t, "not_found", b.As["ivo"].No("GET", "/api/uploads/"+up.ID, nil).Code)

	// What nobody went on with is swept up.
	b.As["ivo"].Yes("POST", "/api/uploads", begin, &up)
	b.S.Form.Uploads.Now = func() time.Time { return time.Now().Add(100 * time.Hour) }
	require.NoError(t, b.S.Form.Uploads.Tidy(t.Context()))
	assert.Equal(t, "not_found", b.As["ivo"].No("GET", "/api/uploads/"+up.ID, nil).Code)
}

// What is wrong with a file is said in words, at the scan; the file is kept.
func TestABrokenScanSaysWhatIsWrong(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	for name, want := range map[string]string{"bad_truncated.stl": "TRUNCATED", "bad_nan.stl": "BAD_NUMBER", "bad_point_cloud.ply": "NO_TRIANGLES", "bad_unknown.bin": "UNKNOWN_FORMAT"} {
		var out form.Scans
		b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", name, shoptest.Mesh(t, name), 1<<20), "piece": code}, &out)
		require.NoError(t, b.S.Jobs.Settle(t.Context()))
		b.As["ivo"].Yes("GET", "/api/scans?piece="+code, nil, &out)
		assert.Equal(t, "failed", out.Scans[0].Look.State, name)
		assert.Equal(t, want, out.Scans[0].Look.Code, name)
		assert.NotEmpty(t, out.Scans[0].Look.Detail)
	}
}

// A unit that is no plain millimetre is asked about, never scaled silently.
func TestACoreIsTheScanOfAForm(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", "box.obj", shoptest.Mesh(t, "box.obj"), 1<<20), "piece": code}, nil)
	for _, core := range []int{1, 99} {
		no := b.As["ivo"].No("POST", "/api/scans", m{"upload": b.Upload("ivo", fmt.Sprintf("dome-%d.ply", core), shoptest.Mesh(t, "dome_tilted.ply"), 1<<20), "piece": code, "core": core})
		assert.Equal(t, "core", no.Field, "%+v", no)
	}
}

func TestAUnitIsAskedFor(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Whole head", "scalp", "")
	var f form.Form
	b.As["ivo"].Yes("POST", "/api/forms", m{"region": "scalp", "material": "hard stone", "place": "rack 1", "made_on": "2026-01-05"}, &f)
	var cores, out form.Scans
	b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", "head_in_metres.stl", shoptest.Mesh(t, "head_in_metres.stl"), 1<<20), "form": f.Code}, &cores)
	require.NoError(t, b.S.Jobs.Settle(t.Context()))
	b.As["ivo"].Yes("GET", "/api/scans?form="+f.Code, nil, &cores)
	require.NotNil(t, cores.Scans[0].Looked)
	assert.Equal(t, "m", cores.Scans[0].Looked.UnitGuess.Name)
	b.As["ivo"].Yes("POST", "/api/scans", m{"upload": b.Upload("ivo", "head_sculpt.ply", shoptest.Mesh(t, "head_sculpt.ply"), 1<<20), "piece": code, "core": cores.Scans[0].ID}, &out)
	require.NoError(t, b.S.Jobs.Settle(t.Context()))
	b.As["ivo"].Yes("GET", "/api/scans?piece="+code, nil, &out)
	assert.Equal(t, "UNITS_GUESS", out.Scans[0].Measuring.Code)
	assert.Contains(t, out.Scans[0].Measuring.Detail, "Say which unit it is in")
	assert.Equal(t, "moved_on", b.As["ivo"].No("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "version": 7}).Code)
	assert.Equal(t, "out_of_range", b.As["ivo"].No("PUT", fmt.Sprintf("/api/scans/%d", out.Scans[0].ID), m{"unit": "mm", "noise_mm": 9, "version": 1}).Code)
}

// A server that is killed loses its lease and the next one goes on; two beside
// each other never do the same; three that end over one give it up.
func TestAJobOutlivesItsServer(t *testing.T) {
	b := shoptest.New(t, nil)
	ctx := t.Context()
	other := jobs.New(b.S.DB, b.S.Live)
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
	b.S.Jobs.Does("test", work("first", 0))
	other.Does("test", work("other", 0))
	ask := func(n int) (id uint64) {
		require.NoError(t, b.S.DB.InTx(ctx, func(tx database.Tx) (err error) {
			id, err = b.S.Jobs.Ask(ctx, tx, "test", m{"n": n})
			return err
		}))
		return id
	}
	state := func(id uint64) jobs.Job {
		all, err := b.S.Jobs.Read(ctx, b.S.DB, id)
		require.NoError(t, err)
		return all[id]
	}
	id := ask(1)
	assert.Equal(t, id, ask(1), "the same question is the same job")
	require.NoError(t, other.Settle(ctx))
	require.NoError(t, b.S.Jobs.Settle(ctx))
	assert.Len(t, did, 1, "once")
	assert.Equal(t, "done", state(id).State)

	// Held by a server that is gone.
	id = ask(2)
	_, err := b.S.DB.Exec(`UPDATE job SET state = 'running', holder = UUID(), lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND, tries = 1 WHERE id = ?`, id)
	require.NoError(t, err)
	require.NoError(t, other.Settle(ctx))
	assert.JSONEq(t, `{"by":"other"}`, string(state(id).Result))

	// Held by one that lives: nobody else takes it.
	id = ask(3)
	_, err = b.S.DB.Exec(`UPDATE job SET state = 'running', holder = UUID(), lease_until = UTC_TIMESTAMP(6) + INTERVAL 60 SECOND, tries = 1 WHERE id = ?`, id)
	require.NoError(t, err)
	require.NoError(t, other.Settle(ctx))
	assert.Equal(t, "running", state(id).State)
	require.NoError(t, b.S.Jobs.Stop(ctx, id))
	assert.Equal(t, "stopped", state(id).State)
	assert.Equal(t, id, ask(3))
	assert.Equal(t, "waiting", state(id).State, "asked again it is begun anew")

	// Three servers ended over it.
	_, err = b.S.DB.Exec(`UPDATE job SET tries = 3 WHERE id = ?`, id)
	require.NoError(t, err)
	require.NoError(t, other.Settle(ctx))
	assert.Equal(t, "given_up", state(id).Code)

	// A fault in the work ends the job, not the server.
	b.S.Jobs.Does("falls over", func(context.Context, json.RawMessage, jobs.Say) (any, error) { panic("oh") })
	require.NoError(t, b.S.DB.InTx(ctx, func(tx database.Tx) (err error) { id, err = b.S.Jobs.Ask(ctx, tx, "falls over", 1); return err }))
	require.NoError(t, b.S.Jobs.Settle(ctx))
	assert.Equal(t, "fell_over", state(id).Code)
}

// A job that is stopped while it runs ends within seconds; one that runs when
// the server ends waits for the next.
func TestAJobIsStoppedWhileItRuns(t *testing.T) {
	b := shoptest.New(t, nil)
	began := make(chan struct{}, 2)
	b.S.Jobs.Does("long", func(ctx context.Context, _ json.RawMessage, say jobs.Say) (any, error) {
		say(0.2, "under way")
		began <- struct{}{}
		<-ctx.Done()
		return nil, ctx.Err()
	})
	ask := func(n int) (id uint64) {
		require.NoError(t, b.S.DB.InTx(t.Context(), func(tx database.Tx) (err error) {
			id, err = b.S.Jobs.Ask(t.Context(), tx, "long", n)
			return err
		}))
		return id
	}
	state := func(id uint64) string {
		all, err := b.S.Jobs.Read(t.Context(), b.S.DB, id)
		require.NoError(t, err)
		return all[id].State
	}
	ctx, end := context.WithCancel(t.Context())
	ended := make(chan struct{})
	go func() { b.S.Jobs.Run(ctx); close(ended) }()
	id := ask(1)
	<-began
	require.NoError(t, b.S.Jobs.Stop(t.Context(), id))
	next := ask(2)
	<-began // it let go of the first and took the second
	assert.Equal(t, "stopped", state(id))
	end()
	<-ended
	assert.Equal(t, "waiting", state(next), "a server that ends in good order hands it back")
}

func TestFormsAreChosenAndDescribed(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Nose", "nose", "")
	var on form.BuiltOn
	b.As["ivo"].Yes("GET", "/api/pieces/"+code+"/form", nil, &on)
	assert.Equal(t, "own cast", on.Fit, "nostrils must line up")
	assert.NotEmpty(t, on.Wrong)
	var f form.Form
	b.As["ivo"].Yes("POST", "/api/forms", m{"region": "face", "kind": "general form", "material": "hard stone", "place": "rack 1", "made_on": "2026-01-05", "taken_how": "poured from a stand"}, &f)
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": f.Code, "fit": "own cast", "note": "sits high", "wrong": ""}, &on)
	assert.Contains(t, on.Wrong, "not the wearer's own cast")
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": f.Code, "fit": "anything of that shape", "note": "", "wrong": ""}, &on)
	assert.Empty(t, on.Wrong)
	assert.Equal(t, "unknown_value", b.As["ivo"].No("PUT", "/api/pieces/"+code+"/form", m{"piece": code, "form": "F-999", "fit": "own cast", "note": "", "wrong": ""}).Code)
	b.As["ivo"].Yes("PUT", "/api/forms/"+f.Code, m{"place": "bench", "state": "chipped brow", "taken_how": "poured", "version": 1}, &f)
	assert.Equal(t, "chipped brow", f.State)
	assert.Equal(t, "moved_on", b.As["maud"].No("PUT", "/api/forms/"+f.Code, m{"place": "x", "state": "", "taken_how": "", "version": 1}).Code)
	require.NotNil(t, f.Pieces)
	assert.Equal(t, code, *f.Pieces)
	status, tag := b.File("ivo", "/api/forms/F-001/label.pdf")
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "%PDF", string(tag[:4]))
	status, _ = b.File("ivo", "/api/forms/F-999/label.pdf")
	assert.Equal(t, http.StatusNotFound, status)
}

// The clock of a life cast starts only when everything on the list was seen;
// then it is written down, and a form comes of it.
func TestALifeCastFromPlanToForm(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var who string
	require.NoError(t, b.S.DB.Get(&who, `SELECT w.name FROM performer w JOIN `+"`character`"+` c ON c.performer_id = w.id JOIN piece q ON q.character_id = c.id WHERE q.code = ?`, code))
	assert.Equal(t, "out_of_range", b.As["ivo"].No("POST", "/api/life-casts", m{"performer": who, "region": "face", "plan": m{"way": "alginate", "area_cm2": 350, "face": true, "water_c": 70}}).Code)
	var l form.LifeCast
	b.As["ivo"].Yes("POST", "/api/life-casts", m{"performer": who, "region": "face", "plan": m{"way": "alginate", "area_cm2": 0, "face": false}}, &l)
	assert.True(t, l.Plan.Face, "a face is a face, whatever was sent")
	assert.Equal(t, 350.0, l.Plan.AreaCM2)
	path := fmt.Sprintf("/api/life-casts/%d", l.ID)
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", path+"/begin", m{}).Code)
	assert.Equal(t, "not_begun", b.As["ivo"].No("POST", path+"/events", m{"kind": "mixed", "key": uuid.NewString()}).Code)
	assert.Equal(t, "unknown_value", b.As["ivo"].No("POST", path+"/ticks", m{"item": "luck"}).Code)
	for i, c := range l.Plan.Checks {
		if i == len(l.Plan.Checks)-1 {
			assert.Equal(t, "held_back", b.As["ivo"].No("POST", path+"/begin", m{}).Code, "one is left")
		}
		b.As["ivo"].Yes("POST", path+"/ticks", m{"item": c.Key}, nil)
	}
	b.As["ivo"].Yes("POST", path+"/begin", m{}, &l)
	require.NotNil(t, l.BeganAt)
	key := uuid.NewString()
	for range 2 {
		b.As["ivo"].Yes("POST", path+"/events", m{"kind": "sagged", "words": "left cheek", "key": key}, &l)
	}
	assert.Len(t, l.Events, 1, "sent again it is written once")
	b.As["ivo"].Yes("POST", path+"/end", m{"verdict": "good, cheek filled", "register": true, "material": "hard stone", "place": "rack 3"}, &l)
	require.NotNil(t, l.Form)
	assert.Equal(t, "over", b.As["ivo"].No("POST", path+"/events", m{"kind": "note", "key": uuid.NewString()}).Code)
	assert.Equal(t, "over", b.As["ivo"].No("POST", path+"/end", m{"verdict": "", "register": false}).Code)
}

func library(t *testing.T) []material.Product {
	t.Helper()
	list, err := material.Library()
	require.NoError(t, err)
	return list
}
