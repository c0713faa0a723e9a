package build

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"time"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/platform/database"
)

// gelTime is when a foam gels after its gelling agent went in, s.
type gelTime struct {
	GelS  float64 `json:"gel_s"`
	LowS  float64 `json:"low_s"`
	HighS float64 `json:"high_s"`
	// Filled: it is in its mould, and waits there to gel.
	Filled bool `json:"filled,omitempty"`
}

// chill is gelatin in its mould: what it is made from, how it was poured.
type chill struct {
	Recipe gelatin.Recipe `json:"recipe"`
	Pour   gelatin.Pour   `json:"pour"`
}

// The band of a time that the section gives without a model of its own, and of those that
// have one: the heat of walls is known better than the transfer to them.
const (
	setLow, setHigh   = 0.7, 1.5
	heatLow, heatHigh = 0.92, 1.12
)

// gelled is what somebody says who pressed a foam and saw it spring back.
const gelled = "gelled"

// sets computes a pot that sets: by its own engine, else by the time that the section
// gives.
func (s *Service) sets(p Pot, row potRow, model potModel, elapsed float64, log []reading, stood []move) (Pot, error) {
	switch {
	case model.Gel != nil:
		return gels(p, row, *model.Gel, elapsed), nil
	case model.Bake != nil:
		return s.bakes(p, *model.Bake, elapsed, log, stood)
	case model.Wash != nil:
		return washes(p, *model.Wash, row, elapsed, log)
	case model.Chill != nil:
		return chills(p, *model.Chill, row, elapsed, log)
	}
	waitS := math.Max(1, model.WaitS)
	p = after(p, waitS, elapsed, setLow, setHigh)
	p.Marks = []Mark{{"set", "ready", 0.9, elapsed >= waitS}}
	p.Why = []string{fmt.Sprintf("The section gives %s for this; band −30/+50 %%. Look and feel before you go on.", duration(waitS))}
	if p.State == "ready" {
		p.Words, p.Left = "set", "go on"
		return p, nil
	}
	p.Words, p.Left = "setting", "ready in "+withBand(p.LeftS, p.LowS, p.HighS)
	p.HeldBack = fmt.Sprintf("It is still setting; ready in about %s.", duration(p.LeftS))
	return p, nil
}

// after fills in how far a pot is that is ready so long after it began, s, with its band.
func after(p Pot, readyS, elapsed, low, high float64) Pot {
	p.Fill = math.Min(1, 0.9*elapsed/math.Max(1, readyS))
	p.LeftS = math.Max(0, readyS-elapsed)
	p.LowS, p.HighS = math.Max(0, low*readyS-elapsed), math.Max(0, high*readyS-elapsed)
	at := p.StartedAt.Add(time.Duration(readyS * float64(time.Second)))
	p.ReadyAt = &at
	if elapsed >= readyS {
		p.State = "ready"
	}
	return p
}

// gels is foam on its way to the gel: it is filled in before, and goes into the oven after.
func gels(p Pot, row potRow, g gelTime, elapsed float64) Pot {
	p = after(p, g.GelS, elapsed, g.LowS/g.GelS, g.HighS/g.GelS)
	p.Why = []string{fmt.Sprintf("Gels %s after the gelling agent, between %s and %s, by room, dose and the batches of before. Press what is left in the bowl: gelled, it springs back without a dent.",
		duration(g.GelS), duration(g.LowS), duration(g.HighS))}
	if !g.Filled {
		shut := row.StartedAt.Add(time.Duration(g.LowS * float64(time.Second)))
		p.TooLateAt, p.TooLate = &shut, "it may gel before it is in the mould"
		p.Marks = []Mark{{"pour", "in the mould by then", 0.9 * g.LowS / g.GelS, elapsed >= g.LowS},
			{"set", "gels", 0.9, elapsed >= g.GelS}}
		p.State, p.Words, p.Left = "ready", "liquid still", "fill it before it gels"
		p.RangAt = &row.StartedAt
		if elapsed >= g.LowS {
			p.Words, p.Left = "at its time to gel", "fill it at once"
		}
		if elapsed >= g.GelS {
			p.Words, p.Left = "past its time to gel", "too late to fill"
			p.HeldBack = "It is past its time to gel. What has gelled tears as it is poured: press it first."
		}
		return p
	}
	seen := row.Observed != nil
	p.Marks = []Mark{{gelled, "gelled", 0.9, seen || elapsed >= g.GelS}}
	switch {
	case seen:
		p.Observed, p.State, p.LeftS, p.LowS, p.HighS = gelled, "ready", 0, 0, 0
		var sign drySign
		if json.Unmarshal([]byte(*row.Observed), &sign) == nil {
			at := row.StartedAt.Add(time.Duration(sign.AtS * float64(time.Second)))
			p.ReadyAt = &at
		}
		p.Words, p.Left, p.Fill = "gelled", "into the oven", 0.9
	case p.State == "ready":
		p.Marks[0].Reached = false // by the clock alone; a finger has not said so
		p.Words, p.Left = "past its time to gel", "press it: is it gelled?"
	default:
		p.Words, p.Left = "liquid still", "gels in "+withBand(p.LeftS, p.LowS, p.HighS)
		p.HeldBack = fmt.Sprintf("It is not gelled yet, by the clock; about %s more. Baked before, it collapses.", duration(p.LeftS))
	}
	return p
}

