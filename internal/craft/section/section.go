// Package section is the build-up of an appliance: layers from skin to air,
// from the centre of the piece on the left to its feather edge on the right.
// Everything else about a piece follows from it: thickness, mass, materials,
// hands, waiting, cost, the order of work, and what the rules have to say.
// Lengths in mm, areas in cm², masses in g, times in s, money in hundredths.
package section

import (
	"math"

	"yewmoor/internal/craft/form"
)

// Extents of a layer towards the edge.
const (
	ToEdge     = "to_edge"     // thins out and ends at the edge
	CentreOnly = "centre_only" // stops at StopMM
	PastEdge   = "past_edge"   // runs on over the skin by StopMM
)

// Layer is one band. A body has CentreMM and EdgeMM; films and latex have
// Coats of CoatMM each (dry for films, wet for latex); things have Count of
// EachG; hair has HairsCM2 of LengthMM.
type Layer struct {
	ID       string  `json:"id" maxLength:"40"`
	Kind     Kind    `json:"kind" doc:"what it is for: see GET /api/layer-kinds"`
	Material string  `json:"material,omitempty" doc:"slug of the product; none for skin"`
	Method   string  `json:"method,omitempty" maxLength:"20" doc:"how it is put on, when it is not the usual way of its kind"`
	CentreMM float64 `json:"centre_mm,omitempty" doc:"of a body; of things their height"`
	EdgeMM   float64 `json:"edge_mm,omitempty"`
	// Measured is where the thickness of a body was measured; nil while it is
	// planned.
	Measured *Measured `json:"measured,omitempty"`
	// Shape is how a body falls from centre to edge where somebody drew it; without
	// it and without a scan it falls as bodies usually do.
	Shape *Shape `json:"shape,omitempty"`
	// With is what its material is mixed with: the pour sheet begins with it.
	With   []Stir  `json:"with,omitempty" maxItems:"8" doc:"softener, pigment, flock and thickener, in percent of the material"`
	Coats  int     `json:"coats,omitempty"`
	CoatMM float64 `json:"coat_mm,omitempty" doc:"one coat: dry for films, wet for latex"`
	// ZoneCoats are the coats in each zone of the cut, when they differ.
	ZoneCoats []int   `json:"zone_coats,omitempty" doc:"coats in each zone, from the centre; empty when every zone has the same"`
	Extent    string  `json:"extent,omitempty" enum:"to_edge,centre_only,past_edge"`
	FromMM    float64 `json:"from_mm,omitempty" doc:"where it begins, from the centre"`
	StopMM    float64 `json:"stop_mm,omitempty" doc:"where a centre-only layer stops, or how far it runs on to skin"`
	Fibre     string  `json:"fibre,omitempty" doc:"slug of the reinforcement in each coat of latex"`
	// BetweenS is the wait planned between coats of latex in s; absent means
	// that each coat is dried first.
	BetweenS *float64 `json:"between_s,omitempty"`

	// Air is how a coat of latex is dried.
	Air string `json:"air,omitempty" enum:",still,dryer" doc:"still air, or a dryer held to what skin bears; empty: a dryer on skin, still air elsewhere"`

	Count    int     `json:"count,omitempty" doc:"how many things"`
	EachG    float64 `json:"each_g,omitempty" doc:"mass of one thing, g"`
	Fitted   string  `json:"fitted,omitempty" enum:",in the mould,before,on the face" doc:"when things are set in"`
	Sharp    bool    `json:"sharp,omitempty" doc:"pins, points and wires"`
	HairsCM2 float64 `json:"hairs_cm2,omitempty"`
	LengthMM float64 `json:"length_mm,omitempty" doc:"of hair"`

	Side         string   `json:"side,omitempty" enum:",L,R" doc:"on one side of the piece only, the wearer's own"`
	FromRun      int      `json:"from_run,omitempty" doc:"from which run on; 0 for all"`
	ShowsThrough bool     `json:"shows_through,omitempty" doc:"colour meant to be seen through what lies over it"`
	Stretched    bool     `json:"stretched,omitempty" doc:"put on, dried and powdered while the skin is stretched"`
	Role         string   `json:"role,omitempty" enum:",base,wash,spatter,shadow,highlight,line,veins" doc:"what a colour does"`
	Fit          string   `json:"fit,omitempty" enum:",wet,clear,tacky,dry" doc:"state of an adhesive when the piece goes on"`
	AppliedC     *float64 `json:"applied_c,omitempty" doc:"how warm it is when it goes on, °C"`
	Purpose      string   `json:"purpose,omitempty" maxLength:"200" doc:"what it is for when nothing of it shows in the end"`
	Note         string   `json:"note,omitempty" maxLength:"500"`
}

