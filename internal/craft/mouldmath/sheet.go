package mouldmath

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/rules"
)

// Kinds of moulds.
const (
	Plate     = "flat plate"
	Block     = "block"
	Glove     = "glove in a jacket"
	Liner     = "jacket with liner"
	Injection = "injection with core"
	Slush     = "slush mould"
)

// Kinds in the order in which they are offered.
var Kinds = []string{Plate, Block, Glove, Liner, Injection, Slush}

// What a mould is made of.
const (
	CastingPlaster = "casting plaster"
	HardStone      = "hard stone"
	SiliconeTin    = "mould silicone, condensation"
	SiliconePlat   = "mould silicone, addition"
	Glass          = "glass laminate"
	Bandage        = "plaster bandage"
)

// Stuff is a material that moulds are made of, with the handbook's usual figures.
// Its price is that of the shop's product, by its short name; one of ours, in
// hundredths of the shop's money a kilogram, where the shop has none.
type Stuff struct {
	Name        string     `json:"name"`
	Gypsum      bool       `json:"gypsum"`
	Gives       bool       `json:"gives" doc:"bends over a small undercut"`
	WaterPer100 float64    `json:"water_per_100,omitempty"`
	WaterRange  [2]float64 `json:"water_range,omitempty"`
	WallMM      float64    `json:"wall_mm"`
	WallRange   [2]float64 `json:"wall_range"`
	Density     float64    `json:"density"`
	Catalyst    float64    `json:"catalyst,omitempty" doc:"parts to 100 of base; as the data sheet says"`
	DemouldH    float64    `json:"demould_h" doc:"when it may be opened, hours"`
	Casts       int        `json:"casts" doc:"usual life in casts"`
	Product     string     `json:"product,omitempty" doc:"the shop's product that it is"`
	Price       int        `json:"price_minor_kg" doc:"where the shop has no price of its own"`
	Of          string     `json:"of" doc:"what the rules call it"`
	OvenC       float64    `json:"oven_c" doc:"hottest it may be baked at, 0 for never"`
}

// Stuffs are the mould materials; walls by section 9, water by section 10 of the
// handbook, the rest usual figures that the bag or data sheet replaces.
var Stuffs = []Stuff{
	{Name: CastingPlaster, Gypsum: true, WaterPer100: 70, WaterRange: [2]float64{60, 80}, WallMM: 25, WallRange: [2]float64{20, 40},
		Density: 1.09, DemouldH: 1, Casts: 15, Product: "plaster-casting", Price: 120, Of: "gypsum", OvenC: 60},
	{Name: HardStone, Gypsum: true, WaterPer100: 30, WaterRange: [2]float64{22, 40}, WallMM: 30, WallRange: [2]float64{25, 45},
		Density: 1.7, DemouldH: 1.5, Casts: 30, Product: "stone-hard", Price: 260, Of: "gypsum", OvenC: 95},
	{Name: SiliconeTin, Gives: true, WallMM: 10, WallRange: [2]float64{6, 20}, Density: 1.15, Catalyst: 5, DemouldH: 18, Casts: 30,
		Product: "mould-silicone-tin", Price: 2400, Of: "silicone_condensation", OvenC: 100},
	{Name: SiliconePlat, Gives: true, WallMM: 10, WallRange: [2]float64{6, 20}, Density: 1.15, Catalyst: 100, DemouldH: 6, Casts: 40, Price: 3300, Of: "silicone_addition", OvenC: 100},
	{Name: Glass, WallMM: 3, WallRange: [2]float64{2, 8}, Density: 1.6, DemouldH: 12, Casts: 200, Product: "resin-epoxy",
		Price: 950, Of: "resin", OvenC: 80},
	{Name: Bandage, WallMM: 8, WallRange: [2]float64{5, 12}, Density: 1.2, DemouldH: 0.25, Casts: 40, Price: 600, Of: "gypsum"},
}

// StuffOf finds a mould material by its name.
func StuffOf(name string) (Stuff, bool) {
	i := slices.IndexFunc(Stuffs, func(s Stuff) bool { return s.Name == name })
	if i < 0 {
		return Stuff{}, false
	}
	return Stuffs[i], true
}

