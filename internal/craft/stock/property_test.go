package stock

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func anyLot(t *rapid.T, i int) Lot {
	l := Lot{Code: fmt.Sprint("L", i), Status: rapid.SampledFrom([]string{OK, OK, OK, Quarantine, Recalled}).Draw(t, "status"),
		OnHandG: rapid.Float64Range(0, 500).Draw(t, "g"), Received: rapid.IntRange(-50, 5).Draw(t, "in"), Expiry: rapid.IntRange(-20, 200).Draw(t, "until")}
	if rapid.Bool().Draw(t, "open") {
		day := rapid.IntRange(-40, 0).Draw(t, "opened")
		l.Opened, l.OpenLife = &day, rapid.IntRange(0, 90).Draw(t, "life")
	}
	return l
}

// Against a second method, a plain search: what is chosen may be used, covers
// the need, and no other that could do so runs out earlier; nothing chosen
// means that none could.
func TestTheChoiceIsTheFirstToExpireThatCanCoverIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var lots []Lot
		for i := range rapid.IntRange(0, 8).Draw(t, "n") {
			lots = append(lots, anyLot(t, i))
		}
		need := rapid.Float64Range(0.1, 400).Draw(t, "need")
		got := Single(lots, need, 0)
		best, found := 0, false
		for i, l := range lots {
			if l.Refusal(0) == "" && l.OnHandG >= need && (!found || l.EffectiveExpiry() < lots[best].EffectiveExpiry()) {
				best, found = i, true
			}
		}
		if !found {
			assert.Empty(t, got.Code)
			assert.NotEmpty(t, got.Short, "it is said that nothing covers it")
			return
		}
		for _, l := range lots {
			if l.Code == got.Code {
				assert.Equal(t, lots[best].EffectiveExpiry(), l.EffectiveExpiry())
				assert.Empty(t, l.Refusal(0))
				assert.GreaterOrEqual(t, l.OnHandG, need)
			}
		}
		assert.NotEmpty(t, got.Code)
		assert.Len(t, got.Options, len(lots), "every lot is shown, the refused with their reason")
	})
}

// A lot is refused with a reason or not at all, and one that may be used today
// could have been used yesterday if it was here.
func TestRefusalsDoNotFlicker(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := anyLot(t, 1)
		today := rapid.IntRange(-10, 220).Draw(t, "today")
		if l.Refusal(today) == "" && l.Received < today {
			assert.Empty(t, l.Refusal(today-1))
		}
		if l.EffectiveExpiry() < today {
			assert.NotEmpty(t, l.Refusal(today))
		}
	})
}

func TestDaysAreCountedInWords(t *testing.T) {
	assert.Equal(t, "expired 1 day ago", Lot{Status: OK, OnHandG: 1, Expiry: 9}.Refusal(10))
	assert.Equal(t, "expired 3 days ago", Lot{Status: OK, OnHandG: 1, Expiry: 7}.Refusal(10))
}
