package colour

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Shot is how a look stood on a day.
type Shot struct {
	Look    uint64    `db:"look_id" json:"-"`
	Day     time.Time `db:"day" json:"day"`
	Place   string    `db:"place" json:"place"`
	Light   string    `db:"light" json:"light"`
	Picture string    `db:"sha256" json:"picture"`
	Note    string    `db:"note" json:"note"`
	By      string    `db:"by_name" json:"by"`
	At      time.Time `db:"at" json:"at"`
}

// shots reads the continuity of a character's looks, the newest day first; index
// continuity_look.
func shots(ctx context.Context, db database.Reader, character string) ([]Shot, error) {
	list := []Shot{}
	err := db.SelectContext(ctx, &list, "SELECT c.look_id, d.day, d.place, d.light, f.sha256, c.note, p.name AS by_name, c.at FROM `character` h JOIN look l ON l.character_id = h.id JOIN continuity c ON c.look_id = l.id JOIN shooting_day d ON d.id = c.day_id JOIN file f ON f.id = c.file_id JOIN person p ON p.id = c.person_id WHERE h.code = ? ORDER BY d.day DESC, c.id DESC", character)
	if err != nil {
		return nil, fmt.Errorf("reading the continuity: %w", err)
	}
	return list, nil
}

// Photograph keeps a picture of a swatch.
func (s *Service) Photograph(ctx context.Context, id uint64, from io.Reader) (Swatch, error) {
	if _, err := swatchAt(ctx, s.DB, id); err != nil {
		return Swatch{}, err // before a picture is taken apart for nothing
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return Swatch{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		w, err := swatchAt(ctx, tx, id)
		if err != nil {
			return err
		}
		f, err := s.Files.Record(ctx, tx, taken, s.Clock.Now(), who.ID)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE swatch SET file_id = ? WHERE id = ?`, f.ID, id); err != nil {
			return fmt.Errorf("keeping the picture: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "swatch", Code: fmt.Sprint(id),
			Act: "swatch photographed", Words: w.Name})
		return err
	})
	if err != nil {
		return Swatch{}, err
	}
	s.Live.Tell(ctx, "colours", "")
	return swatchAt(ctx, s.DB, id)
}

// Shoot keeps how a look stood on a day.
func (s *Service) Shoot(ctx context.Context, look, day uint64, note string, from io.Reader) (Palette, error) {
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return Palette{}, err
	}
	if note = strings.TrimSpace(note); len(note) > 200 {
		return Palette{}, problem.Invalid("too_long", "note", "At most 200 letters.")
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		f, err := s.Files.Record(ctx, tx, taken, s.Clock.Now(), who.ID)
		if err != nil {
			return err
		}
		// A day of the look's own production.
		done, err := database.Changed(tx.ExecContext(ctx, "INSERT INTO continuity (look_id, day_id, file_id, note, at, person_id) SELECT l.id, d.id, ?, ?, ?, ? FROM look l JOIN `character` h ON h.id = l.character_id JOIN shooting_day d ON d.production_id = h.production_id WHERE l.id = ? AND d.id = ?", f.ID, note, s.Clock.Now(), who.ID, look, day))
		if err != nil {
			return fmt.Errorf("keeping the continuity: %w", err)
		}
		if !done {
			return problem.Invalid("unknown_value", "day", "Choose the day on which it stood like that.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "look", Code: fmt.Sprint(look), Act: "continuity",
			Words: note})
		return err
	})
	if err != nil {
		return Palette{}, err
	}
	s.Live.Tell(ctx, "colours", "")
	return s.paletteOf(ctx, s.DB, look)
}
