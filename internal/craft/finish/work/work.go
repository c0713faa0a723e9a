// Package work is the list of what is done to a copy once it is made: derived from its
// section, the way it was made and what its finish plan asks for, in the order that the
// rules of the craft allow.
package work

import (
	"fmt"
	"slices"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/section"
)

// Kind is what sort of work it is.
type Kind string

// Kinds in their usual order.
const (
	Trim    Kind = "trim"
	Wash    Kind = "wash"
	Seam    Kind = "seam"
	Patch   Kind = "patch"
	Edge    Kind = "edge"
	Mend    Kind = "mend" // of a repair
	Seal    Kind = "seal"
	Prime   Kind = "prime"
	Paint   Kind = "paint"
	Read    Kind = "colour_reading"
	Insert  Kind = "insert"
	Hair    Kind = "hair"
	Closure Kind = "closure"
	Weight  Kind = "weight"
	Age     Kind = "age"
	Powder  Kind = "powder"
	Picture Kind = "photograph"
	Dress   Kind = "dress"
	Other   Kind = "other"
)

// Kinds in the order in which they usually follow each other, with their words.
var Kinds = []struct {
	Kind Kind
	Text string
}{
	{Trim, "Trim"}, {Wash, "Wash"}, {Seam, "Seam"}, {Patch, "Patch"}, {Edge, "Edge"}, {Mend, "Mend"}, {Seal, "Seal"}, {Prime, "Prime"}, {Paint, "Paint"},
	{Read, "Colour reading"}, {Insert, "Inserts"}, {Hair, "Hair"}, {Closure, "Closures"}, {Weight, "Weights"}, {Age, "Age and dirty"}, {Powder, "Powder"},
	{Picture, "Photograph"}, {Dress, "Dress for packing"}, {Other, "Other"},
}

// Text is a kind in words.
func (k Kind) Text() string {
	for _, e := range Kinds {
		if e.Kind == k {
			return e.Text
		}
	}
	return string(k)
}

// Known says whether it is one of the kinds.
func (k Kind) Known() bool { return k.rank() < len(Kinds) }

func (k Kind) rank() int {
	for i, e := range Kinds {
		if e.Kind == k {
			return i
		}
	}
	return len(Kinds)
}

// Item is one thing to do.
type Item struct {
	ID       string  `json:"id" maxLength:"40"`
	Kind     Kind    `json:"kind" enum:"trim,wash,seam,patch,edge,mend,seal,prime,paint,colour_reading,insert,hair,closure,weight,age,powder,photograph,dress,other"`
	Text     string  `json:"text" maxLength:"160"`
	Why      string  `json:"why" maxLength:"200" doc:"what asks for it"`
	Minutes  float64 `json:"minutes" minimum:"0" maximum:"6000" doc:"hands, as planned"`
	Material string  `json:"material,omitempty" maxLength:"64" doc:"slug of what it takes, where it is one thing"`
}

// Asked is what the list follows from. Plan is what the finish plan adds.
type Asked struct {
	Way     making.Way
	Section section.Section
	Hands   map[string]float64 // seconds by layer, of one copy
	EdgeCM  float64            // length of its edge
	Vanish  bool               // some of it is to vanish
	Plan    []Item
}

// Our own minutes for what no engine says, until the log has its own.
const (
	trimMin, seamMin10cm, patchMin, edgeMin10cm = 10.0, 8.0, 6.0, 4.0
	washMin, powderMin, readMin, pictureMin     = 5.0, 2.0, 2.0, 3.0
)

// List is the work on a copy, in order. What is built on skin has no flash to trim; only
// what comes out of a mould has a seam.
func List(a Asked) []Item {
	on := a.Section.MadeOn()
	var out []Item
	add := func(k Kind, text, why string, minutes float64) {
		out = append(out, Item{ID: string(k), Kind: k, Text: text, Why: why, Minutes: minutes})
	}
	if on != section.OnSkin {
		add(Trim, "Flash and rim cut, nothing torn", "made "+onWords[on], trimMin)
		if text, why := washes(a.Section); text != "" {
			add(Wash, text, why, washMin)
		}
	}
	if on == section.InMould {
		add(Seam, "Seams cut and levelled, bubbles and pinholes filled", "out of a mould", seamMin10cm*max(1, a.EdgeCM/20)+patchMin)
	}
	edge := "Edge thin all round, no curl"
	if a.Vanish {
		edge = "Edge thin all round, stretches that are to vanish measured and lost"
	}
	add(Edge, edge, "what the brief wants of its edges", edgeMin10cm*max(1, a.EdgeCM/10))
	if on != section.OnSkin {
		out = append(out, layered(a)...)
	}
	out = append(out, a.Plan...)
	add(Read, "Read its colour in daylight, on the middle", "so that Colour and Check know it", readMin)
	add(Picture, "Photograph it from the front, a card in the picture", "so that Check can lay it over its reference", pictureMin)
	slices.SortStableFunc(out, func(x, y Item) int { return x.Kind.rank() - y.Kind.rank() })
	return out
}

