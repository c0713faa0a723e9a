// Package advise ranks the methods of the craft for a brief. Each criterion
// gives a score and a sentence that says why and from which entry of the brief;
// what nobody may sign away, and what a lead would have to sign, stands apart
// and is never averaged. It also says what would turn the advice round. The
// figures of the methods are common practice (methods.json), not measurements.
package advise

import (
	_ "embed"
	"encoding/json"
	"math"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
)

// Figures are what common practice says of a method, 0 poor to 1 best.
type Figures struct {
	Slug        string   `json:"slug"`
	Moves       float64  `json:"moves"`
	Translucent float64  `json:"translucent"`
	EdgeMM      float64  `json:"edge_mm" doc:"edge that a good hand gets"`
	Breathes    float64  `json:"breathes"`
	Water       float64  `json:"water"`
	HeatC       float64  `json:"heat_c" doc:"surface that it stands; 0 when it is worked out from its material"`
	Uses        float64  `json:"uses" doc:"how often one copy is worn"`
	LeadH       float64  `json:"lead_h" doc:"hours from the agreed sculpt or idea to the first piece, moulds and their drying among them"`
	MinMM       float64  `json:"min_mm,omitempty" doc:"thinner it cannot be made"`
	MaxMM       float64  `json:"max_mm" doc:"height that it reaches"`
	Hollow      bool     `json:"hollow,omitempty" doc:"a skin of its own thickness, whatever the height"`
	Skill       int      `json:"skill" doc:"1 apprentice, 2 fabricator, 3 practised"`
	OffMin      float64  `json:"off_min" doc:"minutes to take it off, 100 cm²"`
	Needs       []string `json:"needs"`
	OnSkin      bool     `json:"on_skin,omitempty"`
	Latex       bool     `json:"latex,omitempty"`
	Animal      bool     `json:"animal,omitempty"`
	Melts       string   `json:"melts,omitempty" doc:"material that softens in heat"`
}

//go:embed methods.json
var methodsJSON []byte

// All are the figures of every house method, in the order of section.Methods.
var All = func() []Figures {
	var list []Figures
	if err := json.Unmarshal(methodsJSON, &list); err != nil {
		panic("advise: methods.json: " + err.Error())
	}
	return list
}()

// Equipment is what a shop may have or lack, in plain words.
var Equipment = []string{"oven", "mixer", "vacuum", "booth", "hot plate", "cold place", "mould room", "isocyanate room", "form"}

// Tried is how often a method was tried for the like, and how it went.
type Tried struct {
	Worked, Partly, Failed int
	Last                   string // the newest reason
}

// Case is what the advice looks at. Every entry but the last three stands in
// the brief or around it.
type Case struct {
	Region     string // in words
	MovesMuch  bool
	Camera     string  // close, medium, far
	Beyond     int     // how far beyond the natural, 0 to 4
	HeightMM   float64 // at the centre
	AreaCM2    float64
	WearHours  float64
	HottestC   float64
	HottestOn  string
	RadiantWM2 float64 // sun or lamps, absorbed
	Water      string  // none, splashed, rained on, under water
	Exertion   string  // still, acting, walking, running
	Days       int     // on which it is worn
	Copies     int
	LeadDays   float64 // until the first of them; 0 and no days: not known
	HasLead    bool
	BudgetMin  int64            // hundredths for all copies; 0 for no limit
	CarryG     float64          // mass still free within the wearer's limit; 0 when not known
	Facts      []substance.Fact // what the wearer may not take
	List       substance.List   // the shop's list of substances; the usual one when nil
	NearEyes   bool
	HairUnder  bool // hair that is not protected

	Has   []string // equipment of this shop
	Skill int      // of the best hand here
	Tried map[string]Tried
}

// Score is one criterion of one method.
type Score struct {
	Criterion string  `json:"criterion"`
	Entry     string  `json:"entry" doc:"entry of the brief that it comes from"`
	Score     float64 `json:"score" doc:"0 poor to 1 best"`
	Weight    float64 `json:"weight"`
	Text      string  `json:"text"`
}

// Bar is what holds a method back, apart from any score.
type Bar struct {
	Severity string `json:"severity" enum:"never,stop"`
	ID       string `json:"id" doc:"the rule"`
	Entry    string `json:"entry"`
	Text     string `json:"text"`
}

