package check

import (
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/compare"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Ask is which pictures are laid over each other.
type Ask struct {
	Picture string `json:"picture" minLength:"64" maxLength:"64" doc:"of the copy"`
	With    string `json:"with,omitempty" maxLength:"64" doc:"what it is laid over; the picture itself when left and right are compared"`
	Mode    string `json:"mode" enum:"reference,mirror"`
}

// Measured is what a copy measured against something.
type Measured struct {
	Picture string              `json:"picture"`
	With    string              `json:"with"`
	Mode    string              `json:"mode" enum:"reference,mirror"`
	Move    *compare.Move       `json:"move,omitempty" doc:"takes a place of the copy's picture, in pixels as shown, to the other"`
	Lies    *compare.Registered `json:"lies,omitempty"`
	compare.Compared
	Grade string      `json:"grade"`
	Cells int         `json:"cells" doc:"places whose colour was compared"`
	Worse *[2]float64 `json:"worse_at,omitempty" doc:"where the colour differs most, in pixels of the other picture"`
	Said  []string    `json:"said" doc:"what could not be measured, and why"`
	At    time.Time   `json:"at"`
	Who   string      `json:"who"`
}

func failWords(names []string) string {
	words := map[string]string{"rms_mm": "shape on the whole", "max_mm": "shape at one place", "de_mean": "colour on the whole", "de_max": "colour at one place", "edge": "its edge", "seam_mm": "its seam"}
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = words[n]
	}
	return strings.Join(out, ", ")
}

// newest is what a copy measured the last time. Index copy_compare_of.
func newest(ctx context.Context, db database.Reader, copyID uint64) (Measured, bool, error) {
	var rows []struct {
		Answer, Name string
		At           time.Time
	}
	if err := db.SelectContext(ctx, &rows, `SELECT x.answer, p.name, x.at FROM copy_compare x JOIN person p ON p.id = x.person_id WHERE x.copy_id = ? ORDER BY x.id DESC LIMIT 1`, copyID); err != nil || len(rows) == 0 {
		return Measured{}, false, err
	}
	var m Measured
	err := json.Unmarshal([]byte(rows[0].Answer), &m)
	m.At, m.Who = rows[0].At, rows[0].Name
	return m, true, err
}

// Compare lays two pictures over each other by their landmarks and measures what differs.
// It ends with the request.
func (s *Service) Compare(ctx context.Context, code string, in Ask) (Measured, error) {
	c, err := copies.Find(ctx, s.DB, code)
	if err != nil {
		return Measured{}, err
	}
	list, err := s.shots(ctx, s.DB, c)
	if err != nil {
		return Measured{}, err
	}
	if in.Mode == compare.Mirror && in.With == "" {
		in.With = in.Picture
	}
	find := func(sha, field string) (Shot, error) {
		i := slices.IndexFunc(list, func(x Shot) bool { return x.SHA256 == sha })
		if i < 0 {
			return Shot{}, problem.Invalid("unknown_value", field, "That picture is none of this copy's, nor one that it can be laid over.")
		}
		return list[i], nil
	}
	a, err := find(in.Picture, "picture")
	if err != nil {
		return Measured{}, err
	}
	if a.Of != "copy" {
		return Measured{}, problem.Invalid("contradiction", "picture", "That picture does not show this copy.")
	}
	b, err := find(in.With, "with")
	if err != nil {
		return Measured{}, err
	}
	brief, _, err := piece.AgreedBrief(ctx, s.DB, c.PieceID)
	if err != nil {
		return Measured{}, err
	}
	stand, err := s.Finish.Stand(ctx, s.DB, code)
	if err != nil {
		return Measured{}, err
	}
	out := Measured{Picture: in.Picture, With: in.With, Mode: in.Mode, Grade: brief.Grade(), Said: []string{}}
	asked := compare.Asked{Grade: out.Grade, Mode: in.Mode, MMPerUnit: 1, SeamMM: stand.SeamMM}
	if stand.Edge > 0 {
		asked.Edge = &stand.Edge
	}
	if err := out.lay(a, b, &asked); err != nil {
		return out, err
	}
	if in.Mode == compare.Reference && out.Move != nil {
		if asked.Tones, err = s.tones(ctx, a, b, &out); err != nil {
			return out, err
		}
	}
	if len(asked.Marks) == 0 && len(asked.Tones) == 0 && asked.Edge == nil && asked.SeamMM == nil {
		return out, s.keep(ctx, c, a, b, out)
	}
	if out.Compared, err = compare.Compare(asked); err != nil {
		return out, err
	}
	out.Cells = len(asked.Tones)
	return out, s.keep(ctx, c, a, b, out)
}

