package rules

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

var room = section.Room{TempC: 21, RH: 0.5}

func layer(kind section.Kind, slug string, change ...func(*section.Layer)) section.Layer {
	l := section.Layer{ID: string(kind) + "/" + slug, Kind: kind, Material: slug}
	if kind == section.Silicone {
		l.CentreMM = 6
	} else {
		l.Coats, l.CoatMM = 1, 0.02
	}
	for _, f := range change {
		f(&l)
	}
	return l
}

func check(t *testing.T, wearer Wearer, close bool, layers ...section.Layer) []Finding {
	t.Helper()
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.NewShelf(list)
	s := section.Start(34)
	s.Layers = append(s.Layers, layers...)
	require.NoError(t, s.Check(shelf))
	return Check(Case{Section: s, Result: s.Work(shelf, room), Shelf: shelf, Wearer: wearer, CloseCamera: close, MovesMuch: true, Room: room})
}

func ids(fs []Finding) []string {
	var out []string
	for _, f := range fs {
		out = append(out, f.ID)
	}
	return out
}

// Every rule of the book has a case in which it fires and one in which it
// does not, differing in the one thing that the rule is about.
func TestEveryRuleFiresAndKeepsQuiet(t *testing.T) {
	nobody := Wearer{}
	allergic := Wearer{Known: true, Sensitivities: map[string]string{"latex": Allergic}}
	clear := Wearer{Known: true, Sensitivities: map[string]string{"latex": Clear}}
	vegan := Wearer{Excludes: []string{"animal"}}
	patched := func(result string, expires int) Wearer {
		return Wearer{Known: true, Today: 100, PatchTests: []PatchTest{{"adhesive-acrylic", result, expires}}}
	}
	body := layer(section.Silicone, "silicone-gel")
	film := layer(section.Encapsulator, "encapsulator-acetone")
	alcoholFilm := layer(section.Encapsulator, "encapsulator-alcohol")
	glue := layer(section.Adhesive, "adhesive-acrylic")
	latex := layer(section.Latex, "latex-balloon", func(l *section.Layer) { l.CoatMM = 0.2 })
	powder := layer(section.Powder, "powder-translucent")
	coats := func(wait float64) section.Layer {
		return layer(section.Latex, "latex-balloon", func(l *section.Layer) { l.Coats, l.CoatMM, l.BetweenS = 4, 0.2, &wait })
	}
	fibre := func(n int) section.Layer {
		return layer(section.Latex, "latex-balloon", func(l *section.Layer) { l.Coats, l.CoatMM, l.Fibre = n, 0.2, "fibre-tissue" })
	}
	thick := func(mm float64) section.Layer {
		return layer(section.Silicone, "silicone-gel", func(l *section.Layer) { l.EdgeMM = mm })
	}
	type stack []section.Layer
	for _, c := range []struct {
		id                 string
		fires, quiet       stack
		wearer, calmWearer Wearer
		close              bool
	}{
		{"SAF-1", stack{latex}, stack{latex}, allergic, clear, false},
		{"SAF-2", stack{glue}, stack{glue}, patched(PatchOpen, 200), patched(PatchClear, 200), false},
		{"SAF-2", stack{glue}, stack{glue}, patched(PatchClear, 99), patched(PatchClear, 100), false},
		{"SAF-2", stack{glue}, stack{glue}, patched(PatchPositive, 200), nobody, false},
		{"INH-1", stack{latex, body}, stack{latex, film, body}, nobody, nobody, false},
		{"INH-1", stack{body, latex}, stack{body, film, latex}, nobody, nobody, false},
		{"INH-1", stack{body, layer(section.Silicone, "mould-silicone-tin")}, stack{body}, nobody, nobody, false},
		{"ADH-1", stack{glue, body}, stack{glue, film, body}, nobody, nobody, false},
		{"ADH-1", stack{layer(section.Adhesive, "adhesive-gum"), body}, stack{layer(section.Adhesive, "adhesive-silicone"), body}, nobody, nobody, false},
		{"MED-4", stack{body, powder, layer(section.Paint, "paint-alcohol")}, stack{body, layer(section.Paint, "paint-silicone")}, nobody, nobody, false},
		{"MED-4", stack{body, layer(section.Paint, "paint-cream")}, stack{body, film, layer(section.Paint, "paint-cream")}, nobody, nobody, false},
		{"MED-8", stack{alcoholFilm, layer(section.Paint, "paint-alcohol")}, stack{film, layer(section.Paint, "paint-alcohol")}, nobody, nobody, false},
		{"SEQ-1", stack{coats(300)}, stack{coats(6 * 3600)}, nobody, nobody, false},
		{"SEQ-3", stack{latex}, stack{latex, powder}, nobody, nobody, false},
		{"ADH-3", stack{glue}, stack{layer(section.Barrier, "barrier-film"), glue}, allergic, allergic, false},
		{"MED-1", stack{latex, layer(section.Paint, "paint-water")}, stack{latex, layer(section.Paint, "paint-cream")}, nobody, nobody, false},
		{"FIB-2", stack{fibre(5)}, stack{fibre(4)}, nobody, nobody, false},
		{"EYE-1", stack{thick(0.12)}, stack{thick(0.10)}, nobody, nobody, false},
		{"EYE-1", stack{thick(0.06)}, stack{thick(0.05)}, nobody, nobody, true},
	} {
		t.Run(c.id, func(t *testing.T) {
			assert.Contains(t, ids(check(t, c.wearer, c.close, c.fires...)), c.id)
			assert.NotContains(t, ids(check(t, c.calmWearer, c.close, c.quiet...)), c.id)
		})
	}
	// SAF-16 needs a gelatin layer, which a section cannot hold yet; its
	// predicate is held to the same bar directly.
	shelf := material.Shelf{"g": {Slug: "g", Family: material.Gelatin, Animal: true}}
	s := section.Section{Layers: []section.Layer{{ID: "skin", Kind: section.Skin}, {ID: "g", Material: "g"}}}
	assert.Len(t, animalExcluded(Case{Section: s, Shelf: shelf, Wearer: vegan}), 1)
	assert.Empty(t, animalExcluded(Case{Section: s, Shelf: shelf, Wearer: nobody}))
}

