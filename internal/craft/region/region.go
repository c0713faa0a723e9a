// Package region is the one list of places on a body that the product speaks
// of. Outlines, colour shifts and scan parts hang on its entries.
package region

import "slices"

// Region is a place on the wearer.
type Region struct {
	Name string `json:"name"` // glossary name, as stored
	Text string `json:"text"` // as people say it
	// Sided regions come left and right, always the wearer's own.
	Sided bool `json:"sided"`
	// AreaCM2 is a usual skin area of an adult, one side, to start from.
	AreaCM2 float64 `json:"area_cm2"`
	// MovesMuch is true where a piece must stretch and fold with the wearer.
	MovesMuch bool `json:"moves_much"`
}

// All regions in the glossary's order.
var All = []Region{
	{"forehead", "forehead", false, 75, true}, {"brow", "brow", true, 18, true}, {"temple", "temple", true, 20, false},
	{"eye_hollow", "eye hollow", true, 12, true}, {"cheek", "cheek", true, 40, true}, {"nose", "nose", false, 28, false},
	{"ear", "ear", true, 30, false}, {"lip", "lip", false, 12, true}, {"mouth_corner", "mouth corner", true, 6, true},
	{"jaw", "jaw", true, 35, true}, {"chin", "chin", false, 25, true}, {"scalp", "scalp", false, 550, false},
	{"neck", "neck", false, 300, true}, {"shoulder", "shoulder", true, 250, true}, {"chest", "chest", false, 900, false},
	{"belly", "belly", false, 900, true}, {"back", "back", false, 1500, false}, {"upper_arm", "upper arm", true, 600, true},
	{"forearm", "forearm", true, 500, false}, {"hand_back", "back of the hand", true, 90, true}, {"palm", "palm", true, 90, true},
	{"knuckle", "knuckle", true, 12, true}, {"finger", "finger", true, 45, true}, {"thigh", "thigh", true, 1300, false},
	{"shin", "shin", true, 700, false}, {"foot", "foot", true, 450, false}, {"face", "face", false, 350, true},
}

// Find looks a region up by its glossary name.
func Find(name string) (Region, bool) {
	i := slices.IndexFunc(All, func(r Region) bool { return r.Name == name })
	if i < 0 {
		return Region{}, false
	}
	return All[i], true
}
