package shop_test

import (
	"fmt"
	"strings"
	"testing"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Wrong, missing, absurd and contradictory entries: each is shoptest.Refused at its
// field with a sentence, and nothing of what is recorded changes.
func TestWhatCannotBeMeantIsRefusedAtItsField(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	v := b.Weighed(code)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	potPath := fmt.Sprintf("/api/pots/%d", b.Pot(copyCode).ID)
	days := fmt.Sprintf("/api/productions/%d/days", p.ProductionID)
	performer := fmt.Sprintf("/api/performers/%d", *p.PerformerID)

	lot := m{"material": "silicone-gel", "code": "N-1", "amount_a": "1 kg", "amount_b": "1 kg", "expires_on": "2026-09-01"}
	newPiece := m{"production": "The Tallow Court", "character_code": "GC", "character_name": "the glover", "performer": "", "name": "Nose", "region": "nose", "side": "", "copies_wanted": 2}
	day := m{"day": "2026-02-01", "place": "quayside", "temp_c": 4, "rh": 0.8, "light": "daylight"}
	mould := m{"kind": "block", "material": "hard stone", "made_on": "2026-01-02", "state": "dry"}
	form := m{"material": "hard stone", "made_on": "2026-01-02", "place": "rack 1", "region": "face"}
	patch := m{"material": "adhesive-acrylic", "result": "clear", "tested_on": "2026-01-02", "read_on": "2026-01-04", "expires_on": "2026-07-02"}
	touch := m{"name": "cheek red", "material": "paint-alcohol", "place": "rims", "l": 42, "a": 24, "b": 19}
	clay := m{"route": "clay", "before": "300 g", "after": "272 g"}
	sheet := shoptest.Order(code, nil)
	amount := func(more m) m {
		a := shoptest.With(sheet["amount"].(m), "copies", 1)
		for k, v := range more {
			a[k] = v
		}
		return shoptest.With(sheet, "amount", a)
	}
	weigh := func(typed string) m { return m{"seq": v.Current, "key": shoptest.Key(), "typed": typed} }
	cases := []struct {
		method, path string
		body         m
		field        string
	}{
		// quantities
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("lots"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("-3 g"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("0 g"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("900 kg"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("3 mm"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("NaN g"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", weigh("1e400 g"), "typed"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", shoptest.With(weigh("3 g"), "key", "no key"), "key"},
		{"POST", "/api/mixes/" + v.Code + "/weigh", shoptest.With(weigh("3 g"), "ago_s", -5), "ago_s"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "recipe", "sawdust"), "recipe"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "recipe", "sheet-powder-translucent"), "recipe"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "additions", []m{{"material": "softener", "percent": 300}}), "additions[0].percent"},
		{"POST", "/api/mixes/sheet", amount(m{"area": nil, "mass": m{"grams": -5}}), "mass.grams"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "split", m{"bowl_ml": 1}), "split.bowl_ml"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "additions", []m{{"material": "softener", "percent": -5}}), "additions[0].percent"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "additions", []m{{"material": "softener", "percent": 5000}}), "additions[0].percent"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "additions", []m{{"material": "sawdust", "percent": 5}}), "additions[0].material"},
		{"POST", "/api/mixes/sheet", amount(m{"copies": 0}), "copies"},
		{"POST", "/api/mixes/sheet", amount(m{"spare": -1}), "spare"},
		{"POST", "/api/mixes/sheet", amount(m{"waste": 9}), "waste"},
		{"POST", "/api/mixes/sheet", amount(m{"area": m{"area_cm2": 0, "mean_mm": 2}}), "area.area_cm2"},
		{"POST", "/api/mixes/sheet", amount(m{"area": m{"area_cm2": 34, "mean_mm": -2}}), "area.mean_mm"},
		{"POST", "/api/mixes/sheet", shoptest.With(sheet, "piece", "ZZ-99"), ""},
		{"POST", "/api/lots", shoptest.With(lot, "amount_a", "a tin"), "amount_a"},
		{"POST", "/api/lots", shoptest.With(lot, "amount_b", "-1 kg"), "amount_b"},
		{"POST", "/api/lots", shoptest.With(lot, "expires_on", "2025-01-01"), "expires_on"},
		{"POST", "/api/lots", shoptest.With(lot, "expires_on", "soon"), "expires_on"},
		{"POST", "/api/lots", shoptest.With(lot, "code", " "), "code"},
		{"POST", "/api/lots", shoptest.With(lot, "code", "K-old"), "code"},
		{"POST", "/api/lots", shoptest.With(lot, "code", strings.Repeat("x", 40)), "code"},
		{"POST", "/api/lots", shoptest.With(lot, "open_life_days", -1), "open_life_days"},
		{"POST", "/api/lots/K-old/count", m{"part": "A", "amount": "half"}, "amount"},
		{"POST", "/api/lots/K-old/count", m{"part": "C", "amount": "1 g"}, "part"},
		{"POST", "/api/lots/nothing/count", m{"part": "", "amount": "1 g"}, ""},
		{"POST", "/api/lots/K-old/status", m{"status": "recalled", "reason": ""}, "reason"},
		{"POST", "/api/pieces/" + code + "/volumes", shoptest.With(clay, "after", "320 g"), "after"},
		{"POST", "/api/pieces/" + code + "/volumes", shoptest.With(clay, "before", "a lump"), "before"},
		{"POST", "/api/pieces/" + code + "/volumes", shoptest.With(clay, "before", nil), "before"},
		{"POST", "/api/pieces/" + code + "/volumes", shoptest.With(clay, "route", "eye"), "route"},
		{"POST", "/api/pieces/" + code + "/volumes", m{"route": "water", "full": "100 g", "empty": "200 g"}, "full"},
		{"POST", "/api/pieces/" + code + "/volumes", m{"route": "area", "area": "34 g", "mean": "2 mm"}, "area"},
		{"POST", "/api/runs", m{"piece": code, "copies": 0, "key": shoptest.Key()}, "copies"},
		{"POST", "/api/runs", m{"piece": code, "copies": 1, "key": "again"}, "key"},
		{"POST", "/api/runs", m{"piece": code, "copies": 1, "key": shoptest.Key()}, ""},
		{"POST", "/api/runs", m{"piece": "ZZ-09", "copies": 1, "key": shoptest.Key()}, ""},
		{"POST", "/api/runs/R-9999/stages/1", m{}, ""},
		{"POST", "/api/runs/R-9999/coats", m{}, ""},
		{"POST", "/api/lots/NOPE/status", m{"status": "recalled", "reason": "by the supplier"}, ""},
		// things and days
		{"POST", "/api/pieces", shoptest.With(newPiece, "name", " "), "name"},
		{"POST", "/api/pieces", shoptest.With(newPiece, "character_code", "G"), "character_code"},
		{"POST", "/api/pieces", shoptest.With(newPiece, "region", "tail"), "region"},
		{"POST", "/api/pieces", shoptest.With(newPiece, "copies_wanted", 0), "copies_wanted"},
		{"POST", "/api/pieces", shoptest.With(newPiece, "copies_wanted", 100000), "copies_wanted"},
		{"POST", "/api/pieces", shoptest.With(newPiece, "production", ""), "production"},
		{"POST", days, shoptest.With(day, "day", "31 Feb"), "day"},
		{"POST", days, shoptest.With(day, "day", "2026-02-31"), "day"},
		{"POST", days, shoptest.With(day, "rh", 1.4), "rh"},
		{"POST", days, shoptest.With(day, "temp_c", 400), "temp_c"},
		{"POST", days, shoptest.With(day, "place", ""), "place"},
		{"POST", "/api/pieces/" + code + "/moulds", shoptest.With(mould, "kind", ""), "kind"},
		{"POST", "/api/pieces/" + code + "/moulds", shoptest.With(mould, "core", "F-999"), "core"},
		{"POST", "/api/pieces/" + code + "/moulds", shoptest.With(mould, "state", "warm"), "state"},
		{"POST", "/api/forms", shoptest.With(form, "material", ""), "material"},
		{"POST", "/api/forms", shoptest.With(form, "region", "tail"), "region"},
		{"POST", "/api/forms", shoptest.With(form, "performer", "Nobody Known"), "performer"},
		{"POST", performer + "/health", m{"substance": " ", "status": "allergic"}, "substance"},
		{"POST", performer + "/health", m{"substance": "latex", "status": "perhaps"}, "status"},
		{"POST", performer + "/patch-tests", shoptest.With(patch, "material", "sawdust"), "material"},
		{"POST", performer + "/patch-tests", shoptest.With(patch, "expires_on", "2025-01-02"), "expires_on"},
		{"POST", performer + "/patch-tests", shoptest.With(shoptest.With(patch, "expires_on", "2028-01-02"), "tested_on", "2027-01-02"), "tested_on"},
		{"PUT", "/api/pieces/" + code + "/touch-ups", shoptest.With(touch, "l", 300), "l"},
		{"PUT", "/api/pieces/" + code + "/touch-ups", shoptest.With(touch, "material", "silicone-gel"), "material"},
		{"POST", "/api/pieces/" + code + "/choice", m{"method": "papier", "reason": "why not"}, "method"},
		{"POST", "/api/pieces/" + code + "/advice", m{"hottest_c": 900}, "hottest_c"},
		{"POST", "/api/pieces/" + code + "/advice", m{"camera": "sideways"}, "camera"},
		{"POST", "/api/pieces/" + code + "/section/begin", m{"base": 0, "step": 0}, "method"},
		{"POST", "/api/pieces/" + code + "/section/begin", m{"method": "wax", "height_mm": -4, "base": 0, "step": 0}, "height_mm"},
		{"POST", "/api/pieces/" + code + "/section/built", m{"copy": "BF-77-z", "reason": "so it was"}, "copy"},
		{"POST", "/api/pieces/" + code + "/section/built", m{"copy": copyCode, "reason": ""}, "reason"},
		{"POST", "/api/trials", m{"what": "", "job": "a scar", "result": "failed", "reason": "slid off"}, "what"},
		{"POST", "/api/trials", m{"what": "jam", "job": "a scar", "result": "splendid", "reason": "slid off"}, "result"},
		{"POST", "/api/trials", m{"what": "jam", "job": "a scar", "region": "tail", "result": "failed", "reason": "slid off"}, "region"},
		{"POST", "/api/trials", m{"what": "jam", "job": "a scar", "method": "papier", "result": "failed", "reason": "slid off"}, "method"},
		{"POST", "/api/trials", m{"what": "jam", "job": "a scar", "piece": "ZZ-99", "result": "failed", "reason": "slid off"}, "piece"},
		{"PUT", "/api/equipment", m{"name": "rocket", "has": true, "note": "", "version": 0}, "name"},
		{"PUT", "/api/pieces/" + code + "/touch-ups", shoptest.With(touch, "name", ""), "name"},
		{"POST", "/api/pieces/" + code + "/notes", m{"words": "  ", "key": shoptest.Key()}, "words"},
		{"POST", "/api/pieces/" + code + "/notes", m{"words": "late", "key": shoptest.Key(), "completes": 999999}, "completes"},
		{"POST", "/api/pieces/" + code + "/notes", m{"words": strings.Repeat("x", 1001), "key": shoptest.Key()}, "words"},
		{"POST", "/api/pieces/" + code + "/place", m{"place": "attic"}, "place"},
		{"POST", "/api/pieces/" + code + "/away", m{"away": true}, ""},
		// copies, pots and kits
		{"POST", "/api/copies/" + copyCode + "/ticks", m{"item": strings.Repeat("polish", 9)}, "item"},
		{"POST", "/api/copies/" + copyCode + "/verdict", m{"verdict": "downgrade", "reason": "short at the rim"}, "use_as"},
		{"POST", "/api/copies/" + copyCode + "/verdict", m{"verdict": "scrap", "reason": "torn", "items": []string{"edge"}}, "items"},
		{"POST", "/api/copies/" + copyCode + "/verdict", m{"verdict": "repair"}, "reason"},
		{"POST", "/api/copies/" + copyCode + "/faults", m{"fault": "F-BORED", "key": shoptest.Key()}, "fault"},
		{"POST", "/api/copies/" + copyCode + "/faults", m{"fault": "F-TACKY", "key": "once"}, "key"},
		{"POST", "/api/copies/" + copyCode + "/trials", m{"what": "somersault", "result": "good", "key": shoptest.Key()}, "what"},
		{"POST", "/api/copies/" + copyCode + "/trials", m{"what": "mass", "result": "good", "key": shoptest.Key()}, "value"},
		{"POST", "/api/copies/" + copyCode + "/edges", m{"kind": "edge", "name": "rim", "length_mm": 20, "intent": "be hidden", "step_mm": 0.1, "how": "felt", "key": shoptest.Key()}, "hidden_by"},
		{"POST", "/api/copies/" + copyCode + "/edges", m{"kind": "edge", "name": "rim", "length_mm": 20, "intent": "vanish", "step_mm": 0.1, "how": "felt", "way": "sandpaper", "key": shoptest.Key()}, "way"},
		{"POST", "/api/pieces/" + code + "/work", m{"act": "drop", "item": "no such line", "why": "x"}, "item"},
		{"POST", "/api/pieces/" + code + "/work", m{"act": "drop", "item": "edge", "why": "x"}, "item"},
		{"POST", "/api/pieces/" + code + "/work", m{"act": "add", "text": " "}, "text"},
		{"POST", "/api/pieces/" + code + "/work", m{"act": "move", "item": "edge"}, "after"},
		{"POST", "/api/pieces/" + code + "/insert-batches", m{"of": "i1", "made": 4, "good": 9, "key": shoptest.Key()}, "good"},
		{"POST", "/api/pieces/" + code + "/insert-batches", m{"of": "i1", "made": 4, "good": 4, "key": shoptest.Key()}, "of"},
		{"GET", "/api/samples?copies=0", nil, "copies"},
		{"POST", "/api/copies/" + copyCode + "/verdict", m{"verdict": "scrap"}, "reason"},
		{"POST", "/api/copies/" + copyCode + "/verdict", m{"verdict": "perhaps"}, "verdict"},
		{"POST", "/api/copies/ZZ-01-a/verdict", m{"verdict": "accept"}, ""},
		{"POST", potPath + "/out", m{}, ""},
		{"POST", potPath + "/observe", m{"stage": "full"}, "stage"},
		{"POST", "/api/pots/999999/out", m{}, ""},
		{"POST", "/api/kits", m{"day_id": 999999, "artist": "Jun", "copies": []string{copyCode}}, "day_id"},
		{"POST", "/api/kits", m{"day_id": 1, "artist": "", "copies": []string{copyCode}}, "artist"},
		{"POST", "/api/kits", m{"day_id": 1, "artist": "Jun", "copies": []string{}}, "copies"},
		{"POST", "/api/mixes/" + v.Code + "/abandon", m{"reason": " "}, "reason"},
		{"POST", "/api/mixes/" + v.Code + "/pour", m{"moulds": []string{""}}, ""},
		{"POST", "/api/mixes/X-0001/begin", m{}, ""},
	}
	var stands struct{ Doc m }
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/brief", nil, &stands)
	draft := func(field string, value any) m {
		return m{"doc": shoptest.With(stands.Doc, field, value), "base": 1, "step": 0}
	}
	look := m{"name": "hurt", "stage": 1, "left_half": "", "right_half": "", "note": "", "pieces": []string{}, "marks": []m{}, "version": 0}
	mark := m{"id": "a", "kind": "region", "sheet": "head", "points": []m{{"u": 0, "v": 40}, {"u": 8, "v": 41}, {"u": 4, "v": 48}}}
	marked := func(field string, value any) m { return draft("marks", []m{shoptest.With(mark, field, value)}) }
	brief := "/api/pieces/" + code + "/brief"
	type wrong = struct {
		method, path string
		body         m
		field        string
	}
	cases = append(cases, []wrong{
		{"PUT", brief, draft("camera", "nearby"), "doc.camera"},
		{"PUT", brief, draft("wear_hours", 30), "doc.wear_hours"},
		{"PUT", brief, draft("wear_hours", "long"), "doc.wear_hours"},
		{"PUT", brief, draft("camera_m", -1), "doc.camera_m"},
		{"PUT", brief, draft("exertion", "flying"), "doc.exertion"},
		{"PUT", brief, draft("keep_free", []string{"tail"}), "keep_free[0]"},
		{"PUT", brief, draft("way_out", m{"minutes": -2}), "doc.way_out.minutes"},
		{"PUT", brief, draft("limit_minor", -5), "doc.limit_minor"},
		{"PUT", brief, draft("asked", strings.Repeat("x", 3000)), "doc.asked"},
		{"PUT", brief, draft("features", []m{{"id": "f", "text": " ", "region": "", "picture": 0}}), "features[0].text"},
		{"PUT", brief, draft("features", []m{{"id": "f", "text": "x", "region": "tail", "picture": 0}}), "features[0].region"},
		{"PUT", brief, draft("exaggeration", []m{{"region": "tail", "level": 1, "note": ""}}), "exaggeration[0].region"},
		{"PUT", brief, draft("exaggeration", []m{{"region": "nose", "level": 9, "note": ""}}), "doc.exaggeration[0].level"},
		{"PUT", brief, draft("questions", []m{{"id": "q", "text": "x", "stand_in": "", "answer": "", "settled": "soon"}}), "questions[0].settled"},
		{"PUT", brief, draft("steps", []m{{"id": "s", "text": "x", "where": "moon", "skill": "lead", "hours": 1}}), "doc.steps[0].where"},
		{"PUT", brief, draft("steps", []m{{"id": "s", "text": "x", "where": "chair", "skill": "lead", "hours": -1}}), "doc.steps[0].hours"},
		{"PUT", brief, draft("budget", []m{{"id": "b", "text": "x", "origin": "stolen", "stands_in": "", "cost_minor": 1}}), "doc.budget[0].origin"},
		{"PUT", brief, draft("budget", []m{{"id": "b", "text": "x", "origin": "found", "stands_in": "", "cost_minor": -1}}), "doc.budget[0].cost_minor"},
		{"PUT", brief, marked("kind", "blob"), "doc.marks[0].kind"},
		{"PUT", brief, marked("kind", "hair"), "marks[0].kind"},
		{"PUT", brief, marked("sheet", "tail"), "doc.marks[0].sheet"},
		{"PUT", brief, marked("points", []m{{"u": 0, "v": 40}}), "marks[0].points"},
		{"PUT", brief, marked("points", []m{{"u": 0, "v": 40}, {"u": 9999, "v": 40}, {"u": 3, "v": 45}}), "marks[0].points"},
		{"PUT", brief, marked("points", []m{{"u": 0, "v": 40}, {"u": 10, "v": 50}, {"u": 10, "v": 40}, {"u": 0, "v": 50}}), "marks[0].points"},
		{"PUT", brief, draft("marks", []m{mark, mark}), "marks[1].id"},
		{"POST", brief + "/agree", m{}, ""},
		{"POST", brief + "/undo", m{}, ""},
		{"POST", brief + "/carry", m{"latest": 7}, ""},
		{"POST", "/api/pieces/" + code + "/features/none", m{"there": true}, ""},
		{"PUT", "/api/characters/ZZ/looks", look, ""},
		{"PUT", "/api/characters/BF/looks", shoptest.With(look, "name", "1st"), "name"},
		{"PUT", "/api/characters/BF/looks", shoptest.With(look, "stage", 0), "stage"},
		{"PUT", "/api/characters/BF/looks", shoptest.With(look, "pieces", []string{"AL-99"}), "pieces[0]"},
		{"PUT", "/api/characters/BF/looks", shoptest.With(look, "marks", []m{mark}), "marks[0].kind"},
		{"PUT", "/api/characters/BF/looks", shoptest.With(look, "version", 3), ""},
		{"DELETE", "/api/characters/BF/looks/none", nil, ""},
		{"POST", performer + "/measures", m{"name": "head_girth", "typed": "a lot"}, "typed"},
		{"POST", performer + "/measures", m{"name": "head_girth", "typed": "-3 cm"}, "typed"},
		{"POST", performer + "/measures", m{"name": "head_girth", "typed": "9 m"}, "typed"},
		{"POST", performer + "/measures", m{"name": "nose_height", "typed": "20 mm"}, "typed"},
		{"POST", performer + "/measures", m{"name": " ", "typed": "20 mm"}, "name"},
		{"POST", performer + "/skin", m{"region": "nose", "side": "L", "source": "reader"}, "region"},
		{"POST", performer + "/skin", m{"region": "nose", "side": "", "source": "lab"}, "lab"},
		{"POST", performer + "/skin", m{"region": "nose", "side": "", "source": "srgb", "srgb": []int{300, 1, 1}}, "srgb[0]"},
		{"POST", performer + "/skin", m{"region": "nose", "side": "", "source": "srgb", "srgb": []int{0, 0, 0}}, "lab"},
		{"PUT", performer + "/limits", m{"kind": "height", "note": ""}, "kind"},
		{"PUT", performer + "/limits", m{"kind": "hours", "amount": 90, "note": ""}, "amount"},
		{"PUT", performer + "/limits", m{"kind": "sight", "amount": 1, "note": ""}, "amount"},
		{"POST", performer + "/consents", m{"what": "everything", "given_on": "2026-01-02", "note": ""}, "what"},
		{"POST", performer + "/consents", m{"what": "life cast", "given_on": "2027-01-02", "note": ""}, "given_on"},
		{"POST", performer + "/consents/99/withdrawal", m{}, ""},
		{"PUT", performer + "/marks", m{"marks": []m{mark}, "version": 0}, "marks[0].kind"},
		{"PUT", performer + "/marks", m{"marks": []m{}, "version": 4}, ""},
		{"PUT", "/api/days/999", shoptest.With(shoptest.With(day, "version", 1), "rain", true), ""},
		{"PUT", "/api/references/999", m{"caption": "x", "credit": "", "view": "", "standing": "direct", "version": 1}, ""},
		{"POST", "/api/references/999/notes", m{"kind": "note", "points": [][]float64{{0.5, 0.5}}, "label": "x", "words": ""}, ""},
		{"POST", "/api/references/999/notes", m{"kind": "note", "points": [][]float64{{0.5, 7}}, "label": "x", "words": ""}, "points"},
		{"PUT", "/api/reference-notes/999", m{"label": " ", "words": ""}, "label"},
		{"POST", "/api/pieces/" + code + "/actuals", m{"kind": "hours", "subject": "none", "amount": 2, "note": "", "key": shoptest.Key()}, "subject"},
		{"POST", "/api/pieces/" + code + "/actuals", m{"kind": "hours", "subject": "none", "amount": 2, "note": "", "key": "twice"}, "key"},
	}...)
	before := b.Contents()
	for _, c := range cases {
		name := fmt.Sprintf("%s %s %v", c.method, c.path, c.body)
		var r shoptest.Refused
		status := b.As["maud"].Send(c.method, c.path, c.body, &r)
		if assert.True(t, status >= 400 && status < 500, "%s was answered %d %s", name, status, r.Detail) {
			assert.Equal(t, c.field, r.Field, "%s: %s", name, r.Detail)
			assert.Regexp(t, `^[A-Z0-9“].*[.?]$`, r.Detail, name)
			assert.NotEmpty(t, r.Code, name)
		}
	}
	assert.Equal(t, before, b.Contents(), "nothing of what is recorded has changed")
}

