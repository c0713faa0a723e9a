package sculpt_test

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"image"
	"slices"
	"strings"
	"sync"
	"testing"

	"yewmoor/internal/craft/texture"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/brief"
	"yewmoor/internal/station/sculpt"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestAPlanIsDraftedAgreedAndTickedRowByRow(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	on := "/api/pieces/" + code + "/texture"
	empty := b.Texture("pip", code)
	assert.False(t, empty.Begun)
	assert.NotEmpty(t, empty.Doc.Region, "it begins on the piece's region")
	assert.Nil(t, empty.Judged)
	v := b.SaveTexture("pip", code, shoptest.Scales(3))
	require.NotNil(t, v.Judged)
	steps := v.Judged.Work.Steps
	assert.Equal(t, "not_agreed", b.As["pip"].No("POST", on+"/ticks", m{"key": steps[1].Key}).Code)
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", on+"/agree", nil).Code, "an apprentice drafts, a fabricator agrees")
	assert.False(t, b.Texture("ivo", code).Begun, "a draft is one's own")
	b.SaveTexture("ivo", code, shoptest.Scales(3))
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/agree", nil, &v)
	assert.Equal(t, 1, v.State.Latest)
	v = sculpt.View{}
	b.As["pip"].Yes("DELETE", on+"/draft", nil, &v)
	v = sculpt.View{}
	b.As["pip"].Yes("POST", on+"/ticks", m{"key": steps[1].Key, "took": "4 min"}, &v)
	require.Len(t, v.Ticks, 1)
	assert.Equal(t, []any{steps[1].Key, "pip", 240.0}, []any{v.Ticks[0].Key, v.Ticks[0].Who, *v.Ticks[0].ActualS})
	assert.Equal(t, "SEQ-11", v.Surface.Findings[0].ID, "nobody has settled the form")
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/ticks", m{"key": steps[0].Key}, &v)
	assert.Empty(t, v.Surface.Findings)
	assert.Equal(t, 2, v.Log.DoneSteps)
	assert.InDelta(t, 4./60, v.Log.ActualH, 1e-9)
	assert.InDelta(t, steps[1].HandsS/3600, v.Log.TimedH, 1e-9)
	no := b.As["pip"].No("POST", on+"/ticks", m{"key": "s:scales row 99 S1 4"})
	assert.Equal(t, "not_in_plan", no.Code)
	assert.Equal(t, "took", b.As["pip"].No("POST", on+"/ticks", m{"key": steps[2].Key, "took": "a while"}).Field)
	v = sculpt.View{}
	b.As["maud"].Yes("POST", on+"/ticks/back", m{"key": steps[1].Key}, &v)
	assert.Len(t, v.Ticks, 1)
	assert.Equal(t, "not_ticked", b.As["maud"].No("POST", on+"/ticks/back", m{"key": steps[1].Key}).Code)
	var rows int
	require.NoError(t, b.S.DB.Get(&rows, `SELECT COUNT(*) FROM texture_tick WHERE step_key = ?`, steps[1].Key))
	assert.Equal(t, 1, rows, "the record keeps what was taken back")
	var list []sculpt.InClay
	b.As["pip"].Yes("GET", "/api/textures", nil, &list)
	assert.Equal(t, []sculpt.InClay{{Code: code, Number: 1, Ticks: 1}}, list)
}

// What is done stays done in the next version where it asks for the same, and
// only there.
func TestTicksFollowWhatIsAskedFor(t *testing.T) {
	b := shoptest.New(t, nil)
	code, v := b.Planned()
	on := "/api/pieces/" + code + "/texture"
	for _, s := range v.Judged.Work.Steps[:3] {
		b.As["ivo"].Yes("POST", on+"/ticks", m{"key": s.Key}, nil)
	}
	doc := shoptest.Scales(3)
	doc["layers"] = append(doc["layers"].([]m), m{"kind": "droplets", "spacing": []float64{3, 3}})
	b.SaveTexture("ivo", code, doc)
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/agree", nil, &v)
	assert.Equal(t, 3, v.Log.DoneSteps, "the same rows are pressed")
	doc["layers"].([]m)[0]["size"] = []float64{5, 5}
	b.SaveTexture("ivo", code, doc)
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/agree", nil, &v)
	assert.Equal(t, 1, v.Log.DoneSteps, "the form is settled; these rows are others")
}

