package material

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/substance"
)

// The library is data: what the craft takes for granted of it is proved here.
func TestTheLibraryHoldsTogether(t *testing.T) {
	list, err := Library()
	require.NoError(t, err)
	require.Greater(t, len(list), 30)
	shelf := NewShelf(list)
	assert.Len(t, shelf, len(list), "no short name stands twice")
	have := map[Family]int{}
	for _, p := range list {
		assert.NoError(t, p.Check(), p.Slug)
		assert.Empty(t, p.FreeOf, "only a data sheet says what %s is free of", p.Slug)
		for _, code := range p.Contains {
			_, known := substance.Usual.Find(code)
			assert.True(t, known, "%s holds %s, which is no substance of the list", p.Slug, code)
		}
		have[p.Family]++
		switch p.Family {
		case AdhesiveAcrylic, AdhesiveGum, AdhesiveSilicone:
			if assert.Contains(t, shelf, p.Remover, "%s has no remover", p.Slug) {
				assert.Equal(t, Remover, shelf[p.Remover].Family)
			}
		case SiliconeAddition, SiliconeCondensation:
			require.NotNil(t, p.Cure, p.Slug)
			require.NotNil(t, p.Ratio, p.Slug)
			assert.Contains(t, []string{"addition", "condensation"}, p.Cure.System)
			assert.InDelta(t, 28, p.Cure.RefC, 7, "a data sheet is read at the room's temperature or the skin's")
			assert.InDelta(t, 1.1, p.Density, 0.2, p.Slug)
		case Latex, LatexPaste, FoamLatex:
			assert.True(t, p.IsLatex(), p.Slug)
		case Fibre:
			assert.NotNil(t, p.Fibre, p.Slug)
		}
		if p.Family == Gelatin && p.Animal {
			assert.NotEqual(t, "gelling-plant", p.Slug)
		}
	}
	for _, f := range []Family{Latex, SiliconeAddition, Gelatin, Encapsulator, Barrier, AdhesiveAcrylic, PaintAlcohol, Powder, Softener, Pigment, Release, Clay} {
		assert.Positive(t, have[f], "a new shop begins with some %s", f)
	}
}

func TestWhatCannotBeAMaterialIsRefused(t *testing.T) {
	good := Product{Slug: "gel", Name: "Gel", Family: SiliconeAddition, Density: 1.07, Ratio: &Ratio{A: 1, B: 1}, Cure: &CureSheet{System: "addition", PotS: 600, DemouldS: 7200, RefC: 23}}
	require.NoError(t, good.Check())
	for field, spoil := range map[string]func(*Product){
		"slug":           func(p *Product) { p.Slug = "" },
		"name":           func(p *Product) { p.Name = "" },
		"family":         func(p *Product) { p.Family = "jelly" },
		"density":        func(p *Product) { p.Density = 0 },
		"ratio":          func(p *Product) { p.Ratio = &Ratio{A: 1} },
		"cure.demould_s": func(p *Product) { p.Cure = &CureSheet{PotS: 600, DemouldS: 600} },
	} {
		p := good
		spoil(&p)
		var no *refusal.Error
		require.ErrorAs(t, p.Check(), &no, field)
		assert.Equal(t, field, no.Field)
	}
	heavy := good
	heavy.Density = 13.6
	assert.Error(t, heavy.Check(), "no mercury")
}

func TestLatexIsFoundWhateverTheFamilySays(t *testing.T) {
	assert.True(t, Product{Family: Latex}.IsLatex())
	assert.True(t, Product{Family: AdhesiveGum, HasLatex: true}.IsLatex(), "a lash glue with natural rubber in it")
	assert.False(t, Product{Family: SiliconeAddition}.IsLatex())
}

func TestAnEdgeMayBeThickerFarFromTheCamera(t *testing.T) {
	for _, f := range families {
		assert.Less(t, EdgeLimit(f, true), EdgeLimit(f, false), f)
	}
	assert.Equal(t, 0.05, EdgeLimit(SiliconeAddition, true))
	assert.Equal(t, 0.25, EdgeLimit(FoamLatex, false))
}
