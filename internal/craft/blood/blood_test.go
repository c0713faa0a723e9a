package blood

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// What was made to run by the law is read back by the fit: the second way.
func TestAFitFindsTheStuffThatRan(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mu := rapid.Float64Range(0.05, 30).Draw(t, "viscosity")
		f := Flow{ViscosityPas: mu, Density: 1350, TiltDeg: rapid.Float64Range(20, 90).Draw(t, "tilt"), FilmMM: 0.3, VolumeML: 0.3, WidthMM: 4, SurfaceNM: 0.06, Hysteresis: 0}
		w := Watched{VolumeML: f.VolumeML, WidthMM: f.WidthMM, TiltDeg: f.TiltDeg, Density: f.Density}
		for _, s := range []float64{5, 20, 60, 180} {
			f.TimeS = s
			w.Readings = append(w.Readings, [2]float64{s, *Of(f).Distance})
		}
		assert.NoError(t, w.Check())
		fit := FitOf(w)
		assert.InEpsilon(t, mu, *fit.Viscosity, 1e-6)
		assert.Equal(t, Class(mu), *fit.Class)
		assert.InDelta(t, 1.0/3, *fit.Exponent, 1e-6)
		assert.Empty(t, fit.Warnings)
	})
}

func TestThickenerThickensAndWaterThins(t *testing.T) {
	running, gel := Base{60, 40, 0}.Viscosity(), Base{64, 33, 3}.Viscosity()
	assert.InEpsilon(t, 0.7360, running, 1e-3, "the reference of the chapter on colour")
	assert.Equal(t, Pouring, Class(running))
	assert.Greater(t, gel, running)
	assert.Less(t, Base{38, 62, 0}.Viscosity(), running)
	assert.Len(t, Kinds(), 8)
}
