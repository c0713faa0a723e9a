package finish

import (
	"context"
	"io"
	"mime/multipart"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Register puts the finishing bench's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/copies/{code}", "A copy with its list of work, ticks and verdicts", web.Makers,
		func(ctx context.Context, in *web.Coded) (Copy, error) { return Read(ctx, s.DB, in.Code) })
	web.Post(api, "/api/copies/{code}/ticks", "Tick a thing on a copy's list", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewTick
	}) (Copy, error) {
		return s.Tick(ctx, in.Code, in.Body, nil)
	})
	web.Post(api, "/api/copies/{code}/ticks/back", "Take a tick back", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Item string `json:"item" minLength:"1" maxLength:"40"`
		}
	}) (Copy, error) {
		return s.Untick(ctx, in.Code, in.Body.Item)
	})
	web.Post(api, "/api/copies/{code}/work", "Change the list of one copy", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body Change
	}) (Copy, error) {
		return s.ChangeCopy(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/pieces/{code}/work", "The list that the next copy of a piece gets", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]work.Item, error) { return s.OfPiece(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/work", "Change the list of a piece", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body Change
	}) ([]work.Item, error) {
		return s.ChangePiece(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/copies/{code}/edges", "Edges and seams of a copy, stretch by stretch", web.Makers,
		func(ctx context.Context, in *web.Coded) (Edges, error) { return s.EdgesOf(ctx, s.DB, in.Code) })
	web.Post(api, "/api/copies/{code}/edges", "Write down how a stretch was found, or what was done to it", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewLook
	}) (Edges, error) {
		return s.LookAt(ctx, in.Code, in.Body)
	})
	registerPlan(api, s)
}

// OfPlan names whose finish plan is meant.
type OfPlan struct {
	Of string `path:"of" maxLength:"24" doc:"a piece by its code, or look-N"`
}

func registerPlan(api huma.API, s *Service) {
	web.Get(api, "/api/finish-plans/{of}", "The finish plan of a piece or a look", web.Makers, func(ctx context.Context, in *struct {
		OfPlan
		Copy string `query:"copy" maxLength:"20" doc:"whose counts are told with it"`
	}) (PlanView, error) {
		return s.Plan(ctx, in.Of, in.Copy)
	})
	web.Put(api, "/api/finish-plans/{of}", "Save a step of the finish plan", web.Makers, func(ctx context.Context, in *struct {
		OfPlan
		Body document.DraftOf[plan.Plan]
	}) (PlanView, error) {
		return s.SavePlan(ctx, in.Of, in.Body)
	})
	web.Post(api, "/api/finish-plans/{of}/undo", "A step back in one's draft of the finish plan", web.Makers,
		func(ctx context.Context, in *OfPlan) (PlanView, error) { return s.WalkPlan(ctx, in.Of, -1) })
	web.Post(api, "/api/finish-plans/{of}/redo", "A step forward again", web.Makers,
		func(ctx context.Context, in *OfPlan) (PlanView, error) { return s.WalkPlan(ctx, in.Of, 1) })
	web.Delete(api, "/api/finish-plans/{of}/draft", "Drop one's draft of the finish plan", web.Makers,
		func(ctx context.Context, in *OfPlan) (PlanView, error) { return s.DropPlan(ctx, in.Of) })
	web.Post(api, "/api/finish-plans/{of}/carry", "Keep one's draft over a version that was agreed meanwhile", web.Makers, func(ctx context.Context, in *struct {
		OfPlan
		Body struct {
			Latest int `json:"latest" minimum:"1" maximum:"1000000"`
		}
	}) (PlanView, error) {
		return s.CarryPlan(ctx, in.Of, in.Body.Latest)
	})
	web.Post(api, "/api/finish-plans/{of}/agree", "Agree the finish plan", web.Skilled,
		func(ctx context.Context, in *OfPlan) (PlanView, error) { return s.AgreePlan(ctx, in.Of) })
	web.Post(api, "/api/finish-plans/{of}/counts", "Count hairs or inserts that were set", web.Makers, func(ctx context.Context, in *struct {
		OfPlan
		Body NewCount
	}) (PlanView, error) {
		return s.Count(ctx, in.Of, in.Body)
	})
	web.Post(api, "/api/pieces/{code}/insert-batches", "Write a batch of inserts down", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewBatch
	}) (PlanView, error) {
		return s.Made(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/pieces/{code}/texture-marks", "What the texture of a piece presses, to be handed on as inserts", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]Pressed, error) { return s.FromTexture(ctx, in.Code) })
}

// Serve puts the pictures' uploads on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPost, "/api/copies/:code/photograph", "Photograph a copy for a line of its list", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			item := c.PostForm("item")
			if item == "" {
				item = "photograph"
			}
			if note := c.PostForm("note"); len(note) > 300 {
				return nil, problem.Invalid("too_long", "note", "Three hundred letters are the most.")
			}
			return s.Tick(c.Request.Context(), c.Param("code"), NewTick{Item: item, Note: c.PostForm("note")}, body)
		})
	})
	e.Handle(http.MethodGet, "/api/finish-plans/:of/hair.pdf", "A zone of hair at true scale, to lie under the hand", web.Makers, func(c *gin.Context) error {
		return web.PDF(c, "hair.pdf", func(w io.Writer) error {
			return s.WriteHair(c.Request.Context(), w, c.Param("of"), c.Query("zone"), c.Query("page"))
		})
	})
	e.Handle(http.MethodPost, "/api/rim-looks/:id/picture", "Photograph a stretch of edge", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			id, err := strconv.ParseUint(c.Param("id"), 10, 53)
			if err != nil {
				return nil, problem.NotFound("look", c.Param("id"))
			}
			return s.PictureRim(c.Request.Context(), id, body)
		})
	})
}
