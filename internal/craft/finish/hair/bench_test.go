package hair

import (
	"testing"

	"yewmoor/internal/craft/texture"
)

// The chapter asks for 5,000 hairs within a second.
func BenchmarkPunch5000(b *testing.B) {
	f := Field{Seed: 5, Outline: []texture.P{{0, 0}, {200, 0}, {200, 110}, {0, 110}}, Density: 25, Edge: 6, FadeMM: 10}
	for b.Loop() {
		p, err := Punch(b.Context(), f)
		if err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(float64(p.Count), "hairs")
	}
}
