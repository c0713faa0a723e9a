package shop

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/web"
)

// registerRecord puts the record of the whole shop on the API: who did what,
// when, from which device.
func (s *Shop) registerRecord(api huma.API) {
	web.Get(api, "/api/record", "The shop's record, newest first, a page at a time", web.Leads, func(ctx context.Context, in *struct {
		Person uint64 `query:"person" doc:"only of this person"`
		Kind   string `query:"kind" maxLength:"16" doc:"only of this kind of thing"`
		Words  string `query:"words" maxLength:"80" doc:"in code, act or words"`
		Day    string `query:"day" maxLength:"10" doc:"only of this day, 2026-01-12"`
		Before uint64 `query:"before" doc:"older than the entry with this id"`
	}) (journal.Page, error) {
		return journal.Find(ctx, s.DB, journal.Filter{Person: in.Person, Kind: in.Kind, Words: in.Words, Day: in.Day, Before: in.Before})
	})
}
