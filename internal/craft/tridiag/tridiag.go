// Package tridiag solves systems of equations in which each unknown meets only its two
// neighbours, as cells in a row do. The factors are kept, for several right sides.
package tridiag

// System is a matrix of three diagonals. Lo[0] and Up[n−1] are not used. No pivots are
// chosen: the diagonal has to be the largest of its row, as with masses and flows it is.
type System struct {
	Lo, Di, Up   []float64
	pivot, ratio []float64
}

// New is a system of n unknowns, all zero.
func New(n int) *System {
	at := make([]float64, 5*n)
	part := func(i int) []float64 { return at[i*n : (i+1)*n : (i+1)*n] }
	return &System{part(0), part(1), part(2), part(3), part(4)}
}

// Clear makes every entry zero.
func (s *System) Clear() {
	clear(s.Lo)
	clear(s.Di)
	clear(s.Up)
}

// Factor prepares Solve for the entries as they are.
func (s *System) Factor() {
	s.pivot[0] = s.Di[0]
	for i := 1; i < len(s.Di); i++ {
		s.ratio[i] = s.Lo[i] / s.pivot[i-1]
		s.pivot[i] = s.Di[i] - s.ratio[i]*s.Up[i-1]
	}
}

// Solve puts the unknowns for the right side r into x; both may be the same.
func (s *System) Solve(r, x []float64) {
	n := len(s.Di)
	x[0] = r[0]
	for i := 1; i < n; i++ {
		x[i] = r[i] - s.ratio[i]*x[i-1]
	}
	x[n-1] /= s.pivot[n-1]
	for i := n - 2; i >= 0; i-- {
		x[i] = (x[i] - s.Up[i]*x[i+1]) / s.pivot[i]
	}
}
