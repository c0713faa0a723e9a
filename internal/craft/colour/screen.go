package colour

import "math"

// A linear model of the whole question at one point, in which every set is tried in a
// microsecond (section 8, steps 4 and 5): it stays good far from its point, because a film
// hardly changes when K and S grow together.

// linearModel is r ≈ d + B c for each light, and o = −ln(1 − CR) alike.
type linearModel struct {
	gram  [lights][][]float64 // BᵀB
	right [lights][]float64   // Bᵀd
	dd    [lights]float64
	o     []float64
	o0    float64
}

// ranked is a set as the linear model has it.
type ranked struct {
	at    int
	score float64
	c     [mostPigments]float64
}

// reference is the model at the best of all pigments at once.
func (p *problem) reference() *linearModel {
	every := make([]int, p.m)
	for i := range every {
		every[i] = i
	}
	best, bestJ := make([]float64, p.m), math.Inf(1)
	start := p.startMany(every)
	for n, times := range []float64{1, 0.3, 2.5} {
		if n > 0 && bestJ < 0.3 {
			break
		}
		c := make([]float64, p.m)
		for i := range c {
			c[i] = math.Min(p.high[i], times*start[i])
		}
		if j := p.refineMany(c); j < bestJ {
			best, bestJ = c, j
		}
	}
	return p.linearMany(best)
}

func (p *problem) linearAt(r recipe) *linearModel {
	c := make([]float64, p.m)
	for n, at := range r.set {
		c[at] = r.c[n]
	}
	return p.linearMany(c)
}

// startMany is where a search begins: as if it were opaque, by non-negative least squares
// on K − qS at every band.
func (p *problem) startMany(set []int) []float64 {
	n := len(set)
	gram, right := make([][]float64, n), make([]float64, n)
	for i := range gram {
		gram[i] = make([]float64, n)
	}
	row := make([]float64, n)
	for i := range Bands {
		rt := p.Target[i]
		q := (1 - rt) * (1 - rt) / (2 * rt)
		w := 1 / (q + 0.1)
		b := w * (q*(p.ground0.S[i]+0.5) - p.ground0.K[i])
		for j, at := range set {
			row[j] = w * (p.k[at][i] - q*p.s[at][i])
			right[j] += row[j] * b
		}
		for a := range n {
			for d := range n {
				gram[a][d] += row[a] * row[d]
			}
		}
	}
	c := make([]float64, n)
	for range 100 {
		for a := range n {
			if gram[a][a] <= 0 {
				continue
			}
			g := right[a]
			for d := range n {
				if d != a {
					g -= gram[a][d] * c[d]
				}
			}
			c[a] = math.Max(0, g/gram[a][a])
		}
	}
	return c
}

