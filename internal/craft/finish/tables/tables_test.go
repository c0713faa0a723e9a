package tables_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/finish/tables"
)

// What stands in the tables lies within its own band, and no grade allows less than the
// one below it.
func TestTheTablesAreInThemselvesSound(t *testing.T) {
	for _, id := range []string{"human", "yak", "goat", "crepe", "synthetic"} {
		f, known := tables.FibreOf(id)
		require.True(t, known, id)
		assert.True(t, f.Band[0] <= f.Diameter && f.Diameter <= f.Band[1], id)
		assert.InDelta(t, 1.3, f.Density, 0.3, id)
	}
	for _, id := range []string{"hard_glue", "contact_glue", "set_in_latex", "set_in_silicone", "skin_adhesive", "pushed_in", "sewn", "pegged"} {
		f, known := tables.FixingOf(id)
		require.True(t, known, id)
		assert.True(t, f.Band[0] <= f.Strength && f.Strength <= f.Band[1], id)
		assert.Contains(t, []string{"area", "point"}, f.Kind)
	}
	still, _ := tables.MotionOf("still")
	running, _ := tables.MotionOf("running")
	assert.Less(t, still.G, running.G)
	for _, id := range []string{"pulses", "rice", "plastic_pellets", "glass_beads", "dry_sand", "steel_shot"} {
		f, known := tables.FillerOf(id)
		require.True(t, known, id)
		assert.True(t, f.Band[0] <= f.GPerML && f.GPerML <= f.Band[1], id)
		assert.Equal(t, id == "pulses" || id == "rice", f.Organic, id)
	}
	for _, way := range []string{"punched", "knotted"} {
		assert.Positive(t, tables.StrokeSeconds(way), way)
	}
	last := 0.0
	for _, id := range []string{"full", "good", "plain"} {
		g, known := tables.GradeOf(id)
		require.True(t, known, id)
		require.NotNil(t, g.DEMean, id)
		assert.Greater(t, *g.DEMean, last, id)
		last = *g.DEMean
	}
	_, known := tables.GradeOf("perfect")
	assert.False(t, known)
	_, known = tables.FibreOf("spider")
	assert.False(t, known)
}