// Body is what a mould goes round, mm. From a scan or from typed sizes.
type Body struct {
	AreaMM2    float64    `json:"area_mm2"`
	VolumeMM3  float64    `json:"volume_mm3"`
	SizeMM     [3]float64 `json:"size_mm"`
	Bend       float64    `json:"bend,omitempty" doc:"of a scan: integral of the mean curvature"`
	Euler      int        `json:"euler,omitempty"`
	Watertight bool       `json:"watertight,omitempty"`
	Scanned    bool       `json:"scanned,omitempty"`
}

// Order is what a build sheet is asked for. Zero values take the usual ones.
type Order struct {
	Kind     string  `json:"kind"`
	Stuff    string  `json:"stuff" doc:"what the mould itself is made of: the silicone of a glove, the stone of a block"`
	Jacket   string  `json:"jacket,omitempty" doc:"what carries a glove or liner"`
	WallMM   float64 `json:"wall_mm,omitempty"`
	Parts    int     `json:"parts,omitempty"`
	Layers   int     `json:"layers,omitempty" doc:"of the jacket"`
	GSM      float64 `json:"gsm,omitempty"`
	WaterPer float64 `json:"water_per_100,omitempty"`
	WaterC   float64 `json:"water_c,omitempty"`
	Catalyst float64 `json:"catalyst,omitempty" doc:"parts to 100 of base, as the data sheet says"`
	Core     bool    `json:"core" doc:"it closes over a core"`
	CoreOf   string  `json:"core_of,omitempty" doc:"what the core is made of"`
	Release  string  `json:"release,omitempty"`
	Separate string  `json:"separator,omitempty" doc:"between its parts, and on the core"`
	Clay     string  `json:"clay,omitempty" enum:",oil clay,sulphur clay"`
	Cast     string  `json:"cast,omitempty" doc:"family of what is cast in it"`
	Baked    bool    `json:"baked,omitempty"`
	Locks    float64 `json:"locks_mm2,omitempty" doc:"undercut that locks, by the scan"`
	Body     Body    `json:"body"`
	// Prices are the shop's own by product, in hundredths of its money a kilogram.
	Prices map[string]int `json:"-"`
}

// price is what g of a product costs by the shop, else by the usual price.
func (o Order) price(g float64, product string, usual int) int {
	if own := o.Prices[product]; own > 0 {
		usual = own
	}
	return int(math.Round(g / 1000 * float64(usual)))
}

// Line is one quantity, with the rule it was found by.
type Line struct {
	What  string  `json:"what"`
	Need  float64 `json:"need_g"`
	Order float64 `json:"order_g" doc:"with waste"`
	Price int     `json:"price_minor"`
	Rule  string  `json:"rule"`
}

// Step is one step of building, with hands and waiting in s.
type Step struct {
	Key    string  `json:"key"`
	Text   string  `json:"text"`
	HandsS float64 `json:"hands_s"`
	WaitS  float64 `json:"wait_s"`
	Wait   string  `json:"wait,omitempty" doc:"what is waited for"`
	Mind   string  `json:"mind,omitempty" doc:"a caution"`
}

// Item is one thing to place and tick.
type Item struct {
	Key  string `json:"key"`
	Text string `json:"text"`
	Why  string `json:"why"`
}

// Sheet is the build sheet of a mould.
type Sheet struct {
	Order    Order           `json:"order"`
	Wall     float64         `json:"wall_mm"`
	Lines    []Line          `json:"lines"`
	Items    []Item          `json:"items"`
	Steps    []Step          `json:"steps"`
	Cautions []string        `json:"cautions"`
	Findings []rules.Finding `json:"findings"`
	HandsS   float64         `json:"hands_s"`
	WaitS    float64         `json:"wait_s" doc:"without the drying, which the scale decides"`
	Minor    int             `json:"price_minor"`
	DryKG    float64         `json:"dry_kg,omitempty" doc:"what a gypsum mould comes to when it is dry"`
	WetKG    float64         `json:"wet_kg,omitempty"`
	Casts    int             `json:"casts"`
}

// PartsOf is the usual number of parts of a kind, without its core.
func PartsOf(kind string) int {
	switch kind {
	case Block, Injection, Slush, Liner:
		return 2
	}
	return 1
}

