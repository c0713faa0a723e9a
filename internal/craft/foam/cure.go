package foam

import (
	"math"
	"slices"

	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/heat"
	"yewmoor/internal/craft/refusal"
)

// Bake is a foam in its mould in the oven: walls and foam in m, plaster or stone, the room
// and the oven in °C, how the oven's air gives heat, W/(m² K), and the damp of the mould,
// kg/kg. OffS is when the oven goes off; 0 for when the foam is cured.
type Bake struct {
	WallAM, WallBM, FoamM float64
	Mould                 string
	RoomC, OvenC, H, Damp float64
	ReachC, OffS          float64
	OnBench               bool    // it cools on the bench, not in the oven
	TauS                  float64 // how the oven itself cools, s
	OpeningH, Safety      float64 // what the mould meets when it is opened
	CureRefS, EnergyJMol  float64
	HorizonS              float64
	// Seen hears of each step of a course: when, the oven's air, the coldest foam and the
	// hottest wall, s and °C; nil for nobody.
	Seen func(at, airC, coldestC, wallC float64) `json:"-"`
}

// UsualBake is a bake as it usually is: 95 °C in a calm oven, cured in an hour and a half
// at 90 °C, cooled in the closed oven, opened in still air.
func UsualBake(wallAM, wallBM, foamM float64) Bake {
	return Bake{WallAM: wallAM, WallBM: wallBM, FoamM: foamM, Mould: "plaster", RoomC: 21, OvenC: 95, H: 12, Damp: 0.03, ReachC: 90,
		TauS:     3600,
		OpeningH: gypsum.Airs["still"], Safety: 3.5, CureRefS: 5400, EnergyJMol: 85e3, HorizonS: 3 * 86400}
}

// Baked is how it goes. Times in s from the oven's door being closed; nil for what did not
// happen. Index 1 is cured.
type Baked struct {
	ReachS     *float64 `json:"reach_s"`
	CureS      *float64 `json:"cure_s"`
	OffS       *float64 `json:"off_s"`
	IndexOff   float64  `json:"index_off"`
	ColdestOff float64  `json:"coldest_off_c"`
	IndexEnd   float64  `json:"index_end"`
	Allowed    float64  `json:"allowed_dt_k"`
	OpenBelow  float64  `json:"open_below_c"`
	OpenS      *float64 `json:"open_s"`
	Warnings   []string `json:"warnings"`
}

const cureRefC = 90.0

// baking is a bake on its way: the slabs of wall, foam and wall, and how far the foam is.
type baking struct {
	Bake
	run   *heat.Run
	out   *Baked
	index float64
}

func (b Bake) begin(air heat.Face) (*baking, error) {
	out := &Baked{Warnings: []string{}}
	if b.ReachC >= b.OvenC {
		return &baking{out: out}, refusal.New(refusal.Contradiction, "reach_c", "The oven is not that warm.")
	}
	open := gypsum.Open(b.Mould, math.Max(b.WallAM, b.WallBM), b.RoomC, b.OpeningH, b.Safety)
	out.Allowed, out.OpenBelow = open.Allowed, open.BelowC
	wall := heat.Stuffs[b.Mould].Wet(b.Damp)
	return &baking{Bake: b, out: out, run: heat.New([]heat.Slab{{Stuff: wall, ThicknessM: b.WallAM, InitC: b.RoomC},
		{Stuff: heat.Stuffs["wet_foam"], ThicknessM: b.FoamM, InitC: b.RoomC}, {Stuff: wall, ThicknessM: b.WallBM, InitC: b.RoomC}},
		air, air)}, nil
}

// grow cures the foam over a step, by Simpson's rule at its coldest, and gives how far it
// was before.
func (g *baking) grow(s heat.Step) (before float64) {
	from, _, to, _ := s.Slab(1)
	if g.Seen != nil {
		g.Seen(s.ToS, g.run.Left.Air(s.ToS), to, g.hottestWall())
	}
	before = g.index
	g.index += (s.ToS - s.FromS) / g.CureRefS * (g.rate(from) + 4*g.rate((from+to)/2) + g.rate(to)) / 6
	if at, passed := s.Crossing(from, to, g.ReachC); passed && g.out.ReachS == nil {
		g.out.ReachS = &at
	}
	if g.index >= 1 && g.out.CureS == nil {
		at := s.FromS + (s.ToS-s.FromS)*(1-before)/(g.index-before)
		g.out.CureS = &at
	}
	return before
}

// heated goes on in the warm oven to stop, or, where untilCured, to where the foam is
// cured if that is sooner.
func (g *baking) heated(stop float64, untilCured bool) {
	for g.run.T < stop && !(untilCured && g.out.CureS != nil) {
		s := g.run.Advance(stop)
		before := g.grow(s)
		if untilCured && g.out.CureS != nil && s.ToS > *g.out.CureS {
			// The oven goes off within this step: it is taken back and ends there.
			g.run.T, g.run.C, g.index = s.FromS, s.Before, before
			for g.run.T < *g.out.CureS {
				g.run.Advance(*g.out.CureS)
			}
			g.index = 1
		}
	}
}

// isOff notes that the oven is off now.
func (g *baking) isOff() {
	at := g.run.T
	g.out.OffS, g.out.IndexOff = &at, g.index
	g.out.ColdestOff, _, _ = g.run.Slab(1)
}

// hottestWall is what the mould's walls are at their hottest, °C.
func (g *baking) hottestWall() float64 {
	_, a, _ := g.run.Slab(0)
	_, c, _ := g.run.Slab(2)
	return math.Max(a, c)
}

