package texture

import (
	"context"
	"fmt"
	"math"
)

// Found is something to know about a plan, where it is, and what to do.
type Found struct {
	ID     string `json:"id"`
	Grave  string `json:"severity" enum:"stop,warn,tip"`
	Words  string `json:"words"`
	Remedy string `json:"remedy,omitempty"`
	At     *P     `json:"at,omitempty"`
	Layer  int    `json:"layer" doc:"index in the recipe; -1 for the whole"`
}

// Judged is everything that follows from a texture.
type Judged struct {
	Relief     Relief       `json:"relief"`
	Fine       Fine         `json:"fine"`
	Repetition Repetition   `json:"repetition"`
	Work       Work         `json:"work"`
	Layers     []Counted    `json:"layers"`
	Pairs      []PairResult `json:"pairs"`
	Areas      []AreaCost   `json:"areas"`
	Found      []Found      `json:"found"`
	// Regularity of what is laid, for those who like it in figures.
	Spread []Spread `json:"spread"`
}

// Counted is what one layer of the recipe came to.
type Counted struct {
	Layer       int     `json:"layer"`
	Kind        string  `json:"kind"`
	Strokes     int     `json:"strokes"`
	LinesMM     float64 `json:"lines_mm"`
	Impressions int     `json:"impressions"`
	Rows        int     `json:"rows"`
	Spots       int     `json:"spots"`
	Lumps       int     `json:"lumps"`
	Right       int     `json:"right" doc:"marks left and right of the middle of the region, as the wearer's map is seen"`
	Left        int     `json:"left"`
}

// Spread is how unlike the marks of a layer are (handbook, N31): the
// coefficients of variation of spacing and size, and the spread of the angle.
type Spread struct {
	Layer   int     `json:"layer"`
	Spacing float64 `json:"spacing" doc:"standard deviation over mean of the distance to the nearest"`
	Size    float64 `json:"size"`
	Angle   float64 `json:"angle_deg"`
	Words   string  `json:"words"`
}

// Spacing is alive between these; below it looks stamped, above it careless.
// Ours, as a target to work towards.
const (
	aliveFrom = 0.08
	aliveTo   = 0.35
)

// AreaCost says what an area costs as relief, as paint, and as both.
type AreaCost struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	By      string   `json:"by"`
	CM2     float64  `json:"cm2"`
	DepthMM float64  `json:"depth_mm" doc:"the most relief in it"`
	LimitMM float64  `json:"limit_mm"`
	Over    bool     `json:"over"`
	Choices []Choice `json:"choices"`
	share   float64  // of the work that lies in it
}

// Choice is one way of making the look of an area.
type Choice struct {
	By      string  `json:"by" enum:"relief,paint,both"`
	Hours   float64 `json:"hours"`
	MassG   float64 `json:"mass_g" doc:"of silicone that the relief's mean height adds or saves"`
	DepthMM float64 `json:"depth_mm"`
}

// paintHoursPerCM2 is how long painting takes the look of relief on; ours. Both
// together take half of it.
const paintHoursPerCM2 = 0.02

// castDensity is about that of silicone, g/cm³.
const castDensity = 1.07

// Judge works out everything that follows, in the handbook's times; In turns
// them into another hand's.
func (s *Sheet) Judge(ctx context.Context) (*Judged, error) {
	j := &Judged{Relief: s.relief(), Found: []Found{}, Layers: []Counted{}, Spread: []Spread{}, Areas: []AreaCost{}}
	var err error
	if j.Fine, err = s.fine(); err != nil {
		return nil, err
	}
	if j.Repetition, err = s.repetition(ctx); err != nil {
		return nil, err
	}
	if j.Repetition.Score >= patterned {
		j.Fine.Warnings = append(j.Fine.Warnings, Patterned)
	}
	if j.Pairs, err = s.Recipe.pairs(); err != nil {
		return nil, err
	}
	j.Work = s.work(j.Relief)
	s.count(j)
	s.costs(j)
	return j, s.find(j)
}

