package build

import (
	"context"
	"fmt"
	"math"
	"strings"
	"time"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
)

// Band is one layer of what a session builds, or one coat of it.
type Band struct {
	Seq    int    `json:"seq" doc:"its stage"`
	Layer  string `json:"layer"`
	Name   string `json:"name"`
	Family string `json:"family"`
	Fibre  string `json:"fibre,omitempty"`
	Coat   int    `json:"coat,omitempty"`
	Of     int    `json:"of,omitempty"`
	// Zones take this coat, where not all of the piece does.
	Zones []string `json:"zones"`
	State string   `json:"state" enum:"planned,wet,drying,dry,on" doc:"wet until it is touch-dry, drying until it is dry through; on of what dries in no model"`
	// HighMM is how thick it goes on, wet for a coat; 0 where that is not known.
	HighMM float64    `json:"high_mm"`
	OnAt   *time.Time `json:"on_at,omitempty"`
	By     string     `json:"by,omitempty"`
	From   []string   `json:"from" doc:"the mix or the lots that it was taken from"`
	Below  string     `json:"below,omitempty" doc:"what it was put on, as that stood then"`
	// Water is the share of its free water that is still in it, 0 to 1.
	Water   float64    `json:"water"`
	DryAt   *time.Time `json:"dry_at,omitempty"`
	BandS   float64    `json:"band_s,omitempty" doc:"half the band of that, s"`
	Trapped string     `json:"trapped,omitempty" doc:"why its water cannot leave"`
	dries   bool       // by the model of coats
}

// Buildup is the work sheet of a session: what it builds from the innermost out, with
// what is still in it.
type Buildup struct {
	On       string `json:"on" doc:"what it is built on"`
	OnFamily string `json:"on_family"`
	Drinks   bool   `json:"drinks,omitempty" doc:"it takes water up from below"`
	Bands    []Band `json:"bands"`
}

