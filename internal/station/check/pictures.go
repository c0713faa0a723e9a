package check

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
)

// Landmark is a named place of a picture, as shares of its width and height from the top
// left. The same name on two pictures is the same place of the piece.
type Landmark struct {
	Name string  `json:"name" minLength:"1" maxLength:"40"`
	X    float64 `json:"x" minimum:"0" maximum:"1"`
	Y    float64 `json:"y" minimum:"0" maximum:"1"`
	// Differs is set where the two are meant to differ.
	Differs bool `json:"differs,omitempty"`
}

// CardField is a field of a grey or colour card in the picture: where it lies and what it is.
type CardField struct {
	X    float64    `json:"x" minimum:"0" maximum:"1"`
	Y    float64    `json:"y" minimum:"0" maximum:"1"`
	Is   [3]float64 `json:"is" doc:"sRGB code values, 0 to 255"`
	Seen [3]float64 `json:"seen" doc:"as the picture shows it; measured by the server"`
}

// Card is how a picture is put right by the card in it.
type Card struct {
	Model    string        `json:"model"`
	Matrix   [3][3]float64 `json:"matrix" doc:"of linear light"`
	Offset   [3]float64    `json:"offset"`
	Quality  string        `json:"quality" enum:"good,usable,poor"`
	Mean     float64       `json:"de_mean"`
	Warnings []string      `json:"warnings"`
}

// About is what is known of a picture, whatever it is used for.
type About struct {
	Marks    []Landmark  `json:"marks" maxItems:"60"`
	Fields   []CardField `json:"fields" maxItems:"40"`
	MMAcross *float64    `json:"mm_across,omitempty" minimum:"1" maximum:"100000" doc:"how many mm its width is"`
	Version  int         `json:"version" minimum:"0" maximum:"1000000"`
}

// Shot is a picture that can be laid beside another.
type Shot struct {
	SHA256  string    `json:"sha256"`
	Of      string    `json:"of" enum:"copy,reference,sculpt,earlier,other side"`
	Code    string    `json:"code,omitempty" doc:"of the copy that it shows"`
	View    string    `json:"view"`
	Caption string    `json:"caption"`
	Width   int       `json:"width" doc:"as it is shown, in pixels"`
	Height  int       `json:"height"`
	About   About     `json:"about"`
	Card    *Card     `json:"card,omitempty" doc:"none where no card lies in it"`
	At      time.Time `json:"at"`
	fileID  uint64
	kind    string
}

// shownWide is how wide pictures are compared, on their longer side.
const shownWide = 1600

// shown is the size in which a picture is shown and compared.
func shown(w, h int) (int, int) {
	if w <= 0 || h <= 0 {
		return shownWide, shownWide
	}
	k := math.Min(1, shownWide/float64(max(w, h)))
	return int(float64(w)*k + 0.5), int(float64(h)*k + 0.5)
}

type shotRow struct {
	FileID  uint64 `db:"file_id"`
	SHA256  string `db:"sha256"`
	Kind    string `db:"media_type"`
	Of      string `db:"what"`
	Code    string `db:"code"`
	View    string `db:"view"`
	Caption string `db:"caption"`
	Width   int    `db:"width"`
	Height  int    `db:"height"`
	At      time.Time
	Marks   *string
	Card    *string
	MM      *float64 `db:"mm_across"`
	Version *int
}

const aboutColumns = `a.marks, a.card, a.mm_across, a.version FROM `

func (r shotRow) shot() (Shot, error) {
	out := Shot{SHA256: r.SHA256, Of: r.Of, Code: r.Code, View: r.View, Caption: r.Caption, At: r.At, fileID: r.FileID, kind: r.Kind, About: About{Marks: []Landmark{}, Fields: []CardField{}, MMAcross: r.MM}}
	out.Width, out.Height = shown(r.Width, r.Height)
	if r.Marks == nil {
		return out, nil
	}
	out.About.Version = *r.Version
	if err := json.Unmarshal([]byte(*r.Marks), &out.About.Marks); err != nil {
		return out, fmt.Errorf("reading landmarks: %w", err)
	}
	if err := json.Unmarshal([]byte(*r.Card), &out.About.Fields); err != nil {
		return out, fmt.Errorf("reading a card: %w", err)
	}
	out.Card, _ = cardOf(out.About.Fields)
	return out, nil
}

// cardOf is how a picture is put right by its card; nil where none lies in it.
func cardOf(fields []CardField) (*Card, *colour.Card) {
	if len(fields) == 0 {
		return nil, nil
	}
	patches := make([]colour.Patch, len(fields))
	for i, f := range fields {
		patches[i] = colour.Patch{Seen: f.Seen, Is: f.Is}
	}
	k, err := colour.CardOf(patches, "auto")
	if err != nil {
		return nil, nil
	}
	return &Card{Model: k.Model, Matrix: k.Matrix, Offset: k.Offset, Quality: k.Quality, Mean: k.Mean, Warnings: append([]string{}, k.Warnings...)}, &k
}

