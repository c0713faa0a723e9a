package section

import (
	"math"
	"slices"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
)

// Waits that no model here gives, in s: common practice.
const (
	filmCoatS = 300  // one coat of encapsulator or sealer, touch-dry
	barrierS  = 240  // barrier film
	softFoamS = 2400 // demould of soft foam
	creamS    = 0    // cream is set with powder
	dripS     = 600  // thick blood and gels stand still
)

// wait is the drying, curing or setting after a layer that is thick mm at its
// centre, in s. For latex it fills in the times of its coats too.
func (l Layer) wait(s Section, shelf material.Shelf, room Room, thick float64, r *LayerResult) float64 {
	p := shelf[l.Material]
	switch l.Kind {
	case Latex:
		return l.dry(shelf, s.dryIn(l, room), r)
	case Silicone:
		if p.Cure != nil {
			return demouldIn(l.cure(shelf), room.TempC)
		}
	case Encapsulator, Seal:
		return filmCoatS * float64(l.MostCoats())
	case Barrier, Preparation:
		return barrierS * float64(l.Coats)
	case Foam:
		if c, err := drying.PlaceIn("fan", "form", room.TempC, room.RH).Foam(drying.UsualWash(thick / 1000)); err == nil {
			r.WashedS = c.DryS
		}
		return drying.BakeS(thick/1000, room.TempC)
	case SoftFoam:
		return softFoamS
	case Gelatin:
		if p.Base != nil && l.Method != "dropped" {
			if s, ok := p.Base.DemouldS(math.Max(0.5, thick)/1000, 60, room.TempC); ok {
				return s
			}
		}
		return 1800
	case Paste:
		if p.Family == material.LatexPaste {
			return l.pasteDry(shelf, room, thick)
		}
		return p.SetS * slower(thick, setMM)
	case Blood, WetLook:
		return dripS
	}
	if p.Film != "" {
		times, err := drying.Film(p.Film, room.TempC, room.RH)
		if err == nil {
			one := math.Max(times["dry"], times["tack_open"])
			return one * float64(max(1, l.MostCoats()))
		}
	}
	return creamS
}

// cure is the sheet by which a layer of silicone cures with what is stirred into it.
func (l Layer) cure(shelf material.Shelf) material.CureSheet {
	whole, of := 100.0, map[string]float64{}
	for _, w := range l.With {
		whole += w.Percent
	}
	for _, w := range l.With {
		of[w.Material] += w.Percent / whole
	}
	// Of more than is known the times are those of the most that is known: the
	// pour sheet is where it is refused.
	sheet, _ := shelf.CureWith(l.Material, of)
	return *sheet
}

// demouldIn is when a silicone may be taken out at a room's temperature, by the
// model that its pot on the shelf follows, s.
func demouldIn(sheet material.CureSheet, tempC float64) float64 {
	of, err := sheet.Facts().Sheet()
	if err != nil {
		return sheet.DemouldS
	}
	// In one temperature the course is one rate; TestPanelAndPotAgree holds it to the
	// course along a log.
	return of.DemouldS / drying.Arrhenius(of.Energy, tempC, of.RefC)
}

// setMM is the thickness at which a household paste sets in the time that its
// material says; pasteMM the thickest wet coat that the closed form takes.
const setMM, pasteMM = 3, 8

// slower is how many times longer than at a thickness one above it takes where
// diffusion rules: by the square.
func slower(mm, at float64) float64 { return math.Max(1, (mm/at)*(mm/at)) }

// PasteWet is a latex paste that is to be thick mm once dry, as it is spread: the wet layer
// that the drying models take, at most pasteMM, and how high it really is, mm.
func (l Layer) PasteWet(shelf material.Shelf, thick float64) (wet drying.Layer, wetMM float64) {
	wet = Layer{CoatMM: 1, Material: l.Material}.Wet(shelf)
	wetMM = thick * wet.WetM / wet.DryThicknessM()
	wet.WetM = math.Max(2e-5, math.Min(pasteMM, wetMM)/1000)
	return wet, wetMM
}

// pasteDry is when a paste spread thick mm, dry, is dry, s.
func (l Layer) pasteDry(shelf material.Shelf, room Room, thick float64) float64 {
	one, wetMM := l.PasteWet(shelf, thick)
	e, err := drying.StillRoom(room.TempC, room.RH).Latex([]drying.Layer{one}, drying.EachDried)
	if err != nil {
		return 0
	}
	return e.DryS * slower(wetMM, pasteMM)
}

// towardsSkinC is the warmest air that a dryer may blow at a wearer, °C.
const towardsSkinC = 45

// dryIn is where a layer's coats dry: on skin before a dryer that skin bears, on
// plaster that drinks, else on a form in the still air of the room, unless the
// layer says otherwise.
func (s Section) dryIn(l Layer, room Room) drying.Place {
	preset, side := s.DriesIn(l)
	return DryPlace(preset, side, room)
}

// DriesIn names where a layer's coats dry: the air over them and what is behind.
func (s Section) DriesIn(l Layer) (preset, side string) {
	side, preset = "form", "still"
	switch {
	case s.MadeOn() == OnSkin:
		side, preset = "skin", "warm_dryer"
	case s.MadeOn() == InMould && s.Made.Of == "gypsum" && !s.Made.Sealed:
		side = "plaster"
	}
	switch l.Air {
	case "still":
		preset = "still"
	case "dryer":
		preset = "warm_dryer"
	}
	return preset, side
}

// DryPlace is a place to dry in a room; a dryer blows no warmer than a wearer
// bears. Pots on the shelf take the same.
func DryPlace(preset, side string, room Room) drying.Place {
	p := drying.PlaceIn(preset, side, room.TempC, room.RH)
	if side == "skin" && p.AirC > towardsSkinC {
		p.AirC = towardsSkinC
	}
	if preset == "cabinet" { // what is in it is as warm as it is
		p.BodyC = p.AirC
	}
	return p
}

// dry fills in a latex layer's drying times and returns the wait as planned.
func (l Layer) dry(shelf material.Shelf, place drying.Place, r *LayerResult) float64 {
	coats := slices.Repeat([]drying.Layer{l.Wet(shelf)}, l.MostCoats())
	one, errOne := place.Latex(coats[:1], drying.EachDried)
	each, errEach := place.Latex(coats, drying.EachDried)
	wet, errWet := place.Latex(coats, drying.WetOnWet)
	if errOne != nil || errEach != nil || errWet != nil {
		return 0
	}
	r.RecoatS, r.DryS, r.WetS = one.RecoatS, each.DryS, wet.DryS
	if l.BetweenS != nil && *l.BetweenS < one.RecoatS && l.MostCoats() > 1 {
		return math.Max(wet.DryS, each.DryS)
	}
	return each.DryS
}
