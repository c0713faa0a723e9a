package drying

// A run of the simulation: what is put on when, and the steps between.

import (
	"math"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/tridiag"
)

// bench is a run of the simulation: its cells from the innermost out, and the buffers
// of a step.
type bench struct {
	in     Stack
	strata []stratum
	width  []float64 // of each cell, m
	mass   []float64 // of its solids, kg/m²
	u      []float64
	of     []int // its layer

	plaster bool
	first   int // the innermost cell: 1 behind plaster, whose own unknown is u[0], in kg/m²

	t, surfaceC, slope float64 // s, °C, °C/s
	tol                float64
	modes              []int
	stepped            func(h float64) // hears of each step that was taken; nil for nobody

	r, k1, k2, try []float64
	m              *tridiag.System
}

// bench is a run of a stack before its first layer.
func (in Stack) bench(out *Dried) (*bench, error) {
	b := &bench{in: in, plaster: in.Segments[0].Side == "plaster", tol: 3e-3}
	for i, l := range in.Layers {
		s := l.stratum()
		if s.isotherm(in.Segments[0].RH) >= 0.9*s.u0 {
			return nil, refusal.New(refusal.OutOfRange, "rh", "The room is so humid that the layer hardly dries at all.")
		}
		s.dry = &out.Layers[i]
		s.same = i > 0 && l.Layer.alike(in.Layers[i-1].Layer)
		b.strata = append(b.strata, s)
		out.Water += s.water
		out.DryM += s.film.dry
	}
	if b.plaster {
		b.first, b.u, b.mass, b.width, b.of = 1, []float64{0}, []float64{1}, []float64{0}, []int{-1}
	}
	switch {
	case len(in.Layers) == 1:
		b.tol = 2e-3
	case len(in.Layers) > 16:
		b.tol = 6e-3
	}
	return b, nil
}

// place is where it stands now.
func (b *bench) place() Place {
	at := 0
	for i, s := range b.in.Segments {
		if s.FromS <= b.t+1e-9 {
			at = i
		}
	}
	return b.in.Segments[at].Place
}

// run steps through and returns how many steps it took.
func (b *bench) run(out *Dried) int {
	laid, reported := 0, 0
	h, last := 0.0, 0.0
	report := append([]float64{}, b.in.ReportS...)
	out.Left = make([]float64, 0, len(report))
	for steps := 0; steps < mostSteps; steps++ {
		// What is put on now.
		for laid < len(b.strata) {
			at, known := b.due(laid)
			if !known || at > b.t+1e-9 {
				break
			}
			b.lay(laid)
			laid++
			h = 0
		}
		for reported < len(report) && report[reported] <= b.t+1e-9 {
			b.report(out)
			reported++
		}
		if laid == len(b.strata) && b.done() && reported == len(report) || b.t >= b.in.HorizonS-1e-9 {
			break
		}
		stop := b.in.HorizonS
		if reported < len(report) {
			stop = math.Min(stop, report[reported])
		}
		for _, s := range b.in.Segments {
			if s.FromS > b.t+1e-9 {
				stop = math.Min(stop, s.FromS)
				break
			}
		}
		waits := ""
		if laid < len(b.strata) {
			if at, known := b.due(laid); known {
				stop = math.Min(stop, at)
			} else {
				waits = b.in.Layers[laid].After
			}
		}
		place := b.place()
		if h == 0 || b.fresh(last) {
			h = b.begin(place)
		}
		last = b.t
		h = b.step(place, h, stop, laid-1, waits)
	}
	// What was asked for after it was dry is what is left then.
	for ; reported < len(report); reported++ {
		b.report(out)
	}
	if b.t >= b.in.HorizonS-1e-9 || laid == len(b.strata) && b.done() {
		return 0
	}
	return mostSteps
}

// due is when a layer is put on, once that is known.
func (b *bench) due(i int) (float64, bool) {
	l := b.in.Layers[i]
	if l.After == "" {
		return math.Max(l.AtS, b.belowAt(i)), true
	}
	below := b.strata[i-1].dry
	mark := map[string]*float64{AfterTouch: below.TouchS, AfterRecoat: below.RecoatS, AfterDry: below.DryS}[l.After]
	if mark == nil {
		return 0, false
	}
	return *mark + l.WaitS, true
}

// belowAt is when the layer below was put on; a layer is never before it.
func (b *bench) belowAt(i int) float64 {
	if i == 0 || b.strata[i-1].dry.AtS == nil {
		return 0
	}
	return *b.strata[i-1].dry.AtS
}

// lay puts a layer on.
func (b *bench) lay(i int) {
	s := &b.strata[i]
	t := b.t
	s.dry.AtS = &t
	if i > 0 {
		below := &b.strata[i-1]
		below.sigma = math.Min(1, math.Max(0, (openAbove-b.mean(below))/(openAbove-below.uFilm)))
		below.covered = true
	}
	n := cellsOf(len(b.in.Layers)) * max(1, b.in.finer)
	s.from = len(b.u)
	for c := range n {
		w := 0.5 * (math.Cos(math.Pi*float64(c)/float64(n)) - math.Cos(math.Pi*float64(c+1)/float64(n))) * s.film.dry
		b.width = append(b.width, w)
		b.mass = append(b.mass, w*s.rho)
		b.u = append(b.u, s.u0)
		b.of = append(b.of, i)
	}
	s.to = len(b.u)
	size := len(b.u)
	for _, v := range []*[]float64{&b.r, &b.k1, &b.k2, &b.try} {
		*v = make([]float64, size)
	}
	b.m = tridiag.New(size)
	b.modes = make([]int, len(b.strata))
}

