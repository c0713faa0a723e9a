package rules

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
)

// Gloves, sponges and brushes meet the wearer as layers do, in every family of what
// touches, and each alternative says what it changes.
func TestWhatTouchesTheWearerIsAskedAboutAndAlternativesSayWhatTheyChange(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	for _, m := range []struct{ touching, fact, status, rule string }{
		{"glove-latex", "latex", Allergic, "SAF-1"}, {"sponge-latex", "latex", Allergic, "SAF-1"},
		{"glove-nitrile", "sulphur", Allergic, "SAF-17"}, {"brush-hair", "animal", substance.Excludes, "SAF-16"}, {"glove-vinyl", "vinyl", Allergic, "SAF-17"},
	} {
		s, _ := section.House("silicone_solid", 30, 5, shelf)
		s.Touching = []string{m.touching}
		require.NoError(t, s.Check(shelf))
		c := Case{Shelf: shelf, Section: s, Wearer: Wearer{Known: true, Facts: []substance.Fact{{Code: m.fact, Status: m.status}}}}
		c.Result = s.Work(shelf, section.Room{TempC: 21, RH: 0.5})
		hit := false
		for _, f := range Check(c) {
			hit = hit || f.ID == m.rule && f.Product == m.touching
		}
		assert.True(t, hit, "%s against %s", m.touching, m.fact)
	}
	// A family that stands in for another says how it differs.
	for family, others := range standIns {
		for _, slug := range others {
			to := shelf[slug]
			for _, from := range list {
				if from.Family == family && from.Family != to.Family {
					assert.NotEmpty(t, Changes(from, to, shelf), "%s for %s", slug, from.Slug)
				}
			}
		}
	}
	assert.Contains(t, Changes(shelf["adhesive-acrylic"], shelf["adhesive-silicone"], shelf), "comes off with")
	assert.Contains(t, Changes(shelf["encapsulator-acetone"], shelf["encapsulator-alcohol"], shelf), "dissolves in alcohol, not in acetone")
	assert.Empty(t, Changes(shelf["pigment-red"], shelf["pigment-umber"], shelf))
}
