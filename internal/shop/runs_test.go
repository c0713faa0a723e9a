package shop

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/handover"
	"yewmoor/internal/station/stores"
)

// by begins a piece that is made by a house method, its section agreed.
func (b *bench) by(method, character, region string, mm float64) string {
	b.t.Helper()
	ctx := b.who["maud"]
	p, err := b.s.Pieces.Create(ctx, piece.NewPiece{Production: "The Tallow Court", CharacterCode: character, CharacterName: "of " + method, Performer: "Wearer " + character, Name: method, Region: region, CopiesWanted: 2})
	require.NoError(b.t, err)
	require.NoError(b.t, b.s.Pieces.SaveBrief(ctx, p.Code, piece.Brief{Camera: "medium", AreaCM2: 30, KeepFree: []string{}, Features: []piece.Feature{}}, 0, 0))
	require.NoError(b.t, b.s.Pieces.AgreeBrief(ctx, p.Code, nil))
	materials, err := shelf.Load(ctx, b.s.DB)
	require.NoError(b.t, err)
	p, err = piece.Find(ctx, b.s.DB, p.Code)
	require.NoError(b.t, err)
	doc, known := section.House(method, 30, mm, materials)
	require.True(b.t, known)
	for _, slug := range []string{"adhesive-acrylic", "adhesive-gum", "adhesive-silicone", "latex-balloon", "latex-slush", "latex-paste", "foam-latex", "gelatin-animal", "gelatin-plant", "wax-soft", "paste-flour", "silicone-direct", "barrier-film", "paint-cream", "paint-alcohol", "remover-ester", "remover-oil", "sealer-plastic"} {
		if _, here := materials[slug]; here {
			_, err := b.s.People.RecordPatch(ctx, *p.PerformerID, people.NewPatch{Material: slug, Result: "clear", TestedOn: "2026-01-05", ExpiresOn: "2026-06-05"})
			require.NoError(b.t, err)
		}
	}
	v, err := b.s.Pieces.SaveSection(ctx, p.Code, doc, 0, 0)
	require.NoError(b.t, err)
	var signed []map[string]string
	for _, f := range v.Findings {
		if f.Severity == "stop" {
			signed = append(signed, map[string]string{"id": f.ID, "at": f.At(), "reason": "only a test"})
		}
	}
	b.as["maud"].yes("POST", "/api/pieces/"+p.Code+"/section/agree", m{"signed": signed}, nil)
	return p.Code
}

// everything takes in a lot of every product in one part.
func (b *bench) everything() {
	b.t.Helper()
	materials, err := shelf.Load(b.t.Context(), b.s.DB)
	require.NoError(b.t, err)
	for slug, p := range materials {
		l := stores.NewLot{Material: slug, Code: "L-" + slug, Amount: "2000 g", ExpiresOn: "2026-09-01"}
		if p.Ratio != nil {
			l.Amount, l.AmountA, l.AmountB = "", "2000 g", "2000 g"
		}
		if len(l.Code) > 32 {
			l.Code = l.Code[:32]
		}
		_, err := b.s.Stores.Receive(b.who["maud"], l)
		require.NoError(b.t, err, slug)
	}
}

func (b *bench) begin(code string, copies int) build.Run {
	b.t.Helper()
	var r build.Run
	b.as["ivo"].yes("POST", "/api/runs", m{"piece": code, "copies": copies, "place": "bench 2", "key": key()}, &r)
	return r
}

// run reads a session anew.
func (b *bench) run(code string) (r build.Run) {
	b.t.Helper()
	b.as["ivo"].yes("GET", "/api/runs/"+code, nil, &r)
	return r
}

// done says that a stage is done.
func (b *bench) done(who, code string, seq int, body m) (r build.Run) {
	b.t.Helper()
	b.as[who].yes("POST", fmt.Sprintf("/api/runs/%s/stages/%d", code, seq), body, &r)
	return r
}

