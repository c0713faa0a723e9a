// Package paintwork is the paint schedule of a piece: colours laid one over another, each
// with its medium, tool, film, coverage and what it waits for; how the place looks after
// each of them, what each takes of paint and minutes, and what its order asks for. It knows
// no lots and no wearer; what may touch whom is the rule book's.
package paintwork

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
)

// Tool is how colour is put on. The wet films are the handbook's; areas a minute and what
// lands are ours, until a shop's own minutes replace them.
type Tool struct {
	Code     string     `json:"code"`
	Text     string     `json:"text"`
	FilmMM   float64    `json:"film_mm" doc:"wet, of one pass, as it is usually laid"`
	Range    [2]float64 `json:"film_range_mm"`
	CM2Min   float64    `json:"cm2_min" doc:"area of one pass in a minute"`
	Lands    float64    `json:"lands" doc:"share of what leaves the tool that stays on the piece"`
	Coverage float64    `json:"coverage" doc:"share that one pass usually covers"`
	// DistanceMM is how far it is held; 0 for what touches.
	DistanceMM float64 `json:"distance_mm"`
	// Hollows says whether it reaches the bottom of hollows.
	Hollows bool `json:"hollows" doc:"it reaches the bottom of hollows"`
	relief  string
}

// Tools in the order in which they are offered.
var Tools = []Tool{
	{"brush", "brush", 0.08, [2]float64{0.05, 0.15}, 15, 0.95, 1, 0, false, "base"},
	{"sponge", "sponge", 0.03, [2]float64{0.02, 0.04}, 40, 0.85, 0.9, 0, false, "base"},
	{"stipple", "stipple", 0.03, [2]float64{0.02, 0.04}, 20, 0.9, 0.35, 0, false, "spatter"},
	{"spatter", "spatter", 0.03, [2]float64{0.01, 0.05}, 60, 0.6, 0.12, 250, false, "spatter"},
	{"airbrush", "airbrush", 0.01, [2]float64{0.005, 0.015}, 50, 0.45, 0.8, 120, true, "glaze"},
	{"wash", "wash", 0.035, [2]float64{0.02, 0.05}, 30, 0.9, 0.9, 0, true, "wash"},
	{"dry_brush", "dry brush", 0.015, [2]float64{0.005, 0.03}, 25, 0.8, 0.3, 0, false, "dry brush"},
	{"finger", "finger", 0.08, [2]float64{0.03, 0.15}, 12, 0.95, 1, 0, true, "base"},
}

// ToolOf is a tool by its code.
func ToolOf(code string) (Tool, bool) {
	i := slices.IndexFunc(Tools, func(t Tool) bool { return t.Code == code })
	if i < 0 {
		return Tool{}, false
	}
	return Tools[i], true
}

// Roles of a layer, in their usual order.
var Roles = []string{"cancel", "below", "base", "injury", "veins", "spots", "mottle", "shadow", "highlight", "line", "accent",
	"shine"}

// covering roles may lose what lies under them.
var covering = []string{"cancel", "base"}

// drawn roles are lost when something covering comes over them.
var drawn = []string{"veins", "spots", "line", "accent", "injury"}

// Part is a pigment in a layer's medium.
type Part struct {
	Pigment string  `json:"pigment" maxLength:"64"`
	Per100G float64 `json:"per_100_g" minimum:"0" maximum:"40"`
}

