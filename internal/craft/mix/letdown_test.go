package mix

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestALetDownCarriesTheSameAmount(t *testing.T) {
	d, needs := NeedsLetDown(0.16, 0.1)
	assert.True(t, needs)
	assert.Equal(t, LetDown{99, 16, 15.84}, d)
	_, needs = NeedsLetDown(2, 0.1)
	assert.False(t, needs)
	assert.True(t, Unreadable(0.49, 0.1))
	assert.False(t, Unreadable(0.5, 0.1))
	assert.False(t, Unreadable(0.16, 0.01), "on a finer scale it is read")
	rapid.Check(t, func(t *rapid.T) {
		g := rapid.Float64Range(0.01, 5).Draw(t, "g")
		d, needs := NeedsLetDown(g, 0.1)
		assert.Equal(t, g < 2, needs)
		if needs {
			assert.InDelta(t, g, d.WeighG/(d.Parts+1), 1e-9, "what is weighed holds what was asked for")
			assert.InDelta(t, d.WeighG, g+d.LessG, 1e-9, "and nothing more goes in")
		}
	})
}
