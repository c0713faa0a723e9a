package stores

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/shelf"
)

// OnDay is what will be on hand at the end of a day.
type OnDay struct {
	Day   string  `json:"day"`
	Grams float64 `json:"grams"`
}

// Standing is how one material stands: on hand, reserved, projected, to be ordered.
type Standing struct {
	Material  string  `json:"material"`
	Name      string  `json:"name"`
	Family    string  `json:"family"`
	OnHandG   float64 `json:"on_hand_g" doc:"that may be used today; of a kit what pairs"`
	ReservedG float64 `json:"reserved_g"`
	Minor     int64   `json:"value_minor" doc:"at the moving average"`
	SafetyG   float64 `json:"safety_g"`
	Projected []OnDay `json:"projected"`
	Wants     []Want  `json:"wants"`
	ShortG    float64 `json:"short_g"`
	BelowOn   string  `json:"below_on,omitempty" doc:"the day on which it falls below what is always wanted"`
	OrderBy   string  `json:"order_by,omitempty"`
	Late      bool    `json:"late"`
	OrderG    float64 `json:"order_g"`
	Supplier  string  `json:"supplier,omitempty"`
	LeadDays  int     `json:"lead_days"`
	DiesOn    string  `json:"dies_on,omitempty" doc:"the first day on which something of it runs out"`
}

// Outlook is the stock over the weeks to come.
type Outlook struct {
	Until string     `json:"until"`
	Minor int64      `json:"value_minor" doc:"all of it"`
	Items []Standing `json:"items"`
}

// ahead is how many days are looked ahead.
const ahead = 45

