package demo

// The demo's scans, made from the wearers' own parametric form: bare cores, and
// what is sculpted on them, with one place that comes down to the core, one that
// is too thin by the edge, and one knob that locks.

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/files"
	formroom "yewmoor/internal/station/form"
)

// net is a part of a wearer's form as a surface: a grid of places with faces
// that look outward.
type net struct {
	nu, nv int
	at     []form.Point
	v      []form.Vec
	n      []form.Vec
}

func minus(a, b form.Vec) form.Vec { return form.Vec{X: a.X - b.X, Y: a.Y - b.Y, Z: a.Z - b.Z} }
func plus(a, b form.Vec, k float64) form.Vec {
	return form.Vec{X: a.X + k*b.X, Y: a.Y + k*b.Y, Z: a.Z + k*b.Z}
}
func length(a form.Vec) float64 { return math.Sqrt(a.X*a.X + a.Y*a.Y + a.Z*a.Z) }
func cross(a, b form.Vec) form.Vec {
	return form.Vec{X: a.Y*b.Z - a.Z*b.Y, Y: a.Z*b.X - a.X*b.Z, Z: a.X*b.Y - a.Y*b.X}
}

// netOf samples a sheet between map coordinates u0, u1 and v0, v1.
func netOf(s *form.Sheet, u0, u1, v0, v1 float64, nu, nv int) net {
	out := net{nu: nu, nv: nv, v: make([]form.Vec, nu*nv), n: make([]form.Vec, nu*nv), at: make([]form.Point, nu*nv)}
	for j := range nv {
		for i := range nu {
			p := form.Point{U: u0 + (u1-u0)*float64(i)/float64(nu-1), V: v0 + (v1-v0)*float64(j)/float64(nv-1)}
			out.at[j*nu+i], out.v[j*nu+i] = p, s.At(p)
		}
	}
	for _, f := range out.faces(nil) {
		c := cross(minus(out.v[f[1]], out.v[f[0]]), minus(out.v[f[2]], out.v[f[0]]))
		for _, k := range f {
			out.n[k] = plus(out.n[k], c, 1)
		}
	}
	for i, n := range out.n {
		out.n[i] = form.Vec{X: n.X / length(n), Y: n.Y / length(n), Z: n.Z / length(n)}
	}
	return out
}

// faces are two triangles a cell; keep leaves out those with a place it says no
// to.
func (g net) faces(keep func(i int) bool) [][3]int {
	var out [][3]int
	add := func(f [3]int) {
		if keep == nil || keep(f[0]) && keep(f[1]) && keep(f[2]) {
			out = append(out, f)
		}
	}
	for j := range g.nv - 1 {
		for i := range g.nu - 1 {
			a := j*g.nu + i
			add([3]int{a, a + g.nu, a + 1})
			add([3]int{a + 1, a + g.nu, a + g.nu + 1})
		}
	}
	return out
}

// ply writes a surface as a binary PLY.
func ply(v []form.Vec, faces [][3]int) []byte {
	var out bytes.Buffer
	fmt.Fprintf(&out, "ply\nformat binary_little_endian 1.0\ncomment made by Yewmoor's own form\nelement vertex %d\nproperty float x\nproperty float y\nproperty float z\nelement face %d\nproperty list uchar int vertex_indices\nend_header\n", len(v), len(faces))
	raw := out.Bytes()
	for _, p := range v {
		for _, x := range []float64{p.X, p.Y, p.Z} {
			raw = binary.LittleEndian.AppendUint32(raw, math.Float32bits(float32(x)))
		}
	}
	for _, f := range faces {
		raw = append(raw, 3)
		for _, k := range f {
			raw = binary.LittleEndian.AppendUint32(raw, uint32(k))
		}
	}
	return raw
}

