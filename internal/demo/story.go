package demo

// What happened in the shop before Monday, 09:10.

import (
	"github.com/google/uuid"

	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/handover"
)

func (t *teller) history() {
	t.at(12, 16, 10, 0)
	first := t.cast("ivo", order("BF-01", 400, 392.75, 1), "BF-01/M1")
	t.at(12, 16, 15, 30)
	t.demould("ivo", first[0], "")
	t.finish("ivo", first[0])
	t.judge(first[0], "accept", "")

	t.at(12, 18, 9, 30)
	sticky := t.cast("pip", order("BF-03", 500, 472, 1), "BF-03/M1")
	t.at(12, 18, 11, 0)
	t.demould("ivo", sticky[0], "wanted the mould for the afternoon")
	t.judge(sticky[0], "scrap", "torn at the mouth corner, still tacky inside")

	t.at(1, 6, 9, 20)
	good := t.cast("ivo", order("BF-03", 500, 472, 2), "BF-03/M1", "BF-03/M2")
	t.at(1, 6, 15, 0)
	for _, c := range good {
		t.demould("ivo", c, "")
	}
	t.finish("pip", good[0])
	t.judge(good[0], "accept", "edge reads well at the nose")
	t.finish("pip", good[1], work.Trim, work.Wash, work.Seam)

	t.at(1, 7, 9, 45)
	jaw := t.cast("ivo", order("PK-01", 900, 830, 1), "PK-01/M1")
	t.at(1, 7, 16, 0)
	t.demould("ivo", jaw[0], "")
	t.finish("ivo", jaw[0])

	// The camera test asked for veins: what is made keeps its body, its colour
	// is done again.
	t.at(1, 8, 11, 30)
	t.agree("BF-03", barnacled(), 1)

	t.at(1, 8, 14, 0)
	pieces, err := piece.All(t.ctx, t.s.DB)
	t.try(err)
	if t.err != nil {
		return
	}
	days, err := t.s.Productions.Days(t.ctx, t.s.DB, pieces[0].ProductionID)
	t.try(err)
	if t.err != nil {
		return
	}
	_, err = t.s.Handover.Pack(t.who["maud"], handover.NewKit{DayID: days[0].ID, Artist: "Jun Abbot", Note: "For the camera test on the quay; keep it cool on the way.", Copies: first[:1]})
	t.try(err)
	_, err = t.s.Handover.Hand(t.who["maud"], "K-001")
	t.try(err)
}

// places are where things wait in this shop.
func (t *teller) places() {
	t.at(12, 1, 9, 20)
	for _, p := range []build.NewPlace{{Name: "rack", Kind: "rack"}, {Name: "cold 1", Kind: "cold"},
		{Name: "warm box", Kind: "warm_box"}, {Name: "oven", Kind: "oven"}} {
		if t.err == nil {
			_, err := t.s.Build.AddPlace(t.who["maud"], p)
			t.try(err)
		}
	}
	alone, shelves, trays := true, 24, 4
	t.rule("warm-box", build.PlaceRules{Alone: &alone})
	t.rule("rack", build.PlaceRules{Takes: &shelves})
	t.rule("oven", build.PlaceRules{Takes: &trays})
}

func (t *teller) rule(place string, r build.PlaceRules) {
	if t.err == nil {
		_, err := t.s.Build.Rule(t.who["maud"], place, r)
		t.try(err)
	}
}

// potOf is the pot that stands of a session.
func (t *teller) potOf(run string) uint64 {
	if t.err != nil {
		return 0
	}
	r, err := t.s.Build.Run(t.ctx, run)
	t.try(err)
	for _, st := range r.Stages {
		if st.PotID != nil {
			return *st.PotID
		}
	}
	return 0
}

// oven sets the oven, or switches it off for 0.
func (t *teller) oven(who string, c float64) {
	if t.err != nil {
		return
	}
	var set build.Set
	if c > 0 {
		set.SetC = &c
	}
	_, err := t.s.Build.SetPlace(t.who[who], "oven", set)
	t.try(err)
}

