package plan

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
	"yewmoor/internal/work"
)

// How long a piece takes to make, by its agreed section.

// pieceWork is how a piece is made, by its agreed section.
type pieceWork struct {
	family  string
	learned work.Minutes
	names   material.Shelf
	way     making.Way
	stages  []making.Stage
	result  section.Result
	mould   float64 // hands at what it is made in, minutes
	bar     string  // why it cannot be planned
	link    string
}

// sections reads how the pieces that are wanted are made.
func (s *Service) sections(ctx context.Context, f *facts, needs []copies.Need) (map[string]pieceWork, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	room, ahead, err := s.air(ctx)
	if err != nil {
		return nil, err
	}
	f.air = ahead
	out := map[string]pieceWork{}
	for _, n := range needs {
		if _, done := out[n.Piece]; done {
			continue
		}
		f.family[n.Piece] = n.Family
		p, err := piece.Find(ctx, s.DB, n.Piece)
		if err != nil {
			return nil, err
		}
		doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
		if err != nil {
			return nil, err
		}
		if number == 0 {
			out[n.Piece] = pieceWork{bar: "its section is not agreed", link: "/piece/" + n.Piece}
			continue
		}
		r, err := s.Pieces.ResultIn(ctx, s.DB, p, doc, materials, room)
		if err != nil {
			return nil, err
		}
		w := pieceWork{
			family:  n.Family,
			learned: f.learned,
			names:   materials,
			way:     making.Of(doc, materials),
			stages:  making.Stages(doc, materials, r),
			result:  r,
		}
		if w.mould, err = s.mouldMin(ctx, p, doc, w); err != nil {
			return nil, err
		}
		hands, waits := finishing(r)
		f.shop.FinishMin[n.Piece], f.shop.FinishWait[n.Piece] = f.learned.Of(n.Family, work.Finish, hands).Median, waits
		f.shop.CheckMin[n.Piece] = f.learned.Of(n.Family, work.Check, runup.CheckMin).Median
		f.shop.PackMin[n.Piece] = f.learned.Of(n.Family, work.Pack, runup.PackMin).Median
		out[n.Piece] = w
		f.moulds[n.Piece] = w.mould
		if w.way.InMould() {
			shape, texture, err := s.Work.Clay(ctx, p)
			if err != nil {
				return nil, err
			}
			f.shape[n.Piece], f.clay[n.Piece] = shape.Minutes(), texture.Minutes()
		}
	}
	return out, nil
}

// handsMin is how long hands are at a stage for one copy, minutes: the section's figure, moved by what was noted here.
func (w pieceWork) handsMin(st making.Stage) float64 {
	return w.learned.Of(w.family, st.Act, w.usualMin(st)).Median
}

// usualMin is the section's own: its layer's, shared among the stages that make it.
func (w pieceWork) usualMin(st making.Stage) float64 {
	n := 0
	for _, o := range w.stages {
		if o.Layer == st.Layer {
			n++
		}
	}
	if st.Layer == "" || n == 0 {
		return liftMin
	}
	return w.result.Of(st.Layer).HandsS / 60 / float64(n)
}

// waitMin is how long a stage waits, minutes. Cures and drying coats have pots of their own that tell it once they stand there; until
// then the section's closed form does.
func (w pieceWork) waitMin(st making.Stage) float64 {
	of := w.result.Of(st.Layer)
	switch {
	case st.WaitS > 0 || st.Waits == making.NoWait:
		return st.WaitS / 60
	case st.Coat > 0 && st.Coat < st.Of:
		return of.RecoatS / 60
	case st.Coat > 0:
		return max(of.RecoatS, of.DryS-float64(st.Of-1)*of.RecoatS) / 60
	}
	return of.WaitS / 60
}

// mouldMin is how long hands are at the moulds of a piece, minutes: by their build sheets, moved by what was noted here.
func (s *Service) mouldMin(ctx context.Context, p piece.Piece, doc section.Section, w pieceWork) (float64, error) {
	if !w.way.InMould() {
		return 0, nil
	}
	sheet := float64(usualMouldMin)
	if s.Pieces.Moulds != nil && w.result.Body.AreaCM2 > 0 {
		t, err := s.Pieces.Moulds.Needed(ctx, s.DB, p, doc, w.result.Body)
		if err != nil {
			return 0, err
		}
		if t.Known && t.HandsS > 0 {
			sheet = t.HandsS / 60
		}
	}
	return w.learned.Of(w.family, work.Mould, sheet).Median, nil
}

// usualMouldMin is how long hands are at a mould of two halves, minutes: our own figure, where there is no build sheet.
const usualMouldMin = 240

// made are the acts by which a piece comes to be; what else is done at the bench finishes it.
var made = []string{"release", "film", "body", "insert in the mould", "bake", "demould", "wash"}

// finishing is how long hands are at one copy after it was made, and how long what they put on dries, minutes.
func finishing(r section.Result) (hands, waits float64) {
	for _, st := range r.Steps {
		if st.Where == "bench" && !slices.Contains(made, st.Act) {
			hands, waits = hands+st.HandsS/60, waits+st.WaitS/60
		}
	}
	return max(hands, leastFinish), waits
}

// leastFinish is how long seams and edges take at least, minutes; liftMin is how long it takes to get a copy out.
const leastFinish, liftMin = 20, 15

// bakeMost is how long gelled foam may stand before it is baked at most, minutes: the handbook's window of gelling.
const bakeMost = 90

// session are stages of a session of so many copies.
func (w pieceWork) session(stages []making.Stage, n int) []runup.Stage {
	var out []runup.Stage
	for i, st := range stages {
		row := runup.Stage{Act: st.Act, HandsMin: w.handsMin(st) * float64(n), WaitMin: w.waitMin(st), With: w.takes(st, n)}
		if st.Coat > 0 && st.Of > 1 {
			row.Act = fmt.Sprintf("%s %d", st.Act, st.Coat)
		}
		switch st.Act {
		case "bake":
			row.Oven = "foam"
		case "whip": // what is whipped gels: its clock is how long there is, not how long it waits
			row.WaitMin, row.MostMin = 0, st.WaitS/60
		}
		if i+1 < len(stages) && stages[i+1].Act == "bake" {
			row.MostMin = bakeMost
		}
		out = append(out, row)
	}
	return out
}

// takes is what a stage of so many copies takes, in words.
func (w pieceWork) takes(st making.Stage, n int) string {
	var list []string
	for _, t := range st.Takes() {
		if name := w.names[t.Material].Name; name != "" && t.Grams > 0 {
			list = append(list, fmt.Sprintf("%s of %s", quantity.FormatMass(t.Grams*float64(n)), name))
		}
	}
	return strings.Join(list, ", ")
}
