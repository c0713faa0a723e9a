package copies

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A life goes forward: every state is reached from being made, a scrapped copy
// and one that left the shop stay what they are, and nothing comes back to being
// made.
func TestWhatMayFollow(t *testing.T) {
	reached := map[State]bool{Making: true}
	for range States {
		for _, from := range States {
			for _, to := range States {
				if reached[from] && to.MayFollow(from) {
					reached[to] = true
				}
			}
		}
	}
	for _, s := range States {
		assert.True(t, reached[s], "%s is never reached", s)
		assert.False(t, Making.MayFollow(s), "%s goes back to being made", s)
		assert.False(t, s.MayFollow(Scrapped), "a scrapped copy becomes %s", s)
		assert.Equal(t, s == Accepted || s == Spent, s.MayFollow(HandedOver), "a copy that left comes back whole or is spent, and not %s", s)
		assert.False(t, s.MayFollow(Spent), "a spent copy becomes %s", s)
		if s != Packed {
			assert.False(t, HandedOver.MayFollow(s), "%s leaves without being packed", s)
		}
	}
	assert.False(t, Accepted.MayFollow(Making), "nobody accepts what is not made")
	assert.True(t, Scrapped.MayFollow(Making), "what fails while it is made is scrapped")
}

// The groups that lists and counts go by split the states: good, coming and
// begun have none in common, and with the scrapped ones they are all.
func TestTheGroupsAreAllStatesOnce(t *testing.T) {
	n := map[State]int{}
	for _, group := range [][]State{good, coming, {Making}, {Scrapped}} {
		for _, s := range group {
			n[s]++
		}
	}
	for _, s := range States {
		assert.Equal(t, 1, n[s], "%s", s)
	}
	assert.Equal(t, "c.state IN ('accepted','packed','handed_over','spent') AND c.use_as = ''", GoodSQL("c"))
	assert.Equal(t, "being made", Making.Text())
	assert.Equal(t, "handed over", HandedOver.Text())
}

func TestLetters(t *testing.T) {
	for n, want := range map[int]string{1: "a", 26: "z", 27: "aa", 52: "az", 53: "ba", 702: "zz", 703: "aaa"} {
		assert.Equal(t, want, Letters(n))
	}
}

func TestCounts(t *testing.T) {
	c := Count{Wanted: 6, Good: 2, Coming: 1, Begun: 1, Planned: 1}
	assert.Equal(t, 1, c.Missing())
	assert.True(t, c.NeedsRun(), "what is only planned is the run that is needed")
	c.Planned = 5
	assert.Zero(t, c.Missing(), "never below zero")
}

// What is packed for a day serves that day only; what is free serves the
// earliest; spares are asked for first; where there are copies enough, later
// days wear them again.
func TestDaysAreServedInTheirOrder(t *testing.T) {
	list := []Need{{DayID: 1, PieceID: 7, Wanted: 1, There: 1}, {DayID: 2, PieceID: 7, Wanted: 2}, {DayID: 3, PieceID: 7, Wanted: 1}, {DayID: 3, PieceID: 8, Wanted: 1, Spare: 1}, {DayID: 4, PieceID: 8, Wanted: 1, Spare: 1}}
	serve(list, map[uint64]Count{7: {Wanted: 3, Good: 2, Free: 1, Begun: 1}, 8: {Wanted: 3, Coming: 1}})
	assert.Equal(t, []int{1, 1, 0}, []int{list[0].Good, list[1].Good, list[2].Good}, "the packed one serves its own day")
	assert.Equal(t, []int{0, 1, 0}, []int{list[0].Coming, list[1].Coming, list[2].Coming})
	assert.Equal(t, 1, list[2].Again, "three are wanted and three exist or come")
	assert.Zero(t, list[2].Missing)
	assert.Equal(t, []int{2, 1}, []int{list[3].Wanted, list[4].Wanted}, "the spare is asked for once")
	assert.Equal(t, []int{1, 1}, []int{list[3].Missing, list[4].Missing})
	assert.Equal(t, 1, list[3].Coming)
}