func TestAHandsTimesAreItsOwn(t *testing.T) {
	b := shoptest.New(t, nil)
	code, v := b.Planned()
	before := v.Judged.Work.Hours
	for _, s := range v.Judged.Work.Steps[1:3] {
		b.As["pip"].Yes("POST", "/api/pieces/"+code+"/texture/ticks", m{"key": s.Key, "took": "30 min"}, nil)
	}
	pip, ivo := b.Texture("pip", code), b.Texture("ivo", code)
	assert.Greater(t, pip.Judged.Work.Hours, before, "slow hands plan for slow hands")
	assert.Greater(t, pip.Times[texture.Press].Learned, 5)
	assert.Equal(t, before, ivo.Judged.Work.Hours)
	var asked brief.HoursSum
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/hours", nil, &asked)
	at := slices.IndexFunc(asked.Parts, func(p brief.HoursPart) bool { return p.Part == "texture" })
	require.GreaterOrEqual(t, at, 0)
	assert.InDelta(t, 1, asked.Parts[at].SpentH, 1e-9, "the brief sees what was really needed")
	assert.InDelta(t, before, asked.Parts[at].Hours, 1e-9, "in the times of who asks")
}

func TestTwoPeopleTickTheSameRowOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	code, v := b.Planned()
	key := v.Judged.Work.Steps[1].Key
	var wg sync.WaitGroup
	for _, who := range []string{"maud", "ivo", "pip", "maud", "ivo", "pip"} {
		wg.Go(func() {
			assert.Equal(t, 200, b.As[who].Send("POST", "/api/pieces/"+code+"/texture/ticks", m{"key": key}, nil))
		})
	}
	wg.Wait()
	var rows, said int
	require.NoError(t, b.S.DB.Get(&rows, `SELECT COUNT(*) FROM texture_tick`))
	require.NoError(t, b.S.DB.Get(&said, `SELECT COUNT(*) FROM journal WHERE act = 'step done'`))
	assert.Equal(t, []int{1, 1}, []int{rows, said})
}

func TestTwoDraftsMeetAndBothAreKept(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	on := "/api/pieces/" + code + "/texture"
	b.SaveTexture("maud", code, shoptest.Scales(4))
	b.SaveTexture("ivo", code, shoptest.Scales(5))
	b.As["maud"].Yes("POST", on+"/agree", nil, nil)
	no := b.As["ivo"].No("POST", on+"/agree", nil)
	assert.Equal(t, "newer_agreed", no.Code)
	var both struct{ Yours, Theirs texture.Recipe }
	require.NoError(t, json.Unmarshal(no.Data, &both))
	assert.Equal(t, []uint64{5, 4}, []uint64{both.Yours.Seed, both.Theirs.Seed})
	b.As["ivo"].Yes("POST", on+"/carry", m{"latest": 2}, nil)
	var v sculpt.View
	b.As["ivo"].Yes("POST", on+"/agree", nil, &v)
	assert.Equal(t, 3, v.State.Latest)
	v = b.SaveTexture("ivo", code, shoptest.Scales(6))
	assert.Equal(t, "draft_moved", b.As["ivo"].No("PUT", on, m{"doc": shoptest.Scales(7), "base": v.State.Base, "step": v.State.Step - 1}).Code, "another window was quicker")
	b.As["ivo"].Yes("PUT", on, m{"doc": shoptest.Scales(8), "base": v.State.Base, "step": v.State.Step}, nil)
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/undo", nil, &v)
	assert.Equal(t, uint64(6), v.Doc.Seed)
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/redo", nil, &v)
	assert.Equal(t, uint64(8), v.Doc.Seed)
}

