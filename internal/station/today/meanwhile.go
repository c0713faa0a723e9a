package today

import (
	"context"
	"slices"
)

// Meanwhile is something to do with one's hands that fits into a wait.
type Meanwhile struct {
	Task
	HandS float64 `json:"hand_s" doc:"about how long hands are at it, s"`
}

// handS is about how long hands are at a kind of task, s: our own guesses, until a shop
// has noted its own. What is not in it is not offered: it is desk work, or a clock that
// runs already.
var handS = map[int]float64{
	rankTell:   5 * 60,
	rankReady:  12 * 60,
	rankBench:  20 * 60,
	rankWeigh:  3 * 60,
	rankFinish: 25 * 60,
	rankCheck:  10 * 60,
	rankPack:   15 * 60,
	rankRun:    30 * 60,
}

// mostOffered is how many are offered: a list, not another room.
const mostOffered = 4

// Fits are the next hands-on tasks that fit into a wait, s, the most pressing first. What
// belongs to the piece that waits is not offered for its own wait.
func (s *Service) Fits(ctx context.Context, waitS float64, piece string) ([]Meanwhile, error) {
	tasks, err := s.tasks(ctx)
	if err != nil {
		return nil, err
	}
	out := []Meanwhile{}
	for _, t := range tasks {
		hand, known := handS[t.rank]
		if known && t.InS <= 0 && hand <= waitS && (t.Piece == "" || t.Piece != piece) {
			out = append(out, Meanwhile{t, hand})
		}
	}
	return slices.Clip(out[:min(len(out), mostOffered)]), nil
}
