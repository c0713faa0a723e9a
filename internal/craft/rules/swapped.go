package rules

import (
	"slices"
)

// What goes wrong the other way round.

// Swapped says which findings a section gains when two neighbouring layers of
// a cut change places: what goes wrong if the order is turned round.
func Swapped(c Case, cut, i int) []Finding {
	cuts := c.Section.Cuts()
	if cut < 0 || cut >= len(cuts) || i < 1 || i+1 >= len(cuts[cut].Layers) {
		return nil
	}
	had := map[string]bool{}
	for _, f := range Check(c) {
		had[f.ID] = true
	}
	turned := c
	layers := slices.Clone(cuts[cut].Layers)
	layers[i], layers[i+1] = layers[i+1], layers[i]
	if cut == 0 {
		turned.Section.Layers = layers
	} else {
		turned.Section.More = slices.Clone(c.Section.More)
		turned.Section.More[cut-1].Layers = layers
	}
	turned.Result = turned.Section.WorkBy(c.Shelf, c.Room, c.Believed())
	var out []Finding
	for _, f := range Check(turned) {
		if !had[f.ID] {
			out = append(out, f)
		}
	}
	return out
}
