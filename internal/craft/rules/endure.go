package rules

import (
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// How long what is worn lasts, and what water does to it. The rates are the
// handbook's (finish-and-fit.md section 8, data/finish/adhesives.json), estimates
// within a factor 1.5; how a whole look holds over a day is package outing's.

// life of a family of adhesive: median hours to the first lifted rim at 22 °C, in
// light sweat, acting; the shape of its ageing; what 10 K more and sweat do to it.
type life struct {
	t50, shape, q10 float64
	sweat           [3]float64 // none, light, heavy
}

// glueLife is how a family of adhesive ages, of those that go on skin: the table of package fit.
func glueLife(f material.Family) (life, bool) {
	a, known := fit.AdhesiveOf(string(f))
	return life{a.T50H, a.K, a.Q10, a.Sweat}, known && a.OnSkin
}

// SurfaceHours is when half of such surfaces have a place that has to be mended, in air of tempC; none for a family that
// is no surface. Ours, as the table is.
func SurfaceHours(f material.Family, tempC float64, exertion string) (median float64, known bool) {
	l, known := surfaces[f]
	if !known {
		return 0, false
	}
	median, _ = l.hours(tempC, exertion)
	return median, true
}

// surfaces are the same for what lies on a piece, to the first place that has to be
// mended: rubbed off, cracked, run or gone soft. No source gives them: they are
// ours (docs/decisions/0022), until a shop's own log of wear replaces them.
var surfaces = map[material.Family]life{
	material.PaintCream:     {6, 2, 1.7, [3]float64{0.7, 1, 2.2}},
	material.PaintWater:     {5, 2, 1.5, [3]float64{0.6, 1, 3}},
	material.PaintAlcohol:   {16, 2.2, 1.2, [3]float64{0.9, 1, 1.3}},
	material.PaintSilicone:  {24, 2.2, 1.1, [3]float64{1, 1, 1.1}},
	material.PaintAdhesive:  {14, 2.2, 1.3, [3]float64{0.9, 1, 1.4}},
	material.PaintAcrylic:   {14, 2.2, 1.2, [3]float64{0.9, 1, 1.3}},
	material.Glitter:        {6, 2, 1.3, [3]float64{0.8, 1, 1.6}},
	material.Sealer:         {12, 2.2, 1.3, [3]float64{0.8, 1, 1.7}},
	material.WetLook:        {4, 2, 1.7, [3]float64{0.9, 1, 1.2}},
	material.Blood:          {3, 2, 1.5, [3]float64{0.9, 1, 1.4}},
	material.Wax:            {6, 2, 2.2, [3]float64{0.8, 1, 1.5}},
	material.Gelatin:        {9, 2.2, 1.9, [3]float64{0.7, 1, 1.9}},
	material.HouseholdPaste: {5, 2, 1.5, [3]float64{0.7, 1, 2.2}},
	material.LatexPaste:     {12, 2.2, 1.2, [3]float64{0.9, 1, 1.4}},
}

// Under a seal or in a film a surface lasts so many times as long, and so many
// times under powder.
const sealedLasts, powderedLasts = 1.6, 1.25

// moved is how exertion wears, and how much one sweats at it.
var moved = map[string]struct {
	rate  float64
	sweat int
}{"still": {0.85, 0}, "": {1, 1}, "acting": {1, 1}, "walking": {1.25, 1}, "running": {1.8, 2}}

// worst is the warmest of the days on which a piece is worn, and how it is named.
func (c Case) worst() (tempC float64, on string) {
	tempC = 22
	for _, d := range c.Days {
		if d.TempC > tempC {
			tempC, on = d.TempC, d.Name+": "
		}
	}
	return tempC, on
}

// hours to the first lifted rim: half of all rims by then, and one in ten.
func (l life) hours(tempC float64, exertion string) (median, tenth float64) {
	m := moved[exertion]
	rate := math.Pow(l.q10, math.Max(0, tempC-22)/10) * l.sweat[m.sweat] * m.rate
	scale := l.t50 / math.Pow(math.Ln2, 1/l.shape)
	return l.t50 / rate, scale * math.Pow(-math.Log(0.9), 1/l.shape) / rate
}

// wears says how long the glue lasts on the worst of its days.
func wears(c Case) []Finding {
	if c.WearHours == 0 {
		return nil
	}
	hottest, on := c.worst()
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		known, ok := glueLife(p.Family)
		if !ok || l.Kind != section.Adhesive {
			return nil
		}
		median, tenth := known.hours(hottest, c.Exertion)
		switch {
		case c.WearHours <= tenth:
			return nil
		case c.WearHours <= median:
			return &Finding{Severity: Tip, Below: "skin", Above: l.ID, Reason: fmt.Sprintf("%s%s begins to lift somewhere after about %.0f h here; it is worn %g h.", on, p.Name, tenth, c.WearHours), Remedy: "Plan a touch-up of its rim.", Settles: "The wear log of this shop."}
		}
		return &Finding{Below: "skin", Above: l.ID, Reason: fmt.Sprintf("%s%s has lifted somewhere after about %.1f h as often as not; it is worn %g h.", on, p.Name, median, c.WearHours), Remedy: "Plan touch-ups, glue it twice, take another adhesive, or change the copy in the break.", Settles: "The wear log of this shop.", Instead: slices.DeleteFunc(c.available("adhesive-silicone", "adhesive-acrylic"), func(s string) bool { return s == p.Slug })}
	})
}

