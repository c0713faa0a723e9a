package work

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/platform/web"
)

// Register puts the log of work on the API.
func Register(api huma.API, s *Service) {
	web.Post(
		api,
		"/api/work",
		"Begin work, or note what was done before",
		web.Makers,
		func(ctx context.Context, in *struct{ Body NewSpan }) (Span, error) {
			return s.Begin(ctx, in.Body)
		},
	)
	web.Post(
		api,
		"/api/work/{id}/stop",
		"End work, or say afterwards how it ended",
		web.Makers,
		func(ctx context.Context, in *struct {
			web.ByID
			Body End
		}) (Span, error) {
			return s.Stop(ctx, in.ID, in.Body)
		},
	)
	web.Delete(
		api,
		"/api/work/{id}",
		"Take back work that was noted by mistake",
		web.Makers,
		func(ctx context.Context, in *web.ByID) (web.Done, error) {
			return web.Done{}, s.Back(ctx, in.ID)
		},
	)
}
