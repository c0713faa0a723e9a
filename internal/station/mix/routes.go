package mix

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/hands"
	"yewmoor/internal/device"
	"yewmoor/internal/platform/web"
)

// Poured is the answer to a pour.
type Poured struct {
	Run    string   `json:"run"`
	Copies []string `json:"copies"`
}

// Register puts the mixing room's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/mixes", "The newest mixes, those on the bench first", web.Makers, func(ctx context.Context, _ *struct{}) ([]Brief, error) { return s.List(ctx) })
	web.Post(api, "/api/mixes/sheet", "Work out a pour sheet without saving it", web.Makers, func(ctx context.Context, in *struct{ Body Order }) (Sheet, error) { return s.Sheet(ctx, in.Body) })
	web.Post(api, "/api/mixes", "Write a pour sheet down as a mix", web.Makers, func(ctx context.Context, in *struct{ Body Order }) (View, error) { return s.Plan(ctx, in.Body) })
	web.Get(api, "/api/mixes/{code}", "A mix as the bench shows it", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.View(ctx, in.Code) })
	web.Post(api, "/api/mixes/{code}/begin", "Put a mix on the scale", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body *struct {
			Confirmed []string `json:"confirmed,omitempty" maxItems:"10" doc:"gloves, air, mask and so on: what the recipe asks for"`
		}
	}) (View, error) {
		if in.Body == nil {
			return s.Begin(ctx, in.Code)
		}
		return s.Begin(ctx, in.Code, in.Body.Confirmed...)
	})
	web.Post(api, "/api/mixes/{code}/tare", "Zero the scale; what was poured is kept", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Tare(ctx, in.Code) })
	web.Post(api, "/api/mixes/{code}/weigh", "Say that a part is in", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body WeighIn
	}) (View, error) {
		return s.Weigh(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/mixes/{code}/put-right", "Put a weight right, until the mix is poured", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body WeighRight
	}) (View, error) {
		return s.PutRight(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/mixes/{code}/abandon", "End a mix that will not be poured", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Reason string `json:"reason" maxLength:"200"`
		}
	}) (View, error) {
		return s.Abandon(ctx, in.Code, in.Body.Reason)
	})
	web.Post(api, "/api/mixes/{code}/pour", "Pour: a run begins or goes on, and its pots stand on the shelf", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body PourInto
	}) (Poured, error) {
		run, copies, err := s.Pour(ctx, in.Code, in.Body)
		return Poured{run, copies}, err
	})
	registerSteps(api, s)
	registerRecipes(api, s)
	registerBlood(api)
	web.Get(api, "/api/scale", "What the bench scale shows", web.Makers, func(context.Context, *struct{}) (ScaleView, error) {
		return ScaleView{s.Scale.Read(), s.Scale.Simulated()}, nil
	})
	if sim, ok := s.Scale.(*device.SimulatedScale); ok {
		registerSimulated(api, sim)
	}
}

// ScaleView is a reading with whether the scale is a stand-in.
type ScaleView struct {
	device.ScaleReading
	Simulated bool `json:"simulated"`
}

// Handling is what one does to the simulated scale.
type Handling struct {
	PutG      float64 `json:"put_g,omitempty" minimum:"-5000" maximum:"5000"`
	PourGS    float64 `json:"pour_g_s,omitempty" minimum:"0" maximum:"200"`
	Clear     bool    `json:"clear,omitempty"`
	Unplugged bool    `json:"unplugged,omitempty"`
	Stuck     bool    `json:"stuck,omitempty"`
	Unit      string  `json:"unit,omitempty" enum:"g,oz"`
}

// registerSimulated lets people and tests lay things on the stand-in scale.
func registerSimulated(api huma.API, scale *device.SimulatedScale) {
	web.Post(api, "/api/scale/simulated", "Handle the simulated scale", web.Makers, func(_ context.Context, in *struct{ Body Handling }) (ScaleView, error) {
		h := in.Body
		if h.Clear {
			scale.Clear()
		}
		if h.PutG != 0 {
			scale.Put(h.PutG)
		}
		scale.Pour(h.PourGS)
		scale.Misbehave(h.Unplugged, h.Stuck, h.Unit)
		return ScaleView{scale.Read(), true}, nil
	})
}

