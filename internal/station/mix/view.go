package mix

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/hands"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

const rowColumns = `x.id, x.code, x.piece_id, COALESCE(q.code, '') AS piece, COALESCE(q.name, '') AS piece_name, m.slug, COALESCE(x.section_number, 0) AS section_number, x.recipe, x.amount, x.confirmed,
	x.recipe_slug, x.recipe_number, x.planned_g, x.pours, x.state, x.scale_base_g, x.carried_g, x.parent_id, (SELECT y.code FROM mix y WHERE y.id = x.parent_id) AS parent, x.share, x.water_c, x.room_c, x.rh, x.note,
	x.contact_at, x.on_scale_at, x.planned_at, p.name AS planned_by, x.end_reason, (SELECT MIN(r.code) FROM run_mix rm JOIN run r ON r.id = rm.run_id WHERE rm.mix_id = x.id) AS run_code,
	(SELECT MIN(l.code) FROM lot l WHERE l.mix_id = x.id) AS lot_code
	FROM mix x LEFT JOIN piece q ON q.id = x.piece_id JOIN material m ON m.id = x.material_id JOIN person p ON p.id = x.planned_by`

func readRow(ctx context.Context, db database.Reader, code string) (row, error) {
	var r row
	err := db.GetContext(ctx, &r, `SELECT `+rowColumns+` WHERE x.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.NotFound("mix", code)
	}
	return r, err
}

// source is the mix whose cup this is: what was divided shares its history.
func (r row) source() uint64 {
	if r.ParentID != nil {
		return *r.ParentID
	}
	return r.ID
}

func readLines(ctx context.Context, db database.Reader, mix uint64) ([]lineRow, error) {
	var lines []lineRow
	err := db.SelectContext(ctx, &lines, `SELECT n.id, n.seq, n.ingredient, m.slug AS material, l.code AS lot, n.lot_id, n.seen_at, n.planned_g, n.done,
		COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0) AS in_cup_g
		FROM mix_line n JOIN material m ON m.id = n.material_id LEFT JOIN lot l ON l.id = n.lot_id WHERE n.mix_id = ? ORDER BY n.seq`, mix)
	return lines, err
}

func readSteps(ctx context.Context, db database.Reader, mix uint64) ([]stepRow, error) {
	var steps []stepRow
	err := db.SelectContext(ctx, &steps, `SELECT t.id, t.seq, t.plan, t.begun_at, t.done_at, p.name AS by_name, t.value, t.note
		FROM mix_step t LEFT JOIN person p ON p.id = t.done_by WHERE t.mix_id = ? ORDER BY t.seq`, mix)
	return steps, err
}

// house is the recipe that the mix was written by. Older mixes kept the shares of
// their silicone alone.
func (r row) house() (recipe.Recipe, error) {
	var house recipe.Recipe
	if err := json.Unmarshal(r.Recipe, &house); err != nil {
		return house, fmt.Errorf("reading the recipe of %s: %w", r.Code, err)
	}
	if len(house.Lines) > 0 {
		return house, nil
	}
	var old craft.Recipe
	if err := json.Unmarshal(r.Recipe, &old); err != nil {
		return house, fmt.Errorf("reading the recipe of %s: %w", r.Code, err)
	}
	house = recipe.Recipe{Name: "As it was mixed", Makes: r.Slug, ByVolume: old.ByVolume, Clock: recipe.CureTime}
	for _, p := range old.Parts {
		house.Lines = append(house.Lines, recipe.Line{ID: p.ID, Material: r.Slug, Kit: p.ID, Parts: p.Parts, Sets: true})
	}
	for _, a := range old.Additions {
		house.Lines = append(house.Lines, recipe.Line{ID: a.ID, Material: a.ID, Percent: a.Percent, Of: a.Of})
	}
	return house, nil
}

// cup is a mix as it stands: its recipe, what was weighed, and how that balances.
type cup struct {
	row
	house     recipe.Recipe
	lines     []lineRow
	steps     []stepRow
	balance   craft.Balance
	by        map[string]craft.Line
	materials material.Shelf
}

func readCup(ctx context.Context, db database.Reader, r row) (cup, error) {
	c := cup{row: r, by: map[string]craft.Line{}}
	var err error
	if c.house, err = r.house(); err != nil {
		return c, err
	}
	if c.lines, err = readLines(ctx, db, r.source()); err != nil {
		return c, err
	}
	if c.steps, err = readSteps(ctx, db, r.source()); err != nil {
		return c, err
	}
	if c.materials, err = shelf.Load(ctx, db); err != nil {
		return c, err
	}
	return c, c.weighUp()
}

// weighUp puts the bench's lines, which are in pouring order, through the craft,
// which wants them in the recipe's order.
func (c *cup) weighUp() error {
	mix := c.house.Mix(c.materials)
	shares, err := mix.Shares()
	if err != nil {
		return err
	}
	at := map[string]lineRow{}
	for _, l := range c.lines {
		at[l.Ingredient] = l
	}
	poured := make([]craft.Poured, len(shares))
	for i, sh := range shares {
		l := at[sh.ID]
		poured[i] = craft.Poured{ID: sh.ID, PlannedG: l.PlannedG, InCupG: l.InCupG, Done: l.Done}
	}
	if c.balance, err = craft.Rebalance(mix, poured); err != nil {
		return err
	}
	for _, l := range c.balance.Lines {
		c.by[l.ID] = l
	}
	for _, l := range c.lines { // what is topped up stands outside the ratio
		if h, _ := c.house.Of(l.Ingredient); h.TopUp {
			add := math.Max(0, l.PlannedG-l.InCupG)
			if l.Done && add <= craft.Tolerance(l.PlannedG) {
				add = 0
			}
			c.by[l.Ingredient] = craft.Line{ID: l.Ingredient, TargetG: l.PlannedG, InCupG: l.InCupG, AddG: add, OverG: math.Max(0, l.InCupG-l.PlannedG)}
			c.balance.TotalG += l.PlannedG
		}
	}
	return nil
}

// open says whether a line still wants something.
func (c cup) open(l lineRow) bool { return !l.Done || c.by[l.Ingredient].AddG > 0 }

// current is the line or the step that is next, by its place in the order; both nil
// where everything is done. A line that wants more again comes first.
func (c cup) current() (*lineRow, *stepRow) {
	for i, l := range c.lines {
		if l.Done && c.by[l.Ingredient].AddG > 0 {
			return &c.lines[i], nil
		}
	}
	li := slices.IndexFunc(c.lines, c.open)
	si := slices.IndexFunc(c.steps, func(t stepRow) bool { return t.DoneAt == nil })
	switch {
	case li < 0 && si < 0:
		return nil, nil
	case si < 0 || li >= 0 && c.lines[li].Seq < c.steps[si].Seq:
		return &c.lines[li], nil
	}
	return nil, &c.steps[si]
}

// inCup is everything that was poured in, g.
func (c cup) inCup() float64 {
	sum := 0.0
	for _, l := range c.lines {
		sum += l.InCupG
	}
	return sum * c.Share
}

// back is the last weigh-back that was done, with the mass that it gave.
func (c cup) back() (seq int, grams float64, done bool) {
	for _, t := range c.steps {
		if t.DoneAt != nil && t.Value != nil && t.plan().Act == recipe.Back {
			seq, grams, done = t.Seq, *t.Value, true
		}
	}
	return seq, grams, done
}

// mass is what the cup holds now: as it was weighed back, with what came after.
func (c cup) mass() float64 {
	seq, grams, done := c.back()
	if !done {
		return c.inCup()
	}
	for _, l := range c.lines {
		if l.Seq > seq {
			grams += l.InCupG
		}
	}
	return grams * c.Share
}

func (t stepRow) plan() recipe.Step {
	var st recipe.Step
	_ = json.Unmarshal(t.Plan, &st)
	return st
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
	c, err := readCup(ctx, db, r)
	if err != nil {
		return View{}, err
	}
	list, err := shelf.Substances(ctx, db)
	if err != nil {
		return View{}, err
	}
	v := View{Code: r.Code, Piece: r.Piece, PieceName: r.PieceName, Recipe: r.House, Number: r.Number, Material: r.Slug, Name: c.house.Name, State: r.State, PlannedG: r.PlannedG, TotalG: c.balance.TotalG * r.Share,
		MassG: c.mass(), Pours: r.Pours, Lines: []Line{}, Steps: []StepView{}, BaseG: r.BaseG, CarriedG: r.CarriedG, ContactAt: r.ContactAt, PlannedAt: r.PlannedAt, PlannedBy: r.PlannedBy,
		EndReason: r.EndReason, Note: r.Note, KeepH: c.house.KeepH, Follows: c.house.Follow(list, c.materials), Moulds: []Mould{}, Runs: []string{}}
	if c.house.Name == "" || r.House == "" {
		v.Name = c.materials[r.Slug].Name
	}
	for _, p := range []struct {
		from *string
		to   *string
	}{{r.Run, &v.Run}, {r.LotCode, &v.PutBy}, {r.Parent, &v.Parent}} {
		if p.from != nil {
			*p.to = *p.from
		}
	}
	families := []string{string(c.materials[r.Slug].Family)}
	for _, l := range c.lines {
		families = append(families, string(c.materials[l.Material].Family))
	}
	v.Clean = hands.After(families...)
	v.Ready = c.finished() == nil
	v.Confirmed = len(v.Follows.Confirm) == 0 || r.confirmedBy(ctx)
	s.fillCup(&v, c)
	if r.State == "weighing" {
		on, err := s.attached(ctx)
		if err != nil {
			return v, err
		}
		v.OnScale = on == r.Code
	}
	if r.State == "planned" || r.State == "weighing" {
		if v.Working, err = s.working(ctx, db, c.house, c.materials, r, c.lines); err != nil {
			return v, err
		}
	}
	if r.PieceID != nil {
		if err := s.fillMoulds(ctx, db, &v, c); err != nil {
			return v, err
		}
	}
	return v, nil
}

func (s *Service) fillCup(v *View, c cup) {
	names := map[string]string{}
	for _, l := range c.lines {
		of := c.by[l.Ingredient]
		h, _ := c.house.Of(l.Ingredient)
		name := nameOf(h, c.materials[l.Material])
		if h.Kit != "" {
			name = "Part " + h.Kit
		}
		names[l.Ingredient] = name
		line := Line{Seq: l.Seq, Ingredient: l.Ingredient, Material: l.Material, Name: name, LotSeen: l.SeenAt != nil, PlannedG: l.PlannedG, TargetG: of.TargetG, InCupG: l.InCupG,
			AddG: of.AddG, OverG: of.OverG, TolG: craft.Tolerance(of.TargetG), TopUp: h.TopUp, Done: l.Done && of.AddG == 0}
		if l.Lot != nil {
			line.Lot = *l.Lot
		}
		v.Lines = append(v.Lines, line)
	}
	now := s.Clock.Now()
	for _, t := range c.steps {
		st := StepView{Seq: t.Seq, Step: t.plan(), BegunAt: t.BegunAt, DoneAt: t.DoneAt, Value: t.Value, Note: t.Note}
		if t.By != nil {
			st.By = *t.By
		}
		if st.Seconds > 0 {
			st.LeftS = st.Seconds
			if t.BegunAt != nil {
				st.LeftS = math.Max(0, st.Seconds-now.Sub(*t.BegunAt).Seconds())
			}
		}
		v.Steps = append(v.Steps, st)
	}
	if c.ParentID == nil {
		switch line, step := c.current(); {
		case line != nil:
			v.Current = line.Seq
		case step != nil:
			v.Current = step.Seq
		}
	}
	v.Message = c.balance.Say(func(id string) string {
		if name, known := names[id]; known {
			return name
		}
		return id
	})
	if said := c.said(); v.Message == "" {
		v.Message = said
	}
}

// said is what the last weigh-back asked for.
func (c cup) said() string {
	if c.ParentID != nil {
		return ""
	}
	for i := len(c.steps) - 1; i >= 0; i-- {
		if t := c.steps[i]; t.plan().Act == recipe.Back && t.DoneAt != nil {
			return t.Note
		}
	}
	return ""
}

func (s *Service) fillMoulds(ctx context.Context, db database.Reader, v *View, c cup) error {
	err := db.SelectContext(ctx, &v.Moulds, `SELECT m.code, m.kind, m.state, (SELECT COUNT(*) FROM copy c WHERE c.mould_id = m.id) AS casts, COALESCE(f.code, '') AS core,
		COALESCE((SELECT GROUP_CONCAT(w.words ORDER BY w.words SEPARATOR '; ') FROM (SELECT mould_id, CONCAT(kind, ', ', place) AS words FROM mould_mark WHERE mould_id IN (SELECT id FROM mould WHERE piece_id = ?) AND kind <> 'clean' AND place <> '' GROUP BY mould_id, kind, place HAVING COUNT(*) > 1) w WHERE w.mould_id = m.id), '') AS again
		FROM mould m LEFT JOIN form f ON f.id = m.form_id WHERE m.piece_id = ? AND m.state <> 'retired' ORDER BY m.number`, *c.PieceID, *c.PieceID)
	if err != nil {
		return err
	}
	if v.Runs, err = waiting(ctx, db, *c.PieceID, c.Slug); err != nil {
		return err
	}
	var amount craft.Answer
	if len(c.Amount) > 0 {
		if err := json.Unmarshal(c.Amount, &amount); err != nil {
			return fmt.Errorf("reading the amount of %s: %w", c.Code, err)
		}
	}
	v.Fills = c.fills(amount.PerCopy, v.Working.Started, v.Working.LowS, v.Moulds)
	return nil
}

// waiting are runs of a piece whose next stage takes the material.
func waiting(ctx context.Context, db database.Reader, piece uint64, material string) ([]string, error) {
	runs := []string{}
	err := db.SelectContext(ctx, &runs, `SELECT r.code FROM run r JOIN run_stage t ON t.run_id = r.id AND t.done_at IS NULL WHERE r.piece_id = ? AND r.ended_at IS NULL
		AND t.seq = (SELECT MIN(u.seq) FROM run_stage u WHERE u.run_id = r.id AND u.done_at IS NULL) AND JSON_UNQUOTE(JSON_EXTRACT(t.plan, '$.material')) = ? ORDER BY r.started_at`, piece, material)
	return runs, err
}

// hurryS is how long before the earliest end of the working time the screen warns.
const hurryS = 120

// fills says how many copies the cup still fills, by its mass or by how high foam
// has really risen, and which mould is next.
func (c cup) fills(perCopy float64, running bool, lowS float64, moulds []Mould) Fills {
	out := Fills{Next: []string{}, PerG: perCopy}
	for _, m := range moulds {
		if m.State == "dry" || m.State == "resting" || m.State == "repaired" {
			out.Next = append(out.Next, m.Code)
		}
	}
	if perCopy > 0 {
		out.ByMass = int(c.mass()/perCopy + 1e-9)
	}
	for _, t := range c.steps {
		if t.plan().Act != recipe.Volume || t.Value == nil || c.inCup() <= 0 {
			continue
		}
		p := c.materials[c.Slug]
		d := foam.Of(foam.Rise{VolumeRise: 1, MixKg: c.inCup() / 1000, Solids: solids(p), Shrink: foam.UsualShrink, Overfill: 1})
		out.RiseIs = *t.Value * 1e-6 / d.FoamM3
		if planned := math.Max(1, c.house.Rise); perCopy > 0 && out.RiseIs > 0 {
			// So much foam of another rise fills a hollow with another mass.
			out.ByMass = int(c.mass()*out.RiseIs/planned/perCopy + 1e-9)
		}
	}
	if running && lowS < hurryS && len(out.Next) > 0 {
		out.Warning = "Pour now: the working time is nearly over."
	}
	return out
}

func solids(p material.Product) float64 {
	if p.Solids > 0 {
		return p.Solids
	}
	return foam.UsualSolids
}

// confirmedBy says whether who is signed in has confirmed what the recipe asks for.
func (r row) confirmedBy(ctx context.Context) bool {
	who, _ := accounts.From(ctx)
	return slices.ContainsFunc(r.confirmations(), func(c confirmation) bool { return c.Person == who.ID })
}

// Brief is a mix in a list.
type Brief struct {
	Code      string  `db:"code" json:"code"`
	Piece     string  `db:"piece" json:"piece,omitempty"`
	PieceName string  `db:"piece_name" json:"piece_name,omitempty"`
	Material  string  `db:"material" json:"material"`
	Family    string  `db:"family" json:"family"`
	State     string  `db:"state" json:"state"`
	PlannedG  float64 `db:"planned_g" json:"planned_g"`
	WeighedG  float64 `db:"weighed_g" json:"weighed_g"`
}

// List reads the newest mixes, those on the bench first.
func (s *Service) List(ctx context.Context) ([]Brief, error) {
	list := []Brief{}
	// Index mix_state for those on the bench, the primary key for the newest.
	err := s.DB.SelectContext(ctx, &list, `SELECT x.code, COALESCE(q.code, '') AS piece, COALESCE(q.name, '') AS piece_name, m.name AS material, m.family, x.state, x.planned_g,
		COALESCE((SELECT SUM(w.grams) FROM weigh_in w JOIN mix_line n ON n.id = w.mix_line_id WHERE n.mix_id = COALESCE(x.parent_id, x.id)), 0) * x.share AS weighed_g
		FROM (SELECT id FROM mix WHERE state IN ('planned','weighing') UNION (SELECT id FROM mix ORDER BY id DESC LIMIT 40)) u
		JOIN mix x ON x.id = u.id LEFT JOIN piece q ON q.id = x.piece_id JOIN material m ON m.id = x.material_id
		ORDER BY FIELD(x.state, 'weighing', 'planned', 'poured', 'put_by', 'used', 'abandoned'), x.id DESC LIMIT 100`)
	return list, err
}
