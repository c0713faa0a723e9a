package refusal

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
)

// Fields reads a decoded JSON object field by field with the handbook's
// checks. The first fault sticks, and later reads return defaults, so that a
// model can read its whole input and look at Err once: the fault reported is
// the first in reading order.
type Fields struct {
	m    map[string]any
	path string
	err  *Error
}

// Object makes a reader for raw, which must be a JSON object.
func Object(raw json.RawMessage) (*Fields, *Error) {
	var v any
	if err := json.Unmarshal(raw, &v); err != nil {
		return nil, New(NotAnObject, "", "The input is not a JSON object.")
	}
	m, ok := v.(map[string]any)
	if !ok {
		return nil, New(NotAnObject, "", "The input is not a JSON object.")
	}
	return &Fields{m: m}, nil
}

// Err is the first fault, or nil.
func (f *Fields) Err() *Error { return f.err }

// Path is the full path of a field of this object.
func (f *Fields) Path(name string) string {
	if f.path == "" {
		return name
	}
	return f.path + "." + name
}

// Fail records a fault at the named field unless an earlier one stands.
func (f *Fields) Fail(code, name, format string, args ...any) {
	if f.err == nil {
		f.err = New(code, f.Path(name), format, args...)
	}
}

// Refuse takes over a refusal that somebody else made, nil for none.
func (f *Fields) Refuse(err error) {
	var refused *Error
	if f.err == nil && errors.As(err, &refused) {
		f.err = New(refused.Code, f.Path(refused.Field), "%s", refused.Detail)
	}
}

// Has says whether the field is present and not null.
func (f *Fields) Has(name string) bool { return f.m[name] != nil }

// Number reads a field within [lo, hi]; an absent one takes def.
func (f *Fields) Number(name string, def, lo, hi float64) float64 {
	v, ok := f.m[name]
	if !ok || v == nil {
		return def
	}
	x, isNumber := v.(float64)
	if !isNumber || math.IsNaN(x) || math.IsInf(x, 0) {
		f.Fail(NotANumber, name, "%s must be a number.", name)
		return def
	}
	if x < lo || x > hi {
		f.Fail(OutOfRange, name, "%s must lie between %g and %g.", name, lo, hi)
		return def
	}
	return x
}

// Required reads a field that has no default.
func (f *Fields) Required(name string, lo, hi float64) float64 {
	if !f.Has(name) {
		f.Fail(Missing, name, "%s is missing.", name)
		return 0
	}
	return f.Number(name, 0, lo, hi)
}

// Whole reads a whole number within [lo, hi].
func (f *Fields) Whole(name string, def, lo, hi int) int {
	x := f.Number(name, float64(def), float64(lo), float64(hi))
	if x != math.Trunc(x) {
		f.Fail(OutOfRange, name, "%s must be a whole number.", name)
		return def
	}
	return int(x)
}

// Truth reads true or false; an absent one is false.
func (f *Fields) Truth(name string) bool {
	v, ok := f.m[name]
	if !ok || v == nil {
		return false
	}
	b, isTruth := v.(bool)
	if !isTruth {
		f.Fail(UnknownValue, name, "%s must be true or false.", name)
	}
	return b
}

// Word reads one of the allowed words; def is taken when the field is absent,
// and an empty def makes it required.
func (f *Fields) Word(name, def string, allowed ...string) string {
	v, ok := f.m[name]
	if !ok || v == nil {
		if def == "" {
			f.Fail(Missing, name, "%s is missing.", name)
		}
		return def
	}
	s, isText := v.(string)
	if !isText || !slices.Contains(allowed, s) {
		f.Fail(UnknownValue, name, "%s must be one of %v.", name, allowed)
		return def
	}
	return s
}

// Child reads an object field; a nil result means absent or at fault.
func (f *Fields) Child(name string) *Fields {
	v, ok := f.m[name]
	if !ok || v == nil {
		return nil
	}
	m, isObject := v.(map[string]any)
	if !isObject {
		f.Fail(NotAnObject, name, "%s must be an object.", name)
		return nil
	}
	return &Fields{m: m, path: f.Path(name), err: f.err}
}

// Adopt takes over the fault of a child that was read.
func (f *Fields) Adopt(child *Fields) {
	if child != nil && f.err == nil {
		f.err = child.err
	}
}

// Children reads a list of objects with lo to hi entries.
func (f *Fields) Children(name string, lo, hi int) []*Fields {
	list := f.list(name, lo, hi)
	out := make([]*Fields, 0, len(list))
	for i, v := range list {
		item := fmt.Sprintf("%s[%d]", name, i)
		m, isObject := v.(map[string]any)
		if !isObject {
			f.Fail(NotAnObject, item, "%s must be an object.", item)
			return nil
		}
		out = append(out, &Fields{m: m, path: f.Path(item)})
	}
	return out
}

