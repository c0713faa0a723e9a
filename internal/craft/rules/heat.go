package rules

import (
	"math"

	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wax"
)

// What sun and tungsten lamps add to a worn surface, W/m² absorbed.
const sunWM2, lampsWM2 = 250, 100

// Radiant is what a worn surface takes from sun or lamps, W/m².
func Radiant(sun, lamps bool) float64 {
	switch {
	case sun:
		return sunWM2
	case lamps:
		return lampsWM2
	}
	return 0
}

func worn(l section.Layer, d Day, hours, sweat float64) gelatin.Worn {
	w := gelatin.AsWorn(d.TempC)
	w.ThicknessM = math.Max(5e-4, l.CentreMM/1000)
	if hours > 0 {
		w.Hours = hours
	}
	if sweat > 0 {
		w.SweatKgM2H = sweat
	}
	w.RadiantWM2 = Radiant(d.Sun, d.Lamps)
	return w
}

func held(firmness string, l section.Layer, d Day) wax.Holding {
	k, known := wax.Kinds[firmness]
	if !known {
		k = wax.Kinds["soft"]
	}
	w := wax.AsWorn(math.Max(5e-4, l.CentreMM/1000), d.TempC)
	w.RadiantWM2 = Radiant(d.Sun, d.Lamps)
	return k.Holding(w)
}
