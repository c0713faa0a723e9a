// Package shop wires the rooms together: which service stands where, who takes
// whose acts, and what of it is reached over HTTP. It is the one place that
// knows every room; the command, the demo and the tests begin here.
package shop

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/calc"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	craftmix "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/device"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/turns"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/production"
	"yewmoor/internal/recipes"
	"yewmoor/internal/round"
	"yewmoor/internal/station/brief"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/check"
	"yewmoor/internal/station/colour"
	"yewmoor/internal/station/cost"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/form"
	"yewmoor/internal/station/handover"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/mould"
	"yewmoor/internal/station/plan"
	"yewmoor/internal/station/sculpt"
	"yewmoor/internal/station/stores"
	"yewmoor/internal/station/today"
	"yewmoor/internal/work"
)

// Version is the product's, as the API document says it.
const Version = "0.1.0"

// Config is what an installation decides.
type Config struct {
	PublicURL string // where links and QR codes lead
	FilesDir  string
	Secure    bool     // people reach it by TLS only
	Proxies   []string // whose word on a caller's address is believed
	Metrics   string   // an address of their own for figures; empty keeps them on the server's
	// Demo opens the sign-in page to the demo people and lets the bench clock
	// be moved on.
	Demo bool
}

// Shop is every room, wired.
type Shop struct {
	Config      Config
	DB          *database.DB
	Clock       clock.Clock
	Live        *live.Hub
	Turns       *turns.Turns // for calculations that take a processor
	Accounts    *accounts.Service
	People      *people.Service
	Productions *production.Service
	Files       *files.Store
	Jobs        *jobs.Service
	Pieces      *piece.Service
	Brief       *brief.Service
	Recipes     *recipes.Service
	Stores      *stores.Service
	Form        *form.Service
	Mould       *mould.Service
	Sculpt      *sculpt.Service
	Mix         *mix.Service
	Build       *build.Service
	Colour      *colour.Service
	Finish      *finish.Service
	Check       *check.Service
	Handover    *handover.Service
	Today       *today.Service
	Worked      *work.Service
	Cost        *cost.Service
	Plan        *plan.Service
}

