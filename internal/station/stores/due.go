package stores

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/platform/clock"
)

// Due is what the stores ask of somebody today.
type Due struct {
	Title string
	Why   string
	Link  string
	Tell  bool // somebody out there is to be told of a recall
}

// dueKey is what the orders follow from: what came in and what may be used, what is
// known of products, and the minute. What work takes and wants is seen a minute late,
// which is early enough for what is ordered by the day: everybody waits for Today.
type dueKey struct {
	Shop   string
	Lots   int
	Shelf  time.Time
	Minute int64
}

// Due are the orders whose day has come, and the recalls of which somebody has not
// answered yet.
func (s *Service) Due(ctx context.Context) ([]Due, error) {
	var out []Due
	var recalls []struct {
		Code, Name string
		Open       int
	}
	if err := s.DB.SelectContext(ctx, &recalls, `SELECT r.code, MIN(m.name) AS name, COUNT(DISTINCT CASE WHEN t.told_at IS NULL THEN t.kit_id END) AS open
		FROM recall r JOIN recall_letter t ON t.recall_id = r.id JOIN lot l ON l.code = r.lot_code JOIN material m ON m.id = l.material_id WHERE r.ended_at IS NULL GROUP BY r.code ORDER BY r.code`); err != nil {
		return nil, fmt.Errorf("reading the open recalls: %w", err)
	}
	for _, r := range recalls {
		if r.Open > 0 {
			why := "A kit has something of it, and nobody answered for it."
			if r.Open > 1 {
				why = fmt.Sprintf("%d kits have something of it, and nobody answered for them.", r.Open)
			}
			out = append(out, Due{Title: fmt.Sprintf("Tell who has %s of recall %s", r.Name, r.Code), Why: why,
				Link: "/recalls/" + r.Code, Tell: true})
		}
	}
	now := s.Clock.Now()
	key := dueKey{Minute: now.Unix() / 60}
	if err := s.DB.GetContext(ctx, &key, `SELECT DATABASE() AS shop, (SELECT COUNT(*) FROM lot WHERE status = 'ok') AS lots,
		(SELECT MAX(changed_at) FROM material) AS shelf`); err != nil {
		return nil, fmt.Errorf("asking whether the stock changed: %w", err)
	}
	orders, err := s.due.Get(key, func() ([]Due, error) { return s.orders(ctx, clock.DayNumber(now)) })
	return append(out, orders...), err
}

// orders are those whose day has come.
func (s *Service) orders(ctx context.Context, today int) ([]Due, error) {
	look, err := s.Outlook(ctx)
	if err != nil {
		return nil, err
	}
	var out []Due
	for _, it := range look.Items {
		if it.OrderBy == "" || it.OrderBy > dayText(today) || it.OrderG <= 0 {
			continue
		}
		d := Due{Title: fmt.Sprintf("Order %s of %s", quantity.FormatMass(it.OrderG), it.Name), Link: "/stock"}
		on, err := time.Parse(time.DateOnly, it.BelowOn)
		if err != nil {
			return nil, err
		}
		d.Why = "It falls short on " + on.Format("Monday 2 January")
		if it.BelowOn <= dayText(today) {
			d.Why = "It is short already"
		}
		if it.LeadDays > 0 {
			d.Why += fmt.Sprintf(", and takes %d days to come", it.LeadDays)
		}
		if it.Supplier != "" {
			d.Why += " from " + it.Supplier
		}
		d.Why += "."
		out = append(out, d)
	}
	if len(out) > 1 { // the first one says why it is today; the others stand where they are ordered
		out[0].Title += fmt.Sprintf(" and %d more", len(out)-1)
		out = out[:1]
	}
	return out, nil
}
