package colour

import (
	"math"
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
