package rules

import (
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

// Cautions for those who make it; they hold nothing back.

// caution raises one finding for the first layer that asks for it.
func caution(asks func(c Case, l section.Layer, p material.Product) bool, reason, remedy string) func(Case) []Finding {
	return func(c Case) []Finding {
		for _, cut := range c.Section.Cuts() {
			for _, l := range cut.Layers {
				if p := c.product(l); l.Kind != section.Skin && asks(c, l, p) {
					return []Finding{{Above: l.ID, Reason: p.Name + " " + reason, Remedy: remedy + " Its safety data sheet and local codes have the last word."}}
				}
			}
		}
		return nil
	}
}

var (
	vapours = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return p.IsLatex() || p.Solvent == "acetone" || p.Solvent == "alcohol" || p.Family == material.AdhesiveSilicone || p.Family == material.PaintSilicone
	}, "gives off ammonia or solvent.", "Air the room, keep eyes shut near a face.")
	dust = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return l.Kind == section.Powder || p.Family == material.Flock || p.Family == material.Glitter
	}, "makes dust.", "Extraction, and a respirator of the right class for those who do it all day.")
	uncured = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return p.IsSilicone() && l.Method != "direct" || p.Family == material.FoamPolyurethane
	}, "is uncured when it is mixed.", "Nitrile gloves, which do not stop it curing; for isocyanates trained people and a respirator only.")
	hotTools = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return l.Kind == section.Foam || p.Family == material.Thermoplastic || l.Kind == section.Gelatin
	}, "is baked, melted or poured hot.", "Heat gloves, a clear way from oven or plate to bench.")
	spraying  = caution(func(_ Case, l section.Layer, _ material.Product) bool { return l.Method == "sprayed" }, "is sprayed.", "In a booth or outdoors, with a respirator for vapour.")
	microwave = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return p.Family == material.LatexPaste || l.Kind == section.Gelatin && l.Method != "dropped"
	}, "is often warmed in a microwave.", "Short bursts only, never sealed, never with metal in it.")
	blades = caution(func(_ Case, l section.Layer, p material.Product) bool {
		return l.Sharp || p.Family == material.Thermoplastic
	}, "is cut and trimmed with blades.", "Cut away from the hand; a sharp blade slips less.")
)
