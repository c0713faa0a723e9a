package trace

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/refusal"
)

func node(s string) Node {
	kind, _, _ := strings.Cut(s, ":")
	return Node{Kind: kind, Code: s}
}

// The planning chapter's trace cases.
func TestTraceMatchesTheHandbook(t *testing.T) {
	raw, err := os.ReadFile("testdata/trace.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID    string
			Input struct {
				Edges            []struct{ From, To, Via string }
				Start, Direction string
				Contact          bool `json:"include_contact"`
			}
			Expect struct{ Reached map[string][]string }
			Error  string
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 4)
	for _, c := range file.Cases {
		var edges []Edge
		for _, e := range c.Input.Edges {
			edges = append(edges, Edge{node(e.From), node(e.To), e.Via == "contact"})
		}
		got, err := Reached(edges, node(c.Input.Start), c.Input.Direction, c.Input.Contact)
		if c.Error != "" {
			var r *refusal.Error
			require.ErrorAs(t, err, &r, c.ID)
			assert.Equal(t, c.Error, r.Code)
			continue
		}
		require.NoError(t, err, c.ID)
		assert.Equal(t, c.Expect.Reached, got, c.ID)
	}
}
