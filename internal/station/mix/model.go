// Package mix is the mixing room: from the amount wanted to a pour sheet from
// real lots, through weighing at the bench scale with overshoots put right and the
// steps that are no weighings, to the pour. It makes house recipes of every family.
// The clock starts when what sets each other off meets in the cup.
package mix

import (
	"context"
	"encoding/json"
	"sync"
	"time"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/hands"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/recipe"
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
	Batch *Batch // of a base that was put by
}

// Batch is the water of a base that is melted again: its share now, and kg water per
// kg solids as it was mixed.
type Batch struct {
	WaterShare float64 `json:"water_share"`
	Start      float64 `json:"start"`
}

// PutBy is a mix that becomes a lot of its own.
type PutBy struct {
	MixID    uint64
	Code     string
	Material string
	Grams    float64
	UseBy    time.Time
	Shelf    string
	Batch    *Batch
}

// Stores is what mixing needs of the stores: lots to choose from, to draw what was
// weighed inside the same act, and to put by what is kept.
type Stores interface {
	LotsOf(ctx context.Context, db database.Reader, slug string) ([]Lot, error)
	Draw(ctx context.Context, tx database.Tx, lot uint64, grams float64, weighIn uint64, poured bool) error
	PutBy(ctx context.Context, tx database.Tx, p PutBy) error
}

// Pour is what mixing hands over to the build room.
type Pour struct {
	Piece    piece.Piece
	Section  int // the version that the mix was written for
	MixID    uint64
	MixCode  string
	Material string
	Sheet    *material.CureSheet // nil for what does not cure by a sheet
	Contact  time.Time
	Gel      *cure.WorkingTime // of foam: when it gels; nil of anything else
	Moulds   []string
	Run      string // a run that waits for it; "" begins one
	// How it stood as it was poured into.
	Place      string
	MouldC     *float64
	ReleaseWet bool
}

// Air is the room as a clock takes it.
type Air struct {
	TempC, RH float64
	Measured  bool
}

// Builder starts the run of a pour, and knows how long a mix may be poured.
type Builder interface {
	// MayMix refuses a mix that the piece's section has no use for, or that the rule
	// book stops.
	MayMix(ctx context.Context, tx database.Tx, p piece.Piece, section int, material string) error
	// AskStuff asks whether what comes into the cup may touch the wearer, and whoever
	// weighs it. A piece of no number asks the hands alone.
	AskStuff(ctx context.Context, tx database.Tx, p piece.Piece, section int, mix string, materials ...string) error
	StartRun(ctx context.Context, tx database.Tx, p Pour) (run string, copies []string, err error)
	WorkingTime(ctx context.Context, db database.Reader, sheet material.CureSheet, contact *time.Time) (cure.WorkingTime, error)
	RoomNow(ctx context.Context, db database.Reader) (Air, error)
	// Wanted are what a piece's section takes, layer by layer, and the runs that wait.
	Wanted(ctx context.Context, p piece.Piece) ([]Wanted, error)
}

// Wanted is one material that a piece's section takes.
type Wanted struct {
	Layer    string   `json:"layer"`
	Material string   `json:"material"`
	Name     string   `json:"name"`
	EachG    float64  `json:"each_g" doc:"what one copy takes of it, wet, with what is stirred in"`
	With     []Stir   `json:"with" doc:"what the section says is stirred in"`
	Body     bool     `json:"body"`
	Runs     []string `json:"runs" doc:"runs whose next stage takes it"`
	Recipes  []Choice `json:"recipes" doc:"house recipes that make it, the shop's own first; empty for what is used as it comes"`
}

// Stir is something stirred in, in percent of the parts.
type Stir struct {
	Material string  `json:"material"`
	Percent  float64 `json:"percent"`
}

// Choice is a recipe in a list.
type Choice struct {
	Slug string `json:"slug"`
	Name string `json:"name"`
}

// Service does the use cases of the mixing room.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Stores Stores
	Build  Builder
	Scale  device.Scale
	// Sure is how certain the shop wants it to be that enough casts are good; wired to the plan.
	Sure func(context.Context) (float64, error)

	mu        sync.Mutex
	onScale   string // code of the mix on the scale; empty: look in the database
	listeners map[chan json.RawMessage]struct{}
	seq       uint64
}

// Addition is one thing put in on top of the parts, or another percentage of one
// that the recipe has; 0 leaves it out.
type Addition struct {
	Material string  `json:"material"`
	Percent  float64 `json:"percent" minimum:"0" maximum:"400"`
	Of       string  `json:"of,omitempty" maxLength:"64" doc:"of the parts together (parts), of one of them by its id, or of the finished mix (total)"`
}

