package colour

import (
	"context"

	"yewmoor/internal/craft/colour"
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
	Bloods []Bled      `json:"bloods" doc:"the library's bloods on this skin, to match"`
}

// Bled is a stage blood on a skin, thin, usual and pooled.
type Bled struct {
	ID    string     `json:"id"`
	Name  string     `json:"name"`
	Class string     `json:"class" doc:"thin, pouring, thick, paste"`
	Films []Bleeding `json:"films"`
}

// Bleeding is it at a depth.
type Bleeding struct {
	MM  float64    `json:"mm"`
	Lab colour.Lab `json:"lab"`
}

// bledMM are the depths that are shown: as it runs off, full red, and pooled.
var bledMM = []float64{0.05, 0.3, 1}

func bleeds(skin *colour.Spectrum) ([]Bled, error) {
	var out []Bled
	for _, b := range colour.BloodTypes {
		v := Bled{ID: b.ID, Name: b.Name, Class: b.Class}
		for _, mm := range bledMM {
			r, err := colour.BloodOver(b.ID, mm, skin)
			if err != nil {
				return nil, err
			}
			v.Films = append(v.Films, Bleeding{mm, r.Lab(colour.D65)})
		}
		out = append(out, v)
	}
	return out, nil
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
	if out.Bloods, err = bleeds(&aim.under); err != nil {
		return out, err
	}
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