// Beside is a copy with everything that it can be laid beside.
type Beside struct {
	Shots   []Shot    `json:"shots" doc:"the copy's own first"`
	Grade   string    `json:"grade" enum:"full,good,plain,hidden"`
	Newest  *Measured `json:"newest,omitempty" doc:"what it measured the last time"`
	Wanting []string  `json:"wanting" doc:"views of the copy that nobody has taken yet"`
}

// views are those that a copy is looked at from.
var views = []string{"front", "left", "right", "pose"}

// Beside reads the pictures of a copy and what they can be laid over: the references of
// its brief, its sculpt, earlier copies, and the piece on the other side.
func (s *Service) Beside(ctx context.Context, code string) (Beside, error) {
	c, err := copies.Find(ctx, s.DB, code)
	if err != nil {
		return Beside{}, err
	}
	out := Beside{Shots: []Shot{}, Wanting: []string{}}
	if out.Shots, err = s.shots(ctx, s.DB, c); err != nil {
		return out, err
	}
	brief, _, err := piece.AgreedBrief(ctx, s.DB, c.PieceID)
	if err != nil {
		return out, err
	}
	out.Grade = brief.Grade()
	for _, v := range views {
		if !slices.ContainsFunc(out.Shots, func(x Shot) bool { return x.Of == "copy" && x.View == v }) {
			out.Wanting = append(out.Wanting, v)
		}
	}
	last, known, err := newest(ctx, s.DB, c.ID)
	if known {
		out.Newest = &last
	}
	return out, err
}

func (s *Service) shots(ctx context.Context, db database.Reader, c copies.Copy) ([]Shot, error) {
	out := []Shot{}
	for _, q := range []struct {
		sql  string
		args []any
	}{
		{`SELECT x.file_id, f.sha256, f.media_type, 'copy' AS what, c.code, x.view, x.note AS caption, x.width, x.height, x.at, ` + aboutColumns + `copy_picture x JOIN copy c ON c.id = x.copy_id JOIN file f ON f.id = x.file_id
			LEFT JOIN picture_about a ON a.file_id = f.id WHERE x.copy_id = ? ORDER BY x.id DESC LIMIT 40`, []any{c.ID}},
		{`SELECT x.file_id, f.sha256, f.media_type, 'reference' AS what, '' AS code, x.view, x.caption, x.width, x.height, x.added_at AS at, ` + aboutColumns + `reference_picture x JOIN file f ON f.id = x.file_id
			LEFT JOIN picture_about a ON a.file_id = f.id WHERE x.piece_id = ? ORDER BY x.id LIMIT 40`, []any{c.PieceID}},
		{`SELECT x.file_id, f.sha256, f.media_type, 'sculpt' AS what, '' AS code, '' AS view, x.caption, 0 AS width, 0 AS height, x.added_at AS at, ` + aboutColumns + `sculpt_photo x JOIN file f ON f.id = x.file_id
			LEFT JOIN picture_about a ON a.file_id = f.id WHERE x.piece_id = ? ORDER BY x.id DESC LIMIT 20`, []any{c.PieceID}},
		{`SELECT x.file_id, f.sha256, f.media_type, 'earlier' AS what, c.code, x.view, x.note AS caption, x.width, x.height, x.at, ` + aboutColumns + `copy c JOIN copy_picture x ON x.copy_id = c.id JOIN file f ON f.id = x.file_id
			LEFT JOIN picture_about a ON a.file_id = f.id WHERE c.piece_id = ? AND c.id <> ? ORDER BY x.id DESC LIMIT 40`, []any{c.PieceID, c.ID}},
		{`SELECT x.file_id, f.sha256, f.media_type, 'other side' AS what, c.code, x.view, x.note AS caption, x.width, x.height, x.at, ` + aboutColumns + `piece p JOIN piece o ON o.character_id = p.character_id AND o.region = p.region AND o.id <> p.id
			JOIN copy c ON c.piece_id = o.id JOIN copy_picture x ON x.copy_id = c.id JOIN file f ON f.id = x.file_id LEFT JOIN picture_about a ON a.file_id = f.id
			WHERE p.id = ? AND p.side <> '' AND o.side <> '' AND o.side <> p.side ORDER BY x.id DESC LIMIT 20`, []any{c.PieceID}},
	} {
		var rows []shotRow
		if err := db.SelectContext(ctx, &rows, q.sql, q.args...); err != nil {
			return nil, fmt.Errorf("reading the pictures of %s: %w", c.Code, err)
		}
		for _, r := range rows {
			one, err := r.shot()
			if err != nil {
				return nil, err
			}
			out = append(out, one)
		}
	}
	return out, nil
}

