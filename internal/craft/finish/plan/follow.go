package plan

import (
	"context"
	"fmt"
	"math"

	"yewmoor/internal/craft/finish/hair"
	"yewmoor/internal/craft/finish/insert"
	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/rules"
)

// Set is what was done of a zone or of a sort of inserts already, and in how long.
type Set struct {
	N       int     `json:"n"`
	Minutes float64 `json:"minutes"`
}

// Around is what a plan is worked out in.
type Around struct {
	Region  string // of the piece
	Wearer  string // name; empty where nobody is cast
	LimitG  float64
	OthersG float64 // worn with it
	WornG   float64 // the piece itself, without what weighs it down
	// SectionG is what its section has of weights: the same weights, told twice.
	SectionG float64
	WornH    float64
	Done     map[string]Set // by id of a zone or insert, on the copy in hand
	Batches  map[string]Batch
}

// Batch is what came of the batches of an insert so far.
type Batch struct{ Made, Good int }

// Haired is what a zone of hair comes to.
type Haired struct {
	ID      string        `json:"id"`
	Counted hair.Counted  `json:"counted"`
	Rows    *hair.Rows    `json:"rows,omitempty" doc:"of hair that is laid"`
	Punched *hair.Punched `json:"punched,omitempty" doc:"of hair that is set one by one"`
}

// Inserted is what a sort of inserts comes to.
type Inserted struct {
	ID     string      `json:"id"`
	Need   int         `json:"need"`
	Batch  insert.Made `json:"batch"`
	Learnt bool        `json:"learnt" doc:"from this shop's own batches"`
	Have   int         `json:"have" doc:"good ones that are made"`
	// PaceS is what one takes to set, from this copy's own minutes where some are timed.
	PaceS   float64      `json:"pace_s"`
	LeftMin float64      `json:"left_min" doc:"until all are set"`
	Hold    *insert.Held `json:"hold,omitempty"`
}

// Weighted is what weights come to.
type Weighted struct {
	ID   string      `json:"id"`
	Bags insert.Bags `json:"bags"`
}

// Joined is what a joint must stand.
type Joined struct {
	ID    string  `json:"id"`
	Depth int     `json:"depth"`
	Hangs float64 `json:"hangs_g" doc:"the part and everything on it"`
	PullN float64 `json:"pull_n"`
	DryH  float64 `json:"dry_h" doc:"until everything under it and itself is dry"`
}

// Result is what a plan comes to.
type Result struct {
	Hair     []Haired        `json:"hair"`
	Inserts  []Inserted      `json:"inserts"`
	Weights  []Weighted      `json:"weights"`
	Joints   []Joined        `json:"joints"`
	Minutes  float64         `json:"minutes" doc:"hands at the bench, of one copy"`
	DonMin   float64         `json:"don_min"`
	DoffMin  float64         `json:"doff_min"`
	Findings []rules.Finding `json:"findings"`
	Work     []work.Item     `json:"work" doc:"what it adds to the list of a copy"`
}

// setS is what an insert takes to set and tug where nobody timed one, s. Ours.
const setS = 30.0

// safety is what a joint is asked for where nobody said: so many times its weight while the
// wearer runs.
const safety = 3.0

// mostDoffMin is how long a closure may take to open.
const mostDoffMin = 2.0

