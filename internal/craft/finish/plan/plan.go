// Package plan is a piece's finish plan: hair by zone, inserts with their places and
// fixings, things that are worn with it, headpieces put together of parts, weights,
// closures, ageing and the borders where it meets another piece; and what all of it
// comes to in counts, hours, grams and cautions. mm, g, minutes.
package plan

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/hair"
	"yewmoor/internal/craft/finish/insert"
	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
)

// Plan is the finish plan of a piece, or of a look that has no piece.
type Plan struct {
	// Follows is the code of a piece of the same character whose hair, inserts, weights
	// and closures this one shares; its own lists come on top.
	Follows  string    `json:"follows,omitempty" maxLength:"20"`
	Hair     []Zone    `json:"hair" maxItems:"24"`
	Inserts  []Inserts `json:"inserts" maxItems:"24"`
	Worn     []Worn    `json:"worn" maxItems:"40" doc:"lenses, wigs, caps, pins and the like"`
	Parts    []Part    `json:"parts" maxItems:"60" doc:"of a headpiece or another thing that is put together"`
	Weights  []Bags    `json:"weights" maxItems:"12"`
	Closures []Closure `json:"closures" maxItems:"20"`
	Borders  []Border  `json:"borders" maxItems:"12" doc:"where halves and stages meet"`
	Age      *Age      `json:"age,omitempty"`
}

// Zone is a field of hair on the piece's outline, or on none where a look alone has it.
type Zone struct {
	ID      string      `json:"id" maxLength:"40"`
	Name    string      `json:"name" maxLength:"60"`
	Way     string      `json:"way" enum:"punched,knotted,laid"`
	Outline []texture.P `json:"outline" minItems:"3" maxItems:"200" doc:"mm; edge i runs from point i to the next"`
	// FadeEdges are those that its density falls towards; all where none is named.
	FadeEdges []int        `json:"fade_edges" maxItems:"200"`
	Density   float64      `json:"density" minimum:"1" maximum:"600" doc:"hairs per cm²"`
	Edge      float64      `json:"edge_density" minimum:"0" maximum:"600"`
	FadeMM    float64      `json:"fade_mm" minimum:"0" maximum:"500"`
	Guides    []hair.Guide `json:"guides" maxItems:"60" doc:"arrows that it follows"`
	JitterDeg float64      `json:"jitter_deg" minimum:"0" maximum:"90"`
	Seed      uint64       `json:"seed" maximum:"9007199254740991"`
	Fibre     string       `json:"fibre" enum:"human,yak,goat,crepe,synthetic"`
	Material  string       `json:"material,omitempty" maxLength:"64" doc:"slug of the hair"`
	Colours   []Shade      `json:"colours" maxItems:"8"`
	VisibleMM float64      `json:"visible_mm" minimum:"1" maximum:"1500"`
	CurlMM    float64      `json:"curl_radius_mm" minimum:"0" maximum:"100"`
	PitchMM   float64      `json:"curl_pitch_mm" minimum:"0.5" maximum:"500"`
	TrimMM    float64      `json:"trim_mm" minimum:"0" maximum:"500" doc:"taken off when the glue is dry"`
	TrimWhy   string       `json:"trim_why,omitempty" maxLength:"200"`
	RootMM    float64      `json:"root_mm" minimum:"0" maximum:"50"`
	Waste     float64      `json:"waste" minimum:"0" maximum:"3"`
	Per       int          `json:"hairs_per_stroke" minimum:"1" maximum:"20"`
	Prepared  []string     `json:"prepared" maxItems:"6" doc:"washed, steamed_straight, curled, dyed, hackled"`
	// Glued is what the adhesive must be before the next row of laid hair.
	Glued string `json:"glued,omitempty" enum:",tacky,clear,dry"`
}

// Shade is one colour of a mix of hair.
type Shade struct {
	Name  string      `json:"name" maxLength:"60"`
	Share float64     `json:"share" minimum:"0" maximum:"1"`
	Lab   *colour.Lab `json:"lab,omitempty"`
	Lot   string      `json:"lot,omitempty" maxLength:"32"`
}

