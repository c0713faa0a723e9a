package stores

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/craft/trace"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shelf"
)

// LotView is a lot with its ledger and where it went.
type LotView struct {
	Parts     []Lot               `json:"parts"`
	Movements []Movement          `json:"movements"`
	WentInto  map[string][]string `json:"went_into" doc:"mixes, copies and kits by kind"`
	Journal   []journal.Row       `json:"journal"`
}

// Lot reads one lot with everything around it.
func (s *Service) Lot(ctx context.Context, code string) (LotView, error) {
	var v LotView
	var err error
	if v.Parts, err = s.lots(ctx, s.DB, `WHERE l.code = ?`, code); err != nil {
		return v, err
	}
	if len(v.Parts) == 0 {
		return v, problem.NotFound("lot", code)
	}
	if v.Movements, err = s.movements(ctx, code); err != nil {
		return v, err
	}
	if v.WentInto, err = s.Trace(ctx, trace.Node{Kind: "lot", Code: code}, trace.Forward); err != nil {
		return v, err
	}
	v.Journal, err = journal.Of(ctx, s.DB, "lot", code)
	return v, err
}

// Trace follows what went into what, from one thing in one direction.
func (s *Service) Trace(ctx context.Context, from trace.Node, direction string) (map[string][]string, error) {
	edges, err := s.edges(ctx, from, direction)
	if err != nil {
		return nil, err
	}
	return trace.Reached(edges, from, direction, false)
}

// Register puts the operations of the stores on the API.
func Register(api huma.API, s *Service) {
	var shelves web.Shared[[]Lot]
	web.Get(api, "/api/lots", "The lots with what is on hand, or those that are used up", web.Makers, func(ctx context.Context, in *struct {
		UsedUp bool `query:"used_up" doc:"the newest that are used up, instead"`
	}) ([]Lot, error) {
		if in.UsedUp {
			return s.lots(ctx, s.DB, `JOIN (SELECT id FROM lot WHERE used_up_at IS NOT NULL ORDER BY used_up_at DESC LIMIT 300) u ON u.id = l.id`)
		}
		return shelves.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) ([]Lot, error) { return s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`) })
	})
	web.Get(api, "/api/lots/{code}", "A lot, its ledger and where it went", web.Makers, func(ctx context.Context, in *web.Coded) (LotView, error) { return s.Lot(ctx, in.Code) })
	web.Post(api, "/api/lots", "Take a delivery in", web.Skilled, func(ctx context.Context, in *struct{ Body NewLot }) ([]Lot, error) { return s.Receive(ctx, in.Body) })
	web.Put(api, "/api/lots/{code}", "Put right what was typed of a lot", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body LotCorrection
	}) ([]Lot, error) {
		return s.Correct(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/lots/{code}/count", "Set what is on hand by a count", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Part   string `json:"part" enum:",A,B"`
			Amount string `json:"amount"`
			Note   string `json:"note,omitempty" maxLength:"200"`
		}
	}) ([]Lot, error) {
		return s.Count(ctx, in.Code, in.Body.Part, in.Body.Amount, in.Body.Note)
	})
	web.Post(api, "/api/lots/{code}/status", "Hold a lot back or let it go", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Status string `json:"status" enum:"ok,quarantine,recalled"`
			Reason string `json:"reason" maxLength:"200"`
		}
	}) ([]Lot, error) {
		return s.SetStatus(ctx, in.Code, in.Body.Status, in.Body.Reason)
	})
	web.Get(api, "/api/substances", "What people may not take, and what products may hold: the usual list and the shop's own", web.Makers, func(ctx context.Context, _ *struct{}) (substance.List, error) { return shelf.Substances(ctx, s.DB) })
	web.Post(api, "/api/substances", "Add a substance to the shop's list", web.Skilled, func(ctx context.Context, in *struct{ Body NewSubstance }) (substance.List, error) {
		return s.AddSubstance(ctx, in.Body)
	})
	web.Post(api, "/api/materials/{slug}/contents", "Write down what a material's data sheet says of a substance", web.Skilled, func(ctx context.Context, in *struct {
		Slug string `path:"slug" maxLength:"64"`
		Body Stated
	}) (material.Product, error) {
		return s.State(ctx, in.Slug, in.Body)
	})
	web.Get(api, "/api/trace/{kind}/{code}", "What a thing went into, or was made from", web.Makers, func(ctx context.Context, in *struct {
		Kind      string `path:"kind" enum:"lot,mix,copy,kit,form,sculpt"`
		Code      string `path:"code"`
		Direction string `query:"direction" enum:"forward,backward" default:"forward"`
	}) (map[string][]string, error) {
		return s.Trace(ctx, trace.Node{Kind: in.Kind, Code: in.Code}, in.Direction)
	})
}
