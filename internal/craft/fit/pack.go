package fit

import (
	"math"
	"slices"
)

// Trip is how long and through what air a piece travels and lies.
type Trip struct {
	Material     string
	Days         float64
	MinC, MaxC   float64
	MinRH, MaxRH float64
	Stacked      bool
}

// Packed is how it is packed for that.
type Packed struct {
	Support     string   `json:"support"`
	Powder      string   `json:"powder"`
	Wrap        string   `json:"wrap"`
	Orientation string   `json:"orientation"`
	DaysLeft    float64  `json:"days_left"`
	Warnings    []string `json:"warnings"`
}

// Pack is how a piece of a known material travels.
func Pack(t Trip) Packed {
	m, _ := find(packings.Materials, func(p Packing) bool { return p.ID == t.Material })
	out := Packed{m.Support, m.Powder, m.Wrap, m.Orientation, math.Max(0, m.MaxDays-t.Days), []string{}}
	const near = 1e-9
	for word, is := range map[string]bool{"cold": t.MinC < m.MinC-near, "hot": t.MaxC > m.MaxC+near, "dry": t.MinRH < m.MinRH-near,
		"damp": t.MaxRH > m.MaxRH+near, "long": t.Days > m.MaxDays+near, "stacked": t.Stacked && !m.Stack} {
		if is {
			out.Warnings = append(out.Warnings, word)
		}
	}
	slices.Sort(out.Warnings)
	return out
}
