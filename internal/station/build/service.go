// Package build is where pieces come into being. A run is one session that makes
// copies, in any way that a material is worked: its stages are done in order,
// what waits after one stands as a pot on the shelf, and the room's air decides
// how long that takes. When the last has waited, the copies are made.
package build

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of the build room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Air   *Air
	// Pieces ask the rules and work sections out.
	Pieces *piece.Service
	Moulds Moulds
	Stores Stores
	// Finish says what is to be done to a copy once it is made.
	Finish Finish

	fromMix kept.Answers[map[string]bool]
	stacks  kept.Answers[drying.Dried]
}

// Remember sets how many answers about stacks of coats are kept: a shelf of thirty asks
// each several ways.
func (s *Service) Remember(n int) { s.stacks.Most = n }

// Finish lists what is to be done to a copy that is made; wired to the finishing bench.
type Finish interface {
	ListFor(ctx context.Context, db database.Reader, p piece.Piece, number int, way making.Way) ([]work.Item, error)
}

// Stores is what building needs of the stores: what a stage takes straight from
// a lot, without a mix. The lot is the one asked for, or the first that may be
// used and covers it; "" when there is none.
type Stores interface {
	Take(ctx context.Context, tx database.Tx, material, lot string, grams float64, stage uint64) (string, error)
}

// heldBack is the answer to a hand that is too early.
func heldBack(why string) error {
	return problem.Conflict("held_back", "%s A lead or fabricator may go on with a reason.", why)
}

// mayInsist says whether this person, with this reason, goes on all the same.
func mayInsist(ctx context.Context, reason string) bool {
	who, _ := accounts.From(ctx)
	return reason != "" && who.Role != accounts.Apprentice
}

// TakeOut ends a pot: a copy leaves its mould, or the last coat is dry and what
// was built is lifted. Before its time it is held back; a skilled hand may go on
// with a reason. A pot in the middle of a build is not taken out: its next stage
// follows.
func (s *Service) TakeOut(ctx context.Context, id uint64, how Out) (Pot, error) {
	reason := strings.TrimSpace(how.Reason)
	if err := s.Air.CatchUp(ctx); err != nil {
		return Pot{}, err
	}
	var pot Pot
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		row, err := s.lock(ctx, tx, id)
		if err != nil {
			return err
		}
		if pot, err = s.work(ctx, tx, row); err != nil {
			return err
		}
		if row.EndedAt != nil {
			return nil // somebody else just did it: the same fact, recorded once
		}
		if pot.Kind == "mould" {
			return problem.Conflict("mould", "A mould leaves the shelf by its state: say in Mould how %s is.", pot.Label)
		}
		next, err := s.follows(ctx, tx, row)
		if err != nil {
			return err
		}
		if next != nil && !lifts(next.Act) {
			return problem.Conflict("goes_on", "%s is not the last of it. Next: %s Say there when that is done.", pot.Label, next.Text)
		}
		if pot.HeldBack != "" && !mayInsist(ctx, reason) {
			return heldBack(pot.HeldBack)
		}
		how.Reason = reason
		return s.takeOut(ctx, tx, row, pot, next, how)
	})
	if err != nil {
		return Pot{}, err
	}
	s.tell(ctx, pot.Piece)
	return pot, nil
}

// lifts says whether a stage only takes out what is made.
func lifts(act string) bool { return act == "lift" || act == "open" }

func (s *Service) tell(ctx context.Context, piece string) {
	for _, topic := range []string{"pots", "runs", "copies"} {
		s.Live.Tell(ctx, topic, "")
	}
	s.Live.Tell(ctx, "pieces", piece)
}

func (s *Service) takeOut(ctx context.Context, tx database.Tx, row potRow, pot Pot, next *Stage, how Out) error {
	reason := how.Reason
	if _, err := s.endPot(ctx, tx, row.ID, reason); err != nil {
		return err
	}
	if row.StageID == nil {
		return errors.New("a pot that is no mould's belongs to no run")
	}
	words := fmt.Sprintf("%s at %.0f %% %s", pot.Label, 100*pot.Fill, map[string]string{string(making.Cure): "cure", string(making.Dry): "dry"}[pot.Kind])
	if reason != "" {
		words += ", early: " + reason
	}
	if pot.HeldBack != "" {
		if _, err := tx.ExecContext(ctx, `UPDATE copy SET early_at = ? WHERE run_id = ? AND (? = 0 OR id = ?) AND state = 'making'`, math.Round(1000*pot.Fill)/1000, *row.RunID, deref(row.CopyID), deref(row.CopyID)); err != nil {
			return fmt.Errorf("noting how far it was: %w", err)
		}
	}
	faults, err := s.noteFaults(ctx, tx, row, how)
	if err != nil {
		return err
	}
	return s.made(ctx, tx, *row.RunID, row.CopyID, strings.TrimSpace(words+faults), next)
}

func deref(id *uint64) uint64 {
	if id == nil {
		return 0
	}
	return *id
}

