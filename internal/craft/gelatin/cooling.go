package gelatin

import (
	"math"

	"yewmoor/internal/craft/heat"
	"yewmoor/internal/craft/refusal"
)

// Pour is gelatin in its mould: the piece's thickness, m, its temperature as it is poured,
// °C, the wall on both sides (plaster, stone, silicone, resin, or none) and its thickness,
// the air and the mould before, °C, and how the air takes heat, W/(m² K). SetC and
// DemouldC are where it is set and may come out; 0 for the usual.
type Pour struct {
	ThicknessM, PourC        float64
	Mould                    string
	WallM, AirC, MouldC, H   float64
	MeltC, SetC, DemouldTopC float64
	// Log is the air that it stood in since, [s, °C] rising from 0 on; AirC holds after it.
	Log [][2]float64
}

// NoMould is gelatin that is poured out free.
const NoMould = "none"

// Cooling is how it cools: the full course, and the quick estimate for sliders.
type Cooling struct {
	MeltC    float64  `json:"melt_c"`
	SetC     float64  `json:"set_c"`
	DemouldC float64  `json:"demould_c"`
	SetS     *float64 `json:"set_s"`
	DemouldS *float64 `json:"demould_s"`
	MixC     float64  `json:"mix_c" doc:"where piece and mould meet"`
	TauS     float64  `json:"tau_s"`
	QuickSet float64  `json:"estimate_set_s"`
	Quick    float64  `json:"estimate_demould_s"`
}

// coolsFor is how long a course is followed, s.
const coolsFor = 2 * 86400

// Cool follows it: set and fit to come out when the hottest gelatin is below. Refusals:
// contradiction at pour_c, demould_c and air_c.
func (r Recipe) Cool(p Pour) (Cooling, error) {
	out, body, err := r.begin(p)
	if err != nil {
		return out, err
	}
	slabs, watch := []heat.Slab{body}, 0
	if p.Mould != NoMould {
		side := heat.Slab{Stuff: heat.Stuffs[p.Mould], ThicknessM: p.WallM, InitC: p.MouldC}
		slabs, watch = []heat.Slab{side, body, side}, 1
	}
	face := heat.Steady(p.H, p.AirC)
	var bends []float64
	if len(p.Log) > 0 {
		log := heat.Bends(p.Log, 0.3)
		face = heat.Face{H: p.H, Air: heat.Logged(log, func(float64, float64) float64 { return p.AirC })}
		for _, r := range log {
			bends = append(bends, r[0])
		}
	}
	followed := heat.New(slabs, face, face).Follow(watch, []heat.Target{{TempC: out.SetC}, {TempC: out.DemouldC}}, nil, bends,
		coolsFor)
	out.SetS, out.DemouldS = followed.TargetS[0], followed.TargetS[1]
	return out, nil
}

// DemouldS estimates how long a piece stays in a plaster mould of 20 mm walls before it is
// cool enough to come out, in s: within 12 % of the full course. Air too warm ever to cool
// it gives false.
func (r Recipe) DemouldS(thicknessM, pourC, airC float64) (float64, bool) {
	out, _, err := r.begin(Pour{ThicknessM: thicknessM, PourC: pourC, Mould: "plaster", WallM: 0.02, AirC: airC, MouldC: airC, H: 8})
	return out.Quick, err == nil
}

// begin says where it sets and comes out, checks that it can, and estimates.
func (r Recipe) begin(p Pour) (Cooling, heat.Slab, error) {
	out := Cooling{MeltC: r.MeltC()}
	if p.MeltC > 0 {
		out.MeltC = p.MeltC
	}
	out.SetC, out.DemouldC = out.MeltC-10, p.DemouldTopC
	if p.SetC > 0 {
		out.SetC = p.SetC
	}
	if out.DemouldC == 0 {
		out.DemouldC = math.Min(27, out.SetC-6)
	}
	rho, c, k := r.body()
	body := heat.Slab{Stuff: heat.Stuff{K: k, Rho: rho, C: c}, ThicknessM: p.ThicknessM, InitC: p.PourC}
	switch {
	case p.PourC <= out.MeltC:
		return out, body, refusal.New(refusal.Contradiction, "pour_c", "It melts at %.0f °C: it cannot be poured below.", out.MeltC)
	case out.DemouldC > out.SetC:
		return out, body, refusal.New(refusal.Contradiction, "demould_c", "It does not come out before it is set.")
	case p.AirC >= out.DemouldC-0.5:
		return out, body, refusal.New(refusal.Contradiction, "air_c", "In air this warm it never cools to %.0f °C.", out.DemouldC)
	}
	out.quick(p, rho*c*p.ThicknessM, rho*c/k, heat.Stuffs[p.Mould])
	return out, body, nil
}

// quick is the estimate: stored is the heat of the piece, J/(m² K), slow ρc/k of it,
// s/m².
func (out *Cooling) quick(p Pour, stored, slow float64, wall heat.Stuff) {
	walls, u := 0.0, p.H
	inside := p.ThicknessM * p.ThicknessM / 4 * slow
	if p.Mould != NoMould {
		walls = 2 * p.WallM * wall.Rho * wall.C
		u = 1 / (1/p.H + p.WallM/(2*wall.K))
		inside += p.WallM * p.WallM * wall.Rho * wall.C / wall.K
	}
	inside /= 2.467
	out.MixC = (stored*p.PourC + walls*p.MouldC) / (stored + walls)
	out.TauS = (stored + walls) / (2 * u)
	at := func(target float64) float64 {
		if target >= out.MixC && walls > 0 {
			x := stored * (p.PourC - p.MouldC) / (2 * math.Sqrt(wall.K*wall.Rho*wall.C) * (target - p.MouldC))
			return x * x / math.Pi
		}
		return math.Max(0, out.TauS*math.Log((out.MixC-p.AirC)/(target-p.AirC))) + inside
	}
	out.QuickSet, out.Quick = at(out.SetC), at(out.DemouldC)
}

// Shrinkage is what a piece does in dry or damp air: it goes to the water in balance with
// it. Negative where it swells.
type Shrinkage struct {
	BalanceKg float64 `json:"water_equilibrium_kg"`
	ChangeKg  float64 `json:"water_change_kg"`
	MassShare float64 `json:"mass_change_fraction"`
	Volume    float64 `json:"volume_shrinkage"`
	Linear    float64 `json:"linear_shrinkage"`
	T90S      float64 `json:"t90_s"`
}

// Shrink works it out for air of this humidity, a thickness in m that dries over one or
// both faces, and a room; the balance is good to a fifth.
func (r Recipe) Shrink(rh, thicknessM float64, faces int, roomC float64) Shrinkage {
	rho, _, _ := r.body()
	out := Shrinkage{BalanceKg: -0.20*math.Log(1-rh)*r.Gelatin + rh/(1-rh)*(0.25*r.Glycerin+0.12*r.Sorbitol)}
	out.ChangeKg = out.BalanceKg - r.Water
	out.MassShare = out.ChangeKg / r.total()
	out.Volume = -out.ChangeKg / 998 / (r.total() / rho)
	out.Linear = 1 - math.Cbrt(1-out.Volume)
	way := thicknessM / float64(faces)
	out.T90S = 0.848 * way * way / (2e-10 * math.Exp(-25000/gas*(1/(roomC+273.15)-1/(21+273.15))))
	return out
}
