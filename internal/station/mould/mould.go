// Package mould is the room of moulds: what one takes to build, what each is
// for, its core and its state, whether it is dry by the scale, how many casts it
// has made and what its copies showed when they came out.
package mould

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"strings"
	"time"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

// Service does the use cases of the mould room.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Files  *files.Store
	Sculpt Sculpt
	Scans  Scans
	Pieces *piece.Service
	// PublicURL is where the codes on tags lead.
	PublicURL string
}

// Sculpt says what speaks against moulding a sculpt now; wired to the sculpting
// room.
type Sculpt interface {
	Gate(ctx context.Context, db database.Reader, p piece.Piece) ([]rules.Finding, error)
}

// Scans says what the scans know of a piece's body; wired to the form room.
type Scans interface {
	Body(ctx context.Context, code string) (Scanned, error)
}

// Scanned is the body of a piece by its newest scan.
type Scanned struct {
	Known     bool           `json:"known"`
	Name      string         `json:"name,omitempty" doc:"of the scan"`
	Body      mouldmath.Body `json:"body"`
	LocksMM2  float64        `json:"locks_mm2"`
	CavityMM3 float64        `json:"cavity_mm3,omitempty" doc:"what is cast: the volume that is believed"`
}

// Mould is one negative with its parts and core.
type Mould struct {
	ID           uint64     `db:"id" json:"-"`
	PieceID      uint64     `db:"piece_id" json:"-"`
	Code         string     `db:"code" json:"code"`
	Piece        string     `db:"piece" json:"piece"`
	PieceName    string     `db:"piece_name" json:"piece_name"`
	Kind         string     `db:"kind" json:"kind"`
	Material     string     `db:"material" json:"material"`
	Core         *string    `db:"core" json:"core,omitempty"`
	State        string     `db:"state" json:"state" enum:"wet,drying,dry,hot,in_use,resting,repaired,retired"`
	ReleaseAgent string     `db:"release_agent" json:"release_agent"`
	Separator    string     `db:"separator_used" json:"separator"`
	Parts        int        `db:"parts" json:"parts"`
	Place        string     `db:"place" json:"place"`
	Life         *int       `db:"life" json:"life,omitempty" doc:"casts it is expected to stand"`
	WallMM       *float64   `db:"wall_mm" json:"wall_mm,omitempty"`
	DryKG        *float64   `db:"dry_kg" json:"dry_kg,omitempty" doc:"what its mix comes to when dry, in theory"`
	SetAt        *time.Time `db:"set_at" json:"set_at,omitempty" doc:"when it was poured"`
	Note         string     `db:"note" json:"note"`
	MadeOn       time.Time  `db:"made_on" json:"made_on"`
	Casts        int        `db:"casts" json:"casts"`
	Version      int        `db:"version" json:"version"`
	LastKG       *float64   `db:"last_kg" json:"last_kg,omitempty"`
}

// Gypsum says whether a mould is one that has to dry; by its material's words,
// for those that were registered before materials were chosen from a list.
func (m Mould) Gypsum() bool {
	if st, known := mouldmath.StuffOf(m.Material); known {
		return st.Gypsum
	}
	for _, word := range []string{"stone", "plaster", "gypsum"} {
		if strings.Contains(strings.ToLower(m.Material), word) {
			return true
		}
	}
	return false
}

// NewMould is a mould as it is entered.
type NewMould struct {
	Kind         string  `json:"kind" maxLength:"60"`
	Material     string  `json:"material" maxLength:"80"`
	Core         string  `json:"core,omitempty" doc:"code of the form that is its core"`
	State        string  `json:"state" enum:"wet,drying,dry,hot,in_use,resting,repaired,retired"`
	ReleaseAgent string  `json:"release_agent,omitempty" maxLength:"80"`
	Separator    string  `json:"separator,omitempty" maxLength:"80"`
	Parts        int     `json:"parts,omitempty" maximum:"12" minimum:"0"`
	Place        string  `json:"place,omitempty" maxLength:"80"`
	Life         int     `json:"life,omitempty" maximum:"10000" minimum:"0"`
	DryKG        float64 `json:"dry_kg,omitempty"`
	MadeOn       string  `json:"made_on" format:"date"`
	Plan         uint64  `json:"plan,omitempty" doc:"the build sheet it was built by"`
}

