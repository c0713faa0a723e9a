package form

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/scan"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/platform/problem"
)

// Kinds of jobs. A number stands behind each: a change of what is worked out
// takes another, so that old answers are not shown as new ones.
const (
	LookAt      = "look at a surface 1"
	MeasureOver = "measure over a core 6"
	CompareWith = "compare two surfaces 1"
)

// faces is how many faces a picture of a surface has at most.
const faces = 160_000

// surface is a stored file and how it is read.
type surface struct {
	SHA256 string `json:"sha256"`
	Name   string `json:"name"`
	Part   string `json:"part"`
	Unit   string `json:"unit,omitempty"` // empty: as guessed
}

func surfaceOf(c Scan) surface {
	return surface{SHA256: c.SHA256, Name: c.Name, Part: c.Part, Unit: deref(c.Unit)}
}

type lookInput struct {
	SHA256 string `json:"sha256"`
	Name   string `json:"name"`
	Part   string `json:"part"`
}

type measureInput struct {
	Sculpt  surface   `json:"sculpt"`
	Core    surface   `json:"core"`
	NoiseMM float64   `json:"noise_mm"`
	Family  string    `json:"family"`
	Mode    string    `json:"mode"`
	Dir     *scan.Vec `json:"dir,omitempty"`
}

type changeInput struct {
	Later   surface `json:"later"`
	Earlier surface `json:"earlier"`
}

// Looked is what is known of one surface, in the file's own unit where lengths
// are concerned.
type Looked struct {
	scan.Info
	Bend    float64 `json:"bend" doc:"integral of the mean curvature, file units"`
	Surface string  `json:"surface" doc:"the picture of it"`
}

// Measured is what is known of an appliance over its core, in mm.
type Measured struct {
	Thickness  scan.Thickness     `json:"thickness"`
	Profile    []float64          `json:"profile_mm" doc:"from the centre to the edge, in even steps of a round piece of the same area"`
	Limits     mouldmath.Limit    `json:"limits"`
	ThinUnder  float64            `json:"thin_under_mm"`
	Thin       []scan.Spot        `json:"thin"`
	Pull       scan.Pull          `json:"pull"`
	Best       bool               `json:"best" doc:"the pull was looked for"`
	Undercuts  []scan.Place       `json:"undercuts"`
	Parting    [][2]scan.Vec      `json:"parting" doc:"the parting line, thinned"`
	Vents      []scan.Place       `json:"vents"`
	Sides      *scan.Sides        `json:"sides,omitempty"`
	SidesNot   string             `json:"sides_not,omitempty" doc:"why left and right were not compared"`
	Plane      *Plane             `json:"plane,omitempty"`
	Masses     []mouldmath.Weight `json:"masses"`
	Around     Around             `json:"around"`
	OverCore   string             `json:"over_core" doc:"picture of the core with thickness as its layer"`
	OfMould    string             `json:"of_mould" doc:"picture of what a mould goes round, clay and 15 mm of land, with the draft angle as its layer"`
	OfSculpt   string             `json:"of_sculpt" doc:"picture of the sculpt with the left-right difference as its layer"`
	UnitCore   string             `json:"unit_core"`
	UnitSculpt string             `json:"unit_sculpt"`
}

// Plane is what left and right are compared about.
type Plane struct {
	Point  scan.Vec `json:"point"`
	Normal scan.Vec `json:"normal"`
}

// Around is what a mould's size follows from, in mm.
type Around struct {
	AreaMM2    float64  `json:"area_mm2"`
	VolumeMM3  float64  `json:"volume_mm3"`
	Bend       float64  `json:"bend"`
	Euler      int      `json:"euler"`
	Watertight bool     `json:"watertight"`
	Size       scan.Vec `json:"size_mm"`
}

// Changed is how a later surface differs from an earlier one.
type Changed struct {
	scan.Change
	Surface string `json:"surface" doc:"picture of the later one with the difference as its layer"`
}

var scales = map[string]float64{"mm": 1, "cm": 10, "in": 25.4, "m": 1000}

// math3 rounds to what the database keeps, so that a job's input stays the same.
func math3(x float64) float64 { return math.Round(x*1000) / 1000 }

// Does makes the form room's work known to the jobs.
func (s *Service) Does() {
	s.Jobs.Does(LookAt, s.look)
	s.Jobs.Does(MeasureOver, s.measure)
	s.Jobs.Does(CompareWith, s.compare)
}

