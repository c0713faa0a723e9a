package demo

// The seven characters: their pieces, briefs and maps.

import (
	"bytes"
	"fmt"
	"maps"
	"slices"

	"yewmoor/internal/craft/form"
	place "yewmoor/internal/craft/region"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
	"yewmoor/internal/station/brief"
	"yewmoor/internal/station/stores"
)

// begin makes a piece with an agreed brief.
func (t *teller) begin(in piece.NewPiece, doc piece.Brief) string {
	if t.err != nil {
		return ""
	}
	ctx := t.who["maud"]
	in.Production = Production
	p, err := t.s.Pieces.Create(ctx, in)
	t.try(err)
	if doc.KeepFree == nil {
		doc.KeepFree = piece.Free
	}
	if doc.Steps == nil {
		doc.Steps = []piece.StepHours{{ID: "s1", Text: "sculpting the shape", Where: "workshop", Skill: "fabricator", Hours: doc.WearHours * 2, Part: "shape"}, {ID: "s2", Text: "mould", Where: "workshop", Skill: "fabricator", Hours: 3, Part: "mould"},
			{ID: "s3", Text: "colour and edges, tests", Where: "workshop", Skill: "apprentice", Hours: 4}, {ID: "s4", Text: "fitting and trial", Where: "chair", Skill: "artist", Hours: 1.5}}
	}
	t.try(t.s.Pieces.SaveBrief(ctx, p.Code, doc, 0, 0))
	if t.err == nil {
		_, err = t.s.Brief.Agree(ctx, p.Code, "", nil)
		t.try(err)
	}
	return p.Code
}

// area is a region of the glossary as an area of a piece.
func (t *teller) area(region, side string) wearmap.Mark {
	sheet := form.SheetFor(region, side)
	r, _ := place.Find(region)
	m := wearmap.Mark{ID: region + side, Kind: "region", Sheet: sheet, Text: map[string]string{"L": "left ", "R": "right "}[side] + r.Text}
	f, err := form.Fit(sheet, nil)
	t.try(err)
	if err == nil {
		m.Points, _ = f.Region(region, side)
	}
	return m
}

// smaller is a mark with its outline drawn in towards its middle.
func smaller(m wearmap.Mark, k float64) wearmap.Mark {
	c := centre(m.Points)
	for i, p := range m.Points {
		m.Points[i] = form.Point{U: c.U + k*(p.U-c.U), V: c.V + k*(p.V-c.V)}
	}
	return m
}

// near is a mark round a landmark of the head, in mm.
func (t *teller) near(kind, landmark string, across, up float64) wearmap.Mark {
	f, err := form.Fit("head", nil)
	t.try(err)
	m := wearmap.Mark{ID: kind + landmark, Kind: kind, Sheet: "head"}
	if err == nil {
		p, _ := f.Landmark(landmark)
		m.Points = f.Disc(p, across, up, 9)
	}
	return m
}

func along(id, kind, sheet, how string, points ...form.Point) wearmap.Mark {
	return wearmap.Mark{ID: id, Kind: kind, Sheet: sheet, How: how, Points: points}
}

// stretch is the upper or lower run of an area's rim, as an edge.
func stretch(id string, m wearmap.Mark, from, to int, how, by string) wearmap.Mark {
	return wearmap.Mark{ID: id, Kind: "edge", Sheet: m.Sheet, How: how, By: by, Points: append([]form.Point(nil), m.Points[from:to]...)}
}

func features(texts ...string) []piece.Feature {
	var list []piece.Feature
	for i, text := range texts {
		list = append(list, piece.Feature{ID: fmt.Sprintf("f%d", i+1), Text: text})
	}
	return list
}

var wayOut = wear.WayOut{Closure: "edges eased with remover on a brush, centre last", Minutes: 2, Helpers: 1}