const mouldColumns = `m.id, m.piece_id, m.code, q.code AS piece, q.name AS piece_name, m.kind, m.material, f.code AS core, m.state, m.release_agent, m.separator_used, m.parts, m.place, m.life, m.wall_mm, m.dry_kg, m.set_at, m.note, m.made_on, m.version,
	(SELECT COUNT(*) FROM copy c WHERE c.mould_id = m.id) AS casts,
	(SELECT w.kg FROM mould_weighing w WHERE w.mould_id = m.id AND NOT EXISTS (SELECT 1 FROM mould_weighing x WHERE x.corrects = w.id) ORDER BY w.at DESC, w.id DESC LIMIT 1) AS last_kg
	FROM mould m JOIN piece q ON q.id = m.piece_id LEFT JOIN form f ON f.id = m.form_id`

// List reads the moulds of a piece; for an empty code those of the pieces in
// work.
func (s *Service) List(ctx context.Context, code string) ([]Mould, error) {
	list := []Mould{}
	// Index mould.code's piece key for one piece, piece_put_away for those in work.
	where, args := `WHERE q.code = ?`, []any{code}
	if code == "" {
		where, args = `WHERE q.put_away_at IS NULL`, nil
	}
	err := s.DB.SelectContext(ctx, &list, `SELECT `+mouldColumns+` `+where+` ORDER BY m.code`, args...)
	return list, err
}

// label is the tag that is tied to a mould; its code leads to its page.
func (s *Service) label(m Mould) paper.Label {
	l := paper.Label{Code: m.Code, Title: m.PieceName, Day: m.Kind + ", " + m.Material + ", " + m.MadeOn.Format("2 Jan 2006"), Link: strings.TrimRight(s.PublicURL, "/") + "/mould?mould=" + url.QueryEscape(m.Code)}
	if m.Parts > 1 {
		l.Lines = append(l.Lines, fmt.Sprintf("%d parts: tie one to each", m.Parts))
	}
	if m.Core != nil {
		l.Lines = append(l.Lines, "core "+*m.Core)
	}
	if m.ReleaseAgent != "" {
		l.Lines = append(l.Lines, "release: "+m.ReleaseAgent)
	}
	return l
}

