package colour_test

import (
	"fmt"
	"math"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	craft "yewmoor/internal/craft/colour"
	"yewmoor/internal/device"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/colour"
)

// spectrumFile is a spectrum as an instrument writes it.
func spectrumFile(r craft.Spectrum) string {
	out := "nm,r\n"
	for i, v := range r {
		out += fmt.Sprintf("%d,%.6f\n", 380+10*i, v)
	}
	return out
}

// A pigment that is drawn down over white and black is reckoned by its own figures from then
// on; another lot shows how far it drifted; one reading has to say what sort it is; and what
// cannot be is refused where it was typed.
func TestAShopDrawsItsPigmentsDown(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	base, err := craft.BaseOf("silicone")
	require.NoError(t, err)
	film := func(strength float64) (white, black craft.Spectrum) {
		m, err := base.Mixed([]craft.Dose{{Pigment: "QR", G: 0.4 * strength}}, 0)
		require.NoError(t, err)
		return m.Over(0.5, &craft.White), m.Over(0.5, &craft.Black)
	}
	body := func(strength float64) m {
		white, black := film(strength)
		return m{"material": "pigment-magenta", "lot": "L-pigment-magenta", "base": "silicone", "amount": 0.4, "white_g": 0,
			"thickness_mm": 0.5,
			"over_white":   m{"source": "spectrum", "file": spectrumFile(white)}, "over_black": m{"source": "spectrum",
				"file": spectrumFile(black)}}
	}
	find := func(list []colour.Pigment) colour.Pigment {
		for _, p := range list {
			if p.Material == "pigment-magenta" {
				return p
			}
		}
		t.Fatal("no magenta")
		return colour.Pigment{}
	}
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", "/api/pigments/calibrations", body(1)).Code)
	var list []colour.Pigment
	b.As["ivo"].Yes("GET", "/api/pigments", nil, &list)
	before := find(list)
	require.Nil(t, before.Own)
	b.As["ivo"].Yes("POST", "/api/pigments/calibrations", body(1), &list)
	p := find(list)
	require.NotNil(t, p.Own)
	assert.Equal(t, "pair", p.Own.Way)
	assert.Less(t, p.Own.Off, 0.1, "it predicts its own drawdowns")
	assert.Less(t, craft.DE00(*before.Looks, *p.Looks), 0.3, "it is the library's, measured again")
	list = nil
	b.As["ivo"].Yes("POST", "/api/pigments/calibrations", body(1.4), &list)
	p = find(list)
	require.NotNil(t, p.Own.Drift)
	assert.Greater(t, *p.Own.Drift, 1.0, "a stronger lot")
	require.Len(t, p.Over, 1)

	once := shoptest.With(body(1), "over_black", nil)
	delete(once, "over_black")
	assert.Equal(t, "class", b.As["ivo"].No("POST", "/api/pigments/calibrations", once).Field)
	list = nil
	b.As["ivo"].Yes("POST", "/api/pigments/calibrations", shoptest.With(once, "class", "organic"), &list)
	assert.Equal(t, "single", find(list).Own.Way)

	white, _ := film(1)
	for field, bad := range map[string]m{
		"thickness_mm": shoptest.With(body(1), "thickness_mm", 0), "amount": shoptest.With(body(1), "amount",
			0), "lot": shoptest.With(body(1), "lot", "nowhere"), "material": shoptest.With(body(1), "material", "silicone-gel"),
		"over_white.file": shoptest.With(body(1), "over_white",
			m{"source": "spectrum", "file": strings.Replace(spectrumFile(white), "500,", "500,-3", 1)}),
	} {
		if field == "material" {
			bad["lot"] = ""
		}
		assert.Equal(t, field, b.As["ivo"].No("POST", "/api/pigments/calibrations", bad).Field)
	}
	percent := white
	for i := range percent {
		percent[i] *= 100
	}
	no := b.As["ivo"].No("POST", "/api/pigments/calibrations",
		shoptest.With(body(1), "over_white", m{"source": "spectrum", "file": spectrumFile(percent)}))
	assert.Equal(t, "E_PERCENT", no.Code)
}

