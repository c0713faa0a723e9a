// Package drying holds the drying models of the handbook chapter "Drying, cure
// and thermal models": the air and evaporation of section 2 and the closed-form
// estimate for latex layers of section 3.6, and the thin films of section 9. SI units inside; fields that end in
// C are °C. The full simulation of section 3.2 is not here yet.
package drying

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

const gasConstant = 8.314462618 // J/(mol K)

// Kelvin turns °C into K.
func Kelvin(c float64) float64 { return c + 273.15 }

// Arrhenius is the rate at tempC relative to the rate at refC for an
// activation energy in J/mol; above 1 when warmer.
func Arrhenius(energy, tempC, refC float64) float64 {
	return math.Exp(-energy / gasConstant * (1/Kelvin(tempC) - 1/Kelvin(refC)))
}

// SaturationPressure is the vapour pressure of water in Pa at c °C (-5…100,
// error below 0.1 %).
func SaturationPressure(c float64) float64 {
	return 611.21 * math.Exp((18.678-c/234.5)*c/(257.14+c))
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

// ReadPlace reads the place fields common to the drying models.
// usual is the side taken when none is said: form or skin.
func ReadPlace(f *refusal.Fields, usual string) Place {
	p := Place{RoomC: f.Number("room_c", 21, 5, 40), RH: f.Number("rh", 0.50, 0.05, 0.95)}
	p.Side = usual
	side := f.Child("side")
	if side != nil {
		p.Side = side.Word("kind", usual, "form", "skin", "plaster")
	}
	p.BodyC, p.Conduct = map[string]float64{"form": p.RoomC, "skin": 33, "plaster": p.RoomC}[p.Side], map[string]float64{"form": 15, "skin": 35, "plaster": 20}[p.Side]
	p.Preset = f.Word("preset", "still", Presets...)
	pre := presets[p.Preset]
	air := pre.airC
	if math.IsNaN(air) {
		air = p.RoomC
	}
	p.AirC = f.Number("air_c", air, 0, 90)
	p.Km = f.Number("k_m", pre.km, 5e-4, 0.2)
	if p.Preset == "cabinet" {
		p.BodyC = p.AirC
	}
	if side != nil {
		p.BodyC = side.Number("body_c", p.BodyC, 0, 60)
		p.Conduct = side.Number("conductance", p.Conduct, 0, 500)
		f.Adopt(side)
	}
	if p.AirC < p.RoomC {
		f.Fail(refusal.Contradiction, "air_c", "The air over the film cannot be colder than the room.")
	}
	if p.Preset == "cabinet" && p.Side == "skin" {
		f.Fail(refusal.Contradiction, "preset", "A person does not go into the drying cabinet.")
	}
	if f.Err() == nil {
		if j, _ := p.flux(1); j <= 0 {
			f.Fail(refusal.NeverDries, "rh", "In this air nothing dries: it gives water rather than taking it.")
		}
	}
	return p
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

// StillRoom is a plastic or sealed form in the still air of a room: the place
// that a plan assumes until another is chosen.
func StillRoom(roomC, rh float64) Place {
	return Place{RoomC: roomC, RH: rh, Preset: "still", Side: "form", AirC: roomC, Km: presets["still"].km, BodyC: roomC, Conduct: 15}
}
