package form

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/scan"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Coded names a form.
type Coded struct {
	Code string `path:"code"`
}

// Numbered names a thing by its number.
type Numbered struct {
	ID uint64 `path:"id"`
}

// Register puts the form room's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/forms", "Every form", web.Makers, func(ctx context.Context, _ *struct{}) ([]Form, error) { return s.List(ctx) })
	web.Post(api, "/api/forms", "Register a form", web.Makers, func(ctx context.Context, in *struct{ Body NewForm }) (Form, error) { return s.Add(ctx, in.Body) })
	web.Put(api, "/api/forms/{code}", "Say where a form stands and how it is", web.Makers, func(ctx context.Context, in *struct {
		Coded
		Body Condition
	}) (Form, error) {
		return s.SetCondition(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/pieces/{code}/form", "Which form a piece is built on", web.Makers, func(ctx context.Context, in *web.Coded) (BuiltOn, error) { return s.On(ctx, in.Code) })
	web.Put(api, "/api/pieces/{code}/form", "Choose the form that a piece is built on", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body BuiltOn
	}) (BuiltOn, error) {
		return s.Choose(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/pieces/{code}/measured", "What the newest measured scan of a piece says", web.Makers, func(ctx context.Context, in *web.Coded) (Found, error) { return s.FoundOf(ctx, in.Code) })
	registerScans(api, s)
	registerLifeCasts(api, s)
}

func registerScans(api huma.API, s *Service) {
	web.Post(api, "/api/uploads", "Begin a large upload, or go on with one's own", web.Makers, func(ctx context.Context, in *struct{ Body files.NewUpload }) (files.Upload, error) {
		up, err := s.Uploads.Begin(ctx, in.Body)
		if err == nil {
			s.Live.Tell(ctx, "uploads", "")
		}
		return up, err
	})
	type upload struct {
		ID string `path:"id"`
	}
	web.Get(api, "/api/uploads/{id}", "How far one's own upload is", web.Makers, func(ctx context.Context, in *upload) (files.Upload, error) { return s.Uploads.Read(ctx, in.ID) })
	web.Delete(api, "/api/uploads/{id}", "Give an upload up", web.Makers, func(ctx context.Context, in *upload) (files.Upload, error) {
		return files.Upload{ID: in.ID}, s.Uploads.Drop(ctx, in.ID)
	})
	web.Get(api, "/api/scans", "Scans of a piece or form, with what is known of them", web.Makers, func(ctx context.Context, in *struct {
		Piece string `query:"piece"`
		Form  string `query:"form"`
	}) (Scans, error) {
		return s.ScansOf(ctx, in.Piece, in.Form)
	})
	web.Post(api, "/api/scans", "Keep an uploaded scan and have it looked at", web.Makers, func(ctx context.Context, in *struct{ Body NewScan }) (Scans, error) {
		return s.AddScan(ctx, in.Body)
	})
	web.Put(api, "/api/scans/{id}", "Say in which unit a scan is, how noisy, and over which core it lies", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body Told
	}) (Scans, error) {
		return s.Tell(ctx, in.ID, in.Body)
	})
	web.Delete(api, "/api/scans/{id}", "Put a scan aside; its file stays", web.Makers, func(ctx context.Context, in *Numbered) (Scans, error) { return s.Aside(ctx, in.ID) })
	web.Post(api, "/api/scans/{id}/measure", "Measure a sculpt over its core, for a pull", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body Pulling
	}) (Scans, error) {
		return s.Measure(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/scans/{id}/stop", "Stop what is being computed of a scan", web.Makers, func(ctx context.Context, in *Numbered) (Scans, error) { return s.StopJob(ctx, in.ID) })
	web.Post(api, "/api/scans/{id}/change", "Compare a scan with an earlier one; ask again for how far it is", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body struct {
			Earlier uint64 `json:"earlier"`
		}
	}) (Compared, error) {
		return s.Compare(ctx, in.ID, in.Body.Earlier)
	})
}

func registerLifeCasts(api huma.API, s *Service) {
	web.Get(api, "/api/life-casts", "Life casts under way, and the newest of the rest", web.Makers, func(ctx context.Context, _ *struct{}) ([]LifeCast, error) { return s.LifeCasts(ctx) })
	web.Post(api, "/api/life-casts/plan", "Work a life cast out without saving it", web.Makers, func(_ context.Context, in *struct{ Body mouldmath.LifeCast }) (mouldmath.LifePlan, error) {
		return mouldmath.PlanLifeCast(in.Body)
	})
	web.Post(api, "/api/life-casts", "Plan a life cast", web.Makers, func(ctx context.Context, in *struct{ Body NewLifeCast }) (LifeCast, error) {
		return s.PlanLifeCast(ctx, in.Body)
	})
	web.Post(api, "/api/life-casts/{id}/ticks", "Say that a point of the list was seen", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body struct {
			Item string `json:"item" maxLength:"40"`
		}
	}) (LifeCast, error) {
		return s.TickLifeCast(ctx, in.ID, in.Body.Item)
	})
	web.Post(api, "/api/life-casts/{id}/ticks/back", "Take back that a point was seen", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body struct {
			Item string `json:"item" maxLength:"40"`
		}
	}) (LifeCast, error) {
		return s.UntickLifeCast(ctx, in.ID, in.Body.Item)
	})
	web.Post(api, "/api/life-casts/{id}/begin", "Start the clock of a life cast", web.Makers, func(ctx context.Context, in *Numbered) (LifeCast, error) { return s.BeginLifeCast(ctx, in.ID) })
	web.Post(api, "/api/life-casts/{id}/events", "Write down what happened", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body NewEvent
	}) (LifeCast, error) {
		return s.NoteLifeCast(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/life-casts/{id}/end", "End a life cast, and register the form that came of it", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body Taken
	}) (LifeCast, error) {
		return s.EndLifeCast(ctx, in.ID, in.Body)
	})
}