// New wires the rooms over an open, migrated database. It brings in materials
// of the built-in library that the shop does not have yet.
func New(ctx context.Context, c Config, db *database.DB, now clock.Clock, scale device.Scale, sensor device.RoomSensor) (*Shop, error) {
	s := &Shop{Config: c, DB: db, Clock: now, Live: &live.Hub{}, Turns: turns.New("a calculation", runtime.GOMAXPROCS(0), 64)}
	var err error
	if s.Files, err = files.NewStore(c.FilesDir); err != nil {
		return nil, err
	}
	s.Accounts = accounts.NewService(db, c.Secure)
	s.Accounts.Open = c.Demo
	s.Accounts.Note = func(ctx context.Context, tx database.Tx, login, act string) error {
		_, err := journal.Add(ctx, tx, journal.Entry{At: now.Now(), Kind: "account", Code: login, Act: act})
		return err
	}
	air := &build.Air{DB: db, Clock: now, Sensor: sensor, Probe: device.NoProbe{}}
	if c.Demo {
		air.Probe = device.SimulatedProbe{}
	}
	s.Productions = &production.Service{DB: db, Clock: now, Live: s.Live}
	s.People = &people.Service{DB: db, Clock: now, Live: s.Live, Forms: &people.Forms{}}
	s.Pieces = &piece.Service{DB: db, Clock: now, Live: s.Live, Air: air, People: s.People, Productions: s.Productions, Documents: &document.Service{DB: db, Clock: now},
		// A season's pieces in work, at some 10 kB each.
		Worked: kept.Answers[piece.Consequence]{Most: 1000}}
	s.Pieces.Remember(1000)
	s.People.Worn = s.Pieces
	s.Brief = &brief.Service{DB: db, Clock: now, Live: s.Live, Pieces: s.Pieces, People: s.People, Productions: s.Productions, Files: s.Files, Forecast: device.NoForecast{}, Reader: device.NoReader{}}
	if c.Demo {
		s.Brief.Forecast, s.Brief.Reader = device.SimulatedForecast{Seed: 1}, &device.SimulatedReader{Seed: 1}
	}
	s.Pieces.Around = s.Brief
	s.Stores = &stores.Service{DB: db, Clock: now, Live: s.Live, Files: s.Files, PublicURL: c.PublicURL}
	s.Recipes = &recipes.Service{DB: db, Clock: now, Live: s.Live, Documents: s.Pieces.Documents}
	s.Jobs = jobs.New(db, s.Live)
	s.Form = &form.Service{DB: db, Clock: now, Live: s.Live, Files: s.Files, People: s.People, Jobs: s.Jobs, Uploads: &files.Uploads{Store: s.Files, DB: db, Now: time.Now}, PublicURL: c.PublicURL}
	s.Form.Does()
	s.Sculpt = &sculpt.Service{DB: db, Clock: now, Live: s.Live, Pieces: s.Pieces, People: s.People, Files: s.Files, Turns: s.Turns, Scans: sculptScans{s.Form}}
	s.Sculpt.Remember(6)
	s.Brief.Clay = s.Sculpt
	s.Pieces.Scans, s.Pieces.Amounts = pieceScans{s.Form}, s.Sculpt
	s.Mould = &mould.Service{DB: db, Clock: now, Live: s.Live, Files: s.Files, Sculpt: s.Sculpt, Scans: mouldScans{s.Form}, Pieces: s.Pieces, PublicURL: c.PublicURL}
	s.Pieces.Moulds = s.Mould
	s.Build = &build.Service{DB: db, Clock: now, Live: s.Live, Air: air, Pieces: s.Pieces, Moulds: buildMoulds{s.Mould}, Stores: s.Stores}
	s.Build.Remember(256)
	s.Plan = &plan.Service{DB: db, Clock: now, Live: s.Live, Pieces: s.Pieces, Turns: s.Turns, MouldDries: mould.UsualDry, Shooting: s.Productions}
	s.Stores.Work = storesWork{s.Build, s.Pieces, s.Plan}
	s.Mix = &mix.Service{DB: db, Clock: now, Live: s.Live, Stores: mixStores{s.Stores}, Build: mixBuilder{s.Build}, Scale: scale, Sure: s.Plan.HowSure}
	s.Colour = &colour.Service{DB: db, Clock: now, Live: s.Live, Pieces: s.Pieces, Wearers: colourWearers{s.Brief},
		Stores: colourStores{s.Stores, now},
		Mixes:  colourMixes{s.Mix}, Reader: s.Brief.Reader, Files: s.Files, Turns: s.Turns}
	s.Finish = &finish.Service{DB: db, Clock: now, Live: s.Live, Files: s.Files, Pieces: s.Pieces, Lots: finishLots{s.Stores, now}, Turns: s.Turns}
	s.Build.Finish = s.Finish
	s.Check = &check.Service{DB: db, Clock: now, Live: s.Live, Files: s.Files, Pieces: s.Pieces, Finish: checkFinish{s.Finish}, Brief: s.Brief, Build: s.Build, Moulds: s.Mould,
		Recipes: s.Recipes, Turns: s.Turns}
	s.Handover = &handover.Service{DB: db, Clock: now, Real: time.Now, Live: s.Live, Pieces: s.Pieces, Lots: handoverLots{s.Stores},
		Colours: dayColours{s.Colour}, Maps: s.Brief, Pots: handoverPots{s.Build}, Files: s.Files, PublicURL: c.PublicURL}
	s.Stores.Kits = s.Handover
	s.Today = &today.Service{DB: db, Clock: now, Live: s.Live, Pots: todayPots{s.Build}, Stores: todayStores{s.Stores}}
	s.Plan.Work = planWork{s.Build, s.Mould, s.Stores, s.Pieces, s.Sculpt, s.Brief, s.Mix}
	s.Worked = &work.Service{DB: db, Clock: now, Live: s.Live}
	s.Today.Planner = todayPlan{s.Plan}
	s.Cost = &cost.Service{DB: db, Clock: now, Live: s.Live, Pieces: s.Pieces, Work: costWork{s.Plan}}
	s.Plan.Money = planMoney{s.Cost}
	s.Plan.DoJobs(s.Jobs)
	s.Plan.Weather = s.Brief.Forecast
	s.Plan.Remember(16)
	return s, errors.Join(s.bringLibrary(ctx), s.hold(ctx))
}

// bringLibrary puts the built-in materials on the shelf, and gives those that
// an older version brought the facts that they lack. What the shop knows of a
// material itself always stands.
func (s *Shop) bringLibrary(ctx context.Context) error {
	list, err := material.Library()
	if err != nil {
		return err
	}
	for _, p := range list {
		raw, err := json.Marshal(p)
		if err != nil {
			return err
		}
		if _, err := s.DB.ExecContext(ctx, `INSERT IGNORE INTO material (slug, name, family, facts) VALUES (?,?,?,?)`, p.Slug, p.Name, p.Family, string(raw)); err != nil {
			return fmt.Errorf("bringing in the material library: %w", err)
		}
		var here string
		if err := s.DB.GetContext(ctx, &here, `SELECT facts FROM material WHERE slug = ?`, p.Slug); err != nil {
			return err
		}
		whole := p
		if err := json.Unmarshal([]byte(here), &whole); err != nil {
			return fmt.Errorf("reading the material %s: %w", p.Slug, err)
		}
		if raw, err = json.Marshal(whole); err != nil {
			return err
		}
		if string(raw) != here {
			if _, err := s.DB.ExecContext(ctx, `UPDATE material SET facts = ? WHERE slug = ?`, string(raw), p.Slug); err != nil {
				return fmt.Errorf("completing the material library: %w", err)
			}
		}
	}
	return nil
}

