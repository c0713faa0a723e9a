// Package cost is the money of section 13 of the handbook chapter on planning: what a job costs, what it is offered for, how that
// falls on its pieces and days, and why it came out dearer. Money is in whole minor units; inside a line everything is exact, and
// each line is rounded half up once.
package cost

import (
	"math"
	"math/big"
	"slices"
	"strings"

	"yewmoor/internal/craft/refusal"
)

// Codes of the refusals.
const (
	QtyCode    = "E_QTY"
	MarginCode = "E_MARGIN"
)

// Number is an exact decimal, written as a JSON number or as text.
type Number struct{ r *big.Rat }

// Of is a whole number.
func Of(n int64) Number { return Number{big.NewRat(n, 1)} }

// About is a number of at most three decimals.
func About(x float64) Number {
	return Number{new(big.Rat).SetFrac64(int64(math.Round(x*1000)), 1000)}
}

// MarshalJSON writes it with at most six decimals.
func (n Number) MarshalJSON() ([]byte, error) {
	text := n.Rat().FloatString(6)
	return []byte(strings.TrimSuffix(strings.TrimRight(text, "0"), ".")), nil
}

// Float is its value as it is shown.
func (n Number) Float() float64 { f, _ := n.Rat().Float64(); return f }

// Rat is its value; 0 of none.
func (n Number) Rat() *big.Rat {
	if n.r == nil {
		return new(big.Rat)
	}
	return n.r
}

// UnmarshalJSON reads it.
func (n *Number) UnmarshalJSON(raw []byte) error {
	text := strings.Trim(string(raw), `"`)
	if len(text) > 40 || strings.ContainsAny(text, "/pPxX") { // 1e999999999 would be worked out
		return refusal.New(refusal.NotANumber, "", "%.40s is no number.", text)
	}
	if e := strings.IndexAny(text, "eE"); e >= 0 && len(text)-e > 4 {
		return refusal.New(refusal.OutOfRange, "", "%s is too large or too small.", text)
	}
	r, ok := new(big.Rat).SetString(text)
	if !ok {
		return refusal.New(refusal.NotANumber, "", "%s is no number.", text)
	}
	if new(big.Rat).Abs(r).Cmp(big.NewRat(1e12, 1)) > 0 {
		return refusal.New(refusal.OutOfRange, "", "%s is too large.", text)
	}
	n.r = r
	return nil
}

// Material is what goes into each cast, or onto each piece.
type Material struct {
	Item     string `json:"item"`
	Qty      Number `json:"qty"`
	UnitCost Number `json:"unit_cost"`
}

// Labour is work at a rate an hour in minor units.
type Labour struct {
	Step            string `json:"step"`
	Per             string `json:"per"` // cast, piece or job
	Minutes         Number `json:"minutes"`
	People          int    `json:"people"`
	Rate            Number `json:"rate"`
	OvertimeMinutes Number `json:"overtime_minutes"`
}

// Machine is an oven by its slots, or a station by its hours.
type Machine struct {
	ID           string `json:"id"`
	SlotsPerCast int64  `json:"slots_per_cast"`
	Slots        int64  `json:"slots"`
	Hours        Number `json:"hours"`
	Per          string `json:"per"` // of a station: cast, piece or job
	Rate         Number `json:"rate"`
	Charge       string `json:"charge"` // share: the fraction of a batch, not whole ones
}

// Tooling is a mould and what belongs to it.
type Tooling struct {
	Cost   int64  `json:"cost"`
	Life   int64  `json:"life"`
	Method string `json:"method"` // job, or amortise
}

// Bought is something that is bought for the job as a whole.
type Bought struct {
	Item string `json:"item"`
	Cost int64  `json:"cost"`
}

// DayPieces is how many pieces a shooting day takes.
type DayPieces struct {
	Day    string `json:"day"`
	Pieces int64  `json:"pieces"`
}

// Job is what is quoted.
type Job struct {
	Good             int64       `json:"good_pieces"`
	Casts            int64       `json:"casts"`
	MaterialPerCast  []Material  `json:"material_per_cast"`
	MaterialPerPiece []Material  `json:"material_per_piece"`
	Labour           []Labour    `json:"labour"`
	Machine          []Machine   `json:"machine"`
	Tooling          Tooling     `json:"tooling"`
	Bought           []Bought    `json:"bought,omitempty"`
	OvertimeFactor   Number      `json:"overtime_factor"` // 1.5 when none is said
	OverheadPct      Number      `json:"overhead_pct"`
	MarginPct        Number      `json:"margin_pct"`
	Days             []DayPieces `json:"days"`
}

// Quote is the answer, in minor units.
type Quote struct {
	Material   int64            `json:"material"`
	Labour     int64            `json:"labour"`
	Premium    int64            `json:"overtime_premium"`
	Machine    int64            `json:"machine"`
	Tooling    int64            `json:"tooling"`
	Bought     int64            `json:"bought,omitempty"`
	Overhead   int64            `json:"overhead"`
	Cost       int64            `json:"cost"`
	Price      int64            `json:"price"`
	PerPiece   []int64          `json:"per_piece"`
	SpareShare int64            `json:"spare_share"`
	PerDay     map[string]int64 `json:"per_day,omitempty"`
	// Lines are what the parts are made of; each part is the sum of its own.
	Lines []Line `json:"-"`
}