var onWords = map[string]string{section.OnForm: "on a form", section.InMould: "in a mould"}

// washes says what comes off a fresh piece, by what its body is.
func washes(doc section.Section) (text, why string) {
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		switch l.Kind {
		case section.Silicone:
			text, why = "Wash the release off with a mild soap, dry it, powder it", "silicone carries release and oil on its skin"
		case section.Foam:
			text, why = "Rinse and squeeze until the water runs clear; dry it through", "curing salts stay in foam latex"
		case section.Latex:
			text, why = "Powder it inside and out", "latex sticks to itself, for good"
		case section.Gelatin:
			text, why = "Dust it with talc-free powder, both faces", "gelatin sticks to itself"
		case section.SoftFoam:
			text, why = "Wipe it out and let it air", "soft foam keeps release in its skin"
		}
	})
	return text, why
}

// layered are the layers of the section that are put on at the bench once the piece is
// made: seals, colours, hair and things that are not set in the mould or on the face.
func layered(a Asked) []Item {
	var out []Item
	paints := 0
	a.Section.All(func(_ section.Cut, _ int, l section.Layer) {
		item := Item{ID: "layer-" + l.ID, Why: "a layer of its section", Minutes: roundTo(a.Hands[l.ID] / 60), Material: l.Material}
		switch l.Kind {
		case section.Seal:
			item.Kind, item.Text = Seal, "Seal it"
		case section.Paint:
			if a.Section.PaintWhen == "on the face" {
				return
			}
			paints++
			item.Kind, item.Text = Paint, fmt.Sprintf("Colour %d", paints)
			if paints == 1 && l.Role == "base" {
				item.Kind, item.Text = Prime, "Prime it with the base colour"
			}
		case section.Hair:
			item.Kind, item.Text = Hair, "Hair "+map[string]string{"": "set in", "laid": "laid", "punched": "punched"}[l.Method]
		case section.Insert:
			if l.Fitted == "in the mould" || l.Fitted == "on the face" {
				return
			}
			item.Kind, item.Text = Insert, fmt.Sprintf("%d inserts set, each one tugged", l.Count)
			if l.Sharp {
				item.Why = "sharp: on the stand, counted in and out, never on the face"
			}
		case section.Weight:
			item.Kind, item.Text = Weight, "Weights in, and weighed"
		default:
			return
		}
		if !slices.ContainsFunc(out, func(o Item) bool { return o.ID == item.ID }) {
			out = append(out, item)
		}
	})
	return out
}

func roundTo(minutes float64) float64 { return float64(int(minutes*10+0.5)) / 10 }

// after is what may not come before what: the rules on the order of work, each with its
// reason.
var after = []struct {
	later, sooner Kind
	rule, why     string
}{
	{Paint, Trim, "", "what is trimmed after it was coloured shows bare"},
	{Paint, Seam, "", "a seam that is levelled after it was coloured shows bare"},
	{Paint, Wash, "", "colour does not hold on release or powder"},
	{Paint, Seal, "MED-3", "the ground is sealed before colour"},
	{Paint, Prime, "", "the base lies under the other colours"},
	{Prime, Seal, "MED-3", "the ground is sealed before colour"},
	{Seal, Wash, "", "a seal does not hold on release or powder"},
	{Hair, Paint, "SEQ-8", "hair comes after colour: paint mats it"},
	{Edge, Trim, "", "an edge is lost once the flash is off"},
	{Age, Paint, "", "dirt lies on the colours, not under them"},
	{Age, Hair, "", "dirt goes into the hair as well"},
	{Dress, Picture, "", "it is photographed before it is wrapped"},
	{Read, Paint, "", "the colour is read once it is on"},
}

// Order says whether items may be worked in this order; the refusal names the item that
// comes too soon, at its field, and why.
func Order(items []Item) error {
	for i, a := range items {
		for _, b := range items[i+1:] {
			for _, r := range after {
				if a.Kind == r.later && b.Kind == r.sooner {
					words := r.why
					if r.rule != "" {
						words = r.rule + ": " + words
					}
					return refusal.New(refusal.BadOrder, "after", "“%s” cannot come before “%s”: %s.", a.Text, b.Text, words)
				}
			}
		}
	}
	return nil
}
