package shop

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/production"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/mix"
)

func copyTo(w io.Writer, res *http.Response) (int64, error) {
	defer res.Body.Close()
	return io.Copy(w, res.Body)
}

func TestLatexIsRefusedForTheAllergicAndSomethingElseOffered(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	b.as["maud"].yes("POST", fmt.Sprintf("/api/performers/%d/health", *p.PerformerID), map[string]any{"substance": "Latex", "status": "allergic"}, nil)
	doc := plain()
	doc.Layers = append(doc.Layers, section.Layer{ID: "l", Kind: section.Latex, Material: "latex-balloon", Coats: 1, CoatMM: 0.2})
	no := b.as["maud"].no("PUT", "/api/pieces/"+code+"/section", map[string]any{"doc": doc, "base": 1, "step": 0})
	assert.Equal(t, "never", no.Code)
	assert.Equal(t, "layers[4].material", no.Field)
	var f struct{ Instead []string }
	require.NoError(t, json.Unmarshal(no.Data, &f))
	assert.Contains(t, f.Instead, "silicone-gel")
	var view piece.SectionView
	b.as["maud"].yes("GET", "/api/pieces/"+code+"/section", nil, &view)
	assert.Len(t, view.Doc.Layers, 4, "the section is as it was")
	// The journal holds the fact that something was recorded, never what.
	var n int
	require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE words LIKE '%allerg%' OR words LIKE '%latex%'`))
	assert.Zero(t, n)
}

func TestAStopWantsALeadsSignedReason(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	doc := plain()
	doc.Layers = append(doc.Layers[:3], section.Layer{ID: "p", Kind: section.Paint, Material: "paint-cream", Coats: 1, CoatMM: 0.02})
	put := map[string]any{"doc": doc, "base": 1, "step": 0}
	b.as["ivo"].yes("PUT", "/api/pieces/"+code+"/section", put, nil)
	signed := map[string]any{"signed": []map[string]string{{"id": "MED-4", "reason": "one take, seen from the gate"}}}
	assert.Equal(t, "held_back", b.as["ivo"].no("POST", "/api/pieces/"+code+"/section/agree", signed).Code, "not a lead")
	b.as["maud"].yes("PUT", "/api/pieces/"+code+"/section", put, nil)
	assert.Equal(t, "held_back", b.as["maud"].no("POST", "/api/pieces/"+code+"/section/agree", map[string]any{}).Code, "no reason")
	var view piece.SectionView
	b.as["maud"].yes("POST", "/api/pieces/"+code+"/section/agree", signed, &view)
	assert.Equal(t, 2, view.State.Latest)
	assert.Equal(t, "maud", view.Signed[0].By)
	// The other draft began from version 1: both stand, nothing is overwritten.
	no := b.as["ivo"].no("POST", "/api/pieces/"+code+"/section/agree", signed)
	assert.Contains(t, []string{"newer_agreed", "held_back"}, no.Code)
}

func TestTwoPeopleAndTwoWindowsKeepBothDrafts(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	change := func(mm float64) section.Section {
		d := plain()
		d.Layers[2].CentreMM = mm
		return d
	}
	path := "/api/pieces/" + code + "/section"
	b.as["ivo"].yes("PUT", path, map[string]any{"doc": change(5), "base": 1, "step": 0}, nil)
	b.as["maud"].yes("PUT", path, map[string]any{"doc": change(7), "base": 1, "step": 0}, nil)
	b.as["maud"].yes("POST", path+"/agree", map[string]any{}, nil)
	no := b.as["ivo"].no("POST", path+"/agree", map[string]any{})
	assert.Equal(t, "newer_agreed", no.Code)
	var both struct{ Yours, Theirs section.Section }
	require.NoError(t, json.Unmarshal(no.Data, &both))
	assert.Equal(t, []float64{5, 7}, []float64{both.Yours.Layers[2].CentreMM, both.Theirs.Layers[2].CentreMM})

	assert.Equal(t, "newer_agreed", b.as["ivo"].no("POST", path+"/carry", map[string]any{"latest": 1}).Code, "not unseen")
	b.as["ivo"].yes("POST", path+"/carry", map[string]any{"latest": 2}, nil)
	b.as["ivo"].yes("POST", path+"/agree", map[string]any{}, nil)
	b.as["ivo"].yes("PUT", path, map[string]any{"doc": change(5), "base": 3, "step": 0}, nil)

	// A second window of the same person that is a step behind.
	b.as["ivo"].yes("PUT", path, map[string]any{"doc": change(5.5), "base": 1, "step": 1}, nil)
	no = b.as["ivo"].no("PUT", path, map[string]any{"doc": change(9), "base": 1, "step": 1})
	assert.Equal(t, "draft_moved", no.Code)
	require.NoError(t, json.Unmarshal(no.Data, &both))
	assert.Equal(t, []float64{9, 5.5}, []float64{both.Yours.Layers[2].CentreMM, both.Theirs.Layers[2].CentreMM})

	var view piece.SectionView
	b.as["ivo"].yes("POST", path+"/undo", map[string]any{}, &view)
	assert.InDelta(t, 5, view.Doc.Layers[2].CentreMM, 1e-9)
	b.as["ivo"].yes("POST", path+"/redo", map[string]any{}, &view)
	assert.InDelta(t, 5.5, view.Doc.Layers[2].CentreMM, 1e-9)
}

func TestLotsAreChosenAndRefusedWithTheReason(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	var sheet mix.Sheet
	b.as["pip"].yes("POST", "/api/mixes/sheet", order(code, nil), &sheet)
	assert.Equal(t, "K-old", sheet.Lines[0].Lot, "first expired first out")
	assert.Equal(t, []string{"A", "softener", "B"}, []string{sheet.Lines[0].Ingredient, sheet.Lines[1].Ingredient, sheet.Lines[2].Ingredient})
	assert.InDelta(t, 34*0.2*1.07*1.15, sheet.Amount.Grams, 1e-9)

	b.as["maud"].yes("POST", "/api/lots/K-old/status", map[string]string{"status": "quarantine", "reason": "cloudy"}, nil)
	b.as["pip"].yes("POST", "/api/mixes/sheet", order(code, nil), &sheet)
	assert.Equal(t, "K-new", sheet.Lines[0].Lot)
	no := b.as["pip"].no("POST", "/api/mixes", order(code, map[string]any{"kit": "K-old"}))
	assert.Equal(t, "lot_refused", no.Code)
	assert.Equal(t, "kit", no.Field)
	assert.Contains(t, no.Detail, "in quarantine")
	b.clock.Set(monday.AddDate(1, 0, 0))
	no = b.as["pip"].no("POST", "/api/mixes", order(code, map[string]any{"kit": "K-new"}))
	assert.Contains(t, no.Detail, "expired")
}

// weighed plans a mix and puts it on the scale with the cup zeroed.
func (b *bench) weighed(code string) mix.View {
	var v mix.View
	b.as["ivo"].yes("POST", "/api/mixes", order(code, nil), &v)
	b.scale.Put(30)
	b.settle()
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/begin", nil, nil)
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/tare", nil, &v)
	return v
}

func (b *bench) settle() { b.real = b.real.Add(2 * time.Second) }

func (b *bench) pourG(g float64) {
	b.scale.Put(g)
	b.settle()
}

func (b *bench) isIn(v *mix.View) {
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/weigh", map[string]any{"seq": v.Current, "key": key()}, v)
}

func (b *bench) onHand(code, part string) float64 {
	var g float64
	require.NoError(b.t, b.s.DB.Get(&g, `SELECT SUM(m.grams) FROM movement m JOIN lot l ON l.id = m.lot_id WHERE l.code = ? AND l.part = ?`, code, part))
	return g
}

func TestWhatIsWeighedIsRecordedOnceAndDrawn(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	a := v.Lines[0].TargetG
	weigh := "/api/mixes/" + v.Code + "/weigh"
	assert.Equal(t, "nothing_in", b.as["ivo"].no("POST", weigh, map[string]any{"seq": 1, "key": key()}).Code)
	b.scale.Put(a)
	assert.Equal(t, "not_steady", b.as["ivo"].no("POST", weigh, map[string]any{"seq": 1, "key": key()}).Code)
	b.settle()
	b.scale.Misbehave(true, false, "")
	assert.Equal(t, "scale_unplugged", b.as["ivo"].no("POST", weigh, map[string]any{"seq": 1, "key": key()}).Code)
	b.scale.Misbehave(false, false, "oz")
	assert.Equal(t, "wrong_unit", b.as["ivo"].no("POST", weigh, map[string]any{"seq": 1, "key": key()}).Code)
	b.scale.Misbehave(false, false, "g")
	assert.InDelta(t, 400, b.onHand("K-old", "A"), 1e-9, "nothing was recorded by any of these")

	again := key()
	for range 3 {
		b.as["ivo"].yes("POST", weigh, map[string]any{"seq": 1, "key": again}, &v)
	}
	assert.InDelta(t, 400-a, b.onHand("K-old", "A"), 0.051, "sent three times, drawn once")
	assert.True(t, v.Lines[0].Done)
	assert.Nil(t, v.ContactAt)

	// The second part is zeroed in between; nothing is lost by it.
	b.pourG(3)
	b.as["pip"].yes("POST", "/api/mixes/"+v.Code+"/tare", nil, &v)
	assert.InDelta(t, 3, v.CarriedG, 0.051)
	b.pourG(v.Lines[1].TargetG - 3)
	b.isIn(&v)
	assert.InDelta(t, v.Lines[1].TargetG, v.Lines[1].InCupG, v.Lines[1].TolG)
	typed := b.as["pip"].no("POST", weigh, map[string]any{"seq": 3, "key": key(), "typed": "3 apples"})
	assert.Equal(t, "typed", typed.Field)
	assert.Equal(t, "other_line", b.as["pip"].no("POST", weigh, map[string]any{"seq": 1, "key": key()}).Code)
}

func TestAnOvershootMovesTheOthersAndSaysWhatToAdd(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	b.pourG(v.Lines[0].TargetG)
	b.isIn(&v)
	b.pourG(v.Lines[1].TargetG * 1.2)
	b.isIn(&v)
	assert.InDelta(t, v.PlannedG*1.2, v.TotalG, 0.02*v.TotalG)
	assert.Contains(t, v.Message, "Silicone softener went")
	assert.Contains(t, v.Message, "of Part A.")
	assert.Equal(t, 1, v.Current, "part A is short now and comes first")
	b.pourG(v.Lines[0].AddG)
	b.isIn(&v)
	b.pourG(v.Lines[2].AddG)
	b.isIn(&v)
	assert.Zero(t, v.Current)
	ratio := v.Lines[0].InCupG / v.Lines[2].InCupG
	assert.InDelta(t, 1, ratio, 0.02, "A to B holds")
	assert.NotNil(t, v.ContactAt)
}

func TestTheClockStartsWhenAMeetsBWhoeverLooks(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	b.pourG(v.Lines[0].TargetG)
	b.isIn(&v)
	b.pourG(v.Lines[1].TargetG)
	b.isIn(&v)
	ctx, stop := t.Context(), func() {}
	defer stop()
	go b.s.Mix.Watch(ctx)
	b.scale.Put(2)
	require.Eventually(t, func() bool {
		b.as["pip"].yes("GET", "/api/mixes/"+v.Code, nil, &v)
		return v.ContactAt != nil
	}, 5*time.Second, 50*time.Millisecond, "the server sees it by itself")
	assert.True(t, v.Working.Started)
	assert.InDelta(t, 720, v.Working.LeftS, 1, "12 min at 23 °C, as the sheet says")
	// A new server on the same database knows the mix on its scale and the time.
	b.clock.Set(monday.Add(5 * time.Minute))
	fresh, err := New(t.Context(), b.s.Config, b.s.DB, b.clock, b.scale, steadyRoom(23))
	require.NoError(t, err)
	again, err := fresh.Mix.View(b.who["pip"], v.Code)
	require.NoError(t, err)
	assert.True(t, again.OnScale)
	assert.InDelta(t, 420, again.Working.LeftS, 1)
	b.clock.Set(monday.Add(13 * time.Minute))
	again, err = fresh.Mix.View(b.who["pip"], v.Code)
	require.NoError(t, err)
	assert.True(t, again.Working.Over)
}

// poured carries a mix to its copies.
func (b *bench) poured(code string, moulds ...string) []string {
	v := b.weighed(code)
	for v.Current != 0 {
		b.pourG(v.Lines[v.Current-1].AddG)
		b.isIn(&v)
	}
	var out mix.Poured
	if len(moulds) == 0 {
		moulds = []string{""}
	}
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/pour", map[string]any{"moulds": moulds}, &out)
	b.scale.Clear()
	return out.Copies
}

func (b *bench) pot(copyCode string) build.Pot {
	var shelf build.Shelf
	b.as["pip"].yes("GET", "/api/pots", nil, &shelf)
	for _, p := range shelf.Pots {
		if p.Copy == copyCode {
			return p
		}
	}
	b.t.Fatalf("no pot for %s", copyCode)
	return build.Pot{}
}

func TestAWarmerRoomIsSooner(t *testing.T) {
	left := map[float64]float64{}
	for _, c := range []float64{17, 23, 29} {
		b := newBench(t, steadyRoom(c))
		b.stocked()
		copies := b.poured(b.begun())
		b.clock.Set(monday.Add(30 * time.Minute))
		left[c] = b.pot(copies[0]).LeftS
	}
	assert.Less(t, left[29], left[23])
	assert.Less(t, left[23], left[17])
	assert.InDelta(t, 9000-1800, left[23], 1, "at the sheet's own temperature the sheet holds")
}

func TestDemouldingIsHeldBackUntilItIsTime(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	copies := b.poured(code)
	assert.Equal(t, code+"-a", copies[0])
	b.clock.Set(monday.Add(time.Hour))
	p := b.pot(copies[0])
	assert.NotEmpty(t, p.HeldBack)
	assert.Equal(t, "firming", p.Words)
	path := fmt.Sprintf("/api/pots/%d/out", p.ID)
	assert.Equal(t, "held_back", b.as["ivo"].no("POST", path, map[string]any{}).Code)
	assert.Equal(t, "held_back", b.as["pip"].no("POST", path, map[string]any{"reason": "in a hurry"}).Code, "an apprentice cannot overrule it")
	// Somebody felt it tack-free late: the estimate learns.
	observe := fmt.Sprintf("/api/pots/%d/observe", p.ID)
	var slower build.Pot
	b.as["pip"].yes("POST", observe, map[string]any{"stage": "gel"}, &slower)
	assert.Greater(t, slower.LeftS, p.LeftS)
	assert.NotEmpty(t, b.as["pip"].no("POST", observe, map[string]any{"stage": "demould"}).Detail)
	b.clock.Set(monday.Add(4 * time.Hour))
	assert.Equal(t, "ready", b.pot(copies[0]).State)
	b.as["pip"].yes("POST", path, map[string]any{}, nil)
	b.as["ivo"].yes("POST", path, map[string]any{}, nil)
	var n int
	require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE code = ? AND act = 'demoulded'`, copies[0]))
	assert.Equal(t, 1, n, "two people, one fact")
}

