package fit

import "math"

// Run is how a piece is used over some days.
type Run struct {
	Days       int
	PerDay     int
	Together   int // worn at the same time
	MaxWears   int
	Loss       float64 // chance that a use fails before it begins
	Survive    float64 // chance that a copy may be worn again
	Confidence float64
}

// Wanted is how many copies that takes.
type Wanted struct {
	Uses         int     `json:"uses"`
	Copies       int     `json:"copies"`
	Spares       int     `json:"spares"`
	P            float64 `json:"p" doc:"chance that they are enough"`
	OneLess      float64 `json:"p_one_less"`
	WearsPerCopy float64 `json:"wears_per_copy"`
}

// Copies is the least number that serves a run with the wanted confidence, exact where the number
// worn together divides the uses.
func Copies(r Run) Wanted {
	uses := r.Days * r.PerDay
	turns := up(float64(uses) / float64(r.Together))
	most := min(r.MaxWears, turns)
	one := serves{p: make([]float64, most+1)}
	mean, before := 0.0, 1.0
	for k := 1; k <= r.MaxWears; k++ {
		p := math.Pow(1-r.Loss, float64(k)) * math.Pow(r.Survive, float64(k-1))
		mean += p
		if k <= most {
			one.p[k-1] = before - p
			before = p
		}
	}
	one.p[most] = before
	short := func(s serves) float64 { return 1 - s.below(uses) }
	// Copies by powers of two: as many as are not yet enough, then one more.
	powers := []serves{one}
	for short(powers[len(powers)-1]) < r.Confidence-1e-9 || 1<<(len(powers)-1) < r.Together {
		last := powers[len(powers)-1]
		powers = append(powers, last.and(last))
	}
	n, have := 0, serves{p: []float64{1}}
	for i := len(powers) - 1; i >= 0; i-- {
		more := have.and(powers[i])
		if n+1<<i < r.Together || short(more) < r.Confidence-1e-9 {
			n, have = n+1<<i, more
		}
	}
	out := Wanted{Uses: uses, Copies: n + 1, P: short(have.and(one)), WearsPerCopy: mean}
	if n >= r.Together {
		out.OneLess = short(have)
	}
	out.Spares = out.Copies - max(r.Together, up(float64(uses)/float64(most)))
	return out
}

// serves is how often copies serve in all: p[i] for from+i times.
type serves struct {
	from int
	p    []float64
}

// dust is a chance that no answer sees.
const dust = 1e-22

func (s serves) and(t serves) serves {
	out := serves{s.from + t.from, make([]float64, len(s.p)+len(t.p)-1)}
	for i, a := range s.p {
		for j, b := range t.p {
			out.p[i+j] += a * b
		}
	}
	for len(out.p) > 1 && out.p[0] < dust {
		out.from, out.p = out.from+1, out.p[1:]
	}
	for len(out.p) > 1 && out.p[len(out.p)-1] < dust {
		out.p = out.p[:len(out.p)-1]
	}
	return out
}

// below is the chance of serving fewer than uses times.
func (s serves) below(uses int) float64 {
	sum := 0.0
	for i, p := range s.p {
		if s.from+i < uses {
			sum += p
		}
	}
	return math.Min(1, sum)
}
