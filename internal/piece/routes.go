package piece

import (
	"context"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/production"
	"yewmoor/internal/round"
	"yewmoor/internal/shelf"
)

// View is a piece with everything around it.
type View struct {
	Piece
	Days       []production.Day `json:"days" doc:"all shooting days of the production"`
	DayIDs     []uint64         `json:"day_ids" doc:"those on which it is worn"`
	References []Reference      `json:"references"`
	Journal    []journal.Row    `json:"journal"`
}

// View reads a piece with everything around it.
func (s *Service) View(ctx context.Context, code string) (View, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return View{}, err
	}
	v := View{Piece: p}
	if v.Days, err = s.Productions.Days(ctx, s.DB, p.ProductionID); err != nil {
		return v, err
	}
	if v.DayIDs, err = s.DaysOf(ctx, s.DB, p.ID); err != nil {
		return v, err
	}
	if v.References, err = s.References(ctx, p.ID); err != nil {
		return v, err
	}
	v.Journal, err = journal.OfPiece(ctx, s.DB, p.ID)
	return v, err
}

// NewNote is a step as it is noted.
type NewNote struct {
	Words     string  `json:"words" maxLength:"1000"`
	Key       string  `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
	Completes uint64  `json:"completes,omitempty"`
	AgoS      float64 `json:"ago_s,omitempty" minimum:"0" maximum:"86400" doc:"seconds since it was entered, when it had to wait"`
}

// Note adds a step to the log of a piece, or completes an earlier one.
func (s *Service) Note(ctx context.Context, code string, n NewNote) error {
	words := strings.TrimSpace(n.Words)
	if words == "" {
		return problem.Invalid("missing", "words", "Write a word or two of what was done.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		e := journal.Entry{At: s.Clock.Now().Add(-time.Duration(n.AgoS * float64(time.Second))), Piece: p.ID, Kind: "piece", Code: code, Act: journal.Step, Words: words, Key: n.Key}
		if n.Completes != 0 {
			var known int
			if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM journal WHERE id = ? AND piece_id = ?`, n.Completes, p.ID); err != nil {
				return err
			}
			if known == 0 {
				return problem.Invalid("unknown_value", "completes", "That step does not belong to %s.", code)
			}
			e.Act, e.Refines = journal.StepCompleted, n.Completes
		}
		_, err = journal.Add(ctx, tx, e)
		return err
	})
	if database.IsDuplicate(err) {
		return nil // the same note sent again after a lost answer
	}
	if err == nil {
		s.Live.Tell(ctx, "journal", code)
	}
	return err
}

// Register puts the piece's operations on the API.
func Register(api huma.API, s *Service) {
	var all web.Shared[[]Piece]
	web.Get(api, "/api/pieces", "Every piece in work, as the round shows them", web.Makers, func(ctx context.Context, _ *struct{}) ([]Piece, error) {
		return all.Get(ctx, s.Live.State(s.Clock.Now()), func(ctx context.Context) ([]Piece, error) { return All(ctx, s.DB) })
	})
	web.Post(api, "/api/pieces", "Begin a piece", web.Skilled, func(ctx context.Context, in *struct{ Body NewPiece }) (Piece, error) { return s.Create(ctx, in.Body) })
	web.Get(api, "/api/pieces/{code}", "A piece with its days, references and log", web.Makers, func(ctx context.Context, in *web.Coded) (View, error) { return s.View(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/away", "Put a piece away, or bring it back", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Away bool `json:"away"`
		}
	}) (View, error) {
		return s.PutAway(ctx, in.Code, in.Body.Away)
	})
	web.Post(api, "/api/pieces/{code}/place", "Move a piece to a place of the round", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Place string `json:"place" enum:"brief,form,sculpt,mould,mix,build,colour,finish,check,handover"`
		}
	}) (View, error) {
		err := s.DB.InTx(ctx, func(tx database.Tx) error {
			p, err := Find(ctx, tx, in.Code)
			if err != nil {
				return err
			}
			if err := round.Move(ctx, tx, p.ID, round.Place(in.Body.Place)); err != nil {
				return err
			}
			_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: in.Code, Act: "moved", Words: "to " + in.Body.Place})
			return err
		})
		if err != nil {
			return View{}, err
		}
		s.Live.Tell(ctx, "pieces", in.Code)
		return s.View(ctx, in.Code)
	})
	web.Put(api, "/api/pieces/{code}/days", "Say on which days a piece is worn", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			DayIDs []uint64 `json:"day_ids"`
		}
	}) (View, error) {
		if err := s.SetDays(ctx, in.Code, in.Body.DayIDs); err != nil {
			return View{}, err
		}
		return s.View(ctx, in.Code)
	})
	web.Post(api, "/api/pieces/{code}/notes", "Note what was just done, or complete an earlier note", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body NewNote
	}) (View, error) {
		if err := s.Note(ctx, in.Code, in.Body); err != nil {
			return View{}, err
		}
		return s.View(ctx, in.Code)
	})
	web.Put(api, "/api/pieces/{code}", "Put right what a piece was begun with", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body Correction
	}) (View, error) {
		return s.Correct(ctx, in.Code, in.Body)
	})
	registerDocuments(api, s)
	web.Get(api, "/api/regions", "The list of body regions", web.Makers, func(context.Context, *struct{}) ([]region.Region, error) { return region.All, nil })
	web.Get(api, "/api/rules", "The rule book in plain words", web.Makers, func(context.Context, *struct{}) ([]rules.Rule, error) { return rules.Book, nil })
	web.Get(api, "/api/rules/overrides", "Which rules are overridden on agreed sections and briefs", web.Makers, func(ctx context.Context, _ *struct{}) ([]Overridden, error) { return s.Overrides(ctx) })
	web.Get(api, "/api/layer-kinds", "The kinds of layer in the order in which they usually lie", web.Makers, func(context.Context, *struct{}) ([]section.KindFacts, error) { return section.Kinds, nil })
	web.Get(api, "/api/methods", "The house methods that a section can be begun from", web.Makers, func(context.Context, *struct{}) ([]section.Method, error) { return section.Methods, nil })
	web.Get(api, "/api/materials", "Every material of the shop", web.Makers, func(ctx context.Context, _ *struct{}) ([]material.Product, error) {
		materials, err := shelf.Load(ctx, s.DB)
		if err != nil {
			return nil, err
		}
		var slugs []string
		if err := s.DB.SelectContext(ctx, &slugs, `SELECT slug FROM material ORDER BY family, name`); err != nil {
			return nil, err
		}
		list := make([]material.Product, 0, len(slugs))
		for _, slug := range slugs {
			list = append(list, materials[slug])
		}
		return list, nil
	})
}

