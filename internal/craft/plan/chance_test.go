package plan

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat/distuv"
	"pgregory.net/rapid"
)

func exact(string) float64 { return 0 }

// With lengths as planned nothing is later than in the plan: the order is the same, and rules are only left out.
func TestWithoutSpreadThePlanIsKept(t *testing.T) {
	for _, c := range read(t).Instances {
		got, err := Chances(&c.Instance, &c.Plan, Draw{Step: exact, N: 1})
		require.NoError(t, err, c.ID)
		for _, g := range got {
			late := 0
			for i, st := range c.Plan.Steps {
				if c.Instance.Steps[i].Job == g.Of {
					late = max(late, st.End)
				}
			}
			for _, j := range c.Instance.Jobs {
				if j.ID == g.Of && late <= *j.Due {
					assert.Equal(t, 1.0, g.Met, "%s %s", c.ID, g.Of)
				}
			}
		}
	}
	rapid.Check(t, func(t *rapid.T) {
		in := anyShop(t)
		p, err := Solve(in, Options{Seed: 1, Iterations: 20})
		if err != nil {
			return
		}
		m, bad := compile(in)
		require.Nil(t, bad)
		r := newRetimer(m, p)
		for i := range m.steps {
			r.length[i] = m.steps[i].length
		}
		for l := range m.links {
			r.lags[l] = m.links[l].min
		}
		r.retime()
		for i, st := range p.Steps {
			require.LessOrEqual(t, r.end[i], st.End, st.ID)
		}
	})
}

// To fill what gaps there are makes nothing later than to keep the order, whatever was drawn; nobody is at two things at once.
func TestFilledGapsMakeNothingLater(t *testing.T) {
	sooner := 0
	rapid.Check(t, func(t *rapid.T) {
		in := anyShop(t)
		p, err := Solve(in, Options{Seed: 1, Iterations: 20})
		if err != nil {
			return
		}
		m, bad := compile(in)
		require.Nil(t, bad)
		strict, fills := newRetimer(m, p), newRetimer(m, p)
		fills.fills = true
		d := draws{rapid.Uint64().Draw(t, "seed")}
		for i := range m.steps {
			strict.length[i] = max(1, int(float64(m.steps[i].length)*math.Exp(0.4*d.normal())))
			fills.length[i] = strict.length[i]
		}
		for l := range m.links {
			strict.lags[l] = int(float64(m.links[l].min) * math.Exp(0.4*d.normal()))
			fills.lags[l] = strict.lags[l]
		}
		strict.retime()
		fills.retime()
		for i, st := range p.Steps {
			require.LessOrEqual(t, fills.end[i], strict.end[i], st.ID)
			if fills.end[i] < strict.end[i] {
				sooner++
			}
			for k, other := range p.Steps[:i] {
				for _, who := range st.People {
					if slices.Contains(other.People, who) && fills.end[i] < far && fills.end[k] < far {
						require.True(t, fills.end[i] <= fills.start[k] || fills.end[k] <= fills.start[i], "%s and %s by %s", st.ID, other.ID, who)
					}
				}
			}
		}
	})
	assert.Positive(t, sooner, "gaps are filled")
}

// Somebody who waits for one thing does the other: what is ready is not late for what is not.
func TestNobodyStandsIdleBesideWhatIsReady(t *testing.T) {
	one := 1
	in := &Instance{Format: InstanceFormat, Name: "two", SlotMinutes: 60, Horizon: 200, Calendars: []Calendar{{ID: "c", Regular: []Interval{{0, 200}}}},
		People: []Person{{ID: "a", Skills: []string{"x"}, Calendar: "c"}}, Jobs: []Job{{ID: "first", Due: whole(12)}, {ID: "second", Due: whole(13)}},
		Steps: []Step{{ID: "cure", Job: "first", Duration: whole(10)}, {ID: "open", Job: "first", Work: &one, Crew: []string{"x"}}, {ID: "paint", Job: "second", Work: &one, Crew: []string{"x"}, Release: whole(11)}},
		Links: []Link{{From: "cure", To: "open", Type: "FS"}}}
	p, err := Solve(in, Options{Seed: 1, Iterations: 50})
	require.NoError(t, err)
	require.Zero(t, p.Objective.Late)
	got, err := Chances(in, p, Draw{Step: func(id string) float64 {
		if id == "cure" {
			return 0.5
		}
		return 0
	}, N: 400, Seed: 1})
	require.NoError(t, err)
	for _, c := range got {
		if c.Of == "second" {
			assert.Greater(t, c.Met, 0.97, "it waits for nobody's cure")
		} else {
			assert.Less(t, c.Met, 0.8)
		}
	}
}

