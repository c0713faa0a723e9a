package texture

import (
	"fmt"

	"yewmoor/internal/craft/refusal"
)

// Softening is a way of rounding off a sculpt's surface, and what it leaves.
type Softening struct {
	Tool string `json:"tool"`
	// Leaves is what stays on the surface and spoils what comes next.
	Leaves string `json:"leaves" enum:",crumbs,water,alcohol,oil,powder"`
	Words  string `json:"words"`
	Fire   bool   `json:"fire"`
	// Clears is how the residue is got rid of.
	Clears string `json:"clears"`
}

// Softenings are the usual ways (handbook, N36). That a soft brush takes pure
// alcohol is because it leaves no oil.
var Softenings = []Softening{
	{"stiff brush", "crumbs", "knocks off burrs, leaves crumbs", false, "lift the crumbs with a soft dry brush"},
	{"sponge", "", "dulls over-clean edges", false, ""},
	{"film and ball tool", "", "rounds pressed edges through the film", false, ""},
	{"soft brush with alcohol", "alcohol", "melts edges a little; pure alcohol leaves no oily trace", true, "leave it open until it is dry and the smell is gone"},
	{"soft brush with oily solvent", "oil", "melts edges quickly, but leaves an oily film", true, "wipe with pure alcohol and leave it to dry"},
	{"soft brush with water", "water", "rounds water clay", false, "leave it to dry"},
	{"flame", "", "a brief pass glazes burrs away", true, ""},
	{"powder and soft brush", "powder", "shows gaps and lost lines", false, "brush and blow the powder off"},
}

// FireCaution is said wherever alcohol, solvent and flame may meet.
const FireCaution = "Alcohol, solvents and their vapour burn: no flame within reach until the surface is dry and the air is clear, bottles closed and away, a fire blanket at hand. The safety data sheets decide."

// Residue looks a way of softening up by its tool; an unknown one leaves
// nothing that is known.
func Residue(tool string) Softening {
	for _, s := range Softenings {
		if s.Tool == tool {
			return s
		}
	}
	return Softening{Tool: tool}
}

// Next are the steps that a residue can spoil.
const (
	NextFlame   = "flame"
	NextPaint   = "trial paint"
	NextMould   = "mould"
	NextPresses = "presses"
)

// clashes says which residues spoil which next step, and why.
var clashes = map[string]map[string]string{
	"alcohol": {NextFlame: "Alcohol on the surface burns.", NextPaint: "Alcohol under a film makes it blister.", NextMould: "Alcohol still in the surface weakens the release."},
	"oil":     {NextFlame: "Solvent on the surface burns.", NextPaint: "A film does not hold on an oily trace.", NextMould: "An oily trace inhibits or marks the mould."},
	"water":   {NextPaint: "A film does not dry on a wet surface.", NextMould: "Water in the surface makes pits in the mould."},
	"crumbs":  {NextPaint: "Crumbs are sealed in by the film.", NextMould: "Crumbs are copied by the mould."},
	"powder":  {NextPaint: "A film does not hold on powder.", NextMould: "Loose powder dulls the mould's surface."},
}

// Clash says why a step may not be taken while something lies on the surface;
// nil when nothing does.
func Clash(residues []string, next string) error {
	for _, r := range residues {
		if why := clashes[r][next]; why != "" {
			return refusal.New(refusal.BadOrder, "next", "%s First: %s.", why, clearing(r))
		}
	}
	return nil
}

func clearing(residue string) string {
	for _, s := range Softenings {
		if s.Leaves == residue {
			return s.Clears
		}
	}
	return fmt.Sprintf("take the %s off", residue)
}
