package build

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Moved is a pot that is put somewhere.
type Moved struct {
	Place  string `json:"place" maxLength:"40" doc:"code of the place; empty for the room"`
	Reason string `json:"reason,omitempty" maxLength:"300" doc:"needed where something speaks against it"`
}

// MovePot puts a pot into another place; what it stood in before stays in its course.
func (s *Service) MovePot(ctx context.Context, id uint64, in Moved) (Pot, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	return s.actOn(ctx, id, func(tx database.Tx, row potRow) error {
		if row.MouldID != nil {
			return problem.Conflict("mould", "Where a mould dries is said in Mould, where it is weighed.")
		}
		pot, err := s.work(ctx, tx, row)
		if err != nil {
			return err
		}
		if pot.Place == in.Place {
			return nil // it stands there already: said twice, or by two
		}
		name := "the room"
		if in.Place != "" {
			// Its row is held, so that nobody sets it or lights a flame meanwhile.
			if _, err := tx.ExecContext(ctx, `SELECT id FROM place WHERE code = ? FOR UPDATE`, in.Place); err != nil {
				return err
			}
			to, err := s.place(ctx, tx, in.Place)
			if err != nil {
				return err
			}
			name = to.Name
			if err := s.mayStand(ctx, tx, row, to, in.Reason); err != nil {
				return err
			}
		}
		if err := s.mayLeave(ctx, tx, row, pot, in.Reason); err != nil {
			return err
		}
		about, err := s.askOf(ctx, tx, row)
		if err != nil {
			return err
		}
		if err := s.comesTo(ctx, tx, id, in.Place); err != nil {
			return err
		}
		about.Act, about.Words = "moved", strings.TrimSpace("To "+name+". "+in.Reason)
		_, err = journal.Add(ctx, tx, about)
		return err
	})
}

