package device

import (
	"math"
	"time"
)

// Setting is what a place was set to since when; nothing is off.
type Setting struct {
	At time.Time
	C  *float64
}

// Ask is a question to a place's own probe: its readings from one time to another. A
// stand-in needs to be told what was set and how warm it was; a real one knows.
type Ask struct {
	Place, Kind string
	From, To    time.Time
	Sets        []Setting
	StartC      float64 // °C at From
	Room        RoomSensor
}

// PlaceProbe are the probes in racks, cold rooms, boxes and ovens: one reading a minute
// each. A place without one gives none.
type PlaceProbe interface {
	Between(Ask) []RoomReading
}

// NoProbe is a shop whose places have no probes.
type NoProbe struct{}

// Between implements PlaceProbe.
func (NoProbe) Between(Ask) []RoomReading { return nil }

// SimulatedProbe is a stand-in: a cold room holds its cold, a box and an oven run up to
// what they are set to and cool when they are off, a rack stands in the room.
type SimulatedProbe struct{}

// How fast a stand-in follows what it is set to, s: warming, and cooling shut.
const (
	warmsInS = 900.0
	coolsInS = 3600.0
)

// Between implements PlaceProbe.
func (SimulatedProbe) Between(a Ask) []RoomReading {
	var out []RoomReading
	temp := a.StartC
	for _, r := range a.Room.Between(a.From, a.To) {
		switch a.Kind {
		case "rack":
			r.TempC = math.Round((r.TempC+0.4)*100) / 100
		case "cold":
			target := 5.0
			if c := setAt(a.Sets, r.At); c != nil {
				target = *c
			}
			r.TempC, r.RH = math.Round((target+0.1*(r.TempC-19))*100)/100, 0.78
		default:
			target, tau := r.TempC, coolsInS
			if c := setAt(a.Sets, r.At); c != nil {
				target = *c
				if target > temp {
					tau = warmsInS
				}
			}
			temp += (target - temp) * (1 - math.Exp(-60/tau))
			r.RH = 0 // its probe reads no humidity
			r.TempC = math.Round(temp*100) / 100
		}
		out = append(out, r)
	}
	return out
}

func setAt(sets []Setting, at time.Time) *float64 {
	var c *float64
	for _, s := range sets {
		if !s.At.After(at) {
			c = s.C
		}
	}
	return c
}
