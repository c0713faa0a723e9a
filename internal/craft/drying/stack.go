package drying

// The simulation of sections 3.2 to 3.5 of the handbook chapter: water in a stack of
// latex layers, each put on at a time or once the one below is so far, on the
// coordinate of the dry thickness.

import (
	"math"
)

// The marks of a layer, as the share of its free water that is left.
const (
	TouchDry    = 0.25
	RecoatReady = 0.06
	ThroughDry  = 0.02
)

// What a layer waits for of the one below.
const (
	AfterTouch  = "touch"
	AfterRecoat = "recoat"
	AfterDry    = "dry"
)

// Laid is a layer with when it is put on: at a time, in s, or so long after the one
// below reached a mark.
type Laid struct {
	Layer
	AtS   float64 `json:"at_s"`
	After string  `json:"after,omitempty"`
	WaitS float64 `json:"wait_s,omitempty"`
}

// Segment is a drying place from a moment on, in s of the run.
type Segment struct {
	FromS float64
	Place
}

// Stack is what is simulated. The segments share their side, and may each be in a room of
// their own; the first begins at 0.
type Stack struct {
	Layers     []Laid
	Segments   []Segment
	WallM      float64 // of plaster: its thickness, m
	Saturation float64 // of plaster: how full of water its pores are, 0..1
	HorizonS   float64
	ReportS    []float64

	finer int // more cells than usual, so many times; to see what the usual ones cost
}

// LayerTimes are when a layer was put on and reached its marks, s of the run; nil for
// what did not happen.
type LayerTimes struct {
	AtS     *float64 `json:"at_s"`
	TouchS  *float64 `json:"touch_s"`
	RecoatS *float64 `json:"recoat_s"`
	DryS    *float64 `json:"dry_s"`
}

// Dried is how a stack dries. Uncertain by −30/+50 % until its place was learned.
type Dried struct {
	Layers      []LayerTimes `json:"layers"`
	DryS        *float64     `json:"dry_s"`
	Evaporation float64      `json:"evaporation_kg_m2_s"`
	SurfaceC    float64      `json:"surface_c"`
	AirRH       float64      `json:"air_rh"`
	Water       float64      `json:"water_kg_m2"`
	DryM        float64      `json:"dry_thickness_m"`
	Left        []float64    `json:"water_left_kg_m2"`
	Absorbed    float64      `json:"absorbed_kg_m2"`
	// Shares are, at each of the times asked for, what is left of the free water of each
	// layer, 0 to 1; 0 of one that is not on yet.
	Shares [][]float64 `json:"-"`
	// Taken is, at each of those times, what plaster took up until then, kg/m².
	Taken    []float64 `json:"-"`
	Warnings []string  `json:"warnings"`
	// Stopped: it took more steps than a case may, and what is left out of it is by
	// the closed form.
	Stopped bool `json:"-"`
}

// Constants of sections 3.1 to 3.3.
const (
	openAbove     = 0.25   // water ratio above which a film has not formed
	plasterTakes  = 1.5e-4 // kg/(m² s)
	plasterPores  = 0.35
	uaRubber      = 0.010
	uaFiller      = 0.16
	uaFibre       = 0.09
	mostSteps     = 5000
	humid         = 0.80
	hotOnSkinC    = 45.0
	sealedOpen    = 0
	sealedLimited = 1
	sealedBlocked = 2
)

// Simulate follows a stack until it is dry, or to its horizon. Refusals: never_dries,
// out_of_range and contradiction of the place; out_of_range at rh where the room is so
// humid that a layer hardly dries.
func (in Stack) Simulate() (Dried, error) {
	first := in.Segments[0].Place
	out := Dried{Layers: make([]LayerTimes, len(in.Layers)), Left: []float64{}, Warnings: []string{}}
	for _, seg := range in.Segments {
		if err := seg.possible(); err != nil {
			return out, err
		}
	}
	if err := first.Check(); err != nil {
		return out, err
	}
	b, err := in.bench(&out)
	if err != nil {
		return out, err
	}
	out.Evaporation, out.SurfaceC = first.flux(1)
	out.AirRH = first.airPressure() / SaturationPressure(first.AirC)
	steps := b.run(&out)
	if b.plaster {
		out.Absorbed = b.u[0]
	}
	out.Stopped = steps >= mostSteps
	if out.Stopped {
		b.close(&out)
	}
	dry := 0.0
	all := true
	for _, l := range out.Layers {
		if l.DryS == nil {
			all = false
			break
		}
		dry = math.Max(dry, *l.DryS)
	}
	if first.RH > humid {
		out.Warnings = append(out.Warnings, "humid_room")
	}
	for _, seg := range in.Segments {
		if seg.Side == "skin" && seg.AirC > hotOnSkinC {
			out.Warnings = append([]string{"hot_on_skin"}, out.Warnings...)
			break
		}
	}
	if all {
		out.DryS = &dry
	} else {
		out.Warnings = append(out.Warnings, "not_dry_within_horizon")
	}
	return out, nil
}

// close answers what is left by the closed form, all of it as one wet film.
func (b *bench) close(out *Dried) {
	layers := make([]Layer, len(b.in.Layers))
	for i, l := range b.in.Layers {
		layers[i] = l.Layer
	}
	place := b.in.Segments[len(b.in.Segments)-1].Place
	if place.Side == "plaster" {
		place.Side = "form"
	}
	e, err := place.Latex(layers, WetOnWet)
	if err != nil {
		return
	}
	for i := range out.Layers {
		l := &out.Layers[i]
		from := b.t
		if l.AtS != nil {
			from = *l.AtS
		} else {
			l.AtS = &from
		}
		for _, m := range []struct {
			at **float64
			s  float64
		}{{&l.TouchS, e.TouchS}, {&l.RecoatS, e.RecoatS}, {&l.DryS, e.DryS}} {
			if *m.at == nil {
				t := from + m.s
				*m.at = &t
			}
		}
	}
}