// The book: every way of reading has its own band, a blank is no zero, the nearest is found
// first, a reading later says how it aged, and it prints.
func TestTheBookOfSwatches(t *testing.T) {
	b := shoptest.New(t, nil)
	add := func(name string, reading m) (w colour.Swatch) {
		b.As["pip"].Yes("POST", "/api/swatches", m{"name": name, "material": "paint-alcohol", "light": "daylight", "reading": reading},
			&w)
		return w
	}
	typed := func(l, a, bb float64) m { return m{"source": "lab", "l": l, "a": a, "b": bb} }
	red, grey := add("bell red", typed(42, 24, 19)), add("quay grey", typed(66, 1, 9))
	eye := add("slate, by eye", m{"source": "eye", "l": 46, "a": -2, "b": -4})
	card := add("from a picture", m{"source": "picture",
		"picture": m{"seen": []int{200, 160, 130}, "patches": []m{{"seen": []int{134, 118, 92}, "is": []int{119, 119, 119}}}}})
	bare := add("no card", m{"source": "picture", "picture": m{"seen": []int{200, 160, 130}, "patches": []m{}}})
	file := add("by spectrum", m{"source": "spectrum", "file": spectrumFile(craft.UsualSkin.Reflectance())})
	assert.Less(t, file.Now.Off, red.Now.Off)
	assert.Less(t, red.Now.Off, card.Now.Off)
	assert.Less(t, card.Now.Off, eye.Now.Off)
	assert.Less(t, eye.Now.Off, bare.Now.Off)
	// 178 161 167 is what the finish chapter says of this pixel.
	assert.InDelta(t, 0, craft.DE00(craft.FromSRGB(178, 161, 167), card.Now.Lab), 0.6)
	assert.InDelta(t, 60.85, file.Now.Lab.L, 0.01)

	var list []colour.Swatch
	b.As["pip"].Yes("GET", "/api/swatches?l=43&a=23&b=18", nil, &list)
	require.Len(t, list, 6)
	assert.Equal(t, "bell red", list[0].Name)
	for i := 1; i < len(list); i++ {
		assert.GreaterOrEqual(t, *list[i].Off, *list[i-1].Off)
	}
	list = nil
	b.As["pip"].Yes("GET", "/api/swatches?q=quay+alcohol", nil, &list)
	require.Len(t, list, 1)
	var again colour.Swatch
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/swatches/%d/readings", grey.ID), typed(64, 2, 12), &again)
	require.NotNil(t, again.Aged)
	assert.InDelta(t, craft.DE00(grey.Now.Lab, again.Now.Lab), *again.Aged, 1e-9)
	assert.Len(t, again.Readings, 2, "the first is not written over")

	for field, bad := range map[string]m{
		"reading.a": {"source": "lab", "l": 42, "b": 3}, "reading.l": {"source": "lab", "l": 0, "a": 3,
			"b": 3}, "reading.file": {"source": "spectrum", "file": "nothing"}, "reading.picture": {"source": "picture"},
	} {
		assert.Equal(t, field, b.As["pip"].No("POST", "/api/swatches",
			m{"name": "x", "material": "paint-alcohol", "reading": bad}).Field, field)
	}
	assert.Equal(t, "reading.l", b.As["pip"].No("POST", "/api/swatches",
		m{"name": "x", "material": "paint-alcohol", "reading": typed(97, 90, -90)}).Field, "nothing reflects like that")
	assert.Equal(t, "name", b.As["pip"].No("POST", "/api/swatches",
		m{"name": " ", "material": "paint-alcohol", "reading": typed(50, 0, 0)}).Field)
	assert.Equal(t, "material", b.As["pip"].No("POST", "/api/swatches",
		m{"name": "x", "material": "nothing", "reading": typed(50, 0, 0)}).Field)

	status, pdf := b.File("pip", "/api/swatches/sheet.pdf?q=bell")
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.HasPrefix(string(pdf), "%PDF-"))
	assert.Equal(t, http.StatusUnauthorized, b.As["nobody"].Send("GET", "/api/swatches/sheet.pdf", nil, nil))
}

// A shop without an instrument says so, and works by what is typed.
func TestAShopWithoutAReader(t *testing.T) {
	b := shoptest.New(t, nil)
	b.S.Colour.Reader = device.NoReader{}
	no := b.As["pip"].No("POST", "/api/swatches", m{"name": "x", "material": "paint-alcohol", "reading": m{"source": "reader"}})
	assert.Equal(t, []string{"no_device", "reading.source"}, []string{no.Code, no.Field})
}