// find reads one mould.
func find(ctx context.Context, db database.Reader, code string) (Mould, error) {
	var m Mould
	err := db.GetContext(ctx, &m, `SELECT `+mouldColumns+` WHERE m.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return m, problem.NotFound("mould", code)
	}
	return m, err
}

// Add registers a mould of a piece and gives it its code. A wet or drying one
// stands on the pot shelf from then on.
func (s *Service) Add(ctx context.Context, code string, in NewMould) ([]Mould, error) {
	if strings.TrimSpace(in.Kind) == "" {
		return nil, problem.Invalid("missing", "kind", "What kind of mould is it? For example two-part block.")
	}
	if strings.TrimSpace(in.Material) == "" {
		return nil, problem.Invalid("missing", "material", "What is it made of?")
	}
	if in.DryKG < 0 || in.DryKG > 5000 {
		return nil, problem.Invalid("out_of_range", "dry_kg", "Dry it weighs between 0 and 5000 kg.")
	}
	made, err := clock.ParseDay(in.MadeOn, "made_on")
	if err != nil {
		return nil, err
	}
	var name string
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		open, err := s.Sculpt.Gate(ctx, tx, p)
		if err != nil {
			return err
		}
		if err := piece.Meet(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code}, open...); err != nil {
			return err
		}
		if st, known := mouldmath.StuffOf(in.Material); known {
			if err := s.Pieces.AskMould(ctx, tx, p, piece.Mould{Of: st.Of, Release: in.ReleaseAgent}); err != nil {
				return err
			}
		}
		var form *uint64
		if in.Core != "" {
			form = new(uint64)
			if err := tx.GetContext(ctx, form, `SELECT id FROM form WHERE code = ?`, in.Core); err != nil {
				return problem.Invalid("unknown_value", "core", "There is no form %s.", in.Core)
			}
		}
		if in.Plan != 0 {
			var n int
			if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM mould_plan WHERE id = ? AND piece_id = ?`, in.Plan, p.ID); err != nil || n == 0 {
				return problem.Invalid("unknown_value", "plan", "This is no build sheet of %s.", code)
			}
		}
		_, sculpted, err := piece.AgreedTexture(ctx, tx, p.ID)
		if err != nil {
			return err
		}
		number, err := database.NextNumber(ctx, tx, "mould "+code)
		if err != nil {
			return err
		}
		name = fmt.Sprintf("%s/M%d", code, number)
		now := s.Clock.Now()
		var poured *time.Time
		if in.State == "wet" {
			poured = &now
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO mould (piece_id, number, code, kind, material, form_id, state, release_agent, separator_used, parts, place, life, dry_kg, set_at, made_on, plan_id, texture_number) VALUES (?,?,?,?,?,?,?,?,?,?,?,NULLIF(?,0),NULLIF(?,0),?,?,NULLIF(?,0),NULLIF(?,0))`,
			p.ID, number, name, in.Kind, in.Material, form, in.State, in.ReleaseAgent, in.Separator, max(1, in.Parts), in.Place, in.Life, in.DryKG, poured, made, in.Plan, sculpted)
		if err != nil {
			return fmt.Errorf("registering the mould: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		if in.State == "wet" || in.State == "drying" {
			if err := s.toShelf(ctx, tx, p.ID, uint64(id), name); err != nil {
				return err
			}
		}
		if err := round.Forward(ctx, tx, p.ID, round.Mould); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "mould", Code: name, Act: "registered", Words: in.Kind + ", " + in.Material})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.tell(ctx, code, name)
	return s.List(ctx, code)
}

func (s *Service) tell(ctx context.Context, piece, mould string) {
	s.Live.Tell(ctx, "pieces", piece)
	s.Live.Tell(ctx, "moulds", mould)
	s.Live.Tell(ctx, "pots", mould)
}

// toShelf sets a mould on the pot shelf unless it stands there.
func (s *Service) toShelf(ctx context.Context, tx database.Tx, pieceID, id uint64, code string) error {
	var n int
	if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM pot WHERE mould_id = ? AND ended_at IS NULL`, id); err != nil || n > 0 {
		return err
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO pot (piece_id, mould_id, label, kind, family, model, started_at) VALUES (?,?,?,'mould','gypsum','{}',?)`, pieceID, id, code, s.Clock.Now())
	return err
}

// offShelf takes a mould from the pot shelf.
func (s *Service) offShelf(ctx context.Context, tx database.Tx, id uint64, who uint64, why string) error {
	_, err := tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = NULLIF(?,0), end_note = ? WHERE mould_id = ? AND ended_at IS NULL`, s.Clock.Now(), who, why, id)
	return err
}

// Kept is what is written about a mould.
type Kept struct {
	Code         string   `json:"code"`
	State        string   `json:"state" enum:"wet,drying,dry,hot,in_use,resting,repaired,retired"`
	ReleaseAgent string   `json:"release_agent" maxLength:"80"`
	Separator    string   `json:"separator" maxLength:"80"`
	Place        string   `json:"place" maxLength:"80"`
	Life         *int     `json:"life,omitempty" minimum:"0" maximum:"10000"`
	DryKG        *float64 `json:"dry_kg,omitempty"`
	Note         string   `json:"note" maxLength:"300"`
	Version      int      `json:"version"`
}

