package today_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/today"
)

type day struct {
	*shoptest.Bench
	code string
}

// latex is a shop with one piece of latex that is worn in three weeks.
func latex(t *testing.T) day {
	b := shoptest.New(t, nil)
	b.Everything()
	d := day{b, b.By("latex_slush", "GC", "nose", 3)}
	b.DayOf(d.code, "2026-02-02")
	return d
}

func (d day) mine(who, of string) (v today.Mine) {
	d.T.Helper()
	d.As[who].Yes("GET", "/api/today/mine?person="+of, nil, &v)
	return v
}

// Somebody's day is the plan's: what now, with what, how long, what it frees and what follows; one tap begins it.
func TestADayByThePlan(t *testing.T) {
	d := latex(t)
	v := map[string]today.Mine{}
	var turns []today.Task
	for _, who := range []string{"maud", "ivo", "pip"} {
		v[who] = d.mine(who, "")
		assert.Equal(t, who, v[who].Person)
		if v[who].Now != nil && v[who].Now.Step != "" {
			turns = append(turns, *v[who].Now)
		}
		turns = append(turns, v[who].Then...)
	}
	require.NotEmpty(t, turns)
	var words string
	for _, task := range turns {
		assert.NotEmpty(t, task.Why, task.Title)
		assert.Positive(t, task.Minutes, task.Title)
		words += task.With + ";" + task.Frees + ";" + task.Follows + ";"
	}
	assert.Contains(t, words, "then ")
	// The same step is nobody else's, and the list that everybody has names no planned thing twice.
	seen := map[string]bool{}
	for _, task := range turns {
		assert.False(t, seen[task.Step], task.Step)
		seen[task.Step] = true
	}
	i := slices.IndexFunc(turns, func(x today.Task) bool { return x.InS == 0 && x.Bar == "" })
	require.GreaterOrEqual(t, i, 0, "something may be begun now")
	x := turns[i]
	d.As["pip"].Yes("POST", "/api/work", m{"act": x.Act, "code": x.Code, "title": x.Title, "step": x.Step, "piece": x.Piece, "units": 1, "planned_min": x.Minutes, "key": uuid.NewString()}, nil)
	d.Clock.Set(shoptest.Monday.Add(25 * time.Minute))
	mine := d.mine("pip", "")
	require.NotNil(t, mine.Doing)
	assert.Equal(t, x.Title, mine.Doing.Title)
	assert.False(t, mine.Open)
	assert.Len(t, mine.Did, 1)
	d.As["pip"].Yes("POST", fmt.Sprintf("/api/work/%d/stop", mine.Doing.ID), m{"note": "done"}, nil)
	assert.Nil(t, d.mine("pip", "").Doing)
	// A lead sees everybody; nobody else does.
	assert.ElementsMatch(t, []string{"maud", "ivo", "pip"}, d.mine("maud", "pip").People)
	assert.Len(t, d.mine("maud", "pip").Did, 1)
	assert.Equal(t, http.StatusForbidden, d.As["ivo"].No("GET", "/api/today/mine?person=pip", nil).Status)
	assert.Equal(t, http.StatusNotFound, d.As["maud"].No("GET", "/api/today/mine?person=nobody", nil).Status)
}