// Line is one line of a quote.
type Line struct {
	Part  string `json:"part" enum:"material,labour,overtime,machine,mould,bought"`
	Text  string `json:"text"`
	Minor int64  `json:"minor"`
}

// add writes a line down, and gives its amount back.
func (q *Quote) add(part, text string, amount *big.Rat) int64 {
	minor := half(amount)
	if minor != 0 {
		q.Lines = append(q.Lines, Line{part, text, minor})
	}
	return minor
}

// half rounds half up.
func half(r *big.Rat) int64 {
	two := new(big.Rat).Add(r, big.NewRat(1, 2))
	q := new(big.Int).Div(two.Num(), two.Denom()) // Euclidean: towards below for a denominator above 0
	return q.Int64()
}

func mul(list ...*big.Rat) *big.Rat {
	out := big.NewRat(1, 1)
	for _, r := range list {
		out.Mul(out, r)
	}
	return out
}

func whole(n int64) *big.Rat { return big.NewRat(n, 1) }

// times is how often something falls due: per cast, per piece, or once.
func (j Job) times(per, field string) (int64, error) {
	switch per {
	case "cast":
		return j.Casts, nil
	case "piece":
		return j.Good, nil
	case "job", "":
		return 1, nil
	}
	return 0, refusal.New(refusal.UnknownValue, field, "Per cast, per piece or per job.")
}

// Quote works out what a job costs and is offered for.
func (j Job) Quote() (Quote, error) {
	var q Quote
	margin := new(big.Rat).Quo(j.MarginPct.Rat(), whole(100))
	switch {
	case j.Good < 0 || j.Casts < j.Good:
		return q, refusal.New(QtyCode, "casts", "%d casts cannot give %d good pieces.", j.Casts, j.Good)
	case j.Good > maxPieces || j.Casts > maxPieces:
		return q, refusal.New(QtyCode, "good_pieces", "A quote is for %d pieces at most.", int64(maxPieces))
	case margin.Sign() < 0 || margin.Cmp(whole(1)) >= 0:
		return q, refusal.New(MarginCode, "margin_pct", "A margin is from 0 to below 100 in a hundred.")
	}
	for n, list := range [][]Material{j.MaterialPerCast, j.MaterialPerPiece} {
		for _, m := range list {
			q.Material += q.add("material", m.Item, mul(whole([]int64{j.Casts, j.Good}[n]), m.Qty.Rat(), m.UnitCost.Rat()))
		}
	}
	more := big.NewRat(1, 2)
	if f := j.OvertimeFactor.Rat(); f.Sign() > 0 {
		more = new(big.Rat).Sub(f, whole(1))
	}
	for _, l := range j.Labour {
		n, err := j.times(l.Per, "labour.per")
		if err != nil {
			return q, err
		}
		hour := new(big.Rat).Quo(l.Rate.Rat(), whole(60))
		q.Labour += q.add("labour", l.Step, mul(l.Minutes.Rat(), whole(n), whole(int64(max(l.People, 1))), hour))
		q.Premium += q.add("overtime", l.Step, mul(l.OvertimeMinutes.Rat(), hour, more))
	}
	for _, m := range j.Machine {
		if m.Slots > 0 {
			batches := whole((j.Casts*m.SlotsPerCast + m.Slots - 1) / m.Slots)
			if m.Charge == "share" {
				batches = big.NewRat(j.Casts*m.SlotsPerCast, m.Slots)
			}
			q.Machine += q.add("machine", m.ID, mul(batches, m.Hours.Rat(), m.Rate.Rat()))
			continue
		}
		n, err := j.times(m.Per, "machine.per")
		if err != nil {
			return q, err
		}
		q.Machine += q.add("machine", m.ID, mul(whole(n), m.Hours.Rat(), m.Rate.Rat()))
	}
	switch t := j.Tooling; {
	case t.Cost == 0:
	case t.Life < 1:
		return q, refusal.New(refusal.OutOfRange, "tooling.life", "How many casts does the mould stand?")
	case t.Method == "amortise":
		q.Tooling = q.add("mould", "their share of the mould", mul(whole(t.Cost), big.NewRat(j.Casts, t.Life)))
	default:
		q.Tooling = q.add("mould", "moulds", whole(t.Cost*((j.Casts+t.Life-1)/t.Life)))
	}
	for _, b := range j.Bought {
		q.Bought += q.add("bought", b.Item, whole(b.Cost))
	}
	q.Overhead = half(mul(whole(q.Labour+q.Premium+q.Machine), j.OverheadPct.Rat(), big.NewRat(1, 100)))
	q.Cost = q.Material + q.Labour + q.Premium + q.Machine + q.Tooling + q.Bought + q.Overhead
	q.Price = half(new(big.Rat).Quo(whole(q.Cost), new(big.Rat).Sub(whole(1), margin)))
	pieces := make([]int64, j.Good)
	for i := range pieces {
		pieces[i] = 1
	}
	q.PerPiece = Shares(q.Price, pieces)
	if j.Casts > 0 {
		q.SpareShare = half(mul(whole(q.Cost), big.NewRat(j.Casts-j.Good, j.Casts)))
	}
	if len(j.Days) > 0 {
		weights := make([]int64, len(j.Days))
		for i, d := range j.Days {
			weights[i] = d.Pieces
		}
		q.PerDay = map[string]int64{}
		for i, v := range Shares(q.Price, weights) {
			q.PerDay[j.Days[i].Day] += v
		}
	}
	return q, nil
}

