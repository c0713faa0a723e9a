package demo

// The finishing and checking benches: what is planned, half done, repaired, traced.

import (
	"bytes"
	"fmt"
	"sync"
	"time"

	"github.com/google/uuid"

	craftcolour "yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/hair"
	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/document"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/station/brief"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/check"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/handover"
	"yewmoor/internal/station/mould"
)

// benched tells what stands on both benches.
func (t *teller) benched() {
	t.studies()
	t.sticky()
	t.webs()
	t.bristle()
	t.belly()
	t.feathers()
	t.jaw()
}

// studies pins a study to every piece that has none, with its landmarks and scale.
func (t *teller) studies() {
	t.at(12, 10, 16, 0)
	pieces, err := piece.All(t.ctx, t.s.DB)
	t.try(err)
	// They are drawn beside each other: it is what the first start takes longest for.
	drawn, drawing := make([]func() ([]byte, error), len(pieces)), sync.WaitGroup{}
	for i, p := range pieces {
		drawn[i] = sync.OnceValues(func() ([]byte, error) { return studied(p.Code) })
		v, err := t.s.Pieces.View(t.ctx, p.Code)
		t.try(err)
		if err == nil && len(v.References) == 0 {
			drawing.Go(func() { _, _ = drawn[i]() })
		}
	}
	drawing.Wait()
	for i, p := range pieces {
		if t.err != nil {
			return
		}
		v, err := t.s.Pieces.View(t.ctx, p.Code)
		t.try(err)
		if t.err == nil && len(v.References) == 0 {
			raw, err := drawn[i]()
			t.try(err)
			v, err = t.s.Brief.Pin(t.who["maud"], p.Code, brief.About{Caption: "Study for " + p.Code, Credit: "drawn for this demo", View: "front", Standing: "direct"}, bytes.NewReader(raw))
			t.try(err)
		}
		if t.err == nil {
			_, err = t.s.Check.Describe(t.who["maud"], v.References[0].SHA256, aboutStudy())
			t.try(err)
		}
	}
}

// picture sets the landmarks and the card on the newest picture of a copy.
func (t *teller) picture(copyCode string) {
	if t.err != nil {
		return
	}
	b, err := t.s.Check.Beside(t.ctx, copyCode)
	t.try(err)
	if t.err != nil || len(b.Shots) == 0 || b.Shots[0].Of != "copy" || b.Shots[0].About.Version > 0 {
		return
	}
	_, err = t.s.Check.Describe(t.who["pip"], b.Shots[0].SHA256, aboutCopy(copyCode))
	t.try(err)
}

// fault writes one down and answers what was looked at.
func (t *teller) fault(who, copyCode string, in check.NewFault, answers map[string]string) check.Traced {
	in.Key = uuid.NewString()
	if t.err != nil {
		return check.Traced{}
	}
	f, err := t.s.Check.See(t.who[who], copyCode, in)
	t.try(err)
	for _, id := range []string{"soft_where", "later_firm", "degassed", "hurried", "mould_sealed", "fill_way"} {
		if state, said := answers[id]; said && t.err == nil {
			f, err = t.s.Check.Answer(t.who[who], f.ID, check.Answer{Evidence: id, State: state, Version: f.Version})
			t.try(err)
		}
	}
	return f
}

// said answers a fault: what it was, and what is done.
func (t *teller) said(f check.Traced, cause string, r check.Remedied) check.Traced {
	if t.err != nil {
		return f
	}
	f, err := t.s.Check.Say(t.who["maud"], f.ID, check.Said{Cause: cause, Version: f.Version})
	t.try(err)
	if t.err == nil {
		r.Version = f.Version
		f, err = t.s.Check.Remedy(t.who["maud"], f.ID, r)
		t.try(err)
	}
	return f
}

func (t *teller) propose(f check.Traced, to, text string) {
	if t.err == nil {
		_, err := t.s.Check.Propose(t.who["ivo"], f.ID, check.NewProposal{GoesTo: to, Text: text, Version: f.Version})
		t.try(err)
	}
}

