package sculpt_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/platform/turns"
	"yewmoor/internal/station/sculpt"
)

// BenchmarkPaintedPieceRedrawn is what a slider of the paint schedule asks for: the same
// relief with other paint, at the fineness of the colour room. Asked: 50 ms.
func BenchmarkPaintedPieceRedrawn(b *testing.B) {
	var doc texture.Recipe
	require.NoError(b, json.Unmarshal([]byte(`{"seed":7,"region":{"preset":"cheek"},"feather_mm":6,"layers":[{"id":"a","kind":"barnacles","name":"barnacles","seed":1}]}`), &doc))
	s := &sculpt.Service{Turns: turns.New("a calculation", 2, 8)}
	s.Remember(6)
	scheme := texture.Scheme{Clay: colour.Lab{L: 40, A: 12, B: 15}}
	for i, kind := range []string{"base", "wash", "spatter", "dry brush", "glaze"} {
		scheme.Layers = append(scheme.Layers, texture.Paint{Kind: kind, Colour: colour.Lab{L: 30 + 10*float64(i), A: 8, B: 12},
			Strength: 0.6})
	}
	doc.Paint = &scheme
	n := 0.0
	for b.Loop() {
		n++
		scheme.Layers[1].Strength = 0.3 + 0.5*float64(int(n)%50)/50
		if _, err := s.Relief(b.Context(), sculpt.Ask{Doc: doc, Pixels: 40_000, Paint: true}); err != nil {
			b.Fatal(err)
		}
	}
}