// Serve puts what is not JSON on the engine: pieces of uploads, files as they
// came, and pictures of surfaces.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPut, "/api/uploads/:id", "Send the piece of an upload that begins at a byte", web.Makers, func(c *gin.Context) error {
		at, err := strconv.ParseInt(c.Query("at"), 10, 64)
		if err != nil || at < 0 {
			return problem.Invalid("not_a_number", "at", "Say at which byte the piece begins.")
		}
		out, err := s.Uploads.Append(c.Request.Context(), c.Param("id"), at, http.MaxBytesReader(c.Writer, c.Request.Body, files.MaxPiece), web.BreakOff(c))
		if err == nil {
			c.JSON(http.StatusOK, out)
		}
		return err
	})
	e.Handle(http.MethodGet, "/api/scans/:id/file", "A scan's file as it came", web.Makers, func(c *gin.Context) error {
		id, err := strconv.ParseUint(c.Param("id"), 10, 64)
		if err != nil {
			return problem.NotFound("scan", c.Param("id"))
		}
		one, err := s.one(c.Request.Context(), s.DB, id)
		if err != nil {
			return err
		}
		f, err := s.Files.Open(one.SHA256)
		if err != nil {
			return err
		}
		defer f.Close()
		c.Header("Content-Type", "application/octet-stream")
		c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", one.Name))
		c.Header("Content-Length", strconv.FormatInt(one.Size, 10))
		_, err = io.Copy(c.Writer, f)
		return err
	})
	e.Handle(http.MethodGet, "/api/scans/:id/thickness.pdf", "A scan's thickness from four sides, with its figures, on paper", web.Makers, func(c *gin.Context) error {
		id, err := strconv.ParseUint(c.Param("id"), 10, 64)
		if err != nil {
			return problem.NotFound("scan", c.Param("id"))
		}
		out, err := s.Map(c.Request.Context(), id)
		if err != nil {
			return err
		}
		return web.PDF(c, out.Code+"-thickness.pdf", func(w io.Writer) error { return paper.WriteThicknessMap(w, out) })
	})
	e.Handle(http.MethodGet, "/api/forms/:code/label.pdf", "The tag that is tied to a form", web.Makers, func(c *gin.Context) error {
		f, err := s.Find(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, f.Code+"-label.pdf", func(w io.Writer) error { return paper.WriteLabel(w, s.label(f)) })
	})
	e.Handle(http.MethodGet, "/api/surfaces/:sha", "The picture of a surface, as the 3-D view draws it", web.Makers, func(c *gin.Context) error {
		f, err := s.surface(c.Request.Context(), c.Param("sha"))
		if err != nil {
			return err
		}
		c.Header("Content-Type", surfaceType)
		_, err = c.Writer.Write(f)
		return err
	})
	e.Handle(http.MethodGet, "/api/scans/:id/map.png", "A flat picture of a scan's thickness, for print and for machines without 3-D; view=front, left, right, top, under or back", web.Makers, func(c *gin.Context) error {
		id, err := strconv.ParseUint(c.Param("id"), 10, 64)
		if err != nil {
			return problem.NotFound("scan", c.Param("id"))
		}
		flat, err := s.Flat(c.Request.Context(), id, c.DefaultQuery("view", "front"))
		if err != nil {
			return err
		}
		c.Header("Content-Type", "image/png")
		return paper.WriteSurfacePNG(c.Writer, flat)
	})
}

// surface reads a picture of a surface.
func (s *Service) surface(ctx context.Context, sha string) ([]byte, error) {
	var n int
	if err := s.DB.GetContext(ctx, &n, `SELECT COUNT(*) FROM file WHERE sha256 = ? AND media_type = ?`, sha, surfaceType); err != nil {
		return nil, err
	}
	if n == 0 {
		return nil, problem.NotFound("surface", sha)
	}
	f, err := s.Files.Open(sha)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(f)
}

// Flat is the flat picture of a scan: of its thickness when it was measured,
// else of the surface.
func (s *Service) Flat(ctx context.Context, id uint64, view string) (paper.Surface, error) {
	one, err := s.one(ctx, s.DB, id)
	if err != nil {
		return paper.Surface{}, err
	}
	out := paper.Surface{View: view, Title: one.Name}
	sha, layer := "", -1
	switch {
	case one.Measured != nil:
		sha, layer = one.Measured.OverCore, 0
		out.Eps, out.Thin = one.NoiseMM, one.Measured.ThinUnder
		for _, p := range one.Measured.places() {
			if p.At != nil {
				out.Marks = append(out.Marks, paper.SurfaceMark{At: *p.At, Core: p.Kind == "core_contact"})
			}
		}
	case one.Looked != nil:
		sha = one.Looked.Surface
	default:
		return out, problem.Conflict("not_ready", "It is still being looked at.")
	}
	raw, err := s.surface(ctx, sha)
	if err != nil {
		return out, err
	}
	out.Shown, err = scan.Decode(raw)
	out.Layer = layer
	return out, err
}
