package fit

import (
	"cmp"
	"math"
	"slices"
)

// Mark is a landmark that a piece is placed by; its kind is point, opening or eye.
type Mark struct {
	ID   string
	At   [2]float64
	Kind string
}

// Placing is in which order marks are brought together.
type Placing struct {
	Centre [2]float64 `json:"centre"`
	Order  []string   `json:"order"`
}

// PlaceOrder goes from the openings over the points to the eyes, each from the centre out. centre
// is nil for the mean of all marks but the eyes.
func PlaceOrder(marks []Mark, centre *[2]float64) Placing {
	if centre == nil {
		m := mean(marks, func(k string) bool { return k != "eye" })
		centre = &m
	}
	far := func(m Mark) float64 {
		return math.Round(math.Hypot(m.At[0]-centre[0], m.At[1]-centre[1])/1e-6) * 1e-6
	}
	turn := map[string]int{"opening": 0, "point": 1, "eye": 2}
	sorted := slices.Clone(marks)
	slices.SortFunc(sorted, func(a, b Mark) int {
		return cmp.Or(cmp.Compare(turn[a.Kind], turn[b.Kind]), cmp.Compare(far(a), far(b)), cmp.Compare(a.ID, b.ID))
	})
	out := Placing{Centre: *centre, Order: make([]string, len(sorted))}
	for i, m := range sorted {
		out.Order[i] = m.ID
	}
	return out
}

func mean(marks []Mark, counts func(kind string) bool) [2]float64 {
	var sum [2]float64
	n := 0.0
	for _, m := range marks {
		if counts(m.Kind) {
			sum[0], sum[1], n = sum[0]+m.At[0], sum[1]+m.At[1], n+1
		}
	}
	switch {
	case len(marks) == 0:
		return sum
	case n == 0:
		return mean(marks, func(string) bool { return true })
	}
	return [2]float64{sum[0] / n, sum[1] / n}
}
