package paintwork_test

import (
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/texture"
)

func shop(t *testing.T) material.Shelf {
	list, err := material.Library()
	require.NoError(t, err)
	return material.NewShelf(list)
}

func ground() colour.Spectrum { return colour.UsualSkin.Reflectance() }

func one(l paintwork.Layer) paintwork.Schedule {
	return paintwork.Schedule{Layers: []paintwork.Layer{l}}
}

func on(t *testing.T, s paintwork.Schedule, shelf material.Shelf) paintwork.Painted {
	require.NoError(t, s.Check(shelf, nil))
	p, err := s.On(ground(), 100, nil, shelf, nil, nil)
	require.NoError(t, err)
	return p
}

func lab(l, a, b float64) *colour.Lab { return &colour.Lab{L: l, A: a, B: b} }

func base() paintwork.Layer {
	return paintwork.Layer{ID: "a", Role: "base", Medium: "paint-cream", Tool: "brush", Lab: lab(40, 20, 15)}
}

// Paint of no coverage changes nothing; thick and often it is its own colour; more passes
// and less thinner only take it nearer.
func TestPaintBetweenNothingAndItsOwnColour(t *testing.T) {
	shelf := shop(t)
	l := base()
	l.Coverage = 1e-9
	p := on(t, one(l), shelf)
	assert.InDelta(t, 0, p.Steps[0].Moves, 1e-3)
	l = base()
	l.FilmMM, l.Passes = 1, 10
	assert.Less(t, colour.DE00(on(t, one(l), shelf).End, *l.Lab), 0.05)
	last := math.Inf(1)
	for n := 1; n <= 6; n++ {
		l := base()
		l.Passes = n
		off := colour.DE00(on(t, one(l), shelf).End, *l.Lab)
		assert.LessOrEqual(t, off, last+1e-9, "%d passes", n)
		last = off
	}
	last = -1
	for _, d := range []float64{0, 1, 3, 9, 30} {
		l := base()
		l.Dilution, l.FilmMM = d, 0.03
		p := on(t, one(l), shelf)
		off := colour.DE00(p.End, *l.Lab)
		assert.GreaterOrEqual(t, off, last-1e-9, "1 : %g", d)
		last = off
		assert.InDelta(t, p.Steps[0].Covered, 1, 1e-9)
		for _, v := range p.Spectrum() {
			assert.True(t, v >= 0 && v <= 1)
		}
	}
}

// What is taken is area, film and density, with what the tool loses; thinned it is shared
// with the thinner; a half as large place takes half.
func TestWhatALayerTakes(t *testing.T) {
	shelf := shop(t)
	l := base()
	l.FilmMM, l.Coverage, l.Passes = 0.1, 0.5, 2
	s := on(t, one(l), shelf).Steps[0]
	tool, _ := paintwork.ToolOf("brush")
	ml := 100.0 * 0.5 * 0.01 * 2 / tool.Lands
	assert.InDelta(t, ml*shelf["paint-cream"].Mixed(), s.Grams, 1e-9)
	assert.Zero(t, s.ThinnerG)
	assert.InDelta(t, 1-0.25, s.Covered, 1e-12)
	l.Dilution = 3
	thin := on(t, one(l), shelf).Steps[0]
	assert.InDelta(t, s.Grams/4, thin.Grams, 1e-9)
	assert.Greater(t, thin.ThinnerG, 0.0)
	l.AreaShare = 0.5
	half := on(t, one(l), shelf).Steps[0]
	assert.InDelta(t, thin.Grams/2, half.Grams, 1e-9)
	assert.Less(t, half.Minutes, thin.Minutes)
	// A sponge is quicker than a brush.
	l = base()
	brush := on(t, one(l), shelf).Minutes
	l.Tool = "sponge"
	assert.Less(t, on(t, one(l), shelf).Minutes, brush)
	// A field of lines covers what it is wide of.
	l = base()
	l.Role, l.LineMM, l.ApartMM = "line", 1, 3
	assert.InDelta(t, 0.25, on(t, one(l), shelf).Steps[0].Covered, 1e-12)
}

