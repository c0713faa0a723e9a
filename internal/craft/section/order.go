package section

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
)

// Step is one thing that is done, in its order.
type Step struct {
	Act    string   `json:"act"`
	Where  string   `json:"where" enum:"bench,chair"`
	Text   string   `json:"text"`
	Why    string   `json:"why" doc:"why it stands here"`
	Swap   string   `json:"swap" doc:"what goes wrong when it changes places with the next; empty when nothing does"`
	Layers []string `json:"layers" doc:"ids of the bands that it makes"`
	HandsS float64  `json:"hands_s"`
	WaitS  float64  `json:"wait_s"`
	// Cautions name what to mind of each material, and defer to its sheet.
	Cautions []string `json:"cautions"`
}

// act is one entry of the order of work.
type act struct {
	name, where, text, why string
	rank                   int
}

// The acts in the order in which they usually come. Numbers leave room.
const (
	rankRelease  = 10
	rankFilmOut  = 20
	rankInsertIn = 25
	rankBody     = 30
	rankFilmIn   = 40
	rankDemould  = 50
	rankTrim     = 55
	rankAhead    = 60 // what is finished at the bench, in the order in which it lies
	rankPrepare  = 100
	rankBarrier  = 105
	rankAdhesive = 112
	rankPlace    = 115
	rankEdge     = 120
	rankFinish   = 130 // what is finished on the face, in the order in which it lies
	rankOnSkin   = 140 // a direct build, from the skin up as it lies
)

// swaps says what goes wrong when the first act changes places with the next.
var swaps = map[[2]string]string{
	{"release", "film"}: "The film bonds to the mould and tears when it opens.", {"release", "body"}: "The cast bonds to the mould.",
	{"film", "body"}: "The body lies bare on that side: no skin to glue, melt and paint.", {"body", "film"}: "The back of the body stays bare: neither glue nor edge holds.",
	{"film", "insert in the mould"}: "The insert stands out of the skin instead of under it.", {"insert in the mould", "body"}: "The insert has to be cut in and leaves a seam.",
	{"body", "demould"}: "It tears: it has not cured yet.", {"film", "demould"}: "The film tears at the edge.", {"demould", "trim"}: "There is nothing to trim before it is out.",
	{"trim", "colour"}: "Colour is cut away with the flash, and the edge shows.", {"trim", "seal"}: "The cut edge stays unsealed.", {"seal", "colour"}: "Colour soaks in and dries patchy.",
	{"colour", "hair"}: "Colour clots in the hair and cannot reach the skin under it.", {"insert", "colour"}: "The seat of the insert stays uncoloured.", {"weight", "colour"}: "The cover is handled again after it is coloured.",
	{"prepare", "barrier"}: "The barrier seals the fat in and lifts with it.", {"barrier", "adhesive"}: "The adhesive lies on bare skin, and the barrier on top does nothing.",
	{"prepare", "adhesive"}: "The adhesive holds the fat, not the skin.", {"adhesive", "place"}: "There is nothing yet to hold it.", {"place", "edge"}: "An edge cannot be melted down before it lies on skin.",
	{"edge", "colour on the face"}: "The join is coloured and then melted open again.", {"colour on the face", "powder"}: "Unset colour lifts and creases.", {"colour on the face", "hair on the face"}: "Colour cannot get under the hair any more.",
	{"powder", "wet look"}: "Powder kills the shine: wet look goes on last.", {"powder", "blood"}: "Powder dulls it and it cakes.", {"seal", "powder"}: "Powder under the seal turns to paste.", {"hair on the face", "powder"}: "The lace is laid on powder and does not hold.",
	{"stipple", "powder"}: "Bare latex sticks to itself for good.", {"stipple", "colour on the face"}: "Colour on top instead of showing through.", {"colour under", "stipple"}: "Colour meant to show through lies on top.",
	{"stretch-stipple", "adhesive"}: "Stretching the skin lifts what is glued beside it: stretch first.", {"barrier", "stipple"}: "Latex lies on bare skin and pulls at it.", {"barrier", "stretch-stipple"}: "Latex lies on bare skin and pulls at it.",
	{"wet look", "blood"}: "The gel smears what should run.", {"paste", "powder"}: "Powder is stirred into the paste.", {"wax", "seal"}: "The seal lies under the wax and holds nothing.", {"seal", "colour on the face"}: "Colour digs into the soft ground.",
}

