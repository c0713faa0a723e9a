package mix_test

import (
	"testing"
	"time"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestAScaleThatSticksMidPourIsMadeGoodByTheNextReading(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	target := v.Lines[0].TargetG
	half := target / 2
	b.PourG(half)
	b.Scale.Misbehave(false, true, "")
	b.Scale.Put(target - half)
	b.IsIn(&v)
	assert.InDelta(t, half, v.Lines[0].InCupG, 0.06, "what it showed is on record")
	assert.Equal(t, 1, v.Current, "and the part is not taken for full")
	b.Scale.Misbehave(false, false, "")
	b.Settle()
	b.IsIn(&v)
	assert.InDelta(t, target, v.Lines[0].InCupG, 0.16, "what it hid counts as soon as it moves")
	assert.Equal(t, 2, v.Current)
}

func TestAScaleThatDropsOutOrChangesItsUnitMidPourLosesNothing(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	target := v.Lines[0].TargetG
	weigh := "/api/mixes/" + v.Code + "/weigh"
	b.PourG(target / 2)
	for _, wrong := range []struct {
		unplugged bool
		unit      string
		code      string
	}{{true, "g", "scale_unplugged"}, {false, "oz", "wrong_unit"}} {
		b.Scale.Misbehave(wrong.unplugged, false, wrong.unit)
		b.Settle()
		no := b.As["ivo"].No("POST", weigh, map[string]any{"seq": 1, "key": shoptest.Key()})
		assert.Equal(t, wrong.code, no.Code)
		assert.Contains(t, no.Detail, map[string]string{"scale_unplugged": "is kept", "wrong_unit": "nothing was recorded"}[wrong.code])
	}
	b.Scale.Misbehave(false, false, "g")
	b.PourG(target - target/2)
	b.IsIn(&v)
	assert.InDelta(t, target, v.Lines[0].InCupG, 0.16)
}

func TestAMixLeftHalfWayIsTakenUpBySomebodyElse(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	b.PourG(v.Lines[0].TargetG)
	b.IsIn(&v) // Ivo weighs A, then goes home
	b.Scale.Clear()
	b.Clock.Set(shoptest.Monday.Add(3 * time.Hour))

	var today struct {
		Now  *struct{ Title string }
		Then []struct{ Title string }
	}
	b.As["pip"].Yes("GET", "/api/today", nil, &today)
	titles := []string{}
	if today.Now != nil {
		titles = append(titles, today.Now.Title)
	}
	for _, task := range today.Then {
		titles = append(titles, task.Title)
	}
	assert.Contains(t, titles, "Go on weighing "+v.Code)

	b.Settle()
	b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/begin", nil, &v)
	assert.Equal(t, 2, v.Current, "what Ivo weighed is in")
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.Settle()
		b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", map[string]any{"seq": v.Current, "key": shoptest.Key()}, &v)
	}
	var poured mix.Poured
	b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/pour", map[string]any{"moulds": []string{""}}, &poured)
	var who []string
	require.NoError(t, b.S.DB.Select(&who, `SELECT DISTINCT p.name FROM weigh_in w JOIN person p ON p.id = w.person_id ORDER BY p.name`))
	assert.Equal(t, []string{"ivo", "pip"}, who)
}

// Begun once more while half a line stands in the cup, by another screen or by
// another hand: what is in the cup is still in the cup.
func TestBeginningAMixThatIsBeingWeighedTakesNothingOutOfTheCup(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	target := v.Lines[0].TargetG
	b.PourG(target / 2)
	b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/begin", nil, &v)
	b.PourG(target - target/2)
	b.IsIn(&v)
	assert.InDelta(t, target, v.Lines[0].InCupG, 0.16)
	assert.InDelta(t, 400-target, b.OnHand("K-old", "A"), 0.16)
}

func TestWeightsThatWaitedForTheServerAreTakenAsTheyWereEntered(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	weigh := "/api/mixes/" + v.Code + "/weigh"
	// A and softener before the line broke, in truth with an overshoot of the
	// softener; then B, entered while nothing recomputed.
	late := func(seq int, typed string, ago float64) {
		b.As["ivo"].Yes("POST", weigh, map[string]any{"seq": seq, "key": shoptest.Key(), "typed": typed, "ago_s": ago}, &v)
	}
	late(1, "23 g", 120)
	late(2, "30 g", 90)
	require.Equal(t, 1, v.Current, "the softener went over, A is short")
	late(3, "23 g", 60)
	assert.InDelta(t, 23, v.Lines[2].InCupG, 1e-9, "it is in the cup, whatever the sheet says by now")
	assert.Equal(t, 1, v.Current)
	require.NotNil(t, v.ContactAt)
	assert.Equal(t, shoptest.Monday.Add(-time.Minute), v.ContactAt.UTC(), "the clock runs from when they met")
	no := b.As["ivo"].No("POST", weigh, map[string]any{"seq": 3, "key": shoptest.Key(), "typed": "23 g"})
	assert.Equal(t, "other_line", no.Code, "what did not wait follows the sheet")
}

func TestAClockThatJumpsSpoilsNoRecord(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	b.Clock.Set(shoptest.Monday.Add(20 * time.Minute))
	before := b.Pot(copyCode)
	note := func(words string) {
		b.As["pip"].Yes("POST", "/api/pieces/"+code+"/notes", map[string]any{"words": words, "key": shoptest.Key()}, nil)
	}
	note("first")
	// The machine's clock is put back an hour: before the pour.
	b.Clock.Set(shoptest.Monday.Add(-40 * time.Minute))
	back := b.Pot(copyCode)
	assert.Zero(t, back.Fill, "nothing can have cured before it was poured")
	assert.GreaterOrEqual(t, back.LeftS, before.LeftS)
	assert.NotEmpty(t, back.HeldBack)
	note("second")
	// And forward by a day.
	b.Clock.Set(shoptest.Monday.Add(24 * time.Hour))
	assert.Equal(t, "ready", b.Pot(copyCode).State)
	note("third")
	var words []string
	require.NoError(t, b.S.DB.Select(&words, `SELECT words FROM journal WHERE act = 'step' ORDER BY id`))
	assert.Equal(t, []string{"first", "second", "third"}, words, "the order of the record is the order of writing")
	require.NoError(t, b.S.NoteJump(t.Context(), -time.Hour, 5*time.Second))
	require.NoError(t, b.S.NoteJump(t.Context(), 5*time.Second, 5*time.Second))
	require.NoError(t, b.S.DB.Select(&words, `SELECT words FROM journal WHERE kind = 'shop'`))
	assert.Equal(t, []string{"by -1h0m5s"}, words)
}
