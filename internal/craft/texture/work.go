package texture

import (
	"fmt"
	"math"
	"slices"
	"unicode"
	"unicode/utf8"
)

// Step is one thing that is done and ticked.
type Step struct {
	// Key stays with what is asked for: the same step of the next version has
	// the same key, and one that asks for more or less has another.
	Key    string  `json:"key"`
	Action Action  `json:"action"`
	Layer  int     `json:"layer" doc:"index in the recipe; -1 for the whole"`
	Text   string  `json:"text"`
	Detail string  `json:"detail,omitempty"`
	Count  int     `json:"count"`
	Unit   string  `json:"unit" doc:"what is counted"`
	MM     float64 `json:"length_mm,omitempty"`
	HandsS float64 `json:"hands_s" doc:"with rest"`
	PlainS float64 `json:"plain_s" doc:"the handbook's time without rest, to learn from"`
	WaitS  float64 `json:"wait_s,omitempty"`
	Tool   string  `json:"tool,omitempty"`
	Stamp  string  `json:"stamp,omitempty"`
	Row    int     `json:"row,omitempty" doc:"from 1, from the bottom"`
	// changes is true where the tool is taken up for the first time.
	changes bool
}

// StampNeed is a stamp that has to be there.
type StampNeed struct {
	ID      string  `json:"id"`
	OD      float64 `json:"od_mm"`
	Squash  float64 `json:"squash"`
	SquashB float64 `json:"squash_b"`
	AWidth  float64 `json:"a_width_mm"`
	AHeight float64 `json:"a_height_mm"`
	BWidth  float64 `json:"b_width_mm"`
	BHeight float64 `json:"b_height_mm"`
	Ends    int     `json:"ends" doc:"ends that are used"`
	PressA  int     `json:"press_a"`
	PressB  int     `json:"press_b"`
	// Hollow is how deep an end is filled and hollowed, so that a scale stands
	// up in its middle.
	HollowMM float64 `json:"hollow_mm"`
	MakeS    float64 `json:"make_s"`
	CarveS   float64 `json:"carve_s" doc:"the same scales carved by hand"`
	PressS   float64 `json:"press_s"`
	// BreakEven is from how many presses on the stamp is worth its making.
	BreakEven int  `json:"break_even"`
	Worth     bool `json:"worth"`
}

// Needle is a count of drops or pores by the tool that makes them.
type Needle struct {
	Layer  int     `json:"layer"`
	BoreMM float64 `json:"bore_mm"`
	Text   string  `json:"text"`
	Count  int     `json:"count"`
}

// Work is what a texture asks of hands.
type Work struct {
	Steps    []Step      `json:"steps"`
	Stamps   []StampNeed `json:"stamps"`
	Needles  []Needle    `json:"needles"`
	Presses  int         `json:"presses"`
	Strokes  int         `json:"strokes"`
	LinesMM  float64     `json:"lines_mm"`
	Spots    int         `json:"spots"`
	Hours    float64     `json:"hours" doc:"of texture, in this hand's times"`
	LowHours float64     `json:"low_hours"`
	TopHours float64     `json:"top_hours"`
	MakeH    float64     `json:"make_stamps_hours"`
	AddG     float64     `json:"clay_add_g"`
	TakeG    float64     `json:"clay_take_g"`
	BodyG    float64     `json:"clay_body_g" doc:"under the texture, where the thickness is known"`
	Cautions []string    `json:"cautions"`
}

// work is what the marks ask of hands, in the handbook's times; see In.
func (s *Sheet) work(relief Relief) Work {
	w := Work{Steps: []Step{}, Stamps: []StampNeed{}, Needles: []Needle{}, Cautions: []string{}}
	b := worker{sheet: s, w: &w, tools: map[string]bool{}, keys: map[string]bool{}}
	b.step(Step{Key: "form", Action: SetForm, Layer: -1, Text: "The form is settled", Detail: "Proportions, edges and thickness first; texture hides nothing and is lost when the form moves.", Unit: "look"})
	b.film()
	for _, m := range b.largeFirst() {
		b.layer(m)
	}
	b.sags()
	b.passes()
	b.step(Step{Key: "leave", Action: Leave, Layer: -1, Text: "Leave it overnight, then powder and look", Detail: "Gaps, lost lines and thin spots show best on a rested, powdered surface.", Unit: "night", WaitS: 12 * 3600})
	b.stamps()
	for _, st := range w.Steps {
		w.LinesMM += st.MM
	}
	w.AddG, w.TakeG = relief.AddedMM3/1000*ClayDensity, relief.TakenMM3/1000*ClayDensity
	if t := s.Recipe.Thickness; t != nil && t.OverMM > 0 {
		w.BodyG = s.bodyMM3(*t) / 1000 * ClayDensity
	}
	b.cautions()
	hand, cm2 := Hands(), relief.AreaMM2/100
	for i := range w.Steps {
		st := &w.Steps[i]
		st.PlainS = hand[st.Action].spent(st.Count, st.MM, cm2)
	}
	return w.in(hand, cm2)
}

