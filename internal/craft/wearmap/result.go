package wearmap

// Drawn is a piece with what its brief drew.
type Drawn struct {
	Code  string `json:"code"`
	Name  string `json:"name"`
	Marks []Mark `json:"marks"`
}

// Scene is everything that stands on one wearer's map. Pieces[0] is the one in
// hand; the others are those of the same look.
type Scene struct {
	Pieces []Drawn
	Look   []Mark
	Wearer []Mark
	// Free is what the brief asks to stay free: mouth, nose, left eye, …
	Free []string
}

// Share is how much of a piece lies on a region of the glossary.
type Share struct {
	Region string  `json:"region"`
	Text   string  `json:"text"`
	Side   string  `json:"side"`
	CM2    float64 `json:"cm2"`
	Moves  bool    `json:"moves_much"`
	// Covered is how much of it costume, hair or a prop hides.
	CoveredCM2 float64 `json:"covered_cm2"`
	MovingCM2  float64 `json:"moving_edge_cm2" doc:"where the edge of a costume wanders"`
}

// Area is one area of a piece, measured.
type Area struct {
	Piece      string  `json:"piece"`
	Mark       string  `json:"mark"`
	Text       string  `json:"text"`
	CM2        float64 `json:"cm2" doc:"true skin, holes left out"`
	EdgeMM     float64 `json:"edge_mm" doc:"length of its edge on the skin"`
	CoveredCM2 float64 `json:"covered_cm2"`
	MovingCM2  float64 `json:"moving_edge_cm2" doc:"where the edge of a costume wanders"`
	Shares     []Share `json:"shares"`
}

// Opening is one way in or out of the wearer.
type Opening struct {
	Name    string   `json:"name"`
	Text    string   `json:"text"`
	WideMM  float64  `json:"wide_mm"`
	HighMM  float64  `json:"high_mm"`
	Open    float64  `json:"open" doc:"share that no piece covers"`
	Pass    bool     `json:"pass"`
	Asked   bool     `json:"asked" doc:"the brief asks for it to stay free"`
	Covered []string `json:"covered_by"`
}

// Overlap is skin under two pieces.
type Overlap struct {
	A   string  `json:"a"`
	B   string  `json:"b"`
	CM2 float64 `json:"cm2"`
}

// Gap is what stays open between two pieces.
type Gap struct {
	A     string  `json:"a"`
	B     string  `json:"b"`
	MM    float64 `json:"mm"`
	Moves bool    `json:"moves" doc:"one of them lies where the wearer moves much"`
	Pass  bool    `json:"pass"`
}

// Hair is hair under a piece.
type Hair struct {
	Mark  string  `json:"mark"`
	Text  string  `json:"text"`
	Piece string  `json:"piece"`
	CM2   float64 `json:"cm2"`
	How   string  `json:"how"`
	By    string  `json:"by"`
}

// Stretch is a length of edge or seam and what it is meant to do.
type Stretch struct {
	Mark string  `json:"mark"`
	Kind string  `json:"kind"`
	How  string  `json:"how"`
	By   string  `json:"by"`
	MM   float64 `json:"mm"`
}

// Reach is how much of a piece lies in a keep-out.
type Reach struct {
	Zone string  `json:"zone"`
	CM2  float64 `json:"cm2"`
}

// Finding is what the map says no to, or cautions about. Ids are the rule
// book's.
type Finding struct {
	ID       string `json:"id"`
	Severity string `json:"severity" enum:"never,stop,warn,tip"`
	Reason   string `json:"reason"`
	Remedy   string `json:"remedy"`
}

// Result is what follows from a scene.
type Result struct {
	Areas    []Area    `json:"areas"`
	CM2      float64   `json:"cm2" doc:"of the piece in hand"`
	WornCM2  float64   `json:"worn_cm2" doc:"of all pieces of the look"`
	Openings []Opening `json:"openings"`
	Sight    string    `json:"sight" enum:"both,left,right,none"`
	Hearing  string    `json:"hearing" enum:"both,left,right,none"`
	Breath   string    `json:"breath" enum:"nose and mouth,nose,mouth,none" doc:"what stays free to breathe"`
	Overlaps []Overlap `json:"overlaps"`
	Gaps     []Gap     `json:"gaps"`
	Hair     []Hair    `json:"hair"`
	Edges    []Stretch `json:"edges"`
	KeepOut  []Reach   `json:"keep_out" doc:"keep-outs that the piece in hand reaches into"`
	Findings []Finding `json:"findings"`
}