// surfaceLasts says how long what lies on a piece lasts on the worst of its days:
// colour, seal, wet look and blood, and a body that softens or crumbles where it
// lies open.
func surfaceLasts(c Case) []Finding {
	if c.WearHours == 0 {
		return nil
	}
	hottest, on := c.worst()
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		known, ok := surfaces[p.Family]
		if !ok || c.over(i, section.Encapsulator) || l.Kind == section.Seal && c.overAppliance(i) {
			return nil // in a film, or on the underside
		}
		median, tenth := known.hours(hottest, c.Exertion)
		more := 1.0
		switch {
		case c.over(i, section.Seal):
			more = sealedLasts
		case c.over(i, section.Powder):
			more = powderedLasts
		}
		median, tenth = more*median, more*tenth
		f := &Finding{Above: l.ID, Settles: "The wear log of this shop."}
		switch {
		case c.WearHours <= tenth:
			return nil
		case c.WearHours <= median:
			f.Severity = Tip
			f.Reason = fmt.Sprintf("%s%s wants mending somewhere after about %.0f h here; it is worn %g h.", on, p.Name, tenth, c.WearHours)
			f.Remedy = "Put it into the kit of the day, with the minutes for it."
		default:
			f.Reason = fmt.Sprintf("%s%s wants mending after about %.1f h as often as not; it is worn %g h.", on, p.Name, median, c.WearHours)
			f.Remedy = mendSurface[l.Kind]
			if f.Remedy == "" {
				f.Remedy = "Seal it, plan touch-ups, or change the copy in the break."
			}
		}
		return f
	})
}

// mendSurface is what helps a kind of layer that does not last its hours.
var mendSurface = map[section.Kind]string{
	section.Paint:   "Set and seal it, take a colour that is bound, or plan touch-ups.",
	section.WetLook: "Lay it on again before each take.",
	section.Blood:   "Lay it on again before each take, or take one that sets.",
	section.Gelatin: "Change the copy in the break, keep it cool, or take silicone for that day.",
	section.Wax:     "Model it again in the break, keep it cool, or cast it in something that stays.",
}

// wets are how the brief's water stands up to what lies open to it.
func standsNoWater(c Case) []Finding {
	if c.Water == "" || c.Water == "none" {
		return nil
	}
	seen := map[string]bool{}
	return c.each(func(i int, l section.Layer, p material.Product) *Finding {
		loose := p.Family == material.PaintWater || p.Family == material.HouseholdPaste || p.Family == material.Gelatin || l.Kind == section.Adhesive && p.Solvent == "water" && c.Water != "splashed" || l.Kind == section.Seal && p.Solvent == "water"
		if !loose || seen[p.Slug] || l.Kind != section.Seal && l.Kind != section.Adhesive && c.over(i, section.Seal, section.Encapsulator) && c.Water != "under water" {
			return nil
		}
		seen[p.Slug] = true
		f := &Finding{Above: l.ID, Reason: fmt.Sprintf("It is %s, and %s lifts or dissolves in water.", map[string]string{"splashed": "splashed", "rained on": "rained on", "under water": "under water"}[c.Water], p.Name), Remedy: "Seal it over, or take what does not mind water.", Settles: "A quarter of an hour under the tap, as it is worn."}
		if l.Kind == section.Adhesive {
			f.Instead = c.available("adhesive-silicone")
		}
		switch c.Water {
		case "splashed":
			f.Severity = Tip
		case "under water":
			f.Severity = Stop
		}
		return f
	})
}

