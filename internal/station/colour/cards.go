package colour

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Card is how colour is put on so that it looks like something: its tool, held how, loaded
// with how much, tried on a swatch.
type Card struct {
	ID         uint64    `db:"id" json:"id"`
	Name       string    `db:"name" json:"name"`
	Tool       string    `db:"tool" json:"tool"`
	WidthMM    *float64  `db:"width_mm" json:"width_mm,omitempty"`
	DistanceMM *float64  `db:"distance_mm" json:"distance_mm,omitempty"`
	Dilution   *float64  `db:"dilution" json:"dilution,omitempty"`
	FilmMM     *float64  `db:"film_mm" json:"film_mm,omitempty"`
	Coverage   *float64  `db:"coverage" json:"coverage,omitempty"`
	Load       string    `db:"load_words" json:"load"`
	Instead    string    `db:"instead" json:"instead" doc:"what else does it"`
	Swatch     *uint64   `db:"swatch_id" json:"swatch,omitempty"`
	Tried      *string   `db:"swatch_name" json:"tried_on,omitempty"`
	Note       string    `db:"note" json:"note"`
	At         time.Time `db:"at" json:"at"`
	By         string    `db:"by_name" json:"by"`
}

// Cards are the shop's, by name.
func (s *Service) Cards(ctx context.Context) ([]Card, error) {
	list := []Card{}
	err := s.DB.SelectContext(ctx, &list, `SELECT c.id, c.name, c.tool, c.width_mm, c.distance_mm, c.dilution, c.film_mm, c.coverage, c.load_words, c.instead, c.swatch_id, w.name AS swatch_name, c.note, c.at, p.name AS by_name
		FROM technique_card c JOIN person p ON p.id = c.person_id LEFT JOIN swatch w ON w.id = c.swatch_id ORDER BY c.name`)
	if err != nil {
		return nil, fmt.Errorf("reading the cards: %w", err)
	}
	return list, nil
}

// NewCard is a card as it is written.
type NewCard struct {
	Name       string   `json:"name" minLength:"1" maxLength:"40"`
	Tool       string   `json:"tool" enum:"brush,sponge,stipple,spatter,airbrush,wash,dry_brush,finger"`
	WidthMM    *float64 `json:"width_mm,omitempty" minimum:"0" maximum:"500"`
	DistanceMM *float64 `json:"distance_mm,omitempty" minimum:"0" maximum:"1000"`
	Dilution   *float64 `json:"dilution,omitempty" minimum:"0" maximum:"50"`
	FilmMM     *float64 `json:"film_mm,omitempty" minimum:"0" maximum:"1"`
	Coverage   *float64 `json:"coverage,omitempty" minimum:"0" maximum:"1"`
	Load       string   `json:"load,omitempty" maxLength:"120"`
	Instead    string   `json:"instead,omitempty" maxLength:"160"`
	Swatch     uint64   `json:"swatch,omitempty" maximum:"9007199254740991" doc:"the swatch that it was tried on"`
	Note       string   `json:"note,omitempty" maxLength:"300"`
}

// SetCard writes a card, or writes the one of its name anew.
func (s *Service) SetCard(ctx context.Context, in NewCard) ([]Card, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return nil, problem.Invalid("missing", "name", "What does it look like? Pores, fleck, broken veins.")
	}
	if _, known := paintwork.ToolOf(in.Tool); !known {
		return nil, problem.Invalid("unknown_value", "tool", "Choose what it is done with.")
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var swatch any
		if in.Swatch > 0 {
			w, err := swatchAt(ctx, tx, in.Swatch)
			if err != nil {
				return problem.Invalid("unknown_value", "swatch", "Choose the swatch that it was tried on.")
			}
			swatch = w.ID
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO technique_card (name, tool, width_mm, distance_mm, dilution, film_mm, coverage, load_words, instead, swatch_id, note, at, person_id) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?)
			ON DUPLICATE KEY UPDATE tool = VALUES(tool), width_mm = VALUES(width_mm), distance_mm = VALUES(distance_mm), dilution = VALUES(dilution), film_mm = VALUES(film_mm), coverage = VALUES(coverage),
			load_words = VALUES(load_words), instead = VALUES(instead), swatch_id = VALUES(swatch_id), note = VALUES(note), at = VALUES(at), person_id = VALUES(person_id)`,
			in.Name, in.Tool, in.WidthMM, in.DistanceMM, in.Dilution, in.FilmMM, in.Coverage, in.Load, in.Instead, swatch, in.Note, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the card: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "technique card", Code: in.Name, Act: "card written",
			Words: in.Tool})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "colours", "")
	return s.Cards(ctx)
}
