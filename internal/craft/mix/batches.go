package mix

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Codes of the refusals of planning.md section 11.
const (
	TooSmallBowl = "E_BOWL"
	TooShortLife = "E_POT_LIFE"
)

// Batches is how a number of equal pieces is to be mixed: ml and minutes. What is
// 0 does not limit, but for the volume.
type Batches struct {
	VolumeML    float64 // of one piece, as it stands in the mould
	Waste       float64 // share on top
	Expansion   float64 // what was whipped stands that many times as high; 0 and 1 for what is not
	FixedLossML float64 // what stays in the bowl, whatever the size
	BowlML      float64
	MinMixML    float64
	Pieces      int
	PotLifeMin  float64
	PrepMin     float64 // from the first contact to the first pour
	PourMin     float64 // one piece
	Pourers     int
	MouldsFree  int
}

// Split is the answer: mixes as even as they go, the larger ones first.
type BatchPlan struct {
	PerMix    int       `json:"per_mix"`
	Limit     string    `json:"limit" enum:"bowl,pot_life,moulds,none" doc:"what keeps one mix from being larger"`
	Mixes     int       `json:"mixes"`
	Sizes     []int     `json:"sizes"`
	VolumesML []float64 `json:"volumes_ml"`
	RawML     []float64 `json:"raw_ml" doc:"before it is whipped"`
}

// into is how many times a piece goes into a whole, where both are decimals.
func into(whole, piece float64) int { return int(math.Floor(whole/piece + 1e-9)) }

// decimal takes the noise of binary fractions off a figure that is written in decimals.
func decimal(x float64) float64 { return math.Round(x*1e9) / 1e9 }

// Plan divides it.
func (b Batches) Plan() (BatchPlan, error) {
	switch {
	case !(b.VolumeML > 0) || b.VolumeML > 1e7:
		return BatchPlan{}, refusal.New(refusal.OutOfRange, "volume_ml", "The volume of one piece must be above zero.")
	case b.Waste < 0 || b.Waste > 2:
		return BatchPlan{}, refusal.New(refusal.OutOfRange, "waste", "Waste is between 0 and 200 %%.")
	case b.Pieces < 1 || b.Pieces > 10000:
		return BatchPlan{}, refusal.New(refusal.OutOfRange, "pieces", "How many pieces? At least one.")
	case b.Expansion < 0 || b.Expansion > 30:
		return BatchPlan{}, refusal.New(refusal.OutOfRange, "expansion", "It rises to between 1 and 30 times its volume.")
	}
	one := b.VolumeML * (1 + b.Waste)
	out := BatchPlan{PerMix: b.Pieces, Limit: "none"}
	limit := func(n int, by string) {
		if n < out.PerMix {
			out.PerMix, out.Limit = n, by
		}
	}
	if b.BowlML > 0 {
		n := into(b.BowlML-b.FixedLossML, one)
		if n < 1 {
			return out, refusal.New(TooSmallBowl, "bowl_ml", "One piece wants %.4g ml, and the bowl holds %.4g.", one+b.FixedLossML, b.BowlML)
		}
		limit(n, "bowl")
	}
	if b.PotLifeMin > 0 && b.PourMin > 0 {
		n := max(1, b.Pourers) * into(b.PotLifeMin-b.PrepMin, b.PourMin)
		if n < 1 {
			return out, refusal.New(TooShortLife, "pot_life_min", "It is too thick before one piece is poured: %.4g min until it is ready and %.4g to pour, of %.4g.", b.PrepMin, b.PourMin, b.PotLifeMin)
		}
		limit(n, "pot_life")
	}
	if b.MouldsFree > 0 {
		limit(b.MouldsFree, "moulds")
	}
	out.Mixes = (b.Pieces + out.PerMix - 1) / out.PerMix
	rise := math.Max(1, b.Expansion)
	for i := range out.Mixes {
		size := b.Pieces / out.Mixes
		if i < b.Pieces%out.Mixes {
			size++
		}
		volume := math.Max(b.MinMixML, float64(size)*one+b.FixedLossML)
		out.Sizes = append(out.Sizes, size)
		out.VolumesML = append(out.VolumesML, decimal(volume))
		out.RawML = append(out.RawML, decimal(volume/rise))
	}
	return out, nil
}

