package mix_test

import (
	"fmt"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"
)

// What a tool was used with says how it is cleaned; what is thrown away stands with
// its price; what is kept for messy work is another pile.
func TestToolsAndClothFromComingToBeingThrownAway(t *testing.T) {
	b := shoptest.New(t, nil)
	pip := b.As["pip"]
	var v mix.Tools
	assert.Equal(t, "name", pip.No("POST", "/api/tools", m{"name": " ", "kind": "brush", "n": 3}).Field)
	pip.Yes("POST", "/api/tools", m{"name": "Chip brush, 20 mm", "kind": "brush", "n": 3, "cost_minor": 80}, nil)
	pip.Yes("POST", "/api/tools", m{"name": "Chip brush, 20 mm", "kind": "brush", "n": 2, "place": "drawer 2"}, nil)
	pip.Yes("POST", "/api/tools", m{"name": "White towel", "kind": "towel", "n": 4, "cost_minor": 450}, &v)
	require.Len(t, v.List, 2, "more of the same is one row")
	brush, towel := v.List[0], v.List[1]
	assert.Equal(t, 5, brush.Held)
	assert.Equal(t, "drawer 2", brush.Place)
	assert.EqualValues(t, 80, brush.CostMinor, "a price that nobody said again stays")
	of := func(id uint64) string { return fmt.Sprintf("/api/tools/%d", id) }

	assert.Equal(t, "medium", pip.No("POST", of(brush.ID), m{"act": "used", "medium": "tar"}).Field)
	pip.Yes("POST", of(towel.ID), m{"act": "used", "medium": "blood and dye"}, &v)
	require.NotNil(t, v.List[0].Clean, "what has to be cleaned comes first")
	assert.Equal(t, "White towel", v.List[0].Name)
	assert.Contains(t, v.List[0].Clean.Ruins, "towels")
	pip.Yes("POST", of(towel.ID), m{"act": "messy", "n": 1}, &v)
	pip.Yes("POST", of(towel.ID), m{"act": "cleaned"}, &v)
	assert.Equal(t, "clean", pip.No("POST", of(towel.ID), m{"act": "cleaned"}).Code)

	assert.Equal(t, "why", pip.No("POST", of(brush.ID), m{"act": "thrown", "n": 1}).Field)
	assert.Equal(t, "n", pip.No("POST", of(brush.ID), m{"act": "thrown", "n": 6, "why": "latex dried in them"}).Field)
	pip.Yes("POST", of(brush.ID), m{"act": "thrown", "n": 2, "why": "latex dried in them"}, &v)
	require.Len(t, v.Thrown, 1)
	assert.EqualValues(t, 160, v.ThrownMinor)
	assert.Equal(t, 404, pip.No("POST", of(99), m{"act": "cleaned"}).Status)
	held := map[string]int{}
	for _, x := range v.List {
		held[x.Name+" "+x.State] = x.Held
	}
	assert.Equal(t, map[string]int{"Chip brush, 20 mm good": 3, "White towel good": 3, "White towel messy": 1}, held)

	// Ten throw the last three away at once: three do, and nothing falls below none.
	var gone atomic.Int32
	var all sync.WaitGroup
	for range 10 {
		all.Go(func() {
			if status, _ := b.Post("ivo", of(brush.ID), m{"act": "thrown", "n": 1, "why": "stiff"}); status == 200 {
				gone.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 3, gone.Load())
	pip.Yes("GET", "/api/tools", nil, &v)
	assert.EqualValues(t, 5*80, v.ThrownMinor)
	assert.Len(t, v.List, 2, "what is all gone is no longer listed")
}
