package mould_test

import (
	"bytes"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"testing"
	"time"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/mould"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

// A mould is weighed dry: it sets, dries along its curve, is held back from the
// oven, and is let go when both conditions of dry hold.
func TestAMouldIsWeighedDry(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	name := b.Stone(code, 4.6)
	p := b.MouldPot(name)
	require.NotNil(t, p)
	assert.Equal(t, "setting", p.Words)
	assert.Equal(t, "It has not set yet.", p.HeldBack)
	b.Clock.Set(shoptest.Monday.Add(2 * time.Hour))
	p = b.MouldPot(name)
	assert.Equal(t, "weigh it", p.Left)
	d := b.Mould(name)
	assert.Equal(t, "gently", d.Drying.Oven.May)
	assert.Contains(t, d.Drying.Oven.Reason, "MLD-1")
	assert.Contains(t, d.Drying.Says, "Not weighed yet")

	status, tag := b.File("ivo", "/api/moulds/label.pdf?code="+url.QueryEscape(name))
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "%PDF", string(tag[:4]))

	// The course of a real one: 4.62 kg and a time constant of three days.
	at := func(day float64) float64 { return 4.62 + 1.48*math.Exp(-day/3) }
	last := 0.0
	for day := range 22 {
		b.Clock.Set(shoptest.Monday.Add(time.Duration(2+24*day) * time.Hour))
		if day == 1 {
			assert.Contains(t, b.Tasks(), "Weigh the mould "+name, "nobody did today")
		}
		d = b.WeighMould(name, math.Round(1000*at(float64(day)))/1000)
		if day == 0 {
			assert.Equal(t, "drying", d.State)
			assert.Nil(t, d.Drying.Curve)
		}
		if day >= 2 && d.Drying.Curve.State == "drying" {
			assert.Equal(t, "gently", d.Drying.Oven.May, "day %d", day)
			p = b.MouldPot(name)
			assert.Greater(t, p.Fill, last, "the pot rises")
			last = p.Fill
		}
	}
	require.NotNil(t, d.Drying.Curve)
	assert.InDelta(t, 4.62, d.Drying.Curve.InfKG, 0.01)
	assert.Equal(t, "dry", d.Drying.Curve.State)
	assert.Equal(t, "yes", d.Drying.Oven.May)
	assert.NotEmpty(t, d.Drying.Line)
	assert.Equal(t, "ready", b.MouldPot(name).State)
	assert.Contains(t, b.Tasks(), name+" is dry")
	assert.NotContains(t, b.Tasks(), "Weigh the mould "+name)
	assert.Equal(t, "mould", b.As["ivo"].No("POST", fmt.Sprintf("/api/pots/%d/out", b.MouldPot(name).ID), m{"reason": "now"}).Code)
	b.As["ivo"].Yes("POST", "/api/moulds/state", m{"code": name, "state": "dry"}, nil)
	assert.Nil(t, b.MouldPot(name), "dry, it leaves the shelf")
}