// A schedule is drafted from the section, saved step by step, undone, asked about and
// agreed; what the rule book never allows is held back; two people do not overwrite each
// other; and its colours go with the piece on the day.
func TestAPaintSchedule(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("silicone_encapsulated", "SC", "cheek", 5)
	at := "/api/pieces/" + code + "/paint"
	var v colour.ScheduleView
	b.As["ivo"].Yes("GET", at, nil, &v)
	assert.False(t, v.Begun)
	assert.Equal(t, "section", v.From)
	require.NotEmpty(t, v.Doc.Layers)
	read(b, code, "cheek", 58, 11, 18)
	v = colour.ScheduleView{}
	b.As["ivo"].Yes("GET", at, nil, &v)
	require.NotNil(t, v.Painted, "with a target its colours are guessed")
	require.NotNil(t, v.Aim)
	for _, s := range v.Painted.Steps {
		require.NotNil(t, s.Off)
	}

	layer := m{"id": "base", "name": "own skin", "role": "base", "medium": "paint-alcohol", "tool": "sponge",
		"lab": m{"l": 58, "a": 11, "b": 18}, "passes": 2, "carry_mm": 8, "hidden": true}
	doc := m{"layers": []m{layer}}
	save := func(who string, d m, base, step int) m { return m{"doc": d, "base": base, "step": step} }
	b.As["ivo"].Yes("PUT", at, save("ivo", doc, 0, 0), &v)
	assert.Equal(t, 1, v.State.Step)
	water := m{"id": "w", "role": "shadow", "medium": "paint-water", "tool": "wash", "lab": m{"l": 30, "a": 5, "b": 8}}
	b.As["ivo"].Yes("PUT", at, save("ivo", m{"layers": []m{shoptest.With(layer, "medium", "paint-cream"), water}}, 0, 1), &v)
	said := ""
	for _, f := range v.Findings {
		said += f.ID + " "
	}
	assert.Contains(t, said, "MED-", "water over grease: %s", said)
	b.As["ivo"].Yes("POST", at+"/undo", nil, &v)
	assert.Len(t, v.Doc.Layers, 1)
	b.As["ivo"].Yes("POST", at+"/redo", nil, &v)
	b.As["ivo"].Yes("POST", at+"/undo", nil, &v)

	// A draft that cannot be meant is kept, and not agreed.
	v = colour.ScheduleView{}
	b.As["ivo"].Yes("PUT", at, save("ivo", m{"layers": []m{shoptest.With(layer, "lab", nil)}}, 0, 1), &v)
	require.NotNil(t, v.Wrong)
	assert.Equal(t, "layers[0].lab", v.Wrong.Field)
	assert.Equal(t, "layers[0].lab", b.As["ivo"].No("POST", at+"/agree", nil).Field)
	b.As["ivo"].Yes("POST", at+"/undo", nil, &v)
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", at+"/agree", nil).Code)
	b.As["maud"].Yes("PUT", at, save("maud", doc, 0, 0), nil)
	v = colour.ScheduleView{}
	b.As["ivo"].Yes("POST", at+"/agree", nil, &v)
	assert.Equal(t, 1, v.State.Latest)
	assert.Nil(t, v.Wrong)
	assert.Equal(t, "newer_agreed", b.As["maud"].No("POST", at+"/agree", nil).Code)
	assert.Equal(t, "colour", b.Place(code))

	var day []colour.ForTheDay
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/day-colours", nil, &day)
	require.Len(t, day, 1)
	assert.Equal(t, "schedule", day[0].From)
	assert.InDelta(t, 8, day[0].Carry, 1e-9)
	assert.InDelta(t, 58, day[0].Lab.L, 1e-9)

	// The same stands on the artist's sheet; kept by hand under its name it is that.
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/touch-ups",
		m{"name": "Own skin", "material": "paint-alcohol", "place": "cheek", "l": 57, "a": 11, "b": 18}, nil)
	day = nil
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/day-colours", nil, &day)
	require.Len(t, day, 1)
	assert.Equal(t, "kept", day[0].From)
}

// A layer is mixed so that it takes what lies under it to the target, and says when paint
// cannot: a thin wash makes nothing paler.
func TestALayerIsMixedForWhatLiesUnderIt(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Marks", "neck", "")
	read(b, code, "neck", 60, 11, 18)
	at := "/api/pieces/" + code + "/paint/propose"
	blue := m{"id": "a", "role": "injury", "medium": "paint-cream", "tool": "brush", "lab": m{"l": 48, "a": 4, "b": 2}}
	cover := m{"id": "b", "role": "cancel", "medium": "paint-cream", "tool": "brush", "film_mm": 0.1, "lab": m{"l": 60, "a": 11, "b": 18}}
	var v colour.Proposed
	b.As["pip"].Yes("POST", at, m{"doc": m{"layers": []m{blue, cover}}, "at": 1}, &v)
	assert.Greater(t, v.Was, 3.0)
	assert.Less(t, v.Off, 1.0)
	require.NotEmpty(t, v.Mixed)
	mixed := shoptest.With(cover, "mixed", v.Mixed)
	delete(mixed, "lab")
	var s colour.ScheduleView
	b.As["pip"].Yes("POST", "/api/pieces/"+code+"/paint/try", m{"layers": []m{blue, mixed}}, &s)
	assert.InDelta(t, v.Off, *s.Painted.Steps[1].Off, 0.2, "laid, it is as near as was told")
	assert.Equal(t, "at", b.As["pip"].No("POST", at, m{"doc": m{"layers": []m{blue}}, "at": 5}).Field)
}

