package calc

import (
	"context"
	"encoding/json"
	"fmt"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/compare"
	"yewmoor/internal/craft/finish/edge"
	"yewmoor/internal/craft/finish/fault"
	"yewmoor/internal/craft/finish/hair"
	"yewmoor/internal/craft/finish/insert"
	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
)

// What is asked of edges, faults, hair, inserts and comparisons, read in the order of the
// chapter "Finish and fit".

// read makes a solver of a reader and what is worked out from what it read.
func read[T any](take func(*refusal.Fields) T, do func(T) (any, error)) solver {
	return readLong(take, func(_ context.Context, in T) (any, error) { return do(in) })
}

func readLong[T any](take func(*refusal.Fields) T, do func(context.Context, T) (any, error)) solver {
	return func(ctx context.Context, raw json.RawMessage) (any, error) {
		f, err := refusal.Object(raw)
		if err != nil {
			return nil, refusal.New(err.Code, "args", "%s", err.Detail)
		}
		in := take(f)
		if f.Err() != nil {
			return nil, f.Err()
		}
		return do(ctx, in)
	}
}

func ids[T any](list []T, id func(T) string) []string {
	out := make([]string, len(list))
	for i, e := range list {
		out[i] = id(e)
	}
	return out
}

var finishOps = map[string]solver{
	"run":          quick(runOf),
	"run_fit":      quick(runFit),
	"blood_need":   quick(bloodNeed),
	"grey_correct": quick(greyCorrect),

	"edge_visible": read(lookOf, func(l edge.Look) (any, error) { return edge.See(l), nil }),
	"edge_ways":    read(rimOf, func(r edge.Rim) (any, error) { return edge.WaysOf(r), nil }),
	"stipple":      read(stippledOf, func(s edge.Stippled) (any, error) { return edge.Stipple(s), nil }),
	"faults_rank":  read(faultCase, func(c fault.Case) (any, error) { return answer(fault.Rank(c)) }),
	"faults_next":  read(nextOf, func(n nextLook) (any, error) { return answer(fault.Next(n.Case, n.limit)) }),
	"hair_count":   read(hairOrder, func(o hair.Order) (any, error) { return answer(hair.Count(o)) }),
	"hair_rows":    read(laidOf, func(l hair.Laid) (any, error) { return answer(hair.Lay(l)) }),
	"punch":        readLong(fieldOf, func(ctx context.Context, f hair.Field) (any, error) { return answer(hair.Punch(ctx, f)) }),
	"insert_batch": read(insertsOf, func(b insert.Batch) (any, error) { return answer(insert.Plan(b)) }),
	"fixing":       read(loadOf, func(l insert.Load) (any, error) { return insert.Hold(l), nil }),
	"weights":      read(weightOf, func(w insert.Weight) (any, error) { return insert.Weigh(w), nil }),
	"register": read(registerOf, func(r registering) (any, error) {
		return answer(compare.Register(r.from, r.to, r.model, r.points))
	}),
	"compare": read(comparedOf, func(a compare.Asked) (any, error) { return answer(compare.Compare(a)) }),
	"sample":  read(sampleOf, func(s sampling) (any, error) { return compare.Sample(s.copies, s.share, s.confidence), nil }),
}

func lookOf(f *refusal.Fields) edge.Look {
	l := edge.Look{StepMM: f.Required("step_mm", 0, 20), RampMM: f.Number("ramp_mm", 0, 0, 200), DistanceM: f.Number("distance_m", 1, 0.1, 200),
		LightDeg: f.Number("light_deg", 30, 2, 90), Fill: f.Number("fill", 0.3, 0, 1), ColourContrast: f.Number("colour_contrast", 0, 0, 1),
		BlendMM: f.Number("blend_mm", 0, 0, 200), DE00: f.Number("de00", 0, 0, 100)}
	if c := f.Child("camera"); c != nil {
		l.Camera = &edge.Camera{FieldMM: c.Required("field_mm", 10, 10000), Pixels: c.Required("pixels", 50, 50000)}
		f.Adopt(c)
	}
	return l
}

func rimOf(f *refusal.Fields) edge.Rim {
	r := edge.Rim{Material: f.Word("material", "", ids(edge.Materials(), func(m edge.Material) string { return m.ID })...),
		StepMM: f.Number("step_mm", 0.2, 0, 20), NearEye: f.Truth("near_eye"), LatexOK: true}
	if f.Has("latex_ok") {
		r.LatexOK = f.Truth("latex_ok")
	}
	r.Moving = f.Truth("moving")
	return r
}

