package stores

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// moved is one line of the ledger as it is written.
type moved struct {
	lot     uint64
	grams   float64 // above 0 what came in
	reason  string
	note    string
	weighIn *uint64
	stage   *uint64
	kit     *uint64
	other   *uint64 // lot that it came from or went to
	minor   *int64  // what came in is worth; nil for the average, or its price where there is none
}

// move writes a line of the ledger with what it is worth, and notes whether anything
// is left. The lot is locked by whoever calls; its material's value is locked here, so
// that the moving average follows the order of writing.
func (s *Service) move(ctx context.Context, tx database.Tx, m moved, left float64) (int64, error) {
	minor, err := s.revalue(ctx, tx, m)
	if err != nil {
		return 0, err
	}
	who, _ := accounts.From(ctx)
	if _, err := tx.ExecContext(ctx, `INSERT INTO movement (lot_id, grams, reason, note, weigh_in_id, stage_id, other_lot_id, kit_id, value_minor, at, person_id) VALUES (?,?,?,?,?,?,?,?,?,?,?)`,
		m.lot, quantity.Grams(m.grams), m.reason, m.note, m.weighIn, m.stage, m.other, m.kit, minor, s.Clock.Now(), who.ID); err != nil {
		return 0, fmt.Errorf("writing into the ledger: %w", err)
	}
	return minor, s.markUsedUp(ctx, tx, m.lot, left)
}

// tenths are ten-thousandths of a gram: the ledger's own step.
func tenths(grams float64) int64 { return int64(math.Round(grams * 1e4)) }

// revalue moves what the stock of a lot's material is worth, and says what the
// movement was worth: below zero for what went out.
func (s *Service) revalue(ctx context.Context, tx database.Tx, m moved) (int64, error) {
	var of struct {
		ID   uint64
		Slug string
	}
	if err := tx.GetContext(ctx, &of, `SELECT m.id, m.slug FROM lot l JOIN material m ON m.id = l.material_id WHERE l.id = ?`, m.lot); err != nil {
		return 0, err
	}
	var have struct {
		Grams float64
		Minor int64
	}
	err := tx.GetContext(ctx, &have, `SELECT grams, minor FROM stock_value WHERE material_id = ? FOR UPDATE`, of.ID)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return 0, fmt.Errorf("reading what the stock is worth: %w", err)
	}
	v, qty := stock.Value{Qty: tenths(have.Grams), Minor: have.Minor}, tenths(m.grams)
	var minor int64
	if qty >= 0 {
		switch {
		case m.minor != nil:
			minor = *m.minor
		case v.Qty > 0:
			minor = int64(math.Round(v.PerKg() * m.grams / 1000))
		default:
			materials, err := shelf.Load(ctx, tx)
			if err != nil {
				return 0, err
			}
			minor = int64(math.Round(float64(materials[of.Slug].PriceMinorKg) * m.grams / 1000))
		}
		v = v.Receive(qty, minor)
	} else {
		// What was received before values were kept may be missing from the sum.
		if v, minor, err = v.Issue(min(-qty, v.Qty)); err != nil {
			return 0, err
		}
		minor = -minor
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO stock_value (material_id, grams, minor) VALUES (?,?,?) ON DUPLICATE KEY UPDATE grams = VALUES(grams), minor = VALUES(minor)`, of.ID, float64(v.Qty)/1e4, v.Minor)
	return minor, err
}

// worthOfMix is what the lots cost that went into a mix; of one that was divided, its
// share.
func (s *Service) worthOfMix(ctx context.Context, tx database.Tx, mix uint64) (int64, error) {
	var worth float64
	err := tx.GetContext(ctx, &worth, `SELECT COALESCE(-SUM(v.value_minor), 0) * x.share FROM mix x LEFT JOIN mix_line n ON n.mix_id = COALESCE(x.parent_id, x.id)
		LEFT JOIN weigh_in w ON w.mix_line_id = n.id LEFT JOIN movement v ON v.weigh_in_id = w.id WHERE x.id = ? GROUP BY x.id, x.share`, mix)
	return int64(math.Round(worth)), err
}
