package rules

import (
	"slices"

	"yewmoor/internal/craft/section"
)

// private are the rules whose reason tells of a person's health or belief.
var private = []string{"SAF-1", "SAF-2", "SAF-16", "ADH-3"}

// Private says whether a rule's reason, or why it was signed, tells of a
// person's health or belief: who may not know it reads what must not be used
// and not why.
func Private(id string) bool { return slices.Contains(private, id) }

// discreet puts what must not be used in place of why.
func (c Case) discreet(f *Finding) {
	name := "This"
	c.Section.All(func(_ section.Cut, _ int, l section.Layer) {
		if l.ID == f.Above {
			name = c.Shelf[l.Material].Name
		}
	})
	f.Reason, f.Settles = name+" does not go onto this wearer as it stands.", "A lead or a fabricator knows more."
}