// sticky is the cheek that was taken out for the mould's sake.
func (t *teller) sticky() {
	t.at(12, 18, 11, 40)
	f := t.fault("ivo", "BF-03-a", check.NewFault{Fault: "F-TACKY", Place: "by the mouth corner", Words: "on one side only"}, map[string]string{"soft_where": "deep", "later_firm": "yes"})
	f = t.said(f, "C-EARLY", check.Remedied{Remedy: "scrap", Words: "torn as well"})
	t.propose(f, "plan", "No mould is promised before its pot says ready.")
}

// webs are three casts of one pour, out of three plates of which one was never dried.
func (t *teller) webs() {
	t.at(1, 5, 10, 0)
	var plates []string
	for _, kg := range [][]float64{{1.17, 1.15, 1.13, 1.11}, {1.16, 1.02, 0.96, 0.944}, {1.18, 1.01, 0.955, 0.942}} {
		t.at(1, 5, 10, 0)
		code := t.mould("FT-02-R", mould.NewMould{Kind: mouldmath.Plate, Material: mouldmath.CastingPlaster, State: "wet", ReleaseAgent: "petroleum jelly, thin", Parts: 1, Place: "bench 1", Life: 15, DryKG: 0.94})
		for day, x := range kg {
			t.at(1, 5+day, 16, 0)
			t.weigh(code, "", x)
		}
		// It felt dry, and somebody said so: of the first the scale knew better.
		if t.err == nil {
			t.try(t.s.Mould.SetState(t.who["ivo"], code, "dry"))
		}
		plates = append(plates, code)
	}
	if t.err != nil {
		return
	}
	t.at(1, 9, 8, 20)
	because := web.WithBecause(t.who["maud"], "wanted for the camera test, wet or not")
	r, err := t.s.Build.Begin(because, build.NewRun{Piece: "FT-02-R", Copies: 3, Moulds: plates, Place: "hot plate", Key: uuid.NewString()})
	t.try(err)
	for seq := 1; t.err == nil && seq <= 2; seq++ {
		t.clock.Set(t.clock.Now().Add(8 * time.Minute))
		_, err = t.s.Build.Done(because, r.Code, seq, build.DoneStage{Checked: true})
		t.try(err)
	}
	t.at(1, 9, 12, 0)
	if t.err == nil {
		_, err = t.s.Build.TakeOut(because, t.potOf(r.Code), build.Out{})
		t.try(err)
	}
	if t.err != nil {
		return
	}
	wet, torn, good := r.Copies[0].Code, r.Copies[1].Code, r.Copies[2].Code
	t.finish("pip", wet, work.Trim, work.Wash, work.Picture)
	f := t.fault("pip", wet, check.NewFault{Fault: "F-PINHOLE", Place: "all over the mould side", Words: "like a sponge"}, map[string]string{"degassed": "yes", "fill_way": "slow", "mould_sealed": "no"})
	f = t.said(f, "C-WETMOULD", check.Remedied{Remedy: "scrap"})
	t.propose(f, "mould", "Dried to constant mass before it is poured into; two coats of shellac.")
	t.judge(wet, "scrap", "pinholes from end to end")

	t.finish("pip", torn)
	f = t.fault("ivo", torn, check.NewFault{Fault: "F-TORNEDGE", Place: "at the thumb", Words: "4 mm in"}, map[string]string{"hurried": "yes"})
	f = t.said(f, "C-HAND", check.Remedied{Remedy: "repair", Words: "a drop of the same gelatin from behind"})
	if t.err == nil {
		minutes := 15.0
		_, err = t.s.Check.Judge(t.who["maud"], torn, check.NewVerdict{Verdict: "repair", Reason: "torn at the thumb", Fault: f.ID, Items: []string{"edge"}, Mend: "Close the tear from behind with the same gelatin, warm", Minutes: &minutes})
		t.try(err)
	}
	t.finish("ivo", good)
	t.judge(good, "accept", "clean")
	t.packed(good)
}

// packed puts a copy into a kit that waits for its day.
func (t *teller) packed(copyCode string) {
	if t.err != nil {
		return
	}
	t.at(1, 9, 16, 0)
	pieces, err := piece.All(t.ctx, t.s.DB)
	t.try(err)
	days, err := t.s.Productions.Days(t.ctx, t.s.DB, pieces[0].ProductionID)
	t.try(err)
	if t.err == nil {
		_, err = t.s.Handover.Pack(t.who["maud"], handover.NewKit{DayID: days[1].ID, Artist: "Jun Abbot", Note: "In its own cast, powdered; not above 25 °C.", Copies: []string{copyCode}})
		t.try(err)
	}
}

