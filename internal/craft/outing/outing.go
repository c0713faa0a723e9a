// Package outing is the day on which pieces are worn, worked out from what the shop knows of them: what goes into
// their kit and how much of it, the run of the morning in the chair, how long each edge lasts on that day and
// when to look at it, and how all of it comes off. It asks package fit, and draws on sections and the wearer's
// map; it knows no copy, lot or person. Figures that have no source in the handbook are ours and say so
// (docs/decisions/0029).
package outing

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
)

// Piece is one piece as it is worn.
type Piece struct {
	Code   string
	Name   string
	Region string
	Side   string
	Doc    section.Section
	Result section.Result
	// AreaCM2 of skin under it, RimCM its edge, EdgeMM how thick the edge is.
	AreaCM2 float64
	RimCM   float64
	EdgeMM  float64
	Hair    []wearmap.Hair
	// NearEye: it comes within 10 mm of a lid margin.
	NearEye bool
	Copies  int // that go with this kit
	// Marks are the landmarks that it is placed by, with their names.
	Marks []fit.Mark
	Names map[string]string
}

// Day is the day that it is worn.
type Day struct {
	Hours    float64
	AirC     float64
	RH       float64
	Exertion string
	Rain     bool
	// RoomC, RoomRH and Air are of the place where the chair stands.
	RoomC  float64
	RoomRH float64
	Air    string
	Uses   int // times that each piece is put on
	Takes  int // takes with blood
}

// zone is where a piece lies for an adhesive.
func (p Piece) zone() string {
	switch p.Region {
	case "lip", "mouth_corner", "chin":
		return "mouth"
	case "eye_hollow":
		return "eye"
	case "scalp":
		return "scalp"
	case "hand_back", "palm", "knuckle", "finger":
		return "hand"
	case "forehead", "brow", "temple", "cheek", "nose", "ear", "jaw", "face":
		if p.NearEye {
			return "eye"
		}
		return "face"
	}
	return "body"
}

// seat is what only one pair of hands works on at a time.
func (p Piece) seat() string { return strings.TrimRight(p.Region+" "+p.Side, " ") }

func (p Piece) mouth() bool { return p.zone() == "mouth" }

// strain is how far the skin stretches where it lies (chapter, section 8).
func (p Piece) strain() float64 {
	switch p.Region {
	case "mouth_corner", "lip":
		return 0.3
	case "neck":
		return 0.25
	case "cheek", "chin", "jaw", "knuckle", "finger":
		return 0.15
	}
	return 0.1
}

// WidthMM is the largest circle that fits under it, from area and edge: exact for a round piece, at most twice too wide
// for a strip, so that a soak is rather told too long.
func (p Piece) WidthMM() float64 {
	round := 20 * math.Sqrt(p.AreaCM2/math.Pi)
	if p.RimCM == 0 {
		return round
	}
	return math.Max(1, math.Min(round, 2*20*p.AreaCM2/p.RimCM))
}

// has finds the first layer of a kind.
func (p Piece) has(k section.Kind) (out section.Layer, found bool) {
	p.Doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if !found && l.Kind == k {
			out, found = l, true
		}
	})
	return out, found
}

// Family is what it is to an adhesive.
func (p Piece) Family(shelf material.Shelf) string {
	switch f := material.Family(p.Result.Family); f {
	case material.SiliconeAddition, material.SiliconeCondensation:
		if _, film := p.has(section.Encapsulator); film {
			return "encapsulated"
		}
		return "silicone"
	case material.Gelatin:
		return "gelatin"
	case material.FoamLatex:
		return "foam_latex"
	case material.Latex:
		return "latex"
	case material.LatexPaste, material.HouseholdPaste:
		return "paste"
	case material.Wax:
		return "wax"
	case material.HairFibre:
		return "hair"
	}
	return "found"
}

// travels is how it is packed.
func (p Piece) travels(shelf material.Shelf) string {
	switch f := p.Family(shelf); f {
	case "encapsulated", "silicone":
		return "silicone"
	case "gelatin", "foam_latex", "latex", "paste", "wax", "hair":
		return f
	}
	return "insert"
}

// Glue is an adhesive of a section as the tables know it, and the layer that says it.
type Glue struct {
	Layer   section.Layer
	Product material.Product
	Kind    fit.Adhesive
}

