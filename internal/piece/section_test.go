package piece_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"
	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/brief"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAMethodIsChosenWithItsReason(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	v := b.Advice("pip", code, m{})
	require.Len(t, v.Methods, len(section.Methods))
	best, other := v.Methods[0], v.Methods[2]
	assert.Empty(t, best.Bars)
	choice := "/api/pieces/" + code + "/choice"
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", choice, m{"method": best.Slug}).Code)
	b.As["ivo"].Yes("POST", choice, m{"method": best.Slug}, nil)
	no := b.As["ivo"].No("POST", choice, m{"method": other.Slug, "reason": "  "})
	assert.Equal(t, "reason", no.Field, "against the advice it wants a reason")
	b.As["ivo"].Yes("POST", choice, m{"method": other.Slug, "reason": "what we had"}, &v)
	require.Len(t, v.Choices, 2, "older choices are kept")
	assert.Equal(t, []any{other.Slug, best.Slug, 3, "what we had", "ivo"}, []any{v.Choices[0].Method, v.Choices[0].Advised, v.Choices[0].Place, v.Choices[0].Reason, v.Choices[0].By})
}

func TestWhatIsNeverCannotBeChosenAndAStopWantsALead(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), m{"substance": "latex", "status": "allergic"}, nil)
	choice := "/api/pieces/" + code + "/choice"
	assert.Equal(t, "never", b.As["maud"].No("POST", choice, m{"method": "foam_latex", "reason": "I sign it"}).Code)
	b.As["ivo"].Yes("PUT", "/api/equipment", m{"name": "vacuum", "has": false, "note": "", "version": 0}, nil)
	assert.Equal(t, "changed", b.As["ivo"].No("PUT", "/api/equipment", m{"name": "vacuum", "has": true, "note": "", "version": 0}).Code, "somebody said so already")
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", choice, m{"method": "silicone_encapsulated", "reason": "bubbles or not"}).Code)
	b.As["maud"].Yes("POST", choice, m{"method": "silicone_encapsulated", "reason": "the neighbour lends us hers"}, nil)
}

func TestConditionsAreTriedWithoutTouchingTheBrief(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	before := b.Contents()
	asBriefed, tried := b.Advice("maud", code, m{}), b.Advice("maud", code, m{"hottest_c": 44, "wear_hours": 12, "water": "under water", "height_mm": 30, "days": 9, "camera": "far"})
	assert.NotEqual(t, asBriefed.Asked, tried.Asked)
	assert.Equal(t, 44.0, tried.Asked.HottestC)
	for _, a := range tried.Methods {
		if a.Slug == "gelatin_animal" {
			assert.NotEmpty(t, a.Bars, "it melts at 44 °C and dissolves under water")
		}
	}
	assert.Equal(t, before, b.Contents(), "trying writes nothing")
}

func TestWhatWasTriedIsKeptAndCounts(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	score := func() float64 {
		v := b.Advice("maud", code, m{})
		for _, a := range v.Methods {
			if a.Slug == "wax" {
				return a.Score
			}
		}
		return -1
	}
	before := score()
	trial := m{"method": "wax", "what": "soft wax", "job": "a scar on a cheek", "region": "cheek", "result": "failed", "reason": "slid off at noon", "piece": code}
	var list []brief.Trial
	b.As["pip"].Yes("POST", "/api/trials", trial, &list)
	require.Len(t, list, 1)
	assert.Equal(t, "pip", list[0].By)
	b.As["pip"].Yes("POST", "/api/trials", trial, nil)
	assert.Less(t, score(), before)
	assert.Len(t, b.Advice("maud", code, m{}).Trials, 2)
}

