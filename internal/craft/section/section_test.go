package section

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
)

func shelf(t require.TestingT) material.Shelf {
	list, err := material.Library()
	require.NoError(t, err)
	for _, p := range list {
		require.NoError(t, p.Check(), p.Slug)
	}
	return material.NewShelf(list)
}

func cheek() Section {
	return Section{Cut: Cut{HalfWidthMM: 48, AreaCM2: 34, Layers: []Layer{
		{ID: "skin", Kind: Skin},
		{ID: "b", Kind: Barrier, Material: "barrier-film", Coats: 1, CoatMM: 0.01},
		{ID: "g", Kind: Adhesive, Material: "adhesive-acrylic", Coats: 2, CoatMM: 0.04},
		{ID: "e1", Kind: Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.025},
		{ID: "s", Kind: Silicone, Material: "silicone-gel", CentreMM: 6, EdgeMM: 0},
		{ID: "e2", Kind: Encapsulator, Material: "encapsulator-acetone", Coats: 3, CoatMM: 0.025},
		{ID: "p", Kind: Paint, Material: "paint-alcohol", Coats: 5, CoatMM: 0.006, Extent: PastEdge, StopMM: 30},
		{ID: "d", Kind: Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01},
	}}}
}

func TestThicknessAndMassOfTheCheek(t *testing.T) {
	s := cheek()
	require.NoError(t, s.Check(shelf(t)))
	r := s.Work(shelf(t), Room{21, 0.5})
	assert.InDelta(t, 6.125, r.CentreMM, 1e-9)
	assert.InDelta(t, 0.125, r.EdgeMM, 1e-9)
	// ∫ 2u(1 − 3u² + 2u³) du = 0.3, so the body's mean is 1.8 mm and its mass
	// 34 · 0.18 · 1.07.
	assert.InDelta(t, 1.8, r.Layers[4].MeanMM, 1e-9)
	assert.InDelta(t, 34*0.18*1.07, r.Layers[4].MassG, 1e-9)
	// Colour runs 30 mm past the edge: the ring counts.
	assert.InDelta(t, 34*0.003*math.Pow(78.0/48, 2)*1.15, r.Layers[6].MassG, 1e-9)
	assert.Equal(t, "silicone_addition", r.Family)
	sum, wet := 0.0, 0.0
	for _, m := range r.Materials {
		sum += m.Grams
	}
	for _, l := range r.Layers {
		wet += l.WetG
	}
	assert.InDelta(t, wet, sum, 1e-9, "what is drawn is what its layers take, wet")
	assert.Greater(t, wet, r.WornG)
	assert.Len(t, r.Words, len(s.Layers))
}

func TestMassScalesWithAreaAndThickness(t *testing.T) {
	lib := shelf(t)
	rapid.Check(t, func(t *rapid.T) {
		k := rapid.Float64Range(1, 3).Draw(t, "factor")
		a := cheek()
		b := cheek()
		b.AreaCM2 *= k
		c := cheek()
		c.Layers[4].CentreMM *= k
		ra, rb, rc := a.Work(lib, Room{21, 0.5}), b.Work(lib, Room{21, 0.5}), c.Work(lib, Room{21, 0.5})
		assert.InDelta(t, ra.WornG*k, rb.WornG, 1e-9*rb.WornG)
		assert.InDelta(t, ra.Layers[4].MassG*k, rc.Layers[4].MassG, 1e-9*rc.WornG)
	})
}