// The rules are asked inside the act: paint that the wearer may not take is not agreed.
func TestAScheduleAsksTheWearer(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("silicone_encapsulated", "SW", "cheek", 5)
	read(b, code, "cheek", 58, 11, 18)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", b.Wearer(code)),
		m{"substance": "alcohol", "status": "allergic"}, nil)
	at := "/api/pieces/" + code + "/paint"
	b.As["ivo"].Yes("PUT", at, m{"base": 0, "step": 0, "doc": m{"layers": []m{{"id": "a", "role": "base", "medium": "paint-alcohol",
		"tool": "sponge", "lab": m{"l": 50, "a": 9, "b": 12}}}}}, nil)
	no := b.As["ivo"].No("POST", at+"/agree", nil)
	assert.Equal(t, http.StatusConflict, no.Status)
	var v colour.ScheduleView
	b.As["ivo"].Yes("GET", at, nil, &v)
	assert.Zero(t, v.State.Latest)
}

// An injury stands on the wearer's own skin, in every age; a palette says which parts differ.
func TestInjuriesAndPalettes(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	at := "/api/pieces/" + code + "/injury?kind=bruise&hours="
	assert.Equal(t, "no_reading", b.As["pip"].No("GET", at+"2", nil).Code)
	read(b, code, "cheek", 62, 11, 18)
	var hurt colour.Hurt
	b.As["pip"].Yes("GET", at+"40", nil, &hurt)
	require.Len(t, hurt.Zones, 3)
	assert.Len(t, hurt.Stages, len(hurt.Kind.Words))
	assert.Greater(t, hurt.Zones[0].Off, hurt.Zones[2].Off)
	assert.InDelta(t, hurt.Zones[0].Off, craft.DE00(hurt.Zones[0].Lab, hurt.Skin.Lab), 0.05)
	assert.Equal(t, "hours", b.As["pip"].No("GET", at+"-1", nil).Field)

	b.As["ivo"].Yes("PUT", "/api/characters/BF/looks", m{"name": "grown", "stage": 1, "left_half": "", "right_half": "", "note": "",
		"pieces": []string{code}, "marks": []m{}, "version": 0}, nil)
	var list []colour.Palette
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/palettes", nil, &list)
	require.Len(t, list, 1)
	path := fmt.Sprintf("/api/looks/%d/palette", list[0].Look)
	lab := func(l, a, bb float64) m { return m{"l": l, "a": a, "b": bb} }
	body := m{"version": 0, "colours": []m{{"name": "quay grey", "lab": lab(66, 1, 9), "spread": 0,
		"parts": []m{{"what": code, "lab": lab(66, 1, 9)}, {"what": "headdress", "lab": lab(60, 1, 9)}, {"what": "hands"}}}}}
	var p colour.Palette
	b.As["pip"].Yes("PUT", path, body, &p)
	assert.Equal(t, 1, p.Version)
	assert.Contains(t, p.Colours[0].Apart, "headdress")
	assert.InDelta(t, craft.DE00(craft.Lab{L: 66, A: 1, B: 9}, craft.Lab{L: 60, A: 1, B: 9}), p.Colours[0].Spread, 1e-9)
	assert.Nil(t, p.Colours[0].Parts[2].Off, "nobody read the hands")
	assert.Equal(t, "changed", b.As["ivo"].No("PUT", path, body).Code)
	body["version"] = 1
	body["colours"].([]m)[0]["lab"] = lab(0, 0, 0)
	assert.Equal(t, "colours[0].lab.l", b.As["ivo"].No("PUT", path, body).Field)
	assert.Equal(t, http.StatusNotFound, b.As["ivo"].No("PUT", "/api/looks/99/palette", m{"version": 0, "colours": []m{}}).Status)
	assert.False(t, math.IsNaN(p.Colours[0].Spread))
}

