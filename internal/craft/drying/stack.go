package drying

// The simulation of sections 3.2 to 3.5 of the handbook chapter: water in a stack of
// latex layers, each put on at a time or once the one below is so far, on the
// coordinate of the dry thickness.

import (
	"math"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/tridiag"
)

// The marks of a layer, as the share of its free water that is left.
const (
	TouchDry    = 0.25
	RecoatReady = 0.06
	ThroughDry  = 0.02
)

// What a layer waits for of the one below.
const (
	AfterTouch  = "touch"
	AfterRecoat = "recoat"
	AfterDry    = "dry"
)

// Laid is a layer with when it is put on: at a time, in s, or so long after the one
// below reached a mark.
type Laid struct {
	Layer
	AtS   float64 `json:"at_s"`
	After string  `json:"after,omitempty"`
	WaitS float64 `json:"wait_s,omitempty"`
}

// Segment is a drying place from a moment on, in s of the run.
type Segment struct {
	FromS float64
	Place
}

// Stack is what is simulated. The segments share their side, and may each be in a room of
// their own; the first begins at 0.
type Stack struct {
	Layers     []Laid
	Segments   []Segment
	WallM      float64 // of plaster: its thickness, m
	Saturation float64 // of plaster: how full of water its pores are, 0..1
	HorizonS   float64
	ReportS    []float64

	finer int // more cells than usual, so many times; to see what the usual ones cost
}

// LayerTimes are when a layer was put on and reached its marks, s of the run; nil for
// what did not happen.
type LayerTimes struct {
	AtS     *float64 `json:"at_s"`
	TouchS  *float64 `json:"touch_s"`
	RecoatS *float64 `json:"recoat_s"`
	DryS    *float64 `json:"dry_s"`
}

// Dried is how a stack dries. Uncertain by −30/+50 % until its place was learned.
type Dried struct {
	Layers      []LayerTimes `json:"layers"`
	DryS        *float64     `json:"dry_s"`
	Evaporation float64      `json:"evaporation_kg_m2_s"`
	SurfaceC    float64      `json:"surface_c"`
	AirRH       float64      `json:"air_rh"`
	Water       float64      `json:"water_kg_m2"`
	DryM        float64      `json:"dry_thickness_m"`
	Left        []float64    `json:"water_left_kg_m2"`
	Absorbed    float64      `json:"absorbed_kg_m2"`
	Warnings    []string     `json:"warnings"`
	// Stopped: it took more steps than a case may, and what is left out of it is by
	// the closed form.
	Stopped bool `json:"-"`
}

// Constants of sections 3.1 to 3.3.
const (
	openAbove     = 0.25   // water ratio above which a film has not formed
	plasterTakes  = 1.5e-4 // kg/(m² s)
	plasterPores  = 0.35
	uaRubber      = 0.010
	uaFiller      = 0.16
	uaFibre       = 0.09
	mostSteps     = 5000
	humid         = 0.80
	hotOnSkinC    = 45.0
	sealedOpen    = 0
	sealedLimited = 1
	sealedBlocked = 2
)

// stratum is a layer in the simulation.
type stratum struct {
	film
	u0, d, kappa, rho, uSw, uFilm float64
	from, to                      int     // its cells
	sigma                         float64 // how formed it was when it was covered
	covered                       bool
	dry                           *LayerTimes
	same                          bool // of one material with the one below
}

func (l Layer) stratum() stratum {
	f := l.hold()
	r := l.FillerRatio
	mix := l.WetKgM2()
	rubber := mix * l.Solids / (1 + r)
	other := f.solids - rubber
	s := stratum{film: f, u0: f.water / f.solids, d: math.Exp(f.lnD / f.dry), rho: f.solids / f.dry}
	s.kappa = math.Log(dWet / s.d)
	s.uSw = (0.03*rubber + 0.35*other) / f.solids
	s.uFilm = (0.08*rubber + 0.20*other) / f.solids
	return s
}

// at is Φ(u) in m²/s and D(u), with one exponential.
func (s *stratum) at(u float64) (phi, d float64) {
	if s.kappa < 1e-9 {
		return s.d * u, s.d
	}
	switch {
	case u <= 0:
		return s.d * u, s.d
	case u < uKnee:
		d = s.d * math.Exp(s.kappa*u/uKnee)
		return uKnee / s.kappa * (d - s.d), d
	}
	return uKnee/s.kappa*(dWet-s.d) + dWet*(u-uKnee), dWet
}

// isotherm is the water ratio in balance with an activity, activity the inverse.
func (f film) isotherm(a float64) float64 { return -f.ua * math.Log(1-math.Min(a, 0.999999)) }
func (f film) activity(u float64) float64 { return 1 - math.Exp(-math.Max(u, 0)/f.ua) }

