package colour

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Wearers tell what was read of a wearer's skin; wired to the brief.
type Wearers interface {
	SkinOf(ctx context.Context, performer uint64) ([]Target, error)
}

// Target is what was read of one place of a wearer's skin.
type Target struct {
	Region    string     `json:"region"`
	Text      string     `json:"text"`
	Side      string     `json:"side"`
	Lab       colour.Lab `json:"lab"`
	Readings  int        `json:"readings"`
	Aside     int        `json:"aside" doc:"readings that lie too far from the others"`
	MCDM      float64    `json:"mcdm" doc:"mean ΔE00 of the readings to their mean"`
	Uncertain bool       `json:"uncertain"`
	Guess     bool       `json:"guess" doc:"some of it is from a camera or a screen"`
	R         []float64  `json:"r,omitempty" doc:"mean reflectance where whole spectra were read"`
}

// spectrum is what was measured, else the likeliest skin that reads so.
func (t Target) spectrum() (colour.Spectrum, error) {
	return Reading{Lab: t.Lab, R: t.R}.Spectrum(true)
}

// Aim is what a piece is to look like.
type Aim struct {
	Kind     string     `json:"kind" enum:"skin,swatch,wish,picture"`
	Words    string     `json:"words" doc:"what it is, to be read"`
	Region   string     `json:"region,omitempty"`
	Side     string     `json:"side,omitempty"`
	Swatch   uint64     `json:"swatch,omitempty"`
	Read     colour.Lab `json:"read" doc:"as it was read"`
	Lab      colour.Lab `json:"lab" doc:"as it will be on the day, with the tan"`
	TanSteps float64    `json:"tan_steps" doc:"darker by so many steps of 5 degrees"`
	Tans     []Tan      `json:"tans" doc:"the same skin lighter and darker; none for what is no skin"`
	Off      float64    `json:"uncertainty" doc:"ΔE00 that the reading itself may be off by"`
	Guess    bool       `json:"guess"`
	Readings int        `json:"readings"`
	Aside    int        `json:"aside"`
	MCDM     float64    `json:"mcdm"`
	Unsure   bool       `json:"unsure" doc:"read it again: too few readings, or too far apart"`
	Allowed  float64    `json:"allowed" doc:"ΔE00 that it may be off by"`
	Why      string     `json:"why" doc:"why so much"`
	Own      bool       `json:"own" doc:"somebody set how far it may be off"`
	Measured bool       `json:"measured" doc:"its whole spectrum was read: what other lights do to it is known, not guessed"`
	Version  int        `json:"version" doc:"0 where nobody chose: the wearer's own skin at the piece"`

	r     colour.Spectrum // on the day
	under colour.Spectrum // what is under the piece on the day
}

// Tan is a skin so many steps darker.
type Tan struct {
	Steps float64    `json:"steps"`
	Lab   colour.Lab `json:"lab"`
}

// tanSteps are those that are shown beside one another.
var tanSteps = []float64{-1, 0, 1, 2, 3}

// allowedBy is how far a region may be off by how well it is finished. Ours: 1 is what two
// colours side by side are told apart by, and a camera further off sees less.
var allowedBy = map[string]float64{"full": 1, "good": 2, "plain": 3.5, "hidden": 6}

type targetRow struct {
	Kind     string
	Region   string
	Side     string
	SwatchID *uint64 `db:"swatch_id"`
	Reading  *string
	Words    string
	TanSteps float64 `db:"tan_steps"`
	Allowed  *float64
	Version  int
}

// aim reads what a piece is to look like. Where nobody chose, it is what was read of its
// wearer where it goes.
func (s *Service) aim(ctx context.Context, db database.Reader, p piece.Piece, skins []Target) (Aim, error) {
	var row targetRow
	err := db.GetContext(ctx, &row, `SELECT kind, region, side, swatch_id, reading, words, tan_steps, allowed, version FROM colour_target WHERE piece_id = ?`, p.ID)
	if errors.Is(err, sql.ErrNoRows) {
		row, err = targetRow{Kind: "skin", Region: p.Region, Side: p.Side}, nil
	}
	if err != nil {
		return Aim{}, fmt.Errorf("reading the target: %w", err)
	}
	if row.Kind == "skin" && p.PerformerID == nil {
		return Aim{}, noWearer(p)
	}
	out := Aim{Kind: row.Kind, Words: row.Words, TanSteps: row.TanSteps, Version: row.Version, Tans: []Tan{}}
	if err := out.what(ctx, db, row, skins); err != nil {
		return out, err
	}
	if err := s.under(&out, skins, p.Region); err != nil {
		return out, err
	}
	out.Lab = out.r.Lab(colour.D65)
	return out, s.allowed(ctx, db, p, &out, row.Allowed)
}

