// Package mix is the arithmetic of the mixing bench: how much to mix, how it
// divides into parts, and what follows when a part is overshot. Grams and
// millilitres. It knows nothing of lots or scales.
package mix

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Part is one stoichiometric part of a material: A and B of a kit.
type Part struct {
	ID      string  `json:"id"`
	Parts   float64 `json:"parts"`
	Density float64 `json:"density,omitempty"` // g/ml, for ratios by volume
}

// Addition is put in on top of the parts. Percent is of the parts together
// ("of A+B") unless Of is "total", which means of the finished mix.
type Addition struct {
	ID      string  `json:"id"`
	Percent float64 `json:"percent"`
	Of      string  `json:"of,omitempty"`
}

// Additions may be counted on the parts or on the finished mix; suppliers
// mean either, so a sheet always says which.
const (
	OfParts = "parts"
	OfTotal = "total"
)

// Recipe is what a mix is made from, by mass unless ByVolume.
type Recipe struct {
	Parts     []Part     `json:"parts"`
	Additions []Addition `json:"additions,omitempty"`
	ByVolume  bool       `json:"by_volume,omitempty"`
}

// Share is one ingredient's share of the finished mix by mass.
type Share struct {
	ID       string  `json:"id"`
	Fraction float64 `json:"fraction"` // of the finished mix
	IsPart   bool    `json:"is_part"`
}

// Shares turns a recipe into mass fractions of the finished mix, parts first,
// in the recipe's order. They add up to 1.
func (r Recipe) Shares() ([]Share, error) {
	if len(r.Parts) == 0 {
		return nil, refusal.New(refusal.Missing, "parts", "A recipe needs at least one part.")
	}
	seen := map[string]bool{}
	masses, sum := make([]float64, len(r.Parts)), 0.0
	for i, p := range r.Parts {
		field := fmt.Sprintf("parts[%d]", i)
		switch {
		case p.ID == "" || seen[p.ID]:
			return nil, refusal.New(refusal.Contradiction, field+".id", "Every part needs a name of its own.")
		case !(p.Parts > 0) || p.Parts > 1e6:
			return nil, refusal.New(refusal.OutOfRange, field+".parts", "The ratio of %s must be above zero.", p.ID)
		case r.ByVolume && !(p.Density > 0.1 && p.Density < 20):
			return nil, refusal.New(refusal.Missing, field+".density", "A ratio by volume needs the density of %s.", p.ID)
		}
		seen[p.ID] = true
		masses[i] = p.Parts
		if r.ByVolume {
			masses[i] *= p.Density
		}
		sum += masses[i]
	}
	onParts, onTotal := 0.0, 0.0
	for i, a := range r.Additions {
		field := fmt.Sprintf("additions[%d]", i)
		switch {
		case a.ID == "" || seen[a.ID]:
			return nil, refusal.New(refusal.Contradiction, field+".id", "Every addition needs a name of its own.")
		case !(a.Percent >= 0) || a.Percent > 400:
			return nil, refusal.New(refusal.OutOfRange, field+".percent", "The percentage of %s must lie between 0 and 400.", a.ID)
		}
		seen[a.ID] = true
		switch a.Of {
		case "", OfParts:
			onParts += a.Percent / 100
		case OfTotal:
			onTotal += a.Percent / 100
		default:
			return nil, refusal.New(refusal.UnknownValue, field+".of", "Say whether the percentage is of the parts or of the total.")
		}
	}
	if onTotal >= 0.95 {
		return nil, refusal.New(refusal.Contradiction, "additions", "The additions leave no room for the parts.")
	}
	partsShare := (1 - onTotal) / (1 + onParts)
	var out []Share
	for i, p := range r.Parts {
		out = append(out, Share{p.ID, partsShare * masses[i] / sum, true})
	}
	for _, a := range r.Additions {
		f := a.Percent / 100
		if a.Of != OfTotal {
			f *= partsShare
		}
		out = append(out, Share{a.ID, f, false})
	}
	return out, nil
}

// Split rounds the total of the parts to 0.1 g (half up) and distributes the
// tenths by largest remainder, ties to the first, so that the parts add up
// (planning.md section 11).
func Split(totalG float64, weights []float64) []float64 {
	tenths := int(math.Floor(totalG*10 + 0.5 + 1e-9))
	sum := 0.0
	for _, w := range weights {
		sum += w
	}
	out, rest := make([]float64, len(weights)), tenths
	type remainder struct {
		index int
		left  float64
	}
	var order []remainder
	for i, w := range weights {
		exact := float64(tenths) * w / sum
		whole := math.Floor(exact + 1e-9)
		out[i], rest = whole, rest-int(whole)
		order = append(order, remainder{i, exact - whole})
	}
	slices.SortStableFunc(order, func(a, b remainder) int {
		switch {
		case a.left > b.left+1e-9:
			return -1
		case b.left > a.left+1e-9:
			return 1
		}
		return 0
	})
	for i := range rest {
		out[order[i%len(order)].index]++
	}
	for i := range out {
		out[i] /= 10
	}
	return out
}

// Target is one line of a pour sheet.
type Target struct {
	ID     string  `json:"id"`
	Grams  float64 `json:"grams"`
	IsPart bool    `json:"is_part"`
}

// PourSheet divides totalG of finished mix by the recipe. The parts are
// rounded so that they keep their sum; small additions are rounded to 0.01 g,
// since a tenth would be a third of a pinch of pigment.
func PourSheet(r Recipe, totalG float64) ([]Target, error) {
	if !(totalG > 0) || totalG > 1e6 {
		return nil, refusal.New(refusal.OutOfRange, "total_g", "The amount must be above zero.")
	}
	shares, err := r.Shares()
	if err != nil {
		return nil, err
	}
	var weights []float64
	partsG := 0.0
	for _, s := range shares {
		if s.IsPart {
			weights = append(weights, s.Fraction)
			partsG += s.Fraction * totalG
		}
	}
	rounded := Split(partsG, weights)
	out := make([]Target, len(shares))
	for i, s := range shares {
		out[i] = Target{ID: s.ID, IsPart: s.IsPart}
		switch grams := s.Fraction * totalG; {
		case s.IsPart:
			out[i].Grams = rounded[i]
		case grams >= 5:
			out[i].Grams = math.Floor(grams*10+0.5+1e-9) / 10
		default:
			out[i].Grams = math.Floor(grams*100+0.5+1e-9) / 100
		}
	}
	return out, nil
}
