package advise

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/substance"
)

// judge scores one method.
type judge struct {
	Case
	f      Figures
	b      made
	a      Advisor
	quiet  bool // sums only, no words: for looking where it turns
	scores []Score
	bars   []Bar
	barred bool

	sum, weights float64
}

func (j *judge) add(criterion, entry string, score, weight float64, format string, args ...any) {
	score = math.Max(0, math.Min(1, score))
	j.sum += score * weight
	j.weights += weight
	if !j.quiet {
		j.scores = append(j.scores, Score{criterion, entry, score, weight, fmt.Sprintf(format, args...)})
	}
}

func (j *judge) bar(severity, id, entry, format string, args ...any) {
	j.barred = true
	if !j.quiet {
		j.bars = append(j.bars, Bar{severity, id, entry, fmt.Sprintf(format, args...)})
	}
}

func (j *judge) all() {
	j.movement()
	j.light()
	j.edge()
	j.height()
	j.weight()
	j.heat()
	j.water()
	j.days()
	j.lead()
	j.equipment()
	j.skill()
	j.allergy()
	j.cost()
	j.takeOff()
	j.before()
}

func (j *judge) movement() {
	if !j.MovesMuch {
		j.add("movement", "region", 0.6+0.4*j.f.Moves, 0.7, "The %s moves little, so how it folds hardly counts.", j.Region)
		return
	}
	j.add("movement", "region", j.f.Moves, 2, "The %s moves much; this %s.", j.Region, scale(j.f.Moves, "cracks or lifts there", "folds stiffly", "goes with the skin"))
}

func scale(x float64, low, middle, high string) string {
	switch {
	case x < 0.4:
		return low
	case x < 0.75:
		return middle
	}
	return high
}

// How much light and edge weigh by camera, and the edge it wants in mm.
var (
	lightWeight = map[string]float64{"close": 2, "medium": 1, "far": 0.3}
	edgeWeight  = map[string]float64{"close": 2, "medium": 1.2, "far": 0.4}
	edgeLimit   = map[string]float64{"close": 0.05, "medium": 0.10, "far": 0.25}
)

func (j *judge) light() {
	w := lightWeight[j.Camera]
	if j.Beyond >= 3 {
		j.add("translucency", "exaggeration", j.f.Translucent, 0.35*w, "It goes far beyond skin, so paint carries most; it %s.", scale(j.f.Translucent, "is opaque", "lets some light in", "takes light in as skin does"))
		return
	}
	j.add("translucency", "camera", j.f.Translucent, w, "For a %s camera: it %s.", j.Camera, scale(j.f.Translucent, "is opaque and lives from paint alone", "lets some light in", "takes light in as skin does"))
}

func (j *judge) edge() {
	limit, w := edgeLimit[j.Camera], edgeWeight[j.Camera]
	// The section that is begun from it keeps the promise, or the promise is its edge.
	// What is built on skin is feathered out by hand, whatever its coats are.
	edge := j.f.EdgeMM
	if !j.f.OnSkin {
		edge = math.Max(edge, j.b.edgeMM)
	}
	j.add("edge", "camera", math.Min(1, limit/edge), w, "A good edge of it is %.2f mm; a %s camera wants %.2f.", edge, j.Camera, limit)
}

// fewLayers are as many as build a height without a day of waiting.
const fewLayers = 6

// largeCM2 is where a hollow skin no longer holds its shape by itself.
const largeCM2 = 250

func (j *judge) height() {
	if j.HeightMM < j.f.MinMM {
		share := j.HeightMM / j.f.MinMM
		j.add("height", "exaggeration", 0.6*share, 2.5, "%.1f mm are wanted at the centre; thinner than %g it cannot be made.", j.HeightMM, j.f.MinMM)
		return
	}
	if j.f.Hollow && j.AreaCM2 > largeCM2 {
		j.add("height", "area", 0.4, 1.5, "A hollow skin of %.0f cm² needs a lining to hold its shape.", j.AreaCM2)
		return
	}
	if j.HeightMM <= j.f.MaxMM && !j.f.Hollow && j.b.layers > fewLayers {
		j.add("height", "exaggeration", float64(fewLayers)/float64(j.b.layers), 1.6, "It reaches %.1f mm at the centre, but in %s.", j.HeightMM, counted(j.b.layers, "layer"))
		return
	}
	if j.HeightMM <= j.f.MaxMM {
		j.add("height", "exaggeration", 1, 0.8, "It reaches %.1f mm at the centre, in %s.", j.HeightMM, counted(j.b.layers, "layer"))
		return
	}
	short := j.f.MaxMM / j.HeightMM
	if short < 0.5 {
		j.bar("stop", "height", "exaggeration", "%.1f mm are wanted at the centre; it reaches about %g and needs something else below it.", j.HeightMM, j.f.MaxMM)
	}
	j.add("height", "exaggeration", short*short, 2.5, "%.1f mm are wanted at the centre; it reaches about %g.", j.HeightMM, j.f.MaxMM)
}

