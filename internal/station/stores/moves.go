package stores

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// TakenOut is stuff that leaves a lot without becoming a mix or a copy.
type TakenOut struct {
	Part   string `json:"part,omitempty" enum:",A,B"`
	Amount string `json:"amount" maxLength:"64" doc:"a quantity, or “all”"`
	Why    string `json:"why" enum:"lost,sample,discarded" doc:"lost: spilt or dried up; discarded: disposed of as local rules say"`
	Note   string `json:"note" maxLength:"200"`
}

// amountOf reads a quantity of a lot, or all of it.
func amountOf(text string, l Lot, density, onHand float64, field string) (float64, error) {
	if strings.EqualFold(strings.TrimSpace(text), "all") {
		if onHand <= 0 {
			return 0, problem.Invalid("out_of_range", field, "Nothing is left of lot %s.", l.Name())
		}
		return onHand, nil
	}
	q, err := quantity.Parse(text, quantity.Mass, density, field)
	if err != nil {
		return 0, err
	}
	if q.Value <= 0 || quantity.Grams(onHand-q.Value) < 0 {
		return 0, problem.Invalid("out_of_range", field, "Lot %s holds %s.", l.Name(), quantity.FormatMass(onHand))
	}
	return q.Value, nil
}

// lockAmount holds a part of a lot until the act ends, and reads how much of it is meant.
func (s *Service) lockAmount(ctx context.Context, tx database.Tx, code, part, amount string) (l Lot, onHand, grams float64,
	err error) {
	if l, err = s.one(ctx, tx, code, part); err != nil {
		return l, 0, 0, err
	}
	if _, onHand, err = s.lock(ctx, tx, l.ID); err != nil {
		return l, 0, 0, err
	}
	grams, err = amountOf(amount, l, 0, onHand, "amount")
	return l, onHand, grams, err
}

// TakeOut writes off what was lost, given as a sample or disposed of.
func (s *Service) TakeOut(ctx context.Context, code string, in TakenOut) ([]Lot, error) {
	in.Note = strings.TrimSpace(in.Note)
	if in.Note == "" {
		return nil, problem.Invalid("missing", "note", "Say what happened, or where it went.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		l, onHand, grams, err := s.lockAmount(ctx, tx, code, in.Part, in.Amount)
		if err != nil {
			return err
		}
		if _, err := s.move(ctx, tx, moved{lot: l.ID, grams: -grams, reason: in.Why, note: in.Note}, onHand-grams); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: code, Act: in.Why, Words: fmt.Sprintf("%s%s: %s. %s", code, in.Part, quantity.FormatMass(grams), in.Note)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, code)
}

// Decanted is a part of a lot that is filled into a vessel of its own.
type Decanted struct {
	Part   string `json:"part,omitempty" enum:",A,B"`
	Amount string `json:"amount" maxLength:"64"`
	Code   string `json:"code" maxLength:"32" doc:"of the new vessel"`
	Shelf  string `json:"shelf,omitempty" maxLength:"40"`
}

// Decant fills a part of a lot into a vessel of its own: another lot of the same
// stuff, of the same day and opened with it, that traces back to it.
func (s *Service) Decant(ctx context.Context, code string, in Decanted) ([]Lot, error) {
	in.Code = strings.TrimSpace(in.Code)
	if in.Code == "" {
		return nil, problem.Invalid("missing", "code", "What is written on the new vessel?")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		l, onHand, grams, err := s.lockAmount(ctx, tx, code, in.Part, in.Amount)
		if err != nil {
			return err
		}
		today := s.Clock.Now().Format(time.DateOnly)
		res, err := tx.ExecContext(ctx, `INSERT INTO lot (code, part, material_id, supplier, received_on, expires_on, opened_on, open_life_days, shelf, status, status_reason, from_lot_id, use_by, batch)
			SELECT ?, part, material_id, supplier, received_on, expires_on, COALESCE(opened_on, ?), open_life_days, ?, status, status_reason, id, use_by, batch FROM lot WHERE id = ?`, in.Code, today, strings.TrimSpace(in.Shelf), l.ID)
		if database.IsDuplicate(err) {
			no := problem.Conflict("taken", "Lot %s is already here.", in.Code)
			no.Field = "code"
			return no
		}
		if err != nil {
			return fmt.Errorf("decanting the lot: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		to := uint64(id)
		minor, err := s.move(ctx, tx, moved{lot: l.ID, grams: -grams, reason: "decanted", note: "into " + in.Code, other: &to}, onHand-grams)
		if err != nil {
			return err
		}
		worth := -minor
		if _, err := s.move(ctx, tx, moved{lot: to, grams: grams, reason: "decanted", note: "from " + l.Name(), other: &l.ID, minor: &worth}, grams); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE lot SET opened_on = ? WHERE id = ? AND opened_on IS NULL`, today, l.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: code, Act: "decanted", Words: fmt.Sprintf("%s into %s", quantity.FormatMass(grams), in.Code)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", "")
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, in.Code)
}

// Join pours what is left of a vessel back to the lot that it was decanted from: lots
// of different deliveries are never joined, or nobody could tell any more what is in
// a copy.
func (s *Service) Join(ctx context.Context, code string) ([]Lot, error) {
	var into string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		parts, err := s.lots(ctx, tx, `WHERE l.code = ?`, code)
		if err != nil {
			return err
		}
		if len(parts) == 0 {
			return problem.NotFound("lot", code)
		}
		for _, l := range parts {
			var from *uint64
			if err := tx.GetContext(ctx, &from, `SELECT from_lot_id FROM lot WHERE id = ?`, l.ID); err != nil {
				return err
			}
			if from == nil {
				return problem.Conflict("not_decanted", "Lot %s was not decanted from another: lots of different deliveries are never joined.", code)
			}
			if l.Status != "ok" {
				return problem.Conflict("lot_refused", "Lot %s is %s: it stays apart.", code, l.Refused)
			}
			target, targetHas, err := s.lock(ctx, tx, *from)
			if err != nil {
				return err
			}
			_, onHand, err := s.lock(ctx, tx, l.ID)
			if err != nil {
				return err
			}
			into = target.Code
			if onHand <= 0 {
				continue
			}
			minor, err := s.move(ctx, tx, moved{lot: l.ID, grams: -onHand, reason: "joined", note: "to " + target.Name(), other: from}, 0)
			if err != nil {
				return err
			}
			worth := -minor
			if _, err := s.move(ctx, tx, moved{lot: *from, grams: onHand, reason: "joined", note: "from " + l.Name(), other: &l.ID, minor: &worth}, targetHas+onHand); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: code, Act: "joined", Words: "to " + into})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", "")
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, into)
}