func TestEveryRuleOfTheBookIsInTheTest(t *testing.T) {
	seen := map[string]bool{}
	for _, r := range Book {
		assert.False(t, seen[r.ID], "one entry a rule")
		seen[r.ID] = true
		assert.NotEmpty(t, r.Text)
	}
}

func TestLatexForAnAllergicWearerIsNeverAndOffersOthers(t *testing.T) {
	fs := check(t, Wearer{Known: true, Sensitivities: map[string]string{"latex": Allergic}, Excludes: []string{"animal"}}, false, layer(section.Latex, "latex-balloon"))
	i := slices.IndexFunc(fs, func(f Finding) bool { return f.ID == "SAF-1" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, Never, fs[i].Severity)
	assert.Equal(t, []string{"silicone-gel", "gelatin-plant", "wax-soft"}, fs[i].Instead)
	unclear := check(t, Wearer{Sensitivities: map[string]string{"latex": Sensitive}}, false, layer(section.Latex, "latex-balloon"))
	assert.Equal(t, Stop, unclear[0].Severity)
	assert.Equal(t, Never, Gravest(fs))
}

func TestAWetStackSaysWhatItCosts(t *testing.T) {
	wait := 180.0
	fs := check(t, Wearer{}, false, layer(section.Latex, "latex-balloon", func(l *section.Layer) { l.Coats, l.CoatMM, l.BetweenS = 4, 0.2, &wait }))
	i := slices.IndexFunc(fs, func(f Finding) bool { return f.ID == "SEQ-1" })
	require.GreaterOrEqual(t, i, 0)
	// Handbook: estimate-each 13 863 s, estimate-trapped 27 274 s.
	assert.Contains(t, fs[i].Reason, "in about 7 h 35 instead of 3 h 51: 3 h 44 more")
}
