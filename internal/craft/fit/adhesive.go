package fit

import (
	"math"
	"slices"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

// Families are what is glued; Zones where on a wearer; Allergens what an adhesive may hold.
var (
	Families  = []string{"encapsulated", "silicone", "gelatin", "plant_gel", "foam_latex", "latex", "paste", "wax", "hair", "cap", "hard", "lash", "found"}
	Zones     = []string{"face", "mouth", "eye", "scalp", "body", "hand"}
	Allergens = []string{"latex", "acrylate", "rosin"}
)

// Choice is what an adhesive is chosen for.
type Choice struct {
	Family    string
	Zone      string
	Hours     float64
	Strain    float64
	Allergies []string
	Sensitive bool
	Strength  int
}

// UsualStrain is how far a family stretches where nobody says it.
func UsualStrain(family string) float64 {
	if family == "hair" {
		return 0.05
	}
	return 0.1
}

// Chosen is which adhesives hold, and why the others are refused.
type Chosen struct {
	OK       []string            `json:"ok"`
	Refused  map[string]string   `json:"refused"`
	Removers map[string][]string `json:"removers"`
	PLast    map[string]float64  `json:"p_last"`
	HoursMax map[string]float64  `json:"hours_max"`
	Warnings []string            `json:"warnings"`
}

// Choose says which adhesives hold a piece. It clears no allergy.
func Choose(c Choice) Chosen {
	out := Chosen{OK: []string{}, Refused: map[string]string{}, Removers: map[string][]string{}, PLast: map[string]float64{}, HoursMax: map[string]float64{}, Warnings: []string{}}
	for _, a := range glues.Adhesives {
		if why := c.refuses(a); why != "" {
			out.Refused[a.ID] = why
			continue
		}
		out.OK = append(out.OK, a.ID)
		out.Removers[a.ID] = a.Removers
		part := Part{Adhesive: a.ID, EdgeMM: UsualEdgeMM, Strain: c.Strain, Prep: true, InWindow: true, Mouth: c.Zone == "mouth"}
		out.PLast[a.ID] = survival(a, part.own(a)*c.Hours*rate(a, UsualDay()))
		out.HoursMax[a.ID] = a.HoursMax
	}
	if c.Zone == "eye" && len(out.OK) > 0 {
		out.Warnings = append(out.Warnings, "eyes_shut")
	}
	if c.Hours > longWearH {
		out.Warnings = append(out.Warnings, "long_wear")
	}
	return out
}

// refuses is the first reason against an adhesive, "" for none.
func (c Choice) refuses(a Adhesive) string {
	there := slices.Contains(a.ZoneFamilies[c.Zone], c.Family)
	switch {
	case slices.Contains(c.Allergies, "latex") && slices.Contains(glues.LatexFamilies, c.Family):
		return "latex"
	case !a.OnSkin:
		return "not_on_skin"
	case !there && !slices.Contains(a.Families, c.Family):
		return "family"
	case slices.ContainsFunc(a.Allergens, func(s string) bool { return slices.Contains(c.Allergies, s) }):
		return "allergy"
	case !there && slices.Contains(a.NotZones, c.Zone):
		return "zone"
	case c.Sensitive && a.Skin == "harsh":
		return "skin"
	case c.Strain > a.StrainMax+1e-9:
		return "strain"
	case c.Hours > a.HoursMax+1e-9:
		return "hours"
	case a.Strength < c.Strength:
		return "strength"
	}
	return ""
}

// Coat is one coat of an adhesive on skin, in a room.
type Coat struct {
	Adhesive string
	State    string // wet, clear, tacky, dry
	RoomC    float64
	RH       float64
	Air      string // still, fan, cool_dryer
	CoatMM   float64
	Given    *[2]float64 // earliest and latest in s, where the product says them
}

// Window is when a coat grips.
type Window struct {
	State    string   `json:"state"`
	Rate     float64  `json:"rate" doc:"how fast it dries against 21 °C, 50 %, still air"`
	Earliest float64  `json:"earliest_s"`
	Latest   float64  `json:"latest_s"`
	MoveS    float64  `json:"move_s" doc:"for how long it may still be shifted"`
	PressS   float64  `json:"press_s"`
	Warnings []string `json:"warnings"`
}

// slow is under which a window is narrow, in s.
const narrowS = 60

// WindowOf is when a coat grips. Refusals: contradiction at state, never_dries at rh.
func WindowOf(c Coat) (Window, error) {
	a, known := AdhesiveOf(c.Adhesive)
	if !known {
		return Window{}, refusal.New(refusal.UnknownValue, "adhesive", "No adhesive %s is known.", c.Adhesive)
	}
	if !slices.Contains(a.States, c.State) {
		return Window{}, refusal.New(refusal.Contradiction, "state", "%s is not fitted %s.", a.Name, c.State)
	}
	pace := drying.SkinPace(a.Law, c.Air, c.RoomC, c.RH)
	var early, late float64
	switch {
	case c.Given != nil:
		early, late = c.Given[0], c.Given[1]
	case pace <= 0:
		return Window{}, refusal.New(refusal.NeverDries, "rh", "In this air the adhesive does not dry: it would take up water.")
	default:
		slow := 1 / pace
		if a.Law != "none" {
			slow *= c.CoatMM / a.CoatMM
		}
		early = a.EarlyS * slow
		late = early + a.CloseS
		if a.Close == "dry" {
			late = a.CloseS * slow
		}
	}
	out := Window{State: c.State, Rate: pace, PressS: a.PressS, Warnings: []string{}}
	switch {
	case c.State == "wet":
		out.Latest, out.MoveS = 0.6*early, 0.6*early
	case c.State == "dry" && a.States[0] != "dry":
		out.Earliest, out.Latest = math.Min(2*early, late), late
	default:
		out.Earliest, out.Latest, out.MoveS = early, late, a.MoveS
	}
	for word, is := range map[string]bool{"humid": a.Law == "water" && c.RH > 0.8, "narrow": out.Latest-out.Earliest < narrowS,
		"not_on_skin": !a.OnSkin, "flammable": a.Flammable} {
		if is {
			out.Warnings = append(out.Warnings, word)
		}
	}
	slices.Sort(out.Warnings)
	return out, nil
}

// Spread is where an adhesive is laid on.
type Spread struct {
	Adhesive  string
	AreaCM2   float64
	Faces     int
	DoubleCM2 float64 // of it, where a second coat goes on
	RimCM     float64 // rim that takes a coat more, 1 cm wide
	CoatMM    float64
	Waste     float64
}

// Glue is how much adhesive that takes and how long pressing lasts.
type Glue struct {
	GCM2     float64 `json:"g_cm2"`
	Grams    float64 `json:"grams"`
	ML       float64 `json:"ml"`
	Presses  int     `json:"presses"`
	PressMin float64 `json:"press_min"`
}

// handCM2 is what a hand presses at once.
const handCM2 = 20

// UsualWaste is how much more adhesive is taken than lands on skin.
const UsualWaste = 0.3

// NeedOf is how much adhesive a spread takes.
func NeedOf(s Spread) Glue {
	a, _ := AdhesiveOf(s.Adhesive)
	per := s.CoatMM / 10 * a.Density
	g := (float64(s.Faces)*(s.AreaCM2+s.DoubleCM2) + s.RimCM) * per * (1 + s.Waste)
	presses := up(s.AreaCM2 / handCM2)
	return Glue{per, g, g / a.Density, presses, float64(presses) * a.PressS / 60}
}

// up rounds up, but for rounding noise.
func up(x float64) int { return int(math.Ceil(x - 1e-9)) }
