package brief_test

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"net/http"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"
	"yewmoor/internal/copies"
	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/production"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/brief"

	"github.com/ledongthuc/pdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestABriefFromEmptyToAgreed(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Cheeks of bark", "cheek", "")
	v := b.Brief(code)
	assert.Equal(t, 40.0, v.Doc.AreaCM2, "the region's usual one, until it is drawn")
	assert.Equal(t, "both", v.Map.Sight)
	require.Len(t, v.Stamps, len(form.Sheets))

	v = b.Put("pip", code, func(d *piece.Brief) {
		d.Marks = []wearmap.Mark{shoptest.Drawn(t, "cheek", "L")}
		d.Wishes = []piece.Wish{{ID: "w", Text: "the whole side of the face", By: "the director", Times: 3, State: "open"}}
		d.Features = []piece.Feature{{ID: "f1", Text: "ridges"}}
	})
	f, err := form.Fit("head", nil)
	require.NoError(t, err)
	outline, _ := f.Region("cheek", "L")
	assert.InDelta(t, f.Area(outline)/100, v.Doc.AreaCM2, 0.02, "true skin, as soon as it is drawn")
	assert.Equal(t, "cheek", v.Wear.Grades[0].Region)
	assert.Equal(t, "full", v.Wear.Grades[0].Grade)

	assert.Equal(t, "not_yours", b.As["pip"].No("POST", "/api/pieces/"+code+"/brief/agree", m{}).Code)
	b.Put("ivo", code, func(d *piece.Brief) { *d = v.Doc })
	assert.Equal(t, "wishes", b.As["ivo"].No("POST", "/api/pieces/"+code+"/brief/agree", m{}).Field, "an open wish is decided first")
	b.Put("ivo", code, func(d *piece.Brief) {
		d.Wishes[0].State, d.Wishes[0].Decision = "agreed", "it stops short of the mouth"
	})
	assert.Contains(t, b.As["ivo"].No("POST", "/api/pieces/"+code+"/brief/agree", m{}).Detail, "Who decided")
	b.Put("ivo", code, func(d *piece.Brief) { d.Wishes[0].DecidedBy = "the director" })

	// A step back and forward again.
	var back brief.View
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/brief/undo", m{}, &back)
	assert.Empty(t, back.Doc.Wishes[0].DecidedBy)
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/brief/redo", m{}, &back)
	assert.Equal(t, "the director", back.Doc.Wishes[0].DecidedBy)
	assert.Equal(t, "no_step", b.As["ivo"].No("POST", "/api/pieces/"+code+"/brief/redo", m{}).Code)

	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, &back)
	assert.Equal(t, 1, back.State.Latest)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	assert.EqualValues(t, "form", p.Place)
	b.Put("maud", code, func(d *piece.Brief) { d.Decided = "stops at the mouth" })
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
	var versions []piece.BriefVersion
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/brief/versions", nil, &versions)
	require.Len(t, versions, 2)
	assert.Equal(t, []int{2, 1}, []int{versions[0].Number, versions[1].Number})
	assert.Empty(t, versions[1].Doc.Decided)
	b.Put("maud", code, func(d *piece.Brief) { d.Decided = "no" })
	b.As["maud"].Send("DELETE", "/api/pieces/"+code+"/brief/draft", nil, nil)
	assert.Equal(t, "stops at the mouth", b.Brief(code).Doc.Decided)
}

func TestTheMapHoldsABriefBack(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Beak", "nose", "")
	b.Put("maud", code, func(d *piece.Brief) {
		d.KeepFree = []string{}
		d.Marks = []wearmap.Mark{shoptest.Round(t, "nose_base", 24, 14)}
	})
	no := b.As["maud"].No("POST", "/api/pieces/"+code+"/brief/agree", m{"signed": []m{{"id": "SAF-4", "reason": "the look"}}})
	assert.Equal(t, "held_back", no.Code)
	assert.Contains(t, no.Detail, "SAF-4", "nobody signs away both nostrils")

	b.Put("maud", code, func(d *piece.Brief) {
		d.KeepFree = []string{"mouth", "left eye", "right eye"}
		d.Marks = append(d.Marks, shoptest.Round(t, "pupil_L", 16, 9))
		d.WayOut = wear.WayOut{Closure: "peels off", Minutes: 1}
	})
	b.Put("ivo", code, func(d *piece.Brief) { *d = b.Brief(code).Doc })
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", "/api/pieces/"+code+"/brief/agree", m{"signed": []m{{"id": "MAP-1", "reason": "seen"}}}).Code, "only a lead signs")
	no = b.As["maud"].No("POST", "/api/pieces/"+code+"/brief/agree", m{})
	assert.Contains(t, no.Detail, "MAP-1")
	var v brief.View
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{"signed": []m{{"id": "MAP-1", "reason": "shot with the eye shut, ten minutes"}}}, &v)
	require.Len(t, v.Signed, 1)
	assert.Equal(t, "maud", v.Signed[0].By)
}

