// Package recipe is how a shop makes what it mixes: the lines that are weighed, of
// what each percentage is counted, the steps between them that are no weighings,
// and what follows from the ingredients for hands, air, mouths and clocks. It knows
// no lots, no scale and no pieces.
package recipe

import (
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/refusal"
)

// Line is one ingredient: either a part of the ratio, or an addition in percent of
// the parts, of one of them, or of the whole.
type Line struct {
	// ID names it in this recipe: A and B of a kit, else the material's short name.
	ID       string  `json:"id" minLength:"1" maxLength:"64"`
	Material string  `json:"material" minLength:"1" maxLength:"64"`
	Kit      string  `json:"kit,omitempty" enum:",A,B" doc:"which part of a two-part product"`
	Parts    float64 `json:"parts,omitempty" minimum:"0" maximum:"1000000"`
	Percent  float64 `json:"percent,omitempty" minimum:"0" maximum:"400"`
	Of       string  `json:"of,omitempty" maxLength:"64" doc:"of what the percentage is: parts (all of them), total, or the id of a part"`
	Note     string  `json:"note,omitempty" maxLength:"120"`
	// Sets says that it sets off another line of which the same is said: the
	// clock starts when the second of them comes into the cup.
	Sets bool `json:"sets,omitempty"`
	// TopUp is weighed only as a weigh-back asks for it.
	TopUp bool `json:"top_up,omitempty"`
}

// Act is what a step is.
type Act string

// The acts. Weigh names a line; the others are done by hand and clock.
const (
	Weigh  Act = "weigh"
	Whisk  Act = "whisk"
	Stir   Act = "stir"
	Rest   Act = "rest"
	Warm   Act = "warm"
	DeAir  Act = "de_air"
	Sieve  Act = "sieve"
	Test   Act = "test"
	Back   Act = "weigh_back"
	Volume Act = "measure_volume"
)

// Acts are all of them, with what they are called.
var Acts = []struct {
	Act  Act    `json:"act"`
	Text string `json:"text"`
}{{Weigh, "weigh"}, {Stir, "stir"}, {Whisk, "whisk"}, {Rest, "rest"}, {Warm, "warm"}, {DeAir, "de-air"}, {Sieve, "sieve"}, {Test, "test"}, {Back, "weigh the pot back"}, {Volume, "measure the volume"}}

// Step is one thing that is done, in order.
type Step struct {
	Act  Act    `json:"act" enum:"weigh,whisk,stir,rest,warm,de_air,sieve,test,weigh_back,measure_volume"`
	Line string `json:"line,omitempty" maxLength:"64" doc:"of a weighing: the line"`
	Text string `json:"text,omitempty" maxLength:"200"`
	// Seconds that it takes; 0 for what is done when it is done.
	Seconds float64 `json:"seconds,omitempty" minimum:"0" maximum:"604800"`
	Speed   string  `json:"speed,omitempty" maxLength:"40" doc:"of a whisk: slow, high, or the setting of the shop's own"`
	TempC   float64 `json:"temp_c,omitempty" minimum:"0" maximum:"250"`
	MaxC    float64 `json:"max_c,omitempty" minimum:"0" maximum:"250" doc:"never above it"`
}

// Clock is what runs once it is set off.
type Clock string

// The clocks.
const (
	NoClock  Clock = ""
	CureTime Clock = "cure"  // of a two-part product, by its sheet and the room's warmth
	GelTime  Clock = "gel"   // of foam, by room, air and dose, and the batches of before
	SetTime  Clock = "set"   // of gypsum and alginate, by the water's warmth and how much of it
	Plain    Clock = "plain" // PotS at RefC, twice as fast for ten degrees more
	Cooling  Clock = "cools" // of what was melted: until it is too thick to pour
)

// Recipe is a house recipe.
type Recipe struct {
	Name     string `json:"name" minLength:"1" maxLength:"80"`
	Makes    string `json:"makes" minLength:"1" maxLength:"64" doc:"the material that it makes, as sections name it"`
	Group    string `json:"group" maxLength:"40" doc:"under which it stands in the list"`
	ByVolume bool   `json:"by_volume,omitempty" doc:"its parts are by volume"`
	Lines    []Line `json:"lines" minItems:"1" maxItems:"40"`
	Steps    []Step `json:"steps" maxItems:"60"`
	Clock    Clock  `json:"clock,omitempty" enum:",cure,gel,set,plain,cools"`
	// PotS is how long it may be poured and SetS when it has set, in s, at RefC;
	// what a product's sheet says comes first.
	PotS float64 `json:"pot_s,omitempty" minimum:"0" maximum:"604800"`
	SetS float64 `json:"set_s,omitempty" minimum:"0" maximum:"604800"`
	RefC float64 `json:"ref_c,omitempty" minimum:"0" maximum:"100"`
	// Rise is how many times its volume it stands at in the end; 0 for what stays.
	Rise float64 `json:"rise,omitempty" minimum:"0" maximum:"14"`
	// KeepH is how long it may be put by, in hours; 0: it is used at once.
	KeepH float64 `json:"keep_h,omitempty" minimum:"0" maximum:"87600"`
	// Edible: food-only pots and tools. Every ingredient must be food.
	Edible bool `json:"edible,omitempty"`
	// Near is what must not come near it, in words.
	Near []string `json:"near,omitempty" maxItems:"8"`
	// Like is what it is like, as the shop writes it down.
	Like string `json:"like,omitempty" maxLength:"300"`
	// Why says why this version; asked for when it is agreed.
	Why string `json:"why,omitempty" maxLength:"300"`
}