func TestFinishCheckAndHandOver(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	first := b.poured(code)[0]
	b.clock.Set(monday.Add(5 * time.Hour))
	b.as["pip"].yes("POST", fmt.Sprintf("/api/pots/%d/out", b.pot(first).ID), map[string]any{}, nil)
	accept := map[string]any{"verdict": "accept"}
	assert.Equal(t, "not_finished", b.as["ivo"].no("POST", "/api/copies/"+first+"/verdict", accept).Code)
	for _, item := range []string{"trim", "seam", "edge"} {
		b.as["pip"].yes("POST", "/api/copies/"+first+"/ticks", map[string]any{"item": item}, nil)
	}
	assert.Equal(t, "reading", b.as["pip"].no("POST", "/api/copies/"+first+"/ticks", map[string]any{"item": "colour_reading"}).Field)
	b.as["pip"].yes("POST", "/api/copies/"+first+"/ticks", map[string]any{"item": "colour_reading", "reading": map[string]any{"l": 44, "a": 15, "b": 20}}, nil)
	b.photograph(first)
	b.as["ivo"].yes("POST", "/api/copies/"+first+"/verdict", accept, nil)

	second := b.poured(code)[0]
	no := b.as["ivo"].no("POST", "/api/copies/"+second+"/verdict", map[string]any{"verdict": "scrap"})
	assert.Equal(t, "reason", no.Field)
	var out struct {
		NeedsRun bool `json:"needs_run"`
	}
	b.as["ivo"].yes("POST", "/api/copies/"+second+"/verdict", map[string]any{"verdict": "scrap", "reason": "bubbles"}, &out)
	assert.True(t, out.NeedsRun, "two are wanted, one is good")

	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.as["maud"].yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), map[string]any{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	assert.Equal(t, "copies[0]", b.as["maud"].no("POST", "/api/kits", map[string]any{"day_id": days[0].ID, "artist": "Jun", "copies": []string{second}}).Field)
	b.as["maud"].yes("POST", "/api/kits", map[string]any{"day_id": days[0].ID, "artist": "Jun", "copies": []string{first}}, nil)

	var reached map[string][]string
	b.as["pip"].yes("GET", "/api/trace/lot/K-old", nil, &reached)
	assert.Equal(t, []string{"K-001"}, reached["kit"])
	assert.Equal(t, []string{first, second}, reached["copy"])
	b.as["pip"].yes("GET", "/api/trace/kit/K-001?direction=backward", nil, &reached)
	assert.Equal(t, []string{"K-old", "S-1"}, reached["lot"])
	b.link(first)
}

