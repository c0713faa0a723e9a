package colour

import (
	"math"
	"slices"
)

// Merit is what one of several recipes is good at: Rank 1 is the best of them at it.
type Merit struct {
	At   string // daylight, lamp, led, tubes, every_light, fewest, least, no_fibre
	Rank int
}

// BestAt says of each recipe what it is best at among them, each thing of one recipe only;
// of one that is best at nothing, what it comes nearest to. fibre says which pigments are
// fibres.
func BestAt(list []Alternative, fibre func(pigment string) bool) []Merit {
	merits := []struct {
		at   string
		cost func(Alternative) float64
	}{
		{"daylight", func(a Alternative) float64 { return math.Round(20*a.DE00[D65]) / 20 }},
		{"fewest", func(a Alternative) float64 { return float64(len(a.Recipe)) }},
		{"every_light", func(a Alternative) float64 { return slices.Max(a.DE00[:]) }},
		{"lamp", func(a Alternative) float64 { return a.DE00[A] }},
		{"led", func(a Alternative) float64 { return a.DE00[LED] }},
		{"tubes", func(a Alternative) float64 { return a.DE00[FL11] }},
		{"no_fibre", func(a Alternative) float64 {
			if slices.ContainsFunc(a.Recipe, func(d Dose) bool { return fibre(d.Pigment) }) {
				return 1
			}
			return 0
		}},
		{"least", func(a Alternative) float64 { return a.Load }},
	}
	out := make([]Merit, len(list))
	// Where all are equal nobody is better.
	for _, m := range merits {
		best, ties := -1, 0
		for i, a := range list {
			switch {
			case best < 0 || m.cost(a) < m.cost(list[best]):
				best, ties = i, 1
			case m.cost(a) == m.cost(list[best]):
				ties++
			}
		}
		if best >= 0 && out[best].At == "" && (ties == 1 || m.at == "daylight" || m.at == "fewest") && ties < max(2, len(list)) {
			out[best] = Merit{m.at, 1}
		}
	}
	for i := range out {
		if out[i].At != "" {
			continue
		}
		for _, m := range merits {
			rank, more := 1, 0
			for _, a := range list {
				switch {
				case m.cost(a) < m.cost(list[i]):
					rank++
				case m.cost(a) > m.cost(list[i]):
					more++
				}
			}
			// What nobody does worse it is not good at.
			if more > 0 && (out[i].At == "" || rank < out[i].Rank) {
				out[i] = Merit{m.at, rank}
			}
		}
		if out[i].At == "" {
			out[i] = Merit{"daylight", len(list)}
		}
	}
	return out
}