func stippledOf(f *refusal.Fields) edge.Stippled {
	u := edge.UsualStipple(0, 0)
	return edge.Stippled{StepMM: f.Required("step_mm", 0, 5), LengthMM: f.Required("length_mm", 1, 10000), WidthMM: f.Number("width_mm", u.WidthMM, 1, 100),
		TargetMM: f.Number("target_mm", u.TargetMM, 0, 1), CoatMM: f.Number("coat_mm", u.CoatMM, 0.002, 0.5), Solids: f.Number("solids", u.Solids, 0.1, 1),
		DryS: f.Number("dry_s", u.DryS, 0, 7200), WorkSCM: f.Number("work_s_cm", u.WorkSCM, 0, 120), PowderSCM: f.Number("powder_s_cm", u.PowderSCM, 0, 60)}
}

// faultMaterials are those that a fault can be seen on.
var faultMaterials = []string{"silicone", "gelatin", "foam_latex", "latex", "paste", "wax"}

func faultCase(f *refusal.Fields) fault.Case {
	c := fault.Case{Fault: f.Word("fault", "", ids(fault.Faults(), func(e fault.Fault) string { return e.ID })...), Evidence: map[string]string{}, History: map[string]float64{}}
	if f.Has("material") {
		c.Material = f.Word("material", "", faultMaterials...)
		if of, known := fault.FaultOf(c.Fault); known && !fault.Fits(of.Materials, c.Material) {
			f.Fail(refusal.Contradiction, "material", "%s does not come up in %s.", of.Name, c.Material)
		}
	}
	if e := f.Child("evidence"); e != nil {
		for _, id := range e.Names() {
			evidenceOf(e, id, c.Evidence)
		}
		f.Adopt(e)
	}
	if h := f.Child("history"); h != nil {
		for _, id := range h.Names() {
			if of, known := fault.FaultOf(c.Fault); known && of.Causes[id] == 0 {
				h.Fail(refusal.UnknownValue, id, "%s is no cause of this fault.", id)
			}
			c.History[id] = h.Number(id, 0, 0, 1e6)
		}
		f.Adopt(h)
	}
	return c
}

func evidenceOf(f *refusal.Fields, id string, into map[string]string) {
	e, known := fault.EvidenceOf(id)
	if !known {
		f.Fail(refusal.UnknownValue, id, "There is no evidence %s.", id)
		return
	}
	switch v := f.Raw(id).(type) {
	case float64:
		if e.Kind == "number" {
			into[id] = e.Of(v)
			return
		}
	case string:
		if e.Knows(v) {
			into[id] = v
			return
		}
	}
	f.Fail(refusal.UnknownValue, id, "%s is one of its states%s.", id, map[bool]string{true: ", or a number"}[e.Kind == "number"])
}

type nextLook struct {
	fault.Case
	limit int
}

func nextOf(f *refusal.Fields) nextLook {
	c := faultCase(f)
	return nextLook{c, f.Whole("limit", 3, 1, 100)}
}

func fibresOf(f *refusal.Fields) (string, tables.Fibre) {
	id := f.Word("fibre", "human", ids(tables.Fibres(), func(e tables.Fibre) string { return e.ID })...)
	fibre, _ := tables.FibreOf(id)
	return id, fibre
}

func hairOrder(f *refusal.Fields) hair.Order {
	var o hair.Order
	for _, z := range f.Children("zones", 1, 200) {
		n := hair.Zone{WidthMM: z.Required("width_mm", 0.5, 3000), DepthMM: z.Required("depth_mm", 0.5, 3000), Density: z.Required("density", 0, 600)}
		n.Edge = z.Number("edge_density", n.Density/4, 0, 600)
		n.FadeMM = z.Number("fade_mm", hair.UsualFade(n.DepthMM), 0, 3000)
		n.Power = z.Number("power", 1, 0.2, 5)
		o.Zones = append(o.Zones, n)
		f.Adopt(z)
	}
	var fibre tables.Fibre
	o.Fibre, fibre = fibresOf(f)
	o.DiameterUM = f.Number("diameter_um", fibre.Diameter, 5, 300)
	o.VisibleMM = f.Number("visible_mm", 60, 1, 1500)
	o.CurlRadiusMM = f.Number("curl_radius_mm", 0, 0, 100)
	o.CurlPitchMM = f.Number("curl_pitch_mm", 20, 0.5, 500)
	o.TrimMM = f.Number("trim_mm", 10, 0, 500)
	o.RootMM = f.Number("root_mm", 5, 0, 50)
	o.Waste = f.Number("waste", 0.25, 0, 3)
	way := f.Word("method", "punched", ids(tables.Strokes(), func(e tables.Stroke) string { return e.ID })...)
	o.HairsPerPush = f.Whole("hairs_per_stroke", 1, 1, 20)
	o.StrokeS = f.Number("stroke_s", tables.StrokeSeconds(way), 0.2, 300)
	o.Done = f.Whole("done", 0, 0, 1e6)
	o.SpentMin = f.Number("spent_min", 0, 0, 1e5)
	return o
}

