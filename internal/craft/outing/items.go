package outing

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Item is one thing of a kit beside its copies.
type Item struct {
	Key  string  `json:"key"`
	Kind string  `json:"kind" enum:"prepare,guard,barrier,adhesive,remover,solvent,colour,powder,finish,blood,tool,lens,hair,care,card,other"`
	Slug string  `json:"slug,omitempty" doc:"of the product; none for tools and cards"`
	Name string  `json:"name"`
	Need float64 `json:"need" doc:"in its unit; 0 where nobody counts it"`
	Unit string  `json:"unit" enum:"g,ml,pcs"`
	Why  string  `json:"why"`
}

// kinds of a kit in the order in which it is packed.
var kinds = []string{"prepare", "guard", "barrier", "adhesive", "solvent", "colour", "powder", "finish", "blood", "lens", "hair", "tool", "remover", "care", "card", "other"}

// Colour is a colour that the day asks for.
type Colour struct{ Slug, Medium, Name, Place string }

// Our own amounts: what is melted at an edge, what a swab or a wipe takes, least that is worth filling off.
const (
	solventMLcm = 0.05 // of edge and use
	solventMost = 20   // ml: more than that does not go on a set
	coatWaste   = 1.3
	leastG      = 0.5
)

type basket struct {
	list []Item
	at   map[string]int
}

// put adds to an item, or begins it; reasons stand beside each other once.
func (b *basket) put(i Item) {
	if n, there := b.at[i.Key]; there {
		b.list[n].Need += i.Need
		return
	}
	b.at[i.Key] = len(b.list)
	b.list = append(b.list, i)
}

// Items are what goes with pieces for a day, with how much of it.
func Items(pieces []Piece, d Day, c Choices, colours []Colour, shelf material.Shelf) []Item {
	b := &basket{at: map[string]int{}}
	uses := float64(max(1, d.Uses))
	last := Wear(pieces, d, shelf)
	product := func(kind, slug string, grams float64, why string) {
		if p, known := shelf[slug]; known {
			b.put(Item{Key: kind + ":" + slug, Kind: kind, Slug: slug, Name: p.Name, Need: grams, Unit: "g", Why: why})
		}
	}
	thing := func(kind, key, name string, n float64, why string) {
		b.put(Item{Key: kind + ":" + key, Kind: kind, Name: name, Need: n, Unit: "pcs", Why: why})
	}
	for _, p := range pieces {
		b.glues(p, uses, last, shelf)
		p.Doc.All(func(_ section.Cut, _ int, l section.Layer) {
			grams := p.Result.Of(l.ID).WetG * uses * coatWaste
			switch l.Kind {
			case section.Preparation:
				product("prepare", l.Material, grams, "skin of "+p.Code)
			case section.Barrier:
				product("barrier", l.Material, grams, "under "+p.Code)
			case section.Powder:
				product("powder", l.Material, grams, "sets "+p.Code)
			case section.Seal, section.WetLook:
				if onTheFace(p, l) {
					product("finish", l.Material, grams, string(l.Kind)+" of "+p.Code)
				}
			case section.Blood:
				b.blood(p, l, grams, d, shelf)
			case section.Encapsulator:
				b.solvent(p, l, uses, shelf)
			case section.Latex, section.Paste, section.Wax, section.Gelatin, section.Silicone:
				if p.onSkin() {
					product("finish", l.Material, grams, "built on the skin: "+p.Code)
				}
			case section.Hair:
				if l.Method != "punched" {
					product("hair", l.Material, grams, "laid on "+p.Code)
				}
			}
		})
		if w, has := p.has(section.Paint); has && shelf[w.Material].Family == material.PaintCream {
			thing("tool", "sponges", "stipple sponges", 4*uses, "cream is patted, not rubbed")
		}
		for _, slug := range p.Doc.Touching {
			product("tool", slug, 0, "touches the wearer of "+p.Code)
		}
	}
	b.colours(colours, last, uses, shelf)
	b.cover(c, pieces, uses, shelf)
	if c.Lenses != "" {
		thing("lens", "lenses", cmp.Or(c.LensText, "contact lenses, in their own labelled cases"), 2, "one pair a wearer, never shared; clean hands, no powder in the room when they go in")
	}
	thing("tool", "brushes", "glue brushes, one for each adhesive", math.Max(2, float64(len(pieces))), "a brush of one glue spoils the next")
	thing("tool", "swabs", "cotton swabs", 12*uses, "rims, and remover under them")
	thing("care", "cream", "cleanser, rinse and a plain cream", 1, "after removal")
	thing("card", "first-aid", "first aid card", 1, "what to do at once, and who is rung")
	slices.SortStableFunc(b.list, func(x, y Item) int {
		return cmp.Compare(slices.Index(kinds, x.Kind), slices.Index(kinds, y.Kind))
	})
	for i := range b.list {
		if it := &b.list[i]; it.Unit == "g" && it.Need > 0 {
			it.Need = math.Max(leastG, math.Ceil(it.Need*10)/10)
		}
	}
	return b.list
}

