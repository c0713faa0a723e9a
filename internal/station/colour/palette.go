package colour

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Palette is the colours that the parts of a look share.
type Palette struct {
	Look      uint64          `json:"look"`
	Name      string          `json:"name" doc:"of the look"`
	Character string          `json:"character"`
	Pieces    []string        `json:"pieces" doc:"worn in it"`
	Colours   []PaletteColour `json:"colours"`
	Shots     []Shot          `json:"shots" doc:"how it stood on its days, the newest first"`
	Version   int             `json:"version"`
	At        *time.Time      `json:"at,omitempty"`
	By        string          `json:"by,omitempty"`
}

// PaletteColour is one colour that several parts are to match.
type PaletteColour struct {
	Name   string        `json:"name" minLength:"1" maxLength:"60"`
	Lab    colour.Lab    `json:"lab"`
	Swatch uint64        `json:"swatch,omitempty" maximum:"9007199254740991"`
	Note   string        `json:"note,omitempty" maxLength:"200"`
	Parts  []PalettePart `json:"parts" maxItems:"20"`
	Spread float64       `json:"spread" doc:"ΔE00 of the two parts that differ most"`
	Apart  string        `json:"apart,omitempty" doc:"which two those are"`
}

// PalettePart is where a colour is, and what it reads there.
type PalettePart struct {
	What    string      `json:"what" minLength:"1" maxLength:"60" doc:"a piece by its code, or hair, hands, headdress, costume, body"`
	Lab     *colour.Lab `json:"lab,omitempty" doc:"as it was read there; empty while nobody read it"`
	Matches string      `json:"matches,omitempty" maxLength:"60" doc:"whom it follows"`
	Off     *float64    `json:"off,omitempty" doc:"ΔE00 from the palette's colour"`
}

type paletteRow struct {
	Look      uint64
	Name      string
	Character string
	Pieces    *string
	Doc       *string
	Version   *int
	At        *time.Time
	By        *string
}

const paletteColumns = "SELECT l.id AS look, l.name, h.code AS `character`, (SELECT GROUP_CONCAT(q.code ORDER BY q.code) FROM look_piece x JOIN piece q ON q.id = x.piece_id WHERE x.look_id = l.id) AS pieces, t.doc, t.version, t.at, p.name AS `by` FROM look l JOIN `character` h ON h.id = l.character_id LEFT JOIN palette t ON t.look_id = l.id LEFT JOIN person p ON p.id = t.person_id "

func (r paletteRow) palette() (Palette, error) {
	out := Palette{Look: r.Look, Name: r.Name, Character: r.Character, Pieces: []string{}, Colours: []PaletteColour{},
		Shots: []Shot{}, At: r.At}
	if r.Pieces != nil && *r.Pieces != "" {
		out.Pieces = strings.Split(*r.Pieces, ",")
	}
	if r.Doc == nil {
		return out, nil
	}
	if err := json.Unmarshal([]byte(*r.Doc), &out.Colours); err != nil {
		return out, fmt.Errorf("reading a palette: %w", err)
	}
	out.Version, out.By = *r.Version, *r.By
	for i := range out.Colours {
		out.Colours[i].judge()
	}
	return out, nil
}

// judge says how far the parts are from their colour and from one another.
func (c *PaletteColour) judge() {
	c.Spread, c.Apart = 0, ""
	for i := range c.Parts {
		p := &c.Parts[i]
		p.Off = nil
		if p.Lab == nil {
			continue
		}
		off := colour.DE00(*p.Lab, c.Lab)
		p.Off = &off
		for _, o := range c.Parts[:i] {
			if o.Lab == nil {
				continue
			}
			if d := colour.DE00(*o.Lab, *p.Lab); d > c.Spread {
				c.Spread, c.Apart = d, o.What+" and "+p.What
			}
		}
	}
}

