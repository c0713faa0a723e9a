package people

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/platform/accounts"
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
		Body NewFact
	}) (Performer, error) {
		return s.RecordHealth(ctx, in.ID, in.Body)
	})
	web.Delete(api, "/api/performers/{id}/health/{fact}", "Erase a sensitivity for good", web.Leads, func(ctx context.Context, in *struct {
		web.ByID
		Fact uint64 `path:"fact"`
	}) (Performer, error) {
		return s.EraseHealth(ctx, in.ID, in.Fact)
	})
	web.Put(api, "/api/performers/{id}/age", "What is needed of a performer under age", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body NewMinority
	}) (Performer, error) {
		return s.SetMinority(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/performers/{id}/patch-tests", "Put a patch test on, or record one of before", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body NewPatch
	}) (Performer, error) {
		return s.RecordPatch(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/performers/{id}/patch-tests/{test}/reading", "Read a patch test", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Test uint64 `path:"test"`
		Body NewReading
	}) (Performer, error) {
		return s.ReadPatch(ctx, in.ID, in.Test, in.Body)
	})
	web.Post(api, "/api/performers/{id}/patch-tests/{test}/correction", "Put a patch test right", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Test uint64 `path:"test"`
		Body PatchCorrection
	}) (Performer, error) {
		return s.CorrectPatch(ctx, in.ID, in.Test, in.Body)
	})
	web.Get(api, "/api/me/sensitivities", "What whoever asks may not take themselves", web.Makers, func(ctx context.Context, _ *struct{}) ([]HealthFact, error) { return s.Own(ctx) })
	web.Post(api, "/api/me/sensitivities", "Record what I may not take myself", web.Makers, func(ctx context.Context, in *struct{ Body NewFact }) ([]HealthFact, error) {
		who, _ := accounts.From(ctx)
		return s.RecordFact(ctx, Owner{"person", who.ID}, in.Body)
	})
	web.Delete(api, "/api/me/sensitivities/{fact}", "Erase what I may not take", web.Makers, func(ctx context.Context, in *struct {
		Fact uint64 `path:"fact"`
	}) ([]HealthFact, error) {
		who, _ := accounts.From(ctx)
		return s.EraseFact(ctx, Owner{"person", who.ID}, in.Fact)
	})
	web.Get(api, "/api/artists/{id}/sensitivities", "What an artist may not take", web.Skilled, func(ctx context.Context, in *web.ByID) ([]HealthFact, error) {
		return s.Sensitivities(ctx, Owner{"contact", in.ID})
	})
	web.Post(api, "/api/artists/{id}/sensitivities", "Record what an artist may not take", web.Skilled, func(ctx context.Context, in *struct {
		web.ByID
		Body NewFact
	}) ([]HealthFact, error) {
		return s.RecordFact(ctx, Owner{"contact", in.ID}, in.Body)
	})
	web.Delete(api, "/api/artists/{id}/sensitivities/{fact}", "Erase what an artist may not take", web.Leads, func(ctx context.Context, in *struct {
		web.ByID
		Fact uint64 `path:"fact"`
	}) ([]HealthFact, error) {
		return s.EraseFact(ctx, Owner{"contact", in.ID}, in.Fact)
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
	web.Get(api, "/api/workshop", "Whom of the workshop to ring from a set", web.Makers, func(ctx context.Context, _ *struct{}) ([]Contact, error) { return s.Contacts(ctx, Workshop) })
	web.Put(api, "/api/contacts", "How somebody of the address book is rung", web.Skilled, func(ctx context.Context, in *struct {
		Body struct {
			Name  string `json:"name" maxLength:"120"`
			What  string `json:"what" enum:"makeup artist,workshop"`
			Phone string `json:"phone" maxLength:"40"`
		}
	}) ([]Contact, error) {
		return s.SetPhone(ctx, in.Body.Name, in.Body.What, in.Body.Phone)
	})
}
