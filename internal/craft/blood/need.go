package blood

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"

	"yewmoor/internal/craft/refusal"
)

// Kind is a type of stage blood as the trade knows it. Our estimates; a stain patch
// on the costume's own cloth decides.
type Kind struct {
	ID       string  `json:"id"`
	Product  string  `json:"product" doc:"of the library"`
	DepthMM  float64 `json:"depth_mm" doc:"usual depth in a wound"`
	SkinsMin float64 `json:"skins_min" doc:"minutes until it skins over at 21 °C"`
	Stains   int     `json:"stains" doc:"0 none, 1 skin for a day, 2 cloth and grout, 3 for good in fabric"`
	Edible   bool    `json:"edible"`
	Stays    bool    `json:"stays"`
	Gloss    string  `json:"gloss"`
	Renew    float64 `json:"renew" doc:"share that is put on again each take"`
	Remover  string  `json:"remover"`
}

//go:embed blood.json
var kindsJSON []byte

var kinds = func() []Kind {
	var file struct {
		Types []Kind `json:"types"`
	}
	if err := json.Unmarshal(kindsJSON, &file); err != nil {
		panic(err)
	}
	return file.Types
}()

// Kinds are the types.
func Kinds() []Kind { return kinds }

// KindOf is the type of a name.
func KindOf(id string) (Kind, bool) {
	for _, k := range kinds {
		if k.ID == id {
			return k, true
		}
	}
	return Kind{}, false
}

// A run down the skin and what is spilt, where nobody says otherwise: the chapter's usual figures.
const (
	UsualRunMM   = 60.0
	UsualWidthMM = 4.0
	UsualFilmMM  = 0.15
	UsualWaste   = 0.3
)

// Item is one place with blood in a scene.
type Item struct {
	Type    string
	AreaCM2 float64
	DepthMM float64
	Runs    int
	RunMM   float64
	WidthMM float64
	FilmMM  float64
	Renew   float64
}

// UsualItem is a place with blood of this type as deep as it usually stands.
func UsualItem(k Kind, areaCM2 float64, runs int, runMM float64) Item {
	return Item{Type: k.ID, AreaCM2: areaCM2, DepthMM: k.DepthMM, Runs: runs, RunMM: runMM, WidthMM: UsualWidthMM,
		FilmMM: UsualFilmMM, Renew: k.Renew}
}

// Density of stage blood, g/ml.
const Density = 1.35

// Need is what a scene wants.
type Need struct {
	FirstML  float64            `json:"first_ml"`
	ML       float64            `json:"ml"`
	Grams    float64            `json:"grams"`
	ByType   map[string]float64 `json:"by_type"`
	SkinsMin float64            `json:"skins_min" doc:"the first of them skins over"`
	Stains   int                `json:"stains"`
}

// NeedOf adds it up over takes.
func NeedOf(takes int, waste float64, items []Item) (Need, error) {
	out := Need{ByType: map[string]float64{}, SkinsMin: math.Inf(1)}
	for i, it := range items {
		k, known := KindOf(it.Type)
		if !known {
			return out, refusal.New(refusal.UnknownValue, fmt.Sprintf("items[%d].type", i), "There is no blood of this type.")
		}
		ml := it.AreaCM2*it.DepthMM/10 + float64(it.Runs)*it.RunMM*it.WidthMM*it.FilmMM/1000
		all := ml * (1 + float64(takes-1)*it.Renew) * (1 + waste)
		out.FirstML += ml
		out.ML += all
		out.ByType[it.Type] += all
		out.SkinsMin = math.Min(out.SkinsMin, k.SkinsMin)
		out.Stains = max(out.Stains, k.Stains)
	}
	out.Grams = Density * out.ML
	return out, nil
}
