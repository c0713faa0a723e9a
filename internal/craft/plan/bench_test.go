package plan

import (
	"fmt"
	"testing"
	"time"
)

// bigShop makes a shop of about so many steps: quarter hours over 170 days, twelve people, a mould a job.
func bigShop(steps int) *Instance {
	const day, days = 96, 170
	in := &Instance{Format: InstanceFormat, Name: fmt.Sprint("big-", steps), SlotMinutes: 15, Horizon: day * days}
	for c := range 3 {
		cal := Calendar{ID: fmt.Sprint("c", c)}
		for d := range days - 5 {
			if d%7 < 5 {
				at := d*day + 32 + 4*c
				cal.Regular = append(cal.Regular, Interval{at, at + 16}, Interval{at + 18, at + 34})
				cal.Overtime = append(cal.Overtime, Interval{at + 34, at + 42})
			}
		}
		in.Calendars = append(in.Calendars, cal)
	}
	skills := []string{"sculpt", "mould", "cast", "seam", "paint", "pack"}
	for p := range 12 {
		in.People = append(in.People, Person{fmt.Sprint("p", p), []string{skills[p%6], skills[(p+1)%6], skills[(p+3)%6]}, fmt.Sprint("c", p%3)})
	}
	in.Resources = []Resource{{ID: "bench", Type: Station, Capacity: 6}, {ID: "rack", Type: Rack, Capacity: 12}, {ID: "oven", Type: Oven, Capacity: 6, Turnaround: 2, Changeover: 4}}
	r := draws{7}
	for j := 0; len(in.Steps) < steps; j++ {
		id := fmt.Sprint("J", j)
		mould := id + ".M"
		in.Resources = append(in.Resources, Resource{ID: mould, Type: Mould, Capacity: 1, Turnaround: 4, Life: whole(40)})
		due := 8*day + j*day*days*4/10*6/2000 + r.below(6*day)
		in.Jobs = append(in.Jobs, Job{ID: id, Due: &due, Weight: whole(1 + r.below(3)), Risk: 1, Buffer: day})
		hands := func(name, skill string, work int, split bool, uses ...Use) {
			in.Steps = append(in.Steps, Step{ID: id + name, Job: id, Work: whole(work), Crew: []string{skill}, Split: split, Uses: uses})
		}
		hands(".sculpt", "sculpt", 16+r.below(40), true, Use{Resource: "bench"})
		hands(".cast", "cast", 3+r.below(4), false)
		in.Steps = append(in.Steps, Step{ID: id + ".bake", Job: id, Duration: whole(16), Family: "foam", Uses: []Use{{Resource: "oven"}}})
		hands(".out", "cast", 2, false)
		hands(".seam", "seam", 6+r.below(10), true)
		hands(".paint", "paint", 8+r.below(16), true)
		in.Links = append(in.Links, Link{From: id + ".sculpt", To: id + ".cast", Type: "FS", Min: day}, Link{From: id + ".cast", To: id + ".bake", Type: "FS", Min: 2, Max: whole(6)},
			Link{From: id + ".bake", To: id + ".out", Type: "FS", Min: 4, Max: whole(day)}, Link{From: id + ".out", To: id + ".seam", Type: "FS"}, Link{From: id + ".seam", To: id + ".paint", Type: "FS", Min: 8})
		in.Holds = append(in.Holds, Hold{ID: id + ".m", Resource: mould, From: id + ".cast", FromEvent: "start", To: id + ".out", ToEvent: "end"},
			Hold{ID: id + ".r", Resource: "rack", From: id + ".out", FromEvent: "end", To: id + ".paint", ToEvent: "start"})
	}
	return in
}

// How planning grows from 30 steps to 2,000: until the first plan, and what two seconds reach.
func BenchmarkFirstPlanBySteps(b *testing.B) {
	for _, n := range []int{30, 60, 240, 600, 2000} {
		in := bigShop(n)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				if _, err := Solve(in, Options{Seed: 1, Iterations: 1}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

func BenchmarkTwoSecondsOfPlanning(b *testing.B) {
	for _, n := range []int{30, 2000} {
		in := bigShop(n)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				end := time.Now().Add(2 * time.Second)
				p, err := Solve(in, Options{Seed: 1, Stop: func() bool { return time.Now().After(end) }})
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(p.Iterations)/2, "plans/s")
				b.ReportMetric(float64(p.Objective.Late), "late")
				b.ReportMetric(float64(p.Objective.Overtime), "overtime")
			}
		})
	}
}

// The acceptance of section 14 by seconds: the worst gap to the proven optimum over the reference instances.
func BenchmarkReferenceInstancesInTwoSeconds(b *testing.B) {
	for _, c := range read(b).Instances {
		b.Run(c.ID, func(b *testing.B) {
			for b.Loop() {
				worst, n := 0.0, 0
				for seed := range uint64(3) {
					end := time.Now().Add(2 * time.Second)
					p, err := Solve(&c.Instance, Options{Seed: seed + 1, Stop: func() bool { return time.Now().After(end) }})
					if err != nil {
						b.Fatal(err)
					}
					worst, n = max(worst, gap(&c.Instance, p.Objective, c.Optimum)), n+p.Iterations
				}
				b.ReportMetric(100*worst, "%gap")
				b.ReportMetric(float64(n)/6, "plans/s")
			}
		})
	}
}