func (o *Order) fill() (stuff, jacket Stuff, err error) {
	if !slices.Contains(Kinds, o.Kind) {
		return stuff, jacket, refusal.New(refusal.UnknownValue, "kind", "Choose what kind of mould it is.")
	}
	stuff, known := StuffOf(o.Stuff)
	if !known {
		return stuff, jacket, refusal.New(refusal.UnknownValue, "stuff", "Choose what the mould is made of.")
	}
	if o.Kind == Glove || o.Kind == Liner {
		if !stuff.Gives {
			return stuff, jacket, refusal.New(refusal.Contradiction, "stuff", "A glove or liner is made of silicone; it has to come off the sculpt and go back into its jacket.")
		}
		if o.Jacket == "" {
			o.Jacket = Glass
		}
		if jacket, known = StuffOf(o.Jacket); !known || jacket.Gives {
			return stuff, jacket, refusal.New(refusal.UnknownValue, "jacket", "A jacket is stiff: glass laminate, plaster bandage or gypsum.")
		}
	}
	if (o.Stuff == Glass || o.Stuff == Bandage) && o.Kind != Injection {
		return stuff, jacket, refusal.New(refusal.Contradiction, "stuff", "%s is laid up as a jacket or shell; it is not poured as a %s.", o.Stuff, o.Kind)
	}
	if o.WallMM == 0 {
		o.WallMM = stuff.WallMM
	}
	if !(o.WallMM > 0 && o.WallMM <= 300) {
		return stuff, jacket, refusal.New(BadWall, "wall_mm", "The wall lies above 0 and under 300 mm.")
	}
	if o.Parts == 0 {
		o.Parts = PartsOf(o.Kind)
	}
	if o.Parts < 1 || o.Parts > 12 {
		return stuff, jacket, refusal.New(refusal.OutOfRange, "parts", "A mould has 1 to 12 parts.")
	}
	if o.Layers == 0 {
		o.Layers = 3
	}
	if o.GSM == 0 {
		o.GSM = 300
	}
	if o.WaterPer == 0 {
		o.WaterPer = stuff.WaterPer100
	}
	if o.WaterC == 0 {
		o.WaterC = 20
	}
	if !(o.WaterC >= 1 && o.WaterC <= 80) {
		return stuff, jacket, refusal.New(refusal.OutOfRange, "water_c", "The water lies between 1 and 80 °C.")
	}
	if o.Catalyst == 0 {
		o.Catalyst = stuff.Catalyst
	}
	if o.Catalyst < 0 || o.Catalyst > 120 {
		return stuff, jacket, refusal.New(refusal.OutOfRange, "catalyst", "Catalyst lies between 0 and 120 parts to 100; read the data sheet.")
	}
	b := o.Body
	if !(b.AreaMM2 > 0 && b.AreaMM2 < 1e8) {
		return stuff, jacket, refusal.New(refusal.OutOfRange, "body.area_mm2", "Say how large the sculpt's surface is, in cm².")
	}
	for k, x := range b.SizeMM {
		if !(x > 0 && x < 5000) {
			return stuff, jacket, refusal.New(refusal.OutOfRange, "body.size_mm", "The %s of what is moulded lies above 0 and under 5 m.", []string{"width", "height", "depth"}[k])
		}
	}
	if b.VolumeMM3 < 0 || b.VolumeMM3 > b.SizeMM[0]*b.SizeMM[1]*b.SizeMM[2]*1.001 {
		return stuff, jacket, refusal.New(refusal.Contradiction, "body.volume_mm3", "A body cannot fill more than its own box of %.0f ml.", b.SizeMM[0]*b.SizeMM[1]*b.SizeMM[2]/1000)
	}
	return stuff, jacket, nil
}

