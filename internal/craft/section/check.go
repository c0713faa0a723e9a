package section

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
)

const (
	maxLayers = 60
	maxCuts   = 6
	maxZones  = 8
)

// Check refuses a section that cannot be, with the field at fault.
func (s Section) Check(shelf material.Shelf) error {
	ids := map[string]bool{}
	if err := s.Cut.check(shelf, ids, ""); err != nil {
		return err
	}
	if len(s.More) >= maxCuts {
		return refusal.New(refusal.OutOfRange, "more", "A piece has at most %d cuts.", maxCuts)
	}
	seen := map[string]bool{s.ID: true}
	for i, c := range s.More {
		path := fmt.Sprintf("more[%d].", i)
		if c.ID == "" || seen[c.ID] {
			return refusal.New(refusal.Contradiction, path+"id", "Every further cut needs an id of its own.")
		}
		seen[c.ID] = true
		if err := c.check(shelf, ids, path); err != nil {
			return err
		}
	}
	for i, slug := range s.Touching {
		if f := shelf[slug].Family; f != material.Glove && f != material.Tool || slices.Contains(s.Touching[:i], slug) {
			return refusal.New(refusal.UnknownValue, fmt.Sprintf("touching[%d]", i), "Choose gloves, a sponge or a brush, each once.")
		}
	}
	if s.Made.Release != "" && shelf[s.Made.Release].Family != material.Release {
		return refusal.New(refusal.UnknownValue, "made.release", "Choose a release agent, or none.")
	}
	return nil
}

func (c Cut) check(shelf material.Shelf, ids map[string]bool, at string) error {
	if !(c.HalfWidthMM >= 1) || c.HalfWidthMM > 1000 {
		return refusal.New(refusal.OutOfRange, at+"half_width_mm", "From centre to edge must be 1 to 1000 mm.")
	}
	if !(c.AreaCM2 >= 0.1) || c.AreaCM2 > 20000 {
		return refusal.New(refusal.OutOfRange, at+"area_cm2", "The area must lie between 0.1 and 20 000 cm².")
	}
	if len(c.Layers) == 0 || c.Layers[0].Kind != Skin {
		return refusal.New(refusal.BadOrder, at+"layers", "The lowest layer is always the wearer's skin.")
	}
	if len(c.Layers) > maxLayers {
		return refusal.New(refusal.OutOfRange, at+"layers", "A section holds at most %d layers.", maxLayers)
	}
	if len(c.Zones) > maxZones {
		return refusal.New(refusal.OutOfRange, at+"zones", "At most %d zones.", maxZones)
	}
	for i, z := range c.Zones {
		before := 0.0
		if i > 0 {
			before = c.Zones[i-1].ToMM
		}
		if !(z.ToMM > before) || z.ToMM > c.HalfWidthMM+1e-9 || (i == len(c.Zones)-1 && math.Abs(z.ToMM-c.HalfWidthMM) > 1e-6) {
			return refusal.New(refusal.BadOrder, fmt.Sprintf("%szones[%d].to_mm", at, i), "Zones follow each other from the centre, and the last ends at the edge.")
		}
	}
	if c.Line != nil && (len(c.Line.Points) < 2 || c.Line.Sheet == "") {
		return refusal.New(refusal.Missing, at+"line", "A line on the map needs at least two points.")
	}
	for i, l := range c.Layers {
		path := func(name string) string { return fmt.Sprintf("%slayers[%d].%s", at, i, name) }
		if l.ID == "" || ids[l.ID] && l.Kind != Skin {
			return refusal.New(refusal.Contradiction, path("id"), "Every layer needs an id of its own.")
		}
		ids[l.ID] = true
		if _, known := l.Kind.Facts(); !known {
			return refusal.New(refusal.UnknownValue, path("kind"), "“%.20s” is not a kind of layer.", l.Kind)
		}
		if l.Kind == Skin {
			if i > 0 {
				return refusal.New(refusal.BadOrder, path("kind"), "There is one skin, and it lies lowest.")
			}
			continue
		}
		if err := l.check(c, shelf, path); err != nil {
			return err
		}
	}
	return nil
}