// slopes are the residuals at c of all pigments with their slopes, light by light, and
// o = −ln(1 − CR) with its slopes.
func (p *problem) slopes(c []float64) (r [lights][3]float64, b [lights][3][]float64, o float64, do []float64, j float64) {
	mat := p.ground0
	for at, g := range c {
		for i := range Bands {
			mat.K[i] += g * p.k[at][i]
			mat.S[i] += g * p.s[at][i]
		}
	}
	var seen, dk, ds Spectrum
	yb, yw := 0.0, 0.0
	var dbk, dbs, dwk, dws Spectrum
	y := &sums[D65][1]
	for i := range Bands {
		v, k, s := film(mat.K[i], mat.S[i], p.X, p.backing[i])
		m, slope := p.Surface.out(v)
		seen[i], dk[i], ds[i] = m, k*slope, s*slope
		var x float64
		x, dbk[i], dbs[i] = film(mat.K[i], mat.S[i], p.X, Black[i])
		yb += y[i] * x
		x, dwk[i], dws[i] = film(mat.K[i], mat.S[i], p.X, White[i])
		yw += y[i] * x
	}
	cr := math.Min(0.999999, yb/yw)
	o = -math.Log(1 - cr)
	do = make([]float64, p.m)
	for at := range do {
		db, dw := 0.0, 0.0
		for i := range Bands {
			db += y[i] * (dbk[i]*p.k[at][i] + dbs[i]*p.s[at][i])
			dw += y[i] * (dwk[i]*p.k[at][i] + dws[i]*p.s[at][i])
		}
		do[at] = (db - cr*dw) / yw / (1 - cr)
	}
	for k := range lights {
		var f, slope [3]float64
		var dt [3][]float64
		for ch := range 3 {
			a := &p.weight[k][ch]
			t := 0.0
			for i := range Bands {
				t += a[i] * seen[i]
			}
			f[ch], slope[ch] = cbrt(t)
			dt[ch] = make([]float64, p.m)
			for at := range dt[ch] {
				sum := 0.0
				for i := range Bands {
					sum += a[i] * (dk[i]*p.k[at][i] + ds[i]*p.s[at][i])
				}
				dt[ch][at] = slope[ch] * sum
			}
		}
		lab := Lab{116*f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])}
		d := [3]float64{lab.L - p.target[k].L, lab.A - p.target[k].A, lab.B - p.target[k].B}
		j += p.coef[k] * DE00(p.target[k], lab)
		for row := range 3 {
			g := &p.metric[k][row]
			r[k][row] = g[0]*d[0] + g[1]*d[1] + g[2]*d[2]
			b[k][row] = make([]float64, p.m)
			for at := range p.m {
				b[k][row][at] = g[0]*116*dt[1][at] + g[1]*500*(dt[0][at]-dt[1][at]) + g[2]*200*(dt[1][at]-dt[2][at])
			}
		}
	}
	return r, b, o, do, j
}

// refineMany improves the amounts of all pigments at once, from nothing up, and gives J.
func (p *problem) refineMany(c []float64) (j float64) {
	lambda := 1e-2
	weighted := func(r [lights][3]float64, o float64) (sum float64) {
		for k := range lights {
			for row := range 3 {
				sum += p.coef[k] * r[k][row] * r[k][row]
			}
		}
		if want := -math.Log(1 - p.OpacityMin); p.OpacityMin > 0 && o < want {
			sum += 900 * (o - want) * (o - want)
		}
		return sum
	}
	next := make([]float64, p.m)
	for range 25 {
		r, b, o, do, now := p.slopes(c)
		cost := weighted(r, o)
		j = now
		gram, grad := make([][]float64, p.m), make([]float64, p.m)
		for a := range p.m {
			gram[a] = make([]float64, p.m)
			for k := range lights {
				for row := range 3 {
					grad[a] += p.coef[k] * b[k][row][a] * r[k][row]
					for d := range p.m {
						gram[a][d] += p.coef[k] * b[k][row][a] * b[k][row][d]
					}
				}
			}
			if want := -math.Log(1 - p.OpacityMin); p.OpacityMin > 0 && o < want {
				grad[a] += 900 * do[a] * (o - want)
				for d := range p.m {
					gram[a][d] += 900 * do[a] * do[d]
				}
			}
		}
		moved := false
		for range 4 {
			// Damped, within bounds, by coordinate descent.
			x := make([]float64, p.m)
			for range 30 {
				for a := range p.m {
					h := gram[a][a]*(1+lambda) + 1e-9
					g := grad[a]
					for d := range p.m {
						if d != a {
							g += gram[a][d] * x[d]
						}
					}
					x[a] = math.Min(p.high[a], math.Max(0, c[a]-g/h)) - c[a]
				}
			}
			for a := range next {
				next[a] = c[a] + x[a]
			}
			if r2, _, o2, _, j2 := p.slopes(next); weighted(r2, o2) <= cost {
				copy(c, next)
				j, lambda, moved = j2, lambda/4, true
				break
			}
			lambda *= 6
		}
		if !moved {
			return j
		}
	}
	return j
}

