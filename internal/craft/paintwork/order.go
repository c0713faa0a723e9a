package paintwork

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/texture"
)

// Note is something that the order of a schedule asks for.
type Note struct {
	Layer  string `json:"layer,omitempty" doc:"id of the layer; of the whole where it is left out"`
	Code   string `json:"code" enum:"lost,hollows,hidden,heavy,school,set_first,dulls,touching,past_edge,recheck"`
	Text   string `json:"text"`
	Remedy string `json:"remedy"`
}

func (s Schedule) notes(steps []After, shelf material.Shelf) []Note {
	out := []Note{}
	say := func(layer, code, remedy, format string, args ...any) {
		out = append(out, Note{layer, code, fmt.Sprintf(format, args...), remedy})
	}
	hidden := false
	for i, l := range s.Layers {
		name := l.title()
		hidden = hidden || l.Hidden
		if steps[i].Recheck {
			for _, under := range s.Layers[:i] {
				if slices.Contains(drawn, under.Role) {
					say(l.ID, "lost", "Lay it first, or draw "+under.title()+" again after it.", "%s covers %.0f %% and goes over %s.", name,
						100*steps[i].Covered*steps[i].Hides, under.title())
					break
				}
			}
			say(l.ID, "recheck", "Hold the reader or the swatch to it, then go on.",
				"%s covers: look at the place again before the next.", name)
		}
		if l.Hidden && !l.tool().Hollows {
			say(l.ID, "hollows", "Push it in by finger, or take a wash or an airbrush for the hollows.",
				"%s goes into hollows, and a %s skims over them.", name, l.tool().Text)
		}
		if l.StopDE > 0 && steps[i].Moves > l.StopDE {
			say(l.ID, "heavy", "Fewer passes or a thinner mix; too much is wiped back while it is wet.",
				"%s takes the place %.1f away; its stop mark is %.1f.", name, steps[i].Moves, l.StopDE)
		}
		if l.LineMM > 0 && l.ApartMM < l.LineMM/2 {
			say(l.ID, "touching", "Leave at least half a line between them.",
				"Lines of %.1f mm with %.1f mm between them run into one another.", l.LineMM, l.ApartMM)
		}
		if l.Dry == "wet" && i+1 < len(s.Layers) && l.Set == "" && shelf[l.Medium].Family != shelf[s.Layers[i+1].Medium].Family {
			say(l.ID, "set_first", "Let it dry, or set it with powder or sealer.",
				"%s is still wet when %s goes on with another medium: it lifts and goes muddy.", name, s.Layers[i+1].title())
		}
		if l.Shine == "wet" {
			for _, over := range s.Layers[i:] {
				if shelf[over.Set].Family == material.Powder {
					say(l.ID, "dulls", "Powder first, wet look last.", "%s is to shine wet, and the powder on %s dulls it.", name, over.title())
					break
				}
			}
		}
		if l.CarryMM > 0 && !shelf[l.Medium].ForSkin {
			say(l.ID, "past_edge", "Carry the edge on with a colour that is sold for skin.",
				"%s is carried %.0f mm past the edge and is not sold for skin.", name, l.CarryMM)
		}
	}
	if len(s.Layers) > 0 && !hidden {
		say("", "hidden", "Say of one layer that it goes there too.",
			"No layer goes on hidden faces, behind flaps and into the bottoms of holes: bare material shows there.")
	}
	s.school(say)
	return out
}

// school holds the order of light and dark against the school that was chosen (D08).
func (s Schedule) school(say func(layer, code, remedy, format string, args ...any)) {
	first := func(roles ...string) int {
		return slices.IndexFunc(s.Layers, func(l Layer) bool { return slices.Contains(roles, l.Role) })
	}
	light, dark, base := first("highlight"), first("shadow"), first("base")
	switch s.School {
	case LightFirst:
		if light >= 0 && dark >= 0 && dark < light {
			say(s.Layers[dark].ID, "school", "Lay the light one first, or choose another school.",
				"%s comes before %s: the lightest goes first here, since dark blends into it.", s.Layers[dark].title(), s.Layers[light].title())
		}
	case DarkFirst:
		if light >= 0 && dark >= 0 && light < dark {
			say(s.Layers[light].ID, "school", "Lay the dark one first, or choose another school.",
				"%s comes before %s: the dark outline goes first here and is filled.", s.Layers[light].title(), s.Layers[dark].title())
		}
	case BaseFirst:
		for _, i := range []int{light, dark} {
			if i >= 0 && base >= 0 && i < base {
				say(s.Layers[i].ID, "school", "Base first, then hollows dark, then what stands up light.", "%s comes before the base.",
					s.Layers[i].title())
			}
		}
	case LowContrast:
		for i, l := range s.Layers {
			if l.Role == "shadow" && l.StopDE == 0 {
				say(s.Layers[i].ID, "school", "Give it a stop mark: little contrast first, deeper step by step.",
					"%s grows darker in steps and has no stop mark.", l.title())
			}
		}
	}
}

