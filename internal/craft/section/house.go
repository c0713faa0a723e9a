package section

import (
	"math"

	"yewmoor/internal/craft/material"
)

// Method is a way of making a piece, with the section that a shop starts from.
type Method struct {
	Slug   string          `json:"slug"`
	Name   string          `json:"name"`
	Family material.Family `json:"family" doc:"what makes its body: its hatch"`
	Text   string          `json:"text" doc:"what it is, in one sentence"`
	on     string
	layers func(heightMM float64, shelf material.Shelf) []Layer
}

// Methods are the house methods that ship with the product.
var Methods = []Method{
	{"build_up_tissue", "Build-up, latex and tissue", material.Latex, "Coats of latex with torn tissue, built on the skin.", OnSkin, func(h float64, s material.Shelf) []Layer {
		return direct(coats(h, "latex-balloon", "fibre-tissue", 0.2, s), film("seal", Latex, "latex-balloon", 1, 0.1), cream()...)
	}},
	{"build_up_cotton", "Build-up, latex and cotton", material.Latex, "Veils of cotton soaked in latex, built on the skin: thick in few layers.", OnSkin, func(h float64, s material.Shelf) []Layer {
		return direct(coats(h, "latex-balloon", "fibre-cotton", 0.2, s), film("seal", Latex, "latex-balloon", 1, 0.1), cream()...)
	}},
	{"latex_sheet", "Sheet latex", material.Latex, "Latex dried in a thin sheet, torn and glued on.", OnForm, func(h float64, s material.Shelf) []Layer {
		sheet := coats(math.Min(h, 1), "latex-balloon", "", 0.2, s)
		sheet.Method = "sheet"
		return glued("adhesive-acrylic", sheet, cream()...)
	}},
	{"latex_paste", "Latex paste on a form", material.LatexPaste, "Latex thickened with flour, spread on a form, dried, powdered and glued.", OnForm, func(h float64, _ material.Shelf) []Layer {
		return glued("adhesive-acrylic", body("body", Paste, "latex-paste", h, ""), cream()...)
	}},
	{"latex_slush", "Slush latex", material.Latex, "A hollow latex skin cast in dry plaster.", InMould, func(h float64, s material.Shelf) []Layer {
		wall := coats(math.Min(h, 2), "latex-slush", "", 0.3, s)
		wall.Method = "slush"
		return glued("adhesive-acrylic", wall, cream()...)
	}},
	{"stretch_stipple", "Stretch-stipple", material.Latex, "Latex stippled on stretched skin, powdered before it is let go: wrinkles and cracks.", OnSkin, func(_ float64, _ material.Shelf) []Layer {
		return []Layer{barrier(), {ID: "stipple", Kind: Latex, Material: "latex-balloon", Method: "stippled", Coats: 2, CoatMM: 0.1, Stretched: true},
			{ID: "colour", Kind: Paint, Material: "paint-cream", Coats: 1, CoatMM: 0.02, Extent: PastEdge, StopMM: 10}, powder()}
	}},
	{"foam_latex", "Foam latex", material.FoamLatex, "Whipped latex foam, baked in a plaster mould: light and warm.", InMould, func(h float64, _ material.Shelf) []Layer {
		return glued("adhesive-acrylic", body("body", Foam, "foam-latex", h, ""), Layer{ID: "seal", Kind: Seal, Material: "sealer-acrylic", Coats: 1, CoatMM: 0.01},
			Layer{ID: "colour", Kind: Paint, Material: "paint-adhesive", Coats: 3, CoatMM: 0.02, Extent: PastEdge, StopMM: 12}, powder())
	}},
	{"silicone_encapsulated", "Encapsulated silicone", material.SiliconeAddition, "Softened silicone gel in a thin film that glues, melts and paints.", InMould, func(h float64, _ material.Shelf) []Layer {
		return append([]Layer{barrier(), glue("adhesive-acrylic"), film("inner", Encapsulator, "encapsulator-acetone", 2, 0.02), softened("body", h), film("outer", Encapsulator, "encapsulator-acetone", 2, 0.02)}, spirit()...)
	}},
	{"silicone_solid", "Solid silicone", material.SiliconeAddition, "Firm silicone without a film: lasts, glued and coloured with silicone only.", InMould, func(h float64, _ material.Shelf) []Layer {
		return []Layer{barrier(), glue("adhesive-silicone"), body("body", Silicone, "silicone-firm", h, ""), {ID: "colour", Kind: Paint, Material: "paint-silicone", Coats: 3, CoatMM: 0.02, Extent: PastEdge, StopMM: 8}, powder()}
	}},
	{"silicone_over_foam", "Silicone over soft foam", material.SiliconeAddition, "A silicone skin over a sealed soft-foam core: bulk without the weight.", InMould, func(h float64, _ material.Shelf) []Layer {
		skin := math.Min(4, math.Max(1, h/6))
		return []Layer{body("core", SoftFoam, "foam-pu", math.Max(0.5, h-skin), ""), film("closed", Seal, "sealer-plastic", 2, 0.02), body("skin-body", Silicone, "silicone-firm", skin, ""),
			{ID: "colour", Kind: Paint, Material: "paint-silicone", Coats: 3, CoatMM: 0.02}, powder()}
	}},
	{"silicone_direct", "Direct two-part silicone", material.SiliconeAddition, "Two parts mixed and spread on the skin, set in minutes.", OnSkin, func(h float64, _ material.Shelf) []Layer {
		return []Layer{{ID: "prepare", Kind: Preparation, Material: "prep-cleanser", Coats: 1, CoatMM: 0.002}, body("body", Silicone, "silicone-direct", h, "direct"), {ID: "colour", Kind: Paint, Material: "paint-silicone", Coats: 2, CoatMM: 0.02, Extent: PastEdge, StopMM: 8}, powder()}
	}},
	{"gelatin_animal", "Gelatin, animal", material.Gelatin, "Gelatin and glycerin cast warm: moves, and its edge dissolves on the skin.", InMould, gelatinOf("gelatin-animal")},
	{"gelatin_plant", "Gelling base, plant", material.Gelatin, "The same without anything of animals.", InMould, gelatinOf("gelatin-plant")},
	{"wax", "Wax", material.Wax, "Modelling wax pressed on glue and sealed: at once, for a short time.", OnSkin, func(h float64, _ material.Shelf) []Layer {
		return []Layer{barrier(), glue("adhesive-gum"), body("body", Wax, "wax-soft", h, ""), film("seal", Seal, "sealer-plastic", 2, 0.01), {ID: "colour", Kind: Paint, Material: "paint-cream", Coats: 2, CoatMM: 0.02, Extent: PastEdge, StopMM: 10}, powder()}
	}},
	{"household_paste", "Household paste", material.HouseholdPaste, "Flour paste spread and roughened when half dry: costs nothing.", OnSkin, func(h float64, _ material.Shelf) []Layer {
		return []Layer{barrier(), body("body", Paste, "paste-flour", h, ""), film("seal", Seal, "sealer-plastic", 2, 0.01), {ID: "colour", Kind: Paint, Material: "paint-cream", Coats: 2, CoatMM: 0.02, Extent: PastEdge, StopMM: 10}, powder()}
	}},
	{"mixed_build", "Mixed build", material.Latex, "Wax for the bulk, latex and tissue over it for the hold: rope burns and scars.", OnSkin, func(h float64, s material.Shelf) []Layer {
		return []Layer{barrier(), glue("adhesive-gum"), body("bulk", Wax, "wax-soft", h, ""), {ID: "tissue", Kind: Latex, Material: "latex-balloon", Coats: 2, CoatMM: 0.15, Fibre: "fibre-tissue"}, film("close", Latex, "latex-balloon", 1, 0.1),
			{ID: "set", Kind: Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01}, {ID: "colour", Kind: Paint, Material: "paint-cream", Coats: 2, CoatMM: 0.02, Extent: PastEdge, StopMM: 12}, powder()}
	}},
}

