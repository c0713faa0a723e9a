package texture

import (
	"context"
	"math"
	"slices"
)

// Repetition says how made a texture looks (handbook, section 6).
type Repetition struct {
	// A is the highest return of the pattern on itself, Lag how far away.
	A   float64 `json:"a"`
	Lag float64 `json:"lag_mm"`
	// LagAt is the way of that return.
	LagAt P `json:"lag_at"`
	// R is how evenly marks stand, by Clark and Evans; 0 when there are too few.
	R float64 `json:"r"`
	// B is the share of neighbours that are alike; -1 without stamps.
	B     float64 `json:"same_pairs"`
	Score float64 `json:"score" doc:"0 to 100"`
	Grade string  `json:"grade" enum:"organic,some pattern,patterned"`
	// Part is what weighs most, and Advice what to change about it.
	Part   string `json:"part,omitempty"`
	Advice string `json:"advice,omitempty"`
	// Spots are places where it shows: marks in the most even neighbourhood.
	Spots []P `json:"spots"`
}

// limits of the score.
const (
	somePattern = 25
	patterned   = 50
)

var advices = map[string]string{
	"autocorrelation":       "Add spacing jitter of 0.2 to 0.4, let the spacing grow along the way, bow the lines or cross them with a second family 50 to 70° apart; break rows at a guide.",
	"regularity":            "Move impressions by 0.1 to 0.25 of their width, shift every other row by 0.37 in place of 0.5, mix two tube sizes in a row, leave out one impression in ten.",
	"same-stamp neighbours": "Take ends at random, with the second end squashed 0.15 more or less, turn presses by 10 to 20°, make one more stamp size.",
}

func (s *Sheet) repetition(ctx context.Context) (Repetition, error) {
	r := Repetition{B: -1, Spots: []P{}}
	var err error
	if r.A, r.Lag, r.LagAt, err = Autocorrelation(ctx, s.Field); err != nil {
		return r, err
	}
	area, perimeter := s.Flat.Area(), s.Flat.Perimeter()
	var most *Marks
	for _, m := range s.Layers {
		if p := m.places(); len(p) >= 10 {
			if R := ClarkEvans(p, area, perimeter); R > r.R {
				r.R, most = R, m
			}
		}
		if len(m.Impressions) >= 5 {
			r.B = math.Max(r.B, sameNeighbours(m.Impressions))
		}
	}
	type part struct {
		name          string
		value, weight float64
	}
	parts := []part{{"autocorrelation", (r.A - 0.1) / 0.6, 0.5}}
	if r.R > 0 {
		parts = append(parts, part{"regularity", (r.R - 1.75) / 0.35, 0.3})
	}
	if r.B >= 0 {
		parts = append(parts, part{"same-stamp neighbours", r.B / 0.5, 0.2})
	}
	var sum, weights, largest float64
	for _, p := range parts {
		v := p.weight * math.Max(0, math.Min(1, p.value))
		sum, weights = sum+v, weights+p.weight
		if v > largest {
			largest, r.Part = v, p.name
		}
	}
	r.Score = 100 * sum / weights
	switch {
	case r.Score >= patterned:
		r.Grade = "patterned"
	case r.Score >= somePattern:
		r.Grade = "some pattern"
	default:
		r.Grade, r.Part = "organic", ""
	}
	r.Advice = advices[r.Part]
	if r.Part != "" && most != nil {
		r.Spots = evenest(most.places())
	}
	return r, nil
}

// ClarkEvans is how evenly places stand: their mean distance to the nearest
// over what chance would give, with Donnelly's correction for the border.
// Random 1, closely packed discs about 1.75, a square lattice 2, a hexagonal
// one 2.149.
func ClarkEvans(places []P, area, perimeter float64) float64 {
	n := float64(len(places))
	cell := math.Sqrt(area / n)
	var sum float64
	near := newBins(places, cell)
	var one [1]neighbour
	for i := range places {
		sum += near.nearest(i, one[:])[0].d
	}
	return sum / n / (math.Sqrt(area/n)/2 + (0.0514+0.041/math.Sqrt(n))*perimeter/n)
}

// sameNeighbours is the share of the four nearest neighbours that were pressed
// with the same end of the same stamp, turned alike.
func sameNeighbours(list []Impression) float64 {
	places := make([]P, len(list))
	cell := 0.0
	for i, s := range list {
		places[i] = s.At
		cell = math.Max(cell, 2*s.A)
	}
	near := newBins(places, cell)
	same, all := 0, 0
	var four [4]neighbour
	for i, s := range list {
		for _, n := range near.nearest(i, four[:]) {
			o := list[n.i]
			turn := math.Mod(math.Abs(s.Turn-o.Turn), 180)
			turn = math.Min(turn, 180-turn)
			if all++; o.Stamp == s.Stamp && o.End == s.End && turn <= 10 {
				same++
			}
		}
	}
	return float64(same) / float64(all)
}

// evenest are the places whose nearest neighbours stand most alike: where an
// eye finds the pattern first.
func evenest(places []P) []P {
	near := newBins(places, math.Max(1e-6, spread(places)))
	type scored struct {
		p P
		v float64
	}
	var all []scored
	for i := range places {
		n := near.nearest(i, make([]neighbour, 6))
		if len(n) < 6 {
			continue
		}
		var mean, sd float64
		for _, x := range n {
			mean += x.d / 6
		}
		for _, x := range n {
			sd += (x.d - mean) * (x.d - mean) / 6
		}
		all = append(all, scored{places[i], math.Sqrt(sd) / mean})
	}
	slices.SortStableFunc(all, func(a, b scored) int {
		switch {
		case a.v < b.v:
			return -1
		case a.v > b.v:
			return 1
		}
		return 0
	})
	out := []P{}
	for _, s := range all[:min(12, len(all))] {
		out = append(out, s.p)
	}
	return out
}
