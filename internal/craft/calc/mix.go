package calc

import (
	"encoding/json"

	"yewmoor/internal/craft/mix"
)

// The mix as JSON.

func parts(raw json.RawMessage) (any, error) {
	var in struct {
		TotalG float64    `json:"total_g"`
		Recipe mix.Recipe `json:"recipe"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	targets, err := mix.PourSheet(in.Recipe, in.TotalG, mix.UsualResolutionG)
	if err != nil {
		return nil, err
	}
	return map[string]any{"targets": targets}, nil
}

func rebalance(raw json.RawMessage) (any, error) {
	var in struct {
		Recipe mix.Recipe   `json:"recipe"`
		Poured []mix.Poured `json:"poured"`
	}
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	out, err := mix.Rebalance(in.Recipe, in.Poured)
	if err != nil {
		return nil, err
	}
	return out, nil
}

func amount(raw json.RawMessage) (any, error) {
	var in mix.Question
	if err := decode(raw, &in); err != nil {
		return nil, err
	}
	return answer(in.Work())
}
