package calc

// Gelatin as JSON.

import (
	"encoding/json"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/refusal"
)

// gelatinSoftening answers the model gelatin_softening for a JSON input.
func gelatinSoftening(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	r := readGelatin(f)
	w := gelatin.Worn{ThicknessM: f.Number("thickness_m", 0.006, 5e-4, 0.08), SkinC: f.Number("skin_c", 34, 20, 42), AirC: f.Number("air_c", 23, -10, 55), H: f.Number("h", 10, 2, 100),
		RadiantWM2: f.Number("radiant_w_m2", 0, 0, 1000), SweatKgM2H: f.Number("sweat_kg_m2_h", 0.05, 0, 1.5), Hours: f.Number("hours", 4, 0, 24), Barrier: f.Number("barrier", 0.8, 0, 1)}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return r.Softening(w), nil
}

func readGelatin(f *refusal.Fields) gelatin.Recipe {
	in := f.Child("recipe")
	if in == nil {
		f.Fail(refusal.Missing, "recipe", "Say what the base is made from.")
		return gelatin.Recipe{Gelatin: 1, Water: 1}
	}
	r := gelatin.Recipe{Gelatin: in.Number("gelatin_kg", 0, 0, 500), Glycerin: in.Number("glycerin_kg", 0, 0, 500), Sorbitol: in.Number("sorbitol_kg", 0, 0, 500), Water: in.Number("water_kg", 0, 0, 500)}
	f.Adopt(in)
	r.Bloom = f.Number("bloom", 250, 80, 350)
	if err := r.Check("recipe"); err != nil && f.Err() == nil {
		f.Fail(refusal.Contradiction, "recipe", "Gelatin and water must be in it, and gelatin is 3 to 60 %% of the mass.")
		return gelatin.Recipe{Gelatin: 1, Water: 1}
	}
	return r
}