// Inserts are things of one sort: made as a batch, placed by number, fixed.
type Inserts struct {
	ID       string      `json:"id" maxLength:"40"`
	Name     string      `json:"name" maxLength:"60"`
	Sort     string      `json:"sort" enum:"teeth,crumbs,moss,pins,drops,shells,other"`
	Material string      `json:"material,omitempty" maxLength:"64"`
	Need     int         `json:"need" minimum:"0" maximum:"20000" doc:"0: as many as there are places"`
	SizeMM   float64     `json:"size_mm" minimum:"0" maximum:"500"`
	SpreadMM float64     `json:"spread_mm" minimum:"0" maximum:"500"`
	Lab      *colour.Lab `json:"lab,omitempty"`
	Yield    float64     `json:"yield" minimum:"0.01" maximum:"1" doc:"share that is good, until batches tell"`
	EachMin  float64     `json:"minutes_each" minimum:"0" maximum:"600"`
	DryH     float64     `json:"dry_h" minimum:"0" maximum:"500"`
	Places   []Spot      `json:"places" maxItems:"400"`
	Fixing   string      `json:"fixing" enum:"hard_glue,contact_glue,set_in_latex,set_in_silicone,skin_adhesive,pushed_in,sewn,pegged"`
	Motion   string      `json:"motion" enum:"still,acting,walking,running"`
	MassG    float64     `json:"mass_g" minimum:"0" maximum:"20000"`
	ArmMM    float64     `json:"arm_mm" minimum:"0" maximum:"1000" doc:"from the seat to its centre of mass"`
	BaseMM   float64     `json:"base_mm" minimum:"0.5" maximum:"500" doc:"of the seat along the lever"`
	AreaMM2  float64     `json:"area_mm2" minimum:"0" maximum:"100000"`
	Points   int         `json:"points" minimum:"0" maximum:"1000" doc:"stitches or pegs"`
	Near     string      `json:"near,omitempty" enum:",nose,mouth,eye" doc:"what they sit beside"`
	Loose    bool        `json:"loose" doc:"crumbs, dust or plant parts can come off"`
	Sharp    bool        `json:"sharp" doc:"pins, points and wires"`
	Organic  bool        `json:"organic" doc:"plant or food"`
	When     string      `json:"when" enum:"on the stand,in the mould,on the face"`
	From     string      `json:"from,omitempty" maxLength:"120" doc:"the texture layer that it was handed on from"`
}

// Spot is a numbered place of an insert on the piece's outline, mm.
type Spot struct {
	N  int       `json:"n" minimum:"1" maximum:"20000"`
	At texture.P `json:"at"`
}

// Worn is a thing that is worn with the piece and not built into it.
type Worn struct {
	ID   string `json:"id" maxLength:"40"`
	Sort string `json:"sort" enum:"lens,wig,wig_cap,pins,glove,shoe,other"`
	Name string `json:"name" maxLength:"80"`
	Size string `json:"size,omitempty" maxLength:"60"`
	// For is the wearer; a lens is nobody else's, ever.
	For      string  `json:"for,omitempty" maxLength:"80"`
	FittedBy string  `json:"fitted_by,omitempty" maxLength:"80" doc:"of a lens: the licensed person who supplies and fits it"`
	Hygiene  string  `json:"hygiene,omitempty" maxLength:"200"`
	MostH    float64 `json:"most_h" minimum:"0" maximum:"24" doc:"longest wear, as its supplier says"`
	Slot     string  `json:"slot" enum:"first,before colour,last" doc:"when in the morning"`
	SlotWhy  string  `json:"slot_why,omitempty" maxLength:"200"`
	Count    int     `json:"count" minimum:"1" maximum:"200"`
}

// Part is one part of a thing that is put together, joined to another.
type Part struct {
	ID     string  `json:"id" maxLength:"40"`
	Name   string  `json:"name" maxLength:"80"`
	On     string  `json:"on,omitempty" maxLength:"40" doc:"id of the part that it is joined to; empty for the one that carries all"`
	Joint  string  `json:"joint,omitempty" enum:",glued,sewn,pegged,tied,pushed in,screwed"`
	Glue   string  `json:"glue,omitempty" maxLength:"64" doc:"slug"`
	DryH   float64 `json:"dry_h" minimum:"0" maximum:"500"`
	MassG  float64 `json:"mass_g" minimum:"0" maximum:"20000"`
	PullN  float64 `json:"pull_n" minimum:"0" maximum:"2000" doc:"that the joint must stand; 0 takes three times its weight while running"`
	Repair string  `json:"repair,omitempty" maxLength:"120" doc:"what is kept to mend it"`
}

// Bags weigh a piece down.
type Bags struct {
	ID      string  `json:"id" maxLength:"40"`
	Name    string  `json:"name" maxLength:"60"`
	Filler  string  `json:"filler" enum:"pulses,rice,plastic_pellets,glass_beads,dry_sand,steel_shot"`
	TargetG float64 `json:"target_g" minimum:"1" maximum:"50000"`
	BagML   float64 `json:"bag_ml" minimum:"1" maximum:"5000"`
	Fill    float64 `json:"fill" minimum:"0.2" maximum:"1"`
	Sweat   bool    `json:"sweat"`
}

