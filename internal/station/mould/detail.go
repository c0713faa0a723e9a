package mould

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Detail is a mould with everything that is known of it.
type Detail struct {
	Mould
	Dries    bool            `json:"dries" doc:"it is gypsum"`
	Drying   Drying          `json:"drying"`
	Marks    []Mark          `json:"marks"`
	Repeats  []Repeat        `json:"repeats"`
	Photos   []Photo         `json:"photos"`
	Made     []Cast          `json:"made"`
	Findings []rules.Finding `json:"findings"`
	PlanID   *uint64         `json:"plan,omitempty"`
}

// Mark is what was seen when a copy came out of a mould.
type Mark struct {
	ID    uint64    `db:"id" json:"id"`
	Copy  *string   `db:"copy_code" json:"copy,omitempty"`
	Kind  string    `db:"kind" json:"kind" enum:"clean,tear,hole,bubble,stuck,thin,flash"`
	Place string    `db:"place" json:"place"`
	Words string    `db:"words" json:"words"`
	At    time.Time `db:"at" json:"at"`
	Who   string    `db:"who" json:"who"`
}

// Repeat is a fault that comes again at the same place.
type Repeat struct {
	Kind   string `db:"kind" json:"kind"`
	Place  string `db:"place" json:"place"`
	Times  int    `db:"times" json:"times"`
	Likely string `db:"-" json:"likely" doc:"where to look"`
}

// likely is where to look for a fault that repeats at one place of a mould.
var likely = map[string]string{
	"tear": "an undercut that locks there, or too thin: look at the thickness map", "hole": "the mould comes down to the core there: core contact, or a bubble in the mould",
	"bubble": "air is caught: drill a vent at the high point there", "stuck": "release missed there, or the surface is damaged",
	"thin": "the core sits off there: check the keys", "flash": "the cutting edge is worn there, or the parts do not close",
}

// Photo is a photograph of a mould.
type Photo struct {
	ID      uint64    `db:"id" json:"id"`
	SHA256  string    `db:"sha256" json:"sha256"`
	Caption string    `db:"caption" json:"caption"`
	At      time.Time `db:"added_at" json:"added_at"`
	Who     string    `db:"who" json:"who"`
}

// Cast is a copy that came of a mould.
type Cast struct {
	Code   string    `db:"code" json:"code"`
	Run    string    `db:"run" json:"run"`
	State  string    `db:"state" json:"state"`
	MadeAt time.Time `db:"made_at" json:"made_at"`
}

// One reads a mould with everything that is known of it.
func (s *Service) One(ctx context.Context, code string) (Detail, error) {
	m, err := find(ctx, s.DB, code)
	if err != nil {
		return Detail{}, err
	}
	list, err := weighings(ctx, s.DB, m.ID)
	if err != nil {
		return Detail{}, err
	}
	out := Detail{Mould: m, Dries: m.Gypsum(), Drying: drying(m, list, s.Clock.Now()), Marks: []Mark{}, Repeats: []Repeat{}, Photos: []Photo{}, Made: []Cast{}}
	out.Findings = found(m, out.Drying)
	for _, q := range []struct {
		into any
		sql  string
	}{
		// Indexes mould_mark_of, mould_photo_of.
		{&out.Marks, `SELECT k.id, c.code AS copy_code, k.kind, k.place, k.words, k.at, p.name AS who FROM mould_mark k LEFT JOIN copy c ON c.id = k.copy_id JOIN person p ON p.id = k.person_id WHERE k.mould_id = ? ORDER BY k.id DESC LIMIT 60`},
		{&out.Repeats, `SELECT kind, place, COUNT(*) AS times FROM mould_mark WHERE mould_id = ? AND kind <> 'clean' AND place <> '' GROUP BY kind, place HAVING COUNT(*) > 1 ORDER BY times DESC, place`},
		{&out.Photos, `SELECT f.id, d.sha256, f.caption, f.added_at, p.name AS who FROM mould_photo f JOIN file d ON d.id = f.file_id JOIN person p ON p.id = f.added_by WHERE f.mould_id = ? ORDER BY f.id DESC LIMIT 24`},
		{&out.Made, `SELECT c.code, r.code AS run, c.state, c.made_at FROM copy c JOIN run r ON r.id = c.run_id WHERE c.mould_id = ? ORDER BY c.id DESC LIMIT 40`},
	} {
		if err := s.DB.SelectContext(ctx, q.into, q.sql, m.ID); err != nil {
			return out, fmt.Errorf("reading the mould %s: %w", code, err)
		}
	}
	for i := range out.Repeats {
		out.Repeats[i].Likely = likely[out.Repeats[i].Kind]
	}
	var plans []uint64
	if err := s.DB.SelectContext(ctx, &plans, `SELECT plan_id FROM mould WHERE id = ? AND plan_id IS NOT NULL`, m.ID); err != nil {
		return out, err
	}
	if len(plans) > 0 {
		out.PlanID = &plans[0]
	}
	return out, nil
}

