package section

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/refusal"
)

func measuredCheek() Section {
	s := cheek()
	s.Layers[4].CentreMM, s.Layers[4].EdgeMM = 5, 0.5
	s.Layers[4].Measured = &Measured{Scan: 7, Name: "cheek.stl", ProfileMM: []float64{5, 4, 3, 1.5, 0.5}}
	return s
}

// A measured body is drawn, weighed and said as it was measured.
func TestAMeasuredBodyFollowsItsProfile(t *testing.T) {
	s := measuredCheek()
	require.NoError(t, s.Check(shelf(t)))
	r := s.Work(shelf(t), Room{21, 0.5})
	// ∫ t 2u du of straight lines between a and b, in closed form.
	mean := 0.0
	for k, p := range s.Layers[4].Measured.ProfileMM[:4] {
		a, b, q := float64(k)/4, float64(k+1)/4, s.Layers[4].Measured.ProfileMM[k+1]
		mean += (b - a) / 3 * (p*(2*a+b) + q*(a+2*b))
	}
	assert.InDelta(t, mean, r.Layers[4].MeanMM, 1e-9)
	assert.InDelta(t, 34*mean/10*1.07, r.Layers[4].MassG, 1e-9)
	assert.InDelta(t, 3.5, s.Layers[4].heightAt(s.Cut, shelf(t), 48*3./8), 1e-12)
	assert.Contains(t, r.Words[4], "as measured")

	// One that happens to fall as a planned one does weighs the same.
	planned, same := cheek(), cheek()
	m := &Measured{Scan: 1}
	for k := range 65 {
		m.ProfileMM = append(m.ProfileMM, 6*bodyProfile(float64(k)/64))
	}
	same.Layers[4].Measured = m
	require.NoError(t, same.Check(shelf(t)))
	assert.InDelta(t, planned.Layers[4].mean(planned.Cut, shelf(t)), same.Layers[4].mean(same.Cut, shelf(t)), 2e-3)
	assert.Len(t, Differences(planned, same, shelf(t)), 1, "that it is measured now is a difference")
}

func TestAMeasureThatCannotBeIsRefused(t *testing.T) {
	for name, spoil := range map[string]func(*Layer){
		"layers[4].measured":               func(l *Layer) { l.CentreMM = 6 },
		"layers[4].measured.profile_mm[2]": func(l *Layer) { l.Measured.ProfileMM[2] = math.NaN() },
		"layers[4].measured.profile_mm[1]": func(l *Layer) { l.Measured.ProfileMM[1] = -1 },
	} {
		s := measuredCheek()
		spoil(&s.Layers[4])
		var told *refusal.Error
		require.ErrorAs(t, s.Check(shelf(t)), &told, name)
		assert.Equal(t, name, told.Field)
	}
	for _, spoil := range []func(*Section){
		func(s *Section) { s.Layers[4].Measured.ProfileMM = []float64{5} },
		func(s *Section) { s.Layers[4].Measured.Scan = 0 },
		func(s *Section) { s.Layers[3].Measured = &Measured{Scan: 1, ProfileMM: []float64{1, 1}} },
	} {
		s := measuredCheek()
		spoil(&s)
		assert.Error(t, s.Check(shelf(t)))
	}
}
