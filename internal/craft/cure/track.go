package cure

import (
	"math"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

// track is the equivalent time X of a part along its temperature, with the
// integral that carries the uncertainty of the activation energy. After the
// last node the rate is constant.
type track struct {
	nodes    []node
	rate     float64 // dX/dt after the last node
	logEnd   float64
	atLogEnd node
	lowC     float64
	highC    float64
	tooLong  bool // more than mostPieces: what is here is not the whole
}

// mostPieces is how many steps one question may take: a log of a year, a
// reading a minute, is half of it.
const mostPieces = 1_000_000

type node struct{ t, x, dxdE float64 }

// follow integrates X along the air temperatures [[t, °C], …] and then along
// the forecast. Simpson on pieces of at most 0.25 K and a twentieth of the lag.
func follow(s Sheet, log [][2]float64, forecastC float64) (track, error) {
	tr := track{nodes: []node{{}}, lowC: math.Inf(1), highC: math.Inf(-1)}
	air := log
	if air[0][0] > 0 {
		air = append([][2]float64{{0, air[0][1]}}, air...)
	}
	part := air[0][1]
	if s.HasStart {
		part = s.StartC
	}
	for i := 1; i < len(air); i++ {
		part = tr.segment(s, air[i-1], air[i], part)
	}
	tr.logEnd = air[len(air)-1][0]
	tr.atLogEnd = tr.nodes[len(tr.nodes)-1]
	if s.LagS == 0 {
		part = forecastC
	} else if math.Abs(part-forecastC) > 0.05 {
		end := tr.logEnd + 8*s.LagS
		tr.segment(s, [2]float64{tr.logEnd, forecastC}, [2]float64{end, forecastC}, part)
	}
	tr.see(part)
	tr.see(forecastC)
	tr.rate = drying.Arrhenius(s.Energy, forecastC, s.RefC) / s.Multiplier
	if tr.tooLong {
		return track{}, refusal.New(refusal.OutOfRange, "log", "This log with this lag takes more than %d steps to follow. Thin the log, or leave the lag out.", mostPieces)
	}
	return tr, nil
}

func (tr *track) see(c float64) {
	tr.lowC, tr.highC = math.Min(tr.lowC, c), math.Max(tr.highC, c)
}

// segment walks one straight piece of air temperature and returns the part's
// temperature at its end.
func (tr *track) segment(s Sheet, from, to [2]float64, part float64) float64 {
	length := to[0] - from[0]
	slope := (to[1] - from[1]) / length
	lag := s.LagS
	tempAt := func(dt float64) float64 {
		if lag == 0 {
			return from[1] + slope*dt
		}
		return from[1] + slope*dt - slope*lag + (part-from[1]+slope*lag)*math.Exp(-dt/lag)
	}
	span := math.Abs(to[1]-from[1]) + math.Abs(part-from[1])
	pieces := math.Max(1, math.Ceil(span/0.25))
	if lag > 0 {
		pieces = math.Max(pieces, math.Ceil(length/(lag/20)))
	}
	if tr.tooLong = tr.tooLong || float64(len(tr.nodes))+pieces > mostPieces; tr.tooLong {
		return part
	}
	h := length / pieces
	rate := func(dt float64) (a, e float64) {
		c := tempAt(dt)
		a = drying.Arrhenius(s.Energy, c, s.RefC) / s.Multiplier
		return a, -a / gasConstant * (1/drying.Kelvin(c) - 1/drying.Kelvin(s.RefC))
	}
	last := tr.nodes[len(tr.nodes)-1]
	for k := range int(pieces) {
		t0 := float64(k) * h
		a0, e0 := rate(t0)
		a1, e1 := rate(t0 + h/2)
		a2, e2 := rate(t0 + h)
		last = node{from[0] + t0 + h, last.x + h/6*(a0+4*a1+a2), last.dxdE + h/6*(e0+4*e1+e2)}
		tr.nodes = append(tr.nodes, last)
		tr.see(tempAt(t0))
		tr.see(tempAt(t0 + h))
	}
	return tempAt(length)
}

// when is the time at which X reaches x, in s from mixing.
func (tr track) when(x float64) float64 {
	n := len(tr.nodes)
	if last := tr.nodes[n-1]; x >= last.x {
		return last.t + (x-last.x)/tr.rate
	}
	for i := 1; i < n; i++ {
		if b := tr.nodes[i]; x <= b.x {
			a := tr.nodes[i-1]
			return a.t + (b.t-a.t)*(x-a.x)/(b.x-a.x)
		}
	}
	return math.NaN()
}

// at is X at time t within the log, in s.
func (tr track) at(t float64) float64 {
	for i := 1; i < len(tr.nodes); i++ {
		if b := tr.nodes[i]; t <= b.t {
			a := tr.nodes[i-1]
			return a.x + (b.x-a.x)*(t-a.t)/(b.t-a.t)
		}
	}
	last := tr.nodes[len(tr.nodes)-1]
	return last.x + (t-last.t)*tr.rate
}

func (tr track) warnings(system string) []string {
	facts, out := Systems[system], []string{}
	if tr.lowC < facts.Cold {
		out = append(out, "cold")
	}
	if tr.highC > facts.Hot {
		out = append(out, "hot")
	}
	return out
}