// mouldScans lets the mould room see what scans know of a piece's body, in mm.
type mouldScans struct{ *form.Service }

func (m mouldScans) Body(ctx context.Context, code string) (mould.Scanned, error) {
	c, known, err := m.BodyOf(ctx, code)
	if err != nil || !known {
		return mould.Scanned{}, err
	}
	out := mould.Scanned{Known: true, Name: c.Name}
	if k := c.Measured; k != nil {
		a := k.Around
		out.Body = mouldmath.Body{AreaMM2: a.AreaMM2, VolumeMM3: a.VolumeMM3, SizeMM: a.Size, Bend: a.Bend, Euler: a.Euler, Watertight: a.Watertight, Scanned: true}
		out.LocksMM2, out.CavityMM3 = k.Pull.Undercut, k.Thickness.CavityMM3
		return out, nil
	}
	out.Body = c.Body()
	return out, nil
}

// sculptScans lets the sculpting room see what the newest scan shows.
type sculptScans struct{ *form.Service }

func (m sculptScans) Places(ctx context.Context, _ database.Reader, code string) ([]sculpt.Place, error) {
	f, err := m.FoundOf(ctx, code)
	var out []sculpt.Place
	for _, p := range f.Places {
		out = append(out, sculpt.Place{Hole: p.Kind == "core_contact", Words: p.Words})
	}
	return out, err
}

// pieceScans lets the section see what the newest scan of its piece shows.
type pieceScans struct{ *form.Service }

func (m pieceScans) Scanned(ctx context.Context, code string) (*rules.Scanned, error) {
	f, err := m.FoundOf(ctx, code)
	if err != nil || f.Scan == 0 || len(f.ProfileMM) == 0 {
		return nil, err
	}
	return &rules.Scanned{Name: f.Name, EdgeMM: f.ProfileMM[len(f.ProfileMM)-1], MostMM: f.MostMM, VolumeML: f.VolumeML, AreaCM2: f.AreaCM2}, nil
}

// buildMoulds lets the pot shelf see moulds that set and dry.
type buildMoulds struct{ *mould.Service }

func (m buildMoulds) PotOf(ctx context.Context, id uint64) (build.MouldPot, error) {
	p, err := m.Service.PotOf(ctx, id)
	return build.MouldPot(p), err
}

// mixStores lets mixing take lots from the stores.
type mixStores struct{ *stores.Service }

func (m mixStores) LotsOf(ctx context.Context, db database.Reader, slug string) ([]mix.Lot, error) {
	list, err := m.Lots(ctx, db, slug)
	out := make([]mix.Lot, len(list))
	for i, l := range list {
		out[i] = mix.Lot{ID: l.ID, Lot: l.Stock(), Batch: (*mix.Batch)(l.BatchOf())}
	}
	return out, err
}

func (m mixStores) PutBy(ctx context.Context, tx database.Tx, p mix.PutBy) error {
	return m.Service.PutBy(ctx, tx, stores.PutBy{MixID: p.MixID, Code: p.Code, Material: p.Material, Grams: p.Grams, UseBy: p.UseBy, Shelf: p.Shelf, Batch: (*stores.Batch)(p.Batch)})
}

// todayStores lets Today see what is to be ordered and who is to be told.
type todayStores struct{ *stores.Service }

func (t todayStores) Due(ctx context.Context) ([]today.Due, error) {
	list, err := t.Service.Due(ctx)
	out := make([]today.Due, len(list))
	for i, d := range list {
		out[i] = today.Due(d)
	}
	return out, err
}

// storesWork lets the stores see what runs and days will take.
type storesWork struct {
	build  *build.Service
	pieces *piece.Service
	plan   *plan.Service
}

