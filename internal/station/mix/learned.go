package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"yewmoor/internal/craft/learn"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
)

// Learned is what mixes of before by the same recipe say: offered, never taken
// silently.
type Learned struct {
	N       int     `json:"n" doc:"poured mixes that it was told from"`
	Waste   float64 `json:"waste" doc:"share on top that was really weighed"`
	Low     float64 `json:"waste_low"`
	High    float64 `json:"waste_high"`
	Mine    int     `json:"mine" doc:"how many of them are one's own"`
	Minutes float64 `json:"minutes" doc:"from the first weight to the pour"`
	MinLow  float64 `json:"minutes_low"`
	MinHigh float64 `json:"minutes_high"`
}

// usualMinutes is how long weighing and pouring takes where nobody noted it.
const usualMinutes = 15

// interruptedMinutes is from when on a mix is one that was left and taken up again.
const interruptedMinutes = 240

// learned reads it; nil where nothing was poured by the recipe yet. Those that are
// one's own count alone as soon as there are three of them.
func (s *Service) learned(ctx context.Context, db database.Reader, slug string) (*Learned, error) {
	who, _ := accounts.From(ctx)
	var rows []struct {
		Amount  string
		Grams   float64
		Copies  int
		Began   *time.Time
		EndedAt time.Time `db:"ended_at"`
		Person  uint64
	}
	// The newest thirty of the recipe by index mix_of_recipe.
	err := db.SelectContext(ctx, &rows, `SELECT x.amount, x.ended_at, x.planned_by AS person,
		(SELECT COALESCE(SUM(w.grams), 0) FROM mix_line n JOIN weigh_in w ON w.mix_line_id = n.id WHERE n.mix_id = x.id) AS grams,
		(SELECT MIN(w.at) FROM mix_line n JOIN weigh_in w ON w.mix_line_id = n.id WHERE n.mix_id = x.id) AS began,
		(SELECT COUNT(*) FROM run_mix rm JOIN copy c ON c.run_id = rm.run_id WHERE rm.mix_id = x.id) AS copies
		FROM mix x WHERE x.recipe_slug = ? AND x.state = 'poured' AND x.parent_id IS NULL ORDER BY x.id DESC LIMIT 30`, slug)
	if err != nil {
		return nil, fmt.Errorf("reading what was mixed before: %w", err)
	}
	var all, own struct{ waste, minutes []learn.Observed }
	for i := len(rows) - 1; i >= 0; i-- {
		r := rows[i]
		var a craft.Answer
		if err := json.Unmarshal([]byte(r.Amount), &a); err != nil || a.PerCopy <= 0 || r.Copies == 0 || r.Grams <= 0 || r.Began == nil {
			continue
		}
		waste := learn.Observed{Value: r.Grams / (a.PerCopy * float64(r.Copies))}
		minutes := learn.Observed{Value: max(0.5, r.EndedAt.Sub(*r.Began).Minutes())}
		minutes.Interrupted = minutes.Value > interruptedMinutes
		all.waste, all.minutes = append(all.waste, waste), append(all.minutes, minutes)
		if r.Person == who.ID {
			own.waste, own.minutes = append(own.waste, waste), append(own.minutes, minutes)
		}
	}
	if len(all.waste) == 0 {
		return nil, nil
	}
	mine := len(own.waste)
	if mine < 3 {
		own = all
	}
	waste, err := learn.From(learn.Before{Median: 1 + material.UsualWaste, Sigma: 0.15}, own.waste)
	if err != nil {
		return nil, err
	}
	minutes, err := learn.From(learn.Before{Median: usualMinutes}, own.minutes)
	if err != nil {
		return nil, err
	}
	return &Learned{N: len(own.waste), Mine: mine, Waste: waste.Median - 1, Low: waste.P10 - 1, High: waste.P90 - 1, Minutes: minutes.Median, MinLow: minutes.P10, MinHigh: minutes.P90}, nil
}
