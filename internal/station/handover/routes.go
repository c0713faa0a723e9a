package handover

import (
	"bytes"
	"context"
	"io"
	"mime/multipart"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/outing"
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
	registerDay(api, s)
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
	registerArtist(api, s)
}

// registerDay registers what a kit's day takes, its morning, its return, and what comes back of it.
func registerDay(api huma.API, s *Service) {
	web.Get(api, "/api/kits/{code}/contents", "What goes with a kit, with how far it is packed", web.Makers, func(ctx context.Context, in *web.Coded) (Contents, error) { return s.Contents(ctx, in.Code) })
	web.Post(api, "/api/kits/{code}/contents", "Pack a thing, take it out, leave it out, say that it is missing, or add one", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body ItemAct
	}) (Contents, error) {
		return s.DoItem(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/kits/{code}/copies", "Pack further copies into a kit that has not left", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Copies []string `json:"copies" maxItems:"60"`
		}
	}) (Kit, error) {
		return s.Add(ctx, in.Code, in.Body.Copies)
	})
	web.Post(api, "/api/kits/{code}/return", "Count what comes back of a kit", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body Returned
	}) (Kit, error) {
		return s.Return(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/kits/{code}/chair", "The run of a kit's morning and the day after it", web.Makers, func(ctx context.Context, in *web.Coded) (ChairView, error) { return s.Chair(ctx, in.Code) })
	web.Put(api, "/api/kits/{code}/chair", "Choose how a kit's morning runs", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Doc     outing.Choices `json:"doc"`
			Version int            `json:"version" minimum:"0"`
		}
	}) (ChairView, error) {
		return s.Choose(ctx, in.Code, in.Body.Doc, in.Body.Version)
	})
	web.Post(api, "/api/kits/{code}/chair/try", "What another morning would cost, without choosing it", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Doc outing.Choices `json:"doc"`
		}
	}) (ChairView, error) {
		return s.Try(ctx, in.Code, in.Body.Doc)
	})
	web.Post(api, "/api/kits/{code}/chair/ticks", "Note a step of the morning, or how the wearer is", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body Tick
	}) (ChairView, error) {
		return s.Tick(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/hair-routines", "Ways of hiding hair under a piece", web.Makers, func(ctx context.Context, _ *struct{}) ([]outing.Routine, error) { return s.Routines(), nil })
	web.Get(api, "/api/kits/{code}/kit.json", "A kit as one document", web.Makers, func(ctx context.Context, in *web.Coded) (File, error) { return s.FileOf(ctx, in.Code) })
	web.Get(api, "/api/not-reached", "Kits with a recall that nobody answered, and who is to be rung", web.Makers, func(ctx context.Context, _ *struct{}) ([]NotReached, error) { return s.Reached(ctx) })
	web.Post(api, "/api/reports/{id}/answer", "Answer an artist's report", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Words string `json:"words" maxLength:"1000"`
		}
	}) (Kit, error) {
		return s.Answer(ctx, in.ID, in.Body.Words)
	})
	web.Get(api, "/api/incidents", "What skin reacted to; that it was seen is recorded", web.Skilled, func(ctx context.Context, _ *struct{}) ([]Incident, error) { return s.SeeIncidents(ctx) })
	web.Post(api, "/api/incidents/{id}/close", "Close an incident; it clears nothing", web.Leads, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Words string `json:"words" maxLength:"300"`
		}
	}) ([]Incident, error) {
		return s.Close(ctx, in.ID, in.Body.Words)
	})
	web.Delete(api, "/api/incidents/{id}", "Erase an incident for good", web.Leads, func(ctx context.Context, in *web.ByID) ([]Incident, error) { return s.Erase(ctx, in.ID) })
}

