package build_test

import (
	"fmt"
	"testing"
	"time"
	"yewmoor/internal/copies"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/handover"
	"yewmoor/internal/station/stores"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Latex on skin, from its section to the artist's signature: coats one after the
// other from a lot, the copies finished without a seam, judged, packed, handed
// over, and traced both ways.
func TestLatexCoatsBecomeCopiesThatLeaveTheShop(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	r := b.Begin(code, 2)
	assert.Equal(t, "coats", string(r.Way))
	assert.Equal(t, 1, r.Section)
	assert.Equal(t, []string{code + "-a", code + "-b"}, []string{r.Copies[0].Code, r.Copies[1].Code})
	assert.Empty(t, r.Mixes, "no mix is needed")

	// A coat too early is held back; an apprentice cannot go on, a fabricator with a reason can.
	r = b.Done("pip", r.Code, 1, m{"note": "thin"})
	for r.Stages[r.Next-1].Coat != 2 {
		b.Clock.Set(b.Clock.Now().Add(time.Duration(r.LeftS+1) * time.Second))
		r = b.Done("pip", r.Code, r.Next, m{})
	}
	second := fmt.Sprintf("/api/runs/%s/stages/%d", r.Code, r.Next)
	assert.NotEmpty(t, r.HeldBack)
	assert.Equal(t, "held_back", b.As["pip"].No("POST", second, m{}).Code, "two coats within a moment")
	assert.Equal(t, "held_back", b.As["pip"].No("POST", second, m{"reason": "in a hurry"}).Code)
	assert.Equal(t, "other_stage", b.As["ivo"].No("POST", fmt.Sprintf("/api/runs/%s/stages/%d", r.Code, r.Next+1), m{}).Code)
	// The coat in the middle is not powdered and lifted.
	pot := *r.Stages[r.Next-2].PotID
	assert.Equal(t, "goes_on", b.As["ivo"].No("POST", fmt.Sprintf("/api/pots/%d/out", pot), m{"reason": "now"}).Code)
	b.As["ivo"].Yes("POST", "/api/runs/"+r.Code+"/coats", nil, &r)
	planned := len(r.Stages)
	r = b.Through(r)
	assert.Len(t, r.Stages, planned)
	for _, st := range r.Stages {
		assert.NotNil(t, st.DoneAt, st.Text)
		if st.Material == "latex-balloon" {
			assert.Equal(t, []string{"L-latex-balloon"}, st.Lots)
		}
	}
	// What the stages took left the lot: three coats of two copies.
	var used float64
	require.NoError(t, b.S.DB.Get(&used, `SELECT -SUM(v.grams) FROM movement v JOIN lot l ON l.id = v.lot_id WHERE l.code = 'L-latex-balloon' AND v.reason = 'used'`))
	assert.InDelta(t, 3*2*r.Stages[1].Grams, used, 0.01)

	first := code + "-a"
	var c finish.Copy
	b.As["pip"].Yes("GET", "/api/copies/"+first, nil, &c)
	assert.Equal(t, copies.Made, c.State)
	assert.Equal(t, []string{"edge", "colour_reading", "photograph"}, c.Items, "built on skin it has no flash and no seam")
	assert.Equal(t, "item", b.As["pip"].No("POST", "/api/copies/"+first+"/ticks", m{"item": "seam"}).Field)
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "edge"}, nil)
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	b.Photograph(first)
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, nil)
	day := b.DayOf(code, "2026-01-23")
	var kit handover.Kit
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun Abbot", "copies": []string{first}}, &kit)
	var link handover.NewLinkAnswer
	b.As["maud"].Yes("POST", "/api/kits/"+kit.Code+"/links", m{"days": 7}, &link)
	var page handover.ArtistView
	b.As["nobody"].Yes("POST", "/api/artist/"+link.Token+"/receipt", m{"name": "Jun Abbot"}, &page)
	assert.Equal(t, "Jun Abbot", page.SignedName)
	assert.Contains(t, fmt.Sprint(page.Copies[0].Lots), "L-latex-balloon", "the sheet names the lot that went in")
	var went, into map[string][]string
	b.As["maud"].Yes("GET", "/api/trace/lot/L-latex-balloon?direction=forward", nil, &went)
	assert.Equal(t, []string{kit.Code}, went["kit"])
	assert.Contains(t, went["copy"], first)
	b.As["maud"].Yes("GET", "/api/trace/kit/"+kit.Code+"?direction=backward", nil, &into)
	assert.Contains(t, into["lot"], "L-latex-balloon")
	var uses int
	require.NoError(t, b.S.DB.Get(&uses, `SELECT COUNT(*) FROM copy_use u JOIN copy c ON c.id = u.copy_id WHERE c.code = ? AND u.day_id = ?`, first, day.ID))
	assert.Equal(t, 1, uses)
}

