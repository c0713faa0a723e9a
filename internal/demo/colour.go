package demo

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	craft "yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/injury"
	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/document"
	"yewmoor/internal/station/colour"
	station "yewmoor/internal/station/mix"
	"yewmoor/internal/station/stores"
)

// coloured tells the colour room's part: pigments that were drawn down, the light of a set,
// a batch that was put right, a match that fails under one light, a bruise in three ages, a
// palette that three pieces share, a paint schedule.
func (t *teller) coloured() {
	t.pigments()
	t.at(1, 9, 12, 10)
	_, err := t.s.Colour.AddLight(t.who["ivo"], colour.NewLight{Name: "chapel", File: chapel(),
		Origin: "read at the altar rail, all fixtures up"})
	t.try(err)
	t.putRight()
	t.failing()
	t.book()
	t.cards()
	t.sharedColours()
	t.schedule()
}

// pigments come in, and two that were there are drawn down over white and black: the red is
// a little stronger than the library's.
func (t *teller) pigments() {
	t.at(1, 9, 9, 40)
	for i, p := range []struct{ slug, g string }{{"pigment-white", "80 g"}, {"pigment-yellow", "60 g"}, {"pigment-sienna", "60 g"},
		{"pigment-black", "30 g"}, {"pigment-blue", "50 g"}, {"pigment-magenta", "20 g"},
		{"pigment-water-white", "150 g"}, {"pigment-water-yellow", "150 g"}, {"pigment-water-red", "150 g"},
		{"pigment-water-umber", "150 g"}, {"pigment-water-black", "80 g"}, {"pigment-water-blue", "100 g"}} {
		if t.err == nil {
			_, err := t.s.Stores.Receive(t.who["maud"], stores.NewLot{Material: p.slug, Code: fmt.Sprintf("25-2%02d", i+1),
				Supplier: "Harrow Rubber Works", Amount: p.g, ExpiresOn: "2028-06-30", Shelf: "paint"})
			t.try(err)
		}
	}
	t.at(1, 9, 11, 20)
	for _, p := range []struct {
		slug, lot, tint string
		strength        float64
	}{{"pigment-red", "24-012", "RO", 1.09}, {"pigment-umber", "24-013", "BU", 0.96}} {
		if t.err != nil {
			return
		}
		base, errB := craft.BaseOf("silicone")
		mixed, errM := base.Mixed([]craft.Dose{{Pigment: p.tint, G: 0.5 * p.strength}}, 0)
		t.try(errB)
		t.try(errM)
		over := func(backing craft.Spectrum) colour.NewReading {
			return colour.NewReading{Source: "spectrum", File: asFile(mixed.Over(0.6, &backing))}
		}
		dark := over(craft.Black)
		_, err := t.s.Colour.Calibrate(t.who["ivo"], colour.NewCalibration{Material: p.slug, Lot: p.lot, Base: "silicone", Amount: 0.5,
			X: 0.6, OverW: over(craft.White), OverB: &dark})
		t.try(err)
	}
}

// asFile is a spectrum as an instrument writes it.
func asFile(r craft.Spectrum) string {
	var out strings.Builder
	out.WriteString("nm,reflectance\n")
	for i, v := range r {
		fmt.Fprintf(&out, "%d,%.5f\n", 380+10*i, v)
	}
	return out.String()
}

// chapel is the light of the chapel set: cold diodes with little red.
func chapel() string {
	var out strings.Builder
	out.WriteString("nm,power\n")
	for nm := 380; nm <= 730; nm += 10 {
		x := float64(nm)
		fmt.Fprintf(&out, "%d,%.4f\n", nm, 0.03+0.95*math.Exp(-math.Pow((x-452)/13, 2))+math.Exp(-math.Pow((x-568)/70, 2)))
	}
	return out.String()
}