func TestAnAreaFollowsTheWearersMeasurements(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Hand", "hand_back", "L")
	who := b.Wearer(code)
	b.Put("maud", code, func(d *piece.Brief) { d.Marks = []wearmap.Mark{shoptest.Drawn(t, "hand_back", "L")} })
	before := b.Brief(code).Map.CM2
	var body brief.Body
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/performers/%d/measures", who), m{"name": "hand_length", "typed": "8 1/4 in"}, &body)
	after := b.Brief(code)
	assert.Greater(t, after.Map.CM2, before*1.1)
	for _, x := range body.Measures {
		if x.Name == "hand_length" {
			assert.InDelta(t, 209.55, x.MM, 0.01)
			assert.InDelta(t, x.MM, x.FormMM, 1, "the form was fitted to it")
		}
	}
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/performers/%d/measures", who), m{"name": "glove size", "typed": "9 in"}, &body)
	assert.Equal(t, "glove size", body.Measures[len(body.Measures)-1].Name, "a shop's own is kept beside them")
	path := fmt.Sprintf("/api/performers/%d/measures", who)
	for typed, want := range map[string]string{"hand_length|9 m": "out_of_range", "hand_length|90 cm": "contradiction", "hand_length|a lot": "not_a_quantity", "|10 mm": "missing", "head_girth|350 g": "wrong_unit"} {
		parts := strings.SplitN(typed, "|", 2)
		assert.Equal(t, want, b.As["pip"].No("POST", path, m{"name": parts[0], "typed": parts[1]}).Code, typed)
	}
	assert.Equal(t, "not_yours", b.As["pip"].No("DELETE", path+"/hand_length", nil).Code)
	b.As["ivo"].Yes("DELETE", path+"/hand_length", nil, nil)
	assert.InDelta(t, before, b.Brief(code).Map.CM2, 0.02)
}

func TestTheSheetIsTheFormThinned(t *testing.T) {
	b := shoptest.New(t, nil)
	var s brief.Sheet
	b.As["pip"].Yes("GET", "/api/performers/0/map/head", nil, &s)
	require.Len(t, s.Net, 3*s.Columns*s.Rows)
	f, err := form.Fit("head", nil)
	require.NoError(t, err)
	// Between the thinned points a place is found to a millimetre; only where an
	// ear stands off the head the net is too coarse for that.
	near, all := 0, 0
	for _, r := range s.Regions {
		for _, p := range form.Curve(r.Outline, true) {
			if all++; f.At(p).Distance(shoptest.On(s, p)) < 1 {
				near++
			}
		}
	}
	assert.Greater(t, float64(near)/float64(all), 0.95, "%d of %d", near, all)
	assert.NotEmpty(t, s.KeepOut)
	var view form.View
	b.As["pip"].Yes("GET", "/api/performers/0/map/head/view?yaw=32&pitch=0", nil, &view)
	assert.Equal(t, 30, view.Yaw, "the nearest side that is drawn")
	assert.Equal(t, 404, b.As["pip"].No("GET", "/api/performers/0/map/tail/view", nil).Status)
}