// Mix is the recipe as the arithmetic takes it. Lines that are only topped up stay
// out of it.
func (r Recipe) Mix(shelf material.Shelf) mix.Recipe {
	out := mix.Recipe{ByVolume: r.ByVolume}
	for _, l := range r.Lines {
		switch {
		case l.TopUp:
		case l.Parts > 0:
			p := shelf[l.Material]
			density := p.Mixed()
			if p.Ratio != nil && l.Kit == "A" && p.Ratio.DensityA > 0 {
				density = p.Ratio.DensityA
			}
			if p.Ratio != nil && l.Kit == "B" && p.Ratio.DensityB > 0 {
				density = p.Ratio.DensityB
			}
			out.Parts = append(out.Parts, mix.Part{ID: l.ID, Parts: l.Parts, Density: density})
		default:
			out.Additions = append(out.Additions, mix.Addition{ID: l.ID, Percent: l.Percent, Of: l.Of})
		}
	}
	return out
}

// Order is every step in order: those of the recipe, and before them a weighing of
// each line that no step names, in the order of the lines.
func (r Recipe) Order() []Step {
	named := map[string]bool{}
	for _, s := range r.Steps {
		if s.Act == Weigh {
			named[s.Line] = true
		}
	}
	var out []Step
	for _, l := range r.Lines {
		if !named[l.ID] {
			out = append(out, Step{Act: Weigh, Line: l.ID})
		}
	}
	return append(out, r.Steps...)
}

// Of is the line of an ID.
func (r Recipe) Of(id string) (Line, bool) {
	i := slices.IndexFunc(r.Lines, func(l Line) bool { return l.ID == id })
	if i < 0 {
		return Line{}, false
	}
	return r.Lines[i], true
}

// Products are the materials that it takes, each once.
func (r Recipe) Products() []string {
	var out []string
	for _, l := range r.Lines {
		if !slices.Contains(out, l.Material) {
			out = append(out, l.Material)
		}
	}
	return out
}

// Meets says whether pouring the line brings two things together that set each
// other off, given what is in the cup already.
func (r Recipe) Meets(id string, in func(id string) bool) bool {
	l, known := r.Of(id)
	if !known || !l.Sets {
		return false
	}
	return slices.ContainsFunc(r.Lines, func(o Line) bool { return o.ID != id && o.Sets && in(o.ID) })
}