// Every family can be made: a session of each house method that does not begin
// with a mix runs to its end and leaves copies that can be finished.
func TestEveryFamilyBecomesACopy(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	for i, method := range []string{"build_up_tissue", "latex_paste", "latex_slush", "foam_latex", "gelatin_animal", "gelatin_plant", "wax", "household_paste", "mixed_build", "silicone_direct"} {
		code := b.By(method, "N"+string(rune('A'+i)), "forearm", 3)
		r := b.Begin(code, 1)
		assert.NotEqual(t, "cast", string(r.Way), method)
		r = b.Through(r)
		var c finish.Copy
		b.As["pip"].Yes("GET", "/api/copies/"+code+"-a", nil, &c)
		assert.Equal(t, copies.Made, c.State, method)
		assert.NotEmpty(t, c.Items, method)
		assert.Equal(t, r.Section, c.Section, method)
		for _, st := range r.Stages {
			if st.Laid != nil {
				assert.Len(t, st.Lots, 2, "%s: the lot of the latex and that of the %s", st.Text, st.Laid.Material)
			}
		}
	}
	assert.Positive(t, b.Count(`SELECT COUNT(*) FROM movement v JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id WHERE m.slug = 'fibre-tissue' AND v.stage_id IS NOT NULL`))
}

// A pour takes what lines its mould as done, says so, and makes no lot up for it.
func TestAPourSaysWhatItTookAsDone(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	b.Poured(b.Begun())
	assert.Positive(t, b.Count(`SELECT COUNT(*) FROM run_stage WHERE done_at IS NOT NULL AND note = 'taken as done when the mix was poured; no lot was named'`))
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM run_stage WHERE done_at IS NOT NULL AND note = ''`), "the pour itself")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM movement WHERE stage_id IS NOT NULL`))
}

// A copy whose section version was never kept is asked about by the newest one.
func TestACopyOfAnUnknownVersionIsAskedAboutToo(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("latex_slush", "NZ", "forearm", 3)
	b.Begin(code, 1)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	ask := func() error {
		return b.S.DB.InTx(t.Context(), func(tx database.Tx) error { return b.S.Pieces.AskRules(t.Context(), tx, p, 0, journal.Entry{}) })
	}
	require.NoError(t, ask())
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), m{"substance": "latex", "status": "allergic"}, nil)
	require.Error(t, ask())
}

// An allergy that becomes known after the section was agreed stops the next coat.
func TestACoatAsksTheRulesAsTheyStandNow(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	r := b.Begin(code, 1)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), m{"substance": "latex", "status": "allergic"}, nil)
	no := b.As["ivo"].No("POST", "/api/runs/"+r.Code+"/stages/1", m{"reason": "all the same"})
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "Nothing was recorded")
	assert.Equal(t, "rule", b.As["ivo"].No("POST", "/api/runs", m{"piece": code, "copies": 1, "key": shoptest.Key()}).Code)
	r = b.Run(r.Code)
	assert.Nil(t, r.Stages[0].DoneAt)
	// What is made already is scrapped without asking anybody's skin, and the session ends.
	b.As["ivo"].Yes("POST", "/api/copies/"+r.Copies[0].Code+"/verdict", m{"verdict": "scrap", "reason": "no latex"}, nil)
	r = b.Run(r.Code)
	assert.NotNil(t, r.EndedAt)
	assert.Equal(t, "ended", b.As["ivo"].No("POST", "/api/runs/"+r.Code+"/stages/1", m{}).Code)
}