// weighed weighs a mix in as the bench does; off says by how much a material is off.
func (t *teller) weighed(who, code string, off map[string]float64) {
	if t.err != nil {
		return
	}
	ctx := t.who[who]
	v, err := t.s.Mix.View(ctx, code)
	t.try(err)
	var confirm []string
	for _, n := range v.Follows.Confirm {
		confirm = append(confirm, n.Code)
	}
	if t.err == nil && v.State == "planned" {
		v, err = t.s.Mix.Begin(ctx, code, confirm...)
		t.try(err)
	}
	for i := 0; t.err == nil && v.Current != 0 && i < 40; i++ {
		at := slices.IndexFunc(v.Lines, func(l station.Line) bool { return l.Seq == v.Current })
		if at < 0 {
			v = t.stepDone(ctx, v)
			continue
		}
		times, has := off[v.Lines[at].Material]
		if !has {
			times = 1
		}
		t.clock.Set(t.clock.Now().Add(40 * time.Second))
		v, err = t.s.Mix.Weigh(ctx, code, station.WeighIn{Seq: v.Current, Key: uuid.NewString(), Confirmed: confirm,
			Typed: fmt.Sprintf("%.2f g", v.Lines[at].AddG*times)})
		t.try(err)
	}
}

// stepDone does the step that is next, after its time.
func (t *teller) stepDone(ctx context.Context, v station.View) station.View {
	for _, st := range v.Steps {
		if st.Seq != v.Current {
			continue
		}
		if st.Seconds > 0 {
			_, err := t.s.Mix.BeginStep(ctx, v.Code, st.Seq)
			t.try(err)
			t.clock.Set(t.clock.Now().Add(time.Duration(st.Seconds+1) * time.Second))
		}
		next, err := t.s.Mix.DoneStep(ctx, v.Code, st.Seq, station.StepDone{})
		t.try(err)
		return next
	}
	t.try(fmt.Errorf("%s: nothing is at %d", v.Code, v.Current))
	return v
}

// take takes one proposal of a piece and answers its mix.
func (t *teller) take(who, code string, baseG float64, which func(colour.Matched) colour.Proposal) (recipe, mix string) {
	if t.err != nil {
		return "", ""
	}
	m, err := t.s.Colour.Match(t.who[who], code, colour.Question{BatchG: baseG})
	t.try(err)
	if t.err != nil || len(m.Proposals) == 0 {
		return "", ""
	}
	in := colour.Taken{BaseG: baseG}
	for _, p := range which(m).Parts {
		in.Parts = append(in.Parts, colour.TakenPart{Material: p.Material, Per100: p.Per100})
	}
	room, err := t.s.Colour.Take(t.who[who], code, in)
	t.try(err)
	if t.err != nil {
		return "", ""
	}
	return room.Recipes[0].Code, *room.Recipes[0].Mix
}

func first(m colour.Matched) colour.Proposal { return m.Proposals[0] }

// putRight is a trial for the bell-founder's cheek, as he will be after a week on the quay:
// the sienna was short, the drawdown shows it, and what was added put it right.
func (t *teller) putRight() {
	t.at(1, 9, 13, 0)
	ctx := t.who["ivo"]
	_, err := t.s.Colour.SetAim(ctx, "BF-03", colour.NewAim{Kind: "skin", Region: "cheek", TanSteps: 1})
	t.try(err)
	recipe, mix := t.take("ivo", "BF-03", 60, first)
	t.weighed("ivo", mix, nil)
	t.clock.Set(t.clock.Now().Add(100 * time.Minute))
	t.weak("ivo", "BF-03", recipe, 0.62)
	room, err := t.s.Colour.Room(ctx, "BF-03")
	t.try(err)
	if t.err != nil {
		return
	}
	if d := room.Recipes[0].Drawn; len(d) > 0 && len(d[0].Answer.Add) > 0 {
		_, err = t.s.Colour.PutIn(ctx, recipe, d[0].ID)
		t.try(err)
		t.weighed("ivo", mix, nil)
		t.clock.Set(t.clock.Now().Add(100 * time.Minute))
		t.weak("ivo", "BF-03", recipe, 0.62)
	}
	_, err = t.s.Mix.Use(ctx, mix, station.Used{What: "drawdowns for the cheek of BF-03"})
	t.try(err)
}