// steps is the order of work of the whole piece: acts of all cuts, one step
// each where they are the same.
func (s Section) steps(shelf material.Shelf, r Result) []Step {
	on := s.MadeOn()
	type entry struct {
		act  act
		seq  int // order within a rank
		step Step
	}
	var list []entry
	put := func(a act, seq int, l Layer, waits bool) {
		lr := r.Of(l.ID)
		for i := range list {
			if e := &list[i]; e.act == a && e.seq == seq {
				e.step.Layers = append(e.step.Layers, l.ID)
				e.step.HandsS += lr.HandsS
				if waits && lr.WaitS > e.step.WaitS {
					e.step.WaitS = lr.WaitS
				}
				return
			}
		}
		st := Step{Act: a.name, Where: a.where, Text: a.text, Why: a.why, Layers: []string{l.ID}, HandsS: lr.HandsS, Cautions: []string{}}
		if waits {
			st.WaitS = lr.WaitS
		}
		if c := shelf[l.Material].Caution; c != "" {
			st.Cautions = append(st.Cautions, c)
		}
		list = append(list, entry{a, seq, st})
	}
	wait := 0.0 // of the next plain act
	plain := func(a act, hands float64, cautions ...string) {
		list = append(list, entry{a, 0, Step{Act: a.name, Where: a.where, Text: a.text, Why: a.why, Layers: []string{}, HandsS: hands, WaitS: wait, Cautions: append([]string{}, cautions...)}})
		wait = 0
	}
	made := false // anything built ahead
	for _, c := range s.Cuts() {
		body := slices.IndexFunc(c.Layers, func(l Layer) bool { return l.Kind.IsAppliance() && l.Kind != Encapsulator })
		for i, l := range c.Layers {
			if l.Kind == Skin {
				continue
			}
			a, seq := s.actOf(l, i, body, on, shelf)
			if on == OnSkin && a.where == "chair" {
				a.rank, seq = rankOnSkin, i
			}
			made = made || a.where == "bench" && on != OnSkin
			put(a, seq, l, true)
		}
	}
	if made {
		if on == InMould {
			release := shelf[s.Made.Release]
			text, caution := "Release the mould and let it flash off.", []string{}
			if release.Name != "" {
				text = release.Name + " on mould and core; buff it."
				if release.Caution != "" {
					caution = append(caution, release.Caution)
				}
			}
			if release.Name != "" || !s.slush() { // latex comes out of dry plaster by itself
				plain(act{"release", "bench", text, "what is cast must come out again", rankRelease}, 600, caution...)
			}
			if s.Has(Foam) {
				plain(act{"bake", "bench", "Bake it through in the dry mould, then let it cool in the shut oven.", "foam that is not baked through collapses", rankBody + 1}, 300)
			}
			plain(act{"demould", "bench", "Open the mould and lift the piece; powder what sticks to itself.", "it is " + map[bool]string{true: "baked and hand-warm", false: "cured and cool"}[s.Has(Foam)], rankDemould}, 900)
			if s.Has(Foam) {
				for _, l := range r.Layers {
					wait = max(wait, l.WashedS)
				}
				plain(act{"wash", "bench", "Wash the soap out in warm water, squeeze it, and let it dry through before a fan.", "soap left in it keeps glue and colour off", rankDemould + 1}, 900)
			}
		} else {
			plain(act{"demould", "bench", "Powder it and peel it off the form.", "dry latex sticks to itself until it is powdered", rankDemould}, 600)
		}
		plain(act{"trim", "bench", "Trim the flash, look at the edge against the light.", "the edge decides whether it disappears", rankTrim}, 900)
		plain(act{"place", "chair", placing[s.area()], "what is set at the centre decides where the edge lies", rankPlace}, 600)
		if how := edgeOf(s, shelf); how != "" {
			plain(act{"edge", "chair", how, "before anything covers the join", rankEdge}, 600)
		}
	}
	slices.SortStableFunc(list, func(a, b entry) int { return cmp.Or(cmp.Compare(a.act.rank, b.act.rank), cmp.Compare(a.seq, b.seq)) })
	out := make([]Step, len(list))
	for i, e := range list {
		out[i] = e.step
		if i > 0 {
			out[i-1].Swap = swaps[[2]string{out[i-1].Act, e.step.Act}]
		}
	}
	return out
}