func registerDocuments(api huma.API, s *Service) {
	web.Get(api, "/api/pieces/{code}/section", "The section with what follows from it", web.Makers, func(ctx context.Context, in *web.Coded) (SectionView, error) { return s.Section(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/section/work", "What would follow from a section, without saving it", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body section.Section
	}) (Consequence, error) {
		p, err := Find(ctx, s.DB, in.Code)
		if err != nil {
			return Consequence{}, err
		}
		return s.Work(ctx, s.DB, p, in.Body)
	})
	web.Put(api, "/api/pieces/{code}/section", "Save a step of one's draft of the section", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body document.DraftOf[section.Section]
	}) (SectionView, error) {
		return s.SaveSection(ctx, in.Code, in.Body.Doc, in.Body.Base, in.Body.Step)
	})
	web.Post(api, "/api/pieces/{code}/section/begin", "Begin one's draft of the section from a house method, another piece or a file", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body Beginning
	}) (SectionView, error) {
		return s.BeginSection(ctx, in.Code, in.Body)
	})
	web.Post(api, "/api/pieces/{code}/section/swap", "What goes wrong if two neighbouring layers of a section change places", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Doc section.Section `json:"doc"`
			Cut int             `json:"cut" minimum:"0" doc:"0 for the first"`
			At  int             `json:"at" minimum:"1" doc:"the lower of the two"`
		}
	}) ([]rules.Finding, error) {
		return s.Swapped(ctx, in.Code, in.Body.Doc, in.Body.Cut, in.Body.At)
	})
	web.Get(api, "/api/pieces/{code}/section/versions", "Every state of a section: drafts, agreed versions, what was built", web.Makers, func(ctx context.Context, in *web.Coded) ([]SectionVersion, error) {
		return s.SectionVersions(ctx, in.Code)
	})
	web.Get(api, "/api/pieces/{code}/section/differences", "What changed between two states of a section, and what it means for what is made", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		From string `query:"from" maxLength:"60"`
		To   string `query:"to" maxLength:"60"`
	}) (SectionDifference, error) {
		return s.Differences(ctx, in.Code, in.From, in.To)
	})
	web.Get(api, "/api/pieces/{code}/section/file", "The section as a file", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Key string `query:"key" maxLength:"60" doc:"which state of it; what one sees when left out"`
	}) (SectionFile, error) {
		return s.WriteSectionFile(ctx, in.Code, in.Key)
	})
	web.Post(api, "/api/pieces/{code}/section/built", "Write down what a copy was really built as, from one's draft", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Copy   string `json:"copy" maxLength:"24"`
			Reason string `json:"reason" maxLength:"300"`
		}
	}) ([]SectionVersion, error) {
		return s.RecordBuilt(ctx, in.Code, in.Body.Copy, in.Body.Reason)
	})
	web.Post(api, "/api/pieces/{code}/section/undo", "Go a step back in one's draft", web.Makers, func(ctx context.Context, in *web.Coded) (SectionView, error) { return s.WalkSection(ctx, in.Code, -1) })
	web.Post(api, "/api/pieces/{code}/section/redo", "Go a step forward again", web.Makers, func(ctx context.Context, in *web.Coded) (SectionView, error) { return s.WalkSection(ctx, in.Code, +1) })
	web.Delete(api, "/api/pieces/{code}/section/draft", "Throw one's draft away", web.Makers, func(ctx context.Context, in *web.Coded) (SectionView, error) { return s.DropSection(ctx, in.Code) })
	web.Post(api, "/api/pieces/{code}/section/carry", "Keep one's draft over a version that somebody agreed meanwhile", web.Makers, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Latest int `json:"latest" doc:"the version that was seen"`
		}
	}) (SectionView, error) {
		return s.CarrySection(ctx, in.Code, in.Body.Latest)
	})
	web.Post(api, "/api/pieces/{code}/section/agree", "Make one's draft the next version", web.Skilled, func(ctx context.Context, in *struct {
		web.Coded
		Body struct {
			Signed []document.Signature `json:"signed,omitempty"`
		}
	}) (SectionView, error) {
		return s.AgreeSection(ctx, in.Code, in.Body.Signed)
	})
}
