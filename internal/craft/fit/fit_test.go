package fit

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// morning draws a morning of up to most activities, without windows where windows is false.
func morning(t *rapid.T, most int, windows bool) Morning {
	m := Morning{ReadyMin: 420, Artists: rapid.IntRange(1, 3).Draw(t, "artists"), AtOnce: rapid.IntRange(1, 3).Draw(t, "at once")}
	n := rapid.IntRange(2, most).Draw(t, "n")
	for i := range n {
		a := Activity{ID: fmt.Sprint(i), Minutes: float64(rapid.IntRange(0, 12).Draw(t, "minutes")), Hands: rapid.IntRange(0, 1).Draw(t, "hands"), Chair: rapid.Bool().Draw(t, "chair")}
		a.Low, a.High = 0.8*a.Minutes, 1.5*a.Minutes
		a.Zone = rapid.SampledFrom([]string{"", "", "brow", "cheek"}).Draw(t, "zone")
		for j := range i {
			if rapid.IntRange(0, 3).Draw(t, "link") > 0 {
				continue
			}
			p := After{ID: fmt.Sprint(j), WaitMin: float64(rapid.IntRange(0, 4).Draw(t, "wait"))}
			if windows && rapid.Bool().Draw(t, "window") {
				within := p.WaitMin + float64(rapid.IntRange(0, 25).Draw(t, "within"))
				p.Within = &within
			}
			a.After = append(a.After, p)
		}
		m.Activities = append(m.Activities, a)
	}
	return m
}

// keeps says what a plan breaks, "" for nothing: read anew, moment by moment.
func keeps(m Morning, c Chair) string {
	begin := func(id string) float64 { return c.Plan[id] }
	by := map[string]Activity{}
	for _, a := range m.Activities {
		by[a.ID] = a
		if begin(a.ID)+a.Minutes > m.ReadyMin+1e-6 {
			return a.ID + " ends too late"
		}
	}
	for _, a := range m.Activities {
		for _, p := range a.After {
			gap := begin(a.ID) - begin(p.ID) - by[p.ID].Minutes
			if gap < p.WaitMin-1e-6 || p.Within != nil && gap > *p.Within+1e-6 {
				return fmt.Sprintf("%s comes %.1f min after %s", a.ID, gap, p.ID)
			}
		}
		at := begin(a.ID) + 1e-6
		hands, chair, zone := 0, 0, 0
		for _, b := range m.Activities {
			if b.Minutes > 1e-5 && begin(b.ID) <= at && begin(b.ID)+b.Minutes > at {
				hands += b.Hands
				if b.Chair {
					chair += b.Hands
				}
				if a.Zone != "" && b.Zone == a.Zone {
					zone++
				}
			}
		}
		if hands > m.Artists || chair > m.AtOnce || zone > 1 {
			return fmt.Sprintf("at %s: %d hands, %d at the chair, %d in its zone", a.ID, hands, chair, zone)
		}
	}
	for _, a := range m.Activities { // nobody does two things at once
		for _, b := range m.Activities {
			if a.ID >= b.ID || begin(a.ID)+a.Minutes <= begin(b.ID)+1e-6 || begin(b.ID)+b.Minutes <= begin(a.ID)+1e-6 {
				continue
			}
			if slices.ContainsFunc(c.Hands[a.ID], func(h int) bool { return slices.Contains(c.Hands[b.ID], h) }) {
				return a.ID + " and " + b.ID + " have the same hands"
			}
		}
	}
	return ""
}

// No plan breaks a window, hands or a zone silently.
func TestAMorningKeepsEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := morning(t, 12, true)
		c, err := PlanChair(t.Context(), m)
		if err != nil {
			return
		}
		if why := keeps(m, c); why != "" {
			t.Fatal(why)
		}
	})
}

// The shortest of small mornings against all of them on a grid of minutes.
func TestAMorningIsTheShortest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := morning(t, 5, true)
		for i := range m.Activities { // small numbers keep the grid small
			a := &m.Activities[i]
			a.Minutes = math.Floor(a.Minutes / 3)
			a.Low, a.High = a.Minutes, a.Minutes
			for j := range a.After {
				a.After[j].WaitMin = math.Floor(a.After[j].WaitMin / 2)
				if w := a.After[j].Within; w != nil {
					*w = a.After[j].WaitMin + math.Floor((*w-a.After[j].WaitMin)/8)
				}
			}
		}
		c, err := PlanChair(t.Context(), m)
		best := gridShortest(m, 14)
		switch {
		case best < 0 && err == nil && c.MakespanMin <= 14:
			t.Fatalf("the grid finds none, the search %v", c.MakespanMin)
		case best >= 0 && err != nil:
			t.Fatalf("the grid finds %d, the search none", best)
		case best >= 0 && math.Abs(float64(best)-c.MakespanMin) > 1e-9:
			t.Fatalf("the grid finds %d, the search %v", best, c.MakespanMin)
		}
	})
}

