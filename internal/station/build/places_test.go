package build_test

import (
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/device"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
)

// places writes the usual places down and gives their codes.
func places(b *shoptest.Bench) {
	b.T.Helper()
	for _, p := range []m{{"name": "warm box", "kind": "warm_box"}, {"name": "oven", "kind": "oven"},
		{"name": "cold 1", "kind": "cold"}, {"name": "rack", "kind": "rack"}} {
		b.As["ivo"].Yes("POST", "/api/places", p, nil)
	}
}

func placeOf(b *shoptest.Bench, code string) (out build.Place) {
	b.T.Helper()
	var list []build.Place
	b.As["pip"].Yes("GET", "/api/places", nil, &list)
	for _, p := range list {
		if p.Code == code {
			out = p
		}
	}
	require.NotEmpty(b.T, out.Code, code)
	return out
}

func set(b *shoptest.Bench, code string, c float64) {
	b.T.Helper()
	b.As["ivo"].Yes("POST", "/api/places/"+code+"/set", m{"set_c": c}, nil)
	b.As["ivo"].Yes("POST", "/api/places/"+code+"/reading", m{"temp_c": c}, nil)
}

func after(b *shoptest.Bench, d time.Duration) { b.Clock.Set(b.Clock.Now().Add(d)) }

func movePot(b *shoptest.Bench, id uint64, to string) (p build.Pot) {
	b.T.Helper()
	b.As["ivo"].Yes("POST", "/api/pots/"+itoa(id)+"/place", m{"place": to}, &p)
	return p
}

// A cure goes on in the warm box faster from the moment that it is put in, keeps what it
// had before, and is told the same by a server that has just begun.
func TestAPotTakesItsPlacesAlong(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(18))
	b.Stocked()
	places(b)
	set(b, "warm-box", 45)
	b.Poured(b.Begun())
	after(b, 30*time.Minute)
	pot := shelf(b).Pots[0]
	assert.Empty(t, pot.Place)
	moved := movePot(b, pot.ID, "warm-box")
	assert.Equal(t, "warm box", moved.PlaceName)
	assert.Less(t, moved.LeftS, pot.LeftS/3, "45 °C against 18 °C")
	assert.InDelta(t, pot.Fill, moved.Fill, 0.01, "what it had before stays")
	assert.Equal(t, []string{pot.Label}, placeOf(b, "warm-box").Pots)

	after(b, 10*time.Minute)
	in := shelf(b).Pots[0]
	assert.InDelta(t, moved.LeftS-600, in.LeftS, 60)
	again := &build.Service{DB: b.S.DB, Clock: b.Clock, Live: b.S.Live, Pieces: b.S.Pieces, Moulds: b.S.Build.Moulds,
		Stores: b.S.Stores,
		Air:    &build.Air{DB: b.S.DB, Clock: b.Clock, Sensor: shoptest.SteadyRoom(18)}}
	fresh, err := again.Shelf(t.Context())
	require.NoError(t, err)
	assert.InDelta(t, in.LeftS, fresh[0].LeftS, 1e-6, "a server that has just begun says the same")

	back := movePot(b, pot.ID, "")
	assert.Empty(t, back.Place)
	assert.Greater(t, back.LeftS, in.LeftS)
	assert.InDelta(t, in.Fill, back.Fill, 0.01)
	assert.Empty(t, placeOf(b, "warm-box").Pots)
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM pot_place`))
	movePot(b, pot.ID, "")
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM pot_place`), "it stands there already")
	b.As["pip"].No("POST", "/api/pots/"+itoa(pot.ID)+"/place", m{"place": "attic"})
}

// Nobody has read a box: what it is set to is reckoned with, and the longer ago it was
// read the less its pots claim to know.
func TestAPlaceThatNobodyReadsIsLessSure(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Stocked()
	places(b)
	b.As["ivo"].Yes("POST", "/api/places/warm-box/set", m{"set_c": 40}, nil)
	b.Poured(b.Begun())
	pot := shelf(b).Pots[0]
	warm := movePot(b, pot.ID, "warm-box")
	assert.Less(t, warm.LeftS, pot.LeftS/2)
	band := func(p build.Pot) float64 { return (p.HighS - p.LowS) / p.LeftS }
	b.As["ivo"].Yes("POST", "/api/places/warm-box/set", m{"set_c": 30}, nil)
	b.As["ivo"].Yes("POST", "/api/places/warm-box/reading", m{"temp_c": 30}, nil)
	sure := shelf(b).Pots[0]
	after(b, 40*time.Minute)
	unsure := shelf(b).Pots[0]
	assert.Greater(t, band(unsure), band(sure))
	assert.Contains(t, unsure.Why[len(unsure.Why)-1], "band is wider")
}

