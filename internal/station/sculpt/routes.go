package sculpt

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/texture"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/web"
)

// Choices are what the texture room offers.
type Choices struct {
	Kinds      []string            `json:"kinds"`
	Moulds     []texture.Hold      `json:"moulds"`
	Casts      []texture.Hold      `json:"casts"`
	Paints     []texture.Hold      `json:"paints"`
	PaintKinds []string            `json:"paint_kinds"`
	Softenings []texture.Softening `json:"softenings"`
	Papers     []string            `json:"papers"`
}

func choices() Choices {
	c := Choices{Kinds: texture.Kinds, Moulds: texture.Moulds, Casts: texture.Casts, Paints: texture.Paints, PaintKinds: texture.PaintKinds, Softenings: texture.Softenings}
	for _, p := range texture.Papers {
		c.Papers = append(c.Papers, p.Name)
	}
	return c
}

// Numbered names a thing by its number.
type Numbered struct {
	ID uint64 `path:"id"`
}

// Register puts the sculpting room's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/pieces/{code}/volumes", "What is known of a piece's volume", web.Makers, func(ctx context.Context, in *web.Coded) (Volumes, error) { return s.Volumes(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/volumes", "Record clay used, a water fill, or area and thickness", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Measured
	}) (Volumes, error) {
		return s.Record(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/pieces/{code}/amounts", "All that tells how much a piece takes, and which of it is believed", web.Makers, func(ctx context.Context, in *web.Coded) (Amounts, error) { return s.Amounts(ctx, in.Code) })
	web.Put(api, "/api/pieces/{code}/amounts", "Say which of them is believed", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body Believing
	}) (Amounts, error) {
		return s.BelieveIn(ctx, in.Code, in.Body)
	})
	registerPlan(api, s)
	registerSurface(api, s)
	registerTools(api, s)
}

func registerPlan(api huma.API, s *Service) {
	const on = "/api/pieces/{code}/texture"
	web.Get(api, on+"/course", "How a body stands with the piece's texture on it, from centre to edge", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		CentreMM float64 `query:"centre_mm" minimum:"0" maximum:"300"`
		EdgeMM   float64 `query:"edge_mm" minimum:"0" maximum:"60"`
	}) (Course, error) {
		return s.Course(ctx, in.Code, in.CentreMM, in.EdgeMM)
	})
	web.Get(api, "/api/textures/choices", "What the texture room offers", web.Makers, func(context.Context, *struct{}) (Choices, error) { return choices(), nil })
	web.Get(api, "/api/textures", "Pieces with a texture plan, and how far they are", web.Makers, func(ctx context.Context, _ *struct{}) ([]InClay, error) { return s.InHand(ctx) })
	web.Get(api, on, "The texture plan with what follows from it and what is done", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Texture(ctx, in.Code) })
	web.Post(api, "/api/textures/relief", "A relief to look at, without saving it", web.Makers, func(ctx context.Context, in *struct{ Body Ask }) (Shown, error) { return s.Relief(ctx, in.Body) })
	web.Put(api, on, "Save a step of one's draft of the texture plan", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body document.DraftOf[texture.Recipe]
	}) (View, error) {
		return s.Save(ctx, in.Code, in.Body.Doc, in.Body.Base, in.Body.Step)
	})
	web.Post(api, on+"/undo", "Go a step back in one's draft", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Walk(ctx, in.Code, -1) })
	web.Post(api, on+"/redo", "Go a step forward again", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Walk(ctx, in.Code, +1) })
	web.Delete(api, on+"/draft", "Throw one's draft away", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Drop(ctx, in.Code) })
	web.Post(api, on+"/carry", "Keep one's draft over a version that somebody agreed meanwhile", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Latest int `json:"latest" doc:"the version that was seen"`
		}
	}) (View, error) {
		return s.Carry(ctx, in.Code, in.Body.Latest)
	})
	web.Post(api, on+"/agree", "Make one's draft the plan that hands work by", web.Skilled, func(ctx context.Context, in *web.Coded) (View, error) { return s.Agree(ctx, in.Code) })
	web.Get(api, on+"/outlines", "Regions that fit the piece: of its brief, its section, and the usual ones", web.Makers, func(ctx context.Context, in *web.Coded) ([]Outline, error) { return s.Outlines(ctx, in.Code) })
	web.Post(api, "/api/textures/outline", "Read an outline from an SVG drawing", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			SVG string `json:"svg" maxLength:"900000"`
		}
	}) (texture.Region, error) {
		return s.Drawing(ctx, in.Body.SVG)
	})
	web.Post(api, on+"/ticks", "Tick a step of the agreed plan", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewTick
	}) (View, error) {
		return s.Tick(ctx, in.Code, in.Body)
	})
	web.Post(api, on+"/ticks/back", "Take a tick back", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Key string `json:"key" maxLength:"120"`
		}
	}) (View, error) {
		return s.Untick(ctx, in.Code, in.Body.Key)
	})
}