// Taken is a lot that somebody chose for a line.
type Taken struct {
	Line string `json:"line" doc:"id of the line; A for both parts of a kit"`
	Lot  string `json:"lot"`
	Why  string `json:"why,omitempty" maxLength:"200" doc:"why not the first to expire"`
}

// Split is what limits one mix.
type Split struct {
	BowlML  float64 `json:"bowl_ml,omitempty" minimum:"0" maximum:"1000000"`
	PourMin float64 `json:"pour_min,omitempty" minimum:"0" maximum:"600" doc:"minutes to pour one copy"`
	Hands   int     `json:"hands,omitempty" minimum:"0" maximum:"20"`
	Moulds  int     `json:"moulds,omitempty" minimum:"0" maximum:"200" doc:"moulds that are free"`
}

// Order is what is to be mixed: by a house recipe, for a piece or for the shop.
type Order struct {
	Piece     string         `json:"piece,omitempty"`
	Recipe    string         `json:"recipe" maxLength:"80"`
	Additions []Addition     `json:"additions,omitempty" maxItems:"20"`
	Lots      []Taken        `json:"lots,omitempty" maxItems:"40"`
	Amount    craft.Question `json:"amount"`
	Split     Split          `json:"split,omitempty"`
	Rise      float64        `json:"rise,omitempty" minimum:"0" maximum:"14" doc:"of foam: how many times its volume; the recipe's where it is left out"`
	WaterC    float64        `json:"water_c,omitempty" minimum:"0" maximum:"80" doc:"of gypsum and alginate: the water; 20 °C where it is left out"`
}

// SheetLine is one line of a pour sheet before it is begun.
type SheetLine struct {
	Ingredient string       `json:"ingredient" doc:"id of the recipe's line: A, B or a material"`
	Material   string       `json:"material"`
	Name       string       `json:"name"`
	Of         string       `json:"of" doc:"what it is of the recipe: parts, or a percentage and of what"`
	Grams      float64      `json:"grams"`
	Tap        bool         `json:"tap" doc:"from the tap: no lot"`
	TopUp      bool         `json:"top_up" doc:"as the weigh-back asks for it"`
	Lot        string       `json:"lot,omitempty" doc:"chosen lot; empty when no lot covers it"`
	Choice     stock.Choice `json:"choice"`
	// LetDown says how to get so little of it into the cup: thinned in something
	// that is in the mix anyway.
	LetDown string `json:"let_down,omitempty"`
	// LetDownRecipe is a house recipe that makes it weighable.
	LetDownRecipe string `json:"let_down_recipe,omitempty"`
	lotID         *uint64
	why           string
}

// Sheet is a pour sheet before it is begun.
type Sheet struct {
	Name   string        `json:"name"`
	Makes  string        `json:"makes"`
	Number int           `json:"number" doc:"agreed version of the recipe; 0 as it came"`
	Amount craft.Answer  `json:"amount"`
	TotalG float64       `json:"total_g"`
	Lines  []SheetLine   `json:"lines" doc:"in the order of pouring"`
	Steps  []recipe.Step `json:"steps" doc:"every step in order"`
	Recipe recipe.Recipe `json:"recipe"`
	// Short says what is missing; empty when the sheet can be begun.
	Short   string           `json:"short,omitempty"`
	Follows recipe.Follows   `json:"follows"`
	Working cure.WorkingTime `json:"working"`
	// Mixes is how it is divided, where a bowl, the pot life, hands or moulds limit it.
	Mixes    craft.BatchPlan `json:"mixes"`
	BowlML   float64         `json:"bowl_ml" doc:"of the bowl that is reckoned with: the one typed, else the shop's largest; 0 where nobody said"`
	VolumeML float64         `json:"volume_ml" doc:"of the whole in the bowl at its highest, for the cup"`
	Learned  *Learned        `json:"learned,omitempty" doc:"what mixes of before say of waste and minutes"`
}

// Line is one line of a mix on the bench.
type Line struct {
	Seq        int     `json:"seq"`
	Ingredient string  `json:"ingredient"`
	Material   string  `json:"material"`
	Name       string  `json:"name"`
	Lot        string  `json:"lot,omitempty"`
	LotSeen    bool    `json:"lot_seen" doc:"the tag of the pot was read"`
	PlannedG   float64 `json:"planned_g"`
	TargetG    float64 `json:"target_g"`
	InCupG     float64 `json:"in_cup_g"`
	AddG       float64 `json:"add_g"`
	OverG      float64 `json:"over_g"`
	TolG       float64 `json:"tolerance_g"`
	TopUp      bool    `json:"top_up"`
	Done       bool    `json:"done"`
}

// StepView is a step that is no weighing, as it stands.
type StepView struct {
	Seq int `json:"seq"`
	recipe.Step
	BegunAt *time.Time `json:"begun_at,omitempty"`
	DoneAt  *time.Time `json:"done_at,omitempty"`
	By      string     `json:"by,omitempty"`
	LeftS   float64    `json:"left_s" doc:"of a timed step that was begun"`
	Value   *float64   `json:"value,omitempty" doc:"what was measured: ml, g or s"`
	Note    string     `json:"note,omitempty"`
}

