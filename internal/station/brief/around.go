package brief

import (
	"context"

	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
)

// Around tells the section what brief and map say of where a piece goes.
func (s *Service) Around(ctx context.Context, db database.Reader, p piece.Piece) (piece.Surroundings, error) {
	out := piece.Surroundings{}
	v := View{}
	var err error
	if out.Brief, _, err = s.Pieces.ReadBrief(ctx, db, p); err != nil {
		return out, err
	}
	v.Doc = out.Brief
	if err := s.follow(ctx, db, p, "", &v); err != nil {
		return out, err
	}
	out.Map = v.Map
	for _, o := range v.Others {
		out.Look = append(out.Look, o.Code)
	}
	if out.Days, err = s.daysOf(ctx, db, p); err != nil {
		return out, err
	}
	plan, err := s.wear(ctx, db, p, out.Brief, out.Map)
	out.AskMin = plan.CheckInMin
	return out, err
}

// mapOf is what follows from a scene. It follows from the scene and the forms
// alone, and a section asks for it with every keystroke while the map stays as
// it is.
func (s *Service) mapOf(scene wearmap.Scene, stamps map[string]string, sheets wearmap.Sheets) (wearmap.Result, error) {
	return s.maps.Get(struct {
		Scene  wearmap.Scene
		Stamps map[string]string
	}{scene, stamps}, func() (wearmap.Result, error) { return wearmap.Work(scene, sheets) })
}
