package mix

import "yewmoor/internal/craft/refusal"

// nowhere is the volume of what was asked for by its mass.
var nowhere = Volume{Routes: []Route{}, Disagree: []string{}}

// Question is "how many grams?" as the amount form asks it.
type Question struct {
	Clay *struct {
		BeforeG    float64 `json:"before_g"`
		AfterG     float64 `json:"after_g"`
		ReclaimedG float64 `json:"reclaimed_g,omitempty"`
		Density    float64 `json:"density,omitempty" doc:"g/cm³; 1.6 when left out"`
	} `json:"clay,omitempty"`
	Water *struct {
		FullG  float64 `json:"full_g"`
		EmptyG float64 `json:"empty_g"`
		CoreML float64 `json:"core_ml,omitempty"`
		TempC  float64 `json:"temp_c,omitempty" doc:"20 when left out"`
	} `json:"water,omitempty"`
	Area *struct {
		AreaCM2 float64 `json:"area_cm2"`
		MeanMM  float64 `json:"mean_mm"`
	} `json:"area,omitempty"`
	// Scan is the volume between two scans, or of a body that was put under
	// water: what is known in ml already.
	Scan *struct {
		VolumeML float64 `json:"volume_ml"`
	} `json:"scan,omitempty"`
	// Each is what one copy takes, wet, as its section works it out; Mass is the whole
	// that somebody wants.
	Each *struct {
		Grams float64 `json:"grams"`
	} `json:"each,omitempty"`
	Mass *struct {
		Grams float64 `json:"grams"`
	} `json:"mass,omitempty"`
	Copies  int     `json:"copies"`
	Spare   int     `json:"spare"`
	Waste   float64 `json:"waste" doc:"share on top, 0.15 is usual"`
	Density float64 `json:"density" doc:"of the finished material, g/ml"`
}

// Answer is the amount with what it was worked out from.
type Answer struct {
	Amount
	Volume Volume `json:"volume"`
}

// Work answers the question.
func (a Question) Work() (Answer, error) {
	var routes []Route
	add := func(r Route, err error) error {
		if err == nil {
			routes = append(routes, r)
		}
		return err
	}
	if c := a.Clay; c != nil {
		density := c.Density
		if density == 0 {
			density = ClayDensity
		}
		if err := add(Clay(c.BeforeG, c.AfterG, c.ReclaimedG, density)); err != nil {
			return Answer{}, err
		}
	}
	if w := a.Water; w != nil {
		temp := w.TempC
		if temp == 0 {
			temp = 20
		}
		if err := add(WaterFill(w.FullG, w.EmptyG, w.CoreML, temp)); err != nil {
			return Answer{}, err
		}
	}
	if r := a.Area; r != nil {
		if err := add(AreaThickness(r.AreaCM2, r.MeanMM)); err != nil {
			return Answer{}, err
		}
	}
	if s := a.Scan; s != nil {
		if err := add(Scanned(s.VolumeML)); err != nil {
			return Answer{}, err
		}
	}
	if m := a.Mass; m != nil {
		if !(m.Grams > 0) || m.Grams > 1e6 {
			return Answer{}, refusal.New(refusal.OutOfRange, "mass.grams", "How much? Above zero.")
		}
		pours := max(1, a.Copies+a.Spare)
		return Answer{Amount{Grams: m.Grams, PerCopy: m.Grams / float64(pours), Pours: pours}, nowhere}, nil
	}
	if e := a.Each; e != nil {
		if !(e.Grams > 0) || e.Grams > 1e6 {
			return Answer{}, refusal.New(refusal.OutOfRange, "each.grams", "What one copy takes must be above zero.")
		}
		out, err := HowMuch(Need{VolumeML: e.Grams, Density: 1, Copies: a.Copies, Spare: a.Spare, Waste: a.Waste})
		return Answer{out, nowhere}, err
	}
	volume, err := Combine(routes)
	if err != nil {
		return Answer{}, err
	}
	out, err := HowMuch(Need{VolumeML: volume.MeanML, Copies: a.Copies, Spare: a.Spare, Waste: a.Waste, Density: a.Density})
	return Answer{out, volume}, err
}