// Closure is how a piece opens.
type Closure struct {
	ID      string  `json:"id" maxLength:"40"`
	Name    string  `json:"name" maxLength:"60"`
	Sort    string  `json:"sort" enum:"zip,straps,hooks,magnets,lacing,touch tape"`
	Shown   string  `json:"shown" enum:"hidden by costume and hair,faded by colour,left in view" doc:"school of seams and zips"`
	DonMin  float64 `json:"don_min" minimum:"0" maximum:"240"`
	DoffMin float64 `json:"doff_min" minimum:"0" maximum:"240"`
	Cooling string  `json:"cooling,omitempty" maxLength:"120" doc:"how the wearer cools with it open"`
}

// Border is where two halves, variants or stages meet.
type Border struct {
	ID    string `json:"id" maxLength:"40"`
	With  string `json:"with" maxLength:"20" doc:"code of the other piece"`
	Name  string `json:"name" maxLength:"60"`
	Share string `json:"share,omitempty" maxLength:"200" doc:"what must be the same on both sides"`
}

// Age is how far a piece is aged and dirtied.
type Age struct {
	Level      int    `json:"level" minimum:"0" maximum:"4" doc:"0 new, 1 used, 2 worn, 3 hard worn, 4 ruined"`
	Words      string `json:"words" maxLength:"300" doc:"where and what of"`
	Reversible bool   `json:"reversible"`
	Material   string `json:"material,omitempty" maxLength:"64"`
}

// Preparations of hair.
var Preparations = []string{"washed", "steamed_straight", "curled", "dyed", "hackled"}

// Check refuses what a plan cannot mean, at its field.
func (p Plan) Check() error {
	seen := map[string]bool{}
	once := func(list, id string, i int) error {
		if id == "" || seen[list+id] {
			return refusal.New(refusal.Contradiction, fmt.Sprintf("%s[%d].id", list, i), "Each needs an id of its own.")
		}
		seen[list+id] = true
		return nil
	}
	for i, z := range p.Hair {
		at := func(f string) string { return fmt.Sprintf("hair[%d].%s", i, f) }
		if err := once("hair", z.ID, i); err != nil {
			return err
		}
		if _, known := tables.FibreOf(z.Fibre); !known {
			return refusal.New(refusal.UnknownValue, at("fibre"), "There is no fibre %s.", z.Fibre)
		}
		for _, w := range z.Prepared {
			if !slices.Contains(Preparations, w) {
				return refusal.New(refusal.UnknownValue, at("prepared"), "“%.30s” is not one of %v.", w, Preparations)
			}
		}
		sum := 0.0
		for _, c := range z.Colours {
			sum += c.Share
		}
		if len(z.Colours) > 0 && (sum < 0.99 || sum > 1.01) {
			return refusal.New(refusal.Contradiction, at("colours"), "The shares of the colours come to %.0f %%, not to 100.", 100*sum)
		}
		if err := z.field().Check(); err != nil {
			return within(err, at(""))
		}
	}
	for i, n := range p.Inserts {
		at := func(f string) string { return fmt.Sprintf("inserts[%d].%s", i, f) }
		if err := once("inserts", n.ID, i); err != nil {
			return err
		}
		fixing, known := tables.FixingOf(n.Fixing)
		switch {
		case !known:
			return refusal.New(refusal.UnknownValue, at("fixing"), "There is no fixing %s.", n.Fixing)
		case n.MassG > 0 && fixing.Kind == "area" && n.AreaMM2 <= 0:
			return refusal.New(refusal.Missing, at("area_mm2"), "How large is the seat that holds it?")
		case n.MassG > 0 && fixing.Kind == "point" && n.Points <= 0:
			return refusal.New(refusal.Missing, at("points"), "At how many points is it held?")
		}
	}
	for i, w := range p.Worn {
		if err := once("worn", w.ID, i); err != nil {
			return err
		}
	}
	for i, b := range p.Weights {
		if err := once("weights", b.ID, i); err != nil {
			return err
		}
		if _, known := tables.FillerOf(b.Filler); !known {
			return refusal.New(refusal.UnknownValue, fmt.Sprintf("weights[%d].filler", i), "There is no filler %s.", b.Filler)
		}
	}
	return p.checkParts(once)
}

// checkParts lets the parts be a tree: one carries all, and nothing hangs on itself.
func (p Plan) checkParts(once func(list, id string, i int) error) error {
	on := map[string]string{}
	for i, part := range p.Parts {
		if err := once("parts", part.ID, i); err != nil {
			return err
		}
		on[part.ID] = part.On
	}
	for i, part := range p.Parts {
		at := part.On
		for range len(p.Parts) + 1 {
			if at == "" {
				break
			}
			next, known := on[at]
			if !known {
				return refusal.New(refusal.UnknownValue, fmt.Sprintf("parts[%d].on", i), "It is joined to a part that is not there.")
			}
			at = next
		}
		if at != "" {
			return refusal.New(refusal.Contradiction, fmt.Sprintf("parts[%d].on", i), "“%s” hangs on itself.", part.Name)
		}
	}
	return nil
}

