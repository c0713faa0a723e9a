package scan

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/refusal"
)

// A scan whose corners reached 3e38 was measured, and passed for done.
func TestACornerFarFromEverythingIsRefused(t *testing.T) {
	for name, text := range map[string]string{
		"far.obj": "v 0 0 0\nv 1 0 0\nv 0 3e38 0\nf 1 2 3\n",
		"far.stl": "solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 -2e7 0\nendloop\nendfacet\nendsolid s\n",
	} {
		_, err := Read(name, strings.NewReader(text), int64(len(text)), 0)
		var refused *refusal.Error
		require.ErrorAs(t, err, &refused, name)
		assert.Equal(t, TooFar, refused.Code, name)
	}
}