// Stir is a softener, a pigment or a flock in a body, in percent of its parts
// together.
type Stir struct {
	Material string  `json:"material"`
	Percent  float64 `json:"percent" doc:"of the parts together"`
}

// Products are the slugs of all that a layer is made of: its material, what is
// stirred into it, and its fibre.
func (l Layer) Products() []string {
	var list []string
	for _, slug := range []string{l.Material, l.Fibre} {
		if slug != "" {
			list = append(list, slug)
		}
	}
	for _, w := range l.With {
		list = append(list, w.Material)
	}
	return list
}

// Measured is the thickness of a body off its core, as a scan of the sculpt
// showed it.
type Measured struct {
	Scan uint64 `json:"scan" doc:"number of the scan"`
	Name string `json:"name" maxLength:"200" doc:"of the scan's file"`
	// ProfileMM runs in even steps from the centre to where the layer ends; its
	// first and last are the layer's centre and edge.
	ProfileMM []float64 `json:"profile_mm" minItems:"2" maxItems:"65"`
}

// Where a drawn shape comes from.
const (
	ByHand     = "hand"
	FromRelief = "relief"
)

// Shape is a drawn course of a body's thickness, in even steps from the centre to
// where the layer ends; its first and last are the layer's centre and edge.
type Shape struct {
	From      string    `json:"from" enum:"hand,relief" doc:"drawn by hand, or the height of the piece's texture over it"`
	ProfileMM []float64 `json:"profile_mm" minItems:"3" maxItems:"17"`
}

// Places of a shape that can be drawn: its steps divide those of the mean.
const minShape, maxShape = 3, 17

// drawn is the thickness at u, 0 the centre and 1 the edge, of a drawn shape: through
// its places by cubic pieces that swing over none of them (Fritsch and Carlson 1980,
// with the harmonic mean of the neighbouring slopes), in mm.
func (sh Shape) drawn(u float64) float64 {
	mm := sh.ProfileMM
	last := len(mm) - 1
	x := math.Min(math.Max(u, 0), 1) * float64(last)
	k := min(int(x), last-1)
	rise := func(i int) float64 { return mm[i+1] - mm[i] }
	slope := func(i int) float64 {
		switch {
		case i == 0:
			return rise(0)
		case i == last:
			return rise(last - 1)
		case rise(i-1)*rise(i) <= 0:
			return 0
		}
		return 2 * rise(i-1) * rise(i) / (rise(i-1) + rise(i))
	}
	t := x - float64(k)
	a, b, sa, sb := mm[k], mm[k+1], slope(k), slope(k+1)
	return a + t*(sa+t*(3*(b-a)-2*sa-sb+t*(2*(a-b)+sa+sb)))
}

// course is the thickness at u, 0 the centre and 1 the edge, of a course in even
// steps, in mm.
func course(profile []float64, u float64) float64 {
	last := len(profile) - 1
	x := math.Min(math.Max(u, 0), 1) * float64(last)
	k := min(int(x), last-1)
	return profile[k] + (profile[k+1]-profile[k])*(x-float64(k))
}

// Zone is a stretch of a cut, from where the one before ends to ToMM.
type Zone struct {
	Name string  `json:"name" maxLength:"40"`
	ToMM float64 `json:"to_mm" doc:"where it ends, from the centre; the last ends at the edge"`
}

// Line says where a cut runs on the wearer's map.
type Line struct {
	Sheet  string       `json:"sheet" enum:"head,hand_back_L,hand_back_R,palm_L,palm_R,forearm_L,forearm_R,belly"`
	Points []form.Point `json:"points" maxItems:"200"`
}

