package form

import (
	"math"
	"sync"
)

// Measure is one length that is taken of a wearer.
type Measure struct {
	Name string `json:"name"`
	Text string `json:"text" doc:"as people say it"`
	How  string `json:"how" doc:"between what it is taken, and with what"`
	Part string `json:"part" enum:"head,hand,forearm,belly"`
	// Usual is an adult mean; Least and Most bound what can be meant. In mm.
	Usual float64 `json:"usual_mm"`
	Least float64 `json:"least_mm"`
	Most  float64 `json:"most_mm"`
}

// Measures that a form is fitted to. A shop may record more; those are kept
// beside them and change no form.
var Measures = sync.OnceValue(func() []Measure {
	list := make([]Measure, len(knobs))
	for i, k := range knobs {
		base := template(k.part)
		w := still(&base, k.part)
		usual := math.Round(k.read(w)*10) / 10
		list[i] = Measure{k.name, k.text, k.how, k.part, usual, math.Round(usual * 0.6), math.Round(usual * k.most())}
	}
	return list
})

func (k knob) most() float64 {
	if k.part == "belly" {
		return 2
	}
	return 1.5
}

// knob is a measurement together with the change of shape that answers to it.
type knob struct {
	name, text, how, part string
	// shift is how a place of the template moves per mm of the knob.
	shift func(p Vec) Vec
	// read takes the measurement on a form.
	read func(w *warp) float64
}

// between measures with calipers from landmark to landmark.
func between(a, b string) func(*warp) float64 {
	return func(w *warp) float64 { return w.landmark(a).Distance(w.landmark(b)) }
}

// tape measures round a ring of the template, as a tape pulled tight does.
func tape(ring string) func(*warp) float64 {
	return func(w *warp) float64 { return w.tape(ring) }
}

// odd spreads a shift to both sides with a smooth change in the middle; it is
// ½ at the reach and beyond.
func odd(x, reach float64) float64 { return math.Tanh(2*x/reach) / math.Tanh(2) / 2 }