func (l Layer) check(c Cut, shelf material.Shelf, path func(string) string) error {
	k, _ := l.Kind.Facts()
	p, known := shelf[l.Material]
	if !known {
		return refusal.New(refusal.UnknownValue, path("material"), "Choose a material for this layer.")
	}
	if !l.Kind.Fits(p) {
		return refusal.New(refusal.Contradiction, path("material"), "%s cannot be used as %s.", p.Name, k.Text)
	}
	if l.Method != "" && !slices.Contains(k.Methods, l.Method) {
		return refusal.New(refusal.UnknownValue, path("method"), "%s is not put on this way.", k.Text)
	}
	if l.Extent != "" && !slices.Contains([]string{ToEdge, CentreOnly, PastEdge}, l.Extent) {
		return refusal.New(refusal.UnknownValue, path("extent"), "A layer goes to the edge, stops before it or runs past it.")
	}
	if !(l.StopMM >= 0) || (l.Extent == CentreOnly && l.StopMM > c.HalfWidthMM) || l.StopMM > 500 {
		return refusal.New(refusal.OutOfRange, path("stop_mm"), "The layer must stop between the centre and the edge.")
	}
	if !(l.FromMM >= 0) || l.FromMM >= l.end(c) {
		return refusal.New(refusal.OutOfRange, path("from_mm"), "It must begin before it ends.")
	}
	if l.FromRun < 0 || l.FromRun > 500 {
		return refusal.New(refusal.OutOfRange, path("from_run"), "From a run between 1 and 500, or 0 for all.")
	}
	if l.AppliedC != nil && !(*l.AppliedC >= -10 && *l.AppliedC <= 250) {
		return refusal.New(refusal.OutOfRange, path("applied_c"), "Between -10 and 250 °C.")
	}
	if err := l.checkWith(shelf, path); err != nil {
		return err
	}
	if l.Shape != nil && k.Nature != Body {
		return refusal.New(refusal.Contradiction, path("shape"), "Only the body of a piece has a drawn shape.")
	}
	if l.Measured != nil && k.Nature != Body {
		return refusal.New(refusal.Contradiction, path("measured"), "Only the body of a piece is measured by a scan.")
	}
	switch k.Nature {
	case Body:
		return l.checkBody(path)
	case Things:
		return l.checkThings(path)
	case Strand:
		return l.checkHair(path)
	}
	return l.checkFilm(c, shelf, path)
}

func (l Layer) checkBody(path func(string) string) error {
	switch {
	case !(l.CentreMM >= 0.05) || l.CentreMM > 300:
		return refusal.New(refusal.OutOfRange, path("centre_mm"), "At the centre between 0.05 and 300 mm.")
	case !(l.EdgeMM >= 0) || l.EdgeMM > 60:
		return refusal.New(refusal.OutOfRange, path("edge_mm"), "At the edge between 0 and 60 mm.")
	}
	switch {
	case l.Shape != nil && l.Measured != nil:
		return refusal.New(refusal.Contradiction, path("shape"), "It is measured: take that back before it is drawn.")
	case l.Shape != nil:
		return l.Shape.check(l, path)
	case l.Measured == nil:
		return nil
	}
	profile := l.Measured.ProfileMM
	if len(profile) < 2 || len(profile) > 65 || l.Measured.Scan == 0 {
		return refusal.New(refusal.Missing, path("measured"), "A measured thickness names its scan, and runs from the centre to the edge in 2 to 65 places.")
	}
	for i, mm := range profile {
		if !(mm >= 0 && mm <= 300) {
			return refusal.New(refusal.OutOfRange, path(fmt.Sprintf("measured.profile_mm[%d]", i)), "Measured between 0 and 300 mm.")
		}
	}
	if math.Abs(profile[0]-l.CentreMM) > 1e-9 || math.Abs(profile[len(profile)-1]-l.EdgeMM) > 1e-9 {
		return refusal.New(refusal.Contradiction, path("measured"), "Centre and edge are not the measured ones. Take the measured thickness again, or plan it.")
	}
	return nil
}

