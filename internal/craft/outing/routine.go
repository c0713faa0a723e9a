package outing

import "slices"

// Routine is one school of hiding hair below: how often, how dry, and what follows.
type Routine struct {
	ID    string   `json:"id"`
	Text  string   `json:"text"`
	When  string   `json:"when" doc:"the case that it is right for"`
	Coats int      `json:"coats"`
	Takes []string `json:"takes" doc:"slugs of what it takes"`
	// Each coat is laid, dries and is powdered; then cancel and cover. Minutes, ours.
	LayMin, DryMin, PowderMin, CancelMin, CoverMin, LookMin float64 `json:"-"`
}

// Routines are the schools, none above the others.
var Routines = []Routine{
	{ID: "glue_powder", Text: "brows laid flat with gum, coat by coat, powder on each", When: "fine to middling brows under an edge", Coats: 3, Takes: []string{"adhesive-gum", "powder-translucent"}, LayMin: 1.5, DryMin: 2, PowderMin: 0.5, LookMin: 1},
	{ID: "cancel_cover", Text: "glue, powder, then a colour that cancels the hair, then cover", When: "dark hair that shows through glue alone", Coats: 2, Takes: []string{"adhesive-gum", "powder-translucent", "paint-cream"}, LayMin: 1.5, DryMin: 2, PowderMin: 0.5, CancelMin: 2, CoverMin: 3, LookMin: 1},
	{ID: "glue_stick", Text: "washable glue stick combed through and pressed flat, powder and cover", When: "brows that no piece lies over; off with water", Coats: 3, Takes: []string{"prep-glue-stick", "powder-translucent", "paint-cream"}, LayMin: 1.5, DryMin: 3, PowderMin: 0.5, CoverMin: 3, LookMin: 1},
	{ID: "latex", Text: "grease as a guard, latex on top in coats, powder", When: "blocked brows under latex work; never where latex is not taken", Coats: 3, Takes: []string{"prep-jelly", "latex-balloon", "powder-translucent"}, LayMin: 1.5, DryMin: 4, PowderMin: 0.5, LookMin: 1},
	{ID: "cap", Text: "bald cap: hair flat and wet down, cap glued from the brow back, edge melted, powder", When: "scalp or wig line under a piece", Coats: 1, Takes: []string{"adhesive-gum", "powder-translucent"}, LayMin: 12, DryMin: 3, PowderMin: 1, CoverMin: 4, LookMin: 2},
	{ID: "wig_cap", Text: "wig cap pinned over hair in flat curls, flyaways laid with gum", When: "a wig goes on at the end", Coats: 1, Takes: []string{"adhesive-gum"}, LayMin: 8, DryMin: 1, LookMin: 1},
}

// RoutineOf is the routine of that id.
func RoutineOf(id string) (Routine, bool) {
	i := slices.IndexFunc(Routines, func(r Routine) bool { return r.ID == id })
	if i < 0 {
		return Routine{}, false
	}
	return Routines[i], true
}

// Choices are what the people of a morning decide; where practitioners differ nothing is decided for them.
type Choices struct {
	ReadyMin float64  `json:"ready_min" minimum:"0" maximum:"1439" doc:"camera-ready, minute of the day"`
	Artists  []string `json:"artists" minItems:"1" maxItems:"4" doc:"who works on the wearer"`
	Lenses   string   `json:"lenses,omitempty" enum:",start,end" doc:"none, at the start, or at the end (D16)"`
	LensText string   `json:"lens_text,omitempty" maxLength:"120" doc:"size, supplier, how long they may be worn"`
	Brow     string   `json:"brow,omitempty" maxLength:"20" doc:"a routine that hides hair (D15); empty for none"`
	Coats    int      `json:"coats,omitempty" minimum:"0" maximum:"12" doc:"of that routine; 0 for its own"`
	Sides    string   `json:"sides,omitempty" enum:",one" doc:"one piece after the other; else the next is glued while the first grips (D27)"`
	// Fit is the state in which a piece is fitted, by piece: wet, clear, tacky, dry (D03).
	Fit map[string]string `json:"fit,omitempty"`
	// Minutes are what an activity takes here, by its id.
	Minutes map[string]float64 `json:"minutes,omitempty"`
	// Order is what somebody wants before something else, beside what the work itself asks.
	Order []Before `json:"order,omitempty" maxItems:"40"`
	Extra []Extra  `json:"extra,omitempty" maxItems:"12"`
	// Where the chair stands; 0 for 21 °C and 50 %.
	RoomC  float64 `json:"room_c,omitempty" minimum:"0" maximum:"40"`
	RoomRH float64 `json:"room_rh,omitempty" minimum:"0" maximum:"0.95"`
	Air    string  `json:"air,omitempty" enum:",still,fan,cool_dryer"`
	Hours  float64 `json:"hours,omitempty" minimum:"0" maximum:"24" doc:"worn; 0 for what the briefs say"`
	Times  int     `json:"times,omitempty" minimum:"0" maximum:"12" doc:"put on in a day; 0 for once"`
	Takes  int     `json:"takes,omitempty" minimum:"0" maximum:"200" doc:"with blood"`
	// Sensitive skin gets milder removers and more rest; nobody is told of whom.
	Sensitive bool `json:"sensitive,omitempty"`
}

// Before is a change of the order, with its reason.
type Before struct {
	First string `json:"first" maxLength:"60"`
	Next  string `json:"next" maxLength:"60" doc:"what comes after it"`
	Why   string `json:"why,omitempty" maxLength:"120"`
}

// Extra is something that only this morning has: teeth, a wound, a costume.
type Extra struct {
	ID      string  `json:"id" maxLength:"40"`
	Text    string  `json:"text" minLength:"1" maxLength:"120"`
	Minutes float64 `json:"minutes" minimum:"0" maximum:"240"`
	After   string  `json:"after,omitempty" maxLength:"40" doc:"id of what it follows; empty for when there is room"`
	// Mouth: tooth or lip colour; the lips stay open until it is dry.
	Mouth  bool    `json:"mouth,omitempty"`
	DryMin float64 `json:"dry_min,omitempty" minimum:"0" maximum:"60"`
}
