package finish_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/finish"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

// A tick that is set again replaces the one before; the record keeps both, and so
// do the readings.
func TestATickSetAgainReplacesTheFirst(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	first := b.Poured(b.Begun())[0]
	ticks := "/api/copies/" + first + "/ticks"
	assert.Equal(t, "not_here", b.As["pip"].No("POST", ticks, m{"item": "trim"}).Code, "it is still in its mould")
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(first)
	var c finish.Copy
	b.As["pip"].Yes("POST", ticks, m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, &c)
	assert.Equal(t, []string{"trim", "wash", "seam", "edge", "photograph"}, c.Missing)
	b.As["ivo"].Yes("POST", ticks, m{"item": "colour_reading", "reading": m{"l": 45.5, "a": 14, "b": 21}, "note": "second reading"}, &c)
	assert.Len(t, c.Ticks, 1)
	assert.Equal(t, &colour.Lab{L: 45.5, A: 14, B: 21}, c.Ticks[0].Reading)
	assert.Equal(t, "ivo", c.Ticks[0].Who)
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM reading WHERE subject = 'copy' AND quantity = 'colour'`))
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'copy' AND act = 'colour reading'`))
	assert.Equal(t, 422, b.As["pip"].No("POST", ticks, m{"item": "colour_reading", "reading": m{"l": 145, "a": 0, "b": 0}}).Status)
}

// A photograph for a copy that is not there is refused before it is taken apart.
func TestAPhotographWantsItsCopyFirst(t *testing.T) {
	b := shoptest.New(t, nil)
	status, _ := b.Sent("pip", "/api/copies/ZZ-01-a/photograph", nil, []byte("no picture at all"))
	assert.Equal(t, 404, status)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM file`))
}

// The last tick sends the piece on to the check.
func TestTheLastTickSendsThePieceOn(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	first := b.Poured(code)[0]
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(first)
	assert.Equal(t, "finish", b.Place(code))
	b.Finished(first)
	assert.Equal(t, "check", b.Place(code))
}

// A shop without a colour reader could never finish a copy.
func TestAStepWithoutItsInstrumentIsPassedOverWithAWord(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	copyCode := b.Poured(b.Begun())[0]
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(copyCode)
	ticks := "/api/copies/" + copyCode + "/ticks"
	assert.Equal(t, "note", b.As["pip"].No("POST", ticks, m{"item": "colour_reading", "skip": true}).Field)
	assert.Equal(t, "skip", b.As["pip"].No("POST", ticks, m{"item": "edge", "skip": true, "note": "later"}).Field)
	var c finish.Copy
	b.As["pip"].Yes("POST", ticks, m{"item": "colour_reading", "skip": true, "note": "no reader in this shop"}, &c)
	assert.NotContains(t, c.Missing, "colour_reading")
	assert.True(t, c.Ticks[0].Skipped)
	assert.Nil(t, c.Ticks[0].Reading)
	assert.Contains(t, c.Journal[0].Act+c.Journal[len(c.Journal)-1].Act, "passed over")
	// One that is read after all is read.
	b.As["pip"].Yes("POST", ticks, m{"item": "colour_reading", "reading": m{"l": 60, "a": 10, "b": 18}}, &c)
	assert.False(t, c.Ticks[0].Skipped)
	assert.NotNil(t, c.Ticks[0].Reading)
}
