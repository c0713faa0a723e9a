package shop

import (
	"bytes"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/mould"
)

// stone registers a wet stone mould that comes to a dry mass in theory.
func (b *bench) stone(code string, dryKG float64) string {
	b.t.Helper()
	var list []mould.Mould
	b.as["ivo"].yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": mouldmath.Block, "material": mouldmath.HardStone, "state": "wet", "release_agent": "wax", "separator": "soap", "parts": 2, "place": "rack 1", "life": 4, "dry_kg": dryKG, "made_on": "2026-01-12"}, &list)
	return list[len(list)-1].Code
}

func (b *bench) weighMould(code string, kg float64) mould.Detail {
	b.t.Helper()
	var d mould.Detail
	b.as["ivo"].yes("POST", "/api/moulds/weighings", m{"code": code, "kg": kg, "source": "typed", "key": uuid.NewString()}, &d)
	return d
}

func (b *bench) mould(code string) mould.Detail {
	b.t.Helper()
	var d mould.Detail
	b.as["ivo"].yes("GET", "/api/moulds/one?code="+url.QueryEscape(code), nil, &d)
	return d
}

func (b *bench) mouldPot(code string) *build.Pot {
	b.t.Helper()
	pots, err := b.s.Build.Shelf(b.t.Context())
	require.NoError(b.t, err)
	for _, p := range pots {
		if p.Label == code {
			return &p
		}
	}
	return nil
}

// A mould is weighed dry: it sets, dries along its curve, is held back from the
// oven, and is let go when both conditions of dry hold.
func TestAMouldIsWeighedDry(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	name := b.stone(code, 4.6)
	p := b.mouldPot(name)
	require.NotNil(t, p)
	assert.Equal(t, "setting", p.Words)
	assert.Equal(t, "It has not set yet.", p.HeldBack)
	b.clock.Set(monday.Add(2 * time.Hour))
	p = b.mouldPot(name)
	assert.Equal(t, "weigh it", p.Left)
	d := b.mould(name)
	assert.Equal(t, "gently", d.Drying.Oven.May)
	assert.Contains(t, d.Drying.Oven.Reason, "MLD-1")
	assert.Contains(t, d.Drying.Says, "Not weighed yet")

	status, tag := b.file("ivo", "/api/moulds/label.pdf?code="+url.QueryEscape(name))
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "%PDF", string(tag[:4]))

	// The course of a real one: 4.62 kg and a time constant of three days.
	at := func(day float64) float64 { return 4.62 + 1.48*math.Exp(-day/3) }
	last := 0.0
	for day := range 22 {
		b.clock.Set(monday.Add(time.Duration(2+24*day) * time.Hour))
		if day == 1 {
			assert.Contains(t, b.tasks(), "Weigh the mould "+name, "nobody did today")
		}
		d = b.weighMould(name, math.Round(1000*at(float64(day)))/1000)
		if day == 0 {
			assert.Equal(t, "drying", d.State)
			assert.Nil(t, d.Drying.Curve)
		}
		if day >= 2 && d.Drying.Curve.State == "drying" {
			assert.Equal(t, "gently", d.Drying.Oven.May, "day %d", day)
			p = b.mouldPot(name)
			assert.Greater(t, p.Fill, last, "the pot rises")
			last = p.Fill
		}
	}
	require.NotNil(t, d.Drying.Curve)
	assert.InDelta(t, 4.62, d.Drying.Curve.InfKG, 0.01)
	assert.Equal(t, "dry", d.Drying.Curve.State)
	assert.Equal(t, "yes", d.Drying.Oven.May)
	assert.NotEmpty(t, d.Drying.Line)
	assert.Equal(t, "ready", b.mouldPot(name).State)
	assert.Contains(t, b.tasks(), name+" is dry")
	assert.NotContains(t, b.tasks(), "Weigh the mould "+name)
	assert.Equal(t, "mould", b.as["ivo"].no("POST", fmt.Sprintf("/api/pots/%d/out", b.mouldPot(name).ID), m{"reason": "now"}).Code)
	b.as["ivo"].yes("POST", "/api/moulds/state", m{"code": name, "state": "dry"}, nil)
	assert.Nil(t, b.mouldPot(name), "dry, it leaves the shelf")
}