// gridShortest tries every start of every activity on whole minutes up to most; -1 for none.
func gridShortest(m Morning, most int) int {
	at := map[string]int{}
	starts := make([]int, len(m.Activities))
	for i, a := range m.Activities {
		at[a.ID] = i
	}
	best := -1
	var lay func(i, end int)
	lay = func(i, end int) {
		if best >= 0 && end >= best {
			return
		}
		if i == len(m.Activities) {
			best = end
			return
		}
		a := m.Activities[i]
		for s := 0; s+int(a.Minutes) <= most; s++ {
			starts[i] = s
			fits := true
			for _, p := range a.After {
				gap := float64(s-starts[at[p.ID]]) - m.Activities[at[p.ID]].Minutes
				fits = fits && gap >= p.WaitMin && (p.Within == nil || gap <= *p.Within)
			}
			for minute := 0; fits && minute < most; minute++ {
				hands, chair, zones := 0, 0, map[string]int{}
				for j := 0; j <= i; j++ {
					b := m.Activities[j]
					if starts[j] <= minute && minute < starts[j]+int(b.Minutes) {
						hands += b.Hands
						if b.Chair {
							chair += b.Hands
						}
						if b.Zone != "" {
							zones[b.Zone]++
						}
					}
				}
				fits = hands <= m.Artists && chair <= m.AtOnce && zones["brow"] <= 1 && zones["cheek"] <= 1
			}
			if fits {
				lay(i+1, max(end, s+int(a.Minutes)))
			}
		}
	}
	lay(0, 0)
	return best
}

// More hands never lengthen the chair: in mornings that are searched to the end and in longer ones.
func TestMoreHandsNeverTakeLonger(t *testing.T) {
	for _, most := range []int{12, 26} {
		rapid.Check(t, func(t *rapid.T) {
			m := morning(t, most, true)
			m.Artists, m.AtOnce = 1, 1
			last := math.Inf(1)
			for _, there := range [][2]int{{1, 1}, {2, 1}, {2, 2}, {3, 2}, {3, 3}} {
				m.Artists, m.AtOnce = there[0], there[1]
				c, err := PlanChair(t.Context(), m)
				if err != nil {
					if !math.IsInf(last, 1) {
						t.Fatalf("%v: none, with fewer hands %v", there, last)
					}
					continue
				}
				if c.MakespanMin > last+1e-9 || c.BoundMin > c.MakespanMin+1e-9 || c.NetworkMin > c.MakespanMin+1e-9 {
					t.Fatalf("%v: %v min (bound %v, network %v), with fewer hands %v", there, c.MakespanMin, c.BoundMin, c.NetworkMin, last)
				}
				last = c.MakespanMin
			}
		})
	}
}

// Two moments of no length that wait for each other fall together.
func TestMomentsThatWaitForEachOther(t *testing.T) {
	c, err := PlanChair(t.Context(), Morning{ReadyMin: 420, Artists: 1, AtOnce: 1, Activities: []Activity{{ID: "a", After: []After{{ID: "b"}}}, {ID: "b", After: []After{{ID: "a"}}}}})
	require.NoError(t, err)
	assert.Zero(t, c.MakespanMin)
}

// The chance to be ready is nine in ten at the start that says so, and grows with earlier starts.
func TestTheChanceToBeReady(t *testing.T) {
	m := Morning{ReadyMin: 420, Artists: 1, AtOnce: 1, Activities: []Activity{{ID: "a", Minutes: 40, Low: 30, High: 70, Hands: 1, Chair: true},
		{ID: "b", Minutes: 20, Low: 15, High: 40, Hands: 1, Chair: true, After: []After{{ID: "a"}}}}}
	c, err := PlanChair(t.Context(), m)
	require.NoError(t, err)
	assert.InDelta(t, 0.9, c.Chance(420, c.Start90Min), 1e-6)
	assert.Less(t, c.Chance(420, c.StartMin), 0.5)
	assert.Greater(t, c.Chance(420, c.Start90Min-10), 0.95)
	assert.Zero(t, c.Chance(420, 430))
}

