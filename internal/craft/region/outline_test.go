package region_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/texture"
)

// Every region that a piece can cover has an outline, near the size that the
// list gives where it is one that lies flat.
func TestEveryRegionHasAnOutline(t *testing.T) {
	for _, r := range region.All {
		o := r.Outline()
		assert.NotEmpty(t, o.Form, r.Name)
		assert.Equal(t, o.Form == region.Sleeve, o.Exact())
		f, err := texture.Region{Preset: r.Name}.Lay()
		if assert.NoError(t, err, r.Name) {
			cm2 := f.Area() / 100
			assert.InDelta(t, 1, cm2/r.AreaCM2, 0.6, "%s: %.0f cm² drawn, %.0f in the list", r.Name, cm2, r.AreaCM2)
		}
	}
}