func laidOf(f *refusal.Fields) hair.Laid {
	u := hair.UsualRows(0, 0)
	l := hair.Laid{WidthMM: f.Required("width_mm", 5, 2000), DepthMM: f.Required("depth_mm", 2, 1000), PitchBackMM: f.Number("pitch_back_mm", u.PitchBackMM, 1, 50)}
	l.PitchFrontMM = f.Number("pitch_front_mm", u.PitchFrontMM, 1, 50)
	if l.PitchFrontMM > l.PitchBackMM+1e-9 {
		f.Fail(refusal.Contradiction, "pitch_front_mm", "Rows stand closer in front than behind.")
	}
	l.TuftMM = f.Number("tuft_mm", u.TuftMM, 1, 100)
	l.TuftFrontMM = f.Number("tuft_front_mm", u.TuftFrontMM, 1, 100)
	l.StaggerMM = f.Number("stagger_mm", u.StaggerMM, 0, 30)
	l.TuftS = f.Number("tuft_s", u.TuftS, 1, 600)
	l.Hairs = f.Whole("hairs", 0, 0, 1e6)
	return l
}

func fieldOf(f *refusal.Fields) hair.Field {
	var o hair.Field
	if !f.Has("seed") {
		f.Fail(refusal.Missing, "seed", "seed is missing.")
	}
	o.Seed = uint64(f.Whole("seed", 0, 0, 1<<53-1))
	for _, p := range f.Points("outline", 3, 200, 3000) {
		o.Outline = append(o.Outline, texture.P(p))
	}
	o.Density = f.Required("density", 1, 600)
	o.Edge = f.Number("edge_density", o.Density/4, 0, 600)
	o.FadeMM = f.Number("fade_mm", 10, 0, 500)
	if f.Has("fade_edges") {
		for i, x := range f.Numbers("fade_edges", 0, float64(max(0, len(o.Outline)-1))) {
			if x != float64(int(x)) {
				f.Fail(refusal.OutOfRange, fmt.Sprintf("fade_edges[%d]", i), "An edge is named by a whole number.")
			}
			o.FadeEdges = append(o.FadeEdges, int(x))
		}
		if len(o.FadeEdges) == 0 || len(o.FadeEdges) > 200 {
			f.Fail(refusal.OutOfRange, "fade_edges", "One to 200 edges.")
		}
	}
	for _, g := range f.Children("guides", 0, 200) {
		o.Guides = append(o.Guides, hair.Guide{At: texture.P(g.Point("at", 1e6)), Deg: g.Required("deg", -360, 360)})
		f.Adopt(g)
	}
	o.JitterDeg = f.Number("jitter_deg", 8, 0, 90)
	return o
}

func insertsOf(f *refusal.Fields) insert.Batch {
	var b insert.Batch
	if !f.Has("need") {
		f.Fail(refusal.Missing, "need", "need is missing.")
	}
	b.Need = f.Whole("need", 0, 0, 20000)
	b.Yield = f.Number("yield", 0, 0.01, 1)
	made, good := f.Whole("made", 0, 0, 1e6), f.Whole("good", 0, 0, 1e6)
	b.Made, b.Good = float64(made), float64(good)
	switch any := f.Has("made") || f.Has("good"); {
	case f.Has("yield") && any:
		f.Fail(refusal.Contradiction, "yield", "Either a yield, or what came of an earlier batch.")
	case !f.Has("yield") && !any:
		f.Fail(refusal.Missing, "yield", "How many are good, usually?")
	case !f.Has("yield") && !f.Has("made"):
		f.Fail(refusal.Missing, "made", "made is missing.")
	case !f.Has("yield") && !f.Has("good"):
		f.Fail(refusal.Missing, "good", "good is missing.")
	case good > made:
		f.Fail(refusal.Contradiction, "good", "%d good ones of %d that were made.", good, made)
	}
	b.Confidence = f.Number("confidence", 0.95, 0.5, 0.9999)
	b.MinutesEach = f.Number("minutes_each", 2, 0, 600)
	return b
}

