package gypsum

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Weighing is one mass of a mould, kg, at a time, s.
type Weighing [2]float64

// Curve is the fitted course of drying and what follows from it.
type Curve struct {
	InfKG     float64  `json:"m_inf_kg" doc:"what it will weigh when dry"`
	Amplitude float64  `json:"amplitude_kg"`
	TauS      float64  `json:"tau_s"`
	DryAtS    float64  `json:"dry_at_s" doc:"on the clock of the weighings"`
	Remaining float64  `json:"remaining_s"`
	LowAtS    float64  `json:"low_at_s"`
	HighAtS   float64  `json:"high_at_s"`
	Rate      float64  `json:"rate_per_day" doc:"share of its mass that it loses a day, now"`
	State     string   `json:"state" enum:"dry,drying"`
	Warnings  []string `json:"warnings"`
	first     float64
}

// Refusals of a drying curve.
const (
	NotEnough = "not_enough_data"
	NotDrying = "not_drying"
)

const day = 86400.0

// A mould is dry when it loses less than this share of its mass a day and is
// within that share of what it comes to.
const (
	dryRate  = 0.001
	dryShare = 0.01
)

// At is the mass at a time on the curve, kg.
func (c Curve) At(t float64) float64 { return c.InfKG + c.Amplitude*math.Exp(-(t-c.first)/c.TauS) }

// fitted is the best curve of one rate constant.
type fitted struct{ k, inf, a, chi float64 }

// fit is the weighted least squares of m = inf + a·x for a given k; it says no
// where the curve does not fall or falls to nothing.
func fit(w []Weighing, dryKG, sigma, k float64) (fitted, bool) {
	var n, sx, sxx, sy, sxy float64
	for _, p := range w {
		x := math.Exp(-k * (p[0] - w[0][0]))
		n++
		sx += x
		sxx += x * x
		sy += p[1]
		sxy += x * p[1]
	}
	v := sigma * sigma
	n, sx, sxx, sy, sxy = n/v, sx/v, sxx/v, sy/v, sxy/v
	if dryKG > 0 { // the theoretical dry mass, known to 2 %
		u := 0.02 * dryKG
		n += 1 / (u * u)
		sy += dryKG / (u * u)
	}
	det := n*sxx - sx*sx
	if !(det > 1e-12*n*sxx) {
		return fitted{}, false
	}
	out := fitted{k: k, inf: (sy*sxx - sx*sxy) / det, a: (n*sxy - sx*sy) / det}
	if out.a <= 0 || out.inf <= 0.3*w[0][1] {
		return fitted{}, false
	}
	for _, p := range w {
		r := (out.inf + out.a*math.Exp(-k*(p[0]-w[0][0])) - p[1]) / sigma
		out.chi += r * r
	}
	if dryKG > 0 {
		r := (out.inf - dryKG) / (0.02 * dryKG)
		out.chi += r * r
	}
	return out, true
}

// dryAfter is when a curve is dry, s after the first weighing: both the loss a
// day and the distance from the end are small.
func (f fitted) dryAfter() float64 {
	near := math.Log(f.a/(dryShare*f.inf)) / f.k
	// a·k·e^(−kt) per second over the mass, a day: x/(inf + a·x)·a·k·day = rate.
	slow := 0.0
	if d := f.a * (f.k*day - dryRate); d > 0 {
		if x := dryRate * f.inf / d; x < 1 {
			slow = -math.Log(x) / f.k
		}
	}
	return math.Max(0, math.Max(near, slow))
}

// Dry fits a curve to weighings of one place; dryKG is what the mix comes to in
// theory (0: not known), scaleKG what the scale can tell.
func Dry(w []Weighing, dryKG, scaleKG float64) (Curve, error) {
	no := func(code, why string) (Curve, error) { return Curve{}, refusal.New(code, "weighings", "%s", why) }
	switch {
	case len(w) < 2:
		return no(NotEnough, "One weighing says nothing about drying. Weigh it again in some hours.")
	case len(w) < 3 && dryKG <= 0:
		return no(NotEnough, "Two weighings need the dry mass of the mix; without it weigh a third time.")
	case w[len(w)-1][1] >= w[0][1]:
		return no(NotDrying, "It weighs no less than at first. Is it the same mould, with the same parts, on the same scale?")
	}
	if dryKG > 0 && (dryKG < 0.4*w[0][1] || dryKG > 1.02*w[0][1]) {
		return Curve{}, refusal.New(refusal.Contradiction, "dry_kg", "Dry it would weigh %.2f kg and it weighs %.2f kg now. One of the two is wrong.", dryKG, w[0][1])
	}
	sigma := math.Max(scaleKG, 0.0005*w[0][1])
	lo, hi := math.Log(1/(100*day)), math.Log(1/(0.05*day))
	const steps = 401
	at := func(i int) float64 { return lo + (hi-lo)*float64(i)/(steps-1) }
	scanned := make([]fitted, 0, steps)
	best, bestAt := fitted{chi: math.Inf(1)}, -1
	for i := range steps {
		if f, ok := fit(w, dryKG, sigma, math.Exp(at(i))); ok {
			scanned = append(scanned, f)
			if f.chi < best.chi {
				best, bestAt = f, i
			}
		}
	}
	if bestAt < 0 {
		return no(NotDrying, "No falling curve goes through these weighings. Look for a typing error, or for a part that was left off.")
	}
	best = golden(at(max(0, bestAt-1)), at(min(steps-1, bestAt+1)), best, func(lnK float64) (fitted, bool) { return fit(w, dryKG, sigma, math.Exp(lnK)) })

	first, last := w[0][0], w[len(w)-1]
	out := Curve{InfKG: best.inf, Amplitude: best.a, TauS: 1 / best.k, first: first, Warnings: []string{}, State: "drying"}
	out.DryAtS = first + best.dryAfter()
	out.LowAtS, out.HighAtS = out.DryAtS, out.DryAtS
	for _, f := range scanned {
		if f.chi <= best.chi+2.706 {
			out.LowAtS = math.Min(out.LowAtS, first+f.dryAfter())
			out.HighAtS = math.Max(out.HighAtS, first+f.dryAfter())
		}
	}
	out.Remaining = math.Max(0, out.DryAtS-last[0])
	mass := out.At(last[0])
	out.Rate = (mass - out.InfKG) * best.k * day / mass
	if out.Remaining == 0 {
		out.State = "dry"
	}
	if dryKG > 0 && out.InfKG < 0.97*dryKG {
		out.Warnings = append(out.Warnings, "below_theoretical_dry_mass")
	}
	return out, nil
}

// golden refines a minimum of χ² between two neighbours of the best.
func golden(a, b float64, best fitted, f func(float64) (fitted, bool)) fitted {
	ratio := (math.Sqrt(5) - 1) / 2
	value := func(x float64) float64 {
		y, ok := f(x)
		if !ok {
			return math.Inf(1)
		}
		if y.chi < best.chi {
			best = y
		}
		return y.chi
	}
	c, d := b-ratio*(b-a), a+ratio*(b-a)
	fc, fd := value(c), value(d)
	for range 60 {
		if fc < fd {
			b, d, fd = d, c, fc
			c = b - ratio*(b-a)
			fc = value(c)
		} else {
			a, c, fc = c, d, fd
			d = a + ratio*(b-a)
			fd = value(d)
		}
	}
	return best
}
