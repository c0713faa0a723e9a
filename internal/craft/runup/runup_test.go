package runup

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/plan"
)

const slot = 15

// days are working hours of days 0 to n-1, nine to five.
func days(n int) (out []plan.Interval) {
	for d := range n {
		out = append(out, plan.Interval{d*96 + 36, d*96 + 68})
	}
	return out
}

func small() Shop {
	return Shop{Name: "small", SlotMinutes: slot, Now: 36, Horizon: 96 * 14, People: []Person{{"Maud", true, nil, days(10), nil}, {"Pip", false, nil, days(10), nil}}, Ovens: []Oven{{Code: "oven", Takes: 2}},
		Moulds:    []Mould{{Code: "FT-01/M1", Ready: 96 + 48}},
		Jobs:      []Job{{ID: "day 3", Piece: "FT-01", Due: 2*96 + 68, Weight: 1}},
		FinishMin: map[string]float64{"FT-01": 60},
		Sessions: []Session{
			{Code: "a", Piece: "FT-01", Copies: 1, Stages: []Stage{{Act: "melt", HandsMin: 40}, {Act: "chill", HandsMin: 10, WaitMin: 180}, {Act: "open", HandsMin: 15}}, Moulds: []string{"FT-01/M1"}, Job: "day 3"},
			{Code: "b", Piece: "FT-01", Copies: 1, Stages: []Stage{{Act: "melt", HandsMin: 40}, {Act: "chill", HandsMin: 10, WaitMin: 180}, {Act: "open", HandsMin: 15}}, Moulds: []string{"FT-01/M1"}, Job: "day 3"}}}
}

func solved(t *testing.T, s Shop) (*plan.Instance, *plan.Plan, map[string]Label) {
	t.Helper()
	in, labels := s.Instance()
	p, err := plan.Solve(in, plan.Options{Seed: 1, Iterations: 2000})
	require.NoError(t, err)
	_, broken := plan.Check(in, p)
	require.Empty(t, broken)
	for _, st := range in.Steps {
		assert.Contains(t, labels, st.ID)
	}
	return in, p, labels
}

func at(p *plan.Plan, id string) plan.Placed {
	for _, s := range p.Steps {
		if s.ID == id {
			return s
		}
	}
	return plan.Placed{}
}

// Two turns of one mould that dries until the second noon: the day is met, but with another turn it is not, and it is said why.
func TestARunUpSaysWhyItIsLate(t *testing.T) {
	s := small()
	_, p, _ := solved(t, s)
	assert.Zero(t, p.Objective.Late)
	assert.GreaterOrEqual(t, at(p, "a.1").Start, 96+48, "not before the mould is dry")
	assert.GreaterOrEqual(t, at(p, "a.3").Start, at(p, "a.2").End+12, "it sets three hours")

	s.Jobs[0].Due = 96 + 68
	in, p, labels := solved(t, s)
	require.Positive(t, p.Objective.Late)
	late, err := plan.Explain(in, p)
	require.NoError(t, err)
	told := s.Tell(late, labels, func(n int) string { return fmt.Sprintf("day %d %02d:%02d", n/96, n%96/4, n%4*15) })
	require.Len(t, told, 1)
	assert.Equal(t, "FT-01", told[0].Piece)
	assert.Contains(t, told[0].Words, "FT-01/M1")
	assert.Equal(t, slot*p.Objective.Late, told[0].LateMin)
	assert.Equal(t, "day 3.pack", told[0].Steps[len(told[0].Steps)-1])
	// The planner's own answer: a second mould that is dry mends it, another pair of hands does not.
	_, with, err := plan.WhatIf(in, p, plan.Change{Type: "add_mould", Like: "FT-01/M1"}, plan.Options{Seed: 1, Iterations: 500})
	require.NoError(t, err)
	assert.Zero(t, with.Objective.Late)
	_, hands, err := plan.WhatIf(in, p, plan.Change{Type: "add_person", Like: "Pip"}, plan.Options{Seed: 1, Iterations: 500})
	require.NoError(t, err)
	assert.Positive(t, hands.Objective.Late)
}

// What is baked is in the oven soon after it is put there, in one batch with its like, and never when nobody is in.
func TestBakesShareTheOven(t *testing.T) {
	s := small()
	s.Moulds = []Mould{{Code: "AL-01/M1"}, {Code: "AL-01/M2"}}
	s.Sessions = nil
	for _, code := range []string{"a", "b"} {
		s.Sessions = append(s.Sessions, Session{Code: code, Piece: "AL-01", Copies: 1, Stages: []Stage{{Act: "whip", HandsMin: 30, WaitMin: 30, MostMin: 120}, {Act: "bake", HandsMin: 5, WaitMin: 180, Oven: "95"}, {Act: "wash", HandsMin: 30}}, Moulds: []string{"AL-01/M1", "AL-01/M2"}, Job: "day 3"})
	}
	for d := range 14 {
		s.Ovens[0].Down = append(s.Ovens[0].Down, plan.Interval{d*96 + 68, (d+1)*96 + 36})
	}
	s.Sessions[1].Stages[1].WaitMin = 170 // about as long: one batch, as long as the longer
	in, p, labels := solved(t, s)
	bake := at(p, "a.2.oven")
	assert.Equal(t, bake.Start, at(p, "b.2.oven").Start)
	assert.True(t, labels["a.2.oven"].Wait)
	assert.LessOrEqual(t, bake.Start-at(p, "a.2").End, 2)
	assert.LessOrEqual(t, bake.End%96, 68, "within the hours")
	assert.Equal(t, 12, bake.End-bake.Start)
	assert.Len(t, in.Holds, 2)
	// One that takes a single mould bakes them one after the other; two of those bake them side by side.
	s.Ovens = []Oven{{Code: "small", Takes: 1}}
	_, p, _ = solved(t, s)
	one, other := at(p, "a.2.oven"), at(p, "b.2.oven")
	assert.True(t, one.End <= other.Start || other.End <= one.Start)
	s.Ovens = append(s.Ovens, Oven{Code: "second", Takes: 1})
	s.Jobs[0].Due = 68
	_, p, _ = solved(t, s)
	assert.Zero(t, p.Objective.Late, "both are done within the first day")
	assert.NotEqual(t, at(p, "a.2.oven").Resources, at(p, "b.2.oven").Resources)
}

