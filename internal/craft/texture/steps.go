package texture

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// film is laid once, when any layer is softened through it.
func (b *worker) film() {
	for _, m := range b.sheet.Layers {
		if or(m.layer.Soften, 0) > 0 && m.Kind != "field" {
			b.step(Step{Key: "film", Action: FilmLaid, Layer: -1, Text: "Lay thin cling film", Detail: "Pressed and scored through film, edges come out rounded.", Count: 1, Unit: "film"})
			return
		}
	}
}

// largeFirst are the layers by the size of their marks, largest first.
func (b *worker) largeFirst() []*Marks {
	list := slices.Clone(b.sheet.Layers)
	slices.SortStableFunc(list, func(a, c *Marks) int {
		x, y := a.size(), c.size()
		switch {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	return list
}

// size is how large a layer's marks are, in mm: the order of work goes by it.
func (m *Marks) size() float64 {
	l := &m.layer
	switch m.Kind {
	case "hatch":
		return l.Families[0].Spacing.mean()
	case "scales":
		return math.Max(or(l.Size, Span{9, 4})[0], 3)
	case "wrinkles", "lines":
		return 8 * or(l.Width, 1.5)
	case "cracks":
		return or(l.Pitch, 6) * math.Max(1, or(l.Stretch, 1))
	case "pores":
		return or(l.Diameter, Span{0.3, 0.6})[1]
	case "droplets":
		// Drops blend the edge when all else is done.
		return 0.5 * or(l.Diameter, Span{0.6, 1.4})[1]
	case "barnacles":
		return or(l.Diameter, Span{4, 8})[1]
	case "rot":
		return or(l.Diameter, Span{3, 6})[1]
	}
	return 100
}

func through(l *Layer) string {
	if or(l.Soften, 0) > 0 {
		return " through film"
	}
	return ""
}

// name is what people call the layer.
func (m *Marks) name() string {
	if m.layer.Name != "" {
		return m.layer.Name
	}
	return map[string]string{"hatch": "lines", "scales": "scales", "pores": "pores", "wrinkles": "wrinkles", "cracks": "cracks", "droplets": "droplets", "barnacles": "barnacles", "rot": "rot holes", "lines": "lines along guides", "field": "relief brought in"}[m.Kind]
}

func (b *worker) layer(m *Marks) {
	b.where = m.layer.ID
	if b.where == "" {
		b.where = digits(m.From)
	}
	b.where += ":" + m.Kind
	l := &m.layer
	switch m.Kind {
	case "scales":
		b.rows(m)
	case "hatch":
		for i, f := range l.Families {
			n, mm := count(m.Strokes, func(s Stroke) bool { return s.Family == i })
			text := fmt.Sprintf("%s: %d strokes", m.name(), n)
			if len(l.Families) > 1 {
				text = fmt.Sprintf("%s, family %d: %d strokes", m.name(), i+1, n)
			}
			b.lines(m, LineStroke, text, fmt.Sprintf("%.1f mm wide, %.1f mm deep, at %.0f°%s", f.Width, f.Depth, f.Angle, through(l)), tool("line", f.Width), n, mm)
		}
		if l.Buff > 0 {
			b.step(Step{Action: Buffing, Layer: m.From, Text: "Buff the lines", Detail: fmt.Sprintf("round their edges by about %.1f mm", l.Buff), Count: 1, Unit: "pass"})
		}
		if n := len(m.Lumps); n > 0 {
			b.step(Step{Action: Lump, Layer: m.From, Text: fmt.Sprintf("Set %d lumps into the cells", n), Detail: fmt.Sprintf("%.1f mm high", l.Lumps.Height), Count: n, Unit: "lumps", Tool: "lump"})
		}
		if n, mm := count(m.Rescored, nil); n > 0 {
			b.lines(m, ScoreAgain, fmt.Sprintf("Score %d lines again", n), fmt.Sprintf("%.1f mm wide, %.1f mm deep, left sharp", l.Rescore.Width, l.Rescore.Depth), tool("re-score", l.Rescore.Width), n, mm)
		}
	case "cracks":
		n, mm := count(m.Strokes, nil)
		b.lines(m, CrackEdge, fmt.Sprintf("%s: %d edges", m.name(), n), fmt.Sprintf("%.1f mm wide, %.1f mm deep%s", or(l.Width, 0.8), or(l.Depth, Span{0.7, 0.7})[0], through(l)), tool("crack", or(l.Width, 0.8)), n, mm)
	case "wrinkles", "lines":
		n, mm := count(m.Strokes, nil)
		b.lines(m, Wrinkle, fmt.Sprintf("%s: %d strokes", m.name(), n), fmt.Sprintf("%.1f mm wide, %.1f mm deep", or(l.Width, 1.5), or(l.Depth, Span{0.8, 0.8})[0]), tool("wrinkle", or(l.Width, 1.5)), n, mm)
	case "pores", "droplets", "barnacles", "rot":
		b.spots(m)
	case "field":
		b.step(Step{Key: b.where + " field", Action: SetForm, Layer: m.From, Text: m.name(), Detail: "Carve or mill it from the height field; its time is not known.", Unit: "relief"})
	}
}

func count(strokes []Stroke, pass func(Stroke) bool) (n int, mm float64) {
	for _, s := range strokes {
		if pass == nil || pass(s) {
			n++
			mm += s.Length()
		}
	}
	return n, mm
}

func (b *worker) lines(m *Marks, a Action, text, detail, tool string, n int, mm float64) {
	if n == 0 {
		return
	}
	b.w.Strokes += n
	detail += fmt.Sprintf(", %.1f m in all", mm/1000)
	b.step(Step{Action: a, Layer: m.From, Text: text, Detail: detail, Count: n, Unit: "strokes", MM: mm, Tool: tool})
}

// rows are pressed one by one.
func (b *worker) rows(m *Marks) {
	for i := 0; i < len(m.Impressions); {
		j := i
		for j < len(m.Impressions) && m.Impressions[j].Row == m.Impressions[i].Row {
			j++
		}
		b.row(m, m.Impressions[i:j])
		i = j
	}
}

func (b *worker) row(m *Marks, pressed []Impression) {
	st := m.Stamps[pressed[0].Stamp]
	ends := map[byte]int{}
	for _, p := range pressed {
		ends[p.End]++
	}
	detail := ""
	if st.EndsDiffer() {
		detail = fmt.Sprintf("%d with end A, %d with end B", ends['A'], ends['B'])
	}
	if m.layer.RotJitter > 0 {
		detail = strings.TrimPrefix(detail+fmt.Sprintf(", turned up to %.0f°", m.layer.RotJitter), ", ")
	}
	n := len(pressed)
	b.w.Presses += n
	b.step(Step{Action: Press, Layer: m.From, Text: fmt.Sprintf("Row %d, %.3g mm%s", pressed[0].Row+1, math.Round(10*st.Width())/10, through(&m.layer)), Detail: detail, Count: n, Unit: "presses", Tool: "stamp " + st.ID, Stamp: st.ID, Row: pressed[0].Row + 1})
}

// bores are needles; a drop spreads to about twice its needle's bore.
var bores = []float64{0.2, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.3, 1.6}

func (b *worker) spots(m *Marks) {
	n := len(m.Spots)
	if n == 0 {
		return
	}
	b.w.Spots += n
	action, unit := map[string]Action{"pores": Pore, "droplets": Droplet, "barnacles": Barnacle, "rot": RotHole}[m.Kind], map[string]string{"pores": "pores", "droplets": "drops", "barnacles": "barnacles", "rot": "holes"}[m.Kind]
	detail := ""
	if m.Kind == "pores" || m.Kind == "droplets" {
		times := map[string]float64{"pores": 1, "droplets": 2}[m.Kind]
		counts := make([]int, len(bores))
		for _, s := range m.Spots {
			i := 0
			// The next bore is nearer by ratio beyond the mean of both.
			for i+1 < len(bores) && s.Diameter > times*math.Sqrt(bores[i]*bores[i+1]) {
				i++
			}
			counts[i]++
		}
		for i, c := range counts {
			if c > 0 {
				word := "needle"
				if m.Kind == "droplets" {
					word = "bore"
				}
				text := fmt.Sprintf("%d with %.1f mm %s", c, bores[i], word)
				b.w.Needles = append(b.w.Needles, Needle{m.From, bores[i], text, c})
				detail = strings.TrimPrefix(detail+", "+text, ", ")
			}
		}
	} else {
		lo, hi := math.Inf(1), 0.0
		for _, s := range m.Spots {
			lo, hi = math.Min(lo, s.Diameter), math.Max(hi, s.Diameter)
		}
		detail = fmt.Sprintf("%.1f to %.1f mm across", lo, hi)
	}
	b.step(Step{Action: action, Layer: m.From, Text: fmt.Sprintf("%s: %d", m.name(), n), Detail: detail, Count: n, Unit: unit, Tool: m.Kind})
}

// sags makes the lower rims of holes hang where gravity was set.
func (b *worker) sags() {
	g := b.sheet.Recipe.Gravity
	if g == nil || g.Sag <= 0 {
		return
	}
	n := 0
	for _, m := range b.sheet.Layers {
		if m.Kind == "rot" || m.Kind == "barnacles" {
			n += len(m.Spots)
		}
	}
	if n > 0 {
		b.where = "sag"
		b.step(Step{Action: SagRims, Layer: -1, Text: fmt.Sprintf("Let %d lower rims hang", n), Detail: fmt.Sprintf("%.0f %% thicker below than above; leave a few thin strands", 100*g.Sag), Count: n, Unit: "rims"})
	}
}

// passes soften what was made.
func (b *worker) passes() {
	for i, p := range b.sheet.Recipe.Passes {
		detail := Residue(p.Tool).Words
		b.step(Step{Key: fmt.Sprintf("pass %d %s %d", i+1, p.Tool, p.Times), Action: Pass, Layer: -1, Text: p.Tool, Detail: detail, Count: p.Times, Unit: "passes"})
	}
}

// stamps are those that are pressed, with what making them saves.
func (b *worker) stamps() {
	at := map[string]int{}
	for _, m := range b.sheet.Layers {
		for _, p := range m.Impressions {
			st := m.Stamps[p.Stamp]
			i, known := at[st.ID]
			if !known {
				i = len(b.w.Stamps)
				at[st.ID] = i
				b.w.Stamps = append(b.w.Stamps, b.need(st, &m.layer))
			}
			if p.End == 'A' {
				b.w.Stamps[i].PressA++
			} else {
				b.w.Stamps[i].PressB++
			}
		}
	}
	for i := range b.w.Stamps {
		n := &b.w.Stamps[i]
		if n.SquashB != n.Squash && n.PressA > 0 && n.PressB > 0 {
			n.Ends = 2
		}
	}
}

// BreakEven is from how many presses on making a stamp takes less time than
// carving the same scales by hand.
func BreakEven(t Times) int {
	return int(math.Ceil(MakeStampS / math.Max(0.1, t[Carve].Each-t[Press].Each)))
}

func (b *worker) need(st Stamp, l *Layer) StampNeed {
	n := StampNeed{ID: st.ID, OD: st.OD, Squash: st.Squash, SquashB: st.squashB(), Ends: 1, MakeS: MakeStampS}
	a, h := st.axes('A')
	n.AWidth, n.AHeight = 2*a, 2*h
	a, h = st.axes('B')
	n.BWidth, n.BHeight = 2*a, 2*h
	n.HollowMM = or(l.Depth, Span{0.5, 0.5})[0] + l.Dome
	return n
}

// cautions for those who do it.
func (b *worker) cautions() {
	add := func(s string) { b.w.Cautions = append(b.w.Cautions, s) }
	if len(b.w.Stamps) > 0 {
		add("Cutting and filing tube: clamp it, cut away from the hand, wear eye protection; sand fillers wet or with extraction and a respirator of the right class. The filler's safety data sheet decides.")
	}
	for _, p := range b.sheet.Recipe.Passes {
		if r := Residue(p.Tool); r.Fire {
			add(FireCaution)
			break
		}
	}
	if len(b.w.Needles) > 0 {
		add("Needles: blunt ones where they do, a cap and a sharps box for the others.")
	}
}