// One step at all hours: its chance is that of its own distribution. A later day is never less likely.
func TestTheChanceOfOneStepIsItsOwn(t *testing.T) {
	in := &Instance{Format: InstanceFormat, Name: "one", SlotMinutes: 5, Horizon: 5000, Calendars: []Calendar{{ID: "c", Regular: []Interval{{0, 5000}}}}, People: []Person{{"p", []string{"x"}, "c"}},
		Jobs: []Job{{ID: "J"}}, Steps: []Step{{ID: "s", Job: "J", Work: whole(200), Crew: []string{"x"}}}}
	before := 0.0
	for _, due := range []int{120, 170, 200, 240, 330} {
		in.Jobs[0].Due = whole(due)
		p, err := Solve(in, Options{Seed: 1, Iterations: 1})
		require.NoError(t, err)
		got, err := Chances(in, p, Draw{Step: func(string) float64 { return 0.35 }, N: 4000, Seed: 9})
		require.NoError(t, err)
		want := distuv.UnitNormal.CDF(math.Log(float64(due)/200) / 0.35)
		assert.InDelta(t, want, got[0].Met, 0.03, "due %d", due)
		assert.GreaterOrEqual(t, got[0].Met, before)
		assert.LessOrEqual(t, got[0].Low, got[0].Met)
		assert.GreaterOrEqual(t, got[0].High, got[0].Met)
		before = got[0].Met
		again, err := Chances(in, p, Draw{Step: func(string) float64 { return 0.35 }, N: 4000, Seed: 9})
		require.NoError(t, err)
		assert.Equal(t, got, again, "the same seed")
	}
}

// A day is met when all its jobs are: never more often than the least of them. Waits that are drawn make it less sure.
func TestADayIsAllItsJobs(t *testing.T) {
	v := read(t)
	in := v.of("d10-mixed-27")
	p, err := Solve(in, Options{Seed: 1, Iterations: 3000})
	require.NoError(t, err)
	draw := Draw{Step: func(string) float64 { return 0.35 }, Waits: 0.2, N: 400, Seed: 3}
	each, err := Chances(in, p, draw)
	require.NoError(t, err)
	draw.Group = func(string) string { return "day" }
	all, err := Chances(in, p, draw)
	require.NoError(t, err)
	require.Len(t, all, 1)
	for _, c := range each {
		assert.LessOrEqual(t, all[0].Met, c.Met, c.Of)
	}
	assert.Less(t, all[0].Met, 1.0)
}

// A plan that is laid as early as it goes is sound, never worse, and no step of it begins later.
func TestEarlierIsNeverWorse(t *testing.T) {
	changed := 0
	for _, c := range read(t).Instances {
		p, err := Solve(&c.Instance, Options{Seed: 1, Iterations: 200})
		require.NoError(t, err)
		e := Earlier(&c.Instance, p)
		o, broken := Check(&c.Instance, e)
		assert.Empty(t, broken, c.ID)
		assert.False(t, p.Objective.Less(o), c.ID)
		assert.Equal(t, o, e.Objective, c.ID)
		sum := func(p *Plan) (n int) {
			for _, s := range p.Steps {
				n += s.Start
			}
			return n
		}
		assert.LessOrEqual(t, sum(e), sum(p), c.ID)
		if e != p {
			changed++
		}
	}
	assert.Positive(t, changed, "some of them can be laid so")
}
