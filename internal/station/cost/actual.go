package cost

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/cost"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
	"yewmoor/internal/work"
)

// Used is what was really drawn of a material for a piece.
type Used struct {
	Material string  `db:"slug" json:"material"`
	Name     string  `db:"-" json:"name"`
	Grams    float64 `db:"grams" json:"grams"`
	Minor    int64   `db:"minor" json:"minor" doc:"at the moving average of its day"`
	Supplier string  `db:"supplier" json:"supplier"`
}

// Worked is what was really worked on a piece, by kind of work and who did it.
type Worked struct {
	Act     string  `json:"act"`
	Person  string  `json:"person"`
	Minutes float64 `json:"minutes"`
	Copies  int     `json:"copies"`
	Minor   int64   `json:"minor"`
}

// Account is what a piece was thought to cost beside what it cost so far, and why that differs.
type Account struct {
	Offer    Offer         `json:"offer" doc:"the last one that was kept, else what is worked out now"`
	Used     []Used        `json:"used"`
	Worked   []Worked      `json:"worked"`
	Bought   int64         `json:"bought_minor"`
	Stuff    int64         `json:"stuff_minor" doc:"of it material that was drawn and things that were paid: what the brief's limit is for"`
	Spent    int64         `json:"spent_minor" doc:"material drawn and hours noted, with the overhead on these"`
	Begun    int           `json:"begun" doc:"copies, scrapped ones too"`
	Made     int           `json:"made" doc:"of them good, or on the way to it"`
	ToGo     int64         `json:"to_go_minor" doc:"what the copies cost that nobody began, by the offer"`
	Limit    int64         `json:"limit_minor" doc:"of the brief; 0 for none"`
	Saved    int64         `json:"saved_minor" doc:"by what was found, reused or in stock, beside what it stands in for"`
	Variance cost.Variance `json:"variance" doc:"of what was done so far, in hundredths; above 0 is dearer"`
	Currency string        `json:"currency"`
}

// AccountOf is the account of a piece.
func (s *Service) AccountOf(ctx context.Context, code string) (Account, error) {
	terms, err := s.Terms(ctx)
	if err != nil {
		return Account{}, err
	}
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Account{}, err
	}
	return s.account(ctx, p, terms)
}

func (s *Service) account(ctx context.Context, p piece.Piece, terms TermsView) (Account, error) {
	a := Account{Used: []Used{}, Worked: []Worked{}, Currency: terms.Currency}
	var err error
	if a.Offer, err = s.standing(ctx, p, terms); err != nil {
		return a, err
	}
	if a.Used, err = s.used(ctx, p.ID); err != nil {
		return a, err
	}
	spans, err := work.OfPiece(ctx, s.DB, p.ID)
	if err != nil {
		return a, err
	}
	labour := int64(0)
	for _, w := range spans {
		act := work.Act(w.Act)
		i := slices.IndexFunc(a.Worked, func(o Worked) bool { return o.Act == act && o.Person == w.Person })
		if i < 0 {
			i = len(a.Worked)
			a.Worked = append(a.Worked, Worked{Act: act, Person: w.Person})
		}
		a.Worked[i].Minutes += w.Minutes(*w.Ended)
		a.Worked[i].Copies += w.Units
	}
	for i := range a.Worked {
		w := &a.Worked[i]
		w.Minor = int64(w.Minutes*float64(terms.of(w.Person))/60 + 0.5)
	}
	slices.SortFunc(a.Worked, func(x, y Worked) int {
		return cmp.Or(cmp.Compare(y.Minor, x.Minor), cmp.Compare(x.Act+x.Person, y.Act+y.Person))
	})
	material := int64(0)
	for _, u := range a.Used {
		material += u.Minor
	}
	b, agreed, err := piece.AgreedBrief(ctx, s.DB, p.ID)
	if err != nil {
		return a, err
	}
	planned := int64(0)
	if err := s.typed(ctx, p.ID, b, terms, &a); err != nil {
		return a, err
	}
	if agreed {
		a.Limit = b.LimitMinor
		for _, i := range b.Budget {
			if i.Origin == "bought" {
				planned += i.CostMinor
			} else if i.InsteadMinor > i.CostMinor {
				a.Saved += i.InsteadMinor - i.CostMinor
			}
		}
	}
	for _, w := range a.Worked {
		labour += w.Minor
	}
	a.Stuff = material + a.Bought
	a.Spent = material + labour + int64(float64(labour)*terms.Overhead/100+0.5) + a.Bought
	n, err := copies.CountOf(ctx, s.DB, p.ID)
	if err != nil {
		return a, err
	}
	a.Made = n.Good + n.Coming + n.Begun
	if err := s.DB.GetContext(ctx, &a.Begun, `SELECT COUNT(*) FROM copy WHERE piece_id = ?`, p.ID); err != nil {
		return a, fmt.Errorf("counting the copies: %w", err)
	}
	if a.Offer.Good > 0 {
		a.ToGo = (a.Offer.Cost-planned)*int64(n.Missing())/int64(a.Offer.Good) + max(0, planned-a.Bought)
	}
	a.Variance = a.why(terms)
	return a, nil
}

