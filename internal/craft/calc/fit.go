package calc

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/refusal"
)

// What is asked of adhesives, the chair, wear, removal, copies and packing, read in the order of the chapter
// "Finish and fit", sections 7 to 10.

var fitOps = map[string]solver{
	"adhesive_choose": read(choiceOf, func(c fit.Choice) (any, error) { return fit.Choose(c), nil }),
	"adhesive_window": read(glueCoatOf, func(c fit.Coat) (any, error) { return answer(fit.WindowOf(c)) }),
	"adhesive_need":   read(spreadOf, func(s fit.Spread) (any, error) { return fit.NeedOf(s), nil }),
	"place_order":     read(marksOf, func(m placing) (any, error) { return fit.PlaceOrder(m.marks, m.centre), nil }),
	"chair_plan": readLong(morningOf, func(ctx context.Context, m fit.Morning) (any, error) {
		return answer(fit.PlanChair(ctx, m))
	}),
	"wear_life": read(wearOf, func(w wearing) (any, error) { return fit.Last(w.segments, w.parts, w.touching), nil }),
	"removal":   read(undressingOf, func(u fit.Undressing) (any, error) { return answer(fit.TakeOff(u)) }),
	"copies":    read(runningOf, func(r fit.Run) (any, error) { return fit.Copies(r), nil }),
	"pack":      read(tripOf, func(t fit.Trip) (any, error) { return fit.Pack(t), nil }),
}

