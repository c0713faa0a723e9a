package shop_test

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/handover"
)

// Every act that puts something somewhere asks the rule book, and what somebody
// goes on against is kept with the act.

func TestTwoCoatsInOneBreathAreAskedAbout(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	r := b.Begin(code, 1)
	second := slices.IndexFunc(r.Stages, func(s build.Stage) bool { return s.Coat == 2 })
	require.Positive(t, second)
	for n := 1; n < second; n++ {
		b.As["ivo"].Because("told late").Yes("POST", fmt.Sprintf("/api/runs/%s/stages/%d", r.Code, n), m{"reason": "dry"}, nil)
	}
	at := func(n int) string { return fmt.Sprintf("/api/runs/%s/stages/%d", r.Code, n) }
	b.As["ivo"].Yes("POST", at(second), m{"reason": "dry"}, nil)
	b.Clock.Set(b.Clock.Now().Add(400 * time.Millisecond))
	assert.Equal(t, "held_back", b.As["ivo"].No("POST", at(second+1), m{}).Code)
	no := b.As["ivo"].No("POST", at(second+1), m{"reason": "the dryer was on it"})
	assert.Equal(t, "say_why", no.Code, "no reason for being early makes a hand that quick")
	assert.Contains(t, no.Detail, "SEQ-1")
	assert.Nil(t, b.Run(r.Code).Stages[second].DoneAt)
	b.As["ivo"].Because("both were on; noted late").Yes("POST", at(second+1), m{"reason": "dried"}, nil)
	assert.NotNil(t, b.Run(r.Code).Stages[second].DoneAt)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM gone_on WHERE kind = 'run' AND rule = 'SEQ-1' AND reason = 'both were on; noted late'`))
}

func TestATouchUpColourIsAskedAboutItsGround(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	doc := shoptest.Plain()
	top := doc.Layers[len(doc.Layers)-1]
	doc.Layers = append(doc.Layers[:len(doc.Layers)-1:len(doc.Layers)-1], top)
	for _, id := range []string{"cream", "set"} {
		l := top
		l.ID, l.Kind, l.Material, l.Coats, l.CoatMM, l.CentreMM, l.EdgeMM, l.Fit = id, "paint", "paint-cream", 1, 0.02, 0, 0, ""
		if id == "set" {
			l.Kind, l.Material = "powder", "powder-translucent"
		}
		doc.Layers = append(doc.Layers, l)
	}
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": doc, "base": 1, "step": 0}, nil)
	b.As["maud"].Because("a test").Yes("POST", "/api/pieces/"+code+"/section/agree", m{}, nil)
	red := m{"name": "flush", "material": "paint-water", "place": "cheek", "l": 50, "a": 30, "b": 20}
	no := b.As["ivo"].No("PUT", "/api/pieces/"+code+"/touch-ups", red)
	assert.Equal(t, "say_why", no.Code)
	assert.Contains(t, no.Detail, "MED-1")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM touch_up`))
	red["material"] = "paint-cream"
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/touch-ups", red, nil)
	red["material"] = "paint-water"
	b.As["ivo"].Because("a dry brush only").Yes("PUT", "/api/pieces/"+code+"/touch-ups", red, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'gone on with a reason' AND words = 'MED-1: a dry brush only'`))
}

func TestAMouldIsNotRegisteredPastTheGate(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	mould := m{"kind": "two-part block", "material": "dental stone", "state": "dry", "made_on": "2026-01-05"}
	no := b.As["ivo"].No("POST", "/api/pieces/"+code+"/moulds", mould)
	assert.Equal(t, "say_why", no.Code, "nobody planned a texture and nobody looked at the sculpt")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM mould`))
	b.As["ivo"].Because("a plain tail, no texture").Yes("POST", "/api/pieces/"+code+"/moulds", mould, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM gone_on WHERE rule = 'SEQ-12'`))
}

// A lead may go on against a stop with a reason, nobody else; a never goes on
// for nobody. What is said of a person's health is not in the record.
func TestWhoMayGoOnAgainstWhat(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("stretch_stipple", "NM", "hand_back", 1)
	r := b.Begin(code, 1)
	at := fmt.Sprintf("/api/performers/%d/health", b.Wearer(code))
	b.As["maud"].Yes("POST", at, m{"substance": "latex", "status": "sensitive"}, nil)
	first := "/api/runs/" + r.Code + "/stages/1"
	assert.Equal(t, "rule", b.As["ivo"].Because("asked them").No("POST", first, m{}).Code)
	assert.Equal(t, "say_why", b.As["maud"].No("POST", first, m{}).Code)
	b.As["maud"].Yes("POST", at, m{"substance": "latex", "status": "allergic"}, nil)
	no := b.As["maud"].Because("they want it").No("POST", first, m{})
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "Nobody can sign this away")
	b.As["maud"].Yes("POST", at, m{"substance": "latex", "status": "sensitive"}, nil)
	b.As["maud"].Because("their physician says it is the ammonia").Yes("POST", first, m{}, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM gone_on WHERE rule = 'SAF-1' AND reason LIKE '%ammonia%'`))
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM journal WHERE words LIKE '%ammonia%' OR data LIKE '%ammonia%' OR words LIKE '%SAF-1%'`))
	// Asked once a run, not at its every coat.
	before := b.Count(`SELECT COUNT(*) FROM gone_on`)
	b.Clock.Set(b.Clock.Now().Add(3 * time.Hour))
	b.As["maud"].Yes("POST", "/api/runs/"+r.Code+"/stages/2", m{}, nil)
	assert.Equal(t, before, b.Count(`SELECT COUNT(*) FROM gone_on`))
}

func TestAReasonThatCannotBeWrittenIsRefused(t *testing.T) {
	b := shoptest.New(t, nil)
	for _, why := range []string{"%00", "%zz", "%ff%fe", url.PathEscape(string(make([]byte, 400)))} {
		p := *b.As["ivo"]
		p.Headers = map[string]string{"Because": why}
		assert.Equal(t, "because", p.No("POST", "/api/steps", m{"piece": "", "words": "x", "key": shoptest.Key()}).Field, why)
	}
}

// The sheet of a kit names every lot that goes with it, what nobody named a lot of,
// and what was gone on against on the way.
func TestASheetNamesItsLotsAndWhatWasGoneOnAgainst(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("latex_slush", "NZ", "forearm", 3)
	r := b.Begin(code, 1)
	b.As["ivo"].Yes("POST", "/api/me/sensitivities", m{"substance": "ammonia", "status": "sensitive"}, nil)
	require.Equal(t, "say_why", b.As["ivo"].No("POST", "/api/runs/"+r.Code+"/stages/1", m{}).Code)
	b.As["ivo"].Because("the window is open").Yes("POST", "/api/runs/"+r.Code+"/stages/1", m{}, nil)
	b.Through(b.Run(r.Code))
	b.Finished(code + "-a")
	b.As["ivo"].Yes("POST", "/api/copies/"+code+"-a/verdict", m{"verdict": "accept"}, nil)
	var kit handover.Kit
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": b.DayOf(code, "2026-01-23").ID, "artist": "Jun", "copies": []string{code + "-a"}}, &kit)
	var sheet handover.SheetView
	b.As["maud"].Yes("GET", "/api/kits/"+kit.Code+"/sheet", nil, &sheet)
	one := sheet.Copies[0]
	lots := strings.Join(one.Lots, "; ")
	for _, want := range []string{"Latex for slush casting L-latex-slush", "Acrylic adhesive, medical L-adhesive-acrylic", "Ester oil remover L-remover-ester", "Skin barrier film L-barrier-film"} {
		assert.Contains(t, lots, want)
	}
	assert.Contains(t, one.Signed, "MAK-9, ivo: the window is open")
	_, err := b.S.DB.Exec(`DELETE FROM kit_lot`)
	require.NoError(t, err)
	b.As["maud"].Yes("GET", "/api/kits/"+kit.Code+"/sheet", nil, &sheet)
	assert.Contains(t, strings.Join(sheet.Copies[0].Lots, "; "), "Acrylic adhesive, medical (lot not named)", "and none is made up")
}
