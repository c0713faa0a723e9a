package build_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
)

// latexRun is a session of several coats with its first one on.
func latexRun(b *shoptest.Bench, character string) build.Run {
	b.T.Helper()
	r := b.Begin(b.By("build_up_tissue", character, "forearm", 3), 1)
	b.Done("ivo", r.Code, 1, m{}) // the film that keeps the skin
	b.Clock.Set(b.Clock.Now().Add(10 * time.Minute))
	return b.Done("ivo", r.Code, 2, m{})
}

func plansOf(b *shoptest.Bench, run string) map[string]build.CoatPlan {
	b.T.Helper()
	var v build.CoatPlans
	b.As["pip"].Yes("GET", "/api/runs/"+run+"/coats", nil, &v)
	out := map[string]build.CoatPlan{}
	for _, p := range v.Plans {
		require.NotNil(b.T, p.DryAt, p.Plan)
		out[p.Plan] = p
	}
	return out
}

// A coat that goes on too early costs what its plan says: the pot afterwards stands at
// the time that was told before.
func TestACoatPutOnEarlyCostsWhatItsPlanSaid(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := latexRun(b, "NA")
	b.Clock.Set(b.Clock.Now().Add(2 * time.Minute))
	plans := plansOf(b, r.Code)
	assert.True(t, plans["recoat"].DryAt.Before(*plans["now"].DryAt), "waiting is dry sooner")
	assert.True(t, plans["now"].DryAt.Before(*plans["wet_on_wet"].DryAt), "and wet on wet is worst")
	assert.True(t, plans["recoat"].NextAt.After(b.Clock.Now()))
	assert.False(t, plans["now"].NextAt.After(b.Clock.Now()))

	no := b.As["pip"].No("POST", "/api/runs/"+r.Code+"/stages/3", m{"reason": "all the same"})
	assert.Equal(t, "held_back", no.Code)
	// All of them wet on wet, as the plan has it, three minutes apart.
	told := *plans["wet_on_wet"].DryAt
	for i := 2; i < len(r.Stages) && r.Stages[i].Wet != nil; i++ {
		r = b.Done("ivo", r.Code, r.Stages[i].Seq, m{"reason": "the camera waits"})
		if i+1 < len(r.Stages) && r.Stages[i+1].Wet != nil {
			b.Clock.Set(b.Clock.Now().Add(3 * time.Minute))
		}
	}
	pot := potOf(b, r.Code)
	dry := b.Clock.Now().Add(time.Duration(pot.LeftS * float64(time.Second)))
	assert.WithinDuration(t, told, dry, 20*time.Minute, "the coat waits in the shelf as it was told")

	// The same coats, each put on when the one below takes it, are dry much sooner.
	patient := latexRun(b, "NB")
	begun := b.Clock.Now()
	for i := 2; i < len(patient.Stages) && patient.Stages[i].Wet != nil; i++ {
		p := potOf(b, patient.Code)
		b.Clock.Set(b.Clock.Now().Add(time.Duration((p.RecoatS + 60) * float64(time.Second))))
		patient = b.Done("ivo", patient.Code, patient.Stages[i].Seq, m{})
	}
	last := potOf(b, patient.Code)
	took := b.Clock.Now().Sub(begun).Seconds() + last.LeftS
	assert.Less(t, took, told.Sub(plans["wet_on_wet"].NextAt.Add(-3*time.Minute)).Seconds())
}

func potOf(b *shoptest.Bench, run string) build.Pot {
	b.T.Helper()
	var shelf build.Shelf
	b.As["pip"].Yes("GET", "/api/pots", nil, &shelf)
	for _, p := range shelf.Pots {
		if p.Run == run {
			return p
		}
	}
	b.T.Fatalf("no pot of %s", run)
	return build.Pot{}
}

// A session without a coat to come has no plans; one that does not exist is not found.
func TestWhatHasNoCoatToComeHasNoPlans(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := b.Begin(b.By("gelatin_animal", "NC", "forearm", 3), 1)
	var v build.CoatPlans
	b.As["pip"].Yes("GET", "/api/runs/"+r.Code+"/coats", nil, &v)
	assert.Empty(t, v.Plans)
	assert.Equal(t, 404, b.As["pip"].No("GET", "/api/runs/R-9999/coats", nil).Status)
}

