package drying

// Water at the faces of a stack and between its cells.

import (
	"math"
)

// surface is the evaporation at the outer face with its derivative by the water of the
// outermost cell, and the surface's temperature.
func (b *bench) surface(place Place, u, f float64) (flux, slope, tempC float64) {
	top := &b.strata[b.of[len(b.of)-1]]
	g := top.rho * f / (b.width[len(b.width)-1] / 2)
	phi, d := top.at(u)
	_, rest := place.total()
	lo, hi := top.isotherm(place.airPressure()/SaturationPressure(rest)), u
	if lo > hi {
		lo, hi = hi, lo
	}
	us := u
	if top.activity(u) < 0.9 { // from the wet side while it is wet, else from between
		us = 0.5 * (lo + hi)
	}
	var ds, rate float64
	for range 60 {
		var ps, djda float64
		ps, ds = top.at(us)
		a := top.activity(us)
		flux, djda, tempC = place.fluxSlope(a)
		rate = djda * (1 - a) / top.ua
		over := g*(phi-ps) - flux
		if over > 0 {
			lo = us
		} else {
			hi = us
		}
		next := us + over/(g*ds+rate)
		if !(next > lo && next < hi) {
			next = 0.5 * (lo + hi)
		}
		if math.Abs(next-us) <= 1e-12+1e-9*math.Abs(us) {
			break
		}
		us = next
	}
	return flux, rate * g * d / (g*ds + rate), tempC
}

// inner is what plaster takes up, with its derivatives by the innermost cell's water
// and by what it took up already.
func (b *bench) inner(place Place, u, absorbed, f float64) (flux, byU, byI float64) {
	bottom := &b.strata[0]
	g := bottom.rho * f / (b.width[b.first] / 2)
	phi, d := bottom.at(u)
	full := b.in.Saturation + absorbed/(plasterPores*rhoWater*b.in.WallM)
	ap := place.RH + (1-place.RH)*math.Min(1, full)
	slopeAp := 0.0
	if full < 1 {
		slopeAp = (1 - place.RH) / (plasterPores * rhoWater * b.in.WallM)
	}
	lo, hi := bottom.isotherm(ap), u
	if lo > hi {
		lo, hi = hi, lo
	}
	ub := u
	for range 60 {
		pb, db := bottom.at(ub)
		a := bottom.activity(ub)
		over := g*(phi-pb) - plasterTakes*(a-ap)
		if over > 0 {
			lo = ub
		} else {
			hi = ub
		}
		rate := plasterTakes * (1 - a) / bottom.ua
		next := ub + over/(g*db+rate)
		if !(next > lo && next < hi) {
			next = 0.5 * (lo + hi)
		}
		done := math.Abs(next-ub) <= 1e-12+1e-10*math.Abs(ub)
		ub = next
		if done {
			break
		}
	}
	_, db := bottom.at(ub)
	a := bottom.activity(ub)
	rate := plasterTakes * (1 - a) / bottom.ua
	flux = plasterTakes * (a - ap)
	return flux, rate * g * d / (g*db + rate), -plasterTakes * slopeAp * g * db / (g*db + rate)
}

// mode chooses how an interface stands for a whole step: open, limited or blocked.
func (b *bench) mode(i int) int {
	below, above := &b.strata[i], &b.strata[i+1]
	yBelow, yAbove := b.u[below.to-1]/below.ua, b.u[above.from]/above.ua
	sw := below.uSw / below.ua
	switch {
	case yAbove <= yBelow || yAbove <= sw:
		return sealedOpen
	case yBelow >= sw:
		return sealedBlocked
	}
	return sealedLimited
}

// across is the open flux between two neighbouring cells, outwards, with its
// derivatives by the inner and the outer one.
func (b *bench) across(i int, ui, uj, f float64) (q, byI, byJ float64) {
	si, sj := &b.strata[b.of[i]], &b.strata[b.of[i+1]]
	pi, di := si.at(ui)
	pj, dj := sj.at(uj)
	if si == sj || sj.same {
		g := si.rho * f / (0.5 * (b.width[i] + b.width[i+1]))
		return g * (pi - pj), g * di, -g * dj
	}
	ri := b.width[i] / 2 / (si.rho * f * di * si.ua)
	rj := b.width[i+1] / 2 / (sj.rho * f * dj * sj.ua)
	sum := ri + rj
	q = (ui/si.ua - uj/sj.ua) / sum
	steeper := func(s *stratum, u, r float64) float64 {
		if u <= 0 || u >= uKnee {
			return 0
		}
		return r * s.kappa / uKnee
	}
	byI = 1/(si.ua*sum) + q*steeper(si, ui, ri)/sum
	byJ = -1/(sj.ua*sum) + q*steeper(sj, uj, rj)/sum
	return q, byI, byJ
}

// rates fills the net inflow of each cell at u and, where asked, the matrix −∂r/∂u.
func (b *bench) rates(place Place, u []float64, f float64, matrix bool) {
	n, m := len(u), b.m
	clear(b.r)
	if matrix {
		m.Clear()
	}
	flow := func(i int, q, byI, byJ float64) {
		b.r[i] -= q
		b.r[i+1] += q
		if matrix {
			m.Di[i] += byI
			m.Up[i] += byJ
			m.Di[i+1] -= byJ
			m.Lo[i+1] -= byI
		}
	}
	for i := b.first; i < n-1; i++ {
		q, byI, byJ := b.across(i, u[i], u[i+1], f)
		if b.of[i] != b.of[i+1] {
			if mode := b.modes[b.of[i]]; mode != sealedOpen {
				below, above := &b.strata[b.of[i]], &b.strata[b.of[i+1]]
				var g, gI float64
				if mode == sealedLimited {
					g, gI, _ = b.across(i, u[i], below.uSw/below.ua*above.ua, f)
				}
				open := 1 - below.sigma
				q, byI, byJ = open*q+below.sigma*g, open*byI+below.sigma*gI, open*byJ
			}
		}
		flow(i, q, byI, byJ)
	}
	if b.plaster { // inwards is out of the cell
		q, byU, byTaken := b.inner(place, u[1], u[0], f)
		flow(0, -q, -byTaken, -byU)
	}
	j, slope, _ := b.surface(place, u[n-1], f)
	b.r[n-1] -= j
	if matrix {
		m.Di[n-1] += slope
	}
}

// factor works out the factors of m + γhB.
func (b *bench) factor(gh float64) {
	for i, m := range b.mass {
		b.m.Lo[i] *= gh
		b.m.Up[i] *= gh
		b.m.Di[i] = m + gh*b.m.Di[i]
	}
	b.m.Factor()
}
