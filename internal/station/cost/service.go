// Package cost is the money of the shop: what a piece is thought to cost and is offered for, what it cost so far and why that differs,
// and what was used for a look. Rates and prices are for leads only.
package cost

import (
	"context"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/web"
)

// StageWork is how long hands are at one kind of work on one copy.
type StageWork struct {
	Act     string
	Minutes float64
	Noted   int
}

// PieceWork is the work that a piece takes.
type PieceWork struct {
	Bar                        string
	Stages                     []StageWork
	Finish, Check, Pack, Mould StageWork
	InMould                    bool
	OvenH                      float64
	OvenTakes                  int
}

// Work tells how much work a piece is; wired to the plan, which goes by the same figures.
type Work interface {
	WorkOf(ctx context.Context, p piece.Piece) (PieceWork, error)
	// BeginFor is how many to begin so that so many are good; 0 where too little is known.
	BeginFor(ctx context.Context, p piece.Piece, good int) (begin int, chance float64, err error)
}

// Service does the use cases.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Pieces *piece.Service
	Work   Work
}

// Row is a piece of the overview.
type Row struct {
	Piece      string `json:"piece"`
	Name       string `json:"name"`
	Family     string `json:"family"`
	Production string `json:"production"`
	Bar        string `json:"bar"`
	Number     int    `json:"number" doc:"of the offer that was kept last; 0 for none"`
	Cost       int64  `json:"cost_minor"`
	Price      int64  `json:"price_minor"`
	Spent      int64  `json:"spent_minor"`
	ToGo       int64  `json:"to_go_minor"`
	Limit      int64  `json:"limit_minor"`
	Saved      int64  `json:"saved_minor"`
}

// Overview is every piece in work, with what each production comes to.
type Overview struct {
	Currency    string       `json:"currency"`
	Pieces      []Row        `json:"pieces"`
	Productions []Production `json:"productions"`
}

// Production is what a production comes to.
type Production struct {
	Name  string `json:"name"`
	Price int64  `json:"price_minor"`
	Spent int64  `json:"spent_minor"`
	ToGo  int64  `json:"to_go_minor"`
	Kits  int64  `json:"kits_minor" doc:"what was drawn for its kits"`
	Saved int64  `json:"saved_minor"`
}

// Overview reads the accounts of every piece in work.
func (s *Service) Overview(ctx context.Context) (Overview, error) {
	terms, err := s.Terms(ctx)
	if err != nil {
		return Overview{}, err
	}
	out := Overview{Currency: terms.Currency, Pieces: []Row{}, Productions: []Production{}}
	var pieces []struct{ Code, Production string }
	if err := s.DB.SelectContext(ctx, &pieces, "SELECT q.code, r.name AS production FROM piece q JOIN `character` h ON h.id = q.character_id JOIN production r ON r.id = h.production_id WHERE q.put_away_at IS NULL ORDER BY r.name, q.code"); err != nil {
		return out, err
	}
	for _, row := range pieces {
		p, err := piece.Find(ctx, s.DB, row.Code)
		if err != nil {
			return out, err
		}
		a, err := s.account(ctx, p, terms)
		if err != nil {
			return out, err
		}
		out.Pieces = append(
			out.Pieces,
			Row{
				Piece:      p.Code,
				Name:       p.Name,
				Family:     p.Family,
				Production: row.Production,
				Bar:        a.Offer.Bar,
				Number:     a.Offer.Number,
				Cost:       a.Offer.Cost,
				Price:      a.Offer.Price,
				Spent:      a.Spent,
				ToGo:       a.ToGo,
				Limit:      a.Limit,
				Saved:      a.Saved,
			},
		)
		n := len(out.Productions)
		if n == 0 || out.Productions[n-1].Name != row.Production {
			out.Productions = append(out.Productions, Production{Name: row.Production})
			n++
		}
		t := &out.Productions[n-1]
		t.Price, t.Spent, t.ToGo, t.Saved = t.Price+a.Offer.Price, t.Spent+a.Spent, t.ToGo+a.ToGo, t.Saved+a.Saved
	}
	for i := range out.Productions {
		if err := s.DB.GetContext(ctx, &out.Productions[i].Kits, `SELECT COALESCE(-SUM(v.value_minor), 0) FROM movement v WHERE v.kit_id IN
			(SELECT kd.kit_id FROM kit_day kd JOIN shooting_day d ON d.id = kd.day_id JOIN production r ON r.id = d.production_id WHERE r.name = ?)`, out.Productions[i].Name); err != nil {
			return out, err
		}
	}
	return out, nil
}

type byCode struct {
	Code string `path:"code" maxLength:"24"`
}

// Register puts the money on the API; it is for leads.
func Register(api huma.API, s *Service) {
	web.Get(
		api,
		"/api/cost",
		"What every piece in work costs, was offered for and may cost",
		web.Leads,
		func(ctx context.Context, _ *struct{}) (Overview, error) { return s.Overview(ctx) },
	)
	web.Get(
		api,
		"/api/cost/terms",
		"Currency, rates, overhead and margin",
		web.Leads,
		func(ctx context.Context, _ *struct{}) (TermsView, error) { return s.Terms(ctx) },
	)
	web.Put(
		api,
		"/api/cost/terms",
		"Set currency, rates, overhead and margin",
		web.Leads,
		func(ctx context.Context, in *struct{ Body Terms }) (TermsView, error) {
			return s.SetTerms(ctx, in.Body)
		},
	)
	web.Get(
		api,
		"/api/cost/pieces/{code}",
		"What a piece cost so far beside its offer, and why that differs",
		web.Leads,
		func(ctx context.Context, in *byCode) (Account, error) { return s.AccountOf(ctx, in.Code) },
	)
	web.Get(
		api,
		"/api/cost/pieces/{code}/estimate",
		"What a piece would cost, worked out now",
		web.Leads,
		func(ctx context.Context, in *byCode) (Offer, error) { return s.Estimate(ctx, in.Code) },
	)
	web.Post(
		api,
		"/api/cost/pieces/{code}/offer",
		"Keep the estimate of a piece as its offer",
		web.Leads,
		func(ctx context.Context, in *byCode) (Account, error) { return s.Keep(ctx, in.Code) },
	)
	web.Get(
		api,
		"/api/characters/{code}/used",
		"What was used for a look: products, suppliers, what was bought and found, credits",
		web.Makers,
		func(ctx context.Context, in *byCode) (UsedList, error) { return s.UsedFor(ctx, in.Code) },
	)
}

// Serve puts the printed offer and the list of what was used on the engine.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/cost/pieces/:code/offer.pdf", "The offer of a piece that was kept last, to print", web.Leads, func(c *gin.Context) error {
		return web.PDF(c, "offer.pdf", func(w io.Writer) error { return s.Write(c.Request.Context(), w, c.Param("code")) })
	})
	e.Handle(http.MethodGet, "/api/characters/:code/used.csv", "What was used for a look, as a table", web.Makers, func(c *gin.Context) error {
		return web.Saved(c, "used.csv", web.CSV, func(w io.Writer) error { return s.WriteUsed(c.Request.Context(), w, c.Param("code")) })
	})
}
