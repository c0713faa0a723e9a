package recipe

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/substance"
)

func usual(t require.TestingT) material.Shelf {
	list, err := material.Library()
	require.NoError(t, err)
	return material.NewShelf(list)
}

func TestEveryBuiltInRecipeCanBeMade(t *testing.T) {
	shelf := usual(t)
	families := map[material.Family]bool{}
	for _, h := range Library() {
		assert.NoError(t, h.Check(shelf), h.Slug)
		families[shelf[h.Makes].Family] = true
		sheet, err := mix.PourSheet(h.Mix(shelf), 500, 0.1)
		require.NoError(t, err, h.Slug)
		sum := 0.0
		for _, l := range sheet {
			sum += l.Grams
		}
		assert.InDelta(t, 500, sum, 0.5, h.Slug)
		weighed := 0
		for _, s := range h.Order() {
			if s.Act == Weigh {
				weighed++
			}
		}
		assert.Equal(t, len(h.Lines), weighed, "%s weighs every line once", h.Slug)
	}
	for _, f := range []material.Family{material.SiliconeAddition, material.SiliconeCondensation, material.Latex, material.LatexPaste, material.FoamLatex, material.Gelatin,
		material.Gypsum, material.CastOfLife, material.Resin, material.FoamPolyurethane, material.Encapsulator, material.PaintAdhesive, material.PaintSilicone,
		material.PaintAlcohol, material.PaintWater, material.Blood, material.HouseholdPaste, material.Wax, material.Pigment} {
		assert.True(t, families[f], "a new shop can mix %s", f)
	}
}

// What the recipes state, of the families that can hurt.
func TestWhatFollowsFromIngredients(t *testing.T) {
	shelf := usual(t)
	follow := func(slug string) Follows {
		r, known := BuiltIn(slug)
		require.True(t, known, slug)
		return r.Follow(substance.Usual, shelf)
	}
	needs := func(f Follows) (codes []string) {
		for _, n := range f.Confirm {
			codes = append(codes, n.Code)
		}
		return codes
	}
	pu := follow("foam-pu")
	assert.Subset(t, needs(pu), []string{"trained", "respirator", "extraction", "air", "gloves"})
	assert.Equal(t, Off, pu.Touch)
	assert.Contains(t, pu.Exposes, "isocyanates")

	stone := follow("stone-30")
	assert.Subset(t, needs(stone), []string{"mask"})
	assert.Contains(t, stone.Exposes, "dust")

	film := follow("encapsulator-acetone-spray")
	assert.Subset(t, needs(film), []string{"no_flame", "air"})

	edible := follow("blood-edible")
	assert.Equal(t, Mouth, edible.Touch)
	assert.Contains(t, needs(edible), "food_only")
	assert.Contains(t, edible.Allergens, "cocoa")
	assert.Contains(t, edible.Allergens, "maize and its syrup")

	running := follow("blood-running")
	assert.Equal(t, Skin, running.Touch, "a colour that is not for lips keeps the whole blood off them")
	assert.NotEmpty(t, running.TouchWhy)

	assert.Contains(t, follow("latex-paste").Allergens, "wheat and gluten")
	assert.InDelta(t, 62, follow("gelatin").Heat, 0)
	assert.Equal(t, Mouth, follow("gelatin").Touch)
}

// The worst ingredient decides: one that is put in never widens where it may go.
func TestAnIngredientNeverWidensWhereItMayGo(t *testing.T) {
	shelf := usual(t)
	var loose []string
	for slug, p := range shelf {
		if p.Ratio == nil {
			loose = append(loose, slug)
		}
	}
	slices.Sort(loose)
	order := []string{Mouth, Skin, Off}
	rapid.Check(t, func(t *rapid.T) {
		r := Recipe{Name: "x", Makes: "gelatin-animal"}
		was := -1
		for range rapid.IntRange(1, 8).Draw(t, "lines") {
			slug := rapid.SampledFrom(loose).Draw(t, "of")
			r.Lines = append(r.Lines, Line{ID: slug, Material: slug, Parts: 1})
			now := slices.Index(order, r.Follow(substance.Usual, shelf).Touch)
			assert.GreaterOrEqual(t, now, was)
			was = now
		}
	})
}

