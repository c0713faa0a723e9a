// Package rules raises the findings of the craft on a section, its wearer and
// its brief: a book of rules (id, severity, words) with a small predicate each.
// It only speaks; what may go on in spite of a finding is decided by the person
// and the severity. Every caution defers to safety data sheets, local codes
// and, for people's health, to licensed professionals.
package rules

import (
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
)

// Severity of a finding.
type Severity string

// Severities: a never cannot be signed away, a stop can by a lead with a
// reason, a warn and a tip are advice.
const (
	Never Severity = "never"
	Stop  Severity = "stop"
	Warn  Severity = "warn"
	Tip   Severity = "tip"
)

// Finding is what a rule says about one place of a section.
type Finding struct {
	ID       string   `json:"id"`
	Severity Severity `json:"severity" enum:"never,stop,warn,tip"`
	// Below and Above are layer ids: the knot sits on the line between them.
	// One alone means the layer itself; none means the piece or its edge.
	Cut     string `json:"cut,omitempty" doc:"id of the cut; empty for the first and for the piece"`
	Below   string `json:"below,omitempty"`
	Above   string `json:"above,omitempty"`
	AtEdge  bool   `json:"at_edge,omitempty"`
	Reason  string `json:"reason"`
	Remedy  string `json:"remedy"`
	Settles string `json:"settles,omitempty" doc:"what would settle it"`
	// Product and Substance are what a data sheet has to be asked about, where one
	// would settle it.
	Product   string `json:"product,omitempty" doc:"slug of the material that it is about, where it is about one"`
	Substance string `json:"substance,omitempty" doc:"code of the substance"`
	// Instead are slugs of materials to take instead, best first.
	Instead []string `json:"instead,omitempty"`
	// Changes say what each of them does differently, in the same order.
	Changes []string `json:"changes,omitempty" doc:"what each alternative changes, in the order of instead"`
}

// At names the place of a finding, so that two findings of one rule are told
// apart and signed apart.
func (f Finding) At() string { return strings.Trim(f.Cut+"|"+f.Below+"|"+f.Above, "|") }

// Key tells two findings apart.
func (f Finding) Key() string { return f.ID + "@" + f.At() }

// Statuses of a sensitivity as the record says it.
const (
	Allergic  = substance.Allergic
	Sensitive = substance.Sensitive // and unclear
	Clear     = substance.Clear
)

// Results of a patch test.
const (
	PatchOpen     = "open"
	PatchClear    = "clear"
	PatchPositive = "positive"
)

// PatchTest is one patch test of the wearer. Days are counted from any common
// origin, so that the craft needs no clock.
type PatchTest struct {
	Material   string `json:"material"` // slug
	Result     string `json:"result"`
	ExpiresDay int    `json:"expires_day"`
}

// Wearer is what the rules need of a performer, and no more.
type Wearer struct {
	Known bool `json:"known"`
	// Facts are what the person may not take; positive patch tests and what they
	// exclude stand among them.
	Facts      []substance.Fact `json:"facts"`
	PatchTests []PatchTest      `json:"patch_tests"`
	Reactions  []Reaction       `json:"reactions,omitempty"`
	Today      int              `json:"today"`
	SkinL      float64          `json:"skin_l"` // lightness of the skin where it goes; 0 when not read
	LimitG     float64          `json:"limit_g"`
	Minor      *Minor           `json:"minor,omitempty"`
	// List is the shop's list of substances; the usual one when it is nil.
	List substance.List `json:"-"`
	// Discreet is set for whoever may not know the person's health: findings then
	// say what must not be used, and not why.
	Discreet bool `json:"-"`
}

// Reaction is a product that lay where skin reacted, on a day as it is written down. One that was closed by somebody
// still counts: closing clears nothing.
type Reaction struct {
	Material string `json:"material" db:"material"`
	Name     string `json:"name,omitempty" db:"name"`
	On       string `json:"on" db:"on"`
}

// Minor is what stands of a performer under age.
type Minor struct {
	Consent   bool    `json:"consent"` // a guardian's, to touch and glue, and in force
	Chaperone bool    `json:"chaperone"`
	LawHours  float64 `json:"law_hours"` // 0 when not said
	// Unmeasured are the measures of the part where it goes that nobody has taken.
	Unmeasured []string `json:"unmeasured"`
}

// Day is the air of one day on which the piece is worn.
type Day struct {
	Name      string
	TempC, RH float64
	Sun, Rain bool
	Lamps     bool // tungsten, which warms what it lights
}

// Share is how much of the piece lies on a region.
type Share struct {
	Region, Text    string
	CM2, CoveredCM2 float64
}

// Reach is how much of it lies in a keep-out.
type Reach struct {
	Zone string
	CM2  float64
}

// Hair is hair under the piece.
type Hair struct {
	Text, How, By string
	CM2           float64
}

// Neighbour is another piece of the same look.
type Neighbour struct {
	Code       string
	OverlapCM2 float64 // skin under both
	LiesOver   []string
	Glued      bool
}

// Place is what the wearer's map says of where the piece goes.
type Place struct {
	Region  string // the glossary's, as the piece says it
	Shares  []Share
	KeepOut []Reach
	Hair    []Hair
	// VisibleEdge is true unless every stretch of the edge is meant to show, to
	// be torn or to be hidden by something else.
	VisibleEdge bool
}

