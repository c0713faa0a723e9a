package plan

import (
	"time"

	"yewmoor/internal/craft/plan"
)

// Begins is when the plan begins copies that a day misses, day by day: what the stores are to have by then.
type Begins struct {
	Piece   string
	DayID   uint64
	Missing int // of that day, as the plan saw it
	On      time.Time
	Copies  int
}

// Begins tells it of the plan that was worked out last; none before the first. It plans nothing: the stores ask often.
func (s *Service) Begins() []Begins {
	if list := s.begins.Load(); list != nil {
		return *list
	}
	return nil
}

// begin are the sessions of a plan that nobody began, by the day on which each begins.
func (w worked) begin() []Begins {
	start := map[string]plan.Placed{}
	if w.p != nil {
		for _, st := range w.p.Steps {
			start[st.ID] = st
		}
	}
	out := []Begins{}
	at := map[Begins]int{}
	for _, x := range w.f.shop.Sessions {
		st, placed := start[x.Code+".1"]
		if x.Open || !placed {
			continue
		}
		b := Begins{
			Piece:   x.Piece,
			DayID:   w.f.days[x.Job].ID,
			Missing: w.f.missing[x.Job],
			On:      w.f.at(st.Start).Truncate(24 * time.Hour),
		}
		i, seen := at[b]
		if !seen {
			i = len(out)
			at[b] = i
			out = append(out, b)
		}
		out[i].Copies += x.Copies
	}
	return out
}
