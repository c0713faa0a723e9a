// Package making says how a section becomes copies: the way that its material
// is worked, the stages of one session in their order, what waits after each,
// and what is still to be done to a copy once it is made. It knows every family;
// the figures of waiting are the section's own.
package making

import (
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Way is how a session makes copies.
type Way string

// The ways.
const (
	Cast     Way = "cast"     // mixed, poured into a mould, cured
	Coats    Way = "coats"    // coat by coat, each dried, on skin or on a form
	Slush    Way = "slush"    // filled, dwelt and poured out of dry plaster
	Foam     Way = "foam"     // a foam batch: whipped, gelled, baked
	Melt     Way = "melt"     // melted, poured, chilled
	Modelled Way = "modelled" // spread, pressed or modelled straight on
	Found    Way = "found"    // bought or found, and fitted
)

// Ways is every way with its name, the usual ones first.
var Ways = []struct {
	Way  Way    `json:"way"`
	Text string `json:"text"`
}{
	{Cast, "cast from a mix"}, {Coats, "coats"}, {Slush, "slush cast"}, {Foam, "foam batch"}, {Melt, "melt and pour"}, {Modelled, "modelled straight on"}, {Found, "bought or found"},
}

// Text is the way in words.
func (w Way) Text() string {
	for _, k := range Ways {
		if k.Way == w {
			return k.Text
		}
	}
	return string(w)
}

// FromMix says whether copies of this way begin with the pouring of a mix.
func (w Way) FromMix() bool { return w == Cast }

// InMould says whether what this way makes comes out of a mould.
func (w Way) InMould() bool { return w == Cast || w == Slush || w == Foam || w == Melt }

// Wait is what stands on the shelf after a stage.
type Wait string

// The waits: nothing, a cure, a drying, and a setting whose time the section
// gives (baking, chilling, gelling, cooling).
const (
	NoWait Wait = ""
	Cure   Wait = "cure"
	Dry    Wait = "dry"
	Set    Wait = "set"
)

// Stage is one step of a session.
type Stage struct {
	Act   string `json:"act" doc:"what is done: pour, coat, slush, bake, chill, lay on, lift and so on"`
	Text  string `json:"text"`
	Layer string `json:"layer,omitempty" doc:"the section's layer that it makes"`
	// Coat is the number of the coat, from 1, and Of how many the layer has; 0
	// for what is no coat.
	Coat  int     `json:"coat,omitempty"`
	Of    int     `json:"of,omitempty"`
	Waits Wait    `json:"waits" enum:",cure,dry,set"`
	WaitS float64 `json:"wait_s" doc:"closed form at the room that it was planned in, s; 0 where the pot's own model tells"`
	// Hold is what has to be so before it may be said done: somebody looks, and says so.
	Hold string `json:"hold,omitempty"`
	// Tool says what it is put on with at this stage of the build, and how big its fibre is.
	Tool string `json:"tool,omitempty"`
	// Ends is true where the copies are made once this stage is done and has waited.
	Ends bool `json:"ends,omitempty"`
	// Material is what it takes, and Grams how much of it for one copy, wet.
	Material string  `json:"material,omitempty"`
	Grams    float64 `json:"grams,omitempty"`
	// Stirred is stirred into it, for one copy; Laid is laid into the coat dry.
	Stirred []section.Taken `json:"stirred,omitempty"`
	Laid    *section.Taken  `json:"laid,omitempty"`
	// Wet is the coat as the drying model takes it.
	Wet *drying.Layer `json:"wet,omitempty"`
	// Preset and Side are where it dries: the air over it, and what is behind.
	Preset string `json:"preset,omitempty"`
	Side   string `json:"side,omitempty"`
}

// Takes is all that a stage takes for one copy, by product; none of what is stirred in
// where it is poured from a mix, which has that in it.
func (s Stage) Takes() []section.Taken {
	out := append([]section.Taken{{Material: s.Material, Grams: s.Grams}}, s.Stirred...)
	if s.Laid != nil {
		out = append(out, *s.Laid)
	}
	return out
}

// Products are the slugs of all that a stage takes.
func (s Stage) Products() []string {
	var out []string
	for _, t := range s.Takes() {
		out = append(out, t.Material)
	}
	return out
}

// stirred is what goes into an amount of a layer beside its material, for one copy.
func stirred(l section.Layer, grams float64) []section.Taken {
	list := section.Mixed(l.Material, l.With, grams)[1:]
	for i := range list {
		list[i].Grams = round(list[i].Grams)
	}
	return list
}

// Of is the way of a section: what its body is made of, how that is put on, and
// what it is built on. Several bodies take the way of the thickest; a mixed
// build straight on the wearer is modelled.
func Of(s section.Section, shelf material.Shelf) Way {
	best, way := -1.0, Found
	families := map[section.Kind]bool{}
	for _, l := range s.Layers {
		if !l.Kind.IsAppliance() || l.Kind == section.Encapsulator {
			continue
		}
		families[l.Kind] = true
		if centre, _ := l.Thickness(s.Cut, shelf); centre > best {
			best, way = centre, wayOf(l, s.MadeOn())
		}
	}
	if len(families) > 1 && s.MadeOn() == section.OnSkin {
		return Modelled
	}
	return way
}

func wayOf(l section.Layer, on string) Way {
	switch l.Kind {
	case section.Silicone:
		if l.Method == "direct" || on == section.OnSkin {
			return Modelled
		}
		return Cast
	case section.SoftFoam:
		return Cast
	case section.Foam:
		return Foam
	case section.Gelatin:
		return Melt
	case section.Latex:
		if l.Method == "slush" {
			return Slush
		}
		return Coats
	case section.Wax:
		if on == section.InMould {
			return Melt
		}
		return Modelled
	}
	return Modelled
}

// Stages are the steps in which one session makes copies of a section, in the
// order in which hands do them. r is what follows from it in the room at hand.
// The first cut leads: what other cuts add stands after it.
func Stages(s section.Section, shelf material.Shelf, r section.Result) []Stage {
	way, on := Of(s, shelf), s.MadeOn()
	var out []Stage
	for _, c := range s.Cuts() {
		layers := making(c, on)
		if on == section.InMould {
			// From the outside in: the topmost goes in first. Films line mould and
			// core, and what is held in the mould is set, before it is filled.
			slices.Reverse(layers)
			slices.SortStableFunc(layers, func(a, b section.Layer) int { return filled(a) - filled(b) })
		}
		for _, l := range layers {
			out = append(out, stagesOf(l, c, s, way, on, shelf, r)...)
		}
	}
	hold(out, s)
	if len(out) == 0 {
		out = append(out, Stage{Act: "fit", Text: "Fit what was bought or found."})
	}
	if last := lift(s, way, on); last != nil {
		out = append(out, *last)
	}
	out[len(out)-1].Ends = true
	return out
}

// usualGelS is about how long foam takes to gel after its gelling agent, s; its own clock
// in the mix tells.
const usualGelS = 900

// hold sets the points at which a build of several bodies holds: what goes over another
// body waits for it to be sealed and sound.
func hold(stages []Stage, s section.Section) {
	kinds := map[string]section.Kind{}
	s.All(func(_ section.Cut, _ int, l section.Layer) { kinds[l.ID] = l.Kind })
	var below section.Kind
	for i := range stages {
		st := &stages[i]
		kind := kinds[st.Layer]
		switch {
		case st.Layer == "" || st.Hold != "":
		case kind.Is() == section.Body || kind == section.Latex:
			if below != "" && below != kind {
				st.Hold = "What is below is set, clean and dry."
				if below == section.SoftFoam {
					st.Hold = "The foam is set and sealed: no bare foam shows."
				}
				if below == section.Wax {
					st.Hold = "The wax is cold and its edges are feathered."
				}
			}
			below = kind
		}
	}
}

// filled is 1 for what fills a mould, 0 for what lines it before.
func filled(l section.Layer) int {
	if l.Kind.Is() == section.Body || l.Kind == section.Latex {
		return 1
	}
	return 0
}

// making are the layers of a cut that a session makes: on skin everything up to
// the topmost layer of the piece itself, elsewhere the piece's own layers and
// what is held in the mould.
func making(c section.Cut, on string) []section.Layer {
	top := -1
	for i, l := range c.Layers {
		if l.Kind.IsAppliance() {
			top = i
		}
	}
	var list []section.Layer
	for i, l := range c.Layers {
		if l.Kind == section.Skin || i > top {
			continue
		}
		if on == section.OnSkin || l.Kind.IsAppliance() || l.Kind == section.Insert && l.Fitted == "in the mould" {
			list = append(list, l)
		}
	}
	return list
}

func stagesOf(l section.Layer, c section.Cut, s section.Section, way Way, on string, shelf material.Shelf, r section.Result) []Stage {
	p, of := shelf[l.Material], r.Of(l.ID)
	base := Stage{Act: "lay on", Text: p.Name + ".", Layer: l.ID, Material: l.Material, Grams: round(l.Own(of.WetG)),
		Stirred: stirred(l, of.WetG)}
	if on == section.OnSkin {
		base.Side = "skin"
	}
	if of.WaitS > 0 {
		base.Waits, base.WaitS = Set, of.WaitS
	}
	switch {
	case l.Kind == section.Latex:
		return coatsOf(l, c, s, p, of, shelf)
	case l.Kind.Is() == section.Film:
		base.Act = "film"
		if n := l.MostCoats(); n > 1 {
			base.Text = fmt.Sprintf("%s, %d coats, each dry before the next.", p.Name, n)
		}
	case l.Kind.Is() == section.Things:
		base.Act, base.Text, base.Waits, base.WaitS = "insert", p.Name+": set in.", NoWait, 0
		base.Hold = "It sits fast: pulled at, it does not move; nothing sharp looks at the skin."
	case l.Kind == section.Silicone && on == section.InMould:
		base.Act, base.Text, base.Waits, base.WaitS = "pour", p.Name+": mix, degas, fill and close.", Cure, 0
	case l.Kind == section.Silicone:
		base.Act, base.Text, base.Waits, base.WaitS = "lay on", p.Name+": mixed, spread and feathered before it sets.", Cure, 0
	case l.Kind == section.SoftFoam:
		base.Act, base.Text = "pour", p.Name+": mix, pour at once and close; it rises."
	case l.Kind == section.Foam:
		whip := base
		whip.Act, whip.Text, whip.Waits, whip.WaitS = "whip", p.Name+": whip, refine, stir the gelling agent in.", Set, usualGelS
		fill := Stage{Act: "fill", Text: "Fill the mould before it gels, and close it.", Layer: l.ID, Waits: Set, WaitS: usualGelS}
		bake := Stage{Act: "bake", Text: "Gelled: into the oven, bake, and let it cool in the shut oven.", Layer: l.ID, Waits: Set,
			WaitS: of.WaitS,
			Hold:  "It is gelled: pressed, it springs back, and no dent stays."}
		wash := Stage{Act: "wash", Text: "Open while it is warm, wash out the soap, squeeze, and let it dry before a fan.",
			Layer: l.ID, Waits: Set, WaitS: of.WashedS,
			Hold: "The mould is cool enough to open, and comes apart without force."}
		return []Stage{whip, fill, bake, wash}
	case l.Kind == section.Gelatin && way == Melt, l.Kind == section.Wax && way == Melt:
		melt := base
		melt.Act, melt.Text, melt.Waits, melt.WaitS = "melt", p.Name+": melt without boiling, let the bubbles rise, pour.", NoWait, 0
		return []Stage{melt, {Act: "chill", Text: "Let it set in the mould, then chill it.", Layer: l.ID, Waits: Set, WaitS: of.WaitS}}
	case l.Kind == section.Wax:
		base.Text = p.Name + ": pressed on and feathered out with a tool."
		base.Tool = "Kneaded in the hand it is pliable; on the piece a tool, since a warm hand makes it a mess. Clean end and dirty end."
	case l.Kind == section.Paste:
		base.Text = p.Name + ": spread, texture pulled up when half dry."
		if p.Family == material.LatexPaste { // it dries as a thick coat, and is followed as one
			thick, _ := l.Thickness(c, shelf)
			wet, _ := l.PasteWet(shelf, thick)
			preset, side := s.DriesIn(l)
			base.Waits, base.WaitS, base.Wet, base.Preset, base.Side = Dry, 0, &wet, preset, side
		}
	}
	if l.Kind == section.Silicone && p.Cure == nil {
		base.Waits, base.WaitS = Set, of.WaitS
	}
	return []Stage{base}
}

// coatsOf are a latex layer's coats, one stage each.
func coatsOf(l section.Layer, c section.Cut, s section.Section, p material.Product, of section.LayerResult,
	shelf material.Shelf) []Stage {
	wet, n := l.Wet(shelf), l.MostCoats()
	act, how := "coat", p.Name
	switch {
	case l.Method == "slush":
		act, how = "slush", p.Name+": fill, dwell, pour out and drain"
	case l.Stretched:
		how = p.Name + ", stippled on the stretched skin"
	case l.Method == "stippled":
		how = p.Name + ", stippled"
	}
	if f := shelf[l.Fibre].Name; f != "" {
		how += " with " + strings.ToLower(f)
	}
	// What goes on wet, in g, with what its fibre drinks: the layer's share for each
	// of its coats. The zones that have fewer coats take less of the later ones.
	grams := l.Own(of.WetG) / float64(n)
	var laid *section.Taken
	if g := l.FibreG(c, shelf); g > 0 {
		laid = &section.Taken{Material: l.Fibre, Grams: round(g / float64(n))}
	}
	preset, side := s.DriesIn(l)
	out := make([]Stage, n)
	for i := range out {
		out[i] = Stage{Preset: preset, Side: side, Act: act, Text: how + ".", Layer: l.ID, Coat: i + 1, Of: n, Waits: Dry, Wet: &wet,
			Material: l.Material, Grams: round(grams),
			Stirred: stirred(l, of.WetG/float64(n)), Laid: laid}
		if n > 1 {
			out[i].Text = fmt.Sprintf("Coat %d of %d: %s.", i+1, n, how)
		}
		out[i].Tool = coatTool(l, i, shelf)
	}
	return out
}

// coatTool is what a coat of latex is put on with: a sponge while the build is thin, then
// what does not tear it; and how its fibre is torn and laid.
func coatTool(l section.Layer, before int, shelf material.Shelf) string {
	fibre := strings.ToLower(shelf[l.Fibre].Name)
	switch {
	case l.Method == "slush":
		return ""
	case l.Stretched || l.Method == "stippled":
		return "A sponge, dabbed and not wiped; hold the skin pulled until it is dry and powdered."
	case fibre != "" && before < 2:
		return "Brush or sponge; " + fibre + " torn, not cut, to pieces of two or three centimetres, thin, laid while it is tacky. Smaller at the edge."
	case fibre != "":
		return "Finger, bud or spatula: a sponge tears what is built. " + strings.ToUpper(fibre[:1]) + fibre[1:] + " in pieces of a centimetre, pushed to shape while it is damp; latex on the finger, so that it does not lift."
	case before < 2:
		return "Brush or sponge."
	}
	return "Finger or spatula: a sponge tears what is built."
}

// lift is how a copy leaves what it was made on; nil where the last wait ends it.
func lift(s section.Section, way Way, on string) *Stage {
	switch {
	case way == Coats || way == Slush:
		text := "Powder it and peel it off the form."
		if on == section.OnSkin {
			text = "Powder it, so that it does not stick to itself."
			stretched := slices.ContainsFunc(s.Layers, func(l section.Layer) bool { return l.Stretched })
			if stretched {
				text = "Powder it while the skin is still stretched, then let go."
			}
		} else if way == Slush {
			text = "Powder the inside, loosen the rim and lift it out, powdering as it comes."
		}
		hold := "Powder is everywhere on it, in the grooves too."
		return &Stage{Act: "lift", Text: text, Hold: hold}
	case way == Foam: // washing has taken it out
		return nil
	case on == section.InMould:
		return &Stage{Act: "open", Text: "Open the mould and lift the piece; powder what sticks to itself.",
			Hold: "A corner lifts clean: nothing tears, nothing stays behind."}
	case on == section.OnForm:
		return &Stage{Act: "lift", Text: "Lift it off the form."}
	}
	return nil
}

func round(g float64) float64 { return float64(int64(g*100+0.5)) / 100 }
