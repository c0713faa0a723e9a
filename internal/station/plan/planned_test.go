package plan_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	craft "yewmoor/internal/craft/plan"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/plan"
)

type m = map[string]any

type planned struct {
	*shoptest.Bench
	pieces map[string]string // by method
}

// shop has a piece of every family to be worn on a day.
func shop(t *testing.T, day string) planned {
	t.Helper()
	p := planned{shoptest.New(t, nil), map[string]string{}}
	p.Everything()
	for method, character := range map[string]string{"silicone_encapsulated": "BF", "foam_latex": "AL", "latex_slush": "GC", "gelatin_animal": "FT", "wax": "CB", "latex_paste": "NM", "latex_sheet": "PK"} {
		p.pieces[method] = p.By(method, character, "cheek", 3)
	}
	var id uint64
	for _, code := range p.pieces {
		if id == 0 {
			id = p.DayOf(code, day).ID
			continue
		}
		p.As["maud"].Yes("PUT", "/api/pieces/"+code+"/days", m{"day_ids": []uint64{id}}, nil)
	}
	return p
}

func (p planned) runUp() (r plan.RunUp) {
	p.T.Helper()
	p.As["pip"].Yes("GET", "/api/plan/run-up", nil, &r)
	return r
}

func (p planned) mends() (list []plan.Mend) {
	p.T.Helper()
	p.As["pip"].Yes("GET", "/api/plan/mends", nil, &list)
	return list
}

// What has to be done follows from sections, moulds and hours, in every family; nobody types it.
func TestEveryFamilyIsInTheRunUp(t *testing.T) {
	p := shop(t, "2026-02-06")
	r := p.runUp()
	assert.Empty(t, r.Bar)
	assert.Empty(t, r.Unplanned)
	for method, code := range p.pieces {
		var acts []string
		waits := 0.0
		bars := slices.DeleteFunc(slices.Clone(r.Bars), func(b plan.Bar) bool { return b.Piece != code })
		slices.SortFunc(bars, func(a, b plan.Bar) int { return a.From.Compare(b.From) })
		for i, b := range bars {
			acts = append(acts, b.Text)
			if i > 0 {
				waits += max(0, b.From.Sub(bars[i-1].To).Hours())
			}
		}
		assert.NotEmpty(t, acts, method)
		assert.Contains(t, strings.Join(acts, ";"), "pack", method)
		assert.Contains(t, strings.Join(acts, ";"), "check", method)
		assert.Positive(t, waits, method)
	}
	// Not every copy is good: more are to be begun than are missing, the more so of what fails more often.
	begin := map[string]int{}
	for _, e := range r.Enough {
		assert.GreaterOrEqual(t, e.Chance, 0.9)
		assert.Greater(t, e.Begin, e.Missing)
		begin[e.Piece] = e.Begin
	}
	assert.Greater(t, begin[p.pieces["foam_latex"]], begin[p.pieces["silicone_encapsulated"]])
	text := func(method string) (out string) {
		for _, b := range r.Bars {
			if b.Piece == p.pieces[method] {
				out += b.Text + ";"
			}
		}
		return out
	}
	assert.Contains(t, text("foam_latex"), "bake")
	assert.Contains(t, text("foam_latex"), "build a mould", "it has none yet")
	assert.Contains(t, text("gelatin_animal"), "chill")
	assert.NotContains(t, text("wax"), "build a mould", "it is modelled")
	// What is shown is legal by the checker, and both documents are what the planner takes.
	status, raw := p.File("pip", "/api/plan/run-up.json")
	assert.Equal(t, http.StatusOK, status)
	var doc plan.File
	require.NoError(t, json.Unmarshal(raw, &doc))
	o, broken := craft.Check(doc.Instance, doc.Plan)
	assert.Empty(t, broken)
	assert.Equal(t, r.LateMin, 15*o.Late)
	// Nothing hot runs while nobody is in.
	for _, b := range r.Bars {
		if b.Lane != "oven" {
			continue
		}
		for _, n := range r.Nights {
			assert.False(t, b.From.Before(n.To) && n.From.Before(b.To), "%s in the night", b.Text)
		}
	}
	_, raw = p.File("pip", "/api/plan/run-up.ics?person=ivo")
	cal, err := ics.ParseCalendar(strings.NewReader(string(raw)))
	require.NoError(t, err)
	assert.NotEmpty(t, cal.Events())
	status, _ = p.File("pip", "/api/plan/run-up.ics?person=nobody")
	assert.Equal(t, http.StatusNotFound, status)
	_, raw = p.File("pip", "/api/plan/run-up.csv")
	rows, err := csv.NewReader(strings.NewReader(string(raw))).ReadAll()
	require.NoError(t, err)
	assert.Greater(t, len(rows), 20)
}