// at is a landmark in pixels of its picture as shown.
func (x Shot) at(m Landmark) compare.P {
	return compare.P{m.X * float64(x.Width), m.Y * float64(x.Height)}
}

// mmPerPixel is the scale of a picture as shown; 0 where nobody said.
func (x Shot) mmPerPixel() float64 {
	if x.About.MMAcross == nil {
		return 0
	}
	return *x.About.MMAcross / float64(x.Width)
}

// lay pairs the landmarks and registers the pictures. What cannot be told is said.
func (m *Measured) lay(a, b Shot, asked *compare.Asked) error {
	var pairs []compare.Mark
	if m.Mode == compare.Mirror {
		pairs = sides(a)
		if len(pairs) < 3 {
			return problem.Invalid("not_enough_data", "marks", "Left and right want three pairs of landmarks at least, named alike: brow L and brow R. There are %d.", len(pairs))
		}
		if mm := a.mmPerPixel(); mm > 0 {
			asked.MMPerUnit, asked.Marks = mm, pairs
		} else {
			m.Said = append(m.Said, "Nobody said how wide the picture is, so nothing is measured in mm. Set two places and the way between them.")
		}
		return nil
	}
	for _, p := range a.About.Marks {
		if i := slices.IndexFunc(b.About.Marks, func(q Landmark) bool { return q.Name == p.Name }); i >= 0 {
			q := b.About.Marks[i]
			pairs = append(pairs, compare.Mark{ID: p.Name, A: a.at(p), B: b.at(q), Exempt: p.Differs || q.Differs})
		}
	}
	var from, to []compare.P
	for _, p := range pairs {
		if !p.Exempt {
			from, to = append(from, p.A), append(to, p.B)
		}
	}
	lies, err := compare.Register(from, to, compare.Similarity, nil)
	if err != nil {
		return problem.Invalid("not_enough_data", "marks", "%d landmarks stand on both pictures. Two are needed to lay one over the other, three to measure; they must not lie on one point.", len(from))
	}
	m.Lies, m.Move = &lies, &lies.Matrix
	m.saidOf(lies, from, a, b)
	switch mm := b.mmPerPixel(); {
	case len(from) < 3:
		m.Said = append(m.Said, "Three landmarks that count are needed to measure the shape.")
	case mm > 0:
		asked.MMPerUnit, asked.Marks = mm, pairs
	case a.mmPerPixel() > 0:
		asked.MMPerUnit, asked.Marks = a.mmPerPixel()/lies.Scale, pairs
	default:
		m.Said = append(m.Said, "Nobody said how wide either picture is, so the shape is not measured in mm. Set two places and the way between them.")
	}
	return nil
}

// saidOf puts what speaks against a registration into words.
func (m *Measured) saidOf(lies compare.Registered, from []compare.P, a, b Shot) {
	say := func(words string) { m.Said = append(m.Said, words) }
	for _, w := range lies.Warnings {
		switch w {
		case "turned":
			say(fmt.Sprintf("One picture is turned by %.0f° against the other: was it held upside down?", math.Abs(lies.Rotation)))
		case "mirrored":
			say("One picture is the mirror of the other.")
		case "suspect_point":
			say(fmt.Sprintf("The landmark number %d lies off what all the others say: look at it.", *lies.Suspect+1))
		}
	}
	if len(from) > 2 && compare.OnLine(from) {
		say("The landmarks lie on one line: what lies off it is only guessed. Set one well to the side.")
	}
	for _, x := range []struct {
		words string
		Shot
	}{{"the copy's picture", a}, {"the other picture", b}} {
		switch {
		case x.Card == nil:
			say(fmt.Sprintf("No card is marked in %s: its colour is compared as the camera saw it.", x.words))
		case x.Card.Quality == "poor":
			say(fmt.Sprintf("The card in %s puts it right poorly, %.1f off.", x.words, x.Card.Mean))
		}
	}
}

// sides are the landmarks of one picture that stand left and right of it: brow L, brow R.
func sides(a Shot) []compare.Mark {
	var out []compare.Mark
	for _, l := range a.About.Marks {
		name, is := strings.CutSuffix(l.Name, " L")
		if !is {
			continue
		}
		for _, r := range a.About.Marks {
			if r.Name == name+" R" {
				out = append(out, compare.Mark{ID: name, A: a.at(l), B: a.at(r), Exempt: l.Differs || r.Differs})
			}
		}
	}
	return out
}

// cellMM is the side of the places whose colours are compared; in pixels where nobody knows
// the scale.
const (
	cellMM     = 4.0
	cellPixels = 32.0
	mostCells  = 10000
)

