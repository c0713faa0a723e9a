package form

import (
	"context"
	"fmt"
	"math"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/scan"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/problem"
)

// Found is what the newest measured scan of a piece says in a few figures: what
// its section takes over, and where to look when a copy of it is checked.
type Found struct {
	Scan      uint64    `json:"scan" doc:"0 when none of its scans is measured"`
	Name      string    `json:"name"`
	Stage     string    `json:"stage"`
	At        time.Time `json:"at"`
	Who       string    `json:"who"`
	ProfileMM []float64 `json:"profile_mm" doc:"from the centre to the edge, as a layer of the section takes it"`
	MeanMM    float64   `json:"mean_mm"`
	MostMM    float64   `json:"most_mm"`
	LeastMM   float64   `json:"least_mm" doc:"off the edge"`
	AreaCM2   float64   `json:"area_cm2"`
	VolumeML  float64   `json:"volume_ml" doc:"between core and sculpt"`
	Places    []Place   `json:"places"`
}

// Place is a place of a sculpt to look at, numbered as on its map.
type Place struct {
	Kind    string    `json:"kind" enum:"core_contact,thin,edge"`
	Words   string    `json:"words"`
	AreaCM2 float64   `json:"area_cm2,omitempty"`
	MM      float64   `json:"mm,omitempty"`
	At      *scan.Vec `json:"at,omitempty" doc:"on the core, mm; of an edge none"`
}

// FoundOf reads what is measured of a piece.
func (s *Service) FoundOf(ctx context.Context, code string) (Found, error) {
	none := Found{ProfileMM: []float64{}, Places: []Place{}}
	c, known, err := s.BodyOf(ctx, code)
	if err != nil || !known || c.Measured == nil {
		return none, err
	}
	return c.found(), nil
}

// found is what a measured scan says.
func (c Scan) found() Found {
	t := c.Measured.Thickness
	return Found{
		Scan: c.ID, Name: c.Name, Stage: c.Stage, At: c.At, Who: c.Who,
		ProfileMM: c.Measured.Profile, MeanMM: t.Mean, MostMM: t.Max, LeastMM: t.InteriorMin,
		AreaCM2: math.Round(t.AreaMM2/10) / 10, VolumeML: t.CavityMM3 / 1000, Places: c.Measured.places(),
	}
}

// places are core contacts, then thin spots, then an edge over its limit.
func (m Measured) places() []Place {
	out := []Place{}
	for _, c := range m.Thickness.Contacts {
		out = append(out, Place{"core_contact", fmt.Sprintf("core contact, %.1f cm²: would cast as a hole", c.AreaMM2/100), c.AreaMM2 / 100, 0, &c.At})
	}
	for _, c := range m.Thin {
		out = append(out, Place{"thin", fmt.Sprintf("thin, %s over %.1f cm²", quantity.FormatLength(c.DepthMM), c.AreaMM2/100), c.AreaMM2 / 100, c.DepthMM, &c.At})
	}
	if t := m.Thickness; t.EdgeMode == "boundary" && t.EdgeOver > 0.1 {
		out = append(out, Place{Kind: "edge", MM: t.EdgeMean, Words: fmt.Sprintf("edge %s thick, more than %s along %.0f %% of it", quantity.FormatLength(t.EdgeMean), quantity.FormatLength(m.Limits.EdgeMM), 100*t.EdgeOver)})
	}
	return out
}

// Map is a measured scan as it goes on paper.
func (s *Service) Map(ctx context.Context, id uint64) (paper.ThicknessMap, error) {
	c, err := s.one(ctx, s.DB, id)
	if err != nil {
		return paper.ThicknessMap{}, err
	}
	flat, err := s.Flat(ctx, id, "front")
	if err != nil {
		return paper.ThicknessMap{}, err
	}
	if c.Measured == nil {
		return paper.ThicknessMap{}, problem.Conflict("not_ready", "%s is not measured yet: say in Form which core it lies over.", c.Name)
	}
	f, t := c.found(), c.Measured.Thickness
	out := paper.ThicknessMap{
		Code: deref(c.Piece), Title: "Thickness over the core", Surface: flat, MostMM: t.Max,
		Note: fmt.Sprintf("%s, %s · %s · noise of the scan %g mm", f.Name, f.Stage, f.At.Format("2 Jan 2006"), c.NoiseMM),
		Figures: [][2]string{
			{"Mean, median, most", fmt.Sprintf("%s · %s · %s", quantity.FormatLength(t.Mean), quantity.FormatLength(t.P50), quantity.FormatLength(t.Max))},
			{"Least off the edge", quantity.FormatLength(t.InteriorMin)},
			{"Area, volume", fmt.Sprintf("%.0f cm² · %.1f ml", t.AreaMM2/100, f.VolumeML)},
			{"Edge", fmt.Sprintf("%.0f mm long", t.EdgeLength)},
		},
	}
	for _, p := range f.Places {
		out.Places = append(out.Places, p.Words)
	}
	return out, nil
}