// Taken is a picture of a copy as it comes in.
type Taken struct {
	View, Light, Note string
}

// Photograph keeps a picture of a copy.
func (s *Service) Photograph(ctx context.Context, code string, in Taken, from io.Reader) (Beside, error) {
	if !slices.Contains([]string{"front", "left", "right", "back", "pose", "worn", "close"}, in.View) {
		return Beside{}, problem.Invalid("unknown_value", "view", "Say from where: front, left, right, back, in a pose, worn or close.")
	}
	if len(in.Note) > 200 || len(in.Light) > 40 {
		return Beside{}, problem.Invalid("too_long", "note", "Two hundred letters are the most, forty for the light.")
	}
	if _, err := copies.Find(ctx, s.DB, code); err != nil {
		return Beside{}, err
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return Beside{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		f, err := s.Files.Record(ctx, tx, taken, now, who.ID)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO copy_picture (copy_id, file_id, view, light, note, width, height, at, person_id) VALUES (?,?,?,?,?,?,?,?,?)`, c.ID, f.ID, in.View, in.Light, in.Note, taken.Width, taken.Height, now, who.ID); err != nil {
			return fmt.Errorf("keeping the picture: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: "photographed", Words: in.View})
		return err
	})
	if err != nil {
		return Beside{}, err
	}
	s.Live.Tell(ctx, "copies", code)
	return s.Beside(ctx, code)
}

// fileOf finds a stored picture.
func fileOf(ctx context.Context, db database.Reader, sha string) (files.File, error) {
	var f files.File
	err := db.GetContext(ctx, &f, `SELECT id, sha256, media_type, size, created_at FROM file WHERE sha256 = ?`, sha)
	if errors.Is(err, sql.ErrNoRows) {
		return f, problem.NotFound("picture", sha)
	}
	return f, err
}

// cardHalf is half the side of what is read of a card's field, as a share of the width.
const cardHalf = 0.006

// Describe keeps landmarks, the card and the scale of a picture. The card's fields are
// read from the picture itself.
func (s *Service) Describe(ctx context.Context, sha string, in About) (About, error) {
	f, err := fileOf(ctx, s.DB, sha)
	if err != nil {
		return in, err
	}
	seen := map[string]bool{}
	for i, m := range in.Marks {
		if seen[m.Name] {
			return in, problem.Invalid("contradiction", fmt.Sprintf("marks[%d].name", i), "“%s” stands twice on this picture.", m.Name)
		}
		seen[m.Name] = true
	}
	for i := range in.Fields {
		for _, v := range in.Fields[i].Is {
			if !(v >= 0 && v <= 255) {
				return in, problem.Invalid("out_of_range", fmt.Sprintf("fields[%d].is", i), "What a field is lies between 0 and 255 in each channel.")
			}
		}
		pixels, err := s.Files.Patch(ctx, sha, f.MediaType, in.Fields[i].X, in.Fields[i].Y, cardHalf)
		if err != nil {
			return in, err
		}
		in.Fields[i].Seen = meanOf(pixels)
	}
	marks, err := json.Marshal(in.Marks)
	if err != nil {
		return in, err
	}
	card, err := json.Marshal(in.Fields)
	if err != nil {
		return in, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var version int
		if err := tx.GetContext(ctx, &version, `SELECT COALESCE((SELECT version FROM picture_about WHERE file_id = ? FOR UPDATE), 0)`, f.ID); err != nil {
			return err
		}
		if version != in.Version {
			return problem.Conflict("changed", "Somebody changed the landmarks of this picture meanwhile. Yours are kept on this screen: read it again and set them on top.")
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO picture_about (file_id, marks, card, mm_across, version, at, person_id) VALUES (?,?,?,?,1,?,?)
			ON DUPLICATE KEY UPDATE marks = VALUES(marks), card = VALUES(card), mm_across = VALUES(mm_across), version = version + 1, at = VALUES(at), person_id = VALUES(person_id)`,
			f.ID, string(marks), string(card), in.MMAcross, s.Clock.Now(), who.ID)
		return err
	})
	if err != nil {
		return in, err
	}
	in.Version++
	s.Live.Tell(ctx, "copies", "")
	return in, nil
}

func meanOf(pixels [][3]float64) (m [3]float64) {
	for _, p := range pixels {
		for i := range m {
			m[i] += p[i] / float64(len(pixels))
		}
	}
	return m
}
