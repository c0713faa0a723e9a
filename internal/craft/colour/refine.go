package colour

import (
	"math"
)

// A set of pigments brought to its best amounts.

// state is a set's residuals at some amounts, unweighted, with their slopes where they were
// asked for; and what is past a limit.
type state struct {
	r  [lights][3]float64
	b  [lights][3][mostPigments]float64
	e  [lights]float64 // the length of each
	pr [2]float64      // past the load, past the opacity; weighted
	pb [2][mostPigments]float64
}

// cost is the weighted sum of squares.
func (s *state) cost(w *[lights]float64) float64 {
	sum := s.pr[0]*s.pr[0] + s.pr[1]*s.pr[1]
	for k := range lights {
		sum += w[k] * s.e[k] * s.e[k]
	}
	return sum
}

// at works out a set at c; slopes only where they are wanted.
func (p *problem) at(set []int, c []float64, slopes, exact bool, out *state) {
	n := len(set)
	mat := p.material(set, c)
	var seen, dk, ds, dbk, dbs, dwk, dws Spectrum
	wantCR := p.OpacityMin > 0 || p.OpacityMax < 1
	y := &sums[D65][1]
	yb, yw := 0.0, 0.0
	for i := range Bands {
		f := lay(mat.K[i], mat.S[i], p.X)
		r := f.over(p.backing[i])
		if slopes {
			dk[i], ds[i] = f.slopes(p.backing[i], r)
		}
		if p.Surface != nil {
			m, slope := p.Surface.out(r)
			r, dk[i], ds[i] = m, dk[i]*slope, ds[i]*slope
		}
		seen[i] = r
		if wantCR {
			b, w := f.over(Black[i]), f.over(White[i])
			yb += y[i] * b
			yw += y[i] * w
			if slopes {
				dbk[i], dbs[i] = f.slopes(Black[i], b)
				dwk[i], dws[i] = f.slopes(White[i], w)
			}
		}
	}
	var by [mostPigments]Spectrum // of the reflectance, by each amount
	if slopes {
		for j, at := range set {
			pk, ps := &p.k[at], &p.s[at]
			for i := range Bands {
				by[j][i] = dk[i]*pk[i] + ds[i]*ps[i]
			}
		}
	}
	for k := range lights {
		var t, slope, f [3]float64
		var dt [3][mostPigments]float64
		for ch := range 3 {
			a := &p.weight[k][ch]
			for i := range Bands {
				t[ch] += a[i] * seen[i]
			}
			f[ch], slope[ch] = cbrt(t[ch])
			if !slopes {
				continue
			}
			for j := range n {
				v := &by[j]
				sum := 0.0
				for i := range Bands {
					sum += a[i] * v[i]
				}
				dt[ch][j] = slope[ch] * sum
			}
		}
		lab := Lab{116*f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])}
		g := &p.metric[k]
		if exact {
			out.r[k] = residual(p.target[k], lab)
		} else {
			d := [3]float64{lab.L - p.target[k].L, lab.A - p.target[k].A, lab.B - p.target[k].B}
			for row := range 3 {
				out.r[k][row] = g[row][0]*d[0] + g[row][1]*d[1] + g[row][2]*d[2]
			}
		}
		out.e[k] = math.Sqrt(out.r[k][0]*out.r[k][0] + out.r[k][1]*out.r[k][1] + out.r[k][2]*out.r[k][2])
		if slopes {
			for row := range 3 {
				for j := range n {
					out.b[k][row][j] = g[row][0]*116*dt[1][j] + g[row][1]*500*(dt[0][j]-dt[1][j]) + g[row][2]*200*(dt[1][j]-dt[2][j])
				}
			}
		}
	}
	out.pr = [2]float64{}
	load := p.load
	for _, g := range c[:n] {
		load += g
	}
	if load > p.limit {
		out.pr[0] = 50 * (load - p.limit)
		for j := range n {
			out.pb[0][j] = 50
		}
	}
	if !wantCR {
		return
	}
	cr := yb / yw
	off := 0.0
	if cr < p.OpacityMin+0.0005 {
		off = cr - p.OpacityMin - 0.0005
	} else if cr > p.OpacityMax-0.0005 && p.OpacityMax < 1 {
		off = cr - p.OpacityMax + 0.0005
	}
	out.pr[1] = 400 * off
	if off == 0 || !slopes {
		return
	}
	for j, at := range set {
		db, dw := 0.0, 0.0
		for i := range Bands {
			db += y[i] * (dbk[i]*p.k[at][i] + dbs[i]*p.s[at][i])
			dw += y[i] * (dwk[i]*p.k[at][i] + dws[i]*p.s[at][i])
		}
		out.pb[1][j] = 400 * (db - cr*dw) / yw
	}
}

