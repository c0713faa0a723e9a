package rules

import "slices"

// private are the rules whose reason tells of a person's health or belief.
var private = []string{"SAF-1", "SAF-2", "SAF-16", "SAF-17", "SAF-18", "SAF-19", "SAF-21", "ADH-3", "MAK-9"}

// Private says whether a rule's reason, or why it was signed, tells of a
// person's health or belief: who may not know it reads what must not be used
// and not why.
func Private(id string) bool { return slices.Contains(private, id) }

// discreet puts what must not be used in place of why.
func (c Case) discreet(f *Finding) {
	name := c.Shelf[f.Product].Name
	for _, cut := range c.Section.Cuts() {
		for _, l := range cut.Layers {
			if name == "" && l.ID == f.Above {
				name = c.Shelf[l.Material].Name
			}
		}
	}
	if name == "" {
		name = "This"
	}
	f.Reason, f.Settles, f.Substance = name+" does not go onto this wearer as it stands.", "A lead or a fabricator knows more.", ""
	f.Remedy = "Take something else."
}
