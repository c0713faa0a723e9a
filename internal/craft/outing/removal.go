package outing

import (
	"slices"
	"strings"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// taken is one thing that comes off, and the shop's product that takes it.
type taken struct {
	fit.Worn
	slug  string
	words string
}

// kindOf is which remover of the tables a product is; "" where nothing tells.
func kindOf(p material.Product) string {
	says := strings.ToLower(p.Slug + " " + p.Name)
	holds := func(s string) bool { return slices.Contains(p.Contains, s) || strings.Contains(says, s) }
	switch {
	case p.Slug == "":
		return ""
	case holds("ester"):
		return "ester_oil"
	case holds("siloxane") || strings.Contains(says, "silicone"):
		return "silicone_remover"
	case strings.Contains(says, "gum"):
		return "gum_remover"
	case holds("alcohol") || p.Solvent == "alcohol":
		return "alcohol"
	case strings.Contains(says, "soap") || strings.Contains(says, "cleanser"):
		return "soap_water"
	case holds("petroleum") || strings.Contains(says, "oil"):
		return "oil"
	case strings.Contains(says, "water"):
		return "warm_water"
	}
	return ""
}

// worn are the things of a piece that come off the skin, outside in.
func (p Piece) worn(shelf material.Shelf) []taken {
	_, barrier := p.has(section.Barrier)
	base := fit.Worn{WidthMM: p.WidthMM(), AreaCM2: max(0.1, p.AreaCM2), Access: 1, Barrier: barrier, NearEye: p.NearEye}
	var out []taken
	add := func(id, what, slug, words string) {
		ways := fit.TakesOff(what)
		if len(ways) == 0 {
			return
		}
		w := taken{Worn: base, slug: slug, words: words}
		w.ID, w.What, w.Remover = p.Code+id, what, kindOf(shelf[slug])
		if !slices.Contains(ways, w.Remover) {
			w.Remover, w.slug = ways[0], ""
		}
		out = append(out, w)
	}
	if p.onSkin() {
		what := map[string]string{"latex": "latex_film", "paste": "latex_film", "wax": "wax", "gelatin": "gelatin", "silicone": "silicone_direct", "encapsulated": "silicone_direct"}[p.Family(shelf)]
		if p.Result.Family == string(material.HouseholdPaste) {
			what = "paste"
		}
		add("", what, "", p.Name)
	}
	for _, g := range p.Glues(shelf) {
		add(suffix(len(out)), g.Kind.ID, g.Product.Remover, p.Name)
	}
	if l, foam := p.has(section.Foam); foam && len(out) > 0 {
		if _, sealed := p.has(section.Seal); !sealed {
			centre, _ := l.Thickness(p.Doc.Cut, shelf)
			out[0].FoamMM = centre
		}
	}
	return out
}

func suffix(n int) string {
	if n == 0 {
		return ""
	}
	return strings.Repeat("'", n)
}

// OffStep is one thing of the evening, in the order in which it comes off.
type OffStep struct {
	Piece   string  `json:"piece"`
	Name    string  `json:"name"`
	Remover string  `json:"remover" doc:"of the tables"`
	Product string  `json:"product" doc:"the shop's own; empty where the kit has none of that kind"`
	ML      float64 `json:"ml"`
	SoakMin float64 `json:"soak_min"`
	OffMin  float64 `json:"off_min" doc:"after the first remover went on"`
	Lift    bool    `json:"lift_only" doc:"only lifted as it loosens, never pulled"`
	Words   string  `json:"words"`
}

// Evening is how a look comes off.
type Evening struct {
	fit.Removal
	Steps []OffStep `json:"steps"`
	// Again says of each piece what may be worn again, and what is thrown away.
	Again []string `json:"again"`
	After []string `json:"after" doc:"for the skin, when all is off"`
	Never string   `json:"never"`
}

var removerText = map[string]string{"ester_oil": "ester oil remover", "silicone_remover": "silicone adhesive remover", "gum_remover": "gum remover", "alcohol": "alcohol",
	"oil": "oil", "warm_water": "warm water", "soap_water": "soap and water"}

// TakeOff is the evening of a day; redness is what is seen of the skin, 0 to 3. Skin that is sensitive is told of by hand.
func TakeOff(pieces []Piece, d Day, hands int, sensitive bool, redness int, shelf material.Shelf) (Evening, error) {
	out := Evening{Steps: []OffStep{}, Again: []string{}, Never: "Never pull a piece dry, and never cut towards the wearer.",
		After: []string{"Cleanse, rinse with lukewarm water, pat dry, then a plain cream.", "Look at the skin under every piece in good light, and write down what you see."}}
	u := fit.Undressing{Hands: max(1, hands), Sensitive: sensitive, WornH: d.Hours, Redness: redness, AirC: d.RoomC}
	var all []taken
	back := ordered(pieces)
	slices.Reverse(back)
	for _, p := range back {
		for _, w := range p.worn(shelf) {
			all = append(all, w)
			u.Pieces = append(u.Pieces, w.Worn)
		}
		switch family := p.Family(shelf); {
		case p.onSkin() || UsualWears(family) == 1:
			out.Again = append(out.Again, p.Code+": worn once, then thrown away; hand it back all the same if the shop asked for it.")
		default:
			out.Again = append(out.Again, p.Code+": may be worn again if its edge is whole; clean the back, powder it, lay it on its form.")
		}
	}
	if len(u.Pieces) == 0 {
		return out, nil
	}
	var err error
	if out.Removal, err = fit.TakeOff(u); err != nil {
		return out, err
	}
	for _, id := range out.LiftOrder {
		i := slices.IndexFunc(all, func(w taken) bool { return w.ID == id })
		w := all[i]
		s := OffStep{Piece: strings.TrimRight(w.ID, "'"), Name: w.words, Remover: out.Used[id], SoakMin: out.SoakMin[id], OffMin: out.OffMin[id], Lift: slices.Contains(out.LiftOnly, id),
			ML: 0.08*w.AreaCM2 + 0.4*w.AreaCM2*w.FoamMM/10}
		if out.Used[id] == w.Remover {
			s.Product = shelf[w.slug].Name
		}
		s.Words = "Work " + orElse(s.Product, removerText[s.Remover]) + " under the rim with a soft brush or swab, from the edge inwards."
		if w.NearEye {
			s.Words += " Eyes shut, a damp swab, never dripping."
		}
		if s.Lift {
			s.Words += " Lift it only as it loosens."
		}
		out.Steps = append(out.Steps, s)
	}
	for id := range out.Refused {
		out.Steps = append(out.Steps, OffStep{Piece: strings.TrimRight(id, "'"), Words: "Nothing that may come so near the eye takes this off: licensed hands only."})
	}
	return out, nil
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}