// A swatch and a look on its day are photographed; what is no picture is refused.
func TestPicturesOfSwatchesAndDays(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var w colour.Swatch
	b.As["pip"].Yes("POST", "/api/swatches", m{"name": "quay grey", "material": "paint-alcohol",
		"reading": m{"source": "lab", "l": 66, "a": 1, "b": 9}}, &w)
	at := fmt.Sprintf("/api/swatches/%d/picture", w.ID)
	status, _ := b.Sent("pip", at, nil, []byte(shoptest.Picture(t, 60, 40)))
	assert.Equal(t, http.StatusOK, status)
	status, _ = b.Sent("pip", at, nil, []byte("no picture"))
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, _ = b.Sent("pip", "/api/swatches/99/picture", nil, []byte(shoptest.Picture(t, 60, 40)))
	assert.Equal(t, http.StatusNotFound, status)
	var list []colour.Swatch
	b.As["pip"].Yes("GET", "/api/swatches", nil, &list)
	require.NotNil(t, list[0].Picture)

	b.As["ivo"].Yes("PUT", "/api/characters/BF/looks", m{"name": "grown", "stage": 1, "left_half": "", "right_half": "", "note": "",
		"pieces": []string{code}, "marks": []m{}, "version": 0}, nil)
	day := b.DayOf(code, "2026-01-23")
	var palettes []colour.Palette
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/palettes", nil, &palettes)
	on := fmt.Sprintf("/api/looks/%d/continuity", palettes[0].Look)
	status, _ = b.Sent("pip", on, map[string]string{"day": "999", "note": ""}, []byte(shoptest.Picture(t, 60, 40)))
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, _ = b.Sent("pip", on, map[string]string{"day": fmt.Sprint(day.ID), "note": "cap wet"},
		[]byte(shoptest.Picture(t, 60, 40)))
	assert.Equal(t, http.StatusOK, status)
	palettes = nil
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/palettes", nil, &palettes)
	require.Len(t, palettes[0].Shots, 1)
	assert.Equal(t, "cap wet", palettes[0].Shots[0].Note)
}

// A card is written once a name, on the swatch that it was tried on.
func TestTechniqueCards(t *testing.T) {
	b := shoptest.New(t, nil)
	var w colour.Swatch
	b.As["pip"].Yes("POST", "/api/swatches", m{"name": "salt", "material": "paint-alcohol",
		"reading": m{"source": "lab", "l": 80, "a": 0, "b": 5}}, &w)
	var list []colour.Card
	card := m{"name": "salt fleck", "tool": "spatter", "distance_mm": 220, "dilution": 1, "swatch": w.ID, "load": "blotted once"}
	b.As["pip"].Yes("POST", "/api/technique-cards", card, &list)
	list = nil
	b.As["pip"].Yes("POST", "/api/technique-cards", shoptest.With(card, "distance_mm", 180), &list)
	require.Len(t, list, 1)
	assert.InDelta(t, 180, *list[0].DistanceMM, 1e-9)
	assert.Equal(t, "salt", *list[0].Tried)
	assert.Equal(t, "swatch", b.As["pip"].No("POST", "/api/technique-cards", shoptest.With(card, "swatch", 99)).Field)
	assert.Equal(t, "name", b.As["pip"].No("POST", "/api/technique-cards", shoptest.With(card, "name", "  ")).Field)
}

// A look of paint alone has no section: its colours are laid on the skin itself, and what
// the wearer may not take is asked about all the same.
func TestALookOfPaintAlone(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Rope marks", "neck", "")
	at := "/api/pieces/" + code + "/paint"
	layer := m{"id": "a", "role": "injury", "medium": "paint-cream", "tool": "stipple", "lab": m{"l": 45, "a": 20, "b": 10},
		"hidden": true}
	var v colour.ScheduleView
	b.As["maud"].Yes("PUT", at, m{"base": 0, "step": 0, "doc": m{"layers": []m{layer}}}, &v)
	assert.Equal(t, "the skin itself", v.Ground)
	require.NotNil(t, v.Painted)
	no := b.As["maud"].No("POST", at+"/agree", nil)
	assert.Contains(t, no.Detail, "patch test", "a base is tested on the very place")
	b.As["maud"].Because("tried behind the ear on Monday").Yes("POST", at+"/agree", nil, &v)
	assert.Equal(t, 1, v.State.Latest)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", b.Wearer(code)),
		m{"substance": "petroleum", "status": "allergic"}, nil)
	b.As["maud"].Yes("PUT", at, m{"base": 1, "step": 0, "doc": m{"layers": []m{shoptest.With(layer, "name", "again")}}}, &v)
	assert.Equal(t, http.StatusConflict, b.As["maud"].Because("it will do").No("POST", at+"/agree", nil).Status)
}

