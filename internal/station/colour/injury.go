package colour

import (
	"context"

	"yewmoor/internal/craft/injury"
	"yewmoor/internal/piece"
)

// Hurt is an injury on the skin of a piece's wearer, as it is and over its stages.
type Hurt struct {
	Kind  injury.Kind       `json:"kind"`
	Hours float64           `json:"hours"`
	Depth float64           `json:"depth"`
	Zones []injury.Coloured `json:"zones" doc:"from the middle out"`
	// Stages are the same injury later and earlier, so that a look stays true to itself.
	Stages []HurtStage `json:"stages"`
	Skin   Aim         `json:"skin"`
}

// HurtStage is an injury at one of its ages.
type HurtStage struct {
	Hours float64           `json:"hours"`
	Word  string            `json:"word"`
	Zones []injury.Coloured `json:"zones"`
}

// Injury is how an injury looks on the wearer's own skin, as it will be on the day.
func (s *Service) Injury(ctx context.Context, code, kind string, hours, depth float64) (Hurt, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Hurt{}, err
	}
	skins, err := s.skins(ctx, p)
	if err != nil {
		return Hurt{}, err
	}
	aim, err := s.aim(ctx, s.DB, p, skins)
	if err != nil {
		return Hurt{}, err
	}
	out := Hurt{Hours: hours, Depth: depth, Skin: aim}
	if out.Zones, err = injury.Of(kind, hours, depth, aim.under); err != nil {
		return out, err
	}
	out.Kind, _ = injury.Find(kind)
	for i, h := range out.Kind.StageH {
		zones, err := injury.Of(kind, h, depth, aim.under)
		if err != nil {
			return out, err
		}
		out.Stages = append(out.Stages, HurtStage{h, out.Kind.Words[i], zones})
	}
	return out, nil
}
