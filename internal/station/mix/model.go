// Package mix is the mixing room: from the amount wanted to a pour sheet from
// real lots, through weighing at the bench scale with overshoots put right, to
// the pour. The clock starts when A meets B.
package mix

import (
	"context"
	"encoding/json"
	"sync"
	"time"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
)

// Lot is a lot of the stores as mixing takes it.
type Lot struct {
	ID uint64
	stock.Lot
}

// Stores is what mixing needs of the stores: lots to choose from, and to draw
// what was weighed inside the same act.
type Stores interface {
	LotsOf(ctx context.Context, db database.Reader, slug string) ([]Lot, error)
	Draw(ctx context.Context, tx database.Tx, lot uint64, grams float64, weighIn uint64, poured bool) error
}

// Pour is what mixing hands over to the build room.
type Pour struct {
	Piece    piece.Piece
	Section  int // the version that the mix was written for
	MixID    uint64
	MixCode  string
	Material string
	Sheet    material.CureSheet
	Contact  time.Time
	Moulds   []string
}

// Builder starts the run of a pour, and knows how long a mix may be poured.
type Builder interface {
	// MayMix refuses a mix that the piece's section has no use for, or that the rule
	// book stops.
	MayMix(ctx context.Context, tx database.Tx, p piece.Piece, section int, material string) error
	// AskStuff asks whether what comes into the cup may touch the wearer, and whoever
	// weighs it.
	AskStuff(ctx context.Context, tx database.Tx, p piece.Piece, section int, mix string, materials ...string) error
	StartRun(ctx context.Context, tx database.Tx, p Pour) (run string, copies []string, err error)
	WorkingTime(ctx context.Context, db database.Reader, sheet material.CureSheet, contact *time.Time) (cure.WorkingTime, error)
}

// Service does the use cases of the mixing room.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Stores Stores
	Build  Builder
	Scale  device.Scale

	mu        sync.Mutex
	onScale   string // code of the mix on the scale; empty: look in the database
	listeners map[chan json.RawMessage]struct{}
	seq       uint64
}

// Addition is one thing put in on top of A and B.
type Addition struct {
	Material string  `json:"material"`
	Percent  float64 `json:"percent" minimum:"0" maximum:"400"`
	Of       string  `json:"of,omitempty" enum:"parts,total" doc:"of A and B together (parts), or of the finished mix (total)"`
	Lot      string  `json:"lot,omitempty" doc:"empty: first expired first out"`
}

// Order is what is to be mixed.
type Order struct {
	Piece     string         `json:"piece"`
	Material  string         `json:"material"`
	Kit       string         `json:"kit,omitempty" doc:"lot pair; empty: first expired first out"`
	Additions []Addition     `json:"additions"`
	Amount    craft.Question `json:"amount"`
}

// SheetLine is one line of a pour sheet before it is begun.
type SheetLine struct {
	Ingredient string       `json:"ingredient" doc:"A, B or the slug of an addition"`
	Name       string       `json:"name"`
	Grams      float64      `json:"grams"`
	Lot        string       `json:"lot,omitempty" doc:"chosen lot; empty when no lot covers it"`
	Choice     stock.Choice `json:"choice"`
	// LetDown says how to get so little of it into the cup: thinned in something
	// that is in the mix anyway.
	LetDown string `json:"let_down,omitempty"`
	lotID   uint64
}

// Sheet is a pour sheet before it is begun.
type Sheet struct {
	Amount craft.Answer `json:"amount"`
	TotalG float64      `json:"total_g"`
	Lines  []SheetLine  `json:"lines" doc:"in the order of pouring: B last, so that the clock starts last"`
	Recipe craft.Recipe `json:"recipe"`
	// Short says what is missing; empty when the sheet can be begun.
	Short    string           `json:"short,omitempty"`
	Cautions []string         `json:"cautions"`
	Working  cure.WorkingTime `json:"working"`
}

// Line is one line of a mix on the bench.
type Line struct {
	Seq        int     `json:"seq"`
	Ingredient string  `json:"ingredient"`
	Name       string  `json:"name"`
	Lot        string  `json:"lot"`
	PlannedG   float64 `json:"planned_g"`
	TargetG    float64 `json:"target_g"`
	InCupG     float64 `json:"in_cup_g"`
	AddG       float64 `json:"add_g"`
	OverG      float64 `json:"over_g"`
	TolG       float64 `json:"tolerance_g"`
	Done       bool    `json:"done"`
}

// View is a mix as the bench shows it.
type View struct {
	Code      string           `json:"code"`
	Piece     string           `json:"piece"`
	PieceName string           `json:"piece_name"`
	Material  string           `json:"material"`
	Name      string           `json:"name"`
	State     string           `json:"state" enum:"planned,weighing,poured,abandoned"`
	PlannedG  float64          `json:"planned_g"`
	TotalG    float64          `json:"total_g"`
	Pours     int              `json:"pours"`
	Lines     []Line           `json:"lines"`
	Current   int              `json:"current" doc:"seq of the line to pour now; 0 when everything is in"`
	Message   string           `json:"message,omitempty" doc:"what an overshoot did to the sheet"`
	OnScale   bool             `json:"on_scale"`
	BaseG     float64          `json:"base_g" doc:"what the scale showed when the current line began"`
	CarriedG  float64          `json:"carried_g" doc:"poured in the current line before the scale was zeroed"`
	ContactAt *time.Time       `json:"contact_at,omitempty"`
	Working   cure.WorkingTime `json:"working"`
	PlannedAt time.Time        `json:"planned_at"`
	PlannedBy string           `json:"planned_by"`
	EndReason string           `json:"end_reason,omitempty"`
	Run       string           `json:"run,omitempty"`
	Cautions  []string         `json:"cautions"`
	Moulds    []Mould          `json:"moulds" doc:"moulds of the piece with their state"`
}

// Mould is a mould that the mix may fill.
type Mould struct {
	Code  string `db:"code" json:"code"`
	Kind  string `db:"kind" json:"kind"`
	State string `db:"state" json:"state"`
	Casts int    `db:"casts" json:"casts"`
	Core  string `db:"core" json:"core,omitempty" doc:"the form that closes it"`
	Again string `db:"again" json:"again,omitempty" doc:"what came out wrong at the same place more than once"`
}

type row struct {
	ID        uint64
	Code      string
	PieceID   uint64 `db:"piece_id"`
	Piece     string
	PieceName string `db:"piece_name"`
	Section   int    `db:"section_number"`
	Slug      string
	Recipe    json.RawMessage
	PlannedG  float64 `db:"planned_g"`
	Pours     int
	State     string
	BaseG     float64    `db:"scale_base_g"`
	CarriedG  float64    `db:"carried_g"`
	ContactAt *time.Time `db:"contact_at"`
	OnScaleAt *time.Time `db:"on_scale_at"`
	PlannedAt time.Time  `db:"planned_at"`
	PlannedBy string     `db:"planned_by"`
	EndReason string     `db:"end_reason"`
	Run       *string    `db:"run_code"`
}

type lineRow struct {
	ID         uint64
	Seq        int
	Ingredient string
	Lot        string
	LotID      uint64  `db:"lot_id"`
	PlannedG   float64 `db:"planned_g"`
	InCupG     float64 `db:"in_cup_g"`
	Done       bool
}