func TestAWeighingIsPutRightNeverErased(t *testing.T) {
	b := shoptest.New(t, nil)
	name := b.Stone(b.Begun(), 0)
	b.Clock.Set(shoptest.Monday.Add(2 * time.Hour))
	d := b.WeighMould(name, 6.1)
	assert.Equal(t, "contradiction", b.As["ivo"].No("POST", "/api/moulds/weighings", m{"code": name, "kg": 61, "source": "typed", "key": uuid.NewString()}).Code)
	assert.Equal(t, "out_of_range", b.As["ivo"].No("POST", "/api/moulds/weighings", m{"code": name, "kg": -1, "source": "typed", "key": uuid.NewString()}).Code)
	key := uuid.NewString()
	wrong := d.Drying.Weighings[0].ID
	b.As["maud"].Yes("POST", "/api/moulds/weighings", m{"code": name, "kg": 6.01, "source": "typed", "corrects": wrong, "key": key}, &d)
	b.As["maud"].Yes("POST", "/api/moulds/weighings", m{"code": name, "kg": 5.9, "source": "typed", "key": uuid.NewString()}, &d)
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
	assert.Equal(t, "corrected", b.As["maud"].No("POST", "/api/moulds/weighings", m{"code": name, "kg": 6, "source": "typed", "corrects": wrong, "key": uuid.NewString()}).Code)
	// Moved to the warm cabinet, a new curve begins.
	for day, kg := range []float64{5.8, 5.7, 5.6} {
		b.Clock.Set(shoptest.Monday.Add(time.Duration(24*(day+1)) * time.Hour))
		b.As["ivo"].Yes("POST", "/api/moulds/weighings", m{"code": name, "kg": kg, "source": "typed", "place": "warm cabinet", "key": uuid.NewString()}, &d)
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
	b := shoptest.New(t, nil)
	name := b.Stone(b.Begun(), 0)
	d := b.Mould(name)
	body := m{"code": name, "state": "resting", "release_agent": "wax", "separator": "soap", "place": "shelf", "note": "brow chipped", "life": 10, "version": d.Version}
	b.As["ivo"].Yes("PUT", "/api/moulds/one", body, &d)
	assert.Equal(t, "brow chipped", d.Note)
	body["note"] = "other"
	assert.Equal(t, "moved_on", b.As["maud"].No("PUT", "/api/moulds/one", body).Code)
	assert.Equal(t, "brow chipped", b.Mould(name).Note)
	assert.Equal(t, "not_found", b.As["maud"].No("PUT", "/api/moulds/one", m{"code": "ZZ-01/M1", "state": "dry", "release_agent": "", "separator": "", "place": "", "note": "", "version": 1}).Code)
}

// What came out with a fault at the same place again is told, with where to look.
func TestWhatRepeatsIsTold(t *testing.T) {
	b := shoptest.New(t, nil)
	name := b.Stone(b.Begun(), 0)
	note := func(kind, place string) m {
		return m{"code": name, "kind": kind, "place": place, "words": "", "key": uuid.NewString()}
	}
	var d mould.Detail
	b.As["ivo"].Yes("POST", "/api/moulds/marks", note("bubble", "Left nostril "), &d)
	assert.Empty(t, d.Repeats)
	twice := note("bubble", "left nostril")
	b.As["ivo"].Yes("POST", "/api/moulds/marks", twice, nil)
	b.As["ivo"].Yes("POST", "/api/moulds/marks", twice, &d)
	require.Len(t, d.Repeats, 1)
	assert.Equal(t, 2, d.Repeats[0].Times, "sent again it is written once")
	assert.Contains(t, d.Repeats[0].Likely, "vent")
	b.As["ivo"].Yes("POST", "/api/moulds/marks", note("clean", ""), &d)
	assert.Equal(t, "missing", b.As["ivo"].No("POST", "/api/moulds/marks", note("tear", " ")).Code)
	// It stands where the mould is chosen for the next pour, and a copy of it
	// knows where it came out.
	b.Stocked()
	var v mix.View
	b.As["ivo"].Yes("POST", "/api/mixes", shoptest.Order(d.Piece, nil), &v)
	at := slices.IndexFunc(v.Moulds, func(k mix.Mould) bool { return k.Code == name })
	assert.Equal(t, "bubble, left nostril", v.Moulds[at].Again)
	b.As["ivo"].Yes("POST", "/api/moulds/state", m{"code": name, "state": "dry"}, nil)
	var c finish.Copy
	b.As["ivo"].Yes("GET", "/api/copies/"+b.Poured(d.Piece, name)[0], nil, &c)
	assert.Equal(t, name, c.Mould)
	came := note("tear", "lower edge")
	came["copy"] = c.Code
	b.As["ivo"].Yes("POST", "/api/moulds/marks", came, &d)
	assert.Equal(t, c.Code, *d.Marks[0].Copy)
	bad := note("tear", "edge")
	bad["copy"] = "ZZ-01-a"
	assert.Equal(t, "unknown_value", b.As["ivo"].No("POST", "/api/moulds/marks", bad).Code)
}

// The build sheet: from the usual area, then from the scan; ticked, printed, and
// the mould that is built by it.
func TestABuildSheetFromScanToMould(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	path := "/api/pieces/" + code + "/mould-plan"
	var p mould.Plan
	b.As["ivo"].Yes("GET", path, nil, &p)
	assert.Zero(t, p.ID)
	assert.False(t, p.Scanned.Known)
	assert.Positive(t, p.Usual.AreaMM2)
	assert.Len(t, p.Kinds, 6)
	status, _ := b.File("ivo", path+".pdf")
	assert.Equal(t, http.StatusConflict, status, "nothing to print yet")

	out := b.Scanned(code, "cap_core.ply", "cap_sculpt.stl")
	b.As["ivo"].Yes("GET", path, nil, &p)
	require.True(t, p.Scanned.Known)
	assert.InEpsilon(t, out.Scans[0].Measured.Around.AreaMM2, p.Scanned.Body.AreaMM2, 1e-9)
	assert.InEpsilon(t, 16484, p.Scanned.CavityMM3, 0.01)

	order := m{"kind": mouldmath.Glove, "stuff": mouldmath.SiliconeTin, "jacket": mouldmath.Glass, "core": true, "release": "wax", "separator": "soap", "cast": "silicone_addition", "body": p.Scanned.Body}
	var sheet mouldmath.Sheet
	b.As["ivo"].Yes("POST", "/api/mould-sheets", order, &sheet)
	assert.Contains(t, sheet.Lines[0].Rule, "offset of the scan")
	bad := m{"kind": "bucket", "stuff": mouldmath.HardStone, "core": false, "body": p.Scanned.Body}
	assert.Equal(t, "kind", b.As["ivo"].No("POST", path, bad).Field)
	b.As["ivo"].Yes("POST", path, order, &p)
	require.NotZero(t, p.ID)
	tick := func(item string, done bool) {
		b.As["ivo"].Yes("POST", path+"/ticks", m{"plan": p.ID, "item": item, "done": done}, &p)
	}
	tick(p.Sheet.Items[0].Key, true)
	tick(p.Sheet.Steps[1].Key, true)
	require.Len(t, p.Ticks, 2)
	tick(p.Sheet.Steps[1].Key, false)
	require.Len(t, p.Ticks, 1)
	assert.Equal(t, "unknown_value", b.As["ivo"].No("POST", path+"/ticks", m{"plan": p.ID, "item": "luck", "done": true}).Code)
	assert.Equal(t, "moved_on", b.As["ivo"].No("POST", path+"/ticks", m{"plan": p.ID + 1, "item": "base", "done": true}).Code)
	status, pdf := b.File("ivo", path+".pdf")
	require.Equal(t, http.StatusOK, status)
	assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF")))

	var list []mould.Mould
	b.As["ivo"].Because("no texture on this one").Yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": p.Sheet.Order.Kind, "material": p.Sheet.Order.Stuff, "state": "wet", "plan": p.ID, "made_on": "2026-01-12"}, &list)
	plan := p.ID
	p = mould.Plan{}
	b.As["ivo"].Yes("GET", path, nil, &p)
	assert.Zero(t, p.ID, "the sheet was used; the next one begins anew")
	built := b.Mould(list[len(list)-1].Code)
	require.NotNil(t, built.PlanID)
	assert.Equal(t, plan, *built.PlanID)
	assert.False(t, built.Dries)
	assert.Equal(t, "yes", built.Drying.Oven.May, "silicone holds no water")
	assert.Equal(t, "unknown_value", b.As["ivo"].No("POST", "/api/pieces/"+code+"/moulds", m{"kind": "x", "material": "y", "state": "wet", "plan": plan + 99, "made_on": "2026-01-12"}).Code)
	b.Clock.Set(shoptest.Monday.Add(30 * time.Hour))
	assert.Equal(t, "open it now", b.MouldPot(built.Code).Left)
}

// A mould near its life and one that is called dry too soon are told.
func TestTheRulesOfAMouldInTheShop(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	name := b.Stone(code, 4.6)
	b.Clock.Set(shoptest.Monday.Add(2 * time.Hour))
	b.WeighMould(name, 6.1)
	b.Clock.Set(shoptest.Monday.Add(26 * time.Hour))
	b.WeighMould(name, 5.7)
	b.Clock.Set(shoptest.Monday.Add(50 * time.Hour))
	b.WeighMould(name, 5.41)
	b.As["ivo"].Yes("POST", "/api/moulds/state", m{"code": name, "state": "dry"}, nil)
	ids := map[string]bool{}
	for _, f := range b.Mould(name).Findings {
		ids[f.ID] = true
	}
	assert.True(t, ids["MLD-1"], "it is called dry and is not")
	assert.False(t, ids["MLD-3"])
	d := b.Mould(name)
	b.As["ivo"].Yes("PUT", "/api/moulds/one", m{"code": name, "state": "drying", "release_agent": "wax", "separator": "soap", "place": "rack", "note": "", "life": 2, "version": d.Version}, &d)
	ids = map[string]bool{}
	for _, f := range d.Findings {
		ids[f.ID] = true
	}
	assert.True(t, ids["MLD-3"])
	assert.False(t, ids["MLD-1"])
}
