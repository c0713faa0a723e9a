package texture

import (
	"fmt"
	"math"
)

// Pair are two sizes of which one forces the other: a larger upper lip asks
// for a larger lower one.
type Pair struct {
	Name string  `json:"name" maxLength:"80"`
	A    Measure `json:"a"`
	B    Measure `json:"b"`
	// Least and Most are the limits of A over B.
	Least float64 `json:"least"`
	Most  float64 `json:"most"`
	// FollowOn is the work that follows when the pair is out, and how long it takes.
	FollowOn string  `json:"follow_on,omitempty" maxLength:"200"`
	Minutes  float64 `json:"minutes,omitempty"`
	ClayG    float64 `json:"clay_g,omitempty"`
}

// Measure is a size: typed, or the distance of two landmarks.
type Measure struct {
	Name string  `json:"name" maxLength:"60"`
	MM   float64 `json:"mm,omitempty"`
	From string  `json:"from,omitempty" maxLength:"60"`
	To   string  `json:"to,omitempty" maxLength:"60"`
}

// PairResult says how a pair stands.
type PairResult struct {
	Name   string  `json:"name"`
	AMM    float64 `json:"a_mm"`
	BMM    float64 `json:"b_mm"`
	Ratio  float64 `json:"ratio"`
	Holds  bool    `json:"holds"`
	Words  string  `json:"words"`
	WantMM float64 `json:"want_mm" doc:"what B has to become; as it is when the pair holds"`
}

func (r *Recipe) pairs() ([]PairResult, error) {
	out := []PairResult{}
	for i, p := range r.Pairs {
		field := fmt.Sprintf("pairs[%d]", i)
		a, err := r.measure(p.A, field+".a")
		if err != nil {
			return nil, err
		}
		b, err := r.measure(p.B, field+".b")
		if err != nil {
			return nil, err
		}
		if !(p.Least > 0 && p.Most >= p.Least) {
			return nil, bad(field+".least", "The limits of a pair go from the lesser to the greater, above 0.")
		}
		res := PairResult{Name: p.Name, AMM: a, BMM: b, Ratio: a / b, WantMM: b}
		res.Holds = res.Ratio >= p.Least-1e-9 && res.Ratio <= p.Most+1e-9
		res.Words = fmt.Sprintf("%s is %.2f times %s; %.2f to %.2f is wanted.", p.A.Name, res.Ratio, p.B.Name, p.Least, p.Most)
		if !res.Holds {
			res.WantMM = a / math.Max(p.Least, math.Min(p.Most, res.Ratio))
			res.Words += fmt.Sprintf(" %s has to become %.1f mm in place of %.1f.", p.B.Name, res.WantMM, b)
			if p.FollowOn != "" {
				res.Words += fmt.Sprintf(" What follows: %s (%.0f min, %.0f g of clay).", p.FollowOn, p.Minutes, p.ClayG)
			}
		}
		out = append(out, res)
	}
	return out, nil
}

func (r *Recipe) measure(m Measure, field string) (float64, error) {
	if m.From == "" {
		if !(m.MM > 0 && m.MM < maxReach) {
			return 0, bad(field+".mm", "Type the size in mm, or name two landmarks.")
		}
		return m.MM, nil
	}
	var ends [2]*Landmark
	for k, name := range []string{m.From, m.To} {
		for i := range r.Landmarks {
			if r.Landmarks[i].Name == name {
				ends[k] = &r.Landmarks[i]
			}
		}
		if ends[k] == nil {
			return 0, bad(field+".from", "There is no landmark “%.60s”.", name)
		}
	}
	d := apart(ends[0].At, ends[1].At)
	if d <= 0 {
		return 0, bad(field+".from", "The two landmarks lie on one place.")
	}
	return d, nil
}