// stl writes a surface as a binary STL.
func stl(v []form.Vec, faces [][3]int) []byte {
	raw := make([]byte, 80, 84+50*len(faces))
	copy(raw, "made by Yewmoor's own form")
	raw = binary.LittleEndian.AppendUint32(raw, uint32(len(faces)))
	for _, f := range faces {
		raw = append(raw, make([]byte, 12)...)
		for _, k := range f {
			for _, x := range []float64{v[k].X, v[k].Y, v[k].Z} {
				raw = binary.LittleEndian.AppendUint32(raw, math.Float32bits(float32(x)))
			}
		}
		raw = append(raw, 0, 0)
	}
	return raw
}

// clay is what lies on a core: within outlines, so high, rising over a run from
// the edge, with lines of a texture in it, and what went wrong.
type clay struct {
	outlines  [][]form.Point
	peak, run float64
	rim       float64 // thickness of the edge itself
	lines     func(p form.Vec) float64
	hollows   []hollow
	knobs     []knob
	open      bool // only the patch was scanned
}

// hollow is where the clay was pressed to a height.
type hollow struct {
	at             form.Point
	radius, height float64
}

// knob is a barnacle whose head is wider than its neck.
type knob struct {
	at           form.Point
	radius, high float64
}

func smooth(x float64) float64 {
	x = math.Max(0, math.Min(1, x))
	return x * x * (3 - 2*x)
}

// depth is how far a place lies inside the outlines, mm; below 0 outside.
func (c clay) depth(s *form.Sheet, g net) []float64 {
	out := make([]float64, len(g.at))
	for i := range out {
		out[i] = -1
	}
	for _, outline := range c.outlines {
		curve := form.Curve(outline, true)
		rim := make([]form.Vec, len(curve))
		for i, p := range curve {
			rim[i] = s.At(p)
		}
		inside := form.Follow(outline)
		for i, p := range g.at {
			if !inside.Holds(p) {
				continue
			}
			d := math.Inf(1)
			for _, r := range rim {
				d = math.Min(d, length(minus(r, g.v[i])))
			}
			out[i] = math.Max(out[i], d)
		}
	}
	return out
}

// laid is the sculpt over the core, and which of its places carry clay.
func (c clay) laid(s *form.Sheet, g net) ([]form.Vec, []bool) {
	depth := c.depth(s, g)
	out, on := make([]form.Vec, len(g.v)), make([]bool, len(g.v))
	for i, d := range depth {
		if d < 0 {
			out[i] = g.v[i]
			continue
		}
		on[i] = true
		rise := smooth(d / c.run)
		t := c.rim + (c.peak-c.rim)*rise
		if c.lines != nil {
			t += rise * c.lines(g.v[i])
		}
		for _, h := range c.hollows {
			t += (h.height - t) * smooth(1.6*(1-length(minus(s.At(h.at), g.v[i]))/h.radius))
		}
		out[i] = plus(g.v[i], g.n[i], t)
	}
	for _, k := range c.knobs {
		c.raise(s, g, k, out)
	}
	return out, on
}

// raise puts a knob on the clay: from the neck its wall leans outward, so that
// it locks whichever way the mould is pulled.
func (c clay) raise(s *form.Sheet, g net, k knob, out []form.Vec) {
	foot := s.At(k.at)
	for i := range out {
		side := minus(g.v[i], foot)
		r := length(side) / k.radius
		if r >= 1 || r == 0 {
			continue
		}
		// From the foot inward: up the neck, out under the head, over its top.
		wide, high := 0.0, 0.0
		switch {
		case r > 0.65:
			x := (1 - r) / 0.35
			wide, high = 1-0.45*x, 0.35*x
		case r > 0.35:
			x := (0.65 - r) / 0.30
			wide, high = 0.55+0.5*x, 0.35+0.25*x
		default:
			x := r / 0.35
			wide, high = 1.05*x, 1-0.4*x*x
		}
		out[i] = plus(plus(out[i], side, wide/r-1), g.n[i], k.high*high)
	}
}

// regionOf is the outline of a region on a sheet; none ends the story.
func (t *teller) regionOf(s *form.Sheet, name, side string) []form.Point {
	outline, ok := s.Region(name, side)
	if !ok {
		t.try(fmt.Errorf("the form has no %s", name))
	}
	return outline
}