func TestSkinIsReadAndWhatIsOffIsPutAside(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Cheek", "cheek", "L")
	path := fmt.Sprintf("/api/performers/%d/skin", b.Wearer(code))
	var body brief.Body
	for _, l := range [][3]float64{{61.2, 10.1, 17.9}, {61.5, 10.4, 17.6}, {60.9, 10, 18.2}, {66.8, 6.1, 14}, {61.3, 10.2, 17.8}} {
		b.As["pip"].Yes("POST", path, m{"region": "cheek", "side": "L", "source": "lab", "lab": m{"l": l[0], "a": l[1], "b": l[2]}}, &body)
	}
	require.Len(t, body.Skin, 1)
	assert.Equal(t, []int{3}, body.Skin[0].Result.Rejected)
	assert.False(t, body.Skin[0].Readings[3].Kept, "shown, never deleted")
	assert.InDelta(t, 61.225, body.Skin[0].Result.Mean.L, 1e-6)
	b.As["pip"].Yes("POST", path, m{"region": "forehead", "side": "", "source": "reader"}, &body)
	b.As["pip"].Yes("POST", path, m{"region": "nose", "side": "", "source": "srgb", "srgb": []int{178, 142, 119}}, &body)
	assert.True(t, body.Skin[2].Guess, "a camera's colours are a guess")
	assert.InDelta(t, 61.778, body.Skin[2].Result.Mean.L, 0.001)
	for name, in := range map[string]m{
		"srgb[1]": {"region": "nose", "side": "", "source": "srgb", "srgb": []int{178, 999, 119}}, "lab": {"region": "nose", "side": "", "source": "lab"},
		"region": {"region": "tail", "side": "", "source": "reader"}, "body.lab.l": {"region": "nose", "side": "", "source": "lab", "lab": m{"l": 140, "a": 0, "b": 0}},
	} {
		assert.True(t, strings.HasSuffix(name, b.As["pip"].No("POST", path, in).Field), name)
	}
	assert.Equal(t, 404, b.As["pip"].No("POST", "/api/performers/999/skin", m{"region": "nose", "side": "", "source": "reader"}).Status)
}

func TestLimitsConsentAndExposures(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Mask", "face", "")
	path := fmt.Sprintf("/api/performers/%d", b.Wearer(code))
	assert.Equal(t, "amount", b.As["ivo"].No("PUT", path+"/limits", m{"kind": "hours", "note": ""}).Field)
	assert.Equal(t, "contradiction", b.As["ivo"].No("PUT", path+"/limits", m{"kind": "sight", "amount": 3, "note": ""}).Code)
	b.As["ivo"].Yes("PUT", path+"/limits", m{"kind": "hours", "amount": 3, "note": "her own word"}, nil)
	b.Put("maud", code, func(d *piece.Brief) { d.WearHours = 7 })
	v := b.Brief(code)
	assert.Equal(t, 3.0, v.Wear.MaxHours)
	assert.Equal(t, "SAF-6", v.Wear.Findings[0].ID)
	assert.Equal(t, "not_yours", b.As["ivo"].No("DELETE", path+"/limits/hours", nil).Code)
	b.As["maud"].Yes("DELETE", path+"/limits/hours", nil, nil)
	assert.Zero(t, b.Brief(code).Wear.MaxHours)

	var p people.Performer
	b.As["ivo"].Yes("POST", path+"/consents", m{"what": "life cast", "given_on": "2026-01-10", "until_on": "2026-02-10", "note": ""}, &p)
	assert.Equal(t, "until_on", b.As["ivo"].No("POST", path+"/consents", m{"what": "life cast", "given_on": "2026-01-10", "until_on": "2026-01-02", "note": ""}).Field)
	assert.Equal(t, "given_on", b.As["ivo"].No("POST", path+"/consents", m{"what": "life cast", "given_on": "2026-03-10", "note": ""}).Field)
	b.As["ivo"].Yes("POST", fmt.Sprintf("%s/consents/%d/withdrawal", path, p.Consents[0].ID), m{}, &p)
	assert.NotNil(t, p.Consents[0].WithdrawnOn, "it stays in the list as withdrawn")
	assert.Equal(t, 404, b.As["ivo"].No("POST", fmt.Sprintf("%s/consents/%d/withdrawal", path, p.Consents[0].ID), m{}).Status)
	assert.Equal(t, "not_yours", b.As["pip"].No("GET", path, nil).Code, "an apprentice sees none of it")
}

