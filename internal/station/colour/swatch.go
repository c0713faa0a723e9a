package colour

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Swatch is a colour that was made and kept.
type Swatch struct {
	ID       uint64      `db:"id" json:"id"`
	Name     string      `db:"name" json:"name"`
	Slug     string      `db:"slug" json:"material"`
	Medium   string      `db:"medium" json:"medium"`
	Family   string      `db:"family" json:"family"`
	Piece    string      `db:"piece" json:"piece,omitempty"`
	Mix      string      `db:"mix" json:"mix,omitempty"`
	RawParts string      `db:"parts" json:"-"`
	Parts    []TakenPart `db:"-" json:"parts"`
	X        *float64    `db:"thickness_mm" json:"thickness_mm,omitempty"`
	Backing  string      `db:"backing" json:"backing" enum:",white,black,skin,card"`
	Light    string      `db:"light" json:"light" doc:"that its picture was taken under"`
	Picture  *string     `db:"sha256" json:"picture,omitempty"`
	Note     string      `db:"note" json:"note"`
	At       time.Time   `db:"at" json:"at"`
	By       string      `db:"by_name" json:"by"`
	Now      Reading     `db:"-" json:"now" doc:"as it was read last"`
	Readings []ReadOn    `db:"-" json:"readings" doc:"the first first"`
	Aged     *float64    `db:"-" json:"aged,omitempty" doc:"ΔE00 of the last reading from the first"`
	Off      *float64    `db:"-" json:"off,omitempty" doc:"ΔE00 from the colour that was looked for"`
}

// ReadOn is a reading with its day.
type ReadOn struct {
	Reading
	At time.Time `json:"at"`
	By string    `json:"by"`
}

const swatchColumns = `SELECT w.id, w.name, m.slug, m.name AS medium, m.family, COALESCE(q.code, '') AS piece, COALESCE(x.code, '') AS mix, w.parts, w.thickness_mm, w.backing, w.light, f.sha256, w.note, w.at, p.name AS by_name
	FROM swatch w JOIN material m ON m.id = w.material_id JOIN person p ON p.id = w.person_id LEFT JOIN piece q ON q.id = w.piece_id LEFT JOIN mix x ON x.id = w.mix_id LEFT JOIN file f ON f.id = w.file_id `

// mostSwatches is how many the book shows at once.
const mostSwatches = 400

func readSwatches(ctx context.Context, db database.Reader, where string, args ...any) ([]Swatch, error) {
	list := []Swatch{}
	if err := db.SelectContext(ctx, &list, swatchColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading the swatches: %w", err)
	}
	if len(list) == 0 {
		return list, nil
	}
	at := map[uint64]*Swatch{}
	low, high := list[0].ID, list[0].ID
	for i := range list {
		list[i].Readings = []ReadOn{}
		at[list[i].ID] = &list[i]
		low, high = min(low, list[i].ID), max(high, list[i].ID)
		if err := json.Unmarshal([]byte(list[i].RawParts), &list[i].Parts); err != nil {
			return nil, err
		}
	}
	var rows []struct {
		ID    uint64 `db:"subject_id"`
		Value string
		At    time.Time
		By    string `db:"by_name"`
	}
	// Index reading_of, over the range of the swatches that are shown.
	if err := db.SelectContext(ctx, &rows, `SELECT g.subject_id, g.value, g.at, p.name AS by_name FROM reading g JOIN person p ON p.id = g.person_id WHERE g.subject = 'swatch' AND g.subject_id BETWEEN ? AND ? AND g.quantity = 'colour' ORDER BY g.id`, low, high); err != nil {
		return nil, fmt.Errorf("reading the swatches: %w", err)
	}
	for _, r := range rows {
		w := at[r.ID]
		if w == nil {
			continue
		}
		one := ReadOn{At: r.At, By: r.By}
		if err := json.Unmarshal([]byte(r.Value), &one.Reading); err != nil {
			return nil, err
		}
		w.Readings = append(w.Readings, one)
		w.Now = one.Reading
		if n := len(w.Readings); n > 1 {
			off := colour.DE00(w.Readings[0].Lab, one.Lab)
			w.Aged = &off
		}
	}
	return list, nil
}