// areas of the body in which the words differ.
const (
	somewhere = ""     // nobody said where
	onFace    = "face" // openings, and eyes
	byTheEye  = "eye"
	elsewhere = "body"
)

// placing is how a piece is lined up, by area.
var placing = map[string]string{
	somewhere: "Line it up by its landmarks, centre first, then outward.",
	onFace:    "Line it up by its landmarks, centre first, then outward; the openings of nose and mouth that it comes near first.",
	byTheEye:  "Line it up by its landmarks, centre first, then outward; the eye last and held shut.",
	elsewhere: "Line it up by its landmarks, the middle first, then outward, on skin as it lies when the wearer moves.",
}

// area says in which words the place of a piece is spoken of.
func (s Section) area() string {
	switch s.Region {
	case "":
		return somewhere
	case "eye_hollow", "brow", "temple":
		return byTheEye
	case "nose", "lip", "mouth_corner", "cheek", "jaw", "chin", "face":
		return onFace
	}
	return elsewhere
}

// Has says whether a kind of layer is anywhere in a section.
func (s Section) Has(k Kind) (found bool) {
	s.All(func(_ Cut, _ int, l Layer) { found = found || l.Kind == k })
	return found
}

func (s Section) slush() (found bool) {
	s.All(func(_ Cut, _ int, l Layer) { found = found || l.Method == "slush" })
	return found
}

