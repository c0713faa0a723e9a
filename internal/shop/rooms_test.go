package shop

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/piece"
	"yewmoor/internal/production"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/plan"
	"yewmoor/internal/station/stores"
	"yewmoor/internal/station/today"
)

// dayOf adds a shooting day and says that the piece is worn on it.
func (b *bench) dayOf(code, day string) production.Day {
	p, err := piece.Find(b.t.Context(), b.s.DB, code)
	require.NoError(b.t, err)
	var days []production.Day
	b.as["maud"].yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), m{"day": day, "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	b.as["maud"].yes("PUT", "/api/pieces/"+code+"/days", m{"day_ids": []uint64{days[len(days)-1].ID}}, nil)
	return days[len(days)-1]
}

func (b *bench) today() today.View {
	var v today.View
	b.as["pip"].yes("GET", "/api/today", nil, &v)
	return v
}

func (b *bench) tasks() (titles []string) {
	v := b.today()
	if v.Now != nil {
		titles = append(titles, v.Now.Title)
	}
	for _, t := range v.Then {
		titles = append(titles, t.Title)
	}
	return titles
}

// Today follows a piece through the shop: each step done makes the next one
// the thing to do.
func TestTodayNamesWhatComesNext(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	assert.Empty(t, b.tasks())
	p, err := b.s.Pieces.Create(b.who["maud"], piece.NewPiece{Production: "The Tallow Court", CharacterCode: "BF", CharacterName: "the bell-founder", Performer: "Oren Thale", Name: "Cheek", Region: "cheek", CopiesWanted: 1})
	require.NoError(t, err)
	code := p.Code
	assert.Equal(t, []string{"Agree the brief of " + code}, b.tasks())
	err = b.s.Pieces.SaveBrief(b.who["maud"], code, piece.Brief{Camera: "medium", AreaCM2: 34, KeepFree: []string{}, Features: []piece.Feature{}}, 0, 0)
	require.NoError(t, err)
	b.as["maud"].yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
	assert.Equal(t, []string{"Draw the section of " + code}, b.tasks())
	b.as["maud"].yes("PUT", "/api/pieces/"+code+"/section", m{"doc": plain(), "base": 0, "step": 0}, nil)
	b.as["maud"].yes("POST", "/api/pieces/"+code+"/section/agree", m{}, nil)
	assert.Equal(t, []string{"Mix for " + code + ", 1 still missing"}, b.tasks())

	v := b.weighed(code)
	assert.Equal(t, []string{"Go on weighing " + v.Code}, b.tasks())
	for v.Current != 0 {
		b.pourG(v.Lines[v.Current-1].AddG)
		b.isIn(&v)
	}
	assert.Equal(t, []string{"Pour " + v.Code + " into " + code}, b.tasks(), "the clock runs: it comes first")
	var poured mix.Poured
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{""}}, &poured)
	copyCode := poured.Copies[0]
	wait := b.today()
	assert.Nil(t, wait.Now, "nothing for hands while it cures")
	assert.Contains(t, wait.Then[0].Title, copyCode)
	assert.Positive(t, wait.Then[0].InS)

	b.clock.Set(monday.Add(5 * time.Hour))
	assert.Equal(t, []string{"Take out " + copyCode}, b.tasks())
	b.as["pip"].yes("POST", fmt.Sprintf("/api/pots/%d/out", b.pot(copyCode).ID), m{}, nil)
	assert.Equal(t, []string{"Finish " + copyCode}, b.tasks())
	for _, item := range []string{"trim", "seam", "edge"} {
		b.as["pip"].yes("POST", "/api/copies/"+copyCode+"/ticks", m{"item": item}, nil)
	}
	b.as["pip"].yes("POST", "/api/copies/"+copyCode+"/ticks", m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	b.photograph(copyCode)
	assert.Equal(t, []string{"Check " + copyCode}, b.tasks())
	b.as["ivo"].yes("POST", "/api/copies/"+copyCode+"/verdict", m{"verdict": "repair", "reason": "a pinhole"}, nil)
	assert.Equal(t, []string{"Finish " + copyCode}, b.tasks())
	b.as["ivo"].yes("POST", "/api/copies/"+copyCode+"/verdict", m{"verdict": "accept"}, nil)
	assert.Equal(t, []string{"Pack " + copyCode}, b.tasks())
	day := b.dayOf(code, "2026-01-23")
	b.as["maud"].yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}}, nil)
	assert.Equal(t, []string{"Hand over K-001"}, b.tasks())
	b.as["maud"].yes("POST", "/api/kits/K-001/hand", m{}, nil)
	assert.Empty(t, b.tasks())
	assert.Equal(t, "handed over", b.today().Notes[0].Act)
}

