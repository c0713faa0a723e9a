package rules

import (
	"math"

	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wax"
)

// What the sun adds to a worn surface, W/m² absorbed.
const sunWM2 = 250

func worn(l section.Layer, d Day, hours, sweat float64) gelatin.Worn {
	w := gelatin.AsWorn(d.TempC)
	w.ThicknessM = math.Max(5e-4, l.CentreMM/1000)
	if hours > 0 {
		w.Hours = hours
	}
	if sweat > 0 {
		w.SweatKgM2H = sweat
	}
	if d.Sun {
		w.RadiantWM2 = sunWM2
	}
	return w
}

func held(firmness string, l section.Layer, d Day) wax.Holding {
	k, known := wax.Kinds[firmness]
	if !known {
		k = wax.Kinds["soft"]
	}
	w := wax.AsWorn(math.Max(5e-4, l.CentreMM/1000), d.TempC)
	if d.Sun {
		w.RadiantWM2 = sunWM2
	}
	return k.Holding(w)
}
