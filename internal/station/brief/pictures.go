package brief

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"mime/multipart"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Angles from which a reference can have been taken.
var Angles = []string{"", "front", "left", "right", "three-quarter", "back", "above", "below", "close-up"}

// About is what is said of a reference picture.
type About struct {
	Caption  string `json:"caption" maxLength:"200" doc:"what it shows; can be renamed when the right word is known"`
	Credit   string `json:"credit" maxLength:"200"`
	View     string `json:"view" maxLength:"20"`
	Standing string `json:"standing" enum:"direct,second-hand,stand-in"`
}

func (a *About) check() error {
	a.Caption = strings.TrimSpace(a.Caption)
	if a.Standing == "" {
		a.Standing = "direct"
	}
	switch {
	case a.Caption == "":
		return problem.Invalid("missing", "caption", "Say in a word what the picture shows.")
	case !slices.Contains(Angles, a.View):
		return problem.Invalid("unknown_value", "view", "Say one of: %s.", strings.Join(Angles[1:], ", "))
	case !slices.Contains([]string{"direct", "second-hand", "stand-in"}, a.Standing):
		return problem.Invalid("unknown_value", "standing", "Say direct, second-hand or stand-in.")
	}
	return nil
}

// Pin adds a reference picture.
func (s *Service) Pin(ctx context.Context, code string, about About, from io.Reader) (piece.View, error) {
	if err := about.check(); err != nil {
		return piece.View{}, err
	}
	if _, err := piece.Find(ctx, s.DB, code); err != nil {
		return piece.View{}, err
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return piece.View{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		f, err := s.Files.Record(ctx, tx, taken, now, who.ID)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO reference_picture (piece_id, file_id, caption, credit, view, standing, width, height, added_at, added_by) VALUES (?,?,?,?,?,?,?,?,?,?)`,
			p.ID, f.ID, about.Caption, about.Credit, about.View, about.Standing, taken.Width, taken.Height, now, who.ID); err != nil {
			return fmt.Errorf("pinning the picture: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "reference pinned", Words: about.Caption})
		return err
	})
	if err != nil {
		return piece.View{}, err
	}
	s.Live.Tell(ctx, "pieces", code)
	return s.Pieces.View(ctx, code)
}

type pictureRow struct {
	ID      uint64
	Code    string
	PieceID uint64 `db:"piece_id"`
	Caption string
	SHA256  string `db:"sha256"`
	Kind    string `db:"media_type"`
	Width   int
	Height  int
	Version int
}

func (s *Service) picture(ctx context.Context, db database.Reader, id uint64) (pictureRow, error) {
	var r pictureRow
	err := db.GetContext(ctx, &r, `SELECT r.id, q.code, r.piece_id, r.caption, f.sha256, f.media_type, r.width, r.height, r.version FROM reference_picture r JOIN piece q ON q.id = r.piece_id JOIN file f ON f.id = r.file_id WHERE r.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.NotFound("picture", fmt.Sprint(id))
	}
	return r, err
}

// Describe renames a picture, or says more of it.
func (s *Service) Describe(ctx context.Context, id uint64, about About, version int) (piece.View, error) {
	if err := about.check(); err != nil {
		return piece.View{}, err
	}
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		r, err := s.picture(ctx, tx, id)
		if err != nil {
			return err
		}
		code = r.Code
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE reference_picture SET caption = ?, credit = ?, view = ?, standing = ?, version = version + 1 WHERE id = ? AND version = ?`, about.Caption, about.Credit, about.View, about.Standing, id, version))
		if err != nil {
			return err
		}
		if !changed {
			return problem.Conflict("changed", "Somebody renamed this picture a moment ago: “%s”. Nothing was overwritten.", r.Caption)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: r.PieceID, Kind: "piece", Code: r.Code, Act: "reference described", Words: about.Caption})
		return err
	})
	if err != nil {
		return piece.View{}, err
	}
	s.Live.Tell(ctx, "pieces", code)
	return s.Pieces.View(ctx, code)
}

// NewPin is a note, a traced line or a picked colour as it is set.
type NewPin struct {
	Kind   string       `json:"kind" enum:"note,line,colour"`
	Points [][2]float64 `json:"points" maxItems:"200" doc:"shares of width and height, 0 to 1"`
	Label  string       `json:"label" maxLength:"80"`
	Words  string       `json:"words" maxLength:"500"`
	// Half is half the side of the square that a colour is picked from, as a
	// share of the picture's width.
	Half float64 `json:"half,omitempty" minimum:"0" maximum:"0.25"`
}

// usualHalf is half the side of a picked square when nobody says.
const usualHalf = 0.01

// Note pins a note on a picture, keeps a traced line, or picks a colour as the
// mean of a patch.
func (s *Service) Note(ctx context.Context, id uint64, in NewPin) (piece.View, error) {
	in.Label = strings.TrimSpace(in.Label)
	if in.Label == "" {
		return piece.View{}, problem.Invalid("missing", "label", "Give it a label; it can be renamed when the right word is known.")
	}
	least := map[string]int{"note": 1, "line": 2, "colour": 1}[in.Kind]
	if len(in.Points) < least || in.Kind != "line" && len(in.Points) > 1 {
		return piece.View{}, problem.Invalid("invalid", "points", "A note or a colour stands at one point, a line needs two or more.")
	}
	for _, p := range in.Points {
		if !(p[0] >= 0 && p[0] <= 1 && p[1] >= 0 && p[1] <= 1) {
			return piece.View{}, problem.Invalid("out_of_range", "points", "The point lies beside the picture.")
		}
	}
	r, err := s.picture(ctx, s.DB, id)
	if err != nil {
		return piece.View{}, err
	}
	var lab *colour.Lab
	var spread *float64
	if in.Kind == "colour" {
		if lab, spread, err = s.pick(ctx, r, in); err != nil {
			return piece.View{}, err
		}
	}
	raw, err := json.Marshal(in.Points)
	if err != nil {
		return piece.View{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		var l, a, b *float64
		if lab != nil {
			l, a, b = &lab.L, &lab.A, &lab.B
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO reference_note (picture_id, kind, points, label, words, lab_l, lab_a, lab_b, spread, added_at, added_by) VALUES (?,?,?,?,?,?,?,?,?,?,NULLIF(?,0))`,
			id, in.Kind, string(raw), in.Label, in.Words, l, a, b, spread, now, who.ID); err != nil {
			return fmt.Errorf("pinning the note: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: r.PieceID, Kind: "piece", Code: r.Code, Act: in.Kind + " on a reference", Words: in.Label})
		return err
	})
	if err != nil {
		return piece.View{}, err
	}
	s.Live.Tell(ctx, "pieces", r.Code)
	return s.Pieces.View(ctx, r.Code)
}

