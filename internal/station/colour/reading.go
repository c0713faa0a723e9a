package colour

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Reading is a colour as it was read, with how far it can be believed. R stands where an
// instrument gave the whole spectrum.
type Reading struct {
	Lab    colour.Lab `json:"lab" doc:"under daylight, D65"`
	R      []float64  `json:"r,omitempty" doc:"reflectance at 380 to 730 nm in steps of 10"`
	Source string     `json:"source" enum:"reader,lab,spectrum,picture,eye"`
	Off    float64    `json:"uncertainty" doc:"ΔE00 that it may be off by, twice out of three"`
	Note   string     `json:"note,omitempty"`
}

// sources are how far a reading of each kind may be off, ΔE00, twice out of three. The
// instrument's is its maker's usual repeatability on soft stuff; the others are ours.
var sources = map[string]float64{"reader": 0.5, "spectrum": 0.4, "lab": 0.6, "picture": 3, "eye": 5}

// sourceWords are they in words.
var sourceWords = map[string]string{"reader": "by the reader", "spectrum": "by its spectrum", "lab": "typed", "picture": "from a picture", "eye": "by eye"}

// cardOff is what a picture is off by on top of what its card is, once it was put right.
const cardOff = 2.0

// NewReading is a reading as it comes in: three figures, a file of spectra, the values of a
// picture beside those of the card in it, or the instrument itself. What is blank was not
// read, and is no zero.
type NewReading struct {
	Source  string    `json:"source" enum:"reader,lab,spectrum,picture,eye"`
	L       *float64  `json:"l,omitempty"`
	A       *float64  `json:"a,omitempty"`
	B       *float64  `json:"b,omitempty"`
	File    string    `json:"file,omitempty" maxLength:"200000" doc:"text of a file of spectra; the mean of its columns is taken"`
	Picture *FromCard `json:"picture,omitempty"`
}

// FromCard is what a picture shows of the place, and of a grey or colour card in it.
type FromCard struct {
	Seen    [3]float64  `json:"seen" doc:"mean of the place, sRGB code values 0 to 255"`
	Patches []CardPatch `json:"patches" maxItems:"60" doc:"fields of the card; without any it is a guess"`
}

// CardPatch is a field of a card as the picture shows it and as its maker says it is.
type CardPatch struct {
	Seen [3]float64 `json:"seen"`
	Is   [3]float64 `json:"is"`
}

// Reader is the instrument that is held to a chip.
type Reader interface {
	ReadChip(l, a, b float64) (rl, ra, rb float64, err error)
}

// take turns what came in into a reading. like is what is expected there: a stand-in for
// the instrument is told what lies before it.
func (s *Service) take(in NewReading, field string, like *colour.Lab) (Reading, error) {
	out := Reading{Source: in.Source, Off: sources[in.Source]}
	switch in.Source {
	case "reader":
		if like == nil {
			like = &colour.Lab{L: 60, A: 10, B: 17}
		}
		l, a, b, err := s.Reader.ReadChip(like.L, like.A, like.B)
		if err != nil {
			return out, problem.Invalid("no_device", field+"source",
				"No colour reader is connected. Type the three figures, or take them from a file or a picture.")
		}
		out.Lab = colour.Lab{L: l, A: a, B: b}
	case "lab", "eye":
		for _, f := range []struct {
			name string
			v    *float64
		}{{"l", in.L}, {"a", in.A}, {"b", in.B}} {
			if f.v == nil {
				return out, problem.Invalid("missing", field+f.name, "Type %s: a blank is no zero.",
					map[string]string{"l": "L", "a": "a", "b": "b"}[f.name])
			}
		}
		out.Lab = colour.Lab{L: *in.L, A: *in.A, B: *in.B}
	case "spectrum":
		if err := out.fromFile(in.File, field); err != nil {
			return out, err
		}
	case "picture":
		if in.Picture == nil {
			return out, problem.Invalid("missing", field+"picture", "Point at the place in the picture, and at the card.")
		}
		if err := out.fromCard(*in.Picture, field); err != nil {
			return out, err
		}
	default:
		return out, problem.Invalid("unknown_value", field+"source", "Say how it was read.")
	}
	if !(out.Lab.L >= 1 && out.Lab.L <= 99) {
		return out, problem.Invalid("out_of_range", field+"l", "No colour of a surface reads L %.1f: between 1 and 99.", out.Lab.L)
	}
	for name, v := range map[string]float64{"a": out.Lab.A, "b": out.Lab.B} {
		if !(math.Abs(v) <= 120) {
			return out, problem.Invalid("out_of_range", field+name, "No colour of a surface reads %s %.1f: between −120 and 120.", name, v)
		}
	}
	if out.R == nil {
		if _, err := colour.Rebuild(out.Lab, "smooth"); err != nil {
			return out, problem.Invalid("unreachable", field+"l", "Nothing that reflects light reads L %.1f a %.1f b %.1f.", out.Lab.L,
				out.Lab.A, out.Lab.B)
		}
	}
	return out, nil
}

