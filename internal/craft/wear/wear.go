// Package wear says what follows from how a piece is worn: how well each
// region must be finished, how often the wearer is asked and cooled, and how
// they get out. It gives the usual cautions of the trade and of published
// guidance on heat; it clears nobody for anything. Whoever feels unwell stops,
// and questions of health go to licensed professionals.
package wear

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/wearmap"
)

// Exertions, from sitting for a portrait to fighting.
var Exertions = []string{"still", "acting", "walking", "running"}

// Day is the air of one shooting day.
type Day struct {
	Name  string
	TempC float64
	RH    float64 // 0…1
	Sun   bool
	Rain  bool
	Lamps bool // tungsten, which warms what it lights
}

// Wetter is the brief's water with the weather of its days: a rainy day rains on what
// was to stay dry.
func Wetter(water string, days []Day) string {
	if (water == "" || water == "none" || water == "splashed") && slices.ContainsFunc(days, func(d Day) bool { return d.Rain }) {
		return "rained on"
	}
	return water
}

// Conditions are how a piece is worn.
type Conditions struct {
	Hours    float64
	Camera   string // close, medium, far
	Backdrop string // dark, plain, busy
	Exertion string // one of Exertions
	Days     []Day
	// Limits are the wearer's own, by kind: hours worn at a stretch, heat as a
	// wet-bulb globe temperature in °C; sight, hearing, breathing and mouth are
	// there when nothing may be taken from them, whatever the amount.
	Limits map[string]float64
	WayOut WayOut
}

// WayOut is how the wearer gets out of it.
type WayOut struct {
	Closure string  `json:"closure,omitempty" maxLength:"120" doc:"zip at the back, magnets, peeled off"`
	Minutes float64 `json:"minutes,omitempty" minimum:"0" maximum:"600"`
	Helpers int     `json:"helpers,omitempty" minimum:"0" maximum:"20"`
}

// Grade is how well one region must be finished.
type Grade struct {
	Region string  `json:"region"`
	Text   string  `json:"text"`
	Side   string  `json:"side"`
	CM2    float64 `json:"cm2"`
	Grade  string  `json:"grade" enum:"full,good,plain,hidden"`
	Why    string  `json:"why"`
	HoursH float64 `json:"hours" doc:"sculpt, colour and edge together, to begin with"`
	SavedH float64 `json:"saved_hours" doc:"against full finish all over"`
}

// Plan is what follows.
type Plan struct {
	Grades []Grade `json:"grades"`
	HoursH float64 `json:"hours"`
	SavedH float64 `json:"saved_hours"`
	// CheckInMin is how often somebody asks the wearer, in minutes.
	CheckInMin int `json:"check_in_min"`
	// CoolMin of every hour are spent open, in the shade.
	CoolMin int `json:"cool_min"`
	// HeatC is the heat felt on the worst day, as a wet-bulb globe temperature
	// with what the pieces add; LimitC is what this exertion allows.
	HeatC    float64  `json:"heat_c"`
	LimitC   float64  `json:"limit_c"`
	WorstDay string   `json:"worst_day"`
	MaxHours float64  `json:"max_hours" doc:"worn at a stretch; 0 says nothing limits it"`
	Why      []string `json:"why"`
	// Findings are cautions; ids are the rule book's.
	Findings []wearmap.Finding `json:"findings"`
}

// minutesPerCM2 is what a square centimetre takes in sculpt, colour and edge.
// Our own starting values; the hours that are written down beside them tell
// what a shop really needs.
var minutesPerCM2 = map[string]float64{"full": 2.4, "good": 1.5, "plain": 0.8, "hidden": 0.25}

// gradeOf is what a camera sees at its distance.
var gradeOf = map[string]string{"close": "full", "medium": "good", "far": "plain"}

// GradeOf is the finish grade that a camera asks for: full close, good at medium distance,
// plain far away.
func GradeOf(camera string) string {
	if g, known := gradeOf[camera]; known {
		return g
	}
	return "full"
}

// hiddenFrom is the share of a region under costume from which it is hidden.
const hiddenFrom = 0.9