// endPot takes a pot off the shelf; false when it was off already.
func (s *Service) endPot(ctx context.Context, tx database.Tx, id uint64, note string) (bool, error) {
	who, _ := accounts.From(ctx)
	return database.Changed(tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = ?, end_note = ? WHERE id = ? AND ended_at IS NULL`, s.Clock.Now(), who.ID, note, id))
}

// made moves the copies of a run, or one of them, on to being made; when nothing
// of the run is being made any more, it is over.
func (s *Service) made(ctx context.Context, tx database.Tx, run uint64, only *uint64, words string, last *Stage) error {
	list, err := copies.OfRun(ctx, tx, run, copies.Making)
	if err != nil {
		return err
	}
	now, left := s.Clock.Now(), 0
	for _, c := range list {
		if only != nil && c.ID != *only {
			left++
			continue
		}
		finish, err := s.finishOf(ctx, tx, c)
		if err != nil {
			return err
		}
		act := "made"
		if c.Way.InMould() {
			act = "demoulded"
		}
		if err := copies.Move(ctx, tx, now, c, copies.Step{To: copies.Made, Act: act, Words: words, Finish: finish}); err != nil {
			return err
		}
		if c.MouldID != nil {
			if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = 'resting' WHERE id = ? AND state = 'in_use'`, *c.MouldID); err != nil {
				return err
			}
		}
	}
	if left > 0 {
		return nil
	}
	who, _ := accounts.From(ctx)
	if last != nil {
		if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET done_at = ?, done_by = ? WHERE id = ? AND done_at IS NULL`, now, who.ID, last.ID); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx, `UPDATE run SET ended_at = ? WHERE id = ? AND ended_at IS NULL`, now, run)
	return err
}

// finishOf is what is to be done to a copy, by the section that it was made on.
func (s *Service) finishOf(ctx context.Context, tx database.Tx, c copies.Copy) ([]work.Item, error) {
	p, err := piece.Find(ctx, tx, c.Piece)
	if err != nil {
		return nil, err
	}
	return s.Finish.ListFor(ctx, tx, p, c.SectionNumber, c.Way)
}

// CopyScrapped ends what a scrapped copy leaves: its own pot, and its run with
// the pots of it when no other copy of the run is being made any more.
func (s *Service) CopyScrapped(ctx context.Context, tx database.Tx, c copies.Copy) error {
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	if _, err := tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = ?, end_note = 'scrapped' WHERE copy_id = ? AND ended_at IS NULL`, now, who.ID, c.ID); err != nil {
		return err
	}
	if c.MouldID != nil {
		if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = 'resting' WHERE id = ? AND state = 'in_use'`, *c.MouldID); err != nil {
			return err
		}
	}
	left, err := copies.OfRun(ctx, tx, c.RunID, copies.Making)
	if err != nil || len(left) > 0 {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE pot p JOIN run_stage t ON t.id = p.stage_id SET p.ended_at = ?, p.ended_by = ?, p.end_note = 'scrapped' WHERE t.run_id = ? AND p.ended_at IS NULL`, now, who.ID, c.RunID); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE run SET ended_at = ? WHERE id = ? AND ended_at IS NULL`, now, c.RunID)
	return err
}

// Observe records that somebody saw a stage now; the estimate learns from it.
func (s *Service) Observe(ctx context.Context, id uint64, stage string) (Pot, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return Pot{}, err
	}
	var piece string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		row, err := s.lock(ctx, tx, id)
		if err != nil {
			return err
		}
		piece = row.Piece
		if row.Kind == string(making.Dry) {
			return s.observeDry(ctx, tx, row, stage)
		}
		if stage == gelled && row.Kind == string(making.Set) {
			return s.observeGel(ctx, tx, row)
		}
		if row.Kind != string(making.Cure) || signWords[stage] != "" || stage == gelled {
			return problem.Invalid("unknown_value", "stage", "This pot has no such stage.")
		}
		now := s.Clock.Now()
		seen, err := json.Marshal(cure.Seen{Stage: stage, AtS: now.Sub(row.StartedAt).Seconds()})
		if err != nil {
			return err
		}
		text := string(seen)
		row.Observed = &text
		if _, err := s.work(ctx, tx, row); err != nil {
			return err // a sighting that cannot be is refused before it is kept
		}
		kept, err := database.Changed(tx.ExecContext(ctx, `UPDATE pot SET observed = ? WHERE id = ? AND ended_at IS NULL`, text, id))
		if err != nil {
			return err
		}
		if !kept {
			return problem.Conflict("ended", "%s has left the shelf already; nothing was recorded.", row.Label)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: row.PieceID, Kind: "pot", Code: row.Label, Act: "seen", Words: cure.NextText(stage) + " now", Data: json.RawMessage(seen)})
		return err
	})
	if err != nil {
		return Pot{}, err
	}
	s.Live.Tell(ctx, "pots", piece)
	return s.Pot(ctx, id)
}
