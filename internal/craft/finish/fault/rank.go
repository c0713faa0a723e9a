package fault

import (
	"cmp"
	"maps"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Case is a fault as it was seen: on which material (empty where it is not known),
// what is known of it by evidence and state, and how often this shop confirmed each
// cause before.
type Case struct {
	Fault    string
	Material string
	Evidence map[string]string
	History  map[string]float64
}

// Weight is how much one thing speaks for or against a cause.
type Weight struct {
	Evidence string  `json:"evidence"`
	Weight   float64 `json:"weight"`
}

// Ranked is one cause with what speaks for and against it.
type Ranked struct {
	ID      string   `json:"id"`
	P       float64  `json:"p"`
	Prior   float64  `json:"prior"`
	Score   float64  `json:"score"`
	For     []Weight `json:"for"`
	Against []Weight `json:"against"`
}

// Ranking is every cause of a fault, the most likely first.
type Ranking struct {
	Top     string             `json:"top"`
	Order   []string           `json:"order"`
	P       map[string]float64 `json:"p"`
	Prior   map[string]float64 `json:"prior"`
	Entropy float64            `json:"entropy_bits"`
	Decided bool               `json:"decided" doc:"one cause stands clear of the others"`
	Causes  []Ranked           `json:"causes"`
}

// candidate is a cause that a fault may have on this material.
type candidate struct {
	Cause
	prior float64
}

// asked is a case with its tables looked up.
type asked struct {
	Case
	fault Fault
	cands []candidate
}

// read checks a case. Refusals: unknown_value at fault, material, evidence.ID or
// history.ID, contradiction at material.
func (c Case) read() (asked, error) {
	a := asked{Case: c}
	var ok bool
	if a.fault, ok = FaultOf(c.Fault); !ok {
		return a, refusal.New(refusal.UnknownValue, "fault", "%s is no fault of this book.", c.Fault)
	}
	if c.Material != "" && !Fits(a.fault.Materials, c.Material) {
		return a, refusal.New(refusal.Contradiction, "material", "%s does not come up in %s.", a.fault.Name, c.Material)
	}
	for _, id := range slices.Sorted(maps.Keys(c.Evidence)) {
		if e, known := EvidenceOf(id); !known || !e.Knows(c.Evidence[id]) {
			return a, refusal.New(refusal.UnknownValue, "evidence."+id, "%s cannot be %s.", id, c.Evidence[id])
		}
	}
	share := 0.0
	for _, id := range slices.Sorted(maps.Keys(a.fault.Causes)) {
		cause, known := CauseOf(id)
		if known && (c.Material == "" || Fits(cause.Materials, c.Material)) {
			a.cands = append(a.cands, candidate{cause, a.fault.Causes[id]})
			share += a.fault.Causes[id]
		}
	}
	total := 0.0
	for _, id := range slices.Sorted(maps.Keys(c.History)) {
		n := c.History[id]
		if !slices.ContainsFunc(a.cands, func(k candidate) bool { return k.ID == id }) {
			return a, refusal.New(refusal.UnknownValue, "history."+id, "%s is no cause of this fault.", id)
		}
		if !(n >= 0 && n <= 1e6) {
			return a, refusal.New(refusal.OutOfRange, "history."+id, "A count lies between 0 and a million.")
		}
		total += n
	}
	alpha := causes.Constants.Alpha
	for i := range a.cands {
		k := &a.cands[i]
		k.prior = (alpha*k.prior/share + c.History[k.ID]) / (alpha + total)
	}
	return a, nil
}

// chance is P(state | cause): the usual share of each state, moved by the cause's
// ratios and made to sum to one again.
func chance(c Cause, e Evidence, state string) float64 {
	sum, of := 0.0, 0.0
	for _, s := range e.States {
		p := s.P0
		if r, named := c.Ratios[e.ID][s.State]; named {
			p *= r
		}
		sum += p
		if s.State == state {
			of = p
		}
	}
	return of / sum
}

// weight is ln of how much more often this cause shows the state than is usual, held
// within the cap, wider for what is nearly the cause itself.
func weight(c Cause, e Evidence, state string) float64 {
	if c.Ratios[e.ID] == nil {
		return 0
	}
	usual := 0.0
	for _, s := range e.States {
		if s.State == state {
			usual = s.P0
		}
	}
	most := causes.Constants.Cap
	if slices.Contains(c.Defining, e.ID) {
		most = causes.Constants.CapDefining
	}
	return math.Max(-most, math.Min(most, math.Log(chance(c, e, state)/usual)))
}

// score is ln prior and, for each group of evidence, its strongest word for and its
// strongest against.
func (a asked) score(k candidate, evidence map[string]string) (float64, []Weight) {
	type pair struct{ most, least float64 }
	groups := map[string]pair{}
	var all []Weight
	for _, id := range slices.Sorted(maps.Keys(evidence)) {
		e, _ := EvidenceOf(id)
		w := weight(k.Cause, e, evidence[id])
		g := groups[e.Group]
		groups[e.Group] = pair{math.Max(g.most, w), math.Min(g.least, w)}
		if w != 0 {
			all = append(all, Weight{id, w})
		}
	}
	sum := math.Log(k.prior)
	for _, g := range slices.Sorted(maps.Keys(groups)) {
		sum += groups[g].most + groups[g].least
	}
	return sum, all
}

// posterior is the chance of each candidate, in their order.
func (a asked) posterior(evidence map[string]string) []float64 {
	out := make([]float64, len(a.cands))
	best := math.Inf(-1)
	for i, k := range a.cands {
		out[i], _ = a.score(k, evidence)
		best = math.Max(best, out[i])
	}
	sum := 0.0
	for i := range out {
		out[i] = math.Exp(out[i] - best)
		sum += out[i]
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}

func entropy(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}

// Rank orders the causes of a fault. Refusals as in Case.
func Rank(c Case) (Ranking, error) {
	a, err := c.read()
	if err != nil {
		return Ranking{}, err
	}
	p := a.posterior(c.Evidence)
	out := Ranking{P: map[string]float64{}, Prior: map[string]float64{}, Entropy: entropy(p)}
	for i, k := range a.cands {
		r := Ranked{ID: k.ID, P: p[i], Prior: k.prior, For: []Weight{}, Against: []Weight{}}
		var all []Weight
		r.Score, all = a.score(k, c.Evidence)
		slices.SortStableFunc(all, func(x, y Weight) int { return cmp.Compare(math.Abs(y.Weight), math.Abs(x.Weight)) })
		for _, w := range all {
			if w.Weight > 0 {
				r.For = append(r.For, w)
			} else {
				r.Against = append(r.Against, w)
			}
		}
		out.P[k.ID], out.Prior[k.ID] = p[i], k.prior
		out.Causes = append(out.Causes, r)
	}
	slices.SortFunc(out.Causes, func(x, y Ranked) int { return cmp.Or(cmp.Compare(y.P, x.P), cmp.Compare(x.ID, y.ID)) })
	for _, r := range out.Causes {
		out.Order = append(out.Order, r.ID)
	}
	out.Top = out.Order[0]
	second := 0.0
	if len(out.Causes) > 1 {
		second = out.Causes[1].P
	}
	k := causes.Constants
	out.Decided = out.Top != Other && out.Causes[0].P >= k.DecidedP-1e-9 && out.Causes[0].P >= k.DecidedRatio*second-1e-9
	return out, nil
}

// Looks are the things not looked at yet, the most telling first.
type Looks struct {
	Entropy float64            `json:"entropy_bits"`
	Open    int                `json:"open" doc:"how many things could still be looked at"`
	Order   []string           `json:"order"`
	Gain    map[string]float64 `json:"gain_bits"`
	Minutes map[string]float64 `json:"minutes"`
	Ask     map[string]string  `json:"ask"`
}

// worth says whether evidence can tell anything about this case: it is in a candidate's
// ratios and comes up in the material.
func (a asked) worth(e Evidence) bool {
	if _, known := a.Evidence[e.ID]; known {
		return false
	}
	if !slices.ContainsFunc(a.cands, func(k candidate) bool { return k.Ratios[e.ID] != nil }) {
		return false
	}
	if a.Material != "" {
		return Fits(e.Materials, a.Material)
	}
	return slices.ContainsFunc(a.fault.Materials, func(m string) bool { return Fits(e.Materials, m) })
}

// Next says which looks would tell most, at most limit of them. Refusals as in Case.
func Next(c Case, limit int) (Looks, error) {
	a, err := c.read()
	if err != nil {
		return Looks{}, err
	}
	p := a.posterior(c.Evidence)
	out := Looks{Entropy: entropy(p), Order: []string{}, Gain: map[string]float64{}, Minutes: map[string]float64{}, Ask: map[string]string{}}
	type look struct {
		Evidence
		gain float64
	}
	var looks []look
	for _, e := range causes.Evidence {
		if !a.worth(e) {
			continue
		}
		then := 0.0
		for _, s := range e.States {
			ps := 0.0
			for i, k := range a.cands {
				ps += p[i] * chance(k.Cause, e, s.State)
			}
			with := maps.Clone(c.Evidence)
			if with == nil {
				with = map[string]string{}
			}
			with[e.ID] = s.State
			then += ps * entropy(a.posterior(with))
		}
		looks = append(looks, look{e, math.Max(0, out.Entropy-then)})
	}
	out.Open = len(looks)
	slices.SortFunc(looks, func(x, y look) int {
		if d := y.gain - x.gain; math.Abs(d) > 1e-9 {
			return cmp.Compare(d, 0)
		}
		return cmp.Or(cmp.Compare(x.Minutes, y.Minutes), cmp.Compare(x.ID, y.ID))
	})
	for _, l := range looks[:min(limit, len(looks))] {
		out.Order = append(out.Order, l.ID)
		out.Gain[l.ID], out.Minutes[l.ID], out.Ask[l.ID] = l.gain, l.Minutes, l.Ask
	}
	return out, nil
}
