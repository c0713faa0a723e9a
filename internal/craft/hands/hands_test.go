package hands

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"yewmoor/internal/craft/material"
)

// Both schools that the handbook names have at least two ways, each with what it
// leaves, and what is greasy says what is wiped; every family that is mixed or laid on
// wet has a way to be cleaned off.
func TestEverySchoolStandsThereWithItsPrice(t *testing.T) {
	schools := map[string]int{}
	for _, k := range Usual().KeepOff {
		schools[k.School]++
		assert.NotEmpty(t, k.Leaves, k.With)
		assert.NotEmpty(t, k.Wipe, k.With)
		if k.Greasy {
			assert.Contains(t, k.Wipe+k.Leaves, "wipe", k.With)
		}
	}
	assert.GreaterOrEqual(t, schools["D01"], 5)
	assert.GreaterOrEqual(t, schools["D02"], 4)
	cleaned := map[string]bool{}
	for _, c := range Usual().Cleaning {
		assert.Positive(t, c.Minutes, c.Medium)
		for _, f := range c.Families {
			cleaned[f] = true
			p := material.Product{Slug: "x", Name: "x", Family: material.Family(f), Density: 1}
			assert.NoError(t, p.Check(), f)
		}
	}
	for _, f := range []material.Family{material.Latex, material.FoamLatex, material.SiliconeAddition, material.Gelatin, material.Wax, material.Gypsum, material.Resin,
		material.FoamPolyurethane, material.Encapsulator, material.AdhesiveAcrylic, material.PaintCream, material.PaintAlcohol, material.PaintWater, material.Blood} {
		assert.True(t, cleaned[string(f)], f)
	}
}

// Whoever poured foam cleans latex off, not silicone; water alone leaves nothing.
func TestWhatIsCleanedFollowsWhatWasHandled(t *testing.T) {
	of := func(families ...material.Family) (mediums []string) {
		words := make([]string, len(families))
		for i, f := range families {
			words[i] = string(f)
		}
		for _, c := range After(words...) {
			mediums = append(mediums, c.Medium)
		}
		return mediums
	}
	assert.Equal(t, []string{"latex, wet"}, of(material.FoamLatex, material.Ingredient))
	assert.Equal(t, []string{"silicone, not cured"}, of(material.SiliconeAddition, material.Softener))
	assert.Equal(t, []string{"latex, wet", "blood and dye"}, of(material.Blood, material.Latex))
	assert.Empty(t, of(material.Ingredient))
	assert.NotNil(t, After(), "a list, never null")
}
