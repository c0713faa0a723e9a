package build

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/platform/web"
)

// Shelf is the pot shelf with the air of the room.
type Shelf struct {
	Pots     []Pot        `json:"pots"`
	Room     section.Room `json:"room"`
	Measured bool         `json:"room_measured" doc:"false where no reading is there and the reference room is reckoned with"`
	// RoomAt is when it was read, RoomTyped whether by a person.
	RoomAt    *time.Time `json:"room_at,omitempty"`
	RoomTyped bool       `json:"room_typed"`
}

// Register puts the build room's operations on the API.
func Register(api huma.API, s *Service) {
	var shelf web.Shared[Shelf]
	web.Get(api, "/api/pots", "The pot shelf", web.Makers, func(ctx context.Context, _ *struct{}) (Shelf, error) {
		return shelf.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) (Shelf, error) {
			pots, err := s.Shelf(ctx)
			if err != nil {
				return Shelf{}, err
			}
			room, measured, err := s.Air.newest(ctx, s.DB)
			out := Shelf{Pots: pots, Room: section.Room{TempC: room.TempC, RH: room.RH}, Measured: measured}
			if measured {
				out.RoomAt, out.RoomTyped = &room.At, room.Source == "typed"
			}
			return out, err
		})
	})
	web.Post(api, "/api/room", "Write down what the shop's own thermometer shows, where no sensor does", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			TempC float64 `json:"temp_c" minimum:"-10" maximum:"50"`
			RH    float64 `json:"rh" minimum:"0.02" maximum:"1" doc:"share, 0.5 for 50 %"`
		}
	}) (web.Done, error) {
		err := s.Air.Type(ctx, in.Body.TempC, in.Body.RH)
		if err == nil {
			for _, topic := range []string{"pots", "section"} {
				s.Live.Tell(ctx, topic, "")
			}
		}
		return web.Done{OK: err == nil}, err
	})
	web.Post(api, "/api/pots/{id}/out", "Take out or lift what is made", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Reason  string  `json:"reason,omitempty" maxLength:"300" doc:"needed before its time"`
			WeightG float64 `json:"weight_g,omitempty" minimum:"0" maximum:"50000" doc:"what the copy weighs; 0 where nobody weighed it"`
			Faults  []Fault `json:"faults,omitempty" maxItems:"20"`
		}
	}) (Pot, error) {
		return s.TakeOut(ctx, in.ID, Out{Reason: in.Body.Reason, WeightG: in.Body.WeightG, Faults: in.Body.Faults})
	})
	web.Get(api, "/api/pots/{id}/out", "The places at which a fault can stand as it comes out, and how the last copies did",
		web.Makers,
		func(ctx context.Context, in *web.ByID) (ComesOut, error) { return s.ComesOut(ctx, in.ID) })
	web.Get(api, "/api/pots/{id}/curve", "How a mould in the oven warms through and cools", web.Makers,
		func(ctx context.Context, in *web.ByID) (Curve, error) { return s.CurveOf(ctx, in.ID) })
	web.Get(api, "/api/pots/{id}/help", "What other air and other places would save a pot", web.Makers,
		func(ctx context.Context, in *web.ByID) ([]Help, error) {
			return s.HelpFor(ctx, in.ID)
		})
	web.Get(api, "/api/paces", "What the shop learned of how fast coats dry, by the air over them", web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Pace, error) { return s.Paces(ctx) })
	web.Post(api, "/api/paces/forget", "Start the learning of one air anew", web.Skilled, func(ctx context.Context, in *struct {
		Body struct {
			Place string `json:"place" maxLength:"40"`
		}
	}) ([]Pace, error) {
		return s.Forget(ctx, in.Body.Place)
	})
	web.Post(api, "/api/pots/{id}/air", "Put a pot of coats into other air from now on", web.Makers,
		func(ctx context.Context, in *struct {
			web.ByID
			Body struct {
				Preset string `json:"preset" enum:"still,fan,cool_dryer,warm_dryer"`
			}
		}) (Pot, error) {
			return s.MoveAir(ctx, in.ID, in.Body.Preset)
		})
	web.Post(api, "/api/pots/{id}/observe", "Say that a stage is over, as seen or felt", web.Makers,
		func(ctx context.Context, in *struct {
			web.ByID
			Body struct {
				Stage string `json:"stage" enum:"pot,gel,touch,dry,gelled" doc:"gelled: foam that springs back; of a cure pot: no longer pourable, gel: no longer tacky; of coats touch: no longer tacky, dry: clear and no longer cold"`
			}
		}) (Pot, error) {
			return s.Observe(ctx, in.ID, in.Body.Stage)
		})
	web.Post(api, "/api/pots/{id}/place", "Put a pot into another place", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body Moved
	}) (Pot, error) {
		return s.MovePot(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/pots/{id}/burst", "Note a short burst in the microwave", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Seconds float64 `json:"seconds" minimum:"1" maximum:"30"`
		}
	}) (Pot, error) {
		return s.Burst(ctx, in.ID, in.Body.Seconds)
	})
	web.Post(api, "/api/pots/{id}/weigh", "Write down what a piece weighs while its coat dries", web.Makers,
		func(ctx context.Context, in *struct {
			web.ByID
			Body struct {
				Grams float64 `json:"grams" minimum:"0.1" maximum:"50000"`
			}
		}) (Pot, error) {
			return s.Weigh(ctx, in.ID, in.Body.Grams)
		})
	web.Post(api, "/api/pots/{id}/answer", "Take a ringing pot in hand", web.Makers,
		func(ctx context.Context, in *web.ByID) (Pot, error) {
			return s.Answer(ctx, in.ID)
		})
	registerPlaces(api, s)
	var copies web.Shared[[]Copy]
	web.Get(api, "/api/copies", "Copies of a piece, or those of all that need a hand and the newest others", web.Makers, func(ctx context.Context, in *struct {
		Piece string `query:"piece"`
	}) ([]Copy, error) {
		if in.Piece != "" {
			return s.Copies(ctx, in.Piece)
		}
		return copies.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) ([]Copy, error) { return s.Copies(ctx, "") })
	})
	web.Get(api, "/api/pieces/{code}/outlook", "How the next session of a piece would go", web.Makers, func(ctx context.Context, in *web.Coded) (Outlook, error) { return s.Look(ctx, in.Code) })
	var runs web.Shared[[]Run]
	web.Get(api, "/api/runs", "The open runs, or the newest of a piece", web.Makers, func(ctx context.Context, in *struct {
		Piece string `query:"piece" maxLength:"24"`
	}) ([]Run, error) {
		if in.Piece != "" {
			return s.Runs(ctx, in.Piece)
		}
		return runs.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) ([]Run, error) { return s.Runs(ctx, "") })
	})
	web.Post(api, "/api/runs", "Begin a session that makes copies", web.Makers, func(ctx context.Context, in *struct{ Body NewRun }) (Run, error) {
		return s.Begin(ctx, in.Body)
	})
	web.Get(api, "/api/runs/{code}", "A run with its stages", web.Makers, func(ctx context.Context, in *web.Coded) (Run, error) { return s.Run(ctx, in.Code) })
	web.Post(api, "/api/runs/{code}/stages/{seq}", "Say that a stage is done", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Seq  int `path:"seq" minimum:"1" maximum:"1000"`
		Body DoneStage
	}) (Run, error) {
		return s.Done(ctx, in.Code, in.Seq, in.Body)
	})
	web.Get(api, "/api/runs/{code}/coats", "What the coats to come cost, put on now, at recoat-ready, dry or wet on wet",
		web.Makers, func(ctx context.Context, in *web.Coded) (CoatPlans, error) {
			return s.CoatPlans(ctx, in.Code)
		})
	web.Get(api, "/api/runs/{code}/buildup", "What a session has built, layer by layer, with the water that is still in it",
		web.Makers, func(ctx context.Context, in *web.Coded) (Buildup, error) {
			return s.Buildup(ctx, in.Code)
		})
	web.Post(api, "/api/runs/{code}/comfort", "Note how the wearer is while a piece is built on them", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body struct {
				Comfort int    `json:"comfort" minimum:"0" maximum:"10" doc:"10 is well"`
				Words   string `json:"words,omitempty" maxLength:"200"`
			}
		}) (Run, error) {
			return s.Ask(ctx, in.Code, in.Body.Comfort, in.Body.Words)
		})
	web.Delete(api, "/api/runs/{code}/comfort", "Erase what a wearer answered", web.Skilled,
		func(ctx context.Context, in *web.Coded) (Run, error) {
			return s.EraseComfort(ctx, in.Code)
		})
	web.Post(api, "/api/runs/{code}/coats", "Plan another coat after the last one", web.Makers, func(ctx context.Context, in *web.Coded) (Run, error) {
		return s.OneMoreCoat(ctx, in.Code)
	})
}

