package section

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	craftfoam "yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/refusal"
)

// What a copy takes is drawn wet, and every way has all the parts of its cost.
func TestEveryFamilyIsDrawnWetAndPricedWhole(t *testing.T) {
	lib := shelf(t)
	for _, m := range Methods {
		s, known := House(m.Slug, 900, 6, lib)
		require.True(t, known)
		require.NoError(t, s.Check(lib), m.Slug)
		r := s.Work(lib, Room{TempC: 21, RH: 0.5})
		parts, sum := map[string]int64{}, int64(0)
		for _, c := range r.Cost {
			parts[c.Part] += c.Minor
			sum += c.Minor
		}
		assert.Equal(t, r.Minor, sum, m.Slug)
		assert.InDelta(t, 0.15*float64(parts[CostLayers]), float64(parts[CostWaste]), 1, m.Slug)
		fibre := 0.0
		for i, l := range s.Layers {
			got := r.Layers[i]
			assert.GreaterOrEqual(t, got.WetG, got.MassG*(1-1e-9)-l.FibreCM2(s.Cut)*0.01, "%s: %s is worn heavier than it is drawn", m.Slug, l.ID)
			fibre += l.FibreCM2(s.Cut)
		}
		assert.Equal(t, fibre > 0, parts[CostFibre] > 0, m.Slug)
		assert.Equal(t, s.Made.Release != "" && r.MadeOn == InMould, parts[CostRelease] > 0, m.Slug)
	}
}

// Latex of 60 % solids loses what is not rubber; foam is drawn as liquid; film loses
// its solvent.
func TestWetMassByHand(t *testing.T) {
	lib := shelf(t)
	c := Cut{HalfWidthMM: 40, AreaCM2: 50}
	latex := Layer{Kind: Latex, Material: "latex-balloon", Coats: 3, CoatMM: 0.2}
	r := latex.work(c, Section{Cut: c}, lib, Room{21, 0.5}, 1)
	assert.InEpsilon(t, 3*50*0.02/(0.6/0.930+0.4/0.998), r.WetG, 1e-9)
	assert.InEpsilon(t, 0.6*r.WetG, r.MassG, 1e-9)
	latex.Fibre = "fibre-tissue"
	soaked := latex.work(c, Section{Cut: c}, lib, Room{21, 0.5}, 1)
	assert.InEpsilon(t, r.WetG+3*50*0.0018*5, soaked.WetG, 1e-9, "tissue drinks five times its own weight")
	foam := Layer{Kind: Foam, Material: "foam-latex", CentreMM: 10}
	r = foam.work(c, Section{Cut: c}, lib, Room{21, 0.5}, 1)
	assert.InEpsilon(t, 50*0.3*0.15, r.MassG, 1e-6)
	assert.InEpsilon(t, r.MassG/0.6*0.95*0.95*0.95, r.WetG, 1e-9, "it shrinks out of the hollow that it fills wet")
	rise := craftfoam.Of(craftfoam.Rise{VolumeRise: 4.5, MixKg: 1, Solids: 0.6, Shrink: craftfoam.UsualShrink, Overfill: 1, CavityM3: 15e-6})
	assert.InEpsilon(t, rise.NeededKg*1000, r.WetG, 0.02, "the shelf's density and the house recipe's rise are one figure")
	film := Layer{Kind: Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.025}
	r = film.work(c, Section{Cut: c}, lib, Room{21, 0.5}, 1)
	assert.InEpsilon(t, r.MassG/0.18, r.WetG, 1e-9)
}

// What is stirred in is drawn from its own lots, and the whole stays the whole.
func TestSoftenerAndPigmentAreSharesOfTheBody(t *testing.T) {
	lib := shelf(t)
	s, _ := House("silicone_encapsulated", 30, 6, lib)
	r := s.Work(lib, Room{21, 0.5})
	grams := map[string]float64{}
	for _, m := range r.Materials {
		grams[m.Slug] = m.Grams
	}
	assert.InEpsilon(t, 0.60, grams["softener"]/grams["silicone-gel"], 1e-9)
	assert.InEpsilon(t, 0.012, grams["pigment-flesh"]/grams["silicone-gel"], 1e-9)
	assert.InEpsilon(t, r.Of("body").WetG, grams["softener"]+grams["silicone-gel"]+grams["pigment-flesh"], 1e-9)
	wrong := func(with ...Stir) error {
		s.Layers[4].With = with
		return s.Check(lib)
	}
	require.Equal(t, Silicone, s.Layers[4].Kind)
	assert.ErrorContains(t, wrong(Stir{"pigment-flesh", 3.1}), "at most 3 %")
	assert.ErrorContains(t, wrong(Stir{"latex-balloon", 1}), "each once")
	assert.ErrorContains(t, wrong(Stir{"softener", 20}, Stir{"softener", 20}), "each once")
	assert.NoError(t, wrong())
}

