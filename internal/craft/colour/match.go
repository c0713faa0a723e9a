package colour

import (
	"cmp"
	"context"
	"math"
	"runtime"
	"slices"
	"sync"

	"yewmoor/internal/craft/refusal"
)

// Asked is a recipe that is wanted (section 8): amounts of at most Most of the allowed
// pigments, g in 100 g of base, so that a piece X mm thick over Backing looks like Target.
type Asked struct {
	Target, Backing Spectrum
	Base            *Base
	Age             float64 // 0 to 1
	X               float64 // mm
	Pigments        []*Pigment
	Most            int
	Fixed           []Dose  // that must be in; they count for the load
	Palette         Palette // what fixed pigments and a batch's own are; the library where there is none
	BatchG          float64
	ResolutionG     float64
	MinWeighG       float64
	Drops           bool
	MaxLoad         float64 // g in 100 g; 0 for the base's own
	OpacityMin      float64
	OpacityMax      float64
	Metamerism      float64 // weight of the other lights
	Surface         *Surface

	// Of a correction: what is there already, and what a pigment costs of score.
	ground *Coefficients
	used   float64
	costs  func(id string) float64
}

// PigmentCost is what a pigment has to earn.
const PigmentCost = 0.05

// Judged is how a recipe does.
type Judged struct {
	DE00     [lights]float64
	J, Score float64
	Contrast float64
	Load     float64
	R        Spectrum
}

// Unit is what a pigment is dosed in: so many, each so many g.
type Unit struct {
	Pigment string
	Count   int
	UnitG   float64
}

// Alternative is one recipe of an answer.
type Alternative struct {
	Recipe []Dose
	Judged
	Grams        []Dose
	Rounded      []Unit
	RoundedDE00  [lights]float64
	RoundingCost float64
}

// Matched is an answer: alternatives, the best first; what the base alone would do.
type Matched struct {
	Alternatives []Alternative
	BaseOnly     Judged
	Reached      bool // within 1 ΔE00 under daylight
}

// most is how many pigments a set has at most.
const mostPigments = 5

// problem is what is asked, set up once for every set.
type problem struct {
	Asked
	m           int
	ground0     Coefficients
	k, s        []Spectrum // of each pigment in this base
	low, high   []float64
	cost        []float64
	load, limit float64
	target      [lights]Lab
	backing     Spectrum // inside of the surface
	metric      [lights][3][3]float64
	weight      [lights][3]Spectrum // white-normalised
	coef        [lights]float64
}

func (q Asked) problem() (*problem, error) {
	p := &problem{Asked: q, m: len(q.Pigments), load: q.used + Load(q.Fixed), limit: q.MaxLoad}
	if p.limit == 0 {
		p.limit = q.Base.MaxLoad
	}
	switch {
	case p.m == 0:
		return nil, refusal.New("E_NO_PIGMENT", "pigments", "Name at least one pigment that may be used.")
	case q.Most < 1 || q.Most > mostPigments:
		return nil, refusal.New("E_RANGE", "max_pigments", "A recipe has 1 to %d pigments.", mostPigments)
	case !(q.X >= 0.005 && q.X <= 50):
		return nil, refusal.New("E_RANGE", "thickness_mm", "A piece is 0.005 to 50 mm thick.")
	case !(q.BatchG >= 0.5 && q.BatchG <= 1e6):
		return nil, refusal.New("E_RANGE", "batch_base_g", "A batch has 0.5 g to 1000 kg of base.")
	case p.load > p.limit+1e-9:
		return nil, refusal.New("E_INFEASIBLE", "fixed", "What has to be in is %.2f g in 100 g; this base takes %.2f.", p.load, p.limit)
	}
	p.coef = [lights]float64{1, q.Metamerism / 3, q.Metamerism / 3, q.Metamerism / 3}
	p.backing = q.Backing
	if q.ground != nil {
		p.ground0 = *q.ground
	} else {
		p.ground0 = q.Base.bare(q.Age)
	}
	for _, d := range q.Fixed {
		pig, err := q.Palette.Find(d.Pigment, "fixed")
		if err != nil {
			return nil, err
		}
		p.ground0.add(q.Base, &pig.Coefficients, d.G)
	}
	feasible := false
	for _, pig := range q.Pigments {
		var c Coefficients
		c.add(q.Base, &pig.Coefficients, 1)
		p.k, p.s = append(p.k, c.K), append(p.s, c.S)
		p.low = append(p.low, 100*math.Max(p.minWeigh(), p.unit(pig))/q.BatchG)
		p.high = append(p.high, math.Min(q.Base.Cap(pig), p.limit-p.load))
		p.cost = append(p.cost, q.costOf(pig.ID))
		feasible = feasible || p.low[len(p.low)-1] <= p.high[len(p.high)-1]
	}
	if !feasible && q.ground == nil {
		return nil, refusal.New("E_INFEASIBLE", "min_weigh_g",
			"The least that can be weighed is more than this base takes of any pigment: mix more, or weigh finer.")
	}
	for k := range lights {
		p.target[k] = q.Target.Lab(k)
		for c := range 3 {
			for i := range Bands {
				p.weight[k][c][i] = sums[k][c][i] / whites[k][c]
			}
			at := func(d float64) [3]float64 {
				lab := p.target[k]
				switch c {
				case 0:
					lab.L += d
				case 1:
					lab.A += d
				default:
					lab.B += d
				}
				return residual(p.target[k], lab)
			}
			up, down := at(0.01), at(-0.01)
			for row := range 3 {
				p.metric[k][row][c] = (up[row] - down[row]) / 0.02
			}
		}
	}
	return p, nil
}

