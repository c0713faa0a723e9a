package build

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Comfort is what a wearer answered, 10 for well, while a piece is built on them.
type Comfort struct {
	At      time.Time `db:"at" json:"at"`
	Comfort int       `db:"comfort" json:"comfort"`
	Words   string    `db:"words" json:"words"`
	By      string    `db:"by_name" json:"by"`
}

// unwell is from where down a wearer is let out, whatever the piece stands at.
const unwell = 3

// asked fills in what a wearer answered and when somebody asks again.
func (s *Service) asked(ctx context.Context, db database.Reader, r *Run) error {
	r.Checks = []Comfort{}
	r.OnWearer = slices.ContainsFunc(r.Stages, func(st Stage) bool { return st.Side == "skin" })
	if !r.OnWearer {
		return nil
	}
	// By index comfort_check_at.
	if err := db.SelectContext(ctx, &r.Checks, `SELECT c.at, c.comfort, c.words, w.name AS by_name FROM comfort_check c JOIN person w ON w.id = c.person_id
		WHERE c.run_id = ? ORDER BY c.at, c.id LIMIT 200`, r.ID); err != nil {
		return fmt.Errorf("reading how the wearer is: %w", err)
	}
	if r.EndedAt != nil {
		return nil
	}
	last := r.StartedAt
	for _, c := range r.Checks {
		last = c.At
	}
	r.CheckMin = usualCheckMin
	next := last.Add(time.Duration(r.CheckMin) * time.Minute)
	r.AskNextAt = &next
	r.Unwell = len(r.Checks) > 0 && r.Checks[len(r.Checks)-1].Comfort <= unwell
	return nil
}

// usualCheckMin is how often a wearer is asked while a piece is built on them, minutes:
// eyes are often shut, and nobody sees how it is.
const usualCheckMin = 20

// Ask notes what a wearer answered.
func (s *Service) Ask(ctx context.Context, code string, comfort int, words string) (Run, error) {
	words = strings.TrimSpace(words)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		r, err := s.run(ctx, tx, code)
		if err != nil {
			return err
		}
		switch {
		case r.EndedAt != nil:
			return problem.Conflict("ended", "%s is over; nothing was recorded.", code)
		case !r.OnWearer:
			return problem.Invalid("contradiction", "comfort", "%s is built on nobody.", code)
		}
		who, _ := accounts.From(ctx)
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO comfort_check (run_id, at, comfort, words, person_id) VALUES (?,?,?,?,?)`, r.ID,
			now, comfort, words, who.ID); err != nil {
			return fmt.Errorf("noting how the wearer is: %w", err)
		}
		// How somebody feels is theirs: the record says that they were asked, not what they said.
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: r.PieceID, Kind: "run", Code: code, Act: "wearer asked"})
		return err
	})
	if err != nil {
		return Run{}, err
	}
	s.Live.Tell(ctx, "runs", code)
	return s.Run(ctx, code)
}

// EraseComfort erases what a wearer answered while something was built on them.
func (s *Service) EraseComfort(ctx context.Context, code string) (Run, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		r, err := s.run(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM comfort_check WHERE run_id = ?`, r.ID); err != nil {
			return err
		}
		if err := database.ForgetAnswers(ctx, tx); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: r.PieceID, Kind: "run", Code: code,
			Act: "wearer's answers erased"})
		return err
	})
	if err != nil {
		return Run{}, err
	}
	s.Live.Tell(ctx, "runs", code)
	return s.Run(ctx, code)
}
