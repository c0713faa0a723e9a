package stores

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// NewLot is one line of a delivery as it is entered. A kit comes with both parts.
type NewLot struct {
	Material     string `json:"material"`
	Code         string `json:"code" maxLength:"32"`
	Supplier     string `json:"supplier,omitempty" maxLength:"80"`
	Amount       string `json:"amount,omitempty" maxLength:"64" doc:"a quantity, for a product in one part"`
	AmountA      string `json:"amount_a,omitempty" maxLength:"64"`
	AmountB      string `json:"amount_b,omitempty" maxLength:"64"`
	ExpiresOn    string `json:"expires_on" format:"date"`
	OpenedOn     string `json:"opened_on,omitempty" maxLength:"10" doc:"when it came opened; empty for a sealed one"`
	OpenLifeDays int    `json:"open_life_days,omitempty" minimum:"0" maximum:"3650"`
	Shelf        string `json:"shelf,omitempty" maxLength:"40"`
	// PaidMinor is what was paid for the whole line, in hundredths of the shop's money;
	// the product's own price where it is left out.
	PaidMinor *int64 `json:"paid_minor,omitempty" minimum:"0" maximum:"100000000"`
}

// Delivery is what came in together.
type Delivery struct {
	Supplier string   `json:"supplier,omitempty" maxLength:"80"`
	Note     string   `json:"note,omitempty" maxLength:"200"`
	Key      string   `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
	Lines    []NewLot `json:"lines" minItems:"1" maxItems:"200"`
}

// Receipt is a delivery that was taken in.
type Receipt struct {
	Code     string     `db:"code" json:"code"`
	Supplier string     `db:"supplier" json:"supplier"`
	Note     string     `db:"note" json:"note"`
	At       time.Time  `db:"at" json:"at"`
	By       string     `db:"by_name" json:"by"`
	Lots     string     `db:"lots" json:"lots" doc:"codes, with commas between"`
	Undone   *time.Time `db:"undone_at" json:"undone_at,omitempty"`
	Used     bool       `db:"used" json:"used" doc:"something of it was used: it is not taken back"`
}

// Receive takes one lot in.
func (s *Service) Receive(ctx context.Context, in NewLot) ([]Lot, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error { return s.takeIn(ctx, tx, materials, in, nil, "") })
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", in.Code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, strings.TrimSpace(in.Code))
}

// Deliver takes a delivery of several lines in, all of them or none.
func (s *Service) Deliver(ctx context.Context, in Delivery) (Receipt, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return Receipt{}, err
	}
	var code string
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := tx.GetContext(ctx, &code, `SELECT code FROM receipt WHERE idem_key = ?`, in.Key); err == nil || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		number, err := database.NextNumber(ctx, tx, "receipt")
		if err != nil {
			return err
		}
		code = fmt.Sprintf("D-%04d", number)
		who, _ := accounts.From(ctx)
		res, err := tx.ExecContext(ctx, `INSERT INTO receipt (code, supplier, note, at, person_id, idem_key) VALUES (?,?,?,?,?,?)`, code, strings.TrimSpace(in.Supplier), strings.TrimSpace(in.Note), s.Clock.Now(), who.ID, in.Key)
		if err != nil {
			return fmt.Errorf("taking the delivery in: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		for i, l := range in.Lines {
			if l.Supplier == "" {
				l.Supplier = in.Supplier
			}
			if err := s.takeIn(ctx, tx, materials, l, &id, fmt.Sprintf("lines[%d].", i)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return Receipt{}, err
	}
	s.Live.Tell(ctx, "lots", "")
	return s.receipt(ctx, code)
}

// takeIn writes one lot with what came of it. at is where its fields stand.
func (s *Service) takeIn(ctx context.Context, tx database.Tx, materials material.Shelf, in NewLot, receipt *int64, at string) error {
	p, known := materials[in.Material]
	in.Code = strings.TrimSpace(in.Code)
	switch {
	case !known:
		return problem.Invalid("unknown_value", at+"material", "Choose what was delivered.")
	case p.Tap:
		return problem.Invalid("contradiction", at+"material", "%s comes from the tap: no lots of it are kept.", p.Name)
	case in.Code == "":
		return problem.Invalid("missing", at+"code", "Write down the lot's code from the label.")
	}
	expires, err := clock.ParseDay(in.ExpiresOn, at+"expires_on")
	if err != nil {
		return err
	}
	today := s.Clock.Now()
	if expires.Before(today.Truncate(24 * time.Hour)) {
		return problem.Invalid("out_of_range", at+"expires_on", "This lot has run out already. Send it back, or check the date.")
	}
	var opened any
	if in.OpenedOn != "" {
		day, err := clock.ParseDay(in.OpenedOn, at+"opened_on")
		if err != nil {
			return err
		}
		if day.After(today) {
			return problem.Invalid("out_of_range", at+"opened_on", "It was not opened in the days to come.")
		}
		opened = in.OpenedOn
	}
	if in.OpenLifeDays == 0 && p.Keep != nil {
		in.OpenLifeDays = p.Keep.OpenLifeDays
	}
	if in.Shelf == "" && p.Keep != nil {
		in.Shelf = p.Keep.Place
	}
	parts, total, err := in.parts(p, at)
	if err != nil {
		return err
	}
	for _, part := range parts {
		res, err := tx.ExecContext(ctx, `INSERT INTO lot (code, part, material_id, supplier, received_on, expires_on, opened_on, open_life_days, shelf, receipt_id) SELECT ?,?,id,?,?,?,?,?,?,? FROM material WHERE slug = ?`,
			in.Code, part.part, in.Supplier, today.Format(time.DateOnly), expires, opened, in.OpenLifeDays, in.Shelf, receipt, in.Material)
		if database.IsDuplicate(err) {
			no := problem.Conflict("taken", "Lot %s is already here.", in.Code)
			no.Field = at + "code"
			return no
		}
		if err != nil {
			return fmt.Errorf("taking in the lot: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		m := moved{lot: uint64(id), grams: part.grams, reason: "received"}
		if in.PaidMinor != nil { // each part by its share of what came
			share := int64(float64(*in.PaidMinor)*part.grams/total + 0.5)
			m.minor = &share
		}
		if _, err := s.move(ctx, tx, m, part.grams); err != nil {
			return err
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: today, Kind: "lot", Code: in.Code, Act: "received", Words: p.Name})
	return err
}

// came is what came of one part.
type came struct {
	part  string
	grams float64
}

// parts are what came, by part, and all of it together. A kit may come without one
// of its parts; it is then of no use until the other comes.
func (in NewLot) parts(p material.Product, at string) ([]came, float64, error) {
	type field struct{ part, text, name string }
	list := []field{{"", in.Amount, "amount"}}
	if p.Ratio != nil {
		list = nil
		for _, f := range []field{{"A", in.AmountA, "amount_a"}, {"B", in.AmountB, "amount_b"}} {
			if strings.TrimSpace(f.text) != "" {
				list = append(list, f)
			}
		}
		if len(list) == 0 {
			return nil, 0, problem.Invalid("missing", at+"amount_a", "How much of part A and of part B came?")
		}
	}
	var out []came
	total := 0.0
	for _, f := range list {
		q, err := quantity.Parse(f.text, quantity.Mass, p.Mixed(), at+f.name)
		if err != nil {
			return nil, 0, err
		}
		if q.Value <= 0 {
			return nil, 0, problem.Invalid("out_of_range", at+f.name, "How much came? Above nothing.")
		}
		out = append(out, came{f.part, q.Value})
		total += q.Value
	}
	return out, total, nil
}

const receiptColumns = `r.code, r.supplier, r.note, r.at, p.name AS by_name, r.undone_at,
	COALESCE((SELECT GROUP_CONCAT(DISTINCT l.code ORDER BY l.code SEPARATOR ', ') FROM lot l WHERE l.receipt_id = r.id), '') AS lots,
	EXISTS (SELECT 1 FROM lot l JOIN movement v ON v.lot_id = l.id WHERE l.receipt_id = r.id AND v.reason <> 'received')
	OR EXISTS (SELECT 1 FROM lot l JOIN mix_line n ON n.lot_id = l.id WHERE l.receipt_id = r.id)
	OR EXISTS (SELECT 1 FROM lot l JOIN kit_lot k ON k.lot_id = l.id WHERE l.receipt_id = r.id) AS used
	FROM receipt r JOIN person p ON p.id = r.person_id`

func (s *Service) receipt(ctx context.Context, code string) (Receipt, error) {
	var r Receipt
	err := s.DB.GetContext(ctx, &r, `SELECT `+receiptColumns+` WHERE r.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.NotFound("delivery", code)
	}
	return r, err
}

