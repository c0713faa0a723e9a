package piece

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"regexp"
	"strings"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// NewPiece is what a brief begins with. Production, character and performer
// are found by name or made.
type NewPiece struct {
	Production    string `json:"production" maxLength:"120"`
	CharacterCode string `json:"character_code" maxLength:"8" doc:"two to four capitals"`
	CharacterName string `json:"character_name" maxLength:"120" doc:"needed for a new character"`
	Performer     string `json:"performer" maxLength:"120" doc:"may stay empty until known"`
	Name          string `json:"name" maxLength:"120"`
	Region        string `json:"region"`
	Side          string `json:"side" enum:",L,R" doc:"the wearer's own left or right; empty when the piece is not one of a pair"`
	CopiesWanted  int    `json:"copies_wanted" minimum:"1" maximum:"200"`
}

var characterCode = regexp.MustCompile(`^[A-Z]{2,4}$`)

// Create makes a piece with its code and tag.
func (s *Service) Create(ctx context.Context, in NewPiece) (Piece, error) {
	for _, f := range []*string{&in.Production, &in.CharacterCode, &in.CharacterName, &in.Performer, &in.Name} {
		*f = strings.TrimSpace(*f)
	}
	in.CharacterCode = strings.ToUpper(in.CharacterCode)
	switch _, known := region.Find(in.Region); {
	case in.Production == "":
		return Piece{}, problem.Invalid("missing", "production", "Which production is it for?")
	case !characterCode.MatchString(in.CharacterCode):
		return Piece{}, problem.Invalid("invalid", "character_code", "A character's code is two to four capitals, for example BF.")
	case in.Name == "":
		return Piece{}, problem.Invalid("missing", "name", "What is the piece called?")
	case !known:
		return Piece{}, problem.Invalid("unknown_value", "region", "Choose where it is worn.")
	}
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		character, err := s.character(ctx, tx, in)
		if err != nil {
			return err
		}
		number, err := s.number(ctx, tx, character, in)
		if err != nil {
			return err
		}
		code = fmt.Sprintf("%s-%02d", in.CharacterCode, number)
		if in.Side != "" {
			code += "-" + in.Side
		}
		now := s.Clock.Now()
		res, err := tx.ExecContext(ctx, `INSERT INTO piece (character_id, number, side, code, name, region, copies_wanted, created_at) VALUES (?,?,?,?,?,?,?,?)`,
			character, number, in.Side, code, in.Name, in.Region, in.CopiesWanted, now)
		if err != nil {
			return fmt.Errorf("making the piece: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: uint64(id), Kind: "piece", Code: code, Act: "begun", Words: in.Name})
		return err
	})
	if err != nil {
		return Piece{}, err
	}
	s.Live.Tell(ctx, "pieces", code)
	return Find(ctx, s.DB, code)
}

// number is the piece's number within its character. The two sides of a pair
// share one: NM-01-L and NM-01-R.
func (s *Service) number(ctx context.Context, tx database.Tx, character uint64, in NewPiece) (int64, error) {
	if in.Side != "" {
		var n int64
		err := tx.GetContext(ctx, &n, `SELECT a.number FROM piece a WHERE a.character_id = ? AND a.region = ? AND a.name = ? AND a.side NOT IN ('', ?)
			AND NOT EXISTS (SELECT 1 FROM piece b WHERE b.character_id = a.character_id AND b.number = a.number AND b.side = ?) ORDER BY a.number LIMIT 1`,
			character, in.Region, in.Name, in.Side, in.Side)
		if !errors.Is(err, sql.ErrNoRows) {
			return n, err
		}
	}
	return database.NextNumber(ctx, tx, "piece "+in.CharacterCode)
}

func (s *Service) character(ctx context.Context, tx database.Tx, in NewPiece) (uint64, error) {
	production, err := findOrMake(ctx, tx, "production", in.Production)
	if err != nil {
		return 0, err
	}
	var performer uint64
	if in.Performer != "" {
		if performer, err = findOrMake(ctx, tx, "performer", in.Performer); err != nil {
			return 0, err
		}
	}
	var have struct {
		ID          uint64
		Production  uint64        `db:"production_id"`
		PerformerID sql.NullInt64 `db:"performer_id"`
	}
	err = tx.GetContext(ctx, &have, "SELECT id, production_id, performer_id FROM `character` WHERE code = ?", in.CharacterCode)
	if errors.Is(err, sql.ErrNoRows) {
		if in.CharacterName == "" {
			return 0, problem.Invalid("missing", "character_name", "There is no character %s yet. What is the character called?", in.CharacterCode)
		}
		res, err := tx.ExecContext(ctx, "INSERT INTO `character` (production_id, code, name, performer_id) VALUES (?,?,?,NULLIF(?,0))", production, in.CharacterCode, in.CharacterName, performer)
		if err != nil {
			return 0, fmt.Errorf("making the character: %w", err)
		}
		id, err := res.LastInsertId()
		return uint64(id), err
	}
	if err != nil {
		return 0, err
	}
	if have.Production != production {
		return 0, problem.Invalid("taken", "character_code", "%s is a character of another production.", in.CharacterCode)
	}
	if performer != 0 && have.PerformerID.Valid && uint64(have.PerformerID.Int64) != performer {
		return 0, problem.Invalid("contradiction", "performer", "%s is already played by somebody else.", in.CharacterCode)
	}
	if performer != 0 && !have.PerformerID.Valid {
		_, err = tx.ExecContext(ctx, "UPDATE `character` SET performer_id = ? WHERE id = ?", performer, have.ID)
	}
	return have.ID, err
}

// findOrMake returns the id of a production or performer with this name.
func findOrMake(ctx context.Context, tx database.Tx, table, name string) (uint64, error) {
	res, err := tx.ExecContext(ctx, "INSERT INTO "+table+" (name) VALUES (?) ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id)", name)
	if err != nil {
		return 0, fmt.Errorf("finding the %s: %w", table, err)
	}
	id, err := res.LastInsertId()
	return uint64(id), err
}