// drawn are the outlines that a piece's brief draws on the head.
func (t *teller) drawn(code string) (out [][]form.Point) {
	p, err := piece.Find(t.ctx, t.s.DB, code)
	t.try(err)
	if t.err != nil {
		return nil
	}
	doc, _, err := t.s.Pieces.ReadBrief(t.ctx, t.s.DB, p)
	t.try(err)
	for _, m := range doc.Marks {
		if m.Kind == "region" && m.Sheet == "head" {
			out = append(out, m.Points)
		}
	}
	return out
}

// scan uploads a surface the way a person does, says that it is in mm, and over
// which core it lies. It gives the scan's number.
func (t *teller) scan(in formroom.NewScan, name string, raw []byte) uint64 {
	if t.err != nil {
		return 0
	}
	ctx := t.who["ivo"]
	up, err := t.s.Form.Uploads.Begin(ctx, files.NewUpload{Name: name, Size: int64(len(raw)), Mark: name})
	t.try(err)
	for at := int(up.Received); t.err == nil && at < len(raw); at += files.MaxPiece {
		_, err = t.s.Form.Uploads.Append(ctx, up.ID, int64(at), bytes.NewReader(raw[at:min(len(raw), at+files.MaxPiece)]), nil)
		t.try(err)
	}
	if t.err != nil {
		return 0
	}
	core := in.Core
	in.Upload, in.Core = up.ID, 0
	all, err := t.s.Form.AddScan(ctx, in)
	t.try(err)
	if t.err != nil {
		return 0
	}
	id := all.Scans[0].ID
	_, err = t.s.Form.Tell(ctx, id, formroom.Told{Unit: "mm", Stage: in.Stage, Core: core, Version: all.Scans[0].Version})
	t.try(err)
	return id
}

// on lays clay on a core's form and keeps the scan of it.
func (t *teller) on(code, stage, name string, core uint64, s *form.Sheet, g net, c clay) {
	if t.err != nil {
		return
	}
	v, on := c.laid(s, g)
	var keep func(int) bool
	if c.open {
		keep = func(i int) bool { return on[i] }
	}
	write := ply
	if stage == "blocked out" {
		write = stl
	}
	t.scan(formroom.NewScan{Piece: code, Stage: stage, Core: core}, name, write(v, g.faces(keep)))
}