func (q *Asked) minWeigh() float64 {
	if q.MinWeighG > 0 {
		return q.MinWeighG
	}
	return 2 * q.ResolutionG
}

// unit is what a pigment is dosed in, g.
func (q *Asked) unit(pig *Pigment) float64 {
	if q.Drops && pig.DropG > 0 {
		return pig.DropG
	}
	return q.ResolutionG
}

func (q *Asked) costOf(id string) float64 {
	if q.costs != nil {
		return q.costs(id)
	}
	return PigmentCost
}

// recipe is amounts of a set of pigments.
type recipe struct {
	set   []int
	c     [mostPigments]float64
	j     float64
	score float64
	cr    float64
}

// material is the base with amounts of a set in it.
func (p *problem) material(set []int, c []float64) (out Coefficients) {
	out = p.ground0
	for n, at := range set {
		g := c[n]
		k, s := &p.k[at], &p.s[at]
		for i := range Bands {
			out.K[i] += g * k[i]
			out.S[i] += g * s[i]
		}
	}
	return out
}

// look is what a material looks like over the asked backing, and how opaque it is.
func (p *problem) look(c *Coefficients) (seen Spectrum, opacity float64) {
	y := &sums[D65][1]
	yb, yw := 0.0, 0.0
	for i := range seen {
		f := lay(c.K[i], c.S[i], p.X)
		seen[i] = f.over(p.backing[i])
		if p.Surface != nil {
			seen[i], _ = p.Surface.out(seen[i])
		}
		yb += y[i] * f.over(Black[i])
		yw += y[i] * f.over(White[i])
	}
	return seen, yb / yw
}

// judge works a recipe out exactly.
func (p *problem) judge(r *recipe) (Spectrum, [lights]float64) {
	mat := p.material(r.set, r.c[:len(r.set)])
	seen, opacity := p.look(&mat)
	var e [lights]float64
	r.j, r.cr = 0, opacity
	for k := range lights {
		e[k] = DE00(p.target[k], seen.Lab(k))
		r.j += p.coef[k] * e[k]
	}
	r.score = r.j
	for _, at := range r.set {
		r.score += p.cost[at]
	}
	return seen, e
}

// crSlack is how far a recipe may be off the asked opacity.
const crSlack = 0.002

func (p *problem) allowed(r *recipe, slack float64) bool {
	load := p.load
	for n := range r.set {
		load += r.c[n]
	}
	return load <= p.limit+1e-6 && r.cr >= p.OpacityMin-slack && r.cr <= p.OpacityMax+slack
}

// sets are all sets of 1 to most of m pigments that can be weighed at all.
func (p *problem) sets() (out [][]int) {
	var grow func(from int, set []int)
	grow = func(from int, set []int) {
		for at := from; at < p.m; at++ {
			if p.low[at] > p.high[at] {
				continue
			}
			next := append(slices.Clone(set), at)
			out = append(out, next)
			if len(next) < p.Most {
				grow(at+1, next)
			}
		}
	}
	grow(0, nil)
	return out
}

// each does work for every index, over the cores; the order of what it writes is its own.
func each(ctx context.Context, n int, work func(i int)) error {
	var wait sync.WaitGroup
	cores := min(runtime.GOMAXPROCS(0), n)
	for core := range cores {
		wait.Go(func() {
			for i := core; i < n && ctx.Err() == nil; i += cores {
				work(i)
			}
		})
	}
	wait.Wait()
	return ctx.Err()
}

// better puts recipes in order: by score, then by their pigments, so that the same question
// has the same answer on any number of cores.
func better(a, b recipe) int {
	return cmp.Or(cmp.Compare(a.score, b.score), slices.Compare(a.set, b.set))
}

// within says whether every pigment of a is in b.
func within(a, b []int) bool {
	for _, x := range a {
		if !slices.Contains(b, x) {
			return false
		}
	}
	return true
}

