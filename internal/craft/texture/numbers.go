package texture

import (
	"context"
	"fmt"
	"math"
)

// Numbers are the metrics of a plan by the handbook's names, flat: L<i> is a
// layer after the macros were written out, F<j> a family of lines, rep the
// repetition, tile the body on the usual base.
func (s *Sheet) Numbers(ctx context.Context) (map[string]any, error) {
	j, err := s.Judge(ctx)
	if err != nil {
		return nil, err
	}
	r := j.Relief
	out := map[string]any{
		"grid": []int{r.NX, r.NY}, "region_area": r.AreaMM2, "perimeter": r.PerimeterMM, "mask_area": r.MaskMM2,
		"h_min": r.MinMM, "h_max": r.MaxMM, "h_mean": r.MeanMM, "h_rms": r.RMSMM, "displaced_mm3": r.DisplacedMM3, "coverage": r.Coverage, "edge_max": r.EdgeMM,
		"hours_texture": j.Work.Hours, "hours_make_stamps": j.Work.MakeH, "smallest_width": j.Fine.Width, "smallest_depth": j.Fine.Depth, "warnings": j.Fine.Warnings,
		"rep.A": j.Repetition.A, "rep.lag": j.Repetition.Lag, "rep.R": j.Repetition.R, "rep.score": j.Repetition.Score, "rep.grade": j.Repetition.Grade,
	}
	if j.Repetition.B >= 0 {
		out["rep.same_pairs"] = j.Repetition.B
	}
	if step, err := s.Field.CountMM(); err == nil {
		out["zscale"] = step
		lo, hi := uint16(65535), uint16(0)
		for _, z := range s.Field.Z {
			c := Count(z, step)
			lo, hi = min(lo, c), max(hi, c)
		}
		out["png_min"], out["png_max"] = lo, hi
	}
	w, h := s.Flat.Size()
	for _, p := range Papers {
		t := p.Tile(w, h)
		out["tiles_"+p.Name] = []any{t.Across, t.Down, t.Turn()}
	}
	if solid, err := s.Field.Solid(DefaultBaseMM, 1); err == nil {
		out["tile.triangles"], out["tile.volume"] = solid.Triangles(), solid.Volume()
	}
	for i, m := range s.Layers {
		m.numbers(out, fmt.Sprintf("L%d", i))
	}
	return out, nil
}

func (m *Marks) numbers(out map[string]any, at string) {
	switch m.Kind {
	case "hatch":
		for i := range m.layer.Families {
			n, mm := count(m.Strokes, func(s Stroke) bool { return s.Family == i })
			lines := map[int]bool{}
			for _, s := range m.Strokes {
				if s.Family == i {
					lines[s.Number] = true
				}
			}
			f := fmt.Sprintf("%s.F%d.", at, i)
			out[f+"lines"], out[f+"strokes"], out[f+"length"] = len(lines), n, mm
		}
		_, mm := count(m.Rescored, nil)
		out[at+".rescored_length"] = mm
	case "scales":
		out[at+".rows"], out[at+".impressions"] = m.Rows, len(m.Impressions)
		for i, s := range m.Stamps {
			n := 0
			for _, p := range m.Impressions {
				if p.Stamp == i {
					n++
				}
			}
			out[at+"."+s.ID] = n
		}
	case "cracks":
		n, mm := count(m.Strokes, nil)
		out[at+".edges"], out[at+".length"] = n, mm
	case "wrinkles", "lines":
		_, mm := count(m.Strokes, nil)
		out[at+".lines"], out[at+".length"] = len(m.wholes), mm
	default:
		out[at+".count"], out[at+".candidates"] = len(m.Spots), m.Candidates
		if !math.IsInf(m.MinRatio, 0) {
			out[at+".min_ratio"] = m.MinRatio
		}
	}
}
