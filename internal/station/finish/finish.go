// Package finish is where a copy is trimmed, seamed and made ready to be
// judged: five ticks, each with who and when, a reading and a photograph.
package finish

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Items that every copy must have ticked before it is judged.
var Items = []string{"trim", "seam", "edge", "colour_reading", "photograph"}

// Service does the use cases of the finishing bench.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Files *files.Store
}

// Lab is a colour reading of the copy, CIELAB under D65.
type Lab struct {
	L float64 `json:"l" minimum:"0" maximum:"100"`
	A float64 `json:"a" minimum:"-128" maximum:"127"`
	B float64 `json:"b" minimum:"-128" maximum:"127"`
}

// Tick is one thing that was done to a copy.
type Tick struct {
	Item    string    `db:"item" json:"item" enum:"trim,seam,edge,colour_reading,photograph"`
	Raw     *string   `db:"reading" json:"-"`
	Reading *Lab      `db:"-" json:"reading,omitempty"`
	Note    string    `db:"note" json:"note"`
	SHA256  *string   `db:"sha256" json:"sha256,omitempty"`
	At      time.Time `db:"at" json:"at"`
	Who     string    `db:"who" json:"who"`
}

// Verdict is what was decided about a copy.
type Verdict struct {
	Verdict string    `db:"verdict" json:"verdict"`
	Reason  string    `db:"reason" json:"reason"`
	At      time.Time `db:"at" json:"at"`
	Who     string    `db:"who" json:"who"`
}

// Copy is a copy with what was done to it and what was decided.
type Copy struct {
	ID        uint64        `db:"id" json:"-"`
	PieceID   uint64        `db:"piece_id" json:"-"`
	Code      string        `db:"code" json:"code"`
	Piece     string        `db:"piece" json:"piece"`
	PieceName string        `db:"piece_name" json:"piece_name"`
	State     string        `db:"state" json:"state" enum:"curing,demoulded,repair,accepted,scrapped,packed,handed_over"`
	Reason    string        `db:"reason" json:"reason"`
	Run       string        `db:"run" json:"run"`
	Mix       string        `db:"mix" json:"mix"`
	Mould     string        `db:"mould" json:"mould,omitempty" doc:"that it came out of; none when no mould was written down"`
	Ticks     []Tick        `db:"-" json:"ticks"`
	Missing   []string      `db:"-" json:"missing" doc:"ticks still to come"`
	Verdicts  []Verdict     `db:"-" json:"verdicts"`
	Journal   []journal.Row `db:"-" json:"journal"`
}