// measured are the cores of four wearers and the sculpts on them.
func (t *teller) measured() {
	t.at(1, 9, 15, 0)
	ctx := t.who["ivo"]
	add := func(f formroom.NewForm) string {
		made, err := t.s.Form.Add(ctx, f)
		t.try(err)
		return made.Code
	}
	alder := add(formroom.NewForm{Performer: "Siv Marrow", Region: "face", Material: "hard stone", Place: "rack 3", State: "sound", TakenHow: "alginate, bandage jacket, eleven minutes on the body", MadeOn: "2025-12-02"})
	ferry := add(formroom.NewForm{Performer: "Dunstan Vey", Region: "neck", Material: "casting plaster", Place: "rack 3", State: "sound, sealed", TakenHow: "two silicones, bandage jacket", MadeOn: "2025-12-04"})
	heads := map[string]*form.Sheet{}
	for _, code := range []string{"BF-01", "AL-01", "FT-01", "PK-01"} {
		p, err := piece.Find(t.ctx, t.s.DB, code)
		t.try(err)
		measures, err := people.Measures(t.ctx, t.s.DB, p.PerformerID)
		t.try(err)
		if t.err != nil {
			return
		}
		heads[code[:2]], err = t.s.People.Forms.Sheet("head", measures)
		t.try(err)
	}
	if t.err != nil {
		return
	}
	face := func(s *form.Sheet) net { return netOf(s, -74, 74, 20, 76, 124, 128) }
	throat := func(s *form.Sheet) net { return netOf(s, -86, 86, 52, 99, 132, 112) }
	bf, al, ft, pk := face(heads["BF"]), netOf(heads["AL"], -74, 74, 20, 84, 124, 146), throat(heads["FT"]), throat(heads["PK"])
	cores := map[string]uint64{}
	for _, c := range []struct {
		code string
		g    net
	}{{"F-001", bf}, {alder, al}, {ferry, ft}, {"F-002", pk}} {
		cores[c.code] = t.scan(formroom.NewScan{Form: c.code}, c.code+"-bare.ply", ply(c.g.v, c.g.faces(nil)))
	}
	for _, on := range [][3]string{{"BF-01", "F-001", "own cast"}, {"BF-03", "F-001", "general form"}, {"AL-01", alder, "general form"}, {"AL-02", alder, "general form"}, {"AL-03", alder, "general form"}, {"FT-01", ferry, "general form"}, {"PK-01", "F-002", "general form"}, {"GC-01", "F-003", "own cast"}} {
		_, err := t.s.Form.Choose(ctx, on[0], formroom.BuiltOn{Form: &on[1], Fit: on[2]})
		t.try(err)
	}
	bark := func(p form.Vec) float64 {
		return 0.5*math.Sin(p.X/2.6+1.3*math.Sin(p.Y/11)) + 0.3*math.Sin(p.Y/7+p.X/9)
	}
	scales := func(p form.Vec) float64 {
		return 0.35 * math.Sin(p.X/2.2+math.Pi*math.Floor(p.Y/4)) * math.Cos(p.Y/1.6)
	}
	cheek := t.drawn("BF-03")
	if len(cheek) == 0 {
		cheek = [][]form.Point{t.regionOf(heads["BF"], "cheek", "L")}
	}
	middle := centre(cheek[0])
	// BF: the cheek was blocked out, then finished; one barnacle's head is wider
	// than its neck.
	t.on("BF-03", "blocked out", "BF-03-blocked.stl", cores["F-001"], heads["BF"], bf, clay{outlines: cheek, peak: 4, run: 16})
	t.on("BF-03", "finished sculpt", "BF-03-finished.ply", cores["F-001"], heads["BF"], bf, clay{outlines: cheek, peak: 5, run: 14, knobs: []knob{{middle, 9, 7}, {form.Point{U: middle.U + 8, V: middle.V + 5}, 5.5, 2.5}}})
	// AL: three parts on one core; on the brow the tool went down to the core.
	brow := heads["AL"]
	for _, code := range []string{"AL-01", "AL-02", "AL-03"} {
		c := clay{outlines: t.drawn(code), peak: 5.5, run: 17, lines: bark}
		if len(c.outlines) == 0 {
			continue
		}
		if code == "AL-01" {
			at := centre(c.outlines[0])
			c.hollows = []hollow{{form.Point{U: at.U - 9, V: at.V + 1}, 9, -0.4}}
		}
		t.on(code, "finished sculpt", code+"-finished.ply", cores[alder], brow, al, c)
	}
	// FT: only the patch was scanned; it is thin beside the edge.
	gills := []form.Point{{U: 14, V: 79}, {U: 30, V: 76}, {U: 50, V: 78}, {U: 58, V: 84}, {U: 48, V: 92}, {U: 28, V: 93}, {U: 15, V: 88}}
	t.on("FT-01", "finished sculpt", "FT-01-gills.ply", cores[ferry], heads["FT"], ft, clay{outlines: [][]form.Point{gills}, peak: 3.6, run: 9, rim: 0.08, open: true, hollows: []hollow{{form.Point{U: 46, V: 86}, 8, 0.35}}})
	// PK: the scaled throat, all of it off the core.
	t.on("PK-01", "finished sculpt", "PK-01-finished.ply", cores["F-002"], heads["PK"], pk, clay{outlines: t.drawn("PK-01"), peak: 6.1, run: 12, lines: scales})
}

func centre(outline []form.Point) form.Point {
	var c form.Point
	for _, p := range outline {
		c.U += p.U / float64(len(outline))
		c.V += p.V / float64(len(outline))
	}
	return c
}