// Poured is one of several different pieces that are mixed together.
type Wanted struct {
	VolumeML float64 `json:"volume_ml"`
	PourMin  float64 `json:"pour_min"`
}

// exactPieces is up to how many different pieces the fewest mixes are searched
// for; beyond them the largest is put where it first fits.
const exactPieces = 12

// Together is the fewest mixes in which different pieces of one material are
// poured, under the bowl and the pot life of b: for each mix the indexes of its pieces.
func (b Batches) Together(pieces []Wanted) ([][]int, error) {
	if len(pieces) == 0 || len(pieces) > 1000 {
		return nil, refusal.New(refusal.OutOfRange, "pieces", "Between one and 1000 pieces.")
	}
	bowl, life := math.Inf(1), math.Inf(1)
	if b.BowlML > 0 {
		bowl = b.BowlML - b.FixedLossML
	}
	if b.PotLifeMin > 0 {
		life = float64(max(1, b.Pourers)) * (b.PotLifeMin - b.PrepMin)
	}
	order := make([]int, len(pieces))
	for i, p := range pieces {
		order[i] = i
		switch {
		case !(p.VolumeML > 0) || p.PourMin < 0:
			return nil, refusal.New(refusal.OutOfRange, fmt.Sprintf("pieces[%d].volume_ml", i), "The volume must be above zero.")
		case p.VolumeML*(1+b.Waste) > bowl+1e-9:
			return nil, refusal.New(TooSmallBowl, fmt.Sprintf("pieces[%d].volume_ml", i), "It does not fit the bowl.")
		case p.PourMin > life+1e-9:
			return nil, refusal.New(TooShortLife, fmt.Sprintf("pieces[%d].pour_min", i), "It is too thick before it is poured.")
		}
	}
	slices.SortStableFunc(order, func(i, j int) int {
		switch {
		case pieces[i].VolumeML > pieces[j].VolumeML:
			return -1
		case pieces[i].VolumeML < pieces[j].VolumeML:
			return 1
		}
		return 0
	})
	search := packing{pieces: pieces, waste: 1 + b.Waste, bowl: bowl, life: life, order: order}
	search.best = search.firstFit()
	if len(pieces) <= exactPieces {
		search.place(0, nil)
	}
	return search.best, nil
}

// packing is the search for the fewest mixes.
type packing struct {
	pieces            []Wanted
	waste, bowl, life float64
	order             []int
	best              [][]int
}

func (s *packing) fits(bin []int, i int) bool {
	volume, minutes := s.pieces[i].VolumeML*s.waste, s.pieces[i].PourMin
	for _, j := range bin {
		volume += s.pieces[j].VolumeML * s.waste
		minutes += s.pieces[j].PourMin
	}
	return volume <= s.bowl+1e-9 && minutes <= s.life+1e-9
}

func (s *packing) firstFit() [][]int {
	var bins [][]int
	for _, i := range s.order {
		at := slices.IndexFunc(bins, func(bin []int) bool { return s.fits(bin, i) })
		if at < 0 {
			bins = append(bins, []int{i})
		} else {
			bins[at] = append(bins[at], i)
		}
	}
	return bins
}

// place puts the rest of the pieces, from k on, wherever they fit.
func (s *packing) place(k int, bins [][]int) {
	if len(bins) >= len(s.best) {
		return
	}
	if k == len(s.order) {
		s.best = make([][]int, len(bins))
		for i, bin := range bins {
			s.best[i] = slices.Clone(bin)
		}
		return
	}
	i := s.order[k]
	for b := range bins {
		if s.fits(bins[b], i) {
			bins[b] = append(bins[b], i)
			s.place(k+1, bins)
			bins[b] = bins[b][:len(bins[b])-1]
		}
	}
	s.place(k+1, append(bins, []int{i}))
}