func (w storesWork) Wants(ctx context.Context, db database.Reader) ([]stores.Want, error) {
	planned := w.plan.Begins()
	list, err := w.build.Ahead(ctx, func(code string, day uint64, missing int) (out []build.Begun) {
		for _, b := range planned {
			if b.Piece == code && b.DayID == day && b.Missing == missing {
				out = append(out, build.Begun{On: b.On, Copies: b.Copies})
			}
		}
		return out
	})
	if err != nil {
		return nil, err
	}
	out := make([]stores.Want, len(list))
	for i, l := range list {
		out[i] = stores.Want{For: l.For, Material: l.Material, Grams: l.Grams, On: l.On, Body: true}
	}
	return out, nil
}

func (w storesWork) PieceWants(ctx context.Context, code string, copies int) ([]stores.Want, error) {
	p, err := piece.Find(ctx, w.pieces.DB, code)
	if err != nil {
		return nil, err
	}
	list, err := w.build.Wanted(ctx, p)
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, problem.Conflict("no_section", "The section of %s is not agreed yet: nobody knows what it takes.", code)
	}
	var out []stores.Want
	for _, l := range list {
		for _, n := range l.Takes() {
			out = append(out, stores.Want{For: code, Material: n.Material, Grams: n.Grams * float64(copies), Body: l.Body})
		}
	}
	return out, nil
}

// colourWearers lets the colour room know what was read of a wearer.
type colourWearers struct{ *brief.Service }

func (w colourWearers) SkinOf(ctx context.Context, performer uint64) ([]colour.Target, error) {
	body, err := w.Body(ctx, performer)
	if err != nil {
		return nil, err
	}
	out := []colour.Target{}
	for _, s := range body.Skin {
		out = append(out, colour.Target{Region: s.Region, Text: s.Text, Side: s.Side, Lab: s.Result.Mean, Readings: len(s.Result.Kept),
			Aside: len(s.Readings) - len(s.Result.Kept), MCDM: s.Result.MCDM, Uncertain: s.Result.Uncertain, Guess: s.Guess, R: s.R})
	}
	return out, nil
}

// dayColours tells the hand-over what a piece is touched up with.
type dayColours struct{ *colour.Service }

func (d dayColours) ForTheDay(ctx context.Context, db database.Reader, code string) ([]handover.TouchUp, error) {
	list, err := d.DayList(ctx, db, code)
	out := make([]handover.TouchUp, len(list))
	for i, c := range list {
		out[i] = handover.TouchUp{Name: c.Name, Slug: c.Slug, Medium: c.Medium, Place: c.Place, Lab: c.Lab}
		if c.Carry > 0 {
			out[i].Place = strings.TrimPrefix(fmt.Sprintf("%s, %.0f mm past the edge", c.Place, c.Carry), ", ")
		}
	}
	return out, err
}

// handoverPots tells when the next copy of a piece is out.
type handoverPots struct{ *build.Service }

func (h handoverPots) NextOut(ctx context.Context, piece string) (time.Time, error) {
	pots, err := h.Shelf(ctx)
	var next time.Time
	for _, p := range pots {
		if p.Piece == piece && p.Copy != "" && p.ReadyAt != nil && (next.IsZero() || p.ReadyAt.Before(next)) {
			next = *p.ReadyAt
		}
	}
	return next, err
}

// handoverLots lets a kit be filled from the stores, and be told of recalls.
type handoverLots struct{ *stores.Service }

func (h handoverLots) KitLetters(ctx context.Context, db database.Reader, kit string) ([]handover.KitLetter, error) {
	list, err := h.LettersOf(ctx, db, kit)
	out := make([]handover.KitLetter, len(list))
	for i, l := range list {
		out[i] = handover.KitLetter(l)
	}
	return out, err
}

// colourStores tells the colour room what of a pigment may be taken.
type colourStores struct {
	*stores.Service
	now clock.Clock
}

func (c colourStores) Usable(ctx context.Context, db database.Reader, slug string) (lot string, grams float64, err error) {
	list, err := c.Lots(ctx, db, slug)
	for _, l := range list {
		if l.Stock().Refusal(clock.DayNumber(c.now.Now())) == "" && l.OnHandG > grams {
			lot, grams = l.Code, l.OnHandG
		}
	}
	return lot, grams, err
}

func (c colourStores) LotID(ctx context.Context, db database.Reader, slug, code string) (uint64, error) {
	list, err := c.Lots(ctx, db, slug)
	for _, l := range list {
		if l.Code == code {
			return l.ID, err
		}
	}
	if err != nil {
		return 0, err
	}
	return 0, problem.NotFound("lot", code)
}

// colourMixes lets the colour room write a coloured body down as a mix.
type colourMixes struct{ *mix.Service }