// read brings a stored surface in, in its own unit.
func (s *Service) read(name, sum string) (*scan.Raw, error) {
	f, err := s.Files.Open(sum)
	if errors.Is(err, os.ErrNotExist) {
		return nil, problem.NotFound("file", name)
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	stat, err := f.Stat()
	if err != nil {
		return nil, err
	}
	return scan.Read(name, f, stat.Size(), 0)
}

// inMM brings a stored surface in, in mm.
func (s *Service) inMM(in surface) (*scan.Mesh, string, error) {
	raw, err := s.read(in.Name, in.SHA256)
	if err != nil {
		return nil, "", err
	}
	unit := in.Unit
	if unit == "" {
		sum := raw.Measure()
		guess, err := scan.GuessUnit(sum.Box.Diagonal(), in.Part)
		if err != nil {
			return nil, "", err
		}
		// Nothing is scaled by a guess: anything but plain millimetres is asked.
		if unit = guess.Name; unit != "mm" || guess.Ambiguous {
			return nil, "", problem.Invalid("UNITS_GUESS", "unit", "%s is %.4g units across; for a %s that is not plainly millimetres. Say which unit it is in.", in.Name, sum.Box.Diagonal(), in.Part)
		}
	}
	return raw.Scaled(scales[unit]).Weld(), unit, nil
}

// store keeps a picture of a surface by its content.
func (s *Service) store(ctx context.Context, shown scan.Shown) (string, error) {
	kept, err := s.Files.PutAs(ctx, bytes.NewReader(shown.Encode()), surfaceType)
	if err != nil {
		return "", err
	}
	return kept.SHA256(), s.DB.InTx(ctx, func(tx database.Tx) error {
		_, err := s.Files.Record(ctx, tx, kept, s.Clock.Now(), 0)
		return err
	})
}

// surfaceType is the kind of file in which pictures of surfaces are kept.
const surfaceType = "application/vnd.yewmoor.surface"

func (s *Service) look(ctx context.Context, raw json.RawMessage, say jobs.Say) (any, error) {
	var in lookInput
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, err
	}
	say(0.05, "reading the file")
	r, err := s.read(in.Name, in.SHA256)
	if err != nil {
		return nil, err
	}
	say(0.3, "joining its triangles")
	info, m, err := scan.Inspect(r, in.Part)
	if err != nil {
		return nil, err
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	say(0.8, "drawing it")
	out := Looked{Info: *info, Bend: m.Bend()}
	out.Surface, err = s.store(ctx, m.Show(faces))
	return out, err
}

func (s *Service) measure(ctx context.Context, raw json.RawMessage, say jobs.Say) (any, error) {
	var in measureInput
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, err
	}
	say(0.03, "reading the core")
	core, unitCore, err := s.inMM(in.Core)
	if err != nil {
		return nil, err
	}
	say(0.1, "reading the sculpt")
	sculpt, unitSculpt, err := s.inMM(in.Sculpt)
	if err != nil {
		return nil, err
	}
	out := Measured{UnitCore: unitCore, UnitSculpt: unitSculpt, Limits: mouldmath.LimitOf(in.Family), Parting: [][2]scan.Vec{}, Undercuts: []scan.Place{}}
	say(0.2, "measuring the thickness")
	along := func(from, to float64, words string) context.Context {
		return scan.WithProgress(ctx, func(share float64) { say(from+share*(to-from), words) })
	}
	field, err := scan.Measure(along(0.2, 0.45, "measuring the thickness"), core, sculpt, scan.Fit{Eps: in.NoiseMM, Thick: out.Limits.ThickMM, EdgeLimit: out.Limits.EdgeMM})
	if err != nil {
		return nil, err
	}
	out.Thickness = *field.Work()
	out.Profile = hundredths(field.Profile(&out.Thickness, profileSteps))
	out.ThinUnder = out.Limits.ThinMM
	out.Thin = field.Thin(out.Thickness.EdgeLine, out.ThinUnder, 8)
	say(0.45, "looking for undercuts")
	laid, err := scan.Laid(ctx, core, sculpt, in.NoiseMM, land)
	if err != nil {
		return nil, err
	}
	pull, err := s.pull(along(0.5, 0.75, "looking for undercuts"), laid, in)
	if err != nil {
		return nil, err
	}
	out.Pull, out.Best = *pull, in.Dir == nil
	out.Undercuts = laid.Undercuts(pull, 8)
	out.Parting = thinned(pull.Line, 600)
	if out.Vents, err = field.Vents(scan.Toward(pull.Direction, field.Facing()), 15, 6); err != nil {
		return nil, err
	}
	say(0.75, "comparing left and right")
	layer := s.sides(ctx, core, sculpt, &out)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	say(0.9, "drawing it")
	out.Around = aroundOf(laid, pull.Direction)
	out.Masses = mouldmath.InEach(out.Thickness.CavityMM3)
	if out.OverCore, err = s.store(ctx, core.Show(faces, field.Layer())); err != nil {
		return nil, err
	}
	if out.OfMould, err = s.store(ctx, laid.Show(faces, laid.Angles(pull))); err != nil {
		return nil, err
	}
	out.OfSculpt, err = s.store(ctx, sculpt.Show(faces, layer))
	return out, err
}

