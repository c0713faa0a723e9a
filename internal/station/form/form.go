// Package form is the room of life casts, cores and stands: which form a piece
// is built on, whose it is, and where it stands.
package form

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Service does the use cases of the form room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
}

// Form is one life cast, core or stand.
type Form struct {
	Code      string    `db:"code" json:"code"`
	Performer *string   `db:"performer" json:"performer,omitempty"`
	Region    string    `db:"region" json:"region"`
	Material  string    `db:"material" json:"material"`
	Place     string    `db:"place" json:"place"`
	State     string    `db:"state" json:"state"`
	MadeOn    time.Time `db:"made_on" json:"made_on"`
	Moulds    *string   `db:"moulds" json:"moulds,omitempty" doc:"codes of the moulds that it is the core of"`
}

// NewForm is a form as it is entered.
type NewForm struct {
	Performer string `json:"performer,omitempty" maxLength:"120" doc:"empty for a general form or stand"`
	Region    string `json:"region"`
	Material  string `json:"material" maxLength:"80"`
	Place     string `json:"place" maxLength:"80"`
	State     string `json:"state,omitempty" maxLength:"120"`
	MadeOn    string `json:"made_on" format:"date"`
}

// List reads every form.
func (s *Service) List(ctx context.Context) ([]Form, error) {
	list := []Form{}
	err := s.DB.SelectContext(ctx, &list, `SELECT f.code, p.name AS performer, f.region, f.material, f.place, f.state, f.made_on,
		(SELECT GROUP_CONCAT(m.code ORDER BY m.code SEPARATOR ', ') FROM mould m WHERE m.form_id = f.id) AS moulds
		FROM form f LEFT JOIN performer p ON p.id = f.performer_id ORDER BY f.code`)
	return list, err
}

// Add registers a form and gives it its code.
func (s *Service) Add(ctx context.Context, in NewForm) (Form, error) {
	if _, known := region.Find(in.Region); !known {
		return Form{}, problem.Invalid("unknown_value", "region", "Choose what the form shows.")
	}
	if strings.TrimSpace(in.Material) == "" {
		return Form{}, problem.Invalid("missing", "material", "What is it made of? For example hard stone.")
	}
	made, err := piece.ParseDay(in.MadeOn, "made_on")
	if err != nil {
		return Form{}, err
	}
	var code string
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		number, err := database.NextNumber(ctx, tx, "form")
		if err != nil {
			return err
		}
		code = fmt.Sprintf("F-%03d", number)
		if in.Performer != "" {
			var known int
			if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM performer WHERE name = ?`, in.Performer); err != nil {
				return err
			}
			if known == 0 {
				return problem.Invalid("unknown_value", "performer", "Nobody of this name is known.")
			}
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO form (code, performer_id, region, material, place, state, made_on) VALUES (?, (SELECT id FROM performer WHERE name = ?), ?, ?, ?, ?, ?)`,
			code, in.Performer, in.Region, in.Material, in.Place, in.State, made)
		if err != nil {
			return fmt.Errorf("registering the form: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "form", Code: code, Act: "registered", Words: in.Material + ", " + in.Region})
		return err
	})
	if err != nil {
		return Form{}, err
	}
	s.Live.Tell("forms", code)
	list, err := s.List(ctx)
	for _, f := range list {
		if f.Code == code {
			return f, err
		}
	}
	return Form{}, err
}

// Register puts the form room's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/forms", "Every form", web.Makers, func(ctx context.Context, _ *struct{}) ([]Form, error) { return s.List(ctx) })
	web.Post(api, "/api/forms", "Register a form", web.Makers, func(ctx context.Context, in *struct{ Body NewForm }) (Form, error) { return s.Add(ctx, in.Body) })
}
