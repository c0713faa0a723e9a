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
		h.Tell(t.Context(), "pots", "BF-03-d")
		assert.Equal(t, Hint{"pots", "BF-03-d"}, <-quick)
	}
	assert.Len(t, slow, cap(slow), "who does not listen loses hints")
	stop()
	h.Tell(t.Context(), "pots", "")
	assert.Empty(t, quick, "who has left hears nothing")
}

func TestAHintMakesAnotherState(t *testing.T) {
	var h Hub
	now := time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)
	before := h.State(now)
	assert.Equal(t, before, h.State(now.Add(400*time.Millisecond)))
	assert.NotEqual(t, before, h.State(now.Add(time.Second)))
	h.Tell(t.Context(), "lots", "")
	assert.NotEqual(t, before, h.State(now))
}

func TestAnActLearnsWhatItToldOf(t *testing.T) {
	var h Hub
	ctx, heard := Hearing(t.Context())
	h.Tell(ctx, "section", "BF-03")
	h.Tell(ctx, "pieces", "")
	h.Tell(ctx, "section", "BF-03")
	h.Tell(t.Context(), "lots", "L-1")
	assert.Equal(t, "section/BF-03,pieces", heard.String())
	h.Tell(ctx, "kits", "a,b/c")
	assert.Equal(t, "section/BF-03,pieces,kits/a%2Cb%2Fc", heard.String(), "a code never breaks the list")
}