// what finds the colour itself.
func (a *Aim) what(ctx context.Context, db database.Reader, row targetRow, skins []Target) error {
	switch {
	case row.Kind == "skin":
		if len(skins) == 0 {
			return problem.Conflict("no_reading", "Nobody has read this wearer's skin: read it in Brief, three times a place.")
		}
		t := nearest(skins, row.Region, row.Side)
		a.Region, a.Side, a.Words, a.Read = t.Region, t.Side, strings.TrimSpace(t.Text+" "+t.Side), t.Lab
		a.Readings, a.Aside, a.MCDM, a.Unsure, a.Guess = t.Readings, t.Aside, t.MCDM, t.Uncertain, t.Guess
		a.Off = math.Hypot(sources["reader"], t.MCDM/math.Sqrt(float64(max(1, t.Readings))))
		if t.Guess {
			a.Off = 2 * sources["picture"]
		}
		if t.R != nil {
			a.Off = math.Hypot(sources["spectrum"], t.MCDM/math.Sqrt(float64(max(1, t.Readings))))
		}
		a.Measured = t.R != nil
		r, err := t.spectrum()
		if err != nil {
			return err
		}
		a.tan(r)
		return nil
	case row.SwatchID != nil:
		w, err := swatchAt(ctx, db, *row.SwatchID)
		if err != nil {
			return err
		}
		a.Swatch, a.Words, a.Read, a.Off, a.Readings = w.ID, w.Name, w.Now.Lab, w.Now.Off, len(w.Readings)
		a.Measured = w.Now.R != nil
		a.r, err = w.Now.Spectrum(false)
		return err
	case row.Reading != nil:
		var r Reading
		if err := json.Unmarshal([]byte(*row.Reading), &r); err != nil {
			return err
		}
		a.Read, a.Off, a.Guess, a.Readings = r.Lab, r.Off, r.Source == "picture" || r.Source == "eye", 1
		var err error
		a.Measured = r.R != nil
		a.r, err = r.Spectrum(false)
		return err
	}
	return problem.Conflict("no_reading", "The target has no colour: choose it again.")
}

// nearest is the reading of the place itself, else of its region, else the first.
func nearest(skins []Target, region, side string) Target {
	for _, same := range []func(Target) bool{
		func(t Target) bool { return t.Region == region && t.Side == side },
		func(t Target) bool { return t.Region == region },
		func(Target) bool { return true },
	} {
		for _, t := range skins {
			if same(t) {
				return t
			}
		}
	}
	return Target{}
}

// tan takes a skin to the day, and shows the steps beside it.
func (a *Aim) tan(r colour.Spectrum) {
	all := colour.Tans(r, append(slices.Clone(tanSteps), a.TanSteps)...)
	for i, steps := range tanSteps {
		a.Tans = append(a.Tans, Tan{steps, all[i].Lab(colour.D65)})
	}
	a.r = all[len(tanSteps)]
}

// under is the wearer's own skin under the piece, on the day: the target itself where that
// is a skin, else what was read where the piece goes, else a skin in the middle.
func (s *Service) under(a *Aim, skins []Target, region string) error {
	if a.Kind == "skin" {
		a.under = a.r
		return nil
	}
	if len(skins) == 0 {
		a.under = colour.UsualSkin.Reflectance()
		return nil
	}
	r, err := nearest(skins, region, "").spectrum()
	if err != nil {
		return err
	}
	a.under = colour.Tans(r, a.TanSteps)[0]
	return nil
}