// Grades says for each region how well it must be finished.
func Grades(c Conditions, shares []wearmap.Share) []Grade {
	list := []Grade{}
	for _, s := range shares {
		g := Grade{Region: s.Region, Text: s.Text, Side: s.Side, CM2: s.CM2, Grade: gradeOf[c.Camera], Why: "bare, the camera comes " + map[string]string{"close": "close", "medium": "to medium", "far": "no nearer than far"}[c.Camera]}
		switch {
		case s.MovingCM2 > 0.05*s.CM2:
			g.Why = "the edge of a costume wanders over it: what lies under the edge shows now and then"
		case s.CoveredCM2 >= hiddenFrom*s.CM2:
			g.Grade, g.Why = "hidden", "costume, hair or a prop hides it"
		case c.Backdrop == "dark" && g.Grade == "good":
			g.Grade, g.Why = "plain", "a dark backdrop swallows what medium distance would show"
		}
		g.HoursH = hours(s.CM2, g.Grade)
		g.SavedH = round(hours(s.CM2, "full")-g.HoursH, 10)
		list = append(list, g)
	}
	return list
}

func hours(cm2 float64, grade string) float64 { return round(cm2*minutesPerCM2[grade]/60, 10) }

func round(x, per float64) float64 { return math.Round(x*per) / per }

// WetBulb is the wet-bulb temperature in °C at sea level for air of tempC and
// rh (0.05…0.99), by Stull (2011); good to about 0.7 K between −20 and 50 °C.
func WetBulb(tempC, rh float64) float64 {
	p := 100 * math.Max(0.05, math.Min(0.99, rh))
	return tempC*math.Atan(0.151977*math.Sqrt(p+8.313659)) + math.Atan(tempC+p) - math.Atan(p-1.676331) + 0.00391838*math.Pow(p, 1.5)*math.Atan(0.023101*p) - 4.686035
}

// Heat is the wet-bulb globe temperature of a day in °C. In the shade or on a
// set it is 0.7·wet bulb + 0.3·air; in the sun the simplified outdoor form with
// the water vapour's pressure is used.
func Heat(d Day) float64 {
	if !d.Sun {
		return 0.7*WetBulb(d.TempC, d.RH) + 0.3*d.TempC
	}
	e := d.RH * 6.105 * math.Exp(17.27*d.TempC/(237.7+d.TempC))
	return 0.567*d.TempC + 0.393*e + 3.94
}

// limitC are reference values of wet-bulb globe temperature for people who are
// not used to heat, by how hard they work (metabolic classes 0 to 3).
var limitC = map[string]float64{"still": 32, "acting": 29, "walking": 26, "running": 23}

// addedC is what pieces add to the heat felt: 3 K for 4000 cm² of skin that
// cannot sweat, in proportion and at most twice that. Our own default.
func addedC(wornCM2 float64) float64 { return 3 * math.Min(2, wornCM2/4000) }

// Work says what follows from conditions and map. Hours 0 is not worn long.
func Work(c Conditions, m wearmap.Result) Plan {
	p := Plan{Grades: []Grade{}, CheckInMin: 60, LimitC: limitC[c.Exertion], Why: []string{}, Findings: []wearmap.Finding{}}
	for _, a := range m.Areas {
		p.Grades = append(p.Grades, Grades(c, a.Shares)...)
	}
	for _, g := range p.Grades {
		p.HoursH, p.SavedH = p.HoursH+g.HoursH, p.SavedH+g.SavedH
	}
	p.HoursH, p.SavedH = round(p.HoursH, 10), round(p.SavedH, 10)
	ask := func(minutes int, why string) {
		p.CheckInMin = min(p.CheckInMin, minutes)
		p.Why = append(p.Why, why)
	}
	if m.Sight == "none" {
		ask(15, "the wearer sees nothing: asked every 15 minutes, worn half an hour at a stretch")
		p.MaxHours = 0.5
	} else if m.Sight != "both" {
		ask(30, "one eye is covered: asked every half hour")
	}
	if m.Hearing != "both" {
		ask(30, "hearing is reduced: asked every half hour, by touch or sign")
	}
	if m.Breath != "nose and mouth" {
		ask(20, "breath goes through the "+m.Breath+" only: asked every 20 minutes")
	}
	p.heat(c, m.WornCM2, ask)
	if own := c.Limits["hours"]; own > 0 && (p.MaxHours == 0 || own < p.MaxHours) {
		p.MaxHours = own
	}
	p.judge(c, m)
	return p
}

