package section

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func order(list []Fitting) []string {
	var out []string
	for _, f := range list {
		out = append(out, f.Code)
	}
	return out
}

func TestWhatLiesBelowGoesOnFirst(t *testing.T) {
	got := Order([]Worn{{Code: "AL-01", Region: "forehead", LiesOver: []string{"AL-02"}}, {Code: "AL-02", Region: "cheek", LiesOver: []string{"AL-03"}}, {Code: "AL-03", Region: "chin"}})
	assert.Equal(t, []string{"AL-03", "AL-02", "AL-01"}, order(got))
	assert.Contains(t, got[2].Why, "AL-02")
}

func TestCentreFirstEyesLastAndStretchingBeforeAll(t *testing.T) {
	got := Order([]Worn{{Code: "eyes", Region: "eye_hollow"}, {Code: "neck", Region: "neck"}, {Code: "nose", Region: "nose"}, {Code: "hand", Region: "hand_back", Stretch: true}})
	assert.Equal(t, []string{"hand", "nose", "neck", "eyes"}, order(got))
}

func TestTwoThatLieOverEachOtherAreSaidSo(t *testing.T) {
	got := Order([]Worn{{Code: "a", LiesOver: []string{"b"}}, {Code: "b", LiesOver: []string{"a"}}, {Code: "c"}})
	assert.Equal(t, "c", got[0].Code)
	assert.Zero(t, got[1].Place)
	assert.Zero(t, got[2].Place)
}

func TestEveryOrderKeepsWhatLiesOverWhat(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 9).Draw(t, "n")
		codes := []string{"a", "b", "c", "d", "e", "f", "g", "h", "i"}[:n]
		var pieces []Worn
		for i, c := range codes { // only over later ones: no ring
			p := Worn{Code: c, Region: rapid.SampledFrom([]string{"nose", "cheek", "eye_hollow", "belly"}).Draw(t, "region"), Stretch: rapid.Bool().Draw(t, "stretch")}
			for _, o := range codes[i+1:] {
				if rapid.Bool().Draw(t, "over") {
					p.LiesOver = append(p.LiesOver, o)
				}
			}
			pieces = append(pieces, p)
		}
		got := order(Order(pieces))
		assert.Len(t, got, n)
		for _, p := range pieces {
			for _, o := range p.LiesOver {
				assert.Less(t, slices.Index(got, o), slices.Index(got, p.Code))
			}
		}
	})
}
