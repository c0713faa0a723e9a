package calc

import (
	"context"
	"encoding/json"

	"yewmoor/internal/craft/plan"
)

// IsInstance tells whether a document is a planner's instance, and no case of quantities, stock or cost.
func IsInstance(raw []byte) bool {
	var c struct {
		Op     *string `json:"op"`
		Format *string `json:"format"`
		Steps  any     `json:"steps"`
	}
	return json.Unmarshal(raw, &c) == nil && c.Op == nil && (c.Format != nil || c.Steps != nil)
}

// Plan plans an instance document: a *plan.Plan, or a *plan.Error that says why there is none. Iterations 0 searches until ctx ends.
func Plan(ctx context.Context, raw []byte, seed uint64, iterations int) any {
	var in plan.Instance
	if err := json.Unmarshal(raw, &in); err != nil {
		return &plan.Error{Status: "invalid", Code: plan.EFormat, Message: "The document is no instance: " + err.Error() + "."}
	}
	p, err := plan.Solve(&in, plan.Options{Seed: seed, Iterations: iterations, Stop: func() bool { return ctx.Err() != nil }})
	if err != nil {
		return err
	}
	return p
}
