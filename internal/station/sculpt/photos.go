package sculpt

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"image/png"
	"io"
	"strings"
	"time"

	"yewmoor/internal/craft/texture"
	"yewmoor/internal/journal"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Photo is a photograph of the real sculpt.
type Photo struct {
	ID      uint64    `db:"id" json:"id"`
	SHA256  string    `db:"sha256" json:"sha256"`
	Caption string    `db:"caption" json:"caption"`
	Painted bool      `db:"painted" json:"painted"`
	At      time.Time `db:"added_at" json:"added_at"`
	Who     string    `db:"who" json:"who"`
	Spots   []Spot    `db:"-" json:"spots"`
}

// Spot is what was seen at a place of a photograph.
type Spot struct {
	ID        uint64     `db:"id" json:"id"`
	PhotoID   uint64     `db:"photo_id" json:"-"`
	Kind      string     `db:"kind" json:"kind" enum:"thin,gap,lost line,note"`
	X         float64    `db:"x" json:"x" doc:"share of the width"`
	Y         float64    `db:"y" json:"y" doc:"share of the height, from the top"`
	Words     string     `db:"words" json:"words"`
	Who       string     `db:"who" json:"who"`
	SettledAt *time.Time `db:"settled_at" json:"settled_at,omitempty"`
}

// NewSpot is a spot as it is marked.
type NewSpot struct {
	Kind  string  `json:"kind" enum:"thin,gap,lost line,note"`
	X     float64 `json:"x" minimum:"0" maximum:"1"`
	Y     float64 `json:"y" minimum:"0" maximum:"1"`
	Words string  `json:"words,omitempty" maxLength:"200"`
}

// Photos lists the photographs of a sculpt, newest first.
func (s *Service) Photos(ctx context.Context, code string) ([]Photo, error) {
	list := []Photo{}
	// Indexes sculpt_photo_piece and sculpt_spot_photo.
	if err := s.DB.SelectContext(ctx, &list, `SELECT f.id, d.sha256, f.caption, f.painted, f.added_at, p.name AS who FROM sculpt_photo f JOIN file d ON d.id = f.file_id JOIN person p ON p.id = f.added_by JOIN piece q ON q.id = f.piece_id WHERE q.code = ? ORDER BY f.id DESC LIMIT 60`, code); err != nil {
		return nil, err
	}
	var spots []Spot
	if err := s.DB.SelectContext(ctx, &spots, `SELECT o.id, o.photo_id, o.kind, o.x, o.y, o.words, p.name AS who, o.settled_at FROM sculpt_spot o JOIN sculpt_photo f ON f.id = o.photo_id JOIN piece q ON q.id = f.piece_id JOIN person p ON p.id = o.person_id WHERE q.code = ? ORDER BY o.id`, code); err != nil {
		return nil, err
	}
	for i := range list {
		list[i].Spots = []Spot{}
		for _, o := range spots {
			if o.PhotoID == list[i].ID {
				list[i].Spots = append(list[i].Spots, o)
			}
		}
	}
	return list, nil
}

