package colour

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Warning is something that will be seen on a day.
type Warning struct {
	Day   uint64  `json:"day,omitempty"`
	Kind  string  `json:"kind" enum:"fails,unknown_light,moved_target,section_moved,unsure"`
	Text  string  `json:"text"`
	DE00  float64 `json:"de00,omitempty"`
	Light string  `json:"light,omitempty"`
}

// Room is what the colour room knows of a piece.
type Room struct {
	Piece    string     `json:"piece"`
	Aim      *Aim       `json:"aim,omitempty"`
	NoAim    string     `json:"no_aim,omitempty" doc:"why there is no target"`
	Skins    []Target   `json:"skins" doc:"what was read of the wearer"`
	Lights   []SetLight `json:"lights"`
	Days     []DayLight `json:"days"`
	Recipes  []Recipe   `json:"recipes" doc:"taken for its body, the newest first"`
	Warnings []Warning  `json:"warnings"`
}

// Room reads it.
func (s *Service) Room(ctx context.Context, code string) (Room, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Room{}, err
	}
	out := Room{Piece: p.Code, Skins: []Target{}, Recipes: []Recipe{}, Warnings: []Warning{}}
	if out.Lights, err = lightsNow(ctx, s.DB); err != nil {
		return out, err
	}
	if out.Days, err = daysOf(ctx, s.DB, p, out.Lights); err != nil {
		return out, err
	}
	if out.Recipes, err = s.recipesOf(ctx, s.DB, p); err != nil {
		return out, err
	}
	if out.Skins, err = s.skinsOf(ctx, p); err != nil {
		return out, err
	}
	aim, err := s.aim(ctx, s.DB, p, out.Skins)
	switch {
	case isConflict(err):
		out.NoAim = err.Error()
	case err != nil:
		return out, err
	default:
		out.Aim = &aim
	}
	return out, s.warn(ctx, s.DB, p, &out)
}

// isConflict says that something is not there yet, as against wrong.
func isConflict(err error) bool {
	var no *problem.Problem
	return errors.As(err, &no) && no.Status == http.StatusConflict
}

// warn says what will be seen of the recipe that was taken last, by each day's light.
func (s *Service) warn(ctx context.Context, db database.Reader, p piece.Piece, out *Room) error {
	say := func(w Warning) { out.Warnings = append(out.Warnings, w) }
	for _, d := range out.Days {
		if !d.Known {
			say(Warning{Day: d.ID, Kind: "unknown_light", Light: d.Words,
				Text: fmt.Sprintf("%s, %s: nobody measured the light “%s”. Have a spectrum of it taken, or say which standard light it is.",
					d.Day.Format("2 Jan"), d.Place, d.Words)})
		}
	}
	if out.Aim == nil {
		return nil
	}
	if out.Aim.Unsure {
		say(Warning{Kind: "unsure", DE00: out.Aim.MCDM, Text: fmt.Sprintf("The target was read %d times, %.1f apart: read it three times more.", out.Aim.Readings, out.Aim.MCDM)})
	}
	if len(out.Recipes) == 0 {
		return nil
	}
	r := out.Recipes[0]
	if off := colour.DE00(r.Aim.Lab, out.Aim.Lab); off > 0.5 {
		say(Warning{Kind: "moved_target", DE00: off, Text: fmt.Sprintf("%s was taken for another target: %.1f from the one that stands.", r.Code, off)})
	}
	if p.SectionNumber != r.Section {
		say(Warning{Kind: "section_moved", Text: fmt.Sprintf("%s was taken for section §%d; §%d is agreed now. Its thickness may be another.", r.Code, r.Section, p.SectionNumber)})
	}
	look, err := s.lookOf(ctx, db, r)
	if err != nil {
		// A pigment that is no longer known: the recipe stands, and nothing is told of it.
		return nil
	}
	for _, d := range out.Days {
		l, known := lightOf(out.Lights, d.Words)
		if !known {
			continue
		}
		if off := colour.DE00(look.Under(l.lamp), out.Aim.r.Under(l.lamp)); off > out.Aim.Allowed {
			say(Warning{Day: d.ID, Kind: "fails", Light: l.Name, DE00: off,
				Text: fmt.Sprintf("%s, %s: under %s %s is %.1f off, and %.1f is allowed.", d.Day.Format("2 Jan"), d.Place, l.Name, r.Code,
					off, out.Aim.Allowed)})
		}
	}
	return nil
}

// lookOf is how a recipe looks at the centre: as its last drawdown read, with what was put
// in since; else as it was weighed; else as it was meant.
func (s *Service) lookOf(ctx context.Context, db database.Reader, r Recipe) (colour.Spectrum, error) {
	var none colour.Spectrum
	if n := len(r.Drawn); n > 0 {
		d := r.Drawn[n-1]
		if d.AddedAt != nil && r.Ready {
			return colour.Measured(d.Answer.ThenR, "r_put_right")
		}
		return colour.Measured(d.Answer.NowR, "r_as_it_is")
	}
	base, err := colour.BaseOf(r.Base)
	if err != nil {
		return none, err
	}
	known, err := knownPigments(ctx, db)
	if err != nil {
		return none, err
	}
	under, err := colour.Measured(r.Aim.Under, "under")
	if err != nil {
		return none, err
	}
	parts := r.Real
	if len(parts) == 0 {
		parts = r.Parts
	}
	var doses []colour.Dose
	for _, x := range parts {
		doses = append(doses, colour.Dose{Pigment: x.Material, G: x.Per100})
	}
	mixed, err := base.MixedOf(known, doses, r.Aim.Aged)
	if err != nil {
		return none, err
	}
	return mixed.Over(r.X, &under), nil
}