// mayBegin asks whether what a stage sets on the shelf may stand in a place from the
// start.
func (s *Service) mayBegin(ctx context.Context, tx database.Tx, start potStart, r Run, in string) error {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM place WHERE code = ? FOR UPDATE`, in); err != nil {
		return err
	}
	to, err := s.place(ctx, tx, in)
	if err != nil {
		return problem.Invalid("unknown_value", "in", "There is no place %s.", in)
	}
	return s.mayStand(ctx, tx, potRow{StageID: &start.stage, RunID: &r.ID, Label: start.label}, to, "")
}

// holdsOf is what a pot holds: the products of its stage, or of its copy's section body.
func (s *Service) holdsOf(ctx context.Context, db database.Reader, row potRow) ([]material.Product, *making.Stage, error) {
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, nil, err
	}
	if row.StageID == nil {
		return nil, nil, nil
	}
	var raw []string
	if err := db.SelectContext(ctx, &raw, `SELECT plan FROM run_stage WHERE id = ?`, *row.StageID); err != nil || len(raw) == 0 {
		return nil, nil, err
	}
	var st making.Stage
	if err := json.Unmarshal([]byte(raw[0]), &st); err != nil {
		return nil, nil, fmt.Errorf("reading a stage: %w", err)
	}
	slugs := st.Products()
	// A bake or a chill takes nothing itself: it is what its layer is made of.
	if st.Material == "" && st.Layer != "" && row.RunID != nil {
		stages, err := s.stages(ctx, db, *row.RunID)
		if err != nil {
			return nil, nil, err
		}
		for _, other := range stages {
			if other.Layer == st.Layer {
				slugs = append(slugs, other.Products()...)
			}
		}
	}
	var out []material.Product
	for _, slug := range slugs {
		if p, known := materials[slug]; known {
			out = append(out, p)
		}
	}
	return out, &st, nil
}

// burns names what a pot is wet with that burns; "" for nothing.
func burns(list []material.Product) string {
	for _, p := range list {
		if p.Solvent == "acetone" || p.Solvent == "alcohol" || p.Family == material.Solvent {
			return p.Name
		}
	}
	return ""
}

// melts names what in a pot melts in air of a temperature, with the temperature.
func melts(list []material.Product, c float64) string {
	for _, p := range list {
		if p.Base != nil && c > p.Base.MeltC()-10 {
			return fmt.Sprintf("%s softens above %.0f °C and melts at %.0f °C.", p.Name, p.Base.MeltC()-10, p.Base.MeltC())
		}
		if p.Family == material.Wax && c > 35 {
			return p.Name + " softens above 35 °C."
		}
	}
	return ""
}

// potsIn are the pots that stand in a place now.
func (s *Service) potsIn(ctx context.Context, db database.Reader, place uint64) ([]potRow, error) {
	var rows []potRow
	// Index pot_running, then pot_place_from.
	err := db.SelectContext(ctx, &rows, `SELECT `+potColumns+` WHERE t.ended_at IS NULL AND t.mould_id IS NULL AND
		(SELECT x.place_id FROM pot_place x WHERE x.pot_id = t.id ORDER BY x.from_at DESC, x.id DESC LIMIT 1) = ? ORDER BY t.id`, place)
	return rows, err
}

// wetIn names a pot in a place that is wet with what burns; "" for none.
func (s *Service) wetIn(ctx context.Context, db database.Reader, place uint64) (string, error) {
	return s.anyIn(ctx, db, place, func(row potRow, list []material.Product) string {
		if burns(list) != "" {
			return row.Label
		}
		return ""
	})
}

// meltsIn says what in a place melts at a temperature; "" for nothing.
func (s *Service) meltsIn(ctx context.Context, db database.Reader, place uint64, c float64) (string, error) {
	return s.anyIn(ctx, db, place, func(row potRow, list []material.Product) string {
		if why := melts(list, c); why != "" {
			return row.Label + " stands there: " + why
		}
		return ""
	})
}

func (s *Service) anyIn(ctx context.Context, db database.Reader, place uint64,
	of func(potRow, []material.Product) string) (string, error) {
	rows, err := s.potsIn(ctx, db, place)
	if err != nil {
		return "", err
	}
	for _, row := range rows {
		list, _, err := s.holdsOf(ctx, db, row)
		if err != nil {
			return "", err
		}
		if why := of(row, list); why != "" {
			return why, nil
		}
	}
	return "", nil
}

// sulphurs are the families that give off sulphur in the heat, and platinum what it keeps
// from curing.
var (
	sulphurs = []material.Family{material.FoamLatex, material.Latex}
	platinum = material.SiliconeAddition
)

// mayStand asks whether a pot may stand in a place: what burns, what melts, what spoils
// what stands there already.
func (s *Service) mayStand(ctx context.Context, tx database.Reader, row potRow, to Place, reason string) error {
	list, st, err := s.holdsOf(ctx, tx, row)
	if err != nil {
		return err
	}
	if st != nil && st.Side == "skin" || s.onWearer(ctx, tx, row) {
		return problem.Invalid("not_here", "place", "It is on its wearer: a person is put into no place.")
	}
	wet := burns(list)
	switch {
	case wet != "" && isHot(to.Kind):
		return problem.Invalid("flammable", "place", "%s is wet with what burns: nothing solvent-wet goes into a warm box or an oven.",
			wet)
	case wet != "" && to.Flame:
		return problem.Invalid("flammable", "place", "A flame burns at %s, and %s burns.", to.Name, wet)
	}
	if !isHot(to.Kind) {
		return nil
	}
	for _, c := range []*float64{to.SetC, to.TempC} {
		if c != nil {
			if why := melts(list, *c); why != "" {
				return problem.Invalid("melts", "place", "%s %s is at %.0f °C.", why, to.Name, *c)
			}
		}
	}
	there, err := s.potsIn(ctx, tx, to.ID)
	if err != nil {
		return err
	}
	for _, other := range there {
		with, _, err := s.holdsOf(ctx, tx, other)
		if err != nil {
			return err
		}
		if spoils(list, with) || spoils(with, list) {
			if !mayInsist(ctx, reason) {
				return heldBack(fmt.Sprintf("%s stands there. Latex gives off sulphur in the heat, and addition silicone that is not cured yet stays sticky of it: bake them apart.", other.Label))
			}
		}
	}
	return nil
}

func spoils(gives, takes []material.Product) bool {
	return slices.ContainsFunc(gives, func(p material.Product) bool { return slices.Contains(sulphurs, p.Family) }) &&
		slices.ContainsFunc(takes, func(p material.Product) bool { return p.Family == platinum })
}

// mayLeave asks whether a pot may be taken out of where it stands: a mould that is too hot
// to open cracks in the cold too.
func (s *Service) mayLeave(ctx context.Context, tx database.Tx, row potRow, pot Pot, reason string) error {
	var model potModel
	if err := json.Unmarshal([]byte(row.Model), &model); err != nil {
		return err
	}
	if model.Bake == nil || pot.HeldBack == "" || pot.Place == "" {
		return nil
	}
	from, err := s.place(ctx, tx, pot.Place)
	if err != nil || from.Kind != oven || mayInsist(ctx, reason) {
		return err
	}
	return heldBack(pot.HeldBack)
}

// onWearer says whether what a pot belongs to is built straight on its wearer.
func (s *Service) onWearer(ctx context.Context, db database.Reader, row potRow) bool {
	if row.RunID == nil {
		return false
	}
	var side []string
	if err := db.SelectContext(ctx, &side, `SELECT COALESCE(JSON_UNQUOTE(JSON_EXTRACT(plan, '$.side')), '') FROM run_stage WHERE run_id = ?`, *row.RunID); err != nil {
		return false
	}
	return slices.Contains(side, "skin")
}

// Answer notes that somebody takes a ringing pot in hand: it rings no more.
func (s *Service) Answer(ctx context.Context, id uint64) (Pot, error) {
	var pot Pot
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		row, err := s.lock(ctx, tx, id)
		if err != nil {
			return err
		}
		if pot, err = s.work(ctx, tx, row); err != nil || row.EndedAt != nil || row.AnsweredAt != nil && !pot.Rings {
			return err // it is answered: whoever comes second sees who
		}
		if err := s.answer(ctx, tx, row.ID); err != nil {
			return err
		}
		if row, err = s.row(ctx, tx, id); err != nil {
			return err
		}
		pot, err = s.work(ctx, tx, row)
		return err
	})
	if err == nil {
		s.Live.Tell(ctx, "pots", pot.Piece)
	}
	return pot, err
}

func (s *Service) answer(ctx context.Context, tx database.Tx, pot uint64) error {
	who, _ := accounts.From(ctx)
	if _, err := tx.ExecContext(ctx, `UPDATE pot SET answered_at = ?, answered_by = ? WHERE id = ?`, s.Clock.Now(), who.ID,
		pot); err != nil {
		return fmt.Errorf("noting who answered: %w", err)
	}
	return nil
}
