package plan

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func whole(n int) *int { return &n }

// anyShop draws a small shop with every kind of step, link, hold and thing.
func anyShop(t *rapid.T) *Instance {
	pick := func(name string, lo, hi int) int { return rapid.IntRange(lo, hi).Draw(t, name) }
	yes := func(name string) bool { return rapid.Bool().Draw(t, name) }
	in := &Instance{Format: InstanceFormat, Name: "any", SlotMinutes: 60, Horizon: 24 * 21, Now: pick("now", 0, 20), SoonWindow: 24}
	for c := range 2 {
		cal := Calendar{ID: fmt.Sprint("c", c)}
		for d := range 14 {
			at := 24*d + 8 + 2*c
			cal.Regular = append(cal.Regular, Interval{at, at + 8})
			if yes("overtime") {
				cal.Overtime = append(cal.Overtime, Interval{at + 8, at + 10})
			}
		}
		in.Calendars = append(in.Calendars, cal)
	}
	skills := []string{"sculpt", "cast", "paint"}
	for p := range pick("people", 1, 3) {
		list := []string{skills[p%3]}
		for _, s := range skills {
			if s != list[0] && (p == 0 || yes("skill")) {
				list = append(list, s)
			}
		}
		in.People = append(in.People, Person{fmt.Sprint("p", p), list, fmt.Sprint("c", p%2)})
	}
	in.Resources = []Resource{{ID: "M1", Type: Mould, Capacity: 1, Turnaround: pick("turn", 0, 3)}, {ID: "M2", Type: Mould, Capacity: 1, Life: whole(pick("life", 3, 9))},
		{ID: "rack", Type: Rack, Capacity: 2, Turnaround: 1}, {ID: "oven", Type: Oven, Capacity: 3, Turnaround: 1, Changeover: pick("change", 0, 2)}}
	if yes("down") {
		in.Resources[0].Down = []Interval{{30, 50}}
	}
	for j := range pick("jobs", 1, 5) {
		id := fmt.Sprint("J", j)
		job := Job{ID: id, Risk: pick("risk", 0, 2), Buffer: pick("buffer", 0, 8)}
		if yes("due") {
			job.Due, job.Weight = whole(pick("day", 10, 120)), whole(pick("weight", 0, 3))
		}
		in.Jobs = append(in.Jobs, job)
		cast := Step{ID: id + ".cast", Job: id, Work: whole(pick("work", 1, 4)), Crew: []string{"cast"}}
		sculpt := Step{ID: id + ".sculpt", Job: id, Work: whole(pick("long", 1, 12)), Crew: []string{"sculpt"}, Split: true, Uses: []Use{{Resource: "rack"}}}
		bake := Step{ID: id + ".bake", Job: id, Duration: whole(4), Family: "a", Uses: []Use{{Resource: "oven", Qty: pick("qty", 1, 3)}}}
		if j%2 == 1 {
			bake.Family, bake.Duration = "b", whole(3)
		}
		out := Step{ID: id + ".out", Job: id, Work: whole(1), Crew: []string{"cast"}}
		paint := Step{ID: id + ".paint", Job: id, Work: whole(pick("paint", 1, 3)), Crew: []string{"paint"}}
		if len(in.People) > 1 && yes("two") {
			out.Crew = []string{"cast", "sculpt"}
		}
		in.Steps = append(in.Steps, sculpt, cast, bake, out, paint)
		in.Links = append(in.Links, Link{From: sculpt.ID, To: cast.ID, Type: "FS", Min: pick("dries", -1, 20)},
			Link{From: cast.ID, To: bake.ID, Type: "FS", Min: pick("gel", 0, 1), Max: whole(pick("gone", 1, 6))}, Link{From: bake.ID, To: out.ID, Type: "FS", Min: 0, Max: whole(pick("over", 16, 40))},
			Link{From: out.ID, To: paint.ID, Type: []string{"FS", "SS", "FF", "SF"}[pick("type", 0, 3)], Min: pick("wait", 0, 8)})
		in.Holds = append(in.Holds, Hold{ID: id + ".m", AnyOf: []string{"M1", "M2"}, From: cast.ID, FromEvent: "start", To: out.ID, ToEvent: "end"},
			Hold{ID: id + ".r", Resource: "rack", From: out.ID, FromEvent: "end", To: paint.ID, ToEvent: "start"})
		if j > 0 && yes("after") {
			in.Links = append(in.Links, Link{From: fmt.Sprint("J", j-1, ".out"), To: cast.ID, Type: "SS"})
		}
	}
	if in.Now > 12 && yes("begun") { // the first sculpt was done
		in.Fixed = map[string]Fixed{"J0.sculpt": {Start: 8, End: 12, People: []string{"p0"}, Resources: map[string]string{"J0.sculpt#1": "rack"}}}
	}
	return in
}

// Whatever the shop, a plan breaks no rule, counts as the checker counts, and lies above its bounds; or it is said why there is none.
func TestAnyPlanIsLegal(t *testing.T) {
	planned := 0
	rapid.Check(t, func(t *rapid.T) {
		in := anyShop(t)
		p, err := Solve(in, Options{Seed: 1, Iterations: 120})
		if err != nil {
			require.IsType(t, &Error{}, err)
			require.NotEmpty(t, err.(*Error).Message)
			return
		}
		planned++
		o, broken := Check(in, p)
		require.Empty(t, broken)
		require.Equal(t, o, p.Objective)
		require.GreaterOrEqual(t, o.Late, p.Bounds.Late)
		if p.Bounds.Overtime != nil && o.Late == 0 {
			require.GreaterOrEqual(t, o.Overtime, *p.Bounds.Overtime)
		}
		// A plan in force is kept where nothing asks for more.
		in.Baseline = nil
		for _, s := range p.Steps {
			in.Baseline = append(in.Baseline, Base{s.ID, s.Start, s.People, s.Resources})
		}
		again, err := Solve(in, Options{Seed: 2, Iterations: 60, From: p})
		require.NoError(t, err)
		require.False(t, p.Objective.Less(again.Objective), "%+v then %+v", p.Objective, again.Objective)
		_, err = Explain(in, again)
		require.NoError(t, err)
	})
	require.Positive(t, planned)
}
