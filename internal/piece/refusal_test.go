package piece_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestLatexIsRefusedForTheAllergicAndSomethingElseOffered(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), map[string]any{"substance": "Latex", "status": "allergic"}, nil)
	doc := shoptest.Plain()
	doc.Layers = append(doc.Layers, section.Layer{ID: "l", Kind: section.Latex, Material: "latex-balloon", Coats: 1, CoatMM: 0.2})
	no := b.As["maud"].No("PUT", "/api/pieces/"+code+"/section", map[string]any{"doc": doc, "base": 1, "step": 0})
	assert.Equal(t, "never", no.Code)
	assert.Equal(t, "layers[4].material", no.Field)
	var f struct{ Instead []string }
	require.NoError(t, json.Unmarshal(no.Data, &f))
	assert.Contains(t, f.Instead, "silicone-gel")
	var view piece.SectionView
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/section", nil, &view)
	assert.Len(t, view.Doc.Layers, 4, "the section is as it was")
	// The journal holds the fact that something was recorded, never what.
	var n int
	require.NoError(t, b.S.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE words LIKE '%allerg%' OR words LIKE '%latex%'`))
	assert.Zero(t, n)
}

func TestAStopWantsALeadsSignedReason(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	doc := shoptest.Plain()
	doc.Layers = append(doc.Layers[:3], section.Layer{ID: "p", Kind: section.Paint, Material: "paint-cream", Coats: 1, CoatMM: 0.02})
	put := map[string]any{"doc": doc, "base": 1, "step": 0}
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/section", put, nil)
	signed := map[string]any{"signed": []map[string]string{{"id": "MED-4", "reason": "one take, seen from the gate"}}}
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", "/api/pieces/"+code+"/section/agree", signed).Code, "not a lead")
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", put, nil)
	assert.Equal(t, "held_back", b.As["maud"].No("POST", "/api/pieces/"+code+"/section/agree", map[string]any{}).Code, "no reason")
	var view piece.SectionView
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/section/agree", signed, &view)
	assert.Equal(t, 2, view.State.Latest)
	assert.Equal(t, "maud", view.Signed[0].By)
	// The other draft began from version 1: both stand, nothing is overwritten.
	no := b.As["ivo"].No("POST", "/api/pieces/"+code+"/section/agree", signed)
	assert.Contains(t, []string{"newer_agreed", "held_back"}, no.Code)
}

func TestTwoPeopleAndTwoWindowsKeepBothDrafts(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	change := func(mm float64) section.Section {
		d := shoptest.Plain()
		d.Layers[2].CentreMM = mm
		return d
	}
	path := "/api/pieces/" + code + "/section"
	b.As["ivo"].Yes("PUT", path, map[string]any{"doc": change(5), "base": 1, "step": 0}, nil)
	b.As["maud"].Yes("PUT", path, map[string]any{"doc": change(7), "base": 1, "step": 0}, nil)
	b.As["maud"].Yes("POST", path+"/agree", map[string]any{}, nil)
	no := b.As["ivo"].No("POST", path+"/agree", map[string]any{})
	assert.Equal(t, "newer_agreed", no.Code)
	var both struct{ Yours, Theirs section.Section }
	require.NoError(t, json.Unmarshal(no.Data, &both))
	assert.Equal(t, []float64{5, 7}, []float64{both.Yours.Layers[2].CentreMM, both.Theirs.Layers[2].CentreMM})

	assert.Equal(t, "newer_agreed", b.As["ivo"].No("POST", path+"/carry", map[string]any{"latest": 1}).Code, "not unseen")
	b.As["ivo"].Yes("POST", path+"/carry", map[string]any{"latest": 2}, nil)
	b.As["ivo"].Yes("POST", path+"/agree", map[string]any{}, nil)
	b.As["ivo"].Yes("PUT", path, map[string]any{"doc": change(5), "base": 3, "step": 0}, nil)

	// A second window of the same person that is a step behind.
	b.As["ivo"].Yes("PUT", path, map[string]any{"doc": change(5.5), "base": 1, "step": 1}, nil)
	no = b.As["ivo"].No("PUT", path, map[string]any{"doc": change(9), "base": 1, "step": 1})
	assert.Equal(t, "draft_moved", no.Code)
	require.NoError(t, json.Unmarshal(no.Data, &both))
	assert.Equal(t, []float64{9, 5.5}, []float64{both.Yours.Layers[2].CentreMM, both.Theirs.Layers[2].CentreMM})

	var view piece.SectionView
	b.As["ivo"].Yes("POST", path+"/undo", map[string]any{}, &view)
	assert.InDelta(t, 5, view.Doc.Layers[2].CentreMM, 1e-9)
	b.As["ivo"].Yes("POST", path+"/redo", map[string]any{}, &view)
	assert.InDelta(t, 5.5, view.Doc.Layers[2].CentreMM, 1e-9)
}

func TestOneSectionIsAgreedInOrder(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	for i, login := range []string{"maud", "ivo"} {
		d := shoptest.Plain()
		d.Layers[2].CentreMM = float64(4 + i)
		b.As[login].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": d, "base": 1, "step": 0}, nil)
	}
	got := shoptest.Together(2, func(i int) (int, shoptest.Refused) {
		return b.Post([]string{"maud", "ivo"}[i], "/api/pieces/"+code+"/section/agree", m{})
	})
	assert.Equal(t, map[string]int{"yes": 1, "newer_agreed": 1}, got)
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM document d JOIN document_version v ON v.document_id = d.id WHERE d.kind = 'section'`))
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM draft`), "the other's draft is kept")
}

func TestCodesAreHandedOutOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	got := shoptest.Together(15, func(i int) (int, shoptest.Refused) {
		return b.Post(shoptest.Three[i%2], "/api/pieces", m{"production": "The Tallow Court", "character_code": "GC", "character_name": "the glover", "performer": "", "name": fmt.Sprintf("Piece %d", i), "region": "nose", "side": "", "copies_wanted": 1})
	})
	assert.Equal(t, map[string]int{"yes": 15}, got)
	assert.Equal(t, 15, b.Count(`SELECT COUNT(DISTINCT code) FROM piece`))
	assert.Equal(t, 15, b.Count(`SELECT MAX(number) FROM piece`), "and none is left out")
	assert.Equal(t, 1, b.Count("SELECT COUNT(*) FROM `character`"), "one character, not fifteen")
}

// Undo by one hand in two windows never leaves the draft between two steps.
func TestUndoFromTwoWindowsStaysOnAStep(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	path := "/api/pieces/" + code + "/section"
	for i := range 6 {
		d := shoptest.Plain()
		d.Layers[2].CentreMM = float64(1 + i)
		b.As["ivo"].Yes("PUT", path, m{"doc": d, "base": 1, "step": i}, nil)
	}
	shoptest.Together(10, func(i int) (int, shoptest.Refused) { return b.Post("ivo", path+[]string{"/undo", "/redo"}[i%2], m{}) })
	var view piece.SectionView
	b.As["ivo"].Yes("GET", path, nil, &view)
	assert.InDelta(t, float64(view.State.Step), view.Doc.Layers[2].CentreMM, 1e-9, "step and drawing belong together")
	assert.Equal(t, 6, view.State.Last)
}
