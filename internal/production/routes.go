package production

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/platform/web"
)

// Register puts the operations on productions on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/productions/{id}/days", "A production's shooting days", web.Makers, func(ctx context.Context, in *web.ByID) ([]Day, error) { return s.Days(ctx, s.DB, in.ID) })
	web.Post(api, "/api/productions/{id}/days", "Add a shooting day", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body NewDay
	}) ([]Day, error) {
		return s.AddDay(ctx, in.ID, in.Body)
	})
	web.Delete(api, "/api/days/{id}", "Take a shooting day out, while nothing is worn or packed for it", web.Skilled, func(ctx context.Context, in *web.ByID) ([]Day, error) { return s.RemoveDay(ctx, in.ID) })
	web.Put(api, "/api/days/{id}", "Correct a shooting day, or take over its forecast", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			NewDay
			Version int `json:"version" doc:"the one that was seen"`
		}
	}) ([]Day, error) {
		return s.ChangeDay(ctx, in.ID, in.Body.NewDay, in.Body.Version)
	})
}
