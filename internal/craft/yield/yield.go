// Package yield says how many to make so that enough of them are good: what was
// learned from casts, casts to run, spares, reuse and mould turns, by section 11
// of the handbook chapter on planning. Counts and minutes.
package yield

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/mathext"

	"yewmoor/internal/craft/refusal"
)

// Codes of the refusals of section 11.
const (
	Confidence  = "E_CONF"
	HistoryCode = "E_HISTORY"
	PriorCode   = "E_PRIOR"
	Unreachable = "E_UNREACHABLE"
)

// Casts is what one session brought.
type Casts struct {
	Casts   float64 `json:"casts"`
	Good    float64 `json:"good"`
	AgeDays float64 `json:"age_days"`
}

// Belief is what is believed of the share of good casts: a beta distribution.
type Belief struct {
	A float64 `json:"a"`
	B float64 `json:"b"`
}

// Mean is the expected share of good casts.
func (b Belief) Mean() float64 { return b.A / (b.A + b.B) }

// Quantile is the share that lies above p of what is believed.
func (b Belief) Quantile(p float64) float64 { return mathext.InvRegIncBeta(b.A, b.B, p) }

// strength is how many casts the prior of a material weighs as much as.
const strength = 4

var usual = map[string]float64{"silicone": 0.90, "latex": 0.90, "gelatin": 0.85, "wax": 0.90, "foam-latex": 0.70}

// Material is what a family of the shelf is cast as, in the words of Prior.
func Material(family string) string {
	switch {
	case strings.HasPrefix(family, "silicone"):
		return "silicone"
	case strings.HasPrefix(family, "latex"):
		return "latex"
	}
	return strings.ReplaceAll(family, "_", "-")
}

// Prior is what is believed before the first cast: by the material, and nothing
// (a half each) of one that is not known.
func Prior(material string) Belief {
	m, known := usual[material]
	if !known {
		return Belief{0.5, 0.5}
	}
	return Belief{m * strength, (1 - m) * strength}
}

// Check refuses a belief that is none.
func (b Belief) Check() error {
	if !(b.A > 0) || !(b.B > 0) {
		return refusal.New(PriorCode, "prior", "Both numbers of a prior must be above zero.")
	}
	return nil
}

// After is the belief after casts. Old ones fade by half every halfLifeDays; 0
// keeps all of them as they are.
func (b Belief) After(history []Casts, halfLifeDays float64) (Belief, error) {
	if err := b.Check(); err != nil {
		return b, err
	}
	for i, h := range history {
		if h.Good > h.Casts || h.Good < 0 || h.Casts < 0 {
			return b, refusal.New(HistoryCode, fmt.Sprintf("history[%d].good", i), "More good ones than casts.")
		}
		w := 1.0
		if halfLifeDays > 0 {
			w = math.Pow(2, -h.AgeDays/halfLifeDays)
		}
		b.A += w * h.Good
		b.B += w * (h.Casts - h.Good)
	}
	return b, nil
}

func logGamma(x float64) float64 {
	v, _ := math.Lgamma(x)
	return v
}

func logBeta(a, b float64) float64 { return logGamma(a) + logGamma(b) - logGamma(a+b) }

// good is the chance of k good ones out of n: beta-binomial.
func (b Belief) good(k, n int) float64 {
	N, K := float64(n), float64(k)
	choose := logGamma(N+1) - logGamma(K+1) - logGamma(N-K+1)
	return math.Exp(choose + logBeta(K+b.A, N-K+b.B) - logBeta(b.A, b.B))
}

// BetaAtLeast is the chance that of n at least need are good, for one stage believed in so;
// it sums the shorter tail.
func BetaAtLeast(need, n int, b Belief) float64 {
	sum := 0.0
	if need <= n-need {
		for k := range need {
			sum += b.good(k, n)
		}
		return math.Max(0, 1-sum)
	}
	for k := need; k <= n; k++ {
		sum += b.good(k, n)
	}
	return math.Min(1, sum)
}

