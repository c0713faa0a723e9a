package outing

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
)

var room = section.Room{TempC: 21, RH: 0.5}

func library() material.Shelf {
	list, err := material.Library()
	if err != nil {
		panic(err)
	}
	return material.NewShelf(list)
}

// worn is a piece by a house method.
func worn(t testing.TB, code, method, region, side string) Piece {
	shelf := library()
	doc, known := section.House(method, 60, 8, shelf)
	require.True(t, known, method)
	return Piece{Code: code, Name: method, Region: region, Side: side, Doc: doc, Result: doc.Work(shelf, room), AreaCM2: 60, RimCM: 30, EdgeMM: 0.1,
		Marks: []fit.Mark{{ID: "a", At: [2]float64{0, 0}, Kind: "point"}, {ID: "nostril", At: [2]float64{9, 0}, Kind: "opening"}}, Names: map[string]string{"nostril": "the nostril"}}
}

func day() Day {
	return Day{Hours: 9, AirC: 31, RH: 0.5, Exertion: "acting", RoomC: 21, RoomRH: 0.5, Uses: 1}
}

// Every house method of every family goes through its day: a morning that keeps its windows, a kit, a rim that lasts, an evening.
func TestEveryMethodHasItsDay(t *testing.T) {
	shelf := library()
	for _, method := range section.Methods {
		t.Run(method.Slug, func(t *testing.T) {
			pieces := []Piece{worn(t, "AA-01", method.Slug, "cheek", "L"), worn(t, "AA-02", method.Slug, "brow", "")}
			run, err := Plan(t.Context(), pieces, day(), Choices{ReadyMin: 480, Artists: []string{"Jun", "Pip"}, Lenses: "end", Brow: "cancel_cover"}, nil, shelf)
			require.NoError(t, err)
			at := map[string]Step{}
			for _, s := range run.Steps {
				at[s.ID] = s
				assert.NotEmpty(t, s.Text)
				assert.GreaterOrEqual(t, s.Minutes, 0.0)
			}
			for _, s := range run.Steps {
				if s.Kind != "place" || s.Window == nil {
					continue
				}
				on := at[s.Glue].Start + at[s.Glue].Minutes
				assert.GreaterOrEqual(t, s.Start-on, s.Window.FromMin-1e-6, s.ID)
				assert.LessOrEqual(t, s.Start-on, s.Window.UntilMin+1e-6, s.ID)
				assert.Equal(t, []string{"the nostril", "a"}, s.Marks, "openings first")
			}
			assert.Equal(t, "last", run.Steps[len(run.Steps)-1].Kind)
			assert.InDelta(t, 0.9, run.Chance, 0.02)
			for _, g := range pieces[0].Glues(shelf) {
				i := slices.IndexFunc(Items(pieces, day(), Choices{}, nil, shelf), func(i Item) bool { return i.Slug == g.Product.Slug })
				require.GreaterOrEqual(t, i, 0)
			}
			off, err := TakeOff(pieces, day(), 1, false, 0, shelf)
			require.NoError(t, err)
			if method.Slug != "" && len(pieces[0].worn(shelf)) > 0 {
				assert.Len(t, off.Steps, len(pieces[0].worn(shelf))*2)
				assert.Positive(t, off.TotalMin)
			}
		})
	}
}

// What lies over another goes on after it; stretching comes before gluing; lenses and hair where the school has them.
func TestTheOrderOfAMorning(t *testing.T) {
	shelf := library()
	over, under := worn(t, "AA-01", "silicone_encapsulated", "cheek", "L"), worn(t, "AA-02", "silicone_encapsulated", "brow", "")
	over.Doc.LiesOver = []string{"AA-02"}
	stipple := worn(t, "AA-03", "stretch_stipple", "eye_hollow", "L")
	under.Hair = []wearmap.Hair{{Mark: "h1", Text: "the left brow", How: "protect"}}
	start := func(c Choices) map[string]float64 {
		run, err := Plan(t.Context(), []Piece{over, under, stipple}, day(), c, nil, shelf)
		require.NoError(t, err)
		out := map[string]float64{}
		for _, s := range run.Steps {
			out[s.ID] = s.Start
		}
		return out
	}
	c := Choices{ReadyMin: 480, Artists: []string{"Jun", "Pip"}, Lenses: "start"}
	at := start(c)
	assert.Greater(t, at["place AA-01"], at["place AA-02"])
	assert.Less(t, at["lenses"], at["glue AA-02"])
	assert.Less(t, at["guard"], at["glue AA-02"])
	for id, when := range at {
		if len(id) > 4 && id[:4] == "glue" {
			assert.Greater(t, when, at["stretch AA-03"], id)
		}
	}
	c.Lenses = "end"
	at = start(c)
	assert.Greater(t, at["lenses"], at["colour AA-01"])
	// Somebody's own order is kept, and one that breaks a window is refused, never taken silently.
	c.Order = []Before{{"colour AA-02", "glue AA-01", "the brow is shot first"}}
	at = start(c)
	assert.Greater(t, at["glue AA-01"], at["colour AA-02"])
	c.Order = []Before{{First: "place AA-02", Next: "glue AA-02"}}
	_, err := Plan(t.Context(), []Piece{over, under, stipple}, day(), c, nil, shelf)
	assert.Error(t, err)
}