func (r *Reading) fromFile(text, field string) error {
	series, err := colour.ReadSeries(text)
	if err != nil {
		return atField(err, field+"file")
	}
	var mean colour.Spectrum
	for _, c := range series {
		one, err := colour.Measured(c.Values[:], "file")
		if err != nil {
			return atField(err, field+"file")
		}
		for i, v := range one {
			mean[i] += v / float64(len(series))
		}
		if c.Resampled {
			r.Note = "brought to steps of 10 nm"
		}
	}
	if len(series) > 1 {
		if r.Note != "" {
			r.Note += ", "
		}
		r.Note += fmt.Sprintf("mean of %d", len(series))
	}
	r.R, r.Lab = mean[:], mean.Lab(colour.D65)
	return nil
}

func (r *Reading) fromCard(p FromCard, field string) error {
	if len(p.Patches) == 0 {
		r.Lab = colour.FromSRGB(p.Seen[0], p.Seen[1], p.Seen[2])
		r.Off, r.Note = 2*sources["picture"], "no card in the picture: a guess"
		return nil
	}
	patches := make([]colour.Patch, len(p.Patches))
	for i, f := range p.Patches {
		patches[i] = colour.Patch(f)
	}
	card, err := colour.CardOf(patches, "auto")
	if err != nil {
		return atField(err, field+"picture")
	}
	var clamped int
	r.Lab, _, clamped = card.Right(p.Seen)
	r.Off = math.Hypot(cardOff, card.Mean)
	r.Note = fmt.Sprintf("put right by its card, %s, mean %.1f off", card.Quality, card.Mean)
	if clamped > 0 {
		r.Off, r.Note = 2*r.Off, r.Note+", burnt out there"
	}
	return nil
}

// Spectrum is the reading's own spectrum, or the likeliest that reads so. skin says that it
// is one.
func (r Reading) Spectrum(skin bool) (colour.Spectrum, error) {
	if len(r.R) == colour.Bands {
		return colour.Measured(r.R, "r")
	}
	method := "smooth"
	if skin {
		method = "auto"
	}
	got, err := colour.Rebuild(r.Lab, method)
	return got.R, err
}

// keep writes a reading into the one list of them.
func (s *Service) keep(ctx context.Context, tx database.Tx, subject string, id uint64, r Reading) error {
	who, _ := accounts.From(ctx)
	raw, err := json.Marshal(struct {
		colour.Lab
		Reading
	}{r.Lab, r})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO reading (subject, subject_id, quantity, value, at, person_id) VALUES (?,?,'colour',?,?,?)`, subject, id, string(raw), s.Clock.Now(), who.ID); err != nil {
		return fmt.Errorf("keeping the reading: %w", err)
	}
	return nil
}

// atField moves a refusal of the craft to the field that it came in by.
func atField(err error, field string) error {
	var p *problem.Problem
	if !errors.As(problem.From(err), &p) {
		return err
	}
	return problem.Invalid(p.Code, field, "%s", p.Detail)
}