// fresh says whether a segment began since the step before.
func (b *bench) fresh(last float64) bool {
	for _, s := range b.in.Segments {
		if s.FromS > last+1e-9 && s.FromS <= b.t+1e-9 {
			return true
		}
	}
	return false
}

// begin is the first step after something was put on or another place began, s.
func (b *bench) begin(place Place) float64 {
	flux, wetC := place.flux(1)
	if b.t == 0 {
		b.surfaceC = wetC
	}
	_, _, b.surfaceC = b.surface(place, b.u[len(b.u)-1], Arrhenius(energyDiffusion, b.surfaceC, 21))
	b.slope = 0
	if !(flux > 0) { // a later place that gives water
		return 1
	}
	top := &b.strata[b.of[len(b.of)-1]]
	return 0.01 * top.solids * top.u0 / flux
}

// step goes one step of at most h on, ending at stop or at the mark that a layer waits
// for, and returns how long the next may be.
func (b *bench) step(place Place, h, stop float64, top int, waits string) float64 {
	for i := range top {
		b.modes[i] = b.mode(i)
	}
	wanted := h
	for {
		h = math.Min(h, stop-b.t)
		worst, negative := b.trial(place, h)
		err := 0.5 * h * worst / 0.67
		next := h * math.Min(1.6, math.Max(0.5, 0.9*math.Sqrt(b.tol/math.Max(err, 1e-300))))
		if (err > b.tol || negative) && h > 1e-6 {
			h = math.Min(next, h/2)
			wanted = h
			continue
		}
		forced := ""
		if part, inside := b.crossing(top, waits); inside && part*h > 1e-6 {
			// The mark that the next layer waits for ends the step.
			h *= part
			b.trial(place, h)
			forced = waits
		}
		b.accept(place, h, top, forced)
		if h < wanted { // cut short: the step after goes on as this one began
			return math.Max(next, wanted)
		}
		return next
	}
}

// trial makes one step of the two-stage Rosenbrock method with γ = 1 − 1/√2 into try. It
// gives the largest change of rate, kg/(kg s), and whether some cell fell below none.
func (b *bench) trial(place Place, h float64) (worst float64, negative bool) {
	const gamma = 1 - 1/math.Sqrt2
	f := Arrhenius(energyDiffusion, b.surfaceC+b.slope*h/2, 21)
	b.rates(place, b.u, f, true)
	b.factor(gamma * h)
	b.m.Solve(b.r, b.k1)
	for i := range b.u {
		b.try[i] = b.u[i] + h*b.k1[i]
	}
	b.rates(place, b.try, f, false)
	for i := range b.r {
		b.r[i] -= 2 * b.mass[i] * b.k1[i]
	}
	b.m.Solve(b.r, b.k2)
	for i := range b.u {
		b.try[i] = b.u[i] + h*(1.5*b.k1[i]+0.5*b.k2[i])
		if i >= b.first {
			worst = math.Max(worst, math.Abs(b.k1[i]+b.k2[i]))
			negative = negative || b.try[i] < 0
		}
	}
	return worst, negative
}

var marks = map[string]float64{AfterTouch: TouchDry, AfterRecoat: RecoatReady, AfterDry: ThroughDry}

// crossing is where in a step a layer comes to a mark, 0..1.
func (b *bench) crossing(i int, mark string) (part float64, inside bool) {
	at, known := marks[mark]
	if !known {
		return 0, false
	}
	before, after := b.free(i, b.u), b.free(i, b.try)
	switch {
	case after > at:
		return 0, false
	case before <= at: // the room has changed since: it is so far from the step's beginning
		return 0, true
	}
	return (before - at) / (before - after), true
}

// accept takes a step over and notes which marks were passed in it, each once. forced is
// the mark that the topmost layer is at by the length of the step.
func (b *bench) accept(place Place, h float64, top int, forced string) {
	for i := 0; i <= top; i++ {
		s := &b.strata[i]
		for _, m := range []struct {
			mark string
			at   **float64
		}{{AfterTouch, &s.dry.TouchS}, {AfterRecoat, &s.dry.RecoatS}, {AfterDry, &s.dry.DryS}} {
			if *m.at != nil {
				continue
			}
			part, inside := b.crossing(i, m.mark)
			if i == top && m.mark == forced {
				part, inside = 1, true
			}
			if inside {
				t := b.t + part*h
				*m.at = &t
			}
		}
	}
	b.u, b.try = b.try, b.u
	b.t += h
	_, _, now := b.surface(place, b.u[len(b.u)-1], Arrhenius(energyDiffusion, b.surfaceC, 21))
	b.slope, b.surfaceC = (now-b.surfaceC)/h, now
	if b.stepped != nil {
		b.stepped(h)
	}
}

// water is all that is in the stack, kg/m².
func (b *bench) water() float64 {
	sum := 0.0
	for i := b.first; i < len(b.u); i++ {
		sum += b.u[i] * b.mass[i]
	}
	return sum
}

// report notes what is left now, in all and of each layer.
func (b *bench) report(out *Dried) {
	out.Left = append(out.Left, b.water())
	shares := make([]float64, len(b.strata))
	for i := range b.strata {
		if b.strata[i].dry.AtS != nil {
			shares[i] = math.Min(1, math.Max(0, b.free(i, b.u)))
		}
	}
	out.Shares = append(out.Shares, shares)
	taken := 0.0
	if b.plaster {
		taken = b.u[0]
	}
	out.Taken = append(out.Taken, taken)
}

// done says whether every layer is dry.
func (b *bench) done() bool {
	for i := range b.strata {
		if b.strata[i].dry.DryS == nil {
			return false
		}
	}
	return true
}
