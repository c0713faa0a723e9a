package drying

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// solvent is what a film gives off (section 2 of the handbook chapter).
type solvent struct {
	molar, latent, share, density float64
	// pressure in Pa and its slope in Pa/K over the pure solvent at c °C.
	pressure, slope func(c float64) float64
	// ambient tells whether the air holds some of it already.
	ambient bool
}

var water = solvent{waterMolar, waterLatent, 1, 998, SaturationPressure, saturationSlope, true}

var ethanol = solvent{0.046069, 0.92e6, 0.60, 789, ethanolPressure, func(c float64) float64 {
	return ethanolPressure(c) * math.Ln10 * 1642.89 / ((c + 230.3) * (c + 230.3))
}, false}

func ethanolPressure(c float64) float64 { return 133.322 * math.Pow(10, 8.20417-1642.89/(c+230.3)) }

// filmKind is an adhesive or paint that dries as a thin film (section 9).
type filmKind struct {
	solvent      solvent
	wet, vol     float64
	solid, ua, d float64
	events       []filmEvent
}

type filmEvent struct {
	name string
	f    float64
}

var films = map[string]filmKind{
	"acrylic_adhesive": {water, 40e-6, 0.45, 1080, 0.020, 2e-11, []filmEvent{{"clear", 0.08}}},
	"spirit_gum":       {ethanol, 60e-6, 0.55, 1080, 0.30, 0, []filmEvent{{"tack_open", 0.45}, {"tack_close", 0.10}}},
	"alcohol_paint":    {ethanol, 15e-6, 0.75, 1150, 0.15, 0, []filmEvent{{"touch", 0.20}, {"dry", 0.05}}},
	"water_paint":      {water, 25e-6, 0.65, 1300, 0.040, 0, []filmEvent{{"touch", 0.20}, {"powder", 0.15}, {"dry", 0.05}}},
	"adhesive_paint":   {water, 40e-6, 0.55, 1200, 0.025, 2e-11, []filmEvent{{"touch", 0.15}, {"powder", 0.10}, {"dry", 0.04}}},
}

// Films are the names of the films that the closed form knows.
var Films = []string{"acrylic_adhesive", "spirit_gum", "alcohol_paint", "water_paint", "adhesive_paint"}

// TackS is for how long acrylic adhesive grips after it went clear, in s.
const TackS = 1800

// Film tells when a film of this name, in its usual wet thickness, reaches its
// states on skin in this room, in s by state: clear, tack_open, tack_close,
// touch, powder, dry. Real coats differ by a factor of two; show a band.
func Film(name string, roomC, rh float64) (map[string]float64, error) {
	if _, known := films[name]; !known {
		return nil, refusal.New(refusal.UnknownValue, "film", "No film of the name “%.30s” is known.", name)
	}
	course, err := PlaceIn("still", "skin", roomC, rh).Film(name, UsualFilm(name))
	return course.Times, err
}

// Wet is a film as it is laid on: m, the share that goes off, and for how many
// seconds it grips once it went clear.
type Wet struct{ WetM, Volatile, WindowS float64 }

// UsualFilm is the usual coat of a film that is known.
func UsualFilm(name string) Wet { return Wet{films[name].wet, films[name].vol, TackS} }

// FilmCourse is when a film reaches its states, s by state, with the
// evaporation it began with, kg/(m² s), the surface's temperature and what goes
// off in all, kg/m².
type FilmCourse struct {
	Times                           map[string]float64
	Evaporation, SurfaceC, Volatile float64
}

// Film follows a film that is known in this place.
func (p Place) Film(name string, coat Wet) (FilmCourse, error) {
	k, wet, vol := films[name], coat.WetM, coat.Volatile
	rho := 1 / ((1-vol)/k.solid + vol/k.solvent.density)
	m := wet * rho * (1 - vol)
	u0, dry := vol/(1-vol), m/k.solid
	_, rest := p.total()
	e, activity := 0.0, 0.0
	if k.solvent.ambient {
		e = -k.ua * math.Log(1-math.Min(p.RH, 0.999999))
		activity = p.airPressure() / SaturationPressure(rest)
	}
	if e >= 0.9*u0 {
		return FilmCourse{}, refusal.New(refusal.NeverDries, "rh", "The room is so humid that the film hardly dries at all.")
	}
	flux, surface := p.fluxOf(k.solvent, 1)
	b := 1 - activity
	times := map[string]float64{}
	for _, ev := range k.events {
		uf := e + ev.f*(u0-e)
		if b <= math.Exp(-uf/k.ua) {
			return FilmCourse{}, refusal.New(refusal.NeverDries, "rh", "In this air the film never gets this dry.")
		}
		t := m / flux * (u0 - uf + k.ua*math.Log((b-math.Exp(-u0/k.ua))/(b-math.Exp(-uf/k.ua))))
		if k.d > 0 {
			t += film{solids: m, water: m * u0, dry: dry, ua: k.ua, lnD: math.Log(k.d) * dry}.within(uf, u0, activity) * dry * dry / (3.2 * Arrhenius(energyDiffusion, rest, 21))
		}
		times[ev.name] = t
	}
	if clear, acrylic := times["clear"]; acrylic {
		times["tack_open"], times["tack_close"] = clear, clear+coat.WindowS
	}
	return FilmCourse{times, flux, surface, m * u0}, nil
}

// fluxOf is the evaporation of a solvent in kg/(m² s) and the surface
// temperature in °C at activity a: Newton on the steady heat balance from the
// resting temperature, which always has one root.
func (p Place) fluxOf(s solvent, a float64) (flux, surfaceC float64) {
	beta := p.Km * s.share * s.molar / (GasConstant * Kelvin(p.AirC))
	around := 0.0
	if s.ambient {
		around = p.airPressure()
	}
	h, rest := p.total()
	t := rest
	for range 60 {
		j := beta * (a*s.pressure(t) - around)
		step := (h*(rest-t) - s.latent*j) / (-h - s.latent*beta*a*s.slope(t))
		t -= step
		if math.Abs(step) < 1e-11 {
			break
		}
	}
	return beta * (a*s.pressure(t) - around), t
}

// SkinPace is how fast a wet film dries on skin against 21 °C, 50 % and still air: law is water or
// solvent (ethanol), none dries by no air. Zero or less where the air gives rather than takes.
func SkinPace(law, preset string, roomC, rh float64) float64 {
	s, dries := map[string]solvent{"water": water, "solvent": ethanol}[law]
	if !dries {
		return 1
	}
	here, _ := PlaceIn(preset, "skin", roomC, rh).fluxOf(s, 1)
	usual, _ := PlaceIn("still", "skin", 21, 0.5).fluxOf(s, 1)
	return max(0, here/usual)
}