func TestWhatIsNoRequestAtAllIsRefused(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	before := b.Contents()
	for _, body := range []string{"", "{", "[]", "null", `"words"`, `{"words":7}`, `{"words":"x","key":"` + shoptest.Key() + `","more":1}`, strings.Repeat("[", 10000)} {
		res, err := b.As["maud"].Client.Post(b.URL+"/api/pieces/"+code+"/notes", "application/json", strings.NewReader(body))
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.True(t, res.StatusCode >= 400 && res.StatusCode < 500, "%.40s: %d", body, res.StatusCode)
	}
	res, err := b.As["maud"].Client.Post(b.URL+"/api/pieces/"+code+"/notes", "application/json", strings.NewReader(`{"words":"`+strings.Repeat("x", 2<<20)+`"}`))
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, 413, res.StatusCode, "two megabytes are no note")
	for _, path := range []string{"/api/pieces/%00", "/api/pieces/..%2f..%2fetc", "/api/files/..%2f..%2fpasswd", "/api/files/zz", "/api/lots/'%20OR%201=1", "/api/trace/lot/x?direction=sideways", "/api/trace/cat/x"} {
		status := b.As["maud"].Send("GET", path, nil, nil)
		assert.True(t, status >= 400 && status < 500, "%s: %d", path, status)
	}
	assert.Equal(t, before, b.Contents())
}
