package calc

// Heat in slabs, and what is made by it, as JSON.

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/heat"
	"yewmoor/internal/craft/refusal"
)

// heatStack answers the model heat_stack for a JSON input.
func heatStack(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	var slabs []heat.Slab
	for _, item := range f.Children("layers", 1, 20) {
		s := heat.Slab{ThicknessM: item.Required("thickness_m", 1e-4, 0.5)}
		if item.Has("material") {
			s.Stuff = heat.Stuffs[item.Word("material", "plaster", slices.Sorted(maps.Keys(heat.Stuffs))...)]
			s.K, s.Rho, s.C = item.Number("k", s.K, 0.01, 50), item.Number("rho", s.Rho, 10, 1e4), item.Number("c", s.C, 100, 1e4)
		} else {
			s.K, s.Rho, s.C = item.Required("k", 0.01, 50), item.Required("rho", 10, 1e4), item.Required("c", 100, 1e4)
		}
		s.InitC = item.Required("init_c", -30, 250)
		slabs = append(slabs, s)
		f.Adopt(item)
	}
	left, kinksL := readFace(f, "left")
	right, kinksR := readFace(f, "right")
	kinks := append(kinksL, kinksR...)
	slices.Sort(kinks)
	watch := f.Whole("watch", 0, 0, max(0, len(slabs)-1))
	var targets []heat.Target
	for _, item := range f.Children("targets", 0, 20) {
		kind := item.Word("kind", "", "all_below", "all_above")
		targets = append(targets, heat.Target{Above: kind == "all_above", TempC: item.Required("temp_c", -50, 300)})
		f.Adopt(item)
	}
	reports := f.Numbers("report_s", 0, 7*days)
	for i := 1; i < len(reports); i++ {
		if reports[i] < reports[i-1] {
			f.Fail(refusal.BadOrder, fmt.Sprintf("report_s[%d]", i), "The times rise.")
		}
	}
	horizon := f.Number("horizon_s", 2*days, 1, 7*days)
	if f.Err() != nil {
		return nil, f.Err()
	}
	return heat.New(slabs, left, right).Follow(watch, targets, reports, kinks, horizon), nil
}

// readFace reads an end of a stack, with the moments at which its air bends.
func readFace(f *refusal.Fields, name string) (heat.Face, []float64) {
	item := f.Child(name)
	if item == nil {
		f.Fail(refusal.Missing, name, "Say what is at this end: h, and the air there.")
		return heat.Steady(0, 20), nil
	}
	defer f.Adopt(item)
	h := item.Required("h", 0, 1e5)
	if !item.Has("air") {
		if h == 0 {
			return heat.Steady(0, 0), nil
		}
		return heat.Steady(h, item.Required("air_c", -50, 300)), nil
	}
	table := item.Pairs("air", -50, 300)
	if len(table) == 0 {
		return heat.Steady(h, 0), nil
	}
	var kinks []float64
	for _, p := range table {
		kinks = append(kinks, p[0])
	}
	return heat.Along(h, table), kinks
}

// gelatinCooling answers the model gelatin_cooling for a JSON input.
func gelatinCooling(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	r := readGelatin(f)
	p := gelatin.Pour{ThicknessM: f.Required("thickness_m", 5e-4, 0.08), PourC: f.Number("pour_c", 60, 35, 95),
		Mould: f.Word("mould", "plaster", "plaster", "stone", "silicone", "resin", gelatin.NoMould),
		WallM: f.Number("wall_m", 0.02, 1e-3, 0.15), AirC: f.Number("air_c", 21, -25, 40), H: f.Number("h", 8, 2, 500),
		MeltC: f.Number("melt_c", 0, 25, 80), SetC: f.Number("set_c", 0, 0, 80), DemouldTopC: f.Number("demould_c", 0, 0, 80)}
	p.MouldC = f.Number("mould_c", p.AirC, -25, 60)
	if f.Err() != nil {
		return nil, f.Err()
	}
	return answer(r.Cool(p))
}

// gelatinShrinkage answers the model gelatin_shrinkage for a JSON input.
func gelatinShrinkage(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	r := readGelatin(f)
	rh, thickness := f.Number("rh", 0.50, 0.10, 0.80), f.Number("thickness_m", 0.006, 5e-4, 0.08)
	faces, room := f.Whole("faces", 2, 1, 2), f.Number("room_c", 21, 5, 40)
	if f.Err() != nil {
		return nil, f.Err()
	}
	return r.Shrink(rh, thickness, faces, room), nil
}

// foamCure answers the model foam_cure for a JSON input.
func foamCure(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	b := foam.UsualBake(f.Required("wall_a_m", 0.003, 0.15), f.Required("wall_b_m", 0.003, 0.15), f.Required("foam_m", 0.001, 0.08))
	b.Mould = f.Word("mould", b.Mould, "plaster", "stone")
	b.RoomC, b.OvenC = f.Number("room_c", b.RoomC, 5, 40), f.Number("oven_c", b.OvenC, 50, 120)
	b.H, b.Damp = f.Number("h", b.H, 3, 100), f.Number("moisture", b.Damp, 0, 0.35)
	b.ReachC = f.Number("reach_c", b.OvenC-5, 0, 120)
	b.OffS = f.Number("off_s", 0, 1, 3*days)
	b.OnBench = f.Word("cool", "in_oven", "in_oven", "bench") == "bench"
	b.TauS = f.Number("oven_tau_s", b.TauS, 60, days)
	b.OpeningH = gypsum.Airs[f.Word("opening", "still", "still", "fan", "wet")]
	b.Safety = f.Number("safety", b.Safety, 1, 10)
	b.CureRefS, b.EnergyJMol = f.Number("cure_ref_s", b.CureRefS, 300, days), f.Number("ea_j_mol", b.EnergyJMol, 20e3, 200e3)
	if f.Err() != nil {
		return nil, f.Err()
	}
	return answer(b.Cure())
}