func (t *teller) thisMorning() {
	// Sunday, so that one pot rings on Monday and the beak has two coats by then.
	t.at(1, 11, 15, 40)
	beak := t.session("pip", build.NewRun{Piece: "GC-01", Copies: 1, Moulds: []string{"GC-01/M1"}, Place: "bench 3"})
	t.stage("pip", beak, 1, "")
	t.at(1, 11, 16, 30)
	glove := t.session("ivo", build.NewRun{Piece: "AL-04-L", Copies: 1, Place: "on the cast"})
	t.stage("ivo", glove, 1, "")
	t.at(1, 11, 17, 50)
	t.stage("pip", beak, 2, "")
	t.at(1, 11, 18, 10)
	t.cast("maud", order("PK-01", 900, 830, 1), "PK-01/M1")
	// Foam since the early morning: gelled, and in the oven.
	t.at(1, 12, 5, 50)
	t.oven("maud", 95)
	foam := t.session("maud", build.NewRun{Piece: "AL-02", Copies: 1, Place: "the mixer"})
	t.stage("maud", foam, 1, "")
	t.at(1, 12, 5, 54)
	t.stage("maud", foam, 2, "")
	t.at(1, 12, 6, 6)
	if t.err == nil {
		_, err := t.s.Build.Observe(t.who["maud"], t.potOf(foam), "gelled")
		t.try(err)
	}
	t.stage("maud", foam, 3, "")
	// A glove of latex and tissue: its third coat went on while the second was wet.
	t.at(1, 12, 7, 5)
	t.stage("ivo", glove, 2, "")
	t.at(1, 12, 7, 20)
	t.cast("ivo", order("BF-03", 500, 472, 1), "BF-03/M1")
	t.at(1, 12, 8, 1)
	t.stage("ivo", glove, 3, "the light test wants to see its thickness")
	t.at(1, 12, 8, 5)
	hand := t.session("ivo", build.NewRun{Piece: "NM-01-L", Copies: 1, Place: "chair 2, for the light test"})
	t.stage("ivo", hand, 1, "")
	t.at(1, 12, 8, 14)
	t.stage("ivo", hand, 2, "")
	t.at(1, 12, 8, 24)
	t.stage("ivo", hand, 3, "")
	note := func(who, code, words string) {
		t.try(t.s.Pieces.Note(t.who[who], code, piece.NewNote{Words: words, Key: uuid.NewString()}))
	}
	t.at(1, 12, 8, 36)
	t.stage("pip", beak, 3, "")
	t.at(1, 12, 8, 40)
	wearer, err := piece.Find(t.ctx, t.s.DB, "BF-03")
	t.try(err)
	_, err = t.s.People.RecordPatch(t.who["maud"], *wearer.PerformerID, people.NewPatch{Material: "remover-ester", Lot: "25-099", Result: "open", TestedOn: "2026-01-12", ExpiresOn: "2026-03-01"})
	t.try(err)
	// A second foam was left in its bowl when the gate bell rang.
	t.at(1, 12, 8, 44)
	bowl := t.session("pip", build.NewRun{Piece: "AL-01", Copies: 1, Place: "the mixer"})
	t.stage("pip", bowl, 1, "")
	t.at(1, 12, 8, 50)
	web := t.session("pip", build.NewRun{Piece: "FT-02-R", Copies: 1, Place: "hot plate"})
	t.stage("pip", web, 1, "")
	t.at(1, 12, 8, 54)
	t.stage("pip", web, 2, "")
	if t.err == nil {
		_, err := t.s.Build.MovePot(t.who["pip"], t.potOf(web), build.Moved{Place: "cold-1"})
		t.try(err)
	}
	t.at(1, 12, 8, 55)
	note("pip", "GC-01", "third slush coat drained, seam wiped")
	t.at(1, 12, 9, 2)
	t.stage("ivo", hand, 4, "")
	t.at(1, 12, 9, 5)
	thinner := barnacled()
	thinner.Layers[4].CentreMM, thinner.Layers[4].Note = 5, "thinner, for the smile"
	t.plan("ivo", "BF-03", thinner, 2)
	_, err = t.s.Mix.Plan(t.who["ivo"], order("BF-01", 400, 392.75, 4))
	t.try(err)
}

// session begins a session that makes copies and gives its code.
func (t *teller) session(who string, run build.NewRun) string {
	if t.err != nil {
		return ""
	}
	run.Key = uuid.NewString()
	r, err := t.s.Build.Begin(t.who[who], run)
	t.try(err)
	return r.Code
}

// stage says that a stage of a run is done now.
func (t *teller) stage(who, run string, seq int, reason string) {
	if t.err != nil {
		return
	}
	_, err := t.s.Build.Done(t.who[who], run, seq, build.DoneStage{Reason: reason, Checked: true})
	t.try(err)
}