func TestARecipeThatCannotBeMadeIsRefusedAtItsField(t *testing.T) {
	shelf := usual(t)
	good, _ := BuiltIn("blood-edible")
	for field, spoil := range map[string]func(*Recipe){
		"name":              func(r *Recipe) { r.Name = " " },
		"makes":             func(r *Recipe) { r.Makes = "moonshine" },
		"lines[0].material": func(r *Recipe) { r.Lines[0].Material = "tint-red" }, // no food
		"lines[0].parts":    func(r *Recipe) { r.Lines[0].Parts = 0 },
		"lines[1].percent":  func(r *Recipe) { r.Lines[1].Percent = 3 },
		"lines[2].kit":      func(r *Recipe) { r.Lines[2].Kit = "A" },
		"steps[0].line":     func(r *Recipe) { r.Steps[0].Line = "nothing" },
		"steps[1].line":     func(r *Recipe) { r.Steps[1] = r.Steps[0] },
		"steps":             func(r *Recipe) { r.Lines = append(r.Lines, Line{ID: "more", Material: "water", TopUp: true}) },
		"additions[0].of":   func(r *Recipe) { r.Lines[2].Of = "tea" },
		"lines[2].id":       func(r *Recipe) { r.Lines[2].ID = "syrup" },
	} {
		r := good
		r.Lines, r.Steps = slices.Clone(good.Lines), slices.Clone(good.Steps)
		spoil(&r)
		var no *refusal.Error
		require.ErrorAs(t, r.Check(shelf), &no, field)
		assert.Equal(t, field, no.Field)
	}
	latex := Recipe{Name: "skin wash", Makes: "tears", Lines: []Line{{ID: "a", Material: "acetone", Parts: 1}}}
	assert.ErrorContains(t, latex.Check(shelf), "another material", "what is not for skin makes nothing that is")
}

func TestTheClockOfEachFamily(t *testing.T) {
	shelf := usual(t)
	pot := func(slug string, a Around) Pot {
		r, _ := BuiltIn(slug)
		p, runs := r.Poured(shelf, a)
		require.True(t, runs, slug)
		assert.Less(t, p.LowS, p.HighS, slug)
		return p
	}
	at20 := Around{RoomC: 20, RH: 0.5}
	assert.InDelta(t, 900, pot("foam-latex", at20).SetS, 1e-6, "the chapter's own guess before the first batch")
	assert.Less(t, pot("foam-latex", Around{RoomC: 26, RH: 0.5}).PotS, pot("foam-latex", at20).PotS, "a warm room gels sooner")
	assert.Less(t, pot("foam-latex", Around{RoomC: 20, RH: 0.5, Dose: 1.3}).PotS, pot("foam-latex", at20).PotS, "more agent gels sooner")
	assert.Greater(t, pot("stone-30", Around{WaterC: 10}).PotS, pot("stone-30", Around{WaterC: 20}).PotS, "cold water is slower")
	assert.Greater(t, pot("plaster-70", Around{WaterC: 20, Thin: 1.3}).PotS, pot("plaster-70", Around{WaterC: 20}).PotS, "thin plaster is slower")
	assert.InDelta(t, 45, pot("foam-pu", Around{RoomC: 21}).PotS, 1e-9)
	silicone, _ := BuiltIn("silicone-soft")
	_, runs := silicone.Poured(shelf, at20)
	assert.False(t, runs, "a cure is told along the room's log")
}

func TestASectionsAdditionsComeBeforeTheOneThatSetsItOff(t *testing.T) {
	shelf := usual(t)
	sheet, two := Sheet(shelf["silicone-gel"])
	require.True(t, two)
	r := sheet.With(Line{Material: "softener", Percent: 40, Of: "parts"}, Line{Material: "pigment-flesh", Percent: 1})
	var ids []string
	for _, s := range r.Order() {
		ids = append(ids, s.Line)
	}
	assert.Equal(t, []string{"A", "softener", "pigment-flesh", "B"}, ids)
	assert.Len(t, sheet.Lines, 2, "the sheet itself stays")
	soft, _ := BuiltIn("silicone-soft")
	less := soft.With(Line{Material: "pigment-flesh"}, Line{Material: "softener", Percent: 30, Of: "total"})
	assert.NoError(t, less.Check(shelf))
	assert.Len(t, less.Lines, 3)
	assert.True(t, r.Meets("B", func(id string) bool { return id == "A" }))
	assert.False(t, r.Meets("softener", func(id string) bool { return id == "A" }))
	d := Differences(soft, less, shelf)
	assert.Contains(t, d, Difference{"Silicone softener", "60 % of the parts", "30 % of the total"})
	assert.Contains(t, d, Difference{"Silicone pigment, flesh base", "1.2 % of the parts", "none"})
}
