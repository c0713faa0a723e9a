package brief

import (
	"context"
	"errors"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/device"
	"yewmoor/internal/document"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// InLook is an operation on a piece as one look wears it.
type InLook struct {
	web.Coded
	Look string `query:"look" maxLength:"24" doc:"whose other pieces are shown; empty takes the first that the piece belongs to"`
}

// OnSheet is an operation on a sheet of a wearer's map.
type OnSheet struct {
	web.ByID
	Sheet string `path:"sheet"`
}

// Register puts the brief's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/pieces/{code}/brief", "The brief with what follows from it", web.Makers, func(ctx context.Context, in *InLook) (View, error) { return s.View(ctx, in.Code, in.Look) })
	web.Put(api, "/api/pieces/{code}/brief", "Save a step of one's draft of the brief", web.Makers, func(ctx context.Context, in *struct {
		InLook
		Body document.DraftOf[piece.Brief]
	}) (View, error) {
		return s.Save(ctx, in.Code, in.Look, in.Body.Doc, in.Body.Base, in.Body.Step)
	})
	act := func(path, summary string, access web.Access, do func(ctx context.Context, code string) error) {
		web.Post(api, "/api/pieces/{code}/brief/"+path, summary, access, func(ctx context.Context, in *InLook) (View, error) {
			if err := do(ctx, in.Code); err != nil {
				return View{}, err
			}
			return s.View(ctx, in.Code, in.Look)
		})
	}
	act("undo", "Go a step back in one's draft of the brief", web.Makers, func(ctx context.Context, code string) error { return s.Pieces.WalkBrief(ctx, code, -1) })
	act("redo", "Go a step forward again in one's draft of the brief", web.Makers, func(ctx context.Context, code string) error { return s.Pieces.WalkBrief(ctx, code, +1) })
	web.Delete(api, "/api/pieces/{code}/brief/draft", "Throw one's draft of the brief away", web.Makers, func(ctx context.Context, in *InLook) (View, error) {
		if err := s.Pieces.DropBrief(ctx, in.Code); err != nil {
			return View{}, err
		}
		return s.View(ctx, in.Code, in.Look)
	})
	web.Post(api, "/api/pieces/{code}/brief/carry", "Keep one's draft of the brief over a version that somebody agreed meanwhile", web.Makers, func(ctx context.Context, in *struct {
		InLook
		Body struct {
			Latest int `json:"latest" doc:"the version that was seen"`
		}
	}) (View, error) {
		if err := s.Pieces.CarryBrief(ctx, in.Code, in.Body.Latest); err != nil {
			return View{}, err
		}
		return s.View(ctx, in.Code, in.Look)
	})
	web.Post(api, "/api/pieces/{code}/brief/agree", "Make one's draft of the brief the next version", web.Skilled, func(ctx context.Context, in *struct {
		InLook
		Body struct {
			Signed []document.Signature `json:"signed,omitempty" doc:"a lead's reasons to go on in spite of a stop"`
		}
	}) (View, error) {
		return s.Agree(ctx, in.Code, in.Look, in.Body.Signed)
	})
	web.Get(api, "/api/pieces/{code}/brief/versions", "The agreed versions of a brief, newest first", web.Makers, func(ctx context.Context, in *web.Coded) ([]piece.BriefVersion, error) {
		return s.Pieces.BriefVersions(ctx, in.Code)
	})
	web.Post(api, "/api/pieces/{code}/advice", "The methods ranked for a piece, as its brief says or with conditions tried otherwise", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Conditions
	}) (AdviceView, error) {
		return s.Advise(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/pieces/{code}/choice", "Keep the method that is taken, with the reason when it is not the one advised", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Method string `json:"method" maxLength:"40"`
			Reason string `json:"reason,omitempty" maxLength:"500"`
		}
	}) (AdviceView, error) {
		return s.Choose(ctx, in.Code, in.Body.Method, in.Body.Reason)
	})
	web.Get(api, "/api/trials", "What was tried before and how it went", web.Makers, func(ctx context.Context, in *struct {
		Materials []string `query:"materials" maxItems:"60" doc:"of these products; of everything where none is named"`
	}) ([]Trial, error) {
		if len(in.Materials) > 0 {
			return s.TrialsOf(ctx, in.Materials)
		}
		return s.Trials(ctx, "")
	})
	web.Post(api, "/api/trials", "Write down what was tried and how it went", web.Makers, func(ctx context.Context, in *struct{ Body NewTrial }) ([]Trial, error) { return s.Try(ctx, in.Body) })
	web.Get(api, "/api/equipment", "What this shop has", web.Makers, func(ctx context.Context, _ *struct{}) ([]Machine, error) { return s.Equipment(ctx) })
	web.Put(api, "/api/equipment", "Say whether this shop has something", web.Skilled, func(ctx context.Context, in *struct{ Body Machine }) ([]Machine, error) {
		return s.SetEquipment(ctx, in.Body)
	})
	web.Get(api, "/api/copies/{code}/features", "What the brief asks to be on a copy, and who saw it there", web.Makers, func(ctx context.Context, in *web.Coded) ([]OnCopy, error) { return s.OfCopy(ctx, in.Code) })
	web.Post(api, "/api/copies/{code}/features/{feature}", "Say that a feature of the brief is on a copy", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Feature string `path:"feature"`
		Body    struct {
			There bool   `json:"there"`
			At    *Place `json:"at,omitempty" doc:"where on a picture of the copy"`
		}
	}) ([]OnCopy, error) {
		return s.SeeOn(ctx, in.Code, in.Feature, in.Body.There, in.Body.At)
	})
	web.Post(api, "/api/pieces/{code}/features/{feature}", "Say that a feature of the brief is on the piece", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Feature string `path:"feature"`
		Body    struct {
			There bool `json:"there"`
		}
	}) (View, error) {
		return s.See(ctx, in.Code, in.Feature, in.Body.There)
	})
	web.Get(api, "/api/pieces/{code}/hours", "All hands that a piece takes, one sum with its parts", web.Makers, func(ctx context.Context, in *web.Coded) (HoursSum, error) {
		return s.Hours(ctx, in.Code)
	})
	web.Post(api, "/api/pieces/{code}/actuals", "Write down hours or money that were really spent", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewActual
	}) (View, error) {
		return s.Spend(ctx, in.Code, in.Body)
	})
	registerLooks(api, s)
	registerWearer(api, s)
	registerPictures(api, s)
}