// onTheFace says whether a layer goes on at the chair, as the order of work has it.
func onTheFace(p Piece, l section.Layer) bool {
	return slices.ContainsFunc(p.Result.Steps, func(s section.Step) bool { return s.Where == "chair" && slices.Contains(s.Layers, l.ID) })
}

// glues are a piece's adhesives with what is carried for touching up, and what takes each off.
func (b *basket) glues(p Piece, uses float64, last Lasting, shelf material.Shelf) {
	for _, g := range p.Glues(shelf) {
		need := fit.NeedOf(p.spread(g))
		touch := last.touchG(p.Code).Adhesive
		b.put(Item{Key: "adhesive:" + g.Product.Slug, Kind: "adhesive", Slug: g.Product.Slug, Name: g.Product.Name, Unit: "g", Need: need.Grams*uses + touch,
			Why: fmt.Sprintf("both faces of %s and its rim, with what is carried for touching up", p.Code)})
	}
	for _, w := range p.worn(shelf) {
		slug := w.slug
		if slug == "" {
			continue
		}
		ml := 0.08*w.AreaCM2 + 0.4*w.AreaCM2*w.FoamMM/10
		b.put(Item{Key: "remover:" + slug, Kind: "remover", Slug: slug, Name: shelf[slug].Name, Unit: "g", Need: ml * uses * math.Max(0.7, shelf[slug].Density), Why: "takes off what holds " + p.Code})
	}
}

// blood is by its wound: area, depth and takes.
func (b *basket) blood(p Piece, l section.Layer, grams float64, d Day, shelf material.Shelf) {
	takes := float64(max(1, d.Takes))
	why := fmt.Sprintf("wound of %s", p.Code)
	if d.Takes > 1 {
		grams *= 1 + (takes-1)*0.5 // half of it is renewed for another take; ours
		why = fmt.Sprintf("wound of %s, %d takes", p.Code, d.Takes)
	}
	b.put(Item{Key: "blood:" + l.Material, Kind: "blood", Slug: l.Material, Name: shelf[l.Material].Name, Need: grams, Unit: "g", Why: why})
}

// solvent melts the edge of a film.
func (b *basket) solvent(p Piece, l section.Layer, uses float64, shelf material.Shelf) {
	of := shelf[l.Material]
	if of.Solvent == "" {
		return
	}
	rim := p.RimCM
	if rim == 0 {
		rim = 2 * math.Sqrt(math.Pi*p.AreaCM2)
	}
	key := "solvent:" + of.Solvent
	before := 0.0
	if n, there := b.at[key]; there {
		before = b.list[n].Need
	}
	b.put(Item{Key: key, Kind: "solvent", Name: of.Solvent + " for the edges", Unit: "ml", Need: math.Min(solventMost-before, math.Ceil(rim*solventMLcm*uses)),
		Why: fmt.Sprintf("melts the rim of %s, which is %s", p.Code, of.Name)})
}

// colours share what is carried for touching up; what is laid on at the chair comes on top.
func (b *basket) colours(colours []Colour, last Lasting, uses float64, shelf material.Shelf) {
	if len(colours) == 0 {
		return
	}
	each := last.Kit.Colour / float64(len(colours)) * uses
	for _, c := range colours {
		key := "colour:" + c.Slug + ":" + c.Name
		b.put(Item{Key: key, Kind: "colour", Slug: c.Slug, Name: c.Name, Need: each, Unit: "g", Why: c.Medium + " for touching up"})
	}
	if !slices.ContainsFunc(b.list, func(i Item) bool { return i.Kind == "powder" }) && last.Kit.Powder > 0 {
		b.put(Item{Key: "powder:powder-translucent", Kind: "powder", Slug: "powder-translucent", Name: shelf["powder-translucent"].Name, Need: last.Kit.Powder * uses, Unit: "g", Why: "for touching up"})
	}
}

// cover is what brows and hair under pieces are guarded and covered with.
func (b *basket) cover(c Choices, pieces []Piece, uses float64, shelf material.Shelf) {
	for _, p := range pieces {
		for _, h := range p.Hair {
			name := cmp.Or(h.Text, "hair")
			b.put(Item{Key: "guard:" + h.Mark, Kind: "guard", Name: cmp.Or(h.By, "guard") + " for " + name, Unit: "pcs", Need: 1, Why: "hair caught in glue or latex cannot be freed"})
		}
	}
	if r, known := RoutineOf(c.Brow); known {
		for _, slug := range r.Takes {
			if p, there := shelf[slug]; there {
				b.put(Item{Key: "guard:" + slug, Kind: "guard", Slug: slug, Name: p.Name, Need: 3 * uses, Unit: "g", Why: r.Text})
			}
		}
	}
	b.put(Item{Key: "guard:pins", Kind: "guard", Name: "hair pins and a band", Unit: "pcs", Need: 1, Why: "loose strands end under the edge"})
}
