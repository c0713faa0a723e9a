package stores_test

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/stores"
)

func list(text string) m { return m{"text": base64.StdEncoding.EncodeToString([]byte(text))} }

// A list with semicolons, comma decimals and other headings says what each row will
// do, and nothing is done until it is agreed.
func TestAListIsReadBeforeAnythingIsDone(t *testing.T) {
	b := shoptest.New(t, nil)
	var p stores.Preview
	b.As["maud"].Yes("POST", "/api/lists/read", list("Product;Batch;Qty;Unit;Best before;Part;Paid\r\n"+
		"Silicone softener;26-001;1,5;kg;31.08.2026;;28,50\r\n"+
		"silicone-gel;26-002;2.000,0;g;2026-09-30;A;84,00\r\n"+
		"silicone-gel;26-002;2;kg;30.9.2026;B;84,00\r\n"+
		"Unicorn milk;26-003;1;kg;2026-09-30;;\r\n"+
		"Glycerin;26-004;plenty;;2026-09-30;;\r\n"+
		"Glycerin;26-005;500 g;;yesterday;;\r\n"), &p)
	require.Len(t, p.Rows, 6)
	assert.Equal(t, 3, p.Good)
	assert.Equal(t, 3, p.Bad)
	assert.Equal(t, "1500 g", p.Rows[0].Lot.Amount)
	assert.EqualValues(t, 2850, *p.Rows[0].Lot.PaidMinor)
	assert.Equal(t, "2000 g", p.Rows[1].Lot.AmountA)
	assert.Equal(t, "2000 g", p.Rows[1].Lot.AmountB, "the other part of a pair comes in its own row")
	assert.Nil(t, p.Rows[2].Lot)
	assert.Equal(t, []string{"material", "amount", "expires"}, []string{p.Rows[3].Field, p.Rows[4].Field, p.Rows[5].Field})
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM lot`), "reading does nothing")

	lines := []any{p.Rows[0].Lot, p.Rows[1].Lot}
	key := shoptest.Key()
	var r, again stores.Receipt
	b.As["maud"].Yes("POST", "/api/receipts", m{"supplier": "Harrow Rubber Works", "key": key, "lines": lines}, &r)
	b.As["maud"].Yes("POST", "/api/receipts", m{"supplier": "Harrow Rubber Works", "key": key, "lines": lines}, &again)
	assert.Equal(t, r.Code, again.Code, "sent again it counts once")
	assert.InDelta(t, 1500, b.OnHand("26-001", ""), 1e-9)
	assert.InDelta(t, 2850, b.Float(`SELECT minor FROM stock_value v JOIN material m ON m.id = v.material_id WHERE m.slug = 'softener'`), 1e-9, "worth what was paid")

	// All lines or none: the second of these is here already.
	no := b.As["maud"].No("POST", "/api/receipts", m{"key": shoptest.Key(), "lines": []m{{"material": "glycerin", "code": "26-009", "amount": "1 kg", "expires_on": "2027-01-01"}, {"material": "softener", "code": "26-001", "amount": "1 kg", "expires_on": "2027-01-01"}}})
	assert.Equal(t, "lines[1].code", no.Field)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM lot WHERE code = '26-009'`))

	b.As["maud"].Yes("POST", "/api/receipts/"+r.Code+"/undo", nil, &r)
	assert.NotNil(t, r.Undone)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM lot WHERE code = '26-001'`))
	b.As["maud"].Yes("POST", "/api/receipts", m{"key": shoptest.Key(), "lines": lines}, &r)
	b.As["maud"].Yes("POST", "/api/lots/26-001/take-out", m{"amount": "1 g", "why": "sample", "note": "for a neighbour"}, nil)
	assert.Equal(t, "used", b.As["maud"].No("POST", "/api/receipts/"+r.Code+"/undo", nil).Code)
}

func TestAFileThatIsNoListIsRefusedAtItsField(t *testing.T) {
	b := shoptest.New(t, nil)
	for name, text := range map[string]string{
		"latin-1":      "Product;Batch\nS\xfcrup;1\n",
		"utf-16":       "\xff\xfeP\x00r\x00",
		"a picture":    "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR",
		"empty":        "",
		"headings":     "Product;Batch\n",
		"no material":  "Batch;Qty\n1;2\n",
		"neither kind": "Product;Colour\nGlycerin;red\n",
		"too long":     "Product;Batch\n" + strings.Repeat("Glycerin;1\n", 5002),
	} {
		no := b.As["maud"].No("POST", "/api/lists/read", list(text))
		assert.Equal(t, "text", no.Field, name)
		assert.NotEmpty(t, no.Detail, name)
	}
}

func TestAPriceListSetsPricesWithTheirSource(t *testing.T) {
	b := shoptest.New(t, nil)
	var p stores.Preview
	b.As["maud"].Yes("POST", "/api/lists/read", list("product,price per kg\nGlycerin,\"7.20\"\nSilicone softener,€ 21\n"), &p)
	require.Equal(t, 2, p.Good, "%v", p.Rows)
	b.As["maud"].Yes("POST", "/api/lists/prices", m{"prices": []any{p.Rows[0].Price, p.Rows[1].Price}, "which": "Copperbeck Stores, January"}, nil)
	var mats []struct {
		Slug    string
		Price   int64 `json:"price_minor_kg"`
		Sources map[string]string
	}
	b.As["pip"].Yes("GET", "/api/materials", nil, &mats)
	for _, x := range mats {
		if x.Slug == "glycerin" {
			assert.EqualValues(t, 720, x.Price)
			assert.Contains(t, x.Sources["price_minor_kg"], "Copperbeck")
		}
	}
	assert.Equal(t, 403, b.As["pip"].No("POST", "/api/lists/prices", m{"prices": []any{p.Rows[0].Price}, "which": "x"}).Status)
}

// Decanting, joining, losses: the sum stays, and so does what it is worth.
func TestWhatIsDecantedKeepsItsHistory(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	worth := func() float64 { return b.Float(`SELECT SUM(minor) FROM stock_value`) }
	before := worth()
	b.As["ivo"].Yes("POST", "/api/lots/S-1/decant", m{"amount": "200 g", "code": "S-1-dropper", "shelf": "bench"}, nil)
	assert.InDelta(t, 800, b.OnHand("S-1", ""), 1e-9)
	assert.InDelta(t, 200, b.OnHand("S-1-dropper", ""), 1e-9)
	assert.InDelta(t, before, worth(), 1e-9)
	var into map[string][]string
	b.As["ivo"].Yes("GET", "/api/trace/lot/S-1", nil, &into)
	assert.Equal(t, []string{"S-1-dropper"}, into["lot"])
	var vessel stores.LotView
	b.As["pip"].Yes("GET", "/api/lots/S-1-dropper", nil, &vessel)
	assert.Equal(t, "S-1", vessel.Parts[0].FromLot)
	assert.Equal(t, "not_decanted", b.As["ivo"].No("POST", "/api/lots/S-1/join", nil).Code, "deliveries are never joined")
	b.As["ivo"].Yes("POST", "/api/lots/S-1-dropper/take-out", m{"amount": "50 g", "why": "lost", "note": "knocked over"}, nil)
	assert.Less(t, worth(), before)
	b.As["ivo"].Yes("POST", "/api/lots/S-1-dropper/join", nil, nil)
	assert.InDelta(t, 950, b.OnHand("S-1", ""), 1e-9)
	assert.Equal(t, "amount", b.As["ivo"].No("POST", "/api/lots/S-1/take-out", m{"amount": "5 kg", "why": "lost", "note": "x"}).Field)
	assert.Equal(t, "note", b.As["maud"].No("POST", "/api/lots/S-1/count", m{"part": "", "amount": "400 g"}).Field, "a difference wants a reason")
	assert.InDelta(t, b.Float(`SELECT SUM(value_minor) FROM movement`), worth(), 1e-9)
}

// A recall reaches what was put by from the lot, what was cast of it, and whoever has
// it; each gets a letter.
func TestARecallReachesEverythingAndEverybody(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copies := b.Poured(code)
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(copies[0])
	b.Finished(copies[0])
	b.As["ivo"].Yes("POST", "/api/copies/"+copies[0]+"/verdict", m{"verdict": "accept"}, nil)
	day := b.DayOf(code, "2026-01-23")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": copies}, nil)
	kit := "K-001"
	var r stores.Recall
	assert.Equal(t, 403, b.As["pip"].No("POST", "/api/recalls", m{"lot": "K-old", "reason": "x"}).Status)
	b.As["maud"].Yes("POST", "/api/recalls", m{"lot": "K-old", "reason": "the maker found a bad drum"}, &r)
	reached := map[string][]string{}
	for _, x := range r.Touched {
		reached[x.Kind] = append(reached[x.Kind], x.Code)
	}
	assert.Equal(t, copies, reached["copy"])
	assert.Equal(t, []string{kit}, reached["kit"])
	require.Len(t, r.Letters, 1)
	assert.Equal(t, copies[0], r.Letters[0].Copies)
	assert.Equal(t, 1, r.Open)
	telling := "Tell who has Silicone gel, addition cure of recall " + r.Code
	assert.Equal(t, telling, b.Tasks()[0], "before anything that can wait")
	var sheet struct{ Lines []struct{ Lot string } }
	b.As["pip"].Yes("POST", "/api/mixes/sheet", shoptest.Order(code, nil), &sheet)
	assert.Equal(t, "K-new", sheet.Lines[0].Lot)

	var letters bytes.Buffer
	require.NoError(t, b.S.Stores.WriteLetters(b.Who["pip"], &letters, r.Code))
	assert.True(t, strings.HasPrefix(letters.String(), "%PDF"))
	no := b.As["maud"].No("POST", "/api/kits/"+kit+"/hand", nil)
	assert.Equal(t, "recalled", no.Code, "what is recalled does not leave the shop")

	assert.Equal(t, "letters_open", b.As["maud"].No("POST", "/api/recalls/"+r.Code+"/end", nil).Code)
	assert.Equal(t, "answer", b.As["pip"].No("POST", "/api/recalls/"+r.Code+"/told", m{"kit": kit, "answer": " "}).Field)
	b.As["pip"].Yes("POST", "/api/recalls/"+r.Code+"/told", m{"kit": kit, "answer": "sent back unused"}, &r)
	assert.Zero(t, r.Open)
	assert.NotContains(t, b.Tasks(), telling)
	b.As["maud"].Yes("POST", "/api/recalls/"+r.Code+"/end", nil, &r)
	assert.NotNil(t, r.EndedAt)
}

// What a mould is made of only touches what is cast in it: it is told on request, and
// nobody gets a letter for it.
func TestWhatOnlyTouchedALotIsToldOnRequest(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	b.Stocked()
	code := b.Begun()
	stone := b.Stone(code, 2)
	var v struct {
		Code    string
		Current int
		Lines   []struct {
			Seq  int
			AddG float64 `json:"add_g"`
		}
		Steps []struct {
			Seq     int
			Seconds float64
		}
		Follows struct{ Confirm []struct{ Code string } }
	}
	b.As["ivo"].Yes("POST", "/api/mixes", m{"recipe": "stone-30", "additions": []m{}, "lots": []m{}, "split": m{}, "amount": m{"mass": m{"grams": 500}, "copies": 1, "spare": 0, "waste": 0, "density": 0}}, &v)
	confirm := []string{}
	for _, n := range v.Follows.Confirm {
		confirm = append(confirm, n.Code)
	}
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/begin", m{"confirmed": confirm}, &v)
	for v.Current != 0 {
		for _, l := range v.Lines {
			if l.Seq == v.Current {
				b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": l.Seq, "key": shoptest.Key(), "typed": fmt.Sprintf("%.3f g", l.AddG)}, &v)
				break
			}
		}
		for _, st := range v.Steps {
			if st.Seq == v.Current {
				b.As["ivo"].Yes("POST", fmt.Sprintf("/api/mixes/%s/steps/%d/done", v.Code, st.Seq), m{"reason": "only a test"}, &v)
				break
			}
		}
	}
	assert.Equal(t, "mould", b.As["ivo"].No("POST", "/api/mixes/"+v.Code+"/use", m{"what": "x", "mould": "ZZ-01/M9"}).Field)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/use", m{"what": "", "mould": stone}, nil)
	require.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM mould WHERE state = 'wet'`))
	_, err := b.S.DB.Exec(`UPDATE mould SET state = 'dry'`)
	require.NoError(t, err)
	copies := b.Poured(code, stone)

	var into map[string][]string
	b.As["pip"].Yes("GET", "/api/trace/lot/L-stone-hard", nil, &into)
	assert.Empty(t, into["copy"])
	b.As["pip"].Yes("GET", "/api/trace/lot/L-stone-hard?contact=true", nil, &into)
	assert.Equal(t, []string{stone}, into["mould"])
	assert.Equal(t, copies, into["copy"])
	var r stores.Recall
	b.As["maud"].Yes("POST", "/api/recalls", m{"lot": "L-stone-hard", "reason": "it crumbles"}, &r)
	assert.Empty(t, r.Letters)
	b.As["maud"].Yes("GET", "/api/recalls/"+r.Code+"?contact=true", nil, &r)
	touched := map[string]bool{}
	for _, x := range r.Touched {
		touched[x.Kind] = x.Contact
	}
	assert.Equal(t, map[string]bool{"mix": false, "mould": true, "copy": true}, touched)
}