// Layer is one colour. Either Mixed says what is in it, or Lab what its swatch read, laid
// thick.
type Layer struct {
	ID       string      `json:"id" minLength:"1" maxLength:"40"`
	Name     string      `json:"name,omitempty" maxLength:"80"`
	Role     string      `json:"role" enum:"cancel,below,base,injury,veins,spots,mottle,shadow,highlight,line,accent,shine"`
	Medium   string      `json:"medium" maxLength:"64" doc:"slug of the colour medium"`
	Mixed    []Part      `json:"mixed,omitempty" maxItems:"6"`
	Lab      *colour.Lab `json:"lab,omitempty" doc:"of the colour itself, laid thick; not asked for where it is mixed"`
	Swatch   uint64      `json:"swatch,omitempty" maximum:"9007199254740991" doc:"number of the swatch that it is"`
	Dilution float64     `json:"dilution,omitempty" minimum:"0" maximum:"50" doc:"parts of thinner to 1 of colour"`
	Tool     string      `json:"tool" enum:"brush,sponge,stipple,spatter,airbrush,wash,dry_brush,finger"`
	// DistanceMM, FilmMM and Coverage are the tool's where they are left out.
	DistanceMM float64  `json:"distance_mm,omitempty" minimum:"0" maximum:"1000"`
	FilmMM     float64  `json:"film_mm,omitempty" minimum:"0" maximum:"1" doc:"wet, of one pass"`
	Coverage   float64  `json:"coverage,omitempty" minimum:"0" maximum:"1"`
	Passes     int      `json:"passes,omitempty" minimum:"0" maximum:"30"`
	AreaShare  float64  `json:"area_share,omitempty" minimum:"0" maximum:"1" doc:"of the piece that it goes over; all of it where it is left out"`
	Places     []string `json:"places,omitempty" maxItems:"12" doc:"where, in the words of the trade or areas of the texture"`
	Dry        string   `json:"dry,omitempty" enum:",wet,tacky,dry" doc:"how it stands when the next goes on; dry where it is left out"`
	Set        string   `json:"set,omitempty" maxLength:"64" doc:"slug of the powder or sealer that sets it before the next"`
	Shine      string   `json:"shine,omitempty" enum:",matt,satin,wet" doc:"what its place is to shine like"`
	CarryMM    float64  `json:"carry_mm,omitempty" minimum:"0" maximum:"200" doc:"carried on past the edge, on the skin"`
	Hard       bool     `json:"hard,omitempty" doc:"its edge is left hard on purpose"`
	// LineMM and ApartMM are of a field of lines: how wide each is and how far it stays
	// from the next.
	LineMM  float64 `json:"line_mm,omitempty" minimum:"0" maximum:"20"`
	ApartMM float64 `json:"apart_mm,omitempty" minimum:"0" maximum:"100"`
	Hidden  bool    `json:"hidden,omitempty" doc:"hidden faces, hollows and bottoms of holes too"`
	StopDE  float64 `json:"stop_de,omitempty" minimum:"0" maximum:"60" doc:"from here on it is too heavy: how far it may take the place from what it was before"`
	ReachMM float64 `json:"reach_mm,omitempty" minimum:"0" maximum:"60" doc:"how wide a hollow a wash fills or a ridge that a dry brush catches"`
	Note    string  `json:"note,omitempty" maxLength:"300"`
}

// Schools of light and dark, and of where it is painted.
const (
	LightFirst  = "light_first"
	DarkFirst   = "dark_first"
	BaseFirst   = "base_first"
	LowContrast = "low_contrast"
)

// Schedule is what is painted, in order, lowest first.
type Schedule struct {
	School   string   `json:"school,omitempty" enum:",light_first,dark_first,base_first,low_contrast" doc:"how light and dark follow one another"`
	Where    string   `json:"where,omitempty" enum:",before,partly,on_the_face" doc:"painted before it is worn, partly, or on the face"`
	LightDeg *float64 `json:"light_deg,omitempty" minimum:"0" maximum:"360" doc:"from where painted light falls, clockwise from above"`
	Layers   []Layer  `json:"layers" maxItems:"24"`
}

// Tool is the layer's own; Check has asked whether there is one.
func (l Layer) tool() Tool { t, _ := ToolOf(l.Tool); return t }

// Film is the wet film of one pass, mm.
func (l Layer) Film() float64 {
	if l.FilmMM > 0 {
		return l.FilmMM
	}
	return l.tool().FilmMM
}

// Covers is the share of its place that one pass covers. Of a field of lines it is what
// they are wide of what they stand apart.
func (l Layer) Covers() float64 {
	switch {
	case l.LineMM > 0:
		return l.LineMM / (l.LineMM + l.ApartMM)
	case l.Coverage > 0:
		return l.Coverage
	}
	return l.tool().Coverage
}

// Times is how often it is laid.
func (l Layer) Times() int { return max(1, l.Passes) }

func (l Layer) share() float64 {
	if l.AreaShare > 0 {
		return l.AreaShare
	}
	return 1
}

