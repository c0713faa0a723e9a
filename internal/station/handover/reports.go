package handover

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
)

// Report is what the artist wrote back, and what it is about.
type Report struct {
	ID         uint64          `db:"id" json:"id"`
	Kind       string          `db:"kind" json:"kind" enum:"feedback,arrival,lifted,itch,reaction,colour,better,wear,touchup,removal,other"`
	Edge       *int            `db:"edge" json:"edge,omitempty" minimum:"1" maximum:"5"`
	Colour     *int            `db:"colour" json:"colour,omitempty" minimum:"1" maximum:"5"`
	Hold       *int            `db:"hold" json:"hold,omitempty" minimum:"1" maximum:"5"`
	WornH      float64         `db:"worn_h" json:"worn_h" minimum:"0" maximum:"48"`
	HourH      *float64        `db:"hour_h" json:"hour_h,omitempty" doc:"at which hour of wear"`
	Copy       string          `db:"copy_code" json:"copy" doc:"empty where it is about the kit"`
	Piece      string          `db:"piece" json:"piece"`
	Layer      string          `db:"layer" json:"layer" doc:"name of the product of that layer"`
	Lot        string          `db:"lot" json:"lot"`
	Stage      string          `db:"stage" json:"stage" doc:"of the run that used the lot"`
	Region     string          `db:"region" json:"region"`
	Step       string          `db:"step" json:"step" doc:"of the morning"`
	Light      string          `db:"light" json:"light"`
	Words      string          `db:"words" json:"words" maxLength:"1000"`
	At         time.Time       `db:"at" json:"at"`
	SaidAt     *time.Time      `db:"said_at" json:"said_at,omitempty" doc:"by the device's clock"`
	Key        string          `db:"idem_key" json:"key"`
	Answer     string          `db:"answer" json:"answer"`
	AnsweredBy string          `db:"answered_by" json:"answered_by"`
	AnsweredAt *time.Time      `db:"answered_at" json:"answered_at,omitempty"`
	Pictures   []ReportPicture `db:"-" json:"pictures"`
}

// ReportPicture is a picture of a report.
type ReportPicture struct {
	Report uint64 `db:"report_id" json:"-"`
	SHA256 string `db:"sha256" json:"sha256"`
	Key    string `db:"idem_key" json:"key"`
}

// kindText is a kind of report in words.
var kindText = map[string]string{"feedback": "how it did", "arrival": "how it arrived", "lifted": "an edge lifted", "itch": "it itches", "reaction": "skin reacted", "colour": "colour off",
	"better": "a better way", "wear": "worn", "touchup": "touched up", "removal": "taken off", "other": "a note"}

func (s *Service) reports(ctx context.Context, db database.Reader, kit uint64) ([]Report, error) {
	list := []Report{}
	if err := db.SelectContext(ctx, &list, `SELECT r.id, r.kind, r.edge, r.colour, r.hold, r.worn_h, r.hour_h, COALESCE(c.code, '') AS copy_code, COALESCE(q.code, '') AS piece, r.layer, COALESCE(CONCAT(l.code, IF(l.part = '', '', CONCAT(' ', l.part))), '') AS lot,
		COALESCE(JSON_VALUE(t.plan, '$.text'), '') AS stage, r.region, r.step, r.light, r.words, r.at, r.said_at, r.idem_key, r.answer, COALESCE(p.name, '') AS answered_by, r.answered_at
		FROM artist_report r LEFT JOIN copy c ON c.id = r.copy_id LEFT JOIN piece q ON q.id = c.piece_id LEFT JOIN lot l ON l.id = r.lot_id LEFT JOIN run_stage t ON t.id = r.stage_id LEFT JOIN person p ON p.id = r.answered_by
		WHERE r.kit_id = ? ORDER BY r.id DESC`, kit); err != nil {
		return nil, fmt.Errorf("reading the reports: %w", err)
	}
	var pictures []ReportPicture
	if err := db.SelectContext(ctx, &pictures, `SELECT x.report_id, f.sha256, x.idem_key FROM artist_report r JOIN report_picture x ON x.report_id = r.id JOIN file f ON f.id = x.file_id WHERE r.kit_id = ? ORDER BY x.id`, kit); err != nil {
		return nil, fmt.Errorf("reading the pictures of the reports: %w", err)
	}
	for i := range list {
		list[i].Pictures = []ReportPicture{}
		for _, p := range pictures {
			if p.Report == list[i].ID {
				list[i].Pictures = append(list[i].Pictures, p)
			}
		}
	}
	return list, nil
}

