package texture

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"

	"yewmoor/internal/craft/refusal"
)

// The operations of the calculation "texture" (handbook, vectors/texture.json):
// each takes its arguments as JSON and answers with the keys of the vectors.

func args(raw json.RawMessage, into any) error {
	if err := json.Unmarshal(raw, into); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			return refusal.New(BadNumber, kind.Field, "%s has the wrong kind of value.", kind.Field)
		}
		return refusal.New(refusal.NotAnObject, "", "The input cannot be read: %s.", err)
	}
	return nil
}

// Plan makes a recipe and answers with its numbers.
func Plan(raw json.RawMessage) (any, error) {
	var r Recipe
	if err := args(raw, &r); err != nil {
		return nil, err
	}
	s, err := Make(context.Background(), r)
	if err != nil {
		return nil, err
	}
	return s.Numbers(context.Background())
}

// RNG answers with the first draws of a stream.
func RNG(raw json.RawMessage) (any, error) {
	var in struct {
		Seed  json.RawMessage `json:"seed"`
		Label string          `json:"label"`
		N     int             `json:"n"`
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	var text string
	if json.Unmarshal(in.Seed, &text) != nil {
		text = string(in.Seed)
	}
	seed, err := strconv.ParseUint(text, 0, 64)
	if err != nil {
		return nil, refusal.New(BadNumber, "seed", "The seed is no whole number.")
	}
	if in.N < 0 || in.N > 1000 {
		return nil, bad("n", "0 to 1000 draws.")
	}
	s := newStream(seed, in.Label)
	out := map[string]any{"state": fmt.Sprintf("%016x", s.s)}
	next, u := make([]string, in.N), make([]float64, in.N)
	for i := range next {
		x := s.next()
		next[i], u[i] = fmt.Sprintf("%016x", x), unit(x)
	}
	out["next"], out["u"] = next, u
	return out, nil
}

// RegionOf answers with the area, perimeter and size of a region.
func RegionOf(raw json.RawMessage) (any, error) {
	var r Region
	if err := args(raw, &r); err != nil {
		return nil, err
	}
	f, err := r.Lay()
	if err != nil {
		return nil, err
	}
	w, h := f.Size()
	return map[string]any{"area": f.Area(), "perimeter": f.Perimeter(), "width": w, "height": h}, nil
}

// Tube answers with the half axes of a squashed tube.
func Tube(raw json.RawMessage) (any, error) {
	var in struct{ OD, Q float64 }
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	if err := (Stamp{OD: in.OD, Squash: in.Q}).Check(""); err != nil {
		return nil, err
	}
	a, b := HalfAxes(in.OD, in.Q)
	return map[string]any{"a": a, "b": b}, nil
}

// Tiles answers with how a picture lies on pages.
func Tiles(raw json.RawMessage) (any, error) {
	var in struct {
		Size [2]float64 `json:"size"`
		Page string     `json:"page"`
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	p, err := PaperOf(in.Page)
	if err != nil {
		return nil, err
	}
	t := p.Tile(in.Size[0], in.Size[1])
	return map[string]any{"tiles": []any{t.Across, t.Down, t.Turn()}}, nil
}

// EffectiveOf answers with a groove's width and depth after softening.
func EffectiveOf(raw json.RawMessage) (any, error) {
	var in struct{ Width, Depth, Sigma float64 }
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	w, d := Effective(in.Width, in.Depth, in.Sigma)
	return map[string]any{"width": w, "depth": d}, nil
}

// ClarkEvansOf answers with the regularity of a lattice.
func ClarkEvansOf(raw json.RawMessage) (any, error) {
	var in struct {
		Lattice         string
		Pitch           float64
		Rows, Cols      int
		Area, Perimeter float64
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	if in.Rows < 1 || in.Cols < 1 || in.Rows*in.Cols > maxPieces || in.Rows*in.Cols < 10 || !(in.Pitch > 0 && in.Area > 0) {
		return nil, bad("rows", "10 to %d places.", maxPieces)
	}
	var places []P
	for j := range in.Rows {
		dx, dy := 0.0, in.Pitch
		if in.Lattice == "hex" {
			dy = in.Pitch * math.Sqrt(3) / 2
			dx = in.Pitch / 2 * float64(j%2)
		}
		for i := range in.Cols {
			places = append(places, P{dx + float64(i)*in.Pitch, float64(j) * dy})
		}
	}
	return map[string]any{"R": ClarkEvans(places, in.Area, in.Perimeter)}, nil
}

// AutocorrOf answers with the highest return of a synthetic field on itself.
func AutocorrOf(raw json.RawMessage) (any, error) {
	var in struct {
		Form   string
		N      int
		H      float64
		Period float64
		Seed   uint64
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	if in.N < 1 || in.N > 2048 {
		return nil, bad("n", "1 to 2048 pixels.")
	}
	f := &Field{NX: in.N, NY: in.N, H: in.H, Z: make([]float64, in.N*in.N), In: make([]bool, in.N*in.N)}
	draw := newStream(in.Seed, "noise")
	for k := range f.Z {
		f.In[k] = true
		switch in.Form {
		case "egg":
			f.Z[k] = math.Sin(2*math.Pi*float64(k%in.N)*in.H/in.Period) * math.Sin(2*math.Pi*float64(k/in.N)*in.H/in.Period)
		case "noise":
			f.Z[k] = draw.u()
		}
	}
	peak, lag, _, err := autocorrelation(context.Background(), f)
	return map[string]any{"peak": peak, "lag": lag}, err
}

// ShadeOf answers with the lightness of a plane in raking light.
func ShadeOf(raw json.RawMessage) (any, error) {
	var in struct {
		N      int
		H      float64
		GX, GY float64
	}
	if err := args(raw, &in); err != nil {
		return nil, err
	}
	if in.N < 1 || in.N > 2048 {
		return nil, bad("n", "1 to 2048 pixels.")
	}
	f := &Field{NX: in.N, NY: in.N, H: in.H, Z: make([]float64, in.N*in.N)}
	for k := range f.Z {
		f.Z[k] = in.GX*float64(k%in.N)*in.H + in.GY*float64(k/in.N)*in.H
	}
	return map[string]any{"value": int(f.Shade(in.N/2, in.N/2, Raking))}, nil
}