// In is the same judgement in the times of another hand. What was judged stays
// as it is.
func (j *Judged) In(times Times) *Judged {
	out := *j
	out.Work = j.Work.in(times, j.Relief.AreaMM2/100)
	out.Areas = slices.Clone(j.Areas)
	for i := range out.Areas {
		a := &out.Areas[i]
		a.Choices = slices.Clone(a.Choices)
		for k := range a.Choices {
			if c := &a.Choices[k]; c.By != "paint" && j.Work.Hours > 0 {
				c.Hours += a.share * (out.Work.Hours - j.Work.Hours)
			}
		}
	}
	return &out
}

// in times every step for a hand.
func (w Work) in(times Times, cm2 float64) Work {
	w.Steps, w.Stamps = slices.Clone(w.Steps), slices.Clone(w.Stamps)
	w.Hours, w.LowHours, w.TopHours, w.MakeH = 0, 0, 0, 0
	hand := Hands()
	for i := range w.Steps {
		st := &w.Steps[i]
		seconds := times[st.Action].spent(st.Count, st.MM, cm2)
		if st.changes {
			seconds += times[ToolChange].Each
		}
		st.HandsS = seconds * Rest
		r := hand[st.Action].Range
		if r[0] == 0 {
			r = [2]float64{1, 1}
		}
		if times[st.Action].Learned >= learnFrom {
			r = [2]float64{0.85, 1.2}
		}
		w.Hours += st.HandsS / 3600
		w.LowHours += r[0] * st.HandsS / 3600
		w.TopHours += r[1] * st.HandsS / 3600
	}
	// Chances of the steps partly even out: halfway to the sum of extremes.
	w.LowHours, w.TopHours = (w.Hours+w.LowHours)/2, (w.Hours+w.TopHours)/2
	for i := range w.Stamps {
		n := &w.Stamps[i]
		presses := n.PressA + n.PressB
		n.CarveS, n.PressS = times[Carve].Each*float64(presses), times[Press].Each*float64(presses)
		n.BreakEven = BreakEven(times)
		n.Worth = presses >= n.BreakEven
		w.MakeH += n.MakeS / 3600
	}
	return w
}

// bodyMM3 is the appliance's own volume under the relief.
func (s *Sheet) bodyMM3(t Thickness) float64 {
	f, sum := s.Field, 0.0
	// Pixels a mm apart are fine enough for a body that is smooth.
	n := max(1, int(math.Round(1/f.H)))
	for j := 0; j < f.NY; j += n {
		for i := 0; i < f.NX; i += n {
			if f.In[j*f.NX+i] {
				sum += t.At(s.Flat.shape.distance(P{f.x(i), f.y(j)})) * f.H * f.H * float64(n*n)
			}
		}
	}
	return sum
}

type worker struct {
	sheet *Sheet
	w     *Work
	tools map[string]bool
	keys  map[string]bool
	where string // key of the layer at work
}

// step adds a step.
func (b *worker) step(s Step) {
	first, size := utf8.DecodeRuneInString(s.Text)
	s.Text = string(unicode.ToUpper(first)) + s.Text[size:]
	if s.Tool != "" && !b.tools[s.Tool] {
		b.tools[s.Tool], s.changes = true, true
	}
	if s.Key == "" {
		s.Key = fmt.Sprintf("%s %s %d %.0f", b.where, s.Action, s.Count, s.MM)
		if s.Row > 0 {
			s.Key = fmt.Sprintf("%s row %d %s %d", b.where, s.Row, s.Stamp, s.Count)
		}
	}
	// Two families can ask for exactly as much: the later is told by its place.
	for plain, n := s.Key, 2; b.keys[s.Key]; n++ {
		s.Key = fmt.Sprintf("%s (%d)", plain, n)
	}
	b.keys[s.Key] = true
	b.w.Steps = append(b.w.Steps, s)
}
