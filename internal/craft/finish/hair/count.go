// Package hair counts, lays and places hair: how many hairs a zone takes with its
// density falling towards an edge, what that costs in hair and hours, the rows that it
// is laid in, and where each single hair is punched: section 4 of the handbook chapter
// "Finish and fit". mm, µm, hairs per cm², g, minutes.
package hair

import (
	"math"

	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/refusal"
)

// Zone is a strip of hair, its density falling from the back to the front edge.
type Zone struct {
	WidthMM float64 `json:"width_mm" minimum:"0.5" maximum:"3000"`
	DepthMM float64 `json:"depth_mm" minimum:"0.5" maximum:"3000"`
	Density float64 `json:"density" minimum:"0" maximum:"600" doc:"hairs per cm² at the back"`
	Edge    float64 `json:"edge_density" minimum:"0" maximum:"600" doc:"hairs per cm² at the front"`
	FadeMM  float64 `json:"fade_mm" minimum:"0" maximum:"3000" doc:"over which it falls"`
	Power   float64 `json:"power" minimum:"0.2" maximum:"5"`
}

// UsualFade is what a density falls over where nobody says: 15 mm, or the whole depth.
func UsualFade(depthMM float64) float64 { return math.Min(15, depthMM) }

// integral is the sum of its density over the depth, hairs·mm/cm².
func (z Zone) integral() float64 {
	if z.FadeMM == 0 {
		return z.Density * z.DepthMM
	}
	m := math.Min(z.DepthMM, z.FadeMM)
	return z.Edge*z.DepthMM + (z.Density-z.Edge)*(z.FadeMM*math.Pow(m/z.FadeMM, z.Power+1)/(z.Power+1)+math.Max(0, z.DepthMM-z.FadeMM))
}

// roundUp rounds half up.
func roundUp(x float64) int { return int(math.Floor(x + 0.5)) }

// Hairs is how many it takes.
func (z Zone) Hairs() int { return roundUp(z.WidthMM / 100 * z.integral()) }

// Known is a number of hairs that was counted otherwise: where each stands.
type Known struct {
	Count   int
	AreaCM2 float64
}

// Order is what a count is asked for: zones, or a number that is known, and how the hair
// is set.
type Order struct {
	Zones        []Zone
	Known        *Known
	Fibre        string
	DiameterUM   float64
	VisibleMM    float64
	CurlRadiusMM float64
	CurlPitchMM  float64
	TrimMM       float64 // taken off when the glue is dry
	RootMM       float64
	Waste        float64
	HairsPerPush int
	StrokeS      float64
	Done         int
	SpentMin     float64
}

// Counted is what it comes to.
type Counted struct {
	Count       int     `json:"count"`
	Counts      []int   `json:"counts" doc:"by zone"`
	AreaCM2     float64 `json:"area_cm2"`
	MeanDensity float64 `json:"mean_density"`
	CurlRatio   float64 `json:"curl_ratio"`
	CutMM       float64 `json:"cut_mm" doc:"length that each hair is cut to"`
	MassG       float64 `json:"mass_g"`
	OrderG      float64 `json:"order_g" doc:"with what is wasted"`
	Strokes     int     `json:"strokes"`
	Minutes     float64 `json:"minutes"`
	PaceS       float64 `json:"pace_s" doc:"a stroke; from the hairs set, once there are 30"`
	ShareDone   float64 `json:"share_done"`
	LeftMin     float64 `json:"left_min"`
}

// Count works it out. Refusals: unknown_value at fibre, contradiction at done.
func Count(o Order) (Counted, error) {
	fibre, ok := tables.FibreOf(o.Fibre)
	if !ok {
		return Counted{}, refusal.New(refusal.UnknownValue, "fibre", "There is no fibre %s.", o.Fibre)
	}
	out := Counted{Counts: []int{}}
	for _, z := range o.Zones {
		n := z.Hairs()
		out.Counts = append(out.Counts, n)
		out.Count += n
		out.AreaCM2 += z.WidthMM * z.DepthMM / 100
	}
	if o.Known != nil {
		out.Count, out.AreaCM2 = o.Known.Count, o.Known.AreaCM2
	}
	if o.Done > out.Count {
		return Counted{}, refusal.New(refusal.Contradiction, "done", "%d are set of %d that are planned.", o.Done, out.Count)
	}
	out.MeanDensity = float64(out.Count) / out.AreaCM2
	turn := 2 * math.Pi * o.CurlRadiusMM
	out.CurlRatio = math.Sqrt(turn*turn+o.CurlPitchMM*o.CurlPitchMM) / o.CurlPitchMM
	out.CutMM = o.VisibleMM*out.CurlRatio + o.TrimMM + o.RootMM
	d := o.DiameterUM / 1e4 // cm
	out.MassG = float64(out.Count) * math.Pi / 4 * d * d * out.CutMM / 10 * fibre.Density
	out.OrderG = out.MassG * (1 + o.Waste)
	out.Strokes = strokes(out.Count, o.HairsPerPush)
	out.Minutes = float64(out.Strokes) * o.StrokeS / 60
	out.PaceS = o.StrokeS
	if o.Done >= 30 && o.SpentMin > 0 {
		out.PaceS = o.SpentMin * 60 * float64(o.HairsPerPush) / float64(o.Done)
	}
	out.ShareDone = 1
	if out.Count > 0 {
		out.ShareDone = float64(o.Done) / float64(out.Count)
	}
	out.LeftMin = float64(strokes(out.Count-o.Done, o.HairsPerPush)) * out.PaceS / 60
	return out, nil
}

func strokes(hairs, per int) int { return int(math.Ceil(float64(hairs)/float64(per) - 1e-9)) }
