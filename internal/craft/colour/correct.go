package colour

import (
	"context"
	"math"

	"yewmoor/internal/craft/refusal"
)

// Batched is a batch that was mixed and read (section 9). Nothing can be taken out of it.
type Batched struct {
	Asked            // what it is to look like, with the pigments that may be added
	Recipe    []Dose // as it was meant
	Read      *Spectrum
	ReadLab   Lab // where there is no spectrum
	ReadX     float64
	ReadOver  Spectrum
	MostBaseG float64 // of base that may be added
}

// Corrected is what to add.
type Corrected struct {
	Before, After Judged
	Add           []Dose // g
	AddBaseG      float64
	Rounded       []Dose // g
	RoundedD65    float64
	// Factors say of each pigment how much of what was written down is really in it.
	Factors []Dose
	Clamped []int // bands where the reading is brighter than the batch can be
	Load    float64
	Score   float64
	Verdict string // leave, no_help, corrected, improved, remake
}

// Correct finds what to add. Refusals as of Match.
func (b Batched) Correct(ctx context.Context) (Corrected, error) {
	var out Corrected
	intended, err := b.Base.MixedOf(b.Palette, b.Recipe, b.Age)
	if err != nil {
		return out, err
	}
	bare := b.Base.bare(b.Age)
	read, err := b.reading(&intended)
	if err != nil {
		return out, err
	}
	factors, err := b.factors(&bare, &read)
	if err != nil {
		return out, err
	}
	out.Factors = factors
	real, clamped, err := b.really(&bare, factors, &read)
	if err != nil {
		return out, err
	}
	out.Clamped = clamped
	had := map[string]bool{}
	for _, d := range b.Recipe {
		had[d.Pigment] = true
	}
	cost := func(id string) float64 {
		if had[id] {
			return PigmentCost
		}
		return 2 * PigmentCost
	}
	type tried struct {
		extra float64
		r     recipe
		p     *problem
		score float64
	}
	try := func(extra float64, only []int) (tried, error) {
		u := b.BatchG / (b.BatchG + extra)
		ground := bare
		for i := range Bands {
			ground.K[i] += u * (real.K[i] - bare.K[i])
			ground.S[i] += u * (real.S[i] - bare.S[i])
		}
		q := b.Asked
		q.ground, q.used, q.costs = &ground, u*Load(b.Recipe), cost
		q.BatchG = b.BatchG + extra
		q.OpacityMin, q.OpacityMax = 0, 1
		p, err := q.problem()
		if err != nil {
			return tried{}, err
		}
		best := tried{extra: extra, p: p, r: recipe{}}
		p.judge(&best.r)
		if only != nil {
			r := recipe{set: only, c: p.start(only)}
			p.refine(&r, 14, false, true)
			p.judge(&r)
			if r.score < best.r.score && p.allowed(&r, crSlack) {
				best.r = r
			}
		} else {
			found, err := p.search(ctx)
			if err != nil {
				return best, err
			}
			for _, r := range found {
				if r.score < best.r.score {
					best.r = r
				}
			}
		}
		best.score = best.r.score
		if extra > 0 {
			best.score += PigmentCost
		}
		return best, nil
	}
	best, err := try(0, nil)
	if err != nil {
		return out, err
	}
	none := recipe{}
	out.Before = best.p.judged(&none)
	if b.MostBaseG > 0 {
		for i := 1; i <= 8; i++ {
			t, err := try(b.MostBaseG*float64(i)/8, nil)
			if err != nil {
				return out, err
			}
			if t.score < best.score {
				best = t
			}
		}
		for step := b.MostBaseG / 16; best.extra > 0 && step > b.MostBaseG/2000; step /= 2 {
			set := best.r.set
			for _, extra := range []float64{best.extra - step, best.extra + step} {
				if extra <= 0 || extra > b.MostBaseG {
					continue
				}
				t, err := try(extra, set)
				if err != nil {
					return out, err
				}
				if t.score < best.score {
					best = t
				}
			}
		}
	}
	out.After, out.Score, out.AddBaseG = best.p.judged(&best.r), best.score, best.extra
	out.Load = out.After.Load
	for n, at := range best.r.set {
		pig := best.p.Pigments[at]
		out.Add = append(out.Add, Dose{pig.ID, best.r.c[n] * best.p.BatchG / 100})
	}
	out.RoundedD65 = out.After.DE00[D65]
	if len(best.r.set) > 0 {
		rounded := best.p.rounded(best.r)
		out.RoundedD65 = rounded.judged.DE00[D65]
		for n, at := range best.r.set {
			pig := best.p.Pigments[at]
			out.Rounded = append(out.Rounded, Dose{pig.ID, float64(rounded.count[n]) * best.p.unit(pig)})
		}
	}
	nothing := len(best.r.set) == 0 && best.extra == 0
	switch before, after := out.Before.DE00[D65], out.After.DE00[D65]; {
	case nothing && before <= 1:
		out.Verdict = "leave"
	case nothing:
		out.Verdict = "no_help"
	case after <= 1:
		out.Verdict = "corrected"
	case after <= 2:
		out.Verdict = "improved"
	default:
		out.Verdict = "remake"
	}
	return out, nil
}

