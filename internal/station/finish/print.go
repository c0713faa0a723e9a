package finish

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/problem"
)

// WriteHair prints a zone of hair at true scale: the sheet that lies under the hand.
func (s *Service) WriteHair(ctx context.Context, w io.Writer, of, zone, size string) error {
	if size == "" {
		size = "A4"
	}
	page, err := texture.PaperOf(size)
	if err != nil {
		return err
	}
	v, err := s.Plan(ctx, of, "")
	if err != nil {
		return err
	}
	if v.Result == nil {
		return problem.Conflict("wrong", "The plan cannot be worked out yet: %s", v.Wrong.Detail)
	}
	zones := v.Doc.With(v.Shared).Hair
	i := slices.IndexFunc(zones, func(z plan.Zone) bool { return z.ID == zone })
	if i < 0 {
		return problem.NotFound("zone", zone)
	}
	z, h := zones[i], v.Result.Hair[i]
	out := paper.Hair{Code: of, Title: z.Name, Note: fmt.Sprintf("true scale; %s", v.From), Outline: v.Outline, Zone: z.Outline}
	c := h.Counted
	out.Lines = append(out.Lines, fmt.Sprintf("%d hairs on %.1f cm², %s; cut to %.0f mm, %.2f g to order", c.Count, c.AreaCM2, z.Way, c.CutMM, c.OrderG))
	if h.Punched != nil {
		out.Points, out.Deg = h.Punched.Points, h.Punched.Deg
		out.Lines = append(out.Lines, fmt.Sprintf("%d strokes, about %.0f min; the line of each hair is the way it leans", c.Strokes, c.Minutes))
	}
	if h.Rows != nil {
		out.RowsY = h.Rows.Y
		out.Lines = append(out.Lines, fmt.Sprintf("%d tufts in %d rows, back to front; the hairline set back by turns of %s mm", h.Rows.Total, h.Rows.Rows, backs(h.Rows.Setback)))
	}
	for _, k := range z.Colours {
		out.Lines = append(out.Lines, strings.TrimSpace(fmt.Sprintf("%.0f %% %s %s", 100*k.Share, k.Name, k.Lot)))
	}
	if z.TrimMM > 0 {
		out.Lines = append(out.Lines, strings.TrimSpace(fmt.Sprintf("cut back by %.0f mm once the glue is dry: %s", z.TrimMM, z.TrimWhy)))
	}
	return paper.WriteHair(w, out, page)
}

// backs are the first three setbacks, after which they come again.
func backs(list []float64) string {
	var out []string
	for _, mm := range list[:min(3, len(list))] {
		out = append(out, fmt.Sprintf("%.3g", mm))
	}
	return strings.Join(out, ", ")
}
