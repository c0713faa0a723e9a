package demo

// What was planned for the clay and pressed into it: barnacles that are done,
// scales and bark that are half done, salt cracks that are begun.

import (
	"bytes"
	"fmt"
	"image/color"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/station/sculpt"
)

func span(a, b float64) *texture.Span { return &texture.Span{a, b} }

// ground is a plan on the outline that the piece's brief draws.
func (t *teller) ground(code string, layers ...texture.Layer) texture.Recipe {
	r := texture.Recipe{FeatherMM: 6, Layers: layers}
	list, err := t.s.Sculpt.Outlines(t.who["ivo"], code)
	t.try(err)
	if len(list) > 0 {
		r.Region = list[0].Region
	}
	return r
}

// texture agrees a plan and hands on what it comes to.
func (t *teller) texture(code string, doc texture.Recipe) []texture.Step {
	if t.err != nil {
		return nil
	}
	ctx := t.who["ivo"]
	v, err := t.s.Sculpt.Save(ctx, code, doc, 0, 0)
	t.try(err)
	if t.err != nil {
		return nil
	}
	v, err = t.s.Sculpt.Agree(ctx, code)
	t.try(err)
	if t.err != nil || v.Judged == nil {
		return nil
	}
	return v.Judged.Work.Steps
}

// press ticks steps; took is how long each took, as a share of what was
// planned, 0 for those that nobody timed.
func (t *teller) press(who, code string, steps []texture.Step, took float64) {
	for _, s := range steps {
		if t.err != nil {
			return
		}
		in := sculpt.NewTick{Key: s.Key}
		if took > 0 && s.HandsS > 0 {
			in.Took = minutes(s.HandsS * took)
		}
		_, err := t.s.Sculpt.Tick(t.who[who], code, in)
		t.try(err)
	}
}

// marked is a guide across the region, by shares of its box.
func marked(r texture.Recipe, shares ...texture.P) []texture.P {
	flat, err := r.Region.Lay()
	if err != nil {
		return nil
	}
	w, h := flat.Size()
	out := make([]texture.P, len(shares))
	for i, s := range shares {
		out[i] = texture.P{flat.X0 + s[0]*w, flat.Y0 + s[1]*h}
	}
	return out
}

// sculpted is what went to its mould in December.
func (t *teller) sculpted() {
	t.at(12, 2, 13, 30)
	t.tools()
	t.pass("BF-01", t.texture("BF-01", t.ground("BF-01", texture.Layer{Kind: "barnacles", ID: "shells", Name: "barnacles", Spacing: span(6, 6), Diameter: span(3, 6), ThinOutMM: 8})))
	t.pass("BF-03", t.barnacles("BF-03"))
}

// inTheClay is what is being pressed now: the pike's first scales drowned in
// paint at the camera test, so that his neck is sculpted again.
func (t *teller) inTheClay() {
	t.at(1, 8, 15, 0)
	t.scales("PK-01")
	t.at(1, 9, 9, 20)
	t.bark("AL-01")
	t.salt("NM-01-L")
	for _, n := range []sculpt.NewPattern{{Name: "gravel tide", Note: "graded scales; reads best below 20°", Piece: "PK-01"}, {Name: "old pier", Note: "bark with long plates", Piece: "AL-01"}} {
		if t.err == nil {
			_, err := t.s.Sculpt.KeepPattern(t.who["ivo"], n)
			t.try(err)
		}
	}
}

// tools are the stamps that were made for the scales.
func (t *teller) tools() {
	for i, s := range ladder {
		in := sculpt.NewStamp{Name: s.ID, ODMM: s.OD, Squash: s.Squash, SquashB: s.SquashB, Filler: "two-part putty", HollowMM: 0.6, Place: "bench 2, left tin"}
		if i == len(ladder)-1 {
			in.State = "worn"
		}
		_, err := t.s.Sculpt.AddStamp(t.who["pip"], in)
		t.try(err)
	}
}

// ladder are stamps of falling width, 9 to 2.5 mm; every other has two ends.
var ladder = []texture.Stamp{
	{ID: "S1", OD: 8.3, Squash: 0.84, SquashB: texture.Ptr(0.69)}, {ID: "S2", OD: 6.7, Squash: 0.79},
	{ID: "S3", OD: 5.5, Squash: 0.83, SquashB: texture.Ptr(0.68)}, {ID: "S4", OD: 4.4, Squash: 0.78},
	{ID: "S5", OD: 3.5, Squash: 0.84, SquashB: texture.Ptr(0.7)}, {ID: "S6", OD: 2.4, Squash: 0.88},
}

