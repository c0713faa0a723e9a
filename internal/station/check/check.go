// Package check is where a finished copy is judged: accepted, sent back for
// repair or scrapped, always with who and why.
package check

import (
	"context"
	"fmt"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/copies"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Finish tells what is still to be done to a copy; wired to the finishing bench.
type Finish interface {
	Missing(ctx context.Context, db database.Reader, code string) ([]string, error)
}

// Build ends what a scrapped copy leaves on the shelf; wired to the build room.
type Build interface {
	CopyScrapped(ctx context.Context, tx database.Tx, c copies.Copy) error
}

// Brief tells which features of the brief nobody saw on a piece yet; wired to
// the brief.
type Brief interface {
	Missing(ctx context.Context, db database.Reader, pieceID, copyID uint64) ([]string, error)
}

// Service does the use cases of the checking bench.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Finish Finish
	Brief  Brief
	Build  Build
}

// Outcome is what follows from a verdict.
type Outcome struct {
	State copies.State `json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over"`
	copies.Count
	// NeedsRun asks for another run: fewer copies are good, coming or begun than
	// are wanted.
	NeedsRun bool   `json:"needs_run"`
	Words    string `json:"words"`
}

var becomes = map[string]copies.State{"accept": copies.Accepted, "repair": copies.Repair, "scrap": copies.Scrapped}

// Judge records a verdict.
func (s *Service) Judge(ctx context.Context, code, verdict, reason string) (Outcome, error) {
	reason = strings.TrimSpace(reason)
	if verdict != "accept" && reason == "" {
		return Outcome{}, problem.Invalid("missing", "reason", "Say why: the next run learns from it.")
	}
	var out Outcome
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Lock(ctx, tx, code)
		if err != nil {
			return err
		}
		to := becomes[verdict]
		if !to.MayFollow(c.State) {
			return problem.Conflict("not_here", "%s is %s and cannot be judged so now. Nothing was changed.", code, c.State.Text())
		}
		if verdict == "accept" {
			if err := s.whole(ctx, tx, c); err != nil {
				return err
			}
			if err := hadItsTime(ctx, c, reason); err != nil {
				return err
			}
		}
		now := s.Clock.Now()
		if err := copies.Verdict(ctx, tx, now, c, verdict, reason); err != nil {
			return err
		}
		if err := copies.Move(ctx, tx, now, c, copies.Step{To: to, Reason: reason, Words: reason}); err != nil {
			return err
		}
		if to == copies.Scrapped {
			if err := s.Build.CopyScrapped(ctx, tx, c); err != nil {
				return err
			}
		}
		out, err = outcome(ctx, tx, c.PieceID, to)
		return err
	})
	if err != nil {
		return Outcome{}, err
	}
	for _, topic := range []string{"copies", "runs", "pieces", "pots"} {
		s.Live.Tell(ctx, topic, code)
	}
	return out, nil
}

// TakeBack takes a verdict back that was given to the wrong copy, or wrongly: it
// may, as long as the copy is in no kit. A scrapped one that was never out of its
// mould stays scrapped.
func (s *Service) TakeBack(ctx context.Context, code, reason string) (Outcome, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return Outcome{}, problem.Invalid("missing", "reason", "Say what was wrong with the verdict.")
	}
	var out Outcome
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Lock(ctx, tx, code)
		if err != nil {
			return err
		}
		var last struct {
			ID   uint64
			Kits string
			Was  bool
		}
		if err := tx.GetContext(ctx, &last, `SELECT COALESCE((SELECT MAX(id) FROM verdict WHERE copy_id = c.id AND back_at IS NULL), 0) AS id,
			COALESCE((SELECT GROUP_CONCAT(k.code) FROM kit_copy kc JOIN kit k ON k.id = kc.kit_id WHERE kc.copy_id = c.id), '') AS kits,
			EXISTS (SELECT 1 FROM work_item w WHERE w.copy_id = c.id) AS was FROM copy c WHERE c.id = ?`, c.ID); err != nil {
			return err
		}
		switch {
		case last.Kits != "":
			return problem.Conflict("depends", "%s is in kit %s: unpack it there first, while the kit has not left.", code, last.Kits)
		case last.ID == 0:
			return problem.Conflict("no_verdict", "Nobody has judged %s.", code)
		case c.State == copies.Scrapped && !last.Was:
			return problem.Conflict("depends", "%s was scrapped while it was being made: its pot is over and its mould is free. Begin another.", code)
		}
		now := s.Clock.Now()
		who, _ := accounts.From(ctx)
		if _, err := tx.ExecContext(ctx, `UPDATE verdict SET back_at = ?, back_by = ?, back_reason = ? WHERE id = ?`, now, who.ID, reason, last.ID); err != nil {
			return err
		}
		if err := copies.Back(ctx, tx, now, c, copies.Made, reason); err != nil {
			return err
		}
		out, err = outcome(ctx, tx, c.PieceID, copies.Made)
		return err
	})
	if err != nil {
		return Outcome{}, err
	}
	for _, topic := range []string{"copies", "runs", "pieces"} {
		s.Live.Tell(ctx, topic, code)
	}
	return out, nil
}