func (l Layer) checkWith(shelf material.Shelf, path func(string) string) error {
	seen := map[string]bool{}
	for i, w := range l.With {
		p, limit := shelf[w.Material], shelf[w.Material].StirLimit(shelf[l.Material].Family)
		at := path(fmt.Sprintf("with[%d].percent", i))
		switch {
		case limit == 0 || seen[w.Material]:
			return refusal.New(refusal.UnknownValue, path(fmt.Sprintf("with[%d].material", i)), "Choose what may be stirred into %s, each once.", strings.ToLower(shelf[l.Material].Name))
		case !(w.Percent > 0) || w.Percent > limit:
			return refusal.New(refusal.OutOfRange, at, "%s: above 0 and at most %g %%.", p.Name, limit)
		}
		seen[w.Material] = true
	}
	return nil
}

func (sh Shape) check(l Layer, path func(string) string) error {
	n := len(sh.ProfileMM)
	if n < minShape || n > maxShape || 240%(n-1) != 0 || sh.From != ByHand && sh.From != FromRelief {
		return refusal.New(refusal.Missing, path("shape"), "A drawn shape runs from the centre to the edge in %d to %d even places.", minShape, maxShape)
	}
	for i, mm := range sh.ProfileMM {
		if !(mm >= 0 && mm <= 300) {
			return refusal.New(refusal.OutOfRange, path(fmt.Sprintf("shape.profile_mm[%d]", i)), "Between 0 and 300 mm.")
		}
	}
	if math.Abs(sh.ProfileMM[0]-l.CentreMM) > 1e-9 || math.Abs(sh.ProfileMM[n-1]-l.EdgeMM) > 1e-9 {
		return refusal.New(refusal.Contradiction, path("shape"), "Its ends are not the layer's centre and edge.")
	}
	return nil
}

func (l Layer) checkThings(path func(string) string) error {
	switch {
	case l.Count < 1 || l.Count > 5000:
		return refusal.New(refusal.OutOfRange, path("count"), "Between 1 and 5000 of them.")
	case !(l.EachG > 0) || l.EachG > 10000:
		return refusal.New(refusal.OutOfRange, path("each_g"), "One weighs more than nothing and at most 10 kg.")
	case !(l.CentreMM >= 0) || l.CentreMM > 300:
		return refusal.New(refusal.OutOfRange, path("centre_mm"), "They stand at most 300 mm high.")
	}
	return nil
}

func (l Layer) checkHair(path func(string) string) error {
	switch {
	case !(l.HairsCM2 > 0) || l.HairsCM2 > 400:
		return refusal.New(refusal.OutOfRange, path("hairs_cm2"), "Between 1 and 400 hairs a cm².")
	case !(l.LengthMM > 0) || l.LengthMM > 1500:
		return refusal.New(refusal.OutOfRange, path("length_mm"), "Hair is at most 1.5 m long.")
	}
	return nil
}

func (l Layer) checkFilm(c Cut, shelf material.Shelf, path func(string) string) error {
	if l.Coats < 1 || l.Coats > 40 {
		return refusal.New(refusal.OutOfRange, path("coats"), "Between 1 and 40 coats.")
	}
	if !(l.CoatMM >= 0.001) || l.CoatMM > 8 {
		return refusal.New(refusal.OutOfRange, path("coat_mm"), "A coat is between 0.001 and 8 mm.")
	}
	if len(l.ZoneCoats) > 0 {
		sum := 0
		for _, n := range l.ZoneCoats {
			if n < 0 || n > 40 {
				return refusal.New(refusal.OutOfRange, path("zone_coats"), "Between 0 and 40 coats in a zone.")
			}
			sum += n
		}
		if len(l.ZoneCoats) != len(c.Zones) || sum == 0 {
			return refusal.New(refusal.Contradiction, path("zone_coats"), "Say the coats of every zone, at least one of them.")
		}
	}
	if l.Fibre != "" {
		if f, ok := shelf[l.Fibre]; !ok || f.Fibre == nil {
			return refusal.New(refusal.UnknownValue, path("fibre"), "Choose tissue, cotton or gauze, or none.")
		}
		if l.Kind != Latex {
			return refusal.New(refusal.Contradiction, path("fibre"), "Only latex coats take fibre.")
		}
	}
	if l.BetweenS != nil && !(*l.BetweenS >= 0 && *l.BetweenS <= 30*86400) {
		return refusal.New(refusal.OutOfRange, path("between_s"), "The wait between coats is at most 30 days.")
	}
	return nil
}