// both joins the operations of a chapter that stand in two files.
func both(a, b map[string]solver) map[string]solver {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

func adhesiveID(f *refusal.Fields) fit.Adhesive {
	a, _ := fit.AdhesiveOf(f.Word("adhesive", "", ids(fit.Adhesives(), func(a fit.Adhesive) string { return a.ID })...))
	return a
}

// sensitiveOf reads whether skin is sensitive; robust and normal count alike.
func sensitiveOf(f *refusal.Fields) bool {
	return f.Word("skin", "normal", "robust", "normal", "sensitive") == "sensitive"
}

func choiceOf(f *refusal.Fields) fit.Choice {
	c := fit.Choice{Family: f.Word("family", "", fit.Families...), Zone: f.Word("zone", "face", fit.Zones...), Hours: f.Number("hours", 6, 0, 48)}
	c.Strain = f.Number("strain", fit.UsualStrain(c.Family), 0, 1)
	c.Allergies = f.Words("allergies", fit.Allergens...)
	c.Sensitive = sensitiveOf(f)
	c.Strength = f.Whole("strength", 1, 1, 5)
	return c
}

func glueCoatOf(f *refusal.Fields) fit.Coat {
	a := adhesiveID(f)
	c := fit.Coat{Adhesive: a.ID}
	first := "wet"
	if len(a.States) > 0 {
		first = a.States[0]
	}
	c.State = f.Word("state", first, "wet", "clear", "tacky", "dry")
	if len(a.States) > 0 && !slices.Contains(a.States, c.State) {
		f.Fail(refusal.Contradiction, "state", "%s is not fitted %s.", a.Name, c.State)
	}
	c.RoomC, c.RH = f.Number("room_c", 21, 5, 40), f.Number("rh", 0.5, 0.05, 0.95)
	c.Air = f.Word("air", "still", "still", "fan", "cool_dryer")
	c.CoatMM = f.Number("coat_mm", a.CoatMM, 0.002, 0.5)
	early, late := f.Number("early_s", 0, 0, 86400), f.Number("late_s", 0, 0, 864000)
	for one, other := range map[string]string{"early_s": "late_s", "late_s": "early_s"} {
		if f.Has(one) && !f.Has(other) {
			f.Fail(refusal.Missing, other, "%s is missing: both are given or none.", other)
		}
	}
	if f.Has("early_s") {
		if late < early {
			f.Fail(refusal.Contradiction, "late_s", "The latest lies before the earliest.")
		}
		c.Given = &[2]float64{early, late}
	}
	return c
}

func spreadOf(f *refusal.Fields) fit.Spread {
	a := adhesiveID(f)
	s := fit.Spread{Adhesive: a.ID, AreaCM2: f.Required("area_cm2", 0.01, 30000), Faces: f.Whole("faces", 2, 1, 2), DoubleCM2: f.Number("double_cm2", 0, 0, 30000)}
	if s.DoubleCM2 > s.AreaCM2 {
		f.Fail(refusal.Contradiction, "double_cm2", "More is coated twice than there is.")
	}
	s.RimCM, s.CoatMM = f.Number("rim_cm", 0, 0, 5000), f.Number("coat_mm", a.CoatMM, 0.002, 0.5)
	s.Waste = f.Number("waste", fit.UsualWaste, 0, 3)
	return s
}

type placing struct {
	marks  []fit.Mark
	centre *[2]float64
}

// only makes a reader of ids that refuses one that stood before.
func only() func(*refusal.Fields) string {
	var seen []string
	return func(f *refusal.Fields) string {
		id := f.ID("id")
		if slices.Contains(seen, id) {
			f.Fail(refusal.Contradiction, "id", "%s stands twice.", id)
		}
		seen = append(seen, id)
		return id
	}
}

func marksOf(f *refusal.Fields) placing {
	var out placing
	id := only()
	for _, m := range f.Children("marks", 1, 200) {
		out.marks = append(out.marks, fit.Mark{ID: id(m), At: m.Point("at", 1e6), Kind: m.Word("kind", "point", "point", "opening", "eye")})
		f.Adopt(m)
	}
	if f.Has("centre") {
		c := f.Point("centre", 1e6)
		out.centre = &c
	}
	return out
}

func morningOf(f *refusal.Fields) fit.Morning {
	m := fit.Morning{ReadyMin: f.Number("ready_min", 420, 0, 1e5), Artists: f.Whole("artists", 1, 1, 6), AtOnce: f.Whole("at_once", 2, 1, 6)}
	id := only()
	for _, a := range f.Children("activities", 1, 60) {
		m.Activities = append(m.Activities, activityOf(a, id, m))
		f.Adopt(a)
	}
	known := ids(m.Activities, func(a fit.Activity) string { return a.ID })
	for i, a := range m.Activities {
		for j, p := range a.After {
			if !slices.Contains(known, p.ID) {
				f.Fail(refusal.UnknownValue, fmt.Sprintf("activities[%d].after[%d].id", i, j), "There is no activity %s.", p.ID)
			}
		}
	}
	return m
}

func activityOf(f *refusal.Fields, id func(*refusal.Fields) string, m fit.Morning) fit.Activity {
	a := fit.Activity{ID: id(f), Minutes: f.Required("minutes", 0, 1440), Chair: true}
	a.Low, a.High = f.Number("low", 0.8*a.Minutes, 0, 1440), f.Number("high", 1.5*a.Minutes, 0, 5000)
	if a.Low > a.Minutes+1e-9 {
		f.Fail(refusal.Contradiction, "low", "The quickest takes longer than the usual.")
	}
	if a.High < a.Minutes-1e-9 {
		f.Fail(refusal.Contradiction, "high", "The slowest takes less than the usual.")
	}
	a.Hands = f.Whole("hands", 1, 0, 6)
	if f.Has("chair") {
		a.Chair = f.Truth("chair")
	}
	if a.Hands > m.Artists || a.Chair && a.Hands > m.AtOnce {
		f.Fail(refusal.Contradiction, "hands", "It takes %d pairs of hands; so many are not there at once.", a.Hands)
	}
	if f.Has("zone") {
		a.Zone = f.ID("zone")
	}
	a.Rest = f.Truth("rest")
	for _, p := range f.Children("after", 0, 60) {
		link := fit.After{ID: p.ID("id"), WaitMin: p.Number("wait_min", 0, 0, 1440)}
		if p.Has("within_min") {
			within := p.Number("within_min", 0, 0, 1440)
			if within < link.WaitMin {
				p.Fail(refusal.Contradiction, "within_min", "It is too late before it may begin.")
			}
			link.Within = &within
		}
		a.After = append(a.After, link)
		f.Adopt(p)
	}
	return a
}

type wearing struct {
	segments []fit.Segment
	parts    []fit.Part
	touching fit.Touching
}

func wearOf(f *refusal.Fields) wearing {
	var w wearing
	usual := fit.UsualDay()
	for _, s := range f.Children("segments", 1, 100) {
		w.segments = append(w.segments, fit.Segment{Hours: s.Required("hours", 0.01, 48), AirC: s.Number("air_c", usual.AirC, -20, 50),
			Sweat: s.Word("sweat", usual.Sweat, fit.Sweats...), Exertion: s.Word("exertion", usual.Exertion, fit.Exertions...)})
		f.Adopt(s)
	}
	id := only()
	whether := func(p *refusal.Fields, name string) bool { return !p.Has(name) || p.Truth(name) }
	for _, p := range f.Children("parts", 1, 200) {
		w.parts = append(w.parts, fit.Part{ID: id(p), Adhesive: adhesiveID(p).ID, EdgeMM: p.Number("edge_mm", fit.UsualEdgeMM, 0, 10), Strain: p.Number("strain", 0, 0, 1),
			Prep: whether(p, "prep"), InWindow: whether(p, "in_window"), Double: p.Truth("double"), Rub: p.Truth("rub"), Mouth: p.Truth("mouth"),
			LengthCM: p.Number("length_cm", 10, 0, 5000)})
		f.Adopt(p)
	}
	w.touching = fit.Touching{At: f.Number("touch_at", fit.UsualTouching.At, 0.5, 0.999), Restore: f.Number("restore", fit.UsualTouching.Restore, 0, 1)}
	return w
}

func undressingOf(f *refusal.Fields) fit.Undressing {
	u := fit.Undressing{Hands: f.Whole("hands", 1, 1, 4), Sensitive: sensitiveOf(f), WornH: f.Number("worn_h", 8, 0, 48), Redness: f.Whole("redness", 0, 0, 3), AirC: f.Number("air_c", 21, -20, 50)}
	id := only()
	for _, p := range f.Children("pieces", 1, 100) {
		w := fit.Worn{ID: id(p), What: p.Word("what", "", fit.Whats()...)}
		w.Remover = p.Word("remover", "", ids(fit.Removers(), func(r fit.Remover) string { return r.ID })...)
		if w.Remover != "" && !slices.Contains(fit.TakesOff(w.What), w.Remover) {
			p.Fail(refusal.Contradiction, "remover", "%s does not take %s off.", w.Remover, w.What)
		}
		w.WidthMM, w.AreaCM2 = p.Required("width_mm", 1, 1000), p.Required("area_cm2", 0.1, 20000)
		w.Access, w.FoamMM = p.Number("access", 1, 0.1, 1), p.Number("foam_mm", 0, 0, 100)
		w.Hair, w.Barrier, w.NearEye = p.Truth("hair"), p.Truth("barrier"), p.Truth("near_eye")
		u.Pieces = append(u.Pieces, w)
		f.Adopt(p)
	}
	return u
}

func runningOf(f *refusal.Fields) fit.Run {
	if !f.Has("days") {
		f.Fail(refusal.Missing, "days", "days is missing.")
	}
	r := fit.Run{Days: f.Whole("days", 1, 1, 1000), PerDay: f.Whole("per_day", 1, 1, 50), Together: f.Whole("together", 1, 1, 50)}
	if r.Together > r.PerDay {
		f.Fail(refusal.Contradiction, "together", "More are worn at once than in a day.")
	}
	r.MaxWears, r.Loss, r.Survive = f.Whole("max_wears", 1, 1, 20), f.Number("loss", 0.05, 0, 0.9), f.Number("survive", 0.7, 0, 1)
	r.Confidence = f.Number("confidence", 0.95, 0.5, 0.9999)
	return r
}

func tripOf(f *refusal.Fields) fit.Trip {
	t := fit.Trip{Material: f.Word("material", "", ids(fit.Packings(), func(p fit.Packing) string { return p.ID })...), Days: f.Number("days", 1, 0, 5000)}
	t.MinC, t.MaxC = f.Number("min_c", 15, -30, 70), f.Number("max_c", 25, -30, 70)
	if t.MinC > t.MaxC {
		f.Fail(refusal.Contradiction, "max_c", "The warmest is colder than the coldest.")
	}
	t.MinRH, t.MaxRH = f.Number("min_rh", 0.4, 0, 1), f.Number("max_rh", 0.6, 0, 1)
	if t.MinRH > t.MaxRH {
		f.Fail(refusal.Contradiction, "max_rh", "The dampest is drier than the driest.")
	}
	t.Stacked = f.Truth("stacked")
	return t
}
