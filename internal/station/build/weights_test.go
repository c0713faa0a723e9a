package build_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
)

// What a piece lost on the scale is its water: one that loses what the model says keeps
// its times, one that loses less takes longer, and what cannot be is refused.
func TestAPieceOnTheScaleTellsItsPace(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	begin := func(character string) (uint64, string, float64) {
		r := b.Begin(b.By("latex_slush", character, "nose", 3), 1)
		r = b.Done("ivo", r.Code, 1, m{})
		return potOf(b, r.Code).ID, r.Code, r.Stages[0].Grams
	}
	weigh := func(id uint64, grams float64) (p build.Pot) {
		b.As["pip"].Yes("POST", "/api/pots/"+itoa(id)+"/weigh", m{"grams": grams}, &p)
		return p
	}
	id, code, coat := begin("NA")
	before := potOf(b, code)
	assert.InDelta(t, before.LeftS, weigh(id, 80+coat).LeftS, 1, "one weighing tells no rate")
	no := b.As["pip"].No("POST", "/api/pots/"+itoa(id)+"/weigh", m{"grams": 80 + coat - 0.01})
	assert.Equal(t, "too_soon", no.Code)
	assert.Equal(t, "grams", no.Field)
	after(b, 6*time.Minute)
	assert.Equal(t, "contradiction", b.As["pip"].No("POST", "/api/pots/"+itoa(id)+"/weigh", m{"grams": 90 + coat}).Code)
	assert.Equal(t, "out_of_range", b.As["pip"].No("POST", "/api/pots/"+itoa(id)+"/weigh", m{"grams": 40.0}).Code)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM dry_sign`))
	expected := potOf(b, code)
	slow := weigh(id, 80+coat-0.02*coat)
	assert.Greater(t, slow.LeftS, 1.1*expected.LeftS, "it lost next to nothing")
	assert.Less(t, (slow.HighS-slow.LowS)/slow.LeftS, (expected.HighS-expected.LowS)/expected.LeftS)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM dry_sign WHERE stage = 'weight'`), "the shop learns of its air")

	id, code, coat = begin("NB")
	weigh(id, 50+coat)
	after(b, 6*time.Minute)
	expected = potOf(b, code)
	quick := weigh(id, 50+coat-0.15*coat)
	assert.Less(t, quick.LeftS, slow.LeftS)
	require.NotNil(t, quick.ReadyAt)
	assert.Contains(t, quick.Why[1], "lost on the scale")
	b.Stocked()
	b.Poured(b.Begun())
	for _, p := range shelf(b).Pots {
		if p.Kind == "cure" {
			assert.Equal(t, "grams", b.As["pip"].No("POST", "/api/pots/"+itoa(p.ID)+"/weigh", m{"grams": 10}).Field)
		}
	}
}