// through carries a session to its end, letting as much time pass as each stage
// needs.
func (b *bench) through(r build.Run) build.Run {
	b.t.Helper()
	for range 200 {
		if r.EndedAt != nil {
			return r
		}
		if r.Next == 0 { // only waiting is left
			for _, st := range r.Stages {
				if st.PotID != nil {
					b.clock.Set(b.clock.Now().Add(48 * time.Hour))
					b.as["ivo"].yes("POST", fmt.Sprintf("/api/pots/%d/out", *st.PotID), m{}, nil)
				}
			}
			r = b.run(r.Code)
			continue
		}
		if r.HeldBack != "" {
			b.clock.Set(b.clock.Now().Add(time.Duration(r.LeftS+1) * time.Second))
			r = b.run(r.Code)
			assert.Empty(b.t, r.HeldBack, "once it has waited it goes on")
		}
		r = b.done("ivo", r.Code, r.Next, m{})
	}
	b.t.Fatal("the session does not end")
	return r
}

// Latex on skin, from its section to the artist's signature: coats one after the
// other from a lot, the copies finished without a seam, judged, packed, handed
// over, and traced both ways.
func TestLatexCoatsBecomeCopiesThatLeaveTheShop(t *testing.T) {
	b := newBench(t, nil)
	b.everything()
	code := b.by("stretch_stipple", "NM", "hand_back", 1)
	r := b.begin(code, 2)
	assert.Equal(t, "coats", string(r.Way))
	assert.Equal(t, 1, r.Section)
	assert.Equal(t, []string{code + "-a", code + "-b"}, []string{r.Copies[0].Code, r.Copies[1].Code})
	assert.Empty(t, r.Mixes, "no mix is needed")

	// A coat too early is held back; an apprentice cannot go on, a fabricator with a reason can.
	r = b.done("pip", r.Code, 1, m{"note": "thin"})
	for r.Stages[r.Next-1].Coat != 2 {
		b.clock.Set(b.clock.Now().Add(time.Duration(r.LeftS+1) * time.Second))
		r = b.done("pip", r.Code, r.Next, m{})
	}
	second := fmt.Sprintf("/api/runs/%s/stages/%d", r.Code, r.Next)
	assert.NotEmpty(t, r.HeldBack)
	assert.Equal(t, "held_back", b.as["pip"].no("POST", second, m{}).Code, "two coats within a moment")
	assert.Equal(t, "held_back", b.as["pip"].no("POST", second, m{"reason": "in a hurry"}).Code)
	assert.Equal(t, "other_stage", b.as["ivo"].no("POST", fmt.Sprintf("/api/runs/%s/stages/%d", r.Code, r.Next+1), m{}).Code)
	// The coat in the middle is not powdered and lifted.
	pot := *r.Stages[r.Next-2].PotID
	assert.Equal(t, "goes_on", b.as["ivo"].no("POST", fmt.Sprintf("/api/pots/%d/out", pot), m{"reason": "now"}).Code)
	b.as["ivo"].yes("POST", "/api/runs/"+r.Code+"/coats", nil, &r)
	planned := len(r.Stages)
	r = b.through(r)
	assert.Len(t, r.Stages, planned)
	for _, st := range r.Stages {
		assert.NotNil(t, st.DoneAt, st.Text)
		if st.Material == "latex-balloon" {
			assert.Equal(t, []string{"L-latex-balloon"}, st.Lots)
		}
	}
	// What the stages took left the lot: three coats of two copies.
	var used float64
	require.NoError(t, b.s.DB.Get(&used, `SELECT -SUM(v.grams) FROM movement v JOIN lot l ON l.id = v.lot_id WHERE l.code = 'L-latex-balloon' AND v.reason = 'used'`))
	assert.InDelta(t, 3*2*r.Stages[1].Grams, used, 0.01)

	first := code + "-a"
	var c finish.Copy
	b.as["pip"].yes("GET", "/api/copies/"+first, nil, &c)
	assert.Equal(t, copies.Made, c.State)
	assert.Equal(t, []string{"edge", "colour_reading", "photograph"}, c.Items, "built on skin it has no flash and no seam")
	assert.Equal(t, "item", b.as["pip"].no("POST", "/api/copies/"+first+"/ticks", m{"item": "seam"}).Field)
	b.as["pip"].yes("POST", "/api/copies/"+first+"/ticks", m{"item": "edge"}, nil)
	b.as["pip"].yes("POST", "/api/copies/"+first+"/ticks", m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	b.photograph(first)
	b.as["ivo"].yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, nil)
	day := b.dayOf(code, "2026-01-23")
	var kit handover.Kit
	b.as["maud"].yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun Abbot", "copies": []string{first}}, &kit)
	var link handover.NewLinkAnswer
	b.as["maud"].yes("POST", "/api/kits/"+kit.Code+"/links", m{"days": 7}, &link)
	var page handover.ArtistView
	b.as["nobody"].yes("POST", "/api/artist/"+link.Token+"/receipt", m{"name": "Jun Abbot"}, &page)
	assert.Equal(t, "Jun Abbot", page.SignedName)
	assert.Contains(t, fmt.Sprint(page.Copies[0].Lots), "L-latex-balloon", "the sheet names the lot that went in")
	var went, into map[string][]string
	b.as["maud"].yes("GET", "/api/trace/lot/L-latex-balloon?direction=forward", nil, &went)
	assert.Equal(t, []string{kit.Code}, went["kit"])
	assert.Contains(t, went["copy"], first)
	b.as["maud"].yes("GET", "/api/trace/kit/"+kit.Code+"?direction=backward", nil, &into)
	assert.Contains(t, into["lot"], "L-latex-balloon")
	var uses int
	require.NoError(t, b.s.DB.Get(&uses, `SELECT COUNT(*) FROM copy_use u JOIN copy c ON c.id = u.copy_id WHERE c.code = ? AND u.day_id = ?`, first, day.ID))
	assert.Equal(t, 1, uses)
}

