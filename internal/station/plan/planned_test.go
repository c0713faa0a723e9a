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
	"yewmoor/internal/device"
	"yewmoor/internal/shelf"
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
		assert.Positive(t, e.Runs)
		assert.LessOrEqual(t, e.Runs, e.Begin)
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
		if m.Carry != nil && m.Carry.Hours != nil && m.Carry.Hours.Kind == "extra" {
			free = m.Carry.Hours
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
	assert.Equal(t, "no_oven", p.As["maud"].No("POST", "/api/plan/hours", night).Code)
	p.As["ivo"].Yes("POST", "/api/places", m{"name": "The oven", "kind": "oven"}, nil)
	p.As["maud"].Yes("POST", "/api/plan/hours", night, &r)
	assert.Empty(t, r.Changes, "it stands with the oven")
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM place WHERE alone`))
	p.As["maud"].Yes("POST", "/api/plan/hours", m{"kind": "extra", "day": day, "from_min": 540, "to_min": 1020}, &r)
	got := shoptest.Together(4, func(int) (int, shoptest.Refused) {
		var no shoptest.Refused
		return p.As["maud"].Send("DELETE", fmt.Sprintf("/api/plan/hours/%d", r.Changes[0].ID), nil, &no), no
	})
	assert.Equal(t, 1, got["yes"], got)
}

// A step is put where somebody wants it: the checker says what breaks, the planner whether the rest can make way, and it stays there.
func TestAStepIsPutAndStays(t *testing.T) {
	p := shop(t, "2026-02-06")
	r := p.runUp()
	i := slices.IndexFunc(r.Bars, func(b plan.Bar) bool { return b.Lane == "pip" && !b.Wait && b.Piece != "" })
	require.GreaterOrEqual(t, i, 0)
	bar := r.Bars[i]
	var told plan.Breaks
	// Where it is nothing breaks.
	p.As["ivo"].Yes("POST", "/api/plan/try", m{"step": bar.Step, "person": "pip", "start_at": bar.From}, &told)
	assert.Empty(t, told.Broken)
	assert.True(t, told.Fits)
	// At night nobody is in, and no plan has it there.
	night := bar.From.Truncate(24 * time.Hour).Add(27 * time.Hour)
	p.As["ivo"].Yes("POST", "/api/plan/try", m{"step": bar.Step, "person": "pip", "start_at": night}, &told)
	assert.NotEmpty(t, told.Broken)
	assert.False(t, told.Fits)
	for _, w := range append(told.Broken, told.Why) {
		assert.NotContains(t, w, bar.Step, "said in the shop's words")
	}
	assert.Equal(t, "no_plan", p.As["ivo"].No("POST", "/api/plan/pins", m{"step": bar.Step, "person": "pip", "start_at": night}).Code)
	assert.Zero(t, p.Count(`SELECT COUNT(*) FROM plan_pin`))
	// Two days later, by somebody else: what hangs on it makes way. Two who put it at once put it once.
	later := bar.From.AddDate(0, 0, 2)
	at1 := shoptest.Together(2, func(i int) (int, shoptest.Refused) {
		var no shoptest.Refused
		return p.As[[]string{"ivo", "maud"}[i]].Send("POST", "/api/plan/pins", m{"step": bar.Step, "person": "ivo", "start_at": later}, &no), no
	})
	assert.Equal(t, 2, at1["yes"], at1)
	r = p.runUp()
	at := func(r plan.RunUp) plan.Bar {
		i := slices.IndexFunc(r.Bars, func(b plan.Bar) bool { return b.Step == bar.Step && !strings.Contains(b.Lane, "/") })
		require.GreaterOrEqual(t, i, 0)
		return r.Bars[i]
	}
	assert.Equal(t, "ivo", at(r).Lane)
	assert.True(t, at(r).From.Equal(later))
	require.Len(t, r.Pins, 1)
	// It stays when something else changes, and is put once however often it is sent.
	p.As["maud"].Yes("POST", "/api/plan/hours", m{"kind": "away", "person": "pip", "day": bar.From, "from_min": 0, "to_min": 1440}, &r)
	assert.True(t, at(r).From.Equal(later))
	got := shoptest.Together(4, func(int) (int, shoptest.Refused) {
		var no shoptest.Refused
		return p.As["maud"].Send("POST", "/api/plan/pins", m{"step": bar.Step, "person": "ivo", "start_at": later}, &no), no
	})
	assert.Equal(t, 4, got["yes"], got)
	r = p.runUp()
	require.Len(t, r.Pins, 1)
	p.As["ivo"].Yes("DELETE", fmt.Sprintf("/api/plan/pins/%d", r.Pins[0].ID), nil, &r)
	assert.Empty(t, r.Pins)
	for field, body := range map[string]m{"person": {"person": "nobody", "start_at": later}, "start_at": {"person": "pip", "start_at": shoptest.Monday.AddDate(0, 0, -3)}} {
		body["step"] = bar.Step
		assert.Equal(t, field, p.As["ivo"].No("POST", "/api/plan/try", body).Field)
	}
	assert.Equal(t, http.StatusForbidden, p.As["pip"].No("POST", "/api/plan/pins", m{"step": bar.Step, "person": "pip", "start_at": later}).Status)
}

// Work that no piece asks for is planned around, and is taken in again where with it there is no plan.
func TestOtherWorkIsPlannedIn(t *testing.T) {
	p := shop(t, "2026-02-06")
	from, by := shoptest.Monday.AddDate(0, 0, 1), shoptest.Monday.AddDate(0, 0, 3)
	var r plan.RunUp
	p.As["ivo"].Yes("POST", "/api/plan/other", m{"text": "Mend the booth", "person": "pip", "minutes": 90, "from_at": from, "by_at": by}, &r)
	require.Len(t, r.Other, 1)
	i := slices.IndexFunc(r.Bars, func(b plan.Bar) bool { return b.Text == "Mend the booth" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "pip", r.Bars[i].Lane)
	assert.False(t, r.Bars[i].From.Before(from))
	assert.False(t, r.Bars[i].To.After(by))
	soon := shoptest.Monday.Add(20 * time.Minute)
	assert.Equal(t, "no_plan", p.As["ivo"].No("POST", "/api/plan/other", m{"text": "All at once", "minutes": 600, "by_at": soon}).Code)
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM other_work WHERE back_at IS NULL`))
	for field, body := range map[string]m{"text": {"text": "  "}, "by_at": {"by_at": shoptest.Monday.Add(-time.Hour)}, "person": {"person": "nobody"}} {
		full := m{"text": "x", "minutes": 30}
		for k, v := range body {
			full[k] = v
		}
		assert.Equal(t, field, p.As["ivo"].No("POST", "/api/plan/other", full).Field)
	}
	p.As["pip"].Yes("POST", fmt.Sprintf("/api/plan/other/%d/done", r.Other[0].ID), nil, &r)
	assert.Empty(t, r.Other)
	assert.Equal(t, http.StatusNotFound, p.As["ivo"].No("DELETE", fmt.Sprintf("/api/plan/other/%d", 99), nil).Status)
}