func registerPlaces(api huma.API, s *Service) {
	web.Get(api, "/api/night", "What the pots did while nobody was in the shop", web.Makers,
		func(ctx context.Context, _ *struct{}) (Night, error) {
			return s.LastNight(ctx)
		})
	if room, isSimulated := s.Air.Sensor.(*device.SimulatedRoom); isSimulated {
		web.Post(api, "/api/room/simulated", "Unplug the simulated room sensor, or plug it in again", web.Makers,
			func(_ context.Context, in *struct {
				Body struct {
					Away bool `json:"away"`
				}
			}) (web.Done, error) {
				room.Unplug(s.Clock.Now(), in.Body.Away)
				return web.Done{OK: true}, nil
			})
	}
	web.Get(api, "/api/places", "Racks, cold rooms, warm boxes and ovens with what they show and what stands in them", web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Place, error) { return s.Places(ctx) })
	web.Post(api, "/api/places", "Write a place down", web.Skilled,
		func(ctx context.Context, in *struct{ Body NewPlace }) ([]Place, error) {
			return s.AddPlace(ctx, in.Body)
		})
	web.Post(api, "/api/places/{code}/set", "Set a place to a temperature, or switch it off", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body Set
		}) ([]Place, error) {
			return s.SetPlace(ctx, in.Code, in.Body)
		})
	web.Post(api, "/api/places/{code}/rules", "Say whether a place may run alone, and whether a flame burns there", web.Skilled,
		func(ctx context.Context, in *struct {
			web.Coded
			Body PlaceRules
		}) ([]Place, error) {
			return s.Rule(ctx, in.Code, in.Body)
		})
	web.Post(api, "/api/places/{code}/reading", "Write down what a place's own thermometer shows", web.Makers,
		func(ctx context.Context, in *struct {
			web.Coded
			Body struct {
				TempC float64  `json:"temp_c" minimum:"-30" maximum:"300"`
				RH    *float64 `json:"rh,omitempty" minimum:"0.02" maximum:"1" doc:"share"`
			}
		}) ([]Place, error) {
			return s.ReadPlace(ctx, in.Code, in.Body.TempC, in.Body.RH)
		})
}
