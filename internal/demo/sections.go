package demo

// What the seven characters are made of: their sections, the methods that were
// chosen for them, what was tried before, and what the shop has.

import (
	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/station/brief"
)

func films(id string, k section.Kind, slug string, coats int, mm float64) section.Layer {
	return section.Layer{ID: id, Kind: k, Material: slug, Coats: coats, CoatMM: mm}
}

func onSkin(id, slug string, coats int, mm, stop float64, role string) section.Layer {
	l := films(id, section.Paint, slug, coats, mm)
	l.Extent, l.StopMM, l.Role = section.PastEdge, stop, role
	return l
}

var (
	barrier = films("barrier", section.Barrier, "barrier-film", 1, 0.01)
	powder  = films("powder", section.Powder, "powder-translucent", 1, 0.01)
	gypsum  = section.Made{On: section.InMould, Of: "gypsum", Sealed: true, Release: "release-wax"}
)

// encapsulated is the shop's usual silicone piece: film all round, softened
// gel between, colour carried on to the skin.
func encapsulated(areaCM2, centreMM float64) section.Section {
	s := section.Start(areaCM2)
	s.Made, s.PaintWhen, s.Method = gypsum, "partly", "silicone_encapsulated"
	s.Layers = append(s.Layers, barrier,
		films("glue", section.Adhesive, "adhesive-acrylic", 2, 0.04),
		films("inner", section.Encapsulator, "encapsulator-acetone", 2, 0.02),
		section.Layer{ID: "body", Kind: section.Silicone, Material: "silicone-gel", CentreMM: centreMM,
			With: []section.Stir{{Material: "softener", Percent: 60}, {Material: "pigment-flesh", Percent: 1.2}, {Material: "pigment-red", Percent: 0.3}}},
		films("outer", section.Encapsulator, "encapsulator-acetone", 3, 0.02),
		onSkin("colour", "paint-alcohol", 5, 0.006, 12, "base"), powder)
	return s
}

// byHand draws the fall of a section's body in even places from its centre out.
func byHand(s section.Section, mm ...float64) section.Section {
	for i, l := range s.Layers {
		if l.Kind == section.Silicone {
			s.Layers[i].CentreMM, s.Layers[i].EdgeMM = mm[0], mm[len(mm)-1]
			s.Layers[i].Shape = &section.Shape{From: section.ByHand, ProfileMM: mm}
		}
	}
	return s
}

// barnacled is the cheek as it is now: veins under the last glaze, and a line
// on the map from the cheekbone to above the beard.
func barnacled() section.Section {
	s := encapsulated(48.9, 6)
	s.Name = "cheek"
	s.Line = &section.Line{Sheet: "head", Points: []form.Point{{U: 30, V: 49}, {U: 35, V: 54}, {U: 39.5, V: 58.5}}}
	veins := onSkin("veins", "paint-alcohol", 1, 0.004, 6, "veins")
	veins.Note = "blue-grey, broken, under the glaze"
	s.Layers = append(s.Layers[:7], veins, onSkin("glaze", "paint-alcohol", 1, 0.004, 18, "wash"), powder)
	return s
}

// riveted is the seat of the bell-metal rivets.
func riveted() section.Section {
	s := encapsulated(9, 3)
	s.Layers = append(s.Layers[:6], append([]section.Layer{{ID: "rivets", Kind: section.Insert, Material: "found-metal", Count: 2, EachG: 6.5, CentreMM: 4, Extent: section.CentreOnly, StopMM: 8, Fitted: "before", Note: "dome heads, glued into cast seats"}}, s.Layers[6:]...)...)
	return s
}

// bark is foam latex with lichen of dyed sponge and dried moss.
func bark(areaCM2, centreMM float64, over ...string) section.Section {
	s := section.Start(areaCM2)
	s.Made, s.PaintWhen, s.Method, s.LiesOver = section.Made{On: section.InMould, Of: "gypsum", Release: "release-wax"}, "partly", "foam_latex", over
	s.Layers = append(s.Layers, barrier,
		films("glue", section.Adhesive, "adhesive-acrylic", 2, 0.04),
		section.Layer{ID: "body", Kind: section.Foam, Material: "foam-latex", CentreMM: centreMM, EdgeMM: 0.1},
		films("seal", section.Seal, "sealer-acrylic", 2, 0.01),
		films("base", section.Paint, "paint-adhesive", 3, 0.02),
		section.Layer{ID: "lichen", Kind: section.Insert, Material: "found-sponge", Count: 40, EachG: 0.02, CentreMM: 2, Extent: section.CentreOnly, StopMM: 20, Fitted: "before", Note: "crumbs, dyed in three greys"},
		section.Layer{ID: "moss", Kind: section.Insert, Material: "found-moss", Count: 12, EachG: 0.1, CentreMM: 3, Extent: section.CentreOnly, StopMM: 15, Fitted: "before"},
		onSkin("blend", "paint-alcohol", 2, 0.006, 15, "shadow"), powder)
	for i := range s.Layers {
		if l := &s.Layers[i]; l.Extent == section.CentreOnly && l.StopMM > s.HalfWidthMM {
			l.StopMM = s.HalfWidthMM
		}
	}
	return s
}

