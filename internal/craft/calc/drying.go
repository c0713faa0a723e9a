package calc

// Drying as JSON.

import (
	"encoding/json"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

// readPlace reads the place fields common to the drying models; usual is the
// side taken when none is said: form or skin.
func readPlace(f *refusal.Fields, usual string) drying.Place {
	room, rh := f.Number("room_c", 21, 5, 40), f.Number("rh", 0.50, 0.05, 0.95)
	back := usual
	side := f.Child("side")
	if side != nil {
		back = side.Word("kind", usual, "form", "skin", "plaster")
	}
	p := drying.PlaceIn(f.Word("preset", "still", drying.Presets...), back, room, rh)
	p.AirC = f.Number("air_c", p.AirC, 0, 90)
	p.Km = f.Number("k_m", p.Km, 5e-4, 0.2)
	if p.Preset == "cabinet" {
		p.BodyC = p.AirC
	}
	if side != nil {
		p.BodyC = side.Number("body_c", p.BodyC, 0, 60)
		p.Conduct = side.Number("conductance", p.Conduct, 0, 500)
		f.Adopt(side)
	}
	if f.Err() == nil {
		f.Refuse(p.Check())
	}
	return p
}

// latexEstimate answers the model latex_estimate for a JSON input.
func latexEstimate(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	place := readPlace(f, "form")
	if place.Side == "plaster" {
		f.Fail(refusal.UnknownValue, "side.kind", "The closed form does not know absorbent moulds; use the simulation.")
	}
	if f.Has("segments") {
		f.Fail(refusal.Contradiction, "segments", "The closed form takes one drying place; use the simulation for several.")
	}
	var layers []drying.Layer
	for _, item := range f.Children("layers", 1, 40) {
		layers = append(layers, drying.Layer{
			WetM: item.Required("wet_m", 2e-5, 8e-3), Solids: item.Number("solids", 0.60, 0.30, 0.70),
			FillerRatio: item.Number("filler_ratio", 0, 0, 1.5), FibreKgM2: item.Number("fibre_kg_m2", 0, 0, 0.2),
			FibreUptake: item.Number("fibre_uptake", 8, 1, 15),
		})
		f.Adopt(item)
	}
	plan := f.Word("plan", drying.EachDried, drying.EachDried, drying.WetOnWet)
	if f.Err() != nil {
		return nil, f.Err()
	}
	return place.Latex(layers, plan)
}

// filmDry answers the model film_dry for a JSON input.
func filmDry(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	place := readPlace(f, "skin")
	if !f.Has("film") {
		f.Fail(refusal.Missing, "film", "Say which film it is.")
	}
	name := f.Word("film", drying.Films[0], drying.Films...)
	k := drying.UsualFilm(name)
	wet, vol := f.Number("wet_m", k.WetM, 2e-6, 5e-4), f.Number("volatile", k.Volatile, 0.1, 0.95)
	window := f.Number("window_s", drying.TackS, 0, 86400)
	if place.Side == "plaster" {
		f.Fail(refusal.UnknownValue, "side.kind", "The closed form does not know absorbent moulds.")
	}
	if f.Err() != nil {
		return nil, f.Err()
	}
	course, refused := place.Film(name, drying.Wet{WetM: wet, Volatile: vol, WindowS: window})
	if refused != nil {
		return nil, refused
	}
	out := map[string]any{"evaporation_kg_m2_s": course.Evaporation, "surface_c": course.SurfaceC, "volatile_kg_m2": course.Volatile}
	for event, s := range course.Times {
		out[event+"_s"] = s
	}
	return out, nil
}

// foamWashDry answers the model foam_wash_dry for a JSON input.
func foamWashDry(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	place := readPlace(f, "form")
	w := drying.UsualWash(f.Number("thickness_m", 0.008, 0.001, 0.1))
	w.DryDensity = f.Number("dry_density", w.DryDensity, 30, 500)
	w.WaterRatio = f.Number("water_ratio", w.WaterRatio, 0.05, 6)
	w.Residual = f.Number("residual", w.Residual, 0.005, 0.5)
	w.Faces = int(f.Number("faces", float64(w.Faces), 1, 2))
	if f.Err() != nil {
		return nil, f.Err()
	}
	return place.Foam(w)
}