// Check refuses a recipe that cannot be made, at its field.
func (r Recipe) Check(shelf material.Shelf) error {
	makes, known := shelf[r.Makes]
	switch {
	case strings.TrimSpace(r.Name) == "":
		return refusal.New(refusal.Missing, "name", "Give the recipe a name.")
	case !known:
		return refusal.New(refusal.UnknownValue, "makes", "Choose the material that it makes.")
	}
	for i, l := range r.Lines {
		at := func(field string) string { return fmt.Sprintf("lines[%d].%s", i, field) }
		p, known := shelf[l.Material]
		switch {
		case !known:
			return refusal.New(refusal.UnknownValue, at("material"), "Choose a material of the shelf.")
		case slices.ContainsFunc(r.Lines[:i], func(o Line) bool { return o.ID == l.ID }):
			return refusal.New(refusal.Contradiction, at("id"), "%s stands in it already.", p.Name)
		case l.Parts > 0 && l.Percent > 0:
			return refusal.New(refusal.Contradiction, at("percent"), "%s is either a part of the ratio or a percentage on top.", p.Name)
		case l.Parts == 0 && l.Percent == 0 && !l.TopUp:
			return refusal.New(refusal.OutOfRange, at("parts"), "How much of %s? Parts above zero, or a percentage.", lower(p.Name))
		case l.Kit != "" && p.Ratio == nil:
			return refusal.New(refusal.Contradiction, at("kit"), "%s does not come in two parts.", p.Name)
		case l.Kit == "" && p.Ratio != nil:
			return refusal.New(refusal.Missing, at("kit"), "%s comes in two parts: say which of them this is.", p.Name)
		case r.Edible && !p.Edible:
			return refusal.New(refusal.Contradiction, at("material"), "%s is no food: a recipe with it in is not edible.", p.Name)
		}
		if !r.reacts() && (makes.MouthSafe && !p.MouthSafe || makes.ForSkin && !p.ForSkin && !p.MouthSafe) {
			return refusal.New(refusal.Contradiction, at("material"), "%s may go further than %s may: it is another material that this makes.", makes.Name, lower(p.Name))
		}
		if limit := p.StirLimit(makes.Family); l.Percent > 0 && limit > 0 && l.Percent > limit {
			return refusal.New(refusal.OutOfRange, at("percent"), "%s: at most %g %% of the parts.", p.Name, limit)
		}
	}
	for i, s := range r.Steps {
		at := func(field string) string { return fmt.Sprintf("steps[%d].%s", i, field) }
		_, known := r.Of(s.Line)
		switch {
		case s.Act == Weigh && !known:
			return refusal.New(refusal.UnknownValue, at("line"), "Which line is weighed here?")
		case s.Act == Weigh && slices.ContainsFunc(r.Steps[:i], func(o Step) bool { return o.Act == Weigh && o.Line == s.Line }):
			return refusal.New(refusal.Contradiction, at("line"), "It is weighed once already.")
		case s.Act == Whisk && s.Seconds == 0, s.Act == Rest && s.Seconds == 0:
			return refusal.New(refusal.Missing, at("seconds"), "For how long?")
		case s.Act == Warm && s.TempC == 0:
			return refusal.New(refusal.Missing, at("temp_c"), "How warm?")
		case s.MaxC > 0 && s.TempC > s.MaxC:
			return refusal.New(refusal.Contradiction, at("max_c"), "It is warmed above what it bears.")
		}
	}
	if slices.ContainsFunc(r.Lines, func(l Line) bool { return l.TopUp }) && !slices.ContainsFunc(r.Steps, func(s Step) bool { return s.Act == Back }) {
		return refusal.New(refusal.Missing, "steps", "What is topped up is told by weighing the pot back: put that step in.")
	}
	_, err := r.Mix(shelf).Shares()
	return err
}

func lower(name string) string {
	if len(name) > 1 && name[1] >= 'a' {
		return strings.ToLower(name[:1]) + name[1:]
	}
	return name
}

// Sheet is a product that comes in two parts as the recipe that its own sheet
// gives; false for what does not.
func Sheet(p material.Product) (Recipe, bool) {
	if p.Ratio == nil {
		return Recipe{}, false
	}
	r := Recipe{Name: p.Name + ", by its sheet", Makes: p.Slug, Group: "Two parts", ByVolume: p.Ratio.ByVolume, Lines: []Line{
		{ID: "A", Material: p.Slug, Kit: "A", Parts: p.Ratio.A, Sets: true}, {ID: "B", Material: p.Slug, Kit: "B", Parts: p.Ratio.B, Sets: true}}}
	if p.Cure != nil {
		r.Clock = CureTime
	}
	return r, true
}

// AsItComes is a recipe of a body that is used as it is bought, so that colour can be
// weighed into it; false for what is no body.
func AsItComes(p material.Product) (Recipe, bool) {
	switch p.Family {
	case material.Latex, material.LatexPaste, material.Wax, material.FoamLatex, material.Gelatin, material.HouseholdPaste:
		return Recipe{Name: p.Name + ", as it comes", Makes: p.Slug, Group: "As it comes",
			Lines: []Line{{ID: p.Slug, Material: p.Slug, Parts: 100}}}, true
	}
	return Recipe{}, false
}

// With puts additions into a recipe, before the line that sets it off: those of a
// section, or of a sheet that somebody changes by hand. What stands in it already
// takes the new percentage; 0 leaves it out.
func (r Recipe) With(more ...Line) Recipe {
	r.Lines = slices.Clone(r.Lines)
	for _, l := range more {
		if l.ID == "" {
			l.ID = l.Material
		}
		i := slices.IndexFunc(r.Lines, func(o Line) bool { return o.ID == l.ID })
		switch {
		case i >= 0 && r.Lines[i].Parts == 0 && l.Percent == 0:
			r.Lines = slices.Delete(r.Lines, i, i+1)
			r.Steps = slices.DeleteFunc(slices.Clone(r.Steps), func(s Step) bool { return s.Act == Weigh && s.Line == l.ID })
		case i >= 0:
			r.Lines[i].Percent, r.Lines[i].Of = l.Percent, l.Of
		case l.Percent > 0:
			at := len(r.Lines)
			if last := slices.IndexFunc(r.Lines, func(o Line) bool { return o.Kit == "B" }); last >= 0 {
				at = last
			}
			r.Lines = slices.Insert(r.Lines, at, l)
		}
	}
	return r
}