func registerSurface(api huma.API, s *Service) {
	const on = "/api/pieces/{code}/sculpt"
	web.Post(api, on+"/passes", "Log a softening pass", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewPass
	}) (View, error) {
		return s.Soften(ctx, in.Code, in.Body)
	})
	web.Post(api, on+"/clear", "Say that a residue is off the surface", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Residue string `json:"residue" maxLength:"20"`
		}
	}) (View, error) {
		return s.Clear(ctx, in.Code, in.Body.Residue)
	})
	web.Post(api, on+"/trials", "Begin a trial paint with the scheme of the plan", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.BeginTrial(ctx, in.Code) })
	web.Post(api, on+"/trials/{id}", "Write down a step of a trial paint", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Numbered
		Body TrialStep
	}) (View, error) {
		return s.Try(ctx, in.Code, in.ID, in.Body)
	})
	web.Post(api, on+"/looks", "Tick one thing looked at before the mould", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Item string `json:"item" maxLength:"20"`
			Note string `json:"note,omitempty" maxLength:"200"`
		}
	}) (View, error) {
		return s.Look(ctx, in.Code, in.Body.Item, in.Body.Note)
	})
	web.Post(api, on+"/looks/back", "Take such a tick back", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Item string `json:"item" maxLength:"20"`
		}
	}) (View, error) {
		return s.Unlook(ctx, in.Code, in.Body.Item)
	})
	web.Post(api, on+"/pass", "Send the sculpt to its mould", web.Skilled, func(ctx context.Context, in *web.Coded) (View, error) { return s.Pass(ctx, in.Code) })
	web.Get(api, on+"/photos", "Photographs of the real sculpt", web.Makers, func(ctx context.Context, in *web.Coded) ([]Photo, error) { return s.Photos(ctx, in.Code) })
	web.Post(api, "/api/sculpt-photos/{id}/spots", "Mark a thin spot, a gap or a lost line on a photograph", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body NewSpot
	}) ([]Photo, error) {
		return s.MarkSpot(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/sculpt-spots/{id}/settled", "Say that a spot was put right", web.Makers, func(ctx context.Context, in *Numbered) ([]Photo, error) { return s.SettleSpot(ctx, in.ID) })
}

func registerTools(api huma.API, s *Service) {
	web.Get(api, "/api/stamps", "The shop's stamping tools", web.Makers, func(ctx context.Context, _ *struct{}) ([]Stamp, error) { return s.Stamps(ctx) })
	web.Post(api, "/api/stamps", "Register a stamping tool", web.Makers, func(ctx context.Context, in *struct{ Body NewStamp }) ([]Stamp, error) {
		return s.AddStamp(ctx, in.Body)
	})
	web.Put(api, "/api/stamps/{id}", "Say where a stamping tool is, or how it is now", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body NewStamp
	}) ([]Stamp, error) {
		return s.ChangeStamp(ctx, in.ID, in.Body)
	})
	web.Get(api, "/api/patterns", "The house patterns", web.Makers, func(ctx context.Context, _ *struct{}) ([]Pattern, error) { return s.Patterns(ctx) })
	web.Post(api, "/api/patterns", "Keep the texture of a piece as a house pattern", web.Makers, func(ctx context.Context, in *struct{ Body NewPattern }) ([]Pattern, error) {
		return s.KeepPattern(ctx, in.Body)
	})
	web.Get(api, "/api/patterns/{id}", "A house pattern at another scale", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		By float64 `query:"by" minimum:"0.1" maximum:"10" default:"1"`
	}) (Pattern, error) {
		return s.Scaled(ctx, in.ID, in.By)
	})
}
