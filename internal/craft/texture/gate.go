package texture

import (
	"fmt"
	"strings"
)

// GateItem is one thing that a named person looks at before a sculpt goes to
// its mould (handbook, N34).
type GateItem struct {
	ID   string `json:"id"`
	Text string `json:"text"`
	How  string `json:"how"`
}

// Gate is all that is looked at, in the usual order.
var Gate = []GateItem{
	{"gaps", "Gaps are filled", "powder it, turn it under a low light"},
	{"thin", "No thin spot over the core", "gauge or pin where it looks hollow; where clay is thin the cast has a hole"},
	{"lines", "Lost lines are restored", "go round with the plan: what softening took is scored again"},
	{"dry", "The surface is rested and dry", "left overnight, no alcohol, no water, no loose powder"},
	{"proportions", "Proportions hold", "measure the pairs, left against right"},
	{"angles", "Seen from all angles and in all poses", "from below, from the side, as it will be worn and moved"},
	{"film", "The test film is off", "peeled whole, the surface clean; nothing was filmed counts too"},
}

// Surface is how a sculpt stands, as the record knows it.
type Surface struct {
	FormSettled bool
	Textured    bool // any step of the texture is done
	// Scheme is true where a paint job is planned on the sculpt; Release and
	// FilmCoats are what it plans.
	Scheme    bool
	Release   bool
	FilmCoats int
	Trials    []Trial
	Residues  []string // what lies on the surface and was not cleared
	OpenSpots []string // thin spots, gaps and lost lines that nobody settled
	Ticked    map[string]bool
}

// Trial is a paint job tried on the sculpt, as far as it went.
type Trial struct {
	Released, Filmed, Painted, Peeled, Clean bool
}

// Findings are what the record of a sculpt says against the rules REL-2, SEQ-10
// and SEQ-11.
func (s Surface) Findings() []Found {
	out := []Found{}
	if s.Textured && !s.FormSettled {
		out = append(out, Found{ID: "SEQ-11", Grave: "warn", Layer: -1, Words: "Texture is begun and nobody has ticked that the form is settled.", Remedy: "Look at the form from all sides and tick it; texture is lost where it moves."})
	}
	if s.Scheme && (!s.Release || s.FilmCoats == 0) {
		out = append(out, Found{ID: "REL-2", Grave: "tip", Layer: -1, Words: "A paint job is planned on the sculpt without release and peelable film.", Remedy: "Release first, then film in two or three coats: the whole of it peels off before the mould."})
	}
	for _, t := range s.Trials {
		if t.Painted && (!t.Released || !t.Filmed) {
			out = append(out, Found{ID: "SEQ-10", Grave: "warn", Layer: -1, Words: "The sculpt was painted without release and film under it.", Remedy: "Test at a hidden spot how it comes off; look for paint in the grooves before the mould."})
			break
		}
	}
	return out
}

// Holds are the reasons why the sculpt may not go to its mould yet; none when
// it may.
func (s Surface) Holds() []string {
	out := []string{}
	for _, g := range Gate {
		if !s.Ticked[g.ID] {
			out = append(out, "Nobody has ticked: "+lower(g.Text)+".")
		}
	}
	if len(s.OpenSpots) > 0 {
		out = append(out, fmt.Sprintf("Seen on a photograph and not settled: %s.", strings.Join(s.OpenSpots, ", ")))
	}
	if err := Clash(s.Residues, NextMould); err != nil {
		out = append(out, err.Error())
	}
	if why := s.FilmHolds(); why != "" {
		out = append(out, why)
	}
	return out
}

// FilmHolds says why the test film cannot be ticked as gone; empty when it can.
func (s Surface) FilmHolds() string {
	for _, t := range s.Trials {
		switch {
		case (t.Filmed || t.Painted) && !t.Peeled:
			return "A trial paint still lies on the sculpt: peel it first."
		case t.Peeled && !t.Clean:
			return "The trial paint was peeled, but the surface was not clean."
		}
	}
	return ""
}

func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }
