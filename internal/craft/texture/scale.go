package texture

// Scaled is the layers of a recipe at another scale: every length of them times
// a factor, so that a house pattern fits another place. Angles, shares and
// seeds stay. Layers that hang on the guides or areas of their first place lose
// them.
func Scaled(layers []Layer, by float64) []Layer {
	out := make([]Layer, 0, len(layers))
	one := func(p *float64) *float64 {
		if p == nil {
			return nil
		}
		return Ptr(*p * by)
	}
	span := func(p *Span) *Span {
		if p == nil {
			return nil
		}
		return &Span{p[0] * by, p[1] * by}
	}
	for _, l := range layers {
		if l.Kind == "wrinkles" || l.Kind == "lines" || l.Kind == "field" {
			continue // they belong to the guides of their place
		}
		n := l
		n.On, n.Outside, n.Flow, n.Mirror = nil, false, nil, nil
		if l.From != nil {
			n.From = Ptr(Boundary)
		}
		n.ThinOutMM *= by
		n.Buff *= by
		n.Dome *= by
		n.Lip *= by
		n.Groove, n.Pitch, n.Plate, n.Fibre, n.Width, n.Soften, n.Falloff = one(l.Groove), one(l.Pitch), one(l.Plate), one(l.Fibre), one(l.Width), one(l.Soften), one(l.Falloff)
		n.Size, n.Spacing, n.Diameter, n.Depth = span(l.Size), span(l.Spacing), span(l.Diameter), span(l.Depth)
		n.Families = nil
		for _, f := range l.Families {
			f.Spacing = Span{f.Spacing[0] * by, f.Spacing[1] * by}
			f.Depth, f.Width, f.Bow = f.Depth*by, f.Width*by, f.Bow*by
			f.Wiggle = span(f.Wiggle)
			n.Families = append(n.Families, f)
		}
		if l.Rescore != nil {
			r := *l.Rescore
			r.Depth, r.Width = r.Depth*by, r.Width*by
			n.Rescore = &r
		}
		if l.Lumps != nil {
			u := *l.Lumps
			u.Height *= by
			n.Lumps = &u
		}
		n.Stamps = nil
		for _, s := range l.Stamps {
			s.OD *= by
			n.Stamps = append(n.Stamps, s)
		}
		out = append(out, n)
	}
	return out
}
