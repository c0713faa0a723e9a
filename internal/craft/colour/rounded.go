package colour

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// A match brought to what the scale can weigh.

type roundedRecipe struct {
	count  [mostPigments]int
	judged Judged
}

// rounded is a recipe in whole units, of those around it the one with the least J.
func (p *problem) rounded(r recipe) (best roundedRecipe) {
	n := len(r.set)
	best.judged.J = math.Inf(1)
	var count [mostPigments]int
	var try func(at int)
	try = func(at int) {
		if at == n {
			x := recipe{set: r.set}
			for i, set := range r.set {
				x.c[i] = 100 * float64(count[i]) * p.unit(p.Pigments[set]) / p.BatchG
			}
			j := p.judged(&x)
			if p.allowed(&x, 0.01) && j.J < best.judged.J {
				best = roundedRecipe{count, j}
			}
			return
		}
		unit := p.unit(p.Pigments[r.set[at]])
		exact := r.c[at] * p.BatchG / 100 / unit
		least := int(math.Ceil(math.Max(p.minWeigh(), unit)/unit - 1e-9))
		for k := int(math.Floor(exact)) - 1; k <= int(math.Floor(exact))+2; k++ {
			if k >= least {
				count[at] = k
				try(at + 1)
			}
		}
	}
	try(0)
	if math.IsInf(best.judged.J, 1) { // nothing around it holds every limit: the nearest
		for i, set := range r.set {
			unit := p.unit(p.Pigments[set])
			best.count[i] = max(1, int(math.Round(r.c[i]*p.BatchG/100/unit)))
		}
		x := recipe{set: r.set}
		for i, set := range r.set {
			x.c[i] = 100 * float64(best.count[i]) * p.unit(p.Pigments[set]) / p.BatchG
		}
		best.judged = p.judged(&x)
	}
	return best
}

// trials are the masses of base that are tried for a trial, g.
var trials = []float64{5, 10, 20, 30, 50, 80, 100, 150, 200, 300, 500, 1000}

// LeastWeighable is the least base in which a recipe can be weighed so that whole units
// cost at most so much of J, g; the largest that is tried where none does.
// E_UNKNOWN_PIGMENT.
func (q Asked) LeastWeighable(doses []Dose, costs float64) (float64, error) {
	for _, g := range trials {
		q.BatchG = g
		p, err := q.problem()
		if err != nil {
			continue // the least that can be weighed is more than this takes
		}
		r, err := p.recipeOf(doses)
		if err != nil {
			return 0, err
		}
		if p.rounded(r).judged.J-p.judged(&r).J <= costs {
			return g, nil
		}
	}
	return trials[len(trials)-1], nil
}

// Weighed is a recipe as it can be weighed. Refusals as of Judge.
func (q Asked) Weighed(doses []Dose) (Alternative, error) {
	p, err := q.problem()
	if err != nil {
		return Alternative{}, err
	}
	r, err := p.recipeOf(doses)
	if err != nil {
		return Alternative{}, err
	}
	p.judge(&r)
	return p.alternative(r), nil
}

// recipeOf is somebody's recipe among the pigments that are allowed.
func (p *problem) recipeOf(doses []Dose) (r recipe, err error) {
	for n, d := range doses {
		at := -1
		for i, x := range p.Pigments {
			if x.ID == d.Pigment {
				at = i
			}
		}
		if at < 0 || n >= mostPigments {
			return r, refusal.New("E_UNKNOWN_PIGMENT", "recipe", "%s is not among the pigments that are allowed.", d.Pigment)
		}
		r.set = append(r.set, at)
		r.c[n] = d.G
	}
	return r, nil
}
