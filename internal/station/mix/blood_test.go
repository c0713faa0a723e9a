package mix

import (
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/blood"
	"yewmoor/internal/craft/material"
)

// A wound of 12 cm² as deep as fresh blood stands, 0.4 mm, with three runs of
// 60 × 4 × 0.15 mm: 0.48 and 0.108 ml. Half of it is put on again for each of three
// more takes, and a tenth is spilt.
func TestASceneByHand(t *testing.T) {
	need, err := needOf(Scene{Takes: 4, WastePct: 10, Places: []Wetted{{Type: "arterial", AreaCM2: 12, Runs: 3, RunMM: 60}}})
	require.NoError(t, err)
	assert.InDelta(t, 0.588, need.FirstML, 1e-9)
	assert.InDelta(t, 0.588*2.5*1.1, need.ML, 1e-9)
	deep, err := needOf(Scene{Takes: 1, Places: []Wetted{{Type: "arterial", AreaCM2: 12, DepthMM: 1}}})
	require.NoError(t, err)
	assert.InDelta(t, 1.2, deep.FirstML, 1e-9, "a depth of one's own")
	_, err = needOf(Scene{Takes: 1, Places: []Wetted{{Type: "arterial"}, {Type: "green"}}})
	assert.ErrorContains(t, err, "no blood of this type")
}

func TestEveryBloodCanBeAskedForAndIsInTheLibrary(t *testing.T) {
	field, _ := reflect.TypeFor[Wetted]().FieldByName("Type")
	products, err := material.Library()
	require.NoError(t, err)
	inLibrary := map[string]bool{}
	for _, p := range products {
		inLibrary[p.Slug] = true
	}
	var ids []string
	for _, k := range blood.Kinds() {
		ids = append(ids, k.ID)
		assert.True(t, inLibrary[k.Product], k.ID)
	}
	assert.Equal(t, ids, strings.Split(field.Tag.Get("enum"), ","))
}
