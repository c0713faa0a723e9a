package recipes

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/platform/web"
)

// Register puts the recipes on the API.
func Register(api huma.API, s *Service) {
	web.Post(api, "/api/recipes", "Begin one's draft of a recipe of the shop's own", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			Name string `json:"name" maxLength:"80"`
			From string `json:"from,omitempty" maxLength:"80" doc:"recipe that it starts from"`
		}
	}) (View, error) {
		return s.New(ctx, in.Body.Name, in.Body.From)
	})
	web.Get(api, "/api/recipes/{code}", "A recipe with what follows from it and its versions", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.View(ctx, in.Code) })
	web.Put(api, "/api/recipes/{code}", "Save a step of one's draft of a recipe", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Saved
	}) (View, error) {
		return s.Save(ctx, in.Code, in.Body.Doc, in.Body.Base, in.Body.Step)
	})
	web.Post(api, "/api/recipes/{code}/undo", "Go a step back in one's draft", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Walk(ctx, in.Code, -1) })
	web.Post(api, "/api/recipes/{code}/redo", "Go a step forward again", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Walk(ctx, in.Code, +1) })
	web.Post(api, "/api/recipes/{code}/carry", "Keep one's draft over a version that somebody agreed meanwhile", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Latest int `json:"latest" doc:"the version that was seen"`
		}
	}) (View, error) {
		return s.Carry(ctx, in.Code, in.Body.Latest)
	})
	web.Delete(api, "/api/recipes/{code}/draft", "Throw one's draft away", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.Drop(ctx, in.Code) })
	web.Post(api, "/api/recipes/{code}/agree", "Make one's draft the version that is mixed by", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Why string `json:"why" maxLength:"300"`
		}
	}) (View, error) {
		return s.Agree(ctx, in.Code, in.Body.Why)
	})
}

// Saved is a recipe as a person saves it: the step that it was worked from stands
// beside it.
type Saved struct {
	Doc  recipe.Recipe `json:"doc"`
	Base int           `json:"base" minimum:"0" maximum:"1000000"`
	Step int           `json:"step" minimum:"0" maximum:"1000000"`
}