// Every family can be made: a session of each house method that does not begin
// with a mix runs to its end and leaves copies that can be finished.
func TestEveryFamilyBecomesACopy(t *testing.T) {
	b := newBench(t, nil)
	b.everything()
	for i, method := range []string{"build_up_tissue", "latex_paste", "latex_slush", "foam_latex", "gelatin_animal", "gelatin_plant", "wax", "household_paste", "mixed_build", "silicone_direct"} {
		code := b.by(method, "N"+string(rune('A'+i)), "forearm", 3)
		r := b.begin(code, 1)
		assert.NotEqual(t, "cast", string(r.Way), method)
		r = b.through(r)
		var c finish.Copy
		b.as["pip"].yes("GET", "/api/copies/"+code+"-a", nil, &c)
		assert.Equal(t, copies.Made, c.State, method)
		assert.NotEmpty(t, c.Items, method)
		assert.Equal(t, r.Section, c.Section, method)
	}
}

// An allergy that becomes known after the section was agreed stops the next coat.
func TestACoatAsksTheRulesAsTheyStandNow(t *testing.T) {
	b := newBench(t, nil)
	b.everything()
	code := b.by("stretch_stipple", "NM", "hand_back", 1)
	r := b.begin(code, 1)
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	b.as["maud"].yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), m{"substance": "latex", "status": "allergic"}, nil)
	no := b.as["ivo"].no("POST", "/api/runs/"+r.Code+"/stages/1", m{"reason": "all the same"})
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "Nothing was recorded")
	assert.Equal(t, "rule", b.as["ivo"].no("POST", "/api/runs", m{"piece": code, "copies": 1, "key": key()}).Code)
	r = b.run(r.Code)
	assert.Nil(t, r.Stages[0].DoneAt)
	// What is made already is scrapped without asking anybody's skin, and the session ends.
	b.as["ivo"].yes("POST", "/api/copies/"+r.Copies[0].Code+"/verdict", m{"verdict": "scrap", "reason": "no latex"}, nil)
	r = b.run(r.Code)
	assert.NotNil(t, r.EndedAt)
	assert.Equal(t, "ended", b.as["ivo"].no("POST", "/api/runs/"+r.Code+"/stages/1", m{}).Code)
}