func TestAWeighingIsPutRightNeverErased(t *testing.T) {
	b := newBench(t, nil)
	name := b.stone(b.begun(), 0)
	b.clock.Set(monday.Add(2 * time.Hour))
	d := b.weighMould(name, 6.1)
	assert.Equal(t, "contradiction", b.as["ivo"].no("POST", "/api/moulds/weighings", m{"code": name, "kg": 61, "source": "typed", "key": uuid.NewString()}).Code)
	assert.Equal(t, "out_of_range", b.as["ivo"].no("POST", "/api/moulds/weighings", m{"code": name, "kg": -1, "source": "typed", "key": uuid.NewString()}).Code)
	key := uuid.NewString()
	wrong := d.Drying.Weighings[0].ID
	b.as["maud"].yes("POST", "/api/moulds/weighings", m{"code": name, "kg": 6.01, "source": "typed", "corrects": wrong, "key": key}, &d)
	b.as["maud"].yes("POST", "/api/moulds/weighings", m{"code": name, "kg": 5.9, "source": "typed", "key": uuid.NewString()}, &d)
	require.Len(t, d.Drying.Weighings, 3)
	counts := 0
	for _, w := range d.Drying.Weighings {
		if w.ID == wrong {
			assert.True(t, w.Wrong)
			assert.False(t, w.Counts)
		}
		if w.Counts {
			counts++
		}
	}
	assert.Equal(t, 1, counts, "two at one time are one point; the wrong one is none")
	assert.Equal(t, "corrected", b.as["maud"].no("POST", "/api/moulds/weighings", m{"code": name, "kg": 6, "source": "typed", "corrects": wrong, "key": uuid.NewString()}).Code)
	// Moved to the warm cabinet, a new curve begins.
	for day, kg := range []float64{5.8, 5.7, 5.6} {
		b.clock.Set(monday.Add(time.Duration(24*(day+1)) * time.Hour))
		b.as["ivo"].yes("POST", "/api/moulds/weighings", m{"code": name, "kg": kg, "source": "typed", "place": "warm cabinet", "key": uuid.NewString()}, &d)
	}
	counts = 0
	for _, w := range d.Drying.Weighings {
		if w.Counts {
			counts++
			assert.Equal(t, "warm cabinet", w.Place)
		}
	}
	assert.Equal(t, 3, counts)
}

// Two at the bench write about one mould: the second is told, nothing is lost.
func TestTwoWriteAboutOneMould(t *testing.T) {
	b := newBench(t, nil)
	name := b.stone(b.begun(), 0)
	d := b.mould(name)
	body := m{"code": name, "state": "resting", "release_agent": "wax", "separator": "soap", "place": "shelf", "note": "brow chipped", "life": 10, "version": d.Version}
	b.as["ivo"].yes("PUT", "/api/moulds/one", body, &d)
	assert.Equal(t, "brow chipped", d.Note)
	body["note"] = "other"
	assert.Equal(t, "moved_on", b.as["maud"].no("PUT", "/api/moulds/one", body).Code)
	assert.Equal(t, "brow chipped", b.mould(name).Note)
	assert.Equal(t, "not_found", b.as["maud"].no("PUT", "/api/moulds/one", m{"code": "ZZ-01/M1", "state": "dry", "release_agent": "", "separator": "", "place": "", "note": "", "version": 1}).Code)
}

// What came out with a fault at the same place again is told, with where to look.
func TestWhatRepeatsIsTold(t *testing.T) {
	b := newBench(t, nil)
	name := b.stone(b.begun(), 0)
	note := func(kind, place string) m {
		return m{"code": name, "kind": kind, "place": place, "words": "", "key": uuid.NewString()}
	}
	var d mould.Detail
	b.as["ivo"].yes("POST", "/api/moulds/marks", note("bubble", "Left nostril "), &d)
	assert.Empty(t, d.Repeats)
	twice := note("bubble", "left nostril")
	b.as["ivo"].yes("POST", "/api/moulds/marks", twice, nil)
	b.as["ivo"].yes("POST", "/api/moulds/marks", twice, &d)
	require.Len(t, d.Repeats, 1)
	assert.Equal(t, 2, d.Repeats[0].Times, "sent again it is written once")
	assert.Contains(t, d.Repeats[0].Likely, "vent")
	b.as["ivo"].yes("POST", "/api/moulds/marks", note("clean", ""), &d)
	assert.Equal(t, "missing", b.as["ivo"].no("POST", "/api/moulds/marks", note("tear", " ")).Code)
	// It stands where the mould is chosen for the next pour, and a copy of it
	// knows where it came out.
	b.stocked()
	var v mix.View
	b.as["ivo"].yes("POST", "/api/mixes", order(d.Piece, nil), &v)
	at := slices.IndexFunc(v.Moulds, func(k mix.Mould) bool { return k.Code == name })
	assert.Equal(t, "bubble, left nostril", v.Moulds[at].Again)
	b.as["ivo"].yes("POST", "/api/moulds/state", m{"code": name, "state": "dry"}, nil)
	var c finish.Copy
	b.as["ivo"].yes("GET", "/api/copies/"+b.poured(d.Piece, name)[0], nil, &c)
	assert.Equal(t, name, c.Mould)
	came := note("tear", "lower edge")
	came["copy"] = c.Code
	b.as["ivo"].yes("POST", "/api/moulds/marks", came, &d)
	assert.Equal(t, c.Code, *d.Marks[0].Copy)
	bad := note("tear", "edge")
	bad["copy"] = "ZZ-01-a"
	assert.Equal(t, "unknown_value", b.as["ivo"].no("POST", "/api/moulds/marks", bad).Code)
}