// within moves a refusal to where its thing stands.
func within(err error, at string) error {
	no, is := err.(*refusal.Error)
	if !is {
		return err
	}
	return refusal.New(no.Code, at+no.Field, "%s", no.Detail)
}

// field is a zone as hair is punched into it.
func (z Zone) field() hair.Field {
	return hair.Field{Seed: z.Seed, Outline: z.Outline, Density: z.Density, Edge: z.Edge, FadeMM: z.FadeMM, FadeEdges: z.FadeEdges, Guides: z.Guides, JitterDeg: z.JitterDeg}
}

// strokes per zone: hair laid is told in tufts.
func (z Zone) punched() bool { return z.Way != "laid" }

// box is how wide and deep a zone is, across and up.
func (z Zone) box() (width, depth float64) {
	lo, hi := z.Outline[0], z.Outline[0]
	for _, p := range z.Outline {
		for i := range 2 {
			lo[i], hi[i] = min(lo[i], p[i]), max(hi[i], p[i])
		}
	}
	return hi[0] - lo[0], hi[1] - lo[1]
}

// load is one insert on its fixing.
func (n Inserts) load() insert.Load {
	fixing, _ := tables.FixingOf(n.Fixing)
	motion, _ := tables.MotionOf(n.Motion)
	return insert.Load{MassG: n.MassG, ArmMM: n.ArmMM, Fixing: fixing, Motion: motion, BaseMM: n.BaseMM, Safety: 3, AreaMM2: n.AreaMM2, Count: n.Points, Strength: fixing.Strength}
}

// Needed is how many are to be set.
func (n Inserts) Needed() int {
	if n.Need > 0 {
		return n.Need
	}
	return len(n.Places)
}

// beside says whether a region is where loose parts are breathed in or swallowed.
func beside(name string) string {
	switch name {
	case "nose":
		return "nose"
	case "lip", "mouth_corner", "chin":
		return "mouth"
	}
	return ""
}

// Beside is what the inserts sit beside: as somebody said, else by the piece's region.
func (n Inserts) Beside(pieceRegion string) string {
	if n.Near != "" {
		return n.Near
	}
	return beside(pieceRegion)
}

// With is a plan together with what it shares with the piece that it follows.
func (p Plan) With(shared *Plan) Plan {
	if shared == nil {
		return p
	}
	out := p
	// Both name theirs h1, h2 …: what is shared says whose it is.
	theirs := func(id string) string { return p.Follows + "/" + id }
	out.Hair, out.Inserts, out.Weights, out.Closures, out.Parts = nil, nil, nil, nil, nil
	for _, z := range shared.Hair {
		z.ID = theirs(z.ID)
		out.Hair = append(out.Hair, z)
	}
	for _, n := range shared.Inserts {
		n.ID = theirs(n.ID)
		out.Inserts = append(out.Inserts, n)
	}
	for _, b := range shared.Weights {
		b.ID = theirs(b.ID)
		out.Weights = append(out.Weights, b)
	}
	for _, c := range shared.Closures {
		c.ID = theirs(c.ID)
		out.Closures = append(out.Closures, c)
	}
	for _, part := range shared.Parts {
		part.ID = theirs(part.ID)
		if part.On != "" {
			part.On = theirs(part.On)
		}
		out.Parts = append(out.Parts, part)
	}
	out.Hair, out.Inserts, out.Weights = append(out.Hair, p.Hair...), append(out.Inserts, p.Inserts...), append(out.Weights, p.Weights...)
	out.Closures, out.Parts = append(out.Closures, p.Closures...), append(out.Parts, p.Parts...)
	if p.Age == nil {
		out.Age = shared.Age
	}
	return out
}

// Insert finds a sort of inserts by its id.
func (p Plan) Insert(id string) (Inserts, bool) {
	i := slices.IndexFunc(p.Inserts, func(n Inserts) bool { return n.ID == id })
	if i < 0 {
		return Inserts{}, false
	}
	return p.Inserts[i], true
}

// Materials are the slugs of all that it puts on the piece.
func (p Plan) Materials() []string {
	var out []string
	add := func(slug string) {
		if slug != "" && !slices.Contains(out, slug) {
			out = append(out, slug)
		}
	}
	for _, z := range p.Hair {
		add(z.Material)
	}
	for _, n := range p.Inserts {
		add(n.Material)
	}
	for _, part := range p.Parts {
		add(part.Glue)
	}
	if p.Age != nil {
		add(p.Age.Material)
	}
	return out
}
