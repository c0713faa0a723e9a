package plan

import (
	"context"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/piece"
	"yewmoor/internal/work"
)

// StageWork is how long hands are at one kind of work on one copy.
type StageWork struct {
	Act     string
	Minutes float64
	Noted   int // how many times it was noted here
}

// PieceWork is the work that a piece takes, as the plan takes it.
type PieceWork struct {
	Bar       string      // why it is not known
	Stages    []StageWork // of one copy, in the order of making
	Finish    StageWork
	Check     StageWork
	Pack      StageWork // of a day
	Mould     StageWork // of two halves
	InMould   bool
	OvenH     float64 // that one copy is in the oven
	OvenTakes int
}

// WorkOf is the work that a piece takes, by its agreed section and by what was noted here.
func (s *Service) WorkOf(ctx context.Context, p piece.Piece) (PieceWork, error) {
	learned, err := work.Learned(ctx, s.DB)
	if err != nil {
		return PieceWork{}, err
	}
	f := facts{
		family:  map[string]string{},
		moulds:  map[string]float64{},
		shape:   map[string]float64{},
		clay:    map[string]float64{},
		learned: learned,
		shop: runup.Shop{
			FinishMin:  map[string]float64{},
			FinishWait: map[string]float64{},
			CheckMin:   map[string]float64{},
			PackMin:    map[string]float64{},
		},
	}
	known, err := s.sections(ctx, &f, []copies.Need{{Piece: p.Code, Family: p.Family}})
	if err != nil {
		return PieceWork{}, err
	}
	w := known[p.Code]
	out := PieceWork{Bar: w.bar, InMould: w.way.InMould(), OvenTakes: ovenTakes}
	if w.bar != "" {
		return out, nil
	}
	of := func(act string, minutes float64) StageWork {
		return StageWork{act, minutes, learned.Of(p.Family, act, minutes).N}
	}
	at := map[string]int{}
	for _, st := range w.stages {
		if st.Act == "bake" {
			out.OvenH += w.waitMin(st) / 60
		}
		i, seen := at[st.Act]
		if !seen {
			i = len(out.Stages)
			at[st.Act] = i
			out.Stages = append(out.Stages, of(st.Act, 0.1))
			out.Stages[i].Minutes = 0
		}
		out.Stages[i].Minutes += w.handsMin(st)
	}
	out.Finish = of(work.Finish, f.shop.FinishMin[p.Code])
	out.Check, out.Pack = of(work.Check, f.shop.CheckMin[p.Code]), of(work.Pack, f.shop.PackMin[p.Code])
	out.Mould = of(work.Mould, w.mould)
	return out, nil
}