// Outlook projects the stock: what planned work takes, what dies, what to order.
func (s *Service) Outlook(ctx context.Context) (Outlook, error) {
	out := Outlook{Items: []Standing{}}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	lots, err := s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`)
	if err != nil {
		return out, err
	}
	wants, err := s.wants(ctx, materials, lots)
	if err != nil {
		return out, err
	}
	worth, err := s.worth(ctx)
	if err != nil {
		return out, err
	}
	now := s.Clock.Now()
	today := clock.DayNumber(now)
	until := today + ahead
	out.Until = dayText(until)
	items, held := s.plan(materials, lots, wants)
	var demands []stock.Demand
	for i, w := range wants {
		demands = append(demands, stock.Demand{ID: fmt.Sprintf("%06d", i), Item: w.Material, Qty: w.Grams, Day: clock.DayNumber(w.On)})
	}
	look, err := stock.Look(items, held, demands, today, until, weekend)
	if err != nil {
		return out, err
	}
	short := map[string]float64{}
	for _, r := range look.Reservations {
		var i int
		if _, err := fmt.Sscanf(r.Demand, "%d", &i); err == nil {
			short[wants[i].Material] += r.Short
		}
	}
	for _, it := range items {
		p := materials[it.ID]
		st := Standing{Material: p.Slug, Name: p.Name, Family: string(p.Family), Minor: worth[p.Slug], SafetyG: it.Safety, Projected: []OnDay{}, Wants: []Want{}, ShortG: short[p.Slug], LeadDays: it.LeadDays}
		out.Minor += st.Minor
		if p.Keep != nil {
			st.Supplier = p.Keep.Supplier
		}
		for _, pt := range look.Projected[it.ID] {
			st.Projected = append(st.Projected, OnDay{dayText(pt.Day), pt.Qty})
		}
		for _, w := range wants {
			if w.Material == p.Slug {
				st.Wants = append(st.Wants, w)
				st.ReservedG += w.Grams
			}
		}
		st.OnHandG = onHand(it, held, today)
		if r := look.Reorder[it.ID]; r != nil && (it.Safety > 0 || st.ShortG > 0) {
			st.BelowOn, st.OrderBy, st.Late, st.OrderG = dayText(r.BelowOn), dayText(r.OrderBy), r.Late, r.Qty
		}
		first := math.MaxInt
		for _, l := range lots {
			if l.Material == p.Slug && l.Refused == "" {
				first = min(first, l.Stock().EffectiveExpiry())
			}
		}
		if first < math.MaxInt {
			st.DiesOn = dayText(first)
		}
		out.Items = append(out.Items, st)
	}
	slices.SortStableFunc(out.Items, func(a, b Standing) int {
		rank := func(x Standing) int {
			switch {
			case x.Late:
				return 0
			case x.OrderBy != "":
				return 1
			}
			return 2
		}
		return cmp.Or(cmp.Compare(rank(a), rank(b)), strings.Compare(a.OrderBy, b.OrderBy), strings.Compare(a.Family+a.Name, b.Family+b.Name))
	})
	return out, nil
}

func onHand(it stock.Item, held []stock.Held, today int) float64 {
	none := []stock.Demand{}
	look, err := stock.Look([]stock.Item{it}, of(held, it.ID), none, today, today, nil)
	if err != nil || len(look.Projected[it.ID]) == 0 {
		return 0
	}
	return look.Projected[it.ID][0].Qty
}

func of(held []stock.Held, item string) []stock.Held {
	return slices.DeleteFunc(slices.Clone(held), func(h stock.Held) bool { return h.Item != item })
}

func dayText(n int) string { return time.Unix(int64(n)*86400, 0).UTC().Format(time.DateOnly) }

// weekend are the days on which nobody orders.
func weekend(n int) bool {
	d := time.Unix(int64(n)*86400, 0).UTC().Weekday()
	return d == time.Saturday || d == time.Sunday
}

// plan is the stock as the craft takes it: of what is here, or is wanted.
func (s *Service) plan(materials material.Shelf, lots []Lot, wants []Want) ([]stock.Item, []stock.Held) {
	named := map[string]bool{}
	pairs := map[string]*stock.Held{}
	var held []stock.Held
	for _, l := range lots {
		named[l.Material] = true
		st := s.stock(l)
		h := stock.Held{Lot: l.Code, Item: l.Material, Qty: l.OnHandG, Status: l.Status, Received: st.Received, Expiry: st.Expiry, Opened: st.Opened}
		if st.OpenLife > 0 && st.Opened != nil {
			h.Expiry = st.EffectiveExpiry()
		}
		if st.Spoiled {
			h.Status = stock.Quarantine
		}
		if l.Part == "" {
			held = append(held, h)
			continue
		}
		pair, has := pairs[l.Code]
		if !has {
			h.Qty = 0
			pair = &h
			pairs[l.Code] = pair
		}
		if l.Part == "A" {
			pair.A = l.OnHandG
		} else {
			pair.B = l.OnHandG
		}
		if l.Status != stock.OK {
			pair.Status = l.Status
		}
		pair.Expiry = min(pair.Expiry, h.Expiry)
	}
	for _, p := range pairs {
		held = append(held, *p)
	}
	for _, w := range wants {
		named[w.Material] = true
	}
	var items []stock.Item
	for slug := range named {
		p := materials[slug]
		it := stock.Item{ID: slug}
		if k := p.Keep; k != nil {
			it.Safety, it.LeadDays, it.Pack, it.MinOrder, it.OpenLife = k.SafetyG, k.LeadDays, k.PackG, k.MinOrderG, k.OpenLifeDays
		}
		if p.Ratio != nil {
			it.Kit = true
			it.A, it.B = ratio(p)
		}
		items = append(items, it)
	}
	slices.SortFunc(items, func(a, b stock.Item) int { return strings.Compare(a.ID, b.ID) })
	slices.SortFunc(held, func(a, b stock.Held) int { return strings.Compare(a.Item+a.Lot, b.Item+b.Lot) })
	return items, held
}

// ratio is a kit's by mass.
func ratio(p material.Product) (a, b float64) {
	a, b = p.Ratio.A, p.Ratio.B
	if p.Ratio.ByVolume && p.Ratio.DensityA > 0 && p.Ratio.DensityB > 0 {
		a, b = a*p.Ratio.DensityA, b*p.Ratio.DensityB
	}
	return a, b
}

// worth is what the stock of each material is worth.
func (s *Service) worth(ctx context.Context) (map[string]int64, error) {
	var rows []struct {
		Slug  string
		Minor int64
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT m.slug, v.minor FROM stock_value v JOIN material m ON m.id = v.material_id`); err != nil {
		return nil, fmt.Errorf("reading what the stock is worth: %w", err)
	}
	out := map[string]int64{}
	for _, r := range rows {
		out[r.Slug] = r.Minor
	}
	return out, nil
}