// A layer that is mixed is the film of the colour chapter.
func TestAMixedLayerIsTheChaptersFilm(t *testing.T) {
	shelf := shop(t)
	l := paintwork.Layer{ID: "m", Role: "base", Medium: "paint-alcohol", Tool: "sponge", FilmMM: 0.04, Coverage: 0.6, Passes: 3,
		Mixed: []paintwork.Part{{Pigment: "RO", Per100G: 12}}}
	p := on(t, one(l), shelf)
	clear, err := colour.BaseOf("clear")
	require.NoError(t, err)
	body, err := clear.Mixed([]colour.Dose{{Pigment: "RO", G: 12}}, 0)
	require.NoError(t, err)
	r, _ := colour.Stack(ground(), []colour.Coat{{Coefficients: body, X: 0.04, Coverage: 0.6, Passes: 3}}, nil)
	assert.InDelta(t, 0, colour.DE00(r.Lab(colour.D65), p.End), 1e-9)
}

func TestWhatCannotBePainted(t *testing.T) {
	shelf := shop(t)
	for field, change := range map[string]func(*paintwork.Layer){
		"layers[0].medium": func(l *paintwork.Layer) { l.Medium = "silicone-gel" }, "layers[0].tool": func(l *paintwork.Layer) { l.Tool = "trowel" },
		"layers[0].role": func(l *paintwork.Layer) { l.Role = "joy" }, "layers[0].set": func(l *paintwork.Layer) { l.Set = "paint-cream" },
		"layers[0].lab": func(l *paintwork.Layer) { l.Lab = nil }, "layers[0].lab.l": func(l *paintwork.Layer) { l.Lab = lab(0, 0, 0) },
		"layers[0].line_mm": func(l *paintwork.Layer) { l.ApartMM = 2 }, "layers[0].mixed[0].pigment": func(l *paintwork.Layer) { l.Mixed = []paintwork.Part{{Pigment: "XX", Per100G: 1}} },
		"layers[0].mixed": func(l *paintwork.Layer) {
			l.Mixed = []paintwork.Part{{Pigment: "RO", Per100G: 30}, {Pigment: "YO", Per100G: 30}}
		},
	} {
		l := base()
		change(&l)
		assert.Equal(t, field, fieldOf(one(l).Check(shelf, nil)))
	}
	two := paintwork.Schedule{Layers: []paintwork.Layer{base(), base()}}
	assert.Equal(t, "layers[1].id", fieldOf(two.Check(shelf, nil)))
}

func fieldOf(err error) string {
	var no *refusal.Error
	if errors.As(err, &no) {
		return no.Field
	}
	return ""
}

func codes(p paintwork.Painted) map[string]bool {
	out := map[string]bool{}
	for _, n := range p.Notes {
		out[n.Code] = true
	}
	return out
}

// What the order asks for: each note comes where it should, and goes where it is heeded.
func TestWhatTheOrderAsksFor(t *testing.T) {
	shelf := shop(t)
	veins := paintwork.Layer{ID: "v", Role: "veins", Medium: "paint-cream", Tool: "brush", Lab: lab(40, 5, -5), LineMM: 0.5,
		ApartMM: 5}
	over := base()
	for code, c := range map[string][2]paintwork.Schedule{
		"lost":   {{Layers: []paintwork.Layer{veins, over}}, {Layers: []paintwork.Layer{over, veins}}},
		"hidden": {one(base()), one(func() paintwork.Layer { l := base(); l.Hidden, l.Tool = true, "finger"; return l }())},
		"hollows": {one(func() paintwork.Layer { l := base(); l.Hidden = true; return l }()),
			one(func() paintwork.Layer { l := base(); l.Hidden, l.Tool = true, "wash"; return l }())},
		"heavy": {one(func() paintwork.Layer { l := base(); l.StopDE = 1; return l }()),
			one(func() paintwork.Layer { l := base(); l.StopDE = 60; return l }())},
		"touching": {one(func() paintwork.Layer { l := veins; l.ApartMM = 0.1; return l }()), one(veins)},
		"set_first": {{Layers: []paintwork.Layer{func() paintwork.Layer { l := base(); l.Dry = "wet"; return l }(),
			{ID: "w", Role: "shadow", Medium: "paint-alcohol", Tool: "wash", Lab: lab(30, 5, 5)}}},
			{Layers: []paintwork.Layer{func() paintwork.Layer { l := base(); l.Dry, l.Set = "wet", "powder-translucent"; return l }(),
				{ID: "w", Role: "shadow", Medium: "paint-alcohol", Tool: "wash", Lab: lab(30, 5, 5)}}}},
		"dulls": {one(func() paintwork.Layer { l := base(); l.Shine, l.Set = "wet", "powder-translucent"; return l }()),
			one(func() paintwork.Layer { l := base(); l.Shine = "wet"; return l }())},
		"past_edge": {one(func() paintwork.Layer { l := base(); l.Medium, l.CarryMM = "paint-acrylic", 5; return l }()),
			one(func() paintwork.Layer { l := base(); l.CarryMM = 5; return l }())},
		"school": {{School: paintwork.LightFirst, Layers: []paintwork.Layer{{ID: "d", Role: "shadow", Medium: "paint-cream",
			Tool: "brush", Lab: lab(20, 5, 5)}, {ID: "l", Role: "highlight", Medium: "paint-cream", Tool: "brush", Lab: lab(80, 5, 9)}}},
			{School: paintwork.DarkFirst, Layers: []paintwork.Layer{{ID: "d", Role: "shadow", Medium: "paint-cream", Tool: "brush",
				Lab: lab(20, 5, 5)}, {ID: "l", Role: "highlight", Medium: "paint-cream", Tool: "brush", Lab: lab(80, 5, 9)}}}},
		"recheck": {one(base()), one(veins)},
	} {
		assert.True(t, codes(on(t, c[0], shelf))[code], code)
		assert.False(t, codes(on(t, c[1], shelf))[code], "%s is heeded", code)
	}
}

