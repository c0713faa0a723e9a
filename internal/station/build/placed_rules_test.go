package build

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
)

// Every product of the library, asked what it may be put into: what burns while it is wet,
// what melts, and what spoils what beside it.
func TestWhatThePlacesMayTake(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	one := func(slug string) []material.Product {
		p, known := shelf[slug]
		require.True(t, known, slug)
		return []material.Product{p}
	}
	for slug, wet := range map[string]bool{"encapsulator-acetone": true, "encapsulator-alcohol": true, "paint-alcohol": true,
		"alcohol-99": true, "acetone": true,
		"latex-balloon": false, "silicone-gel": false, "foam-latex": false, "gelatin-animal": false} {
		assert.Equal(t, wet, burns(one(slug)) != "", slug)
	}
	assert.NotEmpty(t, melts(one("gelatin-animal"), 45))
	assert.Empty(t, melts(one("gelatin-animal"), 5))
	assert.NotEmpty(t, melts(one("wax-soft"), 45))
	assert.Empty(t, melts(one("silicone-gel"), 95))
	assert.True(t, spoils(one("foam-latex"), one("silicone-gel")))
	assert.False(t, spoils(one("silicone-gel"), one("foam-latex")))
	assert.False(t, spoils(one("foam-latex"), one("foam-latex")))
	for _, preset := range []string{"warm_dryer", "cool_dryer"} {
		assert.NotEmpty(t, airRefused(preset, "form", "cheek", "Acetone film"))
		assert.NotEmpty(t, airRefused(preset, "skin", "eye_hollow", ""), "never at the lids")
		assert.Empty(t, airRefused(preset, "form", "eye_hollow", ""))
	}
	assert.Empty(t, airRefused("fan", "skin", "eye_hollow", "Acetone film"), "moving air is no heat")
}