// Read reads one copy.
func Read(ctx context.Context, db database.Reader, code string) (Copy, error) {
	c := Copy{Ticks: []Tick{}, Missing: []string{}, Verdicts: []Verdict{}}
	err := db.GetContext(ctx, &c, `SELECT c.id, c.piece_id, c.code, q.code AS piece, q.name AS piece_name, c.state, c.reason, r.code AS run, x.code AS mix, COALESCE(u.code, '') AS mould
		FROM copy c JOIN piece q ON q.id = c.piece_id JOIN run r ON r.id = c.run_id JOIN mix x ON x.id = r.mix_id LEFT JOIN mould u ON u.id = c.mould_id WHERE c.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return c, problem.NotFound("copy", code)
	}
	if err != nil {
		return c, err
	}
	if err := db.SelectContext(ctx, &c.Ticks, `SELECT t.item, t.reading, t.note, f.sha256, t.at, p.name AS who FROM finish_tick t JOIN person p ON p.id = t.person_id LEFT JOIN file f ON f.id = t.file_id WHERE t.copy_id = ? ORDER BY t.at`, c.ID); err != nil {
		return c, err
	}
	have := map[string]bool{}
	for i := range c.Ticks {
		t := &c.Ticks[i]
		have[t.Item] = true
		if t.Raw != nil {
			if err := json.Unmarshal([]byte(*t.Raw), &t.Reading); err != nil {
				return c, err
			}
		}
	}
	for _, item := range Items {
		if !have[item] {
			c.Missing = append(c.Missing, item)
		}
	}
	if err := db.SelectContext(ctx, &c.Verdicts, `SELECT v.verdict, v.reason, v.at, p.name AS who FROM verdict v JOIN person p ON p.id = v.person_id WHERE v.copy_id = ? ORDER BY v.id`, c.ID); err != nil {
		return c, err
	}
	c.Journal, err = journal.Of(ctx, db, "copy", code)
	return c, err
}

// NewTick is a tick as it is set.
type NewTick struct {
	Item    string `json:"item" enum:"trim,seam,edge,colour_reading,photograph"`
	Note    string `json:"note,omitempty" maxLength:"300"`
	Reading *Lab   `json:"reading,omitempty" doc:"needed for the colour reading"`
}

// Tick sets a tick; a second one replaces the first, and the journal keeps both.
func (s *Service) Tick(ctx context.Context, code string, in NewTick, photograph io.Reader) (Copy, error) {
	if in.Item == "colour_reading" && in.Reading == nil {
		return Copy{}, problem.Invalid("missing", "reading", "Enter the reading: L, a and b.")
	}
	if in.Item == "photograph" && photograph == nil {
		return Copy{}, problem.Invalid("missing", "file", "Take or choose a photograph.")
	}
	who, _ := accounts.From(ctx)
	var taken files.Prepared
	if photograph != nil {
		var err error
		if taken, err = s.Files.Prepare(ctx, photograph); err != nil {
			return Copy{}, err
		}
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := Read(ctx, tx, code)
		if err != nil {
			return err
		}
		if c.State != "demoulded" && c.State != "repair" {
			return problem.Conflict("not_here", "%s is %s: only a copy that is out of its mould and not yet judged can be ticked.", code, words(c.State))
		}
		now := s.Clock.Now()
		var reading, file any
		if in.Reading != nil {
			raw, err := json.Marshal(in.Reading)
			if err != nil {
				return err
			}
			reading = string(raw)
		}
		if photograph != nil {
			f, err := s.Files.Record(ctx, tx, taken, now, who.ID)
			if err != nil {
				return err
			}
			file = f.ID
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO finish_tick (copy_id, item, reading, note, file_id, at, person_id) VALUES (?,?,?,?,?,?,?)
			ON DUPLICATE KEY UPDATE reading = VALUES(reading), note = VALUES(note), file_id = VALUES(file_id), at = VALUES(at), person_id = VALUES(person_id)`,
			c.ID, in.Item, reading, in.Note, file, now, who.ID); err != nil {
			return fmt.Errorf("ticking: %w", err)
		}
		if _, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: words(in.Item), Words: in.Note}); err != nil {
			return err
		}
		if len(c.Missing) == 1 && c.Missing[0] == in.Item {
			return piece.Move(ctx, tx, c.PieceID, "check", true)
		}
		return nil
	})
	if err != nil {
		return Copy{}, err
	}
	s.Live.Tell("copies", code)
	s.Live.Tell("pieces", "")
	return Read(ctx, s.DB, code)
}

func words(code string) string {
	out := []rune(code)
	for i, r := range out {
		if r == '_' {
			out[i] = ' '
		}
	}
	return string(out)
}

// Register puts the finishing bench's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/copies/{code}", "A copy with its ticks and verdicts", web.Makers, func(ctx context.Context, in *piece.Coded) (Copy, error) { return Read(ctx, s.DB, in.Code) })
	web.Post(api, "/api/copies/{code}/ticks", "Tick trim, seam, edge or a colour reading", web.Makers, func(ctx context.Context, in *struct {
		piece.Coded
		Body NewTick
	}) (Copy, error) {
		return s.Tick(ctx, in.Code, in.Body, nil)
	})
}

// Serve puts the photograph's upload on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPost, "/api/copies/:code/photograph", "Photograph a copy", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			return s.Tick(c.Request.Context(), c.Param("code"), NewTick{Item: "photograph", Note: c.PostForm("note")}, body)
		})
	})
}
