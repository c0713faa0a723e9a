package piece

import (
	"context"
	"fmt"
	"strings"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Correction puts right what a piece was begun with.
type Correction struct {
	Name         string `json:"name" minLength:"1" maxLength:"120"`
	Region       string `json:"region" maxLength:"32"`
	Side         string `json:"side" enum:",L,R"`
	CopiesWanted int    `json:"copies_wanted" minimum:"1" maximum:"200"`
	Performer    string `json:"performer" maxLength:"120" doc:"of the whole character"`
	Production   string `json:"production" minLength:"1" maxLength:"120" doc:"of the whole character"`
}

// Correct puts a piece right, each thing until something depends on it: name and
// copies always; region and side until something was made for it; performer and
// production of its character until a copy left or a day was chosen. The record
// keeps what was.
func (s *Service) Correct(ctx context.Context, code string, in Correction) (View, error) {
	for _, f := range []*string{&in.Name, &in.Performer, &in.Production} {
		*f = strings.TrimSpace(*f)
	}
	if _, known := region.Find(in.Region); !known {
		return View{}, problem.Invalid("unknown_value", "region", "Choose where it is worn.")
	}
	if in.Name == "" {
		return View{}, problem.Invalid("missing", "name", "What is the piece called?")
	}
	if in.Production == "" {
		return View{}, problem.Invalid("missing", "production", "Which production is it for?")
	}
	now := code
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM piece WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		var changes []string
		note := func(what, was, is string) {
			if was != is {
				changes = append(changes, fmt.Sprintf("%s: %s, was %s", what, orNone(is), orNone(was)))
			}
		}
		note("name", p.Name, in.Name)
		note("copies wanted", fmt.Sprint(p.CopiesWanted), fmt.Sprint(in.CopiesWanted))
		note("region", p.Region, in.Region)
		note("side", p.Side, in.Side)
		if p.Region != in.Region || p.Side != in.Side {
			if now, err = s.moveTo(ctx, tx, p, in); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE piece SET name = ?, region = ?, side = ?, code = ?, copies_wanted = ? WHERE id = ?`, in.Name, in.Region, in.Side, now, in.CopiesWanted, p.ID); err != nil {
			if database.IsDuplicate(err) {
				return problem.Invalid("taken", "side", "There is a piece %s already.", now)
			}
			return fmt.Errorf("correcting the piece: %w", err)
		}
		was := ""
		if p.Performer != nil {
			was = *p.Performer
		}
		note("performer", was, in.Performer)
		note("production", p.Production, in.Production)
		if err := s.recast(ctx, tx, p, was, in); err != nil {
			return err
		}
		if len(changes) == 0 {
			return nil
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: now, Act: "corrected", Words: strings.Join(changes, "; ")})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "pieces", code)
	s.Live.Tell(ctx, "brief", now)
	s.Live.Tell(ctx, "section", "")
	return s.View(ctx, now)
}

func orNone(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// moveTo says whether a piece can still be for another place or side, and its
// code there.
func (s *Service) moveTo(ctx context.Context, tx database.Tx, p Piece, in Correction) (string, error) {
	var made string
	if err := tx.GetContext(ctx, &made, `SELECT CONCAT_WS(', ', (SELECT GROUP_CONCAT(code ORDER BY code SEPARATOR ', ') FROM mould WHERE piece_id = ?), (SELECT GROUP_CONCAT(code ORDER BY code SEPARATOR ', ') FROM mix WHERE piece_id = ?), (SELECT GROUP_CONCAT(code ORDER BY code SEPARATOR ', ') FROM run WHERE piece_id = ?), (SELECT GROUP_CONCAT(name SEPARATOR ', ') FROM scan WHERE piece_id = ?))`, p.ID, p.ID, p.ID, p.ID); err != nil {
		return "", err
	}
	if made != "" {
		field := "region"
		if p.Region == in.Region {
			field = "side"
		}
		return "", problem.Invalid("depends", field, "%s hangs on where it is worn: begin another piece for the other place.", made)
	}
	if p.Side == in.Side {
		return p.Code, nil
	}
	base := strings.TrimSuffix(strings.TrimSuffix(p.Code, "-L"), "-R")
	if in.Side != "" {
		base += "-" + in.Side
	}
	return base, nil
}

// recast gives the character of a piece another performer or production, as long
// as nothing hangs on it.
func (s *Service) recast(ctx context.Context, tx database.Tx, p Piece, was string, in Correction) error {
	if was != in.Performer {
		var left string
		if err := tx.GetContext(ctx, &left, "SELECT COALESCE(GROUP_CONCAT(c.code ORDER BY c.code SEPARATOR ', '), '') FROM copy c JOIN piece q ON q.id = c.piece_id JOIN `character` ch ON ch.id = q.character_id WHERE ch.code = ? AND c.state IN ('packed','handed_over')", p.CharacterCode); err != nil {
			return err
		}
		if left != "" {
			return problem.Invalid("depends", "performer", "%s is packed or handed over for %s: it was made and asked about for that skin.", left, orNone(was))
		}
		var performer uint64
		if in.Performer != "" {
			var err error
			if performer, err = findOrMake(ctx, tx, "performer", in.Performer); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, "UPDATE `character` SET performer_id = NULLIF(?,0) WHERE code = ?", performer, p.CharacterCode); err != nil {
			return err
		}
	}
	if p.Production == in.Production {
		return nil
	}
	var on string
	if err := tx.GetContext(ctx, &on, "SELECT COALESCE(GROUP_CONCAT(DISTINCT q.code ORDER BY q.code SEPARATOR ', '), '') FROM piece_day d JOIN piece q ON q.id = d.piece_id JOIN `character` ch ON ch.id = q.character_id WHERE ch.code = ?", p.CharacterCode); err != nil {
		return err
	}
	if on != "" {
		return problem.Invalid("depends", "production", "%s is worn on days of %s: take the days off first.", on, p.Production)
	}
	production, err := findOrMake(ctx, tx, "production", in.Production)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, "UPDATE `character` SET production_id = ? WHERE code = ?", production, p.CharacterCode)
	return err
}