// pick is the colour of a patch: the mean of its light, and how far its pixels
// lie from it.
func (s *Service) pick(ctx context.Context, r pictureRow, in NewPin) (*colour.Lab, *float64, error) {
	half := in.Half
	if half == 0 {
		half = usualHalf
	}
	pixels, err := s.Files.Patch(ctx, r.SHA256, r.Kind, in.Points[0][0], in.Points[0][1], half)
	if err != nil {
		return nil, nil, err
	}
	var light [3]float64
	for _, p := range pixels {
		for i := range light {
			light[i] += colour.Decode(p[i]) / float64(len(pixels))
		}
	}
	mean := colour.FromLinear(light)
	var spread float64
	for _, p := range pixels {
		spread += colour.DE00(mean, colour.FromSRGB(p[0], p[1], p[2])) / float64(len(pixels))
	}
	for _, x := range []*float64{&mean.L, &mean.A, &mean.B, &spread} {
		*x = math.Round(*x*1000) / 1000
	}
	return &mean, &spread, nil
}

type noteRow struct {
	ID      uint64
	Picture uint64 `db:"picture_id"`
	Label   string
}

func (s *Service) note(ctx context.Context, db database.Reader, id uint64) (noteRow, pictureRow, error) {
	var n noteRow
	err := db.GetContext(ctx, &n, `SELECT id, picture_id, label FROM reference_note WHERE id = ? AND removed_at IS NULL`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return n, pictureRow{}, problem.NotFound("note", fmt.Sprint(id))
	}
	if err != nil {
		return n, pictureRow{}, err
	}
	r, err := s.picture(ctx, db, n.Picture)
	return n, r, err
}