// onFlat is how much of it is seen where the ground is flat: over a relief a wash runs
// into hollows and a dry brush is caught by ridges.
func (l Layer) onFlat() float64 {
	if l.ReachMM > 0 && (l.Tool == "wash" || l.Tool == "dry_brush") {
		return texture.WashOnFlat
	}
	return 1
}

// thinned is how much of what is laid is colour.
func (l Layer) thinned() float64 { return 1 / (1 + l.Dilution) }

// Check refuses a schedule that cannot be meant, at the field of its layer.
func (s Schedule) Check(shelf material.Shelf, palette colour.Palette) error {
	seen := map[string]bool{}
	for i, l := range s.Layers {
		at := func(field string) string { return fmt.Sprintf("layers[%d].%s", i, field) }
		medium, known := shelf[l.Medium]
		set, setKnown := shelf[l.Set]
		_, tool := ToolOf(l.Tool)
		switch {
		case seen[l.ID]:
			return refusal.New(refusal.Contradiction, at("id"), "Two layers are called %q.", l.ID)
		case !known || !medium.IsColour():
			return refusal.New(refusal.UnknownValue, at("medium"), "Choose the colour that it is painted with.")
		case !tool:
			return refusal.New(refusal.UnknownValue, at("tool"), "Choose what it is put on with.")
		case !slices.Contains(Roles, l.Role):
			return refusal.New(refusal.UnknownValue, at("role"), "Say what this colour does.")
		case l.Set != "" && (!setKnown || set.Family != material.Powder && set.Family != material.Sealer):
			return refusal.New(refusal.UnknownValue, at("set"), "It is set with a powder or a sealer.")
		case len(l.Mixed) == 0 && l.Lab == nil && l.Role != "shine":
			return refusal.New(refusal.Missing, at("lab"), "What colour is it? Mix it, take a swatch, or type a reading.")
		case l.LineMM == 0 && l.ApartMM > 0:
			return refusal.New(refusal.Missing, at("line_mm"), "How wide is each line?")
		}
		if l.Lab != nil && !(l.Lab.L >= 1 && l.Lab.L <= 99 && math.Abs(l.Lab.A) <= 120 && math.Abs(l.Lab.B) <= 120) {
			return refusal.New(refusal.OutOfRange, at("lab.l"), "No colour reads L %.0f a %.0f b %.0f.", l.Lab.L, l.Lab.A, l.Lab.B)
		}
		total := 0.0
		for j, m := range l.Mixed {
			if _, err := palette.Find(m.Pigment, at(fmt.Sprintf("mixed[%d].pigment", j))); err != nil {
				return err
			}
			total += m.Per100G
		}
		if total > mostInMedium {
			return refusal.New(refusal.OutOfRange, at("mixed"), "A colour takes at most %.0f g of pigment in 100; this has %.1f.",
				mostInMedium, total)
		}
		seen[l.ID] = true
	}
	return nil
}

// mostInMedium is the handbook's limit of a wash, g of pigment in 100.
const mostInMedium = 40.0

// scatters is how strongly a colour of a family hides where nobody drew it down, 1/mm
// undiluted; ours.
var scatters = map[material.Family]float64{material.PaintCream: 45, material.PaintAlcohol: 28, material.PaintWater: 38,
	material.PaintSilicone: 30,
	material.PaintAdhesive: 45, material.PaintAcrylic: 45, material.Glitter: 12}

const usualScatter = 30.0

// body is K and S of a layer as it is laid.
func (l Layer) body(shelf material.Shelf, palette colour.Palette) (colour.Coefficients, error) {
	var out colour.Coefficients
	if len(l.Mixed) > 0 {
		clear, err := colour.BaseOf("clear")
		if err != nil {
			return out, err
		}
		var doses []colour.Dose
		for _, m := range l.Mixed {
			doses = append(doses, colour.Dose{Pigment: m.Pigment, G: m.Per100G * l.thinned()})
		}
		return clear.MixedOf(palette, doses, 0)
	}
	if l.Lab == nil {
		return out, nil
	}
	thick, err := colour.Rebuild(*l.Lab, "smooth")
	if err != nil {
		return out, err
	}
	s, known := scatters[shelf[l.Medium].Family]
	if !known {
		s = usualScatter
	}
	s *= l.thinned()
	for i, r := range thick.R {
		out.S[i] = s
		out.K[i] = s * (1 - r) * (1 - r) / (2 * r)
	}
	return out, nil
}

