// Package stores is the room where lots are: what came in, what is on hand,
// what may be used, and where a lot went.
package stores

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of the stores.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
}

// Lots reads the lots of a material as the craft's stock package takes them.
func (s *Service) Lots(ctx context.Context, db database.Reader, slug string) ([]Lot, error) {
	// By the material's key and index lot_used_up.
	return s.lots(ctx, db, `WHERE m.slug = ? AND l.used_up_at IS NULL`, slug)
}

// Draw takes what was weighed out of a lot, inside the act that weighed it.
// The ledger never goes below zero: whoever is second gets nothing that is
// not there.
func (s *Service) Draw(ctx context.Context, tx database.Tx, lot uint64, grams float64, weighIn uint64) error {
	l, onHand, err := s.lock(ctx, tx, lot)
	if err != nil {
		return err
	}
	if quantity.Grams(onHand-grams) < 0 {
		return problem.Conflict("not_enough", "The books say that lot %s holds %s, and %s were weighed. Nothing was recorded: count the lot in Stores, then say again that it is in. The cup is as it is.",
			l.Name(), quantity.FormatMass(onHand), quantity.FormatMass(grams))
	}
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	if _, err := tx.ExecContext(ctx, `INSERT INTO movement (lot_id, grams, reason, weigh_in_id, at, person_id) VALUES (?,?,'weighed',?,?,?)`, lot, -quantity.Grams(grams), weighIn, now, who.ID); err != nil {
		return fmt.Errorf("drawing from the lot: %w", err)
	}
	if err := s.markUsedUp(ctx, tx, lot, onHand-grams); err != nil {
		return err
	}
	if l.OpenedOn == nil {
		if _, err := tx.ExecContext(ctx, `UPDATE lot SET opened_on = ? WHERE id = ?`, now.Format(time.DateOnly), lot); err != nil {
			return err
		}
	}
	return nil
}

// emptyG is what a bench scale cannot tell from nothing.
const emptyG = 0.05

// markUsedUp notes that nothing is left of a lot, or that there is some again.
func (s *Service) markUsedUp(ctx context.Context, tx database.Tx, lot uint64, left float64) error {
	var at *time.Time
	if now := s.Clock.Now(); left < emptyG {
		at = &now
	}
	_, err := tx.ExecContext(ctx, `UPDATE lot SET used_up_at = ? WHERE id = ? AND (used_up_at IS NULL) <> (? IS NULL)`, at, lot, at)
	return err
}

// NewLot is a delivery as it is entered. A kit comes with both parts.
type NewLot struct {
	Material     string `json:"material"`
	Code         string `json:"code" maxLength:"32"`
	Supplier     string `json:"supplier,omitempty" maxLength:"80"`
	Amount       string `json:"amount,omitempty" doc:"a quantity, for a product in one part"`
	AmountA      string `json:"amount_a,omitempty"`
	AmountB      string `json:"amount_b,omitempty"`
	ExpiresOn    string `json:"expires_on" format:"date"`
	OpenLifeDays int    `json:"open_life_days,omitempty" minimum:"0" maximum:"3650"`
	Shelf        string `json:"shelf,omitempty" maxLength:"40"`
}

// Receive takes a delivery in.
func (s *Service) Receive(ctx context.Context, in NewLot) ([]Lot, error) {
	shelf, err := piece.LoadShelf(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	p, known := shelf[in.Material]
	in.Code = strings.TrimSpace(in.Code)
	switch {
	case !known:
		return nil, problem.Invalid("unknown_value", "material", "Choose what was delivered.")
	case in.Code == "":
		return nil, problem.Invalid("missing", "code", "Write down the lot's code from the label.")
	}
	expires, err := piece.ParseDay(in.ExpiresOn, "expires_on")
	if err != nil {
		return nil, err
	}
	today := s.Clock.Now()
	if expires.Before(today.Truncate(24 * time.Hour)) {
		return nil, problem.Invalid("out_of_range", "expires_on", "This lot has run out already. Send it back, or check the date.")
	}
	amounts := map[string]string{"": in.Amount}
	fields := map[string]string{"": "amount"}
	if p.Ratio != nil {
		amounts = map[string]string{"A": in.AmountA, "B": in.AmountB}
		fields = map[string]string{"A": "amount_a", "B": "amount_b"}
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		for _, part := range []string{"", "A", "B"} {
			text, wanted := amounts[part]
			if !wanted || (part != "" && strings.TrimSpace(text) == "") {
				continue
			}
			q, err := quantity.Parse(text, quantity.Mass, p.Density, fields[part])
			if err != nil {
				return err
			}
			res, err := tx.ExecContext(ctx, `INSERT INTO lot (code, part, material_id, supplier, received_on, expires_on, open_life_days, shelf) SELECT ?,?,id,?,?,?,?,? FROM material WHERE slug = ?`,
				in.Code, part, in.Supplier, today.Format(time.DateOnly), expires, in.OpenLifeDays, in.Shelf, in.Material)
			if database.IsDuplicate(err) {
				return problem.Conflict("taken", "Lot %s is already here.", in.Code)
			}
			if err != nil {
				return fmt.Errorf("taking in the lot: %w", err)
			}
			id, err := res.LastInsertId()
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO movement (lot_id, grams, reason, at, person_id) VALUES (?,?,'received',?,?)`, id, quantity.Grams(q.Value), today, who.ID); err != nil {
				return err
			}
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: today, Kind: "lot", Code: in.Code, Act: "received", Words: p.Name})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell("lots", in.Code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, in.Code)
}

// Count sets what is on hand by a count on the scale; the difference goes into
// the ledger.
func (s *Service) Count(ctx context.Context, code, part, amount, note string) ([]Lot, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		l, err := s.one(ctx, tx, code, part)
		if err != nil {
			return err
		}
		q, err := quantity.Parse(amount, quantity.Mass, 0, "amount")
		if err != nil {
			return err
		}
		_, onHand, err := s.lock(ctx, tx, l.ID)
		if err != nil {
			return err
		}
		difference := quantity.Grams(q.Value - onHand)
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO movement (lot_id, grams, reason, note, at, person_id) VALUES (?,?,'counted',?,?,?)`, l.ID, difference, note, now, who.ID); err != nil {
			return err
		}
		if err := s.markUsedUp(ctx, tx, l.ID, q.Value); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "lot", Code: code, Act: "counted", Words: fmt.Sprintf("%s%s: %s, %+.1f g against the books", code, part, quantity.FormatMass(q.Value), difference)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell("lots", code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, code)
}

// SetStatus holds a lot back or lets it go, both parts of a kit together.
func (s *Service) SetStatus(ctx context.Context, code, status, reason string) ([]Lot, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return nil, problem.Invalid("missing", "reason", "Say why, so that others know.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE lot SET status = ?, status_reason = ? WHERE code = ?`, status, reason, code)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			if _, err := s.lots(ctx, tx, `WHERE l.code = ?`, code); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: code, Act: status, Words: reason})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell("lots", code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, code)
}

func (s *Service) refusal(l Lot) string { return l.Stock().Refusal(piece.DayNumber(s.Clock.Now())) }
