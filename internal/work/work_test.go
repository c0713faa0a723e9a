package work_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/work"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

type m = map[string]any

// One tap begins, one tap ends; who begins something else is done with the one before, and what was sent twice counts once.
func TestWorkIsBegunAndEnded(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	key := uuid.NewString()
	body := m{"act": "finish", "code": code + "-a", "title": "Finish it", "piece": code, "units": 1, "planned_min": 30, "key": key}
	var first, again, w work.Span
	b.As["pip"].Yes("POST", "/api/work", body, &first)
	b.As["pip"].Yes("POST", "/api/work", body, &again)
	assert.Equal(t, first.ID, again.ID)
	assert.Nil(t, first.Ended)
	assert.Equal(t, code, first.Piece)
	b.Clock.Set(shoptest.Monday.Add(40 * time.Minute))
	b.As["pip"].Yes("POST", "/api/work", m{"act": "check", "title": "Look at another", "key": uuid.NewString()}, &w)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM work_span WHERE open_of IS NOT NULL`))
	assert.InDelta(t, 40, b.Float(`SELECT TIMESTAMPDIFF(SECOND, began_at, ended_at)/60 FROM work_span WHERE id = ?`, first.ID), 0.1)
	// Begun by mistake: it leaves nothing to take back.
	b.Clock.Set(shoptest.Monday.Add(40*time.Minute + 10*time.Second))
	b.As["pip"].Yes("POST", "/api/work", m{"act": "check", "title": "The right one", "key": uuid.NewString()}, &again)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM work_span WHERE back_at IS NOT NULL AND id = ?`, w.ID))
	b.Clock.Set(shoptest.Monday.Add(time.Hour))
	assert.Equal(t, http.StatusForbidden, b.As["ivo"].No("POST", fmt.Sprintf("/api/work/%d/stop", again.ID), m{}).Status, "it is somebody else's")
	assert.Equal(t, "bad_order", b.As["pip"].No("POST", fmt.Sprintf("/api/work/%d/stop", again.ID), m{"ended_at": shoptest.Monday}).Code)
	assert.Equal(t, "ended_at", b.As["pip"].No("POST", fmt.Sprintf("/api/work/%d/stop", again.ID), m{"ended_at": shoptest.Monday.Add(9 * time.Hour)}).Field, "that is still to come")
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/work/%d/stop", again.ID), m{"interrupted": true, "note": " the door ", "units": 2}, &w)
	assert.True(t, w.Interrupted)
	assert.Equal(t, "the door", w.Note)
	assert.Equal(t, 2, w.Units)
	end := *w.Ended
	b.Clock.Set(shoptest.Monday.Add(2 * time.Hour))
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/work/%d/stop", again.ID), m{"note": "a word more"}, &w)
	assert.True(t, w.Ended.Equal(end), "a note that is added later does not move the end")
	b.As["pip"].Yes("DELETE", fmt.Sprintf("/api/work/%d", again.ID), nil, nil)
	assert.Equal(t, http.StatusNotFound, b.As["pip"].No("DELETE", fmt.Sprintf("/api/work/%d", again.ID), nil).Status)
}

