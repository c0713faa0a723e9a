// Package texture plans the surface of a sculpt: an outline in millimetres,
// guide curves, a recipe of layers and a seed become a height field, the marks
// that a hand makes one after the other, and what follows for the work, the
// mould, the paint and the eye. It follows the handbook's texture planner
// (texture.md) rule by rule, so that two programs make the same plan.
//
// Lengths are mm, angles degrees counter-clockwise from the right, heights
// positive out of the skin. y points up; row 0 of a field is its lowest row.
//
// It draws no pictures and writes no files: that is paper's and the
// interface's.
package texture

import (
	"encoding/json"
	"fmt"
	"math"
)

// P is a place in the plane of the region, in mm.
type P [2]float64

// Recipe is everything that a texture is made from.
type Recipe struct {
	Seed   uint64 `json:"seed" maximum:"9007199254740991"`
	Region Region `json:"region"`
	// PitchMM is the side of a pixel; 0.1 mm when left out.
	PitchMM *float64 `json:"pitch_mm,omitempty"`
	// FeatherMM is how far from the outline the relief comes up from nothing.
	FeatherMM float64 `json:"feather_mm,omitempty"`
	Guides    [][]P   `json:"guides,omitempty" maxItems:"40"`
	// GuideSmoothing is how often the corners of guides are cut; 3 when left
	// out, 0 for none.
	GuideSmoothing *int       `json:"guide_smoothing,omitempty" minimum:"0" maximum:"6"`
	Materials      *Materials `json:"materials,omitempty"`
	Layers         []Layer    `json:"layers" maxItems:"24"`

	// GuideNames say what each guide is: flow, tension, edge, vein.
	GuideNames []string `json:"guide_names,omitempty" maxItems:"40"`
	// Fade brings the relief to nothing towards a guide, as into bare skin.
	Fade []Fade `json:"fade,omitempty" maxItems:"10"`
	// Clear are closed outlines in which nothing is drawn.
	Clear []Clear `json:"clear,omitempty" maxItems:"20"`
	// Landmarks are fixed places that every print shows; a radius keeps marks
	// off them.
	Landmarks []Landmark `json:"landmarks,omitempty" maxItems:"40"`
	// Areas are named parts, to put layers on and to decide about.
	Areas []Area `json:"areas,omitempty" maxItems:"20"`
	// Thickness is that of the appliance, from its edge to its centre.
	Thickness *Thickness `json:"thickness,omitempty"`
	// Gravity is the way down, in degrees, and how much lower rims hang.
	Gravity *Gravity `json:"gravity,omitempty"`
	// Pairs are sizes that hang on each other.
	Pairs []Pair `json:"pairs,omitempty" maxItems:"12"`
	// Paint is what goes over the relief.
	Paint *Scheme `json:"paint,omitempty"`
	// Passes soften the surface when the marks are made.
	Passes []PlannedPass `json:"passes,omitempty" maxItems:"12"`
}

// PlannedPass is one way of softening, so many times over.
type PlannedPass struct {
	Tool  string `json:"tool" maxLength:"40"`
	Times int    `json:"times" minimum:"1" maximum:"20"`
}

// Fade brings the relief to nothing towards a guide.
type Fade struct {
	Guide  int     `json:"guide" minimum:"0"`
	OverMM float64 `json:"over_mm"`
}

// Clear is a closed outline in which nothing is drawn.
type Clear struct {
	Name    string `json:"name" maxLength:"60"`
	Polygon []P    `json:"polygon" maxItems:"400"`
}

// Landmark is a fixed place.
type Landmark struct {
	Name     string  `json:"name" maxLength:"60"`
	At       P       `json:"at"`
	RadiusMM float64 `json:"radius_mm,omitempty"`
}

// Area is a named part of the region, with what was decided about it.
type Area struct {
	ID      string `json:"id" maxLength:"24"`
	Name    string `json:"name" maxLength:"60"`
	Polygon []P    `json:"polygon" maxItems:"400"`
	// By says what makes the look there.
	By string `json:"by,omitempty" enum:"relief,paint,both,"`
	// DepthMM is the most relief that is wanted there; 0 sets none.
	DepthMM float64 `json:"depth_mm,omitempty"`
}

// Thickness is that of the appliance from its edge to its centre.
type Thickness struct {
	EdgeMM   float64 `json:"edge_mm"`
	CentreMM float64 `json:"centre_mm"`
	OverMM   float64 `json:"over_mm" doc:"from the edge to where it is as thick as in the centre"`
	// LeastMM must stay under a scored line.
	LeastMM float64 `json:"least_mm,omitempty"`
}