func (s *Sheet) count(j *Judged) {
	middle := (s.Flat.X0 + s.Flat.X1) / 2
	for _, m := range s.Layers {
		c := Counted{Layer: m.From, Kind: m.Kind, Strokes: len(m.Strokes), Impressions: len(m.Impressions), Rows: m.Rows, Spots: len(m.Spots), Lumps: len(m.Lumps)}
		for _, st := range m.Strokes {
			c.LinesMM += st.Length()
		}
		side := func(p P) {
			if p[0] < middle {
				c.Left++
			} else {
				c.Right++
			}
		}
		for _, st := range m.Strokes {
			side(st.Line[len(st.Line)/2])
		}
		if m.Strokes == nil {
			for _, p := range m.places() {
				side(p)
			}
		}
		j.Layers = append(j.Layers, c)
		if sp, ok := m.spread(); ok {
			j.Spread = append(j.Spread, sp)
		}
	}
}

// spread measures how unlike the marks of a layer are.
func (m *Marks) spread() (Spread, bool) {
	out := Spread{Layer: m.From}
	p := m.places()
	if len(p) < 10 {
		return out, false
	}
	near := newBins(p, math.Max(1e-6, spread(p)))
	var gaps, sizes, angles []float64
	var one [1]neighbour
	for i := range p {
		gaps = append(gaps, near.nearest(i, one[:])[0].d)
	}
	for _, s := range m.Impressions {
		sizes, angles = append(sizes, s.A), append(angles, s.Turn)
	}
	for _, s := range m.Spots {
		sizes = append(sizes, s.Diameter)
	}
	out.Spacing, out.Size = variation(gaps), variation(sizes)
	if len(angles) > 0 {
		_, out.Angle = meanSD(angles)
	}
	switch {
	case out.Spacing < aliveFrom:
		out.Words = fmt.Sprintf("Spacing varies by %.0f %%; below %.0f %% it looks stamped.", 100*out.Spacing, 100*aliveFrom)
	case out.Spacing > aliveTo:
		out.Words = fmt.Sprintf("Spacing varies by %.0f %%; above %.0f %% it looks careless.", 100*out.Spacing, 100*aliveTo)
	default:
		out.Words = fmt.Sprintf("Spacing varies by %.0f %%, as grown things do.", 100*out.Spacing)
	}
	return out, true
}

func meanSD(x []float64) (mean, sd float64) {
	for _, v := range x {
		mean += v / float64(len(x))
	}
	for _, v := range x {
		sd += (v - mean) * (v - mean) / float64(len(x))
	}
	return mean, math.Sqrt(sd)
}

func variation(x []float64) float64 {
	if len(x) == 0 {
		return 0
	}
	mean, sd := meanSD(x)
	if mean == 0 {
		return 0
	}
	return sd / mean
}

// costs says of each area what relief, paint and both take.
func (s *Sheet) costs(j *Judged) {
	f := s.Field
	for _, a := range s.Recipe.Areas {
		on := s.ground.areas[a.ID]
		c := AreaCost{ID: a.ID, Name: a.Name, By: a.By, LimitMM: a.DepthMM}
		var sum float64
		var row []bool
		n := 0
		for y := range f.NY {
			row = f.onAreas(row, []*shape{on}, f.y(y))
			for x := range f.NX {
				if k := y*f.NX + x; row[x] && f.In[k] {
					n++
					sum += f.Z[k]
					c.DepthMM = math.Max(c.DepthMM, math.Abs(f.Z[k]))
				}
			}
		}
		c.CM2 = float64(n) * f.H * f.H / 100
		c.Over = c.LimitMM > 0 && c.DepthMM > c.LimitMM+0.01
		if whole := s.Flat.Area() / 100; whole > 0 {
			c.share = c.CM2 / whole
		}
		if total := s.marksIn(nil); total > 0 {
			c.share = s.marksIn(on) / total
		}
		hours := c.share * j.Work.Hours
		mass, paint := sum*f.H*f.H/1000*castDensity, paintHoursPerCM2*c.CM2
		c.Choices = []Choice{{"relief", hours, mass, c.DepthMM}, {"paint", paint, 0, 0}, {"both", hours + paint/2, mass, c.DepthMM}}
		j.Areas = append(j.Areas, c)
	}
}

