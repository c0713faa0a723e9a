package sculpt

import (
	"context"
	"fmt"
	"math"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Tick is a step of the plan that was done.
type Tick struct {
	Key     string    `db:"step_key" json:"key"`
	Words   string    `db:"words" json:"words"`
	Action  string    `db:"action" json:"action"`
	Count   int       `db:"count" json:"count"`
	ActualS *float64  `db:"actual_s" json:"actual_s,omitempty"`
	At      time.Time `db:"at" json:"at"`
	Who     string    `db:"who" json:"who"`
}

func ticks(ctx context.Context, db database.Reader, pieceID uint64) ([]Tick, error) {
	list := []Tick{}
	// Index texture_tick_once.
	err := db.SelectContext(ctx, &list, `SELECT t.step_key, t.words, t.action, t.count, t.actual_s, t.at, p.name AS who FROM texture_tick t JOIN person p ON p.id = t.person_id WHERE t.piece_id = ? AND t.back_at IS NULL ORDER BY t.id`, pieceID)
	return list, err
}

// NewTick is a step as it is ticked.
type NewTick struct {
	Key  string `json:"key" maxLength:"120"`
	Took string `json:"took,omitempty" maxLength:"64" doc:"how long it took, such as 22 min; not known when empty"`
}

// Tick writes down that a step of the agreed plan was done. It is done once;
// ticking it again from another bench changes nothing.
func (s *Service) Tick(ctx context.Context, code string, in NewTick) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error {
		doc, number, err := piece.AgreedTexture(ctx, s.DB, p.ID)
		if err != nil {
			return err
		}
		if number == 0 {
			return problem.Conflict("not_agreed", "Agree the plan first: steps are ticked on what was agreed.")
		}
		j, err := s.judge(ctx, doc, texture.Hands())
		if err != nil {
			return err
		}
		var step *texture.Step
		for i := range j.Work.Steps {
			if j.Work.Steps[i].Key == in.Key {
				step = &j.Work.Steps[i]
			}
		}
		if step == nil {
			return problem.Conflict("not_in_plan", "The agreed plan has no such step any more: somebody agreed another. Nothing was ticked; look at it again.")
		}
		var took *float64
		if in.Took != "" {
			q, err := quantity.Parse(in.Took, quantity.Duration, 0, "took")
			if err != nil {
				return err
			}
			if !(q.Value > 0 && q.Value <= 100*3600) {
				return problem.Invalid("out_of_range", "took", "Type how long it took, up to 100 hours, or leave it empty.")
			}
			took = &q.Value
		}
		err = s.DB.InTx(ctx, func(tx database.Tx) error { return s.tick(ctx, tx, p, number, *step, took) })
		if err == nil {
			s.Live.Tell(ctx, "texture", p.Code)
		}
		return err
	})
}

func (s *Service) tick(ctx context.Context, tx database.Tx, p piece.Piece, number int, step texture.Step, took *float64) error {
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	_, err := tx.ExecContext(ctx, `INSERT INTO texture_tick (piece_id, step_key, words, action, count, plain_s, actual_s, texture_number, at, person_id) VALUES (?,?,?,?,?,?,?,?,?,?)`,
		p.ID, step.Key, step.Text, step.Action, step.Count, math.Round(100*step.PlainS)/100, took, number, now, who.ID)
	if database.IsDuplicate(err) {
		return nil // somebody was quicker
	}
	if err != nil {
		return fmt.Errorf("ticking the step: %w", err)
	}
	words := step.Text
	if took != nil {
		words += fmt.Sprintf(", %.0f min", *took/60)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "texture", Code: p.Code, Act: "step done", Words: words})
	return err
}

// Untick takes a tick back; the record keeps that it was there.
func (s *Service) Untick(ctx context.Context, code, key string) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error {
		who, _ := accounts.From(ctx)
		err := s.DB.InTx(ctx, func(tx database.Tx) error {
			now := s.Clock.Now()
			changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE texture_tick SET back_at = ?, back_by = ?, standing = NULL WHERE piece_id = ? AND step_key = ? AND back_at IS NULL`, now, who.ID, p.ID, key))
			if err != nil {
				return err
			}
			if !changed {
				return problem.Conflict("not_ticked", "This step is not ticked.")
			}
			_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "texture", Code: p.Code, Act: "step taken back", Words: key})
			return err
		})
		if err == nil {
			s.Live.Tell(ctx, "texture", p.Code)
		}
		return err
	})
}

// PlannedHours are the hands of a piece's texture plan in the times of who asks, 0
// without one, and what was timed of it, in hours.
func (s *Service) PlannedHours(ctx context.Context, p piece.Piece) (planned, spent float64, err error) {
	v, err := s.view(ctx, p)
	if err != nil || v.Judged == nil {
		return 0, 0, err
	}
	return v.Judged.Work.Hours, v.Log.ActualH, nil
}
