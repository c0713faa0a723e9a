package colour

import (
	"context"
	"io"
	"mime/multipart"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/web"
)

// Register puts the colour room's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/pieces/{code}/colour", "What the colour room knows of a piece", web.Makers,
		func(ctx context.Context, in *web.Coded) (Room, error) { return s.Room(ctx, in.Code) })
	web.Put(api, "/api/pieces/{code}/colour-target", "Say what a piece is to look like", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body NewAim
		}) (Room, error) {
			return s.SetAim(ctx, in.Code, in.Body)
		})
	web.Get(api, "/api/pieces/{code}/match", "Recipes for the body of a piece that match its target", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			BatchG  float64 `query:"batch_g" minimum:"1" maximum:"50000" default:"500" doc:"base that is mixed"`
			Drops   bool    `query:"drops" doc:"dosed in whole drops"`
			Search  string  `query:"search" enum:",best,cheapest,shelf,last" doc:"the best, the cheapest, of what is on the shelf, nearest to the last"`
			Opacity float64 `query:"opacity" minimum:"0" maximum:"0.99" doc:"at least so opaque; as the body usually is where it is left out"`
		}) (Matched, error) {
			return s.Match(ctx, in.Code, Question{in.BatchG, in.Drops, in.Search, in.Opacity})
		})
	web.Post(api, "/api/pieces/{code}/colour-recipes", "Take a recipe: it is mixed", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body Taken
		}) (Room, error) {
			return s.Take(ctx, in.Code, in.Body)
		})
	web.Post(api, "/api/colour-recipes/{code}/drawdowns", "Read a drawdown: what to add", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body NewDrawdown
		}) (Room, error) {
			return s.Draw(ctx, in.Code, in.Body)
		})
	web.Post(api, "/api/colour-recipes/{code}/drawdowns/{id}/add", "Put what a drawdown asks for into the cup", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			ID uint64 `path:"id" maximum:"9007199254740991"`
		}) (Room, error) {
			return s.PutIn(ctx, in.Code, in.ID)
		})
	web.Get(api, "/api/lights", "Lights that colours are judged under", web.Makers,
		func(ctx context.Context, _ *struct{}) ([]SetLight, error) { return lightsNow(ctx, s.DB) })
	web.Post(api, "/api/lights", "Keep a set's own light", web.Makers,
		func(ctx context.Context, in *struct{ Body NewLight }) ([]SetLight, error) {
			return s.AddLight(ctx, in.Body)
		})
	web.Get(api, "/api/pigments", "The shop's pigments with what is known of their colour", web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Pigment, error) { return s.Pigments(ctx) })
	web.Post(api, "/api/pigments/calibrations", "Keep what drawdowns say of a pigment", web.Skilled,
		func(ctx context.Context, in *struct{ Body NewCalibration }) ([]Pigment, error) {
			return s.Calibrate(ctx, in.Body)
		})
	web.Get(api, "/api/swatches", "The book of swatches", web.Makers, func(ctx context.Context, in *struct {
		Q string  `query:"q" maxLength:"80"`
		L float64 `query:"l" minimum:"0" maximum:"100" doc:"nearest to a colour; 0 for no colour"`
		A float64 `query:"a" minimum:"-120" maximum:"120"`
		B float64 `query:"b" minimum:"-120" maximum:"120"`
	}) ([]Swatch, error) {
		look := Looked{Text: in.Q}
		if in.L > 0 {
			look.Near = &colour.Lab{L: in.L, A: in.A, B: in.B}
		}
		return s.Swatches(ctx, look)
	})
	web.Post(api, "/api/swatches", "Put a colour into the book", web.Makers,
		func(ctx context.Context, in *struct{ Body NewSwatch }) (Swatch, error) {
			return s.AddSwatch(ctx, in.Body)
		})
	web.Post(api, "/api/swatches/{id}/readings", "Read a swatch again", web.Makers, func(ctx context.Context, in *struct {
		ID   uint64 `path:"id" maximum:"9007199254740991"`
		Body NewReading
	}) (Swatch, error) {
		return s.ReadSwatch(ctx, in.ID, in.Body)
	})
	web.Get(api, "/api/technique-cards", "How colour is put on: the shop's cards", web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Card, error) { return s.Cards(ctx) })
	web.Post(api, "/api/technique-cards", "Write a technique card", web.Makers,
		func(ctx context.Context, in *struct{ Body NewCard }) ([]Card, error) { return s.SetCard(ctx, in.Body) })
	web.Get(api, "/api/pieces/{code}/paint", "The paint schedule of a piece", web.Makers,
		func(ctx context.Context, in *web.Coded) (ScheduleView, error) { return s.Schedule(ctx, in.Code) })
	web.Put(api, "/api/pieces/{code}/paint", "Save a step of the paint schedule", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body document.DraftOf[paintwork.Schedule]
	}) (ScheduleView, error) {
		return s.Save(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/pieces/{code}/paint/undo", "A step back in one's draft of the paint schedule", web.Makers,
		func(ctx context.Context, in *web.Coded) (ScheduleView, error) { return s.Walk(ctx, in.Code, -1) })
	web.Post(api, "/api/pieces/{code}/paint/redo", "A step forward again", web.Makers,
		func(ctx context.Context, in *web.Coded) (ScheduleView, error) { return s.Walk(ctx, in.Code, 1) })
	web.Delete(api, "/api/pieces/{code}/paint/draft", "Drop one's draft of the paint schedule", web.Makers,
		func(ctx context.Context, in *web.Coded) (ScheduleView, error) { return s.DropDraft(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/paint/carry", "Keep one's draft over a version that was agreed meanwhile", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body struct {
				Latest int `json:"latest" minimum:"1" maximum:"1000000"`
			}
		}) (ScheduleView, error) {
			return s.Carry(ctx, in.Code, in.Body.Latest)
		})
	web.Post(api, "/api/pieces/{code}/paint/try", "Work a paint schedule out without saving it", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body paintwork.Schedule
		}) (ScheduleView, error) {
			return s.Try(ctx, in.Code, in.Body)
		})
	web.Post(api, "/api/pieces/{code}/paint/propose", "What a layer could be mixed of to come nearest to the target", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Doc paintwork.Schedule `json:"doc"`
			At  int                `json:"at" minimum:"0" maximum:"23" doc:"which layer, from 0"`
		}
	}) (Proposed, error) {
		return s.Propose(ctx, in.Code, in.Body.Doc, in.Body.At)
	})
	web.Post(api, "/api/pieces/{code}/paint/agree", "Agree the paint schedule", web.Skilled,
		func(ctx context.Context, in *web.Coded) (ScheduleView, error) { return s.Agree(ctx, in.Code) })
	web.Get(api, "/api/pieces/{code}/injury", "An injury on the wearer's own skin, by its age", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Kind  string  `query:"kind" enum:"bruise,burn,cut,scab,frost" required:"true"`
			Hours float64 `query:"hours" minimum:"0" maximum:"8760"`
			Depth float64 `query:"depth" minimum:"0" maximum:"1" default:"0.5"`
		}) (Hurt, error) {
			return s.Injury(ctx, in.Code, in.Kind, in.Hours, in.Depth)
		})
	web.Get(api, "/api/pieces/{code}/palettes", "Colours that the parts of its looks share", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]Palette, error) { return s.Palettes(ctx, in.Code) })
	web.Put(api, "/api/looks/{id}/palette", "Write the palette of a look", web.Makers, func(ctx context.Context, in *struct {
		ID   uint64 `path:"id" maximum:"9007199254740991"`
		Body struct {
			Colours []PaletteColour `json:"colours" maxItems:"40"`
			Version int             `json:"version" minimum:"0" maximum:"1000000"`
		}
	}) (Palette, error) {
		return s.SetPalette(ctx, in.ID, in.Body.Colours, in.Body.Version)
	})
	web.Get(api, "/api/pieces/{code}/day-colours", "What the makeup artist touches up with, by medium", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]ForTheDay, error) { return s.DayList(ctx, s.DB, in.Code) })
	web.Get(api, "/api/pieces/{code}/touch-ups", "Touch-up colours of a piece", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]TouchUp, error) { return List(ctx, s.DB, in.Code) })
	web.Put(api, "/api/pieces/{code}/touch-ups", "Keep a touch-up colour", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body TouchUp
	}) ([]TouchUp, error) {
		return s.Set(ctx, in.Code, in.Body)
	})
	web.Delete(api, "/api/pieces/{code}/touch-ups/{name}", "Remove a touch-up colour", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Name string `path:"name"`
		}) ([]TouchUp, error) {
			return s.Drop(ctx, in.Code, in.Name)
		})
}

// number reads a number of a path or a form; 0 for what is none.
func number(text string) uint64 {
	n, err := strconv.ParseUint(text, 10, 53)
	if err != nil {
		return 0
	}
	return n
}

// Serve puts the papers and pictures of the colour room on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPost, "/api/swatches/:id/picture", "Photograph a swatch", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			return s.Photograph(c.Request.Context(), number(c.Param("id")), body)
		})
	})
	e.Handle(http.MethodPost, "/api/looks/:id/continuity", "Keep how a look stood on a day", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			return s.Shoot(c.Request.Context(), number(c.Param("id")), number(c.PostForm("day")), c.PostForm("note"), body)
		})
	})
	e.Handle(http.MethodGet, "/api/swatches/sheet.pdf", "The book of swatches to print, with a frame for each drawdown", web.Makers,
		func(c *gin.Context) error {
			return web.PDF(c, "swatches.pdf", func(w io.Writer) error { return s.WriteSwatches(c.Request.Context(), w, c.Query("q")) })
		})
}