func loadOf(f *refusal.Fields) insert.Load {
	l := insert.Load{MassG: f.Required("mass_g", 0, 20000), ArmMM: f.Required("arm_mm", 0, 1000)}
	l.Fixing, _ = tables.FixingOf(f.Word("fixing", "", ids(tables.Fixings(), func(e tables.Fixing) string { return e.ID })...))
	l.Motion, _ = tables.MotionOf(f.Word("motion", "acting", ids(tables.Motions(), func(e tables.Motion) string { return e.ID })...))
	l.BaseMM = f.Required("base_mm", 0.5, 500)
	l.Safety = f.Number("safety", 3, 1, 20)
	if l.Fixing.Kind == "point" {
		if !f.Has("count") {
			f.Fail(refusal.Missing, "count", "How many points hold it?")
		}
		l.Count = f.Whole("count", 1, 1, 1000)
	} else {
		l.AreaMM2 = f.Required("area_mm2", 0.5, 1e5)
	}
	l.Strength = f.Number("strength", l.Fixing.Strength, 0.001, 1e4)
	return l
}

func weightOf(f *refusal.Fields) insert.Weight {
	w := insert.Weight{TargetG: f.Required("target_g", 1, 50000)}
	w.Filler, _ = tables.FillerOf(f.Word("filler", "", ids(tables.Fillers(), func(e tables.Filler) string { return e.ID })...))
	w.BagML, w.Fill, w.WornH = f.Number("bag_ml", 60, 1, 5000), f.Number("fill", 0.7, 0.2, 1), f.Number("worn_h", 6, 0, 24)
	w.Sweat = !f.Has("sweat") || f.Truth("sweat")
	return w
}

type registering struct {
	from, to, points []compare.P
	model            string
}

func registerOf(f *refusal.Fields) registering {
	for _, name := range []string{"from", "to"} {
		if !f.Has(name) {
			f.Fail(refusal.Missing, name, "%s is missing.", name)
		}
	}
	r := registering{from: f.Points("from", 0, 10000, 1e6), to: f.Points("to", 0, 10000, 1e6)}
	if len(r.from) != len(r.to) {
		f.Fail(refusal.Contradiction, "to", "There are %d landmarks on one picture and %d on the other.", len(r.from), len(r.to))
	}
	r.model = f.Word("model", compare.Similarity, compare.Similarity, compare.Affine)
	r.points = f.Points("points", 0, 10000, 1e6)
	return r
}

func comparedOf(f *refusal.Fields) compare.Asked {
	a := compare.Asked{Grade: f.Word("grade", "", ids(tables.Grades(), func(g tables.Grade) string { return g.ID })...),
		Mode: f.Word("mode", compare.Reference, compare.Reference, compare.Mirror), MMPerUnit: f.Number("mm_per_unit", 1, 1e-6, 1e6)}
	id := only()
	for _, m := range f.Children("marks", 0, 1000) {
		a.Marks = append(a.Marks, compare.Mark{ID: id(m), A: m.Point("a", 1e6), B: m.Point("b", 1e6), Exempt: m.Truth("exempt")})
		f.Adopt(m)
	}
	id = only()
	for _, m := range f.Children("tones", 0, 10000) {
		a.Tones = append(a.Tones, compare.Tone{ID: id(m), A: toneOf(m, "a"), B: toneOf(m, "b")})
		f.Adopt(m)
	}
	if f.Has("edge_visibility") {
		v := f.Number("edge_visibility", 0, 0, 1e6)
		a.Edge = &v
	}
	if f.Has("seam_mm") {
		v := f.Number("seam_mm", 0, 0, 50)
		a.SeamMM = &v
	}
	return a
}

// toneOf reads a colour, three numbers.
func toneOf(f *refusal.Fields, name string) colour.Lab {
	if !f.Has(name) {
		f.Fail(refusal.Missing, name, "%s is missing.", name)
		return colour.Lab{}
	}
	v, _ := f.Raw(name).([]any)
	var out [3]float64
	for i := range out {
		x, isNumber := float64(0), false
		if len(v) == 3 {
			x, isNumber = v[i].(float64)
		}
		if !isNumber {
			f.Fail(refusal.NotANumber, name, "%s must be L, a and b.", name)
			return colour.Lab{}
		}
		out[i] = x
	}
	return colour.Lab{L: out[0], A: out[1], B: out[2]}
}

type sampling struct {
	copies            int
	share, confidence float64
}

func sampleOf(f *refusal.Fields) sampling {
	if !f.Has("copies") {
		f.Fail(refusal.Missing, "copies", "copies is missing.")
	}
	return sampling{f.Whole("copies", 1, 1, 1e5), f.Number("bad_share", 0.1, 1e-4, 1), f.Number("confidence", 0.95, 0.5, 0.9999)}
}
