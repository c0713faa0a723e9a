package colour

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Reading is what several readings of one place say together.
type Reading struct {
	// Kept and Rejected are indices of the readings; what is put aside is shown,
	// never deleted.
	Kept     []int   `json:"kept"`
	Rejected []int   `json:"rejected"`
	Mean     Lab     `json:"mean_lab" doc:"of those that were kept"`
	SD       Lab     `json:"sd_lab" doc:"standard deviation of each component"`
	MCDM     float64 `json:"mcdm" doc:"mean ΔE00 of the kept readings to their mean"`
	Max      float64 `json:"max_de00"`
	Cut      float64 `json:"cut" doc:"ΔE00 to the median beyond which a reading is put aside"`
	// Uncertain: fewer than three kept, or they spread by more than 1 ΔE00.
	Uncertain bool `json:"uncertain"`
}

// Readings puts readings together (colour.md, section 4): with three or more,
// those are put aside that lie farther from the median than the others' spread
// explains. No reading, or a lightness outside 0…100, is refused.
func Readings(labs []Lab) (Reading, error) {
	if len(labs) == 0 {
		return Reading{}, refusal.New("E_READINGS", "labs", "Take at least one reading.")
	}
	for i, c := range labs {
		if math.IsNaN(c.L+c.A+c.B) || math.IsInf(c.L+c.A+c.B, 0) {
			return Reading{}, refusal.New("E_NOT_FINITE", at(i), "A number is missing.")
		}
		if c.L < 0 || c.L > 100 {
			return Reading{}, refusal.New("E_RANGE", at(i), "L* lies between 0 and 100; %.1f does not.", c.L)
		}
	}
	part := func(get func(Lab) float64) []float64 {
		out := make([]float64, len(labs))
		for i, c := range labs {
			out[i] = get(c)
		}
		return out
	}
	l, a, b := func(c Lab) float64 { return c.L }, func(c Lab) float64 { return c.A }, func(c Lab) float64 { return c.B }
	middle := Lab{median(part(l)), median(part(a)), median(part(b))}
	off := make([]float64, len(labs))
	for i, c := range labs {
		off[i] = DE00(middle, c)
	}
	centre := median(off)
	spread := make([]float64, len(off))
	for i, d := range off {
		spread[i] = math.Abs(d - centre)
	}
	r := Reading{Kept: []int{}, Rejected: []int{}, Cut: math.Max(0.5, centre+3*1.4826*median(spread))}
	for i, d := range off {
		if len(labs) >= 3 && d > r.Cut {
			r.Rejected = append(r.Rejected, i)
		} else {
			r.Kept = append(r.Kept, i)
		}
	}
	n := float64(len(r.Kept))
	for _, i := range r.Kept {
		r.Mean = Lab{r.Mean.L + labs[i].L/n, r.Mean.A + labs[i].A/n, r.Mean.B + labs[i].B/n}
	}
	for _, i := range r.Kept {
		d := DE00(r.Mean, labs[i])
		r.MCDM, r.Max = r.MCDM+d/n, math.Max(r.Max, d)
		if n > 1 {
			r.SD.L += (labs[i].L - r.Mean.L) * (labs[i].L - r.Mean.L) / (n - 1)
			r.SD.A += (labs[i].A - r.Mean.A) * (labs[i].A - r.Mean.A) / (n - 1)
			r.SD.B += (labs[i].B - r.Mean.B) * (labs[i].B - r.Mean.B) / (n - 1)
		}
	}
	r.SD = Lab{math.Sqrt(r.SD.L), math.Sqrt(r.SD.A), math.Sqrt(r.SD.B)}
	r.Uncertain = len(r.Kept) < 3 || r.MCDM > 1
	return r, nil
}

func at(i int) string { return fmt.Sprintf("labs[%d]", i) }

// median of an even count is the mean of the middle two.
func median(values []float64) float64 {
	s := slices.Sorted(slices.Values(values))
	n := len(s)
	if n%2 == 1 {
		return s[n/2]
	}
	return (s[n/2-1] + s[n/2]) / 2
}
