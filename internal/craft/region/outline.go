package region

// Form is how the flat outline of a region is made.
type Form string

// Superellipses are flat stand-ins for a curved place; sleeves are limbs
// unrolled, which lie flat without stretch.
const (
	Superellipse Form = "superellipse"
	Sleeve       Form = "sleeve"
	// FaceOval is a superellipse with openings for eyes and mouth.
	FaceOval Form = "face_oval"
)

// Outline is the usual flat outline of a region, in mm: mean sizes of adults
// (handbook, texture planner, section 2), to be replaced by the wearer's own.
type Outline struct {
	Form Form `json:"form"`
	// W, H and N are width, height and exponent of a superellipse.
	W float64 `json:"w,omitempty"`
	H float64 `json:"h,omitempty"`
	N float64 `json:"n,omitempty"`
	// GirthTop, GirthBottom and Length are those of a sleeve.
	GirthTop    float64 `json:"g_top,omitempty"`
	GirthBottom float64 `json:"g_bottom,omitempty"`
	Length      float64 `json:"length,omitempty"`
}

// Exact is true where the unrolled outline has no stretch; the others are flat
// stand-ins, good to a tenth.
func (o Outline) Exact() bool { return o.Form == Sleeve }

func oval(w, h, n float64) Outline { return Outline{Form: Superellipse, W: w, H: h, N: n} }

func sleeve(top, bottom, length float64) Outline {
	return Outline{Form: Sleeve, GirthTop: top, GirthBottom: bottom, Length: length}
}

// outlines holds one entry for every region. Forehead, cheek, chin, nose, face,
// back of the hand, shoulder, neck, arms, shin and finger are the handbook's;
// the others are ours, sized so that their area is that of the region list.
var outlines = map[string]Outline{
	"forehead": oval(150, 60, 3), "cheek": oval(70, 90, 2.5), "chin": oval(80, 50, 2.4), "nose": oval(70, 55, 2.2),
	"hand_back": oval(85, 95, 3), "shoulder": oval(160, 140, 2.2), "face": {Form: FaceOval, W: 150, H: 210, N: 2.3},
	"forearm": sleeve(270, 170, 230), "upper_arm": sleeve(320, 280, 200), "shin": sleeve(370, 230, 320),
	"finger": sleeve(70, 55, 80), "neck": sleeve(360, 400, 100),

	"brow": oval(75, 27, 2.6), "temple": oval(45, 54, 2.3), "eye_hollow": oval(45, 34, 2.2), "ear": oval(52, 72, 2.2),
	"lip": oval(55, 27, 2.2), "mouth_corner": oval(28, 27, 2.2), "jaw": oval(95, 45, 2.4), "scalp": oval(260, 262, 2.2),
	"chest": oval(350, 285, 2.6), "belly": oval(340, 310, 2.4), "back": oval(400, 410, 2.6), "palm": oval(85, 118, 3),
	"knuckle": oval(60, 23, 2.5), "thigh": sleeve(500, 370, 299), "foot": oval(175, 290, 2.5),
}

// Outline is the region's usual flat outline.
func (r Region) Outline() Outline { return outlines[r.Name] }