// weak types the reading of a drawdown in which the strongest pigment is a lot that has lost
// some of its strength.
func (t *teller) weak(who, code, recipe string, strength float64) {
	room, err := t.s.Colour.Room(t.who[who], code)
	t.try(err)
	list, err := t.s.Colour.Pigments(t.who[who])
	t.try(err)
	if t.err != nil {
		return
	}
	r := room.Recipes[0]
	strongest := slices.MaxFunc(r.Real, func(a, b colour.Part) int { return int(math.Copysign(1, a.Per100-b.Per100)) })
	var known craft.Palette
	var doses []craft.Dose
	for _, p := range list {
		if lib, err := craft.PigmentOf(p.Tint, ""); err == nil {
			one := *lib
			one.ID = p.Material
			known = append(known, &one)
		}
	}
	for _, p := range r.Real {
		d := craft.Dose{Pigment: p.Material, G: p.Per100}
		if p.Material == strongest.Material {
			d.G *= strength
		}
		doses = append(doses, d)
	}
	base, err := craft.BaseOf(r.Base)
	t.try(err)
	mixed, err := base.MixedOf(known, doses, 0)
	t.try(err)
	seen := mixed.Over(3, &craft.White)
	lab := seen.Lab(craft.D65)
	_, err = t.s.Colour.Draw(t.who[who], recipe, colour.NewDrawdown{X: 3, Backing: "white", Dry: true,
		Reading: colour.NewReading{Source: "lab", L: &lab.L, A: &lab.A, B: &lab.B}})
	t.try(err)
}

// failing is the clerk's beak: what matches by daylight fails in the bakehouse.
func (t *teller) failing() {
	t.at(1, 9, 14, 20)
	_, mix := t.take("pip", "GC-01", 120, func(m colour.Matched) colour.Proposal {
		worst := m.Proposals[0]
		for _, p := range m.Proposals {
			if p.Lights[0].DE00 < 1 && p.Lights[1].DE00 > worst.Lights[1].DE00 {
				worst = p
			}
		}
		return worst
	})
	t.weighed("pip", mix, nil)
	if t.err == nil {
		_, err := t.s.Mix.Use(t.who["pip"], mix, station.Used{What: "a strip for the beak, to be held under lamps"})
		t.try(err)
	}
}

// book keeps colours that were mixed by hand, and a bruise in three ages on the mender.
func (t *teller) book() {
	t.at(1, 9, 15, 30)
	ctx := t.who["ivo"]
	num := func(v float64) *float64 { v = math.Round(10*v) / 10; return &v }
	keep := func(name, medium, piece, note string, c craft.Lab) {
		if t.err == nil {
			_, err := t.s.Colour.AddSwatch(ctx, colour.NewSwatch{Name: name, Material: medium, Piece: piece, Light: "daylight",
				Note: note, Reading: colour.NewReading{Source: "lab", L: num(c.L), A: num(c.A), B: num(c.B)}})
			t.try(err)
		}
	}
	keep("quay grey", "paint-alcohol", "BF-03", "barnacle tips; dries lighter", craft.Lab{L: 66, A: 1, B: 9})
	keep("bell red", "paint-alcohol", "BF-01", "rims, three thin washes", craft.Lab{L: 42, A: 24, B: 19})
	keep("gill pink", "paint-silicone", "FT-02-R", "inside of the webs", craft.Lab{L: 63, A: 22, B: 12})
	keep("wet slate", "paint-silicone", "PK-01", "belly into the neck", craft.Lab{L: 46, A: -2, B: -4})
	if t.err != nil {
		return
	}
	for _, h := range []struct {
		hours float64
		word  string
	}{{2, "two hours"}, {60, "three days"}, {190, "eight days"}} {
		hurt, err := t.s.Colour.Injury(ctx, "NM-01-L", "bruise", h.hours, 0.6)
		t.try(err)
		if t.err != nil {
			return
		}
		keep("bruise, "+h.word, "paint-cream", "NM-01-L", "the middle of it", middle(hurt.Zones))
	}
}

func middle(zones []injury.Coloured) craft.Lab { return zones[0].Lab }

