package heat

import (
	"math"
	"sort"
)

// Logged is air as a probe showed it, [s, °C] rising: straight between its readings, the
// first one before them, and after the last what rest says of the time since then and of
// the last reading.
func Logged(log [][2]float64, rest func(sinceS, lastC float64) float64) func(t float64) float64 {
	return func(t float64) float64 {
		n := len(log)
		if t >= log[n-1][0] {
			return rest(t-log[n-1][0], log[n-1][1])
		}
		i := sort.Search(n, func(i int) bool { return log[i][0] > t })
		if i == 0 {
			return log[0][1]
		}
		a, b := log[i-1], log[i]
		return a[1] + (b[1]-a[1])*(t-a[0])/(b[0]-a[0])
	}
}

// Bends leaves out of a log what lies within tolK of the straight line between what is
// kept: a run follows its bends, not its minutes.
func Bends(log [][2]float64, tolK float64) [][2]float64 {
	if len(log) < 3 {
		return log
	}
	keep := make([]bool, len(log))
	keep[0], keep[len(log)-1] = true, true
	var between func(from, to int)
	between = func(from, to int) {
		worst, at := tolK, -1
		for i := from + 1; i < to; i++ {
			a, b := log[from], log[to]
			line := a[1] + (b[1]-a[1])*(log[i][0]-a[0])/(b[0]-a[0])
			if off := math.Abs(log[i][1] - line); off > worst {
				worst, at = off, i
			}
		}
		if at >= 0 {
			keep[at] = true
			between(from, at)
			between(at, to)
		}
	}
	between(0, len(log)-1)
	var out [][2]float64
	for i, k := range keep {
		if k {
			out = append(out, log[i])
		}
	}
	return out
}
