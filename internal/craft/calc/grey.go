package calc

import (
	"encoding/json"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/refusal"
)

// greyCorrect puts a picture right by the card in it.
func greyCorrect(raw json.RawMessage) (any, error) {
	var in struct {
		Patches []struct{ Seen, Is [3]float64 }
		Model   string
		Pixels  [][3]float64
	}
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, refusal.New(refusal.NotANumber, "patches", "Fields are given as seen and is, three values of sRGB each.")
	}
	if len(in.Patches) > 400 || len(in.Pixels) > 10000 {
		return nil, refusal.New(refusal.OutOfRange, "patches", "At most 400 fields and 10000 pixels.")
	}
	patches := make([]colour.Patch, len(in.Patches))
	for i, p := range in.Patches {
		patches[i] = colour.Patch(p)
	}
	k, err := colour.CardOf(patches, in.Model)
	if err != nil {
		return nil, err
	}
	pixels, clamped := [][3]int{}, 0
	for _, px := range in.Pixels {
		_, code, n := k.Right(px)
		pixels = append(pixels, code)
		clamped += n
	}
	return map[string]any{"model": k.Model, "matrix": k.Matrix, "offset": k.Offset, "left_out": append([]int{}, k.LeftOut...),
		"rms_linear": k.RMS,
		"de_before":  k.Before, "de_mean": k.Mean, "de_max": k.Max, "quality": k.Quality, "pixels": pixels, "clamped": clamped,
		"warnings": append([]string{}, k.Warnings...)}, nil
}