// A piece without a wearer is matched to a wish, over a skin in the middle; what has neither
// is told why.
func TestAWishNeedsNoWearer(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("foam_latex", "WN", "cheek", 5)
	_, err := b.S.DB.Exec("UPDATE `character` h JOIN piece q ON q.character_id = h.id SET h.performer_id = NULL WHERE q.code = ?", code)
	require.NoError(t, err)
	var room colour.Room
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/colour", nil, &room)
	assert.Nil(t, room.Aim)
	assert.Contains(t, room.NoAim, "no wearer yet")
	assert.Equal(t, "no_wearer", b.As["pip"].No("GET", "/api/pieces/"+code+"/match", nil).Code)
	assert.Equal(t, "reading.b", b.As["pip"].No("PUT", "/api/pieces/"+code+"/colour-target", m{"kind": "wish", "tan_steps": 0, "version": 0, "reading": m{"source": "lab", "l": 50, "a": 3}}).Field)
	b.As["pip"].Yes("PUT", "/api/pieces/"+code+"/colour-target", m{"kind": "wish", "words": "wet slate", "tan_steps": 0, "version": 0, "allowed": 2.5, "reading": m{"source": "eye", "l": 46, "a": -2, "b": -4}}, &room)
	require.NotNil(t, room.Aim)
	assert.InDelta(t, 2.5, room.Aim.Allowed, 1e-9)
	assert.InDelta(t, 5, room.Aim.Off, 1e-9, "by eye it is a wide band")
	var v colour.Matched
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match", nil, &v)
	require.NotEmpty(t, v.Proposals)
	assert.Less(t, v.Proposals[0].Lights[0].DE00, 1.0)

	// And to a swatch of the book.
	var w colour.Swatch
	b.As["pip"].Yes("POST", "/api/swatches", m{"name": "wet slate", "material": "paint-silicone", "reading": m{"source": "lab", "l": 46, "a": -2, "b": -4}}, &w)
	room = colour.Room{}
	b.As["pip"].Yes("PUT", "/api/pieces/"+code+"/colour-target", m{"kind": "swatch", "swatch": w.ID, "tan_steps": 0, "version": 1}, &room)
	assert.Equal(t, "wet slate", room.Aim.Words)
	assert.Equal(t, "swatch", b.As["pip"].No("PUT", "/api/pieces/"+code+"/colour-target", m{"kind": "swatch", "swatch": 99, "tan_steps": 0, "version": 2}).Field)
}

// Skin that was read by whole spectra is matched by them: each column is a reading, one that
// is off is put aside, and other lights are known.
func TestSkinReadBySpectra(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("silicone_encapsulated", "SS", "cheek", 5)
	skin, err := craft.UsualSkin.AtITA(25)
	require.NoError(t, err)
	r := skin.Reflectance()
	file := "nm,1,2,3,4\n"
	for i, v := range r {
		file += fmt.Sprintf("%d,%.5f,%.5f,%.5f,%.5f\n", 380+10*i, v*1.002, v, v*0.998, v*0.7)
	}
	at := fmt.Sprintf("/api/performers/%d/skin", b.Wearer(code))
	assert.Equal(t, "file", b.As["ivo"].No("POST", at, m{"region": "cheek", "side": "", "source": "spectrum", "file": "nm,1\n400,0.2\n"}).Field)
	b.As["ivo"].Yes("POST", at, m{"region": "cheek", "side": "", "source": "spectrum", "file": file}, nil)
	var v colour.Matched
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match", nil, &v)
	assert.True(t, v.Aim.Measured)
	assert.Equal(t, []int{3, 1}, []int{v.Aim.Readings, v.Aim.Aside})
	for i := range r {
		assert.InDelta(t, r[i], v.AimR[i], 2e-4, "the mean of those that are kept")
	}
	assert.Less(t, v.Aim.Off, 0.6)
	// A reading without a spectrum at the same place: the mean is of colours again.
	b.As["ivo"].Yes("POST", at, m{"region": "cheek", "side": "", "source": "lab", "lab": r.Lab(craft.D65)}, nil)
	v = colour.Matched{}
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match", nil, &v)
	assert.False(t, v.Aim.Measured)
}