func gelatinOf(slug string) func(float64, material.Shelf) []Layer {
	return func(h float64, _ material.Shelf) []Layer {
		return append([]Layer{barrier(), glue("adhesive-acrylic"), {ID: "back", Kind: Seal, Material: "sealer-plastic", Coats: 1, CoatMM: 0.01}, body("body", Gelatin, slug, h, ""), {ID: "seal", Kind: Seal, Material: "sealer-plastic", Coats: 1, CoatMM: 0.01}}, spirit()...)
	}
}

func barrier() Layer {
	return Layer{ID: "barrier", Kind: Barrier, Material: "barrier-film", Coats: 1, CoatMM: 0.01}
}
func powder() Layer {
	return Layer{ID: "powder", Kind: Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01}
}
func glue(slug string) Layer {
	return Layer{ID: "glue", Kind: Adhesive, Material: slug, Coats: 2, CoatMM: 0.04}
}
func film(id string, k Kind, slug string, n int, mm float64) Layer {
	return Layer{ID: id, Kind: k, Material: slug, Coats: n, CoatMM: mm}
}

// softened is the usual gel of a skin: as much softener as makes it give like one,
// and a base colour that a search replaces.
func softened(id string, mm float64) Layer {
	l := body(id, Silicone, "silicone-gel", mm, "")
	l.With = []Stir{{"softener", 60}, {"pigment-flesh", 1.2}}
	return l
}