// profileSteps is in how many steps a section takes a measured thickness over.
const profileSteps = 16

// hundredths rounds lengths to what a scan may claim.
func hundredths(list []float64) []float64 {
	out := make([]float64, len(list))
	for i, mm := range list {
		out[i] = math.Round(mm*100) / 100
	}
	return out
}

// land is how far beside the clay a mould closes, mm.
const land = 15

// pull is how the mould leaves what it goes round: for nobody's wish the best
// direction, of one piece for an open surface and of two for a closed body.
func (s *Service) pull(ctx context.Context, m *scan.Mesh, in measureInput) (*scan.Pull, error) {
	if in.Mode == "" {
		in.Mode = "two"
		if m.Open() {
			in.Mode = "one"
		}
	}
	if in.Dir != nil {
		return m.Draft(ctx, *in.Dir, in.Mode)
	}
	return m.Best(ctx, in.Mode, 0)
}

// sides compares left and right about the plane that the core is most alike
// about. A core without one, or a sculpt on one side, is said so.
func (s *Service) sides(ctx context.Context, core, sculpt *scan.Mesh, out *Measured) []float64 {
	point := core.Box.Centre()
	n, offset, err := core.FitPlane(ctx, point, scan.Vec{1, 0, 0})
	if err == nil {
		along := point[0]*n[0] + point[1]*n[1] + point[2]*n[2]
		for k := range 3 {
			point[k] += (offset - along) * n[k]
		}
		out.Sides, err = sculpt.Symmetry(ctx, point, n)
	}
	if err != nil {
		out.Sides, out.SidesNot = nil, fmt.Sprintf("Left and right were not compared: %s", err)
		none := make([]float64, len(sculpt.V))
		for i := range none {
			none[i] = math.NaN()
		}
		return none
	}
	out.Plane = &Plane{point, n}
	return out.Sides.At
}

// Body is what a mould's size follows from, in mm, by what is known of a
// surface alone; its unit must be known.
func (c Scan) Body() mouldmath.Body {
	k := scales[c.Looked.Name]
	if c.Unit != nil {
		k = scales[*c.Unit]
	}
	l := c.Looked
	b := mouldmath.Body{AreaMM2: l.Area * k * k, VolumeMM3: l.MM3 * k * k * k, Bend: l.Bend * k, Euler: l.Euler, Watertight: l.Watertight, Scanned: true}
	for i := range 3 {
		b.SizeMM[i] = (l.BoxMax[i] - l.BoxMin[i]) * k
	}
	return b
}

// aroundOf is what a mould goes round. Its box lies along the pull: the third size
// is how high the block is, the others the smallest frame across it.
func aroundOf(m *scan.Mesh, pull scan.Vec) Around {
	top := m.Topology()
	v := m.Volumes(top)
	a := Around{AreaMM2: v.Area, VolumeMM3: v.MM3, Bend: m.Bend(), Euler: top.Euler, Watertight: top.Watertight}
	a.Size = m.BoxAlong(pull)
	return a
}

// thinned keeps every so many segments of a long line, for the picture only.
func thinned(line [][2]scan.Vec, most int) [][2]scan.Vec {
	step := len(line)/most + 1
	out := [][2]scan.Vec{}
	for i := 0; i < len(line); i += step {
		out = append(out, line[i])
	}
	return out
}

func (s *Service) compare(ctx context.Context, raw json.RawMessage, say jobs.Say) (any, error) {
	var in changeInput
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, err
	}
	say(0.1, "reading both")
	later, _, err := s.inMM(in.Later)
	if err != nil {
		return nil, err
	}
	earlier, _, err := s.inMM(in.Earlier)
	if err != nil {
		return nil, err
	}
	say(0.4, "measuring from one to the other")
	change, err := later.Change(ctx, earlier)
	if err != nil {
		return nil, err
	}
	out := Changed{Change: *change}
	out.Surface, err = s.store(ctx, later.Show(faces, change.At))
	return out, err
}