const maxPieces = 100_000

// Shares divides an amount by weights so that the parts add up to it: largest remainder, ties to the first.
func Shares(total int64, weights []int64) []int64 {
	out := make([]int64, len(weights))
	sum := int64(0)
	for _, w := range weights {
		sum += max(w, 0)
	}
	if sum == 0 {
		return out
	}
	rest := make([]*big.Int, len(weights))
	order := make([]int, len(weights))
	left := total
	for i, w := range weights {
		q, r := new(big.Int).DivMod(new(big.Int).Mul(big.NewInt(total), big.NewInt(max(w, 0))), big.NewInt(sum), new(big.Int))
		out[i], rest[i], order[i] = q.Int64(), r, i
		left -= out[i]
	}
	slices.SortStableFunc(order, func(a, b int) int { return rest[b].Cmp(rest[a]) })
	for _, i := range order[:left] {
		out[i]++
	}
	return out
}

// WorkedHours is what work was planned at and what it took.
type WorkedHours struct {
	StdHours Number `json:"std_hours"`
	StdRate  Number `json:"std_rate"`
	ActHours Number `json:"act_hours"`
	ActRate  Number `json:"act_rate"`
}

// UsedMaterial is what a material was planned at and what went.
type UsedMaterial struct {
	StdQtyPerCast Number `json:"std_qty_per_cast"`
	StdPrice      Number `json:"std_price"`
	ActQty        Number `json:"act_qty"`
	ActPrice      Number `json:"act_price"`
	StdCasts      Number `json:"std_casts"`
	ActCasts      Number `json:"act_casts"`
}

// Variance is why something came out dearer; positive is dearer, and the parts add up to the whole.
type Variance struct {
	LabourRate       float64 `json:"labour_rate"`
	LabourEfficiency float64 `json:"labour_efficiency"`
	MaterialPrice    float64 `json:"material_price"`
	MaterialUsage    float64 `json:"material_usage"`
	Yield            float64 `json:"yield"`
	Estimate         float64 `json:"estimate"`
	Actual           float64 `json:"actual"`
	Total            float64 `json:"total"`
}

// Why takes the difference between what was planned and what it took apart by cause.
func Why(labour []WorkedHours, material []UsedMaterial) Variance {
	var rate, efficiency, price, usage, yield, estimate, actual big.Rat
	sub := func(a, b Number) *big.Rat { return new(big.Rat).Sub(a.Rat(), b.Rat()) }
	for _, l := range labour {
		rate.Add(&rate, mul(sub(l.ActRate, l.StdRate), l.ActHours.Rat()))
		efficiency.Add(&efficiency, mul(sub(l.ActHours, l.StdHours), l.StdRate.Rat()))
		estimate.Add(&estimate, mul(l.StdHours.Rat(), l.StdRate.Rat()))
		actual.Add(&actual, mul(l.ActHours.Rat(), l.ActRate.Rat()))
	}
	for _, m := range material {
		price.Add(&price, mul(sub(m.ActPrice, m.StdPrice), m.ActQty.Rat()))
		expected := mul(m.ActCasts.Rat(), m.StdQtyPerCast.Rat())
		usage.Add(&usage, mul(new(big.Rat).Sub(m.ActQty.Rat(), expected), m.StdPrice.Rat()))
		yield.Add(&yield, mul(sub(m.ActCasts, m.StdCasts), m.StdQtyPerCast.Rat(), m.StdPrice.Rat()))
		estimate.Add(&estimate, mul(m.StdCasts.Rat(), m.StdQtyPerCast.Rat(), m.StdPrice.Rat()))
		actual.Add(&actual, mul(m.ActQty.Rat(), m.ActPrice.Rat()))
	}
	float := func(r *big.Rat) float64 { f, _ := r.Float64(); return f }
	return Variance{
		float(&rate),
		float(&efficiency),
		float(&price),
		float(&usage),
		float(&yield),
		float(&estimate),
		float(&actual),
		float(new(big.Rat).Sub(&actual, &estimate)),
	}
}

// Per is what one of so many costs, exactly, when all of them cost so much.
func Per(minor int64, qty Number) Number {
	if qty.Rat().Sign() == 0 {
		return Of(0)
	}
	return Number{new(big.Rat).Quo(whole(minor), qty.Rat())}
}
