package cost_test

import (
	"encoding/csv"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/piece"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/cost"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

type m = map[string]any

var terms = m{"currency": "£", "rate_minor": 3000, "rates": []m{{"person": "ivo", "minor": 3600}}, "overtime_factor": 1.5, "overhead_pct": 20, "margin_pct": 25, "oven_minor": 200}

// Every family has a price: its lines add up, the margin is of the price, copies and days add up to it.
func TestEveryFamilyHasAPrice(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	b.As["maud"].Yes("PUT", "/api/cost/terms", terms, nil)
	var day uint64
	for method, character := range map[string]string{"silicone_encapsulated": "BF", "foam_latex": "AL", "latex_slush": "GC", "gelatin_animal": "FT", "wax": "CB", "latex_paste": "NM", "latex_sheet": "PK"} {
		code := b.By(method, character, "cheek", 3)
		if day == 0 {
			day = b.DayOf(code, "2026-02-06").ID
		} else {
			b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/days", m{"day_ids": []uint64{day}}, nil)
		}
		var o cost.Offer
		b.As["maud"].Yes("GET", "/api/cost/pieces/"+code+"/estimate", nil, &o)
		require.Empty(t, o.Bar, method)
		sum, parts := o.Overhead, map[string]int64{}
		for _, l := range o.Lines {
			assert.Positive(t, l.Minor)
			sum += l.Minor
			parts[l.Part] += l.Minor
		}
		assert.Equal(t, o.Cost, sum, method)
		assert.InDelta(t, float64(o.Cost)/0.75, float64(o.Price), 0.51, method)
		assert.InDelta(t, float64(o.Price)/2, float64(o.Each), 1, method)
		assert.Equal(t, o.Price, o.Days[0].Minor, method)
		assert.Positive(t, parts["labour"], method)
		assert.Positive(t, parts["material"], method)
		assert.Equal(t, method == "foam_latex", parts["machine"] > 0, method)
		assert.GreaterOrEqual(t, o.Casts, o.Good)
		assert.InDelta(t, 0.2*float64(parts["labour"]+parts["machine"]), float64(o.Overhead), 1, method)
	}
}

// An offer stands as it was kept; what was drawn and worked since is told beside it, and the causes add up to the difference.
func TestAnOfferIsKeptAndMeasured(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.DayOf(code, "2026-02-06")
	b.As["maud"].Yes("PUT", "/api/cost/terms", terms, nil)
	b.Put("maud", code, func(d *piece.Brief) {
		d.LimitMinor = 9000
		d.Budget = []piece.Item{{ID: "a", Text: "lenses", Origin: "bought", CostMinor: 4000}, {ID: "b", Text: "shells", Origin: "found", StandsIn: "stamps", InsteadMinor: 2500}, {ID: "c", Text: "=cmd", Origin: "reused"}}
	})
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
	var a cost.Account
	assert.Equal(t, http.StatusConflict, first(b.File("maud", "/api/cost/pieces/"+code+"/offer.pdf")))
	b.As["maud"].Yes("POST", "/api/cost/pieces/"+code+"/offer", nil, &a)
	assert.Equal(t, 1, a.Offer.Number)
	price := a.Offer.Price
	assert.Equal(t, int64(2500), a.Saved)
	assert.Zero(t, a.Spent)
	dear := m{}
	for k, v := range terms {
		dear[k] = v
	}
	dear["rate_minor"] = 9000
	b.As["maud"].Yes("PUT", "/api/cost/terms", dear, nil)
	b.Poured(code)
	b.Clock.Set(shoptest.Monday.Add(6 * time.Hour))
	began := shoptest.Monday.Add(time.Hour)
	b.As["ivo"].Yes("POST", "/api/work", m{"act": "pour", "title": "Pour", "piece": code, "units": 1, "began_at": began, "ended_at": began.Add(2 * time.Hour), "key": uuid.NewString()}, nil)
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/actuals", m{"kind": "money", "subject": "a", "amount": 4400, "note": "", "key": uuid.NewString()}, nil)
	b.As["maud"].Yes("GET", "/api/cost/pieces/"+code, nil, &a)
	assert.Equal(t, price, a.Offer.Price, "what was offered stands")
	assert.Equal(t, int64(7200), a.Worked[0].Minor, "two hours of Ivo's")
	assert.Equal(t, int64(4400), a.Bought)
	material := int64(0)
	for _, u := range a.Used {
		assert.Positive(t, u.Grams)
		material += u.Minor
	}
	assert.Positive(t, material)
	assert.Equal(t, material+4400, a.Stuff)
	assert.Equal(t, material+7200+1440+4400, a.Spent, "with the overhead on the hours")
	v := a.Variance
	assert.InDelta(t, v.Total, v.LabourRate+v.LabourEfficiency+v.MaterialPrice+v.MaterialUsage+v.Yield, 0.01)
	assert.InDelta(t, v.Actual-v.Estimate, v.Total, 0.01)
	assert.InDelta(t, 2*(3600-3000), v.LabourRate, 0.01, "Ivo's hour is dearer than was reckoned with")
	assert.Positive(t, v.LabourEfficiency, "two hours for a pour")
	status, pdf := b.File("maud", "/api/cost/pieces/"+code+"/offer.pdf")
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.HasPrefix(string(pdf), "%PDF"))
	b.As["maud"].Yes("POST", "/api/cost/pieces/"+code+"/offer", nil, &a)
	assert.Equal(t, 2, a.Offer.Number)
	assert.Greater(t, a.Offer.Price, price, "worked out anew it is dearer")
	var all cost.Overview
	b.As["maud"].Yes("GET", "/api/cost", nil, &all)
	require.Len(t, all.Productions, 1)
	assert.Equal(t, a.Offer.Price, all.Productions[0].Price)
	// What was used for the look, for whoever builds it again: no money in it, and nothing that a spreadsheet takes for a formula.
	var used cost.UsedList
	character, _, _ := strings.Cut(code, "-")
	b.As["pip"].Yes("GET", "/api/characters/"+character+"/used", nil, &used)
	assert.NotEmpty(t, used.Products)
	assert.Len(t, used.Items, 3)
	_, raw := b.File("pip", "/api/characters/"+character+"/used.csv")
	rows, err := csv.NewReader(strings.NewReader(string(raw))).ReadAll()
	require.NoError(t, err)
	assert.Greater(t, len(rows), 3)
	assert.NotContains(t, string(raw), ",=cmd")
	assert.Equal(t, http.StatusNotFound, b.As["pip"].No("GET", "/api/characters/ZZ/used", nil).Status)
}

