package piece

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"yewmoor/internal/craft/colour"
)

// Reference is a picture pinned to a piece.
type Reference struct {
	ID       uint64          `db:"id" json:"id"`
	SHA256   string          `db:"sha256" json:"sha256"`
	Caption  string          `db:"caption" json:"caption"`
	Credit   string          `db:"credit" json:"credit" doc:"whose picture it is"`
	Seen     string          `db:"view" json:"view" doc:"from where it was taken; empty when nobody said"`
	Standing string          `db:"standing" json:"standing" enum:"direct,second-hand,stand-in" doc:"how far it can be trusted"`
	Width    int             `db:"width" json:"width" doc:"pixels, upright; 0 for one from before this was kept"`
	Height   int             `db:"height" json:"height"`
	Version  int             `db:"version" json:"version"`
	AddedAt  time.Time       `db:"added_at" json:"added_at"`
	Notes    []ReferenceNote `db:"-" json:"notes"`
}

// ReferenceNote is a note pinned at a point of a picture, a line traced on it,
// or a colour picked from it.
type ReferenceNote struct {
	ID      uint64       `json:"id"`
	Picture uint64       `json:"picture"`
	Kind    string       `json:"kind" enum:"note,line,colour"`
	Points  [][2]float64 `json:"points" doc:"shares of width and height, 0 to 1"`
	Label   string       `json:"label"`
	Words   string       `json:"words"`
	Lab     *colour.Lab  `json:"lab,omitempty" doc:"of a colour: the mean of the patch"`
	Spread  float64      `json:"spread,omitempty" doc:"of a colour: mean ΔE00 of its pixels to the mean"`
	By      string       `json:"by"`
	AddedAt time.Time    `json:"added_at"`
}

// References lists a piece's pinned pictures with the notes on them.
func (s *Service) References(ctx context.Context, piece uint64) ([]Reference, error) {
	list := []Reference{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT r.id, f.sha256, r.caption, r.credit, r.view, r.standing, r.width, r.height, r.version, r.added_at FROM reference_picture r JOIN file f ON f.id = r.file_id WHERE r.piece_id = ? ORDER BY r.id`, piece); err != nil {
		return nil, fmt.Errorf("reading the references: %w", err)
	}
	var rows []struct {
		ID, Picture                    uint64
		Kind, Points, Label, Words, By string
		L, A, B, Spread                *float64
		AddedAt                        time.Time `db:"added_at"`
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT n.id, n.picture_id AS picture, n.kind, n.points, n.label, n.words, COALESCE(p.name, '') AS `+"`by`"+`, n.lab_l AS l, n.lab_a AS a, n.lab_b AS b, n.spread, n.added_at
		FROM reference_note n JOIN reference_picture r ON r.id = n.picture_id LEFT JOIN person p ON p.id = n.added_by WHERE r.piece_id = ? AND n.removed_at IS NULL ORDER BY n.id`, piece); err != nil {
		return nil, fmt.Errorf("reading the notes on references: %w", err)
	}
	for i := range list {
		list[i].Notes = []ReferenceNote{}
		for _, r := range rows {
			if r.Picture != list[i].ID {
				continue
			}
			n := ReferenceNote{ID: r.ID, Picture: r.Picture, Kind: r.Kind, Label: r.Label, Words: r.Words, By: r.By, AddedAt: r.AddedAt}
			if err := json.Unmarshal([]byte(r.Points), &n.Points); err != nil {
				return nil, err
			}
			if r.L != nil {
				n.Lab = &colour.Lab{L: *r.L, A: *r.A, B: *r.B}
			}
			if r.Spread != nil {
				n.Spread = *r.Spread
			}
			list[i].Notes = append(list[i].Notes, n)
		}
	}
	return list, nil
}