// actOf says which act makes a layer. Cast pieces are made from the outside
// in: their topmost film is the first thing in the mould.
func (s Section) actOf(l Layer, i, body int, on string, shelf material.Shelf) (act, int) {
	p := shelf[l.Material]
	coats := ""
	if n := l.MostCoats(); l.Kind.Is() == Film && n > 1 {
		coats = fmt.Sprintf(", %s, each dry before the next", plural(n, "coat"))
	}
	name := p.Name + coats
	inward := -i // the higher it lies, the earlier it goes into a mould
	if on != InMould {
		inward = i
	}
	if on == OnSkin && (l.Kind.IsAppliance() || l.Kind == Paint && l.ShowsThrough || l.Kind == Insert || l.Kind == Seal) {
		return s.directAct(l, name, shelf), i
	}
	switch l.Kind {
	case Preparation:
		return act{"prepare", "chair", name + "; let it dry.", "nothing holds on fat and damp", rankPrepare}, i
	case Barrier:
		return act{"barrier", "chair", name + " over the whole area and past the edge; let it dry.", "whatever touches skin for hours irritates it", rankBarrier}, i
	case Adhesive:
		how := "on skin and piece"
		for n, school := range schools[p.Family] {
			if l.Fit == school.State || l.Fit == "" && n == 0 {
				how = school.Text
			}
		}
		return act{"adhesive", "chair", p.Name + ": " + how + ".", "after the barrier, before the piece", rankAdhesive}, i
	case Encapsulator:
		if body < 0 || i > body {
			return act{"film", "bench", name + ": into the mould first, it becomes the outer skin.", "cast pieces are built from the outside in", rankFilmOut}, inward
		}
		return act{"film", "bench", name + ": over the back and on the core.", "glue and edge hold this film, not the body", rankFilmIn}, inward
	case Seal:
		if on != OnSkin && i < body {
			return act{"seal", "bench", name + " on the underside; let it dry.", "what is glued to is sealed first", rankAhead - 1}, i
		}
		if on != OnSkin && !s.onTheFaceBelow(i) {
			return act{"seal", "bench", name + "; let it dry.", "porous ground drinks colour", rankAhead}, i
		}
		return act{"seal", "chair", name + "; let it dry.", "it holds what lies below", rankFinish}, i
	case Insert:
		if l.Fitted == "in the mould" {
			return act{"insert in the mould", "bench", name + ": held in the mould before it is filled.", "the body closes round it", rankInsertIn}, i
		}
		if l.Fitted == "on the face" {
			return act{"insert", "chair", name + ": set in on the face.", "", rankFinish}, i
		}
		return act{"insert", "bench", name + ": set in and glued at the bench.", "nothing sharp is fitted at the face", rankAhead}, i
	case Weight:
		return act{"weight", "bench", name + ": sewn in, spread so that it hangs as it should.", "before the cover is coloured", rankAhead}, i
	case Hair:
		if l.Method == "punched" {
			return act{"hair", "bench", name + ", punched with the growth; density falls to the edge.", "after colour, so that colour reaches the skin", rankAhead}, i
		}
		return act{"hair on the face", "chair", name + ", laid from the bottom up, longest at the back, edge strip last and staggered.", "after colour", rankFinish}, i
	case Paint:
		if s.PaintWhen == "before" || s.PaintWhen == "partly" && l.Extent != PastEdge {
			return act{"colour", "bench", name + ".", "a stand holds stiller than a face", rankAhead}, i
		}
		return act{"colour on the face", "chair", name + reach(l) + ".", "over the melted edge, so that the join goes", rankFinish}, i
	case Powder:
		return act{"powder", "chair", name + ": press on, brush off; none left white.", "it sets what lies below", rankFinish}, i
	case WetLook:
		return act{"wet look", "chair", name + ".", "after setting: powder would kill it", rankFinish}, i
	case Blood:
		return act{"blood", "chair", name + ".", "last of all", rankFinish}, i
	}
	return act{"body", "bench", name + s.making(l, on, shelf), "the films before it are dry, and the inner one follows", rankBody}, inward
}

// making is how a body is made, by what it is and how it is put on.
func (s Section) making(l Layer, on string, shelf material.Shelf) string {
	fibre := shelf[l.Fibre].Name
	if fibre != "" {
		fibre = fmt.Sprintf(", with %s in each of %s", strings.ToLower(fibre), plural(l.MostCoats(), "coat"))
	}
	switch {
	case l.Kind == Foam:
		return ": whip to its volume, refine, stir the gelling agent in and fill; wait until it has gelled."
	case l.Kind == Gelatin:
		return ": melt without boiling, let the bubbles rise, pour and close; chill until it is firm."
	case l.Kind == Latex && l.Method == "slush":
		return ": fill, let it dwell, pour it out and drain; again until the wall stands."
	case l.Kind == Latex && on == InMould:
		return ", brushed into the mould coat by coat" + fibre + "."
	case l.Kind == Latex:
		return ", built up on the form coat by coat" + fibre + ", each dry before the next."
	case l.Kind == SoftFoam:
		return ": mix, pour at once and close; it rises."
	case l.Kind == Wax && on == InMould:
		return ": melt, pour, and let it cool through."
	case l.Kind == Paste:
		return ", spread on the form; texture pulled up when half dry."
	case on == InMould:
		return ": mix, degas, fill and close."
	}
	return ", built up on the form."
}

// onTheFaceBelow says whether what lies under position i of any cut, over the
// body, is put on at the face: a seal over it is too.
func (s Section) onTheFaceBelow(i int) bool {
	for _, c := range s.Cuts() {
		if i >= len(c.Layers) {
			continue
		}
		over := false
		for _, l := range c.Layers[:i] {
			over = over || l.Kind.IsAppliance()
			if over && (l.Kind == Paint && s.PaintWhen != "before" && !(s.PaintWhen == "partly" && l.Extent != PastEdge) || l.Kind == Adhesive || l.Kind == Powder) {
				return true
			}
		}
	}
	return false
}