func (j *judge) weight() {
	if j.CarryG > 0 {
		j.add("weight", "the wearer", 1.5-j.b.massG/j.CarryG, 1.5, "One weighs about %.0f g; %.0f g may still be worn.", j.b.massG, j.CarryG)
		return
	}
	perCM2 := j.b.massG / math.Max(1, j.AreaCM2)
	j.add("weight", "area", 1-math.Min(1, perCM2/0.8), 0.4+math.Min(1.6, j.AreaCM2/500)+math.Min(1.2, j.HeightMM/30), "About %.0f g on %.0f cm².", j.b.massG, j.AreaCM2)
}

// How much an exertion sweats, 0 to 1.
var sweatShare = map[string]float64{"still": 0.3, "acting": 0.5, "walking": 0.8, "running": 1}

func (j *judge) heat() {
	sweat := sweatShare[j.Exertion]
	day := j.HottestOn
	if day == "" {
		day = "the hottest day"
	}
	w := 0.4 + 0.12*math.Max(0, j.HottestC-18) + (0.5*sweat+math.Min(1.5, j.AreaCM2/200))*math.Min(1, j.WearHours/6)
	margin := j.f.HeatC - math.Max(34, j.HottestC)
	if j.f.Melts != "" {
		margin = j.melts()
		if margin < 0 {
			j.bar("stop", map[bool]string{true: "WAX-3", false: "GEL-2"}[strings.HasPrefix(j.f.Melts, "wax")], "shooting days", "It softens %.0f °C below what it gets on %s (%.0f °C, %g h).", -margin, day, j.HottestC, j.WearHours)
		}
	}
	stands := math.Min(1, math.Max(0, (margin+1)/10))
	breath := 1 - sweat*(1-j.f.Breathes)
	j.add("heat and sweat", "shooting days", 0.5*stands+0.5*breath, w, "%.0f °C on %s, %s for %g h: %.0f °C in hand, and it %s.", j.HottestC, day, j.Exertion, j.WearHours, margin, scale(j.f.Breathes, "does not breathe", "breathes a little", "breathes"))
}

// melts is how many K are left before it softens on the wearer.
func (j *judge) melts() float64 {
	p := j.a.shelf[j.f.Melts]
	switch {
	case p.Base != nil:
		return gelatinMargin(*p.Base, j.Case)
	case p.Firmness != "":
		return waxMargin(p.Firmness, j.Case)
	}
	return 10
}

var (
	waterWeight = map[string]float64{"none": 0.2, "splashed": 1.2, "rained on": 1.8, "under water": 3}
	waterWords  = map[string]string{"none": "It stays dry", "splashed": "It is splashed", "rained on": "It is rained on", "under water": "It goes under water"}
)

func (j *judge) water() {
	j.add("water", "water", j.f.Water, waterWeight[j.Water], "%s: it %s.", waterWords[j.Water], scale(j.f.Water, "dissolves or lifts in water", "stands some water", "does not mind water"))
	if j.Water == "under water" && j.f.Water < 0.2 {
		j.bar("stop", "water", "water", "Under water it dissolves.")
	}
}

func (j *judge) days() {
	if j.Days < 1 {
		j.add("days and re-use", "shooting days", 0.5, 0.3, "No shooting days are set yet; one copy is worn %s.", counted(int(j.f.Uses), "time"))
		return
	}
	copies := math.Ceil(float64(j.Days) / j.f.Uses)
	work := copies * (j.b.handsS / 3600)
	j.add("days and re-use", "shooting days", 1/(1+work/12), 1, "Worn on %s, each copy %s: %.0f to make, %s of hands.", counted(j.Days, "day"), counted(int(j.f.Uses), "time"), copies, counted(int(math.Ceil(work)), "hour"))
}

func (j *judge) lead() {
	needH := j.f.LeadH + j.b.waitS/3600
	if !j.HasLead {
		j.add("lead time", "shooting days", 1/(1+needH/200), 0.3, "About %.0f h to the first piece, moulds and drying among them.", needH)
		return
	}
	haveH := math.Max(0, j.LeadDays) * 24
	if needH > haveH {
		j.bar("stop", "lead time", "shooting days", "The first one takes about %.0f h; %.0f are left.", needH, haveH)
	}
	j.add("lead time", "shooting days", 1.2-needH/math.Max(1, haveH), 1.2, "About %.0f h to the first piece; %.0f h until it is worn.", needH, haveH)
}

func (j *judge) equipment() {
	var lacks []string
	for _, need := range j.f.Needs {
		if !slices.Contains(j.Has, need) {
			lacks = append(lacks, need)
		}
	}
	if len(lacks) == 0 {
		j.add("equipment", "this shop", 1, 0.6, "Everything it needs is here.")
		return
	}
	j.bar("stop", "equipment", "this shop", "This shop has no %s.", strings.Join(lacks, " and no "))
	j.add("equipment", "this shop", 0, 1.5, "Missing: %s.", strings.Join(lacks, ", "))
}

