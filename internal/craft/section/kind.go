package section

import (
	"slices"

	"yewmoor/internal/craft/material"
)

// Kind is what a layer is for.
type Kind string

// The kinds of layer, in the order in which they usually lie.
const (
	Skin         Kind = "skin"
	Preparation  Kind = "preparation"
	Barrier      Kind = "barrier"
	Adhesive     Kind = "adhesive"
	Encapsulator Kind = "encapsulator"
	Silicone     Kind = "silicone"
	Gelatin      Kind = "gelatin"
	Foam         Kind = "foam"
	SoftFoam     Kind = "soft_foam"
	Latex        Kind = "latex"
	Paste        Kind = "paste"
	Wax          Kind = "wax"
	Insert       Kind = "insert"
	Weight       Kind = "weight"
	Paint        Kind = "paint"
	Hair         Kind = "hair"
	Seal         Kind = "seal"
	Powder       Kind = "powder"
	WetLook      Kind = "wet_look"
	Blood        Kind = "blood"
)

// Nature is how a layer is measured.
type Nature string

// A body has a thickness at the centre and at the edge, a film coats of one
// thickness, things a number and a mass each, hair a density and a length.
const (
	Body   Nature = "body"
	Film   Nature = "film"
	Things Nature = "things"
	Strand Nature = "hair"
	Ground Nature = "skin"
)

// KindFacts is a kind with what may be used for it.
type KindFacts struct {
	Kind     Kind              `json:"kind"`
	Text     string            `json:"text"`
	Nature   Nature            `json:"nature" enum:"skin,body,film,things,hair"`
	Families []material.Family `json:"families"`
	Methods  []string          `json:"methods" doc:"how it can be put on, the usual way first"`
	// Appliance is true for the layers that make the piece itself, as against
	// what holds it on and what lies on top. The edge that a camera sees is theirs.
	Appliance bool `json:"appliance"`
	// effort: seconds of hands for every cm² of every coat, and for each coat
	perCM2, each float64
}

// Kinds is every kind of layer in the order in which they usually lie. The
// hands-on figures are ours (docs/decisions/0015), until a shop's own log
// replaces them.
var Kinds = []KindFacts{
	{Skin, "Skin", Ground, nil, nil, false, 0, 0},
	{Preparation, "Preparation", Film, []material.Family{material.Preparation}, nil, false, 0.5, 60},
	{Barrier, "Barrier", Film, []material.Family{material.Barrier}, nil, false, 0.8, 60},
	{Adhesive, "Adhesive", Film, []material.Family{material.AdhesiveAcrylic, material.AdhesiveGum, material.AdhesiveSilicone, material.AdhesiveLash, material.AdhesiveContact}, nil, false, 1.2, 60},
	{Encapsulator, "Encapsulating film", Film, []material.Family{material.Encapsulator}, []string{"sprayed", "brushed"}, true, 0.6, 90},
	{Silicone, "Silicone", Body, []material.Family{material.SiliconeAddition, material.SiliconeCondensation}, []string{"cast", "direct", "injected"}, true, 0.5, 900},
	{Gelatin, "Gelatin", Body, []material.Family{material.Gelatin}, []string{"cast", "dropped"}, true, 0.5, 1200},
	{Foam, "Foam latex", Body, []material.Family{material.FoamLatex}, []string{"cast"}, true, 0.5, 2700},
	{SoftFoam, "Soft foam", Body, []material.Family{material.FoamPolyurethane}, []string{"cast"}, true, 0.1, 900},
	{Latex, "Latex coats", Film, []material.Family{material.Latex, material.LatexPaste}, []string{"brushed", "stippled", "slush", "sheet"}, true, 0.8, 30},
	{Paste, "Paste", Body, []material.Family{material.LatexPaste, material.HouseholdPaste}, nil, true, 4, 300},
	{Wax, "Wax", Body, []material.Family{material.Wax}, nil, true, 12, 120},
	{Insert, "Insert", Things, []material.Family{material.Found, material.Thermoplastic}, nil, false, 0, 120},
	{Weight, "Weight, filling", Things, []material.Family{material.Filling}, nil, false, 0, 600},
	{Paint, "Colour", Film, []material.Family{material.PaintSilicone, material.PaintAlcohol, material.PaintWater, material.PaintCream, material.PaintAdhesive, material.PaintAcrylic, material.Glitter}, nil, false, 3, 120},
	{Hair, "Hair", Strand, []material.Family{material.HairFibre}, []string{"laid", "punched"}, false, 20, 120},
	{Seal, "Seal", Film, []material.Family{material.Sealer, material.Encapsulator}, nil, false, 0.6, 60},
	{Powder, "Powder", Film, []material.Family{material.Powder}, nil, false, 0.4, 30},
	{WetLook, "Wet look", Film, []material.Family{material.WetLook}, nil, false, 0.4, 30},
	{Blood, "Blood", Film, []material.Family{material.Blood}, nil, false, 0.5, 60},
}

var kindIndex = func() map[Kind]KindFacts {
	by := map[Kind]KindFacts{}
	for _, k := range Kinds {
		by[k.Kind] = k
	}
	return by
}()

// Facts are what is known of a kind.
func (k Kind) Facts() (KindFacts, bool) { f, ok := kindIndex[k]; return f, ok }

// Fits says whether a product may be used for a kind of layer.
func (k Kind) Fits(p material.Product) bool {
	return slices.Contains(kindIndex[k].Families, p.Family)
}

// IsAppliance is true for the layers that make the piece itself.
func (k Kind) IsAppliance() bool { return kindIndex[k].Appliance }

// Is says how a layer of this kind is measured.
func (k Kind) Is() Nature { return kindIndex[k].Nature }
