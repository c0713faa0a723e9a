package stores

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// Want is what planned work takes of a material, and when.
type Want struct {
	For      string    `json:"for" doc:"a mix, a run, or a piece with the copies that are missing"`
	Material string    `json:"material"`
	Grams    float64   `json:"grams"`
	On       time.Time `json:"on"`
}

// Work tells the stores what runs and pieces will take.
type Work interface {
	// Wants are those of open runs and of copies that days still ask for.
	Wants(ctx context.Context, db database.Reader) ([]Want, error)
	// PieceWants is what so many copies of one piece take.
	PieceWants(ctx context.Context, piece string, copies int) ([]Want, error)
}

// OnDay is what will be on hand at the end of a day.
type OnDay struct {
	Day   string  `json:"day"`
	Grams float64 `json:"grams"`
}

// Standing is how one material stands: on hand, reserved, projected, to be ordered.
type Standing struct {
	Material  string  `json:"material"`
	Name      string  `json:"name"`
	Family    string  `json:"family"`
	OnHandG   float64 `json:"on_hand_g" doc:"that may be used today; of a kit what pairs"`
	ReservedG float64 `json:"reserved_g"`
	Minor     int64   `json:"value_minor" doc:"at the moving average"`
	SafetyG   float64 `json:"safety_g"`
	Projected []OnDay `json:"projected"`
	Wants     []Want  `json:"wants"`
	ShortG    float64 `json:"short_g"`
	BelowOn   string  `json:"below_on,omitempty" doc:"the day on which it falls below what is always wanted"`
	OrderBy   string  `json:"order_by,omitempty"`
	Late      bool    `json:"late"`
	OrderG    float64 `json:"order_g"`
	Supplier  string  `json:"supplier,omitempty"`
	LeadDays  int     `json:"lead_days"`
	DiesOn    string  `json:"dies_on,omitempty" doc:"the first day on which something of it runs out"`
}

// Outlook is the stock over the weeks to come.
type Outlook struct {
	Until string     `json:"until"`
	Minor int64      `json:"value_minor" doc:"all of it"`
	Items []Standing `json:"items"`
}

// ahead is how many days are looked ahead.
const ahead = 45