func TestWhatCanStillBeMade(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	var a stores.Makeable
	b.As["pip"].Yes("POST", "/api/stock/can-make", m{"recipe": "sheet-silicone-gel", "grams": 700}, &a)
	assert.True(t, a.Yes)
	assert.Equal(t, "2026-09-01", a.Until, "the lot that is good the longest decides")
	b.As["pip"].Yes("POST", "/api/stock/can-make", m{"recipe": "silicone-soft", "grams": 5000}, &a)
	assert.False(t, a.Yes)
	assert.Contains(t, a.Words, "flesh base lacks")
	b.As["pip"].Yes("POST", "/api/stock/can-make", m{"piece": code, "copies": 3}, &a)
	require.NotEmpty(t, a.Lines)
	assert.Equal(t, "piece", b.As["pip"].No("POST", "/api/stock/can-make", m{}).Field)
	assert.Equal(t, "copies", b.As["pip"].No("POST", "/api/stock/can-make", m{"piece": code}).Field)

	// What a mix on the bench will take is spoken for.
	before := a
	b.As["ivo"].Yes("POST", "/api/mixes", shoptest.Order(code, m{"additions": []m{}, "amount": m{"mass": m{"grams": 3500}, "copies": 1, "spare": 0, "waste": 0, "density": 0}}), nil)
	b.As["pip"].Yes("POST", "/api/stock/can-make", m{"recipe": "sheet-silicone-gel", "grams": 2500}, &a)
	assert.False(t, a.Yes, "%v", before)

	var o stores.Outlook
	b.As["pip"].Yes("GET", "/api/stock", nil, &o)
	for _, it := range o.Items {
		if it.Material == "silicone-gel" {
			assert.InDelta(t, 4800, it.OnHandG, 1e-6, "what pairs")
			assert.Positive(t, it.ReservedG)
		}
	}
	assert.InDelta(t, b.Float(`SELECT SUM(minor) FROM stock_value`), float64(o.Minor), 1e-9)
}