// cellsOf is how many cells a layer has, by how many layers there are in all.
func cellsOf(layers int) int {
	switch {
	case layers <= 1:
		return 12
	case layers <= 4:
		return 8
	case layers <= 8:
		return 6
	case layers <= 16:
		return 4
	}
	return 3
}

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

// Simulate follows a stack until it is dry, or to its horizon. Refusals: never_dries,
// out_of_range and contradiction of the place; out_of_range at rh where the room is so
// humid that a layer hardly dries.
func (in Stack) Simulate() (Dried, error) {
	first := in.Segments[0].Place
	out := Dried{Layers: make([]LayerTimes, len(in.Layers)), Left: []float64{}, Warnings: []string{}}
	for _, seg := range in.Segments {
		if err := seg.possible(); err != nil {
			return out, err
		}
	}
	if err := first.Check(); err != nil {
		return out, err
	}
	b, err := in.bench(&out)
	if err != nil {
		return out, err
	}
	out.Evaporation, out.SurfaceC = first.flux(1)
	out.AirRH = first.airPressure() / SaturationPressure(first.AirC)
	steps := b.run(&out)
	if b.plaster {
		out.Absorbed = b.u[0]
	}
	out.Stopped = steps >= mostSteps
	if out.Stopped {
		b.close(&out)
	}
	dry := 0.0
	all := true
	for _, l := range out.Layers {
		if l.DryS == nil {
			all = false
			break
		}
		dry = math.Max(dry, *l.DryS)
	}
	if first.RH > humid {
		out.Warnings = append(out.Warnings, "humid_room")
	}
	for _, seg := range in.Segments {
		if seg.Side == "skin" && seg.AirC > hotOnSkinC {
			out.Warnings = append([]string{"hot_on_skin"}, out.Warnings...)
			break
		}
	}
	if all {
		out.DryS = &dry
	} else {
		out.Warnings = append(out.Warnings, "not_dry_within_horizon")
	}
	return out, nil
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

// alike says whether two layers are of one material, so that water moves between them
// as inside of one.
func (l Layer) alike(other Layer) bool {
	return l.Solids == other.Solids && l.FillerRatio == other.FillerRatio && l.FibreKgM2 == 0 && other.FibreKgM2 == 0 ||
		l.Solids == other.Solids && l.FillerRatio == other.FillerRatio && l.FibreUptake == other.FibreUptake && l.FibreKgM2*other.WetM == other.FibreKgM2*l.WetM
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
			out.Left = append(out.Left, b.water())
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
		out.Left = append(out.Left, b.water())
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
	b.r, b.k1, b.k2, b.try, b.m = make([]float64, size), make([]float64, size), make([]float64, size), make([]float64, size), tridiag.New(size)
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

// free is the share of a layer's free water that is left at u.
func (b *bench) free(i int, u []float64) float64 {
	s := &b.strata[i]
	sum := 0.0
	for c := s.from; c < s.to; c++ {
		sum += u[c] * b.width[c]
	}
	// What is free is so to the room as it is now; in a very damp one little is.
	e := math.Min(s.isotherm(b.place().RH), 0.9*s.u0)
	return (sum/s.film.dry - e) / (s.u0 - e)
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

// mean is a layer's mean water ratio.
func (b *bench) mean(s *stratum) float64 {
	sum := 0.0
	for c := s.from; c < s.to; c++ {
		sum += b.u[c] * b.width[c]
	}
	return sum / s.film.dry
}

// water is all that is in the stack, kg/m².
func (b *bench) water() float64 {
	sum := 0.0
	for i := b.first; i < len(b.u); i++ {
		sum += b.u[i] * b.mass[i]
	}
	return sum
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

// close answers what is left by the closed form, all of it as one wet film.
func (b *bench) close(out *Dried) {
	layers := make([]Layer, len(b.in.Layers))
	for i, l := range b.in.Layers {
		layers[i] = l.Layer
	}
	place := b.in.Segments[len(b.in.Segments)-1].Place
	if place.Side == "plaster" {
		place.Side = "form"
	}
	e, err := place.Latex(layers, WetOnWet)
	if err != nil {
		return
	}
	for i := range out.Layers {
		l := &out.Layers[i]
		from := b.t
		if l.AtS != nil {
			from = *l.AtS
		} else {
			l.AtS = &from
		}
		for _, m := range []struct {
			at **float64
			s  float64
		}{{&l.TouchS, e.TouchS}, {&l.RecoatS, e.RecoatS}, {&l.DryS, e.DryS}} {
			if *m.at == nil {
				t := from + m.s
				*m.at = &t
			}
		}
	}
}
