// Package hostile makes requests that nobody means well with: for every
// operation of the API document a body that fits, and then the same with one
// thing in it wrong. `make attack` sends them at a server for minutes; a short
// form of it runs with the tests.
package hostile

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"

	"github.com/getkin/kin-openapi/openapi3"
)

// Request is one to be sent.
type Request struct {
	Method, Path string
	Route        string // the operation's path, with its parameters' names
	Body         []byte // JSON; nil for none
	Wrong        string // what was made wrong; empty for nothing
}

// Maker makes requests, always the same from the same seed.
type Maker struct {
	doc  *openapi3.T
	rand *rand.Rand
	// Known are values of parameters and fields that exist, by name: codes and
	// ids of the shop that is attacked. What is not known is made up.
	Known map[string][]string
	// longest fills every text, ends takes every number to one of its bounds, and
	// strange names nothing that is known.
	longest, ends, strange bool
}

// New reads an OpenAPI 3.0 document.
func New(document []byte, seed uint64) (*Maker, error) {
	doc, err := openapi3.NewLoader().LoadFromData(document)
	if err != nil {
		return nil, fmt.Errorf("reading the API document: %w", err)
	}
	return &Maker{doc: doc, rand: rand.New(rand.NewPCG(seed, 0)), Known: map[string][]string{}}, nil
}

// Operation is one of the document.
type Operation struct {
	Method, Path string
	op           *openapi3.Operation
}

// Operations lists them, in order.
func (k *Maker) Operations() []Operation {
	var out []Operation
	paths := k.doc.Paths.Map()
	for _, p := range slices.Sorted(maps.Keys(paths)) {
		for method, op := range paths[p].Operations() {
			out = append(out, Operation{method, p, op})
		}
	}
	slices.SortFunc(out, func(a, b Operation) int { return strings.Compare(a.Path+" "+a.Method, b.Path+" "+b.Method) })
	return out
}

// Wrongs is in how many ways a request is made wrong.
const Wrongs = 17

// Make makes a request of an operation: with wrong 0 one that fits the
// document, else one with the wrong-th thing wrong somewhere in it.
func (k *Maker) Make(o Operation, wrong int) Request {
	r := Request{Method: o.Method, Route: o.Path, Path: o.Path}
	query := []string{}
	for _, p := range o.op.Parameters {
		value := k.word(p.Value.Name, p.Value.Schema)
		if wrong > 0 && k.rand.IntN(4) == 0 {
			value = hostileWords[k.rand.IntN(len(hostileWords))]
		}
		switch p.Value.In {
		case "path":
			r.Path = strings.ReplaceAll(r.Path, "{"+p.Value.Name+"}", escape(value))
		case "query":
			if p.Value.Required || k.rand.IntN(2) == 0 {
				query = append(query, p.Value.Name+"="+escape(value))
			}
		}
	}
	if len(query) > 0 {
		r.Path += "?" + strings.Join(query, "&")
	}
	if o.op.RequestBody == nil || o.op.RequestBody.Value == nil {
		return r
	}
	media := o.op.RequestBody.Value.Content["application/json"]
	if media == nil || media.Schema == nil {
		return r
	}
	k.longest, k.ends, k.strange = wrong == 15, wrong == 16, wrong == 17
	value := k.value("", media.Schema, 0)
	k.longest, k.ends, k.strange = false, false, false
	if wrong > 0 {
		r.Wrong = names[wrong-1]
	}
	if wrong == 0 || wrong > 14 {
		r.Body, _ = json.Marshal(value)
		return r
	}
	r.Body = k.spoil(value, wrong)
	return r
}

// names say what Make makes wrong.
var names = [Wrongs]string{"a huge number", "a subnormal number", "a number that is none", "a negative number", "a number that wraps round", "a control character", "a text without end", "markup and SQL",
	"a list without end", "nesting without end", "another kind of value", "null", "a field left out", "cut off", "texts as long as they may be", "numbers at their ends", "nothing that is known"}

var hostileWords = []string{"../../../etc/passwd", "%00", "'; DROP TABLE piece; --", "<script>alert(1)</script>", "９９", "-1", "0", "18446744073709551616", strings.Repeat("x", 3000), "NaN", "BF-03\r\nX-Evil: 1", "🦷"}

// spoil puts something wrong at one place of a value and writes it.
func (k *Maker) spoil(value any, wrong int) []byte {
	mark := "\"@@spoil@@\""
	places := 0
	count(value, &places)
	at := 0
	if places > 0 {
		at = k.rand.IntN(places)
	}
	n := 0
	raw, _ := json.Marshal(replace(value, at, &n, wrong == 13))
	text := string(raw)
	in := map[int]string{1: "1e308", 2: "1e-320", 3: "1e999", 4: "-7", 5: "4611686018427387929", 6: "\"a\\u0000b\\u001b[2J\"", 7: `"` + strings.Repeat("ä", 5000) + `"`,
		8: `"<svg onload=alert(1)>' OR 1=1; --"`, 9: "[" + strings.Repeat("0,", 20000) + "0]", 10: strings.Repeat("[", 5000) + strings.Repeat("]", 5000), 11: `{"x":[true]}`, 12: "null", 14: `"x"`}[wrong]
	text = strings.Replace(text, mark, in, 1)
	if wrong == 14 {
		text = text[:len(text)*2/3]
	}
	return []byte(text)
}