func (c colourMixes) Tinted(ctx context.Context, tx database.Tx, t colour.Tint) (string, error) {
	out := mix.Tint{Piece: t.Piece, Layer: t.Layer, Material: t.Material, BaseG: t.BaseG}
	for _, w := range t.Pigments {
		out.Pigments = append(out.Pigments, mix.TintPart{Material: w.Material, Per100G: w.Grams})
	}
	return c.Service.Tinted(ctx, tx, out)
}

func (c colourMixes) InCup(ctx context.Context, db database.Reader, code string) (colour.InCup, error) {
	cup, err := c.InCupOf(ctx, db, code)
	out := colour.InCup{State: cup.State, Ended: cup.Ended, Done: cup.Done, BaseG: cup.BaseG}
	for _, w := range cup.Colour {
		out.Colour = append(out.Colour, colour.Weighed(w))
	}
	return out, err
}

func (c colourMixes) PutInto(ctx context.Context, tx database.Tx, code string, more []colour.Weighed, why string) error {
	list := make([]mix.Weighed, len(more))
	for i, m := range more {
		list[i] = mix.Weighed(m)
	}
	return c.Service.PutInto(ctx, tx, code, list, why)
}

// mixBuilder lets mixing start a run in the build room.
type mixBuilder struct{ *build.Service }

func (m mixBuilder) StartRun(ctx context.Context, tx database.Tx, p mix.Pour) (string, []string, error) {
	return m.Service.StartRun(ctx, tx, build.Pour(p))
}

func (m mixBuilder) RoomNow(ctx context.Context, db database.Reader) (mix.Air, error) {
	temp, rh, measured, err := m.Service.RoomNow(ctx, db)
	return mix.Air{TempC: temp, RH: rh, Measured: measured}, err
}

func (m mixBuilder) Wanted(ctx context.Context, p piece.Piece) ([]mix.Wanted, error) {
	list, err := m.Service.Wanted(ctx, p)
	out := make([]mix.Wanted, len(list))
	for i, w := range list {
		out[i] = mix.Wanted{Layer: w.Layer, Material: w.Material, Name: w.Name, EachG: w.EachG, Body: w.Body, Runs: w.Runs, With: []mix.Stir{}}
		for _, st := range w.With {
			out[i].With = append(out[i].With, mix.Stir{Material: st.Material, Percent: st.Percent})
		}
	}
	return out, err
}

// finishLots finds lots that work on a copy may take from.
type finishLots struct {
	*stores.Service
	now clock.Clock
}

func (f finishLots) LotFor(ctx context.Context, db database.Reader, slug, code string) (uint64, error) {
	list, err := f.Lots(ctx, db, slug)
	if err != nil {
		return 0, err
	}
	for _, l := range list {
		if l.Code != code {
			continue
		}
		if why := l.Stock().Refusal(clock.DayNumber(f.now.Now())); why != "" {
			return 0, problem.Invalid("lot_refused", "lot", "Lot %s may not be used: %s. Nothing was recorded.", code, why)
		}
		return l.ID, nil
	}
	return 0, problem.Invalid("unknown_value", "lot", "There is no lot %s of it on the shelf. Nothing was recorded.", code)
}

// checkFinish lets checking see how a copy stands at the bench.
type checkFinish struct{ *finish.Service }

func (f checkFinish) Stand(ctx context.Context, db database.Reader, code string) (check.Stand, error) {
	st, err := f.StandOf(ctx, db, code)
	return check.Stand(st), err
}

// planWork lets the run-up see what is begun, what is missing and what the book forbids.
type planWork struct {
	build  *build.Service
	mould  *mould.Service
	stores *stores.Service
	pieces *piece.Service
	sculpt *sculpt.Service
	brief  *brief.Service
	mix    *mix.Service
}

func (w planWork) Mixes(ctx context.Context, code string, copies, moulds int) (craftmix.BatchPlan, string, error) {
	return w.mix.Divided(ctx, code, copies, moulds)
}

func (w planWork) Clay(ctx context.Context, p piece.Piece) (shape, texture time.Duration, err error) {
	if !slices.Contains([]round.Place{round.Brief, round.Form, round.Sculpt}, p.Place) {
		return 0, 0, nil // it is through the gate
	}
	left := func(planned, spent float64, err error) (time.Duration, error) {
		return time.Duration(max(0, planned-spent) * float64(time.Hour)), err
	}
	if shape, err = left(w.brief.ShapeHours(ctx, p)); err != nil {
		return 0, 0, err
	}
	texture, err = left(w.sculpt.PlannedHours(ctx, p))
	return shape, texture, err
}