// marksIn weighs the marks whose place lies in a shape by their handbook times.
func (s *Sheet) marksIn(on *shape) float64 {
	hand, sum := Hands(), 0.0
	in := func(p P) bool { return on == nil || on.holds(p) }
	for _, m := range s.Layers {
		line := map[string]Action{"hatch": LineStroke, "cracks": CrackEdge, "wrinkles": Wrinkle, "lines": Wrinkle}[m.Kind]
		for _, st := range m.Strokes {
			if in(st.Line[len(st.Line)/2]) {
				sum += hand[line].spent(1, st.Length(), 0)
			}
		}
		for _, p := range m.Impressions {
			if in(p.At) {
				sum += hand[Press].Each
			}
		}
		spot := map[string]Action{"pores": Pore, "droplets": Droplet, "barnacles": Barnacle, "rot": RotHole}[m.Kind]
		for _, p := range m.Spots {
			if in(p.At) {
				sum += hand[spot].Each
			}
		}
	}
	return sum
}

// find says what to know about the plan.
func (s *Sheet) find(j *Judged) error {
	add := func(f Found) { j.Found = append(j.Found, f) }
	for _, w := range j.Fine.Warnings {
		switch w {
		case DetailLost:
			add(Found{ID: w, Grave: "warn", Layer: s.finest(j.Fine, j.Fine.HoldMM), Words: fmt.Sprintf("The finest is %.2f mm wide and %.2f mm deep; mould and cast keep %.2f mm.", j.Fine.Width, j.Fine.Depth, j.Fine.HoldMM), Remedy: "Make it wider and deeper, take a finer mould, or leave it to paint."})
		case FeaturesMerge:
			add(Found{ID: w, Grave: "warn", Layer: s.merging(j.Fine), Words: "Neighbouring marks run into each other.", Remedy: "Set them further apart or make them narrower."})
		case PaintFills:
			add(Found{ID: w, Grave: "warn", Layer: s.finest(j.Fine, 2*j.Fine.PaintMM), Words: fmt.Sprintf("%.2f mm of paint in all its coats drowns what is %.2f mm wide and %.2f mm deep.", j.Fine.PaintMM, j.Fine.Width, j.Fine.Depth), Remedy: fmt.Sprintf("Deepen it above %.2f mm, take thinner coats, or paint it.", j.Fine.PaintMM)})
		case GridTooCoarse:
			add(Found{ID: w, Grave: "tip", Layer: -1, Words: fmt.Sprintf("The picture's pixels of %.2f mm are too coarse for lines of %.2f mm; the plan itself is right.", s.planPitch(), j.Fine.Width), Remedy: fmt.Sprintf("Export with a pitch of %.2f mm or finer.", math.Max(0.05, math.Floor(100*j.Fine.Width/3)/100))})
		}
	}
	if r := j.Repetition; r.Score >= patterned {
		f := Found{ID: "EYE-2", Grave: "warn", Layer: -1, Words: fmt.Sprintf("It looks made: %.0f of 100.", r.Score), Remedy: r.Advice}
		if r.Part == "autocorrelation" && r.Lag > 0 {
			f.Words += fmt.Sprintf(" It comes back on itself every %.1f mm.", r.Lag)
		}
		if len(r.Spots) > 0 {
			f.At = &r.Spots[0]
		}
		add(f)
	}
	if j.Relief.EdgeMM > edgeStepMM {
		add(Found{ID: "EDGE", Grave: "warn", Layer: -1, Words: fmt.Sprintf("The texture stops like a step of %.2f mm at the outline.", j.Relief.EdgeMM), Remedy: "Let it fade out over 6 mm or more, or scatter droplets outwards.", At: s.highestEdge()})
	}
	s.findThin(add)
	s.findVeins(add)
	for _, a := range j.Areas {
		if a.By == "paint" && a.DepthMM > coverMM {
			add(Found{ID: "SPLIT", Grave: "tip", Layer: -1, Words: fmt.Sprintf("“%s” is left to paint, but has %.1f mm of relief.", a.Name, a.DepthMM), Remedy: "Take the area off the layers, or decide for both."})
		}
		if a.Over {
			add(Found{ID: "SPLIT", Grave: "warn", Layer: -1, Words: fmt.Sprintf("“%s” has %.1f mm of relief where %.1f is the most.", a.Name, a.DepthMM, a.LimitMM), Remedy: "Make the layers there shallower, or lift the limit."})
		}
	}
	for _, p := range j.Pairs {
		if !p.Holds {
			add(Found{ID: "PAIR", Grave: "warn", Layer: -1, Words: p.Name + ": " + p.Words, Remedy: fmt.Sprintf("Bring it to %.1f mm, or change the limits.", p.WantMM)})
		}
	}
	return nil
}

