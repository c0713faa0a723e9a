package build

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"time"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/platform/database"
)

// coat is a wet coat that was put on: what it is, when, in s after the first of its
// build, and where it dries from then on.
type coat struct {
	drying.Layer
	AtS    float64 `json:"at_s"`
	Preset string  `json:"preset"`
	Side   string  `json:"side"`
}

// coats are those of a pot from the innermost out; the last one is the pot's own.
func (m potModel) coats() []coat {
	if len(m.Stack) > 0 {
		return m.Stack
	}
	// Of a pot from before stacks were kept: its own coat alone.
	preset, side := "still", "form"
	if m.Preset != "" {
		preset, side = m.Preset, m.Side
	}
	out := make([]coat, len(m.Layers))
	for i, l := range m.Layers {
		out[i] = coat{Layer: l, Preset: preset, Side: side}
	}
	return out
}

// air is what blows over a pot's coats now.
func (m potModel) air() string {
	coats := m.coats()
	own := coats[len(coats)-1]
	out := own.Preset
	for _, a := range m.Air {
		if a.AtS >= own.AtS {
			out = a.Preset
		}
	}
	return out
}

// times is how long a pot of coats takes to the book's time: as the shop learned of its
// air, and as somebody found of this one.
func (s *Service) times(ctx context.Context, db database.Reader, row potRow, st stand) (float64, error) {
	shop, err := s.pace(ctx, db, st.where(), row.Product)
	if err != nil {
		return 1, err
	}
	sign, err := signOf(row)
	return ownTimes(shop, sign), err
}

// stackUnder is the stack of a run with the coat of its stage at, put on now: what was
// coated before it in the session and has not been lifted off.
func stackUnder(r Run, at int, now time.Time) []coat {
	var out []coat
	var first time.Time
	for i, st := range r.Stages[:at+1] {
		if lifts(st.Act) {
			out = nil
		}
		on := st.DoneAt
		if i == at {
			on = &now
		}
		if st.Wet == nil || on == nil {
			continue
		}
		if len(out) == 0 {
			first = *on
		}
		out = append(out, coat{Layer: *st.Wet, AtS: math.Max(0, on.Sub(first).Seconds()), Preset: st.Preset, Side: st.Side})
	}
	return out
}

// stackOn is the stack of a run with the coat of its stage at, put on now, and what was
// blown over it: the pot of the coat below knows, else the stages do.
func (s *Service) stackOn(ctx context.Context, tx database.Tx, r Run, at int) ([]coat, []airChange, error) {
	now := s.Clock.Now()
	out := stackUnder(r, at, now)
	if at == 0 || len(out) < 2 {
		return out, nil, nil
	}
	var below []struct {
		Model     string
		StartedAt time.Time `db:"started_at"`
	}
	// By the stage's own key.
	if err := tx.SelectContext(ctx, &below, `SELECT model, started_at FROM pot WHERE stage_id = ? ORDER BY id DESC LIMIT 1`,
		r.Stages[at-1].ID); err != nil || len(below) == 0 {
		return out, nil, err
	}
	var model potModel
	if err := json.Unmarshal([]byte(below[0].Model), &model); err != nil {
		return out, nil, fmt.Errorf("reading the pot below: %w", err)
	}
	coats := model.coats()
	if len(coats) != len(out)-1 {
		return out, nil, nil
	}
	own := out[len(out)-1]
	own.AtS = coats[len(coats)-1].AtS + math.Max(0, now.Sub(below[0].StartedAt).Seconds())
	return append(slices.Clone(coats), own), model.Air, nil
}

// horizonS is how far ahead a stack is followed, s.
const horizonS = 60 * 86400

// course is a question about coats: along the spells of a room, with what was blown over
// them since, what is still to be put on them, and when to say what is left in each. Times
// is how long it takes to the book's time, as was learned of the air.
type course struct {
	Coats  []coat
	Air    []airChange
	More   []drying.Laid
	Rooms  []spell
	Times  float64
	Report []float64
}

