package fit

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"

	"gonum.org/v1/gonum/stat/distuv"
)

// Morning is what is to be done until a wearer is ready, and who is there for it.
type Morning struct {
	ReadyMin   float64 // minute of the day
	Artists    int
	AtOnce     int // who work on the wearer at the same time
	Activities []Activity
}

// Activity is one thing that is done, or waited for (no hands).
type Activity struct {
	ID        string
	Minutes   float64
	Low, High float64
	Hands     int
	Chair     bool // on the wearer; else in the workshop
	Zone      string
	Rest      bool // a break of the wearer
	After     []After
}

// After is what comes first, for how long to wait then, and until when it is too late.
type After struct {
	ID      string
	WaitMin float64
	Within  *float64
}

// Chair is the run of a morning, counted back from being ready. Minutes of the day where Plan says when;
// minutes from the first start in Earliest and Latest.
type Chair struct {
	NetworkMin   float64            `json:"network_min" doc:"how long it takes with hands enough"`
	MakespanMin  float64            `json:"makespan_min"`
	BoundMin     float64            `json:"bound_min" doc:"no plan is shorter than this; the makespan where that is proven the shortest"`
	StartMin     float64            `json:"start_min"`
	Chain        []string           `json:"chain"`
	ChainMin     float64            `json:"chain_min"`
	ChainMeanMin float64            `json:"chain_mean_min"`
	ChainSDMin   float64            `json:"chain_sd_min"`
	BufferMin    float64            `json:"buffer_min"`
	Start90Min   float64            `json:"start_90_min"`
	EarliestMin  map[string]float64 `json:"earliest_min"`
	LatestMin    map[string]float64 `json:"latest_min"`
	SlackMin     map[string]float64 `json:"slack_min"`
	Critical     []string           `json:"critical"`
	Plan         map[string]float64 `json:"plan"`
	CallMin      float64            `json:"call_min" doc:"when the performer is wanted; the day's minute"`
	Hands        map[string][]int   `json:"hands" doc:"which pairs of hands do it, counted from 0"`
	Warnings     []string           `json:"warnings"`
}

// near is how close two times are the same, min.
const near = 1e-9

// z90 is the 90th percentile of the standard normal distribution.
const z90 = 1.2815516

// breakMin is how long a wearer sits at most without a break.
const breakMin = 120

// PlanChair finds the shortest morning that keeps every wait and window and has hands for
// all of it. Refusal: contradiction at activities where no plan does, unknown_value at an unknown predecessor.
func PlanChair(ctx context.Context, m Morning) (Chair, error) {
	at := map[string]int{}
	for i, a := range m.Activities {
		at[a.ID] = i
	}
	for i, a := range m.Activities {
		for j, p := range a.After {
			if _, known := at[p.ID]; !known {
				return Chair{}, refusal.New(refusal.UnknownValue, fmt.Sprintf("activities[%d].after[%d].id", i, j), "There is no activity %s.", p.ID)
			}
		}
	}
	net := networkOf(m.Activities, at, true)
	if net == nil {
		return Chair{}, noPlan(m)
	}
	m.AtOnce = min(m.AtOnce, m.Artists)
	best, bound, err := shortest(ctx, m, net, map[[2]int]*network{})
	if err != nil {
		return Chair{}, err
	}
	if best == nil {
		return Chair{}, noPlan(m)
	}
	out := Chair{MakespanMin: best.end(m.Activities), BoundMin: bound, EarliestMin: map[string]float64{}, LatestMin: map[string]float64{}, SlackMin: map[string]float64{},
		Critical: []string{}, Warnings: []string{}}
	out.StartMin = m.ReadyMin - out.MakespanMin
	out.NetworkMin = net.end(m.Activities)
	latest := net.latest(m.Activities, out.NetworkMin)
	for i, a := range m.Activities {
		out.EarliestMin[a.ID], out.LatestMin[a.ID] = net.at(i), latest[i]
		slack := latest[i] - net.at(i)
		out.SlackMin[a.ID] = slack
		if slack < 1e-6 {
			out.Critical = append(out.Critical, a.ID)
		}
	}
	out.chain(m.Activities, at)
	out.Start90Min = out.StartMin - out.BufferMin
	out.lay(m, best)
	rests := 0
	for _, a := range m.Activities {
		if a.Rest {
			rests++
		}
	}
	if out.MakespanMin > breakMin*float64(1+rests)+near {
		out.Warnings = append(out.Warnings, "break_due")
	}
	return out, nil
}

func noPlan(m Morning) error {
	return refusal.New(refusal.Contradiction, "activities", "No order with %d pairs of hands keeps every window.", m.Artists)
}

