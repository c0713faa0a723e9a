package build_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
)

// How a copy came out is told to whoever demoulds the next: faults by their place on the
// section, the weight, and that it was early.
func TestHowACopyCameOutIsToldToTheNext(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.Poured(code)
	after(b, 30*time.Minute)
	pot := shelf(b).Pots[0]
	at := "/api/pots/" + itoa(pot.ID) + "/out"
	var around build.ComesOut
	b.As["pip"].Yes("GET", at, nil, &around)
	require.NotEmpty(t, around.Zones)
	assert.Empty(t, around.Last)
	bad := b.As["ivo"].No("POST", at, m{"reason": "the van waits", "faults": []m{{"kind": "tear", "zone": "on the moon"}}})
	assert.Equal(t, "faults[0].zone", bad.Field)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM pot WHERE ended_at IS NULL`), "nothing was recorded")
	assert.NotEmpty(t, b.As["ivo"].No("POST", at, m{"reason": "x", "weight_g": -4}).Field)
	zone := around.Zones[len(around.Zones)-1]
	b.As["ivo"].Yes("POST", at, m{"reason": "the van waits", "weight_g": 38.4,
		"faults": []m{{"kind": "tear", "zone": zone, "words": "a nick"}}}, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE words LIKE '%Weighs 38.4 g. Tear at the %'`))

	b.Poured(code)
	b.As["pip"].Yes("GET", "/api/pots/"+itoa(shelf(b).Pots[0].ID)+"/out", nil, &around)
	require.Len(t, around.Last, 1)
	assert.Equal(t, []build.Fault{{Kind: "tear", Zone: zone, Words: "a nick"}}, around.Last[0].Faults)
	assert.Greater(t, around.Last[0].Early, 0.0)
	assert.InDelta(t, 38.4, around.Last[0].WeightG, 1e-9)
}

// How a mould stood as it was poured into is kept with the run; a release that is still wet
// is not poured on without a word.
func TestHowAMouldStoodIsKept(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.IsIn(&v)
	}
	at := "/api/mixes/" + v.Code + "/pour"
	assert.Equal(t, "release_wet", b.As["pip"].No("POST", at, m{"moulds": []string{""}, "release_wet": true}).Field)
	assert.NotEmpty(t, b.As["pip"].No("POST", at, m{"moulds": []string{""}, "mould_c": 900}).Field)
	b.As["pip"].Yes("POST", at, m{"moulds": []string{""}, "mould_c": 27.5, "place": "bench 2", "release_wet": true,
		"reason": "the van waits"}, nil)
	assert.Equal(t, "bench 2", b.Run("R-0001").Place)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'poured' AND words LIKE '%Mould at 28 °C. The release was still wet. bench 2'`))
}

// A coat dries as thick as it really went on, by the gauge or by what it took; what cannot
// be is refused at its field.
func TestACoatDriesAsItWentOn(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	coat := func(character string, more m) build.Pot {
		r := b.Begin(b.By("latex_slush", character, "nose", 3), 1)
		b.Done("ivo", r.Code, 1, more)
		return potOf(b, r.Code)
	}
	plan := coat("NA", m{})
	r := b.Begin(b.By("latex_slush", "NB", "nose", 3), 1)
	at := "/api/runs/" + r.Code + "/stages/1"
	assert.Equal(t, "wet_mm", b.As["ivo"].No("POST", at, m{"wet_mm": 3000}).Field, "3 m thick")
	assert.Equal(t, "used_g", b.As["ivo"].No("POST", at, m{"used_g": 50 * r.Stages[0].Grams}).Field)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM run_stage t JOIN run r ON r.id = t.run_id WHERE r.code = ? AND t.done_at IS NOT NULL`, r.Code))
	thick := coat("NC", m{"wet_mm": 2 * 1000 * r.Stages[0].Wet.WetM})
	assert.Greater(t, thick.LeftS, 1.5*plan.LeftS)
	took := coat("ND", m{"used_g": 2 * r.Stages[0].Grams})
	assert.InEpsilon(t, thick.LeftS, took.LeftS, 0.05, "twice the grams are twice as thick")
	coats, _ := builtUp(b, took.Run)
	assert.InDelta(t, 2000*r.Stages[0].Wet.WetM, coats[0].HighMM, 0.05)
	foam := b.Begin(b.By("foam_latex", "NE", "nose", 6), 1)
	assert.Equal(t, "wet_mm", b.As["ivo"].No("POST", "/api/runs/"+foam.Code+"/stages/1", m{"wet_mm": 1}).Field)
}

// Latex paste is half dry between touch-dry and dry: its window to pull texture up shuts;
// a burst in the microwave is noted off the wearer only.
func TestPasteHasItsWindow(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	r := b.Begin(b.By("latex_paste", "NA", "forearm", 3), 1)
	for r.Next != 0 && r.Stages[r.Next-1].Material != "latex-paste" {
		after(b, 4*time.Hour)
		r = b.Done("ivo", r.Code, r.Next, m{"reason": "dry"})
	}
	r = b.Done("ivo", r.Code, r.Next, m{})
	pot := potOf(b, r.Code)
	require.NotNil(t, pot.TooLateAt)
	assert.Contains(t, pot.Words, "half dry in")
	at := "/api/pots/" + itoa(pot.ID)
	var ways []build.Help
	b.As["pip"].Yes("GET", at+"/help", nil, &ways)
	burst := ways[len(ways)-1]
	assert.True(t, burst.Untold && burst.Preset == "microwave")
	assert.Contains(t, burst.Limit, "never sealed, never with metal")
	assert.NotEmpty(t, b.As["pip"].No("POST", at+"/burst", m{"seconds": 300}).Field)
	b.As["pip"].Yes("POST", at+"/burst", m{"seconds": 10}, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'warmed'`))
	assert.Equal(t, "seconds", b.As["pip"].No("POST", "/api/pots/"+itoa(potOf(b, latexRun(b, "NB").Code).ID)+"/burst",
		m{"seconds": 10}).Field)
	for i := 0; i < 60 && pot.Words != "half dry: pull its texture up now"; i++ {
		after(b, 20*time.Minute)
		pot = potOf(b, r.Code)
	}
	assert.Equal(t, "half dry: pull its texture up now", pot.Words)
	after(b, 40*time.Hour)
	assert.True(t, potOf(b, r.Code).Past)
}
