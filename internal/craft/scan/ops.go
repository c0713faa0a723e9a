package scan

import (
	"bytes"
	"context"
	"encoding/json"

	"yewmoor/internal/craft/refusal"
)

// Files reads a file that a case names.
type Files func(name string) ([]byte, error)

func args(raw json.RawMessage, into any) error {
	if err := json.Unmarshal(raw, into); err != nil {
		return refusal.New(refusal.NotAnObject, "", "The input cannot be read: %s.", err)
	}
	return nil
}

// Open reads a surface through Files.
func (f Files) Open(name string, limit int) (*Raw, error) {
	if f == nil {
		return nil, bad(BadParameter, "file", "Files are read by the command line only.")
	}
	raw, err := f(name)
	if err != nil {
		return nil, bad(BadParameter, "file", "There is no file “%.60s”.", name)
	}
	return Read(name, bytes.NewReader(raw), int64(len(raw)), limit)
}

func (f Files) mesh(name string) (*Mesh, error) {
	r, err := f.Open(name, 0)
	if err != nil {
		return nil, err
	}
	return r.Weld(), nil
}

// Info is what is known of one surface.
type Info struct {
	Format string `json:"format"`
	UnitGuess
	Topology
	Volumes
	BoxMin   Vec      `json:"box_min"`
	BoxMax   Vec      `json:"box_max"`
	Diagonal float64  `json:"diagonal"`
	Warnings []string `json:"warnings"`
}

// Inspect works out everything about one surface; part may be empty.
func Inspect(r *Raw, part string) (*Info, *Mesh, error) {
	m := r.Weld()
	if len(m.F) == 0 {
		return nil, nil, bad(NoTriangles, "file", "Every triangle of the file has a place twice.")
	}
	out := &Info{Format: r.Format, BoxMin: m.Box.Min, BoxMax: m.Box.Max, Diagonal: m.Box.Diagonal()}
	if part != "" {
		var err error
		if out.UnitGuess, err = GuessUnit(out.Diagonal, part); err != nil {
			return nil, nil, err
		}
	}
	top := m.Topology()
	out.Topology = *top
	out.Topology.Triangles = r.Triangles()
	out.Volumes = m.Volumes(top)
	out.Warnings = top.Warnings(r.Trailing, out.Volumes, out.UnitGuess)
	return out, m, nil
}

// InfoOf answers the case "info".
func (f Files) InfoOf(raw json.RawMessage) (any, error) {
	var in struct {
		File, Part string
		Limit      int
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	r, err := f.Open(in.File, in.Limit)
	if err != nil {
		return nil, err
	}
	info, _, err := Inspect(r, in.Part)
	return info, err
}

// ThicknessOf answers the case "thickness".
func (f Files) ThicknessOf(raw json.RawMessage) (any, error) {
	var in struct {
		Core, Sculpt string
		Fit
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	core, err := f.mesh(in.Core)
	if err != nil {
		return nil, err
	}
	sculpt, err := f.mesh(in.Sculpt)
	if err != nil {
		return nil, err
	}
	field, err := Measure(context.Background(), core, sculpt, in.Fit)
	if err != nil {
		return nil, err
	}
	t := field.Work()
	return struct {
		*Thickness
		Count int `json:"core_contact_count"`
	}{t, len(t.Contacts)}, nil
}

// DraftOf answers the case "draft".
func (f Files) DraftOf(raw json.RawMessage) (any, error) {
	var in struct {
		File, Mode string
		Dir        Vec
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	return m.Draft(context.Background(), in.Dir, in.Mode)
}

// BestOf answers the case "best".
func (f Files) BestOf(raw json.RawMessage) (any, error) {
	var in struct {
		File, Mode string
		N          int
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	return m.Best(context.Background(), in.Mode, in.N)
}

type planeArgs struct {
	File          string
	Point, Normal Vec
}

// SymmetryOf answers the case "symmetry".
func (f Files) SymmetryOf(raw json.RawMessage) (any, error) {
	var in planeArgs
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	return m.Symmetry(context.Background(), in.Point, in.Normal)
}

// FitPlaneOf answers the case "fit_plane".
func (f Files) FitPlaneOf(raw json.RawMessage) (any, error) {
	var in planeArgs
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	n, offset, err := m.FitPlane(context.Background(), in.Point, in.Normal)
	if err != nil {
		return nil, err
	}
	return map[string]any{"normal": n, "offset": offset}, nil
}

// UnitOf answers the case "unit".
func UnitOf(raw json.RawMessage) (any, error) {
	var in struct {
		Diag float64
		Part string
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	g, err := GuessUnit(in.Diag, in.Part)
	if err != nil {
		return nil, err
	}
	return map[string]any{"unit": g.Name, "scale": g.Scale, "candidates": g.Candidates, "ambiguous": g.Ambiguous}, nil
}
