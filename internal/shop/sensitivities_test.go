package shop_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/advise"
	"yewmoor/internal/craft/form"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"
)

// Every sensitivity counts, however it was typed and wherever the product is.

func TestWhatWasTypedInWordsMeetsWhatItMeans(t *testing.T) {
	for _, words := range []string{"latex", "Natural Rubber Latex, allergic", "rubber"} {
		b := shoptest.New(t, nil)
		code := b.By("stretch_stipple", "NM", "hand_back", 1)
		at := fmt.Sprintf("/api/performers/%d/health", b.Wearer(code))
		var p people.Performer
		b.As["maud"].Yes("POST", at, m{"substance": words, "status": "allergic"}, &p)
		require.Len(t, p.Health, 1)
		assert.Equal(t, "latex", p.Health[0].Substance, words)
		assert.False(t, p.Health[0].Asked)
		ids := map[string]bool{}
		for _, f := range b.Section("maud", code).Findings {
			ids[f.ID] = true
		}
		assert.True(t, ids["SAF-1"], words)
		v := b.Advice("maud", code, m{})
		for _, a := range v.Methods {
			for _, s := range a.Scores {
				assert.NotContains(t, s.Text, "speaks against", "the advice never says that nothing does")
			}
			if a.Slug == "stretch_stipple" {
				assert.Contains(t, a.Bars, advise.Bar{Severity: "never", ID: "SAF-1", Entry: "the wearer", Text: "Liquid latex, thin holds what is refused for this wearer."})
			}
		}
	}
}

func TestWordsThatMeanNothingAreAskedAbout(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	at := fmt.Sprintf("/api/performers/%d/health", b.Wearer(code))
	var p people.Performer
	b.As["ivo"].Yes("POST", at, m{"substance": "The Blue One", "status": "sensitive"}, &p)
	assert.True(t, p.Health[0].Asked)
	has := func(id string) bool {
		for _, f := range b.Section("maud", code).Findings {
			if f.ID == id {
				return true
			}
		}
		return false
	}
	assert.True(t, has("SAF-19"))
	assert.Equal(t, "means", b.As["ivo"].No("POST", at, m{"substance": "the blue one", "status": "sensitive", "means": "unicorn"}).Field)
	b.As["ivo"].Yes("POST", "/api/substances", m{"name": "woad", "of": "dye", "words": "indigo plant"}, nil)
	assert.Equal(t, "name", b.As["ivo"].No("POST", "/api/substances", m{"name": "Woad"}).Field)
	b.As["ivo"].Yes("POST", at, m{"substance": "the blue one", "status": "sensitive", "means": "woad"}, &p)
	require.Len(t, p.Health, 1, "the words' own row is placed, not doubled")
	assert.Equal(t, []any{"woad", "the blue one", false}, []any{p.Health[0].Substance, p.Health[0].Words, p.Health[0].Asked})
	assert.False(t, has("SAF-19"))
	assert.True(t, has("SAF-18"), "and nothing states yet whether anything is free of woad")
}

func TestNotStatedHoldsBackUntilASheetSettlesIt(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", b.Wearer(code)), m{"substance": "nuts", "status": "allergic"}, nil)
	no := b.As["ivo"].No("POST", "/api/mixes", shoptest.Order(code, nil))
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "SAF-18")
	assert.Equal(t, "source", b.As["ivo"].No("POST", "/api/materials/silicone-gel/contents", m{"substance": "nuts", "says": "free of", "source": " "}).Field)
	for _, slug := range []string{"silicone-gel", "encapsulator-acetone", "softener"} {
		b.As["ivo"].Yes("POST", "/api/materials/"+slug+"/contents", m{"substance": "food", "says": "free of", "source": "sheet of May"}, nil)
	}
	b.As["ivo"].Yes("POST", "/api/mixes", shoptest.Order(code, nil), nil)
	assert.Equal(t, "says", b.As["ivo"].No("POST", "/api/materials/silicone-gel/contents", m{"substance": "silicone", "says": "free of", "source": "x"}).Field, "what it is made of is in it")
	// What a sheet says that it holds, it holds from then on.
	b.As["ivo"].Yes("POST", "/api/materials/softener/contents", m{"substance": "nuts", "says": "contains", "source": "sheet of June"}, nil)
	assert.Contains(t, b.As["maud"].No("POST", "/api/mixes", shoptest.Order(code, nil)).Detail, "SAF-17", "an addition counts as a layer does")
}