// What cannot be is refused at its field, and heat with nobody beside it is for a lead to
// allow.
func TestWhatAPlaceMayBeSetTo(t *testing.T) {
	b := shoptest.New(t, nil)
	places(b)
	no := b.As["pip"].No("POST", "/api/places/oven/set", m{"set_c": 900})
	assert.Equal(t, "set_c", no.Field)
	assert.Contains(t, no.Detail, "40 to 105 °C")
	assert.Equal(t, "set_c", b.As["pip"].No("POST", "/api/places/rack/set", m{"set_c": 30}).Field)
	assert.Equal(t, "set_c", b.As["pip"].No("POST", "/api/places/cold-1/set", m{"set_c": -40}).Field)
	assert.Equal(t, "alone", b.As["ivo"].No("POST", "/api/places/oven/set", m{"set_c": 90, "leaving": true}).Code)
	assert.Equal(t, "not_yours", b.As["ivo"].No("POST", "/api/places/oven/rules", m{"alone": true}).Code)
	b.As["maud"].Yes("POST", "/api/places/oven/rules", m{"alone": true}, nil)
	b.As["ivo"].Yes("POST", "/api/places/oven/set", m{"set_c": 90, "leaving": true}, nil)
	p := placeOf(b, "oven")
	require.NotNil(t, p.SetC)
	assert.True(t, p.Alone && *p.SetC == 90)
	b.As["pip"].Yes("POST", "/api/places/oven/set", m{}, nil)
	assert.Nil(t, placeOf(b, "oven").SetC)
	assert.Equal(t, "name", b.As["ivo"].No("POST", "/api/places", m{"name": "Oven", "kind": "oven"}).Field)
	assert.Equal(t, "alone", b.As["maud"].No("POST", "/api/places/rack/rules", m{"alone": true}).Field)
	b.As["ivo"].Yes("POST", "/api/places/rack/rules", m{"flame": true}, nil)
	assert.True(t, placeOf(b, "rack").Flame)
}

// Two put one pot into two places at once: it stands in one of them, and both acts are
// kept in their order; put into one by both, it moved once.
func TestTwoMoveOnePot(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	places(b)
	b.Poured(b.Begun())
	pot := shelf(b).Pots[0]
	var wait sync.WaitGroup
	for _, who := range []string{"ivo", "maud", "pip"} {
		wait.Go(func() { b.As[who].Yes("POST", "/api/pots/"+itoa(pot.ID)+"/place", m{"place": "rack"}, nil) })
	}
	wait.Wait()
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM pot_place`))
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'moved'`))
}

// Coats in the warm box dry sooner, and the next coat stands where the one below stood.
func TestCoatsTakeTheirPlaceToTheNextCoat(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(19))
	b.Everything()
	places(b)
	set(b, "warm-box", 45)
	r := b.Begin(b.By("latex_slush", "NA", "nose", 3), 1)
	r = b.Done("ivo", r.Code, 1, m{})
	pot := potOf(b, r.Code)
	warm := movePot(b, pot.ID, "warm-box")
	assert.Less(t, warm.LeftS, 0.7*pot.LeftS)
	after(b, time.Duration((warm.LeftS+60)*float64(time.Second)))
	r = b.Done("ivo", r.Code, r.Next, m{})
	second := potOf(b, r.Code)
	assert.NotEqual(t, pot.ID, second.ID)
	assert.Equal(t, "warm-box", second.Place)
	// On a wearer there is no box.
	r = latexRun(b, "NB")
	no := b.As["ivo"].No("POST", "/api/pots/"+itoa(potOf(b, r.Code).ID)+"/place", m{"place": "warm-box"})
	assert.Equal(t, "place", no.Field)
}

