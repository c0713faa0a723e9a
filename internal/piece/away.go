package piece

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// restsAfter is how long after its last shooting day a piece is put away by
// itself, when nothing of it is on the bench.
const restsAfter = 14 * 24 * time.Hour

// onTheBench is what keeps a piece with the work in hand.
var onTheBench = `EXISTS (SELECT 1 FROM pot t WHERE t.piece_id = q.id AND t.ended_at IS NULL)
	OR EXISTS (SELECT 1 FROM mix x WHERE x.piece_id = q.id AND x.state IN ('planned','weighing'))
	OR EXISTS (SELECT 1 FROM copy c WHERE c.piece_id = q.id AND ` + copies.BenchSQL("c") + `)`

// PutAway takes a piece off the screens of the work in hand, or brings it
// back. It stays whole and is found by search.
func (s *Service) PutAway(ctx context.Context, code string, away bool) (View, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		var busy bool
		if err := tx.GetContext(ctx, &busy, `SELECT `+onTheBench+` FROM piece q WHERE q.id = ?`, p.ID); err != nil {
			return err
		}
		if away && busy {
			return problem.Conflict("on_the_bench", "Something of %s is still on the bench: a pot, a mix or a copy that is not judged.", code)
		}
		now, act := s.Clock.Now(), "brought back"
		var at *time.Time
		if away {
			at, act = &now, "put away"
		}
		if _, err := tx.ExecContext(ctx, `UPDATE piece SET put_away_at = ? WHERE id = ?`, at, p.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: act})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "pieces", code)
	return s.View(ctx, code)
}

// PutAwayWhatIsOver puts every piece away whose last shooting day is long past
// and of which nothing is on the bench.
func (s *Service) PutAwayWhatIsOver(ctx context.Context) error {
	now := s.Clock.Now()
	var codes []string
	err := s.DB.SelectContext(ctx, &codes, `SELECT q.code FROM piece q WHERE q.put_away_at IS NULL
		AND (SELECT MAX(d.day) FROM piece_day pd JOIN shooting_day d ON d.id = pd.day_id WHERE pd.piece_id = q.id) < ? AND NOT (`+onTheBench+`)`, now.Add(-restsAfter).Format(time.DateOnly))
	if err != nil {
		return fmt.Errorf("looking for what is over: %w", err)
	}
	for _, code := range codes {
		if _, err := s.PutAway(ctx, code, true); err != nil {
			return err
		}
	}
	return nil
}
