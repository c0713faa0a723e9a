package piece

import (
	"context"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Amounts tells what was measured and poured of a piece's body, and what
// somebody chose to believe; wired to the sculpting room.
type Amounts interface {
	Told(ctx context.Context, db database.Reader, p Piece) (Told, error)
}

// Told is what others than its section tell of a piece's volume, and which voices of
// its volume and of its area somebody chose; empty for nobody.
type Told struct {
	Voices             []mix.Route
	Chosen, ChosenArea string
}

// Scans tells what the newest measured scan of a piece shows; nil for none.
type Scans interface {
	Scanned(ctx context.Context, code string) (*rules.Scanned, error)
}

// Moulds tells what the moulds of a piece take; wired to the mould room.
type Moulds interface {
	Needed(ctx context.Context, db database.Reader, p Piece, doc section.Section, body section.Bulk) (Tooling, error)
}

// Tooling is what the moulds of a piece take: material for each copy that is wanted,
// in hundredths of the shop's money, and hands for all of them. Known is false where
// nothing is cast in one.
type Tooling struct {
	Known     bool
	Moulds    int
	MinorEach int64
	HandsS    float64
	Note      string
}

// since is up to which act and which scan something was read, so that what tells
// of an amount is read once for a section that is dragged. Nothing is kept where
// it is not set.
type since struct {
	drafts  string // of the person, where they were asked
	Record  uint64
	Scans   string
	Changed string // of the shelf
}

// noScans is what since says of a character of whom nothing was scanned.
const noScans = "0/0/0"

// Remember keeps what is told of so many pieces: a season's work.
func (s *Service) Remember(pieces int) {
	s.told.Most, s.shown.Most, s.seen.Most = pieces, pieces, pieces
}

// tells reads what others tell of a piece's amount; see docs/caches.md.
func (s *Service) tells(ctx context.Context, db database.Reader, p Piece, at since) (Told, error) {
	if s.Amounts == nil {
		return Told{}, nil
	}
	read := func() (Told, error) { return s.Amounts.Told(ctx, db, p) }
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
	if s.Scans == nil || at.Scans == noScans {
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

// voices are all that tells the volume and the area of a piece: what its section
// draws, what lies on the wearer's map in cm², and what was measured.
func (s *Service) voices(ctx context.Context, db database.Reader, p Piece, doc section.Section, materials material.Shelf, mapCM2 float64, at since) (mix.Voices, mix.Areas, error) {
	t, err := s.tells(ctx, db, p, at)
	if err != nil {
		return mix.Voices{}, mix.Areas{}, err
	}
	scan, err := s.scanned(ctx, p, at)
	if err != nil {
		return mix.Voices{}, mix.Areas{}, err
	}
	list := t.Voices
	// What a scan measured itself wins over a figure that was typed from one.
	if scan != nil && scan.VolumeML > 0 {
		if shown, err := mix.Scanned(scan.VolumeML); err == nil {
			list = append(slices.DeleteFunc(slices.Clone(list), func(r mix.Route) bool { return r.Name == mix.RouteScan }), shown)
		}
	}
	if drawn := doc.DrawnML(materials); drawn > 0 {
		list = append([]mix.Route{mix.Drawn(drawn)}, list...)
	}
	var areas []mix.Area
	if len(doc.Layers) > 0 {
		areas = append(areas, mix.AreaOf(mix.RouteSection, doc.TotalCM2()))
	}
	if mapCM2 > 0 {
		areas = append(areas, mix.AreaOf(mix.RouteMap, mapCM2))
	}
	if scan != nil && scan.AreaCM2 > 0 {
		areas = append(areas, mix.AreaOf(mix.RouteScan, scan.AreaCM2))
	}
	return mix.Believe(list, t.Chosen), mix.BelieveAreas(areas, t.ChosenArea), nil
}

// outlined is what a piece covers on its wearer's map, cm²; 0 where it is not drawn.
func outlined(m wearmap.Result, code string) (cm2 float64) {
	for _, a := range m.Areas {
		if a.Piece == code {
			cm2 += a.CM2
		}
	}
	return cm2
}

// VoicesOf sets everything that tells a piece's volume and area side by side, by its
// agreed section.
func (s *Service) VoicesOf(ctx context.Context, db database.Reader, p Piece) (mix.Voices, mix.Areas, error) {
	doc, _, _, err := AgreedSection(ctx, db, p)
	if err != nil {
		return mix.Voices{}, mix.Areas{}, err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return mix.Voices{}, mix.Areas{}, err
	}
	at, err := s.since(ctx, db, p)
	if err != nil {
		return mix.Voices{}, mix.Areas{}, err
	}
	around, err := s.around(ctx, db, p, at)
	if err != nil {
		return mix.Voices{}, mix.Areas{}, err
	}
	return s.voices(ctx, db, p, doc, materials, outlined(around.Map, p.Code), at)
}

// ResultOf is what follows from a section of a piece in the air of now, with the
// volume and area that are believed: what every room goes by that makes, packs or
// prices it.
func (s *Service) ResultOf(ctx context.Context, db database.Reader, p Piece, doc section.Section, materials material.Shelf) (section.Result, error) {
	room, err := s.room(ctx, db)
	if err != nil {
		return section.Result{}, err
	}
	return s.ResultIn(ctx, db, p, doc, materials, room)
}

// ResultIn is the same in another air than that of now.
func (s *Service) ResultIn(ctx context.Context, db database.Reader, p Piece, doc section.Section, materials material.Shelf, room section.Room) (section.Result, error) {
	at, err := s.since(ctx, db, p)
	if err != nil {
		return section.Result{}, err
	}
	around, err := s.around(ctx, db, p, at)
	if err != nil {
		return section.Result{}, err
	}
	v, a, err := s.voices(ctx, db, p, doc, materials, outlined(around.Map, p.Code), at)
	if err != nil {
		return section.Result{}, err
	}
	doc.Region = p.Region
	r := doc.WorkBy(materials, room, section.Believed{VolumeML: v.VolumeML, AreaCM2: a.CM2})
	return r, s.spendMoulds(ctx, db, p, doc, &r)
}

// spendMoulds adds a copy's share of its moulds to what it costs.
func (s *Service) spendMoulds(ctx context.Context, db database.Reader, p Piece, doc section.Section, r *section.Result) error {
	if s.Moulds == nil || r.Body.AreaCM2 <= 0 {
		return nil
	}
	t, err := s.Moulds.Needed(ctx, db, p, doc, r.Body)
	if err == nil && t.Known {
		r.Spend(section.CostPart{Part: section.CostMould, Minor: t.MinorEach, Note: t.Note})
	}
	return err
}
