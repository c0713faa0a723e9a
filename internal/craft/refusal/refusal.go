// Package refusal is the one way in which the craft says no to an input: a
// code, the field at fault and a sentence for people. Every package of the
// craft uses it, and the HTTP layer and the calc command pass it on unchanged.
// It is not for programming errors, which are ordinary Go errors.
package refusal

import "fmt"

// Codes of the handbook (drying-and-cure.md section 1) and those of our own
// engines. They are part of the public contract.
const (
	Missing       = "missing"
	NotANumber    = "not_a_number"
	NotAnObject   = "not_an_object"
	UnknownValue  = "unknown_value"
	OutOfRange    = "out_of_range"
	BadOrder      = "bad_order"
	NotEnoughData = "not_enough_data"
	Contradiction = "contradiction"
	NeverDries    = "never_dries"
	NotAQuantity  = "not_a_quantity"
	Ambiguous     = "ambiguous"
	WrongUnit     = "wrong_unit"
	NotText       = "not_text"
)

// Error is a refusal of one input field. Field is a path such as
// "layers[1].wet_m"; it is empty when the whole input is at fault.
type Error struct {
	Code   string `json:"error"`
	Field  string `json:"field"`
	Detail string `json:"detail,omitempty"`
}

// New makes a refusal with a formatted sentence for people.
func New(code, field, format string, args ...any) *Error {
	return &Error{Code: code, Field: field, Detail: fmt.Sprintf(format, args...)}
}

// Error implements error.
func (e *Error) Error() string {
	if e.Detail == "" {
		return e.Code + " at " + e.Field
	}
	return e.Detail
}