// chain is the longest run of activities over the waits alone, and how far it is spread.
func (c *Chair) chain(acts []Activity, at map[string]int) {
	waits := networkOf(acts, at, false)
	last := 0
	for i, a := range acts {
		if waits.at(i)+a.Minutes > waits.at(last)+acts[last].Minutes+near {
			last = i
		}
	}
	var chain []int
	for i := last; i >= 0; {
		chain = append(chain, i)
		next := -1
		for _, p := range acts[i].After {
			j := at[p.ID]
			binds := math.Abs(waits.at(j)+acts[j].Minutes+p.WaitMin-waits.at(i)) < near
			if binds && !slices.Contains(chain, j) {
				next = j
				c.ChainMeanMin += p.WaitMin
				break
			}
		}
		i = next
	}
	slices.Reverse(chain)
	c.ChainMin = waits.at(last) + acts[last].Minutes
	variance := 0.0
	for _, i := range chain {
		a := acts[i]
		c.Chain = append(c.Chain, a.ID)
		c.ChainMeanMin += (a.Low + 4*a.Minutes + a.High) / 6
		variance += (a.High - a.Low) / 6 * (a.High - a.Low) / 6
	}
	c.ChainSDMin = math.Sqrt(variance)
	if c.ChainMeanMin > 0 {
		mu, sigma := logNormal(c.ChainMeanMin, c.ChainSDMin)
		c.BufferMin = math.Max(0, math.Exp(mu+z90*sigma)-c.ChainMin)
	}
}

func logNormal(mean, sd float64) (mu, sigma float64) {
	v := math.Log(1 + sd/mean*sd/mean)
	return math.Log(mean) - v/2, math.Sqrt(v)
}

// Chance is how likely the wearer is ready in time when the morning begins at start, the day's minute. The
// longest chain speaks for the whole: it is optimistic where several are nearly as long.
func (c Chair) Chance(readyMin, startMin float64) float64 {
	spare := readyMin - startMin - c.MakespanMin
	if c.ChainSDMin == 0 || c.ChainMeanMin == 0 {
		if spare >= c.ChainMeanMin-c.ChainMin {
			return 1
		}
		return 0
	}
	mu, sigma := logNormal(c.ChainMeanMin, c.ChainSDMin)
	if c.ChainMin+spare <= 0 {
		return 0
	}
	return distuv.LogNormal{Mu: mu, Sigma: sigma}.CDF(c.ChainMin + spare)
}

// lay gives each activity its hands and its time: the plan of the shortest morning with the performer called
// as late as that order allows.
func (c *Chair) lay(m Morning, best *network) {
	acts := m.Activities
	c.Plan = map[string]float64{}
	var firm *network
	firm, c.Hands = m.firm(best, best.at)
	latest := firm.latest(acts, c.MakespanMin)
	call := math.Inf(1)
	for i, a := range acts {
		if a.Chair {
			call = math.Min(call, latest[i])
		}
	}
	for i, a := range acts {
		if a.Chair && !math.IsInf(call, 1) {
			firm.add(firm.source(), i, call)
		}
	}
	if math.IsInf(call, 1) {
		call = 0
	}
	for i, a := range acts {
		c.Plan[a.ID] = c.StartMin + firm.at(i)
	}
	c.CallMin = c.StartMin + call
}

// firm is a network in which whoever has the same hands, place at the chair or zone comes after the one
// before, as they start now: such an order keeps its hands at whatever time it is laid.
func (m Morning) firm(w *network, begins func(i int) float64) (*network, map[string][]int) {
	acts, out, who := m.Activities, w.clone(), map[string][]int{}
	order := make([]int, len(acts))
	for i := range acts {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		if d := begins(a) - begins(b); math.Abs(d) > near {
			return cmp.Compare(d, 0)
		}
		return 0
	})
	hands, chair, zones := newQueue(m.Artists), newQueue(m.AtOnce), map[string]*queue{}
	for _, i := range order {
		a, begin := acts[i], begins(i)
		if a.Minutes == 0 {
			who[a.ID] = []int{}
			continue
		}
		comesAfter := func(before int) { out.add(before, i, acts[before].Minutes) }
		who[a.ID] = hands.take(a.Hands, begin, i, begin+a.Minutes, comesAfter)
		if a.Chair {
			chair.take(a.Hands, begin, i, begin+a.Minutes, comesAfter)
		}
		if a.Zone != "" {
			if zones[a.Zone] == nil {
				zones[a.Zone] = newQueue(1)
			}
			zones[a.Zone].take(1, begin, i, begin+a.Minutes, comesAfter)
		}
	}
	return out, who
}

// queue is some like hands: who had each last, and until when.
type queue struct {
	until []float64
	last  []int
}

func newQueue(n int) *queue {
	q := &queue{make([]float64, n), make([]int, n)}
	for i := range q.last {
		q.last[i] = -1
	}
	return q
}

// take gives n of them that are free from begin on, those of the one who had them last first, and tells
// who had each before.
func (q *queue) take(n int, begin float64, who int, until float64, after func(before int)) []int {
	took := []int{}
	for len(took) < n {
		pick := -1
		for i := range q.until {
			if q.until[i] > begin+near || slices.Contains(took, i) {
				continue
			}
			if pick < 0 || q.until[i] > q.until[pick]+near {
				pick = i
			}
		}
		took = append(took, pick)
	}
	for _, i := range took {
		if q.last[i] >= 0 {
			after(q.last[i])
		}
		q.last[i], q.until[i] = who, math.Max(until, q.until[i])
	}
	slices.Sort(took)
	return took
}
