package build

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

const potColumns = `t.id, t.piece_id, t.copy_id, t.label, t.kind, t.family, t.model, t.observed, t.started_at, t.ended_at, t.mould_id, q.code AS piece, c.code AS copy_code
	FROM pot t JOIN piece q ON q.id = t.piece_id LEFT JOIN copy c ON c.id = t.copy_id`

func (s *Service) row(ctx context.Context, db database.Reader, id uint64) (potRow, error) {
	var row potRow
	err := db.GetContext(ctx, &row, `SELECT `+potColumns+` WHERE t.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return row, problem.NotFound("pot", fmt.Sprint(id))
	}
	return row, err
}

// Pot computes one pot.
func (s *Service) Pot(ctx context.Context, id uint64) (Pot, error) {
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return Pot{}, err
	}
	return s.work(ctx, row)
}

// Shelf computes every pot that stands on the shelf, soonest first: index
// pot_running, and one reading of the room's log for all of them.
func (s *Service) Shelf(ctx context.Context) ([]Pot, error) {
	var rows []potRow
	if err := s.DB.SelectContext(ctx, &rows, `SELECT `+potColumns+` WHERE t.ended_at IS NULL ORDER BY t.started_at, t.id`); err != nil {
		return nil, fmt.Errorf("reading the pot shelf: %w", err)
	}
	pots := []Pot{}
	if len(rows) == 0 {
		return pots, nil
	}
	log, err := s.Air.between(ctx, rows[0].StartedAt)
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		p, err := s.workOn(ctx, row, since(log, row.StartedAt))
		if err != nil {
			return nil, fmt.Errorf("computing pot %s: %w", row.Label, err)
		}
		pots = append(pots, p)
	}
	return pots, nil
}

// Copy is one cast of a piece.
type Copy struct {
	ID     uint64    `db:"id" json:"-"`
	Code   string    `db:"code" json:"code"`
	Piece  string    `db:"piece" json:"piece"`
	Run    string    `db:"run" json:"run"`
	Mix    string    `db:"mix" json:"mix"`
	Mould  *string   `db:"mould" json:"mould,omitempty"`
	State  string    `db:"state" json:"state" enum:"curing,demoulded,repair,accepted,scrapped,packed,handed_over"`
	Reason string    `db:"reason" json:"reason"`
	MadeAt time.Time `db:"made_at" json:"made_at"`
	PotID  *uint64   `db:"pot_id" json:"pot_id,omitempty"`
}

// judged is how many copies that need no hand any more are listed with those
// that do.
const judged = 40

// Copies lists the copies of a piece; for an empty code those that need a hand
// and the newest of the rest. Indexes copy_piece_state, copy_state, copy_made.
func (s *Service) Copies(ctx context.Context, code string) ([]Copy, error) {
	list := []Copy{}
	where, args := `WHERE q.code = ?`, []any{code}
	if code == "" {
		where, args = `WHERE c.id IN (SELECT id FROM copy WHERE state IN ('curing','demoulded','repair','accepted'))
			OR c.id IN (SELECT id FROM (SELECT id FROM copy ORDER BY made_at DESC LIMIT ?) newest)`, []any{judged}
	}
	err := s.DB.SelectContext(ctx, &list, `SELECT c.id, c.code, q.code AS piece, r.code AS run, x.code AS mix, m.code AS mould, c.state, c.reason, c.made_at,
		(SELECT t.id FROM pot t WHERE t.copy_id = c.id AND t.ended_at IS NULL LIMIT 1) AS pot_id
		FROM copy c JOIN piece q ON q.id = c.piece_id JOIN run r ON r.id = c.run_id JOIN mix x ON x.id = r.mix_id LEFT JOIN mould m ON m.id = c.mould_id
		`+where+` ORDER BY c.made_at DESC, c.number DESC`, args...)
	return list, err
}