// Fills is what a mix still fills.
type Fills struct {
	ByMass  int      `json:"by_mass"`
	Next    []string `json:"next" doc:"moulds that are ready, the one that rested longest first"`
	PerG    float64  `json:"per_g" doc:"what one takes, g"`
	RiseIs  float64  `json:"rise_is,omitempty" doc:"of foam: how many times its volume it stands at"`
	Warning string   `json:"warning,omitempty" doc:"the time is nearly over"`
}

// View is a mix as the bench shows it.
type View struct {
	Code      string           `json:"code"`
	Piece     string           `json:"piece,omitempty"`
	PieceName string           `json:"piece_name,omitempty"`
	Recipe    string           `json:"recipe"`
	Number    int              `json:"number"`
	Material  string           `json:"material"`
	Name      string           `json:"name"`
	State     string           `json:"state" enum:"planned,weighing,poured,abandoned,put_by,used"`
	PlannedG  float64          `json:"planned_g"`
	TotalG    float64          `json:"total_g"`
	MassG     float64          `json:"mass_g" doc:"what is in the cup now, less the water that a melt cost"`
	Pours     int              `json:"pours"`
	Lines     []Line           `json:"lines"`
	Steps     []StepView       `json:"steps"`
	Current   int              `json:"current" doc:"seq of the line or step that is next; 0 when everything is done"`
	Ready     bool             `json:"ready" doc:"it may be poured, put by or used; a test may still go on"`
	Message   string           `json:"message,omitempty" doc:"what an overshoot did to the sheet, or what a weigh-back asks for"`
	OnScale   bool             `json:"on_scale"`
	BaseG     float64          `json:"base_g" doc:"what the scale showed when the current line began"`
	CarriedG  float64          `json:"carried_g" doc:"poured in the current line before the scale was zeroed"`
	ContactAt *time.Time       `json:"contact_at,omitempty"`
	Working   cure.WorkingTime `json:"working"`
	Fills     Fills            `json:"fills"`
	PlannedAt time.Time        `json:"planned_at"`
	PlannedBy string           `json:"planned_by"`
	EndReason string           `json:"end_reason,omitempty"`
	// Clean is what there is to clean afterwards, by what was in it.
	Clean     []hands.Cleaning `json:"clean"`
	Run       string           `json:"run,omitempty"`
	PutBy     string           `json:"put_by,omitempty" doc:"lot that it was put by as"`
	Parent    string           `json:"parent,omitempty" doc:"mix that it was divided from"`
	Note      string           `json:"note,omitempty"`
	KeepH     float64          `json:"keep_h" doc:"how long it may be put by; 0: not at all"`
	Follows   recipe.Follows   `json:"follows"`
	Confirmed bool             `json:"confirmed" doc:"who is signed in has confirmed what is to be confirmed"`
	Moulds    []Mould          `json:"moulds" doc:"moulds of the piece with their state"`
	Runs      []string         `json:"runs" doc:"runs of the piece that wait for it"`
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
	PieceID   *uint64 `db:"piece_id"`
	Piece     string
	PieceName string `db:"piece_name"`
	Section   int    `db:"section_number"`
	Slug      string
	Recipe    json.RawMessage
	Amount    json.RawMessage
	Confirmed *string
	House     string   `db:"recipe_slug"`
	Number    int      `db:"recipe_number"`
	PlannedG  float64  `db:"planned_g"`
	Parent    *string  `db:"parent"`
	ParentID  *uint64  `db:"parent_id"`
	Share     float64  `db:"share"`
	WaterC    *float64 `db:"water_c"`
	RoomC     *float64 `db:"room_c"`
	RH        *float64 `db:"rh"`
	Note      string
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
	LotCode   *string    `db:"lot_code"`
}

// piece is the piece's id, 0 for a mix of the shop.
func (r row) piece() uint64 {
	if r.PieceID == nil {
		return 0
	}
	return *r.PieceID
}

type lineRow struct {
	ID         uint64
	Seq        int
	Ingredient string
	Material   string
	Lot        *string
	LotID      *uint64    `db:"lot_id"`
	SeenAt     *time.Time `db:"seen_at"`
	PlannedG   float64    `db:"planned_g"`
	InCupG     float64    `db:"in_cup_g"`
	Done       bool
}

type stepRow struct {
	ID      uint64
	Seq     int
	Plan    json.RawMessage
	BegunAt *time.Time `db:"begun_at"`
	DoneAt  *time.Time `db:"done_at"`
	By      *string    `db:"by_name"`
	Value   *float64
	Note    string
}
