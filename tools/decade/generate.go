package main

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shop"
)

// How busy the shop was.
const (
	people        = 20
	productions   = 600
	perProduction = 34 // pieces; 20,400 in all
	password      = "ten years of patience"
)

// bulk collects rows for one table and writes them in large parts.
type bulk struct {
	ctx   context.Context
	db    *sqlx.DB
	into  string
	args  []any
	n     int
	width int
	err   error
}

func (b *bulk) add(values ...any) {
	b.width = len(values)
	b.args, b.n = append(b.args, values...), b.n+1
	if b.n == 1500 {
		b.flush()
	}
}

func (b *bulk) flush() {
	if b.n == 0 || b.err != nil {
		return
	}
	row := "(" + strings.TrimSuffix(strings.Repeat("?,", b.width), ",") + ")"
	_, b.err = b.db.ExecContext(b.ctx, "INSERT INTO "+b.into+" VALUES "+strings.TrimSuffix(strings.Repeat(row+",", b.n), ","), b.args...)
	b.args, b.n = b.args[:0], 0
}

// decade is what is being told.
type decade struct {
	rng        *rand.Rand
	now, start time.Time
	tables     map[string]*bulk
	open       func(into string) *bulk
	order      []string
	material   map[string]int
	lots       map[string]*lotSeries
	ids        map[string]int
	sectionDoc string
	briefDoc   string
	sheet      string
}

func (d *decade) next(what string) int { d.ids[what]++; return d.ids[what] }

func (d *decade) put(into string, values ...any) {
	b := d.tables[into]
	if b == nil {
		b = d.open(into)
		d.tables[into] = b
		d.order = append(d.order, into)
	}
	b.add(values...)
}

func generate(ctx context.Context, dsn, files string) error {
	c, err := database.ParseDSN(dsn)
	if err != nil {
		return err
	}
	c.Params = map[string]string{"unique_checks": "0", "foreign_key_checks": "0", "innodb_lock_wait_timeout": "600"}
	db, err := database.Open(ctx, c.FormatDSN())
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	s, err := shop.New(ctx, shop.Config{FilesDir: files}, db, clock.System{}, device.NewSimulatedScale(1, time.Now), device.NewSimulatedRoom(1))
	if err != nil {
		return err
	}
	roles := []accounts.Role{accounts.Lead, accounts.Fabricator, accounts.Fabricator, accounts.Apprentice}
	for i := range people {
		if _, err := s.Accounts.Add(ctx, fmt.Sprintf("p%d", i+1), fmt.Sprintf("Maker %d", i+1), roles[i%len(roles)], password, time.Now().UTC()); err != nil {
			return err
		}
	}
	now := time.Now().UTC().Truncate(10 * time.Minute)
	d := &decade{rng: rand.New(rand.NewPCG(10, 10)), now: now, start: now.AddDate(-10, 0, 0), tables: map[string]*bulk{}, material: map[string]int{}, lots: map[string]*lotSeries{}, ids: map[string]int{}}
	d.open = func(into string) *bulk { return &bulk{ctx: ctx, db: db.DB, into: into} }
	var known []struct {
		ID   int
		Slug string
	}
	if err := db.SelectContext(ctx, &known, `SELECT id, slug FROM material`); err != nil {
		return err
	}
	for _, m := range known {
		d.material[m.Slug] = m.ID
	}
	d.put("contact (id, name, what)", 1, "Jun Abbot", "makeup artist")
	d.documents()
	d.room()
	for i := range productions {
		d.production(i)
	}
	for _, series := range []string{"mix", "run", "kit"} {
		d.put("counter (name, value)", series, d.ids[series])
	}
	for _, into := range d.order {
		d.tables[into].flush()
		if err := d.tables[into].err; err != nil {
			return fmt.Errorf("%s: %w", into, err)
		}
	}
	return d.finish(ctx, db)
}

func (d *decade) documents() {
	s := section.Start(34)
	s.Layers = append(s.Layers,
		section.Layer{ID: "barrier", Kind: section.Barrier, Material: "barrier-film", Coats: 1, CoatMM: 0.01},
		section.Layer{ID: "glue", Kind: section.Adhesive, Material: "adhesive-acrylic", Coats: 2, CoatMM: 0.04},
		section.Layer{ID: "inner", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 2, CoatMM: 0.02},
		section.Layer{ID: "body", Kind: section.Silicone, Material: "silicone-gel", CentreMM: 5},
		section.Layer{ID: "outer", Kind: section.Encapsulator, Material: "encapsulator-acetone", Coats: 3, CoatMM: 0.02})
	raw, _ := json.Marshal(s)
	d.sectionDoc = string(raw)
	raw, _ = json.Marshal(piece.Brief{Camera: "medium", AreaCM2: 34, KeepFree: []string{}, Features: []piece.Feature{}})
	d.briefDoc = string(raw)
	d.sheet = `{"system":"addition","pot_s":720,"gel_s":2400,"demould_s":14400,"full_s":86400,"ref_c":23}`
}

// room is the log of the air: every tenth minute, by the minute for the last
// sixty days.
func (d *decade) room() {
	fine := d.now.AddDate(0, 0, -60)
	for at := d.start; at.Before(d.now); {
		temp := 20.5 + 1.5*float64(at.Hour()-12)/12
		d.put("room_reading (at, temp_c, rh)", at, temp, 0.5)
		if at.Before(fine) {
			at = at.Add(10 * time.Minute)
		} else {
			at = at.Add(time.Minute)
		}
	}
}

// lotSeries hands out lots of a material one after another.
type lotSeries struct{ id, used int }

func (d *decade) lot(slug, part string, lasts int, at time.Time) int {
	key := slug + part
	l := d.lots[key]
	if l == nil || l.used >= lasts {
		l = &lotSeries{id: d.next("lot")}
		d.lots[key] = l
		code := fmt.Sprintf("%s-%04d", strings.ToUpper(slug), d.next("lots of "+key))
		received := at.AddDate(0, 0, -7)
		d.put("lot (id, code, part, material_id, supplier, received_on, expires_on, opened_on, shelf)", l.id, code, part, d.material[slug], "Harrow Rubber Works", received, received.AddDate(2, 0, 0), at, "cold 1")
		d.put("movement (lot_id, grams, reason, at, person_id)", l.id, 20000, "received", received, 1)
	}
	l.used++
	return l.id
}

// finish marks the lots that are over, with the count that closed them, and
// leaves the tables' statistics fresh.
func (d *decade) finish(ctx context.Context, db *database.DB) error {
	var current []int
	for _, l := range d.lots {
		current = append(current, l.id)
	}
	over, args, err := sqlx.In(`UPDATE lot SET used_up_at = DATE_ADD(received_on, INTERVAL 60 DAY) WHERE id NOT IN (?)`, current)
	if err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, over, args...); err != nil {
		return err
	}
	for _, q := range []string{
		`INSERT INTO movement (lot_id, grams, reason, at, person_id) SELECT v.lot_id, -SUM(v.grams), 'counted', MAX(v.at), 1 FROM movement v JOIN lot l ON l.id = v.lot_id WHERE l.used_up_at IS NOT NULL GROUP BY v.lot_id`,
		`REPLACE INTO stock_value (material_id, grams, minor) SELECT l.material_id, SUM(v.grams), 0 FROM movement v JOIN lot l ON l.id = v.lot_id GROUP BY l.material_id`,
		`ANALYZE TABLE piece, copy, mix, mix_line, weigh_in, movement, lot, journal, pot, kit, kit_copy, document, document_version, run, run_mix, run_stage, finish_tick, verdict`,
	} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return err
		}
	}
	return nil
}