func (t *teller) pieces() {
	t.at(12, 2, 9, 0)
	brow := t.begin(piece.NewPiece{CharacterCode: "BF", CharacterName: "the bell-founder", Performer: "Oren Thale", Name: "Left brow, barnacled", Region: "brow", CopiesWanted: 2},
		piece.Brief{Asked: "As if the quay had grown on him. Bulk at the brow kept to 9 mm so that the hat still fits.", Camera: "medium", WearHours: 5, WayOut: wayOut, Water: "rained on", Marks: []wearmap.Mark{t.area("brow", "L")},
			Exaggeration: []piece.Exaggeration{{Region: "brow", Level: 2, Note: "the hat must still fit"}}})
	codes := map[string]string{"brow": brow}
	rivet := t.near("region", "temple_R", 17, 15)
	codes["rivets"] = t.begin(piece.NewPiece{CharacterCode: "BF", Name: "Bell-metal rivet seat, right temple", Region: "temple", CopiesWanted: 2},
		piece.Brief{Asked: "Two rivets that could have been cast with him.", Camera: "medium", WearHours: 5, WayOut: wayOut, Marks: []wearmap.Mark{rivet}})
	side := t.area("cheek", "L")
	cheek := t.begin(piece.NewPiece{CharacterCode: "BF", Name: "Left cheek, barnacled", Region: "cheek", CopiesWanted: 3},
		piece.Brief{Asked: "As if the quay had grown on him.", HeightMM: 6, Decided: "Density falls towards the jaw; the mouth corner stays free.", Camera: "close", CameraM: 0.8, WearHours: 5, Exertion: "walking", Water: "rained on", WayOut: wayOut, Worn: "from the cheekbone to above the beard line",
			Marks: []wearmap.Mark{side, stretch("e1", side, 0, 4, "vanish", ""), stretch("e2", side, 3, 6, "be hidden", "the collar, by the dresser"),
				along("d1", "divide", "head", "", form.Point{U: 22, V: 48}, form.Point{U: 34, V: 54}, form.Point{U: 44, V: 60})},
			Wishes: []piece.Wish{{ID: "w1", Text: "The growth should take the whole side of the face", By: "the director", Times: 3, Constraint: "speech, and the mouth corner tears first", Decision: "it stops a finger's breadth from the mouth corner", DecidedBy: "Maud Tarn", State: "agreed"},
				{ID: "w2", Text: "Live barnacles that open", By: "the writer", Times: 1, Constraint: "weight at the edge", Decision: "two openings painted, none that move", DecidedBy: "the director", State: "declined"}},
			Exaggeration: []piece.Exaggeration{{Region: "cheek", Level: 3, Note: "outline grows, bone below stays believable"}, {Region: "jaw", Level: 1}},
			Questions:    []piece.Question{{ID: "q1", Text: "How does stone growth end on skin?", StandIn: "thins out over a hand's breadth, as on the ring", Answer: "single small ones, 3 mm and less", Settled: "2025-12-11"}, {ID: "q2", Text: "Colour of the inside of a shell when wet", StandIn: "grey-violet from the second-hand picture"}},
			Features:     features("growth runs downwind", "ear rim", "rivets, two", "neck below the collar"),
			Budget:       []piece.Item{{ID: "b1", Text: "gel and encapsulator for three", Origin: "in stock", CostMinor: 6400}, {ID: "b2", Text: "barnacle shells from the strand", Origin: "found", StandsIn: "stamps for the texture", InsteadMinor: 4200}, {ID: "b3", Text: "two dome nuts, turned down", Origin: "reused", StandsIn: "bell-metal rivets", CostMinor: 300, InsteadMinor: 3800}}, LimitMinor: 9000})
	t.alder(codes)
	t.barkHand(codes)
	gill := t.area("neck", "")
	gill.Points = []form.Point{{U: 34, V: 79}, {U: 44, V: 78}, {U: 52, V: 82}, {U: 52, V: 90}, {U: 42, V: 92}, {U: 33, V: 88}}
	gill.Text = "left gills"
	other := wearmap.MirrorOf(gill, "right", 0.06)
	other.Text = "right gills"
	codes["gills"] = t.begin(piece.NewPiece{CharacterCode: "FT", CharacterName: "the ferryman", Performer: "Dunstan Vey", Name: "Gills on the neck", Region: "neck", CopiesWanted: 6},
		piece.Brief{Asked: "They should seem to breathe.", HeightMM: 4, Exertion: "running", Camera: "close", WearHours: 6, Water: "splashed", WayOut: wayOut, Marks: []wearmap.Mark{gill, other},
			Questions: []piece.Question{{ID: "q1", Text: "Does gelatin hold for six hours in rain, hauling?", StandIn: "six copies, a new pair for each half day"}}, Features: features("three slits a side", "they differ left and right")})
	codes["web"] = t.begin(piece.NewPiece{CharacterCode: "FT", Name: "Web, thumb to finger", Region: "hand_back", Side: "R", CopiesWanted: 2},
		piece.Brief{Asked: "It should fold when he hauls.", HeightMM: 4, Camera: "medium", WearHours: 4, WayOut: wayOut, Marks: []wearmap.Mark{t.area("hand_back", "R")}})
	nose := t.area("nose", "")
	beak := t.begin(piece.NewPiece{CharacterCode: "GC", CharacterName: "the goose clerk", Performer: "Isolde Pym", Name: "Beak-nose", Region: "nose", CopiesWanted: 3},
		piece.Brief{Asked: "A nose on its way to being a beak.", HeightMM: 30, Camera: "medium", WearHours: 6, WayOut: wayOut, Marks: []wearmap.Mark{nose, t.near("hole", "nostril_L", 5, 4.5), t.near("hole", "nostril_R", 5, 4.5)},
			Exaggeration: []piece.Exaggeration{{Region: "nose", Level: 4, Note: "half again as long, still her own bridge"}}, Features: features("both nostrils open", "a ridge that catches the light")})
	neck := t.area("neck", "")
	neck.Points = []form.Point{{U: 60, V: 72}, {U: 42, V: 75}, {U: 18, V: 82}, {U: 0, V: 83.5}, {U: -18, V: 82}, {U: -42, V: 75}, {U: -60, V: 72}, {U: -58, V: 84}, {U: -30, V: 92}, {U: 0, V: 94}, {U: 30, V: 92}, {U: 58, V: 84}}
	jaw := t.begin(piece.NewPiece{CharacterCode: "PK", CharacterName: "the pike alderman", Performer: "Hob Carrow", Name: "Neck and jaw, scaled", Region: "neck", CopiesWanted: 2},
		piece.Brief{Asked: "Scales from 9 mm down to nothing; the beard stays.", Camera: "medium", WearHours: 6, WayOut: wayOut, Marks: []wearmap.Mark{neck}, Features: features("scales shrink towards the ear", "the beard is his own")})
	codes["belly"] = t.begin(piece.NewPiece{CharacterCode: "PK", Name: "Belly, bead-weighted", Region: "belly", CopiesWanted: 1},
		piece.Brief{Asked: "It must arrive after he does.", HeightMM: 70, Camera: "far", WearHours: 3, Exertion: "walking", WayOut: wear.WayOut{Closure: "zip down the back, inside the robe", Minutes: 1, Helpers: 1}, Marks: []wearmap.Mark{smaller(t.area("belly", ""), 0.78)}})
	for _, side := range []string{"L", "R"} {
		codes["hand "+side] = t.begin(piece.NewPiece{CharacterCode: "NM", CharacterName: "the net-mender", Performer: "Nessa Quill", Name: "Salt-cracked hand", Region: "hand_back", Side: side, CopiesWanted: 5},
			piece.Brief{Asked: "Thirty years of brine.", Camera: "close", WearHours: 4, Water: "splashed", HeightMM: 0.3, WayOut: wear.WayOut{Closure: "rolled off with oil", Minutes: 5, Helpers: 1}, Marks: []wearmap.Mark{t.area("hand_back", side)}, Features: features("cracks run across the knuckles")})
	}
	burn := wearmap.Mark{ID: "burn", Kind: "region", Sheet: "forearm_R", Text: "where the line ran out", Points: []form.Point{{U: -24, V: 57}, {U: 0, V: 54}, {U: 24, V: 58}, {U: 24, V: 69}, {U: 0, V: 66}, {U: -24, V: 68}}}
	codes["burn"] = t.begin(piece.NewPiece{CharacterCode: "NM", Name: "Rope burn", Region: "forearm", Side: "R", CopiesWanted: 3}, piece.Brief{Asked: "A week old, still open at one end.", Camera: "close", WearHours: 4, Water: "splashed", HeightMM: 3, WayOut: wayOut, Marks: []wearmap.Mark{burn}})
	drip := wearmap.Mark{ID: "drip", Kind: "region", Sheet: "forearm_L", Text: "the long drip", Points: []form.Point{{U: -6, V: 30}, {U: 6, V: 28}, {U: 12, V: 44}, {U: 9, V: 74}, {U: 0, V: 82}, {U: -7, V: 66}, {U: -10, V: 44}}}
	codes["drips"] = t.begin(piece.NewPiece{CharacterCode: "CB", CharacterName: "the chandler's boy", Performer: "Tam Rill", Name: "Drips of tallow", Region: "forearm", CopiesWanted: 2}, piece.Brief{Asked: "Still warm, to look at.", HeightMM: 5, Camera: "close", WearHours: 2, WayOut: wayOut, Marks: []wearmap.Mark{drip}})
	t.wearers()
	t.bodies()
	t.looks()
	t.days()
	codes["cheek"], codes["beak"], codes["jaw"] = cheek, beak, jaw
	t.sections(codes)
	t.references(cheek, brow, jaw, codes["bark brow"])
}