// Couples reads a list of lo to hi [x, y], in any order.
func (f *Fields) Couples(name string, lo, hi int) [][2]float64 {
	list := f.list(name, lo, hi)
	out := make([][2]float64, 0, len(list))
	for i, v := range list {
		item := fmt.Sprintf("%s[%d]", name, i)
		pair, ok := v.([]any)
		if !ok || len(pair) != 2 {
			f.Fail(NotANumber, item, "%s must be a pair of numbers.", item)
			return nil
		}
		x, okX := pair[0].(float64)
		y, okY := pair[1].(float64)
		if !okX || !okY {
			f.Fail(NotANumber, item, "%s must be a pair of numbers.", item)
			return nil
		}
		out = append(out, [2]float64{x, y})
	}
	return out
}

// Pairs reads a list of [x, y] with strictly rising x and y within [lo, hi].
func (f *Fields) Pairs(name string, lo, hi float64) [][2]float64 {
	if !f.Has(name) {
		return nil
	}
	out := f.Couples(name, 1, 200_000)
	for i, p := range out {
		item := fmt.Sprintf("%s[%d]", name, i)
		switch {
		case i > 0 && p[0] <= out[i-1][0]:
			f.Fail(BadOrder, item, "The times of %s must rise.", name)
			return nil
		case p[1] < lo || p[1] > hi:
			f.Fail(OutOfRange, item, "%s must lie between %g and %g.", item, lo, hi)
			return nil
		}
	}
	return out
}

// Numbers reads a list of up to 10,000 numbers within [lo, hi].
func (f *Fields) Numbers(name string, lo, hi float64) []float64 {
	var out []float64
	for i, v := range f.list(name, 0, 10_000) {
		item := fmt.Sprintf("%s[%d]", name, i)
		x, isNumber := v.(float64)
		switch {
		case !isNumber:
			f.Fail(NotANumber, item, "%s must be a number.", item)
		case x < lo || x > hi:
			f.Fail(OutOfRange, item, "%s must lie between %g and %g.", item, lo, hi)
		}
		out = append(out, x)
	}
	return out
}

func (f *Fields) list(name string, lo, hi int) []any {
	v, ok := f.m[name]
	if !ok || v == nil {
		if lo > 0 {
			f.Fail(Missing, name, "%s is missing.", name)
		}
		return nil
	}
	list, isList := v.([]any)
	if !isList {
		f.Fail(NotANumber, name, "%s must be a list.", name)
		return nil
	}
	if len(list) < lo || len(list) > hi {
		f.Fail(OutOfRange, name, "%s must have %d to %d entries.", name, lo, hi)
		return nil
	}
	return list
}

// Words reads a list of allowed words; an absent one is empty.
func (f *Fields) Words(name string, allowed ...string) []string {
	var out []string
	for i, v := range f.list(name, 0, 10_000) {
		s, isText := v.(string)
		if !isText || !slices.Contains(allowed, s) {
			f.Fail(UnknownValue, fmt.Sprintf("%s[%d]", name, i), "%s must hold words of %v.", name, allowed)
			return nil
		}
		out = append(out, s)
	}
	return out
}

// Names are the fields that this object holds and that are not null, in order.
func (f *Fields) Names() []string {
	var out []string
	for name, v := range f.m {
		if v != nil {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// Raw is a field as it came.
func (f *Fields) Raw(name string) any { return f.m[name] }

// Points reads a list of [x, y], lo to hi of them, none beyond reach.
func (f *Fields) Points(name string, lo, hi int, reach float64) [][2]float64 {
	out := f.Couples(name, lo, hi)
	for i, p := range out {
		if math.Abs(p[0]) > reach || math.Abs(p[1]) > reach {
			f.Fail(OutOfRange, fmt.Sprintf("%s[%d]", name, i), "A point of %s lies beyond %g.", name, reach)
			return nil
		}
	}
	return out
}

// Point reads one [x, y] that must be there, not beyond reach.
func (f *Fields) Point(name string, reach float64) [2]float64 {
	if !f.Has(name) {
		f.Fail(Missing, name, "%s is missing.", name)
		return [2]float64{}
	}
	pair, _ := f.m[name].([]any)
	if len(pair) != 2 {
		f.Fail(NotANumber, name, "%s must be a pair of numbers.", name)
		return [2]float64{}
	}
	x, okX := pair[0].(float64)
	y, okY := pair[1].(float64)
	switch {
	case !okX || !okY:
		f.Fail(NotANumber, name, "%s must be a pair of numbers.", name)
	case math.Abs(x) > reach || math.Abs(y) > reach:
		f.Fail(OutOfRange, name, "%s lies beyond %g.", name, reach)
	}
	return [2]float64{x, y}
}

// ID reads a name of 1 to 60 characters that must be there.
func (f *Fields) ID(name string) string {
	if !f.Has(name) {
		f.Fail(Missing, name, "%s is missing.", name)
		return ""
	}
	s, isText := f.m[name].(string)
	if !isText || s == "" || len(s) > 60 {
		f.Fail(UnknownValue, name, "%s must be a name.", name)
	}
	return s
}
