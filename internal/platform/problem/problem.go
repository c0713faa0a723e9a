// Package problem is how the server says no: an RFC 9457 problem answer with
// the code and the field that the interface puts its message at.
package problem

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/refusal"
)

// Problem is the answer to a request that could not be done. It is an error,
// so services return it and the HTTP layer passes it on unchanged.
type Problem struct {
	Type   string `json:"type,omitempty"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail" doc:"what is wrong, what was kept and what to do"`
	Code   string `json:"code" doc:"stable word for programs"`
	Field  string `json:"field,omitempty" doc:"path of the input at fault"`
	// Data carries what the interface needs to help: both versions of a
	// conflict, or the findings that hold something back.
	Data any `json:"data,omitempty"`
}

// Error implements error.
func (p *Problem) Error() string { return p.Detail }

// GetStatus implements huma.StatusError.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType makes answers application/problem+json.
func (p *Problem) ContentType(string) string { return "application/problem+json" }

// New makes a problem.
func New(status int, code, field, format string, args ...any) *Problem {
	return &Problem{Title: http.StatusText(status), Status: status, Code: code, Field: field, Detail: fmt.Sprintf(format, args...)}
}

// Invalid is a 422 at a field.
func Invalid(code, field, format string, args ...any) *Problem {
	return New(http.StatusUnprocessableEntity, code, field, format, args...)
}

// Conflict is a 409: somebody or something else was first.
func Conflict(code, format string, args ...any) *Problem {
	return New(http.StatusConflict, code, "", format, args...)
}

// NotFound is a 404 for a thing with a code.
func NotFound(what, code string) *Problem {
	return New(http.StatusNotFound, "not_found", "", "There is no %s %s.", what, code)
}

// IsNotFound says whether err is that a thing is not there.
func IsNotFound(err error) bool {
	var p *Problem
	return errors.As(err, &p) && p.Status == http.StatusNotFound
}

// From turns any error into what the client may see: problems and refusals of
// the craft as they are, a database that is away and a full disk as such,
// anything else as a plain 500 whose cause is only logged.
func From(err error) error {
	var p *Problem
	if err == nil || errors.As(err, &p) {
		return err
	}
	var r *refusal.Error
	if errors.As(err, &r) {
		return Invalid(r.Code, r.Field, "%s", r.Error())
	}
	if p := trouble(err); p != nil {
		return p
	}
	return err
}

// Install makes huma's own answers (validation, wrong method, panics) problems
// of this shape too.
func Install() {
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		for _, err := range errs {
			var ours *Problem
			if errors.As(err, &ours) {
				return ours
			}
		}
		p := New(status, "", "", "%s", msg)
		switch status {
		case http.StatusUnprocessableEntity, http.StatusBadRequest:
			p.Code = "invalid"
		case http.StatusNotFound:
			p.Code = "not_found"
		case http.StatusInternalServerError:
			p.Code, p.Detail = "failed", "Something went wrong on our side. What was recorded before is kept; try again."
		default:
			p.Code = "refused"
		}
		for _, err := range errs {
			var d *huma.ErrorDetail
			if errors.As(err, &d) && p.Field == "" {
				p.Field, p.Detail = trimBody(d.Location), plain(d.Message)
			}
		}
		return p
	}
}

// phrases turn the validator's words into the shop's.
var phrases = []struct{ from, to string }{
	{"expected string to be RFC 3339 date", "Choose the day, or write it as 2026-01-23."},
	{"expected string to be RFC 4122 uuid", "The request has no proper key; reload the page and try again."},
	{"expected number >= ", "At least "},
	{"expected number <= ", "At most "},
	{"expected length <= ", "Too long: at most this many characters: "},
	{"expected length >= ", "Too short: at least this many characters: "},
	{"expected value to be one of ", "Choose one of "},
	{"expected required property ", "This is missing: "},
	{"expected number", "Write a number."},
	{"expected integer", "Write a whole number."},
}

func plain(message string) string {
	for _, p := range phrases {
		if rest, ok := strings.CutPrefix(message, p.from); ok {
			rest = strings.Trim(strings.TrimSuffix(rest, " to be present"), `"`)
			if rest != "" && !strings.HasSuffix(p.to, ".") {
				return p.to + rest + "."
			}
			return strings.TrimSpace(p.to)
		}
	}
	return message
}

func trimBody(path string) string {
	for _, where := range []string{"body.", "query.", "path."} {
		if rest, ok := strings.CutPrefix(path, where); ok {
			return rest
		}
	}
	return path
}