// offset is the volume of a layer of a thickness over a body and its outer area,
// with the rule that gave them.
func (b Body) offset(w float64) (mm3, outer float64, rule string) {
	if !b.Scanned {
		return b.AreaMM2 * w, b.AreaMM2, fmt.Sprintf("area × wall: %.0f cm² × %g mm; low on round forms (14 %% on a 50 mm ball with 8 mm)", b.AreaMM2/100, w)
	}
	chi := 0.0
	if b.Watertight {
		chi = float64(b.Euler)
	}
	mm3 = b.AreaMM2*w + b.Bend*w*w + chi/2*4*math.Pi/3*w*w*w
	outer = b.AreaMM2 + 2*b.Bend*w + chi/2*4*math.Pi*w*w
	// A strongly hollow body can make the formula run backwards.
	if mm3 < 0.2*b.AreaMM2*w || outer < 0.2*b.AreaMM2 {
		return b.AreaMM2 * w, b.AreaMM2, fmt.Sprintf("area × wall: %.0f cm² × %g mm; the body is so hollow that the offset formula says nothing", b.AreaMM2/100, w)
	}
	return mm3, outer, fmt.Sprintf("offset of the scan by %g mm, folds not removed", w)
}

// box is the fill of a block round a body and the rule that gave it.
func (b Body) box(w float64, board bool) (mm3 float64, rule string) {
	x, y, z := b.SizeMM[0]+2*w, b.SizeMM[1]+2*w, b.SizeMM[2]+2*w
	if board {
		z -= w
	}
	rule = fmt.Sprintf("box %.0f × %.0f × %.0f mm less the body", x, y, z)
	if board {
		rule += ", poured on a board"
	}
	if !b.Watertight && b.Scanned {
		rule += "; the scan is open, so this is the most it takes"
	}
	return x*y*z - b.VolumeMM3, rule
}

func minor(g float64, perKG int) int { return int(math.Round(g / 1000 * float64(perKG))) }

// pour adds what a volume takes in a material.
func (s *Sheet) pour(st Stuff, o Order, mm3 float64, rule string) error {
	if st.Gypsum {
		p, err := Gypsum(Batch{VolumeMM3: mm3, WaterPer100: o.WaterPer})
		if err != nil {
			return err
		}
		s.Lines = append(s.Lines, Line{st.Name, p.PowderG / 1.05, p.PowderG, o.price(p.PowderG, st.Product, st.Price),
			rule + fmt.Sprintf("; 100 : %g with water, 5 %% waste", o.WaterPer)},
			Line{"water", p.WaterG / 1.05, p.WaterG, 0, fmt.Sprintf("%g parts to 100 of powder; %.0f g of it must leave before it is baked", o.WaterPer, p.LeavesG/1.05)})
		s.WetKG += p.PowderG / 1.05 / 1000 * (1 + o.WaterPer/100)
		s.DryKG += p.DryDensity * mm3 / 1e6
		return nil
	}
	g := st.Density * mm3 / 1000
	base, cat := g*100/(100+o.Catalyst), g*o.Catalyst/(100+o.Catalyst)
	second := "catalyst"
	if st.Name == SiliconePlat {
		second = "part B"
	}
	s.Lines = append(s.Lines, Line{st.Name, base, base * (1 + loss), o.price(g*(1+loss), st.Product, st.Price),
		rule + fmt.Sprintf("; %g g/ml, 15 %% for cups and flashing", st.Density)},
		Line{second, cat, cat * (1 + loss), 0, fmt.Sprintf("%g parts to 100; the data sheet wins", o.Catalyst)})
	return nil
}

// jacket adds the shell over an area.
func (s *Sheet) jacket(j Stuff, o Order, area float64, where string) error {
	switch {
	case j.Name == Glass:
		l, err := Laid(Jacket{AreaMM2: area, Layers: o.Layers, GSM: o.GSM})
		if err != nil {
			return err
		}
		rule := fmt.Sprintf("%s: %.0f cm², %d layers of %g g/m², 15 %% overlap", where, area/100, o.Layers, o.GSM)
		s.Lines = append(s.Lines, Line{"glass mat", l.ClothG, l.OrderClothG, o.price(l.OrderClothG, "cloth-glass", 700), rule},
			Line{"laminating resin", l.ResinG, l.OrderResinG, o.price(l.OrderResinG, j.Product, j.Price),
				fmt.Sprintf("a third of the laminate is glass by mass; %.1f mm thick", l.ThicknessMM)})
	case j.Name == Bandage:
		// A wet bandage layer sets to about 1.2 mm: 900 g of dry bandage a square
		// metre, ours.
		g := area / 1e6 * 1.15 * float64(max(o.Layers, 3)) * 900
		s.Lines = append(s.Lines, Line{j.Name, g, g * 1.1, o.price(g*1.1, j.Product, j.Price),
			fmt.Sprintf("%s: %.0f cm², %d layers of 900 g/m² (ours), 15 %% overlap", where, area/100, max(o.Layers, 3))})
	default:
		wall := j.WallMM
		return s.pour(j, Order{WaterPer: j.WaterPer100, Prices: o.Prices}, area*wall,
			fmt.Sprintf("%s: %.0f cm² × %g mm", where, area/100, wall))
	}
	return nil
}

