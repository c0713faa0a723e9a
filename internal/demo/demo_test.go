package demo_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/demo"
	"yewmoor/internal/demo/demotest"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shop"
	"yewmoor/internal/station/brief"
	"yewmoor/internal/station/build"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// told is a shop in which the scenario was told, and the address of its
// database.
func told(t *testing.T) (*shop.Shop, *clock.Fixed, string) {
	d := demotest.New(t)
	return d.Shop, d.Clock, d.DSN
}

func TestTheScenarioIsToldOnce(t *testing.T) {
	s, past, _ := told(t)
	count := func() (n int) {
		require.NoError(t, s.DB.Get(&n, `SELECT COUNT(*) FROM journal`))
		return n
	}
	before := count()
	assert.Greater(t, before, 50)
	require.NoError(t, demo.Load(t.Context(), s, past))
	assert.Equal(t, before, count(), "a second start adds nothing")
}

// All seven characters have briefs that are agreed, and maps that say what they
// are meant to show.
func TestEveryCharacterHasABriefAndAMap(t *testing.T) {
	s, _, _ := told(t)
	pieces, err := piece.All(t.Context(), s.DB)
	require.NoError(t, err)
	drawn, looks := map[string]float64{}, 0
	for _, p := range pieces {
		assert.Positive(t, p.BriefNumber, p.Code)
		v, err := s.Brief.View(t.Context(), p.Code, "")
		require.NoError(t, err)
		assert.Positive(t, v.Map.CM2, "%s draws an area", p.Code)
		assert.NotEmpty(t, v.Wear.Grades, p.Code)
		for _, f := range append(v.Map.Findings, v.Wear.Findings...) {
			assert.NotEqual(t, "never", f.Severity, "%s: %s", p.Code, f.Reason)
		}
		drawn[p.CharacterCode] += v.Map.CM2
		body, err := s.Brief.Body(t.Context(), *p.PerformerID)
		require.NoError(t, err)
		assert.NotEmpty(t, body.Skin, p.Code)
	}
	assert.Len(t, drawn, 7)
	for _, code := range []string{"BF", "AL", "PK"} {
		c, err := s.Brief.Character(t.Context(), code)
		require.NoError(t, err)
		assert.Empty(t, c.Wanted, code)
		looks += len(c.Looks)
	}
	assert.Equal(t, 6, looks)
	bark, err := s.Brief.View(t.Context(), "AL-01", "grown")
	require.NoError(t, err)
	assert.Equal(t, 3.0, bark.Wear.MaxHours, "her own limit")
	assert.NotEmpty(t, bark.WearerMarks, "her folds")
	nose, err := s.Brief.View(t.Context(), "GC-01", "")
	require.NoError(t, err)
	assert.Equal(t, "nose and mouth", nose.Map.Breath, "the holes keep the nostrils free")
	cheek, err := s.Brief.View(t.Context(), "BF-03", "grown")
	require.NoError(t, err)
	assert.Len(t, cheek.Others, 2)
	assert.Len(t, cheek.Map.Edges, 2)
}

