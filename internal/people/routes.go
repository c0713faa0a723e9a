package people

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/platform/web"
)

// Register puts the operations on people on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/performers/{id}", "A performer with what is known of their skin; that it was seen is recorded", web.Skilled, func(ctx context.Context, in *web.ByID) (Performer, error) { return s.SeePerformer(ctx, in.ID) })
	web.Put(api, "/api/performers/{id}", "What a performer excludes and keeps", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			ExcludesAnimal bool   `json:"excludes_animal"`
			Keeps          string `json:"keeps" maxLength:"200"`
		}
	}) (Performer, error) {
		return s.SetPerformer(ctx, in.ID, in.Body.ExcludesAnimal, in.Body.Keeps)
	})
	web.Post(api, "/api/performers/{id}/health", "Record a sensitivity", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body struct {
			Substance string `json:"substance" maxLength:"64"`
			Status    string `json:"status" enum:"allergic,sensitive,clear"`
			Note      string `json:"note,omitempty" maxLength:"500"`
		}
	}) (Performer, error) {
		return s.RecordHealth(ctx, in.ID, in.Body.Substance, in.Body.Status, in.Body.Note)
	})
	web.Delete(api, "/api/performers/{id}/health/{fact}", "Erase a sensitivity for good", web.Leads, func(ctx context.Context, in *struct {
		web.ByID
		Fact uint64 `path:"fact"`
	}) (Performer, error) {
		return s.EraseHealth(ctx, in.ID, in.Fact)
	})
	web.Post(api, "/api/performers/{id}/patch-tests", "Record a patch test", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body NewPatch
	}) (Performer, error) {
		return s.RecordPatch(ctx, in.ID, in.Body)
	})
	web.Put(api, "/api/performers/{id}/limits", "Record what a performer can bear", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body Limit
	}) (Performer, error) {
		return s.SetLimit(ctx, in.ID, in.Body)
	})
	web.Delete(api, "/api/performers/{id}/limits/{kind}", "Erase a limit for good", web.Leads, func(ctx context.Context, in *struct {
		web.ByID
		Kind string `path:"kind"`
	}) (Performer, error) {
		return s.EraseLimit(ctx, in.ID, in.Kind)
	})
	web.Post(api, "/api/performers/{id}/consents", "Write down what a performer agreed to", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body NewConsent
	}) (Performer, error) {
		return s.GiveConsent(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/performers/{id}/consents/{fact}/withdrawal", "A performer takes a consent back", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Fact uint64 `path:"fact"`
	}) (Performer, error) {
		return s.WithdrawConsent(ctx, in.ID, in.Fact)
	})
	web.Get(api, "/api/artists", "The makeup artists of the address book", web.Makers, func(ctx context.Context, _ *struct{}) ([]Contact, error) {
		return s.Contacts(ctx, MakeupArtist)
	})
}
