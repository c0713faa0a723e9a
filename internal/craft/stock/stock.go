// Package stock chooses lots: first expired first out, with the reason why a
// lot may not be taken (planning.md section 12). Days are counted from a
// common origin. What is on hand is handed in; the ledger is not here.
package stock

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Lot is one delivery, or one part of a kit's delivery.
type Lot struct {
	Code     string
	Part     string // "", "A" or "B"
	Status   string // ok, quarantine, recalled
	OnHandG  float64
	Received int
	Expiry   int // the day itself is still usable
	Opened   *int
	OpenLife int // days once opened; 0 means no limit
	// Spoiled: it has outlived its hour, although its day is not over.
	Spoiled bool
}

// Statuses of a lot.
const (
	OK         = "ok"
	Quarantine = "quarantine"
	Recalled   = "recalled"
)

// EffectiveExpiry is the last day on which the lot may be used.
func (l Lot) EffectiveExpiry() int {
	if l.Opened != nil && l.OpenLife > 0 {
		return min(l.Expiry, *l.Opened+l.OpenLife)
	}
	return l.Expiry
}

// Refusal says in words why a lot may not be used today; empty when it may.
func (l Lot) Refusal(today int) string {
	switch {
	case l.Status == Quarantine:
		return "in quarantine"
	case l.Status == Recalled:
		return "recalled"
	case l.Received > today:
		return "not delivered yet"
	case l.EffectiveExpiry() < today:
		if l.Expiry >= today {
			return "open too long: " + days(today-l.EffectiveExpiry()) + " past its open life"
		}
		return "expired " + days(today-l.Expiry) + " ago"
	case l.Spoiled:
		return "past its use-by hour"
	case l.OnHandG <= 0:
		return "used up"
	}
	return ""
}

func days(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}

// Option is a lot (or a matched pair) as a choice for one line of a sheet.
type Option struct {
	Code    string  `json:"code"`
	UsableG float64 `json:"usable_g" doc:"for a pair: of A and B together, in their ratio"`
	// Refused says why it may not be taken; empty when it may.
	Refused string `json:"refused,omitempty"`
	// DaysLeft until it may no longer be used.
	DaysLeft int `json:"days_left"`
}

// Choice is the outcome for one demand.
type Choice struct {
	Code    string   `json:"code,omitempty"` // empty: short
	Short   string   `json:"short,omitempty"`
	Options []Option `json:"options"`
}

// Single chooses the one lot from which the whole demand is taken: the first
// in FEFO order that can cover it.
func Single(lots []Lot, needG float64, today int) Choice {
	order := slices.Clone(lots)
	slices.SortStableFunc(order, byExpiry)
	var out Choice
	for _, l := range order {
		out.offer(Option{l.Code, l.OnHandG, l.Refusal(today), l.EffectiveExpiry() - today}, needG)
	}
	return out.done(needG)
}

// Pair chooses the one kit for a two-part mix: parts of different lots are
// never mixed. ratioA and ratioB are by mass.
func Pair(lots []Lot, ratioA, ratioB, needG float64, today int) Choice {
	a, b := map[string]Lot{}, map[string]Lot{}
	var codes []Lot
	for _, l := range lots {
		if _, seenA := a[l.Code]; !seenA {
			if _, seenB := b[l.Code]; !seenB {
				codes = append(codes, l)
			}
		}
		if l.Part == "A" {
			a[l.Code] = l
		} else {
			b[l.Code] = l
		}
	}
	slices.SortStableFunc(codes, byExpiry)
	var out Choice
	for _, l := range codes {
		la, hasA := a[l.Code]
		lb, hasB := b[l.Code]
		o := Option{Code: l.Code, DaysLeft: l.EffectiveExpiry() - today}
		switch {
		case !hasA:
			o.Refused = "has no part A"
		case !hasB:
			o.Refused = "has no part B"
		default:
			o.Refused = la.Refusal(today)
			if o.Refused == "" {
				o.Refused = lb.Refusal(today)
			}
			o.DaysLeft = min(la.EffectiveExpiry(), lb.EffectiveExpiry()) - today
			o.UsableG = math.Max(0, math.Min(la.OnHandG/ratioA, lb.OnHandG/ratioB)*(ratioA+ratioB))
		}
		out.offer(o, needG)
	}
	return out.done(needG)
}

func (c *Choice) offer(o Option, needG float64) {
	if o.Refused == "" && o.UsableG < needG-1e-9 {
		o.Refused = fmt.Sprintf("only %.1f g left", o.UsableG)
	}
	if o.Refused == "" && c.Code == "" {
		c.Code = o.Code
	}
	c.Options = append(c.Options, o)
}

func (c Choice) done(needG float64) Choice {
	if c.Code != "" {
		return c
	}
	c.Short = fmt.Sprintf("No lot covers %.1f g.", needG)
	var why []string
	for _, o := range c.Options {
		why = append(why, o.Code+": "+o.Refused)
	}
	if len(why) > 0 {
		c.Short += " " + strings.Join(why, "; ") + "."
	}
	return c
}

// byExpiry orders lots as they are to be used: effective expiry, opened before
// sealed, received, code.
func byExpiry(a, b Lot) int {
	if d := a.EffectiveExpiry() - b.EffectiveExpiry(); d != 0 {
		return d
	}
	if (a.Opened != nil) != (b.Opened != nil) {
		if a.Opened != nil {
			return -1
		}
		return 1
	}
	if d := a.Received - b.Received; d != 0 {
		return d
	}
	return strings.Compare(a.Code, b.Code)
}
