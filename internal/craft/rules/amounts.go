package rules

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
