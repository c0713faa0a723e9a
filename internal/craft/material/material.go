// Package material holds what the craft knows of materials: families, the
// facts of a product with the source of each, and the built-in library that a
// new shop starts from. Stock and lots are not here.
package material

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/substance"
)

// Family is a kind of material that behaves alike in the rules.
type Family string

// The families, by what they do on a piece.
const (
	Latex                Family = "latex"
	LatexPaste           Family = "latex_paste"
	FoamLatex            Family = "foam_latex"
	SiliconeAddition     Family = "silicone_addition"
	SiliconeCondensation Family = "silicone_condensation"
	Gelatin              Family = "gelatin"
	Wax                  Family = "wax"
	Encapsulator         Family = "encapsulator"
	Barrier              Family = "barrier"
	AdhesiveAcrylic      Family = "adhesive_acrylic"
	AdhesiveGum          Family = "adhesive_gum"
	AdhesiveSilicone     Family = "adhesive_silicone"
	PaintSilicone        Family = "paint_silicone"
	PaintAlcohol         Family = "paint_alcohol"
	PaintWater           Family = "paint_water"
	PaintCream           Family = "paint_cream"
	Powder               Family = "powder"
	Fibre                Family = "fibre"
	Softener             Family = "softener"
	Pigment              Family = "pigment"
	Flock                Family = "flock"
	Remover              Family = "remover"
	Release              Family = "release"
	Clay                 Family = "clay"
	FoamPolyurethane     Family = "foam_polyurethane"
	Thermoplastic        Family = "thermoplastic"
	Blood                Family = "blood"
	Preparation          Family = "preparation"
	AdhesiveLash         Family = "adhesive_lash"
	AdhesiveContact      Family = "adhesive_contact"
	HouseholdPaste       Family = "household_paste"
	PaintAdhesive        Family = "paint_adhesive"
	PaintAcrylic         Family = "paint_acrylic"
	Glitter              Family = "glitter"
	Sealer               Family = "sealer"
	WetLook              Family = "wet_look"
	Found                Family = "found"
	Filling              Family = "filling"
	HairFibre            Family = "hair"
	CastOfLife           Family = "life_cast" // what takes a cast of a living body
	Glove                Family = "glove"
	Tool                 Family = "tool"       // sponges, brushes and puffs: what touches a wearer or a piece and stays on neither
	Ingredient           Family = "ingredient" // what a recipe starts from and no layer is of: gelatin powder, foam base, water
	Additive             Family = "additive"   // thickens, hastens, slows or tints what it is stirred into
	Food                 Family = "food"
	Solvent              Family = "solvent"
	Gypsum               Family = "gypsum"
	Resin                Family = "resin"
	Cloth                Family = "cloth" // what a resin is laid up with
)

var families = []Family{Latex, LatexPaste, FoamLatex, SiliconeAddition, SiliconeCondensation, Gelatin, Wax, Encapsulator, Barrier,
	AdhesiveAcrylic, AdhesiveGum, AdhesiveSilicone, PaintSilicone, PaintAlcohol, PaintWater, PaintCream, Powder, Fibre, Softener,
	Pigment, Flock, Remover, Release, Clay, FoamPolyurethane, Thermoplastic, Blood, Preparation, AdhesiveLash, AdhesiveContact,
	HouseholdPaste, PaintAdhesive, PaintAcrylic, Glitter, Sealer, WetLook, Found, Filling, HairFibre, CastOfLife, Glove, Tool, Ingredient, Additive,
	Food, Solvent, Gypsum, Resin, Cloth}

// Sources of a figure, weakest first. A figure without an entry is a default.
const (
	SourceDefault  = "default"
	SourceSheet    = "data sheet"
	SourceMeasured = "measured here"
)

// Ratio is how a two-part product is divided.
type Ratio struct {
	A        float64 `json:"a"`
	B        float64 `json:"b"`
	ByVolume bool    `json:"by_volume,omitempty"`
	DensityA float64 `json:"density_a,omitempty"` // g/ml
	DensityB float64 `json:"density_b,omitempty"`
}

// FibreFacts describes one ply of reinforcement.
type FibreFacts struct {
	KgM2   float64 `json:"kg_m2"`
	Uptake float64 `json:"uptake"` // kg latex per kg fibre
	Loft   float64 `json:"loft"`   // built height over the height of the solids
}

// UsualWaste is the share that stays in cups and is trimmed away, unless somebody says otherwise.
const UsualWaste = 0.15

