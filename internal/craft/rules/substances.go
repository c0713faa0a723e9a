package rules

import (
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
)

// What a person may not take meets everything that is put on them or near them.

func (w Wearer) list() substance.List {
	if w.List == nil {
		return substance.Usual
	}
	return w.List
}

// use is one product as a section uses it: in a layer, as the remover of its
// glue, or as the release that it is cast with.
type use struct {
	cut, layer, as string
	product        material.Product
}

// uses are all products of a section, each once.
func (c Case) uses() []use {
	var out []use
	add := func(cut, layer, as, slug string) {
		p, known := c.Shelf[slug]
		if known && !slices.ContainsFunc(out, func(u use) bool { return u.product.Slug == slug }) {
			out = append(out, use{cut, layer, as, p})
		}
	}
	c.Section.All(func(in section.Cut, _ int, l section.Layer) {
		if l.Kind == section.Skin {
			return
		}
		for _, slug := range l.Products() {
			add(in.ID, l.ID, "", slug)
		}
	})
	c.Section.All(func(in section.Cut, _ int, l section.Layer) {
		if l.Kind == section.Adhesive {
			add(in.ID, l.ID, ", which takes it off,", c.Shelf[l.Material].Remover)
		}
	})
	add("", "", ", the release,", c.Section.Made.Release)
	for _, slug := range c.Section.Touching {
		add("", "", ", which touches the wearer,", slug)
	}
	return out
}

// meet asks every product that a section uses about the wearer's facts.
func (c Case) meet(say func(u use, m substance.Meeting) *Finding) []Finding {
	var out []Finding
	for _, u := range c.uses() {
		for _, m := range substance.Meets(c.Wearer.list(), c.Wearer.Facts, u.product.Holds()) {
			if f := say(u, m); f != nil {
				f.Cut, f.Above, f.Product = u.cut, u.layer, u.product.Slug
				out = append(out, *f)
				break // one finding a product and rule: the gravest
			}
		}
	}
	return out
}

// named is a substance in words.
func (c Case) named(code string) string {
	if s, known := c.Wearer.list().Find(code); known {
		return s.Name
	}
	return c.Shelf[code].Name
}

// insteadOf offers what does the same with no known conflict, best first: of the
// same family, else what usually stands in for it.
func (c Case) insteadOf(p material.Product) []string {
	var same []string
	for slug, q := range c.Shelf {
		if q.Family == p.Family && slug != p.Slug {
			same = append(same, slug)
		}
	}
	slices.Sort(same)
	return c.available(append(same, standIns[p.Family]...)...)
}

// standIns are what does nearly the same, by family.
var standIns = map[material.Family][]string{
	material.Latex: {"silicone-gel", "gelatin-animal", "gelatin-plant", "wax-soft"}, material.LatexPaste: {"silicone-direct", "gelatin-plant", "wax-soft", "paste-flour"}, material.FoamLatex: {"silicone-gel", "foam-pu", "gelatin-animal", "gelatin-plant"},
	material.SiliconeAddition: {"gelatin-animal", "gelatin-plant", "foam-latex"}, material.Gelatin: {"silicone-gel", "silicone-direct", "wax-soft"}, material.Wax: {"silicone-direct", "gelatin-plant"},
	material.AdhesiveAcrylic: {"adhesive-silicone", "adhesive-gum"}, material.AdhesiveGum: {"adhesive-acrylic", "adhesive-silicone"}, material.AdhesiveSilicone: {"adhesive-acrylic", "adhesive-gum"},
	material.PaintAlcohol: {"paint-cream", "paint-water"}, material.PaintCream: {"paint-water", "paint-alcohol"}, material.PaintWater: {"paint-cream", "paint-alcohol"}, material.PaintSilicone: {"paint-alcohol", "paint-cream"},
	material.Encapsulator: {"sealer-acrylic"}, material.Sealer: {"sealer-acrylic", "sealer-plastic"}, material.Remover: {"remover-ester", "remover-silicone"}, material.Barrier: {"sealer-acrylic"},
	material.Glove: {"glove-nitrile", "glove-vinyl"}, material.Tool: {"sponge-plain", "brush-plain"},
	material.HairFibre: {"hair-punched", "hair-crepe"}, material.Filling: {"filling-beads", "filling-foam"},
}

const onlyAdvice = "Only licensed medical advice changes this record; no test of ours does."

func meetsLatex(c Case) []Finding {
	return c.meet(func(u use, m substance.Meeting) *Finding {
		if m.Fact.Code != "latex" || m.State != substance.Held || m.Fact.Status == substance.Excludes {
			return nil
		}
		name := u.product.Name
		f := &Finding{Reason: "The wearer is recorded as latex-allergic, and " + name + u.as + " is latex.", Remedy: "Take what has no known conflict instead.", Settles: onlyAdvice, Instead: c.insteadOf(u.product)}
		if !u.product.IsLatex() {
			f.Reason = "The wearer is recorded as latex-allergic, and " + name + u.as + " holds latex."
		}
		if m.Fact.Status == Sensitive {
			f.Severity = Stop
			f.Reason = strings.Replace(f.Reason, "latex-allergic", "sensitive to latex, cause unclear", 1)
		}
		return f
	})
}