// After is a place once a layer lies on it, with what the layer takes.
type After struct {
	ID       string     `json:"id"`
	Lab      colour.Lab `json:"lab" doc:"the place where it is flat, seen from a little way off"`
	Off      *float64   `json:"de00,omitempty" doc:"from the target; none where there is no target"`
	Moves    float64    `json:"moves" doc:"how far it takes the place, ΔE00"`
	Covered  float64    `json:"covered" doc:"share that is covered after its passes"`
	Hides    float64    `json:"hides" doc:"contrast ratio of one pass where it lies, 0 to 1"`
	AreaCM2  float64    `json:"area_cm2"`
	Grams    float64    `json:"grams" doc:"of the medium, undiluted"`
	ThinnerG float64    `json:"thinner_g"`
	Minutes  float64    `json:"minutes" doc:"of hands, without drying"`
	WaitS    float64    `json:"wait_s" doc:"until it is as dry as it is to be; 0 where nothing is known"`
	Recheck  bool       `json:"recheck" doc:"it covers: look at the place again before going on"`
}

// Painted is what a schedule comes to.
type Painted struct {
	Start    colour.Lab `json:"start"`
	Steps    []After    `json:"steps"`
	End      colour.Lab `json:"end"`
	Grams    float64    `json:"grams"`
	Minutes  float64    `json:"minutes"`
	Notes    []Note     `json:"notes" doc:"what the order asks for, beside the rule book"`
	spectrum colour.Spectrum
}

// Spectrum is what is seen in the end.
func (p Painted) Spectrum() colour.Spectrum { return p.spectrum }

// setUp is how long a layer takes before it touches anything, min; ours.
const setUp = 2.0

// On lays a schedule on a ground of so many cm². target may be nil. wait tells how long a
// film of a medium, mm wet, takes to dry, s; 0 for what is not known.
func (s Schedule) On(ground colour.Spectrum, areaCM2 float64, target *colour.Spectrum, shelf material.Shelf,
	palette colour.Palette,
	wait func(medium string, mm float64) float64) (Painted, error) {
	now := ground.Lab(colour.D65)
	out := Painted{Start: now, Steps: []After{}, Notes: []Note{}}
	r := ground
	for _, l := range s.Layers {
		body, err := l.body(shelf, palette)
		if err != nil {
			return out, err
		}
		film := l.Film()
		covers := l.Covers()
		seen := covers * l.onFlat()
		a := After{ID: l.ID, AreaCM2: areaCM2 * l.share()}
		var steps []colour.Step
		if l.Role == "shine" {
			// What only shines or dulls takes no colour.
			a.Covered = 1 - math.Pow(1-covers, float64(l.Times()))
		} else {
			r, steps = colour.Stack(r, []colour.Coat{{Coefficients: body, X: film, Coverage: seen, Passes: l.Times()}}, nil)
			a.Covered, a.Hides = steps[0].Covered, body.Opacity(film)
		}
		a.Lab = r.Lab(colour.D65)
		a.Moves = colour.DE00(now, a.Lab)
		now = a.Lab
		if target != nil {
			off := colour.DE00(a.Lab, target.Lab(colour.D65))
			a.Off = &off
		}
		product := shelf[l.Medium]
		ml := a.AreaCM2 * covers * film / 10 * float64(l.Times()) / l.tool().Lands
		a.Grams = ml * product.Mixed() * l.thinned()
		a.ThinnerG = ml * thinnerDensity * (1 - l.thinned())
		a.Minutes = setUp + a.AreaCM2/l.tool().CM2Min*float64(l.Times())
		if l.Dry != "wet" && wait != nil {
			a.WaitS = wait(l.Medium, film*covers) * float64(l.Times())
		}
		a.Recheck = slices.Contains(covering, l.Role) && a.Covered*a.Hides > 0.3
		out.Grams += a.Grams
		out.Minutes += a.Minutes
		out.Steps = append(out.Steps, a)
	}
	out.End, out.spectrum = now, r
	out.Notes = s.notes(out.Steps, shelf)
	return out, nil
}

// thinnerDensity is of alcohol and light solvents, g/ml; water is a little heavier.
const thinnerDensity = 0.85