// Two taps at once leave one thing that somebody is at.
func TestNobodyIsAtTwoThings(t *testing.T) {
	b := shoptest.New(t, nil)
	got := shoptest.Together(6, func(i int) (int, shoptest.Refused) {
		var no shoptest.Refused
		return b.As["pip"].Send("POST", "/api/work", m{"act": "other work", "title": fmt.Sprintf("Thing %d", i), "key": uuid.NewString()}, &no), no
	})
	assert.Equal(t, 6, got["yes"], got)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM work_span WHERE open_of IS NOT NULL`))
	assert.Equal(t, 6, b.Count(`SELECT COUNT(*) FROM work_span`))
}

// What nobody noted is noted later, in time that is free.
func TestWorkIsNotedLater(t *testing.T) {
	b := shoptest.New(t, nil)
	at := func(h, min int) time.Time {
		return shoptest.Monday.Truncate(24 * time.Hour).Add(time.Duration(h)*time.Hour + time.Duration(min)*time.Minute)
	}
	b.Clock.Set(at(15, 0))
	note := func(from, to time.Time) m {
		return m{"act": "other work", "title": "Swept", "began_at": from, "ended_at": to, "key": uuid.NewString()}
	}
	var w work.Span
	b.As["pip"].Yes("POST", "/api/work", note(at(10, 0), at(11, 0)), &w)
	assert.True(t, w.Later)
	assert.Equal(t, "overlaps", b.As["pip"].No("POST", "/api/work", note(at(10, 30), at(12, 0))).Code)
	b.As["pip"].Yes("POST", "/api/work", note(at(11, 0), at(12, 0)), &w)
	b.As["ivo"].Yes("POST", "/api/work", note(at(10, 30), at(12, 0)), &w)
	assert.Equal(t, "ended_at", b.As["pip"].No("POST", "/api/work", note(at(14, 0), at(16, 0))).Field)
	assert.Equal(t, "bad_order", b.As["pip"].No("POST", "/api/work", note(at(14, 0), at(13, 0))).Code)
	assert.Equal(t, "ended_at", b.As["pip"].No("POST", "/api/work", m{"act": "x", "title": "y", "began_at": at(9, 0), "key": uuid.NewString()}).Field)
	assert.Equal(t, "began_at", b.As["pip"].No("POST", "/api/work", m{"act": "x", "title": "y", "ended_at": at(9, 0), "key": uuid.NewString()}).Field)
	assert.Equal(t, "title", b.As["pip"].No("POST", "/api/work", m{"act": "x", "title": "  ", "key": uuid.NewString()}).Field)
	assert.Equal(t, http.StatusNotFound, b.As["pip"].No("POST", "/api/work", m{"act": "x", "title": "y", "piece": "ZZ-99", "key": uuid.NewString()}).Status)
	list, err := work.Of(t.Context(), b.S.DB, "pip", at(0, 0), at(24, 0))
	require.NoError(t, err)
	assert.Len(t, list, 2)
}

// Minutes become the next guess, by the handbook's rule: three that took 60 where 20 is usual, and one that was interrupted.
func TestMinutesAreLearned(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	day := shoptest.Monday.Truncate(24 * time.Hour)
	b.Clock.Set(day.Add(20 * time.Hour))
	note := func(from int, minutes time.Duration, units int, act string) (w work.Span) {
		began := day.Add(time.Duration(from) * time.Hour)
		b.As["pip"].Yes("POST", "/api/work", m{"act": act, "title": "Work", "piece": code, "units": units, "began_at": began, "ended_at": began.Add(minutes * time.Minute), "key": uuid.NewString()}, &w)
		return w
	}
	family := ""
	require.NoError(t, b.S.DB.GetContext(t.Context(), &family, `SELECT family FROM piece WHERE code = ?`, code))
	learned := func() work.Minutes {
		l, err := work.Learned(t.Context(), b.S.DB)
		require.NoError(t, err)
		return l
	}
	none := learned().Of(family, "coat", 20)
	assert.InDelta(t, 20, none.Median, 1e-9)
	assert.Zero(t, none.N)
	note(8, 60, 1, "coat 1")
	note(10, 120, 2, "coat 2") // two copies at once
	note(13, 60, 1, "coat")
	bad := note(15, 240, 1, "coat")
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/work/%d/stop", bad.ID), m{"interrupted": true}, nil)
	g := learned().Of(family, "coat 7", 20)
	assert.Equal(t, 3, g.N, "the interrupted one is left out")
	// Half of what was believed and half of what was seen: the geometric mean of 20 and 60.
	assert.InDelta(t, 34.641, g.Median, 0.001)
	assert.Less(t, g.Sigma, none.Sigma, "they agree with each other")
	assert.Zero(t, learned().Of("wax", "coat", 20).N, "of another material nothing is known")
}

// What was noted counts as spent on the piece's hours: once, under its own part.
func TestNotedHoursAreSpent(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	b.Clock.Set(shoptest.Monday.Add(8 * time.Hour))
	note := func(act string, minutes time.Duration) {
		began := shoptest.Monday.Add(time.Duration(b.Count(`SELECT COUNT(*) FROM work_span`)) * time.Hour)
		b.As["pip"].Yes("POST", "/api/work", m{"act": act, "title": "Work", "piece": code, "began_at": began, "ended_at": began.Add(minutes * time.Minute), "key": uuid.NewString()}, nil)
	}
	note(work.Finish, 30)
	note("pour", 30)
	note(work.Mould, 45)
	note(work.Pack, 15)
	var sum struct {
		Parts []struct {
			Part   string
			SpentH float64 `json:"spent_hours"`
		}
	}
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/hours", nil, &sum)
	spent := map[string]float64{}
	for _, p := range sum.Parts {
		spent[p.Part] += p.SpentH
	}
	assert.InDelta(t, 1, spent["copies"], 1e-9)
	assert.InDelta(t, 0.75, spent["mould"], 1e-9)
}
