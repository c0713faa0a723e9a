package section

import (
	"fmt"
	"strings"

	"yewmoor/internal/craft/material"
)

// Difference is one thing in which two sections differ.
type Difference struct {
	Cut   string `json:"cut,omitempty"`
	Layer string `json:"layer,omitempty" doc:"id of the band; empty for the section itself"`
	What  string `json:"what" enum:"added,removed,changed,moved"`
	Text  string `json:"text"`
	Was   string `json:"was,omitempty"`
	Is    string `json:"is,omitempty"`
	Act   string `json:"act" doc:"which part of the work it touches: body, colour, fitting, all"`
}

// touches says which part of the work a kind belongs to.
func touches(k Kind) string {
	switch k {
	case Preparation, Barrier, Adhesive, Powder, WetLook, Blood:
		return "fitting"
	case Paint, Hair, Seal:
		return "colour"
	}
	return "body"
}

// Differences are what changed from one section to another, in the order of
// the newer one.
func Differences(was, is Section, shelf material.Shelf) []Difference {
	out := []Difference{}
	old := map[string]Cut{}
	for _, c := range was.Cuts() {
		old[c.ID] = c
	}
	for _, c := range is.Cuts() {
		before, known := old[c.ID]
		if !known {
			out = append(out, Difference{Cut: c.ID, What: "added", Text: "a cut at the " + nameOf(c), Act: "body"})
			continue
		}
		delete(old, c.ID)
		out = append(out, before.differences(c, shelf)...)
	}
	for _, c := range was.Cuts() {
		if _, gone := old[c.ID]; gone {
			out = append(out, Difference{Cut: c.ID, What: "removed", Text: "the cut at the " + nameOf(c), Act: "body"})
		}
	}
	if was.MadeOn() != is.MadeOn() || was.Made.Of != is.Made.Of || was.Made.Release != is.Made.Release {
		out = append(out, Difference{What: "changed", Text: "what it is made in", Was: was.MadeOn() + " " + was.Made.Of, Is: is.MadeOn() + " " + is.Made.Of, Act: "body"})
	}
	if strings.Join(was.LiesOver, ", ") != strings.Join(is.LiesOver, ", ") {
		out = append(out, Difference{What: "changed", Text: "which pieces it lies over", Was: strings.Join(was.LiesOver, ", "), Is: strings.Join(is.LiesOver, ", "), Act: "fitting"})
	}
	if a, b := fmt.Sprint(was.Support), fmt.Sprint(is.Support); a != b {
		out = append(out, Difference{What: "changed", Text: "how it is carried", Was: strings.Join(was.Support.Anchors, ", "), Is: strings.Join(is.Support.Anchors, ", "), Act: "body"})
	}
	return out
}

func nameOf(c Cut) string {
	if c.Name == "" {
		return "first line"
	}
	return c.Name
}

func (c Cut) differences(is Cut, shelf material.Shelf) []Difference {
	var out []Difference
	if c.AreaCM2 != is.AreaCM2 || c.HalfWidthMM != is.HalfWidthMM {
		out = append(out, Difference{Cut: is.ID, What: "changed", Text: "its size", Was: fmt.Sprintf("%g cm², %g mm to the edge", c.AreaCM2, c.HalfWidthMM), Is: fmt.Sprintf("%g cm², %g mm to the edge", is.AreaCM2, is.HalfWidthMM), Act: "body"})
	}
	at := map[string]int{}
	for i, l := range c.Layers {
		at[l.ID] = i
	}
	// A band has moved when it no longer lies on the one it lay on, of those
	// that both have.
	kept := func(layers []Layer, have map[string]int) []string {
		var ids []string
		for _, l := range layers {
			if _, ok := have[l.ID]; ok {
				ids = append(ids, l.ID)
			}
		}
		return ids
	}
	now := map[string]int{}
	for i, l := range is.Layers {
		now[l.ID] = i
	}
	before, after := kept(c.Layers, now), kept(is.Layers, at)
	for i, l := range is.Layers {
		if l.Kind == Skin {
			continue
		}
		words := l.Say(is, shelf)
		j, known := at[l.ID]
		switch {
		case !known:
			out = append(out, Difference{Cut: is.ID, Layer: l.ID, What: "added", Text: shelf[l.Material].Name, Is: words, Act: touches(l.Kind)})
			continue
		case c.Layers[j].Say(c, shelf) != words:
			out = append(out, Difference{Cut: is.ID, Layer: l.ID, What: "changed", Text: shelf[l.Material].Name, Was: c.Layers[j].Say(c, shelf), Is: words, Act: touches(l.Kind)})
		}
		if k := indexOf(after, l.ID); k != indexOf(before, l.ID) && i != j {
			out = append(out, Difference{Cut: is.ID, Layer: l.ID, What: "moved", Text: shelf[l.Material].Name, Act: touches(l.Kind)})
		}
	}
	for _, l := range c.Layers {
		if _, still := now[l.ID]; !still {
			out = append(out, Difference{Cut: is.ID, Layer: l.ID, What: "removed", Text: shelf[l.Material].Name, Was: l.Say(c, shelf), Act: touches(l.Kind)})
		}
	}
	return out
}

func indexOf(list []string, id string) int {
	for i, x := range list {
		if x == id {
			return i
		}
	}
	return -1
}

// Say is a layer in words without what follows from it.
func (l Layer) Say(c Cut, shelf material.Shelf) string {
	r := LayerResult{}
	r.CentreMM, r.EdgeMM = l.Thickness(c, shelf)
	text := l.words(shelf, r)
	for _, extra := range []string{l.Method, l.Role, l.Fit, l.Note} {
		if extra != "" {
			text = strings.TrimSuffix(text, ".") + ", " + extra + "."
		}
	}
	if l.BetweenS != nil {
		text = strings.TrimSuffix(text, ".") + fmt.Sprintf(", %.0f min between coats.", *l.BetweenS/60)
	}
	if l.AppliedC != nil {
		text = strings.TrimSuffix(text, ".") + fmt.Sprintf(", at %g °C.", *l.AppliedC)
	}
	if l.Fibre != "" {
		text = strings.TrimSuffix(text, ".") + ", with " + shelf[l.Fibre].Name + "."
	}
	return text
}
