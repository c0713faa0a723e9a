// Package heat follows heat through a stack of slabs, as mould walls round a body are:
// section 5 of the handbook chapter "Drying, cure and thermal models". SI units; °C.
package heat

import (
	"math"

	"yewmoor/internal/craft/tridiag"
)

// Stuff is what a slab is made of: W/(m K), kg/m³, J/(kg K).
type Stuff struct{ K, Rho, C float64 }

// Stuffs are the materials that the chapter knows.
var Stuffs = map[string]Stuff{
	"plaster":  {0.45, 1150, 1000},
	"stone":    {0.60, 1600, 1000},
	"silicone": {0.20, 1150, 1300},
	"resin":    {0.20, 1200, 1400},
	"wet_foam": {0.060, 250, 2800},
}

// Wet is the same with so much water in it, kg/kg of dry.
func (s Stuff) Wet(ratio float64) Stuff {
	return Stuff{s.K, s.Rho * (1 + ratio), (s.C + 4180*ratio) / (1 + ratio)}
}

// Slab is a layer of the stack.
type Slab struct {
	Stuff
	ThicknessM float64
	InitC      float64
}

// Face is what an end of the stack sees: how it takes heat, W/(m² K), 0 for not at all,
// and the air there at a time in s.
type Face struct {
	H   float64
	Air func(t float64) float64
}

// Steady is a face in air of one temperature.
func Steady(h, airC float64) Face { return Face{h, func(float64) float64 { return airC }} }

// Along is a face in air that goes along a table of s and °C, rising in s; straight
// between its points, held outside.
func Along(h float64, table [][2]float64) Face {
	return Face{h, func(t float64) float64 {
		n := len(table)
		if t <= table[0][0] {
			return table[0][1]
		}
		for i := 1; i < n; i++ {
			if t <= table[i][0] {
				a, b := table[i-1], table[i]
				return a[1] + (b[1]-a[1])*(t-a[0])/(b[0]-a[0])
			}
		}
		return table[n-1][1]
	}}
}

// cells is how many a slab has; localK how far a step may be off, K.
const (
	cells  = 30
	localK = 0.005
)

// Run is a stack on its way. Its faces may be changed between two steps.
type Run struct {
	Left, Right Face
	T           float64   // s
	C           []float64 // of each cell from left to right, °C
	from        []int     // first cell of each slab, and the number of cells

	mass, between []float64 // J/(m² K) of a cell; W/(m² K) to the next
	skinL, skinR  float64   // of the outermost half cells, m² K/W
	h             float64   // the step that is tried next

	k1, k2, r []float64
	m         *tridiag.System
}

// New is a stack at its first moment.
func New(slabs []Slab, left, right Face) *Run {
	run := &Run{Left: left, Right: right, h: 0.01}
	var half []float64 // m² K/W of half a cell
	for _, s := range slabs {
		run.from = append(run.from, len(run.C))
		for i := range cells {
			w := 0.5 * (math.Cos(math.Pi*float64(i)/cells) - math.Cos(math.Pi*float64(i+1)/cells)) * s.ThicknessM
			run.mass = append(run.mass, s.Rho*s.C*w)
			half = append(half, w/2/s.K)
			run.C = append(run.C, s.InitC)
		}
	}
	n := len(run.C)
	run.from = append(run.from, n)
	for i := range n - 1 {
		run.between = append(run.between, 1/(half[i]+half[i+1]))
	}
	run.skinL, run.skinR = half[0], half[n-1]
	run.k1, run.k2, run.r, run.m = make([]float64, n), make([]float64, n), make([]float64, n), tridiag.New(n)
	return run
}

// Slab is the coldest, hottest and mean temperature of a slab's cells; the mean by mass.
func (run *Run) Slab(i int) (minC, maxC, meanC float64) { return run.slab(i, run.C) }

func (run *Run) slab(i int, c []float64) (minC, maxC, meanC float64) {
	minC, maxC = math.Inf(1), math.Inf(-1)
	sum, mass := 0.0, 0.0
	for at := run.from[i]; at < run.from[i+1]; at++ {
		minC, maxC = math.Min(minC, c[at]), math.Max(maxC, c[at])
		sum += c[at] * run.mass[at]
		mass += run.mass[at]
	}
	return minC, maxC, sum / mass
}

// Heat is what is stored in the stack over 0 °C, J/m².
func (run *Run) Heat() float64 {
	sum := 0.0
	for i, c := range run.C {
		sum += c * run.mass[i]
	}
	return sum
}

// conducts is what a face takes from its outermost cell, W/(m² K).
func conducts(f Face, skin float64) float64 {
	if f.H <= 0 {
		return 0
	}
	return 1 / (1/f.H + skin)
}

// inflow fills r with what flows into each cell at t, W/m².
func (run *Run) inflow(c []float64, t float64) {
	n := len(c)
	clear(run.r)
	for i := range n - 1 {
		q := run.between[i] * (c[i] - c[i+1])
		run.r[i] -= q
		run.r[i+1] += q
	}
	run.r[0] += conducts(run.Left, run.skinL) * (run.Left.Air(t) - c[0])
	run.r[n-1] += conducts(run.Right, run.skinR) * (run.Right.Air(t) - c[n-1])
}

// factor works out the factors of m + γhB, B = −∂r/∂c.
func (run *Run) factor(gh float64) {
	n := len(run.C)
	run.m.Clear()
	copy(run.m.Di, run.mass)
	for i, g := range run.between {
		run.m.Up[i], run.m.Lo[i+1] = -gh*g, -gh*g
		run.m.Di[i] += gh * g
		run.m.Di[i+1] += gh * g
	}
	run.m.Di[0] += gh * conducts(run.Left, run.skinL)
	run.m.Di[n-1] += gh * conducts(run.Right, run.skinR)
	run.m.Factor()
}

