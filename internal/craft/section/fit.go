package section

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
)

// School is one way of fitting with an adhesive: practitioners differ, each is
// right for its case.
type School struct {
	State   string  `json:"state" enum:"wet,clear,tacky,dry"`
	Text    string  `json:"text"`
	When    string  `json:"when" doc:"the case that it is right for"`
	ReadyS  float64 `json:"ready_s" doc:"after it went on; 0 at once. Half to double, by how thick the hand lays it"`
	ClosesS float64 `json:"closes_s" doc:"when it no longer grips; 0 when not known"`
	Chosen  bool    `json:"chosen"`
}

// Fit is one adhesive of a section with its state at fitting and its remover.
type Fit struct {
	Layer    string   `json:"layer"`
	Adhesive string   `json:"adhesive"`
	Schools  []School `json:"schools"`
	Remover  string   `json:"remover" doc:"name of what takes it off; empty when none is known"`
	Slug     string   `json:"remover_slug"`
	Off      string   `json:"off" doc:"how it comes off"`
}

// schools are the ways of fitting, the usual one first.
var schools = map[material.Family][]School{
	material.AdhesiveAcrylic: {
		{State: "clear", Text: "on both faces, left until it has gone clear, then pressed: it grips at once", When: "large or moving pieces that are lined up by landmarks"},
		{State: "wet", Text: "laid wet on one face, shifted into place, held until clear", When: "small pieces whose place must still be found"},
	},
	material.AdhesiveGum: {
		{State: "tacky", Text: "patted until tacky on both, then pressed and held", When: "hair lace and small pieces on still skin"},
		{State: "wet", Text: "pressed wet through lace and patted dry with a lint-free cloth", When: "fine lace, where the gum comes through"},
	},
	material.AdhesiveSilicone: {
		{State: "tacky", Text: "on both faces, solvent left to flash off until it pulls threads", When: "silicone pieces and long wear"},
		{State: "dry", Text: "left to dry fully and pressed like a tape", When: "pieces that are set down once and must not creep"},
	},
	material.AdhesiveLash: {
		{State: "tacky", Text: "a thin line, left until it strings, then laid", When: "lashes, brows and trims"},
		{State: "wet", Text: "laid wet and moved with tweezers", When: "single hairs"},
	},
	material.AdhesiveContact: {{State: "dry", Text: "for objects only, never on skin", When: "inserts at the bench"}},
}

// flashS is how long solvent adhesives need before they pull threads, s.
const flashS = 120

func (s Section) fits(shelf material.Shelf, room Room) []Fit {
	out := []Fit{}
	s.All(func(_ Cut, _ int, l Layer) {
		if l.Kind != Adhesive {
			return
		}
		p := shelf[l.Material]
		f := Fit{Layer: l.ID, Adhesive: p.Name, Schools: []School{}, Slug: p.Remover, Remover: shelf[p.Remover].Name}
		f.Off = "Never peel it dry."
		if f.Remover != "" {
			f.Off = fmt.Sprintf("Work %s under the edge with a soft brush, let it lift by itself, never peel it dry.", f.Remover)
		}
		times, _ := drying.Film(p.Film, room.TempC, room.RH)
		for i, school := range schools[p.Family] {
			switch {
			case school.State == "wet":
			case times["tack_open"] > 0:
				school.ReadyS, school.ClosesS = times["tack_open"], times["tack_close"]
			case p.Family == material.AdhesiveSilicone, p.Family == material.AdhesiveLash:
				school.ReadyS = flashS
			}
			if school.State == "dry" {
				school.ReadyS, school.ClosesS = math.Max(school.ReadyS, 2*flashS), 0
			}
			school.Chosen = l.Fit == school.State || l.Fit == "" && i == 0
			f.Schools = append(f.Schools, school)
		}
		out = append(out, f)
	})
	return out
}