// beyond is an exaggeration past anatomy.
func beyond(region string) []piece.Exaggeration {
	return []piece.Exaggeration{{Region: region, Level: 4, Note: "wood, not skin"}}
}

// alder is the three-part face of bark, with its order of fitting.
func (t *teller) alder(codes map[string]string) {
	brow := t.area("forehead", "")
	for i, p := range brow.Points { // down over the brows, so that the cheeks lie under it
		if p.V > 33 {
			brow.Points[i].V += 3
		}
	}
	codes["bark brow"] = t.begin(piece.NewPiece{CharacterCode: "AL", CharacterName: "the alder-warden", Performer: "Siv Marrow", Name: "Brow of bark", Region: "forehead", CopiesWanted: 4},
		piece.Brief{Asked: "Bark that lifts when she frowns.", HeightMM: 12, Exaggeration: beyond("forehead"), Camera: "medium", WearHours: 7, WayOut: wayOut, Marks: []wearmap.Mark{brow, along("s1", "seam", "head", "be hidden", form.Point{U: 0, V: 24}, form.Point{U: 0, V: 30})}, Features: features("ridges run with the frown", "lichen in the hollows")})
	left := t.area("cheek", "L")
	right := wearmap.MirrorOf(left, "cheekR", 0.05)
	right.Text = "right cheek"
	codes["bark cheeks"] = t.begin(piece.NewPiece{CharacterCode: "AL", Name: "Cheeks of bark", Region: "cheek", CopiesWanted: 4}, piece.Brief{Asked: "Ridges with lichen in them.", HeightMM: 10, Exaggeration: beyond("cheek"), Camera: "medium", WearHours: 7, WayOut: wayOut, Marks: []wearmap.Mark{left, right}, Features: features("left and right differ")})
	codes["bark chin"] = t.begin(piece.NewPiece{CharacterCode: "AL", Name: "Chin of bark", Region: "chin", CopiesWanted: 4}, piece.Brief{Asked: "A knot where the chin is.", HeightMM: 9, Exaggeration: beyond("chin"), Camera: "medium", WearHours: 7, WayOut: wayOut, Marks: []wearmap.Mark{t.area("chin", "")}})
}

