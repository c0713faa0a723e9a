package section

import (
	"slices"

	"yewmoor/internal/craft/material"
)

// DrawnML is the volume of the body as it is drawn.
func (s Section) DrawnML(shelf material.Shelf) float64 {
	ml := 0.0
	for _, c := range s.Cuts() {
		family := c.Body(shelf)
		for _, l := range c.Layers {
			if l.Kind != Skin && l.Kind.IsAppliance() && shelf[l.Material].Family == family {
				ml += c.AreaCM2 * l.mean(c, shelf) / 10
			}
		}
	}
	return ml
}

// Work computes what follows from a checked section in a room, as it is drawn.
func (s Section) Work(shelf material.Shelf, room Room) Result {
	return s.WorkBy(shelf, room, Believed{})
}

// Believed are the volume of a body in ml and the area of a piece in cm² that
// everything goes by; 0 believes the drawing.
type Believed struct{ VolumeML, AreaCM2 float64 }

// TotalCM2 is the area of all cuts as it is drawn.
func (s Section) TotalCM2() (cm2 float64) {
	for _, c := range s.Cuts() {
		cm2 += c.AreaCM2
	}
	return cm2
}

// sized is the section on another area, each cut with its share of it.
func (s Section) sized(cm2 float64) Section {
	k := cm2 / s.TotalCM2()
	s.Cut.AreaCM2 *= k
	s.More = slices.Clone(s.More)
	for i := range s.More {
		s.More[i].AreaCM2 *= k
	}
	return s
}