// Outlook projects the stock: what planned work takes, what dies, what to order.
func (s *Service) Outlook(ctx context.Context) (Outlook, error) {
	out := Outlook{Items: []Standing{}}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	lots, err := s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`)
	if err != nil {
		return out, err
	}
	wants, err := s.wants(ctx, materials, lots)
	if err != nil {
		return out, err
	}
	worth, err := s.worth(ctx)
	if err != nil {
		return out, err
	}
	now := s.Clock.Now()
	today := clock.DayNumber(now)
	until := today + ahead
	out.Until = dayText(until)
	items, held := s.plan(materials, lots, wants)
	var demands []stock.Demand
	for i, w := range wants {
		demands = append(demands, stock.Demand{ID: fmt.Sprintf("%06d", i), Item: w.Material, Qty: w.Grams, Day: clock.DayNumber(w.On)})
	}
	look, err := stock.Look(items, held, demands, today, until, weekend)
	if err != nil {
		return out, err
	}
	short := map[string]float64{}
	for _, r := range look.Reservations {
		var i int
		if _, err := fmt.Sscanf(r.Demand, "%d", &i); err == nil {
			short[wants[i].Material] += r.Short
		}
	}
	for _, it := range items {
		p := materials[it.ID]
		st := Standing{Material: p.Slug, Name: p.Name, Family: string(p.Family), Minor: worth[p.Slug], SafetyG: it.Safety, Projected: []OnDay{}, Wants: []Want{}, ShortG: short[p.Slug], LeadDays: it.LeadDays}
		out.Minor += st.Minor
		if p.Keep != nil {
			st.Supplier = p.Keep.Supplier
		}
		for _, pt := range look.Projected[it.ID] {
			st.Projected = append(st.Projected, OnDay{dayText(pt.Day), pt.Qty})
		}
		for _, w := range wants {
			if w.Material == p.Slug {
				st.Wants = append(st.Wants, w)
				st.ReservedG += w.Grams
			}
		}
		st.OnHandG = onHand(it, held, today)
		if r := look.Reorder[it.ID]; r != nil && (it.Safety > 0 || st.ShortG > 0) {
			st.BelowOn, st.OrderBy, st.Late, st.OrderG = dayText(r.BelowOn), dayText(r.OrderBy), r.Late, r.Qty
		}
		first := math.MaxInt
		for _, l := range lots {
			if l.Material == p.Slug && l.Refused == "" {
				first = min(first, l.Stock().EffectiveExpiry())
			}
		}
		if first < math.MaxInt {
			st.DiesOn = dayText(first)
		}
		out.Items = append(out.Items, st)
	}
	slices.SortStableFunc(out.Items, func(a, b Standing) int {
		rank := func(x Standing) int {
			switch {
			case x.Late:
				return 0
			case x.OrderBy != "":
				return 1
			}
			return 2
		}
		return cmp.Or(cmp.Compare(rank(a), rank(b)), strings.Compare(a.OrderBy, b.OrderBy), strings.Compare(a.Family+a.Name, b.Family+b.Name))
	})
	return out, nil
}

func onHand(it stock.Item, held []stock.Held, today int) float64 {
	none := []stock.Demand{}
	look, err := stock.Look([]stock.Item{it}, of(held, it.ID), none, today, today, nil)
	if err != nil || len(look.Projected[it.ID]) == 0 {
		return 0
	}
	return look.Projected[it.ID][0].Qty
}

func of(held []stock.Held, item string) []stock.Held {
	return slices.DeleteFunc(slices.Clone(held), func(h stock.Held) bool { return h.Item != item })
}

func dayText(n int) string { return time.Unix(int64(n)*86400, 0).UTC().Format(time.DateOnly) }

// weekend are the days on which nobody orders.
func weekend(n int) bool {
	d := time.Unix(int64(n)*86400, 0).UTC().Weekday()
	return d == time.Saturday || d == time.Sunday
}

// plan is the stock as the craft takes it: of what is here, or is wanted.
func (s *Service) plan(materials material.Shelf, lots []Lot, wants []Want) ([]stock.Item, []stock.Held) {
	named := map[string]bool{}
	pairs := map[string]*stock.Held{}
	var held []stock.Held
	for _, l := range lots {
		named[l.Material] = true
		st := s.stock(l)
		h := stock.Held{Lot: l.Code, Item: l.Material, Qty: l.OnHandG, Status: l.Status, Received: st.Received, Expiry: st.Expiry, Opened: st.Opened}
		if st.OpenLife > 0 && st.Opened != nil {
			h.Expiry = st.EffectiveExpiry()
		}
		if st.Spoiled {
			h.Status = stock.Quarantine
		}
		if l.Part == "" {
			held = append(held, h)
			continue
		}
		pair, has := pairs[l.Code]
		if !has {
			h.Qty = 0
			pair = &h
			pairs[l.Code] = pair
		}
		if l.Part == "A" {
			pair.A = l.OnHandG
		} else {
			pair.B = l.OnHandG
		}
		if l.Status != stock.OK {
			pair.Status = l.Status
		}
		pair.Expiry = min(pair.Expiry, h.Expiry)
	}
	for _, p := range pairs {
		held = append(held, *p)
	}
	for _, w := range wants {
		named[w.Material] = true
	}
	var items []stock.Item
	for slug := range named {
		p := materials[slug]
		it := stock.Item{ID: slug}
		if k := p.Keep; k != nil {
			it.Safety, it.LeadDays, it.Pack, it.MinOrder, it.OpenLife = k.SafetyG, k.LeadDays, k.PackG, k.MinOrderG, k.OpenLifeDays
		}
		if p.Ratio != nil {
			it.Kit = true
			it.A, it.B = ratio(p)
		}
		items = append(items, it)
	}
	slices.SortFunc(items, func(a, b stock.Item) int { return strings.Compare(a.ID, b.ID) })
	slices.SortFunc(held, func(a, b stock.Held) int { return strings.Compare(a.Item+a.Lot, b.Item+b.Lot) })
	return items, held
}

// ratio is a kit's by mass.
func ratio(p material.Product) (a, b float64) {
	a, b = p.Ratio.A, p.Ratio.B
	if p.Ratio.ByVolume && p.Ratio.DensityA > 0 && p.Ratio.DensityB > 0 {
		a, b = a*p.Ratio.DensityA, b*p.Ratio.DensityB
	}
	return a, b
}

// wants are what mixes on the bench still take, runs that are open, and the copies
// that days ask for. What a recipe makes and the shelf does not hold is wanted as its
// ingredients.
func (s *Service) wants(ctx context.Context, materials material.Shelf, lots []Lot) ([]Want, error) {
	var mixes []struct {
		Code     string
		Material string
		Grams    float64
	}
	err := s.DB.SelectContext(ctx, &mixes, `SELECT x.code, m.slug AS material, SUM(GREATEST(0, n.planned_g - COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0))) AS grams
		FROM mix x JOIN mix_line n ON n.mix_id = x.id JOIN material m ON m.id = n.material_id WHERE x.state IN ('planned','weighing') AND n.lot_id IS NOT NULL AND n.done = FALSE GROUP BY x.code, m.slug`)
	if err != nil {
		return nil, fmt.Errorf("reading what mixes take: %w", err)
	}
	now := s.Clock.Now()
	var out []Want
	for _, m := range mixes {
		out = append(out, Want{For: m.Code, Material: m.Material, Grams: m.Grams, On: now})
	}
	work, err := s.Work.Wants(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	kept, err := recipes.All(ctx, s.DB, materials)
	if err != nil {
		return nil, err
	}
	have := map[string]float64{}
	for _, l := range lots {
		if l.Refused == "" {
			have[l.Material] += l.OnHandG
		}
	}
	for _, w := range work {
		if w.Grams <= 0 {
			continue
		}
		if have[w.Material] >= w.Grams || materials[w.Material].Ratio != nil {
			have[w.Material] -= w.Grams
			out = append(out, w)
			continue
		}
		made := recipes.Of(kept, w.Material)
		if len(made) == 0 {
			out = append(out, w)
			continue
		}
		for _, n := range ingredients(made[0].Recipe, w.Grams, materials) {
			out = append(out, Want{For: w.For, Material: n.slug, Grams: n.grams, On: w.On})
		}
	}
	return out, nil
}

type need struct {
	slug  string
	grams float64
}

// ingredients are what so much of a recipe takes of each material that lots are kept
// of.
func ingredients(r recipe.Recipe, grams float64, materials material.Shelf) []need {
	sheet, err := mix.PourSheet(r.Mix(materials), grams, 0.01)
	if err != nil {
		return nil
	}
	var out []need
	for _, t := range sheet {
		l, _ := r.Of(t.ID)
		if materials[l.Material].Tap {
			continue
		}
		if i := slices.IndexFunc(out, func(n need) bool { return n.slug == l.Material }); i >= 0 {
			out[i].grams += t.Grams
		} else {
			out = append(out, need{l.Material, t.Grams})
		}
	}
	return out
}

// worth is what the stock of each material is worth.
func (s *Service) worth(ctx context.Context) (map[string]int64, error) {
	var rows []struct {
		Slug  string
		Minor int64
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT m.slug, v.minor FROM stock_value v JOIN material m ON m.id = v.material_id`); err != nil {
		return nil, fmt.Errorf("reading what the stock is worth: %w", err)
	}
	out := map[string]int64{}
	for _, r := range rows {
		out[r.Slug] = r.Minor
	}
	return out, nil
}

