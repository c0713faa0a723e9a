package web

import (
	"context"
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/platform/problem"
)

// BecauseHeader carries, percent-encoded, why somebody goes on with an act that
// something speaks against.
const BecauseHeader = "Because"

// longestReason is how long a reason may be, in characters.
const longestReason = 300

type becauseKey struct{}

// Because is the reason that came with the act; empty when none was given.
func Because(ctx context.Context) string {
	words, _ := ctx.Value(becauseKey{}).(string)
	return words
}

// WithBecause gives an act a reason that came another way than with a request.
func WithBecause(ctx context.Context, reason string) context.Context {
	return context.WithValue(ctx, becauseKey{}, strings.TrimSpace(reason))
}

// because reads the reason of an act.
func because(c *gin.Context) {
	raw := c.GetHeader(BecauseHeader)
	if raw == "" {
		return
	}
	reason, err := url.PathUnescape(raw)
	if err != nil || !utf8.ValidString(reason) || refusal.Control(reason) {
		refuse(c, problem.Invalid(refusal.NotText, "because", "There is a character in the reason that cannot be written. Type it again."))
		return
	}
	if utf8.RuneCountInString(reason) > longestReason {
		refuse(c, problem.Invalid(refusal.OutOfRange, "because", "The reason may have at most %d characters.", longestReason))
		return
	}
	c.Request = c.Request.WithContext(WithBecause(c.Request.Context(), reason))
}
