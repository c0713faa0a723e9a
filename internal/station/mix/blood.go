package mix

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/craft/blood"
	"yewmoor/internal/platform/web"
)

// Scene is blood as a scene wants it, place by place, take by take.
type Scene struct {
	Takes    int      `json:"takes" minimum:"1" maximum:"1000"`
	WastePct float64  `json:"waste_pct" minimum:"0" maximum:"300" doc:"spilt, left in bottles and on brushes"`
	Places   []Wetted `json:"places" minItems:"1" maxItems:"40"`
}

// Wetted is one place with blood.
type Wetted struct {
	Type    string  `json:"type" enum:"spatter,arterial,venous,aged,gel,scab,edible_fresh,edible_old"`
	AreaCM2 float64 `json:"area_cm2" minimum:"0" maximum:"10000" doc:"covered"`
	DepthMM float64 `json:"depth_mm,omitempty" minimum:"0" maximum:"20" doc:"how deep it stands there; as this type usually does where it is left out"`
	Runs    int     `json:"runs" minimum:"0" maximum:"1000" doc:"runs down from it"`
	RunMM   float64 `json:"run_mm" minimum:"0" maximum:"3000" doc:"how long each"`
}

func needOf(in Scene) (blood.Need, error) {
	items := make([]blood.Item, len(in.Places))
	for i, p := range in.Places {
		// A type that is not there is refused by NeedOf, at its place.
		k, known := blood.KindOf(p.Type)
		if !known {
			k.ID = p.Type
		}
		items[i] = blood.UsualItem(k, p.AreaCM2, p.Runs, p.RunMM)
		if p.DepthMM > 0 {
			items[i].DepthMM = p.DepthMM
		}
	}
	return blood.NeedOf(in.Takes, in.WastePct/100, items)
}

func registerBlood(api huma.API) {
	web.Get(api, "/api/blood", "Stage blood by type, as it usually stands, skins over and stains", web.Makers,
		func(context.Context, *struct{}) ([]blood.Kind, error) { return blood.Kinds(), nil })
	web.Post(api, "/api/blood/need", "How much blood a scene wants over its takes", web.Makers,
		func(_ context.Context, in *struct{ Body Scene }) (blood.Need, error) {
			return needOf(in.Body)
		})
}
