package texture

import (
	"math"
	"slices"
)

// crossing tells whether any two edges cross that do not follow each other.
// Edges are swept by their left ends.
func crossing(rings []ring) bool {
	type seg struct {
		a, b       P
		ring, i, n int
		lo, hi     float64
	}
	var all []seg
	for k, r := range rings {
		for i, p := range r {
			q := r[(i+1)%len(r)]
			all = append(all, seg{p, q, k, i, len(r), math.Min(p[0], q[0]), math.Max(p[0], q[0])})
		}
	}
	slices.SortStableFunc(all, func(a, b seg) int {
		switch {
		case a.lo < b.lo:
			return -1
		case a.lo > b.lo:
			return 1
		}
		return 0
	})
	for i := range all {
		for j := i + 1; j < len(all) && all[j].lo <= all[i].hi; j++ {
			s, t := &all[i], &all[j]
			if s.ring == t.ring && ((s.i+1)%s.n == t.i || (t.i+1)%t.n == s.i) {
				if s.n > 3 && backOn(s.a, s.b, t.a, t.b, (s.i+1)%s.n == t.i) {
					return true
				}
				continue
			}
			if meet(s.a, s.b, t.a, t.b) {
				return true
			}
		}
	}
	return false
}

func side(a, b, p P) float64 {
	return float64((b[0]-a[0])*(p[1]-a[1])) - float64((b[1]-a[1])*(p[0]-a[0]))
}

// backOn tells whether an edge runs back along the one it follows.
func backOn(a, b, c, d P, forward bool) bool {
	if !forward {
		a, b, c, d = c, d, a, b
	}
	// b == c
	if side(a, b, d) != 0 {
		return false
	}
	return float64((b[0]-a[0])*(d[0]-c[0]))+float64((b[1]-a[1])*(d[1]-c[1])) < 0
}

// meet tells whether two segments have a place in common.
func meet(a, b, c, d P) bool {
	s1, s2, s3, s4 := side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
	if ((s1 > 0) != (s2 > 0)) && ((s3 > 0) != (s4 > 0)) && s1 != 0 && s2 != 0 && s3 != 0 && s4 != 0 {
		return true
	}
	on := func(s float64, a, b, p P) bool {
		return s == 0 && math.Min(a[0], b[0]) <= p[0] && p[0] <= math.Max(a[0], b[0]) && math.Min(a[1], b[1]) <= p[1] && p[1] <= math.Max(a[1], b[1])
	}
	return on(s1, a, b, c) || on(s2, a, b, d) || on(s3, c, d, a) || on(s4, c, d, b)
}
