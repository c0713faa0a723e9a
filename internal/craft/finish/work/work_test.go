package work

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

func kinds(items []Item) (out []Kind) {
	for _, i := range items {
		out = append(out, i.Kind)
	}
	return out
}

// Every house method gives a list in an order that the rules allow, with ids of its own
// and hands to do it; what is built on skin is neither trimmed nor seamed.
func TestEveryFamilyHasAListInAnOrderThatIsAllowed(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.Shelf{}
	for _, p := range list {
		shelf[p.Slug] = p
	}
	for _, method := range section.Methods {
		doc, known := section.House(method.Slug, 40, 5, shelf)
		require.True(t, known, method.Slug)
		hands := map[string]float64{}
		for _, l := range doc.Work(shelf, section.Room{TempC: 21, RH: 0.5}).Layers {
			hands[l.ID] = l.HandsS
		}
		for _, way := range []making.Way{making.Cast, making.Coats} {
			items := List(Asked{Way: way, Section: doc, Hands: hands, EdgeCM: 24, Vanish: true})
			require.NoError(t, Order(items), method.Slug)
			seen := map[string]bool{}
			for _, i := range items {
				assert.False(t, seen[i.ID], "%s twice in %s", i.ID, method.Slug)
				seen[i.ID] = true
				assert.True(t, i.Kind.Known())
				assert.NotEmpty(t, i.Why)
			}
			assert.Equal(t, doc.MadeOn() != section.OnSkin, seen["trim"], method.Slug)
			assert.Equal(t, doc.MadeOn() == section.InMould, seen["seam"], method.Slug)
			assert.True(t, seen["photograph"] && seen["edge"] && seen["colour_reading"])
		}
	}
}

func TestWhatCannotComeBeforeWhat(t *testing.T) {
	paint, hair, trim := Item{ID: "p", Kind: Paint, Text: "Colour 1"}, Item{ID: "h", Kind: Hair, Text: "Hair"}, Item{ID: "t", Kind: Trim, Text: "Trim"}
	assert.NoError(t, Order([]Item{trim, paint, hair}))
	assert.ErrorContains(t, Order([]Item{trim, hair, paint}), "SEQ-8")
	assert.ErrorContains(t, Order([]Item{paint, trim}), "shows bare")
}

// What the finish plan asks for stands where it belongs in the order.
func TestWhatThePlanAsksForStandsInItsPlace(t *testing.T) {
	doc := section.Start(30)
	doc.Layers = append(doc.Layers, section.Layer{ID: "b", Kind: section.Silicone, Material: "silicone-gel"}, section.Layer{ID: "c", Kind: section.Paint, Material: "paint-silicone"})
	items := List(Asked{Section: doc, Plan: []Item{{ID: "hair-1", Kind: Hair, Text: "Brow hair"}, {ID: "age", Kind: Age, Text: "Soot"}}})
	assert.Equal(t, []Kind{Trim, Wash, Seam, Edge, Paint, Read, Hair, Age, Picture}, kinds(items))
}
