// Package web is the server's HTTP side: the engine with its middleware, typed
// operations with who may call them, live streams, metrics and the built
// interface. It knows nothing of the craft.
package web

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"path"
	"reflect"
	"slices"
	"strings"
	"unicode"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Access says who may call an operation. There is no default: an operation
// without one does not start.
type Access []accounts.Role

// Who may do what. Everyone includes callers without a session; operations of
// the makeup artist's page check the link themselves.
var (
	Everyone = Access{"everyone"}
	Makers   = Access{accounts.Lead, accounts.Fabricator, accounts.Apprentice}
	Skilled  = Access{accounts.Lead, accounts.Fabricator}
	Leads    = Access{accounts.Lead}
)

const accessKey = "access"

func (a Access) open() bool { return len(a) == 1 && a[0] == "everyone" }

// NewAPI puts the typed operations on the engine, with the document at
// /api/openapi.json.
func NewAPI(engine *Engine, version string) huma.API {
	problem.Install()
	huma.DefaultArrayNullable = false // lists are never null, only empty
	config := huma.DefaultConfig("Yewmoor", version)
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath, config.SchemasPath = "", ""
	config.CreateHooks = nil
	config.Formats = map[string]huma.Format{"application/json": jsonFormat, "json": jsonFormat}
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	api := humagin.New(engine.Engine, config)
	api.UseMiddleware(guard(api))
	return api
}

// schemaName names a schema after package and type, since brief.Input and
// mix.Input are two things.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice || t.Kind() == reflect.Array {
		t = t.Elem()
	}
	pkg := path.Base(t.PkgPath())
	if pkg == "." || pkg == "" {
		return name
	}
	prefix := upper(pkg)
	if strings.Contains(t.PkgPath(), "/craft/") {
		prefix = "Craft" + prefix // craft/mix and station/mix are two things
	}
	if strings.EqualFold(prefix, name) {
		return name
	}
	return prefix + name
}

func upper(s string) string {
	r := []rune(s)
	r[0] = unicode.ToUpper(r[0])
	return string(r)
}

func guard(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		access, _ := ctx.Operation().Metadata[accessKey].(Access)
		if access.open() {
			next(ctx)
			return
		}
		if p := mayCall(ctx.Context(), access); p != nil {
			_ = huma.WriteErr(api, ctx, p.Status, p.Detail, p)
			return
		}
		next(ctx)
	}
}

func mayCall(ctx context.Context, access Access) *problem.Problem {
	who, ok := accounts.From(ctx)
	if !ok {
		return problem.New(http.StatusUnauthorized, "sign_in", "", "Please sign in.")
	}
	for _, r := range access {
		if r == who.Role {
			return nil
		}
	}
	return problem.New(http.StatusForbidden, "not_yours", "", "This is for %s. Nothing was changed.", access.words())
}

func (a Access) words() string {
	if len(a) == 1 {
		return "a lead"
	}
	return "a lead or a fabricator"
}

// Table is the rule as the last four columns of a table: lead, fabricator,
// apprentice, anybody.
func (a Access) Table() string {
	marks := []string{"", "", "", ""}
	for i, r := range []accounts.Role{accounts.Lead, accounts.Fabricator, accounts.Apprentice, "everyone"} {
		if slices.Contains(a, r) || a.open() {
			marks[i] = "yes"
		}
	}
	return strings.Join(marks, " | ")
}

type answer[O any] struct{ Body O }

