package section

import (
	"fmt"
	"strconv"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
)

func plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return strconv.Itoa(n) + " " + noun + "s"
}

// words is a layer as a screen reader and the hand-over sheet say it.
func (l Layer) words(shelf material.Shelf, r LayerResult) string {
	parts := []string{shelf[l.Material].Name}
	say := func(format string, args ...any) { parts = append(parts, fmt.Sprintf(format, args...)) }
	switch l.Kind.Is() {
	case Things:
		say("%d of %g g", l.Count, l.EachG)
		if l.Fitted != "" {
			say("set in %s", strings.Replace(l.Fitted, "before", "before it goes on", 1))
		}
	case Strand:
		say("%g hairs a cm², %s long", l.HairsCM2, quantity.FormatLength(l.LengthMM))
	default:
		if len(l.ZoneCoats) > 0 {
			say("%s coats from the centre outwards", strings.Trim(strings.Join(strings.Fields(fmt.Sprint(l.ZoneCoats)), ", "), "[]"))
		} else if l.Coats > 1 {
			say("%s", plural(l.Coats, "coat"))
		}
		if l.Kind.Is() == Body {
			say("%s at the centre", quantity.FormatLength(r.CentreMM))
		} else {
			say("%s", quantity.FormatLength(r.CentreMM))
		}
	}
	switch {
	case l.Extent == CentreOnly:
		say("centre only")
	case l.Extent == PastEdge:
		say("runs %s on to the skin", quantity.FormatLength(l.StopMM))
	case r.EdgeMM != r.CentreMM:
		say("%s at the edge", quantity.FormatLength(r.EdgeMM))
	}
	for _, w := range l.With {
		say("with %g %% of %s", w.Percent, strings.ToLower(shelf[w.Material].Name))
	}
	switch {
	case l.Measured != nil:
		say("as measured")
	case l.Shape != nil && l.Shape.From == FromRelief:
		say("as its texture stands")
	case l.Shape != nil:
		say("drawn by hand %s mm from the centre out", strings.Trim(fmt.Sprint(l.Shape.ProfileMM), "[]"))
	}
	if l.FromMM > 0 {
		say("from %s out", quantity.FormatLength(l.FromMM))
	}
	if l.Side != "" {
		say("on the wearer's %s only", map[string]string{"L": "left", "R": "right"}[l.Side])
	}
	if l.Stretched {
		say("powdered while stretched")
	}
	if l.ShowsThrough {
		say("meant to show through")
	}
	if l.FromRun > 1 {
		say("from run %d on", l.FromRun)
	}
	if l.Purpose != "" {
		say("there to %s", l.Purpose)
	}
	return strings.Join(parts, ", ") + "."
}