// distribution is the chance of each number of good pieces after all stages.
func distribution(n int, stages []Belief) []float64 {
	out := make([]float64, n+1)
	out[n] = 1
	for _, stage := range stages {
		next := make([]float64, n+1)
		for from, p := range out {
			if p == 0 {
				continue
			}
			for k := 0; k <= from; k++ {
				next[k] += p * stage.good(k, from)
			}
		}
		out = next
	}
	return out
}

// AtLeast is the chance that of n casts at least need come through every stage.
func AtLeast(need, n int, stages []Belief) float64 {
	if need <= 0 {
		return 1
	}
	sum := 0.0
	for k, p := range distribution(n, stages) {
		if k >= need {
			sum += p
		}
	}
	return math.Min(1, sum)
}

// UsualSure is how certain it is to be that enough are good, where nobody says.
const UsualSure = 0.9

// Plan is how many casts to run.
type Plan struct {
	Casts        int      `json:"casts"`
	Pieces       int      `json:"pieces"`
	Probability  float64  `json:"probability"`
	OneLess      *float64 `json:"probability_one_less,omitempty"`
	MeanYield    float64  `json:"mean_yield"`
	ExpectedGood *float64 `json:"expected_good,omitempty"`
}

// toRun is how many casts of cavities pieces each are to be run so that with this
// confidence need of them are good after every stage; the first stage is casting.
func toRun(need, cavities int, confidence float64, stages []Belief) (Plan, error) {
	mean := 1.0
	for _, s := range stages {
		mean *= s.Mean()
	}
	out := Plan{Probability: 1, MeanYield: mean}
	if need <= 0 {
		return out, nil
	}
	for t := 1; t*cavities <= 50*need+200; t++ {
		n := t * cavities
		if n < need {
			continue
		}
		p := AtLeast(need, n, stages)
		if p < confidence-1e-9 {
			continue
		}
		less, good := AtLeast(need, n-cavities, stages), mean*float64(n)
		return Plan{Casts: t, Pieces: n, Probability: p, OneLess: &less, MeanYield: mean, ExpectedGood: &good}, nil
	}
	return out, refusal.New(Unreachable, "need", "With so little known no number of casts can be promised: run test casts first.")
}

// ToRun checks its question and answers it: see toRun.
func ToRun(need, cavities int, confidence float64, stages ...Belief) (Plan, error) {
	if !(confidence > 0 && confidence < 1) {
		return Plan{}, refusal.New(Confidence, "confidence", "A confidence lies between 0 and 1; nothing is certain.")
	}
	if need < 0 || need > 1000 {
		return Plan{}, refusal.New(refusal.OutOfRange, "need", "How many are needed? Between none and 1000.")
	}
	if cavities < 1 || cavities > 1000 {
		return Plan{}, refusal.New(refusal.OutOfRange, "cavities", "A mould has at least one hollow.")
	}
	for _, s := range stages {
		if err := s.Check(); err != nil {
			return Plan{}, err
		}
	}
	return toRun(need, cavities, confidence, stages)
}

// Spares is how many more pieces to send than applications, where each
// application spoils one with the chance loss.
func Spares(applications int, loss, confidence float64) (spares int, probability float64, err error) {
	switch {
	case !(confidence > 0 && confidence < 1):
		return 0, 0, refusal.New(Confidence, "confidence", "A confidence lies between 0 and 1; nothing is certain.")
	case applications < 0 || applications > 1000:
		return 0, 0, refusal.New(refusal.OutOfRange, "applications", "Between none and 1000 applications.")
	case !(loss >= 0 && loss < 1):
		return 0, 0, refusal.New(refusal.OutOfRange, "loss", "The loss lies between 0 and below 1.")
	}
	for s := 0; s <= 50*applications+200; s++ {
		if p := binomialAtLeast(applications, applications+s, 1-loss); p >= confidence-1e-9 {
			return s, p, nil
		}
	}
	return 0, 0, refusal.New(Unreachable, "loss", "So many are lost that no number of spares can be promised.")
}

func binomialAtLeast(need, n int, p float64) float64 {
	if need <= 0 {
		return 1
	}
	if p >= 1 {
		return 1
	}
	sum := 0.0
	for k := need; k <= n; k++ {
		N, K := float64(n), float64(k)
		sum += math.Exp(logGamma(N+1) - logGamma(K+1) - logGamma(N-K+1) + K*math.Log(p) + (N-K)*math.Log(1-p))
	}
	return math.Min(1, sum)
}