func TestTheRunUpCountsWhatEachDayNeeds(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun() // two copies wanted
	b.dayOf(code, "2026-01-23")
	read := func() plan.Day {
		var days []plan.Day
		b.as["pip"].yes("GET", "/api/plan", nil, &days)
		require.Len(t, days, 1)
		return days[0]
	}
	d := read()
	assert.Equal(t, 9, d.Working)
	assert.True(t, d.AtRisk, "nothing is begun, nine working days are left")
	assert.Equal(t, "2 not begun", d.Needs[0].Words)
	b.poured(code)
	assert.Equal(t, "1 not begun", read().Needs[0].Words)
	b.poured(code)
	d = read()
	assert.Equal(t, "coming", d.Needs[0].Words)
	assert.False(t, d.AtRisk)
	b.clock.Set(monday.AddDate(0, 0, 20))
	var days []plan.Day
	b.as["pip"].yes("GET", "/api/plan", nil, &days)
	assert.Empty(t, days, "what is past needs nothing")
}

func TestLotsKeepTheirBooks(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	b.poured(code)
	var lot stores.LotView
	b.as["pip"].yes("GET", "/api/lots/K-old", nil, &lot)
	require.Len(t, lot.Parts, 2)
	assert.Equal(t, []string{"X-0001"}, lot.WentInto["mix"])
	var sum float64
	for _, v := range lot.Movements {
		if v.Part == "A" {
			sum += v.Grams
		}
	}
	assert.InDelta(t, lot.Parts[0].OnHandG, sum, 1e-9, "what is on hand is the sum of the movements")
	b.as["maud"].yes("POST", "/api/lots/K-old/count", m{"part": "A", "amount": "380 g", "note": "spilt some"}, nil)
	b.as["pip"].yes("GET", "/api/lots/K-old", nil, &lot)
	assert.InDelta(t, 380, lot.Parts[0].OnHandG, 1e-9)
	b.as["maud"].yes("POST", "/api/lots/K-old/status", m{"status": "recalled", "reason": "the maker asked"}, nil)
	var sheet mix.Sheet
	b.as["pip"].yes("POST", "/api/mixes/sheet", order(code, nil), &sheet)
	assert.Equal(t, "K-new", sheet.Lines[0].Lot, "a recalled lot is not chosen")
	assert.Equal(t, "not_found", b.as["pip"].no("GET", "/api/lots/nothing", nil).Code)
}

func TestAnAbandonedMixKeepsWhatWasDrawn(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	a := v.Lines[0].TargetG
	b.pourG(a)
	b.isIn(&v)
	b.as["pip"].yes("POST", "/api/mixes/"+v.Code+"/abandon", m{"reason": "dropped the cup"}, &v)
	assert.Equal(t, []string{"abandoned", "dropped the cup"}, []string{v.State, v.EndReason})
	assert.InDelta(t, 400-a, b.onHand("K-old", "A"), 0.051, "it left the lot all the same")
	assert.Equal(t, "ended", b.as["pip"].no("POST", "/api/mixes/"+v.Code+"/abandon", m{"reason": "again"}).Code)
	assert.Equal(t, "not_weighing", b.as["pip"].no("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": 2, "key": key(), "typed": "3 g"}).Code)
	var list []mix.Brief
	b.as["pip"].yes("GET", "/api/mixes", nil, &list)
	assert.Equal(t, "abandoned", list[0].State)
}