// A relief comes coarse or fine with the same marks; a plan that cannot be made
// is shoptest.Refused at its field.
func TestAReliefIsShown(t *testing.T) {
	b := shoptest.New(t, nil)
	doc := shoptest.Scales(3)
	doc["paint"] = m{"clay": m{"l": 55, "a": 3, "b": 10}, "layers": []m{{"kind": "wash", "colour": m{"l": 20, "a": 0, "b": 0}, "strength": 0.9}}}
	var coarse, fine sculpt.Shown
	b.As["pip"].Yes("POST", "/api/textures/relief", m{"doc": doc, "pixels": 2000}, &coarse)
	b.As["pip"].Yes("POST", "/api/textures/relief", m{"doc": doc, "pixels": 200000, "judge": true, "paint": true}, &fine)
	assert.LessOrEqual(t, coarse.NX*coarse.NY, 2200)
	assert.Equal(t, []int{200, 134}, []int{fine.NX, fine.NY}, "no finer than the plan")
	assert.Equal(t, coarse.Pressed, fine.Pressed)
	require.Len(t, fine.Heights, 2*fine.NX*fine.NY)
	require.Len(t, fine.Colours, 3*fine.NX*fine.NY)
	require.NotNil(t, fine.Judged)
	lowest := int16(0)
	for k := range fine.NX * fine.NY {
		if n := int16(binary.LittleEndian.Uint16(fine.Heights[2*k:])); n != -32768 { // beside the region
			lowest = min(lowest, n)
		}
	}
	assert.InDelta(t, fine.Judged.Relief.MinMM, float64(lowest)*fine.StepMM, fine.StepMM)
	assert.Equal(t, fine.Judged.Work.Presses, len(fine.Pressed))
	for field, bad := range map[string]m{
		"region.preset":          shoptest.With(doc, "region", m{"preset": "elbow"}),
		"layers[0].size":         shoptest.With(doc, "layers", []m{{"kind": "scales", "size": []float64{0, 3}, "stamps": []m{{"id": "a", "od": 5, "squash": 0.8}}}}),
		"layers[0].kind":         shoptest.With(doc, "layers", []m{{"kind": "fur"}}),
		"layers":                 shoptest.With(doc, "layers", []m{}),
		"layers[0].between":      shoptest.With(doc, "layers", []m{{"kind": "wrinkles"}}),
		"guides[0]":              shoptest.With(doc, "guides", [][][]float64{{{1, 1}}}),
		"layers[0].stamps[0].od": shoptest.With(doc, "layers", []m{{"kind": "scales", "stamps": []m{{"id": "a", "od": -5, "squash": 0.8}}}}),
		"layers[0].field":        shoptest.With(doc, "layers", []m{{"kind": "field"}}),
		"fade[0].guide":          shoptest.With(doc, "fade", []m{{"guide": 3, "over_mm": 4}}),
		"areas[0]":               shoptest.With(doc, "areas", []m{{"id": "a", "name": "x", "polygon": [][]float64{{0, 0}, {9, 9}, {9, 0}, {0, 9.5}}}}),
		"doc.seed":               shoptest.With(doc, "seed", -1),
	} {
		no := b.As["pip"].No("POST", "/api/textures/relief", m{"doc": bad, "pixels": 2000})
		assert.Equal(t, field, no.Field, no.Detail)
	}
	code := b.Begun()
	before := b.Contents()
	no := b.As["pip"].No("PUT", "/api/pieces/"+code+"/texture", m{"doc": shoptest.With(doc, "passes", []m{{"tool": "teeth", "times": 1}}), "base": 0, "step": 0})
	assert.Equal(t, "passes[0].tool", no.Field)
	assert.Equal(t, before, b.Contents())
}

