package work

import (
	"context"
	"fmt"
	"strings"

	"yewmoor/internal/craft/learn"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/platform/database"
)

// Kinds of work beside the stages of a session, which are called by their own act.
const (
	Finish = "finish"
	Check  = "check"
	Pack   = "pack"
	Mould  = runup.BuildMould
	Shape  = runup.ShapeClay
	// Texture is noted in the sculpt's own log too, tick by tick.
	Texture = runup.TextureClay
	Other   = "other work"
)

// kind is what minutes are learned by: the material and the act, whatever coat it was.
type kind struct{ family, act string }

// Minutes is what the shop learned of how long its work takes.
type Minutes struct{ seen map[kind][]learn.Observed }

// newest is how far back minutes are learned from: the log of a busy shop over a year.
const newest = 10_000

// Learned reads it: the last thirty of each kind among the newest of all. Primary key.
func Learned(ctx context.Context, db database.Reader) (Minutes, error) {
	var rows []struct {
		Family, Act string
		Minutes     float64
		Units       float64
	}
	if err := db.SelectContext(ctx, &rows, `SELECT family, act, minutes, units FROM (
			SELECT COALESCE(q.family, '') AS family, w.act, TIMESTAMPDIFF(SECOND, w.began_at, w.ended_at) / 60 AS minutes, w.units, w.id,
				ROW_NUMBER() OVER (PARTITION BY q.family, w.act ORDER BY w.id DESC) AS n
			FROM (SELECT * FROM work_span ORDER BY id DESC LIMIT ?) w LEFT JOIN piece q ON q.id = w.piece_id
			WHERE w.ended_at IS NOT NULL AND w.back_at IS NULL AND w.interrupted = FALSE) t
		WHERE n <= 30 AND minutes > 0 ORDER BY id`, newest); err != nil {
		return Minutes{}, fmt.Errorf("reading how long work took: %w", err)
	}
	out := Minutes{map[kind][]learn.Observed{}}
	for _, r := range rows {
		k := kind{r.Family, Act(r.Act)}
		out.seen[k] = append(out.seen[k], learn.Observed{Value: r.Minutes, Units: r.Units})
	}
	return out, nil
}

// Act is a kind of work by the words of a step: what coat it was does not matter.
func Act(text string) string { return strings.TrimRight(text, " 0123456789") }

// Of is how long such work takes on one copy, minutes: the usual figure, moved by what was noted here.
func (m Minutes) Of(family, act string, usual float64) learn.Guess {
	g, err := learn.From(learn.Before{Median: max(usual, 0.1)}, m.seen[kind{family, Act(act)}])
	if err != nil { // what was noted is above zero by what was read
		return learn.Guess{Median: usual, Sigma: 0.35}
	}
	return g
}
