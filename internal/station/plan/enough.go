package plan

import (
	"context"
	"fmt"
	"slices"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/yield"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// How many copies are begun so that enough are good, by how copies of a material came out here.

// Enough is how many to begin so that as many are good as are missing.
type Enough struct {
	Piece   string  `json:"piece"`
	Missing int     `json:"missing"`
	Begin   int     `json:"begin"`
	Planned int     `json:"planned" doc:"that the plan begins"`
	Chance  float64 `json:"chance" doc:"that at least so many of them are good, 0..1"`
	Runs    int     `json:"runs" doc:"sessions that that takes, with the moulds that may be filled"`
	Mixes   int     `json:"mixes" doc:"that all of it takes, by pot life, bowl and moulds; 0 where nothing is mixed or too little is known"`
	PerMix  int     `json:"per_mix" doc:"copies that one mix pours at most"`
	Limit   string  `json:"limit" enum:",bowl,pot_life,moulds,none" doc:"what keeps one mix from being larger"`
	MixBar  string  `json:"mix_bar" doc:"why it cannot be poured so"`
	Test    bool    `json:"test" doc:"so little is known that one is made as a test first"`
	Judged  int     `json:"judged" doc:"copies of its material that a verdict was given on"`
	Good    int     `json:"good"`
	moulds  int     // that may be filled, or copies that are built beside each other
}

// mostSpares is from how many times as many on the number says only that nothing is known.
const mostSpares = 4

// leastSure is what is worth planning for at least.
const leastSure = 0.5

func checkSure(share float64) error {
	if share != 0 && !(share >= leastSure && share <= 0.99) {
		return problem.Invalid("out_of_range", "sure", "Between 50 and 99 of 100, or 0 to take each copy for good.")
	}
	return nil
}

// sure is how certain the shop wants it to be that enough are good; 0: it takes each copy for good. Primary key.
func (s *Service) sure(ctx context.Context, a ahead) (float64, error) {
	if a.sure != nil {
		return *a.sure, nil
	}
	var said []float64
	if err := s.DB.SelectContext(ctx, &said, `SELECT share FROM plan_sure ORDER BY id DESC LIMIT 1`); err != nil ||
		len(said) == 0 {
		return 0, err
	}
	return said[0], nil
}

// HowSure is how certain it is to be that enough are good wherever copies are counted out: as the shop said, else what is usual.
func (s *Service) HowSure(ctx context.Context) (float64, error) {
	share, err := s.sure(ctx, ahead{})
	return orUsual(share), err
}

func orUsual(share float64) float64 {
	if share > 0 {
		return share
	}
	return yield.UsualSure
}

// writeSure writes it down.
func (s *Service) writeSure(ctx context.Context, tx database.Tx, share float64) error {
	who, _ := accounts.From(ctx)
	if _, err := tx.ExecContext(ctx, `INSERT INTO plan_sure (share, by_id, at) VALUES (?,?,?)`, share, who.ID, s.Clock.Now()); err != nil {
		return fmt.Errorf("writing down how sure it is to be: %w", err)
	}
	words := fmt.Sprintf("enough good ones in %.0f of 100", 100*share)
	if share == 0 {
		words = "each copy is taken for good"
	}
	_, err := journal.Add(
		ctx,
		tx,
		journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: "spares", Act: "spares set", Words: words},
	)
	return err
}

// history is how copies came out here, by material.
type history map[string]*cameOut

type cameOut struct {
	belief       yield.Belief
	judged, good int
}

