package section

import (
	"math"
	"slices"

	"yewmoor/internal/craft/material"
)

// Room is the air a section is built in.
type Room struct {
	TempC float64 `json:"temp_c"`
	RH    float64 `json:"rh"`
}

// LayerResult is what follows for one band.
type LayerResult struct {
	ID       string  `json:"id"`
	CentreMM float64 `json:"centre_mm"`
	EdgeMM   float64 `json:"edge_mm"`
	MeanMM   float64 `json:"mean_mm" doc:"over the area of the cut"`
	CoatMM   float64 `json:"coat_mm,omitempty" doc:"height that one coat adds, dry"`
	MassG    float64 `json:"mass_g" doc:"as it is worn"`
	WetG     float64 `json:"wet_g" doc:"as it is drawn from its lot for one copy, without waste"`
	HandsS   float64 `json:"hands_s" doc:"hands-on, our own figures until the log has its own"`
	WaitS    float64 `json:"wait_s" doc:"closed form: drying, curing, setting at the room given"`
	Minor    int64   `json:"cost_minor" doc:"what is drawn for one copy, in hundredths, without waste"`
	// WashedS is when foam is dry after it was washed and squeezed out, s.
	WashedS float64 `json:"washed_s,omitempty" doc:"foam: drying before a fan after it was washed"`
	// For latex: one coat's recoat time and the whole layer's dry time, with
	// each coat dried first and as planned; closed form, band -30/+50 %.
	RecoatS float64 `json:"recoat_s,omitempty"`
	DryS    float64 `json:"dry_s,omitempty"`
	WetS    float64 `json:"wet_on_wet_s,omitempty" doc:"the layer's dry time when its coats are put on wet"`
}

// MaterialNeed is how much of a product is drawn for one copy, without waste: wet,
// liquid, before it is whipped. Fibre has its area too.
type MaterialNeed struct {
	Slug    string  `json:"slug"`
	Name    string  `json:"name"`
	Grams   float64 `json:"grams"`
	CM2     float64 `json:"area_cm2,omitempty" doc:"of tissue, gauze or cotton, every coat of it"`
	Minor   int64   `json:"cost_minor"`
	Default bool    `json:"price_default" doc:"the price is the library's, not the shop's own"`
}

// CutResult is what follows for one cross-section.
type CutResult struct {
	ID       string  `json:"id"`
	Name     string  `json:"name"`
	CentreMM float64 `json:"centre_mm" doc:"of the piece itself, without what holds it on and what lies on top"`
	EdgeMM   float64 `json:"edge_mm"`
	WornG    float64 `json:"worn_g"`
	Family   string  `json:"family"`
}

// Bulk is what the body of a piece takes over all its cuts: the layers of the
// material that makes each cut's body, of one copy, without waste.
type Bulk struct {
	AreaCM2  float64 `json:"area_cm2" doc:"of skin, all cuts"`
	MeanMM   float64 `json:"mean_mm" doc:"over that area"`
	VolumeML float64 `json:"volume_ml"`
	Times    float64 `json:"times" doc:"how many times the drawn volume that is; 1 where the drawing is believed"`
}

// Result is what follows from a section.
type Result struct {
	CentreMM  float64        `json:"centre_mm" doc:"of the piece itself at its first cut, without what holds it on and what lies on top"`
	EdgeMM    float64        `json:"edge_mm" doc:"at its first cut"`
	WornG     float64        `json:"worn_g" doc:"everything above the skin"`
	HandsS    float64        `json:"hands_s" doc:"hands-on for one copy"`
	WaitingS  float64        `json:"waiting_s" doc:"drying and curing, at the room given"`
	Minor     int64          `json:"cost_minor" doc:"materials of one copy, in hundredths of the shop's money: the sum of its parts"`
	Cost      []CostPart     `json:"cost"`
	Layers    []LayerResult  `json:"layers" doc:"of every cut, in order"`
	Materials []MaterialNeed `json:"materials"`
	Family    string         `json:"family" doc:"the material that makes the body: its hatch"`
	Body      Bulk           `json:"body"`
	Words     []string       `json:"words" doc:"the build-up in words, skin first"`
	Cuts      []CutResult    `json:"cuts"`
	Steps     []Step         `json:"steps" doc:"the order of work"`
	Fits      []Fit          `json:"fits" doc:"each adhesive with its state at fitting"`
	EdgeWays  []string       `json:"edge_ways" doc:"how its edge is usually made to go, the first choice first"`
	MadeOn    string         `json:"made_on" enum:"skin,form,mould"`
}

// Of is what follows for a layer.
func (r Result) Of(id string) LayerResult {
	if i := slices.IndexFunc(r.Layers, func(l LayerResult) bool { return l.ID == id }); i >= 0 {
		return r.Layers[i]
	}
	return LayerResult{}
}