// link goes through the life of an artist's link.
func (b *bench) link(copyCode string) {
	t := b.t
	var made struct{ URL, Token string }
	b.as["maud"].yes("POST", "/api/kits/K-001/links", map[string]any{"days": 2}, &made)
	assert.Equal(t, "https://yewmoor.test/artist/"+made.Token, made.URL)
	var n int
	require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM artist_link WHERE HEX(token_hash) = HEX(?) OR token_hash = UNHEX(SHA2(?, 256))`, made.Token, made.Token))
	assert.Equal(t, 1, n, "only the hash is stored")
	page := "/api/artist/" + made.Token
	assert.Equal(t, "name", b.as["nobody"].no("POST", page+"/receipt", map[string]any{"name": " "}).Field)
	b.as["nobody"].yes("POST", page+"/receipt", map[string]any{"name": "Jun Abbot"}, nil)
	b.as["nobody"].yes("POST", page+"/receipt", map[string]any{"name": "Somebody Else"}, nil)
	report := map[string]any{"key": key(), "edge": 5, "colour": 4, "hold": 5, "worn_h": 5, "words": "held"}
	var view struct {
		SignedName string `json:"signed_name"`
		Reports    []any
		Cautions   []string
		Copies     []struct{ Code string }
	}
	for range 2 {
		b.as["nobody"].yes("POST", page+"/reports", report, &view)
	}
	assert.Equal(t, "Jun Abbot", view.SignedName, "the first signature stands")
	assert.Len(t, view.Reports, 1, "sent twice, kept once")
	assert.Equal(t, copyCode, view.Copies[0].Code)
	for _, path := range []string{"/api/kits/K-001/sheet.pdf", "/api/kits/K-001/label.pdf?link=" + made.Token} {
		res, err := b.as["pip"].client.Get(b.url + path)
		require.NoError(t, err)
		var body strings.Builder
		_, err = copyTo(&body, res)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(body.String(), "%PDF-"), path)
	}
	b.real = b.real.Add(49 * time.Hour)
	assert.Equal(t, "link_ended", b.as["nobody"].no("GET", page, nil).Code, "it runs out on real time")
}

func TestFiftyPeopleTakeFromOneLotAndTheLedgerAddsUp(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	var lot, line uint64
	require.NoError(t, b.s.DB.Get(&lot, `SELECT id FROM lot WHERE code = 'S-1'`))
	b.as["ivo"].yes("POST", "/api/mixes", order(code, nil), nil)
	require.NoError(t, b.s.DB.Get(&line, `SELECT id FROM mix_line WHERE ingredient = 'softener' LIMIT 1`))
	var wg sync.WaitGroup
	var mu sync.Mutex
	got := 0
	for range 50 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			err := b.s.DB.InTx(t.Context(), func(tx database.Tx) error {
				res, err := tx.Exec(`INSERT INTO weigh_in (mix_line_id, grams, source, at, person_id, idem_key) VALUES (?, 30, 'typed', ?, 1, ?)`, line, monday, key())
				if err != nil {
					return err
				}
				id, err := res.LastInsertId()
				if err != nil {
					return err
				}
				return b.s.Stores.Draw(b.who["ivo"], tx, lot, 30, uint64(id))
			})
			if err == nil {
				mu.Lock()
				got++
				mu.Unlock()
			}
		}()
	}
	wg.Wait()
	assert.Equal(t, 33, got, "a kilogram holds thirty-three times 30 g")
	assert.InDelta(t, 1000-33*30, b.onHand("S-1", ""), 1e-9)
}

func TestTheJournalCannotBeChanged(t *testing.T) {
	b := newBench(t, nil)
	b.begun()
	_, err := b.s.DB.Exec(`UPDATE journal SET words = 'never was'`)
	assert.ErrorContains(t, err, "only ever added")
	_, err = b.s.DB.Exec(`DELETE FROM journal`)
	assert.ErrorContains(t, err, "only ever added")
}

func TestTheSameAnswerOverHTTPAsOnTheCommandLine(t *testing.T) {
	b := newBench(t, nil)
	var out map[string]any
	b.as["pip"].yes("POST", "/api/calc/drying-and-cure", map[string]any{"model": "cure", "input": map[string]any{"system": "addition", "pot_s": 1200, "demould_s": 14400, "temp_c": 30}}, &out)
	assert.InDelta(t, 8842.68, out["demould_s"], 8842.68*0.003)
	no := b.as["pip"].no("POST", "/api/calc/drying-and-cure", map[string]any{"model": "cure", "input": map[string]any{"system": "addition", "pot_s": 14400, "demould_s": 14400, "temp_c": 23}})
	assert.Equal(t, "contradiction", no.Code)
	assert.Equal(t, "demould_s", no.Field)
	b.as["pip"].yes("POST", "/api/calc/mix", map[string]any{"op": "amount", "args": map[string]any{"area": map[string]any{"area_cm2": 34, "mean_mm": 2}, "copies": 2, "waste": 0, "density": 1}}, &out)
	assert.InDelta(t, 13.6, out["grams"], 1e-9)
}

// photograph uploads a picture; what is no picture is refused.
func (b *bench) photograph(copyCode string) {
	for content, want := range map[string]int{"<script>alert(1)</script>": 422, "\x89PNG\r\n\x1a\n0000": 422, aPicture(b.t, 90, 60): 200} {
		body, kind := uploadForm(b.t, content)
		req, err := http.NewRequest("POST", b.url+"/api/copies/"+copyCode+"/photograph", body)
		require.NoError(b.t, err)
		req.Header.Set("Content-Type", kind)
		res, err := b.as["pip"].client.Do(req)
		require.NoError(b.t, err)
		res.Body.Close()
		assert.Equal(b.t, want, res.StatusCode)
	}
}