// barkHand is a glove of latex and tissue, built on the cast of her hand.
func (t *teller) barkHand(codes map[string]string) {
	codes["bark hand"] = t.begin(piece.NewPiece{CharacterCode: "AL", Name: "Bark hand", Region: "hand_back", Side: "L", CopiesWanted: 2},
		piece.Brief{Asked: "Bark that closes into a fist.", HeightMM: 1.2, Exaggeration: beyond("hand_back"), Camera: "medium", WearHours: 7, WayOut: wear.WayOut{Closure: "slit at the wrist", Minutes: 1},
			Marks: []wearmap.Mark{t.area("hand_back", "L")}, Features: features("knuckles as knots")})
}

// performers are the wearers by their character.
func (t *teller) performers() map[string]uint64 {
	ids := map[string]uint64{}
	pieces, err := piece.All(t.ctx, t.s.DB)
	t.try(err)
	for _, p := range pieces {
		if p.PerformerID != nil {
			ids[p.CharacterCode] = *p.PerformerID
		}
	}
	return ids
}

// unread are materials whose data sheets nobody has asked about latex yet.
var unread = []string{"found-sponge", "hair-crepe", "prep-glue-stick", "glitter-fine", "paste-drying", "found-feather"}

// sheets writes down what the data sheets say of latex: a wearer is allergic to
// it, and what is not stated would hold everything back.
func (t *teller) sheets() {
	materials, err := shelf.Load(t.ctx, t.s.DB)
	t.try(err)
	for _, slug := range slices.Sorted(maps.Keys(materials)) {
		if t.err != nil || materials[slug].IsLatex() || slices.Contains(unread, slug) {
			continue
		}
		_, err := t.s.Stores.State(t.who["maud"], slug, stores.Stated{Substance: "latex", Says: "free of", Source: "its data sheet, read for the bell-founder"})
		t.try(err)
	}
}