// registerArtist registers what an artist's link may do. None of it needs a session: the link is checked each time.
func registerArtist(api huma.API, s *Service) {
	web.Get(api, "/api/artist/{token}", "The makeup artist's page", web.Everyone, func(ctx context.Context, in *ByToken) (ArtistView, error) { return s.Artist(ctx, in.Token) })
	web.Get(api, "/api/artist/{token}/heard", "Whether there is anything new for an artist's page", web.Everyone, func(ctx context.Context, in *ByToken) (Heard, error) { return s.Hear(ctx, in.Token) })
	web.Post(api, "/api/artist/{token}/receipt", "Sign for receipt", web.Everyone, func(ctx context.Context, in *struct {
		ByToken
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) (ArtistView, error) {
		return s.Sign(ctx, in.Token, in.Body.Name)
	})
	web.Post(api, "/api/artist/{token}/reports", "Report back", web.Everyone, func(ctx context.Context, in *struct {
		ByToken
		Body NewReport
	}) (ArtistView, error) {
		return s.ReportBack(ctx, in.Token, in.Body)
	})
	web.Post(api, "/api/artist/{token}/ticks", "Note a step of the morning by the artist's link", web.Everyone, func(ctx context.Context, in *struct {
		ByToken
		Body Tick
	}) (ArtistView, error) {
		return s.TickByLink(ctx, in.Token, in.Body)
	})
	web.Post(api, "/api/artist/{token}/recalls/{recall}", "Answer that a recall is known", web.Everyone, func(ctx context.Context, in *struct {
		ByToken
		Recall string `path:"recall" maxLength:"16"`
		Body   struct {
			Words string `json:"words" maxLength:"300"`
		}
	}) (ArtistView, error) {
		return s.AnswerRecall(ctx, in.Token, in.Recall, in.Body.Words)
	})
}

// maxPicture is the largest picture that a report takes.
const maxPicture = 25 << 20

// leaves are the pages of a kit by the name of their file.
func (s *Service) leaves() map[string]struct {
	text string
	draw func(ctx context.Context, w io.Writer, code string) error
} {
	type page = struct {
		text string
		draw func(ctx context.Context, w io.Writer, code string) error
	}
	return map[string]page{"packing": {"A kit's packing list", s.WritePacking}, "run": {"The run of a kit's morning", s.WriteRun}, "performer": {"The wearer's card of a kit's day", s.WritePerformer},
		"removal": {"How a kit's look comes off", s.WriteRemoval}}
}

// serveDay puts a kit's pages, its calendar and its pictures on the engine, for the shop and by an artist's link.
func (s *Service) serveDay(e *web.Engine) {
	byToken := func(c *gin.Context) (Kit, error) { return s.byToken(c.Request.Context(), s.DB, c.Param("token")) }
	for name, page := range s.leaves() {
		e.Handle(http.MethodGet, "/api/kits/:code/"+name+".pdf", page.text, web.Makers, func(c *gin.Context) error {
			return web.PDF(c, c.Param("code")+"-"+name+".pdf", func(w io.Writer) error { return page.draw(c.Request.Context(), w, c.Param("code")) })
		})
		e.Handle(http.MethodGet, "/api/artist/:token/"+name+".pdf", page.text+", by the artist's link", web.Everyone, func(c *gin.Context) error {
			k, err := byToken(c)
			if err != nil {
				return err
			}
			return web.PDF(c, k.Code+"-"+name+".pdf", func(w io.Writer) error { return page.draw(c.Request.Context(), w, k.Code) })
		})
	}
	calendar := func(c *gin.Context, code string) error {
		return web.Saved(c, code+".ics", web.Calendar, func(w io.Writer) error { return s.WriteCalendar(c.Request.Context(), w, code) })
	}
	e.Handle(http.MethodGet, "/api/kits/:code/day.ics", "A kit's day as iCalendar", web.Makers, func(c *gin.Context) error { return calendar(c, c.Param("code")) })
	e.Handle(http.MethodGet, "/api/artist/:token/day.ics", "A kit's day as iCalendar, by the artist's link", web.Everyone, func(c *gin.Context) error {
		k, err := byToken(c)
		if err != nil {
			return err
		}
		return calendar(c, k.Code)
	})
	e.Handle(http.MethodGet, "/api/artist/:token/app.webmanifest", "What puts an artist's page on a phone", web.Everyone, func(c *gin.Context) error {
		k, err := byToken(c)
		if err != nil {
			return err
		}
		type icon = map[string]string
		c.Header("Content-Type", "application/manifest+json")
		c.JSON(http.StatusOK, map[string]any{"name": "Kit " + k.Code, "short_name": k.Code, "start_url": "/artist/" + c.Param("token"), "scope": "/artist/", "id": "/artist/" + k.Code, "display": "standalone",
			"background_color": "#f4efe6", "theme_color": "#f4efe6", "icons": []icon{{"src": "/icon-192.png", "sizes": "192x192", "type": "image/png"}, {"src": "/icon-512.png", "sizes": "512x512", "type": "image/png"}}})
		return nil
	})
	e.Handle(http.MethodGet, "/api/artist/:token/maps/:piece", "The wearer's map with a piece's landmarks, by the artist's link", web.Everyone, func(c *gin.Context) error {
		k, err := byToken(c)
		if err != nil {
			return err
		}
		var b bytes.Buffer
		if err := s.WriteMap(c.Request.Context(), &b, k, c.Param("piece")); err != nil {
			return err
		}
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		c.Data(http.StatusOK, "image/svg+xml", b.Bytes())
		return nil
	})
	e.Handle(http.MethodGet, "/api/artist/:token/pictures/:sha", "A picture of a kit, by the artist's link", web.Everyone, func(c *gin.Context) error {
		k, err := byToken(c)
		if err != nil {
			return err
		}
		return s.sendPicture(c, k)
	})
	e.Handle(http.MethodGet, "/api/kits/:code/pictures/:sha", "A picture of a kit or of what came back", web.Makers, func(c *gin.Context) error {
		k, err := s.Kit(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return s.sendPicture(c, k)
	})
	e.Handle(http.MethodPost, "/api/artist/:token/reports/:key/pictures", "Add a picture to a report", web.Everyone, func(c *gin.Context) error {
		return web.Uploaded(c, maxPicture, func(f multipart.File) (any, error) {
			return s.AddPicture(c.Request.Context(), c.Param("token"), c.Param("key"), c.PostForm("key"), f)
		})
	})
}

// pictureWide is how wide a picture is sent to a phone.
const pictureWide = 480

func (s *Service) sendPicture(c *gin.Context, k Kit) error {
	f, err := s.picture(c.Request.Context(), k, c.Param("sha"))
	if err != nil {
		return err
	}
	file, err := s.Files.View(c.Request.Context(), f.SHA256, f.MediaType, pictureWide)
	if err != nil {
		return err
	}
	defer file.Close()
	c.Header("Content-Type", "image/jpeg")
	http.ServeContent(c.Writer, c.Request, "", f.CreatedAt, file)
	return nil
}

// Serve puts sheets and labels on the engine.
func (s *Service) Serve(e *web.Engine) {
	s.serveDay(e)
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
	e.Handle(http.MethodGet, "/api/kits/:code/labels.pdf", "A label for every copy of a kit", web.Makers, func(c *gin.Context) error {
		k, err := s.Kit(c.Request.Context(), c.Param("code"))
		if err != nil {
			return err
		}
		return web.PDF(c, k.Code+"-labels.pdf", func(w io.Writer) error { return s.WriteLabels(c.Request.Context(), w, k, c.Query("link")) })
	})
	e.Handle(http.MethodGet, "/api/artist/:token/sheet.pdf", "The sheet, by the artist's link", web.Everyone, func(c *gin.Context) error {
		k, err := s.byToken(c.Request.Context(), s.DB, c.Param("token"))
		if err != nil {
			return err
		}
		return web.PDF(c, k.Code+"-sheet.pdf", func(w io.Writer) error { return s.WriteSheet(c.Request.Context(), w, k) })
	})
}
