package refusal

import (
	"encoding/json"
	"fmt"
	"math"
	"reflect"
	"strconv"
	"strings"
)

// Numbers that the craft works with: beyond these nothing is a length, a mass
// or a time, and a sum or a quotient of them may be no number any more.
const (
	tiniest = 1e-60 // what rounding leaves of a difference is larger
	hugest  = 1e15
)

// workable says whether a number may be reckoned with: zero, or between
// tiniest and hugest.
func workable(x float64) bool {
	size := math.Abs(x)
	return x == 0 || size >= tiniest && size <= hugest
}

// Unworkable is the path of the first number in a JSON document that is too
// large or too small to reckon with; empty when there is none. Whole numbers up
// to 2^64 pass: they are seeds, never sizes.
func Unworkable(raw json.RawMessage) string {
	decoder := json.NewDecoder(strings.NewReader(string(raw)))
	decoder.UseNumber()
	var v any
	if decoder.Decode(&v) != nil {
		return "" // whoever reads it says what is wrong
	}
	return unworkable(v, "")
}

func unworkable(v any, path string) string {
	switch v := v.(type) {
	case json.Number:
		if _, err := strconv.ParseUint(v.String(), 10, 64); err == nil {
			return ""
		}
		if x, err := v.Float64(); err != nil || !workable(x) {
			if path == "" {
				return "number"
			}
			return path
		}
	case []any:
		for i, one := range v {
			if at := unworkable(one, fmt.Sprintf("%s[%d]", path, i)); at != "" {
				return at
			}
		}
	case map[string]any:
		first := ""
		for name, one := range v {
			if path != "" {
				name = path + "." + name
			}
			// The first by name, so that the same document gives the same answer.
			if at := unworkable(one, name); at != "" && (first == "" || at < first) {
				first = at
			}
		}
		return first
	}
	return ""
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
