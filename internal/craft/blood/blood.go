// Package blood says how stage blood and gels run, stay and stick, what a run that
// was watched says of them, and how much a scene wants: section 11 of the handbook
// chapter "Finish and fit". mm, ml, s, Pa·s.
package blood

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/refusal"
)

const gravity = 9.80665

// Classes of what flows, by Pa·s.
const (
	Thin    = "thin"
	Pouring = "pouring"
	Thick   = "thick"
	Paste   = "paste"
)

// Class is the class of a viscosity.
func Class(pas float64) string {
	switch {
	case pas < 0.2:
		return Thin
	case pas < 2:
		return Pouring
	case pas < 20:
		return Thick
	}
	return Paste
}

// Flow is something that may run down a slope: a film, and a drop where VolumeML
// is above 0.
type Flow struct {
	ViscosityPas, YieldPa, Density, TiltDeg, FilmMM float64
	VolumeML, WidthMM, TimeS                        float64
	SurfaceNM, Hysteresis                           float64
}

// Runs is what it does.
type Runs struct {
	Class    string   `json:"class" enum:"thin,pouring,thick,paste"`
	Velocity float64  `json:"velocity_mm_s" doc:"of the film"`
	StayMM   float64  `json:"stay_mm" doc:"so thick a film stays where it is"`
	StickML  float64  `json:"stick_ml" doc:"so large a drop sticks"`
	Runs     bool     `json:"runs"`
	Distance *float64 `json:"distance_mm"`
	Stop     *float64 `json:"stop_mm" doc:"where it comes to a stand, if it does"`
	Front    *float64 `json:"front_mm" doc:"how high its front is then"`
}

// pull is ρ·g·sin tilt, Pa/m.
func pull(density, tilt float64) float64 { return density * gravity * math.Sin(tilt*math.Pi/180) }

// Of works it out.
func Of(f Flow) Runs {
	p, mu, y := pull(f.Density, f.TiltDeg), f.ViscosityPas, f.YieldPa
	film, stay := f.FilmMM/1000, y/p
	out := Runs{Class: Class(mu), StayMM: stay * 1000}
	if film > stay {
		out.Velocity = p * (film - stay) * (film - stay) * (2*film + stay) / (6 * mu * film) * 1000
	}
	w := f.WidthMM / 1000
	out.StickML = w * f.SurfaceNM * f.Hysteresis / p * 1e6
	if f.VolumeML <= 0 {
		out.Runs = film > stay
		return out
	}
	volume := f.VolumeML * 1e-6
	a := volume / w
	if y > 0 {
		stop := a / stay * 1000
		out.Stop = &stop
	}
	out.Runs = f.VolumeML > out.StickML
	distance := 0.0
	if out.Runs {
		distance = math.Cbrt(9*a*a*p*f.TimeS/(4*mu)) * 1000
		if out.Stop != nil {
			distance = math.Min(distance, *out.Stop)
		}
	}
	if distance > 0 {
		front := 3 * a / (2 * distance / 1000) * 1000
		out.Front = &front
	}
	out.Distance = &distance
	return out
}

// Watched is a drop of VolumeML that was watched as it ran down: seconds and mm.
type Watched struct {
	VolumeML, WidthMM, TiltDeg, Density float64
	Readings                            [][2]float64
	Stopped                             bool // the last reading is where it stands
}

// Fit is what it says of the stuff.
type Fit struct {
	Viscosity *float64 `json:"viscosity_pas"`
	Low       *float64 `json:"low_pas"`
	High      *float64 `json:"high_pas"`
	Class     *string  `json:"class"`
	Exponent  *float64 `json:"exponent"`
	YieldPa   *float64 `json:"yield_pa"`
	Warnings  []string `json:"warnings"`
}

const z95 = 1.6448536

// FitOf reads viscosity and yield off a run.
func FitOf(w Watched) Fit {
	out := Fit{Warnings: []string{}}
	p, a := pull(w.Density, w.TiltDeg), w.VolumeML*1e-6/(w.WidthMM/1000)
	used := w.Readings
	if w.Stopped {
		last := w.Readings[len(w.Readings)-1]
		used = used[:len(used)-1]
		y := p * a / (last[1] / 1000)
		out.YieldPa = &y
	}
	if n := float64(len(used)); n > 0 {
		sum := 0.0
		for _, r := range used {
			x := r[1] / 1000
			sum += math.Log(9 * a * a * p * r[0] / (4 * x * x * x))
		}
		mid := math.Exp(sum / n)
		s := math.Sqrt((3*0.05)*(3*0.05)/n + 2*(2*0.1)*(2*0.1))
		low, high, class := mid*math.Exp(-z95*s), mid*math.Exp(z95*s), Class(mid)
		out.Viscosity, out.Low, out.High, out.Class = &mid, &low, &high, &class
	}
	if len(used) >= 3 {
		slope := slopeOf(used)
		out.Exponent = &slope
		if slope < 0.25 || slope > 0.42 {
			out.Warnings = append(out.Warnings, "not_newtonian")
		}
	}
	return out
}

// slopeOf is the slope of ln x on ln t.
func slopeOf(readings [][2]float64) float64 {
	n, st, sx, stt, stx := float64(len(readings)), 0.0, 0.0, 0.0, 0.0
	for _, r := range readings {
		t, x := math.Log(r[0]), math.Log(r[1])
		st, sx, stt, stx = st+t, sx+x, stt+t*t, stx+t*x
	}
	return (n*stx - st*sx) / (n*stt - st*st)
}

// Base is a blood of syrup, water and thickener in shares of the mass.
type Base struct{ Syrup, Water, Thickener float64 }

// Viscosity in Pa·s, by the mixing rule of the chapter on colour (section on blood).
func (b Base) Viscosity() float64 {
	sum := b.Syrup + b.Water + b.Thickener
	return math.Exp(b.Syrup/sum*math.Log(60) + b.Water/sum*math.Log(0.001) + 100*b.Thickener/sum)
}

// Check refuses readings that cannot be: all above zero, then both rising.
func (w Watched) Check() error {
	for i, r := range w.Readings {
		if !(r[0] > 0) || !(r[1] > 0) {
			return refusal.New(refusal.OutOfRange, fmt.Sprintf("readings[%d]", i), "Seconds and millimetres must be above zero.")
		}
	}
	for i := 1; i < len(w.Readings); i++ {
		a, b := w.Readings[i-1], w.Readings[i]
		stands := w.Stopped && i == len(w.Readings)-1 && b[1] == a[1]
		if b[0] <= a[0] || b[1] <= a[1] && !stands {
			return refusal.New(refusal.BadOrder, fmt.Sprintf("readings[%d]", i), "Time and distance must both rise.")
		}
	}
	return nil
}
