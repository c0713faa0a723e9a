// Package trace follows what went into what: reachability in the directed
// graph lot → mix → copy → kit, both ways (planning.md section 12).
package trace

import (
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Node is one thing: a kind (lot, mix, copy, kit, delivery) and its code.
type Node struct {
	Kind string `json:"kind"`
	Code string `json:"code"`
}

// Edge says that From went into To. Contact edges (a release agent, a shared
// tool) are followed only on request.
type Edge struct {
	From, To Node
	Contact  bool
}

// Directions of a trace.
const (
	Forward  = "forward"
	Backward = "backward"
)

// Reached lists everything that start went into (forward) or was made from
// (backward), by kind, sorted. A cycle anywhere on the way is refused: a thing
// cannot be made from itself.
func Reached(edges []Edge, start Node, direction string, contact bool) (map[string][]string, error) {
	next := map[Node][]Node{}
	for _, e := range edges {
		if e.Contact && !contact {
			continue
		}
		if direction == Backward {
			next[e.To] = append(next[e.To], e.From)
		} else {
			next[e.From] = append(next[e.From], e.To)
		}
	}
	const open, done = 1, 2
	state, out := map[Node]int{}, map[string][]string{}
	var visit func(Node) error
	visit = func(n Node) error {
		state[n] = open
		for _, m := range next[n] {
			switch state[m] {
			case open:
				return refusal.New("E_TRACE_CYCLE", "edges", "%s %s is recorded as part of itself.", m.Kind, m.Code)
			case done:
				continue
			}
			if err := visit(m); err != nil {
				return err
			}
			out[m.Kind] = append(out[m.Kind], m.Code)
		}
		state[n] = done
		return nil
	}
	if err := visit(start); err != nil {
		return nil, err
	}
	for kind := range out {
		slices.Sort(out[kind])
	}
	return out, nil
}
