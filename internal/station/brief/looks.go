package brief

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Look is one state of a character.
type Look struct {
	ID        uint64         `db:"id" json:"id"`
	Code      string         `db:"-" json:"code" doc:"BF·hurt"`
	Name      string         `db:"name" json:"name"`
	Stage     int            `db:"stage" json:"stage" doc:"its place in the order of the stages, 1 first"`
	LeftHalf  string         `db:"left_half" json:"left_half" doc:"what the wearer's left half becomes; empty when both are one"`
	RightHalf string         `db:"right_half" json:"right_half"`
	Note      string         `db:"note" json:"note" doc:"how it goes over from the stage before"`
	Version   int            `db:"version" json:"version"`
	Pieces    []string       `db:"-" json:"pieces"`
	Marks     []wearmap.Mark `db:"-" json:"marks" doc:"what covers, edges that move, the border of the halves"`
	RawMarks  string         `db:"marks" json:"-"`
	Shared    []string       `db:"-" json:"shared" doc:"pieces that another look wears too"`
}

// looksOf reads the looks of a character in the order of their stages.
func (s *Service) looksOf(ctx context.Context, db database.Reader, character string) ([]Look, error) {
	list := []Look{}
	if err := db.SelectContext(ctx, &list, "SELECT l.id, l.name, l.stage, l.left_half, l.right_half, l.note, l.version, l.marks FROM look l JOIN `character` c ON c.id = l.character_id WHERE c.code = ? ORDER BY l.stage, l.name", character); err != nil {
		return nil, fmt.Errorf("reading the looks: %w", err)
	}
	worn := map[string]int{}
	for i := range list {
		l := &list[i]
		l.Code = character + "·" + l.Name
		l.Pieces, l.Shared = []string{}, []string{}
		if err := db.SelectContext(ctx, &l.Pieces, `SELECT q.code FROM look_piece lp JOIN piece q ON q.id = lp.piece_id WHERE lp.look_id = ? ORDER BY q.code`, l.ID); err != nil {
			return nil, err
		}
		for _, code := range l.Pieces {
			worn[code]++
		}
		var err error
		if l.Marks, err = marksOf(l.RawMarks); err != nil {
			return nil, err
		}
	}
	for i := range list {
		for _, code := range list[i].Pieces {
			if worn[code] > 1 {
				list[i].Shared = append(list[i].Shared, code)
			}
		}
	}
	return list, nil
}

// NewLook is a look as it is written down.
type NewLook struct {
	Name      string         `json:"name" maxLength:"24"`
	Stage     int            `json:"stage" minimum:"1" maximum:"99"`
	LeftHalf  string         `json:"left_half" maxLength:"200"`
	RightHalf string         `json:"right_half" maxLength:"200"`
	Note      string         `json:"note" maxLength:"500"`
	Pieces    []string       `json:"pieces" maxItems:"60"`
	Marks     []wearmap.Mark `json:"marks"`
	// Version is the one that was seen; 0 makes a new look.
	Version int `json:"version"`
}

var lookName = regexp.MustCompile(`^[a-z][a-z0-9 -]*$`)