func (w planWork) Short(ctx context.Context, code string, n int) (plan.Short, error) {
	can, err := w.stores.Can(ctx, stores.CanMake{Piece: code, Copies: n, Body: true})
	if err != nil || can.Yes {
		return plan.Short{}, err
	}
	out := plan.Short{What: "", By: &time.Time{}}
	for _, l := range can.Lines {
		if l.Lot != "" {
			continue
		}
		out.What = strings.TrimPrefix(out.What+", "+l.Name, ", ")
		by, err := w.stores.Arrives(ctx, l.Material)
		if err != nil {
			return out, err
		}
		switch {
		case by == nil || out.By == nil:
			out.By = nil
		case by.After(*out.By):
			out.By = by
		}
	}
	return out, nil
}

func (w planWork) Ovens(ctx context.Context) ([]plan.OvenAt, error) {
	places, err := w.build.Ovens(ctx)
	out := make([]plan.OvenAt, len(places))
	for i, p := range places {
		out[i] = plan.OvenAt{Code: p.Code, Alone: p.Alone}
		if p.Takes != nil {
			out[i].Takes = *p.Takes
		}
	}
	return out, err
}

func (w planWork) Racks(ctx context.Context) (int, error) { return w.build.RacksTake(ctx) }

func (w planWork) LetAlone(ctx context.Context, tx database.Tx) error {
	return w.build.LetOvensAlone(ctx, tx)
}

func (w planWork) Forbidden(ctx context.Context, code string, lead bool) (string, error) {
	p, err := piece.Find(ctx, w.pieces.DB, code)
	if err != nil {
		return "", err
	}
	f, err := w.pieces.Forbids(ctx, p)
	if err != nil || f == nil || lead && f.Severity == rules.Stop {
		return "", err
	}
	if rules.Private(f.ID) { // what of somebody's health it is, stands with the section for who may know
		return "The rule book has something against it; the piece's section says what.", nil
	}
	return strings.TrimSpace(f.Reason + " " + f.Remedy), nil
}

func (w planWork) OpenRuns(ctx context.Context) ([]plan.OpenRun, error) {
	runs, err := w.build.Runs(ctx, "")
	if err != nil {
		return nil, err
	}
	pots, err := w.build.Shelf(ctx)
	if err != nil {
		return nil, err
	}
	var out []plan.OpenRun
	for _, r := range runs {
		o := plan.OpenRun{Code: r.Code, Piece: r.Piece, Section: r.Section}
		for _, c := range r.Copies {
			if c.State == copies.Making {
				o.Copies = append(o.Copies, c.Code)
				o.Mould = cmp.Or(o.Mould, c.Mould)
			}
		}
		for _, st := range r.Stages {
			if st.DoneAt == nil {
				o.Left = append(o.Left, st.Stage)
			}
		}
		for _, p := range pots {
			if p.Run == r.Code && p.ReadyAt != nil && p.ReadyAt.After(o.From) {
				o.From = *p.ReadyAt
			}
		}
		if len(o.Left) == 0 { // it only waits, and is taken out then
			o.Left = []making.Stage{{Act: "take out"}}
		}
		out = append(out, o)
	}
	return out, nil
}

func (w planWork) Moulds(ctx context.Context) ([]plan.Mould, error) {
	list, err := w.mould.List(ctx, "")
	if err != nil {
		return nil, err
	}
	var out []plan.Mould
	for _, m := range list {
		if m.State == "retired" {
			continue
		}
		p := plan.Mould{Code: m.Code, Piece: m.Piece, Ready: &time.Time{}}
		if m.Life != nil {
			left := max(0, *m.Life-m.Casts)
			p.Left = &left
		}
		if m.State == "wet" || m.State == "drying" {
			pot, err := w.mould.PotOf(ctx, m.ID)
			if err != nil {
				return nil, err
			}
			wait := time.Duration(pot.LeftS * float64(time.Second))
			if m.Gypsum() && !pot.IsSet {
				wait += mould.UsualDry
			}
			ready := w.mould.Clock.Now().Add(wait)
			p.Ready = &ready
		}
		out = append(out, p)
	}
	return out, nil
}

// todayPlan lets Today see what the run-up has for somebody.
type todayPlan struct{ *plan.Service }

func (t todayPlan) TurnsOf(ctx context.Context, person string, lead bool) (now, past []today.Turn, planned map[string]bool, moved []today.Moved, err error) {
	day, err := t.DayOf(ctx, person, lead)
	for _, turn := range day.Turns {
		now = append(now, today.Turn(turn))
	}
	for _, turn := range day.Past {
		past = append(past, today.Turn(turn))
	}
	for _, m := range day.Moved {
		moved = append(moved, today.Moved{Text: m.Text, Who: m.Who, Had: m.Had, Was: m.Was, Is: m.Is})
	}
	return now, past, day.Pieces, moved, err
}

