package handover

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/outing"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// day is everything that a kit's day is worked out from.
type day struct {
	kit     Kit
	pieces  []outing.Piece
	around  map[string]piece.Surroundings // by piece
	of      map[string]piece.Piece
	air     outing.Day
	choices outing.Choices
	version int // of the choices; 0 where nobody chose yet
	shelf   material.Shelf
	colours []outing.Colour
	ages    map[string]float64 // days since the oldest copy of a piece was made
}

// usualReady is when a wearer is wanted on set where nobody said it, minute of the day.
const usualReady = 8 * 60

// choicesOf reads what the people of a kit's morning decided, and its version.
func choicesOf(ctx context.Context, db database.Reader, k Kit) (outing.Choices, int, error) {
	c := outing.Choices{ReadyMin: usualReady, Artists: []string{k.Artist}}
	var row struct {
		Doc     string
		Version int
	}
	err := db.GetContext(ctx, &row, `SELECT doc, version FROM kit_chair WHERE kit_id = ?`, k.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return c, 0, nil
	}
	if err != nil {
		return c, 0, fmt.Errorf("reading what the morning decided: %w", err)
	}
	if err := json.Unmarshal([]byte(row.Doc), &c); err != nil {
		return c, 0, fmt.Errorf("reading what the morning decided: %w", err)
	}
	return c, row.Version, nil
}

// dayOf gathers a kit's day: its pieces by the version that each was made on, the air of its day, and what was chosen.
func (s *Service) dayOf(ctx context.Context, db database.Reader, k Kit) (day, error) {
	d := day{kit: k, around: map[string]piece.Surroundings{}, of: map[string]piece.Piece{}, ages: map[string]float64{}}
	var err error
	if d.choices, d.version, err = choicesOf(ctx, db, k); err != nil {
		return d, err
	}
	return d, s.fillDay(ctx, db, &d)
}

func (s *Service) fillDay(ctx context.Context, db database.Reader, d *day) error {
	var err error
	if d.shelf, err = shelf.Load(ctx, db); err != nil {
		return err
	}
	var air struct {
		TempC float64 `db:"temp_c"`
		RH    float64 `db:"rh"`
		Rain  bool
	}
	if err := db.GetContext(ctx, &air, `SELECT d.temp_c, d.rh, d.rain FROM kit k JOIN shooting_day d ON d.id = k.day_id WHERE k.id = ?`, d.kit.ID); err != nil {
		return fmt.Errorf("reading the kit's day: %w", err)
	}
	c := d.choices
	d.air = outing.Day{AirC: air.TempC, RH: air.RH, Rain: air.Rain, RoomC: c.RoomC, RoomRH: c.RoomRH, Air: c.Air, Takes: c.Takes, Uses: max(1, c.Times) * max(1, len(d.kit.Days)), Hours: c.Hours}
	if d.air.RoomC == 0 {
		d.air.RoomC = 21
	}
	if d.air.RoomRH == 0 {
		d.air.RoomRH = 0.5
	}
	for _, kc := range d.kit.Copies {
		if i := slices.IndexFunc(d.pieces, func(p outing.Piece) bool { return p.Code == kc.Piece }); i >= 0 {
			d.pieces[i].Copies++
			continue
		}
		if err := s.addPiece(ctx, db, d, kc); err != nil {
			return err
		}
	}
	if d.air.Hours == 0 {
		d.air.Hours = 6
	}
	return s.madeDays(ctx, db, d)
}

func (s *Service) addPiece(ctx context.Context, db database.Reader, d *day, kc KitCopy) error {
	p, err := piece.Find(ctx, db, kc.Piece)
	if err != nil {
		return err
	}
	worn, around, err := s.Pieces.Outing(ctx, db, p, kc.Section, d.shelf)
	if err != nil {
		return err
	}
	worn.Copies = 1
	d.pieces, d.around[p.Code], d.of[p.Code] = append(d.pieces, worn), around, p
	if d.choices.Hours == 0 {
		d.air.Hours = max(d.air.Hours, around.Brief.WearHours)
	}
	if harder(around.Brief.Exertion, d.air.Exertion) {
		d.air.Exertion = around.Brief.Exertion
	}
	list, err := s.Colours.ForTheDay(ctx, db, p.Code)
	if err != nil {
		return err
	}
	for _, t := range list {
		c := outing.Colour{Slug: t.Slug, Medium: t.Medium, Name: t.Name, Place: t.Place}
		if !slices.Contains(d.colours, c) {
			d.colours = append(d.colours, c)
		}
	}
	return nil
}

// harder says whether one exertion wears more than another.
func harder(a, b string) bool {
	order := []string{"", "still", "acting", "walking", "running"}
	return slices.Index(order, a) > slices.Index(order, b)
}

// madeDays is how old copies are on the day.
func (s *Service) madeDays(ctx context.Context, db database.Reader, d *day) error {
	var rows []struct {
		Piece string
		Made  time.Time
	}
	if err := db.SelectContext(ctx, &rows, `SELECT q.code AS piece, MIN(c.made_at) AS made FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id WHERE kc.kit_id = ? GROUP BY q.code`, d.kit.ID); err != nil {
		return fmt.Errorf("reading how old the copies are: %w", err)
	}
	for _, r := range rows {
		d.ages[r.Piece] = max(0, d.kit.Day.Sub(r.Made).Hours()/24)
	}
	return nil
}

// wearer is whose kit it is, for papers; their initials where it is nobody's alone.
func (d day) wearer() string {
	if d.kit.Performer != "" {
		return d.kit.Performer
	}
	var names []string
	for _, p := range d.of {
		if p.Performer != nil && !slices.Contains(names, *p.Performer) {
			names = append(names, *p.Performer)
		}
	}
	slices.Sort(names)
	return strings.Join(names, ", ")
}