// CanMake is the question what can still be made from what is here.
type CanMake struct {
	Piece  string  `json:"piece,omitempty" maxLength:"24" doc:"so many copies of it"`
	Recipe string  `json:"recipe,omitempty" maxLength:"80" doc:"or so much by a recipe"`
	Copies int     `json:"copies,omitempty" minimum:"0" maximum:"1000"`
	Grams  float64 `json:"grams,omitempty" minimum:"0" maximum:"1000000"`
}

// Covered is one material of the answer.
type Covered struct {
	Material string  `json:"material"`
	Name     string  `json:"name"`
	NeedG    float64 `json:"need_g"`
	Lot      string  `json:"lot,omitempty"`
	Until    string  `json:"until,omitempty"`
	LacksG   float64 `json:"lacks_g"`
	By       string  `json:"by,omitempty" doc:"mixed here: the recipe that makes it"`
}

// Makeable is the answer.
type Makeable struct {
	Yes   bool      `json:"yes"`
	Until string    `json:"until,omitempty" doc:"the last day on which it is true"`
	Words string    `json:"words"`
	Lines []Covered `json:"lines"`
}

// Can answers whether something can be made from what is here and not spoken for.
func (s *Service) Can(ctx context.Context, q CanMake) (Makeable, error) {
	out := Makeable{Lines: []Covered{}}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	kept, err := recipes.All(ctx, s.DB, materials)
	if err != nil {
		return out, err
	}
	var needs []need
	switch {
	case q.Piece != "":
		if q.Copies < 1 {
			return out, problem.Invalid("out_of_range", "copies", "How many copies? At least one.")
		}
		wants, err := s.Work.PieceWants(ctx, q.Piece, q.Copies)
		if err != nil {
			return out, err
		}
		for _, w := range wants {
			needs = append(needs, need{w.Material, w.Grams})
		}
	case q.Recipe != "":
		r, _, err := recipes.Agreed(ctx, s.DB, q.Recipe, materials)
		if err != nil {
			return out, err
		}
		if !(q.Grams > 0) {
			return out, problem.Invalid("out_of_range", "grams", "How much of it? Above nothing.")
		}
		needs = ingredients(r, q.Grams, materials)
	default:
		return out, problem.Invalid("missing", "piece", "What is to be made? A piece, or a recipe.")
	}
	lots, err := s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`)
	if err != nil {
		return out, err
	}
	return s.answer(materials, kept, s.free(ctx, lots), needs), nil
}

// free are the lots less what mixes on the bench will still take of them.
func (s *Service) free(ctx context.Context, lots []Lot) map[string][]stock.Lot {
	var taken []struct {
		Lot   uint64
		Grams float64
	}
	_ = s.DB.SelectContext(ctx, &taken, `SELECT n.lot_id AS lot, SUM(GREATEST(0, n.planned_g - COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0))) AS grams
		FROM mix x JOIN mix_line n ON n.mix_id = x.id WHERE x.state IN ('planned','weighing') AND n.lot_id IS NOT NULL GROUP BY n.lot_id`)
	reserved := map[uint64]float64{}
	for _, t := range taken {
		reserved[t.Lot] = t.Grams
	}
	out := map[string][]stock.Lot{}
	for _, l := range lots {
		st := s.stock(l)
		st.OnHandG = math.Max(0, st.OnHandG-reserved[l.ID])
		out[l.Material] = append(out[l.Material], st)
	}
	return out
}

func (s *Service) answer(materials material.Shelf, kept []recipes.Kept, lots map[string][]stock.Lot, needs []need) Makeable {
	today := clock.DayNumber(s.Clock.Now())
	out := Makeable{Yes: true, Lines: []Covered{}}
	until := math.MaxInt
	var lacking []string
	cover := func(n need, by string) Covered {
		p := materials[n.slug]
		a, b := 0.0, 0.0
		if p.Ratio != nil {
			a, b = ratio(p)
		}
		c := stock.Covers(lots[n.slug], a, b, n.grams, today)
		line := Covered{Material: n.slug, Name: p.Name, NeedG: n.grams, Lot: c.Lot, LacksG: c.LacksG, By: by}
		if c.Lot != "" {
			line.Until = dayText(c.Until)
			until = min(until, c.Until)
		}
		return line
	}
	add := func(line Covered) {
		out.Lines = append(out.Lines, line)
		if line.Lot == "" {
			out.Yes = false
			lacking = append(lacking, fmt.Sprintf("%s lacks %s", line.Name, quantity.FormatMass(line.LacksG)))
		}
	}
	for _, n := range needs {
		p := materials[n.slug]
		if p.Tap || n.grams <= 0 {
			continue
		}
		line := cover(n, "")
		made := recipes.Of(kept, n.slug)
		if line.Lot != "" || len(made) == 0 || p.Ratio != nil {
			add(line)
			continue
		}
		for _, in := range ingredients(made[0].Recipe, n.grams, materials) {
			add(cover(in, made[0].Recipe.Name))
		}
	}
	switch {
	case len(out.Lines) == 0:
		out.Yes, out.Words = false, "Nothing in it is kept in the stores."
	case out.Yes:
		out.Until = dayText(until)
		out.Words = "Yes, until " + time.Unix(int64(until)*86400, 0).UTC().Format("Monday 2 January") + "."
	default:
		out.Words = "No: " + strings.Join(lacking, "; ") + "."
	}
	return out
}
