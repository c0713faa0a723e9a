package piece

import (
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/platform/clock"
)

// Brief is what a piece is wanted for: told once, used by every later room.
type Brief struct {
	Asked   string `json:"asked" maxLength:"2000" doc:"what was asked for, in their words"`
	Decided string `json:"decided" maxLength:"2000" doc:"what was agreed about it"`

	Camera    string      `json:"camera" enum:"close,medium,far"`
	CameraM   float64     `json:"camera_m" minimum:"0" maximum:"500" doc:"nearest distance; 0 when only the word is known"`
	Backdrop  string      `json:"backdrop" enum:"plain,dark,busy"`
	WearHours float64     `json:"wear_hours" minimum:"0" maximum:"24"`
	Exertion  string      `json:"exertion" enum:"acting,still,walking,running"`
	Speech    string      `json:"speech" enum:"speaks,few words,none"`
	Water     string      `json:"water" enum:"none,splashed,rained on,under water"`
	Stunt     bool        `json:"stunt"`
	WayOut    wear.WayOut `json:"way_out" doc:"how the wearer gets out of it"`

	AreaCM2  float64        `json:"area_cm2" minimum:"0" maximum:"20000" doc:"true area of skin; measured on the map as soon as an area is drawn there, 0 takes the region's usual one"`
	HeightMM float64        `json:"height_mm,omitempty" minimum:"0" maximum:"300" doc:"bulk wanted at the centre; 0 follows from the exaggeration"`
	Worn     string         `json:"worn" maxLength:"500" doc:"where exactly and what must stay clear of it"`
	KeepFree []string       `json:"keep_free" doc:"what must stay free"`
	Marks    []wearmap.Mark `json:"marks" doc:"what the piece draws on the wearer's map"`

	Wishes       []Wish         `json:"wishes"`
	Exaggeration []Exaggeration `json:"exaggeration" doc:"by region"`
	Features     []Feature      `json:"features" doc:"what must not be left out"`
	Questions    []Question     `json:"questions" doc:"where reference is thin"`
	Steps        []StepHours    `json:"steps" doc:"hours, as estimated"`
	Budget       []Item         `json:"budget"`
	LimitMinor   int64          `json:"limit_minor" minimum:"0" maximum:"100000000000" doc:"what it may cost, in hundredths of the shop's money; 0 for no limit"`
}

// Wish is one thing that was asked for, what speaks against it, and what was
// decided by whom.
type Wish struct {
	ID         string `json:"id" maxLength:"40"`
	Text       string `json:"text" maxLength:"300"`
	By         string `json:"by" maxLength:"120" doc:"who asked"`
	Times      int    `json:"times" minimum:"1" maximum:"999" doc:"how often it was asked"`
	Constraint string `json:"constraint" maxLength:"300" doc:"what speaks against it"`
	Decision   string `json:"decision" maxLength:"300"`
	DecidedBy  string `json:"decided_by" maxLength:"120"`
	State      string `json:"state" enum:"open,agreed,declined"`
}

// Exaggeration is how far a region goes beyond the natural.
type Exaggeration struct {
	Region string `json:"region"`
	Level  int    `json:"level" minimum:"0" maximum:"4" doc:"0 as grown, 1 hinted, 2 clear, 3 strong, 4 beyond anatomy"`
	Note   string `json:"note" maxLength:"200"`
}

// Feature is one thing of the reference that must be there in the end. Check
// asks for it.
type Feature struct {
	ID      string `json:"id" maxLength:"40"`
	Text    string `json:"text" maxLength:"200"`
	Region  string `json:"region" doc:"empty for anywhere"`
	Picture uint64 `json:"picture" doc:"the reference that shows it; 0 for none"`
}

// Question is an assumption or something open.
type Question struct {
	ID      string `json:"id" maxLength:"40"`
	Text    string `json:"text" maxLength:"300"`
	StandIn string `json:"stand_in" maxLength:"300" doc:"what is assumed until it is settled"`
	Answer  string `json:"answer" maxLength:"300"`
	Settled string `json:"settled" maxLength:"10" doc:"the day on which it was settled; empty while it is open"`
}

