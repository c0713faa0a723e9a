package brief

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Sheet is a sheet of the wearer's map as the interface draws on it: the net
// of the form, thinned, and what stands on it before any piece does.
type Sheet struct {
	Name    string  `json:"name"`
	Stamp   string  `json:"stamp"`
	Columns int     `json:"columns"`
	Rows    int     `json:"rows"`
	U0      float64 `json:"u0"`
	U1      float64 `json:"u1"`
	V0      float64 `json:"v0"`
	V1      float64 `json:"v1"`
	Wraps   bool    `json:"wraps"`
	// Net are x, y, z of the points in tenths of a mm, row by row from the top.
	Net       []int                 `json:"net"`
	KeepOut   []form.Zone           `json:"keep_out"`
	Openings  []form.Zone           `json:"openings"`
	Landmarks map[string]form.Point `json:"landmarks"`
	Regions   []RegionOutline       `json:"regions"`
	// Views are the yaws and pitches, in degrees, from which it can be seen.
	Yaws    []int `json:"yaws"`
	Pitches []int `json:"pitches"`
}

// RegionOutline is a region of the glossary as it lies on a sheet.
type RegionOutline struct {
	Region  string       `json:"region"`
	Text    string       `json:"text"`
	Side    string       `json:"side"`
	CM2     float64      `json:"cm2"`
	Outline []form.Point `json:"outline"`
}

// Sheet reads a sheet of a performer's map; performer 0 is nobody yet.
func (s *Service) Sheet(ctx context.Context, performer uint64, name string) (Sheet, error) {
	measures, err := people.Measures(ctx, s.DB, &performer)
	if err != nil {
		return Sheet{}, err
	}
	f, err := s.People.Forms.Sheet(name, measures)
	if err != nil {
		return Sheet{}, err
	}
	columns, rows, net := f.Thinned()
	out := Sheet{Name: name, Stamp: people.Stamps(measures)[name], Columns: columns, Rows: rows, Net: make([]int, 0, 3*len(net)), KeepOut: f.KeepOut(), Openings: f.Openings(), Landmarks: f.Landmarks(), Regions: []RegionOutline{}, Pitches: []int{0}}
	out.U0, out.U1, out.V0, out.V1, out.Wraps = f.Bounds()
	for _, p := range net {
		for _, x := range [3]float64{p.X, p.Y, p.Z} {
			out.Net = append(out.Net, int(math.Round(10*x)))
		}
	}
	for _, r := range region.All {
		sides := []string{""}
		if r.Sided {
			sides = []string{"L", "R"}
		}
		for _, side := range sides {
			if o, ok := f.Region(r.Name, side); ok {
				out.Regions = append(out.Regions, RegionOutline{r.Name, r.Text, side, math.Round(f.Area(o)) / 100, o})
			}
		}
	}
	out.Yaws, out.Pitches = yaws(name), pitches(name)
	return out, nil
}

// yaws are the sides from which a sheet can be seen. Hands lie flat.
func yaws(sheet string) []int {
	if form.PartOf(sheet) == "hand" {
		return []int{0}
	}
	list := []int{}
	for yaw := -165; yaw <= 180; yaw += 15 {
		list = append(list, yaw)
	}
	return list
}

func pitches(sheet string) []int {
	if sheet == "head" {
		return []int{-45, 0, 45}
	}
	return []int{0}
}

// Drawing is a sheet seen from one side.
func (s *Service) Drawing(ctx context.Context, performer uint64, name string, yaw, pitch int) (form.View, error) {
	measures, err := people.Measures(ctx, s.DB, &performer)
	if err != nil {
		return form.View{}, err
	}
	if form.PartOf(name) == "" {
		return form.View{}, problem.NotFound("sheet", name)
	}
	return s.People.Forms.View(name, measures, nearest(yaws(name), yaw), nearest(pitches(name), pitch))
}

func nearest(list []int, to int) int {
	best := list[0]
	for _, x := range list {
		if math.Abs(float64(x-to)) < math.Abs(float64(best-to)) {
			best = x
		}
	}
	return best
}

// wearerMarks are what stands on a wearer's own map, and its version.
func (s *Service) wearerMarks(ctx context.Context, db database.Reader, performer *uint64) ([]wearmap.Mark, int, error) {
	if performer == nil {
		return []wearmap.Mark{}, 0, nil
	}
	var row struct {
		Marks   string
		Version int
	}
	err := db.GetContext(ctx, &row, `SELECT marks, version FROM performer_map WHERE performer_id = ?`, *performer)
	if errors.Is(err, sql.ErrNoRows) {
		return []wearmap.Mark{}, 0, nil
	}
	if err != nil {
		return nil, 0, fmt.Errorf("reading the wearer's map: %w", err)
	}
	marks, err := marksOf(row.Marks)
	return marks, row.Version, err
}

// WearerMap is what stands on a wearer's own map.
type WearerMap struct {
	Marks   []wearmap.Mark `json:"marks"`
	Version int            `json:"version"`
}

// WearerMap reads it.
func (s *Service) WearerMap(ctx context.Context, performer uint64) (WearerMap, error) {
	marks, version, err := s.wearerMarks(ctx, s.DB, &performer)
	return WearerMap{marks, version}, err
}

// SetWearerMap replaces it, unless somebody else did meanwhile.
func (s *Service) SetWearerMap(ctx context.Context, performer uint64, in WearerMap) (WearerMap, error) {
	sheets, err := s.People.SheetsOf(ctx, s.DB, &performer)
	if err != nil {
		return WearerMap{}, err
	}
	if err := wearmap.Check("wearer", in.Marks, sheets); err != nil {
		return WearerMap{}, err
	}
	raw, err := json.Marshal(in.Marks)
	if err != nil {
		return WearerMap{}, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM (SELECT id FROM performer WHERE id = ? FOR UPDATE) p`, performer); err != nil {
			return err
		}
		if known == 0 {
			return problem.NotFound("performer", fmt.Sprint(performer))
		}
		_, version, err := s.wearerMarks(ctx, tx, &performer)
		if err != nil {
			return err
		}
		if version != in.Version {
			return problem.Conflict("changed", "Somebody drew on this wearer's map a moment ago. Yours is still on the screen; read theirs first.")
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO performer_map (performer_id, marks, version, changed_at) VALUES (?,?,1,?)
			ON DUPLICATE KEY UPDATE marks = VALUES(marks), version = version + 1, changed_at = VALUES(changed_at)`, performer, string(raw), now); err != nil {
			return fmt.Errorf("keeping the wearer's map: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "performer", Code: fmt.Sprint(performer), Act: "map drawn", Words: fmt.Sprintf("%d marks", len(in.Marks))})
		return err
	})
	if err != nil {
		return WearerMap{}, err
	}
	s.Live.Tell(ctx, "brief", "")
	return s.WearerMap(ctx, performer)
}
