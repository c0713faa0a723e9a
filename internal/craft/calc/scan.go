package calc

// Scans as JSON.

import (
	"bytes"
	"context"
	"encoding/json"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/scan"
)

// Files reads a file that a case names.
type Files func(name string) ([]byte, error)

// open reads a surface through Files.
func (f Files) open(name string, limit int) (*scan.Raw, error) {
	if f == nil {
		return nil, refusal.New(scan.BadParameter, "file", "Files are read by the command line only.")
	}
	raw, err := f(name)
	if err != nil {
		return nil, refusal.New(scan.BadParameter, "file", "There is no file “%.60s”.", name)
	}
	return scan.Read(name, bytes.NewReader(raw), int64(len(raw)), limit)
}

func (f Files) mesh(name string) (*scan.Mesh, error) {
	r, err := f.open(name, 0)
	if err != nil {
		return nil, err
	}
	return r.Weld(), nil
}

// infoOf answers the case "info".
func (f Files) infoOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in struct {
		File, Part string
		Limit      int
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	r, err := f.open(in.File, in.Limit)
	if err != nil {
		return nil, err
	}
	info, _, err := scan.Inspect(r, in.Part)
	return info, err
}

// thicknessOf answers the case "thickness".
func (f Files) thicknessOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in struct {
		Core, Sculpt string
		scan.Fit
	}
	if err := decode(raw, &in); err != nil {
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
	field, err := scan.Measure(ctx, core, sculpt, in.Fit)
	if err != nil {
		return nil, err
	}
	t := field.Work()
	return struct {
		*scan.Thickness
		Count int `json:"core_contact_count"`
	}{t, len(t.Contacts)}, nil
}

// draftOf answers the case "draft".
func (f Files) draftOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in struct {
		File, Mode string
		Dir        scan.Vec
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	return m.Draft(ctx, in.Dir, in.Mode)
}

// bestOf answers the case "best".
func (f Files) bestOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in struct {
		File, Mode string
		N          int
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	return m.Best(ctx, in.Mode, in.N)
}

type planeArgs struct {
	File          string
	Point, Normal scan.Vec
}

// symmetryOf answers the case "symmetry".
func (f Files) symmetryOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in planeArgs
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	return m.Symmetry(ctx, in.Point, in.Normal)
}

// fitPlaneOf answers the case "fit_plane".
func (f Files) fitPlaneOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in planeArgs
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	m, err := f.mesh(in.File)
	if err != nil {
		return nil, err
	}
	n, offset, err := m.FitPlane(ctx, in.Point, in.Normal)
	if err != nil {
		return nil, err
	}
	return map[string]any{"normal": n, "offset": offset}, nil
}

// unitOf answers the case "unit".
func unitOf(raw json.RawMessage) (any, error) {
	var in struct {
		Diag float64
		Part string
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	g, err := scan.GuessUnit(in.Diag, in.Part)
	if err != nil {
		return nil, err
	}
	return map[string]any{"unit": g.Name, "scale": g.Scale, "candidates": g.Candidates, "ambiguous": g.Ambiguous}, nil
}