// linearMany is the model at amounts of all pigments.
func (p *problem) linearMany(c []float64) *linearModel {
	r, b, o, do, _ := p.slopes(c)
	out := &linearModel{o: do, o0: o}
	for at, g := range c {
		out.o0 -= do[at] * g
	}
	for k := range lights {
		var d [3]float64
		for row := range 3 {
			d[row] = r[k][row]
			for at, g := range c {
				d[row] -= b[k][row][at] * g
			}
			out.dd[k] += d[row] * d[row]
		}
		out.gram[k], out.right[k] = make([][]float64, p.m), make([]float64, p.m)
		for a := range p.m {
			out.gram[k][a] = make([]float64, p.m)
			for row := range 3 {
				out.right[k][a] += b[k][row][a] * d[row]
				for x := range p.m {
					out.gram[k][a][x] += b[k][row][a] * b[k][row][x]
				}
			}
		}
	}
	return out
}

// screen ranks one set in the linear model.
func (l *linearModel) screen(p *problem, at int, set []int) ranked {
	n := len(set)
	out := ranked{at: at}
	w := p.coef
	want := 0.0
	if p.OpacityMin > 0 {
		want = -math.Log(1 - p.OpacityMin - 0.0005)
	}
	var e [lights]float64
	// The set's own part of the model, gathered once.
	var gram [lights][mostPigments][mostPigments]float64
	var right [lights][mostPigments]float64
	for k := range lights {
		for a := range n {
			row := l.gram[k][set[a]]
			right[k][a] = l.right[k][set[a]]
			for b := range n {
				gram[k][a][b] = row[set[b]]
			}
		}
	}
	opaque, loaded := false, false
	for range 4 {
		var h [mostPigments][mostPigments]float64
		var g [mostPigments]float64
		for k := range lights {
			for a := range n {
				g[a] -= w[k] * right[k][a]
				for b := range n {
					h[a][b] += w[k] * gram[k][a][b]
				}
			}
		}
		if opaque {
			for a := range n {
				g[a] += 900 * l.o[set[a]] * (want - l.o0)
				for b := range n {
					h[a][b] += 900 * l.o[set[a]] * l.o[set[b]]
				}
			}
		}
		if loaded {
			for a := range n {
				g[a] += 900 * (p.limit - p.load)
				for b := range n {
					h[a][b] += 900
				}
			}
		}
		out.c = boxed(p, set, &h, &g)
		o, load := l.o0, p.load
		for a := range n {
			o += l.o[set[a]] * out.c[a]
			load += out.c[a]
		}
		opaque = opaque || want > 0 && o < want
		loaded = loaded || load > p.limit
		for k := range lights {
			sq := l.dd[k]
			for a := range n {
				sum := 2 * right[k][a]
				for b := range n {
					sum += out.c[b] * gram[k][a][b]
				}
				sq += out.c[a] * sum
			}
			e[k] = math.Sqrt(math.Max(0, sq))
			w[k] = p.coef[k] / math.Max(e[k], 0.1)
		}
		out.score = 5*math.Max(0, load-p.limit) + 2*math.Max(0, want-o)
	}
	for k := range lights {
		out.score += p.coef[k] * e[k]
	}
	for _, a := range set {
		out.score += p.cost[a]
	}
	return out
}

// boxed solves h x = g within a set's bounds: what is beyond one is set to it, the worst
// first.
func boxed(p *problem, set []int, h *[mostPigments][mostPigments]float64, g *[mostPigments]float64) (x [mostPigments]float64) {
	n := len(set)
	var fixed [mostPigments]bool
	for {
		var m [mostPigments][mostPigments + 1]float64
		var idx [mostPigments]int
		free := 0
		for a := range n {
			if !fixed[a] {
				idx[free] = a
				free++
			}
		}
		for i := range free {
			right := g[idx[i]]
			for a := range n {
				if fixed[a] {
					right -= h[idx[i]][a] * x[a]
				}
			}
			for j := range free {
				m[i][j] = h[idx[i]][idx[j]]
			}
			m[i][i] += 1e-9
			m[i][free] = right
		}
		gauss(&m, free)
		worst, at := 0.0, -1
		for i := range free {
			a := idx[i]
			x[a] = m[i][free]
			over := math.Max(p.low[set[a]]-x[a], x[a]-p.high[set[a]])
			if over > worst {
				worst, at = over, a
			}
		}
		if at < 0 {
			return x
		}
		x[at] = math.Min(p.high[set[at]], math.Max(p.low[set[at]], x[at]))
		fixed[at] = true
	}
}
