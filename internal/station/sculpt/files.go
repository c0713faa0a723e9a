package sculpt

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// made is a plan as one sees it, drawn at its own pitch.
func (s *Service) made(ctx context.Context, code string) (*texture.Sheet, paper.Texture, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return nil, paper.Texture{}, err
	}
	doc, state, begun, err := s.Pieces.ReadTexture(ctx, p)
	if err != nil {
		return nil, paper.Texture{}, err
	}
	if !begun {
		return nil, paper.Texture{}, problem.Conflict("not_begun", "There is no texture plan yet.")
	}
	if err := s.bring(ctx, &doc); err != nil {
		return nil, paper.Texture{}, err
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return nil, paper.Texture{}, err
	}
	defer free()
	sheet, err := texture.Make(ctx, doc)
	if err != nil {
		return nil, paper.Texture{}, err
	}
	which := fmt.Sprintf("§%d", state.Latest)
	if state.Drafted {
		which = "draft on " + which
	}
	out := paper.Texture{Code: code, Title: p.Name, Note: fmt.Sprintf("%s · seed %d · %s", which, doc.Seed, s.Clock.Now().Format("2 Jan 2006 15:04")), Sheet: sheet}
	if r, known := region.Find(doc.Region.Preset); known && !r.Outline().Exact() {
		out.Stretch = "a flat stand-in of the region, ± 10 % stretch"
	}
	return sheet, out, nil
}

// printed is a plan with its work, to go on paper.
func (s *Service) printed(ctx context.Context, code string) (paper.Texture, error) {
	sheet, out, err := s.made(ctx, code)
	if err != nil {
		return out, err
	}
	times, err := s.times(ctx)
	if err != nil {
		return out, err
	}
	j, err := sheet.Judge(ctx)
	if err != nil {
		return out, err
	}
	out.Work = j.In(times).Work
	return out, nil
}

func attach(c *gin.Context, kind, name string) {
	c.Header("Content-Type", kind)
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"`, name))
}

// Serve puts what is not JSON on the engine: prints, height fields, bodies and
// uploads.
func (s *Service) Serve(e *web.Engine) {
	on := "/api/pieces/:code/texture"
	e.Handle(http.MethodGet, on+".svg", "The texture plan at true size as SVG", web.Makers, func(c *gin.Context) error {
		t, err := s.printed(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		c.Header("Content-Type", "image/svg+xml")
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		return paper.WriteTextureSVG(c.Writer, t, c.Query("page") == "Letter")
	})
	e.Handle(http.MethodGet, on+".pdf", "The texture plan at true size over pages, with its work; page=A4 or Letter", web.Makers, func(c *gin.Context) error {
		page, err := texture.PaperOf(c.DefaultQuery("page", "A4"))
		if err != nil {
			return err
		}
		t, err := s.printed(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, c.Param("code")+"-texture.pdf", func(w io.Writer) error { return paper.WriteTexturePDF(w, t, page) })
	})
	e.Handle(http.MethodGet, on+"/heights.png", "The relief as a 16-bit grey PNG", web.Makers, func(c *gin.Context) error {
		sheet, _, err := s.made(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		if _, err := sheet.Field.CountMM(); err != nil {
			return err
		}
		attach(c, "image/png", c.Param("code")+"-heights.png")
		return paper.WriteHeights(c.Writer, sheet.Field, sheet.Recipe.Seed)
	})
	e.Handle(http.MethodGet, on+"/shaded.png", "The relief in raking light; azimuth and altitude in degrees", web.Makers, func(c *gin.Context) error {
		light := texture.Raking
		for name, into := range map[string]*float64{"azimuth": &light.Azimuth, "altitude": &light.Altitude} {
			if text := c.Query(name); text != "" {
				v, err := strconv.ParseFloat(text, 64)
				if err != nil || v < -3600 || v > 3600 {
					return problem.Invalid("not_a_number", name, "Give the light's angles in degrees.")
				}
				*into = v
			}
		}
		sheet, _, err := s.made(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		attach(c, "image/png", c.Param("code")+"-relief.png")
		return paper.WriteShaded(c.Writer, sheet.Field, light)
	})
	e.Handle(http.MethodGet, on+"/relief.stl", "The relief on a base as STL; base in mm", web.Makers, func(c *gin.Context) error {
		base, err := strconv.ParseFloat(c.DefaultQuery("base", "8"), 64)
		if err != nil || !(base > 0 && base < 500) {
			return problem.Invalid("not_a_number", "base", "The base lies between 0 and 500 mm.")
		}
		sheet, _, err := s.made(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		solid, err := sheet.Field.Solid(base, sheet.Field.Thinning())
		if err != nil {
			return err
		}
		attach(c, "model/stl", c.Param("code")+"-relief.stl")
		return paper.WriteSTL(c.Writer, solid, c.Param("code"))
	})
	e.Handle(http.MethodGet, on+"/plan.csv", "The work plan as a table", web.Makers, func(c *gin.Context) error {
		t, err := s.printed(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		attach(c, "text/csv; charset=utf-8", c.Param("code")+"-plan.csv")
		return paper.WritePlanCSV(c.Writer, t.Work)
	})
	e.Handle(http.MethodGet, on+"/plan.json", "Recipe and work plan as JSON", web.Makers, func(c *gin.Context) error {
		t, err := s.printed(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		attach(c, "application/json", c.Param("code")+"-plan.json")
		out := json.NewEncoder(c.Writer)
		out.SetIndent("", "  ")
		return out.Encode(map[string]any{"format": "yewmoor-texture-1", "piece": t.Code, "title": t.Title, "recipe": t.Sheet.Recipe, "work": t.Work})
	})
	e.Handle(http.MethodPost, "/api/textures/height-fields", "Bring in a height field: a grey PNG of 8 or 16 bits", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) { return s.BringField(c.Request.Context(), body) })
	})
	e.Handle(http.MethodPost, "/api/pieces/:code/sculpt-photos", "Photograph the real sculpt", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			return s.Photograph(c.Request.Context(), c.Param("code"), c.PostForm("caption"), c.PostForm("painted") == "yes", body)
		})
	})
}