// Hotter, harder, wetter, thicker: never longer; and against the hazard summed step by step.
func TestAHarderDayNeverLastsLonger(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := rapid.SampledFrom(Adhesives()).Draw(t, "adhesive")
		p := Part{ID: "p", Adhesive: a.ID, EdgeMM: rapid.Float64Range(0, 1).Draw(t, "edge"), Strain: rapid.Float64Range(0, 0.4).Draw(t, "strain"), Prep: true, InWindow: true, LengthCM: 10}
		s := []Segment{{3, rapid.Float64Range(-5, 40).Draw(t, "air"), "light", "acting"}, {2, 20, "none", "still"}}
		calm := Last(s, []Part{p}, UsualTouching)
		age, hazard := 0.0, 0.0
		const steps = 20_000
		for _, seg := range s {
			for range steps {
				r := rate(a, seg) * p.own(a)
				mid := age + r*seg.Hours/steps/2
				hazard += a.K / eta(a) * math.Pow(mid/eta(a), a.K-1) * r * seg.Hours / steps
				age += r * seg.Hours / steps
			}
		}
		if got := calm.Parts["p"].PLast; math.Abs(got-math.Exp(-hazard)) > 1e-5 {
			t.Fatalf("%v, summed %v", got, math.Exp(-hazard))
		}
		for _, harder := range []func(*Segment, *Part){
			func(s *Segment, _ *Part) { s.AirC += 5 }, func(s *Segment, _ *Part) { s.Sweat = "heavy" }, func(s *Segment, _ *Part) { s.Exertion = "running" },
			func(_ *Segment, p *Part) { p.EdgeMM += 0.2 }, func(_ *Segment, p *Part) { p.Strain += 0.1 }, func(_ *Segment, p *Part) { p.Prep = false }} {
			s2, p2 := slices.Clone(s), p
			harder(&s2[0], &p2)
			hard := Last(s2, []Part{p2}, UsualTouching)
			if hard.LookP > calm.LookP+1e-12 || hard.Parts["p"].MedianH > calm.Parts["p"].MedianH+1e-9 {
				t.Fatalf("harder lasts longer: %v, %v", hard.LookP, calm.LookP)
			}
		}
		if calm.LookPTouched < calm.LookP-1e-12 {
			t.Fatal("touching up makes it worse")
		}
	})
}

// A wider piece never comes off sooner, a stronger remover never later.
func TestAWiderPieceNeverComesOffSooner(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := rapid.SampledFrom(solvents.Pairs).Draw(t, "pair")
		w := Worn{ID: "w", What: p.What, Remover: p.Remover, WidthMM: rapid.Float64Range(1, 400).Draw(t, "width"), AreaCM2: 50, Access: rapid.Float64Range(0.1, 1).Draw(t, "access"), FoamMM: rapid.SampledFrom([]float64{0, 3, 20}).Draw(t, "foam")}
		u := Undressing{Hands: rapid.IntRange(1, 4).Draw(t, "hands"), WornH: 8, AirC: 21, Pieces: []Worn{w, {ID: "v", What: "wax", Remover: "oil", WidthMM: 20, AreaCM2: 9, Access: 1}}}
		narrow, err := TakeOff(u)
		require.NoError(t, err)
		u.Pieces = slices.Clone(u.Pieces)
		u.Pieces[0].WidthMM += rapid.Float64Range(0, 100).Draw(t, "wider")
		wide, err := TakeOff(u)
		require.NoError(t, err)
		if wide.SoakMin["w"] < narrow.SoakMin["w"]-1e-9 || wide.TotalMin < narrow.TotalMin-1e-9 {
			t.Fatalf("%v sooner than %v", wide.TotalMin, narrow.TotalMin)
		}
	})
}

// Damp and thick coats are never ready sooner; a window that is given stands.
func TestDampNeverDriesSooner(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := rapid.SampledFrom(Adhesives()).Draw(t, "adhesive")
		c := Coat{Adhesive: a.ID, State: a.States[0], RoomC: 24, RH: rapid.Float64Range(0.1, 0.6).Draw(t, "rh"), Air: "still", CoatMM: a.CoatMM}
		dry, err := WindowOf(c)
		require.NoError(t, err)
		damp, thick := c, c
		damp.RH += 0.1
		thick.CoatMM *= 1.5
		for _, worse := range []Coat{damp, thick} {
			if w, err := WindowOf(worse); err == nil && w.Earliest < dry.Earliest-1e-9 {
				t.Fatalf("%v before %v", w.Earliest, dry.Earliest)
			}
		}
	})
}

