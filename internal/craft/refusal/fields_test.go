package refusal

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func object(t *testing.T, text string) *Fields {
	f, err := Object(json.RawMessage(text))
	require.Nil(t, err, text)
	return f
}

func TestOnlyAnObjectIsRead(t *testing.T) {
	for _, text := range []string{"", "7", "[]", `"x"`, "null", "{"} {
		_, err := Object(json.RawMessage(text))
		require.NotNil(t, err, text)
		assert.Equal(t, NotAnObject, err.Code)
	}
}

func TestNumbersAreReadWithinTheirBounds(t *testing.T) {
	for text, want := range map[string]string{
		`{"x": 3}`: "", `{}`: "", `{"x": null}`: "", `{"x": "3"}`: NotANumber, `{"x": true}`: NotANumber, `{"x": 0.5}`: OutOfRange, `{"x": 11}`: OutOfRange, `{"x": 1e300}`: OutOfRange,
	} {
		f := object(t, text)
		x := f.Number("x", 2, 1, 10)
		if want == "" {
			assert.Nil(t, f.Err(), text)
			assert.Contains(t, []float64{2, 3}, x)
			continue
		}
		require.NotNil(t, f.Err(), text)
		assert.Equal(t, want, f.Err().Code, text)
		assert.Equal(t, "x", f.Err().Field)
		assert.Equal(t, 2.0, x, "what is at fault counts as not given")
	}
	f := object(t, `{}`)
	f.Required("x", 1, 10)
	assert.Equal(t, Missing, f.Err().Code)
}

func TestTheFirstFaultSticks(t *testing.T) {
	f := object(t, `{"a": "no", "b": 99, "c": "blue"}`)
	f.Number("a", 0, 0, 1)
	f.Number("b", 0, 0, 1)
	f.Word("c", "", "red", "green")
	assert.Equal(t, "a", f.Err().Field, "in reading order")
}

func TestWordsAreOnesThatAreKnown(t *testing.T) {
	assert.Equal(t, "red", object(t, `{"c":"red"}`).Word("c", "", "red", "green"))
	assert.Equal(t, "green", object(t, `{}`).Word("c", "green", "red", "green"))
	for text, want := range map[string]string{`{}`: Missing, `{"c":"blue"}`: UnknownValue, `{"c":7}`: UnknownValue} {
		f := object(t, text)
		f.Word("c", "", "red", "green")
		require.NotNil(t, f.Err(), text)
		assert.Equal(t, want, f.Err().Code)
	}
}

func TestAChildsFaultNamesItsWholePath(t *testing.T) {
	f := object(t, `{"mould": {"wall_mm": -3}, "flat": 7}`)
	child := f.Child("mould")
	require.NotNil(t, child)
	child.Number("wall_mm", 1, 0, 100)
	f.Adopt(child)
	require.NotNil(t, f.Err())
	assert.Equal(t, "mould.wall_mm", f.Err().Field)
	assert.Nil(t, f.Child("absent"))

	f = object(t, `{"flat": 7}`)
	assert.Nil(t, f.Child("flat"))
	assert.Equal(t, NotAnObject, f.Err().Code)
}
