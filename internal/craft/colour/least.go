package colour

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// least minimises Σ r² of few unknowns within bounds by Levenberg and Marquardt, with
// slopes by central differences, and gives the sum. x holds the start and the end.
func least(x, lo, hi []float64, m int, steps int, of func(x, r []float64)) float64 {
	n := len(x)
	r, r0, r1, xt := make([]float64, m), make([]float64, m), make([]float64, m), make([]float64, n)
	jac := mat.NewDense(m, n, nil)
	sum := func(v []float64) (s float64) {
		for _, e := range v {
			s += e * e
		}
		return s
	}
	of(x, r)
	cost, lambda := sum(r), 1e-3
	for range steps {
		for j := range n {
			h := 1e-6 * math.Max(1e-3, math.Abs(x[j]))
			copy(xt, x)
			xt[j] = math.Min(hi[j], x[j]+h)
			up := xt[j]
			of(xt, r1)
			xt[j] = math.Max(lo[j], x[j]-h)
			down := xt[j]
			of(xt, r0)
			for i := range m {
				jac.Set(i, j, (r1[i]-r0[i])/(up-down))
			}
		}
		var gram mat.SymDense
		gram.SymOuterK(1, jac.T())
		grad := make([]float64, n)
		for j := range n {
			for i := range m {
				grad[j] += jac.At(i, j) * r[i]
			}
		}
		var free []int
		for j := range n {
			if !(x[j] <= lo[j] && grad[j] > 0) && !(x[j] >= hi[j] && grad[j] < 0) {
				free = append(free, j)
			}
		}
		if len(free) == 0 {
			return cost
		}
		better := false
		for range 12 {
			h := mat.NewSymDense(len(free), nil)
			g := mat.NewVecDense(len(free), nil)
			for a, i := range free {
				for b := a; b < len(free); b++ {
					h.SetSym(a, b, gram.At(i, free[b]))
				}
				h.SetSym(a, a, h.At(a, a)*(1+lambda)+1e-300)
				g.SetVec(a, -grad[i])
			}
			var chol mat.Cholesky
			var d mat.VecDense
			if chol.Factorize(h) && chol.SolveVecTo(&d, g) == nil {
				copy(xt, x)
				for a, i := range free {
					xt[i] = math.Min(hi[i], math.Max(lo[i], x[i]+d.AtVec(a)))
				}
				of(xt, r1)
				if c := sum(r1); c < cost {
					gain := cost - c
					copy(x, xt)
					copy(r, r1)
					cost, lambda, better = c, math.Max(1e-12, lambda/4), true
					if gain < 1e-15*cost {
						return cost
					}
					break
				}
			}
			lambda *= 6
		}
		if !better {
			return cost
		}
	}
	return cost
}
