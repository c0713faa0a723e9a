package mould

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/section"
)

// A usual mould is of what the section says, can be built for every material of which
// a price is known, and is not priced as plaster where none is.
func TestAUsualMouldIsOfWhatTheSectionSays(t *testing.T) {
	body := section.Bulk{AreaCM2: 900, MeanMM: 25, VolumeML: 2250}
	for of, want := range map[string]string{"": mouldmath.CastingPlaster, "gypsum": mouldmath.CastingPlaster, "laminate": mouldmath.Glass, "resin": mouldmath.Glass, "silicone_condensation": mouldmath.SiliconeTin, "silicone_addition": mouldmath.SiliconePlat, "copper": "", "epoxy": "", "print": "", "sulphur_clay": ""} {
		doc := section.Section{Made: section.Made{On: section.InMould, Of: of}}
		assert.Equal(t, want, usualStuff(doc, ""), of)
		if want == "" {
			continue
		}
		sheet, err := mouldmath.Build(usualOrder(doc, body, ""))
		require.NoError(t, err, of)
		assert.Positive(t, sheet.Minor, of)
	}
	foam := section.Section{Cut: section.Cut{Layers: []section.Layer{{Kind: section.Foam}}}}
	assert.Equal(t, mouldmath.HardStone, usualStuff(foam, ""), "it is baked")
	assert.Equal(t, mouldmath.SiliconeTin, usualStuff(foam, mouldmath.SiliconeTin), "what is registered wins")
}
