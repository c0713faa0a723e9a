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
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/round"
)

// Service does the use cases of the finishing bench.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Files *files.Store
}

// Tick is one thing that was done to a copy.
type Tick struct {
	Item    string      `db:"item" json:"item" enum:"trim,seam,edge,colour_reading,photograph"`
	Raw     *string     `db:"reading" json:"-"`
	Reading *colour.Lab `db:"-" json:"reading,omitempty"`
	Note    string      `db:"note" json:"note"`
	Skipped bool        `db:"skipped" json:"skipped" doc:"passed over, since the instrument is not there; the note says why"`
	SHA256  *string     `db:"sha256" json:"sha256,omitempty"`
	At      time.Time   `db:"at" json:"at"`
	Who     string      `db:"who" json:"who"`
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
	State     copies.State  `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over"`
	Reason    string        `db:"reason" json:"reason"`
	Run       string        `db:"run" json:"run"`
	Mixes     string        `db:"mixes" json:"mixes" doc:"codes of the mixes that went in; empty where there was none"`
	Section   int           `db:"section_number" json:"section_number" doc:"the version that it was made on"`
	Items     []string      `db:"-" json:"items" doc:"what is to be done to it"`
	Mould     string        `db:"mould" json:"mould,omitempty" doc:"that it came out of; none when no mould was written down"`
	Ticks     []Tick        `db:"-" json:"ticks"`
	Missing   []string      `db:"-" json:"missing" doc:"ticks still to come"`
	Verdicts  []Verdict     `db:"-" json:"verdicts"`
	Journal   []journal.Row `db:"-" json:"journal"`
}

