// Package colour is the colour room: what a piece is to look like, recipes for its body and
// what a drawdown of them says, paint schedules, injuries, the palette of a look, the book
// of swatches, the shop's own pigments and lights, and the colours that the makeup artist
// touches up with.
package colour

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/turns"
	"yewmoor/internal/shelf"
)

// Service does the use cases of the colour room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	// Pieces asks the rule book about what goes onto a piece.
	Pieces  *piece.Service
	Wearers Wearers
	Stores  Stores
	Mixes   Mixes
	Reader  Reader
	Files   *files.Store
	// Turns bound how many searches run at once.
	Turns *turns.Turns
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
	if err := possible(t.Lab, ""); err != nil {
		return nil, err
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

// ForTheDay is one colour that the makeup artist needs on the day.
type ForTheDay struct {
	Medium string     `json:"medium"`
	Slug   string     `json:"material"`
	Name   string     `json:"name"`
	Place  string     `json:"place"`
	Lab    colour.Lab `json:"lab"`
	From   string     `json:"from" enum:"kept,schedule" doc:"kept by hand, or a layer of the agreed paint schedule"`
	Tool   string     `json:"tool,omitempty"`
	Carry  float64    `json:"carry_mm,omitempty" doc:"carried on past the edge, on the skin"`
	InKit  bool       `json:"in_kit" doc:"the next kit of the piece holds this medium"`
	Skin   bool       `json:"for_skin" doc:"sold to touch skin"`
}

// DayList is what the makeup artist touches up with, by medium: what was kept, and the
// colours of the agreed paint schedule.
func (s *Service) DayList(ctx context.Context, db database.Reader, code string) ([]ForTheDay, error) {
	p, err := piece.Find(ctx, db, code)
	if err != nil {
		return nil, err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, err
	}
	var held []string
	// Indexes copy_piece_state and those of a kit's copies and lots.
	if err := db.SelectContext(ctx, &held, `SELECT DISTINCT m.slug FROM copy c JOIN kit_copy kc ON kc.copy_id = c.id JOIN kit k ON k.id = kc.kit_id JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id JOIN material m ON m.id = l.material_id
		WHERE c.piece_id = ? AND k.received_at IS NULL`, p.ID); err != nil {
		return nil, fmt.Errorf("reading what the kit holds: %w", err)
	}
	kept, err := List(ctx, db, code)
	if err != nil {
		return nil, err
	}
	out := []ForTheDay{}
	for _, t := range kept {
		out = append(out, ForTheDay{Medium: t.Medium, Slug: t.Material, Name: t.Name, Place: t.Place, Lab: t.Lab, From: "kept"})
	}
	painted, err := s.ofSchedule(ctx, db, p, materials)
	if err != nil {
		return nil, err
	}
	// A colour that is kept by its name is the schedule's, put right by hand.
	for _, c := range painted {
		if !slices.ContainsFunc(kept, func(t TouchUp) bool { return strings.EqualFold(t.Name, c.Name) }) {
			out = append(out, c)
		}
	}
	for i := range out {
		out[i].InKit = slices.Contains(held, out[i].Slug)
		out[i].Skin = materials[out[i].Slug].ForSkin
	}
	slices.SortStableFunc(out, func(a, b ForTheDay) int { return strings.Compare(a.Medium, b.Medium) })
	return out, nil
}

// ofSchedule are the colours of the agreed schedule: as their swatch read, or as they look
// where they lie.
func (s *Service) ofSchedule(ctx context.Context, db database.Reader, p piece.Piece, materials material.Shelf) ([]ForTheDay,
	error) {
	v, known, err := document.At(ctx, db, schedule(p), 0)
	if err != nil || !known {
		return nil, err
	}
	var doc paintwork.Schedule
	if err := json.Unmarshal(v.Doc, &doc); err != nil {
		return nil, err
	}
	looks := map[string]colour.Lab{}
	if slices.ContainsFunc(doc.Layers, func(l paintwork.Layer) bool { return l.Lab == nil }) {
		steps := ScheduleView{Doc: doc}
		if err := s.follow(ctx, db, p, &steps); err != nil {
			return nil, err
		}
		if steps.Painted != nil {
			for _, st := range steps.Painted.Steps {
				looks[st.ID] = st.Lab
			}
		}
	}
	var out []ForTheDay
	for _, l := range doc.Layers {
		c, has := looks[l.ID]
		if l.Lab != nil {
			c, has = *l.Lab, true
		}
		if has && l.Role != "shine" {
			out = append(out, ForTheDay{Medium: materials[l.Medium].Name, Slug: l.Medium, Name: cmp.Or(l.Name, l.Role),
				Place: strings.Join(l.Places, ", "), Lab: c, From: "schedule", Tool: l.Tool, Carry: l.CarryMM})
		}
	}
	return out, nil
}
