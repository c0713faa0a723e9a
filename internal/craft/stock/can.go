package stock

import "math"

// Cover says whether a product covers a need, and until when.
type Cover struct {
	Lot string // that covers it the longest; "" where none does
	// Until is the last day on which one lot that may be used covers the need.
	Until  int
	LacksG float64 // of the need that the best lot does not hold
}

// Covers looks for one lot that holds a need: of those that do, the one that is good
// the longest. A lot that is opened for it ages from that day on. ratioA and ratioB
// are a kit's by mass, 0 for what comes in one part.
func Covers(lots []Lot, ratioA, ratioB, needG float64, today int) Cover {
	out := Cover{Until: today - 1, LacksG: needG}
	take := func(code string, usable float64, until int) {
		switch lacks := math.Max(0, needG-usable); {
		case lacks <= dust && (out.Lot == "" || until > out.Until):
			out = Cover{Lot: code, Until: until}
		case out.Lot == "" && lacks < out.LacksG:
			out.LacksG = lacks
		}
	}
	if ratioA > 0 && ratioB > 0 {
		b := map[string]Lot{}
		for _, l := range lots {
			if l.Part == "B" {
				b[l.Code] = l
			}
		}
		for _, l := range lots {
			other, has := b[l.Code]
			if l.Part != "A" || !has || l.Refusal(today) != "" || other.Refusal(today) != "" {
				continue
			}
			take(l.Code, math.Min(l.OnHandG/ratioA, other.OnHandG/ratioB)*(ratioA+ratioB), min(l.EffectiveExpiry(), other.EffectiveExpiry()))
		}
		return out
	}
	for _, l := range lots {
		if l.Refusal(today) == "" {
			take(l.Code, l.OnHandG, l.EffectiveExpiry())
		}
	}
	return out
}
