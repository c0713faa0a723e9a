package form

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/scan"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/platform/problem"
)

// Scan is a surface of a form, or of a piece at a stage, as it was uploaded, with
// what is known of it.
type Scan struct {
	ID      uint64    `db:"id" json:"id"`
	Form    *string   `db:"form" json:"form,omitempty"`
	Piece   *string   `db:"piece" json:"piece,omitempty"`
	Name    string    `db:"name" json:"name" doc:"of the file, as it came"`
	Stage   string    `db:"stage" json:"stage"`
	Part    string    `db:"part" json:"part" doc:"as which part of a body its size is judged"`
	Unit    *string   `db:"unit" json:"unit,omitempty" enum:"mm,cm,in,m" doc:"as somebody said; the guess counts until then"`
	NoiseMM float64   `db:"noise_mm" json:"noise_mm"`
	Core    *uint64   `db:"core_id" json:"core,omitempty"`
	Size    int64     `db:"size" json:"size"`
	SHA256  string    `db:"sha256" json:"sha256"`
	At      time.Time `db:"added_at" json:"added_at"`
	Who     string    `db:"who" json:"who"`
	Version int       `db:"version" json:"version"`

	LookJob    uint64  `db:"look_job" json:"-"`
	MeasureJob *uint64 `db:"measure_job" json:"-"`
	FormID     *uint64 `db:"form_id" json:"-"`
	PieceID    *uint64 `db:"piece_id" json:"-"`

	Look      jobs.Job  `db:"-" json:"look"`
	Looked    *Looked   `db:"-" json:"looked,omitempty"`
	Measuring *jobs.Job `db:"-" json:"measuring,omitempty"`
	Measured  *Measured `db:"-" json:"measured,omitempty"`
}

// Scans are the scans of a form or piece, newest first, with the cores that a
// piece's may be measured over.
type Scans struct {
	Scans []Scan `json:"scans"`
	Cores []Scan `json:"cores"`
}

const scanColumns = `s.id, f.code AS form, q.code AS piece, s.name, s.stage, s.part, s.unit, s.noise_mm, s.core_id, s.look_job, s.measure_job, s.form_id, s.piece_id, s.added_at, s.version, d.size, d.sha256, p.name AS who
	FROM scan s JOIN file d ON d.id = s.file_id JOIN person p ON p.id = s.added_by LEFT JOIN form f ON f.id = s.form_id LEFT JOIN piece q ON q.id = s.piece_id`

// fill reads what the jobs of scans found.
func (s *Service) fill(ctx context.Context, db database.Reader, list []Scan) error {
	var ids []uint64
	for _, c := range list {
		ids = append(ids, c.LookJob)
		if c.MeasureJob != nil {
			ids = append(ids, *c.MeasureJob)
		}
	}
	known, err := s.Jobs.Read(ctx, db, ids...)
	if err != nil {
		return err
	}
	for i := range list {
		c := &list[i]
		c.Look = known[c.LookJob]
		if c.Look.State == "done" {
			c.Looked = &Looked{}
			if err := json.Unmarshal(c.Look.Result, c.Looked); err != nil {
				return fmt.Errorf("reading what is known of scan %d: %w", c.ID, err)
			}
		}
		if c.MeasureJob == nil {
			continue
		}
		j := known[*c.MeasureJob]
		c.Measuring = &j
		if j.State == "done" {
			c.Measured = &Measured{}
			if err := json.Unmarshal(j.Result, c.Measured); err != nil {
				return fmt.Errorf("reading the measures of scan %d: %w", c.ID, err)
			}
		}
	}
	return nil
}

