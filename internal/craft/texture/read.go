package texture

import (
	"math"
	"strings"

	"yewmoor/internal/craft/refusal"
)

// Refusals of the texture planner (handbook, sections 2 to 7).
const (
	BadRegion     = "BAD_REGION"
	BadNumber     = "BAD_NUMBER"
	UnknownPreset = "UNKNOWN_PRESET"
	BadGuide      = "BAD_GUIDE"
	BadPitch      = "BAD_PITCH"
	GridTooLarge  = "GRID_TOO_LARGE"
	BadParameter  = "BAD_PARAMETER"
	UnknownLayer  = "UNKNOWN_LAYER"
	NoLayers      = "NO_LAYERS"
	TooDeep       = "TOO_DEEP"
	BaseTooThin   = "BASE_TOO_THIN"
)

func bad(field, format string, args ...any) error {
	return refusal.New(BadParameter, field, format, args...)
}

func finite(x float64) bool { return !math.IsNaN(x) && !math.IsInf(x, 0) }

// or is a value, or what it is when left out.
func or[T any](p *T, def T) T {
	if p == nil {
		return def
	}
	return *p
}

// Ptr makes a value that can be left out.
func Ptr[T any](v T) *T { return &v }

// read checks the parameters of a layer, first fault first.
type read struct {
	at  string
	err error
}

func (r *read) num(name string, v, lo, hi float64) float64 {
	if r.err == nil && !(v >= lo && v <= hi) {
		r.err = bad(r.at+"."+name, "%s must lie between %g and %g.", plainName(name), lo, hi)
	}
	return v
}

// pos reads a number above zero.
func (r *read) pos(name string, v, hi float64) float64 {
	if r.err == nil && !(v > 0 && v <= hi) {
		r.err = bad(r.at+"."+name, "%s must be above 0 and at most %g.", plainName(name), hi)
	}
	return v
}

func (r *read) span(name string, v Span, hi float64) Span {
	for _, x := range v {
		r.pos(name, x, hi)
	}
	return v
}

// rising reads a pair whose second number is not the lesser.
func (r *read) rising(name string, v Span, hi float64) Span {
	r.span(name, v, hi)
	if r.err == nil && v[1] < v[0] {
		r.err = bad(r.at+"."+name, "%s goes from the lesser to the greater.", plainName(name))
	}
	return v
}

func (r *read) word(name, v string, allowed ...string) string {
	if v == "" {
		return allowed[0]
	}
	for _, a := range allowed {
		if v == a {
			return v
		}
	}
	if r.err == nil {
		r.err = bad(r.at+"."+name, "%s must be one of %v.", plainName(name), allowed)
	}
	return v
}

func plainName(name string) string {
	name = name[strings.LastIndexByte(name, '.')+1:]
	return strings.ToUpper(name[:1]) + strings.ReplaceAll(name[1:], "_", " ")
}

// Caps of one layer (handbook, section 3).
const (
	maxLines = 20_000
	// MaxPieces is the most places, lumps or scales of one layer.
	MaxPieces     = 200_000
	maxCandidates = 4_000_000
)