// whole says what keeps a copy from being accepted.
func (s *Service) whole(ctx context.Context, tx database.Tx, c copies.Copy) error {
	missing, err := s.Finish.Missing(ctx, tx, c.Code)
	if err != nil {
		return err
	}
	if len(missing) > 0 {
		return problem.Conflict("not_finished", "Still to do before it can be accepted: %s.", strings.ReplaceAll(strings.Join(missing, ", "), "_", " "))
	}
	if missing, err = s.Brief.Missing(ctx, tx, c.PieceID, c.ID); err != nil {
		return err
	}
	if len(missing) > 0 {
		return problem.Conflict("features_missing", "The brief asks for more than was seen on it yet: %s. Tick them here, or change the brief.", strings.Join(missing, ", "))
	}
	return nil
}

// hadItsTime stops a copy that was taken out before it was cured or dry: a lead
// may sign for it with a reason, which goes onto its sheet.
func hadItsTime(ctx context.Context, c copies.Copy, reason string) error {
	if c.EarlyAt == nil {
		return nil
	}
	words := fmt.Sprintf("%s was taken out at %.0f %% of its cure or drying: it may be soft inside, sweat, and stick.", c.Code, 100**c.EarlyAt)
	if who, _ := accounts.From(ctx); who.Role != accounts.Lead {
		return problem.Conflict("too_early", "%s Repair or scrap it, or let a lead accept it.", words)
	}
	if reason == "" {
		return problem.Invalid("missing", "reason", "%s Say why it is good all the same; that goes onto its sheet.", words)
	}
	return nil
}

func outcome(ctx context.Context, tx database.Tx, pieceID uint64, state copies.State) (Outcome, error) {
	n, err := copies.CountOf(ctx, tx, pieceID)
	out := Outcome{State: state, Count: n, NeedsRun: n.NeedsRun()}
	out.Words = fmt.Sprintf("%d of %d copies good, %d coming.", n.Good, n.Wanted, n.Coming+n.Begun)
	if out.NeedsRun {
		out.Words += fmt.Sprintf(" Another run is needed for %d.", n.Wanted-n.Good-n.Coming-n.Begun)
	}
	return out, err
}

// Register puts the checking bench's operations on the API.
func Register(api huma.API, s *Service) {
	web.Post(api, "/api/copies/{code}/verdict", "Accept, repair or scrap a copy", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Verdict string `json:"verdict" enum:"accept,repair,scrap"`
			Reason  string `json:"reason,omitempty" maxLength:"300"`
		}
	}) (Outcome, error) {
		return s.Judge(ctx, in.Code, in.Body.Verdict, in.Body.Reason)
	})
	web.Post(api, "/api/copies/{code}/verdict/back", "Take a verdict back, while the copy is in no kit", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Reason string `json:"reason" maxLength:"300"`
		}
	}) (Outcome, error) {
		return s.TakeBack(ctx, in.Code, in.Body.Reason)
	})
}