// Keep writes down how a mould is now. A gypsum mould that is said to be dry and
// is not by the scale is told so, and kept as one says: the eye at the bench may
// know more.
func (s *Service) Keep(ctx context.Context, in Kept) error {
	if in.DryKG != nil && !(*in.DryKG > 0 && *in.DryKG < 5000) {
		return problem.Invalid("out_of_range", "dry_kg", "Dry it weighs more than 0 and less than 5000 kg.")
	}
	return s.change(ctx, in.Code, in.Version, func(tx database.Tx, m Mould) error {
		if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = ?, release_agent = ?, separator_used = ?, place = ?, life = ?, dry_kg = ?, note = ?, version = version + 1 WHERE id = ?`, in.State, in.ReleaseAgent, in.Separator, in.Place, in.Life, in.DryKG, in.Note, m.ID); err != nil {
			return err
		}
		if err := s.shelve(ctx, tx, m, in.State); err != nil {
			return err
		}
		words := strings.ReplaceAll(in.State, "_", " ")
		if in.Place != m.Place {
			words += ", " + in.Place
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mould", Code: m.Code, Act: "state", Words: words})
		return err
	})
}

// shelve sets a mould on the pot shelf or takes it off by its new state.
func (s *Service) shelve(ctx context.Context, tx database.Tx, m Mould, state string) error {
	if state == "wet" || state == "drying" {
		return s.toShelf(ctx, tx, m.PieceID, m.ID, m.Code)
	}
	return s.offShelf(ctx, tx, m.ID, 0, strings.ReplaceAll(state, "_", " "))
}

// SetState says how a mould is now.
func (s *Service) SetState(ctx context.Context, code, state string) error {
	return s.change(ctx, code, 0, func(tx database.Tx, m Mould) error {
		if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = ?, version = version + 1 WHERE id = ?`, state, m.ID); err != nil {
			return err
		}
		if err := s.shelve(ctx, tx, m, state); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mould", Code: code, Act: "state", Words: strings.ReplaceAll(state, "_", " ")})
		return err
	})
}

// change does something to a mould in one act; version 0 asks for none.
func (s *Service) change(ctx context.Context, code string, version int, do func(tx database.Tx, m Mould) error) error {
	var m Mould
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE mould SET id = id WHERE code = ?`, code); err != nil {
			return err
		}
		var err error
		if m, err = find(ctx, tx, code); err != nil {
			return err
		}
		if version != 0 && version != m.Version {
			return problem.Conflict("moved_on", "Somebody else wrote about %s meanwhile; look again. Nothing of yours was written over it.", code)
		}
		return do(tx, m)
	})
	if err == nil {
		s.tell(ctx, m.Piece, code)
	}
	return err
}

// found are what the rules say of a mould as it stands.
func found(m Mould, d Drying) []rules.Finding {
	out := []rules.Finding{}
	if m.Life != nil && *m.Life > 0 {
		left := *m.Life - m.Casts
		if left <= max(2, *m.Life/10) {
			out = append(out, rules.Finding{ID: "MLD-3", Severity: rules.Warn, Reason: fmt.Sprintf("%s has made %d of about %d casts.", m.Code, m.Casts, *m.Life), Remedy: "Look at its edges after each cast, and build the next one before it goes."})
		}
	}
	if m.Gypsum() && m.State == "dry" && d.Curve != nil && d.Curve.State == "drying" {
		out = append(out, rules.Finding{ID: "MLD-1", Severity: rules.Stop, Reason: fmt.Sprintf("%s is called dry and is not by the scale: it still loses %.1f %% a day.", m.Code, 100*d.Curve.Rate), Remedy: "Leave it on laths in moving air; not over 60 °C."})
	}
	return out
}