// What has to be ordered today stands on Today until it came.
func TestTodaySaysWhatIsToBeOrdered(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	orders := func() (out []string) {
		for _, title := range b.Tasks() {
			if strings.HasPrefix(title, "Order ") {
				out = append(out, title)
			}
		}
		return out
	}
	assert.Empty(t, orders())
	b.As["maud"].Yes("PUT", "/api/materials/softener", m{"keep": m{"safety_g": 3000, "lead_days": 4, "pack_g": 1000,
		"supplier": "the drum yard"}, "source": "measured here", "which": "counted over a year"}, nil)
	assert.Equal(t, []string{"Order 2 kg of Silicone softener"}, orders())
	assert.Contains(t, b.Today().Now.Why, "takes 4 days to come from the drum yard")
	b.As["maud"].Yes("PUT", "/api/materials/silicone-gel",
		m{"keep": m{"safety_g": 9000, "lead_days": 1, "pack_g": 1000}, "source": "measured here", "which": "counted over a year"}, nil)
	require.Len(t, orders(), 1)
	assert.Contains(t, orders()[0], "and 1 more")
	b.As["maud"].Yes("POST", "/api/lots", m{"material": "softener", "code": "S-2", "amount": "2 kg", "expires_on": "2026-09-01"},
		nil)
	b.As["maud"].Yes("POST", "/api/lots", m{"material": "silicone-gel", "code": "K-3", "amount_a": "4 kg", "amount_b": "4 kg",
		"expires_on": "2026-09-01"}, nil)
	assert.Empty(t, orders(), "at once, not by the minute")
}