func register[I, O any](api huma.API, method, route, summary string, access Access, do func(context.Context, *I) (O, error)) {
	tag := strings.SplitN(strings.TrimPrefix(route, "/api/"), "/", 2)[0]
	op := huma.Operation{
		OperationID: huma.GenerateOperationID(method, route, (*struct{})(nil)), Method: method, Path: route, Summary: summary,
		Tags: []string{tag}, Metadata: map[string]any{accessKey: access},
		Extensions: map[string]any{"x-access": access}, MaxBodyBytes: maxBody,
		Errors: []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict, http.StatusUnprocessableEntity},
	}
	op.OperationID = strings.Trim(op.OperationID, "-")
	huma.Register(api, op, func(ctx context.Context, in *I) (*answer[O], error) {
		if p := unworkable(reflect.ValueOf(in).Elem()); p != nil {
			return nil, p
		}
		ctx, kept := database.Watching(ctx)
		out, err := do(ctx, in)
		if p := refused(ctx, err, kept(), op.OperationID); p != nil {
			return nil, p
		}
		filled := &answer[O]{out}
		noNilLists(reflect.ValueOf(filled).Elem())
		return filled, nil
	})
}

// refused is what the client sees of err; nil when there is none.
func refused(ctx context.Context, err error, kept bool, what string) *problem.Problem {
	if err = problem.From(err); err == nil {
		return nil
	}
	var p *problem.Problem
	switch {
	case errors.As(err, &p):
	case errors.Is(err, context.Canceled) && ctx.Err() != nil:
		// Whoever asked has gone on: nobody reads this, and nothing went wrong.
		p = problem.New(499, "gone", "", "The question was taken back.")
	default:
		slog.ErrorContext(ctx, "failed", "what", what, "error", err)
		p = problem.New(http.StatusInternalServerError, "failed", "", "Something went wrong on our side. What was recorded before is kept; try again.")
	}
	if kept && p.Status >= http.StatusInternalServerError {
		return problem.Kept()
	}
	return p
}

// Get registers a reading operation.
func Get[I, O any](api huma.API, route, summary string, access Access, do func(context.Context, *I) (O, error)) {
	register(api, http.MethodGet, route, summary, access, do)
}

// Post registers an act.
func Post[I, O any](api huma.API, route, summary string, access Access, do func(context.Context, *I) (O, error)) {
	register(api, http.MethodPost, route, summary, access, do)
}

// Put registers a replacement.
func Put[I, O any](api huma.API, route, summary string, access Access, do func(context.Context, *I) (O, error)) {
	register(api, http.MethodPut, route, summary, access, do)
}

// Delete registers a removal.
func Delete[I, O any](api huma.API, route, summary string, access Access, do func(context.Context, *I) (O, error)) {
	register(api, http.MethodDelete, route, summary, access, do)
}

// Done is the answer of an act with nothing to say.
type Done struct {
	OK bool `json:"ok"`
}

// Engine is the gin engine with a list of its plain handlers: who may call
// what can then be told in one table.
type Engine struct {
	*gin.Engine
	Plains []Plain
	// Metrics answers with the figures of a monitor.
	Metrics http.Handler
}

// Plain is a handler that is not JSON in and out: an upload, a download, a
// stream.
type Plain struct {
	Method, Path, Summary string
	Access                Access
}

// Handle registers a plain handler, guarded the same way as an operation.
func (e *Engine) Handle(method, path, summary string, access Access, do func(c *gin.Context) error) {
	e.Plains = append(e.Plains, Plain{method, path, summary, access})
	e.Engine.Handle(method, path, guarded(access, do))
}

// AccessOf is the rule of an operation; none is nil.
func AccessOf(op *huma.Operation) Access {
	access, _ := op.Metadata[accessKey].(Access)
	return access
}

func guarded(access Access, do func(c *gin.Context) error) gin.HandlerFunc {
	return func(c *gin.Context) {
		if !access.open() {
			if p := mayCall(c.Request.Context(), access); p != nil {
				c.JSON(p.Status, p)
				return
			}
		}
		ctx, kept := database.Watching(c.Request.Context())
		c.Request = c.Request.WithContext(ctx)
		err := do(c)
		if p := refused(ctx, err, kept(), c.FullPath()); p != nil && !c.Writer.Written() {
			c.Header("Content-Type", p.ContentType(""))
			c.JSON(p.Status, p)
		}
	}
}

// Open is the metadata of an operation for everyone that is registered with
// huma itself, because it sets a cookie.
var Open = map[string]any{accessKey: Everyone}
