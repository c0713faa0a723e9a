package edge

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func aLook(t *rapid.T) Look {
	l := Usual(rapid.Float64Range(0.01, 3).Draw(t, "step"), rapid.Float64Range(0.3, 20).Draw(t, "distance"))
	l.RampMM = rapid.Float64Range(0, 20).Draw(t, "ramp")
	l.LightDeg = rapid.Float64Range(3, 85).Draw(t, "light")
	l.Fill = rapid.Float64Range(0, 1).Draw(t, "fill")
	return l
}

// An edge seen from farther away is never plainer; with all light soft no shade is left;
// and where it is told to vanish, it just does.
func TestFartherIsNeverPlainer(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := aLook(t)
		near := See(l)
		far := l
		far.DistanceM *= 2
		assert.LessOrEqual(t, See(far).Visibility, near.Visibility+1e-12)
		soft := l
		soft.Fill = 1
		assert.InDelta(t, 0, See(soft).Shade, 1e-12)
		if d := near.Vanish; d > 0.1 {
			at := l
			at.DistanceM = d
			assert.InDelta(t, 1, See(at).Shade, 1e-6)
		}
	})
}

func TestColourThatStopsAtTheRimShowsFartherThanTheStep(t *testing.T) {
	l := Usual(0.05, 2)
	l.ColourContrast = 0.2
	v := See(l)
	assert.Greater(t, v.Colour, v.Shade)
	l.BlendMM = 30
	assert.Less(t, See(l).Colour, v.Colour)
}

// More coats never leave a higher step, and never a steeper slope.
func TestMoreCoatsNeverLeaveAHigherStep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := UsualStipple(rapid.Float64Range(0, 3).Draw(t, "step"), rapid.Float64Range(10, 400).Draw(t, "length"))
		s.TargetMM = rapid.Float64Range(0.01, 0.8).Draw(t, "target")
		a := Stipple(s)
		s.TargetMM /= 2
		b := Stipple(s)
		assert.GreaterOrEqual(t, b.Coats, a.Coats)
		assert.LessOrEqual(t, b.Residual, a.Residual+1e-12)
		assert.GreaterOrEqual(t, b.WetML, a.WetML-1e-12)
		assert.LessOrEqual(t, a.Residual, 2*s.TargetMM+1e-9)
	})
}

func TestNothingWithLatexOnAWearerWhoTakesNone(t *testing.T) {
	for _, m := range Materials() {
		w := WaysOf(Rim{Material: m.ID, StepMM: 0.1})
		for _, id := range w.Ways {
			way, _ := MethodOf(id)
			assert.False(t, way.Latex || m.Latex, "%s on %s", id, m.ID)
		}
		for _, id := range WaysOf(Rim{Material: m.ID, StepMM: 0.1, LatexOK: true, NearEye: true}).Ways {
			way, _ := MethodOf(id)
			assert.NotEqual(t, "no", way.Eye, "%s near the eye", id)
		}
		assert.Len(t, m.Ways, len(w.Ways)+len(w.Refused))
	}
}
