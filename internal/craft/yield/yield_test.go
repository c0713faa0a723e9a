package yield

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// The reference cases of the chapter stand with the calculations; here is what holds
// for any question.
func TestMoreIsNeverFewer(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := Belief{rapid.Float64Range(2, 30).Draw(t, "a"), rapid.Float64Range(0.5, 8).Draw(t, "b")}
		need := rapid.IntRange(1, 12).Draw(t, "need")
		c := rapid.Float64Range(0.5, 0.97).Draw(t, "confidence")
		p, err := ToRun(need, 1, c, b)
		if err != nil {
			return // so little is known that nothing can be promised
		}
		assert.GreaterOrEqual(t, p.Probability, c-1e-9)
		if p.OneLess != nil && p.Casts > need {
			assert.Less(t, *p.OneLess, c, "one fewer is not enough")
		}
		if more, err := ToRun(need+1, 1, c, b); err == nil {
			assert.GreaterOrEqual(t, more.Casts, p.Casts)
		}
		sum := 0.0
		for k := range p.Casts + 1 {
			sum += b.good(k, p.Casts)
		}
		assert.InDelta(t, 1, sum, 1e-9, "all chances together")
	})
}

func TestReusedPiecesAreWornNoMoreThanTheyBear(t *testing.T) {
	pieces, left, err := Reused(3, 0, []Day{{1, 1}, {2, 1}, {3, 1}})
	assert.NoError(t, err)
	assert.Equal(t, [2]int{1, 0}, [2]int{pieces, left})
	pieces, _, err = Reused(3, 1, []Day{{1, 1}, {2, 1}, {3, 1}})
	assert.NoError(t, err)
	assert.Equal(t, 2, pieces, "a rest day wants a second one")
}
