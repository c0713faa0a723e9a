// Package build is where pieces come into being: a pour becomes a run with its
// copies, every copy stands as a pot on the shelf until it may come out, and
// the room's air decides how long that takes.
package build

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of the build room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Air   *Air
	// Pieces work sections out, for paper.
	Pieces *piece.Service
	Moulds Moulds
}

func sheetInput(m material.CureSheet) map[string]any {
	in := map[string]any{"system": m.System, "pot_s": m.PotS, "demould_s": m.DemouldS, "ref_c": m.RefC}
	if m.GelS > 0 {
		in["gel_s"] = m.GelS
	}
	if m.FullS > 0 {
		in["full_s"] = m.FullS
	}
	return in
}

// Pour is what mixing hands over when a mix is poured.
type Pour struct {
	Piece   piece.Piece
	MixID   uint64
	MixCode string
	Family  string
	Sheet   material.CureSheet
	Contact time.Time
	Moulds  []string // codes of the moulds poured, one copy each; empty codes allowed
}

// Letters names the n-th copy of a piece: a … z, aa …
func Letters(n int) string {
	out := ""
	for ; n > 0; n = (n - 1) / 26 {
		out = string(rune('a'+(n-1)%26)) + out
	}
	return out
}

// StartRun records a pour inside the act that pours: the run, its copies and
// their pots. It returns the run's code and the copies'.
func (s *Service) StartRun(ctx context.Context, tx database.Tx, p Pour) (string, []string, error) {
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	number, err := database.NextNumber(ctx, tx, "run")
	if err != nil {
		return "", nil, err
	}
	code := fmt.Sprintf("R-%04d", number)
	res, err := tx.ExecContext(ctx, `INSERT INTO run (code, piece_id, mix_id, started_at, person_id) VALUES (?,?,?,?,?)`, code, p.Piece.ID, p.MixID, now, who.ID)
	if err != nil {
		return "", nil, fmt.Errorf("beginning the run: %w", err)
	}
	run, err := res.LastInsertId()
	if err != nil {
		return "", nil, err
	}
	model, err := json.Marshal(p.Sheet)
	if err != nil {
		return "", nil, err
	}
	var copies []string
	for _, mould := range p.Moulds {
		c, err := s.startCopy(ctx, tx, p, run, mould, string(model), now)
		if err != nil {
			return "", nil, err
		}
		copies = append(copies, c)
	}
	if err := piece.Move(ctx, tx, p.Piece.ID, "build", true); err != nil {
		return "", nil, err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.Piece.ID, Kind: "run", Code: code, Act: "poured", Words: p.MixCode + " into " + strings.Join(copies, ", ")})
	return code, copies, err
}

func (s *Service) startCopy(ctx context.Context, tx database.Tx, p Pour, run int64, mould, model string, now time.Time) (string, error) {
	number, err := database.NextNumber(ctx, tx, "copy "+p.Piece.Code)
	if err != nil {
		return "", err
	}
	code := p.Piece.Code + "-" + Letters(int(number))
	var mouldID any
	if mould != "" {
		var m struct {
			ID    uint64
			State string
		}
		err := tx.GetContext(ctx, &m, `SELECT id, state FROM mould WHERE code = ? AND piece_id = ? FOR UPDATE`, mould, p.Piece.ID)
		if errors.Is(err, sql.ErrNoRows) {
			return "", problem.Invalid("unknown_value", "moulds", "There is no mould %s for %s.", mould, p.Piece.Code)
		}
		if err != nil {
			return "", err
		}
		if m.State != "dry" && m.State != "resting" && m.State != "repaired" {
			return "", problem.Conflict("mould_not_ready", "Mould %s is %s. Nothing was recorded; choose another, or change its state in Mould.", mould, strings.ReplaceAll(m.State, "_", " "))
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = 'in_use' WHERE id = ?`, m.ID); err != nil {
			return "", err
		}
		mouldID = m.ID
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO copy (piece_id, number, code, run_id, mould_id, made_at) VALUES (?,?,?,?,?,?)`, p.Piece.ID, number, code, run, mouldID, now)
	if err != nil {
		return "", fmt.Errorf("making the copy: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return "", err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO pot (piece_id, copy_id, label, kind, family, model, started_at) VALUES (?,?,?,'cure',?,?,?)`, p.Piece.ID, id, code, p.Family, model, p.Contact)
	return code, err
}

// Coat starts a drying pot for coats of latex just put on.
type Coat struct {
	Label  string  `json:"label" maxLength:"40"`
	WetMM  float64 `json:"wet_mm" minimum:"0.02" maximum:"8"`
	Solids float64 `json:"solids,omitempty" minimum:"0.3" maximum:"0.7"`
}

// StartCoat notes that a coat of latex was put on and sets its pot on the shelf.
func (s *Service) StartCoat(ctx context.Context, code string, c Coat) (Pot, error) {
	if c.Solids == 0 {
		c.Solids = 0.60
	}
	model, err := json.Marshal(map[string]any{"layers": []map[string]any{{"wet_m": c.WetMM / 1000, "solids": c.Solids}}})
	if err != nil {
		return Pot{}, err
	}
	var id int64
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		label := strings.TrimSpace(p.Code + " " + strings.TrimSpace(c.Label))
		res, err := tx.ExecContext(ctx, `INSERT INTO pot (piece_id, label, kind, family, model, started_at) VALUES (?,?,'dry','latex',?,?)`, p.ID, label, string(model), now)
		if err != nil {
			return fmt.Errorf("setting the pot on the shelf: %w", err)
		}
		if id, err = res.LastInsertId(); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "coat put on", Words: label})
		return err
	})
	if err != nil {
		return Pot{}, err
	}
	s.Live.Tell("pots", code)
	return s.Pot(ctx, uint64(id))
}

