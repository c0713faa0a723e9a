package fit

import (
	"cmp"
	"context"
	"math"
	"slices"
)

// network is the longest path between any two starts, min; the last row is the beginning.
type network struct {
	n    int
	path []float64
}

var none = math.Inf(-1)

func (w *network) source() int { return w.n }

func (w *network) between(i, j int) float64 { return w.path[i*(w.n+1)+j] }

// at is the earliest start.
func (w *network) at(i int) float64 { return w.between(w.n, i) }

func (w *network) clone() *network { return &network{w.n, slices.Clone(w.path)} }

// networkOf is the network of the waits, with the windows where windows says so; nil where it contradicts itself.
func networkOf(acts []Activity, at map[string]int, windows bool) *network {
	n := len(acts)
	w := &network{n, make([]float64, (n+1)*(n+1))}
	for i := range w.path {
		w.path[i] = none
	}
	for i := 0; i <= n; i++ {
		w.path[i*(n+1)+i] = 0
		w.path[n*(n+1)+i] = 0
	}
	for i, a := range acts {
		for _, p := range a.After {
			j := at[p.ID]
			if !w.add(j, i, acts[j].Minutes+p.WaitMin) {
				return nil
			}
			if windows && p.Within != nil && !w.add(i, j, -acts[j].Minutes-*p.Within) {
				return nil
			}
		}
	}
	return w
}

// add makes j start at least so long after i; false where that can never be.
func (w *network) add(i, j int, least float64) bool {
	m := w.n + 1
	if w.path[i*m+j] >= least-1e-12 {
		return true
	}
	if w.path[j*m+i]+least > near {
		return false
	}
	for a := range m {
		first := w.path[a*m+i]
		if first == none {
			continue
		}
		for b := range m {
			if then := w.path[j*m+b]; then != none && first+least+then > w.path[a*m+b] {
				w.path[a*m+b] = first + least + then
			}
		}
	}
	return true
}

// end is when the last ends.
func (w *network) end(acts []Activity) float64 {
	out := 0.0
	for i, a := range acts {
		out = math.Max(out, w.at(i)+a.Minutes)
	}
	return out
}

// latest are the latest starts with which all end by end.
func (w *network) latest(acts []Activity, end float64) []float64 {
	out := make([]float64, w.n)
	for i := range out {
		out[i] = math.Inf(1)
		for j, b := range acts {
			if p := w.between(i, j); p != none {
				out[i] = math.Min(out[i], end-b.Minutes-p)
			}
		}
	}
	return out
}

// effort is after how many orders tried the search stops and keeps the best that it found: a mark of effort, not of time, so
// that the same morning gets the same plan anywhere.
const effort = 60_000

// effortBeyond is the same for mornings of more activities than are searched to the end.
const effortBeyond = 3_000

// exactTo is up to how many activities the search proves its plan.
const exactTo = 20

type search struct {
	Morning
	resources []resource
	best      *network
	bestEnd   float64
	tried     int
	most      int
	ctx       context.Context
}

// resource is something of which so much is there.
type resource struct {
	there int
	takes []int
}

// shortest is the plan of least length, with the length under which no plan is; nil for none. Where the
// search may stop early, the plans with one pair of hands less, and with one less at the chair, are begun
// from, so that more hands never take longer. known are the plans by hands and places.
func shortest(ctx context.Context, m Morning, net *network, known map[[2]int]*network) (*network, float64, error) {
	s := &search{Morning: m, bestEnd: math.Inf(1), ctx: ctx, most: effort, resources: resourcesOf(m)}
	if len(m.Activities) > exactTo {
		s.most = effortBeyond
		for _, fewer := range m.fewer() {
			key := [2]int{fewer.Artists, fewer.AtOnce}
			best, done := known[key]
			if !done {
				var err error
				if best, _, err = shortest(ctx, fewer, net, known); err != nil {
					return nil, 0, err
				}
				known[key] = best
			}
			if best != nil && best.end(m.Activities) < s.bestEnd {
				s.best, s.bestEnd = best, best.end(m.Activities)
			}
		}
	}
	bound := math.Max(net.end(m.Activities), s.energy(net))
	s.begin(net)
	s.try(net.clone(), make([]bool, net.n*net.n))
	if ctx.Err() != nil {
		return nil, 0, ctx.Err()
	}
	if s.tried <= s.most {
		bound = s.bestEnd
	}
	return s.best, bound, nil
}

