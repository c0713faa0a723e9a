package stores

import (
	"context"
	"io"
	"mime/multipart"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/craft/trace"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/files"
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
	return s.reached(ctx, from, direction, false)
}

// reached follows what went into what; with contact also what only touched it.
func (s *Service) reached(ctx context.Context, from trace.Node, direction string, contact bool) (map[string][]string, error) {
	edges, err := s.edges(ctx, from, direction)
	if err != nil {
		return nil, err
	}
	return trace.Reached(edges, from, direction, contact)
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
	registerMoves(api, s)
	registerKept(api, s)
	registerLists(api, s)
	registerRecalls(api, s)
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
		Contact   bool   `query:"contact" doc:"also what only touched it: a mould of its rubber or stone, and what was cast there"`
	}) (map[string][]string, error) {
		return s.reached(ctx, trace.Node{Kind: in.Kind, Code: in.Code}, in.Direction, in.Contact)
	})
}

// registerMoves puts what happens to lots on the API.
func registerMoves(api huma.API, s *Service) {
	web.Post(api, "/api/lots/{code}/take-out", "Write off what was lost, given as a sample or disposed of", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body TakenOut
	}) ([]Lot, error) {
		return s.TakeOut(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/lots/{code}/decant", "Fill a part of a lot into a vessel of its own", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Decanted
	}) ([]Lot, error) {
		return s.Decant(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/lots/{code}/join", "Pour what was decanted back to its lot", web.Makers, func(ctx context.Context, in *web.Coded) ([]Lot, error) { return s.Join(ctx, in.Code) })
	web.Get(api, "/api/kits/{code}/lots", "The lots that go with a kit, with what its copies take", web.Makers, func(ctx context.Context, in *web.Coded) ([]KitLot, error) { return s.KitLots(ctx, in.Code) })
	web.Post(api, "/api/kits/{code}/lots", "Draw what goes with a kit from its lot", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body KitTaken
	}) ([]KitLot, error) {
		return s.TakeForKit(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/materials", "Put a product of the shop's own on the shelf", web.Skilled, func(ctx context.Context, in *struct{ Body NewProduct }) (material.Product, error) {
		return s.AddProduct(ctx, in.Body)
	})
	web.Put(api, "/api/materials/{slug}", "Change what the shop knows of a product, with where it is from", web.Skilled, func(ctx context.Context, in *struct {
		Slug string `path:"slug" maxLength:"64"`
		Body Facts
	}) (material.Product, error) {
		return s.Change(ctx, in.Slug, in.Body)
	})
}

// registerLists puts deliveries, lists and the outlook on the API.
func registerLists(api huma.API, s *Service) {
	web.Get(api, "/api/receipts", "The newest deliveries", web.Makers, func(ctx context.Context, _ *struct{}) ([]Receipt, error) { return s.Receipts(ctx) })
	web.Post(api, "/api/receipts", "Take a delivery of several lines in", web.Skilled, func(ctx context.Context, in *struct{ Body Delivery }) (Receipt, error) {
		return s.Deliver(ctx, in.Body)
	})
	web.Post(api, "/api/receipts/{code}/undo", "Take a delivery back that nothing was used of", web.Skilled, func(ctx context.Context, in *web.Coded) (Receipt, error) { return s.Undo(ctx, in.Code) })
	web.Post(api, "/api/lists/read", "What a stock or price list would do; nothing is done", web.Skilled, func(ctx context.Context, in *struct{ Body List }) (Preview, error) { return s.Read(ctx, in.Body) })
	web.Post(api, "/api/lists/prices", "Take the prices of a list that was read and agreed", web.Skilled, func(ctx context.Context, in *struct {
		Body struct {
			Prices []NewPrice `json:"prices" minItems:"1" maxItems:"5000"`
			Which  string     `json:"which" minLength:"1" maxLength:"160" doc:"which list, of which date"`
		}
	}) (Priced, error) {
		n, err := s.SetPrices(ctx, in.Body.Prices, in.Body.Which)
		return Priced{n}, err
	})
	web.Get(api, "/api/stock", "How the stock stands over the weeks to come: reserved, projected, to be ordered, worth", web.Makers, func(ctx context.Context, _ *struct{}) (Outlook, error) { return s.Outlook(ctx) })
	web.Post(api, "/api/stock/can-make", "What can still be made from what is here", web.Makers, func(ctx context.Context, in *struct{ Body CanMake }) (Makeable, error) { return s.Can(ctx, in.Body) })
}

