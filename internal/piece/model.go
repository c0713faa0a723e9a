// Package piece is the spine that everything hangs on: production, character,
// performer and piece, the versions of a piece's brief and section, and the
// shelf of materials that they are made from. Every room may import it; it
// imports no room.
package piece

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/document"
	"yewmoor/internal/people"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/production"
	"yewmoor/internal/round"
)

// Air tells the air of the shop as it was last recorded; measured is false where
// nothing was, and a reference room is given. Wired to the room sensor's log.
type Air interface {
	Now(ctx context.Context, db database.Reader) (room section.Room, measured bool, err error)
}

// Service does the piece's use cases.
type Service struct {
	DB          *database.DB
	Clock       clock.Clock
	Live        *live.Hub
	Air         Air
	People      *people.Service
	Productions *production.Service
	Documents   *document.Service
	// Around tells what the brief and the wearer's map say around a section.
	Around Around
	// Amounts and Scans tell what was measured of it.
	Amounts Amounts
	Scans   Scans
	Moulds  Moulds
	// Worked holds what sections came to: see docs/caches.md.
	Worked kept.Answers[Consequence]
	// told, shown and seen hold what others tell of amounts, what scans show, and what
	// brief and map say.
	told  kept.Answers[Told]
	shown kept.Answers[*rules.Scanned]
	seen  kept.Answers[Surroundings]
}

// Piece is a row of the round.
type Piece struct {
	ID            uint64      `db:"id" json:"-"`
	Code          string      `db:"code" json:"code"`
	Name          string      `db:"name" json:"name"`
	Region        string      `db:"region" json:"region"`
	Side          string      `db:"side" json:"side" enum:",L,R"`
	Place         round.Place `db:"place" json:"place" enum:"brief,form,sculpt,mould,mix,build,colour,finish,check,handover"`
	Family        string      `db:"family" json:"family" doc:"what makes its body; empty until the section says"`
	CopiesWanted  int         `db:"copies_wanted" json:"copies_wanted"`
	CopiesGood    int         `db:"copies_good" json:"copies_good" doc:"accepted, packed or handed over"`
	CharacterCode string      `db:"character_code" json:"character_code"`
	CharacterName string      `db:"character_name" json:"character_name"`
	Production    string      `db:"production" json:"production"`
	ProductionID  uint64      `db:"production_id" json:"production_id"`
	PerformerID   *uint64     `db:"performer_id" json:"performer_id,omitempty"`
	Performer     *string     `db:"performer" json:"performer,omitempty"`
	SectionNumber int         `db:"section_number" json:"section_number" doc:"latest agreed section, 0 for none"`
	BriefNumber   int         `db:"brief_number" json:"brief_number"`
	CreatedAt     time.Time   `db:"created_at" json:"created_at"`
	// PutAwayAt is when its work was over; it then stands on no screen of the
	// work in hand.
	PutAwayAt *time.Time `db:"put_away_at" json:"put_away_at,omitempty"`
}

// Kinds of document that a piece has.
const (
	BriefKind   = "brief"
	SectionKind = "section"
	TextureKind = "texture"
)

var pieceColumns = `q.id, q.code, q.name, q.region, q.side, q.place, q.family, q.copies_wanted, q.created_at, q.put_away_at,
	(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND ` + copies.GoodSQL("c") + `) AS copies_good,
	ch.code AS character_code, ch.name AS character_name, pr.name AS production, pr.id AS production_id, pf.id AS performer_id, pf.name AS performer,
	` + document.NewestSQL("q.id", SectionKind) + ` AS section_number, ` + document.NewestSQL("q.id", BriefKind) + ` AS brief_number
	FROM piece q JOIN ` + "`character`" + ` ch ON ch.id = q.character_id JOIN production pr ON pr.id = ch.production_id LEFT JOIN performer pf ON pf.id = ch.performer_id`

// Find reads one piece by its code.
func Find(ctx context.Context, db database.Reader, code string) (Piece, error) {
	var p Piece
	err := db.GetContext(ctx, &p, `SELECT `+pieceColumns+` WHERE q.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return p, problem.NotFound("piece", code)
	}
	if err != nil {
		return p, fmt.Errorf("reading the piece: %w", err)
	}
	return p, nil
}

// All reads every piece that is not put away, in the order of its code. Index
// piece_put_away gives them, copy_piece_state their good copies.
func All(ctx context.Context, db database.Reader) ([]Piece, error) {
	list := []Piece{}
	if err := db.SelectContext(ctx, &list, `SELECT `+pieceColumns+` WHERE q.put_away_at IS NULL ORDER BY q.code`); err != nil {
		return nil, fmt.Errorf("reading the pieces: %w", err)
	}
	return list, nil
}

// OfCharacter reads every piece of a character that is not put away, in the
// order of its code.
func OfCharacter(ctx context.Context, db database.Reader, character string) ([]Piece, error) {
	list := []Piece{}
	if err := db.SelectContext(ctx, &list, `SELECT `+pieceColumns+` WHERE ch.code = ? AND q.put_away_at IS NULL ORDER BY q.code`, character); err != nil {
		return nil, fmt.Errorf("reading the pieces of %s: %w", character, err)
	}
	return list, nil
}

// LoadWearer reads what the rules need of a piece's performer. No performer
// yet means nothing is known.
func (s *Service) LoadWearer(ctx context.Context, db database.Reader, p Piece) (rules.Wearer, error) {
	return s.People.Wearer(ctx, db, p.PerformerID, p.Region)
}