// fewer are the same mornings with one pair of hands less and with one place at the chair less.
func (m Morning) fewer() []Morning {
	hands, chair := 1, 1
	for _, a := range m.Activities {
		hands = max(hands, a.Hands)
		if a.Chair {
			chair = max(chair, a.Hands)
		}
	}
	var out []Morning
	if m.Artists > hands {
		less := m
		less.Artists--
		less.AtOnce = min(less.AtOnce, less.Artists)
		out = append(out, less)
	}
	if m.AtOnce > chair {
		less := m
		less.AtOnce--
		out = append(out, less)
	}
	return out
}

func resourcesOf(m Morning) []resource {
	hands := resource{m.Artists, make([]int, len(m.Activities))}
	chair := resource{m.AtOnce, make([]int, len(m.Activities))}
	zones, names := map[string]*resource{}, []string{}
	for i, a := range m.Activities {
		hands.takes[i] = a.Hands
		if a.Chair {
			chair.takes[i] = a.Hands
		}
		if a.Zone != "" {
			if zones[a.Zone] == nil {
				zones[a.Zone] = &resource{1, make([]int, len(m.Activities))}
				names = append(names, a.Zone)
			}
			zones[a.Zone].takes[i] = 1
		}
	}
	out := []resource{hands, chair}
	for _, n := range names {
		if sum(zones[n].takes) > 1 {
			out = append(out, *zones[n])
		}
	}
	return out
}

func sum(list []int) int {
	out := 0
	for _, n := range list {
		out += n
	}
	return out
}

// energy is how long it takes at least by what hands, chair and zones can do.
func (s *search) energy(w *network) float64 {
	acts := s.Activities
	tail := make([]float64, w.n)
	for i := range acts {
		for j, b := range acts {
			if p := w.between(i, j); p != none {
				tail[i] = math.Max(tail[i], p+b.Minutes-acts[i].Minutes)
			}
		}
	}
	byTail := make([]int, w.n)
	for i := range byTail {
		byTail[i] = i
	}
	slices.SortFunc(byTail, func(a, b int) int { return cmp.Compare(tail[b], tail[a]) })
	best := 0.0
	for _, r := range s.resources {
		for from, a := range r.takes {
			if a == 0 {
				continue
			}
			head, work := w.at(from), 0.0
			for _, i := range byTail {
				if r.takes[i] == 0 || w.at(i) < head-near {
					continue
				}
				work += float64(r.takes[i]) * acts[i].Minutes
				best = math.Max(best, head+work/float64(r.there)+tail[i])
			}
		}
	}
	return best
}

// overload is the first moment at which more is taken than is there, and who takes it; none for nil.
func (s *search) overload(w *network) []int {
	acts := s.Activities
	first, who := math.Inf(1), []int(nil)
	for i, a := range acts {
		t := w.at(i)
		if t > first-near || a.Minutes == 0 {
			continue
		}
		for _, r := range s.resources {
			if r.takes[i] == 0 {
				continue
			}
			taken, busy := 0, []int(nil)
			for j, b := range acts {
				if r.takes[j] > 0 && b.Minutes > 0 && w.at(j) <= t+near && w.at(j)+b.Minutes > t+near {
					taken += r.takes[j]
					busy = append(busy, j)
				}
			}
			if taken > r.there {
				first, who = t, busy
				break
			}
		}
	}
	return who
}

type step struct {
	i, j int
	net  *network
	end  float64
}

// try branches on who waits for whom at the first overload; refused are the orders that were tried before.
func (s *search) try(w *network, refused []bool) {
	if s.tried++; s.tried > s.most || s.tried%256 == 0 && s.ctx.Err() != nil {
		return
	}
	end := w.end(s.Activities)
	if end >= s.bestEnd-near || s.energy(w) >= s.bestEnd-near {
		return
	}
	who := s.overload(w)
	if who == nil {
		s.best, s.bestEnd = w, end
		return
	}
	var steps []step
	for _, i := range who {
		for _, j := range who {
			if i == j || refused[i*w.n+j] {
				continue
			}
			next := w.clone()
			if next.add(i, j, s.Activities[i].Minutes) {
				steps = append(steps, step{i, j, next, next.end(s.Activities)})
			}
		}
	}
	slices.SortStableFunc(steps, func(a, b step) int { return cmp.Compare(a.end, b.end) })
	not := slices.Clone(refused)
	for _, st := range steps {
		s.try(st.net, not)
		not = slices.Clone(not)
		not[st.i*w.n+st.j] = true
	}
}