func (s *Service) history(ctx context.Context) (history, error) {
	var rows []struct {
		Family       string
		Judged, Good float64
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.family, COUNT(*) AS judged, SUM(`+copies.GoodSQL("c")+`) AS good
		FROM copy c JOIN piece q ON q.id = c.piece_id WHERE `+copies.JudgedSQL("c")+` GROUP BY q.family`); err != nil {
		return nil, fmt.Errorf("reading how copies came out: %w", err)
	}
	seen := map[string][]yield.Casts{}
	out := history{}
	for _, r := range rows {
		m := yield.Material(r.Family)
		seen[m] = append(seen[m], yield.Casts{Casts: r.Judged, Good: r.Good})
		if out[m] == nil {
			out[m] = &cameOut{}
		}
		out[m].judged, out[m].good = out[m].judged+int(r.Judged), out[m].good+int(r.Good)
	}
	for m, c := range out {
		var err error
		if c.belief, err = yield.Prior(m).After(seen[m], 0); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// of is how copies of a family's material came out; what is usual where none was judged.
func (h history) of(family string) cameOut {
	m := yield.Material(family)
	if c := h[m]; c != nil {
		return *c
	}
	return cameOut{belief: yield.Prior(m)}
}

// begin is how many to begin so that so many are good; false where so little is known that the number says only that.
func (c cameOut) begin(good int, share float64) (yield.Plan, bool) {
	p, err := yield.ToRun(good, 1, share, c.belief)
	return p, err == nil && p.Pieces <= mostSpares*good
}

// enough works it out for every piece that misses copies.
func (h history) enough(needs []copies.Need, share float64) []Enough {
	out := []Enough{}
	for _, n := range needs {
		if i := slices.IndexFunc(out, func(e Enough) bool { return e.Piece == n.Piece }); i >= 0 {
			out[i].Missing += n.Missing
		} else if n.Missing > 0 {
			c := h.of(n.Family)
			out = append(out, Enough{Piece: n.Piece, Missing: n.Missing, Judged: c.judged, Good: c.good})
		}
	}
	for i := range out {
		e := &out[i]
		family := needs[slices.IndexFunc(needs, func(n copies.Need) bool { return n.Piece == e.Piece })].Family
		p, known := h.of(family).begin(e.Missing, share)
		e.Begin, e.Chance, e.Test = p.Pieces, p.Probability, !known
	}
	return out
}

// mixes says in how many mixes it is poured, with the moulds that may be filled.
func (s *Service) mixes(ctx context.Context, e *Enough, way making.Way) error {
	if way != making.Cast && way != making.Foam && way != making.Melt || e.Begin == 0 {
		return nil
	}
	p, bar, err := s.Work.Mixes(ctx, e.Piece, e.Begin, e.moulds)
	e.Mixes, e.PerMix, e.Limit, e.MixBar = p.Mixes, p.PerMix, p.Limit, bar
	return err
}

// spares says how many to begin of each piece, and, where the shop wants to be sure, by how many more than are missing each day's are
// begun, so that by each day enough are good.
func (s *Service) spares(ctx context.Context, f *facts, needs []copies.Need) error {
	h, err := s.history(ctx)
	if err != nil {
		return err
	}
	share := orUsual(f.sure)
	f.enough = h.enough(needs, share)
	missing, begun := map[string]int{}, map[string]int{}
	for _, n := range needs {
		if n.Missing == 0 {
			continue
		}
		missing[n.Piece] += n.Missing
		more := 0
		if p, known := h.of(n.Family).begin(missing[n.Piece], share); f.sure > 0 && known {
			more = max(0, p.Pieces-begun[n.Piece]-n.Missing)
		}
		f.spare[jobID(n)] = more
		begun[n.Piece] += n.Missing + more
	}
	for i := range f.enough {
		f.enough[i].Planned = begun[f.enough[i].Piece]
	}
	return nil
}

// BeginFor is how many copies to begin so that so many are good, with what is known of its material here.
func (s *Service) BeginFor(ctx context.Context, p piece.Piece, good int) (Enough, error) {
	h, err := s.history(ctx)
	if err != nil {
		return Enough{}, err
	}
	share, err := s.HowSure(ctx)
	if err != nil {
		return Enough{}, err
	}
	list := h.enough([]copies.Need{{Piece: p.Code, Family: p.Family, Missing: good}}, share)
	if len(list) == 0 {
		return Enough{}, nil
	}
	return list[0], nil
}