// cards are how two things of the bell-founder are put on.
func (t *teller) cards() {
	num := func(v float64) *float64 { return &v }
	for _, c := range []colour.NewCard{
		{Name: "salt fleck", Tool: "spatter", DistanceMM: num(220), Dilution: num(1), Coverage: num(0.1),
			Load: "thumb along a stiff brush, blotted once", Instead: "a torn sponge, turned each time"},
		{Name: "barnacle tips", Tool: "dry_brush", WidthMM: num(20), Coverage: num(0.25),
			Load: "wiped until it only just marks the hand", Note: "across the rims, never along them"},
	} {
		if t.err == nil {
			_, err := t.s.Colour.SetCard(t.who["ivo"], c)
			t.try(err)
		}
	}
}

// sharedColours are what three pieces of the bell-founder and his cap have in common.
func (t *teller) sharedColours() {
	if t.err != nil {
		return
	}
	list, err := t.s.Colour.Palettes(t.who["maud"], "BF-03")
	t.try(err)
	at := slices.IndexFunc(list, func(p colour.Palette) bool { return p.Name == "grown" })
	if t.err != nil || at < 0 {
		return
	}
	lab := func(l, a, b float64) *craft.Lab { return &craft.Lab{L: l, A: a, B: b} }
	_, err = t.s.Colour.SetPalette(t.who["maud"], list[at].Look, []colour.PaletteColour{
		{Name: "quay grey", Lab: *lab(66, 1, 9), Parts: []colour.PalettePart{{What: "BF-01", Lab: lab(66.4, 1.1, 8.6)},
			{What: "BF-02", Lab: lab(65.2, 0.8, 9.3)}, {What: "BF-03", Lab: lab(66, 1, 9)},
			{What: "headdress", Lab: lab(62.5, 0.2, 6.1), Matches: "BF-01"}}},
		{Name: "bell red", Lab: *lab(42, 24, 19), Parts: []colour.PalettePart{{What: "BF-01", Lab: lab(42.6, 23.4, 18.8)},
			{What: "BF-03", Lab: lab(41.8, 24.3, 19.4)}, {What: "hands"}}},
	}, list[at].Version)
	t.try(err)
}

// schedule is how the barnacled cheek is painted.
func (t *teller) schedule() {
	if t.err != nil {
		return
	}
	t.at(1, 9, 16, 10)
	ctx := t.who["ivo"]
	v, err := t.s.Colour.Schedule(ctx, "BF-03")
	t.try(err)
	if t.err != nil || v.Aim == nil {
		return
	}
	deep := func(l, a, b float64) *craft.Lab {
		c := craft.Lab{L: math.Max(3, v.Aim.L+l), A: v.Aim.A + a, B: v.Aim.B + b}
		return &c
	}
	light := 315.0
	doc := paintwork.Schedule{School: "base_first", Where: "partly", LightDeg: &light, Layers: []paintwork.Layer{
		{ID: "base", Name: "own skin, thin", Role: "base", Medium: "paint-alcohol", Tool: "sponge", Lab: deep(0, 0, 0), Passes: 2,
			Coverage: 0.7, CarryMM: 8, Dilution: 3},
		{ID: "veins", Name: "veins", Role: "veins", Medium: "paint-alcohol", Tool: "brush", Lab: deep(-4, -2, -12), LineMM: 0.5,
			ApartMM: 6, Dilution: 6},
		{ID: "wash", Name: "peat wash", Role: "shadow", Medium: "paint-alcohol", Tool: "wash", Lab: deep(-16, -2, -2), Dilution: 8,
			Hidden: true, ReachMM: 3, StopDE: 6, Places: []string{"hollows and rims"}},
		{ID: "fleck", Name: "salt flecks", Role: "spots", Medium: "paint-alcohol", Tool: "spatter", Lab: deep(18, -8, -4), Passes: 1},
		{ID: "tips", Name: "quay grey", Role: "highlight", Medium: "paint-alcohol", Tool: "dry_brush",
			Lab: &craft.Lab{L: 66, A: 1, B: 9}, Coverage: 0.25, ReachMM: 2, Places: []string{"barnacle tips"}, Shine: "matt"},
	}}
	_, err = t.s.Colour.Save(ctx, "BF-03", document.DraftOf[paintwork.Schedule]{Doc: doc, Base: v.State.Base, Step: v.State.Step})
	t.try(err)
	_, err = t.s.Colour.Agree(ctx, "BF-03")
	t.try(err)
}
