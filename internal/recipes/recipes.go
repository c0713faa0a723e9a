// Package recipes keeps the shop's house recipes: the built-in ones that every shop
// starts from, and over each of them the versions that the shop agreed. Mixing
// makes what stands here, and the stores ask what can be made of it.
package recipes

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Kind is what documents of recipes are called.
const Kind = "recipe"

// sheetOf is what a product's own sheet gives as a recipe: "sheet-" and its short name.
const sheetOf = "sheet-"

// Service keeps recipes.
type Service struct {
	DB        *database.DB
	Clock     clock.Clock
	Live      *live.Hub
	Documents *document.Service
}

func ref(slug string) document.Ref { return document.Ref{Kind: Kind, Name: slug} }

// Agreed is a recipe as the shop makes it: the newest agreed version, else the
// built-in one or what the product's sheet gives, which have number 0.
func Agreed(ctx context.Context, db database.Reader, slug string, materials material.Shelf) (recipe.Recipe, int, error) {
	v, known, err := document.At(ctx, db, ref(slug), 0)
	if err != nil {
		return recipe.Recipe{}, 0, err
	}
	if known {
		var r recipe.Recipe
		err := json.Unmarshal(v.Doc, &r)
		return r, v.Number, err
	}
	if r, known := builtIn(slug, materials); known {
		return r, 0, nil
	}
	return recipe.Recipe{}, 0, problem.Invalid("unknown_value", "recipe", "There is no recipe of this name.")
}

func builtIn(slug string, materials material.Shelf) (recipe.Recipe, bool) {
	if r, known := recipe.BuiltIn(slug); known {
		return r, true
	}
	if product, is := strings.CutPrefix(slug, sheetOf); is {
		if r, two := recipe.Sheet(materials[product]); two {
			return r, true
		}
		return recipe.AsItComes(materials[product])
	}
	return recipe.Recipe{}, false
}

// SheetOf is the short name of the recipe that a product's own sheet gives; of a body in
// one part it is the product as it comes, which stands in no list.
func SheetOf(product string) string { return sheetOf + product }

// All are the recipes that the shop can make, by group and name: agreed versions
// over the built-in ones, and the sheets of products in two parts.
func All(ctx context.Context, db database.Reader, materials material.Shelf) ([]Kept, error) {
	var rows []struct {
		Name   string
		Number int
		Doc    string
	}
	// A shop's recipes are some dozens: read by index document_of_shop and the newest version of each.
	err := db.SelectContext(ctx, &rows, `SELECT d.name, v.number, v.doc FROM document d JOIN document_version v ON v.document_id = d.id
		AND v.number = (SELECT MAX(w.number) FROM document_version w WHERE w.document_id = d.id) WHERE d.kind = ? AND d.name IS NOT NULL`, Kind)
	if err != nil {
		return nil, fmt.Errorf("reading the recipes: %w", err)
	}
	at := map[string]Kept{}
	for _, h := range recipe.Library() {
		at[h.Slug] = Kept{Slug: h.Slug, Recipe: h.Recipe}
	}
	for slug, p := range materials {
		if r, two := recipe.Sheet(p); two {
			at[SheetOf(slug)] = Kept{Slug: SheetOf(slug), Recipe: r}
		}
	}
	for _, row := range rows {
		k := Kept{Slug: row.Name, Number: row.Number}
		if err := json.Unmarshal([]byte(row.Doc), &k.Recipe); err != nil {
			return nil, fmt.Errorf("reading the recipe %s: %w", row.Name, err)
		}
		at[row.Name] = k
	}
	list := make([]Kept, 0, len(at))
	for _, k := range at {
		list = append(list, k)
	}
	slices.SortFunc(list, func(a, b Kept) int {
		if c := strings.Compare(a.Recipe.Group, b.Recipe.Group); c != 0 {
			return c
		}
		return strings.Compare(a.Recipe.Name+a.Slug, b.Recipe.Name+b.Slug)
	})
	return list, nil
}

// Kept is a recipe under its short name, with the number of the version that stands.
type Kept struct {
	Slug   string
	Number int
	Recipe recipe.Recipe
}

// Of are the recipes that make a material, the shop's own versions first, its
// product's sheet last.
func Of(list []Kept, makes string) []Kept {
	var out []Kept
	for _, k := range list {
		if k.Recipe.Makes == makes {
			out = append(out, k)
		}
	}
	rank := func(k Kept) int {
		switch {
		case k.Number > 0:
			return 0
		case strings.HasPrefix(k.Slug, sheetOf):
			return 2
		}
		return 1
	}
	slices.SortStableFunc(out, func(a, b Kept) int { return rank(a) - rank(b) })
	return out
}

