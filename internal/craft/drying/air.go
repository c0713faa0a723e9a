// Package drying holds the drying models of the handbook chapter "Drying, cure
// and thermal models": the air and evaporation of section 2 and the closed-form
// estimate for latex layers of section 3.6, the simulation of sections 3.2 to 3.5 (stack.go), and the thin films of
// section 9. SI units inside; fields that end in C are °C.
package drying

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// GasConstant in J/(mol K).
const GasConstant = 8.314462618

// Kelvin turns °C into K.
func Kelvin(c float64) float64 { return c + 273.15 }

// Arrhenius is the rate at tempC relative to the rate at refC for an
// activation energy in J/mol; above 1 when warmer.
func Arrhenius(energy, tempC, refC float64) float64 {
	return math.Exp(-energy / GasConstant * (1/Kelvin(tempC) - 1/Kelvin(refC)))
}

// SaturationPressure is the vapour pressure of water in Pa at c °C (-5…100,
// error below 0.1 %).
func SaturationPressure(c float64) float64 {
	return 611.21 * math.Exp((18.678-c/234.5)*c/(257.14+c))
}

// Indoors is the relative humidity, 0 to 1, of a room at roomC °C whose air comes from outside at outC °C and outRH: the vapour stays
// and the air is heated. morePa is vapour that the room itself adds, Pa. What condenses on cold walls is not in it: 0.95 is the most.
func Indoors(outC, outRH, roomC, morePa float64) float64 {
	rh := (outRH*SaturationPressure(outC) + morePa) / SaturationPressure(roomC)
	return math.Max(0.1, math.Min(0.95, rh))
}

func saturationSlope(c float64) float64 {
	b := 257.14 + c
	g := ((18.678-2*c/234.5)*b - (18.678-c/234.5)*c) / (b * b)
	return SaturationPressure(c) * g
}

const (
	waterMolar  = 0.018015
	waterLatent = 2.45e6
)

type preset struct {
	airC float64 // NaN: the room's own
	km   float64
}

var presets = map[string]preset{
	"still":      {math.NaN(), 0.0045},
	"fan":        {math.NaN(), 0.015},
	"cool_dryer": {math.NaN(), 0.035},
	"warm_dryer": {50, 0.035},
	"cabinet":    {45, 0.010},
}

// Presets are the names of the drying places, calmest first.
var Presets = []string{"still", "fan", "cool_dryer", "warm_dryer", "cabinet"}

// Place is where something dries: room, air over the film, body behind it.
type Place struct {
	RoomC, RH      float64
	Preset, Side   string
	AirC, Km       float64
	BodyC, Conduct float64
}

// PlaceIn is a drying place as it is without anything else being said: its
// preset, and form, skin or plaster behind the film.
func PlaceIn(preset, side string, roomC, rh float64) Place {
	pre := presets[preset]
	p := Place{RoomC: roomC, RH: rh, Preset: preset, Side: side, AirC: pre.airC, Km: pre.km}
	if math.IsNaN(pre.airC) {
		p.AirC = roomC
	}
	p.BodyC, p.Conduct = map[string]float64{"form": roomC, "skin": 33, "plaster": roomC}[side], map[string]float64{"form": 15, "skin": 35, "plaster": 20}[side]
	return p
}

// Check refuses a place that cannot be, or in which nothing dries.
func (p Place) Check() error {
	if err := p.possible(); err != nil {
		return err
	}
	if j, _ := p.flux(1); j <= 0 {
		return refusal.New(refusal.NeverDries, "rh", "In this air nothing dries: it gives water rather than taking it.")
	}
	return nil
}

// possible refuses air that cannot be over a film.
func (p Place) possible() error {
	if p.AirC < p.RoomC {
		return refusal.New(refusal.Contradiction, "air_c", "The air over the film cannot be colder than the room.")
	}
	if p.Preset == "cabinet" && p.Side == "skin" {
		return refusal.New(refusal.Contradiction, "preset", "A person does not go into the drying cabinet.")
	}
	return nil
}

func (p Place) airPressure() float64 { return p.RH * SaturationPressure(p.RoomC) }

func (p Place) total() (h, rest float64) {
	air := 1090*p.Km + 5.5
	h = air + p.Conduct
	return h, (air*p.AirC + p.Conduct*p.BodyC) / h
}

// flux is the evaporation of water in kg/(m² s) and the surface temperature in
// °C at water activity a.
func (p Place) flux(a float64) (flux, surfaceC float64) { return p.fluxOf(water, a) }

// fluxSlope is the same with the derivative of the flux by the activity.
func (p Place) fluxSlope(a float64) (flux, slope, surfaceC float64) {
	flux, surfaceC = p.flux(a)
	beta := p.Km * waterMolar / (GasConstant * Kelvin(p.AirC))
	h, _ := p.total()
	ps := SaturationPressure(surfaceC)
	return flux, beta * ps / (1 + waterLatent*beta*a*saturationSlope(surfaceC)/h), surfaceC
}

// StillRoom is a plastic or sealed form in the still air of a room: the place
// that a plan assumes until another is chosen.
func StillRoom(roomC, rh float64) Place {
	return PlaceIn("still", "form", roomC, rh)
}
