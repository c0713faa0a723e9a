package tridiag

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/mat"
	"pgregory.net/rapid"
)

// The unknowns are those of a dense solver, for several right sides with one set of
// factors.
func TestTheSameAsADenseSolver(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 20).Draw(t, "n")
		one := rapid.Float64Range(-1, 1)
		s, dense := New(n), mat.NewDense(n, n, nil)
		for i := range n {
			s.Di[i] = 2.5 + one.Draw(t, "di")
			dense.Set(i, i, s.Di[i])
			if i > 0 {
				s.Lo[i] = one.Draw(t, "lo")
				dense.Set(i, i-1, s.Lo[i])
			}
			if i < n-1 {
				s.Up[i] = one.Draw(t, "up")
				dense.Set(i, i+1, s.Up[i])
			}
		}
		s.Factor()
		for range 2 {
			r := mat.NewVecDense(n, nil)
			for i := range n {
				r.SetVec(i, one.Draw(t, "r"))
			}
			var want mat.VecDense
			assert.NoError(t, want.SolveVec(dense, r))
			have := make([]float64, n)
			s.Solve(r.RawVector().Data, have)
			assert.InDeltaSlice(t, want.RawVector().Data, have, 1e-10)
		}
	})
}