func (l Layer) title() string {
	if l.Name != "" {
		return "“" + l.Name + "”"
	}
	return "the " + l.Role + " colour"
}

// InSection is the schedule as layers of a section, so that the rule book can be asked about
// it: each colour, and what sets it.
func (s Schedule) InSection(shelf material.Shelf) []section.Layer {
	var out []section.Layer
	for _, l := range s.Layers {
		extent, stop := section.ToEdge, 0.0
		if l.CarryMM > 0 {
			extent, stop = section.PastEdge, l.CarryMM
		}
		out = append(out, section.Layer{ID: l.ID, Kind: section.Paint, Material: l.Medium, Coats: l.Times(), CoatMM: l.Film(),
			Extent: extent, StopMM: stop, Role: sectionRoles[l.Role], ShowsThrough: l.Role == "below"})
		if l.Set != "" {
			kind := section.Powder
			if shelf[l.Set].Family == material.Sealer {
				kind = section.Seal
			}
			out = append(out, section.Layer{ID: l.ID + "-set", Kind: kind, Material: l.Set, Coats: 1, CoatMM: 0.01, Extent: extent,
				StopMM: stop})
		}
	}
	return out
}

// sectionRoles are a schedule's roles as a section calls them.
var sectionRoles = map[string]string{"base": "base", "cancel": "base", "below": "base", "spots": "spatter", "mottle": "spatter",
	"shadow": "shadow", "highlight": "highlight",
	"line": "line", "veins": "veins", "injury": "wash", "accent": "highlight"}

// Scheme is the schedule as it is laid over a relief: washes run into hollows, a dry brush
// is caught by ridges. ground is what it is laid on.
func (s Schedule) Scheme(ground colour.Lab, steps []After) texture.Scheme {
	out := texture.Scheme{Clay: ground, Layers: []texture.Paint{}}
	before := ground
	for i, l := range s.Layers {
		if l.Role == "shine" {
			if l.Shine == "matt" {
				out.Layers = append(out.Layers, texture.Paint{Kind: "matt", Name: l.Name, Strength: 0.5})
			}
			continue
		}
		own := before
		// Where it lies it looks as its own colour; how much of the place shows it is the
		// strength.
		// Over the relief the wash itself is told: where it gathers it covers as it is laid.
		covers := 1 - math.Pow(1-l.Covers(), float64(l.Times()))
		strength := covers * max(0.05, steps[i].Hides)
		if l.Lab != nil {
			own = *l.Lab
		} else if strength *= l.onFlat(); strength > 0 {
			own = colour.Lab{L: unmixed(before.L, steps[i].Lab.L, strength, 0, 100),
				A: unmixed(before.A, steps[i].Lab.A, strength, -120, 120), B: unmixed(before.B, steps[i].Lab.B, strength, -120, 120)}
		}
		p := texture.Paint{Kind: l.tool().relief, Name: l.Name, Colour: own, Strength: min(1, covers*max(0.05, steps[i].Hides)),
			ReachMM: l.ReachMM}
		if p.Kind == "spatter" {
			p.Share, p.Strength = min(1, max(0.01, covers)), max(0.05, steps[i].Hides)
		}
		out.Layers = append(out.Layers, p)
		before = steps[i].Lab
	}
	return out
}

// unmixed is the colour that, laid with a strength, takes one to the other.
func unmixed(from, to, strength, lo, hi float64) float64 {
	return min(hi, max(lo, from+(to-from)/strength))
}

// FromScheme is a first draft from a trial scheme of the texture: its colours with the
// tools that lay like that.
func FromScheme(scheme texture.Scheme, medium string) Schedule {
	tools := map[string]string{"base": "sponge", "spatter": "spatter", "wash": "wash", "dry brush": "dry_brush",
		"glaze": "airbrush", "matt": "sponge"}
	roles := map[string]string{"base": "base", "spatter": "spots", "wash": "shadow", "dry brush": "highlight", "glaze": "mottle",
		"matt": "shine"}
	out := Schedule{Layers: []Layer{}}
	for i, p := range scheme.Layers {
		l := Layer{ID: fmt.Sprintf("p%d", i+1), Name: p.Name, Role: roles[p.Kind], Medium: medium, Tool: tools[p.Kind], Passes: 1,
			ReachMM: p.ReachMM, Places: p.On}
		if p.Kind == "matt" {
			l.Shine = "matt"
		} else {
			c := p.Colour
			c.L = min(99, max(1, c.L))
			l.Lab = &c
		}
		if p.Kind == "spatter" {
			l.Coverage = p.Share
		}
		out.Layers = append(out.Layers, l)
	}
	return out
}
