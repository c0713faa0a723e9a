package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/learn"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/yield"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
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
	Casts   *Casts  `json:"casts,omitempty" doc:"how many to pour so that enough are good"`
}

// Casts are how many to pour for so many good ones, from what verdicts said of
// casts of before by the same recipe.
type Casts struct {
	Judged int     `json:"judged"`
	Good   int     `json:"good"`
	Need   int     `json:"need"`
	Pour   int     `json:"pour"`
	Chance float64 `json:"chance" doc:"that at least so many of them are good, 0..1"`
}

// fade is after how many days a verdict counts half.
const fade = 180

// toPour answers it; nil where no cast was judged yet, or nothing can be promised.
func toPour(p material.Product, need int, verdicts []yield.Casts, sure float64) *Casts {
	out := Casts{Need: need}
	for _, v := range verdicts {
		out.Judged += int(v.Casts)
		out.Good += int(v.Good)
	}
	if out.Judged == 0 || need < 1 {
		return nil
	}
	belief, err := yield.Prior(yield.Material(string(p.Family))).After(verdicts, fade)
	if err != nil {
		return nil
	}
	plan, err := yield.ToRun(need, 1, sure, belief)
	if err != nil {
		return nil
	}
	out.Pour, out.Chance = plan.Pieces, plan.Probability
	return &out
}

// usualMinutes is how long weighing and pouring takes where nobody noted it.
const usualMinutes = 15

// interruptedMinutes is from when on a mix is one that was left and taken up again.
const interruptedMinutes = 240

// learned reads it; nil where nothing was poured by the recipe yet. Those that are
// one's own count alone as soon as there are three of them.
func (s *Service) learned(ctx context.Context, db database.Reader, o Order, makes string) (*Learned, error) {
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	var rows []struct {
		Amount  string
		Grams   float64
		Copies  int
		Good    int
		Bad     int
		Began   *time.Time
		EndedAt time.Time `db:"ended_at"`
		Person  uint64
	}
	// The newest thirty of the recipe by index mix_of_recipe.
	const casts = `(SELECT COUNT(*) FROM run_mix rm JOIN copy c ON c.run_id = rm.run_id WHERE rm.mix_id = x.id AND `
	err = db.SelectContext(ctx, &rows, `SELECT x.amount, x.ended_at, x.planned_by AS person,
		(SELECT COALESCE(SUM(w.grams), 0) FROM mix_line n JOIN weigh_in w ON w.mix_line_id = n.id WHERE n.mix_id = x.id) AS grams,
		(SELECT MIN(w.at) FROM mix_line n JOIN weigh_in w ON w.mix_line_id = n.id WHERE n.mix_id = x.id) AS began,
		(SELECT COUNT(*) FROM run_mix rm JOIN copy c ON c.run_id = rm.run_id WHERE rm.mix_id = x.id) AS copies,
		`+casts+copies.GoodSQL("c")+`) AS good, `+casts+copies.ScrappedSQL("c")+`) AS bad
		FROM mix x WHERE x.recipe_slug = ? AND x.state = 'poured' AND x.parent_id IS NULL ORDER BY x.id DESC LIMIT 30`, o.Recipe)
	if err != nil {
		return nil, fmt.Errorf("reading what was mixed before: %w", err)
	}
	var all, own struct{ waste, minutes []learn.Observed }
	var verdicts []yield.Casts
	for i := len(rows) - 1; i >= 0; i-- {
		r := rows[i]
		if n := r.Good + r.Bad; n > 0 {
			verdicts = append(verdicts, yield.Casts{Casts: float64(n), Good: float64(r.Good),
				AgeDays: s.Clock.Now().Sub(r.EndedAt).Hours() / 24})
		}
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
	sure := yield.UsualSure
	if s.Sure != nil {
		if sure, err = s.Sure(ctx); err != nil {
			return nil, err
		}
	}
	return &Learned{N: len(own.waste), Mine: mine, Waste: waste.Median - 1, Low: waste.P10 - 1, High: waste.P90 - 1,
		Minutes: minutes.Median, MinLow: minutes.P10, MinHigh: minutes.P90, Casts: toPour(materials[makes], o.Amount.Copies,
			verdicts, sure)}, nil
}
