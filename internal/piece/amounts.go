package piece

import (
	"context"

	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Amounts tells what was measured, scanned and poured of a piece's body, and
// which voice somebody chose to believe; wired to the sculpting room.
type Amounts interface {
	Voices(ctx context.Context, db database.Reader, p Piece) (voices []mix.Route, chosen string, err error)
}

// Scans tells what the newest measured scan of a piece shows; nil for none.
type Scans interface {
	Scanned(ctx context.Context, code string) (*rules.Scanned, error)
}

// voices are all that tells the volume of a piece, what its section draws among
// them.
func (s *Service) voices(ctx context.Context, db database.Reader, p Piece, drawnML float64) (mix.Voices, error) {
	if s.Amounts == nil {
		return mix.Believe(nil, ""), nil
	}
	list, chosen, err := s.Amounts.Voices(ctx, db, p)
	if err != nil {
		return mix.Voices{}, err
	}
	if drawnML > 0 {
		list = append([]mix.Route{mix.Drawn(drawnML)}, list...)
	}
	return mix.Believe(list, chosen), nil
}

// VoicesOf sets everything that tells a piece's volume side by side, by its
// agreed section or what is drafted.
func (s *Service) VoicesOf(ctx context.Context, db database.Reader, p Piece) (mix.Voices, error) {
	doc, _, number, err := AgreedSection(ctx, db, p)
	if err != nil {
		return mix.Voices{}, err
	}
	if number == 0 {
		doc = section.Section{}
	}
	drawn := 0.0
	if number > 0 {
		materials, err := shelf.Load(ctx, db)
		if err != nil {
			return mix.Voices{}, err
		}
		room, err := s.room(ctx, db)
		if err != nil {
			return mix.Voices{}, err
		}
		drawn = doc.Work(materials, room).Body.VolumeML
	}
	return s.voices(ctx, db, p, drawn)
}