// Photograph keeps a photograph of the sculpt.
func (s *Service) Photograph(ctx context.Context, code, caption string, painted bool, from io.Reader) ([]Photo, error) {
	caption = strings.TrimSpace(caption)
	if caption == "" {
		return nil, problem.Invalid("missing", "caption", "Say in a word what the photograph shows.")
	}
	if len(caption) > 200 {
		return nil, problem.Invalid("too_long", "caption", "Two hundred letters are the most.")
	}
	if _, err := piece.Find(ctx, s.DB, code); err != nil {
		return nil, err
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return nil, err
	}
	_, err = s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		f, err := s.Files.Record(ctx, tx, taken, now, person)
		if err != nil {
			return "", "", err
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO sculpt_photo (piece_id, file_id, caption, painted, added_at, added_by) VALUES (?,?,?,?,?,?)`, p.ID, f.ID, caption, painted, now, person)
		return "photographed", caption, err
	})
	if err != nil {
		return nil, err
	}
	return s.Photos(ctx, code)
}

type photoRow struct {
	Code    string
	PieceID uint64 `db:"piece_id"`
}

// MarkSpot marks a thin spot, a gap or a lost line on a photograph.
func (s *Service) MarkSpot(ctx context.Context, photo uint64, in NewSpot) ([]Photo, error) {
	who, _ := accounts.From(ctx)
	var at photoRow
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		err := tx.GetContext(ctx, &at, `SELECT q.code, f.piece_id FROM sculpt_photo f JOIN piece q ON q.id = f.piece_id WHERE f.id = ?`, photo)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("photograph", fmt.Sprint(photo))
		}
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO sculpt_spot (photo_id, kind, x, y, words, at, person_id) VALUES (?,?,?,?,?,?,?)`, photo, in.Kind, in.X, in.Y, in.Words, now, who.ID); err != nil {
			return fmt.Errorf("marking the spot: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: at.PieceID, Kind: "sculpt", Code: at.Code, Act: "spot marked", Words: strings.TrimSpace(in.Kind + " " + in.Words)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "texture", at.Code)
	return s.Photos(ctx, at.Code)
}

// SettleSpot says that a spot was put right.
func (s *Service) SettleSpot(ctx context.Context, id uint64) ([]Photo, error) {
	who, _ := accounts.From(ctx)
	var at photoRow
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		err := tx.GetContext(ctx, &at, `SELECT q.code, f.piece_id FROM sculpt_spot o JOIN sculpt_photo f ON f.id = o.photo_id JOIN piece q ON q.id = f.piece_id WHERE o.id = ?`, id)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("spot", fmt.Sprint(id))
		}
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `UPDATE sculpt_spot SET settled_at = ?, settled_by = ? WHERE id = ? AND settled_at IS NULL`, now, who.ID, id); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: at.PieceID, Kind: "sculpt", Code: at.Code, Act: "spot settled"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "texture", at.Code)
	return s.Photos(ctx, at.Code)
}

// BroughtField is a height field that was taken in.
type BroughtField struct {
	File       string  `json:"file"`
	NX         int     `json:"nx"`
	NY         int     `json:"ny"`
	MMPerPixel float64 `json:"mm_per_pixel" doc:"as the file says it; 0 when it does not"`
	MinMM      float64 `json:"min_mm"`
	MaxMM      float64 `json:"max_mm"`
}

// BringField takes in a height field as a 16-bit grey PNG, ours or another's.
func (s *Service) BringField(ctx context.Context, from io.Reader) (BroughtField, error) {
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return BroughtField{}, err
	}
	who, _ := accounts.From(ctx)
	var sha string
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		f, err := s.Files.Record(ctx, tx, taken, s.Clock.Now(), who.ID)
		sha = f.SHA256
		return err
	})
	if err != nil {
		return BroughtField{}, err
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return BroughtField{}, err
	}
	defer free()
	h, about, err := s.heights(sha)
	if err != nil {
		return BroughtField{}, err
	}
	out := BroughtField{File: sha, NX: h.NX, NY: h.NY, MMPerPixel: rounded(about.MMPerPixel, 5)}
	for _, z := range h.MM {
		out.MinMM, out.MaxMM = min(out.MinMM, float64(z)), max(out.MaxMM, float64(z))
	}
	return out, nil
}

// heights reads a stored height field.
func (s *Service) heights(sha string) (*texture.Heights, paper.HeightsAbout, error) {
	if len(sha) != 64 || strings.Trim(sha, "0123456789abcdef") != "" {
		return nil, paper.HeightsAbout{}, problem.Invalid("unknown_value", "field", "There is no such height field.")
	}
	f, err := s.Files.Open(sha)
	if err != nil {
		return nil, paper.HeightsAbout{}, problem.NotFound("height field", sha)
	}
	defer f.Close()
	h, about, err := paper.ReadHeights(f)
	var bad png.FormatError
	if errors.As(err, &bad) || errors.Is(err, paper.ErrNoHeights) {
		return nil, about, problem.Invalid("wrong_type", "file", "This is no grey PNG of 8 or 16 bits, and so no height field. The picture was kept; nothing else was.")
	}
	return h, about, err
}

// bring gives the layers of a recipe the height fields that they name.
func (s *Service) bring(_ context.Context, doc *texture.Recipe) error {
	for i := range doc.Layers {
		l := &doc.Layers[i]
		if l.Kind != "field" || l.Field == nil {
			continue
		}
		h, _, err := s.heights(l.Field.File)
		if err != nil {
			return err
		}
		own := *l.Field
		own.Heights = h
		l.Field = &own
	}
	return nil
}