// Demould takes a copy out of its mould, or a dried coat off the shelf. Before
// its time it is held back; a skilled hand may go on with a reason.
func (s *Service) Demould(ctx context.Context, id uint64, reason string) (Pot, error) {
	who, _ := accounts.From(ctx)
	pot, err := s.Pot(ctx, id)
	if err != nil {
		return Pot{}, err
	}
	if pot.Kind == "mould" {
		return Pot{}, problem.Conflict("mould", "A mould leaves the shelf by its state: say in Mould how %s is.", pot.Label)
	}
	reason = strings.TrimSpace(reason)
	if pot.HeldBack != "" && (reason == "" || who.Role == accounts.Apprentice) {
		return Pot{}, problem.Conflict("held_back", "%s A lead or fabricator may go on with a reason.", pot.HeldBack)
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		res, err := tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = ?, end_note = ? WHERE id = ? AND ended_at IS NULL`, now, who.ID, reason, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return nil // somebody else just did it: the same fact, recorded once
		}
		row, err := s.row(ctx, tx, id)
		if err != nil {
			return err
		}
		act, kind, code := "taken off the shelf", "piece", row.Piece
		if row.CopyID != nil {
			act, kind, code = "demoulded", "copy", *row.Copy
			if _, err := tx.ExecContext(ctx, `UPDATE copy SET state = 'demoulded' WHERE id = ? AND state = 'curing'`, *row.CopyID); err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `UPDATE mould m JOIN copy c ON c.mould_id = m.id SET m.state = 'resting' WHERE c.id = ? AND m.state = 'in_use'`, *row.CopyID); err != nil {
				return err
			}
			if err := piece.Move(ctx, tx, row.PieceID, "finish", true); err != nil {
				return err
			}
		}
		words := fmt.Sprintf("%s at %.0f %% cure", pot.Label, 100*pot.Fill)
		if reason != "" {
			words += ", early: " + reason
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: row.PieceID, Kind: kind, Code: code, Act: act, Words: words})
		return err
	})
	if err != nil {
		return Pot{}, err
	}
	s.Live.Tell("pots", pot.Piece)
	s.Live.Tell("pieces", pot.Piece)
	return pot, nil
}

// Observe records that somebody saw a stage now; the estimate learns from it.
func (s *Service) Observe(ctx context.Context, id uint64, stage string) (Pot, error) {
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return Pot{}, err
	}
	if row.Kind != "cure" {
		return Pot{}, problem.Invalid("unknown_value", "stage", "Only curing pots have this stage.")
	}
	now := s.Clock.Now()
	elapsed := now.Sub(row.StartedAt).Seconds()
	seen, err := json.Marshal(map[string]any{"stage": stage, "at_s": elapsed})
	if err != nil {
		return Pot{}, err
	}
	text := string(seen)
	row.Observed = &text
	if _, err := s.work(ctx, row); err != nil {
		return Pot{}, err // a sighting that cannot be is refused before it is kept
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE pot SET observed = ? WHERE id = ? AND ended_at IS NULL`, text, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: row.PieceID, Kind: "pot", Code: row.Label, Act: "seen", Words: stageWords[nextStage(stage)] + " now", Data: json.RawMessage(seen)})
		return err
	})
	if err != nil {
		return Pot{}, err
	}
	s.Live.Tell("pots", row.Piece)
	return s.Pot(ctx, id)
}