// Every piece has a method that was chosen and a section, and its findings are
// those that the scenario is meant to show.
func TestEveryCharacterShowsTheFindingsItIsMeantTo(t *testing.T) {
	s, _, _ := told(t)
	ivo := accounts.With(t.Context(), who(t, s, "ivo"))
	pieces, err := piece.All(t.Context(), s.DB)
	require.NoError(t, err)
	seen := map[string][]string{}
	for _, p := range pieces {
		v, err := s.Pieces.Section(ivo, p.Code)
		require.NoError(t, err)
		assert.Greater(t, len(v.Doc.Layers), 3, p.Code)
		for _, f := range v.Findings {
			assert.NotEqual(t, rules.Never, f.Severity, "%s: %s", p.Code, f.Reason)
			if f.Severity == rules.Stop {
				assert.Equal(t, "FT-01", p.Code, f.Reason)
			}
			seen[p.CharacterCode] = append(seen[p.CharacterCode], f.ID)
		}
		a, err := s.Brief.Advise(ivo, p.Code, brief.Conditions{})
		require.NoError(t, err)
		require.NotEmpty(t, a.Choices, p.Code)
		assert.Equal(t, a.Choices[0].Method, v.Doc.Method, p.Code)
		assert.True(t, a.Choices[0].Place == 1 || a.Choices[0].Reason != "", p.Code)
	}
	for character, want := range map[string][]string{
		"BF": {"EYE-1"},          // a close camera on an edge of film
		"AL": {"WGT-1"},          // moss that rots
		"FT": {"SAF-2", "GEL-2"}, // an open patch test, a hot set
		"GC": {"EYE-1"},          // a rim of latex
		"PK": {"SAF-6"},          // heavier than his limit
		"NM": {"WAX-2", "EYE-1"}, // wax under a cuff
		"CB": {"SAF-8", "WAX-2"}, // blood that stains, wax under fingers
	} {
		for _, id := range want {
			assert.Contains(t, seen[character], id, character)
		}
	}
	// Latex for the bell-founder is refused, and says what to take.
	doc, err := s.Pieces.Section(ivo, "BF-01")
	require.NoError(t, err)
	latex := doc.Doc
	latex.Layers = append(slices.Clone(latex.Layers), section.Layer{ID: "x", Kind: section.Latex, Material: "latex-balloon", Coats: 1, CoatMM: 0.2})
	_, err = s.Pieces.SaveSection(ivo, "BF-01", latex, doc.State.Base, doc.State.Step)
	var no *problem.Problem
	require.ErrorAs(t, err, &no)
	assert.Equal(t, "never", no.Code)
	// The bark goes on from the chin up.
	bark, err := s.Pieces.Section(ivo, "AL-01")
	require.NoError(t, err)
	var order []string
	for _, c := range bark.Company.Pieces {
		order = append(order, c.Code)
	}
	assert.Equal(t, []string{"AL-03", "AL-02", "AL-01", "AL-04-L"}, order)
}

func who(t *testing.T, s *shop.Shop, login string) accounts.Person {
	people, err := s.Accounts.People(t.Context())
	require.NoError(t, err)
	i := slices.IndexFunc(people, func(p accounts.Person) bool { return p.Login == login })
	require.GreaterOrEqual(t, i, 0)
	return people[i]
}

// On Monday morning there is something of everything that waits: a trapped layer, foam in
// the oven, gelatin in the cold, a mould that dries, and a bowl past its window.
func TestTheShelfShowsEverythingThatWaits(t *testing.T) {
	s, _, _ := told(t)
	pots, err := s.Build.Shelf(t.Context())
	require.NoError(t, err)
	by := map[string]build.Pot{}
	for _, p := range pots {
		by[p.Piece+" "+p.Kind] = p
	}
	assert.Equal(t, "oven", by["AL-02 set"].Place)
	assert.Contains(t, by["AL-02 set"].Left, "cured in")
	assert.Equal(t, "cold-1", by["FT-02-R set"].Place)
	assert.Contains(t, by["FT-02-R set"].Left, "demould in")
	assert.True(t, by["AL-01 set"].Past)
	assert.Equal(t, pots[0].Label, by["AL-01 set"].Label, "what is past its window stands first")
	assert.NotEmpty(t, by["AL-03 mould"].Left)
	sheet, err := s.Build.Buildup(t.Context(), by["AL-04-L dry"].Run)
	require.NoError(t, err)
	require.Len(t, sheet.Bands, 6)
	assert.NotEmpty(t, sheet.Bands[1].Trapped)
	assert.Equal(t, "planned", sheet.Bands[3].State)
	assert.Equal(t, []string{"knuckles", "back"}, sheet.Bands[4].Zones)
}
