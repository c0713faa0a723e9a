package stock

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func day(n int) *int { return &n }

func TestFirstExpiredGoesFirst(t *testing.T) {
	lots := []Lot{
		{Code: "late", Status: OK, OnHandG: 500, Expiry: 300},
		{Code: "soon", Status: OK, OnHandG: 500, Expiry: 120},
		{Code: "past", Status: OK, OnHandG: 500, Expiry: 99},
		{Code: "held", Status: Quarantine, OnHandG: 500, Expiry: 110},
		{Code: "drop", Status: OK, OnHandG: 3, Expiry: 101},
		{Code: "open", Status: OK, OnHandG: 500, Expiry: 300, Opened: day(50), OpenLife: 30},
	}
	c := Single(lots, 40, 100)
	assert.Equal(t, "soon", c.Code)
	why := map[string]string{}
	for _, o := range c.Options {
		why[o.Code] = o.Refused
	}
	assert.Equal(t, map[string]string{"late": "", "soon": "", "past": "expired 1 day ago", "held": "in quarantine", "drop": "only 3.0 g left", "open": "open too long: 20 days past its open life"}, why)
}

func TestTheExpiryDayItselfIsUsable(t *testing.T) {
	l := Lot{Status: OK, OnHandG: 1, Expiry: 100}
	assert.Empty(t, l.Refusal(100))
	assert.NotEmpty(t, l.Refusal(101))
}

func TestAKitIsNeverMixedWithAnother(t *testing.T) {
	lots := []Lot{
		{Code: "K1", Part: "A", Status: OK, OnHandG: 900, Expiry: 200},
		{Code: "K1", Part: "B", Status: OK, OnHandG: 20, Expiry: 200},
		{Code: "K2", Part: "B", Status: OK, OnHandG: 900, Expiry: 150},
		{Code: "K3", Part: "A", Status: OK, OnHandG: 500, Expiry: 300},
		{Code: "K3", Part: "B", Status: OK, OnHandG: 600, Expiry: 300},
	}
	c := Pair(lots, 1, 1, 200, 100)
	assert.Equal(t, "K3", c.Code)
	assert.Equal(t, "has no part A", c.Options[0].Refused)
	assert.Equal(t, "only 40.0 g left", c.Options[1].Refused)
	assert.InDelta(t, 1000, c.Options[2].UsableG, 1e-9)
	short := Pair(lots, 1, 1, 2000, 100)
	assert.Empty(t, short.Code)
	assert.Contains(t, short.Short, "K2: has no part A")
}

func TestWhatIsChosenCoversTheNeed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		need := rapid.Float64Range(0.1, 900).Draw(t, "need")
		lots := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Lot {
			return Lot{Code: rapid.StringMatching(`[a-z]{4}`).Draw(t, "code"), Status: rapid.SampledFrom([]string{OK, Quarantine, Recalled}).Draw(t, "status"),
				OnHandG: rapid.Float64Range(0, 1000).Draw(t, "g"), Expiry: rapid.IntRange(50, 200).Draw(t, "expiry")}
		}), 0, 8).Draw(t, "lots")
		c := Single(lots, need, 100)
		best := 1 << 30
		for _, l := range lots {
			if l.Refusal(100) == "" && l.OnHandG >= need {
				best = min(best, l.EffectiveExpiry())
			}
		}
		if c.Code == "" {
			assert.Equal(t, 1<<30, best)
			return
		}
		for _, o := range c.Options {
			if o.Code == c.Code && o.Refused == "" {
				assert.GreaterOrEqual(t, o.UsableG, need-1e-9)
				assert.Equal(t, best-100, o.DaysLeft)
				return
			}
		}
		t.Fatal("the chosen lot is not among the options")
	})
}
