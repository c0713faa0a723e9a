package piece

import (
	"context"

	"yewmoor/internal/craft/material"
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

// since is up to which act and which scan something was read, so that what tells
// of an amount is read once for a section that is dragged. Nothing is kept where
// it is not set.
type since struct {
	Record uint64
	Scans  string
}

// told is what others tell of a piece's amount.
type told struct {
	Voices []mix.Route
	Chosen string
}

// tells reads what others tell of a piece's amount; see docs/caches.md.
func (s *Service) tells(ctx context.Context, db database.Reader, p Piece, at since) (told, error) {
	read := func() (told, error) {
		list, chosen, err := s.Amounts.Voices(ctx, db, p)
		return told{list, chosen}, err
	}
	if at.Record == 0 {
		return read()
	}
	return s.told.Get(struct {
		Piece uint64
		At    since
	}{p.ID, at}, read)
}

// scanned is what the newest scan of a piece shows; nil for none.
func (s *Service) scanned(ctx context.Context, p Piece, at since) (*rules.Scanned, error) {
	if s.Scans == nil {
		return nil, nil
	}
	read := func() (*rules.Scanned, error) { return s.Scans.Scanned(ctx, p.Code) }
	if at.Record == 0 {
		return read()
	}
	return s.shown.Get(struct {
		Piece uint64
		At    since
	}{p.ID, at}, read)
}

// voices are all that tells the volume of a piece, what its section draws among
// them.
func (s *Service) voices(ctx context.Context, db database.Reader, p Piece, drawnML float64, at since) (mix.Voices, error) {
	if s.Amounts == nil {
		return mix.Believe(nil, ""), nil
	}
	t, err := s.tells(ctx, db, p, at)
	if err != nil {
		return mix.Voices{}, err
	}
	list := t.Voices
	if drawnML > 0 {
		list = append([]mix.Route{mix.Drawn(drawnML)}, list...)
	}
	return mix.Believe(list, t.Chosen), nil
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
		drawn = doc.DrawnML(materials)
	}
	return s.voices(ctx, db, p, drawn, since{})
}

// ResultOf is what follows from a section of a piece in the air of now, with the
// volume that is believed: what every room goes by that makes, packs or prices it.
func (s *Service) ResultOf(ctx context.Context, db database.Reader, p Piece, doc section.Section, materials material.Shelf) (section.Result, error) {
	room, err := s.room(ctx, db)
	if err != nil {
		return section.Result{}, err
	}
	v, err := s.voices(ctx, db, p, doc.DrawnML(materials), since{})
	if err != nil {
		return section.Result{}, err
	}
	doc.Region = p.Region
	return doc.WorkBy(materials, room, v.VolumeML), nil
}
