// Package check is where a finished copy is judged: accepted, sent back for
// repair or scrapped, always with who and why.
package check

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Copy is what judging needs to know of a copy.
type Copy struct {
	ID      uint64
	PieceID uint64
	Piece   string
	State   string
	Missing []string // ticks still to come
}

// Finish tells what was done to a copy; wired to the finishing bench.
type Finish interface {
	Copy(ctx context.Context, db database.Reader, code string) (Copy, error)
}

// Brief tells which features of the brief nobody saw on a piece yet; wired to
// the brief.
type Brief interface {
	Missing(ctx context.Context, db database.Reader, pieceID uint64) ([]string, error)
}

// Service does the use cases of the checking bench.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Finish Finish
	Brief  Brief
}

// Outcome is what follows from a verdict.
type Outcome struct {
	State  string `json:"state"`
	Wanted int    `json:"copies_wanted"`
	Good   int    `json:"copies_good"`
	// Coming are copies still curing or being finished.
	Coming int `json:"copies_coming"`
	// NeedsRun asks for another run: fewer copies are good or coming than are
	// wanted.
	NeedsRun bool   `json:"needs_run"`
	Words    string `json:"words"`
}

var becomes = map[string]string{"accept": "accepted", "repair": "repair", "scrap": "scrapped"}

// Judge records a verdict.
func (s *Service) Judge(ctx context.Context, code, verdict, reason string) (Outcome, error) {
	reason = strings.TrimSpace(reason)
	if verdict != "accept" && reason == "" {
		return Outcome{}, problem.Invalid("missing", "reason", "Say why: the next run learns from it.")
	}
	who, _ := accounts.From(ctx)
	var out Outcome
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM copy WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		c, err := s.Finish.Copy(ctx, tx, code)
		if err != nil {
			return err
		}
		judgeable := []string{"demoulded", "repair", "accepted"}
		if verdict == "scrap" {
			judgeable = append(judgeable, "curing")
		}
		if !slices.Contains(judgeable, c.State) {
			return problem.Conflict("not_here", "%s is %s and cannot be judged now. Nothing was changed.", code, strings.ReplaceAll(c.State, "_", " "))
		}
		if verdict == "accept" && len(c.Missing) > 0 {
			return problem.Conflict("not_finished", "Still to do before it can be accepted: %s.", strings.ReplaceAll(strings.Join(c.Missing, ", "), "_", " "))
		}
		if verdict == "accept" {
			missing, err := s.Brief.Missing(ctx, tx, c.PieceID)
			if err != nil {
				return err
			}
			if len(missing) > 0 {
				return problem.Conflict("features_missing", "The brief asks for more than was seen on it yet: %s. Tick them here, or change the brief.", strings.Join(missing, ", "))
			}
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO verdict (copy_id, verdict, reason, at, person_id) VALUES (?,?,?,?,?)`, c.ID, verdict, reason, now, who.ID); err != nil {
			return fmt.Errorf("recording the verdict: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE copy SET state = ?, reason = ? WHERE id = ?`, becomes[verdict], reason, c.ID); err != nil {
			return err
		}
		if verdict == "scrap" {
			if _, err := tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = ?, end_note = 'scrapped' WHERE copy_id = ? AND ended_at IS NULL`, now, who.ID, c.ID); err != nil {
				return err
			}
		}
		if _, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: becomes[verdict], Words: reason}); err != nil {
			return err
		}
		out, err = s.outcome(ctx, tx, c.PieceID, becomes[verdict])
		if err != nil {
			return err
		}
		switch {
		case verdict == "accept" && out.Good >= out.Wanted:
			return piece.Move(ctx, tx, c.PieceID, "handover", false)
		case verdict == "scrap" && out.NeedsRun && out.Coming == 0:
			return piece.Move(ctx, tx, c.PieceID, "mix", false)
		case verdict == "repair":
			return piece.Move(ctx, tx, c.PieceID, "finish", false)
		}
		return nil
	})
	if err != nil {
		return Outcome{}, err
	}
	s.Live.Tell("copies", code)
	s.Live.Tell("pieces", "")
	s.Live.Tell("pots", "")
	return out, nil
}

func (s *Service) outcome(ctx context.Context, tx database.Tx, pieceID uint64, state string) (Outcome, error) {
	out := Outcome{State: state}
	var n struct {
		Wanted int `db:"wanted"`
		Good   int `db:"good"`
		Coming int `db:"coming"`
	}
	err := tx.GetContext(ctx, &n, `SELECT q.copies_wanted AS wanted,
		(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND c.state IN ('accepted','packed','handed_over')) AS good,
		(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND c.state IN ('curing','demoulded','repair')) AS coming
		FROM piece q WHERE q.id = ?`, pieceID)
	out.Wanted, out.Good, out.Coming = n.Wanted, n.Good, n.Coming
	out.NeedsRun = out.Good+out.Coming < out.Wanted
	out.Words = fmt.Sprintf("%d of %d copies good, %d coming.", out.Good, out.Wanted, out.Coming)
	if out.NeedsRun {
		out.Words += fmt.Sprintf(" Another run is needed for %d.", out.Wanted-out.Good-out.Coming)
	}
	return out, err
}

// Register puts the checking bench's operations on the API.
func Register(api huma.API, s *Service) {
	web.Post(api, "/api/copies/{code}/verdict", "Accept, repair or scrap a copy", web.Skilled, func(ctx context.Context, in *struct {
		piece.Coded
		Body struct {
			Verdict string `json:"verdict" enum:"accept,repair,scrap"`
			Reason  string `json:"reason,omitempty" maxLength:"300"`
		}
	}) (Outcome, error) {
		return s.Judge(ctx, in.Code, in.Body.Verdict, in.Body.Reason)
	})
}