func swatchAt(ctx context.Context, db database.Reader, id uint64) (Swatch, error) {
	list, err := readSwatches(ctx, db, `WHERE w.id = ?`, id)
	if err != nil {
		return Swatch{}, err
	}
	if len(list) == 0 {
		return Swatch{}, problem.NotFound("swatch", fmt.Sprint(id))
	}
	return list[0], nil
}

// Looked is what is looked for in the book.
type Looked struct {
	Text string
	Near *colour.Lab
}

// Swatches are the book: the newest first, or the nearest to a colour.
func (s *Service) Swatches(ctx context.Context, look Looked) ([]Swatch, error) {
	list, err := readSwatches(ctx, s.DB, `ORDER BY w.id DESC LIMIT ?`, mostSwatches)
	if err != nil {
		return nil, err
	}
	words := strings.Fields(strings.ToLower(look.Text))
	list = slices.DeleteFunc(list, func(w Swatch) bool {
		all := strings.ToLower(strings.Join([]string{w.Name, w.Medium, w.Piece, w.Mix, w.Note, w.Light}, " "))
		for _, x := range words {
			if !strings.Contains(all, x) {
				return true
			}
		}
		return false
	})
	if look.Near != nil {
		for i := range list {
			off := colour.DE00(list[i].Now.Lab, *look.Near)
			list[i].Off = &off
		}
		slices.SortStableFunc(list, func(a, b Swatch) int { return cmp.Compare(*a.Off, *b.Off) })
	}
	return list, nil
}

// NewSwatch is a colour for the book.
type NewSwatch struct {
	Name     string      `json:"name" minLength:"1" maxLength:"80"`
	Material string      `json:"material" maxLength:"64" doc:"slug of the medium or the base"`
	Piece    string      `json:"piece,omitempty" maxLength:"24"`
	Mix      string      `json:"mix,omitempty" maxLength:"16" doc:"the mix that it is of: what was weighed is taken from it"`
	Parts    []TakenPart `json:"parts,omitempty" maxItems:"8" doc:"what is in it, where it was mixed by hand"`
	X        *float64    `json:"thickness_mm,omitempty" minimum:"0.005" maximum:"50"`
	Backing  string      `json:"backing,omitempty" enum:",white,black,skin,card"`
	Light    string      `json:"light,omitempty" maxLength:"40"`
	Note     string      `json:"note,omitempty" maxLength:"300"`
	Reading  NewReading  `json:"reading"`
}

