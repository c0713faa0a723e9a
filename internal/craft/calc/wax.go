package calc

// Wax as JSON.

import (
	"encoding/json"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/wax"
)

// waxHolds answers the model wax for a JSON input.
func waxHolds(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	k := wax.Kinds[f.Word("wax", "soft", "soft", "medium", "hard")]
	thick := f.Number("thickness_m", 0.006, 5e-4, 0.08)
	w := wax.Worn{ThicknessM: thick, OverhangM: f.Number("overhang_m", thick, 1e-4, 0.5), SkinC: f.Number("skin_c", 33, 20, 42), AirC: f.Number("air_c", 21, -10, 55), H: f.Number("h", 10, 2, 100),
		RadiantWM2: f.Number("radiant_w_m2", 0, 0, 1000), StartC: f.Number("start_c", 21, -10, 60), Safety: f.Number("safety", 10, 1, 50)}
	k = wax.Kind{Yield20Pa: f.Number("yield_20_pa", k.Yield20Pa, 100, 1e7), PerDecade: f.Number("kelvin_per_decade", k.PerDecade, 5, 40), OnsetC: f.Number("onset_c", k.OnsetC, 30, 120)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return k.Holding(w), nil
}
