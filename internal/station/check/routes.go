package check

import (
	"context"
	"mime/multipart"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/finish/compare"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/web"
)

// Numbered names a fault or a proposal.
type Numbered struct {
	ID uint64 `path:"id" maximum:"9007199254740991"`
}

// Register puts the checking bench's operations on the API.
func Register(api huma.API, s *Service) {
	web.Post(api, "/api/copies/{code}/verdict", "Accept, repair, keep for less or scrap a copy", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body NewVerdict
	}) (Outcome, error) {
		return s.Judge(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/copies/{code}/verdict/back", "Take a verdict back, while the copy is in no kit", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Reason string `json:"reason" maxLength:"300"`
		}
	}) (Outcome, error) {
		return s.TakeBack(ctx, in.Code, in.Body.Reason)
	})
	web.Get(api, "/api/copies/{code}/beside", "A copy's pictures, and what they can be laid over", web.Makers,
		func(ctx context.Context, in *web.Coded) (Beside, error) { return s.Beside(ctx, in.Code) })
	web.Put(api, "/api/pictures/{sha}/about", "Set landmarks, card and scale of a picture", web.Makers, func(ctx context.Context, in *struct {
		SHA  string `path:"sha" minLength:"64" maxLength:"64"`
		Body About
	}) (About, error) {
		return s.Describe(ctx, in.SHA, in.Body)
	})
	web.Post(api, "/api/copies/{code}/compare", "Lay a copy's picture over another and measure what differs", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Ask
	}) (Measured, error) {
		return s.Compare(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/copies/{code}/trials", "What is tried, felt and measured on a copy", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]Trial, error) { return s.Trials(ctx, in.Code) })
	web.Post(api, "/api/copies/{code}/trials", "Write down what was tried", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewTest
	}) ([]Trial, error) {
		return s.Try(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/yields", "How copies came out, by material and by mould", web.Makers,
		func(ctx context.Context, _ *struct{}) ([]Yielded, error) { return s.Yields(ctx) })
	web.Get(api, "/api/samples", "How many copies of many to look at", web.Makers, func(_ context.Context, in *struct {
		Copies     int     `query:"copies" minimum:"1" maximum:"100000" required:"true"`
		BadShare   float64 `query:"bad_share" minimum:"0.0001" maximum:"1" default:"0.1"`
		Confidence float64 `query:"confidence" minimum:"0.5" maximum:"0.9999" default:"0.95"`
	}) (compare.Sampled, error) {
		return compare.Sample(in.Copies, in.BadShare, in.Confidence), nil
	})
	registerFaults(api, s)
}

func registerFaults(api huma.API, s *Service) {
	web.Get(api, "/api/copies/{code}/faults", "Faults that were seen on a copy", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]Fault, error) { return s.Faults(ctx, in.Code) })
	web.Get(api, "/api/copies/{code}/fault-kinds", "Faults that this copy's material can show", web.Makers,
		func(ctx context.Context, in *web.Coded) ([]Kind, error) { return s.KindsFor(ctx, in.Code) })
	web.Post(api, "/api/copies/{code}/faults", "Write down a fault", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewFault
	}) (Traced, error) {
		return s.See(ctx, in.Code, in.Body)
	})
	web.Get(api, "/api/faults/{id}", "A fault with its causes ranked from the record", web.Makers,
		func(ctx context.Context, in *Numbered) (Traced, error) { return s.Trace(ctx, in.ID) })
	web.Post(api, "/api/faults/{id}/answers", "Say what a look showed", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body Answer
	}) (Traced, error) {
		return s.Answer(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/faults/{id}/cause", "Say what it was", web.Skilled, func(ctx context.Context, in *struct {
		Numbered
		Body Said
	}) (Traced, error) {
		return s.Say(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/faults/{id}/remedy", "Say what is done about it", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body Remedied
	}) (Traced, error) {
		return s.Remedy(ctx, in.ID, in.Body)
	})
	web.Post(api, "/api/faults/{id}/proposals", "Carry what to change to where it is changed", web.Makers, func(ctx context.Context, in *struct {
		Numbered
		Body NewProposal
	}) (Traced, error) {
		return s.Propose(ctx, in.ID, in.Body)
	})
	web.Get(api, "/api/fault-proposals", "What faults propose to a recipe, a section or a mould", web.Makers, func(ctx context.Context, in *struct {
		To   string `query:"to" enum:"recipe,mould" doc:"left out: whatever else is asked about a piece"`
		Code string `query:"code" maxLength:"64" required:"true" doc:"of the recipe, the mould or the piece"`
	}) ([]Proposal, error) {
		return s.Proposals(ctx, in.To, in.Code)
	})
	web.Post(api, "/api/fault-proposals/{id}/settle", "Agree or decline a proposal", web.Skilled, func(ctx context.Context, in *struct {
		Numbered
		Body Settled
	}) ([]Proposal, error) {
		return s.Settle(ctx, in.ID, in.Body)
	})
}

// Serve puts the pictures' upload on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPost, "/api/copies/:code/pictures", "Photograph a copy from a side", web.Makers, func(c *gin.Context) error {
		return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
			return s.Photograph(c.Request.Context(), c.Param("code"), Taken{View: c.PostForm("view"), Light: c.PostForm("light"), Note: c.PostForm("note")}, body)
		})
	})
}