// agreePlan saves a finish plan and agrees it.
func (t *teller) agreePlan(of string, doc plan.Plan) {
	if t.err != nil {
		return
	}
	_, err := t.s.Finish.SavePlan(t.who["maud"], of, document.DraftOf[plan.Plan]{Doc: doc})
	t.try(err)
	if t.err == nil {
		_, err = t.s.Finish.AgreePlan(web.WithBecause(t.who["maud"], "carried by the harness, with minutes on and off"), of)
		t.try(err)
	}
}

func noPlan() plan.Plan {
	return plan.Plan{Hair: []plan.Zone{}, Inserts: []plan.Inserts{}, Worn: []plan.Worn{}, Parts: []plan.Part{}, Weights: []plan.Bags{}, Closures: []plan.Closure{}, Borders: []plan.Border{}}
}

// bristle stands between the shells of the cheek: planned, and half of it set.
func (t *teller) bristle() {
	t.at(1, 9, 9, 30)
	doc := noPlan()
	doc.Hair = []plan.Zone{{ID: "h1", Name: "bristle between the shells", Way: "punched", Outline: []texture.P{{24, 30}, {50, 12}, {76, 22}, {68, 46}, {32, 52}}, FadeEdges: []int{2, 3}, Density: 14, Edge: 2, FadeMM: 14,
		Guides: []hair.Guide{{At: texture.P{34, 36}, Deg: 205}, {At: texture.P{64, 28}, Deg: 150}}, JitterDeg: 12, Seed: 7, Fibre: "yak", Colours: []plan.Shade{{Name: "grey-brown", Share: 0.7, Lot: ""}, {Name: "white", Share: 0.3}},
		VisibleMM: 9, CurlMM: 0, PitchMM: 20, TrimMM: 4, TrimWhy: "cut once the shells are dry", RootMM: 4, Waste: 0.3, Per: 1, Prepared: []string{"washed", "steamed_straight"}}}
	doc.Inserts = []plan.Inserts{{ID: "i1", Name: "shells from the strand", Sort: "shells", Need: 12, SizeMM: 6, SpreadMM: 2.5, Lab: &craftcolour.Lab{L: 66, A: 1, B: 9}, Yield: 0.8, EachMin: 3, DryH: 12,
		Places: []plan.Spot{{N: 1, At: texture.P{14, 58}}, {N: 2, At: texture.P{24, 62}}, {N: 3, At: texture.P{36, 60}}, {N: 4, At: texture.P{48, 66}}, {N: 5, At: texture.P{60, 70}}, {N: 6, At: texture.P{72, 62}},
			{N: 7, At: texture.P{80, 52}}, {N: 8, At: texture.P{58, 56}}, {N: 9, At: texture.P{44, 56}}, {N: 10, At: texture.P{82, 38}}, {N: 11, At: texture.P{70, 54}}, {N: 12, At: texture.P{12, 48}}},
		Fixing: "set_in_silicone", Motion: "walking", MassG: 0.8, ArmMM: 3, BaseMM: 5, AreaMM2: 22, When: "on the stand"}}
	doc.Worn = []plan.Worn{{ID: "w1", Sort: "lens", Name: "clouded lens, left", Size: "as measured", For: "Oren Thale", FittedBy: "the optician at the quay gate", Hygiene: "its own case, fresh fluid each day", MostH: 6, Slot: "last", SlotWhy: "colour and powder are on", Count: 1}}
	t.agreePlan("BF-03", doc)
	if t.err != nil {
		return
	}
	_, err := t.s.Finish.Made(t.who["pip"], "BF-03", finish.NewBatch{Of: "i1", Made: 20, Good: 15, Note: "five too flat", Key: uuid.NewString()})
	t.try(err)
	for range 9 {
		if t.err == nil {
			t.clock.Set(t.clock.Now().Add(3 * time.Minute))
			_, err = t.s.Finish.Count(t.who["pip"], "BF-03", finish.NewCount{Of: "h1", N: 12, Seconds: 78, Copy: "BF-03-c", Key: uuid.NewString()})
			t.try(err)
		}
	}
	look := func(name string, step float64, way string, coats int) {
		if t.err == nil {
			t.clock.Set(t.clock.Now().Add(10 * time.Minute))
			_, err := t.s.Finish.LookAt(t.who["pip"], "BF-03-c", finish.NewLook{Kind: "edge", Name: name, Mark: "e1", LengthMM: 62, Intent: "vanish", StepMM: step, RampMM: 1.5, How: "measured", Way: way, Coats: coats, Key: uuid.NewString()})
			t.try(err)
		}
	}
	look("edge 1 of the map", 0.22, "", 0)
	look("edge 1 of the map", 0.04, "melt_acetone", 3)
	t.fault("pip", "BF-03-c", check.NewFault{Fault: "F-BUBBLE", Place: "upper rim of the cheek", Words: "two pinheads, the same place again"}, nil)
}