// refine improves a recipe by bounded Levenberg-Marquardt steps whose weights turn least
// squares into a sum of differences.
func (p *problem) refine(r *recipe, steps int, free, exact bool) {
	n := len(r.set)
	var lo, hi [mostPigments]float64
	for i, at := range r.set {
		if !free {
			lo[i] = p.low[at]
		}
		hi[i] = math.Max(lo[i], p.high[at])
		r.c[i] = math.Min(hi[i], math.Max(lo[i], r.c[i]))
	}
	var now, then state
	var h [mostPigments][mostPigments]float64
	lambda := 1e-3
	w := p.coef
	for step := range steps {
		p.at(r.set, r.c[:n], true, exact, &now)
		if step >= 3 && !free {
			eps := 0.3
			if step >= steps/2 {
				eps = 0.03
			}
			for k := range lights {
				w[k] = p.coef[k] / math.Max(now.e[k], eps)
			}
		}
		cost := now.cost(&w)
		var grad [mostPigments]float64
		for a := range n {
			for k := range lights {
				for row := range 3 {
					grad[a] += w[k] * now.b[k][row][a] * now.r[k][row]
				}
			}
			for i := range 2 {
				if now.pr[i] != 0 {
					grad[a] += now.pb[i][a] * now.pr[i]
				}
			}
			for b := a; b < n; b++ {
				sum := 0.0
				for k := range lights {
					for row := range 3 {
						sum += w[k] * now.b[k][row][a] * now.b[k][row][b]
					}
				}
				for i := range 2 {
					if now.pr[i] != 0 {
						sum += now.pb[i][a] * now.pb[i][b]
					}
				}
				h[a][b], h[b][a] = sum, sum
			}
		}
		moved := false
		for range 4 {
			var x [mostPigments]float64
			p.solve(n, &h, &grad, lambda, r.c[:n], lo[:], hi[:], &x)
			var c [mostPigments]float64
			for a := range n {
				d := math.Min(3*r.c[a]+0.2, math.Max(-0.6*r.c[a]-0.05, x[a]))
				c[a] = math.Min(hi[a], math.Max(lo[a], r.c[a]+d))
			}
			p.at(r.set, c[:n], false, exact, &then)
			if then.cost(&w) <= cost {
				moved = c != r.c
				r.c = c
				lambda /= 4
				break
			}
			lambda *= 6
		}
		if !moved && step >= 3 {
			break
		}
	}
}

// solve is one damped step, with what stands at a bound and wants past it held.
func (p *problem) solve(n int, h *[mostPigments][mostPigments]float64, grad *[mostPigments]float64, lambda float64, c, lo,
	hi []float64, x *[mostPigments]float64) {
	var idx [mostPigments]int
	m := 0
	for a := range n {
		if c[a] <= lo[a]+1e-12 && grad[a] > 0 || c[a] >= hi[a]-1e-12 && grad[a] < 0 {
			continue
		}
		idx[m] = a
		m++
	}
	var g [mostPigments][mostPigments + 1]float64
	for i := range m {
		for j := range m {
			g[i][j] = h[idx[i]][idx[j]]
		}
		g[i][i] = g[i][i]*(1+lambda) + 1e-12
		g[i][m] = -grad[idx[i]]
	}
	gauss(&g, m)
	for i := range m {
		x[idx[i]] = g[i][m]
	}
}

// gauss solves m equations in place; the last column holds the right side, then the answer.
func gauss(g *[mostPigments][mostPigments + 1]float64, m int) {
	for i := range m {
		at := i
		for j := i + 1; j < m; j++ {
			if math.Abs(g[j][i]) > math.Abs(g[at][i]) {
				at = j
			}
		}
		g[i], g[at] = g[at], g[i]
		if g[i][i] == 0 {
			g[i][m] = 0
			continue
		}
		for j := range m {
			if j == i {
				continue
			}
			f := g[j][i] / g[i][i]
			for k := i; k <= m; k++ {
				g[j][k] -= f * g[i][k]
			}
		}
	}
	for i := range m {
		if g[i][i] != 0 {
			g[i][m] /= g[i][i]
		}
	}
}

// start is where a set begins.
func (p *problem) start(set []int) (c [mostPigments]float64) {
	copy(c[:], p.startMany(set))
	return c
}
