package texture

// Action is one movement of the hand that is counted and timed.
type Action string

// Actions of the handbook (section 5), and those of ours after them.
const (
	Press      Action = "press"
	LineStroke Action = "stroke"
	ScoreAgain Action = "rescore"
	Wrinkle    Action = "wrinkle"
	CrackEdge  Action = "crack"
	Pore       Action = "pore"
	Droplet    Action = "droplet"
	Barnacle   Action = "barnacle"
	RotHole    Action = "hole"
	Buffing    Action = "buff"
	ToolChange Action = "tool_change"
	FilmLaid   Action = "film"
	Lump       Action = "lump"
	Pass       Action = "pass"
	SetForm    Action = "form"
	Leave      Action = "leave"
	SagRims    Action = "sag"
	Carve      Action = "carve"
)

// Time is how long an action takes: Each for every one, and a speed where a
// line is drawn, or per cm² where a surface is gone over.
type Time struct {
	Each    float64    `json:"each_s"`
	MMPerS  float64    `json:"mm_per_s,omitempty"`
	Range   [2]float64 `json:"range" doc:"of trained hands, as a share of this"`
	Text    string     `json:"text"`
	PerCM2  bool       `json:"per_cm2,omitempty"`
	Learned int        `json:"learned" doc:"how many of them this person has timed; 0 is the handbook's figure"`
}

// Times are a hand's, by action.
type Times map[Action]Time

// Hands are the times of a trained hand when nobody has timed their own. The
// first twelve are the handbook's estimates; lumps, passes, hanging rims and a
// scale carved by hand are ours.
func Hands() Times {
	return Times{
		Press:      {Each: 2.5, Range: [2]float64{0.6, 2}, Text: "stamp press"},
		LineStroke: {Each: 1.5, MMPerS: 30, Range: [2]float64{0.6, 2}, Text: "line stroke"},
		ScoreAgain: {Each: 2, MMPerS: 25, Range: [2]float64{0.6, 2}, Text: "stroke scored again"},
		Wrinkle:    {Each: 6, MMPerS: 10, Range: [2]float64{0.6, 2}, Text: "wrinkle or vein"},
		CrackEdge:  {Each: 4, MMPerS: 12, Range: [2]float64{0.6, 2}, Text: "edge of a crack"},
		Pore:       {Each: 0.8, Range: [2]float64{0.5, 1.75}, Text: "pore, by needle"},
		Droplet:    {Each: 1.2, Range: [2]float64{0.67, 2.5}, Text: "droplet"},
		Barnacle:   {Each: 60, Range: [2]float64{0.5, 3}, Text: "barnacle"},
		RotHole:    {Each: 45, Range: [2]float64{0.44, 2.7}, Text: "rot hole"},
		Buffing:    {Each: 0.3, PerCM2: true, Range: [2]float64{0.5, 2}, Text: "buffing pass"},
		ToolChange: {Each: 30, Range: [2]float64{0.5, 2}, Text: "tool change"},
		FilmLaid:   {Each: 0.6, PerCM2: true, Range: [2]float64{0.5, 2}, Text: "film laid"},
		Lump:       {Each: 6, Range: [2]float64{0.5, 2}, Text: "lump set in a cell"},
		Pass:       {Each: 0.5, PerCM2: true, Range: [2]float64{0.4, 3}, Text: "softening pass"},
		SagRims:    {Each: 20, Range: [2]float64{0.5, 2}, Text: "lower rim made to hang"},
		Carve:      {Each: 25, Range: [2]float64{0.6, 2.5}, Text: "scale carved by hand"},
	}
}

// Rest is the share of time on top in which a hand does nothing.
const Rest = 1.25

// MakeStampS is how long one stamp takes to make.
const MakeStampS = 600

// ClayDensity of oil clay, g/cm³ (handbook, materials).
const ClayDensity = 1.6

// Timed is what somebody needed for a step.
type Timed struct {
	Action   Action
	Count    int
	PlannedS float64 // by the handbook's times, without Rest
	ActualS  float64
}

// learnFrom is how many actions weigh as much as the handbook's figure.
const learnFrom = 10

// Learn bends the handbook's times to what a hand needed: ten timed actions
// weigh as much as the handbook does, and none counts for more than its share
// of the range allows tenfold.
func Learn(log []Timed) Times {
	own := Hands()
	sums := map[Action]*struct{ planned, actual, count float64 }{}
	for _, t := range log {
		if t.Count <= 0 || !(t.PlannedS > 0) || !(t.ActualS > 0) || t.ActualS > 20*t.PlannedS+3600 {
			continue
		}
		if sums[t.Action] == nil {
			sums[t.Action] = &struct{ planned, actual, count float64 }{}
		}
		s := sums[t.Action]
		s.planned, s.actual, s.count = s.planned+t.PlannedS, s.actual+t.ActualS, s.count+float64(t.Count)
	}
	for action, s := range sums {
		t, known := own[action]
		if !known {
			continue
		}
		ratio := (learnFrom + s.count*s.actual/Rest/s.planned) / (learnFrom + s.count)
		t.Each *= ratio
		t.MMPerS /= ratio
		t.Learned = int(s.count)
		own[action] = t
	}
	return own
}

// for n actions with a length together, in seconds without rest.
func (t Time) spent(n int, mm, cm2 float64) float64 {
	if t.PerCM2 {
		return t.Each * cm2 * float64(n)
	}
	s := t.Each * float64(n)
	if t.MMPerS > 0 {
		s += mm / t.MMPerS
	}
	return s
}