func TestFormsMouldsAndColours(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	b.as["ivo"].yes("POST", "/api/forms", m{"performer": "Oren Thale", "region": "face", "material": "hard stone", "made_on": "2026-01-05", "place": "rack 2"}, nil)
	b.as["ivo"].yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": "two-part block", "material": "hard stone", "core": "F-001", "made_on": "2026-01-06", "state": "wet"}, nil)
	var moulds []struct{ Code, State, Core string }
	b.as["pip"].yes("POST", "/api/moulds/state", m{"code": code + "/M1", "state": "dry"}, nil)
	b.as["pip"].yes("GET", "/api/moulds", nil, &moulds)
	require.Len(t, moulds, 1)
	assert.Equal(t, []string{code + "/M1", "dry", "F-001"}, []string{moulds[0].Code, moulds[0].State, moulds[0].Core})
	var forms []struct{ Code, Performer, Moulds string }
	b.as["pip"].yes("GET", "/api/forms", nil, &forms)
	assert.Equal(t, code+"/M1", forms[0].Moulds, "a form knows what it is the core of")

	path := "/api/pieces/" + code + "/touch-ups"
	touch := m{"name": "cheek red", "material": "paint-alcohol", "place": "rims", "l": 42, "a": 24, "b": 19}
	b.as["ivo"].yes("PUT", path, touch, nil)
	b.as["ivo"].yes("PUT", path, with(touch, "l", 45), nil)
	var kept []struct {
		Name string
		L    float64
	}
	b.as["pip"].yes("GET", path, nil, &kept)
	require.Len(t, kept, 1, "one colour of one name")
	assert.InDelta(t, 45, kept[0].L, 1e-9)
	b.as["ivo"].yes("DELETE", path+"/cheek%20red", nil, &kept)
	assert.Empty(t, kept)
}

func TestADraftIsDroppedAndAStageObserved(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	path := "/api/pieces/" + code + "/section"
	changed := plain()
	changed.Layers[2].CentreMM = 3
	b.as["ivo"].yes("PUT", path, m{"doc": changed, "base": 1, "step": 0}, nil)
	var view piece.SectionView
	b.as["ivo"].yes("DELETE", path+"/draft", nil, &view)
	assert.InDelta(t, 6, view.Doc.Layers[2].CentreMM, 1e-9, "back to what was agreed")
	assert.False(t, view.State.Drafted)

	pot := b.pot(b.poured(code)[0])
	b.clock.Set(monday.Add(4 * time.Minute))
	b.as["pip"].yes("POST", fmt.Sprintf("/api/pots/%d/observe", pot.ID), m{"stage": "pot"}, &pot)
	assert.Equal(t, "pot", pot.Observed)
	var copies []build.Copy
	b.as["pip"].yes("GET", "/api/copies", nil, &copies)
	assert.Equal(t, pot.ID, *copies[0].PotID)
	before := b.pot(copies[0].Code).LeftS
	b.clock.Set(monday.Add(8 * time.Minute))
	assert.Less(t, b.pot(copies[0].Code).LeftS, before)
}

// Streams: the scale's readings are numbered, hints come after every act.
func TestOpenScreensHearOfEveryAct(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	ctx, stop := context.WithTimeout(t.Context(), 20*time.Second)
	defer stop()
	go b.s.Mix.Watch(ctx)
	read := func(path, want string, lines int) []string {
		req, err := http.NewRequestWithContext(ctx, "GET", b.url+path, nil)
		require.NoError(t, err)
		res, err := b.as["pip"].client.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		assert.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
		if path == "/api/events" {
			go b.as["pip"].send("POST", "/api/pieces/"+code+"/notes", m{"words": "clay checked", "key": key()}, nil)
		}
		var got []string
		for in := bufio.NewScanner(res.Body); in.Scan() && len(got) < lines; {
			if data, ok := strings.CutPrefix(in.Text(), "data: "); ok {
				assert.Contains(t, data, want)
				got = append(got, data)
			}
		}
		return got
	}
	assert.Len(t, read("/api/events", `"topic":"journal"`, 1), 1)
	var last mix.Relayed
	for i, data := range read("/api/scale/stream", `"seq":`, 5) {
		var r mix.Relayed
		require.NoError(t, json.Unmarshal([]byte(data), &r))
		if i > 0 {
			assert.Equal(t, last.Seq+1, r.Seq, "none is left out")
		}
		last = r
	}
}

