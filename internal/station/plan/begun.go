package plan

import (
	"context"
	"slices"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/runup"
)

// What is begun, handed to the days.

// begun reads runs in work and copies that wait for hands, and hands them to the days as the counts do: the earliest first.
func (s *Service) begun(ctx context.Context, f *facts, needs []copies.Need, known map[string]pieceWork) error {
	runs, err := s.Work.OpenRuns(ctx)
	if err != nil {
		return err
	}
	rows, err := copies.InHandOf(ctx, s.DB)
	if err != nil {
		return err
	}
	// How many more each day takes of each piece, of what is there or coming.
	open := map[string]int{}
	jobs := map[string][]string{}
	for _, n := range needs {
		id := jobID(n)
		jobs[n.Piece] = append(jobs[n.Piece], id)
		open[id] = n.Good - n.There + n.Coming
	}
	next := func(piece string, count int) (string, []string) {
		first := ""
		var others []string
		for _, id := range jobs[piece] {
			k := min(open[id], count)
			if k <= 0 {
				continue
			}
			open[id] -= k
			count -= k
			if first == "" {
				first = id
			} else {
				others = append(others, id)
			}
		}
		return first, others
	}
	share := func(code string, others []string) {
		for _, id := range others {
			i := slices.IndexFunc(f.shop.Jobs, func(j runup.Job) bool { return j.ID == id })
			if i < 0 {
				i = len(f.shop.Jobs)
				p := id
				for piece, list := range jobs {
					if slices.Contains(list, id) {
						p = piece
					}
				}
				f.shop.Jobs = append(f.shop.Jobs, runup.Job{ID: id, Piece: p})
			}
			f.shop.Jobs[i].After = append(f.shop.Jobs[i].After, code)
		}
	}
	slices.SortStableFunc(rows, func(a, b copies.InHand) int { // good ones serve the earliest day
		good := func(c copies.InHand) int {
			if c.State == copies.Accepted {
				return 0
			}
			return 1
		}
		return good(a) - good(b)
	})
	for _, r := range rows {
		job, _ := next(r.Piece, 1)
		if job == "" {
			continue // nobody waits for it
		}
		c := runup.Copy{Code: r.Code, Piece: r.Piece, Good: r.State == copies.Accepted, Job: job}
		if left := r.Items - r.Ticks; left > 0 {
			c.FinishMin = f.shop.FinishMin[r.Piece] * float64(left) / float64(r.Items)
		}
		f.shop.Copies = append(f.shop.Copies, c)
	}
	for _, r := range runs {
		job, others := next(r.Piece, len(r.Copies))
		if job == "" || len(r.Copies) == 0 {
			continue
		}
		x := runup.Session{
			Code:   r.Code,
			Piece:  r.Piece,
			Copies: len(r.Copies),
			Open:   true,
			Stages: known[r.Piece].session(r.Left, len(r.Copies)),
			Job:    job,
		}
		if r.From.After(f.now) {
			x.From = f.slot(r.From)
		}
		if r.Mould != "" {
			x.Moulds = []string{r.Mould}
		}
		f.shop.Sessions = append(f.shop.Sessions, x)
		share(r.Code, others)
	}
	return nil
}
