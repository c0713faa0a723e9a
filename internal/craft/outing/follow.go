package outing

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"
)

// Ticked is what was noted of a step: minutes of the day, nil for not yet.
type Ticked struct{ Begun, Done *float64 }

// Now is how a step stands while the morning runs.
type Now struct {
	ID    string  `json:"id"`
	State string  `json:"state" enum:"waits,next,doing,done,missed" doc:"missed: the glue let go; a new coat, never a second pressing"`
	Start float64 `json:"start_min" doc:"as it was, or as it is expected now"`
	End   float64 `json:"end_min"`
	// From and Until are when a glued piece may be pressed on, minutes of the day, once its glue is on.
	From  *float64 `json:"from_min,omitempty"`
	Until *float64 `json:"until_min,omitempty"`
	// Left is how many minutes of its window are left; below zero it is too late.
	Left *float64 `json:"left_min,omitempty"`
}

// Live is a morning as it runs.
type Live struct {
	Steps  []Now   `json:"steps"`
	Ready  float64 `json:"ready_min" doc:"as it is expected now"`
	Late   float64 `json:"late_min" doc:"against being wanted; 0 where it is in time"`
	Chance float64 `json:"chance" doc:"to be ready in time from now on"`
	// Rings is the next moment at which something must be looked at, and of which step; none for empty.
	Rings  *float64 `json:"rings_min,omitempty"`
	RingOf string   `json:"ring_of,omitempty"`
	Begun  bool     `json:"begun"`
}

// Follow moves the rest of a morning by what was ticked: what is done stands, what is not begun starts when what it waits
// for, its hands and its place allow, in the order of the plan. now is the minute of the day.
func Follow(r Run, ticks map[string]Ticked, now float64) Live {
	after := r.After
	out := Live{Steps: make([]Now, 0, len(r.Steps))}
	ends, hands := map[string]float64{}, map[string]float64{}
	byID := map[string]Step{}
	for _, s := range r.Steps {
		byID[s.ID] = s
		t := ticks[s.ID]
		out.Begun = out.Begun || t.Begun != nil || t.Done != nil
	}
	next := false
	for _, s := range r.Steps {
		t := ticks[s.ID]
		n := Now{ID: s.ID, Start: s.Start, End: s.Start + s.Minutes, State: "waits"}
		var from, until float64
		glued := byID[s.Glue]
		if g := ticks[s.Glue]; s.Glue != "" && glued.Window != nil && g.Done != nil {
			from, until = *g.Done+glued.Window.FromMin, *g.Done+glued.Window.UntilMin
			n.From, n.Until = &from, &until
		}
		switch {
		case t.Done != nil:
			n.State, n.End = "done", *t.Done
			n.Start = *t.Done - s.Minutes
			if t.Begun != nil {
				n.Start = *t.Begun
			}
		default:
			n.Start = r.expected(s, out.Begun, after, ends, hands, now)
			if n.From != nil {
				n.Start = math.Max(n.Start, *n.From)
				left := *n.Until - now
				n.Left = &left
			} else if glued.Window != nil {
				n.Start = math.Max(n.Start, ends[s.Glue]+glued.Window.FromMin)
			}
			if t.Begun != nil {
				n.State, n.Start = "doing", *t.Begun
			}
			n.End = math.Max(n.Start+s.Minutes, now)
			if n.Left != nil && *n.Left < 0 && t.Begun == nil {
				n.State = "missed"
			} else if !next && n.State == "waits" && out.ready(s, after, ticks) {
				n.State, next = "next", true
			}
		}
		ends[s.ID] = n.End
		for _, w := range s.Who {
			hands[w] = math.Max(hands[w], n.End)
		}
		out.Ready = math.Max(out.Ready, n.End)
		out.Steps = append(out.Steps, n)
		out.ring(n, now)
	}
	out.Late = math.Max(0, out.Ready-r.Ready)
	out.Chance = r.Chance
	if out.Begun {
		out.Chance = r.chanceFrom(out.Ready, now)
	}
	return out
}

// expected is when a step that is not begun can begin: as planned while nothing has begun, else as soon as all allows.
func (r Run) expected(s Step, begun bool, after map[string][]string, ends, hands map[string]float64, now float64) float64 {
	if !begun {
		return s.Start
	}
	at := now
	for _, id := range after[s.ID] {
		at = math.Max(at, ends[id])
	}
	for _, w := range s.Who {
		at = math.Max(at, hands[w])
	}
	return at
}

// ready says whether all that a step waits for is done.
func (l Live) ready(s Step, after map[string][]string, ticks map[string]Ticked) bool {
	return !slices.ContainsFunc(after[s.ID], func(id string) bool { return ticks[id].Done == nil })
}

// ring takes the next moment of a step's window that is still to come.
func (l *Live) ring(n Now, now float64) {
	if n.State == "done" || n.From == nil {
		return
	}
	for _, at := range []float64{*n.From, *n.Until - 3, *n.Until} {
		if at >= now && (l.Rings == nil || at < *l.Rings) {
			l.Rings, l.RingOf = &at, n.ID
		}
	}
}

// chanceFrom is how likely the rest is done in time: the chain's spread, for the share of it that is left.
func (r Run) chanceFrom(ready, now float64) float64 {
	left := ready - now
	if left <= 0.5 {
		if ready <= r.Ready {
			return 1
		}
		return 0
	}
	mean, sd := left, 0.0
	if r.Chair.ChainMin > 0 && r.Chair.MakespanMin > 0 {
		mean = left * r.Chair.ChainMeanMin / r.Chair.ChainMin
		sd = r.Chair.ChainSDMin * math.Sqrt(math.Min(1, left/r.Chair.MakespanMin))
	}
	if sd == 0 {
		sd = 0.05 * left
	}
	if r.Ready <= now {
		return 0
	}
	v := math.Log(1 + sd/mean*sd/mean)
	return distuv.LogNormal{Mu: math.Log(mean) - v/2, Sigma: math.Sqrt(v)}.CDF(r.Ready - now)
}