var knobs = []knob{
	{"head_girth", "round the head", "tape above the brows and over the widest place behind", "head",
		func(p Vec) Vec { return Vec{0, 0, (p.Z + 10) / 300 * ramp(p.Y, -10, 34)} }, tape("head")},
	{"head_breadth", "breadth of the head", "calipers above the ears, widest place", "head",
		func(p Vec) Vec { return Vec{p.X / 150 * ramp(p.Y, -2, 34), 0, 0} }, between("side_L", "side_R")},
	{"head_height", "crown to chin", "upright rule from chin to crown", "head",
		func(p Vec) Vec { return Vec{0, ramp(p.Y, 5, 116), 0} }, func(w *warp) float64 { return w.landmark("crown").Y - w.landmark("chin").Y }},
	{"face_height", "root of the nose to chin", "calipers", "head",
		func(p Vec) Vec { return Vec{0, -ramp(p.Y, 22, -116), 0} }, between("nose_root", "chin")},
	{"face_breadth", "cheekbone to cheekbone", "calipers, widest place", "head",
		func(p Vec) Vec { return Vec{p.X / 132 * bell(p.Y+12, 34) * ramp(p.Z, -8, 24), 0, 0} }, between("cheekbone_L", "cheekbone_R")},
	{"jaw_breadth", "corner of the jaw to corner", "calipers", "head",
		func(p Vec) Vec { return Vec{p.X / 100 * bell(p.Y+68, 24) * ramp(p.Z, -34, 4), 0, 0} }, between("jaw_L", "jaw_R")},
	{"eye_distance", "pupil to pupil", "rule, looking far away", "head",
		func(p Vec) Vec {
			return Vec{odd(p.X, pupilX) * bell(math.Max(math.Abs(p.X)-pupilX, 0), 14) * bell(p.Y-eyeY, 15) * ramp(p.Z, 36, 62), 0, 0}
		}, between("pupil_L", "pupil_R")},
	{"nose_height", "root of the nose to its base", "calipers", "head",
		func(p Vec) Vec {
			fall := ramp(p.Y, 12, -34)
			if p.Y < -38 {
				fall *= bell(p.Y+38, 10)
			}
			return Vec{0, -fall * bell(p.X, 22) * ramp(p.Z, 66, 84), 0}
		}, between("nose_root", "nose_base")},
	{"nose_breadth", "wing to wing", "calipers", "head",
		func(p Vec) Vec {
			return Vec{odd(p.X, 17) * bell(math.Max(math.Abs(p.X)-17, 0), 8) * bell(p.Y+35, 11) * ramp(p.Z, 72, 86), 0, 0}
		}, between("wing_L", "wing_R")},
	{"nose_depth", "base of the nose to its tip", "calipers", "head",
		func(p Vec) Vec { return Vec{0, 0, bell(p.X, 11) * bell(p.Y+28, 13) * ramp(p.Z, 88, 106)} }, between("nose_base", "nose_tip")},
	{"mouth_breadth", "corner of the mouth to corner", "calipers, mouth at rest", "head",
		func(p Vec) Vec {
			return Vec{odd(p.X, 25) * bell(math.Max(math.Abs(p.X)-25, 0), 9) * bell(p.Y-mouthY, 12) * ramp(p.Z, 58, 74), 0, 0}
		}, between("mouth_L", "mouth_R")},
	{"ear_height", "height of the ear", "calipers, top to lobe", "head",
		func(p Vec) Vec {
			return Vec{0, (p.Y + 6) / 62 * bell(math.Abs(p.X)-78, 11) * bell(p.Y+6, 24) * bell(p.Z+14, 20), 0}
		}, between("ear_top_L", "ear_lobe_L")},
	{"neck_girth", "round the neck", "tape below the larynx", "head",
		func(p Vec) Vec {
			k := ramp(p.Y, -96, -124) / (2 * math.Pi * 58)
			return Vec{p.X * k, 0, (p.Z + 30) * k}
		}, tape("neck")},
	{"neck_height", "chin to collar", "upright rule", "head",
		func(p Vec) Vec { return Vec{0, -ramp(p.Y, -112, -192), 0} }, func(w *warp) float64 { return w.landmark("chin").Y - w.landmark("collar").Y }},

	{"hand_length", "length of the hand", "rule, wrist crease to the tip of the middle finger", "hand",
		func(p Vec) Vec { return Vec{0, p.Y / 189, 0} }, between("wrist", "tip_middle")},
	{"hand_breadth", "breadth of the hand", "calipers over the knuckles", "hand",
		func(p Vec) Vec { return Vec{p.X / 84, 0, p.Z / 120} }, between("knuckle_little", "knuckle_index")},
	{"middle_finger", "length of the middle finger", "rule, knuckle to tip", "hand",
		func(p Vec) Vec { return Vec{0, (p.Y - 100) / 88 * ramp(p.Y, 92, 112), 0} }, between("knuckle_middle", "tip_middle")},
	{"forearm_girth", "round the forearm", "tape, widest place", "forearm",
		func(p Vec) Vec { k := ramp(p.Y, -110, 60) / 260; return Vec{p.X * k, 0, p.Z * k} }, tape("forearm")},
	{"wrist_girth", "round the wrist", "tape", "forearm",
		func(p Vec) Vec { k := ramp(p.Y, 60, -110) / 160; return Vec{p.X * k, 0, p.Z * k} }, tape("wrist")},
	{"forearm_length", "elbow to wrist", "rule", "forearm",
		func(p Vec) Vec { return Vec{0, p.Y / 245, 0} }, between("elbow", "wrist")},
	{"waist_girth", "round the waist", "tape over the navel", "belly",
		func(p Vec) Vec { return Vec{p.X / 830, 0, p.Z / 830} }, tape("waist")},
	{"belly_height", "ribs to hip", "rule down the front", "belly",
		func(p Vec) Vec { return Vec{0, p.Y / 330, 0} }, func(w *warp) float64 { return w.landmark("ribs").Y - w.landmark("hip").Y }},
}