// NewReport is a report as it is sent.
type NewReport struct {
	Key     string     `json:"key" format:"uuid"`
	Kind    string     `json:"kind,omitempty" enum:",feedback,arrival,lifted,itch,reaction,colour,better,wear,touchup,removal,other"`
	Copy    string     `json:"copy,omitempty" maxLength:"24"`
	Layer   string     `json:"layer,omitempty" maxLength:"64" doc:"id of the layer that it is about"`
	Region  string     `json:"region,omitempty" maxLength:"40"`
	Step    string     `json:"step,omitempty" maxLength:"60"`
	Edge    int        `json:"edge,omitempty" minimum:"0" maximum:"5"`
	Colour  int        `json:"colour,omitempty" minimum:"0" maximum:"5"`
	Hold    int        `json:"hold,omitempty" minimum:"0" maximum:"5"`
	WornH   float64    `json:"worn_h,omitempty" minimum:"0" maximum:"48"`
	HourH   float64    `json:"hour_h,omitempty" minimum:"0" maximum:"48"`
	Redness int        `json:"redness,omitempty" minimum:"0" maximum:"3" doc:"of skin that reacted: 0 none to 3 burning"`
	Light   string     `json:"light,omitempty" maxLength:"40"`
	Words   string     `json:"words" maxLength:"1000"`
	SaidAt  *time.Time `json:"said_at,omitempty"`
}

// reportsAnHour is how many reports a link takes in an hour, and picturesAnHour how many pictures: a kit has a handful
// of copies, and whoever holds the link is not known.
const reportsAnHour, picturesAnHour = 30, 80

// ReportBack keeps what the artist writes, once by its key. One above the bound is told to wait; the page keeps it and sends it
// again. A reaction of skin is never told to wait.
func (s *Service) ReportBack(ctx context.Context, token string, in NewReport) (ArtistView, error) {
	if in.Kind == "" {
		in.Kind = "feedback"
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.byToken(ctx, tx, token)
		if err != nil {
			return err
		}
		return s.report(ctx, tx, k, in)
	})
	if err != nil && !database.IsDuplicate(err) {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "kits", "")
	if in.Kind == "reaction" {
		s.Live.Tell(ctx, "section", "")
	}
	return s.Artist(ctx, token)
}

// about is what a report is about, as the record knows it.
type about struct {
	copyID  *uint64
	piece   *piece.Piece
	number  int
	layer   string
	lotID   *uint64
	stageID *uint64
}