// A fan, a dryer or the warm box saves what it was told to, and what the pot had before
// stays in its course, over the next coat too.
func TestOtherAirHelpsAsItWasTold(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := latexRun(b, "ND")
	b.Clock.Set(b.Clock.Now().Add(time.Minute))
	pot := potOf(b, r.Code)
	at := fmt.Sprintf("/api/pots/%d", pot.ID)
	var ways []build.Help
	b.As["pip"].Yes("GET", at+"/help", nil, &ways)
	by := map[string]build.Help{}
	for _, w := range ways {
		by[w.Preset] = w
	}
	require.Len(t, by, 4, "and no place: it is built on a wearer")
	assert.Contains(t, by["fan"].Limit, "40 °C on the skin")
	now := ""
	for _, w := range ways {
		if w.Now {
			now = w.Preset
			assert.Zero(t, w.SavesS)
		}
	}
	require.Equal(t, "warm_dryer", now, "a wearer's coats are dried before a dryer")
	require.NotNil(t, by["still"].ReadyAt)
	assert.Negative(t, by["still"].SavesS)
	assert.Less(t, by["still"].SavesS, by["fan"].SavesS)

	assert.Equal(t, "preset", b.As["pip"].No("POST", at+"/air", m{"preset": "cabinet"}).Field)
	var moved build.Pot
	b.As["pip"].Yes("POST", at+"/air", m{"preset": "still"}, &moved)
	dry := b.Clock.Now().Add(time.Duration(moved.LeftS * float64(time.Second)))
	assert.WithinDuration(t, *by["still"].ReadyAt, dry, 90*time.Second)
	b.As["pip"].Yes("POST", at+"/air", m{"preset": "still"}, nil)
	b.Clock.Set(b.Clock.Now().Add(20 * time.Minute))
	b.As["pip"].Yes("POST", at+"/observe", m{"stage": "touch"}, nil)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM dry_sign`), "of a coat that stood in two airs nobody knows which was slow")
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'pot' AND act = 'other air' AND words LIKE 'Now left in still air.%'`), "said twice, recorded once")

	// The coat above begins in the air that its section says, and the one below keeps its own.
	b.Clock.Set(b.Clock.Now().Add(2 * time.Hour))
	b.Done("ivo", r.Code, 3, m{})
	next := potOf(b, r.Code)
	assert.NotEqual(t, pot.ID, next.ID)
	var model string
	require.NoError(t, b.S.DB.Get(&model, `SELECT model FROM pot WHERE id = ?`, next.ID))
	assert.Contains(t, model, `"air":[{"at_s"`)
	assert.Equal(t, "ended", b.As["pip"].No("POST", at+"/air", m{"preset": "fan"}).Code)
}

// A finger on the coat moves its own times at once, and the air that it stood in once the
// shop has felt some; it never goes further than a finger can be trusted, and is forgotten
// when a lead or fabricator says so.
func TestASignMovesThePotAndTeachesTheAir(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	slow := func(character string, share float64) build.Pot {
		r := latexRun(b, character)
		before := potOf(b, r.Code)
		touch := before.RecoatS // of the book, a little after touch-dry
		b.Clock.Set(b.Clock.Now().Add(time.Duration(share * touch * float64(time.Second))))
		var seen build.Pot
		b.As["pip"].Yes("POST", fmt.Sprintf("/api/pots/%d/observe", before.ID), m{"stage": "touch"}, &seen)
		return seen
	}
	r := latexRun(b, "NE")
	fresh := potOf(b, r.Code)
	at := fmt.Sprintf("/api/pots/%d/observe", fresh.ID)
	assert.Equal(t, "out_of_range", b.As["pip"].No("POST", at, m{"stage": "dry"}).Code, "no coat is dry the moment it is on")
	assert.Equal(t, "stage", b.As["pip"].No("POST", at, m{"stage": "gel"}).Field)

	late := slow("NF", 2)
	assert.Equal(t, "touch", late.Observed)
	assert.Equal(t, "touch-dry", late.Words)
	assert.Positive(t, late.LeftS, "found tacky that long, it is not dry when the book says")
	require.Contains(t, fmt.Sprint(late.Why), "Somebody found it")
	for _, c := range []string{"NG", "NH", "NI"} {
		slow(c, 2)
	}
	var paces []build.Pace
	b.As["pip"].Yes("GET", "/api/paces", nil, &paces)
	require.Len(t, paces, 1)
	assert.Equal(t, 4, paces[0].N)
	assert.Greater(t, paces[0].Times, 1.2)
	assert.LessOrEqual(t, paces[0].Times, 2.0)
	assert.Less(t, paces[0].Low, paces[0].Times)

	// A new coat in that air is told later than the first one was, and with a narrower band.
	taught := potOf(b, latexRun(b, "NJ").Code)
	assert.Greater(t, taught.RecoatS, fresh.RecoatS*1.1)
	assert.Less(t, (taught.HighS-taught.LowS)/taught.LeftS, (fresh.HighS-fresh.LowS)/fresh.LeftS)

	assert.Equal(t, 403, b.As["pip"].No("POST", "/api/paces/forget", m{"place": paces[0].Place}).Status)
	b.As["ivo"].Yes("POST", "/api/paces/forget", m{"place": paces[0].Place}, &paces)
	assert.Empty(t, paces)
	assert.Equal(t, 404, b.As["ivo"].No("POST", "/api/paces/forget", m{"place": "still/moon"}).Status)
	again := potOf(b, latexRun(b, "NK").Code)
	assert.InEpsilon(t, fresh.RecoatS, again.RecoatS, 0.02)
	assert.Equal(t, 4, b.Count(`SELECT COUNT(*) FROM dry_sign`), "the signs stay")
}

// A server that has just begun tells of every pot what one that never ended tells: nothing
// that a pot goes by is kept in it alone.
func TestAPotIsTheSameAfterARestart(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := latexRun(b, "NL")
	b.Clock.Set(b.Clock.Now().Add(time.Minute))
	b.Done("ivo", r.Code, 3, m{"reason": "the camera waits"})
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/pots/%d/air", potOf(b, r.Code).ID), m{"preset": "fan"}, nil)
	b.Clock.Set(b.Clock.Now().Add(3 * time.Minute))
	kept := b.S.Build
	fresh := &build.Service{DB: kept.DB, Clock: kept.Clock, Live: kept.Live, Air: kept.Air, Pieces: kept.Pieces,
		Moulds: kept.Moulds, Stores: kept.Stores}
	before, err := kept.Shelf(t.Context())
	require.NoError(t, err)
	after, err := fresh.Shelf(t.Context())
	require.NoError(t, err)
	require.NotEmpty(t, before)
	assert.Equal(t, before, after)
}
