package mix

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/refusal"
)

// Poured is one ingredient as it stands on the bench: what the sheet asked
// for and what is in the cup. Done means that the person has said "it is in".
type Poured struct {
	ID       string  `json:"id"`
	PlannedG float64 `json:"planned_g"`
	InCupG   float64 `json:"in_cup_g"`
	Done     bool    `json:"done"`
}

// Line is what the sheet says now about one ingredient.
type Line struct {
	ID      string  `json:"id"`
	TargetG float64 `json:"target_g"` // what must be in the cup in the end
	InCupG  float64 `json:"in_cup_g"`
	AddG    float64 `json:"add_g"`  // still to pour; 0 when within tolerance
	OverG   float64 `json:"over_g"` // above the target, kept by moving the others
	IsPart  bool    `json:"is_part"`
	again   bool    // it was in, and needs more now
}

// Balance is a pour sheet after what really happened.
type Balance struct {
	TotalG   float64 `json:"total_g"`   // what the mix will weigh in the end
	PlannedG float64 `json:"planned_g"` // what it was to weigh
	Lines    []Line  `json:"lines"`
	// GrewBy names the ingredient whose overshoot set the new size; empty
	// when nothing went over.
	GrewBy string `json:"grew_by,omitempty"`
	// OvershotG is by how much it was over.
	OvershotG float64 `json:"overshot_g,omitempty"`
}

// Say says what an overshoot did and what to add, with the ingredients' names;
// nothing when nothing went over.
func (b Balance) Say(name func(id string) string) string {
	if b.GrewBy == "" {
		return ""
	}
	words := fmt.Sprintf("%s went %s over. The others have moved with it, so the ratio holds: you end with %s instead of %s.",
		name(b.GrewBy), quantity.FormatMass(b.OvershotG), quantity.FormatMass(b.TotalG), quantity.FormatMass(b.PlannedG))
	for _, l := range b.Lines {
		if l.again {
			words += fmt.Sprintf(" Add %s of %s.", quantity.FormatMass(l.AddG), name(l.ID))
		}
	}
	return words
}

// Tolerance is how far from its target in g an ingredient may be and still
// count as in: one per cent, but never less than a scale with tenths of a gram
// can tell between two readings, 0.15 g. Amounts under 3 g belong on a finer
// scale and get five per cent.
func Tolerance(targetG float64) float64 {
	return math.Max(targetG/100, math.Min(0.15, targetG/20))
}

// Rebalance keeps the recipe's ratio after an overshoot: the finished mix
// grows to the smallest size at which no ingredient is above its share, and
// the sheet says what to add of each. Nothing is ever taken out of a cup.
// Overshoots within the tolerance leave the sheet alone.
func Rebalance(r Recipe, poured []Poured) (Balance, error) {
	shares, err := r.Shares()
	if err != nil {
		return Balance{}, err
	}
	if len(poured) != len(shares) {
		return Balance{}, refusal.New(refusal.Contradiction, "poured", "The sheet has %d lines, the recipe %d.", len(poured), len(shares))
	}
	out := Balance{}
	for i, p := range poured {
		if p.ID != shares[i].ID {
			return Balance{}, refusal.New(refusal.Contradiction, fmt.Sprintf("poured[%d].id", i), "Line %d should be %s.", i+1, shares[i].ID)
		}
		if p.InCupG < 0 || p.PlannedG < 0 || math.IsNaN(p.InCupG) || math.IsInf(p.InCupG, 0) {
			return Balance{}, refusal.New(refusal.OutOfRange, fmt.Sprintf("poured[%d].in_cup_g", i), "A weight cannot be below zero.")
		}
		out.PlannedG += p.PlannedG
	}
	out.TotalG, out.GrewBy = grown(out.PlannedG, shares, poured)
	for i, p := range poured {
		line := Line{ID: p.ID, InCupG: p.InCupG, TargetG: p.PlannedG, IsPart: shares[i].IsPart}
		if out.GrewBy != "" {
			line.TargetG = shares[i].Fraction * out.TotalG
		}
		if missing := line.TargetG - p.InCupG; missing > 1e-9 && (!p.Done || missing > Tolerance(line.TargetG)) {
			line.AddG, line.again = missing, p.Done && out.GrewBy != ""
		}
		line.OverG = math.Max(0, p.InCupG-p.PlannedG)
		out.Lines = append(out.Lines, line)
		if p.ID == out.GrewBy {
			out.OvershotG = line.OverG
		}
	}
	return out, nil
}

// grown is the smallest size at which no ingredient is above its share by more
// than its tolerance, and the ingredient that asks for it. An overshoot within
// the tolerance of a size that was moved already moves nothing again.
func grown(plannedG float64, shares []Share, poured []Poured) (totalG float64, by string) {
	fits := func(total float64) bool {
		for i, p := range poured {
			target := shares[i].Fraction * total
			if total == plannedG {
				target = p.PlannedG // as rounded on the sheet
			}
			if p.InCupG > target+Tolerance(target)+1e-9 {
				return false
			}
		}
		return true
	}
	totalG = plannedG
	if fits(totalG) {
		return totalG, ""
	}
	totalG = math.Inf(1)
	for i, p := range poured {
		if shares[i].Fraction == 0 || p.InCupG <= p.PlannedG {
			continue
		}
		if needed := p.InCupG / shares[i].Fraction; needed < totalG && needed > plannedG && fits(needed) {
			totalG, by = needed, p.ID
		}
	}
	if by == "" { // only an ingredient without a share is over: nothing to move
		return plannedG, ""
	}
	return totalG, by
}