// What the rule book forbids is not offered, and says so without a word of anybody's health.
func TestWhatIsForbiddenIsNotOffered(t *testing.T) {
	d := latex(t)
	all := func() (list []today.Task, now []*today.Task) {
		for _, who := range []string{"maud", "ivo", "pip"} {
			v := d.mine(who, "")
			list = append(list, v.Then...)
			now = append(now, v.Now)
		}
		return list, now
	}
	d.As["ivo"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", d.Wearer(d.code)), m{"substance": "latex", "status": "allergic"}, nil)
	list, now := all()
	barred := 0
	for _, x := range list {
		if x.Bar != "" {
			barred++
			assert.NotContains(t, strings.ToLower(x.Bar), "allerg")
		}
	}
	assert.Positive(t, barred)
	for _, x := range now {
		if x != nil {
			assert.Empty(t, x.Bar)
			assert.NotEqual(t, d.code, x.Piece, x.Title)
		}
	}
}

// Working time without a word is a gap of yesterday and today; said later it is none, and what was never ended asks when it did.
func TestGapsAreCompleted(t *testing.T) {
	b := shoptest.New(t, nil)
	d := day{b, ""}
	at := func(days, h, min int) time.Time {
		return shoptest.Monday.Truncate(24*time.Hour).AddDate(0, 0, days).Add(time.Duration(h)*time.Hour + time.Duration(min)*time.Minute)
	}
	b.Clock.Set(at(1, 11, 0)) // Tuesday
	gaps := d.mine("pip", "").Gaps
	require.Len(t, gaps, 2, "Monday, and this morning")
	assert.True(t, gaps[0].From.Equal(at(0, 9, 0)) && gaps[0].To.Equal(at(0, 17, 0)))
	assert.True(t, gaps[1].From.Equal(at(1, 9, 0)) && gaps[1].To.Equal(at(1, 11, 0)))
	note := func(from, to time.Time) {
		b.As["pip"].Yes("POST", "/api/work", m{"act": "other work", "title": "Swept", "began_at": from, "ended_at": to, "key": uuid.NewString()}, nil)
	}
	note(at(0, 9, 0), at(0, 12, 0))
	note(at(0, 12, 20), at(0, 16, 30)) // half an hour is no gap
	gaps = d.mine("pip", "").Gaps
	require.Len(t, gaps, 1)
	note(at(1, 10, 0), at(1, 10, 30))
	gaps = d.mine("pip", "").Gaps
	require.Len(t, gaps, 1)
	assert.True(t, gaps[0].From.Equal(at(1, 9, 0)) && gaps[0].To.Equal(at(1, 10, 0)))
	// Who was away has no gap.
	b.As["maud"].Yes("POST", "/api/plan/hours", m{"kind": "away", "person": "ivo", "day": at(1, 0, 0), "from_min": 0, "to_min": 1440}, nil)
	assert.Len(t, d.mine("ivo", "").Gaps, 1)
	b.As["pip"].Yes("POST", "/api/work", m{"act": "other work", "title": "Forgotten", "key": uuid.NewString()}, nil)
	b.Clock.Set(at(2, 9, 30))
	v := d.mine("pip", "")
	require.NotNil(t, v.Doing)
	assert.True(t, v.Open, "it was begun yesterday")
}

// What the plan in force had for yesterday and nobody did is named.
func TestWhatWasLeftIsNamed(t *testing.T) {
	d := latex(t)
	d.As["ivo"].Yes("POST", "/api/plan/take", nil, nil)
	d.Clock.Set(shoptest.Monday.AddDate(0, 0, 1))
	left := 0
	for _, who := range []string{"maud", "ivo", "pip"} {
		for _, x := range d.mine(who, "").Left {
			left++
			assert.NotEmpty(t, x.Step)
			assert.True(t, x.At.Before(shoptest.Monday.AddDate(0, 0, 1).Truncate(24*time.Hour)))
		}
	}
	assert.Positive(t, left)
}

// No kind of task hides the others: two of a kind stand by themselves, the rest is one line.
func TestNoKindHidesTheOthers(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	for range 5 {
		b.NewPiece("Cheek", "cheek", "L")
	}
	v := b.Today()
	agree := 0
	for _, task := range append([]today.Task{*v.Now}, v.Then...) {
		if strings.HasPrefix(task.Title, "Agree the brief of") {
			agree++
		}
	}
	assert.LessOrEqual(t, agree, 3)
	last := v.Then[len(v.Then)-1]
	assert.Contains(t, last.Title, "more")
	assert.Equal(t, "/brief", last.Link)
}