func count(v any, n *int) {
	switch v := v.(type) {
	case map[string]any:
		for _, one := range v {
			count(one, n)
		}
	case []any:
		for _, one := range v {
			count(one, n)
		}
	default:
		*n++
	}
}

// replace puts the mark in place of the at-th leaf, or leaves it out.
func replace(v any, at int, n *int, drop bool) any {
	switch v := v.(type) {
	case map[string]any:
		out := map[string]any{}
		for _, name := range slices.Sorted(maps.Keys(v)) {
			before := *n
			now := replace(v[name], at, n, drop)
			if drop && before == at && *n == at+1 {
				continue
			}
			out[name] = now
		}
		return out
	case []any:
		out := make([]any, len(v))
		for i, one := range v {
			out[i] = replace(one, at, n, drop)
		}
		return out
	default:
		*n++
		if *n-1 == at {
			return "@@spoil@@"
		}
		return v
	}
}

// deepest is how far a schema is followed.
const deepest = 6

// value is one that fits a schema.
func (k *Maker) value(name string, ref *openapi3.SchemaRef, depth int) any {
	s := ref.Value
	if s == nil || depth > deepest {
		return nil
	}
	if len(s.Enum) > 0 {
		return s.Enum[k.rand.IntN(len(s.Enum))]
	}
	for _, any := range []openapi3.SchemaRefs{s.OneOf, s.AnyOf} {
		if len(any) > 0 {
			return k.value(name, any[k.rand.IntN(len(any))], depth+1)
		}
	}
	switch {
	case s.Type.Is("object") || len(s.Properties) > 0:
		out := map[string]any{}
		for _, field := range slices.Sorted(maps.Keys(s.Properties)) {
			if slices.Contains(s.Required, field) || k.rand.IntN(2) == 0 {
				if v := k.value(field, s.Properties[field], depth+1); v != nil {
					out[field] = v
				}
			}
		}
		return out
	case s.Type.Is("array"):
		out := []any{}
		for range max(int(s.MinItems), 1) {
			if v := k.value(name, s.Items, depth+1); v != nil {
				out = append(out, v)
			}
		}
		return out
	case s.Type.Is("boolean"):
		return k.rand.IntN(2) == 0
	case s.Type.Is("integer"), s.Type.Is("number"):
		lo, hi := 0.0, 10.0
		if s.Min != nil {
			lo = *s.Min
			hi = lo + 10
		}
		if s.Max != nil {
			hi = *s.Max
		}
		x := lo + (hi-lo)*k.rand.Float64()
		if k.ends {
			if s.Max == nil {
				hi = 1e12
			}
			x = []float64{lo, hi}[k.rand.IntN(2)]
		}
		if s.Type.Is("integer") {
			return int64(x)
		}
		return x
	case s.Type.Is("string"):
		return k.word(name, ref)
	}
	return map[string]any{}
}

// word is a text for a parameter or a field.
func (k *Maker) word(name string, ref *openapi3.SchemaRef) string {
	if known := k.Known[name]; len(known) > 0 && !k.strange {
		return known[k.rand.IntN(len(known))]
	}
	if ref == nil || ref.Value == nil {
		return "1"
	}
	s := ref.Value
	switch {
	case len(s.Enum) > 0:
		return fmt.Sprint(s.Enum[k.rand.IntN(len(s.Enum))])
	case s.Format == "uuid":
		return fmt.Sprintf("%08x-%04x-4%03x-a%03x-%012x", k.rand.Uint32(), k.rand.IntN(1<<16), k.rand.IntN(1<<12), k.rand.IntN(1<<12), k.rand.Int64N(1<<48))
	case s.Format == "date":
		return "2026-01-23"
	case s.Format == "date-time":
		return "2026-01-23T09:00:00Z"
	case !s.Type.Is("string"):
		return fmt.Sprint(1 + k.rand.IntN(3))
	}
	if k.longest && s.MaxLength != nil {
		return strings.Repeat("ä", int(*s.MaxLength))
	}
	words := []string{"a word", "12 g", "3 mm", "Left cheek", "24-117", "none"}
	return words[k.rand.IntN(len(words))]
}

func escape(s string) string {
	const plain = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_.~"
	var b strings.Builder
	for i := range len(s) {
		if strings.IndexByte(plain, s[i]) >= 0 {
			b.WriteByte(s[i])
		} else {
			fmt.Fprintf(&b, "%%%02X", s[i])
		}
	}
	if b.Len() == 0 {
		return "%20"
	}
	return b.String()
}
