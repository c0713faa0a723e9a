package problem

import (
	"errors"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/refusal"
)

func TestEveryNoHasACodeAFieldAndASentence(t *testing.T) {
	Install()
	var p *Problem
	require.ErrorAs(t, From(refusal.New(refusal.OutOfRange, "layers[1].coats", "Between 1 and %d coats.", 40)), &p)
	assert.Equal(t, []any{422, "out_of_range", "layers[1].coats", "Between 1 and 40 coats."}, []any{p.Status, p.Code, p.Field, p.Detail})
	for from, to := range map[string]string{
		"expected string to be RFC 3339 date":           "Choose the day, or write it as 2026-01-23.",
		"expected number >= 1":                          "At least 1.",
		"expected required property name to be present": "This is missing: name.",
		"expected number":                               "Write a number.",
	} {
		require.ErrorAs(t, huma.NewError(422, "validation failed", &huma.ErrorDetail{Location: "body.day", Message: from}), &p)
		assert.Equal(t, to, p.Detail)
		assert.Equal(t, "day", p.Field)
	}
	require.ErrorAs(t, huma.NewError(500, "the database said so and so"), &p)
	assert.NotContains(t, p.Detail, "database", "what went wrong inside stays inside")
	ours := Conflict("short", "No lot covers it.")
	assert.Same(t, ours, huma.NewError(409, "x", ours).(*Problem))
	plainErr := errors.New("x")
	assert.Equal(t, plainErr, From(plainErr))
}