// Build works a build sheet out.
func Build(o Order) (Sheet, error) {
	stuff, jacket, err := o.fill()
	if err != nil {
		return Sheet{}, err
	}
	s := Sheet{Order: o, Wall: o.WallMM, Lines: []Line{}, Items: []Item{}, Steps: []Step{}, Cautions: []string{}, Findings: []rules.Finding{}, Casts: stuff.Casts}
	switch o.Kind {
	case Glove, Liner:
		mm3, outer, rule := o.Body.offset(o.WallMM)
		if err := s.pour(stuff, o, mm3, rule); err != nil {
			return s, err
		}
		if err := s.jacket(jacket, o, outer, "over the silicone"); err != nil {
			return s, err
		}
	case Plate:
		mm3, rule := o.Body.box(o.WallMM, true)
		if err := s.pour(stuff, o, mm3, rule); err != nil {
			return s, err
		}
	default:
		if stuff.Name == Glass || stuff.Name == Bandage {
			if err := s.jacket(stuff, o, o.Body.AreaMM2, "over the sculpt and its flange"); err != nil {
				return s, err
			}
			break
		}
		// A core that is there already closes the block from below: only what goes over
		// the sculpt is poured.
		there := o.Core && o.CoreOf == ""
		mm3, rule := o.Body.box(o.WallMM, there)
		if there {
			rule = strings.Replace(rule, "poured on a board", "the core that is there closes it", 1)
		}
		if err := s.pour(stuff, o, mm3, rule); err != nil {
			return s, err
		}
	}
	if o.Core && o.CoreOf != "" {
		c, known := StuffOf(o.CoreOf)
		if !known {
			return s, refusal.New(refusal.UnknownValue, "core_of", "Choose what the core is made of, or leave it out when it is there already.")
		}
		if !c.Gypsum {
			return s, refusal.New(refusal.Contradiction, "core_of", "A core that is baked or closed over is cast in gypsum.")
		}
		x, y := o.Body.SizeMM[0]+2*o.WallMM, o.Body.SizeMM[1]+2*o.WallMM
		if err := s.pour(c, Order{WaterPer: c.WaterPer100, Prices: o.Prices}, x*y*c.WallMM+o.Body.VolumeMM3,
			fmt.Sprintf("the core: a block of %.0f × %.0f × %g mm, and the body on it", x, y, c.WallMM)); err != nil {
			return s, err
		}
	}
	s.place(o)
	s.work(o, stuff, jacket)
	s.caution(stuff, jacket)
	s.find(o, stuff)
	for _, l := range s.Lines {
		s.Minor += l.Price
	}
	for _, st := range s.Steps {
		s.HandsS += st.HandsS
		s.WaitS += st.WaitS
	}
	return s, nil
}

// setS is when a gypsum pour is hard, s.
func setS(st Stuff, o Order) float64 {
	if !st.Gypsum {
		return st.DemouldH * 3600
	}
	return gypsum.Setting(o.WaterC, o.WaterPer/st.WaterPer100, 1, 780, 1680).FinalS
}