// wearers records sensitivities, limits, consents and patch tests.
func (t *teller) wearers() {
	if t.err != nil {
		return
	}
	ctx, ids := t.who["maud"], t.performers()
	_, err := t.s.People.RecordHealth(ctx, ids["BF"], people.NewFact{Substance: "latex", Status: "allergic", Note: "carries the letter of the clinic"})
	t.try(err)
	_, err = t.s.People.RecordHealth(ctx, ids["AL"], people.NewFact{Substance: "latex", Status: "clear"})
	t.try(err)
	t.sheets()
	_, err = t.s.People.SetPerformer(ctx, ids["PK"], false, "the beard")
	t.try(err)
	_, err = t.s.People.SetPerformer(ctx, ids["GC"], true, "")
	t.try(err)
	three := 3.0
	_, err = t.s.People.SetLimit(ctx, ids["AL"], people.Limit{Kind: "hours", Amount: &three, Note: "face covered, by her own word"})
	t.try(err)
	carry := 1300.0
	_, err = t.s.People.SetLimit(ctx, ids["PK"], people.Limit{Kind: "mass", Amount: &carry, Note: "his back, by his own word"})
	t.try(err)
	for _, id := range ids {
		for _, what := range []string{"touch and glue", "photographs"} {
			_, err = t.s.People.GiveConsent(ctx, id, people.NewConsent{What: what, GivenOn: "2025-12-01", UntilOn: "2026-03-31"})
			t.try(err)
		}
	}
	for _, p := range []struct {
		character, material, result, tested, expires string
	}{
		{"FT", "adhesive-acrylic", "open", "2025-12-01", "2026-03-01"},
	} {
		_, err := t.s.People.RecordPatch(ctx, ids[p.character], people.NewPatch{Material: p.material, Lot: "25-081", Result: p.result, TestedOn: p.tested, ExpiresOn: p.expires})
		t.try(err)
	}
	for character, list := range map[string][]string{
		"BF": {"adhesive-acrylic", "remover-ester", "paint-alcohol"}, "AL": {"adhesive-acrylic", "remover-ester", "paint-alcohol", "latex-balloon"}, "GC": {"adhesive-acrylic", "remover-ester", "paint-cream"},
		"PK": {"adhesive-acrylic", "remover-ester", "paint-alcohol"}, "NM": {"latex-balloon", "paint-cream", "paint-alcohol", "adhesive-gum", "remover-ester"}, "CB": {"adhesive-gum", "remover-ester", "silicone-direct", "paint-cream"}, "FT": {"remover-ester", "paint-alcohol"},
	} {
		for _, slug := range list {
			if t.err == nil {
				_, err := t.s.People.RecordPatch(ctx, ids[character], people.NewPatch{Material: slug, Result: "clear", TestedOn: "2025-11-27", ReadOn: "2025-11-29", ExpiresOn: "2026-02-27"})
				t.try(err)
			}
		}
	}
}

