// Package injury is how a skin looks that was hurt: by what happened, how long ago and how
// deep, as offsets of the blood, its oxygen, the yellow and the melanin of that very skin.
// The courses are ours, drawn for the eye of a camera from what is generally taught; no
// injury is dated by them, and nobody is treated by them.
package injury

import (
	"math"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/refusal"
)

// Shift is what is different from the skin around: blood times, oxygen, yellow and melanin
// more or less, scattering times.
type Shift struct {
	BloodX, Oxygen, Yellow, Melanin, ScatterX float64
}

var none = Shift{1, 0, 0, 0, 1}

// Zone is a part of an injury, from the middle out, at a time. EdgeMM is how softly it
// passes into the next; Share of the injury's radius where it ends. Crust is blood that
// dried on it, mm.
type Zone struct {
	Name    string  `json:"name"`
	Share   float64 `json:"share" doc:"of the radius, where it ends"`
	EdgeMM  float64 `json:"edge_mm" doc:"how softly it passes into what lies around"`
	CrustMM float64 `json:"crust_mm,omitempty" doc:"of dried blood on it"`
	Blood   string  `json:"blood,omitempty" doc:"which of the library's bloods lies on it"`
	shift   Shift
}

// Coloured is a zone as it looks on a skin.
type Coloured struct {
	Zone
	Lab  colour.Lab      `json:"lab"`
	Off  float64         `json:"de00" doc:"from the skin around"`
	R    colour.Spectrum `json:"-"`
	Skin colour.Skin     `json:"skin" doc:"the parameters behind it, without what lies on it"`
}

// Kind is one kind of injury with its course.
type Kind struct {
	ID     string    `json:"id" enum:"bruise,burn,cut,scab,frost"`
	Text   string    `json:"text"`
	StageH []float64 `json:"stages_h" doc:"hours after which it looks markedly different"`
	Words  []string  `json:"stages" doc:"what each of them is called"`
	LastH  float64   `json:"last_h" doc:"when nothing is left of a shallow one, hours"`
	zones  []zone
	// Order is how it is painted, lowest first.
	Order []string `json:"order" doc:"how it is painted, lowest first"`
}

type zone struct {
	name          string
	share, edgeMM float64
	course        []at
	crust         []crust
}

type at struct {
	hours float64
	Shift
}

type crust struct {
	hours, mm float64
	blood     string
}