// one reads a scan.
func (s *Service) one(ctx context.Context, db database.Reader, id uint64) (Scan, error) {
	var c Scan
	err := db.GetContext(ctx, &c, `SELECT `+scanColumns+` WHERE s.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return c, problem.NotFound("scan", fmt.Sprint(id))
	}
	if err != nil {
		return c, err
	}
	list := []Scan{c}
	err = s.fill(ctx, db, list)
	return list[0], err
}

// ScansOf lists the scans of a piece or, for an empty one, of a form. Indexes
// scan_of_piece, scan_of_form.
func (s *Service) ScansOf(ctx context.Context, piece, form string) (Scans, error) {
	out := Scans{Scans: []Scan{}, Cores: []Scan{}}
	where, arg := `q.code = ?`, piece
	if piece == "" {
		where, arg = `f.code = ?`, form
	}
	if err := s.DB.SelectContext(ctx, &out.Scans, `SELECT `+scanColumns+` WHERE `+where+` AND s.aside_at IS NULL ORDER BY s.id DESC LIMIT 60`, arg); err != nil {
		return out, fmt.Errorf("reading the scans: %w", err)
	}
	if piece != "" {
		// The cores of the piece's own form and moulds first, then of any form of
		// its performer.
		if err := s.DB.SelectContext(ctx, &out.Cores, `SELECT `+scanColumns+` WHERE s.aside_at IS NULL AND s.form_id IN (
			SELECT form_id FROM piece_form WHERE piece_id = (SELECT id FROM piece WHERE code = ?) UNION
			SELECT form_id FROM mould WHERE piece_id = (SELECT id FROM piece WHERE code = ?) UNION
			SELECT g.id FROM form g JOIN `+"`character`"+` c ON c.performer_id = g.performer_id JOIN piece w ON w.character_id = c.id WHERE w.code = ?) ORDER BY s.id DESC LIMIT 20`, piece, piece, piece); err != nil {
			return out, fmt.Errorf("reading the cores: %w", err)
		}
	}
	return out, errors.Join(s.fill(ctx, s.DB, out.Scans), s.fill(ctx, s.DB, out.Cores))
}

// NewScan is an upload with what it shows.
type NewScan struct {
	Upload  string  `json:"upload" doc:"a finished upload"`
	Form    string  `json:"form,omitempty"`
	Piece   string  `json:"piece,omitempty"`
	Stage   string  `json:"stage,omitempty" maxLength:"80" doc:"of a piece: blocked out, finished, first cast"`
	NoiseMM float64 `json:"noise_mm,omitempty" doc:"0.05 structured light, 0.15 usual, 0.5 phone"`
	Core    uint64  `json:"core,omitempty" doc:"the scan of the bare core that it lies over"`
}

// noise checks the noise of a scan; none is the usual one.
func noise(mm float64) (float64, error) {
	if mm == 0 {
		return 0.15, nil
	}
	if !(mm >= 0.01 && mm <= 2) {
		return 0, problem.Invalid("out_of_range", "noise_mm", "The noise of a scan lies between 0.01 and 2 mm: 0.05 for structured light, 0.5 for a phone.")
	}
	return mm, nil
}

// AddScan keeps an uploaded surface and has it looked at.
func (s *Service) AddScan(ctx context.Context, in NewScan) (Scans, error) {
	mm, err := noise(in.NoiseMM)
	if err != nil {
		return Scans{}, err
	}
	if (in.Form == "") == (in.Piece == "") {
		return Scans{}, problem.Invalid("missing", "form", "Say of which form or piece the scan is.")
	}
	kept, up, err := s.Uploads.Whole(ctx, in.Upload, "model/mesh")
	if err != nil {
		return Scans{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		of, code, pieceID, err := s.placeOf(ctx, tx, in.Form, in.Piece)
		if err != nil {
			return err
		}
		if err := s.bare(ctx, tx, in.Core); err != nil {
			return err
		}
		file, err := s.Files.Record(ctx, tx, kept, s.Clock.Now(), who.ID)
		if err != nil {
			return err
		}
		look, err := s.Jobs.Ask(ctx, tx, LookAt, lookInput{SHA256: kept.SHA256(), Name: up.Name, Part: of.ScanPart()})
		if err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO scan (form_id, piece_id, file_id, name, stage, part, noise_mm, core_id, look_job, added_at, added_by)
			VALUES ((SELECT id FROM form WHERE code = ?), NULLIF(?,0), ?,?,?,?,?,NULLIF(?,0),?,?,?)`, in.Form, pieceID, file.ID, up.Name, strings.TrimSpace(in.Stage), of.ScanPart(), mm, in.Core, look, s.Clock.Now(), who.ID)
		if err != nil {
			return fmt.Errorf("keeping the scan: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		if in.Core != 0 {
			if err := s.askMeasure(ctx, tx, uint64(id), nil); err != nil {
				return err
			}
		}
		if err := s.Uploads.Taken(ctx, tx, in.Upload); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: pieceID, Kind: "scan", Code: code, Act: "scan added", Words: up.Name})
		return err
	})
	if err != nil {
		return Scans{}, err
	}
	s.Uploads.Swept(in.Upload)
	s.Live.Tell(ctx, "scans", in.Piece+in.Form)
	return s.ScansOf(ctx, in.Piece, in.Form)
}

