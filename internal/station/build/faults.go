package build

import (
	"context"
	"fmt"
	"strings"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Out is how a copy comes out of its mould, or off its form.
type Out struct {
	Reason  string // needed before its time
	WeightG float64
	Faults  []Fault
}

// Fault is what is wrong with a copy as it comes out, and where.
type Fault struct {
	Kind  string `json:"kind" enum:"bubble,tear,thin,short,sticky,seam,fold,other"`
	Zone  string `json:"zone" maxLength:"60" doc:"of its section, from the centre to the edge"`
	Words string `json:"words,omitempty" maxLength:"200"`
}

// Zones are the places of a piece's section at which a fault can stand: those that it
// names, else its centre and its edge.
func Zones(doc section.Section) []string {
	var out []string
	for _, c := range doc.Cuts() {
		for _, z := range c.Zones {
			out = append(out, strings.TrimSpace(c.Name+" "+z.Name))
		}
	}
	if len(out) == 0 {
		return []string{"centre", "halfway", "edge"}
	}
	return append(out, "edge")
}

// noteFaults writes down what a copy, or each copy of its session, weighs and what is
// wrong with it; it says so in a few words.
func (s *Service) noteFaults(ctx context.Context, tx database.Tx, row potRow, how Out) (string, error) {
	if how.WeightG == 0 && len(how.Faults) == 0 {
		return "", nil
	}
	list, err := copies.OfRun(ctx, tx, *row.RunID, copies.Making)
	if err != nil {
		return "", err
	}
	who, _ := accounts.From(ctx)
	words := ""
	for _, c := range list {
		if row.CopyID != nil && c.ID != *row.CopyID {
			continue
		}
		if row.CopyID == nil && len(list) > 1 {
			return "", problem.Invalid("contradiction", "faults",
				"Several copies come out at once: say of each in Finish what is wrong with it.")
		}
		if how.WeightG > 0 {
			if _, err := tx.ExecContext(ctx, `UPDATE copy SET out_g = ? WHERE id = ?`, how.WeightG, c.ID); err != nil {
				return "", err
			}
			words += fmt.Sprintf(" Weighs %.1f g.", how.WeightG)
		}
		if len(how.Faults) == 0 {
			continue
		}
		p, err := piece.Find(ctx, tx, c.Piece)
		if err != nil {
			return "", err
		}
		doc, _, _, err := piece.SectionAt(ctx, tx, p, c.SectionNumber)
		if err != nil {
			return "", err
		}
		zones := Zones(doc)
		for i, f := range how.Faults {
			known := false
			for _, z := range zones {
				known = known || z == f.Zone
			}
			if !known {
				return "", problem.Invalid("unknown_value", fmt.Sprintf("faults[%d].zone", i), "The section has no such place; it has %s.",
					strings.Join(zones, ", "))
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO copy_fault (copy_id, at, kind, zone, words, person_id) VALUES (?,?,?,?,?,?)`,
				c.ID, s.Clock.Now(), f.Kind, f.Zone, strings.TrimSpace(f.Words), who.ID); err != nil {
				return "", fmt.Errorf("noting a fault: %w", err)
			}
			words += fmt.Sprintf(" %s at the %s.", strings.ToUpper(f.Kind[:1])+f.Kind[1:], f.Zone)
		}
	}
	return words, nil
}

// CameOut is how earlier copies of a piece came out, for whoever pours the next one.
type CameOut struct {
	Copy  string `db:"code" json:"copy"`
	Mould string `db:"mould" json:"mould,omitempty"`
	// WeightG is 0 where nobody weighed it.
	WeightG float64 `db:"out_g" json:"weight_g"`
	Early   float64 `db:"early_at" json:"early_at" doc:"how far it was cured or dried where it came out early; 0 where it did not"`
	Faults  []Fault `db:"-" json:"faults"`
}

// LastOut is how the newest copies of a piece came out, newest first.
func (s *Service) LastOut(ctx context.Context, code string) ([]CameOut, error) {
	out := []CameOut{}
	var rows []struct {
		ID uint64
		CameOut
	}
	// By index copy_piece_state.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT c.id, c.code, COALESCE(m.code, '') AS mould, COALESCE(c.out_g, 0) AS out_g, COALESCE(c.early_at, 0) AS early_at
		FROM copy c JOIN piece q ON q.id = c.piece_id LEFT JOIN mould m ON m.id = c.mould_id WHERE q.code = ? AND c.state <> 'making' ORDER BY c.number DESC LIMIT 5`, code); err != nil {
		return nil, fmt.Errorf("reading how copies came out: %w", err)
	}
	for _, r := range rows {
		r.Faults = []Fault{}
		if err := s.DB.SelectContext(ctx, &r.Faults, `SELECT kind, zone, words FROM copy_fault WHERE copy_id = ? ORDER BY id`,
			r.ID); err != nil {
			return nil, err
		}
		if r.WeightG > 0 || r.Early > 0 || len(r.Faults) > 0 {
			out = append(out, r.CameOut)
		}
	}
	return out, nil
}

// ComesOut is what is known around a demould: the places at which a fault can stand, and
// how the last copies came out.
type ComesOut struct {
	Zones []string  `json:"zones"`
	Last  []CameOut `json:"last"`
}

// ComesOut tells it of a pot.
func (s *Service) ComesOut(ctx context.Context, id uint64) (ComesOut, error) {
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return ComesOut{}, err
	}
	p, err := piece.Find(ctx, s.DB, row.Piece)
	if err != nil {
		return ComesOut{}, err
	}
	doc, _, _, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil {
		return ComesOut{}, err
	}
	last, err := s.LastOut(ctx, row.Piece)
	return ComesOut{Zones(doc), last}, err
}