func (s *Service) report(ctx context.Context, tx database.Tx, k Kit, in NewReport) error {
	var sent, lately int
	if err := tx.GetContext(ctx, &sent, `SELECT COUNT(*) FROM artist_report WHERE idem_key = ?`, in.Key); err != nil || sent > 0 {
		return err
	}
	now := s.Clock.Now()
	if err := tx.GetContext(ctx, &lately, `SELECT COUNT(*) FROM artist_report WHERE kit_id = ? AND at > ?`, k.ID, now.Add(-time.Hour)); err != nil {
		return err
	}
	if lately >= reportsAnHour && in.Kind != "reaction" {
		return problem.New(http.StatusTooManyRequests, "slow_down", "", "%d reports came in the last hour. This one waits here and is sent by itself.", lately)
	}
	if in.Copy == "" && len(k.Copies) == 1 {
		in.Copy = k.Copies[0].Code
	}
	a, err := s.aboutWhat(ctx, tx, k, in)
	if err != nil {
		return err
	}
	if in.Kind == "reaction" && a.piece == nil {
		return problem.Invalid("missing", "copy", "Under which piece?")
	}
	words := strings.TrimSpace(in.Words)
	kept := words
	if in.Kind == "reaction" || in.Kind == "itch" {
		kept = "" // of somebody's health: it stands with the incident, and can be erased there
	}
	mark := func(n int) *int {
		if n == 0 {
			return nil
		}
		return &n
	}
	var hour *float64
	if in.HourH > 0 {
		hour = &in.HourH
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO artist_report (kit_id, kind, copy_id, layer, lot_id, stage_id, region, step, hour_h, light, edge, colour, hold, worn_h, words, at, said_at, idem_key) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)`,
		k.ID, in.Kind, a.copyID, a.layer, a.lotID, a.stageID, in.Region, in.Step, hour, in.Light, mark(in.Edge), mark(in.Colour), mark(in.Hold), in.WornH, kept, now, in.SaidAt, in.Key)
	if err != nil {
		return err
	}
	id, err := res.LastInsertId()
	if err != nil {
		return err
	}
	if in.WornH > 0 {
		if err := s.wore(ctx, tx, k, a, in.WornH); err != nil {
			return err
		}
	}
	if in.Kind == "reaction" || in.Kind == "itch" {
		if err := s.open(ctx, tx, newIncident{kit: k, piece: *a.piece, number: a.number, copyID: a.copyID, report: uint64(id), region: in.Region, redness: in.Redness, words: words}); err != nil {
			return err
		}
	}
	entry := journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: "reported back", Actor: k.Artist, Words: reportWords(in, kept)}
	if a.piece != nil {
		entry.Piece = a.piece.ID
	}
	_, err = journal.Add(ctx, tx, entry)
	return err
}

// reportWords is a report in the record: nothing of anybody's health.
func reportWords(in NewReport, words string) string {
	var parts []string
	if in.Kind == "reaction" || in.Kind == "itch" {
		return "a report about skin"
	}
	if in.Edge > 0 || in.Colour > 0 || in.Hold > 0 {
		parts = append(parts, fmt.Sprintf("edge %d, colour %d, hold %d of 5", in.Edge, in.Colour, in.Hold))
	} else {
		parts = append(parts, kindText[in.Kind])
	}
	if in.Copy != "" {
		parts = append(parts, in.Copy)
	}
	if in.WornH > 0 {
		parts = append(parts, fmt.Sprintf("worn %.1f h", in.WornH))
	}
	return strings.TrimSpace(strings.Join(parts, ", ") + ". " + words)
}

// wore notes how long a copy was worn; all copies of the kit where none is named.
func (s *Service) wore(ctx context.Context, tx database.Tx, k Kit, a about, hours float64) error {
	where, args := `kit_id = ?`, []any{hours, k.ID}
	if a.copyID != nil {
		where, args = where+` AND copy_id = ?`, append(args, *a.copyID)
	}
	_, err := tx.ExecContext(ctx, `UPDATE copy_use SET worn_h = GREATEST(COALESCE(worn_h, 0), ?) WHERE `+where, args...)
	return err
}

// aboutWhat finds copy, layer, lot and stage of a report.
func (s *Service) aboutWhat(ctx context.Context, tx database.Tx, k Kit, in NewReport) (about, error) {
	var a about
	if in.Copy == "" {
		return a, nil
	}
	i := slices.IndexFunc(k.Copies, func(kc KitCopy) bool { return kc.Code == in.Copy })
	if i < 0 {
		return a, problem.Invalid("unknown_value", "copy", "%s is not in this kit.", in.Copy)
	}
	p, err := piece.Find(ctx, tx, k.Copies[i].Piece)
	if err != nil {
		return a, err
	}
	a.piece, a.number = &p, k.Copies[i].Section
	var copyID, run uint64
	row := struct{ ID, Run uint64 }{}
	if err := tx.GetContext(ctx, &row, `SELECT id, run_id AS run FROM copy WHERE code = ?`, in.Copy); err != nil {
		return a, err
	}
	copyID, run = row.ID, row.Run
	a.copyID = &copyID
	if in.Layer == "" {
		return a, nil
	}
	doc, _, _, err := piece.SectionAt(ctx, tx, p, a.number)
	if err != nil {
		return a, err
	}
	slug := ""
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if l.ID == in.Layer {
			slug = l.Material
		}
	})
	if slug == "" {
		return a, problem.Invalid("unknown_value", "layer", "%s has no such layer.", p.Code)
	}
	return a, s.lotOf(ctx, tx, k, run, slug, &a)
}

// lotOf finds the lot of a product that lies in a copy of a run, or else goes with its kit.
func (s *Service) lotOf(ctx context.Context, tx database.Tx, k Kit, run uint64, slug string, a *about) error {
	if err := tx.GetContext(ctx, &a.layer, `SELECT LEFT(name, 64) FROM material WHERE slug = ?`, slug); err != nil {
		return fmt.Errorf("reading the product of the layer: %w", err)
	}
	var lot struct {
		Lot   uint64
		Stage *uint64
	}
	err := tx.GetContext(ctx, &lot, `SELECT x.lot, x.stage FROM (
		SELECT v.lot_id AS lot, t.id AS stage, 1 AS n FROM run_stage t JOIN movement v ON v.stage_id = t.id JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id WHERE t.run_id = ? AND m.slug = ?
		UNION ALL SELECT n.lot_id, NULL, 2 FROM run_mix rm JOIN mix_line n ON n.mix_id = rm.mix_id JOIN lot l ON l.id = n.lot_id JOIN material m ON m.id = l.material_id WHERE rm.run_id = ? AND m.slug = ?
		UNION ALL SELECT kl.lot_id, NULL, 3 FROM kit_lot kl JOIN lot l ON l.id = kl.lot_id JOIN material m ON m.id = l.material_id WHERE kl.kit_id = ? AND m.slug = ?) x ORDER BY x.n, x.lot LIMIT 1`, run, slug, run, slug, k.ID, slug)
	if errors.Is(err, sql.ErrNoRows) {
		return nil // nobody named a lot of it
	}
	if err != nil {
		return fmt.Errorf("reading the lot of the layer: %w", err)
	}
	a.lotID, a.stageID = &lot.Lot, lot.Stage
	return nil
}

// AddPicture keeps a picture of a report that was sent, once by its key.
func (s *Service) AddPicture(ctx context.Context, token, report, key string, from io.Reader) (ArtistView, error) {
	k, err := s.byToken(ctx, s.DB, token)
	if err != nil {
		return ArtistView{}, err
	}
	if err := s.mayAdd(ctx, s.DB, k, report, key); err != nil {
		var had errHad
		if errors.As(err, &had) {
			return s.Artist(ctx, token)
		}
		return ArtistView{}, err
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return ArtistView{}, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := s.mayAdd(ctx, tx, k, report, key); err != nil {
			return err
		}
		now := s.Clock.Now()
		f, err := s.Files.Record(ctx, tx, taken, now, 0)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO report_picture (report_id, file_id, at, idem_key) SELECT id, ?, ?, ? FROM artist_report WHERE idem_key = ? AND kit_id = ?`, f.ID, now, key, report, k.ID)
		return err
	})
	var had errHad
	if err != nil && !database.IsDuplicate(err) && !errors.As(err, &had) {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "kits", "")
	return s.Artist(ctx, token)
}