// A foam run from its gel to the open mould: into the oven once it is gelled, cured by its
// probe, and opened when its mould is cool enough, or with a reason.
func TestFoamFromItsGelToTheOpenMould(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	places(b)
	r := b.Begin(b.By("foam_latex", "NA", "nose", 6), 1)
	r = b.Done("ivo", r.Code, 1, m{})
	bowl := potOf(b, r.Code)
	require.NotNil(t, bowl.TooLateAt, "it is filled before it gels")
	assert.Equal(t, "fill it before it gels", bowl.Left)
	after(b, 4*time.Minute)
	r = b.Done("pip", r.Code, 2, m{})
	gel := potOf(b, r.Code)
	assert.Nil(t, gel.TooLateAt)
	assert.Equal(t, bowl.StartedAt.Unix(), gel.StartedAt.Unix(), "it gels by the clock of its bowl")
	assert.Equal(t, "held_back", b.As["pip"].No("POST", "/api/runs/"+r.Code+"/stages/3", m{}).Code, "not gelled yet")
	observe := func(who string) shoptest.Refused {
		return b.As[who].No("POST", "/api/pots/"+itoa(gel.ID)+"/observe", m{"stage": "gelled"})
	}
	before4 := b.Clock.Now()
	b.Clock.Set(bowl.StartedAt.Add(time.Minute))
	assert.Equal(t, "stage", observe("pip").Field, "a minute after the agent it cannot be")
	b.Clock.Set(before4)
	after(b, 7*time.Minute)
	var seen build.Pot
	b.As["pip"].Yes("POST", "/api/pots/"+itoa(gel.ID)+"/observe", m{"stage": "gelled"}, &seen)
	assert.Equal(t, "ready", seen.State)
	assert.Equal(t, "into the oven", seen.Left)

	set(b, "oven", 95)
	r = b.Done("ivo", r.Code, 3, m{"in": "oven"})
	bake := potOf(b, r.Code)
	assert.Equal(t, "oven", bake.Place)
	assert.Contains(t, bake.Left, "cured in")
	var curve build.Curve
	b.As["pip"].Yes("GET", "/api/pots/"+itoa(bake.ID)+"/curve", nil, &curve)
	require.Greater(t, len(curve.Points), 40)
	require.NotNil(t, curve.CureAt)
	for i, p := range curve.Points {
		assert.True(t, i == 0 || p.At.After(curve.Points[i-1].At))
		assert.LessOrEqual(t, p.Coldest, 96.0)
		if p.At.Before(*curve.CureAt) {
			assert.LessOrEqual(t, p.Coldest, p.WallC+0.1, "the foam is the last to be warm")
		}
	}
	assert.Less(t, curve.Points[len(curve.Points)-1].WallC, curve.OpenC+1)
	assert.Equal(t, "no_curve", b.As["pip"].No("GET", "/api/pots/"+itoa(gel.ID)+"/curve", nil).Code)
	last := bake.Fill
	for range 9 {
		after(b, 30*time.Minute)
		b.As["pip"].Yes("POST", "/api/places/oven/reading", m{"temp_c": 95}, nil)
		bake = potOf(b, r.Code)
		assert.GreaterOrEqual(t, bake.Fill, last)
		last = bake.Fill
	}
	assert.Equal(t, "cured", bake.Words)
	assert.Equal(t, "switch the oven off", bake.Left)
	require.NotNil(t, bake.TooLateAt)
	assert.Contains(t, bake.TooLate, "over-cured")
	assert.Equal(t, "held_back", b.As["pip"].No("POST", "/api/runs/"+r.Code+"/stages/4", m{}).Code, "its mould is too hot to open")
	assert.Equal(t, "held_back", b.As["pip"].No("POST", "/api/pots/"+itoa(bake.ID)+"/place", m{"place": ""}).Code,
		"nor does it stand in the cold")

	b.As["ivo"].Yes("POST", "/api/places/oven/set", m{}, nil)
	for _, c := range []float64{80, 66, 55, 47, 40, 34, 30, 27, 25, 24, 23} {
		after(b, 20*time.Minute)
		b.As["pip"].Yes("POST", "/api/places/oven/reading", m{"temp_c": c}, nil)
		bake = potOf(b, r.Code)
	}
	assert.Equal(t, "open it now", bake.Left)
	assert.Nil(t, bake.TooLateAt)
	r = b.Done("pip", r.Code, 4, m{})
	wash := potOf(b, r.Code)
	assert.Contains(t, wash.Left, "dry in")
	assert.Empty(t, wash.Place, "it was taken out to be washed")
	before := wash.LeftS
	after(b, 2*time.Hour)
	assert.Less(t, potOf(b, r.Code).LeftS, before-6000)
}

