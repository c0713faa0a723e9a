package mix

import (
	"context"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// kit is a pair of lots that was chosen.
type kit struct {
	choice stock.Choice
	ids    map[string]*uint64
	why    string
}

// chooseKit finds the lot pair: first expired first out, or the one asked for
// unless it may not be used.
func (s *Service) chooseKit(ctx context.Context, db database.Reader, r recipe.Recipe, slug string, share,
	grams map[string]float64, taken map[string]Taken, today int) (kit, error) {
	lots, err := s.Stores.LotsOf(ctx, db, slug)
	if err != nil {
		return kit{}, err
	}
	var a, b recipe.Line
	for _, l := range r.Lines {
		if l.Material == slug && l.Kit == "A" {
			a = l
		}
		if l.Material == slug && l.Kit == "B" {
			b = l
		}
	}
	plain := make([]stock.Lot, len(lots))
	for i, l := range lots {
		plain[i] = l.Lot
	}
	out := kit{ids: map[string]*uint64{}}
	out.choice = stock.Pair(plain, share[a.ID], share[b.ID], grams[a.ID]+grams[b.ID], today)
	t, asked := taken[a.ID]
	if !asked {
		t = taken[b.ID]
	}
	out.why = t.Why
	if err := insist(&out.choice, t, a.ID); err != nil {
		return out, err
	}
	for _, l := range lots {
		if l.Code == out.choice.Code {
			id := l.ID
			out.ids[l.Part] = &id
		}
	}
	return out, nil
}

func (s *Service) chooseLot(ctx context.Context, db database.Reader, p material.Product, t Taken, needG float64,
	today int) (stock.Choice, *uint64, error) {
	lots, err := s.Stores.LotsOf(ctx, db, p.Slug)
	if err != nil {
		return stock.Choice{}, nil, err
	}
	plain := make([]stock.Lot, len(lots))
	for i, l := range lots {
		plain[i] = l.Lot
	}
	choice := stock.Single(plain, needG, today)
	if err := insist(&choice, t, t.Line); err != nil {
		return choice, nil, err
	}
	for _, l := range lots {
		if l.Code == choice.Code {
			id := l.ID
			return choice, &id, nil
		}
	}
	return choice, nil, nil
}

// insist takes the lot that a person asked for, or refuses it with the reason.
func insist(c *stock.Choice, t Taken, line string) error {
	if t.Lot == "" {
		return nil
	}
	field := "lots." + line
	for _, o := range c.Options {
		if o.Code != t.Lot {
			continue
		}
		if o.Refused != "" {
			return problem.Invalid("lot_refused", field, "Lot %s may not be used: %s.", t.Lot, o.Refused)
		}
		c.Code, c.Short = t.Lot, ""
		return nil
	}
	return problem.Invalid("unknown_value", field, "There is no lot %s of this material.", t.Lot)
}

// whyNotFirst asks for a reason where a lot was chosen that is not the first to expire.
func whyNotFirst(sheet Sheet) error {
	for _, l := range sheet.Lines {
		i := slices.IndexFunc(l.Choice.Options, func(o stock.Option) bool { return o.Refused == "" })
		if l.Lot != "" && i >= 0 && l.Choice.Options[i].Code != l.Lot && strings.TrimSpace(l.why) == "" {
			return problem.Invalid("missing", "lots."+l.Ingredient, "Lot %s runs out first. Say why %s is taken.",
				l.Choice.Options[i].Code, l.Lot)
		}
	}
	return nil
}
