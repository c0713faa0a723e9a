package piece

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/platform/database"
)

// Brief is what a piece is wanted for: told once, used by every later room.
type Brief struct {
	Asked     string   `json:"asked" maxLength:"2000" doc:"what was asked for, in their words"`
	Decided   string   `json:"decided" maxLength:"2000" doc:"what was agreed about it"`
	Camera    string   `json:"camera" enum:"close,medium,far"`
	WearHours float64  `json:"wear_hours" minimum:"0" maximum:"24"`
	AreaCM2   float64  `json:"area_cm2" minimum:"0" maximum:"20000" doc:"true area of skin; 0 takes the region's usual one"`
	Worn      string   `json:"worn" maxLength:"500" doc:"where exactly and what must stay clear of it"`
	KeepFree  []string `json:"keep_free" doc:"what must stay free"`
	Features  []Check  `json:"features" doc:"what must not be left out"`
}

// Check is one feature of the reference that must be there in the end.
type Check struct {
	Text string `json:"text" maxLength:"200"`
	Done bool   `json:"done"`
}

// Free lists what a brief can ask to stay free.
var Free = []string{"left eye", "right eye", "nose", "mouth", "hearing"}

func (b Brief) check() error {
	if !slices.Contains([]string{"close", "medium", "far"}, b.Camera) {
		return refusal.New(refusal.UnknownValue, "camera", "Say how near the camera comes: close, medium or far.")
	}
	for i, f := range b.KeepFree {
		if !slices.Contains(Free, f) {
			return refusal.New(refusal.UnknownValue, fmt.Sprintf("keep_free[%d]", i), "“%s” is not one of %v.", f, Free)
		}
	}
	if len(b.Features) > 100 {
		return refusal.New(refusal.OutOfRange, "features", "At most 100 features.")
	}
	return nil
}

// BriefView is a brief as one person sees it.
type BriefView struct {
	Doc   Brief `json:"doc"`
	State State `json:"state"`
}

func (s *Service) readBrief(ctx context.Context, db database.Reader, p Piece) (Brief, State, error) {
	raw, state, err := document(ctx, db, p.ID, BriefKind)
	if err != nil {
		return Brief{}, state, err
	}
	b := Brief{Camera: "close", KeepFree: slices.Clone(Free), Features: []Check{}}
	if raw == nil {
		if r, ok := region.Find(p.Region); ok {
			b.AreaCM2 = r.AreaCM2
		}
		return b, state, nil
	}
	return b, state, json.Unmarshal(raw, &b)
}

// Brief reads the brief as the signed-in person sees it.
func (s *Service) Brief(ctx context.Context, code string) (BriefView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return BriefView{}, err
	}
	doc, state, err := s.readBrief(ctx, s.DB, p)
	return BriefView{doc, state}, err
}

// SaveBrief writes the person's next draft step.
func (s *Service) SaveBrief(ctx context.Context, code string, doc Brief, base, step int) (BriefView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return BriefView{}, err
	}
	if err := doc.check(); err != nil {
		return BriefView{}, err
	}
	raw, err := json.Marshal(doc)
	if err != nil {
		return BriefView{}, err
	}
	if err := s.DB.InTx(ctx, func(tx database.Tx) error { return s.saveDraft(ctx, tx, p.ID, BriefKind, raw, base, step) }); err != nil {
		return BriefView{}, err
	}
	s.Live.Tell("brief", code)
	return s.Brief(ctx, code)
}

// AgreeBrief makes the draft a version and sends the piece on to its form.
func (s *Service) AgreeBrief(ctx context.Context, code string) (BriefView, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := s.agree(ctx, tx, p, BriefKind, nil); err != nil {
			return err
		}
		return Move(ctx, tx, p.ID, "form", true)
	})
	if err != nil {
		return BriefView{}, err
	}
	s.Live.Tell("brief", code)
	s.Live.Tell("pieces", "")
	return s.Brief(ctx, code)
}
