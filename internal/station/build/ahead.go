package build

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/copies"
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

// Begun is when so many copies are begun that a shooting day misses.
type Begun struct {
	On     time.Time
	Copies int
}

// Ahead is what open runs still take, and what the copies take that the shooting days
// of the weeks to come ask for and nobody has made yet. They are wanted when the plan
// begins them; where it says nothing, the day before the day that asks for them.
func (s *Service) Ahead(ctx context.Context, begins func(piece string, day uint64, missing int) []Begun) ([]Want, error) {
	now := s.Clock.Now()
	runs, err := s.Runs(ctx, "")
	if err != nil {
		return nil, err
	}
	var out []Want
	for _, r := range runs {
		n := r.making()
		for _, st := range r.Stages {
			if st.DoneAt == nil && st.Material != "" && st.Grams > 0 {
				for _, t := range st.Takes() {
					out = append(out, Want{r.Code, t.Material, t.Grams * float64(n), now})
				}
			}
		}
	}
	// Day by day: what is there or coming serves the earliest, so that what is missing is wanted by its own day and not all by the first.
	needs, err := copies.Needs(ctx, s.DB, now)
	if err != nil {
		return nil, err
	}
	until := now.AddDate(0, 0, aheadDays)
	known := map[string][]Wanted{}
	for _, n := range needs {
		if n.Missing == 0 || n.Day.After(until) {
			continue
		}
		list, seen := known[n.Piece]
		if !seen {
			p, err := piece.Find(ctx, s.DB, n.Piece)
			if err != nil {
				return nil, err
			}
			if p.SectionNumber > 0 {
				if list, err = s.Wanted(ctx, p); err != nil {
					return nil, err
				}
			}
			known[n.Piece] = list
		}
		begun := begins(n.Piece, n.DayID, n.Missing)
		if len(begun) == 0 {
			begun = []Begun{{n.Day.AddDate(0, 0, -1), n.Missing}}
		}
		for _, b := range begun {
			if b.On.Before(now) {
				b.On = now
			}
			for _, w := range list {
				if !w.Body {
					continue // glue, paint and powder go with the kit, by the drop
				}
				for _, t := range w.Takes() {
					out = append(out, Want{fmt.Sprintf("%s, %s for %s", n.Piece, counted(b.Copies), n.Day.Format("2 January")), t.Material, t.Grams * float64(b.Copies), b.On})
				}
			}
		}
	}
	return out, nil
}

func counted(copies int) string {
	if copies == 1 {
		return "1 copy"
	}
	return fmt.Sprintf("%d copies", copies)
}