// bakes follows foam along its oven: heating through, curing at its coldest place, and
// cooling to where the mould may be opened.
func (s *Service) bakes(p Pot, b foam.Bake, elapsed float64, log []reading, stood []move) (Pot, error) {
	if !slices.ContainsFunc(stood, func(m move) bool { return m.Kind != nil && isHot(*m.Kind) }) {
		return bakesUnseen(p, b, elapsed)
	}
	p.Bakes = true
	temps := temperatures(log, p.StartedAt, elapsed)
	off := offSince(temps)
	done, far, err := b.Along(temps, off)
	if err != nil {
		return p, err
	}
	now := s.Clock.Now()
	p.Why = []string{fmt.Sprintf("Heat followed through %.0f mm of %s, %.0f mm of foam and %.0f mm along the oven's probe, %.0f °C now: the coldest foam is at %.0f °C, the mould at %.0f °C at its hottest. Cure index %.2f of 1.",
		1000*b.WallAM, b.Mould, 1000*b.FoamM, 1000*b.WallBM, temps[len(temps)-1][1], far.ColdestC, far.WallC, far.Index),
		fmt.Sprintf("The mould may be opened below %.0f °C: hotter, it may crack.", done.OpenBelow)}
	if words := aged(log, age(log, now)); words != "" {
		p.Why = append(p.Why, words)
	}
	cured := done.CureS != nil && *done.CureS <= elapsed
	switch {
	case done.CureS == nil:
		p.Words, p.Left = fmt.Sprintf("%.0f °C at its coldest", far.ColdestC), "not cured in this air"
		p.HeldBack = "As warm as it stands it is not cured. " + p.Why[0]
		p.Fill = math.Min(0.6, 0.6*far.Index)
		p.LeftS, p.LowS, p.HighS = horizonS, horizonS, horizonS
		p.Marks = bakeMarks(nil, done, elapsed, false)
		return p, nil
	case done.OpenS == nil:
		p.Words, p.Left = "cured, and too hot to open", "take it off the heat"
		p.HeldBack = p.Words + "."
		p.LeftS, p.LowS, p.HighS = horizonS, horizonS, horizonS
		return p, nil
	}
	p = after(p, *done.OpenS, elapsed, heatLow, heatHigh)
	p.Marks = bakeMarks(done.OpenS, done, elapsed, cured)
	if far.OverS != nil {
		shut := p.StartedAt.Add(time.Duration(*far.OverS * float64(time.Second)))
		p.TooLateAt, p.TooLate = &shut, "it is over-cured if the oven stays on"
	}
	switch {
	case p.State == "ready":
		p.Words, p.Left = "cured and cool enough", "open it now"
	case cured && off == nil:
		p.Words, p.Left = "cured", "switch the oven off"
		p.State = "ready"
		rang := p.StartedAt.Add(time.Duration(*done.CureS * float64(time.Second)))
		p.RangAt = &rang
		p.HeldBack = fmt.Sprintf("It is cured, and its mould at %.0f °C too hot to open: off, it may be opened in about %s.",
			far.WallC, duration(p.LeftS))
	case cured:
		p.Words = fmt.Sprintf("cured, mould at %.0f °C", far.WallC)
		p.Left = "open in " + withBand(p.LeftS, p.LowS, p.HighS)
		p.HeldBack = fmt.Sprintf("Its mould is at %.0f °C and may crack above %.0f °C; about %s more.", far.WallC, done.OpenBelow,
			duration(p.LeftS))
	default:
		left := *done.CureS - elapsed
		p.Words = fmt.Sprintf("%.0f °C at its coldest", far.ColdestC)
		p.Left = "cured in " + withBand(left, heatLow**done.CureS-elapsed, heatHigh**done.CureS-elapsed)
		p.HeldBack = fmt.Sprintf("It is %.0f %% cured at its coldest; cured in about %s, cool enough to open in about %s.",
			100*math.Min(1, far.Index), duration(left), duration(p.LeftS))
	}
	return p, nil
}