// What the shop changes of a product is followed at once; a figure wants its source.
func TestAProductsFactsAreTheShopsOwn(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	grams := func() float64 {
		var s struct{ Amount struct{ Grams float64 } }
		b.As["pip"].Yes("POST", "/api/mixes/sheet", shoptest.Order(code, nil), &s)
		return s.Amount.Grams
	}
	before := grams()
	assert.Equal(t, "which", b.As["maud"].No("PUT", "/api/materials/silicone-gel", m{"density": 1.2, "source": "measured here"}).Field)
	assert.Equal(t, "density", b.As["maud"].No("PUT", "/api/materials/silicone-gel", m{"density": 40, "source": "measured here", "which": "a 100 ml block"}).Field)
	assert.Equal(t, "cure.demould_s", b.As["maud"].No("PUT", "/api/materials/silicone-gel", m{"cure": m{"system": "addition", "pot_s": 900, "demould_s": 800, "ref_c": 23}, "source": "data sheet", "which": "of May"}).Field)
	b.As["maud"].Yes("PUT", "/api/materials/silicone-gel", m{"density": 1.07 * 1.1, "source": "measured here", "which": "a 100 ml block"}, nil)
	assert.InDelta(t, before*1.1, grams(), 1e-6)
	b.As["maud"].Yes("POST", "/api/materials", m{"name": "Softener, the other one", "like": "softener"}, nil)
	b.As["maud"].Yes("POST", "/api/lots", m{"material": "softener-the-other-one", "code": "S-9", "amount": "100 g", "expires_on": "2026-09-01"}, nil)
	assert.Equal(t, "name", b.As["maud"].No("POST", "/api/materials", m{"name": "Softener, the other one", "like": "softener"}).Field)
	assert.Equal(t, "material", b.As["maud"].No("POST", "/api/lots", m{"material": "water", "code": "W", "amount": "1 kg", "expires_on": "2026-09-01"}).Field)
}

