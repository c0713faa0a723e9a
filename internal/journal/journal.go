// Package journal is the append-only record of what happened to every piece,
// copy, mix, mould, lot and kit: who, when, what. The step log that people
// write by hand is part of it. Nothing here is ever changed or removed; the
// database itself refuses to.
package journal

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
)

// Entry is one thing that happened.
type Entry struct {
	At      time.Time
	Piece   uint64 // 0 when it is about no piece
	Kind    string // piece, section, brief, mix, run, copy, pot, lot, kit, performer …
	Code    string
	Act     string // planned, weighed, poured, demoulded, accepted, step …
	Words   string
	Data    any
	Actor   string // a makeup artist's name; else the signed-in person counts
	Key     string // for acts that may be sent twice
	Refines uint64 // the step that this entry completes
}

// Acts of the step log.
const (
	Step          = "step"
	StepCompleted = "step completed"
)

// Add appends one entry inside an act and returns its id.
func Add(ctx context.Context, tx database.Tx, e Entry) (uint64, error) {
	who, _ := accounts.From(ctx)
	var data any
	if e.Data != nil {
		raw, err := json.Marshal(e.Data)
		if err != nil {
			return 0, err
		}
		data = string(raw)
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO journal (at, person_id, actor, device, piece_id, kind, code, act, words, data, completes, idem_key)
		VALUES (?, NULLIF(?,0), ?, ?, NULLIF(?,0), ?, ?, ?, ?, ?, NULLIF(?,0), NULLIF(?,''))`,
		e.At, who.ID, e.Actor, accounts.VisitOf(ctx).Device, e.Piece, e.Kind, e.Code, e.Act, e.Words, data, e.Refines, e.Key)
	if err != nil {
		return 0, fmt.Errorf("writing the journal: %w", err)
	}
	id, err := res.LastInsertId()
	return uint64(id), err
}

// Row is an entry as it is read.
type Row struct {
	ID        uint64         `db:"id" json:"id"`
	At        time.Time      `db:"at" json:"at"`
	Who       string         `db:"who" json:"who"`
	Kind      string         `db:"kind" json:"kind"`
	Code      string         `db:"code" json:"code"`
	Act       string         `db:"act" json:"act"`
	Words     string         `db:"words" json:"words"`
	Completes sql.NullInt64  `db:"completes" json:"-"`
	Completed []string       `db:"-" json:"completed" doc:"what was added to a step later"`
	GapS      float64        `db:"-" json:"gap_s,omitempty" doc:"working time before this entry in which nothing was noted"`
	Piece     sql.NullString `db:"piece" json:"-"`
	PieceCode string         `db:"-" json:"piece,omitempty"`
}

const columns = `j.id, j.at, COALESCE(p.name, j.actor, '') AS who, j.kind, j.code, j.act, j.words, j.completes, q.code AS piece
	FROM journal j LEFT JOIN person p ON p.id = j.person_id LEFT JOIN piece q ON q.id = j.piece_id`

// OfPiece reads what happened to a piece, oldest first, with later additions
// folded into the step they complete and gaps in working time marked. Index
// journal_piece.
func OfPiece(ctx context.Context, db database.Reader, piece uint64) ([]Row, error) {
	var rows []Row
	if err := db.SelectContext(ctx, &rows, `SELECT `+columns+` WHERE j.piece_id = ? ORDER BY j.at, j.id`, piece); err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	return fold(rows), nil
}

// Of reads what happened to one thing.
func Of(ctx context.Context, db database.Reader, kind, code string) ([]Row, error) {
	var rows []Row
	if err := db.SelectContext(ctx, &rows, `SELECT `+columns+` WHERE j.kind = ? AND j.code = ? ORDER BY j.at, j.id`, kind, code); err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	return fold(rows), nil
}

// Latest reads what was done last on the work, newest first, by index
// journal_at; sign-ins and looks at health facts stand in the record only.
func Latest(ctx context.Context, db database.Reader, limit int) ([]Row, error) {
	var rows []Row
	if err := db.SelectContext(ctx, &rows, `SELECT `+columns+` WHERE j.kind NOT IN ('account','performer') ORDER BY j.at DESC, j.id DESC LIMIT ?`, limit); err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	for i := range rows {
		rows[i].PieceCode, rows[i].Completed = rows[i].Piece.String, []string{}
	}
	return rows, nil
}

// By reads what somebody did in a stretch of time, the first first, by index journal_at; sign-ins and looks at health facts are left out.
func By(ctx context.Context, db database.Reader, person string, from, to time.Time) ([]Row, error) {
	var rows []Row
	if err := db.SelectContext(ctx, &rows, `SELECT `+columns+` WHERE j.at >= ? AND j.at < ? AND p.name = ? AND j.kind NOT IN ('account','performer','work') ORDER BY j.at, j.id LIMIT 200`, from, to, person); err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	return rows, nil
}

// Gap is how long nothing may be noted within one working day before it is
// shown as a gap.
const Gap = 2 * time.Hour

func fold(rows []Row) []Row {
	out, at := []Row{}, map[uint64]int{}
	for _, r := range rows {
		r.PieceCode, r.Completed = r.Piece.String, []string{}
		if i, ok := at[uint64(r.Completes.Int64)]; ok && r.Completes.Valid {
			out[i].Completed = append(out[i].Completed, r.Words)
			continue
		}
		if n := len(out); n > 0 {
			before := out[n-1].At
			sameDay := before.YearDay() == r.At.YearDay() && before.Year() == r.At.Year()
			if d := r.At.Sub(before); sameDay && d >= Gap {
				r.GapS = d.Seconds()
			}
		}
		at[r.ID] = len(out)
		out = append(out, r)
	}
	return out
}