// Product is one material as a shop buys it.
type Product struct {
	Slug    string  `json:"slug"`
	Name    string  `json:"name"`
	Family  Family  `json:"family"`
	Density float64 `json:"density"` // finished (cured, dry) g/ml
	Solids  float64 `json:"solids,omitempty"`
	// WetDensity is of the stuff as it is mixed, g/ml, where that is another: foam
	// before it rises, latex before it dries.
	WetDensity float64 `json:"wet_density,omitempty"`
	// CoatMM is the usual thickness of one coat: dry for films, wet for latex.
	CoatMM float64 `json:"coat_mm,omitempty"`
	// Solvent is what dissolves the film: acetone, alcohol or water.
	Solvent string      `json:"solvent,omitempty"`
	Ratio   *Ratio      `json:"ratio,omitempty"`
	Cure    *CureSheet  `json:"cure,omitempty"`
	Fibre   *FibreFacts `json:"fibre,omitempty"`
	// Softener says of what the supplier's softener percentage is counted.
	SoftenerOf string  `json:"softener_of,omitempty"`
	HasLatex   bool    `json:"has_latex,omitempty"` // natural rubber in it, whatever the family
	Animal     bool    `json:"animal,omitempty"`
	DropG      float64 `json:"drop_g,omitempty"`
	Remover    string  `json:"remover,omitempty"` // slug of what takes it off
	Caution    string  `json:"caution,omitempty"`

	// PriceMinorKg is what a kilogram costs, in hundredths of the shop's money.
	PriceMinorKg int64 `json:"price_minor_kg,omitempty"`
	// ForSkin: sold to touch skin. MouthSafe: may come to lips and into mouths.
	ForSkin   bool   `json:"for_skin,omitempty"`
	MouthSafe bool   `json:"mouth_safe,omitempty"`
	Stains    string `json:"stains,omitempty"` // what it stains: skin, cloth, or strong for everything
	Oil       string `json:"oil,omitempty"`    // mineral: perishes latex
	White     bool   `json:"white,omitempty"`  // shows light on dark tones
	Rots      bool   `json:"rots,omitempty"`   // plant or food matter
	Sort      string `json:"sort,omitempty"`   // of blood: fresh, aged, gel
	// Tint is the pigment of the colour library that it is reckoned as, where the shop
	// has drawn none of it down itself.
	Tint string `json:"tint,omitempty"`
	// Tap: comes from the tap, and no lots of it are kept. Edible: food, and may be
	// swallowed. Dusty: its dust is not to be breathed.
	Tap    bool `json:"tap,omitempty"`
	Edible bool `json:"edible,omitempty"`
	Dusty  bool `json:"dusty,omitempty"`
	// CureShift is what it does to a cure that it is stirred into: accelerator or
	// retarder.
	CureShift string `json:"cure_shift,omitempty"`
	// Into are the families that it may be stirred into, and StirMost how much at
	// most in percent of their parts; silicones and the usual where neither stands.
	Into     []Family `json:"into,omitempty"`
	StirMost float64  `json:"stir_most,omitempty"`
	// Keep is how the shop keeps it in its stores.
	Keep *Keep `json:"keep,omitempty"`
	// Film names the drying model of a film; SetS is when a paste has set, in s.
	Film     string          `json:"film,omitempty"`
	SetS     float64         `json:"set_s,omitempty"`
	Base     *gelatin.Recipe `json:"base,omitempty"`     // what a gelatin is made from
	Firmness string          `json:"firmness,omitempty"` // of a wax: soft, medium, hard

	// Contains are codes of substances that it holds or gives off; FreeOf those
	// that its data sheet says are not in it. What stands in neither is not known.
	Contains []string `json:"contains,omitempty"`
	FreeOf   []string `json:"free_of,omitempty"`

	Sources map[string]string `json:"sources,omitempty"`
}

// Holds is what is known of what is in it.
func (p Product) Holds() substance.Holds {
	h := substance.Holds{Slug: p.Slug, Contains: slices.Clone(p.Contains), FreeOf: p.FreeOf}
	if p.IsLatex() {
		h.Contains = append(h.Contains, "latex")
	}
	if p.Animal {
		h.Contains = append(h.Contains, "animal")
	}
	return h
}

// IsLatex says whether natural rubber latex is in the product (SAF-1).
func (p Product) IsLatex() bool {
	return p.HasLatex || p.Family == Latex || p.Family == LatexPaste || p.Family == FoamLatex
}

// StirLimit is how much of it goes into a body of a family at most, in percent of
// its parts; 0 where it is not stirred into that.
func (p Product) StirLimit(into Family) float64 {
	families := p.Into
	if families == nil {
		families = []Family{SiliconeAddition, SiliconeCondensation}
	}
	if !slices.Contains(families, into) {
		return 0
	}
	if p.StirMost > 0 {
		return p.StirMost
	}
	return map[Family]float64{Softener: 200, Pigment: 3, Flock: 1}[p.Family]
}

// Mixed is its density as it is mixed, g/ml.
func (p Product) Mixed() float64 {
	if p.WetDensity > 0 {
		return p.WetDensity
	}
	return p.Density
}

