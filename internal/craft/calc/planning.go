package calc

// Quantities, stock and durations of the planning chapter as JSON.

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strconv"
	"strings"

	"yewmoor/internal/craft/cost"
	"yewmoor/internal/craft/learn"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/craft/trace"
	"yewmoor/internal/craft/yield"
)

var planning = engine{"op", "input", map[string]solver{
	"posterior": quick(posterior), "casts": quick(castsToRun), "spares": quick(spares), "reuse": quick(reuse), "turns": quick(turns),
	"mix": quick(mixesOf), "mixset": quick(mixSet), "parts": quick(partsOf), "stock": quick(stockOver), "trace": quick(traced), "wac": quick(movingAverage),
	"duration": quick(duration), "buffer": quick(buffer), "quote": quick(quoteOf), "variance": quick(varianceOf),
}}

// figure is a number that may be written as text, so that its decimals are exact.
type figure float64

func (f *figure) UnmarshalJSON(raw []byte) error {
	text := strings.Trim(string(raw), `"`)
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return &json.UnmarshalTypeError{Value: "text", Field: "a number"}
	}
	*f = figure(v)
	return nil
}

type learned struct {
	Material string        `json:"material"`
	HalfLife float64       `json:"half_life_days"`
	History  []yield.Casts `json:"history"`
	Prior    []float64     `json:"prior"`
}

func (l learned) belief() (yield.Belief, error) {
	b := yield.Prior(l.Material)
	if l.Prior != nil {
		if len(l.Prior) != 2 {
			return b, refusal.New(yield.PriorCode, "prior", "A prior is two numbers.")
		}
		b = yield.Belief{A: l.Prior[0], B: l.Prior[1]}
	}
	return b.After(l.History, l.HalfLife)
}

func posterior(raw json.RawMessage) (any, error) {
	var in learned
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	b, err := in.belief()
	return answer(map[string]float64{"a": b.A, "b": b.B, "mean": b.Mean()}, err)
}