// earned leaves out what a strict subset does as well.
func earned(sorted []recipe, keep int) (out []recipe) {
	for _, r := range sorted {
		if slices.ContainsFunc(out, func(b recipe) bool {
			return len(b.set) < len(r.set) && within(b.set, r.set) && b.score <= r.score
		}) {
			continue
		}
		out = append(out, r)
		if len(out) == keep {
			break
		}
	}
	return out
}

// Match finds recipes. Refusals: E_NO_PIGMENT, E_RANGE, E_INFEASIBLE, E_UNKNOWN_PIGMENT.
func (q Asked) Match(ctx context.Context) (Matched, error) {
	p, err := q.problem()
	if err != nil {
		return Matched{}, err
	}
	found, err := p.search(ctx)
	if err != nil {
		return Matched{}, err
	}
	var out Matched
	none := recipe{}
	out.BaseOnly = p.judged(&none)
	out.Alternatives = make([]Alternative, len(found))
	if err := each(ctx, len(found), func(i int) { out.Alternatives[i] = p.alternative(found[i]) }); err != nil {
		return Matched{}, err
	}
	if len(out.Alternatives) == 0 {
		return out, refusal.New("E_INFEASIBLE", "opacity_min",
			"No recipe of these pigments is as opaque as that within what the base takes: thicker, or another base.")
	}
	out.Reached = out.Alternatives[0].DE00[D65] <= 1
	return out, nil
}

func (p *problem) judged(r *recipe) Judged {
	seen, e := p.judge(r)
	load := p.load
	for n := range r.set {
		load += r.c[n]
	}
	return Judged{DE00: e, J: r.j, Score: r.score, Contrast: r.cr, Load: load, R: seen}
}

// Judge is how a recipe does that somebody has already.
func (q Asked) Judge(doses []Dose) (Judged, error) {
	p, err := q.problem()
	if err != nil {
		return Judged{}, err
	}
	r, err := p.recipeOf(doses)
	if err != nil {
		return Judged{}, err
	}
	return p.judged(&r), nil
}

// finalists are how many sets are refined to the end.
const finalists = 14

func (p *problem) search(ctx context.Context) ([]recipe, error) {
	all := p.sets()
	linear := p.reference()
	done := map[int]bool{}
	var results []recipe
	for round, keep := range []int{120, 60} {
		ranks := make([]ranked, len(all))
		if err := each(ctx, len(all), func(i int) { ranks[i] = linear.screen(p, i, all[i]) }); err != nil {
			return nil, err
		}
		slices.SortFunc(ranks, func(a, b ranked) int { return cmp.Or(cmp.Compare(a.score, b.score), cmp.Compare(a.at, b.at)) })
		var chosen []ranked
		for _, r := range ranks {
			if done[r.at] {
				continue
			}
			if slices.ContainsFunc(chosen, func(b ranked) bool {
				return len(all[b.at]) < len(all[r.at]) && within(all[b.at], all[r.at]) && b.score <= r.score
			}) {
				continue
			}
			chosen = append(chosen, r)
			done[r.at] = true
			if len(chosen) == keep {
				break
			}
		}
		part := make([]recipe, len(chosen))
		if err := each(ctx, len(chosen), func(i int) {
			r := recipe{set: all[chosen[i].at], c: chosen[i].c}
			p.refine(&r, 7, false, false)
			p.judge(&r)
			part[i] = r
		}); err != nil {
			return nil, err
		}
		results = append(results, part...)
		slices.SortFunc(results, better)
		if round == 0 && len(results) > 0 {
			if at := slices.IndexFunc(results, func(r recipe) bool { return p.allowed(&r, 0.01) }); at >= 0 {
				linear = p.linearAt(results[at])
			}
		}
	}
	good := slices.DeleteFunc(slices.Clone(results), func(r recipe) bool { return !p.allowed(&r, 0.02) })
	last := earned(good, finalists)
	if err := each(ctx, len(last), func(i int) {
		p.refine(&last[i], 14, false, true)
		p.judge(&last[i])
	}); err != nil {
		return nil, err
	}
	last = slices.DeleteFunc(last, func(r recipe) bool { return !p.allowed(&r, crSlack) })
	slices.SortFunc(last, better)
	return earned(last, 5), nil
}

// alternative writes a recipe out, with its grams and what rounding costs.
func (p *problem) alternative(r recipe) Alternative {
	out := Alternative{Judged: p.judged(&r)}
	for n, at := range r.set {
		out.Recipe = append(out.Recipe, Dose{p.Pigments[at].ID, r.c[n]})
		out.Grams = append(out.Grams, Dose{p.Pigments[at].ID, r.c[n] * p.BatchG / 100})
	}
	best := p.rounded(r)
	out.RoundedDE00 = best.judged.DE00
	out.RoundingCost = best.judged.J - out.J
	for n, at := range r.set {
		out.Rounded = append(out.Rounded, Unit{p.Pigments[at].ID, best.count[n], p.unit(p.Pigments[at])})
	}
	return out
}
