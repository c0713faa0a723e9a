package trace

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// layered draws a graph as a shop makes it: lots into mixes, mixes into
// copies, copies into kits.
func layered(t *rapid.T) []Edge {
	kinds := []string{"lot", "mix", "copy", "kit"}
	var edges []Edge
	for i := range kinds[1:] {
		for range rapid.IntRange(0, 12).Draw(t, "edges") {
			from, to := rapid.IntRange(0, 5).Draw(t, "from"), rapid.IntRange(0, 5).Draw(t, "to")
			edges = append(edges, Edge{From: Node{kinds[i], fmt.Sprint(from)}, To: Node{kinds[i+1], fmt.Sprint(to)}})
		}
	}
	return edges
}

// flood is the second method: paint what is reached until nothing changes.
func flood(edges []Edge, start Node, backward bool) map[string][]string {
	painted := map[Node]bool{start: true}
	for changed := true; changed; {
		changed = false
		for _, e := range edges {
			from, to := e.From, e.To
			if backward {
				from, to = to, from
			}
			if painted[from] && !painted[to] {
				painted[to], changed = true, true
			}
		}
	}
	delete(painted, start)
	out := map[string][]string{}
	for n := range painted {
		out[n.Kind] = append(out[n.Kind], n.Code)
	}
	for _, list := range out {
		slices.Sort(list)
	}
	return out
}

func TestReachedIsWhatAFloodPaints(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		edges := layered(t)
		start := Node{rapid.SampledFrom([]string{"lot", "mix", "copy", "kit"}).Draw(t, "kind"), fmt.Sprint(rapid.IntRange(0, 5).Draw(t, "code"))}
		for _, direction := range []string{Forward, Backward} {
			got, err := Reached(edges, start, direction, false)
			require.NoError(t, err)
			assert.Equal(t, flood(edges, start, direction == Backward), got, direction)
		}
	})
}

func TestForwardAndBackwardAreOneRelation(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		edges := layered(t)
		lot, kit := Node{"lot", fmt.Sprint(rapid.IntRange(0, 5).Draw(t, "lot"))}, Node{"kit", fmt.Sprint(rapid.IntRange(0, 5).Draw(t, "kit"))}
		on, err := Reached(edges, lot, Forward, false)
		require.NoError(t, err)
		back, err := Reached(edges, kit, Backward, false)
		require.NoError(t, err)
		assert.Equal(t, slices.Contains(on["kit"], kit.Code), slices.Contains(back["lot"], lot.Code), "a lot is in a kit exactly when the kit was made from it")
	})
}

func TestWhatIsMadeFromItselfIsRefusedWhereverTheRingLies(t *testing.T) {
	a, b, c := Node{"mix", "1"}, Node{"copy", "2"}, Node{"kit", "3"}
	for _, start := range []Node{a, b, c} {
		_, err := Reached([]Edge{{From: a, To: b}, {From: b, To: c}, {From: c, To: a}}, start, Forward, false)
		assert.ErrorContains(t, err, "part of itself")
	}
	// A contact that is not followed closes no ring.
	_, err := Reached([]Edge{{From: a, To: b}, {From: b, To: a, Contact: true}}, a, Forward, false)
	assert.NoError(t, err)
}