func TestASectionIsBegunFromAHouseMethodAPieceOrAFile(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var p piece.Piece
	b.As["ivo"].Yes("POST", "/api/pieces", m{"production": "The Tallow Court", "character_code": "BF", "character_name": "", "performer": "", "name": "Brow", "region": "brow", "side": "L", "copies_wanted": 1}, &p)
	begin := "/api/pieces/" + p.Code + "/section/begin"
	var v piece.SectionView
	b.As["ivo"].Yes("POST", begin, m{"method": "silicone_solid", "height_mm": 3, "base": 0, "step": 0}, &v)
	assert.Equal(t, "silicone_solid", v.Doc.Method)
	assert.Equal(t, 18.0, v.Doc.AreaCM2, "a brow's usual area")
	assert.Equal(t, "draft_moved", b.As["ivo"].No("POST", begin, m{"method": "wax", "base": 0, "step": 0}).Code, "it was begun from an older step")
	v = piece.SectionView{}
	b.As["ivo"].Yes("POST", begin, m{"piece": code, "base": 0, "step": 1}, &v)
	assert.Equal(t, []string{"skin", "in", "body", "out"}, shoptest.IDs(v.Doc))
	assert.Equal(t, 18.0, v.Doc.AreaCM2, "copied on to this size")
	v = piece.SectionView{}
	b.As["ivo"].Yes("POST", "/api/pieces/"+p.Code+"/section/undo", nil, &v)
	assert.Equal(t, "silicone_solid", v.Doc.Method, "a step back")

	// Out as a file and in again on another piece.
	var file piece.SectionFile
	b.As["ivo"].Yes("GET", "/api/pieces/"+code+"/section/file?key=1", nil, &file)
	assert.Equal(t, "yewmoor-section", file.Format)
	assert.Equal(t, "Silicone gel, addition cure", file.Materials["silicone-gel"])
	v = piece.SectionView{}
	b.As["ivo"].Yes("POST", begin, m{"file": file, "base": 0, "step": 1}, &v)
	assert.Equal(t, file.Section.Layers, v.Doc.Layers)
	strange := file
	strange.Section.Layers = slices.Clone(file.Section.Layers)
	strange.Section.Layers[2].Material = "unobtainium"
	assert.Equal(t, "layers[2].material", b.As["ivo"].No("POST", begin, m{"file": strange, "base": 0, "step": v.State.Step}).Field)
	strange.Format = "something else"
	assert.Equal(t, "file", b.As["ivo"].No("POST", begin, m{"file": strange, "base": 0, "step": v.State.Step}).Field)
	for field, body := range map[string]m{"method": {"method": "papier", "base": 0, "step": 0}, "piece": {"piece": "ZZ-99", "base": 0, "step": 0}} {
		assert.Equal(t, field, b.As["ivo"].No("POST", begin, body).Field)
	}
}

// Two people on one section see each other; planned, agreed and built can be
// compared, and a change says what it means for what is made.
func TestPlannedAgreedAndBuiltAreCompared(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	thicker, painted := shoptest.Plain(), shoptest.Plain()
	thicker.Layers[2].CentreMM = 9
	painted.Layers = append(painted.Layers, section.Layer{ID: "c", Kind: section.Paint, Material: "paint-cream", Coats: 1, CoatMM: 0.02})
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": thicker, "base": 1, "step": 0}, nil)
	assert.Equal(t, []string{"ivo"}, b.Section("maud", code).State.Others)

	var versions []piece.SectionVersion
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/section/versions", nil, &versions)
	keys := []string{}
	for _, v := range versions {
		keys = append(keys, v.What+" "+v.Key)
	}
	assert.Equal(t, []string{"planned draft:ivo", "agreed 1", "built built:" + copyCode}, keys)

	compare := func(from, to string) (d piece.SectionDifference) {
		b.As["maud"].Yes("GET", "/api/pieces/"+code+"/section/differences?from="+from+"&to="+to, nil, &d)
		return d
	}
	d := compare("1", "draft:ivo")
	require.Len(t, d.Differences, 1)
	assert.Equal(t, "body", d.Differences[0].Layer)
	assert.Greater(t, d.Is.WornG, d.Was.WornG)
	require.Len(t, d.Effects, 1)
	assert.Equal(t, "another piece", d.Effects[0].What)
	// Somebody else's draft can be gone on from, with its size as it is.
	var taken piece.SectionView
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/section/begin", m{"piece": code, "key": "draft:ivo", "base": 1, "step": 0}, &taken)
	assert.Equal(t, 9.0, taken.Doc.Layers[2].CentreMM)
	assert.Equal(t, thicker.HalfWidthMM, taken.Doc.HalfWidthMM)
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": painted, "base": 1, "step": 1}, nil)
	assert.Equal(t, "can be done", compare("1", "draft").Effects[0].What)

	// What was really built: written down with a reason, from what is drawn.
	built := "/api/pieces/" + code + "/section/built"
	assert.Equal(t, "reason", b.As["maud"].No("POST", built, m{"copy": copyCode, "reason": " "}).Field)
	assert.Equal(t, "copy", b.As["maud"].No("POST", built, m{"copy": "BF-99-a", "reason": "so it was"}).Field)
	b.As["maud"].Yes("POST", built, m{"copy": copyCode, "reason": "coloured for the test"}, &versions)
	assert.Equal(t, "as it is", compare("1", "draft").Effects[0].What, "it is as the draft says")
	assert.Len(t, compare("1", "built:"+copyCode).Differences, 1)
	assert.Equal(t, "not_found", b.As["maud"].No("GET", "/api/pieces/"+code+"/section/differences?from=1&to=7", nil).Code)
}

