package section

import (
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
)

// Room is the air a section is built in.
type Room struct {
	TempC float64 `json:"temp_c"`
	RH    float64 `json:"rh"`
}

// LayerResult is what follows for one band.
type LayerResult struct {
	ID       string  `json:"id"`
	CentreMM float64 `json:"centre_mm"`
	EdgeMM   float64 `json:"edge_mm"`
	MeanMM   float64 `json:"mean_mm" doc:"over the area of the piece"`
	MassG    float64 `json:"mass_g"`
	// For latex: one coat's recoat time and the whole layer's dry time, with
	// each coat dried first and as planned; closed form, band -30/+50 %.
	RecoatS float64 `json:"recoat_s,omitempty"`
	DryS    float64 `json:"dry_s,omitempty"`
	WetS    float64 `json:"wet_on_wet_s,omitempty" doc:"the layer's dry time when its coats are put on wet"`
}

// MaterialNeed is how much of a product one copy takes, as it is finished.
type MaterialNeed struct {
	Slug  string  `json:"slug"`
	Name  string  `json:"name"`
	Grams float64 `json:"grams"`
}

// Result is what follows from a section.
type Result struct {
	CentreMM  float64        `json:"centre_mm" doc:"of the piece itself, without what holds it on and what lies on top"`
	EdgeMM    float64        `json:"edge_mm"`
	WornG     float64        `json:"worn_g" doc:"everything above the skin"`
	WaitingS  float64        `json:"waiting_s" doc:"drying and curing, at the room given"`
	Layers    []LayerResult  `json:"layers"`
	Materials []MaterialNeed `json:"materials"`
	Family    string         `json:"family" doc:"the material that makes the body: its hatch"`
	Words     []string       `json:"words" doc:"the build-up in words, skin first"`
}

// bodyProfile falls from 1 at the centre to 0 at the edge without a step at
// either end, u being the distance from the centre over the half width.
func bodyProfile(u float64) float64 { return 1 - u*u*(3-2*u) }

// at is the layer's thickness at a distance from the centre.
func (l Layer) at(x, halfWidth, centre, edge float64) float64 {
	if l.Extent == CentreOnly && x > l.StopMM {
		return 0
	}
	if l.Kind != Silicone {
		return centre
	}
	span := halfWidth
	if l.Extent == CentreOnly {
		span = math.Max(l.StopMM, 1e-9)
	}
	return edge + (centre-edge)*bodyProfile(math.Min(1, x/span))
}

// mean is the thickness averaged over a round patch, ∫ t(x) 2x/W² dx by
// Simpson's rule, plus what lies on the skin outside the edge.
func (l Layer) mean(halfWidth, centre, edge float64) float64 {
	if l.Kind != Silicone {
		w := halfWidth
		switch l.Extent {
		case CentreOnly:
			w = l.StopMM
		case PastEdge:
			w += l.StopMM
		}
		return centre * (w / halfWidth) * (w / halfWidth)
	}
	const n = 200
	sum, h := 0.0, halfWidth/n
	for i := range n {
		a := float64(i) * h
		f := func(x float64) float64 { return l.at(x, halfWidth, centre, edge) * 2 * x / (halfWidth * halfWidth) }
		sum += h / 6 * (f(a) + 4*f(a+h/2) + f(a+h))
	}
	return sum
}

// Work computes what follows from a checked section in a room.
func (s Section) Work(shelf material.Shelf, room Room) Result {
	out := Result{Layers: []LayerResult{}, Materials: []MaterialNeed{}, Words: []string{"Skin."}}
	for _, l := range s.Layers {
		r := LayerResult{ID: l.ID}
		if l.Kind == Skin {
			out.Layers = append(out.Layers, r)
			continue
		}
		p := shelf[l.Material]
		r.CentreMM, r.EdgeMM = l.Thickness(shelf)
		r.MeanMM = l.mean(s.HalfWidthMM, r.CentreMM, r.EdgeMM)
		r.MassG = l.mass(s, shelf, r.MeanMM)
		if l.Kind == Latex {
			out.WaitingS += l.dry(shelf, room, &r)
		}
		if l.Kind == Silicone && p.Cure != nil {
			out.WaitingS += p.Cure.DemouldS
		}
		if l.Kind.IsAppliance() {
			out.CentreMM += r.CentreMM
			out.EdgeMM += r.EdgeMM
		}
		out.WornG += r.MassG
		out.add(p, r.MassG)
		out.Words = append(out.Words, l.words(p, r))
		out.Layers = append(out.Layers, r)
	}
	out.Family = string(s.Body(shelf))
	return out
}

// mass of a layer in g: cm² · mm/10 · g/cm³; the solids alone where fibre
// keeps air in.
func (l Layer) mass(s Section, shelf material.Shelf, meanMM float64) float64 {
	if l.Kind == Latex {
		centre, _ := l.Thickness(shelf)
		cover := meanMM / centre
		return l.Wet(shelf).DrySolidsKgM2() * float64(l.Coats) * s.AreaCM2 * cover / 10
	}
	return s.AreaCM2 * meanMM / 10 * shelf[l.Material].Density
}

// dry fills in a latex layer's drying times and returns the wait as planned.
func (l Layer) dry(shelf material.Shelf, room Room, r *LayerResult) float64 {
	place := drying.StillRoom(room.TempC, room.RH)
	coats := slices.Repeat([]drying.Layer{l.Wet(shelf)}, l.Coats)
	one, errOne := place.Latex(coats[:1], drying.EachDried)
	each, errEach := place.Latex(coats, drying.EachDried)
	wet, errWet := place.Latex(coats, drying.WetOnWet)
	if errOne != nil || errEach != nil || errWet != nil {
		return 0
	}
	r.RecoatS, r.DryS, r.WetS = one.RecoatS, each.DryS, wet.DryS
	if l.BetweenS != nil && *l.BetweenS < one.RecoatS && l.Coats > 1 {
		return math.Max(wet.DryS, each.DryS)
	}
	return each.DryS
}

func (r *Result) add(p material.Product, grams float64) {
	for i := range r.Materials {
		if r.Materials[i].Slug == p.Slug {
			r.Materials[i].Grams += grams
			return
		}
	}
	r.Materials = append(r.Materials, MaterialNeed{p.Slug, p.Name, grams})
}

// Body is the family that makes most of the piece: what its hatch shows.
func (s Section) Body(shelf material.Shelf) material.Family {
	best, family := -1.0, material.Family("")
	for _, l := range s.Layers {
		if !l.Kind.IsAppliance() {
			continue
		}
		if centre, _ := l.Thickness(shelf); centre > best {
			best, family = centre, shelf[l.Material].Family
		}
	}
	return family
}

func (l Layer) words(p material.Product, r LayerResult) string {
	var b strings.Builder
	b.WriteString(p.Name)
	if l.Coats > 1 {
		b.WriteString(", " + plural(l.Coats, "coat"))
	}
	b.WriteString(", " + millimetres(r.CentreMM))
	if l.Kind == Silicone {
		b.WriteString(" at the centre")
	}
	switch l.Extent {
	case CentreOnly:
		b.WriteString(", centre only")
	case PastEdge:
		b.WriteString(", runs " + millimetres(l.StopMM) + " on to the skin")
	default:
		if r.EdgeMM != r.CentreMM {
			b.WriteString(", " + millimetres(r.EdgeMM) + " at the edge")
		}
	}
	return b.String() + "."
}