// Day is how many pieces a day wants.
type Day struct {
	Day    int `json:"day"`
	Pieces int `json:"pieces"`
}

// Reused is how many pieces days in order want, where each serves uses times with
// restDays whole days between, and how many uses are left over.
func Reused(uses, restDays int, days []Day) (pieces, left int, err error) {
	if uses < 1 || restDays < 0 || len(days) > 2000 {
		return 0, 0, refusal.New(refusal.OutOfRange, "uses", "A piece serves at least once, and rests no fewer than no days.")
	}
	type one struct{ left, last int }
	var all []*one
	days = slices.Clone(days)
	slices.SortStableFunc(days, func(a, b Day) int { return cmp.Compare(a.Day, b.Day) })
	for _, d := range days {
		if d.Pieces < 0 || d.Pieces > 1000 {
			return 0, 0, refusal.New(refusal.OutOfRange, "days", "A day wants between none and 1000 pieces.")
		}
		var rested []*one
		for _, p := range all {
			if p.left > 0 && d.Day-p.last > restDays {
				rested = append(rested, p)
			}
		}
		slices.SortStableFunc(rested, func(a, b *one) int { return cmp.Compare(b.left, a.left) })
		for i := range d.Pieces {
			var p *one
			if i < len(rested) {
				p = rested[i]
			} else {
				p = &one{left: uses}
				all = append(all, p)
			}
			p.left--
			p.last = d.Day
		}
	}
	for _, p := range all {
		left += p.left
	}
	return len(all), left, nil
}

// Mould is how a mould is worked, in minutes: the day's window, filling, cure
// (CureMax is the longest it may stay, 0 for as long as one likes), opening, and
// what it wants before it is filled again.
type Mould struct {
	Window, Fill, Cure, CureMax, Demould, Turnaround float64
}

// Turns is how often moulds are filled.
type Turns struct {
	SameDay   int  `json:"same_day"`
	Overnight int  `json:"overnight"`
	Turns     int  `json:"turns"`
	LabourCap int  `json:"labour_cap"`
	ShopTurns int  `json:"shop_turns"`
	Days      *int `json:"days,omitempty"`
}

// floor of a quotient of decimals: four times 0.3 goes into 1.2.
func floor(x float64) int { return int(math.Floor(x + 1e-9)) }

// TurnsADay is how often so many moulds are filled a day by so many people, and
// in how many days casts are done. A rough figure for a quote: the plan decides.
func (m Mould) TurnsADay(moulds, people, casts int) (Turns, error) {
	for name, v := range map[string]float64{"window": m.Window, "fill": m.Fill, "cure_min": m.Cure, "demould": m.Demould} {
		if !(v >= 0) || v > 1e5 || (name == "window" || name == "fill") && v == 0 {
			return Turns{}, refusal.New(refusal.OutOfRange, name, "Minutes above zero.")
		}
	}
	if moulds < 1 || people < 1 || casts < 0 {
		return Turns{}, refusal.New(refusal.OutOfRange, "moulds", "At least one mould and one person.")
	}
	longest := m.CureMax
	if longest == 0 {
		longest = math.Inf(1)
	}
	w, f, u, d, r := m.Window, m.Fill, m.Cure, m.Demould, m.Turnaround
	cycle := f + u + d + r
	out := Turns{}
	if w >= f+u+d {
		out.SameDay = floor((w + r) / cycle)
	}
	for k := floor((w-d-r-f)/cycle) + 1; k >= 1; k-- {
		first := d + r + float64(k)*f + float64(k-1)*(u+d+r)
		if math.Max(first, 1440-longest) <= math.Min(w, 1440-u)+1e-9 {
			out.Overnight = k
			break
		}
	}
	out.Turns = max(out.SameDay, out.Overnight)
	out.LabourCap = floor(float64(people) * w / (f + d))
	out.ShopTurns = min(moulds*out.Turns, out.LabourCap)
	if casts > 0 && out.ShopTurns > 0 {
		days := (casts + out.ShopTurns - 1) / out.ShopTurns
		out.Days = &days
	}
	return out, nil
}
