package rules

import "yewmoor/internal/craft/section"

// Believed is what of a piece everything goes by.
func (c Case) Believed() section.Believed {
	return section.Believed{VolumeML: c.Voices.VolumeML, AreaCM2: c.Areas.CM2}
}

// areasDisagree says that map, section and scan contradict each other.
func areasDisagree(c Case) []Finding {
	return contradicts(c.Areas.Disagree, c.Areas.Chosen, Finding{
		Reason:  "How much skin it covers is told in ways that contradict each other: " + c.Areas.Words() + ".",
		Remedy:  "Films, glue and colour go by the first of them. Say in Sculpt, under Volume, which is believed and why; or take that area over into the section, or draw the outline again.",
		Settles: "A tape over the middle, both ways.",
	})
}

// voicesDisagree says that what tells the volume of a body contradicts itself.
func voicesDisagree(c Case) []Finding {
	return contradicts(c.Voices.Disagree, c.Voices.Chosen, Finding{
		Reason:  "How much it takes is told in ways that contradict each other: " + c.Voices.Words() + ".",
		Remedy:  "Mass, mixes and cost go by the first of them. Say in Sculpt, under Volume, which is believed and why; or draw and measure again.",
		Settles: "Water in the mould, weighed.",
	})
}

// contradicts raises what voices say against each other, and asks which is believed: a
// tip once somebody said.
func contradicts(disagree []string, chosen bool, f Finding) []Finding {
	if len(disagree) == 0 {
		return nil
	}
	if chosen {
		f.Severity = Tip
	}
	return []Finding{f}
}