// barnacles grow on the cheek, thick at the bone and rare towards the jaw.
func (t *teller) barnacles(code string) []texture.Step {
	r := t.ground(code,
		texture.Layer{Kind: "barnacles", ID: "shells", Name: "barnacles", Spacing: span(6.5, 6.5), Diameter: span(3, 7), ThinOutMM: 14, HeightRatio: texture.Ptr(0.45)},
		texture.Layer{Kind: "pores", ID: "pores", Spacing: span(1.3, 2), Diameter: span(0.35, 0.7), Depth: span(0.12, 0.25), Stretch: texture.Ptr(1.5), StretchDir: 20},
		texture.Layer{Kind: "droplets", ID: "spat", Name: "spat at the edge", Spacing: span(2.2, 2.2), Diameter: span(0.8, 1.8), Falloff: texture.Ptr(7.0), From: texture.Ptr(texture.Boundary)})
	r.Seed, r.FeatherMM = 17, 3
	r.Materials = &texture.Materials{Mould: "silicone mould", Cast: "silicone cast", Paint: "silicone wash", Coats: 3}
	r.Landmarks = []texture.Landmark{{Name: "rivet seat", At: marked(r, texture.P{0.62, 0.72})[0], RadiusMM: 6}}
	r.Passes = []texture.PlannedPass{{Tool: "stiff brush", Times: 1}, {Tool: "soft brush with alcohol", Times: 2}}
	r.Gravity = &texture.Gravity{Down: 270, Sag: 0.3}
	r.Areas = []texture.Area{{ID: "jaw", Name: "towards the jaw", By: "both", DepthMM: 3, Polygon: marked(r, texture.P{0.1, 0.45}, texture.P{0.35, 0.12}, texture.P{0.6, 0.04}, texture.P{0.75, 0.2}, texture.P{0.5, 0.4})}}
	steps := t.texture(code, r)
	t.shown(code, "shells under the low lamp", 7, []sculpt.NewSpot{{Kind: "thin", X: 0.62, Y: 0.35, Words: "between two shells"}, {Kind: "note", X: 0.3, Y: 0.7, Words: "rim broken by hand, keep it"}})
	return steps
}

// shown is a photograph of the clay with what was seen on it; all is put right.
func (t *teller) shown(code, caption string, seed uint64, spots []sculpt.NewSpot) {
	raw, err := pictured(code, seed, 900, 640, color.RGBA{150, 140, 126, 255})
	t.try(err)
	if t.err != nil {
		return
	}
	ctx := t.who["pip"]
	list, err := t.s.Sculpt.Photograph(ctx, code, caption, false, bytes.NewReader(raw))
	t.try(err)
	for _, o := range spots {
		if t.err != nil {
			return
		}
		list, err = t.s.Sculpt.MarkSpot(ctx, list[0].ID, o)
		t.try(err)
	}
	for _, o := range list[0].Spots {
		if t.err == nil && o.Kind != "note" {
			_, err = t.s.Sculpt.SettleSpot(ctx, o.ID)
			t.try(err)
		}
	}
}

// pass does all of a plan and sends the sculpt to its mould.
func (t *teller) pass(code string, steps []texture.Step) {
	t.press("ivo", code, steps, 0)
	ctx := t.who["ivo"]
	for _, g := range texture.Gate {
		if t.err != nil {
			return
		}
		_, err := t.s.Sculpt.Look(ctx, code, g.ID, "")
		t.try(err)
	}
	if t.err == nil {
		_, err := t.s.Sculpt.Pass(ctx, code)
		t.try(err)
	}
}

// scales shrink from the collar up to the ear; half of them are pressed.
func (t *teller) scales(code string) {
	r := t.ground(code,
		texture.Layer{Kind: "scales", ID: "scales", Name: "scales", Stamps: ladder, Size: span(9, 2.6), RowPitch: texture.Ptr(0.86), Gap: texture.Ptr(0.04), Offset: texture.Ptr(0.42),
			RotJitter: 9, PosJitter: 0.1, Ends: "random", Depth: span(0.6, 0.6), Groove: texture.Ptr(0.7), Dome: 0.35, Soften: texture.Ptr(0.15)},
		texture.Layer{Kind: "droplets", ID: "edge", Name: "droplets at the edge", Spacing: span(2, 2), Diameter: span(0.8, 1.6), Falloff: texture.Ptr(5.0), From: texture.Ptr(texture.Boundary)})
	r.Seed, r.FeatherMM = 41, 4
	r.Materials = &texture.Materials{Mould: "silicone mould", Cast: "silicone cast", Paint: "silicone wash", Coats: 6}
	r.Passes = []texture.PlannedPass{{Tool: "stiff brush", Times: 1}, {Tool: "sponge", Times: 1}}
	r.Guides = [][]texture.P{marked(r, texture.P{0.02, 0.62}, texture.P{0.3, 0.3}, texture.P{0.5, 0.24}, texture.P{0.7, 0.3}, texture.P{0.98, 0.62})}
	r.GuideNames = []string{"flow"}
	flow := 0
	r.Layers[0].Flow = &flow
	r.Thickness = &texture.Thickness{EdgeMM: 0.2, CentreMM: 5, OverMM: 30, LeastMM: 0.3}
	r.Paint = &texture.Scheme{Release: "release wax, one thin coat", Film: "peelable film", Coats: 3, Clay: colour.Lab{L: 58, A: 4, B: 12}, Layers: []texture.Paint{
		{Kind: "base", Colour: colour.Lab{L: 62, A: -4, B: 18}, Strength: 0.95},
		{Kind: "spatter", Colour: colour.Lab{L: 44, A: -2, B: 20}, Strength: 0.5, SizeMM: 1.4, Share: 0.12},
		{Kind: "wash", Colour: colour.Lab{L: 26, A: -3, B: 8}, Strength: 0.85, ReachMM: 3},
		{Kind: "dry brush", Colour: colour.Lab{L: 86, A: -1, B: 14}, Strength: 0.6, ReachMM: 3}}}
	steps := t.texture(code, r)
	t.at(1, 9, 16, 40)
	if len(steps) > 12 {
		t.press("ivo", code, steps[:2], 0)
		t.press("ivo", code, steps[2:11], 1.15)
	}
}