// directAct is a layer that is built straight on skin.
func (s Section) directAct(l Layer, name string, shelf material.Shelf) act {
	fibre := ""
	if f := shelf[l.Fibre].Name; f != "" {
		fibre = fmt.Sprintf(", %s laid into each of %s", strings.ToLower(f), plural(l.MostCoats(), "coat"))
	}
	switch {
	case l.Kind == Paint:
		return act{"colour under", "chair", name + ", under the film so that it shows through.", "once the film lies over it, it cannot be reached", rankOnSkin}
	case l.Kind == Latex && l.Stretched:
		return act{"stretch-stipple", "chair", name + ": stretch the skin, stipple, dry fully, powder while still stretched, let go.", "stretching comes before anything is glued nearby", rankOnSkin}
	case l.Kind == Latex:
		return act{"stipple", "chair", name + fibre + ".", "each coat dry before the next", rankOnSkin}
	case l.Kind == Wax:
		return act{"wax", "chair", name + ": pressed on and feathered out with a tool.", "on the glue while it grips", rankOnSkin}
	case l.Kind == Paste:
		return act{"paste", "chair", name + ": spread, texture pulled up when half dry.", "before powder and colour", rankOnSkin}
	case l.Kind == Insert:
		return act{"insert", "chair", name + ": set in before it has set.", "the ground is still soft", rankOnSkin}
	case l.Kind == Seal:
		return act{"seal", "chair", name + ": thin over soft ground; let it dry.", "soft ground dents under colour", rankOnSkin}
	}
	return act{"body", "chair", name + ": spread and feathered before it sets.", "skin prepared, edges wet", rankOnSkin}
}

func reach(l Layer) string {
	if l.Extent == PastEdge && l.StopMM > 0 {
		return fmt.Sprintf(", carried about %.0f mm past the edge on to the skin", l.StopMM)
	}
	return ""
}

// edgeOf is how an edge of this make is made to go, by its outermost films and
// body. Several ways are usual; this is the first of them.
func edgeOf(s Section, shelf material.Shelf) string {
	if ways := EdgeWays(s, shelf); len(ways) > 0 {
		return ways[0]
	}
	return ""
}

// EdgeWays are the usual ways to make the edge of this piece disappear, the
// first choice first.
func EdgeWays(s Section, shelf material.Shelf) []string {
	var ways []string
	add := func(text string) {
		if !slices.Contains(ways, text) {
			ways = append(ways, text)
		}
	}
	s.All(func(_ Cut, _ int, l Layer) {
		p := shelf[l.Material]
		switch {
		case l.Kind == Encapsulator && p.Solvent == "acetone" && s.area() == byTheEye:
			add("No acetone by the eye: lay the film's edge with thin adhesive and stipple over it, eyes shut.")
		case l.Kind == Encapsulator && p.Solvent == "acetone":
			add("Melt the film's edge with a little acetone on a brush, never near the eyes.")
		case l.Kind == Encapsulator:
			add("Melt the film's edge with a little " + strings.TrimSpace(p.Solvent+" ") + " on a brush.")
		case l.Kind == Gelatin:
			add("Dissolve the edge on the skin with warm water or astringent on a brush.")
		case l.Kind == Foam:
			add("Stipple the edge with latex-free gum and powder, or thin latex where latex is clear for the wearer.")
		case l.Kind == Latex && l.Method != "stippled":
			add("Feather the edge with thin coats of the same latex, each dried and powdered.")
		}
	})
	bare := slices.ContainsFunc(s.Layers, func(l Layer) bool { return l.Kind == Silicone }) && !slices.ContainsFunc(s.Layers, func(l Layer) bool { return l.Kind == Encapsulator })
	if bare {
		add("Thin the edge with direct silicone smoothed out with alcohol before it sets.")
	}
	return ways
}
