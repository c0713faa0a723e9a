package section

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
)

// The order of work is the material's, and its sentences name the place.
func TestEveryFamilyHasItsOwnOrderOfWork(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	steps := func(method, region string) (acts, texts []string) {
		s, known := House(method, 30, 6, shelf)
		require.True(t, known, method)
		s.Region = region
		for _, st := range s.Work(shelf, Room{TempC: 21, RH: 0.5}).Steps {
			acts, texts = append(acts, st.Act), append(texts, st.Text)
		}
		return acts, texts
	}
	inOrder := func(method string, want ...string) {
		acts, _ := steps(method, "")
		at := 0
		for _, a := range acts {
			if at < len(want) && a == want[at] {
				at++
			}
		}
		assert.Equal(t, len(want), at, "%s: %v in %v", method, want, acts)
	}
	inOrder("foam_latex", "release", "body", "bake", "demould", "wash", "trim", "seal", "colour on the face")
	inOrder("gelatin_animal", "release", "body", "demould", "trim", "seal", "adhesive", "place")
	inOrder("silicone_encapsulated", "release", "film", "body", "film", "demould", "trim", "barrier", "adhesive", "place", "edge")
	inOrder("latex_slush", "body", "demould", "trim")
	acts, texts := steps("latex_slush", "nose")
	assert.NotContains(t, acts, "release", "latex comes out of dry plaster by itself")
	all := strings.Join(texts, " ")
	assert.Contains(t, all, "fill, let it dwell, pour it out and drain")
	_, texts = steps("gelatin_animal", "neck")
	assert.Contains(t, strings.Join(texts, " "), "melt without boiling")
	_, texts = steps("build_up_tissue", "cheek")
	assert.Regexp(t, `face tissue, one ply laid into each of \d+ coats`, strings.Join(texts, " "), "tissue is named and counted")
	_, texts = steps("foam_latex", "belly")
	assert.NotContains(t, strings.Join(texts, " "), "nose", "no nostrils on a belly")
	_, texts = steps("silicone_encapsulated", "brow")
	assert.Contains(t, strings.Join(texts, " "), "No acetone by the eye")
	_, texts = steps("silicone_encapsulated", "forearm")
	assert.Contains(t, strings.Join(texts, " "), "Melt the film's edge with a little acetone")
	// The underside of gelatin is sealed before it is glued, both seals in the shop.
	s, _ := House("gelatin_plant", 30, 6, shelf)
	sealed := 0
	for _, st := range s.Work(shelf, Room{TempC: 21, RH: 0.5}).Steps {
		if st.Act == "seal" {
			sealed++
			assert.Equal(t, "bench", st.Where)
		}
	}
	assert.Equal(t, 2, sealed)
}