// Changes stand beside the plan, each with days, hours, money and risk; the one that is chosen is carried out as one act.
func TestChangesStandBesideThePlan(t *testing.T) {
	p := shop(t, "2026-01-21")
	r := p.runUp()
	require.Positive(t, r.LateMin)
	p.As["ivo"].Yes("POST", "/api/places", m{"name": "The oven", "kind": "oven"}, nil)
	foam := p.pieces["foam_latex"]
	saturday := shoptest.Monday.AddDate(0, 0, 5)
	var list []plan.Mend
	for _, in := range []m{{"kind": "hands"}, {"kind": "hands", "day": saturday}, {"kind": "extra", "day": saturday}, {"kind": "oven"}, {"kind": "night"},
		{"kind": "later", "day_id": r.Days[0].ID, "days": 7}, {"kind": "made_as", "piece": foam, "method": "silicone_encapsulated"}, {"kind": "mould", "piece": foam}} {
		p.As["pip"].Yes("POST", "/api/plan/tries", in, &list)
	}
	require.Len(t, list, 8)
	relaxes := []int{0, 2, 3}
	for i, x := range list {
		assert.Empty(t, x.Bar, x.Text)
		assert.Len(t, x.Days, len(r.Days), x.Text)
		assert.Equal(t, r.LateMin-x.LateMin, x.Gains, x.Text)
		assert.Nil(t, x.Money, "money is for leads")
		assert.InDelta(t, 0.5, x.Met, 0.5, x.Text)
		if slices.Contains(relaxes, i) {
			assert.GreaterOrEqual(t, x.Gains, 0, "%s: a relaxation is never worse", x.Text)
		}
	}
	assert.Positive(t, list[5].Gains, "a week later helps")
	assert.Contains(t, list[6].Text, "made as")
	assert.Positive(t, list[7].More, "a second mould is built by hands")
	p.As["pip"].Yes("POST", "/api/plan/tries", m{"kind": "hands"}, &list)
	assert.Len(t, list, 8, "it stands there already")
	assert.Equal(t, "too_many", p.As["pip"].No("POST", "/api/plan/tries", m{"kind": "later", "day_id": r.Days[0].ID, "days": 2}).Code)
	bad := map[string]m{"day": {"kind": "extra"}, "days": {"kind": "later", "day_id": 1}, "day_id": {"kind": "later", "day_id": 9999, "days": 1}, "piece": {"kind": "mould", "piece": "ZZ-01"}, "method": {"kind": "made_as", "piece": foam, "method": "porridge"}}
	assert.Equal(t, "piece", p.As["pip"].No("POST", "/api/plan/tries", m{"kind": "texture", "piece": foam}).Field, "no texture is planned on it")
	for field, in := range bad {
		assert.Equal(t, field, p.As["pip"].No("POST", "/api/plan/tries", in).Field)
	}
	p.As["maud"].Yes("GET", "/api/plan/tries", nil, &list)
	require.NotNil(t, list[7].Money)
	assert.Positive(t, *list[7].Money, "hands and plaster cost money")
	p.As["pip"].Yes("DELETE", fmt.Sprintf("/api/plan/tries/%d", list[0].ID), nil, &list)
	assert.Len(t, list, 7)
	// What is in force names steps that another way of making has not: it is planned all the same.
	p.As["ivo"].Yes("POST", "/api/plan/take", nil, nil)
	p.As["pip"].Yes("GET", "/api/plan/tries", nil, &list)
	for _, x := range list {
		assert.Empty(t, x.Bar, x.Text)
	}
	// Carried out: the change and the plan with it are written together, and what moved is told.
	var done plan.Carried
	i := slices.IndexFunc(list, func(x plan.Mend) bool { return x.Carry != nil && x.Carry.Hours != nil && x.Carry.Hours.Kind == "night" })
	assert.Equal(t, http.StatusForbidden, p.As["ivo"].No("POST", "/api/plan/carry", list[i].Carry).Status)
	p.As["maud"].Yes("POST", "/api/plan/carry", list[i].Carry, &done)
	assert.LessOrEqual(t, done.RunUp.LateMin, r.LateMin, "it only relaxes something")
	assert.NotNil(t, done.RunUp.TakenAt)
	assert.Empty(t, done.RunUp.Moved, "the plan in force is the one that is shown")
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM place WHERE alone`), "it stands with the oven")
	for _, mv := range done.Moved {
		assert.False(t, mv.Was.Equal(mv.Is) && mv.Who == mv.Had, mv.Text)
	}
}

// What is not in the stores holds its sessions back until it can be here.
func TestWhatIsNotHereIsWaitedFor(t *testing.T) {
	b := shoptest.New(t, nil)
	p := planned{b, map[string]string{}}
	code := b.By("latex_slush", "GC", "nose", 3)
	b.DayOf(code, "2026-02-06")
	r := p.runUp()
	require.Len(t, r.Lacking, 1)
	assert.Nil(t, r.Lacking[0].By, "nobody wrote down how long it takes")
	assert.Positive(t, r.Steps, "the plan cannot wait for what nobody knows")
	materials, err := shelf.Load(t.Context(), b.S.DB)
	require.NoError(t, err)
	for slug, x := range materials {
		if strings.Contains(r.Lacking[0].What, x.Name) {
			p.As["ivo"].Yes("PUT", "/api/materials/"+slug, m{"keep": m{"lead_days": 5}, "source": "data sheet", "which": "sheet 1"}, nil)
		}
	}
	r = p.runUp()
	require.NotNil(t, r.Lacking[0].By, r.Lacking[0].What)
	for _, bar := range r.Bars {
		if strings.Contains(bar.Text, "slush") {
			assert.False(t, bar.From.Before(*r.Lacking[0].By), "%s before it is here", bar.Text)
		}
	}
	b.Everything()
	assert.Empty(t, p.runUp().Lacking)
}

// The week is a page, the calendar opens elsewhere.
func TestTheWeekIsPrinted(t *testing.T) {
	p := shop(t, "2026-02-06")
	status, raw := p.File("pip", "/api/plan/week.pdf")
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.HasPrefix(string(raw), "%PDF"))
}

// Somebody's own instance is planned as a job: the same seed and iterations give the same bytes, and what is no instance is refused.
func TestAnInstanceIsPlannedAsAJob(t *testing.T) {
	p := shop(t, "2026-02-06")
	_, raw := p.File("pip", "/api/plan/run-up.json")
	var file map[string]json.RawMessage
	require.NoError(t, json.Unmarshal(raw, &file))
	ask := func(query string, doc json.RawMessage) (a plan.Asked) {
		p.As["pip"].Yes("POST", "/api/plan/asked?"+query, doc, &a)
		require.NoError(t, p.S.Jobs.Settle(t.Context()))
		p.As["pip"].Yes("GET", fmt.Sprintf("/api/plan/asked/%d", a.ID), nil, &a)
		return a
	}
	a := ask("seed=3&iterations=60", file["instance"])
	assert.Equal(t, "done", a.State)
	var in craft.Instance
	var doc craft.Plan
	require.NoError(t, json.Unmarshal(file["instance"], &in))
	require.NoError(t, json.Unmarshal(a.Answer, &doc))
	_, broken := craft.Check(&in, &doc)
	assert.Empty(t, broken)
	assert.NotContains(t, string(a.Answer), "seconds")
	again, err := craft.Solve(&in, craft.Options{Seed: 3, Iterations: 60})
	require.NoError(t, err)
	assert.Equal(t, again.Steps, doc.Steps)
	assert.Equal(t, a.ID, ask("seed=3&iterations=60", file["instance"]).ID, "what was worked out is not worked out again")
	in.Jobs[0].Due = nil
	in.Steps[0].Crew = []string{"alchemy"}
	bad, err := json.Marshal(in)
	require.NoError(t, err)
	a = ask("iterations=10", bad)
	assert.Contains(t, string(a.Answer), `"error":"E_`)
	assert.Equal(t, "E_FORMAT", p.As["pip"].No("POST", "/api/plan/asked", m{"op": "quote"}).Code)
	assert.Equal(t, http.StatusNotFound, p.As["pip"].No("GET", "/api/plan/asked/9999", nil).Status)
	p.As["pip"].Yes("DELETE", fmt.Sprintf("/api/plan/asked/%d", a.ID), nil, &a)
	assert.Equal(t, "done", a.State, "what is done stays")
}