// At is the thickness at a distance from the edge.
func (t Thickness) At(mm float64) float64 {
	return t.EdgeMM + (t.CentreMM-t.EdgeMM)*math.Max(0, math.Min(1, mm/t.OverMM))
}

// Gravity is the way down and how much lower rims hang.
type Gravity struct {
	Down float64 `json:"down" doc:"degrees; 270 is down the picture"`
	Sag  float64 `json:"sag" doc:"how much thicker the lower rim is, as a share; 0 for none" minimum:"0" maximum:"2"`
}

// Materials are what the texture is to survive (handbook, section 5).
type Materials struct {
	Mould string  `json:"mould,omitempty"`
	Cast  string  `json:"cast,omitempty"`
	Paint string  `json:"paint,omitempty"`
	Coats float64 `json:"coats,omitempty" minimum:"0" maximum:"40"`
}

// Span is one number or a pair of them; one stands for a pair of itself.
type Span [2]float64

// UnmarshalJSON reads 3 or [2, 3.5].
func (s *Span) UnmarshalJSON(raw []byte) error {
	var one float64
	if json.Unmarshal(raw, &one) == nil {
		*s = Span{one, one}
		return nil
	}
	var pair [2]float64
	if err := json.Unmarshal(raw, &pair); err != nil {
		return err
	}
	*s = pair
	return nil
}

func (s Span) least() float64 { return math.Min(s[0], s[1]) }
func (s Span) mean() float64  { return (s[0] + s[1]) / 2 }

// From is where a falling-off begins: the number of a guide, or -1 for the
// outline.
type From int

// Boundary is the outline of the region.
const Boundary From = -1

// UnmarshalJSON reads "boundary" or the number of a guide.
func (f *From) UnmarshalJSON(raw []byte) error {
	var word string
	if json.Unmarshal(raw, &word) == nil {
		if word != "boundary" {
			return fmt.Errorf("from must be boundary or the number of a guide")
		}
		*f = Boundary
		return nil
	}
	var n int
	err := json.Unmarshal(raw, &n)
	*f = From(n)
	return err
}

// Kinds of layer, in the order in which they are offered.
var Kinds = []string{"hatch", "scales", "pores", "wrinkles", "cracks", "droplets", "bark", "barnacles", "rot", "lines", "field"}

// Layer is one texture. Which fields count depends on its kind; what is left
// out takes the handbook's default.
type Layer struct {
	Kind string `json:"kind" maxLength:"20"`
	// ID and Name are for people and for what was ticked; they change nothing.
	ID   string `json:"id,omitempty" maxLength:"24"`
	Name string `json:"name,omitempty" maxLength:"60"`
	// Off leaves the layer out, and its streams with it.
	Off     bool   `json:"off,omitempty"`
	Combine string `json:"combine,omitempty" enum:"add,min,max,"`
	// Seed is the layer's own; the recipe's when left out.
	Seed *uint64 `json:"seed,omitempty" maximum:"9007199254740991"`
	// Density leaves out what exceeds a share: 0.8 leaves out two in ten.
	Density *float64 `json:"density,omitempty"`
	// ThinOutMM makes marks rarer towards the outline over this way.
	ThinOutMM float64 `json:"thin_out_mm,omitempty"`
	// On are the areas that the layer keeps to; Off them where Outside.
	On      []string `json:"on,omitempty" maxItems:"20"`
	Outside bool     `json:"outside,omitempty"`
	Mirror  *Mirror  `json:"mirror,omitempty"`

	// Lines.
	Families []Family `json:"families,omitempty" maxItems:"6"`
	Buff     float64  `json:"buff,omitempty"`
	Rescore  *Rescore `json:"rescore,omitempty"`
	Lumps    *Lumps   `json:"lumps,omitempty"`
	// Flow is a guide that lines or rows follow in place of a straight angle.
	Flow *int `json:"flow,omitempty"`

	// Scales.
	Stamps    []Stamp  `json:"stamps,omitempty" maxItems:"20"`
	Size      *Span    `json:"size,omitempty"`
	Angle     float64  `json:"angle,omitempty"`
	RowPitch  *float64 `json:"row_pitch,omitempty"`
	Gap       *float64 `json:"gap,omitempty"`
	Offset    *float64 `json:"offset,omitempty"`
	RotJitter float64  `json:"rot_jitter,omitempty"`
	PosJitter float64  `json:"pos_jitter,omitempty"`
	Ends      string   `json:"ends,omitempty" enum:"alternate,random,"`
	Groove    *float64 `json:"groove,omitempty"`
	Dome      float64  `json:"dome,omitempty"`

	// What is scattered.
	Spacing     *Span    `json:"spacing,omitempty"`
	GradeDir    *float64 `json:"grade_dir,omitempty"`
	Stretch     *float64 `json:"stretch,omitempty"`
	StretchDir  float64  `json:"stretch_dir,omitempty"`
	Diameter    *Span    `json:"diameter,omitempty"`
	Elongation  *float64 `json:"elongation,omitempty"`
	Tries       *float64 `json:"tries,omitempty"`
	HeightRatio *float64 `json:"height_ratio,omitempty"`
	Falloff     *float64 `json:"falloff,omitempty"`
	From        *From    `json:"from,omitempty"`
	Rim         *float64 `json:"rim,omitempty"`
	Crater      *float64 `json:"crater,omitempty"`
	Ridge       *float64 `json:"ridge,omitempty"`
	Fray        *float64 `json:"fray,omitempty"`
	Lip         float64  `json:"lip,omitempty"`

	// Wrinkles and lines along guides.
	Between  *[2]int  `json:"between,omitempty"`
	Count    *int     `json:"count,omitempty"`
	Along    []int    `json:"along,omitempty" maxItems:"40"`
	Raise    bool     `json:"raise,omitempty" doc:"lines stand up, as veins do"`
	Shoulder *float64 `json:"shoulder,omitempty"`
	Taper    *float64 `json:"taper,omitempty"`

	// Cracks and bark.
	Lattice string   `json:"lattice,omitempty" enum:"hex,square,"`
	Pitch   *float64 `json:"pitch,omitempty"`
	Skip    *float64 `json:"skip,omitempty"`
	Grain   *float64 `json:"grain,omitempty"`
	Plate   *float64 `json:"plate,omitempty"`
	Fibre   *float64 `json:"fibre,omitempty"`

	// Of several kinds.
	Depth   *Span    `json:"depth,omitempty"`
	Width   *float64 `json:"width,omitempty"`
	Profile string   `json:"profile,omitempty" enum:"round,v,"`
	Jitter  *float64 `json:"jitter,omitempty"`
	Soften  *float64 `json:"soften,omitempty"`

	// Field is a height field that was brought in.
	Field *Brought `json:"field,omitempty"`
}