// bare demands that a core is the scan of a form; 0 is none yet.
func (s *Service) bare(ctx context.Context, tx database.Tx, core uint64) error {
	if core == 0 {
		return nil
	}
	c, err := s.one(ctx, tx, core)
	var gone *problem.Problem
	switch {
	case errors.As(err, &gone) && gone.Status == http.StatusNotFound, err == nil && c.FormID == nil:
		return problem.Invalid("unknown_value", "core", "Choose the scan of a bare core.")
	case err != nil:
		return err
	}
	return nil
}

// placeOf finds what a scan is of.
func (s *Service) placeOf(ctx context.Context, tx database.Tx, form, code string) (region.Region, string, uint64, error) {
	if code != "" {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return region.Region{}, "", 0, err
		}
		r, _ := region.Find(p.Region)
		return r, code, p.ID, nil
	}
	var name string
	if err := tx.GetContext(ctx, &name, `SELECT region FROM form WHERE code = ?`, form); err != nil {
		return region.Region{}, "", 0, problem.NotFound("form", form)
	}
	r, _ := region.Find(name)
	return r, form, 0, nil
}

// Told is what a person says of a scan: nothing of it is in the file.
type Told struct {
	Unit    string  `json:"unit" enum:"mm,cm,in,m"`
	NoiseMM float64 `json:"noise_mm,omitempty"`
	Stage   string  `json:"stage,omitempty" maxLength:"80"`
	Core    uint64  `json:"core,omitempty"`
	Version int     `json:"version"`
}

// Tell records what a person says of a scan. A unit that was agreed begins the
// measures anew.
func (s *Service) Tell(ctx context.Context, id uint64, in Told) (Scans, error) {
	mm, err := noise(in.NoiseMM)
	if err != nil {
		return Scans{}, err
	}
	var c Scan
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var err error
		if c, err = s.one(ctx, tx, id); err != nil {
			return err
		}
		if c.Version != in.Version {
			return problem.Conflict("moved_on", "Somebody else changed what is said of this scan meanwhile; look again. Nothing of yours was written over it.")
		}
		if err := s.bare(ctx, tx, in.Core); err != nil {
			return err
		}
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE scan SET unit = ?, noise_mm = ?, stage = ?, core_id = NULLIF(?,0), version = version + 1 WHERE id = ? AND version = ?`, in.Unit, mm, strings.TrimSpace(in.Stage), in.Core, id, in.Version))
		if err != nil {
			return err
		}
		if !changed {
			return problem.Conflict("moved_on", "Somebody else changed what is said of this scan meanwhile; look again.")
		}
		if in.Core != 0 {
			if err := s.askMeasure(ctx, tx, id, nil); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: deref(c.PieceID), Kind: "scan", Code: deref(c.Piece) + deref(c.Form), Act: "scan described", Words: c.Name + " is in " + in.Unit})
		return err
	})
	if err != nil {
		return Scans{}, err
	}
	s.Live.Tell(ctx, "scans", deref(c.Piece)+deref(c.Form))
	return s.ScansOf(ctx, deref(c.Piece), deref(c.Form))
}

// Aside puts a scan aside: it is listed no more, its file stays.
func (s *Service) Aside(ctx context.Context, id uint64) (Scans, error) {
	var c Scan
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var err error
		if c, err = s.one(ctx, tx, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE scan SET aside_at = ? WHERE id = ?`, s.Clock.Now(), id); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: deref(c.PieceID), Kind: "scan", Code: deref(c.Piece) + deref(c.Form), Act: "scan put aside", Words: c.Name})
		return err
	})
	if err != nil {
		return Scans{}, err
	}
	s.Live.Tell(ctx, "scans", deref(c.Piece)+deref(c.Form))
	return s.ScansOf(ctx, deref(c.Piece), deref(c.Form))
}

func deref[T any](p *T) T {
	var none T
	if p == nil {
		return none
	}
	return *p
}

// Pulling is how a piece is to leave its mould: a direction, or none for the
// best one.
type Pulling struct {
	Dir  *scan.Vec `json:"dir,omitempty" doc:"none: the best one is looked for"`
	Mode string    `json:"mode,omitempty" enum:",one,two" doc:"one piece that opens, or two parts; by the surface when left out"`
}