func TestAPlanThatCutsThroughIsHeldBack(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	b.SaveTexture("ivo", code, shoptest.With(shoptest.Scales(3), "thickness", m{"edge_mm": 0.1, "centre_mm": 0.4, "over_mm": 20}))
	no := b.As["ivo"].No("POST", "/api/pieces/"+code+"/texture/agree", nil)
	assert.Equal(t, "held_back", no.Code)
	assert.Contains(t, no.Detail, "cuts through")
	assert.True(t, b.Texture("ivo", code).State.Drafted, "the draft is kept")
}

func TestTheRegionComesFromBriefSectionPresetOrDrawing(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var list []sculpt.Outline
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/texture/outlines", nil, &list)
	froms := map[string]int{}
	for _, o := range list {
		froms[o.From]++
		assert.Positive(t, o.CM2, o.Text)
	}
	assert.Equal(t, 1, froms["section"])
	assert.Equal(t, 28, froms["preset"], "every region, and a test tile")
	i := slices.IndexFunc(list, func(o sculpt.Outline) bool { return o.From == "section" })
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	doc, _, _, err := piece.AgreedSection(t.Context(), b.S.DB, p)
	require.NoError(t, err)
	assert.InDelta(t, doc.AreaCM2, list[i].CM2, 0.02*doc.AreaCM2)
	assert.NotNil(t, b.Texture("pip", code).Thickness, "the section says how thick it is")
	var r texture.Region
	b.As["pip"].Yes("POST", "/api/textures/outline", m{"svg": `<svg width="40mm" height="30mm" viewBox="0 0 400 300"><rect x="10" y="10" width="300" height="200"/></svg>`}, &r)
	flat, err := r.Lay()
	require.NoError(t, err)
	assert.InDelta(t, 600, flat.Area(), 0.1)
	for _, bad := range []string{"no drawing", "<svg/>", `<svg><path d="M0 0L5 q"/></svg>`, `<svg><g transform="rotate(30)"><rect width="5" height="5"/></g></svg>`, `<svg><polygon points="0,0 10,10 10,0 0,11"/></svg>`} {
		assert.Contains(t, []string{"BAD_DRAWING", "BAD_REGION"}, b.As["pip"].No("POST", "/api/textures/outline", m{"svg": bad}).Code)
	}
}

func TestSofteningLeavesAResidueThatBlocks(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	on := "/api/pieces/" + code + "/sculpt"
	var v sculpt.View
	b.As["pip"].Yes("POST", on+"/passes", m{"tool": "soft brush with alcohol", "times": 2}, &v)
	assert.Equal(t, []string{"alcohol"}, v.Surface.Residues)
	no := b.As["pip"].No("POST", on+"/passes", m{"tool": "flame", "times": 1})
	assert.Equal(t, "held_back", no.Code)
	assert.Contains(t, no.Detail, "no flame within reach")
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/clear", m{"residue": "alcohol"}, &v)
	assert.Empty(t, v.Surface.Residues)
	assert.Equal(t, "nothing", b.As["ivo"].No("POST", on+"/clear", m{"residue": "alcohol"}).Code)
	v = sculpt.View{}
	b.As["pip"].Yes("POST", on+"/passes", m{"tool": "flame", "times": 1}, &v)
	assert.Len(t, v.Surface.Passes, 2)
	assert.Equal(t, "tool", b.As["pip"].No("POST", on+"/passes", m{"tool": "teeth", "times": 1}).Field)
}