// Follow works a plan out. Refusals as in Check and in the engines, at their fields; it
// ends early with ctx.
func (p Plan) Follow(ctx context.Context, in Around) (Result, error) {
	out := Result{Hair: []Haired{}, Inserts: []Inserted{}, Weights: []Weighted{}, Joints: []Joined{}, Findings: []rules.Finding{}, Work: []work.Item{}}
	if err := p.Check(); err != nil {
		return out, err
	}
	for i, z := range p.Hair {
		h, err := z.follow(ctx, in.Done[z.ID])
		if err != nil {
			return out, within(err, fmt.Sprintf("hair[%d].", i))
		}
		out.Hair = append(out.Hair, h)
		out.hairSays(z, h)
	}
	for i, n := range p.Inserts {
		one, err := n.follow(in)
		if err != nil {
			return out, within(err, fmt.Sprintf("inserts[%d].", i))
		}
		out.Inserts = append(out.Inserts, one)
		out.insertSays(n, one, in)
	}
	p.worn(&out, in)
	p.weights(&out, in)
	p.joints(&out)
	for _, c := range p.Closures {
		out.DonMin, out.DoffMin = out.DonMin+c.DonMin, out.DoffMin+c.DoffMin
		out.add(work.Item{ID: "closure-" + c.ID, Kind: work.Closure, Text: fmt.Sprintf("%s, %s: opened and shut three times", c.Name, c.Sort), Why: "the finish plan", Minutes: 5})
	}
	if out.DoffMin > mostDoffMin {
		out.say("FIN-5", rules.Stop, fmt.Sprintf("It takes %.3g min to open; out within %.0f is the rule.", out.DoffMin, mostDoffMin), "Fewer fastenings, or ones that tear open; practise it with the helper.")
	}
	if a := p.Age; a != nil && a.Level > 0 {
		words := []string{"new", "used", "worn", "hard worn", "ruined"}[min(4, max(0, a.Level))]
		out.add(work.Item{ID: "age", Kind: work.Age, Text: fmt.Sprintf("Age it to %s: %s", words, a.Words), Why: map[bool]string{true: "the finish plan; it comes off again", false: "the finish plan; it stays"}[a.Reversible],
			Minutes: float64(10 * a.Level), Material: a.Material})
	}
	for _, w := range out.Work {
		out.Minutes += w.Minutes
	}
	return out, nil
}

func (r *Result) say(id string, s rules.Severity, reason, remedy string) {
	r.Findings = append(r.Findings, rules.Finding{ID: id, Severity: s, Reason: reason, Remedy: remedy})
}

func (r *Result) sayOf(of, id string, s rules.Severity, reason, remedy string) {
	r.Findings = append(r.Findings, rules.Finding{ID: id, Severity: s, Above: of, Reason: reason, Remedy: remedy})
}

func (r *Result) add(i work.Item) { r.Work = append(r.Work, i) }

// follow counts a zone: what is set one by one is counted where it is drawn; what is laid
// is counted from its density and told in tufts.
func (z Zone) follow(ctx context.Context, done Set) (Haired, error) {
	out := Haired{ID: z.ID}
	p, err := hair.Punch(ctx, z.field())
	if err != nil {
		return out, err
	}
	fibre, _ := tables.FibreOf(z.Fibre)
	order := hair.Order{Fibre: z.Fibre, DiameterUM: fibre.Diameter, VisibleMM: z.VisibleMM, CurlRadiusMM: z.CurlMM, CurlPitchMM: z.PitchMM, TrimMM: z.TrimMM, RootMM: z.RootMM,
		Waste: z.Waste, HairsPerPush: max(1, z.Per), StrokeS: tables.StrokeSeconds(z.Way), Done: min(done.N, p.Count), SpentMin: done.Minutes}
	order.Known = &hair.Known{Count: p.Count, AreaCM2: p.AreaCM2}
	if !z.punched() {
		width, depth := z.box()
		l := hair.UsualRows(width, depth)
		l.Hairs = p.Count
		rows, err := hair.Lay(l)
		if err != nil {
			return out, err
		}
		out.Rows = &rows
		order.StrokeS, order.HairsPerPush = l.TuftS, max(1, int(math.Round(rows.PerTuft)))
	} else {
		out.Punched = &p
	}
	out.Counted, err = hair.Count(order)
	return out, err
}

func (r *Result) hairSays(z Zone, h Haired) {
	words := fmt.Sprintf("%s: %d hairs %s", z.Name, h.Counted.Count, z.Way)
	if h.Rows != nil {
		words = fmt.Sprintf("%s: %d tufts in %d rows, back to front", z.Name, h.Rows.Total, h.Rows.Rows)
	}
	for _, w := range z.Prepared {
		if w == "steamed_straight" {
			r.sayOf(z.ID, "FIN-7", rules.Warn, "Hair is steamed straight: steam scalds before it is seen, and synthetic fibre melts.", "A wet cloth between, gloves, the kettle at arm's length; never on the wearer; synthetic fibre in warm water only.")
		}
	}
	r.add(work.Item{ID: "hair-" + z.ID, Kind: work.Hair, Text: words, Why: "the finish plan", Minutes: math.Round(h.Counted.LeftMin), Material: z.Material})
	if z.TrimMM > 0 && z.Way == "laid" {
		r.add(work.Item{ID: "trim-" + z.ID, Kind: work.Hair, Text: fmt.Sprintf("%s: cut back by %.0f mm once the glue is dry", z.Name, z.TrimMM), Why: orWords(z.TrimWhy, "the finish plan"), Minutes: 10})
	}
}

