package finish

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Met is how two pieces meet along a border: how thick each is there, and how far their
// colours lie apart as they were last read.
type Met struct {
	ID      string         `json:"id"`
	With    string         `json:"with"`
	EdgeMM  [2]float64     `json:"edge_mm" doc:"this one's and the other's"`
	StepMM  float64        `json:"step_mm"`
	DE00    *float64       `json:"de00,omitempty" doc:"of their newest readings; none while one of them has none"`
	OverCM2 float64        `json:"overlap_cm2"`
	GapMM   *float64       `json:"gap_mm,omitempty" doc:"as the wearer's map measures it"`
	Said    string         `json:"said"`
	Finding *rules.Finding `json:"finding,omitempty"`
}

// How far two halves may differ where they meet, before somebody has to look: a step that
// can be felt, and what two colours edge to edge show. Ours.
const (
	borderStepMM = 0.3
	borderDE     = 2.0
)

// meets checks the borders of a plan.
func (s *Service) meets(ctx context.Context, db database.Reader, p piece.Piece, borders []plan.Border) ([]Met, error) {
	out := []Met{}
	if len(borders) == 0 {
		return out, nil
	}
	around, err := s.Pieces.Around.Around(ctx, db, p)
	if err != nil {
		return nil, err
	}
	mine, own, err := s.atEdge(ctx, db, p)
	if err != nil {
		return nil, err
	}
	for i, b := range borders {
		q, err := piece.Find(ctx, db, b.With)
		if err != nil {
			return nil, problem.Invalid("unknown_value", fmt.Sprintf("borders[%d].with", i), "There is no piece %s.", b.With)
		}
		theirs, other, err := s.atEdge(ctx, db, q)
		if err != nil {
			return nil, err
		}
		m := Met{ID: b.ID, With: b.With, EdgeMM: [2]float64{mine, theirs}, StepMM: round2(math.Abs(mine - theirs))}
		if own != nil && other != nil {
			d := round2(colour.DE00(*own, *other))
			m.DE00 = &d
		}
		for _, o := range around.Map.Overlaps {
			if o.A == p.Code && o.B == b.With || o.B == p.Code && o.A == b.With {
				m.OverCM2 = o.CM2
			}
		}
		for _, g := range around.Map.Gaps {
			if g.A == p.Code && g.B == b.With || g.B == p.Code && g.A == b.With {
				m.GapMM = &g.MM
			}
		}
		m.judge(b)
		out = append(out, m)
	}
	return out, nil
}

func (m *Met) judge(b plan.Border) {
	m.Said = fmt.Sprintf("%.2f mm here, %.2f mm there", m.EdgeMM[0], m.EdgeMM[1])
	if m.DE00 == nil {
		m.Said += "; their colours were not both read yet"
	} else {
		m.Said += fmt.Sprintf("; their colours lie %.1f apart", *m.DE00)
	}
	apart := m.DE00 != nil && *m.DE00 > borderDE
	if m.StepMM > borderStepMM || apart {
		m.Finding = &rules.Finding{ID: "FIN-3", Severity: rules.Warn, Above: b.ID, Reason: fmt.Sprintf("“%s” meets %s unlike: %s.", b.Name, m.With, m.Said),
			Remedy: "Feather the thicker one towards it, carry the same colour over both, or say why they may differ."}
	}
}

// atEdge is how thick a piece is at its edge by its agreed section, and how its newest
// good copy reads.
func (s *Service) atEdge(ctx context.Context, db database.Reader, p piece.Piece) (float64, *colour.Lab, error) {
	doc, _, number, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return 0, nil, err
	}
	edge := 0.0
	if number > 0 {
		for _, l := range doc.Layers {
			if l.Kind.IsAppliance() && l.Kind.Is() == section.Body {
				edge += l.EdgeMM
			}
		}
	}
	var raw []string
	// Index reading_of.
	if err := db.SelectContext(ctx, &raw, `SELECT g.value FROM copy c JOIN reading g ON g.subject = 'copy' AND g.subject_id = c.id AND g.quantity = 'colour' WHERE c.piece_id = ? AND NOT `+copies.ScrappedSQL("c")+` ORDER BY g.id DESC LIMIT 1`, p.ID); err != nil {
		return 0, nil, err
	}
	if len(raw) == 0 {
		return edge, nil, nil
	}
	var lab colour.Lab
	return edge, &lab, json.Unmarshal([]byte(raw[0]), &lab)
}
