package refusal

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatCannotBeReckonedWithOrWrittenIsFound(t *testing.T) {
	for doc, want := range map[string]string{
		`{"a": 1, "b": [0, -2.5, 1e-20]}`:         "",
		`{"diameter": [1e-320, 6]}`:               "diameter[0]",
		`{"layers": [{"depth": 3e38}]}`:           "layers[0].depth",
		`{"x": 1e999}`:                            "x",
		`{"z": 1e300, "a": {"b": -1e-200}}`:       "a.b",
		`{"seed": 18446744073709551615}`:          "",
		`{"rows": 4611686018427387929, "ok": 7 }`: "",
		`not json`:                             "",
		`{"name": "a\tb\nc", "n": "ü · 日"}`:    "",
		`{"name": "\u0000"}`:                   "name",
		`{"people": [{"name": "x\u001b[2J"}]}`: "people[0].name",
		`{"name": "\uffff"}`:                   "name",
	} {
		got := Unclean([]byte(doc))
		if want == "" {
			assert.Nil(t, got, doc)
		} else if assert.NotNil(t, got, doc) {
			assert.Equal(t, want, got.Field, doc)
		}
	}
}

func TestListsLongerThanTheirFieldsAllowAreRefused(t *testing.T) {
	type point struct{ X float64 }
	type layer struct {
		Names []string `json:"names" maxItems:"2"`
	}
	type Base struct {
		Points []point `json:"points" maxItems:"1"`
	}
	type doc struct {
		Base
		Layers []layer `json:"layers" maxItems:"3"`
		Free   []float64
		Paint  *layer `json:"paint,omitempty"`
	}
	require.NoError(t, TooMany(&doc{Layers: make([]layer, 3), Free: make([]float64, 5000)}))
	for field, d := range map[string]doc{
		"layers":          {Layers: make([]layer, 4)},
		"points":          {Base: Base{make([]point, 2)}},
		"layers[1].names": {Layers: []layer{{}, {make([]string, 3)}}},
		"paint.names":     {Paint: &layer{make([]string, 3)}},
	} {
		var refused *Error
		require.True(t, errors.As(TooMany(&d), &refused), field)
		assert.Equal(t, field, refused.Field)
		assert.Equal(t, OutOfRange, refused.Code)
	}
}