// bodies records measurements, readings of skin, and what stands on each
// wearer's own map.
func (t *teller) bodies() {
	if t.err != nil {
		return
	}
	ids := t.performers()
	for character, list := range map[string]map[string]string{
		"BF": {"head_girth": "578 mm", "face_breadth": "139 mm", "face_height": "121 mm", "nose_height": "53 mm", "nose_breadth": "39 mm", "eye_distance": "66 mm", "mouth_breadth": "51 mm", "hat size inside": "58 cm"},
		"AL": {"head_girth": "546 mm", "face_breadth": "129 mm", "face_height": "112 mm", "jaw_breadth": "104 mm"}, "FT": {"neck_girth": "15 in", "neck_height": "102 mm"},
		"GC": {"head_girth": "551 mm", "nose_height": "49 mm", "nose_breadth": "33 mm", "nose_depth": "20 mm"}, "PK": {"neck_girth": "402 mm", "waist_girth": "1040 mm", "head_girth": "590 mm"},
		"NM": {"hand_length": "176 mm", "hand_breadth": "52 mm"}, "CB": {"forearm_length": "228 mm", "forearm_girth": "248 mm"},
	} {
		for name, typed := range list {
			if t.err == nil {
				_, err := t.s.Brief.Measure(t.who["pip"], ids[character], name, typed)
				t.try(err)
			}
		}
	}
	for _, character := range []string{"BF", "AL", "FT", "GC", "PK", "NM", "CB"} {
		places := []string{"forehead", "cheek"}
		if character == "NM" || character == "CB" {
			places = []string{"hand_back", "forearm"}
		}
		if character == "BF" {
			places = append(places, "nose", "neck")
		}
		for _, place := range places {
			for range 5 {
				if t.err == nil {
					_, err := t.s.Brief.ReadSkin(t.who["pip"], ids[character], brief.NewReading{Region: place, Source: "reader"})
					t.try(err)
				}
			}
		}
	}
	beard := wearmap.Mark{ID: "beard", Kind: "hair", Sheet: "head", Text: "the beard", How: "keep free", Points: []form.Point{{U: 50, V: 60}, {U: 40, V: 66}, {U: 20, V: 66}, {U: 0, V: 66}, {U: -20, V: 66}, {U: -40, V: 66}, {U: -50, V: 60}, {U: -44, V: 70}, {U: -22, V: 78}, {U: 0, V: 80}, {U: 22, V: 78}, {U: 44, V: 70}}}
	ownBrow := t.area("brow", "L")
	ownBrow.ID, ownBrow.Kind, ownBrow.Text, ownBrow.How, ownBrow.By = "browL", "hair", "the left brow", "protect", "petroleum jelly, surplus wiped off the skin"
	marks := map[string][]wearmap.Mark{
		"PK": {beard}, "BF": {ownBrow},
		"AL": {along("fr1", "fold", "head", "frown", form.Point{U: -5, V: 33}, form.Point{U: -3, V: 37}), along("fr2", "fold", "head", "frown", form.Point{U: 5, V: 33}, form.Point{U: 3, V: 37}),
			along("up1", "fold", "head", "brows raised", form.Point{U: -20, V: 29}, form.Point{U: 0, V: 28}, form.Point{U: 20, V: 29})},
		"NM": {{ID: "p1", Kind: "pull", Sheet: "hand_back_L", Text: "the back of the hand", How: "down", Layers: 3, HoldS: 60, Points: []form.Point{{U: 0, V: 58}, {U: 0, V: 80}}},
			{ID: "p2", Kind: "pull", Sheet: "hand_back_R", Text: "the back of the hand", How: "down", Layers: 3, HoldS: 60, Points: []form.Point{{U: 0, V: 58}, {U: 0, V: 80}}}},
	}
	for character, list := range marks {
		if t.err == nil {
			_, err := t.s.Brief.SetWearerMap(t.who["maud"], ids[character], brief.WearerMap{Marks: list})
			t.try(err)
		}
	}
}