// Rename gives a note another label; what it was called stays in the record.
func (s *Service) Rename(ctx context.Context, id uint64, label, words string) (piece.View, error) {
	label = strings.TrimSpace(label)
	if label == "" {
		return piece.View{}, problem.Invalid("missing", "label", "A note needs a label.")
	}
	return s.changeNote(ctx, id, func(tx database.Tx, n noteRow) (string, error) {
		_, err := tx.ExecContext(ctx, `UPDATE reference_note SET label = ?, words = ? WHERE id = ?`, label, words, id)
		return fmt.Sprintf("“%s” is now “%s”", n.Label, label), err
	})
}

// Unpin takes a note off a picture; the record keeps that it was there.
func (s *Service) Unpin(ctx context.Context, id uint64) (piece.View, error) {
	return s.changeNote(ctx, id, func(tx database.Tx, n noteRow) (string, error) {
		_, err := tx.ExecContext(ctx, `UPDATE reference_note SET removed_at = ? WHERE id = ?`, s.Clock.Now(), id)
		return "“" + n.Label + "” taken off", err
	})
}

func (s *Service) changeNote(ctx context.Context, id uint64, change func(database.Tx, noteRow) (string, error)) (piece.View, error) {
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		n, r, err := s.note(ctx, tx, id)
		if err != nil {
			return err
		}
		code = r.Code
		words, err := change(tx, n)
		if err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: r.PieceID, Kind: "piece", Code: r.Code, Act: "note on a reference changed", Words: words})
		return err
	})
	if err != nil {
		return piece.View{}, err
	}
	s.Live.Tell(ctx, "pieces", code)
	return s.Pieces.View(ctx, code)
}

// Serve puts the plain handlers on the engine: uploads, pictures, drawings and
// pages to print.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPost, "/api/pieces/:code/references", "Pin a reference picture", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			v, err := s.Pin(c.Request.Context(), c.Param("code"), About{Caption: c.PostForm("caption"), Credit: c.PostForm("credit"), View: c.PostForm("view"), Standing: c.PostForm("standing")}, body)
			if err != nil {
				return nil, err
			}
			return v.References[len(v.References)-1], nil
		})
	})
	e.Handle(http.MethodGet, "/api/files/:sha", "A stored picture as it came, or reduced to a width", web.Makers, func(c *gin.Context) error {
		ctx, sha := c.Request.Context(), c.Param("sha")
		var kind string
		if err := s.DB.GetContext(ctx, &kind, `SELECT media_type FROM file WHERE sha256 = ?`, sha); err != nil {
			return problem.NotFound("file", sha)
		}
		// What was uploaded is shown as what it is and nothing else.
		c.Header("X-Content-Type-Options", "nosniff")
		c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
		var f io.ReadCloser
		var err error
		if text := c.Query("width"); text != "" {
			width, bad := strconv.Atoi(text)
			if bad != nil {
				return problem.Invalid("not_a_number", "width", "Pictures are shown %v pixels wide.", files.Widths)
			}
			if f, err = s.Files.View(ctx, sha, kind, width); err != nil {
				return err
			}
			kind = "image/jpeg"
		} else if f, err = s.Files.Open(sha); err != nil {
			return problem.NotFound("file", sha)
		}
		defer f.Close()
		c.DataFromReader(http.StatusOK, -1, kind, f, nil)
		return nil
	})
	s.servePaper(e)
}