// bakesUnseen is foam in an oven that nobody wrote down: as an oven usually is, off once
// the foam is cured, with the band of what is only believed.
func bakesUnseen(p Pot, b foam.Bake, elapsed float64) (Pot, error) {
	done, err := b.Cure()
	if err != nil || done.OpenS == nil {
		return p, err
	}
	p = after(p, *done.OpenS, elapsed, setLow, setHigh)
	cured := elapsed >= *done.CureS
	p.Marks = bakeMarks(done.OpenS, done, elapsed, cured)
	p.Why = []string{fmt.Sprintf("It stands in no oven that is written down among the places: reckoned with %.0f °C from the start, off once it is cured; band −30/+50 %%. Put it in one, and its probe is followed. Open the mould below %.0f °C.",
		b.OvenC, done.OpenBelow)}
	switch {
	case p.State == "ready":
		p.Words, p.Left = "cured and cool enough", "open it now"
		return p, nil
	case cured:
		p.Words, p.Left = "cured", "open in "+withBand(p.LeftS, p.LowS, p.HighS)
	default:
		left := *done.CureS - elapsed
		p.Words, p.Left = "curing", "cured in "+withBand(left, setLow**done.CureS-elapsed, setHigh**done.CureS-elapsed)
	}
	p.HeldBack = fmt.Sprintf("It is %s; cool enough to open in about %s.", p.Words, duration(p.LeftS))
	return p, nil
}

func bakeMarks(openS *float64, done foam.Baked, elapsed float64, cured bool) []Mark {
	if openS == nil {
		return []Mark{{"cured", "cured", 0.6, cured}, {"open", "cool enough to open", 0.9, false}}
	}
	return []Mark{{"cured", "cured", 0.9 * *done.CureS / *openS, cured}, {"open", "cool enough to open", 0.9, elapsed >= *openS}}
}

// fallsBy is by how much an oven's probe has to fall from its highest, K, to say that it
// is off.
const fallsBy = 12

// offSince is when an oven went off by its own probe: where it began to fall for good.
func offSince(temps [][2]float64) *float64 {
	top := 0
	for i, r := range temps {
		if r[1] >= temps[top][1]-1 {
			top = i
		}
	}
	if temps[top][1]-temps[len(temps)-1][1] < fallsBy {
		return nil
	}
	at := temps[top][0]
	return &at
}

// washes is washed foam drying along the places that it stood in.
func washes(p Pot, w drying.Washed, row potRow, elapsed float64, log []reading) (Pot, error) {
	now := row.StartedAt.Add(time.Duration(elapsed * float64(time.Second)))
	room := spells(log, row.StartedAt, now)
	var stays []drying.Stay
	for i, r := range room {
		to := elapsed
		if i+1 < len(room) {
			to = room[i+1].FromS
		}
		stays = append(stays, drying.Stay{Place: dryIn("fan", "form", r), S: math.Max(0, to-r.FromS)})
	}
	far, left, err := drying.WashedAlong(w, stays)
	if err != nil {
		return p, err
	}
	p = after(p, elapsed+left, elapsed, 0, 0)
	p.Fill, p.LowS, p.HighS = math.Min(1, 0.9*far), 0.7*left, 1.5*left
	p.Marks = []Mark{{"wet", "surface no longer wet", 0.54, far >= 0.6}, {"dry", "dry through", 0.9, far >= 1}}
	p.Why = []string{fmt.Sprintf("%.0f mm of washed and squeezed foam before a fan, from both faces, along the log of where it stood; band −30/+50 %%. Weigh it: dry, it loses no more.", 1000*w.ThicknessM)}
	if far >= 1 {
		p.Words, p.Left = "dry through", "go on"
		return p, nil
	}
	p.State, p.Words, p.Left = "running", "wet inside", "dry in "+withBand(left, p.LowS, p.HighS)
	p.HeldBack = fmt.Sprintf("It is still wet inside; dry in about %s.", duration(left))
	return p, nil
}