// cools follows it to where the mould may be opened, at most to stop.
func (g *baking) cools(stop float64) {
	for before := g.hottestWall(); ; {
		if before <= g.out.OpenBelow && g.out.OpenS == nil {
			now := g.run.T
			g.out.OpenS = &now
		}
		if g.out.OpenS != nil || g.run.T >= stop {
			return
		}
		s := g.run.Advance(stop)
		g.grow(s)
		after := g.hottestWall()
		if opens, passed := s.Crossing(before, after, g.out.OpenBelow); passed {
			g.out.OpenS = &opens
		}
		before = after
	}
}

func (g *baking) end() Baked {
	g.out.IndexEnd = g.index
	g.warn(g.out)
	return *g.out
}

// Cure follows a bake to where the mould may be opened. Refuses contradiction at reach_c
// where the oven never brings it there.
func (b Bake) Cure() (Baked, error) {
	g, err := b.begin(heat.Steady(b.H, b.OvenC))
	if err != nil {
		return *g.out, err
	}
	if b.OffS > 0 {
		g.heated(math.Min(b.HorizonS, b.OffS), false)
	} else {
		g.heated(b.HorizonS, true)
	}
	if b.OffS > 0 || g.out.CureS != nil {
		g.isOff()
		face := heat.Steady(10, b.RoomC)
		if at := g.run.T; !b.OnBench {
			face = heat.Face{H: b.H, Air: func(t float64) float64 { return b.cooling(t-at, b.OvenC) }}
		}
		g.run.Change(face, face)
		g.cools(g.run.T + b.HorizonS)
	} else {
		g.out.IndexOff = g.index
		g.out.ColdestOff, _, _ = g.run.Slab(1)
	}
	return g.end(), nil
}

// cooling is the air of the shut oven so long after it was so warm and off, °C.
func (b Bake) cooling(since, fromC float64) float64 {
	return b.RoomC + (fromC-b.RoomC)*math.Exp(-since/b.TauS)
}

// Far is how far a bake is at the last reading of its oven.
type Far struct {
	ColdestC float64 // of the foam
	WallC    float64 // the hottest of the mould
	Index    float64 // 1 is cured
	OverS    *float64
}

// overCured is the index from which the foam is over-cured.
const overCured = 2.5

// bendK is how far from a straight line a probe's reading may lie and be left out, K.
const bendK = 0.4

// Along follows a bake along what its oven's probe showed since its door was closed,
// [s, °C] rising from 0 on, and on from there: as warm as it was last until the foam is
// cured, then off; or off since offS. Far.OverS is when the foam is over-cured if the
// oven is left as it is, s. Refuses contradiction at reach_c where the oven never was so
// warm as to cure it, not_enough_data at log without a reading.
func (b Bake) Along(log [][2]float64, offS *float64) (Baked, Far, error) {
	if len(log) == 0 {
		return Baked{}, Far{}, refusal.New(refusal.NotEnoughData, "log", "Nobody has read the oven.")
	}
	log = heat.Bends(log, bendK)
	now, last := log[len(log)-1][0], log[len(log)-1][1]
	for _, r := range log {
		b.OvenC = math.Max(b.OvenC, r[1])
	}
	off := offS != nil // the air falls from the last reading on
	from := now
	face := heat.Face{H: b.H, Air: heat.Logged(log, func(since, lastC float64) float64 {
		if off {
			return b.cooling(math.Max(0, now+since-from), lastC)
		}
		return lastC
	})}
	g, err := b.begin(face)
	if err != nil {
		return *g.out, Far{}, err
	}
	stops := func(to float64, leg func(stop float64)) { // a probe's bends end a step
		for _, r := range log {
			if r[0] > g.run.T && r[0] < to {
				leg(r[0])
			}
		}
		leg(to)
	}
	warm := now
	if off {
		warm = math.Min(now, *offS)
	}
	stops(warm, func(stop float64) { g.heated(stop, false) })
	if off {
		g.isOff()
		stops(now, g.cools)
	}
	far := Far{WallC: g.hottestWall(), Index: g.index}
	far.ColdestC, _, _ = g.run.Slab(1)
	if !off {
		// An oven that does not get warm never cures it.
		if b.rate(last)*b.HorizonS > b.CureRefS {
			g.heated(math.Max(now, b.HorizonS), true)
		}
		if g.out.CureS == nil {
			return g.end(), far, nil
		}
		// At the soonest: from where it is cured on all of it is as warm as the oven.
		over := g.run.T + math.Max(0, overCured-g.index)*b.CureRefS/b.rate(last)
		far.OverS = &over
		g.isOff()
		off, from = true, g.run.T
		g.run.Change(face, face)
	}
	if g.out.OpenS == nil {
		g.cools(g.run.T + b.HorizonS)
	}
	return g.end(), far, nil
}

// rate is how fast it cures at a temperature, to that at the reference.
func (b Bake) rate(c float64) float64 {
	return math.Exp(-b.EnergyJMol / 8.314462618 * (1/(c+273.15) - 1/(cureRefC+273.15)))
}

func (b Bake) warn(out *Baked) {
	if b.OvenC > 105 {
		out.Warnings = append(out.Warnings, "gypsum_calcines")
	}
	if b.Damp > 0.10 {
		out.Warnings = append(out.Warnings, "wet_mould")
	}
	if out.CureS == nil || out.OffS != nil && *out.CureS > *out.OffS+1 {
		out.Warnings = append(out.Warnings, "under_cured")
	}
	if out.IndexEnd > overCured {
		out.Warnings = append(out.Warnings, "over_cured")
	}
	slices.Sort(out.Warnings)
}
