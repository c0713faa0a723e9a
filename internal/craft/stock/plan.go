package stock

import (
	"cmp"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Item is how a product is kept and ordered again (planning.md section 12).
// Quantities in g, days from a common origin.
type Item struct {
	ID        string
	Kit       bool    // of two parts that are never mixed with those of another lot
	A, B      float64 // a kit's ratio by mass
	SingleLot bool    // the whole of a demand from one lot; always so for kits
	OpenLife  int     // days once opened; 0 means no limit
	Safety    float64
	LeadDays  int
	Pack      float64 // comes in multiples of
	MinOrder  float64
}

// Held is a lot as a plan takes it: of a kit, both its parts.
type Held struct {
	Lot    string
	Item   string
	Qty    float64 // of what comes in one part
	A, B   float64
	Status string

	Received int // after today: expected
	Expiry   int
	Opened   *int
}

// Demand is what a run or a kit will want.
type Demand struct {
	ID       string
	Item     string
	Qty      float64
	Day      int
	Priority int
}

// Take is what a demand gets from one lot.
type Take struct {
	Lot string  `json:"lot"`
	Qty float64 `json:"qty"`
}

// Reservation is what a demand gets, and what is missing.
type Reservation struct {
	Demand string  `json:"demand"`
	Take   []Take  `json:"take"`
	Short  float64 `json:"short"`
}

// Point is what will be usable at the end of a day.
type Point struct {
	Day int
	Qty float64
}

// Reorder says by when and how much to order; nil where nothing falls short.
type Reorder struct {
	BelowOn int
	OrderBy int
	Late    bool
	Qty     float64
}

// Outlook is the stock over days.
type Outlook struct {
	Reservations []Reservation
	Projected    map[string][]Point // the first day, and every day on which it changes
	Reorder      map[string]*Reorder
}

// dust is what arithmetic leaves over and no scale would find.
const dust = 1e-9

// whole takes the noise of binary fractions off a quantity.
func whole(x float64) float64 { return math.Round(x*1e6) / 1e6 }

type shelved struct {
	Held
	item   Item
	opened *int
}

// lot is the lot as Lot has it, for its expiry and order.
func (l *shelved) lot() Lot {
	return Lot{Code: l.Lot, Received: l.Received, Expiry: l.Expiry, Opened: l.opened, OpenLife: l.item.OpenLife}
}

func (l *shelved) onHand() float64 {
	if l.item.Kit {
		return math.Max(0, math.Min(l.A/l.item.A, l.B/l.item.B)*(l.item.A+l.item.B))
	}
	return l.Qty
}

// usable is what may be used of it on a day.
func (l *shelved) usable(day int) float64 {
	if l.Status != "" && l.Status != OK || l.Received > day || l.lot().EffectiveExpiry() < day {
		return 0
	}
	return l.onHand()
}

func (l *shelved) draw(qty float64, day int) {
	if l.item.Kit {
		l.A = whole(l.A - qty*l.item.A/(l.item.A+l.item.B))
		l.B = whole(l.B - qty*l.item.B/(l.item.A+l.item.B))
	} else {
		l.Qty = whole(l.Qty - qty)
	}
	if l.opened == nil {
		l.opened = &day
	}
}

// Look allocates demands first expired first out and says what will be on hand
// and when to order. Days run from today to until; closed says of a day whether
// nobody orders on it.
func Look(items []Item, held []Held, demands []Demand, today, until int, closed func(day int) bool) (Outlook, error) {
	out := Outlook{Reservations: []Reservation{}, Projected: map[string][]Point{}, Reorder: map[string]*Reorder{}}
	if until < today || until-today > 4000 {
		return out, refusal.New(refusal.OutOfRange, "until", "The last day must not lie before the first.")
	}
	byItem, known := map[string][]*shelved{}, map[string]Item{}
	for _, it := range items {
		if it.Kit && (!(it.A > 0) || !(it.B > 0)) {
			return out, refusal.New(refusal.OutOfRange, "items", "Both parts of the ratio of %s must be above zero.", it.ID)
		}
		known[it.ID] = it
	}
	for _, h := range held {
		it, ok := known[h.Item]
		if !ok {
			return out, refusal.New(refusal.UnknownValue, "lots", "Lot %s is of nothing that is known.", h.Lot)
		}
		byItem[h.Item] = append(byItem[h.Item], &shelved{Held: h, item: it, opened: h.Opened})
	}
	demands = slices.Clone(demands)
	slices.SortStableFunc(demands, func(a, b Demand) int {
		return cmp.Or(cmp.Compare(a.Day, b.Day), cmp.Compare(b.Priority, a.Priority), cmp.Compare(a.ID, b.ID))
	})
	byDay := map[string]map[int][]Demand{}
	for _, d := range demands {
		if _, ok := known[d.Item]; !ok {
			return out, refusal.New(refusal.UnknownValue, "demands", "%s wants something that is not known.", d.ID)
		}
		if !(d.Qty >= 0) {
			return out, refusal.New(refusal.OutOfRange, "demands", "%s wants less than nothing.", d.ID)
		}
		if byDay[d.Item] == nil {
			byDay[d.Item] = map[int][]Demand{}
		}
		byDay[d.Item][max(d.Day, today)] = append(byDay[d.Item][max(d.Day, today)], d)
	}
	given := map[string]Reservation{}
	for _, it := range items {
		out.Projected[it.ID], out.Reorder[it.ID] = project(it, byItem[it.ID], byDay[it.ID], today, until, closed, given)
	}
	for _, d := range demands {
		if r, ok := given[d.ID]; ok {
			out.Reservations = append(out.Reservations, r)
		}
	}
	return out, nil
}

func project(it Item, lots []*shelved, demands map[int][]Demand, today, until int, closed func(int) bool, given map[string]Reservation) ([]Point, *Reorder) {
	// What is on hand changes only when something is wanted, comes, or runs out.
	days := []int{today}
	add := func(d int) {
		if d > today && d <= until {
			days = append(days, d)
		}
	}
	for d := range demands {
		add(d)
	}
	for _, l := range lots {
		add(l.Received)
		add(l.lot().EffectiveExpiry() + 1)
		if it.OpenLife > 0 { // it may be opened by any demand
			for d := range demands {
				add(d + it.OpenLife + 1)
			}
		}
	}
	slices.Sort(days)
	days = slices.Compact(days)
	var points []Point
	short, lowest, below := 0.0, math.Inf(1), -1
	for _, day := range days {
		for _, d := range demands[day] {
			r := allocate(it, lots, d, day)
			given[d.ID] = r
			short += r.Short
		}
		on := -short
		for _, l := range lots {
			on += l.usable(day)
		}
		on = whole(on)
		if len(points) == 0 || points[len(points)-1].Qty != on {
			points = append(points, Point{day, on})
		}
		lowest = math.Min(lowest, on)
		if on < it.Safety-dust && below < 0 {
			below = day
		}
	}
	if below < 0 {
		return points, nil
	}
	by := below - it.LeadDays
	for range 14 {
		if closed == nil || !closed(by) {
			break
		}
		by--
	}
	pack := it.Pack
	if pack <= 0 {
		pack = 1
	}
	return points, &Reorder{BelowOn: below, OrderBy: by, Late: by < today, Qty: whole(math.Ceil(math.Max(it.Safety-lowest, it.MinOrder)/pack-dust) * pack)}
}

func allocate(it Item, lots []*shelved, d Demand, day int) Reservation {
	out := Reservation{Demand: d.ID, Take: []Take{}, Short: d.Qty}
	order := slices.Clone(lots)
	slices.SortStableFunc(order, func(a, b *shelved) int { return byExpiry(a.lot(), b.lot()) })
	for _, l := range order {
		on := l.usable(day)
		if on <= dust || out.Short <= dust {
			continue
		}
		if (it.Kit || it.SingleLot) && on < d.Qty-dust {
			continue
		}
		q := whole(math.Min(on, out.Short))
		l.draw(q, day)
		out.Take = append(out.Take, Take{l.Lot, q})
		out.Short = whole(out.Short - q)
	}
	if out.Short <= dust {
		out.Short = 0
	}
	return out
}