func TestLooksInStagesAndHalves(t *testing.T) {
	b := shoptest.New(t, nil)
	one, two := b.NewPiece("Brow", "forehead", ""), b.NewPiece("Cheeks", "cheek", "")
	for _, code := range []string{one, two} {
		b.Put("maud", code, func(d *piece.Brief) { d.Marks = []wearmap.Mark{shoptest.Drawn(t, "cheek", "L")} })
	}
	assert.Len(t, b.Brief(one).Others, 1, "without looks every piece of the character is worn together")
	assert.InDelta(t, b.Brief(one).Map.CM2, b.Brief(one).Map.Overlaps[0].CM2, 0.05)
	look := func(name string, stage, version int, pieces ...string) m {
		if pieces == nil {
			pieces = []string{}
		}
		return m{"name": name, "stage": stage, "left_half": "", "right_half": "", "note": "", "pieces": pieces, "marks": []any{}, "version": version}
	}
	var list []brief.Look
	b.As["ivo"].Yes("PUT", "/api/characters/AL/looks", look("Intact", 1, 0, one), &list)
	b.As["ivo"].Yes("PUT", "/api/characters/AL/looks", look("hurt", 2, 0, one, two), &list)
	assert.Equal(t, "AL·hurt", list[1].Code)
	assert.Equal(t, []string{one}, list[1].Shared)
	assert.Empty(t, b.Brief(one).Others, "its first look wears it alone")
	var hurt brief.View
	b.As["pip"].Yes("GET", "/api/pieces/"+one+"/brief?look=hurt", nil, &hurt)
	assert.Len(t, hurt.Others, 1)

	halves := look("hurt", 2, 1, one, two)
	halves["left_half"], halves["right_half"] = "bark", "skin"
	b.As["ivo"].Yes("PUT", "/api/characters/AL/looks", halves, nil)
	var c brief.Character
	b.As["pip"].Yes("GET", "/api/characters/AL", nil, &c)
	assert.Contains(t, strings.Join(c.Wanted, "; "), "no border on the map yet")
	assert.Equal(t, "changed", b.As["maud"].No("PUT", "/api/characters/AL/looks", halves).Code, "somebody else was quicker")
	assert.Equal(t, "taken", b.As["maud"].No("PUT", "/api/characters/AL/looks", look("hurt", 2, 0)).Code)
	assert.Equal(t, "name", b.As["maud"].No("PUT", "/api/characters/AL/looks", look("·", 1, 0)).Field)
	assert.Equal(t, "pieces[0]", b.As["maud"].No("PUT", "/api/characters/AL/looks", look("older", 3, 0, "BF-01")).Field)
	b.As["maud"].Yes("DELETE", "/api/characters/AL/looks/intact", nil, &list)
	assert.Len(t, list, 1)
}

func TestReferencesWithNotesAndPickedColours(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Cheek", "cheek", "L")
	good := map[string]string{"caption": "a stone", "credit": "drawn", "view": "front", "standing": "stand-in"}
	status, r, _ := b.Pin(code, shoptest.Picture(t, 400, 200), good)
	require.Equal(t, 200, status)
	assert.Equal(t, []int{400, 200}, []int{r.Width, r.Height})
	for field, wrong := range map[string]map[string]string{"caption": {"view": "front"}, "view": {"caption": "x", "view": "sideways"}, "standing": {"caption": "x", "standing": "true"}} {
		_, _, no := b.Pin(code, shoptest.Picture(t, 40, 20), wrong)
		assert.Equal(t, field, no.Field)
	}
	_, _, no := b.Pin(code, "<svg onload=alert(1)>", good)
	assert.Equal(t, "wrong_type", no.Code)

	path := fmt.Sprintf("/api/references/%d", r.ID)
	var v piece.View
	b.As["pip"].Yes("POST", path+"/notes", m{"kind": "colour", "points": [][]float64{{0.75, 0.5}}, "label": "pale", "words": "", "half": 0.05}, &v)
	n := v.References[0].Notes[0]
	assert.InDelta(t, 80.6, n.Lab.L, 0.1, "grey 200 reads L* 80.6")
	assert.InDelta(t, 0, n.Spread, 0.01)
	b.As["pip"].Yes("POST", path+"/notes", m{"kind": "colour", "points": [][]float64{{0.5, 0.5}}, "label": "edge", "words": "", "half": 0.05}, &v)
	mixed := v.References[0].Notes[1]
	assert.Greater(t, mixed.Spread, 20.0, "half dark, half light: a colour of nothing")
	assert.InDelta(t, 60, mixed.Lab.L, 4, "light is averaged, not code values")
	b.As["pip"].Yes("POST", path+"/notes", m{"kind": "line", "points": [][]float64{{0.1, 0.1}, {0.4, 0.2}}, "label": "a fold", "words": ""}, &v)
	for field, wrong := range map[string]m{"label": {"kind": "note", "points": [][]float64{{0.5, 0.5}}, "label": " ", "words": ""}, "points": {"kind": "note", "points": [][]float64{{1.5, 0.5}}, "label": "x", "words": ""}} {
		assert.Equal(t, field, b.As["pip"].No("POST", path+"/notes", wrong).Field)
	}
	assert.Equal(t, "points", b.As["pip"].No("POST", path+"/notes", m{"kind": "line", "points": [][]float64{{0.5, 0.5}}, "label": "x", "words": ""}).Field)

	b.As["pip"].Yes("PUT", fmt.Sprintf("/api/reference-notes/%d", n.ID), m{"label": "the rim of a plate", "words": "now we know the word"}, &v)
	assert.Equal(t, "the rim of a plate", v.References[0].Notes[0].Label)
	b.As["pip"].Yes("DELETE", fmt.Sprintf("/api/reference-notes/%d", n.ID), nil, &v)
	assert.Len(t, v.References[0].Notes, 2)
	assert.Equal(t, 404, b.As["pip"].No("DELETE", fmt.Sprintf("/api/reference-notes/%d", n.ID), nil).Status)
	words := ""
	for _, j := range v.Journal {
		words += j.Words + "|"
	}
	assert.Contains(t, words, "“pale” is now “the rim of a plate”", "what it was called stays in the record")

	b.As["pip"].Yes("PUT", path, m{"caption": "a better word", "credit": "", "view": "left", "standing": "direct", "version": 1}, &v)
	assert.Equal(t, "a better word", v.References[0].Caption)
	assert.Equal(t, "changed", b.As["ivo"].No("PUT", path, m{"caption": "another", "credit": "", "view": "", "standing": "direct", "version": 1}).Code)

	for query, want := range map[string]int{"": 200, "?width=480": 200, "?width=481": 422, "?width=x": 422} {
		res, err := b.As["pip"].Client.Get(b.URL + "/api/files/" + r.SHA256 + query)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, want, res.StatusCode, query)
		if want == 200 {
			assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
		}
	}
}