func registerLooks(api huma.API, s *Service) {
	web.Get(api, "/api/characters/{code}", "A character with its pieces and looks", web.Makers, func(ctx context.Context, in *web.Coded) (Character, error) { return s.Character(ctx, in.Code) })
	web.Put(api, "/api/characters/{code}/looks", "Write a look down, or change it", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body NewLook
	}) ([]Look, error) {
		return s.SetLook(ctx, in.Code, in.Body)
	})
	web.Delete(api, "/api/characters/{code}/looks/{name}", "Drop a look; its pieces stay", web.Leads, func(ctx context.Context, in *struct {
		web.Coded
		Name string `path:"name"`
	}) ([]Look, error) {
		return s.DropLook(ctx, in.Code, in.Name)
	})
	web.Get(api, "/api/characters/{code}/ready", "How a wearer is made ready, and what they are told", web.Makers, func(ctx context.Context, in *InLook) (Ready, error) { return s.Ready(ctx, in.Code, in.Look) })
}

func registerWearer(api huma.API, s *Service) {
	web.Get(api, "/api/map/kinds", "What can stand on the wearer's map", web.Makers, func(context.Context, *struct{}) ([]wearmap.Kind, error) { return wearmap.Kinds, nil })
	web.Get(api, "/api/performers/{id}/map/{sheet}", "A sheet of a wearer's map; performer 0 is nobody yet", web.Makers, func(ctx context.Context, in *OnSheet) (Sheet, error) { return s.Sheet(ctx, in.ID, in.Sheet) })
	web.Get(api, "/api/performers/{id}/map/{sheet}/view", "A sheet of a wearer's map seen from one side", web.Makers, func(ctx context.Context, in *struct {
		OnSheet
		Yaw   int `query:"yaw" minimum:"-180" maximum:"180"`
		Pitch int `query:"pitch" minimum:"-90" maximum:"90"`
	}) (form.View, error) {
		return s.Drawing(ctx, in.ID, in.Sheet, in.Yaw, in.Pitch)
	})
	web.Get(api, "/api/performers/{id}/marks", "What stands on a wearer's own map", web.Makers, func(ctx context.Context, in *web.ByID) (WearerMap, error) { return s.WearerMap(ctx, in.ID) })
	web.Put(api, "/api/performers/{id}/marks", "Draw on a wearer's own map", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body WearerMap
	}) (WearerMap, error) {
		return s.SetWearerMap(ctx, in.ID, in.Body)
	})
	web.Get(api, "/api/performers/{id}/body", "What is measured and read of a wearer", web.Makers, func(ctx context.Context, in *web.ByID) (Body, error) { return s.Body(ctx, in.ID) })
	web.Post(api, "/api/performers/{id}/measures", "Write a measurement down", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Name  string `json:"name" maxLength:"64"`
			Typed string `json:"typed" maxLength:"64" doc:"565 mm, 22 1/4 in; a bare number is mm"`
		}
	}) (Body, error) {
		return s.Measure(ctx, in.ID, in.Body.Name, in.Body.Typed)
	})
	web.Delete(api, "/api/performers/{id}/measures/{name}", "Erase a measurement", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Name string `path:"name"`
	}) (Body, error) {
		return s.Unmeasure(ctx, in.ID, in.Name)
	})
	web.Post(api, "/api/performers/{id}/skin", "Record a reading of skin, typed or taken with the reader", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body NewReading
	}) (Body, error) {
		return s.ReadSkin(ctx, in.ID, in.Body)
	})
	web.Get(api, "/api/forecast", "The weather that is expected at a place on a day", web.Makers, func(_ context.Context, in *struct {
		Place string `query:"place" maxLength:"120"`
		Day   string `query:"day" format:"date"`
	}) (device.Weather, error) {
		day, err := clock.ParseDay(in.Day, "day")
		if err != nil {
			return device.Weather{}, err
		}
		w, err := s.Forecast.Of(in.Place, day.Add(12*time.Hour))
		if errors.Is(err, device.ErrNone) {
			return w, problem.Conflict("no_device", "Nobody tells this shop the weather. Type what you know of the day.")
		}
		return w, err
	})
}

func registerPictures(api huma.API, s *Service) {
	web.Put(api, "/api/references/{id}", "Rename a reference picture, or say more of it", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			About
			Version int `json:"version" doc:"the one that was seen"`
		}
	}) (piece.View, error) {
		return s.Describe(ctx, in.ID, in.Body.About, in.Body.Version)
	})
	web.Post(api, "/api/references/{id}/notes", "Pin a note on a picture, trace a line, or pick a colour", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body NewPin
	}) (piece.View, error) {
		return s.Note(ctx, in.ID, in.Body)
	})
	web.Put(api, "/api/reference-notes/{id}", "Rename a note on a picture", web.Makers, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Label string `json:"label" maxLength:"80"`
			Words string `json:"words" maxLength:"500"`
		}
	}) (piece.View, error) {
		return s.Rename(ctx, in.ID, in.Body.Label, in.Body.Words)
	})
	web.Delete(api, "/api/reference-notes/{id}", "Take a note off a picture", web.Makers, func(ctx context.Context, in *web.ByID) (piece.View, error) { return s.Unpin(ctx, in.ID) })
}
