package advise

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/craft/wax"
)

// Sweat by exertion, kg/(m² h).
var sweatKgM2H = map[string]float64{"still": 0.03, "acting": 0.05, "walking": 0.15, "running": 0.3}

// gelatinMargin is how many K are left before a gelatin softens on the wearer.
func gelatinMargin(base gelatin.Recipe, c Case) float64 {
	w := gelatin.AsWorn(c.HottestC)
	w.ThicknessM = math.Max(5e-4, c.HeightMM/1000)
	if c.WearHours > 0 {
		w.Hours = c.WearHours
	}
	w.SweatKgM2H = sweatKgM2H[c.Exertion]
	w.RadiantWM2 = c.RadiantWM2
	return base.Softening(w).MarginK
}

func waxMargin(firmness string, c Case) float64 {
	w := wax.AsWorn(math.Min(0.08, math.Max(5e-4, c.HeightMM/1000)), c.HottestC)
	w.RadiantWM2 = c.RadiantWM2
	return wax.Kinds[firmness].Holding(w).MarginK
}

// Turn is a change of one condition that turns the advice round.
type Turn struct {
	Condition string  `json:"condition" doc:"the entry that changes"`
	From      string  `json:"from" doc:"as it stands"`
	At        string  `json:"at" doc:"where it turns"`
	Value     float64 `json:"value" doc:"the same as a number; 0 for a switch"`
	Was       string  `json:"was" doc:"the method that leads now"`
	Becomes   string  `json:"becomes" doc:"the method that leads then; empty when none is free"`
	Text      string  `json:"text"`
}

// dial is a condition that can be turned up and down.
type dial struct {
	name, unit string
	low, high  float64
	get        func(Case) float64
	set        func(*Case, float64)
	known      func(Case) bool
}

var always = func(Case) bool { return true }

var dials = []dial{
	{"hours worn", "h", 0.5, 16, func(c Case) float64 { return c.WearHours }, func(c *Case, x float64) { c.WearHours = x }, always},
	{"heat of the hottest day", "°C", -10, 45, func(c Case) float64 { return c.HottestC }, func(c *Case, x float64) { c.HottestC = x }, always},
	{"days worn", "", 1, 60, func(c Case) float64 { return float64(c.Days) }, func(c *Case, x float64) { c.Days = int(math.Round(x)) }, func(c Case) bool { return c.Days > 0 }},
	{"days until it is worn", "", 0, 60, func(c Case) float64 { return c.LeadDays }, func(c *Case, x float64) { c.LeadDays = x }, func(c Case) bool { return c.HasLead }},
	{"mass still free", "g", 10, 5000, func(c Case) float64 { return c.CarryG }, func(c *Case, x float64) { c.CarryG = x }, func(c Case) bool { return c.CarryG > 0 }},
	{"budget", "", 500, 200000, func(c Case) float64 { return float64(c.BudgetMin) }, func(c *Case, x float64) { c.BudgetMin = int64(math.Round(x)) }, func(c Case) bool { return c.BudgetMin > 0 }},
}

// switches are conditions that are one thing or another.
var switches = []struct {
	name string
	get  func(Case) string
	to   []string
	set  func(*Case, string)
}{
	{"camera", func(c Case) string { return c.Camera }, []string{"close", "medium", "far"}, func(c *Case, v string) { c.Camera = v }},
	{"water", func(c Case) string { return c.Water }, []string{"none", "splashed", "rained on", "under water"}, func(c *Case, v string) { c.Water = v }},
	{"exertion", func(c Case) string { return c.Exertion }, []string{"still", "acting", "walking", "running"}, func(c *Case, v string) { c.Exertion = v }},
	{"movement", func(c Case) string { return word(c.MovesMuch, "moves much", "moves little") }, []string{"moves much", "moves little"}, func(c *Case, v string) { c.MovesMuch = v == "moves much" }},
	{"latex", func(c Case) string { return word(speaks(c, "latex"), "refused", "allowed") }, []string{"refused", "allowed"}, func(c *Case, v string) {
		turn(c, v == "refused", substance.Fact{Code: "latex", Status: substance.Allergic})
	}},
	{"animal material", func(c Case) string { return word(speaks(c, "animal"), "excluded", "allowed") }, []string{"excluded", "allowed"}, func(c *Case, v string) {
		turn(c, v == "excluded", substance.Fact{Code: "animal", Status: substance.Excludes})
	}},
}

// speaks says whether a fact about a substance stands in a case and holds back.
func speaks(c Case, code string) bool {
	return slices.ContainsFunc(c.Facts, func(f substance.Fact) bool { return f.Code == code && f.Speaks() })
}

// turn puts a fact into a case, or takes those about its substance out.
func turn(c *Case, in bool, fact substance.Fact) {
	c.Facts = slices.DeleteFunc(slices.Clone(c.Facts), func(f substance.Fact) bool { return f.Code == fact.Code })
	if in {
		c.Facts = append(c.Facts, fact)
	}
}

func word(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

// steps is in how many steps a dial is turned through its range on each side.
const steps = 12

// Turns says which change of one condition lets another method lead, and at
// which value. A method that is barred never leads.
func (a Advisor) Turns(c Case) []Turn {
	builds := a.build(c)
	leads := func(c Case) lead { slug, name := a.leader(&c, builds); return lead{slug, name} }
	now := leads(c)
	out := []Turn{}
	for _, d := range dials {
		if !d.known(c) {
			continue
		}
		at := d.get(c)
		for _, end := range []float64{d.low, d.high} {
			last := at
			for i := 1; i <= steps; i++ {
				k := c
				x := at + (end-at)*float64(i)/steps
				d.set(&k, x)
				if leads(k).slug == now.slug {
					last = x
					continue
				}
				for range 12 { // to a four-thousandth of a step
					mid := (last + x) / 2
					d.set(&k, mid)
					if leads(k).slug == now.slug {
						last = mid
					} else {
						x = mid
					}
				}
				d.set(&k, x)
				then := leads(k)
				out = append(out, Turn{Condition: d.name, From: say(d, at), At: say(d, x), Value: x, Was: now.name, Becomes: then.name, Text: turned(then, now, fmt.Sprintf("%s %s or %s", d.name, say(d, x), word(x > at, "more", "less")))})
				break
			}
		}
	}
	for _, s := range switches {
		for _, v := range s.to {
			if v == s.get(c) {
				continue
			}
			k := c
			s.set(&k, v)
			at := builds
			if !slices.Equal(k.Facts, c.Facts) { // what the products meet has changed
				at = a.build(k)
			}
			slug, name := a.leader(&k, at)
			if then := (lead{slug, name}); then.slug != now.slug {
				out = append(out, Turn{Condition: s.name, From: s.get(c), At: v, Was: now.name, Becomes: then.name, Text: turned(then, now, s.name+" "+v)})
			}
		}
	}
	return out
}

func say(d dial, x float64) string {
	text := fmt.Sprintf("%.1f", x)
	if d.name == "budget" {
		return fmt.Sprintf("%.2f", x/100)
	}
	if math.Abs(x) >= 20 || d.name == "days worn" {
		text = fmt.Sprintf("%.0f", x)
	}
	if d.unit != "" {
		text += " " + d.unit
	}
	return text
}

type lead struct{ slug, name string }

func turned(then, now lead, at string) string {
	switch {
	case then.slug == "":
		return "At " + at + " no method is free of a stop."
	case now.slug == "":
		return "At " + at + " " + then.name + " becomes free."
	}
	return "At " + at + " " + then.name + " leads."
}
