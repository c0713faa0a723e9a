package mouldmath

import "fmt"

const minute = 60.0

// place lists what has to be placed before the first pour (handbook, scans and
// moulds, section 12).
func (s *Sheet) place(o Order) {
	add := func(key, text, why string) { s.Items = append(s.Items, Item{key, text, why}) }
	add("base", "Sculpt checked through its gate, base sealed to the board", "what creeps under it lifts the edge")
	if o.Parts > 1 || o.Core {
		add("keys", "3 or 4 round keys, 12 to 20 mm wide, a third to half as deep, 15 mm off the cavity, not evenly set", "so that the parts go together one way only")
		add("edge", "Cutting edge 3 to 5 mm wide and an overflow channel round the appliance", "the edge of the piece is as thin as this closes")
	}
	if o.Parts > 1 {
		add("wall", "Parting wall along the parting line, smooth, at right angles to the sculpt", "a ragged wall is a seam to clean on every cast")
	}
	switch o.Kind {
	case Injection:
		add("port", "Injection port at the lowest hidden place, as wide as the nozzle", "foam and silicone fill upwards")
		add("bleeds", "Bleed holes of 2 to 3 mm at every high point, 15 mm or more apart", "caught air is a hole in the cast")
	case Liner:
		add("pour", "Pour hole of 15 mm at the highest place of the jacket", "the silicone runs in by itself")
		add("bleeds", "Vents of 2 to 3 mm at the other high points, plugged as they run", "caught air is a hole in the silicone")
	case Plate:
		add("level", "Board level, box walls 10 mm above the sculpt", "the back of the mould is its foot")
	}
	if o.Kind == Glove || o.Kind == Liner {
		add("lugs", "Lugs or a cord of silicone on the glove where the jacket holds it", "a glove that sags casts a sagging piece")
	}
	add("pry", "Two or more prying slots at the part line, away from the appliance", "forced open elsewhere it chips")
	add("mark", "Code and date scratched or written into every part", "parts are lost and mixed up")
}

// work is the order of building. Minutes of hands are ours, for a piece of the
// size of a face; they do not learn from the log yet.
func (s *Sheet) work(o Order, st, jacket Stuff) {
	n := 0
	add := func(text string, hands, wait float64, what, mind string) {
		n++
		s.Steps = append(s.Steps, Step{fmt.Sprintf("s%d", n), text, hands * minute, wait, what, mind})
	}
	size := max(0.5, o.Body.AreaMM2/60000) // against a face of 600 cm²
	add("Wall the board, place keys and cutting edge, seal and release", 40*size, 0, "", "")
	set := setS(st, o)
	switch o.Kind {
	case Glove, Liner:
		if o.Kind == Glove {
			coats := max(2, int(o.WallMM/4+0.5))
			add("Brush on a thin first coat of silicone, blow the bubbles off the detail", 20*size, set/6, "tacky", "Watch the pot life; weigh small mixes.")
			for i := 2; i <= coats; i++ {
				add(fmt.Sprintf("Coat %d of %d, thickened, up to %g mm in all", i, coats, o.WallMM), 15*size, set/6, "tacky", "")
			}
			add("Trim, set lugs, leave to cure", 10, set, "cured", "")
		} else {
			add(fmt.Sprintf("Lay clay %g mm thick over foil on the sculpt, smooth, with keys", o.WallMM), 60*size, 0, "", "")
		}
		s.shell(add, o, jacket, size)
		if o.Kind == Liner {
			add("Open the jacket, take the clay out, clean, close over the sculpt", 35*size, 0, "", "")
			add("Pour the silicone in a thin stream into the lowest hole until it stands in every vent", 15*size, set, "cured", "Stop when it does not rise: it runs out somewhere.")
		}
		add("Open the jacket, peel the glove, lift the sculpt out, wash", 30*size, 0, "", "")
		if st.Name == SiliconeTin {
			add("Rest the silicone open in the air before addition silicone is cast in it", 0, 24*3600, "the catalyst's alcohol leaves", "")
		}
	default:
		each := o.Parts
		for i := 1; i <= each; i++ {
			text := fmt.Sprintf("Part %d of %d: wall, separate, mix, splash a first coat into the detail, fill", i, each)
			if st.Name == Glass {
				text = fmt.Sprintf("Part %d of %d: gel coat, then %d layers of glass, each wetted through", i, each, o.Layers)
			}
			what, mind := "set and cool again", ""
			if st.Gypsum {
				mind = "It gets hot while it sets: never round a hand, limb or head."
			} else if st.Gives {
				what = "cured"
			}
			add(text, 30*size, set*1.5, what, mind)
		}
		if o.Core && o.CoreOf != "" {
			add("Cast the core into the closed mould, drill its bleeds", 30*size, set*1.5, "set and cool again", "")
		}
		add("Open along the prying slots, lift the sculpt out, wash the clay off", 35*size, 0, "", "")
		if st.Gypsum {
			add("Weigh every part together, straight after; stand them on laths in moving air", 5, 0, "dry, by the scale", "")
		}
	}
	add("Look the mould over: bubbles filled, edges eased, code on every part", 15*size, 0, "", "")
}

// shell is how a jacket is laid up in two halves.
func (s *Sheet) shell(add func(text string, hands, wait float64, what, mind string), o Order, jacket Stuff, size float64) {
	wait := jacket.DemouldH * 3600
	switch jacket.Name {
	case Glass:
		for i := 1; i <= 2; i++ {
			add(fmt.Sprintf("Jacket half %d of 2: release, %d layers of %g g/m² glass, flange along the seam", i, o.Layers, o.GSM), 40*size, wait, "hard", "Extraction, gloves and respirator; resin gets hot in the cup.")
		}
		add("Drill and bolt the flange", 15, 0, "", "Glass dust: extraction and respirator.")
	case Bandage:
		add(fmt.Sprintf("Jacket in two halves, %d layers of bandage with ribs", max(o.Layers, 3)), 35*size, wait, "hard", "Only over the silicone, never bare on skin.")
	default:
		add("Jacket in two halves of gypsum with burlap, 20 mm or more", 45*size, wait, "set and cool again", "")
	}
}

// caution gathers what can hurt somebody in building the mould.
func (s *Sheet) caution(stuffs ...Stuff) {
	said := map[string]bool{}
	add := func(text string) {
		if !said[text] {
			said[text] = true
			s.Cautions = append(s.Cautions, text)
		}
	}
	for _, st := range stuffs {
		switch {
		case st.Gypsum:
			add("Setting gypsum gets hot enough to burn: never enclose a hand, limb or head in it (SAF-13). Powder: dust mask, and sand it wet.")
			add("No gypsum down the sink: let it set in the bucket.")
		case st.Name == Glass:
			add("Resin and glass: trained people only, extraction, nitrile gloves, respirator of the right class, no flame. The data sheet and local codes decide.")
		case st.Gives && st.Name != "":
			add("Nitrile gloves, never latex ones: latex stops addition silicone curing. Catalysts irritate: goggles. Read the safety data sheet first.")
		}
	}
}