// Receipts are the newest deliveries.
func (s *Service) Receipts(ctx context.Context) ([]Receipt, error) {
	list := []Receipt{}
	err := s.DB.SelectContext(ctx, &list, `SELECT `+receiptColumns+` ORDER BY r.id DESC LIMIT 30`)
	return list, err
}

// Undo takes a delivery back that nothing was used of, with its lots.
func (s *Service) Undo(ctx context.Context, code string) (Receipt, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var row struct {
			ID     uint64
			Undone *time.Time `db:"undone_at"`
		}
		if err := tx.GetContext(ctx, &row, `SELECT id, undone_at FROM receipt WHERE code = ? FOR UPDATE`, code); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("delivery", code)
		} else if err != nil {
			return err
		}
		if row.Undone != nil {
			return nil // said twice
		}
		var lots []struct {
			ID   uint64
			Code string
		}
		if err := tx.SelectContext(ctx, &lots, `SELECT id, code FROM lot WHERE receipt_id = ? FOR UPDATE`, row.ID); err != nil {
			return err
		}
		for _, l := range lots {
			var used int
			if err := tx.GetContext(ctx, &used, `SELECT (SELECT COUNT(*) FROM movement WHERE lot_id = ? AND reason <> 'received') + (SELECT COUNT(*) FROM mix_line WHERE lot_id = ?) + (SELECT COUNT(*) FROM kit_lot WHERE lot_id = ?)`, l.ID, l.ID, l.ID); err != nil {
				return err
			}
			if used > 0 {
				return problem.Conflict("used", "Something of lot %s was used, planned or packed: the delivery stands. Put the lot right instead.", l.Code)
			}
			if _, onHand, err := s.lock(ctx, tx, l.ID); err != nil {
				return err
			} else if _, err := s.move(ctx, tx, moved{lot: l.ID, grams: -onHand, reason: "taken_back", note: code}, 0); err != nil {
				return err
			}
			// Its code is free again: what was typed wrong is taken in anew.
			if _, err := tx.ExecContext(ctx, `UPDATE lot SET code = CONCAT(LEFT(code, 20), ' taken back ', id) WHERE id = ?`, l.ID); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE receipt SET undone_at = ?, undone_by = ? WHERE id = ?`, s.Clock.Now(), who.ID, row.ID); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: code, Act: "taken back"})
		return err
	})
	if err != nil {
		return Receipt{}, err
	}
	s.Live.Tell(ctx, "lots", "")
	return s.receipt(ctx, code)
}