// costWork lets the money go by the plan's own figures.
type costWork struct{ *plan.Service }

func (c costWork) WorkOf(ctx context.Context, p piece.Piece) (cost.PieceWork, error) {
	w, err := c.Service.WorkOf(ctx, p)
	out := cost.PieceWork{Bar: w.Bar, Finish: cost.StageWork(w.Finish), Check: cost.StageWork(w.Check), Pack: cost.StageWork(w.Pack), Mould: cost.StageWork(w.Mould), InMould: w.InMould, OvenH: w.OvenH, OvenTakes: w.OvenTakes}
	for _, st := range w.Stages {
		out.Stages = append(out.Stages, cost.StageWork(st))
	}
	return out, err
}

func (c costWork) BeginFor(ctx context.Context, p piece.Piece, good int) (int, float64, error) {
	e, err := c.Service.BeginFor(ctx, p, good)
	if e.Test {
		e.Begin = 0 // the number says only that nothing is known
	}
	return e.Begin, e.Chance, err
}

// planMoney lets a lead see what a change of the plan costs.
type planMoney struct{ *cost.Service }

func (m planMoney) Hour(ctx context.Context) (minor, more float64, err error) {
	t, err := m.Terms(ctx)
	return float64(t.RateMinor), float64(t.RateMinor) * (t.Factor - 1), err
}

func (m planMoney) MouldOf(ctx context.Context, code string) (int64, error) {
	return m.MouldMaterial(ctx, code)
}

// todayPots lets Today see the shelf.
type todayPots struct{ *build.Service }

func (t todayPots) Pots(ctx context.Context) ([]today.Pot, error) {
	pots, err := t.Shelf(ctx)
	out := make([]today.Pot, len(pots))
	for i, p := range pots {
		out[i] = today.Pot{Label: p.Label, Piece: p.Piece, Left: p.Left, Words: p.Words, Ready: p.State == "ready", Mould: p.Kind == "mould", LeftS: p.LeftS, Run: p.Run, Goes: p.Goes, Then: p.Then, ID: p.ID}
		if p.Past {
			out[i].Late = p.TooLate
		}
	}
	return out, err
}

func (t todayPots) Idle(ctx context.Context) ([]today.Run, error) {
	runs, err := t.Runs(ctx, "")
	var out []today.Run
	for _, r := range runs {
		if r.Next == 0 || r.Stages[r.Next-1].DoneAt != nil || r.HeldBack != "" || r.Next > 1 && r.Stages[r.Next-2].PotID != nil {
			continue
		}
		out = append(out, today.Run{Code: r.Code, Piece: r.Piece, Next: r.Stages[r.Next-1].Text})
	}
	return out, err
}

// Handler is everything that is reached over HTTP: the API, the streams, and
// the built interface in dist.
func (s *Shop) Handler(dist fs.FS) (http.Handler, huma.API, error) {
	e, api, err := s.routes(dist)
	return e, api, err
}

func (s *Shop) routes(dist fs.FS) (*web.Engine, huma.API, error) {
	e, err := web.NewEngine(s.Accounts, s.DB, web.Front{Proxies: s.Config.Proxies, TLS: s.Config.Secure, Metrics: s.Config.Metrics}, func(r *http.Request) error { return s.DB.PingContext(r.Context()) })
	if err != nil {
		return nil, nil, err
	}
	api := web.NewAPI(e, Version)
	s.registerSignIn(api)
	s.registerCalc(api)
	s.registerRecord(api)
	s.registerRestored(api)
	people.Register(api, s.People)
	production.Register(api, s.Productions)
	piece.Register(api, s.Pieces)
	brief.Register(api, s.Brief)
	stores.Register(api, s.Stores)
	form.Register(api, s.Form)
	mould.Register(api, s.Mould)
	sculpt.Register(api, s.Sculpt)
	recipes.Register(api, s.Recipes)
	mix.Register(api, s.Mix)
	build.Register(api, s.Build)
	colour.Register(api, s.Colour)
	finish.Register(api, s.Finish)
	check.Register(api, s.Check)
	handover.Register(api, s.Handover)
	today.Register(api, s.Today)
	work.Register(api, s.Worked)
	cost.Register(api, s.Cost)
	plan.Register(api, s.Plan)
	web.Bound(api)
	s.Brief.Serve(e)
	s.Pieces.Serve(e)
	s.Colour.Serve(e)
	s.Check.Serve(e)
	s.Finish.Serve(e)
	s.Form.Serve(e)
	s.Handover.Serve(e)
	s.Plan.Serve(e)
	s.Cost.Serve(e)
	s.Mix.Serve(e)
	s.Stores.Serve(e)
	s.Mould.Serve(e)
	s.Sculpt.Serve(e)
	e.Handle(http.MethodGet, "/api/events", "Hints that something changed", web.Makers, func(c *gin.Context) error {
		ch, stop := s.Live.Listen()
		defer stop()
		return web.Stream(c, "hint", ch)
	})
	return e, api, web.ServeUI(e, dist)
}

