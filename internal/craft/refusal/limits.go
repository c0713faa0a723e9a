package refusal

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
)

// Numbers that the craft works with: beyond these nothing is a length, a mass
// or a time, and a sum or a quotient of them may be no number any more.
const (
	tiniest = 1e-60 // what rounding leaves of a difference is larger
	hugest  = 1e15
)

// Workable says whether a number may be reckoned with: zero, or between
// tiniest and hugest.
func Workable(x float64) bool {
	size := math.Abs(x)
	return x == 0 || size >= tiniest && size <= hugest // no number is neither
}

// Unclean refuses a JSON document with a number that is too large or too small
// to reckon with, or a text with a control character, which neither a name nor
// a drawing can hold; nil when there is neither, or no JSON at all. Whole
// numbers up to 2^64 pass: they are seeds, never sizes.
func Unclean(raw json.RawMessage) *Error {
	decoder := json.NewDecoder(bytes.NewReader(raw))
	decoder.UseNumber()
	var v any
	if decoder.Decode(&v) != nil {
		return nil // whoever reads it says what is wrong
	}
	return unclean(v, "")
}

// Control says whether a text holds a character that is no text: a control
// character other than tab and line end, or one that XML does not know.
func Control(text string) bool {
	return strings.ContainsFunc(text, func(r rune) bool {
		return r < 0x20 && r != '\t' && r != '\n' && r != '\r' || r == 0x7F || r == 0xFFFE || r == 0xFFFF
	})
}

func unclean(v any, path string) *Error {
	switch v := v.(type) {
	case json.Number:
		if _, err := strconv.ParseUint(v.String(), 10, 64); err == nil {
			return nil
		}
		if x, err := v.Float64(); err != nil || !Workable(x) {
			return New(OutOfRange, path, "This number is too large or too small to work with.")
		}
	case string:
		if Control(v) {
			return New(NotText, path, "There is a character in it that cannot be written. Type it again.")
		}
	case []any:
		for i, one := range v {
			if err := unclean(one, fmt.Sprintf("%s[%d]", path, i)); err != nil {
				return err
			}
		}
	case map[string]any:
		// By name, so that the same document gives the same answer.
		for _, name := range slices.Sorted(maps.Keys(v)) {
			at := name
			if path != "" {
				at = path + "." + name
			}
			if Control(name) {
				return New(NotText, path, "There is a character in a name that cannot be written.")
			}
			if err := unclean(v[name], at); err != nil {
				return err
			}
		}
	}
	return nil
}

// TooMany refuses a decoded value that holds longer lists than the maxItems of
// its fields allow. The same tags limit the typed operations, so that the craft
// has one limit whichever way a question comes.
func TooMany(v any) error { return tooMany(reflect.ValueOf(v), "") }

func tooMany(v reflect.Value, path string) error {
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			return tooMany(v.Elem(), path)
		}
	case reflect.Slice, reflect.Array:
		if k := v.Type().Elem().Kind(); k != reflect.Struct && k != reflect.Pointer && k != reflect.Slice {
			return nil
		}
		for i := range v.Len() {
			if err := tooMany(v.Index(i), fmt.Sprintf("%s[%d]", path, i)); err != nil {
				return err
			}
		}
	case reflect.Struct:
		for i := range v.NumField() {
			f := v.Type().Field(i)
			if !f.IsExported() {
				continue
			}
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			at := path
			if !f.Anonymous {
				if name == "" {
					name = f.Name
				}
				at = strings.TrimPrefix(path+"."+name, ".")
			}
			if most, err := strconv.Atoi(f.Tag.Get("maxItems")); err == nil && v.Field(i).Kind() == reflect.Slice && v.Field(i).Len() > most {
				return New(OutOfRange, at, "%s may have %d entries.", at, most)
			}
			if err := tooMany(v.Field(i), at); err != nil {
				return err
			}
		}
	}
	return nil
}
