package rules

import (
	"fmt"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Rules of carrying what is heavy.

func rots(c Case) []Finding {
	return c.each(func(_ int, l section.Layer, p material.Product) *Finding {
		if !p.Rots || l.Kind != section.Weight && l.Kind != section.Insert {
			return nil
		}
		return &Finding{Above: l.ID, Reason: p.Name + " is plant or food: with sweat it rots, sprouts or smells.", Remedy: "Take inert beads or foam; seal what must stay.", Instead: c.available("filling-beads", "found-sponge")}
	})
}

// unheldG is what adhesive alone carries, g.
const unheldG = 400

func unanchored(c Case) []Finding {
	if c.Result.WornG <= unheldG || len(c.Section.Support.Anchors) > 0 {
		return nil
	}
	return []Finding{{AtEdge: true, Reason: fmt.Sprintf("It weighs %.0f g and nothing but glue carries it.", c.Result.WornG), Remedy: "Anchor it: straps, a harness, a cap, loops in the costume.", Settles: "Worn for half an hour, walking."}}
}

func swingsEmpty(c Case) []Finding {
	has := false
	c.Section.All(func(_ section.Cut, _ int, l section.Layer) { has = has || l.Kind == section.Weight })
	if c.Section.Support.Movement != "swings" || has {
		return nil
	}
	return []Finding{{AtEdge: true, Reason: "It should swing, and nothing in it has weight.", Remedy: "Bags of inert beads, sewn where it hangs.", Instead: c.available("filling-beads")}}
}
