package sculpt

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Stamp is a stamping tool of the shop.
type Stamp struct {
	ID       uint64    `db:"id" json:"id"`
	Name     string    `db:"name" json:"name"`
	ODMM     float64   `db:"od_mm" json:"od_mm"`
	Squash   float64   `db:"squash" json:"squash"`
	SquashB  *float64  `db:"squash_b" json:"squash_b,omitempty"`
	Filler   string    `db:"filler" json:"filler"`
	HollowMM float64   `db:"hollow_mm" json:"hollow_mm"`
	Place    string    `db:"place" json:"place"`
	State    string    `db:"state" json:"state" enum:"ready,worn,lost"`
	MadeAt   time.Time `db:"made_at" json:"made_at"`
	By       string    `db:"by_name" json:"made_by"`
	Version  int       `db:"version" json:"version"`
	// Widths and heights of both ends follow from tube and squash.
	AWidth  float64 `db:"-" json:"a_width_mm"`
	AHeight float64 `db:"-" json:"a_height_mm"`
	BWidth  float64 `db:"-" json:"b_width_mm"`
	BHeight float64 `db:"-" json:"b_height_mm"`
}

// NewStamp is a stamp as it is registered or changed.
type NewStamp struct {
	Name     string   `json:"name" maxLength:"24"`
	ODMM     float64  `json:"od_mm"`
	Squash   float64  `json:"squash"`
	SquashB  *float64 `json:"squash_b,omitempty"`
	Filler   string   `json:"filler,omitempty" maxLength:"80"`
	HollowMM float64  `json:"hollow_mm,omitempty" minimum:"0" maximum:"50"`
	Place    string   `json:"place,omitempty" maxLength:"80"`
	State    string   `json:"state,omitempty" enum:"ready,worn,lost,"`
	Version  int      `json:"version,omitempty" doc:"of the stamp that is changed"`
}

func (n *NewStamp) check() error {
	n.Name = strings.TrimSpace(n.Name)
	if n.Name == "" {
		return problem.Invalid("missing", "name", "Give the stamp a name, as it stands on its handle.")
	}
	if n.State == "" {
		n.State = "ready"
	}
	err := texture.Stamp{ID: n.Name, OD: n.ODMM, Squash: n.Squash, SquashB: n.SquashB}.Check("")
	if no, ok := err.(*refusal.Error); ok {
		field := map[string]string{".od": "od_mm", ".squash": "squash", ".squash_b": "squash_b"}[no.Field]
		return problem.Invalid("out_of_range", field, "%s", no.Detail)
	}
	return err
}

