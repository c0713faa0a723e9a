package build

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
)

// Want is what planned work takes of a material, and when.
type Want struct {
	For      string
	Material string
	Grams    float64
	On       time.Time
}

// Takes is what a copy takes of the layer's material and of what is stirred in.
func (w Wanted) Takes() []section.Taken { return section.Mixed(w.Material, w.With, w.EachG) }

// aheadDays is how many days ahead the copies of shooting days are looked for.
const aheadDays = 45

// Ahead is what open runs still take, and what the copies take that the shooting days
// of the weeks to come ask for and nobody has made yet. They are wanted the day before
// the piece's next day.
func (s *Service) Ahead(ctx context.Context) ([]Want, error) {
	now := s.Clock.Now()
	runs, err := s.Runs(ctx, "")
	if err != nil {
		return nil, err
	}
	var out []Want
	making := map[string]int{}
	for _, r := range runs {
		n := r.making()
		making[r.Piece] += n
		for _, st := range r.Stages {
			if st.DoneAt == nil && st.Material != "" && st.Grams > 0 {
				for _, t := range st.Takes() {
					out = append(out, Want{r.Code, t.Material, t.Grams * float64(n), now})
				}
			}
		}
	}
	var due []struct {
		Code  string
		First time.Time
	}
	// By the days' own index; pieces that were put away have no days to come.
	if err := s.DB.SelectContext(ctx, &due, `SELECT q.code, MIN(d.day) AS first FROM piece_day pd JOIN shooting_day d ON d.id = pd.day_id JOIN piece q ON q.id = pd.piece_id
		WHERE d.day >= ? AND d.day <= ? AND q.put_away_at IS NULL GROUP BY q.code ORDER BY first, q.code`, now.Format(time.DateOnly), now.AddDate(0, 0, aheadDays).Format(time.DateOnly)); err != nil {
		return nil, fmt.Errorf("reading what days ask for: %w", err)
	}
	for _, d := range due {
		p, err := piece.Find(ctx, s.DB, d.Code)
		if err != nil {
			return nil, err
		}
		missing := p.CopiesWanted - p.CopiesGood - making[p.Code]
		if missing <= 0 || p.SectionNumber == 0 {
			continue
		}
		list, err := s.Wanted(ctx, p)
		if err != nil {
			return nil, err
		}
		on := d.First.AddDate(0, 0, -1)
		if on.Before(now) {
			on = now
		}
		for _, w := range list {
			if !w.Body {
				continue // glue, paint and powder go with the kit, by the drop
			}
			for _, t := range w.Takes() {
				out = append(out, Want{fmt.Sprintf("%s, %d copies", p.Code, missing), t.Material, t.Grams * float64(missing), on})
			}
		}
	}
	return out, nil
}
