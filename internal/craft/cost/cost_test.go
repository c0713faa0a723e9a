package cost

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Parts add up to the whole, and none is a unit away from its share.
func TestSharesAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		total := rapid.Int64Range(0, 1e12).Draw(t, "total")
		weights := rapid.SliceOfN(rapid.Int64Range(0, 1000), 1, 40).Draw(t, "weights")
		sum, all := int64(0), int64(0)
		for _, w := range weights {
			all += w
		}
		for i, v := range Shares(total, weights) {
			sum += v
			if all > 0 {
				assert.InDelta(t, float64(total)*float64(weights[i])/float64(all), float64(v), 1.001)
			}
		}
		if all > 0 {
			assert.Equal(t, total, sum)
		}
	})
}

// The causes of a difference are the difference.
func TestCausesAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := func(name string) Number { return Of(rapid.Int64Range(0, 10_000).Draw(t, name)) }
		v := Why([]WorkedHours{{n("a"), n("b"), n("c"), n("d")}}, []UsedMaterial{{n("e"), n("f"), n("g"), n("h"), n("i"), n("j")}})
		assert.InDelta(t, v.Total, v.LabourRate+v.LabourEfficiency+v.MaterialPrice+v.MaterialUsage+v.Yield, 1e-3)
		assert.InDelta(t, v.Actual-v.Estimate, v.Total, 1e-3)
	})
}

func TestAQuoteThatCannotBe(t *testing.T) {
	for field, j := range map[string]Job{"casts": {Good: 5, Casts: 4}, "margin_pct": {Good: 1, Casts: 1, MarginPct: Of(100)}, "labour.per": {Good: 1, Casts: 1, Labour: []Labour{{Per: "moon"}}}, "tooling.life": {Good: 1, Casts: 1, Tooling: Tooling{Cost: 5}}} {
		_, err := j.Quote()
		require.Error(t, err)
		assert.ErrorContains(t, err, map[string]string{"casts": "cannot give", "margin_pct": "margin", "labour.per": "Per cast", "tooling.life": "stand"}[field])
	}
	var n Number
	for _, bad := range []string{`"1e99999"`, `"1/3"`, `true`, `"0x10"`} {
		assert.Error(t, n.UnmarshalJSON([]byte(bad)), bad)
	}
}