// warmAfter is how long after a start what everybody asks for first is worked out.
const warmAfter = 10 * time.Second

// Run keeps the shop going until ctx ends: the scale is watched, the room is
// recorded, the bench clock of the demo is kept, and every hour what is over is
// put away and the room's old log thinned.
func (s *Shop) Run(ctx context.Context) {
	go s.Mix.Watch(ctx)
	go s.Jobs.Run(ctx)
	go s.upkeep(ctx)
	// The first one after a start works out every section that is made: nobody waits for
	// it, and it is in nobody's way who goes on where a crash left off.
	go func() {
		select {
		case <-ctx.Done():
			return
		case <-time.After(warmAfter):
		}
		if _, err := s.Today.View(ctx); err != nil && ctx.Err() == nil {
			slog.Error("working out what to do", "error", err)
		}
		s.Plan.Warm(ctx)
	}()
	tick := time.NewTicker(5 * time.Second)
	defer tick.Stop()
	for last := time.Now(); ; {
		now := time.Now()
		// Round drops the reading of the clock that never jumps.
		jump := s.NoteJump(ctx, now.Round(0).Sub(last.Round(0)), now.Sub(last))
		last = now
		if err := errors.Join(jump, s.Build.Air.CatchUp(ctx), s.KeepClock(ctx), s.Accounts.EndStreams(ctx)); err != nil && ctx.Err() == nil {
			slog.Error("keeping the room's log and the clock", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// NoteJump records that the machine's clock was moved: times around it may look
// odd, and the order of the record is the order of writing.
func (s *Shop) NoteJump(ctx context.Context, wall, passed time.Duration) error {
	by, jumped := clock.Jump(wall, passed)
	if !jumped {
		return nil
	}
	slog.Warn("the machine's clock was moved", "by", by.String())
	return s.DB.InTx(ctx, func(tx database.Tx) error {
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "shop", Code: "clock", Act: "the clock was moved", Words: "by " + by.Round(time.Second).String()})
		return err
	})
}

func (s *Shop) upkeep(ctx context.Context) {
	tick := time.NewTicker(time.Hour)
	defer tick.Stop()
	for hours := 0; ; hours++ {
		if hours%24 == 0 {
			if _, err := s.Files.Sweep(ctx, s.DB, time.Now()); err != nil && ctx.Err() == nil {
				slog.Error("sweeping the files", "error", err)
			}
		}
		if err := errors.Join(s.Pieces.PutAwayWhatIsOver(ctx), s.Build.Air.Thin(ctx), s.Form.Uploads.Tidy(ctx), s.DB.ForgetKeys(ctx, time.Now().UTC())); err != nil && ctx.Err() == nil {
			slog.Error("keeping the shop tidy", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// KeepClock stores the demo's bench time, so that it resumes where it was.
func (s *Shop) KeepClock(ctx context.Context) error {
	if _, isBench := s.Clock.(*clock.Bench); !isBench {
		return nil
	}
	_, err := s.DB.ExecContext(ctx, `INSERT INTO bench_clock (id, bench_at) VALUES (1, ?) ON DUPLICATE KEY UPDATE bench_at = GREATEST(bench_at, VALUES(bench_at))`, s.Clock.Now())
	return err
}

func (s *Shop) registerCalc(api huma.API) {
	for _, name := range calc.Names() {
		web.Post(api, "/api/calc/"+name, "Calculate a case of "+name+" without saving anything", web.Makers, func(ctx context.Context, in *struct {
			Body json.RawMessage
		}) (any, error) {
			done, err := s.Turns.Take(ctx)
			if err != nil {
				return nil, err
			}
			defer done()
			return calc.Run(ctx, nil, name, in.Body)
		})
	}
	web.Get(api, "/api/quantity", "Read what a person typed as an amount", web.Makers, func(_ context.Context, in *struct {
		Text    string  `query:"text" maxLength:"64"`
		Kind    string  `query:"kind" enum:"mass,volume,length,area,temperature,duration"`
		Density float64 `query:"density"`
	}) (quantity.Quantity, error) {
		return quantity.Parse(in.Text, quantity.Kind(in.Kind), in.Density, "text")
	})
}
