// Package mould is the room of moulds: what each is for, its core, its state
// and how many casts it has made.
package mould

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Service does the use cases of the mould room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
}

// Mould is one negative with its parts and core.
type Mould struct {
	Code         string    `db:"code" json:"code"`
	Piece        string    `db:"piece" json:"piece"`
	PieceName    string    `db:"piece_name" json:"piece_name"`
	Kind         string    `db:"kind" json:"kind"`
	Material     string    `db:"material" json:"material"`
	Core         *string   `db:"core" json:"core,omitempty"`
	State        string    `db:"state" json:"state" enum:"wet,drying,dry,in_use,resting,repaired,retired"`
	ReleaseAgent string    `db:"release_agent" json:"release_agent"`
	MadeOn       time.Time `db:"made_on" json:"made_on"`
	Casts        int       `db:"casts" json:"casts"`
}

// NewMould is a mould as it is entered.
type NewMould struct {
	Kind         string `json:"kind" maxLength:"60"`
	Material     string `json:"material" maxLength:"80"`
	Core         string `json:"core,omitempty" doc:"code of the form that is its core"`
	State        string `json:"state" enum:"wet,drying,dry,in_use,resting,repaired,retired"`
	ReleaseAgent string `json:"release_agent,omitempty" maxLength:"80"`
	MadeOn       string `json:"made_on" format:"date"`
}

// List reads the moulds of a piece; for an empty code those of the pieces in
// work.
func (s *Service) List(ctx context.Context, code string) ([]Mould, error) {
	list := []Mould{}
	// Index mould.code's piece key for one piece, piece_put_away for those in work.
	where, args := `WHERE q.code = ?`, []any{code}
	if code == "" {
		where, args = `WHERE q.put_away_at IS NULL`, nil
	}
	err := s.DB.SelectContext(ctx, &list, `SELECT m.code, q.code AS piece, q.name AS piece_name, m.kind, m.material, f.code AS core, m.state, m.release_agent, m.made_on,
		(SELECT COUNT(*) FROM copy c WHERE c.mould_id = m.id) AS casts
		FROM mould m JOIN piece q ON q.id = m.piece_id LEFT JOIN form f ON f.id = m.form_id `+where+` ORDER BY m.code`, args...)
	return list, err
}

// Add registers a mould of a piece and gives it its code.
func (s *Service) Add(ctx context.Context, code string, in NewMould) ([]Mould, error) {
	if strings.TrimSpace(in.Kind) == "" {
		return nil, problem.Invalid("missing", "kind", "What kind of mould is it? For example two-part block.")
	}
	if strings.TrimSpace(in.Material) == "" {
		return nil, problem.Invalid("missing", "material", "What is it made of?")
	}
	made, err := piece.ParseDay(in.MadeOn, "made_on")
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		var form *uint64
		if in.Core != "" {
			form = new(uint64)
			if err := tx.GetContext(ctx, form, `SELECT id FROM form WHERE code = ?`, in.Core); err != nil {
				return problem.Invalid("unknown_value", "core", "There is no form %s.", in.Core)
			}
		}
		number, err := database.NextNumber(ctx, tx, "mould "+code)
		if err != nil {
			return err
		}
		name := fmt.Sprintf("%s/M%d", code, number)
		if _, err := tx.ExecContext(ctx, `INSERT INTO mould (piece_id, number, code, kind, material, form_id, state, release_agent, made_on) VALUES (?,?,?,?,?,?,?,?,?)`,
			p.ID, number, name, in.Kind, in.Material, form, in.State, in.ReleaseAgent, made); err != nil {
			return fmt.Errorf("registering the mould: %w", err)
		}
		if err := piece.Move(ctx, tx, p.ID, "mould", true); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "mould", Code: name, Act: "registered", Words: in.Kind + ", " + in.Material})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell("pieces", code)
	return s.List(ctx, code)
}

// SetState says how a mould is now.
func (s *Service) SetState(ctx context.Context, code, state string) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var m struct {
			ID      uint64
			PieceID uint64 `db:"piece_id"`
		}
		if err := tx.GetContext(ctx, &m, `SELECT id, piece_id FROM mould WHERE code = ?`, code); err != nil {
			return problem.NotFound("mould", code)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = ? WHERE id = ?`, state, m.ID); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mould", Code: code, Act: "state", Words: strings.ReplaceAll(state, "_", " ")})
		return err
	})
	if err == nil {
		s.Live.Tell("moulds", code)
	}
	return err
}

// Register puts the mould room's operations on the API. A mould's code holds
// a slash, so it travels in the body.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/moulds", "Moulds of a piece, or of all", web.Makers, func(ctx context.Context, in *struct {
		Piece string `query:"piece"`
	}) ([]Mould, error) {
		return s.List(ctx, in.Piece)
	})
	web.Post(api, "/api/pieces/{code}/moulds", "Register a mould", web.Makers, func(ctx context.Context, in *struct {
		piece.Coded
		Body NewMould
	}) ([]Mould, error) {
		return s.Add(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/moulds/state", "Say how a mould is now", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			Code  string `json:"code"`
			State string `json:"state" enum:"wet,drying,dry,in_use,resting,repaired,retired"`
		}
	}) ([]Mould, error) {
		if err := s.SetState(ctx, in.Body.Code, in.Body.State); err != nil {
			return nil, err
		}
		s.Live.Tell("moulds", in.Body.Code)
		return s.List(ctx, "")
	})
}