// AddSwatch puts a colour into the book.
func (s *Service) AddSwatch(ctx context.Context, in NewSwatch) (Swatch, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return Swatch{}, problem.Invalid("missing", "name", "Name the colour as you would ask for it.")
	}
	r, err := s.take(in.Reading, "reading.", nil)
	if err != nil {
		return Swatch{}, err
	}
	who, _ := accounts.From(ctx)
	var id int64
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		materials, err := shelf.Load(ctx, tx)
		if err != nil {
			return err
		}
		if _, known := materials[in.Material]; !known {
			return problem.Invalid("unknown_value", "material", "Choose what it is mixed in.")
		}
		parts := append([]TakenPart{}, in.Parts...)
		if in.Mix != "" {
			cup, err := s.Mixes.InCup(ctx, tx, in.Mix)
			if err != nil {
				return problem.Invalid("unknown_value", "mix", "There is no mix %s.", in.Mix)
			}
			parts = parts[:0]
			for _, w := range cup.Colour {
				if cup.BaseG > 0 {
					parts = append(parts, TakenPart{w.Material, 100 * w.Grams / cup.BaseG})
				}
			}
		}
		for i, x := range parts {
			if _, known := materials[x.Material]; !known {
				return problem.Invalid("unknown_value", fmt.Sprintf("parts[%d].material", i), "There is no pigment %s.", x.Material)
			}
		}
		raw, err := json.Marshal(parts)
		if err != nil {
			return err
		}
		var pieceID, mixID *uint64
		for _, f := range []struct {
			code, sql, field string
			into             **uint64
		}{{in.Piece, `SELECT id FROM piece WHERE code = ?`, "piece", &pieceID},
			{in.Mix, `SELECT id FROM mix WHERE code = ?`, "mix", &mixID}} {
			if f.code == "" {
				continue
			}
			var at uint64
			if err := tx.GetContext(ctx, &at, f.sql, f.code); errors.Is(err, sql.ErrNoRows) {
				return problem.Invalid("unknown_value", f.field, "There is no %s %s.", f.field, f.code)
			} else if err != nil {
				return err
			}
			*f.into = &at
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO swatch (name, material_id, piece_id, mix_id, parts, thickness_mm, backing, light, note, at, person_id) SELECT ?,id,?,?,?,?,?,?,?,?,? FROM material WHERE slug = ?`,
			in.Name, pieceID, mixID, string(raw), in.X, in.Backing, in.Light, in.Note, s.Clock.Now(), who.ID, in.Material)
		if err != nil {
			return fmt.Errorf("keeping the swatch: %w", err)
		}
		if id, err = res.LastInsertId(); err != nil {
			return err
		}
		if err := s.keep(ctx, tx, "swatch", uint64(id), r); err != nil {
			return err
		}
		of := uint64(0)
		if pieceID != nil {
			of = *pieceID
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: of, Kind: "swatch", Code: fmt.Sprint(id),
			Act: "swatch kept", Words: in.Name})
		return err
	})
	if err != nil {
		return Swatch{}, err
	}
	s.Live.Tell(ctx, "colours", in.Piece)
	return swatchAt(ctx, s.DB, uint64(id))
}

// ReadSwatch reads a swatch again: how it aged.
func (s *Service) ReadSwatch(ctx context.Context, id uint64, in NewReading) (Swatch, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		w, err := swatchAt(ctx, tx, id)
		if err != nil {
			return err
		}
		r, err := s.take(in, "", &w.Now.Lab)
		if err != nil {
			return err
		}
		if err := s.keep(ctx, tx, "swatch", id, r); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "swatch", Code: fmt.Sprint(id), Act: "swatch read",
			Words: w.Name})
		return err
	})
	if err != nil {
		return Swatch{}, err
	}
	s.Live.Tell(ctx, "colours", "")
	return swatchAt(ctx, s.DB, id)
}

// WriteSwatches draws the book to be printed, each colour beside a frame for its drawdown.
func (s *Service) WriteSwatches(ctx context.Context, w io.Writer, text string) error {
	list, err := s.Swatches(ctx, Looked{Text: text})
	if err != nil {
		return err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return err
	}
	out := make([]paper.BookSwatch, len(list))
	for i, v := range list {
		rgb, shown := v.Now.Lab.SRGB()
		out[i] = paper.BookSwatch{Name: v.Name, RGB: rgb, Beyond: !shown, Lines: []string{
			fmt.Sprintf("L %.1f a %.1f b %.1f ±%.1f, %s", v.Now.Lab.L, v.Now.Lab.A, v.Now.Lab.B, v.Now.Off, sourceWords[v.Now.Source]),
			strings.TrimRight(v.Medium+", "+v.Piece, ", "),
		}}
		if v.X != nil {
			out[i].Lines = append(out[i].Lines, fmt.Sprintf("%.2f mm over %s", *v.X, cmp.Or(v.Backing, "something unsaid")))
		}
		for _, x := range v.Parts {
			out[i].Lines = append(out[i].Lines, fmt.Sprintf("%.3f g in 100: %s", x.Per100, materials[x.Material].Name))
		}
		out[i].Lines = append(out[i].Lines, v.At.Format("2 January 2006")+", "+v.By)
	}
	return paper.WriteSwatches(w, s.Clock.Now().Format("2 January 2006"), out)
}