// A copy that was accepted is not packed once the wearer is known to be allergic.
func TestPackingAsksTheRules(t *testing.T) {
	b := newBench(t, nil)
	b.everything()
	code := b.by("stretch_stipple", "NM", "hand_back", 1)
	b.through(b.begin(code, 1))
	first := code + "-a"
	b.as["pip"].yes("POST", "/api/copies/"+first+"/ticks", m{"item": "edge"}, nil)
	b.as["pip"].yes("POST", "/api/copies/"+first+"/ticks", m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	b.photograph(first)
	b.as["ivo"].yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, nil)
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	b.as["maud"].yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), m{"substance": "latex", "status": "allergic"}, nil)
	day := b.dayOf(code, "2026-01-23")
	no := b.as["maud"].no("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{first}})
	assert.Equal(t, "rule", no.Code)
	assert.Equal(t, 0, b.count(`SELECT COUNT(*) FROM kit`))
}

// A session that is begun twice with one key is begun once; a lot that may not be
// used is refused at its field; without any lot a note says where it came from.
func TestASessionIsBegunOnceAndItsLotsAreAsked(t *testing.T) {
	b := newBench(t, nil)
	code := b.by("stretch_stipple", "NM", "hand_back", 1)
	once := m{"piece": code, "copies": 1, "key": key()}
	var r, again build.Run
	b.as["ivo"].yes("POST", "/api/runs", once, &r)
	b.as["ivo"].yes("POST", "/api/runs", once, &again)
	assert.Equal(t, r.Code, again.Code)
	assert.Equal(t, 1, b.count(`SELECT COUNT(*) FROM copy`))
	first := "/api/runs/" + r.Code + "/stages/1"
	assert.Equal(t, "note", b.as["ivo"].no("POST", first, m{}).Field, "nothing of it is in the stores")
	_, err := b.s.Stores.Receive(b.who["maud"], stores.NewLot{Material: r.Stages[0].Material, Code: "B-1", Amount: "100 g", ExpiresOn: "2026-09-01"})
	require.NoError(t, err)
	b.as["maud"].yes("POST", "/api/lots/B-1/status", m{"status": "recalled", "reason": "by its maker"}, nil)
	assert.Equal(t, "lot", b.as["ivo"].no("POST", first, m{"lot": "B-1"}).Field)
	assert.Equal(t, "lot", b.as["ivo"].no("POST", first, m{"lot": "B-9"}).Field)
	b.as["ivo"].yes("POST", first, m{"note": "from the set's own bottle"}, &r)
	assert.NotNil(t, r.Stages[0].DoneAt)
	assert.Empty(t, r.Stages[0].Lots)
	b.as["pip"].yes("POST", first, m{}, &again)
	assert.Equal(t, r.Stages[0].By, again.Stages[0].By, "said twice it is one fact")
}

// What a copy was made on stays what later rooms read, when the section goes on.
func TestACopyRemembersItsSection(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	first := b.poured(code)[0]
	doc := plain()
	doc.Layers[2].CentreMM = 9
	b.as["maud"].yes("PUT", "/api/pieces/"+code+"/section", m{"doc": doc, "base": 1, "step": 0}, nil)
	b.as["maud"].yes("POST", "/api/pieces/"+code+"/section/agree", m{}, nil)
	second := b.poured(code)[0]
	made := map[string]int{}
	var list []build.Copy
	b.as["pip"].yes("GET", "/api/copies?piece="+code, nil, &list)
	for _, c := range list {
		made[c.Code] = c.Section
	}
	assert.Equal(t, map[string]int{first: 1, second: 2}, made)
	_, err := b.s.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.dayOf(code, "2026-01-23")
	var kit handover.Kit
	b.as["maud"].yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{first, second}}, &kit)
	var sheet handover.SheetView
	b.as["maud"].yes("GET", "/api/kits/"+kit.Code+"/sheet", nil, &sheet)
	assert.NotEqual(t, sheet.Copies[0].Layers, sheet.Copies[1].Layers, "each sheet says how its own copy was built")
}