// Who is in when is set week by week, by themselves or by a lead; the plan keeps to it, and so do the gaps of the day.
func TestAWeekIsKept(t *testing.T) {
	p := shop(t, "2026-02-06")
	var r plan.RunUp
	week := m{"person": "pip", "days": 0b0010101, "from_min": 600, "to_min": 900, "late_min": 900, "crafts": []string{}} // Monday, Wednesday, Friday
	p.As["pip"].Yes("PUT", "/api/plan/week", week, &r)
	n := 0
	for _, b := range r.Bars {
		if b.Lane != "pip" {
			continue
		}
		n++
		assert.Contains(t, []time.Weekday{time.Monday, time.Wednesday, time.Friday}, b.From.Weekday())
		assert.GreaterOrEqual(t, b.From.Hour(), 10)
		assert.LessOrEqual(t, b.To.Sub(b.To.Truncate(24*time.Hour)).Hours(), 15.0)
	}
	assert.Positive(t, n)
	assert.Equal(t, http.StatusForbidden, p.As["pip"].No("PUT", "/api/plan/week", m{"person": "ivo", "days": 1, "from_min": 1, "to_min": 2, "late_min": 3, "crafts": []string{}}).Status)
	// Who only finishes is at no mould and no pour.
	week["crafts"] = []string{"finish"}
	p.As["pip"].Yes("PUT", "/api/plan/week", week, &r)
	n = 0
	for _, b := range r.Bars {
		if b.Lane == "pip" {
			n++
			assert.Contains(t, b.Text, "finish")
		}
	}
	assert.Positive(t, n)
	bad2 := m{}
	for k, v := range week {
		bad2[k] = v
	}
	bad2["crafts"] = []string{"alchemy"}
	assert.GreaterOrEqual(t, p.As["pip"].No("PUT", "/api/plan/week", bad2).Status, 400)
	for field, change := range map[string]int{"to_min": 500, "late_min": 800} {
		bad := m{}
		for k, v := range week {
			bad[k] = v
		}
		bad[field] = change
		assert.Equal(t, field, p.As["pip"].No("PUT", "/api/plan/week", bad).Field)
	}
	assert.Equal(t, "person", p.As["maud"].No("PUT", "/api/plan/week", m{"person": "nobody", "days": 1, "from_min": 1, "to_min": 2, "late_min": 3, "crafts": []string{}}).Field)
}

