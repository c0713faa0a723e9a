package material

import (
	"fmt"
	"maps"
	"slices"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/refusal"
)

// CureSheet is a silicone's data sheet: times in s at RefC.
type CureSheet struct {
	System   string  `json:"system"` // addition or condensation
	PotS     float64 `json:"pot_s"`
	GelS     float64 `json:"gel_s,omitempty"`
	DemouldS float64 `json:"demould_s"`
	FullS    float64 `json:"full_s,omitempty"`
	RefC     float64 `json:"ref_c"`
}

// Facts are the sheet as the cure models take it.
func (c CureSheet) Facts() cure.Facts {
	return cure.Facts{System: c.System, PotS: c.PotS, GelS: c.GelS, DemouldS: c.DemouldS, FullS: c.FullS, RefC: c.RefC}
}

// times is the same sheet with every time on it so many times as long.
func (c CureSheet) times(by float64) CureSheet {
	c.PotS, c.GelS, c.DemouldS, c.FullS = c.PotS*by, c.GelS*by, c.DemouldS*by, c.FullS*by
	return c
}

// CureWith is the sheet by which a product cures with something stirred in; nil
// where it has none. of gives the mass fraction of a product in the whole mix, 0..1,
// by its slug. More of an accelerator or retarder than is known of it is
// out_of_range: the sheet is then that of the most that is known (handbook, drying
// and cure, 4: “a dose outside its table is refused, not extrapolated”).
func (s Shelf) CureWith(slug string, of map[string]float64) (*CureSheet, error) {
	p := s[slug]
	if p.Cure == nil {
		return nil, nil
	}
	out := *p.Cure
	var tooMuch error
	for _, with := range slices.Sorted(maps.Keys(of)) {
		stirred, fraction := s[with], of[with]
		if stirred.CureShift == "" || fraction <= 0 {
			continue
		}
		table := cure.Systems[out.System].Shift(stirred.CureShift)
		if table == nil {
			return &out, &refusal.Error{Code: refusal.UnknownValue, Field: with,
				Detail: fmt.Sprintf("How %s moves this cure is not known.", stirred.Name)}
		}
		dose := fraction
		if out.System == cure.Condensation && p.Ratio != nil { // a share of the catalyst, not of the mix
			dose = fraction / (fraction + p.Ratio.B/(p.Ratio.A+p.Ratio.B))
		}
		if most := table[len(table)-1][0]; dose > most*(1+1e-9) {
			tooMuch = &refusal.Error{Code: refusal.OutOfRange, Field: with,
				Detail: fmt.Sprintf("%s: what it does to the cure is known up to %.3g %% of the mix.", stirred.Name, 100*most)}
		}
		out = out.times(cure.InterpLog(table, dose))
	}
	return &out, tooMuch
}
