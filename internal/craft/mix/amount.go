package mix

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/refusal"
)

// Route is one way in which the volume of a piece is known.
type Route struct {
	Name     string  `json:"name"`
	VolumeML float64 `json:"volume_ml"`
	SdML     float64 `json:"sd_ml"`
}

// Names of the routes and their usual error as a share of the volume
// (scan-and-mould.md section 11).
const (
	RouteClay  = "clay"
	RouteWater = "water"
	RouteArea  = "area"
	// RouteDisplacement is a cast weighed in air and under water, or the level
	// that it raises; RouteScan the space between two scans.
	RouteDisplacement = "displacement"
	RouteScan         = "scan"

	// ClayDensity is the default for oil clay in g/cm³; weigh a 100 ml block.
	ClayDensity = 1.6
)

// Clay is the volume of the sculpt from the clay that went into it, g and g/cm³.
func Clay(beforeG, afterG, reclaimedG, density float64) (Route, error) {
	if density < 0.5 || density > 4 {
		return Route{}, refusal.New(refusal.OutOfRange, "clay.density", "Clay weighs between 0.5 and 4 g/cm³.")
	}
	return route(RouteClay, (beforeG-afterG-reclaimedG)/density, 0.05, "clay.after_g", "The clay left over weighs as much as there was: nothing was used.")
}

// WaterFill is the volume of the closed mould's hollow: full less empty, less
// the core's volume in ml when the core was not in. Seal gypsum first.
func WaterFill(fullG, emptyG, coreML, tempC float64) (Route, error) {
	if tempC < 0 || tempC > 40 {
		return Route{}, refusal.New(refusal.OutOfRange, "water.temp_c", "The water is between 0 and 40 °C.")
	}
	return route(RouteWater, (fullG-emptyG)/WaterDensity(tempC)-coreML, 0.02, "water.full_g", "The full mould must weigh more than the empty one.")
}

// AreaThickness is the volume of an area in cm² at a mean thickness in mm.
func AreaThickness(areaCM2, meanMM float64) (Route, error) {
	if !(areaCM2 > 0) {
		return Route{}, refusal.New("out_of_range", "area.area_cm2", "The area must be above zero.")
	}
	return route(RouteArea, areaCM2*meanMM/10, 0.20, "area.mean_mm", "The mean thickness must be above zero.")
}

// Displacement is the volume of a body by its weight in air and hung in water
// of a temperature, g and °C (Archimedes).
func Displacement(inAirG, inWaterG, tempC float64) (Route, error) {
	if tempC < 0 || tempC > 40 {
		return Route{}, refusal.New(refusal.OutOfRange, "displacement.temp_c", "The water is between 0 and 40 °C.")
	}
	return route(RouteDisplacement, (inAirG-inWaterG)/WaterDensity(tempC), 0.03, "displacement.in_air_g", "Hung in water it weighs less than in air; if it floats, push it under with a pin and weigh the push as below zero.")
}

// Raised is the volume of a body by the level that it raises, ml.
func Raised(beforeML, afterML float64) (Route, error) {
	return route(RouteDisplacement, afterML-beforeML, 0.03, "displacement.after_ml", "With the piece in it the level stands higher than before.")
}

// Scanned is the volume between two scans, ml.
func Scanned(ml float64) (Route, error) {
	return route(RouteScan, ml, 0.03, "scan.volume_ml", "The scan shows no volume at all.")
}

func route(name string, ml, share float64, field, why string) (Route, error) {
	if !(ml > 0) || math.IsInf(ml, 0) {
		return Route{}, refusal.New(refusal.OutOfRange, field, "%s", why)
	}
	return Route{name, ml, ml * share}, nil
}

// WaterDensity is the density of water in g/ml at 0–40 °C (published formula).
func WaterDensity(c float64) float64 {
	return 0.99997495 * (1 - (c-3.983035)*(c-3.983035)*(c+301.797)/(522528.9*(c+69.34881)))
}

// Volume is several routes taken together, weighted by their errors.
type Volume struct {
	MeanML   float64  `json:"mean_ml"`
	SdML     float64  `json:"sd_ml"`
	Routes   []Route  `json:"routes"`
	Disagree []string `json:"disagree"` // routes more than two sd away
}

// Combine weighs the routes against each other.
func Combine(routes []Route) (Volume, error) {
	if len(routes) == 0 {
		return Volume{}, refusal.New(refusal.Missing, "routes", "Enter the clay used, a water fill, or area and thickness.")
	}
	weight, sum := 0.0, 0.0
	for _, r := range routes {
		weight += 1 / (r.SdML * r.SdML)
		sum += r.VolumeML / (r.SdML * r.SdML)
	}
	out := Volume{MeanML: sum / weight, SdML: 1 / math.Sqrt(weight), Routes: routes, Disagree: []string{}}
	for _, r := range routes {
		if len(routes) > 1 && math.Abs(r.VolumeML-out.MeanML)/r.SdML > 2 {
			out.Disagree = append(out.Disagree, r.Name)
		}
	}
	return out, nil
}

// Need is what is wanted from a mix.
type Need struct {
	VolumeML float64 `json:"volume_ml"` // of one copy
	Copies   int     `json:"copies"`
	Spare    int     `json:"spare"`
	Waste    float64 `json:"waste"`   // share, 0.15 by default
	Density  float64 `json:"density"` // of the finished material, g/ml
}

// Amount is the order mass of a need, in g: (copies + spare) · volume ·
// density · (1 + waste).
type Amount struct {
	Grams   float64 `json:"grams"`
	PerCopy float64 `json:"per_copy_g"` // net, one copy
	Pours   int     `json:"pours"`
}

// HowMuch works out the amount.
func HowMuch(n Need) (Amount, error) {
	switch {
	case !(n.VolumeML > 0) || n.VolumeML > 1e6:
		return Amount{}, refusal.New(refusal.OutOfRange, "volume_ml", "The volume of one copy must be above zero.")
	case n.Copies < 1 || n.Copies > 200:
		return Amount{}, refusal.New(refusal.OutOfRange, "copies", "How many copies? At least one, at most 200.")
	case n.Spare < 0 || n.Spare > 200:
		return Amount{}, refusal.New(refusal.OutOfRange, "spare", "Spares are between none and 200.")
	case n.Waste < 0 || n.Waste > 2:
		return Amount{}, refusal.New(refusal.OutOfRange, "waste", "Waste is between 0 and 200 %%.")
	case n.Density < 0.05 || n.Density > 5:
		return Amount{}, refusal.New(refusal.OutOfRange, "density", "The density must lie between 0.05 and 5 g/ml.")
	}
	one := n.VolumeML * n.Density
	pours := n.Copies + n.Spare
	return Amount{Grams: one * float64(pours) * (1 + n.Waste), PerCopy: one, Pours: pours}, nil
}

// String is for the journal.
func (a Amount) String() string {
	return fmt.Sprintf("%.1f g for %d × %.1f g", a.Grams, a.Pours, a.PerCopy)
}
