package wearmap

import (
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/form"
)

// OneNostril is the brief's word for one free nostril, whichever.
const OneNostril = "one nostril"

// judge says what the rules have to say about what was measured.
func (w *worker) judge() {
	say := func(id, severity, remedy, reason string, args ...any) {
		w.out.Findings = append(w.out.Findings, Finding{id, severity, fmt.Sprintf(reason, args...), remedy})
	}
	w.judgeKeepOut(say)
	open := map[string]Opening{}
	for _, o := range w.out.Openings {
		open[o.Name] = o
	}
	left, right, mouth := open["left nostril"], open["right nostril"], open["mouth"]
	by := func(list ...Opening) string {
		var codes []string
		for _, o := range list {
			codes = append(codes, o.Covered...)
		}
		slices.Sort(codes)
		return strings.Join(slices.Compact(codes), ", ")
	}
	switch {
	case !left.Pass && !right.Pass && slices.Contains(w.scene.Free, OneNostril):
		say("SAF-4", "never", "Open a nostril in the outline.", "The brief says that one nostril stays free, and %s closes both.", by(left, right))
	case !left.Pass && !right.Pass && !(mouth.Pass && mouth.Asked):
		say("SAF-4", "never", "Open a nostril in the outline, or agree in the brief that the mouth stays free and draw it free.", "Both nostrils lie under %s and no free mouth is agreed.", by(left, right))
	case !mouth.Pass && !(left.Pass && right.Pass):
		say("SAF-4", "never", "Leave both nostrils free, or the mouth.", "The mouth lies under %s, and a nostril is not free.", by(mouth, left, right))
	case (!left.Pass || !right.Pass) && !left.Asked: // else the brief's own word decides, below
		say("SAF-4", "warn", "Open it if the look allows; else tell the wearer to breathe through the mouth and check in often.", "A nostril lies under %s.", by(left, right))
	}
	if w.out.Sight != "both" || w.out.Hearing != "both" {
		what := map[bool]string{true: "hearing", false: "sight"}[w.out.Sight == "both"]
		if w.out.Sight != "both" && w.out.Hearing != "both" {
			what = "sight and hearing"
		}
		say("SAF-5", "warn", "Somebody walks beside the performer, agrees on a signal, and knows the quick way off.", "It takes away %s: sees with %s, hears with %s.", what, words(w.out.Sight, "eye"), words(w.out.Hearing, "ear"))
	}
	w.judgeAsked(say)
	for _, o := range w.out.Overlaps {
		if o.CM2 >= overlapCM2 {
			say("SEQ-7", "tip", "Fit the one that lies below first.", "%s and %s share %.1f cm² of skin.", o.A, o.B, o.CM2)
		}
	}
	for _, g := range w.out.Gaps {
		if !g.Pass {
			say("MAP-2", "warn", "Leave a gap, or let them overlap.", "%s and %s stand %.1f mm apart where the wearer moves; under %.0f mm they rub.", g.A, g.B, g.MM, movingGapMM)
		}
	}
	for _, h := range w.out.Hair {
		if h.How == "keep free" {
			say("MAP-3", "stop", "Draw the edge beside it.", "%.1f cm² of %s lie under it, and shall stay free.", h.CM2, nameOf(h.Text))
		} else if h.How != "shaved" && h.By == "" {
			say("LAT-4", "warn", "Say on the map what it is protected with: grease, a cap, a film.", "%.1f cm² of %s lie under it and nothing protects it yet.", h.CM2, nameOf(h.Text))
		}
	}
}

// organs are openings that stand for one another: while one of them that was
// asked for is free, the brief's word is half kept.
var organs = []struct {
	name, rule string
	of         []string
}{
	{"nose", "SAF-4", []string{"left nostril", "right nostril"}}, {"mouth", "MAP-1", []string{"mouth"}},
	{"sight", "MAP-1", []string{"left eye", "right eye"}}, {"hearing", "MAP-1", []string{"left ear", "right ear"}},
}

// judgeAsked holds the map to the brief's own word: all closed of what was to
// stay free is never, some of it a lead may sign.
func (w *worker) judgeAsked(say func(id, severity, remedy, reason string, args ...any)) {
	for _, organ := range organs {
		var asked, closed []Opening
		for _, o := range w.out.Openings {
			if o.Asked && slices.Contains(organ.of, o.Name) {
				asked = append(asked, o)
				if !o.Pass {
					closed = append(closed, o)
				}
			}
		}
		if len(closed) == 0 {
			continue
		}
		if len(closed) == len(asked) {
			var codes []string
			for _, o := range closed {
				codes = append(codes, o.Covered...)
			}
			slices.Sort(codes)
			say(organ.rule, "never", "Move the outline, cut a hole, or change what the brief asks for, with the wearer's word.", "The brief says that the %s stays free, and %s closes it.", organ.name, strings.Join(slices.Compact(codes), ", "))
			continue
		}
		for _, o := range closed {
			say("MAP-1", "stop", "Move the outline, cut a hole, or change what the brief asks for.", "The brief asks for a free %s; %s covers %.0f %% of it.", o.Name, strings.Join(o.Covered, ", "), 100*(1-o.Open))
		}
	}
}

func (w *worker) judgeKeepOut(say func(id, severity, remedy, reason string, args ...any)) {
	s, err := w.sheets("head")
	if err != nil {
		return
	}
	for _, z := range s.KeepOut() {
		eye := form.Follow(z.Outline)
		for i := range w.bodies {
			b := &w.bodies[i]
			if b.piece != 0 || b.mark.Sheet != "head" || eye.Apart(b.patch) {
				continue
			}
			if a := cm2(s.AreaOf(eye, b.covers)); a >= touchesCM2 {
				w.out.KeepOut = append(w.out.KeepOut, Reach{z.Name, a})
				say("SAF-3", "warn", "Draw the edge clear of it, or cut a hole. Nothing liquid, no solvent, glue or hot mass ever inside it; what only lies over it goes on dry, eyes shut, rinse ready.", "%.1f cm² reach into the keep-out of the %s.", a, z.Name)
			}
		}
	}
}

func words(side, organ string) string {
	switch side {
	case "both":
		return "both " + organ + "s"
	case "none":
		return "no " + organ
	default:
		return "the " + side + " " + organ
	}
}

func nameOf(text string) string {
	if text == "" {
		return "hair"
	}
	return text
}