// A schedule stands in a section as its colours and what sets them, in its order.
func TestAScheduleInASection(t *testing.T) {
	shelf := shop(t)
	a, b := base(), base()
	a.Set, b.ID, b.CarryMM, b.Set = "powder-translucent", "b", 8, "sealer-acrylic"
	got := paintwork.Schedule{Layers: []paintwork.Layer{a, b}}.InSection(shelf)
	require.Len(t, got, 4)
	assert.Equal(t, []section.Kind{section.Paint, section.Powder, section.Paint, section.Seal},
		[]section.Kind{got[0].Kind, got[1].Kind, got[2].Kind, got[3].Kind})
	assert.Equal(t, section.PastEdge, got[2].Extent)
	assert.InDelta(t, 8, got[2].StopMM, 1e-12)
}

// Over a relief a wash gathers in hollows: on the flat little of it is seen. A trial scheme
// becomes a first draft with tools that lay like it.
func TestAScheduleOverARelief(t *testing.T) {
	shelf := shop(t)
	w := paintwork.Layer{ID: "w", Role: "shadow", Medium: "paint-alcohol", Tool: "wash", Lab: lab(15, 3, 3)}
	flat := on(t, one(w), shelf).Steps[0].Moves
	w.ReachMM = 3
	relief := on(t, one(w), shelf)
	assert.Less(t, relief.Steps[0].Moves, flat/2)
	scheme := one(w).Scheme(relief.Start, relief.Steps)
	require.Len(t, scheme.Layers, 1)
	assert.Equal(t, "wash", scheme.Layers[0].Kind)
	assert.Greater(t, scheme.Layers[0].Strength, 0.05)

	trial := texture.Scheme{Layers: []texture.Paint{{Kind: "base", Colour: colour.Lab{L: 60, A: 5, B: 9}, Strength: 1},
		{Kind: "wash", Colour: colour.Lab{L: 0, A: 0, B: 0}, Strength: 0.5, ReachMM: 2}, {Kind: "matt", Strength: 0.5}}}
	draft := paintwork.FromScheme(trial, "paint-alcohol")
	require.NoError(t, draft.Check(shelf, nil))
	assert.Equal(t, []string{"sponge", "wash", "sponge"}, []string{draft.Layers[0].Tool, draft.Layers[1].Tool, draft.Layers[2].Tool})
}

// BenchmarkScheduleOf12Layers is what a slider asks for, without the relief.
func BenchmarkScheduleOf12Layers(b *testing.B) {
	list, err := material.Library()
	if err != nil {
		b.Fatal(err)
	}
	shelf := material.NewShelf(list)
	s := paintwork.Schedule{}
	for i := range 12 {
		l := base()
		l.ID = string(rune('a' + i))
		l.Lab = lab(30+4*float64(i), 10, 12)
		l.Coverage, l.Dilution = 0.4, float64(i%4)
		s.Layers = append(s.Layers, l)
	}
	target := ground()
	for b.Loop() {
		if _, err := s.On(ground(), 60, &target, shelf, nil, nil); err != nil {
			b.Fatal(err)
		}
	}
}