// bark of the alder-warden's brow: grooves are cut, the fibre is to come.
func (t *teller) bark(code string) {
	r := t.ground(code,
		texture.Layer{Kind: "bark", ID: "bark", Name: "bark", Grain: texture.Ptr(88.0), Plate: texture.Ptr(6.5), Groove: texture.Ptr(1.6), Depth: span(1.4, 1.4), Skip: texture.Ptr(0.2)},
		texture.Layer{Kind: "rot", ID: "rot", Name: "knot holes", Spacing: span(22, 22), Diameter: span(5, 9), Depth: span(1.6, 1.6), Fray: texture.Ptr(0.35), Lip: 0.5, Density: texture.Ptr(0.6)})
	r.Seed = 8
	r.Materials = &texture.Materials{Mould: "gypsum stone mould", Cast: "foam latex cast", Paint: "latex-based paint", Coats: 3}
	r.Gravity = &texture.Gravity{Down: 270, Sag: 0.5}
	r.Passes = []texture.PlannedPass{{Tool: "stiff brush", Times: 2}, {Tool: "soft brush with alcohol", Times: 1}}
	r.Landmarks = []texture.Landmark{{Name: "brow left", At: marked(r, texture.P{0.3, 0.35})[0]}, {Name: "brow right", At: marked(r, texture.P{0.7, 0.35})[0]}, {Name: "crown", At: marked(r, texture.P{0.5, 0.9})[0]}, {Name: "bridge", At: marked(r, texture.P{0.5, 0.15})[0]}}
	r.Pairs = []texture.Pair{{Name: "breadth to height", A: texture.Measure{Name: "between the brows", From: "brow left", To: "brow right"}, B: texture.Measure{Name: "bridge to crown", From: "bridge", To: "crown"}, Least: 1.1, Most: 1.5, FollowOn: "the crown is built up to match", Minutes: 40, ClayG: 25}}
	steps := t.texture(code, r)
	if len(steps) > 3 {
		t.press("maud", code, steps[:2], 0)
		t.press("maud", code, steps[2:3], 0.9)
	}
	if t.err == nil {
		_, err := t.s.Sculpt.Soften(t.who["maud"], code, sculpt.NewPass{Tool: "soft brush with alcohol", Times: 1, Note: "round the upper knots"})
		t.try(err)
	}
}

// salt cracks the net-mender's hand: a draft of the apprentice.
func (t *teller) salt(code string) {
	r := t.ground(code,
		texture.Layer{Kind: "cracks", ID: "cracks", Name: "salt cracks", Pitch: texture.Ptr(7.0), Jitter: texture.Ptr(0.9), Stretch: texture.Ptr(1.4), StretchDir: 75, Width: texture.Ptr(0.7), Depth: span(0.25, 0.25), Skip: texture.Ptr(0.25)},
		texture.Layer{Kind: "pores", ID: "crystals", Name: "pits of salt", Spacing: span(1.6, 3), Diameter: span(0.3, 0.6), Depth: span(0.08, 0.15), GradeDir: texture.Ptr(270.0)})
	r.Seed = 5
	r.Materials = &texture.Materials{Mould: "plaster mould", Cast: "slip latex cast", Paint: "latex-based paint", Coats: 2}
	if t.err == nil {
		_, err := t.s.Sculpt.Save(t.who["pip"], code, r, 0, 0)
		t.try(err)
	}
}

// minutes are a time as people type it.
func minutes(seconds float64) string { return fmt.Sprintf("%.1f min", seconds/60) }
