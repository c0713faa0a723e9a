package paper

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

func drawn(t *testing.T, halfWidth, up float64) Section {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	doc, ok := section.House("silicone_encapsulated", 34, 6, shelf)
	require.True(t, ok)
	doc.HalfWidthMM = halfWidth
	return Section{Code: "BF-03", Title: "Left cheek <barnacled>", Note: "the bell-founder", Steps: []string{"Release the mould."},
		Cuts: []SectionCut{{Name: "cheek", HalfWidthMM: halfWidth, Times: up, Bands: doc.Outlines(shelf, up, 0), Words: []string{"Skin.", "Silicone gel, 6 mm at the centre."}}}}
}

// A millimetre of the piece is a millimetre of the paper.
func TestTheSectionIsDrawnToItsScale(t *testing.T) {
	for _, up := range []float64{1, 4} {
		c := drawn(t, 33, up).Cuts[0]
		reach, height := c.bounds()
		assert.InDelta(t, 33+12, reach, 1e-9, "colour runs 12 mm past the edge")
		// Film, adhesive, barrier, gel, film, colour, powder at the centre.
		assert.InDelta(t, up*(0.01+0.08+0.04+6+0.04+0.024+0.01), height, 1e-9)
	}
}

func TestTheSectionAsSVG(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, WriteSectionSVG(&out, drawn(t, 33, 1)))
	text := out.String()
	assert.Contains(t, text, "true scale: 1 mm is 1 mm")
	assert.Contains(t, text, "at the cheek")
	assert.Contains(t, text, "Left cheek &lt;barnacled&gt;", "words are no markup")
	assert.Equal(t, 7, strings.Count(text, `</title></path>`))
	out.Reset()
	require.NoError(t, WriteSectionSVG(&out, drawn(t, 33, 4)))
	assert.Contains(t, out.String(), "heights × 4.0, widths true")
}

func TestTheSectionAsPDF(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, WriteSectionPDF(&out, drawn(t, 33, 1)))
	text := words(t, open(t, out.Bytes()))
	for _, want := range []string{"BF-03", "True scale: check the bar", "Silicone gel, 6 mm at the centre.", "Release the mould."} {
		assert.Contains(t, text, want)
	}
	out.Reset()
	require.NoError(t, WriteSectionPDF(&out, drawn(t, 400, 1)))
	assert.Contains(t, words(t, open(t, out.Bytes())), "Drawn 1 : 4, too wide for the sheet.")
}