type weather device.Weather

func (w weather) Of(string, time.Time) (device.Weather, error) { return device.Weather(w), nil }

// What is not begun waits in the room with the weather of the days to come: wetter outside, longer waits; without a forecast, in the
// air of now.
func TestWaitsFollowTheWeatherToCome(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	p := planned{b, nil}
	code := b.By("latex_slush", "GC", "nose", 3)
	b.DayOf(code, "2026-02-06")
	now := p.runUp()
	assert.False(t, now.Air.Forecast, "nobody tells the weather here")
	waits := func(r plan.RunUp) (h float64) {
		bars := slices.DeleteFunc(slices.Clone(r.Bars), func(b plan.Bar) bool { return b.Piece != code || strings.Contains(b.Lane, "/") })
		slices.SortFunc(bars, func(a, b plan.Bar) int { return a.From.Compare(b.From) })
		return bars[len(bars)-1].To.Sub(bars[0].From).Hours()
	}
	at := func(w weather) plan.RunUp {
		b.S.Plan.Weather = w
		b.Clock.Set(b.S.Clock.Now().Add(time.Minute))
		return p.runUp()
	}
	dry, wet := at(weather{TempC: -5, RH: 0.6}), at(weather{TempC: 19, RH: 0.95})
	assert.True(t, dry.Air.Forecast)
	assert.Less(t, dry.Air.RH, wet.Air.RH)
	assert.Less(t, waits(dry), waits(wet))
}