// Cut is one cross-section of a piece. Layers run from skin to air.
type Cut struct {
	ID          string  `json:"id,omitempty" maxLength:"20"`
	Name        string  `json:"name,omitempty" maxLength:"60" doc:"brow, cheek; empty when there is one only"`
	Line        *Line   `json:"line,omitempty"`
	HalfWidthMM float64 `json:"half_width_mm" doc:"from the centre to the edge"`
	AreaCM2     float64 `json:"area_cm2" doc:"true area of skin that it stands for"`
	Zones       []Zone  `json:"zones,omitempty" doc:"from the centre to the edge; empty for one"`
	Layers      []Layer `json:"layers"`
}

// Grounds on which a piece is made.
const (
	OnSkin  = "skin"
	OnForm  = "form"
	InMould = "mould"
)

// Made says on or in what a piece is made.
type Made struct {
	On      string `json:"on,omitempty" enum:",skin,form,mould" doc:"empty: as its layers are usually made"`
	Of      string `json:"of,omitempty" enum:",gypsum,silicone_addition,silicone_condensation,resin,laminate,copper,epoxy,print,sulphur_clay" doc:"what form or mould is made of"`
	Sealed  bool   `json:"sealed,omitempty" doc:"sealed, and cured through"`
	Release string `json:"release,omitempty" doc:"slug of the release agent"`
}

// Support is how a heavy piece is carried.
type Support struct {
	Anchors  []string `json:"anchors,omitempty" maxItems:"12" doc:"what carries it: straps, harness, a cap, a hook in the wig base"`
	Movement string   `json:"movement,omitempty" enum:",still,follows,swings" doc:"how it should move"`
	Note     string   `json:"note,omitempty" maxLength:"300"`
}

// Section is the whole build-up of a piece: its cut, and further ones where it
// differs (brow, cheek).
type Section struct {
	Cut
	More      []Cut    `json:"more,omitempty" doc:"further cuts of the same piece, each with its own share of the area"`
	Made      Made     `json:"made,omitempty"`
	PaintWhen string   `json:"paint_when,omitempty" enum:",before,partly,on the face" doc:"when it is coloured"`
	LiesOver  []string `json:"lies_over,omitempty" maxItems:"20" doc:"pieces of the character whose edges it covers"`
	Support   Support  `json:"support,omitempty"`
	Touching  []string `json:"touching,omitempty" maxItems:"12" doc:"slugs of gloves, sponges and brushes that come to the wearer with it"`
	Method    string   `json:"method,omitempty" maxLength:"40" doc:"the method that it was begun from"`
	// Region is where on the body it goes, by the piece: sentences name the place.
	// It is the piece's to say, and in no file.
	Region string `json:"-"`
}

// Cuts are all cross-sections, the first one first.
func (s Section) Cuts() []Cut { return append([]Cut{s.Cut}, s.More...) }

// All calls f for every layer of every cut.
func (s Section) All(f func(c Cut, i int, l Layer)) {
	for _, c := range s.Cuts() {
		for i, l := range c.Layers {
			f(c, i, l)
		}
	}
}

// Start is what a new section looks like: skin, nothing else yet.
func Start(areaCM2 float64) Section {
	if areaCM2 <= 0 {
		areaCM2 = 30
	}
	return Section{Cut: Cut{HalfWidthMM: HalfWidth(areaCM2), AreaCM2: areaCM2, Layers: []Layer{{ID: "skin", Kind: Skin}}}}
}

// HalfWidth is the radius in mm of a round patch of this area, to 0.1 mm.
func HalfWidth(areaCM2 float64) float64 { return math.Round(math.Sqrt(areaCM2*100/math.Pi)*10) / 10 }

// MadeOn says where the piece is built: what it says itself, else as its
// layers are usually made.
func (s Section) MadeOn() string {
	if s.Made.On != "" {
		return s.Made.On
	}
	on := OnSkin
	s.All(func(_ Cut, _ int, l Layer) {
		switch {
		case l.Kind == Silicone && l.Method != "direct", l.Kind == Gelatin && l.Method != "dropped", l.Kind == Foam, l.Kind == SoftFoam, l.Kind == Latex && l.Method == "slush":
			on = InMould
		case l.Kind == Paste && on != InMould, l.Kind == Latex && l.Method == "sheet" && on != InMould:
			on = OnForm
		}
	})
	return on
}