// reading is the spectrum of what was read: as measured, or the smoothest change of what
// the recipe should have given.
func (b *Batched) reading(intended *Coefficients) (Spectrum, error) {
	if b.Read != nil {
		return *b.Read, nil
	}
	if !(b.ReadLab.L >= 1 && b.ReadLab.L <= 99) {
		return Spectrum{}, refusal.New("E_RANGE", "measured.lab", "L* lies between 1 and 99.")
	}
	over := intended.Over(b.ReadX, &b.ReadOver)
	var z0 Spectrum
	for i := range z0 {
		z0[i] = math.Atanh(2*clip(over[i]) - 1)
	}
	return smoothest(b.ReadLab, z0, true)
}

// factors are how much of each intended amount is really in the batch.
func (b *Batched) factors(bare *Coefficients, read *Spectrum) ([]Dose, error) {
	n := len(b.Recipe)
	if n == 0 {
		return nil, nil
	}
	parts := make([]Coefficients, n)
	for j, d := range b.Recipe {
		p, err := b.Palette.Find(d.Pigment, "recipe")
		if err != nil {
			return nil, err
		}
		parts[j].add(b.Base, &p.Coefficients, d.G)
	}
	x, lo, hi := make([]float64, n), make([]float64, n), make([]float64, n)
	for j := range x {
		x[j], hi[j] = 1, 4
	}
	least(x, lo, hi, Bands+n, 60, func(x, r []float64) {
		for i := range Bands {
			k, s := bare.K[i], bare.S[i]
			for j := range parts {
				k += x[j] * parts[j].K[i]
				s += x[j] * parts[j].S[i]
			}
			v, _, _ := film(k, s, b.ReadX, b.ReadOver[i])
			r[i] = (v - read[i]) / 0.005
		}
		for j := range x {
			r[Bands+j] = 0.3 * (x[j] - 1)
		}
	})
	var out []Dose
	for j, d := range b.Recipe {
		out = append(out, Dose{d.Pigment, x[j]})
	}
	return out, nil
}

// really is the batch as it read: S of what is in it, and the K that reads like that.
func (b *Batched) really(bare *Coefficients, factors []Dose, read *Spectrum) (out Coefficients, clamped []int, err error) {
	out = *bare
	for j, f := range factors {
		p, err := b.Palette.Find(f.Pigment, "recipe")
		if err != nil {
			return out, nil, err
		}
		out.add(b.Base, &p.Coefficients, b.Recipe[j].G*f.G)
	}
	for i := range Bands {
		k, ok := absorption(out.S[i], b.ReadX, b.ReadOver[i], read[i])
		if !ok {
			k = 0
			clamped = append(clamped, i)
		}
		out.K[i] = k
	}
	return out, clamped, nil
}