// Palettes are those of the looks that a piece is worn in.
func (s *Service) Palettes(ctx context.Context, code string) ([]Palette, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	var rows []paletteRow
	if err := s.DB.SelectContext(ctx, &rows, paletteColumns+"WHERE h.code = ? ORDER BY l.stage, l.name",
		p.CharacterCode); err != nil {
		return nil, fmt.Errorf("reading the palettes: %w", err)
	}
	all, err := shots(ctx, s.DB, p.CharacterCode)
	if err != nil {
		return nil, err
	}
	out := []Palette{}
	for _, r := range rows {
		one, err := r.palette()
		if err != nil {
			return nil, err
		}
		one.with(all)
		out = append(out, one)
	}
	return out, nil
}

// with takes those of the shots that are of its look.
func (p *Palette) with(all []Shot) {
	for _, x := range all {
		if x.Look == p.Look {
			p.Shots = append(p.Shots, x)
		}
	}
}

// paletteOf is the palette of one look.
func (s *Service) paletteOf(ctx context.Context, db database.Reader, look uint64) (Palette, error) {
	var row paletteRow
	if err := db.GetContext(ctx, &row, paletteColumns+`WHERE l.id = ?`, look); errors.Is(err, sql.ErrNoRows) {
		return Palette{}, problem.NotFound("look", fmt.Sprint(look))
	} else if err != nil {
		return Palette{}, fmt.Errorf("reading the palette: %w", err)
	}
	out, err := row.palette()
	if err != nil {
		return out, err
	}
	all, err := shots(ctx, db, row.Character)
	out.with(all)
	return out, err
}

// SetPalette writes the palette of a look. Whoever looked at an older one is told so.
func (s *Service) SetPalette(ctx context.Context, look uint64, colours []PaletteColour, version int) (Palette, error) {
	for i := range colours {
		c := &colours[i]
		c.Name = strings.TrimSpace(c.Name)
		if c.Name == "" {
			return Palette{}, problem.Invalid("missing", fmt.Sprintf("colours[%d].name", i), "Name the colour as you would ask for it.")
		}
		if err := possible(c.Lab, fmt.Sprintf("colours[%d].lab.", i)); err != nil {
			return Palette{}, err
		}
		for j, p := range c.Parts {
			if strings.TrimSpace(p.What) == "" {
				return Palette{}, problem.Invalid("missing", fmt.Sprintf("colours[%d].parts[%d].what", i, j),
					"Where is it? A piece, hair, hands, headdress.")
			}
			if p.Lab != nil {
				if err := possible(*p.Lab, fmt.Sprintf("colours[%d].parts[%d].lab.", i, j)); err != nil {
					return Palette{}, err
				}
			}
		}
		c.judge()
	}
	raw, err := json.Marshal(colours)
	if err != nil {
		return Palette{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var row paletteRow
		if err := tx.GetContext(ctx, &row, paletteColumns+`WHERE l.id = ? FOR UPDATE`, look); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("look", fmt.Sprint(look))
		} else if err != nil {
			return err
		}
		now := 0
		if row.Version != nil {
			now = *row.Version
		}
		if now != version {
			return problem.Conflict("changed", "Somebody changed this palette a moment ago. Look again; nothing was overwritten.")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO palette (look_id, doc, version, at, person_id) VALUES (?,?,1,?,?) ON DUPLICATE KEY UPDATE doc = VALUES(doc), version = version + 1, at = VALUES(at), person_id = VALUES(person_id)`, look, string(raw), s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the palette: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "look", Code: row.Character + " " + row.Name,
			Act: "palette", Words: fmt.Sprintf("%d colours", len(colours))})
		return err
	})
	if err != nil {
		return Palette{}, err
	}
	s.Live.Tell(ctx, "colours", "")
	return s.paletteOf(ctx, s.DB, look)
}

func possible(c colour.Lab, field string) error {
	if !(c.L >= 1 && c.L <= 99 && c.A >= -120 && c.A <= 120 && c.B >= -120 && c.B <= 120) {
		return problem.Invalid("out_of_range", field+"l", "No colour of a surface reads L %.0f a %.0f b %.0f.", c.L, c.A, c.B)
	}
	return nil
}