func (s *Sheet) finest(f Fine, under float64) int {
	best, least := -1, math.Inf(1)
	for _, x := range f.Features {
		if v := math.Min(x.Width, x.Depth); (x.Width <= under || x.Depth <= under) && v < least {
			best, least = x.Layer, v
		}
	}
	return best
}

func (s *Sheet) merging(f Fine) int {
	for _, x := range f.Features {
		if x.merges {
			return x.Layer
		}
	}
	return -1
}

func (s *Sheet) highestEdge() *P {
	f, best, most := s.Field, -1, 0.0
	for k, in := range f.In {
		if in && float64(f.Edge[k]) <= f.H && math.Abs(f.Z[k]) > most {
			best, most = k, math.Abs(f.Z[k])
		}
	}
	if best < 0 {
		return nil
	}
	return &P{f.x(best % f.NX), f.y(best / f.NX)}
}

// findThin looks for scored places that leave too little of the appliance.
func (s *Sheet) findThin(add func(Found)) {
	t := s.Recipe.Thickness
	if t == nil {
		return
	}
	if !(t.EdgeMM >= 0 && t.CentreMM > 0 && t.OverMM > 0 && t.LeastMM >= 0) {
		add(Found{ID: "THIN", Grave: "tip", Layer: -1, Words: "The thickness of the appliance is not known well enough to check against.", Remedy: "Say how thick it is at the edge and in the centre."})
		return
	}
	least := t.LeastMM
	if least == 0 {
		least = leastUnderLine
	}
	f, worst, at := s.Field, math.Inf(1), -1
	through := 0
	for k, in := range f.In {
		if !in || f.Z[k] > -coverMM {
			continue
		}
		d := float64(f.Edge[k])
		if d >= f.reach*(1-1e-6) {
			if t.OverMM <= f.reach {
				d = t.OverMM
			} else if t.CentreMM+f.Z[k] >= worst && t.EdgeMM+f.Z[k] >= worst {
				continue
			} else {
				d = s.Flat.shape.distance(P{f.x(k % f.NX), f.y(k / f.NX)})
			}
		}
		left := t.At(d) + f.Z[k]
		if left <= 0 {
			through++
		}
		// A share of a thin edge may be cut, too little left is never right.
		if left < worst && (left < math.Min(least, 0.5*t.At(d)) || left <= 0) {
			worst, at = left, k
		}
	}
	if at < 0 {
		return
	}
	place := &P{f.x(at % f.NX), f.y(at / f.NX)}
	if worst <= 0 {
		add(Found{ID: "THIN", Grave: "stop", Layer: -1, At: place, Words: fmt.Sprintf("A mark cuts through the appliance: %.2f mm deeper than it is thick there, over %.1f mm².", -worst, float64(through)*f.H*f.H), Remedy: "Fade the texture further in, or make it shallower near the edge."})
		return
	}
	add(Found{ID: "THIN", Grave: "warn", Layer: -1, At: place, Words: fmt.Sprintf("Under a mark only %.2f mm of the appliance are left; %.2f are wanted.", worst, least), Remedy: "Fade the texture further in, or make it shallower near the edge."})
}

// veinDeepMM is how high a vein stands at most when paint is to bring it up;
// ours, after the handbook's advice to keep veins faint.
const veinDeepMM = 0.4

// findVeins warns of raised lines that stand higher than they read after paint
// (EYE-7).
func (s *Sheet) findVeins(add func(Found)) {
	for _, m := range s.Layers {
		if m.Kind != "lines" || !m.layer.Raise {
			continue
		}
		if d := or(m.layer.Depth, Span{0.4, 0.4})[0]; d > veinDeepMM {
			add(Found{ID: "EYE-7", Grave: "tip", Layer: m.From, Words: fmt.Sprintf("These veins stand %.1f mm high. Paint brings veins up: above %.1f mm they read as cords.", d, veinDeepMM), Remedy: "Keep them faint in the clay and let a glaze do the rest."})
		}
	}
}
