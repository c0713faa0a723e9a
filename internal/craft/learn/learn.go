// Package learn turns what was noted into the next guess: durations, waste and
// whatever else is a positive figure that varies by shares, by section 13 of the
// handbook chapter on planning. It never overwrites what a person set: it offers.
package learn

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Observed is one figure that was noted, of so many units at once.
type Observed struct {
	Value       float64 `json:"minutes"`
	Units       float64 `json:"units"`
	Interrupted bool    `json:"interrupted"`
}

// Before is what is believed before anything was noted.
type Before struct {
	Median float64 `json:"median"`
	Sigma  float64 `json:"sigma"` // of the logarithm; 0.35 where nobody says
}

// Guess is what is believed now of one unit.
type Guess struct {
	N      int     `json:"n"`
	Median float64 `json:"median"`
	Sigma  float64 `json:"sigma"`
	P10    float64 `json:"p10"`
	P90    float64 `json:"p90"`
}

const (
	recent    = 30 // what is older than the last thirty is not asked
	weight    = 3  // how many observations the belief before weighs as much as
	sigma0    = 0.35
	narrowest = 0.05
	z90       = 1.2815515655
	madToSd   = 1.4826
)

// From learns from figures in the order in which they were noted.
func From(before Before, seen []Observed) (Guess, error) {
	if !(before.Median > 0) {
		return Guess{}, refusal.New(refusal.OutOfRange, "prior.median", "The guess before must be above zero.")
	}
	if before.Sigma == 0 {
		before.Sigma = sigma0
	}
	var y []float64
	for i, o := range seen {
		if o.Units == 0 {
			o.Units = 1
		}
		if !(o.Value > 0) || !(o.Units > 0) {
			return Guess{}, refusal.New(
				"E_OBS",
				fmt.Sprintf("observations[%d]", i),
				"A figure that was noted must be above zero.",
			)
		}
		if !o.Interrupted {
			y = append(y, math.Log(o.Value/o.Units))
		}
	}
	y = y[max(0, len(y)-recent):]
	n := float64(len(y))
	m, s2 := weight*math.Log(before.Median), weight*before.Sigma*before.Sigma
	if len(y) > 0 {
		mid, spread := median(y), before.Sigma
		if len(y) >= 3 {
			away := make([]float64, len(y))
			for i, v := range y {
				away[i] = math.Abs(v - mid)
			}
			spread = madToSd * median(away)
		}
		m += n * mid
		s2 += n * spread * spread
	}
	m /= weight + n
	sigma := math.Max(narrowest, math.Sqrt(s2/(weight+n)))
	band := z90 * sigma * math.Sqrt(1+1/(weight+n))
	return Guess{N: len(y), Median: math.Exp(m), Sigma: sigma, P10: math.Exp(m - band), P90: math.Exp(m + band)}, nil
}

func median(x []float64) float64 {
	x = slices.Clone(x)
	slices.Sort(x)
	if len(x)%2 == 1 {
		return x[len(x)/2]
	}
	return (x[len(x)/2-1] + x[len(x)/2]) / 2
}

// Slots is how many slots of a plan so many units want.
func (g Guess) Slots(units, slot float64) int {
	return max(1, int(math.Ceil(g.Median*units/slot-1e-9)))
}

// Link is a step of the longest chain of a job.
type Link struct {
	Median float64 `json:"median"`
	P90    float64 `json:"p90"`
}

// Buffer is how much a chain wants beyond the sum of its medians.
func Buffer(chain []Link) float64 {
	sum := 0.0
	for _, l := range chain {
		sum += (l.P90 - l.Median) * (l.P90 - l.Median)
	}
	return math.Sqrt(sum)
}