// askMeasure has a piece's scan measured over its core.
func (s *Service) askMeasure(ctx context.Context, tx database.Tx, id uint64, pull *Pulling) error {
	c, err := s.one(ctx, tx, id)
	if err != nil {
		return err
	}
	if c.Core == nil {
		return problem.Invalid("missing", "core", "Choose the bare core that this sculpt lies over.")
	}
	core, err := s.one(ctx, tx, *c.Core)
	if err != nil {
		return err
	}
	in := measureInput{Sculpt: surfaceOf(c), Core: surfaceOf(core), NoiseMM: math3(max(c.NoiseMM, core.NoiseMM))}
	if c.PieceID != nil {
		var family string
		if err := tx.GetContext(ctx, &family, `SELECT family FROM piece WHERE id = ?`, *c.PieceID); err != nil {
			return err
		}
		in.Family = family
	}
	if pull != nil {
		in.Mode, in.Dir = pull.Mode, pull.Dir
	}
	job, err := s.Jobs.Ask(ctx, tx, MeasureOver, in)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE scan SET measure_job = ? WHERE id = ?`, job, id)
	return err
}

// Measure has a scan measured, for a pull.
func (s *Service) Measure(ctx context.Context, id uint64, pull Pulling) (Scans, error) {
	if d := pull.Dir; d != nil && d[0] == 0 && d[1] == 0 && d[2] == 0 {
		return Scans{}, problem.Invalid(scan.BadDirection, "dir", "A pull needs a direction.")
	}
	var c Scan
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := s.askMeasure(ctx, tx, id, &pull); err != nil {
			return err
		}
		var err error
		c, err = s.one(ctx, tx, id)
		return err
	})
	if err != nil {
		return Scans{}, err
	}
	s.Live.Tell(ctx, "scans", deref(c.Piece))
	return s.ScansOf(ctx, deref(c.Piece), deref(c.Form))
}

// StopJob stops what is being computed of a scan.
func (s *Service) StopJob(ctx context.Context, id uint64) (Scans, error) {
	c, err := s.one(ctx, s.DB, id)
	if err != nil {
		return Scans{}, err
	}
	for _, j := range []*jobs.Job{&c.Look, c.Measuring} {
		if j != nil && slices.Contains([]string{"waiting", "running"}, j.State) {
			if err := s.Jobs.Stop(ctx, j.ID); err != nil {
				return Scans{}, err
			}
		}
	}
	return s.ScansOf(ctx, deref(c.Piece), deref(c.Form))
}

// Compared is how a later scan of the same thing differs from an earlier one.
type Compared struct {
	Job    jobs.Job `json:"job"`
	Change *Changed `json:"change,omitempty"`
}

// Compare works out how one scan differs from an earlier one of the same piece
// or form; ask again for how far it is.
func (s *Service) Compare(ctx context.Context, later, earlier uint64) (Compared, error) {
	a, err := s.one(ctx, s.DB, later)
	if err != nil {
		return Compared{}, err
	}
	b, err := s.one(ctx, s.DB, earlier)
	if err != nil {
		return Compared{}, err
	}
	if deref(a.PieceID) != deref(b.PieceID) || deref(a.FormID) != deref(b.FormID) || a.ID == b.ID {
		return Compared{}, problem.Invalid("unknown_value", "earlier", "Two scans of the same piece or form are compared.")
	}
	var id uint64
	if err := s.DB.InTx(ctx, func(tx database.Tx) error {
		id, err = s.Jobs.Ask(ctx, tx, CompareWith, changeInput{Later: surfaceOf(a), Earlier: surfaceOf(b)})
		return err
	}); err != nil {
		return Compared{}, err
	}
	known, err := s.Jobs.Read(ctx, s.DB, id)
	if err != nil {
		return Compared{}, err
	}
	out := Compared{Job: known[id]}
	if out.Job.State == "done" {
		out.Change = &Changed{}
		err = json.Unmarshal(out.Job.Result, out.Change)
	}
	return out, err
}

// BodyOf is the body of a piece by its newest scan that may be believed: one
// measured over its core, else a surface whose unit is plain. None gives false.
func (s *Service) BodyOf(ctx context.Context, code string) (Scan, bool, error) {
	all, err := s.ScansOf(ctx, code, "")
	if err != nil {
		return Scan{}, false, err
	}
	for _, c := range all.Scans {
		if c.Measured != nil {
			return c, true, nil
		}
	}
	for _, c := range all.Scans {
		if c.Looked != nil && (c.Unit != nil || c.Looked.Name == "mm" && !c.Looked.Ambiguous) {
			return c, true, nil
		}
	}
	return Scan{}, false, nil
}