// Serve puts the scale's stream on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/scale/stream", "The scale as it weighs", web.Makers, func(c *gin.Context) error {
		ch, stop := s.Listen()
		defer stop()
		c.Status(http.StatusOK)
		return web.Stream(c, "reading", ch)
	})
}

// registerSteps puts what is no weighing on the API.
func registerSteps(api huma.API, s *Service) {
	web.Post(api, "/api/mixes/{code}/steps/{seq}/begin", "Start the clock of a step", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Seq int `path:"seq" minimum:"1"`
	}) (View, error) {
		return s.BeginStep(ctx, in.Code, in.Seq)
	})
	web.Post(api, "/api/mixes/{code}/steps/{seq}/done", "Say that a step is done, with what was measured", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Seq  int `path:"seq" minimum:"1"`
		Body StepDone
	}) (View, error) {
		return s.DoneStep(ctx, in.Code, in.Seq, in.Body)
	})
	web.Post(api, "/api/mixes/{code}/tag", "Check the tag of a pot that was picked up, or take another lot", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body TagRead
	}) (View, error) {
		return s.Tag(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/mixes/{code}/note", "Note what went otherwise", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Note string `json:"note" maxLength:"200"`
		}
	}) (View, error) {
		return s.NoteIt(ctx, in.Code, in.Body.Note)
	})
	web.Post(api, "/api/mixes/{code}/put-by", "Put a mix by as a lot of its own", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Kept
	}) (View, error) {
		return s.PutBy(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/mixes/{code}/use", "Say what a mix was used for that makes no copy", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Used
	}) (View, error) {
		return s.Use(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/mixes/{code}/divide", "Pour a part of a mix into a second cup", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Amount string `json:"amount" maxLength:"64"`
		}
	}) (View, error) {
		return s.Divide(ctx, in.Code, in.Body.Amount)
	})
}

// registerRecipes puts what the room knows of recipes on the API.
func registerRecipes(api huma.API, s *Service) {
	web.Get(api, "/api/hands", "What keeps hands and tools clean, and how they are cleaned", web.Makers, func(context.Context, *struct{}) (hands.Guide, error) { return hands.Usual(), nil })
	web.Get(api, "/api/tools", "Tools and cloth: their state, what is to be cleaned, what was thrown away", web.Makers,
		func(ctx context.Context, _ *struct{}) (Tools, error) { return s.Tools(ctx) })
	web.Post(api, "/api/tools", "Note tools that came", web.Makers,
		func(ctx context.Context, in *struct{ Body NewTools }) (Tools, error) {
			return s.ToolsCame(ctx, in.Body)
		})
	web.Post(api, "/api/tools/{id}", "Note what became of a tool", web.Makers, func(ctx context.Context, in *struct {
		ID   uint64 `path:"id"`
		Body ToolAct
	}) (Tools, error) {
		return s.ToolDone(ctx, in.ID, in.Body)
	})
	web.Get(api, "/api/recipes", "What the shop can mix", web.Makers, func(ctx context.Context, _ *struct{}) ([]Listed, error) { return s.Recipes(ctx) })
	web.Get(api, "/api/pieces/{code}/wanted", "What a piece's section takes, with the recipes that make it", web.Makers, func(ctx context.Context, in *web.Coded) ([]Wanted, error) { return s.Wanted(ctx, in.Code) })
	web.Get(api, "/api/exposures", "Minutes with fumes and dust: everybody's for a lead, else one's own", web.Makers, func(ctx context.Context, in *struct {
		Days int `query:"days" minimum:"1" maximum:"365" default:"7"`
	}) ([]Exposed, error) {
		return s.Exposures(ctx, in.Days)
	})
	web.Get(api, "/api/recipes/{code}/trials", "How a recipe runs and stays", web.Makers, func(ctx context.Context, in *web.Coded) ([]Tried, error) { return s.Trials(ctx, in.Code) })
	web.Post(api, "/api/recipes/{code}/trials", "Write down a run that was watched", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Trial
	}) ([]Tried, error) {
		return s.Try(ctx, in.Code, in.Body)
	})
}
