package hair

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Laid is hair laid in tufts from the back to a staggered hairline.
type Laid struct {
	WidthMM, DepthMM          float64
	PitchBackMM, PitchFrontMM float64
	TuftMM, TuftFrontMM       float64
	StaggerMM, TuftS          float64
	Hairs                     int
}

// UsualRows is one with the chapter's defaults.
func UsualRows(widthMM, depthMM float64) Laid {
	return Laid{WidthMM: widthMM, DepthMM: depthMM, PitchBackMM: 8, PitchFrontMM: 3, TuftMM: 15, TuftFrontMM: 6, StaggerMM: 3, TuftS: 25}
}

// Rows are what it takes, the back row first and the hairline last.
type Rows struct {
	Rows    int       `json:"rows"`
	Y       []float64 `json:"y_mm" doc:"from the hairline"`
	Tufts   []int     `json:"tufts"`
	Total   int       `json:"tufts_total"`
	Setback []float64 `json:"setback_mm" doc:"of the hairline's tufts, so that it is no line"`
	PerTuft float64   `json:"hairs_per_tuft"`
	Minutes float64   `json:"minutes"`
}

func upTo(x float64) int { return int(math.Ceil(x - 1e-9)) }

// Lay lays the rows. Refusal: contradiction at pitch_front_mm.
func Lay(l Laid) (Rows, error) {
	if l.PitchFrontMM > l.PitchBackMM+1e-9 {
		return Rows{}, refusal.New(refusal.Contradiction, "pitch_front_mm", "Rows stand closer in front than behind.")
	}
	out := Rows{Y: []float64{}, Tufts: []int{}, Setback: []float64{}}
	row := func(y float64, tufts int) {
		out.Y, out.Tufts, out.Total = append(out.Y, y), append(out.Tufts, tufts), out.Total+tufts
	}
	for y := l.DepthMM; y > l.PitchFrontMM/2; y -= l.PitchFrontMM + (l.PitchBackMM-l.PitchFrontMM)*y/l.DepthMM {
		t := l.TuftFrontMM + (l.TuftMM-l.TuftFrontMM)*y/l.DepthMM
		row(y, upTo(l.WidthMM/t)+len(out.Y)%2) // every second row shifted by half a tuft
	}
	front := upTo(l.WidthMM / l.TuftFrontMM)
	row(0, front)
	for i := range front {
		out.Setback = append(out.Setback, []float64{0, l.StaggerMM, l.StaggerMM / 2}[i%3])
	}
	out.Rows = len(out.Y)
	out.PerTuft = float64(l.Hairs) / float64(out.Total)
	out.Minutes = float64(out.Total) * l.TuftS / 60
	return out, nil
}