// Priced is how many prices were taken.
type Priced struct {
	Prices int `json:"prices"`
}

// registerRecalls puts recalls on the API.
func registerRecalls(api huma.API, s *Service) {
	web.Get(api, "/api/recalls", "Every recall, open ones first", web.Makers, func(ctx context.Context, _ *struct{}) ([]Recall, error) { return s.Recalls(ctx) })
	web.Get(api, "/api/recalls/{code}", "A recall with everything that its lot touched and who was told", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Contact bool `query:"contact" doc:"also what only touched it"`
	}) (Recall, error) {
		return s.recall(ctx, in.Code, in.Contact)
	})
	web.Post(api, "/api/recalls", "Call a lot back", web.Skilled, func(ctx context.Context, in *struct {
		Body struct {
			Lot    string `json:"lot" maxLength:"32"`
			Reason string `json:"reason" maxLength:"200"`
		}
	}) (Recall, error) {
		return s.CallBack(ctx, in.Body.Lot, in.Body.Reason)
	})
	web.Post(api, "/api/recalls/{code}/told", "Note that an artist knows of a recall, and what they answered", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Kit    string `json:"kit" maxLength:"16"`
			Answer string `json:"answer" maxLength:"300"`
		}
	}) (Recall, error) {
		return s.Told(ctx, in.Code, in.Body.Kit, in.Body.Answer)
	})
	web.Post(api, "/api/recalls/{code}/end", "Close a recall whose letters are all answered", web.Skilled, func(ctx context.Context, in *web.Coded) (Recall, error) { return s.EndRecall(ctx, in.Code) })
}

// registerKept puts the files that are kept with lots, products and recipes on the API.
func registerKept(api huma.API, s *Service) {
	web.Get(api, "/api/kept-files", "What is kept with a lot, a product or a recipe: labels, sheets, swatches", web.Makers,
		func(ctx context.Context, in *KeptWith) ([]KeptFile, error) { return s.KeptFiles(ctx, *in) })
	web.Delete(api, "/api/kept-files/{id}", "Take a file away from what it was kept with", web.Makers,
		func(ctx context.Context, in *struct {
			KeptWith
			ID uint64 `path:"id"`
		}) ([]KeptFile, error) {
			return s.LetGo(ctx, in.KeptWith, in.ID)
		})
}

// Serve puts the papers of the stores on the engine, and takes in what is kept with them.
func (s *Service) Serve(e *web.Engine) {
	e.Handle(http.MethodPost, "/api/kept-files", "Keep a picture or a PDF with a lot, a product or a recipe", web.Makers,
		func(c *gin.Context) error {
			return web.Uploaded(c, files.MaxBytes, func(body multipart.File) (any, error) {
				return s.KeepFile(c.Request.Context(), KeptWith{Of: c.PostForm("of"), Code: c.PostForm("code")}, c.PostForm("what"),
					c.PostForm("words"), body)
			})
		})
	e.Handle(http.MethodGet, "/api/recalls/:code/letters.pdf", "A letter for every artist who has something of a recalled lot", web.Makers, func(c *gin.Context) error {
		return web.PDF(c, c.Param("code")+"-letters.pdf", func(w io.Writer) error { return s.WriteLetters(c.Request.Context(), w, c.Param("code")) })
	})
	e.Handle(http.MethodGet, "/api/stock/labels.pdf", "Shelf labels in sheets", web.Makers, func(c *gin.Context) error {
		codes := strings.FieldsFunc(c.Query("lots"), func(r rune) bool { return r == ',' })
		return web.PDF(c, "shelf-labels.pdf", func(w io.Writer) error { return s.WriteLabels(c.Request.Context(), w, codes) })
	})
	e.Handle(http.MethodGet, "/api/stock/count-list.pdf", "The shelf to count by, on paper", web.Makers, func(c *gin.Context) error {
		return web.PDF(c, "count-list.pdf", func(w io.Writer) error { return s.WriteCountList(c.Request.Context(), w) })
	})
}
