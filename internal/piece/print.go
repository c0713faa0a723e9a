package piece

import (
	"context"
	"fmt"
	"io"
	"math"
	"net/http"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shelf"
)

// filmMM is the least height of a film in a drawing that is not to true scale.
const filmMM = 0.7

// drawnMM is how high the build-up is drawn at most when heights are stretched.
const drawnMM = 60.0

// printed is what a person sees of a section, as it is drawn on paper.
func (s *Service) printed(ctx context.Context, code string, trueScale bool) (paper.Section, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return paper.Section{}, err
	}
	view, err := s.Section(ctx, code)
	if err != nil {
		return paper.Section{}, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return paper.Section{}, err
	}
	state := fmt.Sprintf("%s §%d", code, view.State.Latest)
	if view.State.Drafted {
		state = "draft on " + state
	}
	out := paper.Section{Code: code, Title: p.Name, Note: p.CharacterName + " · " + state + " · " + s.Clock.Now().Format("2 Jan 2006 15:04")}
	n := 0
	for i, c := range view.Doc.Cuts() {
		up, least := 1.0, 0.0
		if !trueScale {
			high := math.Min(drawnMM, 0.8*c.HalfWidthMM)
			up, least = math.Max(1, math.Min(30, high/math.Max(0.5, view.Result.Cuts[i].CentreMM))), filmMM
		}
		out.Cuts = append(out.Cuts, paper.SectionCut{Name: c.Name, HalfWidthMM: c.HalfWidthMM, Times: up, Bands: c.Outlines(materials, up, least), Words: view.Result.Words[n : n+len(c.Layers)]})
		n += len(c.Layers)
	}
	for _, step := range view.Result.Steps {
		out.Steps = append(out.Steps, step.Text+worth(step))
	}
	return out, nil
}

// worth says how long a step takes, in minutes.
func worth(s section.Step) string {
	text := fmt.Sprintf(" (%.0f min", math.Ceil(s.HandsS/60))
	if s.WaitS > 0 {
		text += fmt.Sprintf(", then wait %.0f min", math.Ceil(s.WaitS/60))
	}
	return text + ")"
}

// Serve puts what is not JSON on the engine: the section on paper.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/pieces/:code/section.svg", "The section as SVG; true_scale=1 for heights as they are", web.Makers, func(c *gin.Context) error {
		out, err := s.printed(c.Request.Context(), c.Param("code"), c.Query("true_scale") != "")
		if err != nil {
			return err
		}
		c.Header("Content-Type", "image/svg+xml")
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		return paper.WriteSectionSVG(c.Writer, out)
	})
	e.Handle(http.MethodGet, "/api/pieces/:code/section.pdf", "The section at true scale, to print", web.Makers, func(c *gin.Context) error {
		out, err := s.printed(c.Request.Context(), c.Param("code"), true)
		if err != nil {
			return err
		}
		return web.PDF(c, c.Param("code")+"-section.pdf", func(w io.Writer) error { return paper.WriteSectionPDF(w, out) })
	})
}