func castsToRun(raw json.RawMessage) (any, error) {
	var in struct {
		learned
		Need       int       `json:"need"`
		Confidence float64   `json:"confidence"`
		Cavities   int       `json:"cavities"`
		Later      []learned `json:"later_stages"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	first, err := in.belief()
	if err != nil {
		return nil, err
	}
	stages := []yield.Belief{first}
	for _, l := range in.Later {
		b, err := l.belief()
		if err != nil {
			return nil, err
		}
		stages = append(stages, b)
	}
	return answer(yield.ToRun(in.Need, max(1, in.Cavities), in.Confidence, stages...))
}

func spares(raw json.RawMessage) (any, error) {
	var in struct {
		Applications int     `json:"applications"`
		Loss         float64 `json:"loss"`
		Confidence   float64 `json:"confidence"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	n, p, err := yield.Spares(in.Applications, in.Loss, in.Confidence)
	return answer(map[string]any{"spares": n, "pieces": in.Applications + n, "probability": p}, err)
}

func reuse(raw json.RawMessage) (any, error) {
	var in struct {
		Uses     int         `json:"uses"`
		RestDays int         `json:"rest_days"`
		Days     []yield.Day `json:"days"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	n, left, err := yield.Reused(in.Uses, in.RestDays, in.Days)
	return answer(map[string]int{"pieces": n, "uses_left": left}, err)
}

func turns(raw json.RawMessage) (any, error) {
	var in struct {
		Window     float64 `json:"window"`
		Fill       float64 `json:"fill"`
		CureMin    float64 `json:"cure_min"`
		CureMax    float64 `json:"cure_max"`
		Demould    float64 `json:"demould"`
		Turnaround float64 `json:"turnaround"`
		Moulds     int     `json:"moulds"`
		People     int     `json:"people"`
		Casts      int     `json:"casts"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	m := yield.Mould{Window: in.Window, Fill: in.Fill, Cure: in.CureMin, CureMax: in.CureMax, Demould: in.Demould, Turnaround: in.Turnaround}
	return answer(m.TurnsADay(max(1, in.Moulds), max(1, in.People), in.Casts))
}

type batches struct {
	Volume    figure `json:"volume_ml"`
	Waste     figure `json:"waste"`
	Expansion figure `json:"expansion"`
	FixedLoss figure `json:"fixed_loss_ml"`
	Bowl      figure `json:"bowl_ml"`
	MinMix    figure `json:"min_mix_ml"`
	PotLife   figure `json:"pot_life_min"`
	Prep      figure `json:"prep_min"`
	Pour      figure `json:"pour_min"`
	Pourers   int    `json:"pourers"`
	Moulds    int    `json:"moulds_free"`
}

func (b batches) craft() mix.Batches {
	return mix.Batches{VolumeML: float64(b.Volume), Waste: float64(b.Waste), Expansion: float64(b.Expansion), FixedLossML: float64(b.FixedLoss), BowlML: float64(b.Bowl),
		MinMixML: float64(b.MinMix), PotLifeMin: float64(b.PotLife), PrepMin: float64(b.Prep), PourMin: float64(b.Pour), Pourers: b.Pourers, MouldsFree: b.Moulds}
}

func mixesOf(raw json.RawMessage) (any, error) {
	var in struct {
		batches
		Pieces int `json:"pieces"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	b := in.craft()
	b.Pieces = in.Pieces
	return answer(b.Plan())
}

func mixSet(raw json.RawMessage) (any, error) {
	var in struct {
		batches
		Pieces []mix.Wanted `json:"pieces"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	bins, err := in.craft().Together(in.Pieces)
	return answer(map[string]any{"mixes": len(bins), "bins": bins}, err)
}

func partsOf(raw json.RawMessage) (any, error) {
	var in struct {
		By     string  `json:"by"`
		Total  figure  `json:"total_g"`
		Volume figure  `json:"volume_ml"`
		Step   float64 `json:"resolution_g"`
		Parts  []struct {
			ID      string `json:"id"`
			Parts   figure `json:"parts"`
			Density figure `json:"density"`
		} `json:"parts"`
		Additions []struct {
			ID      string `json:"id"`
			Percent figure `json:"percent"`
		} `json:"additions"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	r := mix.Recipe{ByVolume: in.By == "volume"}
	for _, p := range in.Parts {
		r.Parts = append(r.Parts, mix.Part{ID: p.ID, Parts: float64(p.Parts), Density: float64(p.Density)})
	}
	for _, a := range in.Additions {
		r.Additions = append(r.Additions, mix.Addition{ID: a.ID, Percent: float64(a.Percent)})
	}
	out, err := r.ByParts(float64(in.Total), float64(in.Volume), in.Step)
	if err != nil {
		return nil, err
	}
	parts, additions := map[string]float64{}, map[string]float64{}
	for _, t := range out {
		if t.IsPart {
			parts[t.ID] = t.Grams
		} else {
			additions[t.ID] = t.Grams
		}
	}
	total := 0.0
	for _, g := range parts {
		total += g
	}
	answer := map[string]any{"total_g": mix.Rounded(total, 0.0001), "parts_g": parts}
	if len(additions) > 0 {
		answer["additions_g"] = additions
	}
	return answer, nil
}

// day is a date of the calendar as the number of days since 1 January 1970.
type day int

func (d *day) UnmarshalJSON(raw []byte) error {
	var y, m, n int
	if _, err := fmt.Sscanf(string(raw), `"%4d-%2d-%2d"`, &y, &m, &n); err != nil {
		return &json.UnmarshalTypeError{Value: "text", Field: "a date"}
	}
	*d = day(dayOf(y, m, n))
	if dateOf(int(*d)) != strings.Trim(string(raw), `"`) { // the 31st of a short month
		return &json.UnmarshalTypeError{Value: "text", Field: "a date"}
	}
	return nil
}

// dayOf numbers a day of the Gregorian calendar: years are counted from March, so
// that the leap day comes last (published civil-day arithmetic).
func dayOf(y, m, d int) int {
	if m <= 2 {
		y--
		m += 12
	}
	return 365*y + y/4 - y/100 + y/400 + (153*(m-3)+2)/5 + d - 719469
}

func dateOf(n int) string {
	n += 719468
	era := n / 146097
	of := n - era*146097
	year := (of - of/1460 + of/36524 - of/146096) / 365
	rest := of - (365*year + year/4 - year/100)
	m := (5*rest + 2) / 153
	d := rest - (153*m+2)/5 + 1
	y := year + era*400
	if m += 3; m > 12 {
		m -= 12
		y++
	}
	return fmt.Sprintf("%04d-%02d-%02d", y, m, d)
}

// weekday counts from Monday, as the chapter does.
func weekday(n int) int { return (n + 3) % 7 }

func stockOver(raw json.RawMessage) (any, error) {
	var in struct {
		Today  day   `json:"today"`
		Until  day   `json:"until"`
		Closed []int `json:"closed_weekdays"`
		Items  []struct {
			ID        string                 `json:"id"`
			Kit       *struct{ A, B figure } `json:"kit"`
			SingleLot bool                   `json:"single_lot"`
			OpenLife  int                    `json:"open_life_days"`
			Safety    figure                 `json:"safety"`
			LeadDays  int                    `json:"lead_days"`
			Pack      figure                 `json:"pack"`
			MinOrder  figure                 `json:"moq"`
		} `json:"items"`
		Lots []struct {
			ID, Item, Status string
			Qty, A, B        figure
			Received, Expiry day
			Opened           *day
		} `json:"lots"`
		Demands []struct {
			ID, Item string
			Qty      figure
			Date     day
			Priority int
		} `json:"demands"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	var items []stock.Item
	for _, i := range in.Items {
		it := stock.Item{ID: i.ID, SingleLot: i.SingleLot, OpenLife: i.OpenLife, Safety: float64(i.Safety), LeadDays: i.LeadDays, Pack: float64(i.Pack), MinOrder: float64(i.MinOrder)}
		if i.Kit != nil {
			it.Kit, it.A, it.B = true, float64(i.Kit.A), float64(i.Kit.B)
		}
		items = append(items, it)
	}
	var held []stock.Held
	for _, l := range in.Lots {
		h := stock.Held{Lot: l.ID, Item: l.Item, Qty: float64(l.Qty), A: float64(l.A), B: float64(l.B), Status: l.Status, Received: int(l.Received), Expiry: int(l.Expiry)}
		if l.Opened != nil {
			n := int(*l.Opened)
			h.Opened = &n
		}
		held = append(held, h)
	}
	var demands []stock.Demand
	for _, d := range in.Demands {
		demands = append(demands, stock.Demand{ID: d.ID, Item: d.Item, Qty: float64(d.Qty), Day: int(d.Date), Priority: d.Priority})
	}
	closed := func(n int) bool {
		for _, c := range in.Closed {
			if weekday(n) == c {
				return true
			}
		}
		return false
	}
	look, err := stock.Look(items, held, demands, int(in.Today), int(in.Until), closed)
	if err != nil {
		return nil, err
	}
	projected, reorder := map[string]any{}, map[string]any{}
	for id, points := range look.Projected {
		list := []any{}
		for _, p := range points {
			list = append(list, map[string]any{"date": dateOf(p.Day), "qty": p.Qty})
		}
		projected[id] = list
		reorder[id] = nil
		if r := look.Reorder[id]; r != nil {
			reorder[id] = map[string]any{"below_on": dateOf(r.BelowOn), "order_by": dateOf(r.OrderBy), "late": r.Late, "qty": r.Qty}
		}
	}
	return map[string]any{"reservations": look.Reservations, "projected": projected, "reorder": reorder}, nil
}

func traced(raw json.RawMessage) (any, error) {
	var in struct {
		Edges []struct {
			From, To, Via string
		} `json:"edges"`
		Start     string `json:"start"`
		Direction string `json:"direction"`
		Contact   bool   `json:"include_contact"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	node := func(s string) trace.Node {
		kind, code, _ := strings.Cut(s, ":")
		return trace.Node{Kind: kind, Code: code}
	}
	var edges []trace.Edge
	for _, e := range in.Edges {
		edges = append(edges, trace.Edge{From: node(e.From), To: node(e.To), Contact: e.Via == "contact"})
	}
	reached, err := trace.Reached(edges, node(in.Start), in.Direction, in.Contact)
	if err != nil {
		return nil, err
	}
	for kind, codes := range reached {
		for i, c := range codes {
			codes[i] = kind + ":" + c
		}
	}
	return map[string]any{"reached": reached}, nil
}

// exact is a quantity in ten-thousandths.
func exact(n json.RawMessage, field string) (int64, error) {
	r, ok := new(big.Rat).SetString(strings.Trim(string(n), `"`))
	if !ok {
		return 0, refusal.New(refusal.NotANumber, field, "%s is no number.", field)
	}
	r.Mul(r, big.NewRat(10000, 1))
	if !r.IsInt() || !r.Num().IsInt64() || r.Num().Int64() > 1e15 || r.Sign() < 0 {
		return 0, refusal.New(refusal.OutOfRange, field, "%s has too many figures.", field)
	}
	return r.Num().Int64(), nil
}

func movingAverage(raw json.RawMessage) (any, error) {
	var in struct {
		Events []struct {
			Type  string          `json:"type"`
			Qty   json.RawMessage `json:"qty"`
			Value int64           `json:"value"`
		} `json:"events"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	var v stock.Value
	events := []any{}
	for i, e := range in.Events {
		field := fmt.Sprintf("events[%d].qty", i)
		qty, err := exact(e.Qty, field)
		if err != nil {
			return nil, err
		}
		row := map[string]any{}
		switch e.Type {
		case "receipt":
			v = v.Receive(qty, e.Value)
		case "issue":
			var minor int64
			if v, minor, err = v.Issue(qty); err != nil {
				return nil, err
			}
			row["issue_value"] = minor
		default:
			return nil, refusal.New(refusal.UnknownValue, fmt.Sprintf("events[%d].type", i), "A receipt or an issue.")
		}
		row["qty"], row["value"] = float64(v.Qty)/1e4, v.Minor
		events = append(events, row)
	}
	out := map[string]any{"events": events, "average": nil}
	if v.Qty > 0 {
		out["average"] = float64(v.Minor) / (float64(v.Qty) / 1e4)
	}
	return out, nil
}

// observation is a bare number of minutes, or one with its units.
type observation struct{ learn.Observed }

func (o *observation) UnmarshalJSON(raw []byte) error {
	if len(raw) > 0 && raw[0] == '{' {
		return json.Unmarshal(raw, &o.Observed)
	}
	return json.Unmarshal(raw, &o.Value)
}

func duration(raw json.RawMessage) (any, error) {
	var in struct {
		Prior        learn.Before  `json:"prior"`
		Observations []observation `json:"observations"`
		Units        float64       `json:"units"`
		Slot         float64       `json:"slot_minutes"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	var seen []learn.Observed
	for _, o := range in.Observations {
		seen = append(seen, o.Observed)
	}
	g, err := learn.From(in.Prior, seen)
	if err != nil {
		return nil, err
	}
	units, slot := in.Units, in.Slot
	if units == 0 {
		units = 1
	}
	if slot == 0 {
		slot = 15
	}
	return struct {
		learn.Guess
		Slots int `json:"plan_slots"`
	}{g, g.Slots(units, slot)}, nil
}

func buffer(raw json.RawMessage) (any, error) {
	var in struct {
		Chain []learn.Link `json:"chain"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return map[string]float64{"buffer": learn.Buffer(in.Chain)}, nil
}

func quoteOf(raw json.RawMessage) (any, error) {
	var in cost.Job
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return answer(in.Quote())
}

func varianceOf(raw json.RawMessage) (any, error) {
	var in struct {
		Labour   []cost.WorkedHours  `json:"labour"`
		Material []cost.UsedMaterial `json:"material"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return cost.Why(in.Labour, in.Material), nil
}
