package mix

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

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
	web.Post(api, "/api/mixes/{code}/begin", "Put a mix on the scale", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Begin(ctx, in.Code) })
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
	web.Post(api, "/api/mixes/{code}/pour", "Pour: the run begins and its pots stand on the shelf", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Moulds []string `json:"moulds" doc:"one copy for each; an empty code pours without a recorded mould"`
			Reason string   `json:"reason,omitempty" maxLength:"200"`
		}
	}) (Poured, error) {
		run, copies, err := s.Pour(ctx, in.Code, in.Body.Moulds, in.Body.Reason)
		return Poured{run, copies}, err
	})
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