// Family is one set of lines that run alike.
type Family struct {
	Angle   float64 `json:"angle"`
	Spacing Span    `json:"spacing"`
	Jitter  float64 `json:"jitter,omitempty"`
	Wiggle  *Span   `json:"wiggle,omitempty" doc:"how far, over what length"`
	Bow     float64 `json:"bow,omitempty"`
	Depth   float64 `json:"depth"`
	Width   float64 `json:"width"`
	Profile string  `json:"profile,omitempty" enum:"round,v,"`
}

// Rescore cuts every so many lines again, sharp, after buffing.
type Rescore struct {
	Every int     `json:"every"`
	Depth float64 `json:"depth"`
	Width float64 `json:"width"`
}

// Lumps are domes set into the cells between two crossing families.
type Lumps struct {
	Height float64 `json:"height" doc:"mm"`
	Share  float64 `json:"share" doc:"of the cells that get one, 0 to 1"`
	Fill   float64 `json:"fill,omitempty" doc:"of a cell's width, 0.7 when left out"`
}

// Stamp is a squashed tube that presses scales.
type Stamp struct {
	ID      string   `json:"id" maxLength:"24"`
	OD      float64  `json:"od" doc:"outside diameter of the tube, mm"`
	Squash  float64  `json:"squash" doc:"lesser over greater axis of end A"`
	SquashB *float64 `json:"squash_b,omitempty" doc:"of end B; both ends are alike when left out"`
}

// Mirror repeats a layer on the other side of an upright line.
type Mirror struct {
	X float64 `json:"x" doc:"where the line stands, mm"`
	// Difference is how unlike the sides are: 0 exactly alike, 1 as much as
	// marks can move without touching.
	Difference float64 `json:"difference" minimum:"0" maximum:"1"`
}

// Brought is a height field that was brought in, laid with its lower left
// corner at At.
type Brought struct {
	File string  `json:"file" maxLength:"64" doc:"its content, by name"`
	At   P       `json:"at"`
	MMPP float64 `json:"mm_per_pixel"`
	// Times makes it deeper or shallower.
	Times float64 `json:"times,omitempty"`
	// Heights are given by the caller; they do not stand in the document.
	Heights *Heights `json:"-"`
}

// Heights is a bare height field: rows from the lowest up, in mm.
type Heights struct {
	NX, NY int
	MM     []float32
}
