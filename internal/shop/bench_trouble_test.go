package shop

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/station/mix"
)

func TestAScaleThatSticksMidPourIsMadeGoodByTheNextReading(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	target := v.Lines[0].TargetG
	half := target / 2
	b.pourG(half)
	b.scale.Misbehave(false, true, "")
	b.scale.Put(target - half)
	b.isIn(&v)
	assert.InDelta(t, half, v.Lines[0].InCupG, 0.06, "what it showed is on record")
	assert.Equal(t, 1, v.Current, "and the part is not taken for full")
	b.scale.Misbehave(false, false, "")
	b.settle()
	b.isIn(&v)
	assert.InDelta(t, target, v.Lines[0].InCupG, 0.16, "what it hid counts as soon as it moves")
	assert.Equal(t, 2, v.Current)
}

func TestAScaleThatDropsOutOrChangesItsUnitMidPourLosesNothing(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	target := v.Lines[0].TargetG
	weigh := "/api/mixes/" + v.Code + "/weigh"
	b.pourG(target / 2)
	for _, wrong := range []struct {
		unplugged bool
		unit      string
		code      string
	}{{true, "g", "scale_unplugged"}, {false, "oz", "wrong_unit"}} {
		b.scale.Misbehave(wrong.unplugged, false, wrong.unit)
		b.settle()
		no := b.as["ivo"].no("POST", weigh, map[string]any{"seq": 1, "key": key()})
		assert.Equal(t, wrong.code, no.Code)
		assert.Contains(t, no.Detail, map[string]string{"scale_unplugged": "is kept", "wrong_unit": "nothing was recorded"}[wrong.code])
	}
	b.scale.Misbehave(false, false, "g")
	b.pourG(target - target/2)
	b.isIn(&v)
	assert.InDelta(t, target, v.Lines[0].InCupG, 0.16)
}

func TestAMixLeftHalfWayIsTakenUpBySomebodyElse(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	b.pourG(v.Lines[0].TargetG)
	b.isIn(&v) // Ivo weighs A, then goes home
	b.scale.Clear()
	b.clock.Set(monday.Add(3 * time.Hour))

	var today struct {
		Now  *struct{ Title string }
		Then []struct{ Title string }
	}
	b.as["pip"].yes("GET", "/api/today", nil, &today)
	titles := []string{}
	if today.Now != nil {
		titles = append(titles, today.Now.Title)
	}
	for _, task := range today.Then {
		titles = append(titles, task.Title)
	}
	assert.Contains(t, titles, "Go on weighing "+v.Code)

	b.settle()
	b.as["pip"].yes("POST", "/api/mixes/"+v.Code+"/begin", nil, &v)
	assert.Equal(t, 2, v.Current, "what Ivo weighed is in")
	for v.Current != 0 {
		b.pourG(v.Lines[v.Current-1].AddG)
		b.settle()
		b.as["pip"].yes("POST", "/api/mixes/"+v.Code+"/weigh", map[string]any{"seq": v.Current, "key": key()}, &v)
	}
	var poured mix.Poured
	b.as["pip"].yes("POST", "/api/mixes/"+v.Code+"/pour", map[string]any{"moulds": []string{""}}, &poured)
	var who []string
	require.NoError(t, b.s.DB.Select(&who, `SELECT DISTINCT p.name FROM weigh_in w JOIN person p ON p.id = w.person_id ORDER BY p.name`))
	assert.Equal(t, []string{"ivo", "pip"}, who)
}

func TestWeightsThatWaitedForTheServerAreTakenAsTheyWereEntered(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	weigh := "/api/mixes/" + v.Code + "/weigh"
	// A and softener before the line broke, in truth with an overshoot of the
	// softener; then B, entered while nothing recomputed.
	late := func(seq int, typed string, ago float64) {
		b.as["ivo"].yes("POST", weigh, map[string]any{"seq": seq, "key": key(), "typed": typed, "ago_s": ago}, &v)
	}
	late(1, "23 g", 120)
	late(2, "30 g", 90)
	require.Equal(t, 1, v.Current, "the softener went over, A is short")
	late(3, "23 g", 60)
	assert.InDelta(t, 23, v.Lines[2].InCupG, 1e-9, "it is in the cup, whatever the sheet says by now")
	assert.Equal(t, 1, v.Current)
	require.NotNil(t, v.ContactAt)
	assert.Equal(t, monday.Add(-time.Minute), v.ContactAt.UTC(), "the clock runs from when they met")
	no := b.as["ivo"].no("POST", weigh, map[string]any{"seq": 3, "key": key(), "typed": "23 g"})
	assert.Equal(t, "other_line", no.Code, "what did not wait follows the sheet")
}

func TestAClockThatJumpsSpoilsNoRecord(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	copyCode := b.poured(code)[0]
	b.clock.Set(monday.Add(20 * time.Minute))
	before := b.pot(copyCode)
	note := func(words string) {
		b.as["pip"].yes("POST", "/api/pieces/"+code+"/notes", map[string]any{"words": words, "key": key()}, nil)
	}
	note("first")
	// The machine's clock is put back an hour: before the pour.
	b.clock.Set(monday.Add(-40 * time.Minute))
	back := b.pot(copyCode)
	assert.Zero(t, back.Fill, "nothing can have cured before it was poured")
	assert.GreaterOrEqual(t, back.LeftS, before.LeftS)
	assert.NotEmpty(t, back.HeldBack)
	note("second")
	// And forward by a day.
	b.clock.Set(monday.Add(24 * time.Hour))
	assert.Equal(t, "ready", b.pot(copyCode).State)
	note("third")
	var words []string
	require.NoError(t, b.s.DB.Select(&words, `SELECT words FROM journal WHERE act = 'step' ORDER BY id`))
	assert.Equal(t, []string{"first", "second", "third"}, words, "the order of the record is the order of writing")
	require.NoError(t, b.s.noteJump(t.Context(), -time.Hour, 5*time.Second))
	require.NoError(t, b.s.noteJump(t.Context(), 5*time.Second, 5*time.Second))
	require.NoError(t, b.s.DB.Select(&words, `SELECT words FROM journal WHERE kind = 'shop'`))
	assert.Equal(t, []string{"by -1h0m5s"}, words)
}
