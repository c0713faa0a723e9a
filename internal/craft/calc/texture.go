package calc

// Textures as JSON (handbook, vectors/texture.json).

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
)

// texturePlan makes a recipe and answers with its numbers.
func texturePlan(ctx context.Context, raw json.RawMessage) (any, error) {
	var r texture.Recipe
	if err := decode(raw, &r); err != nil {
		return nil, err
	}
	s, err := texture.Make(ctx, r)
	if err != nil {
		return nil, err
	}
	return s.Numbers(ctx)
}

// textureDraws answers with the first draws of a stream.
func textureDraws(raw json.RawMessage) (any, error) {
	var in struct {
		Seed  json.RawMessage `json:"seed"`
		Label string          `json:"label"`
		N     int             `json:"n"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	var text string
	if json.Unmarshal(in.Seed, &text) != nil {
		text = string(in.Seed)
	}
	seed, err := strconv.ParseUint(text, 0, 64)
	if err != nil {
		return nil, refusal.New(texture.BadNumber, "seed", "The seed is no whole number.")
	}
	if in.N < 0 || in.N > 1000 {
		return nil, refusal.New(texture.BadParameter, "n", "0 to 1000 draws.")
	}
	s := texture.NewStream(seed, in.Label)
	out := map[string]any{"state": fmt.Sprintf("%016x", s.State())}
	next, u := make([]string, in.N), make([]float64, in.N)
	for i := range next {
		x := s.Next()
		next[i], u[i] = fmt.Sprintf("%016x", x), texture.Unit(x)
	}
	out["next"], out["u"] = next, u
	return out, nil
}

// regionOf answers with the area, perimeter and size of a region.
func regionOf(raw json.RawMessage) (any, error) {
	var r texture.Region
	if err := decode(raw, &r); err != nil {
		return nil, err
	}
	f, err := r.Lay()
	if err != nil {
		return nil, err
	}
	w, h := f.Size()
	return map[string]any{"area": f.Area(), "perimeter": f.Perimeter(), "width": w, "height": h}, nil
}

// tubeOf answers with the half axes of a squashed tube.
func tubeOf(raw json.RawMessage) (any, error) {
	var in struct{ OD, Q float64 }
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	if err := (texture.Stamp{OD: in.OD, Squash: in.Q}).Check(""); err != nil {
		return nil, err
	}
	a, b := texture.HalfAxes(in.OD, in.Q)
	return map[string]any{"a": a, "b": b}, nil
}

// tilesOf answers with how a picture lies on pages.
func tilesOf(raw json.RawMessage) (any, error) {
	var in struct {
		Size [2]float64 `json:"size"`
		Page string     `json:"page"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	p, err := texture.PaperOf(in.Page)
	if err != nil {
		return nil, err
	}
	t := p.Tile(in.Size[0], in.Size[1])
	return map[string]any{"tiles": []any{t.Across, t.Down, t.Turn()}}, nil
}

// effectiveOf answers with a groove's width and depth after softening.
func effectiveOf(raw json.RawMessage) (any, error) {
	var in struct{ Width, Depth, Sigma float64 }
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	w, d := texture.Effective(in.Width, in.Depth, in.Sigma)
	return map[string]any{"width": w, "depth": d}, nil
}

// clarkEvansOf answers with the regularity of a lattice.
func clarkEvansOf(raw json.RawMessage) (any, error) {
	var in struct {
		Lattice         string
		Pitch           float64
		Rows, Cols      int
		Area, Perimeter float64
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	if in.Rows < 1 || in.Cols < 1 || in.Rows > texture.MaxPieces/in.Cols || in.Rows*in.Cols < 10 || !(in.Pitch > 0 && in.Area > 0) {
		return nil, refusal.New(texture.BadParameter, "rows", "10 to %d places.", texture.MaxPieces)
	}
	var places []texture.P
	for j := range in.Rows {
		dx, dy := 0.0, in.Pitch
		if in.Lattice == "hex" {
			dy = in.Pitch * math.Sqrt(3) / 2
			dx = in.Pitch / 2 * float64(j%2)
		}
		for i := range in.Cols {
			places = append(places, texture.P{dx + float64(i)*in.Pitch, float64(j) * dy})
		}
	}
	return map[string]any{"R": texture.ClarkEvans(places, in.Area, in.Perimeter)}, nil
}

// autocorrOf answers with the highest return of a synthetic field on itself.
func autocorrOf(ctx context.Context, raw json.RawMessage) (any, error) {
	var in struct {
		Form   string
		N      int
		H      float64
		Period float64
		Seed   uint64
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	if in.N < 1 || in.N > 2048 {
		return nil, refusal.New(texture.BadParameter, "n", "1 to 2048 pixels.")
	}
	f := &texture.Field{NX: in.N, NY: in.N, H: in.H, Z: make([]float64, in.N*in.N), In: make([]bool, in.N*in.N)}
	draw := texture.NewStream(in.Seed, "noise")
	for k := range f.Z {
		f.In[k] = true
		switch in.Form {
		case "egg":
			f.Z[k] = math.Sin(2*math.Pi*float64(k%in.N)*in.H/in.Period) * math.Sin(2*math.Pi*float64(k/in.N)*in.H/in.Period)
		case "noise":
			f.Z[k] = draw.U()
		}
	}
	peak, lag, _, err := texture.Autocorrelation(ctx, f)
	return map[string]any{"peak": peak, "lag": lag}, err
}

// shadeOf answers with the lightness of a plane in raking light.
func shadeOf(raw json.RawMessage) (any, error) {
	var in struct {
		N      int
		H      float64
		GX, GY float64
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	if in.N < 1 || in.N > 2048 {
		return nil, refusal.New(texture.BadParameter, "n", "1 to 2048 pixels.")
	}
	f := &texture.Field{NX: in.N, NY: in.N, H: in.H, Z: make([]float64, in.N*in.N)}
	for k := range f.Z {
		f.Z[k] = in.GX*float64(k%in.N)*in.H + in.GY*float64(k/in.N)*in.H
	}
	return map[string]any{"value": int(f.Shade(in.N/2, in.N/2, texture.Raking))}, nil
}