// More takes never want less of anything, nor do more uses.
func TestAKitGrowsWithItsDay(t *testing.T) {
	shelf := library()
	pieces := []Piece{worn(t, "AA-01", "silicone_encapsulated", "cheek", "L")}
	total := func(d Day) (sum float64) {
		for _, i := range Items(pieces, d, Choices{}, []Colour{{"paint-alcohol", "Alcohol-activated colour", "base", ""}}, shelf) {
			sum += i.Need
		}
		return sum
	}
	one, two := day(), day()
	two.Uses = 2
	assert.Greater(t, total(two), total(one))
	keys := map[string]bool{}
	for _, i := range Items(pieces, one, Choices{Lenses: "end"}, nil, shelf) {
		assert.False(t, keys[i.Key], i.Key)
		keys[i.Key] = true
	}
	assert.True(t, keys["lens:lenses"] && keys["card:first-aid"])
}

// The card says when eyes are shut, in spans that do not overlap.
func TestTheCardSaysWhenEyesAreShut(t *testing.T) {
	r := Run{Steps: []Step{{Start: 10, Minutes: 5, Keep: Keep{Eyes: true}}, {Start: 15, Minutes: 5, Keep: Keep{Eyes: true}}, {Start: 40, Minutes: 2, Keep: Keep{Eyes: true, Lips: true}}}}
	assert.Equal(t, []Told{{"Eyes shut and relaxed", 10, 20}, {"Eyes shut and relaxed", 40, 42}, {"Lips a little open and dry: no talking, eating or drinking", 40, 42}}, r.Tell())
}

// What a way of hiding hair takes stands on the shelf, so that the rule book can be asked about it.
func TestRoutinesTakeWhatThereIs(t *testing.T) {
	shelf := library()
	for _, r := range Routines {
		for _, slug := range r.Takes {
			assert.Contains(t, shelf, slug, r.ID)
		}
	}
}

func TestAClock(t *testing.T) {
	for at, want := range map[float64]string{0: "00:00", 322: "05:22", 1439.99: "23:59", -10: "23:50", 480: "08:00"} {
		assert.Equal(t, want, Clock(at), fmt.Sprint(at))
	}
}

// A morning that runs: what is ticked stands and moves the rest, a window that is open rings, and one that was missed is said and
// not pressed a second time.
func TestTicksMoveTheRest(t *testing.T) {
	shelf := library()
	run, err := Plan(t.Context(), []Piece{worn(t, "AA-01", "silicone_encapsulated", "cheek", "L")}, day(), Choices{ReadyMin: 480, Artists: []string{"Jun"}}, nil, shelf)
	require.NoError(t, err)
	ticks := map[string]Ticked{}
	still := Follow(run, ticks, run.Begin)
	assert.False(t, still.Begun)
	assert.InDelta(t, run.Chance, still.Chance, 1e-9)
	at := run.Begin
	done := func(id string, late float64) float64 {
		i := slices.IndexFunc(run.Steps, func(s Step) bool { return s.ID == id })
		at += run.Steps[i].Minutes + late
		end := at
		ticks[id] = Ticked{Done: &end}
		return end
	}
	for _, s := range run.Steps {
		if s.Kind == "glue" {
			break
		}
		done(s.ID, 0)
	}
	glued := done("glue AA-01", 5)
	late := Follow(run, ticks, glued)
	i := slices.IndexFunc(late.Steps, func(n Now) bool { return n.ID == "place AA-01" })
	place := late.Steps[i]
	assert.Equal(t, "next", place.State)
	assert.InDelta(t, glued+run.Steps[i].Window.FromMin, *place.From, 1e-9)
	assert.Equal(t, place.From, late.Rings)
	assert.Greater(t, late.Ready, still.Ready)
	assert.Less(t, late.Chance, still.Chance)
	gone := Follow(run, ticks, *place.Until+1)
	assert.Equal(t, "missed", gone.Steps[i].State)
	assert.Negative(t, *gone.Steps[i].Left)
}