func TestAStopIsSignedAtItsPlace(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	doc := shoptest.Plain()
	// The same rule speaks twice: two colours on bare silicone.
	doc.Layers = append(doc.Layers[:3], section.Layer{ID: "p", Kind: section.Paint, Material: "paint-cream", Coats: 1, CoatMM: 0.02}, section.Layer{ID: "d", Kind: section.Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01}, section.Layer{ID: "q", Kind: section.Paint, Material: "paint-alcohol", Coats: 1, CoatMM: 0.006})
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": doc, "base": 1, "step": 0}, nil)
	agree := "/api/pieces/" + code + "/section/agree"
	sign := func(at ...string) m {
		var list []m
		for _, a := range at {
			list = append(list, m{"id": "MED-4", "at": a, "reason": "one take, seen from the gate"})
		}
		return m{"signed": list}
	}
	var open []rules.Finding
	no := b.As["maud"].No("POST", agree, sign("body|p"))
	require.NoError(t, json.Unmarshal(no.Data, &open))
	require.Len(t, open, 1)
	assert.Equal(t, "body|q", open[0].At())
	assert.Equal(t, "held_back", b.As["maud"].No("POST", agree, sign("")).Code, "one reason without a place is not enough for two")
	b.As["maud"].Yes("POST", agree, sign("body|p", "body|q"), nil)
	var over []piece.Overridden
	b.As["pip"].Yes("GET", "/api/rules/overrides", nil, &over)
	assert.Len(t, over, 2)
	assert.Equal(t, "MED-4", over[0].Rule)
	assert.Equal(t, code, over[0].Piece)
}

func TestTurningTwoLayersRoundAndASecondCut(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	doc := shoptest.Plain()
	var found []rules.Finding
	b.As["pip"].Yes("POST", "/api/pieces/"+code+"/section/swap", m{"doc": doc, "cut": 0, "at": 2}, &found)
	assert.Empty(t, found)
	doc.Layers = append(doc.Layers, section.Layer{ID: "c", Kind: section.Paint, Material: "paint-cream", Coats: 1, CoatMM: 0.02})
	b.As["pip"].Yes("POST", "/api/pieces/"+code+"/section/swap", m{"doc": doc, "cut": 0, "at": 3}, &found)
	require.NotEmpty(t, found)
	assert.Equal(t, "MED-4", found[0].ID, "colour under the film lies on bare silicone")

	doc.Name = "cheek"
	doc.More = []section.Cut{{ID: "brow", Name: "brow", HalfWidthMM: 20, AreaCM2: 10, Line: &section.Line{Sheet: "head", Points: []form.Point{{U: 20, V: 34}, {U: 30, V: 34}}}, Layers: []section.Layer{{ID: "s2", Kind: section.Skin}, {ID: "w", Kind: section.Wax, Material: "wax-soft", CentreMM: 2}}}}
	var c piece.Consequence
	b.As["pip"].Yes("POST", "/api/pieces/"+code+"/section/work", doc, &c)
	assert.Len(t, c.Result.Cuts, 2)
	assert.Positive(t, c.LinesMM["brow"])
	assert.True(t, slices.ContainsFunc(c.Findings, func(f rules.Finding) bool { return f.Cut == "brow" && f.ID == "WAX-2" }))
	assert.NotEmpty(t, c.Result.Steps)
	doc.More[0].Line.Points = []form.Point{{U: 20, V: 34}}
	assert.Equal(t, "more[0].line", b.As["pip"].No("POST", "/api/pieces/"+code+"/section/work", doc).Field)
}

func TestTheSectionGoesOnPaper(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	read := func(path string) string {
		res, err := b.As["pip"].Client.Get(b.URL + path)
		require.NoError(t, err)
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode, string(raw))
		return string(raw)
	}
	drawn, exact := read("/api/pieces/"+code+"/section.svg"), read("/api/pieces/"+code+"/section.svg?true_scale=1")
	assert.Contains(t, drawn, "Silicone gel, addition cure")
	assert.Contains(t, exact, "true scale")
	assert.NotContains(t, drawn, "true scale: 1 mm")
	assert.Equal(t, 3, strings.Count(exact, "<title>")-1, "a title for every band")
	assert.True(t, strings.HasPrefix(read("/api/pieces/"+code+"/section.pdf"), "%PDF-"))
	assert.Equal(t, http.StatusNotFound, b.As["pip"].Send("GET", "/api/pieces/ZZ-99/section.svg", nil, nil))
}

func TestThePiecesOfACharacterGoOnInOrder(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var p piece.Piece
	b.As["ivo"].Yes("POST", "/api/pieces", m{"production": "The Tallow Court", "character_code": "BF", "character_name": "", "performer": "", "name": "Brow", "region": "brow", "side": "L", "copies_wanted": 1}, &p)
	doc := shoptest.Plain()
	doc.LiesOver = []string{code}
	var c piece.Consequence
	b.As["pip"].Yes("POST", "/api/pieces/"+p.Code+"/section/work", doc, &c)
	require.Len(t, c.Company.Pieces, 2)
	assert.Equal(t, []string{code, p.Code}, []string{c.Company.Pieces[0].Code, c.Company.Pieces[1].Code})
	assert.InDelta(t, c.Result.WornG+c.Company.Pieces[0].MassG, c.Company.TotalG, 1e-9)
	pf, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	b.As["ivo"].Yes("PUT", fmt.Sprintf("/api/performers/%d/limits", *pf.PerformerID), m{"kind": "mass", "amount": 10, "note": ""}, nil)
	b.As["pip"].Yes("POST", "/api/pieces/"+p.Code+"/section/work", doc, &c)
	assert.True(t, slices.ContainsFunc(c.Findings, func(f rules.Finding) bool { return f.ID == "SAF-6" }), "both together are above it")
}