// NewMark is what was seen at a demoulding, as it is entered.
type NewMark struct {
	Code  string `json:"code"`
	Copy  string `json:"copy,omitempty" doc:"the copy that came out; empty for the mould itself"`
	Kind  string `json:"kind" enum:"clean,tear,hole,bubble,stuck,thin,flash"`
	Place string `json:"place,omitempty" maxLength:"60" doc:"left nostril, lower edge: the same words for the same place"`
	Words string `json:"words,omitempty" maxLength:"200"`
	Key   string `json:"key" minLength:"36" maxLength:"36"`
}

// Mark records what a demoulding showed. It may be sent twice.
func (s *Service) Mark(ctx context.Context, in NewMark) (Detail, error) {
	in.Place = strings.ToLower(strings.TrimSpace(in.Place))
	if in.Kind != "clean" && in.Place == "" {
		return Detail{}, problem.Invalid("missing", "place", "Where? In a few words, the same each time: left nostril, lower edge.")
	}
	err := s.change(ctx, in.Code, 0, func(tx database.Tx, m Mould) error {
		var copyID uint64
		if in.Copy != "" {
			if err := tx.GetContext(ctx, &copyID, `SELECT id FROM copy WHERE code = ? AND mould_id = ?`, in.Copy, m.ID); err != nil {
				return problem.Invalid("unknown_value", "copy", "%s did not come out of %s.", in.Copy, in.Code)
			}
		}
		who, _ := accounts.From(ctx)
		changed, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO mould_mark (mould_id, copy_id, kind, place, words, at, person_id, idem_key) VALUES (?,NULLIF(?,0),?,?,?,?,?,?)`, m.ID, copyID, in.Kind, in.Place, strings.TrimSpace(in.Words), s.Clock.Now(), who.ID, in.Key))
		if err != nil {
			return fmt.Errorf("writing the mark: %w", err)
		}
		if !changed {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mould", Code: m.Code, Act: "demoulded", Words: strings.Trim(in.Copy+" "+in.Kind+" "+in.Place, " ")})
		return err
	})
	if err != nil {
		return Detail{}, err
	}
	return s.One(ctx, in.Code)
}

// Photograph keeps a photograph of a mould.
func (s *Service) Photograph(ctx context.Context, code, caption string, from io.Reader) (Detail, error) {
	caption = strings.TrimSpace(caption)
	if caption == "" {
		return Detail{}, problem.Invalid("missing", "caption", "Say in a word what the photograph shows.")
	}
	if len(caption) > 200 {
		return Detail{}, problem.Invalid("too_long", "caption", "Two hundred letters are the most.")
	}
	if _, err := find(ctx, s.DB, code); err != nil {
		return Detail{}, err // before a picture is taken apart for nothing
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return Detail{}, err
	}
	err = s.change(ctx, code, 0, func(tx database.Tx, m Mould) error {
		who, _ := accounts.From(ctx)
		file, err := s.Files.Record(ctx, tx, taken, s.Clock.Now(), who.ID)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO mould_photo (mould_id, file_id, caption, added_at, added_by) VALUES (?,?,?,?,?)`, m.ID, file.ID, caption, s.Clock.Now(), who.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mould", Code: code, Act: "photographed", Words: caption})
		return err
	})
	if err != nil {
		return Detail{}, err
	}
	return s.One(ctx, code)
}