// Believing another volume moves mass, material, money and times of the body in
// every family, and nothing of the drawing.
func TestTheBelievedVolumeIsFollowedInEveryFamily(t *testing.T) {
	lib := shelf(t)
	rapid.Check(t, func(t *rapid.T) {
		m := rapid.SampledFrom(Methods).Draw(t, "method")
		s, _ := House(m.Slug, rapid.Float64Range(5, 200).Draw(t, "area"), rapid.Float64Range(1, 9).Draw(t, "height"), lib)
		k := rapid.Float64Range(1.05, 3).Draw(t, "times")
		drawn := s.Work(lib, Room{21, 0.5})
		assert.InEpsilon(t, s.DrawnML(lib), drawn.Body.VolumeML, 1e-9)
		got := s.WorkBy(lib, Room{21, 0.5}, Believed{VolumeML: k * drawn.Body.VolumeML})
		assert.InEpsilon(t, k*drawn.Body.VolumeML, got.Body.VolumeML, 1e-9)
		assert.InEpsilon(t, k, got.Body.Times, 1e-9)
		assert.Equal(t, drawn.CentreMM, got.CentreMM)
		assert.Equal(t, drawn.EdgeMM, got.EdgeMM)
		assert.Greater(t, got.WornG, drawn.WornG)
		assert.GreaterOrEqual(t, got.Minor, drawn.Minor)
		assert.GreaterOrEqual(t, got.WaitingS, drawn.WaitingS, "more of it never waits less")
		assert.Equal(t, drawn, s.WorkBy(lib, Room{21, 0.5}, Believed{}))
	})
}

// Another area moves what lies over it, and leaves the volume of the body alone.
func TestTheBelievedAreaIsFollowedByFilms(t *testing.T) {
	lib := shelf(t)
	s := cheek()
	drawn := s.Work(lib, Room{21, 0.5})
	wider := s.WorkBy(lib, Room{21, 0.5}, Believed{AreaCM2: 2 * s.TotalCM2()})
	assert.InEpsilon(t, 2, wider.Body.AreaCM2/drawn.Body.AreaCM2, 1e-9)
	assert.InEpsilon(t, drawn.Body.VolumeML, wider.Body.VolumeML, 1e-9)
	assert.InEpsilon(t, drawn.Of("s").MassG, wider.Of("s").MassG, 1e-9)
	assert.InEpsilon(t, 2*drawn.Of("e2").MassG, wider.Of("e2").MassG, 1e-9)
	assert.Equal(t, cheek(), s, "the drawing stays what it is")
}

// A shape drawn by hand has its own mean; a straight fall has a third of a cone.
func TestAShapeDrawnByHand(t *testing.T) {
	lib := shelf(t)
	s := cheek()
	straight := []float64{6, 4.5, 3, 1.5, 0}
	s.Layers[4].Shape = &Shape{From: ByHand, ProfileMM: straight}
	require.NoError(t, s.Check(lib))
	assert.InDelta(t, 2, s.Work(lib, Room{21, 0.5}).Layers[4].MeanMM, 1e-9, "a cone's mean is a third of its height")
	// Flat to three quarters, then down by t·t·(3 − t)·6 less: straight at its end, level
	// where it begins. By hand: 6·9/16 + ∫ over the last ring, in 100 000 steps.
	s.Layers[4].Shape.ProfileMM = []float64{6, 6, 6, 6, 0}
	mean := s.Work(lib, Room{21, 0.5}).Layers[4].MeanMM
	ring := 0.0
	for i := range 100000 {
		x := (float64(i) + 0.5) / 100000
		u := 0.75 + 0.25*x
		ring += (6 - 12*x*x + 6*x*x*x) * 2 * u * 0.25 / 100000
	}
	assert.InDelta(t, 6*9.0/16+ring, mean, 1e-6)
	rapid.Check(t, func(t *rapid.T) {
		mm := rapid.SliceOfN(rapid.Float64Range(0, 20), 5, 5).Draw(t, "mm")
		u := rapid.Float64Range(0, 1).Draw(t, "u")
		k := min(int(u*4), 3)
		got := Shape{ProfileMM: mm}.drawn(u)
		assert.LessOrEqual(t, got, math.Max(mm[k], mm[k+1])+1e-9, "it swings over no place")
		assert.GreaterOrEqual(t, got, math.Min(mm[k], mm[k+1])-1e-9)
		assert.InDelta(t, mm[k], Shape{ProfileMM: mm}.drawn(float64(k)/4), 1e-9)
	})
	for field, wrong := range map[string]Shape{
		"layers[4].shape":               {From: ByHand, ProfileMM: []float64{6, 0}},
		"layers[4].shape.profile_mm[1]": {From: ByHand, ProfileMM: []float64{6, math.NaN(), 0}},
	} {
		s.Layers[4].Shape = &wrong
		var told *refusal.Error
		require.ErrorAs(t, s.Check(lib), &told)
		assert.Equal(t, field, told.Field)
	}
	s.Layers[4].Shape = &Shape{From: "scan", ProfileMM: straight}
	assert.Error(t, s.Check(lib))
	s.Layers[4].Shape = &Shape{From: ByHand, ProfileMM: []float64{5, 4, 0}}
	assert.ErrorContains(t, s.Check(lib), "ends")
}

// Foam and paste take longer the thicker they are; no figure stands still.
func TestWaitsMoveWithThickness(t *testing.T) {
	lib := shelf(t)
	for _, m := range []string{"foam_latex", "gelatin_animal", "household_paste", "latex_paste"} {
		waits := []float64{}
		for _, mm := range []float64{4, 8, 16} {
			s, known := House(m, 30, mm, lib)
			if !known {
				t.Fatalf("no method %s", m)
			}
			waits = append(waits, s.Work(lib, Room{21, 0.5}).WaitingS)
		}
		assert.Less(t, waits[0], waits[1], m)
		assert.Less(t, waits[1], waits[2], m)
	}
}
