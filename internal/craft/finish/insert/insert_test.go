package insert

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/finish/tables"
)

// The chance that enough are good is the sum over the binomial's tail, and one fewer
// would not have been enough.
func TestTheLeastNumberThatIsEnough(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := Batch{Need: rapid.IntRange(0, 60).Draw(t, "need"), Yield: rapid.Float64Range(0.2, 0.99).Draw(t, "yield"), Confidence: rapid.Float64Range(0.5, 0.999).Draw(t, "conf")}
		m, err := Plan(b)
		require.NoError(t, err)
		tail := 0.0
		lg := func(x int) float64 { v, _ := math.Lgamma(float64(x + 1)); return v }
		for k := b.Need; k <= m.Make; k++ {
			tail += math.Exp(lg(m.Make) - lg(k) - lg(m.Make-k) + float64(k)*math.Log(b.Yield) + float64(m.Make-k)*math.Log(1-b.Yield))
		}
		assert.InDelta(t, tail, m.P, 1e-9)
		assert.GreaterOrEqual(t, m.P, b.Confidence-1e-9)
		if m.Make > 0 {
			assert.Less(t, m.OneLess, b.Confidence)
		}
	})
}

// What is known from few asks for more than what is known from many.
func TestLittleKnownAsksForMore(t *testing.T) {
	few, err := Plan(Batch{Need: 20, Made: 5, Good: 4, Confidence: 0.95})
	require.NoError(t, err)
	many, err := Plan(Batch{Need: 20, Made: 500, Good: 400, Confidence: 0.95})
	require.NoError(t, err)
	assert.Greater(t, few.Make, many.Make)
	_, err = Plan(Batch{Need: 20, Made: 400, Good: 0, Confidence: 0.99})
	assert.ErrorContains(t, err, "test batch")
}

func TestALongerLeverAndAFasterWearerLoadAFixingMore(t *testing.T) {
	glue, _ := tables.FixingOf("contact_glue")
	acting, _ := tables.MotionOf("acting")
	running, _ := tables.MotionOf("running")
	l := Load{MassG: 10, ArmMM: 20, Fixing: glue, Motion: acting, BaseMM: 8, Safety: 3, AreaMM2: 60, Strength: glue.Strength}
	base := Hold(l)
	assert.InDelta(t, 0.010*9.80665*2, base.ForceN, 1e-12)
	l.ArmMM = 40
	assert.Greater(t, Hold(l).Use, base.Use)
	l.ArmMM, l.Motion = 20, running
	assert.InDelta(t, 2*base.Use, Hold(l).Use, 1e-12)
}

func TestBagsHoldTheTarget(t *testing.T) {
	for _, f := range tables.Fillers() {
		w := Weight{TargetG: 1500, Filler: f, BagML: 60, Fill: 0.7, WornH: 6, Sweat: true}
		b := Weigh(w)
		assert.InDelta(t, 1500, b.PerBagG*float64(b.Bags), 1e-9)
		assert.LessOrEqual(t, b.PerBagG/f.GPerML, w.BagML*w.Fill+1e-9, "no bag is fuller than asked")
		assert.Equal(t, f.Organic, b.WetGainG > 0)
	}
}