// Copies against every outcome, counted one by one; and large runs answer.
func TestCopiesAgainstEveryOutcome(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := Run{Days: rapid.IntRange(1, 3).Draw(t, "days"), PerDay: rapid.IntRange(1, 2).Draw(t, "per day"), Together: 1, MaxWears: rapid.IntRange(1, 3).Draw(t, "wears"),
			Loss: rapid.Float64Range(0, 0.3).Draw(t, "loss"), Survive: rapid.Float64Range(0.4, 1).Draw(t, "survive"), Confidence: 0.8}
		got := Copies(r)
		var all func(copies, served int) float64
		all = func(copies, served int) float64 {
			if copies == 0 {
				if served >= got.Uses {
					return 1
				}
				return 0
			}
			p, stays := 0.0, 1.0
			for k := range r.MaxWears {
				fails := r.Loss
				if k > 0 {
					fails = 1 - r.Survive*(1-r.Loss)
				}
				p += stays * fails * all(copies-1, served+k)
				stays *= 1 - fails
			}
			return p + stays*all(copies-1, served+r.MaxWears)
		}
		if got.Copies <= 6 {
			assert.InDelta(t, all(got.Copies, 0), got.P, 1e-9)
			assert.InDelta(t, all(got.Copies-1, 0), got.OneLess, 1e-9)
		}
		if got.P < r.Confidence-1e-9 || got.OneLess >= r.Confidence-1e-9 {
			t.Fatalf("%+v", got)
		}
	})
	many := Copies(Run{Days: 1000, PerDay: 50, Together: 7, MaxWears: 20, Loss: 0.9, Survive: 0.1, Confidence: 0.9999})
	assert.GreaterOrEqual(t, many.P, 0.9999)
	assert.Less(t, many.OneLess, 0.9999)
}

// An order goes from openings over points to eyes, and never back.
func TestPlacingGoesOutward(t *testing.T) {
	got := PlaceOrder([]Mark{{"far", [2]float64{9, 0}, "point"}, {"eye", [2]float64{0, 0}, "eye"}, {"near", [2]float64{1, 0}, "point"}, {"mouth", [2]float64{30, 0}, "opening"}}, &[2]float64{0, 0})
	assert.Equal(t, []string{"mouth", "near", "far", "eye"}, got.Order)
	assert.Empty(t, PlaceOrder(nil, nil).Order)
	assert.Equal(t, [2]float64{3, 4}, PlaceOrder([]Mark{{"eye", [2]float64{3, 4}, "eye"}}, nil).Centre, "of eyes alone it is theirs")
}

// BenchmarkChairOf16 is the goal of the chapter: 200 ms.
func BenchmarkChairOf16(b *testing.B) {
	m := bigMorning(16)
	for b.Loop() {
		if _, err := PlanChair(b.Context(), m); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkChairOf40 is a long morning, which is not searched to the end.
func BenchmarkChairOf40(b *testing.B) {
	m := bigMorning(40)
	for b.Loop() {
		if _, err := PlanChair(b.Context(), m); err != nil {
			b.Fatal(err)
		}
	}
}

// bigMorning is skin, then pieces that are glued within their windows, then edges and colour, for two.
func bigMorning(n int) Morning {
	within := 30.0
	m := Morning{ReadyMin: 480, Artists: 2, AtOnce: 2, Activities: []Activity{{ID: "skin", Minutes: 9, Low: 7, High: 12, Hands: 1, Chair: true}}}
	for i := 0; len(m.Activities)+3 <= n-1; i++ {
		zone := fmt.Sprint("zone", i%5)
		for _, a := range []Activity{{ID: fmt.Sprint("glue", i), Minutes: 4, After: []After{{ID: "skin"}}},
			{ID: fmt.Sprint("set", i), Minutes: float64(7 + i%4), After: []After{{ID: fmt.Sprint("glue", i), WaitMin: 4, Within: &within}}},
			{ID: fmt.Sprint("edge", i), Minutes: 6, After: []After{{ID: fmt.Sprint("set", i)}}}} {
			a.Low, a.High, a.Hands, a.Chair, a.Zone = 0.8*a.Minutes, 1.5*a.Minutes, 1, true, zone
			m.Activities = append(m.Activities, a)
		}
	}
	last := Activity{ID: "colour", Minutes: 25, Low: 20, High: 45, Hands: 1, Chair: true}
	for _, a := range m.Activities {
		last.After = append(last.After, After{ID: a.ID})
	}
	m.Activities = append(m.Activities, last)
	return m
}