// View is a recipe as the signed-in person sees it, with what follows from it.
type View struct {
	Slug    string         `json:"slug"`
	Doc     recipe.Recipe  `json:"doc"`
	State   document.State `json:"state"`
	BuiltIn bool           `json:"built_in" doc:"it stands as it came; nobody here agreed another"`
	Order   []recipe.Step  `json:"order" doc:"every step in order"`
	Follows recipe.Follows `json:"follows"`
	// Fault is why it cannot be agreed as it stands; nil where it can.
	Fault *Fault `json:"fault,omitempty"`
	// Differences to what is agreed, or to the built-in one.
	Differences []recipe.Difference `json:"differences"`
	Versions    []Version           `json:"versions"`
}

// Fault is what keeps a recipe from being agreed, at its field.
type Fault struct {
	Field  string `json:"field"`
	Detail string `json:"detail"`
}

// Version is an agreed version, with what changed in it.
type Version struct {
	Number  int                 `json:"number"`
	At      string              `json:"at"`
	By      string              `json:"by"`
	Why     string              `json:"why"`
	Changed []recipe.Difference `json:"changed"`
}

// View reads it.
func (s *Service) View(ctx context.Context, slug string) (View, error) {
	list, materials, err := shelf.Both(ctx, s.DB)
	if err != nil {
		return View{}, err
	}
	out := View{Slug: slug, Differences: []recipe.Difference{}, Versions: []Version{}}
	raw, st, err := document.Read(ctx, s.DB, ref(slug))
	if err != nil {
		return out, err
	}
	out.State = st
	base, hasBase := builtIn(slug, materials)
	switch {
	case raw != nil:
		if err := json.Unmarshal(raw, &out.Doc); err != nil {
			return out, err
		}
	case hasBase:
		out.Doc, out.BuiltIn = base, true
	default:
		return out, problem.NotFound("recipe", slug)
	}
	versions, err := document.Versions(ctx, s.DB, ref(slug), 30)
	if err != nil {
		return out, err
	}
	docs := make([]recipe.Recipe, len(versions))
	for i, v := range versions {
		if err := json.Unmarshal(v.Doc, &docs[i]); err != nil {
			return out, err
		}
	}
	for i, v := range versions {
		line := Version{Number: v.Number, At: v.AgreedAt.Format("2006-01-02 15:04"), By: v.By, Why: docs[i].Why, Changed: []recipe.Difference{}}
		switch {
		case i+1 < len(docs):
			line.Changed = recipe.Differences(docs[i+1], docs[i], materials)
		case hasBase:
			line.Changed = recipe.Differences(base, docs[i], materials)
		}
		out.Versions = append(out.Versions, line)
	}
	if st.Drafted {
		switch {
		case len(docs) > 0:
			out.Differences = recipe.Differences(docs[0], out.Doc, materials)
		case hasBase:
			out.Differences = recipe.Differences(base, out.Doc, materials)
		}
	}
	out.Order, out.Follows = out.Doc.Order(), out.Doc.Follow(list, materials)
	if err := out.Doc.Check(materials); err != nil {
		var no *refusal.Error
		if !errors.As(err, &no) {
			return out, err
		}
		out.Fault = &Fault{no.Field, no.Detail}
	}
	return out, nil
}

var notSlug = regexp.MustCompile(`[^a-z0-9]+`)

// New begins one's draft of a recipe of one's own: from another, or empty.
func (s *Service) New(ctx context.Context, name, from string) (View, error) {
	name = strings.TrimSpace(name)
	slug := strings.Trim(notSlug.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if slug == "" || len(slug) > 80 {
		return View{}, problem.Invalid("missing", "name", "Give the recipe a name, in letters.")
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return View{}, err
	}
	if _, taken := builtIn(slug, materials); taken {
		return View{}, problem.Invalid("taken", "name", "There is a recipe of this name.")
	}
	if raw, _, err := document.Read(ctx, s.DB, ref(slug)); err != nil {
		return View{}, err
	} else if raw != nil {
		return View{}, problem.Invalid("taken", "name", "There is a recipe of this name.")
	}
	doc := recipe.Recipe{Name: name, Group: "Own", Lines: []recipe.Line{}, Steps: []recipe.Step{}}
	if from != "" {
		if doc, _, err = Agreed(ctx, s.DB, from, materials); err != nil {
			return View{}, err
		}
		doc.Name, doc.Why = name, ""
	}
	return s.Save(ctx, slug, doc, 0, 0)
}

func (s *Service) act(ctx context.Context, slug string, act func(database.Tx) error) (View, error) {
	if err := s.DB.InTx(ctx, act); err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "recipes", slug)
	return s.View(ctx, slug)
}

