// Package round is the one list of the round's places, and the way of a piece
// along it.
package round

import (
	"context"
	"slices"
	"strings"

	"yewmoor/internal/platform/database"
)

// Place is a place of the round.
type Place string

// The places in working order.
const (
	Brief    Place = "brief"
	Form     Place = "form"
	Sculpt   Place = "sculpt"
	Mould    Place = "mould"
	Mix      Place = "mix"
	Build    Place = "build"
	Colour   Place = "colour"
	Finish   Place = "finish"
	Check    Place = "check"
	HandOver Place = "handover"
)

// Places of the round in working order: what the schema's ENUM, the API's
// documents and the interface's keys follow.
var Places = []Place{Brief, Form, Sculpt, Mould, Mix, Build, Colour, Finish, Check, HandOver}

// Known says whether there is such a place.
func Known(p Place) bool { return slices.Contains(Places, p) }

// order is the list for SQL's FIELD, which gives a place's position from 1.
var order = func() string {
	names := make([]string, len(Places))
	for i, p := range Places {
		names[i] = "'" + string(p) + "'"
	}
	return strings.Join(names, ",")
}()

// Move puts a piece at a place, wherever it was.
func Move(ctx context.Context, tx database.Tx, piece uint64, to Place) error {
	_, err := tx.ExecContext(ctx, `UPDATE piece SET place = ? WHERE id = ?`, to, piece)
	return err
}

// Forward puts a piece at a place if it is not there, or further along, already.
func Forward(ctx context.Context, tx database.Tx, piece uint64, to Place) error {
	_, err := tx.ExecContext(ctx, `UPDATE piece SET place = ? WHERE id = ? AND FIELD(place, `+order+`) < FIELD(?, `+order+`)`, to, piece, to)
	return err
}
