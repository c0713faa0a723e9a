package fit

import (
	"cmp"
	"math"
	"slices"
)

// restarts is how often a morning is laid anew with something pushed later.
const restarts = 200

// begin lays a few mornings one activity after the other, so that the search has one to better.
func (s *search) begin(net *network) {
	acts := s.Activities
	latest := net.latest(acts, net.end(acts))
	tail := make([]float64, len(acts))
	for i := range acts {
		tail[i] = net.end(acts) - latest[i]
	}
	for _, rank := range []func(i int) float64{
		func(i int) float64 { return latest[i] },
		func(i int) float64 { return net.at(i) },
		func(i int) float64 { return -tail[i] - acts[i].Minutes },
		func(i int) float64 { return float64(i) },
	} {
		start := s.serial(net, rank)
		if start == nil {
			continue
		}
		w, _ := s.firm(net, func(i int) float64 { return start[i] })
		if end := w.end(acts); s.overload(w) == nil && end < s.bestEnd-near {
			s.best, s.bestEnd = w, end
		}
	}
}

// serial lays one activity after the other by rank, what must follow within a window right after what it follows;
// what comes too late for its window pushes what it follows later, and all is laid anew. nil where that comes to no end.
func (s *search) serial(net *network, rank func(i int) float64) []float64 {
	acts := s.Activities
	at := map[string]int{}
	for i, a := range acts {
		at[a.ID] = i
	}
	least := make([]float64, len(acts))
	order := s.follow(at, rank)
	if order == nil {
		return nil
	}
	for range restarts {
		start, late := make([]float64, len(acts)), -1
		for n, i := range order {
			t := math.Max(least[i], net.at(i))
			for _, p := range acts[i].After {
				t = math.Max(t, start[at[p.ID]]+acts[at[p.ID]].Minutes+p.WaitMin)
			}
			start[i] = s.free(order[:n], start, i, t)
			for _, p := range acts[i].After {
				j := at[p.ID]
				if p.Within != nil && start[i] > start[j]+acts[j].Minutes+*p.Within+near {
					least[j], late = start[i]-acts[j].Minutes-*p.Within, j
				}
			}
			if late >= 0 {
				break
			}
		}
		if late < 0 {
			return start
		}
	}
	return nil
}

// follow is an order in which everything comes after what it waits for; nil for none.
func (s *search) follow(at map[string]int, rank func(i int) float64) []int {
	acts := s.Activities
	laid, order := make([]bool, len(acts)), []int{}
	for len(order) < len(acts) {
		pick, pressing := -1, false
		for i, a := range acts {
			if laid[i] {
				continue
			}
			ready, bound := true, false
			for _, p := range a.After {
				ready = ready && laid[at[p.ID]]
				bound = bound || p.Within != nil
			}
			if ready && (pick < 0 || bound && !pressing || bound == pressing && rank(i) < rank(pick)-near) {
				pick, pressing = i, bound
			}
		}
		if pick < 0 { // moments of no length that wait for each other
			return nil
		}
		laid[pick] = true
		order = append(order, pick)
	}
	return order
}

// free is the first moment from t on at which an activity finds hands, a place and its zone beside those that are laid.
func (s *search) free(laid []int, start []float64, i int, t float64) float64 {
	acts := s.Activities
	if acts[i].Minutes == 0 {
		return t
	}
	moments := []float64{t}
	for _, j := range laid {
		if end := start[j] + acts[j].Minutes; end > t {
			moments = append(moments, end)
		}
	}
	slices.Sort(moments)
	for _, m := range moments {
		if !slices.ContainsFunc(s.resources, func(r resource) bool { return !s.room(r, laid, start, i, m) }) {
			return m
		}
	}
	return moments[len(moments)-1]
}

// room says whether a resource has enough for an activity that begins at t.
func (s *search) room(r resource, laid []int, start []float64, i int, t float64) bool {
	if r.takes[i] == 0 {
		return true
	}
	acts := s.Activities
	var beside []int
	for _, j := range laid {
		if r.takes[j] > 0 && acts[j].Minutes > 0 && start[j] < t+acts[i].Minutes-near && start[j]+acts[j].Minutes > t+near {
			beside = append(beside, j)
		}
	}
	slices.SortFunc(beside, func(a, b int) int { return cmp.Compare(start[a], start[b]) })
	for _, moment := range append([]int{-1}, beside...) {
		at, taken := t, r.takes[i]
		if moment >= 0 {
			at = math.Max(t, start[moment])
		}
		for _, j := range beside {
			if start[j] <= at+near && start[j]+acts[j].Minutes > at+near {
				taken += r.takes[j]
			}
		}
		if taken > r.there {
			return false
		}
	}
	return true
}
