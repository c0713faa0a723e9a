package calc

// Drying as JSON.

import (
	"encoding/json"
	"fmt"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

// readPlace reads the place fields common to the drying models; usual is the
// side taken when none is said: form or skin.
func readPlace(f *refusal.Fields, usual string) drying.Place {
	p := readPlaceOf(f, f, usual)
	if f.Err() == nil {
		f.Refuse(p.Check())
	}
	return p
}

// readPlaceOf reads room and side of one object, and the air over the film of another.
func readPlaceOf(f, air *refusal.Fields, usual string) drying.Place {
	room, rh := f.Number("room_c", 21, 5, 40), f.Number("rh", 0.50, 0.05, 0.95)
	back := usual
	side := f.Child("side")
	if side != nil {
		back = side.Word("kind", usual, "form", "skin", "plaster")
	}
	p := drying.PlaceIn(air.Word("preset", "still", drying.Presets...), back, room, rh)
	p.AirC = air.Number("air_c", p.AirC, 0, 90)
	p.Km = air.Number("k_m", p.Km, 5e-4, 0.2)
	if p.Preset == "cabinet" {
		p.BodyC = p.AirC
	}
	if side != nil {
		p.BodyC = side.Number("body_c", p.BodyC, 0, 60)
		p.Conduct = side.Number("conductance", p.Conduct, 0, 500)
		f.Adopt(side)
	}
	return p
}

func readLayer(item *refusal.Fields) drying.Layer {
	return drying.Layer{
		WetM: item.Required("wet_m", 2e-5, 8e-3), Solids: item.Number("solids", 0.60, 0.30, 0.70),
		FillerRatio: item.Number("filler_ratio", 0, 0, 1.5), FibreKgM2: item.Number("fibre_kg_m2", 0, 0, 0.2),
		FibreUptake: item.Number("fibre_uptake", 8, 1, 15),
	}
}

const days = 86400.0

// latexStack answers the model latex_stack for a JSON input.
func latexStack(raw json.RawMessage) (any, error) {
	f, err := refusal.Object(raw)
	if err != nil {
		return nil, err
	}
	in := drying.Stack{Segments: readSegments(f)}
	if side := f.Child("side"); side != nil {
		in.WallM = side.Number("wall_m", 0.025, 0.003, 0.2)
		in.Saturation = side.Number("saturation", 0, 0, 1)
		f.Adopt(side)
	} else {
		in.WallM = 0.025
	}
	for i, item := range f.Children("layers", 1, 40) {
		l := drying.Laid{Layer: readLayer(item)}
		l.After = item.Word("after", " ", drying.AfterTouch, drying.AfterRecoat, drying.AfterDry)
		if l.After == " " {
			l.After = ""
		}
		l.AtS = item.Number("at_s", 0, 0, 60*days)
		l.WaitS = item.Number("wait_s", 0, 0, 30*days)
		switch {
		case i == 0 && l.After != "":
			item.Fail(refusal.Contradiction, "after", "Below the first layer there is none to wait for.")
		case i > 0 && l.After != "" && item.Has("at_s"):
			item.Fail(refusal.Contradiction, "at_s", "Either a time, or what it waits for.")
		case i > 0 && l.After == "" && !item.Has("at_s"):
			item.Fail(refusal.Missing, "at_s", "Say when it is put on, or what it waits for.")
		}
		if before := lastTime(in.Layers); i > 0 && l.After == "" && l.AtS < before {
			item.Fail(refusal.BadOrder, "at_s", "A layer is not put on before the one below it.")
		}
		in.Layers = append(in.Layers, l)
		f.Adopt(item)
	}
	if len(in.Layers) > 0 && in.Layers[0].AtS != 0 {
		f.Fail(refusal.OutOfRange, "layers[0].at_s", "The clock begins with the first layer.")
	}
	in.HorizonS = f.Number("horizon_s", 60*days, 60, 120*days)
	for i, x := range f.Numbers("report_s", 0, 120*days) {
		if i > 0 && x < in.ReportS[i-1] {
			f.Fail(refusal.BadOrder, fmt.Sprintf("report_s[%d]", i), "The times rise.")
		}
		in.ReportS = append(in.ReportS, x)
	}
	if f.Err() != nil {
		return nil, f.Err()
	}
	return answer(in.Simulate())
}

// lastTime is the latest time that layers so far are put on at.
func lastTime(layers []drying.Laid) float64 {
	t := 0.0
	for _, l := range layers {
		t = max(t, l.AtS)
	}
	return t
}

// readSegments reads where it dries: one place, or several one after the other.
func readSegments(f *refusal.Fields) []drying.Segment {
	if !f.Has("segments") {
		return []drying.Segment{{Place: readPlace(f, "form")}}
	}
	var out []drying.Segment
	for i, item := range f.Children("segments", 1, 200) {
		from := item.Required("from_s", 0, 60*days)
		switch {
		case i == 0 && from != 0:
			item.Fail(refusal.OutOfRange, "from_s", "The first place begins at 0.")
		case i > 0 && from <= out[i-1].FromS:
			item.Fail(refusal.BadOrder, "from_s", "The times of the places rise.")
		}
		f.Adopt(item)
		out = append(out, drying.Segment{FromS: from, Place: readPlaceOf(f, item, "form")})
		f.Adopt(item)
	}
	if len(out) == 0 {
		out = []drying.Segment{{Place: drying.StillRoom(21, 0.5)}}
	} else if f.Err() == nil {
		f.Refuse(out[0].Check())
	}
	return out
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
		layers = append(layers, readLayer(item))
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