// A copy that was accepted is not packed once the wearer is known to be allergic.
func TestPackingAsksTheRules(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	b.Through(b.Begin(code, 1))
	first := code + "-a"
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "edge"}, nil)
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	b.Photograph(first)
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, nil)
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), m{"substance": "latex", "status": "allergic"}, nil)
	day := b.DayOf(code, "2026-01-23")
	no := b.As["maud"].No("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{first}})
	assert.Equal(t, "rule", no.Code)
	assert.Equal(t, 0, b.Count(`SELECT COUNT(*) FROM kit`))
}

// A session that is begun twice with one key is begun once; a lot that may not be
// used is shoptest.Refused at its field; without any lot a note says where it came from.
func TestASessionIsBegunOnceAndItsLotsAreAsked(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	once := m{"piece": code, "copies": 1, "key": shoptest.Key()}
	var r, again build.Run
	b.As["ivo"].Yes("POST", "/api/runs", once, &r)
	b.As["ivo"].Yes("POST", "/api/runs", once, &again)
	assert.Equal(t, r.Code, again.Code)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM copy`))
	first := "/api/runs/" + r.Code + "/stages/1"
	assert.Equal(t, "note", b.As["ivo"].No("POST", first, m{}).Field, "nothing of it is in the stores")
	_, err := b.S.Stores.Receive(b.Who["maud"], stores.NewLot{Material: r.Stages[0].Material, Code: "B-1", Amount: "100 g", ExpiresOn: "2026-09-01"})
	require.NoError(t, err)
	b.As["maud"].Yes("POST", "/api/lots/B-1/status", m{"status": "recalled", "reason": "by its maker"}, nil)
	assert.Equal(t, "lot", b.As["ivo"].No("POST", first, m{"lot": "B-1"}).Field)
	assert.Equal(t, "lot", b.As["ivo"].No("POST", first, m{"lot": "B-9"}).Field)
	b.As["ivo"].Yes("POST", first, m{"note": "from the set's own bottle"}, &r)
	assert.NotNil(t, r.Stages[0].DoneAt)
	assert.Empty(t, r.Stages[0].Lots)
	b.As["pip"].Yes("POST", first, m{}, &again)
	assert.Equal(t, r.Stages[0].By, again.Stages[0].By, "said twice it is one fact")
}

// What a copy was made on stays what later rooms read, when the section goes on.
func TestACopyRemembersItsSection(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	first := b.Poured(code)[0]
	doc := shoptest.Plain()
	doc.Layers[2].CentreMM = 9
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": doc, "base": 1, "step": 0}, nil)
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/section/agree", m{}, nil)
	second := b.Poured(code)[0]
	made := map[string]int{}
	var list []build.Copy
	b.As["pip"].Yes("GET", "/api/copies?piece="+code, nil, &list)
	for _, c := range list {
		made[c.Code] = c.Section
	}
	assert.Equal(t, map[string]int{first: 1, second: 2}, made)
	_, err := b.S.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.DayOf(code, "2026-01-23")
	var kit handover.Kit
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{first, second}}, &kit)
	var sheet handover.SheetView
	b.As["maud"].Yes("GET", "/api/kits/"+kit.Code+"/sheet", nil, &sheet)
	assert.NotEqual(t, sheet.Copies[0].Layers, sheet.Copies[1].Layers, "each sheet says how its own copy was built")
}