// allowed is how far off it may be: what somebody set, else by how well its region must be
// finished.
func (s *Service) allowed(ctx context.Context, db database.Reader, p piece.Piece, a *Aim, own *float64) error {
	if own != nil {
		a.Allowed, a.Own, a.Why = *own, true, "set by hand"
		return nil
	}
	around, err := s.Pieces.Around.Around(ctx, db, p)
	if err != nil {
		return err
	}
	var shares []wearmap.Share
	for _, area := range around.Map.Areas {
		if area.Piece == p.Code {
			shares = append(shares, area.Shares...)
		}
	}
	if len(shares) == 0 {
		shares = []wearmap.Share{{Region: p.Region, CM2: 1}}
	}
	for _, g := range wear.Grades(wear.Conditions{Camera: around.Brief.Camera, Backdrop: around.Brief.Backdrop}, shares) {
		if v, known := allowedBy[g.Grade]; known && (a.Allowed == 0 || v < a.Allowed) {
			a.Allowed, a.Why = v, g.Grade+" finish: "+g.Why
		}
	}
	if a.Allowed == 0 {
		a.Allowed, a.Why = allowedBy["good"], "the brief does not say how close the camera comes"
	}
	return nil
}

// NewAim is a target as somebody chooses it.
type NewAim struct {
	Kind     string      `json:"kind" enum:"skin,swatch,wish,picture"`
	Region   string      `json:"region,omitempty" maxLength:"24"`
	Side     string      `json:"side,omitempty" enum:",L,R"`
	Swatch   uint64      `json:"swatch,omitempty" maximum:"9007199254740991"`
	Reading  *NewReading `json:"reading,omitempty"`
	Words    string      `json:"words,omitempty" maxLength:"200"`
	TanSteps float64     `json:"tan_steps" minimum:"-6" maximum:"12"`
	Allowed  *float64    `json:"allowed,omitempty" minimum:"0.3" maximum:"20"`
	Version  int         `json:"version" minimum:"0" maximum:"1000000" doc:"the one that was looked at"`
}

// SetAim says what a piece is to look like.
func (s *Service) SetAim(ctx context.Context, code string, in NewAim) (Room, error) {
	var raw any
	words := strings.TrimSpace(in.Words)
	if in.Kind == "wish" || in.Kind == "picture" {
		if in.Reading == nil {
			return Room{}, problem.Invalid("missing", "reading.l", "Read the colour that is wished for, or type it.")
		}
		r, err := s.take(*in.Reading, "reading.", nil)
		if err != nil {
			return Room{}, err
		}
		doc, err := json.Marshal(r)
		if err != nil {
			return Room{}, err
		}
		raw = string(doc)
		if words == "" {
			words = map[string]string{"wish": "a wish", "picture": "from a picture"}[in.Kind]
		}
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		var swatch any
		switch in.Kind {
		case "skin":
			skins, err := s.skins(ctx, p)
			if err != nil {
				return err
			}
			if t := nearest(skins, in.Region, in.Side); t.Region != in.Region || in.Side != "" && t.Side != in.Side {
				return problem.Invalid("unknown_value", "region", "Nobody has read the %s of this wearer.", in.Region)
			}
		case "swatch":
			w, err := swatchAt(ctx, tx, in.Swatch)
			if err != nil {
				return problem.Invalid("unknown_value", "swatch", "Choose a swatch of the book.")
			}
			swatch, words = w.ID, w.Name
		}
		var now int
		if err := tx.GetContext(ctx, &now, `SELECT COALESCE((SELECT version FROM colour_target WHERE piece_id = ? FOR UPDATE), 0)`,
			p.ID); err != nil {
			return err
		}
		if now != in.Version {
			return problem.Conflict("changed", "Somebody chose another target a moment ago. Look again; nothing was overwritten.")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO colour_target (piece_id, kind, region, side, swatch_id, reading, words, tan_steps, allowed, version, at, person_id) VALUES (?,?,?,?,?,?,?,?,?,1,?,?)
			ON DUPLICATE KEY UPDATE kind = VALUES(kind), region = VALUES(region), side = VALUES(side), swatch_id = VALUES(swatch_id), reading = VALUES(reading), words = VALUES(words),
			tan_steps = VALUES(tan_steps), allowed = VALUES(allowed), version = version + 1, at = VALUES(at), person_id = VALUES(person_id)`,
			p.ID, in.Kind, in.Region, in.Side, swatch, raw, words, in.TanSteps, in.Allowed, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the target: %w", err)
		}
		what := words
		if in.Kind == "skin" {
			what = strings.TrimSpace(in.Region + " " + in.Side)
		}
		if in.TanSteps != 0 {
			what += fmt.Sprintf(", %+g steps of tan", in.TanSteps)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "colour target",
			Words: in.Kind + ": " + what})
		return err
	})
	if err != nil {
		return Room{}, err
	}
	s.Live.Tell(ctx, "colours", code)
	return s.Room(ctx, code)
}