// gilled is gelatin for the ferryman's neck, sealed back and front.
func gilled() section.Section {
	s := section.Start(30)
	s.Made, s.Method = section.Made{On: section.InMould, Of: "silicone_addition", Release: "release-wax"}, "gelatin_animal"
	s.Layers = append(s.Layers, barrier,
		films("glue", section.Adhesive, "adhesive-acrylic", 2, 0.04),
		films("back", section.Seal, "sealer-plastic", 1, 0.01),
		section.Layer{ID: "body", Kind: section.Gelatin, Material: "gelatin-animal", CentreMM: 4},
		films("seal", section.Seal, "sealer-plastic", 2, 0.01),
		onSkin("colour", "paint-alcohol", 3, 0.006, 8, "base"), powder,
		films("wet", section.WetLook, "wet-look-gel", 1, 0.1))
	return s
}

// webbed is a web of the same base, sealed, without glue at its edges: it is tied under the
// cuff.
func webbed() section.Section {
	s := section.Start(22)
	s.Made, s.Method = section.Made{On: section.InMould, Of: "gypsum", Sealed: true, Release: "release-wax"}, "gelatin_animal"
	s.Layers = append(s.Layers, barrier,
		section.Layer{ID: "body", Kind: section.Gelatin, Material: "gelatin-animal", CentreMM: 6},
		films("seal", section.Seal, "sealer-plastic", 2, 0.01), powder)
	return s
}

// gloved is a bark hand: six coats of latex and tissue on the cast of a hand.
func gloved() section.Section {
	s := section.Start(69)
	s.Made, s.Method = section.Made{On: section.OnForm, Of: "gypsum", Sealed: true}, "build_up_tissue"
	s.Zones = []section.Zone{{Name: "knuckles", ToMM: 18}, {Name: "back", ToMM: 44}, {Name: "wrist", ToMM: s.HalfWidthMM}}
	bark := films("bark", section.Latex, "latex-balloon", 6, 0.25)
	bark.Fibre, bark.ZoneCoats = "fibre-tissue", []int{6, 5, 4}
	s.Layers = append(s.Layers, bark, films("ground", section.Paint, "paint-alcohol", 1, 0.006), powder)
	return s
}

// beaked is a slush-cast latex nose, more coats where it is thin, with gauze laid
// in behind its bridge.
func beaked() section.Section {
	s := section.Start(28.7)
	s.Made, s.PaintWhen, s.Method = section.Made{On: section.InMould, Of: "gypsum"}, "partly", "latex_slush"
	s.Zones = []section.Zone{{Name: "bridge", ToMM: 14}, {Name: "wings", ToMM: 27}, {Name: "rim", ToMM: s.HalfWidthMM}}
	slush := films("slush", section.Latex, "latex-slush", 4, 0.3)
	slush.Method, slush.ZoneCoats = "slush", []int{6, 4, 1}
	bridge := films("bridge", section.Latex, "latex-slush", 1, 0.2)
	bridge.Fibre, bridge.Extent, bridge.StopMM, bridge.Purpose = "fibre-gauze", section.CentreOnly, 14, "keep the ridge from folding"
	s.Layers = append(s.Layers, barrier, films("glue", section.Adhesive, "adhesive-acrylic", 1, 0.04), bridge, slush, films("set", section.Powder, "powder-translucent", 1, 0.01),
		onSkin("colour", "paint-cream", 3, 0.02, 10, "base"), powder,
		section.Layer{ID: "down", Kind: section.Hair, Material: "hair-punched", Method: "laid", HairsCM2: 30, LengthMM: 18, FromMM: 18, Note: "down, white into grey, falling to the cheek"})
	return s
}

// bellied is a soft-foam core, sealed, under a silicone skin, with bags of
// beads on a harness.
func bellied() section.Section {
	s := section.Start(900)
	s.Made, s.PaintWhen, s.Method = section.Made{On: section.InMould, Of: "laminate", Sealed: true, Release: "release-wax"}, "before", "silicone_over_foam"
	s.Support = section.Support{Anchors: []string{"webbing harness over both shoulders", "waist belt"}, Movement: "swings", Note: "the beads hang low, in four bags sewn into the lining"}
	s.Layers = append(s.Layers, section.Layer{ID: "core", Kind: section.SoftFoam, Material: "foam-pu", CentreMM: 70, EdgeMM: 6},
		section.Layer{ID: "beads", Kind: section.Weight, Material: "filling-beads", Count: 4, EachG: 260, CentreMM: 12, Extent: section.CentreOnly, StopMM: 60, Fitted: "before"},
		films("closed", section.Seal, "sealer-plastic", 2, 0.02),
		section.Layer{ID: "skin-body", Kind: section.Silicone, Material: "silicone-firm", CentreMM: 1.2, EdgeMM: 0.4},
		films("colour", section.Paint, "paint-silicone", 3, 0.02), powder)
	return s
}

