package recipe

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/substance"
)

// Where what it makes may go. The worst ingredient decides; nothing is eye-safe.
const (
	Mouth = "mouth"    // mouth and lip, and skin outside the keep-out
	Skin  = "skin"     // skin outside the keep-out
	Off   = "off_skin" // no skin
)

// Follows is what follows from a recipe's ingredients.
type Follows struct {
	Touch     string   `json:"touch" enum:"mouth,skin,off_skin" doc:"where it may go; never into or at the eye"`
	TouchWhy  string   `json:"touch_why" doc:"which ingredient decides"`
	Cautions  []string `json:"cautions"`
	Confirm   []Need   `json:"confirm" doc:"what is confirmed before anything is begun: of fumes, dust and food"`
	Exposes   []string `json:"exposes" doc:"fumes and dust whose minutes are kept per person"`
	Heat      float64  `json:"heat_c,omitempty" doc:"the warmest step, °C"`
	Allergens []string `json:"allergens" doc:"foods, and natural rubber, that are in it"`
	Near      []string `json:"near"`
	Stains    string   `json:"stains,omitempty"`
}

// Need is one thing that is confirmed.
type Need struct {
	Code string `json:"code" enum:"gloves,air,mask,extraction,trained,respirator,no_flame,food_only"`
	Text string `json:"text"`
}

// fumes are what comes into the air of a room, by substance.
var fumes = []string{"solvent", "ammonia", "isocyanate", "epoxy", "preservative"}

// reacts says whether what comes out of the cup is another stuff than what went in.
func (r Recipe) reacts() bool {
	return r.Clock == CureTime || r.Clock == GelTime || r.Clock == SetTime || slices.ContainsFunc(r.Lines, func(l Line) bool { return l.Sets })
}

// Follow reads it off the ingredients.
func (r Recipe) Follow(list substance.List, shelf material.Shelf) Follows {
	out := Follows{Touch: Mouth, Cautions: []string{}, Confirm: []Need{}, Exposes: []string{}, Allergens: []string{}, Near: slices.Clone(r.Near)}
	if out.Near == nil {
		out.Near = []string{}
	}
	confirm := map[string]string{}
	worst := func(touch, why string) {
		order := []string{Mouth, Skin, Off}
		if slices.Index(order, touch) > slices.Index(order, out.Touch) {
			out.Touch, out.TouchWhy = touch, why
		}
	}
	makes := shelf[r.Makes]
	judge := func(p material.Product) {
		switch {
		case !p.ForSkin && !p.MouthSafe:
			worst(Off, p.Name+" is not for skin.")
		case !p.MouthSafe:
			worst(Skin, p.Name+" is not for mouth and lip.")
		}
	}
	for _, slug := range r.Products() {
		p := shelf[slug]
		holds := p.Holds()
		if p.Caution != "" && !slices.Contains(out.Cautions, p.Caution) {
			out.Cautions = append(out.Cautions, p.Caution)
		}
		if !r.reacts() {
			judge(p)
		}
		if p.CureShift != "" {
			out.Cautions = append(out.Cautions, "The clock runs with the usual figures of such a "+p.CureShift+". Where the data sheet of "+p.Name+" says otherwise, try a little first.")
		}
		has := func(code string) bool { return holds.Of(list, code) == substance.Held }
		for _, code := range fumes[:4] {
			if has(code) {
				if name := nameOf(list, code); !slices.Contains(out.Exposes, name) {
					out.Exposes = append(out.Exposes, name)
				}
				confirm["air"] = "The room is aired: windows or extraction on."
			}
		}
		if has("solvent") {
			confirm["no_flame"] = "No flame, torch, heat gun or spark near it."
		}
		if has("isocyanate") {
			confirm["extraction"] = "Extraction is running."
			confirm["trained"] = "I am trained for isocyanates, and so is everybody in the room."
			confirm["respirator"] = "I wear the respirator that the safety sheet of " + p.Name + " names."
		}
		if p.Dusty {
			confirm["mask"] = "Dust mask on; powder goes in slowly, close to the surface."
			if !slices.Contains(out.Exposes, "dust") {
				out.Exposes = append(out.Exposes, "dust")
			}
		}
		for _, s := range list {
			food := s.Code == "latex" || slices.Contains(s.Of, "food") || s.Code == "gelatin"
			if food && has(s.Code) && !slices.Contains(out.Allergens, s.Name) {
				out.Allergens = append(out.Allergens, s.Name)
			}
		}
		if p.Stains != "" && (out.Stains == "" || p.Stains == "strong") {
			out.Stains = p.Stains
		}
	}
	judge(makes)
	if r.reacts() && out.Touch == Off && (makes.IsSilicone() || makes.Family == material.FoamLatex || makes.Family == material.FoamPolyurethane) {
		out.TouchWhy = "Once it has set, the rules of its section say where the piece may go."
	}
	confirm["gloves"] = "Nitrile gloves on, no latex ones."
	if r.Edible {
		confirm["gloves"] = "Clean hands or fresh gloves."
		confirm["food_only"] = "Pot, spoon and scale pan are used for food only."
	}
	for _, s := range r.Steps {
		out.Heat = max(out.Heat, s.TempC)
	}
	if len(out.Exposes) == 0 && !r.Edible { // nothing is in the air: said, not asked
		out.Cautions = append(out.Cautions, confirm["gloves"])
		clear(confirm)
	}
	for _, code := range []string{"trained", "respirator", "extraction", "air", "mask", "gloves", "no_flame", "food_only"} {
		if text, wanted := confirm[code]; wanted {
			out.Confirm = append(out.Confirm, Need{code, text})
		}
	}
	if r.Clock == CureTime && makes.Family == material.SiliconeAddition {
		out.Near = append(out.Near, "latex gloves, sulphur clay, tin-cured rubber, fresh epoxy: they stop it curing")
	}
	if makes.IsLatex() {
		out.Near = append(out.Near, "copper, brass and mineral oil: they rot it")
	}
	return out
}