// WorkBy computes what follows from a checked section in a room when its body has
// the volume and the piece the area that are believed: mass, material, money and
// times follow them, the drawing stays what it is.
func (s Section) WorkBy(shelf material.Shelf, room Room, by Believed) Result {
	if by.AreaCM2 > 0 {
		if by.VolumeML == 0 {
			by.VolumeML = s.DrawnML(shelf) // another area does not make more of it
		}
		s = s.sized(by.AreaCM2)
	}
	volumeML := by.VolumeML
	out := Result{Layers: []LayerResult{}, Materials: []MaterialNeed{}, Words: []string{}, Cuts: []CutResult{}, MadeOn: s.MadeOn()}
	more := 1.0
	if drawn := s.DrawnML(shelf); volumeML > 0 && drawn > 0 {
		more = volumeML / drawn
	}
	out.Body.Times = more
	at := map[string]int{}
	fibre := int64(0)
	for n, c := range s.Cuts() {
		cut := CutResult{ID: c.ID, Name: c.Name, Family: string(c.Body(shelf))}
		first := "Skin."
		if c.Name != "" {
			first = "At the " + c.Name + ": skin."
		}
		out.Words = append(out.Words, first)
		for _, l := range c.Layers {
			r := LayerResult{ID: l.ID}
			if l.Kind != Skin {
				p := shelf[l.Material]
				body := l.Kind.IsAppliance() && string(p.Family) == cut.Family
				k := 1.0
				if body {
					k = more
				}
				r = l.work(c, s, shelf, room, k)
				if l.Kind.IsAppliance() {
					cut.CentreMM += r.CentreMM
					cut.EdgeMM += r.EdgeMM
				}
				if body {
					out.Body.VolumeML += c.AreaCM2 * r.MeanMM / 10
				}
				cut.WornG += r.MassG
				out.addMixed(at, l, r, shelf)
				if cm2 := l.FibreCM2(c); cm2 > 0 {
					f := shelf[l.Fibre]
					grams := l.FibreG(c, shelf)
					need := MaterialNeed{Grams: grams, CM2: cm2, Minor: price(grams, f)}
					out.add(at, f, need)
					fibre += need.Minor
				}
				out.Words = append(out.Words, l.words(shelf, r))
			}
			out.Layers = append(out.Layers, r)
		}
		if n == 0 {
			out.CentreMM, out.EdgeMM, out.Family = cut.CentreMM, cut.EdgeMM, cut.Family
		}
		out.Body.AreaCM2 += c.AreaCM2
		out.WornG += cut.WornG
		out.Cuts = append(out.Cuts, cut)
	}
	if out.Body.AreaCM2 > 0 {
		out.Body.MeanMM = 10 * out.Body.VolumeML / out.Body.AreaCM2
	}
	out.count(s, shelf, at, fibre)
	out.Steps = s.steps(shelf, out)
	for _, step := range out.Steps {
		out.HandsS += step.HandsS
		out.WaitingS += step.WaitS
	}
	out.Fits = s.fits(shelf, room)
	out.EdgeWays = append([]string{}, EdgeWays(s, shelf)...)
	return out
}

// work is what follows for a layer; k is how many times the drawn body is believed.
func (l Layer) work(c Cut, s Section, shelf material.Shelf, room Room, k float64) LayerResult {
	r := LayerResult{ID: l.ID, MeanMM: k * l.mean(c, shelf)}
	r.CentreMM, r.EdgeMM = l.Thickness(c, shelf)
	if l.Kind.Is() == Film {
		r.CoatMM = l.CoatBuiltMM(shelf)
	}
	r.MassG = l.mass(c, shelf, r.MeanMM)
	if l.Kind == Latex {
		r.MassG *= k // its mass goes by coats, not by the mean
	}
	r.WetG = l.wetG(c, shelf, r.MassG)
	if l.Kind == Latex {
		r.WetG *= k
	}
	for _, in := range Mixed(l.Material, l.With, r.WetG) {
		r.Minor += price(in.Grams, shelf[in.Material])
	}
	r.HandsS = l.hands(c)
	r.WaitS = l.wait(s, shelf, room, k*r.CentreMM, &r)
	return r
}

// hands is how long hands are busy with a layer, in s.
func (l Layer) hands(c Cut) float64 {
	k := kindIndex[l.Kind]
	area := c.AreaCM2 * c.ring(l.FromMM, l.end(c)) * l.sided()
	switch k.Nature {
	case Things:
		return k.each * math.Max(1, float64(l.Count))
	case Strand:
		if l.Method == "punched" { // 110 holes an hour, two hairs each
			return k.each + l.Hairs(c)/220*3600
		}
		return k.each + k.perCM2*area
	case Film:
		one := k.perCM2
		if l.Fibre != "" {
			one += 4
		}
		return one*c.AreaCM2*l.cover(c) + k.each*float64(l.MostCoats())
	}
	if l.Method == "direct" || l.Method == "dropped" { // spread by hand, no mould to fill
		return 120 + 6*area
	}
	return k.each + k.perCM2*area
}

// Body is the family that makes most of a cut: what its hatch shows.
func (c Cut) Body(shelf material.Shelf) material.Family {
	best, family := -1.0, material.Family("")
	for _, l := range c.Layers {
		if !l.Kind.IsAppliance() {
			continue
		}
		if centre, _ := l.Thickness(c, shelf); centre > best {
			best, family = centre, shelf[l.Material].Family
		}
	}
	return family
}