// stippled is stretch-stipple straight on the back of a hand, colour below it
// and cracks above.
func stippled() section.Section {
	s := section.Start(69)
	s.Made.On, s.Method = section.OnSkin, "stretch_stipple"
	s.Zones = []section.Zone{{Name: "knuckles", ToMM: 18}, {Name: "back", ToMM: 44}, {Name: "wrist", ToMM: s.HalfWidthMM}}
	under := films("under", section.Paint, "paint-alcohol", 1, 0.006)
	under.ShowsThrough, under.Role = true, "wash"
	stipple := films("stipple", section.Latex, "latex-balloon", 3, 0.1)
	stipple.Method, stipple.Stretched, stipple.ZoneCoats = "stippled", true, []int{3, 2, 1}
	cracks := onSkin("cracks", "paint-cream", 1, 0.02, 15, "line")
	s.Layers = append(s.Layers, barrier, under, stipple, films("set", section.Powder, "powder-translucent", 1, 0.01), cracks, powder)
	return s
}

// burnt is a rope burn: wax for the swelling, latex and tissue over it.
func burnt() section.Section {
	s := section.Start(14)
	s.Made.On, s.Method = section.OnSkin, "mixed_build"
	tissue := films("tissue", section.Latex, "latex-balloon", 2, 0.15)
	tissue.Fibre = "fibre-tissue"
	s.Layers = append(s.Layers, barrier, films("glue", section.Adhesive, "adhesive-gum", 1, 0.05), section.Layer{ID: "swell", Kind: section.Wax, Material: "wax-soft", CentreMM: 3}, tissue, films("set", section.Powder, "powder-translucent", 1, 0.01),
		onSkin("red", "paint-cream", 2, 0.02, 10, "base"), powder, films("raw", section.Blood, "blood-gel", 1, 0.4))
	s.Layers[len(s.Layers)-1].Side = "R"
	return s
}

// dripped is tallow in two ways: wax where it is thick, direct silicone where
// it runs, and blood of two ages for one scene.
func dripped() section.Section {
	s := section.Start(12)
	s.Name, s.Made.On, s.Method = "drip", section.OnSkin, "wax"
	blood := films("old", section.Blood, "blood-thick", 1, 0.3)
	blood.FromRun, blood.Note = 2, "only in the scene at the press"
	s.Layers = append(s.Layers, barrier, films("glue", section.Adhesive, "adhesive-gum", 1, 0.05), section.Layer{ID: "tallow", Kind: section.Wax, Material: "wax-soft", CentreMM: 5}, films("seal", section.Seal, "sealer-plastic", 2, 0.01),
		onSkin("sheen", "paint-cream", 1, 0.02, 3, "highlight"), powder, films("wet", section.WetLook, "wet-look-gel", 1, 0.1), blood, films("fresh", section.Blood, "blood-fresh", 1, 0.05))
	s.More = []section.Cut{{ID: "run", Name: "run", HalfWidthMM: 12, AreaCM2: 6, Layers: []section.Layer{{ID: "skin-run", Kind: section.Skin}, films("clean", section.Preparation, "prep-cleanser", 1, 0.002),
		{ID: "run-body", Kind: section.Silicone, Material: "silicone-direct", Method: "direct", CentreMM: 2}, {ID: "run-colour", Kind: section.Paint, Material: "paint-silicone", Coats: 1, CoatMM: 0.02}, films("run-powder", section.Powder, "powder-translucent", 1, 0.01)}}}
	return s
}

// choose takes a method for a piece, with a reason when it is not the one
// advised.
func (t *teller) choose(code, method, reason string) {
	if t.err == nil {
		_, err := t.s.Brief.Choose(t.who["maud"], code, method, reason)
		t.try(err)
	}
}