// Case is everything a rule may look at.
type Case struct {
	Code    string // of the piece
	Section section.Section
	Result  section.Result
	Shelf   material.Shelf
	Wearer  Wearer
	Room    section.Room

	CloseCamera, MovesMuch bool
	WearHours              float64
	Exertion, Water        string
	Days                   []Day
	Place                  Place
	Neighbours             []Neighbour
	OthersG                float64 // worn mass of the character's other pieces
	Scanned                *Scanned
	Voices                 mix.Voices // what tells the volume of its body
	Areas                  mix.Areas  // what tells the area of skin under it

	// Cut is the cross-section that a rule of one cut looks at.
	Cut section.Cut
	cut section.CutResult
}

// Rule is one entry of the rule book.
type Rule struct {
	ID       string   `json:"id"`
	Group    string   `json:"group" enum:"compatibility,order of work,the wearer,the maker,look,carrying,the map"`
	Severity Severity `json:"severity" doc:"the gravest it can raise"`
	Text     string   `json:"text" doc:"in plain words"`
	Decided  string   `json:"decided" doc:"section, the wearer's map, or the place of the round that it waits for"`
	Waiting  bool     `json:"waiting" doc:"its room cannot decide it yet"`
	perCut   func(Case) []Finding
	once     func(Case) []Finding
}

// Check runs the whole book on a section, the gravest findings first.
func Check(c Case) []Finding {
	out := []Finding{}
	for _, r := range Book {
		take := func(cut string, found []Finding) {
			for _, f := range found {
				f.ID = r.ID
				if cut != "" {
					f.Cut = cut
				}
				if f.Severity == "" {
					f.Severity = r.Severity
				}
				if len(f.Instead) > 0 {
					c.changes(&f)
				}
				if c.Wearer.Discreet && Private(f.ID) {
					c.discreet(&f)
				}
				out = append(out, f)
			}
		}
		if r.once != nil {
			take("", r.once(c))
		}
		if r.perCut == nil {
			continue
		}
		for i, cut := range c.Section.Cuts() {
			k := c
			k.Cut = cut
			if i < len(c.Result.Cuts) {
				k.cut = c.Result.Cuts[i]
			}
			take(cut.ID, r.perCut(k))
		}
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return weight(a.Severity) - weight(b.Severity) })
	return out
}

var severities = []Severity{Never, Stop, Warn, Tip}

func weight(s Severity) int { return slices.Index(severities, s) }

// Gravest is the worst severity among findings; empty when there are none.
func Gravest(findings []Finding) Severity {
	for _, s := range severities {
		if slices.ContainsFunc(findings, func(f Finding) bool { return f.Severity == s }) {
			return s
		}
	}
	return ""
}

func (c Case) product(l section.Layer) material.Product { return c.Shelf[l.Material] }

// available keeps the alternatives that the shop knows and that nothing known of
// the wearer speaks against: no known conflict, which is not that there is none.
func (c Case) available(slugs ...string) []string {
	out := []string{}
	for _, slug := range slugs {
		if p, known := c.Shelf[slug]; known && !substance.Conflicts(c.Wearer.list(), c.Wearer.Facts, p.Holds()) {
			out = append(out, slug)
		}
	}
	return out
}

// each asks f about every layer of the cut above the skin.
func (c Case) each(f func(i int, l section.Layer, p material.Product) *Finding) []Finding {
	var out []Finding
	for i, l := range c.Cut.Layers {
		if l.Kind == section.Skin {
			continue
		}
		if found := f(i, l, c.product(l)); found != nil {
			out = append(out, *found)
		}
	}
	return out
}

// under finds the first layer below position i for which pass is false; none
// is the skin.
func (c Case) under(i int, pass func(section.Layer) bool) section.Layer {
	for j := i - 1; j > 0; j-- {
		if !pass(c.Cut.Layers[j]) {
			return c.Cut.Layers[j]
		}
	}
	return section.Layer{}
}

// ground is what a colour, glue or seal at position i lies on: colour and
// powder let through.
func (c Case) ground(i int) section.Layer {
	return c.under(i, func(l section.Layer) bool { return l.Kind == section.Paint || l.Kind == section.Powder })
}

// above is the next layer over position i; false when it is the last.
func (c Case) above(i int) (section.Layer, bool) {
	if i+1 < len(c.Cut.Layers) {
		return c.Cut.Layers[i+1], true
	}
	return section.Layer{}, false
}

// over says whether any layer above position i is of one of these kinds.
func (c Case) over(i int, kinds ...section.Kind) bool {
	return slices.ContainsFunc(c.Cut.Layers[i+1:], func(l section.Layer) bool { return slices.Contains(kinds, l.Kind) })
}

// beneath says whether any layer below position i is of one of these kinds.
func (c Case) beneath(i int, kinds ...section.Kind) bool {
	return slices.ContainsFunc(c.Cut.Layers[:i], func(l section.Layer) bool { return slices.Contains(kinds, l.Kind) })
}

// onSkin says whether the layer lies on skin itself or on what only prepares it.
func (c Case) onSkin(i int) bool { return liesOnSkin(c.Cut, i) }

func liesOnSkin(c section.Cut, i int) bool {
	for _, l := range c.Layers[1:i] {
		if l.Kind != section.Barrier && l.Kind != section.Preparation && !(l.Kind == section.Paint && l.ShowsThrough) {
			return false
		}
	}
	return true
}

// share is the area of the piece on a region, cm².
func (p Place) share(regions ...string) float64 {
	sum := 0.0
	for _, s := range p.Shares {
		if slices.Contains(regions, s.Region) {
			sum += s.CM2
		}
	}
	return sum
}

// atEdge says whether a layer reaches the edge of the piece.
func (c Case) atEdge(l section.Layer) bool { return l.Reaches(c.Cut, c.Cut.HalfWidthMM) }
