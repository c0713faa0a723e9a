package rules

import "yewmoor/internal/craft/section"

// Believed is what of a piece everything goes by.
func (c Case) Believed() section.Believed {
	return section.Believed{VolumeML: c.Voices.VolumeML, AreaCM2: c.Areas.CM2}
}

// areasDisagree says that map, section and scan contradict each other, and asks
// which is believed; a tip once somebody said.
func areasDisagree(c Case) []Finding {
	a := c.Areas
	if len(a.Disagree) == 0 {
		return nil
	}
	f := Finding{Reason: "How much skin it covers is told in ways that contradict each other: " + a.Words() + ".", Remedy: "Films, glue and colour go by the first of them. Say in Sculpt, under Volume, which is believed and why; or take that area over into the section, or draw the outline again.", Settles: "A tape over the middle, both ways."}
	if a.Chosen {
		f.Severity = Tip
	}
	return []Finding{f}
}

// voicesDisagree says that what tells the volume of a body contradicts itself,
// and asks which is believed; a tip once somebody said.
func voicesDisagree(c Case) []Finding {
	v := c.Voices
	if len(v.Disagree) == 0 {
		return nil
	}
	f := Finding{Reason: "How much it takes is told in ways that contradict each other: " + v.Words() + ".", Remedy: "Mass, mixes and cost go by the first of them. Say in Sculpt, under Volume, which is believed and why; or draw and measure again.", Settles: "Water in the mould, weighed."}
	if v.Chosen {
		f.Severity = Tip
	}
	return []Finding{f}
}