// errHad says that a picture was sent before.
type errHad struct{}

func (errHad) Error() string { return "this picture was sent before" }

func (s *Service) mayAdd(ctx context.Context, db database.Reader, k Kit, report, key string) error {
	if len(key) != 36 {
		return problem.Invalid("missing", "key", "A picture is sent with a key of its own.")
	}
	var n struct{ Had, Report, Lately int }
	if err := db.GetContext(ctx, &n, `SELECT (SELECT COUNT(*) FROM report_picture WHERE idem_key = ?) AS had, (SELECT COUNT(*) FROM artist_report WHERE idem_key = ? AND kit_id = ?) AS report,
		(SELECT COUNT(*) FROM artist_report r JOIN report_picture x ON x.report_id = r.id WHERE r.kit_id = ? AND x.at > ?) AS lately`, key, report, k.ID, k.ID, s.Clock.Now().Add(-time.Hour)); err != nil {
		return err
	}
	switch {
	case n.Had > 0:
		return errHad{}
	case n.Report == 0:
		return problem.NotFound("report", report)
	case n.Lately >= picturesAnHour:
		return problem.New(http.StatusTooManyRequests, "slow_down", "", "%d pictures came in the last hour. This one waits and is sent by itself.", n.Lately)
	}
	return nil
}

// Answer writes to the artist what the shop says to a report.
func (s *Service) Answer(ctx context.Context, id uint64, words string) (Kit, error) {
	words = strings.TrimSpace(words)
	if words == "" {
		return Kit{}, problem.Invalid("missing", "words", "What do you answer?")
	}
	who, _ := accounts.From(ctx)
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := tx.GetContext(ctx, &code, `SELECT k.code FROM artist_report r JOIN kit k ON k.id = r.kit_id WHERE r.id = ? FOR UPDATE`, id); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("report", fmt.Sprint(id))
		} else if err != nil {
			return err
		}
		first, err := database.Changed(tx.ExecContext(ctx, `UPDATE artist_report SET answer = ?, answered_at = ?, answered_by = ? WHERE id = ? AND answered_at IS NULL`, words, s.Clock.Now(), who.ID, id))
		if err != nil {
			return err
		}
		if !first {
			return problem.Conflict("answered", "Somebody answered this a moment ago. Nothing was overwritten.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: code, Act: "answered", Words: words})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Kit(ctx, code)
}

// Picture finds a picture that a kit shows: of a report, of its copies, a reference of their briefs.
func (s *Service) picture(ctx context.Context, k Kit, sha string) (files.File, error) {
	var f files.File
	err := s.DB.GetContext(ctx, &f, `SELECT f.id, f.sha256, f.media_type, f.size, f.created_at FROM file f WHERE f.sha256 = ? AND (
		EXISTS (SELECT 1 FROM artist_report r JOIN report_picture x ON x.report_id = r.id WHERE r.kit_id = ? AND x.file_id = f.id)
		OR EXISTS (SELECT 1 FROM kit_copy kc JOIN copy_picture x ON x.copy_id = kc.copy_id WHERE kc.kit_id = ? AND x.file_id = f.id)
		OR EXISTS (SELECT 1 FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN reference_picture x ON x.piece_id = c.piece_id WHERE kc.kit_id = ? AND x.file_id = f.id))`, sha, k.ID, k.ID, k.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return f, problem.NotFound("picture", sha)
	}
	return f, err
}
