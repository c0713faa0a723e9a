// Package wearmap is what stands on the wearer's map and what follows from it:
// areas in true cm² of skin, openings that stay free or do not, sight and
// hearing, the keep-out, hair under a piece, overlap and gaps of pieces. It
// measures on the form of package form and draws nothing.
package wearmap

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/refusal"
)

// Mark is one thing drawn on the map.
type Mark struct {
	ID     string       `json:"id" maxLength:"40"`
	Kind   string       `json:"kind" enum:"region,hole,divide,edge,seam,covered,moving_edge,border,hair,fold,pull"`
	Sheet  string       `json:"sheet" enum:"head,hand_back_L,hand_back_R,palm_L,palm_R,forearm_L,forearm_R,belly"`
	Points []form.Point `json:"points" maxItems:"200"`
	Text   string       `json:"text,omitempty" maxLength:"200" doc:"what it is; for a dividing line, what lies on which side"`
	// How is one of the kind's choices: what an edge is meant to do, what is
	// done with hair, what covers.
	How string `json:"how,omitempty" maxLength:"40"`
	By  string `json:"by,omitempty" maxLength:"120" doc:"hidden by what and by whom; covered by what; protected with what"`
	// Picture is the reference that it was traced from; 0 for none.
	Picture uint64 `json:"picture,omitempty"`
	// Layers and HoldS belong to a pull direction: how many coats, and how long
	// the skin is held until it is powdered.
	Layers int     `json:"layers,omitempty" minimum:"0" maximum:"20"`
	HoldS  float64 `json:"hold_s,omitempty" minimum:"0" maximum:"3600"`
}

// Kind says what a kind of mark is: whose it is, and what it can say.
type Kind struct {
	Name string `json:"name"`
	Text string `json:"text"`
	// Of is whom it belongs to: the piece (its brief), the look, the wearer.
	Of     string   `json:"of" enum:"piece,look,wearer"`
	Closed bool     `json:"closed" doc:"an area, not a line"`
	Choice []string `json:"choice" doc:"what its how can be; the first is usual"`
}

// Kinds in the order in which the layers of the map are shown.
var Kinds = []Kind{
	{"region", "area of the piece", "piece", true, nil},
	{"hole", "hole in the piece", "piece", true, nil},
	{"divide", "dividing line", "piece", false, nil},
	{"edge", "edge", "piece", false, []string{"vanish", "stay in view", "be torn", "be hidden"}},
	{"seam", "seam", "piece", false, []string{"vanish", "stay in view", "be hidden"}},
	{"covered", "covered", "look", true, []string{"costume", "hair or wig", "headwear", "prop"}},
	{"moving_edge", "edge that moves over it", "look", true, []string{"collar", "cuff", "hat", "hair"}},
	{"border", "border of the halves", "look", false, nil},
	{"hair", "hair", "wearer", true, []string{"protect", "keep free", "flatten", "shaved"}},
	{"fold", "fold", "wearer", false, []string{"frown", "brows raised", "eyes narrowed", "lips pursed", "cheeks sucked in", "smile", "head turned", "hand closed"}},
	{"pull", "pull direction", "wearer", false, []string{"up", "out", "down", "toward the ear", "with a spoon in the cheek"}},
}

// KindOf finds a kind by its name.
func KindOf(name string) (Kind, bool) {
	i := slices.IndexFunc(Kinds, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		return Kind{}, false
	}
	return Kinds[i], true
}

// MaxMarks is the most marks that one owner may have on a map.
const MaxMarks = 120

// Sheets gives fitted sheets by their name.
type Sheets func(name string) (*form.Sheet, error)

// Check refuses marks that cannot be: of another owner, of no kind or sheet,
// with too few points, crossing themselves, or with an id twice. The field
// names the mark, as marks[3].points.
func Check(of string, marks []Mark, sheets Sheets) error {
	if len(marks) > MaxMarks {
		return refusal.New(refusal.OutOfRange, "marks", "At most %d marks.", MaxMarks)
	}
	ids := map[string]bool{}
	for i, m := range marks {
		at := func(field string) string { return fmt.Sprintf("marks[%d].%s", i, field) }
		k, ok := KindOf(m.Kind)
		switch {
		case !ok:
			return refusal.New(refusal.UnknownValue, at("kind"), "“%.30s” is nothing that stands on the map.", m.Kind)
		case k.Of != of:
			return refusal.New(refusal.Contradiction, at("kind"), "“%s” belongs to the %s, not to the %s.", k.Text, k.Of, of)
		case m.ID == "" || ids[m.ID]:
			return refusal.New(refusal.Contradiction, at("id"), "Each mark needs an id of its own.")
		case m.How != "" && !slices.Contains(k.Choice, m.How):
			return refusal.New(refusal.UnknownValue, at("how"), "“%.40s” is not one of %v.", m.How, k.Choice)
		}
		ids[m.ID] = true
		s, err := sheets(m.Sheet)
		if err != nil {
			return refusal.New(refusal.UnknownValue, at("sheet"), "The map has no sheet “%.30s”.", m.Sheet)
		}
		if err := s.CheckPoints(m.Points, k.Closed, at("points")); err != nil {
			return err
		}
	}
	return nil
}

// MirrorOf is a mark on the wearer's other side, moved by a chosen difference:
// every second point is pushed out and the others in by that share of their
// distance from the middle, so that the sides agree without being alike. The
// share is 0 for an exact mirror, at most 0.2.
func MirrorOf(m Mark, id string, difference float64) Mark {
	out := m
	out.ID = id
	out.Sheet = form.OtherSide(m.Sheet)
	out.Points = form.Mirror(m.Points)
	var mid form.Point
	for _, p := range out.Points {
		mid.U, mid.V = mid.U+p.U/float64(len(out.Points)), mid.V+p.V/float64(len(out.Points))
	}
	d := min(max(difference, 0), 0.2)
	for i, p := range out.Points {
		k := 1 + d*float64(1-2*(i%2))
		out.Points[i] = form.Point{U: mid.U + (p.U-mid.U)*k, V: mid.V + (p.V-mid.V)*k}
	}
	return out
}
