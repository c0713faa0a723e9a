package finish

import (
	"context"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
)

// Stand is how a copy stands at the bench, for whoever judges it.
type Stand struct {
	Edges     []string // stretches that do not do what they are meant to
	Edge      float64  // the highest visibility that was measured; 0 for none
	SeamMM    *float64
	EdgeMM    *float64
	HairShare *float64
	Load      *float64
	Hands     []string
	Organic   bool
	Passes    *float64
}

func most(at **float64, x float64) {
	if *at == nil || **at < x {
		*at = &x
	}
}

// StandOf reads it.
func (s *Service) StandOf(ctx context.Context, db database.Reader, code string) (Stand, error) {
	var out Stand
	c, err := Read(ctx, db, code)
	if err != nil {
		return out, err
	}
	for _, t := range c.Ticks {
		if !slices.Contains(out.Hands, t.Who) {
			out.Hands = append(out.Hands, t.Who)
		}
	}
	e, err := s.EdgesOf(ctx, db, code)
	if err != nil {
		return out, err
	}
	for _, r := range e.Rims {
		if len(r.Looks) == 0 {
			continue
		}
		last := r.Looks[len(r.Looks)-1]
		if r.Kind == "seam" {
			most(&out.SeamMM, last.StepMM)
		} else {
			most(&out.EdgeMM, last.StepMM)
		}
		if r.Intent == "vanish" {
			out.Edge = math.Max(out.Edge, r.Visible.Visibility)
		}
		if !r.Does {
			out.Edges = append(out.Edges, r.Kind+" “"+r.Name+"”")
		}
		for _, l := range r.Looks {
			if strings.HasPrefix(l.Way, "melt") || l.Way == "dissolve_warm" || l.Way == "smooth_alcohol" {
				most(&out.Passes, float64(max(1, l.Coats)))
			}
		}
	}
	p, err := piece.Find(ctx, db, c.Piece)
	if err != nil {
		return out, err
	}
	doc, number, err := agreedPlan(ctx, db, p)
	if err != nil || number == 0 {
		return out, err
	}
	r, err := s.followFor(ctx, db, p, doc, code)
	if err != nil {
		return out, err
	}
	for _, h := range r.Hair {
		if out.HairShare == nil || *out.HairShare > h.Counted.ShareDone {
			out.HairShare = &h.Counted.ShareDone
		}
	}
	for _, n := range r.Inserts {
		if n.Hold != nil {
			most(&out.Load, n.Hold.Use)
		}
	}
	for _, n := range doc.Inserts {
		out.Organic = out.Organic || n.Organic
	}
	return out, nil
}
