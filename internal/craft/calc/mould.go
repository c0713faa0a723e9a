package calc

// Moulds as JSON.

import (
	"encoding/json"
	"math"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/refusal"
)

// plasterOf, laminateOf, shrinkOf, waterOf and routesOf answer the cases of the
// calculation "scan-and-mould" that need no mesh.
func plasterOf(raw json.RawMessage) (any, error) {
	var in mouldmath.Batch
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return mouldmath.Gypsum(in)
}

// laminateOf answers with a jacket's cloth and resin.
func laminateOf(raw json.RawMessage) (any, error) {
	var in mouldmath.Jacket
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return mouldmath.Laid(in)
}

// shrinkOf answers with how much larger a sculpt has to be.
func shrinkOf(raw json.RawMessage) (any, error) {
	var in struct{ S float64 }
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return mouldmath.Shrink(in.S)
}

// waterOf answers with the density of water.
func waterOf(raw json.RawMessage) (any, error) {
	var in struct{ T float64 }
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	if !(in.T >= 0 && in.T <= 40) {
		return nil, refusal.New(mouldmath.BadParameter, "T", "Between 0 and 40 °C.")
	}
	return map[string]float64{"density": mix.WaterDensity(in.T)}, nil
}

// Refusals of volumes.
const (
	notPositive = "NOT_POSITIVE"
	noRoute     = "NO_ROUTE"
)

// usual errors of the routes, as shares (section 11).
const (
	scanError         = 0.03
	clayError         = 0.05
	waterError        = 0.02
	displacementError = 0.03
	areaError         = 0.20
)

// routesOf weighs several ways of telling a volume against each other.
func routesOf(raw json.RawMessage) (any, error) {
	var in struct {
		Scan *struct {
			VolumeMM3 float64 `json:"volume_mm3"`
		} `json:"scan"`
		Clay *struct {
			BeforeG    float64 `json:"before_g"`
			AfterG     float64 `json:"after_g"`
			ReclaimedG float64 `json:"reclaimed_g"`
			Density    float64 `json:"density"`
		} `json:"clay"`
		Water *struct {
			FullG  float64 `json:"full_g"`
			EmptyG float64 `json:"empty_g"`
			CoreML float64 `json:"core_ml"`
			TempC  float64 `json:"temp_c"`
		} `json:"water"`
		Displacement *struct {
			InAirG   float64 `json:"in_air_g"`
			InWaterG float64 `json:"in_water_g"`
			TempC    float64 `json:"temp_c"`
			BeforeML float64 `json:"before_ml"`
			AfterML  float64 `json:"after_ml"`
		} `json:"displacement"`
		Area *struct {
			AreaMM2 float64 `json:"area_mm2"`
			MeanMM  float64 `json:"mean_mm"`
		} `json:"area_mean"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	var routes []mix.Route
	var failed error
	add := func(name string, ml, share float64) {
		if failed == nil && !(ml > 0 && !math.IsInf(ml, 0)) {
			failed = refusal.New(notPositive, name, "By %s there would be no volume at all. Check the entries.", name)
		}
		routes = append(routes, mix.Route{Name: name, VolumeML: ml, SdML: ml * share})
	}
	if s := in.Scan; s != nil {
		add("scan", s.VolumeMM3/1000, scanError)
	}
	if c := in.Clay; c != nil {
		density := c.Density
		if density == 0 {
			density = mix.ClayDensity
		}
		add("clay", (c.BeforeG-c.AfterG-c.ReclaimedG)/density, clayError)
	}
	if w := in.Water; w != nil {
		add("water", (w.FullG-w.EmptyG)/mix.WaterDensity(w.TempC)-w.CoreML, waterError)
	}
	if d := in.Displacement; d != nil {
		ml := d.AfterML - d.BeforeML
		if d.InAirG > 0 {
			ml = (d.InAirG - d.InWaterG) / mix.WaterDensity(d.TempC)
		}
		add("displacement", ml, displacementError)
	}
	if a := in.Area; a != nil {
		add("area_mean", a.AreaMM2*a.MeanMM/1000, areaError)
	}
	if failed != nil {
		return nil, failed
	}
	if len(routes) == 0 {
		return nil, refusal.New(noRoute, "", "Enter at least one way of telling the volume.")
	}
	v, err := mix.Combine(routes)
	if err != nil {
		return nil, err
	}
	return map[string]any{"mean": v.MeanML, "sd": v.SdML, "disagree": v.Disagree, "routes": v.Routes}, nil
}

// mouldOf answers the case "mould", the quantities round a mesh.
func mouldOf(files Files, raw json.RawMessage) (any, error) {
	var in struct {
		File  string
		Wall  float64
		Sides int
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	r, err := files.open(in.File, 0)
	if err != nil {
		return nil, err
	}
	return mouldmath.Around(r.Weld(), in.Wall, in.Sides)
}