func nameOf(list substance.List, code string) string {
	s, _ := list.Find(code)
	return s.Name
}

// Difference is one thing that another version has otherwise.
type Difference struct {
	What string `json:"what"`
	Was  string `json:"was"`
	Is   string `json:"is"`
}

// Differences between two versions.
func Differences(was, is Recipe, shelf material.Shelf) []Difference {
	out := []Difference{}
	note := func(what, a, b string) {
		if a != b {
			out = append(out, Difference{what, a, b})
		}
	}
	amount := func(l Line, known bool) string {
		switch {
		case !known:
			return "none"
		case l.TopUp:
			return "topped up"
		case l.Parts > 0:
			return fmt.Sprintf("%g parts", l.Parts)
		case l.Of == "" || l.Of == mix.OfParts:
			return fmt.Sprintf("%g %% of the parts", l.Percent)
		}
		return fmt.Sprintf("%g %% of the %s", l.Percent, l.Of)
	}
	for _, list := range [][]Line{is.Lines, was.Lines} {
		for _, l := range list {
			a, hadA := was.Of(l.ID)
			b, hadB := is.Of(l.ID)
			name := shelf[l.Material].Name
			if l.Kit != "" {
				name += ", part " + l.Kit
			}
			if !slices.ContainsFunc(out, func(d Difference) bool { return d.What == name }) {
				note(name, amount(a, hadA), amount(b, hadB))
			}
		}
	}
	note("name", was.Name, is.Name)
	note("makes", shelf[was.Makes].Name, shelf[is.Makes].Name)
	note("steps", steps(was), steps(is))
	note("rise", fmt.Sprintf("%g", was.Rise), fmt.Sprintf("%g", is.Rise))
	note("keeps", fmt.Sprintf("%g h", was.KeepH), fmt.Sprintf("%g h", is.KeepH))
	note("pot life", fmt.Sprintf("%g s", was.PotS), fmt.Sprintf("%g s", is.PotS))
	return out
}

func steps(r Recipe) string {
	out := ""
	for _, s := range r.Steps {
		if s.Act == Weigh {
			continue
		}
		if out != "" {
			out += ", "
		}
		out += string(s.Act)
		if s.Seconds > 0 {
			out += fmt.Sprintf(" %g s", s.Seconds)
		}
		if s.TempC > 0 {
			out += fmt.Sprintf(" %g °C", s.TempC)
		}
		if s.Speed != "" {
			out += " " + s.Speed
		}
	}
	return out
}
