package handover

import (
	"context"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/platform/web"
)

// ByToken is an operation behind an artist's link.
type ByToken struct {
	Token string `path:"token" maxLength:"64"`
}

// Register puts the hand-over's operations on the API. Those of the artist's
// page need no session: the link is checked each time.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/kits", "Every kit", web.Makers, func(ctx context.Context, _ *struct{}) ([]Kit, error) { return s.List(ctx) })
	web.Post(api, "/api/kits", "Pack a kit", web.Skilled, func(ctx context.Context, in *struct{ Body NewKit }) (Kit, error) { return s.Pack(ctx, in.Body) })
	web.Get(api, "/api/kits/{code}", "A kit with its links and reports", web.Makers, func(ctx context.Context, in *web.Coded) (Kit, error) { return s.Kit(ctx, in.Code) })
	web.Get(api, "/api/kits/{code}/sheet", "What a kit's sheet says", web.Makers, func(ctx context.Context, in *web.Coded) (SheetView, error) {
		k, err := s.Kit(ctx, in.Code)
		if err != nil {
			return SheetView{}, err
		}
		return s.Sheet(ctx, k)
	})
	web.Put(api, "/api/kits/{code}", "Put a kit's day, artist or note right, before it leaves", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body KitChange
	}) (Kit, error) {
		return s.Change(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/kits/{code}/unpack", "Take copies out of a kit again, before it leaves", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Copies []string `json:"copies,omitempty" maxItems:"100" doc:"none: all of them, and the kit is undone"`
			Reason string   `json:"reason" maxLength:"200"`
		}
	}) (Kit, error) {
		return s.Unpack(ctx, in.Code, in.Body.Copies, in.Body.Reason)
	})
	web.Post(api, "/api/kits/{code}/hand", "Record that the kit left the shop", web.Skilled, func(ctx context.Context, in *web.Coded) (Kit, error) { return s.Hand(ctx, in.Code) })
	web.Post(api, "/api/kits/{code}/links", "Make a link for the makeup artist", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Days int `json:"days" minimum:"1" maximum:"90"`
		}
	}) (NewLinkAnswer, error) {
		return s.MakeLink(ctx, in.Code, in.Body.Days)
	})
	web.Delete(api, "/api/kits/{code}/links/{id}", "Withdraw a link", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		ID uint64 `path:"id"`
	}) (Kit, error) {
		return s.Withdraw(ctx, in.Code, in.ID)
	})
	web.Get(api, "/api/artist/{token}", "The makeup artist's page", web.Everyone, func(ctx context.Context, in *ByToken) (ArtistView, error) { return s.Artist(ctx, in.Token) })
	web.Post(api, "/api/artist/{token}/receipt", "Sign for receipt", web.Everyone, func(ctx context.Context, in *struct {
		ByToken
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) (ArtistView, error) {
		return s.Sign(ctx, in.Token, in.Body.Name)
	})
	web.Post(api, "/api/artist/{token}/reports", "Report back after the day", web.Everyone, func(ctx context.Context, in *struct {
		ByToken
		Body struct {
			Key    string  `json:"key" format:"uuid"`
			Edge   int     `json:"edge" minimum:"1" maximum:"5"`
			Colour int     `json:"colour" minimum:"1" maximum:"5"`
			Hold   int     `json:"hold" minimum:"1" maximum:"5"`
			WornH  float64 `json:"worn_h" minimum:"0" maximum:"48"`
			Words  string  `json:"words" maxLength:"1000"`
		}
	}) (ArtistView, error) {
		b := in.Body
		return s.ReportBack(ctx, in.Token, b.Key, Report{Edge: b.Edge, Colour: b.Colour, Hold: b.Hold, WornH: b.WornH, Words: b.Words})
	})
}

// Serve puts sheets and labels on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/kits/:code/sheet.pdf", "A kit's sheet", web.Makers, func(c *gin.Context) error {
		k, err := s.Kit(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, k.Code+"-sheet.pdf", func(w io.Writer) error { return s.WriteSheet(c.Request.Context(), w, k) })
	})
	e.Handle(http.MethodGet, "/api/kits/:code/label.pdf", "A kit's label", web.Makers, func(c *gin.Context) error {
		k, err := s.Kit(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, k.Code+"-label.pdf", func(w io.Writer) error { return s.WriteLabel(c.Request.Context(), w, k, c.Query("link")) })
	})
	e.Handle(http.MethodGet, "/api/artist/:token/sheet.pdf", "The sheet, by the artist's link", web.Everyone, func(c *gin.Context) error {
		k, err := s.byToken(c.Request.Context(), s.DB, c.Param("token"))
		if err != nil {
			return err
		}
		return web.PDF(c, k.Code+"-sheet.pdf", func(w io.Writer) error { return s.WriteSheet(c.Request.Context(), w, k) })
	})
}
