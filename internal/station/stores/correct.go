package stores

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// LotCorrection puts right what was typed wrong when a delivery was taken in.
type LotCorrection struct {
	Code      string `json:"code" minLength:"1" maxLength:"32"`
	Material  string `json:"material" maxLength:"64"`
	ExpiresOn string `json:"expires_on" format:"date"`
	Supplier  string `json:"supplier,omitempty" maxLength:"80"`
	Shelf     string `json:"shelf,omitempty" maxLength:"40"`
	Reason    string `json:"reason" maxLength:"200"`
}

// Correct puts a lot right. Its date, supplier and shelf may change at any time;
// what it is and what it is called only until something was drawn from it.
func (s *Service) Correct(ctx context.Context, code string, in LotCorrection) ([]Lot, error) {
	in.Code, in.Reason = strings.TrimSpace(in.Code), strings.TrimSpace(in.Reason)
	expires, err := clock.ParseDay(in.ExpiresOn, "expires_on")
	if err != nil {
		return nil, err
	}
	switch {
	case in.Code == "":
		return nil, problem.Invalid("missing", "code", "The lot needs its code.")
	case in.Reason == "":
		return nil, problem.Invalid("missing", "reason", "Say what was wrong.")
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM lot WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		parts, err := s.lots(ctx, tx, `WHERE l.code = ?`, code)
		if err != nil {
			return err
		}
		if len(parts) == 0 {
			return problem.NotFound("lot", code)
		}
		was := parts[0]
		if in.Code != code || in.Material != was.Material {
			var went string
			if err := tx.GetContext(ctx, &went, `SELECT COALESCE(GROUP_CONCAT(DISTINCT COALESCE(x.code, r.code, 'a count') SEPARATOR ', '), '') FROM movement v JOIN lot l ON l.id = v.lot_id LEFT JOIN weigh_in w ON w.id = v.weigh_in_id LEFT JOIN mix_line n ON n.id = w.mix_line_id LEFT JOIN mix x ON x.id = n.mix_id
				LEFT JOIN run_stage t ON t.id = v.stage_id LEFT JOIN run r ON r.id = t.run_id WHERE l.code = ? AND v.reason NOT IN ('received','counted','discarded')`, code); err != nil {
				return err
			}
			if went != "" {
				return problem.Conflict("depends", "%s went into %s: what it is and its code stay. Take the right one in as a delivery, and hold this one back with the reason.", code, went)
			}
			var planned string
			if err := tx.GetContext(ctx, &planned, `SELECT COALESCE(GROUP_CONCAT(DISTINCT x.code SEPARATOR ', '), '') FROM mix_line n JOIN mix x ON x.id = n.mix_id JOIN lot l ON l.id = n.lot_id WHERE l.code = ? AND x.state IN ('planned','weighing')`, code); err != nil {
				return err
			}
			if planned != "" {
				return problem.Conflict("depends", "%s stands on the sheet of %s. Abandon that mix first.", code, planned)
			}
		}
		for _, p := range parts {
			known, err := database.Changed(tx.ExecContext(ctx, `UPDATE lot l JOIN material m ON m.slug = ? SET l.material_id = m.id, l.code = ?, l.expires_on = ?, l.supplier = ?, l.shelf = ?, l.corrected_at = ? WHERE l.id = ?`, in.Material, in.Code, expires, in.Supplier, in.Shelf, s.Clock.Now(), p.ID))
			if database.IsDuplicate(err) {
				return problem.Invalid("taken", "code", "There is a lot %s already.", in.Code)
			}
			if err != nil {
				return fmt.Errorf("correcting the lot: %w", err)
			}
			if !known {
				return problem.Invalid("unknown_value", "material", "Choose what it is.")
			}
		}
		words := fmt.Sprintf("was %s, %s, good until %s, %s, %s: %s", code, was.MaterialName, was.ExpiresOn.Format(time.DateOnly), was.Supplier, was.Shelf, in.Reason)
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: in.Code, Act: "corrected", Words: words})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, in.Code)
}