// shopKnows is what this shop has and what it tried before.
func (t *teller) shopKnows() {
	for _, m := range []brief.Machine{{Name: "oven", Has: true, Note: "one, 60 cm wide"}, {Name: "vacuum", Has: true, Note: "pot for 2 litres"}, {Name: "isocyanate room", Note: "poured at the joiner's, by trained people"},
		{Name: "mixer", Has: true}, {Name: "booth", Has: true}, {Name: "hot plate", Has: true}, {Name: "cold place", Has: true}, {Name: "mould room", Has: true}, {Name: "form", Has: true}} {
		if t.err == nil {
			_, err := t.s.Brief.SetEquipment(t.who["maud"], m)
			t.try(err)
		}
	}
	for _, n := range []brief.NewTrial{
		{Method: "silicone_encapsulated", What: "gel softened 60 %", Job: "growth on a cheek, five hours", Region: "cheek", Result: "worked", Reason: "moved with the smile; the edge needed two goes"},
		{Method: "household_paste", What: "kitchen sauce, thickened", Job: "old blood that drips", Result: "failed", Reason: "dried matt in ten minutes and smelt of vinegar", Drying: "10 min"},
		{Method: "household_paste", What: "flour paste", Job: "mud crust on hands", Region: "hand_back", Result: "partly", Reason: "fell off at the knuckles once it was dry through", Drying: "40 min", Skin: "tight, no redness"},
		{Of: "silicone-thickener", Job: "a brush coat on a slope", Result: "partly",
			Reason: "2 % ran off the brow; 3 % stood, and kept the air"},
		{Of: "adhesive-acrylic", Job: "the edge at the nostril", Result: "worked",
			Reason: "held five hours in steam when the skin was wiped twice"},
		{Of: "silicone-gel", Job: "a thin cheek, softened past 70 %", Result: "failed",
			Reason: "it stayed tacky and tore at the edge when it was lifted"},
		{Method: "latex_slush", What: "slush latex, 12 min dwell", Job: "a long nose", Region: "nose", Result: "worked", Reason: "light; the ridge wants gauze"},
		{Method: "stretch_stipple", What: "thin latex, three coats", Job: "salt cracks", Region: "hand_back", Result: "worked", Reason: "best where the hand was pulled hardest"},
		{Method: "wax", What: "soft wax, unsealed", Job: "drips under a sleeve", Region: "forearm", Result: "partly", Reason: "dented by the cuff; sealed it held"},
		{What: "dry pulses in a bag", Job: "weight in a belly", Region: "belly", Result: "failed", Reason: "sprouted after two warm days"},
		{What: "dried moss, boiled and sealed", Job: "lichen", Result: "worked", Reason: "kept three weeks without smell"},
	} {
		if t.err == nil {
			_, err := t.s.Brief.Try(t.who["ivo"], n)
			t.try(err)
		}
	}
}

// sections chooses and agrees what the pieces are made of.
func (t *teller) sections(codes map[string]string) {
	t.shopKnows()
	foam, light := "Bark has to be light and breathe for seven hours; it need not look like skin.", "The joiner pours the core where it is allowed; nothing else is light enough at this size."
	for _, p := range []struct {
		name, method, reason string
		doc                  section.Section
	}{
		{"brow", "silicone_encapsulated", "", byHand(encapsulated(11.5, 7), 7, 6.8, 6, 3.9, 0)}, {"rivets", "silicone_encapsulated", "", riveted()}, {"cheek", "silicone_encapsulated", "", encapsulated(48.9, 6)},
		{"bark brow", "foam_latex", foam, bark(77.5, 12, "AL-02")}, {"bark cheeks", "foam_latex", foam, bark(84.3, 10, "AL-03")}, {"bark chin", "foam_latex", foam, bark(25.7, 9)},
		{"bark hand", "build_up_tissue", "Thin enough to close; the tissue tears like bark.", gloved()},
		{"web", "gelatin_animal", "It folds as skin does, and dissolves off.", webbed()},
		{"beak", "latex_slush", "A hollow beak that keeps its ridge; foam would fold at the tip.", beaked()}, {"jaw", "silicone_encapsulated", "", byHand(encapsulated(93.2, 7), 7, 6.8, 6.3, 4.6, 0)}, {"belly", "silicone_over_foam", light, bellied()},
		{"hand L", "stretch_stipple", "", stippled()}, {"hand R", "stretch_stipple", "", stippled()}, {"burn", "mixed_build", "It has to stand the cuff, which wax alone does not.", burnt()}, {"drips", "wax", "Two days, one scene, made at the chair; it must be re-worked between takes.", dripped()},
	} {
		t.choose(codes[p.name], p.method, p.reason)
		t.agree(codes[p.name], p.doc, 0)
	}
	t.choose(codes["gills"], "gelatin_animal", "Edges that dissolve on the neck; a new pair for each half day.")
	t.plan("ivo", codes["gills"], gilled(), 0) // held back: the patch test is open
}

// plan leaves a section as somebody's draft.
func (t *teller) plan(who, code string, doc section.Section, base int) {
	if t.err == nil {
		_, err := t.s.Pieces.SaveSection(t.who[who], code, doc, base, 0)
		t.try(err)
	}
}