func TestAPatchTestIsPutOnAndReadByADayLater(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	at := fmt.Sprintf("/api/performers/%d/patch-tests", b.Wearer(code))
	test := m{"material": "paint-cream", "tested_on": "2026-01-12", "expires_on": "2026-03-12"}
	assert.Equal(t, "lot", b.As["ivo"].No("POST", at, test).Field)
	test["lot"] = "C-7"
	assert.Equal(t, "read_on", b.As["ivo"].No("POST", at, shoptest.With(test, "result", "clear")).Field, "nobody has looked yet")
	assert.Equal(t, "too_early", b.As["ivo"].No("POST", at, shoptest.With(shoptest.With(test, "result", "clear"), "read_on", "2026-01-12")).Code, "the same day")
	var p people.Performer
	b.As["ivo"].Yes("POST", at, test, &p)
	require.Len(t, p.Patches, 1)
	assert.Equal(t, "open", p.Patches[0].Result)
	one := fmt.Sprintf("%s/%d", at, p.Patches[0].ID)
	assert.Equal(t, "too_early", b.As["ivo"].No("POST", one+"/reading", m{"result": "clear"}).Code)
	b.Clock.Set(b.Clock.Now().Add(30 * time.Hour))
	b.As["maud"].Yes("POST", one+"/reading", m{"result": "clear"}, &p)
	assert.Equal(t, "maud", *p.Patches[0].ReadBy)
	assert.Equal(t, "read", b.As["ivo"].No("POST", one+"/reading", m{"result": "positive"}).Code)
	// It was the other wrist: put right, and what it said is kept behind it.
	b.As["ivo"].Yes("POST", one+"/correction", m{"material": "paint-cream", "lot": "C-8", "result": "positive", "tested_on": "2026-01-12", "expires_on": "2026-03-12", "reason": "read at the wrong wrist"}, &p)
	require.Len(t, p.Patches, 1)
	assert.Equal(t, "positive", p.Patches[0].Result)
	assert.Contains(t, p.Patches[0].Corrects, "clear")
	assert.Contains(t, p.Patches[0].Corrects, "wrong wrist")
	assert.Equal(t, "moved_on", b.As["maud"].No("POST", one+"/correction", m{"material": "paint-cream", "lot": "C-8", "result": "open", "tested_on": "2026-01-12", "expires_on": "2026-03-12", "reason": "no"}).Code)
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM patch_test`))
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM journal WHERE words LIKE '%cream%' AND kind = 'performer'`))
}

// Of a test of before nobody makes up the hour: neither that it was put on at noon nor
// that it was read a day later to the minute.
func TestOfATestOfBeforeNobodyMakesUpTheHour(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	at := fmt.Sprintf("/api/performers/%d/patch-tests", b.Wearer(code))
	var p people.Performer
	b.As["ivo"].Yes("POST", at, m{"material": "paint-cream", "result": "clear", "tested_on": "2026-01-05", "read_on": "2026-01-07", "expires_on": "2026-03-12"}, &p)
	require.Len(t, p.Patches, 1)
	assert.Nil(t, p.Patches[0].PutOnAt)
	assert.Nil(t, p.Patches[0].ReadAt)
	assert.Nil(t, p.Patches[0].ReadBy, "who looked then is not who writes it down now")
	assert.Equal(t, "2026-01-07", p.Patches[0].ReadOn.Format("2006-01-02"))
	// Put on yesterday, hour not known: it may have been the last one of the day.
	b.Clock.Set(time.Date(2026, 1, 13, 20, 0, 0, 0, time.UTC))
	b.As["ivo"].Yes("POST", at, m{"material": "latex-balloon", "lot": "L-1", "tested_on": "2026-01-12", "expires_on": "2026-03-12"}, &p)
	open := p.Patches[slices.IndexFunc(p.Patches, func(x people.Patch) bool { return x.Result == "open" })]
	assert.Nil(t, open.PutOnAt)
	one := fmt.Sprintf("%s/%d/reading", at, open.ID)
	assert.Equal(t, "too_early", b.As["ivo"].No("POST", one, m{"result": "clear"}).Code)
	b.Clock.Set(time.Date(2026, 1, 14, 0, 30, 0, 0, time.UTC))
	b.As["ivo"].Yes("POST", one, m{"result": "clear"}, &p)
}