// Glues are the skin adhesives of a piece. The families of the shelf and the tables share their names.
func (p Piece) Glues(shelf material.Shelf) []Glue {
	var out []Glue
	p.Doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if l.Kind != section.Adhesive {
			return
		}
		product := shelf[l.Material]
		kind, known := fit.AdhesiveOf(string(product.Family))
		if known && !slices.ContainsFunc(out, func(g Glue) bool { return g.Product.Slug == product.Slug }) {
			out = append(out, Glue{l, product, kind})
		}
	})
	return out
}

// onSkin says whether it is built up on the skin: it then holds by itself.
func (p Piece) onSkin() bool { return p.Doc.MadeOn() == section.OnSkin }

// stretched says whether skin is stretched while it goes on.
func (p Piece) stretched() (out bool) {
	p.Doc.All(func(_ section.Cut, _ int, l section.Layer) { out = out || l.Stretched })
	return out
}

// spread is how a glue is laid under a piece: both faces, twice where the mouth moves it, its rim once more.
func (p Piece) spread(g Glue) fit.Spread {
	s := fit.Spread{Adhesive: g.Kind.ID, AreaCM2: math.Max(0.01, p.AreaCM2), Faces: 2, RimCM: p.RimCM, CoatMM: g.Kind.CoatMM, Waste: fit.UsualWaste}
	if p.mouth() {
		s.DoubleCM2 = s.AreaCM2
	} else if p.strain() >= 0.15 {
		s.DoubleCM2 = s.AreaCM2 / 4
	}
	return s
}

// ordered is the order of fitting.
func ordered(pieces []Piece) []Piece {
	worn := make([]section.Worn, len(pieces))
	for i, p := range pieces {
		worn[i] = section.Worn{Code: p.Code, Region: p.Region, LiesOver: p.Doc.LiesOver, Stretch: p.stretched()}
	}
	place := map[string]int{}
	for i, f := range section.Order(worn) {
		place[f.Code] = i
	}
	out := slices.Clone(pieces)
	slices.SortStableFunc(out, func(a, b Piece) int { return cmp.Compare(place[a.Code], place[b.Code]) })
	return out
}

// Holding says which adhesives hold a piece, beside the one that its section names.
type Holding struct {
	Piece string     `json:"piece"`
	Zone  string     `json:"zone"`
	Named []string   `json:"named" doc:"kinds of the section's own"`
	Says  fit.Chosen `json:"says"`
}

// Holds asks for each piece which adhesives hold it that long there. Allergies are the rule book's.
func Holds(pieces []Piece, d Day, shelf material.Shelf) []Holding {
	out := []Holding{}
	for _, p := range pieces {
		if p.onSkin() {
			continue
		}
		h := Holding{Piece: p.Code, Zone: p.zone(), Named: []string{}, Says: fit.Choose(fit.Choice{Family: p.Family(shelf), Zone: p.zone(), Hours: d.Hours, Strain: p.strain(), Strength: 1})}
		for _, g := range p.Glues(shelf) {
			h.Named = append(h.Named, g.Kind.ID)
		}
		out = append(out, h)
	}
	return out
}

// Parcel is how a piece travels.
type Parcel struct {
	Piece string     `json:"piece"`
	What  string     `json:"what"`
	Says  fit.Packed `json:"says"`
}

// Parcels are how pieces travel: made so many days ago, through so warm and damp air.
func Parcels(pieces []Piece, ageDays map[string]float64, d Day, shelf material.Shelf) []Parcel {
	out := []Parcel{}
	for _, p := range pieces {
		what := p.travels(shelf)
		out = append(out, Parcel{p.Code, what, fit.Pack(fit.Trip{Material: what, Days: ageDays[p.Code], MinC: math.Min(d.AirC, d.RoomC), MaxC: math.Max(d.AirC, d.RoomC),
			MinRH: math.Min(d.RH, d.RoomRH), MaxRH: math.Max(d.RH, d.RoomRH)})})
	}
	return out
}

// UsualWears is how often a copy is worn where the shop's own log does not say it: the middle of what the
// chapter names (section 10).
func UsualWears(family string) int {
	switch family {
	case "silicone", "encapsulated":
		return 2
	case "found", "insert", "hair":
		return 5
	}
	return 1
}

// Wants is how many copies of each piece that many uses take, nine times in ten.
func Wants(pieces []Piece, days, perDay int, shelf material.Shelf) map[string]fit.Wanted {
	out := map[string]fit.Wanted{}
	for _, p := range pieces {
		if p.onSkin() {
			continue
		}
		out[p.Code] = fit.Copies(fit.Run{Days: max(1, days), PerDay: max(1, perDay), Together: 1, MaxWears: UsualWears(p.Family(shelf)), Loss: 0.05, Survive: 0.7, Confidence: 0.9})
	}
	return out
}