// A shop that has written no oven down bakes all the same, by how an oven usually is.
func TestFoamInAnOvenThatNobodyWroteDown(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	r := b.Begin(b.By("foam_latex", "NA", "nose", 6), 1)
	b.Done("ivo", r.Code, 1, m{})
	b.Done("ivo", r.Code, 2, m{})
	after(b, 40*time.Minute)
	b.Done("ivo", r.Code, 3, m{})
	bake := potOf(b, r.Code)
	assert.Contains(t, bake.Left, "cured in")
	assert.Contains(t, bake.Why[0], "no oven that is written down")
	assert.Less(t, bake.LowS, 0.75*bake.LeftS)
	after(b, 9*time.Hour)
	assert.Equal(t, "open it now", potOf(b, r.Code).Left)
	no := b.As["ivo"].No("POST", "/api/runs/"+r.Code+"/stages/4", m{"checked": true, "in": "attic"})
	assert.Equal(t, "in", no.Field)
}

// A bowl of foam that was forgotten is past its window: it is not filled without a word.
func TestFoamPastItsTimeToGelIsNotFilled(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	r := b.Begin(b.By("foam_latex", "NA", "nose", 6), 1)
	r = b.Done("ivo", r.Code, 1, m{})
	after(b, 25*time.Minute)
	bowl := potOf(b, r.Code)
	assert.True(t, bowl.Past)
	assert.Equal(t, "too late to fill", bowl.Left)
	no := b.As["pip"].No("POST", "/api/runs/"+r.Code+"/stages/2", m{})
	assert.Equal(t, "held_back", no.Code)
	assert.Contains(t, no.Detail, "tears as it is poured")
	b.Done("ivo", r.Code, 2, m{"reason": "pressed: it runs still"})
}

// Gelatin cools by its engine: in the cold it comes out sooner, in a room that is too warm
// never, and that is said.
func TestGelatinChillsWhereItStands(t *testing.T) {
	room := &varyingRoom{c: 20}
	b := shoptest.New(t, room)
	b.Everything()
	places(b)
	b.As["ivo"].Yes("POST", "/api/places/cold-1/reading", m{"temp_c": 5, "rh": 0.8}, nil)
	r := b.Begin(b.By("gelatin_animal", "NA", "nose", 8), 1)
	r = b.Done("ivo", r.Code, 1, m{})
	r = b.Done("ivo", r.Code, 2, m{})
	pot := potOf(b, r.Code)
	assert.Equal(t, []string{"set", "demould"}, []string{pot.Marks[0].Stage, pot.Marks[1].Stage})
	after(b, 5*time.Minute)
	pot = potOf(b, r.Code)
	chilled := movePot(b, pot.ID, "cold-1")
	assert.Less(t, chilled.LeftS, 0.8*pot.LeftS)
	set(b, "warm-box", 45)
	no := b.As["ivo"].No("POST", "/api/pots/"+itoa(pot.ID)+"/place", m{"place": "warm-box"})
	assert.Equal(t, "melts", no.Code)
	assert.Equal(t, "place", no.Field)
	movePot(b, pot.ID, "")
	room.c = 33
	after(b, 10*time.Minute)
	pot = potOf(b, r.Code)
	assert.Equal(t, "put it in the cold", pot.Left)
	assert.NotEmpty(t, pot.HeldBack)
}

// varyingRoom is a room whose warmth the test sets.
type varyingRoom struct{ c float64 }

func (r *varyingRoom) Between(from, to time.Time) []device.RoomReading {
	list := shoptest.SteadyRoom(r.c).Between(from, to)
	return list
}

// Who takes a ringing pot in hand is kept, once.
func TestAPotIsAnsweredOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	b.Poured(b.Begun())
	pot := shelf(b).Pots[0]
	var first, second build.Pot
	b.As["pip"].Yes("POST", "/api/pots/"+itoa(pot.ID)+"/answer", nil, &first)
	assert.Equal(t, "pip", first.AnsweredBy)
	after(b, time.Minute)
	b.As["ivo"].Yes("POST", "/api/pots/"+itoa(pot.ID)+"/answer", nil, &second)
	assert.Equal(t, "pip", second.AnsweredBy, "the other sees who")
	assert.Equal(t, first.AnsweredAt.Unix(), second.AnsweredAt.Unix())
}

func itoa(id uint64) string { return strconv.FormatUint(id, 10) }

func shelf(b *shoptest.Bench) (out build.Shelf) {
	b.T.Helper()
	b.As["pip"].Yes("GET", "/api/pots", nil, &out)
	return out
}