// Kinds are the injuries in their order.
var Kinds = []Kind{
	{ID: "bruise", Text: "bruise", LastH: 400, StageH: []float64{1, 36, 130, 220},
		Words: []string{"fresh", "two days", "five days", "nine days"},
		Order: []string{"yellow around", "red", "violet or blue-black in the middle", "broken vessels"},
		zones: []zone{
			{"middle", 0.45, 6, []at{{0.2, Shift{3, 0.1, 0, 0, 1}}, {12, Shift{4.5, -0.35, 0, 0, 0.95}},
				{40, Shift{6, -0.7, 0, 0.01, 0.9}},
				{110, Shift{3.2, -0.6, 5, 0.005, 0.95}}, {180, Shift{1.2, -0.1, 12, 0, 1}}, {280, Shift{1, 0, 6, 0, 1}}, {400, none}}, nil},
			{"around", 0.8, 10, []at{{0.2, Shift{2, 0.1, 0, 0, 1}}, {12, Shift{3, -0.1, 0, 0, 1}}, {40, Shift{3.4, -0.45, 0.6, 0, 1}},
				{110, Shift{1.4, -0.2, 9, 0, 1}}, {180, Shift{1, 0, 9, 0, 1}}, {280, Shift{1, 0, 4, 0, 1}}, {400, none}}, nil},
			{"rim", 1, 16, []at{{0.2, Shift{1.4, 0.05, 0, 0, 1}}, {12, Shift{1.6, 0, 0, 0, 1}}, {40, Shift{1.4, -0.1, 1.5, 0, 1}},
				{110, Shift{1, 0, 4, 0, 1}}, {180, Shift{1, 0, 2.6, 0, 1}}, {280, Shift{1, 0, 0.7, 0, 1}}, {400, none}}, nil},
		}},
	{ID: "burn", Text: "burn", LastH: 1500, StageH: []float64{1, 30, 170, 700},
		Words: []string{"fresh", "a day", "a week", "a month"},
		Order: []string{"red over all, soft rim", "pale or yellow where it is deep", "wet shine", "dark where it charred"},
		zones: []zone{
			{"middle", 0.5, 3, []at{{0.2, Shift{4.5, 0.2, 0, 0, 1}}, {6, Shift{4, 0.2, 0.4, 0, 1}}, {24, Shift{1.2, 0.1, 2.5, 0, 1.25}},
				{160, Shift{3.5, -0.1, 1.5, 0.02, 0.95}},
				{700, Shift{2.2, 0, 0.2, -0.01, 1.1}}, {1500, Shift{1.2, 0, 0, -0.01, 1.05}}}, nil},
			{"around", 1, 8, []at{{0.2, Shift{3.4, 0.2, 0, 0, 1}}, {24, Shift{3, 0.15, 0.3, 0, 1}}, {160, Shift{1.7, 0, 0.3, 0.015, 1}},
				{700, Shift{1.2, 0, 0, 0.02, 1}}, {1500, none}}, nil},
		}},
	{ID: "cut", Text: "cut", LastH: 2200, StageH: []float64{0.5, 30, 150, 800},
		Words: []string{"fresh", "a day", "a week", "a scar"},
		Order: []string{"red rim", "dark in the depth", "blood", "shine"},
		zones: []zone{
			{"depth", 0.35, 0.4, []at{{0.1, Shift{9, -0.1, 0, 0, 0.9}}, {24, Shift{8, -0.5, 0, 0, 0.9}},
				{150, Shift{5, -0.4, 0.3, 0.02, 0.95}},
				{400, Shift{3, 0.1, 0, -0.01, 1}}, {1200, Shift{1.6, 0.1, 0, -0.02, 1.1}}, {2200, Shift{0.9, 0, 0, -0.02, 1.15}}},
				[]crust{{0.1, 0.3, "arterial"}, {8, 0.25, "aged"}, {30, 0.4, "scab"}, {200, 0.2, "scab"}, {300, 0, "scab"}}},
			{"rim", 1, 4, []at{{0.1, Shift{2.2, 0.15, 0, 0, 1}}, {24, Shift{2.8, 0.15, 0.2, 0, 1}}, {150, Shift{1.8, 0.05, 0.4, 0, 1}},
				{400, Shift{1.2, 0, 0, 0, 1}}, {1200, none}}, nil},
		}},
	{ID: "scab", Text: "graze with a scab", LastH: 500, StageH: []float64{4, 30, 120, 260},
		Words: []string{"weeping", "a day", "five days", "falling off"},
		Order: []string{"pink ground", "red around", "crust in flecks, darkest in the middle"},
		zones: []zone{
			{"crust", 0.7, 1, []at{{0.2, Shift{5, 0.15, 0.4, 0, 1}}, {24, Shift{5, -0.2, 0.5, 0, 1}}, {120, Shift{4, -0.1, 0.3, 0, 1}},
				{260, Shift{2.2, 0.15, 0, -0.01, 1.05}}, {500, none}},
				[]crust{{0.2, 0.05, "venous"}, {12, 0.2, "aged"}, {36, 0.45, "scab"}, {150, 0.35, "scab"}, {240, 0.1, "scab"},
					{300, 0, "scab"}}},
			{"around", 1, 6, []at{{0.2, Shift{2.2, 0.15, 0, 0, 1}}, {24, Shift{2.4, 0.1, 0.2, 0, 1}}, {120, Shift{1.5, 0.05, 0.2, 0, 1}},
				{260, Shift{1.15, 0, 0, 0, 1}}, {500, none}}, nil},
		}},
	{ID: "frost", Text: "frostbite", LastH: 900, StageH: []float64{1, 20, 90, 500},
		Words: []string{"frozen", "thawed", "days", "weeks"},
		Order: []string{"pale ground", "grey-blue", "red rim where it thawed", "black where it died"},
		zones: []zone{
			{"middle", 0.55, 5, []at{{0.2, Shift{0.2, -0.2, 0.6, 0, 1.3}}, {10, Shift{0.5, -0.5, 0.4, 0, 1.2}},
				{24, Shift{4, -0.6, 0.3, 0, 1}},
				{100, Shift{6, -0.7, 0.3, 0.12, 0.85}}, {500, Shift{3, -0.6, 0.2, 0.3, 0.8}}, {900, Shift{2, -0.3, 0, 0.2, 0.9}}}, nil},
			{"around", 1, 9, []at{{0.2, Shift{0.4, -0.2, 0.3, 0, 1.15}}, {10, Shift{1.2, -0.2, 0.2, 0, 1.05}},
				{24, Shift{3, 0.05, 0, 0, 1}},
				{100, Shift{2, -0.1, 0.4, 0.01, 1}}, {500, Shift{1.3, 0, 0.2, 0.01, 1}}, {900, none}}, nil},
		}},
}

// flakeMM is how thin dried blood is before it falls off in flakes.
const flakeMM = 0.2

// Find is a kind by its id.
func Find(id string) (Kind, bool) {
	for _, k := range Kinds {
		if k.ID == id {
			return k, true
		}
	}
	return Kind{}, false
}

