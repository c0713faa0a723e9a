package calc

import (
	"context"
	"fmt"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/refusal"
)

// What is asked of a colour, of skin and of readings.

func colourOf(_ context.Context, a *asking) (any, error) {
	if a.has("lab") && !a.has("R") {
		c, err := a.lab("lab")
		if err != nil {
			return nil, err
		}
		return shown(c), nil
	}
	p, err := a.colour()
	if err != nil {
		return nil, err
	}
	return described(&p.r), nil
}

func de00Of(_ context.Context, a *asking) (any, error) {
	p, err := a.lab("lab1")
	if err != nil {
		return nil, err
	}
	q, err := a.lab("lab2")
	if err != nil {
		return nil, err
	}
	return map[string]any{"de00": colour.DE00(p, q)}, nil
}

func srgbToLab(_ context.Context, a *asking) (any, error) {
	c, err := a.srgb()
	if err != nil {
		return nil, err
	}
	return map[string]any{"lab_D65": [3]float64{c.L, c.A, c.B}}, nil
}

func skinOf(_ context.Context, a *asking) (any, error) {
	region := ""
	if _, err := a.into("region", &region); err != nil {
		return nil, err
	}
	steps, err := a.number("tan_steps", 0, -6, 12)
	if err != nil {
		return nil, err
	}
	s, limit, err := a.skin(region, steps)
	if err != nil {
		return nil, err
	}
	r := s.Reflectance()
	out := described(&r)
	out["skin"], out["clamped"] = s, limit
	return out, nil
}

func tanOf(_ context.Context, a *asking) (any, error) {
	steps, err := a.number("steps", 0, -6, 12)
	if err != nil {
		return nil, err
	}
	region := ""
	if _, err := a.into("region", &region); err != nil {
		return nil, err
	}
	if !a.has("target") {
		return nil, refusal.New("E_FIELD", "target", "target is missing.")
	}
	sub, err := asked(a.m["target"], "target")
	if err != nil {
		return nil, err
	}
	p, err := sub.colour()
	if err != nil {
		return nil, err
	}
	if err := sub.done(); err != nil {
		return nil, err
	}
	r, limit := p.r, false
	if p.skin != nil {
		s, err := p.skin.In(region)
		if err != nil {
			return nil, err
		}
		s, limit = s.Tanned(steps)
		r = s.Reflectance()
	} else if r, limit, err = colour.Shifted(p.r, region, steps); err != nil {
		return nil, err
	}
	out := described(&r)
	out["clamped"], out["de00_shift"] = limit, colour.DE00(p.r.Lab(colour.D65), r.Lab(colour.D65))
	return out, nil
}

func reconstructOf(_ context.Context, a *asking) (any, error) {
	var err error
	method := "auto"
	if _, err := a.into("method", &method); err != nil {
		return nil, err
	}
	var c colour.Lab
	if a.has("srgb") {
		c, err = a.srgb()
	} else {
		c, err = a.lab("lab")
	}
	if err != nil {
		return nil, err
	}
	rebuilt, err := colour.Rebuild(c, method)
	if err != nil {
		return nil, err
	}
	out := described(&rebuilt.R)
	out["method"] = rebuilt.Method
	if rebuilt.Method == "skin" {
		out["skin"], out["skin_de00"] = rebuilt.Skin, rebuilt.Left
	}
	return out, nil
}

func skinFit(_ context.Context, a *asking) (any, error) {
	if a.has("R") {
		var v []float64
		if err := a.need("R", &v); err != nil {
			return nil, err
		}
		r, err := colour.Measured(v, "R")
		if err != nil {
			return nil, err
		}
		s, rms := colour.SkinFromSpectrum(&r)
		m := s.Reflectance()
		return map[string]any{"skin": s, "rms_ln": rms, "de00": colour.DE00(r.Lab(colour.D65), m.Lab(colour.D65))}, nil
	}
	c, err := a.lab("lab")
	if err != nil {
		return nil, err
	}
	s, left := colour.SkinFromLab(c)
	return map[string]any{"skin": s, "de00": left}, nil
}

func readingsOf(_ context.Context, a *asking) (any, error) {
	var labs []colour.Lab
	var spectra []colour.Spectrum
	if a.has("spectra") {
		var list [][]float64
		if err := a.need("spectra", &list); err != nil {
			return nil, err
		}
		for i, v := range list {
			s, err := colour.Measured(v, fmt.Sprintf("spectra[%d]", i))
			if err != nil {
				return nil, err
			}
			spectra = append(spectra, s)
			labs = append(labs, s.Lab(colour.D65))
		}
	} else {
		var list [][]float64
		if err := a.need("labs", &list); err != nil {
			return nil, err
		}
		for i, v := range list {
			c, err := labOf(v, fmt.Sprintf("labs[%d]", i))
			if err != nil {
				return nil, err
			}
			labs = append(labs, c)
		}
	}
	r, err := colour.Readings(labs)
	if err != nil {
		return nil, err
	}
	out := map[string]any{"kept": r.Kept, "rejected": r.Rejected, "mcdm": r.MCDM, "max_de00": r.Max, "cut": r.Cut,
		"uncertain": r.Uncertain,
		"mean_lab":  [3]float64{r.Mean.L, r.Mean.A, r.Mean.B}, "sd_lab": [3]float64{r.SD.L, r.SD.A, r.SD.B}}
	if spectra != nil {
		var mean colour.Spectrum
		for _, i := range r.Kept {
			for b := range mean {
				mean[b] += spectra[i][b] / float64(len(r.Kept))
			}
		}
		c := mean.Lab(colour.D65)
		out["R"], out["mean_lab"] = mean, [3]float64{c.L, c.A, c.B}
	}
	return out, nil
}