func TestFeaturesMustBeSeenBeforeACopyIsAccepted(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.Put("maud", code, func(d *piece.Brief) {
		d.Features = []piece.Feature{{ID: "f1", Text: "growth runs downwind"}, {ID: "f2", Text: "ear rim"}}
	})
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
	doc, agreed, err := piece.AgreedBrief(t.Context(), b.S.DB, 1)
	require.NoError(t, err)
	require.True(t, agreed)
	require.Len(t, doc.Features, 2)
	made := b.Poured(code)[0]
	other := b.Poured(code)[0]
	missing := func(of string) []string {
		c, err := copies.Find(t.Context(), b.S.DB, of)
		require.NoError(t, err)
		list, err := b.S.Brief.Missing(t.Context(), b.S.DB, c.PieceID, c.ID)
		require.NoError(t, err)
		return list
	}
	assert.Equal(t, []string{"growth runs downwind", "ear rim"}, missing(made))
	var list []brief.OnCopy
	b.As["pip"].Yes("POST", "/api/copies/"+made+"/features/f1", m{"there": true}, &list)
	assert.Equal(t, "pip", list[0].Seen.By)
	b.As["pip"].Yes("POST", "/api/copies/"+made+"/features/f2", m{"there": true}, nil)
	b.As["pip"].Yes("POST", "/api/copies/"+made+"/features/f2", m{"there": false}, nil)
	assert.Equal(t, []string{"ear rim"}, missing(made))
	assert.Len(t, missing(other), 2, "what is seen on one copy is not seen on the next")
	assert.Equal(t, 404, b.As["pip"].No("POST", "/api/copies/"+made+"/features/f9", m{"there": true}).Status)
	var v brief.View
	b.As["pip"].Yes("POST", "/api/pieces/"+code+"/features/f1", m{"there": true}, &v)
	assert.Equal(t, "pip", v.Seen["f1"].By, "and on the sculpt it is a word of its own")
}

func TestActualsStandBesideEstimatesAndCountOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Cheek", "cheek", "L")
	b.Put("pip", code, func(d *piece.Brief) {
		d.Steps = []piece.StepHours{{ID: "s1", Text: "sculpt", Where: "workshop", Skill: "fabricator", Hours: 8}}
		d.Budget = []piece.Item{{ID: "b1", Text: "shells", Origin: "found"}}
	})
	once := shoptest.Key()
	var v brief.View
	for range 3 {
		b.As["pip"].Yes("POST", "/api/pieces/"+code+"/actuals", m{"kind": "hours", "subject": "s1", "amount": 2.5, "note": "", "key": once}, &v)
	}
	require.Len(t, v.Actuals, 1, "sent three times, it counts once")
	b.As["pip"].Yes("POST", "/api/pieces/"+code+"/actuals", m{"kind": "money", "subject": "b1", "amount": 1250, "note": "", "key": shoptest.Key()}, &v)
	require.Len(t, v.Actuals, 2)
	assert.Equal(t, "subject", b.As["pip"].No("POST", "/api/pieces/"+code+"/actuals", m{"kind": "hours", "subject": "b1", "amount": 2, "note": "", "key": shoptest.Key()}).Field)
	assert.Equal(t, "amount", b.As["pip"].No("POST", "/api/pieces/"+code+"/actuals", m{"kind": "hours", "subject": "s1", "amount": 0, "note": "", "key": shoptest.Key()}).Field)
	assert.Equal(t, "amount", b.As["pip"].No("POST", "/api/pieces/"+code+"/actuals", m{"kind": "hours", "subject": "s1", "amount": 900, "note": "", "key": shoptest.Key()}).Field)
}

func TestDaysTakeOverTheForecastAndAreNotOverwritten(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Cheek", "cheek", "L")
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), m{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	var w m
	b.As["pip"].Yes("GET", "/api/forecast?place=quayside&day=2026-01-23", nil, &w)
	change := m{"day": "2026-01-23", "place": "quayside", "temp_c": w["temp_c"], "rh": w["rh"], "light": "daylight", "sun": w["sun"], "rain": w["rain"], "source": "forecast", "version": 1}
	path := fmt.Sprintf("/api/days/%d", days[0].ID)
	b.As["ivo"].Yes("PUT", path, change, &days)
	assert.Equal(t, "forecast", days[0].Source)
	assert.Equal(t, "changed", b.As["maud"].No("PUT", path, change).Code)
	assert.Equal(t, 404, b.As["maud"].No("PUT", "/api/days/999", change).Status)
	assert.Equal(t, "not_yours", b.As["pip"].No("PUT", path, change).Code)
	assert.Equal(t, 422, b.As["pip"].No("GET", "/api/forecast?place=x&day=tomorrow", nil).Status)
}

func TestTwoPeopleDrawOnOneWearersMap(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Chin", "chin", "")
	path := fmt.Sprintf("/api/performers/%d/marks", b.Wearer(code))
	beard := shoptest.Drawn(t, "chin", "")
	beard.Kind, beard.How = "hair", "keep free"
	var wins sync.Map
	var all sync.WaitGroup
	for i, who := range []string{"maud", "ivo", "maud", "ivo"} {
		all.Go(func() {
			wins.Store(i, b.As[who].Send("PUT", path, m{"marks": []wearmap.Mark{beard}, "version": 0}, nil))
		})
	}
	all.Wait()
	won := 0
	wins.Range(func(_, status any) bool {
		if status == 200 {
			won++
		} else {
			assert.Equal(t, 409, status)
		}
		return true
	})
	assert.Equal(t, 1, won)
	b.Put("maud", code, func(d *piece.Brief) { d.Marks = []wearmap.Mark{shoptest.Drawn(t, "chin", "")} })
	assert.Equal(t, "MAP-3", b.Brief(code).Map.Findings[0].ID, "the beard shall stay free")
	area := shoptest.Drawn(t, "chin", "")
	assert.Equal(t, "marks[0].kind", b.As["maud"].No("PUT", path, m{"marks": []wearmap.Mark{area}, "version": 1}).Field, "an area belongs to a piece")
}

