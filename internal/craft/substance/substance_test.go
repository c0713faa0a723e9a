package substance

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestWordsAreFoundOnTheList(t *testing.T) {
	for words, want := range map[string][]string{
		"latex": {"latex"}, "Natural rubber latex, allergic": {"latex"}, "NATURAL RUBBER": {"latex"}, "rosin": {"colophony"}, "gum rosin (pine)": {"colophony"},
		"Wool fat": {"lanolin"}, "peanuts!": {"nuts"}, "spirits": {"alcohol"}, "the blue one": nil, "latexish": nil, "": nil, "azo dyes": {"dye"},
	} {
		assert.Equal(t, want, Usual.Named(words), words)
	}
}

func TestTheListHoldsTogether(t *testing.T) {
	seen := map[string]string{}
	for _, s := range Usual {
		assert.NotEmpty(t, s.Name, s.Code)
		for _, of := range s.Of {
			_, known := Usual.Find(of)
			assert.True(t, known, "%s belongs to %s, which is not there", s.Code, of)
		}
		for _, w := range append([]string{s.Code}, s.Words...) {
			assert.Empty(t, seen[w], "%s is a word for two things", w)
			seen[w] = s.Code
		}
		assert.Contains(t, Usual.Named(s.Name), s.Code)
	}
}

func TestWhatIsNotStatedIsNeverFree(t *testing.T) {
	gum := Holds{Slug: "adhesive-gum", Contains: []string{"colophony", "alcohol"}}
	assert.Equal(t, Held, gum.Of(Usual, "resin"), "a class is held with what belongs to it")
	assert.Equal(t, NotStated, gum.Of(Usual, "latex"))
	gum.FreeOf = []string{"animal"}
	assert.Equal(t, Free, gum.Of(Usual, "gelatin"), "free of a class is free of all of it")
	assert.Equal(t, NotStated, Holds{FreeOf: []string{"gelatin"}}.Of(Usual, "animal"), "and not the other way round")
	assert.Equal(t, Held, Holds{Contains: []string{"beeswax"}, FreeOf: []string{"animal"}}.Of(Usual, "animal"), "what is in it wins")

	allergic := []Fact{{Code: "latex", Status: Allergic}}
	assert.Equal(t, []Meeting{{allergic[0], NotStated}}, Meets(Usual, allergic, gum))
	assert.Empty(t, Meets(Usual, []Fact{{Code: "latex", Status: Clear}}, Holds{Contains: []string{"latex"}}))
	assert.Empty(t, Meets(Usual, []Fact{{Code: "animal", Status: Excludes}}, Holds{}), "belief asks what is in it")
	assert.Len(t, Meets(Usual, []Fact{{Code: "animal", Status: Excludes}}, Holds{Contains: []string{"carmine"}}), 1)
	assert.False(t, Conflicts(Usual, allergic, gum))
	assert.Equal(t, []Meeting{{Fact{Code: "adhesive-gum", Status: Reacted}, Held}}, Meets(Usual, []Fact{{Code: "adhesive-gum", Status: Reacted}}, gum))
	assert.Len(t, Unlisted([]Fact{{Words: "the blue one", Status: Sensitive}, {Code: "latex", Status: Allergic}, {Words: "x", Status: Clear}}), 1)
}

// More that is known to be in a product never takes a meeting away, and more
// that it is free of never adds one.
func TestKnowingMoreGoesOneWay(t *testing.T) {
	code := rapid.SampledFrom(Usual)
	rapid.Check(t, func(t *rapid.T) {
		var facts []Fact
		for range rapid.IntRange(1, 4).Draw(t, "facts") {
			facts = append(facts, Fact{Code: code.Draw(t, "of").Code, Status: rapid.SampledFrom([]string{Allergic, Sensitive, Clear, Excludes}).Draw(t, "status")})
		}
		h := Holds{Slug: "x"}
		for range rapid.IntRange(0, 4).Draw(t, "in it") {
			h.Contains = append(h.Contains, code.Draw(t, "contains").Code)
		}
		before := len(Meets(Usual, facts, h))
		more, free := h, h
		more.Contains = append([]string{code.Draw(t, "more").Code}, h.Contains...)
		free.FreeOf = []string{code.Draw(t, "free").Code}
		assert.GreaterOrEqual(t, len(Meets(Usual, facts, more)), before)
		assert.LessOrEqual(t, len(Meets(Usual, facts, free)), before)
		for _, m := range Meets(Usual, facts, h) {
			assert.True(t, m.Fact.Speaks())
		}
	})
}
