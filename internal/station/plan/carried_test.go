package plan_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/plan"
	"yewmoor/internal/station/stores"
)

// A further mould is decided as one act with the plan: it is built by somebody, filled when it is dry, and counted on until one is
// begun in the mould room, or the decision is taken back.
func TestAFurtherMouldIsDecided(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	p := planned{b, nil}
	code := b.By("silicone_encapsulated", "BF", "cheek", 3)
	b.Stone(code, 2)
	b.DayOf(code, "2026-01-30")
	r := p.runUp()
	assert.Empty(t, r.Moulds)
	var list []plan.Mend
	p.As["ivo"].Yes("POST", "/api/plan/tries", m{"kind": "mould", "piece": code}, &list)
	require.NotNil(t, list[0].Carry)
	assert.Equal(t, code, list[0].Carry.Mould)
	assert.Equal(t, "piece", p.As["ivo"].No("POST", "/api/plan/carry", m{"mould": "ZZ-01"}).Field)
	assert.Equal(t, "hours", p.As["ivo"].No("POST", "/api/plan/carry", m{"mould": code, "sure": 0.9}).Field, "one thing at a time")
	assert.Equal(t, http.StatusForbidden, p.As["pip"].No("POST", "/api/plan/carry", list[0].Carry).Status)
	assert.Zero(t, p.Count(`SELECT COUNT(*) FROM plan_mould`))
	var done plan.Carried
	p.As["ivo"].Yes("POST", "/api/plan/carry", list[0].Carry, &done)
	require.Len(t, done.RunUp.Moulds, 1)
	dry := done.RunUp.Moulds[0].Dry
	build := time.Time{}
	assert.Contains(t, list[0].Text, "a second mould of "+code+", built by tomorrow evening")
	for _, bar := range done.RunUp.Bars {
		if bar.Text == "build a mould for "+code && !strings.Contains(bar.Lane, "/") {
			build = bar.To
		}
		if bar.Lane == code+"/more" && bar.Step != code+"/more.dries" {
			assert.False(t, bar.From.Before(dry), "it is filled when it is dry")
		}
	}
	assert.False(t, build.IsZero(), "somebody builds it")
	assert.True(t, build.Before(dry))
	p.As["maud"].Yes("DELETE", fmt.Sprintf("/api/plan/moulds/%d", done.RunUp.Moulds[0].ID), nil, &r)
	assert.Empty(t, r.Moulds)
	assert.Equal(t, http.StatusNotFound, p.As["maud"].No("DELETE", "/api/plan/moulds/1", nil).Status)
	// Decided again, and begun: the real one stands in the plan then.
	p.As["ivo"].Yes("POST", "/api/plan/carry", m{"mould": code}, &done)
	require.Len(t, done.RunUp.Moulds, 1)
	// Days later nobody has begun it: it is still to be built, and there is a plan.
	b.Clock.Set(shoptest.Monday.AddDate(0, 0, 4))
	r = p.runUp()
	assert.Empty(t, r.Bar)
	require.Len(t, r.Moulds, 1)
	assert.True(t, r.Moulds[0].Dry.After(dry))
	b.Stone(code, 2)
	assert.Empty(t, p.runUp().Moulds)
	// Who decides it at the same time as another looks again: nothing is recorded twice.
	b.DayOf(code, "2026-02-13")
	p.runUp()
	got := shoptest.Together(3, func(i int) (int, shoptest.Refused) {
		var no shoptest.Refused
		return p.As[[]string{"ivo", "maud", "ivo"}[i]].Send("POST", "/api/plan/carry", m{"mould": code}, &no), no
	})
	assert.Positive(t, got["yes"], got)
	assert.Equal(t, 3, got["yes"]+got["changed"], got)
	assert.Len(t, p.runUp().Moulds, got["yes"], "what was refused is not there")
}

// A day is shot later: a lead writes it down as one act with the plan, and nobody else does.
func TestADayIsPutOff(t *testing.T) {
	p := shop(t, "2026-01-21")
	r := p.runUp()
	require.Positive(t, r.LateMin)
	var list []plan.Mend
	p.As["pip"].Yes("POST", "/api/plan/tries", m{"kind": "later", "day_id": r.Days[0].ID, "days": 30}, &list)
	assert.Empty(t, list[0].Bar, "further than the plan's end")
	p.As["pip"].Yes("DELETE", fmt.Sprintf("/api/plan/tries/%d", list[0].ID), nil, nil)
	p.As["pip"].Yes("POST", "/api/plan/tries", m{"kind": "later", "day_id": r.Days[0].ID, "days": 14}, &list)
	require.NotNil(t, list[0].Carry)
	assert.Equal(t, http.StatusForbidden, p.As["ivo"].No("POST", "/api/plan/carry", list[0].Carry).Status)
	assert.Equal(t, "day_id", p.As["maud"].No("POST", "/api/plan/carry", m{"later": m{"day_id": 9999, "days": 2}}).Field)
	var done plan.Carried
	p.As["maud"].Yes("POST", "/api/plan/carry", list[0].Carry, &done)
	assert.True(t, done.RunUp.Days[0].Out.Equal(r.Days[0].Out.AddDate(0, 0, 14)))
	assert.Equal(t, list[0].LateMin, done.RunUp.LateMin, "as it was told beside the plan")
	var days []plan.Day
	p.As["pip"].Yes("GET", "/api/plan", nil, &days)
	assert.Equal(t, "2026-02-04", days[0].Day.Format(time.DateOnly))
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'day' AND act = 'day changed'`))
}

// What is to be ordered follows the plan's sessions: material is wanted when they begin, and for spares too.
func TestMaterialIsWantedWhenThePlanBegins(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	p := planned{b, nil}
	code := b.By("latex_slush", "GC", "nose", 3)
	b.DayOf(code, "2026-02-06")
	wants := func() (list []stores.Want) {
		var o stores.Outlook
		p.As["ivo"].Yes("GET", "/api/stock", nil, &o)
		for _, it := range o.Items {
			for _, w := range it.Wants {
				if strings.HasPrefix(w.For, code) {
					list = append(list, w)
				}
			}
		}
		return list
	}
	before := wants()
	require.NotEmpty(t, before)
	for _, w := range before {
		assert.Equal(t, "2026-02-05", w.On.Format(time.DateOnly), "nothing was planned yet: the day before")
	}
	r := p.runUp()
	first := slices.MinFunc(r.Bars, func(a, b plan.Bar) int {
		if strings.Contains(a.Text, "slush") != strings.Contains(b.Text, "slush") {
			return map[bool]int{true: -1, false: 1}[strings.Contains(a.Text, "slush")]
		}
		return a.From.Compare(b.From)
	})
	grams := func(list []stores.Want) (g float64) {
		for _, w := range list {
			g += w.Grams
		}
		return g
	}
	planned := wants()
	assert.Equal(t, first.From.Format(time.DateOnly), slices.MinFunc(planned, func(a, b stores.Want) int { return a.On.Compare(b.On) }).On.Format(time.DateOnly))
	assert.InDelta(t, grams(before), grams(planned), 1e-6)
	p.As["ivo"].Yes("POST", "/api/plan/carry", m{"sure": 0.95}, nil)
	assert.Greater(t, grams(wants()), grams(planned), "spares take material too")
}