// Save writes the person's next draft step. What cannot be made yet may be kept;
// it is only not agreed.
func (s *Service) Save(ctx context.Context, slug string, doc recipe.Recipe, base, step int) (View, error) {
	if doc.Lines == nil {
		doc.Lines = []recipe.Line{}
	}
	if doc.Steps == nil {
		doc.Steps = []recipe.Step{}
	}
	raw, err := json.Marshal(doc)
	if err != nil {
		return View{}, err
	}
	return s.act(ctx, slug, func(tx database.Tx) error { return s.Documents.Save(ctx, tx, ref(slug), raw, base, step) })
}

// Walk goes a step back or forward in one's draft.
func (s *Service) Walk(ctx context.Context, slug string, by int) (View, error) {
	return s.act(ctx, slug, func(tx database.Tx) error { return s.Documents.Walk(ctx, tx, ref(slug), by) })
}

// Carry keeps one's draft over a version that somebody agreed meanwhile.
func (s *Service) Carry(ctx context.Context, slug string, latest int) (View, error) {
	return s.act(ctx, slug, func(tx database.Tx) error { return s.Documents.Carry(ctx, tx, ref(slug), latest) })
}

// Drop throws one's draft away. Of a recipe that was never agreed nothing is left.
func (s *Service) Drop(ctx context.Context, slug string) (View, error) {
	return s.act(ctx, slug, func(tx database.Tx) error { return s.Documents.Drop(ctx, tx, ref(slug)) })
}

// Agree makes one's draft the version that is mixed by.
func (s *Service) Agree(ctx context.Context, slug, why string) (View, error) {
	why = strings.TrimSpace(why)
	if why == "" {
		return View{}, problem.Invalid("missing", "why", "Say why: what was wrong with the one before, or what it is for.")
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return View{}, err
	}
	return s.act(ctx, slug, func(tx database.Tx) error {
		// Why stands in the version itself, so that it is read with it.
		raw, st, err := document.Read(ctx, tx, ref(slug))
		if err != nil || !st.Drafted {
			if err == nil {
				err = problem.Conflict("no_draft", "There is nothing new to agree.")
			}
			return err
		}
		var doc recipe.Recipe
		if err := json.Unmarshal(raw, &doc); err != nil {
			return err
		}
		doc.Why = why
		if err := doc.Check(materials); err != nil {
			return err
		}
		if raw, err = json.Marshal(doc); err != nil {
			return err
		}
		if err := s.Documents.Save(ctx, tx, ref(slug), raw, st.Base, st.Step); err != nil {
			return err
		}
		if _, err := s.Documents.Agree(ctx, tx, ref(slug), slug, func(json.RawMessage, document.State) ([]document.Signature, error) { return nil, nil }); err != nil {
			return err
		}
		who, _ := accounts.From(ctx)
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: Kind, Code: slug, Act: "said why", Words: who.Name + ": " + why})
		return err
	})
}

// Carried takes a sentence that somebody agreed to change into a recipe, as its next
// version: a last look before it is poured. Where the person has a draft of it open, that
// comes first.
func (s *Service) Carried(ctx context.Context, tx database.Tx, slug, text, why string) error {
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	raw, st, err := document.Read(ctx, tx, ref(slug))
	if err != nil {
		return err
	}
	if st.Drafted {
		return problem.Conflict("drafted", "You have a draft of that recipe open: agree or drop it first. Nothing was changed.")
	}
	doc, known := builtIn(slug, materials)
	if raw != nil {
		if err := json.Unmarshal(raw, &doc); err != nil {
			return err
		}
	} else if !known {
		return problem.NotFound("recipe", slug)
	}
	doc.Steps = append(slices.Clone(doc.Steps), recipe.Step{Act: recipe.Test, Text: shortened(text, 200)})
	doc.Why = shortened(why, 300)
	if err := doc.Check(materials); err != nil {
		return err
	}
	if raw, err = json.Marshal(doc); err != nil {
		return err
	}
	if err := s.Documents.Save(ctx, tx, ref(slug), raw, st.Base, st.Step); err != nil {
		return err
	}
	if _, err := s.Documents.Agree(ctx, tx, ref(slug), slug, func(json.RawMessage, document.State) ([]document.Signature, error) { return nil, nil }); err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: Kind, Code: slug, Act: "changed after a fault", Words: text})
	return err
}

// shortened cuts text to n bytes at most, at a letter.
func shortened(text string, n int) string {
	if len(text) <= n {
		return text
	}
	cut := n - len("…")
	for cut > 0 && !utf8.RuneStart(text[cut]) {
		cut--
	}
	return text[:cut] + "…"
}