func body(id string, k Kind, slug string, mm float64, method string) Layer {
	return Layer{ID: id, Kind: k, Material: slug, CentreMM: mm, Method: method}
}

// cream is colour for rubber: powder first, so that cream slides on something.
func cream() []Layer {
	return []Layer{{ID: "set", Kind: Powder, Material: "powder-translucent", Coats: 1, CoatMM: 0.01}, {ID: "colour", Kind: Paint, Material: "paint-cream", Coats: 2, CoatMM: 0.02, Extent: PastEdge, StopMM: 12}, powder()}
}

func spirit() []Layer {
	return []Layer{{ID: "colour", Kind: Paint, Material: "paint-alcohol", Coats: 4, CoatMM: 0.006, Extent: PastEdge, StopMM: 12}, powder()}
}

func direct(bulk, close Layer, then ...Layer) []Layer {
	return append([]Layer{barrier(), bulk, close}, then...)
}

func glued(with string, make Layer, then ...Layer) []Layer {
	return append([]Layer{barrier(), glue(with), make}, then...)
}

// coats is as many coats as reach the height.
func coats(heightMM float64, slug, fibre string, wetMM float64, shelf material.Shelf) Layer {
	l := Layer{ID: "build", Kind: Latex, Material: slug, Fibre: fibre, Coats: 1, CoatMM: wetMM}
	l.Coats = max(1, min(40, int(math.Ceil(heightMM/l.CoatBuiltMM(shelf)-1e-9))))
	if fibre != "" { // reinforcement ends before the edge
		l.Extent = CentreOnly
	}
	return l
}

// thinRim lets a wall of many coats end in one: the rim is trimmed and drained
// thin, or its edge is as thick as its wall.
func (s *Section) thinRim() {
	s.Zones = []Zone{{Name: "wall", ToMM: math.Round(s.HalfWidthMM*8.5) / 10}, {Name: "rim", ToMM: s.HalfWidthMM}}
	for i, l := range s.Layers {
		if l.Kind == Latex && l.Coats > 1 {
			s.Layers[i].ZoneCoats = []int{l.Coats, 1}
		}
	}
}

// House is the section that a method starts from, for an area and a height at
// the centre; false when there is no such method.
func House(slug string, areaCM2, heightMM float64, shelf material.Shelf) (Section, bool) {
	for _, m := range Methods {
		if m.Slug != slug {
			continue
		}
		s := Start(areaCM2)
		s.Method, s.Made.On = m.Slug, m.on
		if heightMM < 0.1 {
			heightMM = 0.1
		}
		for _, l := range m.layers(heightMM, shelf) {
			if l.Extent == CentreOnly && l.StopMM == 0 {
				l.StopMM = math.Round(s.HalfWidthMM*8) / 10
			}
			s.Layers = append(s.Layers, l)
		}
		if m.on == InMould && m.Slug != "latex_slush" {
			s.Made.Of, s.Made.Release = "gypsum", "release-wax"
			s.Made.Sealed = m.Family != material.FoamLatex
		}
		if m.Slug == "latex_slush" {
			s.Made.Of = "gypsum"
		}
		if m.Slug == "latex_slush" {
			s.thinRim()
		}
		return s, true
	}
	return Section{}, false
}
