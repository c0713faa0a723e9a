package fault

import (
	"maps"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
)

// aCase draws a fault on one of its materials, with some evidence and history.
func aCase(t *rapid.T) Case {
	f := rapid.SampledFrom(Faults()).Draw(t, "fault")
	c := Case{Fault: f.ID, Evidence: map[string]string{}, History: map[string]float64{}}
	if rapid.Bool().Draw(t, "known") {
		c.Material = rapid.SampledFrom(f.Materials).Draw(t, "material")
	}
	for range rapid.IntRange(0, 12).Draw(t, "n") {
		e := rapid.SampledFrom(AllEvidence()).Draw(t, "evidence")
		c.Evidence[e.ID] = rapid.SampledFrom(e.States).Draw(t, "state").State
	}
	for _, id := range slices.Sorted(maps.Keys(f.Causes)) {
		if of, _ := CauseOf(id); c.Material == "" || Fits(of.Materials, c.Material) {
			c.History[id] = float64(rapid.IntRange(0, 9).Draw(t, "confirmed"))
		}
	}
	return c
}

func TestChancesSumToOneAndEvidenceForACauseNeverLowersItsScore(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := aCase(t)
		r, err := Rank(c)
		require.NoError(t, err)
		p, prior := 0.0, 0.0
		for _, k := range r.Causes {
			p, prior = p+k.P, prior+k.Prior
		}
		assert.InDelta(t, 1, p, 1e-9)
		assert.InDelta(t, 1, prior, 1e-9)
		assert.GreaterOrEqual(t, r.Entropy, 0.0)
		assert.LessOrEqual(t, r.Entropy, math.Log2(float64(len(r.Causes)))+1e-9)

		// One more thing is known: where it speaks for a cause, its score does not fall.
		e := rapid.SampledFrom(AllEvidence()).Draw(t, "more")
		if c.Evidence[e.ID] != "" {
			return
		}
		more := c
		more.Evidence = maps.Clone(c.Evidence)
		more.Evidence[e.ID] = rapid.SampledFrom(e.States).Draw(t, "its state").State
		after, err := Rank(more)
		require.NoError(t, err)
		was := map[string]float64{}
		for _, k := range r.Causes {
			was[k.ID] = k.Score
		}
		for _, k := range after.Causes {
			if slices.ContainsFunc(k.For, func(w Weight) bool { return w.Evidence == e.ID }) {
				assert.GreaterOrEqual(t, k.Score, was[k.ID]-1e-12, "%s for %s", e.ID, k.ID)
			}
		}
	})
}

// Where every piece of evidence is a group of its own and none reaches the cap, the
// ranking is Bayes' rule: worked out here in probabilities, without logarithms.
func TestItIsBayesRule(t *testing.T) {
	c := Case{Fault: "F-TACKY", Material: "silicone", Evidence: map[string]string{"mix_pots": "one", "room_c": "cold", "lot_age": "mid"}}
	r, err := Rank(c)
	require.NoError(t, err)
	f, _ := FaultOf(c.Fault)
	sum, joint := 0.0, map[string]float64{}
	for id, a := range f.Causes {
		k, _ := CauseOf(id)
		p := a
		for e, s := range c.Evidence {
			of, _ := EvidenceOf(e)
			p *= chance(k, of, s)
		}
		joint[id] = p
		sum += p
	}
	for _, k := range r.Causes {
		assert.InDelta(t, joint[k.ID]/sum, k.P, 1e-12, k.ID)
	}
}

// A shop that saw one cause often believes it sooner, and never all the way.
func TestTheShopsOwnCountsMoveThePrior(t *testing.T) {
	before, err := Rank(Case{Fault: "F-TACKY"})
	require.NoError(t, err)
	after, err := Rank(Case{Fault: "F-TACKY", History: map[string]float64{"C-EARLY": 20}})
	require.NoError(t, err)
	assert.InDelta(t, (10*before.Prior["C-EARLY"]+20)/30, after.Prior["C-EARLY"], 1e-12)
	assert.Equal(t, "C-EARLY", after.Top)
	assert.Less(t, after.P["C-EARLY"], 1.0)
}

// The look that is offered first tells at least as much as the second, none tells more
// than there is to know, and what is known is not asked again.
func TestWhatToLookAtNext(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := aCase(t)
		n, err := Next(c, 100)
		require.NoError(t, err)
		for i, id := range n.Order {
			assert.NotContains(t, c.Evidence, id)
			assert.LessOrEqual(t, n.Gain[id], n.Entropy+1e-9)
			if i > 0 {
				assert.GreaterOrEqual(t, n.Gain[n.Order[i-1]], n.Gain[id]-1e-9)
			}
		}
		assert.Len(t, n.Order, n.Open)
	})
}

// Every entry of the tables is known to the others: no cause, evidence or state is
// named that is not there, and shares sum to one.
func TestTheTablesHang(t *testing.T) {
	assert.Len(t, Faults(), 64)
	assert.Len(t, Causes(), 94)
	assert.Len(t, AllEvidence(), 93)
	for _, f := range Faults() {
		sum := 0.0
		for id, share := range f.Causes {
			_, known := CauseOf(id)
			assert.True(t, known, "%s of %s", id, f.ID)
			sum += share
		}
		assert.InDelta(t, 1, sum, 1e-9, f.ID)
	}
	for _, c := range Causes() {
		for id, states := range c.Ratios {
			e, known := EvidenceOf(id)
			require.True(t, known, "%s of %s", id, c.ID)
			for s := range states {
				assert.True(t, e.Knows(s), "%s %s of %s", id, s, c.ID)
			}
		}
	}
	for _, e := range AllEvidence() {
		sum := 0.0
		for _, s := range e.States {
			sum += s.P0
		}
		assert.InDelta(t, 1, sum, 1e-9, e.ID)
	}
}

func TestACaseThatCannotBe(t *testing.T) {
	for field, c := range map[string]Case{
		"fault":           {Fault: "F-NONE"},
		"material":        {Fault: "F-TACKY", Material: "wax"},
		"evidence.room_c": {Fault: "F-TACKY", Evidence: map[string]string{"room_c": "warmish"}},
		"history.C-SWEAT": {Fault: "F-TACKY", History: map[string]float64{"C-SWEAT": 1}},
		"history.C-EARLY": {Fault: "F-TACKY", History: map[string]float64{"C-EARLY": -1}},
	} {
		_, err := Rank(c)
		var refused *refusal.Error
		require.ErrorAs(t, err, &refused, field)
		assert.Equal(t, field, refused.Field)
		_, err = Next(c, 3)
		require.ErrorAs(t, err, &refused, field)
	}
}

func BenchmarkLookNext(b *testing.B) {
	c := Case{Fault: "F-TACKY", Material: "silicone", Evidence: map[string]string{"ratio_error_pct": "ok", "room_c": "ok"}}
	for b.Loop() {
		if _, err := Next(c, 3); err != nil {
			b.Fatal(err)
		}
	}
}
