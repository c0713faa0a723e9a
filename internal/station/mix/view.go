package mix

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

const rowColumns = `x.id, x.code, x.piece_id, q.code AS piece, q.name AS piece_name, m.slug, COALESCE(x.section_number, 0) AS section_number, x.recipe, x.planned_g, x.pours, x.state, x.scale_base_g, x.carried_g,
	x.contact_at, x.on_scale_at, x.planned_at, p.name AS planned_by, x.end_reason, (SELECT MIN(r.code) FROM run_mix rm JOIN run r ON r.id = rm.run_id WHERE rm.mix_id = x.id) AS run_code
	FROM mix x JOIN piece q ON q.id = x.piece_id JOIN material m ON m.id = x.material_id JOIN person p ON p.id = x.planned_by`

func readRow(ctx context.Context, db database.Reader, code string) (row, error) {
	var r row
	err := db.GetContext(ctx, &r, `SELECT `+rowColumns+` WHERE x.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.NotFound("mix", code)
	}
	return r, err
}

func readLines(ctx context.Context, db database.Reader, mix uint64) ([]lineRow, error) {
	var lines []lineRow
	err := db.SelectContext(ctx, &lines, `SELECT n.id, n.seq, n.ingredient, l.code AS lot, n.lot_id, n.planned_g, n.done,
		COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0) AS in_cup_g
		FROM mix_line n JOIN lot l ON l.id = n.lot_id WHERE n.mix_id = ? ORDER BY n.seq`, mix)
	return lines, err
}

// balance puts the bench's lines, which are in pouring order, through the
// craft, which wants them in the recipe's order.
func balance(r row, lines []lineRow) (craft.Balance, map[string]craft.Line, error) {
	var recipe craft.Recipe
	if err := json.Unmarshal(r.Recipe, &recipe); err != nil {
		return craft.Balance{}, nil, fmt.Errorf("reading the recipe of %s: %w", r.Code, err)
	}
	shares, err := recipe.Shares()
	if err != nil {
		return craft.Balance{}, nil, err
	}
	at := map[string]lineRow{}
	for _, l := range lines {
		at[l.Ingredient] = l
	}
	poured := make([]craft.Poured, len(shares))
	for i, sh := range shares {
		l := at[sh.ID]
		poured[i] = craft.Poured{ID: sh.ID, PlannedG: l.PlannedG, InCupG: l.InCupG, Done: l.Done}
	}
	b, err := craft.Rebalance(recipe, poured)
	by := map[string]craft.Line{}
	for _, l := range b.Lines {
		by[l.ID] = l
	}
	return b, by, err
}

// View reads a mix as the bench shows it.
func (s *Service) View(ctx context.Context, code string) (View, error) {
	return s.view(ctx, s.DB, code)
}

func (s *Service) view(ctx context.Context, db database.Reader, code string) (View, error) {
	r, err := readRow(ctx, db, code)
	if err != nil {
		return View{}, err
	}
	lines, err := readLines(ctx, db, r.ID)
	if err != nil {
		return View{}, err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return View{}, err
	}
	b, by, err := balance(r, lines)
	if err != nil {
		return View{}, err
	}
	body := materials[r.Slug]
	v := View{Code: r.Code, Piece: r.Piece, PieceName: r.PieceName, Material: r.Slug, Name: body.Name, State: r.State, PlannedG: r.PlannedG, TotalG: b.TotalG,
		Pours: r.Pours, Lines: []Line{}, BaseG: r.BaseG, CarriedG: r.CarriedG, ContactAt: r.ContactAt, PlannedAt: r.PlannedAt, PlannedBy: r.PlannedBy,
		EndReason: r.EndReason, Cautions: []string{}, Moulds: []Mould{}}
	if r.Run != nil {
		v.Run = *r.Run
	}
	sheet := Sheet{}
	for _, l := range lines {
		c := by[l.Ingredient]
		name, product := materials[l.Ingredient].Name, materials[l.Ingredient]
		if l.Ingredient == "A" || l.Ingredient == "B" {
			name, product = "Part "+l.Ingredient, body
		}
		sheet.add(product, SheetLine{})
		v.Lines = append(v.Lines, Line{Seq: l.Seq, Ingredient: l.Ingredient, Name: name, Lot: l.Lot, PlannedG: l.PlannedG, TargetG: c.TargetG,
			InCupG: l.InCupG, AddG: c.AddG, OverG: c.OverG, TolG: craft.Tolerance(c.TargetG), Done: l.Done && c.AddG == 0})
		if v.Current == 0 && (!l.Done || c.AddG > 0) {
			v.Current = l.Seq
		}
	}
	v.Cautions = append(v.Cautions, sheet.Cautions...)
	v.Message = b.Say(func(id string) string {
		for _, l := range v.Lines {
			if l.Ingredient == id {
				return l.Name
			}
		}
		return id
	})
	if r.State == "weighing" {
		on, err := s.attached(ctx)
		if err != nil {
			return v, err
		}
		v.OnScale = on == r.Code
	}
	if body.Cure != nil && (r.State == "planned" || r.State == "weighing") {
		if v.Working, err = s.Build.WorkingTime(ctx, db, *body.Cure, r.ContactAt); err != nil {
			return v, err
		}
	}
	err = db.SelectContext(ctx, &v.Moulds, `SELECT m.code, m.kind, m.state, (SELECT COUNT(*) FROM copy c WHERE c.mould_id = m.id) AS casts, COALESCE(f.code, '') AS core,
		COALESCE((SELECT GROUP_CONCAT(w.words ORDER BY w.words SEPARATOR '; ') FROM (SELECT mould_id, CONCAT(kind, ', ', place) AS words FROM mould_mark WHERE mould_id IN (SELECT id FROM mould WHERE piece_id = ?) AND kind <> 'clean' AND place <> '' GROUP BY mould_id, kind, place HAVING COUNT(*) > 1) w WHERE w.mould_id = m.id), '') AS again
		FROM mould m LEFT JOIN form f ON f.id = m.form_id WHERE m.piece_id = ? AND m.state <> 'retired' ORDER BY m.number`, r.PieceID, r.PieceID)
	return v, err
}

// Brief is a mix in a list.
type Brief struct {
	Code      string  `db:"code" json:"code"`
	Piece     string  `db:"piece" json:"piece"`
	PieceName string  `db:"piece_name" json:"piece_name"`
	Material  string  `db:"material" json:"material"`
	State     string  `db:"state" json:"state"`
	PlannedG  float64 `db:"planned_g" json:"planned_g"`
	WeighedG  float64 `db:"weighed_g" json:"weighed_g"`
}

// List reads the newest mixes, those on the bench first.
func (s *Service) List(ctx context.Context) ([]Brief, error) {
	list := []Brief{}
	// Index mix_state for those on the bench, the primary key for the newest.
	err := s.DB.SelectContext(ctx, &list, `SELECT x.code, q.code AS piece, q.name AS piece_name, m.name AS material, x.state, x.planned_g,
		COALESCE((SELECT SUM(w.grams) FROM weigh_in w JOIN mix_line n ON n.id = w.mix_line_id WHERE n.mix_id = x.id), 0) AS weighed_g
		FROM (SELECT id FROM mix WHERE state IN ('planned','weighing') UNION (SELECT id FROM mix ORDER BY id DESC LIMIT 40)) u
		JOIN mix x ON x.id = u.id JOIN piece q ON q.id = x.piece_id JOIN material m ON m.id = x.material_id
		ORDER BY FIELD(x.state, 'weighing', 'planned', 'poured', 'abandoned'), x.id DESC LIMIT 100`)
	return list, err
}