// A maker's own sensitivity meets the work that they are given, an artist's the
// kit; only they and a lead see what it is.
func TestMakersAndArtistsMeetTheirWork(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	r := b.Begin(code, 1)
	b.As["pip"].Yes("POST", "/api/me/sensitivities", m{"substance": "latex", "status": "allergic"}, nil)
	b.As["pip"].Yes("POST", "/api/runs/"+r.Code+"/stages/1", m{}, nil)
	b.Clock.Set(b.Clock.Now().Add(time.Hour))
	no := b.As["pip"].No("POST", "/api/runs/"+r.Code+"/stages/2", m{})
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "MAK-9")
	b.As["ivo"].Yes("POST", "/api/runs/"+r.Code+"/stages/2", m{}, nil)
	r = b.Through(b.Run(r.Code))
	first := code + "-a"
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "edge"}, nil)
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	b.Photograph(first)
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, nil)
	var id uint64
	require.NoError(t, b.S.DB.Get(&id, `INSERT INTO contact (name, what) VALUES ('Jun', 'makeup artist') RETURNING id`))
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/artists/%d/sensitivities", id), m{"substance": "latex", "status": "sensitive"}, nil)
	assert.Equal(t, "not_yours", b.As["pip"].No("GET", fmt.Sprintf("/api/artists/%d/sensitivities", id), nil).Code)
	kit := m{"day_id": b.DayOf(code, "2026-01-23").ID, "artist": "Jun", "copies": []string{first}}
	no = b.As["maud"].No("POST", "/api/kits", kit)
	assert.Equal(t, "say_why", no.Code)
	assert.Contains(t, no.Detail, "Jun may not take natural rubber latex")
	b.As["maud"].Because("Fen lays it on").Yes("POST", "/api/kits", kit, nil)
	assert.Equal(t, 404, b.As["ivo"].No("POST", "/api/artists/999/sensitivities", m{"substance": "latex", "status": "sensitive"}).Status)
}

func TestNothingIsAgreedForAPerformerUnderAgeWithoutTheirGuardian(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.NewPiece("Nose", "nose", "")
	id := b.Wearer(code)
	b.Put("maud", code, func(d *piece.Brief) { d.Asked = "a small beak" })
	at := fmt.Sprintf("/api/performers/%d", id)
	b.As["maud"].Yes("PUT", at+"/age", m{"of_age_on": "2031-05-01"}, nil)
	agree := func() shoptest.Refused { return b.As["maud"].No("POST", "/api/pieces/"+code+"/brief/agree", m{}) }
	for _, step := range []struct {
		missing string
		do      func()
	}{
		{"guardian's consent", func() {
			assert.Equal(t, "given_by", b.As["ivo"].No("POST", at+"/consents", m{"what": "touch and glue", "given_on": "2026-01-10", "note": ""}).Field)
			b.As["ivo"].Yes("POST", at+"/consents", m{"what": "touch and glue", "given_on": "2026-01-10", "note": "", "given_by": "their mother"}, nil)
		}},
		{"chaperone", func() {
			b.As["ivo"].Yes("PUT", at+"/age", m{"of_age_on": "2031-05-01", "guardian": "their mother", "chaperone": "their aunt"}, nil)
		}},
		{"hours", func() {
			b.As["ivo"].Yes("PUT", at+"/age", m{"of_age_on": "2031-05-01", "guardian": "their mother", "chaperone": "their aunt", "law_hours": 8}, nil)
		}},
		{"measured", func() {
			for _, f := range form.Measures() {
				if f.Part == "head" {
					b.As["pip"].Yes("POST", at+"/measures", m{"name": f.Name, "typed": fmt.Sprintf("%.0f mm", 0.94*f.Usual)}, nil)
				}
			}
		}},
	} {
		no := agree()
		assert.Equal(t, "held_back", no.Code)
		assert.Contains(t, no.Detail, "SAF-20")
		assert.Contains(t, no.Detail, step.missing)
		step.do()
	}
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
}

func TestALifeCastAsksWhoseBodyItIs(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	var cast struct {
		ID   uint64
		Plan struct{ Checks []struct{ Key string } }
	}
	var name string
	require.NoError(t, b.S.DB.Get(&name, `SELECT name FROM performer WHERE id = ?`, b.Wearer(code)))
	b.As["ivo"].Yes("POST", "/api/life-casts", m{"performer": name, "region": "hand_back", "plan": m{"way": "alginate", "face": false, "area_cm2": 0}}, &cast)
	for _, c := range cast.Plan.Checks {
		b.As["ivo"].Yes("POST", fmt.Sprintf("/api/life-casts/%d/ticks", cast.ID), m{"item": c.Key}, nil)
	}
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", b.Wearer(code)), m{"substance": "seaweed", "status": "allergic"}, nil)
	no := b.As["ivo"].No("POST", fmt.Sprintf("/api/life-casts/%d/begin", cast.ID), nil)
	assert.Contains(t, no.Detail, "SAF-17")
}
