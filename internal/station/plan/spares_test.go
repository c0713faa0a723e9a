package plan_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	craft "yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/plan"
)

// sessions are how many copies the plan begins of a piece.
func begins(r plan.RunUp, code string) int {
	for _, e := range r.Enough {
		if e.Piece == code {
			return e.Planned
		}
	}
	return 0
}

// How sure it is to be that enough are good is the shop's to say: the plan begins so many more, of every family, and a change of it is
// seen beside the plan before it is carried out.
func TestSparesAreInThePlan(t *testing.T) {
	p := shop(t, "2026-02-06")
	r := p.runUp()
	assert.Zero(t, r.Sure)
	for _, e := range r.Enough {
		assert.Equal(t, e.Missing, e.Planned, "each is taken for good")
	}
	var list []plan.Mend
	p.As["pip"].Yes("POST", "/api/plan/tries", m{"kind": "spares", "sure": 0.95}, &list)
	require.Len(t, list, 1)
	assert.Positive(t, list[0].More, "more are made")
	assert.Equal(t, "sure", p.As["pip"].No("POST", "/api/plan/tries", m{"kind": "spares", "sure": 0.2}).Field)
	p.As["maud"].Yes("GET", "/api/plan/tries", nil, &list)
	require.NotNil(t, list[0].Money)
	assert.Positive(t, *list[0].Money, "and take material")
	assert.Equal(t, http.StatusForbidden, p.As["pip"].No("POST", "/api/plan/carry", list[0].Carry).Status)
	assert.Equal(t, "hours", p.As["ivo"].No("POST", "/api/plan/carry", m{}).Field)
	assert.Equal(t, "sure", p.As["ivo"].No("POST", "/api/plan/carry", m{"sure": 0.3}).Field)
	elsewhere := func() float64 {
		share, err := p.S.Mix.Sure(t.Context())
		require.NoError(t, err)
		return share
	}
	assert.InDelta(t, 0.9, elsewhere(), 1e-9, "what is usual")
	var done plan.Carried
	p.As["ivo"].Yes("POST", "/api/plan/carry", list[0].Carry, &done)
	assert.InDelta(t, 0.95, done.RunUp.Sure, 1e-9)
	assert.InDelta(t, 0.95, elsewhere(), 1e-9, "the mix room counts out by the same")
	for _, e := range done.RunUp.Enough {
		assert.Equal(t, e.Begin, e.Planned)
		assert.GreaterOrEqual(t, e.Chance, 0.95)
		assert.Greater(t, e.Planned, e.Missing)
	}
	foam := p.pieces["foam_latex"]
	count := 0
	for _, b := range done.RunUp.Bars {
		if b.Piece == foam && strings.Contains(b.Text, "bake") && !strings.Contains(b.Lane, "/") && !b.Wait {
			count++
		}
	}
	assert.Equal(t, begins(done.RunUp, foam), count, "each of them is baked")
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'plan' AND act = 'spares set'`))
	p.As["ivo"].Yes("POST", "/api/plan/carry", m{"sure": 0}, &done)
	assert.Equal(t, r.Steps, done.RunUp.Steps, "back to what was")
}

// A bowl that is small divides what is poured, as in the mix room; what nobody can pour is said.
func TestMixesAreDividedByTheBowl(t *testing.T) {
	p := shop(t, "2026-02-06")
	of := func(method string) plan.Enough {
		r := p.runUp()
		i := slices.IndexFunc(r.Enough, func(e plan.Enough) bool { return e.Piece == p.pieces[method] })
		require.GreaterOrEqual(t, i, 0, method)
		return r.Enough[i]
	}
	tools := func(name string, ml int) {
		p.As["ivo"].Yes("POST", "/api/tools", m{"name": name, "kind": "bowl", "n": 1, "holds_ml": ml}, nil)
	}
	for _, method := range []string{"silicone_encapsulated", "foam_latex", "gelatin_animal"} {
		e := of(method)
		assert.Positive(t, e.Mixes, method)
		assert.NotEqual(t, "bowl", e.Limit, method)
		assert.Empty(t, e.MixBar)
	}
	assert.Zero(t, of("latex_slush").Mixes, "it is poured out of its pot and back")
	before := of("silicone_encapsulated")
	tools("thimble", 2)
	assert.Contains(t, of("silicone_encapsulated").MixBar, "bowl")
	tools("cup", 150)
	e := of("silicone_encapsulated")
	assert.Empty(t, e.MixBar)
	assert.GreaterOrEqual(t, e.Mixes, before.Mixes)
	assert.Equal(t, (e.Begin+e.PerMix-1)/e.PerMix, e.Mixes)
	assert.Equal(t, "holds_ml", p.As["ivo"].No("POST", "/api/tools", m{"name": "brush", "kind": "brush", "n": 1, "holds_ml": 4}).Field)
}

// What the racks and the ovens take at once is said at the places, and the plan keeps to it.
func TestRacksAndOvensTakeSoMuch(t *testing.T) {
	p := shop(t, "2026-02-06")
	instance := func() (in craft.Instance) {
		_, raw := p.File("pip", "/api/plan/run-up.json")
		var doc plan.File
		require.NoError(t, json.Unmarshal(raw, &doc))
		_, broken := craft.Check(doc.Instance, doc.Plan)
		assert.Empty(t, broken)
		return *doc.Instance
	}
	taking := func(in craft.Instance, kind string) (n []int) {
		for _, r := range in.Resources {
			if r.Type == kind {
				n = append(n, r.Capacity)
			}
		}
		return n
	}
	in := instance()
	assert.Empty(t, taking(in, craft.Rack), "nobody said how much they take")
	assert.Equal(t, []int{4}, taking(in, craft.Oven), "what is usual")
	for _, x := range []m{{"name": "rack", "kind": "rack"}, {"name": "shelf", "kind": "rack"}, {"name": "oven", "kind": "oven"}, {"name": "small oven", "kind": "oven"}} {
		p.As["ivo"].Yes("POST", "/api/places", x, nil)
	}
	assert.Equal(t, "missing", p.As["pip"].No("POST", "/api/plan/tries", m{"kind": "racks"}).Code)
	for code, n := range map[string]int{"rack": 1, "shelf": 1, "small-oven": 1} {
		p.As["ivo"].Yes("POST", "/api/places/"+code+"/rules", m{"takes": n}, nil)
	}
	assert.GreaterOrEqual(t, p.As["ivo"].No("POST", "/api/places/rack/rules", m{"takes": 0}).Status, 400)
	in = instance()
	assert.Equal(t, []int{2}, taking(in, craft.Rack))
	assert.ElementsMatch(t, []int{4, 1}, taking(in, craft.Oven))
	r := p.runUp()
	full := 0
	for _, b := range r.Bars {
		if b.Lane == runup.Racks {
			full++
			var stand, of int
			_, err := fmt.Sscanf(b.Text, "%d of %d", &stand, &of)
			require.NoError(t, err)
			assert.Equal(t, stand, of)
		}
	}
	assert.Positive(t, full, "the picture says when no more goes on them")
	var list []plan.Mend
	p.As["pip"].Yes("POST", "/api/plan/tries", m{"kind": "racks"}, &list)
	assert.Empty(t, list[0].Bar)
	assert.GreaterOrEqual(t, list[0].Gains, 0, "it only relaxes something")
	// Work on a copy that stands there now goes on; nobody is turned away by a rack that is too full.
	run := p.Begin(p.pieces["latex_sheet"], 3)
	require.NotEmpty(t, run.Code)
	assert.Empty(t, p.runUp().Bar)
}

// A piece whose sculpt is not begun has its shape in the plan, by the brief's hours and what was noted of them.
func TestTheShapeOfASculptIsInThePlan(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	p := planned{b, nil}
	code := b.By("silicone_encapsulated", "BF", "cheek", 3)
	b.DayOf(code, "2026-02-06")
	minutes := func() (n float64) {
		for _, x := range p.runUp().Bars {
			if x.Text == code+" shape the sculpt" {
				n += x.To.Sub(x.From).Minutes()
			}
		}
		return n
	}
	assert.Zero(t, minutes(), "the brief says nothing of it")
	var r plan.RunUp
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/place", m{"place": "sculpt"}, nil)
	b.Put("ivo", code, func(d *piece.Brief) {
		d.Steps = append(d.Steps, piece.StepHours{ID: "shape", Text: "shape", Where: "workshop", Skill: "fabricator", Hours: 3, Part: "shape"})
	})
	assert.Zero(t, minutes(), "it stands in a draft")
	b.As["ivo"].Yes("GET", "/api/plan/run-up", nil, &r)
	for _, x := range r.Bars {
		assert.NotContains(t, x.Text, "shape", "and is nobody's plan, not theirs either")
	}
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
	assert.InDelta(t, 180, minutes(), 15)
	// What was noted of it is done.
	b.As["pip"].Yes("POST", "/api/work", m{"act": "shape the sculpt", "title": "the shape", "piece": code, "began_at": "2026-01-12T06:00:00Z", "ended_at": "2026-01-12T08:00:00Z", "key": "5f0c7b1e-54f5-4f0a-9d2c-0d6f0c9f2a11"}, nil)
	assert.InDelta(t, 60, minutes(), 15)
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/place", m{"place": "mould"}, nil)
	assert.Zero(t, minutes(), "it is through the gate")
}

// How each day stands follows from the plan and not from how many days are left.
func TestDaysStandByThePlan(t *testing.T) {
	p := shop(t, "2026-01-21")
	var list []plan.Standing
	p.As["pip"].Yes("GET", "/api/plan/standing", nil, &list)
	require.Len(t, list, 1)
	r := p.runUp()
	assert.Equal(t, r.Days[0].LateMin, list[0].LateMin)
	assert.Len(t, list[0].Late, len(r.Late))
	require.NotNil(t, list[0].Met)
	// With weeks to go it is late too when something of it is in no plan.
	p.DayOf(p.By("wax", "CB", "chin", 3), "2026-02-12")
	p.DayOf(p.By("wax", "CB", "forehead", 3), "2026-06-12")
	p.As["pip"].Yes("GET", "/api/plan/standing", nil, &list)
	require.Len(t, list, 3)
	assert.Zero(t, list[1].LateMin)
	require.NotNil(t, list[1].Slack)
	assert.Positive(t, *list[1].Slack)
	assert.True(t, list[2].Beyond, "further than the plan looks")
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.NewPiece("cheek", "cheek", "L")
	b.DayOf(code, "2026-02-06")
	b.As["pip"].Yes("GET", "/api/plan/standing", nil, &list)
	require.Len(t, list, 1)
	require.Len(t, list[0].Out, 1)
	assert.Equal(t, code, list[0].Out[0].Piece)
}