// dried follows a course. What is asked again gets the answer of before.
func (s *Service) dried(c course) (drying.Dried, error) {
	return s.stacks.Get(c, func() (drying.Dried, error) {
		in := drying.Stack{WallM: usualWallM, HorizonS: horizonS, ReportS: c.Report}
		blows := slices.Clone(c.Air)
		for _, l := range c.Coats {
			blows = append(blows, airChange{l.AtS, l.Preset})
			in.Layers = append(in.Layers, drying.Laid{Layer: l.Layer, AtS: l.AtS})
		}
		// A coat goes on in its own air; what somebody switched on in the same second
		// comes after it.
		slices.SortStableFunc(blows, func(a, b airChange) int { return cmp.Compare(a.AtS, b.AtS) })
		for _, at := range moments(blows, c.Rooms) {
			place := dryIn(presetAt(blows, at), c.Coats[0].Side, roomAt(c.Rooms, at))
			place.Km *= km(c.Times)
			if n := len(in.Segments); n == 0 || in.Segments[n-1].Place != place {
				in.Segments = append(in.Segments, drying.Segment{FromS: at, Place: place})
			}
		}
		in.Layers = append(in.Layers, c.More...)
		return in.Simulate()
	})
}

// spell is a time in which the room was much the same, from a moment on, s of the build.
type spell struct {
	FromS float64 `json:"from_s"`
	TempC float64 `json:"temp_c"`
	RH    float64 `json:"rh"`
	InC   float64 `json:"in_c,omitempty"` // of the box or oven that the coats stand in
}

// dryIn is where coats dry: in the room under what is blown over them, or in a box, whose
// own air moves.
func dryIn(preset, side string, at spell) drying.Place {
	if at.InC <= 0 {
		return section.DryPlace(preset, side, section.Room{TempC: at.TempC, RH: at.RH})
	}
	p := section.DryPlace("cabinet", side, section.Room{TempC: at.TempC, RH: at.RH})
	p.AirC = math.Max(at.TempC, at.InC)
	p.BodyC = p.AirC
	return p
}

// What makes the room another one, and how many spells are followed at most: a log by the
// minute says no more than that about what dries over hours.
const (
	otherInC   = 4.0
	otherC     = 0.75
	otherRH    = 0.03
	mostSpells = 40
)

// spells are a log since a build began, each the mean of its readings, to a tenth of a
// degree and a percent. Without any reading it is the reference room.
func spells(log []reading, begun, now time.Time) []spell {
	if len(log) == 0 {
		return []spell{{0, Reference.TempC, Reference.RH, 0}}
	}
	for width := 1.0; ; width *= 2 {
		var out []spell
		from := 0
		for i := range log {
			next := i+1 == len(log) || log[i+1].unlike(log[from], width)
			if !next {
				continue
			}
			start, end := log[from].At, now
			if start.Before(begun) || from == 0 {
				start = begun
			}
			if i+1 < len(log) {
				end = log[i+1].At
			}
			if end.After(start) || i+1 == len(log) {
				temp, rh, in := meanOf(log[from:i+1], start, math.Max(1, end.Sub(start).Seconds()))
				out = append(out, spell{math.Max(0, start.Sub(begun).Seconds()), math.Round(temp*10) / 10, math.Round(rh*100) / 100,
					math.Round(in)})
			}
			from = i + 1
		}
		if len(out) <= mostSpells {
			return out
		}
	}
}

// unlike says whether a reading is of other air than one before it; width makes it harder.
func (r reading) unlike(before reading, width float64) bool {
	return (r.InC > 0) != (before.InC > 0) || math.Abs(r.InC-before.InC) >= width*otherInC ||
		math.Abs(r.TempC-before.TempC) >= width*otherC || math.Abs(r.RH-before.RH) >= width*otherRH
}