func (p *Plan) heat(c Conditions, wornCM2 float64, ask func(int, string)) {
	if own := c.Limits["heat"]; own > 0 {
		p.LimitC = math.Min(p.LimitC, own)
	}
	p.HeatC = math.Inf(-1)
	var worst Day
	for _, d := range c.Days {
		if h := Heat(d) + addedC(wornCM2); h > p.HeatC {
			p.HeatC, worst = h, d
		}
		if d.TempC < 6 && d.Rain {
			ask(30, fmt.Sprintf("%s is cold and wet: asked every half hour, a warm dry place near", d.Name))
		}
	}
	if len(c.Days) == 0 {
		p.HeatC = 0
		return
	}
	p.HeatC, p.WorstDay = round(p.HeatC, 10), worst.Name
	over := p.HeatC - p.LimitC
	if over <= 0 {
		return
	}
	// The usual ladder of work and rest: a quarter of an hour more for each
	// kelvin above.
	p.CoolMin = min(45, 15*int(math.Ceil(over)))
	ask(20, fmt.Sprintf("%s: %.1f °C felt, %.0f °C is usual for %s: %d minutes of each hour open and cool", worst.Name, p.HeatC, p.LimitC, c.Exertion, p.CoolMin))
}

func (p *Plan) judge(c Conditions, m wearmap.Result) {
	say := func(id, severity, remedy, reason string, args ...any) {
		p.Findings = append(p.Findings, wearmap.Finding{ID: id, Severity: severity, Reason: fmt.Sprintf(reason, args...), Remedy: remedy})
	}
	if over := p.HeatC - p.LimitC; len(c.Days) > 0 && over > 3 {
		say("SAF-6", "stop", "Shoot it in the cool of the day, make it smaller or lighter, or split the scene. A lead signs only with a plan for cooling and somebody who may stop it.", "%s is %.0f K hotter than is usual for %s in this.", p.WorstDay, over, c.Exertion)
	} else if p.CoolMin > 0 {
		say("SAF-6", "warn", "Plan the cooling into the day; keep the closures within reach.", "%s asks for %d minutes of cooling in each hour.", p.WorstDay, p.CoolMin)
	}
	if p.MaxHours > 0 && c.Hours > p.MaxHours {
		say("SAF-6", "warn", "Take it off between, or split it into pieces that come off on their own.", "Wanted for %g h; worn at most %g h at a stretch.", c.Hours, p.MaxHours)
	}
	for kind, taken := range map[string]bool{"sight": m.Sight != "both", "hearing": m.Hearing != "both", "breathing": m.Breath != "nose and mouth", "mouth": m.Breath == "nose" || m.Breath == "none"} {
		if _, own := c.Limits[kind]; own && taken {
			id := map[string]string{"sight": "SAF-5", "hearing": "SAF-5"}[kind]
			if id == "" {
				id = "SAF-4"
			}
			say(id, "stop", "Redraw it so that nothing is taken, or ask the wearer and, where it is a question of health, licensed advice.", "Nothing may be taken from this wearer's %s, and the piece takes some of it.", kind)
		}
	}
	slices.SortFunc(p.Findings, func(a, b wearmap.Finding) int { return strings.Compare(a.ID+a.Reason, b.ID+b.Reason) })
	restricted := m.Sight == "none" || m.Breath != "nose and mouth" || p.CoolMin > 0
	switch {
	case restricted && c.WayOut.Closure == "":
		say("MAP-4", "stop", "Say how the wearer gets out, in how many minutes and with whose help.", "It restricts the wearer and no quick way out is written down.")
	case restricted && c.WayOut.Minutes > 2:
		say("MAP-4", "warn", "Add a closure or a cut that opens it in two minutes.", "It takes %g minutes to get out.", c.WayOut.Minutes)
	}
}