// Copies that dry keep their places on the racks until hands are at them again, and nothing is begun that would find none.
func TestWhatDriesStandsOnARack(t *testing.T) {
	s := small()
	s.Moulds, s.Sessions = nil, nil
	for _, code := range []string{"a", "b"} {
		s.Sessions = append(s.Sessions, Session{Code: code, Piece: "GC-01", Copies: 2, Job: "day 3",
			Stages: []Stage{{Act: "coat", HandsMin: 30, WaitMin: 600}, {Act: "coat", HandsMin: 30, WaitMin: 600}, {Act: "lift", HandsMin: 30}}})
	}
	s.FinishMin = map[string]float64{"GC-01": 60}
	s.FinishWait = map[string]float64{"GC-01": 120}
	apart := func(p *plan.Plan) bool {
		return at(p, "b.1").End >= at(p, "a.finish").Start || at(p, "a.1").End >= at(p, "b.finish").Start
	}
	_, p, _ := solved(t, s)
	assert.False(t, apart(p), "nobody said how much the racks take")
	s.Racks = 4
	_, p, _ = solved(t, s)
	assert.False(t, apart(p), "there is room for all")
	s.Racks = 3
	_, p, _ = solved(t, s)
	assert.True(t, apart(p), "there is room for one session's")
	// What stands there already takes its place away; what is beyond the room stands elsewhere.
	for n := range 4 {
		s.Copies = append(s.Copies, Copy{Code: fmt.Sprintf("GC-01-%d", n), Piece: "GC-01", FinishMin: 60, Job: "day 3"})
	}
	_, p, _ = solved(t, s)
	first := min(at(p, "a.1").End, at(p, "b.1").End)
	on := 0
	for n := range 4 {
		if at(p, fmt.Sprintf("GC-01-%d.finish", n)).Start > first {
			on++
		}
	}
	assert.LessOrEqual(t, on, 2, "of those that stood there two were taken first, and one more stood elsewhere")
	in, _ := s.Instance()
	since := 0
	for _, h := range in.Holds {
		if _, fixed := in.Fixed[h.From]; fixed {
			since += h.Qty
		}
	}
	assert.Equal(t, 3, since)
}

// A run that is open, a copy that waits for its verdict, and one that is only packed.
func TestWhatIsBegunGoesOn(t *testing.T) {
	s := small()
	next := s.Sessions[0]
	s.Sessions = []Session{{Code: "R-0007", Piece: "FT-01", Copies: 2, Open: true, From: 100, Stages: []Stage{{Act: "open", HandsMin: 20}}, Moulds: []string{"FT-01/M1"}, Job: "day 3"}, next}
	s.Moulds[0].Ready = 0
	s.Copies = []Copy{{Code: "FT-01-a", Piece: "FT-01", Job: "day 3"}, {Code: "FT-01-b", Piece: "FT-01", Good: true, Job: "day 3"}}
	due := 60
	s.Besides = []Besides{{ID: "x1", Text: "Fire drill", Minutes: 30, Deadline: &due}}
	in, p, _ := solved(t, s)
	assert.GreaterOrEqual(t, at(p, "R-0007.1").Start, 100)
	assert.GreaterOrEqual(t, at(p, "a.1").Start, at(p, "R-0007.1").End, "its mould is held since it was begun")
	assert.NotZero(t, at(p, "FT-01-a.check").End)
	assert.LessOrEqual(t, at(p, "x1.do").End, 60)
	assert.GreaterOrEqual(t, at(p, "day 3.pack").Start, at(p, "R-0007.check").End)
	for _, st := range in.Steps {
		assert.NotContains(t, st.ID, "FT-01-b.")
	}
}

// What is still in the clay is textured before its mould is built, and what somebody put somewhere stays there, by whom they said.
func TestTheClayComesBeforeItsMould(t *testing.T) {
	s := small()
	s.Moulds = nil
	s.NewMoulds = []NewMould{{Code: "FT-01/new", Piece: "FT-01", Job: "day 3", HandsMin: 120, DryMin: 600, ClayMin: 300, ShapeMin: 180}}
	for i := range s.Sessions {
		s.Sessions[i].Moulds = []string{"FT-01/new"}
	}
	_, p, labels := solved(t, s)
	clay, build := at(p, "FT-01/new.texture"), at(p, "FT-01/new.build")
	assert.GreaterOrEqual(t, build.Start, clay.End)
	assert.GreaterOrEqual(t, clay.Start, at(p, "FT-01/new.shape").End, "and its shape before its texture")
	assert.Equal(t, "FT-01 texture the sculpt", labels["FT-01/new.texture"].Text())
	who := s.People[len(s.People)-1].ID
	start := 2*96 + 40
	s.Pins = map[string]Pin{"FT-01/new.texture": {start, start + 20, who}}
	_, p, _ = solved(t, s)
	clay = at(p, "FT-01/new.texture")
	assert.Equal(t, start, clay.Start)
	assert.Equal(t, []string{who}, clay.People)
}