// Fifty people take from one product at once: the stock never falls below zero, and
// what it is worth follows the ledger to the minor unit.
func TestTheMovingAverageHoldsWithManyAtOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	got := shoptest.Together(50, func(i int) (int, shoptest.Refused) {
		var answer json.RawMessage // lots, or a problem
		status := b.As[shoptest.Three[i%3]].Send("POST", "/api/lots/S-1/take-out", m{"amount": fmt.Sprintf("%.1f g", 25+float64(i)), "why": "sample", "note": "one of many"}, &answer)
		return status, shoptest.Refused{Status: status}
	})
	assert.NotEmpty(t, got)
	assert.GreaterOrEqual(t, b.OnHand("S-1", ""), 0.0)
	assert.InDelta(t, b.Float(`SELECT SUM(value_minor) FROM movement`), b.Float(`SELECT SUM(minor) FROM stock_value`), 1e-9)
	assert.InDelta(t, b.Float(`SELECT SUM(grams) FROM movement`), b.Float(`SELECT SUM(grams) FROM stock_value`), 1e-6)
}

// What goes with a kit is drawn by a tap, by what the sections say of its copies.
func TestWhatGoesWithAKitIsDrawnFromItsLots(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("wax", "NZ", "forearm", 3)
	b.Through(b.Begin(code, 1))
	copies := []string{code + "-a"}
	b.Finished(copies[0])
	b.As["ivo"].Yes("POST", "/api/copies/"+copies[0]+"/verdict", m{"verdict": "accept"}, nil)
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": b.DayOf(code, "2026-01-23").ID, "artist": "Jun", "copies": copies}, nil)
	var list []stores.KitLot
	b.As["pip"].Yes("GET", "/api/kits/K-001/lots", nil, &list)
	require.NotEmpty(t, list)
	reserved := func() (grams float64) {
		var o stores.Outlook
		b.As["pip"].Yes("GET", "/api/stock", nil, &o)
		for _, it := range o.Items {
			for _, w := range it.Wants {
				if w.For == "K-001" {
					grams += w.Grams
					assert.Equal(t, "2026-01-23", w.On.Format(time.DateOnly))
				}
			}
		}
		return grams
	}
	needs := 0.0
	for _, l := range list {
		needs += l.NeedG
	}
	require.Positive(t, needs)
	assert.InDelta(t, needs, reserved(), 1e-6, "what a packed kit takes is spoken for")
	for _, l := range list {
		if l.NeedG == 0 {
			continue
		}
		before := b.OnHand(l.Lot, l.Part)
		b.As["pip"].Yes("POST", "/api/kits/K-001/lots", m{"lot": l.Lot, "part": l.Part, "amount": fmt.Sprintf("%.2f g", l.NeedG)}, &list)
		assert.InDelta(t, before-l.NeedG, b.OnHand(l.Lot, l.Part), 0.006, l.Name)
	}
	assert.InDelta(t, 0, reserved(), 0.05, "and is not reserved twice once it is filled off")
	assert.Equal(t, "lot", b.As["pip"].No("POST", "/api/kits/K-001/lots", m{"lot": "L-water", "amount": "1 g"}).Field, "it does not go with the kit")

	// What came to light since it was packed is asked of the rules again.
	holds := map[string]string{"adhesive-acrylic": "acrylate", "adhesive-gum": "colophony", "adhesive-silicone": "silicone",
		"powder-translucent": "talc"}
	met := slices.IndexFunc(list, func(l stores.KitLot) bool { return holds[l.Material] != "" })
	require.GreaterOrEqual(t, met, 0)
	glue := list[met]
	artist := int(b.Float(`SELECT artist_id FROM kit WHERE code = 'K-001'`))
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/artists/%d/sensitivities", artist),
		m{"substance": holds[glue.Material], "status": "allergic"}, nil)
	before := b.OnHand(glue.Lot, glue.Part)
	no := b.As["pip"].No("POST", "/api/kits/K-001/lots", m{"lot": glue.Lot, "part": glue.Part, "amount": "0.1 g"})
	assert.Equal(t, 409, no.Status)
	assert.Contains(t, no.Detail, "Jun")
	assert.InDelta(t, before, b.OnHand(glue.Lot, glue.Part), 1e-9, "nothing was drawn")

	// A piece that says nothing of what it takes stops neither the kit nor Today.
	b.S.Stores.Work = sayingNothing{b.S.Stores.Work}
	b.As["pip"].Yes("GET", "/api/kits/K-001/lots", nil, &list)
	assert.Zero(t, reserved())
	b.As["pip"].Yes("GET", "/api/today", nil, nil)

	first := list[0]
	b.As["maud"].Yes("POST", "/api/lots/"+first.Lot+"/status", m{"status": "quarantine", "reason": "it smells"}, nil)
	assert.Equal(t, "lot_refused", b.As["pip"].No("POST", "/api/kits/K-001/lots", m{"lot": first.Lot, "part": first.Part, "amount": "1 g"}).Code)
}