// Read reads one copy.
func Read(ctx context.Context, db database.Reader, code string) (Copy, error) {
	c := Copy{Ticks: []Tick{}, Items: []string{}, Missing: []string{}, Verdicts: []Verdict{}}
	err := db.GetContext(ctx, &c, `SELECT c.id, c.piece_id, c.code, q.code AS piece, q.name AS piece_name, c.state, c.reason, r.code AS run, COALESCE(u.code, '') AS mould, COALESCE(c.section_number, 0) AS section_number,
		COALESCE((SELECT GROUP_CONCAT(x.code ORDER BY x.id SEPARATOR ', ') FROM run_mix rm JOIN mix x ON x.id = rm.mix_id WHERE rm.run_id = r.id), '') AS mixes
		FROM copy c JOIN piece q ON q.id = c.piece_id JOIN run r ON r.id = c.run_id LEFT JOIN mould u ON u.id = c.mould_id WHERE c.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return c, problem.NotFound("copy", code)
	}
	if err != nil {
		return c, err
	}
	if err := db.SelectContext(ctx, &c.Ticks, `SELECT t.item, g.value AS reading, t.note, t.skipped, f.sha256, t.at, p.name AS who FROM finish_tick t JOIN person p ON p.id = t.person_id LEFT JOIN file f ON f.id = t.file_id LEFT JOIN reading g ON g.id = t.reading_id WHERE t.copy_id = ? ORDER BY t.at`, c.ID); err != nil {
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
	// What is to be done was written down when it was made. Index work_item_once.
	if err := db.SelectContext(ctx, &c.Items, `SELECT item FROM work_item WHERE copy_id = ? AND list = 'finish' ORDER BY seq`, c.ID); err != nil {
		return c, err
	}
	for _, item := range c.Items {
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
	Item    string      `json:"item" enum:"trim,seam,edge,colour_reading,photograph"`
	Note    string      `json:"note,omitempty" maxLength:"300"`
	Reading *colour.Lab `json:"reading,omitempty" doc:"needed for the colour reading"`
	// Skip passes over a step whose instrument is not there; the note says why.
	Skip bool `json:"skip,omitempty"`
}

// needsInstrument are the items that a shop may lack the instrument for.
var needsInstrument = []string{"colour_reading", "photograph"}

// skipped refuses to pass over what needs no instrument, and silently.
func (in NewTick) skipped() error {
	switch {
	case !in.Skip:
		return nil
	case !slices.Contains(needsInstrument, in.Item):
		return problem.Invalid("unknown_value", "skip", "%s needs no instrument: it is done, or it is not.", words(in.Item))
	case strings.TrimSpace(in.Note) == "":
		return problem.Invalid("missing", "note", "Say in a word why it is passed over.")
	}
	return nil
}

// Tick sets a tick; a second one replaces the first, and the journal keeps both.
func (s *Service) Tick(ctx context.Context, code string, in NewTick, photograph io.Reader) (Copy, error) {
	if err := in.skipped(); err != nil {
		return Copy{}, err
	}
	if in.Item == "colour_reading" && in.Reading == nil && !in.Skip {
		return Copy{}, problem.Invalid("missing", "reading", "Enter the reading: L, a and b.")
	}
	if in.Item == "photograph" && photograph == nil && !in.Skip {
		return Copy{}, problem.Invalid("missing", "file", "Take or choose a photograph.")
	}
	who, _ := accounts.From(ctx)
	if _, err := copies.Find(ctx, s.DB, code); err != nil {
		return Copy{}, err // before a picture is taken apart for nothing
	}
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
		if !c.State.Bench() {
			return problem.Conflict("not_here", "%s is %s: only a copy that is made and not yet judged can be ticked.", code, c.State.Text())
		}
		if !slices.Contains(c.Items, in.Item) {
			return problem.Invalid("unknown_value", "item", "%s is not to be done to %s: it has none.", words(in.Item), code)
		}
		now := s.Clock.Now()
		var reading, file any
		if in.Reading != nil && !in.Skip {
			if reading, err = s.read(ctx, tx, c.ID, *in.Reading, now); err != nil {
				return err
			}
		}
		if photograph != nil {
			f, err := s.Files.Record(ctx, tx, taken, now, who.ID)
			if err != nil {
				return err
			}
			file = f.ID
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO finish_tick (copy_id, item, reading_id, note, file_id, at, person_id, skipped) VALUES (?,?,?,?,?,?,?,?)
			ON DUPLICATE KEY UPDATE reading_id = VALUES(reading_id), note = VALUES(note), file_id = VALUES(file_id), at = VALUES(at), person_id = VALUES(person_id), skipped = VALUES(skipped)`,
			c.ID, in.Item, reading, in.Note, file, now, who.ID, in.Skip); err != nil {
			return fmt.Errorf("ticking: %w", err)
		}
		act := words(in.Item)
		if in.Skip {
			act += " passed over"
		}
		if _, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: act, Words: in.Note}); err != nil {
			return err
		}
		if len(c.Missing) == 1 && c.Missing[0] == in.Item {
			return round.Forward(ctx, tx, c.PieceID, round.Check)
		}
		return nil
	})
	if err != nil {
		return Copy{}, err
	}
	s.Live.Tell(ctx, "copies", code)
	s.Live.Tell(ctx, "pieces", "")
	return Read(ctx, s.DB, code)
}

// read keeps a colour reading of a copy; earlier ones stay beside it.
func (s *Service) read(ctx context.Context, tx database.Tx, copyID uint64, lab colour.Lab, at time.Time) (uint64, error) {
	who, _ := accounts.From(ctx)
	raw, err := json.Marshal(lab)
	if err != nil {
		return 0, err
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO reading (subject, subject_id, quantity, value, at, person_id) VALUES ('copy',?,'colour',?,?,?)`, copyID, string(raw), at, who.ID)
	if err != nil {
		return 0, fmt.Errorf("keeping the reading: %w", err)
	}
	id, err := res.LastInsertId()
	return uint64(id), err
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
	web.Get(api, "/api/copies/{code}", "A copy with its ticks and verdicts", web.Makers, func(ctx context.Context, in *web.Coded) (Copy, error) { return Read(ctx, s.DB, in.Code) })
	web.Post(api, "/api/copies/{code}/ticks", "Tick trim, seam, edge or a colour reading", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
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