func TestATrialPaintIsTriedPeeledAndKept(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	on := "/api/pieces/" + code + "/sculpt"
	assert.Equal(t, "no_scheme", b.As["pip"].No("POST", on+"/trials", nil).Code)
	doc := shoptest.Scales(3)
	doc["paint"] = m{"clay": m{"l": 55, "a": 3, "b": 10}, "layers": []m{{"kind": "base", "colour": m{"l": 60, "a": 0, "b": 10}, "strength": 1}}}
	v := b.SaveTexture("pip", code, doc)
	assert.Equal(t, "REL-2", v.Surface.Findings[0].ID, "no release and no film are planned")
	v = sculpt.View{}
	b.As["pip"].Yes("POST", on+"/trials", nil, &v)
	assert.Equal(t, "trial_open", b.As["ivo"].No("POST", on+"/trials", nil).Code)
	id := v.Surface.Trials[0].ID
	step := func(body m) sculpt.View {
		var out sculpt.View
		b.As["pip"].Yes("POST", on+"/trials/"+shoptest.Itoa(id), body, &out)
		return out
	}
	refuse := func(body m) shoptest.Refused { return b.As["pip"].No("POST", on+"/trials/"+shoptest.Itoa(id), body) }
	assert.Equal(t, "no_release", refuse(m{"did": "filmed"}).Code)
	assert.Equal(t, "nothing", refuse(m{"did": "peeled"}).Code)
	step(m{"did": "released"})
	b.As["pip"].Yes("POST", on+"/passes", m{"tool": "soft brush with oily solvent", "times": 1}, nil)
	assert.Equal(t, "held_back", refuse(m{"did": "filmed"}).Code, "no film holds on oil")
	b.As["pip"].Yes("POST", on+"/clear", m{"residue": "oil"}, nil)
	step(m{"did": "filmed"})
	step(m{"did": "painted"})
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", on+"/looks", m{"item": "film"}).Code, "it is still on")
	v = step(m{"did": "peeled", "clean": false})
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", on+"/looks", m{"item": "film"}).Code, "paint stayed in the grooves")
	v = step(m{"did": "peeled", "clean": true, "corrections": "deepen the last three rows"})
	assert.Equal(t, "deepen the last three rows", v.Surface.Trials[0].Corrections)
	assert.Equal(t, "peeled", refuse(m{"did": "painted"}).Code)
	v = step(m{"did": "kept", "reason": "reads at three metres"})
	require.Len(t, v.Surface.Schemes, 1)
	assert.Equal(t, "base", v.Surface.Schemes[0].Scheme.Layers[0].Kind)
	b.As["ivo"].Yes("POST", on+"/looks", m{"item": "film"}, nil)
}

// A wet brush after the look at the dry surface asks for another look, and what
// it leaves holds the gate until it is off.
func TestABrushOfAlcoholTakesTheDrySurfaceBack(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	on := "/api/pieces/" + code + "/sculpt"
	for _, g := range texture.Gate {
		b.As["pip"].Yes("POST", on+"/looks", m{"item": g.ID}, nil)
	}
	b.As["pip"].Yes("POST", on+"/passes", m{"tool": "soft brush with alcohol", "times": 1}, nil)
	assert.Contains(t, b.As["ivo"].No("POST", on+"/pass", nil).Detail, "rested and dry")
	b.As["pip"].Yes("POST", on+"/looks", m{"item": "dry"}, nil)
	assert.Contains(t, b.As["ivo"].No("POST", on+"/pass", nil).Detail, "Alcohol still in the surface")
	b.As["pip"].Yes("POST", on+"/clear", m{"residue": "alcohol"}, nil)
	b.As["ivo"].Yes("POST", on+"/pass", nil, nil)
}