// Stamps lists the shop's stamps, largest first.
func (s *Service) Stamps(ctx context.Context) ([]Stamp, error) {
	list := []Stamp{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT t.id, t.name, t.od_mm, t.squash, t.squash_b, t.filler, t.hollow_mm, t.place, t.state, t.made_at, p.name AS by_name, t.version FROM stamp t JOIN person p ON p.id = t.made_by ORDER BY t.od_mm DESC, t.name`); err != nil {
		return nil, err
	}
	for i := range list {
		t := &list[i]
		a, b := texture.HalfAxes(t.ODMM, t.Squash)
		t.AWidth, t.AHeight = 2*a, 2*b
		q := t.Squash
		if t.SquashB != nil {
			q = *t.SquashB
		}
		a, b = texture.HalfAxes(t.ODMM, q)
		t.BWidth, t.BHeight = 2*a, 2*b
	}
	return list, nil
}

// AddStamp registers a stamp.
func (s *Service) AddStamp(ctx context.Context, in NewStamp) ([]Stamp, error) {
	if err := in.check(); err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		_, err := tx.ExecContext(ctx, `INSERT INTO stamp (name, od_mm, squash, squash_b, filler, hollow_mm, place, state, made_at, made_by) VALUES (?,?,?,?,?,?,?,?,?,?)`, in.Name, in.ODMM, in.Squash, in.SquashB, in.Filler, in.HollowMM, in.Place, in.State, now, who.ID)
		if database.IsDuplicate(err) {
			return problem.Invalid("taken", "name", "There is a stamp of this name already.")
		}
		if err != nil {
			return fmt.Errorf("registering the stamp: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "stamp", Code: in.Name, Act: "registered", Words: fmt.Sprintf("tube %.1f mm, squashed to %.2f", in.ODMM, in.Squash)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "stamps", in.Name)
	return s.Stamps(ctx)
}

// ChangeStamp says where a stamp is now, or how it is.
func (s *Service) ChangeStamp(ctx context.Context, id uint64, in NewStamp) ([]Stamp, error) {
	if err := in.check(); err != nil {
		return nil, err
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE stamp SET name = ?, od_mm = ?, squash = ?, squash_b = ?, filler = ?, hollow_mm = ?, place = ?, state = ?, version = version + 1 WHERE id = ? AND version = ?`, in.Name, in.ODMM, in.Squash, in.SquashB, in.Filler, in.HollowMM, in.Place, in.State, id, in.Version))
		if database.IsDuplicate(err) {
			return problem.Invalid("taken", "name", "There is a stamp of this name already.")
		}
		if err != nil {
			return fmt.Errorf("changing the stamp: %w", err)
		}
		if !changed {
			return problem.Conflict("changed", "Somebody changed this stamp a moment ago. Nothing was overwritten; look at it again.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "stamp", Code: in.Name, Act: "changed", Words: strings.TrimSpace(in.State + " " + in.Place)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "stamps", in.Name)
	return s.Stamps(ctx)
}

// Pattern is a texture that the house keeps.
type Pattern struct {
	ID     uint64                `db:"id" json:"id"`
	Name   string                `db:"name" json:"name"`
	Note   string                `db:"note" json:"note"`
	Piece  string                `db:"piece" json:"piece"`
	KeptAt time.Time             `db:"kept_at" json:"kept_at"`
	By     string                `db:"by_name" json:"kept_by"`
	Layers []texture.Layer       `db:"-" json:"layers"`
	Passes []texture.PlannedPass `db:"-" json:"passes"`
	Raw    string                `db:"layers" json:"-"`
	RawP   string                `db:"passes" json:"-"`
	// HoursCM2 is the time that a square centimetre takes, on a test tile of
	// 60 × 60 mm, by the handbook's times.
	MinutesCM2 float64 `db:"-" json:"minutes_cm2"`
}

// NewPattern is a texture as it is kept.
type NewPattern struct {
	Name  string `json:"name" maxLength:"60"`
	Note  string `json:"note,omitempty" maxLength:"500"`
	Piece string `json:"piece" maxLength:"24" doc:"whose plan it is taken from, as one sees it"`
}

// Patterns lists the house patterns by name.
func (s *Service) Patterns(ctx context.Context) ([]Pattern, error) {
	list := []Pattern{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT t.id, t.name, t.note, t.layers, t.passes, COALESCE(q.code, '') AS piece, t.kept_at, p.name AS by_name FROM texture_pattern t JOIN person p ON p.id = t.kept_by LEFT JOIN piece q ON q.id = t.piece_id ORDER BY t.name`); err != nil {
		return nil, err
	}
	for i := range list {
		t := &list[i]
		if err := json.Unmarshal([]byte(t.Raw), &t.Layers); err != nil {
			return nil, fmt.Errorf("reading the pattern %s: %w", t.Name, err)
		}
		if err := json.Unmarshal([]byte(t.RawP), &t.Passes); err != nil {
			return nil, err
		}
		if j, err := s.judge(ctx, onTile(t.Layers, 1), texture.Hands()); err == nil {
			t.MinutesCM2 = rounded(j.Work.Hours*60/36, 2)
		}
	}
	return list, nil
}

// onTile lays layers on a test tile.
func onTile(layers []texture.Layer, by float64) texture.Recipe {
	return texture.Recipe{Seed: 1, Region: texture.Region{Preset: "tile", Params: map[string]float64{"w": 60, "h": 60}}, FeatherMM: 3, Layers: texture.Scaled(layers, by)}
}

// KeepPattern keeps the texture of a piece as a house pattern.
func (s *Service) KeepPattern(ctx context.Context, in NewPattern) ([]Pattern, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return nil, problem.Invalid("missing", "name", "Give the pattern a name.")
	}
	p, err := piece.Find(ctx, s.DB, in.Piece)
	if err != nil {
		return nil, err
	}
	doc, _, _, err := s.Pieces.ReadTexture(ctx, p)
	if err != nil {
		return nil, err
	}
	layers := texture.Scaled(doc.Layers, 1)
	if len(layers) == 0 {
		return nil, problem.Invalid("missing", "piece", "This plan has no texture that could be laid elsewhere: wrinkles and lines along guides belong to their place.")
	}
	if doc.Passes == nil {
		doc.Passes = []texture.PlannedPass{}
	}
	raw, err := json.Marshal(layers)
	if err != nil {
		return nil, err
	}
	passes, err := json.Marshal(doc.Passes)
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		_, err := tx.ExecContext(ctx, `INSERT INTO texture_pattern (name, layers, passes, note, piece_id, kept_at, kept_by) VALUES (?,?,?,?,?,?,?)`, in.Name, string(raw), string(passes), in.Note, p.ID, now, who.ID)
		if database.IsDuplicate(err) {
			return problem.Invalid("taken", "name", "There is a pattern of this name already.")
		}
		if err != nil {
			return fmt.Errorf("keeping the pattern: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "texture", Code: p.Code, Act: "kept as a house pattern", Words: in.Name})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "patterns", in.Name)
	return s.Patterns(ctx)
}

// Scaled is a pattern at another scale, to be laid on a piece.
func (s *Service) Scaled(ctx context.Context, id uint64, by float64) (Pattern, error) {
	list, err := s.Patterns(ctx)
	if err != nil {
		return Pattern{}, err
	}
	for _, t := range list {
		if t.ID == id {
			t.Layers = texture.Scaled(t.Layers, by)
			return t, nil
		}
	}
	return Pattern{}, problem.NotFound("pattern", fmt.Sprint(id))
}