// pixels reads a picture as it is shown.
func (s *Service) pixels(ctx context.Context, x Shot) (image.Image, error) {
	f, err := s.Files.View(ctx, x.SHA256, x.kind, shownWide)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return jpeg.Decode(f)
}

// tones are the mean colours of the places that both pictures show, within the landmarks.
func (s *Service) tones(ctx context.Context, a, b Shot, m *Measured) ([]compare.Tone, error) {
	back, ok := m.Move.Back()
	if !ok {
		return nil, nil
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return nil, err
	}
	defer free()
	one, err := s.pixels(ctx, a)
	if err != nil {
		return nil, err
	}
	two, err := s.pixels(ctx, b)
	if err != nil {
		return nil, err
	}
	return m.cells(ctx, one, two, a, b, back)
}

// cells lays a grid over the other picture and reads both there.
func (m *Measured) cells(ctx context.Context, one, two image.Image, a, b Shot, back compare.Move) ([]compare.Tone, error) {
	_, cardA := cardOf(a.About.Fields)
	_, cardB := cardOf(b.About.Fields)
	cell := cellPixels
	if mm := b.mmPerPixel(); mm > 0 {
		cell = math.Max(4, cellMM/mm)
	}
	lo, hi := hull(b)
	for (hi[0]-lo[0])*(hi[1]-lo[1])/(cell*cell) > mostCells {
		cell *= 1.2
	}
	var out []compare.Tone
	most := -1.0
	for y := lo[1]; y+cell <= hi[1]; y += cell {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		for x := lo[0]; x+cell <= hi[0]; x += cell {
			labB, okB := meanLab(two, cardB, x, y, cell, nil)
			labA, okA := meanLab(one, cardA, x, y, cell, &back)
			if !okA || !okB {
				continue
			}
			t := compare.Tone{ID: fmt.Sprintf("%.0f,%.0f", x+cell/2, y+cell/2), A: labA, B: labB}
			if d := colour.DE00(labA, labB); d > most {
				most = d
				m.Worse = &[2]float64{x + cell/2, y + cell/2}
			}
			out = append(out, t)
		}
	}
	return out, nil
}

// hull is the box round the landmarks of a picture, in pixels as shown.
func hull(x Shot) (lo, hi compare.P) {
	lo, hi = compare.P{math.Inf(1), math.Inf(1)}, compare.P{math.Inf(-1), math.Inf(-1)}
	for _, m := range x.About.Marks {
		p := x.at(m)
		for i := range 2 {
			lo[i], hi[i] = math.Min(lo[i], p[i]), math.Max(hi[i], p[i])
		}
	}
	return lo, hi
}

// samples is how many pixels a side of a place are read.
const samples = 5

// meanLab is the mean colour of a place, put right by the card; through goes from there to
// the picture that is read. False where it lies outside.
func meanLab(img image.Image, card *colour.Card, x, y, cell float64, through *compare.Move) (colour.Lab, bool) {
	var sum [3]float64
	box := img.Bounds()
	for j := range samples {
		for i := range samples {
			p := compare.P{x + cell*(float64(i)+0.5)/samples, y + cell*(float64(j)+0.5)/samples}
			if through != nil {
				p = through.Of(p)
			}
			at := image.Pt(box.Min.X+int(p[0]), box.Min.Y+int(p[1]))
			if p[0] < 0 || p[1] < 0 || !at.In(box) {
				return colour.Lab{}, false
			}
			c := color.NRGBAModel.Convert(img.At(at.X, at.Y)).(color.NRGBA)
			for k, v := range [3]uint8{c.R, c.G, c.B} {
				sum[k] += colour.Decode(float64(v)) / (samples * samples)
			}
		}
	}
	if card != nil {
		sum = card.Linear(sum)
	}
	return colour.FromLinear(sum), true
}

// keep writes down what was measured, so that a verdict stands on it.
func (s *Service) keep(ctx context.Context, c copies.Copy, a, b Shot, m Measured) error {
	raw, err := json.Marshal(m)
	if err != nil {
		return err
	}
	who, _ := accounts.From(ctx)
	_, err = s.DB.ExecContext(ctx, `INSERT INTO copy_compare (copy_id, file_id, with_file_id, mode, answer, at, person_id) VALUES (?,?,?,?,?,?,?)`, c.ID, a.fileID, b.fileID, m.Mode, string(raw), s.Clock.Now(), who.ID)
	if err != nil {
		return fmt.Errorf("keeping what was measured: %w", err)
	}
	s.Live.Tell(ctx, "copies", c.Code)
	return nil
}
