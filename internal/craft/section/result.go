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
	MassG    float64 `json:"mass_g" doc:"as it is worn"`
	WetG     float64 `json:"wet_g" doc:"as it is drawn from its lot for one copy, without waste"`
	HandsS   float64 `json:"hands_s" doc:"hands-on, our own figures until the log has its own"`
	WaitS    float64 `json:"wait_s" doc:"closed form: drying, curing, setting at the room given"`
	Minor    int64   `json:"cost_minor" doc:"what is drawn for one copy, in hundredths, without waste"`
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

// Parts of what a copy costs in material.
const (
	CostLayers  = "layers"  // what its layers are made of
	CostFibre   = "fibre"   // tissue, gauze and cotton in them
	CostRelease = "release" // on mould and core, for every copy
	CostWaste   = "waste"   // what stays in the cup and is trimmed away
	CostMould   = "mould"   // its share of the mould
)

// CostPart is one part of what a copy costs in material, in hundredths of the
// shop's money.
type CostPart struct {
	Part  string `json:"part" enum:"layers,fibre,release,waste,mould"`
	Minor int64  `json:"cost_minor"`
	Note  string `json:"note,omitempty"`
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

// DrawnML is the volume of the body as it is drawn.
func (s Section) DrawnML(shelf material.Shelf) float64 {
	ml := 0.0
	for _, c := range s.Cuts() {
		family := c.Body(shelf)
		for _, l := range c.Layers {
			if l.Kind != Skin && l.Kind.IsAppliance() && shelf[l.Material].Family == family {
				ml += c.AreaCM2 * l.mean(c, shelf) / 10
			}
		}
	}
	return ml
}

// Work computes what follows from a checked section in a room, as it is drawn.
func (s Section) Work(shelf material.Shelf, room Room) Result {
	return s.WorkBy(shelf, room, Believed{})
}

// Believed are the volume of a body in ml and the area of a piece in cm² that
// everything goes by; 0 believes the drawing.
type Believed struct{ VolumeML, AreaCM2 float64 }

// TotalCM2 is the area of all cuts as it is drawn.
func (s Section) TotalCM2() (cm2 float64) {
	for _, c := range s.Cuts() {
		cm2 += c.AreaCM2
	}
	return cm2
}

// sized is the section on another area, each cut with its share of it.
func (s Section) sized(cm2 float64) Section {
	k := cm2 / s.TotalCM2()
	s.Cut.AreaCM2 *= k
	s.More = slices.Clone(s.More)
	for i := range s.More {
		s.More[i].AreaCM2 *= k
	}
	return s
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
					grams := cm2 / 10 * f.Fibre.KgM2
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

// releaseGCM2 is how much release goes on a cm² of mould and of core for one copy.
const releaseGCM2 = 0.004

// count adds what no layer says: release, waste, and the parts of the cost.
func (r *Result) count(s Section, shelf material.Shelf, at map[string]int, fibre int64) {
	layers := -fibre
	for _, m := range r.Materials {
		layers += m.Minor
	}
	release := int64(0)
	if p, known := shelf[s.Made.Release]; known && r.MadeOn == InMould {
		grams := 2 * releaseGCM2 * r.Body.AreaCM2
		release = price(grams, p)
		r.add(at, p, MaterialNeed{Grams: grams, Minor: release})
	}
	waste := int64(math.Round(material.UsualWaste * float64(layers)))
	for _, part := range []CostPart{{Part: CostLayers, Minor: layers}, {Part: CostFibre, Minor: fibre}, {Part: CostRelease, Minor: release}, {Part: CostWaste, Minor: waste}} {
		r.Spend(part)
	}
}

// Spend adds a part to what a copy costs; nothing for nothing.
func (r *Result) Spend(part CostPart) {
	if part.Minor == 0 && part.Part != CostLayers {
		return
	}
	r.Cost = append(r.Cost, part)
	r.Minor += part.Minor
}

func price(grams float64, p material.Product) int64 {
	return int64(math.Round(grams / 1000 * float64(p.PriceMinorKg)))
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
	for _, in := range l.mixed(r.WetG) {
		r.Minor += price(in.grams, shelf[in.slug])
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

// Waits that no model here gives, in s: common practice.
const (
	filmCoatS = 300  // one coat of encapsulator or sealer, touch-dry
	barrierS  = 240  // barrier film
	softFoamS = 2400 // demould of soft foam
	creamS    = 0    // cream is set with powder
	dripS     = 600  // thick blood and gels stand still
)

// wait is the drying, curing or setting after a layer that is thick mm at its
// centre, in s. For latex it fills in the times of its coats too.
func (l Layer) wait(s Section, shelf material.Shelf, room Room, thick float64, r *LayerResult) float64 {
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
		return drying.BakeS(thick/1000, room.TempC)
	case SoftFoam:
		return softFoamS
	case Gelatin:
		if p.Base != nil && l.Method != "dropped" {
			if s, ok := p.Base.DemouldS(math.Max(0.5, thick)/1000, 60, room.TempC); ok {
				return s
			}
		}
		return 1800
	case Paste:
		if p.Family == material.LatexPaste {
			return l.pasteDry(shelf, room, thick)
		}
		return p.SetS * slower(thick, setMM)
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

// setMM is the thickness at which a household paste sets in the time that its
// material says; pasteMM the thickest wet coat that the closed form takes.
const setMM, pasteMM = 3, 8

// slower is how many times longer than at a thickness one above it takes where
// diffusion rules: by the square.
func slower(mm, at float64) float64 { return math.Max(1, (mm/at)*(mm/at)) }

// pasteDry is when a paste spread thick mm, dry, is dry, s.
func (l Layer) pasteDry(shelf material.Shelf, room Room, thick float64) float64 {
	one := Layer{CoatMM: 1, Material: l.Material}.Wet(shelf)
	wetMM := thick * one.WetM / one.DryThicknessM()
	one.WetM = math.Min(pasteMM, wetMM) / 1000
	e, err := drying.StillRoom(room.TempC, room.RH).Latex([]drying.Layer{one}, drying.EachDried)
	if err != nil {
		return 0
	}
	return e.DryS * slower(wetMM, pasteMM)
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

// taken is a share of a layer by its product, g.
type taken struct {
	slug  string
	grams float64
}

// mixed divides what a layer takes into its material and what is stirred in.
func (l Layer) mixed(grams float64) []taken {
	whole := 1.0
	for _, w := range l.With {
		whole += w.Percent / 100
	}
	list := []taken{{l.Material, grams / whole}}
	for _, w := range l.With {
		list = append(list, taken{w.Material, grams / whole * w.Percent / 100})
	}
	return list
}

func (r *Result) addMixed(at map[string]int, l Layer, of LayerResult, shelf material.Shelf) {
	for _, in := range l.mixed(of.WetG) {
		r.add(at, shelf[in.slug], MaterialNeed{Grams: in.grams, Minor: price(in.grams, shelf[in.slug])})
	}
}

func (r *Result) add(at map[string]int, p material.Product, need MaterialNeed) {
	i, known := at[p.Slug]
	if !known {
		i = len(r.Materials)
		at[p.Slug] = i
		r.Materials = append(r.Materials, MaterialNeed{Slug: p.Slug, Name: p.Name, Default: p.Sources["price_minor_kg"] == ""})
	}
	r.Materials[i].Grams += need.Grams
	r.Materials[i].CM2 += need.CM2
	r.Materials[i].Minor += need.Minor
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
