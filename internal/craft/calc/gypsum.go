package calc

// Gypsum moulds as JSON.

import (
	"encoding/json"
	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/refusal"
)

// gypsumMix answers the model gypsum_mix.
func gypsumMix(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	b := gypsum.Batch{VolumeM3: f.Required("volume_m3", 1e-9, 100), Consistency: f.Required("consistency", 0, 1.2), Waste: f.Number("waste", 0.05, 0, 2), PowderRho: f.Number("rho_plaster", 2630, 1000, 4000), Purity: f.Number("purity", 0.95, 0.3, 1)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return answer(gypsum.Mixed(b))
}

// gypsumSet answers the model gypsum_set.
func gypsumSet(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	water := f.Number("water_c", 20, 1, 80)
	reference := f.Number("ref_consistency", 0.70, 0.2, 1.2)
	consistency := f.Number("consistency", reference, 0.2, 1.2)
	additive := f.Number("additive_multiplier", 1, 0.05, 20)
	initial := f.Number("initial_s", 780, 30, 86400)
	final := f.Number("final_s", 1680, 60, 172800)
	if f.Err() != nil {
		return nil, f.Err()
	}
	if final < initial {
		return nil, refusal.New(refusal.Contradiction, "final_s", "It is hard only after it stiffens.")
	}
	return gypsum.Setting(water, consistency/reference, additive, initial, final), nil
}

// gypsumDry answers the model gypsum_dry.
func gypsumDry(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	pairs := f.Pairs("weighings", 1e-3, 1e4)
	dry := f.Number("dry_kg", 0, 0, 1e4)
	scale := f.Number("scale_kg", 0, 0, 10)
	if f.Err() != nil {
		return nil, f.Err()
	}
	w := make([]gypsum.Weighing, len(pairs))
	for i, p := range pairs {
		w[i] = p
	}
	return answer(gypsum.Dry(w, dry, scale))
}

// mouldOpening answers the model mould_opening.
func mouldOpening(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	kind := f.Word("mould", "plaster", "plaster", "stone")
	wall := f.Required("wall_m", 0.003, 0.3)
	air := f.Number("air_c", 21, -25, 60)
	h := f.Number("h", gypsum.Airs[f.Word("opening", "still", "still", "fan", "wet")], 2, 2000)
	safety := f.Number("safety", 3.5, 1, 10)
	hot := f.Number("mould_c", 0, -25, 250)
	if f.Err() != nil {
		return nil, f.Err()
	}
	out := gypsum.Open(kind, wall, air, h, safety)
	if f.Has("mould_c") {
		out = out.At(hot, air)
	}
	return out, nil
}