func orWords(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func (n Inserts) follow(in Around) (Inserted, error) {
	out := Inserted{ID: n.ID, Need: n.Needed()}
	b := insert.Batch{Need: out.Need, Yield: n.Yield, Confidence: 0.95, MinutesEach: n.EachMin}
	if had := in.Batches[n.ID]; had.Made >= 10 {
		b.Yield, b.Made, b.Good, out.Learnt = 0, float64(had.Made), float64(had.Good), true
	}
	out.Have = in.Batches[n.ID].Good
	done := in.Done[n.ID]
	out.PaceS = setS
	if done.N > 0 && done.Minutes > 0 {
		out.PaceS = 60 * done.Minutes / float64(done.N)
	}
	out.LeftMin = float64(max(0, out.Need-done.N)) * out.PaceS / 60
	var err error
	if out.Batch, err = insert.Plan(b); err != nil {
		return out, err
	}
	if n.MassG > 0 {
		held := insert.Hold(n.load())
		out.Hold = &held
	}
	return out, nil
}

func (r *Result) insertSays(n Inserts, one Inserted, in Around) {
	where := n.Beside(in.Region)
	switch {
	case n.Loose && (where == "nose" || where == "mouth"):
		r.sayOf(n.ID, "FIN-1", rules.Stop, fmt.Sprintf("%s can come loose beside the %s, where they are breathed in or swallowed.", n.Name, where), "Seal them under a film, or set them elsewhere; tug and brush every one before it goes on.")
	case n.Loose:
		r.sayOf(n.ID, "FIN-1", rules.Warn, fmt.Sprintf("%s can come loose.", n.Name), "Tug and brush every one; keep them from nose, mouth and eyes.")
	}
	if n.Sharp && n.When == "on the face" {
		r.sayOf(n.ID, "SEQ-6", rules.Stop, fmt.Sprintf("%s are sharp and planned to be set on the face.", n.Name), "Set them on the stand, counted in and out, a guard layer behind the points.")
	}
	if n.Organic {
		r.sayOf(n.ID, "WGT-1", rules.Warn, fmt.Sprintf("%s are plant or food: they rot with sweat and shed.", n.Name), "Dried, sealed, and no longer than the shoot; an inert stand-in is safer.")
	}
	if one.Hold != nil && !one.Hold.Holds {
		r.sayOf(n.ID, "FIN-2", rules.Stop, fmt.Sprintf("The fixing of %s is loaded to %.0f %% of what it bears.", n.Name, 100*one.Hold.Use), "A larger seat, a peg or a stitch, a lighter insert; our figures are within a factor of two.")
	}
	text := fmt.Sprintf("%d %s set and tugged", one.Need, n.Name)
	if n.Sharp {
		text = fmt.Sprintf("%d %s set on the stand, counted in and out", one.Need, n.Name)
	}
	if n.When == "on the stand" {
		r.add(work.Item{ID: "insert-" + n.ID, Kind: work.Insert, Text: text, Why: "the finish plan", Minutes: math.Round(float64(one.Need) * one.PaceS / 60), Material: n.Material})
	}
}

// worn says what goes with lenses: who fits them, whose they are, when they go in and out.
func (p Plan) worn(r *Result, in Around) {
	for _, w := range p.Worn {
		if w.Sort != "lens" {
			continue
		}
		if w.FittedBy == "" {
			r.sayOf(w.ID, "FIN-6", rules.Stop, w.Name+": nobody licensed is named who supplies and fits it.", "Lenses come from a licensed optician or doctor, measured for this wearer; we neither fit nor supply them.")
		}
		if in.Wearer != "" && w.For != "" && w.For != in.Wearer {
			r.sayOf(w.ID, "FIN-8", rules.Never, fmt.Sprintf("%s is %s's: a lens is never shared.", w.Name, w.For), "Order one for this wearer.")
		}
		r.sayOf(w.ID, "FIN-9", rules.Tip, w.Name+": out before any remover comes near the eye, hands washed, its own case.", "")
		if w.MostH > 0 && in.WornH > w.MostH {
			r.sayOf(w.ID, "FIN-6", rules.Stop, fmt.Sprintf("%s may be worn %.3g h; the day wants %.3g.", w.Name, w.MostH, in.WornH), "Breaks without it, by what its supplier says.")
		}
	}
}

func (p Plan) weights(r *Result, in Around) {
	sum := 0.0
	for _, b := range p.Weights {
		filler, _ := tables.FillerOf(b.Filler)
		bags := insert.Weigh(insert.Weight{TargetG: b.TargetG, Filler: filler, BagML: b.BagML, Fill: b.Fill, WornH: in.WornH, Sweat: b.Sweat})
		r.Weights = append(r.Weights, Weighted{b.ID, bags})
		sum += b.TargetG + bags.WetGainG
		for _, w := range bags.Warnings {
			switch w {
			case "rots":
				r.sayOf(b.ID, "WGT-1", rules.Warn, fmt.Sprintf("%s takes up sweat, about %.0f g, and rots.", b.Name, bags.WetGainG), "Sealed bags, emptied and dried after each day; glass, steel or plastic instead.")
			case "stiff":
				r.sayOf(b.ID, "WGT-3", rules.Tip, b.Name+": bags so full do not swing.", "Fill to seven tenths.")
			}
		}
		r.add(work.Item{ID: "weight-" + b.ID, Kind: work.Weight, Text: fmt.Sprintf("%s: %d bags of %.0f g, weighed", b.Name, bags.Bags, bags.PerBagG), Why: "the finish plan", Minutes: float64(2 * bags.Bags)})
	}
	if sum > 0 && in.SectionG > 0 && math.Abs(sum-in.SectionG) > 0.1*math.Max(sum, in.SectionG) {
		r.say("FIN-10", rules.Warn, fmt.Sprintf("The section weighs it down with %.0f g, this plan with %.0f g.", in.SectionG, sum), "Change the one that is wrong: mass and heat follow from the section, the bags from here.")
	}
	if total := sum + in.WornG + in.OthersG; sum > 0 && in.LimitG > 0 && total > in.LimitG {
		r.say("SAF-6", rules.Stop, fmt.Sprintf("With its weights all that is worn comes to %.0f g; at most %.0f are to be worn.", total, in.LimitG), "Lighter, or carried by a harness, with minutes on and off.")
	}
}

// joints work out what hangs on each joint of a thing that is put together.
func (p Plan) joints(r *Result) {
	running, _ := tables.MotionOf("running")
	under := map[string][]Part{}
	for _, part := range p.Parts {
		under[part.On] = append(under[part.On], part)
	}
	var walk func(part Part, depth int) (grams, dry float64)
	walk = func(part Part, depth int) (grams, dry float64) {
		at := len(r.Joints)
		r.Joints = append(r.Joints, Joined{ID: part.ID, Depth: depth})
		grams = part.MassG
		for _, c := range under[part.ID] {
			g, d := walk(c, depth+1)
			grams, dry = grams+g, math.Max(dry, d)
		}
		dry += part.DryH
		r.Joints[at].Hangs, r.Joints[at].DryH, r.Joints[at].PullN = grams, dry, part.PullN
		if part.PullN == 0 && part.On != "" {
			r.Joints[at].PullN = math.Round(10*grams/1000*9.80665*running.G*safety) / 10
		}
		return grams, dry
	}
	for _, part := range under[""] {
		walk(part, 0)
	}
	for _, part := range p.Parts {
		if part.On == "" {
			continue
		}
		for _, j := range r.Joints {
			if j.ID == part.ID {
				r.add(work.Item{ID: "join-" + part.ID, Kind: work.Insert, Text: fmt.Sprintf("%s %s on, dry %.3g h, then pulled at with %.1f N", part.Name, part.Joint, part.DryH, j.PullN), Why: "the finish plan", Minutes: 10, Material: part.Glue})
			}
		}
	}
}
