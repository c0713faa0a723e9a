package live

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestHintsReachEverybodyAndHoldUpNobody(t *testing.T) {
	var h Hub
	quick, stop := h.Listen()
	slow, stopSlow := h.Listen()
	defer stopSlow()
	for range 100 {
		h.Tell("pots", "BF-03-d")
		assert.Equal(t, Hint{"pots", "BF-03-d"}, <-quick)
	}
	assert.Len(t, slow, cap(slow), "who does not listen loses hints")
	stop()
	h.Tell("pots", "")
	assert.Empty(t, quick, "who has left hears nothing")
}

func TestAHintMakesAnotherState(t *testing.T) {
	var h Hub
	now := time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)
	before := h.State(now)
	assert.Equal(t, before, h.State(now.Add(400*time.Millisecond)))
	assert.NotEqual(t, before, h.State(now.Add(time.Second)))
	h.Tell("lots", "")
	assert.NotEqual(t, before, h.State(now))
}