// nothingHolds finds pieces without glue, and glue that lies over the piece.
func nothingHolds(c Case) []Finding {
	if c.Section.MadeOn() == section.OnSkin || len(c.Section.Support.Anchors) > 0 {
		return nil
	}
	body := slices.IndexFunc(c.Cut.Layers, func(l section.Layer) bool { return l.Kind.IsAppliance() })
	if body < 0 {
		return nil
	}
	glue := slices.IndexFunc(c.Cut.Layers, func(l section.Layer) bool { return l.Kind == section.Adhesive })
	switch {
	case glue < 0:
		return []Finding{{Below: "skin", Above: c.Cut.Layers[body].ID, Reason: "Nothing here holds it: no adhesive, no straps, no cap.", Remedy: "Say what holds it.", Instead: c.available("adhesive-acrylic", "adhesive-silicone")}}
	case glue > body && !c.overAppliance(glue):
		return []Finding{{Severity: Stop, Above: c.Cut.Layers[glue].ID, Reason: c.product(c.Cut.Layers[glue]).Name + " lies on top of the piece, where it holds nothing.", Remedy: "Put it under the piece, over the barrier."}}
	}
	return nil
}

// overAppliance says whether any part of the piece lies over position i.
func (c Case) overAppliance(i int) bool {
	return slices.ContainsFunc(c.Cut.Layers[i+1:], func(l section.Layer) bool {
		return l.Kind.IsAppliance() || l.Kind == section.Hair || l.Kind == section.Insert
	})
}

// thickSilicone is how thick silicone gets before its weight pulls, mm.
const thickSilicone = 15

func tooThick(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if !p.IsSilicone() || l.CentreMM <= thickSilicone {
			return nil
		}
		return &Finding{Above: l.ID, Reason: fmt.Sprintf("%.0f mm of %s are heavy, warm, and drag at the edge.", l.CentreMM, p.Name), Remedy: "Carry the bulk on a soft core or a hollow, and keep the silicone under 15 mm.", Settles: "Worn for half an hour."}
	})
}

// At the chair: so long may it take before somebody has to plan for it, and so
// long before it is not done on a face at all, s.
const longAtChair, tooLongAtChair = 2 * 3600.0, 5 * 3600.0

func atTheChair(c Case) []Finding {
	if c.Section.MadeOn() != section.OnSkin {
		return nil
	}
	total, wettest, worst := 0.0, "", 0.0
	for _, s := range c.Result.Steps {
		if s.Where != "chair" {
			continue
		}
		total += s.HandsS + s.WaitS
		if s.WaitS > worst && len(s.Layers) > 0 {
			worst, wettest = s.WaitS, s.Layers[0]
		}
	}
	if total <= longAtChair {
		return nil
	}
	f := Finding{Above: wettest, Reason: fmt.Sprintf("Built on the wearer it takes about %.1f h in the chair, %.1f h of it waiting.", total/3600, chairWaits(c)/3600), Remedy: "Build it ahead on a form and glue it on, make it thinner, or dry it with moving air held to what skin bears."}
	if total > tooLongAtChair {
		f.Severity = Stop
	}
	return []Finding{f}
}

func chairWaits(c Case) (s float64) {
	for _, st := range c.Result.Steps {
		if st.Where == "chair" {
			s += st.WaitS
		}
	}
	return s
}

// Scanned is what the newest measured scan of the sculpt says of the piece.
type Scanned struct {
	Name               string
	EdgeMM, MostMM     float64
	VolumeML, AreaCM2  float64
	VolumeOff, EdgeOff float64 // how far the scan itself may be off: a share, and mm
}

// againstScan compares what the section draws with what the sculpt shows.
func againstScan(c Case) []Finding {
	if c.Scanned == nil {
		return nil
	}
	i := slices.IndexFunc(c.Section.Layers, func(l section.Layer) bool { return l.Kind.IsAppliance() && l.Kind.Is() == section.Body })
	if i < 0 || c.Section.Layers[i].Measured != nil {
		return nil
	}
	l := c.Section.Layers[i]
	off := math.Max(0.1, c.Scanned.EdgeOff)
	if math.Abs(l.EdgeMM-c.Scanned.EdgeMM) <= off {
		return nil
	}
	return []Finding{{Above: l.ID, AtEdge: true, Reason: fmt.Sprintf("The section draws an edge of %.2f mm; the scan “%s” shows %.2f.", l.EdgeMM, c.Scanned.Name, c.Scanned.EdgeMM), Remedy: "Take the measured thickness over, or thin the sculpt's edge and scan it again.", Settles: "A gauge on three places of the edge."}}
}