// find raises what the rules say of the mould and what is cast in it.
func (s *Sheet) find(o Order, st Stuff) {
	add := func(f rules.Finding) { s.Findings = append(s.Findings, f) }
	cast := material.Family(o.Cast)
	addition := cast == material.SiliconeAddition
	if addition && st.Name == SiliconeTin {
		add(rules.Finding{ID: "INH-2", Severity: rules.Warn, Reason: "Addition silicone is to be cast in a condensation-silicone mould.", Remedy: "Leave the mould a day or more, better post-cured warm, seal it, and cast a patch first. Fresh, it keeps the cast sticky (INH-1).", Settles: "a patch that cured through"})
	}
	if o.Clay == "sulphur clay" && st.Name == SiliconePlat {
		add(rules.Finding{ID: "INH-1", Severity: rules.Stop, Reason: "Sulphur in the clay keeps addition silicone sticky.", Remedy: "Sculpt in clay without sulphur, seal it and patch-test, or take condensation silicone or gypsum for the mould."})
	}
	if addition && o.Clay == "sulphur clay" && st.Name != SiliconePlat {
		add(rules.Finding{ID: "INH-1", Severity: rules.Warn, Reason: "Sulphur from the clay stays in the face of the mould and keeps addition silicone sticky.", Remedy: "Seal the sculpt before it is moulded, wash the mould out, and cast a patch first.", Settles: "a patch that cured through"})
	}
	if st.Gypsum && st.WaterPer100 > 0 && o.WaterPer > 0 && (o.WaterPer > 1.25*st.WaterPer100 || o.WaterPer < 0.75*st.WaterPer100) {
		add(rules.Finding{ID: "MLD-6", Severity: rules.Warn, Reason: fmt.Sprintf("%s is mixed with about %g parts of water to 100; %g are planned.", st.Name, st.WaterPer100, o.WaterPer), Remedy: "Too much water sets soft and wears out early, too little does not flow. Its data sheet has the last word."})
	}
	if o.Baked && st.Name == CastingPlaster {
		add(rules.Finding{ID: "MLD-7", Severity: rules.Warn, Reason: "Casting plaster goes weak and cracks in the oven.", Remedy: "Take hard stone for foam that is baked."})
	}
	if o.Release == "" && o.Kind != Slush {
		add(rules.Finding{ID: "REL-1", Severity: rules.Stop, Reason: fmt.Sprintf("Nothing parts the cast from the %s.", st.Name), Remedy: "Choose a release for the mould; its data sheet says what it does to the cast."})
	}
	if o.Parts > 1 && o.Separate == "" {
		add(rules.Finding{ID: "REL-1", Severity: rules.Stop, Reason: "Nothing separates the parts of the mould from each other.", Remedy: "Two coats of separator on each face that meets another, and on the core."})
	}
	if cast == material.Latex && o.Kind == Slush && !st.Gypsum {
		add(rules.Finding{ID: "LAT-3", Severity: rules.Warn, Reason: "Slush latex needs a mould that drinks; this one does not.", Remedy: "Take casting plaster, not sealed."})
	}
	if o.Baked && st.OvenC == 0 {
		add(rules.Finding{ID: "MLD-1", Severity: rules.Stop, Reason: fmt.Sprintf("A mould of %s is not baked.", st.Name), Remedy: "Take hard stone for anything that goes into the oven."})
	} else if o.Baked && st.Gypsum {
		add(rules.Finding{ID: "MLD-1", Severity: rules.Tip, Reason: fmt.Sprintf("It is baked only when it is dry; it comes to %.2f kg.", s.DryKG), Remedy: "Weigh it when it is demoulded and every day after; the plot says when. Gentle drying at 50 to 60 °C is allowed."})
	}
	if o.Locks > 0 {
		f := rules.Finding{ID: "MLD-4", Severity: rules.Stop, Reason: fmt.Sprintf("The scan shows %.1f cm² of undercut that locks in this pull.", o.Locks/100), Remedy: "Fill it, turn the pull, or add a part line there."}
		soft := addition || cast == material.Gelatin || cast == material.FoamLatex || cast == material.Latex
		if st.Gives || (soft && !o.Core) {
			f.Severity, f.Remedy = rules.Warn, "One of the two gives: it comes out when the undercut is shallower than half the wall. A hard core behind it does not."
		}
		add(f)
	}
	if st.Gypsum && o.WallMM < 20 {
		add(rules.Finding{ID: "MLD-2", Severity: rules.Warn, Reason: fmt.Sprintf("A gypsum wall of %g mm is under 20 mm.", o.WallMM), Remedy: "Never under 20 mm: thin gypsum cracks when it is opened or heated."})
	}
}
