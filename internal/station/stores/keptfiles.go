package stores

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// KeptFile is a picture or a PDF that is kept with a lot, a product or a recipe.
type KeptFile struct {
	ID        uint64    `db:"id" json:"id"`
	What      string    `db:"what" json:"what" enum:"label,data sheet,safety sheet,swatch"`
	Words     string    `db:"words" json:"words"`
	SHA256    string    `db:"sha256" json:"sha256"`
	MediaType string    `db:"media_type" json:"media_type"`
	At        time.Time `db:"added_at" json:"added_at"`
	Who       string    `db:"who" json:"who"`
}

// keeps says what is kept with what, in the order in which it is offered.
var keeps = map[string][]string{
	"lot":      {"label", "data sheet", "safety sheet"},
	"material": {"data sheet", "safety sheet"},
	"recipe":   {"swatch"},
}

// KeptWith is what files are kept with: a lot, a product or a recipe by its code.
type KeptWith struct {
	Of   string `query:"of" required:"true" enum:"lot,material,recipe"`
	Code string `query:"code" required:"true" maxLength:"80"`
}

// topic is whom a change of them is told.
func (k KeptWith) topic() string { return k.Of + "s" }

// column is where kept_file points to it, and with what.
func (k KeptWith) column(ctx context.Context, db database.Reader) (column string, key any, err error) {
	switch k.Of {
	case "lot":
		var ids []uint64
		// Parts that belong together have one label.
		if err := db.SelectContext(ctx, &ids, `SELECT id FROM lot WHERE code = ? ORDER BY part LIMIT 1`, k.Code); err != nil {
			return "", nil, fmt.Errorf("reading the lot: %w", err)
		}
		if len(ids) == 0 {
			return "", nil, problem.NotFound("lot", k.Code)
		}
		return "lot_id", ids[0], nil
	case "material":
		var ids []uint64
		if err := db.SelectContext(ctx, &ids, `SELECT id FROM material WHERE slug = ?`, k.Code); err != nil {
			return "", nil, fmt.Errorf("reading the product: %w", err)
		}
		if len(ids) == 0 {
			return "", nil, problem.NotFound("product", k.Code)
		}
		return "material_id", ids[0], nil
	case "recipe":
		materials, err := shelf.Load(ctx, db)
		if err != nil {
			return "", nil, err
		}
		if _, _, err := recipes.Agreed(ctx, db, k.Code, materials); err != nil {
			return "", nil, problem.NotFound("recipe", k.Code)
		}
		return "recipe_slug", k.Code, nil
	}
	return "", nil, problem.Invalid("unknown_value", "of", "Files are kept with a lot, a product or a recipe.")
}

// KeptFiles are the files that are kept with something, newest first.
func (s *Service) KeptFiles(ctx context.Context, with KeptWith) ([]KeptFile, error) {
	column, key, err := with.column(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	list := []KeptFile{}
	// By the index of the column.
	err = s.DB.SelectContext(ctx, &list, `SELECT k.id, k.what, k.words, f.sha256, f.media_type, k.added_at, p.name AS who
		FROM kept_file k JOIN file f ON f.id = k.file_id JOIN person p ON p.id = k.added_by WHERE k.`+column+` = ? AND k.dropped_at IS NULL ORDER BY k.id DESC LIMIT 60`, key)
	if err != nil {
		return nil, fmt.Errorf("reading the kept files: %w", err)
	}
	return list, nil
}

const pdf = "application/pdf"

// KeepFile keeps a picture or a PDF with something.
func (s *Service) KeepFile(ctx context.Context, with KeptWith, what, words string, from io.Reader) ([]KeptFile, error) {
	words = strings.TrimSpace(words)
	column, key, err := with.column(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	if !slices.Contains(keeps[with.Of], what) {
		return nil, problem.Invalid("unknown_value", "what", "Say what it is: %s.", strings.Join(keeps[with.Of], ", "))
	}
	if len([]rune(words)) > 200 {
		return nil, problem.Invalid("out_of_range", "words", "At most 200 characters.")
	}
	taken, err := s.fileOf(ctx, from)
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		f, err := s.Files.Record(ctx, tx, taken, now, who.ID)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO kept_file (`+column+`, what, words, file_id, added_at, added_by) VALUES (?,?,?,?,?,?)`, key, what, words, f.ID, now, who.ID); err != nil {
			return fmt.Errorf("keeping the file: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: with.Of, Code: with.Code, Act: what + " kept", Words: words})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, with.topic(), with.Code)
	return s.KeptFiles(ctx, with)
}

// fileOf takes a picture in as every picture, and a PDF as it is.
func (s *Service) fileOf(ctx context.Context, from io.Reader) (files.Prepared, error) {
	body := bufio.NewReader(from)
	// An upload that is shorter is no PDF either.
	if head, _ := body.Peek(5); bytes.Equal(head, []byte("%PDF-")) {
		return s.Files.PutAs(ctx, body, pdf)
	}
	return s.Files.Prepare(ctx, body)
}

// LetGo takes a file away from what it was kept with. The file stays in the record.
func (s *Service) LetGo(ctx context.Context, with KeptWith, id uint64) ([]KeptFile, error) {
	column, key, err := with.column(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		changed, err := database.Changed(tx.ExecContext(ctx,
			`UPDATE kept_file SET dropped_at = ? WHERE id = ? AND `+column+` = ? AND dropped_at IS NULL`, now, id, key))
		if err != nil {
			return fmt.Errorf("letting the file go: %w", err)
		}
		if !changed {
			return problem.NotFound("file", fmt.Sprint(id))
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: with.Of, Code: with.Code, Act: "file let go"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, with.topic(), with.Code)
	return s.KeptFiles(ctx, with)
}
