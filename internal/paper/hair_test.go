package paper

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/texture"
)

// A zone is printed at true size: what is larger than a page goes over several, and every
// page says which it is and carries the bar to measure it by.
func TestHairIsPrintedAtTrueSize(t *testing.T) {
	square := func(w, h float64) []texture.P { return []texture.P{{0, 0}, {w, 0}, {w, h}, {0, h}} }
	for _, c := range []struct {
		w, h  float64
		pages int
	}{{80, 60, 1}, {320, 120, 2}} {
		var out bytes.Buffer
		page, err := texture.PaperOf("A4")
		require.NoError(t, err)
		h := Hair{Code: "BF-03", Title: "bristle", Note: "at true size", Outline: square(c.w, c.h), Zone: square(c.w/2, c.h/2), Points: []texture.P{{5, 5}, {9, 9}},
			Deg: []float64{90, 180}, RowsY: []float64{4, 2, 0}, Lines: []string{"167 hairs"}}
		require.NoError(t, WriteHair(&out, h, page))
		assert.Equal(t, c.pages, bytes.Count(out.Bytes(), []byte("/Type /Page"))-bytes.Count(out.Bytes(), []byte("/Type /Pages")))
	}
}