// typed adds what was written down with the brief: money that was paid, and hours of its own steps. Index piece_actual_piece.
func (s *Service) typed(ctx context.Context, piece uint64, b piece.Brief, terms TermsView, a *Account) error {
	var rows []struct {
		Kind, Subject, Name string
		Amount              float64
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT a.kind, a.subject, COALESCE(p.name, '') AS name, SUM(a.amount) AS amount FROM piece_actual a LEFT JOIN person p ON p.id = a.person_id WHERE a.piece_id = ? GROUP BY a.kind, a.subject, p.name`, piece); err != nil {
		return fmt.Errorf("reading what was paid: %w", err)
	}
	for _, r := range rows {
		if r.Kind == "money" {
			a.Bought += int64(r.Amount)
			continue
		}
		for _, st := range b.Steps {
			if st.ID == r.Subject && st.Where != "chair" {
				a.Worked = append(
					a.Worked,
					Worked{
						Act:     st.Text,
						Person:  r.Name,
						Minutes: r.Amount * 60,
						Copies:  1,
						Minor:   int64(r.Amount*float64(terms.of(r.Name)) + 0.5),
					},
				)
			}
		}
	}
	return nil
}

// why takes what was done so far apart from what it should have taken, by the offer's own standards.
func (a Account) why(terms TermsView) cost.Variance {
	j := a.Offer.job
	var labour []cost.WorkedHours
	for _, w := range a.Worked {
		std := 0.0
		rate := cost.Of(terms.RateMinor)
		for _, l := range j.Labour {
			if l.Step != w.Act {
				continue
			}
			rate = l.Rate
			std = l.Minutes.Float() / 60
			if l.Per != "job" {
				std *= float64(w.Copies)
			}
		}
		labour = append(
			labour,
			cost.WorkedHours{
				StdHours: cost.About(std),
				StdRate:  rate,
				ActHours: cost.About(w.Minutes / 60),
				ActRate:  cost.Of(terms.of(w.Person)),
			},
		)
	}
	// So many casts were to be begun for those that are good or on the way.
	std := float64(a.Made)
	if j.Good > 0 {
		std = float64(a.Made) * float64(j.Casts) / float64(j.Good)
	}
	var material []cost.UsedMaterial
	for _, u := range a.Used {
		if u.Grams <= 0 {
			continue
		}
		row := cost.UsedMaterial{
			ActQty:   cost.About(u.Grams),
			ActPrice: cost.Per(u.Minor, cost.About(u.Grams)),
			StdCasts: cost.About(std),
			ActCasts: cost.Of(int64(a.Begun)),
		}
		row.StdPrice = row.ActPrice // of what no standard knows only the amount differs
		for _, list := range [][]cost.Material{j.MaterialPerCast, j.MaterialPerPiece} {
			for _, m := range list {
				if m.Item == u.Name {
					row.StdQtyPerCast, row.StdPrice = m.Qty, m.UnitCost
				}
			}
		}
		material = append(material, row)
	}
	return cost.Why(labour, material)
}

// used is what was drawn for a piece: weighed into its mixes, and taken straight from a lot by its sessions. Indexes mix_piece,
// run_piece and the movement's own.
func (s *Service) used(ctx context.Context, piece uint64) ([]Used, error) {
	list := []Used{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT slug, SUM(grams) AS grams, SUM(minor) AS minor, COALESCE(MAX(supplier), '') AS supplier FROM (
			SELECT m.slug, -v.grams AS grams, COALESCE(-v.value_minor, 0) AS minor, l.supplier FROM mix x JOIN mix_line n ON n.mix_id = x.id JOIN weigh_in w ON w.mix_line_id = n.id
				JOIN movement v ON v.weigh_in_id = w.id JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id WHERE x.piece_id = ?
			UNION ALL
			SELECT m.slug, -v.grams, COALESCE(-v.value_minor, 0), l.supplier FROM run r JOIN run_stage st ON st.run_id = r.id JOIN movement v ON v.stage_id = st.id
				JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id WHERE r.piece_id = ?) t
		GROUP BY slug ORDER BY minor DESC, slug`, piece, piece); err != nil {
		return nil, fmt.Errorf("reading what was drawn: %w", err)
	}
	shop, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	for i := range list {
		p := shop[list[i].Material]
		list[i].Name = p.Name
		if p.Keep != nil {
			list[i].Supplier = cmp.Or(list[i].Supplier, p.Keep.Supplier)
		}
	}
	return list, nil
}