// What the newest measured scan shows is asked at the gate: a core that shows
// wants a lead's reason, a thin place anybody's.
func TestTheGateAsksTheScan(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	on := "/api/pieces/" + code + "/sculpt"
	for _, g := range texture.Gate {
		b.As["pip"].Yes("POST", on+"/looks", m{"item": g.ID}, nil)
	}
	shown := &seen{[]sculpt.Place{{Hole: true, Words: "core contact, 0.5 cm²: would cast as a hole"}}}
	b.S.Sculpt.Scans = shown
	no := b.As["ivo"].Because("it is under the hair").No("POST", on+"/pass", nil)
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "MLD-5")
	assert.Equal(t, "say_why", b.As["maud"].No("POST", on+"/pass", nil).Code)
	shown.places[0].Hole = false
	assert.Equal(t, "say_why", b.As["ivo"].No("POST", on+"/pass", nil).Code)
	b.As["ivo"].Because("it is under the hair").Yes("POST", on+"/pass", nil, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM gone_on WHERE rule = 'MLD-5' AND kind = 'sculpt'`))
}

// seen is a scan that shows places.
type seen struct{ places []sculpt.Place }

func (s *seen) Places(context.Context, database.Reader, string) ([]sculpt.Place, error) {
	return s.places, nil
}
func (s *seen) Volume(context.Context, database.Reader, string) (float64, bool, error) {
	return 0, false, nil
}

func TestASculptPassesItsGateWhenAllIsSeen(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	on := "/api/pieces/" + code + "/sculpt"
	mould := m{"kind": "two-part block", "material": "hard stone", "state": "wet", "made_on": "2026-01-12"}
	assert.Equal(t, "rule", b.As["ivo"].No("POST", "/api/pieces/"+code+"/moulds", mould).Code, "no mould on a sculpt that nobody looked over")
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", on+"/pass", nil).Code)
	no := b.As["ivo"].No("POST", on+"/pass", nil)
	assert.Contains(t, no.Detail, "gaps are filled")
	assert.Equal(t, "item", b.As["pip"].No("POST", on+"/looks", m{"item": "luck"}).Field)
	var v sculpt.View
	for _, g := range texture.Gate {
		v = sculpt.View{}
		b.As["pip"].Yes("POST", on+"/looks", m{"item": g.ID}, &v)
	}
	assert.Empty(t, v.Surface.Holds)
	assert.Equal(t, "pip", v.Surface.Gate[0].Who, "by a named person")
	b.As["maud"].Yes("POST", on+"/looks/back", m{"item": "thin"}, nil)
	assert.Contains(t, b.As["ivo"].No("POST", on+"/pass", nil).Detail, "no thin spot")
	b.As["maud"].Yes("POST", on+"/looks", m{"item": "thin"}, nil)
	photos := b.SculptPhoto(code, "under a low lamp")
	b.As["pip"].Yes("POST", "/api/sculpt-photos/"+shoptest.Itoa(photos[0].ID)+"/spots", m{"kind": "thin", "x": 0.3, "y": 0.6, "words": "over the jaw"}, &photos)
	assert.Contains(t, b.As["ivo"].No("POST", on+"/pass", nil).Detail, "over the jaw")
	b.As["pip"].Yes("POST", "/api/sculpt-spots/"+shoptest.Itoa(photos[0].Spots[0].ID)+"/settled", nil, nil)
	v = sculpt.View{}
	b.As["ivo"].Yes("POST", on+"/pass", nil, &v)
	assert.True(t, v.Surface.Passed)
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/moulds", mould, nil)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	assert.EqualValues(t, "mould", p.Place)
}

func TestPhotographsStandBesideThePlan(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	list := b.SculptPhoto(code, "rows 1 to 3")
	assert.True(t, list[0].Painted)
	path := "/api/pieces/" + code + "/sculpt-photos"
	status, raw := b.Sent("pip", path, map[string]string{"caption": " "}, shoptest.PNG(t, image.NewGray(image.Rect(0, 0, 4, 4))))
	assert.Equal(t, 422, status)
	assert.Contains(t, string(raw), `"caption"`)
	status, _ = b.Sent("pip", path, map[string]string{"caption": "x"}, nil)
	assert.Equal(t, 422, status)
	status, _ = b.Sent("pip", path, map[string]string{"caption": "x"}, []byte("no picture"))
	assert.Equal(t, 422, status)
	assert.Equal(t, 404, b.As["pip"].No("POST", "/api/sculpt-photos/9999/spots", m{"kind": "gap", "x": 0, "y": 0}).Status)
	assert.Equal(t, 404, b.As["pip"].No("POST", "/api/sculpt-spots/9999/settled", nil).Status)
	assert.NotEmpty(t, b.As["pip"].No("POST", "/api/sculpt-photos/"+shoptest.Itoa(list[0].ID)+"/spots", m{"kind": "gap", "x": 1.5, "y": 0}).Field)
}

// Everything leaves the shop in an open form, and a height field comes back.
func TestPlansLeaveTheShopAndHeightsComeIn(t *testing.T) {
	b := shoptest.New(t, nil)
	code, v := b.Planned()
	on := "/api/pieces/" + code + "/texture"
	status, svg := b.File("pip", on+".svg")
	require.Equal(t, 200, status)
	assert.Equal(t, v.Judged.Work.Presses, strings.Count(string(svg), `class="press"`))
	status, raw := b.File("pip", on+".pdf?page=Letter")
	require.Equal(t, 200, status)
	assert.Equal(t, "%PDF-", string(raw[:5]))
	status, _ = b.File("pip", on+".pdf?page=A9")
	assert.Equal(t, 422, status)
	status, raw = b.File("pip", on+"/plan.csv")
	require.Equal(t, 200, status)
	assert.Equal(t, 1+len(v.Judged.Work.Steps), strings.Count(string(raw), "\n"))
	status, raw = b.File("pip", on+"/plan.json")
	require.Equal(t, 200, status)
	var plan struct {
		Format string
		Recipe texture.Recipe
		Work   texture.Work
	}
	require.NoError(t, json.Unmarshal(raw, &plan))
	assert.Equal(t, v.Doc, plan.Recipe, "the recipe comes out as it is")
	assert.Equal(t, v.Judged.Work.Presses, plan.Work.Presses)
	status, raw = b.File("pip", on+"/relief.stl?base=4")
	require.Equal(t, 200, status)
	assert.Len(t, raw, 84+50*int(binary.LittleEndian.Uint32(raw[80:])))
	status, _ = b.File("pip", on+"/relief.stl?base=0.3")
	assert.Equal(t, 422, status, "too thin a base")
	status, _ = b.File("pip", on+"/shaded.png?azimuth=90&altitude=20")
	assert.Equal(t, 200, status)
	status, _ = b.File("pip", on+"/shaded.png?azimuth=north")
	assert.Equal(t, 422, status)
	status, heights := b.File("pip", on+"/heights.png")
	require.Equal(t, 200, status)
	h, _, err := paper.ReadHeights(bytes.NewReader(heights))
	require.NoError(t, err)

	status, raw = b.Sent("pip", "/api/textures/height-fields", nil, heights)
	require.Equal(t, 200, status, string(raw))
	var in sculpt.BroughtField
	require.NoError(t, json.Unmarshal(raw, &in))
	assert.Equal(t, []any{h.NX, h.NY, 0.3}, []any{in.NX, in.NY, in.MMPerPixel})
	back := shoptest.With(shoptest.Scales(3), "layers", []m{{"kind": "field", "field": m{"file": in.File, "at": []float64{0, 0}, "mm_per_pixel": 0.3}}})
	back["feather_mm"] = 0
	var shown sculpt.Shown
	b.As["pip"].Yes("POST", "/api/textures/relief", m{"doc": back, "pixels": 200000, "judge": true}, &shown)
	assert.InDelta(t, v.Judged.Relief.MinMM, shown.Judged.Relief.MinMM, 0.01, "as deep as it went out")
	status, _ = b.Sent("pip", "/api/textures/height-fields", nil, shoptest.PNG(t, image.NewRGBA(image.Rect(0, 0, 4, 4))))
	assert.Equal(t, 422, status)
	other := b.BegunAs(code)
	status, _ = b.File("pip", "/api/pieces/"+other+"/texture.svg")
	assert.Equal(t, 409, status, "nothing is planned there")
	for _, name := range []string{strings.Repeat("ab", 32), "../../../etc/passwd", ""} {
		back["layers"] = []m{{"kind": "field", "field": m{"file": name, "at": []float64{0, 0}, "mm_per_pixel": 0.3}}}
		assert.GreaterOrEqual(t, b.As["pip"].Send("POST", "/api/textures/relief", m{"doc": back, "pixels": 2000}, nil), 400)
	}
}

func TestStampsAreToolsOfTheShop(t *testing.T) {
	b := shoptest.New(t, nil)
	var list []sculpt.Stamp
	b.As["pip"].Yes("POST", "/api/stamps", m{"name": "S1", "od_mm": 8, "squash": 0.8, "squash_b": 0.65, "filler": "putty", "hollow_mm": 0.6, "place": "left tin"}, &list)
	assert.InDelta(t, 8.8615, list[0].AWidth, 1e-4, "the tube of the handbook's case")
	assert.Equal(t, "name", b.As["pip"].No("POST", "/api/stamps", m{"name": "S1", "od_mm": 8, "squash": 0.8}).Field)
	assert.Equal(t, "name", b.As["pip"].No("POST", "/api/stamps", m{"name": " ", "od_mm": 8, "squash": 0.8}).Field)
	assert.Equal(t, "od_mm", b.As["pip"].No("POST", "/api/stamps", m{"name": "S2", "od_mm": 0, "squash": 0.8}).Field)
	assert.Equal(t, "squash", b.As["pip"].No("POST", "/api/stamps", m{"name": "S2", "od_mm": 4, "squash": 1.2}).Field)
	assert.Equal(t, "squash_b", b.As["pip"].No("POST", "/api/stamps", m{"name": "S2", "od_mm": 4, "squash": 1, "squash_b": 0}).Field)
	change := m{"name": "S1", "od_mm": 8, "squash": 0.8, "place": "bench 4", "state": "worn", "version": 1}
	b.As["ivo"].Yes("PUT", "/api/stamps/"+shoptest.Itoa(list[0].ID), change, &list)
	assert.Equal(t, []any{"bench 4", "worn", 2}, []any{list[0].Place, list[0].State, list[0].Version})
	assert.Equal(t, "changed", b.As["pip"].No("PUT", "/api/stamps/"+shoptest.Itoa(list[0].ID), change).Code, "somebody moved it meanwhile")
}

func TestAHousePatternIsKeptAndLaidAtAnotherScale(t *testing.T) {
	b := shoptest.New(t, nil)
	code, _ := b.Planned()
	assert.Equal(t, "name", b.As["pip"].No("POST", "/api/patterns", m{"name": "", "piece": code}).Field)
	var list []sculpt.Pattern
	b.As["pip"].Yes("POST", "/api/patterns", m{"name": "gravel tide", "piece": code, "note": "low light"}, &list)
	assert.Positive(t, list[0].MinutesCM2)
	assert.Equal(t, "name", b.As["ivo"].No("POST", "/api/patterns", m{"name": "gravel tide", "piece": code}).Field)
	var twice sculpt.Pattern
	b.As["pip"].Yes("GET", "/api/patterns/"+shoptest.Itoa(list[0].ID)+"?by=2", nil, &twice)
	assert.Equal(t, texture.Span{16, 10}, *twice.Layers[0].Size)
	assert.Equal(t, 15.0, twice.Layers[0].Stamps[0].OD)
	assert.Equal(t, 404, b.As["pip"].No("GET", "/api/patterns/9999", nil).Status)
	assert.Equal(t, "piece", b.As["pip"].No("POST", "/api/patterns", m{"name": "nothing", "piece": b.BegunAs(code)}).Field, "no texture to keep")
}

// Heights travel as bytes in base64, as a browser reads them.
func TestHeightsTravelAsBase64(t *testing.T) {
	b := shoptest.New(t, nil)
	var raw struct{ Heights string }
	b.As["pip"].Yes("POST", "/api/textures/relief", m{"doc": shoptest.Scales(3), "pixels": 1500}, &raw)
	_, err := base64.StdEncoding.DecodeString(raw.Heights)
	assert.NoError(t, err)
}
