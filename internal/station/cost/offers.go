package cost

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"yewmoor/internal/craft/cost"
	"yewmoor/internal/journal"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// keptOffer is an offer with the job that it was worked out from: the standard that what it cost is measured by.
type keptOffer struct {
	Offer
	Job cost.Job `json:"job"`
}

// Keep keeps the estimate of a piece as the offer that goes out.
func (s *Service) Keep(ctx context.Context, code string) (Account, error) {
	o, err := s.Estimate(ctx, code)
	if err != nil {
		return Account{}, err
	}
	if o.Bar != "" {
		return Account{}, problem.Conflict("no_offer", "There is nothing to offer yet: %s. Nothing was recorded.", o.Bar)
	}
	doc, err := json.Marshal(keptOffer{o, o.job})
	if err != nil {
		return Account{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `SELECT id FROM piece WHERE id = ? FOR UPDATE`, p.ID); err != nil {
			return err
		}
		var number int
		if err := tx.GetContext(ctx, &number, `SELECT COALESCE(MAX(number), 0) + 1 FROM quote WHERE piece_id = ?`, p.ID); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO quote (piece_id, number, doc, price_minor, by_id, at) VALUES (?,?,?,?,?,?)`, p.ID, number, string(doc), o.Price, who.ID, s.Clock.Now()); err != nil {
			return fmt.Errorf("keeping the offer: %w", err)
		}
		_, err = journal.Add(
			ctx,
			tx,
			journal.Entry{
				At:    s.Clock.Now(),
				Piece: p.ID,
				Kind:  "cost",
				Code:  code,
				Act:   "offer kept",
				Words: fmt.Sprintf("number %d", number),
			},
		)
		return err
	})
	if err != nil {
		return Account{}, err
	}
	s.Live.Tell(ctx, "cost", code)
	return s.AccountOf(ctx, code)
}

// standing is the offer that was kept last, else the estimate.
func (s *Service) standing(ctx context.Context, p piece.Piece, terms TermsView) (Offer, error) {
	var rows []struct {
		Number int
		Doc    string
		At     time.Time
		Name   string
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.number, q.doc, q.at, p.name FROM quote q JOIN person p ON p.id = q.by_id WHERE q.piece_id = ? ORDER BY q.number DESC LIMIT 1`, p.ID); err != nil {
		return Offer{}, fmt.Errorf("reading the offers: %w", err)
	}
	if len(rows) == 0 {
		return s.estimate(ctx, p, terms)
	}
	var k keptOffer
	if err := json.Unmarshal([]byte(rows[0].Doc), &k); err != nil {
		return Offer{}, err
	}
	o := k.Offer
	o.job, o.Number, o.At, o.By = k.Job, rows[0].Number, &rows[0].At, rows[0].Name
	return o, nil
}

// Write draws the offer that was kept last, as a page.
func (s *Service) Write(ctx context.Context, out io.Writer, code string) error {
	a, err := s.AccountOf(ctx, code)
	if err != nil {
		return err
	}
	o := a.Offer
	if o.Number == 0 {
		return problem.Conflict("no_offer", "No offer of %s was kept yet.", code)
	}
	money := func(minor int64) string { return Money(o.Currency, minor) }
	parts := map[string]int64{}
	for _, l := range o.Lines {
		parts[l.Part] += l.Minor
	}
	leaf := paper.Leaf{
		Code:    o.Piece,
		Title:   fmt.Sprintf("Offer no. %d", o.Number),
		About:   fmt.Sprintf("%s, %d copies, of %s, by %s", o.Name, o.Good, o.At.Format("2 January 2006"), o.By),
		Printed: s.Clock.Now().Format("2 Jan 2006 15:04"),
		Big:     money(o.Price),
		Foot:    "What it rests on stands above; what changes there changes the price.",
	}
	rows := [][]string{}
	for _, part := range []struct{ id, words string }{{"material", "Material"}, {"labour", "Work"}, {"overtime", "Overtime"}, {"machine", "Oven"}, {"mould", "Moulds"}, {"bought", "Bought for it"}} {
		if parts[part.id] != 0 {
			rows = append(rows, []string{part.words, money(parts[part.id])})
		}
	}
	// What the shop adds stands as one figure: how much of it is margin is its own.
	rows = append(
		rows,
		[]string{"Workshop, tools and the running of it", money(o.Price - o.Cost + o.Overhead)},
		[]string{"Together", money(o.Price)},
		[]string{"A copy, spares in it", money(o.Each)},
	)
	leaf.Parts = append(leaf.Parts, paper.LeafPart{Heading: "What it comes to", Columns: []float64{0.7, 0.3}, Rows: rows})
	days := [][]string{}
	for _, d := range o.Days {
		days = append(days, []string{d.Day, d.Place, fmt.Sprint(d.Copies), money(d.Minor)})
	}
	if len(days) > 0 {
		leaf.Parts = append(
			leaf.Parts,
			paper.LeafPart{Heading: "By shooting day", Columns: []float64{0.2, 0.4, 0.15, 0.25}, Rows: days},
		)
	}
	leaf.Parts = append(leaf.Parts, paper.LeafPart{Heading: "What it rests on", Lines: o.Assumptions})
	return paper.WriteLeaf(out, leaf)
}

// Money is an amount as it is written.
func Money(currency string, minor int64) string {
	sign := ""
	if minor < 0 {
		sign, minor = "-", -minor
	}
	return fmt.Sprintf("%s%s%d.%02d", sign, currency, minor/100, minor%100)
}
