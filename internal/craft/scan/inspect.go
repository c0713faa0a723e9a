package scan

// Info is what is known of one surface.
type Info struct {
	Format string `json:"format"`
	UnitGuess
	Topology
	Volumes
	BoxMin   Vec      `json:"box_min"`
	BoxMax   Vec      `json:"box_max"`
	Diagonal float64  `json:"diagonal"`
	Warnings []string `json:"warnings"`
}

// Inspect works out everything about one surface; part may be empty.
func Inspect(r *Raw, part string) (*Info, *Mesh, error) {
	m := r.Weld()
	if len(m.F) == 0 {
		return nil, nil, bad(NoTriangles, "file", "Every triangle of the file has a place twice.")
	}
	out := &Info{Format: r.Format, BoxMin: m.Box.Min, BoxMax: m.Box.Max, Diagonal: m.Box.Diagonal()}
	if part != "" {
		var err error
		if out.UnitGuess, err = GuessUnit(out.Diagonal, part); err != nil {
			return nil, nil, err
		}
	}
	top := m.Topology()
	out.Topology = *top
	out.Topology.Triangles = r.Triangles()
	out.Volumes = m.Volumes(top)
	out.Warnings = top.Warnings(r.Trailing, out.Volumes, out.UnitGuess)
	return out, m, nil
}