// chills is gelatin cooling in its mould along the air that it stood in.
func chills(p Pot, c chill, row potRow, elapsed float64, log []reading) (Pot, error) {
	temps := temperatures(log, row.StartedAt, elapsed)
	c.Pour.Log, c.Pour.AirC = temps, temps[len(temps)-1][1]
	cooled, err := c.Recipe.Cool(c.Pour)
	if err != nil { // the air is too warm for it
		p.Words, p.Left = "warm", "put it in the cold"
		p.HeldBack = fmt.Sprintf("%v At %.0f °C it does not come out. Put it somewhere cooler.", err, c.Pour.AirC)
		p.LeftS, p.LowS, p.HighS = horizonS, horizonS, horizonS
		p.Marks = []Mark{{"set", "set", 0.5, false}, {"demould", "may come out", 0.9, false}}
		p.Why = []string{"No engine tells a time where the air is too warm."}
		return p, nil
	}
	if cooled.SetS == nil || cooled.DemouldS == nil {
		p.Words, p.Left, p.HeldBack = "cooling", "not within two days", "In this air it does not cool within two days. Put it somewhere cooler."
		p.LeftS, p.LowS, p.HighS = horizonS, horizonS, horizonS
		return p, nil
	}
	p = after(p, *cooled.DemouldS, elapsed, heatLow, heatHigh)
	p.Marks = []Mark{{"set", "set", 0.9 * *cooled.SetS / *cooled.DemouldS, elapsed >= *cooled.SetS},
		{"demould", "may come out", 0.9, elapsed >= *cooled.DemouldS}}
	p.Why = []string{fmt.Sprintf("Cooling followed through %.0f mm of base between walls of %s, %.0f mm, along the log of where it stood, %.0f °C now: set below %.0f °C, out below %.0f °C.",
		1000*c.Pour.ThicknessM, c.Pour.Mould, 1000*c.Pour.WallM, c.Pour.AirC, cooled.SetC, cooled.DemouldC)}
	switch {
	case p.State == "ready":
		p.Words, p.Left = "firm", "demould now"
	case elapsed >= *cooled.SetS:
		p.Words = "set, and soft still"
	default:
		p.Words = "liquid"
	}
	if p.State == "running" {
		p.Left = "demould in " + withBand(p.LeftS, p.LowS, p.HighS)
		p.HeldBack = fmt.Sprintf("It is %s; it may come out in about %s. Before, it tears and sags.", p.Words, duration(p.LeftS))
	}
	return p, nil
}

// pouredC is what gelatin is poured at where nobody says, °C; usualH how calm air takes
// heat from a mould, W/(m² K).
const (
	pouredC = 60.0
	usualH  = 8.0
)

// setModel is what a stage's pot sets by: an engine where its act has one, else the time
// of the section.
func (s *Service) setModel(ctx context.Context, db database.Reader, doc section.Section, st making.Stage,
	materials material.Shelf, pour *cure.WorkingTime) (potModel, error) {
	model := potModel{WaitS: st.WaitS}
	thick := 0.0
	doc.All(func(c section.Cut, _ int, l section.Layer) {
		if l.ID == st.Layer {
			thick, _ = l.Thickness(c, materials)
		}
	})
	thick = math.Max(0.5, thick) / 1000
	room, _, err := s.Air.Now(ctx, db)
	if err != nil {
		return model, err
	}
	switch st.Act {
	case "whip":
		if pour != nil && pour.SheetS > 0 {
			model.Gel = &gelTime{GelS: pour.SheetS, LowS: math.Max(1, pour.LowS), HighS: pour.HighS}
			break
		}
		g, err := foam.When(foam.Gelled{RoomC: room.TempC, RH: room.RH, Dose: 1}, nil)
		if err != nil {
			return model, err
		}
		model.Gel = &gelTime{GelS: g.GelS, LowS: g.LowS, HighS: g.HighS}
	case "bake":
		b := foam.UsualBake(usualWallM, usualWallM, thick)
		b.RoomC = room.TempC
		model.Bake = &b
	case "wash":
		w := drying.UsualWash(thick)
		model.Wash = &w
	case "chill":
		for _, p := range baseOf(doc, st.Layer, materials) {
			model.Chill = &chill{*p.Base, gelatin.Pour{ThicknessM: thick, PourC: math.Max(pouredC, p.Base.MeltC()+4), Mould: "plaster",
				WallM: 0.02,
				AirC:  room.TempC, MouldC: room.TempC, H: usualH}}
		}
	}
	return model, nil
}

// baseOf is the gelatin that a layer is made of; nothing where it is none.
func baseOf(doc section.Section, layer string, materials material.Shelf) (out []material.Product) {
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if p := materials[l.Material]; l.ID == layer && p.Base != nil && len(out) == 0 {
			out = append(out, p)
		}
	})
	return out
}