// StepHours is what a step is thought to take.
type StepHours struct {
	ID    string  `json:"id" maxLength:"40"`
	Text  string  `json:"text" maxLength:"120"`
	Where string  `json:"where" enum:"workshop,chair"`
	Skill string  `json:"skill" enum:"apprentice,fabricator,lead,artist"`
	Hours float64 `json:"hours" minimum:"0" maximum:"2000"`
	// Part is which part of the whole it estimates that a room works out itself, so
	// that it is counted once; empty for what only the brief knows of.
	Part string `json:"part,omitempty" enum:",shape,texture,mould,copies,chair"`
}

// Item is material, something bought, in stock, reused or found.
type Item struct {
	ID        string `json:"id" maxLength:"40"`
	Text      string `json:"text" maxLength:"120"`
	Origin    string `json:"origin" enum:"bought,in stock,reused,found"`
	StandsIn  string `json:"stands_in" maxLength:"120" doc:"what it stands in for"`
	CostMinor int64  `json:"cost_minor" minimum:"0" maximum:"100000000000"`
	// InsteadMinor is what the thing would cost that it stands in for; 0 where nobody knows.
	InsteadMinor int64 `json:"instead_minor,omitempty" minimum:"0" maximum:"100000000000"`
}

// Free lists what a brief can ask to stay free.
var Free = []string{"left eye", "right eye", "nose", "mouth", "hearing"}

// mayKeepFree are all that a brief may ask to stay free.
var mayKeepFree = append(slices.Clone(Free), wearmap.OneNostril)

// maxList is how many entries each list of a brief may have.
const maxList = 100

// whole fills what an older or a shorter document leaves out.
func (b Brief) whole() Brief {
	set := func(s *string, usual string) {
		if *s == "" {
			*s = usual
		}
	}
	set(&b.Camera, "close")
	set(&b.Backdrop, "plain")
	set(&b.Exertion, "acting")
	set(&b.Speech, "speaks")
	set(&b.Water, "none")
	for i := range b.Features {
		set(&b.Features[i].ID, fmt.Sprintf("f%d", i+1))
	}
	if b.Marks == nil {
		b.Marks = []wearmap.Mark{}
	}
	return b
}

// check refuses what a brief cannot say, at its field.
func (b Brief) check(sheets wearmap.Sheets) error {
	for i, f := range b.KeepFree {
		if !slices.Contains(mayKeepFree, f) {
			return refusal.New(refusal.UnknownValue, fmt.Sprintf("keep_free[%d]", i), "“%s” is not one of %v.", f, mayKeepFree)
		}
	}
	for _, c := range []struct {
		field, value string
		of           []string
	}{{"camera", b.Camera, []string{"close", "medium", "far"}}, {"backdrop", b.Backdrop, []string{"plain", "dark", "busy"}}, {"exertion", b.Exertion, wear.Exertions}} {
		if !slices.Contains(c.of, c.value) {
			return refusal.New(refusal.UnknownValue, c.field, "Say one of: %s.", strings.Join(c.of, ", "))
		}
	}
	for name, n := range map[string]int{"wishes": len(b.Wishes), "exaggeration": len(b.Exaggeration), "features": len(b.Features), "questions": len(b.Questions), "steps": len(b.Steps), "budget": len(b.Budget)} {
		if n > maxList {
			return refusal.New(refusal.OutOfRange, name, "At most %d of them.", maxList)
		}
	}
	for i, e := range b.Exaggeration {
		if _, known := region.Find(e.Region); !known {
			return refusal.New(refusal.UnknownValue, fmt.Sprintf("exaggeration[%d].region", i), "“%.30s” is no region of the body.", e.Region)
		}
	}
	for i, f := range b.Features {
		if _, known := region.Find(f.Region); f.Region != "" && !known {
			return refusal.New(refusal.UnknownValue, fmt.Sprintf("features[%d].region", i), "“%.30s” is no region of the body.", f.Region)
		}
		if strings.TrimSpace(f.Text) == "" {
			return refusal.New(refusal.Missing, fmt.Sprintf("features[%d].text", i), "Say what must not be left out.")
		}
	}
	for i, q := range b.Questions {
		if q.Settled != "" {
			if _, err := clock.ParseDay(q.Settled, ""); err != nil {
				return refusal.New("not_a_date", fmt.Sprintf("questions[%d].settled", i), "“%.20s” is not a day. Write it as 2026-01-23.", q.Settled)
			}
		}
	}
	return wearmap.Check("piece", b.Marks, sheets)
}

// Grade is how well a piece must be finished where the camera sees it bare: full, good or
// plain.
func (b Brief) Grade() string { return wear.GradeOf(b.Camera) }
