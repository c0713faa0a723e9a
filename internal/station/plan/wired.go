package plan

import (
	"context"
	"time"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
)

// What the plan is told by other rooms.

// OpenRun is a session in work, as the room for building tells of it.
type OpenRun struct {
	Code    string
	Piece   string
	Section int
	Copies  []string // those that are being made
	Mould   string   // of the first, where they are in moulds
	Left    []making.Stage
	From    time.Time // when the next stage may be done
}

// Work tells of what is begun; wired to the rooms for building and moulds.
type Work interface {
	OpenRuns(ctx context.Context) ([]OpenRun, error)
	Moulds(ctx context.Context) ([]Mould, error)
	// Short is what so many copies of a piece take that is neither on the shelf nor made of what is, and when it could be here.
	Short(ctx context.Context, piece string, copies int) (Short, error)
	// Clay is how long hands still are at a sculpt that is not moulded: at its shape, and at its texture.
	Clay(ctx context.Context, p piece.Piece) (shape, texture time.Duration, err error)
	// Ovens are those that the shop has.
	Ovens(ctx context.Context) ([]OvenAt, error)
	// Racks is how many copies stand on the racks at once; 0 where nobody said.
	Racks(ctx context.Context) (int, error)
	// Mixes is in how many mixes so many copies of a piece are poured, with so many moulds; bar says why nobody can say.
	Mixes(ctx context.Context, piece string, copies, moulds int) (p mix.BatchPlan, bar string, err error)
	// LetAlone lets every oven run with nobody beside it; a lead said so.
	LetAlone(ctx context.Context, tx database.Tx) error
	// Forbidden is what forbids making a piece now by the rule book, in words; who leads may sign a stop, nobody a never.
	Forbidden(ctx context.Context, piece string, lead bool) (string, error)
}

// Shooting moves shooting days; wired to the production.
type Shooting interface {
	// Later puts a day so many days later, with all that stands for it.
	Later(ctx context.Context, tx database.Tx, day uint64, days int) error
}

// OvenAt is an oven, and whether a lead allowed it to be hot with nobody beside it.
type OvenAt struct {
	Code  string
	Alone bool
	Takes int // so many moulds at once; 0 where nobody said
}

// Short is material that is missing.
type Short struct {
	What string     // none where everything is here
	By   *time.Time // when it could be here, ordered now; none: nobody wrote down how long it takes
}

// Mould is one that is not retired.
type Mould struct {
	Code, Piece string
	Ready       *time.Time // when it may be filled; none: nobody can say
	Left        *int
}