func (t *teller) looks() {
	collar := wearmap.Mark{ID: "collar", Kind: "covered", Sheet: "head", Text: "oilskin collar", How: "costume", Points: []form.Point{{U: -99, V: 86}, {U: -50, V: 87}, {U: 0, V: 92}, {U: 50, V: 87}, {U: 99, V: 86}, {U: 99, V: 99}, {U: 0, V: 99}, {U: -99, V: 99}}}
	brim := wearmap.Mark{ID: "brim", Kind: "moving_edge", Sheet: "head", Text: "hat brim", How: "hat", Points: []form.Point{{U: -60, V: 20}, {U: -25, V: 25}, {U: 0, V: 26}, {U: 25, V: 25}, {U: 60, V: 20}, {U: 60, V: 15}, {U: 0, V: 21}, {U: -60, V: 15}}}
	border := along("half", "border", "head", "", form.Point{U: 0, V: 12}, form.Point{U: 2, V: 30}, form.Point{U: -1, V: 46}, form.Point{U: 1, V: 62}, form.Point{U: 0, V: 76})
	for _, l := range []struct {
		character string
		look      brief.NewLook
	}{
		{"BF", brief.NewLook{Name: "intact", Stage: 1, Note: "before the tide", Pieces: []string{"BF-02"}, Marks: []wearmap.Mark{collar}}},
		{"BF", brief.NewLook{Name: "grown", Stage: 2, Note: "brow first, the cheek a week later", Pieces: []string{"BF-01", "BF-02", "BF-03"}, Marks: []wearmap.Mark{collar, brim}}},
		{"BF", brief.NewLook{Name: "hurt", Stage: 3, Note: "the brow has come off on the ring", Pieces: []string{"BF-02", "BF-03"}, Marks: []wearmap.Mark{collar}}},
		{"AL", brief.NewLook{Name: "turning", Stage: 1, LeftHalf: "bark", RightHalf: "her own skin", Note: "the border is torn, not cut", Pieces: []string{"AL-02"}, Marks: []wearmap.Mark{border}}},
		{"AL", brief.NewLook{Name: "grown", Stage: 2, Pieces: []string{"AL-01", "AL-02", "AL-03", "AL-04-L"}}},
		{"PK", brief.NewLook{Name: "in office", Stage: 1, Pieces: []string{"PK-01", "PK-02"}, Marks: []wearmap.Mark{collar}}},
	} {
		if t.err == nil {
			_, err := t.s.Brief.SetLook(t.who["maud"], l.character, l.look)
			t.try(err)
		}
	}
}

// references pins pictures of our own drawing, with notes on the first.
func (t *teller) references(codes ...string) {
	for i, code := range codes {
		if t.err != nil {
			return
		}
		raw, err := studied(code)
		t.try(err)
		about := []brief.About{{Caption: "Stone below the tide line", Credit: "drawn for this demo", View: "front", Standing: "direct"}, {Caption: "Growth round an old ring", Credit: "drawn for this demo", View: "close-up", Standing: "second-hand"},
			{Caption: "Scales that shrink towards the gill", Credit: "drawn for this demo", View: "close-up", Standing: "direct"}, {Caption: "Old pier, where the bark still holds", Credit: "drawn for this demo", View: "front", Standing: "direct"}}[i]
		v, err := t.s.Brief.Pin(t.who["maud"], code, about, bytes.NewReader(raw))
		t.try(err)
		if t.err != nil || i > 0 {
			continue
		}
		for _, n := range []brief.NewPin{
			{Kind: "note", Points: [][2]float64{{0.2, 0.3}}, Label: "collar of plates", Words: "six to eight plates, never the same twice"},
			{Kind: "colour", Points: [][2]float64{{0.8, 0.7}}, Label: "wet stone", Half: 0.02},
			{Kind: "line", Points: [][2]float64{{0.1, 0.85}, {0.4, 0.78}, {0.75, 0.8}}, Label: "where it thins out"},
		} {
			_, err := t.s.Brief.Note(t.who["pip"], v.References[0].ID, n)
			t.try(err)
		}
	}
}