// DensityOf is the density with which an amount as it was typed becomes a mass, g/ml:
// drops of a product whose drop was weighed here weigh what they weighed.
func (p Product) DensityOf(typed string) float64 {
	if p.DropG > 0 && strings.Contains(strings.ToLower(typed), "drop") {
		return p.DropG / quantity.DropML
	}
	return p.Mixed()
}

// Keep is how a product is kept and ordered: what is always wanted on hand, how long
// a delivery takes, what it comes in, and how long it lives once opened.
type Keep struct {
	SafetyG      float64 `json:"safety_g,omitempty" minimum:"0" maximum:"1000000"`
	LeadDays     int     `json:"lead_days,omitempty" minimum:"0" maximum:"365"`
	PackG        float64 `json:"pack_g,omitempty" minimum:"0" maximum:"1000000"`
	MinOrderG    float64 `json:"min_order_g,omitempty" minimum:"0" maximum:"1000000"`
	OpenLifeDays int     `json:"open_life_days,omitempty" minimum:"0" maximum:"3650"`
	Supplier     string  `json:"supplier,omitempty" maxLength:"80"`
	Place        string  `json:"place,omitempty" maxLength:"40"`
}

// Check refuses a product whose facts cannot be true.
func (p Product) Check() error {
	switch {
	case p.Slug == "":
		return refusal.New(refusal.Missing, "slug", "The material needs a short name.")
	case p.Name == "":
		return refusal.New(refusal.Missing, "name", "The material needs a name.")
	case !slices.Contains(families, p.Family):
		return refusal.New(refusal.UnknownValue, "family", "“%s” is not a material family.", p.Family)
	case p.Density < 0.02 || p.Density > 10:
		return refusal.New(refusal.OutOfRange, "density", "The density must lie between 0.02 and 10 g/ml.")
	case p.WetDensity != 0 && (p.WetDensity < 0.3 || p.WetDensity > 10):
		return refusal.New(refusal.OutOfRange, "wet_density", "As it is mixed it weighs between 0.3 and 10 g/ml.")
	case p.DropG < 0 || p.DropG > 1:
		return refusal.New(refusal.OutOfRange, "drop_g", "A drop weighs up to a gram.")
	case p.Solids < 0 || p.Solids > 1:
		return refusal.New(refusal.OutOfRange, "solids", "Its solids are a share between 0 and 1.")
	case p.Ratio != nil && (p.Ratio.A <= 0 || p.Ratio.B <= 0):
		return refusal.New(refusal.OutOfRange, "ratio", "Both parts of the ratio must be above zero.")
	case p.PriceMinorKg < 0 || p.PriceMinorKg > 1e9:
		return refusal.New(refusal.OutOfRange, "price_minor_kg", "A kilogram costs something between nothing and ten million.")
	case p.Cure != nil && (p.Cure.PotS <= 0 || p.Cure.DemouldS <= p.Cure.PotS):
		return refusal.New(refusal.Contradiction, "cure.demould_s", "The demould time must be longer than the pot life.")
	}
	if p.Base != nil {
		return p.Base.Check("base")
	}
	return nil
}

// IsAdhesive says whether it glues to skin, or is glue at all.
func (p Product) IsAdhesive() bool { return strings.HasPrefix(string(p.Family), "adhesive") }

// IsColour says whether it is a colour that is painted on.
func (p Product) IsColour() bool {
	return strings.HasPrefix(string(p.Family), "paint") || p.Family == Glitter
}

// IsSilicone says whether it is a silicone rubber, of either cure.
func (p Product) IsSilicone() bool {
	return p.Family == SiliconeAddition || p.Family == SiliconeCondensation
}

// EdgeLimit is how thick an edge may be in mm before it shows, and its lower
// value for a close camera (scan-and-mould.md section 5).
func EdgeLimit(f Family, closeCamera bool) float64 {
	limits := map[Family][2]float64{
		SiliconeAddition: {0.10, 0.05}, SiliconeCondensation: {0.10, 0.05}, Gelatin: {0.10, 0.05},
		FoamLatex: {0.25, 0.10}, Latex: {0.15, 0.10}, LatexPaste: {0.15, 0.10},
	}
	limit, ok := limits[f]
	if !ok {
		limit = [2]float64{0.15, 0.10}
	}
	if closeCamera {
		return limit[1]
	}
	return limit[0]
}

//go:embed library.json
var libraryJSON []byte

// Library is the built-in material library: common practice, no supplier's.
func Library() ([]Product, error) {
	var list []Product
	if err := json.Unmarshal(libraryJSON, &list); err != nil {
		return nil, fmt.Errorf("reading the built-in material library: %w", err)
	}
	return list, nil
}

// Shelf is products by slug, as the rules and the section look them up.
type Shelf map[string]Product

// NewShelf puts products on a shelf.
func NewShelf(list []Product) Shelf {
	s := Shelf{}
	for _, p := range list {
		s[p.Slug] = p
	}
	return s
}