func (j *judge) skill() {
	gap := j.f.Skill - j.Skill
	if gap <= 0 {
		j.add("skill", "this shop", 1, 0.5, "The hands here can do it.")
		return
	}
	j.add("skill", "this shop", 1-0.45*float64(gap), 1.2, "It wants a more practised hand than works here.")
}

func (j *judge) allergy() {
	worst := j.meets()
	if j.f.OnSkin && j.f.Latex && j.NearEyes {
		j.bar("never", "SAF-3", "worn where", "Liquid latex would lie inside the keep-out of the eye.")
	}
	if j.f.OnSkin && j.f.Latex && j.HairUnder {
		j.bar("stop", "LAT-4", "the wearer's map", "Hair lies under it, and nothing protects it yet.")
	}
	switch {
	case worst == nil && len(substance.Unlisted(j.Facts)) > 0:
		j.add("allergy", "the wearer", 0.5, 0.3, "No known conflict, but the wearer's record says “%s” and nobody has said yet what that is.", substance.Unlisted(j.Facts)[0].Words)
	case worst == nil && len(j.Facts) == 0:
		j.add("allergy", "the wearer", 1, 0.3, "No sensitivity is recorded; ask before the first touch.")
	case worst == nil:
		j.add("allergy", "the wearer", 1, 0.3, "No known conflict with what is recorded of the wearer.")
	case worst.State == substance.NotStated:
		j.add("allergy", "the wearer", 0.6, 0.3, "No known conflict; nothing states yet whether %s is free of what the wearer may not take. A data sheet settles it.", strings.ToLower(worst.product.Name))
	case !worst.body:
		j.add("allergy", "the wearer", 0.4, 0.3, "Its usual %s will not do for this wearer: take another.", strings.ToLower(worst.product.Name))
	default:
		j.add("allergy", "the wearer", 0, 0.3, "See what holds it back.")
	}
}

// meets bars what makes the piece when it holds what the wearer may not take,
// and gives the gravest meeting; nil for none.
func (j *judge) meets() *met {
	var worst *met
	barred := map[string]bool{}
	for i := range j.b.met {
		m := &j.b.met[i]
		if worst == nil || m.State > worst.State {
			worst = m
		}
		if !m.body || m.State != substance.Held || barred[m.Fact.Code] {
			continue
		}
		barred[m.Fact.Code] = true
		severity, id, words := "stop", "SAF-17", "holds what is held back for this wearer"
		switch {
		case m.Fact.Status == substance.Excludes:
			id, words = "SAF-16", "holds what the wearer excludes"
		case m.Fact.Status == substance.Allergic:
			severity, words = "never", "holds what is refused for this wearer"
		}
		if m.Fact.Code == "latex" && id == "SAF-17" {
			id = "SAF-1"
		}
		j.bar(severity, id, "the wearer", "%s %s.", m.product.Name, words)
	}
	return worst
}

func (j *judge) cost() {
	copies := float64(max(1, j.Copies))
	all := float64(j.b.minor) * copies
	if j.BudgetMin > 0 {
		j.add("cost", "cost", 1.4-all/float64(j.BudgetMin), 0.8, "Materials of %s about %.2f; the brief allows %.2f.", counted(int(copies), "copy"), all/100, float64(j.BudgetMin)/100)
		return
	}
	j.add("cost", "cost", 1/(1+all/20000), 0.4, "Materials of %s about %.2f.", counted(int(copies), "copy"), all/100)
}

func (j *judge) takeOff() {
	min := j.f.OffMin * math.Sqrt(math.Max(0.1, j.AreaCM2/100))
	j.add("take-off", "area", 1/(1+min/60), 0.3, "About %.0f minutes to take off.", math.Ceil(min))
}

func (j *judge) before() {
	t, known := j.Tried[j.f.Slug]
	n := t.Worked + t.Partly + t.Failed
	if !known || n == 0 {
		return
	}
	// Two imagined tries, one good and one bad, so that one try decides nothing.
	score := (float64(t.Worked) + 0.5*float64(t.Partly) + 1) / float64(n+2)
	words := []string{}
	for _, w := range []struct {
		n    int
		text string
	}{{t.Worked, "worked"}, {t.Partly, "half worked"}, {t.Failed, "failed"}} {
		if w.n > 0 {
			words = append(words, fmt.Sprintf("%d %s", w.n, w.text))
		}
	}
	last := ""
	if t.Last != "" {
		last = " Last: " + t.Last
	}
	j.add("tried before", "the record", score, 0.6+0.4*math.Min(3, float64(n)), "Tried for the like: %s.%s", strings.Join(words, ", "), last)
}

// counting is a number with its noun, put into words only when it is read.
type counting struct {
	n    int
	noun string
}

func counted(n int, noun string) counting { return counting{n, noun} }

func (c counting) String() string {
	switch {
	case c.n == 1:
		return "1 " + c.noun
	case c.noun == "copy":
		return fmt.Sprintf("%d copies", c.n)
	}
	return fmt.Sprintf("%d %ss", c.n, c.noun)
}
