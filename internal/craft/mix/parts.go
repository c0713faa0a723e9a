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
// ("of A+B") unless Of is "total", which means of the finished mix, or the ID of
// one of the parts.
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
	share := func(a Addition) float64 { // of the parts together
		for i, p := range r.Parts {
			if p.ID == a.Of {
				return a.Percent / 100 * masses[i] / sum
			}
		}
		return a.Percent / 100
	}
	for i, a := range r.Additions {
		field := fmt.Sprintf("additions[%d]", i)
		switch {
		case a.ID == "" || seen[a.ID]:
			return nil, refusal.New(refusal.Contradiction, field+".id", "Every addition needs a name of its own.")
		case !(a.Percent >= 0) || a.Percent > 400:
			return nil, refusal.New(refusal.OutOfRange, field+".percent", "The percentage of %s must lie between 0 and 400.", a.ID)
		}
		seen[a.ID] = true
		switch isPart := slices.ContainsFunc(r.Parts, func(p Part) bool { return p.ID == a.Of }); {
		case a.Of == OfTotal:
			onTotal += a.Percent / 100
		case a.Of == "" || a.Of == OfParts || isPart:
			onParts += share(a)
		default:
			return nil, refusal.New(refusal.UnknownValue, field+".of", "Say of what the percentage is: of the parts, of one of them, or of the total.")
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
			f = share(a) * partsShare
		}
		out = append(out, Share{a.ID, f, false})
	}
	return out, nil
}

// UsualResolutionG is what a bench scale tells apart where nobody knows better, g.
const UsualResolutionG = 0.1

// Rounded is x to the next step, half up.
func Rounded(x, step float64) float64 {
	n := math.Floor(x/step + 0.5 + 1e-9)
	return math.Round(n*step*1e6) / 1e6
}

// Split rounds the total of the parts to what the scale tells apart (half up) and
// distributes the steps by largest remainder, ties to the first, so that the parts
// add up (planning.md section 11).
func Split(totalG float64, weights []float64, stepG float64) []float64 {
	steps := int(math.Floor(totalG/stepG + 0.5 + 1e-9))
	sum := 0.0
	for _, w := range weights {
		sum += w
	}
	out, rest := make([]float64, len(weights)), steps
	type remainder struct {
		index int
		left  float64
	}
	var order []remainder
	for i, w := range weights {
		exact := float64(steps) * w / sum
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
		out[i] = math.Round(out[i]*stepG*1e6) / 1e6
	}
	return out
}

// Target is one line of a pour sheet.
type Target struct {
	ID     string  `json:"id"`
	Grams  float64 `json:"grams"`
	IsPart bool    `json:"is_part"`
}

// ByParts divides a total of the parts, in g or for a ratio by volume in ml; the
// additions come on top. All are rounded to what the scale tells apart, 0.1 g
// where stepG is 0.
func (r Recipe) ByParts(totalG, volumeML, stepG float64) ([]Target, error) {
	if stepG == 0 {
		stepG = UsualResolutionG
	}
	if !(stepG >= 1e-4 && stepG <= 1000) {
		return nil, refusal.New(refusal.OutOfRange, "resolution_g", "A scale tells apart between 0.0001 and 1000 g.")
	}
	shares, err := r.Shares()
	if err != nil {
		return nil, err
	}
	if r.ByVolume && volumeML > 0 {
		parts, mass := 0.0, 0.0
		for _, p := range r.Parts {
			parts += p.Parts
			mass += p.Parts * p.Density
		}
		totalG = volumeML * mass / parts
	}
	if !(totalG > 0) || totalG > 1e6 {
		return nil, refusal.New(refusal.OutOfRange, "total_g", "The amount must be above zero.")
	}
	ofParts := 0.0
	for _, s := range shares {
		if s.IsPart {
			ofParts += s.Fraction
		}
	}
	return targets(shares, totalG/ofParts, stepG, func(float64) float64 { return stepG }), nil
}

// PourSheet divides totalG of finished mix by the recipe. The parts are rounded to
// what the scale tells apart, so that they keep their sum; small additions ten
// times as fine, since a tenth would be a third of a pinch of pigment.
func PourSheet(r Recipe, totalG, stepG float64) ([]Target, error) {
	if !(totalG > 0) || totalG > 1e6 {
		return nil, refusal.New(refusal.OutOfRange, "total_g", "The amount must be above zero.")
	}
	shares, err := r.Shares()
	if err != nil {
		return nil, err
	}
	return targets(shares, totalG, stepG, func(grams float64) float64 {
		if grams >= 50*stepG {
			return stepG
		}
		return stepG / 10
	}), nil
}

func targets(shares []Share, totalG, stepG float64, fine func(grams float64) float64) []Target {
	var weights []float64
	partsG := 0.0
	for _, s := range shares {
		if s.IsPart {
			weights = append(weights, s.Fraction)
			partsG += s.Fraction * totalG
		}
	}
	rounded := Split(partsG, weights, stepG)
	out := make([]Target, len(shares))
	part := 0
	for i, s := range shares {
		out[i] = Target{ID: s.ID, IsPart: s.IsPart}
		if s.IsPart {
			out[i].Grams = rounded[part]
			part++
			continue
		}
		grams := s.Fraction * totalG
		out[i].Grams = Rounded(grams, fine(grams))
	}
	return out
}
