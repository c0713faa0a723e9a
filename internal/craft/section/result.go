package section

import (
	"math"
	"slices"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/drying"
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
	MassG    float64 `json:"mass_g"`
	HandsS   float64 `json:"hands_s" doc:"hands-on, our own figures until the log has its own"`
	WaitS    float64 `json:"wait_s" doc:"closed form: drying, curing, setting at the room given"`
	Minor    int64   `json:"cost_minor" doc:"material of one copy in hundredths, without waste"`
	// For latex: one coat's recoat time and the whole layer's dry time, with
	// each coat dried first and as planned; closed form, band -30/+50 %.
	RecoatS float64 `json:"recoat_s,omitempty"`
	DryS    float64 `json:"dry_s,omitempty"`
	WetS    float64 `json:"wet_on_wet_s,omitempty" doc:"the layer's dry time when its coats are put on wet"`
}

// MaterialNeed is how much of a product one copy takes, as it is finished.
type MaterialNeed struct {
	Slug    string  `json:"slug"`
	Name    string  `json:"name"`
	Grams   float64 `json:"grams"`
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
}

// Result is what follows from a section.
type Result struct {
	CentreMM  float64        `json:"centre_mm" doc:"of the piece itself at its first cut, without what holds it on and what lies on top"`
	EdgeMM    float64        `json:"edge_mm" doc:"at its first cut"`
	WornG     float64        `json:"worn_g" doc:"everything above the skin"`
	HandsS    float64        `json:"hands_s" doc:"hands-on for one copy"`
	WaitingS  float64        `json:"waiting_s" doc:"drying and curing, at the room given"`
	Minor     int64          `json:"cost_minor" doc:"materials of one copy, in hundredths of the shop's money"`
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

// Work computes what follows from a checked section in a room.
func (s Section) Work(shelf material.Shelf, room Room) Result {
	out := Result{Layers: []LayerResult{}, Materials: []MaterialNeed{}, Words: []string{}, Cuts: []CutResult{}, MadeOn: s.MadeOn()}
	at := map[string]int{}
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
				r = l.work(c, s, shelf, room)
				if l.Kind.IsAppliance() {
					cut.CentreMM += r.CentreMM
					cut.EdgeMM += r.EdgeMM
				}
				if l.Kind.IsAppliance() && string(p.Family) == cut.Family {
					out.Body.VolumeML += c.AreaCM2 * r.MeanMM / 10
				}
				cut.WornG += r.MassG
				out.add(at, p, r)
				out.Words = append(out.Words, l.words(p, r))
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
	out.Steps = s.steps(shelf, out)
	for _, step := range out.Steps {
		out.HandsS += step.HandsS
		out.WaitingS += step.WaitS
	}
	out.Fits = s.fits(shelf, room)
	out.EdgeWays = append([]string{}, EdgeWays(s, shelf)...)
	return out
}

func (l Layer) work(c Cut, s Section, shelf material.Shelf, room Room) LayerResult {
	p := shelf[l.Material]
	r := LayerResult{ID: l.ID, MeanMM: l.mean(c, shelf)}
	r.CentreMM, r.EdgeMM = l.Thickness(c, shelf)
	if l.Kind.Is() == Film {
		r.CoatMM = l.CoatBuiltMM(shelf)
	}
	r.MassG = l.mass(c, shelf, r.MeanMM)
	r.Minor = int64(math.Round(r.MassG / 1000 * float64(p.PriceMinorKg)))
	r.HandsS = l.hands(c)
	r.WaitS = l.wait(s, shelf, room, &r)
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

// Waits that no model here gives, in s: common practice.
const (
	filmCoatS = 300   // one coat of encapsulator or sealer, touch-dry
	barrierS  = 240   // barrier film
	softFoamS = 2400  // demould of soft foam
	foamS     = 19800 // gel, bake 3 h and cool 2 h
	creamS    = 0     // cream is set with powder
	dripS     = 600   // thick blood and gels stand still
)

// wait is the drying, curing or setting after a layer, in s. For latex it
// fills in the times of its coats too.
func (l Layer) wait(s Section, shelf material.Shelf, room Room, r *LayerResult) float64 {
	p := shelf[l.Material]
	switch l.Kind {
	case Latex:
		return l.dry(shelf, s.dryIn(l, room), r)
	case Silicone:
		if p.Cure != nil {
			return demouldIn(*p.Cure, room.TempC)
		}
	case Encapsulator, Seal:
		return filmCoatS * float64(l.MostCoats())
	case Barrier, Preparation:
		return barrierS * float64(l.Coats)
	case Foam:
		return foamS
	case SoftFoam:
		return softFoamS
	case Gelatin:
		if p.Base != nil && l.Method != "dropped" {
			if s, ok := p.Base.DemouldS(math.Max(0.5, r.CentreMM)/1000, 60, room.TempC); ok {
				return s
			}
		}
		return 1800
	case Paste:
		if p.Family == material.LatexPaste {
			return l.pasteDry(shelf, room)
		}
		return p.SetS
	case Blood, WetLook:
		return dripS
	}
	if p.Film != "" {
		times, err := drying.Film(p.Film, room.TempC, room.RH)
		if err == nil {
			one := math.Max(times["dry"], times["tack_open"])
			return one * float64(max(1, l.MostCoats()))
		}
	}
	return creamS
}

// demouldIn is when a silicone may be taken out at a room's temperature, by the
// model that its pot on the shelf follows, s.
func demouldIn(sheet material.CureSheet, tempC float64) float64 {
	facts := cure.Facts{System: sheet.System, PotS: sheet.PotS, GelS: sheet.GelS, DemouldS: sheet.DemouldS, FullS: sheet.FullS, RefC: sheet.RefC}
	of, err := facts.Sheet()
	if err != nil {
		return sheet.DemouldS
	}
	// In one temperature the course is one rate; TestPanelAndPotAgree holds it to the
	// course along a log.
	return of.DemouldS / drying.Arrhenius(of.Energy, tempC, of.RefC)
}

func (l Layer) pasteDry(shelf material.Shelf, room Room) float64 {
	one := Layer{CoatMM: 1, Material: l.Material}.Wet(shelf)
	one.WetM = math.Min(8e-3, l.CentreMM/1000*one.WetM/one.DryThicknessM())
	e, err := drying.StillRoom(room.TempC, room.RH).Latex([]drying.Layer{one}, drying.EachDried)
	if err != nil {
		return 0
	}
	return e.DryS
}

// towardsSkinC is the warmest air that a dryer may blow at a wearer, °C.
const towardsSkinC = 45

// dryIn is where a layer's coats dry: on skin before a dryer that skin bears, on
// plaster that drinks, else on a form in the still air of the room, unless the
// layer says otherwise.
func (s Section) dryIn(l Layer, room Room) drying.Place {
	preset, side := s.DriesIn(l)
	return DryPlace(preset, side, room)
}

// DriesIn names where a layer's coats dry: the air over them and what is behind.
func (s Section) DriesIn(l Layer) (preset, side string) {
	side, preset = "form", "still"
	switch {
	case s.MadeOn() == OnSkin:
		side, preset = "skin", "warm_dryer"
	case s.MadeOn() == InMould && s.Made.Of == "gypsum" && !s.Made.Sealed:
		side = "plaster"
	}
	switch l.Air {
	case "still":
		preset = "still"
	case "dryer":
		preset = "warm_dryer"
	}
	return preset, side
}

// DryPlace is a place to dry in a room; a dryer blows no warmer than a wearer
// bears. Pots on the shelf take the same.
func DryPlace(preset, side string, room Room) drying.Place {
	p := drying.PlaceIn(preset, side, room.TempC, room.RH)
	if side == "skin" && p.AirC > towardsSkinC {
		p.AirC = towardsSkinC
	}
	return p
}

// dry fills in a latex layer's drying times and returns the wait as planned.
func (l Layer) dry(shelf material.Shelf, place drying.Place, r *LayerResult) float64 {
	coats := slices.Repeat([]drying.Layer{l.Wet(shelf)}, l.MostCoats())
	one, errOne := place.Latex(coats[:1], drying.EachDried)
	each, errEach := place.Latex(coats, drying.EachDried)
	wet, errWet := place.Latex(coats, drying.WetOnWet)
	if errOne != nil || errEach != nil || errWet != nil {
		return 0
	}
	r.RecoatS, r.DryS, r.WetS = one.RecoatS, each.DryS, wet.DryS
	if l.BetweenS != nil && *l.BetweenS < one.RecoatS && l.MostCoats() > 1 {
		return math.Max(wet.DryS, each.DryS)
	}
	return each.DryS
}

func (r *Result) add(at map[string]int, p material.Product, l LayerResult) {
	i, known := at[p.Slug]
	if !known {
		i = len(r.Materials)
		at[p.Slug] = i
		r.Materials = append(r.Materials, MaterialNeed{Slug: p.Slug, Name: p.Name, Default: p.Sources["price_minor_kg"] == ""})
	}
	r.Materials[i].Grams += l.MassG
	r.Materials[i].Minor += l.Minor
	r.Minor += l.Minor
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
