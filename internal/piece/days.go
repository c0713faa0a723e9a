package piece

import (
	"context"
	"fmt"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// DaysOf lists the ids of the days on which a piece is worn.
func (s *Service) DaysOf(ctx context.Context, db database.Reader, piece uint64) ([]uint64, error) {
	ids := []uint64{}
	err := db.SelectContext(ctx, &ids, `SELECT pd.day_id FROM piece_day pd JOIN shooting_day d ON d.id = pd.day_id WHERE pd.piece_id = ? ORDER BY d.day`, piece)
	return ids, err
}

// SetDays says on which days a piece is worn.
func (s *Service) SetDays(ctx context.Context, code string, ids []uint64) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		// A day that stays keeps how many copies it wants.
		var before []struct {
			ID     uint64 `db:"day_id"`
			Wanted int
		}
		if err := tx.SelectContext(ctx, &before, `SELECT day_id, wanted FROM piece_day WHERE piece_id = ?`, p.ID); err != nil {
			return err
		}
		wanted := map[uint64]any{}
		for _, b := range before {
			wanted[b.ID] = b.Wanted
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM piece_day WHERE piece_id = ?`, p.ID); err != nil {
			return err
		}
		for _, id := range ids {
			known, err := database.Changed(tx.ExecContext(ctx, `INSERT INTO piece_day (piece_id, day_id, wanted) SELECT ?, id, COALESCE(?, 1) FROM shooting_day WHERE id = ? AND production_id = ?`, p.ID, wanted[id], id, p.ProductionID))
			if err != nil {
				return err
			}
			if !known {
				return problem.Invalid("unknown_value", "day_ids", "One of these days does not belong to %s.", p.Production)
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "days chosen", Words: fmt.Sprint(len(ids))})
		return err
	})
	if err == nil {
		s.Live.Tell(ctx, "pieces", code)
	}
	return err
}