// belly is weighed down and opens at the back.
func (t *teller) belly() {
	t.at(1, 9, 11, 0)
	doc := noPlan()
	doc.Weights = []plan.Bags{{ID: "b1", Name: "low in the belly", Filler: "glass_beads", TargetG: 1040, BagML: 60, Fill: 0.7, Sweat: true}}
	doc.Closures = []plan.Closure{{ID: "c1", Name: "down the back, inside the robe", Sort: "zip", Shown: "hidden by costume and hair", DonMin: 4, DoffMin: 1, Cooling: "open it to the waist between takes"}}
	doc.Age = &plan.Age{Level: 2, Words: "ink and gravy down the front", Reversible: true}
	t.agreePlan("PK-02", doc)
}

// feathers belong to a look: nothing of it is cast.
func (t *teller) feathers() {
	t.at(1, 9, 12, 0)
	if t.err != nil {
		return
	}
	list, err := t.s.Brief.SetLook(t.who["maud"], "GC", brief.NewLook{Name: "at the desk", Stage: 1, Note: "down on both brows, laid on the wearer's own", Pieces: []string{"GC-01"}})
	t.try(err)
	if t.err != nil || len(list) == 0 {
		return
	}
	doc := noPlan()
	doc.Hair = []plan.Zone{{ID: "h1", Name: "down of the left brow", Way: "laid", Outline: []texture.P{{-31, -9}, {31, -9}, {35, 8}, {-29, 10}}, Density: 60, Edge: 15, FadeMM: 9, Guides: []hair.Guide{{At: texture.P{0, 0}, Deg: 20}}, JitterDeg: 8, Seed: 3,
		Fibre: "goat", Colours: []plan.Shade{{Name: "white", Share: 1}}, VisibleMM: 14, CurlMM: 3, PitchMM: 12, TrimMM: 6, TrimWhy: "cut when the glue is dry", RootMM: 4, Waste: 0.25, Per: 1, Prepared: []string{"curled"}, Glued: "tacky"}}
	doc.Worn = []plan.Worn{{ID: "w1", Sort: "wig_cap", Name: "cap, taped at the temples", MostH: 0, Slot: "first", SlotWhy: "the wig goes over it", Count: 1}, {ID: "w2", Sort: "pins", Name: "pins", Slot: "first", Count: 14}}
	t.agreePlan(fmt.Sprintf("look-%d", list[len(list)-1].ID), doc)
}

// jaw waits for its verdict, laid beside its study.
func (t *teller) jaw() {
	t.at(1, 7, 17, 0)
	for _, code := range []string{"BF-01-a", "BF-03-b", "PK-01-a"} {
		t.picture(code)
	}
	if t.err != nil {
		return
	}
	b, err := t.s.Check.Beside(t.ctx, "PK-01-a")
	t.try(err)
	for _, x := range b.Shots {
		if x.Of == "reference" && t.err == nil {
			_, err = t.s.Check.Compare(t.who["pip"], "PK-01-a", check.Ask{Picture: b.Shots[0].SHA256, With: x.SHA256, Mode: "reference"})
			t.try(err)
			break
		}
	}
	for _, in := range []check.NewTest{{What: "tack", Result: "good"}, {What: "smell", Result: "good"}} {
		if t.err == nil {
			in.Key = uuid.NewString()
			_, err := t.s.Check.Try(t.who["ivo"], "PK-01-a", in)
			t.try(err)
		}
	}
}
