// Package colour keeps the touch-up colours of a piece: what the makeup artist
// needs on the day, with the reading of each; and finds recipes for its body that
// match a wearer's skin.
package colour

import (
	"context"
	"fmt"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Service does the use cases of the colour room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	// Pieces asks the rule book about what goes onto a piece.
	Pieces  *piece.Service
	Wearers Wearers
}

// TouchUp is one colour for the day.
type TouchUp struct {
	Name     string `db:"name" json:"name" maxLength:"80"`
	Material string `db:"material" json:"material" doc:"slug of the colour medium"`
	Medium   string `db:"medium" json:"medium,omitempty" doc:"its name"`
	Place    string `db:"place" json:"place" maxLength:"120" doc:"where on the piece"`
	colour.Lab
}

// List reads the touch-up colours of a piece.
func List(ctx context.Context, db database.Reader, code string) ([]TouchUp, error) {
	list := []TouchUp{}
	err := db.SelectContext(ctx, &list, `SELECT t.name, m.slug AS material, m.name AS medium, t.place, t.lab_l AS l, t.lab_a AS a, t.lab_b AS b FROM touch_up t JOIN piece q ON q.id = t.piece_id JOIN material m ON m.id = t.material_id WHERE q.code = ? ORDER BY t.id`, code)
	return list, err
}

// Set adds a touch-up colour or replaces the one of the same name.
func (s *Service) Set(ctx context.Context, code string, t TouchUp) ([]TouchUp, error) {
	t.Name = strings.TrimSpace(t.Name)
	if t.Name == "" {
		return nil, problem.Invalid("missing", "name", "Name the colour as you would ask for it.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if err := s.Pieces.AskTop(ctx, tx, p, t.Material); err != nil {
			return err
		}
		changed, err := database.Changed(tx.ExecContext(ctx, `INSERT INTO touch_up (piece_id, name, material_id, place, lab_l, lab_a, lab_b) SELECT ?,?,id,?,?,?,? FROM material WHERE slug = ? AND family LIKE 'paint%'
			ON DUPLICATE KEY UPDATE material_id = VALUES(material_id), place = VALUES(place), lab_l = VALUES(lab_l), lab_a = VALUES(lab_a), lab_b = VALUES(lab_b)`, p.ID, t.Name, t.Place, t.L, t.A, t.B, t.Material))
		if err != nil {
			return fmt.Errorf("keeping the colour: %w", err)
		}
		if !changed {
			var known int
			if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM material WHERE slug = ? AND family LIKE 'paint%'`, t.Material); err != nil || known == 0 {
				return problem.Invalid("unknown_value", "material", "Choose the medium it is mixed in.")
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "touch-up colour", Words: t.Name})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "colours", code)
	return List(ctx, s.DB, code)
}

// Drop removes a touch-up colour.
func (s *Service) Drop(ctx context.Context, code, name string) ([]TouchUp, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM touch_up WHERE piece_id = ? AND name = ?`, p.ID, name); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "touch-up colour removed", Words: name})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "colours", code)
	return List(ctx, s.DB, code)
}

// Register puts the colour room's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/pieces/{code}/match", "Recipes for the body of a piece that match its wearer's skin", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Region string  `query:"region" maxLength:"40" doc:"which reading; the piece's own region where it is left out"`
			Side   string  `query:"side" enum:",L,R"`
			BatchG float64 `query:"batch_g" minimum:"1" maximum:"50000" default:"500" doc:"base that is mixed"`
		}) (Matched, error) {
			return s.Match(ctx, in.Code, Question{in.Region, in.Side, in.BatchG})
		})
	web.Get(api, "/api/pieces/{code}/touch-ups", "Touch-up colours of a piece", web.Makers, func(ctx context.Context, in *web.Coded) ([]TouchUp, error) { return List(ctx, s.DB, in.Code) })
	web.Put(api, "/api/pieces/{code}/touch-ups", "Keep a touch-up colour", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body TouchUp
	}) ([]TouchUp, error) {
		return s.Set(ctx, in.Code, in.Body)
	})
	web.Delete(api, "/api/pieces/{code}/touch-ups/{name}", "Remove a touch-up colour", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Name string `path:"name"`
	}) ([]TouchUp, error) {
		return s.Drop(ctx, in.Code, in.Name)
	})
}