// Buildup tells how far a session is, band by band.
func (s *Service) Buildup(ctx context.Context, code string) (Buildup, error) {
	out := Buildup{Bands: []Band{}}
	r, err := s.Run(ctx, code)
	if err != nil {
		return out, err
	}
	p, err := piece.Find(ctx, s.DB, r.Piece)
	if err != nil {
		return out, err
	}
	doc, _, _, err := piece.SectionAt(ctx, s.DB, p, r.Section)
	if err != nil {
		return out, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	out.On, out.OnFamily = ground(doc)
	mixes := map[string][]string{}
	for _, m := range r.Mixes {
		mixes[m.Role] = append(mixes[m.Role], m.Code)
	}
	seen := map[string]bool{}
	for _, st := range r.Stages {
		if st.Layer == "" || st.Material == "" || st.Coat == 0 && seen[st.Layer] {
			continue // a wait or a hand's work at a layer that stands already
		}
		seen[st.Layer] = true
		out.Drinks = out.Drinks || st.Side == "plaster"
		out.Bands = append(out.Bands, bandOf(st, doc, materials, mixes[st.Layer]))
	}
	return out, s.fillWater(ctx, r, out.Bands)
}

// ground is what a section is built on, in words and by its family.
func ground(doc section.Section) (words, family string) {
	switch doc.MadeOn() {
	case section.OnSkin:
		return "skin", "skin"
	case section.InMould:
		if doc.Made.Of == "" || doc.Made.Of == "gypsum" {
			return "mould, gypsum", "gypsum"
		}
		return "mould, " + strings.ReplaceAll(doc.Made.Of, "_", " "), "barrier"
	}
	if doc.Made.Of == "gypsum" {
		return "form, gypsum", "gypsum"
	}
	return "form", "barrier"
}

func bandOf(st Stage, doc section.Section, materials material.Shelf, mixes []string) Band {
	b := Band{Seq: st.Seq, Layer: st.Layer, Name: materials[st.Material].Name, Family: string(materials[st.Material].Family),
		Coat: st.Coat, Of: st.Of,
		State: "planned", OnAt: st.DoneAt, By: st.By, From: append([]string{}, st.Lots...), Zones: []string{}}
	if len(mixes) > 0 {
		b.From = mixes
	}
	if st.DoneAt != nil {
		b.State = "on"
	}
	if st.Wet != nil {
		b.HighMM, b.dries = 1000*st.Wet.WetM, true
	}
	doc.All(func(c section.Cut, _ int, l section.Layer) {
		if l.ID != st.Layer {
			return
		}
		b.Fibre = materials[l.Fibre].Name
		if b.HighMM == 0 {
			b.HighMM, _ = l.Thickness(c, materials)
		}
		for i, n := range l.ZoneCoats {
			if n >= st.Coat && l.MostCoats() > 1 && i < len(c.Zones) {
				b.Zones = append(b.Zones, c.Zones[i].Name)
			}
		}
		if len(b.Zones) == len(c.Zones) {
			b.Zones = []string{}
		}
	})
	return b
}

// called is what a band is called among the others.
func (b Band) called() string {
	if b.Coat > 0 {
		return fmt.Sprintf("coat %d", b.Coat)
	}
	return "the " + strings.ToLower(b.Name)
}

// worthAWord is the share of its water from which a coat below is not dry.
const worthAWord = 0.02

// fillWater says of the coats of a session how much water each still holds, when it will
// be dry, what it was put on, and which of them is shut in.
func (s *Service) fillWater(ctx context.Context, r Run, bands []Band) error {
	var on []int // of the bands, the coats that stand in the stack
	under := -1
	for i, st := range r.Stages {
		if lifts(st.Act) && st.DoneAt != nil {
			under = -1
		}
		if st.DoneAt != nil && st.Wet != nil {
			under = i
		}
	}
	for i, b := range bands {
		if b.OnAt != nil && b.dries {
			on = append(on, i)
		}
	}
	if under < 0 || len(on) == 0 {
		return nil
	}
	row, err := s.potOfStage(ctx, s.DB, r.Stages[under].ID)
	if err != nil || row.ID == 0 || making.Wait(row.Kind) != making.Dry {
		return err
	}
	if row.EndedAt != nil { // what followed wanted it dry, or somebody took it as it was
		for _, i := range on {
			bands[i].State = "dry"
		}
		return nil
	}
	st, err := s.stand(ctx, s.DB, row)
	if err != nil {
		return err
	}
	if len(st.coats) > len(on) {
		return nil // a stack that began before these stages were kept
	}
	on = on[len(on)-len(st.coats):]
	shop, err := s.pace(ctx, s.DB, st.where(), row.Product)
	if err != nil {
		return err
	}
	sign, err := signOf(row)
	if err != nil {
		return err
	}
	asked := course{Coats: st.coats, Air: st.model.Air, Rooms: st.rooms, Times: ownTimes(shop, sign)}
	for _, c := range st.coats {
		asked.Report = append(asked.Report, c.AtS)
	}
	now := math.Max(st.minute(), st.coats[len(st.coats)-1].AtS)
	asked.Report = append(asked.Report, now)
	d, err := s.dried(asked)
	if err != nil {
		return err
	}
	low, high := bandOfDrying(shop, sign)
	for i, at := range on {
		b, times := &bands[at], d.Layers[i]
		b.Water, b.DryAt = d.Shares[len(st.coats)][i], st.at(times.DryS)
		switch {
		case times.DryS != nil && *times.DryS <= now:
			b.State = "dry"
		case times.TouchS != nil && *times.TouchS <= now:
			b.State = "drying"
		default:
			b.State = "wet"
		}
		if times.DryS != nil {
			b.BandS = math.Max(0, (high-low)/2*(*times.DryS-st.coats[i].AtS))
		}
		if i > 0 {
			b.Below = bands[on[i-1]].called() + " dry"
			if left := d.Shares[i][i-1]; left > worthAWord {
				b.Below = fmt.Sprintf("%s with %.0f %% of its water", bands[on[i-1]].called(), 100*left)
			}
		}
	}
	for i := 0; i+1 < len(on); i++ {
		below, above := d.Layers[i].DryS, d.Layers[i+1].DryS
		b := &bands[on[i]]
		if b.State != "dry" && below != nil && above != nil && *below-*above > 3600 {
			called := b.called()
			b.Trapped = fmt.Sprintf("%s still holds %.0f %% of its water under %s, and dries %s after it.",
				strings.ToUpper(called[:1])+called[1:], 100*b.Water, bands[on[i+1]].called(), duration(*below-*above))
		}
	}
	return nil
}