// Depths: 0 is a touch that hardly shows, 1 what goes through the skin.
const (
	usualDepth = 0.5
	slower     = 0.6 // how much longer the deepest takes than one in between
)

// Of is how an injury looks on a skin so many hours after, zone by zone from the middle
// out. depth runs from 0 to 1, 0.5 being usual: a deeper one differs more and heals later.
// Refusals at kind, hours, depth.
func Of(kind string, hours, depth float64, skin colour.Spectrum) ([]Coloured, error) {
	k, known := Find(kind)
	switch {
	case !known:
		return nil, refusal.New(refusal.UnknownValue, "kind", "There is no course of a “%.20s”.", kind)
	case !(hours >= 0 && hours <= 24*365):
		return nil, refusal.New(refusal.OutOfRange, "hours", "An injury is up to a year old here.")
	case !(depth >= 0 && depth <= 1):
		return nil, refusal.New(refusal.OutOfRange, "depth", "Depth runs from 0 to 1.")
	}
	around := skin.Lab(colour.D65)
	from := asDark(around)
	base := from.Reflectance()
	pace := 1 + slower*(depth/usualDepth-1)
	age := hours / math.Max(0.2, pace)
	out := make([]Coloured, len(k.zones))
	for i, z := range k.zones {
		sh := z.at(age).times(depth / usualDepth)
		to := from.Shifted(sh.BloodX, sh.Oxygen, sh.Yellow, sh.Melanin, sh.ScatterX)
		now := to.Reflectance()
		c := Coloured{Zone: Zone{z.name, z.share, z.edgeMM, 0, "", sh}, Skin: to}
		for b := range c.R {
			// The measured skin stays what it is where nothing happened to it.
			c.R[b] = math.Min(0.9995, math.Max(0.0005, skin[b]*now[b]/base[b]))
		}
		mm, blood := z.crustAt(age)
		if mm *= depth / usualDepth; mm > 0.005 {
			over, err := colour.BloodOver(blood, math.Max(mm, flakeMM), &c.R)
			if err != nil {
				return nil, err
			}
			// Thinner than that it lies in flakes.
			covers := math.Min(1, mm/flakeMM)
			for b := range c.R {
				c.R[b] += covers * (over[b] - c.R[b])
			}
			c.CrustMM, c.Blood = mm, blood
		}
		c.Lab = c.R.Lab(colour.D65)
		c.Off = colour.DE00(c.Lab, around)
		out[i] = c
	}
	return out, nil
}

// asDark is a usual skin that is as dark. What an injury changes is told by it and laid on
// the skin that was measured: a reading that is redder or yellower than skins are is fitted
// with so much blood or yellow that more of them would change nothing.
func asDark(c colour.Lab) colour.Skin {
	ita, _, ok := c.ITA()
	if !ok {
		ita = c.L - 50
	}
	s, err := colour.UsualSkin.AtITA(math.Min(75, math.Max(-79, ita)))
	if err != nil {
		return colour.UsualSkin
	}
	return s
}

// at is the shift at a time: between two marks by the logarithm of the hours.
func (z zone) at(hours float64) Shift {
	t := math.Max(hours, 0.05)
	c := z.course
	if t <= c[0].hours {
		return c[0].Shift
	}
	for i := 1; i < len(c); i++ {
		if t > c[i].hours {
			continue
		}
		f := math.Log(t/c[i-1].hours) / math.Log(c[i].hours/c[i-1].hours)
		mix := func(a, b float64) float64 { return a + f*(b-a) }
		a, b := c[i-1].Shift, c[i].Shift
		return Shift{mix(a.BloodX, b.BloodX), mix(a.Oxygen, b.Oxygen), mix(a.Yellow, b.Yellow), mix(a.Melanin, b.Melanin),
			mix(a.ScatterX, b.ScatterX)}
	}
	return c[len(c)-1].Shift
}

// times makes a shift larger or smaller.
func (s Shift) times(d float64) Shift {
	return Shift{math.Pow(s.BloodX, d), s.Oxygen * d, s.Yellow * d, s.Melanin * d, math.Pow(s.ScatterX, d)}
}

func (z zone) crustAt(hours float64) (mm float64, blood string) {
	for i, c := range z.crust {
		if hours < c.hours || i == len(z.crust)-1 {
			if i == 0 {
				return c.mm, c.blood
			}
			if hours >= c.hours {
				return c.mm, c.blood
			}
			b := z.crust[i-1]
			f := (hours - b.hours) / (c.hours - b.hours)
			blood = b.blood
			if f > 0.5 {
				blood = c.blood
			}
			return b.mm + f*(c.mm-b.mm), blood
		}
	}
	return 0, ""
}
