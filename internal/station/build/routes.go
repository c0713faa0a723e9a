package build

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/web"
)

// Shelf is the pot shelf with the air of the room.
type Shelf struct {
	Pots []Pot        `json:"pots"`
	Room section.Room `json:"room"`
}

// ByID is an operation on the thing with an id in the path.
type ByID struct {
	ID uint64 `path:"id"`
}

// Register puts the build room's operations on the API.
func Register(api huma.API, s *Service) {
	var shelf web.Shared[Shelf]
	web.Get(api, "/api/pots", "The pot shelf", web.Makers, func(ctx context.Context, _ *struct{}) (Shelf, error) {
		return shelf.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) (Shelf, error) {
			pots, err := s.Shelf(ctx)
			return Shelf{pots, s.Air.Now(ctx)}, err
		})
	})
	web.Post(api, "/api/pots/{id}/demould", "Take a copy out, or a dried coat off the shelf", web.Makers, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Reason string `json:"reason,omitempty" maxLength:"300" doc:"needed before its time"`
		}
	}) (Pot, error) {
		return s.Demould(ctx, in.ID, in.Body.Reason)
	})
	web.Post(api, "/api/pots/{id}/observe", "Say that a stage is over, as seen or felt", web.Makers, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Stage string `json:"stage" enum:"pot,gel" doc:"pot: no longer pourable; gel: no longer tacky"`
		}
	}) (Pot, error) {
		return s.Observe(ctx, in.ID, in.Body.Stage)
	})
	var copies web.Shared[[]Copy]
	web.Get(api, "/api/copies", "Copies of a piece, or those of all that need a hand and the newest others", web.Makers, func(ctx context.Context, in *struct {
		Piece string `query:"piece"`
	}) ([]Copy, error) {
		if in.Piece != "" {
			return s.Copies(ctx, in.Piece)
		}
		return copies.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) ([]Copy, error) { return s.Copies(ctx, "") })
	})
	web.Post(api, "/api/pieces/{code}/coats", "Note a coat of latex put on; its pot goes on the shelf", web.Makers, func(ctx context.Context, in *struct {
		piece.Coded
		Body Coat
	}) (Pot, error) {
		return s.StartCoat(ctx, in.Code, in.Body)
	})
}