func TestLatexWithFibreBuildsHeightWithAir(t *testing.T) {
	lib := shelf(t)
	plain := Layer{ID: "l", Kind: Latex, Material: "latex-balloon", Coats: 1, CoatMM: 0.2}
	tissue := plain
	tissue.Fibre = "fibre-tissue"
	wide := Cut{HalfWidthMM: 30, AreaCM2: 20}
	bare, _ := plain.Thickness(wide, lib)
	built, _ := tissue.Thickness(wide, lib)
	assert.InDelta(t, 0.123, bare, 0.001, "0.2 mm wet at 60 % solids")
	assert.Greater(t, built-bare*1.75, 0.08, "tissue and what it soaks up")
	s := Section{Cut: Cut{HalfWidthMM: 30, AreaCM2: 20, Layers: []Layer{{ID: "skin", Kind: Skin}, tissue}}}
	r := s.Work(lib, Room{21, 0.5})
	assert.InDelta(t, tissue.Wet(lib).DrySolidsKgM2()*20/10, r.Layers[1].MassG, 1e-9, "air weighs nothing")
	assert.Positive(t, r.WaitingS)
}

func TestASectionThatCannotBeIsRefusedAtItsField(t *testing.T) {
	lib := shelf(t)
	for field, spoil := range map[string]func(*Section){
		"half_width_mm":       func(s *Section) { s.HalfWidthMM = 0 },
		"area_cm2":            func(s *Section) { s.AreaCM2 = -1 },
		"layers":              func(s *Section) { s.Layers = s.Layers[1:] },
		"layers[1].kind":      func(s *Section) { s.Layers[1].Kind = "jam" },
		"layers[2].id":        func(s *Section) { s.Layers[2].ID = "b" },
		"layers[2].material":  func(s *Section) { s.Layers[2].Material = "wax-soft" },
		"layers[4].centre_mm": func(s *Section) { s.Layers[4].CentreMM = 0 },
		"layers[4].edge_mm":   func(s *Section) { s.Layers[4].EdgeMM = 99 },
		"layers[3].coats":     func(s *Section) { s.Layers[3].Coats = 0 },
		"layers[3].coat_mm":   func(s *Section) { s.Layers[3].CoatMM = 9 },
		"layers[5].fibre":     func(s *Section) { s.Layers[5].Fibre = "fibre-tissue" },
		"layers[6].extent":    func(s *Section) { s.Layers[6].Extent = "sideways" },
		"layers[6].stop_mm":   func(s *Section) { s.Layers[6].StopMM = -2 },
	} {
		s := cheek()
		spoil(&s)
		var r *refusal.Error
		require.ErrorAs(t, s.Check(lib), &r, field)
		assert.Equal(t, field, r.Field)
	}
}

func BenchmarkWork(b *testing.B) {
	lib, s := shelf(b), cheek()
	for b.Loop() {
		s.Work(lib, Room{21, 0.5})
	}
}

// What is poured into a piece is poured into all of it: two equal halves take
// what the whole takes, whatever the body is of.
func TestTheBodyIsOfEveryCut(t *testing.T) {
	lib := shelf(t)
	whole := cheek()
	r := whole.Work(lib, Room{21, 0.5})
	assert.InDelta(t, 34, r.Body.AreaCM2, 1e-9)
	assert.InDelta(t, 1.8, r.Body.MeanMM, 1e-9)
	assert.InDelta(t, 34*0.18, r.Body.VolumeML, 1e-9)

	halves := cheek()
	halves.AreaCM2 = 17
	other := cheek().Cut
	other.ID, other.Name, other.AreaCM2 = "two", "brow", 17
	halves.More = []Cut{other}
	h := halves.Work(lib, Room{21, 0.5})
	assert.InDelta(t, r.Body.VolumeML, h.Body.VolumeML, 1e-9)
	assert.InDelta(t, r.Body.AreaCM2, h.Body.AreaCM2, 1e-9)

	foam := Section{Cut: Cut{HalfWidthMM: 48, AreaCM2: 34, Layers: []Layer{{ID: "skin", Kind: Skin}, {ID: "f", Kind: Foam, Material: "foam-latex", CentreMM: 6}}}}
	assert.InDelta(t, 34*0.18, foam.Work(lib, Room{21, 0.5}).Body.VolumeML, 1e-9)
}