// moments are when the air over coats changes, by somebody's hand or with the room.
func moments(blows []airChange, rooms []spell) []float64 {
	var out []float64
	for _, b := range blows {
		out = append(out, b.AtS)
	}
	for _, r := range rooms {
		out = append(out, r.FromS)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

func presetAt(blows []airChange, at float64) string {
	out := blows[0].Preset
	for _, b := range blows {
		if b.AtS <= at {
			out = b.Preset
		}
	}
	return out
}

func roomAt(rooms []spell, at float64) spell {
	out := rooms[0]
	for _, r := range rooms {
		if r.FromS <= at {
			out = r
		}
	}
	return out
}

// usualWallM is how thick a plaster mould's wall is where nobody says, m.
const usualWallM = 0.025

// CoatPlan is one way to put the coats on that are still to come.
type CoatPlan struct {
	Plan   string     `json:"plan" enum:"now,recoat,dry,wet_on_wet" doc:"the next at once; each at recoat-ready; each once the one below is dry; all wet on wet"`
	NextAt *time.Time `json:"next_at,omitempty"`
	LastAt *time.Time `json:"last_at,omitempty"`
	DryAt  *time.Time `json:"dry_at,omitempty" doc:"all of it dry through; nothing where that is not within sixty days"`
}

// CoatPlans are what the coats to come cost, each way.
type CoatPlans struct {
	Coats int        `json:"coats" doc:"still to come"`
	Plans []CoatPlan `json:"plans"`
	// Trapped says where water is held longest.
	Trapped string `json:"trapped,omitempty"`
}

// wetOnWetS is how soon one coat follows another wet on wet, s.
const wetOnWetS = 180

// CoatPlans works out what the next coats of a session cost if they are put on now, at
// recoat-ready, dry, or wet on wet. Uncertain as the model is: −30/+50 %.
func (s *Service) CoatPlans(ctx context.Context, code string) (CoatPlans, error) {
	out := CoatPlans{Plans: []CoatPlan{}}
	r, err := s.Run(ctx, code)
	if err != nil {
		return out, err
	}
	var coming []drying.Layer
	under := -1
	for i, st := range r.Stages {
		switch {
		case st.DoneAt != nil && st.Wet != nil:
			under = i
		case st.DoneAt == nil && st.Wet != nil:
			coming = append(coming, *st.Wet)
		}
	}
	out.Coats = len(coming)
	if under < 0 || len(coming) == 0 || r.EndedAt != nil || r.Stages[under].PotID == nil {
		return out, nil
	}
	row, err := s.row(ctx, s.DB, *r.Stages[under].PotID)
	if err != nil {
		return out, err
	}
	if making.Wait(row.Kind) != making.Dry {
		return out, nil
	}
	st, err := s.stand(ctx, s.DB, row)
	if err != nil {
		return out, err
	}
	times, err := s.times(ctx, s.DB, row, st)
	if err != nil {
		return out, err
	}
	now := course{Coats: st.coats, Air: st.model.Air, Rooms: st.rooms, Times: times}
	before, err := s.dried(now)
	if err != nil {
		return out, err
	}
	known := len(st.coats)
	for _, plan := range []string{"now", "recoat", "dry", "wet_on_wet"} {
		then := now
		then.More = planned(plan, coming, before.Layers[known-1], st.minute())
		p, err := s.dried(then)
		if err != nil {
			return out, err
		}
		out.Plans = append(out.Plans, CoatPlan{plan, st.at(p.Layers[known].AtS), st.at(p.Layers[len(p.Layers)-1].AtS), st.at(p.DryS)})
		if plan == "now" {
			out.Trapped = trapped(p, known)
		}
	}
	return out, nil
}

// planned are the coats to come as one plan puts them on. now is in s of the build, top
// how the coat on top of what is there dries.
func planned(plan string, coming []drying.Layer, top drying.LayerTimes, now float64) []drying.Laid {
	mark, reached := drying.AfterRecoat, top.RecoatS
	if plan == "dry" {
		mark, reached = drying.AfterDry, top.DryS
	}
	more := make([]drying.Laid, len(coming))
	for i, l := range coming {
		more[i] = drying.Laid{Layer: l}
		switch {
		case plan == "wet_on_wet":
			more[i].AtS = now + float64(i)*wetOnWetS
		case i == 0 && (plan == "now" || reached != nil && *reached <= now): // or it is so far already
			more[i].AtS = now
		default:
			more[i].After = mark
		}
	}
	return more
}

// trapped says which coat below dries last, and is worth a word where it does so an hour
// after the one above it.
func trapped(d drying.Dried, known int) string {
	worst, at := 3600.0, -1
	for i := 0; i+1 < len(d.Layers); i++ {
		below, above := d.Layers[i].DryS, d.Layers[i+1].DryS
		if below != nil && above != nil && *below-*above > worst {
			worst, at = *below-*above, i
		}
	}
	if at < 0 {
		return ""
	}
	which := "a coat that is on"
	if at >= known {
		which = "a coat to come"
	}
	return fmt.Sprintf("Coat %d, %s, holds its water %s longer than the one over it.", at+1, which, duration(worst))
}
