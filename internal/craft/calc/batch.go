package calc

// Gelatin over its re-melts, foam at the bowl, and stage blood as JSON.

import (
	"encoding/json"
	"fmt"

	"yewmoor/internal/craft/blood"
	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/refusal"
)

func gelatinBatch(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	r := readGelatin(f)
	ops := f.Children("ops", 1, 1000)
	if f.Err() != nil {
		return nil, f.Err()
	}
	b := gelatin.NewBatch(r)
	steps := []map[string]float64{}
	for i, op := range ops {
		field := fmt.Sprintf("ops[%d]", i)
		var e error
		switch op.Word("op", "", "melt", "weigh", "pour", "add_water") {
		case "melt":
			if !op.Has("area_m2") && !op.Has("duration_s") {
				loss := op.Number("loss_fraction", gelatin.UsualLoss, 0, 0.5)
				if op.Err() == nil {
					b, e = b.Melted(loss, field+".loss_fraction")
				}
				break
			}
			open := gelatin.Open{TempC: op.Number("temp_c", 65, 30, 95), AreaM2: op.Required("area_m2", 0, 10), DurationS: op.Required("duration_s", 0, 1e6),
				RoomC: op.Number("room_c", 21, 5, 40), RH: op.Number("rh", 0.5, 0.05, 0.95), KM: op.Number("k_m", 0.0045, 5e-4, 0.2)}
			if op.Err() == nil {
				b, e = b.KeptOpen(open, field+".duration_s")
			}
		case "weigh":
			if kg := op.Required("mass_kg", 0, 500); op.Err() == nil {
				b, e = b.Weighed(kg, field+".mass_kg")
			}
		case "pour":
			if kg := op.Required("mass_kg", 0, 500); op.Err() == nil {
				b, e = b.PouredOff(kg, field+".mass_kg")
			}
		case "add_water":
			b = b.WithWater(op.Required("mass_kg", 0, 500))
		}
		if op.Err() != nil {
			return nil, op.Err()
		}
		if e != nil {
			return nil, e
		}
		steps = append(steps, map[string]float64{"mass_kg": b.Mass(), "water_kg": b.Water})
	}
	return map[string]any{"mass_kg": b.Mass(), "solids_kg": b.Solids, "water_kg": b.Water, "water_ratio": b.Ratio(), "ratio_start": b.Start(),
		"top_up_kg": b.TopUp(), "excess_water_kg": b.Excess(), "steps": steps}, nil
}

func foamDensity(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	r := foam.Rise{VolumeRise: f.Required("volume_rise", 1.5, 14), MixKg: f.Required("mix_kg", 0, 500), Solids: f.Number("solids", foam.UsualSolids, 0.4, 0.75),
		Shrink: f.Number("linear_shrinkage", foam.UsualShrink, 0, 0.3), Overfill: f.Number("overfill", foam.UsualOverfill, 1, 2), CavityM3: f.Number("cavity_m3", 0, 0, 10)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return foam.Of(r), nil
}

func foamGel(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	read := func(f *refusal.Fields, gelled bool) foam.Gelled {
		g := foam.Gelled{RoomC: f.Number("room_c", 21, 10, 38), RH: f.Number("rh", 0.5, 0.05, 0.95), Dose: f.Number("dose", 1, 0.3, 3)}
		if gelled {
			g.GelS = f.Required("gel_s", 60, 7200)
		}
		return g
	}
	now := read(f, false)
	var before []foam.Gelled
	if f.Has("references") {
		for _, item := range f.Children("references", 0, 1000) {
			before = append(before, read(item, true))
			f.Adopt(item)
		}
	}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return answer(foam.When(now, before))
}

func runOf(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	flow := blood.Flow{ViscosityPas: f.Required("viscosity_pas", 1e-4, 1000), YieldPa: f.Number("yield_pa", 0, 0, 5000), Density: f.Number("density", 1350, 700, 2500),
		TiltDeg: f.Number("tilt_deg", 90, 1, 90), FilmMM: f.Number("film_mm", 0.3, 0.005, 20), VolumeML: f.Number("volume_ml", 0, 1e-4, 100), WidthMM: f.Number("width_mm", 4, 0.5, 500),
		TimeS: f.Number("time_s", 30, 0, 86400), SurfaceNM: f.Number("surface_n_m", 0.06, 0.01, 0.1), Hysteresis: f.Number("hysteresis", 0.3, 0, 2)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return blood.Of(flow), nil
}

func runFit(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	w := blood.Watched{VolumeML: f.Required("volume_ml", 0.001, 100), WidthMM: f.Required("width_mm", 0.5, 500), TiltDeg: f.Number("tilt_deg", 90, 1, 90),
		Density: f.Number("density", 1350, 700, 2500), Readings: f.Couples("readings", 1, 1000), Stopped: f.Truth("stopped")}
	if f.Err() != nil {
		return nil, f.Err()
	}
	if err := w.Check(); err != nil {
		return nil, err
	}
	return blood.FitOf(w), nil
}

func bloodNeed(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	takes, waste := f.Whole("takes", 1, 1, 1000), f.Number("waste", blood.UsualWaste, 0, 3)
	var items []blood.Item
	var names []string
	for _, k := range blood.Kinds() {
		names = append(names, k.ID)
	}
	for _, item := range f.Children("items", 1, 200) {
		k, _ := blood.KindOf(item.Word("type", "arterial", names...))
		items = append(items, blood.Item{Type: k.ID, AreaCM2: item.Number("area_cm2", 0, 0, 10000),
			DepthMM: item.Number("depth_mm", k.DepthMM, 0, 30), Runs: item.Whole("runs", 0, 0, 1000),
			RunMM: item.Number("run_mm", blood.UsualRunMM, 0, 3000), WidthMM: item.Number("run_width_mm", blood.UsualWidthMM, 0.2, 100),
			FilmMM: item.Number("run_film_mm", blood.UsualFilmMM, 0.005, 5), Renew: item.Number("renew", k.Renew, 0, 1)})
		f.Adopt(item)
	}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return answer(blood.NeedOf(takes, waste, items))
}