func meetsBelief(c Case) []Finding {
	return c.meet(func(u use, m substance.Meeting) *Finding {
		if m.Fact.Status != substance.Excludes || m.State != substance.Held {
			return nil
		}
		what := c.named(m.Fact.Code)
		if m.Fact.Code == "animal" {
			what = "animal-derived material"
		}
		return &Finding{Reason: fmt.Sprintf("The wearer excludes %s, and %s%s holds it.", what, u.product.Name, u.as), Remedy: "Take what does the same without it; a plant gelling base sets and melts a little differently.", Instead: c.insteadOf(u.product)}
	})
}

func meetsOthers(c Case) []Finding {
	out := c.meet(func(u use, m substance.Meeting) *Finding {
		if m.Fact.Code == "latex" && m.Fact.Status != substance.Excludes || m.Fact.Status == substance.Excludes || m.State != substance.Held {
			return nil
		}
		f := &Finding{Remedy: "Take what has no known conflict instead.", Settles: onlyAdvice, Instead: c.insteadOf(u.product)}
		what := c.named(m.Fact.Code)
		switch m.Fact.Status {
		case Allergic:
			f.Reason = fmt.Sprintf("The wearer is recorded as allergic to %s, and %s%s holds or gives it off.", what, u.product.Name, u.as)
		case Sensitive:
			f.Severity, f.Reason = Stop, fmt.Sprintf("The wearer is recorded as sensitive to %s, cause unclear, and %s%s holds or gives it off.", what, u.product.Name, u.as)
		default:
			f.Severity, f.Reason = Stop, fmt.Sprintf("The wearer's patch test of %s was positive.", u.product.Name)
		}
		if m.Fact.Code == u.product.Slug && m.Fact.Status != substance.Reacted {
			f.Reason = fmt.Sprintf("The wearer is recorded as %s to %s itself.", m.Fact.Status, u.product.Name)
		}
		return f
	})
	return append(out, c.likeReacted(out)...)
}

// likeReacted cautions of what shares its family, or something that is in it,
// with a product whose patch test was positive.
func (c Case) likeReacted(said []Finding) []Finding {
	var out []Finding
	for _, u := range c.uses() {
		if slices.ContainsFunc(said, func(f Finding) bool { return f.Product == u.product.Slug }) {
			continue
		}
		for _, fact := range c.Wearer.Facts {
			was, known := c.Shelf[fact.Code]
			if fact.Status != substance.Reacted || !known {
				continue
			}
			shared := ""
			for _, code := range was.Holds().Contains {
				if slices.Contains(u.product.Holds().Contains, code) {
					shared = c.named(code)
					break
				}
			}
			if shared == "" && was.Family != u.product.Family {
				continue
			}
			why := "is of the same family"
			if shared != "" {
				why = "holds " + shared + " too"
			}
			out = append(out, Finding{Severity: Warn, Cut: u.cut, Above: u.layer, Product: u.product.Slug, Reason: fmt.Sprintf("A patch test of %s was positive, and %s%s %s.", was.Name, u.product.Name, u.as, why), Remedy: "Patch-test it on its own, or take something else.", Settles: "A clear patch test, read by somebody after a day or two.", Instead: c.insteadOf(u.product)})
			break
		}
	}
	return out
}

func notStated(c Case) []Finding {
	return c.meet(func(u use, m substance.Meeting) *Finding {
		if m.State != substance.NotStated {
			return nil
		}
		what := c.named(m.Fact.Code)
		return &Finding{Substance: m.Fact.Code, Reason: fmt.Sprintf("The wearer is recorded as %s to %s, and nothing states whether %s%s is free of it.", m.Fact.Status, what, u.product.Name, u.as),
			Remedy: "Read its data sheet, or ask its maker, and write down what it says.", Settles: "Its data sheet."}
	})
}

func inWordsOnly(c Case) []Finding {
	var out []Finding
	for _, f := range substance.Unlisted(c.Wearer.Facts) {
		out = append(out, Finding{Reason: fmt.Sprintf("The wearer's record says “%s” (%s), and nobody has said yet what of the list that is.", f.Words, f.Status), Remedy: "Ask the wearer, and choose it from the list in Brief; add it to the list if it is not there.", Settles: "A choice from the list."})
	}
	return out
}

// Minority says what is missing before anything is done to a performer under
// age, or agreed about them; none for a grown one. hours are those of wear.
func Minority(w Wearer, hours float64) []Finding {
	out := underAge(Case{Wearer: w, WearHours: hours})
	for i := range out {
		out[i].ID, out[i].Severity = "SAF-20", Never
	}
	return out
}