// SetLook writes a look down: a new one, or a change of the one with this name
// unless somebody else changed it meanwhile.
func (s *Service) SetLook(ctx context.Context, character string, in NewLook) ([]Look, error) {
	in.Name = strings.ToLower(strings.TrimSpace(in.Name))
	pieces, err := piece.OfCharacter(ctx, s.DB, character)
	if err != nil {
		return nil, err
	}
	if len(pieces) == 0 {
		return nil, problem.NotFound("character", character)
	}
	if !lookName.MatchString(in.Name) {
		return nil, problem.Invalid("invalid", "name", "A look's name is a small word, for example intact, hurt, older.")
	}
	sheets, err := s.People.SheetsOf(ctx, s.DB, pieces[0].PerformerID)
	if err != nil {
		return nil, err
	}
	if err := wearmap.Check("look", in.Marks, sheets); err != nil {
		return nil, err
	}
	if in.Marks == nil {
		in.Marks = []wearmap.Mark{}
	}
	raw, err := json.Marshal(in.Marks)
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var characterID uint64
		if err := tx.GetContext(ctx, &characterID, "SELECT id FROM `character` WHERE code = ? FOR UPDATE", character); err != nil {
			return err
		}
		before, err := s.looksOf(ctx, tx, character)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(before, func(l Look) bool { return l.Name == in.Name })
		switch {
		case at >= 0 && in.Version == 0:
			return problem.Invalid("taken", "name", "%s has a look of that name already.", character)
		case at < 0 && in.Version != 0, at >= 0 && before[at].Version != in.Version:
			return problem.Conflict("changed", "Somebody changed %s·%s a moment ago. Yours is still on the screen; nothing was overwritten.", character, in.Name)
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO look (character_id, name, stage, left_half, right_half, note, marks, version) VALUES (?,?,?,?,?,?,?,1)
			ON DUPLICATE KEY UPDATE stage = VALUES(stage), left_half = VALUES(left_half), right_half = VALUES(right_half), note = VALUES(note), marks = VALUES(marks), version = version + 1`,
			characterID, in.Name, in.Stage, in.LeftHalf, in.RightHalf, in.Note, string(raw)); err != nil {
			return fmt.Errorf("writing the look: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `DELETE lp FROM look_piece lp JOIN look l ON l.id = lp.look_id WHERE l.character_id = ? AND l.name = ?`, characterID, in.Name); err != nil {
			return err
		}
		for i, code := range in.Pieces {
			at := slices.IndexFunc(pieces, func(p piece.Piece) bool { return p.Code == code })
			if at < 0 {
				return problem.Invalid("unknown_value", fmt.Sprintf("pieces[%d]", i), "%s is no piece of %s.", code, character)
			}
			if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO look_piece (look_id, piece_id) SELECT id, ? FROM look WHERE character_id = ? AND name = ?`, pieces[at].ID, characterID, in.Name); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "look", Code: character + "·" + in.Name, Act: map[bool]string{true: "begun", false: "changed"}[in.Version == 0], Words: strings.Join(in.Pieces, ", ")})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "brief", character)
	return s.looksOf(ctx, s.DB, character)
}

// Character is everything that is known of one role.
type Character struct {
	Code       string        `json:"code"`
	Name       string        `json:"name"`
	Production string        `json:"production"`
	Performer  *string       `json:"performer,omitempty"`
	Wearer     uint64        `json:"performer_id" doc:"0 for nobody yet"`
	Pieces     []piece.Piece `json:"pieces"`
	Looks      []Look        `json:"looks"`
	// Wanted are stages and pieces that do not add up yet, in words.
	Wanted []string `json:"wanted"`
}

// Character reads one with its looks.
func (s *Service) Character(ctx context.Context, code string) (Character, error) {
	pieces, err := piece.OfCharacter(ctx, s.DB, code)
	if err != nil {
		return Character{}, err
	}
	if len(pieces) == 0 {
		return Character{}, problem.NotFound("character", code)
	}
	p := pieces[0]
	c := Character{Code: code, Name: p.CharacterName, Production: p.Production, Performer: p.Performer, Pieces: pieces, Wanted: []string{}}
	if p.PerformerID != nil {
		c.Wearer = *p.PerformerID
	}
	if c.Looks, err = s.looksOf(ctx, s.DB, code); err != nil {
		return c, err
	}
	for _, l := range c.Looks {
		if (l.LeftHalf == "") != (l.RightHalf == "") {
			c.Wanted = append(c.Wanted, fmt.Sprintf("%s says what one half becomes and not the other", l.Code))
		}
		if l.LeftHalf != "" && !slices.ContainsFunc(l.Marks, func(m wearmap.Mark) bool { return m.Kind == "border" }) {
			c.Wanted = append(c.Wanted, fmt.Sprintf("%s has two halves and no border on the map yet: draw where they meet", l.Code))
		}
		if len(l.Pieces) == 0 {
			c.Wanted = append(c.Wanted, l.Code+" wears no piece yet")
		}
	}
	if len(c.Looks) > 0 {
		for _, p := range pieces {
			if !slices.ContainsFunc(c.Looks, func(l Look) bool { return slices.Contains(l.Pieces, p.Code) }) {
				c.Wanted = append(c.Wanted, p.Code+" belongs to no look yet")
			}
		}
	}
	return c, nil
}

// DropLook removes a look; its pieces stay.
func (s *Service) DropLook(ctx context.Context, character, name string) ([]Look, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		changed, err := database.Changed(tx.ExecContext(ctx, "DELETE l FROM look l JOIN `character` c ON c.id = l.character_id WHERE c.code = ? AND l.name = ?", character, name))
		if err != nil {
			return err
		}
		if !changed {
			return problem.NotFound("look", character+"·"+name)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "look", Code: character + "·" + name, Act: "dropped"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "brief", character)
	return s.looksOf(ctx, s.DB, character)
}
