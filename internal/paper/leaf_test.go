package paper

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A leaf is set smaller until it fits one page, and goes on to a second rather than become too small to read.
func TestALeafFitsAPageWhereItCan(t *testing.T) {
	pages := func(rows int) int {
		l := Leaf{Code: "K-001", Title: "Packing list", About: "a test", Big: "On set 08:00", Parts: []LeafPart{{Heading: "With them", Columns: []float64{0.1, 0.9}}, {Lines: []string{"one", "two"}, Numbered: true}, {Lines: []string{"a box"}, Tick: true}}, Foot: "the end"}
		for range rows {
			l.Parts[0].Rows = append(l.Parts[0].Rows, []string{Box, strings.Repeat("words ", 12)})
		}
		var out bytes.Buffer
		require.NoError(t, WriteLeaf(&out, l))
		return strings.Count(out.String(), "/Type /Page\n")
	}
	assert.Equal(t, 1, pages(3))
	assert.Equal(t, 1, pages(38), "set smaller")
	assert.Greater(t, pages(200), 1)
}