// Advice is one method as it stands for a case.
type Advice struct {
	Slug   string          `json:"slug"`
	Name   string          `json:"name"`
	Text   string          `json:"text"`
	Family material.Family `json:"family"`
	Rank   int             `json:"rank" doc:"1 first; barred methods come last"`
	Score  float64         `json:"score" doc:"0 to 100, weighted mean of its criteria"`
	Bars   []Bar           `json:"bars" doc:"never and stop, never averaged away"`
	Scores []Score         `json:"scores"`
	// What the house section of this method gives at this area and height.
	MassG  float64 `json:"mass_g"`
	HandsS float64 `json:"hands_s"`
	WaitS  float64 `json:"wait_s"`
	Minor  int64   `json:"cost_minor" doc:"materials of one copy"`
	Layers int     `json:"layers" doc:"coats or bodies that build the height"`
}

// made is what the house section of a method gives, worked out once.
type made struct {
	massG, handsS, waitS float64
	minor                int64
	layers               int
	edgeMM               float64 // that the house section begins with
	met                  []met
}

// met is a product of the house section that meets a fact of the wearer.
type met struct {
	product material.Product
	body    bool // it makes the piece; glue and colour can be others
	substance.Meeting
}

// Advisor ranks for one shop: its shelf and its air.
type Advisor struct {
	shelf material.Shelf
	room  section.Room
}

// New makes an advisor.
func New(shelf material.Shelf, room section.Room) Advisor { return Advisor{shelf, room} }

// build works the house sections out at the height and area of a case.
func (a Advisor) build(c Case) []made {
	out := make([]made, len(All))
	for i, f := range All {
		s, ok := section.House(f.Slug, math.Max(0.5, c.AreaCM2), math.Min(c.HeightMM, f.MaxMM), a.shelf)
		if !ok {
			continue
		}
		r := s.Work(a.shelf, a.room)
		m := made{massG: r.WornG, handsS: r.HandsS, waitS: r.WaitingS, minor: r.Minor, edgeMM: r.EdgeMM, met: a.meets(c, s)}
		for _, l := range s.Layers {
			if !l.Kind.IsAppliance() || l.Kind == section.Encapsulator {
				continue
			}
			m.layers += max(1, l.Coats)
		}
		out[i] = m
	}
	return out
}

// meets are the products of a section that speak against themselves for the
// wearer of a case, each once, what makes the piece first.
func (a Advisor) meets(c Case, s section.Section) []met {
	if len(c.Facts) == 0 {
		return nil
	}
	list := c.List
	if list == nil {
		list = substance.Usual
	}
	var out []met
	seen := map[string]bool{}
	for _, body := range []bool{true, false} {
		for _, l := range s.Layers {
			for _, slug := range l.Products() {
				p, known := a.shelf[slug]
				if !known || seen[slug] || body != (l.Kind.IsAppliance() && l.Kind != section.Encapsulator) {
					continue
				}
				seen[slug] = true
				for _, m := range substance.Meets(list, c.Facts, p.Holds()) {
					out = append(out, met{p, body, m})
				}
			}
		}
	}
	return out
}

// Rank ranks every method, best first.
func (a Advisor) Rank(c Case) []Advice {
	builds := a.build(c)
	list := make([]Advice, 0, len(All))
	for i, f := range All {
		m := section.Methods[i]
		b := builds[i]
		j := judge{Case: c, f: f, b: b, a: a, bars: []Bar{}}
		j.all()
		adv := Advice{Slug: f.Slug, Name: m.Name, Text: m.Text, Family: m.Family, Bars: j.bars, Scores: j.scores, MassG: b.massG, HandsS: b.handsS, WaitS: b.waitS, Minor: b.minor, Layers: b.layers}
		adv.Score = j.score()
		list = append(list, adv)
	}
	slices.SortStableFunc(list, func(x, y Advice) int {
		if d := x.class() - y.class(); d != 0 {
			return d
		}
		switch {
		case x.Score > y.Score:
			return -1
		case x.Score < y.Score:
			return 1
		}
		return 0
	})
	for i := range list {
		list[i].Rank = i + 1
	}
	return list
}

// score is the weighted mean, 0 to 100, to a tenth.
func (j *judge) score() float64 { return math.Round(1000*j.sum/j.weights) / 10 }

// leader is the name of the method that leads: the best of those that nothing
// bars; empty when all are barred. No words are made on the way.
func (a Advisor) leader(c *Case, builds []made) (slug, name string) {
	best := -1.0
	for i, f := range All {
		j := judge{Case: *c, f: f, b: builds[i], a: a, quiet: true}
		j.all()
		if s := j.score(); !j.barred && s > best {
			best, slug, name = s, f.Slug, section.Methods[i].Name
		}
	}
	return slug, name
}

// class puts what is barred behind what is not: 0 free, 1 stop, 2 never.
func (a Advice) class() int {
	class := 0
	for _, b := range a.Bars {
		class = max(class, map[string]int{"stop": 1, "never": 2}[b.Severity])
	}
	return class
}