func underAge(c Case) []Finding {
	m := c.Wearer.Minor
	if m == nil {
		return nil
	}
	var out []Finding
	say := func(reason, remedy string) {
		out = append(out, Finding{Reason: "The performer is under age, and " + reason, Remedy: remedy, Settles: "The local law has the last word."})
	}
	if !m.Consent {
		say("no guardian's consent to touch and glue is in force.", "Ask the guardian first; write down who gave it.")
	}
	if !m.Chaperone {
		say("no chaperone is named.", "Name who stays beside them, from the first fitting to the last wipe.")
	}
	switch {
	case m.LawHours == 0:
		say("nothing says how many hours the local law allows.", "Ask the production, and write it down in Brief.")
	case c.WearHours > m.LawHours:
		say(fmt.Sprintf("the brief wants %g h of wear where the local law allows %g h of work in all.", c.WearHours, m.LawHours), "Shorten it; fitting and taking off count too.")
	}
	if len(m.Unmeasured) > 0 {
		say("these are not measured where it goes: "+strings.Join(m.Unmeasured, ", ")+". A grown person's usual sizes are not theirs.", "Measure them, with the chaperone in the room.")
	}
	return out
}

func clearBesideAllergy(c Case) []Finding {
	var out []Finding
	for _, t := range c.Wearer.PatchTests {
		p, known := c.Shelf[t.Material]
		if !known || t.Result != PatchClear {
			continue
		}
		for _, m := range substance.Meets(c.Wearer.list(), c.Wearer.Facts, p.Holds()) {
			if m.State == substance.Held && (m.Fact.Status == Allergic || m.Fact.Status == Sensitive) {
				out = append(out, Finding{Product: p.Slug, Reason: fmt.Sprintf("A patch test of %s is called clear, and the wearer is recorded as %s to %s.", p.Name, m.Fact.Status, c.named(m.Fact.Code)), Remedy: "Believe the record: a small dose on a good day proves nothing. Ask who put the test on, and why.", Settles: onlyAdvice})
				break
			}
		}
	}
	slices.SortFunc(out, func(a, b Finding) int { return strings.Compare(a.Product, b.Product) })
	return slices.CompactFunc(out, func(a, b Finding) bool { return a.Product == b.Product })
}

// Stuff says what speaks against putting single products on a wearer, apart from
// how they lie: what they hold, and what is not stated of them.
func Stuff(w Wearer, shelf material.Shelf, slugs ...string) []Finding {
	c := Case{Shelf: shelf, Wearer: w}
	for i, slug := range slugs {
		c.Section.Layers = append(c.Section.Layers, section.Layer{ID: fmt.Sprintf("stuff-%d", i+1), Kind: section.Paint, Material: slug})
	}
	var out []Finding
	for _, f := range c.reactions(map[string]bool{}) {
		f.ID, f.Severity = "SAF-2", Stop
		if w.Discreet {
			c.discreet(&f)
		}
		f.Above = ""
		out = append(out, f)
	}
	for _, r := range Book {
		if !slices.Contains([]string{"SAF-1", "SAF-16", "SAF-17", "SAF-18", "SAF-19"}, r.ID) {
			continue
		}
		for _, f := range r.once(c) {
			f.ID = r.ID
			if f.Severity == "" {
				f.Severity = r.Severity
			}
			if w.Discreet {
				c.discreet(&f)
			}
			f.Above = ""
			out = append(out, f)
		}
	}
	return out
}

// Hands says what speaks against giving work with these products to somebody who
// makes or applies: their own sensitivities meet it. MAK-9 of the book.
func Hands(list substance.List, facts []substance.Fact, shelf material.Shelf, who string, slugs ...string) []Finding {
	var out []Finding
	for _, slug := range slugs {
		p, known := shelf[slug]
		if !known {
			continue
		}
		for _, m := range substance.Meets(list, facts, p.Holds()) {
			s, _ := list.Find(m.Fact.Code)
			what := s.Name
			if m.Fact.Code == slug {
				what = p.Name
			}
			f := Finding{ID: "MAK-9", Severity: Warn, Product: slug, Substance: m.Fact.Code, Remedy: "Give it to somebody else, or say how it is kept off: gloves, airing, a mask. Licensed medical advice decides."}
			switch {
			case m.State == substance.Held && m.Fact.Status == Allergic:
				f.Severity, f.Reason = Stop, fmt.Sprintf("%s is recorded as allergic to %s, and %s holds or gives it off.", who, what, p.Name)
			case m.State == substance.Held:
				f.Reason = fmt.Sprintf("%s may not take %s, and %s holds or gives it off.", who, what, p.Name)
			case m.Fact.Status == Allergic:
				f.Severity, f.Reason, f.Remedy = Tip, fmt.Sprintf("%s is recorded as allergic to %s, and nothing states whether %s is free of it.", who, what, p.Name), "Read its data sheet first."
			default:
				continue
			}
			out = append(out, f)
			break
		}
	}
	return out
}
