package piece

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Reference is a picture pinned to a piece.
type Reference struct {
	ID      uint64    `db:"id" json:"id"`
	SHA256  string    `db:"sha256" json:"sha256"`
	Caption string    `db:"caption" json:"caption"`
	Credit  string    `db:"credit" json:"credit"`
	AddedAt time.Time `db:"added_at" json:"added_at"`
}

// References lists a piece's pinned pictures.
func (s *Service) References(ctx context.Context, piece uint64) ([]Reference, error) {
	list := []Reference{}
	err := s.DB.SelectContext(ctx, &list, `SELECT r.id, f.sha256, r.caption, r.credit, r.added_at FROM reference_picture r JOIN file f ON f.id = r.file_id WHERE r.piece_id = ? ORDER BY r.id`, piece)
	return list, err
}

// Pin adds a reference picture.
func (s *Service) Pin(ctx context.Context, store *files.Store, code, caption, credit string, from io.Reader) (Reference, error) {
	caption = strings.TrimSpace(caption)
	if caption == "" {
		return Reference{}, problem.Invalid("missing", "caption", "Say in a word what the picture shows.")
	}
	who, _ := accounts.From(ctx)
	var out Reference
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		f, err := store.Picture(ctx, tx, from, now, who.ID)
		if err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO reference_picture (piece_id, file_id, caption, credit, added_at, added_by) VALUES (?,?,?,?,?,?)`, p.ID, f.ID, caption, credit, now, who.ID)
		if err != nil {
			return fmt.Errorf("pinning the picture: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		out = Reference{uint64(id), f.SHA256, caption, credit, now}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "reference pinned", Words: caption})
		return err
	})
	if err == nil {
		s.Live.Tell("pieces", code)
	}
	return out, err
}

// Serve puts the plain handlers for pictures on the engine.
func (s *Service) Serve(e *web.Engine, store *files.Store) {
	e.Handle(http.MethodPost, "/api/pieces/:code/references", "Pin a reference picture", web.Makers, func(c *gin.Context) error {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, files.MaxBytes+1<<20)
		upload, err := c.FormFile("file")
		if err != nil {
			return problem.Invalid("missing", "file", "Choose a picture of at most 20 MB.")
		}
		body, err := upload.Open()
		if err != nil {
			return err
		}
		defer body.Close()
		ref, err := s.Pin(c.Request.Context(), store, c.Param("code"), c.PostForm("caption"), c.PostForm("credit"), body)
		if err == nil {
			c.JSON(http.StatusOK, ref)
		}
		return err
	})
	e.Handle(http.MethodGet, "/api/files/:sha", "A stored picture", web.Makers, func(c *gin.Context) error {
		var kind string
		if err := s.DB.GetContext(c.Request.Context(), &kind, `SELECT media_type FROM file WHERE sha256 = ?`, c.Param("sha")); err != nil {
			return problem.NotFound("file", c.Param("sha"))
		}
		f, err := store.Open(c.Param("sha"))
		if err != nil {
			return problem.NotFound("file", c.Param("sha"))
		}
		defer f.Close()
		c.Header("Cache-Control", "private, max-age=31536000, immutable")
		c.DataFromReader(http.StatusOK, -1, kind, f, nil)
		return nil
	})
}
