package mould

import (
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Register puts the mould room's operations on the API. A mould's code holds
// a slash, so it travels in the body or the query.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/moulds", "Moulds of a piece, or of all", web.Makers, func(ctx context.Context, in *struct {
		Piece string `query:"piece"`
	}) ([]Mould, error) {
		return s.List(ctx, in.Piece)
	})
	web.Get(api, "/api/moulds/one", "A mould with its weighings, casts, marks and photographs", web.Makers, func(ctx context.Context, in *struct {
		Code string `query:"code"`
	}) (Detail, error) {
		return s.One(ctx, in.Code)
	})
	web.Post(api, "/api/pieces/{code}/moulds", "Register a mould", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewMould
	}) ([]Mould, error) {
		return s.Add(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/moulds/state", "Say how a mould is now", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			Code  string `json:"code"`
			State string `json:"state" enum:"wet,drying,dry,hot,in_use,resting,repaired,retired"`
		}
	}) ([]Mould, error) {
		if err := s.SetState(ctx, in.Body.Code, in.Body.State); err != nil {
			return nil, err
		}
		return s.List(ctx, "")
	})
	web.Put(api, "/api/moulds/one", "Write down how a mould is, where it stands, what parts it", web.Makers, func(ctx context.Context, in *struct{ Body Kept }) (Detail, error) {
		if err := s.Keep(ctx, in.Body); err != nil {
			return Detail{}, err
		}
		return s.One(ctx, in.Body.Code)
	})
	web.Post(api, "/api/moulds/weighings", "Weigh a mould, or put a weighing right", web.Makers, func(ctx context.Context, in *struct{ Body NewWeighing }) (Detail, error) {
		return s.Weigh(ctx, in.Body)
	})
	web.Post(api, "/api/moulds/marks", "Record what a demoulding showed", web.Makers, func(ctx context.Context, in *struct{ Body NewMark }) (Detail, error) {
		return s.Mark(ctx, in.Body)
	})
	web.Post(api, "/api/mould-sheets", "Work a build sheet out without keeping it", web.Makers,
		func(ctx context.Context, in *struct{ Body mouldmath.Order }) (mouldmath.Sheet, error) {
			return s.build(ctx, in.Body)
		})
	web.Get(api, "/api/pieces/{code}/mould-plan", "The build sheet of a piece's next mould", web.Makers, func(ctx context.Context, in *web.Coded) (Plan, error) { return s.PlanOf(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/mould-plan", "Keep a build sheet for a piece's next mould", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body mouldmath.Order
	}) (Plan, error) {
		return s.Lay(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/pieces/{code}/mould-plan/ticks", "Say that a point of the build sheet is done, or not after all", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Plan uint64 `json:"plan"`
			Item string `json:"item" maxLength:"60"`
			Done bool   `json:"done"`
		}
	}) (Plan, error) {
		return s.Tick(ctx, in.Code, in.Body.Plan, in.Body.Item, in.Body.Done)
	})
}

// Serve puts what is not JSON on the engine: sheet and tag on paper, photographs.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/pieces/:code/mould-plan.pdf", "The build sheet on paper", web.Makers, func(c *gin.Context) error {
		out, err := s.printed(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, c.Param("code")+"-mould.pdf", func(w io.Writer) error { return paper.WriteMould(w, out) })
	})
	e.Handle(http.MethodGet, "/api/moulds/label.pdf", "The tag that is tied to a mould; code=BF-03/M1", web.Makers, func(c *gin.Context) error {
		m, err := find(c.Request.Context(), s.DB, c.Query("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, strings.ReplaceAll(m.Code, "/", "-")+"-label.pdf", func(w io.Writer) error { return paper.WriteLabel(w, s.label(m)) })
	})
	e.Handle(http.MethodPost, "/api/moulds/photographs", "Photograph a mould", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			return s.Photograph(c.Request.Context(), c.PostForm("code"), c.PostForm("caption"), body)
		})
	})
}

// printed is a build sheet as it goes on paper.
func (s *Service) printed(ctx context.Context, code string) (paper.Mould, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return paper.Mould{}, err
	}
	plan, err := s.PlanOf(ctx, code)
	if err != nil {
		return paper.Mould{}, err
	}
	if plan.Sheet == nil {
		return paper.Mould{}, problem.Conflict("not_begun", "There is no build sheet for %s yet.", code)
	}
	sheet := plan.Sheet
	out := paper.Mould{Code: code, Title: p.Name, Kind: fmt.Sprintf("%s of %s", sheet.Order.Kind, sheet.Order.Stuff), Note: fmt.Sprintf("wall %g mm · %d parts · laid out by %s, %s", sheet.Wall, sheet.Order.Parts, plan.PlannedBy, plan.PlannedAt.Format("2 Jan 2006")), Cautions: sheet.Cautions}
	if sheet.Order.Jacket != "" {
		out.Kind += ", jacket of " + sheet.Order.Jacket
	}
	for _, l := range sheet.Lines {
		out.Lines = append(out.Lines, [4]string{l.What, quantity.FormatMass(l.Need), quantity.FormatMass(l.Order), l.Rule})
	}
	for _, i := range sheet.Items {
		out.Items = append(out.Items, i.Text+" ("+i.Why+")")
	}
	for _, st := range sheet.Steps {
		text := fmt.Sprintf("%s (%s hands", st.Text, quantity.FormatDuration(st.HandsS))
		if st.WaitS > 0 {
			text += fmt.Sprintf(", then %s: %s", quantity.FormatDuration(st.WaitS), st.Wait)
		} else if st.Wait != "" {
			text += ", then until " + st.Wait
		}
		text += ")"
		if st.Mind != "" {
			text += " " + st.Mind
		}
		out.Steps = append(out.Steps, text)
	}
	for _, f := range sheet.Findings {
		out.Findings = append(out.Findings, strings.ToUpper(string(f.Severity))+" "+f.ID+": "+f.Reason+" "+f.Remedy)
	}
	if sheet.DryKG > 0 {
		out.Weights = fmt.Sprintf("Wet it weighs about %.2f kg, dry %.2f kg.", sheet.WetKG, sheet.DryKG)
	}
	return out, nil
}