func first(status int, _ []byte) int { return status }

// Money is for leads; what cannot be is refused at its field; a piece that nobody can price says why.
func TestMoneyIsForLeads(t *testing.T) {
	b := shoptest.New(t, nil)
	var v cost.TermsView
	b.As["maud"].Yes("GET", "/api/cost/terms", nil, &v)
	assert.True(t, v.Default)
	for _, path := range []string{"/api/cost", "/api/cost/terms", "/api/cost/pieces/BF-01", "/api/cost/pieces/BF-01/estimate"} {
		for _, who := range []string{"ivo", "pip"} {
			assert.Equal(t, http.StatusForbidden, b.As[who].No("GET", path, nil).Status, path)
		}
	}
	twice := m{"currency": "", "rate_minor": 1, "rates": []m{{"person": "ivo", "minor": 1}, {"person": "ivo", "minor": 2}}, "overtime_factor": 1, "overhead_pct": 0, "margin_pct": 0, "oven_minor": 0}
	assert.Equal(t, "rates[1].person", b.As["maud"].No("PUT", "/api/cost/terms", twice).Field)
	twice["margin_pct"] = 100
	assert.GreaterOrEqual(t, b.As["maud"].No("PUT", "/api/cost/terms", twice).Status, 400)
	p, err := b.S.Pieces.Create(b.Who["maud"], piece.NewPiece{Production: "The Tallow Court", CharacterCode: "BF", CharacterName: "the bell-founder", Performer: "Oren Thale", Name: "Cheek", Region: "cheek", CopiesWanted: 1})
	require.NoError(t, err)
	var a cost.Account
	b.As["maud"].Yes("GET", "/api/cost/pieces/"+p.Code, nil, &a)
	assert.Equal(t, "its section is not agreed", a.Offer.Bar)
	assert.Equal(t, "no_offer", b.As["maud"].No("POST", "/api/cost/pieces/"+p.Code+"/offer", nil).Code)
	var plain int
	require.NoError(t, b.S.DB.GetContext(t.Context(), &plain, `SELECT COUNT(*) FROM journal WHERE kind = 'cost' AND words LIKE '%3000%'`))
	assert.Zero(t, plain, "the record is read by people who may not see rates")
}