// The build sheet: from the usual area, then from the scan; ticked, printed, and
// the mould that is built by it.
func TestABuildSheetFromScanToMould(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	path := "/api/pieces/" + code + "/mould-plan"
	var p mould.Plan
	b.as["ivo"].yes("GET", path, nil, &p)
	assert.Zero(t, p.ID)
	assert.False(t, p.Scanned.Known)
	assert.Positive(t, p.Usual.AreaMM2)
	assert.Len(t, p.Kinds, 6)
	status, _ := b.file("ivo", path+".pdf")
	assert.Equal(t, http.StatusConflict, status, "nothing to print yet")

	out := b.scanned(code, "cap_core.ply", "cap_sculpt.stl")
	b.as["ivo"].yes("GET", path, nil, &p)
	require.True(t, p.Scanned.Known)
	assert.InEpsilon(t, out.Scans[0].Measured.Around.AreaMM2, p.Scanned.Body.AreaMM2, 1e-9)
	assert.InEpsilon(t, 16484, p.Scanned.CavityMM3, 0.01)

	order := m{"kind": mouldmath.Glove, "stuff": mouldmath.SiliconeTin, "jacket": mouldmath.Glass, "core": true, "release": "wax", "separator": "soap", "cast": "silicone_addition", "body": p.Scanned.Body}
	var sheet mouldmath.Sheet
	b.as["ivo"].yes("POST", "/api/mould-sheets", order, &sheet)
	assert.Contains(t, sheet.Lines[0].Rule, "offset of the scan")
	bad := m{"kind": "bucket", "stuff": mouldmath.HardStone, "core": false, "body": p.Scanned.Body}
	assert.Equal(t, "kind", b.as["ivo"].no("POST", path, bad).Field)
	b.as["ivo"].yes("POST", path, order, &p)
	require.NotZero(t, p.ID)
	tick := func(item string, done bool) {
		b.as["ivo"].yes("POST", path+"/ticks", m{"plan": p.ID, "item": item, "done": done}, &p)
	}
	tick(p.Sheet.Items[0].Key, true)
	tick(p.Sheet.Steps[1].Key, true)
	require.Len(t, p.Ticks, 2)
	tick(p.Sheet.Steps[1].Key, false)
	require.Len(t, p.Ticks, 1)
	assert.Equal(t, "unknown_value", b.as["ivo"].no("POST", path+"/ticks", m{"plan": p.ID, "item": "luck", "done": true}).Code)
	assert.Equal(t, "moved_on", b.as["ivo"].no("POST", path+"/ticks", m{"plan": p.ID + 1, "item": "base", "done": true}).Code)
	status, pdf := b.file("ivo", path+".pdf")
	require.Equal(t, http.StatusOK, status)
	assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF")))

	var list []mould.Mould
	b.as["ivo"].yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": p.Sheet.Order.Kind, "material": p.Sheet.Order.Stuff, "state": "wet", "plan": p.ID, "made_on": "2026-01-12"}, &list)
	plan := p.ID
	p = mould.Plan{}
	b.as["ivo"].yes("GET", path, nil, &p)
	assert.Zero(t, p.ID, "the sheet was used; the next one begins anew")
	built := b.mould(list[len(list)-1].Code)
	require.NotNil(t, built.PlanID)
	assert.Equal(t, plan, *built.PlanID)
	assert.False(t, built.Dries)
	assert.Equal(t, "yes", built.Drying.Oven.May, "silicone holds no water")
	assert.Equal(t, "unknown_value", b.as["ivo"].no("POST", "/api/pieces/"+code+"/moulds", m{"kind": "x", "material": "y", "state": "wet", "plan": plan + 99, "made_on": "2026-01-12"}).Code)
	b.clock.Set(monday.Add(30 * time.Hour))
	assert.Equal(t, "open it now", b.mouldPot(built.Code).Left)
}

// A mould near its life and one that is called dry too soon are told.
func TestTheRulesOfAMouldInTheShop(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	name := b.stone(code, 4.6)
	b.clock.Set(monday.Add(2 * time.Hour))
	b.weighMould(name, 6.1)
	b.clock.Set(monday.Add(26 * time.Hour))
	b.weighMould(name, 5.7)
	b.clock.Set(monday.Add(50 * time.Hour))
	b.weighMould(name, 5.41)
	b.as["ivo"].yes("POST", "/api/moulds/state", m{"code": name, "state": "dry"}, nil)
	ids := map[string]bool{}
	for _, f := range b.mould(name).Findings {
		ids[f.ID] = true
	}
	assert.True(t, ids["MLD-1"], "it is called dry and is not")
	assert.False(t, ids["MLD-3"])
	d := b.mould(name)
	b.as["ivo"].yes("PUT", "/api/moulds/one", m{"code": name, "state": "drying", "release_agent": "wax", "separator": "soap", "place": "rack", "note": "", "life": 2, "version": d.Version}, &d)
	ids = map[string]bool{}
	for _, f := range d.Findings {
		ids[f.ID] = true
	}
	assert.True(t, ids["MLD-3"])
	assert.False(t, ids["MLD-1"])
}