func TestDrawingsAndCardsToPrint(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.NewPiece("Chin & <knot>", "chin", "")
	b.Put("maud", code, func(d *piece.Brief) { d.Marks = []wearmap.Mark{shoptest.Drawn(t, "chin", "")} })
	get := func(path string) (int, string, http.Header) {
		res, err := b.As["pip"].Client.Get(b.URL + path)
		require.NoError(t, err)
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(raw), res.Header
	}
	status, svg, _ := get("/api/pieces/" + code + "/map.svg?yaw=0")
	require.Equal(t, 200, status)
	assert.Contains(t, svg, "50 mm: print at 100 %")
	assert.Contains(t, svg, "Chin &amp; &lt;knot&gt;")
	assert.Regexp(t, `width="\d+\.\dmm"`, svg, "at true size")
	var ready brief.Ready
	b.As["pip"].Yes("GET", "/api/characters/AL/ready", nil, &ready)
	require.Len(t, ready.Preparations, 1)
	assert.NotEmpty(t, ready.Card.Stop)
	status, card, header := get("/api/characters/AL/card.pdf")
	require.Equal(t, 200, status)
	assert.Equal(t, "application/pdf", header.Get("Content-Type"))
	r, err := pdf.NewReader(strings.NewReader(card), int64(len(card)))
	require.NoError(t, err)
	assert.Equal(t, 2, r.NumPage())
	text, err := r.Page(1).GetPlainText(nil)
	require.NoError(t, err)
	assert.Contains(t, text, "How to say stop")
	status, _, _ = get("/api/characters/ZZ/card.pdf")
	assert.Equal(t, 404, status)
	status, _, _ = get("/api/pieces/ZZ-01/map.svg")
	assert.Equal(t, 404, status)
}

// A picture of forty megapixels is taken in while others are served: they are
// answered before it is.
func TestABigPictureKeepsNobodyWaiting(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Cheek", "cheek", "L")
	img := image.NewYCbCr(image.Rect(0, 0, 7744, 5184), image.YCbCrSubsampleRatio420)
	for i := range img.Y {
		img.Y[i] = uint8(i * 7 / 5)
	}
	var big bytes.Buffer
	require.NoError(t, jpeg.Encode(&big, img, nil))
	taken := make(chan int)
	go func() {
		status, _, _ := b.Pin(code, big.String(), map[string]string{"caption": "big"})
		taken <- status
	}()
	// What is opened now lies in the folder as a temporary file.
	require.Eventually(t, func() bool {
		list, err := filepath.Glob(filepath.Join(b.S.Config.FilesDir, "in-*"))
		return err == nil && len(list) > 0
	}, time.Minute, time.Millisecond)
	answered := 0
	for ; answered < 8; answered++ {
		b.As["maud"].Yes("GET", "/api/pieces/"+code+"/brief", nil, nil)
		select {
		case <-taken:
			t.Fatalf("the picture was done after %d answers", answered)
		default:
		}
	}
	assert.Equal(t, 200, <-taken)
	v, err := b.S.Pieces.View(t.Context(), code)
	require.NoError(t, err)
	require.Len(t, v.References, 1)
	assert.Equal(t, []int{7744, 5184}, []int{v.References[0].Width, v.References[0].Height})
}

// What was written down of a product stands where it is chosen again; what was
// improvised under its name too.
func TestAVerdictStandsWhereTheProductIsChosenAgain(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	pip := b.As["pip"]
	of := func(slugs ...string) (words []string) {
		var list []brief.Trial
		pip.Yes("GET", "/api/trials?materials="+strings.Join(slugs, ","), nil, &list)
		for _, x := range list {
			words = append(words, x.What+": "+x.Result)
		}
		return words
	}
	assert.Empty(t, of("softener"))
	assert.Equal(t, "material", pip.No("POST", "/api/trials",
		m{"material": "tar", "job": "a crust", "result": "failed", "reason": "it stank"}).Field)
	assert.Equal(t, "reason", pip.No("POST", "/api/trials",
		m{"material": "softener", "job": "a cheek", "result": "failed", "reason": " "}).Field)
	assert.Equal(t, "what", pip.No("POST", "/api/trials", m{"job": "a cheek", "result": "failed", "reason": "it tore"}).Field)
	pip.Yes("POST", "/api/trials", m{"material": "softener", "job": "a thin cheek", "result": "failed", "reason": "it tore"}, nil)
	pip.Yes("POST", "/api/trials", m{"what": "silicone softener", "job": "a loose jaw", "result": "worked", "reason": "it swung"},
		nil)
	pip.Yes("POST", "/api/trials", m{"what": "kitchen sauce", "job": "old blood", "result": "failed", "reason": "it dried matt"},
		nil)
	assert.Equal(t, []string{"silicone softener: worked", "Silicone softener: failed"}, of("softener", "latex"))
	assert.Empty(t, of("latex"))
	var all []brief.Trial
	pip.Yes("GET", "/api/trials", nil, &all)
	assert.Len(t, all, 3)
	assert.Equal(t, "softener", all[2].Of)
}