func TestThePageAndItsHeaders(t *testing.T) {
	b := newBench(t, nil)
	dist := fstest.MapFS{"index.html": {Data: []byte(`<meta name="csp-nonce" content="__NONCE__">`)}, "assets/index-1.js": {Data: []byte("1")}}
	b.s.Config.Secure = true
	handler, _, err := b.s.Handler(dist)
	require.NoError(t, err)
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, httptest.NewRequest("GET", path, nil))
		return w
	}
	nonces := map[string]bool{}
	for _, path := range []string{"/", "/piece/BF-01", "/artist/xyz"} {
		w := get(path)
		policy := w.Header().Get("Content-Security-Policy")
		_, rest, _ := strings.Cut(w.Body.String(), `content="`)
		nonce, _, _ := strings.Cut(rest, `"`)
		assert.Contains(t, policy, "'nonce-"+nonce+"'")
		assert.NotContains(t, policy, "unsafe")
		nonces[nonce] = true
		assert.Equal(t, []string{"nosniff", "DENY", "no-referrer", "max-age=31536000"},
			[]string{w.Header().Get("X-Content-Type-Options"), w.Header().Get("X-Frame-Options"), w.Header().Get("Referrer-Policy"), w.Header().Get("Strict-Transport-Security")})
	}
	assert.Len(t, nonces, 3, "a nonce is used once")
	assert.Contains(t, get("/assets/index-1.js").Header().Get("Cache-Control"), "immutable")
	api := get("/api/me")
	assert.Equal(t, "no-store", api.Header().Get("Cache-Control"))
	assert.Contains(t, api.Header().Get("Content-Security-Policy"), "sandbox")
	assert.Equal(t, http.StatusNotFound, get("/api/nothing").Code)
	w := httptest.NewRecorder()
	handler.ServeHTTP(w, httptest.NewRequest("DELETE", "/", nil))
	assert.Equal(t, http.StatusNotFound, w.Code)
}

// The table in the documentation is the rule in the code.
func TestTheTableOfWhoMayIsWhatIsAsked(t *testing.T) {
	table, err := AccessTable()
	require.NoError(t, err)
	doc, err := Document()
	require.NoError(t, err)
	var paths struct {
		Paths map[string]map[string]json.RawMessage
	}
	require.NoError(t, json.Unmarshal(doc, &paths))
	n := 0
	for path, methods := range paths.Paths {
		for method := range methods {
			n++
			assert.Contains(t, string(table), fmt.Sprintf("| `%s %s` |", strings.ToUpper(method), path))
		}
	}
	assert.Greater(t, n, 70)
	assert.Equal(t, n+30, bytes.Count(table, []byte("\n| `")), "the operations and the plain handlers")
	assert.Contains(t, string(table), "| `DELETE /api/performers/{id}/health/{fact}` | Erase a sensitivity for good | yes |  |  |  |")
	assert.Contains(t, string(table), "| `GET /api/performers/{id}` | A performer with what is known of their skin; that it was seen is recorded | yes | yes |  |  |")
}

// Run keeps the room's log and the demo's clock without anybody asking.
func TestTheShopKeepsItself(t *testing.T) {
	b := newBench(t, nil)
	ctx, stop := context.WithTimeout(t.Context(), 700*time.Millisecond)
	defer stop()
	b.s.Run(ctx)
	var n int
	require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM room_reading`))
	assert.Positive(t, n)
}

func TestSmallChangesStandInTheRecordToo(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	b.dayOf(code, "2026-01-23")
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	b.as["ivo"].yes("PUT", fmt.Sprintf("/api/performers/%d", *p.PerformerID), m{"excludes_animal": true, "keeps": "the beard"}, nil)
	b.as["ivo"].yes("PUT", "/api/pieces/"+code+"/touch-ups", m{"name": "rust", "material": "paint-alcohol", "place": "rims", "l": 42, "a": 24, "b": 19}, nil)
	b.as["ivo"].yes("DELETE", "/api/pieces/"+code+"/touch-ups/rust", nil, nil)
	for _, act := range []string{"day added", "days chosen", "limits changed", "touch-up colour", "touch-up colour removed"} {
		assert.Equal(t, 1, b.count(`SELECT COUNT(*) FROM journal WHERE act = ? AND person_id IS NOT NULL AND device <> ''`, act), act)
	}
	assert.Equal(t, "not_found", b.as["ivo"].no("DELETE", "/api/pieces/ZZ-09/touch-ups/rust", nil).Code)
}