// A day that cannot be met says why; what would mend it is planned, carried out as one act, and what moved is told.
func TestALateDaySaysWhyAndIsMended(t *testing.T) {
	p := shop(t, "2026-01-21")
	r := p.runUp()
	require.NotEmpty(t, r.Late, "moulds dry for a week")
	assert.Positive(t, r.LateMin)
	assert.GreaterOrEqual(t, r.LateMin, r.LeastMin)
	for _, d := range r.Days {
		assert.Equal(t, 200, d.N)
		assert.Less(t, d.Met, 0.5, "what is late as planned is seldom met")
		assert.LessOrEqual(t, d.Low, d.Met)
	}
	for _, l := range r.Late {
		assert.Contains(t, l.Words, "because")
		assert.Equal(t, "quayside", l.Place)
		assert.Equal(t, l.Out.Add(time.Duration(l.LateMin)*time.Minute), l.Ends)
	}
	list := p.mends()
	require.NotEmpty(t, list)
	var free *plan.NewHourChange
	for _, m := range list {
		assert.Equal(t, r.LateMin-m.LateMin, m.Gains, m.Text)
		if m.Carry != nil && m.Carry.Kind == "extra" {
			free = m.Carry
			assert.GreaterOrEqual(t, m.Gains, 0, "a relaxation is never worse")
		}
	}
	require.NotNil(t, free)
	p.As["ivo"].Yes("POST", "/api/plan/take", nil, &r)
	assert.NotNil(t, r.TakenAt)
	assert.Empty(t, r.Moved, "the plan in force is the one that is shown")
	assert.Equal(t, http.StatusForbidden, p.As["pip"].No("POST", "/api/plan/hours", free).Status)
	p.As["ivo"].Yes("POST", "/api/plan/hours", free, &r)
	require.Len(t, r.Changes, 1)
	// Somebody is ill on the first day: what they were to do is others', and it is said.
	before := p.runUp()
	first := slices.IndexFunc(before.Bars, func(b plan.Bar) bool { return b.Lane == "ivo" })
	require.GreaterOrEqual(t, first, 0)
	day := before.Bars[first].From.Truncate(24 * time.Hour)
	p.As["maud"].Yes("POST", "/api/plan/hours", m{"kind": "away", "person": "ivo", "day": day, "from_min": 0, "to_min": 1440}, &r)
	for _, b := range r.Bars {
		assert.False(t, b.Lane == "ivo" && b.From.Truncate(24*time.Hour).Equal(day), "%s by somebody who is away", b.Text)
	}
	assert.NotEmpty(t, r.Moved)
	for _, mv := range r.Moved {
		assert.False(t, mv.Who == mv.Had && mv.Was.Equal(mv.Is), "it did not move: %s", mv.Text)
	}
	p.As["maud"].Yes("DELETE", fmt.Sprintf("/api/plan/hours/%d", r.Changes[len(r.Changes)-1].ID), nil, &r)
	assert.Len(t, r.Changes, 1)
	assert.Equal(t, 3, p.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'plan' AND act IN ('plan taken','away','open beside the hours')`))
}

// Hours that cannot be are refused at their field; the night is a lead's.
func TestHoursAreChecked(t *testing.T) {
	p := planned{shoptest.New(t, nil), nil}
	r := p.runUp()
	assert.Zero(t, r.Steps, "nothing is to be done")
	assert.Equal(t, "no_plan", p.As["ivo"].No("POST", "/api/plan/take", nil).Code)
	day := shoptest.Monday.AddDate(0, 0, 3)
	for field, body := range map[string]m{"person": {"kind": "away", "day": day}, "day": {"kind": "extra", "day": shoptest.Monday.AddDate(0, 0, -2)}, "to_min": {"kind": "extra", "day": day, "from_min": 900, "to_min": 600}} {
		full := m{"from_min": 540, "to_min": 1020}
		for k, v := range body {
			full[k] = v
		}
		assert.Equal(t, field, p.As["ivo"].No("POST", "/api/plan/hours", full).Field)
	}
	night := m{"kind": "night", "day": day, "from_min": 0, "to_min": 1440}
	assert.Equal(t, http.StatusForbidden, p.As["ivo"].No("POST", "/api/plan/hours", night).Status)
	p.As["maud"].Yes("POST", "/api/plan/hours", night, &r)
	assert.Len(t, r.Changes, 1)
	got := shoptest.Together(4, func(int) (int, shoptest.Refused) {
		var no shoptest.Refused
		return p.As["maud"].Send("DELETE", fmt.Sprintf("/api/plan/hours/%d", r.Changes[0].ID), nil, &no), no
	})
	assert.Equal(t, 1, got["yes"], got)
}
