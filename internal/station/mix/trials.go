package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/blood"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// Trial is a run that was watched on a tilted strip: how far a drop came, and when.
// What it is like is remembered with the recipe.
type Trial struct {
	Mix      string    `json:"mix,omitempty" maxLength:"16"`
	VolumeML float64   `json:"volume_ml" minimum:"0.001" maximum:"100"`
	WidthMM  float64   `json:"width_mm" minimum:"0.5" maximum:"500" doc:"of the track"`
	TiltDeg  float64   `json:"tilt_deg" minimum:"1" maximum:"90"`
	Readings []Reading `json:"readings" minItems:"1" maxItems:"40"`
	Stopped  bool      `json:"stopped,omitempty" doc:"the last reading is where it stands"`
	Words    string    `json:"words,omitempty" maxLength:"300" doc:"what it is like: runs like syrup, stays in the hollow"`
}

// Reading is where the front of a drop was.
type Reading struct {
	TimeS      float64 `json:"time_s"`
	DistanceMM float64 `json:"distance_mm"`
}

// Tried is a trial with what it says.
type Tried struct {
	Trial
	Fit blood.Fit `json:"fit"`
	// After is where such a drop stands on a wall after half a minute.
	AfterMM *float64  `json:"after_mm" doc:"a drop of 0.1 ml on an upright wall after 30 s"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
}

// figures are what is kept of a trial.
type figures struct {
	Trial
	Fit blood.Fit `json:"fit"`
}

// Try writes down how a recipe runs and stays.
func (s *Service) Try(ctx context.Context, slug string, in Trial) ([]Tried, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	house, _, err := recipes.Agreed(ctx, s.DB, slug, materials)
	if err != nil {
		return nil, err
	}
	w := blood.Watched{VolumeML: in.VolumeML, WidthMM: in.WidthMM, TiltDeg: in.TiltDeg, Density: materials[house.Makes].Mixed() * 1000, Stopped: in.Stopped}
	for _, r := range in.Readings {
		w.Readings = append(w.Readings, [2]float64{r.TimeS, r.DistanceMM})
	}
	if err := w.Check(); err != nil {
		return nil, err
	}
	in.Words = strings.TrimSpace(in.Words)
	raw, err := json.Marshal(figures{in, blood.FitOf(w)})
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var mix *uint64
		if in.Mix != "" {
			m, err := readRow(ctx, tx, in.Mix)
			if err != nil {
				return problem.Invalid("unknown_value", "mix", "There is no mix %s.", in.Mix)
			}
			mix = &m.ID
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO recipe_trial (recipe_slug, mix_id, figures, words, at, person_id) VALUES (?,?,?,?,?,?)`, slug, mix, string(raw), in.Words, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the trial: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: recipes.Kind, Code: slug, Act: "tried", Words: in.Words})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "recipes", slug)
	return s.Trials(ctx, slug)
}

// Trials are the trials of a recipe, newest first.
func (s *Service) Trials(ctx context.Context, slug string) ([]Tried, error) {
	var rows []struct {
		Figures string
		At      time.Time
		By      string `db:"by_name"`
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	house, _, err := recipes.Agreed(ctx, s.DB, slug, materials)
	if err != nil {
		return nil, err
	}
	// By index recipe_trial_of.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT t.figures, t.at, p.name AS by_name FROM recipe_trial t JOIN person p ON p.id = t.person_id WHERE t.recipe_slug = ? ORDER BY t.at DESC, t.id DESC LIMIT 20`, slug); err != nil {
		return nil, fmt.Errorf("reading the trials: %w", err)
	}
	out := []Tried{}
	for _, r := range rows {
		var f figures
		if err := json.Unmarshal([]byte(r.Figures), &f); err != nil {
			return nil, fmt.Errorf("reading a trial: %w", err)
		}
		t := Tried{Trial: f.Trial, Fit: f.Fit, At: r.At, By: r.By}
		if v := f.Fit.Viscosity; v != nil {
			y := 0.0
			if f.Fit.YieldPa != nil {
				y = *f.Fit.YieldPa
			}
			t.AfterMM = blood.Of(blood.Flow{ViscosityPas: *v, YieldPa: y, Density: materials[house.Makes].Mixed() * 1000, TiltDeg: 90,
				FilmMM: 0.3, VolumeML: 0.1, WidthMM: 4, TimeS: 30, SurfaceNM: 0.06, Hysteresis: 0.3}).Distance
		}
		out = append(out, t)
	}
	return out, nil
}
