package wear

import (
	"fmt"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
)

// Step is one thing that is done to skin or hair before a piece goes on.
type Step struct {
	Text string `json:"text"`
	Why  string `json:"why"`
}

// Preparation is what one piece asks of the skin where it goes.
type Preparation struct {
	Piece    string `json:"piece"`
	Where    string `json:"where"`
	Adhesive string `json:"adhesive" doc:"empty when the section has none yet"`
	Steps    []Step `json:"steps"`
}

// Prepare says how skin and hair are made ready for a piece, in order. Its
// section may be empty: what hangs on the adhesive is then left open.
func Prepare(code, where string, s section.Section, shelf material.Shelf, m wearmap.Result) Preparation {
	p := Preparation{Piece: code, Where: where, Steps: []Step{}}
	do := func(why, text string, args ...any) { p.Steps = append(p.Steps, Step{fmt.Sprintf(text, args...), why}) }
	var adhesive material.Family
	var latex, barrier, liquid bool
	s.All(func(_ section.Cut, _ int, l section.Layer) {
		product := shelf[l.Material]
		switch l.Kind {
		case section.Adhesive:
			p.Adhesive, adhesive, liquid = product.Name, product.Family, true
		case section.Latex:
			latex = latex || s.MadeOn() == section.OnSkin
		case section.Barrier:
			barrier = true
		}
	})
	stippled := latex && p.Adhesive == ""
	for _, h := range m.Hair {
		name := h.Text
		if name == "" {
			name = "hair"
		}
		switch {
		case h.How == "shaved":
			do("stubble holds glue and shows through a thin edge", "Shave %s the evening before, not in the chair.", name)
		case h.How == "flatten":
			do("hair pokes through what lies over it", "Lay %s flat with %s, let it dry, powder; look before the next coat.", name, orWord(h.By, "coats of gum or glue stick"))
		default:
			do("hair caught in set latex or glue cannot be freed", "Protect %s with %s.", name, orWord(h.By, "grease, a film or a cap: say which on the map"))
		}
	}
	do("loose strands end under the edge", "Pin the hair back, clear of the %s by a hand's breadth.", where)
	do("fat lets every glue and latex go", "Clean the %s with a mild cleanser, then wipe with alcohol; not near the eyes, not on broken skin. Let it dry.", where)
	if len(m.Hair) > 0 {
		do("grease lies where it should bond", "Wipe every trace of grease off the bare skin round the protected hair.")
	}
	switch adhesive {
	case material.AdhesiveAcrylic:
		do("sweat lifts water-based acrylic from below", "Dab an antiperspirant wipe on if the wearer tolerates it, and let it dry.")
	case material.AdhesiveSilicone:
		do("silicone adhesive creeps on damp skin", "The skin must be bone dry; no cream under it.")
	case material.AdhesiveGum:
		do("gum wants bare dry skin and grips when tacky", "Shave or clip down below the glue line; keep the gum off the mouth corner.")
	}
	if barrier {
		do("whatever touches skin for hours irritates it", "Lay the barrier film thinly over the whole area and past the edge; let it dry.")
	} else if liquid {
		do("no barrier is in the section", "Ask once more for redness or itching here; put a barrier in the section if the skin is sensitive.")
	}
	if stippled {
		do("latex vapour stings, and the eyes water into it", "Eyes shut during each coat near them; a fan across, not at the face.")
	}
	if strings.Contains(where, "mouth") || strings.Contains(where, "lip") {
		do("lips wet what is not dry", "Dry the lips; they stay open until it has set.")
	}
	return p
}

func orWord(s, fallback string) string {
	if s == "" {
		return fallback
	}
	return s
}

// Card is what the performer is told: what to do, what to keep still, how to
// say stop.
type Card struct {
	Do    []string `json:"do"`
	Still []string `json:"still"`
	Stop  []string `json:"stop"`
	Worn  []string `json:"worn" doc:"while it is worn"`
}

// Signals by which the wearer stops everything, whether they can speak or not.
var Signals = []string{"Say “stop”, or lift one hand: everything stops at once and somebody asks.", "If it burns, stings or itches, or breath comes short: lift both hands. It comes off first and we talk after."}

// Tell makes the card from the map, the plan and the wearer's own marks.
func Tell(m wearmap.Result, p Plan, c Conditions, wearer []wearmap.Mark) Card {
	card := Card{Do: []string{"Come with clean skin: no cream, no make-up, nothing sprayed in the hair.", "Eat and drink before; go to the toilet before."}, Still: []string{"Sit back with the head against the rest, jaw loose, hands down."}, Stop: Signals, Worn: []string{}}
	for _, mark := range wearer {
		if mark.Kind != "pull" {
			continue
		}
		name := orWord(mark.Text, "the skin")
		text := fmt.Sprintf("When asked, let us draw %s %s", name, orWord(mark.How, "taut"))
		if mark.How == "with a spoon in the cheek" {
			text = fmt.Sprintf("When asked, hold the spoon in the cheek so that %s is stretched", name)
		}
		if mark.HoldS > 0 {
			text += fmt.Sprintf(", and hold it %.0f seconds until it is powdered", mark.HoldS)
		}
		card.Do = append(card.Do, text+".")
	}
	for _, f := range m.Findings {
		if f.ID == "SAF-3" {
			card.Still = append(card.Still, "Eyes shut and relaxed near the lids, until we say that it is dry. Do not squeeze them.")
			break
		}
	}
	for _, a := range m.Areas {
		for _, s := range a.Shares {
			if s.Region == "lip" || s.Region == "mouth_corner" {
				card.Still = append(card.Still, "Lips a little open and dry until we say so; no talking, no swallowing hard.")
			}
		}
	}
	card.Still = compact(card.Still)
	if m.Sight != "both" {
		card.Worn = append(card.Worn, "You will see with "+seeing(m.Sight)+": somebody walks with you. Tell us when you want a rest from it.")
	}
	if m.Hearing != "both" {
		card.Worn = append(card.Worn, "You will hear less: we touch your arm before we speak.")
	}
	if m.Breath != "nose and mouth" {
		card.Worn = append(card.Worn, "Breathe through the "+m.Breath+". Try it for five minutes before we glue.")
	}
	card.Worn = append(card.Worn, fmt.Sprintf("We ask you every %d minutes how it is, on a scale of 0 to 10. Say the true figure.", p.CheckInMin))
	if p.CoolMin > 0 {
		card.Worn = append(card.Worn, fmt.Sprintf("%d minutes of every hour you sit in the cool with it open, and drink.", p.CoolMin))
	}
	if p.MaxHours > 0 {
		card.Worn = append(card.Worn, fmt.Sprintf("It is worn at most %g hours at a stretch.", p.MaxHours))
	}
	if c.WayOut.Closure != "" {
		card.Worn = append(card.Worn, fmt.Sprintf("Quick way out: %s, %g minutes, with %d to help.", c.WayOut.Closure, c.WayOut.Minutes, c.WayOut.Helpers))
	}
	card.Worn = append(card.Worn, "Do not pull or pick at an edge. Tell us; we have the glue.")
	return card
}

func seeing(side string) string {
	if side == "none" {
		return "no eye"
	}
	return "the " + side + " eye"
}

func compact(list []string) []string {
	var out []string
	seen := map[string]bool{}
	for _, x := range list {
		if !seen[x] {
			seen[x] = true
			out = append(out, x)
		}
	}
	return out
}