// sayingNothing is work whose pieces have no section that takes anything.
type sayingNothing struct{ stores.Work }

func (sayingNothing) PieceWants(context.Context, string, int) ([]stores.Want, error) {
	return nil, problem.Conflict("no_section", "nobody knows what it takes")
}

// A label is photographed, a safety sheet kept as it came; what is neither is refused,
// and what was taken away is gone from the list.
func TestLabelsSheetsAndSwatchesAreKept(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	keep := func(of, code, what, content string) (int, []stores.KeptFile) {
		var form bytes.Buffer
		w := multipart.NewWriter(&form)
		for name, value := range map[string]string{"of": of, "code": code, "what": what, "words": "as it came"} {
			require.NoError(t, w.WriteField(name, value))
		}
		part, err := w.CreateFormFile("file", "x")
		require.NoError(t, err)
		_, err = part.Write([]byte(content))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		res, err := b.As["pip"].Client.Post(b.URL+"/api/kept-files", w.FormDataContentType(), &form)
		require.NoError(t, err)
		defer res.Body.Close()
		var out []stores.KeptFile
		if res.StatusCode == 200 {
			require.NoError(t, json.NewDecoder(res.Body).Decode(&out))
		}
		return res.StatusCode, out
	}
	sheet := "%PDF-1.4\n% a sheet of four lines\n"
	status, list := keep("lot", "S-1", "label", shoptest.Picture(t, 60, 40))
	require.Equal(t, 200, status)
	require.Len(t, list, 1)
	assert.Equal(t, "image/png", list[0].MediaType)
	status, sheets := keep("material", "softener", "safety sheet", sheet)
	require.Equal(t, 200, status)
	require.Len(t, sheets, 1)
	res, err := b.As["pip"].Client.Get(b.URL + "/api/files/" + sheets[0].SHA256)
	require.NoError(t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Equal(t, sheet, string(raw))
	assert.Equal(t, "application/pdf", res.Header.Get("Content-Type"))
	status, _ = keep("recipe", "blood-running", "swatch", shoptest.Picture(t, 40, 60))
	assert.Equal(t, 200, status)
	for _, bad := range [][3]string{{"lot", "label", "<script>alert(1)</script>"}, {"lot", "label", ""}, {"lot", "swatch", sheet},
		{"shelf", "label", sheet}} {
		status, _ = keep(bad[0], "S-1", bad[1], bad[2])
		assert.Equal(t, 422, status, bad)
	}
	path := fmt.Sprintf("/api/kept-files/%d?of=", list[0].ID)
	assert.Equal(t, 404, b.As["pip"].No("DELETE", path+"material&code=softener", nil).Status, "only from what it is kept with")
	b.As["pip"].Yes("DELETE", path+"lot&code=S-1", nil, &list)
	assert.Empty(t, list)
}
