// Package rules raises the findings of the craft on a section and its wearer:
// data (id, severity, words) with a small predicate each. It only speaks; what
// may go on in spite of a finding is decided by the person and the severity.
// Every caution defers to safety data sheets, local codes and, for people's
// health, to licensed professionals.
package rules

import (
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
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
	// One alone means the layer itself; none means the piece's edge.
	Below   string `json:"below,omitempty"`
	Above   string `json:"above,omitempty"`
	AtEdge  bool   `json:"at_edge,omitempty"`
	Reason  string `json:"reason"`
	Remedy  string `json:"remedy"`
	Settles string `json:"settles,omitempty" doc:"what would settle it"`
	// Instead are slugs of materials to take instead, best first.
	Instead []string `json:"instead,omitempty"`
}

// Key tells two findings of one rule apart.
func (f Finding) Key() string { return f.ID + "|" + f.Below + "|" + f.Above }

// Statuses of a sensitivity as the record says it.
const (
	Allergic  = "allergic"
	Sensitive = "sensitive" // and unclear
	Clear     = "clear"
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
	Known         bool              `json:"known"`
	Sensitivities map[string]string `json:"sensitivities"` // substance or slug: status
	PatchTests    []PatchTest       `json:"patch_tests"`
	Excludes      []string          `json:"excludes"` // "animal"
	Today         int               `json:"today"`
}

// Case is everything a rule may look at.
type Case struct {
	Section     section.Section
	Result      section.Result
	Shelf       material.Shelf
	Wearer      Wearer
	CloseCamera bool
	MovesMuch   bool
	Room        section.Room
}

// Rule is one entry of the rule book.
type Rule struct {
	ID       string   `json:"id"`
	Severity Severity `json:"severity"` // the gravest it can raise
	Text     string   `json:"text"`     // in plain words, for the page that lists them
	check    func(Case) []Finding
}

// Book is every rule that a section and its wearer can decide, in the order
// in which findings are shown.
var Book = []Rule{
	{"SAF-1", Never, "No latex of any kind for a person recorded as allergic to it; hold back where the record says sensitive and unclear.", latexForAllergic},
	{"SAF-2", Stop, "Whatever touches skin wants a clear patch test that has not run out.", patchTests},
	{"SAF-16", Stop, "No animal-derived material for a person who excludes it.", animalExcluded},
	{"INH-1", Stop, "Addition-cure silicone stays sticky against natural rubber and fresh condensation silicone.", inhibition},
	{"ADH-1", Stop, "Spirit gum and acrylic do not hold bare silicone.", adhesiveOnSilicone},
	{"MED-4", Stop, "Only silicone-bound colour holds on bare silicone.", paintOnSilicone},
	{"MED-8", Stop, "A paint whose solvent dissolves the film below it ruins that film.", paintDissolvesFilm},
	{"SEQ-1", Warn, "The next coat goes on when the last one is ready for it.", coatsTooSoon},
	{"SEQ-3", Warn, "Latex is powdered before it is lifted, or it sticks to itself for good.", latexUnpowdered},
	{"ADH-3", Warn, "A barrier goes under adhesive on sensitive skin.", noBarrier},
	{"MED-1", Warn, "Water-activated paint does not hold on latex.", waterPaintOnLatex},
	{"FIB-2", Warn, "More than four reinforced layers stiffen a moving area.", tooMuchFibre},
	{"EYE-1", Warn, "An edge thicker than its material allows shows.", edgeShows},
}

// Check runs the whole book.
func Check(c Case) []Finding {
	out := []Finding{}
	for _, r := range Book {
		for _, f := range r.check(c) {
			f.ID = r.ID
			if f.Severity == "" {
				f.Severity = r.Severity
			}
			out = append(out, f)
		}
	}
	return out
}

// Gravest is the worst severity among findings; empty when there are none.
func Gravest(findings []Finding) Severity {
	for _, s := range []Severity{Never, Stop, Warn, Tip} {
		if slices.ContainsFunc(findings, func(f Finding) bool { return f.Severity == s }) {
			return s
		}
	}
	return ""
}

func (c Case) product(l section.Layer) material.Product { return c.Shelf[l.Material] }

// available keeps the alternatives that the shop knows and the wearer may have.
func (c Case) available(slugs ...string) []string {
	out := []string{}
	for _, slug := range slugs {
		p, known := c.Shelf[slug]
		if !known || (p.Animal && slices.Contains(c.Wearer.Excludes, "animal")) || (p.IsLatex() && c.Wearer.Sensitivities["latex"] != "" && c.Wearer.Sensitivities["latex"] != Clear) {
			continue
		}
		out = append(out, slug)
	}
	return out
}

// pairs calls f for every two neighbouring layers, lower first.
func (c Case) pairs(f func(below, above section.Layer)) {
	for i := 1; i < len(c.Section.Layers); i++ {
		f(c.Section.Layers[i-1], c.Section.Layers[i])
	}
}