// Step is one step that was taken.
type Step struct {
	FromS, ToS    float64
	Before, After []float64 // °C of the cells; only until the next step
	run           *Run
}

// Slab is the coldest and hottest cell of a slab before and after the step.
func (s Step) Slab(i int) (min0, max0, min1, max1 float64) {
	min0, max0, _ = s.run.slab(i, s.Before)
	min1, max1, _ = s.run.slab(i, s.After)
	return min0, max0, min1, max1
}

// Crossing is when a figure that stood at before and stands at after passed a value, as
// on a straight line; false where it did not.
func (s Step) Crossing(before, after, value float64) (float64, bool) {
	if before == after || (before-value)*(after-value) > 0 || before == value {
		return 0, false
	}
	return s.FromS + (s.ToS-s.FromS)*(before-value)/(before-after), true
}

// Advance goes one step on, at most to stopS, by the two-stage Rosenbrock method with
// γ = 1 − 1/√2: second order and L-stable. What the air does within the step is told
// by its own change.
func (run *Run) Advance(stopS float64) Step {
	const gamma = 1 - 1/math.Sqrt2
	n := len(run.C)
	wanted := run.h
	after := make([]float64, n)
	for {
		h := math.Min(run.h, stopS-run.T)
		leftT, rightT := run.change(h)
		run.factor(gamma * h)
		run.inflow(run.C, run.T)
		run.r[0] += gamma * h * leftT
		run.r[n-1] += gamma * h * rightT
		run.m.Solve(run.r, run.k1)
		for i := range n {
			after[i] = run.C[i] + h*run.k1[i]
		}
		run.inflow(after, run.T+h)
		run.r[0] -= gamma * h * leftT
		run.r[n-1] -= gamma * h * rightT
		for i := range n {
			run.r[i] -= 2 * run.mass[i] * run.k1[i]
		}
		run.m.Solve(run.r, run.k2)
		worst := 0.0
		for i := range n {
			worst = math.Max(worst, math.Abs(run.k1[i]+run.k2[i]))
			after[i] = run.C[i] + h*(1.5*run.k1[i]+0.5*run.k2[i])
		}
		err := 0.5 * h * worst
		next := h * math.Min(2, math.Max(0.3, 0.9*math.Sqrt(localK/math.Max(err, 1e-300))))
		if err > localK && h > 1e-4 {
			run.h, wanted = next, next
			continue
		}
		step := Step{FromS: run.T, ToS: run.T + h, Before: run.C, After: after, run: run}
		run.T += h
		run.C = after
		run.h = next
		if h < wanted {
			run.h = math.Max(next, wanted)
		}
		return step
	}
}

// change is how fast the air changes what flows in at each end, W/(m² s), over a step.
func (run *Run) change(h float64) (left, right float64) {
	if h <= 0 {
		return 0, 0
	}
	rate := func(f Face, skin float64) float64 {
		return conducts(f, skin) * (f.Air(run.T+h) - f.Air(run.T)) / h
	}
	return rate(run.Left, run.skinL), rate(run.Right, run.skinR)
}

// Change puts other air round the stack; the next step begins small.
func (run *Run) Change(left, right Face) {
	run.Left, run.Right, run.h = left, right, 0.01
}

// Target is a temperature that all of a slab is to pass.
type Target struct {
	Above bool // else below
	TempC float64
}

// Report is a slab at a moment.
type Report struct {
	MinC  float64 `json:"min_c"`
	MaxC  float64 `json:"max_c"`
	MeanC float64 `json:"mean_c"`
}

// Followed is when a slab passed its targets, nil for never, and how it stood when it was
// asked.
type Followed struct {
	TargetS  []*float64 `json:"target_s"`
	Report   []Report   `json:"report"`
	Warnings []string   `json:"warnings"`
}

// Follow watches one slab until its targets are passed and its reports are given, or to
// the horizon, s. kinks are moments at which the air bends; steps end there.
func (run *Run) Follow(watch int, targets []Target, reportS, kinks []float64, horizonS float64) Followed {
	out := Followed{TargetS: make([]*float64, len(targets)), Report: []Report{}, Warnings: []string{}}
	missing := 0
	for i, t := range targets {
		minC, maxC, _ := run.Slab(watch)
		if t.Above && minC >= t.TempC || !t.Above && maxC <= t.TempC {
			zero := 0.0
			out.TargetS[i] = &zero
			continue
		}
		missing++
	}
	for run.T < horizonS && (missing > 0 || len(out.Report) < len(reportS)) {
		stop := horizonS
		if len(out.Report) < len(reportS) {
			stop = math.Min(stop, reportS[len(out.Report)])
		}
		for _, k := range kinks {
			if k > run.T+1e-9 {
				stop = math.Min(stop, k)
				break
			}
		}
		if stop > run.T {
			step := run.Advance(stop)
			min0, max0, min1, max1 := step.Slab(watch)
			for i, t := range targets {
				from, to := max0, max1
				if t.Above {
					from, to = min0, min1
				}
				if at, passed := step.Crossing(from, to, t.TempC); passed && out.TargetS[i] == nil {
					out.TargetS[i] = &at
					missing--
				}
			}
		}
		for len(out.Report) < len(reportS) && reportS[len(out.Report)] <= run.T+1e-9 {
			var r Report
			r.MinC, r.MaxC, r.MeanC = run.Slab(watch)
			out.Report = append(out.Report, r)
		}
	}
	if missing > 0 {
		out.Warnings = append(out.Warnings, "not_reached_within_horizon")
	}
	return out
}
